"""Ways along curves. Asked without a tolerance the kernel integrates once over the whole curve, and is some
percent off where its speed changes much (slender ellipses, splines); asked with one it halves until it is
right."""

from __future__ import annotations

from OCP.BRepAdaptor import BRepAdaptor_Curve
from OCP.GCPnts import GCPnts_AbscissaPoint

from ..tolerance import ALONG

__all__ = ["length_of", "parameter_at"]


def length_of(curve: BRepAdaptor_Curve, first: float | None = None, last: float | None = None) -> float:
    """Return a curve's length between two parameters, its ends unless given, mm."""
    a = curve.FirstParameter() if first is None else first
    b = curve.LastParameter() if last is None else last
    return float(GCPnts_AbscissaPoint.Length_s(curve, a, b, ALONG))


def parameter_at(curve: BRepAdaptor_Curve, distance: float) -> float:
    """Return the parameter so many mm along a curve from its beginning."""
    return float(GCPnts_AbscissaPoint(ALONG, curve, distance, curve.FirstParameter()).Parameter())
