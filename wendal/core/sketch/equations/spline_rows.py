"""Residuals of what meets a spline between its ends, with analytic Jacobians, in the manner of `rows`.

Where on the spline it meets is no unknown: for a point or centre p it is the foot, where (p - S(t)).S'(t) =
0, and for a line of direction u the place where S'(t) runs along u. A distance taken there does not change to
first order when t does, so its derivative by the points of the spline is just their weights at t (the
envelope theorem). Of several such places the one counts that meets best. Beyond its ends a spline goes
straight on. S(t) = sum(w_i(t) p_i), variables p_1 … p_count first.
"""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Callable
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray
from scipy.interpolate import BSpline

from ..drawn import CLOSE, STRETCH, Drawing, Spline, basis_of
from .rows import TINY, Kernel, _signed, _unit

__all__ = [
    "at_line",
    "crossed_along",
    "crossed_square",
    "direction_at",
    "foot_at",
    "leaving_at",
    "off_spline",
    "side_of",
    "square_off",
    "turn_at",
    "turns_back",
    "weights_at",
]

Array = NDArray[np.float64]
GRID = 128
KEPT = 256  # feet
STEPS = 30


class _Weights:
    """The weights of a spline's points at a parameter, and their first two derivatives, going straight on
    beyond 0 and 1."""

    def __init__(self, knots: tuple[float, ...], count: int) -> None:
        t, c, degree = basis_of(knots, count)
        shape = BSpline(t, c, degree)
        shapes = shape, shape.derivative(), shape.derivative(2)
        self.grid, self.fine = np.linspace(0.0, 1.0, GRID + 1), np.linspace(0.0, 1.0, CLOSE + 1)
        self.on_grid, self.on_fine = (
            tuple(np.asarray(s(grid)) for s in shapes) for grid in (self.grid, self.fine)
        )
        # Piece by piece as polynomials, for one parameter at a time: many times as quick as the general way.
        self._begin = sorted({*t.tolist()} - {1.0})
        third = (
            np.asarray(shape.derivative(3)(self._begin))
            if degree == 3
            else np.zeros((len(self._begin), count))
        )
        self.feet: dict[
            tuple[bytes, bytes, float], float
        ] = {}  # the last ones found: a step asks for the same ones several times
        orders = (np.asarray(s(self._begin)) / n for s, n in zip(shapes[::-1], (2, 1, 1), strict=True))
        self._pieces = np.stack([third / 6, *orders], axis=1)

    def at(self, t: float) -> tuple[Array, Array, Array]:
        """Return w, w', w'' : (count,) each."""
        inside = min(max(t, 0.0), 1.0)
        i = max(bisect_right(self._begin, inside) - 1, 0)
        h = inside - self._begin[i]
        w, v, a = (
            np.array([(h * h * h, h * h, h, 1.0), (3 * h * h, 2 * h, 1.0, 0.0), (6 * h, 2.0, 0.0, 0.0)])
            @ self._pieces[i]
        )
        return (w, v, a) if t == inside else (w + (t - inside) * v, v, np.zeros_like(v))


@lru_cache(maxsize=64)
def _weights(knots: tuple[float, ...], count: int) -> _Weights:
    return _Weights(knots, count)


Slope = Callable[
    [Array, Array, Array], tuple[Array, Array]
]  # what is sought to be zero, and its derivative by the parameter


def _zeros(weights: _Weights, points: Array, slope: Slope, ends: list[float]) -> list[float]:
    """Return the parameters at which slope(S, S', S'') is zero; where there is none inside, that at which it
    is least.

    ends : those beyond the ends, worked out by the asker.
    """
    f, _ = slope(*(w @ points for w in weights.on_grid))
    found, least = list(ends), 1e-15 * max(float(np.abs(f).max()), TINY)
    for i in np.flatnonzero((f[:-1] == 0) | (f[:-1] * f[1:] < 0)):
        low, high, f_low = float(weights.grid[i]), float(weights.grid[i + 1]), float(f[i])
        t = low if f_low == 0 else low + (high - low) * f_low / (f_low - float(f[i + 1]))
        for _ in range(
            STEPS
        ):  # Newton's method kept between two bounds: sure, and quick enough on so short a piece
            value, rate = (float(v[0]) for v in slope(*(w[None, :] @ points for w in weights.at(t))))
            if abs(value) <= least or high - low < 1e-15:
                break
            if (value < 0) == (f_low < 0):
                low, f_low = t, value
            else:
                high = t
            step = t - value / rate if rate else t
            t = step if low < step < high else (low + high) / 2
        found.append(t)
    return found or [float(weights.grid[int(np.abs(f).argmin())])]


def _foot(weights: _Weights, points: Array, p: Array, radius: float) -> float:
    """Return the parameter of a foot of p on the spline, the one whose distance comes nearest to a radius."""
    key = (points.tobytes(), p.tobytes(), radius)
    if key not in weights.feet:
        if len(weights.feet) >= KEPT:
            weights.feet.clear()
        weights.feet[key] = _found_foot(weights, points, p, radius)
    return weights.feet[key]


def _found_foot(weights: _Weights, points: Array, p: Array, radius: float) -> float:
    def slope(S: Array, V: Array, A: Array) -> tuple[Array, Array]:
        d = p - S
        return np.einsum("ij,ij->i", d, V), np.einsum("ij,ij->i", d, A) - np.einsum("ij,ij->i", V, V)

    ends = []
    for t, outward in ((0.0, -1.0), (1.0, 1.0)):
        w, v, _ = weights.at(t)
        S, V = w @ points, v @ points
        along = float((p - S) @ V) / max(float(V @ V), TINY)
        if along * outward > 0:
            ends.append(t + along)
    places = _zeros(weights, points, slope, ends)
    return min(places, key=lambda t: abs(float(np.hypot(*(p - weights.at(t)[0] @ points))) - radius))


@lru_cache(maxsize=256)
def off_spline(knots: tuple[float, ...], count: int) -> Kernel:
    """Make the kernel: the signed distance of p from the spline, positive to its left, is P0 r + P1 s.

    Variables points, p, r, s.
    """
    weights = _weights(knots, count)

    def kernel(X: Array, P: Array) -> tuple[Array, Array]:
        k, r, J = 2 * count, np.zeros(len(X)), np.zeros_like(X)
        for i, x in enumerate(X):
            points, p = x[:k].reshape(-1, 2), x[k : k + 2]
            away = float(P[i, :2] @ x[k + 2 :])
            w, v, _ = weights.at(_foot(weights, points, p, abs(away)))
            _, ux, uy = _unit(*(v @ points)[:, None])
            n = np.array([-uy[0], ux[0]])
            r[i] = n @ (p - w @ points) - away
            J[i, :k], J[i, k : k + 2], J[i, k + 2 :] = np.outer(-w, n).ravel(), n, -P[i, :2]
        return r, J

    return kernel


@lru_cache(maxsize=256)
def at_line(knots: tuple[float, ...], count: int) -> Kernel:
    """Make the kernel: where the spline runs along line ab, what runs P0 r to its left is not off that line.

    Variables points, a, b, r.
    """
    weights = _weights(knots, count)

    def kernel(X: Array, P: Array) -> tuple[Array, Array]:
        k, r, J = 2 * count, np.zeros(len(X)), np.zeros_like(X)
        for i, x in enumerate(X):
            points, a, b = x[:k].reshape(-1, 2), x[None, k : k + 2], x[None, k + 2 : k + 4]
            _, ux, uy = _unit(b[:, 0] - a[:, 0], b[:, 1] - a[:, 1])
            n = np.array([-uy[0], ux[0]])
            u = np.array([ux[0], uy[0]])

            def beside(
                t: float, n: Array = n, u: Array = u, points: Array = points, a: Array = a, i: int = i
            ) -> tuple[float, float]:
                w, v, _ = weights.at(t)
                side = float(np.sign(u @ (v @ points))) * P[i, 0]
                return float(n @ (w @ points - a[0])) + side * X[i, -1], side

            places = _zeros(weights, points, lambda S, V, A, n=n: (V @ n, A @ n), [])  # type: ignore[misc]
            t = min(places, key=lambda t: abs(beside(t)[0]))
            w = weights.at(t)[0]
            off, _, by_a, by_b = _signed((w @ points)[None, :], a, b)
            side = beside(t)[1]
            r[i] = off[0] + side * x[-1]
            J[i, :k], J[i, k : k + 2], J[i, k + 2 : k + 4], J[i, -1] = (
                np.outer(w, n).ravel(),
                by_a[0],
                by_b[0],
                side,
            )
        return r, J

    return kernel


def _crossed(knots: tuple[float, ...], count: int, other: int, *, square: bool) -> Kernel:
    """At the foot of p the spline runs along (or square to) a direction sum(w_j q_j); the form for an end p
    that lies on it."""
    weights = _weights(knots, count)

    def kernel(X: Array, P: Array) -> tuple[Array, Array]:
        k, r, J = 2 * count, np.zeros(len(X)), np.zeros_like(X)
        for i, x in enumerate(X):
            points, p = x[:k].reshape(-1, 2), x[k : k + 2]
            beside = P[i, 3 : 3 + other]
            length, ux, uy = _unit(*(beside @ x[k + 2 :].reshape(-1, 2))[:, None])
            u, safe = np.array([ux[0], uy[0]]), max(float(length[0]), 1e-9 * P[i, 0])
            n = np.array([-u[1], u[0]])
            w, v, a = weights.at(_foot(weights, points, p, 0.0))
            S, V, A = w @ points, v @ points, a @ points
            across, turned = (
                (u, n) if square else (n, -u)
            )  # the direction that V has no share in, and its change as u turns
            f = float(V @ V) - float((p - S) @ A)
            f = f if abs(f) > TINY else 1.0
            scale = P[i, 0] / max(float(np.hypot(*P[i, 1:3])), TINY)
            r[i] = scale * float(across @ V)
            bend = float(across @ A) / f
            # The foot goes along with p and with the points.
            J[i, :k] = (np.outer(v, across) + bend * (np.outer(v, p - S) - np.outer(w, V))).ravel()
            J[i, k : k + 2] = bend * V
            J[i, k + 2 :] = np.outer(beside, float(turned @ V) / safe * n).ravel()
            J[i] *= scale
        return r, J

    return kernel


@lru_cache(maxsize=256)
def crossed_along(knots: tuple[float, ...], count: int, other: int = 2) -> Kernel:
    """Make the kernel: at the foot of p the spline runs along the direction sum(w_j q_j). Variables points,
    p, q_1 … q_other.

    Parameters: a length in mm, and S' there as drawn, which make the residual a length; then the weights w.
    """
    return _crossed(knots, count, other, square=False)


@lru_cache(maxsize=256)
def crossed_square(knots: tuple[float, ...], count: int) -> Kernel:
    """Make the kernel: at the foot of p the spline runs square to a direction of two points.

    Variables and parameters as above.
    """
    return _crossed(knots, count, 2, square=True)


@lru_cache(maxsize=256)
def square_off(knots: tuple[float, ...], count: int) -> Kernel:
    """Make the kernel: p stands square to the spline where the foot of q is, (p - q).S' / |S'| = 0.

    Variables points, q, p.
    """
    weights = _weights(knots, count)

    def kernel(X: Array, P: Array) -> tuple[Array, Array]:
        k, r, J = 2 * count, np.zeros(len(X)), np.zeros_like(X)
        for i, x in enumerate(X):
            points, q, e = x[:k].reshape(-1, 2), x[k : k + 2], x[k + 2 :] - x[k : k + 2]
            w, v, a = weights.at(_foot(weights, points, q, 0.0))
            S, V, A = w @ points, v @ points, a @ points
            length, ux, uy = _unit(*V[:, None])
            u, n = np.array([ux[0], uy[0]]), np.array([-uy[0], ux[0]])
            turn = float(e @ n) / max(float(length[0]), TINY) * n  # by S'
            f = float(V @ V) - float((q - S) @ A)
            bend = float(turn @ A) / (
                f if abs(f) > TINY else 1.0
            )  # the foot goes along with q and with the points
            r[i] = e @ u
            J[i, :k] = (np.outer(v, turn) + bend * (np.outer(v, q - S) - np.outer(w, V))).ravel()
            J[i, k : k + 2], J[i, k + 2 :] = bend * V - u, u
        return r, J

    return kernel


def turn_at(knots: tuple[float, ...], count: int, points: Array, p: Array) -> tuple[Array, Array, Array]:
    """Return the direction u : (2,) of the spline at the foot of p, and how it turns (rad per mm) by the
    points, (2 count,), and by p."""
    weights = _weights(knots, count)
    w, v, a = weights.at(_foot(weights, points, p, 0.0))
    S, V, A = w @ points, v @ points, a @ points
    length = max(float(np.hypot(*V)), TINY)
    n = np.array([-V[1], V[0]]) / length
    f = float(V @ V) - float((p - S) @ A)
    bend = float(n @ A) / (f if abs(f) > TINY else 1.0)  # the foot goes along with p and with the points
    return (
        V / length,
        (np.outer(v, n) + bend * (np.outer(v, p - S) - np.outer(w, V))).ravel() / length,
        bend * V / length,
    )


def direction_at(knots: tuple[float, ...], points: Array, p: Array) -> Array:
    """Return S' : (2,) at the foot of p on the spline through (or pulled by) points : (count, 2)."""
    weights = _weights(knots, len(points))
    return np.asarray(weights.at(_foot(weights, points, p, 0.0))[1] @ points)


def side_of(knots: tuple[float, ...], points: Array, p: Array) -> float:
    """Return 1 when p is to the left of the spline where its foot is, else -1."""
    weights = _weights(knots, len(points))
    w, v, _ = weights.at(_foot(weights, points, p, 0.0))
    (dx, dy), (x, y) = v @ points, p - w @ points
    return 1.0 if dx * y - dy * x >= 0 else -1.0


def turns_back(knots: tuple[float, ...], points: Array, away: float, ends: tuple[float, float]) -> bool:
    """Tell whether what runs `away` mm to the left of a spline turns back between two parameters, as
    SplinePath.turns_back does."""
    weights = _weights(knots, len(points))
    inside = (weights.fine >= min(ends)) & (weights.fine <= max(ends))
    V, A = (w[inside] @ points for w in weights.on_fine[1:])
    speed = np.maximum(np.hypot(V[:, 0], V[:, 1]), TINY)
    return bool((1.0 - away * (V[:, 0] * A[:, 1] - V[:, 1] * A[:, 0]) / speed**3 < STRETCH).any())


def foot_at(knots: tuple[float, ...], points: Array, p: Array) -> float:
    """Return the parameter at the foot of p."""
    return _foot(_weights(knots, len(points)), points, p, 0.0)


def leaving_at(knots: tuple[float, ...], points: Array, p: Array) -> Array:
    """Return the weights (count,) of the points in the direction in which the spline runs at the foot of
    p."""
    weights = _weights(knots, len(points))
    return weights.at(_foot(weights, points, p, 0.0))[1]


def weights_at(drawing: Drawing, spline: Spline, point: str) -> Array:
    """Return the weights (count,) of a spline's points where the foot of a point of the drawing is."""
    weights = _weights(tuple(spline.knots), len(spline.over))
    points = np.array([drawing.place(p) for p in spline.over])
    return weights.at(_foot(weights, points, np.array(drawing.place(point)), 0.0))[0]
