"""Dragging: the free geometry follows the pointer and every constraint holds.

Each move is a predictor (the wish, projected on the motions that constraints allow, the dragged variables
weighted 100 times) and a corrector (Newton back onto the constraints); halved where the corrector fails.
"""

from __future__ import annotations

import math
from collections.abc import Mapping

import numpy as np
from numpy.typing import NDArray
from scipy.linalg import LinAlgError, cho_factor, cho_solve
from scipy.sparse import csr_array

from ...tolerance import BROKEN, WHILE_MOVING
from ..drawn import ORIGIN, Arc, Circle, Drawing, Free, Line, Oval, Path, Place, Spline, path_of
from .solver import LARGE, compiled, newton, sparse_factor
from .system import Slice

__all__ = ["Drag"]

Array = NDArray[np.float64]
GRIP = 100.0
ROUNDS = 3


class Drag:
    """One drag of a point or curve, from the press of the button to its release."""

    def __init__(self, drawing: Drawing, values: Mapping[str, float], entity: str, start: Place) -> None:
        """Take hold of an entity at a place (mm) of a solved drawing."""
        self.system = compiled(drawing, values)
        self.z = self.system.z0
        self._wishes = self._take_hold(entity, start)
        self._free = self._moving()

    def _moving(self) -> Slice:
        """Return what can move with the held thing: the parts it is in, less what is determined already.

        Where equations are redundant the structure does not tell what is determined, so nothing is left out.
        """
        system = self.system
        parts = (
            np.unique(system.part[[g[0] for g in self._wishes]]) if self._wishes else np.zeros(0, dtype=int)
        )
        rows, columns = np.isin(system.row_part, parts), np.isin(system.part, parts)
        blocks = system.blocks
        if not blocks.tied.any():
            loose = np.zeros(blocks.count, dtype=bool)
            loose[blocks.column[blocks.loose]] = True
            rows, columns = rows & loose[blocks.row], columns & loose[blocks.column]
        return system.slice(rows, columns)

    def _take_hold(self, entity: str, start: Place) -> list[tuple[int, float, int]]:
        """Return (unknown, offset from the pointer, pointer coordinate: 0 x, 1 y, 2 distance from centre, 3
        from what it runs beside)."""
        drawing, layout = self.system.drawing, self.system.layout
        curve = drawing.curves.get(entity)
        self._centre: tuple[int, int] | None = None
        self._source: Path | None = None
        # One that is bound to its distance is pulled along with what it runs beside.
        bound = any(
            k.kind in ("offset", "equal") and entity in k.of and not k.reference
            for k in drawing.constraints.values()
        )
        if (
            isinstance(curve, Free)
            and curve.side
            and not bound
            and (grips := self._known([(layout.away(entity)[0], 0.0, 3)]))
        ):
            whole = {"side": 0, **({"start": "", "end": ""} if isinstance(curve, Spline) else {})}
            self._source = path_of(
                drawing.model_copy(update={"curves": {"": curve.model_copy(update=whole)}}), ""
            )
            return grips
        if isinstance(curve, Circle | Arc):
            self._centre = layout.xy(curve.centre)
            return self._known([(layout.radius(entity), 0.0, 2)])
        if isinstance(curve, Oval):
            self._centre = layout.xy(curve.centre)
            return self._known(
                [(layout.radius(entity), curve.radius - math.dist(drawing.place(curve.centre), start), 2)]
            )
        points = curve.points if isinstance(curve, Line | Spline) else (entity,) if entity != ORIGIN else ()
        grips = [(layout.xy(p)[i], drawing.place(p)[i] - start[i], i) for p in points for i in (0, 1)]
        return self._known(grips)

    def _known(self, grips: list[tuple[int, float, int]]) -> list[tuple[int, float, int]]:
        columns = [(int(self.system.column[v]), offset, axis) for v, offset, axis in grips]
        return [g for g in columns if g[0] < self.system.n]

    def move(self, to: Place) -> Drawing:
        """Bring the held thing as near to a place (mm) as the constraints allow."""
        for _ in range(ROUNDS):
            step = self._predict(to)
            if float(np.abs(step).max(initial=0.0)) < 1e-5 * self.system.size:
                break
            for halving in range(4):
                z, done = newton(self.system, self.z + step / 2**halving, WHILE_MOVING, steps=12)
                if done and self._sound(z) and self._kept(z):
                    self.z = z
                    break
            else:
                break
        return self.system.drawn(self.z)

    def finish(self) -> Drawing:
        """Settle to full accuracy and return the drawing."""
        z, done = newton(self.system, self.z)
        if done and self._sound(z) and self._kept(z):
            self.z = z
        return self.system.drawn(self.z)

    def _sound(self, z: Array) -> bool:
        return bool((self.system.x(z)[self.system.layout.lengths] > BROKEN * self.system.size).all())

    def _kept(self, z: Array) -> bool:
        """A drag turns no joint into a cusp and takes no arc through nothing."""
        return self.system.joints.kept(self.system.x(self.z), self.system.x(z), math.pi)

    def _predict(self, to: Place) -> Array:
        wish, weight = np.zeros(self.system.n), self.system.weight.copy()
        x = self.system.x(self.z)
        for column, offset, axis in self._wishes:
            goal = (to[0], to[1], self._reach(to, x), self._source.off(to) if self._source else 0.0)[
                axis
            ] + offset
            wish[column] = goal - self.z[column]
            weight[column] *= GRIP
        if not self.system.m or not self._wishes:
            return wish
        step = np.zeros(self.system.n)
        free = self._free
        if len(free.columns):
            large = len(free.columns) > LARGE
            J = free.evaluate_sparse(self.z)[1] if large else free.evaluate(self.z)[1]
            project = _project_sparse if large else _project
            step[free.columns] = project(J, wish[free.columns], weight[free.columns])
        return step

    def _reach(self, to: Place, x: Array) -> float:
        if self._centre is None:
            return 0.0
        return float(np.hypot(to[0] - x[self._centre[0]], to[1] - x[self._centre[1]]))


def _project_sparse(J: csr_array, wish: Array, weight: Array) -> Array:
    """Return the same as _project for a large sparse J : (m, n)."""
    if not J.shape[0]:
        return wish
    A = J * (1 / np.sqrt(weight))[np.newaxis, :]
    try:
        factor = sparse_factor(A, 1e-12)
    except RuntimeError:
        return _project(J.toarray(), wish, weight)
    return wish - (A.T @ factor.solve(J @ wish)) / np.sqrt(weight)


def _project(J: Array, wish: Array, weight: Array) -> Array:
    """Return the motion that J : (m, n) allows and that comes nearest to wish : (n,), by weight."""
    if not J.shape[0]:
        return wish
    A = J / np.sqrt(weight)
    G = A @ A.T
    lam = 1e-12 * (float(np.trace(G)) / len(G) or 1.0)
    for _ in range(6):
        try:
            factor = cho_factor(G + lam * np.eye(len(G)), lower=True, check_finite=False)
            return wish - (A.T @ cho_solve(factor, J @ wish, check_finite=False)) / np.sqrt(weight)
        except LinAlgError:
            lam *= 1000
    return np.zeros_like(wish)
