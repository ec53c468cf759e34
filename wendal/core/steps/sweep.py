"""Sweep: profiles carried along a path of sketch curves."""

from __future__ import annotations

import math
from types import SimpleNamespace
from typing import Annotated, Literal

from .. import kernel
from ..blanks import Choice, Name, Pick
from ..errors import StepError
from ..kernel.types import Frame, Segment, Vec, dot, minus
from ..reference import ThingRef
from .base import Effect, Site, register
from .building import RESULT, WALL, WallStep
from .profiles import ChainFound, segment_of

__all__ = ["Sweep"]

NEAR = 1e-6  # mm: a path that begins nearer than this to the profile's plane begins in it
ASLANT = 1e-3  # of 1: a path that leaves nearer than this to the profile's plane runs along it


@register
class Sweep(WallStep):
    """Profiles carried along a path that begins in their plane: a new body, added to one, or cut from one."""

    title, key = "Sweep", "b w"
    explains = "Carry regions or flat faces along a path of sketch curves."
    sentence = "Sweep {name}: {profile} along {path}, {turning}" + WALL + RESULT

    kind: Literal["sweep"] = "sweep"
    name: Annotated[str, Name(label="name")]
    path: Annotated[ThingRef | None, Pick(label="path", accepts=("drawn",), needs="a path: a curve of a sketch, with all that joins on to it")] = None
    turning: Annotated[Literal["turned", "parallel"], Choice(label="turning", words={
        "turned": "turning with it", "parallel": "kept parallel"}, turns=("turned", "parallel"))] = "turned"

    def effects(self, given: SimpleNamespace, site: Site) -> list[Effect]:
        """Carry every profile along the path."""
        path: ChainFound = given.path
        tools = []
        for found in given.profile:
            segments = _from(path, found.frame)
            tools += [kernel.swept(profile, found.frame, segments, path.frame, path.closed, self.id, self.turning == "parallel")
                      for profile in self.profiles(found, given)]
        if not tools:
            raise StepError("There is nothing to sweep: the sketch has no closed region.", field="profile")
        return [self.effect(tools, given)]


def _from(path: ChainFound, plane: Frame) -> list[Segment]:
    """Return the path from its end in the profile's plane on; raises StepError where none is."""
    pieces = path.pieces
    if path.closed:
        starts = [i for i, p in enumerate(pieces) if _off(path.frame.at(*p.start), plane) < NEAR]
        if not starts:
            raise StepError("No corner of this closed path lies in the profile's plane. Put one there, or draw the profile where there is one.",
                            field="path")
        pieces = [*pieces[starts[0] :], *pieces[: starts[0]]]
    elif _off(path.frame.at(*pieces[0].start), plane) >= NEAR:
        if _off(path.frame.at(*pieces[-1].end), plane) >= NEAR:
            raise StepError("The path does not begin in the profile's plane. Draw its end there, or the profile on a plane at its end.",
                            field="path")
        pieces = [p.reversed() for p in reversed(pieces)]
    first, second, *_ = [*pieces[0].polyline(), pieces[0].end]
    ahead = minus(path.frame.at(*second), path.frame.at(*first))
    if abs(dot(ahead, plane.normal)) < ASLANT * math.sqrt(dot(ahead, ahead)):
        raise StepError("The path runs along the profile's plane at its beginning, so nothing is swept. Let it leave the plane.",
                        field="path")
    return [segment_of(p) for p in pieces]


def _off(place: Vec, plane: Frame) -> float:
    return abs(dot(minus(place, plane.origin), plane.normal))
