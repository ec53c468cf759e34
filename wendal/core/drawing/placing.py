"""Dimensions drawn in their places without overlap (ISO 129-1), in mm of the page from the middle of their
view.

Level and upright ones stand in lanes below and to the left of the view, short ones nearer, so that no
extension line crosses a shorter dimension's line. Round ones and notes have leaders; of many places for each
the cheapest is taken: short, crossing nothing. What the designer has put somewhere stays there, and the
others go round it."""

from __future__ import annotations

import itertools
import math
from collections.abc import Iterable, Iterator
from dataclasses import dataclass, field, replace

import numpy as np

from ..strokes import Stroke
from .dimensions import Measured
from .ink import XY, Blot, Box, Ink, Item, boxes_meet, line, width_of
from .words import set_words

__all__ = ["ARROW", "HEIGHT", "Room", "Runs", "arrow", "place_all"]

HEIGHT = 3.5  # mm a capital (ISO 3098-1)
LANES = 40  # that are tried
FIRST, STEP = 9.0, 8.0  # mm from the outline to the first lane, from lane to lane
GAP, PAST = 1.0, 2.0  # mm from the outline to an extension line, and past the dimension line
ARROW = 3.0  # mm
ABOVE = 1.0  # mm between a line and the words on it
CLEAR = 0.8  # mm round words in which nothing else stands
TURNS, REACHES = 24, (9.0, 16.0, 25.0, 36.0)  # of leaders: directions and lengths that are tried
SHELF = 2.0  # mm of a leader's level end before its words


Run = tuple[XY, XY]


class Runs:
    """Straight pieces, many at once."""

    def __init__(self, held: Iterable[Run] = ()) -> None:
        self.held = list(held)
        self._array: np.ndarray | None = None

    def __iadd__(self, more: Iterable[Run]) -> Runs:
        self.held += more
        self._array = None
        return self

    def append(self, run: Run) -> None:
        """Take one more."""
        self.held.append(run)
        self._array = None

    def _ends(self) -> np.ndarray:
        if self._array is None:
            self._array = np.asarray(self.held, dtype=float).reshape(-1, 4)
        return self._array

    def in_box(self, box: Box, apart: float = 0.0) -> int:
        """Return how many come into a box (Liang and Barsky)."""
        ends = self._ends()
        if not len(ends):
            return 0
        t0, t1 = np.zeros(len(ends)), np.ones(len(ends))
        inside = np.ones(len(ends), dtype=bool)
        for i in (0, 1):
            low, high = box[i] - apart, box[i + 2] + apart
            start, d = ends[:, i], ends[:, i + 2] - ends[:, i]
            still = np.abs(d) < 1e-12
            inside &= ~still | ((start > low) & (start < high))
            safe = np.where(still, 1.0, d)
            u, v = (low - start) / safe, (high - start) / safe
            t0 = np.where(still, t0, np.maximum(t0, np.minimum(u, v)))
            t1 = np.where(still, t1, np.minimum(t1, np.maximum(u, v)))
        return int((inside & (t0 < t1)).sum())

    def crossing(self, a: XY, b: XY) -> int:
        """Return how many properly cross a straight piece."""
        ends = self._ends()
        if not len(ends):
            return 0
        (ax, ay), (bx, by) = a, b
        cx, cy, dx, dy = ends.T
        one = (bx - ax) * (cy - ay) - (by - ay) * (cx - ax)
        other = (bx - ax) * (dy - ay) - (by - ay) * (dx - ax)
        third = (dx - cx) * (ay - cy) - (dy - cy) * (ax - cx)
        fourth = (dx - cx) * (by - cy) - (dy - cy) * (bx - cx)
        return int(((one * other < -1e-9) & (third * fourth < -1e-9)).sum())


@dataclass(slots=True)
class Room:
    """What stands in and round a view already. box : of the view. outline : visible strokes; inner : hidden
    and centre lines, hatching. words : boxes of words; lines : of dimensions; leaders : and extension lines.
    """

    box: Box
    outline: Runs = field(default_factory=Runs)
    inner: Runs = field(default_factory=Runs)
    words: list[Box] = field(default_factory=list)
    lines: Runs = field(default_factory=Runs)
    leaders: Runs = field(default_factory=Runs)

    def free(self, box: Box) -> bool:
        """Tell whether words can stand in a box."""
        return not self.words_at(box, CLEAR) and not any(
            runs.in_box(box, CLEAR) for runs in (self.outline, self.lines, self.leaders)
        )

    def words_at(self, box: Box, apart: float = 0.0) -> bool:
        """Tell whether other words come near a box."""
        return any(boxes_meet(box, w, apart) for w in self.words)

    def over_words(self, a: XY, b: XY, apart: float) -> int:
        """Return over how many words a straight piece runs."""
        return sum(_crosses_box(a, b, w, apart) for w in self.words)


def place_all(found: list[Measured], room: Room, k: float) -> list[Item]:
    """Return the dimensions of a view as they are drawn; lost ones are left out."""
    held = [m for m in found if m.state != "lost"]
    first = [m for m in held if m.of.put is not None]
    later = sorted((m for m in held if m.of.put is None), key=lambda m: _order(m, k))
    placed = {}
    for m in (*first, *later):
        placed[m.of.id] = _placed(m, room, k)
    return [placed[m.of.id] for m in held]


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
        "level": _lane,
        "upright": _lane,
        "straight": _straight,
        "angle": _angle,
        "round": _round,
        "leader": _leader,
        "places_x": _places,
        "places_y": _places,
    }[m.shape]
    draw(item, m, feet, room, k)
    if m.state == "held":  # to be confirmed: told on the page, too
        item.texts = [replace(t, pen="lost") for t in item.texts]
    return item


# — lanes —


def _lane(item: Item, m: Measured, feet: list[XY], room: Room, k: float) -> None:
    axis = 0 if m.shape == "level" else 1
    low, high = sorted((feet[0], feet[1]), key=lambda p: p[axis])
    start, end = low[axis], high[axis]
    length, width = end - start, width_of(m.said, HEIGHT)
    inside = width + 1.0 <= length
    arrows_in = length >= 2 * ARROW + 1.0
    beside = 0.0 if inside else (end - start) / 2 + (ARROW + 2.0) + width / 2
    middle = (start + end) / 2 + beside
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


def arrow(tip: XY, way: XY, size: float = ARROW) -> Blot:
    """Return an arrow's head that points along a unit direction: 10 degrees on each side."""
    (x, y), (u, v) = tip, way
    half = size * math.tan(math.radians(10))
    return Blot(
        (
            tip,
            (x - size * u - half * v, y - size * v + half * u),
            (x - size * u + half * v, y - size * v - half * u),
        )
    )


# — places counted from one, and chains —


def _places(item: Item, m: Measured, feet: list[XY], room: Room, k: float) -> None:
    axis = 0 if m.shape == "places_x" else 1
    along = [p[axis] for p in feet]
    edge = room.box[1] if axis == 0 else room.box[0]
    chain = m.of.sort.startswith("chain")
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


# — straight, aslant —


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


# — angles —


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
            a, b = _polar(corner, reach + GAP, t), _polar(corner, radius + PAST, t)
            item.inks.append(line(a, b))
            room.leaders.append((a, b))
    start, stop = _polar(corner, radius, t0), _polar(corner, radius, t0 + sweep)
    item.inks.append(Ink(Stroke("arc", start, stop, corner, radius, t0, t0 + sweep), "thin"))
    steps = [_polar(corner, radius, t0 + sweep * i / 12) for i in range(13)]
    room.lines += itertools.pairwise(steps)
    inward = 1.0 if radius * sweep > 2 * ARROW + 1 else -1.0
    lean = ARROW / 2 / radius
    for tip, t, s in ((start, t0 + lean, -1.0), (stop, t0 + sweep - lean, 1.0)):
        item.blots.append(arrow(tip, (-inward * s * math.sin(t), inward * s * math.cos(t))))
    set_words(item, m.said, (box[0], box[1]), HEIGHT)
    room.words.append(box)
    item.place = ((box[0] + box[2]) / 2, (box[1] + box[3]) / 2)


def _angle_box(corner: XY, radius: float, bisector: float, width: float) -> Box:
    """Return the box of level words just outside of an arc."""
    x, y = _polar(corner, radius + 1.5, bisector)
    c, s = math.cos(bisector), math.sin(bisector)
    x0 = x - width / 2 + c * width / 2
    y0 = y - HEIGHT / 2 + s * HEIGHT / 2
    return x0, y0, x0 + width, y0 + HEIGHT


def _polar(middle: XY, radius: float, angle: float) -> XY:
    return middle[0] + radius * math.cos(angle), middle[1] + radius * math.sin(angle)


# — leaders —


def _round(item: Item, m: Measured, feet: list[XY], room: Room, k: float) -> None:
    middle, on = feet
    radius = k * m.radius
    own = math.atan2(on[1] - middle[1], on[0] - middle[0])
    partial = m.of.sort == "radius"
    turns = [own] if partial else [2 * math.pi * i / TURNS for i in range(TURNS)]
    starts = [(_polar(middle, radius, t), t) for t in turns]
    if partial:  # a small arc is led out in any direction that is not along it
        starts = [
            (on, own + d)
            for d in (0.0, 0.4, -0.4, 0.8, -0.8, 1.1, -1.1, math.pi, math.pi - 0.4, math.pi + 0.4)
        ]
    _lead(item, m, starts, room, middle)
    if m.of.sort in ("radius", "diameter"):
        item.real = m.of.sort, (middle, item.inks[0].stroke.start)


def _leader(item: Item, m: Measured, feet: list[XY], room: Room, k: float) -> None:
    _lead(item, m, [(feet[0], 2 * math.pi * (i + 0.5) / TURNS) for i in range(TURNS)], room, feet[0])


def _lead(item: Item, m: Measured, starts: list[tuple[XY, float]], room: Room, middle: XY) -> None:
    width = width_of(m.said, HEIGHT)
    item.base = middle
    if m.of.put is not None:
        at = (middle[0] + m.of.put[0], middle[1] + m.of.put[1])
        right = at[0] >= middle[0]
        elbow = (at[0] - (width / 2 + SHELF) * (1 if right else -1), at[1] - HEIGHT / 2 - ABOVE)
        start = min(starts, key=lambda s: math.dist(s[0], elbow))[0]
        _draw_leader(item, m, start, elbow, right, width, room)
        return
    best: tuple[float, XY, XY, bool] | None = None
    for base, start, elbow, right in sorted(_tries(starts, room), key=lambda t: t[0]):
        if best is not None and base >= best[0]:
            break
        cost = base + _hindered(start, elbow, right, room, width)
        if best is None or cost < best[0]:
            best = cost, start, elbow, right
    assert best is not None
    _, start, elbow, right = best
    _draw_leader(item, m, start, elbow, right, width, room)


def _tries(starts: list[tuple[XY, float]], room: Room) -> Iterator[tuple[float, XY, XY, bool]]:
    """Yield places of a leader with what each costs by itself: its length, its direction."""
    for start, turn in starts:
        u, v = math.cos(turn), math.sin(turn)
        out = _way_out(start, (u, v), room.box)
        slant = 15.0 if abs(u) < 0.2 or abs(v) < 0.1 else 0.0  # along a centre line, or level
        for reach in (*REACHES, *(out + r for r in REACHES)):
            elbow = (start[0] + reach * u, start[1] + reach * v)
            yield reach + (0.0 if reach >= out else 8.0) + slant, start, elbow, u >= -1e-9


def _hindered(start: XY, elbow: XY, right: bool, room: Room, width: float) -> float:
    """Return what a leader's place costs by what stands there."""
    box = _leader_box(elbow, right, width)
    shelf = (elbow, (box[2] if right else box[0], elbow[1]))
    cost = 1000.0 * room.words_at(box, CLEAR)
    cost += 300.0 * sum(runs.in_box(box, CLEAR) for runs in (room.outline, room.lines, room.leaders))
    cost += 25.0 * room.inner.in_box(box, CLEAR)
    for run in ((start, elbow), shelf):
        cost += 300.0 * room.over_words(*run, 0.4) + 60.0 * room.leaders.crossing(*run)
        cost += 40.0 * room.lines.crossing(*run) + 8.0 * room.outline.crossing(*run)
    if box[1] < room.box[1] - 3 or box[0] < room.box[0] - 3:
        cost += 12.0  # the lanes' sides
    return cost


def _way_out(start: XY, way: XY, box: Box) -> float:
    """Return how far it is from a place to the edge of a box."""
    found = []
    for i, (low, high) in enumerate(((box[0], box[2]), (box[1], box[3]))):
        if abs(way[i]) > 1e-9:
            found.append(((high if way[i] > 0 else low) - start[i]) / way[i])
    return max(0.0, min(found, default=0.0))


def _leader_box(elbow: XY, right: bool, width: float) -> Box:
    x = elbow[0] + SHELF if right else elbow[0] - SHELF - width
    return x, elbow[1] + ABOVE, x + width, elbow[1] + ABOVE + HEIGHT


def _draw_leader(
    item: Item, m: Measured, start: XY, elbow: XY, right: bool, width: float, room: Room
) -> None:
    box = _leader_box(elbow, right, width)
    end = (box[2] if right else box[0], elbow[1])
    item.inks += [line(start, elbow), line(elbow, end)]
    length = max(math.dist(start, elbow), 1e-9)
    item.blots.append(arrow(start, ((start[0] - elbow[0]) / length, (start[1] - elbow[1]) / length)))
    room.leaders += [(start, elbow), (elbow, end)]
    room.words.append(box)
    set_words(item, m.said, (box[0], box[1]), HEIGHT)
    item.place = ((box[0] + box[2]) / 2, (box[1] + box[3]) / 2)


# — meeting —


def _crosses_box(a: XY, b: XY, box: Box, apart: float) -> bool:
    """Tell whether a straight piece comes into a box (Liang and Barsky)."""
    t0, t1 = 0.0, 1.0
    for i, (low, high) in enumerate(((box[0] - apart, box[2] + apart), (box[1] - apart, box[3] + apart))):
        d = b[i] - a[i]
        if abs(d) < 1e-12:
            if a[i] <= low or a[i] >= high:
                return False
            continue
        u, v = (low - a[i]) / d, (high - a[i]) / d
        t0, t1 = max(t0, min(u, v)), min(t1, max(u, v))
        if t0 >= t1:
            return False
    return True
