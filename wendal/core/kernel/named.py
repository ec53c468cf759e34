"""A shape whose faces carry durable names, and the rule by which names pass through an operation."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any

from OCP.TopAbs import TopAbs_ShapeEnum
from OCP.TopoDS import TopoDS_Shape

from .known import Anatomy, anatomy
from .shapes import ShapeMap, compound, faces_of, listed, shape_map, solids_of

__all__ = ["NamedShape", "carry", "some_of", "source_of"]


class NamedShape:
    """A shape with the names of its faces: names[i] belongs to the i-th face in the kernel's stable order."""

    __slots__ = ("_anatomy", "names", "shape")

    def __init__(
        self, shape: TopoDS_Shape, names: list[frozenset[str]], known: Anatomy | None = None
    ) -> None:
        """known : the shape taken apart, where whoever made it has that already."""
        self.shape, self.names = shape, names
        self._anatomy = known

    @property
    def anatomy(self) -> Anatomy:
        """The shape taken apart."""
        self._anatomy = anatomy(self.shape) if self._anatomy is None else self._anatomy.now()
        return self._anatomy

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
    return NamedShape.collect(
        result,
        [
            (after, names)
            for before in inputs
            for face, names in before.pairs()
            for after in _afterwards(operation, face, present)
        ],
    )


def _afterwards(operation: Any, face: TopoDS_Shape, present: ShapeMap) -> list[TopoDS_Shape]:
    return listed(operation.Modified(face)) or ([face] if present.Contains(face) else [])


def source_of(names: Iterable[str]) -> str:
    """Return a face's names as the source in the name of another face, as `core/reference/names.py` reads it.

    Of a part of a split face that is the part's own name, which no other part shares.
    """
    told = [n for n in names if "/apart/" not in n] or names
    return min(told, key=lambda n: ("/part/" not in n, n)).replace("/", "~").replace("@", "%")


def set_apart(body: NamedShape, step: str) -> NamedShape:
    """Return a shape whose faces a step keeps apart from what they lie flush with."""
    pairs = [(face, names | {f"{step}/apart/all"}) for face, names in body.pairs()]
    return NamedShape.collect(body.shape, pairs)


def some_of(made: NamedShape, faces: Iterable[TopoDS_Shape]) -> NamedShape:
    """Return some of a shape's faces alone, with their names."""
    return NamedShape.collect(compound(faces), made.pairs())
