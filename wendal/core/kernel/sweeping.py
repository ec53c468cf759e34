"""Profiles carried along a path; kinks of the path are mitred or rounded."""

from __future__ import annotations

import math
from itertools import pairwise
from typing import Any

from OCP.BRepBuilderAPI import BRepBuilderAPI_TransitionMode
from OCP.BRepOffsetAPI import BRepOffsetAPI_MakePipeShell, BRepOffsetAPI_ThruSections
from OCP.BRepTools import BRepTools
from OCP.gp import gp_Ax2, gp_Dir
from OCP.TopAbs import TopAbs_ShapeEnum
from OCP.TopExp import TopExp
from OCP.TopoDS import TopoDS, TopoDS_Edge, TopoDS_Shape, TopoDS_Wire

from ..errors import StepError
from .boolean import cut
from .extrusion import flat_face, wire_of
from .named import NamedShape
from .query import check_solid, runs_into_itself
from .shapes import items, listed, map_of, point, shape_map
from .sheets import check_sheet
from .spines import Spine, carried
from .types import Frame, Profile, Segment, unit

__all__ = ["swept", "swept_sheet", "swept_twisted"]

PER_SECTION = math.radians(15)
LEAST = 9  # sections of a twisted sweep
Edges = list[tuple[Segment, TopoDS_Edge]]


def swept(profile: Profile, frame: Frame, spine: Spine, prefix: str, parallel: Frame | None = None, rounded: bool = False) -> NamedShape:
    """Carry a profile in a frame along a path. parallel : it keeps its direction (that frame's), else it turns with the path.

    rounded : kinks of the path are rounded outside, else mitred. Faces are named `prefix/side/<segment>.<run>/<profile>` (at a rounded kink
    `prefix/corner/…`) and, where the path is open, `prefix/start/…` and `prefix/end/…`. Raises StepError when no sound solid comes of it.
    """
    face, edges = flat_face(profile, frame)
    outer = BRepTools.OuterWire_s(face)
    wires = [outer, *(w for w in map(TopoDS.Wire, items(shape_map(face, TopAbs_ShapeEnum.TopAbs_WIRE))) if not w.IsSame(outer))]
    first, *holes = [_carried(w, edges, spine, profile.name, prefix, parallel, rounded) for w in wires]
    for made in (first, *holes):
        check_solid(made)
    whole = cut(first, holes, merge=False) if holes else first
    if runs_into_itself(whole):
        raise StepError("Swept along this path the profile would run into itself. Make it smaller, or the path's bends wider.", field="path")
    return whole


def swept_sheet(segments: list[Segment], frame: Frame, closed: bool, spine: Spine, prefix: str, profile: str, parallel: Frame | None = None,
                rounded: bool = False) -> NamedShape:
    """Carry curves along a path to a sheet; named as the sides of a swept solid. Raises StepError."""
    wire, edges = wire_of(segments, frame, closed)
    made = _carried(wire, edges, spine, profile, prefix, parallel, rounded, solid=False)
    check_sheet(made)
    if runs_into_itself(made):
        raise StepError("Swept along this path the curves would run into themselves. Make the path's bends wider.", field="path")
    return made


def _carried(wire: TopoDS_Wire, edges: Edges, spine: Spine, profile: str, prefix: str, parallel: Frame | None, rounded: bool, solid: bool = True) -> NamedShape:
    maker: Any = BRepOffsetAPI_MakePipeShell(spine.wire)
    if parallel is None:
        maker.SetMode(False)
    else:
        maker.SetMode(gp_Ax2(point(parallel.origin), gp_Dir(*parallel.normal), gp_Dir(*parallel.x)))
    corner = BRepBuilderAPI_TransitionMode
    maker.SetTransitionMode(corner.BRepBuilderAPI_RoundCorner if rounded else corner.BRepBuilderAPI_RightCorner)
    try:
        maker.Add(wire, False, False)
        maker.Build()
        done = maker.IsDone() and (not solid or maker.MakeSolid())
    except Exception as error:  # whatever the binding throws
        raise StepError(TIGHT, field="path") from error
    if not done:
        raise StepError(TIGHT, field="path")
    shape = maker.Shape()
    present = shape_map(shape, TopAbs_ShapeEnum.TopAbs_FACE)
    named: list[tuple[TopoDS_Shape, frozenset[str]]] = []
    for cap, word in ((maker.FirstShape(), "start"), (maker.LastShape(), "end")) if solid else ():
        if not cap.IsNull() and present.Contains(cap):
            named.append((cap, frozenset({f"{prefix}/{word}/{profile}"})))
    whole = shape_map(wire, TopAbs_ShapeEnum.TopAbs_EDGE)
    runs = [("side", run, map_of(listed(maker.Generated(edge)))) for run, edge in spine.runs]
    if rounded:
        followed = [*spine.runs, *(spine.runs[:1] if spine.closed else [])]
        for (one, edge), (other, _) in pairwise(followed):
            runs.append(("corner", f"{one}+{other}", map_of(listed(maker.Generated(TopExp.LastVertex_s(edge, True))))))
    for segment, edge in edges:
        if whole.Contains(edge):
            for side in listed(maker.Generated(edge)):
                named += [(side, frozenset({f"{prefix}/{role}/{segment.name}.{run}/{profile}"})) for role, run, made in runs if made.Contains(side)]
    found = NamedShape.collect(shape, named)
    if not all(found.names):
        raise StepError(TIGHT, field="path")
    return found


def swept_twisted(profile: Profile, frame: Frame, spine: Spine, angle: float, prefix: str) -> NamedShape:
    """Carry a profile along a smooth open path while it turns about it by an angle (rad) in all, as a solid through sections close to each other.

    Faces are named `prefix/side/<segment>/<profile>`, `prefix/start/…` and `prefix/end/…`. Raises StepError.
    """
    if spine.closed or spine.kinks():
        raise StepError("A twist goes along an open path without corners. Round the path's corners, or take the twist away.", field="twist")
    if len(profile.loops) != 1:
        raise StepError("A region with holes can not be twisted. Sweep its outline, and cut the hole by another sweep.", field="profile")
    count = max(math.ceil(abs(angle) / PER_SECTION), LEAST)
    stations = spine.stations(count)
    maker: Any = BRepOffsetAPI_ThruSections(True, False, 1e-6)
    maker.CheckCompatibility(False)
    sections = []
    for k, (carried_frame, (at, way)) in enumerate(zip(carried(stations, frame), stations, strict=True)):
        wire, edges = wire_of(profile.loops[0], carried_frame.turned(at, unit(way), angle * k / count), True)
        sections.append(edges)
        maker.AddWire(wire)
    try:
        maker.Build()
        shape = maker.Shape()
    except Exception as error:  # whatever the binding throws
        raise StepError(TIGHT, field="twist") from error
    named = [(maker.FirstShape(), frozenset({f"{prefix}/start/{profile.name}"})), (maker.LastShape(), frozenset({f"{prefix}/end/{profile.name}"}))]
    named += [(f, frozenset({f"{prefix}/side/{s.name}/{profile.name}"})) for s, e in sections[0] for f in listed(maker.Generated(e))]
    found = NamedShape.collect(shape, named)
    if not all(found.names):
        raise StepError(TIGHT, field="twist")
    check_solid(found)
    if runs_into_itself(found):
        raise StepError("Twisted so far the profile would run into itself. Make the angle smaller, or the path longer.", field="twist")
    return found


TIGHT = "The kernel could not carry the profile along this path: a bend is too tight for it. Make the profile smaller, or the bend wider."
