"""A view in ink: its lines, hatching, centre lines, threads, letters; mm on paper from its middle."""

from __future__ import annotations

import math
from dataclasses import dataclass, field, replace
from itertools import pairwise

from .. import kernel
from ..kernel.types import Placement
from ..route import Evaluation, Part
from ..route.pages import Page, View
from ..steps import Body
from ..strokes import Stroke
from .aligned import is_aligned, second_eye
from .centres import Axle, axles_of, centre_lines, runs_along, thread_lines
from .drilled import Thread, threads_in
from .hatching import APART, hatched
from .ink import XY, Box, Ink, Item, PenName, around, line, moved, width_of
from .looking import line_ways
from .overlaid import clipped, shown
from .room import HEIGHT, Room, Runs, arrow
from .views import Drawn, bodies_of, drawn
from .words import set_words

__all__ = ["Inked", "inked", "letters_of"]

LETTER = 5.0  # mm: the letters of sections and details
_PENS: dict[tuple[str, bool], PenName] = {
    ("sharp", True): "outline",
    ("outline", True): "outline",
    ("smooth", True): "smooth",
    ("sharp", False): "hidden",
    ("outline", False): "hidden",
    ("draft", True): "draft",
}


@dataclass(slots=True)
class Inked:
    """A view in ink. box : round its visible lines, in mm on paper; room : what dimensions keep clear of."""

    view: View
    drawn: Drawn
    k: float
    item: Item
    room: Room
    axles: list[Axle] = field(default_factory=list)

    @property
    def box(self) -> Box:
        """Return the box round its lines."""
        return self.room.box


def inked(part: Part, evaluation: Evaluation, page: Page, view: View) -> Inked:
    """Draw a view; raises WendalError in words."""
    found = drawn(part, evaluation, page, view)
    k = page.ratio_of(view)
    detail = view.way == "detail"
    lines = shown(found.lines, view.hidden and view.way != "corner", view.smooth or view.way == "corner")
    if detail:
        lines = clipped(lines, view.middle, view.around)
    shift = (-k * view.middle[0], -k * view.middle[1]) if detail else (0.0, 0.0)
    item = Item(view.id, "view")
    item.inks = [
        Ink(moved(ln.stroke, k, shift), _PENS[ln.kind, ln.visible], ln.body, ln.edge, ln.face) for ln in lines
    ]
    visible = [i.stroke for i in item.inks if i.pen in ("outline", "smooth", "draft")]
    box = around([p for s in visible for p in _places(s)] or [(0.0, 0.0)])
    room = Room(box, Runs(run for s in visible for run in _runs(s)))
    bodies = bodies_of(part, evaluation)
    axles = _axles(found, bodies)
    if detail:
        item.inks.append(_circle((0.0, 0.0), k * view.around, "thin"))
        return Inked(view, found, k, item, room, axles)
    item.inks += _hatching(found, bodies, k)
    if view.centres and view.way != "corner":
        item.inks += centre_lines(axles, found.frame, k)
        depths = _depths(view) if view.way == "section" else []
        threads = _threads(part, evaluation, found)
        item.inks += thread_lines(threads, found.lines, found.frame, k, depths, view.hidden)
    room.inner += [
        r for i in item.inks if i.pen in ("hidden", "centre", "hatch", "thread") for r in _runs(i.stroke)
    ]
    return Inked(view, found, k, item, room, axles)


def _axles(found: Drawn, bodies: list[Body]) -> list[Axle]:
    """Return the axes of round faces; one that both legs of an aligned section have is one, and those in
    which they meet are looked for in the whole bodies: neither leg has half a turn of them."""
    axles = [a for b, shape in found.seen for a in axles_of(b, shape)]
    if found.placement is not None:
        whole = [a for body in bodies if not body.sheet for a in axles_of(body.id, body.shape)]
        axles += [a for a in whole if _stays(a, found.placement)]
    for b, shape in found.turned:
        axles += [a for a in axles_of(b, shape) if not any(runs_along(a, held) for held in axles)]
    return axles


def _stays(axle: Axle, placement: Placement) -> bool:
    here = placement.point(axle.origin)
    return math.dist(here, axle.origin) < 1e-6 and math.dist(placement.vector(axle.way), axle.way) < 1e-6


def _threads(part: Part, evaluation: Evaluation, found: Drawn) -> list[Thread]:
    """Return the threads; those of an aligned section's second leg are looked for where the part has them."""
    threads = [t for _, shape in found.seen for t in threads_in(part, evaluation, shape)]
    if found.placement is not None:
        back = found.placement.back()
        for _, shape in found.turned:
            for t in threads_in(part, evaluation, kernel.placed(shape, back)):
                start, way = found.placement.point(t.start), found.placement.vector(t.way)
                threads.append(replace(t, start=start, way=way))
    return threads


def _depths(view: View) -> list[float]:
    """Return how far towards the eye each leg of a section's line lies, mm from the middle of the part's
    box."""
    _, n = line_ways(view)
    if is_aligned(view):
        return [view.line[0][0] * n[0] + view.line[0][1] * n[1]]
    return [
        a[0] * n[0] + a[1] * n[1]
        for a, b in pairwise(view.line)
        if abs((b[0] - a[0]) * n[0] + (b[1] - a[1]) * n[1]) < 1e-9
    ]


def _hatching(found: Drawn, bodies: list[Body], k: float) -> list[Ink]:
    order = [b.id for b in bodies]
    inks = []
    for area in found.areas:
        n = order.index(area.body)
        angle = math.radians(45 if n % 2 == 0 else 135)
        inks += hatched([list(loop) for loop in area.loops], k, angle, APART * (1 + n // 2 * 0.5))
    return inks


def _places(s: Stroke) -> list[XY]:
    n = 1 if s.kind == "line" else 24
    return [s.at(i / n) for i in range(n + 1)]


def _runs(s: Stroke) -> list[tuple[XY, XY]]:
    places = _places(s)
    return list(pairwise(places))


def _circle(middle: XY, radius: float, pen: PenName) -> Ink:
    start = (middle[0] + radius, middle[1])
    return Ink(Stroke("arc", start, start, middle, radius, 0.0, 2 * math.pi), pen)


def letters_of(inks: Inked, children: list[View], page: Page) -> None:
    """Draw in a view the lines and circles at which others are taken from it, with their letters; over it,
    its own title."""
    for child in children:
        if child.way == "section":
            _cut_line(inks, child)
        elif child.way == "detail":
            _detail_circle(inks, child)
    _title(inks, page)


def _cut_line(inks: Inked, child: View) -> None:
    """Draw a cutting line: long-dashed dotted, wide at its ends and bends, with arrows and letters (ISO
    128-3)."""
    item, room, k = inks.item, inks.room, inks.k
    line_of = [(k * x, k * y) for x, y in child.line]
    _, n = line_ways(child)
    eyes = n, second_eye(child) if is_aligned(child) else n
    first, last = _to_edge(line_of[1], line_of[0], room.box), _to_edge(line_of[-2], line_of[-1], room.box)
    run = [first, *line_of[1:-1], last]
    for a, b in pairwise(run):
        item.inks.append(line(a, b, "centre"))
    for end, inner, n in ((run[0], run[1], eyes[0]), (run[-1], run[-2], eyes[1])):
        length = max(math.dist(end, inner), 1e-9)
        u = (inner[0] - end[0]) / length, (inner[1] - end[1]) / length
        item.inks.append(line(end, (end[0] + 5 * u[0], end[1] + 5 * u[1]), "cut"))
        # Arrows point the way that is looked: away from the eye.
        tip, tail = end, (end[0] + 9 * n[0], end[1] + 9 * n[1])
        item.inks.append(line(tail, tip))
        item.blots.append(arrow(tip, (-n[0], -n[1]), 4.0))
        width = width_of(child.letter, LETTER)
        at = (
            tail[0] + n[0] * (width / 2 + 1.5) - width / 2,
            tail[1] + n[1] * (LETTER / 2 + 1.5) - LETTER / 2,
        )
        set_words(item, child.letter, at, LETTER)
        room.words.append((at[0], at[1], at[0] + width, at[1] + LETTER))
        room.leaders.append((tail, tip))
    for corner in run[1:-1]:
        for other in (run[run.index(corner) - 1], run[run.index(corner) + 1]):
            length = max(math.dist(corner, other), 1e-9)
            reach = min(4.0, length / 2)
            x, y = (corner[i] + reach * (other[i] - corner[i]) / length for i in (0, 1))
            item.inks.append(line(corner, (x, y), "cut"))


def _to_edge(inner: XY, outer: XY, box: Box) -> XY:
    """Return where the end of a cutting line lies: 4 mm outside of the view."""
    length = max(math.dist(inner, outer), 1e-9)
    u = (outer[0] - inner[0]) / length, (outer[1] - inner[1]) / length
    reach = []
    for i, (low, high) in enumerate(((box[0], box[2]), (box[1], box[3]))):
        if abs(u[i]) > 1e-9:
            reach.append(((high if u[i] > 0 else low) - inner[i]) / u[i])
    far = max(min(reach, default=length), 0.0) + 5.0
    return inner[0] + far * u[0], inner[1] + far * u[1]


def _detail_circle(inks: Inked, child: View) -> None:
    k = inks.k
    middle = (k * child.middle[0], k * child.middle[1])
    radius = k * child.around
    inks.item.inks.append(_circle(middle, radius, "thin"))
    at = (middle[0] + radius * 0.75 + 1.0, middle[1] + radius * 0.75)
    set_words(inks.item, child.letter, at, LETTER)
    inks.room.words.append((at[0], at[1], at[0] + width_of(child.letter, LETTER), at[1] + LETTER))


def _title(inks: Inked, page: Page) -> None:
    """Write a section's or detail's name over it, and its scale where it has one of its own."""
    view = inks.view
    words = {"section": f"{view.letter}-{view.letter}", "detail": view.letter}.get(view.way, "")
    own = f"({view.scale})" if view.scale and view.scale != page.scale else ""
    said = f"{words} {own}{' DRAFT' if inks.drawn.draft else ''}".strip()
    if not said:
        return
    x0, _, x1, y1 = inks.room.box
    if view.way == "detail":
        y1 = max(y1, inks.k * view.around)
    height = LETTER if words else HEIGHT
    width = width_of(said, height)
    at = ((x0 + x1) / 2 - width / 2, y1 + 5.0)
    set_words(inks.item, said, at, height)
    inks.room.words.append((at[0], at[1], at[0] + width, at[1] + height))
