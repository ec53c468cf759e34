"""Two points are mirror images about a line."""

from __future__ import annotations

from ..drawn import Constraint, Layout
from ..equations import mid_on_line, square_to_line
from .base import Compiled, Row, Rule, register


@register
class Symmetric(Rule):
    """Two points lie symmetric about a line or axis."""

    kind, title, symbol, key = "symmetric", "Symmetric", "⌯", "c y"
    takes = (("point", "point", "line"),)

    def compile(self, c: Constraint, at: Layout, value: float) -> Compiled:
        """Their join is square to the line and its middle lies on it."""
        variables = at.xy(c.of[0]) + at.xy(c.of[1]) + at.line(c.of[2])
        return Compiled([Row(square_to_line, variables), Row(mid_on_line, variables)])
