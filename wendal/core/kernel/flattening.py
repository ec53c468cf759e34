"""Free-form faces and edges that are flat and straight, made planes and lines, as what stands on them
expects."""

from __future__ import annotations

from OCP.BRep import BRep_Builder, BRep_Tool
from OCP.BRepAdaptor import BRepAdaptor_Curve, BRepAdaptor_Surface
from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeEdge, BRepBuilderAPI_MakeFace
from OCP.BRepCheck import BRepCheck_Analyzer
from OCP.BRepLProp import BRepLProp_SLProps
from OCP.BRepTools import BRepTools, BRepTools_ReShape
from OCP.GeomAbs import GeomAbs_CurveType, GeomAbs_SurfaceType
from OCP.GeomLib import GeomLib_IsPlanarSurface
from OCP.gp import gp_Pln
from OCP.TopAbs import TopAbs_Orientation, TopAbs_ShapeEnum
from OCP.TopExp import TopExp
from OCP.TopoDS import TopoDS, TopoDS_Edge, TopoDS_Face

from ..tolerance import ONE_PLACE
from .named import NamedShape
from .query import edge_faces
from .shapes import faces_of, items, map_of, place, shape_map
from .types import dot, minus, scaled

__all__ = ["flattened"]

CHECKED = 5  # places at which an edge is held against its chord


def flattened(found: NamedShape) -> NamedShape:
    """Return a shape whose flat free-form faces are planes, and the straight edges between planes lines; all
    faces keep their names.

    Where there is nothing of it, or the kernel does not make a sound shape of it, it is returned as it is.
    """
    shape = found.shape
    faces = faces_of(shape)
    flat = [
        f
        for f in faces
        if not _is_plane(f) and GeomLib_IsPlanarSurface(BRep_Tool.Surface_s(f), ONE_PLACE).IsPlanar()
    ]
    even = map_of([*flat, *filter(_is_plane, faces)])
    change, changes = BRepTools_ReShape(), len(flat)
    for edge, around in edge_faces(shape):
        # An edge on a curved face keeps its curve, which that face's own is made for.
        forward = TopoDS.Edge(edge.Oriented(TopAbs_Orientation.TopAbs_FORWARD))
        if not all(map(even.Contains, around)):
            continue
        if BRep_Tool.Degenerated_s(forward):  # at a point that a free-form face ends in; a plane needs none
            change.Remove(forward)
        elif _bent_but_straight(forward):
            change.Replace(forward, _line(forward))
            changes += 1
    if not changes:
        return found
    for face in flat:
        forward_face = TopoDS.Face(face.Oriented(TopAbs_Orientation.TopAbs_FORWARD))
        change.Replace(forward_face, _plane(forward_face, change))
    made = change.Apply(shape)
    if not BRepCheck_Analyzer(made).IsValid():
        return found
    return NamedShape.collect(made, [(change.Value(face), names) for face, names in found.pairs()])


def _is_plane(face: TopoDS_Face) -> bool:
    return BRepAdaptor_Surface(face).GetType() == GeomAbs_SurfaceType.GeomAbs_Plane


def _bent_but_straight(edge: TopoDS_Edge) -> bool:
    curve = BRepAdaptor_Curve(edge)
    if curve.GetType() == GeomAbs_CurveType.GeomAbs_Line:
        return False
    t0, t1 = curve.FirstParameter(), curve.LastParameter()
    a, b = place(curve.Value(t0)), place(curve.Value(t1))
    run = minus(b, a)
    size = dot(run, run)
    if size < ONE_PLACE**2:
        return False
    for k in range(1, CHECKED):
        p = minus(place(curve.Value(t0 + (t1 - t0) * k / CHECKED)), a)
        off = minus(p, scaled(run, dot(p, run) / size))
        if dot(off, off) > ONE_PLACE**2:
            return False
    return True


def _line(edge: TopoDS_Edge) -> TopoDS_Edge:
    first, last = TopExp.FirstVertex_s(edge, False), TopExp.LastVertex_s(edge, False)
    return BRepBuilderAPI_MakeEdge(first, last).Edge()


def _plane(face: TopoDS_Face, change: BRepTools_ReShape) -> TopoDS_Face:
    """Return a face on the plane of a flat one, facing as its surface does, within the same wires as they are
    now."""
    surface = BRepAdaptor_Surface(face)
    u0, u1, v0, v1 = BRepTools.UVBounds_s(face)
    normal = BRepLProp_SLProps(surface, (u0 + u1) / 2, (v0 + v1) / 2, 1, ONE_PLACE).Normal()
    found = GeomLib_IsPlanarSurface(BRep_Tool.Surface_s(face), ONE_PLACE).Plan()
    made = TopoDS.Face(BRepBuilderAPI_MakeFace(gp_Pln(found.Location(), normal)).Face().EmptyCopied())
    for wire in items(shape_map(face, TopAbs_ShapeEnum.TopAbs_WIRE)):
        BRep_Builder().Add(made, change.Apply(wire))
    return made
