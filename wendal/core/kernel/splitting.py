"""Bodies and sheets cut in two by planes, faces and sheets."""

from __future__ import annotations

import math
from collections.abc import Callable

from OCP.BRepAlgoAPI import BRepAlgoAPI_Splitter
from OCP.TopAbs import TopAbs_Orientation

from ..errors import StepError
from ..tolerance import BESIDE
from .ending import Target, _whole
from .keeping_whole import unharming
from .named import NamedShape, carry
from .places import nearest_on_face, normal_on_face
from .reshaping import front_of, inside_of
from .shapes import faces_of, shape_list, solids_of
from .sheets import is_sheet, sheet_split
from .types import Vec, dot, minus, scaled

__all__ = ["side_of_sheet", "split"]


def split(
    body: NamedShape, target: Target | NamedShape, reach: float, prefix: str
) -> tuple[list[NamedShape], list[NamedShape]]:
    """Cut a body or sheet by the whole of a plane or face, or by a sheet: the pieces in front (where the
    normal looks), and those behind.

    The cut faces are named `prefix/cut`. Raises StepError where it misses the body, or does not cut it
    through.
    """
    cutter = target.shape if isinstance(target, NamedShape) else _whole(target, reach)
    side = side_of_sheet(target) if isinstance(target, NamedShape) else front_of(target)
    if is_sheet(body):
        front_part, back_part = sheet_split(body, cutter, side)
        return [front_part], [back_part]
    splitter = unharming(BRepAlgoAPI_Splitter())
    splitter.SetArguments(shape_list([body.shape]))
    splitter.SetTools(shape_list([cutter]))
    splitter.Build()
    if not splitter.IsDone() or splitter.Shape().IsNull():
        raise StepError("The kernel could not split this body.")
    name = f"{prefix}/cut"
    made = carry(
        splitter, [body, NamedShape(cutter, [frozenset({name})] * len(faces_of(cutter)))], splitter.Shape()
    )
    pieces = [NamedShape.collect(solid, made.pairs()) for solid in solids_of(splitter.Shape())]
    if any(f.Orientation() == TopAbs_Orientation.TopAbs_INTERNAL for p in pieces for f in faces_of(p.shape)):
        raise StepError(
            "This does not cut the body through. Pick a plane, face or sheet that does.", field="by"
        )
    front: list[NamedShape] = []
    behind: list[NamedShape] = []
    for piece in pieces:
        (front if _in_front(piece, side, name) else behind).append(piece)
    if not front or not behind:  # a body in several pieces is also split where the plane runs between them
        raise StepError(
            "This does not cut the body: it misses it, only touches it, or does not go through.", field="by"
        )
    return front, behind


def side_of_sheet(sheet: NamedShape) -> Callable[[Vec], str]:
    """Return what tells whether a place lies in front of a sheet, by the place of it that is nearest."""

    def tell(p: Vec) -> str:
        near = [nearest_on_face(sheet, i, p) for i in range(len(sheet.names))]
        i = min(range(len(near)), key=lambda k: math.dist(near[k], p))
        return "front" if dot(minus(p, near[i]), normal_on_face(sheet, i, near[i])) > 0 else "back"

    return tell


def _in_front(piece: NamedShape, side: Callable[[Vec], str], name: str) -> bool:
    """Tell on which side of the cut a piece lies: where it is just inside of a cut face; one that is not cut,
    anywhere."""
    faces = faces_of(piece.shape)
    at = next((i for i, names in enumerate(piece.names) if name in names), None)
    inner = inside_of(faces[at or 0])
    if at is not None:
        inner = minus(
            inner, scaled(normal_on_face(piece, at, inner), BESIDE)
        )  # a cut face looks out of the piece
    return side(inner) == "front"
