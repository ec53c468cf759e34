"""A point lies on a line, circle, arc, ellipse or spline."""

from __future__ import annotations

from ...errors import SketchError
from ..layout import Layout
from ..model import Constraint, Oval, Spline
from ..rows import point_circle, point_ellipse, point_line
from ..spline_rows import off_spline
from .axes import half_axis
from .base import Compiled, Row, Rule, register


@register
class OnCurve(Rule):
    """A point lies on a line or spline (or its extension), on a circle or on an ellipse."""

    kind, title, symbol, key = "on_curve", "On curve", "⊙", "c o"
    takes = (("point", "line"), ("point", "round"), ("point", "oval"), ("point", "spline"))

    def compile(self, c: Constraint, at: Layout, value: float) -> Compiled:
        """Zero distance from the curve."""
        point, curve = c.of
        if at.drawing.sort(curve) == "line":
            return Compiled([Row(point_line, at.xy(point) + at.line(curve))])
        bent = at.drawing.curves.get(curve)
        if isinstance(bent, Oval):
            variables = (*at.xy(point), *at.xy(bent.centre), *at.xy(bent.tip), at.radius(curve))
            return Compiled([Row(point_ellipse, variables, (half_axis(bent, at),))])
        if isinstance(bent, Spline):
            if point in bent.points:
                raise SketchError("This point is one of the spline's own, so it lies on it or pulls it already.", field=point)
            return Compiled([Row(off_spline(tuple(bent.knots), len(bent.over)), (*at.over(curve), *at.xy(point), 0), (0.0,))])
        return Compiled([Row(point_circle, (*at.xy(point), *at.centre(curve), at.radius(curve)))])
