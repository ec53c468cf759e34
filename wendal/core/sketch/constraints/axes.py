"""The two axes of an ellipse, each as a dimension."""

from __future__ import annotations

import math

from ...errors import SketchError
from ...tolerance import BROKEN
from ..drawn import Constraint, Layout, Oval, Place
from ..equations import distance, same
from .base import Compiled, Row, Rule, register


def half_axis(ellipse: Oval, at: Layout) -> float:
    """Return the drawn half-axis from the centre to the tip in mm, at least a little more than nothing."""
    (cx, cy), (tx, ty) = ((at.figures[v] for v in at.xy(p)) for p in (ellipse.centre, ellipse.tip))
    return max(math.hypot(tx - cx, ty - cy), BROKEN * at.size())


def stands_inside(ellipse: Oval, at: Layout, place: Place) -> bool:
    """Tell whether a place (mm) is inside an ellipse as drawn."""
    (cx, cy), (tx, ty) = ((at.figures[v] for v in at.xy(p)) for p in (ellipse.centre, ellipse.tip))
    half, (dx, dy) = half_axis(ellipse, at), (place[0] - cx, place[1] - cy)
    along, across = (dx * (tx - cx) + dy * (ty - cy)) / half, ((tx - cx) * dy - (ty - cy) * dx) / half
    return math.hypot(along / half, across / ellipse.radius) < 1


def _ellipse(c: Constraint, at: Layout) -> Oval:
    found = at.drawing.curves[c.of[0]]
    assert isinstance(found, Oval)
    if found.side:
        raise SketchError(
            "What runs beside an ellipse has no axes of its own. Give the ellipse itself a dimension.",
            field=c.of[0],
        )
    return found


@register
class WholeAxis(Rule):
    """The whole axis of an ellipse along which it was drawn."""

    kind, title, symbol, key = "axis", "Axis", "⬭", "c d"
    takes = (("oval",),)
    quantity = "length"

    def measure(self, c: Constraint, at: Layout) -> float:
        """Return the present length in mm."""
        return 2 * half_axis(_ellipse(c, at), at)

    def compile(self, c: Constraint, at: Layout, value: float) -> Compiled:
        """Half of it from the centre to the tip."""
        ellipse = _ellipse(c, at)
        return Compiled([Row(distance, at.xy(ellipse.centre) + at.xy(ellipse.tip), (value / 2,))])


@register
class CrossAxis(Rule):
    """The whole axis of an ellipse across the one along which it was drawn."""

    kind, title, symbol, key = "cross_axis", "Cross axis", "⬯", "c d"
    takes = (("oval",),)
    quantity = "length"

    def measure(self, c: Constraint, at: Layout) -> float:
        """Return the present length in mm."""
        return 2 * _ellipse(c, at).radius

    def compile(self, c: Constraint, at: Layout, value: float) -> Compiled:
        """The half-axis is a variable of its own; variable 0 never moves and is nothing."""
        _ellipse(c, at)
        return Compiled([Row(same, (at.radius(c.of[0]), 0), (value / 2,))])
