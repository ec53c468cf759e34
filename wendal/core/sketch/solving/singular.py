"""What really moves where equations depend on each other: decided by finite moves, never by one rank.

At the drawn place d0 = n - rank J is an upper bound of what moves; what the structure leaves, ds, is what a
general place would have. Where they differ, the dependent rows either hold all over the surface that the
independent ones leave (then all of d0 really moves at these sizes), or the place is singular, and it is gone
along the quietest directions to where things are general.

Method: own; measured against a referee that knows no ranks (tests/core/test_sketch_freedoms.py).
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Literal

import numpy as np
from numpy.typing import NDArray
from scipy.linalg import null_space as kernel_of
from scipy.linalg import qr

from ...tolerance import BROUGHT_BACK, MAY_BE_SINGULAR, NO_DIVISOR, STILL_HOLDS
from .system import EquationSystem

__all__ = ["Moves", "all_moves", "moves_of", "null_space"]

Array = NDArray[np.float64]
MANY = 300  # unknowns
Reason = Literal["regular", "by value", "beside", "stiff"]
FAR = 0.02  # of the sketch's size: how far it is gone to see whether something moves
STAYED = (
    0.3  # of the way gone: what is left of it when constraints have pulled it back, where it really moves
)
BACK = 60  # steps to bring a place back
TRIES = 6
APART = 0.2  # of 1: directions of moves that are less apart tell the same freedom
At = Callable[[Array], tuple[Array, Array]]


@dataclass(frozen=True, slots=True)
class Moves:
    """What moves in one independent part. basis : (k, d) unit directions at the drawn place, over the part's
    columns.

    ends : places (k,) a finite way off that meet all constraints. reason : why the count is what it is. spare
    : rows of the part that say nothing at these sizes, or are what keeps it stiff.
    """

    columns: NDArray[np.int64]
    basis: Array
    here: Array
    reason: Reason = "regular"
    ends: list[Array] = field(default_factory=list)
    spare: list[int] = field(default_factory=list)


def all_moves(system: EquationSystem, z: Array) -> list[Moves]:
    """Tell what really moves in every independent part of a solved system at z : (n,)."""
    order = np.argsort(system.part, kind="stable")
    parts, first = np.unique(system.part[order], return_index=True)
    bound = set(system.row_part.tolist())
    return (
        [
            moves_of(system, z, part) if part in bound else Moves(columns, np.eye(len(columns)), z[columns])
            for part, columns in zip(parts.tolist(), np.split(order, first[1:]), strict=True)
        ]
        if len(parts)
        else []
    )


def moves_of(system: EquationSystem, z: Array, part: int, far: bool = False) -> Moves:
    """Tell what really moves in an independent part of a solved system at z : (n,).

    far : finite ends are wanted of a regular part too.
    """
    in_columns, in_rows = system.part == part, system.row_part == part
    columns, rows = np.flatnonzero(in_columns), np.flatnonzero(in_rows)
    here = z[columns]
    if not len(rows):
        return Moves(
            columns,
            np.eye(len(columns)),
            here,
            ends=[here + FAR * system.size * d for d in _directions(len(columns))] if far else [],
        )
    piece, whole = system.slice(in_rows, in_columns), z.copy()

    def at(y: Array) -> tuple[Array, Array]:
        whole[columns] = y
        return piece.evaluate(whole)

    N = null_space(at(here)[1])
    expected = len(columns) - system.blocks.rank_of(rows)
    if N.shape[1] <= expected:
        ends = _ends(at, here, N, system.size) if far and N.shape[1] else []
        return Moves(columns, N, here, ends=ends)
    return _Singular(at, here, system.size, columns, rows).found(expected)


class _Singular:
    """One part at a place where its rows depend on each other."""

    def __init__(
        self, at: At, here: Array, size: float, columns: NDArray[np.int64], rows: NDArray[np.int64]
    ) -> None:
        self._at, self._here, self._size, self._columns, self._rows = at, here, size, columns, rows
        self._rng = np.random.default_rng(len(columns))

    def found(self, expected: int) -> Moves:
        """Tell what moves. expected : what the structure leaves."""
        here, h = self._here, FAR * self._size
        _, J = self._at(here)
        N, W = _spaces(J)
        spare = [int(self._rows[i]) for i in _dependent(J, J.shape[1] - N.shape[1])]
        if self._by_value(here, J, N, h):
            return Moves(self._columns, N, here, "by value", _ends(self._at, here, N, self._size), spare)
        T = self._bending(here, N, W)
        ends = [
            e
            for v in (self._quiet(T) for _ in range(TRIES))
            if (e := self._gone(here, h * (N @ v))) is not None
        ]
        place, there = here, (J, N, W)
        for end in ends:
            near = self._at(end)[1]
            spaces = _spaces(near)
            if spaces[0].shape[1] < there[1].shape[1]:
                place, there = end, (near, *spaces)
        J, M, W = there
        if place is not here and (M.shape[1] == expected or self._by_value(place, J, M, h / 3)):
            return Moves(self._columns, self._seen_from(N, M), here, "beside", ends, spare)
        return self._second_order(place, M, W, N, ends, spare, h)

    def _by_value(self, here: Array, J: Array, N: Array, h: float) -> bool:
        """Tell whether rows that depend on others hold at finite places too that meet those others."""
        dependent = _dependent(J, J.shape[1] - N.shape[1])
        others = np.setdiff1d(np.arange(len(J)), dependent)
        for _ in range(2):
            v = self._rng.normal(size=N.shape[1])
            end, met = _brought_back(self._at, here + h * (N @ v) / np.linalg.norm(v), self._size, others)
            if not met or (np.abs(self._at(end)[0][dependent]) > STILL_HOLDS * self._size).any():
                return False
        return True

    def _bending(self, here: Array, N: Array, W: Array) -> Array:
        """Return how combinations of rows that say nothing to first order change to second : (k, d, d)."""
        e = 1e-4 * self._size
        found = np.zeros((W.shape[1], N.shape[1], N.shape[1]))
        for j, n in enumerate(N.T):
            slope = (self._at(here + e * n)[1] - self._at(here - e * n)[1]) / (2 * e)
            found[:, :, j] = W.T @ slope @ N
        return found * self._size

    def _quiet(self, T: Array) -> Array:
        """Return a unit direction along which the rows change least to second order, with something of what
        does not bend at all."""
        flat = T.reshape(-1, T.shape[2])
        still = (
            kernel_of(flat, rcond=MAY_BE_SINGULAR)
            if np.abs(flat).max(initial=0.0) > MAY_BE_SINGULAR
            else np.eye(T.shape[2])
        )
        bent = kernel_of(still.T) if still.shape[1] else np.eye(T.shape[2])
        v = np.zeros(T.shape[2])
        if bent.shape[1]:
            B = np.einsum("ia,kij,jb->kab", bent, T, bent)
            a, cost = min((self._least(B) for _ in range(4)), key=lambda found: found[1])
            if cost < 1e-10 or not still.shape[1]:
                v = bent @ a
        if still.shape[1]:
            v = v + still @ (u := self._rng.normal(size=still.shape[1])) / np.linalg.norm(u)
        return np.asarray(v / np.linalg.norm(v))

    def _least(self, B: Array) -> tuple[Array, float]:
        """Return a unit a with a' B_k a all as small as they get from a random start, and the sum of their
        squares (Levenberg-Marquardt)."""
        a: Array = np.asarray(self._rng.normal(size=B.shape[1]))
        a = np.asarray(a / np.linalg.norm(a))
        damping = 1e-2
        f = np.einsum("i,kij,j->k", a, B, a)
        for _ in range(40):
            slope = 2 * np.einsum("kij,j->ki", B, a)
            slope -= np.outer(slope @ a, a)
            step = -np.linalg.solve(slope.T @ slope + damping * np.eye(len(a)), slope.T @ f)
            trial = (a + step) / np.linalg.norm(a + step)
            g = np.einsum("i,kij,j->k", trial, B, trial)
            if g @ g < f @ f:
                a, f, damping = trial, g, max(damping / 3, 1e-12)
            else:
                damping *= 10
            if f @ f < 1e-24:
                break
        return a, float(f @ f)

    def _gone(self, here: Array, way: Array) -> Array | None:
        """Return where going a way ends once all constraints are met again, or None where they pull it
        back."""
        end, met = _brought_back(self._at, here + way, self._size)
        return end if met and np.linalg.norm(end - here) > STAYED * np.linalg.norm(way) else None

    def _second_order(
        self, place: Array, M: Array, W: Array, N: Array, ends: list[Array], spare: list[int], h: float
    ) -> Moves:
        """Count what moves of that which does not bend at a place."""
        T = self._bending(place, M, W)
        flat = T.reshape(-1, M.shape[1])
        still = kernel_of(flat, rcond=1e-3) if np.abs(flat).max(initial=0.0) > 1e-3 else np.eye(M.shape[1])
        K = M @ still
        gone = [e for k in K.T for sign in (1, -1) if (e := self._gone(place, sign * h / 2 * k)) is not None]
        ways = [d / np.linalg.norm(d) for e in gone if np.linalg.norm(d := K.T @ (e - place)) > 0]
        if not ways:
            return Moves(self._columns, N[:, :0], self._here, "stiff", ends, spare)
        u, s, _ = np.linalg.svd(np.stack(ways, axis=1), full_matrices=False)
        width = int((s > APART).sum())
        return Moves(
            self._columns, self._seen_from(N, K @ u[:, :width]), self._here, "beside", [*ends, *gone], spare
        )

    @staticmethod
    def _seen_from(N: Array, M: Array) -> Array:
        """Return directions found at another place as directions of the drawn one, as many."""
        u, _, _ = np.linalg.svd(N @ (N.T @ M), full_matrices=False)
        return np.asarray(u[:, : M.shape[1]])


def null_space(J: Array) -> Array:
    """Return an orthonormal basis (n, d) of the motions that J : (m, n) does not resist."""
    if len(J) and J.shape[1] > MANY:
        # By orthogonal columns with pivoting: several times as fast, and as sure of the rank where equations
        # are lengths.
        Q, R, _ = qr(J.T, pivoting=True, mode="full")
        size = np.abs(np.diag(R))
        return np.asarray(Q[:, int((size > MAY_BE_SINGULAR * max(size[0], NO_DIVISOR)).sum()) :])
    return _spaces(J)[0] if len(J) else np.eye(J.shape[1])


def _spaces(J: Array) -> tuple[Array, Array]:
    """Return orthonormal bases of the motions that rows do not resist : (n, d), and of the combinations of
    rows that say nothing : (m, k)."""
    u, s, vt = np.linalg.svd(J)
    rank = int((s > MAY_BE_SINGULAR * max(s[0], NO_DIVISOR)).sum()) if len(s) else 0
    return vt[rank:].T, u[:, rank:]


def _dependent(J: Array, rank: int) -> NDArray[np.int64]:
    """Return the rows beyond as many as are independent, by pivoting."""
    *_, order = qr(J.T, mode="economic", pivoting=True)
    return np.sort(order[rank:])


def _directions(n: int) -> list[Array]:
    rng = np.random.default_rng(n)
    return [v / np.linalg.norm(v) for v in rng.normal(size=(3, n))]


def _ends(at: At, here: Array, N: Array, size: float) -> list[Array]:
    """Return finite places along random directions of a space that meet all constraints."""
    found = (_brought_back(at, here + FAR * size * (N @ v), size) for v in _directions(N.shape[1]))
    return [end for end, met in found if met]


def _brought_back(at: At, y: Array, size: float, rows: NDArray[np.int64] | None = None) -> tuple[Array, bool]:
    """Bring a place back onto rows (all of them, if none are named), which may depend on each other; return
    it, and whether it is there.

    step = -J' (J J' + damping |r| / size)^-1 r: truncated least squares would spring away where rank is lost.
    """
    damping = 1e-3
    r, J = (a if rows is None else a[rows] for a in at(y))
    for _ in range(BACK):
        if not len(r) or np.abs(r).max() < BROUGHT_BACK * size:
            return y, True
        G = J @ J.T
        G.flat[:: len(G) + 1] += damping * float(np.linalg.norm(r)) / size + 1e-15
        trial = y - J.T @ np.linalg.solve(G, r)
        q, K = (a if rows is None else a[rows] for a in at(trial))
        if q @ q < r @ r:
            y, r, J, damping = trial, q, K, damping / 3
        elif damping > 1e12:
            break
        else:
            damping *= 10
    return y, bool(np.abs(r).max() < 1e3 * BROUGHT_BACK * size)
