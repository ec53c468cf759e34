"""The README's first part line by line, a part by keys alone, and where typing goes: mouse and keystrokes only."""

from __future__ import annotations

import re

import pytest
from playwright.sync_api import expect

from tests.e2e.designer import Designer
from tests.samples import plate_by_default


def focused(d: Designer) -> str:
    """What the focus is in, by its label, with what it holds."""
    return str(d.page.evaluate("(e => `${e.ariaLabel ?? e.closest('label')?.innerText.trim() ?? e.innerText}: ${e.value ?? ''}`)(document.activeElement)"))


def test_the_first_part_as_the_readme_tells_it(designer: Designer) -> None:
    d, page = designer, designer.page
    d.new_part()  # 1
    d.keys("d", "p")  # 2
    d.pick_flag("XY")
    page.keyboard.type("25 mm")
    d.says("Complete")
    d.keys("Enter")
    expect(d.editor).to_have_count(0)
    d.settled()
    expect(d.step("Plane 1")).to_contain_text("25 mm out from XY")
    d.pick_flag("Plane 1")  # 3
    d.offer("New sketch")
    d.says("Complete")
    d.keys("Enter")
    d.board_ready()
    d.keys("k", "r")  # 4
    d.click((0, 0))
    x, y = d.on_board((30, 20))
    page.mouse.move(x, y)
    page.keyboard.type("40")
    d.keys("Tab")
    page.keyboard.type("25")
    d.keys("Enter")
    d.answered()
    d.freedoms("Fully constrained")  # 5
    d.close_sketch()
    d.pick(20, 12, 25)  # 6
    d.offer("Extrude")
    page.keyboard.type("20 mm")
    d.says("Adds 20 000 mm³")
    d.keys("Enter")
    expect(d.editor).to_have_count(0)
    d.settled()
    assert d.volume() == pytest.approx(40 * 25 * 20)
    d.step("Extrude 1").get_by_role("button", name="20 mm").click()  # 7
    assert focused(d) == "depth: 20 mm"
    page.keyboard.type("16 mm")
    d.says("Complete")
    d.keys("Enter")
    d.settled()
    assert d.volume() == pytest.approx(40 * 25 * 16)
    d.keys("Control+z")  # 9
    d.settled()
    assert d.volume() == pytest.approx(40 * 25 * 20)
    d.keys("Control+k")
    page.keyboard.type("fit")
    d.keys("Enter")


def test_a_part_by_keys_alone(designer: Designer) -> None:
    d, page = designer, designer.page
    d.parts()
    page.keyboard.press("Tab")
    for _ in range(12):
        if focused(d).startswith("New part"):
            break
        page.keyboard.press("Tab")
    d.keys("Enter")
    d.settled()
    d.keys("d", "p")
    d.editor.wait_for()
    page.keyboard.type("12 mm")
    for _ in range(6):
        if focused(d).startswith("plane or flat face"):
            break
        d.keys("Tab")
    d.keys("ArrowDown")  # all that fits the blank, to be walked by the arrows
    expect(page.get_by_role("menuitem", name="base plane XY")).to_be_focused()
    d.keys("Enter")
    assert focused(d) == "distance: 12 mm"
    d.says("Complete")
    d.keys("Enter")
    d.settled()
    d.keys("k", "n")
    d.editor.wait_for()
    d.keys("Tab")
    for _ in range(4):
        if "plane or flat face" in focused(d):
            break
        d.keys("Tab")
    d.keys("Space", "ArrowDown", "ArrowDown", "ArrowDown")
    expect(page.get_by_role("menuitem", name="plane Plane 1")).to_be_focused()
    d.keys("Enter")
    d.says("Complete")
    d.keys("Enter")
    d.board_ready()
    d.keys("k", "r")
    page.keyboard.type("20, 10")
    d.keys("Enter")
    page.keyboard.type("40")
    d.keys("Tab")
    page.keyboard.type("25")
    d.keys("Enter")
    d.answered()
    d.keys("Escape", "k", "q")
    d.settled()
    d.keys("b", "e")
    d.editor.wait_for()
    page.keyboard.type("8 mm")
    d.says("Adds 8 000 mm³")  # the sketch that was closed is at hand
    d.keys("Enter")
    d.settled()
    (body,) = d.report()["bodies"]
    assert body["low"] == pytest.approx([20, 10, 12])
    assert body["high"] == pytest.approx([60, 35, 20])


def test_a_typed_rectangle_stays_on_its_first_corner(board: Designer) -> None:
    d, page = board, board.page
    d.keys("k", "r")
    d.click((20, 10))
    x, y = d.on_board((31, 18))
    page.mouse.move(x, y)
    page.keyboard.type("40")
    d.keys("Tab")
    page.keyboard.type("25")
    d.keys("Enter")
    d.answered()
    d.quiet()
    assert {(round(x, 3), round(y, 3)) for x, y in d.lines()} == {(40, 10), (60, 22.5), (40, 35), (20, 22.5)}


def test_esc_leaves_the_value_then_the_tool_then_the_selection_and_never_the_sketch(board: Designer) -> None:
    d, page = board, board.page
    d.draw("r", (-20, -10), (20, 10))
    d.select((0, 10))
    d.keys("k", "f")
    page.keyboard.type("77 mm")
    d.keys("Escape")
    assert focused(d) == "radius: 5 mm"
    d.keys("Escape")
    expect(page.get_by_test_id("toolbar")).to_have_count(0)
    d.select((0, 10))
    expect(page.get_by_test_id("offers")).to_be_visible()
    d.keys("Escape")
    expect(page.get_by_test_id("offers")).to_have_count(0)
    d.keys("Escape", "Escape")
    expect(page.get_by_test_id("board")).to_be_visible()
    expect(page.get_by_test_id("note")).to_contain_text("k q")
    d.keys("k", "q")
    expect(page.get_by_test_id("board")).to_have_count(0)
    version = d.version
    d.keys("Control+z")  # the last change, and the board stays closed
    d.settled()
    expect(page.get_by_test_id("board")).to_have_count(0)
    assert d.version != version


def test_focus_is_back_where_typing_belongs(designer: Designer) -> None:
    d, page = designer, designer.page
    d.new_part()
    d.pick_flag("XY")
    d.keys("d", "p")
    d.says("Complete")
    assert focused(d) == "distance: 20 mm"
    d.editor.get_by_role("button", name="Other answer").click()
    expect(d.editor.get_by_label("side")).to_have_value("back")
    page.keyboard.type("3 in")
    d.says("Complete")
    d.keys("ArrowUp")
    expect(d.editor.get_by_label("distance", exact=True)).to_have_value("3.1 in")
    d.keys(";")
    expect(d.editor.get_by_label("side")).to_have_value("out")
    d.keys("Tab")
    assert focused(d).startswith("side")
    d.keys("ArrowDown")
    expect(d.editor.get_by_label("side")).to_have_value("back")
    d.says("Complete")
    d.keys("Enter")  # from a choice, too
    expect(d.editor).to_have_count(0)
    d.settled()
    expect(d.step("Plane 1")).to_contain_text(re.compile(r"78\.74 mm\s+back from"))
    d.edit("Plane 1")
    page.keyboard.type("5 mm")
    d.editor.get_by_role("button", name="Cancel").focus()
    d.keys("Enter")
    expect(d.step("Plane 1")).to_contain_text("78.74 mm")


def test_what_is_seen_is_what_is_picked(designer: Designer) -> None:
    d, page = designer, designer.page
    d.open_part("Instrument bracket")
    d.look("Z")
    missed = []
    for k in range(13):  # along the bands in which the borders of base planes and datum planes lie behind the foot
        for place in ((3 + 9 * k, 8.5, 12), (3 + 9 * k, 4, 12)):
            x, y = d.pixel(place)
            page.mouse.move(x + 1, y)
            page.mouse.move(x, y)
            told = page.get_by_test_id("readout").inner_text()
            if "plane" in told.split("\n")[1]:
                missed.append((place, told))
    assert missed == []
    d.keys("l", "b")
    expect(page.get_by_test_id("flag-XY")).to_have_count(0)
    d.keys("l", "b")
    expect(page.get_by_test_id("flag-XY")).to_be_visible()


def sketch_on_a_plate(d: Designer) -> None:
    """A plate of 40 x 25 x 10 with a sketch open on its top."""
    d.begin(plate_by_default().part)
    d.look("Z")
    d.pick(20, 12, 10)
    d.offer("New sketch")
    d.accept()
    d.board_ready()


@pytest.mark.parametrize("order", ["edge first", "line first"])
def test_a_dimension_between_a_line_and_a_model_edge(designer: Designer, order: str) -> None:
    d, page = designer, designer.page
    sketch_on_a_plate(d)
    d.draw("l", (12, 8), (28, 8))
    d.select(*([(25, 25), (24, 8)] if order == "edge first" else [(24, 8), (25, 25)]))
    assert "model:" not in page.get_by_test_id("stage").inner_text()
    d.keys("c", "d")
    page.get_by_test_id("formula").wait_for()
    d.type_value("9 mm")
    d.answered()
    d.quiet()
    assert any(abs(y - 16) < 1e-6 for _, y in d.lines())


def test_a_projected_face_is_offset_to_the_inside_all_round(designer: Designer) -> None:
    d, page = designer, designer.page
    sketch_on_a_plate(d)
    d.keys("k", "j")
    d.click((20, 12))
    d.answered()
    d.keys("Escape", "k", "o")
    d.click((20, 0))  # one pick takes the chain
    expect(page.get_by_test_id("toolbar")).to_contain_text("4 picked")
    page.keyboard.type("3 mm")
    page.get_by_test_id("toolbar").get_by_role("button", name="Other answer").click()
    d.keys("Enter")
    expect(page.get_by_test_id("toolbar")).to_have_count(0)
    d.answered()
    d.quiet()
    assert {(20, 3), (37, 12.5), (20, 22), (3, 12.5)} <= {(round(x, 3), round(y, 3)) for x, y in d.lines()}


def test_an_error_of_the_page_is_told_and_reported(designer: Designer) -> None:
    d, page = designer, designer.page
    d.new_part()
    with page.expect_request("**/api/trouble") as told:
        page.evaluate("() => void Promise.reject('tried out on purpose')")
    assert "on purpose" in (told.value.post_data or "")
    assert told.value.response().status == 204
    expect(page.get_by_test_id("note")).to_contain_text("Something went wrong in this window")


@pytest.mark.own_window
def test_what_is_typed_while_the_line_is_slow_is_not_lost(designer: Designer) -> None:
    d, page = designer, designer.page
    page.add_init_script("""const Plain = window.WebSocket;
        window.WebSocket = class extends Plain { set onmessage(hear) { super.onmessage = (e) => setTimeout(() => hear(e), 250); } };""")
    d.new_part()
    d.keys("d", "p")
    d.pick_flag("XY")
    page.keyboard.type("25 mm", delay=90)  # the answer to the pick comes in the middle of it
    d.says("Complete")
    expect(d.editor.get_by_label("distance", exact=True)).to_have_value("25 mm")
    d.keys("Enter")
    expect(d.editor).to_have_count(0)
    d.settled()
    expect(d.step("Plane 1")).to_contain_text("25 mm out from XY")
