"""What two shapes have in common, and what meets what in one: for drawings of bodies that are cut open."""

from __future__ import annotations

from OCP.BRepAdaptor import BRepAdaptor_Surface
from OCP.GeomAbs import GeomAbs_SurfaceType
from OCP.TopAbs import TopAbs_Orientation, TopAbs_ShapeEnum

from .named import NamedShape
from .query import edge_faces
from .shapes import faces_of, place, shape_map
from .types import Frame, cross, scaled

__all__ = ["edges_at_faces", "flat_face_of", "same_in"]

EDGE, FACE = TopAbs_ShapeEnum.TopAbs_EDGE, TopAbs_ShapeEnum.TopAbs_FACE


def same_in(now: NamedShape, before: NamedShape) -> tuple[list[int], list[int]]:
    """Return, for each edge and each face of a shape, its index in the shape that it was made of, -1 where it
    is not the same any more; a face that was cut keeps to the one whose names it has."""
    edges, was = shape_map(now.shape, EDGE), shape_map(before.shape, EDGE)
    named = {names: i for i, names in enumerate(before.names)}
    return (
        [was.FindIndex(edges.FindKey(i)) - 1 for i in range(1, edges.Extent() + 1)],
        [named.get(names, -1) for names in now.names],
    )


def edges_at_faces(shape: NamedShape) -> list[list[int]]:
    """Return, for each edge, the indices of the faces that meet in it."""
    faces = shape_map(shape.shape, FACE)
    return [[faces.FindIndex(f) - 1 for f in found] for _, found in edge_faces(shape.shape)]


def flat_face_of(shape: NamedShape, index: int) -> Frame | None:
    """Return the plane of a flat face, its normal out of the body; None for one that is not flat."""
    face = faces_of(shape.shape)[index]
    surface = BRepAdaptor_Surface(face)
    if surface.GetType() != GeomAbs_SurfaceType.GeomAbs_Plane:
        return None
    position = surface.Plane().Position()
    x, n = position.XDirection(), position.Direction()
    sense = 1.0 if face.Orientation() == TopAbs_Orientation.TopAbs_FORWARD else -1.0
    normal = scaled((n.X(), n.Y(), n.Z()), sense if position.Direct() else -sense)
    along = (x.X(), x.Y(), x.Z())
    return Frame(place(position.Location()), along, cross(normal, along))
