"""A drawing at a generic place, where a momentary alignment misleads nobody.

All points moved at random by 8 % of the sketch's size, radii with them, then brought back onto the
constraints that are not dimensions. Rank there tells what constraints determine, and what follows from
others.
"""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray

from ..drawn import Drawing, Line, Spline
from .solver import newton
from .system import EquationSystem

__all__ = ["witness"]

LEAST = 0.2


def witness(drawing: Drawing) -> Drawing:
    """Return the drawing at a generic place that meets its constraints other than dimensions."""
    shape_only = drawing.model_copy(
        update={"constraints": {k: c for k, c in drawing.constraints.items() if c.value is None}}
    )
    system = EquationSystem(shape_only, {})
    amplitude = 0.08 * system.size
    for trial in range(8):
        noise = np.random.default_rng(trial).normal(size=system.n)
        z, done = newton(system, system.z0 + amplitude * noise)
        if done and _kept_its_shape(system, z):
            return system.drawn(z).model_copy(update={"constraints": drawing.constraints})
        amplitude /= 2
    return drawing


def _kept_its_shape(system: EquationSystem, z: NDArray[np.float64]) -> bool:
    """Tell whether no line and no radius fell to nothing: there another branch begins."""
    x, layout = system.x(z), system.layout
    for c, curve in system.drawing.curves.items():
        if isinstance(curve, Line):
            before, after = (math.dist(*(v[list(layout.xy(p))] for p in curve.points)) for v in (layout.x, x))
        elif isinstance(curve, Spline):
            continue
        else:
            before, after = layout.x[layout.radius(c)], x[layout.radius(c)]
        if after < LEAST * before:
            return False
    return True
