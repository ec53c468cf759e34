"""Two lines stand square to each other."""

from __future__ import annotations

import math

from ..drawn import Constraint, Layout
from ..equations import angle
from .base import Compiled, Row, Rule, register
from .turning import line_length, turn


@register
class Square(Rule):
    """Two lines are perpendicular; sense 1 for a left turn from the first to the second, -1 for a right
    one."""

    kind, title, symbol, key = "square", "Square", "⊥", "c s"
    takes = (("line", "line"),)

    def choose(self, c: Constraint, at: Layout) -> float:
        """Tell a left turn from a right one."""
        return 1.0 if turn(c.of, at) >= 0 else -1.0

    def compile(self, c: Constraint, at: Layout, value: float) -> Compiled:
        """A quarter turn."""
        goal = math.copysign(math.pi / 2, c.sense)
        return Compiled([Row(angle, at.line(c.of[0]) + at.line(c.of[1]), (goal, line_length(c.of, at)))])
