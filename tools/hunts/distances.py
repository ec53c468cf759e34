"""Least distances between bodies that lie at random: against closed formulas that ask no kernel.

A ball is as far from a body as its centre is, less its radius. How far a place is from a box, a cylinder, a cone, a tube
and a ring is told by the section of each: by the nearest place of a few lines and circles.
"""

from __future__ import annotations

import math
import random
from collections import Counter
from collections.abc import Callable

from wendal.core import kernel
from wendal.core.kernel.types import Frame, Placement, Profile, Segment, Vec, cross, unit

__all__ = ["hunt_distances"]

Flat = tuple[float, float]


def to_segment(p: Flat, a: Flat, b: Flat) -> float:
    """How far a place is from a piece of line."""
    dx, dy = b[0] - a[0], b[1] - a[1]
    t = max(0.0, min(1.0, ((p[0] - a[0]) * dx + (p[1] - a[1]) * dy) / (dx * dx + dy * dy)))
    return math.dist(p, (a[0] + t * dx, a[1] + t * dy))


def inside(p: Flat, corners: list[Flat]) -> bool:
    """Whether a place lies in a convex outline that is passed to the left."""
    return all((b[0] - a[0]) * (p[1] - a[1]) - (b[1] - a[1]) * (p[0] - a[0]) >= 0 for a, b in zip(corners, corners[1:] + corners[:1], strict=True))


def to_turned(corners: list[Flat]) -> Callable[[Vec], float]:
    """How far a place is from a body whose half section is a convex outline of (radius, height) places."""

    def far(p: Vec) -> float:
        q = (math.hypot(p[0], p[1]), p[2])
        return 0.0 if inside(q, corners) else min(to_segment(q, a, b) for a, b in zip(corners, corners[1:] + corners[:1], strict=True))

    return far


def to_box(a: float, b: float, c: float) -> Callable[[Vec], float]:
    return lambda p: math.hypot(*(max(0.0, -v, v - size) for v, size in zip(p, (a, b, c), strict=True)))


def outlined(places: list[Flat]) -> Profile:
    return Profile("r1", [[Segment(f"c{i}", p, q) for i, (p, q) in enumerate(zip(places, places[1:] + places[:1], strict=True))]])


def body(rng: random.Random) -> tuple[str, kernel.NamedShape, Callable[[Vec], float]]:
    """A body at the origin, and how far a place is from it."""
    kind = rng.choice(["box", "cylinder", "cone", "tube"])
    if kind == "box":
        a, b, c = (rng.uniform(2, 40) for _ in range(3))
        return kind, kernel.prism(outlined([(0, 0), (a, 0), (a, b), (0, b)]), Frame(), (0.0, 0.0, c), "b"), to_box(a, b, c)
    r, h = rng.uniform(1, 20), rng.uniform(1, 40)
    corners: list[Flat] = {
        "cylinder": [(0.0, 0.0), (r, 0.0), (r, h), (0.0, h)],
        "cone": [(0.0, 0.0), (r, 0.0), (r * rng.uniform(0.1, 0.8), h), (0.0, h)],
        "tube": [(r, 0.0), (r + rng.uniform(1, 9), 0.0), (r + 10, h), (r, h)],
    }[kind]
    parts = [f"part {i}" for i in range(len(corners))]
    return kind, kernel.tool_of_revolution(corners, parts, Frame(), "b", "r1"), to_turned(corners)


def ball(centre: Vec, radius: float) -> kernel.NamedShape:
    """A ball, turned from half a disc."""
    half = Frame(centre, (1.0, 0.0, 0.0), (0.0, 0.0, 1.0))
    arc = Segment("arc", (0.0, -radius), (0.0, radius), (0.0, 0.0), radius, -math.pi / 2, math.pi / 2)
    line = Segment("axis", (0.0, radius), (0.0, -radius))
    return kernel.revolved(Profile("r1", [[arc, line]]), half, centre, (0.0, 0.0, 1.0), kernel.FULL, "ball")


def anywhere(rng: random.Random) -> Frame:
    """A frame turned and moved at random."""
    x = unit((rng.gauss(0, 1), rng.gauss(0, 1), rng.gauss(0, 1)))
    y = unit(cross((rng.gauss(0, 1), rng.gauss(0, 1), rng.gauss(0, 1)), x))
    return Frame((rng.uniform(-50, 50), rng.uniform(-50, 50), rng.uniform(-50, 50)), x, y)


def hunt_distances(size: int, seed: int = 1) -> Counter[str]:
    """Try pairs at random, in both orders; count how they came out."""
    found: Counter[str] = Counter()
    for k in range(size):
        rng = random.Random(f"{seed}:{k}")
        kind, made, far = body(rng)
        there = anywhere(rng)
        made = kernel.placed(made, Placement.between(Frame(), there))
        centre: Vec = (rng.uniform(-80, 80), rng.uniform(-80, 80), rng.uniform(-80, 80))
        radius = rng.uniform(0.5, 15)
        off = far(there.local(centre))
        for name, other, wanted in (
            ("a place", kernel.extent_of(at=centre), off),
            ("a ball", kernel.extent_of(body=ball(centre, radius)), max(0.0, off - radius)),
        ):
            for one, two in ((kernel.extent_of(body=made), other), (other, kernel.extent_of(body=made))):
                value, a, b = kernel.apart(one, two)
                right = abs(value - wanted) < 1e-5 and abs(math.dist(a, b) - value) < 1e-6
                found[f"{name} and a {kind}: {'right' if right else 'wrong'}"] += 1
                if not right:
                    print(f"  distances {seed}:{k}: {name} and a {kind}: {value} for {wanted}", flush=True)
    return found
