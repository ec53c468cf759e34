"""Round faces of a body as drawings need them: their axis, how far round they go, from where to where."""

from __future__ import annotations

import math
from dataclasses import dataclass

from OCP.BRepAdaptor import BRepAdaptor_Surface
from OCP.BRepTools import BRepTools
from OCP.GeomAbs import GeomAbs_SurfaceType
from OCP.TopAbs import TopAbs_Orientation

from .named import NamedShape
from .shapes import faces_of, place
from .types import Vec

__all__ = ["Round", "rounds_of"]


@dataclass(frozen=True, slots=True)
class Round:
    """A cylinder or cone: a place on its axis and the unit direction, its radius (of a cone, the greater),
    how far round it goes (rad), where it begins and ends along the axis from that place (mm), whether it is a
    hole's."""

    face: int
    origin: Vec
    way: Vec
    radius: float
    sweep: float
    low: float
    high: float
    hollow: bool
    cone: bool


def rounds_of(shape: NamedShape) -> list[Round]:
    """Return all cylinders and cones of a body."""
    found = []
    for i, face in enumerate(faces_of(shape.shape)):
        surface = BRepAdaptor_Surface(face)
        kind = surface.GetType()
        u0, u1, v0, v1 = BRepTools.UVBounds_s(face)
        if kind == GeomAbs_SurfaceType.GeomAbs_Cylinder:
            held = surface.Cylinder()
            radius, low, high, cone = held.Radius(), v0, v1, False
        elif kind == GeomAbs_SurfaceType.GeomAbs_Cone:
            held = surface.Cone()
            half = held.SemiAngle()
            low, high = (v * math.cos(half) for v in (v0, v1))
            radius, cone = max(abs(held.RefRadius() + v * math.sin(half)) for v in (v0, v1)), True
        else:
            continue
        position = held.Position()
        axis = position.Direction()
        outward = position.Direct() == (face.Orientation() == TopAbs_Orientation.TopAbs_FORWARD)
        found.append(
            Round(
                i,
                place(position.Location()),
                (axis.X(), axis.Y(), axis.Z()),
                radius,
                u1 - u0,
                min(low, high),
                max(low, high),
                not outward,
                cone,
            )
        )
    return found
