"""Dimensions in lanes below and to the left of a view, short ones nearer; places counted from one, and
chains."""

from __future__ import annotations

import math

from ..strokes import Stroke
from .dimensions import Measured
from .ink import XY, Box, Ink, Item, line, width_of
from .room import ABOVE, ARROW, CLEAR, GAP, HEIGHT, PAST, Room, arrow
from .words import set_words

__all__ = ["FIRST", "STEP", "in_lane", "in_places"]

LANES = 40  # that are tried
FAR = 40.0  # mm that words may stand from the middle of what they tell
FIRST, STEP = 9.0, 8.0  # mm from the outline to the first lane, from lane to lane


def in_lane(item: Item, m: Measured, feet: list[XY], room: Room, k: float) -> None:
    """Draw a level or upright dimension. feet : mm on paper; k : paper for one of the part."""
    axis = 0 if m.shape == "level" else 1
    low, high = sorted((feet[0], feet[1]), key=lambda p: p[axis])
    start, end = low[axis], high[axis]
    length, width = end - start, width_of(m.said, HEIGHT)
    inside = width + 1.0 <= length
    arrows_in = length >= 2 * ARROW + 1.0
    middle = _middle(room, axis, start, end, width)
    mid = item.base = ((low[0] + high[0]) / 2, (low[1] + high[1]) / 2)
    if m.of.put is not None:
        at = (mid[0] + m.of.put[0], mid[1] + m.of.put[1])
        middle, lane = at[axis], at[1 - axis] - (HEIGHT / 2 + ABOVE) * (1 if axis == 0 else -1)
    else:
        lane = _free_lane(room, axis, start, end, middle, width, arrows_in)
    _draw_lane(item, room, axis, (low, high), lane, arrows_in)
    reach = [
        start,
        end,
        middle - width / 2 - 1.0 if not inside else middle,
        middle + width / 2 if not inside else middle,
    ]
    a, b = (
        (min(reach), max(reach))
        if not (start <= middle - width / 2 and middle + width / 2 <= end)
        else (start, end)
    )
    if not arrows_in:
        a, b = min(a, start - 2 * ARROW), max(b, end + 2 * ARROW)
    _dimension_line(item, room, axis, a, b, lane)
    item.real = m.shape, (low, high, _at(axis, middle, lane))
    _words_on_lane(item, room, m.said, axis, middle, lane, width)


def _middle(room: Room, axis: int, start: float, end: float, width: float) -> float:
    """Return where the words' middle lies along a lane: between the arrows, else beside them, where no
    extension line that is still to come runs through them."""
    half, mid, coming = width / 2 + 0.3, (start + end) / 2, [c for a, c in room.coming if a == axis]
    past = [c + s * (half + 1e-6) for c in coming for s in (1.0, -1.0)]
    if width + 1.0 <= end - start:
        low, high = start + width / 2 + 0.5, end - width / 2 - 0.5
        tried = [mid, *sorted((p for p in past if low <= p <= high), key=lambda p: abs(p - mid))]
    else:
        off = ARROW + 2.0 + width / 2
        further = [p for p in past if off + (end - start) / 2 < abs(p - mid) < FAR]
        tried = [end + off, start - off, *sorted(further, key=lambda p: abs(p - mid))]
    return next((m for m in tried if not any(abs(m - c) < half for c in coming)), tried[0])


def _free_lane(
    room: Room, axis: int, start: float, end: float, middle: float, width: float, arrows_in: bool
) -> float:
    """Return the cheapest lane: the nearer the better, but clear of all other words, and out of the way of
    lines.

    Where a shorter dimension lies within its extension lines it stands outside of that one's line, so that
    those do not cross it."""
    out = 0.0 if arrows_in else 2 * ARROW
    a, b = min(start - out, middle - width / 2) - 1.0, max(end + out, middle + width / 2) + 1.0
    edge = room.box[1] if axis == 0 else room.box[0]
    best, cheapest = edge - FIRST, math.inf
    for n in range(LANES):
        lane = edge - FIRST - n * STEP
        if n >= cheapest:
            break
        strip = (a, lane - 1.5, b, lane + HEIGHT + ABOVE + 0.5)
        if axis == 1:
            strip = (lane - HEIGHT - ABOVE - 0.5, a, lane + 1.5, b)
        ends = [_at(axis, x, y) for x in (start, end) for y in (edge, lane - PAST)]
        words = _lane_words(axis, middle, lane, width)
        cost = n + 2.0 * room.leaders.in_box(strip) + 8.0 * room.lines.in_box(strip)
        cost += 100.0 * (room.words_at(strip) + (not room.free(words)))
        cost += 100.0 * sum(room.over_words(ends[i], ends[i + 1], 0.3) for i in (0, 2))
        cost += 4.0 * sum(room.lines.crossing(ends[i], ends[i + 1]) for i in (0, 2))
        if cost < cheapest:
            best, cheapest = lane, cost
    return best


def _at(axis: int, along: float, off: float) -> XY:
    return (along, off) if axis == 0 else (off, along)


def _lane_words(axis: int, middle: float, lane: float, width: float) -> Box:
    if axis == 0:
        return middle - width / 2, lane + ABOVE, middle + width / 2, lane + ABOVE + HEIGHT
    return lane - ABOVE - HEIGHT, middle - width / 2, lane - ABOVE, middle + width / 2


def _draw_lane(item: Item, room: Room, axis: int, feet: tuple[XY, XY], lane: float, arrows_in: bool) -> None:
    for foot in feet:
        side = -1.0 if lane < foot[1 - axis] else 1.0
        a = _at(axis, foot[axis], foot[1 - axis] + side * GAP)
        b = _at(axis, foot[axis], lane + side * PAST)
        item.inks.append(line(a, b))
        room.leaders.append((a, b))
    low, high = feet[0][axis], feet[1][axis]
    inward = 1.0 if arrows_in else -1.0
    item.blots.append(arrow(_at(axis, low, lane), _at(axis, -inward, 0.0)))
    item.blots.append(arrow(_at(axis, high, lane), _at(axis, inward, 0.0)))


def _dimension_line(item: Item, room: Room, axis: int, a: float, b: float, lane: float) -> None:
    ends = _at(axis, a, lane), _at(axis, b, lane)
    item.inks.append(line(*ends))
    room.lines.append(ends)


def _words_on_lane(
    item: Item, room: Room, words: str, axis: int, middle: float, lane: float, width: float
) -> None:
    room.words.append(_lane_words(axis, middle, lane, width))
    if axis == 0:
        set_words(item, words, (middle, lane + ABOVE), HEIGHT, share=0.5)
        item.place = (middle, lane + ABOVE + HEIGHT / 2)
    else:
        set_words(item, words, (lane - ABOVE, middle), HEIGHT, math.pi / 2, 0.5)
        item.place = (lane - ABOVE - HEIGHT / 2, middle)


def in_places(item: Item, m: Measured, feet: list[XY], room: Room, k: float) -> None:
    """Draw places that are counted from the first, or from each to the next."""
    axis = 0 if m.shape == "places_x" else 1
    along = [p[axis] for p in feet]
    edge = room.box[1] if axis == 0 else room.box[0]
    chain = m.of.kind.startswith("chain")
    width = max(width_of(s, HEIGHT) for s in m.said_each)
    across = [p[1 - axis] for p in feet]
    item.base = _at(axis, (min(along) + max(along)) / 2, (min(across) + max(across)) / 2)
    if m.of.put is not None:
        lane = (min(across) + max(across)) / 2 + m.of.put[1 - axis]
    else:
        depth = HEIGHT + 2.0 if chain else width + 2.0
        lane, cheapest = edge - FIRST, math.inf
        for n in range(LANES):
            tried = edge - FIRST - n * STEP
            low, high = (tried, tried + depth + 1.0) if chain else (tried - depth, tried + 1.0)
            strip = _box_of(axis, min(along) - 3.0, max(along) + 3.0, low, high)
            cost = n + 2.0 * room.leaders.in_box(strip) + 8.0 * room.lines.in_box(strip)
            cost += 100.0 * room.words_at(strip)
            if cost < cheapest:
                lane, cheapest = tried, cost
    for foot in feet:
        side = -1.0 if lane < foot[1 - axis] else 1.0
        a, b = (
            _at(axis, foot[axis], foot[1 - axis] + side * GAP),
            _at(axis, foot[axis], lane + side * PAST * chain),
        )
        item.inks.append(line(a, b))
        room.leaders.append((a, b))
    item.place = _at(axis, (min(along) + max(along)) / 2, lane)
    if chain:
        _chain(item, m, axis, along, lane, room)
    else:
        _ordinates(item, m, axis, along, lane, room)


def _box_of(axis: int, a: float, b: float, low: float, high: float) -> Box:
    return (a, low, b, high) if axis == 0 else (low, a, high, b)


def _chain(item: Item, m: Measured, axis: int, along: list[float], lane: float, room: Room) -> None:
    for a, b, said in zip(along, along[1:], m.said_each, strict=False):
        width = width_of(said, HEIGHT)
        _dimension_line(item, room, axis, a, b, lane)
        inward = 1.0 if b - a >= 2 * ARROW + 1 else -1.0
        item.blots += [
            arrow(_at(axis, a, lane), _at(axis, -inward, 0.0)),
            arrow(_at(axis, b, lane), _at(axis, inward, 0.0)),
        ]
        size = HEIGHT if width <= b - a - 0.5 else max(1.8, HEIGHT * (b - a - 0.5) / width)
        middle = (a + b) / 2
        if axis == 0:
            set_words(item, said, (middle, lane + ABOVE), size, share=0.5)
        else:
            set_words(item, said, (lane - ABOVE, middle), size, math.pi / 2, 0.5)
        room.words.append(_lane_words(axis, middle, lane, width_of(said, size)))


def _ordinates(item: Item, m: Measured, axis: int, along: list[float], lane: float, room: Room) -> None:
    """Draw figures at the ends of their extension lines, spread where they would touch; the first is 0, in a
    ring."""
    order = sorted(range(len(along)), key=lambda i: along[i])
    put: list[float] = []
    for i in order:
        put.append(max(along[i], put[-1] + HEIGHT + CLEAR if put else along[i]))
    for i, where in zip(order, put, strict=True):
        said = m.said_each[i]
        width = width_of(said, HEIGHT)
        a, b = _at(axis, along[i], lane), _at(axis, where, lane - 2.0)
        item.inks.append(line(a, b))
        room.leaders.append((a, b))
        if axis == 0:
            set_words(item, said, (where + HEIGHT / 2, lane - 3.0 - width), HEIGHT, math.pi / 2)
            room.words.append((where - HEIGHT / 2, lane - 3.0 - width, where + HEIGHT / 2, lane - 3.0))
        else:
            set_words(item, said, (lane - 3.0 - width, where - HEIGHT / 2), HEIGHT)
            room.words.append((lane - 3.0 - width, where - HEIGHT / 2, lane - 3.0, where + HEIGHT / 2))
        if i == 0:
            item.inks.append(_ring(_at(axis, along[0], lane), 0.8))


def _ring(middle: XY, radius: float) -> Ink:
    start = (middle[0] + radius, middle[1])
    return Ink(Stroke("arc", start, start, middle, radius, 0.0, 2 * math.pi), "thin")
