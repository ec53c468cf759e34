"""The residual of two free curves that run on into each other, with analytic Jacobian, in the manner of
`rows`.

Each runs at their shared end p in its own direction u = S'/|S'| at the foot of p. The angle between the two
counts: with n to the left of u, it changes by n.dS' / |S'| of each, whatever shapes it.
"""

from __future__ import annotations

from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from .oval_rows import at_foot
from .rows import TINY, Kernel
from .spline_rows import turn_at

__all__ = ["OVAL", "Shape", "smooth_joint"]

Array = NDArray[np.float64]
Shape = tuple[tuple[float, ...], int]  # a spline's knots and number of points
OVAL: Shape = ((), 0)  # an ellipse: middle, tip and the other half-axis


@lru_cache(maxsize=256)
def smooth_joint(one: Shape, other: Shape) -> Kernel:
    """Make the kernel: P0 (mm) times the sine of the angle at p.

    Variables those of the one curve, those of the other, p.
    """
    k, m = (2 * count or 5 for _, count in (one, other))

    def kernel(X: Array, P: Array) -> tuple[Array, Array]:
        r, J = np.zeros(len(X)), np.zeros_like(X)
        for i, x in enumerate(X):
            p = x[k + m :]
            (u, by_one, one_p), (v, by_other, other_p) = _turn(one, x[:k], p), _turn(other, x[k : k + m], p)
            r[i] = P[i, 0] * (u[0] * v[1] - u[1] * v[0])
            along = P[i, 0] * float(u @ v)
            J[i] = along * np.concatenate([-by_one, by_other, other_p - one_p])
        return r, J

    return kernel


def _turn(shape: Shape, own: Array, p: Array) -> tuple[Array, Array, Array]:
    """Return the direction at the foot of p, and how it turns (rad) by the curve's own variables and by p."""
    if shape != OVAL:
        return turn_at(*shape, own.reshape(-1, 2), p)
    x = np.concatenate([p, own])[None]
    V = at_foot(x, np.ones((1, 2)))[2][0]
    length = max(float(np.hypot(*V)), TINY)
    u = V / length
    _, J, _ = at_foot(x, np.array([[-u[1], u[0]]]))
    return u, J[0, 2:] / length, J[0, :2] / length
