"""Datums at the browser: inclined, midway, touching, through corners, spread points, a system made active, a lost reference mended."""

from __future__ import annotations

import math
import re

import pytest
from playwright.sync_api import expect

from tests.e2e.designer import Designer
from tests.e2e.test_extrude_and_change import circle_on_plate, plate

RIM, TOP = (9, 0, 10), (33, 5, 10)  # a place on the front upper edge of the plate, and one on its top


@pytest.mark.parametrize("order", ["edge first", "face first"])
@pytest.mark.parametrize("asked", ["ask first", "pick first"])
def test_an_inclined_plane_in_every_order(designer: Designer, order: str, asked: str) -> None:
    d = designer
    plate(d)
    picks = [RIM, TOP] if order == "edge first" else [TOP, RIM]
    if asked == "ask first":
        d.keys("d", "p")
    for i, place in enumerate(picks):
        d.pick(*place, more=bool(i) and asked == "pick first")
        d.quiet()
    if asked == "pick first":
        d.offer("Plane through a line, at an angle")
    d.says("Complete")
    expect(d.editor.get_by_label("way")).to_have_value("angle")
    d.enter("angle", "20 deg")
    d.accept()
    expect(d.step("Plane 1")).to_contain_text("20°")


def test_copies_another_angle_and_the_other_answer(designer: Designer) -> None:
    d = designer
    plate(d)
    d.pick(*RIM)
    d.pick(*TOP, more=True)
    d.offer("Plane through a line, at an angle")
    d.enter("copies", "3")
    d.enter("angle", "15 deg")
    d.accept()
    expect(d.page.get_by_test_id("flag-Plane 1 3")).to_have_count(1)
    d.edit("Plane 1")
    d.enter("angle", "35 deg")
    d.says("Complete")
    d.editor.get_by_label("answer").click()
    expect(d.editor.get_by_label("answer")).to_have_text("second of 2 answers")
    d.accept()
    expect(d.step("Plane 1")).to_contain_text("35°")


def test_midway_between_faces_then_the_block_grows(designer: Designer) -> None:
    d = designer
    plate(d)
    d.keys("d", "p")
    d.pick(40, 8, 5)
    d.quiet()
    d.pick_flag("YZ")
    d.says("Complete")
    expect(d.editor.get_by_label("way")).to_have_value("midway")
    d.accept()
    expect(d.step("Plane 1")).to_contain_text("midway between")
    d.pick_flag("Plane 1")
    d.keys("k", "n")
    d.accept()
    d.board_ready()
    d.close_sketch()
    d.page.get_by_role("button", name="sketch_1_width 40 mm").click()
    d.type_in(d.page.get_by_test_id("formula"), "64 mm")
    d.page.get_by_test_id("formula").press("Enter")
    expect(d.page.locator("[data-tag=sketch_1_width]")).to_contain_text("64 mm")
    d.settled()
    expect(d.page.get_by_test_id("route-state")).to_contain_text("all built")


def test_a_touching_plane_is_turned_to_the_other_side(designer: Designer) -> None:
    d = designer
    circle_on_plate(d)
    d.pick(22, 12, 10)
    d.offer("Extrude")
    d.choose("result", "adding to")
    d.enter("depth", "12 mm")
    d.accept()
    d.pick(20 + 5 * 0.53, 12 - 5 * 0.85, 17)
    expect(d.page.get_by_test_id("offers")).to_contain_text("round face of Extrude 1")
    d.page.keyboard.down("Shift")
    d.pick_flag("YZ")
    d.page.keyboard.up("Shift")
    d.offer("Plane touching a round face, parallel to a plane")
    d.says("Complete")
    d.editor.get_by_role("button", name=re.compile("Other answer")).click()
    expect(d.editor.get_by_label("answer")).to_have_text("second of 2 answers")
    d.accept()
    expect(d.step("Plane 1")).to_contain_text("touching")


def test_through_three_corners_that_then_move(designer: Designer) -> None:
    d = designer
    plate(d)
    d.keys("d", "p")
    for corner in ((0, 0, 10), (40, 0, 0), (40, 25, 10)):
        d.pick(*corner)
        d.quiet()
    d.says("Complete")
    expect(d.editor.get_by_label("way")).to_have_value("points")
    d.accept()
    d.page.get_by_role("button", name="sketch_1_width 40 mm").click()
    d.type_in(d.page.get_by_test_id("formula"), "70 mm")
    d.page.get_by_test_id("formula").press("Enter")
    expect(d.page.locator("[data-tag=sketch_1_width]")).to_contain_text("70 mm")
    d.settled()
    expect(d.page.get_by_test_id("route-state")).to_contain_text("all built")


def test_points_spread_evenly_along_an_edge(designer: Designer) -> None:
    d = designer
    plate(d)
    d.pick(*RIM)
    d.keys("d", "o")
    d.quiet()
    d.choose_in(d.editor.get_by_label("way"), "Several along a curve, evenly")
    d.enter("count", "5")
    d.accept()
    expect(d.page.get_by_test_id("flag-Point 1 5")).to_have_count(1)
    d.edit("Point 1")
    d.enter("count", "2.5")
    d.says("whole number")


def test_a_system_made_active_is_what_the_readout_follows(designer: Designer) -> None:
    d = designer
    plate(d)
    d.keys("d", "s")
    d.pick(*TOP)
    d.quiet()
    d.pick(*RIM)
    d.quiet()
    d.pick(40, 0, 10)
    d.says("Complete")
    expect(d.editor.get_by_label("way")).to_have_value("on_face")
    d.enter("name", "Seat")
    d.accept()
    d.menu("Seat", "Work in this system")
    expect(d.page.get_by_test_id("active-system")).to_contain_text("Seat")
    d.settled()
    x, y = d.pixel((40, 25, 10))
    d.page.mouse.move(x + 1, y)
    d.page.mouse.move(x, y)
    expect(d.page.get_by_test_id("readout")).to_contain_text(re.compile(r"Seat\s+x 0\.000\s+y 25\.000\s+z 0\.000"))
    d.page.reload()
    d.settled()
    expect(d.page.get_by_test_id("active-system")).to_contain_text("Seat")


def test_a_lost_reference_is_told_with_candidates_and_mended_by_one_click(designer: Designer) -> None:
    d = designer
    plate(d)
    d.pick(40, 8, 5)
    d.offer("Plane at a distance")
    d.accept()
    d.page.get_by_role("button", name="Sketch 1", exact=True).click()
    d.board_ready()
    d.select((40, 9))
    d.keys("Delete")
    expect(d.page.get_by_test_id("curve")).to_have_count(3)
    d.draw("l", (40, 0), (40, 25))
    d.close_sketch()
    expect(d.step("Plane 1")).to_contain_text("Stopped:")
    d.step("Plane 1").get_by_test_id("candidate").first.hover()
    expect(d.page.get_by_test_id("repick-foreseen")).to_contain_text("Reaches")
    d.step("Plane 1").get_by_test_id("candidate").first.click()
    d.settled()
    expect(d.step("Plane 1")).not_to_contain_text("Stopped:")


def test_what_a_step_stands_on_is_shown_both_ways(designer: Designer) -> None:
    d = designer
    d.open_part("Instrument bracket")
    d.page.get_by_label("Show what Seat plane stands on").hover()
    expect(d.step("Tilt line")).to_have_attribute("data-relation", "under")
    expect(d.step("Seat block")).to_have_attribute("data-relation", "over")
    expect(d.step("Web plane")).to_have_attribute("data-relation", "")


def test_what_a_change_reaches_is_told_before_it_is_accepted(designer: Designer) -> None:
    d = designer
    d.open_part("Instrument bracket")
    d.edit("Base")
    d.enter("depth", "16 mm")
    expect(d.page.get_by_test_id("foreseen")).to_contain_text(re.compile(r"Reaches \d+ later steps. Volume of Base 206 944 →"))
    d.page.get_by_role("button", name="Cancel").click()


def test_picks_of_which_nothing_can_be_made_say_why(designer: Designer) -> None:
    d = designer
    plate(d)
    d.keys("d", "a")
    for corner in ((0, 0, 10), (40, 0, 10)):
        d.pick(*corner)
        d.quiet()
    d.says("Complete")
    d.pick(40, 25, 10)  # a third corner: three points give a plane or a system, but no axis
    expect(d.page.get_by_test_id("note")).to_contain_text("There is no axis that stands on just these")
    d.says("Complete")
    expect(d.editor.get_by_label("way")).to_have_value("points")


def test_a_parallel_plane_is_pulled_off_by_dragging_its_flag(designer: Designer) -> None:
    d = designer
    plate(d)
    box = d.page.get_by_test_id("flag-XY").bounding_box()
    assert box
    x, y = box["x"] + 6, box["y"] + 8
    d.page.mouse.move(x, y)
    d.page.mouse.down()
    for k in range(1, 9):
        d.page.mouse.move(x, y - 12 * k)
    d.page.mouse.up()
    d.says("Complete")
    expect(d.editor.get_by_label("distance")).to_have_value(re.compile(r"^\d+(\.\d+)? mm$"))
    expect(d.editor.get_by_label("side")).to_have_value("out")
    d.accept()
    expect(d.step("Plane 1")).to_contain_text("out from XY")


def test_an_axis_stands_where_a_face_was_clicked_told_from_two_edges(designer: Designer) -> None:
    d = designer
    plate(d)
    d.pick(9, 6, 10)
    d.offer("Axis square to the face, here")
    d.says("Complete")
    expect(d.editor.get_by_label("distance", exact=True)).to_have_value(re.compile(r"^(5\.\d+|6(\.\d+)?) mm$"))
    d.enter("distance", "7 mm")
    d.enter("second distance", "sketch_1_width / 4")
    d.accept()
    expect(d.step("Axis 1")).to_contain_text("7 mm")
    expect(d.step("Axis 1")).to_contain_text("10 mm")


def test_a_system_on_the_inclined_seat_made_active_tells_places_along_it(designer: Designer) -> None:
    d = designer
    d.open_part("Instrument bracket")
    tilt = math.radians(22)
    at = lambda x, v: (x, v * math.cos(tilt), 34 + v * math.sin(tilt))  # noqa: E731  places on the seat: along, up the slope
    d.keys("d", "s")
    d.pick(*at(95, 62))
    d.quiet()
    d.pick(*at(80, 2))
    d.quiet()
    d.pick(*at(17, 2))
    expect(d.editor.get_by_label("way")).to_have_value("on_face")
    d.enter("name", "On the seat")
    d.accept()
    d.menu("On the seat", "Work in this system")
    d.settled()
    x, y = d.pixel(at(103, 78))
    d.page.mouse.move(x + 1, y)
    d.page.mouse.move(x, y)
    expect(d.page.get_by_test_id("readout")).to_contain_text(re.compile(r"On the seat\s+x 86\.000\s+y 76\.000\s+z 0\.000"))
    d.keys("Control+z", "Control+z")
    d.settled()


def test_an_axis_where_faces_of_two_bodies_would_meet(designer: Designer) -> None:
    d = designer
    plate(d)
    d.pick_flag("XY")
    d.keys("k", "n")
    d.accept()
    d.board_ready()
    d.draw("r", (-9, 5), (-4, 15))
    d.close_sketch()
    d.keys("l", "f")
    d.keys("b", "e")
    d.pick(-6, 11, 0, thing="region")
    d.choose("result", "making a new body")
    d.enter("depth", "25 mm")
    d.accept()
    d.keys("l", "f")
    d.pick(9, 6, 10)
    d.pick(-6, 5, 18, more=True)
    d.offer("Axis where two planes meet")
    d.accept()
    expect(d.step("Axis 1")).to_contain_text("meets")
    expect(d.page.get_by_test_id("route-state")).to_contain_text("all built")


def test_a_plane_at_a_formula_follows_its_tag(designer: Designer) -> None:
    d = designer
    plate(d)
    d.page.get_by_role("button", name="Ledger").click()
    d.type_in(d.page.get_by_label("New tag"), "base_height")
    d.type_in(d.page.get_by_label("New formula"), "30 mm")
    d.page.get_by_role("button", name="Add", exact=True).click()
    expect(d.page.locator("[data-tag=base_height]")).to_contain_text("30 mm")
    d.page.get_by_role("button", name="Ledger").click()
    d.keys("d", "p")
    d.pick_flag("XY")
    d.enter("distance", "base_height - 10 mm")
    d.accept()
    expect(d.step("Plane 1")).to_contain_text("20 mm out from XY")
    d.page.get_by_role("button", name="base_height 30 mm").click()
    d.type_in(d.page.get_by_test_id("formula"), "2 in")
    d.page.get_by_test_id("formula").press("Enter")
    expect(d.step("Plane 1")).to_contain_text("40.8 mm out from XY")
