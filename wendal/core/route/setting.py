"""Several dimensions of a part set at once, and checked once: one by one, what is right as a whole might be
refused on the way."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any, Literal

from pydantic import Field

from ..errors import CommandRefused
from ..steps.sketch import Sketch
from ..stored import Stored, Value
from .checks import check_complete, figures_of, no_new_trouble
from .document import Part

__all__ = ["SETTING", "SetFormulas", "with_values"]


class SetFormulas(Stored):
    """Give several tags other formulas in one edit. why : what it is for, in a few words."""

    do: Literal["set_formulas"] = "set_formulas"
    values: dict[str, str] = Field(min_length=1, max_length=1000)
    why: str = Field("", max_length=120)


def with_values(part: Part, changes: Mapping[str, str]) -> Part:
    """Return a part with several dimensions set at once and checked once; raises WendalError."""
    rows = {r.tag: r for r in part.rows()}
    for tag in changes:
        if tag not in rows:
            raise CommandRefused(f"There is no tag “{tag}” in the ledger.", field=tag)
    ledger = [
        e.model_copy(update={"formula": changes[e.tag]}) if e.tag in changes else e for e in part.ledger
    ]
    steps, touched = list(part.steps), set()
    for tag, formula in changes.items():
        if rows[tag].step:
            i = part.index(rows[tag].step)
            steps[i] = steps[i].with_value(rows[tag].place, Value(formula=formula, tag=tag))
            touched.add(i)
    after = part.model_copy(update={"ledger": ledger, "steps": steps})
    no_new_trouble(part, after)
    for i in touched:
        if not isinstance(steps[i], Sketch):
            check_complete(steps[i], after)
    return after


def _set_formulas(part: Part, command: SetFormulas) -> Part:
    after = with_values(part, command.values)
    figures = figures_of(after)
    for row in part.rows():
        step = after.step(row.step) if row.tag in command.values and row.step else None
        if isinstance(step, Sketch):
            figures.checked(step.drawing, row.place)
    return after


SETTING: dict[type, Any] = {SetFormulas: _set_formulas}
