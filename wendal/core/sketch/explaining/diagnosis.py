"""Is a new constraint needed, already implied, or against others? Told by whether it changes over what really
moves.

What a row depends on is its circuit among the rows there are: the non-zero shares of the least-squares
combination, thinned by leaving out one constraint after the other while the dependence stays. Dropping any
one of the circuit makes room for the row, so the circuit is the list of ways out.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping

import numpy as np
from numpy.typing import NDArray
from scipy.sparse import csr_matrix, eye_array
from scipy.sparse.linalg import splu

from ...errors import SketchError
from ...tolerance import BROKEN, DEPENDENT, MOVES, UNCHANGED
from ..constraints import Row, rule_for
from ..drawn import Constraint, Drawing, Layout
from ..solving import EquationSystem, Solution, measured, moves_of, newton, solve, witness
from .words import say_constraint

__all__ = ["check_new", "newest_first", "ways_out"]

Array = NDArray[np.float64]
PROVED = 12  # ways out that are proved before they are offered
TRIED = 40  # constraints left out one by one in search of a way out


def check_new(drawing: Drawing, values: dict[str, float], c: Constraint, value: float) -> None:
    """Raise SketchError when a constraint to be added to a solved drawing is implied by others or against
    them.

    It is needed when what it measures changes over what really moves. Its `fights` are the smallest set it
    depends on, newest first.
    """
    layout = Layout(drawing)
    rows = rule_for(c.kind).compile(c, layout, value).as_rows(layout)
    if not rows:
        return
    solution = solve(drawing, values)
    if any(_needed(solution, row) for row in rows):
        return
    generic = witness(drawing)
    blamed, always = [], True
    asked: list[_Rows] = []
    there, here = (EquationSystem(d, measured(d), reduced=False) for d in (generic, solution.drawing))
    for row in rows:
        depends = _Rows(there, row)
        fights = depends.circuit()
        if fights is None:  # it follows at these sizes only
            always, depends = False, _Rows(here, row)
            fights = depends.circuit() or []
        asked.append(depends)
        blamed.append(fights)
    fights = newest_first(drawing, {k for b in blamed for k in b})
    others = _say(drawing, [k for k in fights if drawing.constraints[k].kind != "coincident"] or fights)
    fights = _that_make_room(drawing, fights, asked)
    title = rule_for(c.kind).title
    spare = bool(rule_for(c.kind).quantity)
    if not _holds(solution, rows):
        raise SketchError(
            f"{title} would fight with {others}. Drop one of those first. Nothing was added.",
            fights=fights,
            spare=spare,
        )
    if always:
        raise SketchError(
            f"{title} is not needed: it follows already from {others}. Nothing was added.",
            fights=fights,
            spare=spare,
        )
    raise SketchError(
        f"{title} is not needed: at these sizes nothing is left that it would hold, by {others}. When one "
        "of them changes it "
        "would fight with the rest. Nothing was added.",
        fights=fights,
        spare=spare,
    )


def _needed(solution: Solution, row: Row) -> bool:
    """Tell whether what a row measures changes over what really moves: to first order where that is enough,
    else over finite moves."""
    system, z = solution.system, solution.z
    variables = np.array(row.variables)
    parameters = np.array([row.parameters])
    slopes = row.kernel(system.x(z)[variables][None], parameters)[1][0]
    touched = np.unique(system.part[[v for v in system.column[variables].tolist() if v < system.n]])
    whole = np.zeros(system.n + 1)
    np.add.at(whole, system.column[variables], slopes)
    found = [moves_of(system, z, int(p), far=True) for p in touched]
    for moves in found:
        along = moves.basis.T @ whole[moves.columns]
        if moves.reason in ("regular", "by value") and np.linalg.norm(along) > MOVES * np.linalg.norm(slopes):
            return True

    def measure(at: Array) -> float:
        return float(row.kernel(system.x(at)[variables][None], parameters)[0][0][()])

    here = measure(z)
    for i in range(max((len(m.ends) for m in found), default=0)):
        at = z.copy()
        for moves in found:
            if moves.ends:
                at[moves.columns] = moves.ends[i % len(moves.ends)]
        if abs(measure(at) - here) > UNCHANGED * system.size:
            return True
    return False


def _that_make_room(drawing: Drawing, fights: list[str], asked: list[_Rows]) -> list[str]:
    """Leave out those of which the removal alone makes no room; of very many the first are tried, and of the
    others no joints are named."""
    tried = [k for k in fights[:PROVED] if any(rows.independent_without(k) for rows in asked)]
    return [*tried, *(k for k in fights[PROVED:] if drawing.constraints[k].kind != "coincident")] or fights


def newest_first(drawing: Drawing, found: Iterable[str]) -> list[str]:
    """Return constraints as likely as they are to go: dimensions, then others, each newest first, and joints
    last."""
    return sorted(
        found,
        key=lambda k: (
            drawing.constraints[k].kind == "coincident",
            drawing.constraints[k].value is None,
            -int(k[1:]),
        ),
    )


def _say(drawing: Drawing, fights: list[str]) -> str:
    """Name up to three of a set of constraints, and count the rest."""
    named = [say_constraint(drawing, drawing.constraints[k]) for k in fights[:3]]
    rest = len(fights) - len(named)
    if rest:
        named.append(f"{rest} more constraint{'s' if rest > 1 else ''}")
    return (
        "; ".join(named[:-1]) + (" and " if len(named) > 1 else "") + named[-1] if named else "what is fixed"
    )


def _holds(solution: Solution, rows: list[Row]) -> bool:
    system = solution.system
    x = system.x(solution.z)
    worst = max(
        abs(float(r.kernel(x[list(r.variables)][None], np.array([r.parameters]))[0][0])) for r in rows
    )
    return worst < BROKEN * system.size


class _Rows:
    """The rows J (m, n) of an unreduced system at its drawn place, whose they are, and a further row (n,):
    how they add up to it."""

    def __init__(self, system: EquationSystem, row: Row) -> None:
        variables = np.array(row.variables)
        _, j = row.kernel(system.x(system.z0)[variables][None], np.array([row.parameters]))
        vector = np.zeros(system.n + 1)
        np.add.at(vector, system.column[variables], j[0])
        self._J, self._vector, self._size = (
            system.evaluate(system.z0)[1],
            vector[: system.n],
            float(np.linalg.norm(j)),
        )
        self._owners = np.array(system.owner)
        self._rows = csr_matrix(self._J)
        self._product = (self._rows @ self._rows.T).tocsr()
        self._along = self._J @ self._vector

    def circuit(self) -> list[str] | None:
        """Return the constraints that the further row depends on, or None when it is independent."""
        if float(np.linalg.norm(self._vector)) < DEPENDENT * self._size:
            return []  # it binds only what never moves
        share = self._quick(np.arange(len(self._J)))
        if share is None or not self._adds_up(share):
            share = self._whole(self._J)
        if share is None:
            return None
        used = np.flatnonzero(np.abs(share) > 1e-6 * np.abs(share).max())
        kept = [k for k in dict.fromkeys(self._owners[used].tolist()) if k]
        touched = np.abs(self._J[used]).max(axis=0) > 0
        if np.linalg.matrix_rank(self._J[used][:, touched], tol=DEPENDENT) == len(used):
            return kept  # the only combination there is of them
        # Where the rows there are depend on each other, the combination is not the only one: thin it out.
        for k in list(kept):
            rest = [o for o in kept if o != k]
            if self._whole(self._J[np.isin(self._owners, [*rest, ""])]) is not None:
                kept = rest
        return kept

    def independent_without(self, constraint: str) -> bool:
        """Tell whether the further row would be independent if one constraint were not there."""
        left = np.flatnonzero(self._owners != constraint)
        share = self._quick(left)
        return self._whole(self._J[left]) is None if share is None else not self._adds_up(share, left)

    def _quick(self, left: NDArray[np.int64]) -> Array | None:
        """Return the least-squares shares of some rows at the cost of what is not zero in them; None where
        they depend on each other."""
        product = self._product[left][:, left].tocsc()
        slack = 1e-13 * float(product.diagonal().max(initial=0.0))
        try:
            share = np.asarray(
                splu(product + slack * eye_array(len(left), format="csc")).solve(self._along[left])
            )
        except RuntimeError:  # exactly singular
            return None
        return share if np.isfinite(share).all() else None

    def _adds_up(self, share: Array, left: NDArray[np.int64] | None = None) -> bool:
        rows = self._rows if left is None else self._rows[left]
        return float(np.linalg.norm(rows.T @ share - self._vector)) <= DEPENDENT * float(
            np.linalg.norm(self._vector)
        )

    def _whole(self, J: Array) -> Array | None:
        """Return how rows J : (m, n) add up to the further one, by all of them; None when they do not."""
        if not len(J):
            return None
        share, *_ = np.linalg.lstsq(J.T, self._vector, rcond=1e-10)
        if float(np.linalg.norm(J.T @ share - self._vector)) > DEPENDENT * float(
            np.linalg.norm(self._vector)
        ):
            return None
        return np.asarray(share)


def _parts_of(system: EquationSystem, drawing: Drawing, c: Constraint) -> set[int]:
    """Return the independent parts that what a constraint binds belongs to; what was merged away belongs to
    that which it was merged with."""
    layout = system.layout
    points = {
        p
        for e in c.of
        for p in (drawing.curves[e].points if e in drawing.curves else [e] if e in drawing.points else [])
    }
    variables = [v for p in points for v in layout.xy(p)] + [
        layout.radius(e) for e in c.of if e in layout.round
    ]
    return (
        {int(system.part[k]) for k in system.column[variables].tolist() if k < system.n}
        if variables
        else set()
    )


def ways_out(drawing: Drawing, values: Mapping[str, float]) -> list[str]:
    """Return the constraints of a drawing that can not be solved, any one of which may go to make it
    solvable; newest first.

    Only the part of the sketch that fails is searched.
    """
    system = EquationSystem(drawing, values)
    z, done = newton(system, system.z0)
    if done or not system.m:
        return []
    r = np.abs(system.residuals(z))
    parts = set(system.row_part[r > BROKEN * system.size].tolist())
    there = {
        k for k, c in drawing.constraints.items() if not c.reference and _parts_of(system, drawing, c) & parts
    }
    found = []
    for k in newest_first(drawing, there)[:TRIED]:
        less = drawing.model_copy(
            update={"constraints": {o: c for o, c in drawing.constraints.items() if o != k}}
        )
        try:
            solve(less, {o: v for o, v in values.items() if o != k})
        except SketchError:
            continue
        found.append(k)
    return found
