"""Notes, symbols and tables on a page: datum letters (ISO 5459), geometrical tolerances (ISO 1101), surface
texture (ISO 21920-1), welds and edges in words; the table of holes and that of tolerances."""

from __future__ import annotations

import math

from ..errors import CommandRefused, WendalError
from ..inspect.schedule import HoleRow, HoleSchedule, schedule
from ..kernel.types import Frame, Vec, add, dot, scaled
from ..route import Evaluation, Part
from ..route.gauging import Gauge, Thing
from ..route.pages import Mark, Page
from ..steps.hole_note import figure
from .dimensions import locus_of
from .ink import XY, Blot, Item, line, polyline, width_of
from .room import HEIGHT, Room, arrow
from .signs import GEOMETRY
from .views_inked import Inked
from .words import set_words

__all__ = ["hole_labels", "marked", "tabled"]

ROW = 6.0  # mm: of a table
CELL = 7.0  # mm: of a tolerance frame, twice the height of its letters
SMALL = 2.5  # mm a capital in tables


def marked(part: Part, evaluation: Evaluation, inks: Inked, mark: Mark) -> Item:
    """Draw a mark on a view, from its middle; one whose thing is lost stands there and says so."""
    item = Item(mark.id, "mark")
    foot: XY = (0.0, 0.0)
    if mark.thing is not None:
        gauge = Gauge(part, evaluation.site, {r.id: r.state for r in evaluation.reports})
        try:
            foot = _foot(inks.drawn.frame, gauge.thing(mark.thing))
        except WendalError as error:
            item.trouble = error.message
        item.trouble = item.trouble or gauge.doubt
        foot = (inks.k * foot[0], inks.k * foot[1])
    at = (foot[0] + mark.put[0], foot[1] + mark.put[1])
    item.place, item.base = at, foot
    _draw(item, mark, at)
    if mark.thing is not None:
        _lead(item, mark, foot, at)
    _kept_clear(item, inks.room)
    return item


def _foot(frame: Frame, t: Thing) -> XY:
    try:
        locus = locus_of(frame, t)
    except CommandRefused:
        at = t.middle or t.point or (t.edge.middle if t.edge else None)
        if at is None:
            raise
        u, v, _ = frame.local(at)
        return u, v
    if locus.tips:
        (x0, y0), (x1, y1) = locus.tips
        return (x0 + x1) / 2, (y0 + y1) / 2
    return locus.at


def _kept_clear(item: Item, room: Room) -> None:
    if item.inks or item.texts:
        room.words.append(item.box())


def _draw(item: Item, mark: Mark, at: XY) -> None:
    kind = mark.kind
    if kind == "datum":
        letter = (mark.letters or ["A"])[0]
        item.inks += _frame(at, CELL, CELL)
        set_words(item, letter, (at[0], at[1] - HEIGHT / 2), HEIGHT, share=0.5)
    elif kind == "geometry":
        _tolerance_frame(item, mark, at)
    elif kind == "texture":
        _texture(item, mark.words or "Ra 3.2", at)
    else:
        for n, words in enumerate(mark.words.splitlines() or [""]):
            set_words(item, words, (at[0], at[1] - n * HEIGHT * 1.5), HEIGHT)
    item.told = " ".join(s for s in (mark.sign, mark.value, *mark.letters, mark.words) if s)


def _frame(middle: XY, wide: float, high: float) -> list:
    x, y = middle
    w, h = wide / 2, high / 2
    return polyline([(x - w, y - h), (x + w, y - h), (x + w, y + h), (x - w, y + h)], closed=True)


def _tolerance_frame(item: Item, mark: Mark, at: XY) -> None:
    cells = [GEOMETRY.get(mark.sign, mark.sign), mark.value, *mark.letters]
    x, (y) = at[0], at[1]
    for cell in cells:
        wide = max(CELL, width_of(cell, HEIGHT) + 3.0)
        item.inks += _frame((x + wide / 2, y), wide, CELL)
        set_words(item, cell, (x + wide / 2, y - HEIGHT / 2), HEIGHT, share=0.5)
        x += wide


def _texture(item: Item, words: str, at: XY) -> None:
    """Draw the sign of a surface texture: its point at the place, its words under the line."""
    x, y = at
    tan = math.tan(math.radians(60))
    h1, h2 = 1.4 * HEIGHT, 2.8 * HEIGHT
    item.inks += polyline([(x - h1 / tan, y + h1), (x, y), (x + h2 / tan, y + h2)])
    long = width_of(words, HEIGHT) + 2.0
    item.inks.append(line((x + h2 / tan, y + h2), (x + h2 / tan + long, y + h2)))
    set_words(item, words, (x + h2 / tan + 1.0, y + h2 - HEIGHT - 1.0), HEIGHT)


def _lead(item: Item, mark: Mark, foot: XY, at: XY) -> None:
    if mark.kind == "texture" and math.dist(foot, at) < 1.0:
        return
    edge = at
    if mark.kind in ("datum", "geometry"):
        x0, y0, x1, y1 = item.box()
        edge = min(max(foot[0], x0), x1), min(max(foot[1], y0), y1)
    length = math.dist(foot, edge)
    if length < 0.5:
        return
    way = (foot[0] - edge[0]) / length, (foot[1] - edge[1]) / length
    item.inks.append(line(edge, foot))
    if mark.kind == "datum":  # a filled triangle with its base on the thing
        u, v = way
        base = [(foot[0] + s * -v * 2.0, foot[1] + s * u * 2.0) for s in (1, -1)]
        item.blots.append(Blot((*base, (foot[0] - 3.5 * u, foot[1] - 3.5 * v))))
    else:
        item.blots.append(arrow(foot, way))


# — tables —


def tabled(part: Part, evaluation: Evaluation, page: Page, mark: Mark) -> Item:
    """Draw a note or a table on the page itself; a table that can not be made says why."""
    item = Item(mark.id, "mark", place=mark.put)
    if mark.kind not in ("holes", "tolerances"):
        _draw(item, mark, mark.put)
        return item
    try:
        rows = _holes(part, evaluation) if mark.kind == "holes" else _tolerances(part, evaluation, page)
    except WendalError as error:
        item.trouble = error.message
        return item
    _table(item, rows, mark.put)
    item.told = "; ".join(" ".join(r) for r in rows[1:])
    return item


def _labelled(part: Part, evaluation: Evaluation) -> list[tuple[str, HoleRow]]:
    """Return all holes with their labels: those that are alike have one letter."""
    found = schedule(part, evaluation, HoleSchedule(order="x")).holes  # type: ignore[attr-defined]
    notes = list(dict.fromkeys(r.note for r in found))
    return [
        (f"{_letters(n)}{i}", r)
        for n, note in enumerate(notes)
        for i, r in enumerate((r for r in found if r.note == note), 1)
    ]


def _holes(part: Part, evaluation: Evaluation) -> list[list[str]]:
    """Return the table of holes in the active coordinate system."""
    inches = part.units.length == "in"
    rows = [["hole", "X", "Y", "Z", "note"]]
    told = set[str]()
    for label, r in _labelled(part, evaluation):
        rows.append([label, *(figure(v, inches) for v in r.place), "" if r.note in told else r.note])
        told.add(r.note)
    return rows


def hole_labels(part: Part, evaluation: Evaluation, inks: Inked) -> Item:
    """Return the labels of holes that a view looks into, beside them, as the table has them."""
    item, frame, k, room = Item(f"{inks.view.id}-holes", "labels"), inks.drawn.frame, inks.k, inks.room
    try:
        held = _labelled(part, evaluation)
    except CommandRefused:
        return item
    for label, r in held:
        u, v, _ = frame.local(r.at)
        axis = _direction(part, evaluation, r)
        if dot(axis, frame.normal) > -1 + 1e-6:
            continue
        width, reach = width_of(label, SMALL), k * r.diameter / 2 + 1.0
        spots = []
        for turn in (0.8, 2.4, -0.8, -2.4, 1.6, 0.0, 3.14, -1.6):
            for far in (reach, reach + 3.0, reach + 6.0):
                c, s = math.cos(turn), math.sin(turn)
                x = k * u + far * c - (width if c < -0.3 else width / 2 if abs(c) < 0.3 else 0.0)
                y = k * v + far * s - (SMALL if s < -0.3 else SMALL / 2 if abs(s) < 0.3 else 0.0)
                spots.append((x, y, x + width, y + SMALL))
        box = next((b for b in spots if room.free(b) and not room.inner.in_box(b)), None)
        box = box or next((b for b in spots if room.free(b)), spots[0])
        set_words(item, label, (box[0], box[1]), SMALL)
        room.words.append(box)
    return item


def _direction(part: Part, evaluation: Evaluation, row: HoleRow) -> Vec:
    """Return a hole's direction in the part; the schedule has it in the active system."""
    active = evaluation.site.datums.get(part.active_system)
    frame = (active[0].frame if active else None) or Frame()
    x, y, z = row.into
    return add(add(scaled(frame.x, x), scaled(frame.y, y)), scaled(frame.normal, z))


def _letters(n: int) -> str:
    text = ""
    n += 1
    while n:
        n, rest = divmod(n - 1, 26)
        text = chr(65 + rest) + text
    return text


def _tolerances(part: Part, evaluation: Evaluation, page: Page) -> list[list[str]]:
    """Return the table of all classes of ISO 286 that are used, with their limits."""
    from .. import standards

    found: dict[tuple[str, str], str] = {}
    for d in page.dimensions:
        said = d.tolerance.strip()
        if said and said[0].isalpha():
            for m in _worth(part, evaluation, page, d.id):
                limits = standards.limits_of(said, m)
                found[figure(m, part.units.length == "in"), said] = (
                    limits.said(part.units.length == "in") if limits else ""
                )
    if not found:
        raise CommandRefused("No dimension on this page has a class of ISO 286.")
    return [
        ["size", "class", "limits"],
        *([size, said, limits] for (size, said), limits in sorted(found.items())),
    ]


def _worth(part: Part, evaluation: Evaluation, page: Page, dimension: str) -> list[float]:
    from .page import measured_in
    from .views_inked import inked

    held = next(d for d in page.dimensions if d.id == dimension)
    view = page.view(held.view)
    if view is None:
        return []
    found = measured_in(part, evaluation, page, inked(part, evaluation, page, view))
    return [m.value for m in found if m.of.id == dimension and m.state != "lost"]


def _table(item: Item, rows: list[list[str]], at: XY) -> None:
    """Draw a table; `at` is its upper left corner."""
    widths = [max(width_of(r[i], SMALL) for r in rows) + 3.0 for i in range(len(rows[0]))]
    x0, y0 = at
    wide = sum(widths)
    for n in range(len(rows) + 1):
        y = y0 - n * ROW
        item.inks.append(line((x0, y), (x0 + wide, y), "border" if n in (0, 1, len(rows)) else "thin"))
    x = x0
    for i, width in enumerate([*widths, 0.0]):
        item.inks.append(
            line((x, y0), (x, y0 - len(rows) * ROW), "border" if i in (0, len(widths)) else "thin")
        )
        for n, row in enumerate(rows):
            if i < len(widths):
                set_words(item, row[i], (x + 1.5, y0 - (n + 1) * ROW + (ROW - SMALL) / 2), SMALL)
        x += width
