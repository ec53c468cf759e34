"""Residuals of what touches an ellipse, or runs beside one, with analytic Jacobians, in the manner of `rows`.

Where a circle touches is no unknown: it is a foot of its centre, and a distance taken there does not change
to first order when the foot does (the envelope theorem). The ellipse is given by its middle c, the tip t of
one half-axis and the other half-axis b: E(s) = c + cos s w + sin s b Jw / |w| for w = t - c and Jw to the
left of w.
"""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray
from scipy.optimize import brentq

from .rows import TINY, line_oval_end

__all__ = ["arc_oval_end", "at_foot", "beside_along", "beside_square", "off_ellipse"]

Array = NDArray[np.float64]
GRID = np.linspace(0.0, 2 * math.pi, 129)


def arc_oval_end(X: Array, P: Array) -> tuple[Array, Array]:
    """At their shared end p, an arc about m goes on along the ellipse (c, t, half-axis b across); variables
    p, c, t, b, m.

    The way square to p - m runs square to the ellipse's normal; P0 (mm²) makes it a length.
    """
    across = np.stack([X[:, 8] - X[:, 1], X[:, 0] - X[:, 7]], axis=1)  # J (p - m)
    r, J = line_oval_end(np.hstack([X[:, :7], np.zeros_like(across), across]), P)
    by_p = np.stack([J[:, 10], -J[:, 9]], axis=1)
    return r, np.hstack([J[:, :2] + by_p, J[:, 2:7], -by_p])


def off_ellipse(X: Array, P: Array) -> tuple[Array, Array]:
    """The distance of p from the ellipse, positive inside, is P0 r + P1 s; of several feet the one counts
    that meets best.

    Variables p, c, t, b, r, s.
    """
    r, J = np.zeros(len(X)), np.zeros_like(X)
    for i, x in enumerate(X):
        p, c, w, b = x[0:2], x[2:4], x[4:6] - x[2:4], x[6]
        length = max(float(np.hypot(*w)), TINY)
        v = np.array([-w[1], w[0]]) / length
        away = float(P[i, :2] @ x[7:])
        s = foot_on(w, b * v, p - c, abs(away))
        cos, sin = math.cos(s), math.sin(s)
        along = -sin * w + cos * b * v
        n = np.array([-along[1], along[0]]) / max(float(np.hypot(*along)), TINY)
        r[i] = n @ (p - c - cos * w - sin * b * v) - away
        # v turns with w and does not see its length: n.dv = -(n.u) v.dw / |w|.
        u = w / length
        by_w = -cos * n + sin * b / length * float(n @ u) * v
        J[i] = np.concatenate([n, -n - by_w, by_w, [-sin * float(n @ v)], -P[i, :2]])
    return r, J


def beside_along(X: Array, P: Array) -> tuple[Array, Array]:
    """At an end p of what runs beside the ellipse, that goes on along line ab; variables p, c, t, b, a, b.

    It runs there as the ellipse does at the foot of p. P0 makes the residual a length.
    """
    u = X[:, 9:11] - X[:, 7:9]
    length = np.maximum(np.hypot(u[:, 0], u[:, 1]), TINY)[:, None]
    u = u / length
    across = np.stack([-u[:, 1], u[:, 0]], axis=1)
    r, J, V = at_foot(X[:, :7], across)
    turn = -(V * u).sum(axis=1)[:, None] / length * across  # as the line turns
    return r * P[:, 0], np.hstack([J, -turn, turn]) * P[:, :1]


def beside_square(X: Array, P: Array) -> tuple[Array, Array]:
    """At an end p of what runs beside the ellipse, that goes on along an arc about m; variables p, c, t, b,
    m; P0 as above."""
    u = X[:, 0:2] - X[:, 7:9]
    length = np.maximum(np.hypot(u[:, 0], u[:, 1]), TINY)[:, None]
    u = u / length
    r, J, V = at_foot(X[:, :7], u)
    n = np.stack([-u[:, 1], u[:, 0]], axis=1)
    turn = (V * n).sum(axis=1)[:, None] / length * n
    J[:, :2] += turn
    return r * P[:, 0], np.hstack([J, -turn]) * P[:, :1]


def at_foot(X: Array, across: Array) -> tuple[Array, Array, Array]:
    """Return across .

    E' at the foot of p, its derivatives by p, c, t, b : (m, 7) with `across` held, and E' : (m, 2).
    """
    r, J, slopes = np.zeros(len(X)), np.zeros((len(X), 7)), np.zeros((len(X), 2))
    for i, x in enumerate(X):
        p, c, w, b = x[0:2], x[2:4], x[4:6] - x[2:4], x[6]
        length = max(float(np.hypot(*w)), TINY)
        u = w / length
        v = np.array([-u[1], u[0]])
        s = foot_on(w, b * v, p - c, 0.0)
        cos, sin = math.cos(s), math.sin(s)
        off = p - c - cos * w - sin * b * v
        V, A = -sin * w + cos * b * v, -cos * w - sin * b * v
        f = float(off @ A - V @ V)
        bend = -float(across[i] @ A) / (f if abs(f) > TINY else 1.0)
        # v turns with w: dv = -u (v.dw) / |w|. The foot goes along with p and with the ellipse.
        turned = b / length * np.outer(u, v)
        E_w, V_w = cos * np.eye(2) - sin * turned, -sin * np.eye(2) - cos * turned
        by_w = across[i] @ V_w + bend * (off @ V_w - V @ E_w)
        by_b = cos * float(across[i] @ v) + bend * float(cos * off @ v - sin * V @ v)
        r[i], slopes[i] = across[i] @ V, V
        J[i] = np.concatenate([bend * V, -bend * V - by_w, by_w, [by_b]])
    return r, J, slopes


def foot_on(w: Array, across: Array, d: Array, radius: float) -> float:
    """Return the parameter of a foot of a place d from the middle, the one whose distance comes nearest to a
    radius (mm)."""

    def slope(s: Array | float) -> Array:
        cos, sin = np.cos(s)[..., None], np.sin(s)[..., None]
        return np.asarray(((d - cos * w - sin * across) * (cos * across - sin * w)).sum(axis=-1))

    def away(s: float) -> float:
        return abs(float(np.hypot(*(d - math.cos(s) * w - math.sin(s) * across))) - radius)

    f = slope(GRID)
    found = [
        float(GRID[i]) if f[i] == 0 else float(brentq(slope, GRID[i], GRID[i + 1], xtol=1e-15))
        for i in np.flatnonzero((f[:-1] == 0) | (f[:-1] * f[1:] < 0))
    ]
    return min(found, key=away) if found else float(GRID[int(np.abs(f).argmin())])
