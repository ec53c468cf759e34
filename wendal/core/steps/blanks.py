"""The blanks of a step's sentence, as the client sees them: what may be typed, picked or chosen there."""

from __future__ import annotations

from dataclasses import asdict, dataclass, field
from typing import Any, ClassVar, Literal

__all__ = ["Blank", "Choice", "Name", "Number", "Pick"]


@dataclass(frozen=True, slots=True, kw_only=True)
class Blank:
    """One underlined place.

    label : the noun for it in messages and, while it is empty, in the sentence.
    when : the blank is there only while other fields have one of these values.
    """

    sort: ClassVar[str]
    label: str
    when: dict[str, tuple[str, ...]] = field(default_factory=dict)

    def published(self) -> dict[str, Any]:
        """Return the blank as JSON for the client."""
        return {"sort": self.sort, **asdict(self)}


@dataclass(frozen=True, slots=True, kw_only=True)
class Name(Blank):
    """The step's own name."""

    sort: ClassVar[str] = "name"


@dataclass(frozen=True, slots=True, kw_only=True)
class Number(Blank):
    """A formula. above : the value must be greater than this (mm, rad or a count); None for any."""

    sort: ClassVar[str] = "number"
    kind: Literal["length", "angle", "count"] = "length"
    above: float | None = None
    start: str = "10 mm"


@dataclass(frozen=True, slots=True, kw_only=True)
class Pick(Blank):
    """Geometry. accepts : what fits: "base", "datum", "flat" (face), "region", "sketch", "body".

    needs : what is still wanted while it is empty, in words.
    """

    sort: ClassVar[str] = "pick"
    accepts: tuple[str, ...]
    needs: str
    many: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class Choice(Blank):
    """One of several; words : how each value reads in the sentence."""

    sort: ClassVar[str] = "choice"
    words: dict[str, str]
