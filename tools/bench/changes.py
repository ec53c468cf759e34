"""Dimension changes judged against very small steps: unwanted flips, refusals of what can be reached, and the other way round."""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Mapping

import numpy as np
from numpy.typing import NDArray

from tools.hunts.sketches import FAMILIES, generated
from wendal.core.errors import SketchError
from wendal.core.sketch import Arc, Drawing, Line, measured, rule_for, solve
from wendal.core.sketch.solving.solver import newton
from wendal.core.sketch.solving.system import EquationSystem

__all__ = ["change_of", "judged", "small_steps"]

Array = NDArray[np.float64]
SAME = 1e-5  # of the sketch's size


def change_of(drawing: Drawing, rng: np.random.Generator, how_many: int) -> dict[str, float]:
    """Return new values, mm or rad: so many dimensions (0 for all) changed by a factor of up to 3 either way."""
    values = measured(drawing)
    names = sorted(values)
    picked = names if not how_many else [names[i] for i in rng.choice(len(names), min(how_many, len(names)), replace=False)]
    for k in picked:
        factor = 3.0 ** float(rng.uniform(-1, 1))
        angle = rule_for(drawing.constraints[k].kind).quantity == "angle"
        values[k] = min(values[k] * factor, math.radians(175)) if angle else values[k] * factor
    return values


def small_steps(drawing: Drawing, values: Mapping[str, float], steps: int) -> Array | None:
    """Follow a change in very small steps; return where the sketch ends, or None where the path breaks off.

    It breaks off where a step fails, jumps, turns a tangent joint into a cusp, or takes an arc through nothing.
    """
    start = measured(drawing)
    system = EquationSystem(drawing, start)
    z, looks = system.z0, _looks(drawing)
    for i in range(1, steps + 1):
        share = i / steps
        goal = {k: start[k] * (values[k] / start[k]) ** share if rule_for(drawing.constraints[k].kind).quantity == "length"
                else start[k] + share * (values[k] - start[k]) for k in start}
        here = system.with_values(goal, z)
        reached, done = newton(here, z)
        x = system.x(reached)[system.layout.fixed:]
        if not done or float(np.abs(reached - z).max(initial=0)) > 0.1 * float(np.ptp(x)):
            return None
        z = reached
        seen = _looks(here.drawn(z))
        if any(r <= 0 for r in (c.radius for c in here.drawn(z).curves.values() if not isinstance(c, Line))):
            return None
        if any(abs(seen[k] - looks[k]) > 1.5 for k in seen):
            return None
        looks = seen
    return system.x(z)


def _looks(drawing: Drawing) -> dict[str, float]:
    """Return what changes by jumps alone: arcs' sweeps (rad), and +-1 a tangent joint as it is smooth or a cusp."""
    found: dict[str, float] = {}
    for c, curve in drawing.curves.items():
        if isinstance(curve, Arc):
            a, b = (complex(*drawing.points[p]) - complex(*drawing.points[curve.centre]) for p in (curve.start, curve.end))
            found[c] = float(np.angle(b / a)) % (2 * math.pi)
    for k, c in drawing.constraints.items():
        if c.kind == "tangent":
            ways = [w for w in (_ways(drawing, e) for e in c.of) if w]
            if len(ways) == 2:
                near = min(((p, q) for p in ways[0] for q in ways[1]), key=lambda pair: abs(pair[0][0] - pair[1][0]))
                if abs(near[0][0] - near[1][0]) < 1e-9 * max(1.0, abs(near[0][0])):
                    found[k] = math.copysign(1, -(near[0][1] * near[1][1].conjugate()).real)
    return found


def _ways(drawing: Drawing, entity: str) -> list[tuple[complex, complex]]:
    """Return the ends of a curve, each with the direction in which the curve leaves it."""
    curve = drawing.curves.get(entity)
    if isinstance(curve, Line):
        a, b = (complex(*drawing.points[p]) for p in curve.points)
        return [(a, b - a), (b, a - b)]
    if isinstance(curve, Arc):
        m, a, b = (complex(*drawing.points[p]) for p in curve.points)
        return [(a, 1j * (a - m)), (b, -1j * (b - m))]
    return []


def judged(seed: int, how_many: int, scale: float = 1.0, steps: int = 400) -> str:
    """Change one generated sketch and return the verdict; all verdicts but the first two are faults."""
    drawing = generated(seed, scale)
    values = change_of(drawing, np.random.default_rng(seed + 1000 * how_many), how_many)
    fine = small_steps(drawing, values, steps)
    try:
        found = solve(drawing, values)
    except SketchError:
        return "refused rightly" if fine is None else "refused, though reachable"
    if fine is None:
        return "accepted, no path"
    x = found.system.x(found.z)
    return "right" if float(np.abs(x - fine).max()) <= SAME * max(float(np.ptp(fine)), 1e-12) else "flipped"


def tally(cases: int, how_many: int) -> Counter[str]:
    """Judge so many cases, over all families and over sizes from 0.1 mm to 10 m."""
    return Counter(judged(seed, how_many, (1.0, 0.01, 150.0)[seed // len(FAMILIES) % 3]) for seed in range(cases))
