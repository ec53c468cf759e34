"""Solids through profiles that stand one after the other."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Any

from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeVertex
from OCP.BRepOffsetAPI import BRepOffsetAPI_ThruSections
from OCP.TopAbs import TopAbs_ShapeEnum
from OCP.TopoDS import TopoDS_Edge, TopoDS_Shape, TopoDS_Wire

from ..errors import StepError
from ..tolerance import MEETS
from .boolean import cut
from .enclosing import check_enclosing
from .extrusion import wire_of
from .flattening import flattened
from .named import NamedShape
from .query import check_solid, runs_into_itself
from .refusing import refused_as
from .shapes import listed, map_of, point, shape_map
from .types import Frame, Profile, Segment, Vec, cross, dot, minus, scaled, turned

__all__ = ["Lofting", "lofted"]

CLEAR = 1.3  # by so much the next best way to match corners must be worse than the best
SQUARE = 1e-3  # of the way between two sections: how far a doubled end section stands off
Loop = list[Segment]


@dataclass(frozen=True, slots=True)
class Lofting:
    """How sections are joined. ruled : straight from one to the next. ring : the last is joined to the first.

    start, end : places (mm) where it begins or ends at a point. square : it leaves its first and last section
    squarely. corners : for every section the place of the corner that belongs to those of the others; none:
    matched by where they lie.
    """

    ruled: bool = False
    ring: bool = False
    start: Vec | None = None
    end: Vec | None = None
    square: bool = False
    corners: tuple[Vec, ...] = ()


def lofted(sections: list[tuple[Profile, Frame]], how: Lofting, prefix: str) -> NamedShape:
    """Make a solid through the outlines of profiles, corner to corner; holes are lofted hole to hole.

    All outlines run the same way round, each from the corner that belongs to the first one's first: the
    picked one, or the one that lies best over it; where that is not clear it is refused. Sides are named by
    what they join: `prefix/side/<segment>.<segment>…/ <profile>` (ruled: those of their gap, with its
    number). Raises StepError.
    """
    if len({len(profile.loops) for profile, _ in sections}) > 1:
        raise StepError(
            "The regions have different numbers of holes, so it is not clear how these go on. Loft the "
            "outlines, and cut the holes by lofts "
            "of their own.",
            field="profile",
        )
    frames = [frame for _, frame in sections]
    name = sections[0][0].name
    outer = _through([profile.loops[0] for profile, _ in sections], frames, how, prefix, name)
    holes = []
    for loops in _holes(sections):
        holes.append(_through(loops, frames, replace(how, corners=()), prefix, name))
    made = cut(outer, holes, merge=False) if holes else outer
    try:
        check_solid(made)
        check_enclosing(made)
    except StepError as error:
        raise StepError(TWISTED, field="profile") from error
    if runs_into_itself(made):
        raise StepError(TWISTED, field="profile")
    return made


def _holes(sections: list[tuple[Profile, Frame]]) -> list[list[Loop]]:
    """Return the holes of the first section, each with those of the others that lie best over it."""
    chains = [[hole] for hole in sections[0][0].loops[1:]]
    for i in range(1, len(sections)):
        profile, frame = sections[i]
        before = sections[i - 1][1]
        rest = list(profile.loops[1:])
        for chain in chains:
            at = _middle(chain[-1], before)
            best = min(rest, key=lambda loop: math.dist(_middle(loop, frame), at))
            rest = [loop for loop in rest if loop is not best]
            chain.append(best)
    return chains


def _middle(loop: Loop, frame: Frame) -> Vec:
    places = (
        [frame.at(*s.start) for s in loop]
        if len(loop) > 1 or loop[0].centre is None
        else [frame.at(*loop[0].centre)]
    )
    return scaled(
        (sum(p[0] for p in places), sum(p[1] for p in places), sum(p[2] for p in places)), 1 / len(places)
    )


def _through(loops: list[Loop], frames: list[Frame], how: Lofting, prefix: str, name: str) -> NamedShape:
    if len({len(loop) for loop in loops}) > 1:
        raise StepError(
            f"The outlines have different numbers of sides ({', '.join(str(len(loop)) for loop in loops)}), "
            "so it is not clear which "
            "corners belong together. Break a side where a corner of the other belongs.",
            field="profile",
        )
    matched = _matched(loops, frames, how.corners, how.ring)
    ends = matched, frames
    if how.square and not how.ruled and not how.ring:
        ends = _doubled(matched, frames, how)
    if how.ring:
        ends = [*matched, matched[0]], [*frames, frames[0]]
    maker: Any = BRepOffsetAPI_ThruSections(True, how.ruled, MEETS)
    maker.CheckCompatibility(False)
    if how.start is not None:
        maker.AddVertex(BRepBuilderAPI_MakeVertex(point(how.start)).Vertex())
    wires = [wire_of(loop, frame, True) for loop, frame in zip(*ends, strict=True)]
    if how.ring:
        wires[-1] = wires[0]
    for wire, _ in wires:
        maker.AddWire(wire)
    if how.end is not None:
        maker.AddVertex(BRepBuilderAPI_MakeVertex(point(how.end)).Vertex())
    with refused_as(lambda: StepError(TWISTED, field="profile")):
        maker.Build()
        shape = maker.Shape()
    found = NamedShape.collect(shape, _named_faces(maker, shape, wires, matched, how, prefix, name))
    if not all(found.names):
        raise StepError(TWISTED, field="profile")
    return flattened(found)


def _named_faces(
    maker: Any,
    shape: TopoDS_Shape,
    wires: Sequence[tuple[TopoDS_Wire, Sequence[TopoDS_Edge]]],
    matched: list[Loop],
    how: Lofting,
    prefix: str,
    name: str,
) -> list[tuple[TopoDS_Shape, frozenset[str]]]:
    """Name the caps, and every side by the segments that it runs along; of several sections, by the gap,
    too."""
    present = shape_map(shape, TopAbs_ShapeEnum.TopAbs_FACE)
    named: list[tuple[TopoDS_Shape, frozenset[str]]] = []
    for word, cap in (("start", maker.FirstShape()), ("end", maker.LastShape())):
        if not cap.IsNull() and present.Contains(cap):
            named.append((cap, frozenset({f"{prefix}/{word}/{name}"})))
    made = [
        [[f for f in listed(maker.Generated(edge)) if present.Contains(f)] for _, edge in edges]
        for _, edges in wires
    ]
    several = how.ruled and len(wires) + (how.start is not None) + (how.end is not None) > 2
    for k in range(len(matched[0])):
        joined = ".".join(dict.fromkeys(loop[k].name for loop in matched))
        rows = [map_of(row[k]) for row in made]
        for i, row in enumerate(made):
            for face in row[k]:
                # Which two sections it lies between.
                gap = i if i + 1 < len(rows) and rows[i + 1].Contains(face) else i - 1
                role = f"{joined}.{gap + (how.start is not None) + 1}" if several else joined
                named.append((face, frozenset({f"{prefix}/side/{role}/{name}"})))
    return named


def _doubled(loops: list[Loop], frames: list[Frame], how: Lofting) -> tuple[list[Loop], list[Frame]]:
    """Repeat the first and last section a little further along their planes' normals: the solid leaves them
    squarely."""
    first, last = _middle(loops[0], frames[0]), _middle(loops[-1], frames[-1])
    after, before = _middle(loops[1], frames[1]), _middle(loops[-2], frames[-2])
    found, planes = list(loops), list(frames)
    if how.end is None:
        n = frames[-1].normal
        way = SQUARE * math.dist(before, last) * (1 if dot(minus(before, last), n) > 0 else -1)
        found.insert(len(found) - 1, loops[-1])
        planes.insert(len(planes) - 1, frames[-1].raised(way))
    if how.start is None:
        n = frames[0].normal
        way = SQUARE * math.dist(first, after) * (1 if dot(minus(after, first), n) > 0 else -1)
        found.insert(1, loops[0])
        planes.insert(1, frames[0].raised(way))
    return found, planes


def _matched(loops: list[Loop], frames: list[Frame], corners: tuple[Vec, ...], ring: bool) -> list[Loop]:
    """Return the outlines run the same way round, from corners on that belong together."""
    ways = _ways(loops, frames, ring)
    found = [_from_corner(loops[0], frames[0], corners[0]) if corners else loops[0]]
    for i in range(1, len(loops)):
        loop = loops[i]
        seen = [dot(ways[k], frames[k].normal) for k in (i - 1, i)]
        if seen[0] * seen[1] * _sense(found[-1]) * _sense(loop) < 0:
            loop = [_reversed(s) for s in reversed(loop)]
        if corners:
            found.append(_from_corner(loop, frames[i], corners[i]))
        else:
            found.append(
                _best_over(
                    _turned(_places(found[-1], frames[i - 1]), ways[i - 1], ways[i]),
                    _places(loop, frames[i]),
                    loop,
                )
            )
    return found


def _ways(loops: list[Loop], frames: list[Frame], ring: bool) -> list[Vec]:
    """Return for every section its plane's normal, turned to where the solid goes on to."""
    middles = [_middle(loop, frame) for loop, frame in zip(loops, frames, strict=True)]
    n, found = len(middles), []
    for i, frame in enumerate(frames):
        before, after = (
            (middles[i - 1], middles[(i + 1) % n])
            if ring
            else (middles[max(i - 1, 0)], middles[min(i + 1, n - 1)])
        )
        found.append(
            frame.normal if dot(frame.normal, minus(after, before)) >= 0 else scaled(frame.normal, -1.0)
        )
    return found


def _turned(places: list[Vec], before: Vec, after: Vec) -> list[Vec]:
    """Return places turned as one direction turns into another, the shortest way."""
    axis, c = cross(before, after), dot(before, after)
    size = math.sqrt(dot(axis, axis))
    return (
        [turned(p, scaled(axis, 1 / size), math.atan2(size, c)) for p in places] if size > MEETS else places
    )


def _sense(loop: Loop) -> float:
    """Return the sign of the area that an outline runs round, positive counter-clockwise."""
    if len(loop) == 1:
        return 1.0 if loop[0].t1 >= loop[0].t0 else -1.0
    area = sum(s.start[0] * s.end[1] - s.end[0] * s.start[1] for s in loop)
    return 1.0 if area >= 0 else -1.0


def _from_corner(loop: Loop, frame: Frame, at: Vec) -> Loop:
    k = next((k for k, s in enumerate(loop) if math.dist(frame.at(*s.start), at) < MEETS), None)
    if k is None:
        raise StepError(
            "A picked point is no corner of its region. Pick one corner of every region, in the same order "
            "as the regions.",
            field="corners",
        )
    return [*loop[k:], *loop[:k]]


def _best_over(one: list[Vec], other: list[Vec], loop: Loop) -> Loop:
    n = len(loop)
    scores = sorted((sum(math.dist(one[i], other[(i + k) % n]) ** 2 for i in range(n)), k) for k in range(n))
    if n > 1 and scores[1][0] < CLEAR * scores[0][0]:
        raise StepError(
            "It is not clear which corners of these outlines belong together: they are turned too far "
            "against each other. Add chosen corners, "
            "and pick one in every region.",
            field="profile",
        )
    best = scores[0][1]
    return [*loop[best:], *loop[:best]]


def _reversed(s: Segment) -> Segment:
    return replace(s, start=s.end, end=s.start, t0=s.t1, t1=s.t0)


def _places(loop: Loop, frame: Frame) -> list[Vec]:
    """Return the corners as seen from their common middle, mm in space."""
    places = [frame.at(*s.start) for s in loop]
    middle = scaled(
        (sum(p[0] for p in places), sum(p[1] for p in places), sum(p[2] for p in places)), 1 / len(places)
    )
    return [minus(p, middle) for p in places]


TWISTED = (
    "The kernel could not make a sound solid through these outlines: it would run into itself. Look at "
    "their order, and whether "
    "the corners that belong together lie over each other."
)
