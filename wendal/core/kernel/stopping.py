"""Blends along picked edges only: what a blend along the whole smooth run takes away or adds, cut off at the
edges' ends."""

from __future__ import annotations

from OCP.BRepAdaptor import BRepAdaptor_Curve
from OCP.GeomAbs import GeomAbs_CurveType
from OCP.TopoDS import TopoDS_Edge

from ..errors import StepError
from .boolean import common, cut, fuse
from .extrusion import prism
from .named import NamedShape
from .query import box_of, check_solid, pieces_of
from .shapes import place
from .types import Profile, Segment, minus, unit, upright

__all__ = ["only_along"]


def only_along(
    body: NamedShape, whole: NamedShape, edges: list[tuple[TopoDS_Edge, frozenset[str]]], step: str
) -> NamedShape:
    """Return a body blended along some straight edges only. whole : blended along all that runs on smoothly;
    edges : each with the name of its blend. What ends a blend is named `step/start/…` and `step/end/…`.
    Raises StepError."""
    low, high = box_of([body])
    reach = 2 * sum(b - a for a, b in zip(low, high, strict=True))
    taken, added = cut(body, [whole], merge=False), cut(whole, [body], merge=False)
    removes: list[NamedShape] = []
    fills: list[NamedShape] = []
    for edge, name in edges:
        curve = BRepAdaptor_Curve(edge)
        if curve.GetType() != GeomAbs_CurveType.GeomAbs_Line:
            raise StepError(
                "Only along straight edges can a blend stop at their ends. Let it run on, or pick straight "
                "edges.",
                field="edges",
            )
        start, end = place(curve.Value(curve.FirstParameter())), place(curve.Value(curve.LastParameter()))
        frame = upright(start, unit(minus(end, start))).at_place(start)
        corners = [(-reach, -reach), (reach, -reach), (reach, reach), (-reach, reach)]
        square = [Segment(f"q{i}", corners[i], corners[(i + 1) % 4]) for i in range(4)]
        slab = prism(Profile(min(name).split("/")[-1], [square]), frame, minus(end, start), step)
        for ring, kept in ((taken, removes), (added, fills)):
            if ring.names:
                kept += [
                    p for p in pieces_of(common(ring, [slab], merge=False)) if any(n & name for n in p.names)
                ]
    if len(removes) + len(fills) < len(edges):
        raise StepError(
            "The kernel could not end these blends at their edges' ends. Let them run on.", field="edges"
        )
    made = fuse([body, *fills]) if fills else body
    made = cut(made, removes) if removes else made
    check_solid(made)
    return made
