"""Extruding in both orders of picking, and changing dimensions everywhere one can."""

from __future__ import annotations

import math

import pytest
from playwright.sync_api import expect

from tests.e2e.designer import Designer
from tests.samples import plate_by_default, plate_with_circle


def plate(d: Designer, depth: str = "10 mm") -> None:
    """A plate of 40 x 25 with its corner at the origin."""
    d.begin(plate_by_default(depth).part)


def circle_on_plate(d: Designer) -> None:
    """The plate with a circle of 10 drawn on its top."""
    d.begin(plate_with_circle().part)


def plate_by_hand(d: Designer, depth: str = "10 mm") -> None:
    """Make a plate of 40 x 25 with its corner at the origin."""
    d.new_part_from_the_list()
    d.pick_flag("XY")
    d.keys("k", "n")
    d.accept()
    d.board_ready()
    d.draw("r", (0, 0), (30, 20), width="40 mm", height="25 mm")
    d.close_sketch()
    d.keys("l", "f")
    d.pick(30, 12, 0)
    d.offer("Extrude")
    d.enter("depth", depth)
    d.accept()


def circle_by_hand(d: Designer) -> None:
    """Draw a circle of 10 on the plate's top."""
    d.pick(20, 12, 10, thing="top face")
    d.offer("New sketch")
    d.accept()
    d.board_ready()
    d.draw("c", (20, 12), (25, 12), diameter="10 mm")
    d.close_sketch()


def test_cut_down_with_the_material_shown_before(designer: Designer) -> None:
    d = designer
    plate_by_hand(d)
    circle_by_hand(d)
    d.keys("b", "e")
    d.pick(22, 12, 10)
    d.choose("extent", "into its plane by")
    d.choose("result", "cutting")
    d.enter("depth", "4 mm")
    d.says("Removes 314 mm³")
    d.accept()
    assert d.volume() == pytest.approx(10_000 - math.pi * 25 * 4)
    # The other way it would miss the body: told, and nothing changes.
    d.edit("Extrude 2")
    d.choose("extent", "out of its plane by")
    d.says("This cuts nothing")
    d.editor.get_by_role("button", name="Accept").click()
    d.says("This cuts nothing")
    d.editor.get_by_role("button", name="Cancel").click()
    assert d.volume() == pytest.approx(10_000 - math.pi * 25 * 4)


def test_symmetric_and_separate_bodies(designer: Designer) -> None:
    d = designer
    circle_on_plate(d)
    d.pick(22, 12, 10)
    d.offer("Extrude")
    d.choose("extent", "evenly both ways, in all")
    d.choose("result", "making a new body")
    d.enter("depth", "6 mm")
    d.accept()
    bodies = d.report()["bodies"]
    assert len(bodies) == 2
    assert (bodies[1]["low"][2], bodies[1]["high"][2]) == pytest.approx((7, 13))


@pytest.mark.parametrize(("depth", "told"), [("0 mm", "must be greater than zero"), ("-3 mm", "must be greater than zero"),
                                             ("", "A number or a formula is wanted"), ("45 deg", "A length is wanted")])
def test_a_bad_depth_changes_nothing(designer: Designer, depth: str, told: str) -> None:
    d = designer
    plate(d)
    version = d.version
    d.edit("Extrude 1")
    d.enter("depth", depth)
    d.says(told)
    d.editor.get_by_role("button", name="Accept").click()
    d.says(told)
    assert d.version == version
    assert d.volume() == pytest.approx(10_000)


def test_change_in_sentence_ledger_and_sketch_then_undo_redo_reload_and_second_tab(designer: Designer) -> None:
    d = designer
    plate(d)
    other = Designer(d.page.context.new_page(), d.url)
    other.page.goto(d.page.url)
    other.settled()
    d.page.bring_to_front()  # a page behind another draws one frame a second

    d.step("Extrude 1").get_by_role("button", name="10 mm").click()
    d.enter("depth", "12 mm")
    d.accept()
    expect(other.step("Extrude 1")).to_contain_text("12 mm")
    assert d.volume() == pytest.approx(12_000)

    d.page.get_by_role("button", name="sketch_1_width 40 mm").click()
    field = d.page.get_by_test_id("formula")
    d.type_in(field, "2 * sketch_1_height")
    field.press("Enter")
    expect(d.page.locator("[data-tag=sketch_1_width]")).to_contain_text("50 mm")
    d.settled()
    assert d.volume() == pytest.approx(15_000)
    expect(other.page.get_by_test_id("ledger")).to_contain_text("sketch_1_width 50 mm")

    # An edit for an older state is refused in the second tab only when it really is older; here it has followed.
    other.page.keyboard.press("Control+z")
    expect(d.page.locator("[data-tag=sketch_1_width]")).to_contain_text("40 mm")
    d.page.get_by_label("Redo").click()
    expect(other.page.get_by_test_id("ledger")).to_contain_text("sketch_1_width 50 mm")
    for _ in range(2):
        d.keys("Control+z")
        d.quiet()
    d.settled()
    assert d.volume() == pytest.approx(10_000)
    d.page.reload()
    d.settled()
    d.keys("Control+Shift+Z")
    expect(d.step("Extrude 1")).to_contain_text("12 mm")
    other.page.close()


def test_bad_formulas_in_the_ledger(designer: Designer) -> None:
    d = designer
    plate(d)
    d.page.get_by_role("button", name="Ledger").click()
    for tag, typed, told in (("sketch_1_width", "sketch_1_height", ""), ("sketch_1_height", "sketch_1_width", "circle"),
                             ("sketch_1_height", "depth_of_sea", "no tag"), ("extrude_1_depth", "0 mm", "greater than zero"),
                             ("sketch_1_height", "-1 mm", "greater than zero")):
        row = d.page.locator(f"[data-tag={tag}]")
        row.get_by_role("button").nth(1).click()
        field = d.page.get_by_test_id("formula")
        d.type_in(field, typed)
        field.press("Enter")
        if told:
            expect(d.page.get_by_test_id("ledger-trouble")).to_contain_text(told)
            field.press("Escape")
        else:
            expect(field).to_have_count(0)
    d.settled()
    assert d.volume() == pytest.approx(25 * 25 * 10)


def test_a_region_that_is_gone_stops_the_step_and_a_new_pick_mends_it(designer: Designer) -> None:
    d = designer
    plate(d)
    d.page.get_by_role("button", name="Sketch 1", exact=True).click()
    d.board_ready()
    d.select((0, 12))
    d.keys("Delete")
    expect(d.page.get_by_test_id("curve")).to_have_count(3)
    d.close_sketch()
    expect(d.step("Extrude 1")).to_contain_text("Stopped: The region is not there any more")
    d.page.get_by_role("button", name="Sketch 1", exact=True).click()
    d.board_ready()
    d.draw("l", (0, 25), (0, 0))
    d.close_sketch()
    expect(d.page.get_by_test_id("route-state")).not_to_contain_text("stopped")
