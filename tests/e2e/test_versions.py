"""The route as a place to work, and its versions: by mouse and keystrokes."""

from __future__ import annotations

import zipfile
from pathlib import Path

from playwright.sync_api import Locator, Page, expect

from tests.building import TOP, drawn_on, f
from tests.core.test_shakedown import rounded
from tests.e2e.designer import Designer
from tests.samples import block, plate
from wendal.core import exchange
from wendal.core.route import Memory, evaluate
from wendal.demo.bracket import instrument_bracket


def names(page: Page) -> list[str]:
    return page.get_by_test_id("step").evaluate_all("lines => lines.map(line => line.dataset.name)")  # type: ignore[no-any-return]


def number(designer: Designer, name: str) -> Locator:
    """The number of a step's line: what is marked and dragged."""
    return designer.step(name).locator("button.figures").first


def row(page: Page, version: int) -> Locator:
    return page.locator(f'[data-testid=version-row][data-number="{version}"]')


def depth(designer: Designer, text: str) -> None:
    """Type another depth of the base."""
    designer.step("Base").locator("button.figures.blank").first.click()
    designer.page.keyboard.type(text)
    designer.page.keyboard.press("Enter")
    designer.settled()


def drag(designer: Designer, name: str, before: str) -> None:
    page, start = designer.page, number(designer, name)
    start.scroll_into_view_if_needed()
    a, b = start.bounding_box(), designer.step(before).bounding_box()
    assert a
    assert b
    page.mouse.move(a["x"] + 5, a["y"] + 5)
    page.mouse.down()
    page.mouse.move(a["x"] + 5, a["y"] - 12)
    page.mouse.move(a["x"] + 5, b["y"] + 4, steps=6)


def test_a_version_is_looked_at_named_gone_back_to_and_compared(designer: Designer) -> None:
    page = designer.page
    designer.begin(block().part)
    depth(designer, "20 mm")
    page.get_by_role("button", name="v2", exact=True).click()
    row(page, 1).get_by_role("button", name="Name").click()
    page.keyboard.type("first print")
    page.keyboard.press("Enter")
    expect(row(page, 1)).to_contain_text("first print")
    row(page, 1).get_by_role("button", name="Look").click()
    expect(page.get_by_test_id("past")).to_contain_text("v1 as it was")
    designer.settled()
    expect(designer.step("Base")).to_contain_text("10 mm")
    designer.keys("b", "e")
    expect(page.get_by_text("This is v1 as it was", exact=False).last).to_be_visible()
    expect(designer.editor).to_have_count(0)
    page.get_by_test_id("past").get_by_role("button", name="Compare").click()
    expect(page.get_by_test_id("compared")).to_contain_text("depth")
    page.get_by_label("Only earlier").click()
    designer.keys("Escape")
    page.get_by_role("button", name="To the present").click()
    designer.settled()
    expect(designer.step("Base")).to_contain_text("20 mm")
    designer.keys("r", "v")
    row(page, 1).get_by_role("button", name="Back to this").click()
    expect(row(page, 3)).to_contain_text("Back to v1")
    designer.keys("Escape")
    designer.settled()
    expect(designer.step("Base")).to_contain_text("10 mm")
    designer.keys("Control+z")
    expect(designer.step("Base")).to_contain_text("20 mm")


def test_a_branch_and_its_origin_become_one_again(designer: Designer) -> None:
    page = designer.page
    designer.begin(block().part)
    depth(designer, "12 mm")
    origin = page.url
    designer.keys("r", "v")
    row(page, 1).get_by_role("button", name="Branch").click()
    expect(page.get_by_test_id("part-name")).to_contain_text("branch")
    designer.settled()
    depth(designer, "16 mm")
    designer.menu("Base", "Note")
    page.keyboard.type("Milled.")
    page.keyboard.press("Enter")
    expect(page.get_by_test_id("step-note")).to_have_text("Milled.")
    page.goto("about:blank")
    page.goto(origin)
    designer.settled()
    designer.keys("r", "t")
    page.get_by_test_id("together").get_by_role("button").filter(has_text="branched from v1").click()
    conflict = page.get_by_test_id("conflict")
    expect(conflict).to_contain_text("depth")
    join = page.get_by_test_id("together").get_by_role("button", name="Bring together")
    expect(join).to_be_disabled()
    conflict.get_by_label("the other").click()
    expect(join).to_be_enabled()
    join.click()
    expect(page.get_by_test_id("together")).to_have_count(0)
    designer.settled()
    expect(designer.step("Base")).to_contain_text("16 mm")
    expect(page.get_by_test_id("step-note")).to_have_text("Milled.")
    designer.keys("Control+z")
    expect(designer.step("Base")).to_contain_text("12 mm")


def test_steps_are_dragged_where_they_may_stand_and_nowhere_else(designer: Designer) -> None:
    page = designer.page
    designer.begin(instrument_bracket())
    drag(designer, "Middle", "Seat")
    expect(page.get_by_test_id("drop")).to_be_visible()
    page.mouse.up()
    designer.quiet()
    designer.settled()
    assert names(page)[4:7] == ["Seat corner", "Middle", "Seat"]
    drag(designer, "Web outline", "Tilt line")
    expect(page.get_by_test_id("drop")).to_contain_text("stands on Web plane")
    page.mouse.up()
    assert names(page)[7:9] == ["Web plane", "Web outline"]
    # The stop line: built up to there, and what is made stands there.
    line = page.get_by_test_id("stop-line")
    line.scroll_into_view_if_needed()
    at, to = line.bounding_box(), designer.step("Far web").bounding_box()
    assert at
    assert to
    page.mouse.move(at["x"] + 5, at["y"] + 5)
    page.mouse.down()
    page.mouse.move(at["x"] + 5, at["y"] - 12)
    page.mouse.move(at["x"] + 5, to["y"] + to["height"] - 4, steps=6)
    page.mouse.up()
    expect(page.get_by_test_id("route-state")).to_contain_text("waiting")
    line.click()
    expect(page.get_by_test_id("route-state")).to_contain_text("all built")


def test_deleting_tells_what_would_stop_and_asks_how(designer: Designer) -> None:
    page = designer.page
    designer.begin(instrument_bracket())
    number(designer, "Web plane").click()
    designer.keys("Delete")
    asked = page.get_by_test_id("asked")
    expect(asked).to_contain_text("Web outline stopped")
    asked.get_by_role("radio").nth(1).click()
    expect(asked).to_contain_text("Seat block stopped: This would not touch Base")  # which no reference tells
    asked.get_by_role("button", name="Leave it").click()
    expect(asked).to_have_count(0)
    assert len(names(page)) == 16
    designer.keys("r", "x")
    asked.get_by_role("radio").nth(1).click()
    expect(asked).to_contain_text("1 step would not stand")
    asked.get_by_role("button", name="Delete").click()
    expect(asked).to_have_count(0)
    designer.settled()
    expect(designer.step("Seat block")).to_have_attribute("data-state", "stopped")
    assert not {"Web plane", "Web outline", "Web", "Far web"} & set(names(page))
    designer.keys("Control+z")
    expect(page.get_by_test_id("step")).to_have_count(16)


def test_steps_are_marked_grouped_filtered_copied_and_walked_back_through(designer: Designer) -> None:
    page = designer.page
    designer.begin(instrument_bracket())
    number(designer, "Web plane").click()
    number(designer, "Web").click(modifiers=["Shift"])
    expect(page.get_by_test_id("marked")).to_contain_text("3 marked")
    designer.keys("r", "g")
    page.keyboard.type("Webs")
    page.keyboard.press("Enter")
    heading = page.get_by_test_id("heading")
    expect(heading).to_contain_text("Webs")
    heading.get_by_role("button", name="Fold Webs").click()
    expect(designer.step("Web plane")).to_have_count(0)
    designer.keys("r", "f")
    page.keyboard.type("on Base")
    expect(page.get_by_test_id("step")).to_have_count(11)
    designer.keys("Escape")
    number(designer, "Feet").click()
    designer.keys("r", "c", "r", "i")
    expect(designer.step("Feet 2")).to_have_attribute("data-marked", "true")
    designer.settled()
    designer.keys("Escape", "r", "b", "r", "b")
    expect(page.get_by_test_id("rolled")).to_contain_text("Feet")
    designer.keys("r", "n", "r", "n")
    expect(page.get_by_test_id("rolled")).to_have_count(0)


def test_a_heading_is_repeated_as_one(designer: Designer) -> None:
    d, page = designer, designer.page
    b = plate()
    for n, x in enumerate((5, 15)):
        ring = drawn_on(b, TOP, "rectangle", (x, 5), (x + 5, 10))
        b.step("extrude", f"Pocket {n}", profile=b.profile(ring, 0), extent="into", depth=f("2 mm"), result="cut")
    b.do(do="group_steps", steps=[s.id for s in b.part.steps[2:]], name="Pockets")
    d.begin(b.part)
    d.keys("b", "p")
    page.get_by_test_id("heading").get_by_role("button", name="Pockets", exact=True).click()
    expect(d.editor.get_by_test_id("blank-seeds")).to_contain_text("Pocket 1")
    page.keyboard.press("Escape")


def test_two_bodies_of_a_part_are_compared(designer: Designer) -> None:
    d, page = designer, designer.page
    b = plate()
    ring = b.step("sketch", "Ring", on={"of": "base", "name": "XY"})
    b.draw(ring, "rectangle", (60, 0), (90, 25))
    b.step("extrude", "Less", profile=b.profile(ring, 0), depth=f("10 mm"), result="new")
    d.begin(b.part)
    d.keys("l", "c")
    panel = page.get_by_test_id("compare")
    panel.get_by_role("button", name="Compare", exact=True).click()
    expect(page.get_by_test_id("body-compared")).to_contain_text("Base and Less", timeout=30_000)
    expect(page.get_by_test_id("body-compared")).to_contain_text("7500 mm³")


def test_what_made_a_face_leads_to_its_dimension(designer: Designer) -> None:
    page = designer.page
    designer.begin(block().part)
    designer.look("Z")
    designer.pick(30, 20, 10)
    designer.keys("r", "w")
    made = page.get_by_test_id("made")
    expect(made).to_contain_text("Base")
    made.get_by_role("button", name="base_depth").click()
    expect(page.locator('[data-tag="base_depth"]')).to_be_visible()


def test_a_part_is_found_filed_and_comes_back_from_the_bin(designer: Designer) -> None:
    page = designer.page
    designer.begin(block().part)
    designer.keys("r", "a")
    page.get_by_test_id("about").get_by_label("Number").click()
    page.keyboard.type("HP-7031")
    page.keyboard.press("Enter")
    designer.settled()
    designer.parts()
    page.get_by_label("Look for a part").click()
    page.keyboard.type("7031")
    mine = page.get_by_test_id("part")
    expect(mine).to_have_count(1)
    mine.get_by_role("button", name="Label").click()
    page.keyboard.type("gauge")
    page.keyboard.press("Enter")
    expect(mine).to_contain_text("gauge")
    mine.get_by_role("checkbox").click()
    expect(page.get_by_test_id("chosen")).to_have_text("1 chosen")
    page.get_by_role("button", name="Delete").first.click()
    page.get_by_role("alertdialog").get_by_role("button", name="Delete").click()
    expect(mine).to_have_count(0)
    page.get_by_role("button", name="Bin").click()
    mine.filter(has_text="HP-7031").first.get_by_role("button", name="Bring back").click()
    page.get_by_role("button", name="To the parts").click()
    expect(mine).to_have_count(1)


def test_a_step_file_is_received_built_on_and_a_newer_one_keeps_what_stands_on_it(designer: Designer, tmp_path: Path) -> None:
    page = designer.page
    for name, depth_ in (("plate.step", "10 mm"), ("newer.step", "11 mm")):
        part = plate("40 mm", "25 mm", depth_).part
        (tmp_path / name).write_bytes(exchange.export(part, evaluate(part, Memory()), "step"))
    (tmp_path / "bad.step").write_bytes(b"ISO-10303-21;")
    designer.new_part()
    for name in ("bad.step", "plate.step"):
        with page.expect_file_chooser() as chooser:
            designer.keys("b", "2")
        chooser.value.set_files(tmp_path / name)
        expect(page.get_by_text("cut off" if name == "bad.step" else "a solid of 6 faces")).to_be_visible()
    designer.settled()
    expect(designer.step("plate")).to_contain_text("plate.step")
    designer.look("Z")
    designer.pick(20, 0, 10, thing="straight edge")
    designer.keys("b", "c")
    designer.accept()
    with page.expect_file_chooser() as chooser:
        designer.menu("plate", "Read a newer file")
    chooser.value.set_files(tmp_path / "newer.step")
    expect(page.get_by_text("6 faces are those of before, 0 are new, 0 are gone")).to_be_visible()
    designer.settled()
    expect(page.get_by_test_id("route-state")).to_contain_text("all built")


def test_a_mesh_is_received_in_the_unit_that_is_chosen_by_its_size_and_measured(designer: Designer, tmp_path: Path) -> None:
    d, page = designer, designer.page
    part = plate("4 mm", "2.5 mm", "1 mm").part
    (tmp_path / "block.stl").write_bytes(exchange.export(part, evaluate(part, Memory()), "stl"))
    d.new_part()
    with page.expect_file_chooser() as chooser:
        d.keys("b", "2")
    chooser.value.set_files(tmp_path / "block.stl")
    card = page.get_by_test_id("receive")
    expect(card).to_contain_text("block.stl has 12 triangles")
    expect(card).to_contain_text("millimetres: 4 × 2.5 × 1 mm")
    expect(card.get_by_role("button", name="millimetres")).to_be_focused()
    d.keys("Tab", "Enter")
    expect(page.get_by_text("12 triangles became 6 flat faces")).to_be_visible()
    d.settled()
    expect(card).to_have_count(0)
    d.keys("l", "m")
    d.pick(20, 12.5, 10, thing="top face")
    expect(page.get_by_test_id("figure-of").filter(has_text="area")).to_contain_text("1000 mm²")
    d.keys("Escape", "Escape", "Control+z")
    d.settled()
    expect(d.step("block")).to_have_count(0)


def test_files_are_written_of_what_is_picked(designer: Designer) -> None:
    page = designer.page
    designer.begin(block().part)
    designer.look("Z")
    designer.pick(35, 3, 10)
    designer.keys("r", "o")
    card = page.get_by_test_id("write-files")
    card.get_by_label("dxf").click()
    designer.choose_in(card.get_by_label("What is written as dxf"), "the picked face")
    card.get_by_label("step").click()
    with page.expect_download() as download:
        card.get_by_role("button", name="Write 2 files").click()
    with zipfile.ZipFile(download.value.path()) as archive:
        assert sorted(archive.namelist()) == ["Sample.dxf", "Sample.step"]
        assert b"CIRCLE" in archive.read("Sample.dxf")


def test_what_has_changed_since_a_step_was_built_is_told_seen_and_put_back(designer: Designer) -> None:
    d, page = designer, designer.page
    d.begin(rounded().part)
    page.get_by_role("button", name="outline_width 40 mm").click()
    d.type_in(page.get_by_test_id("formula"), "8 mm")
    page.get_by_test_id("formula").press("Enter")
    d.settled()
    depth(d, "12 mm")
    soft = d.step("Soft")
    expect(soft).to_have_attribute("data-state", "stopped")
    soft.get_by_role("button", name="What has changed since it was built").click()
    told = page.get_by_test_id("since-good")
    expect(told).to_contain_text("Built last in v1")
    expect(told).to_contain_text("outline_width: 40 mm → 8 mm")
    told.get_by_role("button", name="See it").click()
    card = page.get_by_test_id("tried")
    expect(card).to_contain_text("It is built")
    card.get_by_role("button", name="Put it back").click()
    d.settled()
    expect(soft).to_have_attribute("data-state", "built")
    assert number(d, "Soft").inner_text() == "30"


def test_a_step_put_between_two_is_numbered_between_and_all_anew_on_request(designer: Designer) -> None:
    d, page = designer, designer.page
    d.begin(plate().part)
    number(d, "Outline").click()
    d.keys("r", "c")
    d.keys("r", "i")
    d.settled()
    assert [number(d, n).inner_text() for n in names(page)] == ["10", "15", "20"]
    page.keyboard.press("Escape")
    d.keys("r", "z")
    d.settled()
    assert [number(d, n).inner_text() for n in names(page)] == ["10", "20", "30"]


def test_another_plane_takes_the_place_of_one_that_is_deleted(designer: Designer) -> None:
    d, page = designer, designer.page
    b = plate()
    for name, off in (("Low", "3 mm"), ("High", "6 mm")):
        b.step("plane", name, how="offset", first={"of": "base", "name": "XY"}, distance=f(off))
    ring = drawn_on(b, {"of": "datum", "step": "s4"}, "rectangle", (5, 5), (15, 15))
    b.step("extrude", "Pocket", profile=b.profile(ring, 0), depth=f("30 mm"), result="cut")
    d.begin(b.part)
    number(d, "High").click()
    d.keys("r", "x")
    asked = page.get_by_test_id("asked")
    asked.get_by_label("Put Low in its place").click()
    expect(asked).to_contain_text("All other steps stand as before")
    asked.get_by_role("button", name="Delete").click()
    d.settled()
    assert "High" not in names(page)
    assert abs(d.volume() - 9300) < 1e-6
