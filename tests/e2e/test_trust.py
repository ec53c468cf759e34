"""Families, other values seen on the stage, advice that is put in, aims by several: by mouse and keys."""

from __future__ import annotations

import io
import zipfile

import pytest
from playwright.sync_api import expect

from tests.building import axis, datum, drawn_on, f
from tests.core.test_shakedown import pocket, stepped
from tests.e2e.designer import Designer
from tests.samples import plate


def typed(d: Designer, label: str, text: str, end: str = "Enter") -> None:
    d.page.get_by_label(label, exact=True).click()
    d.page.keyboard.press("Control+a")
    d.page.keyboard.type(text)
    d.page.keyboard.press(end)
    d.settled()


def test_a_family_is_typed_checked_seen_taken_and_written(designer: Designer) -> None:
    d, page = designer, designer.page
    d.begin(pocket().part)
    d.keys("l", "y")
    panel = page.get_by_test_id("family")
    expect(panel).to_contain_text("one part, many sizes")
    for _ in range(2):
        panel.get_by_role("button", name="Add a member").click()
        d.settled()
    for tag in ("base_depth", "pocket_depth"):
        d.choose_in(panel.get_by_label("Have members say a value for"), tag)
        panel.get_by_role("button", name="Add it to all").click()
        d.settled()
    typed(d, "name of Member 1", "Tall")
    typed(d, "base_depth of Tall", "20", "ArrowDown")
    # The arrow has gone down a row: what is typed next is there.
    page.keyboard.press("Control+a")
    page.keyboard.type("6 mm +")
    page.keyboard.press("Tab")
    d.settled()
    expect(panel.get_by_role("alert")).to_contain_text("base_depth: The formula ends too early")
    expect(panel.get_by_label("base_depth of Member 2")).to_have_value("6 mm +")
    typed(d, "base_depth of Member 2", "6 mm")
    typed(d, "pocket_depth of Member 2", "base_depth - 7 mm", "Tab")
    panel.get_by_role("button", name="Check all").click()
    expect(panel.get_by_test_id("family-told")).to_contain_text("1 does not stand", timeout=60_000)
    expect(panel.locator("[data-member=Tall]")).to_contain_text("stands")
    expect(panel.locator("[data-member=Tall]")).to_contain_text("19200 mm³")
    expect(panel).to_contain_text("Pocket: The depth must be greater than zero")
    typed(d, "pocket_depth of Member 2", "base_depth / 2", "Tab")
    expect(panel).to_contain_text("The part has changed since")
    # Seen on the stage, left by Escape, taken as one edit, undone as one.
    panel.locator("[data-member=Tall]").get_by_role("button", name="See").click()
    card = page.get_by_test_id("tried")
    expect(card).to_contain_text("9200 → 19200")
    page.keyboard.press("Escape")
    expect(card).to_have_count(0)
    panel.locator("[data-member='Member 2']").get_by_role("button", name="See").click()
    expect(card).to_contain_text("It is built")
    card.get_by_role("button", name="Take these values").click()
    d.settled()
    assert d.volume() == pytest.approx(6000 - 200 * 3)
    page.keyboard.press("Control+z")
    d.settled()
    assert d.volume() == pytest.approx(9200)
    page.reload()
    page.wait_for_selector("[data-testid=route]")
    d.settled()
    d.keys("l", "y")
    with page.expect_download() as down:
        panel.get_by_role("button", name="STEP").click()
    with zipfile.ZipFile(io.BytesIO(down.value.path().read_bytes())) as archive:
        assert archive.namelist() == ["Tall.step", "Member 2.step", "members.csv"]


def test_a_table_is_pasted_from_a_spreadsheet_and_a_member_is_compared(designer: Designer) -> None:
    d, page = designer, designer.page
    d.begin(plate().part)
    d.keys("l", "y")
    panel = page.get_by_test_id("family")
    panel.get_by_role("button", name="Add a member").click()
    d.settled()
    page.context.grant_permissions(["clipboard-read", "clipboard-write"])
    page.evaluate("navigator.clipboard.writeText('name\\tbase_depth\\toutline_width\\nA\\t4 mm\\t20 mm\\nB\\t5\\t2 * base_depth\\n')")
    panel.get_by_label("name of Member 1").click()
    page.keyboard.press("Control+v")
    d.settled()
    expect(panel.get_by_label("outline_width of B")).to_have_value("2 * base_depth")
    page.evaluate("navigator.clipboard.writeText('7 mm\\n8 mm\\n9 mm\\n')")
    panel.get_by_label("base_depth of A").click()
    page.keyboard.press("Control+v")
    d.settled()
    expect(panel.get_by_label("base_depth of B")).to_have_value("8 mm")
    expect(panel.get_by_label("base_depth of Member 4")).to_have_value("9 mm")
    panel.locator("[data-member=A]").get_by_role("button", name="See").click()
    card = page.get_by_test_id("tried")
    card.get_by_role("button", name="Compare").click()
    told = page.get_by_test_id("compared")
    expect(told).to_contain_text("base_depth")
    expect(told).to_contain_text("7 mm")
    expect(card).to_have_count(0)
    # Two members: 20 x 25 x 7 and 16 x 25 x 8.
    d.keys("Escape")
    panel.locator("[data-member=A]").get_by_role("button", name="See").click()
    expect(card).to_contain_text("It is built")
    panel.locator("[data-member=B]").get_by_role("button", name="Compare").click()
    expect(page.get_by_test_id("compare")).to_contain_text("A with B")
    expect(told).to_contain_text("3500 mm³")
    expect(told).to_contain_text("3200 mm³")


def test_what_ends_a_range_is_seen_and_advice_is_put_in(designer: Designer) -> None:
    d, page = designer, designer.page
    b = stepped()
    b.do(do="set_remark", tag="sketch_of_rectangle_3_width", least="14 mm", most="90 mm")
    for tag in ("outline_width", "outline_height", "step_depth", "base_depth"):
        size = float(next(r.formula for r in b.part.rows() if r.tag == tag).split()[0])
        b.do(do="set_remark", tag=tag, least=f"{0.99 * size} mm", most=f"{size if tag == 'outline_height' else 1.01 * size} mm")
    d.begin(b.part)
    d.keys("l", "k")
    panel = page.get_by_test_id("shakedown")
    expect(panel.get_by_role("button", name="Run again")).to_be_visible(timeout=120_000)
    advice = page.get_by_test_id("advice").locator("li", has_text="a plane of its own, base_depth from XY")
    expect(advice).to_contain_text("that failed hold then")
    row = page.locator("[data-shaken=sketch_of_rectangle_3_width]")
    row.get_by_role("button", name="See").click()
    card = page.get_by_test_id("tried")
    expect(card).to_contain_text("is not there any more")
    card.get_by_role("button", name="Show the last that holds").click()
    expect(card).to_contain_text("It is built")
    card.get_by_role("button", name="Back to the part").click()
    expect(card).to_have_count(0)
    before = d.volume()
    advice.get_by_role("button", name="Put it in").click()
    d.settled()
    assert d.volume() == pytest.approx(before)
    assert [s["name"] for s in d.report()["steps"]][-3:] == ["Under Sketch of rectangle 5", "Sketch of rectangle 5", "Window"]
    # It is there again after a reload, and says that it is older than the part.
    page.reload()
    page.wait_for_selector("[data-testid=route]")
    d.settled()
    d.keys("l", "k")
    expect(page.get_by_test_id("shaken")).to_contain_text("The part has changed since")
    typed(d, "least wall", "thin")
    panel.get_by_role("button", name="Run again").click()
    expect(page.get_by_test_id("note").last).to_contain_text("A limit is a number")


def test_a_picked_face_an_aim_by_two_and_sets_by_chance(designer: Designer) -> None:
    d, page = designer, designer.page
    b = plate()
    floor = b.step("plane", "Floor", how="offset", first=axis("XY"), distance=f("4 mm"))
    ring = drawn_on(b, datum(floor), "rectangle", (10, 8), (30, 18))
    b.step("extrude", "Pocket", profile=b.profile(ring, 0), depth=f("30 mm"), result="cut")
    d.begin(b.part)
    d.keys("l", "a")
    panel = page.get_by_test_id("moves")
    expect(panel.get_by_role("button", name="CSV")).to_be_visible(timeout=60_000)
    d.choose_in(panel.get_by_label("figure"), "Base: volume")
    panel.locator("[data-moves=floor_distance]").get_by_role("button", name="floor_distance", exact=True).click()
    expect(page.get_by_test_id("moves-what")).to_contain_text("Base: volume")
    expect(page.get_by_test_id("moves-what")).to_contain_text("200 mm³")
    panel.get_by_role("group", name="by which dimensions").get_by_role("button", name="outline_width").click()
    panel.get_by_label("wish").click()
    page.keyboard.type("9000")
    page.keyboard.press("Enter")
    aimed = page.get_by_test_id("aimed")
    expect(aimed).to_contain_text("gives 9000 mm³", timeout=60_000)
    aimed.get_by_role("button", name="See it").click()
    expect(page.get_by_test_id("tried")).to_contain_text("8800 → 9000")
    page.keyboard.press("Escape")
    aimed.get_by_role("button", name="Take it").click()
    d.settled()
    assert d.volume() == pytest.approx(9000, rel=1e-7)
    panel.get_by_role("button", name="Build 2,000 sets").click()
    expect(page.get_by_test_id("sampled")).to_contain_text("sets: 99.73 % lie from", timeout=60_000)
    panel.get_by_role("button", name="Cancel").last.click()
    expect(page.get_by_test_id("sampled")).to_contain_text("Cancelled")
    panel.locator("[data-moves=base_depth]").get_by_role("button", name="Play").click()
    expect(page.get_by_test_id("tried")).to_contain_text("base_depth =")
    page.keyboard.press("Escape")
    expect(page.get_by_test_id("tried")).to_have_count(0)


def test_what_deleting_would_do_and_what_is_typed_in_the_ledger_are_seen_first(designer: Designer) -> None:
    d, page = designer, designer.page
    d.begin(pocket().part)
    before = d.volume()
    d.menu("Base", "Delete")
    dialog = page.get_by_test_id("asked")
    dialog.get_by_role("button", name="See it").click()
    card = page.get_by_test_id("tried")
    expect(card).to_contain_text("Delete")
    card.get_by_role("button", name="Back to the question").click()
    expect(dialog).to_be_visible()
    dialog.get_by_role("button", name="Leave it").click()
    assert d.volume() == before
    d.keys("Escape")
    page.get_by_role("button", name="Ledger").click()
    page.get_by_test_id("ledger").get_by_role("button", name="10 mm").first.click()
    page.keyboard.press("Control+a")
    page.keyboard.type("13 mm")
    page.get_by_test_id("ledger").get_by_role("button", name="See it").click()
    expect(card).to_contain_text("9200 → 12200")
    # What was typed is still in hand.
    page.keyboard.press("Enter")
    d.settled()
    expect(card).to_have_count(0)
    assert d.volume() == pytest.approx(12200)


def test_a_face_is_pulled_and_the_dimension_that_moves_it_follows(designer: Designer) -> None:
    d, page = designer, designer.page
    b = pocket()
    b.do(do="add_tag", tag="more", formula="4 mm")
    b.do(do="set_formula", tag="base_depth", formula="6 mm + more")
    d.begin(b.part)
    d.pick_flag("XY")
    d.keys("r", "m")
    card = page.get_by_test_id("pull")
    expect(card).to_contain_text("Pick a flat face")
    expect(card.get_by_role("alert")).to_contain_text("is no flat face of a body")
    d.pick(3, 3, 10)
    place = card.get_by_label("place of the face")
    expect(place).to_have_value("10", timeout=60_000)
    expect(card).to_contain_text("by more")
    place.click()
    page.keyboard.press("Control+a")
    page.keyboard.type("high")
    page.keyboard.press("Enter")
    expect(page.get_by_test_id("note").last).to_contain_text("“high” is no place")
    box = page.get_by_test_id("pull-handle").bounding_box()
    assert box is not None
    x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x, y - 40, steps=5)
    page.mouse.up()
    expect(card).to_contain_text("more = ")
    pulled = float(place.input_value())
    assert pulled > 11
    place.click()
    page.keyboard.press("Control+a")
    page.keyboard.type("-3")
    page.keyboard.press("Enter")
    expect(card.get_by_role("alert")).to_be_visible()
    expect(card.get_by_role("button", name="Take it")).to_have_count(0)
    page.keyboard.press("Control+a")
    page.keyboard.type("17.5")
    page.keyboard.press("Enter")
    expect(card).to_contain_text("more = 11.5 mm")
    card.get_by_role("button", name="Take it").click()
    d.settled()
    expect(card).to_have_count(0)
    assert d.volume() == pytest.approx(17500 - 800)
    # Picked first: it is taken up at once.
    d.keys("Escape")
    d.pick(3, 3, 17.5)
    d.keys("r", "m")
    expect(card.get_by_label("place of the face")).to_have_value("17.5", timeout=60_000)
    # From the field, too, Escape ends it, and keys are keys again.
    card.get_by_label("place of the face").click()
    d.keys("Escape")
    expect(card).to_have_count(0)
    d.keys("l", "y")
    expect(page.get_by_test_id("family")).to_be_visible()
    # A step that is begun puts a pull away: it is made on the part as it is.
    d.keys("Escape", "r", "m")
    expect(card).to_be_visible()
    d.keys("d", "p")
    expect(card).to_have_count(0)


def test_a_face_that_goes_along_a_curve_comes_to_where_it_is_to_be(designer: Designer) -> None:
    """The height is the square of a length by 10 mm: pulled to 14.4 the length is 12, and not what the slope at 10 gives."""
    d, page = designer, designer.page
    b = plate()
    b.do(do="add_tag", tag="spread", formula="10 mm")
    b.do(do="set_formula", tag="base_depth", formula="spread * spread / 10 mm")
    d.begin(b.part)
    d.pick(3, 3, 10)
    d.keys("r", "m")
    card = page.get_by_test_id("pull")
    expect(card.get_by_label("place of the face")).to_have_value("10", timeout=60_000)
    typed(d, "place of the face", "14.4")
    expect(card).to_contain_text("spread = 12 mm")
    card.get_by_role("button", name="Take it").click()
    d.settled()
    assert d.volume() == pytest.approx(14400, rel=1e-7)


def test_the_class_of_general_tolerances_is_chosen_and_a_formula_has_a_share_of_its_own(designer: Designer) -> None:
    d, page = designer, designer.page
    b = plate()
    b.do(do="set_formula", tag="outline_height", formula="outline_width / 2")
    b.do(do="set_remark", tag="outline_height", tolerance="±0.1")
    d.begin(b.part)
    d.keys("l", "o")
    moves = page.get_by_test_id("moves")
    expect(moves.get_by_test_id("stack")).to_be_visible(timeout=60_000)
    expect(moves).to_contain_text("±0.1, a formula")
    expect(moves).to_contain_text("ISO 2768-m")
    moves.get_by_role("button", name="ISO 2768-m").click()
    d.choose_in(page.get_by_label("general tolerances"), "ISO 2768-c, coarse")
    d.settled()
    moves.get_by_role("button", name="Run again").click()
    expect(moves).to_contain_text("±0.8 ISO 2768-c", timeout=60_000)


def test_what_moves_a_picked_face_is_told_by_its_name(designer: Designer) -> None:
    d, page = designer, designer.page
    d.begin(plate().part)
    d.pick(3, 3, 10)
    d.keys("l", "a")
    panel = page.get_by_test_id("moves")
    expect(panel.get_by_role("button", name="CSV")).to_be_visible(timeout=60_000)
    d.choose_in(panel.get_by_label("figure"), "top face of Base, 40 × 25: from XY")
    expect(page.get_by_test_id("figure-now")).to_have_text("10 mm")
    expect(panel.locator("[data-moves]")).to_have_count(1)
    expect(panel.locator("[data-moves=base_depth]")).to_contain_text("1 mm")
    panel.get_by_role("button", name="Tell least walls too").click()
    expect(panel.get_by_label("figure").locator("option", has_text="least wall")).to_be_attached(timeout=60_000)
    expect(panel.get_by_role("button", name="CSV")).to_be_visible(timeout=60_000)
    d.choose_in(panel.get_by_label("figure"), "Base: least wall")
    expect(page.get_by_test_id("figure-now")).to_have_text("10 mm", timeout=60_000)
    panel.get_by_label("wish").click()
    page.keyboard.type("7")
    page.keyboard.press("Enter")
    expect(page.get_by_test_id("aimed")).to_contain_text("base_depth = 7 mm", timeout=60_000)
