"""Curves as parametrised paths, and where two of them meet."""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass

from .model import Drawing, Line

__all__ = ["Path", "crossings", "meetings", "path_of"]

TOUCH = 1e-7  # mm: how near counts as meeting
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
    def closed(self) -> bool:
        """A full circle."""
        return self.radius > 0 and self.t1 - self.t0 > 2 * math.pi - 1e-12

    @property
    def scale(self) -> float:
        """Mm per unit of the parameter."""
        return self.radius or 1.0

    def at(self, t: float) -> XY:
        """Return the place at a parameter."""
        if self.radius:
            return (self.base[0] + self.radius * math.cos(t), self.base[1] + self.radius * math.sin(t))
        return (self.base[0] + t * self.direction[0], self.base[1] + t * self.direction[1])

    def where(self, x: float, y: float) -> float:
        """Return the parameter of the place on the path nearest to (x, y), turned to lie in t0 … t0 + 2 pi."""
        if self.radius:
            return self.t0 + (math.atan2(y - self.base[1], x - self.base[0]) - self.t0) % (2 * math.pi)
        return (x - self.base[0]) * self.direction[0] + (y - self.base[1]) * self.direction[1]

    def heading(self, a: float, b: float) -> tuple[float, float]:
        """Return the direction (rad in [0, 2 pi)) in which one leaves a towards b, and the bend as a tie-break."""
        ahead = 1.0 if b > a else -1.0
        if self.radius:
            angle = a + ahead * math.pi / 2
            return round(angle % (2 * math.pi), 7) % 6.2831853, ahead / self.radius
        return round(math.atan2(ahead * self.direction[1], ahead * self.direction[0]) % (2 * math.pi), 7) % 6.2831853, 0.0

    def area(self, a: float, b: float) -> float:
        """Return half the integral of x dy - y dx from a to b, mm²."""
        (x0, y0), (x1, y1) = self.at(a), self.at(b)
        chord = (x0 * y1 - x1 * y0) / 2
        return chord + self.radius**2 * ((b - a) - math.sin(b - a)) / 2 if self.radius else chord

    def samples(self, a: float, b: float, fineness: float) -> list[float]:
        """Return parameters from a towards b, b left out, no two further apart than fineness rad."""
        n = max(2, math.ceil(abs(b - a) / fineness)) if self.radius else 1
        return [a + (b - a) * i / n for i in range(n)]

    def box(self) -> tuple[float, float, float, float]:
        """Return a box (x low, y low, x high, y high) that holds the path."""
        if self.radius:
            (x, y), r = self.base, self.radius
            return x - r, y - r, x + r, y + r
        (ax, ay), (bx, by) = self.at(self.t0), self.at(self.t1)
        return min(ax, bx), min(ay, by), max(ax, bx), max(ay, by)


def path_of(drawing: Drawing, curve: str) -> Path:
    """Return a curve's path."""
    c = drawing.curves[curve]
    if isinstance(c, Line):
        (ax, ay), (bx, by) = drawing.place(c.start), drawing.place(c.end)
        length = math.hypot(bx - ax, by - ay)
        return Path((ax, ay), ((bx - ax) / length, (by - ay) / length) if length else (1.0, 0.0), 0.0, 0.0, length)
    centre = drawing.place(c.centre)
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
            if a[0] > b[2] + TOUCH or b[0] > a[2] + TOUCH or a[1] > b[3] + TOUCH or b[1] > a[3] + TOUCH:
                continue
            for x, y in meetings(p, q):
                t, u = p.where(x, y), q.where(x, y)
                if _within(p, t) and _within(q, u):
                    yield first, second, _snapped(p, t), _snapped(q, u)


def _within(path: Path, t: float) -> bool:
    slack = TOUCH / path.scale
    around = path.radius > 0 and abs(t - path.t0 - 2 * math.pi) < slack
    return around or path.t0 - slack <= t <= path.t1 + slack


def _snapped(path: Path, t: float) -> float:
    return path.t0 if path.radius and abs(t - path.t0 - 2 * math.pi) < TOUCH / path.scale else t


def meetings(p: Path, q: Path) -> list[XY]:
    ends = [path.at(t) for path in (p, q) if not path.closed for t in (path.t0, path.t1)]
    found = [e for e in ends if _off(p, e) < TOUCH and _off(q, e) < TOUCH]
    if not p.radius and not q.radius:
        return found + _lines(p, q)
    if p.radius and q.radius:
        return found + _circles(p, q)
    return found + (_line_circle(p, q) if q.radius else _line_circle(q, p))


def _off(path: Path, place: XY) -> float:
    """How far a place is from the path's full line or circle."""
    dx, dy = place[0] - path.base[0], place[1] - path.base[1]
    if path.radius:
        return abs(math.hypot(dx, dy) - path.radius)
    return abs(path.direction[0] * dy - path.direction[1] * dx)


def _lines(p: Path, q: Path) -> list[XY]:
    cross = p.direction[0] * q.direction[1] - p.direction[1] * q.direction[0]
    if abs(cross) < 1e-12:
        return []
    dx, dy = q.base[0] - p.base[0], q.base[1] - p.base[1]
    return [p.at((dx * q.direction[1] - dy * q.direction[0]) / cross)]


def _line_circle(line: Path, circle: Path) -> list[XY]:
    foot = line.where(*circle.base)
    off = math.dist(line.at(foot), circle.base)
    if off > circle.radius + TOUCH:
        return []
    reach = math.sqrt(max(circle.radius**2 - off**2, 0.0))
    if abs(off - circle.radius) < TOUCH:
        reach = 0.0
    return [line.at(foot - reach), line.at(foot + reach)][: 2 if reach else 1]


def _circles(p: Path, q: Path) -> list[XY]:
    gap = math.dist(p.base, q.base)
    if gap < TOUCH or gap > p.radius + q.radius + TOUCH or gap < abs(p.radius - q.radius) - TOUCH:
        return []
    along = (gap**2 + p.radius**2 - q.radius**2) / (2 * gap)
    across = math.sqrt(max(p.radius**2 - along**2, 0.0))
    if min(abs(gap - p.radius - q.radius), abs(gap - abs(p.radius - q.radius))) < TOUCH:
        across = 0.0
    ux, uy = (q.base[0] - p.base[0]) / gap, (q.base[1] - p.base[1]) / gap
    x, y = p.base[0] + along * ux, p.base[1] + along * uy
    return [(x - across * uy, y + across * ux), (x + across * uy, y - across * ux)][: 2 if across else 1]
