"""Motions that a designer would think of, for a part of a sketch: the ones that move least come first."""

from __future__ import annotations

import math
from collections.abc import Iterator

import numpy as np
from numpy.typing import NDArray

from .crossings import path_of
from .model import Arc, Circle, Drawing, EllipseArc, Line, Spline
from .shapes_of import shapes_of
from .spline_rows import weights_at
from .system import System

__all__ = ["wishes"]

Array = NDArray[np.float64]


def wishes(system: System, columns: NDArray[np.int64]) -> Iterator[Array]:
    """Yield motions (k,) over some of a system's unknowns: a radius, a point, a curve, a shape, all that is in the part."""
    own = np.full(system.n + 1, -1)
    own[columns] = np.arange(len(columns))
    drawing, layout = system.drawing, system.layout

    def vector(points: dict[str, tuple[float, float]], radii: tuple[str, ...] = ()) -> Array | None:
        v = np.zeros(len(columns))
        for p, (dx, dy) in points.items():
            for variable, d in zip(layout.xy(p), (dx, dy), strict=True):
                k = own[system.column[variable]]
                if k >= 0:
                    v[k] = d
        for c in radii:
            k = own[system.column[layout.radius(c)]]
            if k >= 0:
                v[k] = 1.0
        return v if v.any() else None

    here = {p for p in drawing.points if any(own[system.column[v]] >= 0 for v in layout.xy(p))}
    curves = [c for c, curve in drawing.curves.items() if here & set(curve.points)
              or (c in layout.round and own[system.column[layout.radius(c)]] >= 0)]
    tried = [vector({}, (c,)) for c in curves if c in layout.round]
    riders = _riders(drawing)
    owners = {p: c for c, curve in reversed(drawing.curves.items()) for p in curve.points}
    tried += [vector({p: d}) for p in here for d in [*_ways(drawing, p, owners.get(p)), *(d for _, d in riders.get(p, ()))]]
    for c in curves:
        points = drawing.curves[c].points
        tried += [vector(dict.fromkeys(points, d)) for d in _own_ways(drawing, c)]
        tried += [vector(_turn(drawing, points, drawing.place(about))) for about in points]
    for c in curves:
        curve = drawing.curves[c]
        if isinstance(curve, EllipseArc):
            tried += [vector(moves, radii) for moves, radii in _stretched(drawing, c, curve)]
        on_it = [p for p, on in riders.items() if any(curve_ == c for curve_, _ in on)] if isinstance(curve, Spline) else []
        if isinstance(curve, Spline) and on_it:
            shares = {p: weights_at(drawing, curve, p) for p in on_it}
            tried += [vector({own: d, **{p: (d[0] * w[i], d[1] * w[i]) for p, w in shares.items()}})
                      for i, own in enumerate(curve.over) for d in ((1.0, 0.0), (0.0, 1.0))]
    for shape in shapes_of(drawing):
        inside = {p for c in shape for p in drawing.curves[c].points}
        if not inside & here or len(shape) < 2:
            continue
        tried += [vector(dict.fromkeys(inside, d)) for d in ((1.0, 0.0), (0.0, 1.0))]
        pivots = [drawing.place(p) for p in inside - here] + [(0.0, 0.0), _middle(drawing, inside)]
        tried += [vector(_turn(drawing, tuple(inside), about)) for about in pivots[:4]]
    tried += [vector(dict.fromkeys(here, d)) for d in ((1.0, 0.0), (0.0, 1.0))]
    if here:
        tried += [vector(_turn(drawing, tuple(here), about)) for about in ((0.0, 0.0), _middle(drawing, here))]
    found = [v for v in tried if v is not None]
    found.sort(key=lambda v: int(np.count_nonzero(np.abs(v) > 1e-9)))
    yield from found


def _riders(drawing: Drawing) -> dict[str, list[tuple[str, tuple[float, float]]]]:
    """Return, for every point that is bound to lie on a curve, that curve and its direction there.

    Ends of parts of splines are such points, and so is, in a way, the centre of a circle that touches a curve.
    """
    found: dict[str, list[tuple[str, tuple[float, float]]]] = {}
    bound = [(k.of[0], k.of[1]) for k in drawing.constraints.values()
             if k.kind == "on_curve" and not k.reference and k.of[1] in drawing.curves]
    bound += [(p, c) for c, curve in drawing.curves.items() if isinstance(curve, Spline) for p in curve.cut_ends]
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
        if n > 1e-12:
            ux, uy = (bx - ax) / n, (by - ay) / n
            if min(abs(ux), abs(uy)) > 1e-9:
                ways += [(ux, uy), (-uy, ux)]
    return ways


def _stretched(drawing: Drawing, c: str, curve: EllipseArc) -> list[tuple[dict[str, tuple[float, float]], tuple[str, ...]]]:
    """An elliptical arc made longer along its axis, and wider across it, its ends carried along."""
    (cx, cy), (tx, ty) = drawing.place(curve.centre), drawing.place(curve.tip)
    half = math.dist((cx, cy), (tx, ty)) or 1.0
    u = ((tx - cx) / half, (ty - cy) / half)
    found: list[tuple[dict[str, tuple[float, float]], tuple[str, ...]]] = []
    ways: list[tuple[tuple[float, float], float, tuple[str, ...]]] = [(u, half, ()), ((-u[1], u[0]), curve.radius, (c,))]
    for (vx, vy), size, radii in ways:
        moves = {}
        for end in curve.ends:
            x, y = drawing.place(end)
            share = ((x - cx) * vx + (y - cy) * vy) / size
            moves[end] = (share * vx, share * vy)
        found.append(({**moves, **({} if radii else {curve.tip: u})}, radii))
    return found


def _turn(drawing: Drawing, points: tuple[str, ...], about: tuple[float, float]) -> dict[str, tuple[float, float]]:
    return {p: (-(y - about[1]), x - about[0]) for p in points for x, y in [drawing.place(p)]}


def _middle(drawing: Drawing, points: set[str]) -> tuple[float, float]:
    places = [drawing.place(p) for p in points]
    return sum(x for x, _ in places) / len(places), sum(y for _, y in places) / len(places)
