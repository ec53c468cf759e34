"""Dimensions drawn in their places without overlap (ISO 129-1), in mm of the page from the middle of their
view.

Level and upright ones stand in lanes below and to the left of the view, short ones nearer, so that no
extension line crosses a shorter dimension's line. Round ones and notes have leaders; of many places for each
the cheapest is taken: short, crossing nothing. What the designer has put somewhere stays there, and the
others go round it."""

from __future__ import annotations

import math
from collections.abc import Iterable
from dataclasses import replace
from itertools import pairwise

from ..strokes import Stroke
from .dimensions import Measured
from .ink import XY, Box, Ink, Item, line, width_of
from .lanes import FIRST, STEP, in_lane, in_places
from .leaders import on_leader, on_round
from .room import ABOVE, ARROW, CLEAR, GAP, HEIGHT, PAST, Room, arrow, polar
from .words import set_words

__all__ = ["place_all"]


def place_all(found: list[Measured], room: Room, k: float) -> list[Item]:
    """Return the dimensions of a view as they are drawn; lost ones are left out."""
    held = [m for m in found if m.state != "lost"]
    first = [m for m in held if m.of.put is not None]
    later = sorted((m for m in held if m.of.put is None), key=lambda m: _order(m, k))
    placed = {}
    order = [*first, *later]
    for n, m in enumerate(order):
        room.coming = [c for other in order[n + 1 :] for c in _extensions(other, k)]
        placed[m.of.id] = _placed(m, room, k)
    return [placed[m.of.id] for m in held]


def _extensions(m: Measured, k: float) -> list[tuple[int, float]]:
    """Return where a dimension in a lane has its extension lines."""
    axis = {"level": 0, "places_x": 0, "upright": 1, "places_y": 1}.get(m.shape)
    return [] if axis is None else [(axis, k * foot[axis]) for foot in m.feet]


def _order(m: Measured, k: float) -> tuple[int, float]:
    """Lanes come first, the short ones before the long; then leaders, which go round them."""
    lane = m.shape in ("level", "upright", "places_x", "places_y")
    return (0 if lane else 1 if m.shape in ("straight", "angle") else 2), k * _span(m)


def _span(m: Measured) -> float:
    if m.shape in ("level", "places_x"):
        return max(p[0] for p in m.feet) - min(p[0] for p in m.feet)
    if m.shape in ("upright", "places_y"):
        return max(p[1] for p in m.feet) - min(p[1] for p in m.feet)
    return 0.0


def _placed(m: Measured, room: Room, k: float) -> Item:
    item = Item(m.of.id, "dimension", told=m.said, trouble=m.trouble)
    feet = [(k * u, k * v) for u, v in m.feet]
    draw = {
        "level": in_lane,
        "upright": in_lane,
        "straight": _straight,
        "angle": _angle,
        "round": on_round,
        "leader": on_leader,
        "places_x": in_places,
        "places_y": in_places,
    }[m.shape]
    draw(item, m, feet, room, k)
    if m.state == "held":  # to be confirmed: told on the page, too
        item.texts = [replace(t, pen="lost") for t in item.texts]
    return item


def _straight(item: Item, m: Measured, feet: list[XY], room: Room, k: float) -> None:
    a, b = feet[0], feet[1]
    length = math.dist(a, b)
    ux, uy = (b[0] - a[0]) / length, (b[1] - a[1]) / length
    if ux < -1e-9 or (abs(ux) <= 1e-9 and uy < 0):
        a, b, ux, uy = b, a, -ux, -uy
    nx, ny = -uy, ux
    width = width_of(m.said, HEIGHT)
    angle = math.atan2(uy, ux)
    middle = item.base = ((a[0] + b[0]) / 2, (a[1] + b[1]) / 2)
    slide = 0.0 if width + 1.0 <= length else length / 2 + ARROW + 2.0 + width / 2
    if m.of.put is not None:
        off = m.of.put[0] * nx + m.of.put[1] * ny - ABOVE - HEIGHT / 2
        slide = m.of.put[0] * ux + m.of.put[1] * uy
        offs: Iterable[float] = (off,)
    else:
        offs = sorted(
            (s * (FIRST + n * STEP) for n in range(12) for s in (1, -1)),
            key=lambda o: (abs(o), _towards(middle, (nx * o, ny * o), room.box)),
        )
    best: tuple[float, XY, Box] | None = None
    for off in offs:
        at = (middle[0] + off * nx + slide * ux, middle[1] + off * ny + slide * uy)
        foot = (at[0] + ABOVE * nx - width / 2 * ux, at[1] + ABOVE * ny - width / 2 * uy)
        box = _turned_box(foot, width, angle)
        ends = [(p[0] + off * nx, p[1] + off * ny) for p in (a, b)]
        if best is None:
            best = off, foot, box
        if room.free(box) and not room.over_words(ends[0], ends[1], CLEAR):
            best = off, foot, box
            break
    assert best is not None
    off, foot, box = best
    side = math.copysign(1.0, off)
    ends = []
    for p in (a, b):
        e = (p[0] + off * nx, p[1] + off * ny)
        ends.append(e)
        x = line(
            (p[0] + side * GAP * nx, p[1] + side * GAP * ny),
            (e[0] + side * PAST * nx, e[1] + side * PAST * ny),
        )
        item.inks.append(x)
        room.leaders.append((x.stroke.start, x.stroke.end))
    inward = 1.0 if length >= 2 * ARROW + 1 else -1.0
    item.blots += [arrow(ends[0], (-inward * ux, -inward * uy)), arrow(ends[1], (inward * ux, inward * uy))]
    out = 0.0 if inward > 0 else 2 * ARROW
    far = max(out, slide - length / 2 + width / 2) if slide > length / 2 else out
    back = max(out, -slide - length / 2 + width / 2) if slide < -length / 2 else out
    p = (ends[0][0] - back * ux, ends[0][1] - back * uy)
    q = (ends[1][0] + far * ux, ends[1][1] + far * uy)
    item.inks.append(line(p, q))
    room.lines.append((p, q))
    item.real = "straight", (a, b, ends[0])
    set_words(item, m.said, foot, HEIGHT, angle)
    room.words.append(box)
    item.place = ((box[0] + box[2]) / 2, (box[1] + box[3]) / 2)


def _towards(middle: XY, off: XY, box: Box) -> float:
    """Return how much an offset leads to the middle of a view: outward is better."""
    centre = (box[0] + box[2]) / 2, (box[1] + box[3]) / 2
    return (centre[0] - middle[0]) * off[0] + (centre[1] - middle[1]) * off[1]


def _turned_box(foot: XY, width: float, angle: float) -> Box:
    c, s = math.cos(angle), math.sin(angle)
    places = [
        (foot[0] + u * c - v * s, foot[1] + u * s + v * c)
        for u, v in ((0, 0), (width, 0), (width, HEIGHT), (0, HEIGHT))
    ]
    xs, ys = zip(*places, strict=True)
    return min(xs), min(ys), max(xs), max(ys)


def _angle(item: Item, m: Measured, feet: list[XY], room: Room, k: float) -> None:
    corner, p, q = feet
    item.base = corner
    t0 = math.atan2(p[1] - corner[1], p[0] - corner[0])
    t1 = math.atan2(q[1] - corner[1], q[0] - corner[0])
    if (t1 - t0) % (2 * math.pi) > math.pi:
        t0, t1, p, q = t1, t0, q, p
    sweep = (t1 - t0) % (2 * math.pi)
    width = width_of(m.said, HEIGHT)
    bisector = t0 + sweep / 2
    far = [math.dist(e, corner) for e in (p, q)]
    steps_out = (12.0 + 4.0 * i for i in range(max(6, int(1.3 * max(far) / 4))))
    # Near to what it measures: the corner may lie far outside of the part.
    radii: Iterable[float] = sorted(steps_out, key=lambda r: (sum(abs(r - f) for f in far), r))
    if m.of.put is not None:
        at = (corner[0] + m.of.put[0], corner[1] + m.of.put[1])
        bisector = math.atan2(at[1] - corner[1], at[0] - corner[0])
        own = math.cos(bisector) ** 2 * width / 2 + math.sin(bisector) ** 2 * HEIGHT / 2
        radii = (max(math.dist(at, corner) - 1.5 - own, 2.0),)
    best: tuple[float, Box] | None = None
    for radius in radii:
        box = _angle_box(corner, radius, bisector, width)
        if best is None:
            best = radius, box
        if room.free(box):
            best = radius, box
            break
    assert best is not None
    radius, box = best
    for end, t in ((p, t0), (q, t1)):
        reach = math.dist(end, corner)
        if reach < radius:
            a, b = polar(corner, reach + GAP, t), polar(corner, radius + PAST, t)
            item.inks.append(line(a, b))
            room.leaders.append((a, b))
    start, stop = polar(corner, radius, t0), polar(corner, radius, t0 + sweep)
    item.inks.append(Ink(Stroke("arc", start, stop, corner, radius, t0, t0 + sweep), "thin"))
    steps = [polar(corner, radius, t0 + sweep * i / 12) for i in range(13)]
    room.lines += pairwise(steps)
    inward = 1.0 if radius * sweep > 2 * ARROW + 1 else -1.0
    lean = ARROW / 2 / radius
    for tip, t, s in ((start, t0 + lean, -1.0), (stop, t0 + sweep - lean, 1.0)):
        item.blots.append(arrow(tip, (-inward * s * math.sin(t), inward * s * math.cos(t))))
    set_words(item, m.said, (box[0], box[1]), HEIGHT)
    room.words.append(box)
    item.place = ((box[0] + box[2]) / 2, (box[1] + box[3]) / 2)


def _angle_box(corner: XY, radius: float, bisector: float, width: float) -> Box:
    """Return the box of level words just outside of an arc."""
    x, y = polar(corner, radius + 1.5, bisector)
    c, s = math.cos(bisector), math.sin(bisector)
    x0 = x - width / 2 + c * width / 2
    y0 = y - HEIGHT / 2 + s * HEIGHT / 2
    return x0, y0, x0 + width, y0 + HEIGHT
