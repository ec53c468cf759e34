"""A drawing and its constraints as one reduced system of equations.

Coincident, horizontal, vertical, concentric, equal-radius and fixed need no equations: their variables are
merged (union-find) or held. What is left is z : (n,) unknowns, each standing for one or more variables of
x : (N,), and rows r(z) : (m,) with J : (m, n), grouped by kernel so that each kernel runs once.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Mapping
from copy import copy
from functools import cached_property

import numpy as np
from numpy.typing import NDArray
from scipy.sparse import coo_array, csr_array
from scipy.sparse.csgraph import connected_components

from ..constraints import Row, rule_for
from ..constraints.free import lies_on
from ..drawn import Arc, Constraint, Drawing, EllipseArc, Layout, Oval, Spline
from ..equations import Joints, Kernel, point_circle, same
from .blocks import Blocks

__all__ = ["EquationSystem", "Slice"]

Array = NDArray[np.float64]


class EquationSystem:
    """The equations of a drawing with given dimension values (mm or rad by constraint id).

    owner : (m,) the constraint each row belongs to ("" for an arc's own rows).
    echoes : constraints whose merges other merges had made already.
    """

    def __init__(self, drawing: Drawing, values: Mapping[str, float], *, reduced: bool = True) -> None:
        """Compile; reduced=False makes equations of what would be merged or held, so that each has its
        owner."""
        self.drawing = drawing
        self.layout = Layout(drawing)
        self.size = self.layout.size()
        self.echoes: list[str] = []
        self.owner: list[str] = []
        self._rows: list[Row] = []
        self._dimension_rows: dict[str, list[int]] = {}
        self._values = dict(values)
        self._parent = list(range(len(self.layout.x)))
        self._held = set(range(self.layout.fixed))
        self._waived: set[tuple[str, str]] = set()
        self._reduced = reduced
        for entity in drawing.taken:
            self._held.update(self.layout.variables(entity))
        self._one_ellipse()
        for k in sorted(drawing.constraints, key=lambda k: drawing.constraints[k].kind != "fixed"):
            if not drawing.constraints[k].reference:
                self._constraint(k, values.get(k, 0.0))
        self._own_rows()
        self._reduce()
        self._group()

    def _one_ellipse(self) -> None:
        """Ellipses, and what runs beside them, over the same middle and tip have the same half-axis
        across."""
        first: dict[tuple[str, str], int] = {}
        for c, curve in self.drawing.curves.items():
            if isinstance(curve, Oval):
                radius = self.layout.radius(c)
                kept = first.setdefault((curve.centre, curve.tip), radius)
                if kept != radius:
                    held = radius in self._held
                    self._parent[kept if held else radius] = radius if held else kept
                    first[(curve.centre, curve.tip)] = radius if held else kept

    def _own_rows(self) -> None:
        """An arc's ends lie on it, and those of a part of a spline; where merged ones say so of one point, it
        is said once."""
        said: set[tuple[int, ...]] = set()
        for c, curve in self.drawing.curves.items():
            if isinstance(curve, Arc):
                for end in (curve.start, curve.end):
                    variables = (*self.layout.xy(end), *self.layout.centre(c), self.layout.radius(c))
                    roots = tuple(self._root(v) for v in variables)
                    if roots not in said:
                        said.add(roots)
                        self._rows.append(Row(point_circle, variables))
                        self.owner.append("")
            elif isinstance(curve, EllipseArc):
                own = [lies_on(end, c, self.layout) for end in curve.ends if (c, end) not in self._waived]
                self._rows += own
                self.owner += [""] * len(own)
            elif isinstance(curve, Spline):
                for end in (e for e in curve.cut_ends if (c, e) not in self._waived):
                    self._on_spline(c, curve, end, said)

    def _on_spline(self, c: str, curve: Spline, end: str, said: set[tuple[int, ...]]) -> None:
        over = self.layout.over(c)
        roots = tuple(self._root(v) for v in (*over, *self.layout.xy(end)))
        if curve.side:
            away, side = self.layout.away(c)
            roots = (*roots, self._root(away), int(side))
        else:
            passed = [roots[i : i + 2] for i in range(0, len(over), 2)]  # the points that it goes through
            if roots[-2:] in (passed if curve.manner == "through" else (passed[0], passed[-1])):
                return
        if roots in said:
            return
        said.add(roots)
        self._rows.append(lies_on(end, c, self.layout))
        self.owner.append("")

    def _constraint(self, k: str, value: float) -> None:
        c = self.drawing.constraints[k]
        asked = rule_for(c.kind).compile(c, self.layout, value)
        rows = asked.rows if self._reduced else asked.as_rows(self.layout)
        self._waived.update(asked.waived)
        if c.value is not None:
            self._dimension_rows[k] = list(range(len(self._rows), len(self._rows) + len(rows)))
        if rows:
            self._rows += rows
            self.owner += [k] * len(rows)
        if not self._reduced:
            return
        if asked.held:
            self._held.update([self._root(v) for v in asked.held])
        if asked.merges:
            merged = [self._merge(k, a, b) for a, b in asked.merges]
            if not any(merged):
                self.echoes.append(k)

    def _root(self, v: int) -> int:
        while self._parent[v] != v:
            self._parent[v] = self._parent[self._parent[v]]
            v = self._parent[v]
        return v

    def _merge(self, k: str, a: int, b: int) -> bool:
        """Make two variables one; two held ones stay two and get an equation, which then holds or not."""
        a, b = self._root(a), self._root(b)
        if a == b:
            return False
        if a in self._held and b in self._held:
            self._rows.append(Row(same, (a, b)))
            self.owner.append(k)
            return True
        keep, drop = (b, a) if b in self._held else (a, b)
        self._parent[drop] = keep
        return True

    def _reduce(self) -> None:
        roots = np.array([self._root(v) for v in range(len(self._parent))])
        held = {self._root(v) for v in self._held}
        free = [v for v in sorted(set(roots.tolist())) if v not in held]
        column = {v: i for i, v in enumerate(free)}
        self.n, self.m = len(free), len(self._rows)
        self.column = np.array(
            [column.get(r, self.n) for r in roots.tolist()]
        )  # n stands for "does not move"
        self._constant = self.layout.x[roots]
        counts = np.bincount(self.column, minlength=self.n + 1)[: self.n]
        self.weight = np.maximum(counts, 1).astype(float)
        # Where merged variables were drawn apart, they meet in the middle.
        sums = np.bincount(self.column, weights=self.layout.x, minlength=self.n + 1)[: self.n]
        self.z0: Array = sums / self.weight

    def _group(self) -> None:
        groups: dict[Kernel, list[int]] = defaultdict(list)
        for i, row in enumerate(self._rows):
            groups[row.kernel].append(i)
        self._groups = []
        pairs: list[Array] = []
        for kernel, rows in groups.items():
            variables = np.array([self._rows[i].variables for i in rows])
            parameters = np.array([self._rows[i].parameters for i in rows])
            index = np.array(rows)
            self._groups.append((kernel, index, variables, self.column[variables], parameters))
            pairs.append(np.stack([np.repeat(index, variables.shape[1]), self.column[variables].ravel()]))
        pairs_: NDArray[np.int64] = (
            np.hstack(pairs).astype(np.int64) if pairs else np.zeros((2, 0), dtype=np.int64)
        )
        self._pairs = pairs_[:, pairs_[1] < self.n]
        self._components()

    def _components(self) -> None:
        """Label rows and unknowns by the independent part of the sketch they belong to."""
        size = self.m + self.n
        graph = coo_array(
            (np.ones(self._pairs.shape[1]), (self._pairs[0], self._pairs[1] + self.m)), shape=(size, size)
        )
        _, label = connected_components(graph, directed=False)
        self.row_part, self.part = label[: self.m], label[self.m :]

    @cached_property
    def blocks(self) -> Blocks:
        """The order in which the unknowns determine each other."""
        return Blocks(self._pairs, self.m, self.n)

    @cached_property
    def joints(self) -> Joints:
        """What only jumps: tangent joints and arcs."""
        return Joints(self.layout)

    def with_values(self, values: Mapping[str, float], z0: Array) -> EquationSystem:
        """Return the same system for other dimension values, starting from unknowns z0 : (n,)."""
        other = copy(self)
        other.z0 = z0
        other._values = dict(values)
        changed: dict[int, Row] = {}
        for k, indices in self._dimension_rows.items():
            if values[k] == self._values.get(k):
                continue
            c = self.drawing.constraints[k]
            changed.update(
                zip(indices, rule_for(c.kind).compile(c, self.layout, values[k]).rows, strict=True)
            )
        other._groups = []
        for kernel, index, variables, columns, parameters in self._groups:
            hit = [(i, changed[row].parameters) for i, row in enumerate(index.tolist()) if row in changed]
            if hit:
                parameters = parameters.copy()
                for i, own in hit:
                    parameters[i] = own
            other._groups.append((kernel, index, variables, columns, parameters))
        return other

    def of(self, drawing: Drawing, values: Mapping[str, float]) -> EquationSystem | None:
        """Return the same system for a drawing that differs from this one's in the formulas of dimensions
        alone, else None."""
        mine = self.drawing
        if (
            drawing.points is not mine.points
            or drawing.curves is not mine.curves
            or drawing.taken is not mine.taken
        ):
            return None
        if drawing.constraints is not mine.constraints and not _alike(drawing.constraints, mine.constraints):
            return None
        other = self.with_values(values, self.z0)
        other.drawing, other.layout = drawing, copy(self.layout)
        other.layout.drawing = drawing
        return other

    def slice(self, rows: NDArray[np.bool_], columns: NDArray[np.bool_]) -> Slice:
        """Return some of the rows as functions of some of the unknowns."""
        return Slice(self, rows, columns)

    def x(self, z: Array) -> Array:
        """Return all variables (N,) for unknowns z (n,)."""
        return np.where(self.column < self.n, np.append(z, 0.0)[self.column], self._constant)

    def evaluate(self, z: Array) -> tuple[Array, Array]:
        """Return r : (m,) in mm and J : (m, n) at z : (n,)."""
        x = self.x(z)
        r, J = np.zeros(self.m), np.zeros((self.m, self.n + 1))
        for kernel, rows, variables, columns, parameters in self._groups:
            r[rows], j = kernel(x[variables], parameters)
            np.add.at(J, (rows[:, None], columns), j)
        return r, J[:, : self.n]

    def residuals(self, z: Array) -> Array:
        """Return r : (m,) in mm alone."""
        x = self.x(z)
        r = np.zeros(self.m)
        for kernel, rows, variables, _, parameters in self._groups:
            r[rows] = kernel(x[variables], parameters)[0]
        return r

    def drawn(self, z: Array) -> Drawing:
        """Return the drawing at z."""
        return self.layout.drawn(self.x(z))


def _alike(one: Mapping[str, Constraint], other: Mapping[str, Constraint]) -> bool:
    """Tell whether constraints bind the same things in the same way, their values aside."""
    return list(one) == list(other) and all(
        a is b
        or (a.kind, a.of, a.sense, a.manner, a.reference, a.value is None)
        == (b.kind, b.of, b.sense, b.manner, b.reference, b.value is None)
        for a, b in zip(one.values(), other.values(), strict=True)
    )


class Slice:
    """Some rows of a system as functions of some of its unknowns, the others held.

    rows : (k,) int, columns : (l,) int, which they are.
    """

    def __init__(self, system: EquationSystem, rows: NDArray[np.bool_], columns: NDArray[np.bool_]) -> None:
        self._system = system
        self.rows, self.columns = np.flatnonzero(rows), np.flatnonzero(columns)
        place = np.full(system.m, -1)
        place[self.rows] = np.arange(len(self.rows))
        column = np.full(system.n + 1, len(self.columns))
        column[self.columns] = np.arange(len(self.columns))
        self._groups = []
        for kernel, index, variables, columns_, parameters in system._groups:
            own = rows[index]
            if own.any():
                self._groups.append(
                    (kernel, place[index[own]], variables[own], column[columns_[own]], parameters[own])
                )

    def evaluate(self, z: Array) -> tuple[Array, Array]:
        """Return r : (k,) in mm and J : (k, l) at all unknowns z : (n,)."""
        x = self._system.x(z)
        r, J = np.zeros(len(self.rows)), np.zeros((len(self.rows), len(self.columns) + 1))
        for kernel, rows, variables, columns, parameters in self._groups:
            r[rows], j = kernel(x[variables], parameters)
            np.add.at(J, (rows[:, None], columns), j)
        return r, J[:, :-1]

    def evaluate_sparse(self, z: Array) -> tuple[Array, csr_array]:
        """Return r : (k,) in mm and J : (k, l), sparse, at all unknowns z : (n,)."""
        x = self._system.x(z)
        r = np.zeros(len(self.rows))
        at_rows, at_columns, entries = [], [], []
        for kernel, rows, variables, columns, parameters in self._groups:
            r[rows], j = kernel(x[variables], parameters)
            at_rows.append(np.repeat(rows, columns.shape[1]))
            at_columns.append(columns.ravel())
            entries.append(j.ravel())
        own = np.concatenate(at_columns) < len(self.columns)
        places = np.concatenate(at_rows)[own], np.concatenate(at_columns)[own]
        return r, coo_array(
            (np.concatenate(entries)[own], places), shape=(len(self.rows), len(self.columns))
        ).tocsr()
