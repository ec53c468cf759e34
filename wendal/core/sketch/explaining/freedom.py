"""What can still move: the number of freedoms, which geometry has them, each as a motion in words.

What really moves is found independent part by part (`singular`). Each freedom is made as local as it can be: motions that a
designer would think of are tried first, those that move least before others (`wishes`), and what is left is told by elimination with one driving variable each.
"""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from ..drawn import EllipseArc, Spline
from ..solving import Moves, Solution, System, moves_of
from .grouping import told_apart
from .telling import tell
from .wishes import Wishes
from .words import say_constraint

__all__ = ["Freedom", "Freedoms", "find_freedoms"]

Array = NDArray[np.float64]
EXACT = 1e-7
ELIMINATED = 120  # freedoms of one part up to which motions are looked for by elimination of all of it
RADIUS, SHAPING = 4.0, 16.0  # how much rather a radius, or a point that shapes its curve, drives a motion than one that lies on it


@dataclass(frozen=True, slots=True)
class Freedom:
    """One independent motion: words, and how each free point moves, and each radius grows, per mm of it."""

    words: str
    moves: dict[str, tuple[float, float]]
    grows: dict[str, float]


@dataclass(frozen=True, slots=True)
class Freedoms:
    """All freedoms of a drawing, and the ids of the points and curves that have any. notes : what is singular about it, in words."""

    motions: list[Freedom]
    pencilled: list[str]
    vectors: list[Array]
    notes: list[str] = field(default_factory=list)

    @property
    def number(self) -> int:
        """How many independent ways there are left."""
        return len(self.motions)


def find_freedoms(solution: Solution) -> Freedoms:
    """Find what still moves in a solved drawing."""
    system = solution.system
    vectors: list[Array] = []
    parts = [moves_of(system, solution.z, int(part)) for part in np.unique(system.part)]
    bases = [(m.columns, m.basis) for m in parts if m.basis.shape[1]]
    wishes = Wishes(system) if bases else None
    for columns, basis in bases:
        assert wishes is not None
        local = (wishes.free(columns) if len(columns) == basis.shape[1] else []) or _as_local_as_can_be(basis, columns, system, wishes.of(columns))
        vectors += [_spread(v, columns, system.n) for v in local]
    free = np.zeros(system.n + 1, dtype=bool)
    for motion in vectors:
        free[:-1] |= np.abs(motion) > 1e-6
    drawing = solution.drawing
    entities = [*drawing.points, *drawing.curves]
    pencilled = [e for e in entities if free[system.column[system.layout.variables(e)]].any()]
    told = _Teller(solution)
    return Freedoms(told_apart(drawing, [told.freedom(m) for m in vectors]), pencilled, vectors, [n for m in parts if (n := _note(solution, m))])


def _note(solution: Solution, moves: Moves) -> str:
    """Say what is singular about a part at these sizes; "" where nothing is."""
    if moves.reason == "regular":
        return ""
    known = solution.drawing.constraints
    owners = list(dict.fromkeys(o for i in moves.spare if (o := solution.system.owner[i]) in known))
    said = [f"“{say_constraint(solution.drawing, known[o])}”" for o in owners[:2]]
    named = " and ".join(said) + (f" and {len(owners) - 2} more" if len(owners) > 2 else "")
    if moves.reason == "by value":
        return f"At these sizes {named or 'one of the constraints'} says nothing that the others do not say; it binds once their values differ."
    if moves.reason == "stiff":
        return ("Nothing moves here, but it is drawn at an extreme, straight or just touching"
                + (f" ({named})" if named else "") + ": a small change of a value moves it far, or can not be met.")
    return "Two ways to move meet here" + (f" ({named})" if named else "") + ": a small move decides which of them it takes."


def _spread(vector: Array, columns: NDArray, n: int) -> Array:
    whole = np.zeros(n)
    whole[columns] = vector
    return whole


def _as_local_as_can_be(basis: Array, columns: NDArray[np.int64], system: System, wishes: list[Array]) -> list[Array]:
    """Return the space of basis : (k, d) as d vectors, those of the wishes that are in it first."""
    wanted = basis.shape[1]
    found: list[Array] = []
    rest = basis.T.copy()  # (d, k): what is not told yet, in an orthonormal basis

    def take(motion: Array) -> None:
        nonlocal rest
        less = _less(rest, motion)
        if less is not None:
            found.append(motion / np.abs(motion).max())
            rest = less

    W = np.stack(wishes, axis=1) if wishes else np.zeros((len(columns), 0))
    possible = np.linalg.norm(W - basis @ (basis.T @ W), axis=0) <= EXACT * np.linalg.norm(W, axis=0)
    for i in np.flatnonzero(possible):
        if len(found) == wanted:
            return found
        take(wishes[i])
    preferred = np.ones(system.n + 1)
    preferred[system.column[system.layout.lengths]] = RADIUS
    for c, curve in system.drawing.curves.items():
        if isinstance(curve, Spline):
            preferred[system.column[list(system.layout.over(c))]] = SHAPING
        elif isinstance(curve, EllipseArc):
            preferred[system.column[[v for p in (curve.centre, curve.tip) for v in system.layout.xy(p)]]] = SHAPING
    if wanted <= ELIMINATED and len(found) < wanted:
        driven = _echelon(basis.T, preferred[columns])
        for motion in sorted(driven, key=lambda v: int(np.count_nonzero(np.abs(v) > 1e-9))):
            if len(found) < wanted:
                take(motion)
    return found + _echelon(rest, preferred[columns])


def _less(rest: Array, motion: Array) -> Array | None:
    """Return an orthonormal basis (d, k) less what a motion says, (d - 1, k), or None where it says nothing new."""
    fresh = rest @ motion
    length = float(np.linalg.norm(fresh))
    if length < 1e-4 * float(np.linalg.norm(motion)):
        return None
    # Turn it so that its first vector is what was told, and drop that.
    u = fresh / length - np.eye(len(fresh))[0]
    if (norm := float(np.linalg.norm(u))) > 1e-12:
        u /= norm
        rest = rest - 2 * np.outer(u, u @ rest)
    return rest[1:]


def _echelon(rows: Array, preferred: Array) -> list[Array]:
    """Return a space as vectors with one driver each (reduced echelon form, full pivoting, some preferred to others)."""
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
    rows[np.abs(rows) < 1e-9] = 0
    return [r / np.abs(r).max() for r in rows]


class _Teller:
    """Says the motions of one solution: which unknowns its points and radii have is looked up once."""

    def __init__(self, solution: Solution) -> None:
        system, self._drawing = solution.system, solution.drawing
        layout = system.layout
        self._points = list(self._drawing.points)
        self._columns = system.column[np.array([layout.xy(p) for p in self._points], np.int64).reshape(-1, 2)]
        self._beside = list(layout.beside)
        self._aways = system.column[np.array([layout.away(c)[0] for c in self._beside], np.int64)]
        self._round = list(layout.round)
        self._radii = system.column[np.array([layout.radius(c) for c in self._round], np.int64)]

    def freedom(self, motion: Array) -> Freedom:
        """Return one motion (n,) in words."""
        dx = np.append(motion, 0.0)
        steps = dx[self._columns]
        moves = {self._points[i]: (float(steps[i, 0]), float(steps[i, 1])) for i in np.nonzero(np.abs(steps).sum(1) > 1e-6)[0]}
        grows = {c: float(g) for c, g in zip(self._beside, dx[self._aways], strict=True) if abs(g) > 1e-6}
        radii = dx[self._radii]
        grows |= {self._round[i]: float(radii[i]) for i in np.nonzero(np.abs(radii) > 1e-6)[0]}
        return Freedom(tell(self._drawing, moves, grows), moves, grows)
