"""Ribs against formulas, before and after a change, and what is refused."""

from __future__ import annotations

import math
from itertools import pairwise
from typing import Any

import pytest

from tests.building import axis, built, drawn_on, f, offset_plane, volume
from tests.samples import evaluated
from wendal.demo.builder import Builder


def tray(wide: float = 60, deep: float = 40, high: float = 20, wall: float = 2) -> Builder:
    """An open tray: floor and walls of a thickness, its middle at the origin, its floor's underside at Z 0."""
    b = Builder("Tray")
    sketch = drawn_on(b, axis("XY"), "rectangle", (-wide / 2, -deep / 2), (wide / 2, deep / 2), width=f"{wide} mm", height=f"{deep} mm")
    b.step("extrude", "Block", profile=b.profile(sketch, 0), depth=f(f"{high} mm"))
    b.step("shell", "Tray", body={"of": "body", "body": "s2"}, thickness=f(f"{wall} mm"), openings=[{"of": "face", "body": "s2", "names": ["s2/end/r1"]}])
    return b


def line_on(b: Builder, plane: Any, *ends: tuple[float, float]) -> list[dict[str, Any]]:
    sketch = drawn_on(b, plane, "line", ends[0], ends[1])
    for one, other in pairwise(ends[1:]):
        before = list(b.drawing(sketch).points)
        b.draw(sketch, "line", one, other)
        b.constrain(sketch, "coincident", before[-1], list(b.drawing(sketch).points)[len(before)])
    curve = next(iter(b.drawing(sketch).curves))
    return [{"of": "drawn", "step": sketch, "entity": curve}]


def plane_at(b: Builder, base: str, distance: str) -> dict[str, Any]:
    return {"of": "datum", "step": offset_plane(axis(base), distance)(b)}


def tag_of(b: Builder, word: str) -> str:
    return next(r.tag for r in b.part.rows() if r.tag.endswith(word))


TRAY = 60 * 40 * 20 - 56 * 36 * 18


@pytest.mark.parametrize("side", ["centred", "one", "other"])
def test_square_to_the_plane_to_the_floor(side: str) -> None:
    """A line that ends on no wall is gone on to the walls; the rib is as high as its plane stands over the floor."""
    b = tray()
    lines = line_on(b, plane_at(b, "XY", "12 mm"), (-10, 3), (10, 3))
    b.step("rib", "Rib", lines=lines, manner="into", side=side, thickness=f("3 mm"))
    assert volume(b) == pytest.approx(TRAY + 56 * 3 * 10, rel=1e-9)
    b.do(do="set_formula", tag=tag_of(b, "distance"), formula="15 mm")
    assert volume(b) == pytest.approx(TRAY + 56 * 3 * 13, rel=1e-9)


def test_a_grid_of_ribs() -> None:
    b = tray()
    plane = plane_at(b, "XY", "12 mm")
    lines = [*line_on(b, plane, (-10, 0), (10, 0)), *line_on(b, plane, (-8, -10), (-8, 10)), *line_on(b, plane, (9, -10), (9, 10))]
    step = b.step("rib", "Ribs", lines=lines, manner="into", thickness=f("2 mm"))
    assert volume(b) == pytest.approx(TRAY + 10 * (56 * 2 + 2 * 36 * 2 - 2 * 4), rel=1e-9)
    assert {n.split("/")[0] for face in built(b).site.bodies["s2"].topology.faces for n in face.names} >= {step, "s2", "s3"}


def test_draft() -> None:
    """Wider towards the floor by an angle on either side."""
    b = tray()
    b.step("rib", "Rib", lines=line_on(b, plane_at(b, "XY", "12 mm"), (-10, 0), (10, 0)), manner="into", thickness=f("3 mm"), taper="widen", draft=f("2 deg"))
    assert volume(b) == pytest.approx(TRAY + 56 * (3 * 10 + math.tan(math.radians(2)) * 100), rel=1e-9)


def bracket() -> Builder:
    """An angle of two plates 4 thick, 40 long and high, 30 deep (along Y)."""
    b = Builder("Angle")
    sketch = drawn_on(b, axis("ZX"), "rectangle", (0, 0), (40, 4))
    b.step("extrude", "Foot", profile=b.profile(sketch, 0), extent="both", depth=f("30 mm"))
    upright = drawn_on(b, axis("ZX"), "rectangle", (0, 0), (4, 40))
    b.step("extrude", "Back", profile=b.profile(upright, 0), extent="both", depth=f("30 mm"), result="add")
    return b


ANGLE = (40 * 4 + 36 * 4) * 30


@pytest.mark.parametrize(("ends", "area"), [
    (((4, 30), (30, 4)), 26 * 26 / 2),
    (((10, 24), (20, 14)), 26 * 26 / 2),  # short: gone on to both plates
    (((4, 30), (12, 12), (30, 4)), 208),  # the quadrilateral between the corner (4, 4) and the bent line
], ids=["to the plates", "short", "bent"])
def test_in_the_plane_of_the_sketch(ends: tuple[tuple[float, float], ...], area: float) -> None:
    """From a slanting line down to the two plates of an angle."""
    b = bracket()
    b.step("rib", "Rib", lines=line_on(b, axis("ZX"), *ends), manner="right", thickness=f("5 mm"))
    assert volume(b) == pytest.approx(ANGLE + area * 5, rel=1e-9)
    b.do(do="set_formula", tag=tag_of(b, "thickness"), formula="8 mm")
    assert volume(b) == pytest.approx(ANGLE + area * 8, rel=1e-9)


def test_what_is_refused() -> None:
    b = bracket()
    lines = line_on(b, axis("ZX"), (4, 30), (30, 4))
    step = b.step("rib", "Rib", lines=lines, manner="left", thickness=f("5 mm"))
    report = evaluated(b).report(step)
    assert report.state == "stopped"
    assert "does not meet material everywhere" in report.message
    b = tray()
    step = b.step("rib", "Rib", lines=line_on(b, plane_at(b, "XY", "25 mm"), (-10, 0), (10, 0)), manner="into")
    assert "does not meet material everywhere" in evaluated(b).report(step).message  # above the walls
    b.do(do="edit_step", step=step, fields={"manner": "out"})
    assert "Turn the rib to the other side" in evaluated(b).report(step).message
    b = Builder("Nothing")
    step = b.step("rib", "Rib", lines=line_on(b, axis("XY"), (-10, 0), (10, 0)), manner="into")
    assert "no body yet" in evaluated(b).report(step).message
