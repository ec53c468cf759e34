"""The distance dimension, of whatever was picked."""

from __future__ import annotations

import math

from ...errors import SketchError
from ..drawn import Constraint, Drawing, Layout
from ..equations import distance, point_circle, point_line, same, tangent_circles, tangent_line
from .base import ROUND, Compiled, Row, Rule, register
from .turning import offset


@register
class Distance(Rule):
    """A line's length, or the distance of two points, of a point and a line, of two parallel lines, or to a
    circle's edge.

    Two points may be measured straight, horizontally or vertically. sense is the side on which the second
    (for a line: the point) stands, so that a change never turns the drawing over; for a point and a circle it
    is 1 outside and -1 inside; for a line and a circle the side of the line on which the circle stands.
    """

    kind, title, symbol, key = "distance", "Distance", "↔", "c d"
    takes = (
        ("line",),
        ("point", "point"),
        ("point", "line"),
        ("line", "line"),
        ("point", "round"),
        ("line", "round"),
        ("round", "round"),
    )
    quantity = "length"

    def choose(self, c: Constraint, at: Layout) -> float:
        """Read the side off the drawing."""
        return 1.0 if self._signed(c, at) >= 0 else -1.0

    def measure(self, c: Constraint, at: Layout) -> float:
        """Return the present distance in mm."""
        return self._edge_gap(c, at) if _to_edge(c, at) else abs(self._signed(c, at))

    def _edge_gap(self, c: Constraint, at: Layout) -> float:
        kind = at.drawing.kind(c.of[0])
        if kind == "point":
            return abs(self._signed(c, at))
        own = float(at.x[at.radius(c.of[0])]) if kind in ROUND else 0.0
        return abs(self._signed(c, at)) - float(at.x[at.radius(c.of[1])]) - own

    def check_value(self, value: float, c: Constraint, drawing: Drawing) -> None:
        """It is never negative, since its side is kept apart; and nothing only where what is measured does
        not lose its direction with it."""
        straight = len(c.of) == 1 or (not c.manner and all(drawing.kind(e) == "point" for e in c.of))
        if straight and not 0 < value < math.inf:
            noun = "A line's length" if len(c.of) == 1 else "The straight distance of two points"
            mend = " To bring the ends together, make them coincident." if value == 0 else ""
            raise SketchError(
                f"{noun} is greater than zero; this comes to {value:g} mm.{mend}", field="value"
            )
        if not 0 <= value < math.inf:
            raise SketchError(
                f"A distance is not negative; this comes to {value:g} mm. To have it on the other side, "
                "type it without the sign "
                "and turn its side (; while it is typed).",
                field="value",
            )

    def compile(self, c: Constraint, at: Layout, value: float) -> Compiled:
        """A straight, axis-parallel or square distance."""
        if _to_edge(c, at):
            first, second = c.of
            middle, radius = at.centre(second), at.radius(second)
            kind = at.drawing.kind(first)
            if kind == "line":
                return Compiled(
                    [Row(tangent_line, (*middle, *at.line(first), radius), (c.sense, c.sense * value))]
                )
            if kind == "point":
                return Compiled([Row(point_circle, (*at.xy(first), *middle, radius), (c.sense * value,))])
            return Compiled(
                [
                    Row(
                        tangent_circles,
                        (*at.centre(first), at.radius(first), *middle, radius),
                        (1.0, 1.0, value),
                    )
                ]
            )
        pair = self._points(c, at)
        if pair is None:
            point, line = self._point_and_line(c, at)
            return Compiled([Row(point_line, at.xy(point) + at.line(line), (c.sense * value,))])
        (ax, ay), (bx, by) = (at.xy(p) for p in pair)
        if c.manner:
            low, high = (ax, bx) if c.manner == "horizontal" else (ay, by)
            return Compiled([Row(same, (high, low), (c.sense * value,))])
        return Compiled([Row(distance, (ax, ay, bx, by), (value,))])

    @staticmethod
    def _points(c: Constraint, at: Layout) -> tuple[str, str] | None:
        kinds = [at.drawing.kind(e) for e in c.of]
        if kinds == ["line"]:
            return at.drawing.line_points(c.of[0])
        return (c.of[0], c.of[1]) if kinds == ["point", "point"] else None

    @staticmethod
    def _point_and_line(c: Constraint, at: Layout) -> tuple[str, str]:
        first, second = c.of
        return (first if at.drawing.kind(first) == "point" else at.drawing.line_points(first)[0]), second

    def _signed(self, c: Constraint, at: Layout) -> float:
        if _to_edge(c, at):
            first, second = c.of
            centre = at.drawing.curves[second].centre  # type: ignore[union-attr]
            kind = at.drawing.kind(first)
            if kind == "line":
                return offset(centre, first, at)
            (ax, ay), (bx, by) = (
                (at.figures[v] for v in pair)
                for pair in (at.xy(first) if kind == "point" else at.centre(first), at.centre(second))
            )
            away = math.hypot(bx - ax, by - ay)
            return away - float(at.x[at.radius(second)]) if kind == "point" else away
        pair = self._points(c, at)
        if pair is None:
            return offset(*self._point_and_line(c, at), at)
        (ax, ay), (bx, by) = ((at.figures[v] for v in at.xy(p)) for p in pair)
        along = {"horizontal": bx - ax, "vertical": by - ay}
        return float(along[c.manner]) if c.manner else math.hypot(bx - ax, by - ay)


def _to_edge(c: Constraint, at: Layout) -> bool:
    return len(c.of) == 2 and at.drawing.kind(c.of[1]) in ROUND
