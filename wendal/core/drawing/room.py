"""What stands in and round a view already, and what is asked of it while more is put there."""

from __future__ import annotations

import math
from collections.abc import Iterable
from dataclasses import dataclass, field

import numpy as np

from .ink import XY, Blot, Box, boxes_meet

__all__ = ["ABOVE", "ARROW", "CLEAR", "GAP", "HEIGHT", "PAST", "Room", "Runs", "arrow", "polar"]

HEIGHT = 3.5  # mm a capital (ISO 3098-1)
GAP, PAST = 1.0, 2.0  # mm from the outline to an extension line, and past the dimension line
ARROW = 3.0  # mm
ABOVE = 1.0  # mm between a line and the words on it
CLEAR = 0.8  # mm round words in which nothing else stands
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
    coming : where extension lines are still to come, along the page's axis 0 or 1.
    """

    box: Box
    outline: Runs = field(default_factory=Runs)
    inner: Runs = field(default_factory=Runs)
    words: list[Box] = field(default_factory=list)
    lines: Runs = field(default_factory=Runs)
    leaders: Runs = field(default_factory=Runs)
    coming: list[tuple[int, float]] = field(default_factory=list)

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


def polar(middle: XY, radius: float, angle: float) -> XY:
    """Return the place at a distance and an angle (rad) from another."""
    return middle[0] + radius * math.cos(angle), middle[1] + radius * math.sin(angle)
