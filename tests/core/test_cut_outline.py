"""The outline of a cut: its length against closed formulas, at any angle, and only of what is seen."""

from __future__ import annotations

import math

import numpy as np
import pytest
from pydantic import ValidationError
from scipy.special import ellipe

from tests.building import axis, drawn_on, f
from tests.samples import demo, evaluated, plate
from wendal.core import kernel
from wendal.core.errors import CommandRefused
from wendal.core.inspect import CutOutline, Measure, ask, outline
from wendal.core.kernel.types import Frame
from wendal.demo import DEMO_PARTS
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


@pytest.mark.parametrize("name", DEMO_PARTS)
def test_the_outline_is_that_of_all_faces_cut_one_by_one(name: str) -> None:
    """Flat faces are cut by figures and the others together; the kernel cuts each by itself."""
    part, evaluation = demo(name)
    rng = np.random.default_rng(7)
    low, high = (np.array(x) for x in kernel.box_of([b.shape for b in evaluation.site.bodies.values()]))
    for _ in range(2):
        n = rng.normal(size=3)
        n /= np.linalg.norm(n)
        x = np.cross(n, [0.3, 0.5, 0.8])
        x /= np.linalg.norm(x)
        at = low + (0.3 + 0.4 * rng.random(3)) * (high - low)
        frame = Frame(tuple(at), tuple(x), tuple(np.cross(n, x)))
        told = ask(part, evaluation, CutOutline.model_validate({"planes": [{"origin": tuple(at), "normal": tuple(n), "x": tuple(x)}]}))
        ends = np.array(told.lines[0]).reshape(-1, 2, 3)  # type: ignore[attr-defined]
        one_by_one = 0.0
        for body in evaluation.site.bodies.values():
            for i in range(len(body.topology.faces)):
                for piece in kernel.cut_face(body.shape, i, frame):
                    places = np.array(outline._places(piece))
                    one_by_one += float(np.linalg.norm(np.diff(places, axis=0), axis=1).sum())
        assert float(np.linalg.norm(ends[:, 1] - ends[:, 0], axis=1).sum()) == pytest.approx(one_by_one, rel=1e-4)


@pytest.mark.parametrize("plane", [{"origin": (0, 0, 0), "normal": (0, 0, 0), "x": (1, 0, 0)}, {"origin": (0, 0, 0), "normal": (0, 0, 1), "x": (0, 0.6, 0.8)}])
def test_what_is_no_plane_is_refused(plane: dict[str, tuple[float, ...]]) -> None:
    b = plate()
    with pytest.raises(CommandRefused, match="square to each other"):
        ask(b.part, evaluated(b), CutOutline.model_validate({"planes": [plane]}))
    with pytest.raises(ValidationError):
        CutOutline.model_validate({"planes": [{**plane, "origin": (math.nan, 0, 0)}]})


def cut(near: tuple[float, ...], normal: tuple[float, ...] = (1, 0, 0), x: tuple[float, ...] = (0, 1, 0), origin: tuple[float, ...] = (12, 0, 0), end: bool = False) -> dict[str, object]:
    return {"of": "cut", "plane": {"origin": origin, "normal": normal, "x": x}, "near": near, "end": end}


def measured(b: Builder, *things: dict[str, object]) -> dict[str, float]:
    told = ask(b.part, evaluated(b), Measure.model_validate({"things": things}))
    return {m.key: m.value for m in (*told.meanings, *told.figures)}  # type: ignore[attr-defined]


def test_the_outline_of_a_cut_is_measured() -> None:
    front, back = cut((12, 0.1, 5)), cut((12, 24.8, 5))
    assert measured(plate(), front, back)["least"] == pytest.approx(25, abs=1e-9)
    assert measured(plate(), front)["length"] == pytest.approx(10, abs=1e-9)
    corners = cut((12, 0.3, 0.2), end=True), cut((12, 24.8, 9.9), end=True)
    assert measured(plate(), *corners)["least"] == pytest.approx(math.hypot(25, 10), abs=1e-9)
    top = {"of": "face", "body": "s2", "names": ["s2/end/r1"]}
    assert measured(plate(), cut((12, 12, 0)), top)["least"] == pytest.approx(10, abs=1e-9)


def test_a_round_cut_has_a_radius_and_a_slanted_one_a_length() -> None:
    straight = measured(rod(), cut((10, 0, 30), (0, 0, 1), (1, 0, 0), (0, 0, 30)))
    assert straight["radius"] == pytest.approx(10, abs=1e-9)
    t = math.radians(30)
    slant = cut((10, 0, 30), (math.sin(t), 0, math.cos(t)), (math.cos(t), 0, -math.sin(t)), (0, 0, 30))
    assert measured(rod(), slant)["length"] == pytest.approx(4 * 10 / math.cos(t) * ellipe(1 - math.cos(t) ** 2), rel=1e-9)


def test_what_is_not_cut_is_told_and_a_cut_is_never_kept() -> None:
    with pytest.raises(CommandRefused, match="cuts nothing here"):
        measured(plate(), cut((99, 0, 0), origin=(99, 0, 0)))
    kept = {"tag": "gap", "things": [cut((12, 0, 5)), cut((12, 25, 5))], "key": "least", "unit": "length", "worth": 25}
    with pytest.raises(ValidationError):
        plate().do(do="keep_measure", measure=kept)
