"""A view of the bodies at 1 : 1, as flat formats write it: exact lines, what hides them left away or on a
layer of its own."""

from __future__ import annotations

import math
from collections.abc import Iterable
from dataclasses import replace

from ..drawing.centres import axles_of, centre_lines
from ..drawing.overlaid import shown
from ..drawing.views import Line, drawn, prepare
from ..errors import CommandRefused
from ..kernel.types import Frame
from ..route.pages import Page, View
from ..strokes import Stroke, chained
from .base import Order

__all__ = ["chains_of_view"]

VIEW = "v1"


def chains_of_view(order: Order, frame: Frame | None, joined: float) -> list[list[Stroke]]:
    """Return the lines of a view in chains, by layers: outline, hidden, bend, centre; mm from the middle of
    the bodies' box.

    frame : of the plane that is looked at squarely, None for one of the main views. joined : mm within which
    ends are one. Smooth lines are what bends begin and end at. Raises CommandRefused without a body.
    """
    view = View(id=VIEW, way="turned" if frame else order.subject.way, turn=_turn(frame) if frame else None)
    page = Page(id="p1", name="view", views=[view])
    prepare(order.part, order.evaluation, page)  # a draft that a page was shown with is drawn exactly
    found = drawn(order.part, order.evaluation, page, view)
    if found.draft:
        raise CommandRefused("The exact lines of this view were not found in time, so nothing was written.")
    lines = shown(found.lines, order.options.hidden, order.options.bends)
    chains: list[list[Stroke]] = []
    for layer, held in (
        ("outline", _strokes(ln for ln in lines if ln.visible and ln.kind != "smooth")),
        ("bend", _strokes(ln for ln in lines if ln.kind == "smooth")),
        ("hidden", _strokes(ln for ln in lines if not ln.visible)),
    ):
        chains += chained([replace(s, layer=layer) for s in held], joined)
    if order.options.centres:
        axles = [a for body, shape in found.seen for a in axles_of(body, shape)]
        chains += [[replace(i.stroke, layer="centre")] for i in centre_lines(axles, found.frame, 1.0)]
    return chains


def _strokes(lines: Iterable[Line]) -> list[Stroke]:
    return [ln.stroke for ln in lines]


def _turn(frame: Frame) -> tuple[float, float, float, float]:
    """Return the quaternion (x, y, z, w) that turns the base axes to a frame's (Shepperd's way: by the
    greatest of the four, so that none is divided by little)."""
    (a, b, c), (d, e, f), (g, h, i) = frame.x, frame.y, frame.normal
    squares = (1 + a - e - i, 1 - a + e - i, 1 - a - e + i, 1 + a + e + i)
    most = max(range(4), key=squares.__getitem__)
    s = 2 * math.sqrt(squares[most])
    return (
        (s / 4, (d + b) / s, (g + c) / s, (f - h) / s),
        ((d + b) / s, s / 4, (h + f) / s, (g - c) / s),
        ((g + c) / s, (h + f) / s, s / 4, (b - d) / s),
        ((f - h) / s, (g - c) / s, (b - d) / s, s / 4),
    )[most]
