"""What building steps push, turn and hollow: regions and texts of sketches, whole sketches, flat faces of bodies."""

from __future__ import annotations

import hashlib
from dataclasses import dataclass, field
from typing import TYPE_CHECKING

from ..blanks import WORDS
from ..kernel.types import Frame, Profile, Segment, Topology
from ..reference import FaceName
from ..sketch import BezierPath, EllipsePath, Piece, Region, SplinePath

if TYPE_CHECKING:
    from ..kernel import NamedShape

__all__ = ["FaceFound", "ProfileFound", "RegionFound"]


@dataclass(frozen=True, slots=True)
class RegionFound:
    """A region that a reference found, the pieces of a text, or all regions of a sketch.

    key : its number within the step. frame : the sketch's. whole : all regions of a sketch, each named by the sides that bound it.
    """

    key: str
    frame: Frame
    pieces: list[Region]
    whole: bool = False
    words: str = field(default="", metadata=WORDS)

    def profiles(self) -> list[Profile]:
        """Return the pieces as profiles with a name each."""
        return [Profile(name, [[_segment(piece) for piece in loop] for loop in (region.outer, *region.holes)])
                for name, region in self._named()]

    def outlines(self) -> list[list[tuple[float, float]]]:
        """Return the outer outlines as places close to each other, mm in the frame."""
        return [region.outline()[0] for region in self.pieces]

    def _named(self) -> list[tuple[str, Region]]:
        if self.whole:
            return [(f"{self.key}.{hashlib.blake2b(' '.join(sorted(r.sides)).encode(), digest_size=4).hexdigest()}", r) for r in self.pieces]
        if len(self.pieces) == 1:
            return [(self.key, self.pieces[0])]
        return [(f"{self.key}.{i}", piece) for i, piece in enumerate(self.pieces)]


@dataclass(frozen=True, slots=True)
class FaceFound:
    """A flat face of a body that a reference found. content : tells all of it."""

    key: str
    frame: Frame
    content: str
    shape: NamedShape = field(compare=False, repr=False)
    topology: Topology = field(compare=False, repr=False)
    index: int = field(compare=False)

    def profiles(self) -> list[Profile]:
        """Return the face as a profile; its sides are named by the faces beyond its edges."""
        sources = {}
        for i, edge in enumerate(self.topology.edges):
            other = [f for f in edge.faces if f != self.index]
            if self.index in edge.faces and other:
                sources[i] = FaceName.as_source(min(self.topology.faces[other[0]].names))
        return [Profile(self.key, [], (self.shape, self.index, sources))]

    def outlines(self) -> list[list[tuple[float, float]]]:
        """Return the corners and middles of its edges, mm in the frame."""
        places = [p for e in self.topology.edges if self.index in e.faces for p in (e.start, e.middle)]
        return [[self.frame.local(p)[:2] for p in places]]


ProfileFound = RegionFound | FaceFound


def _segment(piece: Piece) -> Segment:
    path = piece.path
    if isinstance(path, EllipsePath):
        return Segment(piece.curve, piece.start, piece.end, path.base, path.other, piece.t0, piece.t1, path.direction, away=path.away)
    if isinstance(path, SplinePath):
        shape = path.shapes[0]
        poles = tuple((float(x), float(y)) for x, y in shape.c)
        return Segment(piece.curve, piece.start, piece.end, None, 0.0, piece.t0, piece.t1, None,
                       tuple(float(t) for t in shape.t), poles, shape.k, path.away)
    if isinstance(path, BezierPath):
        count = len(path.controls)
        return Segment(piece.curve, piece.start, piece.end, None, 0.0, piece.t0, piece.t1, None,
                       (0.0,) * count + (1.0,) * count, path.controls, count - 1)
    if not path.radius:
        return Segment(piece.curve, piece.start, piece.end)
    return Segment(piece.curve, piece.start, piece.end, path.base, path.radius, piece.t0, piece.t1)
