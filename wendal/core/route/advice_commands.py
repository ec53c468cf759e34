"""Commands that take advice: a plane of its own in place of a face that a step stands on."""

from __future__ import annotations

from typing import Any, Literal

from pydantic import Field

from ..errors import CommandRefused
from ..stored import Stored
from .checks import check_complete
from .document import Part, read_step
from .route_commands import regrouped

__all__ = ["ADVICE", "StandOnPlane"]


class StandOnPlane(Stored):
    """Put a plane in before a step, so far off a base plane, and have the step stand on it. field : which of
    its references."""

    do: Literal["stand_on_plane"] = "stand_on_plane"
    step: str
    field: str
    base: Literal["XY", "YZ", "ZX"]
    formula: str = Field(min_length=1, max_length=1000)
    name: str = Field(min_length=1, max_length=80)


def _stand_on_plane(part: Part, command: StandOnPlane) -> Part:
    index, step = part.index(command.step), part.step(command.step)
    if not hasattr(getattr(step, command.field, None), "of"):
        raise CommandRefused(f"{step.name} has no pick “{command.field}”.", field=command.field)
    if any(s.name == command.name for s in part.steps):
        raise CommandRefused(f"There is a step named “{command.name}” already.", field="name")
    last = part.last + 1
    plane = read_step(
        {
            "kind": "plane",
            "id": f"s{last}",
            "name": command.name,
            "how": "offset",
            "first": {"of": "base", "name": command.base},
            "distance": {"formula": command.formula},
        }
    )
    there = read_step(step.put({command.field: {"of": "datum", "step": plane.id, "index": 0}}))
    check_complete(plane, part)
    steps = [*part.steps[:index], plane, there, *part.steps[index + 1 :]]
    return regrouped(part.model_copy(update={"steps": steps, "last": last}))


ADVICE: dict[type, Any] = {StandOnPlane: _stand_on_plane}
