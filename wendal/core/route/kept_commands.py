"""Commands on kept measures: keep one, change what or where it measures."""

from __future__ import annotations

from typing import Any, Literal

from pydantic import Field

from ..errors import CommandRefused
from ..quantity import usable_tag
from ..reference import BodyRef, ThingRef
from ..stored import Stored
from .document import Kept, Part

__all__ = ["KEPT", "EditKept", "KeepMeasure", "without_step"]


class KeepMeasure(Stored):
    """Keep a measure under a tag."""

    do: Literal["keep_measure"] = "keep_measure"
    measure: Kept


class EditKept(Stored):
    """Change what a kept measure measures, or behind which step; None leaves as it is."""

    do: Literal["edit_kept"] = "edit_kept"
    tag: str
    things: list[ThingRef | BodyRef] | None = Field(None, min_length=1, max_length=200)
    after: str | None = None


def _keep_measure(part: Part, command: KeepMeasure) -> Part:
    measure = command.measure
    usable_tag(measure.tag, part.tags())
    for step in (measure.after, measure.system):
        if step:
            part.index(step)
    return part.model_copy(update={"kept": [*part.kept, measure]})


def _edit_kept(part: Part, command: EditKept) -> Part:
    if all(k.tag != command.tag for k in part.kept):
        raise CommandRefused(f"There is no kept measure “{command.tag}”.", field=command.tag)
    if command.after:
        part.index(command.after)
    update = {n: v for n in ("things", "after") if (v := getattr(command, n)) is not None}
    kept = [k.model_copy(update=update) if k.tag == command.tag else k for k in part.kept]
    return part.model_copy(update={"kept": kept})


def without_step(part: Part, step: str) -> list[Kept]:
    """Return the kept measures as they stand once a step is deleted: those taken behind it are taken behind
    the one before it."""
    index = part.index(step)
    before = part.steps[index - 1].id if index else ""
    return [k.model_copy(update={"after": before}) if k.after == step else k for k in part.kept]


KEPT: dict[type, Any] = {KeepMeasure: _keep_measure, EditKept: _edit_kept}
