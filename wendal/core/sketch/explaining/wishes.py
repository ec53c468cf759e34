"""Motions that a designer would think of, for a part of a sketch: the ones that move least come first."""

from __future__ import annotations

import math
from collections.abc import Collection, Iterator, Mapping
from itertools import islice

import numpy as np
from numpy.typing import NDArray

from ...tolerance import MOTION_NOISE, NO_LENGTH, PARALLEL
from ..drawn import Arc, Circle, Drawing, EllipseArc, Line, Spline, path_of
from ..equations import weights_at
from ..solving import EquationSystem
from .shapes_of import shapes_of

__all__ = ["Wishes"]

Array = NDArray[np.float64]
Way = tuple[float, float]


class _Shape(dict[str, None]):
    """The points of curves that hang together, in order; middle : of them all."""

    def __init__(self, drawing: Drawing, points: list[str]) -> None:
        super().__init__(dict.fromkeys(points))
        self.middle = _middle(drawing, points)


class Wishes:
    """What can be wished for in a system, gathered once for all of its independent parts."""

    def __init__(self, system: EquationSystem) -> None:
        self._system = system
        drawing, layout = system.drawing, system.layout
        self._column = {
            p: (int(system.column[x]), int(system.column[y]))
            for p in drawing.points
            for x, y in [layout.xy(p)]
        }
        self._radius = {c: int(system.column[layout.away(c)[0]]) for c in layout.beside}
        self._radius |= {c: int(system.column[layout.radius(c)]) for c in layout.round}
        self._points: dict[int, list[str]] = {}
        for p, columns in self._column.items():
            for part in {int(system.part[k]) for k in columns if k < system.n}:
                self._points.setdefault(part, []).append(p)
        self._curves: dict[int, list[str]] = {}
        for c, curve in drawing.curves.items():
            touched = {k for p in curve.points if p in self._column for k in self._column[p]} | {
                self._radius.get(c, system.n)
            }
            for part in {int(system.part[k]) for k in touched if k < system.n}:
                self._curves.setdefault(part, []).append(c)
        self._riders = _riders(drawing)
        self._owners = {p: c for c, curve in reversed(drawing.curves.items()) for p in curve.points}
        self._shapes = [
            _Shape(drawing, list(dict.fromkeys(p for c in shape for p in drawing.curves[c].points)))
            for shape in shapes_of(drawing)
            if len(shape) > 1
        ]
        self._shape_of: dict[str, list[int]] = {}
        for n, inside in enumerate(self._shapes):
            for p in inside:
                self._shape_of.setdefault(p, []).append(n)

    def free(self, columns: NDArray[np.int64]) -> list[Array]:
        """Return the motions (k,) of a part that nothing binds, each of one unknown: radii before places; []
        where that does not tell all of it."""
        part = int(self._system.part[columns[0]])
        radii = [k for c in self._curves.get(part, []) if c in self._radius for k in [self._radius[c]]]
        order = dict.fromkeys([*radii, *(k for p in self._points.get(part, []) for k in self._column[p])])
        own = {int(k): i for i, k in enumerate(columns)}
        places = [own[k] for k in order if k in own]
        return list(np.eye(len(columns))[places]) if len(places) == len(columns) else []

    def of(self, columns: NDArray[np.int64]) -> Array:
        """Return motions (k, m) over the unknowns of one part, those that move least first.

        A radius, a point, a curve, a shape, all that is in the part.
        """
        drawing, part = self._system.drawing, int(self._system.part[columns[0]])
        here, curves = self._points.get(part, []), self._curves.get(part, [])
        own = {int(k): i for i, k in enumerate(columns)}

        def vector(points: Mapping[str, Way], radii: tuple[str, ...] = ()) -> Array:
            v = np.zeros(len(columns))
            for p, way in points.items():
                for k, d in zip(self._column.get(p, ()), way, strict=False):
                    if k in own:
                        v[own[k]] = d
            for c in radii:
                if self._radius[c] in own:
                    v[own[self._radius[c]]] = 1.0
            return v

        tried = [vector({}, (c,)) for c in curves if c in self._radius]
        tried += [
            vector({p: d})
            for p in here
            for d in [*_ways(drawing, p, self._owners.get(p)), *(d for _, d in self._riders.get(p, ()))]
        ]
        for c in curves:
            points = drawing.curves[c].points
            tried += [vector(dict.fromkeys(points, d)) for d in _own_ways(drawing, c)]
            tried += [vector(_turn(drawing, points, drawing.place(about))) for about in points]
            tried += [vector(moves, radii) for moves, radii in self._shaping(c)]
        for n in dict.fromkeys(n for p in here for n in self._shape_of.get(p, ())):
            tried += [vector(moves) for moves in self._as_one(self._shapes[n], set(here))]
        tried += [vector(dict.fromkeys(here, d)) for d in ((1.0, 0.0), (0.0, 1.0))]
        if here:
            tried += [vector(_turn(drawing, here, about)) for about in ((0.0, 0.0), _middle(drawing, here))]
        found = np.stack(tried, axis=1) if tried else np.zeros((len(columns), 0))
        moved = (np.abs(found) > MOTION_NOISE).sum(axis=0)
        order = np.argsort(moved, kind="stable")
        return found[:, order[moved[order] > 0]]

    def _shaping(self, c: str) -> Iterator[tuple[Mapping[str, Way], tuple[str, ...]]]:
        """An elliptical arc stretched; a point of a spline pulled, with what lies on the spline."""
        drawing = self._system.drawing
        curve = drawing.curves[c]
        if isinstance(curve, EllipseArc):
            yield from _stretched(drawing, c, curve)
        elif isinstance(curve, Spline):
            shares = {
                p: weights_at(drawing, curve, p)
                for p, on in self._riders.items()
                if any(other == c for other, _ in on)
            }
            for i, own in enumerate(curve.over) if shares else ():
                for d in ((1.0, 0.0), (0.0, 1.0)):
                    yield {own: d, **{p: (d[0] * w[i], d[1] * w[i]) for p, w in shares.items()}}, ()

    def _as_one(self, inside: _Shape, here: set[str]) -> Iterator[Mapping[str, Way]]:
        """A whole shape shifted, or turned about what of it stands still, the origin or its middle."""
        drawing = self._system.drawing
        moving = (
            [p for p in here if p in inside] if len(here) < len(inside) else [p for p in inside if p in here]
        )
        for d in ((1.0, 0.0), (0.0, 1.0)):
            yield dict.fromkeys(moving, d)
        still = islice((p for p in inside if p not in here), 4)
        for about in [*(drawing.place(p) for p in still), (0.0, 0.0), inside.middle][:4]:
            yield _turn(drawing, moving, about)


def _riders(drawing: Drawing) -> dict[str, list[tuple[str, tuple[float, float]]]]:
    """Return, for every point that is bound to lie on a curve, that curve and its direction there.

    Ends of parts of splines are such points, and so is, in a way, the centre of a circle that touches a
    curve.
    """
    found: dict[str, list[tuple[str, tuple[float, float]]]] = {}
    bound = [
        (k.of[0], k.of[1])
        for k in drawing.constraints.values()
        if k.kind == "on_curve" and not k.reference and k.of[1] in drawing.curves
    ]
    bound += [
        (p, c) for c, curve in drawing.curves.items() if isinstance(curve, Spline) for p in curve.cut_ends
    ]
    for k in drawing.constraints.values():
        for one, other in (k.of, k.of[::-1]) if k.kind == "tangent" and not k.reference else ():
            if isinstance(ring := drawing.curves.get(one), Circle) and other in drawing.curves:
                bound.append((ring.centre, other))
    for p, c in bound:
        path = path_of(drawing, c)
        angle = path.heading(path.where(*drawing.place(p)), math.inf)[0]
        found.setdefault(p, []).append((c, (math.cos(angle), math.sin(angle))))
    return found


def _ways(drawing: Drawing, point: str, owner: str | None) -> list[tuple[float, float]]:
    """Along X, along Y, along and across the line the point ends, and along the arc it ends."""
    ways = [(1.0, 0.0), (0.0, 1.0)]
    curve = drawing.curves[owner] if owner else None
    if owner and isinstance(curve, Arc | EllipseArc) and point in curve.ends:
        path = path_of(drawing, owner)
        angle = path.heading(path.t0 if point == curve.start else path.t1, math.inf)[0]
        ways.append((math.cos(angle), math.sin(angle)))
    return ways + _own_ways(drawing, owner)[2:] if owner else ways


def _own_ways(drawing: Drawing, curve: str) -> list[tuple[float, float]]:
    """X, Y, and along and across a line (an arc: its chord)."""
    ways = [(1.0, 0.0), (0.0, 1.0)]
    c = drawing.curves[curve]
    if isinstance(c, Line | Arc):
        (ax, ay), (bx, by) = drawing.place(c.start), drawing.place(c.end)
        n = math.hypot(bx - ax, by - ay)
        if n > NO_LENGTH:
            ux, uy = (bx - ax) / n, (by - ay) / n
            if min(abs(ux), abs(uy)) > PARALLEL:
                ways += [(ux, uy), (-uy, ux)]
    return ways


def _stretched(
    drawing: Drawing, c: str, curve: EllipseArc
) -> list[tuple[dict[str, tuple[float, float]], tuple[str, ...]]]:
    """An elliptical arc made longer along its axis, and wider across it, its ends carried along."""
    (cx, cy), (tx, ty) = drawing.place(curve.centre), drawing.place(curve.tip)
    half = math.dist((cx, cy), (tx, ty)) or 1.0
    u = ((tx - cx) / half, (ty - cy) / half)
    found: list[tuple[dict[str, tuple[float, float]], tuple[str, ...]]] = []
    ways: list[tuple[tuple[float, float], float, tuple[str, ...]]] = [
        (u, half, ()),
        ((-u[1], u[0]), curve.radius, (c,)),
    ]
    for (vx, vy), size, radii in ways:
        moves = {}
        for end in curve.ends:
            x, y = drawing.place(end)
            share = ((x - cx) * vx + (y - cy) * vy) / size
            moves[end] = (share * vx, share * vy)
        found.append(({**moves, **({} if radii else {curve.tip: u})}, radii))
    return found


def _turn(
    drawing: Drawing, points: Collection[str], about: tuple[float, float]
) -> dict[str, tuple[float, float]]:
    return {p: (-(y - about[1]), x - about[0]) for p in points for x, y in [drawing.place(p)]}


def _middle(drawing: Drawing, points: Collection[str]) -> tuple[float, float]:
    places = [drawing.place(p) for p in points]
    return sum(x for x, _ in places) / len(places), sum(y for _, y in places) / len(places)
