"""From where the places of holes are told by themselves: a datum's letter, a flat side, an axis."""

from __future__ import annotations

import math

import pytest

from tests.building import axis, drawn_on
from tests.core.test_aligned_sections import flange
from tests.core.test_drawing import said_by_view, with_page
from tests.samples import evaluated, plate
from wendal.core.drawing.proposing import proposed_dimensions
from wendal.core.reference import face_ref
from wendal.core.route import Part, apply
from wendal.core.route.page_commands import PutOnPage
from wendal.core.route.pages import Mark


def bored() -> Part:
    b = plate("40 mm", "25 mm", "10 mm")
    ring = drawn_on(b, axis("XY"), "circle", (12, 9), (15, 9))
    b.step("extrude", "Bore", profile=b.profile(ring, 0), extent="through", result="cut")
    return with_page(b.part, dimensions=False)


def lettered(part: Part, *sides: tuple[str, tuple[float, float, float]]) -> Part:
    """Put datum letters on the flat faces that look to some sides, in the view from above."""
    topology = evaluated(part).site.bodies["s2"].topology
    for letter, way in sides:
        face = next(i for i, f in enumerate(topology.faces) if f.form == "flat" and math.dist(f.frame.normal, way) < 1e-6)
        mark = Mark(id="m1", kind="datum", view="v2", thing=face_ref("s2", topology, face), letters=[letter])
        part = apply(part, PutOnPage(page="p1", marks=[mark]))
    return part


@pytest.mark.parametrize(("sides", "across", "up"), [
    ((), 12, 9), ((("A", (1.0, 0.0, 0.0)),), 28, 9), ((("A", (0.0, 1.0, 0.0)),), 12, 16), ((("A", (1.0, 0.0, 0.0)), ("B", (0.0, 1.0, 0.0))), 28, 16),
    ((("B", (-1.0, 0.0, 0.0)), ("A", (1.0, 0.0, 0.0))), 28, 9),  # the first letter goes first
    ((("A", (0.0, 0.0, 1.0)),), 12, 9),  # it lies flat in this view: nothing is told from it
])
def test_holes_are_placed_from_what_has_a_letter(sides: tuple[tuple[str, tuple[float, float, float]], ...], across: float, up: float) -> None:
    part = lettered(bored(), *sides)
    found = proposed_dimensions(part, evaluated(part), part.pages[0], ("v2",))
    told = said_by_view(part, found, "v2")
    assert told["across"][-1] == f"{across}"  # the plate's own sizes are brought in before
    assert told["up"][-1] == f"{up}"


def test_holes_of_a_round_part_are_placed_from_its_axis() -> None:
    part = with_page(flange("5 mm", 120.0).part)
    told = said_by_view(part, part.pages[0].dimensions, "v2")
    assert sorted(map(float, told["across"])) == [14, 28]
    assert told["up"] == ["24.249"]  # 28 sin 120, and nothing of holes that lie on the axis
