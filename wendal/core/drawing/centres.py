"""Centre lines and marks, bolt circles, threads (ISO 128-2, ISO 6410-1), from the round faces of the
bodies."""

from __future__ import annotations

import math
from collections.abc import Iterable, Iterator
from dataclasses import dataclass, replace

from .. import kernel
from ..kernel.types import Frame, Vec, add, cross, dot, minus, scaled
from ..once import Once
from ..strokes import Stroke
from .drilled import Thread, ring_of
from .ink import XY, Ink, line
from .views import Line

__all__ = ["Axle", "axles_of", "centre_lines", "runs_along", "thread_lines"]

PAST = 2.5  # mm on paper that a centre line runs on
ENOUGH = math.radians(170)  # of a turn, that a round face has an axis on a drawing
ONE = 1e-6  # mm, and of a unit: the same axis


@dataclass(frozen=True, slots=True)
class Axle:
    """An axis round which faces of a body run: a place on it, its direction, from where to where (mm from
    that place). radii : of its hollow and its other faces; full : whether any goes all round."""

    body: str
    origin: Vec
    way: Vec
    low: float
    high: float
    hollow: tuple[float, ...]
    solid: tuple[float, ...]
    faces: tuple[int, ...]

    @property
    def radius(self) -> float:
        """Return the greatest radius round it."""
        return max((*self.hollow, *self.solid))


def _axles(shape: kernel.NamedShape) -> tuple[Axle, ...]:
    """Return the axes of a body's round faces that are more than blends: half a turn of one radius, in
    all."""
    by_axis: list[list[kernel.Round]] = []
    for found in kernel.rounds_of(shape):
        same = next((held for held in by_axis if _coaxial(held[0], found)), None)
        if same is None:
            by_axis.append([found])
        else:
            same.append(found)
    axles = []
    for held in by_axis:
        first, kept = held[0], list[kernel.Round]()
        for hollow in (True, False):
            of_kind = [r for r in held if r.hollow == hollow]
            for radius in {round(r.radius, 6) for r in of_kind}:
                alike = [r for r in of_kind if round(r.radius, 6) == radius]
                if sum(r.sweep for r in alike) >= ENOUGH:
                    kept += alike
        if kept:
            ends = [
                dot(minus(add(r.origin, scaled(r.way, h)), first.origin), first.way)
                for r in kept
                for h in (r.low, r.high)
            ]
            axles.append(
                Axle(
                    "",
                    first.origin,
                    first.way,
                    min(ends),
                    max(ends),
                    tuple(sorted({round(r.radius, 6) for r in kept if r.hollow})),
                    tuple(sorted({round(r.radius, 6) for r in kept if not r.hollow})),
                    tuple(r.face for r in kept),
                )
            )
    return tuple(axles)


_known: Once[kernel.NamedShape, tuple[Axle, ...]] = Once(_axles, 60)


def axles_of(body: str, shape: kernel.NamedShape) -> list[Axle]:
    """Return the axes of a body's round faces, as much of it as a shape has. body : its id."""
    return [replace(a, body=body) for a in _known(shape)]


def runs_along(a: Axle, b: Axle) -> bool:
    """Tell whether an axis lies in another, no longer than that, and its circles are no larger."""
    if math.hypot(*cross(a.way, b.way)) > ONE:
        return False
    off = minus(a.origin, b.origin)
    if math.hypot(*minus(off, scaled(b.way, dot(off, b.way)))) > ONE * 10:
        return False
    ends = [dot(minus(add(a.origin, scaled(a.way, h)), b.origin), b.way) for h in (a.low, a.high)]
    return min(ends) > b.low - ONE and max(ends) < b.high + ONE and a.radius < b.radius + ONE


def _coaxial(a: kernel.Round, b: kernel.Round) -> bool:
    if math.hypot(*cross(a.way, b.way)) > ONE:
        return False
    off = minus(b.origin, a.origin)
    return math.hypot(*minus(off, scaled(a.way, dot(off, a.way)))) < ONE * 10


def centre_lines(axles: list[Axle], frame: Frame, k: float) -> list[Ink]:
    """Return the centre lines and marks of a view, mm on paper from its middle. k : paper for one of the
    part."""
    along = [a for a in axles if math.hypot(*cross(a.way, frame.normal)) < ONE]
    across = [a for a in axles if abs(dot(a.way, frame.normal)) < ONE]
    rings = list(_rings(along, frame))
    on_rings = {(round(c[0], 6), round(c[1], 6)) for _, _, middles in rings for c in middles}
    found: list[Ink] = []
    crosses: dict[tuple[float, float], float] = {}
    for axle in along:
        u, v, _ = frame.local(axle.origin)
        at = (round(u, 6), round(v, 6))
        crosses[at] = max(crosses.get(at, 0.0), axle.radius)
    for middle, radius, middles in rings:
        found.append(_circle((k * middle[0], k * middle[1]), k * radius))
        for u, v in middles:
            found.append(_spoke(middle, (u, v), crosses[round(u, 6), round(v, 6)], k))
    for (u, v), radius in crosses.items():
        if (u, v) in on_rings:
            continue
        reach = k * radius + PAST
        found.append(line((k * u - reach, k * v), (k * u + reach, k * v), "centre"))
        found.append(line((k * u, k * v - reach), (k * u, k * v + reach), "centre"))
    return found + _runs(across, frame, k)


def _circle(middle: XY, radius: float) -> Ink:
    start = (middle[0] + radius, middle[1])
    return Ink(Stroke("arc", start, start, centre=middle, radius=radius, t0=0.0, t1=2 * math.pi), "centre")


def _spoke(middle: XY, at: XY, radius: float, k: float) -> Ink:
    off = at[0] - middle[0], at[1] - middle[1]
    far = math.hypot(*off)
    reach = radius + PAST / k
    a, b = ((far + s * reach) / far for s in (-1, 1))
    return line(
        (k * (middle[0] + a * off[0]), k * (middle[1] + a * off[1])),
        (k * (middle[0] + b * off[0]), k * (middle[1] + b * off[1])),
        "centre",
    )


def _rings(along: list[Axle], frame: Frame) -> Iterator[tuple[XY, float, list[XY]]]:
    """Yield circles on which holes of one size lie evenly: middle, radius, the holes' middles."""
    sizes: dict[tuple[float, ...], list[XY]] = {}
    for axle in along:
        if axle.hollow and not axle.solid:
            u, v, _ = frame.local(axle.origin)
            if (u, v) not in sizes.setdefault(axle.hollow, []):
                sizes[axle.hollow].append((u, v))
    axes = [frame.local(a.origin)[:2] for a in along]
    for middles in sizes.values():
        if ring := ring_of(middles, axes):
            yield *ring, middles


def _runs(across: list[Axle], frame: Frame, k: float) -> list[Ink]:
    """Return the centre lines of axes that lie across a view; those that lie on one line are one."""
    runs: dict[tuple[float, ...], list[tuple[float, float]]] = {}
    for axle in across:
        u, v, _ = frame.local(axle.origin)
        du, dv = dot(axle.way, frame.x), dot(axle.way, frame.y)
        if du < -ONE or (abs(du) <= ONE and dv < 0):
            du, dv, low, high = -du, -dv, -axle.high, -axle.low
        else:
            low, high = axle.low, axle.high
        way, off = u * du + v * dv, u * dv - v * du
        key = (round(du, 6), round(dv, 6), round(off, 5))
        runs.setdefault(key, []).append((way + low, way + high))
    found = []
    for (du, dv, off), spans in runs.items():
        for low, high in _joined(spans):
            a, b = k * low - PAST, k * high + PAST
            x, y = k * off * dv, -k * off * du
            found.append(line((x + a * du, y + a * dv), (x + b * du, y + b * dv), "centre"))
    return found


def _joined(spans: Iterable[tuple[float, float]]) -> list[tuple[float, float]]:
    found: list[tuple[float, float]] = []
    for low, high in sorted(spans):
        if found and low <= found[-1][1] + ONE:
            found[-1] = (found[-1][0], max(high, found[-1][1]))
        else:
            found.append((low, high))
    return found


def thread_lines(
    threads: list[Thread], lines: Iterable[Line], frame: Frame, k: float, depths: list[float], hidden: bool
) -> list[Ink]:
    """Return the lines of inner threads: three quarters of a circle seen from the end, two thin lines across.

    lines : of the view: a thread is seen from its end where its hole is. depths : of a section's cuts, mm
    towards the eye; threads whose axis lies in one are seen. hidden : whether those that are not seen are
    drawn."""
    seen = {
        (round(ln.stroke.centre[0], 4), round(ln.stroke.centre[1], 4), round(ln.stroke.radius, 4))
        for ln in lines
        if ln.visible and ln.stroke.kind == "arc"
    }
    found: list[Ink] = []
    for t in threads:
        u, v, w = frame.local(t.start)
        if math.hypot(*cross(t.way, frame.normal)) < ONE:
            if (round(u, 4), round(v, 4), round(t.core, 4)) not in seen:
                continue  # its hole is not seen from here
            at, r = (k * u, k * v), k * t.major
            t0, t1 = math.radians(-10), math.radians(260)  # a quarter is left open, not at an axis
            found.append(Ink(Stroke("arc", _on(at, r, t0), _on(at, r, t1), at, r, t0, t1), "thread"))
        elif abs(dot(t.way, frame.normal)) < ONE:
            du, dv = dot(t.way, frame.x), dot(t.way, frame.y)
            shown = any(abs(w - d) < ONE * 10 for d in depths)
            if not shown and not hidden:
                continue
            for side in (t.major, -t.major):
                a, b = ((k * (u + h * du - side * dv), k * (v + h * dv + side * du)) for h in (0.0, t.length))
                found.append(line(a, b, "thread" if shown else "hidden"))
    return found


def _on(middle: XY, radius: float, angle: float) -> XY:
    return middle[0] + radius * math.cos(angle), middle[1] + radius * math.sin(angle)
