"""A line and a round curve, or two round curves, touch."""

from __future__ import annotations

import math

import numpy as np

from ...errors import SketchError
from ..layout import Layout
from ..model import Arc, Constraint, Line, Oval, Spline
from ..rows import arc_arc_end, leaving_along, leaving_square, line_arc_end, line_oval_end, tangent_circles, tangent_ellipse, tangent_line
from ..splines import end_weights
from .axes import half_axis
from .base import Compiled, Row, Rule, register
from .turning import offset


@register
class Tangent(Rule):
    """Touching, on the side where it was drawn.

    sense for a line: 1 when the centre is to its left, else -1; for two round curves: 1 side by side,
    2 when the second is inside the first, 3 when the first is inside the second. Where both share an end the
    side follows from the drawing by itself.
    """

    kind, title, symbol, key = "tangent", "Tangent", "⌒", "c t"
    takes = (("line", "round"), ("round", "round"), ("line", "oval"), ("line", "spline"), ("round", "spline"), ("spline", "spline"))

    def choose(self, c: Constraint, at: Layout) -> float:
        """Read the side off the drawing; raises SketchError where a spline shares no end."""
        if at.drawing.sort(c.of[1]) == "spline":
            _spline_joint(c, at)
            return 1.0
        if at.drawing.sort(c.of[0]) == "line":
            centre = at.drawing.curves[c.of[1]].centre  # type: ignore[union-attr]
            return 1.0 if offset(centre, c.of[0], at) >= 0 else -1.0
        (x1, y1), (x2, y2) = (at.x[list(at.centre(e))] for e in c.of)
        r1, r2 = (at.x[at.radius(e)] for e in c.of)
        gap = math.hypot(x2 - x1, y2 - y1)
        outside, inside = abs(gap - r1 - r2), abs(gap - abs(r1 - r2))
        return 1.0 if outside <= inside else 2.0 if r1 >= r2 else 3.0

    def compile(self, c: Constraint, at: Layout, value: float) -> Compiled:
        """The end-point form where an end is shared, else the centre's distance."""
        first, second = c.of
        if at.drawing.sort(second) == "spline":
            return Compiled([_leaving(c, at)])
        ellipse, end = at.drawing.curves.get(second), _shared_end(c, at)
        if isinstance(ellipse, Oval):
            own = (*at.xy(ellipse.centre), *at.xy(ellipse.tip), at.radius(second))
            if end:
                return Compiled([Row(line_oval_end, (*at.xy(end), *own, *at.line(first)), (half_axis(ellipse, at) ** 2,))])
            return Compiled([Row(tangent_ellipse, (*own, *at.line(first)), (c.sense,))])
        if at.drawing.sort(first) == "line":
            if end:
                return Compiled([Row(line_arc_end, (*at.xy(end), *at.centre(second), *at.line(first)))])
            return Compiled([Row(tangent_line, (*at.centre(second), *at.line(first), at.radius(second)), (c.sense, 0.0))])
        if end:
            scale = max(float(at.x[at.radius(first)] + at.x[at.radius(second)]) / 2, 1e-9)
            return Compiled([Row(arc_arc_end, (*at.xy(end), *at.centre(first), *at.centre(second)), (scale,))])
        signs = {1.0: (1.0, 1.0, 0.0), 2.0: (1.0, -1.0, 0.0), 3.0: (-1.0, 1.0, 0.0)}[c.sense]
        variables = (*at.centre(first), at.radius(first), *at.centre(second), at.radius(second))
        return Compiled([Row(tangent_circles, variables, signs)])


def _spline_joint(c: Constraint, at: Layout) -> tuple[str, str]:
    """Return the joined ends of a curve and a spline, the spline's own last; raises SketchError where there are none."""
    first, second = (at.drawing.curves.get(e) for e in c.of)
    found = next(((p, q) for p in (first.ends if first else None) or () for q in (second.ends if second else None) or ()
                  if at.joined[p] == at.joined[q]), None)
    if found is None:
        raise SketchError("A spline is made tangent where it ends: join its end with an end of the other curve first.", field=c.of[1])
    return found


def _leaving(c: Constraint, at: Layout) -> Row:
    """The direction in which a spline leaves its end runs along the other curve there."""
    other_end, own_end = _spline_joint(c, at)
    spline, other = at.drawing.curves[c.of[1]], at.drawing.curves[c.of[0]]
    assert isinstance(spline, Spline)
    weights = end_weights(spline, first=own_end == spline.over[0])
    x = [at.figures[at.xy(p)[0]] for p in spline.over], [at.figures[at.xy(p)[1]] for p in spline.over]
    scale = at.size() / max(math.hypot(float(weights @ x[0]), float(weights @ x[1])), 1e-6 * at.size())
    over = tuple(v for p in spline.over for v in at.xy(p))
    if isinstance(other, Arc):
        variables = (*over, *at.xy(other_end), *at.centre(c.of[0]))
        return Row(leaving_square(len(spline.over)), variables, (scale, *map(float, weights)))
    if isinstance(other, Spline):
        mates, beside = other.over, end_weights(other, first=other_end == other.over[0])
    else:
        assert isinstance(other, Line)
        mates, beside = [other.start, other.end], np.array([-1.0, 1.0])
    variables = (*over, *(v for p in mates for v in at.xy(p)))
    return Row(leaving_along(len(spline.over), len(mates)), variables, (scale, *map(float, weights), *map(float, beside)))


def _shared_end(c: Constraint, at: Layout) -> str | None:
    """Return an end of one curve that lies on the other by a joint or an on-curve constraint, or None.

    There the distance form would lose rank at the solution.
    """
    def ends(entity: str) -> set[str]:
        curve = at.drawing.curves.get(entity)
        return set(curve.ends or ()) if curve else set()

    first, second = (ends(e) for e in c.of)
    joined = at.joined
    met = {joined[p] for p in second}
    found = next((p for p in sorted(first) if joined[p] in met), None)
    if found:
        return found
    for other in at.drawing.constraints.values():
        if other.kind == "on_curve" and not other.reference:
            for own, curve in ((first, c.of[1]), (second, c.of[0])):
                hit = next((p for p in sorted(own) if other.of[1] == curve and joined[p] == joined[other.of[0]]), None)
                if hit:
                    return hit
    return None
