"""Datum planes: either order of picking, flip, formula, name, visibility, editing later."""

from __future__ import annotations

import pytest
from playwright.sync_api import expect

from tests.e2e.designer import Designer


def test_ask_first_then_pick_flip_rename_hide_and_edit(designer: Designer) -> None:
    d = designer
    d.new_part()
    d.keys("d", "p")
    d.says("Still needs a plane or a flat face")
    d.pick_flag("YZ")
    d.enter("name", "Left wall")
    d.enter("distance", "2 * 15 mm")
    d.says("Complete")
    d.keys(";")
    expect(d.editor.get_by_label("side")).to_have_value("back")
    d.accept()
    expect(d.step("Left wall")).to_contain_text("30 mm back from YZ")

    d.menu("Left wall", "Hide")
    expect(d.page.get_by_test_id("flag-Left wall")).to_have_count(0)
    d.menu("Left wall", "Show")
    expect(d.page.get_by_test_id("flag-Left wall")).to_be_visible()

    d.edit("Left wall")
    d.enter("distance", "4 mm")
    d.editor.get_by_label("Clear plane or flat face").click()
    d.says("Still needs a plane")
    d.pick_flag("ZX")
    d.accept()
    expect(d.step("Left wall")).to_contain_text("4 mm back from ZX")


def test_pick_first_then_ask_on_a_flat_face(designer: Designer) -> None:
    d = designer
    d.open_part("Instrument bracket")
    d.pick(60, 5, 12)
    expect(d.page.get_by_test_id("offers")).to_contain_text("top face of Base")
    d.offer("Plane")
    d.says("Complete")
    d.enter("distance", "seat_width / 2")
    d.accept()
    expect(d.step("Plane 1")).to_contain_text("43 mm out from top face of Base")
    d.page.get_by_label("Undo").click()
    expect(d.step("Plane 1")).to_have_count(0)
    d.settled()


@pytest.mark.parametrize(("typed", "told"), [
    ("", "A number or a formula is wanted here"),
    ("12 kg", "A length is wanted here"),
    ("1/0", "divides by zero"),
    ("nosuch + 1 mm", "There is no tag “nosuch”"),
    ("3 mm +", "ends too early"),
    ("5 $ 3", "can not be read"),
])
def test_a_bad_distance_is_told_at_the_blank_and_changes_nothing(designer: Designer, typed: str, told: str) -> None:
    d = designer
    d.new_part()
    before = d.version
    d.pick_flag("XY")
    d.keys("d", "p")
    d.enter("distance", typed)
    d.says(told)
    expect(d.editor.get_by_label("distance")).to_have_attribute("aria-invalid", "true")
    d.editor.get_by_role("button", name="Accept").click()
    d.says(told)
    expect(d.editor.get_by_label("distance")).to_have_value(typed)
    assert d.version == before


def test_everything_under_the_pointer_is_listed_and_can_be_chosen(designer: Designer) -> None:
    d = designer
    d.open_part("Instrument bracket")
    x, y = d.pixel((60, 5, 12))
    d.page.mouse.move(x, y)
    d.page.mouse.click(x, y, button="right")
    listed = d.page.get_by_test_id("under").get_by_role("menuitem")
    expect(listed.first).to_contain_text("top face of Base")
    assert listed.count() > 2
    listed.nth(1).click()
    expect(d.page.get_by_test_id("offers")).to_contain_text("picked:")
