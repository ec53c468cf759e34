"""A shape of flat faces from the loops of a mesh: closed all round a solid, else a sheet."""

from __future__ import annotations

from collections.abc import Sequence

from OCP.BRep import BRep_Builder
from OCP.BRepBuilderAPI import (
    BRepBuilderAPI_MakeEdge,
    BRepBuilderAPI_MakeFace,
    BRepBuilderAPI_MakeSolid,
    BRepBuilderAPI_MakeVertex,
    BRepBuilderAPI_MakeWire,
)
from OCP.BRepLib import BRepLib
from OCP.gp import gp_Pln
from OCP.ShapeFix import ShapeFix_ShapeTolerance
from OCP.TopAbs import TopAbs_ShapeEnum
from OCP.TopoDS import TopoDS, TopoDS_Edge, TopoDS_Face, TopoDS_Shape, TopoDS_Shell, TopoDS_Vertex

from ..errors import DocumentError
from .query import edge_faces
from .shapes import direction, point, solids_of
from .types import Vec

__all__ = ["faceted"]

Loop = Sequence[int]


class _Corners:
    """Corners and edges, each made once, so that the faces share them."""

    def __init__(self, places: Sequence[Vec]) -> None:
        self._places = places
        self._vertices: dict[int, TopoDS_Vertex] = {}
        self._edges: dict[tuple[int, int], TopoDS_Edge] = {}

    def _vertex(self, at: int) -> TopoDS_Vertex:
        if at not in self._vertices:
            self._vertices[at] = BRepBuilderAPI_MakeVertex(point(self._places[at])).Vertex()
        return self._vertices[at]

    def edge(self, p: int, q: int) -> TopoDS_Edge:
        """Return the edge between two corners, in the sense in which it is run."""
        low, high = min(p, q), max(p, q)
        if (low, high) not in self._edges:
            made = BRepBuilderAPI_MakeEdge(self._vertex(low), self._vertex(high))
            if not made.IsDone():
                raise DocumentError("Corners of this mesh lie in one place.", field="file")
            self._edges[low, high] = made.Edge()
        found = self._edges[low, high]
        return found if p < q else TopoDS.Edge(found.Reversed())


def faceted(
    places: Sequence[Vec], faces: Sequence[tuple[Vec, Vec, Sequence[Loop]]], off: float
) -> tuple[TopoDS_Shape, int]:
    """Return a shape of flat faces, each a place, a normal and loops of places by number, and how many of its
    edges are free.

    off : mm that places may lie off their faces' planes. Raises DocumentError for what makes no faces.
    """
    corners = _Corners(places)
    builder, shell = BRep_Builder(), TopoDS_Shell()
    builder.MakeShell(shell)
    for at, normal, loops in faces:
        builder.Add(shell, _face(corners, at, normal, loops))
    ShapeFix_ShapeTolerance().SetTolerance(shell, max(off, 1e-7), TopAbs_ShapeEnum.TopAbs_WIRE)
    free = sum(len(found) == 1 for _, found in edge_faces(shell))
    if free:
        return shell, free
    shell.Closed(True)
    solid = BRepBuilderAPI_MakeSolid(shell).Solid()
    BRepLib.OrientClosedSolid_s(solid)
    return solids_of(solid)[0], 0


def _face(corners: _Corners, at: Vec, normal: Vec, loops: Sequence[Loop]) -> TopoDS_Face:
    plane = gp_Pln(point(at), direction(normal))
    made: BRepBuilderAPI_MakeFace | None = None
    for loop in loops:
        wire = BRepBuilderAPI_MakeWire()
        for p, q in zip(loop, [*loop[1:], loop[0]], strict=True):
            wire.Add(corners.edge(p, q))
        if not wire.IsDone():
            raise DocumentError("The rim of a face of this mesh does not close.", field="file")
        if made is None:
            made = BRepBuilderAPI_MakeFace(plane, wire.Wire(), True)
        else:
            made.Add(wire.Wire())
    if made is None or not made.IsDone():
        raise DocumentError("A face of this mesh can not be made.", field="file")
    return made.Face()
