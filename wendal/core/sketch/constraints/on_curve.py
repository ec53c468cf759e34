"""A point lies on a line, circle, arc or ellipse."""

from __future__ import annotations

from ..layout import Layout
from ..model import Constraint, Oval
from ..rows import point_circle, point_ellipse, point_line
from .axes import half_axis
from .base import Compiled, Row, Rule, register


@register
class OnCurve(Rule):
    """A point lies on a line (or its extension), on a circle or on an ellipse."""

    kind, title, symbol, key = "on_curve", "On curve", "⊙", "c o"
    takes = (("point", "line"), ("point", "round"), ("point", "oval"))

    def compile(self, c: Constraint, at: Layout, value: float) -> Compiled:
        """Zero distance from the curve."""
        point, curve = c.of
        if at.drawing.sort(curve) == "line":
            return Compiled([Row(point_line, at.xy(point) + at.line(curve))])
        ellipse = at.drawing.curves.get(curve)
        if isinstance(ellipse, Oval):
            variables = (*at.xy(point), *at.xy(ellipse.centre), *at.xy(ellipse.tip), at.radius(curve))
            return Compiled([Row(point_ellipse, variables, (half_axis(ellipse, at),))])
        return Compiled([Row(point_circle, (*at.xy(point), *at.centre(curve), at.radius(curve)))])
