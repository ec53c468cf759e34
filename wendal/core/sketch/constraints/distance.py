"""The distance dimension, of whatever was picked."""

from __future__ import annotations

import math

from ..layout import Layout
from ..model import Constraint
from ..rows import distance, point_line, same
from .base import Compiled, Row, Rule, register
from .turning import offset


@register
class Distance(Rule):
    """A line's length, or the distance of two points, of a point and a line, of two parallel lines.

    Two points may be measured straight, horizontally or vertically. sense is the side on which the second
    (for a line: the point) stands, so that a change never turns the drawing over.
    """

    kind, title, symbol, key = "distance", "Distance", "↔", "c d"
    takes = (("line",), ("point", "point"), ("point", "line"), ("line", "line"))
    quantity = "length"

    def choose(self, c: Constraint, at: Layout) -> float:
        """Read the side off the drawing."""
        return 1.0 if self._signed(c, at) >= 0 else -1.0

    def measure(self, c: Constraint, at: Layout) -> float:
        """Return the present distance in mm."""
        return abs(self._signed(c, at))

    def compile(self, c: Constraint, at: Layout, value: float) -> Compiled:
        """A straight, axis-parallel or square distance."""
        pair = self._points(c, at)
        if pair is None:
            point, line = self._point_and_line(c, at)
            return Compiled([Row(point_line, at.xy(point) + at.line(line), (c.sense * value,))])
        (ax, ay), (bx, by) = (at.xy(p) for p in pair)
        if c.manner:
            first, second = (ax, bx) if c.manner == "horizontal" else (ay, by)
            return Compiled([Row(same, (second, first), (c.sense * value,))])
        return Compiled([Row(distance, (ax, ay, bx, by), (value,))])

    @staticmethod
    def _points(c: Constraint, at: Layout) -> tuple[str, str] | None:
        sorts = [at.drawing.sort(e) for e in c.of]
        if sorts == ["line"]:
            return at.drawing.line_points(c.of[0])
        return (c.of[0], c.of[1]) if sorts == ["point", "point"] else None

    @staticmethod
    def _point_and_line(c: Constraint, at: Layout) -> tuple[str, str]:
        first, second = c.of
        return (first if at.drawing.sort(first) == "point" else at.drawing.line_points(first)[0]), second

    def _signed(self, c: Constraint, at: Layout) -> float:
        pair = self._points(c, at)
        if pair is None:
            return offset(*self._point_and_line(c, at), at)
        (ax, ay), (bx, by) = (at.x[list(at.xy(p))] for p in pair)
        along = {"horizontal": bx - ax, "vertical": by - ay}
        return float(along[c.manner]) if c.manner else math.hypot(bx - ax, by - ay)
