"""Every residual's Jacobian against finite differences, over random configurations."""

from __future__ import annotations

import inspect

import numpy as np
import pytest

from wendal.core.sketch import rows

# kernel -> (number of variables, parameters)
SHAPES = {"same": (2, (0.4,)), "mean": (3, (0.0,)), "distance": (4, (1.3,)), "equal_length": (8, (0.0,)), "point_line": (6, (0.7,)),
          "point_circle": (5, (0.3,)), "angle": (8, (0.9, 2.5)), "tangent_line": (7, (-1.0, 0.2)), "tangent_circles": (6, (1.0, -1.0, 0.1)),
          "line_arc_end": (8, (0.0,)), "arc_arc_end": (6, (1.7,)), "square_to_line": (8, (0.0,)), "mid_on_line": (8, (0.0,)),
          "sum_of": (2, (1.0, -1.0, 0.4)), "arc_length": (7, (2.0, 0.8)), "shifted_along": (8, (1.1,)), "shifted_across": (8, (0.0,)),
          "turned_x": (6, (0.8, 0.6)), "turned_y": (6, (0.8, 0.6)), "point_ellipse": (7, (3.0,)), "tangent_ellipse": (9, (-1.0,)), "line_oval_end": (11, (4.0,))}
# makers of kernels for so many points -> what they are made for, variables, parameters
MADE = {"leaving_along": ((3, 2), 10, (2.0, -1.0, 0.3, 0.7, -1.0, 1.0)), "leaving_square": ((3,), 10, (2.0, -1.0, 0.3, 0.7))}


def test_every_kernel_is_checked_here() -> None:
    public = {n for n in rows.__all__ if inspect.isfunction(getattr(rows, n))}
    made = {n for n in rows.__all__ if hasattr(getattr(rows, n), "cache_info")}
    assert (public, made) == (SHAPES.keys(), MADE.keys())


def kernel_of(name: str) -> tuple[rows.Kernel, int, tuple[float, ...]]:
    if name in MADE:
        of, variables, parameters = MADE[name]
        return getattr(rows, name)(*of), variables, parameters
    return getattr(rows, name), *SHAPES[name]


@pytest.mark.parametrize("name", [*SHAPES, *MADE])
def test_jacobian_is_the_derivative(name: str) -> None:
    kernel, k, parameters = kernel_of(name)
    X = np.random.default_rng(7).normal(size=(200, k)) * 5
    P = np.tile(parameters, (200, 1))
    r, J = kernel(X, P)
    assert r.shape == (200,)
    assert J.shape == (200, k)
    h = 1e-6
    for i in range(k):
        step = np.zeros(k)
        step[i] = h
        slope = (kernel(X + step, P)[0] - kernel(X - step, P)[0]) / (2 * h)
        near_jump = np.abs(slope) > 1e3  # an angle that wraps round between the two
        assert np.allclose(J[~near_jump, i], slope[~near_jump], rtol=1e-5, atol=1e-5)


@pytest.mark.parametrize("name", [*SHAPES, *MADE])
def test_degenerate_geometry_gives_numbers(name: str) -> None:
    kernel, k, parameters = kernel_of(name)
    r, J = kernel(np.zeros((1, k)), np.array([parameters]))
    assert np.isfinite(r).all()
    assert np.isfinite(J).all()
