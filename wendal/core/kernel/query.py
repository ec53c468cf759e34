"""Asking a shape: its mass, whether it is sound, and everything that references need to know of it."""

from __future__ import annotations

import math
from typing import Any

from OCP.Bnd import Bnd_Box
from OCP.BOPAlgo import BOPAlgo_ArgumentAnalyzer
from OCP.BRep import BRep_Builder, BRep_Tool
from OCP.BRepAdaptor import BRepAdaptor_Curve, BRepAdaptor_Surface
from OCP.BRepBndLib import BRepBndLib
from OCP.BRepCheck import BRepCheck_Analyzer
from OCP.BRepExtrema import BRepExtrema_DistShapeShape
from OCP.BRepGProp import BRepGProp
from OCP.BRepLProp import BRepLProp_SLProps
from OCP.BRepTools import BRepTools
from OCP.collections import (
    IndexedDataMap_TopoDS_Shape_List_TopoDS_Shape_TopTools_ShapeMapHasher as AncestorMap,
)
from OCP.GCPnts import GCPnts_AbscissaPoint
from OCP.GeomAbs import GeomAbs_CurveType, GeomAbs_Shape, GeomAbs_SurfaceType
from OCP.gp import gp_Pnt, gp_Vec
from OCP.GProp import GProp_GProps
from OCP.ShapeUpgrade import ShapeUpgrade_ShapeDivideContinuity
from OCP.TopAbs import TopAbs_Orientation, TopAbs_ShapeEnum
from OCP.TopExp import TopExp
from OCP.TopoDS import TopoDS, TopoDS_Compound, TopoDS_Edge, TopoDS_Face, TopoDS_Shape

from ..errors import StepError
from .named import NamedShape
from .shapes import edges_of, faces_of, items, listed, place, shape_map, solids_of, vertices_of
from .types import Edge, Face, Frame, Mass, Topology, Vec, Vertex, add, dot, minus, said_at, scaled, unit, upright

__all__ = ["box_of", "check_solid", "describe", "edge_faces", "lumps", "mass_of", "middle_of", "pieces_of", "runs_into_itself", "together", "touching",
           "volume_of"]

NEAR = 1e-7  # mm: nearer than this, the kernel takes two shapes for touching
EDGE, FACE, VERTEX = TopAbs_ShapeEnum.TopAbs_EDGE, TopAbs_ShapeEnum.TopAbs_FACE, TopAbs_ShapeEnum.TopAbs_VERTEX
_FORMS = {GeomAbs_SurfaceType.GeomAbs_Plane: "flat", GeomAbs_SurfaceType.GeomAbs_Cylinder: "round",
          GeomAbs_SurfaceType.GeomAbs_Cone: "cone", GeomAbs_SurfaceType.GeomAbs_Sphere: "sphere",
          GeomAbs_SurfaceType.GeomAbs_Torus: "torus"}
_CURVES = {GeomAbs_CurveType.GeomAbs_Line: "line", GeomAbs_CurveType.GeomAbs_Circle: "circle",
           GeomAbs_CurveType.GeomAbs_Ellipse: "ellipse"}


def lumps(body: NamedShape) -> int:
    """Return the number of separate solids."""
    return len(solids_of(body.shape))


def volume_of(body: NamedShape) -> float:
    """Return a body's volume in mm³, 0 of a sheet."""
    if not solids_of(body.shape):
        return 0.0
    volume = GProp_GProps()
    BRepGProp.VolumeProperties_s(_measurable(body.shape), volume)
    return float(volume.Mass())


def _measurable(shape: TopoDS_Shape) -> TopoDS_Shape:
    """Return a shape cut up where splines change their polynomial: the kernel's integrals over them are off by 1e-3 otherwise."""
    if not any(BRepAdaptor_Curve(e).GetType() == GeomAbs_CurveType.GeomAbs_BSplineCurve for e in edges_of(shape)
               if not BRep_Tool.Degenerated_s(e)):
        return shape
    smooth = GeomAbs_Shape.GeomAbs_CN
    divided = ShapeUpgrade_ShapeDivideContinuity(shape)
    divided.SetBoundaryCriterion(smooth)
    divided.SetPCurveCriterion(smooth)
    divided.SetSurfaceCriterion(smooth)
    return divided.Result() if divided.Perform() else shape


def box_of(bodies: list[NamedShape]) -> tuple[Vec, Vec]:
    """Return the lowest and highest corner of a box around bodies, mm."""
    box = Bnd_Box()
    for body in bodies:
        BRepBndLib.AddOptimal_s(body.shape, box, False, False)
    return place(box.CornerMin()), place(box.CornerMax())


def together(shapes: list[NamedShape]) -> NamedShape:
    """Return several shapes as one, not joined."""
    both, builder = TopoDS_Compound(), BRep_Builder()
    builder.MakeCompound(both)
    for shape in shapes:
        builder.Add(both, shape.shape)
    return NamedShape.collect(both, [pair for shape in shapes for pair in shape.pairs()])


def touching(body: NamedShape, tools: list[NamedShape]) -> bool:
    """Tell whether a body and any of some tools meet, be it in a point."""
    low, high = box_of([body])
    for tool in tools:
        a, b = box_of([tool])
        if all(low[i] <= b[i] + NEAR and a[i] <= high[i] + NEAR for i in range(3)):
            gap = BRepExtrema_DistShapeShape(body.shape, tool.shape)
            if gap.IsDone() and gap.Value() < NEAR:
                return True
    return False


def pieces_of(body: NamedShape) -> list[NamedShape]:
    """Return the separate solids of a shape, each with its names."""
    return [NamedShape.collect(solid, body.pairs()) for solid in solids_of(body.shape)]


def mass_of(body: NamedShape) -> Mass:
    """Return a body's volume, area, centre (of a sheet that of its area), box and counts."""
    volume, surface = GProp_GProps(), GProp_GProps()
    measured = _measurable(body.shape)
    sheet = not solids_of(body.shape)
    BRepGProp.SurfaceProperties_s(measured, surface)
    if not sheet:
        BRepGProp.VolumeProperties_s(measured, volume)
    box = Bnd_Box()
    BRepBndLib.AddOptimal_s(body.shape, box, False, False)
    centre = (surface if sheet else volume).CentreOfMass()
    return Mass(0.0 if sheet else volume.Mass(), surface.Mass(), place(centre), place(box.CornerMin()),
                place(box.CornerMax()), len(faces_of(body.shape)), len(edges_of(body.shape)),
                len(vertices_of(body.shape)), BRepCheck_Analyzer(body.shape).IsValid(), sheet)


def check_solid(body: NamedShape) -> None:
    """Raise StepError unless a result is a sound solid: there, valid, positive, no two faces glued along an edge only."""
    if not solids_of(body.shape):
        raise StepError("Nothing is left of the body. Check the depth and the side.")
    if not BRepCheck_Analyzer(body.shape).IsValid():
        raise StepError("The kernel made a broken solid of this. A slightly different depth or outline often helps.")
    if volume_of(body) <= 0:
        raise StepError("The result has no volume.")
    bad = next((e for e, faces in edge_faces(body.shape)
                if len(faces) != 2 and not BRep_Tool.Degenerated_s(TopoDS.Edge(e))), None)
    if bad is not None:
        raise StepError(f"This touches the body only along an edge, near {said_at(middle_of(BRepAdaptor_Curve(TopoDS.Edge(bad)))[0])}. "
                        "Let it overlap, or leave a gap.")


def runs_into_itself(body: NamedShape) -> bool:
    """Tell whether a shape's faces cut each other elsewhere than at their edges, which the kernel's own check does not see; it takes 15 ms and more."""
    analyzer = BOPAlgo_ArgumentAnalyzer()
    analyzer.SetShape1(body.shape)
    analyzer.SelfInterMode = True
    analyzer.ArgumentTypeMode = False
    analyzer.SmallEdgeMode = False
    analyzer.Perform()
    return bool(analyzer.HasFaulty())


def edge_faces(shape: TopoDS_Shape) -> list[tuple[TopoDS_Shape, list[TopoDS_Shape]]]:
    """Return every edge with the faces that meet in it."""
    return _ancestors(shape, EDGE)


def _ancestors(shape: TopoDS_Shape, kind: TopAbs_ShapeEnum) -> list[tuple[TopoDS_Shape, list[TopoDS_Shape]]]:
    """Return every sub-shape of a kind with the faces around it, in the stable order that meshes use too."""
    found = AncestorMap()
    TopExp.MapShapesAndAncestors_s(shape, kind, FACE, found)
    return [(s, listed(found.FindFromKey(s)) if found.Contains(s) else []) for s in items(shape_map(shape, kind))]


def describe(body: NamedShape) -> Topology:
    """Return every face, edge and corner of a body with what meets what."""
    faces = shape_map(body.shape, FACE)
    corners = shape_map(body.shape, VERTEX)

    def indices(found: list[TopoDS_Shape]) -> tuple[int, ...]:
        return tuple(sorted({faces.FindIndex(f) - 1 for f in found}))

    edges = []
    around: list[set[int]] = [set() for _ in range(faces.Extent())]
    meeting = {corners.FindIndex(v) - 1: indices(fs) for v, fs in _ancestors(body.shape, VERTEX)}
    by_edge = edge_faces(body.shape)
    for edge, found in by_edge:
        own = indices(found)
        for f in own:
            around[f].update(g for g in own if g != f)
        if not BRep_Tool.Degenerated_s(TopoDS.Edge(edge)):
            edges.append(_edge(TopoDS.Edge(edge), own, corners))
    return Topology([_face(f, names, around[i]) for i, (f, names) in enumerate(body.pairs())], edges,
                    [Vertex(meeting.get(i, ()), place(BRep_Tool.Pnt_s(v)))
                     for i, v in enumerate(vertices_of(body.shape))])


def _edge(edge: TopoDS_Edge, faces: tuple[int, ...], corners: Any) -> Edge:
    curve = BRepAdaptor_Curve(edge)
    middle, length, parameter = middle_of(curve)
    ends = tuple(sorted({corners.FindIndex(v) - 1 for v in vertices_of(edge)}))
    form = _CURVES.get(curve.GetType(), "curve")
    spot, tangent = gp_Pnt(), gp_Vec()
    curve.D1(parameter, spot, tangent)
    along = unit((tangent.X(), tangent.Y(), tangent.Z())) if tangent.Magnitude() > 1e-12 else (1.0, 0.0, 0.0)
    ring = curve.Circle() if form == "circle" else curve.Ellipse() if form == "ellipse" else None
    centre, normal, radius = None, None, 0.0
    if ring is not None:
        centre, normal = place(ring.Location()), _vec(ring.Axis().Direction())
        radius = ring.Radius() if form == "circle" else ring.MajorRadius()
    return Edge(faces, ends, form, middle, length, place(curve.Value(curve.FirstParameter())), along, centre, normal, radius)


def middle_of(curve: BRepAdaptor_Curve) -> tuple[Vec, float, float]:
    """Return the place halfway along, the length, and the parameter halfway."""
    length = GCPnts_AbscissaPoint.Length_s(curve)
    halfway = GCPnts_AbscissaPoint(curve, length / 2, curve.FirstParameter()).Parameter()
    return place(curve.Value(halfway)), length, halfway


def _vec(d: Any) -> Vec:
    return (d.X(), d.Y(), d.Z())


def _face(face: TopoDS_Face, names: frozenset[str], neighbours: set[int]) -> Face:
    surface = BRepAdaptor_Surface(face)
    props = GProp_GProps()
    BRepGProp.SurfaceProperties_s(face, props)
    centre = place(props.CentreOfMass())
    form = _FORMS.get(surface.GetType(), "curved")
    normal = _normal(face, surface)
    frame = upright(centre, normal) if form == "flat" else Frame(centre, *_any_axes(normal))
    radius, axis, slope = _round(surface, form, centre)
    hollow = False
    if axis is not None and form in ("round", "cone"):
        inward = minus(axis[0], _spot(surface, face))
        hollow = dot(inward, normal) - dot(inward, axis[1]) * dot(normal, axis[1]) > 0
    return Face(names, form, frame, centre, props.Mass(), tuple(sorted(neighbours)), radius, axis, slope, hollow)


def _round(surface: BRepAdaptor_Surface, form: str, centre: Vec) -> tuple[float, tuple[Vec, Vec] | None, float]:
    """Return radius, axis (its place beside the face's middle) and slope of a cylinder, cone, torus or sphere."""
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
    normal = BRepLProp_SLProps(surface, (u0 + u1) / 2, (v0 + v1) / 2, 1, 1e-6).Normal()
    turned = -1.0 if face.Orientation() == TopAbs_Orientation.TopAbs_REVERSED else 1.0
    return (turned * normal.X(), turned * normal.Y(), turned * normal.Z())


def _any_axes(normal: Vec) -> tuple[Vec, Vec]:
    frame = upright((0.0, 0.0, 0.0), normal)
    return frame.x, frame.y
