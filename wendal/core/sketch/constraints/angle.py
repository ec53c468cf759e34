"""The angle dimension between two lines."""

from __future__ import annotations

import math

from ...errors import SketchError
from ...tolerance import FULL_ROUND
from ..drawn import Constraint, Drawing, Layout
from ..equations import angle
from .base import Compiled, Row, Rule, register
from .turning import line_length, turn


@register
class Angle(Rule):
    """The angle between two lines; sense 1 for a left turn from the first to the second, -1 for a right
    one."""

    kind, title, symbol, key = "angle", "Angle", "∠", "c d"
    takes = (("line", "line"),)
    quantity = "angle"

    def choose(self, c: Constraint, at: Layout) -> float:
        """Tell a left turn from a right one."""
        return 1.0 if turn(c.of, at) >= 0 else -1.0

    def measure(self, c: Constraint, at: Layout) -> float:
        """Return the present angle in rad."""
        return abs(turn(c.of, at))

    def check_value(self, value: float, c: Constraint, drawing: Drawing) -> None:
        """Refuse what is not between zero and half a turn; at half a turn the lines run opposite ways."""
        if not 0 < value <= math.pi + FULL_ROUND:
            raise SketchError(
                "An angle between two lines is greater than 0 deg and at most 180 deg; "
                f"this comes to {math.degrees(value):g} deg.",
                field="value",
            )

    def compile(self, c: Constraint, at: Layout, value: float) -> Compiled:
        """The turn has the stored sign."""
        return Compiled(
            [Row(angle, at.line(c.of[0]) + at.line(c.of[1]), (c.sense * value, line_length(c.of, at)))]
        )
