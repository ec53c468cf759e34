"""What stands on a page: strokes by their pens, words, filled shapes; mm from the page's lower left
corner."""

from __future__ import annotations

import math
from collections.abc import Iterable
from dataclasses import dataclass, field, replace
from itertools import pairwise
from typing import Literal

from ..lettering.letters import lettered
from ..strokes import Stroke
from .signs import SIGNS

__all__ = [
    "FONT",
    "PENS",
    "XY",
    "Blot",
    "Box",
    "Ink",
    "Item",
    "Pen",
    "PenName",
    "Text",
    "around",
    "boxes_meet",
    "line",
    "moved",
    "polyline",
    "width_of",
]

XY = tuple[float, float]
Box = tuple[float, float, float, float]  # x low, y low, x high, y high
FONT = "barlow"
PenName = Literal[
    "outline", "hidden", "smooth", "centre", "thread", "thin", "hatch", "cut", "border", "text", "changed",
    "lost", "draft",
]  # fmt: skip


@dataclass(frozen=True, slots=True)
class Pen:
    """A line of ISO 128-2, line group 0.5: its width, mm, and the dashes of its pattern, mm.

    layer : in a DXF file; linetype : there. colour : on the screen and on paper, for what is no part of a
    drawing."""

    width: float
    dashes: tuple[float, ...] = ()
    layer: str = ""
    linetype: str = "CONTINUOUS"
    colour: str = "#000000"


# ISO 128-2: dashes of 12 d, gaps of 3 d; a long-dash-dotted line 24 d, 3 d, 0.5 d, 3 d (d: the narrow width,
# with
# which the pattern stays legible).
THIN, WIDE = 0.25, 0.5
_DASHED = (12 * THIN, 3 * THIN)
_CHAIN = (24 * THIN, 3 * THIN, 0.5 * THIN, 3 * THIN)
PENS: dict[str, Pen] = {
    "outline": Pen(WIDE, layer="OUTLINE"),
    "hidden": Pen(THIN, _DASHED, "HIDDEN", "DASHED"),
    "smooth": Pen(THIN, layer="SMOOTH"),
    "centre": Pen(THIN, _CHAIN, "CENTRE", "CENTER"),
    "thread": Pen(THIN, layer="THREAD"),
    "thin": Pen(THIN, layer="DIMENSIONS"),
    "hatch": Pen(0.18, layer="HATCH"),
    "cut": Pen(WIDE, layer="CUT"),
    "border": Pen(WIDE, layer="BORDER"),
    "text": Pen(0.35, layer="TEXT"),
    "changed": Pen(0.35, layer="CHANGED", colour="#9c2f1f"),
    "lost": Pen(0.35, layer="LOST", colour="#b3241c"),
    "draft": Pen(THIN, layer="DRAFT", colour="#6f6459"),
}


@dataclass(frozen=True, slots=True)
class Ink:
    """A stroke with its pen. body, edge, face : what of the part it is, by index; "" and -1 for none."""

    stroke: Stroke
    pen: PenName
    body: str = ""
    edge: int = -1
    face: int = -1


@dataclass(frozen=True, slots=True)
class Text:
    """Words: the foot of their beginning, mm a capital, the angle in rad they run at, their pen (its
    colour)."""

    words: str
    at: XY
    height: float
    angle: float = 0.0
    pen: PenName = "text"


@dataclass(frozen=True, slots=True)
class Blot:
    """A filled shape, such as an arrow's head."""

    places: tuple[XY, ...]
    pen: PenName = "thin"


@dataclass(slots=True)
class Item:
    """A thing on a page, which is picked as one: its id, what it is, its ink.

    told : its figure, for the comparison of issues. trouble : why it is lost or held. frame : the box of a
    view. drives : the tag that a dimension tells; place : where its words are, from which it is moved;
    base : from where that is counted.
    real : of a dimension, what it measures between and where it stands, for formats that know dimensions."""

    id: str
    of: str
    inks: list[Ink] = field(default_factory=list)
    texts: list[Text] = field(default_factory=list)
    blots: list[Blot] = field(default_factory=list)
    told: str = ""
    trouble: str = ""
    drives: str = ""
    place: XY = (0.0, 0.0)
    base: XY = (0.0, 0.0)
    real: tuple[str, tuple[XY, ...]] | None = None

    def add(self, other: Item) -> None:
        """Take in another's ink."""
        self.inks += other.inks
        self.texts += other.texts
        self.blots += other.blots

    def box(self) -> Box:
        """Return the box round its ink; that of its place where there is none."""
        places = [p for i in self.inks for p in _places(i.stroke)]
        places += [p for t in self.texts for p in corners(t)]
        places += [p for b in self.blots for p in b.places]
        return around(places or [self.place])


def _places(stroke: Stroke) -> list[XY]:
    n = 1 if stroke.kind == "line" else 16
    return [stroke.at(i / n) for i in range(n + 1)]


def around(places: Iterable[XY]) -> Box:
    """Return the box round places."""
    xs, ys = zip(*places, strict=True)
    return min(xs), min(ys), max(xs), max(ys)


def boxes_meet(a: Box, b: Box, apart: float = 0.0) -> bool:
    """Tell whether two boxes come nearer than `apart`."""
    return a[0] < b[2] + apart and b[0] < a[2] + apart and a[1] < b[3] + apart and b[1] < a[3] + apart


def width_of(words: str, height: float) -> float:
    """Return how long words are in the font of drawings, mm, with the signs that are drawn."""
    total, run = 0.0, ""
    for sign in words:
        if sign in SIGNS:
            total += (lettered(run, FONT).width if run else 0.0) + SIGNS[sign].width
            run = ""
        else:
            run += sign
    return (total + (lettered(run, FONT).width if run else 0.0)) * height


def corners(text: Text) -> list[XY]:
    """Return the corners of a text's box: a capital high."""
    c, s = math.cos(text.angle), math.sin(text.angle)
    w = width_of(text.words, text.height)
    return [
        (text.at[0] + u * c - v * s, text.at[1] + u * s + v * c)
        for u, v in ((0.0, 0.0), (w, 0.0), (w, text.height), (0.0, text.height))
    ]


def line(a: XY, b: XY, pen: PenName = "thin") -> Ink:
    """Return a straight line."""
    return Ink(Stroke("line", a, b), pen)


def polyline(places: Iterable[XY], pen: PenName = "thin", closed: bool = False) -> list[Ink]:
    """Return straight lines from place to place."""
    held = list(places)
    if closed:
        held.append(held[0])
    return [line(a, b, pen) for a, b in pairwise(held)]


def moved(stroke: Stroke, k: float, by: XY) -> Stroke:
    """Return a stroke made k times as large and then shifted."""

    def at(p: XY) -> XY:
        return k * p[0] + by[0], k * p[1] + by[1]

    return replace(
        stroke,
        start=at(stroke.start),
        end=at(stroke.end),
        centre=at(stroke.centre),
        radius=k * stroke.radius,
        major=(k * stroke.major[0], k * stroke.major[1]),
        poles=tuple(at(p) for p in stroke.poles),
    )
