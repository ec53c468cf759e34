"""Building in the browser: the Float wheel and the Mast clamp from empty parts, holes in each manner, patterns with copies left out."""

from __future__ import annotations

import math
import re

import pytest
from playwright.sync_api import expect

from tests.e2e.designer import Designer
from tests.samples import plate_by_default

PI = math.pi


def choose_thing(d: Designer, blank: str, name: str) -> None:
    """Choose for a blank from the list of all that fits it."""
    d.editor.get_by_test_id(f"blank-{blank}").focus()
    d.keys("ArrowDown")
    d.page.get_by_role("menuitem", name=name, exact=True).first.click()


def finish(d: Designer) -> None:
    """Accept by the keyboard, wherever the focus is."""
    d.says("Complete")
    d.keys("Enter")
    expect(d.editor).to_have_count(0)
    d.settled()


def sketch_on(d: Designer, plane: str) -> None:
    d.pick_flag(plane)
    d.keys("k", "n")
    d.accept()
    d.board_ready()


def clause(d: Designer, name: str) -> None:
    d.editor.get_by_role("button", name=f"+ {name}", exact=True).click()


def test_a_float_wheel_from_an_empty_part(designer: Designer) -> None:
    d, page = designer, designer.page
    d.new_part()
    sketch_on(d, "ZX")
    d.draw("r", (8, 0), (40, 10), width="32 mm", height="10 mm")
    d.close_sketch()
    d.pick(24, 0, 5)
    d.offer("Revolve")
    d.says("Still needs an axis")
    choose_thing(d, "axis", "base axis Z")
    d.says("Adds")
    finish(d)
    ring = PI * (40**2 - 8**2) * 10
    assert d.volume() == pytest.approx(ring)
    # An opening in its upper face, then all round, with two left out, then one more.
    d.look("Z")
    d.pick(24, 0, 10, thing="top face")
    d.offer("New sketch")
    d.accept()
    d.board_ready()
    d.draw("c", (24, 0), (29, 0), diameter="10 mm")
    d.close_sketch()
    d.pick(24, 0, 10, thing="region")
    d.keys("b", "e")
    d.choose("extent", "into its plane, through everything")
    d.choose("result", "cutting")
    d.says("Removes")
    finish(d)
    d.keys("b", "p")
    page.get_by_role("button", name="Extrude 1", exact=True).click()
    d.choose("manner", "round")
    choose_thing(d, "axis", "base axis Z")
    d.enter("count", "6")
    expect(page.get_by_test_id("dot")).to_have_count(5)
    for number in ("3", "5"):
        page.get_by_label(f"Copy {number}", exact=True).click()
    d.says("Removes")
    expect(d.editor).to_contain_text("leaving out 3, 5")
    finish(d)
    assert d.volume() == pytest.approx(ring - 4 * PI * 25 * 10)
    d.set_formula("pattern_1_count", "8")
    assert d.volume() == pytest.approx(ring - 6 * PI * 25 * 10)
    # Three dimensions changed, a step reordered, all undone and done again.
    d.set_formula("sketch_1_height", "12 mm")
    d.set_formula("sketch_2_diameter", "8 mm")
    final = PI * (40**2 - 8**2) * 12 - 6 * PI * 16 * 12
    assert d.volume() == pytest.approx(final)
    d.keys("d", "p")
    d.pick_flag("XY")
    finish(d)
    d.menu("Plane 1", "Move one up")
    d.settled()
    version = d.version
    undo = page.get_by_label("Undo")
    while undo.is_enabled():
        undo.click()
        d.settled()
    expect(page.get_by_test_id("step")).to_have_count(0)
    redo = page.get_by_label("Redo")
    while redo.is_enabled():
        redo.click()
        d.settled()
    assert d.version == version
    assert d.volume() == pytest.approx(final)
    page.reload()
    d.settled()
    expect(page.get_by_test_id("route-state")).to_contain_text("all built")


def test_a_mast_clamp_from_an_empty_part(designer: Designer) -> None:
    d, page = designer, designer.page
    d.new_part()
    sketch_on(d, "XY")
    d.draw("c", (0, 0), (30, 0), diameter="60 mm")
    d.close_sketch()
    d.pick(12, -14, 0, thing="region")
    d.keys("b", "e")
    d.choose("extent", "evenly both ways, in all")
    d.enter("depth", "20 mm")
    finish(d)
    sketch_on(d, "XY")
    d.draw("r", (25, -10), (50, 10))
    d.close_sketch()
    d.pick(40, 5, 0, thing="region of Sketch 2")
    d.keys("b", "e")
    d.choose("extent", "evenly both ways, in all")
    d.enter("depth", "20 mm")
    expect(d.editor.get_by_label("result")).to_have_value("add")
    finish(d)
    one = d.volume()
    d.keys("b", "m")
    page.get_by_role("button", name="Extrude 2", exact=True).click()
    d.pick_flag("YZ")
    d.says("Adds")
    finish(d)
    assert d.volume() == pytest.approx(2 * one - PI * 30**2 * 20)
    sketch_on(d, "XY")
    d.draw("c", (0, 0), (22, 0), diameter="44 mm")
    d.close_sketch()
    d.keys("b", "e")
    d.pick(8, -12, 0, thing="region of Sketch 3")
    d.choose("extent", "both ways, through everything")
    d.choose("result", "cutting")
    finish(d)
    whole = d.volume()
    d.keys("b", "k")
    d.pick_flag("ZX")
    finish(d)
    bodies = d.report()["bodies"]
    assert [b["volume"] for b in bodies] == [pytest.approx(whole / 2)] * 2
    # A counterbored hole in one half and a tapped one in the other, at the same point of a sketch.
    sketch_on(d, "ZX")
    d.draw("p", (40, 0))
    d.close_sketch()
    d.keys("b", "h")
    choose_thing(d, "at", "all of Sketch 4")
    d.choose("size", "clearance for")
    d.choose("screw", "M6")
    clause(d, "turned round")
    d.says("Ø6.6 through")
    finish(d)
    d.keys("b", "h")
    choose_thing(d, "at", "all of Sketch 4")
    d.choose("size", "tapped")
    d.choose("thread", "M6")
    d.says("M6, Ø5 through")
    finish(d)
    assert whole - d.volume() == pytest.approx(PI * (3.3**2 + 2.5**2) * 10)
    for tag, formula in (("sketch_1_diameter", "64 mm"), ("sketch_3_diameter", "46 mm"), ("extrude_1_depth", "24 mm")):
        d.set_formula(tag, formula)
    expect(page.get_by_test_id("route-state")).to_contain_text("all built")


def plate(d: Designer) -> None:
    """A plate of 40 x 25 x 10 seen from above."""
    d.begin(plate_by_default().part)
    d.look("Z")


PLATE = 40 * 25 * 10


def test_a_hole_in_each_manner_with_bad_values(designer: Designer) -> None:
    d, page = designer, designer.page
    plate(d)
    # On a face, by two distances from its edges.
    d.keys("b", "h")
    d.choose("where", "on")
    d.pick(20, 12, 10, thing="top face")
    d.pick(0, 17, 10, thing="edge")
    d.pick(13, 0, 10, thing="edge")
    d.enter("distance", "8 mm")
    d.enter("second distance", "9 mm")
    for bad, told in (("0 mm", "must be greater than zero"), ("6 kg", "A length is wanted"), ("", "A number or a formula")):
        d.enter("diameter", bad)
        d.says(told)
    version = d.version
    d.keys("Enter")
    d.says("A number or a formula")
    assert d.version == version
    d.enter("diameter", "6 mm")
    finish(d)
    taken = PI * 9 * 10
    assert d.volume() == pytest.approx(PLATE - taken)
    # By coordinates, countersunk to a depth with a tip.
    d.keys("b", "h")
    d.choose("where", "at X, Y")
    d.enter("X", "30 mm")
    d.enter("Y", "15 mm")
    clause(d, "turned round")  # from below: the system's Z looks up
    clause(d, "counterbore or countersink")
    d.choose("head", "countersunk")
    d.says("only where the hole is a clearance hole")
    d.choose("head size", "to")
    d.enter("countersink diameter", "10 mm")
    d.choose("end", "full diameter deep")
    d.enter("depth", "6 mm")
    d.says("Ø6 ↧ 6".replace("↧ ", ""))  # the sign is drawn
    finish(d)
    sink = PI * 2 / 12 * (100 + 60 + 36) - PI * 9 * 2
    taken += PI * 9 * 6 + PI * 9 * (3 / math.tan(math.radians(59))) / 3 + sink
    assert d.volume() == pytest.approx(PLATE - taken)
    # Concentric with the first hole, wider, from where the body begins.
    d.keys("b", "h")
    choose_thing(d, "at", re_round(d))
    d.enter("diameter", "8 mm")
    d.choose("end", "full diameter deep")
    d.enter("depth", "3 mm")
    d.choose("tip", "flat")
    d.says("Complete")
    d.keys("Escape")
    expect(d.editor).to_have_count(0)
    page.reload()
    d.settled()
    assert d.volume() == pytest.approx(PLATE - taken)


def re_round(d: Designer) -> str:
    """The name by which the first round face of a hole is listed."""
    d.editor.get_by_test_id("blank-at").focus()
    d.keys("ArrowDown")
    names = d.page.get_by_test_id("under").get_by_role("menuitem").all_inner_texts()
    d.keys("Escape")
    return next(n for n in names if re.match(r"wall of a hole of .*Ø6(,|$)", n))


def test_a_clause_comes_and_goes_and_a_step_is_taken_up_again(designer: Designer) -> None:
    d, page = designer, designer.page
    plate(d)
    d.pick(20, 12, 10, thing="top face")
    d.offer("New sketch")
    d.accept()
    d.board_ready()
    d.draw("c", (20, 12), (26, 12), diameter="12 mm")
    d.close_sketch()
    d.pick(20, 12, 10, thing="region")
    d.keys("b", "e")
    page.keyboard.type("8 mm")
    clause(d, "draft angle")
    page.keyboard.type("10 deg")
    d.says("Adds")
    frustum = PI * 8 / 3 * (36 + 6 * (6 - 8 * math.tan(math.radians(10))) + (6 - 8 * math.tan(math.radians(10))) ** 2)
    finish(d)
    assert d.volume() == pytest.approx(PLATE + frustum)
    expect(d.step("Extrude 2")).to_contain_text("narrowing by")
    d.edit("Extrude 2")
    d.editor.get_by_label("Take away draft angle").click()
    finish(d)
    assert d.volume() == pytest.approx(PLATE + PI * 36 * 8)
    d.edit("Extrude 2")
    d.keys(";")
    expect(d.editor.get_by_label("extent")).to_have_value("into")
    d.says("adds nothing")
    d.keys("Escape")


def test_a_depth_is_pulled_on_the_stage_in_round_steps_and_another_of_the_same_follows(designer: Designer) -> None:
    d, page = designer, designer.page
    plate(d)
    d.keys("l", "f")
    page.get_by_label("Look along X").click()
    d.quiet()
    d.edit("Extrude 1")
    handle = page.get_by_test_id("handle-depth")
    box = handle.bounding_box()
    assert box
    x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
    page.mouse.move(x, y)
    page.mouse.down()
    for k in range(1, 9):
        page.mouse.move(x, y - 10 * k)
    page.mouse.up()
    depth = d.editor.get_by_label("depth", exact=True).input_value()
    assert re.fullmatch(r"\d+(\.5)? mm", depth), depth
    assert float(depth[:-3]) > 12
    finish(d)
    assert d.volume() == pytest.approx(40 * 25 * float(depth[:-3]))
    page.get_by_label("Look along Z").click(force=True)
    d.keys("d", "p")
    page.keyboard.type("7 mm")
    d.pick_flag("YZ")
    d.says("Complete")
    d.keys("Shift+Enter")  # and another: the same choices, empty picks
    d.says("Still needs")
    expect(d.editor.get_by_label("distance", exact=True)).to_have_value("7 mm")
    d.pick_flag("ZX")
    finish(d)
    expect(d.step("Plane 2")).to_contain_text("7 mm out from ZX")


def test_bodies_are_named_coloured_and_hidden(designer: Designer) -> None:
    d, page = designer, designer.page
    d.open_part("Mast clamp")
    bodies = page.get_by_test_id("bodies")
    bodies.get_by_role("button", name="Back half", exact=True).click()
    page.keyboard.type("Rear half")
    d.keys("Enter")
    d.settled()
    expect(bodies).to_contain_text("Rear half")
    page.get_by_label("Colour of Rear half").click()
    d.settled()
    bodies.get_by_role("button", name="hide").first.click()
    d.settled()
    x, y = d.pixel((0, -33, 10))
    page.mouse.move(x, y)
    d.quiet()
    assert "Front half" not in page.get_by_test_id("readout").inner_text()
    page.reload()
    d.settled()
    expect(bodies.get_by_role("button", name="show")).to_have_count(1)
    for _ in range(3):
        page.get_by_label("Undo").click()
        d.settled()
    expect(bodies).to_contain_text("Back half")


def pull(d: Designer, field: str, dx: float, dy: float) -> None:
    """Pull an arrow of the step under edit by pixels."""
    d.says("Complete")  # the arrow stands where the step is now
    box = d.at_rest(d.page.get_by_test_id(f"handle-{field}").bounding_box)
    assert box
    x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
    d.page.mouse.move(x, y)
    d.page.mouse.down()
    for k in range(1, 9):
        d.page.mouse.move(x + dx * k / 8, y + dy * k / 8)
    d.page.mouse.up()


def test_angles_and_the_place_of_a_hole_are_pulled_and_what_leaves_the_view_brings_it_along(designer: Designer) -> None:
    d = designer
    d.new_part()
    sketch_on(d, "ZX")
    d.draw("r", (8, 0), (40, 10), width="32 mm", height="10 mm")
    d.close_sketch()
    d.pick(24, 0, 5)
    d.keys("b", "r")
    choose_thing(d, "axis", "base axis Z")
    d.choose("extent", "by")
    d.says("Complete")
    d.look("Z")
    x, y = d.pixel((0, 40, 0))  # the far corner of the quarter ring, which lay out of view
    assert 60 < x < 930
    assert 44 < y < 770
    pull(d, "angle", -60, -20)
    angle = d.editor.get_by_label("angle", exact=True).input_value()
    assert re.fullmatch(r"\d+ deg", angle), angle
    assert 90 < int(angle[:-4]) < 130
    finish(d)
    assert d.volume() == pytest.approx(PI * (40**2 - 8**2) * 10 * int(angle[:-4]) / 360)
    plate(d)
    d.keys("b", "h")
    d.choose("where", "on")
    d.pick(20, 12, 10, thing="top face")
    d.pick(0, 17, 10, thing="edge")
    d.pick(13, 0, 10, thing="edge")
    d.says("Complete")
    pull(d, "distance", 30, 0)
    pull(d, "distance_two", 0, -20)
    one, two = (d.editor.get_by_label(label, exact=True).input_value() for label in ("distance", "second distance"))
    assert float(one[:-3]) > 10 < float(two[:-3])
    finish(d)
    assert d.volume() == pytest.approx(PLATE - PI * 9 * 10)


def test_an_edge_is_rounded_by_typing_and_pulling_and_a_radius_that_does_not_fit_is_mended_by_what_is_told(designer: Designer) -> None:
    d = designer
    plate(d)
    d.keys("l", "f")
    d.keys("b", "f")
    d.says("Still needs an edge, or a face whose edges are meant")
    d.pick(20, 0, 10, thing="edge")
    d.says("Removes")
    d.enter("radius", "11 mm")
    d.says("does not fit at the edge near X 20.000 Y 0.000 Z 10.000")
    d.editor.get_by_role("button", name="Find the largest that works").click()
    d.editor.get_by_role("button", name=re.compile(r"^Take 9\.[789]\d* mm$")).click()
    d.says("Removes")
    d.enter("radius", "4 mm")
    d.says("Removes 137 mm³")
    d.page.get_by_label("Look along X").click()
    d.quiet()
    pull(d, "radius", 15, 15)
    radius = d.editor.get_by_label("radius", exact=True).input_value()
    assert re.fullmatch(r"\d+(\.5)? mm", radius), radius
    assert float(radius[:-3]) > 4
    finish(d)
    taken = float(radius[:-3]) ** 2 * (1 - PI / 4) * 40
    assert d.volume() == pytest.approx(PLATE - taken)
    d.keys("b", "c")
    d.pick(40, 25, 5, thing="edge")
    d.says("Removes")
    finish(d)
    d.set_formula("chamfer_1_leg", "2 mm")
    d.set_formula("fillet_1_radius", "3 mm")
    assert d.volume() == pytest.approx(PLATE - 9 * (1 - PI / 4) * 40 - 2 * 2 / 2 * 10)
    d.page.reload()
    d.settled()
    expect(d.page.get_by_test_id("route-state")).to_contain_text("all built")


def test_a_plate_is_hollowed_with_bad_values_typed_first(designer: Designer) -> None:
    d = designer
    plate(d)
    d.keys("b", "s")
    d.pick(20, 12, 10, thing="top face")
    d.says("Removes")
    for bad, told in (("0 mm", "must be greater than zero"), ("13 mm", "can not be made here"), ("2 s", "A length is wanted")):
        d.enter("thickness", bad)
        d.says(told)
    d.enter("thickness", "3 mm")
    d.says("Removes")
    finish(d)
    assert d.volume() == pytest.approx(PLATE - 34 * 19 * 7)
    d.set_formula("extrude_1_depth", "15 mm")
    assert d.volume() == pytest.approx(40 * 25 * 15 - 34 * 19 * 12)
    expect(d.page.get_by_test_id("route-state")).to_contain_text("all built")
