"""Lofts against formulas, before and after a change, and what is refused."""

from __future__ import annotations

import math

import pytest

from tests.building import PI, axis, built, datum, drawn_on, f, offset_plane, volume
from tests.samples import evaluated
from wendal.demo.builder import Builder

XY = axis("XY")


def through(*sizes: float, shape: str = "rectangle", apart: float = 20, manner: str = "ruled", other: str = "") -> tuple[Builder, str]:
    """Squares (or circles) of sizes over each other, lofted."""
    b = Builder("Lofted")
    profile = []
    for i, size in enumerate(sizes):
        plane = XY if not i else datum(offset_plane(XY, f"{apart * i} mm")(b))
        kind = other if other and i else shape
        h = size / 2
        sketch = drawn_on(b, plane, kind, *(((-h, -h), (h, h)) if kind == "rectangle" else ((0, 0), (h, 0))))
        profile += [{**p, "key": f"r{i + 1}"} for p in b.profile(sketch, 0)]
    return b, b.step("loft", "Lofted", profile=profile, manner=manner)


def frustum(a: float, b: float, h: float) -> float:
    return h / 3 * (a * a + a * b + b * b)


@pytest.mark.parametrize("manner", ["smooth", "ruled"])
def test_two_sections(manner: str) -> None:
    b, step = through(20, 10, manner=manner)
    assert volume(b) == pytest.approx(frustum(20, 10, 20), rel=1e-9)
    names = {n for x in built(b).site.bodies[step].topology.faces for n in x.names}
    assert len(names) == 6
    tag = next(r.tag for r in b.part.rows() if r.tag.endswith("distance"))
    b.do(do="set_formula", tag=tag, formula="30 mm")
    assert volume(b) == pytest.approx(frustum(20, 10, 30), rel=1e-9)


def test_circles_and_three_sections() -> None:
    b, _ = through(20, 10, shape="circle")
    assert volume(b) == pytest.approx(PI / 4 * frustum(20, 10, 20), rel=1e-6)
    b, step = through(20, 10, 14)
    assert volume(b) == pytest.approx(frustum(20, 10, 20) + frustum(10, 14, 20), rel=1e-9)
    names = {n for x in built(b).site.bodies[step].topology.faces for n in x.names}
    assert len(names) == 2 * 4 + 2
    b.do(do="edit_step", step=step, fields={"manner": "smooth"})
    assert volume(b) > 0


def test_what_is_refused() -> None:
    b, step = through(20, 10, other="circle")
    assert "different numbers of sides (4, 1)" in evaluated(b).report(step).message
    b, step = through(20)
    assert "One region is not enough" in evaluated(b).report(step).message


def test_a_section_on_a_tilted_plane_is_matched_corner_to_corner() -> None:
    b = Builder("Tilted")
    low = drawn_on(b, XY, "rectangle", (-5, -5), (5, 5))
    plane = b.step("plane", "Tilted", how="offset", first=XY, distance=f("20 mm"), more="moved", turn_x=f("180 deg"))
    high = drawn_on(b, datum(plane), "rectangle", (-5, -5), (5, 5))  # looks the other way: run the other way round, it is a straight block
    profile = [{**p, "key": f"r{i}"} for i, s in enumerate((low, high), 1) for p in b.profile(s, 0)]
    b.step("loft", "Block", profile=profile, manner="ruled")
    assert volume(b) == pytest.approx(100 * 20, rel=1e-9)
    assert math.isfinite(volume(b))
