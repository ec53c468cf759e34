"""Constraints and dimensions: adding them, changing what they do and where their figures stand."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from ...errors import SketchError
from ...stored import Stored, Value
from ...tolerance import MEETS
from ..constraints import rule_for
from ..drawn import Constraint, Drawing, Layout, Place
from ..explaining import check_new
from ..solving import solve
from .base import PartFigures, edits, existing, with_constraint

__all__ = ["Constrain", "ConstrainAll", "PlaceFigure", "SetReference", "SetValue", "constrained"]


class Constrain(Stored):
    """Add a constraint or dimension; a dimension without a formula takes its present, rounded value.

    reference : a dimension that only tells its value. dropping, telling : constraints that go, and dimensions
    that only tell their value from now on, to make room.
    """

    op: Literal["constrain"] = "constrain"
    kind: str
    of: list[str]
    formula: str = ""
    tag: str = ""
    manner: Literal["", "horizontal", "vertical"] = ""
    at: Place | None = None
    reference: bool = False
    dropping: list[str] = Field(default_factory=list)
    telling: list[str] = Field(default_factory=list)


class ConstrainAll(Stored):
    """Add several constraints, as proposed; one that is not needed any more by the time it comes is left out
    and told."""

    op: Literal["constrain_all"] = "constrain_all"
    constraints: list[Constrain] = Field(min_length=1, max_length=2000)


class SetReference(Stored):
    """Make a dimension one that only tells its value, or let it drive the drawing again."""

    op: Literal["set_reference"] = "set_reference"
    constraint: str
    on: bool


class SetValue(Stored):
    """Give a dimension another formula."""

    op: Literal["set_value"] = "set_value"
    constraint: str
    formula: str


class PlaceFigure(Stored):
    """Put a dimension's figure elsewhere."""

    op: Literal["place_figure"] = "place_figure"
    constraint: str
    at: Place


@edits(Constrain, "Constrain ({kind})")
def constrained(drawing: Drawing, edit: Constrain, figures: PartFigures) -> Drawing:
    rule = rule_for(edit.kind)
    drawing = _made_room(drawing, edit, figures)
    c = Constraint(kind=edit.kind, of=rule.ordered(edit.of, drawing), manner=edit.manner, at=edit.at)
    layout = Layout(drawing)
    c = c.model_copy(update={"sense": rule.choose(c, layout)})
    value = 0.0
    if edit.reference:
        if not rule.quantity:
            raise SketchError(
                f"{rule.title} is no dimension, so it can not be a reference dimension.", field="reference"
            )
        return with_constraint(drawing, c.model_copy(update={"reference": True}))
    if rule.quantity:
        formula = edit.formula or figures.show(rule.measure(c, layout), rule.quantity)
        value = figures.number(formula, rule.quantity)
        rule.check_value(value, c, drawing)
        tag = figures.new_tag(edit.tag or _measures(drawing, c))
        c = c.model_copy(update={"value": Value(formula=formula, tag=tag)})
    elif edit.formula:
        raise SketchError(f"{rule.title} has no value.", field="formula")
    check_new(drawing, figures.values(drawing), c, value)
    return with_constraint(drawing, c)


@edits(ConstrainAll, "Constrain the rest")
def _constrain_all(drawing: Drawing, edit: ConstrainAll, figures: PartFigures) -> tuple[Drawing, list[str]]:
    notes = []
    for one in edit.constraints:
        try:
            drawing = constrained(drawing, one, figures)
            drawing = solve(drawing, figures.values(drawing)).drawing
        except SketchError as error:
            notes.append(error.message)
    if len(notes) == len(edit.constraints):
        raise SketchError(notes[0])
    return drawing, notes


def _made_room(drawing: Drawing, edit: Constrain, figures: PartFigures) -> Drawing:
    for k in edit.dropping:
        existing(drawing, k)
    drawing = drawing.model_copy(
        update={"constraints": {k: c for k, c in drawing.constraints.items() if k not in edit.dropping}}
    )
    for k in edit.telling:
        drawing = _set_reference(drawing, SetReference(constraint=k, on=True), figures)
    return drawing


def _measures(drawing: Drawing, c: Constraint) -> str:
    """Return the word for what a dimension measures: width, height, length, diameter …"""
    if c.kind != "distance":
        return c.kind
    if c.manner:
        return "width" if c.manner == "horizontal" else "height"
    kinds = [drawing.kind(e) for e in c.of]
    if kinds == ["line"]:
        (ax, ay), (bx, by) = (drawing.place(p) for p in drawing.line_points(c.of[0]))
        return "width" if abs(by - ay) < MEETS else "height" if abs(bx - ax) < MEETS else "length"
    return "gap" if kinds == ["line", "line"] else "distance"


@edits(SetValue, "Change a dimension")
def _set_value(drawing: Drawing, edit: SetValue, figures: PartFigures) -> Drawing:
    c = existing(drawing, edit.constraint)
    if c.reference:
        raise SketchError(
            "A reference dimension only tells its value. Let it drive first, or change what it follows from.",
            field=edit.constraint,
        )
    if c.value is None:
        raise SketchError(f"{rule_for(c.kind).title} has no value to change.", field=edit.constraint)
    c = c.model_copy(update={"value": c.value.model_copy(update={"formula": edit.formula})})
    return drawing.model_copy(update={"constraints": {**drawing.constraints, edit.constraint: c}})


@edits(SetReference, "Change what a dimension does")
def _set_reference(drawing: Drawing, edit: SetReference, figures: PartFigures) -> Drawing:
    c = existing(drawing, edit.constraint)
    if not rule_for(c.kind).quantity:
        raise SketchError(
            f"{rule_for(c.kind).title} is no dimension, so it can not be a reference dimension.",
            field=edit.constraint,
        )
    rest = {k: other for k, other in drawing.constraints.items() if k != edit.constraint}
    if edit.on:
        told = c.model_copy(update={"value": None, "reference": True})
        return drawing.model_copy(update={"constraints": {**drawing.constraints, edit.constraint: told}})
    without = drawing.model_copy(update={"constraints": rest})
    return constrained(without, Constrain(kind=c.kind, of=c.of, manner=c.manner, at=c.at), figures)


@edits(PlaceFigure, "Move a figure")
def _place_figure(drawing: Drawing, edit: PlaceFigure, figures: PartFigures) -> Drawing:
    c = existing(drawing, edit.constraint).model_copy(update={"at": edit.at})
    return drawing.model_copy(update={"constraints": {**drawing.constraints, edit.constraint: c}})
