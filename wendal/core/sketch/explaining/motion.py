"""A freedom as a moving picture: a few drawings along it, each of which meets every constraint.

From the solution the tangent is followed in small steps; after every step Newton brings the drawing back onto
its constraints, and the tangent is turned with it (projected onto what may move there).
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ...tolerance import MOTION_NOISE, WHILE_MOVING
from ..drawn import Drawing
from ..solving import Solution, newton, null_space
from .freedom import find_freedoms

__all__ = ["motion_frames"]

STEPS = 6
REACH = 0.12  # of the sketch's size, one way


def motion_frames(solution: Solution, index: int) -> list[Drawing]:
    """Return drawings along a freedom (by its number in `find_freedoms`): there, back through the start, and
    back again.

    A motion that ends at a stop ends there. An index that is not there gives no frames.
    """
    vectors = find_freedoms(solution).vectors
    if not 0 <= index < len(vectors):
        return []
    ahead, behind = _follow(solution, vectors[index]), _follow(solution, -vectors[index])
    here = [solution.drawing]
    return [*here, *ahead, *ahead[-2::-1], *here, *behind, *behind[-2::-1], *here]


def _follow(solution: Solution, direction: NDArray[np.float64]) -> list[Drawing]:
    system, z = solution.system, solution.z
    part = np.unique(system.part[np.abs(direction) > MOTION_NOISE])
    columns, rows = np.isin(system.part, part), np.isin(system.row_part, part)
    inside = system.slice(rows, columns)
    way = direction[inside.columns]
    h = REACH * system.size / STEPS / float(np.abs(way).max())
    frames = []
    for _ in range(STEPS):
        basis = null_space(inside.evaluate(z)[1])
        turned = basis @ (basis.T @ way)
        size = float(np.linalg.norm(turned))
        if size < 1e-3 * float(np.linalg.norm(way)):
            break
        way = turned * float(np.linalg.norm(way)) / size
        trial = z.copy()
        trial[inside.columns] += h * way
        reached, done = newton(system, trial, WHILE_MOVING, steps=12)
        if not done or (system.x(reached)[system.layout.lengths] <= 0).any():
            break
        z = reached
        frames.append(system.drawn(z))
    return frames
