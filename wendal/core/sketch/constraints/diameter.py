"""The diameter dimension."""

from __future__ import annotations

from ..drawn import Constraint, Layout
from ..equations import same
from .base import Compiled, Row, Rule, register


@register
class Diameter(Rule):
    """The diameter of a circle or arc."""

    kind, title, symbol, key = "diameter", "Diameter", "Ø", "c d"
    takes = (("round",),)
    quantity = "length"

    def measure(self, c: Constraint, at: Layout) -> float:
        """Return the present diameter in mm."""
        return 2 * float(at.x[at.radius(c.of[0])])

    def compile(self, c: Constraint, at: Layout, value: float) -> Compiled:
        """The radius variable has the value; the origin's zero stands in as the other side."""
        return Compiled([Row(same, (at.radius(c.of[0]), 0), (value / 2,))])
