"""Setting words on a page: letters in the font of drawings, and signs that it does not have as strokes."""

from __future__ import annotations

import math
from itertools import groupby

from ..strokes import Stroke
from .ink import XY, Ink, Item, PenName, Text, moved, width_of
from .signs import SIGNS

__all__ = ["set_words"]


def set_words(
    item: Item,
    words: str,
    at: XY,
    height: float,
    angle: float = 0.0,
    share: float = 0.0,
    pen: PenName = "text",
) -> float:
    """Set words on an item, signs as strokes; return their length, mm.

    at : on the foot line; share : of the length that lies before it (0 begins there, 0.5 has its middle
    there)."""
    length = width_of(words, height)
    c, s = math.cos(angle), math.sin(angle)
    x, y = at[0] - share * length * c, at[1] - share * length * s
    for drawn, run in groupby(words, lambda sign: sign if sign in SIGNS else ""):
        for text in run if drawn else ["".join(run)]:
            if drawn:
                item.inks += [
                    Ink(_turned(moved(k, height, (0.0, 0.0)), angle, (x, y)), pen)
                    for k in SIGNS[text].strokes()
                ]
            elif text:
                item.texts.append(Text(text, (x, y), height, angle, pen))
            way = width_of(text, height)
            x, y = x + way * c, y + way * s
    return length


def _turned(stroke: Stroke, angle: float, by: XY) -> Stroke:
    c, s = math.cos(angle), math.sin(angle)

    def at(p: XY) -> XY:
        return p[0] * c - p[1] * s + by[0], p[0] * s + p[1] * c + by[1]

    if stroke.kind == "line":
        return Stroke("line", at(stroke.start), at(stroke.end))
    return Stroke(
        "arc",
        at(stroke.start),
        at(stroke.end),
        centre=at(stroke.centre),
        radius=stroke.radius,
        t0=stroke.t0 + angle,
        t1=stroke.t1 + angle,
    )
