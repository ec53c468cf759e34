"""A line and a round curve, or two round curves, touch."""

from __future__ import annotations

import math

import numpy as np

from ...errors import SketchError
from ...tolerance import BROKEN, SAME_NUMBER
from ..drawn import Arc, Circle, Constraint, Layout, Oval, Spline, end_weights
from ..equations import (
    OVAL,
    arc_arc_end,
    arc_oval_end,
    at_line,
    beside_along,
    beside_square,
    crossed_along,
    crossed_square,
    direction_at,
    leaving_along,
    leaving_square,
    line_arc_end,
    line_oval_end,
    side_of,
    smooth_joint,
    tangent_circles,
    tangent_ellipse,
    tangent_line,
)
from .axes import half_axis, stands_inside
from .base import Compiled, Row, Rule, register
from .free import own_variables, touched_by
from .turning import offset

APART = (
    "Splines and ellipses are made tangent to each other where they end: join an end of one with the other "
    "first."
)
PARTS = "These are parts of one spline, which runs on smoothly from one to the other by itself."


@register
class Tangent(Rule):
    """Touching, on the side where it was drawn.

    sense for a line: 1 when the centre is to its left, else -1; for a spline the same of a circle's centre;
    for a circle and an ellipse: 1 when the centre is inside of that, else -1. For two round curves: 1 side by
    side, 2 when the second is inside the first, 3 when the first is inside the second. Where both share an
    end the side follows from the drawing by itself.
    """

    kind, title, symbol, key = "tangent", "Tangent", "⌒", "c t"
    takes = (
        ("line", "round"),
        ("round", "round"),
        ("line", "oval"),
        ("round", "oval"),
        ("line", "spline"),
        ("round", "spline"),
        ("spline", "spline"),
        ("oval", "oval"),
        ("oval", "spline"),
    )

    def choose(self, c: Constraint, at: Layout) -> float:
        """Read the side off the drawing; raises SketchError where two splines share no end."""
        if at.drawing.kind(c.of[1]) == "spline":
            _with_spline(c, at)
            spline, other = at.drawing.curves[c.of[1]], at.drawing.curves.get(c.of[0])
            if isinstance(spline, Spline) and isinstance(other, Circle | Arc):
                points = np.array([at.drawing.place(p) for p in spline.over])
                return side_of(tuple(spline.knots), points, np.array(at.drawing.place(other.centre)))
            return 1.0
        ellipse = at.drawing.curves[c.of[1]]
        if isinstance(ellipse, Oval) and at.drawing.kind(c.of[0]) != "line":
            return (
                1.0
                if stands_inside(ellipse, at, at.drawing.place(at.drawing.curves[c.of[0]].points[0]))
                else -1.0
            )
        if at.drawing.kind(c.of[0]) == "line":
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
        if at.drawing.kind(second) == "spline":
            return Compiled([_with_spline(c, at)])
        ellipse, end = at.drawing.curves.get(second), _shared_end(c, at)
        if isinstance(ellipse, Oval):
            return Compiled([_with_oval(c, ellipse, end, at)])
        if at.drawing.kind(first) == "line":
            if end:
                return Compiled([Row(line_arc_end, (*at.xy(end), *at.centre(second), *at.line(first)))])
            return Compiled(
                [Row(tangent_line, (*at.centre(second), *at.line(first), at.radius(second)), (c.sense, 0.0))]
            )
        if end:
            scale = max(float(at.x[at.radius(first)] + at.x[at.radius(second)]) / 2, SAME_NUMBER)
            return Compiled(
                [Row(arc_arc_end, (*at.xy(end), *at.centre(first), *at.centre(second)), (scale,))]
            )
        signs = {1.0: (1.0, 1.0, 0.0), 2.0: (1.0, -1.0, 0.0), 3.0: (-1.0, 1.0, 0.0)}[c.sense]
        variables = (*at.centre(first), at.radius(first), *at.centre(second), at.radius(second))
        return Compiled([Row(tangent_circles, variables, signs)])


def _with_oval(c: Constraint, ellipse: Oval, end: str | None, at: Layout) -> Row:
    """Where an end is shared, they run along each other there; else the line's or the centre's distance."""
    first, second = c.of
    if isinstance(at.drawing.curves.get(first), Oval):
        return _going_on(c, end, at)
    own, (away, side), straight = own_variables(second, at), at.away(second), at.drawing.kind(first) == "line"
    if end:
        kernels, parameters = (line_oval_end, arc_oval_end), (half_axis(ellipse, at) ** 2,)
        if side:
            kernels, parameters = (beside_along, beside_square), (at.size() / half_axis(ellipse, at),)
        return Row(
            kernels[not straight],
            (*at.xy(end), *own, *(at.line(first) if straight else at.centre(first))),
            parameters,
        )
    if not straight:
        return touched_by(first, second, at, c.sense)
    return Row(tangent_ellipse, (*own, *at.line(first), away), (c.sense, side))


def _joined_ends(c: Constraint, at: Layout) -> tuple[str, str] | None:
    """Return the joined ends of a curve and a spline, the spline's own last.

    Of a part of a spline the whole one's count too, and so do the points that a spline goes through.
    """
    first, second = (
        (*(curve.ends or ()), *(_passed(curve) if isinstance(curve, Spline) else ())) if curve else ()
        for curve in (at.drawing.curves.get(e) for e in c.of)
    )
    return next(((p, q) for p in first for q in second if at.joined[p] == at.joined[q]), None)


def _passed(spline: Spline) -> tuple[str, ...]:
    return (
        spline.tips
        if spline.side
        else (*spline.tips, *(spline.over[1:-1] if spline.manner == "through" else ()))
    )


def _with_spline(c: Constraint, at: Layout) -> Row:
    """Where an end of the spline is shared it leaves along the other curve; where an end of that lies on it
    they cross at no angle; else they touch anywhere. Raises SketchError for two splines that share no end."""
    first, second = c.of
    spline, other = at.drawing.curves[second], at.drawing.curves.get(first)
    assert isinstance(spline, Spline)
    if isinstance(other, Spline) and other.over == spline.over:
        raise SketchError(PARTS, field=second)
    joint, end = _joined_ends(c, at), _shared_end(c, at)
    if isinstance(other, Oval):
        return _going_on(c, joint[1] if joint else end, at)
    if (joint and joint[1] in spline.tips) or (not joint and end in spline.tips):
        if joint and isinstance(other, Spline) and joint[0] not in other.tips:
            return _crossing(
                second, first, joint[0], at, end_weights(spline, first=joint[1] == spline.over[0])
            )
        return _leaving(c, at, *(joint or (str(end), str(end))))
    if isinstance(other, Spline):
        if not joint:
            raise SketchError(APART, field=second)
        if joint[0] not in other.tips:
            return _going_on(c, joint[1], at)
        return _crossing(first, second, joint[1], at, end_weights(other, first=joint[0] == other.over[0]))
    if joint or end:
        return _crossing(first, second, joint[1] if joint else str(end), at, np.array([-1.0, 1.0]))
    if at.drawing.kind(first) == "line":
        away, side = at.away(second)
        return Row(
            at_line(tuple(spline.knots), len(spline.over)), (*at.over(second), *at.line(first), away), (side,)
        )
    return touched_by(first, second, at, c.sense)


def _going_on(c: Constraint, end: str | None, at: Layout) -> Row:
    """At a place that lies on both, two free curves run along each other.

    Raises SketchError where there is none.
    """
    if not end:
        raise SketchError(APART, field=c.of[1])
    curves = [at.drawing.curves[e] for e in c.of]
    shapes = [OVAL if isinstance(curve, Oval) else (tuple(curve.knots), len(curve.over)) for curve in curves]  # type: ignore[union-attr]
    variables = tuple(v for e in c.of for v in own_variables(e, at))
    return Row(smooth_joint(*shapes), (*variables, *at.xy(end)), (at.size(),))


def _crossing(other: str, spline: str, end: str, at: Layout, beside: np.ndarray) -> Row:
    """Where an end lies on a spline, that runs along the other curve; beside : the weights of that one's
    points in its direction."""
    curve, mate = at.drawing.curves[spline], at.drawing.curves.get(other)
    assert isinstance(curve, Spline)
    knots, count = tuple(curve.knots), len(curve.over)
    points, p = np.array([at.drawing.place(q) for q in curve.over]), np.array(at.drawing.place(end))
    parameters = (at.size(), *map(float, direction_at(knots, points, p)), *map(float, beside))
    own = (*at.over(spline), *at.xy(end))
    if isinstance(mate, Arc | Circle):
        return Row(crossed_square(knots, count), (*own, *at.centre(other), *at.xy(end)), parameters)
    mates = at.over(other) if isinstance(mate, Spline) else at.line(other)
    return Row(crossed_along(knots, count, len(beside)), (*own, *mates), parameters)


def _leaving(c: Constraint, at: Layout, other_end: str, own_end: str) -> Row:
    """The direction in which a spline leaves its end runs along the other curve there."""
    spline, other = at.drawing.curves[c.of[1]], at.drawing.curves.get(c.of[0])
    assert isinstance(spline, Spline)
    weights = end_weights(spline, first=own_end == spline.over[0])
    x = [at.figures[at.xy(p)[0]] for p in spline.over], [at.figures[at.xy(p)[1]] for p in spline.over]
    scale = at.size() / max(math.hypot(float(weights @ x[0]), float(weights @ x[1])), BROKEN * at.size())
    if isinstance(other, Arc | Circle):
        variables = (*at.over(c.of[1]), *at.xy(other_end), *at.centre(c.of[0]))
        return Row(leaving_square(len(spline.over)), variables, (scale, *map(float, weights)))
    if isinstance(other, Spline):
        if other_end not in other.ends:
            raise SketchError(APART, field=c.of[1])
        beside, mates = end_weights(other, first=other_end == other.over[0]), at.over(c.of[0])
    else:
        beside, mates = np.array([-1.0, 1.0]), at.line(c.of[0])
    variables = (*at.over(c.of[1]), *mates)
    return Row(
        leaving_along(len(spline.over), len(mates) // 2),
        variables,
        (scale, *map(float, weights), *map(float, beside)),
    )


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
                hit = next(
                    (p for p in sorted(own) if other.of[1] == curve and joined[p] == joined[other.of[0]]),
                    None,
                )
                if hit:
                    return hit
    return None
