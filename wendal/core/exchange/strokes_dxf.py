"""Strokes in a DXF file, each as what it is."""

from __future__ import annotations

import math
from typing import Any

from ..strokes import Stroke

__all__ = ["add_stroke"]


def add_stroke(space: Any, s: Stroke) -> None:
    """Add a stroke as what it is."""
    layer = {"layer": s.layer}
    if s.kind == "line":
        space.add_line(s.start, s.end, dxfattribs=layer)
    elif s.kind == "arc" and s.closed:
        space.add_circle(s.centre, s.radius, dxfattribs=layer)
    elif s.kind == "arc":
        a, b = sorted((s.t0, s.t1))  # always counter-clockwise
        space.add_arc(s.centre, s.radius, math.degrees(a), math.degrees(b), dxfattribs=layer)
    elif s.kind == "ellipse":
        major, ratio, a, b = s.major, s.ratio, *sorted((s.t0, s.t1))
        if ratio > 1:  # the longer half-axis is the major one
            major, a, b = (-major[1] * ratio, major[0] * ratio), a - math.pi / 2, b - math.pi / 2
            ratio = 1 / ratio
        if s.closed:
            a, b = 0.0, 2 * math.pi
        space.add_ellipse(s.centre, (*major, 0.0), ratio, a, b, dxfattribs=layer)
    elif s.weights:
        space.add_rational_spline(s.poles, s.weights, degree=s.degree, knots=s.knots, dxfattribs=layer)
    else:
        made = space.add_open_spline(s.poles, degree=s.degree, knots=s.knots, dxfattribs=layer)
        made.dxf.flags = made.dxf.flags | 8  # it lies in a plane
