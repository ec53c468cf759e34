"""What building steps push, turn and hollow: regions and texts of sketches, whole sketches, flat faces of
bodies."""

from __future__ import annotations

import hashlib
import math
from collections.abc import Iterable
from dataclasses import dataclass, field, replace
from typing import TYPE_CHECKING

from ..blanks import WORDS
from ..errors import StepError
from ..kernel.types import Frame, Profile, Segment, Topology, Vec, said_at
from ..reference import FaceName, own_names
from ..sketch import (
    BezierPath,
    Drawing,
    EllipsePath,
    Piece,
    Region,
    SplinePath,
    beside,
    find_regions,
    gone_on,
)

if TYPE_CHECKING:
    from ..kernel import NamedShape

__all__ = [
    "ChainFound",
    "FaceFound",
    "ProfileFound",
    "RegionFound",
    "middle_of",
    "nothing_closed",
    "segment_of",
]


def middle_of(found: ProfileFound, frame: Frame) -> Vec:
    """Return a place in the middle of a profile's outline, in a frame."""
    outline = found.outlines()[0]
    return frame.at(sum(p[0] for p in outline) / len(outline), sum(p[1] for p in outline) / len(outline))


def nothing_closed(doing: str, given: list[ProfileFound]) -> StepError:
    """Return what to say where sketches have no closed region: the narrowest gap of an outline, if there is
    one. doing : what it is wanted for."""
    open_ends = [
        (gap, found.frame.at(*at))
        for found in given
        if isinstance(found, RegionFound) and found.drawing
        for _, at, gap in find_regions(found.drawing).open_ends
    ]
    text = f"There is nothing to {doing}: the sketch has no closed region."
    if open_ends:
        gap, at = min(open_ends)
        where = f"near {said_at(at)}"
        text += (
            f" Two ends of its outline are {gap:.4g} mm apart {where}. Join them on the drawing board."
            if math.isfinite(gap)
            else f" An end of its outline stands alone {where}. Close it on the drawing board."
        )
    return StepError(text, field="profile")


@dataclass(frozen=True, slots=True)
class RegionFound:
    """A region that a reference found, the pieces of a text, or all regions of a sketch.

    key : its number within the step. frame : the sketch's. whole : all regions of a sketch, each named by the
    sides that bound it; by_first : by that alone which was drawn first.
    """

    key: str
    frame: Frame
    pieces: list[Region]
    whole: bool = False
    by_first: bool = False
    drawing: Drawing | None = field(default=None, compare=False, repr=False)
    words: str = field(default="", metadata=WORDS)

    def profiles(self) -> list[Profile]:
        """Return the pieces as profiles with a name each."""
        return [
            Profile(name, [[segment_of(piece) for piece in loop] for loop in (region.outer, *region.holes)])
            for name, region in self._named()
        ]

    def walls(self, left: float, right: float) -> list[Profile]:
        """Return a wall along every outline: so far into the material, and so far out of it, mm."""
        found = []
        for name, region in self._named():
            for i, loop in enumerate((region.outer, *region.holes)):
                inner, outer = (
                    _named(_beside(self.drawing, loop, True, d), word)
                    for d, word in ((left, "inside"), (-right, "outside"))
                )
                loops = (
                    [outer, _turned(inner)] if not i else [_turned(inner), outer]
                )  # counter-clockwise first
                found.append(
                    Profile(f"{name}.h{i}" if i else name, [[segment_of(p) for p in ring] for ring in loops])
                )
        return found

    def outlines(self) -> list[list[tuple[float, float]]]:
        """Return the outer outlines as places close to each other, mm in the frame."""
        return [region.outline()[0] for region in self.pieces]

    def _named(self) -> list[tuple[str, Region]]:
        if self.whole:
            call = _first if self.by_first else _digest
            return [(f"{self.key}.{call(r.sides)}", r) for r in self.pieces]
        if len(self.pieces) == 1:
            return [(self.key, self.pieces[0])]
        return [(f"{self.key}.{i}", piece) for i, piece in enumerate(self.pieces)]


@dataclass(frozen=True, slots=True)
class ChainFound:
    """A chain of sketch curves that a reference found. key : the curve it was picked by."""

    key: str
    frame: Frame
    pieces: list[Piece]
    closed: bool
    drawing: Drawing = field(compare=False, repr=False)

    def profiles(self) -> list[Profile]:
        """A chain encloses nothing; raises StepError that says what to do."""
        raise StepError(
            "A chain of lines is built from as a wall: add + wall and its thickness, or pick a closed "
            "region.",
            field="profile",
        )

    def walls(self, left: float, right: float) -> list[Profile]:
        """Return the wall along it: so far to its left, and so far to its right, mm."""
        one, other = (
            _named(_beside(self.drawing, self.pieces, self.closed, d), word)
            for d, word in ((left, "left"), (-right, "right"))
        )
        if self.closed:
            ccw = sum(p.area() for p in self.pieces) > 0
            rings = [other, _turned(one)] if ccw else [_turned(one), other]
            return [Profile(self.key, [[segment_of(p) for p in ring] for ring in rings])]
        ends = [
            Segment("last end", other[-1].end, one[-1].end),
            Segment("first end", one[0].start, other[0].start),
        ]
        return [
            Profile(self.key, [[*map(segment_of, other), ends[0], *map(segment_of, _turned(one)), ends[1]]])
        ]

    def gone_on(self, by: float) -> ChainFound:
        """Return the chain with both ends gone on straight by mm; a closed one as it is."""
        if self.closed:
            return self
        pieces = gone_on(self.pieces, by)
        return replace(self, pieces=_turned(gone_on(_turned(pieces), by, "before")))

    def outlines(self) -> list[list[tuple[float, float]]]:
        """Return the chain as places close to each other, mm in the frame."""
        return [[q for p in self.pieces for q in [*p.polyline(), p.end]]]


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
                sources[i] = FaceName.as_source(min(own_names(self.topology.faces[other[0]].names)))
        return [Profile(self.key, [], (self.shape, self.index, sources))]

    def walls(self, left: float, right: float) -> list[Profile]:
        """A face of a body makes no wall here; raises StepError that says what to do."""
        raise StepError(
            "A wall is built along a region or chain of a sketch. Project the face into a sketch first.",
            field="profile",
        )

    def outlines(self) -> list[list[tuple[float, float]]]:
        """Return the corners and middles of its edges, mm in the frame."""
        places = [p for e in self.topology.edges if self.index in e.faces for p in (e.start, e.middle)]
        return [[self.frame.local(p)[:2] for p in places]]


ProfileFound = RegionFound | FaceFound | ChainFound


def _beside(drawing: Drawing | None, pieces: list[Piece], closed: bool, d: float) -> list[Piece]:
    assert drawing is not None
    found = beside(drawing, pieces, closed, d)
    if found is None:
        raise StepError(
            "At this thickness a side of the wall would shrink to nothing or run into itself. Make it "
            "thinner.",
            field="thickness",
        )
    return found


def _named(pieces: list[Piece], word: str) -> list[Piece]:
    return [Piece(f"{p.curve}.{word}", p.path, p.t0, p.t1) for p in pieces]


def _turned(pieces: list[Piece]) -> list[Piece]:
    """Return a chain run the other way."""
    return [p.reversed() for p in reversed(pieces)]


def segment_of(piece: Piece) -> Segment:
    """Return a piece of a drawing as a side of a profile."""
    path = piece.path
    if isinstance(path, EllipsePath):
        return Segment(
            piece.curve,
            piece.start,
            piece.end,
            path.base,
            path.other,
            piece.t0,
            piece.t1,
            path.direction,
            away=path.away,
        )
    if isinstance(path, SplinePath):
        shape = path.shapes[0]
        poles = tuple((float(x), float(y)) for x, y in shape.c)
        return Segment(
            piece.curve,
            piece.start,
            piece.end,
            None,
            0.0,
            piece.t0,
            piece.t1,
            None,
            tuple(float(t) for t in shape.t),
            poles,
            shape.k,
            path.away,
        )
    if isinstance(path, BezierPath):
        count = len(path.controls)
        return Segment(
            piece.curve,
            piece.start,
            piece.end,
            None,
            0.0,
            piece.t0,
            piece.t1,
            None,
            (0.0,) * count + (1.0,) * count,
            path.controls,
            count - 1,
        )
    if not path.radius:
        return Segment(piece.curve, piece.start, piece.end)
    return Segment(piece.curve, piece.start, piece.end, path.base, path.radius, piece.t0, piece.t1)


def _digest(sides: Iterable[str]) -> str:
    """Return a short name of a region by its sides, in whatever order."""
    return hashlib.blake2b(" ".join(sorted(sides)).encode(), digest_size=4).hexdigest()


def _first(sides: Iterable[str]) -> str:
    """Return a region's name by the side that was drawn first; no other region has it. Letters of a text, of
    which the sides are no curves, are named by all."""
    held = list(sides)
    curves = {s: int(s[1:-1]) for s in held if s[0] == "c" and s[1:-1].isdigit()}
    if len(curves) < len(held):
        return _digest(held)
    first = min(held, key=lambda s: (curves[s], s))
    return f"{first[:-1]}{'left' if first[-1] == '+' else 'right'}"
