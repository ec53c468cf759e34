"""Sketches whose equations depend on each other at the sizes they have, with the number of freedoms known by construction; and a referee.

The referee knows no ranks: it throws all unknowns a little off, brings them back onto the constraints, and looks how far the places
reached spread.
"""

from __future__ import annotations

import cmath
import math
from collections import Counter
from collections.abc import Callable
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from tools.hunts.sketches import Pen
from wendal.core.sketch import Drawing
from wendal.core.sketch.solving.system import EquationSystem

__all__ = ["FAMILIES", "FRAMES", "made", "spread"]

Array = NDArray[np.float64]
FRAMES = {"pinned": 0, "sliding": 1, "loose": 2}


class Frame:
    """Ground for a mechanism: places measured from an anchor that is held, slides along X, or is loose; turned and sized as a whole."""

    def __init__(self, frame: str, turn: float, size: float) -> None:
        self.pen, self._by = Pen(), cmath.rect(size, turn)
        self._base = complex(0.0 if frame == "pinned" else 3.0 * size, 0.0 if frame != "loose" else 2.0 * size)
        self.anchor = self.pen.point(self._base)
        if frame == "pinned":
            self.pen.tie("coincident", self.anchor, "origin")
        elif frame == "sliding":
            self.pen.tie("on_curve", self.anchor, "x_axis")

    def point(self, x: float, y: float) -> str:
        return self.pen.point(self._base + self._by * complex(x, y))

    def ground(self, x: float, y: float) -> str:
        """A place at rest in the frame."""
        p = self.point(x, y)
        for manner in ("horizontal", "vertical"):
            self.pen.tie("distance", self.anchor, p, manner=manner)
        return p

    def bars(self, *pairs: tuple[str, str]) -> None:
        for a, b in pairs:
            self.pen.tie("distance", a, b)


def straight_chain(f: Frame, bars: int, rng: np.random.Generator) -> int:
    at = np.concatenate([[0.4], 0.4 + np.cumsum(rng.uniform(3, 6, bars))])
    points = [f.ground(at[0], 1), *(f.point(x, 1) for x in at[1:-1]), f.ground(at[-1], 1)]
    f.bars(*pairwise(points))
    return 0


def folded_chain(f: Frame, rng: np.random.Generator) -> int:
    a, b = rng.uniform(5, 6), rng.uniform(2, 3)
    points = [f.ground(1, 1), f.point(1 + a, 1), f.point(1 + a - b, 1), f.ground(1 + a + 2, 1)]
    f.bars(*pairwise(points))
    return 1


def flat_triangle(f: Frame, rng: np.random.Generator) -> int:
    a, b = rng.uniform(2, 5, 2)
    p, q, r = f.ground(0.5, 0.5), f.point(0.5 + a, 0.5), f.ground(0.5 + a + b, 0.5)
    f.bars((p, q), (q, r))
    return 0


def platform(f: Frame, legs: int, flat: bool, rng: np.random.Generator) -> int:
    """A rigid plate on equal parallel bars: it goes round in a circle, however many there are."""
    feet = [(1.0, 1.0), (7.0, 1.0), (4.0, 1.0 if flat and legs == 2 else 5.0), (9.0, 4.0)][:legs]
    angle = 0.0 if flat else float(rng.uniform(0.8, 2.2))
    dx, dy = 4 * math.cos(angle), 4 * math.sin(angle)
    top = [f.point(x + dx, y + dy) for x, y in feet]
    f.bars(*zip([f.ground(x, y) for x, y in feet], top, strict=True), (top[0], top[1]))
    for i in range(2, legs):
        f.bars((top[i], top[0]), (top[i], top[1]))
    return 1


def touching(f: Frame, rng: np.random.Generator) -> int:
    """A point on two circles that touch there."""
    r, s = rng.uniform(2, 4, 2)
    f.bars((f.ground(1, 1), p := f.point(1 + r, 1)), (p, f.ground(1 + r + s, 1)))
    return 0


def dead_crank(f: Frame, rng: np.random.Generator) -> int:
    """A crank and a rod in line, the slider's place given."""
    r, s = rng.uniform(2, 4, 2)
    pin, middle = f.point(1 + r, 1), f.ground(1, 1)
    f.bars((middle, pin), (pin, f.ground(1 + r + s, 1)))
    follower = f.point(1 + r, 5)
    f.bars((pin, follower))
    return 1  # what hangs on the pin still swings


def two_axes(f: Frame, rng: np.random.Generator) -> int:
    """Three points on one axis, three on another, all joined: it moves at these lengths only."""
    first, *more = np.cumsum(rng.uniform(2, 3, 3))
    one = [f.ground(first, 0), *(f.point(x, 0) for x in more)]
    two = [f.point(0, y) for y in np.cumsum(rng.uniform(2, 3, 3))]
    f.bars(*((a, b) for a in one for b in two))
    return 2  # the axes turn about the held point, and it moves in itself


def even_arc(f: Frame, rng: np.random.Generator) -> int:
    """An arc between two points at rest, its centre at even distances from them: the centre and radius still go together."""
    a, h = rng.uniform(3, 5), rng.uniform(2, 4)
    one, two, centre = f.ground(1, 1), f.ground(1 + 2 * a, 1), f.point(1 + a, 1 - h)
    f.pen.arc(centre, two, one)
    return 1


def triangle(f: Frame, rng: np.random.Generator) -> int:
    p, q, r = f.ground(1, 1), f.ground(6, 2), f.point(3, float(rng.uniform(4, 7)))
    f.bars((p, r), (q, r))
    return 0


def crank(f: Frame, rng: np.random.Generator) -> int:
    p, q = f.ground(1, 1), f.point(3, float(rng.uniform(2, 4)))
    f.bars((p, q))
    return 1


FAMILIES: dict[str, Callable[[Frame, np.random.Generator], int]] = {
    "straight chain of 3": lambda f, r: straight_chain(f, 3, r), "straight chain of 4": lambda f, r: straight_chain(f, 4, r),
    "folded chain": folded_chain, "flat triangle": flat_triangle, "platform of 2": lambda f, r: platform(f, 2, False, r),
    "platform of 3": lambda f, r: platform(f, 3, False, r), "platform of 4": lambda f, r: platform(f, 4, False, r),
    "flat platform of 2": lambda f, r: platform(f, 2, True, r), "flat platform of 3": lambda f, r: platform(f, 3, True, r),
    "touching circles": touching, "dead crank": dead_crank, "two axes": two_axes, "even arc": even_arc, "triangle": triangle, "crank": crank,
}


def made(names: list[str], frame: str, seed: int, size: float = 1.0) -> tuple[Drawing, int]:
    """Return some families over one frame as a drawing, and the number of its freedoms."""
    rng = np.random.default_rng(seed)
    f = Frame(frame, float(rng.uniform(0, 2 * math.pi)), size)
    freedoms = FRAMES[frame] + sum(FAMILIES[name](f, rng) for name in names)
    return f.pen.drawing, freedoms


def spread(system: EquationSystem, z: Array, seed: int = 0) -> tuple[int, list[Array]]:
    """Return in how many independent ways a solved system really moves, and places it reaches."""
    rng = np.random.default_rng(seed)
    size, reached = system.size, [z]
    starts = [s for _ in range(8) if (s := _back(system, z + 0.05 * size * _unit(rng, system.n))) is not None and np.linalg.norm(s - z) > 0.01 * size]
    counts: Counter[int] = Counter()
    for start in starts[:5] or [z]:  # from a general place, since two ways can cross at the drawn one
        ends = [e for e in (_back(system, start + 0.003 * size * _unit(rng, system.n)) for _ in range(2 * system.n + 6))
                if e is not None and np.linalg.norm(e - start) < 0.03 * size]
        reached += [start, *ends[:3]]
        s = np.linalg.svd(np.stack(ends) - start, compute_uv=False) / math.sqrt(len(ends)) if ends else np.zeros(0)
        counts[int((s > 0.05 * 0.003 * size / math.sqrt(system.n)).sum())] += 1
    return counts.most_common(1)[0][0], reached


def _unit(rng: np.random.Generator, n: int) -> Array:
    v = rng.normal(size=n)
    return np.asarray(v / np.linalg.norm(v))


def _back(system: EquationSystem, z: Array) -> Array | None:
    """Least steps back onto all constraints, damped by the residual."""
    damping = 1e-2
    for _ in range(200):
        r, J = system.evaluate(z)
        if np.abs(r).max(initial=0.0) < 1e-12 * system.size:
            return z
        step = J.T @ np.linalg.solve(J @ J.T + damping * np.linalg.norm(r) / system.size * np.eye(len(r)) + 1e-16 * np.eye(len(r)), r)
        if np.linalg.norm(system.residuals(z - step)) < np.linalg.norm(r):
            z, damping = z - step, damping / 2
        else:
            damping *= 8
        if damping > 1e14:
            return None
    return None
