"""Whence a view is seen: its frame, with X to the right and the normal towards the eye (ISO 5456-2)."""

from __future__ import annotations

import math

from ..errors import CommandRefused
from ..kernel.types import Frame, Vec, add, cross, scaled, unit
from ..route.pages import Page, View

__all__ = ["NAMES", "WAYS", "aligned", "frame_of", "line_ways"]

_R = math.sqrt(0.5)
# To the right and up. The part's front is seen along +Y.
WAYS: dict[str, tuple[Vec, Vec]] = {
    "front": ((1, 0, 0), (0, 0, 1)),
    "back": ((-1, 0, 0), (0, 0, 1)),
    "left": ((0, -1, 0), (0, 0, 1)),
    "right": ((0, 1, 0), (0, 0, 1)),
    "top": ((1, 0, 0), (0, 1, 0)),
    "bottom": ((1, 0, 0), (0, -1, 0)),
    # Isometric: all three axes are shortened by the same, sqrt(2/3).
    "corner": ((_R, _R, 0), unit((-1, 1, 2))),
}
NAMES = {
    "front": "Front",
    "back": "Back",
    "left": "From the left",
    "right": "From the right",
    "top": "From above",
    "bottom": "From below",
    "corner": "From the corner",
    "turned": "Turned",
    "section": "Section",
    "detail": "Detail",
}


def frame_of(page: Page, view: View, middle: Vec) -> Frame:
    """Return the frame of a view, its origin in the middle of the part's box."""
    if view.way == "detail":
        parent = page.view(view.parent)
        assert parent is not None
        return frame_of(page, parent, middle)
    if view.way == "section":
        return _of_section(page, view, middle)
    if view.way == "turned":
        assert view.turn is not None
        x, y, z, w = view.turn
        size = math.sqrt(x * x + y * y + z * z + w * w)
        if size < 1e-9:
            raise CommandRefused("This turn is none: all of its four numbers are 0.", field="turn")
        return Frame(
            middle, *(_rotated((x / size, y / size, z / size), w / size, v) for v in ((1, 0, 0), (0, 1, 0)))
        )
    right, up = WAYS[view.way]
    return Frame(middle, right, up)


def _rotated(q: Vec, w: float, v: Vec) -> Vec:
    """Return a vector turned by a unit quaternion."""
    t = scaled(cross(q, v), 2.0)
    return add(add(v, scaled(t, w)), cross(q, t))


def line_ways(view: View) -> tuple[tuple[float, float], tuple[float, float]]:
    """Return, in the parent's view, the direction of a section's first leg and the one towards its eye."""
    (x0, y0), (x1, y1) = view.line[0], view.line[1]
    length = math.hypot(x1 - x0, y1 - y0)
    if length < 1e-9:
        raise CommandRefused("The line of a section has two different ends.", field="line")
    d = (x1 - x0) / length, (y1 - y0) / length
    if (abs(d[1]) > abs(d[0]) and d[1] < 0) or (abs(d[0]) >= abs(d[1]) and d[0] < 0):
        d = -d[0], -d[1]
    # Seen from below the line, or from its left; flipped, from the other side.
    towards = (d[1], -d[0]) if abs(d[0]) >= abs(d[1]) else (-d[1], d[0])
    return d, (-towards[0], -towards[1]) if view.flipped else towards


def _of_section(page: Page, view: View, middle: Vec) -> Frame:
    parent = page.view(view.parent)
    assert parent is not None
    above = frame_of(page, parent, middle)
    d, n = line_ways(view)
    along = add(scaled(above.x, d[0]), scaled(above.y, d[1]))
    normal = add(scaled(above.x, n[0]), scaled(above.y, n[1]))
    if abs(d[0]) >= abs(d[1]):
        return Frame(middle, along, cross(normal, along))
    return Frame(middle, cross(along, normal), along)


def aligned(page: Page, view: View) -> str:
    """Return along which axis of the paper a view keeps to its parent: "x" is above or below it, "y" beside
    it, "" neither."""
    parent = page.view(view.parent)
    if parent is None or view.way in ("corner", "turned", "detail") or parent.way in ("corner", "turned"):
        return ""
    own, above = frame_of(page, view, (0, 0, 0)), frame_of(page, parent, (0, 0, 0))
    if page.ratio_of(view) != page.ratio_of(parent):
        return ""

    def same(a: Vec, b: Vec) -> bool:
        return math.dist(a, b) < 1e-9

    if same(own.x, above.x) and not same(own.y, above.y):
        return "x"
    if same(own.y, above.y) and not same(own.x, above.x):
        return "y"
    return ""
