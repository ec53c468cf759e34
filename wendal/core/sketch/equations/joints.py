"""What only jumps in a drawing: whether a tangent joint is smooth or a cusp, how far round an arc goes, and
whether what runs beside a curve turns back.

No equation tells a smooth joint from a cusp: where a line between two roundings shrinks to nothing and comes
out turned over, or an arc closes up and comes out as nearly a whole circle, every constraint is met. So both
are looked at beside the equations.
"""

from __future__ import annotations

import math
from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from ...tolerance import PARALLEL
from ..drawn import Arc, Curve, EllipseArc, EllipsePath, Layout, Line, Oval, Spline, end_weights
from .oval_rows import foot_on
from .spline_rows import foot_at, leaving_at, turns_back

__all__ = ["Joints"]

Array = NDArray[np.float64]
Way = Callable[
    [Array], tuple[float, float]
]  # the direction in which a curve leaves its end, of all variables


class Joints:
    """The tangent joints, and the arcs, of a drawing.

    Joints of lines and arcs alone are looked at all together.
    """

    def __init__(self, layout: Layout) -> None:
        drawing, joined = layout.drawing, layout.joined
        self._layout = layout
        sides: list[tuple[tuple[int, int, float], tuple[int, int, float]]] = []
        self._bent: list[tuple[Way, Way]] = []
        for c in drawing.constraints.values():
            if c.kind != "tangent" or c.reference:
                continue
            one, other = (drawing.curves.get(e) for e in c.of)
            pair = next(
                (
                    (p, q)
                    for p in (one.ends if one else None) or ()
                    for q in (other.ends if other else None) or ()
                    if joined[p] == joined[q]
                ),
                None,
            )
            if pair and isinstance(one, Line | Arc) and isinstance(other, Line | Arc):
                sides.append((_side(layout, one, pair[0]), _side(layout, other, pair[1])))
            elif pair and one and other:
                self._bent.append((_way(layout, one, pair[0]), _way(layout, other, pair[1])))
        self._sides = [
            (
                np.array([s[i][0] for s in sides], dtype=int),
                np.array([s[i][1] for s in sides], dtype=int),
                np.array([s[i][2] for s in sides]),
            )
            for i in (0, 1)
        ]
        self._parts = [
            (
                tuple(curve.knots),
                np.array([layout.xy(p)[0] for p in curve.over]),
                [layout.xy(p)[0] for p in curve.ends],
            )
            for curve in drawing.curves.values()
            if isinstance(curve, Spline) and curve.cut_ends
        ]
        # Of an elliptical arc, seen from its middle: that closes up and opens at the same places.
        arcs = [
            [layout.xy(p)[0] for p in (curve.centre, *curve.ends)]
            for curve in drawing.curves.values()
            if isinstance(curve, Arc | EllipseArc)
        ]
        self._arcs = np.array(arcs, dtype=int).reshape(-1, 3)

    def kept(self, before: Array, after: Array, most: float) -> bool:
        """Tell whether no joint turned from smooth to cusp or back, no arc's sweep changed by more than
        `most` rad, no part of a spline came to run against it, and nothing that runs beside a curve came to
        turn back.

        before, after : (N,) all variables of the drawing's layout.
        """
        a, b = self._smooth(before), self._smooth(after)
        if (a * b < 0).any():
            return False
        if any((self._runs(part, before) > 0) != (self._runs(part, after) > 0) for part in self._parts):
            return False
        if any(self._turns_back(c, after) and not self._turns_back(c, before) for c in self._layout.beside):
            return False
        return not len(self._arcs) or bool(np.abs(self._sweeps(after) - self._sweeps(before)).max() <= most)

    def _turns_back(self, curve: str, x: Array) -> bool:
        layout = self._layout
        c, (away, side) = layout.drawing.curves[curve], layout.away(curve)
        places = [x[list(layout.xy(p))] for p in c.ends or ()]
        if isinstance(c, Spline):
            knots, points = tuple(c.knots), x[list(layout.over(curve))].reshape(-1, 2)
            start, end = (foot_at(knots, points, p) for p in places)
            return turns_back(
                knots, points, side * float(x[away]), (start, end) if end - start > 1e-9 else (0.0, 1.0)
            )
        assert isinstance(c, Oval)
        m, r = x[list(layout.xy(c.centre))], float(x[layout.radius(curve)])
        w = x[list(layout.xy(c.tip))] - m
        across = np.array([-w[1], w[0]]) / (float(np.hypot(*w)) or 1.0) * r
        start, end = (foot_on(w, across, p - m, 0.0) for p in places) if places else (0.0, 2 * math.pi)
        t1 = start + ((end - start) % (2 * math.pi) or 2 * math.pi)
        return EllipsePath(
            (0.0, 0.0), (float(w[0]), float(w[1])), 0.0, start, t1, side * float(x[away]), r
        ).turns_back()

    def _smooth(self, x: Array) -> Array:
        """Return 1 for a smooth joint, -1 for a cusp, 0 where a side has no length."""
        ways = []
        for p, q, sign in self._sides:
            dx, dy = x[q] - x[p], x[q + 1] - x[p + 1]
            ways.append((np.where(sign == 0, dx, sign * dy), np.where(sign == 0, dy, -sign * dx)))
        (ax, ay), (bx, by) = ways
        for one, other in self._bent:
            (ux, uy), (vx, vy) = one(x), other(x)
            ax, ay, bx, by = (
                np.append(known, fresh) for known, fresh in ((ax, ux), (ay, uy), (bx, vx), (by, vy))
            )
        along = -(ax * bx + ay * by)
        return np.where(np.abs(along) > PARALLEL * np.hypot(ax, ay) * np.hypot(bx, by), np.sign(along), 0.0)

    @staticmethod
    def _runs(part: tuple[tuple[float, ...], NDArray[np.int_], list[int]], x: Array) -> float:
        """Return from its start to its end how much of the whole spline a part is, negative where it runs
        against it."""
        knots, over, (start, end) = part
        points = np.stack([x[over], x[over + 1]], axis=1)
        return foot_at(knots, points, x[end : end + 2]) - foot_at(knots, points, x[start : start + 2])

    def _sweeps(self, x: Array) -> Array:
        centre, start, end = ((x[self._arcs[:, i]], x[self._arcs[:, i] + 1]) for i in range(3))
        a, b = (np.arctan2(p[1] - centre[1], p[0] - centre[0]) for p in (start, end))
        return np.asarray((b - a) % (2 * math.pi))


def _side(layout: Layout, curve: Line | Arc, end: str) -> tuple[int, int, float]:
    """Return the end's variable, that of the other end or the centre, and 0 for a line, else the arc's turn
    leaving the end."""
    p = layout.xy(end)[0]
    if isinstance(curve, Line):
        return p, layout.xy(curve.end if end == curve.start else curve.start)[0], 0.0
    return p, layout.xy(curve.centre)[0], 1.0 if end == curve.start else -1.0


def _way(layout: Layout, curve: Curve, end: str) -> Way:
    """Return how to read the direction in which any curve with ends leaves one of them."""
    if isinstance(curve, Spline):
        over = np.array([layout.xy(p)[0] for p in curve.over])
        if end not in curve.tips:
            knots, at, ahead = tuple(curve.knots), layout.xy(end)[0], 1.0 if end == curve.start else -1.0

            def inwards(x: Array) -> tuple[float, float]:
                points = np.stack([x[over], x[over + 1]], axis=1)
                dx, dy = ahead * leaving_at(knots, points, x[at : at + 2]) @ points
                return float(dx), float(dy)

            return inwards
        weights = end_weights(curve, first=end == curve.over[0])
        return lambda x: (float(weights @ x[over]), float(weights @ x[over + 1]))
    if isinstance(curve, EllipseArc):
        (c, t, p), r = (layout.xy(q)[0] for q in (curve.centre, curve.tip, end)), _radius_of(layout, curve)
        ahead = 1.0 if end == curve.start else -1.0

        def along(x: Array) -> tuple[float, float]:
            # c + cos w + sin r n, n to the left of w, runs on in the direction -sin w + cos r n.
            wx, wy = x[t] - x[c], x[t + 1] - x[c + 1]
            half, other = math.hypot(wx, wy) or 1.0, x[r] or 1.0
            dx, dy = x[p] - x[c], x[p + 1] - x[c + 1]
            cos, sin = (dx * wx + dy * wy) / half**2, (wx * dy - wy * dx) / half / other
            return ahead * (-sin * wx - cos * other * wy / half), ahead * (
                -sin * wy + cos * other * wx / half
            )

        return along
    assert isinstance(curve, Line | Arc)
    p, q, sign = _side(layout, curve, end)
    if sign == 0:
        return lambda x: (x[q] - x[p], x[q + 1] - x[p + 1])
    return lambda x: (sign * (x[q + 1] - x[p + 1]), -sign * (x[q] - x[p]))


def _radius_of(layout: Layout, curve: EllipseArc) -> int:
    return layout.radius(next(c for c, other in layout.drawing.curves.items() if other is curve))
