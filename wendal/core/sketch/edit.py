"""Edits of a drawing. Each is a small message that turns one solved drawing into the next, or is refused."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass
from typing import Annotated, Literal

from pydantic import Field

from ..errors import SketchError
from ..stored import Stored, Value
from .constraints import rule_for
from .diagnosis import check_new
from .drag import Drag
from .layout import Layout
from .model import AXES, BUILT_IN_POINTS, Constraint, Drawing, Line, Place
from .shapes import AUTOMATIC, SHAPES, Draft, End
from .solver import solve
from .words import name_of

__all__ = ["Bench", "Constrain", "Draw", "Move", "PlaceFigure", "Remove", "SetConstruction", "SetReference", "SetValue", "SketchEdit",
           "apply_edit"]

VANISHED = 1e-6  # of the sketch's size


class Automatic(Stored):
    """A constraint that came by itself while drawing: its kind, and to which other entity ("" for none)."""

    kind: str
    to: str = ""


class Draw(Stored):
    """Draw a shape through places; values are typed measures, such as {"width": "40 mm"}; sides : of a polygon."""

    op: Literal["draw"] = "draw"
    shape: Literal["point", "line", "rectangle", "circle", "arc", "slot", "polygon"]
    ends: list[End] = Field(min_length=1, max_length=3)
    automatic: list[Automatic] = Field(default_factory=list)
    values: dict[str, str] = Field(default_factory=dict)
    sides: int = Field(default=6, ge=3, le=60)
    construction: bool = False


class Constrain(Stored):
    """Add a constraint or dimension; a dimension without a formula takes its present, rounded value.

    reference : a dimension that only tells its value.
    """

    op: Literal["constrain"] = "constrain"
    kind: str
    of: list[str]
    formula: str = ""
    tag: str = ""
    manner: Literal["", "horizontal", "vertical"] = ""
    at: Place | None = None
    reference: bool = False


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


class Remove(Stored):
    """Remove points, curves and constraints, with everything that hangs on them."""

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


SketchEdit = Annotated[Draw | Constrain | SetValue | SetReference | PlaceFigure | Remove | SetConstruction | Move,
                       Field(discriminator="op")]


@dataclass(frozen=True, slots=True)
class Bench:
    """What an edit needs to know of the part around the sketch.

    number : evaluates a formula as "length" (mm) or "angle" (rad). new_tag : makes an unused tag from words.
    show : writes mm or rad of a quantity as a formula in the part's units, rounded.
    """

    number: Callable[[str, str], float]
    new_tag: Callable[[str], str]
    show: Callable[[float, str], str]

    def values(self, drawing: Drawing) -> dict[str, float]:
        """Return every dimension's wanted value: mm or rad by constraint id."""
        found = {}
        for k, c in drawing.dimensions():
            assert c.value is not None
            rule = rule_for(c.kind)
            found[k] = self.number(c.value.formula, rule.quantity)
            rule.check_value(found[k])
        return found


def apply_edit(drawing: Drawing, edit: SketchEdit, bench: Bench) -> Drawing:
    """Return the drawing after an edit, solved; raises SketchError or FormulaError, and then nothing has changed."""
    changed = _APPLY[type(edit)](drawing, edit, bench)
    solved = solve(changed, bench.values(changed)).drawing
    _none_vanished(drawing, solved)
    return solved


def _none_vanished(before: Drawing, after: Drawing) -> None:
    """Raise SketchError when an edit met its constraints only by shrinking a line to nothing."""
    least = VANISHED * Layout(after).size()
    for c, curve in after.curves.items():
        old = before.curves.get(c)
        if isinstance(curve, Line) and isinstance(old, Line):
            length, had = (math.dist(d.place(curve.start), d.place(curve.end)) for d in (after, before))
            if length < least < had:
                raise SketchError(f"This would fight with the other constraints: {name_of(before, c)} would shrink to nothing. "
                                  "Drop one of them first. Nothing was changed.", field=c)


def _draw(drawing: Drawing, edit: Draw, bench: Bench) -> Drawing:
    draft = Draft(drawing, edit.construction, edit.sides)
    try:
        made = SHAPES[edit.shape](draft, edit.ends)
    except IndexError as error:
        raise SketchError(f"A {edit.shape} needs more places than the {len(edit.ends)} given.", field="ends") from error
    result = draft.drawing()
    wanted = [(draft.is_needed(a.kind), Constraint(kind=a.kind, of=[made, *([a.to] if a.to else [])]))
              for a in edit.automatic]
    for needed, c in [*draft.joins, *wanted]:
        result = _add_if_new(result, c, bench, needed=needed)
    for name, formula in edit.values.items():
        if name not in AUTOMATIC[edit.shape]:
            raise SketchError(f"A {edit.shape} has no {name}.", field=name)
        kind, index, manner = AUTOMATIC[edit.shape][name]
        of = [draft.made[index]]
        result = _constrain(result, Constrain(kind=kind, of=of, formula=formula, manner=manner), bench)
        result = solve(result, bench.values(result)).drawing
    return result


def _add_if_new(drawing: Drawing, c: Constraint, bench: Bench, *, needed: bool) -> Drawing:
    """Add an automatic constraint, unless it says nothing new."""
    rule = rule_for(c.kind)
    c = c.model_copy(update={"of": rule.ordered(c.of, drawing)})
    c = c.model_copy(update={"sense": rule.choose(c, Layout(drawing))})
    if not needed:
        try:
            check_new(drawing, bench.values(drawing), c, 0.0)
            return solve(_with(drawing, c), bench.values(drawing)).drawing
        except SketchError:
            return drawing
    return _with(drawing, c)


def _with(drawing: Drawing, c: Constraint) -> Drawing:
    last = drawing.last + 1
    return drawing.model_copy(update={"constraints": {**drawing.constraints, f"k{last}": c}, "last": last})


def _constrain(drawing: Drawing, edit: Constrain, bench: Bench) -> Drawing:
    rule = rule_for(edit.kind)
    c = Constraint(kind=edit.kind, of=rule.ordered(edit.of, drawing), manner=edit.manner, at=edit.at)
    layout = Layout(drawing)
    c = c.model_copy(update={"sense": rule.choose(c, layout)})
    value = 0.0
    if edit.reference:
        if not rule.quantity:
            raise SketchError(f"{rule.title} is no dimension, so it can not be a reference dimension.", field="reference")
        return _with(drawing, c.model_copy(update={"reference": True}))
    if rule.quantity:
        formula = edit.formula or bench.show(rule.measure(c, layout), rule.quantity)
        value = bench.number(formula, rule.quantity)
        rule.check_value(value)
        tag = bench.new_tag(edit.tag or _measures(drawing, c))
        c = c.model_copy(update={"value": Value(formula=formula, tag=tag)})
    elif edit.formula:
        raise SketchError(f"{rule.title} has no value.", field="formula")
    check_new(drawing, bench.values(drawing), c, value)
    return _with(drawing, c)


def _measures(drawing: Drawing, c: Constraint) -> str:
    """Return the word for what a dimension measures: width, height, length, diameter …"""
    if c.kind != "distance":
        return c.kind
    if c.manner:
        return "width" if c.manner == "horizontal" else "height"
    sorts = [drawing.sort(e) for e in c.of]
    if sorts == ["line"]:
        (ax, ay), (bx, by) = (drawing.place(p) for p in drawing.line_points(c.of[0]))
        return "width" if abs(by - ay) < 1e-6 else "height" if abs(bx - ax) < 1e-6 else "length"
    return "gap" if sorts == ["line", "line"] else "distance"


def _set_value(drawing: Drawing, edit: SetValue, bench: Bench) -> Drawing:
    c = _existing(drawing, edit.constraint)
    if c.reference:
        raise SketchError("A reference dimension only tells its value. Let it drive first, or change what it follows from.",
                          field=edit.constraint)
    if c.value is None:
        raise SketchError(f"{rule_for(c.kind).title} has no value to change.", field=edit.constraint)
    c = c.model_copy(update={"value": c.value.model_copy(update={"formula": edit.formula})})
    return drawing.model_copy(update={"constraints": {**drawing.constraints, edit.constraint: c}})


def _set_reference(drawing: Drawing, edit: SetReference, bench: Bench) -> Drawing:
    c = _existing(drawing, edit.constraint)
    if not rule_for(c.kind).quantity:
        raise SketchError(f"{rule_for(c.kind).title} is no dimension, so it can not be a reference dimension.", field=edit.constraint)
    rest = {k: other for k, other in drawing.constraints.items() if k != edit.constraint}
    if edit.on:
        told = c.model_copy(update={"value": None, "reference": True})
        return drawing.model_copy(update={"constraints": {**drawing.constraints, edit.constraint: told}})
    without = drawing.model_copy(update={"constraints": rest})
    return _constrain(without, Constrain(kind=c.kind, of=c.of, manner=c.manner, at=c.at), bench)


def _place_figure(drawing: Drawing, edit: PlaceFigure, bench: Bench) -> Drawing:
    c = _existing(drawing, edit.constraint).model_copy(update={"at": edit.at})
    return drawing.model_copy(update={"constraints": {**drawing.constraints, edit.constraint: c}})


def _existing(drawing: Drawing, k: str) -> Constraint:
    if k not in drawing.constraints:
        raise SketchError(f"There is no constraint “{k}” in this sketch any more.", field=k)
    return drawing.constraints[k]


def _remove(drawing: Drawing, edit: Remove, bench: Bench) -> Drawing:
    gone = set(edit.entities)
    if gone & {*BUILT_IN_POINTS, *AXES}:
        raise SketchError("The origin and the axes belong to every sketch and stay.")
    for e in gone - drawing.constraints.keys():
        drawing.sort(e)
    gone |= {owner for p in gone & drawing.points.keys() if (owner := drawing.owner(p))}
    for c in gone & drawing.curves.keys():
        gone |= set(drawing.curves[c].points)
    return drawing.model_copy(update={
        "points": {p: at for p, at in drawing.points.items() if p not in gone},
        "curves": {c: curve for c, curve in drawing.curves.items() if c not in gone},
        "constraints": {k: c for k, c in drawing.constraints.items() if k not in gone and not gone & set(c.of)},
    })


def _construction(drawing: Drawing, edit: SetConstruction, bench: Bench) -> Drawing:
    curves = dict(drawing.curves)
    for c in edit.curves:
        if c not in curves:
            raise SketchError(f"There is no curve “{c}” in this sketch any more.", field=c)
        curves[c] = curves[c].model_copy(update={"construction": edit.on})
    return drawing.model_copy(update={"curves": curves})


def _move(drawing: Drawing, edit: Move, bench: Bench) -> Drawing:
    drawing.sort(edit.entity)
    if not all(math.isfinite(v) for v in (*edit.start, *edit.to)):
        raise SketchError("This place is not a number.", field="to")
    drag = Drag(drawing, bench.values(drawing), edit.entity, edit.start)
    drag.move(edit.to)
    return drag.finish()


_APPLY: dict[type, Callable] = {
    Draw: _draw, Constrain: _constrain, SetValue: _set_value, SetReference: _set_reference, PlaceFigure: _place_figure, Remove: _remove,
    SetConstruction: _construction, Move: _move,
}
