"""Sweeps against formulas (section times length of path), before and after a change, and what is refused."""

from __future__ import annotations

import math
from typing import Any

import pytest

from tests.building import PI, axis, built, drawn_on, f, volume
from tests.samples import evaluated
from wendal.demo.builder import Builder

XY, ZX = axis("XY"), axis("ZX")


def path_of(b: Builder, *lines: tuple[str, tuple[float, float], tuple[float, float]], arcs: tuple[tuple[tuple[float, float], ...], ...] = ()) -> dict[str, Any]:
    """Curves drawn one after the other on ZX, joined where they meet; the first is picked."""
    sketch = b.step("sketch", "Path", on=ZX)
    curves = [b.draw(sketch, shape, p, q)[0] for shape, p, q in lines] + [b.draw(sketch, "arc_centre", *places)[0] for places in arcs]
    drawing = b.drawing(sketch)
    ends = [(p, drawing.points[p]) for c in curves for p in drawing.curves[c].points[-2:]]
    for i, (p, at) in enumerate(ends):
        for q, other in ends[i + 1 :]:
            if at == pytest.approx(other, abs=1e-6):
                b.constrain(sketch, "coincident", p, q)
    return {"of": "drawn", "step": sketch, "entity": curves[0]}


def swept(b: Builder, path: dict[str, Any], shape: str = "rectangle", places: Any = ((-2, -3), (2, 3)), **fields: Any) -> str:
    sketch = drawn_on(b, XY, shape, *places)
    return b.step("sweep", "Swept", profile=b.profile(sketch, 0), path=path, **fields)


def begun() -> Builder:
    return Builder("Swept")


@pytest.fixture
def up() -> tuple[int, int]:
    """Which of a sketch's coordinates on ZX runs along Z: (1, 0) for the first."""
    b = begun()
    sketch = b.step("sketch", "Probe", on=ZX)
    b.draw(sketch, "point", (0, 1))
    return (0, 1) if built(b).site.sketches[sketch].frame.at(0, 1)[2] == pytest.approx(1) else (1, 0)


def to(up: tuple[int, int], out: float, high: float) -> tuple[float, float]:
    return (out, high) if up == (0, 1) else (high, out)


def test_straight_mitred_and_bent(up: tuple[int, int]) -> None:
    b = begun()
    swept(b, path_of(b, ("line", to(up, 0, 0), to(up, 0, 30))))
    assert volume(b) == pytest.approx(24 * 30)
    b = begun()
    step = swept(b, path_of(b, ("line", to(up, 0, 0), to(up, 0, 30)), ("line", to(up, 0, 30), to(up, 20, 30))))
    assert volume(b) == pytest.approx(24 * 50)
    names = {n for x in built(b).site.bodies[step].topology.faces for n in x.names}
    assert len(names) == 4 * 2 + 2
    b = begun()
    swept(b, path_of(b, ("line", to(up, 0, 0), to(up, 0, 30)), arcs=((to(up, 10, 30), to(up, 0, 30), to(up, 10, 40))
                                                                     if up == (1, 0) else (to(up, 10, 30), to(up, 10, 40), to(up, 0, 30)),)),
          "circle", ((0, 0), (2, 0)))
    assert volume(b) == pytest.approx(4 * PI * (30 + 5 * PI), rel=1e-6)


def test_turning_with_the_path_or_kept_parallel(up: tuple[int, int]) -> None:
    b = begun()
    step = swept(b, path_of(b, ("line", to(up, 0, 0), to(up, 0, 20)), ("line", to(up, 0, 20), to(up, 10, 40))))
    assert volume(b) == pytest.approx(24 * (20 + math.hypot(10, 20)))
    b.do(do="edit_step", step=step, fields={"turning": "parallel"})
    assert volume(b) == pytest.approx(24 * 40)  # sheared: every level section is the profile


def test_a_ring_with_holes_and_a_wall(up: tuple[int, int]) -> None:
    b = begun()
    path = path_of(b, ("line", to(up, 0, 0), to(up, 0, 30)), ("line", to(up, 0, 30), to(up, 20, 30)))
    step = swept(b, path, "circle", ((0, 0), (4, 0)), wall="inside", thickness=f("1 mm"))
    assert volume(b) == pytest.approx((16 - 9) * PI * 50, rel=1e-6)
    b.do(do="edit_step", step=step, fields={"thickness": f("2 mm")})
    assert volume(b) == pytest.approx((16 - 4) * PI * 50, rel=1e-6)


def test_what_is_refused(up: tuple[int, int]) -> None:
    b = begun()
    step = swept(b, path_of(b, ("line", to(up, 0, 5), to(up, 0, 30))))
    assert "off the profile's plane" in evaluated(b).report(step).message
    b = begun()
    step = swept(b, path_of(b, ("line", to(up, 0, 0), to(up, 30, 0))))
    assert "runs along the profile's plane" in evaluated(b).report(step).message
    b = begun()
    arc = (to(up, 3, 10), to(up, 0, 10), to(up, 3, 13)) if up == (1, 0) else (to(up, 3, 10), to(up, 3, 13), to(up, 0, 10))
    step = swept(b, path_of(b, ("line", to(up, 0, 0), to(up, 0, 10)), arcs=(arc,)), "circle", ((0, 0), (5, 0)))
    report = evaluated(b).report(step)
    assert report.state == "stopped"
    assert "too tight" in report.message or "run into itself" in report.message or "broken" in report.message
