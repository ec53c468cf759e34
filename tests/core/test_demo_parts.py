"""The parts of Harrow Point: what they are, and that they follow every setting or say why not."""

from __future__ import annotations

import math
from collections.abc import Callable
from pathlib import Path

import pytest

from tests.samples import evaluated
from tools.hunts.settings import tried
from wendal.core import kernel
from wendal.core.route import Part, read_part, write_part
from wendal.demo import (
    DEMO_PARTS,
    cable_hook,
    float_wheel,
    mast_clamp,
    sensor_housing,
    well_head_flange,
)
from wendal.demo.builder import Builder

PI = math.pi


def volume(part: Part) -> float:
    evaluation = evaluated(part)
    assert {r.state for r in evaluation.reports} == {"built"}
    return sum(kernel.volume_of(b.shape) for b in evaluation.site.bodies.values())


def wheel(rim: float = 120, hub: float = 32, bore: float = 12, openings: int = 6, line: float = 6) -> float:
    """A disc with rim and hub standing up from its web, less a groove with slanted sides, the openings and the bore (mm)."""
    R, h = rim / 2, hub / 2
    disc = PI * R * R * 10 + PI * (R * R - (R - 12) ** 2) * (line - 2) + PI * h * h * 8
    groove = line / 2 * 4 * 2 * PI * (R - 4 / 3)  # a triangle turned about the axis, by Pappus
    edges = 2 * 0.5 * 2 * PI * (R - 1 / 3)  # two chamfers of 1 mm
    foot = 4 * (1 - PI / 4) * 2 * PI * (h + 2 * (10 - 3 * PI) / (3 * (4 - PI)))  # a fillet of 2 mm
    return disc + foot - edges - groove - openings * PI * 81 * 10 - PI * bore * bore / 4 * 18


@pytest.mark.parametrize(("changes", "expected"), [
    ({}, wheel()), ({"openings": "8"}, wheel(openings=8)), ({"bore": "10 mm"}, wheel(bore=10)), ({"line": "5 mm"}, wheel(line=5)),
])
def test_the_float_wheel_is_the_solid_it_should_be(changes: dict[str, str], expected: float) -> None:
    b = Builder("x")
    b.part = float_wheel()
    for tag, formula in changes.items():
        b.do(do="set_formula", tag=tag, formula=formula)
    assert volume(b.part) == pytest.approx(expected, rel=1e-9)


def flange(outside: float, pipe: float, thickness: float) -> float:
    circle = (outside + pipe) / 2 + 6
    bolts = 2 * math.floor(circle * PI / 2 / 50 + 0.5)
    bore = PI / 4 * ((pipe - 12) ** 2 * thickness / 2 + (pipe + 0.5) ** 2 * thickness / 2)
    bolt = PI / 4 * (13.5**2 * (thickness - 1) + 25**2)
    edges = 2 * 1.5**2 / 2 * 2 * PI * (outside / 2 - 0.5)
    return PI / 4 * outside**2 * thickness - bore - bolts * bolt - edges


@pytest.mark.parametrize(("outside", "pipe", "thickness"), [(160, 76, 16), (240, 120, 20), (200, 60, 12)])
def test_the_flange_has_as_many_bolts_as_its_formula_says(outside: float, pipe: float, thickness: float) -> None:
    b = Builder("x")
    b.part = well_head_flange()
    for tag, size in (("outside", outside), ("pipe", pipe), ("thickness", thickness)):
        b.do(do="set_formula", tag=tag, formula=f"{size} mm")
    assert volume(b.part) == pytest.approx(flange(outside, pipe, thickness), rel=1e-9)


def test_the_mast_clamp_is_two_halves_with_screws_that_belong_together() -> None:
    evaluation = evaluated(mast_clamp())
    front, behind = evaluation.site.bodies.values()
    (ax, ay, _), (bx, by, _) = (kernel.mass_of(b.shape).centre for b in (front, behind))
    assert (ax, bx) == (pytest.approx(0, abs=1e-9), pytest.approx(0, abs=1e-9))
    assert ay * by < 0
    assert any(r.message.startswith("M8, Ø6.8 through.") for r in evaluation.reports)


def hook(rod: float = 8, shank: float = 38, bend: float = 14, tip: float = 10) -> float:
    """The rod alone, by Pappus: its section times its middle line."""
    return PI / 4 * rod**2 * (shank + PI * bend + tip)


@pytest.mark.parametrize("changes", [{}, {"rod": 10}, {"shank": 50, "bend": 18}, {"tip": 20}])
def test_the_cable_hook_is_as_long_as_its_middle_line(changes: dict[str, float]) -> None:
    b = Builder("x")
    b.part = cable_hook()
    for name in ("Foot fillet", "Tip"):
        step = next(s for s in b.part.steps if s.name == name)
        b.do(do="remove_step", step=step.id)
    for tag, size in changes.items():
        b.do(do="set_formula", tag=tag, formula=f"{size} mm")
    with_rod = volume(b.part)
    rod = next(s for s in b.part.steps if s.name == "Rod")
    b.do(do="edit_step", step=rod.id, fields={"suppressed": True})
    rest = sum(kernel.volume_of(x.shape) for x in evaluated(b).site.bodies.values())
    assert with_rod - rest == pytest.approx(hook(**changes), rel=1e-6)


@pytest.mark.parametrize(("tag", "formula"), [("wall", "3 mm"), ("lugs", "3")])
def test_the_sensor_housing_follows_its_dimensions(tag: str, formula: str) -> None:
    b = Builder("x")
    b.part = sensor_housing()
    before = evaluated(b).site.bodies["s2"]
    b.do(do="set_formula", tag=tag, formula=formula)
    after = evaluated(b)
    assert {r.state for r in after.reports} == {"built"}
    holes = [sum(any("/side/" in n and "wall" in n for n in f.names) for f in t.topology.faces if f.form == "round" and f.hollow and abs(f.radius - 2.25) < 1e-9)
             for t in (before, after.site.bodies["s2"])]
    assert holes == [4, 6 if tag == "lugs" else 4]
    grown = kernel.volume_of(after.site.bodies["s2"].shape) - kernel.volume_of(before.shape)
    assert grown > 0


@pytest.mark.parametrize("name", DEMO_PARTS)
def test_predictable_update(name: str) -> None:
    found, strange = tried(DEMO_PARTS[name](), 5)  # 200 in the hunt
    assert strange == []
    assert found["valid"] >= 3


@pytest.mark.parametrize(("name", "make"), DEMO_PARTS.items())
def test_the_examples_are_the_demo_parts(name: str, make: Callable[[], Part]) -> None:
    text = (Path(__file__).parents[2] / "examples" / f"{name}.json").read_text(encoding="utf-8")
    assert read_part(text) == make()
    assert text == write_part(make())
