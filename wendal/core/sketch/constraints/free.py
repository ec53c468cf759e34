"""What lies on an ellipse or spline, touches it, or stands square to it; and the same of what runs beside
one."""

from __future__ import annotations

from ..drawn import Layout, Oval, Spline
from ..equations import arc_oval_end, off_ellipse, off_spline, point_ellipse, square_off
from .axes import half_axis
from .base import Row

__all__ = ["lies_on", "own_variables", "square_beside", "touched_by"]


def own_variables(curve: str, at: Layout) -> tuple[int, ...]:
    """Return the variables that shape an ellipse (middle, tip, other half-axis) or a spline (its points)."""
    c = at.drawing.curves[curve]
    return (*at.xy(c.centre), *at.xy(c.tip), at.radius(curve)) if isinstance(c, Oval) else at.over(curve)


def lies_on(point: str, curve: str, at: Layout) -> Row:
    """Return the row of a point that lies on an ellipse or spline, or on what runs beside one."""
    c, own = at.drawing.curves[curve], own_variables(curve, at)
    away, side = at.away(curve)
    if isinstance(c, Oval):
        if side:
            return Row(off_ellipse, (*at.xy(point), *own, away, 0), (side, 0.0))
        return Row(point_ellipse, (*at.xy(point), *own), (half_axis(c, at),))
    assert isinstance(c, Spline)
    return Row(off_spline(tuple(c.knots), len(c.over)), (*own, *at.xy(point), away, 0), (side, 0.0))


def touched_by(ring: str, curve: str, at: Layout, sense: float) -> Row:
    """Return the row of a circle or arc that touches an ellipse or spline, or what runs beside one, from the
    left (1) or right (-1)."""
    c, own = at.drawing.curves[curve], own_variables(curve, at)
    away, side = at.away(curve)
    centre, more, signs = at.centre(ring), (at.radius(ring), away), (sense, side)
    if isinstance(c, Oval):
        return Row(off_ellipse, (*centre, *own, *more), signs)
    assert isinstance(c, Spline)
    return Row(off_spline(tuple(c.knots), len(c.over)), (*own, *centre, *more), signs)


def square_beside(point: str, end: str, curve: str, at: Layout) -> Row:
    """Return the row of a point that stands square to an ellipse or spline at an end of it."""
    c, own = at.drawing.curves[curve], own_variables(curve, at)
    if isinstance(c, Oval):
        return Row(arc_oval_end, (*at.xy(end), *own, *at.xy(point)), (half_axis(c, at) ** 2,))
    assert isinstance(c, Spline)
    return Row(square_off(tuple(c.knots), len(c.over)), (*own, *at.xy(end), *at.xy(point)))
