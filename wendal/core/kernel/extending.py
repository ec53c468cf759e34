"""Faces that go on beyond their edges, on the sides that they do not share with other targets.

Each of several targets is extended on its free sides only: extended all round, one would cut before another,
and nothing would tell. What is made this way is compared with the real faces: none of them may lie behind the
extension of another.
"""

from __future__ import annotations

import math

from OCP.BRepAdaptor import BRepAdaptor_Curve, BRepAdaptor_Curve2d, BRepAdaptor_Surface
from OCP.BRepAlgoAPI import BRepAlgoAPI_Common
from OCP.BRepBuilderAPI import (
    BRepBuilderAPI_MakeEdge,
    BRepBuilderAPI_MakeFace,
    BRepBuilderAPI_MakePolygon,
    BRepBuilderAPI_MakeWire,
)
from OCP.BRepClass import BRepClass_FaceClassifier
from OCP.BRepGProp import BRepGProp, BRepGProp_Face
from OCP.BRepTools import BRepTools
from OCP.GeomAbs import GeomAbs_CurveType, GeomAbs_SurfaceType
from OCP.gp import gp_Circ, gp_Pln, gp_Pnt, gp_Pnt2d, gp_Vec
from OCP.GProp import GProp_GProps
from OCP.TopAbs import TopAbs_EDGE, TopAbs_State
from OCP.TopExp import TopExp_Explorer
from OCP.TopoDS import TopoDS, TopoDS_Edge, TopoDS_Face, TopoDS_Shape

from ..tolerance import ALONG_PARAMETER, CLOSE_BESIDE, COVERED
from .keeping_whole import unharming
from .shapes import faces_of, shape_list
from .types import Vec

__all__ = ["hidden_behind", "on_free_sides"]

Half = tuple[
    gp_Pnt2d, float, float
]  # a place on a line of a plane, and the direction (unit) in which the face lies


def on_free_sides(faces: list[TopoDS_Face], reach: float) -> list[TopoDS_Face] | None:
    """Return each face extended to a reach (mm) where it meets no other of them; None where a face or a
    shared edge is of no plain form."""
    found = []
    for face in faces:
        shared = [
            e
            for e in _edges(face)
            if any(e.IsSame(o) for other in faces if not other.IsSame(face) for o in _edges(other))
        ]
        surface = BRepAdaptor_Surface(face)
        form = surface.GetType()
        if form == GeomAbs_SurfaceType.GeomAbs_Plane:
            made = _flat(face, surface.Plane(), shared, reach)
        elif form in (GeomAbs_SurfaceType.GeomAbs_Cylinder, GeomAbs_SurfaceType.GeomAbs_Cone):
            made = _round(face, surface, shared, reach)
        else:
            made = None
        if made is None:
            return None
        found.append(TopoDS.Face(made.Oriented(face.Orientation())))
    return found


def hidden_behind(kept: TopoDS_Shape, faces: list[TopoDS_Face], long: TopoDS_Shape, way: Vec) -> bool:
    """Tell whether any part of the real faces, inside the long tool, is no end of what was kept.

    way : against which the faces look where the tool meets them; what looks the other way is their far side.
    """
    for face in faces:
        pieces = faces_of(_common(face, long))
        facing = [p for p in pieces if _against(p, way)]
        whole = sum(map(_area, facing))
        if abs(sum(_area(f) for p in facing for f in faces_of(_common(p, kept))) - whole) > COVERED * max(
            whole, 1.0
        ):
            return True
    return False


def _edges(face: TopoDS_Face) -> list[TopoDS_Edge]:
    explorer, found = TopExp_Explorer(face, TopAbs_EDGE), []
    while explorer.More():
        found.append(TopoDS.Edge(explorer.Current()))
        explorer.Next()
    return found


def _flat(face: TopoDS_Face, plane: gp_Pln, shared: list[TopoDS_Edge], reach: float) -> TopoDS_Face | None:
    """Extend a flat face: as far as the lines of its shared straight edges, or round a shared circle."""
    forms = {BRepAdaptor_Curve(e).GetType() for e in shared}
    if forms == {GeomAbs_CurveType.GeomAbs_Circle}:
        return _round_hole(face, plane, shared, reach)
    if forms - {GeomAbs_CurveType.GeomAbs_Line}:
        return None
    low_u, high_u, low_v, high_v = BRepTools.UVBounds_s(face)
    u, v = (low_u + high_u) / 2, (low_v + high_v) / 2
    corners = [(u - reach, v - reach), (u + reach, v - reach), (u + reach, v + reach), (u - reach, v + reach)]
    for edge in shared:
        half = _side(face, edge)
        corners = _clipped(corners, half)
    if len(corners) < 3:
        return None
    polygon = BRepBuilderAPI_MakePolygon()
    axes = plane.Position()
    for x, y in corners:
        at = gp_Vec(axes.XDirection()).Multiplied(x).Added(gp_Vec(axes.YDirection()).Multiplied(y))
        polygon.Add(axes.Location().Translated(at))
    polygon.Close()
    return BRepBuilderAPI_MakeFace(plane, polygon.Wire()).Face()


def _side(face: TopoDS_Face, edge: TopoDS_Edge) -> Half:
    """Return a straight edge's line in its face, and on which side of it the face lies."""
    curve = BRepAdaptor_Curve2d(edge, face)
    place, tangent = (
        curve.Value((curve.FirstParameter() + curve.LastParameter()) / 2),
        curve.DN((curve.FirstParameter() + curve.LastParameter()) / 2, 1),
    )
    size = math.hypot(tangent.X(), tangent.Y())
    x, y = -tangent.Y() / size, tangent.X() / size
    inside = BRepClass_FaceClassifier(
        face, gp_Pnt2d(place.X() + CLOSE_BESIDE * x, place.Y() + CLOSE_BESIDE * y), CLOSE_BESIDE / 100
    ).State()
    return (place, x, y) if inside == TopAbs_State.TopAbs_IN else (place, -x, -y)


def _clipped(corners: list[tuple[float, float]], half: Half) -> list[tuple[float, float]]:
    """Clip a convex polygon by a half plane."""
    place, x, y = half
    heights = [(a - place.X()) * x + (b - place.Y()) * y for a, b in corners]
    found = []
    for i, (corner, height) in enumerate(zip(corners, heights, strict=True)):
        other, above = corners[(i + 1) % len(corners)], heights[(i + 1) % len(corners)]
        if height >= 0:
            found.append(corner)
        if height * above < 0:
            t = height / (height - above)
            found.append((corner[0] + t * (other[0] - corner[0]), corner[1] + t * (other[1] - corner[1])))
    return found


def _round_hole(
    face: TopoDS_Face, plane: gp_Pln, shared: list[TopoDS_Edge], reach: float
) -> TopoDS_Face | None:
    """Extend a flat face round one circle that it shares: outwards from it, or as a disc in it."""
    circle: gp_Circ = BRepAdaptor_Curve(shared[0]).Circle()
    if any(
        BRepAdaptor_Curve(e).Circle().Location().Distance(circle.Location()) > ALONG_PARAMETER for e in shared
    ):
        return None
    edge = BRepAdaptor_Curve2d(shared[0], face)
    middle = edge.Value((edge.FirstParameter() + edge.LastParameter()) / 2)
    centre = _flat_place(plane, circle.Location())
    out = (middle.X() - centre[0], middle.Y() - centre[1])
    beyond = gp_Pnt2d(
        middle.X() + CLOSE_BESIDE * out[0] / circle.Radius(),
        middle.Y() + CLOSE_BESIDE * out[1] / circle.Radius(),
    )
    outwards = BRepClass_FaceClassifier(face, beyond, CLOSE_BESIDE / 100).State() == TopAbs_State.TopAbs_IN
    ring = BRepBuilderAPI_MakeWire(BRepBuilderAPI_MakeEdge(circle).Edge()).Wire()
    if not outwards:
        return BRepBuilderAPI_MakeFace(plane, ring).Face()
    maker = BRepBuilderAPI_MakeFace(
        plane, centre[0] - reach, centre[0] + reach, centre[1] - reach, centre[1] + reach
    )
    maker.Add(TopoDS.Wire(ring.Reversed()))
    made = maker.Face()
    return made if _area(made) < 4 * reach * reach else None


def _flat_place(plane: gp_Pln, place: gp_Pnt) -> tuple[float, float]:
    axes = plane.Position()
    at = gp_Vec(axes.Location(), place)
    return at.Dot(gp_Vec(axes.XDirection())), at.Dot(gp_Vec(axes.YDirection()))


def _round(
    face: TopoDS_Face, surface: BRepAdaptor_Surface, shared: list[TopoDS_Edge], reach: float
) -> TopoDS_Face | None:
    """Extend a face of a cylinder or cone: along its axis, and half round at most, as far as the edges that
    it shares."""
    low_u, high_u, low_v, high_v = BRepTools.UVBounds_s(face)
    fixed = set()
    for edge in shared:
        curve = BRepAdaptor_Curve2d(edge, face)
        places = [
            curve.Value(curve.FirstParameter() + t * (curve.LastParameter() - curve.FirstParameter()))
            for t in (0.0, 0.3, 0.5, 0.8, 1.0)
        ]
        ends = [
            name
            for name, value, across in (
                ("low_u", low_u, "X"),
                ("high_u", high_u, "X"),
                ("low_v", low_v, "Y"),
                ("high_v", high_v, "Y"),
            )
            if all(abs(getattr(p, across)() - value) < ALONG_PARAMETER * max(1.0, abs(value)) for p in places)
        ]
        if len(ends) != 1:
            return None
        fixed.add(ends[0])
    around = 2 * math.pi
    if not {"low_u", "high_u"} & fixed:
        low_u, high_u = 0.0, around
    elif "high_u" not in fixed:
        high_u = max(high_u, low_u + math.pi)
    elif "low_u" not in fixed:
        low_u = min(low_u, high_u - math.pi)
    if "low_v" not in fixed:
        low_v -= reach
    if "high_v" not in fixed:
        high_v += reach
    if surface.GetType() == GeomAbs_SurfaceType.GeomAbs_Cylinder:
        return BRepBuilderAPI_MakeFace(surface.Cylinder(), low_u, high_u, low_v, high_v).Face()
    cone = surface.Cone()
    apex = -cone.RefRadius() / math.sin(cone.SemiAngle())
    middle = BRepTools.UVBounds_s(face)
    low_v, high_v = (
        (max(low_v, apex), high_v) if (middle[2] + middle[3]) / 2 > apex else (low_v, min(high_v, apex))
    )
    return BRepBuilderAPI_MakeFace(cone, low_u, high_u, low_v, high_v).Face()


def _common(face: TopoDS_Shape, solid: TopoDS_Shape) -> TopoDS_Shape:
    operation = unharming(BRepAlgoAPI_Common())
    operation.SetArguments(shape_list([face]))
    operation.SetTools(shape_list([solid]))
    operation.Build()
    return operation.Shape()


def _area(face: TopoDS_Shape) -> float:
    figures = GProp_GProps()
    BRepGProp.SurfaceProperties_s(face, figures)
    return figures.Mass()


def _against(face: TopoDS_Face, way: Vec) -> bool:
    """Tell whether a face looks against a direction, at its middle."""
    low_u, high_u, low_v, high_v = BRepTools.UVBounds_s(face)
    place, normal = gp_Pnt(), gp_Vec()
    BRepGProp_Face(face).Normal((low_u + high_u) / 2, (low_v + high_v) / 2, place, normal)
    return normal.Dot(gp_Vec(*way)) < 0
