"""Exact distances between things of a part, with their feet; inertia; by the kernel's own extrema."""

from __future__ import annotations

import math
from typing import TypeAlias

import numpy as np
from OCP.BRepAdaptor import BRepAdaptor_Curve, BRepAdaptor_Surface
from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeEdge, BRepBuilderAPI_MakeFace, BRepBuilderAPI_MakeVertex
from OCP.BRepExtrema import BRepExtrema_DistShapeShape
from OCP.BRepGProp import BRepGProp
from OCP.GC import GC_MakeArcOfCircle
from OCP.GeomAbs import GeomAbs_SurfaceType
from OCP.gp import gp_Ax2, gp_Circ, gp_Pln
from OCP.GProp import GProp_GProps
from OCP.TopoDS import TopoDS, TopoDS_Shape

from ..errors import StepError
from ..once import Once
from .named import NamedShape
from .places import _edge, _face
from .shapes import direction, place, point
from .types import Frame, Vec, add, minus, scaled

__all__ = [
    "Extent",
    "Inertia",
    "apart",
    "endless",
    "ends_of",
    "extent_of",
    "inertia_of",
    "principal",
    "roundness_of",
]

FAR = 1e5  # mm that what is endless reaches to each side
Extent: TypeAlias = TopoDS_Shape  # of a thing, as it is measured to
Inertia = tuple[Vec, tuple[Vec, Vec, Vec], tuple[float, float, float], tuple[Vec, Vec, Vec]]


def extent_of(
    *,
    body: NamedShape | None = None,
    face: tuple[NamedShape, int] | None = None,
    edge: tuple[NamedShape, int] | None = None,
    at: Vec | None = None,
    line: tuple[Vec, Vec] | None = None,
    plane: Frame | None = None,
    arc: tuple[Vec, Vec, Vec] | None = None,
    ring: tuple[Vec, Vec, float] | None = None,
) -> Extent:
    """Return one thing as the kernel measures to it: a body, face or edge of one, a place, a piece of line
    from a place to another, a plane, an arc through three places, or a circle (centre, normal, radius)."""
    if body is not None:
        return body.shape
    if face is not None:
        return _face(*face)
    if edge is not None:
        return _edge(*edge)
    if at is not None:
        return BRepBuilderAPI_MakeVertex(point(at)).Vertex()
    if line is not None:
        return BRepBuilderAPI_MakeEdge(point(line[0]), point(line[1])).Edge()
    if plane is not None:
        pln = gp_Pln(point(plane.origin), direction(plane.normal))
        return BRepBuilderAPI_MakeFace(pln, -FAR, FAR, -FAR, FAR).Face()
    if arc is not None:
        return BRepBuilderAPI_MakeEdge(GC_MakeArcOfCircle(*map(point, arc)).Value()).Edge()
    assert ring is not None
    circle = gp_Circ(gp_Ax2(point(ring[0]), direction(ring[1])), ring[2])
    return BRepBuilderAPI_MakeEdge(circle).Edge()


def roundness_of(body: NamedShape, index: int) -> tuple[float, Vec | None]:
    """Return the radius of a face, mm (of a ring, that of its section; 0 for none), and a ball's centre."""
    surface = BRepAdaptor_Surface(_face(body, index))
    kind = surface.GetType()
    if kind == GeomAbs_SurfaceType.GeomAbs_Sphere:
        return surface.Sphere().Radius(), place(surface.Sphere().Location())
    if kind == GeomAbs_SurfaceType.GeomAbs_Cylinder:
        return surface.Cylinder().Radius(), None
    if kind == GeomAbs_SurfaceType.GeomAbs_Torus:
        return surface.Torus().MinorRadius(), None
    return 0.0, None


def apart(one: Extent, other: Extent) -> tuple[float, Vec, Vec]:
    """Return the least distance between two things, mm, and its feet on them; 0 where they meet or one lies
    in the other. Raises StepError where the kernel finds none."""
    search = BRepExtrema_DistShapeShape(one, other)
    if not search.IsDone() or not search.NbSolution():
        raise StepError("The kernel finds no least distance between these. Pick parts of them.")
    if search.InnerSolution():
        at = place(search.PointOnShape1(1))
        return 0.0, at, at
    return search.Value(), place(search.PointOnShape1(1)), place(search.PointOnShape2(1))


def inertia_of(body: NamedShape, about: Vec | None = None) -> Inertia:
    """Return a body's centre (mm), its matrix of inertia about a place (its centre unless given; mm⁵, per
    unit of density), its principal moments, least first, and their axes, in the part's directions."""
    mass, centre, own_rows, moments, axes = _inertia(body)
    rows = [list(r) for r in own_rows]
    if about is not None:
        d = minus(centre, about)
        square = sum(v * v for v in d)
        for i in range(3):
            for j in range(3):
                rows[i][j] += mass * ((square if i == j else 0.0) - d[i] * d[j])
    x, y, z = ((r[0], r[1], r[2]) for r in rows)
    return centre, (x, y, z), moments, axes


def _weighed(body: NamedShape) -> tuple[float, Vec, tuple[Vec, ...], Vec, tuple[Vec, Vec, Vec]]:
    """Return a body's volume, and what `inertia_of` tells about its centre."""
    found = GProp_GProps()
    BRepGProp.VolumeProperties_s(body.shape, found)
    centre = place(found.CentreOfMass())
    matrix = found.MatrixOfInertia()  # about the centre of mass
    rows = tuple((matrix.Value(i, 1), matrix.Value(i, 2), matrix.Value(i, 3)) for i in (1, 2, 3))
    own = found.PrincipalProperties()
    moments = own.Moments()
    axes = [own.FirstAxisOfInertia(), own.SecondAxisOfInertia(), own.ThirdAxisOfInertia()]
    order = sorted(range(3), key=lambda i: moments[i])
    a, b, c = ((axes[i].X(), axes[i].Y(), axes[i].Z()) for i in order)
    return found.Mass(), centre, rows, (moments[order[0]], moments[order[1]], moments[order[2]]), (a, b, c)


_inertia = Once(_weighed, 64)


def principal(rows: tuple[Vec, Vec, Vec]) -> tuple[Vec, tuple[Vec, Vec, Vec]]:
    """Return the principal moments of a matrix of inertia, least first, and their axes."""
    values, vectors = np.linalg.eigh(np.array(rows))
    a, b, c = ((float(v[0]), float(v[1]), float(v[2])) for v in vectors.T)
    return (float(values[0]), float(values[1]), float(values[2])), (a, b, c)


def ends_of(piece: Extent) -> tuple[Vec, Vec]:
    """Return the two ends of a piece of line."""
    curve = BRepAdaptor_Curve(TopoDS.Edge(piece))
    return place(curve.Value(curve.FirstParameter())), place(curve.Value(curve.LastParameter()))


def endless(origin: Vec, way: Vec) -> tuple[Vec, Vec]:
    """Return an endless line as a piece that is long enough."""
    reach = scaled(way, FAR / math.hypot(*way))
    return minus(origin, reach), add(origin, reach)
