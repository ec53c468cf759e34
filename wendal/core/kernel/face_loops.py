"""The outline of a flat face of a body as sides of a profile."""

from __future__ import annotations

import math

from OCP.BRepAdaptor import BRepAdaptor_Curve
from OCP.BRepTools import BRepTools, BRepTools_WireExplorer
from OCP.GeomAbs import GeomAbs_CurveType
from OCP.TopAbs import TopAbs_Orientation, TopAbs_ShapeEnum
from OCP.TopoDS import TopoDS, TopoDS_Edge, TopoDS_Face, TopoDS_Wire

from ..errors import StepError
from .named import NamedShape
from .shapes import faces_of, items, place, shape_map
from .types import Frame, Profile, Segment

__all__ = ["profile_of_face"]


def profile_of_face(
    shape: NamedShape, index: int, sources: dict[int, str], frame: Frame, name: str
) -> Profile:
    """Return a flat face, by its index, as a profile in its frame; a side is named by the source at its edge,
    by the edge's index.

    Raises StepError where an edge is neither straight nor circular.
    """
    face = faces_of(shape.shape)[index]
    whole = shape_map(shape.shape, TopAbs_ShapeEnum.TopAbs_EDGE)
    outer = BRepTools.OuterWire_s(face)
    wires = [
        outer,
        *(
            w
            for w in map(TopoDS.Wire, items(shape_map(face, TopAbs_ShapeEnum.TopAbs_WIRE)))
            if not w.IsSame(outer)
        ),
    ]
    return Profile(
        name,
        [
            [_side(e, sources.get(whole.FindIndex(e) - 1, "edge"), frame) for e in _along(w, face)]
            for w in wires
        ],
    )


def _along(wire: TopoDS_Wire, face: TopoDS_Face) -> list[TopoDS_Edge]:
    explorer, found = BRepTools_WireExplorer(wire, face), []
    while explorer.More():
        found.append(explorer.Current())
        explorer.Next()
    return found


def _side(edge: TopoDS_Edge, name: str, frame: Frame) -> Segment:
    curve = BRepAdaptor_Curve(edge)
    low, high = curve.FirstParameter(), curve.LastParameter()
    if edge.Orientation() == TopAbs_Orientation.TopAbs_REVERSED:
        low, high = high, low
    start, middle, end = (frame.local(place(curve.Value(t)))[:2] for t in (low, (low + high) / 2, high))
    if curve.GetType() == GeomAbs_CurveType.GeomAbs_Line:
        return Segment(name, start, end)
    if curve.GetType() != GeomAbs_CurveType.GeomAbs_Circle:
        raise StepError(
            "A face with free curves around it can not be used here. Project it into a sketch, and take the "
            "region.",
            field="profile",
        )
    cx, cy, _ = frame.local(place(curve.Circle().Location()))
    t0 = math.atan2(start[1] - cy, start[0] - cx)
    half = math.remainder(
        math.atan2(middle[1] - cy, middle[0] - cx) - t0, 2 * math.pi
    )  # less than half a turn either way
    sweep = abs(high - low)
    return Segment(name, start, end, (cx, cy), curve.Circle().Radius(), t0, t0 + math.copysign(sweep, half))
