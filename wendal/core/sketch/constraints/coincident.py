"""Two points are one."""

from __future__ import annotations

from ..drawn import Constraint, Layout
from .base import Compiled, Rule, register


@register
class Coincident(Rule):
    """Two points stand at the same place."""

    kind, title, symbol, key = "coincident", "Coincident", "•", "c c"
    takes = (("point", "point"),)

    def compile(self, c: Constraint, at: Layout, value: float) -> Compiled:
        """Merge both coordinates."""
        return Compiled(merges=list(zip(at.xy(c.of[0]), at.xy(c.of[1]), strict=True)))
