"""What has changed on a page since it was given out: figures that are told otherwise, gone, or new."""

from __future__ import annotations

import math
from dataclasses import dataclass

from ..errors import CommandRefused
from ..route.pages import Page
from ..strokes import Stroke
from .ink import Box, Ink, Item, corners
from .page import Sheet

__all__ = ["Change", "changed_since", "clouded", "figures_of"]

ARC = 2.2  # mm: the radius of a cloud's bows


@dataclass(frozen=True, slots=True)
class Change:
    """A figure that is told otherwise: by the id of its dimension; "" for none before, or none now."""

    id: str
    was: str
    now: str


def figures_of(sheet: Sheet) -> dict[str, str]:
    """Return the figures on a page, by the ids of what tells them."""
    return {i.id: i.told for i in sheet.items if i.told}


def changed_since(page: Page, now: dict[str, str], since: str = "", until: str = "") -> list[Change]:
    """Return what has changed since an issue: the last one for "". until : up to another issue, "" for now.

    Raises CommandRefused for an issue that is not there.
    """
    if not page.issues:
        return []
    was = _issue(page, since) if since else page.issues[-1].figures
    then = _issue(page, until) if until else now
    return [
        Change(i, was.get(i, ""), then.get(i, ""))
        for i in sorted({*was, *then}, key=lambda i: (i[0], int(i[1:])))
        if was.get(i) != then.get(i)
    ]


def _issue(page: Page, name: str) -> dict[str, str]:
    found = next((i for i in page.issues if i.name == name), None)
    if found is None:
        raise CommandRefused(f"This page was never given out as “{name}”.", field="since")
    return found.figures


def clouded(sheet: Sheet, changes: list[Change]) -> Item:
    """Return clouds round the figures that changed."""
    item = Item("changes", "changes")
    changed = {c.id for c in changes}
    for held in sheet.items:
        if held.id in changed and held.texts:
            xs = [p for t in held.texts for p in corners(t)]
            low = min(p[0] for p in xs), min(p[1] for p in xs)
            high = max(p[0] for p in xs), max(p[1] for p in xs)
            item.inks += _cloud((low[0] - 1.5, low[1] - 1.5, high[0] + 1.5, high[1] + 1.5))
    return item


def _cloud(box: Box) -> list[Ink]:
    """Return bows along the sides of a box, outward."""
    x0, y0, x1, y1 = box
    sides = [((x0, y0), (x1, y0)), ((x1, y0), (x1, y1)), ((x1, y1), (x0, y1)), ((x0, y1), (x0, y0))]
    inks = []
    for (ax, ay), (bx, by) in sides:
        length = math.hypot(bx - ax, by - ay)
        n = max(1, round(length / (2 * ARC)))
        r = length / n / 2
        base = math.atan2(by - ay, bx - ax)
        for i in range(n):
            s = (2 * i + 1) * r / length
            c = (ax + s * (bx - ax), ay + s * (by - ay))
            t0, t1 = base + math.pi, base + 2 * math.pi
            ends = [(c[0] + r * math.cos(t), c[1] + r * math.sin(t)) for t in (t0, t1)]
            inks.append(Ink(Stroke("arc", ends[0], ends[1], c, r, t0, t1), "changed"))
    return inks
