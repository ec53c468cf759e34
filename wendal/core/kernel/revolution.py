"""Flat profiles turned about an axis.

On a full turn the kernel tells nothing of faces square to the axis; they are found between the circles that
the ends of their edges run along.
"""

from __future__ import annotations

import math

from OCP.BRep import BRep_Tool
from OCP.BRepLib import BRepLib
from OCP.BRepPrimAPI import BRepPrimAPI_MakeRevol
from OCP.collections import (
    IndexedDataMap_TopoDS_Shape_List_TopoDS_Shape_TopTools_ShapeMapHasher as AncestorMap,
)
from OCP.gp import gp_Ax1
from OCP.TopAbs import TopAbs_ShapeEnum
from OCP.TopExp import TopExp
from OCP.TopoDS import TopoDS, TopoDS_Edge, TopoDS_Shape

from ..errors import StepError
from ..tolerance import FULL_TURN
from .extrusion import flat_face
from .named import NamedShape
from .refusing import refused_as
from .shapes import direction, listed, point, shape_map, solids_of
from .types import Frame, Profile, Segment, Vec

__all__ = ["FULL", "revolved", "sides_of", "tool_of_revolution"]

FULL = 2 * math.pi
EDGE, FACE = TopAbs_ShapeEnum.TopAbs_EDGE, TopAbs_ShapeEnum.TopAbs_FACE


def revolved(
    profile: Profile, frame: Frame, through: Vec, axis: Vec, angle: float, prefix: str, *, far: str = "end"
) -> NamedShape:
    """Turn a profile in a frame about an axis (unit) by an angle in rad, up to a full turn.

    Faces are named as those of a prism: `prefix/side/<segment>/<profile>`, `prefix/start/<profile>` and
    `prefix/<far>/<profile>`. Raises StepError when the kernel makes no valid solid of it.
    """
    face, edges = flat_face(profile, frame)
    full = abs(angle) >= FULL - FULL_TURN
    with refused_as(lambda: StepError("The profile crosses the axis, so it can not be turned about it.")):
        maker = BRepPrimAPI_MakeRevol(
            face, gp_Ax1(point(through), direction(axis)), math.copysign(FULL, angle) if full else angle
        )
        made = maker.Shape()
    if not solids_of(made):
        raise StepError(
            "The kernel could not turn this profile; look at its outline for touching or doubled curves."
        )
    for solid in solids_of(made):
        BRepLib.OrientClosedSolid_s(TopoDS.Solid(solid))
    named: list[tuple[TopoDS_Shape, frozenset[str]]] = []
    if not full:
        named = [
            (maker.FirstShape(), frozenset({f"{prefix}/start/{profile.name}"})),
            (maker.LastShape(), frozenset({f"{prefix}/{far}/{profile.name}"})),
        ]
    named += [
        (side, frozenset({f"{prefix}/side/{segment.name}/{profile.name}"}))
        for segment, side in sides_of(maker, edges, made)
    ]
    result = NamedShape.collect(made, named)
    if not all(result.names):
        raise StepError(
            "The outline of this region runs over itself, or touches the axis in two separate points."
        )
    return result


def sides_of(
    maker: BRepPrimAPI_MakeRevol, edges: list[tuple[Segment, TopoDS_Edge]], made: TopoDS_Shape
) -> list[tuple[Segment, TopoDS_Shape]]:
    """Return every side face with the segment it comes from; a segment on the axis has none."""
    present = shape_map(made, FACE)
    beside = AncestorMap()
    TopExp.MapShapesAndAncestors_s(made, EDGE, FACE, beside)
    found = [
        (segment, side)
        for segment, edge in edges
        for side in listed(maker.Generated(edge))
        if present.Contains(side)
    ]
    taken = {present.FindIndex(side) for _, side in found}
    known = {id(segment) for segment, _ in found}
    for segment, edge in edges:
        if id(segment) in known:
            continue
        common: set[int] | None = None
        for end in (TopExp.FirstVertex_s(edge), TopExp.LastVertex_s(edge)):
            for ring in listed(maker.Generated(end)):
                if (
                    ring.ShapeType() == EDGE
                    and beside.Contains(ring)
                    and not BRep_Tool.Degenerated_s(TopoDS.Edge(ring))
                ):
                    around = {present.FindIndex(f) for f in listed(beside.FindFromKey(ring))}
                    common = around if common is None else common & around
        rest = (common or set()) - taken
        if len(rest) == 1:
            index = rest.pop()
            taken.add(index)
            found.append((segment, present.FindKey(index)))
    return found


def tool_of_revolution(
    outline: list[tuple[float, float]], parts: list[str], frame: Frame, prefix: str, profile: str
) -> NamedShape:
    """Turn an outline of (radius, depth) places in mm, closed along the axis, fully about a frame's normal.

    depth : along the normal. parts : what each stretch of the outline is called, from each place to the next.
    """
    half = Frame(frame.origin, frame.x, frame.normal)
    segments = [
        Segment(name, a, b) for name, a, b in zip(parts, outline, outline[1:] + outline[:1], strict=True)
    ]
    return revolved(Profile(profile, [segments]), half, frame.origin, frame.normal, FULL, prefix)
