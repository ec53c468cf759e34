"""Flat curves as files and drawings have them: lines, arcs, ellipses, splines; exact, in mm of a plane."""

from __future__ import annotations

import math
from collections.abc import Iterable
from dataclasses import dataclass, replace
from typing import Literal

__all__ = ["XY", "Stroke", "Words", "chained", "length_of"]

XY = tuple[float, float]


@dataclass(frozen=True, slots=True)
class Stroke:
    """A curve from start to end.

    centre, radius : of a circle or arc. t0, t1 : angles in rad, t1 > t0 counter-clockwise, t1 < t0 clockwise;
    2 pi apart of a whole one. major : of an ellipse, its half-axis at angle 0; ratio : of the one to its
    left. poles, weights, knots, degree : of a spline, the full vector of knots.
    layer : what it belongs to.
    """

    kind: Literal["line", "arc", "ellipse", "spline"]
    start: XY
    end: XY
    centre: XY = (0.0, 0.0)
    radius: float = 0.0
    t0: float = 0.0
    t1: float = 0.0
    major: XY = (0.0, 0.0)
    ratio: float = 1.0
    poles: tuple[XY, ...] = ()
    weights: tuple[float, ...] = ()
    knots: tuple[float, ...] = ()
    degree: int = 3
    layer: str = "outline"

    @property
    def closed(self) -> bool:
        """Whether it is a whole circle or ellipse, or a spline that meets itself."""
        if self.kind in ("arc", "ellipse"):
            return abs(abs(self.t1 - self.t0) - 2 * math.pi) < 1e-9
        return self.kind == "spline" and math.dist(self.start, self.end) < 1e-9

    def at(self, share: float) -> XY:
        """Return the place at a share of its parameter, 0 to 1."""
        t = self.t0 + share * (self.t1 - self.t0)
        if self.kind == "line":
            return tuple(a + share * (b - a) for a, b in zip(self.start, self.end, strict=True))  # type: ignore[return-value]
        if self.kind == "arc":
            return self.centre[0] + self.radius * math.cos(t), self.centre[1] + self.radius * math.sin(t)
        if self.kind == "ellipse":
            (x, y), (u, v), k = self.centre, self.major, self.ratio
            c, s = math.cos(t), math.sin(t)
            return x + c * u - s * k * v, y + c * v + s * k * u
        return _spline(self, share)

    def reversed(self) -> Stroke:
        """Return it run through the other way."""
        if self.kind == "spline":
            top = self.knots[0] + self.knots[-1]
            return replace(
                self,
                start=self.end,
                end=self.start,
                poles=self.poles[::-1],
                weights=self.weights[::-1],
                knots=tuple(top - k for k in self.knots[::-1]),
            )
        return replace(self, start=self.end, end=self.start, t0=self.t1, t1=self.t0)

    def part(self, a: float, b: float) -> Stroke:
        """Return what lies between two shares of it, a < b."""
        if a <= 0.0 and b >= 1.0:
            return self
        start, end = self.at(a), self.at(b)
        if self.kind != "spline":
            turn = self.t1 - self.t0
            return replace(self, start=start, end=end, t0=self.t0 + a * turn, t1=self.t0 + b * turn)
        return _spline_part(self, a, b)


@dataclass(frozen=True, slots=True)
class Words:
    """A text: its foot's beginning, mm a capital, the angle in rad it runs at."""

    text: str
    at: XY
    height: float
    angle: float = 0.0
    layer: str = "text"


def _spline(stroke: Stroke, share: float) -> XY:
    """Return a place of a rational B-spline (de Boor, in coordinates times weights)."""
    p, knots = stroke.degree, stroke.knots
    low, high = knots[p], knots[-p - 1]
    t = low + share * (high - low)
    k = max(i for i in range(p, len(knots) - p - 1) if knots[i] <= t)
    weights = stroke.weights or (1.0,) * len(stroke.poles)
    d = [
        (x * w, y * w, w)
        for (x, y), w in zip(stroke.poles[k - p : k + 1], weights[k - p : k + 1], strict=True)
    ]
    for r in range(1, p + 1):
        for j in range(p, r - 1, -1):
            a, b = knots[j + k - p], knots[j + 1 + k - r]
            s = (t - a) / (b - a) if b > a else 0.0
            d[j] = tuple((1 - s) * x + s * y for x, y in zip(d[j - 1], d[j], strict=True))  # type: ignore[assignment]
    x, y, w = d[p]
    return x / w, y / w


def _spline_part(stroke: Stroke, a: float, b: float) -> Stroke:
    """Return a part of a spline: knots are put in at its ends until it begins and ends there (Boehm)."""
    import numpy as np
    from scipy.interpolate import BSpline

    p, knots = stroke.degree, np.asarray(stroke.knots)
    weights = np.asarray(stroke.weights or (1.0,) * len(stroke.poles))
    held = BSpline(knots, np.column_stack([np.asarray(stroke.poles) * weights[:, None], weights]), p)
    low, high = knots[p], knots[-p - 1]
    ends = [float(low + share * (high - low)) for share in (a, b)]
    for t in ends:
        missing = p - int((np.abs(held.t - t) < 1e-12 * max(1.0, abs(t))).sum())
        if low < t < high and missing > 0:
            held = held.insert_knot(t, missing)
    first = max(i for i, t in enumerate(held.t) if t <= ends[0] + 1e-12)
    last = min(i for i, t in enumerate(held.t) if t >= ends[1] - 1e-12)
    new = [ends[0]] * (p + 1) + [float(t) for t in held.t[first + 1 : last]] + [ends[1]] * (p + 1)
    rows = held.c[first - p : first - p + len(new) - p - 1]
    poles = tuple((float(x / w), float(y / w)) for x, y, w in rows)
    own = tuple(float(w) for *_, w in rows) if stroke.weights else ()
    return replace(stroke, start=poles[0], end=poles[-1], poles=poles, weights=own, knots=tuple(new))


def length_of(stroke: Stroke) -> float:
    """Return the length of a stroke, mm: exact of lines and arcs, else by Gauss and Legendre in 64 pieces."""
    if stroke.kind == "line":
        return math.dist(stroke.start, stroke.end)
    if stroke.kind == "arc":
        return stroke.radius * abs(stroke.t1 - stroke.t0)
    from numpy.polynomial.legendre import leggauss

    nodes, weights = leggauss(8)
    step, total = 1e-6, 0.0
    for piece in range(64):
        for x, w in zip(nodes, weights, strict=True):
            s = (piece + (x + 1) / 2) / 64
            a, b = max(s - step, 0.0), min(s + step, 1.0)
            total += w / 128 * math.dist(stroke.at(a), stroke.at(b)) / (b - a)
    return total


def chained(strokes: Iterable[Stroke], within: float) -> list[list[Stroke]]:
    """Return strokes in chains, end to start, turned where that is needed; ends nearer than `within` are one.
    Closed strokes stand alone."""
    left, chains = list(strokes), list[list[Stroke]]()
    while left:
        chain = [left.pop(0)]
        for grow_back in (False, True):
            while not _is_closed(chain, within):
                end = chain[0].start if grow_back else chain[-1].end
                at, turned = _next(left, end, within)
                if at < 0:
                    break
                found = left.pop(at)
                onward = found.reversed() if turned else found
                chain = [onward.reversed(), *chain] if grow_back else [*chain, onward]
        chains.append(chain)
    return chains


def _is_closed(chain: list[Stroke], within: float) -> bool:
    if len(chain) == 1:
        return chain[0].closed
    return math.dist(chain[-1].end, chain[0].start) <= within


def _next(strokes: list[Stroke], end: XY, within: float) -> tuple[int, bool]:
    for i, s in enumerate(strokes):
        if s.closed:
            continue
        if math.dist(s.start, end) <= within:
            return i, False
        if math.dist(s.end, end) <= within:
            return i, True
    return -1, False
