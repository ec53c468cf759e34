"""A whole page: border, views with what stands on them, in mm from its lower left corner."""

from __future__ import annotations

from dataclasses import dataclass, field, replace

from .. import kernel
from ..errors import CommandRefused, WendalError
from ..lettering.letters import unknown_signs
from ..quantity import Kind
from ..route import Evaluation, Part
from ..route.pages import Dimension, Page, View
from .arranging import arranged, fits
from .brought import worth_of
from .dimensions import Measured, Seeing, measured
from .ink import FONT, XY, Blot, Box, Ink, Item, Text, moved
from .marks import hole_labels, marked, tabled
from .placing import place_all
from .room import HEIGHT
from .sheet import Titles, bordered
from .titles import titles_of
from .views import bodies_of, prepare
from .views_inked import Inked, inked, letters_of
from .words import set_words

__all__ = ["Sheet", "dimension_of", "drawn_page", "laid_out", "measured_in", "page_of"]


@dataclass(slots=True)
class Sheet:
    """A page in ink. items : what stands on it. places : where the middle of each view lies; scales : of
    each. measured : its dimensions. fits : whether all stands in the border and nothing on another."""

    page: Page
    paper: XY
    titles: Titles
    items: list[Item] = field(default_factory=list)
    places: dict[str, XY] = field(default_factory=dict)
    boxes: dict[str, Box] = field(default_factory=dict)
    measured: list[Measured] = field(default_factory=list)
    fits: bool = True


SAME = 1e-5  # mm or rad: a number and what is measured are the same
_NONE: Box = (-20.0, -10.0, 20.0, 10.0)  # of a view that can not be drawn


@dataclass(slots=True)
class _Laid:
    """A view with its dimensions and marks, from its middle. box : by which it is placed; whole : of all."""

    view: View
    items: list[Item]
    box: Box
    whole: Box
    measured: list[Measured]


def drawn_page(
    part: Part, evaluation: Evaluation, page: Page, titles: Titles | None = None, drafts: bool = False
) -> Sheet:
    """Draw a page; a view that can not be drawn says why in its place. Raises CommandRefused where there is
    no body."""
    bodies_of(part, evaluation)
    prepare(part, evaluation, page, drafts)
    laid = {v.id: _laid(part, evaluation, page, v) for v in page.views}
    boxes = {i: held.box for i, held in laid.items()}
    places = arranged(page, boxes)
    sheet = Sheet(page, page.paper, titles or titles_of(part, evaluation, page), places=places, boxes=boxes)
    sheet.fits = fits(page, {i: held.whole for i, held in laid.items()}, places)
    sheet.items.append(bordered(page.paper, sheet.titles))
    for id_, held in laid.items():
        sheet.items += [_shifted(i, places[id_]) for i in held.items]
        sheet.measured += held.measured
    rows = {(r.step, r.place): r.tag for r in part.rows()}
    driven = {d.id: rows.get((d.step, d.place), "") for d in page.dimensions if d.step}
    for item in sheet.items:
        item.drives = driven.get(item.id, "")
    for mark in page.marks:
        if not mark.view:
            sheet.items.append(tabled(part, evaluation, page, mark))
    for item in sheet.items:
        lacking = unknown_signs("".join(t.words for t in item.texts), FONT)
        if lacking and not item.trouble:
            signs = ", ".join(lacking)
            item.trouble = f"The font of drawings has no sign for {signs}. Write it in other words."
    return sheet


def laid_out(part: Part, evaluation: Evaluation, page: Page) -> tuple[dict[str, Box], dict[str, XY]]:
    """Return the boxes of all views with what stands round them, and their places."""
    prepare(part, evaluation, page)
    boxes = {v.id: _laid(part, evaluation, page, v).box for v in page.views}
    return boxes, arranged(page, boxes)


def _laid(part: Part, evaluation: Evaluation, page: Page, view: View) -> _Laid:
    try:
        with kernel.refused_as(lambda: CommandRefused("The geometry kernel can not draw this view.")):
            inks = inked(part, evaluation, page, view)
    except WendalError as error:
        item = Item(view.id, "view", trouble=error.message)
        return _Laid(view, [item], _NONE, _NONE, [])
    children = [v for v in page.views if v.parent == view.id and v.way in ("section", "detail")]
    letters_of(inks, children, page)
    found = measured_in(part, evaluation, page, inks)
    if inks.drawn.given_up:
        inks.item.trouble = (
            "The exact lines of this view were not found in time. It is a draft: all edges, none hidden."
        )
    items = [inks.item]
    if any(m.kind == "holes" for m in page.marks) and view.way not in ("corner", "turned", "detail"):
        items.append(hole_labels(part, evaluation, inks))
    items += place_all(found, inks.room, inks.k)
    for mark in page.marks:
        if mark.view == view.id:
            items.append(marked(part, evaluation, inks, mark))
    # What was put somewhere by hand moves no view.
    by_hand = {d.id for d in page.dimensions if d.put is not None} | {m.id for m in page.marks}
    box = _round(inks.box, [i for i in items if i.id not in by_hand])
    whole = _round(box, items)
    items += _lost(found, box)
    return _Laid(view, items, box, whole, found)


def _round(box: Box, items: list[Item]) -> Box:
    for b in (i.box() for i in items if i.inks or i.texts):
        box = (min(box[0], b[0]), min(box[1], b[1]), max(box[2], b[2]), max(box[3], b[3]))
    return box


def _lost(found: list[Measured], box: Box) -> list[Item]:
    """Return what is said on the page of dimensions whose geometry is gone, one under the other."""
    items = []
    for n, m in enumerate(m for m in found if m.state == "lost"):
        item = Item(m.of.id, "dimension", trouble=m.trouble, place=(box[0], box[1] - 6.0 - 5.0 * n))
        set_words(item, f"{m.of.id}: lost", item.place, HEIGHT, pen="lost")
        items.append(item)
    return items


def measured_in(part: Part, evaluation: Evaluation, page: Page, inks: Inked) -> list[Measured]:
    """Measure the dimensions of a view."""
    seeing = Seeing(part, evaluation, bodies_of(part, evaluation), inks.drawn)
    found = [
        _as_its_number(part, evaluation, measured(seeing, d))
        for d in page.dimensions
        if d.view == inks.view.id
    ]
    if inks.view.way != "detail":
        return found
    (x, y) = inks.view.middle
    return [replace(m, feet=tuple((u - x, v - y) for u, v in m.feet)) for m in found]


def _as_its_number(part: Part, evaluation: Evaluation, m: Measured) -> Measured:
    """Return a dimension as it is; one that tells a number of the part and measures something else is
    held."""
    tag = (
        next((r.tag for r in part.rows() if (r.step, r.place) == (m.of.step, m.of.place)), "")
        if m.of.step
        else ""
    )
    if not tag or m.state != "sound":
        return m
    worth = worth_of(part, evaluation, tag, Kind.ANGLE if m.shape == "angle" else Kind.LENGTH)
    if worth is None or abs(worth - m.value) <= SAME:
        return m
    return replace(m, state="held", trouble=f"It measures {m.said} now, and {tag} is something else.")


def _shifted(item: Item, by: XY) -> Item:
    def at(p: XY) -> XY:
        return p[0] + by[0], p[1] + by[1]

    return replace(
        item,
        inks=[Ink(moved(i.stroke, 1.0, by), i.pen, i.body, i.edge, i.face) for i in item.inks],
        texts=[Text(t.words, at(t.at), t.height, t.angle, t.pen) for t in item.texts],
        blots=[Blot(tuple(at(p) for p in b.places), b.pen) for b in item.blots],
        place=at(item.place),
        base=at(item.base),
        real=item.real and (item.real[0], tuple(at(p) for p in item.real[1])),
    )


def page_of(part: Part, page: str) -> Page:
    """Return a page by id; raises CommandRefused."""
    found = next((p for p in part.pages if p.id == page), None)
    if found is None:
        raise CommandRefused("This page is not in the drawing any more.", field="page")
    return found


def dimension_of(page: Page, dimension: str) -> Dimension | None:
    """Return a dimension by id."""
    return next((d for d in page.dimensions if d.id == dimension), None)
