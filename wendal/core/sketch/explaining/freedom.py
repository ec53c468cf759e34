"""What can still move: the number of freedoms, which geometry has them, each as a motion in words.

What really moves is found independent part by part (`singular`). Each freedom is made as local as it can be:
motions that a designer would think of are tried first, those that move least before others (`wishes`), and
what is left is told by elimination with one driving variable each.
"""

from __future__ import annotations

import math
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from ...tolerance import DEPENDENT, MOTION_NOISE, NO_LENGTH
from ..drawn import EllipseArc, Spline
from ..solving import EquationSystem, Solution
from .counting import MOVES, Counted, count_freedoms
from .grouping import told_apart
from .telling import tell
from .wishes import Wishes

__all__ = ["Freedom", "Freedoms", "find_freedoms"]

Array = NDArray[np.float64]
ELIMINATED = 120  # freedoms of one part up to which motions are looked for by elimination of all of it
RADIUS, SHAPING = (
    4.0,
    16.0,
)  # how much rather a radius, or a point that shapes its curve, drives a motion than one that lies on it


@dataclass(frozen=True, slots=True)
class Freedom:
    """One independent motion: words, and how each free point moves, and each radius grows, per mm of it."""

    words: str
    moves: dict[str, tuple[float, float]]
    grows: dict[str, float]


@dataclass(frozen=True, slots=True)
class Freedoms:
    """All freedoms of a drawing, and the ids of the points and curves that have any.

    notes : what is singular about it, in words.
    """

    motions: list[Freedom]
    pencilled: list[str]
    vectors: list[Array]
    notes: list[str] = field(default_factory=list)

    @property
    def number(self) -> int:
        """How many independent ways there are left."""
        return len(self.motions)


def find_freedoms(solution: Solution, counted: Counted | None = None) -> Freedoms:
    """Find what still moves in a solved drawing. counted : the same counted, where that has been done."""
    system = solution.system
    counted = counted or count_freedoms(solution)
    wishes = Wishes(system) if counted.parts else None
    told = _Teller(solution)
    motions: list[Freedom] = []
    vectors: list[Array] = []
    for moves in counted.parts:
        assert wishes is not None
        columns, basis = moves.columns, moves.basis
        local = (wishes.free(columns) if len(columns) == basis.shape[1] else []) or _as_local_as_can_be(
            basis, columns, system, wishes.of(columns)
        )
        for v in local:
            motions.append(told.freedom(columns, v))
            vectors.append(np.zeros(system.n))
            vectors[-1][columns] = v
    return Freedoms(told_apart(solution.drawing, motions), counted.pencilled, vectors, counted.notes)


def _as_local_as_can_be(
    basis: Array, columns: NDArray[np.int64], system: EquationSystem, wishes: Array
) -> list[Array]:
    """Return the space of basis : (k, d) as d vectors, those of the wishes : (k, m) that are in it first."""
    wanted = basis.shape[1]
    found: list[Array] = []
    rest = basis.T.copy()  # (d, k): what is not told yet, in an orthonormal basis

    def take(motion: Array) -> None:
        nonlocal rest
        less = _less(rest, motion)
        if less is not None:
            found.append(motion / np.abs(motion).max())
            rest = less

    off = np.linalg.norm(wishes - basis @ (basis.T @ wishes), axis=0)
    for i in np.flatnonzero(off <= DEPENDENT * np.linalg.norm(wishes, axis=0)):
        if len(found) == wanted:
            return found
        take(wishes[:, i])
    preferred = np.ones(system.n + 1)
    preferred[system.column[system.layout.lengths]] = RADIUS
    for c, curve in system.drawing.curves.items():
        if isinstance(curve, Spline):
            preferred[system.column[list(system.layout.over(c))]] = SHAPING
        elif isinstance(curve, EllipseArc):
            preferred[system.column[[v for p in (curve.centre, curve.tip) for v in system.layout.xy(p)]]] = (
                SHAPING
            )
    if wanted <= ELIMINATED and len(found) < wanted:
        driven = _echelon(basis.T, preferred[columns])
        for motion in sorted(driven, key=lambda v: int(np.count_nonzero(np.abs(v) > MOTION_NOISE))):
            if len(found) < wanted:
                take(motion)
    return found + _echelon(rest, preferred[columns])


def _less(rest: Array, motion: Array) -> Array | None:
    """Return an orthonormal basis (d, k) less what a motion says, (d - 1, k), or None where it says nothing
    new."""
    fresh = rest @ motion
    length = math.sqrt(fresh @ fresh)
    if length < 1e-4 * math.sqrt(motion @ motion):
        return None
    # Turn it so that its first vector is what was told, and drop that.
    u = fresh / length
    u[0] -= 1.0
    if (norm := math.sqrt(u @ u)) > NO_LENGTH:
        u /= norm
        rest = rest - (2 * u)[:, None] * (u @ rest)
    return rest[1:]


def _echelon(rows: Array, preferred: Array) -> list[Array]:
    """Return a space as vectors with one driver each (reduced echelon form, full pivoting, some preferred to
    others)."""
    rows = rows.copy()
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
    rows[np.abs(rows) < MOTION_NOISE] = 0
    return [r / np.abs(r).max() for r in rows]


class _Teller:
    """Says the motions of one solution: which points and radii each unknown moves is looked up once."""

    def __init__(self, solution: Solution) -> None:
        system, self._drawing = solution.system, solution.drawing
        layout, column = system.layout, system.column.tolist()
        self._points: dict[
            int, list[tuple[int, str, int]]
        ] = {}  # by unknown: which points it moves, 0 in X and 1 in Y
        for i, p in enumerate(self._drawing.points):
            for axis, variable in enumerate(layout.xy(p)):
                self._points.setdefault(column[variable], []).append((i, p, axis))
        self._grown: dict[int, list[tuple[int, str]]] = {}
        for i, (c, variable) in enumerate(
            [*((c, layout.away(c)[0]) for c in layout.beside), *((c, layout.radius(c)) for c in layout.round)]
        ):
            self._grown.setdefault(column[variable], []).append((i, c))

    def freedom(self, columns: NDArray[np.int64], motion: Array) -> Freedom:
        """Return one motion (k,) of a part's unknowns in words."""
        moved = np.flatnonzero(np.abs(motion) > MOVES)
        steps: dict[tuple[int, str], list[float]] = {}
        grown: dict[tuple[int, str], float] = {}
        for k, d in zip(columns[moved].tolist(), motion[moved].tolist(), strict=True):
            for i, p, axis in self._points.get(k, ()):
                steps.setdefault((i, p), [0.0, 0.0])[axis] = d
            for at in self._grown.get(k, ()):
                grown[at] = d
        moves = {p: (dx, dy) for (_, p), (dx, dy) in sorted(steps.items())}
        grows = {c: d for (_, c), d in sorted(grown.items())}
        return Freedom(tell(self._drawing, moves, grows), moves, grows)
