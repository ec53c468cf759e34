"""Two lines lie in one."""

from __future__ import annotations

from ..drawn import Constraint, Layout
from ..equations import point_line
from .base import Compiled, Row, Rule, register


@register
class Collinear(Rule):
    """Two lines lie on one straight line, wherever they begin and end."""

    kind, title, symbol, key = "collinear", "Collinear", "⋯", "c l"
    takes = (("line", "line"),)

    def compile(self, c: Constraint, at: Layout, value: float) -> Compiled:
        """Both ends of the second lie on the first; an end that they share does so already."""
        first, second = c.of
        own = {at.joined[p] for p in at.drawing.line_points(first)}
        loose = [p for p in at.drawing.line_points(second) if at.joined[p] not in own]
        return Compiled([Row(point_line, at.xy(p) + at.line(first)) for p in loose])
