"""The handbook: every page opens, and what a page says to do is done as it says."""

from __future__ import annotations

import re
from collections.abc import Callable

import pytest
from playwright.sync_api import expect

from tests.e2e.designer import Designer
from wendal.api.handbook import PAGES, handbook
from wendal.core.steps import kinds

TRIED = {path.stem: found[1] for path in sorted(PAGES.glob("*.md")) if (found := re.search(r"```try\n(.*?)```", path.read_text(), re.S))}


def places(text: str) -> list[tuple[float, ...]]:
    return [tuple(float(v) for v in p.split(",")) for p in text.split() if "," in p]


def pair(text: str) -> tuple[str, str]:
    label, _, value = text.partition(" = ")
    return label, value


def draw(d: Designer, rest: str) -> None:
    values = dict(re.findall(r"(\w+)=([^;]+)", rest))
    d.draw(rest[0], *places(re.sub(r"\w+=.*", "", rest)), **{k: v.strip() for k, v in values.items()})


def pick(d: Designer, rest: str, more: bool = False) -> None:
    place, _, thing = rest.partition(" ")
    d.pick(*places(place)[0], thing=thing, more=more)


def in_ledger(d: Designer, rest: str) -> None:
    d.set_formula(*pair(rest))


def about_volume(d: Designer, rest: str) -> None:
    d.settled()
    assert d.volume() == pytest.approx(float(rest), abs=0.01)


VERBS: dict[str, Callable[[Designer, str], object]] = {
    "flag": lambda d, rest: d.pick_flag(rest),
    "keys": lambda d, rest: d.keys(*rest.split()),
    "type": lambda d, rest: d.page.keyboard.type(rest),
    "enter": lambda d, rest: d.enter(*pair(rest)),
    "choose": lambda d, rest: d.choose(*pair(rest)),
    "accept": lambda d, _: d.accept(),
    "board": lambda d, _: d.board_ready(),
    "draw": draw,
    "close": lambda d, _: d.close_sketch(),
    "pick": pick,
    "more": lambda d, rest: pick(d, rest, more=True),
    "step": lambda d, rest: d.step(rest).get_by_role("button", name=rest, exact=True).click(),
    "freedoms": lambda d, rest: expect(d.page.get_by_test_id("freedoms")).to_contain_text(rest),
    "button": lambda d, rest: d.page.get_by_role("button", name=rest).click(),
    "says": lambda d, rest: d.says(rest),
    "ledger": in_ledger,
    "card": lambda d, rest: expect(d.page.get_by_test_id(rest.split()[0])).to_contain_text(rest.partition(" ")[2]),
    "volume": about_volume,
}


@pytest.mark.parametrize("task", TRIED)
def test_what_a_page_says_is_done(designer: Designer, task: str) -> None:
    d = designer
    d.new_part()
    for line in TRIED[task].splitlines():
        verb, _, rest = line.partition(" ")
        VERBS[verb](d, rest)


def test_keys_on_a_page_are_keys_and_what_is_tried_is_what_is_said() -> None:
    known = {k.key for k in kinds().values()}
    for path in sorted(PAGES.glob("*.md")):
        text = path.read_text()
        said = set(re.findall(r"`([dkcblr] \S)`", text))
        assert {k for k in said if k[0] in "b"} <= known, path.name
        pressed = set(re.findall(r"^keys ([dkbl] \S)$", text, re.M)) - {"l f"}
        body = re.sub(r"```try.*```", "", text, flags=re.S)
        new = {k for k in pressed if f"`{k}`" not in body}
        assert new <= {"k n", "b e", "k z"}, f"{path.name} tries {new} without saying so"


def test_every_page_is_made_into_html_with_pictures_that_are_there() -> None:
    pages = handbook()
    assert len(pages) == len(list(PAGES.glob("*.md")))
    for page in pages:
        assert page.title
        assert "```" not in page.html
        for name in re.findall(r'src="/api/handbook/pictures/([^"]+)"', page.html):
            assert (PAGES.parent / "screenshots" / name).is_file(), name


def test_the_handbook_is_opened_searched_and_left_with_what_is_in_hand(designer: Designer) -> None:
    d, page = designer, designer.page
    d.new_part()
    d.pick_flag("XY")
    d.keys("d", "p")
    d.page.keyboard.type("12 mm")
    page.get_by_role("button", name="Find an action").click()
    page.keyboard.type("handbook")
    d.keys("Enter")
    book = page.get_by_test_id("handbook")
    expect(book.get_by_test_id("handbook-page")).to_contain_text("How Wendal thinks")
    book.get_by_label("Look through the handbook").click()
    page.keyboard.type("circle cos")
    expect(book.get_by_role("navigation").get_by_role("listitem")).to_have_count(1)
    d.keys("Enter")
    expect(book.get_by_test_id("handbook-page")).to_contain_text("Formulas")
    expect(book.get_by_test_id("handbook-page")).to_contain_text("sqrt")
    d.keys("Escape")
    expect(book).to_have_count(0)
    expect(d.editor.get_by_label("distance", exact=True)).to_have_value("12 mm")
    d.keys("Escape")
    d.keys("?")
    expect(page.get_by_test_id("keys-here")).to_be_visible()
    d.keys("?")
    expect(book.get_by_test_id("handbook-page")).to_contain_text("How Wendal thinks")
    d.keys("Escape")
    d.parts()
    page.get_by_role("button", name="Handbook").click()
    book.get_by_role("button", name="Keys").click()
    expect(book.get_by_test_id("handbook-page")).to_contain_text("b h")
