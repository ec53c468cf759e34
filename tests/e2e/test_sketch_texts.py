"""Texts in the browser: a name plate written, corrected, engraved and changed."""

from __future__ import annotations

import re

import pytest
from playwright.sync_api import expect

from .designer import Designer


def shown(d: Designer, words: str) -> str:
    """How a text is drawn now."""
    path = d.page.locator(f'[data-testid=text][data-words="{words}"]')
    expect(path).to_have_count(1)
    return path.get_attribute("d") or ""


def left(path: str) -> float:
    return min(float(x) for x in re.findall(r"[MLQ ](-?[\d.e-]+) -?[\d.e-]+", path))


def test_a_name_plate_is_written_corrected_engraved_and_changed(board: Designer) -> None:
    d, page = board, board.page
    d.draw("r", (-30, -20), (50, 20))
    # A new base line, words typed first; a sign that the font lacks is told before anything is accepted.
    d.keys("k", "t")
    page.keyboard.type("DN 80 Ж")
    d.click((-26, -16), (14, -16))
    expect(page.get_by_test_id("trial-trouble")).to_contain_text("Barlow has no sign for “Ж”")
    d.type_in(page.get_by_test_id("toolbar").get_by_label("words"), "DN 80")
    expect(page.get_by_test_id("tried-text")).to_have_count(1)
    page.keyboard.press("Enter")
    expect(page.get_by_test_id("toolbar")).to_have_count(0)
    # Esc takes back a place first, then lays the tool down.
    d.keys("k", "t")
    page.keyboard.type("X")
    d.click((20, 0))
    d.keys("Escape", "Escape")
    expect(page.get_by_test_id("toolbar")).to_have_count(0)
    # Along a curve that is there: a circle, at its top.
    d.draw("c", (25, 0), (34, 0), quiet=True)
    d.keys("k", "t")
    page.keyboard.type("WELL HEAD")
    d.click((25, -9))
    page.keyboard.press("Enter")
    expect(page.get_by_test_id("text")).to_have_count(2)
    # Picked like anything else, removed, and brought back.
    d.select((21, 10.7))
    expect(page.get_by_test_id("readout")).to_contain_text("text “WELL HEAD”")
    d.keys("Delete")
    expect(page.get_by_test_id("text")).to_have_count(1)
    d.keys("Control+z")
    expect(page.get_by_test_id("text")).to_have_count(2)
    # The base line is pulled, and the text goes with it while it moves.
    before = left(shown(d, "DN 80"))
    d.drag((-20, -14), (-14, -10))
    assert left(shown(d, "DN 80")) == pytest.approx(before + 6, abs=0.3)
    # Corrected in the panel: words, font, side; bad words change nothing.
    row = page.get_by_test_id("texts")
    row.get_by_role("button", name="DN 80", exact=True).click()
    d.type_in(page.get_by_test_id("words"), "")
    page.keyboard.press("Enter")
    d.trouble("Type the words of the text first")
    d.type_in(page.get_by_test_id("words"), "DN 100")
    page.keyboard.press("Enter")
    barlow = shown(d, "DN 100")
    d.choose_in(page.get_by_label("Font of DN 100"), "B612 Mono")
    expect(page.locator('[data-testid=text][data-words="DN 100"]')).not_to_have_attribute("d", barlow)
    d.close_sketch()
    # Built: the plate from its region, the words cut into it.
    d.keys("l", "f")
    d.keys("b", "e")
    d.pick(40, 15, 0)
    d.enter("depth", "6 mm")
    d.accept()
    plate = d.volume()
    d.keys("l", "f")
    d.keys("b", "e")
    d.pick(-18, -8, 0, thing="text “DN 100”")  # it lies under the plate: the key for the next thing there finds it
    d.choose("extent", "out of its plane by")
    d.choose("result", "cutting")
    d.enter("depth", "1 mm")
    d.accept()
    engraved = plate - d.volume()
    assert engraved > 10
    # Higher by two fifths: nearly twice the material, after a reload too.
    d.set_formula("sketch_1_text_height", "7 mm")
    page.reload()
    d.settled()
    assert plate - d.volume() == pytest.approx(1.96 * engraved, rel=1e-3)
