"""The outline of a cut: its length against closed formulas, at any angle, and only of what is seen."""

from __future__ import annotations

import math

import numpy as np
import pytest
from scipy.special import ellipe

from tests.building import axis, drawn_on, f
from tests.samples import evaluated, plate
from wendal.core.inspect import CutOutline, ask
from wendal.demo.builder import Builder


def rod() -> Builder:
    b = Builder("Rod")
    ring = drawn_on(b, axis("XY"), "circle", (0, 0), (10, 0))
    b.step("extrude", "Rod", profile=b.profile(ring, 0), depth=f("60 mm"))
    return b


def length(b: Builder, origin: tuple[float, ...], normal: tuple[float, ...], x: tuple[float, ...]) -> float:
    told = ask(b.part, evaluated(b), CutOutline.model_validate({"planes": [{"origin": origin, "normal": normal, "x": x}]}))
    ends = np.array(told.lines[0]).reshape(-1, 2, 3)  # type: ignore[attr-defined]
    assert np.abs((ends - np.array(origin)) @ np.array(normal)).max(initial=0.0) < 1e-6  # all in the plane
    return float(np.linalg.norm(ends[:, 1] - ends[:, 0], axis=1).sum())


def test_a_plate_is_cut_in_a_rectangle() -> None:
    assert length(plate(), (0, 0, 4), (0, 0, 1), (1, 0, 0)) == pytest.approx(2 * (40 + 25), rel=1e-9)
    assert length(plate(), (12, 0, 0), (1, 0, 0), (0, 1, 0)) == pytest.approx(2 * (25 + 10), rel=1e-9)
    assert length(plate(), (0, 0, 40), (0, 0, 1), (1, 0, 0)) == 0


@pytest.mark.parametrize("degrees", [0, 20, 45])
def test_a_rod_is_cut_in_a_circle_or_an_ellipse(degrees: float) -> None:
    t = math.radians(degrees)
    found = length(rod(), (0, 0, 30), (math.sin(t), 0, math.cos(t)), (math.cos(t), 0, -math.sin(t)))
    long = 10 / math.cos(t)
    assert found == pytest.approx(4 * long * ellipe(1 - (10 / long) ** 2), rel=1e-3)


def test_a_rod_is_cut_lengthwise_in_lines() -> None:
    assert length(rod(), (6, 0, 0), (1, 0, 0), (0, 1, 0)) == pytest.approx(2 * 60 + 2 * 16, rel=1e-9)


def test_what_is_hidden_is_not_cut() -> None:
    b = plate()
    b.do(do="set_body_look", body="s2", look={"visible": False})
    assert length(b, (0, 0, 4), (0, 0, 1), (1, 0, 0)) == 0
