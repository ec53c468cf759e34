"""Round dimensions and notes on leaders: of many places the cheapest, short and crossing nothing."""

from __future__ import annotations

import math
from collections.abc import Iterator

from .dimensions import Measured
from .ink import XY, Box, Item, line, width_of
from .room import ABOVE, CLEAR, HEIGHT, Room, arrow, polar
from .words import set_words

__all__ = ["on_leader", "on_round"]

TURNS, REACHES = 24, (9.0, 16.0, 25.0, 36.0)  # of leaders: directions and lengths that are tried
SHELF = 2.0  # mm of a leader's level end before its words


def on_round(item: Item, m: Measured, feet: list[XY], room: Room, k: float) -> None:
    """Draw a radius, a diameter or a hole's note on a leader from its circle."""
    middle, on = feet
    radius = k * m.radius
    own = math.atan2(on[1] - middle[1], on[0] - middle[0])
    partial = m.of.kind == "radius"
    turns = [own] if partial else [2 * math.pi * i / TURNS for i in range(TURNS)]
    starts = [(polar(middle, radius, t), t) for t in turns]
    if partial:  # a small arc is led out in any direction that is not along it
        starts = [
            (on, own + d)
            for d in (0.0, 0.4, -0.4, 0.8, -0.8, 1.1, -1.1, math.pi, math.pi - 0.4, math.pi + 0.4)
        ]
    _lead(item, m, starts, room, middle)
    if m.of.kind in ("radius", "diameter"):
        item.real = m.of.kind, (middle, item.inks[0].stroke.start)


def on_leader(item: Item, m: Measured, feet: list[XY], room: Room, k: float) -> None:
    """Draw a note on a leader from a place."""
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
