"""What edits share: what they know of the part, how they are found, and the checks after every one."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Any

from ...errors import SketchError
from ...stored import Stored
from ...tolerance import BROKEN
from ..constraints import rule_for
from ..drawn import Constraint, Drawing, Layout, Line
from ..explaining import name_of, say_constraint, ways_out
from ..regions import check_texts
from ..solving import solve

__all__ = [
    "PartFigures",
    "Rehearsal",
    "apply_edit",
    "edits",
    "existing",
    "rehearse",
    "say_edit",
    "with_constraint",
]

SAID = 40  # signs of a field when an edit is said


@dataclass(frozen=True, slots=True)
class PartFigures:
    """What an edit needs to know of the part around the sketch.

    number : evaluates a formula as "length" (mm) or "angle" (rad); fresh : values of tags that the part does
    not have yet. new_tag : makes an unused tag from words. show : writes mm or rad of a quantity as a formula
    in the part's units, rounded.
    """

    number: Callable[..., float]
    new_tag: Callable[[str], str]
    show: Callable[[float, str], str]

    def checked(self, drawing: Drawing, place: str) -> float:
        """Return one dimension's or text's wanted value; raises in words where it can have none."""
        return self.values(
            drawing.model_copy(
                update={
                    "constraints": {place: drawing.constraints[place]}
                    if place in drawing.constraints
                    else {},
                    "texts": {place: drawing.texts[place]} if place in drawing.texts else {},
                }
            )
        )[place]

    def values(self, drawing: Drawing) -> dict[str, float]:
        """Return every dimension's wanted value, mm or rad by constraint id, and every text's height, mm by
        its id."""
        found: dict[str, float] = {}
        fresh: dict[str, tuple[float, str]] = {}
        for k, c in drawing.dimensions():
            assert c.value is not None
            rule = rule_for(c.kind)
            found[k] = self.number(c.value.formula, rule.quantity, fresh)
            rule.check_value(found[k], c, drawing)
            if c.value.tag:
                fresh[c.value.tag] = (found[k], rule.quantity)
        for t, text in drawing.texts.items():
            found[t] = self.number(text.height.formula, "length", fresh)
            if not found[t] > 0:
                raise SketchError(
                    f"A text needs a height greater than zero; this comes to {found[t]:g} mm.", field="height"
                )
        return found


@dataclass(slots=True)
class Rehearsal:
    """An edit as it would turn out.

    lost : the constraints and texts that would go, in words. notes : what the edit tells besides, such as a
    corner that did not fit.
    """

    drawing: Drawing
    lost: list[str] = field(default_factory=list)
    notes: list[str] = field(default_factory=list)


_APPLY: dict[type, Callable[[Drawing, Any, PartFigures], Drawing | tuple[Drawing, list[str]]]] = {}
_SAY: dict[type, str] = {}


def edits(message: type[Stored], words: str) -> Callable:
    """Make a function the one that carries out a message; words name it in the list of versions."""

    def decorate(function: Callable) -> Callable:
        _APPLY[message], _SAY[message] = function, words
        return function

    return decorate


def say_edit(edit: Stored) -> str:
    """Say an edit in a few words; {field} stands for a field of it, a long one shortened."""
    said = {
        name: f"{held[:SAID]}…" if isinstance(held, str) and len(held) > SAID else held
        for name, held in edit.model_dump().items()
    }
    return _SAY[type(edit)].format(**said)


def apply_edit(drawing: Drawing, edit: Stored, figures: PartFigures) -> Drawing:
    """Return the drawing after an edit, solved; raises SketchError or FormulaError, and then nothing has
    changed."""
    return rehearse(drawing, edit, figures).drawing


def rehearse(drawing: Drawing, edit: Stored, figures: PartFigures) -> Rehearsal:
    """Return what an edit would make of a drawing, what it would lose and what there is to tell; raises as
    apply_edit."""
    made = _APPLY[type(edit)](drawing, edit, figures)
    changed, notes = made if isinstance(made, tuple) else (made, [])
    values = figures.values(changed)
    try:
        solved = solve(changed, values).drawing
    except SketchError as error:
        fights = [k for k in ways_out(changed, values) if k in drawing.constraints]
        error.fights = fights or error.fights
        raise
    _none_vanished(drawing, solved)
    gone = [c for k, c in drawing.constraints.items() if k not in solved.constraints]
    lost = [say_constraint(drawing, c) for c in gone if c.kind != "coincident"]
    lost += [name_of(drawing, t) for t in drawing.texts if t not in solved.texts]
    check_texts(solved, values)
    return Rehearsal(solved, lost if getattr(edit, "op", "") != "remove" else [], notes)


def _none_vanished(before: Drawing, after: Drawing) -> None:
    """Raise SketchError when an edit met its constraints only by shrinking a line to nothing."""
    least = BROKEN * Layout(after).size()
    for c, curve in after.curves.items():
        old = before.curves.get(c)
        if isinstance(curve, Line) and isinstance(old, Line):
            length, had = (
                math.dist(d.place(c_.start), d.place(c_.end)) for d, c_ in ((after, curve), (before, old))
            )
            if length < least < had:
                raise SketchError(
                    f"This would fight with the other constraints: {name_of(before, c)} would shrink to "
                    "nothing. "
                    "Drop one of them first. Nothing was changed.",
                    field=c,
                )


def with_constraint(drawing: Drawing, c: Constraint) -> Drawing:
    last = drawing.last + 1
    return drawing.model_copy(update={"constraints": {**drawing.constraints, f"k{last}": c}, "last": last})


def existing(drawing: Drawing, k: str) -> Constraint:
    if k not in drawing.constraints:
        raise SketchError(f"There is no constraint “{k}” in this sketch any more.", field=k)
    return drawing.constraints[k]
