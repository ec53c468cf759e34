"""A line, or two points, run along y."""

from __future__ import annotations

from ..drawn import Constraint, Layout
from .base import Compiled, Rule, register


@register
class Vertical(Rule):
    """A line or a pair of points has one x."""

    kind, title, symbol, key = "vertical", "Vertical", "|", "c v"
    takes = (("line",), ("point", "point"))

    def compile(self, c: Constraint, at: Layout, value: float) -> Compiled:
        """Merge the two x coordinates."""
        first, second = c.of if len(c.of) == 2 else at.drawing.line_points(c.of[0])
        return Compiled(merges=[(at.xy(first)[0], at.xy(second)[0])])
