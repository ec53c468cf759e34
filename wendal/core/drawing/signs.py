"""Signs of drawings that the font does not have, as strokes: ISO 129-1 (depth, counterbore …), ISO 1101 and
others.

A sign is drawn in capital heights: y from 0 to 1, x from 0 to its width, with a gap on both sides.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from itertools import pairwise

from ..strokes import Stroke

__all__ = ["GEOMETRY", "SIGNS", "Sign"]

XY = tuple[float, float]


@dataclass(frozen=True, slots=True)
class Sign:
    """A sign: how wide, and its lines and circles (middle, radius)."""

    width: float
    lines: tuple[tuple[XY, ...], ...] = ()
    circles: tuple[tuple[XY, float], ...] = ()
    arcs: tuple[tuple[XY, float, float, float], ...] = ()  # middle, radius, from and to in degrees

    def strokes(self) -> list[Stroke]:
        """Return its strokes, in capital heights."""
        found = [Stroke("line", a, b) for run in self.lines for a, b in pairwise(run)]
        turns = [(c, r, 0.0, 360.0) for c, r in self.circles] + list(self.arcs)
        for (x, y), r, a, b in turns:
            t0, t1 = math.radians(a), math.radians(b)
            found.append(
                Stroke(
                    "arc",
                    (x + r * math.cos(t0), y + r * math.sin(t0)),
                    (x + r * math.cos(t1), y + r * math.sin(t1)),
                    centre=(x, y),
                    radius=r,
                    t0=t0,
                    t1=t1,
                )
            )
        return found


def _arrow(x0: float, y0: float, x1: float, y1: float, head: float = 0.28) -> tuple[tuple[XY, ...], ...]:
    along = math.atan2(y1 - y0, x1 - x0)
    wings = tuple(
        (x1 - head * math.cos(along + s * 0.45), y1 - head * math.sin(along + s * 0.45)) for s in (1, -1)
    )
    return ((x0, y0), (x1, y1)), (wings[0], (x1, y1), wings[1])


SIGNS: dict[str, Sign] = {
    "⌴": Sign(1.3, (((0.15, 0.75), (0.15, 0.1), (1.15, 0.1), (1.15, 0.75)),)),
    "⌵": Sign(1.3, (((0.15, 0.85), (0.65, 0.1), (1.15, 0.85)),)),
    "↧": Sign(1.1, (((0.15, 0.95), (0.95, 0.95)), *_arrow(0.55, 0.95, 0.55, 0.0))),
    "□": Sign(1.1, (((0.15, 0.05), (0.95, 0.05), (0.95, 0.85), (0.15, 0.85), (0.15, 0.05)),)),
    "→": Sign(1.3, _arrow(0.15, 0.4, 1.15, 0.4)),
    "≤": Sign(1.0, (((0.85, 0.9), (0.15, 0.55), (0.85, 0.2)), ((0.15, 0.05), (0.85, 0.05)))),
    "⌖": Sign(1.4, (((0.1, 0.5), (1.3, 0.5)), ((0.7, -0.1), (0.7, 1.1))), (((0.7, 0.5), 0.4),)),
    "⏤": Sign(1.4, (((0.1, 0.5), (1.3, 0.5)),)),
    "⏥": Sign(1.6, (((0.1, 0.1), (1.1, 0.1), (1.5, 0.9), (0.5, 0.9), (0.1, 0.1)),)),
    "○": Sign(1.3, (), (((0.65, 0.5), 0.5),)),
    "⌭": Sign(1.6, (((0.1, 0.0), (0.5, 1.0)), ((1.1, 0.0), (1.5, 1.0))), (((0.8, 0.5), 0.4),)),
    "⌒": Sign(1.4, (), (), (((0.7, 0.1), 0.6, 0.0, 180.0),)),
    "⌓": Sign(1.4, (((0.1, 0.1), (1.3, 0.1)),), (), (((0.7, 0.1), 0.6, 0.0, 180.0),)),
    "∥": Sign(1.2, (((0.2, 0.0), (0.6, 1.0)), ((0.6, 0.0), (1.0, 1.0)))),
    "⊥": Sign(1.3, (((0.1, 0.0), (1.2, 0.0)), ((0.65, 0.0), (0.65, 1.0)))),
    "∠": Sign(1.4, (((1.3, 0.0), (0.1, 0.0), (1.1, 0.9)),)),
    "◎": Sign(1.4, (), (((0.7, 0.5), 0.55), ((0.7, 0.5), 0.28))),
    "⌯": Sign(1.4, (((0.1, 0.5), (1.3, 0.5)), ((0.4, 0.8), (1.0, 0.8)), ((0.4, 0.2), (1.0, 0.2)))),
    "↗": Sign(1.2, _arrow(0.2, 0.0, 0.95, 0.95)),
    "⌰": Sign(1.7, (*_arrow(0.2, 0.0, 0.85, 0.95), *_arrow(0.75, 0.0, 1.4, 0.95), ((0.2, 0.0), (0.75, 0.0)))),
}
# ISO 1101: what each tolerance is called, and its sign.
GEOMETRY = {
    "straightness": "⏤",
    "flatness": "⏥",
    "circularity": "○",
    "cylindricity": "⌭",
    "line profile": "⌒",
    "surface profile": "⌓",
    "parallelism": "∥",
    "perpendicularity": "⊥",
    "angularity": "∠",
    "position": "⌖",
    "concentricity": "◎",
    "symmetry": "⌯",
    "run-out": "↗",
    "total run-out": "⌰",
}
