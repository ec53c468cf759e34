"""Where views stand on a page: those that keep to a parent beside it, on the side that the angle of
projection asks for; the others where there is room. A view that was put somewhere by hand stays there."""

from __future__ import annotations

from ..kernel.types import dot
from ..route.pages import Page, View
from .ink import XY, Box, boxes_meet
from .looking import aligned, frame_of
from .sheet import BLOCK, area_of

__all__ = ["APART", "arranged", "fits"]

APART = 12.0  # mm between views with all that stands round them
EDGE = 6.0  # mm from the border
GRID = 5.0  # mm: places that are tried


def arranged(page: Page, boxes: dict[str, Box]) -> dict[str, XY]:
    """Return where the middle of each view lies. boxes : of each with all that stands round it, from its
    middle.

    Main views come first, in groups that keep to each other; sections then stand beside the view that they
    are taken from if there is room, else where there is any."""
    views = [v for v in page.views if v.id in boxes]
    main = [v for v in views if v.way != "section"]
    places: dict[str, XY] = {}
    for view in main:  # groups: a view without a parent and those that keep to it
        if view.id in places or (view.parent in boxes and aligned(page, view)):
            continue
        group = _group(page, main, view, boxes)
        base = view.at or _room_for(page, group, boxes, places)
        for id_, (x, y) in group.items():
            places[id_] = (base[0] + x, base[1] + y)
    for view in views:
        if view.way == "section" and view.at is None:
            places[view.id] = _of_section(page, view, boxes, places)
    for view in views:
        if view.at is not None:
            places[view.id] = _kept_in_line(page, view, view.at, places)
    return places


def _of_section(page: Page, view: View, boxes: dict[str, Box], places: dict[str, XY]) -> XY:
    along, box = aligned(page, view), boxes[view.id]
    if along and view.parent in places:
        at = _beside(page, view, along, places, boxes)
        x0, y0, x1, y1 = area_of(page.paper)
        here = _shifted(box, at)
        inside = here[0] > x0 and here[1] > y0 and here[2] < x1 and here[3] < y1
        if inside and not boxes_meet(here, _title(page), 2.0):
            return at
    return _room_for(page, {view.id: (0.0, 0.0)}, boxes, places)


def _kept_in_line(page: Page, view: View, at: XY, places: dict[str, XY]) -> XY:
    along = aligned(page, view)
    if along and view.parent in places:
        x, y = places[view.parent]
        return (x, at[1]) if along == "x" else (at[0], y)
    return at


def _group(page: Page, views: list[View], base: View, boxes: dict[str, Box]) -> dict[str, XY]:
    """Return the places of a view and of all that keep to it, from its own."""
    found: dict[str, XY] = {base.id: (0.0, 0.0)}
    grown = True
    while grown:
        grown = False
        for view in views:
            if view.id in found or view.parent not in found or not (along := aligned(page, view)):
                continue
            found[view.id] = _beside(page, view, along, found, boxes)
            grown = True
    return found


def _beside(page: Page, view: View, along: str, found: dict[str, XY], boxes: dict[str, Box]) -> XY:
    """Return the first free place beside the parent: in the third angle on the eye's side, in the first on
    the other."""
    parent = page.view(view.parent)
    assert parent is not None
    above, own = frame_of(page, parent, (0, 0, 0)), frame_of(page, view, (0, 0, 0))
    axis = 1 if along == "x" else 0
    eye = dot(own.normal, above.y if axis else above.x)
    side = 1 if (eye > 0) == (page.angle == "third") else -1
    box, base = boxes[view.id], found[view.parent]
    off = 0.0
    for _ in range(400):
        at = (base[0], base[1] + side * off) if axis else (base[0] + side * off, base[1])
        here = _shifted(box, at)
        if not any(boxes_meet(here, _shifted(boxes[o], p), APART) for o, p in found.items()):
            return at
        off += 1.0
    return at


def _shifted(box: Box, by: XY) -> Box:
    return box[0] + by[0], box[1] + by[1], box[2] + by[0], box[3] + by[1]


def _around(group: dict[str, XY], boxes: dict[str, Box]) -> Box:
    held = [_shifted(boxes[i], at) for i, at in group.items()]
    return min(b[0] for b in held), min(b[1] for b in held), max(b[2] for b in held), max(b[3] for b in held)


def _title(page: Page) -> Box:
    _, y0, x1, _ = area_of(page.paper)
    return x1 - BLOCK[0], y0, x1, y0 + BLOCK[1]


def _room_for(page: Page, group: dict[str, XY], boxes: dict[str, Box], placed: dict[str, XY]) -> XY:
    """Return the place for a group where it meets nothing, the first one in the middle, the next to the right
    and above; in the middle of the page where there is none."""
    x0, y0, x1, y1 = area_of(page.paper)
    own = _around(group, boxes)
    held = [_shifted(boxes[i], at) for i, at in placed.items()]
    wide, high = own[2] - own[0], own[3] - own[1]
    best: tuple[float, XY] | None = None
    columns = max(1, int((x1 - x0 - wide - 2 * EDGE) / GRID) + 1)
    rows = max(1, int((y1 - y0 - high - 2 * EDGE) / GRID) + 1)
    for i in range(columns):
        for j in range(rows):
            low = (x0 + EDGE + i * GRID, y0 + EDGE + j * GRID)
            box = (low[0], low[1], low[0] + wide, low[1] + high)
            cost = sum(_overlap(box, b) for b in (*held, _title(page)))
            mx, my = (box[0] + box[2]) / 2, (box[1] + box[3]) / 2
            if held:
                cost += (x1 - mx) + 0.5 * (y1 - my)
            else:
                cost += abs(mx - (x0 + x1) / 2 + 0.1 * (x1 - x0)) + abs(my - (y0 + y1) / 2 - 0.05 * (y1 - y0))
            if best is None or cost < best[0]:
                best = cost, (low[0] - own[0], low[1] - own[1])
    assert best is not None
    return best[1]


def _overlap(a: Box, b: Box) -> float:
    """Return what it costs that two boxes come too near: how much they have in common."""
    if not boxes_meet(a, b, APART / 2):
        return 0.0
    wide = min(a[2], b[2]) - max(a[0], b[0]) + APART / 2
    high = min(a[3], b[3]) - max(a[1], b[1]) + APART / 2
    return 1e3 + 10.0 * wide * high


def fits(page: Page, boxes: dict[str, Box], places: dict[str, XY]) -> bool:
    """Tell whether all views stand inside the border, off the title block and off each other."""
    x0, y0, x1, y1 = area_of(page.paper)
    held = [_shifted(boxes[i], at) for i, at in places.items()]
    if any(b[0] < x0 + 2 or b[1] < y0 + 2 or b[2] > x1 - 2 or b[3] > y1 - 2 for b in held):
        return False
    if any(boxes_meet(b, _title(page), 2.0) for b in held):
        return False
    return not any(boxes_meet(a, b, 2.0) for i, a in enumerate(held) for b in held[:i])
