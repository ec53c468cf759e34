"""A point lies on a line, circle, arc, ellipse or spline."""

from __future__ import annotations

from ...errors import SketchError
from ..drawn import Constraint, Free, Layout, Spline
from ..equations import point_circle, point_line
from .base import Compiled, Row, Rule, register
from .free import lies_on


@register
class OnCurve(Rule):
    """A point lies on a line or spline (or its extension), on a circle or on an ellipse."""

    kind, title, symbol, key = "on_curve", "On curve", "⊙", "c o"
    takes = (("point", "line"), ("point", "round"), ("point", "oval"), ("point", "spline"))

    def compile(self, c: Constraint, at: Layout, value: float) -> Compiled:
        """Zero distance from the curve."""
        point, curve = c.of
        if at.drawing.kind(curve) == "line":
            return Compiled([Row(point_line, at.xy(point) + at.line(curve))])
        bent = at.drawing.curves.get(curve)
        if isinstance(bent, Spline) and point in (bent.ends if bent.side else bent.points):
            raise SketchError(
                "This point is one of the spline's own, so it lies on it or pulls it already.", field=point
            )
        if isinstance(bent, Free):
            return Compiled([lies_on(point, curve, at)])
        return Compiled([Row(point_circle, (*at.xy(point), *at.centre(curve), at.radius(curve)))])
