"""Profiles carried along a path of curves; kinks of the path are mitred."""

from __future__ import annotations

from typing import Any

from OCP.BOPAlgo import BOPAlgo_ArgumentAnalyzer
from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeVertex, BRepBuilderAPI_MakeWire, BRepBuilderAPI_TransitionMode
from OCP.BRepOffsetAPI import BRepOffsetAPI_MakePipeShell
from OCP.BRepTools import BRepTools
from OCP.gp import gp_Ax2, gp_Dir
from OCP.TopAbs import TopAbs_ShapeEnum
from OCP.TopoDS import TopoDS, TopoDS_Edge, TopoDS_Shape, TopoDS_Wire

from ..errors import StepError
from .boolean import cut
from .extrusion import edge_of, flat_face
from .named import NamedShape
from .query import check_solid
from .shapes import items, listed, map_of, point, shape_map
from .types import Frame, Profile, Segment

__all__ = ["swept"]


def swept(profile: Profile, frame: Frame, path: list[Segment], along: Frame, closed: bool, prefix: str, parallel: bool) -> NamedShape:
    """Carry a profile in a frame along a path in another; parallel : it keeps its direction, else it turns with the path.

    Faces are named `prefix/side/<segment>.<path segment>/<profile>`, and, where the path is open, `prefix/start/…` and `prefix/end/…`.
    Raises StepError when the kernel makes no sound solid of it.
    """
    face, edges = flat_face(profile, frame)
    spine = _path(path, along, closed)
    outer = BRepTools.OuterWire_s(face)
    wires = [outer, *(w for w in map(TopoDS.Wire, items(shape_map(face, TopAbs_ShapeEnum.TopAbs_WIRE))) if not w.IsSame(outer))]
    first, *holes = [_carried(w, edges, spine, profile.name, prefix, along if parallel else None) for w in wires]
    made = cut(first, holes, merge=False) if holes else first
    _check_self(made)
    return made


def _path(path: list[Segment], frame: Frame, closed: bool) -> tuple[TopoDS_Wire, list[tuple[Segment, TopoDS_Edge]]]:
    corners = [BRepBuilderAPI_MakeVertex(point(frame.at(*s.start))).Vertex() for s in path]
    corners.append(corners[0] if closed else BRepBuilderAPI_MakeVertex(point(frame.at(*path[-1].end))).Vertex())
    maker, edges = BRepBuilderAPI_MakeWire(), []
    for i, segment in enumerate(path):
        edge = edge_of(segment, frame, corners[i], corners[i + 1])
        maker.Add(edge)
        edges.append((segment, edge))
    if not maker.IsDone():
        raise StepError("The curves of this path do not join on to each other. Look at their ends.", field="path")
    return maker.Wire(), edges


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


def _check_self(made: NamedShape) -> None:
    """Raise StepError where the swept solid runs through itself: it is valid all the same."""
    analyzer = BOPAlgo_ArgumentAnalyzer()
    analyzer.SetShape1(made.shape)
    analyzer.SelfInterMode = True
    analyzer.ArgumentTypeMode = False
    analyzer.SmallEdgeMode = False
    analyzer.Perform()
    if analyzer.HasFaulty():
        raise StepError("Swept along this path the profile would run into itself. Make it smaller, or the path's bends wider.", field="path")


TIGHT = "The kernel could not carry the profile along this path: a bend is too tight for it. Make the profile smaller, or the bend wider."
