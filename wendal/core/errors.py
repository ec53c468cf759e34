"""Errors that reach the user: what happened, where, and what to do.

WendalError
├── FormulaError      a formula cannot be read or has no value
├── SketchError       a sketch edit or constraint is refused
├── StepError         a step cannot be built from what it was given
├── ReferenceLost     a step's reference finds no geometry
├── CommandRefused    an edit of the part is not possible
├── DocumentError     a part's JSON cannot be read
└── InternalFault     a fault of ours: logged, told as one, never remembered
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any, Self

__all__ = [
    "CommandRefused",
    "DocumentError",
    "FormulaError",
    "InternalFault",
    "ReferenceLost",
    "SketchError",
    "StepError",
    "WendalError",
]


class WendalError(Exception):
    """A refusal in words.

    message : a sentence for the user, with what to do about it.
    field : the blank, tag or JSON path it concerns, or "".
    step : the id of the step it concerns, or "".
    at : the character of a formula at which it went wrong, or None.
    """

    code = "error"

    def __init__(self, message: str, *, field: str = "", step: str = "", at: int | None = None) -> None:
        super().__init__(message)
        self.message, self.field, self.step, self.at = message, field, step, at

    def located(self, *, field: str = "", step: str = "") -> Self:
        """Return self with field and step filled in where they were still empty."""
        self.field, self.step = self.field or field, self.step or step
        return self

    def bare(self) -> Self:
        """Return self without its trace, which would hold on to everything that was at work when it was
        raised."""
        self.__traceback__ = self.__cause__ = self.__context__ = None
        return self


class FormulaError(WendalError):
    """A formula cannot be read, names an unknown tag, mixes units or has no finite value."""

    code = "formula"


class SketchError(WendalError):
    """A sketch edit is refused and the sketch stays as it was.

    fights : ids of the constraints that stand against it, any of which may go to let it in, newest first.
    spare : what was refused is a dimension that can still be kept to tell its value.
    """

    code = "sketch"

    def __init__(
        self,
        message: str,
        *,
        field: str = "",
        step: str = "",
        fights: Sequence[str] = (),
        spare: bool = False,
    ) -> None:
        super().__init__(message, field=field, step=step)
        self.fights, self.spare = list(fights), spare


class StepError(WendalError):
    """A step cannot be built; it stops, and steps that do not need it go on.

    dots : where the copies of a pattern would stand, by their numbers, so that one to blame can be left out.
    offer : a formula for the field with which it was found to work, or "". findable : one can be looked for.
    """

    code = "step"

    def __init__(
        self,
        message: str,
        *,
        field: str = "",
        step: str = "",
        dots: dict[str, Any] | None = None,
        offer: str = "",
        findable: bool = False,
    ) -> None:
        super().__init__(message, field=field, step=step)
        self.dots, self.offer, self.findable = dots or {}, offer, findable


class ReferenceLost(WendalError):
    """A reference finds no geometry any more, or cannot tell which of several is meant.

    candidates : what could be meant instead, likeliest first (`core/reference` Candidate).
    """

    code = "reference"

    def __init__(
        self, message: str, *, field: str = "", step: str = "", candidates: Sequence[Any] = ()
    ) -> None:
        super().__init__(message, field=field, step=step)
        self.candidates = candidates


class CommandRefused(WendalError):
    """An edit of the part is not possible; the part stays as it was."""

    code = "refused"


class DocumentError(WendalError):
    """A part's JSON does not follow the published schema."""

    code = "document"


class InternalFault(WendalError):
    """A fault of ours, not of what was asked for. Whoever makes one has logged its cause."""

    code = "fault"
