"""A shape whose faces carry durable names, and the rule by which names pass through an operation."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any

from OCP.BRep import BRep_Builder
from OCP.ShapeUpgrade import ShapeUpgrade_UnifySameDomain
from OCP.TopAbs import TopAbs_ShapeEnum
from OCP.TopoDS import TopoDS_Compound, TopoDS_Shape

from .shapes import ShapeMap, edges_of, faces_of, listed, shape_map, solids_of

__all__ = ["NamedShape", "carry", "merge_flush", "some_of", "source_of"]


class NamedShape:
    """A shape with the names of its faces: names[i] belongs to the i-th face in the kernel's stable order."""

    __slots__ = ("names", "shape")

    def __init__(self, shape: TopoDS_Shape, names: list[frozenset[str]]) -> None:
        self.shape, self.names = shape, names

    @classmethod
    def collect(cls, shape: TopoDS_Shape, named: Iterable[tuple[TopoDS_Shape, frozenset[str]]]) -> NamedShape:
        """Make one from (face, names) pairs; pairs whose face is not in the shape are left out."""
        solids = solids_of(shape)
        shape = solids[0] if len(solids) == 1 else shape
        faces = shape_map(shape, TopAbs_ShapeEnum.TopAbs_FACE)
        names: list[frozenset[str]] = [frozenset()] * faces.Extent()
        for face, own in named:
            if i := faces.FindIndex(face):
                names[i - 1] = names[i - 1] | own
        return cls(shape, names)

    def pairs(self) -> list[tuple[TopoDS_Shape, frozenset[str]]]:
        """Return every face with its names."""
        return list(zip(faces_of(self.shape), self.names, strict=True))


def carry(operation: Any, inputs: Iterable[NamedShape], result: TopoDS_Shape) -> NamedShape:
    """Pass the names of all inputs on to the result of an operation.

    A face goes on as what it was modified to, or as itself where the result still holds it. The kernel's
    "is deleted" is not asked: it is wrong for some survivors.
    """
    present = shape_map(result, TopAbs_ShapeEnum.TopAbs_FACE)
    return NamedShape.collect(result, [(after, names) for before in inputs for face, names in before.pairs()
                                       for after in _afterwards(operation, face, present)])


def _afterwards(operation: Any, face: TopoDS_Shape, present: ShapeMap) -> list[TopoDS_Shape]:
    return listed(operation.Modified(face)) or ([face] if present.Contains(face) else [])


def source_of(names: Iterable[str]) -> str:
    """Return a face's names as the source in the name of another face, as `core/reference/names.py` reads it.

    Of a part of a split face that is the part's own name, which no other part shares.
    """
    return min(names, key=lambda n: ("/part/" not in n, n)).replace("/", "~").replace("@", "%")


def some_of(made: NamedShape, faces: Iterable[TopoDS_Shape]) -> NamedShape:
    """Return some of a shape's faces alone, with their names."""
    builder, compound = BRep_Builder(), TopoDS_Compound()
    builder.MakeCompound(compound)
    for face in faces:
        builder.Add(compound, face)
    return NamedShape.collect(compound, made.pairs())


def merge_flush(body: NamedShape) -> NamedShape:
    """Merge faces that lie in one plane or cylinder, so that no leftover lines stay; a merged face keeps all names."""
    seams = _seams(body)
    unify = ShapeUpgrade_UnifySameDomain(body.shape, True, True, False)
    for edge in seams:
        unify.KeepShape(edge)
    unify.Build()
    made = carry(unify.History(), [body], unify.Shape())
    bare = [i for i, f in enumerate(faces_of(made.shape)) if not shape_map(f, TopAbs_ShapeEnum.TopAbs_EDGE).Extent()]
    if not bare:
        return made
    # A whole torus or sphere without any edge can neither be meshed nor cut: one edge of its pieces stays.
    unify = ShapeUpgrade_UnifySameDomain(body.shape, True, True, False)
    for edge in seams:
        unify.KeepShape(edge)
    for i in bare:
        piece = next((f for f, names in body.pairs() if names & made.names[i]), None)
        if piece is not None:
            unify.KeepShape(edges_of(piece)[0])
    unify.Build()
    return carry(unify.History(), [body], unify.Shape())


def _seams(body: NamedShape) -> list[TopoDS_Shape]:
    """Return the edges between parts of faces that were split on purpose: these stay."""
    parts = [(f, frozenset(n for n in names if "/part/" in n)) for f, names in body.pairs()]
    if not any(own for _, own in parts):
        return []
    met: dict[int, frozenset[str]] = {}
    edges = shape_map(body.shape, TopAbs_ShapeEnum.TopAbs_EDGE)
    found = []
    for face, own in parts:
        for edge in edges_of(face):
            i = edges.FindIndex(edge)
            if met.setdefault(i, own) != own:
                found.append(edge)
    return found
