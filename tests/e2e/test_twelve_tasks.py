"""Tasks of a first hour that no other journey has: a stack, axes and points of every kind, an arm of four circles, a plane square to a curve,
thirty steps back in two windows. By mouse and keys; their numbers are told with WENDAL_COUNTS."""

from __future__ import annotations

import json
import math

import pytest
from playwright.sync_api import expect

from tests.e2e.designer import Designer
from tests.e2e.test_extrude_and_change import plate
from tests.samples import plate_with_circle


def test_a_stack_of_three_that_follows_its_first_height(designer: Designer) -> None:
    d = designer
    plate(d)
    for low, (w, h), top in (((5, 5), (20, 12), 10), ((8, 8), (10, 6), 16)):
        d.pick(low[0] + 1, low[1] + 1, top)
        d.offer("New sketch")
        d.accept()
        d.board_ready()
        d.draw("r", low, (low[0] + w, low[1] + h), width=f"{w} mm", height=f"{h} mm")
        d.close_sketch()
        d.pick(low[0] + 2, low[1] + 2, top, thing="region")
        d.offer("Extrude")
        d.choose("result", "adding to")
        d.enter("depth", "6 mm")
        d.accept()
    assert d.volume() == pytest.approx(10_000 + 240 * 6 + 60 * 6)
    d.step("Extrude 1").get_by_role("button", name="10 mm").click()
    d.enter("depth", "4 mm")
    d.accept()
    assert d.volume() == pytest.approx(4_000 + 240 * 6 + 60 * 6)
    assert d.report()["bodies"][0]["high"][2] == pytest.approx(16)


def hole(d: Designer) -> None:
    """The plate with a round hole of 10 through its middle at 20, 12."""
    d.begin(plate_with_circle(drilled=True).part)


def test_six_axes_and_six_points(designer: Designer) -> None:
    d = designer
    hole(d)
    wall, rim, top, side = (20 + 5 * math.cos(2.4), 12 + 5 * math.sin(2.4), 3), (9, 0, 10), (33, 5, 10), (40, 18, 4)
    axes = [("of_round", [wall]), ("along", [rim]), ("planes", [top, side]), ("points", [(0, 25, 10), (40, 25, 10)]), ("square", [top, (0, 0, 0)]),
            ("direction", [(0, 25, 10), (40, 19, 10)])]
    points = [("centre", [(20 + 5 * math.cos(2.4), 12 + 5 * math.sin(2.4), 10)]), ("at_point", [(40, 25, 0)]), ("centroid", [side]),
              ("lines_cross", [rim, (40, 19, 10)]), ("line_plane", [rim, (40, 21, 8)]), ("curve_share", [(40, 25, 4)])]
    for key, made in (("a", axes), ("o", points)):
        for how, picks in made:
            for i, place in enumerate(picks):
                d.pick(*place, more=bool(i), thing="wall" if how == "of_round" else "")
                d.quiet()
            d.keys("d", key)
            d.take_way(how)
            d.accept()
    assert [s["state"] for s in d.report()["steps"]] == ["built"] * 16
    d.set_formula("sketch_1_width", "60 mm")
    assert [s["state"] for s in d.report()["steps"]] == ["built"] * 16


def test_an_arm_of_four_circles_is_trimmed(board: Designer) -> None:
    """Two eyes with a hole each, joined by tangent lines, the halves inside trimmed away."""
    d = board
    for centre, edges in (((0, 0), (12, 5)), ((45, 0), (8, 4))):
        for r in edges:
            d.draw("c", centre, (centre[0] + r, centre[1]))
    tilt = math.acos((12 - 8) / 45)
    for s in (1, -1):
        d.draw("l", (12 * math.cos(tilt), s * 12 * math.sin(tilt)), (45 + 8 * math.cos(tilt), s * 8 * math.sin(tilt)))
    d.keys("k", "i")
    d.click_tool((12, 0), (37, 0))
    d.keys("Escape")
    half = math.pi - tilt
    outside = 12**2 * half + 8**2 * tilt + (12 + 8) * math.sqrt(45**2 - 4**2)
    areas = d.areas()
    assert max(areas) == pytest.approx(outside - math.pi * (25 + 16), rel=0.02)
    d.close_sketch()
    d.keys("l", "f")
    d.pick(22, 0, 0)
    d.offer("Extrude")
    d.enter("depth", "8 mm")
    d.accept()
    assert d.volume() == pytest.approx(8 * (outside - math.pi * (25 + 16)), rel=0.02)


def test_a_plane_square_to_an_edge_and_to_a_curve(designer: Designer) -> None:
    d = designer
    hole(d)
    d.pick(9, 0, 10)
    d.keys("d", "p")
    d.take_way("curve_share")
    d.enter("share", "25 %")
    d.accept()
    expect(d.step("Plane 1")).to_contain_text("square to")
    d.pick(20 + 5 * math.cos(2.4), 12 + 5 * math.sin(2.4), 10)
    d.keys("d", "p")
    d.take_way("curve_length")
    d.enter("distance", "6 mm")
    d.accept()
    d.edit("Plane 2")
    d.enter("distance", "60 mm")
    d.says("long")  # longer than the curve: told, and nothing is changed
    d.editor.get_by_role("button", name="Cancel").click()
    assert [s["state"] for s in d.report()["steps"]] == ["built"] * 6


def test_thirty_steps_back_in_one_window_are_seen_in_the_other(designer: Designer) -> None:
    d = designer
    plate(d)
    first = d.version
    other = Designer(d.page.context.new_page(), d.url)
    other.page.goto(d.page.url)
    other.settled()
    d.page.bring_to_front()  # a page behind another draws one frame a second
    for k in range(30):
        d.set_formula("extrude_1_depth", f"{11 + k} mm")
    assert d.volume() == pytest.approx(40_000)
    expect(other.page.locator("[data-tag=extrude_1_depth]").or_(other.step("Extrude 1")).first).to_contain_text("40 mm")
    for k in range(30):
        d.keys("Control+z")
        expect(d.step("Extrude 1")).to_contain_text(f"{39 - k} mm")
    expect(other.step("Extrude 1")).to_contain_text("10 mm")
    d.settled()
    assert d.volume() == pytest.approx(10_000)
    assert d.version == first
    other.keys("Control+Shift+Z")
    expect(d.step("Extrude 1")).to_contain_text("11 mm")
    other.page.close()


def test_the_view_goes_back_after_it_came_along_and_a_system_is_switched_on_again(designer: Designer) -> None:
    d = designer
    plate(d)
    stage = d.page.get_by_test_id("stage")
    d.set_formula("sketch_1_width", "41 mm")  # the ledger is open now, and the stage keeps its size
    view = lambda: json.loads(stage.get_attribute("data-view") or "")  # noqa: E731
    before = d.at_rest(view)
    d.set_formula("sketch_1_width", "400 mm")
    assert d.at_rest(view)[0] < before[0] / 5
    d.page.get_by_test_id("note").get_by_role("button", name="Back").click()
    assert d.at_rest(view)[0] == pytest.approx(before[0], rel=0.01)
    for _ in range(2):
        d.keys("Control+z")
        d.settled()
    d.keys("l", "f")
    d.pick(33, 5, 10)
    d.keys("d", "s")
    d.says("Complete")
    d.enter("name", "Seat")
    d.accept()
    d.menu("Seat", "Work in this system")
    expect(d.page.get_by_test_id("active-system")).to_contain_text("Seat")
    d.settled()
    d.menu("Seat", "Delete")
    told = d.page.get_by_test_id("note").filter(has_text="own system again")
    told.get_by_role("button", name="Undo").click()
    expect(d.page.get_by_test_id("active-system")).to_contain_text("Seat")
