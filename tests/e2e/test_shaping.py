"""Shaping in the browser: the Sensor housing from an empty part, a fillet pulled, one mended by what is offered, sheets, faces, words round a bar."""

from __future__ import annotations

import math
import re

import pytest
from playwright.sync_api import expect

from tests.e2e.designer import Designer
from tests.e2e.test_building import choose_thing, clause, finish, sketch_on

pytestmark = pytest.mark.browser
PI = math.pi


def take_all(d: Designer, blank: str, words: str, count: int) -> None:
    """Choose all things of a list that begin with some words."""
    for i in range(count):
        d.editor.get_by_test_id(f"blank-{blank}").focus()
        d.keys("ArrowDown")
        d.page.get_by_role("menuitem", name=re.compile(f"^{words}")).nth(i).click()
        d.page.wait_for_timeout(100)


def test_the_sensor_housing_from_an_empty_part(designer: Designer) -> None:
    d, page = designer, designer.page
    d.new_part()
    sketch_on(d, "XY")
    d.draw("r", (-32, -22), (32, 22), width="64 mm", height="44 mm")
    d.close_sketch()
    d.keys("l", "f")
    d.pick(12, 7, 0, thing="region")
    d.keys("b", "e")
    d.enter("depth", "28 mm")
    finish(d)
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
    choose_thing(d, "lines", page_name(d, "lines", "vertical line of Sketch 2"))
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


def page_name(d: Designer, blank: str, words: str) -> str:
    """The whole name of the first thing in a list that begins with some words."""
    d.editor.get_by_test_id(f"blank-{blank}").focus()
    d.keys("ArrowDown")
    names = d.page.get_by_role("menuitem").all_inner_texts()
    d.keys("Escape")
    return next(n for n in names if n.startswith(words))
