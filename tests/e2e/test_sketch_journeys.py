"""A day at the drawing board: an ear, a plate with sharp corners kept, a slanting face, a seal, a mirrored half, a conflict."""

from __future__ import annotations

import math
import re
from itertools import pairwise

import pytest
from playwright.sync_api import expect

from tests.e2e.designer import Designer


def test_the_ear_of_a_pole_bracket_with_one_tangency_forgotten_at_first(board: Designer) -> None:
    d = board
    d.draw("l", (-30, 0), (30, 0))
    d.draw("c", (0, 50), (14, 50))
    d.draw("l", (30, 0), (13.79, 52.43))
    d.draw("l", (-30, 0), (-12, 42.8))
    d.draw("c", (0, 0), (10, 0))
    d.keys("k", "i")
    d.click_tool((5, 0))
    d.page.mouse.move(*d.on_board((0, -10)))
    expect(d.page.get_by_test_id("readout")).to_contain_text("loses on curve")
    d.click_tool((0, -10), (0, 36))
    d.keys("Escape")
    expect(d.page.get_by_test_id("region")).to_have_count(1)
    d.constrain("y", (-30, 0), (30, 0), (0, -12))
    d.dimension("60 mm", (-30, 0), (30, 0))
    d.dimension("14 mm", (0, 64))
    d.dimension("10 mm", (0, 10))
    d.dimension("50 mm", (0, 50), (0, 0))
    d.freedoms("2 freedoms left")
    d.constrain("t", d.line_near((22, 26)), (0, 64))
    d.freedoms("1 freedom left")
    d.freedoms("the upper end of the left line slides along the upper arc")
    d.constrain("t", d.line_near((-22, 26)), (0, 64))
    d.freedoms("Fully constrained")
    d.close_sketch()
    d.keys("l", "f")
    d.pick(0, 30, 0)
    d.offer("Extrude")
    d.enter("depth", "10 mm")
    d.accept()
    tangent, half = math.sqrt(30**2 + 50**2 - 14**2), math.atan2(30, 50) + math.acos(14 / math.hypot(30, 50))
    expected = 10 * (30 * 50 + 14 * tangent + 14**2 * (math.pi - half) - 50 * math.pi)
    assert d.volume() == pytest.approx(expected, rel=1e-6)


def test_a_plate_is_dimensioned_to_its_sharp_corners(board: Designer) -> None:
    d = board
    d.draw("r", (0, 0), (50, 30), width="50 mm", height="30 mm")
    d.freedoms("Fully constrained")
    d.keys("k", "f")
    d.click_tool((50, 0), (50, 30))
    d.form(radius="6 mm")
    d.keys("k", "h")
    d.click_tool((0, 30))
    d.form(leg="5 mm")
    d.freedoms("Fully constrained")
    assert d.page.get_by_test_id("dimension").all_inner_texts()
    # The width is still that of the sharp corners, and one can measure to them.
    d.select((50, 30), (0, 0))
    d.keys("c", "d")
    d.page.get_by_role("button", name="Keep it as a reference dimension").click()
    expect(d.page.get_by_test_id("sketch-panel")).to_contain_text("(58.31 mm)")
    d.page.get_by_test_id("dimension").filter(has_text="50 mm").click()
    d.type_in(d.page.get_by_test_id("formula"), "70 mm")
    d.page.get_by_test_id("formula").press("Enter")
    d.freedoms("Fully constrained")
    d.close_sketch()
    d.keys("l", "f")
    d.pick(30, 12, 0)
    d.offer("Extrude")
    d.enter("depth", "2 mm")
    d.accept()
    assert d.volume() == pytest.approx(2 * (70 * 30 - 2 * (4 - math.pi) / 4 * 36 - 12.5), rel=1e-6)


def test_a_seal_follows_its_outline_and_is_turned_to_the_other_side(board: Designer) -> None:
    d = board
    d.draw("s", (-15, 0), (15, 0), (0, 10))
    d.keys("k", "o")
    d.click_tool((0, 10))
    d.form(by="3 mm")
    expect(d.page.get_by_test_id("curve")).to_have_count(8)
    slot = lambda r: math.pi * r * r + 60 * r  # noqa: E731
    assert d.areas() == pytest.approx([slot(13) - slot(10), slot(10)], rel=5e-3)
    # The other side; then the outline grows and the seal with it.
    d.page.get_by_test_id("sketch-panel").get_by_role("button", name=re.compile("^Turn .* over$")).first.click()
    assert d.areas() == pytest.approx([slot(10) - slot(7), slot(7)], rel=5e-3)
    d.dimension("12 mm", (25, 0))
    assert d.areas() == pytest.approx([slot(12) - slot(9), slot(9)], rel=5e-3)


def test_a_linked_half_follows(board: Designer) -> None:
    d = board
    d.draw("l", (0, 20), (25, 20), (25, 0))
    d.draw("c", (12, 10), (15, 10))
    d.keys("k", "m")
    d.drag((-3, -4), (32, 26))
    d.page.get_by_test_id("toolbar").get_by_role("button", name="about").click()
    d.click_tool((0, -20))
    d.form()
    expect(d.page.get_by_test_id("curve")).to_have_count(6)
    d.drag((12, 10), (9, 8))
    d.dimension("10 mm", (12, 8))
    assert d.areas() == pytest.approx([25 * math.pi] * 2, rel=5e-3)
    # The other half follows, and is bound: what would move it alone is not needed or fights.
    d.select((-14, 8))
    d.keys("c", "d")
    d.trouble("follows already")


def test_a_profile_on_a_slanting_face_dimensioned_to_the_models_edges(designer: Designer) -> None:
    d = designer
    d.new_part()
    d.pick_flag("YZ")
    d.keys("k", "n")
    d.accept()
    d.board_ready()
    d.draw("l", (0, 0), (40, 0), (40, 10), (0, 30), (0, 0))
    for formula, place in (("40 mm", (20, 0)), ("10 mm", (40, 5)), ("30 mm", (0, 15))):
        d.dimension(formula, place)
    d.freedoms("Fully constrained")
    d.close_sketch()
    d.keys("l", "f")
    d.pick(0, 15, 10)
    d.offer("Extrude")
    d.enter("depth", "25 mm")
    d.accept()
    d.keys("l", "f")
    # The slanting face, an edge for X and a corner for the origin, all picked first.
    d.pick(12.5, 20, 20)
    d.pick(7, 0, 30, more=True)
    d.pick(0, 0, 30, more=True)
    d.offer("New sketch")
    d.accept()
    expect(d.page.get_by_test_id("sketch-panel")).to_contain_text("step 30")
    d.board_ready()
    d.draw("c", (14, 20), (18, 20), quiet=True, diameter="8 mm")
    d.dimension("9 mm", (25, 30), (14, 20))
    d.dimension("15 mm", (16, math.hypot(40, 20)), (16, 20))
    takings = d.page.get_by_test_id("takings")
    expect(takings).to_contain_text("of an edge")
    d.freedoms("Fully constrained")
    d.close_sketch()
    d.keys("l", "f")
    d.pick(17.4, 40 - 15 * 2 / math.sqrt(5), 10 + 15 / math.sqrt(5), thing="region of Sketch 2")
    d.offer("Extrude")
    d.enter("depth", "6 mm")
    d.accept()
    assert boss(d, (25, 40, 10)) == pytest.approx((16, *above(40, 10, 15, 3)), abs=1e-4)
    # The block grows upstream: the boss keeps its distances from the edges.
    d.set_formula("sketch_1_height", "20 mm")
    d.set_formula("extrude_1_depth", "33 mm")
    assert boss(d, (33, 40, 20)) == pytest.approx((24, *above(40, 20, 15, 3)), abs=1e-4)


def above(far: float, low: float, back: float, up: float) -> tuple[float, float]:
    """The place (y, z) on the slope from (0, 30) to (far, low), so far back from its lower end and up from it, mm."""
    n = math.hypot(far, 30 - low)
    y, z = far / n, (low - 30) / n
    return far - back * y - up * z, low - back * z + up * y


def boss(d: Designer, block: tuple[float, float, float]) -> tuple[float, ...]:
    """The middle of a boss of 8 by 6 on the sloping block of depth, width and lower height: what is left when the block is taken off."""
    depth, width, low = block
    (body,) = d.report()["bodies"]
    v = depth * width * (30 + low) / 2
    y = width / 3 * (30 + 2 * low) / (30 + low)
    z = (900 + 30 * low + low * low) / (3 * (30 + low))
    own = math.pi * 16 * 6
    assert body["volume"] == pytest.approx(v + own, rel=1e-6)
    return tuple((body["volume"] * c - v * m) / own for c, m in zip(body["centre"], (depth / 2, y, z), strict=True))


def test_a_conflict_is_made_and_resolved(board: Designer) -> None:
    d = board
    d.draw("r", (0, 0), (30, 20), width="30 mm", height="20 mm")
    d.select((0, 0), (30, 20))
    d.keys("c", "d")
    d.trouble("Nothing was added")
    conflict = d.page.get_by_test_id("conflict")
    expect(conflict).to_contain_text("sketch_1_width")
    conflict.get_by_role("listitem").filter(has_text="sketch_1_height").get_by_role("button", name="only tell").click()
    d.freedoms("Fully constrained")
    d.page.get_by_test_id("dimension").filter(has_text="36.0").click()
    d.type_in(d.page.get_by_test_id("formula"), "50 mm")
    d.page.get_by_test_id("formula").press("Enter")
    expect(d.page.get_by_test_id("sketch-panel")).to_contain_text("(40 mm)")
    d.keys("Control+z")
    d.keys("Control+z")
    expect(d.page.get_by_test_id("sketch-panel")).to_contain_text("20 mm")


def test_what_was_taken_in_and_is_lost_is_marked_and_taken_from_elsewhere(designer: Designer) -> None:
    d = designer
    d.new_part()
    d.pick_flag("XY")
    d.keys("k", "n")
    d.accept()
    d.board_ready()
    d.draw("r", (0, 0), (40, 25))
    d.close_sketch()
    d.keys("l", "f")
    d.keys("b", "e")
    d.pick(20, 12, 0)
    d.enter("depth", "10 mm")
    d.accept()
    d.keys("l", "f")
    # A hole on the top, dimensioned to the model's right edge, which is taken in by that.
    d.pick(20, 12, 10)
    d.offer("New sketch")
    d.accept()
    d.board_ready()
    d.draw("c", (25, 12), (29, 12), quiet=True, diameter="8 mm")
    d.dimension("12 mm", (40, 5), (25, 12))
    d.close_sketch()
    # Upstream the right side is deleted and drawn anew: another line, so the edge is another one too.
    d.page.get_by_role("button", name="Sketch 1", exact=True).click()
    d.board_ready()
    d.select((40, 9))
    d.keys("Delete")
    expect(d.page.get_by_test_id("curve")).to_have_count(3)
    d.draw("l", (40, 0), (40, 25))
    d.close_sketch()
    expect(d.step("Sketch 2")).to_contain_text("stays where it was")
    d.page.get_by_role("button", name="Sketch 2", exact=True).click()
    d.board_ready()
    takings = d.page.get_by_test_id("takings")
    expect(takings).to_contain_text("lost: it stays where it was")
    expect(d.page.locator("[data-testid=board] path.stroke-carmine").first).to_be_attached()
    takings.get_by_test_id("retake").first.hover()
    takings.get_by_test_id("retake").first.click()
    expect(takings).to_contain_text("of an edge")
    expect(takings.get_by_test_id("retake")).to_have_count(0)
    d.close_sketch()
    expect(d.step("Sketch 2")).not_to_contain_text("stays where it was")
    # It follows again.
    d.page.get_by_role("button", name="Sketch 1", exact=True).click()
    d.board_ready()
    d.drag((40, 9), (44, 9))
    d.close_sketch()
    d.page.get_by_role("button", name="Sketch 2", exact=True).click()
    d.board_ready()
    expect(takings).to_contain_text("of an edge")
    assert max(x for x, _ in d.lines()) == pytest.approx(44, abs=0.3)


def test_a_crest_along_a_spline_is_trimmed_rounded_and_taken_up_again(board: Designer) -> None:
    d = board
    d.keys("k", "u")
    d.click((-50, 0), (-25, 20), (0, 8), (25, 24), (50, 0), (60, -14))
    d.keys("Enter", "Escape")
    expect(d.page.get_by_test_id("curve")).to_have_count(1)
    d.draw("l", (-50, 0), (-50, -25))
    d.draw("l", (-50, -25), (48, -25))
    d.draw("l", (48, -25), (48, 20))
    d.keys("k", "i")
    d.click_tool((57, -10.5), (48, 15))
    d.keys("Escape")
    expect(d.page.get_by_test_id("region")).to_have_count(1)
    d.keys("k", "f")
    d.click_tool((-50, 0))
    d.form(radius="4 mm")
    d.drag((25, 24), (25, 30))
    (area,) = d.areas()
    d.close_sketch()
    d.keys("l", "f")
    d.quiet()
    d.pick(-20, -12, 0, thing="region")
    d.offer("Extrude")
    d.enter("depth", "12 mm")
    d.accept()
    assert d.volume() == pytest.approx(12 * area, rel=1e-3)  # drawn in chords
    before = d.volume()

    d.pick(0, -10, 12, thing="top face")
    d.offer("New sketch")
    d.accept()
    d.board_ready()
    d.quiet()
    d.keys("k", "j")
    d.click_tool((25, 30))
    d.keys("Escape")
    d.freedoms("Fully constrained")
    d.draw("l", (-30, 40), (-30, -10))
    d.draw("l", (-30, -10), (30, -10))
    d.draw("l", (30, -10), (30, 40))
    d.keys("k", "i")
    d.click_tool((-45, 6), (45, 7), (-30, 30), (30, 35))
    d.keys("Escape")
    d.freedoms("3 freedoms left")
    (area,) = d.areas()
    d.close_sketch()
    d.keys("b", "e")
    d.says("Complete")
    d.pick(0, -5, 12, thing="region")
    expect(d.editor.get_by_test_id("blank-profile")).to_contain_text("1 region")
    d.choose("extent", "out of its plane by")
    d.enter("depth", "5 mm")
    d.accept()
    assert d.volume() - before == pytest.approx(5 * area, rel=1e-3)

    total = d.volume()
    d.page.get_by_role("button", name="Sketch 1", exact=True).first.click()
    d.board_ready()
    d.drag((25, 30), (25, 40))
    d.close_sketch()
    assert d.volume() > total + 1000
    total = d.volume()
    d.page.reload()
    d.settled()
    assert d.volume() == pytest.approx(total)


def test_a_wall_along_a_crest_keeps_its_thickness(board: Designer) -> None:
    d = board
    d.keys("k", "u")
    d.click((-50, 0), (-25, 20), (0, 8), (25, 24), (50, 0))
    d.keys("Enter", "Escape")
    expect(d.page.get_by_test_id("curve")).to_have_count(1)
    for start, end in pairwise([(-50, 0), (-50, -25), (50, -25), (50, 0)]):
        d.draw("l", start, end)
    d.keys("k", "f")
    d.click_tool((-50, 0))
    d.form(radius="6 mm")
    d.keys("k", "o")
    d.click_tool((0, -25))
    bar = d.page.get_by_test_id("toolbar")
    d.choose_in(bar.get_by_role("combobox").first, "the inside (right)")
    d.type_in(bar.get_by_label("by", exact=True), "60 mm")
    expect(d.page.get_by_test_id("trial-trouble")).to_contain_text("Up to about")
    d.form(by="4 mm")
    expect(d.page.get_by_test_id("curve")).to_have_count(10)
    d.freedoms("8 freedoms left")
    wall, _ = d.areas()
    # Outside the spline's end is a corner: it is rounded there. Then back inside, thinner, and the crest pulled up.
    over = d.page.get_by_test_id("sketch-panel").get_by_role("button", name=re.compile("^Turn .* over$"))
    over.click()
    expect(d.page.get_by_test_id("curve")).to_have_count(11)
    assert d.areas()[0] > wall
    over.click()
    expect(d.page.get_by_test_id("curve")).to_have_count(10)
    d.drag((25, 24), (25, 30))
    d.freedoms("8 freedoms left")
    d.close_sketch()
    d.keys("l", "f")
    d.quiet()
    d.pick(0, -23, 0, thing="region")
    d.offer("Extrude")
    d.enter("depth", "10 mm")
    d.accept()
    thick = d.volume()
    d.set_formula("sketch_1_offset", "2 mm")
    # A wall twice as thick is less than twice as much by what the inner corners take.
    assert d.volume() < thick < 2 * d.volume() < 1.1 * thick
