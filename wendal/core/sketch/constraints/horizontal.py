"""A line, or two points, run along x."""

from __future__ import annotations

from ..drawn import Constraint, Layout
from .base import Compiled, Rule, register


@register
class Horizontal(Rule):
    """A line or a pair of points has one y."""

    kind, title, symbol, key = "horizontal", "Horizontal", "―", "c h"
    takes = (("line",), ("point", "point"))

    def compile(self, c: Constraint, at: Layout, value: float) -> Compiled:
        """Merge the two y coordinates."""
        first, second = c.of if len(c.of) == 2 else at.drawing.line_points(c.of[0])
        return Compiled(merges=[(at.xy(first)[1], at.xy(second)[1])])
