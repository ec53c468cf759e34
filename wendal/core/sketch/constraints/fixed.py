"""A point, line or circle stays where it is drawn."""

from __future__ import annotations

from ..drawn import Constraint, Layout
from .base import Compiled, Rule, register


@register
class Fixed(Rule):
    """Everything that shapes the picked thing keeps its drawn value."""

    kind, title, symbol, key = "fixed", "Fix", "⏚", "c f"
    takes = (("point",), ("line",), ("round",), ("oval",), ("spline",))

    def compile(self, c: Constraint, at: Layout, value: float) -> Compiled:
        """Hold the variables."""
        return Compiled(held=at.variables(c.of[0]))
