"""Faces of a body inclined from a plane, and faces taken away and the body healed over them."""

from __future__ import annotations

from functools import partial
from typing import Any

from OCP.BRepAlgoAPI import BRepAlgoAPI_Defeaturing
from OCP.BRepOffsetAPI import BRepOffsetAPI_DraftAngle
from OCP.gp import gp_Dir, gp_Pln
from OCP.TopAbs import TopAbs_ShapeEnum
from OCP.TopoDS import TopoDS

from ..errors import StepError
from ..tolerance import NO_VOLUME
from .keeping_whole import copied, sparing
from .merging import merge_flush
from .named import NamedShape, carry
from .query import check_solid, volume_of
from .refusing import refused_as
from .shapes import ax3, faces_of, listed, shape_list, shape_map
from .types import Frame

__all__ = ["FaceRefused", "inclined", "without_faces"]


class FaceRefused(Exception):
    """Faces, by their index in the body, that what was asked can not be done to; none where it is not one of
    them alone."""

    def __init__(self, faces: list[int]) -> None:
        super().__init__(faces)
        self.faces = faces


def inclined(body: NamedShape, groups: list[tuple[list[int], Frame]], angle: float) -> tuple[NamedShape, int]:
    """Incline groups of faces by an angle (rad, positive: narrower along the plane's normal) about where they
    meet a neutral plane each.

    A face keeps its names. Returns also how many more faces came along, since they run on smoothly. Raises
    FaceRefused.
    """
    return sparing(body, lambda own: _inclined(own, groups, angle))


def _inclined(
    body: NamedShape, groups: list[tuple[list[int], Frame]], angle: float
) -> tuple[NamedShape, int]:
    own = faces_of(body.shape)
    maker: Any = BRepOffsetAPI_DraftAngle(body.shape)
    faces = [i for found, _ in groups for i in found]
    for i, neutral in ((i, plane) for found, plane in groups for i in found):
        with refused_as(partial(FaceRefused, [i])):  # it throws for free-form faces
            maker.Add(TopoDS.Face(own[i]), gp_Dir(*neutral.normal), angle, gp_Pln(ax3(neutral)))
            done = maker.AddDone()
        if not done:
            raise FaceRefused([i])
    with refused_as(partial(FaceRefused, [])):
        maker.Build()
        shape = maker.Shape()
    present = shape_map(shape, TopAbs_ShapeEnum.TopAbs_FACE)
    fresh, moved = [], 0
    for i, (face, names) in enumerate(body.pairs()):
        made = [f for f in listed(maker.Generated(face)) if present.Contains(f)]
        if i in faces and not made:
            raise FaceRefused([i])
        moved += bool(made)
        fresh += [(f, names) for f in made]
    found = NamedShape.collect(shape, [*fresh, *carry(maker, [body], shape).pairs()])
    _check(found)
    return found, moved - len(faces)


def without_faces(body: NamedShape, faces: list[int]) -> NamedShape:
    """Take faces away and let their neighbours grow together; raises FaceRefused with those over which the
    body does not close."""
    body = copied(body)
    own = faces_of(body.shape)
    maker: Any = BRepAlgoAPI_Defeaturing()
    maker.SetShape(body.shape)
    maker.AddFacesToRemove(shape_list([own[i] for i in faces]))
    maker.Build()
    refused = [i for i in faces if not maker.IsDeleted(own[i])]
    if refused or not maker.IsDone():
        raise FaceRefused(refused)
    found = merge_flush(carry(maker, [body], maker.Shape()))
    _check(found)
    if abs(volume_of(found) - volume_of(body)) < NO_VOLUME * volume_of(body):
        raise FaceRefused(faces)
    return found


def _check(body: NamedShape) -> None:
    try:
        check_solid(body)
    except StepError as error:
        raise FaceRefused([]) from error
    if not all(body.names):
        raise FaceRefused([])
