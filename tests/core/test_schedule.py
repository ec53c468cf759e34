"""The hole schedule against places and sizes known beforehand: patterns, mirrors, tilted faces, moved bodies, the active system."""

from __future__ import annotations

import itertools
import math
import random
from typing import Any

import pytest

from tests.building import BODY, TOP, axis, datum, f, of_step
from tests.samples import evaluated, plate
from wendal.core import inspect
from wendal.core.errors import CommandRefused
from wendal.core.inspect import HolesListed
from wendal.demo.builder import Builder


def at(b: Builder, *places: tuple[float, float], z: float = 12.0) -> list[dict[str, Any]]:
    return [datum(b.step("point", f"P{b.part.last}", how="coordinates", x=f(f"{x} mm"), y=f(f"{y} mm"), z=f(f"{z} mm"))) for x, y in places]


def drilled(b: Builder, name: str, *places: tuple[float, float], **more: Any) -> str:
    more = {"end": "depth", "depth": f("7 mm"), **more}
    return b.step("hole", name, at=at(b, *places), start="from", start_at=TOP, **more)


def listed(b: Builder, order: str = "route") -> HolesListed:
    found = inspect.ask(b.part, evaluated(b), inspect.asked({"of": "holes", "order": order}))
    assert isinstance(found, HolesListed)
    return found


def places(found: HolesListed) -> list[tuple[float, float, float]]:
    return [tuple(round(v, 6) + 0.0 for v in r.place) for r in found.holes]  # type: ignore[misc]


def big() -> Builder:
    return plate("120 mm", "60 mm", "12 mm")


NOTES = [
    ({}, "Ø6 ↧ 7", 6.0, 7.0, ""),
    ({"diameter": f("8.5 mm"), "end": "through"}, "Ø8.5 through", 8.5, None, ""),
    ({"shape": "counterbore", "head": "typed", "head_diameter": f("11 mm"), "head_depth": f("3 mm")}, "Ø6 ↧ 7 ⌴ Ø11 ↧ 3", 6.0, 7.0, ""),
    ({"shape": "countersink", "head": "typed", "sink_diameter": f("12 mm"), "sink_angle": f("90 deg")}, "Ø6 ↧ 7 ⌵ Ø12 × 90°", 6.0, 7.0, ""),
    ({"sizing": "clearance", "screw": "M6", "end": "through", "shape": "counterbore"}, "Ø6.6 through ⌴ Ø11", 6.6, None, ""),
    ({"sizing": "tapped", "thread": "M6", "threaded": "part", "thread_depth": f("5 mm")}, "M6 ↧ 5, Ø5 ↧ 7", 5.0, 7.0, "M6"),
    ({"sizing": "tapped", "thread": "M8", "hand": "left", "end": "through"}, "M8 LH, Ø6.8 through", 6.8, None, "M8 LH"),
    ({"toleranced": "on", "tolerance": "H7"}, "Ø6 H7 (+0.012/0) ↧ 7", 6.0, 7.0, ""),
    ({"depth": f("20 mm")}, "Ø6 ↧ 12 (it comes out)", 6.0, None, ""),
]


@pytest.mark.parametrize(("more", "note", "diameter", "depth", "thread"), NOTES, ids=[n[1] for n in NOTES])
def test_each_manner_of_hole_by_what_is_left_of_its_faces(more: Any, note: str, diameter: float, depth: float | None, thread: str) -> None:
    b = big()
    drilled(b, "H", (30, 20), **more)
    (row,) = listed(b).holes
    assert row.note.startswith(note)
    assert (row.diameter, row.thread) == (pytest.approx(diameter, abs=1e-9), thread)
    assert row.depth == (None if depth is None else pytest.approx(depth, abs=1e-6))
    assert row.place == pytest.approx((30, 20, 12), abs=1e-9)
    assert row.into == pytest.approx((0, 0, -1), abs=1e-12)


def test_copies_in_patterns_and_mirrors_are_holes_of_their_own() -> None:
    b = big()
    hole = drilled(b, "H", (10, 10), (10, 20))
    across = b.step("pattern", "Row", seeds=[of_step(hole)], along=axis("X"), count=f("4"), spacing=f("25 mm"))
    middle = b.step("plane", "Middle", how="offset", first=axis("ZX"), distance=f("30 mm"))
    side = evaluated(b).site.datums[middle][0].frame.origin[1]  # the base plane may look either way
    if side < 0:
        b.do(do="edit_step", step=middle, fields={"distance": f("-30 mm")})
    b.step("mirror", "Other side", seeds=[of_step(hole), of_step(across)], about=datum(middle))
    found = listed(b, "x")
    want = sorted((x, y, 12.0) for x in (10, 35, 60, 85) for y in (10, 20, 40, 50))
    assert places(found) == [pytest.approx(p) for p in want]
    assert found.sizes == [("Ø6 ↧ 7", 16)]
    b.do(do="set_formula", tag="row_spacing", formula="30 mm")
    assert {p[0] for p in places(listed(b))} == {10, 40, 70, 100}


def test_a_hole_in_a_tilted_face_a_moved_body_and_the_active_system() -> None:
    b = big()
    tilted = b.step("plane", "Tilted", how="angle", first=axis("X"), second=axis("XY"), angle=f("30 deg"))
    raised = b.step("plane", "Raised", how="offset", first=datum(tilted), distance=f("5 mm"))
    spot = at(b, (40, 20), z=12)
    b.step("hole", "Aslant", at=spot, start="from", start_at=datum(raised), end="through", diameter=f("5 mm"))
    normal = evaluated(b).site.datums[raised][0].frame.normal
    (row,) = listed(b).holes
    # Square to the plane, through the given place, entering where its axis meets the top.
    assert abs(sum(a * c for a, c in zip(row.into, normal, strict=True))) == pytest.approx(1, abs=1e-9)
    assert row.place[2] == pytest.approx(12 if row.into[2] < 0 else 0, abs=1e-6)
    run = [p - q for p, q in zip(row.place, (40, 20, 12), strict=True)]
    cross = [run[1] * row.into[2] - run[2] * row.into[1], run[2] * row.into[0] - run[0] * row.into[2], run[0] * row.into[1] - run[1] * row.into[0]]
    assert math.hypot(*cross) < 1e-6


def test_places_are_told_in_the_active_system_and_follow_a_moved_body() -> None:
    b = big()
    drilled(b, "H", (30, 20))
    corner = at(b, (120, 60), z=0)[0]
    system = b.step("system", "Corner", how="axes", first=corner, second=axis("Y"), third=axis("Z"))
    b.do(do="set_active_system", step=system)
    frame = evaluated(b).site.datums[system][0].frame
    (row,) = listed(b).holes
    assert row.place == pytest.approx(frame.local((30, 20, 12)), abs=1e-9)
    assert row.at == pytest.approx((30, 20, 12), abs=1e-9)
    b.do(do="set_active_system", step="")
    b.step("move_body", "Away", body=BODY, x=f("100 mm"), y=f("-4 mm"), z=f("5 mm"))
    assert places(listed(b)) == [(130, 16, 17)]


def test_the_short_path_is_no_longer_than_any_of_a_few_holes() -> None:
    rng = random.Random(5)
    for _ in range(4):
        b = big()
        spots = [(rng.randrange(8, 112, 8), rng.randrange(8, 52, 8)) for _ in range(6)]
        spots = list(dict.fromkeys(spots))
        drilled(b, "H", *spots)
        found = [r.place for r in listed(b, "path").holes]

        def length(path: Any) -> float:
            return sum(math.dist(a, c) for a, c in itertools.pairwise(path))

        best = min(length((found[0], *rest)) for rest in itertools.permutations(found[1:]))
        assert length(found) <= 1.15 * best


def test_a_hole_that_was_cut_away_is_none_and_a_part_without_any_says_so() -> None:
    b = big()
    with pytest.raises(CommandRefused, match="There is no hole yet"):
        listed(b)
    hole = drilled(b, "H", (30, 20), (60, 20))
    assert len(listed(b).holes) == 2
    b.do(do="edit_step", step=hole, fields={"suppressed": True})
    with pytest.raises(CommandRefused, match="There is no hole yet"):
        listed(b)
