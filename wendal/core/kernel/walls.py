"""The least wall of a solid: the shortest way through its material from face to face.

Rays go inward from places spread over the triangles and end where they come out; each tells a pair of faces.
The pairs of the least ones are then measured exactly (`measuring.apart`). A hit counts only where its face is
turned by more than 120° from the one the ray began on: else every sharp edge would be a wall of nothing.
"""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from OCP.BRepClass3d import BRepClass3d_SolidClassifier
from OCP.gp import gp_Dir, gp_Lin, gp_Pnt
from OCP.IntCurvesFace import IntCurvesFace_ShapeIntersector
from OCP.TopAbs import TopAbs_ShapeEnum, TopAbs_State

from ..errors import StepError
from .measuring import apart, extent_of
from .mesh import face_meshes
from .named import NamedShape
from .places import nearest_on_face, normal_on_face
from .shapes import ShapeMap, place, shape_map, solids_of
from .types import Topology, Vec

__all__ = ["Wall", "least_wall"]

RAYS = 1000
PER_FACE = 4  # rays at least
PAIRS = 8  # that are measured exactly
SPREAD = 1.15  # by which a ray may miss the least place of its pair
TURNED = -0.5  # cosine of the least turn between the two faces of a wall
INSIDE = 1e-6  # mm by which a ray begins within the material
ONE_PLACE = 1e-7  # mm
DENSITY = 0.5  # rays per mm², where that is enough


@dataclass(frozen=True, slots=True)
class Wall:
    """A wall: its thickness in mm, its two feet, and the faces they lie on."""

    thickness: float
    feet: tuple[Vec, Vec]
    faces: tuple[int, int]


def least_wall(body: NamedShape, topology: Topology) -> Wall:
    """Return the least wall of a solid body; raises StepError for a sheet, or where no ray comes out."""
    if not solids_of(body.shape):
        raise StepError("A sheet has no wall.")
    search = IntCurvesFace_ShapeIntersector()
    search.Load(body.shape, ONE_PLACE)
    known = shape_map(body.shape, TopAbs_ShapeEnum.TopAbs_FACE)
    least: dict[tuple[int, int], Wall] = {}
    for face, facet, facing in _places(body):
        try:
            at, normal = _on_face(body, topology, face, facet, facing)
        except StepError:
            continue  # a tip has no direction
        found = _through(search, known, face, at, normal)
        if found is None or not _faced(body, topology, normal, found):
            continue
        pair = (min(found.faces), max(found.faces))
        if pair not in least or found.thickness < least[pair].thickness:
            least[pair] = found
    if not least:
        raise StepError("No wall was found in this body.")
    best: Wall | None = None
    for found in sorted(least.values(), key=lambda w: w.thickness)[:PAIRS]:
        if best and found.thickness > SPREAD * best.thickness:
            break
        exact = _exactly(body, topology, found)
        best = min(best, exact, key=lambda w: w.thickness) if best else exact
    assert best is not None
    return best


def _places(body: NamedShape) -> Iterator[tuple[int, NDArray, NDArray]]:
    """Yield places on the faces and the directions outward there, spread evenly, the same every time."""
    box = body.anatomy.box
    meshes = face_meshes(body, math.dist(box[:3].tolist(), box[3:].tolist()))
    corners = [m.places.astype(np.float64)[m.triangles] for m in meshes]
    squares = [np.cross(c[:, 1] - c[:, 0], c[:, 2] - c[:, 0]) for c in corners]
    areas = [np.linalg.norm(q, axis=1) / 2 for q in squares]
    whole = sum(float(a.sum()) for a in areas)
    rays = min(RAYS, DENSITY * whole)
    for face, (corner, square, area) in enumerate(zip(corners, squares, areas, strict=True)):
        own = float(area.sum())
        if own <= 0:
            continue
        number = max(PER_FACE, round(rays * own / whole))
        sums = np.cumsum(area)
        for k in range(number):
            t = min(int(np.searchsorted(sums, own * (k + 0.5) / number)), len(area) - 1)
            u, v = (0.5 + 0.7548776662466927 * k) % 1.0, (0.5 + 0.5698402909980532 * k) % 1.0
            if u + v > 1:
                u, v = 1 - u, 1 - v
            a, b, c = corner[t]
            n = square[t] / (2 * area[t]) if area[t] > 0 else None
            if n is not None:
                yield face, a + u * (b - a) + v * (c - a), n


def _on_face(
    body: NamedShape, topology: Topology, face: int, at: NDArray, normal: NDArray
) -> tuple[NDArray, NDArray]:
    """Return the place of a curved face beside one of its facets, and the direction outward there."""
    known = topology.faces[face]
    if known.form == "flat":
        return at, normal
    if known.form == "round" and known.axis is not None:
        origin, way = np.array(known.axis[0]), np.array(known.axis[1])
        foot = origin + ((at - origin) @ way) * way
        out = (at - foot) / np.linalg.norm(at - foot)
        return foot + known.radius * out, out if out @ normal > 0 else -out
    on = nearest_on_face(body, face, (float(at[0]), float(at[1]), float(at[2])))
    return np.array(on), np.array(normal_on_face(body, face, on))


def _through(
    search: IntCurvesFace_ShapeIntersector, known: ShapeMap, face: int, at: NDArray, normal: NDArray
) -> Wall | None:
    """Return the wall that a ray inward finds: to where it comes out of the material."""
    start = at - INSIDE * normal
    search.Perform(gp_Lin(gp_Pnt(*start), gp_Dir(*(-normal))), 10 * INSIDE, 1e9)
    hits = [
        (search.WParameter(i), i) for i in range(1, search.NbPnt() + 1) if search.WParameter(i) > 10 * INSIDE
    ]
    if not hits:
        return None
    far, i = min(hits)
    other = known.FindIndex(search.Face(i)) - 1
    out = place(search.Pnt(i))
    begin = (float(at[0]), float(at[1]), float(at[2]))
    return Wall(far + INSIDE, (begin, out), (face, other)) if other >= 0 else None


def _faced(body: NamedShape, topology: Topology, normal: NDArray, wall: Wall) -> bool:
    """Tell whether the face at which a ray comes out looks the other way."""
    known = topology.faces[wall.faces[1]]
    try:
        other = (
            known.frame.normal if known.form == "flat" else normal_on_face(body, wall.faces[1], wall.feet[1])
        )
    except StepError:
        return False
    return sum(a * b for a, b in zip(other, normal.tolist(), strict=True)) < TURNED


def _exactly(body: NamedShape, topology: Topology, wall: Wall) -> Wall:
    """Measure the pair of faces of a wall; where they meet in an edge, or are nearer through the air, the ray
    stands."""
    one, other = wall.faces
    if one == other or other in topology.beside(one):
        return wall
    value, a, b = apart(extent_of(face=(body, one)), extent_of(face=(body, other)))
    if not 0 < value < wall.thickness + 1e-6:
        return wall
    middle = gp_Pnt(*((p + q) / 2 for p, q in zip(a, b, strict=True)))
    state = BRepClass3d_SolidClassifier(body.shape, middle, 1e-9).State()
    return wall if state == TopAbs_State.TopAbs_OUT else Wall(value, (a, b), wall.faces)
