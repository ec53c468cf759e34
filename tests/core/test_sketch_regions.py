"""Regions found, named by curve sides, and found again; open ends."""

from __future__ import annotations

import math
from typing import Any

import pytest

from tests.samples import drawn
from wendal.core.errors import ReferenceLost
from wendal.core.sketch import Regions, find_region, find_regions, region_ref
from wendal.demo.builder import Builder


def found(*shapes: tuple[Any, ...]) -> Regions:
    b, sketch, _ = drawn(*shapes)
    return find_regions(b.drawing(sketch))


BIG = ("rectangle", (0, 0), (40, 30))
CASES: list[tuple[str, list[tuple[Any, ...]], list[float]]] = [
    ("nothing", [], []),
    ("an open line", [("line", (0, 0), (10, 0))], []),
    ("a rectangle", [BIG], [1200]),
    ("a circle", [("circle", (0, 0), (5, 0))], [25 * math.pi]),
    ("a hole", [BIG, ("circle", (20, 15), (25, 15))], [1200 - 25 * math.pi, 25 * math.pi]),
    ("an island in a hole", [BIG, ("circle", (20, 15), (30, 15)), ("circle", (20, 15), (25, 15))],
     [1200 - 100 * math.pi, 75 * math.pi, 25 * math.pi]),
    ("two apart", [BIG, ("rectangle", (50, 0), (60, 30))], [1200, 300]),
    ("split by a line", [BIG, ("line", (10, -5), (10, 35))], [900, 300]),
    ("two that overlap", [BIG, ("rectangle", (30, 10), (50, 20))], [1100, 100, 100]),
    ("two circles that overlap", [("circle", (0, 0), (5, 0)), ("circle", (5, 0), (10, 0))],
     [25 * math.pi - 25 * (2 * math.pi / 3 - math.sqrt(3) / 2)] * 2 + [25 * (2 * math.pi / 3 - math.sqrt(3) / 2)]),
    ("half a disc", [("arc", (5, 0), (-5, 0), (0, 5)), ("line", (-5, 0), (5, 0))], [12.5 * math.pi]),
    ("corners that touch", [("rectangle", (0, 0), (10, 10)), ("rectangle", (10, 10), (20, 20))], [100, 100]),
    ("a shared side", [("rectangle", (0, 0), (10, 10)), ("line", (10, 0), (20, 0)), ("line", (20, 0), (20, 10)), ("line", (20, 10), (10, 10))],
     [100, 100]),
    ("a circle that touches a side", [BIG, ("circle", (20, 5), (20, 0))], [1200 - 25 * math.pi, 25 * math.pi]),
    ("a doubled side", [BIG, ("line", (5, 0), (25, 0))], [1200]),
    ("the same rectangle twice", [BIG, BIG], [1200]),
    ("the same circle twice", [("circle", (0, 0), (5, 0)), ("circle", (0, 0), (5, 0))], [25 * math.pi]),
    ("a slot", [("slot", (0, 0), (30, 0), (12, 5))], [300 + 25 * math.pi]),
    ("a hexagon", [("polygon", (0, 0), (10, 0))], [150 * math.sqrt(3)]),
    ("a dangling line inside", [BIG, ("line", (0, 10), (15, 10))], [1200]),
]


@pytest.mark.parametrize(("shapes", "areas"), [c[1:] for c in CASES], ids=[c[0] for c in CASES])
def test_areas(shapes: list, areas: list[float]) -> None:
    regions = found(*shapes).found
    assert sorted((r.area for r in regions), reverse=True) == pytest.approx(sorted(areas, reverse=True), rel=1e-9)
    for region in regions:
        assert region.contains(*region.inside())


def test_open_ends_are_told_with_their_gap() -> None:
    ends = found(("line", (0, 0), (10, 0)), ("line", (10.5, 0), (10.5, 8))).open_ends
    gaps = sorted(gap for _, _, gap in ends)
    assert len(ends) == 4
    assert gaps[:2] == pytest.approx([0.5, 0.5])


def test_construction_bounds_nothing() -> None:
    b, sketch, curves = drawn(BIG, ("line", (10, -5), (10, 35)))
    b.do(do="edit_sketch", step=sketch, edit={"op": "construction", "curves": [curves[-1]], "on": True})
    assert len(find_regions(b.drawing(sketch)).found) == 1


def changed(edit: Any) -> tuple[Any, Regions]:
    """Reference the rectangle's region, apply an edit to the sketch, return the reference and the regions after."""
    b, sketch, curves = drawn(BIG)
    ref = region_ref(sketch, find_regions(b.drawing(sketch)).found[0])
    edit(b, sketch, curves)
    return ref, find_regions(b.drawing(sketch))


def cut_off_a_corner(b: Builder, sketch: str, curves: list[str]) -> None:
    b.draw(sketch, "line", (-5, 20), (20, 35))


@pytest.mark.parametrize(("edit", "doubt"), [
    (lambda b, s, c: b.draw(s, "circle", (20, 15), (25, 15)), "came into it"),
    (lambda b, s, c: b.draw(s, "rectangle", (50, 0), (60, 9)), ""),
    (lambda b, s, c: b.constrain(s, "distance", c[0], formula="90 mm"), ""),
    (lambda b, s, c: b.draw(s, "rectangle", (-5, 20), (5, 35)), "divided"),
    (cut_off_a_corner, "divided"),
], ids=["a hole is drawn", "another region is drawn", "it grows", "a corner is covered", "a corner is cut off"])
def test_a_region_is_found_again(edit: Any, doubt: str) -> None:
    ref, regions = changed(edit)
    region, told = find_region(ref, regions.found)
    assert region.area > 500
    assert (doubt in told) if doubt else told == ""


def test_a_region_that_fell_in_two_or_is_open_is_lost() -> None:
    ref, regions = changed(lambda b, s, c: b.draw(s, "line", (10, -5), (10, 35)))
    with pytest.raises(ReferenceLost, match="divided into 2"):
        find_region(ref, regions.found)
    ref, regions = changed(lambda b, s, c: b.do(do="edit_sketch", step=s, edit={"op": "remove", "entities": [c[0]]}))
    with pytest.raises(ReferenceLost, match="not there any more"):
        find_region(ref, regions.found)


@pytest.mark.parametrize(("shapes", "crossing", "overlaps"), [
    ([BIG], 0, 0),
    ([BIG, ("line", (10, -5), (10, 35))], 2, 0),
    ([BIG, ("line", (0, 10), (15, 10))], 0, 0),
    ([BIG, ("circle", (20, 5), (20, 0))], 0, 0),
    ([("circle", (0, 0), (5, 0)), ("circle", (5, 0), (10, 0))], 2, 0),
    ([("circle", (0, 0), (5, 0)), ("circle", (10, 0), (15, 0))], 0, 0),
    ([("line", (0, 0), (10, 10)), ("line", (0, 10), (10, 0))], 1, 0),
    ([BIG, ("line", (5, 0), (25, 0))], 0, 1),
    ([("circle", (0, 0), (5, 0)), ("circle", (0, 0), (5, 0))], 0, 1),
])
def test_crossings_and_overlaps_are_told_where_they_are(shapes: list, crossing: int, overlaps: int) -> None:
    regions = found(*shapes)
    assert (len(regions.crossings), len(regions.overlaps)) == (crossing, overlaps)
