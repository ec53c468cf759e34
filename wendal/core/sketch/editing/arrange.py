"""Removing, making construction, and moving by hand."""

from __future__ import annotations

import math
from typing import Literal

from pydantic import Field

from ...errors import SketchError
from ...stored import Stored
from ..drawn import AXES, BUILT_IN_POINTS, Drawing, Place, without_points
from ..solving import Drag
from .base import PartFigures, edits

__all__ = ["Move", "Remove", "SetConstruction", "without"]


class Remove(Stored):
    """Remove points, curves, constraints and texts, with everything that hangs on them; a spline goes on
    without one of its points."""

    op: Literal["remove"] = "remove"
    entities: list[str] = Field(min_length=1)


class SetConstruction(Stored):
    """Make curves construction, or real again."""

    op: Literal["construction"] = "construction"
    curves: list[str] = Field(min_length=1)
    on: bool


class Move(Stored):
    """Drag a point or curve from one place to another."""

    op: Literal["move"] = "move"
    entity: str
    start: Place
    to: Place


@edits(Remove, "Remove geometry")
def _remove(drawing: Drawing, edit: Remove, figures: PartFigures) -> Drawing:
    gone = set(edit.entities)
    if gone & {*BUILT_IN_POINTS, *AXES}:
        raise SketchError("The origin and the axes belong to every sketch and stay.")
    for e in gone - drawing.constraints.keys():
        drawing.kind(e)
    drawing, gone = without_points(drawing, gone)
    gone |= {c for c, curve in drawing.curves.items() if gone & set(curve.points)}
    return without(drawing, gone)


def without(drawing: Drawing, entities: set[str]) -> Drawing:
    """Return the drawing less points, curves, constraints and texts, and less every constraint and text on
    what went."""
    gone = set(entities)
    kept = {
        p for c, curve in drawing.curves.items() if c not in gone for p in curve.points
    }  # parts of one spline share their points
    for c in gone & drawing.curves.keys():
        gone |= set(drawing.curves[c].points) - kept
    return drawing.model_copy(
        update={
            "points": {p: at for p, at in drawing.points.items() if p not in gone},
            "curves": {c: curve for c, curve in drawing.curves.items() if c not in gone},
            "constraints": {
                k: c for k, c in drawing.constraints.items() if k not in gone and not gone & set(c.of)
            },
            "taken": {e: t for e, t in drawing.taken.items() if e not in gone},
            "texts": {
                t: text for t, text in drawing.texts.items() if t not in gone and text.base not in gone
            },
        }
    )


@edits(SetConstruction, "Construction")
def _construction(drawing: Drawing, edit: SetConstruction, figures: PartFigures) -> Drawing:
    curves = dict(drawing.curves)
    for c in edit.curves:
        if c not in curves:
            raise SketchError(f"There is no curve “{c}” in this sketch any more.", field=c)
        curves[c] = curves[c].model_copy(update={"construction": edit.on})
    return drawing.model_copy(update={"curves": curves})


@edits(Move, "Drag")
def _move(drawing: Drawing, edit: Move, figures: PartFigures) -> Drawing:
    drawing.kind(edit.entity)
    if not all(math.isfinite(v) for v in (*edit.start, *edit.to)):
        raise SketchError("This place is not a number.", field="to")
    drag = Drag(drawing, figures.values(drawing), edit.entity, edit.start)
    drag.move(edit.to)
    return drag.finish()
