"""The first hour: tools at hand, nothing covered, nothing in silence; by mouse and keys."""

from __future__ import annotations

import re
from typing import Any

import pytest
from playwright.sync_api import Page, expect

from tests.conftest import eventually
from tests.e2e.designer import Designer
from tests.e2e.test_building import finish, sketch_on

# Buttons and fields that could not be hit: outside of the window, or under something else, and not to be scrolled to.
HIDDEN = """() => [...document.querySelectorAll('button, input, select, a')].filter((e) => {
  const r = e.getBoundingClientRect();
  if (!r.width || getComputedStyle(e).visibility === 'hidden' || e.closest('[data-flag]')) return false;
  for (let p = e.parentElement; p; p = p.parentElement) if (/auto|scroll/.test(getComputedStyle(p).overflow)) return false;
  const [x, y] = [r.left + r.width / 2, r.top + r.height / 2];
  if (r.left < -1 || r.top < -1 || r.right > innerWidth + 1 || r.bottom > innerHeight + 1) return true;
  const hit = document.elementFromPoint(x, y);
  return !(hit && (e.contains(hit) || hit.contains(e) || hit.closest('button, a, label') === e));
}).map((e) => (e.getAttribute('aria-label') || e.innerText || e.tagName).trim())"""


def note(d: Designer) -> Any:
    return d.page.get_by_test_id("note")


def rail(d: Designer, name: str) -> Any:
    return d.page.get_by_test_id("rail").get_by_role("button", name=name, exact=True)


def test_the_tools_stand_beside_the_drawing_and_tell_what_fits(designer: Designer) -> None:
    d, page = designer, designer.page
    d.new_part()
    sketch_on(d, "XY")
    rail(d, "Rectangle").click()
    expect(rail(d, "Rectangle")).to_have_attribute("aria-pressed", "true")
    d.click((-20, -10), (20, 10))
    d.answered()
    d.keys("Escape")
    lit = page.get_by_test_id("curve").and_(page.locator("[class*=stroke-brass]"))
    expect(lit).to_have_count(0)
    page.get_by_test_id("freedoms").locator("li").first.hover()
    expect(lit).not_to_have_count(0)  # what it moves is lit
    rail(d, "Parallel").hover()
    expect(page.get_by_role("tooltip")).to_contain_text("Pick first.")
    d.select((0, -10), (20, 0))
    rail(d, "Parallel").hover()
    expect(page.get_by_role("tooltip")).not_to_contain_text("Pick first")
    rail(d, "Midpoint").hover()
    expect(page.get_by_role("tooltip")).to_contain_text("does not fit")
    d.freedoms("4 freedoms left")
    rail(d, "Equal").click()
    d.freedoms("3 freedoms left")
    page.get_by_label("fold to pictograms").click()
    expect(page.get_by_test_id("rail")).not_to_contain_text("Rectangle")
    page.reload()
    d.settled()
    d.step("Sketch 1").get_by_role("button", name="Sketch 1", exact=True).click()
    d.board_ready()
    expect(page.get_by_test_id("rail")).not_to_contain_text("Rectangle")  # as it was left
    rail(d, "Circle").click()
    d.click((0, 0), (5, 0))
    d.answered()
    expect(page.get_by_test_id("curve")).to_have_count(5)


@pytest.mark.parametrize("size", [(1024, 700, 1.0), (1280, 800, 1.0), (1920, 1080, 1.0), (853, 533, 1.5)])
def test_nothing_is_cut_off_or_covered(designer: Designer, size: tuple[int, int, float]) -> None:
    """In windows of three sizes, and in one of 1280 x 800 at 150 %."""
    d, page = designer, designer.page
    page.set_viewport_size({"width": size[0], "height": size[1]})
    d.open_part("Instrument bracket")
    assert page.evaluate(HIDDEN) == []
    page.get_by_role("button", name="Ledger").click()
    assert page.evaluate(HIDDEN) == []
    page.get_by_role("button", name="Ledger").click()
    d.edit("Seat block")
    d.says("Complete")
    assert page.evaluate(HIDDEN) == []
    d.keys("Escape")
    d.step("Seat outline").get_by_role("button", name="Seat outline", exact=True).click()
    d.board_ready()
    assert page.evaluate(HIDDEN) == []
    d.keys("k", "m")
    expect(page.get_by_test_id("toolbar")).to_be_visible()
    assert page.evaluate(HIDDEN) == []
    board, strip = page.get_by_test_id("board").bounding_box(), page.get_by_test_id("strip").bounding_box()
    assert board
    assert strip
    assert board["y"] + board["height"] <= strip["y"] + 1  # the tool's form lies beside the drawing, never over it


def test_circles_catch_tangency_and_the_grid_is_shown_and_held_off(designer: Designer) -> None:
    d, page = designer, designer.page
    d.new_part()
    sketch_on(d, "XY")
    d.draw("c", (-20, 5), (-10, 5))
    d.keys("k", "c")
    d.click((20, 12))
    x, y = d.on_board((15, 20))
    page.mouse.move(x, y)
    expect(page.get_by_test_id("on-grid")).to_have_count(1)
    expect(page.get_by_test_id("readout")).to_contain_text("on the grid of 1 mm")
    page.keyboard.down("q")
    page.mouse.move(x + 1, y)
    expect(page.get_by_test_id("on-grid")).to_have_count(0)
    page.keyboard.up("q")
    x, y = d.on_board((-10.2, 6.9))  # beside the place where it would touch
    page.mouse.move(x, y)
    expect(page.get_by_test_id("board")).to_contain_text("tangent")
    page.mouse.click(x, y)
    d.answered()
    d.freedoms("5 freedoms left")
    expect(page.get_by_test_id("sketch-panel")).to_contain_text("the upper right circle and the lower left circle")


def test_what_goes_with_a_deleted_line_and_what_holds_a_point_is_said(designer: Designer) -> None:
    d = designer
    d.new_part()
    sketch_on(d, "XY")
    d.draw("r", (0, 0), (30, 20), width="30 mm", height="20 mm")
    d.freedoms("Fully constrained")
    d.drag((30, 20), (38, 26))
    expect(note(d)).to_contain_text("Held by")
    expect(note(d)).to_contain_text("sketch_1_width 30 mm")
    note(d).get_by_label("Dismiss").click()
    d.select((15, 0))
    d.keys("Delete")
    expect(note(d)).to_contain_text("sketch_1_width 30 mm went with it.")
    note(d).get_by_role("button", name="Undo").click()
    d.freedoms("Fully constrained")


def test_the_view_comes_along_with_what_is_drawn(designer: Designer) -> None:
    d = designer
    d.new_part()
    sketch_on(d, "XY")
    d.draw("r", (0, 0), (30, 20), width="300 mm", height="200 mm")
    board = d.page.get_by_test_id("board").bounding_box()
    assert board

    def within() -> bool:
        (x0, y0), (x1, y1) = d.on_board((0, 0)), d.on_board((300, 200))
        return bool(board["x"] < x0 < x1 < board["x"] + board["width"] and board["y"] < y1 < y0 < board["y"] + board["height"])

    eventually(within)
    d.new_part()
    sketch_on(d, "XY")
    d.draw("c", (0, 0), (3, 0))
    eventually(lambda: d.on_board((3, 0))[0] - d.on_board((-3, 0))[0] > 150)  # a small first shape is brought near


def test_an_open_outline_is_told_with_its_gap(designer: Designer) -> None:
    d, page = designer, designer.page
    d.new_part()
    sketch_on(d, "XY")
    d.draw("l", (-20, -10), (20, -10), (20, 10), (-20, 10), (-20, -7), quiet=True)
    d.close_sketch()
    d.keys("b", "e")
    expect(page.get_by_test_id("editor-state")).to_contain_text(re.compile(r"Two ends of its outline are (2\.9\d*|3(\.0\d*)?) mm apart near X -20"))


def test_a_system_is_worked_in_only_when_one_is_picked(designer: Designer) -> None:
    d = designer
    d.open_part("Instrument bracket")
    before = d.page.get_by_test_id("active-system").inner_text()
    d.pick_flag("XY")
    d.keys("d", "w")
    expect(note(d)).to_contain_text("This is no coordinate system: base plane XY. Nothing was changed.")
    assert d.page.get_by_test_id("active-system").inner_text() == before


def test_a_step_changed_or_deleted_elsewhere_while_it_is_edited(designer: Designer) -> None:
    d = designer
    d.new_part()
    d.keys("d", "p")
    d.pick_flag("XY")
    d.enter("distance", "20 mm")
    finish(d)
    other = d.page.context.new_page()
    other.goto(d.page.url)
    e = Designer(other, d.url)
    e.settled()
    d.page.bring_to_front()  # a page behind another draws one frame a second
    d.edit("Plane 1")
    d.enter("distance", "25 mm")
    e.set_formula("plane_1_distance", "31 mm")
    expect(d.page.get_by_test_id("meanwhile")).to_contain_text("changed elsewhere")
    d.page.get_by_role("button", name="Take the other").click()
    expect(d.editor.get_by_label("distance", exact=True)).to_have_value("31 mm")
    expect(d.page.get_by_test_id("meanwhile")).to_have_count(0)
    e.menu("Plane 1", "Delete")
    e.settled()
    expect(d.page.get_by_test_id("meanwhile")).to_contain_text("deleted elsewhere")
    d.page.get_by_role("button", name=re.compile("^Undo: ")).click()
    expect(d.page.get_by_test_id("meanwhile")).to_have_count(0)
    d.enter("distance", "28 mm")
    finish(d)
    assert d.report()["ledger"][0]["shown"] == "28 mm"
    other.close()


def test_flags_keep_their_corner_and_are_large_enough_to_hit(designer: Designer) -> None:
    d, page = designer, designer.page
    d.new_part()

    def flags() -> dict[str, Any]:
        return {n: page.get_by_test_id(f"flag-{n}").bounding_box() for n in ("XY", "YZ", "ZX")}

    stood = flags()
    assert all(b["height"] >= 23.9 and b["width"] >= 23.9 for b in stood.values()), stood
    card = page.get_by_text("An empty part").locator("..").bounding_box()
    assert card
    for b in stood.values():
        assert b["x"] > card["x"] + card["width"] or b["x"] + b["width"] < card["x"] or b["y"] + b["height"] <= card["y"] or b["y"] >= card["y"] + card["height"]
    d.keys("d", "p")
    d.pick_flag("XY")
    d.says("Complete")
    assert flags() == stood


def test_the_keys_of_where_one_is(designer: Designer) -> None:
    d, page = designer, designer.page
    d.new_part()
    d.keys("?")
    sheet = page.get_by_test_id("keys-here")
    expect(sheet).to_contain_text("Keys in the part")
    expect(sheet).to_contain_text("Extrude")
    d.keys("b")  # puts it away and does nothing else
    expect(sheet).to_have_count(0)
    expect(page.get_by_test_id("key-card")).to_have_count(0)
    sketch_on(d, "XY")
    d.keys("?")
    expect(sheet).to_contain_text("Keys on the drawing board")
    expect(sheet).to_contain_text("Tangent")
    expect(sheet).not_to_contain_text("Extrude")
    d.keys("Escape")


def ticked(page: Page) -> list[bool]:
    return [line.get_attribute("data-done") == "true" for line in page.get_by_test_id("first-part").locator("li").all()]


def test_a_first_part_ticks_itself_off_and_can_be_put_away(designer: Designer) -> None:
    d, page = designer, designer.page
    d.new_part()
    assert ticked(page) == [False] * 6
    sketch_on(d, "XY")
    d.draw("r", (0, 0), (30, 20))
    assert ticked(page) == [True, True, *[False] * 4]
    d.dimension("30 mm", (15, 0))
    d.dimension("20 mm", (0, 10))
    d.freedoms("Fully constrained")
    d.close_sketch()
    d.pick(15, 10, 0, thing="region")
    d.keys("b", "e")
    d.enter("depth", "12 mm")
    finish(d)
    assert ticked(page) == [*[True] * 4, False, False]
    d.pick(15, 0, 12, thing="edge along X")
    d.keys("b", "f")
    d.enter("radius", "2 mm")
    finish(d)
    d.set_formula("extrude_1_depth", "15 mm")
    assert ticked(page) == [True] * 6
    page.reload()
    d.settled()
    assert ticked(page) == [True] * 6
    page.get_by_role("button", name="put away").click()
    expect(page.get_by_test_id("first-part")).to_have_count(0)
    d.new_part()
    expect(page.get_by_test_id("first-part")).to_have_count(0)


def test_a_mirror_asks_for_what_the_next_click_gives(designer: Designer) -> None:
    d, page = designer, designer.page
    d.new_part()
    sketch_on(d, "XY")
    d.draw("r", (10, 5), (30, 20))
    d.keys("k", "m")
    asks = page.get_by_test_id("form-asks")
    expect(asks).to_contain_text("Pick what is to be mirrored")
    d.click((30, 12))
    expect(asks).to_contain_text("Pick more, or press “about” and pick a line or axis")
    d.click((20, 20))
    expect(page.get_by_test_id("toolbar")).to_contain_text("2 picked")
    d.click((0, -8))  # the Y axis is never what is mirrored
    expect(asks).to_have_count(0)
    d.keys("Enter")
    d.answered()
    expect(page.get_by_test_id("curve")).to_have_count(6)
    d.keys("k", "t")
    expect(asks).to_contain_text("Pick a curve to stand along")
    d.click((30, 12))
    expect(asks).to_contain_text("Type its words")
