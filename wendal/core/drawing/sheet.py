"""The paper: its border (ISO 5457) and the title block, with fields that are filled from the part."""

from __future__ import annotations

import math
from dataclasses import dataclass

from ..strokes import Stroke
from .ink import XY, Box, Ink, Item, line, polyline, width_of
from .words import set_words

__all__ = ["BLOCK", "Titles", "area_of", "bordered"]

LEFT, ELSE = 20.0, 10.0  # mm from the paper's edge to the border
BLOCK = (180.0, 46.0)  # mm: the title block, in the lower right corner


@dataclass(frozen=True, slots=True)
class Titles:
    """What the title block says; "" leaves a field empty."""

    part: str
    number: str = ""
    material: str = ""
    mass: str = ""
    scale: str = ""
    date: str = ""
    version: str = ""
    drawn_by: str = ""
    tolerance: str = ""
    page: str = ""
    of: str = ""
    size: str = ""
    unit: str = "mm"
    angle: str = "first"
    issue: str = ""


def area_of(paper: XY) -> Box:
    """Return the area inside of the border."""
    return LEFT, ELSE, paper[0] - ELSE, paper[1] - ELSE


def bordered(paper: XY, titles: Titles) -> Item:
    """Return the border with its centring marks, and the title block."""
    item = Item("frame", "frame")
    x0, y0, x1, y1 = area_of(paper)
    item.inks += polyline([(x0, y0), (x1, y0), (x1, y1), (x0, y1)], "border", closed=True)
    cx, cy = paper[0] / 2, paper[1] / 2
    for a, b in (
        ((cx, 0.0), (cx, y0 + 5)),
        ((cx, paper[1]), (cx, y1 - 5)),
        ((0.0, cy), (x0 + 5, cy)),
        ((paper[0], cy), (x1 - 5, cy)),
    ):
        item.inks.append(line(a, b, "border"))
    _zones(item, paper)
    _block(item, (x1 - BLOCK[0], y0), titles)
    return item


def _zones(item: Item, paper: XY) -> None:
    """Draw the fields of the grid, about 50 mm each, by which a place on the page is told: figures along it,
    letters from above."""
    x0, y0, x1, y1 = area_of(paper)
    for axis, (low, high) in enumerate(((x0, x1), (y0, y1))):
        count = max(2, 2 * round((high - low) / 100))
        step = (high - low) / count
        for n in range(count):
            at = low + (n + 0.5) * step
            sign = str(n + 1) if axis == 0 else "ABCDEFGHJKLMNPQRSTUVWXYZ"[count - 1 - n]
            if axis == 0:
                set_words(item, sign, (at, y1 + 3.2), 2.5, share=0.5)
                set_words(item, sign, (at, y0 - 5.7), 2.5, share=0.5)
            else:
                set_words(item, sign, (x0 - 4.5, at - 1.25), 2.5, share=0.5)
                set_words(item, sign, (x1 + 4.5, at - 1.25), 2.5, share=0.5)
            if n:
                edge = low + n * step
                for a, b in ((x0 - 4, x0), (x1, x1 + 4)) if axis else ((y0 - 4, y0), (y1, y1 + 4)):
                    ends = ((a, edge), (b, edge)) if axis else ((edge, a), (edge, b))
                    item.inks.append(line(*ends, "thin"))


def _block(item: Item, at: XY, t: Titles) -> None:
    """Draw the title block: what the part is on the left, what the drawing is on the right."""
    w, h = BLOCK
    x, y = at
    item.inks += polyline([(x, y), (x + w, y), (x + w, y + h), (x, y + h)], "border", closed=True)
    for a, b in (
        ((x, y + 26), (x + w, y + 26)),
        ((x, y + 13), (x + w, y + 13)),
        ((x + 112, y), (x + 112, y + h)),
        ((x + 56, y), (x + 56, y + 26)),
        ((x + 146, y), (x + 146, y + 26)),
    ):
        item.inks.append(line(a, b, "thin"))
    _field(item, (x, y + 26), 112, "part", t.part, 5.0, 20)
    _field(item, (x + 112, y + 26), 68, "number", t.number, 5.0, 20)
    _field(item, (x, y + 13), 56, "material", t.material)
    _field(item, (x + 56, y + 13), 56, "mass", t.mass)
    _field(item, (x + 112, y + 13), 34, "scale", t.scale)
    _field(item, (x + 146, y + 13), 34, "page", " · ".join(s for s in (t.size, t.of) if s))
    _field(item, (x, y), 56, "general tolerances", t.tolerance)
    _field(item, (x + 56, y), 56, "drawn by, on", ", ".join(s for s in (t.drawn_by, t.date) if s))
    version = t.version + (f", issue {t.issue}" if t.issue else "")
    _field(item, (x + 112, y), 34, "version", version)
    _field(item, (x + 146, y), 34, f"lengths in {t.unit}", "")
    _projection(item, (x + 163, y + 4.2), t.angle)
    set_words(item, t.page, (x + w - 3, y + 41), 2.5, share=1.0)


def _field(
    item: Item, at: XY, width: float, name: str, said: str, height: float = 3.5, deep: float = 13.0
) -> None:
    set_words(item, name, (at[0] + 2, at[1] + deep - 3.6), 1.8)
    size, room = height, width - 4
    long = width_of(said, height)
    if long > room:
        size = max(height * room / long, 1.8)
        while said and width_of(said, size) > room:
            said = said.rstrip("…")[:-1] + "…"
    set_words(item, said, (at[0] + 2, at[1] + (deep - 4.5 - size) / 2 + 0.4), size)


def _projection(item: Item, middle: XY, angle: str) -> None:
    """Draw the symbol of ISO 5456-2: a truncated cone from the side, and its small end seen from the left: on
    the right of it in the first angle, on the left in the third."""
    x, y = middle
    wide, narrow, long, apart = 3.2, 1.6, 6.0, 11.0
    side = 1.0 if angle == "first" else -1.0
    left, round_ = x - side * apart / 2 - long / 2, x + side * apart / 2
    item.inks += polyline(
        [(left, y - narrow), (left + long, y - wide), (left + long, y + wide), (left, y + narrow)],
        "outline",
        closed=True,
    )
    for r in (wide, narrow):
        start = (round_ + r, y)
        item.inks.append(Ink(Stroke("arc", start, start, (round_, y), r, 0.0, 2 * math.pi), "outline"))
    item.inks += [
        line((left - 1.5, y), (left + long + 1.5, y), "centre"),
        line((round_ - wide - 1.5, y), (round_ + wide + 1.5, y), "centre"),
        line((round_, y - wide - 0.8), (round_, y + wide + 0.8), "centre"),
    ]
