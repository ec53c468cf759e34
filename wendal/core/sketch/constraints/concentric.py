"""Two round curves have one centre."""

from __future__ import annotations

from ..drawn import Constraint, Layout
from .base import Compiled, Rule, register


@register
class Concentric(Rule):
    """Circles, arcs or ellipses share their centre, or a centre stands at a point."""

    kind, title, symbol, key = "concentric", "Concentric", "◎", "c n"
    takes = (("round", "round"), ("round", "point"), ("oval", "point"), ("oval", "round"), ("oval", "oval"))

    def compile(self, c: Constraint, at: Layout, value: float) -> Compiled:
        """Merge both coordinates of the centres."""
        second = at.xy(c.of[1]) if at.drawing.kind(c.of[1]) == "point" else at.centre(c.of[1])
        return Compiled(merges=list(zip(at.centre(c.of[0]), second, strict=True)))
