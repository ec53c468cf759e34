"""Hatching of cut areas: lines at 45 degrees, of the next body at 135 (ISO 128-3)."""

from __future__ import annotations

import math

import numpy as np

from ..strokes import Stroke
from .ink import Ink, line, moved

__all__ = ["APART", "hatched"]

APART = 3.0  # mm on paper between the lines
ROUND = 48  # straight pieces of a bent stroke


def hatched(loops: list[list[Stroke]], k: float, angle: float, apart: float = APART) -> list[Ink]:
    """Return the hatching of an area, mm on paper. loops : in mm of the part; k : paper for one of them;
    angle : in rad.

    The loops are turned until the lines are level; each level line is inside between every other crossing.
    """
    c, s = math.cos(-angle), math.sin(-angle)
    edges = []
    for loop in loops:
        places = [p for stroke in loop for p in _places(moved(stroke, k, (0.0, 0.0)))]
        xy = np.asarray(places) @ np.array([[c, s], [-s, c]])
        edges.append(np.hstack([xy, np.roll(xy, -1, axis=0)]))
    x0, y0, x1, y1 = np.vstack(edges).T
    found = []
    first, last = math.ceil(y0.min() / apart), math.floor(y0.max() / apart)
    for n in range(first, last + 1):
        y = n * apart + 1e-7  # never through a corner
        meets = (y0 > y) != (y1 > y)
        if not meets.any():
            continue
        xs = np.sort(x0[meets] + (y - y0[meets]) / (y1[meets] - y0[meets]) * (x1[meets] - x0[meets]))
        for a, b in zip(xs[::2], xs[1::2], strict=True):
            if b - a > 1e-3:
                found.append(line(_back(float(a), y, c, s), _back(float(b), y, c, s), "hatch"))
    return found


def _places(stroke: Stroke) -> list[tuple[float, float]]:
    n = 1 if stroke.kind == "line" else ROUND
    return [stroke.at(i / n) for i in range(n)]


def _back(x: float, y: float, c: float, s: float) -> tuple[float, float]:
    return x * c + y * s, -x * s + y * c
