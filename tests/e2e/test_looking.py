"""Measuring and weighing, by mouse and by keys: against what the plate and the pin are."""

from __future__ import annotations

import math

import pytest
from playwright.sync_api import expect

from tests.building import axis, drawn_on, f
from tests.e2e.designer import Designer
from wendal.demo.builder import Builder

pytestmark = pytest.mark.browser


@pytest.fixture
def bench(designer: Designer) -> Designer:
    """A plate of 40 x 25 x 10 at the origin and a pin of Ø10, 30 high, on X 60, Y 10."""
    b = Builder("Bench")
    outline = drawn_on(b, axis("XY"), "rectangle", (0, 0), (40, 25))
    b.step("extrude", "Plate", profile=b.profile(outline, 0), depth=f("10 mm"))
    ring = drawn_on(b, axis("XY"), "circle", (60, 10), (65, 10))
    b.step("extrude", "Pin", profile=b.profile(ring, 0), depth=f("30 mm"))
    designer.begin(b.part)
    designer.keys("l", "f")
    return designer


def told(d: Designer, words: str) -> str:
    row = d.page.get_by_test_id("figure-of").filter(has_text=words).first
    return row.locator(".figures").inner_text()


def test_measured_by_mouse_and_turned_to_another_meaning(bench: Designer) -> None:
    d, page = bench, bench.page
    d.keys("l", "m")
    d.pick(20, 12, 10, thing="top face")
    expect(page.get_by_test_id("figure-of").filter(has_text="area")).to_contain_text("1000 mm²")
    # The way to what is hovered is there at once, and stays when that is clicked.
    x, y = d.pixel((62, 12, 30))
    page.mouse.move(x, y)
    expect(page.get_by_test_id("measured")).to_have_text("20 mm")
    page.mouse.click(x, y)
    expect(page.get_by_test_id("measure")).to_contain_text("square from plane to plane")
    page.get_by_role("button", name="Other meaning").click()
    expect(page.get_by_test_id("measured")).to_have_text("25 mm")
    expect(page.get_by_test_id("measure")).to_contain_text("least distance")
    expect(page.get_by_test_id("way").locator("text")).to_have_text("25 mm")
    assert told(d, "angle") == "0°"
    # It follows the part.
    d.set_formula("plate_depth", "12 mm")
    expect(page.get_by_test_id("measured")).to_contain_text(f"{math.hypot(15, 18):.4f}"[:6])
    d.keys("Escape")
    expect(page.get_by_test_id("measure")).to_contain_text("Pick one thing")
    d.keys("Escape")
    expect(page.get_by_test_id("measure")).to_have_count(0)


def test_measured_pick_first_and_from_the_list_and_what_has_no_size_says_so(bench: Designer) -> None:
    d, page = bench, bench.page
    d.pick(20, 0, 10, thing="edge")
    d.keys("l", "m")
    expect(page.get_by_test_id("figure-of").filter(has_text="length")).to_contain_text("40 mm")
    d.pick(40, 12, 10, thing="edge", more=True)
    d.pick(20, 25, 10, thing="edge", more=True)
    expect(page.get_by_test_id("figure-of")).to_contain_text("105 mm")
    page.get_by_label("Close measuring").click()
    x, y = d.pixel((20, 12, 10))
    page.mouse.click(x, y, button="right")
    page.get_by_test_id("deed").filter(has_text="Measure").first.click()
    page.mouse.move(80, 700)  # beside the part: nothing is measured to
    expect(page.get_by_test_id("figure-of").filter(has_text="perimeter")).to_contain_text("130 mm")
    d.keys("Escape")
    d.pick_flag("XY")
    expect(page.get_by_test_id("measure").get_by_role("alert")).to_contain_text("has no end")
    # A step that is begun ends the measuring.
    d.keys("d", "p")
    expect(page.get_by_test_id("measure")).to_have_count(0)


def test_a_measure_is_kept_read_by_a_formula_told_when_out_of_range_and_picked_again_when_lost(bench: Designer) -> None:
    d, page = bench, bench.page
    d.keys("l", "m")
    d.pick(20, 12, 10, thing="top face")
    d.pick(60, 10, 30, thing="top face of Pin")
    expect(page.get_by_test_id("measured")).to_have_text("20 mm")
    d.keys("Enter")
    expect(page.get_by_label("tag of the measure")).to_be_focused()
    page.keyboard.type("plate_depth")
    d.keys("Enter")
    expect(page.get_by_test_id("keeping")).to_contain_text("There is a tag “plate_depth” already")
    page.get_by_label("tag of the measure").press("Control+a")
    page.keyboard.type("rise")
    d.keys("Enter")
    kept = page.locator("[data-kept=rise]")
    expect(kept).to_contain_text("20 mm")
    d.keys("Escape", "Escape")
    # It follows, a step behind it reads it, and what is out of range is told.
    d.pick(60, 10, 30, thing="top face of Pin")
    d.keys("d", "p")
    d.enter("distance", "rise / 2")
    d.accept()
    assert next(r["value"] for r in d.report()["ledger"] if r["tag"] == "plane_1_distance") == pytest.approx(10)
    kept.get_by_label("What rise may be").click()
    page.keyboard.type("18 mm")
    d.keys("Enter")
    expect(kept).to_contain_text("18 mm to …")
    d.set_formula("plate_depth", "13 mm")
    expect(kept).to_contain_text("“rise” comes to 17 mm; it may be no less than 18 mm.")
    expect(page.get_by_test_id("route-state")).to_contain_text("1 measure amiss")
    # Lost with its body: picked again.
    d.menu("Pin", "Suppress")
    d.settled()
    expect(kept).to_have_attribute("data-state", "waiting")
    d.menu("Pin", "Build again")
    d.settled()
    expect(kept).to_have_attribute("data-state", "sound")
    kept.get_by_role("button", name="rise", exact=True).click()
    expect(page.get_by_test_id("way").locator("text")).to_have_text("17 mm")
    d.keys("Escape", "Escape")
    kept.get_by_label("Remove rise").click()
    expect(page.get_by_test_id("note").last).to_contain_text("used by")
    expect(kept).to_have_count(1)


def test_a_body_is_weighed_and_its_material_is_kept(bench: Designer) -> None:
    d, page = bench, bench.page
    d.keys("l", "p")
    card = page.get_by_test_id("mass")
    expect(card.get_by_test_id("mass-volume")).to_have_text("10000 mm³")
    expect(card.get_by_test_id("mass-mass")).to_contain_text("choose a material")
    d.choose_in(card.get_by_label("material"), "steel, 7.85 g/cm³")
    expect(card.get_by_test_id("mass-mass")).to_have_text("78.5 g")
    card.get_by_role("button", name="Pin").click()
    expect(card.get_by_test_id("mass-centre")).to_contain_text("60 10 15")
    with page.expect_download() as download:
        card.get_by_role("button", name="CSV").click()
    text = download.value.path().read_text()
    assert text.splitlines()[1].startswith('"Plate",steel,78.5,')
    page.reload()
    d.settled()
    d.keys("l", "p")
    expect(page.get_by_test_id("mass-mass")).to_have_text("78.5 g")
    d.set_formula("plate_depth", "20 mm")
    expect(page.get_by_test_id("mass-mass")).to_have_text("157 g")
    d.keys("Escape")
    expect(page.get_by_test_id("mass")).to_have_count(0)


def test_cut_open_at_a_plane_moved_and_turned_and_what_is_cut_away_is_not_picked(bench: Designer) -> None:
    d, page = bench, bench.page
    readout, card = page.get_by_test_id("readout"), page.get_by_test_id("section")
    d.keys("l", "s")
    expect(page.get_by_test_id("note")).to_contain_text("Pick a plane or a flat face")
    d.pick_flag("YZ")
    d.keys("l", "s")
    expect(card).to_contain_text("at base plane YZ, moved by")
    d.type_in(card.get_by_label("moved by"), "20 mm")
    d.keys("Tab")
    page.mouse.move(*d.pixel((33, 20, 10)))
    d.quiet()
    expect(readout).not_to_contain_text("top face of Plate")
    page.mouse.move(*d.pixel((8, 20, 10)))
    expect(readout).to_contain_text("top face of Plate")
    card.get_by_role("button", name="Other side").click()
    page.mouse.move(*d.pixel((33, 20, 10)))
    expect(readout).to_contain_text("top face of Plate")
    d.type_in(card.get_by_label("moved by"), "far")
    d.keys("Tab")
    expect(page.get_by_test_id("note").last).to_contain_text("is no length")
    d.type_in(card.get_by_label("moved by"), "500")
    d.keys("Tab")
    expect(card).to_contain_text("misses the part")
    # Beside a slider the keys are keys.
    card.get_by_label("place of the section").focus()
    d.keys("l", "m")
    expect(page.get_by_test_id("measure")).to_be_visible()
    d.keys("Escape")
    card.get_by_label("Close the section").click()
    page.mouse.move(*d.pixel((8, 20, 10)))
    expect(readout).to_contain_text("top face of Plate")


def test_the_holes_are_listed_numbered_ordered_and_saved(designer: Designer) -> None:
    d, page = designer, designer.page
    d.open_part("Instrument bracket")
    d.keys("l", "l")
    rows = page.get_by_test_id("schedule").locator("[data-hole]")
    expect(rows).to_have_count(4)
    d.choose_in(page.get_by_label("order", exact=True), "along Y")
    d.quiet()
    told = [row.split("\t") for row in rows.all_inner_texts()]
    assert [(float(r[1]), float(r[2])) for r in told] == [(12, 12), (108, 12), (12, 68), (108, 68)]
    expect(page.get_by_test_id("hole-numbers").locator("text")).to_have_text(["1", "2", "3", "4"])
    with page.expect_download() as saved:
        page.get_by_test_id("schedule").get_by_role("button", name="CSV").click()
    lines = saved.value.path().read_text().splitlines()
    assert lines[0].startswith("number,x_mm,y_mm,z_mm")
    assert [line.split(",")[1:3] for line in lines[1:]] == [["12", "12"], ["108", "12"], ["12", "68"], ["108", "68"]]
    page.keyboard.press("Escape")
    expect(page.get_by_test_id("schedule")).to_have_count(0)
    # A part without holes says so.
    d.begin(Builder("Bare").part)
    d.keys("l", "l")
    expect(page.get_by_test_id("schedule")).to_contain_text("There is no hole yet")
