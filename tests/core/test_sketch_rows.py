"""Every residual's Jacobian against finite differences, over random configurations."""

from __future__ import annotations

import inspect

import numpy as np
import pytest

from wendal.core.sketch.equations import joint_rows, oval_rows, rows, spline_rows

# kernel -> (number of variables, parameters)
SHAPES = {"same": (2, (0.4,)), "mean": (3, (0.0,)), "distance": (4, (1.3,)), "equal_length": (8, (0.0,)), "point_line": (6, (0.7,)),
          "point_circle": (5, (0.3,)), "angle": (8, (0.9, 2.5)), "tangent_line": (7, (-1.0, 0.2)), "tangent_circles": (6, (1.0, -1.0, 0.1)),
          "line_arc_end": (8, (0.0,)), "arc_arc_end": (6, (1.7,)), "square_to_line": (8, (0.0,)), "mid_on_line": (8, (0.0,)),
          "sum_of": (2, (1.0, -1.0, 0.4)), "arc_length": (7, (2.0, 0.8)), "shifted_along": (8, (1.1,)), "shifted_across": (8, (0.0,)),
          "turned_x": (6, (0.8, 0.6)), "turned_y": (6, (0.8, 0.6)), "point_ellipse": (7, (3.0,)), "tangent_ellipse": (10, (-1.0, 1.0)), "line_oval_end": (11, (4.0,))}
OVALS = {"arc_oval_end": (9, (4.0,)), "off_ellipse": (9, (-1.0, 1.0)), "beside_along": (11, (0.7,)), "beside_square": (9, (0.7,))}
# makers of kernels for so many points -> what they are made for, variables, parameters
MADE = {"leaving_along": ((3, 2), 10, (2.0, -1.0, 0.3, 0.7, -1.0, 1.0)), "leaving_square": ((3,), 10, (2.0, -1.0, 0.3, 0.7))}
# the same for splines through points or pulled by them, -> variables besides theirs, parameters, where these are added to
SPLINES = {"off_spline": (4, (-1.0, 0.8), {0: 10}), "at_line": (5, (-1.0,), {2: 20}), "crossed_along": (6, (2.0, 1.0, 0.3, -0.7, 1.2), {0: 12, 4: 9}),
           "square_off": (4, (0.0,), {0: 12, 2: 10, 3: 2}), "crossed_square": (6, (2.0, 1.0, 0.3, -1.0, 1.0), {0: 12, 4: 9})}
KNOTS = {"through": (0.0, 0.3, 0.6, 1.0), "pulled": ()}


def test_every_kernel_is_checked_here() -> None:
    public = {n for n in rows.__all__ if inspect.isfunction(getattr(rows, n))}
    made = {n for n in rows.__all__ if hasattr(getattr(rows, n), "cache_info")}
    assert (public, made) == (SHAPES.keys(), MADE.keys())
    assert {n for n in oval_rows.__all__ if inspect.signature(getattr(oval_rows, n)).parameters.keys() == {"X", "P"}} == OVALS.keys()


def kernel_of(name: str) -> tuple[rows.Kernel, int, tuple[float, ...]]:
    if name in MADE:
        of, variables, parameters = MADE[name]
        return getattr(rows, name)(*of), variables, parameters
    return (getattr(oval_rows, name), *OVALS[name]) if name in OVALS else (getattr(rows, name), *SHAPES[name])


@pytest.mark.parametrize("name", [*SHAPES, *OVALS, *MADE])
def test_jacobian_is_the_derivative(name: str) -> None:
    kernel, k, parameters = kernel_of(name)
    X = np.random.default_rng(7).normal(size=(60, k)) * 5
    P = np.tile(parameters, (60, 1))
    r, J = kernel(X, P)
    assert r.shape == (60,)
    assert J.shape == (60, k)
    h = 1e-6
    for i in range(k):
        step = np.zeros(k)
        step[i] = h
        slope = (kernel(X + step, P)[0] - kernel(X - step, P)[0]) / (2 * h)
        near_jump = np.abs(slope) > 1e3  # an angle that wraps round between the two
        assert np.allclose(J[~near_jump, i], slope[~near_jump], rtol=1e-5, atol=1e-5)


@pytest.mark.parametrize("knots", KNOTS.values(), ids=KNOTS)
@pytest.mark.parametrize("name", SPLINES)
def test_spline_jacobian_is_the_derivative(name: str, knots: tuple[float, ...]) -> None:
    more, parameters, moved = SPLINES[name]
    kernel, k = getattr(spline_rows, name)(knots, 4), 8 + more
    X = np.random.default_rng(3).normal(size=(15, k)) * 0.7
    X[:, 0:8:2] += [5, 10, 15, 20]
    for i, by in moved.items():
        X[:, 8 + i] += by
    P = np.tile(parameters, (15, 1))
    h = 1e-6
    slopes = np.stack([(kernel(X + h * e, P)[0] - kernel(X - h * e, P)[0]) / (2 * h) for e in np.eye(k)], axis=1)
    assert np.allclose(kernel(X, P)[1], slopes, rtol=1e-5, atol=1e-5)
    assert np.abs(slopes).max() > 0.1
    assert all(np.isfinite(part).all() for part in kernel(np.zeros((1, k)), P[:1]))


@pytest.mark.parametrize("name", [*SHAPES, *OVALS, *MADE])
def test_degenerate_geometry_gives_numbers(name: str) -> None:
    kernel, k, parameters = kernel_of(name)
    r, J = kernel(np.zeros((1, k)), np.array([parameters]))
    assert np.isfinite(r).all()
    assert np.isfinite(J).all()


@pytest.mark.parametrize(("one", "other"), [("through", "oval"), ("oval", "pulled"), ("oval", "oval"), ("through", "pulled")])
def test_the_angle_between_free_curves_is_derived(one: str, other: str) -> None:
    shapes = [joint_rows.OVAL if s == "oval" else (KNOTS[s], 4) for s in (one, other)]
    kernel = joint_rows.smooth_joint(*shapes)
    rng = np.random.default_rng(5)
    own = [np.array([3.0, 1.0, 14.0, 4.0, 6.0]) if s == joint_rows.OVAL else np.array([0.0, 0, 5, 4, 10, 3, 15, 7]) for s in shapes]
    X = np.concatenate([*own, [8.0, 6.0]]) + rng.normal(size=(10, sum(map(len, own)) + 2)) * 0.4
    P, h = np.full((10, 1), 3.0), 1e-6
    slopes = np.stack([(kernel(X + h * e, P)[0] - kernel(X - h * e, P)[0]) / (2 * h) for e in np.eye(X.shape[1])], axis=1)
    assert np.allclose(kernel(X, P)[1], slopes, rtol=1e-5, atol=1e-5)
    assert all(np.isfinite(part).all() for part in kernel(np.zeros((1, X.shape[1])), P[:1]))
