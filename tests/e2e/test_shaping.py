"""Shaping in the browser: the Sensor housing, a fillet pulled, one mended by what is offered, sheets, faces, words round a bar."""

from __future__ import annotations

import math
import re

import pytest
from playwright.sync_api import expect

from tests.building import drawn_on, f
from tests.e2e.designer import Designer
from tests.e2e.test_building import choose_thing, clause, finish, sketch_on
from tests.samples import XY
from wendal.demo.builder import Builder

PI = math.pi


def take_all(d: Designer, blank: str, words: str, count: int) -> None:
    """Choose all things of a list that begin with some words."""
    for i in range(count):
        d.editor.get_by_test_id(f"blank-{blank}").focus()
        d.keys("ArrowDown")
        d.page.get_by_role("menuitem", name=re.compile(f"^{words}")).nth(i).click()
        d.quiet()


def test_the_sensor_housing_from_its_block(designer: Designer) -> None:
    """From its plain block on: to draw and extrude it is in every other journey."""
    d, page = designer, designer.page
    b = Builder("Sensor housing")
    outline = drawn_on(b, XY, "rectangle", (-32, -22), (32, 22))
    b.step("extrude", "Extrude 1", profile=b.profile(outline, 0), depth=f("28 mm"))
    d.begin(b.part)
    assert d.volume() == pytest.approx(64 * 44 * 28)
    # Its upright edges, by their names in the list, and the edge round its foot.
    d.keys("l", "f")
    d.keys("b", "f")
    take_all(d, "edges", "edge along Z", 4)
    d.enter("radius", "7 mm")
    finish(d)
    assert d.volume() == pytest.approx((64 * 44 - (4 - PI) * 49) * 28)
    d.pick(0, -22, 0, thing="edge along X")
    d.keys("b", "f")
    d.enter("radius", "3.2 mm")
    d.says("Goes on along 7 more edges")
    finish(d)
    # Hollow, open at the top.
    d.keys("b", "s")
    d.pick(12, 7, 28, thing="top face")
    d.enter("thickness", "2.4 mm")
    d.says("Removes")
    finish(d)
    hollow = d.volume()
    # A rib from a line over the floor.
    d.keys("d", "p")
    d.pick_flag("XY")
    d.enter("distance", "12.6 mm")
    finish(d)
    d.pick_flag("Plane 1")
    d.keys("k", "n")
    d.accept()
    d.board_ready()
    d.draw("l", (0, -6), (0, 6))
    d.close_sketch()
    d.keys("b", "i")
    choose_thing(d, "lines", page_name(d, "lines", "vertical line of Sketch 1"))
    d.choose("manner", "square into its plane")
    d.enter("thickness", "1.7 mm")
    finish(d)
    assert d.volume() == pytest.approx(hollow + 1.7 * (12.6 - 2.4) * (44 - 4.8), rel=2e-3)
    ribbed = d.volume()
    # A lug, softened, bored, repeated along the side and mirrored with its fillet and its hole.
    sketch_on(d, "XY")
    d.draw("r", (-25, -31), (-15, -22), width="10 mm", height="9 mm")
    d.close_sketch()
    d.pick(-20, -27, 0, thing="region")
    d.keys("b", "e")
    d.enter("depth", "4 mm")
    finish(d)
    d.keys("b", "f")
    d.pick(-25, -31, 2, thing="edge along Z")
    d.pick(-15, -31, 2, thing="edge along Z")
    d.enter("radius", "4 mm")
    finish(d)
    d.keys("b", "h")
    d.choose("where", "at X, Y")
    d.enter("X", "-20 mm")
    d.enter("Y", "-26.5 mm")
    d.enter("diameter", "4.5 mm")
    clause(d, "turned round")
    finish(d)
    lug = 10 * 9 * 4 - 2 * (1 - PI / 4) * 16 * 4 - PI * 4.5**2 / 4 * 4
    assert d.volume() == pytest.approx(ribbed + lug)
    d.keys("b", "p")
    for name in ("Extrude 2", "Fillet 3", "Hole 1"):
        d.step(name).get_by_role("button", name=name, exact=True).click()
    choose_thing(d, "along", "base axis X")
    d.enter("count", "2")
    d.choose("layout", "over")
    d.enter("span", "40 mm")
    finish(d)
    assert d.volume() == pytest.approx(ribbed + 2 * lug)
    d.keys("b", "m")
    for name in ("Extrude 2", "Fillet 3", "Hole 1", "Pattern 1"):
        d.step(name).get_by_role("button", name=name, exact=True).click()
    choose_thing(d, "about", "base plane ZX")
    finish(d)
    assert d.volume() == pytest.approx(ribbed + 4 * lug)
    # Changed: thicker, higher, with one more lug a side.
    d.set_formula("pattern_1_count", "3")
    assert d.volume() == pytest.approx(ribbed + 6 * lug)
    d.set_formula("shell_1_thickness", "3 mm")
    thicker = d.volume()
    assert thicker > ribbed + 6 * lug
    d.set_formula("extrude_1_depth", "34 mm")
    inner = (64 - 6) * (44 - 6) - (4 - PI) * 16
    assert d.volume() == pytest.approx(thicker + 6 * (64 * 44 - (4 - PI) * 49 - inner))
    page.reload()
    d.settled()
    expect(page.get_by_test_id("route-state")).to_contain_text("all built")


def turned_body(d: Designer, *corners: tuple[float, float]) -> float:
    """Revolve a half outline on ZX about Z; the volume."""
    d.new_part()
    sketch_on(d, "ZX")
    d.draw("l", *corners, corners[0])
    d.close_sketch()
    d.keys("b", "r")
    choose_thing(d, "profile", page_name(d, "profile", "region of Sketch 1"))
    choose_thing(d, "axis", "base axis Z")
    finish(d)
    return d.volume()


def six_round(d: Designer, *names: str) -> None:
    """Repeat steps six times about Z."""
    d.keys("b", "p")
    for name in names:
        d.step(name).get_by_role("button", name=name, exact=True).click()
    d.choose("manner", "round")
    choose_thing(d, "axis", "base axis Z")
    d.enter("count", "6")
    finish(d)


def test_arms_swept_out_of_a_cone_with_a_face_removed_six_times_round(designer: Designer) -> None:
    d = designer
    cone = turned_body(d, (0, 0), (20, 0), (10, 40), (0, 40))
    assert cone == pytest.approx(PI * 40 / 3 * (400 + 200 + 100), rel=1e-6)
    sketch_on(d, "ZX")
    d.draw("l", (8, 15), (32, 20))
    d.close_sketch()
    d.keys("b", "w")
    d.choose("section", "a round section of diameter")
    d.enter("diameter", "5 mm")
    choose_thing(d, "path", page_name(d, "path", "line of Sketch 2"))
    d.choose("result", "adding to")
    finish(d)
    bare = d.volume() - cone
    d.keys("b", "f")
    choose_thing(d, "edges", page_name(d, "edges", "slanting face of Revolve 1"))
    d.enter("radius", "1 mm")
    finish(d)
    assert bare - 5 < d.volume() - cone < bare
    d.keys("b", "x")
    choose_thing(d, "faces", page_name(d, "faces", "ring face of Revolve 1"))
    finish(d)
    assert d.volume() - cone == pytest.approx(bare)
    six_round(d, "Sweep 1", "Fillet 1", "Remove faces 1")
    assert d.volume() - cone == pytest.approx(6 * bare)
    d.set_formula("sweep_1_diameter", "6 mm")
    assert d.volume() - cone > 6 * bare * 1.4


def test_ridges_extruded_up_to_a_cylinder_and_a_cone_six_times_round(designer: Designer) -> None:
    d = designer
    core = turned_body(d, (0, 0), (10, 0), (10, 20), (20, 40), (0, 40))
    d.keys("d", "p")
    d.pick_flag("YZ")
    d.enter("distance", "24 mm")
    finish(d)
    d.pick_flag("Plane 1")
    d.keys("k", "n")
    d.accept()
    d.board_ready()
    d.draw("r", (-2, 5), (2, 35), width="4 mm", height="30 mm")
    d.close_sketch()
    d.keys("b", "e")
    choose_thing(d, "profile", page_name(d, "profile", "region of Sketch 2"))
    d.choose("extent", "up to")
    choose_thing(d, "until", "round face of Revolve 1, Ø20")
    choose_thing(d, "until", "conical face of Revolve 1")
    d.choose("result", "adding to")
    finish(d)
    one = d.volume() - core
    assert one > 4 * 15 * 14
    six_round(d, "Extrude 1")
    assert d.volume() - core == pytest.approx(6 * one)
    d.set_formula("plane_1_distance", "26 mm")
    assert d.volume() - core == pytest.approx(6 * (one + 2 * 4 * 30))


def page_name(d: Designer, blank: str, words: str) -> str:
    """The whole name of the first thing in a list that begins with some words."""
    d.editor.get_by_test_id(f"blank-{blank}").focus()
    d.keys("ArrowDown")
    names = d.page.get_by_role("menuitem").all_inner_texts()
    d.keys("Escape")
    return next(n for n in names if n.startswith(words))
