"""Solids through profiles that stand one after the other."""

from __future__ import annotations

import math
from typing import Any

from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeVertex, BRepBuilderAPI_MakeWire
from OCP.BRepOffsetAPI import BRepOffsetAPI_ThruSections
from OCP.TopAbs import TopAbs_ShapeEnum
from OCP.TopoDS import TopoDS_Edge, TopoDS_Shape, TopoDS_Wire

from ..errors import StepError
from .extrusion import edge_of
from .named import NamedShape
from .query import check_solid
from .shapes import listed, map_of, point, shape_map
from .types import Frame, Profile, Segment, Vec, dot, minus, scaled

__all__ = ["lofted"]

CLOSE = 1e-6  # mm: how near a smooth solid keeps to its sections


def lofted(sections: list[tuple[Profile, Frame]], ruled: bool, prefix: str) -> NamedShape:
    """Make a solid through the outlines of profiles, corner to corner.

    Corners are matched by order: all outlines run the same way round, and each begins at the corner that lies best over the one before.
    Sides are named by the first outline's: `prefix/side/<segment>/<profile>`, or, ruled, `…/side/<segment>.<gap>/…`. Raises StepError.
    """
    loops = [profile.loops[0] for profile, _ in sections]
    counts = {len(loop) for loop in loops}
    if len(counts) > 1:
        raise StepError(f"The outlines have different numbers of sides ({', '.join(str(len(loop)) for loop in loops)}), so it is not clear which "
                        "corners belong together. Break a side where a corner of the other belongs.", field="profile")
    matched = [loops[0]]
    for i in range(1, len(loops)):
        matched.append(_matched(matched[-1], sections[i - 1][1], loops[i], sections[i][1]))
    maker: Any = BRepOffsetAPI_ThruSections(True, ruled, CLOSE)
    maker.CheckCompatibility(False)
    wires = [_wire(loop, frame) for loop, (_, frame) in zip(matched, sections, strict=True)]
    for wire, _ in wires:
        maker.AddWire(wire)
    try:
        maker.Build()
        shape = maker.Shape()
    except Exception as error:  # whatever the binding throws
        raise StepError(TWISTED, field="profile") from error
    name = sections[0][0].name
    present = shape_map(shape, TopAbs_ShapeEnum.TopAbs_FACE)
    named: list[tuple[TopoDS_Shape, frozenset[str]]] = [
        (maker.FirstShape(), frozenset({f"{prefix}/start/{name}"})), (maker.LastShape(), frozenset({f"{prefix}/end/{name}"}))]
    made = [[map_of(listed(maker.Generated(edge))) for edge in edges] for _, edges in wires]
    for k, segment in enumerate(matched[0]):
        for gap in range(len(wires) - 1):
            role = f"{segment.name}.{gap + 1}" if ruled and len(wires) > 2 else segment.name
            own = [f for f in listed(maker.Generated(wires[gap][1][k])) if made[gap + 1][k].Contains(f) and present.Contains(f)]
            named += [(f, frozenset({f"{prefix}/side/{role}/{name}"})) for f in own]
    found = NamedShape.collect(shape, named)
    if not all(found.names):
        raise StepError(TWISTED, field="profile")
    try:
        check_solid(found)
    except StepError as error:
        raise StepError(TWISTED, field="profile") from error
    return found


def _matched(before: list[Segment], frame: Frame, loop: list[Segment], own: Frame) -> list[Segment]:
    """Return an outline run the same way round as the one before, from the corner on that lies best over its first."""
    if dot(frame.normal, own.normal) < 0:
        loop = [_reversed(s) for s in reversed(loop)]
    one, other = _places(before, frame), _places(loop, own)
    n = len(loop)
    best = min(range(n), key=lambda k: sum(math.dist(one[i], other[(i + k) % n]) ** 2 for i in range(n)))
    return [*loop[best:], *loop[:best]]


def _reversed(s: Segment) -> Segment:
    return Segment(s.name, s.end, s.start, s.centre, s.radius, s.t1, s.t0, s.half, s.knots, s.poles, s.degree, s.away)


def _places(loop: list[Segment], frame: Frame) -> list[Vec]:
    """Return the corners as seen from their common middle, mm in space."""
    places = [frame.at(*s.start) for s in loop]
    middle = scaled((sum(p[0] for p in places), sum(p[1] for p in places), sum(p[2] for p in places)), 1 / len(places))
    return [minus(p, middle) for p in places]


def _wire(loop: list[Segment], frame: Frame) -> tuple[TopoDS_Wire, list[TopoDS_Edge]]:
    corners = [BRepBuilderAPI_MakeVertex(point(frame.at(*s.start))).Vertex() for s in loop]
    maker, edges = BRepBuilderAPI_MakeWire(), []
    for i, segment in enumerate(loop):
        edges.append(edge_of(segment, frame, corners[i], corners[(i + 1) % len(loop)]))
        maker.Add(edges[-1])
    if not maker.IsDone():
        raise StepError("The outline of a region does not close.", field="profile")
    return maker.Wire(), edges


TWISTED = ("The kernel could not make a sound solid through these outlines: it would run into itself. Look at their order, and whether "
           "the first corners lie over each other.")
