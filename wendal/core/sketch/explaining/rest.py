"""Constrain the rest: a proposal of constraints and dimensions that takes every freedom a drawing has left.

Candidates in the order in which a drawing is dimensioned (what is drawn level or upright, equal radii, sizes,
places measured from the baselines, angles) are taken when they take a freedom that is still there: g is
independent of what is constrained when it moves along the null space N, and then N loses the direction N' g.
"""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ...errors import SketchError
from ...tolerance import BROKEN, MEETS, MOVES
from ..constraints import Row, rule_for
from ..drawn import ORIGIN, X_AXIS, Y_AXIS, Arc, Circle, Constraint, Drawing, Layout, Line, Oval
from ..solving import EquationSystem, Solution, moves_of
from .words import say_constraint

__all__ = ["Proposal", "propose"]

Array = NDArray[np.float64]
LEVEL = math.radians(0.2)


@dataclass(frozen=True, slots=True)
class Proposal:
    """A constraint that would take a freedom: its kind, what it binds, "horizontal" or "vertical" for a
    distance, and words."""

    kind: str
    of: list[str]
    manner: str
    words: str


def propose(solution: Solution, baselines: list[str]) -> list[Proposal]:
    """Return what would fully constrain a drawing; places are measured from the baselines (points or lines).

    Without any they are measured from what was taken in from the model, from dimension chains, and from the
    origin, in this order.

    Raises SketchError for a baseline that is neither.
    """
    drawing, system = solution.drawing, solution.system
    bases = _bases(drawing, baselines)
    layout = Layout(drawing)
    N = _movable(solution)
    found: list[Proposal] = []
    for kind, of, manner in _candidates(drawing, bases):
        if not N.shape[1]:
            break
        rule = rule_for(kind)
        c = Constraint(kind=kind, of=of, manner=manner)
        c = c.model_copy(update={"sense": rule.choose(c, layout)})
        value = rule.measure(c, layout) if rule.quantity else 0.0
        if rule.quantity and value < BROKEN * system.size:
            continue
        rows = rule.compile(c, layout, value).as_rows(layout)
        left = _less(N, system, layout, rows)
        if left is None:
            continue
        N = left
        found.append(Proposal(kind, of, manner, say_constraint(drawing, c)))
    return found


def _movable(solution: Solution) -> Array:
    """Return an orthonormal basis (n, d) of what really moves."""
    system = solution.system
    found = []
    for part in np.unique(system.part):
        moves = moves_of(system, solution.z, int(part))
        whole = np.zeros((system.n, moves.basis.shape[1]))
        whole[moves.columns] = moves.basis
        found.append(whole)
    return np.hstack([np.zeros((system.n, 0)), *found])


def _less(N: Array, system: EquationSystem, layout: Layout, rows: list[Row]) -> Array | None:
    """Return what is left of the motions N : (n, d) under rows that all take one, or None when one of them
    takes none."""
    for row in rows:
        variables = np.array(row.variables)
        _, j = row.kernel(layout.x[variables][None], np.array([row.parameters]))
        g = np.zeros(system.n + 1)
        np.add.at(g, system.column[variables], j[0])
        along = N.T @ g[:-1]
        size = float(np.linalg.norm(along))
        if size < MOVES * float(np.linalg.norm(j)):
            return None
        # Reflected so that the motion along N' g is the first of the basis; the others are what is left when
        # it is taken.
        u = along / size
        u[0] += 1.0 if u[0] >= 0 else -1.0
        N = N[:, 1:] - np.outer(N @ u, u[1:] * (2.0 / (u @ u)))
    return N


def _bases(drawing: Drawing, baselines: list[str]) -> list[str]:
    for b in baselines:
        if drawing.kind(b) not in ("point", "line"):
            raise SketchError("Baselines are points, lines or axes.", field=b)
    return baselines


def _nearest_bases(drawing: Drawing, point: str) -> list[str]:
    """Return what a point is measured from where nothing was asked for: the nearest level and the nearest
    upright line that was taken in, else the nearest point that was; then the nearest point of a dimension
    chain; then the origin."""
    ways = [
        [
            t
            for t in drawing.taken
            if isinstance(drawing.curves.get(t), Line) and abs(math.sin(_tilt(drawing, t)) - s) < LEVEL
        ]
        for s in (0.0, 1.0)
    ]
    found = [min(lines, key=lambda t: _off(drawing, point, t)) for lines in ways if lines]
    own = {p for c in drawing.curves.values() if point in c.points for p in c.points} | {point}
    x, y = drawing.place(point)

    def far(other: str) -> float:
        u, v = drawing.place(other)
        return math.hypot(u - x, v - y)

    taken = {p for t in drawing.taken for p in ((t,) if t in drawing.points else drawing.curves[t].points)}
    chained = {
        e
        for _, c in drawing.dimensions()
        if c.kind == "distance" and ORIGIN not in c.of
        for e in c.of
        if e in drawing.points
    }
    for group in ([] if found else taken - own, chained - own - taken):
        if group:
            found.append(min(sorted(group), key=far))
    return [*found, ORIGIN]


def _candidates(drawing: Drawing, bases: list[str]) -> Iterator[tuple[str, list[str], str]]:
    lines = [c for c, curve in drawing.curves.items() if isinstance(curve, Line)]
    rounds = [c for c, curve in drawing.curves.items() if isinstance(curve, Circle | Arc)]
    yield from _level(drawing, lines)
    yield from _sizes(drawing, rounds)
    for line in lines:
        tilt = _tilt(drawing, line)
        if min(tilt, math.pi - tilt, abs(tilt - math.pi / 2)) < LEVEL:
            yield "distance", [line], ""
    owners = {p: c for c, curve in drawing.curves.items() for p in curve.points}
    centres = [drawing.curves[c].centre for c in rounds]  # type: ignore[union-attr]
    points = [
        *(p for p in drawing.points if p not in owners),
        *centres,
        *(p for p in drawing.points if p in owners and p not in centres),
    ]
    for p in points:
        yield from _places(drawing, p, bases or _nearest_bases(drawing, p))
    for p in points:  # what the baselines leave open, such as their own place
        yield from _places(drawing, p, [ORIGIN])
    for line in lines:
        yield "angle", [X_AXIS, line], ""
        yield "distance", [line], ""


def _level(drawing: Drawing, lines: list[str]) -> Iterator[tuple[str, list[str], str]]:
    for line in lines:
        tilt = _tilt(drawing, line)
        if min(tilt, math.pi - tilt) < LEVEL:
            yield "horizontal", [line], ""
        elif abs(tilt - math.pi / 2) < LEVEL:
            yield "vertical", [line], ""


def _sizes(drawing: Drawing, rounds: list[str]) -> Iterator[tuple[str, list[str], str]]:
    for i, one in enumerate(rounds):
        r = drawing.curves[one].radius  # type: ignore[union-attr]
        same = next((o for o in rounds[:i] if abs(drawing.curves[o].radius - r) < MEETS * r), None)  # type: ignore[union-attr]
        if same:
            yield "equal", [same, one], ""
        yield ("diameter" if isinstance(drawing.curves[one], Circle) else "radius"), [one], ""
    for e, curve in drawing.curves.items():
        if isinstance(curve, Oval):
            yield "axis", [e], ""
            yield "cross_axis", [e], ""


def _places(drawing: Drawing, point: str, bases: list[str]) -> Iterator[tuple[str, list[str], str]]:
    x, y = drawing.place(point)
    for base in bases:
        if base == point:
            continue
        if drawing.kind(base) == "line":
            yield (
                ("on_curve", [point, base], "")
                if _off(drawing, point, base) < MEETS
                else ("distance", [point, base], "")
            )
            continue
        bx, by = drawing.place(base)
        if base == ORIGIN and abs(x) < MEETS and abs(y) < MEETS:
            yield "coincident", [ORIGIN, point], ""
        if base == ORIGIN and abs(x) < MEETS:
            yield "on_curve", [point, Y_AXIS], ""
        if base == ORIGIN and abs(y) < MEETS:
            yield "on_curve", [point, X_AXIS], ""
        if abs(x - bx) >= MEETS:
            yield "distance", [base, point], "horizontal"
        else:
            yield "vertical", [base, point], ""
        if abs(y - by) >= MEETS:
            yield "distance", [base, point], "vertical"
        else:
            yield "horizontal", [base, point], ""


def _off(drawing: Drawing, point: str, line: str) -> float:
    (px, py), ((ax, ay), (bx, by)) = (
        drawing.place(point),
        (drawing.place(p) for p in drawing.line_points(line)),
    )
    return abs((bx - ax) * (py - ay) - (by - ay) * (px - ax)) / (math.hypot(bx - ax, by - ay) or 1.0)


def _tilt(drawing: Drawing, line: str) -> float:
    (ax, ay), (bx, by) = (drawing.place(p) for p in drawing.line_points(line))
    return math.atan2(by - ay, bx - ax) % math.pi
