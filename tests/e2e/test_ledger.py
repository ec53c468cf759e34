"""The ledger at the browser: reach before accepting, limits, notes, sorting, CSV."""

from __future__ import annotations

import re
from pathlib import Path

import pytest
from openpyxl import load_workbook
from playwright.sync_api import expect

from tests.e2e.designer import Designer


@pytest.fixture
def ledger(designer: Designer) -> Designer:
    designer.open_part("Instrument bracket")
    designer.page.get_by_role("button", name="Ledger").click()
    return designer


def test_what_a_formula_would_reach_is_told_while_it_is_typed(ledger: Designer) -> None:
    d = ledger
    d.page.locator("[data-tag=seat_rise]").get_by_role("button").nth(1).click()
    d.type_in(d.page.get_by_test_id("formula"), "25 mm")
    expect(d.page.get_by_test_id("ledger-foreseen")).to_contain_text(re.compile(r"Reaches \d+ steps. Volume of Base 206 944 → 209 944 mm³."))
    d.type_in(d.page.get_by_test_id("formula"), "25 kg +")
    expect(d.page.get_by_test_id("ledger-trouble")).to_contain_text("ends too early")
    d.page.get_by_test_id("formula").press("Escape")
    expect(d.page.locator("[data-tag=seat_rise]")).to_contain_text("22 mm")


def test_limits_and_notes(ledger: Designer) -> None:
    d = ledger
    row = d.page.locator("[data-tag=seat_tilt]")
    row.get_by_role("button", name="any").click()
    d.type_in(d.page.get_by_label("least"), "5 deg")
    d.type_in(d.page.get_by_label("most", exact=True), "41 deg")
    d.page.get_by_role("button", name="Set", exact=True).click()
    expect(row).to_contain_text("5 deg to 41 deg")
    row.get_by_role("button").nth(1).click()
    d.type_in(d.page.get_by_test_id("formula"), "50 deg")
    d.page.get_by_test_id("formula").press("Enter")
    expect(d.page.get_by_test_id("ledger-trouble")).to_contain_text("no more than 41 deg")
    d.page.get_by_test_id("formula").press("Escape")
    row.get_by_role("button", name="against the foot").click()
    d.type_in(d.page.get_by_label("note", exact=True), "against the foot plate")
    d.page.get_by_label("note", exact=True).press("Enter")
    expect(row).to_contain_text("against the foot plate")
    for _ in range(2):
        d.page.get_by_label("Undo").click()
    expect(row).to_contain_text("any")


def test_sorting_filtering_and_renaming(ledger: Designer) -> None:
    d = ledger
    d.page.get_by_role("button", name="Tag", exact=True).click()
    expect(d.page.locator("[data-tag]").first).to_have_attribute("data-tag", "base_depth")
    d.type_in(d.page.get_by_label("Filter the ledger"), "web outline")
    expect(d.page.locator("[data-tag]").first).to_have_attribute("data-tag", "web_outline_floor")
    d.type_in(d.page.get_by_label("Filter the ledger"), "")
    d.page.locator("[data-tag=web]").get_by_role("button").first.click()
    d.type_in(d.page.get_by_label("tag", exact=True), "web_thickness")
    d.page.get_by_label("tag", exact=True).press("Enter")
    expect(d.page.locator("[data-tag=web_depth]")).to_contain_text("web_thickness")
    d.page.get_by_label("Undo").click()
    expect(d.page.locator("[data-tag=web_depth]")).not_to_contain_text("web_thickness")


def test_csv_out_and_in(ledger: Designer, tmp_path: Path) -> None:
    d = ledger
    d.page.get_by_test_id("exchange").click()
    with d.page.expect_download() as download:
        d.page.get_by_role("menuitem", name="the ledger (CSV)").click()
    text = download.value.path().read_text()
    path = tmp_path / "ledger.csv"
    path.write_text(text.replace("base_depth,12 mm", "base_depth,16 mm"))
    d.page.get_by_test_id("read-ledger").set_input_files(path)
    expect(d.page.locator("[data-tag=base_depth]")).to_contain_text("16 mm")
    path.write_text("tag,formula\nbase_depth,1/0\n")
    d.page.get_by_test_id("read-ledger").set_input_files(path)
    expect(d.page.get_by_test_id("ledger-trouble")).to_contain_text("In line 2, at base_depth")
    d.page.get_by_label("Undo").click()
    expect(d.page.locator("[data-tag=base_depth]")).to_contain_text("12 mm")


def test_a_spreadsheet_out_and_in(ledger: Designer, tmp_path: Path) -> None:
    d = ledger
    d.page.get_by_test_id("exchange").click()
    with d.page.expect_download() as download:
        d.page.get_by_role("menuitem", name="the ledger (spreadsheet)").click()
    path = tmp_path / "ledger.xlsx"
    download.value.save_as(path)
    book = load_workbook(path)
    cell = next(row[1] for row in book.worksheets[0].iter_rows() if row[0].value == "base_depth")
    cell.value = "17 mm"
    book.save(path)
    d.page.get_by_test_id("read-ledger").set_input_files(path)
    expect(d.page.locator("[data-tag=base_depth]")).to_contain_text("17 mm")
    path.write_bytes(b"PK no spreadsheet")
    d.page.get_by_test_id("read-ledger").set_input_files(path)
    expect(d.page.get_by_test_id("note").last).to_contain_text("This is no spreadsheet")
    expect(d.page.locator("[data-tag=base_depth]")).to_contain_text("17 mm")
    d.keys("l", "l")
    with d.page.expect_download() as download:
        d.page.get_by_test_id("schedule").get_by_role("button", name="Spreadsheet").click()
    download.value.save_as(path)
    assert load_workbook(path).worksheets[0]["A1"].value == "number"
    d.page.get_by_label("Undo").click()
    expect(d.page.locator("[data-tag=base_depth]")).to_contain_text("12 mm")
