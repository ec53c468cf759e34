"""The length of an arc."""

from __future__ import annotations

import math

from ..drawn import Arc, Constraint, Layout
from ..equations import arc_length
from .base import Compiled, Row, Rule, register


@register
class ArcLength(Rule):
    """The way along an arc from end to end."""

    kind, title, symbol, key = "arc_length", "Arc length", "⌢", "c d"
    takes = (("arc",),)
    quantity = "length"

    def measure(self, c: Constraint, at: Layout) -> float:
        """Return the present length in mm."""
        return self._sweep(c, at) * float(at.x[at.radius(c.of[0])])

    def compile(self, c: Constraint, at: Layout, value: float) -> Compiled:
        """Sweep times radius."""
        arc = self._arc(c, at)
        variables = (*at.xy(arc.centre), *at.xy(arc.start), *at.xy(arc.end), at.radius(c.of[0]))
        return Compiled([Row(arc_length, variables, (value, self._sweep(c, at)))])

    @staticmethod
    def _arc(c: Constraint, at: Layout) -> Arc:
        arc = at.drawing.curves[c.of[0]]
        assert isinstance(arc, Arc)
        return arc

    def _sweep(self, c: Constraint, at: Layout) -> float:
        arc = self._arc(c, at)
        (cx, cy), (sx, sy), (ex, ey) = (at.x[list(at.xy(p))] for p in (arc.centre, arc.start, arc.end))
        return (math.atan2(ey - cy, ex - cx) - math.atan2(sy - cy, sx - cx)) % (2 * math.pi) or 2 * math.pi
