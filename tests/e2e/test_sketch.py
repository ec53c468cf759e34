"""The drawing board: shapes, constraints, freedoms, drags, regions."""

from __future__ import annotations

import math
import re

import pytest
from playwright.sync_api import WebSocketRoute, expect

from tests.e2e.designer import Designer


def test_a_rectangle_becomes_ink_as_it_is_constrained(board: Designer) -> None:
    d = board
    d.draw("r", (0, 0), (30, 20))
    d.freedoms("2 freedoms left")
    inked = d.page.locator("[data-testid=curve][data-inked=true]")
    expect(d.page.locator("[data-testid=curve]")).to_have_count(4)
    d.dimension("36 mm", (15, 0))
    d.freedoms("1 freedom left")
    d.freedoms("slides along Y")
    d.dimension("sketch_1_width / 2", (36, 10))
    d.freedoms("Fully constrained")
    expect(inked).to_have_count(4)
    expect(d.page.get_by_test_id("region")).to_have_count(1)
    d.close_sketch()
    assert d.report()["ledger"][1]["shown"] == "18 mm"


def test_constraints_by_key_and_by_offer(board: Designer) -> None:
    d = board
    d.draw("l", (-20, 5), (-4, 12), quiet=True)
    d.draw("l", (6, 8), (22, 11), quiet=True)
    d.freedoms("8 freedoms left")
    d.constrain("p", (-12, 8.5), (14, 9.5))
    d.freedoms("7 freedoms left")
    d.select((-12, 8.5))
    d.offer("Horizontal")
    d.freedoms("6 freedoms left")
    d.draw("c", (0, -15), (6, -15), quiet=True)
    d.constrain("n", (6, -15), (0, 0))
    d.freedoms("7 freedoms left")
    expect(d.page.get_by_test_id("sketch-panel")).to_contain_text("Constraints 3")


def test_redundant_and_fighting_constraints_are_told_and_nothing_is_added(board: Designer) -> None:
    d = board
    d.draw("r", (0, 0), (30, 20), width="30 mm", height="20 mm")
    d.constrain("p", (15, 0), (15, 20))
    expect(d.page.get_by_test_id("board-trouble")).to_contain_text("not needed")
    d.keys("Escape")
    d.select((15, 20))
    d.keys("c", "d")
    expect(d.page.get_by_test_id("board-trouble")).to_contain_text("Nothing was added")
    d.freedoms("Fully constrained")


def test_dragging_moves_what_is_free_and_keeps_the_constraints(board: Designer) -> None:
    d = board
    d.draw("r", (0, 0), (30, 20), width="30 mm")
    d.drag((15, 20), (15, 28))
    d.select((30, 10))
    d.keys("c", "d")
    expect(d.page.get_by_test_id("formula")).to_have_value("28 mm")


def test_typing_a_bad_dimension_keeps_the_text_and_the_drawing(board: Designer) -> None:
    d = board
    d.draw("r", (0, 0), (30, 20), width="30 mm", height="20 mm")
    for typed, told in (("-4 mm", "greater than zero"), ("1/0", "divides by zero"), ("sketch_1_width", "circle"),
                        ("12 kg", "A length is wanted")):
        d.page.get_by_test_id("dimension").first.click()
        field = d.page.get_by_test_id("formula")
        d.type_in(field, typed)
        field.press("Enter")
        expect(d.page.get_by_test_id("board-trouble")).to_contain_text(told)
        expect(field).to_have_value(typed)
        field.press("Escape")
    expect(d.page.get_by_test_id("dimension").first).to_have_text("30 mm")


def test_an_open_outline_has_no_region_and_is_marked(board: Designer) -> None:
    d = board
    d.draw("l", (0, 0), (20, 0), (20, 12))
    expect(d.page.get_by_test_id("region")).to_have_count(0)
    d.freedoms("2 freedoms left")
    d.close_sketch()
    d.keys("b", "e")
    d.says("outline")  # the sketch is at hand, and what is open in it is told


def test_a_forgotten_tangency_is_named_and_arc_joins_lines(board: Designer) -> None:
    d = board
    d.draw("l", (-20, 0), (10, 0))
    d.draw("a", (10, 0), (10, 20), (20, 10))
    d.freedoms("left")
    before = int(d.page.get_by_test_id("freedoms").inner_text().split()[0])
    d.constrain("t", (-5, 0), (20, 10))
    d.freedoms(f"{before - 1} freedoms left")
    d.keys("c", "w")


def test_a_dimension_too_many_is_kept_as_a_reference_dimension(board: Designer) -> None:
    d = board
    d.draw("r", (0, 0), (30, 20), width="30 mm", height="20 mm")
    d.select((15, 20))
    d.keys("c", "d")
    d.page.get_by_role("button", name="Keep it as a reference dimension").click()
    expect(d.page.get_by_test_id("sketch-panel")).to_contain_text("(30 mm)")
    d.freedoms("Fully constrained")
    d.page.get_by_test_id("dimension").first.click()
    d.type_in(d.page.get_by_test_id("formula"), "44 mm")
    d.page.get_by_test_id("formula").press("Enter")
    expect(d.page.get_by_test_id("sketch-panel")).to_contain_text("(44 mm)")


def test_a_dimension_is_reached_and_changed_by_keys_alone(board: Designer) -> None:
    d = board
    d.draw("r", (0, 0), (30, 20), width="30 mm", height="20 mm")
    d.answered()
    focused = d.page.locator("[data-testid=figure]:focus")
    for _ in range(40):
        if focused.count():
            break
        d.page.keyboard.press("Tab")
    first = focused.get_attribute("aria-label")
    d.page.keyboard.press("ArrowRight")
    assert focused.get_attribute("aria-label") != first
    d.page.keyboard.press("ArrowLeft")
    expect(focused).to_have_attribute("aria-label", first or "")
    d.page.keyboard.press("Enter")
    d.page.keyboard.type("41 mm")
    d.page.keyboard.press("Enter")
    expect(d.page.get_by_test_id("sketch-panel")).to_contain_text("41 mm")
    expect(focused).to_have_text("41")  # and it has the focus again
    d.page.keyboard.press(" ")
    expect(d.page.get_by_test_id("offers")).to_contain_text("picked")


def test_slots_and_polygons(board: Designer) -> None:
    d = board
    d.draw("s", (0, 0), (20, 0), (10, 6))
    d.freedoms("2 freedoms left")  # one middle on the origin, the other on the X axis
    expect(d.page.get_by_test_id("region")).to_have_count(1)
    d.draw("g", (-20, -15), (-10, -15), quiet=True)
    expect(d.page.get_by_test_id("region")).to_have_count(2)
    expect(d.page.get_by_test_id("curve")).to_have_count(11)


def test_an_ellipse_and_splines(board: Designer) -> None:
    d = board
    d.draw("e", (0, 0), (25, 0), (0, 12))
    d.dimension("44 mm", (0, 12))
    d.dimension("20 mm", (0, 12))
    expect(d.page.get_by_test_id("sketch-panel")).to_contain_text("sketch_1_cross_axis")
    d.freedoms("Fully constrained")
    d.keys("k", "u")
    d.click((-30, 30), (-15, 42), quiet=True)
    d.keys("Enter")
    d.trouble("3 places at least")
    d.click((0, 30), (18, 40), quiet=True)
    d.keys("Enter")
    d.freedoms("8 freedoms left")
    d.keys("Escape", "k", "u", ";")
    d.click((-30, -30), (-15, -20), (0, -34), quiet=True)
    d.click((0, -34), quiet=True)  # the last place again ends it
    d.freedoms("14 freedoms left")
    d.keys("Escape")
    d.drag((0, 30), (4, 24))
    d.select((4, 24))
    expect(d.page.get_by_test_id("readout")).to_contain_text("point 3 of the upper spline")
    expect(d.page.get_by_test_id("curve")).to_have_count(3)


def test_an_ellipse_is_cut_in_half_and_the_half_mirrored_back(board: Designer) -> None:
    d = board
    d.draw("e", (0, 0), (25, 0), (0, 12))
    d.draw("l", (0, -30), (0, 30))
    d.keys("k", "i")
    d.click_tool((-25, 0))
    d.keys("Escape")
    expect(d.page.get_by_test_id("region")).to_have_count(1)
    d.dimension("60 mm", (25 * math.sqrt(0.5), 12 * math.sqrt(0.5)))
    assert d.areas() == pytest.approx([math.pi * 30 * 12 / 2], rel=5e-3)
    d.select((30 * math.sqrt(0.5), 12 * math.sqrt(0.5)))
    d.keys("k", "m")
    d.page.get_by_test_id("toolbar").get_by_role("button", name="about").click()
    d.click_tool((0, -20))
    d.form()
    assert d.areas() == pytest.approx([math.pi * 30 * 12 / 2] * 2, rel=5e-3)
    d.keys("k", "e", ";")
    d.click((0, 0), (40, 0), (30, 14), (-30, 16), quiet=True)
    d.keys("Escape")
    expect(d.page.get_by_test_id("curve")).to_have_count(4)


def test_regions_are_chosen_by_lasso_and_box_and_the_part_is_cut_open(board: Designer) -> None:
    d = board
    d.draw("r", (-40, -20), (40, 20))
    for x in (-25, 0, 25):
        d.draw("c", (x, 0), (x + 6, 0), quiet=True)
    d.close_sketch()
    d.keys("l", "f")
    d.keys("b", "e")
    places = [d.pixel(p) for p in ((-35, -9, 0), (-35, 9, 0), (9, 9, 0), (9, -9, 0), (-35, -9, 0))]
    d.page.mouse.move(*places[0])
    d.page.keyboard.down("Shift")
    d.page.mouse.down()
    for place in places[1:]:
        d.page.mouse.move(*place, steps=4)
    d.page.mouse.up()
    d.page.keyboard.up("Shift")
    expect(d.editor).to_contain_text("2 regions of Sketch 1")
    d.page.mouse.move(180, 200)
    d.page.mouse.down()
    d.page.mouse.move(900, 700, steps=4)
    d.page.mouse.up()
    expect(d.editor).to_contain_text("3 regions of Sketch 1")
    d.enter("depth", "10 mm")
    d.accept()
    assert d.volume() == pytest.approx(3 * 36 * math.pi * 10, rel=1e-6)
    d.pick_flag("ZX")
    d.keys("k", "n")
    d.accept()
    d.board_ready()
    d.keys("l", "s")
    expect(d.page.get_by_test_id("readout")).to_contain_text("cut open")
    d.keys("l", "s")
    expect(d.page.get_by_test_id("readout")).not_to_contain_text("cut open")


def test_pulling_a_dimensioned_circle_or_rounding_changes_its_size_in_round_steps(board: Designer) -> None:
    d = board
    d.draw("r", (0, 0), (50, 30), width="50 mm", height="30 mm")
    d.keys("k", "f")
    d.click_tool((50, 0), (50, 30))
    d.form(radius="6 mm")
    d.freedoms("Fully constrained")
    edge = 6 * (1 - math.sqrt(0.5))
    far = 10 * (1 - math.sqrt(0.5))
    # The second corner follows the first by an equality: pulling it changes the one dimension of both.
    d.drag((50 - edge, 30 - edge), (50 - far, 30 - far))
    expect(d.page.get_by_test_id("dimension").filter(has_text="10 mm")).to_have_count(1)
    d.freedoms("Fully constrained")
    assert d.areas() == pytest.approx([50 * 30 - 2 * (4 - math.pi) / 4 * 100], rel=5e-3)
    d.drag((50 - far, far), (20, 20))
    d.trouble("can not")
    expect(d.page.get_by_test_id("dimension").filter(has_text="10 mm")).to_have_count(1)


def test_corners_in_hand_are_rounded_by_pulling_and_the_largest_radius_is_offered(board: Designer) -> None:
    d, page = board, board.page
    d.draw("r", (0, 0), (50, 30), width="50 mm", height="30 mm")
    d.keys("k", "f")
    d.click_tool((50, 0), (50, 30))
    far = 10 * (1 - math.sqrt(0.5))
    edge = 5 * (1 - math.sqrt(0.5))
    d.drag((50 - edge, 30 - edge), (50 - far, 30 - far))  # by the arc that is tried
    expect(page.locator("[data-field]").first).to_have_value("10 mm")
    d.type_in(page.locator("[data-field]").first, "40 mm")
    page.get_by_role("button", name="which all of them take").click()
    expect(page.locator("[data-field]").first).not_to_have_value("40 mm")
    page.get_by_role("button", name="Accept", exact=True).click()
    d.quiet()
    (area,) = d.areas()
    assert area == pytest.approx(1500 - (4 - math.pi) / 2 * 15**2, rel=2e-2)


def test_esc_gives_up_what_is_pulled_and_keeps_the_board_open(board: Designer) -> None:
    d = board
    d.draw("c", (0, 0), (6, 0), diameter="12 mm")
    d.draw("l", (20, 10), (40, 10), quiet=True)
    for start in ((6, 0), (30, 10), (-40, -20)):  # sized, dragged, boxed
        (x, y), (u, v) = d.on_board(start), d.on_board((50, 30))
        d.page.mouse.move(x, y)
        d.page.mouse.down()
        d.page.mouse.move((x + u) / 2, (y + v) / 2)
        d.page.mouse.move(u, v)
        d.quiet()
        d.keys("Escape")
        d.page.mouse.up()
        d.quiet()
    expect(d.page.get_by_test_id("board")).to_have_count(1)
    expect(d.page.get_by_test_id("dimension")).to_have_text("12 mm")
    assert d.lines() == [pytest.approx((30, 10))]
    expect(d.page.get_by_test_id("offers")).to_have_count(0)  # and nothing was picked by the box


def test_figures_go_along_while_geometry_moves_and_stand_again_after(board: Designer) -> None:
    d = board
    d.draw("r", (-30, -20), (40, 20), width="70 mm")
    figure, painted = d.page.get_by_test_id("figure"), d.page.get_by_test_id("figures-in-motion")
    before = figure.get_attribute("transform")
    (x, y), (u, v) = d.on_board((5, -20)), d.on_board((5, -30))
    d.page.mouse.move(x, y)
    d.page.mouse.down()
    d.page.mouse.move((x + u) / 2, (y + v) / 2)
    d.page.mouse.move(u, v)
    painted.wait_for()
    ink = "c => c.getContext('2d').getImageData(0, 0, c.width, c.height).data.some((v) => v > 0)"
    assert painted.evaluate(ink)
    expect(figure).to_have_count(0)
    d.page.mouse.up()
    expect(painted).to_have_count(0)
    expect(figure).to_have_text("70")
    assert figure.get_attribute("transform") != before


def test_a_quick_hand_loses_nothing(board: Designer) -> None:
    d = board
    # The next places are clicked, and the next tool is taken, before the server has answered.
    d.keys("k", "c")
    for x, y in [d.on_board(p) for p in ((-30, 0), (-22, 0))]:
        d.page.mouse.click(x, y)
    d.keys("k", "l")
    for x, y in [d.on_board(p) for p in ((0, 0), (30, 0), (30, 20), (0, 20), (0, 0))]:
        d.page.mouse.click(x, y)
    d.keys("Escape")
    expect(d.page.get_by_test_id("region")).to_have_count(2)
    assert sorted(d.lines()) == [pytest.approx(p, abs=1e-6) for p in ((0, 10), (15, 0), (15, 20), (30, 10))]
    d.freedoms("4 freedoms left")


@pytest.mark.own_window
@pytest.mark.parametrize(("low", "free"), [(-40, 6), (-10, 5)], ids=["free", "on an axis"])
def test_a_corner_that_the_server_has_not_drawn_yet_is_caught_all_the_same(designer: Designer, low: float, free: int) -> None:
    d, held, slow = designer, [], False

    def between(browser: WebSocketRoute) -> None:
        server = browser.connect_to_server()
        browser.on_message(server.send)
        server.on_message(lambda told: held.append((browser, told)) if slow else browser.send(told))

    d.page.route_web_socket(re.compile("/parts/"), between)
    d.new_part()
    d.pick_flag("XY")
    d.keys("k", "n")
    d.accept()
    d.board_ready()
    slow = True
    d.keys("k", "r")
    d.click((-40, low), (-20, low + 10), unanswered=True)
    d.keys("k", "l")
    d.click((-52, -20), (-40, low + 10), unanswered=True)
    d.keys("Escape")
    assert held
    slow = False
    for browser, told in held:
        browser.send(told)
    d.answered()
    d.freedoms(f"{free} freedoms left")  # four of the rectangle, less where it stands on the axis, two of the line that ends on its corner


def test_a_spline_gets_a_point_more_to_pull_at(board: Designer) -> None:
    d = board
    d.keys("k", "u")
    d.click((-50, 0), (-25, 20), (0, 8), (25, 24), (50, 0))
    d.keys("Enter", "Escape")
    d.freedoms("7 freedoms left")
    outline = d.page.get_by_test_id("curve")
    x, y = outline.evaluate("c => { const p = c.getPointAtLength(c.getTotalLength() * 0.86); return [p.x, p.y]; }")
    d.keys("k", "w")
    d.click_tool((0, 8))
    d.trouble("has a point here already")
    d.click_tool((x, y))
    d.keys("Escape")
    d.freedoms("9 freedoms left")
    before = outline.get_attribute("d")
    d.drag((x, y), (x + 8, y + 8))
    assert outline.get_attribute("d") != before


def test_many_freedoms_are_told_in_groups_that_open(board: Designer) -> None:
    d = board
    for i in range(5):
        d.draw("c", (-50 + 22 * i, 20), (-44 + 22 * i, 20), quiet=True)
    d.freedoms("15 freedoms left")
    groups = d.page.get_by_test_id("freedom-group")
    expect(groups).to_have_text([re.compile("5 centres can slide along X"), re.compile("5 centres can slide along Y"), re.compile("5 circles can grow or shrink")])
    groups.nth(2).click()
    expect(d.page.get_by_test_id("freedoms").get_by_role("listitem")).to_have_count(5)
    words = d.page.get_by_test_id("freedoms").get_by_role("listitem").all_inner_texts()
    assert len(set(words)) == 5
    groups.nth(2).click()
    expect(d.page.get_by_test_id("freedoms").get_by_role("listitem")).to_have_count(0)
