"""Taking in geometry of the model."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from ...errors import SketchError
from ...reference import ThingRef
from ...stored import Stored
from ..drawn import Drawing, Nth, Place, Taken
from ..solving import Traced, draw_traced
from .base import PartFigures, edits
from .pieces import Worked

__all__ = ["FoundInModel", "Retake", "TakeIn"]


class FoundInModel(Stored):
    """One piece that a thing of the model comes to in the sketch's plane; manner : "" for that of the edit,
    else its own."""

    ref: ThingRef
    traced: Traced
    near: Place | None = None
    manner: Literal["", "outline"] = ""


class TakeIn(Stored):
    """Take in things of the model: edges, corners, faces (all their edges, and the outlines of round ones)
    projected, or cut lines.

    near : picked place (mm in the sketch); of several pieces the nearest is taken. found : what they come to,
    filled in by the service, which has the model at hand.
    """

    op: Literal["take_in"] = "take_in"
    refs: list[ThingRef] = Field(min_length=1, max_length=200)
    manner: Literal["project", "cut"] = "project"
    near: Place | None = None
    construction: bool = False
    found: list[FoundInModel] = Field(default_factory=list)


class Retake(Stored):
    """Let a taken point or curve follow another thing of the model, or another piece of it.

    answer : which piece; None for the one nearest to where it was picked.
    """

    op: Literal["retake"] = "retake"
    entity: str
    ref: ThingRef
    answer: Nth | None = None


@edits(TakeIn, "Take in from the model")
def _take_in(drawing: Drawing, edit: TakeIn, figures: PartFigures) -> Drawing:
    if not edit.found:
        raise SketchError("Nothing of this comes into the sketch's plane.", field="refs")
    work = Worked(drawing)
    had = {(repr(t.ref), t.manner, _spot(t.near, t.manner)) for t in drawing.taken.values()}
    for piece in edit.found:
        manner = piece.manner or edit.manner
        if manner != "cut" and (repr(piece.ref), manner, _spot(piece.near, manner)) in had:
            continue
        first, *more = [work.point(p) for p in piece.traced.places]
        curve = draw_traced(piece.traced, first, more)
        entity = (
            first
            if curve is None
            else work.curve(curve.model_copy(update={"construction": edit.construction}))
        )
        taken = {**work.drawing.taken, entity: Taken(ref=piece.ref, manner=manner, near=piece.near)}
        work.drawing = work.drawing.model_copy(update={"taken": taken})
    if work.drawing == drawing:
        raise SketchError("This was taken in already.", field="refs")
    return work.drawing


def _spot(near: Place | None, manner: str) -> Place | None:
    """Return what tells the two outlines of a face apart; a projected thing comes in once, wherever it was
    picked."""
    return (round(near[0], 6), round(near[1], 6)) if near and manner == "outline" else None


@edits(Retake, "Take in anew")
def _retake(drawing: Drawing, edit: Retake, figures: PartFigures) -> Drawing:
    if edit.entity not in drawing.taken:
        raise SketchError("This was not taken in from the model.", field=edit.entity)
    taken = drawing.taken[edit.entity].model_copy(update={"ref": edit.ref, "answer": edit.answer})
    return drawing.model_copy(update={"taken": {**drawing.taken, edit.entity: taken}})
