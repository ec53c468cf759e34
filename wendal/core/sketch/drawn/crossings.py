"""Curves as parametrised paths, and where two of them meet."""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass, replace
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray
from scipy.interpolate import BSpline

from ...tolerance import FULL_ROUND, NO_DIVISOR, NO_LENGTH, ONE_PLACE, SHARE
from .model import Drawing, EllipseArc, Line, Oval, Spline
from .splines import shape_of

__all__ = ["Bent", "EllipsePath", "Path", "SplinePath", "crossings", "meetings", "path_of"]

Array = NDArray[np.float64]
FINE = 96  # chords that stand for a bent path
CLOSE, STRETCH = 400, 1e-3  # where to look whether a path turns back, and how slow is too slow
GAUSS = tuple(zip(*np.polynomial.legendre.leggauss(4), strict=True))
XY = tuple[float, float]


@dataclass(frozen=True, slots=True)
class Path:
    """A straight or circular path. Parameter: mm from `base` along `direction`, or rad around `base`.

    radius : 0 for a straight path. t0 < t1 in the direction in which the curve is drawn.
    """

    base: XY
    direction: XY
    radius: float
    t0: float
    t1: float

    @property
    def turns(self) -> bool:
        """Its parameter comes round after 2 pi."""
        return self.radius > 0

    @property
    def closed(self) -> bool:
        """It has no ends."""
        return self.turns and self.t1 - self.t0 > 2 * math.pi - FULL_ROUND

    @property
    def scale(self) -> float:
        """Mm per unit of the parameter."""
        return self.radius or 1.0

    def at(self, t: float) -> XY:
        """Return the place at a parameter."""
        if self.radius:
            return (self.base[0] + self.radius * math.cos(t), self.base[1] + self.radius * math.sin(t))
        return (self.base[0] + t * self.direction[0], self.base[1] + t * self.direction[1])

    def along(self, ts: list[float]) -> list[XY]:
        """Return the places at several parameters."""
        if not self.radius or len(ts) < 8:
            return [self.at(t) for t in ts]
        x, y = self.base[0] + self.radius * np.cos(ts), self.base[1] + self.radius * np.sin(ts)
        return list(zip(x.tolist(), y.tolist(), strict=True))

    def where(self, x: float, y: float) -> float:
        """Return the parameter of the place on the path nearest to (x, y), turned to lie in t0 … t0 + 2
        pi."""
        if self.radius:
            return self.t0 + (math.atan2(y - self.base[1], x - self.base[0]) - self.t0) % (2 * math.pi)
        return (x - self.base[0]) * self.direction[0] + (y - self.base[1]) * self.direction[1]

    def heading(self, a: float, b: float) -> tuple[float, float]:
        """Return the direction (rad in [0, 2 pi)) in which one leaves a towards b, and the bend as a
        tie-break."""
        ahead = 1.0 if b > a else -1.0
        if self.radius:
            angle = a + ahead * math.pi / 2
            return round(angle % (2 * math.pi), 7) % 6.2831853, ahead / self.radius
        return round(
            math.atan2(ahead * self.direction[1], ahead * self.direction[0]) % (2 * math.pi), 7
        ) % 6.2831853, 0.0

    def area(self, a: float, b: float) -> float:
        """Return half the integral of x dy - y dx from a to b, mm²."""
        (x0, y0), (x1, y1) = self.at(a), self.at(b)
        chord = (x0 * y1 - x1 * y0) / 2
        return chord + self.radius**2 * ((b - a) - math.sin(b - a)) / 2 if self.radius else chord

    def samples(self, a: float, b: float, fineness: float) -> list[float]:
        """Return parameters from a towards b, b left out, no two further apart than fineness rad."""
        n = max(2, math.ceil(abs(b - a) / fineness)) if self.radius else 1
        return [a + (b - a) * i / n for i in range(n)]

    def off(self, place: XY) -> float:
        """Return how far a place is from the path's full line, circle or curve."""
        dx, dy = place[0] - self.base[0], place[1] - self.base[1]
        return (
            abs(math.hypot(dx, dy) - self.radius)
            if self.radius
            else abs(self.direction[0] * dy - self.direction[1] * dx)
        )

    def box(self) -> tuple[float, float, float, float]:
        """Return a box (x low, y low, x high, y high) that holds the path."""
        if self.radius:
            (x, y), r = self.base, self.radius
            return x - r, y - r, x + r, y + r
        (ax, ay), (bx, by) = self.at(self.t0), self.at(self.t1)
        return min(ax, bx), min(ay, by), max(ax, bx), max(ay, by)


@dataclass(frozen=True, slots=True)
class Bent(Path):
    """A path of another form, given by its place and derivatives, or one that runs beside such a path; t0, t1
    and closed as for any.

    away : mm to its left, negative to its right, at which the path runs beside what `shape` gives; the
    parameter is the same.
    """

    away: float = 0.0

    def shape(self, t: float, order: int) -> XY:
        """Return the derivative of an order (up to 3) of the curve itself at a parameter (order 0 is the
        place)."""
        raise NotImplementedError

    def moved(self, t: float, order: int) -> XY:
        """Return the derivative of an order (up to 2) at a parameter (order 0 is the place).

        Beside a curve S with the unit normal n to its left and the curvature k, it is S + d n, whose
        derivative is (1 - d k) S'.
        """
        if not self.away:
            return self.shape(t, order)
        (x, y), (dx, dy) = self.shape(t, 0), self.shape(t, 1)
        d, speed = self.away, math.hypot(dx, dy) or 1.0
        if order == 0:
            return x - d * dy / speed, y + d * dx / speed
        stretch = self.stretch(t)
        if order == 1:
            return stretch * dx, stretch * dy
        (ax, ay), (bx, by) = self.shape(t, 2), self.shape(t, 3)
        bend = ((dx * by - dy * bx) - 3 * (dx * ay - dy * ax) * (dx * ax + dy * ay) / speed**2) / speed**3
        return stretch * ax - d * bend * dx, stretch * ay - d * bend * dy

    def stretch(self, t: float) -> float:
        """Return how many times as fast as the curve itself one runs beside it: nothing where it would turn
        back."""
        (dx, dy), (ax, ay) = self.shape(t, 1), self.shape(t, 2)
        return 1.0 - self.away * (dx * ay - dy * ax) / (math.hypot(dx, dy) ** 3 or 1.0)

    def turns_back(self) -> bool:
        """Tell whether what runs beside a curve turns back somewhere, where that bends more sharply than it
        is away."""
        raise NotImplementedError

    def at(self, t: float) -> XY:
        return self.moved(t, 0)

    @property
    def scale(self) -> float:
        x0, y0, x1, y1 = self.box()
        return max(math.hypot(x1 - x0, y1 - y0) / max(self.t1 - self.t0, 1e-9), 1e-9)

    def _grid(self) -> Array:
        return np.linspace(self.t0, self.t1, FINE + 1)

    def places(self) -> Array:
        """Return places along the path, (FINE + 1, 2), close enough to tell what crosses it."""
        return np.array([self.at(float(t)) for t in self._grid()])

    def where(self, x: float, y: float) -> float:
        grid, places = self._grid(), self.places()
        t = float(grid[int(np.hypot(places[:, 0] - x, places[:, 1] - y).argmin())])
        for _ in range(12):
            (px, py), (dx, dy), (sx, sy) = (self.moved(t, i) for i in (0, 1, 2))
            slope = dx * dx + dy * dy + (px - x) * sx + (py - y) * sy
            step = ((px - x) * dx + (py - y) * dy) / (slope if slope > 0 else dx * dx + dy * dy or 1.0)
            before, t = t, t - step if self.turns else min(max(t - step, self.t0), self.t1)
            if abs(t - before) < 1e-14:
                break
        return self.t0 + (t - self.t0) % (2 * math.pi) if self.turns else t

    def off(self, place: XY) -> float:
        return math.dist(self.at(self.where(*place)), place)

    def heading(self, a: float, b: float) -> tuple[float, float]:
        ahead = 1.0 if b > a else -1.0
        (dx, dy), (sx, sy) = self.moved(a, 1), self.moved(a, 2)
        bend = (dx * sy - dy * sx) / (math.hypot(dx, dy) ** 3 or 1.0)
        return round(math.atan2(ahead * dy, ahead * dx) % (2 * math.pi), 7) % 6.2831853, ahead * bend

    def area(self, a: float, b: float) -> float:
        total = 0.0
        inner = [t for t in self.breaks() if min(a, b) < t < max(a, b)]
        for low, high in pairwise([a, *(inner if b > a else inner[::-1]), b]):
            for node, weight in GAUSS:
                t = (low + high) / 2 + node * (high - low) / 2
                (x, y), (dx, dy) = self.moved(t, 0), self.moved(t, 1)
                total += weight * (x * dy - y * dx) * (high - low) / 4
        return total

    def breaks(self) -> list[float]:
        """Return the parameters, rising, between which the path is one smooth piece, short enough to
        integrate over."""
        return [float(t) for t in self._grid()]

    def samples(self, a: float, b: float, fineness: float) -> list[float]:
        n = max(2, math.ceil(abs(b - a) / (self.t1 - self.t0) * FINE))
        return [a + (b - a) * i / n for i in range(n)]

    def box(self) -> tuple[float, float, float, float]:
        places = self.places()
        slack = 0.01 * float(np.ptp(places, axis=0).max())
        (x0, y0), (x1, y1) = places.min(axis=0) - slack, places.max(axis=0) + slack
        return float(x0), float(y0), float(x1), float(y1)


@dataclass(frozen=True, slots=True)
class EllipsePath(Bent):
    """An ellipse about `base`: one half-axis is `direction` (mm), the other stands to its left and is `other`
    mm long."""

    other: float = 0.0

    @property
    def turns(self) -> bool:
        return True

    def angle(self, place: XY) -> float:
        """Return the parameter in whose direction a place lies, or, beside the ellipse, of its foot; rad."""
        if self.away:
            return self.where(*place)
        (wx, wy), length = self.direction, math.hypot(*self.direction) or 1.0
        dx, dy = place[0] - self.base[0], place[1] - self.base[1]
        return math.atan2((wx * dy - wy * dx) / length / self.other, (wx * dx + wy * dy) / length**2)

    def turns_back(self) -> bool:
        ts, a = np.linspace(self.t0, self.t1, CLOSE + 1), math.hypot(*self.direction)
        speed = np.sqrt((a * np.sin(ts)) ** 2 + (self.other * np.cos(ts)) ** 2)
        return bool((1.0 - self.away * a * self.other / np.maximum(speed, NO_DIVISOR) ** 3 < STRETCH).any())

    def shape(self, t: float, order: int) -> XY:
        (wx, wy), length = self.direction, math.hypot(*self.direction) or 1.0
        c, s = math.cos(t + order * math.pi / 2), math.sin(t + order * math.pi / 2)
        x, y = c * wx - s * self.other * wy / length, c * wy + s * self.other * wx / length
        return (x + self.base[0], y + self.base[1]) if order == 0 else (x, y)


@dataclass(frozen=True, slots=True)
class SplinePath(Bent):
    """A B-spline over 0 to 1, or a part of one; like a line's, its parameter goes on beyond the part's
    ends."""

    shapes: tuple[BSpline, ...] = ()  # itself and its first three derivatives

    def whole(self) -> SplinePath:
        """Return all of the spline that this is a part of."""
        return replace(self, t0=0.0, t1=1.0)

    def where(self, x: float, y: float) -> float:
        return Bent.where(self, x, y) if (self.t0, self.t1) == (0.0, 1.0) else self.whole().where(x, y)

    def shape(self, t: float, order: int) -> XY:
        x, y = self.shapes[order](min(max(t, 0.0), 1.0))
        return float(x), float(y)

    def along(self, ts: list[float]) -> list[XY]:
        return [(x, y) for x, y in self._at(np.clip(ts, 0.0, 1.0)).tolist()]

    def places(self) -> Array:
        return self._at(self._grid())

    def _at(self, ts: Array) -> Array:
        places = np.asarray(self.shapes[0](ts))
        if not self.away:
            return places
        slopes = np.asarray(self.shapes[1](ts))
        speed = np.hypot(slopes[:, 0], slopes[:, 1])
        return (
            places
            + self.away
            * np.stack([-slopes[:, 1], slopes[:, 0]], axis=1)
            / np.where(speed > 0, speed, 1.0)[:, None]
        )

    def turns_back(self) -> bool:
        if not self.away:
            return False
        ts = np.clip(np.linspace(self.t0, self.t1, CLOSE + 1), 0.0, 1.0)
        (dx, dy), (ax, ay) = (np.asarray(self.shapes[i](ts)).T for i in (1, 2))
        speed = np.hypot(dx, dy)
        return bool(
            (1.0 - self.away * (dx * ay - dy * ax) / np.where(speed > 0, speed, 1.0) ** 3 < STRETCH).any()
        )

    def breaks(self) -> list[float]:
        knots = self.shapes[0].t.tolist()
        return sorted({*knots, *(Bent.breaks(self) if self.away else ())})


def path_of(drawing: Drawing, curve: str) -> Path:
    """Return a curve's path."""
    c = drawing.curves[curve]
    if isinstance(c, Line):
        (ax, ay), (bx, by) = drawing.place(c.start), drawing.place(c.end)
        length = math.hypot(bx - ax, by - ay)
        return Path(
            (ax, ay), ((bx - ax) / length, (by - ay) / length) if length else (1.0, 0.0), 0.0, 0.0, length
        )
    if isinstance(c, Spline):
        shape = shape_of(drawing, c)
        shapes = (
            shape,
            *(
                shape.derivative(i) if i <= shape.k else BSpline(shape.t, 0 * shape.c, shape.k)
                for i in (1, 2, 3)
            ),
        )
        spline = SplinePath((0.0, 0.0), (0.0, 0.0), 0.0, 0.0, 1.0, c.side * c.away, shapes)
        if not c.cut_ends:
            return spline
        t0, t1 = sorted(
            (
                spline.where(*drawing.place(c.start)) if c.start else 0.0,
                spline.where(*drawing.place(c.end)) if c.end else 1.0,
            )
        )
        return (
            replace(spline, t0=t0, t1=t1) if t1 - t0 > SHARE else spline
        )  # all of one that comes back to its beginning
    centre = drawing.place(c.centre)
    if isinstance(c, Oval):
        tip = drawing.place(c.tip)
        whole = EllipsePath(
            centre, (tip[0] - centre[0], tip[1] - centre[1]), 0.0, 0.0, 2 * math.pi, c.side * c.away, c.radius
        )
        if not isinstance(c, EllipseArc):
            return whole
        t0, t1 = (whole.angle(drawing.place(p)) for p in c.ends)
        return replace(whole, t0=t0, t1=t0 + ((t1 - t0) % (2 * math.pi) or 2 * math.pi))
    if c.kind == "circle":
        return Path(centre, (0.0, 0.0), c.radius, 0.0, 2 * math.pi)
    (sx, sy), (ex, ey) = drawing.place(c.start), drawing.place(c.end)
    t0 = math.atan2(sy - centre[1], sx - centre[0])
    sweep = (math.atan2(ey - centre[1], ex - centre[0]) - t0) % (2 * math.pi)
    return Path(centre, (0.0, 0.0), c.radius, t0, t0 + (sweep or 2 * math.pi))


def crossings(paths: dict[str, Path]) -> Iterator[tuple[str, str, float, float]]:
    """Yield (curve, curve, parameter on the first, on the second) wherever two paths meet or touch."""
    items = [(c, p, p.box()) for c, p in paths.items()]
    for i, (first, p, a) in enumerate(items):
        for second, q, b in items[i + 1 :]:
            if (
                a[0] > b[2] + ONE_PLACE
                or b[0] > a[2] + ONE_PLACE
                or a[1] > b[3] + ONE_PLACE
                or b[1] > a[3] + ONE_PLACE
            ):
                continue
            for x, y in meetings(p, q):
                t, u = p.where(x, y), q.where(x, y)
                if _within(p, t) and _within(q, u):
                    yield first, second, _snapped(p, t), _snapped(q, u)


def _within(path: Path, t: float) -> bool:
    slack = ONE_PLACE / path.scale
    around = path.turns and abs(t - path.t0 - 2 * math.pi) < slack
    return around or path.t0 - slack <= t <= path.t1 + slack


def _snapped(path: Path, t: float) -> float:
    return path.t0 if path.turns and abs(t - path.t0 - 2 * math.pi) < ONE_PLACE / path.scale else t


def meetings(p: Path, q: Path) -> list[XY]:
    """Return the places where two paths meet or touch; straight, round and elliptic ones are taken as
    endless."""
    ends = [path.at(t) for path in (p, q) if not path.closed for t in (path.t0, path.t1)]
    found = [e for e in ends if p.off(e) < ONE_PLACE and q.off(e) < ONE_PLACE]
    if isinstance(p, Bent) and isinstance(q, Bent) and _run_together(p, q):
        return _once(found)
    if isinstance(p, Bent) or isinstance(q, Bent):
        return _once(found + _bent(p, q))
    if not p.radius and not q.radius:
        return found + _lines(p, q)
    if p.radius and q.radius:
        return found + _circles(p, q)
    return found + (_line_circle(p, q) if q.radius else _line_circle(q, p))


def _run_together(p: Bent, q: Bent) -> bool:
    """Tell whether two bent paths are, over a stretch, one and the same: a trimmed curve and what it was
    taken from, say."""
    for one, other in ((p, q), (q, p)):
        on_it = 0
        for i in range(1, 12):
            place = one.at(one.t0 + (one.t1 - one.t0) * i / 12)
            on_it += other.off(place) < ONE_PLACE and _within(other, other.where(*place))
            if on_it >= 3:
                return True
    return False


def _once(places: list[XY]) -> list[XY]:
    kept: list[XY] = []
    for place in places:
        if all(math.dist(place, k) > 20 * ONE_PLACE for k in kept):
            kept.append(place)
    return kept


def _bent(p: Path, q: Path) -> list[XY]:
    """Return where two paths cross, one of them bent: by the crossings of their chords, then Newton's
    method."""
    p, q = (replace(path, t1=path.t0 + 2 * math.pi) if path.turns else path for path in (p, q))
    (t, P), (u, Q) = _chords(p, q), _chords(q, p)
    d, e = np.diff(P, axis=0)[:, None], np.diff(Q, axis=0)[None]
    gap = Q[None, :-1] - P[:-1, None]
    cross = d[..., 0] * e[..., 1] - d[..., 1] * e[..., 0]
    safe = np.where(np.abs(cross) > NO_DIVISOR, cross, np.inf)
    a, b = (
        (gap[..., 0] * e[..., 1] - gap[..., 1] * e[..., 0]) / safe,
        (gap[..., 0] * d[..., 1] - gap[..., 1] * d[..., 0]) / safe,
    )
    slack = 0.05
    found = []
    for i, j in zip(
        *np.nonzero((a > -slack) & (a < 1 + slack) & (b > -slack) & (b < 1 + slack) & np.isfinite(safe)),
        strict=True,
    ):
        place = _refined(
            p, q, float(t[i] + a[i, j] * (t[i + 1] - t[i])), float(u[j] + b[i, j] * (u[j + 1] - u[j]))
        )
        if place:
            found.append(place)
    return found


def _chords(path: Path, other: Path) -> tuple[Array, Array]:
    """Return parameters and places along a path: of a straight one, those beside the other's box."""
    if isinstance(path, Bent):
        return path._grid(), path.places()
    grid = np.linspace(path.t0, path.t1, FINE + 1)
    if not path.radius:
        x0, y0, x1, y1 = other.box()
        along = [path.where(x, y) for x in (x0, x1) for y in (y0, y1)]
        slack = 0.05 * (max(along) - min(along)) + ONE_PLACE
        grid = np.array([min(along) - slack, max(along) + slack])
    return grid, np.array([path.at(float(v)) for v in grid])


def _refined(p: Path, q: Path, t: float, u: float) -> XY | None:
    for _ in range(20):
        (px, py), (qx, qy) = p.at(t), q.at(u)
        if math.hypot(qx - px, qy - py) < ONE_PLACE / 100:
            return px, py
        (ax, ay), (bx, by) = _slope(p, t), _slope(q, u)
        cross = ax * by - ay * bx
        if abs(cross) < 1e-14 * (math.hypot(ax, ay) * math.hypot(bx, by) or 1.0):
            return None
        t, u = t + ((qx - px) * by - (qy - py) * bx) / cross, u + ((qx - px) * ay - (qy - py) * ax) / cross
    return None


def _slope(path: Path, t: float) -> XY:
    if isinstance(path, Bent):
        return path.moved(t, 1)
    if path.radius:
        return -path.radius * math.sin(t), path.radius * math.cos(t)
    return path.direction


def _lines(p: Path, q: Path) -> list[XY]:
    cross = p.direction[0] * q.direction[1] - p.direction[1] * q.direction[0]
    if abs(cross) < NO_LENGTH:
        return []
    dx, dy = q.base[0] - p.base[0], q.base[1] - p.base[1]
    return [p.at((dx * q.direction[1] - dy * q.direction[0]) / cross)]


def _line_circle(line: Path, circle: Path) -> list[XY]:
    foot = line.where(*circle.base)
    off = math.dist(line.at(foot), circle.base)
    if off > circle.radius + ONE_PLACE:
        return []
    reach = math.sqrt(max(circle.radius**2 - off**2, 0.0))
    if abs(off - circle.radius) < ONE_PLACE:
        reach = 0.0
    return [line.at(foot - reach), line.at(foot + reach)][: 2 if reach else 1]


def _circles(p: Path, q: Path) -> list[XY]:
    gap = math.dist(p.base, q.base)
    if gap < ONE_PLACE or gap > p.radius + q.radius + ONE_PLACE or gap < abs(p.radius - q.radius) - ONE_PLACE:
        return []
    along = (gap**2 + p.radius**2 - q.radius**2) / (2 * gap)
    across = math.sqrt(max(p.radius**2 - along**2, 0.0))
    if min(abs(gap - p.radius - q.radius), abs(gap - abs(p.radius - q.radius))) < ONE_PLACE:
        across = 0.0
    ux, uy = (q.base[0] - p.base[0]) / gap, (q.base[1] - p.base[1]) / gap
    x, y = p.base[0] + along * ux, p.base[1] + along * uy
    return [(x - across * uy, y + across * ux), (x + across * uy, y - across * ux)][: 2 if across else 1]
