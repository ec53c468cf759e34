"""Small helpers over the binding: exploring, sets of shapes, lists."""

from __future__ import annotations

from collections.abc import Iterable

from OCP.BRep import BRep_Builder
from OCP.collections import IndexedMap_TopoDS_Shape_TopTools_ShapeMapHasher as ShapeMap
from OCP.collections import List_TopoDS_Shape
from OCP.gp import gp_Ax3, gp_Dir, gp_Pnt, gp_Vec
from OCP.TopAbs import TopAbs_ShapeEnum
from OCP.TopExp import TopExp
from OCP.TopoDS import TopoDS, TopoDS_Compound, TopoDS_Edge, TopoDS_Face, TopoDS_Shape, TopoDS_Vertex

from .types import Frame, Vec

__all__ = [
    "ShapeMap",
    "ax3",
    "compound",
    "direction",
    "edges_of",
    "faces_of",
    "items",
    "listed",
    "map_of",
    "place",
    "point",
    "shape_list",
    "shape_map",
    "solids_of",
    "vector",
    "vertices_of",
]


def shape_list(shapes: Iterable[TopoDS_Shape]) -> List_TopoDS_Shape:
    """Return the kernel's own list of shapes."""
    found = List_TopoDS_Shape()
    for shape in shapes:
        found.Append(shape)
    return found


def shape_map(shape: TopoDS_Shape, kind: TopAbs_ShapeEnum) -> ShapeMap:
    """Return all sub-shapes of a kind, each once, in the kernel's stable order (indices from 1)."""
    found = ShapeMap()
    if not shape.IsNull():
        TopExp.MapShapes_s(shape, kind, found)
    return found


def map_of(shapes: Iterable[TopoDS_Shape]) -> ShapeMap:
    """Return shapes as a set, in which one is found again however it is turned."""
    found = ShapeMap()
    for shape in shapes:
        found.Add(shape)
    return found


def items(found: ShapeMap) -> list[TopoDS_Shape]:
    """Return what a map holds, in its order.

    By number: beginning to iterate takes the binding most of a millisecond.
    """
    return [found.FindKey(i) for i in range(1, found.Extent() + 1)]


def listed(found: List_TopoDS_Shape) -> list[TopoDS_Shape]:
    """Return what a kernel list holds, without iterating; copies, for the list may be the operation's own."""
    rest = List_TopoDS_Shape()
    rest.Assign(found)
    held = []
    while rest.Size():
        first = rest.First()
        held.append(first.Oriented(first.Orientation()))
        rest.RemoveFirst()
    return held


def compound(shapes: Iterable[TopoDS_Shape]) -> TopoDS_Compound:
    """Return shapes as one, not joined."""
    builder, made = BRep_Builder(), TopoDS_Compound()
    builder.MakeCompound(made)
    for shape in shapes:
        builder.Add(made, shape)
    return made


def faces_of(shape: TopoDS_Shape) -> list[TopoDS_Face]:
    """Return every face once."""
    return [TopoDS.Face(s) for s in items(shape_map(shape, TopAbs_ShapeEnum.TopAbs_FACE))]


def edges_of(shape: TopoDS_Shape) -> list[TopoDS_Edge]:
    """Return every edge once."""
    return [TopoDS.Edge(s) for s in items(shape_map(shape, TopAbs_ShapeEnum.TopAbs_EDGE))]


def vertices_of(shape: TopoDS_Shape) -> list[TopoDS_Vertex]:
    """Return every vertex once."""
    return [TopoDS.Vertex(s) for s in items(shape_map(shape, TopAbs_ShapeEnum.TopAbs_VERTEX))]


def solids_of(shape: TopoDS_Shape) -> list[TopoDS_Shape]:
    """Return every solid once."""
    return items(shape_map(shape, TopAbs_ShapeEnum.TopAbs_SOLID))


def point(p: Vec) -> gp_Pnt:
    """Return a kernel point."""
    return gp_Pnt(*p)


def vector(v: Vec) -> gp_Vec:
    """Return a kernel vector."""
    return gp_Vec(*v)


def direction(v: Vec) -> gp_Dir:
    """Return a kernel direction."""
    return gp_Dir(*v)


def ax3(frame: Frame) -> gp_Ax3:
    """Return a frame as the kernel's coordinate system."""
    return gp_Ax3(point(frame.origin), direction(frame.normal), direction(frame.x))


def place(p: gp_Pnt) -> Vec:
    """Return a kernel point as numbers."""
    x, y, z = p.Coord()
    return (x, y, z)
