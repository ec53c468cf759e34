"""Places on the faces and edges of a body: nearest, dropped, along; normals and tangents there."""

from __future__ import annotations

from OCP.BRep import BRep_Tool
from OCP.BRepAdaptor import BRepAdaptor_Curve, BRepAdaptor_Surface
from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeVertex
from OCP.BRepExtrema import BRepExtrema_DistShapeShape
from OCP.BRepLProp import BRepLProp_SLProps
from OCP.GeomAbs import GeomAbs_CurveType
from OCP.GeomAPI import GeomAPI_ProjectPointOnCurve, GeomAPI_ProjectPointOnSurf
from OCP.GeomConvert import GeomConvert
from OCP.gp import gp_Lin, gp_Pnt, gp_Vec
from OCP.IntCurvesFace import IntCurvesFace_ShapeIntersector
from OCP.TopAbs import TopAbs_Orientation
from OCP.TopoDS import TopoDS_Edge, TopoDS_Face

from ..errors import StepError
from ..tolerance import NO_LENGTH, ONE_PLACE
from .lengths import length_of, parameter_at
from .named import NamedShape
from .shapes import direction, edges_of, place, point
from .types import Vec, unit

__all__ = [
    "along_edge",
    "drop_on_face",
    "first_hit",
    "nearest_on_edge",
    "nearest_on_face",
    "normal_on_face",
    "pulled_edge",
]


def nearest_on_face(body: NamedShape, index: int, to: Vec) -> Vec:
    """Return the place of a bounded face nearest to another place."""
    search = BRepExtrema_DistShapeShape(BRepBuilderAPI_MakeVertex(point(to)).Vertex(), _face(body, index))
    if not search.IsDone() or not search.NbSolution():
        raise StepError("The kernel found no nearest place on this face.")
    return place(search.PointOnShape2(1))


def drop_on_face(body: NamedShape, index: int, to: Vec) -> Vec:
    """Return the foot of the square from a place onto a face's whole surface, the nearest where there are
    several."""
    search = GeomAPI_ProjectPointOnSurf(point(to), BRep_Tool.Surface_s(_face(body, index)))
    if not search.NbPoints():
        raise StepError("The point does not drop square onto this face. Pick another point or face.")
    return place(search.NearestPoint())


def normal_on_face(body: NamedShape, index: int, at: Vec) -> Vec:
    """Return a face's outward unit normal at a place on it; raises StepError where it has none (a tip)."""
    face = _face(body, index)
    search = GeomAPI_ProjectPointOnSurf(point(at), BRep_Tool.Surface_s(face))
    u, v = search.LowerDistanceParameters() if search.NbPoints() else (0.0, 0.0)
    found = BRepLProp_SLProps(BRepAdaptor_Surface(face), u, v, 1, 1e-9)
    if not found.IsNormalDefined():
        raise StepError(
            "The face has no direction at this place; it comes to a tip there. Pick another place."
        )
    turned = -1.0 if face.Orientation() == TopAbs_Orientation.TopAbs_REVERSED else 1.0
    n = found.Normal()
    return (turned * n.X(), turned * n.Y(), turned * n.Z())


def first_hit(shape: NamedShape, index: int, origin: Vec, way: Vec) -> float:
    """Return how far along a unit direction a face is first met, mm; -1 where it is not met ahead."""
    finder = IntCurvesFace_ShapeIntersector()
    finder.Load(_face(shape, index), ONE_PLACE)
    finder.Perform(gp_Lin(point(origin), direction(way)), 1e-9, 1e9)
    found = [finder.WParameter(i + 1) for i in range(finder.NbPnt())] if finder.IsDone() else []
    return min(found, default=-1.0)


def along_edge(body: NamedShape, index: int, distance: float) -> tuple[Vec, Vec]:
    """Return place and unit tangent of an edge, distance mm from its beginning in the kernel's sense."""
    curve = BRepAdaptor_Curve(_edge(body, index))
    at = parameter_at(curve, distance) if distance else curve.FirstParameter()
    spot, tangent = gp_Pnt(), gp_Vec()
    curve.D1(at, spot, tangent)
    if tangent.Magnitude() < NO_LENGTH:
        raise StepError("The curve has no direction at this place. Choose another place on it.")
    return place(spot), unit((tangent.X(), tangent.Y(), tangent.Z()))


def nearest_on_edge(body: NamedShape, index: int, to: Vec) -> float:
    """Return how far from its beginning (mm) an edge comes nearest to a place."""
    edge = _edge(body, index)
    curve = BRepAdaptor_Curve(edge)
    first, last = curve.FirstParameter(), curve.LastParameter()
    search = GeomAPI_ProjectPointOnCurve(point(to), BRep_Tool.Curve_s(edge, 0.0, 1.0), first, last)
    feet = [(search.Distance(i), search.Parameter(i)) for i in range(1, search.NbPoints() + 1)]
    feet += [(point(to).Distance(curve.Value(t)), t) for t in (first, last)]
    at = min(feet)[1]
    return length_of(curve, first, at) if at > first else 0.0


def pulled_edge(body: NamedShape, index: int) -> tuple[list[float], list[Vec]] | None:
    """Return an edge's knots (each once, from 0 to 1) and control points, in the kernel's sense; None where
    it is no cubic spline."""
    curve = BRepAdaptor_Curve(_edge(body, index))
    if curve.GetType() == GeomAbs_CurveType.GeomAbs_BezierCurve:
        made = GeomConvert.CurveToBSplineCurve_s(curve.Bezier())
    elif curve.GetType() == GeomAbs_CurveType.GeomAbs_BSplineCurve:
        made = curve.BSpline()
    else:
        return None
    if made.IsRational() or made.IsPeriodic() or made.Degree() > 3:
        return None
    made.Segment(curve.FirstParameter(), curve.LastParameter())
    if made.Degree() < 3:
        made.IncreaseDegree(3)
    first, last = made.Knot(1), made.Knot(made.NbKnots())
    knots = [(made.Knot(i) - first) / (last - first) for i in range(1, made.NbKnots() + 1)]
    if any(made.Multiplicity(i) != 1 for i in range(2, made.NbKnots())):
        return None
    return [0.0, *knots[1:-1], 1.0], [place(made.Pole(i)) for i in range(1, made.NbPoles() + 1)]


def _face(body: NamedShape, index: int) -> TopoDS_Face:
    return body.anatomy.faces[index].shape


def _edge(body: NamedShape, index: int) -> TopoDS_Edge:
    return [e for e in edges_of(body.shape) if not BRep_Tool.Degenerated_s(e)][index]
