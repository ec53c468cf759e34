"""The forms of single faces and edges: their surfaces and curves in figures."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray
from OCP.BRepAdaptor import BRepAdaptor_Curve, BRepAdaptor_Surface
from OCP.BRepGProp import BRepGProp
from OCP.BRepLProp import BRepLProp_SLProps
from OCP.BRepTools import BRepTools
from OCP.GeomAbs import GeomAbs_CurveType, GeomAbs_SurfaceType
from OCP.gp import gp_Pnt, gp_Vec
from OCP.GProp import GProp_GProps
from OCP.TopAbs import TopAbs_Orientation
from OCP.TopoDS import TopoDS_Edge, TopoDS_Face

from ..tolerance import NO_LENGTH, NORMAL_STEP
from .lengths import length_of, parameter_at
from .shapes import place
from .types import Edge, Frame, Vec, add, dot, minus, scaled, unit, upright

__all__ = [
    "FaceForm",
    "area_of",
    "curve_of",
    "edge_form",
    "face_form",
    "middle_of",
    "out_of_flat",
    "surface_row",
]

_FORMS = {
    GeomAbs_SurfaceType.GeomAbs_Plane: "flat",
    GeomAbs_SurfaceType.GeomAbs_Cylinder: "round",
    GeomAbs_SurfaceType.GeomAbs_Cone: "cone",
    GeomAbs_SurfaceType.GeomAbs_Sphere: "sphere",
    GeomAbs_SurfaceType.GeomAbs_Torus: "torus",
}
_CURVES = {
    GeomAbs_CurveType.GeomAbs_Line: "line",
    GeomAbs_CurveType.GeomAbs_Circle: "circle",
    GeomAbs_CurveType.GeomAbs_Ellipse: "ellipse",
}
_ROWS = {
    GeomAbs_SurfaceType.GeomAbs_Plane: 1,
    GeomAbs_SurfaceType.GeomAbs_Cylinder: 2,
    GeomAbs_SurfaceType.GeomAbs_Cone: 3,
    GeomAbs_SurfaceType.GeomAbs_Sphere: 4,
    GeomAbs_SurfaceType.GeomAbs_Torus: 5,
}


@dataclass(frozen=True, slots=True)
class FaceForm:
    """A face without its names and neighbours; the fields are those of `types.Face`."""

    form: str
    frame: Frame
    centre: Vec
    area: float
    radius: float = 0.0
    axis: tuple[Vec, Vec] | None = None
    slope: float = 0.0
    hollow: bool = False

    @property
    def sense(self) -> Vec | None:
        """The direction out of the material where that is the same all over it."""
        return self.frame.normal if self.form == "flat" else None


def curve_of(edge: TopoDS_Edge) -> BRepAdaptor_Curve:
    """Return an edge's curve."""
    return BRepAdaptor_Curve(edge)


def middle_of(curve: BRepAdaptor_Curve) -> tuple[Vec, float, float]:
    """Return the place halfway along, the length, and the parameter halfway."""
    first, last = curve.FirstParameter(), curve.LastParameter()
    form = curve.GetType()
    if form in (
        GeomAbs_CurveType.GeomAbs_Line,
        GeomAbs_CurveType.GeomAbs_Circle,
    ):  # the parameter runs evenly: nothing is to be integrated
        halfway = (first + last) / 2
        length = (last - first) * (
            curve.Circle().Radius() if form == GeomAbs_CurveType.GeomAbs_Circle else 1.0
        )
    else:
        length = length_of(curve)
        halfway = parameter_at(curve, length / 2)
    return place(curve.Value(halfway)), length, halfway


def edge_form(edge: TopoDS_Edge) -> Edge:
    """Return an edge as references see it, without what meets in it."""
    curve = curve_of(edge)
    middle, length, parameter = middle_of(curve)
    form = _CURVES.get(curve.GetType(), "curve")
    spot, tangent = gp_Pnt(), gp_Vec()
    curve.D1(parameter, spot, tangent)
    along = (
        unit((tangent.X(), tangent.Y(), tangent.Z())) if tangent.Magnitude() > NO_LENGTH else (1.0, 0.0, 0.0)
    )
    ring = curve.Circle() if form == "circle" else curve.Ellipse() if form == "ellipse" else None
    centre, normal, radius = None, None, 0.0
    if ring is not None:
        centre, normal = place(ring.Location()), _vec(ring.Axis().Direction())
        radius = ring.Radius() if form == "circle" else ring.MajorRadius()
    return Edge(
        (),
        (),
        form,
        middle,
        length,
        place(curve.Value(curve.FirstParameter())),
        along,
        centre,
        normal,
        radius,
    )


def area_of(face: TopoDS_Face) -> tuple[float, Vec]:
    """Return a face's area, mm², and where its middle is."""
    props = GProp_GProps()
    BRepGProp.SurfaceProperties_s(face, props)
    return props.Mass(), place(props.CentreOfMass())


def out_of_flat(face: TopoDS_Face) -> Vec | None:
    """Return the direction out of the material of a flat face; None for one that is not flat."""
    surface = BRepAdaptor_Surface(face, False)  # without asking all edges how far it reaches
    if surface.GetType() != GeomAbs_SurfaceType.GeomAbs_Plane:
        return None
    position = surface.Plane().Position()
    normal = position.XDirection().Crossed(position.YDirection())
    turned = -1.0 if face.Orientation() == TopAbs_Orientation.TopAbs_REVERSED else 1.0
    return (turned * normal.X(), turned * normal.Y(), turned * normal.Z())


def face_form(face: TopoDS_Face, area: float, centre: Vec) -> FaceForm:
    """Return a face of a known area and middle as references see it, without its names and neighbours."""
    flat = out_of_flat(face)
    surface = BRepAdaptor_Surface(face, flat is None)
    form = _FORMS.get(surface.GetType(), "curved")
    normal = flat or _normal(face, surface)
    frame = upright(centre, normal) if form == "flat" else Frame(centre, *_any_axes(normal))
    radius, axis, slope = _round(surface, form, centre)
    hollow = False
    if axis is not None and form in ("round", "cone"):
        inward = minus(axis[0], _spot(surface, face))
        hollow = dot(inward, normal) - dot(inward, axis[1]) * dot(normal, axis[1]) > 0
    return FaceForm(form, frame, centre, area, radius, axis, slope, hollow)


def surface_row(face: TopoDS_Face) -> NDArray[np.float64]:
    """Return a surface in ten figures, for comparing: its kind (0 for one that figures do not tell), a
    direction (3), a place (3), sizes (3)."""
    surface = BRepAdaptor_Surface(face, False)
    kind = _ROWS.get(surface.GetType(), 0)
    if not kind:
        return np.zeros(10)
    made = getattr(
        surface, _FORMS[surface.GetType()].replace("flat", "plane").replace("round", "cylinder").capitalize()
    )()
    at, along = (
        np.array(place(made.Location())),
        np.array(_vec((made.Axis() if kind != 4 else made.Position()).Direction())),
    )
    sizes = (0.0, 0.0, 0.0)
    if kind == 1:
        at = (at @ along) * along
    elif kind == 2:
        at, sizes = at - (at @ along) * along, (made.Radius(), 0.0, 0.0)
    elif kind == 3:
        at, sizes = np.array(place(made.Apex())), (0.0, abs(made.SemiAngle()), 0.0)
    elif kind == 4:
        along, sizes = np.zeros(3), (made.Radius(), 0.0, 0.0)
    else:
        sizes = (made.MajorRadius(), made.MinorRadius(), 0.0)
    return np.array([kind, *along, *at, *sizes])


def _vec(d: Any) -> Vec:
    return (d.X(), d.Y(), d.Z())


def _round(
    surface: BRepAdaptor_Surface, form: str, centre: Vec
) -> tuple[float, tuple[Vec, Vec] | None, float]:
    """Return radius, axis (its place beside the face's middle) and slope of a cylinder, cone, torus or
    sphere."""
    if form == "round":
        made, radius, slope = surface.Cylinder(), surface.Cylinder().Radius(), 0.0
    elif form == "cone":
        made, slope = surface.Cone(), math.tan(surface.Cone().SemiAngle())
        radius = made.RefRadius()
    elif form == "torus":
        made, radius, slope = surface.Torus(), surface.Torus().MajorRadius(), 0.0
    else:
        return 0.0, None, 0.0
    origin, along = place(made.Axis().Location()), _vec(made.Axis().Direction())
    beside = dot(minus(centre, origin), along)
    if form == "torus":
        return radius, (origin, along), 0.0
    radius += slope * beside
    return radius, (add(origin, scaled(along, beside)), along), slope


def _spot(surface: BRepAdaptor_Surface, face: TopoDS_Face) -> Vec:
    u0, u1, v0, v1 = BRepTools.UVBounds_s(face)
    return place(surface.Value((u0 + u1) / 2, (v0 + v1) / 2))


def _normal(face: TopoDS_Face, surface: BRepAdaptor_Surface) -> Vec:
    u0, u1, v0, v1 = BRepTools.UVBounds_s(face)
    normal = BRepLProp_SLProps(surface, (u0 + u1) / 2, (v0 + v1) / 2, 1, NORMAL_STEP).Normal()
    turned = -1.0 if face.Orientation() == TopAbs_Orientation.TopAbs_REVERSED else 1.0
    return (turned * normal.X(), turned * normal.Y(), turned * normal.Z())


def _any_axes(normal: Vec) -> tuple[Vec, Vec]:
    frame = upright((0.0, 0.0, 0.0), normal)
    return frame.x, frame.y
