"""Where a face meets a plane."""

from __future__ import annotations

import math
from itertools import pairwise

from OCP.BRepAdaptor import BRepAdaptor_Curve, BRepAdaptor_Surface
from OCP.BRepAlgoAPI import BRepAlgoAPI_Section
from OCP.BRepTools import BRepTools
from OCP.GCPnts import GCPnts_UniformAbscissa
from OCP.GeomAbs import GeomAbs_CurveType, GeomAbs_SurfaceType
from OCP.gp import gp_Pln, gp_Pnt, gp_Vec
from scipy.optimize import brentq

from ..tolerance import FULL_TURN, ONE_PLACE, ROOT
from .forms import edge_form
from .measuring import Extent, apart, extent_of
from .named import NamedShape
from .query import describe
from .shapes import ax3, compound, direction, edges_of, faces_of, place
from .types import Edge, Frame, Vec, add, cross, dot, minus, scaled, unit

__all__ = ["cut_face", "cut_faces", "cut_near", "turning_lines"]

FINE = 256  # places that a curve is looked at
Piece = tuple[str, list[tuple[float, float]], float]


def cut_face(shape: NamedShape, index: int, frame: Frame) -> list[Piece]:
    """Return the pieces in which a face meets a plane, as lines, circles, ellipses and their arcs, or else as
    places along a curve.

    Coordinates are the plane's, mm; a piece is its kind, its places and its radius, as a sketch takes them
    in; a curve's places are at equal ways along it.
    """
    maker = BRepAlgoAPI_Section(faces_of(shape.shape)[index], gp_Pln(ax3(frame)), False)
    maker.Approximation(False)
    maker.Build()
    return _pieces(maker, frame) if maker.IsDone() else []


def _pieces(maker: BRepAlgoAPI_Section, frame: Frame) -> list[Piece]:
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
            if abs(t1 - t0 - 2 * math.pi) < FULL_TURN:
                found.append(("circle", [c], r))
            else:
                left = (a[0] - c[0]) * (m[1] - c[1]) - (a[1] - c[1]) * (m[0] - c[0])
                turn = (b[0] - a[0]) * (m[1] - a[1]) - (b[1] - a[1]) * (m[0] - a[0])
                # Counter-clockwise from a over m to b when m lies to the right of a b.
                found.append(("arc", [c, a, b] if turn < 0 or (turn == 0 and left > 0) else [c, b, a], r))
        elif curve.GetType() == GeomAbs_CurveType.GeomAbs_Ellipse:
            oval = curve.Ellipse()
            c = frame.local(place(oval.Location()))[:2]
            x, y, _ = frame.local(
                place(
                    oval.Location().Translated(
                        gp_Vec(oval.XAxis().Direction()).Multiplied(oval.MajorRadius())
                    )
                )
            )
            if abs(t1 - t0 - 2 * math.pi) < FULL_TURN:
                found.append(("ellipse", [c, (x, y)], oval.MinorRadius()))
            else:
                left = oval.Axis().Direction().Dot(direction(frame.normal)) > 0
                found.append(("ellipse_arc", [c, (x, y), *((a, b) if left else (b, a))], oval.MinorRadius()))
        else:
            even = GCPnts_UniformAbscissa(curve, FINE + 1)
            found.append(
                (
                    "curve",
                    [
                        frame.local(place(curve.Value(even.Parameter(i + 1))))[:2]
                        for i in range(even.NbPoints())
                    ],
                    0.0,
                )
            )
    return found


def cut_faces(shape: NamedShape, faces: list[int], frame: Frame) -> list[Piece]:
    """As `cut_face`, of many faces at once; of flat ones with straight sides by figures alone."""
    found: list[Piece] = []
    others: list[int] = []
    known = describe(shape)
    off = {i: dot(minus(v.place, frame.origin), frame.normal) for i, v in enumerate(known.vertices)}
    for i in faces:
        sides = known.edges_of[i]
        if known.faces[i].form != "flat" or any(known.edges[e].form != "line" for e in sides):
            others.append(i)
            continue
        way = cross(known.faces[i].frame.normal, frame.normal)
        if math.sqrt(dot(way, way)) < ONE_PLACE:
            continue  # in the plane, or beside it: its neighbours have their sides there
        spots = []
        for e in sides:
            a, b = known.ends_of[e]
            if (off[a] > 0) != (off[b] > 0):
                share = off[a] / (off[a] - off[b])
                p, q = known.vertices[a].place, known.vertices[b].place
                spots.append(add(p, scaled(minus(q, p), share)))
        spots.sort(key=lambda p: dot(p, way))
        for p, q in zip(spots[::2], spots[1::2], strict=False):
            found.append(("line", [frame.local(p)[:2], frame.local(q)[:2]], 0.0))
    if others:
        own = faces_of(shape.shape)
        met = BRepAlgoAPI_Section(compound(own[i] for i in others), gp_Pln(ax3(frame)), False)
        met.Approximation(False)
        met.Build()
        found += _pieces(met, frame) if met.IsDone() else []
    return found


def cut_near(shape: NamedShape, faces: list[int], frame: Frame, near: Vec) -> tuple[Extent, Edge, Vec] | None:
    """Return the piece in which one of some faces meets a plane that is nearest to a place: as it is measured
    to, as an edge, and its nearest place; None where they do not meet it."""
    own = faces_of(shape.shape)
    met = BRepAlgoAPI_Section(compound(own[i] for i in faces), gp_Pln(ax3(frame)), False)
    met.Approximation(False)
    met.Build()
    if not met.IsDone():
        return None
    ways = [(apart(edge, extent_of(at=near)), edge) for edge in edges_of(met.Shape())]
    if not ways:
        return None
    (_, foot, _), edge = min(ways, key=lambda w: w[0][0])
    return edge, edge_form(edge), foot


def turning_lines(shape: NamedShape, index: int, eye: Vec) -> list[tuple[Vec, Vec]]:
    """Return the straight lines (a place, a unit direction) along which an extruded face turns away from an
    eye looking along `eye`."""
    face = faces_of(shape.shape)[index]
    surface = BRepAdaptor_Surface(face)
    if surface.GetType() != GeomAbs_SurfaceType.GeomAbs_SurfaceOfExtrusion:
        return []
    u0, u1, v0, _ = BRepTools.UVBounds_s(face)
    along = unit((surface.Direction().X(), surface.Direction().Y(), surface.Direction().Z()))
    if math.sqrt(dot(cross(along, eye), cross(along, eye))) < ONE_PLACE:
        return []  # seen end-on

    def facing(u: float) -> float:
        spot, du, dv = gp_Pnt(), gp_Vec(), gp_Vec()
        surface.D1(u, v0, spot, du, dv)
        return dot(cross((du.X(), du.Y(), du.Z()), along), eye)

    grid = [u0 + (u1 - u0) * i / FINE for i in range(FINE + 1)]
    sides = [facing(u) for u in grid]
    turned = [
        u
        for u, before, after in zip(grid[1:], sides, sides[2:], strict=False)
        if facing(u) == 0 and before * after < 0
    ]
    turned += [
        float(brentq(facing, a, b, xtol=ROOT))
        for (a, b), (f, g) in zip(pairwise(grid), pairwise(sides), strict=True)
        if f * g < 0
    ]
    return [(place(surface.Value(u, v0)), along) for u in sorted(turned)]
