"""Sheets: bodies without thickness."""

from __future__ import annotations

from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeVertex, BRepBuilderAPI_MakeWire
from OCP.BRepPrimAPI import BRepPrimAPI_MakePrism
from OCP.TopoDS import TopoDS_Edge, TopoDS_Wire

from ..errors import StepError
from .extrusion import edge_of
from .named import NamedShape
from .shapes import listed, point, vector
from .types import Frame, Segment, Vec

__all__ = ["open_wire", "sheet_along"]


def open_wire(segments: list[Segment], frame: Frame, closed: bool) -> tuple[TopoDS_Wire, list[tuple[Segment, TopoDS_Edge]]]:
    """Return curves that follow each other as one wire, and its edges; raises StepError where they do not join."""
    corners = [BRepBuilderAPI_MakeVertex(point(frame.at(*s.start))).Vertex() for s in segments]
    corners.append(corners[0] if closed else BRepBuilderAPI_MakeVertex(point(frame.at(*segments[-1].end))).Vertex())
    maker, edges = BRepBuilderAPI_MakeWire(), []
    for i, segment in enumerate(segments):
        edge = edge_of(segment, frame, corners[i], corners[i + 1])
        maker.Add(edge)
        edges.append((segment, edge))
    if not maker.IsDone():
        raise StepError("These curves do not join on to each other. Look at their ends.")
    return maker.Wire(), edges


def sheet_along(segments: list[Segment], frame: Frame, path: Vec, closed: bool, prefix: str, profile: str) -> NamedShape:
    """Push curves along a path (mm) to a sheet; its faces are named `prefix/side/<segment>/<profile>`. Raises StepError."""
    wire, edges = open_wire(segments, frame, closed)
    made = BRepPrimAPI_MakePrism(wire, vector(path))
    if not made.IsDone() or made.Shape().IsNull():
        raise StepError("The kernel could not push these curves.")
    named = [(f, frozenset({f"{prefix}/side/{s.name}/{profile}"})) for s, edge in edges for f in listed(made.Generated(edge))]
    found = NamedShape.collect(made.Shape(), named)
    if not all(found.names):
        raise StepError("The kernel could not push these curves.")
    return found
