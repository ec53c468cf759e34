"""The outlines of a flat face, and of a body where a plane cuts it, as exact strokes of the plane."""

from __future__ import annotations

import math

from OCP.BRepAdaptor import BRepAdaptor_Curve
from OCP.BRepAlgoAPI import BRepAlgoAPI_Common
from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeFace
from OCP.BRepTools import BRepTools, BRepTools_WireExplorer
from OCP.Geom import Geom_BSplineCurve, Geom_TrimmedCurve
from OCP.GeomAbs import GeomAbs_CurveType
from OCP.GeomConvert import GeomConvert
from OCP.gp import gp_Pln
from OCP.TopAbs import TopAbs_Orientation, TopAbs_ShapeEnum
from OCP.TopoDS import TopoDS, TopoDS_Edge, TopoDS_Face, TopoDS_Shape

from ..errors import StepError
from ..strokes import Stroke
from .keeping_whole import unharming
from .named import NamedShape
from .query import box_of
from .shapes import ax3, faces_of, items, place, shape_list, shape_map
from .types import Frame, dot

__all__ = ["edge_stroke", "outlines_of_cut", "outlines_of_face", "spline_stroke"]

WIRE = TopAbs_ShapeEnum.TopAbs_WIRE
Loop = list[Stroke]


def outlines_of_face(shape: NamedShape, index: int, frame: Frame) -> list[Loop]:
    """Return the loops of a flat face, the outer one first and counter-clockwise, in the coordinates of its
    plane."""
    return _loops(faces_of(shape.shape)[index], frame)


def outlines_of_cut(shape: NamedShape, frame: Frame) -> list[list[Loop]]:
    """Return the loops of every area in which a plane cuts a body; raises StepError where the kernel can not
    tell."""
    low, high = box_of([shape])
    far = 2 * max(math.dist(low, high), 1.0) + math.dist(frame.origin, low)
    maker = BRepBuilderAPI_MakeFace(gp_Pln(ax3(frame)), -far, far, -far, far)
    operation = unharming(BRepAlgoAPI_Common())
    operation.SetArguments(shape_list([maker.Face()]))
    operation.SetTools(shape_list([shape.shape]))
    operation.Build()
    if not operation.IsDone():
        raise StepError("The kernel can not tell where this plane cuts the body. Move the plane a little.")
    return [_loops(face, frame) for face in faces_of(operation.Shape())]


def _loops(face: TopoDS_Face, frame: Frame) -> list[Loop]:
    outer = BRepTools.OuterWire_s(face)
    wires = [outer, *(w for w in map(TopoDS.Wire, items(shape_map(face, WIRE))) if not w.IsSame(outer))]
    loops = []
    for n, wire in enumerate(wires):
        explorer, edges = BRepTools_WireExplorer(wire, face), list[TopoDS_Edge]()
        while explorer.More():
            edges.append(explorer.Current())
            explorer.Next()
        loop = _joined([edge_stroke(e, frame) for e in edges])
        if (_area(loop) > 0) != (n == 0):
            loop = [s.reversed() for s in loop[::-1]]
        loops.append(loop)
    return loops


def _joined(loop: Loop) -> Loop:
    """Return a loop whose arcs of one circle, which the kernel's seams divide, are one."""
    found: Loop = []
    for stroke in loop:
        last = found[-1] if found else None
        if (
            last is not None
            and last.kind == stroke.kind == "arc"
            and math.dist(last.centre, stroke.centre) < 1e-7
            and abs(last.radius - stroke.radius) < 1e-7
            and (last.t1 > last.t0) == (stroke.t1 > stroke.t0)
        ):
            found[-1] = Stroke(
                "arc",
                last.start,
                stroke.end,
                centre=last.centre,
                radius=last.radius,
                t0=last.t0,
                t1=last.t1 + (stroke.t1 - stroke.t0),
            )
        else:
            found.append(stroke)
    return found


def _area(loop: Loop) -> float:
    """Return twice the area that a loop encloses, about: enough to tell its sense."""
    places = [s.at(i / 16) for s in loop for i in range(16)]
    return sum(a[0] * b[1] - b[0] * a[1] for a, b in zip(places, [*places[1:], places[0]], strict=True))


def edge_stroke(edge: TopoDS_Shape, frame: Frame) -> Stroke:
    """Return an edge that lies in a plane (or is seen square to it, where it is straight, round or a spline)
    as a stroke, in its own sense."""
    edge = TopoDS.Edge(edge)
    curve = BRepAdaptor_Curve(edge)
    low, high = curve.FirstParameter(), curve.LastParameter()
    start, end = (frame.local(place(curve.Value(t)))[:2] for t in (low, high))
    kind = curve.GetType()
    if kind == GeomAbs_CurveType.GeomAbs_Line:
        stroke = Stroke("line", start, end)
    elif kind == GeomAbs_CurveType.GeomAbs_Circle:
        circle = curve.Circle()
        centre = frame.local(place(circle.Location()))[:2]
        x = circle.XAxis().Direction()
        along = (x.X(), x.Y(), x.Z())
        base = math.atan2(dot(along, frame.y), dot(along, frame.x))
        n = circle.Axis().Direction()
        sense = 1.0 if dot((n.X(), n.Y(), n.Z()), frame.normal) > 0 else -1.0
        stroke = Stroke(
            "arc",
            start,
            end,
            centre=centre,
            radius=circle.Radius(),
            t0=base + sense * low,
            t1=base + sense * high,
        )
    elif kind == GeomAbs_CurveType.GeomAbs_Ellipse:
        oval = curve.Ellipse()
        centre = frame.local(place(oval.Location()))[:2]
        x = oval.XAxis().Direction()
        along = (x.X(), x.Y(), x.Z())
        r = oval.MajorRadius()
        major = (r * dot(along, frame.x), r * dot(along, frame.y))
        n = oval.Axis().Direction()
        sense = 1.0 if dot((n.X(), n.Y(), n.Z()), frame.normal) > 0 else -1.0
        stroke = Stroke(
            "ellipse",
            start,
            end,
            centre=centre,
            t0=sense * low,
            t1=sense * high,
            major=major,
            ratio=oval.MinorRadius() / r,
        )
    else:
        stroke = spline_stroke(curve, low, high, start, end, frame)
    return stroke.reversed() if edge.Orientation() == TopAbs_Orientation.TopAbs_REVERSED else stroke


def spline_stroke(
    curve: BRepAdaptor_Curve,
    low: float,
    high: float,
    start: tuple[float, float],
    end: tuple[float, float],
    frame: Frame,
) -> Stroke:
    """Return a range of any curve as a spline of the plane: the shadow of its poles."""
    whole = Geom_TrimmedCurve(curve.Curve().Curve(), low, high)
    made: Geom_BSplineCurve = GeomConvert.CurveToBSplineCurve_s(whole)
    made.Transform(curve.Trsf())
    if made.IsPeriodic():
        made.SetNotPeriodic()
    n = made.NbPoles()
    poles = tuple(frame.local(place(made.Pole(i + 1)))[:2] for i in range(n))
    weights = tuple(made.Weight(i + 1) for i in range(n)) if made.IsRational() else ()
    knots = tuple(made.Knot(i + 1) for i in range(made.NbKnots()) for _ in range(made.Multiplicity(i + 1)))
    return Stroke("spline", start, end, poles=poles, weights=weights, knots=knots, degree=made.Degree())
