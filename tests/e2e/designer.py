"""A designer at the browser: opens parts, picks, types, draws. Places are mm, turned into pixels by the page's own view."""

from __future__ import annotations

import json
import math
import re
import time
from collections.abc import Callable, Sequence
from typing import Any, TypeVar

from playwright.sync_api import Locator, Page, expect
from playwright.sync_api import TimeoutError as PlaywrightTimeout

from wendal.core.route import Part, write_part

__all__ = ["Designer"]

Flat = Sequence[float]
LONGEST = 60.0  # s that anything may take
# Two frames without a question under way: what was told with the last answer has been drawn then.
QUIET = """async () => {
    const end = performance.now() + 60_000;
    for (let calm = 0; calm < 2; ) {
        await new Promise(requestAnimationFrame);
        if (performance.now() > end) throw new Error(`still under way: ${document.body.dataset.underway}`);
        calm = Number(document.body.dataset.underway ?? 0) ? 0 : calm + 1;
    }
}"""
T = TypeVar("T")
KEYS: dict[str, str] = {}  # of the Wendals that were started, by their addresses


class Designer:
    """What a person does with Wendal, in a few verbs."""

    def __init__(self, page: Page, url: str) -> None:
        self.page, self.url = page, url
        # Listened to all along: a chooser that is waited for only when the key is pressed may open unseen before.
        page.on("filechooser", lambda chooser: None)
        if url in KEYS:  # as whoever has opened the printed address once
            name = f"wendal-{url.rpartition(':')[2]}"
            page.context.add_cookies([{"name": name, "value": KEYS[url], "url": url, "httpOnly": True, "sameSite": "Strict"}])

    # — parts —

    def parts(self) -> None:
        """Go to the list of parts."""
        self.page.goto(self.url + "/")
        self.page.wait_for_selector("text=Read a part")

    def new_part(self) -> None:
        """Make an empty part and open it."""
        self._open(self._post("/api/parts", {"name": "Part"}))

    def begin(self, part: Part) -> None:
        """Open a part that others have made: what is not tried here is not built by hand each time."""
        self._open(self._post("/api/parts/read", {"text": write_part(part)}))

    def _post(self, path: str, data: dict[str, str]) -> int:
        answer = self.page.request.post(self.url + path, data=data, headers={"Origin": self.url})
        assert answer.ok, answer.text()
        return int(answer.json()["id"])

    def _open(self, part: int) -> None:
        """Go to a part from wherever one is; from another part without loading the page anew, which takes a second."""
        address = f"{self.url}/#part/{part}"
        if self.page.url == address:
            self.page.goto("about:blank")
        self.page.goto(address)
        expect(self.page.locator(f'main[data-part="{part}"]')).to_have_count(1)  # not a handle: that would hold the page of each part
        self.settled()

    def new_part_from_the_list(self) -> None:
        """Make an empty part by the button for it."""
        self.parts()
        self.page.get_by_role("button", name="New part").click()
        self.settled()

    def open_part(self, name: str) -> None:
        """Open a part by its name."""
        rows = self.page.request.get(f"{self.url}/api/parts").json()
        self._open(next(row["id"] for row in rows if row["name"] == name))

    def settled(self) -> None:
        """Wait until everything is saved and built."""
        expect(self.page.get_by_test_id("version")).to_contain_text("saved", timeout=60_000)

    @property
    def version(self) -> int:
        """The number of the version shown."""
        found = re.search(r"v(\d+)", self.page.get_by_test_id("version").inner_text())
        assert found
        return int(found[1])

    # — keys, steps —

    def keys(self, *strokes: str) -> None:
        """Press keys one after the other, such as "d", "p"."""
        for stroke in strokes:
            self.page.keyboard.press(stroke)

    @property
    def editor(self) -> Locator:
        """The step that is being made or edited."""
        return self.page.get_by_test_id("editor")

    def type_in(self, field: Locator, text: str) -> None:
        """Click a field and type over what is in it; where it moved away from under the pointer, as a step that says more does, click it again."""
        for _ in range(5):
            field.click()
            if field.evaluate("field => field === document.activeElement"):
                break
        self.page.keyboard.press("Control+a")
        if text:
            self.page.keyboard.type(text)
        else:
            self.page.keyboard.press("Delete")

    def choose_in(self, field: Locator, words: str) -> None:
        """Turn a choice by the arrows until it reads so."""
        said = field.locator("option").all_inner_texts()
        field.focus()
        self.page.keyboard.press("Home")
        for _ in range(said.index(words)):
            self.page.keyboard.press("ArrowDown")
        expect(field.locator("option:checked")).to_have_text(words)

    def enter(self, label: str, text: str) -> None:
        """Type into a blank of the sentence."""
        self.type_in(self.editor.get_by_label(label, exact=True), text)

    def choose(self, label: str, words: str) -> None:
        """Choose in a blank of the sentence."""
        self.choose_in(self.editor.get_by_label(label, exact=True), words)

    def take_way(self, how: str) -> None:
        """Turn the way in which a step is made, by its key, once the one that fits what is picked has been asked for."""
        self.quiet()
        way = self.editor.get_by_label("way")
        if way.input_value() != how:
            self.choose_in(way, way.locator(f"option[value={how}]").inner_text())

    def says(self, words: str) -> None:
        """Wait until the step under edit says something; what never says it is told with its sentence and its choices."""
        try:
            expect(self.page.get_by_test_id("editor-state")).to_contain_text(words)
        except AssertionError as error:
            chosen = [c.input_value() for c in self.editor.get_by_role("combobox").all()]
            error.add_note(f"{self.editor.inner_text()}\nwith the choices {chosen}")
            raise

    def accept(self) -> None:
        """Accept the step once it is complete."""
        self.says("Complete")
        self.editor.get_by_role("button", name="Accept").click()
        expect(self.editor).to_have_count(0)
        if not self.page.get_by_test_id("board").count():
            self.settled()

    def step(self, name: str) -> Locator:
        """A line of the route card."""
        return self.page.locator(f'[data-testid=step][data-name="{name}"]')

    def edit(self, name: str) -> None:
        """Begin to edit a step from its menu."""
        self.menu(name, "Edit")

    def menu(self, name: str, item: str) -> None:
        """Take something from a step's menu."""
        self.page.get_by_label(f"What to do with {name}", exact=True).click()
        self.page.get_by_role("menuitem", name=item, exact=True).click()

    # — stage —

    def pick_flag(self, name: str) -> None:
        """Pick a plane by its flag."""
        self.page.get_by_test_id(f"flag-{name}").click()

    def look(self, axis: str) -> None:
        """Look along an axis, by the tripod."""
        self.page.get_by_label(f"Look along {axis}").click()
        self.quiet()

    def pixel(self, place: Sequence[float]) -> tuple[float, float]:
        """Where a place of the part (mm) is on the page."""
        stage = self.page.get_by_test_id("stage")
        view = self.at_rest(lambda: stage.get_attribute("data-view") or "")
        scale, target, (qx, qy, qz, qw) = json.loads(view)
        vx, vy, vz = (p - t for p, t in zip(place, target, strict=True))
        # Turn by the conjugate of the camera's quaternion: v + 2 w (u x v) + 2 u x (u x v).
        ux, uy, uz = -qx, -qy, -qz
        cx, cy, cz = uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx
        x = vx + 2 * (qw * cx + uy * cz - uz * cy)
        y = vy + 2 * (qw * cy + uz * cx - ux * cz)
        box = stage.bounding_box()
        assert box
        return box["x"] + box["width"] / 2 + scale * x, box["y"] + box["height"] / 2 - scale * y

    def pick(self, *place: float, more: bool = False, thing: str = "") -> None:
        """Pick what is at a place of the part (mm); of several things there, with the key for it, the one that is told by a word."""
        for _ in range(5):
            x, y = self.pixel(place)
            self.page.mouse.move(x + 1, y)
            self.page.mouse.move(x, y)
            if self.pixel(place) == (x, y):  # else the view came along with what was made, and the hand goes after it
                break
        for _ in range(8 if thing else 0):
            self.quiet()
            if self.pixel(place) != (x, y):  # it has come along since
                x, y = self.pixel(place)
                self.page.mouse.move(x, y)
                continue
            if re.search(rf"(^|\n){re.escape(thing)}|, {re.escape(thing)}", self.page.get_by_test_id("readout").inner_text()):
                break
            self.page.keyboard.press(";")
        if more:
            self.page.keyboard.down("Shift")
        self.page.mouse.click(x, y)
        if more:
            self.page.keyboard.up("Shift")

    def offer(self, name: str) -> None:
        """Take an offer for the selection."""
        offers = self.page.get_by_test_id("offers")
        wanted = offers.get_by_role("button", name=re.compile(f"^{name}")).first
        try:
            wanted.wait_for()
        except PlaywrightTimeout as error:
            raise AssertionError(f"{name} is not offered but {offers.all_inner_texts()}, over {self.page.get_by_test_id('readout').all_inner_texts()}") from error
        wanted.click()

    # — sketch —

    def on_board(self, place: Flat) -> tuple[float, float]:
        """Where a place of the open sketch (mm) is on the page."""
        a, b, c, d, e, f = self._matrix()
        box = self.page.get_by_test_id("board").bounding_box()
        assert box
        return box["x"] + a * place[0] + c * place[1] + e, box["y"] + b * place[0] + d * place[1] + f

    def _matrix(self) -> list[float]:
        group = self.page.get_by_test_id("board").locator("g[transform^=matrix]").first
        return [float(v) for v in re.findall(r"-?[\d.]+(?:e-?\d+)?", group.get_attribute("transform") or "")]

    def board_ready(self) -> None:
        """Wait until the drawing board stands still, square to the view."""
        expect(self.page.get_by_test_id("board")).to_have_attribute("aria-busy", "false")
        until = time.monotonic() + LONGEST
        while time.monotonic() < until:
            a, b, c, d = self.at_rest(self._matrix)[:4]
            if abs(a * c + b * d) < 1e-6 and abs(a * a + b * b - c * c - d * d) < 1e-6:
                return
        raise AssertionError("the drawing board does not come square to the view")

    def at_rest(self, read: Callable[[], T]) -> T:
        """Read something until it is the same twice: the view comes along with what is made."""
        until = time.monotonic() + LONGEST
        now = read()
        while time.monotonic() < until:
            self.quiet()
            before, now = now, read()
            if now == before:
                return now
        raise AssertionError(f"this does not come to rest: {now}")

    def quiet(self) -> None:
        """Wait until the page asks nothing and has drawn what it was told."""
        self.page.evaluate(QUIET)

    def frame(self) -> None:
        """Wait until the page has drawn a frame."""
        self.page.evaluate("new Promise(requestAnimationFrame)")

    def click(self, *places: Flat, quiet: bool = False, unanswered: bool = False) -> None:
        """Click places of the open sketch. quiet : with `q` held down. unanswered : before the server has answered."""
        if quiet:
            self.page.keyboard.down("q")
        for place in places:
            x, y = self.on_board(place)
            self.page.mouse.move(x + 1, y + 1)
            self.page.mouse.click(x, y)
            self.frame() if unanswered else self.quiet()
        if quiet:
            self.page.keyboard.up("q")

    def answered(self) -> None:
        """Wait until the server has taken every edit made so far."""
        expect(self.page.get_by_test_id("version")).not_to_contain_text(re.compile("saving|building"), timeout=60_000)

    def draw(self, key: str, *places: Flat, quiet: bool = False, **values: str) -> None:
        """Draw a shape with the tool of a key; typed values become dimensions."""
        self.keys("k", key)
        if not values:
            self.click(*places, quiet=quiet)
        else:
            self.click(*places[:-1], quiet=quiet)
            x, y = self.on_board(places[-1])
            self.page.mouse.move(x, y)
            for name, value in values.items():
                self.type_in(self.page.get_by_test_id("toolbar").get_by_label(name, exact=True), value)
            self.page.keyboard.press("Enter")
        self.answered()
        self.at_rest(self._matrix)
        while ": click" in self.page.get_by_test_id("readout").inner_text():
            self.keys("Escape")

    def lines(self) -> list[tuple[float, float]]:
        """The middles of all straight lines of the open sketch, mm."""
        found = []
        for curve in self.page.get_by_test_id("curve").all():
            path = re.fullmatch(r"M(\S+) (\S+)L(\S+) (\S+)", curve.get_attribute("d") or "")
            if path:
                ax, ay, bx, by = (float(v) for v in path.groups())
                found.append(((ax + bx) / 2, (ay + by) / 2))
        return found

    def line_near(self, place: Flat) -> tuple[float, float]:
        """The middle of the line whose middle is nearest to a place, mm."""
        return min(self.lines(), key=lambda m: math.dist(m, place))

    def areas(self) -> list[float]:
        """The areas of the open sketch's regions, mm² as drawn, in the order of the outlines' sizes."""
        self.quiet()
        found = []
        for region in self.page.get_by_test_id("region").all():
            total = 0.0
            for loop in re.findall(r"M([^Z]+)Z", region.get_attribute("d") or ""):
                places = [tuple(float(v) for v in p.split()) for p in loop.split("L")]
                total += sum(ax * by - bx * ay for (ax, ay), (bx, by) in zip(places, places[1:] + places[:1], strict=True)) / 2
            found.append(total)
        return sorted(found)

    def click_tool(self, *places: Flat) -> None:
        """Click places with a cutting tool, waiting for its preview before each."""
        for place in places:
            x, y = self.on_board(place)
            self.page.mouse.move(x + 2, y + 2)
            self.page.mouse.move(x, y)
            self.quiet()
            self.page.mouse.click(x, y)
            self.answered()
            self.quiet()

    def form(self, **values: str) -> None:
        """Fill in the tool in hand (labels with _ for a space) and accept it."""
        bar = self.page.get_by_test_id("toolbar")
        for label, value in values.items():
            field = bar.get_by_label(label.replace("_", " "), exact=True)
            if field.evaluate("e => e.tagName") == "SELECT":
                self.choose_in(field, value)
            else:
                self.type_in(field, value)
        bar.get_by_role("button", name="Accept").click()
        expect(bar).to_have_count(0)

    def trouble(self, words: str) -> None:
        """Wait until the drawing board says why something was refused."""
        expect(self.page.get_by_test_id("board-trouble")).to_contain_text(words)

    def drag(self, start: Flat, end: Flat, key: str = "") -> None:
        """Pull from one place of the open sketch to another, a key held down."""
        (x0, y0), (x1, y1) = self.on_board(start), self.on_board(end)
        self.page.mouse.move(x0, y0)
        if key:
            self.page.keyboard.down(key)
        self.page.mouse.down()
        for k in range(1, 9):
            self.page.mouse.move(x0 + (x1 - x0) * k / 8, y0 + (y1 - y0) * k / 8)
            self.frame()
        self.page.mouse.up()
        if key:
            self.page.keyboard.up(key)
        self.answered()
        self.quiet()

    def select(self, *places: Flat) -> None:
        """Pick sketch geometry at places, all together."""
        for i, place in enumerate(places):
            x, y = self.on_board(place)
            self.page.mouse.move(x, y)
            if i:
                self.page.keyboard.down("Shift")
            self.page.mouse.click(x, y)
            if i:
                self.page.keyboard.up("Shift")

    def constrain(self, key: str, *places: Flat) -> None:
        """Pick, then ask for a constraint by its key."""
        self.select(*places)
        self.keys("c", key)
        self.answered()
        self.quiet()

    def dimension(self, formula: str, *places: Flat) -> None:
        """Pick, ask for a dimension, and give it a formula."""
        self.select(*places)
        self.keys("c", "d")
        self.type_value(formula)

    def type_value(self, formula: str) -> None:
        """Type over the value that is being asked for, and accept it."""
        field = self.page.get_by_test_id("formula")
        expect(field).to_be_focused()
        self.page.keyboard.type(formula)
        self.page.keyboard.press("Enter")
        expect(field).to_have_count(0)

    def freedoms(self, words: str) -> None:
        """Wait until the sketch panel tells so many freedoms."""
        expect(self.page.get_by_test_id("freedoms")).to_contain_text(words)

    def close_sketch(self) -> None:
        """Leave the drawing board."""
        self.page.get_by_role("button", name="Close sketch").click()
        self.settled()

    def set_formula(self, tag: str, formula: str) -> None:
        """Change a dimension in the ledger."""
        row = self.page.locator(f"[data-tag={tag}]")
        if not row.count():
            self.page.get_by_role("button", name="Ledger").click()
        row.get_by_role("button").nth(1).click()
        self.type_value(formula)
        self.settled()

    # — figures —

    def report(self) -> dict[str, Any]:
        """The part's figures as the server tells them."""
        part = self.page.url.split("/")[-1]
        return self.page.request.get(f"{self.url}/api/parts/{part}/report").json()

    def volume(self) -> float:
        """The volume of all bodies, mm³."""
        return sum(b["volume"] for b in self.report()["bodies"])
