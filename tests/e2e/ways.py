"""Every way into every step: what is picked, in which order, what is typed, and which step must come of it.

By mouse and keystrokes only. The oracle is the step itself: all picks in their fields, the typed figure in the
number that is asked for first, and the same step whichever way it was come by.
"""

from __future__ import annotations

import json
import re
from dataclasses import dataclass
from functools import partial
from typing import Any

from playwright.sync_api import expect

from tests.building import axis, drawn_on, f
from tests.core.test_rib import line_on, plane_at
from tests.e2e.designer import Designer
from tests.samples import XY
from wendal.core.route import Part
from wendal.demo.builder import Builder

__all__ = ["PARTS", "ROWS", "WAYS", "Row", "alike", "document", "go", "wrong"]

# Pick first or ask first; by its key, the kit, the list of actions or an offer; typed before the picks or after.
WAYS = ["key", "kit", "find", "offer", "ask", "ask by kit", "ask by find", "ask and type"]


@dataclass(frozen=True)
class Row:
    """A step: its key and title, the picks by the fields they belong in, the number that is asked for first
    and what is typed into it, and the way in which it is made where there are several.

    A pick is a place of the stage (mm) and what is meant there, or the name of a body or a step in the lists;
    picked first, a body is meant by the place of one of its faces, a step by its mark on the route card.
    """

    part: str
    key: str
    title: str
    picks: tuple[tuple[str, Any], ...]
    number: str = ""
    text: str = ""
    how: str = ""
    offered: str = ""  # as which it is offered, where that is not its title

    @property
    def name(self) -> str:
        """What it is called in what is told of it."""
        return f"{self.title}{' ' + self.how if self.how else ''}"

    @property
    def ways(self) -> list[str]:
        """The ways into it: what is picked in a list is not offered for."""
        return [w for w in WAYS if w != "offer" or not any(isinstance(what, str) for _, what in self.picks)]


def solid() -> Part:
    """A plate with a pocket and a pin on it, a plane across it, an axis and two points beside it."""
    b = Builder("Solid")
    outline = b.step("sketch", "Outline", on=XY)
    b.draw(outline, "rectangle", (0, 0), (40, 25), on="origin")
    b.step("extrude", "Block", profile=b.profile(outline, 0), depth=f("10 mm"))
    top = {"of": "face", "body": "s2", "names": ["s2/end/r1"]}
    disc = b.step("sketch", "Disc", on=top)
    b.draw(disc, "circle", (12, 14), (17, 14))
    b.step("extrude", "Pocket", profile=b.profile(disc, 0), depth=f("3 mm"), extent="into", result="cut")
    pin = b.step("sketch", "Pin outline", on=top)
    b.draw(pin, "circle", (30, 8), (34, 8))
    b.step("extrude", "Pin", profile=b.profile(pin, 0), depth=f("9 mm"), result="add", bodies=[{"of": "body", "body": "s2"}])
    b.step("plane", "Across", how="offset", first=axis("YZ"), distance=f("22 mm"))
    b.step("plane", "Beyond", how="offset", first=axis("YZ"), distance=f("44 mm"))
    return b.part


def drawn() -> Part:
    """Sketches: two outlines over one another, one with a line beside it, and a path with a ring at its start."""
    b = Builder("Drawn")
    drawn_on(b, XY, "rectangle", (0, 0), (20, 14))
    drawn_on(b, plane_at(b, "XY", "18 mm"), "rectangle", (2, 2), (18, 12))
    drawn_on(b, XY, "rectangle", (40, 0), (52, 10))
    line_on(b, XY, (34, -2), (34, 12))
    line_on(b, XY, (70, 0), (70, 30))
    drawn_on(b, axis("ZX"), "circle", (70, 0), (76, 0))
    return b.part


def several() -> Part:
    """Two blocks that overlap."""
    b = Builder("Several")
    for i, name in enumerate(("Left", "Right")):
        outline = b.step("sketch", f"Outline {name}", on=XY)
        b.draw(outline, "rectangle", (20.0 * i, 6.0 * i), (20.0 * i + 30, 6.0 * i + 12))
        b.step("extrude", name, profile=b.profile(outline, 0), depth=f(f"{10 + 4 * i} mm"))
    return b.part


def sheet() -> Part:
    """An open sheet along an angle."""
    b = Builder("Sheet")
    lines = line_on(b, XY, (20, 0), (0, 0), (0, 20))
    b.step("extrude", "Angle", profile=[{**lines[0], "key": "r1"}], wall="sheet", depth=f("15 mm"))
    return b.part


PARTS = {"solid": solid, "drawn": drawn, "several": several, "sheet": sheet}

# A face by which a body is picked first; the only one there is is taken without.
FACES: dict[str, Any] = {
    "body Block": None,
    "body Left": (10.0, 0.0, 5.0, "side at −Y"),
    "body Right": (50.0, 12.0, 7.0, "side at +X"),
    "body Angle": (10.0, 0.0, 8.0, "flat face"),
}
EDGE, FAR_EDGE, UPRIGHT = (5.0, 0.0, 10.0, "edge"), (40.0, 20.0, 10.0, "edge"), (40.0, 0.0, 5.0, "edge")
TOP, FRONT, SIDE = (36.0, 21.0, 10.0, "top face"), (6.0, 0.0, 4.0, "side at −Y"), (40.0, 18.0, 5.0, "side at +X")
RIM, PIN = (12.0, 19.0, 10.0, "circular edge"), (32.5, 8 - 3.1225, 15.0, "round face")
CORNERS = [(40.0, 0.0, 10.0, "corner"), (0.0, 0.0, 10.0, "corner"), (40.0, 25.0, 10.0, "corner")]
S = partial(Row, "solid")
D = partial(Row, "drawn")
M = partial(Row, "several")
H = partial(Row, "sheet")
first, second, third = (lambda p: ("first", p)), (lambda p: ("second", p)), (lambda p: ("third", p))

ROWS = [
    S("b f", "Fillet", (("edges", EDGE),), "radius", "1.5 mm"),
    S("b f", "Fillet", (("edges", EDGE), ("edges", UPRIGHT)), "radius", "1.5 mm"),
    S("b c", "Chamfer", (("edges", FAR_EDGE),), "leg", "1.25 mm"),
    S("b d", "Draft", (("faces", SIDE), ("plane", TOP)), "angle", "4 deg"),
    S("b s", "Shell", (("openings", (32.0, 9.0, 19.0, "top face")),), "thickness", "1.5 mm"),
    S("b h", "Hole", (("at", (30.0, 12.0, 19.0, "circular edge")),), "diameter", "3.5 mm"),
    S("b o", "Offset faces", (("faces", SIDE),), "distance", "2.5 mm"),
    S("b y", "Move faces", (("faces", SIDE),), "x", "2.5 mm"),
    S("b a", "Copy faces", (("faces", TOP),)),
    S("b x", "Remove faces", (("faces", PIN), ("faces", (30.0, 8.0, 19.0, "top face")))),
    S("b k", "Split", (("body", "body Block"), ("by", "step Across"))),
    S("b v", "Move body", (("body", "body Block"),), "x", "12 mm"),
    S("b p", "Pattern", (("seeds", "step Pocket"), ("along", EDGE)), "count", "2"),
    S("b m", "Mirror", (("seeds", "step Pin"), ("about", "step Across"))),
    S("b b", "Replace face", (("face", SIDE), ("target", "step Beyond"))),
    S("k n", "New sketch", (("on", TOP),)),
    D("b e", "Extrude", (("profile", (10.0, 7.0, 0.0, "region")),), "depth", "6.5 mm"),
    D("b r", "Revolve", (("profile", (46.0, 5.0, 0.0, "region")), ("axis", (34.0, 5.0, 0.0, "vertical line")))),
    D("b l", "Loft", (("profile", (10.0, 7.0, 0.0, "region")), ("profile", (16.0, 10.0, 18.0, "region")))),
    D("b w", "Sweep", (("profile", (74.0, 0.0, 2.0, "region")), ("path", (70.0, 20.0, 0.0, "vertical line")))),
    D("b u", "Fill", (("profile", (46.0, 5.0, 0.0, "region")),)),
    M("b j", "Combine", (("body", "body Left"), ("tools", "body Right"))),
    H("b t", "Thicken", (("sheet", "body Angle"),), "thickness", "1.5 mm"),
    H("b q", "Extend sheet", (("edges", (10.0, 0.0, 15.0, "edge")),), "distance", "4 mm"),
    S("d p", "Plane", (first(TOP),), "distance", "12.5 mm", "offset", "Plane at a distance"),
    S("d p", "Plane", (first(TOP), second((32.0, 9.0, 19.0, "top face"))), "", "", "midway"),
    S("d p", "Plane", (first(EDGE), second(TOP)), "angle", "25 deg", "angle", "Plane through a line, at an angle"),
    S("d p", "Plane", tuple((n, c) for n, c in zip(("first", "second", "third"), CORNERS, strict=True)), "", "", "points", "Plane through three points"),
    S("d p", "Plane", (first(CORNERS[2]), second(FRONT)), "", "", "parallel", "Plane through a point, parallel"),
    S("d p", "Plane", (first(PIN), second(SIDE)), "angle", "20 deg", "touch_angle", "Plane touching a round face, at an angle"),
    S("d p", "Plane", (first(EDGE),), "share", "10 %", "curve_share", "Plane square to a curve, at a share"),
    S("d p", "Plane", (first(EDGE),), "distance", "11 mm", "curve_length", "Plane square to a curve, at a length"),
    S("d a", "Axis", (first(PIN),), "", "", "of_round", "Axis of a round face"),
    S("d a", "Axis", (first(EDGE),), "", "", "along", "Axis along a line"),
    S("d a", "Axis", (first(TOP), second(SIDE)), "", "", "planes", "Axis where two planes meet"),
    S("d a", "Axis", (first(CORNERS[0]), second(CORNERS[1])), "", "", "points", "Axis through two points"),
    S("d a", "Axis", (first(TOP), second(EDGE), third(FAR_EDGE)), "distance", "7 mm", "spot", "at a place from two edges"),
    S("d o", "Point", (first(EDGE),), "count", "5", "spread", "Point several along"),
    S("d o", "Point", (first(EDGE),), "share", "15 %", "curve_share", "Point along a curve"),
    S("d o", "Point", (first(RIM),), "", "", "centre", "Point at the centre"),
    S("d o", "Point", (first(TOP), second(EDGE), third(FAR_EDGE)), "distance", "7 mm", "spot", "by distances from two edges"),
    S("d s", "Coordinate system", (first(TOP),), "", "", "on_plane", "System on a plane"),
    S("d s", "Coordinate system", tuple((n, c) for n, c in zip(("first", "second", "third"), CORNERS, strict=True)), "", "", "points", "System by three points"),
]


def document(d: Designer) -> dict[str, Any]:
    """The part as it is kept."""
    part = d.page.url.split("/")[-1]
    return d.page.request.get(f"{d.url}/api/parts/{part}/file.json").json()


def go(d: Designer, row: Row, way: str) -> dict[str, Any] | str:
    """Make a row's step by a way and undo it; return the step without its id and name, or why there is none."""
    before = len(document(d)["steps"])
    d.keys("Escape", "Escape", "Escape")
    d.quiet()
    asks = way.startswith("ask")
    if not asks:
        _pick_all(d, row, asks)
        d.quiet()
    if way == "offer":
        offers = d.page.get_by_test_id("offers").get_by_role("button").filter(has_text=re.compile(rf"{row.key}\s*$"))
        wanted = offers.filter(has_text=row.offered) if row.offered else offers
        if not wanted.count():
            return f"not offered: {d.page.get_by_test_id('offers').get_by_role('button').all_inner_texts()}"
        wanted.first.click()
    elif way.endswith("kit"):
        drawer = {"b": "Build", "d": "Datum", "k": "Sketch"}[row.key[0]]
        d.page.get_by_label("Kit").get_by_role("button", name=drawer).click()
        d.page.get_by_test_id("drawer").get_by_role("button").filter(has_text=re.compile(rf"{row.key}\s*$")).first.click()
    elif way.endswith("find"):
        d.keys("Control+k")
        d.page.keyboard.type(row.title.lower())
        expect(d.page.get_by_role("option").first).to_contain_text(row.title)
        d.keys("Enter")
    else:
        d.keys(*row.key.split())
    typed = False
    if way == "ask and type" and row.text and (not row.how or _first_way(d, row)):
        d.page.keyboard.type(row.text)
        typed = True
    if asks:
        _pick_all(d, row, asks)
    if row.how:
        d.take_way(row.how)
    if row.text and not typed:
        d.page.keyboard.type(row.text)
    if row.key == "k n":
        d.quiet()
    d.quiet()
    state = d.page.get_by_test_id("editor-state")
    try:
        expect(state).to_contain_text("Complete", timeout=8_000)
    except AssertionError:
        said = d.editor.inner_text().replace("\n", " ") if d.editor.count() else "no step is open"
        d.keys("Escape", "Escape")
        d.quiet()
        return f"not complete: {said}"
    d.keys("Enter")
    expect(d.editor).to_have_count(0)
    d.answered()
    d.quiet()
    if d.page.get_by_test_id("board").count():
        d.keys("Escape", "k", "q")
    d.settled()
    steps = document(d)["steps"]
    if len(steps) != before + 1:
        return f"{len(steps) - before} steps were made"
    made = steps[-1]
    d.keys("Control+z")
    d.settled()
    assert len(document(d)["steps"]) == before, "undo did not take it back"
    return {k: v for k, v in made.items() if k not in ("id", "name", "drawing")}


def _first_way(d: Designer, row: Row) -> bool:
    """Whether the step asks for this number before anything is picked."""
    return bool(d.editor.get_by_label(row.number, exact=True).count())


def _pick_all(d: Designer, row: Row, asks: bool) -> None:
    for i, (_, what) in enumerate(row.picks):
        add = not asks and i > 0
        if isinstance(what, str) and what in FACES and not asks:
            if FACES[what]:
                d.pick(*FACES[what][:3], more=add, thing=FACES[what][3])
        elif isinstance(what, str):
            kind, name = what.split(" ", 1)
            row = d.step(name)
            if not asks:
                row.get_by_label("show what").click()
                continue
            at = (
                d.page.get_by_test_id("bodies").get_by_role("button", name=name, exact=True)
                if kind == "body"
                else row.get_by_role("button", name=name, exact=True)
            )
            at.first.click()
        else:
            d.pick(*what[:3], more=add, thing=what[3])
        d.quiet()


def wrong(row: Row, made: dict[str, Any] | str) -> str:
    """Why what was made is not what was meant; "" where it is."""
    if isinstance(made, str):
        return made
    if row.how and made["how"] != row.how:
        return f"made as {made['how']}"
    if row.number and made[row.number]["formula"] != row.text:
        return f"{row.number} is {made[row.number]['formula']}"
    wanted: dict[str, int] = {}
    for field, _ in row.picks:
        wanted[field] = wanted.get(field, 0) + 1
    for field, count in wanted.items():
        held = made.get(field)
        have = len(held) if isinstance(held, list) else int(held is not None)
        if have != count:
            return f"{field} holds {have} of {count}"
    return ""


def alike(made: dict[str, Any]) -> str:
    """A step without what tells nothing: where on a thing it was clicked."""

    def bare(value: Any) -> Any:
        if isinstance(value, dict):
            return {k: bare(v) for k, v in value.items() if k not in ("near", "inside")}
        return [bare(v) for v in value] if isinstance(value, list) else value

    return json.dumps(bare(made), sort_keys=True)
