"""The residuals of all constraints, vectorised, with analytic Jacobians.

Every function takes X : (m, k) values of the k variables of m rows, and P : (m, q) parameters, and returns
r : (m,) residuals, all of them lengths in mm, and J : (m, k) their derivatives. Points come as x, y pairs.
Formulations: signed distances rather than squares, angles by atan2 times a length, end-point forms of
tangency (the centre-distance form loses rank at the solution).
"""

from __future__ import annotations

from collections.abc import Callable
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

__all__ = [
    "Kernel",
    "angle",
    "arc_arc_end",
    "arc_length",
    "distance",
    "equal_length",
    "leaving_along",
    "leaving_square",
    "line_arc_end",
    "line_oval_end",
    "mean",
    "mid_on_line",
    "point_circle",
    "point_ellipse",
    "point_line",
    "same",
    "shifted_across",
    "shifted_along",
    "square_to_line",
    "sum_of",
    "tangent_circles",
    "tangent_ellipse",
    "tangent_line",
    "turned_x",
    "turned_y",
]

Array = NDArray[np.float64]
Kernel = Callable[[Array, Array], tuple[Array, Array]]
TINY = 1e-150


def _unit(dx: Array, dy: Array) -> tuple[Array, Array, Array]:
    """Return length and direction; a zero vector points along x so that nothing divides by zero."""
    length = np.hypot(dx, dy)
    safe = np.where(length > TINY, length, 1.0)
    return length, np.where(length > TINY, dx / safe, 1.0), np.where(length > TINY, dy / safe, 0.0)


def _signed(p: Array, a: Array, b: Array) -> tuple[Array, Array, Array, Array]:
    """Signed distance of p (m, 2) from line ab, positive to its left, with derivatives by p, a and b."""
    length, ux, uy = _unit(b[:, 0] - a[:, 0], b[:, 1] - a[:, 1])
    safe = np.where(length > TINY, length, 1.0)
    wx, wy = p[:, 0] - a[:, 0], p[:, 1] - a[:, 1]
    off = ux * wy - uy * wx
    along = (ux * wx + uy * wy) / safe
    normal = np.stack([-uy, ux], axis=1)
    return off, normal, normal * (along - 1)[:, None], normal * (-along)[:, None]


def same(X: Array, P: Array) -> tuple[Array, Array]:
    """x0 - x1 = P0."""
    return X[:, 0] - X[:, 1] - P[:, 0], np.tile([1.0, -1.0], (len(X), 1))


def mean(X: Array, P: Array) -> tuple[Array, Array]:
    """x0 is the mean of x1 and x2."""
    return X[:, 0] - (X[:, 1] + X[:, 2]) / 2, np.tile([1.0, -0.5, -0.5], (len(X), 1))


def distance(X: Array, P: Array) -> tuple[Array, Array]:
    """|q - p| = P0."""
    length, ux, uy = _unit(X[:, 2] - X[:, 0], X[:, 3] - X[:, 1])
    return length - P[:, 0], np.stack([-ux, -uy, ux, uy], axis=1)


def equal_length(X: Array, P: Array) -> tuple[Array, Array]:
    """|ab| = |cd|."""
    first, j1 = distance(X[:, :4], np.zeros((len(X), 1)))
    second, j2 = distance(X[:, 4:], np.zeros((len(X), 1)))
    return first - second, np.hstack([j1, -j2])


def point_line(X: Array, P: Array) -> tuple[Array, Array]:
    """Signed distance of p from line ab = P0."""
    off, jp, ja, jb = _signed(X[:, 0:2], X[:, 2:4], X[:, 4:6])
    return off - P[:, 0], np.hstack([jp, ja, jb])


def point_circle(X: Array, P: Array) -> tuple[Array, Array]:
    """|p - c| = r + P0, with variables p, c, r."""
    length, ux, uy = _unit(X[:, 0] - X[:, 2], X[:, 1] - X[:, 3])
    return length - X[:, 4] - P[:, 0], np.stack([ux, uy, -ux, -uy, -np.ones(len(X))], axis=1)


def point_ellipse(X: Array, P: Array) -> tuple[Array, Array]:
    """p lies on the ellipse about c with half-axes w = t - c and b across it, times the length P0; variables
    p, c, t, b.

    (d.w / w.w)² + (w x d / (|w| b))² = 1 for d = p - c, as a root so that the residual grows like a distance.
    """
    d, w, b = X[:, 0:2] - X[:, 2:4], X[:, 4:6] - X[:, 2:4], np.where(np.abs(X[:, 6]) > TINY, X[:, 6], 1.0)
    q = np.maximum((w**2).sum(axis=1), TINY)
    root = np.sqrt(q)
    along, across = (d * w).sum(axis=1), w[:, 0] * d[:, 1] - w[:, 1] * d[:, 0]
    f, g = along / q, across / (root * b)
    rho = np.hypot(f, g)
    safe = np.where(rho > TINY, rho, 1.0)
    f_d, f_w = w / q[:, None], d / q[:, None] - 2 * (along / q**2)[:, None] * w
    g_d = np.stack([-w[:, 1], w[:, 0]], axis=1) / (root * b)[:, None]
    g_w = np.stack([d[:, 1], -d[:, 0]], axis=1) / (root * b)[:, None] - (across / (q * root * b))[:, None] * w
    by_d, by_w = (
        (f[:, None] * one + g[:, None] * other) / safe[:, None] for one, other in ((f_d, g_d), (f_w, g_w))
    )
    by_b = -(g * g / b) / safe
    return (rho - 1) * P[:, 0], np.hstack([by_d, -by_d - by_w, by_w, by_b[:, None]]) * P[:, 0:1]


def tangent_ellipse(X: Array, P: Array) -> tuple[Array, Array]:
    """Line ab touches the ellipse (c, t, half-axis r across) on the side P0, or what runs P1 s inside of it;
    variables c, t, r, a, b, s.

    The distance of the centre from the line is P0 (sqrt((n.w)² + r² (n x w / |w|)²) - P1 s), n the line's
    normal and w = t - c.
    """
    off, jc, ja, jb = _signed(X[:, 0:2], X[:, 5:7], X[:, 7:9])
    length, ux, uy = _unit(X[:, 7] - X[:, 5], X[:, 8] - X[:, 6])
    safe = np.where(length > TINY, length, 1.0)
    w, r = X[:, 2:4] - X[:, 0:2], X[:, 4]
    q = np.maximum((w**2).sum(axis=1), TINY)
    n, u = np.stack([-uy, ux], axis=1), np.stack([ux, uy], axis=1)
    nw, uw = (n * w).sum(axis=1), (u * w).sum(axis=1)
    h = np.sqrt(np.maximum(nw**2 + r**2 * uw**2 / q, TINY))
    h_w = (nw[:, None] * n + (r**2 / q)[:, None] * (uw[:, None] * u - (uw**2 / q)[:, None] * w)) / h[:, None]
    h_r = r * uw**2 / q / h
    h_turn = (-nw * uw + r**2 * uw * nw / q) / h  # by the angle of the line
    turn = n * (h_turn / safe)[:, None]
    s = P[:, 0:1]
    inside = P[:, 1:2]
    J = np.hstack([jc + s * h_w, -s * h_w, -s * h_r[:, None], ja + s * turn, jb - s * turn, s * inside])
    return off - P[:, 0] * (h - P[:, 1] * X[:, 9]), J


def line_oval_end(X: Array, P: Array) -> tuple[Array, Array]:
    """At their shared end p, line ab runs square to the normal of the ellipse (c, t, half-axis r across);
    variables p, c, t, r, a, b.

    The normal is (d.w) w / (w.w)² + (w x d) Jw / (w.w r²) for d = p - c, w = t - c and Jw to the left of w;
    P0 (mm²) makes it a length.
    """
    d, w, r = X[:, 0:2] - X[:, 2:4], X[:, 4:6] - X[:, 2:4], np.where(np.abs(X[:, 6]) > TINY, X[:, 6], 1.0)
    length, ux, uy = _unit(X[:, 9] - X[:, 7], X[:, 10] - X[:, 8])
    safe = np.where(length > TINY, length, 1.0)
    u, n = np.stack([ux, uy], axis=1), np.stack([-uy, ux], axis=1)
    q = np.maximum((w**2).sum(axis=1), TINY)
    dw, uw, nw = ((v * w).sum(axis=1) for v in (d, u, n))
    wd, wu, wn = (w[:, 0] * v[:, 1] - w[:, 1] * v[:, 0] for v in (d, u, n))
    along, across = 1 / q**2, 1 / (q * r**2)
    left = np.stack([-w[:, 1], w[:, 0]], axis=1)
    by_d = (uw * along)[:, None] * w + (wu * across)[:, None] * left
    by_w = (
        (uw * along)[:, None] * d
        + (dw * along)[:, None] * u
        - (4 * dw * uw * along / q)[:, None] * w
        + (wu * across)[:, None] * np.stack([d[:, 1], -d[:, 0]], axis=1)
        + (wd * across)[:, None] * np.stack([uy, -ux], axis=1)
        - (2 * wd * wu * across / q)[:, None] * w
    )
    by_r = -2 * wd * wu * across / r
    turn = ((dw * nw * along + wd * wn * across) / safe)[:, None] * n
    s = P[:, 0:1]
    return (dw * uw * along + wd * wu * across) * P[:, 0], np.hstack(
        [by_d, -by_d - by_w, by_w, by_r[:, None], -turn, turn]
    ) * s


@lru_cache(maxsize=256)
def leaving_along(count: int, other: int) -> Kernel:
    """Make the kernel: direction D = sum(v_i p_i) runs along direction E = sum(w_j q_j). Variables p_1 …
    p_count, q_1 … q_other.

    Parameters: a factor that makes the residual a length, then the weights v and w.
    """

    def kernel(X: Array, P: Array) -> tuple[Array, Array]:
        k, v, w = 2 * count, P[:, 1 : 1 + count], P[:, 1 + count :]
        dx, dy = (X[:, 0:k:2] * v).sum(axis=1), (X[:, 1:k:2] * v).sum(axis=1)
        length, ux, uy = _unit((X[:, k::2] * w).sum(axis=1), (X[:, k + 1 :: 2] * w).sum(axis=1))
        along = ((ux * dx + uy * dy) / np.where(length > TINY, length, 1.0))[:, None]
        J = np.zeros_like(X)
        J[:, 0:k:2], J[:, 1:k:2] = -uy[:, None] * v, ux[:, None] * v
        J[:, k::2], J[:, k + 1 :: 2] = uy[:, None] * along * w, -ux[:, None] * along * w
        return (ux * dy - uy * dx) * P[:, 0], J * P[:, 0:1]

    return kernel


@lru_cache(maxsize=256)
def leaving_square(count: int) -> Kernel:
    """Make the kernel: the direction sum(weight_i p_i) stands square to q - c.

    Variables p_1 … p_count, q, c; parameters as above.
    """

    def kernel(X: Array, P: Array) -> tuple[Array, Array]:
        k, weights, scale = 2 * count, P[:, 1:], P[:, 0:1]
        dx, dy = (X[:, 0:k:2] * weights).sum(axis=1), (X[:, 1:k:2] * weights).sum(axis=1)
        length, ux, uy = _unit(X[:, k] - X[:, k + 2], X[:, k + 1] - X[:, k + 3])
        across = (-uy * dx + ux * dy) / np.where(length > TINY, length, 1.0)
        J = np.zeros_like(X)
        J[:, 0:k:2], J[:, 1:k:2] = ux[:, None] * weights, uy[:, None] * weights
        by_q = np.stack([-uy * across, ux * across], axis=1)
        J[:, k : k + 2], J[:, k + 2 : k + 4] = by_q, -by_q
        return (ux * dx + uy * dy) * scale[:, 0], J * scale

    return kernel


def angle(X: Array, P: Array) -> tuple[Array, Array]:
    """The turn from direction ab to direction cd = P0 (rad), times the length P1 to make it one."""
    d1x, d1y, d2x, d2y = X[:, 2] - X[:, 0], X[:, 3] - X[:, 1], X[:, 6] - X[:, 4], X[:, 7] - X[:, 5]
    turn = np.arctan2(d1x * d2y - d1y * d2x, d1x * d2x + d1y * d2y) - P[:, 0]
    turn = (turn + np.pi) % (2 * np.pi) - np.pi
    q1, q2 = np.maximum(d1x**2 + d1y**2, TINY), np.maximum(d2x**2 + d2y**2, TINY)
    j1 = np.stack([d1y / q1, -d1x / q1], axis=1)  # d(angle of cd - angle of ab) by the end b of ab
    j2 = np.stack([-d2y / q2, d2x / q2], axis=1)
    return turn * P[:, 1], np.hstack([-j1, j1, -j2, j2]) * P[:, 1:2]


def tangent_line(X: Array, P: Array) -> tuple[Array, Array]:
    """Signed distance of centre c from line ab = P0 * r + P1, with variables c, a, b, r."""
    off, jp, ja, jb = _signed(X[:, 0:2], X[:, 2:4], X[:, 4:6])
    return off - P[:, 0] * X[:, 6] - P[:, 1], np.hstack([jp, ja, jb, -P[:, 0:1]])


def tangent_circles(X: Array, P: Array) -> tuple[Array, Array]:
    """|c1 c2| = P0 r1 + P1 r2 + P2, with variables c1, r1, c2, r2."""
    length, ux, uy = _unit(X[:, 3] - X[:, 0], X[:, 4] - X[:, 1])
    return (
        length - P[:, 0] * X[:, 2] - P[:, 1] * X[:, 5] - P[:, 2],
        np.stack([-ux, -uy, -P[:, 0], ux, uy, -P[:, 1]], axis=1),
    )


def line_arc_end(X: Array, P: Array) -> tuple[Array, Array]:
    """At their shared end p, the line ab stands square to the radius: (p - c).u = 0, variables p, c, a, b."""
    length, ux, uy = _unit(X[:, 6] - X[:, 4], X[:, 7] - X[:, 5])
    safe = np.where(length > TINY, length, 1.0)
    wx, wy = X[:, 0] - X[:, 2], X[:, 1] - X[:, 3]
    across = (-uy * wx + ux * wy) / safe
    u, turn = np.stack([ux, uy], axis=1), np.stack([-uy * across, ux * across], axis=1)
    return ux * wx + uy * wy, np.hstack([u, -u, -turn, turn])


def arc_arc_end(X: Array, P: Array) -> tuple[Array, Array]:
    """At their shared end p both radii lie in one line: cross(p - c1, p - c2) / P0 = 0, variables p, c1,
    c2."""
    ax, ay, bx, by = X[:, 0] - X[:, 2], X[:, 1] - X[:, 3], X[:, 0] - X[:, 4], X[:, 1] - X[:, 5]
    scale = 1 / P[:, 0:1]
    by_a, by_b = np.stack([by, -bx], axis=1), np.stack([-ay, ax], axis=1)
    return (ax * by - ay * bx) * scale[:, 0], np.hstack([by_a + by_b, -by_a, -by_b]) * scale


def square_to_line(X: Array, P: Array) -> tuple[Array, Array]:
    """(q - p).u = 0 for the direction u of line ab, variables p, q, a, b."""
    r, j = line_arc_end(np.hstack([X[:, 2:4], X[:, 0:2], X[:, 4:8]]), P)
    return r, np.hstack([j[:, 2:4], j[:, 0:2], j[:, 4:8]])


def mid_on_line(X: Array, P: Array) -> tuple[Array, Array]:
    """The middle of p and q lies on line ab, variables p, q, a, b."""
    off, jp, ja, jb = _signed((X[:, 0:2] + X[:, 2:4]) / 2, X[:, 4:6], X[:, 6:8])
    return off, np.hstack([jp / 2, jp / 2, ja, jb])


def sum_of(X: Array, P: Array) -> tuple[Array, Array]:
    """P0 x0 + P1 x1 = P2."""
    return P[:, 0] * X[:, 0] + P[:, 1] * X[:, 1] - P[:, 2], P[:, 0:2].copy()


def arc_length(X: Array, P: Array) -> tuple[Array, Array]:
    """The way along an arc, counter-clockwise from s to e about c, = P0; variables c, s, e, r.

    P1 : the sweep as drawn, rad.
    """
    sx, sy, ex, ey = X[:, 2] - X[:, 0], X[:, 3] - X[:, 1], X[:, 4] - X[:, 0], X[:, 5] - X[:, 1]
    turn = np.arctan2(sx * ey - sy * ex, sx * ex + sy * ey)
    turn = turn + 2 * np.pi * np.round((P[:, 1] - turn) / (2 * np.pi))  # the turn nearest to the drawn one
    qs, qe, r = np.maximum(sx**2 + sy**2, TINY), np.maximum(ex**2 + ey**2, TINY), X[:, 6]
    js, je = (
        np.stack([sy / qs, -sx / qs], axis=1) * r[:, None],
        np.stack([-ey / qe, ex / qe], axis=1) * r[:, None],
    )
    return turn * r - P[:, 0], np.hstack([-js - je, js, je, turn[:, None]])


def shifted_along(X: Array, P: Array) -> tuple[Array, Array]:
    """(q - p).u = P0 for the direction u of line ab, variables p, q, a, b."""
    r, j = square_to_line(X, P)
    return r - P[:, 0], j


def shifted_across(X: Array, P: Array) -> tuple[Array, Array]:
    """p and q are equally far from line ab, variables p, q, a, b."""
    first, jp, ja, jb = _signed(X[:, 0:2], X[:, 4:6], X[:, 6:8])
    second, jq, ka, kb = _signed(X[:, 2:4], X[:, 4:6], X[:, 6:8])
    return second - first, np.hstack([-jp, jq, ka - ja, kb - jb])


def turned_x(X: Array, P: Array) -> tuple[Array, Array]:
    """The x of q is that of p turned about o; variables p, q, o. P0, P1 : cosine and sine of the turn."""
    c, s = P[:, 0], P[:, 1]
    r = X[:, 2] - X[:, 4] - c * (X[:, 0] - X[:, 4]) + s * (X[:, 1] - X[:, 5])
    one, zero = np.ones(len(X)), np.zeros(len(X))
    return r, np.stack([-c, s, one, zero, c - 1, -s], axis=1)


def turned_y(X: Array, P: Array) -> tuple[Array, Array]:
    """The y of q is that of p turned about o; variables p, q, o. P0, P1 : cosine and sine of the turn."""
    c, s = P[:, 0], P[:, 1]
    r = X[:, 3] - X[:, 5] - s * (X[:, 0] - X[:, 4]) - c * (X[:, 1] - X[:, 5])
    one, zero = np.ones(len(X)), np.zeros(len(X))
    return r, np.stack([-s, -c, zero, one, s, c - 1], axis=1)
