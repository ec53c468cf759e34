"""A point stands midway along a line."""

from __future__ import annotations

from ..drawn import Constraint, Layout
from ..equations import mean
from .base import Compiled, Row, Rule, register


@register
class Midpoint(Rule):
    """A point stands in the middle of a line, or of two points."""

    kind, title, symbol, key = "midpoint", "Midpoint", "◇", "c m"
    takes = (("point", "line"), ("point", "point", "point"))

    def compile(self, c: Constraint, at: Layout, value: float) -> Compiled:
        """The mean of the two ends, in x and in y."""
        ends = at.drawing.line_points(c.of[1]) if len(c.of) == 2 else (c.of[1], c.of[2])
        p, a, b = (at.xy(e) for e in (c.of[0], *ends))
        return Compiled([Row(mean, (p[i], a[i], b[i])) for i in (0, 1)])
