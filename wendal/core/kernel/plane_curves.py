"""Curves of a plane as the kernel's: circles, ellipses, B-splines."""

from __future__ import annotations

import math

from OCP.collections import Array1_double, Array1_gp_Pnt, Array1_int
from OCP.Geom import (
    Geom_BSplineCurve,
    Geom_Circle,
    Geom_Curve,
    Geom_Ellipse,
    Geom_OffsetCurve,
    Geom_TrimmedCurve,
)
from OCP.GeomAbs import GeomAbs_Shape
from OCP.GeomConvert import GeomConvert_ApproxCurve
from OCP.gp import gp_Ax2

from ..tolerance import KNOT, ONE_PLACE
from .shapes import direction, point
from .types import Frame, Segment

__all__ = ["plane_curve"]


def plane_curve(segment: Segment, frame: Frame) -> tuple[Geom_Curve, float]:
    """Return the curve of a segment that is not straight, and what its own parameter must be raised by to be
    the kernel's."""
    curve, shift = _shape(segment, frame)
    return (_beside(curve, shift, segment, frame), shift) if segment.away else (curve, shift)


def _beside(curve: Geom_Curve, shift: float, segment: Segment, frame: Frame) -> Geom_Curve:
    """Return what runs beside a curve as a B-spline, within the kernel's own closeness: its faces are quicker
    and surer to cut."""
    low, high = sorted((segment.t0 + shift, segment.t1 + shift))
    exact = Geom_OffsetCurve(curve, -segment.away, direction(frame.normal))
    near = GeomConvert_ApproxCurve(
        Geom_TrimmedCurve(exact, low, high), ONE_PLACE, GeomAbs_Shape.GeomAbs_C1, 1000, 7
    )
    return near.Curve() if near.HasResult() and near.MaxError() <= 2 * ONE_PLACE else exact


def _shape(segment: Segment, frame: Frame) -> tuple[Geom_Curve, float]:
    if segment.poles:
        return _spline(segment, frame), 0.0
    assert segment.centre is not None
    middle = point(frame.at(*segment.centre))
    if segment.half is None:
        return Geom_Circle(gp_Ax2(middle, direction(frame.normal), direction(frame.x)), segment.radius), 0.0
    hx, hy = segment.half
    own, other = math.hypot(hx, hy), segment.radius
    # The kernel wants the longer half-axis first: where it is the one across, its angle runs a quarter turn
    # behind.
    x, y = (hx, hy) if own >= other else (-hy, hx)
    along = (
        x * frame.x[0] + y * frame.y[0],
        x * frame.x[1] + y * frame.y[1],
        x * frame.x[2] + y * frame.y[2],
    )
    axes = gp_Ax2(middle, direction(frame.normal), direction(along))
    return Geom_Ellipse(axes, max(own, other), min(own, other)), 0.0 if own >= other else -math.pi / 2


def _spline(segment: Segment, frame: Frame) -> Geom_BSplineCurve:
    poles = Array1_gp_Pnt(1, len(segment.poles))
    for i, pole in enumerate(segment.poles, 1):
        poles.SetValue(i, point(frame.at(*pole)))
    values: list[float] = []
    counts: list[int] = []
    for knot in segment.knots:
        if values and knot - values[-1] < KNOT:
            counts[-1] += 1
        else:
            values.append(knot)
            counts.append(1)
    knots, multiples = Array1_double(1, len(values)), Array1_int(1, len(values))
    for i, (value, count) in enumerate(zip(values, counts, strict=True), 1):
        knots.SetValue(i, value)
        multiples.SetValue(i, count)
    return Geom_BSplineCurve(poles, knots, multiples, segment.degree)
