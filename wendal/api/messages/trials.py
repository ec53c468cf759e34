"""What is told of trials: shakedowns, what moves what, aims, tolerances, families, other values tried on."""

from __future__ import annotations

from typing import Any, Literal

from wendal.core.trust import Aimed, FamilyFound, Moved, Sampled, ShakedownReport, Stack

from .base import Message
from .scene import MeshData

__all__ = ["SayAimed", "SayFamily", "SayLastGood", "SayMoved", "SaySampled", "SayShaken", "SayTriedOn"]


class ShakenSince(Message):
    """What has changed since the shakedown before: of which version that was, which dimensions may go farther
    now, and which less far."""

    version: int
    sturdier: list[str]
    weaker: list[str]


class SayShaken(Message):
    """How far a shakedown is. order : the tags, the most fragile first; said : by tag, what ends its
    range."""

    type: Literal["shaken"] = "shaken"
    version: int
    report: ShakedownReport
    order: list[str]
    said: dict[str, str]
    since: ShakenSince | None


class SayMoved(Message):
    """How far it is known what moves what. stacks : once it is, of every figure its tolerances."""

    type: Literal["moved"] = "moved"
    version: int
    report: Moved
    stacks: list[Stack]


class SayAimed(Message):
    """How far an aim is."""

    type: Literal["aimed"] = "aimed"
    version: int
    report: Aimed


class SaySampled(Message):
    """How far sets by chance within the tolerances are."""

    type: Literal["sampled"] = "sampled"
    version: int
    report: Sampled


class SayFamily(Message):
    """How the members of the family stand, as far as that is known."""

    type: Literal["family"] = "family"
    version: int
    report: FamilyFound


class TriedBody(Message):
    """A body with other values, None where it is not there then; and as it is, None where it is not there
    now. volumes : of both, as it is first, mm³."""

    id: str
    name: str
    now: MeshData | None
    tried: MeshData | None
    volumes: tuple[float, float]


class SayLastGood(Message):
    """In which version a step was built last (0 : none was found), and what has changed since in what it
    hangs on. words : all of it; values : the formulas of then, by tag; fields : of the step itself, as they
    were; whole : these alone bring it back."""

    type: Literal["last_good"] = "last_good"
    id: int
    version: int
    words: list[str]
    values: dict[str, str]
    fields: dict[str, Any]
    whole: bool


class SayTriedOn(Message):
    """How the part would stand and look with other values. judgement : as of a trial; why, and in which step
    (at : its name) and field. other : what makes it another kind of thing. figures : what it comes to, where
    it is built (mm, rad, mm², mm³, g); see `core/trust/figures.py`."""

    type: Literal["tried_on"] = "tried_on"
    id: int
    judgement: str
    why: str
    step: str
    at: str
    field: str
    other: str
    figures: dict[str, float]
    bodies: list[TriedBody]
