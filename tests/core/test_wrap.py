"""Texts and regions wrapped round a cylinder, against formulas; and what is refused."""

from __future__ import annotations

from typing import Any

import pytest

from tests.building import PI, axis, built, datum, drawn_on, f, offset_plane, volume
from tests.core.test_reshape import message
from wendal.demo.builder import Builder

R, HIGH = 15.0, 40.0
BAR = PI * R * R * HIGH


def bar() -> tuple[Builder, dict[str, Any], dict[str, Any]]:
    """A round bar along Z, a plane that touches it, and its round face."""
    b = Builder("Bar")
    body = b.step("extrude", "Bar", profile=b.profile(drawn_on(b, axis("XY"), "circle", (0, 0), (R, 0), diameter="30 mm"), 0), depth=f("40 mm"))
    wall = next(n for x in built(b).site.bodies[body].topology.faces if x.form == "round" for n in x.names)
    plane = datum(offset_plane(axis("ZX"), "-15 mm")(b))
    return b, {"of": "face", "body": body, "names": [wall]}, plane


@pytest.mark.parametrize(("shape", "ends", "area"), [
    ("rectangle", ((-10, 10), (10, 18)), 160), ("circle", ((0, 20), (4, 20)), 16 * PI), ("slot", ((-6, 20), (6, 20), (6, 23)), 12 * 6 + 9 * PI),
])
@pytest.mark.parametrize("manner", ["raised", "engraved"])
def test_a_region_goes_round_true_to_length(shape: str, ends: tuple[tuple[float, float], ...], area: float, manner: str) -> None:
    b, face, plane = bar()
    sketch = drawn_on(b, plane, shape, *ends)
    step = b.step("wrap", "Mark", profile=b.profile(sketch, 0), face=face, manner=manner, depth=f("1 mm"))
    change = area * (31 if manner == "raised" else -29) / (2 * R)
    assert volume(b) == pytest.approx(BAR + change, rel=1e-6)
    names = {n.split("/")[1] for x in built(b).site.bodies[face["body"]].topology.faces for n in x.names if n.startswith(step)}
    assert names == {"side", "end"}
    tag = next(r.tag for r in b.part.rows() if r.tag.endswith("diameter"))
    b.do(do="set_formula", tag=tag, formula="36 mm")  # the bar grows: the mark stays as long
    bigger = 18.0
    change = area * ((bigger + 1) ** 2 - bigger**2 if manner == "raised" else (bigger - 1) ** 2 - bigger**2) / (2 * bigger)
    assert volume(b) == pytest.approx(PI * bigger**2 * HIGH + change, rel=1e-6)


@pytest.mark.parametrize("manner", ["raised", "engraved"])
def test_words_go_round(manner: str) -> None:
    b, face, plane = bar()
    sketch = b.step("sketch", "Words", on=plane)
    b.do(do="edit_sketch", step=sketch, edit={"op": "write", "words": "HARROW 8", "height": "6 mm", "ends": [{"at": [-14, 15]}, {"at": [14, 15]}]})
    made = built(b).site.sketches[sketch]
    (text, pieces), = made.texts.items()
    area = sum(p.area for p in pieces)
    b.step("wrap", "Name", profile=[{"of": "region", "step": sketch, "sides": [text], "inside": [0, 0], "key": "r1"}], face=face, manner=manner, depth=f("0.5 mm"))
    change = area * ((R + 0.5) ** 2 - R**2 if manner == "raised" else (R - 0.5) ** 2 - R**2) / (2 * R)
    assert volume(b) == pytest.approx(BAR + change, rel=1e-5)


def test_what_can_not_be_wrapped() -> None:
    b, face, plane = bar()
    long = drawn_on(b, plane, "rectangle", (-50, 10), (50, 18))
    step = b.step("wrap", "Belt", profile=b.profile(long, 0), face=face)
    assert "longer than the way round (94.2478 mm)" in message(b, step)
    b.do(do="remove_step", step=step)
    level = drawn_on(b, axis("XY"), "rectangle", (-5, 1), (5, 8))
    step = b.step("wrap", "Belt", profile=b.profile(level, 0), face=face)
    assert "does not run along the axis" in message(b, step)
    b.do(do="edit_step", step=step, fields={"face": {**face, "names": [f"{face['body']}/end/r1"]}})
    assert "round the outside of a cylinder only" in message(b, step)
