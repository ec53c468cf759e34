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
    middle."""
    views = [v for v in page.views if v.id in boxes]
    places: dict[str, XY] = {}
    alone: list[str] = []
    for view in views:  # groups: a view without a parent and those that keep to it
        if view.id in places or (view.parent in boxes and aligned(page, view)):
            continue
        group = _group(page, views, view, boxes)
        base = view.at or _room_for(page, group, boxes, places)
        inside = area_of(page.paper)
        for id_, (x, y) in [*group.items()]:  # what would stand outside stands where there is room
            held = page.view(id_)
            out = _shifted(boxes[id_], (base[0] + x, base[1] + y))
            beyond = out[0] < inside[0] or out[1] < inside[1] or out[2] > inside[2] or out[3] > inside[3]
            if held is not None and held.way == "section" and held.at is None and beyond:
                del group[id_]
                alone.append(id_)
        for id_, (x, y) in group.items():
            places[id_] = (base[0] + x, base[1] + y)
    for id_ in alone:
        places[id_] = _room_for(page, {id_: (0.0, 0.0)}, boxes, places)
    for view in views:
        if view.at is not None:
            places[view.id] = _kept_in_line(page, view, view.at, places)
    return places


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
            cost = 1e4 * sum(boxes_meet(box, b, APART / 2) for b in held) + 1e4 * boxes_meet(
                box, _title(page), 4.0
            )
            mx, my = (box[0] + box[2]) / 2, (box[1] + box[3]) / 2
            if held:
                cost += (x1 - mx) + 0.5 * (y1 - my)
            else:
                cost += abs(mx - (x0 + x1) / 2 + 0.1 * (x1 - x0)) + abs(my - (y0 + y1) / 2 - 0.05 * (y1 - y0))
            if best is None or cost < best[0]:
                best = cost, (low[0] - own[0], low[1] - own[1])
    assert best is not None
    return best[1]


def fits(page: Page, boxes: dict[str, Box], places: dict[str, XY]) -> bool:
    """Tell whether all views stand inside the border, off the title block and off each other."""
    x0, y0, x1, y1 = area_of(page.paper)
    held = [_shifted(boxes[i], at) for i, at in places.items()]
    if any(b[0] < x0 + 2 or b[1] < y0 + 2 or b[2] > x1 - 2 or b[3] > y1 - 2 for b in held):
        return False
    if any(boxes_meet(b, _title(page), 2.0) for b in held):
        return False
    return not any(boxes_meet(a, b, 2.0) for i, a in enumerate(held) for b in held[:i])
