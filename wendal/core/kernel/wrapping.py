"""Regions and texts wrapped onto a cylinder, true to length: as solids that stand on it, or reach into it."""

from __future__ import annotations

import math
from typing import Any

from OCP.BRepAdaptor import BRepAdaptor_Curve
from OCP.BRepBuilderAPI import (
    BRepBuilderAPI_MakeEdge,
    BRepBuilderAPI_MakeFace,
    BRepBuilderAPI_MakeVertex,
    BRepBuilderAPI_MakeWire,
)
from OCP.BRepGProp import BRepGProp
from OCP.BRepLib import BRepLib
from OCP.BRepOffset import BRepOffset_MakeOffset, BRepOffset_Mode
from OCP.GC import GC_MakeSegment
from OCP.Geom import Geom_CylindricalSurface
from OCP.Geom2d import Geom2d_Curve, Geom2d_TrimmedCurve
from OCP.Geom2dConvert import Geom2dConvert
from OCP.GeomAbs import GeomAbs_JoinType
from OCP.GeomAPI import GeomAPI
from OCP.gp import gp_Ax3, gp_Pln, gp_Pnt2d
from OCP.GProp import GProp_GProps
from OCP.ShapeFix import ShapeFix_Face
from OCP.TopAbs import TopAbs_ShapeEnum
from OCP.TopoDS import TopoDS, TopoDS_Edge, TopoDS_Face, TopoDS_Shape, TopoDS_Wire

from ..errors import StepError
from ..tolerance import FIGURES, FREE_FORM_VOLUME, PARALLEL, SEWN
from .extrusion import flat_face
from .named import NamedShape
from .plane_curves import plane_curve
from .query import check_solid, edge_faces, middle_of, volume_of
from .refusing import refused_as
from .shapes import ax3, direction, listed, point, shape_map, solids_of
from .types import Frame, Profile, Segment, Vec, cross, dot, minus, unit

__all__ = ["wrapped"]

OVER = 0.5  # mm that a cutting solid reaches out of the cylinder
FACE = TopAbs_ShapeEnum.TopAbs_FACE


def wrapped(
    profile: Profile,
    frame: Frame,
    axis: tuple[Vec, Vec],
    radius: float,
    depth: float,
    into: bool,
    prefix: str,
) -> NamedShape:
    """Wrap a profile, drawn in a plane along a cylinder's axis (a place, a direction), onto the cylinder, and
    give it a depth (mm).

    It lies on the side that the plane's normal looks to; lengths round the cylinder are those of the drawing.
    into : below the surface. Named as a prism: `prefix/side/<segment>/<profile>`, `prefix/start/…` (at the
    surface) and `prefix/end/…`. Raises StepError.
    """
    place, way = axis[0], unit(axis[1])
    if abs(dot(way, frame.normal)) > PARALLEL:
        raise StepError(
            "The sketch's plane does not run along the axis of the round face. Draw on a plane that does.",
            field="face",
        )
    out = frame.normal
    across = cross(way, out)
    own = radius - depth if into else radius
    if own <= 0:
        raise StepError(f"A depth of {depth:g} mm reaches to the axis. Make it smaller.", field="depth")
    widths = [dot(minus(frame.at(*s.start), place), across) for loop in profile.loops for s in loop]
    if max(widths) - min(widths) > 2 * math.pi * radius:
        raise StepError(
            f"This is longer than the way round ({2 * math.pi * radius:.6g} mm). Make it shorter.",
            field="profile",
        )
    surface = Geom_CylindricalSurface(gp_Ax3(point(place), direction(way), direction(out)), own)
    flat = Frame(place, across, way)  # whose x is the length round the cylinder, and y the height
    edges: list[tuple[Segment, TopoDS_Edge]] = []
    outer, *holes = [_wire(loop, frame, flat, surface, radius, edges) for loop in profile.loops]
    maker = BRepBuilderAPI_MakeFace(surface, outer, True)
    for hole in holes:
        maker.Add(hole)
    fixed = ShapeFix_Face(maker.Face())
    fixed.FixOrientation()
    fixed.Perform()
    solid = _thick(fixed.Face(), edges, depth + OVER if into else depth, into, prefix, profile.name)
    check_solid(solid)
    area = abs(_area(profile))
    reach = (radius + OVER) if into else radius + depth
    wanted = area * (reach**2 - own**2) / (2 * radius)
    if abs(volume_of(solid) - wanted) > FREE_FORM_VOLUME * wanted:
        raise StepError(
            "The kernel could not wrap this outline rightly. Make it simpler, or the depth smaller.",
            field="profile",
        )
    return solid


def _wire(
    loop: list[Segment],
    frame: Frame,
    flat: Frame,
    surface: Geom_CylindricalSurface,
    radius: float,
    edges: list[tuple[Segment, TopoDS_Edge]],
) -> TopoDS_Wire:
    def spot(p: tuple[float, float]) -> gp_Pnt2d:
        u, v, _ = flat.local(frame.at(*p))
        return gp_Pnt2d(u / radius, v)

    corners = []
    for s in loop:
        at = spot(s.start)
        corners.append(BRepBuilderAPI_MakeVertex(surface.Value(at.X(), at.Y())).Vertex())
    maker = BRepBuilderAPI_MakeWire()
    for i, s in enumerate(loop):
        curve, back = _curve(s, frame, flat, radius)
        ends = corners[i], corners[(i + 1) % len(loop)]
        first, last = reversed(ends) if back else ends
        edge = BRepBuilderAPI_MakeEdge(
            curve, surface, first, last, curve.FirstParameter(), curve.LastParameter()
        ).Edge()
        edge = TopoDS.Edge(edge.Reversed()) if back else edge
        maker.Add(edge)
        edges.append((s, edge))
    if not maker.IsDone():
        raise StepError("The outline of this region does not close on the round face.", field="profile")
    wire = maker.Wire()
    BRepLib.BuildCurves3d_s(wire)
    return wire


def _curve(s: Segment, frame: Frame, flat: Frame, radius: float) -> tuple[Geom2d_Curve, bool]:
    """Return a side as a B-spline of the cylinder's parameters (angle, height), and whether it runs against
    the side."""
    plane = gp_Pln(ax3(flat))
    if s.centre is None and not s.poles:
        back = False
        bent = GeomAPI.To2d_s(
            GC_MakeSegment(point(frame.at(*s.start)), point(frame.at(*s.end))).Value(), plane
        )
    else:
        curve, shift = plane_curve(s, frame)
        low, high = sorted((s.t0 + shift, s.t1 + shift))
        back = s.t1 < s.t0
        bent = Geom2d_TrimmedCurve(GeomAPI.To2d_s(curve, plane), low, high)
    spline: Any = Geom2dConvert.CurveToBSplineCurve_s(bent)
    for k in range(1, spline.NbPoles() + 1):
        pole = spline.Pole(k)
        spline.SetPole(k, gp_Pnt2d(pole.X() / radius, pole.Y()))
    return spline, back


def _thick(
    face: TopoDS_Face,
    edges: list[tuple[Segment, TopoDS_Edge]],
    by: float,
    into: bool,
    prefix: str,
    profile: str,
) -> NamedShape:
    maker: Any = BRepOffset_MakeOffset()
    maker.Initialize(
        face,
        by,
        SEWN,
        BRepOffset_Mode.BRepOffset_Skin,
        False,
        False,
        GeomAbs_JoinType.GeomAbs_Intersection,
        True,
        False,
    )
    with refused_as(lambda: StepError(FAILED, field="profile")):
        maker.MakeOffsetShape()
        shape = maker.Shape()
    if shape.IsNull() or not solids_of(shape):
        raise StepError(FAILED, field="profile")
    present = shape_map(shape, FACE)
    near, far = ("end", "start") if into else ("start", "end")
    named: list[tuple[TopoDS_Shape, frozenset[str]]] = [
        (f, frozenset({f"{prefix}/{near}/{profile}"})) for f in (face, *listed(maker.Modified(face)))
    ]
    named += [
        (f, frozenset({f"{prefix}/{far}/{profile}"}))
        for f in listed(maker.Generated(face))
        if f.ShapeType() == FACE
    ]
    found = NamedShape.collect(shape, [(f, n) for f, n in named if present.Contains(f)])
    for solid in solids_of(found.shape):
        BRepLib.OrientClosedSolid_s(TopoDS.Solid(solid))
    found = _walls(found, edges, f"{prefix}/{near}/{profile}", f"{prefix}/side", profile)
    if not all(found.names):
        raise StepError(FAILED, field="profile")
    return found


def _walls(
    made: NamedShape, edges: list[tuple[Segment, TopoDS_Edge]], near: str, role: str, profile: str
) -> NamedShape:
    """Name the walls, of which the kernel keeps no history, by the side whose edge they share with the near
    face."""
    middles = [(s.name, middle_of(BRepAdaptor_Curve(e))[0]) for s, e in edges]
    faces = shape_map(made.shape, FACE)
    names = list(made.names)
    for edge, around in edge_faces(made.shape):
        own = [faces.FindIndex(f) - 1 for f in around]
        if len(own) != 2 or not any(near in made.names[i] for i in own):
            continue
        at = middle_of(BRepAdaptor_Curve(TopoDS.Edge(edge)))[0]
        name, far = min(((n, math.dist(p, at)) for n, p in middles), key=lambda found: found[1])
        for i in own:
            if not made.names[i] and far < FIGURES:
                names[i] = frozenset({f"{role}/{name}/{profile}"})
    return NamedShape(made.shape, names)


def _area(profile: Profile) -> float:
    """Return a profile's area, mm², as the kernel sees it."""
    props = GProp_GProps()
    BRepGProp.SurfaceProperties_s(flat_face(profile, Frame())[0], props)
    return float(props.Mass())


FAILED = "The kernel could not wrap this outline onto the round face. Make it simpler, or the depth smaller."
