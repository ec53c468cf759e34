"""What can still move: the number of freedoms, which geometry has them, each as a motion in words.

The null space of J at the solution, independent part by part, by singular values (rows are lengths, so the
cut is 1e-8 of the largest). Each freedom is made as local as elimination makes it: one driving variable a
freedom, radii first, and no part of the other drivers.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from .model import Arc, Circle, Drawing, Line
from .solver import Solution
from .words import name_of

__all__ = ["Freedom", "Freedoms", "find_freedoms", "null_space"]

Array = NDArray[np.float64]
CUT = 1e-8


@dataclass(frozen=True, slots=True)
class Freedom:
    """One independent motion: words, and how each free point moves per mm of it."""

    words: str
    moves: dict[str, tuple[float, float]]
    grows: dict[str, float]


@dataclass(frozen=True, slots=True)
class Freedoms:
    """All freedoms of a drawing, and the ids of the points and curves that have any."""

    motions: list[Freedom]
    pencilled: list[str]

    @property
    def number(self) -> int:
        """How many independent ways there are left."""
        return len(self.motions)


def null_space(J: Array) -> Array:
    """Return an orthonormal basis (n, d) of the motions that J : (m, n) does not resist."""
    if not J.shape[0]:
        return np.eye(J.shape[1])
    _, s, vt = np.linalg.svd(J)
    rank = int((s > CUT * max(s[0], 1e-300)).sum()) if len(s) else 0
    return vt[rank:].T


def find_freedoms(solution: Solution) -> Freedoms:
    """Find what still moves in a solved drawing."""
    system, drawing = solution.system, solution.drawing
    J = system.evaluate(solution.z)[1]
    radii = set(system.column[[system.layout.radius(c) for c in system.layout.round]].tolist())
    motions: list[Array] = []
    for part in np.unique(system.part):
        columns = np.flatnonzero(system.part == part)
        basis = null_space(J[np.ix_(system.row_part == part, columns)])
        motions += [_spread(v, columns, system.n) for v in _local(basis, [c in radii for c in columns.tolist()])]
    free = np.zeros(system.n + 1, dtype=bool)
    for motion in motions:
        free[:-1] |= np.abs(motion) > 1e-6
    entities = [*drawing.points, *drawing.curves]
    pencilled = [e for e in entities if free[system.column[system.layout.variables(e)]].any()]
    return Freedoms([_freedom(m, solution) for m in motions], pencilled)


def _spread(vector: Array, columns: NDArray, n: int) -> Array:
    whole = np.zeros(n)
    whole[columns] = vector
    return whole


def _local(basis: Array, first: list[bool]) -> list[Array]:
    """Return the same space as vectors with one driver each (reduced echelon form, full pivoting)."""
    rows = basis.T.copy()
    preferred = np.where(first, 4.0, 1.0)
    done: list[int] = []
    for i in range(len(rows)):
        size = np.abs(rows[i:]) * preferred
        size[:, done] = 0
        pick, pivot = np.unravel_index(int(size.argmax()), size.shape)
        rows[[i, i + int(pick)]] = rows[[i + int(pick), i]]
        rows[i] /= rows[i, pivot]
        others = [k for k in range(len(rows)) if k != i]
        rows[others] -= np.outer(rows[others, pivot], rows[i])
        done.append(int(pivot))
    rows[np.abs(rows) < 1e-9] = 0
    return [r / np.abs(r).max() for r in rows]


def _freedom(motion: Array, solution: Solution) -> Freedom:
    system, drawing = solution.system, solution.drawing
    dx = np.append(motion, 0.0)[system.column]
    moves = {p: (float(dx[i]), float(dx[j])) for p in drawing.points for i, j in [system.layout.xy(p)]}
    moves = {p: d for p, d in moves.items() if abs(d[0]) + abs(d[1]) > 1e-6}
    grows = {c: float(dx[system.layout.radius(c)]) for c in system.layout.round}
    grows = {c: g for c, g in grows.items() if abs(g) > 1e-6}
    return Freedom(_say(drawing, moves, grows), moves, grows)


def _say(drawing: Drawing, moves: dict[str, tuple[float, float]], grows: dict[str, float]) -> str:
    if grows and not moves:
        names = [name_of(drawing, c) for c in grows]
        return f"{' and '.join(names[:2])}{' and others' if len(names) > 2 else ''} may grow or shrink"
    directions = {(round(dx, 6), round(dy, 6)) for dx, dy in moves.values()}
    who = _who(drawing, set(moves))
    if len(directions) == 1 and not grows:
        dx, dy = directions.pop()
        along = "along X" if abs(dy) < 1e-6 else "along Y" if abs(dx) < 1e-6 else f"in the direction {_degrees(dx, dy)}"
        return f"{who} slides {along}"
    if grows:
        return f"{name_of(drawing, next(iter(grows)))} changes size and moves {who} with it"
    turning = [c for c, curve in drawing.curves.items() if isinstance(curve, Line)
               and (curve.start in moves) != (curve.end in moves)]
    return f"{name_of(drawing, turning[0])} turns about its fixed end" if turning else f"{who} moves or turns"


def _degrees(dx: float, dy: float) -> str:
    return f"{np.degrees(np.arctan2(dy, dx)) % 180:.0f}°"


def _who(drawing: Drawing, moved: set[str]) -> str:
    """Name what moves: the curve all of whose points move, rather than the points one by one."""
    whole = [c for c, curve in drawing.curves.items() if set(curve.points) <= moved]
    if moved >= set(drawing.points) and len(drawing.points) > 1:
        return "the whole sketch"
    if whole:
        first = max(whole, key=lambda c: isinstance(drawing.curves[c], Circle | Arc))
        rest = f" with {len(whole) - 1} more" if len(whole) > 1 else ""
        return name_of(drawing, first) + rest
    return name_of(drawing, sorted(moved)[0]) if moved else "something"
