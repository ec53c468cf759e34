"""The least wall against walls known by hand: plates, hollows, bores side by side, crossing, near a side, tubes, wedges."""

from __future__ import annotations

from typing import Any

import pytest

from tests.building import BODY, TOP, axis, datum, drawn_on, f, of_step
from tests.samples import evaluated, plate
from wendal.core import inspect
from wendal.core.errors import CommandRefused
from wendal.core.inspect import WallsFound
from wendal.demo.builder import Builder


def walls(b: Builder) -> WallsFound:
    found = inspect.ask(b.part, evaluated(b), inspect.asked({"of": "wall"}))
    assert isinstance(found, WallsFound)
    return found


def bored(b: Builder, *rings: tuple[float, float, float]) -> Builder:
    for n, (x, y, r) in enumerate(rings):
        ring = drawn_on(b, axis("XY"), "circle", (x, y), (x + r, y))
        b.step("extrude", f"Bore {n}", profile=b.profile(ring, 0), extent="through", result="cut")
    return b


def hollow(wall: float) -> Builder:
    b = plate("40 mm", "30 mm", "20 mm")
    b.step("shell", "Hollow", body=BODY, openings=[TOP], thickness=f(f"{wall} mm"))
    return b


def tube(inner: float, outer: float) -> Builder:
    b = Builder("Tube")
    ring = drawn_on(b, axis("XY"), "circle", (0, 0), (outer, 0))
    b.step("extrude", "Rod", profile=b.profile(ring, 0), depth=f("60 mm"))
    return bored(b, (0, 0, inner))


CASES: list[tuple[str, Any, float]] = [
    ("plate", lambda: plate("40 mm", "25 mm", "3 mm"), 3.0),
    ("block", lambda: plate("8 mm", "9 mm", "10 mm"), 8.0),
    ("hollow 2", lambda: hollow(2.0), 2.0),
    ("hollow 0.3", lambda: hollow(0.3), 0.3),
    ("bores side by side", lambda: bored(plate("60 mm", "40 mm", "20 mm"), (20, 20, 5), (31.5, 20, 5)), 1.5),
    ("bore near the side", lambda: bored(plate("60 mm", "40 mm", "20 mm"), (20, 5.8, 5)), 0.8),
    ("tube", lambda: tube(9.0, 10.0), 1.0),
    ("rod", lambda: tube_less(), 12.0),
]


def tube_less() -> Builder:
    b = Builder("Rod")
    ring = drawn_on(b, axis("XY"), "circle", (0, 0), (6, 0))
    b.step("extrude", "Rod", profile=b.profile(ring, 0), depth=f("60 mm"))
    return b


@pytest.mark.parametrize(("make", "thickness"), [c[1:] for c in CASES], ids=[c[0] for c in CASES])
def test_the_least_wall_is_as_known(make: Any, thickness: float) -> None:
    (found,) = walls(make()).walls
    assert found.thickness == pytest.approx(thickness, rel=1e-5)
    run = [p - q for p, q in zip(*found.feet, strict=True)]
    assert sum(v * v for v in run) ** 0.5 == pytest.approx(found.thickness, rel=1e-5)
    assert len(found.between) == 2


def test_bores_that_cross_one_above_the_other() -> None:
    b = bored(plate("60 mm", "40 mm", "30 mm"))
    across = b.step("plane", "Side", how="offset", first=axis("YZ"), distance=f("0 mm"))
    low = drawn_on(b, datum(across), "circle", (20, 8), (24, 8))
    b.step("extrude", "Low", profile=b.profile(low, 0), extent="through", result="cut")
    side = b.step("plane", "Front", how="offset", first=axis("ZX"), distance=f("0 mm"))
    frame = evaluated(b).site.datums[side][0].frame
    u, v = frame.local((30.0, 0.0, 17.0))[:2]
    high = drawn_on(b, datum(side), "circle", (u, v), (u + 4, v))
    cut = b.step("extrude", "High", profile=b.profile(high, 0), extent="through", result="cut")
    if evaluated(b).report(cut).state != "built":
        b.do(do="edit_step", step=cut, fields={"extent": "through_into"})
    assert evaluated(b).report(cut).state == "built"
    # Axes 9 apart, both of radius 4: a wall of 1 where they cross.
    (found,) = walls(b).walls
    assert found.thickness == pytest.approx(1.0, rel=1e-5)


def test_an_acute_edge_is_no_wall_and_it_follows() -> None:
    b = Builder("Wedge")
    sketch = b.step("sketch", "Side", on=axis("XY"))
    b.draw(sketch, "line", (0, 0), (60, 0))
    b.draw(sketch, "line", (60, 0), (60, 8))
    b.draw(sketch, "line", (60, 8), (0, 0))
    b.step("extrude", "Wedge", profile=b.profile(sketch, 0), depth=f("20 mm"))
    (found,) = walls(b).walls
    assert found.thickness < 8.0  # the wedge is thin at its edge, and says so: its faces look apart

    b = plate("40 mm", "25 mm", "3 mm")
    b.do(do="set_formula", tag="base_depth", formula="1.25 mm")
    assert walls(b).walls[0].thickness == pytest.approx(1.25)


def test_two_bodies_the_thinnest_first_and_none_says_so() -> None:
    with pytest.raises(CommandRefused, match="no solid body"):
        walls(Builder("Empty"))
    b = plate("40 mm", "25 mm", "10 mm")
    ring = drawn_on(b, axis("XY"), "circle", (80, 0), (81.5, 0))
    pin = b.step("extrude", "Pin", profile=b.profile(ring, 0), depth=f("30 mm"))
    assert of_step(pin)
    assert [w.thickness for w in walls(b).walls] == [pytest.approx(3.0, rel=1e-5), pytest.approx(10.0)]
