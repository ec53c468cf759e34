"""The section of a hole: what is turned about its axis to make its tool."""

from __future__ import annotations

import math
from dataclasses import dataclass

__all__ = ["Section", "outline_of"]


@dataclass(frozen=True, slots=True)
class Section:
    """A hole's section, mm. length : of full diameter from where it begins; cone : height of its tip; wide,
    deep, angle : of its head; threaded : length of its thread, 0 for all of it.
    """

    radius: float
    length: float
    cone: float
    wide: float = 0.0
    deep: float = 0.0
    angle: float = 0.0
    threaded: float = 0.0


def outline_of(s: Section, head: str) -> tuple[list[tuple[float, float]], list[str]]:
    """Return a tool's half section as (radius, depth) places, and what the stretches from each to the next
    are called."""
    if head == "countersink":
        sunk = (s.wide / 2 - s.radius) / math.tan(s.angle / 2)
        places, parts = [(0.0, 0.0), (s.wide / 2, 0.0), (s.radius, sunk)], ["cap", "countersink cone"]
    elif head:
        word = "spotface" if head == "spotface" else "counterbore"
        places = [(0.0, 0.0), (s.wide / 2, 0.0), (s.wide / 2, s.deep), (s.radius, s.deep)]
        parts = ["cap", f"{word} wall", f"{word} floor"]
    else:
        places, parts = [(0.0, 0.0), (s.radius, 0.0)], ["cap"]
    if s.length > places[-1][1] + 1e-9:
        places.append((s.radius, s.length))
        parts.append("drilled wall")
    places.append((0.0, s.length + s.cone))
    parts += ["tip cone" if s.cone else "hole floor", "axis"]
    return places, parts
