"""How steps and their references stand after an evaluation."""

from __future__ import annotations

import dataclasses
from dataclasses import dataclass
from typing import Any

from ..reference import Candidate

__all__ = ["ReferenceState", "StepReport"]


@dataclass(frozen=True, slots=True)
class ReferenceState:
    """How one reference of a step stands.

    state : "sound", "re-found" or "lost". now : what confirming would store. item : its place among several
    of one field. said : what a thing of a body is called; of a face that is lost, how it came to be.
    """

    field: str
    state: str
    reason: str
    now: dict[str, Any] | None = None
    candidates: list[Candidate] = dataclasses.field(default_factory=list)
    item: int = 0
    said: str = ""


@dataclass(slots=True)
class StepReport:
    """How one step stands: "built", "waiting", "held" or "stopped".

    upon : the name of a held step that it stands on, directly or through others; "" for none.
    offer : a formula for the field with which a stopped step was found to work, or "". findable : one can be
    looked for.
    fault : it stopped by a fault of ours, not because it cannot be built.
    """

    id: str
    state: str
    message: str = ""
    field: str = ""
    key: str = ""
    references: list[ReferenceState] = dataclasses.field(default_factory=list)
    answers: int = 1
    upon: str = ""
    offer: str = ""
    findable: bool = False
    stands_on: list[str] = dataclasses.field(default_factory=list)
    dots: dict[str, Any] = dataclasses.field(default_factory=dict)
    milliseconds: float = 0.0
    remembered: bool = False
    fault: bool = False
