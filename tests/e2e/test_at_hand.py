"""What lies at hand: the last sketch, the list under right click, what a tool catches of the model, what is pulled.

By mouse and keystrokes only.
"""

from __future__ import annotations

import math
import re

import pytest
from playwright.sync_api import expect

from tests.building import BODY, axis, f
from tests.e2e.designer import Designer
from tests.e2e.test_every_way_in import document, last
from tests.e2e.test_extrude_and_change import circle_on_plate, plate
from tests.samples import plate_with_circle
from wendal.demo.builder import Builder


def notes(d: Designer) -> str:
    return " ".join(d.page.get_by_test_id("note").all_inner_texts())


def sketch_on_the_plate(d: Designer) -> None:
    """Make the plate and open a sketch on its top."""
    plate(d)
    d.pick(20, 12, 10, thing="top face")
    d.keys("k", "n")
    d.accept()
    d.board_ready()


def test_the_last_sketch_is_taken_and_a_pick_takes_its_place(designer: Designer) -> None:
    d = designer
    circle_on_plate(d)
    sketch = document(d)["steps"][-1]["id"]
    d.keys("b", "e")
    d.says("Complete")
    expect(d.editor.get_by_test_id("blank-profile")).to_have_text(re.compile("all of"))
    d.pick(22, 12, 10, thing="region")
    expect(d.editor.get_by_test_id("blank-profile")).to_have_text(re.compile("1 region"))
    d.keys("Escape")
    d.keys("b", "e")
    d.page.keyboard.type("6 mm")
    d.accept()
    made = last(d)
    assert [p["of"] for p in made["profile"]] == ["sketch"]
    assert (made["profile"][0]["step"], made["depth"]["formula"]) == (sketch, "6 mm")


def test_a_closed_sketch_is_in_the_view_and_picked(designer: Designer) -> None:
    d = designer
    sketch_on_the_plate(d)
    d.draw("c", (20, 12), (60, 12), diameter="300 mm")
    d.close_sketch()
    stage = d.page.get_by_test_id("stage").bounding_box()
    assert stage
    for turn in range(8):
        x, y = d.pixel((20 + 150 * math.cos(turn), 12 + 150 * math.sin(turn), 10))
        assert stage["x"] < x < stage["x"] + stage["width"]
        assert stage["y"] < y < stage["y"] + stage["height"]
    d.keys("b", "e")
    expect(d.editor.get_by_test_id("blank-profile")).to_have_text(re.compile("all of"))


def test_what_can_be_done_with_a_thing_is_in_its_list(designer: Designer) -> None:
    d = designer
    b = Builder("Two bodies")
    for name, x in (("Left", 0), ("Right", 60)):
        sketch = b.step("sketch", f"{name} outline", on=axis("XY"))
        b.draw(sketch, "rectangle", (x, 0), (x + 30, 20))
        b.step("extrude", name, profile=b.profile(sketch, 0), depth=f("10 mm"))
    d.begin(b.part)

    def deed(words: str) -> None:
        x, y = d.pixel((15, 10, 10))
        d.page.mouse.move(x, y)
        d.page.mouse.click(x, y, button="right")
        d.page.get_by_test_id("deed").filter(has_text=words).first.click()

    deed("Only body Left")
    expect(d.page.locator("[data-body=s4]")).to_contain_text("show")
    deed("Show all bodies")
    expect(d.page.locator("[data-body=s4]")).to_contain_text("hide")
    deed("Rename body Left")
    d.page.keyboard.type("Base plate")
    d.keys("Enter")
    expect(d.page.locator("[data-body=s2]")).to_contain_text("Base plate")
    deed("Rename: Left")
    d.page.keyboard.type("Foot")
    d.accept()
    expect(d.step("Foot")).to_have_count(1)
    deed("Suppress: Foot")
    expect(d.step("Foot")).to_have_attribute("data-state", "waiting")
    expect(d.step("Foot").get_by_role("img", name="waiting")).to_be_visible()
    # By keys: of what is picked, with arrows and Enter.
    d.pick(75, 10, 10, thing="top face")
    d.keys("Shift+F10")
    d.page.get_by_test_id("deed").filter(has_text="Delete: Right").focus()
    d.keys("Enter")
    expect(d.step("Right")).to_have_count(0)


def test_a_tool_catches_corners_and_edges_of_the_model(designer: Designer) -> None:
    d = designer
    sketch_on_the_plate(d)
    d.keys("k", "l")
    d.click((39.6, 24.7))
    d.click((20, 10))
    d.answered()
    d.keys("Escape", "Escape")
    d.keys("k", "p")
    d.click((40.3, 17))
    d.answered()
    d.keys("Escape")
    drawing = last(d)["drawing"]
    places = {p: tuple(at) for p, at in drawing["points"].items()}
    taken = drawing["taken"]
    assert sorted(t["ref"]["of"] for t in taken.values()) == ["edge", "vertex"]
    line = next(c for e, c in drawing["curves"].items() if c["kind"] == "line" and e not in taken)
    assert places[line["start"]] == pytest.approx((40, 25), abs=1e-6)
    on_edge = next(k for k in drawing["constraints"].values() if k["kind"] == "on_curve")
    assert places[on_edge["of"][0]][0] == pytest.approx(40, abs=1e-6)
    # The corner moves, and the line's end with it: its middle is half-way from the corner to its free end.
    d.close_sketch()
    d.set_formula("sketch_1_width", "50 mm")
    d.settled()
    d.menu(last(d)["name"], "Open on the drawing board")
    d.board_ready()
    assert d.line_near((35, 17.5)) == pytest.approx((35, 17.5), abs=1e-3)


def test_a_rounding_follows_the_pointer_and_a_dimensioned_rim_is_held(designer: Designer) -> None:
    d = designer
    b = Builder("Pulled")
    sketch = b.step("sketch", "Outline", on=axis("XY"))
    b.draw(sketch, "rectangle", (0, 0), (40, 30))
    corner = next(p for p, at in b.drawing(sketch).points.items() if math.dist(at, (40, 30)) < 1e-9)
    b.do(do="edit_sketch", step=sketch, edit={"op": "round_corner", "points": [corner], "radius": "5 mm"})
    b.draw(sketch, "circle", (12, 12), (17, 12), diameter="10 mm")
    d.begin(b.part)
    d.menu("Outline", "Open on the drawing board")
    d.board_ready()
    k = 1 / math.sqrt(2)
    at = lambda r: (40 - r * (1 - k), 30 - r * (1 - k))  # noqa: E731  (the middle of a rounding's arc)
    d.drag(at(5), at(10))
    radius = next(c["radius"] for c in last(d)["drawing"]["curves"].values() if c["kind"] == "arc")
    assert radius == pytest.approx(10, abs=0.6)  # farther from its corner it is larger
    d.drag((17, 12), (21, 12))
    assert "Held by" in notes(d)
    circle = next(c["radius"] for c in last(d)["drawing"]["curves"].values() if c["kind"] == "circle")
    assert circle == pytest.approx(5)


def test_a_corner_that_stays_sharp_is_told_after_accepting(designer: Designer) -> None:
    d = designer
    b = Builder("Sharp")
    sketch = b.step("sketch", "Outline", on=axis("XY"))
    b.draw(sketch, "rectangle", (0, 0), (40, 30))
    b.draw(sketch, "rectangle", (60, 0), (64, 3))
    d.begin(b.part)
    d.menu("Outline", "Open on the drawing board")
    d.board_ready()
    d.keys("k", "f")
    d.click_tool((40, 30), (64, 3))
    d.form(radius="6 mm")
    expect(d.page.get_by_test_id("note")).to_contain_text("takes no radius of more than about 3 mm")
    assert sum(c["kind"] == "arc" for c in last(d)["drawing"]["curves"].values()) == 1


def test_a_refused_manner_leaves_the_field_open(designer: Designer) -> None:
    d = designer
    b = Builder("Manners")
    sketch = b.step("sketch", "Points", on=axis("XY"))
    b.draw(sketch, "point", (10, 0))
    b.draw(sketch, "point", (30, 0))
    first, second = b.drawing(sketch).points
    b.constrain(sketch, "on_curve", first, "x_axis")
    b.constrain(sketch, "on_curve", second, "x_axis")
    d.begin(b.part)
    d.menu("Points", "Open on the drawing board")
    d.board_ready()
    d.click((10, 0))
    d.page.keyboard.down("Shift")
    d.click((30, 0))
    d.page.keyboard.up("Shift")
    d.keys("c", "d")
    d.quiet()
    for _ in range(3):
        d.keys(";")
        d.quiet()
    d.keys("Control+a")
    d.page.keyboard.type("25 mm")
    d.keys("Enter")
    d.answered()
    formulas = [k["value"]["formula"] for k in last(d)["drawing"]["constraints"].values() if k.get("value")]
    assert formulas == ["25 mm"]


def test_what_is_typed_before_a_dimension_has_its_field_goes_into_it(designer: Designer) -> None:
    d, page = designer, designer.page
    points, line = Builder("Quick"), Builder("Quick too")
    for b in (points, line):
        b.step("sketch", "Drawn", on=axis("XY"))
    for place in ((10, 0), (30, 7)):
        points.draw("s1", "point", place)
    line.draw("s1", "line", (0, 5), (15, 5))

    def typed(text: str, b: Builder = points, picks: tuple[tuple[float, float], ...] = ((10, 0), (30, 7))) -> str:
        d.begin(b.part)
        d.menu("Drawn", "Open on the drawing board")
        d.board_ready()
        first, *others = picks
        d.click(first)
        page.keyboard.down("Shift")
        d.click(*others)
        page.keyboard.up("Shift")
        page.keyboard.type(text, delay=0)  # no pause at all
        d.quiet()
        d.answered()
        (made,) = [k["value"]["formula"] for k in last(d)["drawing"]["constraints"].values() if k.get("value")]
        return str(made)

    for text, formula in (("cd25 mm\n", "25 mm"), ("cd;31 mm\n", "31 mm"), ("cd;;12.5 mm\n", "12.5 mm"), ("cd\n", "21.19 mm")):
        assert typed(text) == formula
        expect(page.get_by_test_id("formula")).to_have_count(0)
    assert typed("cd;26.5 mm\n", line, ((7, 5),)) == "26.5 mm"  # a line is measured in one way alone
    typed("cd")
    page.keyboard.type("19 mm;", delay=0)  # typed, and then measured another way: it stays
    d.quiet()
    expect(page.get_by_test_id("formula")).to_have_value("19 mm")


def test_a_sketch_of_points_alone_has_its_freedoms(designer: Designer) -> None:
    d = designer
    b = Builder("Points")
    sketch = b.step("sketch", "Points", on=axis("XY"))
    b.draw(sketch, "point", (10, 5))
    b.draw(sketch, "point", (30, 15))
    d.begin(b.part)
    d.menu("Points", "Open on the drawing board")
    d.board_ready()
    expect(d.page.get_by_test_id("freedoms")).to_contain_text("4 freedoms")
    d.keys("k", "z")
    proposals = d.page.get_by_test_id("proposals")
    accept = proposals.get_by_role("button", name=re.compile("Accept all"))
    assert accept.bounding_box()["y"] < proposals.get_by_role("checkbox").first.bounding_box()["y"]  # type: ignore[index]
    accept.click()
    expect(d.page.get_by_test_id("freedoms")).to_contain_text("Fully constrained")


def test_the_page_has_a_landmark_a_heading_and_its_part_in_the_title(designer: Designer) -> None:
    d = designer
    b = Builder("Gauge foot")
    sketch = b.step("sketch", "Outline", on=axis("XY"))
    b.draw(sketch, "rectangle", (0, 0), (40, 25))
    b.step("extrude", "Foot", profile=b.profile(sketch, 0), depth=f("10 mm"))
    b.step("shell", "Hollow", body=BODY, thickness=f("2 mm"), openings=[{"of": "face", "body": "s2", "names": ["s2/end/r1"]}])
    d.begin(b.part)
    expect(d.page).to_have_title("Gauge foot – Wendal")
    assert d.page.get_by_role("main").count() == 1
    expect(d.page.get_by_role("heading", level=1)).to_have_text("Gauge foot")
    expect(d.page.get_by_role("application", name="Stage of Gauge foot")).to_be_visible()
    expect(d.step("Foot").get_by_role("img", name="built")).to_be_visible()
    # A sentence begins with its action's own name, once.
    expect(d.step("Hollow")).to_contain_text("Shell Hollow:")
    expect(d.step("Foot")).to_contain_text("Extrude Foot:")


def test_a_face_is_coloured_and_named_by_the_list_under_right_click(designer: Designer) -> None:
    d, page = designer, designer.page
    plate(d)

    def deed(words: str) -> None:
        page.mouse.click(*d.pixel((20, 12, 10)), button="right")
        page.get_by_test_id("deed").filter(has_text=words).first.click()

    deed("Colour of this face")
    d.settled()
    assert document(d)["faces"][0]["colour"] == "slate"
    deed("Name this face")
    page.keyboard.type("Seat")
    page.keyboard.press("Enter")
    d.settled()
    assert document(d)["faces"][0]["name"] == "Seat"
    page.mouse.move(*d.pixel((22, 12, 10)))
    expect(page.get_by_test_id("readout")).to_contain_text("Seat")
    d.keys("Control+z")
    d.settled()
    assert document(d)["faces"][0]["name"] == ""
    d.keys("l", "r")
    look = page.get_by_test_id("face-look")
    expect(look).to_contain_text("a face in slate")
    look.get_by_role("button").click()
    d.settled()
    assert document(d)["faces"] == []


def test_a_coloured_face_has_one_look_though_its_neighbours_change(designer: Designer) -> None:
    d, page = designer, designer.page
    b = plate_with_circle(drilled=True)
    b.do(do="set_suppressed", steps=["s4"], suppressed=True)
    d.begin(b.part)
    for colour in ("slate", "moss", "clay", "sand", ""):
        page.mouse.click(*d.pixel((5, 5, 10)), button="right")
        page.get_by_test_id("deed").filter(has_text="Colour of this face").first.click()
        d.settled()
        assert [f["colour"] for f in document(d)["faces"]] == [colour] * bool(colour)
        if colour == "slate":
            d.menu("Extrude 2", "Build again")  # from here on a bore is beside the face
            expect(d.step("Extrude 2").get_by_role("img", name="built")).to_be_visible()
            d.settled()
