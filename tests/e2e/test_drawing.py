"""The drawing: pages made, cut, dimensioned, moved, followed and written, by mouse and keystrokes."""

from __future__ import annotations

import re
from pathlib import Path

import pypdfium2
import pytest
from playwright.sync_api import Locator, Page, expect

from tests.e2e.designer import Designer
from tests.samples import plate_with_circle
from wendal.demo.bracket import instrument_bracket


def keys(designer: Designer, text: str) -> None:
    for key in text.split():
        designer.page.keyboard.press(key)


def drawn(page: Page) -> None:
    expect(page.get_by_test_id("page")).to_have_attribute("data-busy", "false")


def figure(page: Page, told: str) -> Locator:
    return page.locator(f'[data-figure][data-told="{told}"]').first


def middle(held: Locator) -> tuple[float, float]:
    box = held.bounding_box()
    assert box
    return box["x"] + box["width"] / 2, box["y"] + box["height"] / 2


def new_page(designer: Designer) -> Page:
    page = designer.page
    keys(designer, "g p")
    page.wait_for_selector("[data-testid=page] [data-item=frame]")
    designer.settled()
    drawn(page)
    return page


def view_box(page: Page, view: str) -> tuple[float, float, float, float]:
    box = page.locator(f"[data-view={view}]").bounding_box()
    assert box
    return box["x"], box["y"], box["width"], box["height"]


def line(page: Page, view: str, upright: bool, last: bool) -> tuple[float, float]:
    """The middle of a view's outermost straight line: upright or level, the last or the first one."""
    found = page.locator(f"[data-item={view}] [data-line][data-pen=outline]").evaluate_all(
        "lines => lines.map(l => { const b = l.getBoundingClientRect(); return [b.x, b.y, b.width, b.height]; })"
    )
    # The box of a line is no wider than its stroke across.
    alike = [b for b in found if (b[2] < 1.5 and b[3] > 20 if upright else b[3] < 1.5 and b[2] > 20)]
    x, y, w, h = sorted(alike, key=lambda b: b[0] if upright else b[1])[-1 if last else 0]
    return x + w / 2, y + h / 4 if upright else y + h / 2


def test_three_views_and_a_section_follow_the_part(designer: Designer, tmp_path: Path) -> None:
    designer.begin(plate_with_circle(drilled=True).part)
    page = new_page(designer)  # two strokes: four views with what is told first
    for told in ("40", "25", "10"):
        expect(figure(page, told)).to_be_attached()
    x, y, w, h = view_box(page, "v2")
    keys(designer, "g s")
    expect(page.get_by_test_id("page-hint")).to_contain_text("Section")
    page.mouse.click(x + 4, y + h / 2)
    page.mouse.click(x + w - 4, y + h / 2)
    page.keyboard.press("Enter")
    designer.settled()
    drawn(page)
    expect(page.locator("svg text", has_text="A-A")).to_be_attached()
    page.get_by_role("button", name="smaller scale").click()  # at the largest one there is no room for a section
    designer.settled()
    drawn(page)
    expect(page.get_by_role("button", name="smaller scale")).to_have_count(0)
    # Two picks make a dimension; its figure can be moved, and stays there.
    page.mouse.click(*line(page, "v1", upright=True, last=False))
    page.mouse.click(*line(page, "v1", upright=True, last=True))
    expect(page.get_by_test_id("dimension-offers")).to_contain_text("40")
    page.keyboard.press("Escape")
    before = middle(figure(page, "40"))
    page.mouse.move(*before)
    page.mouse.down()
    page.mouse.move(before[0] + 6, before[1] + 10, steps=3)
    page.mouse.move(before[0], before[1] + 30, steps=3)
    page.mouse.up()
    designer.settled()
    drawn(page)
    moved = middle(figure(page, "40"))
    assert abs(moved[1] - before[1] - 30) < 4
    # Given out, then the part is changed by double-clicking a dimension.
    page.get_by_role("button", name="Issue", exact=True).click()
    expect(page.get_by_label("as", exact=True)).to_have_value("A")
    page.get_by_role("button", name="Issue this page").click()
    designer.settled()
    expect(page.get_by_test_id("page-changes")).to_contain_text("Nothing changed since A")
    page.mouse.dblclick(*middle(figure(page, "25")))
    field = page.get_by_test_id("typed-figure").get_by_test_id("formula")
    expect(field).to_be_focused()
    page.keyboard.type("30 mm")
    page.keyboard.press("Enter")
    designer.settled()
    drawn(page)
    expect(figure(page, "30")).to_be_attached()
    expect(figure(page, "25")).to_have_count(0)
    expect(page.get_by_test_id("page-changes")).to_contain_text("25 → 30")
    assert abs(middle(figure(page, "40"))[1] - moved[1]) < 12, "the figure stays where it was put"
    with page.expect_download() as got:
        page.get_by_role("button", name="Write PDF").click()
    path = tmp_path / "page.pdf"
    got.value.save_as(path)
    text = pypdfium2.PdfDocument(path.read_bytes())[0].get_textpage().get_text_range()
    for said in ("30", "40", "A-A", "general tolerances", "ISO 2768-m"):
        assert said in text
    # It is all there after a reload, and goes back step by step.
    page.reload()
    designer.settled()
    keys(designer, "g o")
    page.wait_for_selector("[data-testid=page] [data-item=frame]")
    drawn(page)
    expect(page.get_by_test_id("page-changes")).to_contain_text("25 → 30")
    page.keyboard.press("Control+z")
    designer.settled()
    drawn(page)
    expect(page.get_by_test_id("page-changes")).to_contain_text("Nothing changed since A")
    # What a deletion would take from the page is told before it is made.
    page.get_by_role("button", name="Close", exact=True).click()
    designer.menu("Extrude 2", "Delete")
    expect(page.get_by_test_id("asked")).to_contain_text("Page 1: 2 dimensions and marks would be lost.")
    page.get_by_role("button", name="Leave it").click()
    expect(designer.step("Extrude 2")).to_be_visible()


def test_a_view_is_dragged_and_what_keeps_to_it_follows(designer: Designer) -> None:
    designer.begin(instrument_bracket())
    page = new_page(designer)
    before = {v: view_box(page, v) for v in ("v1", "v2", "v3")}
    x, y, w, _ = before["v1"]
    page.mouse.move(x + w / 2, y + 4)
    page.mouse.down()
    page.mouse.move(x + w / 2 + 10, y + 4, steps=2)
    page.mouse.move(x + w / 2 + 30, y - 12, steps=3)
    page.mouse.up()
    designer.settled()
    drawn(page)
    after = {v: view_box(page, v) for v in ("v1", "v2", "v3")}
    assert abs(after["v1"][0] - x - 30) < 4
    assert abs(after["v2"][0] - before["v2"][0] - 30) < 4, "from above keeps under the front"
    assert abs(after["v3"][1] - before["v3"][1] + 16) < 4, "from the left keeps beside it"


def test_what_is_picked_on_the_page_is_picked_on_the_part(designer: Designer) -> None:
    designer.begin(plate_with_circle(drilled=True).part)
    page = new_page(designer)
    page.mouse.click(*line(page, "v1", upright=True, last=True))
    offers = page.get_by_test_id("dimension-offers")
    expect(offers).to_contain_text(re.compile("up|straight"))
    first = offers.get_by_role("button").first.inner_text()
    page.keyboard.press(";")
    expect(offers).to_contain_text(first)
    page.keyboard.press("Enter")
    designer.settled()
    drawn(page)
    assert page.locator("[data-figure]").count() >= 4
    # A bad value is refused where it is typed, and changes nothing.
    page.mouse.dblclick(*middle(figure(page, "40")))
    page.keyboard.type("0 mm")
    page.keyboard.press("Enter")
    expect(page.get_by_test_id("typed-figure").get_by_role("alert")).to_be_visible()
    page.keyboard.press("Escape")
    expect(figure(page, "40")).to_be_attached()
    page.get_by_test_id("pages").get_by_role("button", name="Close").click()
    expect(page.get_by_test_id("route")).to_be_visible()


def test_a_dimension_is_made_and_moved_by_keys_alone(designer: Designer) -> None:
    designer.begin(plate_with_circle(drilled=True).part)
    page = new_page(designer)
    held = page.locator("[data-figure]").count()
    page.get_by_test_id("page").focus()
    keys(designer, "ArrowRight")
    expect(page.get_by_test_id("page-hint")).to_contain_text("space picks it")
    keys(designer, "Space")
    expect(page.get_by_test_id("dimension-offers")).to_be_visible()
    keys(designer, "Enter")
    designer.settled()
    drawn(page)
    expect(page.locator("[data-figure]")).to_have_count(held + 1)
    page.get_by_role("button", name="From above").click()
    before = view_box(page, "v2")
    page.get_by_test_id("page").focus()
    keys(designer, "Shift+ArrowDown")
    designer.settled()
    drawn(page)
    assert view_box(page, "v2")[1] > before[1] + 5


@pytest.mark.parametrize(("stroke", "says"), [("g n", "Break all edges"), ("g h", "Ø9 through")])
def test_notes_and_tables(designer: Designer, stroke: str, says: str) -> None:
    designer.begin(instrument_bracket())
    page = new_page(designer)
    keys(designer, stroke)
    designer.settled()
    drawn(page)
    expect(page.locator("[data-testid=page] text", has_text=says).first).to_be_attached()
    page.keyboard.press("Delete")
    designer.settled()
    drawn(page)
    expect(page.get_by_test_id("picked-mark")).to_have_count(0)


def test_a_step_that_is_begun_on_a_page_is_seen_where_it_is_built(designer: Designer) -> None:
    """The page gives way to the stage, what is typed arrives, and the page is there again afterwards."""
    designer.begin(plate_with_circle(drilled=True).part)
    page = new_page(designer)
    keys(designer, "d p")
    expect(page.get_by_test_id("page")).to_have_count(0)
    designer.pick_flag("XY")
    page.keyboard.type("33 mm")
    designer.accept()
    designer.settled()
    assert designer.step("Plane 1").count() == 1
    expect(designer.step("Plane 1")).to_contain_text("33 mm")
    keys(designer, "g o")
    page.wait_for_selector("[data-testid=page] [data-item=frame]")
    drawn(page)
    expect(figure(page, "40")).to_be_attached()


def test_a_bad_tolerance_is_refused_and_a_good_one_is_told(designer: Designer) -> None:
    designer.begin(plate_with_circle(drilled=True).part)
    page = new_page(designer)
    page.mouse.click(*middle(figure(page, "Ø10")))
    field = page.get_by_test_id("picked-dimension").get_by_label("tolerance")
    for text in ("about 1", "H7"):
        field.click()
        page.keyboard.press("Control+a")
        page.keyboard.type(text)
        page.keyboard.press("Enter")
        designer.settled()
        drawn(page)
    expect(page.get_by_text("Write a tolerance as a class by ISO 286").first).to_be_visible()
    expect(figure(page, "Ø10 H7 (+0.015/0)")).to_be_attached()
    page.keyboard.press("Delete")
    designer.settled()
    drawn(page)
    expect(figure(page, "Ø10 H7 (+0.015/0)")).to_have_count(0)
    page.keyboard.press("Control+z")
    designer.settled()
    drawn(page)
    expect(figure(page, "Ø10 H7 (+0.015/0)")).to_be_attached()


def test_a_geometrical_tolerance_and_a_datum_stand_on_picked_edges(designer: Designer) -> None:
    """Picked first and asked first: both arrive on the page."""
    designer.begin(plate_with_circle(drilled=True).part)
    page = new_page(designer)
    page.mouse.click(*line(page, "v1", upright=True, last=False))
    keys(designer, "g t")
    designer.settled()
    drawn(page)
    expect(page.get_by_test_id("picked-mark")).to_contain_text("Datum")
    keys(designer, "Escape")
    keys(designer, "g g")
    expect(page.get_by_test_id("page-hint")).to_contain_text("Pick the edge")
    page.mouse.click(*line(page, "v1", upright=False, last=False))
    designer.settled()
    drawn(page)
    card = page.get_by_test_id("picked-mark")
    expect(card).to_contain_text("Geometrical tolerance")
    designer.choose_in(card.get_by_label("tolerance of"), "flatness")
    designer.settled()
    drawn(page)
    expect(page.locator("[data-testid=page] text", has_text="0.1").first).to_be_attached()


def test_a_detail_and_another_kind_of_dimension(designer: Designer) -> None:
    designer.begin(plate_with_circle(drilled=True).part)
    page = new_page(designer)
    x, y, w, h = view_box(page, "v2")
    keys(designer, "g d")
    page.mouse.click(x + w / 2, y + h / 2)
    page.mouse.click(x + w / 2 + 30, y + h / 2)
    designer.settled()
    drawn(page)
    expect(page.get_by_test_id("pages").get_by_role("button", name="Detail A")).to_be_visible()
    page.mouse.click(*line(page, "v1", upright=True, last=True))
    offers = page.get_by_test_id("dimension-offers").get_by_role("button")
    expect(offers.first).to_be_visible()
    kinds = offers.all_inner_texts()
    if len(kinds) > 1:
        keys(designer, ";")
    keys(designer, "Escape")
    expect(page.get_by_test_id("dimension-offers")).to_have_count(0)
    # A word that is no page's: refused with its field, and the page stays as it was.
    name = page.get_by_test_id("pages").get_by_label("name")
    name.click()
    page.keyboard.press("Control+a")
    page.keyboard.press("Delete")
    page.keyboard.press("Enter")
    expect(page.get_by_text("A page has a name. Write one.").first).to_be_visible()
