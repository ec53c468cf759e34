"""Profiles carried along a path of curves; kinks of the path are mitred."""

from __future__ import annotations

from typing import Any

from OCP.BRepBuilderAPI import BRepBuilderAPI_TransitionMode
from OCP.BRepOffsetAPI import BRepOffsetAPI_MakePipeShell
from OCP.BRepTools import BRepTools
from OCP.gp import gp_Ax2, gp_Dir
from OCP.TopAbs import TopAbs_ShapeEnum
from OCP.TopoDS import TopoDS, TopoDS_Edge, TopoDS_Shape, TopoDS_Wire

from ..errors import StepError
from .boolean import cut
from .extrusion import flat_face
from .named import NamedShape
from .query import check_solid, runs_into_itself
from .shapes import items, listed, map_of, point, shape_map
from .sheets import open_wire
from .types import Frame, Profile, Segment

__all__ = ["swept"]


def swept(profile: Profile, frame: Frame, path: list[Segment], along: Frame, closed: bool, prefix: str, parallel: bool) -> NamedShape:
    """Carry a profile in a frame along a path in another; parallel : it keeps its direction, else it turns with the path.

    Faces are named `prefix/side/<segment>.<path segment>/<profile>`, and, where the path is open, `prefix/start/…` and `prefix/end/…`.
    Raises StepError when the kernel makes no sound solid of it.
    """
    face, edges = flat_face(profile, frame)
    spine = open_wire(path, along, closed)
    outer = BRepTools.OuterWire_s(face)
    wires = [outer, *(w for w in map(TopoDS.Wire, items(shape_map(face, TopAbs_ShapeEnum.TopAbs_WIRE))) if not w.IsSame(outer))]
    first, *holes = [_carried(w, edges, spine, profile.name, prefix, along if parallel else None) for w in wires]
    made = cut(first, holes, merge=False) if holes else first
    if runs_into_itself(made):
        raise StepError("Swept along this path the profile would run into itself. Make it smaller, or the path's bends wider.", field="path")
    return made


def _carried(wire: TopoDS_Wire, edges: list[tuple[Segment, TopoDS_Edge]], spine: tuple[TopoDS_Wire, list[tuple[Segment, TopoDS_Edge]]],
             profile: str, prefix: str, parallel: Frame | None) -> NamedShape:
    maker: Any = BRepOffsetAPI_MakePipeShell(spine[0])
    if parallel is None:
        maker.SetMode(False)
    else:
        maker.SetMode(gp_Ax2(point(parallel.origin), gp_Dir(*parallel.normal), gp_Dir(*parallel.x)))
    maker.SetTransitionMode(BRepBuilderAPI_TransitionMode.BRepBuilderAPI_RightCorner)
    try:
        maker.Add(wire, False, False)
        maker.Build()
        done = maker.IsDone() and maker.MakeSolid()
    except Exception as error:  # whatever the binding throws
        raise StepError(TIGHT, field="path") from error
    if not done:
        raise StepError(TIGHT, field="path")
    shape = maker.Shape()
    present = shape_map(shape, TopAbs_ShapeEnum.TopAbs_FACE)
    named: list[tuple[TopoDS_Shape, frozenset[str]]] = []
    for cap, word in ((maker.FirstShape(), "start"), (maker.LastShape(), "end")):
        if not cap.IsNull() and present.Contains(cap):
            named.append((cap, frozenset({f"{prefix}/{word}/{profile}"})))
    whole = shape_map(wire, TopAbs_ShapeEnum.TopAbs_EDGE)
    runs = [(run, map_of(listed(maker.Generated(edge)))) for run, edge in spine[1]]
    for segment, edge in edges:
        if whole.Contains(edge):
            for side in listed(maker.Generated(edge)):
                named += [(side, frozenset({f"{prefix}/side/{segment.name}.{run.name}/{profile}"})) for run, made in runs if made.Contains(side)]
    found = NamedShape.collect(shape, named)
    if not all(found.names):
        raise StepError(TIGHT, field="path")
    check_solid(found)
    return found


TIGHT = "The kernel could not carry the profile along this path: a bend is too tight for it. Make the profile smaller, or the bend wider."
