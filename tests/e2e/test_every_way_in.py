"""Every way into a step, and typing at once: what is typed arrives, what is picked is used, nothing in hand vanishes.

By mouse and keystrokes only, and without a pause where a quick hand makes none.
"""

from __future__ import annotations

import re
from collections import Counter
from typing import Any

import pytest
from playwright.sync_api import expect

from tests.e2e import ways
from tests.e2e.designer import Designer
from tests.e2e.test_extrude_and_change import circle_on_plate, plate
from tests.e2e.ways import document
from tests.samples import XY
from wendal.demo.builder import Builder

EDGE, TOP = (9.0, 0.0, 10.0), (33.0, 5.0, 10.0)


def last(d: Designer) -> dict[str, Any]:
    return document(d)["steps"][-1]


@pytest.mark.parametrize(("part", "keys"), [("solid", "b k"), ("solid", "d"), ("drawn", "b"), ("several", "b"), ("sheet", "b")])
def test_every_step_by_one_way_in_each(designer: Designer, part: str, keys: str) -> None:
    """Of a step that is made in many manners every third; all ways of all of them are tried by `python -m tools.ways`."""
    d = designer
    d.begin(ways.PARTS[part]())
    d.quiet()
    rows, seen = [], Counter[str]()
    for i, row in enumerate(ways.ROWS):
        if row.part == part and row.key[0] in keys.split():
            if seen[row.key] % 3 == 0:
                rows.append((i, row))
            seen[row.key] += 1
    assert rows
    for i, row in rows:
        way = row.ways[i % len(row.ways)]
        assert not (why := ways.wrong(row, ways.go(d, row, way))), f"{row.name}, by {way}: {why}"


# A drawing tool: its key, its title, the places clicked before its measure is asked for, and where the pointer is then; what is
# typed; the dimensions that must come of it.
TOOLS = [
    ("l", "Line", [(0, 0)], (20, 10), ["26.5"], {"distance": "26.5"}),
    ("r", "Rectangle", [(0, 0)], (30, 20), ["31.5", "21.5"], {"distance": "31.5"}),
    ("c", "Circle", [(0, 0)], (20, 0), ["41.5"], {"diameter": "41.5"}),
    ("a", "Arc", [(0, 0), (30, 0)], (15, 10), ["22.5"], {"radius": "22.5"}),
    ("e", "Ellipse", [(0, 0), (30, 0)], (0, 15), ["33.5"], {"axis": "33.5"}),
    ("s", "Slot", [(0, 0), (30, 0)], (30, 8), ["13.5"], {"diameter": "13.5"}),
    ("g", "Polygon", [(0, 0)], (20, 0), ["7"], {}),
]


@pytest.mark.parametrize("turn", range(2))
def test_every_drawing_tool_by_every_way_takes_what_is_typed(board: Designer, turn: int) -> None:
    d, page = board, board.page
    for i, (key, title, places, at, typed, wanted) in enumerate(TOOLS):
        way = ["key", "rail", "find", "kit"][(i + 2 * turn) % 4]
        if way == "key":
            d.keys("k", key)
        elif way == "rail":
            page.get_by_test_id("rail").get_by_role("button", name=re.compile(f"^{title}")).first.click()
        elif way == "find":
            d.keys("Control+k")
            page.keyboard.type(title.lower())
            expect(page.get_by_role("option").first).to_contain_text(title)
            d.keys("Enter")
        else:
            page.get_by_label("Kit").get_by_role("button", name="Sketch").click()
            page.get_by_test_id("drawer").get_by_role("button").filter(has_text=re.compile(rf"k {key}\s*$")).first.click()
        d.click(*places, quiet=True)
        page.mouse.move(*d.on_board(at))
        for n, text in enumerate(typed):
            if n:
                d.keys("Tab")
            page.keyboard.type(text)
        first = page.get_by_test_id("toolbar").locator("[data-measure='0']")
        expect(first).to_have_value(typed[0])
        d.keys("Enter")
        d.answered()
        d.quiet()
        drawing = last(d)["drawing"]
        values = [(k["kind"], k["value"]["formula"].removesuffix(" mm")) for k in drawing["constraints"].values() if k.get("value")]
        for kind, value in wanted.items():
            assert (kind, value) in values, (title, way, values)
        if title == "Polygon":
            assert sum(c["kind"] == "line" for c in drawing["curves"].values()) == 7
        d.keys("Escape", "Escape", "Control+a", "Delete")
        d.answered()
        d.quiet()
        assert last(d)["drawing"]["curves"] == {}, (title, way)


def test_typed_before_the_way_is_known_it_goes_along(designer: Designer) -> None:
    d = designer
    plate(d)
    d.pick(*EDGE)
    d.pick(*TOP, more=True)
    d.page.keyboard.type("dp25 deg", delay=0)  # no pause at all
    d.says("Complete")
    d.keys("Enter")
    expect(d.editor).to_have_count(0)
    assert last(d)["how"] == "angle"
    assert last(d)["angle"]["formula"] == "25 deg"


def test_figures_over_a_choice_go_to_the_number_and_letters_of_an_action_leave_it(designer: Designer) -> None:
    d = designer
    circle_on_plate(d)
    d.pick(22, 12, 10)
    d.keys("b", "e")
    d.editor.get_by_label("result").focus()
    d.page.keyboard.type("7.5 mm")
    field = d.editor.get_by_label("depth", exact=True)
    expect(field).to_have_value("7.5 mm")
    # No word of a formula begins with "lf": the view is fitted, and the number is what it was.
    d.keys("Control+a")
    d.page.keyboard.type("lf")
    expect(field).to_have_value("7.5 mm")
    d.page.keyboard.type("8 mm")
    expect(field).to_have_value("8 mm")
    d.keys("Control+z")
    expect(field).to_have_value("7.5 mm")
    d.says("Complete")
    d.keys("Enter")
    d.settled()
    assert last(d)["depth"]["formula"] == "7.5 mm"


def test_words_of_a_formula_are_completed_and_a_wrong_one_is_told_with_the_nearest(designer: Designer) -> None:
    d = designer
    plate(d)
    d.pick(*TOP)
    d.keys("d", "p")
    d.says("Complete")
    d.page.keyboard.type("sketch_1_w")
    suggest = d.page.get_by_test_id("suggest")
    expect(suggest).to_contain_text("sketch_1_width")
    expect(suggest).to_contain_text("40")
    d.keys("Tab")
    field = d.editor.get_by_label("distance", exact=True)
    expect(field).to_have_value("sketch_1_width")
    d.page.keyboard.type(" / fl")
    d.keys("ArrowDown", "Enter")
    expect(field).to_have_value("sketch_1_width / floor(")
    d.page.keyboard.type("2.5)")
    d.says("Complete")
    d.keys("Control+a")
    d.page.keyboard.type("sketch_1_widht")
    d.keys("Enter")
    d.says("Near to it: sketch_1_width")
    expect(field).to_be_focused()


def test_a_click_on_the_route_card_puts_a_step_in_hand_aside(designer: Designer) -> None:
    d = designer
    plate(d)
    d.keys("b", "f")
    d.pick(*EDGE)
    d.page.keyboard.type("3.5 mm")
    d.says("Complete")
    d.page.get_by_role("button", name="Sketch 1", exact=True).click()
    d.board_ready()
    expect(d.page.get_by_test_id("aside")).to_contain_text("put aside")
    d.page.get_by_test_id("aside").get_by_role("button", name="Take it up again").click()
    d.says("Complete")
    expect(d.editor.get_by_label("radius", exact=True)).to_have_value("3.5 mm")
    d.keys("Enter")
    expect(d.editor).to_have_count(0)
    d.settled()
    assert last(d)["radius"]["formula"] == "3.5 mm"
    # A step under edit, too, and one that is begun by a key over it.
    d.edit("Extrude 1")
    d.enter("depth", "11 mm")
    d.editor.get_by_role("button", name="Cancel").focus()
    d.keys("d", "p")
    expect(d.page.get_by_test_id("aside")).to_contain_text("Extrude 1")
    d.quiet()
    d.page.get_by_test_id("aside").get_by_role("button", name="Drop").click()
    expect(d.page.get_by_test_id("aside")).to_have_count(0)


def test_a_closed_sketch_is_at_hand_for_the_next_step(designer: Designer) -> None:
    d = designer
    d.new_part()
    d.pick_flag("XY")
    d.keys("k", "n")
    d.accept()
    d.board_ready()
    d.draw("r", (0, 0), (30, 20))
    d.draw("c", (10, 10), (14, 10))
    d.keys("Escape", "k", "q")
    d.settled()
    d.keys("b", "e")
    d.page.keyboard.type("6 mm")
    d.says("Complete")
    d.keys("Enter")
    expect(d.editor).to_have_count(0)
    d.settled()
    made = last(d)
    assert made["profile"][0]["of"] == "sketch"
    assert made["profile"][0]["named"] == "first"
    d.keys("Control+z")  # the last change, not the sketch again
    d.settled()
    assert [s["kind"] for s in document(d)["steps"]] == ["sketch"]
    d.keys("Control+y")
    d.settled()
    assert [s["kind"] for s in document(d)["steps"]] == ["sketch", "extrude"]


def test_actions_are_found_by_the_words_of_the_trade(designer: Designer) -> None:
    d = designer
    plate(d)
    for sought, first in [
        ("pattern", "Pattern"), ("pocket", "Extrude"), ("thread", "Hole"), ("bevel", "Chamfer"), ("hollow", "Shell"), ("redo", "Redo"),
        ("export", "Write"), ("sketch_1_w", "sketch_1_width"), ("Extrude 1", "Extrude 1"), ("array", "Pattern"),
    ]:
        d.keys("Control+k")
        d.page.keyboard.type(sought)
        expect(d.page.get_by_role("option").first).to_contain_text(first)
        d.keys("Escape")
        expect(d.page.get_by_role("dialog")).to_have_count(0)


def test_words_are_not_found_in_the_middle_of_others_and_a_tag_is_gone_to(designer: Designer) -> None:
    d = designer
    plate(d)
    d.keys("Control+k")
    d.page.keyboard.type("mea")
    expect(d.page.get_by_role("option").first).to_be_visible()
    assert "Remove faces" not in d.page.get_by_role("option").all_inner_texts()[0]
    assert not any("Remove faces" in t for t in d.page.get_by_role("option").all_inner_texts())
    d.keys("Control+a")
    d.page.keyboard.type("sketch_1_h")
    expect(d.page.get_by_role("option").first).to_contain_text("sketch_1_height")
    d.keys("Enter")
    expect(d.page.locator("[data-tag=sketch_1_height]")).to_be_visible()


def test_constraints_and_dimensions_are_asked_first_and_stay_in_hand(board: Designer) -> None:
    d = board
    d.draw("l", (-30, -10), (10, -10), quiet=True)
    d.keys("Escape", "Escape")
    d.draw("l", (-30, 10), (12, 14), quiet=True)
    d.keys("Escape", "Escape")
    d.keys("c", "p")
    expect(d.page.get_by_test_id("readout")).to_contain_text("Parallel: pick")
    d.select((-10, -10))
    d.select((-9, 12))
    d.answered()
    d.quiet()
    expect(d.page.get_by_role("button", name="parallel", exact=False).first).to_be_visible()
    expect(d.page.get_by_test_id("readout")).to_contain_text("Parallel: pick")  # it stays in hand
    d.keys("Escape")
    expect(d.page.get_by_test_id("readout")).not_to_contain_text("Parallel")
    d.keys("c", "d")
    d.select((-10, -10))
    d.keys("Enter")
    d.type_value("45 mm")
    d.answered()
    drawing = last(d)["drawing"]
    assert sorted(k["kind"] for k in drawing["constraints"].values() if k["kind"] in ("parallel", "distance")) == ["distance", "parallel"]
    assert next(k for k in drawing["constraints"].values() if k["kind"] == "distance")["value"]["formula"] == "45 mm"
    d.keys("Escape", "Escape", "Control+a", "Delete")
    d.answered()
    d.quiet()
    assert last(d)["drawing"]["curves"] == {}


def test_a_refused_measure_is_selected_and_typed_over(board: Designer) -> None:
    d = board
    d.keys("k", "r")
    d.click((0, 0))
    x, y = d.on_board((30, 20))
    d.page.mouse.move(x, y)
    d.page.keyboard.type("60")
    d.keys("Tab")
    d.page.keyboard.type("hight")
    d.keys("Enter")
    expect(d.page.get_by_test_id("board-trouble")).to_contain_text("hight")
    field = d.page.get_by_test_id("toolbar").get_by_label("height", exact=True)
    expect(field).to_be_focused()
    d.page.keyboard.type("40")
    expect(field).to_have_value("40")
    d.keys("Enter")
    d.answered()
    d.quiet()
    values = sorted(k["value"]["formula"] for k in last(d)["drawing"]["constraints"].values() if k.get("value"))
    assert [v.split()[0] for v in values] == ["40", "60"]


def test_a_body_is_picked_in_the_list_of_bodies(designer: Designer) -> None:
    d = designer
    b = Builder("Two")
    for i, name in enumerate(("Left", "Right")):
        outline = b.step("sketch", f"Outline {i}", on=XY)
        b.draw(outline, "rectangle", (60.0 * i, 0), (60.0 * i + 40, 25))
        b.step("extrude", name, profile=b.profile(outline, 0), depth={"formula": "10 mm"})
    d.begin(b.part)
    d.keys("b", "v")
    d.editor.wait_for()
    d.page.get_by_test_id("bodies").get_by_role("button", name="Right", exact=True).click()
    expect(d.editor).to_contain_text("Right")
    d.keys("Escape")
    d.page.get_by_test_id("bodies").get_by_role("button", name="Right", exact=True).click()
    expect(d.page.get_by_label("Name of the body")).to_be_focused()
