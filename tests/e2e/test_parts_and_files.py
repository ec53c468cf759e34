"""The list of parts, files out and in, and Wendal's own start and stop."""

from __future__ import annotations

import json
import signal
from pathlib import Path

import ezdxf
import pytest
from playwright.sync_api import Page, Route, expect

from tests.conftest import Served
from tests.e2e.designer import Designer
from tests.samples import evaluated, plate
from wendal.core import exchange


def test_parts_are_made_renamed_copied_and_deleted(designer: Designer) -> None:
    d = designer
    d.new_part_from_the_list()
    name = d.page.get_by_test_id("part-name").inner_text()
    d.page.get_by_test_id("part-name").click()
    d.type_in(d.page.get_by_label("Part name"), "Cable gland")
    d.page.get_by_label("Part name").press("Enter")
    expect(d.page.get_by_test_id("part-name")).to_have_text("Cable gland")
    d.parts()
    card = d.page.get_by_test_id("part").filter(has_text="Cable gland")
    card.get_by_role("button", name="Copy").click()
    copy = d.page.get_by_test_id("part").filter(has_text="Cable gland, copy")
    copy.get_by_role("button", name="Rename").click()
    d.type_in(d.page.get_by_label("Name", exact=True), "Spare gland")
    d.page.get_by_label("Name", exact=True).press("Enter")
    spare = d.page.get_by_test_id("part").filter(has_text="Spare gland")
    spare.get_by_role("button", name="Delete").click()
    d.page.get_by_role("button", name="Keep").click()
    expect(spare).to_have_count(1)
    spare.get_by_role("button", name="Delete").click()
    d.page.get_by_role("alertdialog").get_by_role("button", name="Delete").click()
    expect(spare).to_have_count(0)
    expect(card).to_have_count(1)
    assert name.startswith("New part")


def test_pictures_show_the_body(designer: Designer) -> None:
    d = designer
    d.parts()
    card = d.page.get_by_test_id("part").filter(has_text="Instrument bracket").last
    source = card.locator("img").get_attribute("src")
    assert d.page.request.get(f"{d.url}{source}").text().count("M") > 20


def test_json_out_and_in_is_the_same_part(designer: Designer, tmp_path: Path) -> None:
    d = designer
    d.open_part("Instrument bracket")
    volume = d.volume()
    d.page.get_by_test_id("exchange").click()
    with d.page.expect_download() as download:
        d.page.get_by_role("menuitem", name="Write Wendal part").click()
    path = tmp_path / download.value.suggested_filename
    download.value.save_as(path)
    assert path.name == "Instrument bracket.json"
    data = json.loads(path.read_text())
    data["name"] = "Bracket read back"
    path.write_text(json.dumps(data))
    d.parts()
    d.page.get_by_test_id("read-file").set_input_files(path)
    d.page.get_by_role("link", name="Open Bracket read back").click()
    d.settled()
    assert d.volume() == pytest.approx(volume, rel=1e-12)


def test_a_file_that_is_no_part_is_refused_in_words(designer: Designer, tmp_path: Path) -> None:
    d = designer
    d.parts()
    d.page.get_by_test_id("part").first.wait_for()
    before = d.page.get_by_test_id("part").count()
    path = tmp_path / "shopping.json"
    path.write_text('{"name": "List", "steps": [{"kind": "weld"}]}')
    d.page.get_by_test_id("read-file").set_input_files(path)
    expect(d.page.get_by_role("alert")).to_contain_text("At steps.0")
    expect(d.page.get_by_test_id("part")).to_have_count(before)


def test_writing_an_empty_part_says_what_is_missing(designer: Designer) -> None:
    d = designer
    d.new_part()
    d.page.get_by_test_id("exchange").click()
    d.page.get_by_role("menuitem", name="Write STL").click()
    expect(d.page.get_by_test_id("note")).to_contain_text("There is no body to write yet")


def test_actions_are_found_by_their_words(designer: Designer) -> None:
    d = designer
    d.open_part("Instrument bracket")
    # The first signs are typed before the field has the focus: none is lost.
    d.keys("Control+k")
    d.page.get_by_role("dialog").wait_for()
    d.page.evaluate("document.activeElement.blur()")
    d.page.keyboard.type("ex")
    d.page.get_by_role("combobox").focus()
    d.page.keyboard.type("tr")
    expect(d.page.get_by_role("option").first).to_contain_text("Extrude")
    d.keys("Enter")
    d.says("Still needs at least one closed region")
    expect(d.page.get_by_role("dialog")).to_have_count(0)
    d.keys("Escape")
    expect(d.editor).to_have_count(0)


def test_parts_that_were_open_are_let_go(designer: Designer) -> None:
    d = designer
    session = d.page.context.new_cdp_session(d.page)
    session.send("Performance.enable")

    def held() -> float:
        for _ in range(4):
            d.begin(plate().part)
        d.quiet()
        session.send("HeapProfiler.collectGarbage")
        return next(m["value"] for m in session.send("Performance.getMetrics")["metrics"] if m["name"] == "Nodes")

    held()
    before = held()
    assert held() < before + 200  # a page has some 800
    expect(d.page.locator("canvas")).to_have_count(1)
    session.detach()


@pytest.mark.own_window
def test_killing_wendal_loses_nothing_that_was_told_done(page: Page, tmp_path: Path) -> None:
    page.set_default_timeout(90_000)  # a server of its own, beside the other tests
    served = Served(tmp_path / "data", "start")
    d = Designer(page, served.url)
    d.begin(plate().part)
    d.page.get_by_role("button", name="base_depth 10 mm").click()
    d.type_in(d.page.get_by_test_id("formula"), "14 mm")
    d.page.get_by_test_id("formula").press("Enter")
    expect(d.page.locator("[data-tag=base_depth]")).to_contain_text("14 mm")
    here = page.url.removeprefix(served.url)
    assert served.stop(signal.SIGKILL) == -signal.SIGKILL
    expect(d.page.get_by_test_id("version")).to_contain_text("no line to Wendal")
    served.start()
    d = Designer(page, served.url)
    page.goto(served.url + here)  # not by the list, whose pictures are all drawn anew
    d.settled()
    expect(d.page.get_by_test_id("ledger")).to_contain_text("base_depth 14 mm")
    assert served.stop() == 0
    assert not (tmp_path / "data" / "mariadb" / "pid").exists()


def test_an_outline_from_a_dxf_is_constrained_and_extruded(designer: Designer, tmp_path: Path) -> None:
    import io

    import ezdxf

    document = ezdxf.new("R2010", units=0)  # it does not say its unit
    document.layers.add("NOTES")
    document.modelspace().add_lwpolyline([(0, 0), (40, 0), (40, 20), (0, 20)], close=True)
    document.modelspace().add_line((0, 30), (10, 30), dxfattribs={"layer": "NOTES"})
    text = io.StringIO()
    document.write(text)
    path = tmp_path / "outline.dxf"
    path.write_text(text.getvalue())
    page = designer.page
    designer.new_part()
    designer.pick_flag("XY")
    designer.keys("k", "n")
    designer.accept()
    designer.board_ready()
    expect(page.get_by_test_id("strip")).to_be_visible()
    designer.quiet()
    with page.expect_file_chooser() as chooser:
        designer.keys("k", "1")
    chooser.value.set_files(path)
    card = page.get_by_test_id("curves")
    expect(card.get_by_role("alert")).to_contain_text("in which unit")
    designer.choose_in(card.get_by_label("unit"), "mm")
    expect(page.get_by_test_id("curves-told")).to_contain_text("5 curves")
    card.get_by_label("NOTES").click()
    expect(page.get_by_test_id("curves-told")).to_contain_text("4 curves, 40 × 20 mm, 4 ends joined")
    card.get_by_role("button", name="Put in place").click()
    designer.settled()
    expect(card).to_have_count(0)
    designer.close_sketch()
    designer.keys("b", "e")
    page.keyboard.type("5 mm")
    designer.accept()
    assert designer.volume() == pytest.approx(40 * 20 * 5, abs=0.01)
    page.keyboard.press("Control+z")
    page.keyboard.press("Control+z")
    designer.settled()
    assert page.get_by_test_id("step").count() == 1


def test_writing_is_cancelled_and_the_size_is_told(designer: Designer) -> None:
    d, page = designer, designer.page
    d.begin(plate().part)
    d.keys("r", "o")
    card = page.get_by_test_id("write-files")
    expect(card).to_contain_text("the bodies are 40 × 25 × 10 mm")
    card.get_by_role("checkbox").first.click()
    held: list[Route] = []
    page.route("**/write?*", lambda route: held.append(route))
    card.get_by_role("button", name="Write", exact=True).click()
    card.get_by_role("button", name="Cancel").click()
    expect(card.get_by_role("alert")).to_contain_text("Cancelled. Nothing was written.")
    expect(card.get_by_role("button", name="Write", exact=True)).to_be_enabled()
    page.unroute("**/write?*")


def test_what_would_be_written_is_shown_beforehand_with_its_size(designer: Designer) -> None:
    d, page = designer, designer.page
    d.begin(plate().part)
    d.keys("r", "o")
    card = page.get_by_test_id("write-files")
    card.get_by_role("checkbox", name="stl").click()
    expect(card.get_by_test_id("beforehand-stl")).to_have_text("12 triangles")
    card.get_by_role("checkbox", name="dxf").click()
    d.choose_in(card.get_by_label("What is written as dxf"), "a view")
    expect(card.get_by_test_id("beforehand-dxf")).to_have_text("40 × 10 mm")
    d.choose_in(card.get_by_label("Whence the view is seen that is written as dxf"), "from above")
    expect(card.get_by_test_id("beforehand-dxf")).to_have_text("40 × 25 mm")
    expect(card.get_by_alt_text("What is written as dxf")).to_be_visible()
    expect(card.get_by_label("construction lines too")).to_have_count(0)  # of a view it says nothing
    card.get_by_label("centre lines and marks").click()
    d.choose_in(card.get_by_label("Whence the view is seen that is written as dxf"), "square to the picked plane")
    expect(card).to_contain_text("Pick a plane or a flat face to look at.")
    expect(card.get_by_test_id("beforehand-dxf")).to_have_count(0)
    d.pick_flag("YZ")
    expect(card.get_by_test_id("beforehand-dxf")).to_have_text("25 × 10 mm")
    card.get_by_role("checkbox", name="stl").click()
    with page.expect_download() as told:
        card.get_by_role("button", name="Write", exact=True).click()
    content = ezdxf.readfile(told.value.path())
    assert {e.dxf.layer for e in content.modelspace()} == {"outline"}
    assert sum((e.dxf.end - e.dxf.start).magnitude for e in content.modelspace()) == pytest.approx(70)


def test_a_step_file_given_to_the_list_is_a_part_and_a_damaged_one_is_none(designer: Designer, tmp_path: Path) -> None:
    d, page = designer, designer.page
    content = exchange.export(plate().part, evaluated(plate()), "step")
    (tmp_path / "sent plate.step").write_bytes(content)
    (tmp_path / "cut off.step").write_bytes(content[: len(content) // 2])
    (tmp_path / "words.txt").write_text("words")
    d.parts()

    def give(name: str) -> None:
        with page.expect_file_chooser() as chooser:
            page.get_by_role("button", name="Read a part").click()
        chooser.value.set_files(tmp_path / name)

    give("cut off.step")
    expect(page.get_by_role("alert")).to_contain_text("cut off: its closing line is missing")
    give("words.txt")
    expect(page.get_by_role("alert")).to_contain_text("is read here")
    names = [row["name"] for row in page.request.get(f"{d.url}/api/parts").json()]
    assert "cut off" not in names
    give("sent plate.step")
    expect(page.get_by_role("status")).to_have_text("Reading sent plate.step …")
    expect(d.step("sent plate")).to_be_visible()
    expect(page.get_by_test_id("note").last).to_contain_text("a solid of 6 faces, 40 × 25 × 10 mm")
    d.settled()
    assert [b["name"] for b in d.report()["bodies"]] == ["Base"]  # as it is called in the file
    assert d.volume() == pytest.approx(10_000)
    page.reload()
    d.settled()
    assert page.get_by_test_id("step").count() == 1
