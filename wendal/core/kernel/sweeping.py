"""Profiles carried along a path; kinks of the path are mitred or rounded."""

from __future__ import annotations

import math
from itertools import pairwise
from typing import Any

from OCP.BRepBuilderAPI import BRepBuilderAPI_Transform, BRepBuilderAPI_TransitionMode
from OCP.BRepOffsetAPI import BRepOffsetAPI_MakePipeShell, BRepOffsetAPI_ThruSections
from OCP.BRepTools import BRepTools
from OCP.gp import gp_Ax2, gp_Dir, gp_Trsf
from OCP.TopAbs import TopAbs_ShapeEnum
from OCP.TopExp import TopExp
from OCP.TopoDS import TopoDS, TopoDS_Edge, TopoDS_Shape, TopoDS_Wire

from ..errors import StepError
from ..tolerance import MEETS, ROUNDING
from .boolean import cut
from .enclosing import check_enclosing
from .extrusion import flat_face, wire_of
from .flattening import flattened
from .named import NamedShape
from .query import check_solid, runs_into_itself
from .refusing import refused_as
from .shapes import items, listed, map_of, point, shape_map
from .sheets import check_sheet
from .spines import Spine, carried
from .types import Frame, Profile, Segment, Vec, dot, minus, unit

__all__ = ["swept", "swept_guided", "swept_sheet", "swept_twisted"]

PER_SECTION = math.radians(15)
LEAST = 9  # sections of a twisted or guided sweep
PER_GUIDED = math.radians(6)
FINE = 60  # steps in which the bends of a path and its guide are added up
Edges = list[tuple[Segment, TopoDS_Edge]]


def swept(
    profile: Profile,
    frame: Frame,
    spine: Spine,
    prefix: str,
    parallel: Frame | None = None,
    rounded: bool = False,
) -> NamedShape:
    """Carry a profile in a frame along a path. parallel : it keeps its direction (that frame's), else it
    turns with the path.

    rounded : kinks of the path are rounded outside, else mitred. Faces are named
    `prefix/side/<segment>.<run>/<profile>` (at a rounded kink `prefix/corner/…`) and, where the path is open,
    `prefix/start/…` and `prefix/end/…`. Raises StepError when no sound solid comes of it.
    """
    face, edges = flat_face(profile, frame)
    outer = BRepTools.OuterWire_s(face)
    wires = [
        outer,
        *(
            w
            for w in map(TopoDS.Wire, items(shape_map(face, TopAbs_ShapeEnum.TopAbs_WIRE)))
            if not w.IsSame(outer)
        ),
    ]
    first, *holes = [_carried(w, edges, spine, profile.name, prefix, parallel, rounded) for w in wires]
    for made in (first, *holes):
        check_solid(made)
        check_enclosing(made, field="path")
    whole = cut(first, holes, merge=False) if holes else first
    if runs_into_itself(whole):
        raise StepError(
            "Swept along this path the profile would run into itself. Make it smaller, or the path's bends "
            "wider.",
            field="path",
        )
    return whole


def swept_sheet(
    segments: list[Segment],
    frame: Frame,
    closed: bool,
    spine: Spine,
    prefix: str,
    profile: str,
    parallel: Frame | None = None,
    rounded: bool = False,
) -> NamedShape:
    """Carry curves along a path to a sheet; named as the sides of a swept solid. Raises StepError."""
    wire, edges = wire_of(segments, frame, closed)
    made = _carried(wire, edges, spine, profile, prefix, parallel, rounded, solid=False)
    check_sheet(made)
    if runs_into_itself(made):
        raise StepError(
            "Swept along this path the curves would run into themselves. Make the path's bends wider.",
            field="path",
        )
    return made


def _carried(
    wire: TopoDS_Wire,
    edges: Edges,
    spine: Spine,
    profile: str,
    prefix: str,
    parallel: Frame | None,
    rounded: bool,
    solid: bool = True,
) -> NamedShape:
    maker: Any = BRepOffsetAPI_MakePipeShell(spine.wire)
    if parallel is None:
        maker.SetMode(False)
    else:
        maker.SetMode(gp_Ax2(point(parallel.origin), gp_Dir(*parallel.normal), gp_Dir(*parallel.x)))
    corner = BRepBuilderAPI_TransitionMode
    maker.SetTransitionMode(
        corner.BRepBuilderAPI_RoundCorner if rounded else corner.BRepBuilderAPI_RightCorner
    )
    with refused_as(lambda: StepError(TIGHT, field="path")):
        maker.Add(wire, False, False)
        maker.Build()
        done = maker.IsDone() and (not solid or maker.MakeSolid())
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
            runs.append(
                ("corner", f"{one}+{other}", map_of(listed(maker.Generated(TopExp.LastVertex_s(edge, True)))))
            )
    for segment, edge in edges:
        if whole.Contains(edge):
            for side in listed(maker.Generated(edge)):
                named += [
                    (side, frozenset({f"{prefix}/{role}/{segment.name}.{run}/{profile}"}))
                    for role, run, made in runs
                    if made.Contains(side)
                ]
    found = NamedShape.collect(shape, named)
    if not all(found.names):
        raise StepError(TIGHT, field="path")
    return found


def swept_twisted(profile: Profile, frame: Frame, spine: Spine, angle: float, prefix: str) -> NamedShape:
    """Carry a profile along a smooth open path while it turns about it by an angle (rad) in all, as a solid
    through sections close to each other.

    Faces are named `prefix/side/<segment>/<profile>`, `prefix/start/…` and `prefix/end/…`. Raises StepError.
    """
    _plain(profile, spine, "twist", "A twist")
    count = max(math.ceil(abs(angle) / PER_SECTION), LEAST)
    stations = spine.stations(count)
    places = [
        (f.turned(at, unit(way), angle * k / count), at, 1.0)
        for k, (f, (at, way)) in enumerate(zip(carried(stations, frame), stations, strict=True))
    ]
    made = _through(profile, places, prefix, "twist")
    if runs_into_itself(made):
        raise StepError(
            "Twisted so far the profile would run into itself. Make the angle smaller, or the path longer.",
            field="twist",
        )
    return made


def swept_guided(profile: Profile, frame: Frame, spine: Spine, guide: Spine, prefix: str) -> NamedShape:
    """Carry a profile along a smooth open path while it grows and turns about it with a guide, as a solid
    through sections close to each other.

    In every plane square to the path the profile is as much larger as the guide is farther away there than at
    the beginning, and is turned as it lies. Named as by `swept_twisted`. Raises StepError.
    """
    _plain(profile, spine, "guide", "A guide")
    bend = sum(
        math.acos(min(1.0, dot(a[1], b[1])))
        for stations in (spine.stations(FINE), guide.stations(FINE))
        for a, b in pairwise(stations)
    )
    stations = spine.stations(max(math.ceil(bend / PER_GUIDED), LEAST))
    frames = carried(stations, frame)
    if math.dist(guide.begin()[0], stations[0][0]) > math.dist(guide.at(guide.length())[0], stations[0][0]):
        guide = guide.reversed()
    places, along, first = [], 0.0, (0.0, 0.0)
    for k, (f, (at, way)) in enumerate(zip(frames, stations, strict=True)):
        met = guide.met(at, way, along)
        if met is None:
            gone = spine.length() * k / (len(frames) - 1)
            raise StepError(
                "The guide does not stand beside the whole path: there is none of it square to the path "
                f"after {gone:.3f} mm of it. "
                "Make the guide longer, or the path shorter.",
                field="guide",
            )
        along = met
        beside = minus(guide.at(met)[0], at)
        u, v = dot(beside, f.x), dot(beside, f.y)
        size, turn = math.hypot(u, v), math.atan2(v, u)
        if size < MEETS:
            raise StepError(
                "The guide meets the path, where nothing would be left of the profile. Keep it beside the "
                "path.",
                field="guide",
            )
        if k == 0:
            first = (size, turn)
        places.append((f.turned(at, unit(way), turn - first[1]), at, size / first[0]))
    made = _through(profile, places, prefix, "guide")
    if runs_into_itself(made):
        raise StepError(
            "Along this guide the profile would run into itself. Bring the guide nearer to the path, or "
            "widen the path's bends.",
            field="guide",
        )
    return made


def _plain(profile: Profile, spine: Spine, field: str, what: str) -> None:
    if spine.closed or spine.kinks():
        raise StepError(
            f"{what} goes along an open path without corners. Round the path's corners, or take it away.",
            field=field,
        )
    if len(profile.loops) != 1:
        raise StepError(
            f"{what} does not go with a region with holes. Sweep its outline, and cut the hole by another "
            "sweep.",
            field="profile",
        )


def _through(profile: Profile, places: list[tuple[Frame, Vec, float]], prefix: str, field: str) -> NamedShape:
    """Make a solid through a profile in each of some frames, there made larger about a place by a factor."""
    maker: Any = BRepOffsetAPI_ThruSections(True, False, MEETS)
    maker.CheckCompatibility(False)
    sections = []
    for f, about, factor in places:
        wire, edges = wire_of(profile.loops[0], f, True)
        if abs(factor - 1.0) > ROUNDING:
            larger = gp_Trsf()
            larger.SetScale(point(about), factor)
            change = BRepBuilderAPI_Transform(wire, larger, True)
            wire, edges = (
                TopoDS.Wire(change.Shape()),
                [(s, TopoDS.Edge(change.ModifiedShape(e))) for s, e in edges],
            )
        sections.append(edges)
        maker.AddWire(wire)
    with refused_as(lambda: StepError(TIGHT, field=field)):
        maker.Build()
        shape = maker.Shape()
    named = [
        (maker.FirstShape(), frozenset({f"{prefix}/start/{profile.name}"})),
        (maker.LastShape(), frozenset({f"{prefix}/end/{profile.name}"})),
    ]
    named += [
        (f, frozenset({f"{prefix}/side/{s.name}/{profile.name}"}))
        for s, e in sections[0]
        for f in listed(maker.Generated(e))
    ]
    found = NamedShape.collect(shape, named)
    if not all(found.names):
        raise StepError(TIGHT, field=field)
    found = flattened(found)
    check_solid(found)
    return found


TIGHT = (
    "The kernel could not carry the profile along this path: a bend is too tight for it. Make the profile "
    "smaller, or the bend wider."
)
