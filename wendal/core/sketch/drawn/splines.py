"""Splines over points: their shape as a B-spline, and how it hangs on the points.

Through its points: the natural cubic spline with the parameters that were chosen when it was drawn. Pulled by
them: a clamped B-spline, uniform where it was drawn, cubic from four points on. Both are linear in the
points.

Source: C. de Boor, A Practical Guide to Splines (1978), chapters IV and IX.
"""

from __future__ import annotations

from collections.abc import Sequence
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray
from scipy.interpolate import BSpline, make_interp_spline

from .model import Drawing, Place, Spline

__all__ = ["basis_of", "chord_knots", "end_weights", "shape_of", "traced_spline"]

Array = NDArray[np.float64]
TRACED = 40  # control points of a spline that follows a curve of the model


def chord_knots(places: Sequence[Place]) -> list[float]:
    """Return a parameter for every place, from 0 to 1, in the ratio of the chords between them (never
    nothing)."""
    steps = np.hypot(*np.diff(np.array(places, dtype=float), axis=0).T)
    steps = np.maximum(steps, 1e-3 * float(steps.max(initial=0.0)) or 1.0)
    along = np.concatenate([[0.0], np.cumsum(steps)]) / steps.sum()
    along[-1] = 1.0
    return [round(float(t), 12) for t in along]


@lru_cache(maxsize=512)
def basis_of(knots: tuple[float, ...], count: int) -> tuple[Array, Array, int]:
    """Return the B-spline's knots, its control points as a matrix (k, count) on the points, and its
    degree."""
    degree = min(3, count - 1)
    if len(knots) != count:  # pulled: through its points it has one a point
        inner = (np.array(knots) if knots else np.linspace(0.0, 1.0, count - degree + 1))[1:-1]
        return np.concatenate([np.zeros(degree + 1), inner, np.ones(degree + 1)]), np.eye(count), degree
    made = make_interp_spline(np.array(knots), np.eye(count), k=3, bc_type="natural")
    return made.t, made.c, 3


def shape_of(drawing: Drawing, spline: Spline) -> BSpline:
    """Return a spline's shape: a B-spline over 0 to 1 with values (x, y) in mm."""
    knots, matrix, degree = basis_of(tuple(spline.knots), len(spline.over))
    return BSpline(knots, matrix @ np.array([drawing.place(p) for p in spline.over]), degree)


def _traced_at() -> Array:
    """Return the Greville abscissae (TRACED,) of the clamped uniform spline of so many points: where to take
    places off a curve."""
    knots, _, degree = basis_of((), TRACED)
    return np.array([knots[i + 1 : i + 1 + degree].mean() for i in range(TRACED)])


def traced_spline(places: Sequence[Place]) -> list[Place]:
    """Return the TRACED control points of the clamped uniform spline through a curve, given by places at
    equal ways along it.

    The spline agrees with the curve at as many places as it has points; between them it is off by the fourth
    power of their distance.
    """
    at = _traced_at()
    along = make_interp_spline(np.linspace(0.0, 1.0, len(places)), np.array(places, dtype=float), k=3)(at)
    knots, _, degree = basis_of((), TRACED)
    controls = np.linalg.solve(BSpline.design_matrix(at, knots, degree).toarray(), along)
    return [(float(x), float(y)) for x, y in controls]


def end_weights(spline: Spline, *, first: bool) -> Array:
    """Return the weight (count,) of every point in the direction in which the spline leaves its first or its
    last end, inwards."""
    knots, matrix, degree = basis_of(tuple(spline.knots), len(spline.over))
    slope = BSpline(knots, matrix, degree).derivative()
    return np.asarray(slope(0.0) if first else -slope(1.0))
