"""The blanks of a step's sentence, as the client sees them: what may be typed, picked or chosen there."""

from __future__ import annotations

import math
from dataclasses import asdict, dataclass, field
from typing import Any, ClassVar, Literal

from .tolerance import SAME_NUMBER

__all__ = ["WORDS", "Answer", "Blank", "Choice", "Dots", "Facing", "Name", "Number", "Pick", "Words"]


WORDS = {
    "words": True
}  # of a dataclass field: it tells what a thing is called and is no part of what the thing is


@dataclass(frozen=True, slots=True, kw_only=True)
class Blank:
    """One underlined place.

    label : the noun for it in messages and, while it is empty, in the sentence. when : the blank is there
    only while other fields have one of these values, and are asked for themselves. before, after : words that
    come and go with it.
    """

    kind: ClassVar[str]
    label: str
    when: dict[str, tuple[str, ...]] = field(default_factory=dict)
    before: str = ""
    after: str = ""

    def published(self) -> dict[str, Any]:
        """Return the blank as JSON for the client."""
        return {"kind": self.kind, **asdict(self)}


@dataclass(frozen=True, slots=True, kw_only=True)
class Name(Blank):
    """The step's own name."""

    kind: ClassVar[str] = "name"


@dataclass(frozen=True, slots=True, kw_only=True)
class Number(Blank):
    """A formula. above : the value must be greater than this (mm, rad or a count); most : and no greater than
    this; None for any.

    quiet : it stands in the ledger only when it differs from its start.
    """

    kind: ClassVar[str] = "number"
    quantity: Literal["length", "angle", "count", "share"] = "length"
    above: float | None = None
    most: float | None = None
    start: str = "10 mm"
    quiet: bool = False

    def fault(self, value: float) -> str:
        """Say what is wrong with a value (mm, rad or a count), "" for nothing."""
        if self.above is not None and value <= self.above:
            return f"The {self.label} must be greater than {self._said(self.above)}"
        if self.most is not None and value > self.most * (1 + SAME_NUMBER):
            return f"The {self.label} may be at most {self._said(self.most)}"
        return ""

    def _said(self, value: float) -> str:
        if not value:
            return "zero"
        return (
            f"{math.degrees(value):g}°"
            if self.quantity == "angle"
            else f"{value:g} mm"
            if self.quantity == "length"
            else f"{value:g}"
        )


@dataclass(frozen=True, slots=True, kw_only=True)
class Pick(Blank):
    """Geometry. accepts : the facets that fit, as `core/datum` lists them: "plane", "line", "region", "body"
    …

    needs : what is still wanted while it is empty, in words. unless : what stands for an optional one that is
    empty; unsaid : a finished sentence leaves it out then. fixed : it stays where it is when the step is made
    again elsewhere. accepts_with : facets that fit only while other fields have one of these values. pieces :
    an edge that is in several pieces now is meant with all of them, and where some of the picks are lost, the
    others are built. plain : nothing but the figures of a pick are used, not the shape that it is of, so that
    what becomes of the body elsewhere changes nothing.
    """

    kind: ClassVar[str] = "pick"
    accepts: tuple[str, ...]
    needs: str
    many: bool = False
    optional: bool = False
    unless: str = ""
    unsaid: bool = False
    fixed: bool = False
    accepts_with: dict[str, dict[str, tuple[str, ...]]] = field(default_factory=dict)
    pieces: bool = False
    plain: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class Choice(Blank):
    """One of several; words : how each value reads in the sentence.

    clause : what it adds when it is not "", as a chip to add it by: "draft angle". Such a choice is a clause
    of the sentence that comes and goes as a whole, with every blank that hangs on it. turns : it is what the
    other answer turns.
    """

    kind: ClassVar[str] = "choice"
    words: dict[str, str]
    clause: str = ""
    turns: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True, kw_only=True)
class Words(Blank):
    """A few plain words, such as a tolerance; may be left empty."""

    kind: ClassVar[str] = "words"
    hint: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class Dots(Blank):
    """Copies that are left out, by their numbers; they are picked on the stage, where each copy has a dot."""

    kind: ClassVar[str] = "dots"


@dataclass(frozen=True, slots=True, kw_only=True)
class Answer(Blank):
    """Which of several answers is meant, counted from 0; it reads "first of 2" and is turned with one key."""

    kind: ClassVar[str] = "answer"


@dataclass(frozen=True, slots=True, kw_only=True)
class Facing(Blank):
    """The direction towards the viewer, taken from the view when the step is made."""

    kind: ClassVar[str] = "facing"
