"""Where a rounding arc touches the two curves of a corner, and where a chamfer meets them.

Places and lengths in mm.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator
from dataclasses import replace
from itertools import pairwise

import numpy as np
from scipy.optimize import brentq

from ...tolerance import MEETS, ROOT
from ..drawn import FINE, Bent, Path, Place, meetings

__all__ = ["along", "by_angle", "touching"]


def along(path: Path, end: int, leg: float) -> Place | None:
    """Return the place on a path that is `leg` mm, measured straight, from its start (0) or end (1); None
    when it is too short."""
    if isinstance(path, Bent):
        return _bent_along(path, end, leg)
    if path.radius:
        if leg >= 2 * path.radius:
            return None
        step = 2 * math.asin(leg / (2 * path.radius))
    else:
        step = leg
    if step >= path.t1 - path.t0 - MEETS / path.scale:
        return None
    return path.at(path.t1 - step if end else path.t0 + step)


def _bent_along(path: Bent, end: int, leg: float) -> Place | None:
    """Return the first place on a bent path that is `leg` mm, measured straight, from an end of it."""
    grid = np.linspace(path.t1, path.t0, FINE + 1) if end else np.linspace(path.t0, path.t1, FINE + 1)
    at = path.at(float(grid[0]))

    def short(t: float) -> float:
        return math.dist(path.at(t), at) - leg

    beyond = next((i for i, t in enumerate(grid) if short(float(t)) >= 0), None)
    if beyond is None:
        return None
    found = path.at(float(brentq(short, grid[beyond - 1], grid[beyond], xtol=ROOT)))
    return found if math.dist(found, path.at(float(grid[-1]))) > MEETS else None


def by_angle(a: Place, at: Place, two: Path, two_end: int, angle: float) -> Place | None:
    """Return where the chamfer of a corner `at` that leaves `a` on one line, at an angle (rad) to it, meets
    the other line."""
    toward = two.direction if two_end == 0 else (-two.direction[0], -two.direction[1])
    back = ((at[0] - a[0]), (at[1] - a[1]))
    n = math.hypot(*back)
    cross = back[0] * toward[1] - back[1] * toward[0]
    turn = math.copysign(angle, cross)
    way = (
        (back[0] * math.cos(turn) - back[1] * math.sin(turn)) / n,
        (back[0] * math.sin(turn) + back[1] * math.cos(turn)) / n,
    )
    hits = meetings(Path(a, way, 0.0, 0.0, n), two)
    inside = [
        h
        for h in hits
        if two.t0 < two.where(*h) < two.t1 and (h[0] - a[0]) * way[0] + (h[1] - a[1]) * way[1] > MEETS
    ]
    return min(inside, key=lambda h: math.dist(h, at), default=None)


def touching(one: Path, two: Path, at: Place, radius: float) -> tuple[Place, Place, Place] | None:
    """Return centre and touching places of the rounding arc in the corner `at` of two paths, or None when it
    does not fit."""
    if isinstance(one, Bent) or isinstance(two, Bent):
        centres = (
            _bent_centres(one, two, radius) if isinstance(one, Bent) else _bent_centres(two, one, radius)
        )
    else:
        centres = (c for p in _beside(one, radius) for q in _beside(two, radius) for c in meetings(p, q))
    best: tuple[float, tuple[Place, Place, Place]] | None = None
    for centre in centres:
        a, b = _foot(one, centre), _foot(two, centre)
        if a is None or b is None:
            continue
        # Both touch, and both on the part of its curve that stays.
        if (
            abs(math.dist(a, centre) - radius) > MEETS
            or abs(math.dist(b, centre) - radius) > MEETS
            or math.dist(a, b) < MEETS
        ):
            continue
        away = math.dist(a, at) + math.dist(b, at)
        if best is None or away < best[0]:
            best = (away, (centre, a, b))
    return best[1] if best else None


def _bent_centres(bent: Path, other: Path, radius: float) -> Iterator[Place]:
    """Yield the places at a distance from a bent path and from another: along the first, where the second is
    as far away."""
    assert isinstance(bent, Bent)

    for side in (1.0, -1.0):

        def centre(t: float, side: float = side) -> Place:
            (x, y), (dx, dy) = bent.moved(t, 0), bent.moved(t, 1)
            n = math.hypot(dx, dy) or 1.0
            return x - side * radius * dy / n, y + side * radius * dx / n

        def off(t: float, centre: Callable[[float], Place] = centre) -> float:
            at = centre(t)
            return math.dist(other.at(other.where(*at)), at) - radius

        grid = np.linspace(bent.t0, bent.t1, FINE + 1)
        gaps = [off(float(t)) for t in grid]
        for (low, high), (before, after) in zip(pairwise(grid.tolist()), pairwise(gaps), strict=True):
            if before * after < 0:
                yield centre(float(brentq(off, low, high, xtol=1e-15)))


def _beside(path: Path, radius: float) -> list[Path]:
    """Return the lines or circles at a distance from a path, on both sides."""
    if not path.radius:
        nx, ny = -path.direction[1] * radius, path.direction[0] * radius
        return [
            replace(path, base=(path.base[0] + s * nx, path.base[1] + s * ny), t0=-math.inf, t1=math.inf)
            for s in (1, -1)
        ]
    return [
        Path(path.base, path.direction, r, 0.0, 2 * math.pi)
        for r in (path.radius + radius, path.radius - radius)
        if r > MEETS
    ]


def _foot(path: Path, place: Place) -> Place | None:
    """Return the foot of a place on a path, when it lies inside of it."""
    t = path.where(*place)
    slack = MEETS / path.scale
    return path.at(t) if path.t0 + slack < t < path.t1 - slack else None
