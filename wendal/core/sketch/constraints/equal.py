"""Two lengths or two radii are equal."""

from __future__ import annotations

from ..drawn import Constraint, Layout
from ..equations import equal_length
from .base import Compiled, Row, Rule, register


@register
class Equal(Rule):
    """Two lines, or two pairs of points, have one length; two round curves one radius, two ellipses one cross
    axis, two curves that run beside others one distance from them.

    Of three points, the second is as far from the first as from the third.
    """

    kind, title, symbol, key = "equal", "Equal", "=", "c e"
    takes = (
        ("line", "line"),
        ("round", "round"),
        ("oval", "oval"),
        ("point", "point", "point"),
        ("point", "point", "point", "point"),
    )

    def compile(self, c: Constraint, at: Layout, value: float) -> Compiled:
        """Merge the radii, or equate the lengths."""
        if len(c.of) > 2:
            spans = c.of if len(c.of) == 4 else [c.of[0], c.of[1], c.of[1], c.of[2]]
            return Compiled([Row(equal_length, tuple(v for p in spans for v in at.xy(p)))])
        first, second = c.of
        if at.drawing.kind(first) == "line":
            return Compiled([Row(equal_length, at.line(first) + at.line(second))])
        merges = [(at.away(first)[0], at.away(second)[0])] if {first, second} <= set(at.beside) else []
        if at.drawing.kind(first) != "spline":
            merges.append((at.radius(first), at.radius(second)))
        return Compiled(merges=merges)
