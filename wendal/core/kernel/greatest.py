"""The greatest distance between two things: of places spread over both the two farthest, then each moved on
along its edge or face for as long as that makes it more.

The greatest distance is reached at corners, on bent edges or on bent faces: straight edges and the insides of
flat faces have none of it.
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from OCP.BRep import BRep_Tool
from OCP.BRepAdaptor import BRepAdaptor_Curve, BRepAdaptor_Surface
from OCP.BRepTools import BRepTools
from OCP.GeomAbs import GeomAbs_CurveType, GeomAbs_SurfaceType
from OCP.gp import gp_Pnt2d
from OCP.IntTools import IntTools_FClass2d
from OCP.TopAbs import TopAbs_ShapeEnum, TopAbs_State
from OCP.TopoDS import TopoDS
from scipy.spatial import ConvexHull, QhullError

from .measuring import Extent
from .shapes import items, place, shape_map
from .types import Vec

__all__ = ["farthest"]

ALONG, ACROSS = 48, 14  # places on a bent edge, and each way over a bent face
STEPS = 60  # halvings of the step
FEW = 64  # places that are not worth a hull
Lie = Callable[[tuple[float, ...]], Vec | None]  # a place by its parameters; None outside


@dataclass(slots=True)
class Spread:
    """A place on a thing, with the parameters and steps by which it can be moved."""

    at: Vec
    lie: Lie | None = None
    where: tuple[float, ...] = ()
    step: tuple[float, ...] = ()


def farthest(one: Extent, other: Extent) -> tuple[float, Vec, Vec]:
    """Return the greatest distance between two things that have ends, mm, and its two places."""
    a, b = _outermost(_spread(one)), _outermost(_spread(other))
    p, q = (np.array([s.at for s in found]) for found in (a, b))
    best, pair = -1.0, (0, 0)
    for i in range(0, len(p), 512):
        far = np.linalg.norm(p[i : i + 512, None] - q[None], axis=2)
        k = int(far.argmax())
        if far.flat[k] > best:
            best, pair = float(far.flat[k]), (i + k // len(q), k % len(q))
    x, y = a[pair[0]], b[pair[1]]
    for _ in range(40):
        before = math.dist(x.at, y.at)
        x, y = _on(x, y.at), y
        y = _on(y, x.at)
        if math.dist(x.at, y.at) <= before + 1e-12:
            break
    return math.dist(x.at, y.at), x.at, y.at


def _outermost(found: list[Spread]) -> list[Spread]:
    """Return the places on the hull of all of them, where the farthest is; all where they lie flat."""
    if len(found) <= FEW:
        return found
    try:
        return [found[i] for i in ConvexHull(np.array([s.at for s in found])).vertices]
    except QhullError:
        return found


def _on(spread: Spread, away: Vec) -> Spread:
    """Move a place on for as long as that brings it farther away from another."""
    if spread.lie is None:
        return spread
    where, step, at = spread.where, spread.step, spread.at
    for _ in range(STEPS):
        moved = False
        for turn in itertools.product((-1, 0, 1), repeat=len(where)):
            there = tuple(w + t * s for w, t, s in zip(where, turn, step, strict=True))
            found = spread.lie(there)
            if found is not None and math.dist(found, away) > math.dist(at, away) + 1e-13:
                where, at, moved = there, found, True
        if not moved:
            step = tuple(s / 2 for s in step)
    return Spread(at, spread.lie, where, spread.step)


def _spread(thing: Extent) -> list[Spread]:
    """Return the corners of a thing, and places on its bent edges and faces."""
    found = [
        Spread(place(BRep_Tool.Pnt_s(TopoDS.Vertex(v))))
        for v in items(shape_map(thing, TopAbs_ShapeEnum.TopAbs_VERTEX))
    ]
    for e in items(shape_map(thing, TopAbs_ShapeEnum.TopAbs_EDGE)):
        found += _of_edge(TopoDS.Edge(e))
    for f in items(shape_map(thing, TopAbs_ShapeEnum.TopAbs_FACE)):
        found += _of_face(TopoDS.Face(f))
    return found


def _of_edge(edge: Extent) -> list[Spread]:
    if BRep_Tool.Degenerated_s(TopoDS.Edge(edge)):
        return []
    curve = BRepAdaptor_Curve(TopoDS.Edge(edge))
    if curve.GetType() == GeomAbs_CurveType.GeomAbs_Line:
        return []
    low, high = curve.FirstParameter(), curve.LastParameter()

    def lie(where: tuple[float, ...]) -> Vec | None:
        return place(curve.Value(where[0])) if low <= where[0] <= high else None

    step = (high - low) / ALONG
    return [Spread(place(curve.Value(t)), lie, (t,), (step,)) for t in np.linspace(low, high, ALONG + 1)]


def _of_face(face: Extent) -> list[Spread]:
    flat = TopoDS.Face(face)
    surface = BRepAdaptor_Surface(flat)
    if surface.GetType() == GeomAbs_SurfaceType.GeomAbs_Plane:
        return []
    u0, u1, v0, v1 = BRepTools.UVBounds_s(flat)
    inside = IntTools_FClass2d(flat, 1e-7)

    def lie(where: tuple[float, ...]) -> Vec | None:
        if inside.Perform(gp_Pnt2d(*where)) == TopAbs_State.TopAbs_OUT:
            return None
        return place(surface.Value(*where))

    step = ((u1 - u0) / ACROSS, (v1 - v0) / ACROSS)
    grid = itertools.product(np.linspace(u0, u1, ACROSS + 1), np.linspace(v0, v1, ACROSS + 1))
    return [Spread(at, lie, (float(u), float(v)), step) for u, v in grid if (at := lie((float(u), float(v))))]
