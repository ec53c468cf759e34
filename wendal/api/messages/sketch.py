"""A sketch explained."""

from __future__ import annotations

from typing import Literal

from wendal.core.sketch import Drawing

from .base import Flat, Message
from .scene import BoardRegion

__all__ = ["ConstraintRow", "FreedomData", "FreedomGroup", "Meeting", "OpenEnd", "SketchView", "TextRow"]


class FreedomData(Message):
    """One remaining motion."""

    words: str
    moves: dict[str, Flat]
    grows: dict[str, float]


class FreedomGroup(Message):
    """Motions of one kind, told in one line; of : their numbers."""

    words: str
    of: list[int]


class OpenEnd(Message):
    """A place where an outline stays open; gap: mm to the next end."""

    curve: str
    at: Flat
    gap: float | None


class Meeting(Message):
    """A place where two curves pass through each other, or where one doubles the other."""

    what: Literal["crossing", "overlap"]
    of: list[str]
    at: Flat


class ConstraintRow(Message):
    """A constraint in words.

    words : what it is and what it binds; title : its kind; bound : what it binds. figure : what is shown, as
    drawings have it, without the unit of length; unit : of a number that stands alone as the formula, "mm" or
    "in", else "".
    """

    id: str
    kind: str
    symbol: str
    words: str
    title: str
    bound: str
    figure: str
    unit: str
    of: list[str]
    dimension: bool
    shown: str
    tag: str
    formula: str
    manner: str
    at: Flat | None
    reference: bool
    value: float | None = None


class TextRow(Message):
    """A text as it is written.

    path : its outlines as the data of an SVG path (mm in the sketch); boxes : four corners round every
    letter; trouble : why it can not be set.
    """

    id: str
    base: str
    words: str
    font: str
    path: str
    boxes: list[list[Flat]]
    tag: str
    formula: str
    shown: str
    trouble: str = ""


class SketchView(Message):
    """A sketch explained.

    free : how many freedoms it has; freedoms : each of them, None as long as there are no words for them yet.
    """

    step: str
    name: str
    trouble: str
    fights: list[str]
    drawing: Drawing
    free: int
    freedoms: list[FreedomData] | None
    groups: list[FreedomGroup] = []
    notes: list[str] = []
    pencilled: list[str]
    regions: list[BoardRegion]
    open_ends: list[OpenEnd]
    meetings: list[Meeting]
    constraints: list[ConstraintRow]
    texts: list[TextRow]
    names: dict[str, str]
