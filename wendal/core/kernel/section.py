"""Where a face meets a plane."""

from __future__ import annotations

import math

from OCP.BRepAdaptor import BRepAdaptor_Curve
from OCP.BRepAlgoAPI import BRepAlgoAPI_Section
from OCP.GeomAbs import GeomAbs_CurveType
from OCP.gp import gp_Pln, gp_Vec

from .named import NamedShape
from .shapes import ax3, direction, edges_of, faces_of, place
from .types import Frame

__all__ = ["cut_face"]

Piece = tuple[str, list[tuple[float, float]], float]


def cut_face(shape: NamedShape, index: int, frame: Frame) -> list[Piece]:
    """Return the pieces in which a face meets a plane, as lines, circles, ellipses and their arcs; others are left out.

    Coordinates are the plane's, mm; a piece is its kind, its places and its radius, as a sketch takes them in.
    """
    maker = BRepAlgoAPI_Section(faces_of(shape.shape)[index], gp_Pln(ax3(frame)), False)
    maker.Approximation(False)
    maker.Build()
    if not maker.IsDone():
        return []
    found: list[Piece] = []
    for edge in edges_of(maker.Shape()):
        curve = BRepAdaptor_Curve(edge)
        t0, t1 = curve.FirstParameter(), curve.LastParameter()
        a, b, m = (frame.local(place(curve.Value(t)))[:2] for t in (t0, t1, (t0 + t1) / 2))
        if curve.GetType() == GeomAbs_CurveType.GeomAbs_Line:
            found.append(("line", [a, b], 0.0))
        elif curve.GetType() == GeomAbs_CurveType.GeomAbs_Circle:
            circle = curve.Circle()
            c, r = frame.local(place(circle.Location()))[:2], circle.Radius()
            if abs(t1 - t0 - 2 * math.pi) < 1e-9:
                found.append(("circle", [c], r))
            else:
                left = (a[0] - c[0]) * (m[1] - c[1]) - (a[1] - c[1]) * (m[0] - c[0])
                turn = (b[0] - a[0]) * (m[1] - a[1]) - (b[1] - a[1]) * (m[0] - a[0])
                # Counter-clockwise from a over m to b when m lies to the right of a b.
                found.append(("arc", [c, a, b] if turn < 0 or (turn == 0 and left > 0) else [c, b, a], r))
        elif curve.GetType() == GeomAbs_CurveType.GeomAbs_Ellipse:
            oval = curve.Ellipse()
            c = frame.local(place(oval.Location()))[:2]
            x, y, _ = frame.local(place(oval.Location().Translated(gp_Vec(oval.XAxis().Direction()).Multiplied(oval.MajorRadius()))))
            if abs(t1 - t0 - 2 * math.pi) < 1e-9:
                found.append(("ellipse", [c, (x, y)], oval.MinorRadius()))
            else:
                left = oval.Axis().Direction().Dot(direction(frame.normal)) > 0
                found.append(("ellipse_arc", [c, (x, y), *((a, b) if left else (b, a))], oval.MinorRadius()))
    return found
