"""Measuring and weighing, by mouse and by keys: against what the plate and the pin are."""

from __future__ import annotations

import json
import math

import pytest
from playwright.sync_api import expect

from tests.building import axis, drawn_on, f
from tests.e2e.designer import Designer
from wendal.demo.builder import Builder


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
    # The greatest distance is asked for: from a far corner over the cap's middle to its other side.
    page.get_by_role("button", name="Greatest distance").click()
    expect(page.get_by_test_id("measured")).to_contain_text(f"{math.hypot(math.hypot(60, 15) + 5, 20):.3f}"[:5])
    page.get_by_role("button", name="Other meaning").click()
    page.get_by_role("button", name="Other meaning").click()
    expect(page.get_by_test_id("measured")).to_have_text("25 mm")
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
    page.get_by_test_id("asked").get_by_role("button", name="Suppress").click()  # what uses the measure would stop
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
    assert text.splitlines()[1].startswith('Plate,steel,78.5,')
    page.reload()
    d.settled()
    d.keys("l", "p")
    expect(page.get_by_test_id("mass-mass")).to_have_text("78.5 g")
    # The least wall is looked for by a click, drawn, and forgotten when the part changes.
    page.get_by_test_id("mass").get_by_role("button", name="Find").click()
    expect(page.get_by_test_id("least-wall")).to_have_text("10 mm")
    expect(page.get_by_test_id("wall")).to_be_visible()
    d.set_formula("plate_depth", "20 mm")
    expect(page.get_by_test_id("wall")).to_have_count(0)
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
    expect(card).to_contain_text("at base plane YZ")
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
    card.get_by_label("what is cut away as thin lines").click()
    d.quiet()
    page.mouse.move(*d.pixel((8, 20, 10)))
    expect(readout).not_to_contain_text("top face of Plate")  # lines of what is not there are not picked
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


def test_the_outline_of_a_cut_is_measured_to_and_not_kept(bench: Designer) -> None:
    d, page = bench, bench.page
    d.pick_flag("YZ")
    d.keys("l", "s")
    d.type_in(page.get_by_test_id("section").get_by_label("moved by"), "20 mm")
    d.keys("Tab", "l", "m")
    d.quiet()
    d.pick(20, 12, 10, thing="outline of the cut")
    expect(page.get_by_test_id("figure-of").filter(has_text="length")).to_contain_text("25 mm")
    d.pick(20, 12, 0, thing="outline of the cut")
    expect(page.get_by_test_id("measured")).to_have_text("10 mm")
    d.keys("Enter")
    expect(page.get_by_test_id("note").last).to_contain_text("A cut is of the view alone")
    d.pick(20, 0, 10, thing="corner of the cut")
    d.pick(20, 25, 0, thing="corner of the cut")
    expect(page.get_by_test_id("measured")).to_contain_text(f"{math.hypot(25, 10):.3f}"[:5])
    d.keys("Escape", "Escape")
    page.mouse.move(*d.pixel((20, 12, 10)))
    expect(page.get_by_test_id("readout")).not_to_contain_text("cut")  # nothing is built on it


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


def view_of(d: Designer) -> tuple[float, list[float], list[float]]:
    return tuple(json.loads(d.at_rest(lambda: d.page.get_by_test_id("stage").get_attribute("data-view") or "")))  # type: ignore[return-value]


def towards(d: Designer) -> list[float]:
    """The direction towards the eye."""
    x, y, z, w = view_of(d)[2]
    return [round(v, 6) + 0.0 for v in (2 * (x * z + w * y), 2 * (y * z - w * x), 1 - 2 * (x * x + y * y))]


def test_views_by_name_kept_and_gone_back_to_by_keys_alone(bench: Designer) -> None:
    d, page = bench, bench.page
    began = towards(d)
    d.keys("l", "w")
    expect(page.locator("[data-view-name=front]")).to_be_focused()
    d.keys("Enter")
    assert towards(d) == [0, -1, 0]
    for name, way in (("top", [0, 0, 1]), ("bottom", [0, 0, -1]), ("left", [-1, 0, 0]), ("right", [1, 0, 0]), ("back", [0, 1, 0])):
        page.locator(f"[data-view-name={name}]").focus()
        d.keys("Enter")
        assert towards(d) == way
    page.get_by_label("name of the view").click()
    page.keyboard.type("From behind")
    d.keys("Enter")
    expect(page.get_by_role("button", name="From behind", exact=True)).to_be_visible()
    page.locator("[data-view-name=isometric]").click()
    assert towards(d) == pytest.approx([3**-0.5, -(3**-0.5), 3**-0.5], abs=1e-5)
    d.keys("Escape")
    # The view before, one after the other, and on again.
    for way in ([0, 1, 0], [1, 0, 0], [-1, 0, 0], [0, 0, -1], [0, 0, 1], [0, -1, 0], began):
        d.keys("l", "u")
        assert towards(d) == way
    d.keys("l", "u")
    expect(page.get_by_test_id("note").last).to_contain_text("no view before")
    d.keys("l", "x")
    assert towards(d) == [0, -1, 0]
    # A kept view is there after a reload; a turned one goes on to the nearest axis.
    page.reload()
    d.settled()
    d.keys("l", "w")
    page.get_by_role("button", name="From behind", exact=True).click()
    assert towards(d) == [0, 1, 0]
    d.keys("Escape", "l", "t")
    assert towards(d) == [0, 1, 0]


def test_zoomed_to_a_box_and_to_what_is_picked_also_in_perspective(bench: Designer) -> None:
    d, page = bench, bench.page
    d.pick(60, 10, 30, thing="top face of Pin")
    whole = view_of(d)[0]
    d.keys("l", "e")
    assert view_of(d)[0] > 2 * whole
    d.keys("l", "u", "l", "z")
    (x0, y0), (x1, y1) = d.pixel((0, 0, 10)), d.pixel((40, 25, 10))
    page.mouse.move(x0, min(y0, y1) - 40)
    page.mouse.down()
    page.mouse.move(x1, max(y0, y1) + 40, steps=4)
    page.mouse.up()
    assert view_of(d)[0] > 1.2 * whole
    d.keys("Escape")
    # In perspective what is pointed at is what lies there: the middle of the view stays where it is.
    d.keys("l", "j")
    box = page.get_by_test_id("stage").bounding_box()
    assert box
    d.keys("l", "f")
    page.mouse.move(box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
    d.quiet()
    expect(page.get_by_test_id("readout")).to_contain_text("of Plate")


def test_a_corner_is_cut_away_kept_and_shown_again(bench: Designer) -> None:
    d, page = bench, bench.page
    d.pick_flag("YZ")
    d.keys("l", "s")
    card = page.get_by_test_id("section")
    d.type_in(page.get_by_label("moved by"), "20")
    page.keyboard.press("Enter")
    expect(card).to_contain_text("at base plane YZ")
    d.pick_flag("ZX")
    d.keys("l", "s")
    d.type_in(page.get_by_label("moved by"), "-12")
    page.keyboard.press("Enter")
    d.quiet()
    # What both planes take away can not be picked, the rest can: ZX looks towards -Y.
    def read(*at: float) -> str:
        x, y = d.pixel(at)
        page.mouse.move(x + 1, y)
        page.mouse.move(x, y)
        d.quiet()
        return page.get_by_test_id("readout").inner_text()

    d.look("Z")
    assert "top face" not in read(30, 5, 10)
    assert "top face" in read(30, 20, 10)
    assert "top face" in read(8, 5, 10)
    page.get_by_label("name of the section").click()
    page.keyboard.type("Corner")
    d.keys("Enter")
    expect(card.get_by_role("button", name="Corner", exact=True)).to_be_visible()
    # Turned by figures, bad ones refused; pulled by its arrow.
    d.type_in(page.get_by_label("turned about X"), "ten")
    page.keyboard.press("Enter")
    expect(page.get_by_test_id("note").last).to_contain_text("“ten” is no angle")
    page.get_by_label("Close the section").click()
    assert "top face" in read(30, 5, 10)
    d.keys("l", "w")
    page.get_by_test_id("views").get_by_role("button", name="Corner", exact=True).click()
    expect(page.get_by_label("moved by")).to_have_value("20")
    assert "top face" not in read(30, 5, 10)


def test_a_section_follows_its_plane_hidden_or_not_and_says_when_that_is_gone(bench: Designer) -> None:
    d, page = bench, bench.page
    d.pick_flag("YZ")
    d.keys("d", "p")
    d.enter("distance", "12 mm")
    d.accept()
    d.pick_flag("Plane 1")
    d.keys("l", "s")
    card = page.get_by_test_id("section")
    readout = page.get_by_test_id("readout")

    d.look("Z")

    def hover(x: float) -> None:
        px, py = d.pixel((x, 20, 10))
        page.mouse.move(px + 1, py)
        page.mouse.move(px, py)
        d.quiet()

    hover(18)
    expect(readout).not_to_contain_text("top face of Plate")
    d.keys("l", "r")
    page.get_by_test_id("shown").get_by_label("planes", exact=True).click()
    page.get_by_label("Close what is shown").click()
    d.set_formula("plane_1_distance", "25 mm")
    hover(18)
    expect(readout).to_contain_text("top face of Plate")
    d.menu("Plane 1", "Delete")
    d.settled()
    expect(card).to_contain_text("is not there any more")


def test_what_is_shown_by_kind_and_one_by_one_hidden_alone_and_seen_through(bench: Designer) -> None:
    d, page = bench, bench.page
    d.keys("l", "r")
    card = page.get_by_test_id("shown")
    card.get_by_label("base planes and axes").click()
    expect(page.get_by_test_id("flag-XY")).to_have_count(0)
    card.get_by_label("Pin", exact=True).click()
    d.settled()
    expect(page.locator("[data-body=s4]")).to_contain_text("show")
    card.get_by_label("See through Plate").click()
    d.settled()
    page.reload()
    d.settled()
    expect(page.get_by_test_id("flag-XY")).to_have_count(0)
    d.keys("l", "r")
    expect(card.get_by_label("See through Plate")).to_be_checked()
    expect(card.get_by_label("Pin", exact=True)).not_to_be_checked()
    card.get_by_label("Find by name").click()
    page.keyboard.type("pin")
    expect(card.get_by_label("Plate", exact=True)).to_have_count(0)
    d.keys("Escape")
    page.get_by_label("Close what is shown").click()
    # It is undone by itself, and `l i` shows all again.
    page.keyboard.press("Control+z")
    d.settled()
    d.keys("l", "i")
    d.settled()
    expect(page.locator("[data-body=s4]")).to_contain_text("hide")
    d.pick(60, 10, 30, thing="top face of Pin")
    d.keys("l", "i")
    d.settled()
    expect(page.locator("[data-body=s2]")).to_contain_text("show")
    d.keys("l", "b")
    expect(page.get_by_test_id("flag-XY")).to_have_count(1)


def test_a_shakedown_tells_ranges_sets_limits_is_cancelled_and_compared(designer: Designer) -> None:
    d, page = designer, designer.page
    b = Builder("Shaken")
    outline = drawn_on(b, axis("XY"), "rectangle", (0, 0), (40, 25))
    b.step("extrude", "Plate", profile=b.profile(outline, 0), depth=f("10 mm"))
    ring = drawn_on(b, {"of": "face", "body": "s2", "names": ["s2/end/r1"]}, "rectangle", (10, 8), (30, 18))
    b.step("extrude", "Pocket", profile=b.profile(ring, 0), extent="into", depth=f("4 mm"), result="cut")
    d.begin(b.part)
    d.keys("l", "k")
    card = page.get_by_test_id("shakedown")
    expect(card.get_by_role("button", name="Run again")).to_be_visible(timeout=120_000)
    expect(page.get_by_test_id("shaken")).to_contain_text("2 dimensions")
    pocket = page.locator("[data-shaken=pocket_depth]")
    expect(pocket).to_contain_text("above 9.999")
    pocket.get_by_role("button", name="Set the limit").click()
    d.settled()
    expect(page.get_by_test_id("note").last).to_contain_text("pocket_depth may be")
    expect(card).to_contain_text("The part has changed since")
    remark = next(r for r in d.report()["ledger"] if r["tag"] == "pocket_depth")
    assert 9.8 < float(remark["most"].split()[0]) <= 10
    # The limit is the range now; cancelled at once, and the part can be edited on.
    card.get_by_role("button", name="Run again").click()
    card.get_by_role("button", name="Cancel").click()
    expect(page.get_by_test_id("shaken")).to_contain_text("Cancelled")
    d.set_formula("plate_depth", "14 mm")
    card.get_by_role("button", name="Run again").click()
    expect(page.get_by_test_id("shaken")).to_contain_text("Since v", timeout=120_000)
    page_of = page.request.get(f"{d.url}/api/parts/{page.url.rpartition('/')[2]}/shakedown.html")
    assert "Shakedown of Shaken" in page_of.text()
    page.keyboard.press("Escape")
    expect(card).to_have_count(0)


def test_what_moves_what_tolerances_and_an_aim(bench: Designer) -> None:
    d, page = bench, bench.page
    d.keys("l", "a")
    panel = page.get_by_test_id("moves")
    expect(panel.get_by_role("button", name="CSV")).to_be_visible(timeout=120_000)
    d.choose_in(panel.get_by_label("figure"), "Plate: volume")
    expect(page.get_by_test_id("figure-now")).to_have_text("10000 mm³")
    expect(panel.locator("[data-moves=plate_depth]")).to_contain_text("1000 mm³")
    # 10 ± 0.2 over 40 x 25.
    expect(page.get_by_test_id("stack")).to_contain_text("9800 mm³ to 10200 mm³")
    wish = panel.get_by_label("wish")
    wish.click()
    page.keyboard.type("big")
    d.keys("Enter")
    expect(page.get_by_test_id("note").last).to_contain_text("“big” is no figure")
    wish.press("Control+a")
    page.keyboard.type("900000")
    d.keys("Enter")
    expect(page.get_by_test_id("aimed")).to_contain_text("No plate_depth in its range does it", timeout=60_000)
    wish.press("Control+a")
    page.keyboard.type("12500")
    d.keys("Enter")
    expect(page.get_by_test_id("aimed")).to_contain_text("plate_depth = 12.5 mm", timeout=60_000)
    panel.get_by_role("button", name="Take it").click()
    d.settled()
    assert d.volume() == pytest.approx(12500 + math.pi * 25 * 30)
    expect(panel).to_contain_text("The part has changed since")
    page.keyboard.press("Control+z")
    d.settled()
    page.keyboard.press("Escape")
    expect(panel).to_have_count(0)
