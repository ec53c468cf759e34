"""Flat profiles pushed along a direction."""

from __future__ import annotations

from OCP.BRepBuilderAPI import (
    BRepBuilderAPI_MakeEdge,
    BRepBuilderAPI_MakeFace,
    BRepBuilderAPI_MakeVertex,
    BRepBuilderAPI_MakeWire,
)
from OCP.BRepCheck import BRepCheck_Analyzer
from OCP.BRepLib import BRepLib
from OCP.BRepPrimAPI import BRepPrimAPI_MakePrism
from OCP.gp import gp_Pln
from OCP.TopoDS import TopoDS, TopoDS_Edge, TopoDS_Face, TopoDS_Vertex, TopoDS_Wire

from ..errors import StepError
from .named import NamedShape
from .plane_curves import plane_curve
from .shapes import ax3, listed, point, vector
from .types import Frame, Profile, Segment, Vec

__all__ = ["flat_face", "prism"]


def prism(profile: Profile, frame: Frame, path: Vec, prefix: str) -> NamedShape:
    """Push a profile in a frame along path (mm).

    Faces are named `prefix/side/<segment>/<profile>`, `prefix/start/<profile>` and `prefix/end/<profile>`.
    Raises StepError when the kernel makes no valid solid of it.
    """
    face, edges = flat_face(profile, frame)
    made = BRepPrimAPI_MakePrism(face, vector(path))
    if not made.IsDone() or made.Shape().IsNull():
        raise StepError("The kernel could not push this profile; look at its outline for touching or doubled curves.")
    solid = TopoDS.Solid(made.Shape())
    BRepLib.OrientClosedSolid_s(solid)
    named = [(made.FirstShape(), frozenset({f"{prefix}/start/{profile.name}"})),
             (made.LastShape(), frozenset({f"{prefix}/end/{profile.name}"}))]
    for segment, edge in edges:
        name = frozenset({f"{prefix}/side/{segment.name}/{profile.name}"})
        named += [(side, name) for side in listed(made.Generated(edge))]
    made_of = NamedShape.collect(solid, named)
    if not all(made_of.names):
        raise StepError("The outline of this region runs over itself; look for doubled curves.")
    return made_of


def flat_face(profile: Profile, frame: Frame) -> tuple[TopoDS_Face, list[tuple[Segment, TopoDS_Edge]]]:
    """Make the flat face of a profile, and tell which of its edges comes from which segment."""
    edges: list[tuple[Segment, TopoDS_Edge]] = []
    outer, *holes = [_wire(loop, frame, edges) for loop in profile.loops]
    maker = BRepBuilderAPI_MakeFace(gp_Pln(ax3(frame)), outer, True)
    for hole in holes:
        maker.Add(hole)
    if not maker.IsDone() or not BRepCheck_Analyzer(maker.Face()).IsValid():
        raise StepError("This region can not be filled: its outline crosses or touches itself.")
    return maker.Face(), edges


def _wire(loop: list[Segment], frame: Frame, edges: list[tuple[Segment, TopoDS_Edge]]) -> TopoDS_Wire:
    corners = [BRepBuilderAPI_MakeVertex(point(frame.at(*s.start))).Vertex() for s in loop]
    maker = BRepBuilderAPI_MakeWire()
    for i, segment in enumerate(loop):
        edge = _edge(segment, frame, corners[i], corners[(i + 1) % len(loop)])
        maker.Add(edge)
        edges.append((segment, edge))
    if not maker.IsDone():
        raise StepError("The outline of this region does not close.")
    return maker.Wire()


def _edge(segment: Segment, frame: Frame, start: TopoDS_Vertex, end: TopoDS_Vertex) -> TopoDS_Edge:
    """Make one edge between shared corners: without sharing, the kernel copies edges and their history is lost."""
    if segment.centre is None and not segment.poles:
        return BRepBuilderAPI_MakeEdge(start, end).Edge()
    curve, shift = plane_curve(segment, frame)
    if segment.t1 > segment.t0:
        return BRepBuilderAPI_MakeEdge(curve, start, end, segment.t0 + shift, segment.t1 + shift).Edge()
    forward = BRepBuilderAPI_MakeEdge(curve, end, start, segment.t1 + shift, segment.t0 + shift).Edge()
    return TopoDS.Edge(forward.Reversed())
