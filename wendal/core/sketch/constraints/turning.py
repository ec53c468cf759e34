"""Directions of lines, read off a drawing."""

from __future__ import annotations

import math

from ...tolerance import BROKEN
from ..drawn import Layout


def turn(lines: list[str], at: Layout) -> float:
    """Return the turn from the first line's direction to the second's, rad in (-pi, pi]."""
    (ax, ay, bx, by), (cx, cy, dx, dy) = (at.ends(line) for line in lines)
    ux, uy, vx, vy = bx - ax, by - ay, dx - cx, dy - cy
    return math.atan2(ux * vy - uy * vx, ux * vx + uy * vy)


def line_length(lines: list[str], at: Layout) -> float:
    """Return the shorter of the lines' lengths in mm, which makes an angle's residual a length."""
    lengths = []
    for line in lines:
        ax, ay, bx, by = at.ends(line)
        lengths.append(math.hypot(bx - ax, by - ay))
    return max(min(lengths), BROKEN * at.size())


def offset(point: str, line: str, at: Layout) -> float:
    """Return the signed distance of a point from a line, positive to its left, mm."""
    px, py = (at.figures[v] for v in at.xy(point))
    ax, ay, bx, by = at.ends(line)
    length = math.hypot(bx - ax, by - ay) or 1.0
    return ((bx - ax) * (py - ay) - (by - ay) * (px - ax)) / length
