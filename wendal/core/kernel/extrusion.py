"""Flat profiles pushed along a direction."""

from __future__ import annotations

import math

from OCP.BRepBuilderAPI import (
    BRepBuilderAPI_Copy,
    BRepBuilderAPI_MakeEdge,
    BRepBuilderAPI_MakeFace,
    BRepBuilderAPI_MakeVertex,
    BRepBuilderAPI_MakeWire,
)
from OCP.BRepCheck import BRepCheck_Analyzer
from OCP.BRepLib import BRepLib
from OCP.BRepOffsetAPI import BRepOffsetAPI_DraftAngle
from OCP.BRepPrimAPI import BRepPrimAPI_MakePrism
from OCP.gp import gp_Pln
from OCP.TopAbs import TopAbs_ShapeEnum
from OCP.TopoDS import (
    TopoDS,
    TopoDS_Edge,
    TopoDS_Face,
    TopoDS_Shape,
    TopoDS_Solid,
    TopoDS_Vertex,
    TopoDS_Wire,
)

from ..errors import StepError
from .named import NamedShape
from .plane_curves import plane_curve
from .shapes import ax3, direction, edges_of, faces_of, listed, point, shape_map, vector
from .types import Frame, Profile, Segment, Vec, dot, minus, unit

__all__ = ["flat_face", "prism", "wire_of"]


def prism(
    profile: Profile,
    frame: Frame,
    path: Vec,
    prefix: str,
    *,
    far: str = "end",
    draft: float = 0.0,
    neutral: Frame | None = None,
) -> NamedShape:
    """Push a profile in a frame along path (mm).

    Faces are named `prefix/side/<segment>/<profile>`, `prefix/start/<profile>` and `prefix/<far>/<profile>`.
    draft : angle in rad by which it narrows along the path (negative: widens). neutral : where it keeps its
    size, else the frame. Raises StepError when the kernel makes no valid solid of it.
    """
    face, edges = flat_face(profile, frame)
    made = BRepPrimAPI_MakePrism(face, vector(path))
    if not made.IsDone() or made.Shape().IsNull():
        raise StepError(
            "The kernel could not push this profile; look at its outline for touching or doubled curves."
        )
    solid = TopoDS.Solid(made.Shape())
    BRepLib.OrientClosedSolid_s(solid)
    named = [
        (made.FirstShape(), frozenset({f"{prefix}/start/{profile.name}"})),
        (made.LastShape(), frozenset({f"{prefix}/{far}/{profile.name}"})),
    ]
    sides = [(segment, side) for segment, edge in edges for side in listed(made.Generated(edge))]
    named += [(side, frozenset({f"{prefix}/side/{segment.name}/{profile.name}"})) for segment, side in sides]
    if draft:
        _check_radii(profile, draft, path, frame, neutral)
        return _drafted(solid, named, [side for _, side in sides], path, draft, neutral or frame)
    made_of = NamedShape.collect(solid, named)
    if not all(made_of.names):
        raise StepError("The outline of this region runs over itself; look for doubled curves.")
    return made_of


def _check_radii(profile: Profile, draft: float, path: Vec, frame: Frame, neutral: Frame | None) -> None:
    """Raise StepError where a rounding or hole would shrink to nothing: the kernel does not notice."""
    start = 0.0 if neutral is None else dot(minus(neutral.origin, frame.origin), unit(path))
    length = math.sqrt(dot(path, path))
    run = max(abs(start), abs(length - start)) * abs(math.tan(draft))
    for loop in profile.loops:
        for s in loop:
            if s.half is not None or s.poles:
                raise StepError(
                    "A draft is made of straight and circular sides only; this profile has free curves.",
                    field="draft",
                )
            if s.centre is not None and s.radius <= run:
                raise StepError(
                    f"At this draft angle a side of radius {s.radius:g} mm would shrink to nothing.",
                    field="draft",
                )


def _drafted(
    solid: TopoDS_Solid,
    named: list[tuple[TopoDS_Shape, frozenset[str]]],
    sides: list[TopoDS_Shape],
    path: Vec,
    draft: float,
    neutral: Frame,
) -> NamedShape:
    maker = BRepOffsetAPI_DraftAngle(solid)
    for side in sides:
        maker.Add(TopoDS.Face(side), direction(unit(path)), draft, gp_Pln(ax3(neutral)))
        if not maker.AddDone():
            raise StepError(
                "The kernel could not draft a side of this profile. Try a smaller angle.", field="draft"
            )
    maker.Build()
    if not maker.IsDone():
        raise StepError(
            "At this draft angle a side would shrink to nothing. Try a smaller angle, or a smaller depth.",
            field="draft",
        )
    result = maker.Shape()
    present = shape_map(result, TopAbs_ShapeEnum.TopAbs_FACE)
    after = [
        (f, names)
        for face, names in named
        for f in [*listed(maker.Generated(face)), *listed(maker.Modified(face)), face]
        if present.Contains(f)
    ]
    made = NamedShape.collect(result, after)
    if not all(made.names) or not BRepCheck_Analyzer(result).IsValid():
        raise StepError(
            "At this draft angle a side would shrink to nothing. Try a smaller angle, or a smaller depth.",
            field="draft",
        )
    return made


def flat_face(profile: Profile, frame: Frame) -> tuple[TopoDS_Face, list[tuple[Segment, TopoDS_Edge]]]:
    """Make the flat face of a profile, and tell which of its edges comes from which segment."""
    if profile.face is not None:
        return _of_body(*profile.face)
    (outer, edges), *holes = [wire_of(loop, frame, True) for loop in profile.loops]
    maker = BRepBuilderAPI_MakeFace(gp_Pln(ax3(frame)), outer, True)
    for hole, more in holes:
        maker.Add(hole)
        edges += more
    if not maker.IsDone() or not BRepCheck_Analyzer(maker.Face()).IsValid():
        raise StepError("This region can not be filled: its outline crosses or touches itself.")
    return maker.Face(), edges


def _of_body(
    shape: NamedShape, index: int, sources: dict[int, str]
) -> tuple[TopoDS_Face, list[tuple[Segment, TopoDS_Edge]]]:
    """Take a face of a body as a profile; an edge is named by the face beyond it.

    The face is one of its own: what is made of it writes into its edges, and they are the body's as well.
    """
    known = faces_of(shape.shape)[index]
    face = TopoDS.Face(BRepBuilderAPI_Copy(known, True, False).Shape())
    whole = shape_map(shape.shape, TopAbs_ShapeEnum.TopAbs_EDGE)
    edges = [
        (Segment(sources.get(whole.FindIndex(e) - 1, "edge"), (0.0, 0.0), (0.0, 0.0)), own)
        for e, own in zip(edges_of(known), edges_of(face), strict=True)
    ]
    return face, edges


def wire_of(
    segments: list[Segment], frame: Frame, closed: bool
) -> tuple[TopoDS_Wire, list[tuple[Segment, TopoDS_Edge]]]:
    """Return sides that follow each other as one wire, and its edges; raises StepError where they do not
    join."""
    corners = [BRepBuilderAPI_MakeVertex(point(frame.at(*s.start))).Vertex() for s in segments]
    corners.append(
        corners[0] if closed else BRepBuilderAPI_MakeVertex(point(frame.at(*segments[-1].end))).Vertex()
    )
    maker, edges = BRepBuilderAPI_MakeWire(), []
    for i, segment in enumerate(segments):
        edge = _edge(segment, frame, corners[i], corners[i + 1])
        maker.Add(edge)
        edges.append((segment, edge))
    if not maker.IsDone():
        raise StepError(
            "The outline of this region does not close."
            if closed
            else "These curves do not join on to each other. Look at their ends."
        )
    return maker.Wire(), edges


def _edge(segment: Segment, frame: Frame, start: TopoDS_Vertex, end: TopoDS_Vertex) -> TopoDS_Edge:
    """Make one edge between shared corners: without sharing, the kernel copies edges and their history is
    lost."""
    if segment.centre is None and not segment.poles:
        return BRepBuilderAPI_MakeEdge(start, end).Edge()
    curve, shift = plane_curve(segment, frame)
    if segment.t1 > segment.t0:
        return BRepBuilderAPI_MakeEdge(curve, start, end, segment.t0 + shift, segment.t1 + shift).Edge()
    forward = BRepBuilderAPI_MakeEdge(curve, end, start, segment.t1 + shift, segment.t0 + shift).Edge()
    return TopoDS.Edge(forward.Reversed())
