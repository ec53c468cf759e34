"""Strokes as the data of an SVG path; y as it is, so that whoever shows it turns it over."""

from __future__ import annotations

import math
from itertools import pairwise

from .strokes import Stroke

__all__ = ["path_data"]

PIECES = 8  # Bézier pieces from one knot of a spline to the next


def path_data(chain: list[Stroke]) -> str:
    """Return a chain as the data of a path."""
    parts = [f"M{_xy(chain[0].start)}"]
    for stroke in chain:
        parts.append(_piece(stroke))
    end, start = chain[-1].end, chain[0].start
    return "".join(parts) + ("Z" if math.dist(end, start) < 1e-6 else "")


def _xy(p: tuple[float, float]) -> str:
    return f"{p[0]:.9g} {p[1]:.9g}"


def _piece(s: Stroke) -> str:
    if s.kind == "line":
        return f"L{_xy(s.end)}"
    if s.kind in ("arc", "ellipse"):
        rx, ry, turn = s.radius, s.radius, 0.0
        if s.kind == "ellipse":
            rx = math.hypot(*s.major)
            ry, turn = rx * s.ratio, math.degrees(math.atan2(s.major[1], s.major[0]))
        # Halves: an SVG arc can not be a whole turn, and its middle is always told.
        steps = 2 if s.closed or abs(s.t1 - s.t0) > math.pi else 1
        sweep = 1 if s.t1 > s.t0 else 0
        return "".join(
            f"A{rx:.9g} {ry:.9g} {turn:.9g} 0 {sweep} {_xy(s.at((i + 1) / steps))}" for i in range(steps)
        )
    return _bezier(s)


def _bezier(s: Stroke) -> str:
    """Return a spline as cubic Bézier pieces: exact for one piece of degree 2 or 3, else through its places
    and directions."""
    if not s.weights and len(s.poles) == s.degree + 1 and s.degree in (2, 3):
        return " QC"[s.degree - 1] + " ".join(_xy(p) for p in s.poles[1:])
    found = []
    low, high = s.knots[s.degree], s.knots[-s.degree - 1]
    ends = sorted({(k - low) / (high - low) for k in s.knots if low <= k <= high})
    shares = [a + (b - a) * i / PIECES for a, b in pairwise(ends) for i in range(PIECES)]
    for a, b in pairwise([*shares, 1.0]):
        step = (b - a) * 1e-4
        (x, y), (u, v) = s.at(a), s.at(a + step)
        (p, q), (r, t) = s.at(b), s.at(b - step)
        k = (b - a) / 3 / step
        first, second = (x + k * (u - x), y + k * (v - y)), (p + k * (r - p), q + k * (t - q))
        found.append(f"C{_xy(first)} {_xy(second)} {_xy((p, q))}")
    return "".join(found)
