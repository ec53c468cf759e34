"""Is a new constraint needed, already implied, or against others? Told by rank at a generic configuration.

The witness: all points moved at random by 8 % of the sketch's size, then brought back onto the constraints
that are not dimensions. There a momentary alignment of the drawing misleads nobody.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ..errors import SketchError
from .constraints import Row, rule_for
from .layout import Layout
from .model import Constraint, Drawing
from .solver import measured, newton, solve
from .system import System
from .words import say_constraint

__all__ = ["check_new", "fighting_with"]

Array = NDArray[np.float64]
DEPENDENT = 1e-7


def check_new(drawing: Drawing, values: dict[str, float], c: Constraint, value: float) -> None:
    """Raise SketchError when a constraint to be added to a solved drawing is implied by others or against them."""
    layout = Layout(drawing)
    rows = rule_for(c.kind).compile(c, layout, value).as_rows(layout)
    witness = _witness(drawing)
    system = System(witness, measured(witness), reduced=False)
    blamed = [fighting_with(system, row) for row in rows]
    if not rows or any(b is None for b in blamed):
        return
    names = list(dict.fromkeys(k for b in blamed if b for k in b))
    others = "; ".join(say_constraint(drawing, drawing.constraints[k]) for k in names[:4]) or "what is fixed"
    title = rule_for(c.kind).title
    if _holds(drawing, values, rows):
        raise SketchError(f"{title} is not needed: it follows already from {others}. Nothing was added.")
    raise SketchError(f"{title} would fight with {others}. Drop one of those first. Nothing was added.")


def _holds(drawing: Drawing, values: dict[str, float], rows: list[Row]) -> bool:
    system = solve(drawing, values).system
    x = system.x(system.z0)
    worst = max(abs(float(r.kernel(x[list(r.variables)][None], np.array([r.parameters]))[0][0])) for r in rows)
    return worst < 1e-6 * system.size


def fighting_with(system: System, row: Row) -> list[str] | None:
    """Return the constraints a row depends on at an unreduced system's drawn place, or None when it is independent."""
    J = system.evaluate(system.z0)[1]
    x = system.x(system.z0)
    variables = np.array(row.variables)
    _, j = row.kernel(x[variables][None], np.array([row.parameters]))
    vector = np.zeros(system.n + 1)
    np.add.at(vector, system.column[variables], j[0])
    vector = vector[: system.n]
    if float(np.linalg.norm(vector)) < DEPENDENT * float(np.linalg.norm(j)):
        return []  # it binds only what never moves
    if not system.m:
        return None
    share, *_ = np.linalg.lstsq(J.T, vector, rcond=1e-10)
    if float(np.linalg.norm(J.T @ share - vector)) > DEPENDENT * float(np.linalg.norm(vector)):
        return None
    used = np.flatnonzero(np.abs(share) > 1e-6 * np.abs(share).max())
    return [k for k in dict.fromkeys(system.owner[i] for i in used) if k]


def _witness(drawing: Drawing) -> Drawing:
    """Return the drawing at a generic place that meets its constraints other than dimensions."""
    shape_only = drawing.model_copy(update={
        "constraints": {k: c for k, c in drawing.constraints.items() if c.value is None}})
    system = System(shape_only, {})
    amplitude = 0.08 * system.size
    for trial in range(5):
        noise = np.random.default_rng(trial).normal(size=system.n)
        z, done = newton(system, system.z0 + amplitude * noise)
        if done:
            return system.drawn(z).model_copy(update={"constraints": drawing.constraints})
        amplitude /= 2
    return drawing
