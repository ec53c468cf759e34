"""A point lies on a line, circle or arc."""

from __future__ import annotations

from ..layout import Layout
from ..model import Constraint
from ..rows import point_circle, point_line
from .base import Compiled, Row, Rule, register


@register
class OnCurve(Rule):
    """A point lies on a line (or its extension) or on a circle."""

    kind, title, symbol, key = "on_curve", "On curve", "⊙", "c o"
    takes = (("point", "line"), ("point", "round"))

    def compile(self, c: Constraint, at: Layout, value: float) -> Compiled:
        """Zero distance from the curve."""
        point, curve = c.of
        if at.drawing.sort(curve) == "line":
            return Compiled([Row(point_line, at.xy(point) + at.line(curve))])
        return Compiled([Row(point_circle, (*at.xy(point), *at.centre(curve), at.radius(curve)))])
