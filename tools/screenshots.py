"""`make screenshots`: one current picture of each main view, from the demo data, into docs/screenshots."""

from __future__ import annotations

import tempfile
from pathlib import Path

from playwright.sync_api import expect, sync_playwright

from tests.building import axis, drawn_on
from tests.conftest import CHROMIUM, FLAGS, Served
from tests.e2e.designer import Designer
from tests.samples import plate
from wendal.core.exchange import export
from wendal.core.route import Memory, evaluate

OUT = Path(__file__).parents[1] / "docs" / "screenshots"


def lose_a_reference(d: Designer) -> None:
    """Stand a plane on the end of the clamp's lug, then draw that side anew: the plane is lost, and candidates are offered."""
    d.open_part("Mast clamp")
    d.pick(60, -5, 3, thing="side at +X")
    d.offer("Plane at a distance")
    d.enter("name", "Cable side")
    d.accept()
    d.page.get_by_role("button", name="Lug outline", exact=True).first.click()
    d.board_ready()
    d.select((60, 6))
    d.keys("Delete")
    d.page.wait_for_timeout(500)
    d.draw("l", (60, -14), (60, 14))
    d.close_sketch()
    candidate = d.step("Cable side").get_by_test_id("candidate").first
    candidate.scroll_into_view_if_needed()
    candidate.hover()


def trim_a_crest(d: Designer) -> None:
    """On a plane through the holes of the foot, cut the part open and trim a crest along a spline; the second piece is about to go."""
    d.keys("Escape")
    d.pick_flag("YZ")
    d.offer("Plane at a distance")
    d.enter("name", "Through the holes")
    d.enter("distance", "12 mm")
    d.accept()
    d.pick_flag("Through the holes")
    d.offer("New sketch")
    d.accept()
    d.board_ready()
    d.page.wait_for_timeout(600)
    d.keys("l", "s")
    d.keys("k", "u")
    d.click((-4, 40), (12, 58), (30, 50), (52, 66), (76, 36), quiet=True)
    d.keys("Enter", "Escape")
    d.page.wait_for_timeout(500)
    d.draw("l", (-6, 48), (80, 48), quiet=True)
    d.keys("k", "i")
    d.click_tool((-2, 43))
    x, y = d.on_board((73.5, 41.6))
    d.page.mouse.move(x + 2, y + 2)
    d.page.mouse.move(x, y)


def draw_a_page(d: Designer) -> None:
    """A page by itself, with a section through the holes of the feet, given out once; one figure changed since."""
    page = d.page
    d.keys("g", "p")
    page.wait_for_selector("[data-testid=page] [data-item=frame]")
    d.settled()
    box = page.locator("[data-view=v2]").bounding_box()
    assert box
    d.keys("g", "s")
    page.mouse.click(box["x"] + 4, box["y"] + box["height"] / 2)
    page.mouse.click(box["x"] + box["width"] - 4, box["y"] + box["height"] / 2)
    d.keys("Enter")
    d.settled()
    page.get_by_test_id("pages").get_by_role("button", name="From the corner").click()
    page.get_by_test_id("picked-view").get_by_label("scale").select_option("1:2")
    d.settled()
    page.locator("[data-testid=page][data-busy=false]").wait_for()


def write_files(d: Designer) -> None:
    """What goes out of the bracket: a body to the shop, its top to the cutter, with what they come to."""
    d.pick(20, 8, 12, thing="top face")
    d.keys("r", "o")
    card = d.page.get_by_test_id("write-files")
    card.get_by_label("dxf").click()
    d.choose_in(card.get_by_label("What is written as dxf"), "the picked face")
    card.get_by_label("3mf").click()
    expect(card.get_by_test_id("beforehand-dxf")).to_contain_text("120 × 80 mm")
    expect(card.get_by_test_id("beforehand-3mf")).to_contain_text("triangles")


def read_a_newer_file(d: Designer, folder: Path) -> None:
    """A plate that was sent, a chamfer on it, and its newer file, in which a bore went and another came."""
    for name, places in (("cover.step", (12.0, 30.0)), ("cover_b.step", (12.0, 22.0))):
        b = plate("40 mm", "25 mm", "6 mm")
        for n, x in enumerate(places):
            ring = drawn_on(b, axis("XY"), "circle", (x, 12), (x + 3, 12))
            b.step("extrude", f"Bore {n}", profile=b.profile(ring, 0), extent="through", result="cut")
        (folder / name).write_bytes(export(b.part, evaluate(b.part, Memory()), "step"))
    d.new_part()
    with d.page.expect_file_chooser() as chooser:
        d.keys("b", "2")
    chooser.value.set_files(folder / "cover.step")
    d.settled()
    d.keys("l", "f")
    for x in (12, 30):
        d.quiet()
        d.keys("b", "c")
        d.pick(x, 15, 6, thing="circular edge")
        d.enter("leg", "0.6 mm")
        d.accept()
    with d.page.expect_file_chooser() as chooser:
        d.menu("cover", "Read a newer file")
    chooser.value.set_files(folder / "cover_b.step")
    expect(d.page.get_by_text("are gone")).to_be_visible()
    d.settled()
    d.quiet()


def main() -> None:
    """Take all pictures."""
    with tempfile.TemporaryDirectory() as folder, sync_playwright() as playwright:
        served = Served(Path(folder))
        browser = playwright.chromium.launch(executable_path=CHROMIUM, args=FLAGS)
        page = browser.new_page(viewport={"width": 1280, "height": 800}, reduced_motion="reduce")
        page.add_init_script("try { localStorage.setItem('wendal.shade', 'always') } catch { /* a blank page has no storage */ }")
        d = Designer(page, served.url)

        def shot(name: str) -> None:
            page.wait_for_timeout(700)
            page.screenshot(path=OUT / f"{name}.png")

        try:
            d.parts()
            page.wait_for_load_state("networkidle")
            shot("parts")
            d.open_part("Instrument bracket")
            shot("part")
            page.get_by_label("Kit").get_by_role("button", name="Build").click()
            page.get_by_test_id("drawer").get_by_role("button").filter(has_text="Fillet").hover()
            shot("kit")
            d.keys("Escape")
            page.get_by_role("button", name="Seat outline", exact=True).first.click()
            d.board_ready()
            page.mouse.move(400, 650)
            shot("sketch")
            page.get_by_label("Remove seat_outline_left").click()
            d.freedoms("1 freedom left")
            d.keys("k", "u")
            d.click((-20, 90), (20, 96), (60, 86), (100, 96), quiet=True)
            page.mouse.move(*d.on_board((125, 88)))
            shot("drawing")
            d.keys("Escape", "Escape", "Control+z")
            d.freedoms("Fully constrained")
            d.close_sketch()
            page.get_by_role("button", name="Ledger").click()
            page.locator("[data-tag=seat_tilt]").get_by_role("button").nth(1).click()
            d.type_in(page.get_by_test_id("formula"), "30 deg")
            page.get_by_text("Reaches").wait_for()
            shot("ledger")
            page.get_by_test_id("formula").press("Escape")
            page.get_by_role("button", name="Ledger").click()
            page.wait_for_timeout(300)
            d.pick(96, 0, 12)
            d.pick(60, 9, 12, more=True)
            page.get_by_test_id("offers").get_by_role("button").first.hover()
            shot("datum")
            trim_a_crest(d)
            d.keys("Escape")
            d.close_sketch()
            d.open_part("Well-head flange")
            d.edit("Bolt hole")
            d.says("Removes")
            shot("hole")
            d.keys("Escape")
            d.edit("Bolt circle")
            d.says("Removes")
            page.get_by_label("Copy 4", exact=True).click()
            d.says("Removes")
            shot("pattern")
            d.keys("Escape")
            d.open_part("Mast clamp")
            shot("bodies")
            d.open_part("Instrument bracket")
            d.keys("b", "f")
            d.pick(96, 0, 12, thing="edge along X")
            d.enter("radius", "5 mm")
            d.says("Removes")
            shot("fillet")
            d.keys("Escape", "Escape")
            write_files(d)
            shot("files")
            d.keys("Escape", "Escape")
            d.keys("l", "m")
            d.pick(96, 0, 6, thing="side at")
            page.mouse.move(*d.pixel((0, 0, 6)))
            d.quiet()
            shot("measure")
            d.keys("Escape", "Escape")
            d.open_part("Instrument bracket")
            draw_a_page(d)
            shot("page")
            d.keys("Escape", "g", "o")
            d.keys("l", "k")
            page.get_by_role("button", name="Run again").wait_for(timeout=600_000)
            shot("shakedown")
            d.keys("Escape")
            d.open_part("Well-head flange")
            d.keys("l", "y")
            page.get_by_role("button", name="Check all").click()
            expect(page.get_by_test_id("family-told")).to_contain_text("All stand", timeout=120_000)
            page.locator("[data-member='Pipe 114']").get_by_role("button", name="See").click()
            expect(page.get_by_test_id("tried")).to_contain_text("It is built", timeout=60_000)
            d.quiet()
            shot("family")
            d.keys("Escape", "Escape")
            d.open_part("Instrument bracket")
            d.step("Base").locator("button.figures.blank").first.click()
            page.keyboard.type("16 mm")
            d.keys("Enter")
            d.settled()
            d.keys("l", "c")
            page.get_by_test_id("compared").wait_for(timeout=60_000)
            d.quiet()
            shot("compare")
            d.keys("Escape", "Control+z")
            d.settled()
            d.open_part("Instrument bracket")
            lose_a_reference(d)
            shot("lost")
            read_a_newer_file(d, Path(folder))
            shot("newer")
        finally:
            browser.close()
            served.stop()


if __name__ == "__main__":
    main()
