"""Shells against formulas, before and after a change; what can not be hollowed is refused with what could be."""

from __future__ import annotations

import re
from typing import Any

import pytest

from tests.building import BODY, BOTTOM, PI, PLATE, TOP, built, drawn_on, f, on_top, side, volume
from tests.core.test_blends import edge
from tests.samples import evaluated, plate
from wendal.demo.builder import Builder


def hollow(b: Builder, **fields: Any) -> str:
    return b.step("shell", "Hollow", body=BODY, **fields)


SHELLS = {
    "open above": ({"openings": [TOP]}, PLATE - 36 * 21 * 8), "closed": ({}, PLATE - 36 * 21 * 6), "a tube": ({"openings": [TOP, BOTTOM]}, PLATE - 36 * 21 * 10),
    "at a corner": ({"openings": [TOP, side("c3")]}, PLATE - 36 * 23 * 8), "outwards": ({"openings": [TOP], "side": "out"}, 44 * 29 * 12 - PLATE),
    "closed outwards": ({"side": "out"}, 44 * 29 * 14 - PLATE),
    "other floor": ({"openings": [TOP], "other": "other", "walls": [BOTTOM], "thickness_two": f("5 mm")}, PLATE - 36 * 21 * 5),
    "two others": ({"openings": [TOP], "other": "other", "walls": [side("c6"), side("c12")], "thickness_two": f("4 mm")}, PLATE - 32 * 21 * 8),
}


@pytest.mark.parametrize("case", SHELLS)
def test_shells(case: str) -> None:
    fields, expected = SHELLS[case]
    b = plate()
    hollow(b, **fields)
    assert volume(b) == pytest.approx(expected, rel=1e-9)


def test_a_shell_follows_changes_and_its_walls_are_found_again() -> None:
    b = plate()
    step = hollow(b, openings=[TOP])
    names = [n for x in built(b).site.bodies["s2"].topology.faces for n in x.names if "/wall/" in n]
    assert len(names) == 5
    floor = next(n for n in names if "start" in n)
    mark = b.step("sketch", "On the floor", on={"of": "face", "body": "s2", "names": [floor]})
    rim = b.step("sketch", "On the rim", on=TOP)
    for tag, formula, expected in (("hollow_thickness", "3 mm", PLATE - 34 * 19 * 7), ("base_depth", "20 mm", 40 * 25 * 20 - 34 * 19 * 17),
                                   ("outline_width", "60 mm", 60 * 25 * 20 - 54 * 19 * 17)):
        b.do(do="set_formula", tag=tag, formula=formula)
        assert volume(b) == pytest.approx(expected, rel=1e-9)
    evaluation = built(b)
    assert evaluation.site.sketches[mark].frame.origin[2] == pytest.approx(3)
    assert evaluation.site.sketches[rim].frame.origin[2] == pytest.approx(20)
    assert [r.state for s in (step, mark, rim) for r in evaluation.report(s).references] == ["sound"] * 4


def test_a_rounded_cup_and_a_turned_one() -> None:
    b = plate()
    b.step("fillet", "Corners", edges=[edge(x, y) for x in ("low", "high") for y in ("left", "right")], radius=f("5 mm"))
    step = hollow(b, openings=[TOP])

    def rounded(w: float, h: float, r: float) -> float:
        return w * h - (4 - PI) * r * r

    assert volume(b) == pytest.approx(rounded(40, 25, 5) * 10 - rounded(36, 21, 3) * 8, rel=1e-9)
    b.do(do="edit_step", step=step, fields={"side": "out"})
    assert volume(b) == pytest.approx(rounded(44, 29, 7) * 12 - rounded(40, 25, 5) * 10, rel=1e-9)
    b = plate()
    b.step("extrude", "Tower", profile=b.profile(drawn_on(b, TOP, "circle", (20, 12), (28, 12)), 0), depth=f("30 mm"), result="new")
    tower = b.part.steps[-1].id
    top = {"of": "face", "body": tower, "names": [f"{tower}/end/r1"]}
    b.step("shell", "Cup", body={"of": "body", "body": tower}, openings=[top], thickness=f("1.5 mm"))
    assert volume(b) == pytest.approx(PLATE + PI * (64 * 30 - 6.5**2 * 28.5), rel=1e-9)


@pytest.mark.parametrize(("fields", "told"), [
    ({"openings": [TOP], "thickness": f("13 mm")}, r"Walls of 13 mm can not be made here; it works up to about (9\.\d*|12\.\d*) mm"),
    ({"openings": [TOP], "other": "other", "walls": [TOP]}, "left open and have a wall too"),
])
def test_what_can_not_be_hollowed_is_refused_with_what_could_be(fields: dict[str, Any], told: str) -> None:
    b = plate()
    step = hollow(b, **fields)
    report = evaluated(b).report(step)
    assert report.state == "stopped"
    assert re.search(told, report.message), report.message


def test_a_wall_is_never_thinner_or_thicker_than_asked_without_a_word() -> None:
    """Thicker than a rounded edge: the kernel's offset of the round would be wrong; it is refused, or right."""
    b = plate()
    b.step("fillet", "All", edges=[TOP, edge("low", "left")], radius=f("3 mm"))
    step = hollow(b, openings=[BOTTOM], thickness=f("4 mm"))
    report = evaluated(b).report(step)
    assert report.state == "stopped"
    assert "works up to about 2.9" in report.message or "can not be hollowed so" in report.message
    b.do(do="edit_step", step=step, fields={"thickness": f("2 mm")})
    assert evaluated(b).report(step).state == "built"


def test_a_boss_inside_the_hollow_stays() -> None:
    b = plate()
    b.step("extrude", "Boss", profile=on_top(b, "circle", (20, 12), (24, 12)), depth=f("6 mm"), result="add", bodies=[BODY])
    hollow(b, openings=[BOTTOM])
    assert volume(b) == pytest.approx(PLATE + PI * 16 * 6 - 36 * 21 * 8 - PI * 4 * 6, rel=1e-9)  # open below: the boss is hollow too


def test_walls_evenly_to_both_sides() -> None:
    b = plate()
    step = b.step("shell", "Both", body=BODY, thickness=f("2 mm"), side="both")
    assert volume(b) == pytest.approx(42 * 27 * 12 - 38 * 23 * 8, rel=1e-9)
    b.do(do="edit_step", step=step, fields={"openings": [TOP]})
    assert volume(b) == pytest.approx(42 * 27 * 11 - 38 * 23 * 9, rel=1e-9)
    b.do(do="set_formula", tag="both_thickness", formula="3 mm")
    assert volume(b) == pytest.approx(43 * 28 * 11.5 - 37 * 22 * 8.5, rel=1e-9)
