"""Keeping remembered shapes as they are: the kernel writes into what it is given.

Booleans, merging, defeaturing and offsets add curve representations to the edges of their arguments and raise
the tolerances of their corners. A shape that is remembered would change under other steps, and one document
would come to two results. Booleans have a mode in which they do not; for the others, what they work on is
taken apart from what is remembered first.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from contextlib import contextmanager
from typing import Any, TypeVar

from OCP.BRep import BRep_Builder, BRep_Tool
from OCP.BRepBuilderAPI import BRepBuilderAPI_Copy
from OCP.BRepTools import BRepTools_ReShape
from OCP.ShapeFix import ShapeFix_ShapeTolerance
from OCP.TopAbs import TopAbs_Orientation, TopAbs_ShapeEnum
from OCP.TopoDS import TopoDS, TopoDS_Edge, TopoDS_Iterator, TopoDS_Shape

from .named import NamedShape
from .shapes import ShapeMap, edges_of, faces_of, items, shape_map

__all__ = ["copied", "sparing", "unharming", "with_own_edges"]

Made = TypeVar("Made")

FORWARD = TopAbs_Orientation.TopAbs_FORWARD
EDGE, VERTEX = TopAbs_ShapeEnum.TopAbs_EDGE, TopAbs_ShapeEnum.TopAbs_VERTEX


def unharming(operation: Any) -> Any:
    """Let an operation of the boolean family leave its arguments as they are; return it."""
    operation.SetNonDestructive(True)
    return operation


def copied(body: NamedShape) -> NamedShape:
    """Return a body of its own, faces in the same order, for an operation that makes all anew anyhow."""
    return NamedShape(BRepBuilderAPI_Copy(body.shape, True, False).Shape(), body.names)


def sparing(body: NamedShape, work: Callable[[NamedShape], Made]) -> Made:
    """Do work on a body that may raise the tolerances of its corners and edges, or give edges more curves.

    They are set back then, and the work is done on a copy. It seldom happens; what is made of a copy shares
    no face with the body.
    """
    try:
        with _left_as_it_was(body):
            return work(body)
    except _Altered:
        return work(copied(body))


class _Altered(Exception):
    """An operation has written into what it was given; that was set right again."""


@contextmanager
def _left_as_it_was(body: NamedShape) -> Iterator[None]:
    edges = [TopoDS.Edge(s) for s in items(shape_map(body.shape, EDGE))]
    corners = [TopoDS.Vertex(s) for s in items(shape_map(body.shape, VERTEX))]
    wide = [(s, BRep_Tool.Tolerance_s(s)) for s in (*corners, *edges)]
    curves = [(e, e.Curves()) for e in map(_inside, edges)]  # copies of the kernel's lists
    try:
        yield
    finally:
        raised = [(s, before) for s, before in wide if BRep_Tool.Tolerance_s(s) != before]
        for shape, before in raised:
            ShapeFix_ShapeTolerance().SetTolerance(shape, before, shape.ShapeType())
        more = [(e, before) for e, before in curves if e.Curves().Size() != before.Size()]
        for e, before in more:
            e.ChangeCurves().Assign(before)
    if raised or more:
        raise _Altered


def _inside(edge: TopoDS_Edge) -> Any:
    """Return what the kernel keeps of an edge, wherever it is used."""
    return edge.TShape()


def with_own_edges(shape: NamedShape, faces: list[int]) -> NamedShape:
    """Return a shape in which the edges of some faces are its own, all others the same ones as before.

    Corners stay the same, so that it can be put together again with what is beside it.
    """
    own, reshape, edges = faces_of(shape.shape), BRepTools_ReShape(), ShapeMap()
    for i in faces:
        for edge in edges_of(own[i]):
            edges.Add(edge)
    for edge in items(edges):
        reshape.Replace(edge.Oriented(FORWARD), _own_edge(TopoDS.Edge(edge.Oriented(FORWARD))))
    made = reshape.Apply(shape.shape)
    return NamedShape(made, shape.names) if len(faces_of(made)) == len(own) else shape


def _own_edge(edge: TopoDS_Edge) -> TopoDS_Shape:
    made = edge.EmptyCopied()
    builder, ends = BRep_Builder(), TopoDS_Iterator(edge)
    while ends.More():
        builder.Add(made, ends.Value())
        ends.Next()
    return made
