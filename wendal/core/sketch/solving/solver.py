"""Solving a drawing: damped Gauss-Newton with minimum-norm steps, so that geometry moves as little as it
must.

    dz = -D A' (A A' + lam I)^-1 r,   A = J D,   D = 1 / sqrt(weight)

with lam raised only where the factorisation fails, and backtracking. A large change of dimensions is walked
in sub-steps whenever the direct answer moved far and may lie on another branch: branches are told by the
sign of det J of the square independent parts. Stopping rule: max |r| below 1e-11 of the sketch's size, but
never below what floating point reaches at its coordinates.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray
from scipy.linalg.lapack import dposv
from scipy.sparse import csr_array, identity
from scipy.sparse.linalg import splu

from ...errors import SketchError
from ...tolerance import MOTION_NOISE, NO_LENGTH, SAME_NUMBER, SOLVED
from ..constraints import rule_for
from ..drawn import Drawing, Layout
from .system import EquationSystem

__all__ = [
    "FAR",
    "LARGE",
    "Solution",
    "compiled",
    "measured",
    "min_norm_step",
    "newton",
    "solve",
    "sparse_factor",
]

Array = NDArray[np.float64]
FAR = 0.15  # of the sketch's size: a longer move is looked at again
STEPS = 60
FINEST = 1 / 512
LEAP, TURN = (
    2.5,
    1.2,
)  # rad an arc's sweep may change by at once, before the way there is looked at, and in one step of it
LARGE = 250  # unknowns; beyond it sparse factors are faster


@dataclass(frozen=True, slots=True)
class Solution:
    """A solved drawing, with the system and unknowns it was found by."""

    drawing: Drawing
    system: EquationSystem
    z: Array


def tolerance(system: EquationSystem, z: Array, accuracy: float = SOLVED) -> float:
    """Return the residual in mm at which a system counts as solved."""
    reach = float(np.abs(z).max()) if len(z) else 0.0
    return max(accuracy * system.size, 100 * np.finfo(float).eps * reach)


def min_norm_step(J: Array, r: Array, weight: Array) -> Array:
    """Return the smallest step (by weight) that meets J dz = -r : (n,)."""
    D = 1 / np.sqrt(weight)
    A = J * D
    G = A @ A.T
    diagonal = np.einsum("ii->i", G)
    lam = 1e-13 * (float(diagonal.mean()) or 1.0)
    for _ in range(8):
        diagonal += lam
        _, x, singular = dposv(G, r, lower=1)
        if not singular:
            return np.asarray(-D * (A.T @ x))
        lam *= 1000
    return -D * np.linalg.lstsq(A, r, rcond=1e-12)[0]


def sparse_factor(A: csr_array, share: float) -> Any:
    """Factor A A' : (m, m) with a share of its mean diagonal added; raises RuntimeError where it is singular
    all the same."""
    G = (A @ A.T).tocsc()
    lam = share * (float(G.diagonal().mean()) or 1.0)
    return splu(
        G + lam * identity(A.shape[0], format="csc"),
        permc_spec="MMD_AT_PLUS_A",
        diag_pivot_thresh=0.0,
        options={"SymmetricMode": True},
    )


def _sparse_step(J: csr_array, r: Array, weight: Array) -> Array:
    """Return the same step as min_norm_step for a large sparse J : (m, n)."""
    D = 1 / np.sqrt(weight)
    A = J * D[np.newaxis, :]
    for share in (1e-13, 1e-10, 1e-7):
        try:
            factor = sparse_factor(A, share)
        except RuntimeError:
            continue
        half = factor.solve(r)
        return -D * (A.T @ (half + factor.solve(r - A @ (A.T @ half))))
    return min_norm_step(J.toarray(), r, weight)


def newton(
    system: EquationSystem, z: Array, accuracy: float = SOLVED, steps: int = STEPS
) -> tuple[Array, bool]:
    """Drive the residuals of z : (n,) to zero; return the unknowns reached and whether it did.

    Only the blocks with something to mend, and those that depend on them, are solved; the rest stands.
    """
    if not system.m:
        return z, True
    limit = tolerance(system, z, accuracy)
    bad = np.abs(system.residuals(z)) > limit
    if not bad.any():
        return z, True
    rows, columns = system.blocks.affected(bad)
    if not columns.any():
        return z, False
    part = system.slice(rows, columns)
    weight = system.weight[part.columns]
    evaluate = part.evaluate_sparse if len(part.columns) > LARGE else part.evaluate
    r, J = evaluate(z)
    for _ in range(steps):
        if float(np.abs(r).max()) <= tolerance(system, z, accuracy):
            return z, True  # what is not in this part reads nothing that moved
        step = _sparse_step(J, r, weight) if isinstance(J, csr_array) else min_norm_step(J, r, weight)
        if not np.isfinite(step).all():
            return z, False
        before = float(r @ r)
        for halving in range(7):
            trial = z.copy()
            trial[part.columns] += step / 2**halving
            r, J = evaluate(trial)
            if float(r @ r) < before:
                break
        else:
            return z, False
        z = trial
    return z, float(np.abs(r).max()) <= tolerance(system, z, accuracy)


def measured(drawing: Drawing) -> dict[str, float]:
    """Return what every dimension comes to as drawn: mm or rad by constraint id."""
    layout = Layout(drawing)
    return {k: rule_for(c.kind).measure(c, layout) for k, c in drawing.dimensions()}


def solve(drawing: Drawing, values: Mapping[str, float]) -> Solution:
    """Solve a drawing for its dimension values (mm or rad by constraint id).

    Raises SketchError, naming what fights and how far a changed dimension can go; the drawing given is
    untouched.
    """
    system = compiled(drawing, values)
    z, done = _attempt(system)
    if done and _same_branch(system, z):
        return Solution(system.drawn(z), system, z)
    walked, reached = _walk(system, values)
    if walked is not None:
        return walked
    if done and reached == 0.0:  # as drawn it is not solved yet, so there is no branch to keep
        return Solution(system.drawn(z), system, z)
    raise _failure(system, z, values, reached)


_last: EquationSystem | None = None


def compiled(drawing: Drawing, values: Mapping[str, float]) -> EquationSystem:
    """Compile a drawing; the last one's equations serve again where only values differ, as when a dimension
    is changed."""
    global _last
    system = (_last.of(drawing, values) if _last else None) or EquationSystem(drawing, values)
    _last = system
    return system


def _attempt(system: EquationSystem) -> tuple[Array, bool]:
    """Solve directly; a drawing on a saddle of symmetry is nudged and tried again."""
    z, done = newton(system, system.z0)
    for trial in range(2):
        if done:
            break
        nudge = np.random.default_rng(trial).normal(size=system.n) * 1e-3 * system.size
        z, done = newton(system, system.z0 + nudge)
    return z, done and _sound(system, z)


def _sound(system: EquationSystem, z: Array) -> bool:
    """A solution has positive radii."""
    return bool((system.x(z)[system.layout.lengths] > MOTION_NOISE * system.size).all())


def _same_branch(system: EquationSystem, z: Array) -> bool:
    """Tell whether z is what small steps would have reached, as far as signs and distances can tell."""
    if not system.n:
        return True
    if not system.joints.kept(system.x(system.z0), system.x(z), LEAP):
        return False
    far = np.abs(z - system.z0) > FAR * system.size
    if not far.any():
        return True
    blocks = system.blocks
    for block in np.unique(blocks.column[far]):
        rows, columns = blocks.row == block, blocks.column == block
        if not blocks.is_square(int(block)) or rows.sum() != columns.sum():
            return False
        part = system.slice(rows, columns)
        sign = [np.linalg.slogdet(part.evaluate(at)[1])[0] for at in (system.z0, z)]
        if sign[0] != sign[1] or sign[0] == 0:
            return False
    return True


def _walk(system: EquationSystem, values: Mapping[str, float]) -> tuple[Solution | None, float]:
    """Go from the drawn values to the wanted ones in sub-steps; return the end, or how far it came (0 to
    1)."""
    drawing = system.drawing
    start = measured(drawing)
    z, at, step = system.z0, 0.0, 0.25
    here = system
    while at < 1.0:
        goal = min(1.0, at + step)
        here = system.with_values({k: _between(drawing, k, start[k], values[k], goal) for k in start}, z)
        reached, done = newton(here, z)
        far = _farthest(here, z, reached)
        if (
            done
            and far <= FAR
            and _sound(here, reached)
            and here.joints.kept(here.x(z), here.x(reached), TURN)
        ):
            z, at, step = reached, goal, min(2 * step, 0.25)
        else:
            step /= 2
            if step < FINEST:
                return None, at
    return Solution(here.drawn(z), here, z), 1.0


def _farthest(system: EquationSystem, before: Array, after: Array) -> float:
    """Return the longest move of an unknown, as a share of the sketch's size as it is by then."""
    if not system.n:
        return 0.0
    own = system.x(after)[system.layout.fixed :]
    size = max(float(np.ptp(own)) if len(own) else 0.0, NO_LENGTH)
    return float(np.abs(after - before).max()) / size


def _between(drawing: Drawing, k: str, start: float, end: float, share: float) -> float:
    """Return a dimension's value part of the way; lengths go by equal ratios, so that a small end is not
    overrun."""
    if rule_for(drawing.constraints[k].kind).quantity == "length" and start > 0:
        return start * (end / start) ** share
    return start + share * (end - start)


def _failure(system: EquationSystem, z: Array, values: Mapping[str, float], reached: float) -> SketchError:
    start = measured(system.drawing)
    changed = [k for k in start if abs(values[k] - start[k]) > SAME_NUMBER * max(abs(values[k]), 1.0)]
    if len(changed) == 1 and reached > 0:
        k = changed[0]
        tag = system.drawing.constraints[k].value
        limit = _between(system.drawing, k, start[k], values[k], reached)
        name = f"“{tag.tag}”" if tag and tag.tag else "This dimension"
        return SketchError(
            f"{name} can not go there with the other constraints: the sketch follows to about {limit:.4g} "
            "and no further. Choose a value before that, or drop a constraint.",
            field=k,
        )
    r = np.abs(system.residuals(z))
    worst = [system.owner[i] for i in np.argsort(-r)[:6] if system.owner[i] and r[i] > tolerance(system, z)]
    names = ", ".join(
        dict.fromkeys(rule_for(system.drawing.constraints[k].kind).title.lower() for k in worst)
    )
    return SketchError(
        f"The sketch can not meet these together: {names or 'its constraints'}. "
        "Drop one of them, or change a dimension.",
        field=worst[0] if worst else "",
    )
