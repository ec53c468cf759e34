"""Two lines have one direction."""

from __future__ import annotations

import math

from ..drawn import Constraint, Layout
from ..equations import angle
from .base import Compiled, Row, Rule, register
from .turning import line_length, turn


@register
class Parallel(Rule):
    """Two lines are parallel; sense 1 as drawn the same way round, -1 against each other."""

    kind, title, symbol, key = "parallel", "Parallel", "∥", "c p"
    takes = (("line", "line"),)

    def choose(self, c: Constraint, at: Layout) -> float:
        """Tell the same way round from the opposite one."""
        return 1.0 if abs(turn(c.of, at)) < math.pi / 2 else -1.0

    def compile(self, c: Constraint, at: Layout, value: float) -> Compiled:
        """A turn of 0 or of half a circle."""
        goal = 0.0 if c.sense > 0 else math.pi
        return Compiled([Row(angle, at.line(c.of[0]) + at.line(c.of[1]), (goal, line_length(c.of, at)))])
