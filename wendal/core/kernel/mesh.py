"""Triangles and lines for the screen, face by face, each with a digest of its content."""

from __future__ import annotations

import ctypes
import hashlib
import logging
import math
from dataclasses import dataclass
from functools import cache
from typing import Any

import numpy as np
from numpy.typing import NDArray
from OCP.BRep import BRep_Tool
from OCP.BRepAdaptor import BRepAdaptor_Curve
from OCP.BRepMesh import BRepMesh_IncrementalMesh
from OCP.BRepPrimAPI import BRepPrimAPI_MakeCone
from OCP.GCPnts import GCPnts_TangentialDeflection
from OCP.IMeshTools import IMeshTools_MeshAlgoType, IMeshTools_Parameters
from OCP.TopAbs import TopAbs_Orientation
from OCP.TopLoc import TopLoc_Location
from OCP.TopoDS import TopoDS_Face, TopoDS_Shape

from ..tally import fell_back, went_well
from .named import NamedShape
from .shapes import compound, faces_of

__all__ = ["FaceMesh", "edge_lines", "face_meshes", "mesh_shape", "triangles_of"]

log = logging.getLogger(__name__)
READING = "reading triangles from memory"  # as it is counted
ANGLE = 0.3  # rad between neighbouring facets
DEFLECTION = 0.001  # of the body's size
F32 = NDArray[np.float32]
Arrays = tuple[NDArray, NDArray, NDArray]  # places, triangles, normals; (n, 3), (m, 3), (n, 3)


@dataclass(frozen=True, slots=True)
class FaceMesh:
    """The triangles of one face: places and normals (n, 3) float32 mm, triangles (m, 3) uint32, content
    digest."""

    places: F32
    normals: F32
    triangles: NDArray[np.uint32]
    digest: str


def face_meshes(body: NamedShape, size: float) -> list[FaceMesh]:
    """Mesh a body of a given size (mm) and return its faces' triangles in their stable order; faces that were
    meshed before keep theirs.

    How fine it is goes by steps of the size, so that a body that grows a little is not meshed anew.
    """
    fine = 2.0 ** (round(2 * math.log2(max(DEFLECTION * size, 1e-4))) / 2)
    faces = body.anatomy.faces
    missing = [f for f in faces if fine not in f.meshes]
    if missing:
        mesh_shape(body.shape if len(missing) == len(faces) else compound([f.shape for f in missing]), fine)
    for f in missing:
        f.meshes[fine] = _face_mesh(f.shape)
    return [f.meshes[fine] for f in faces]


def mesh_shape(shape: TopoDS_Shape, fine: float, angle: float = ANGLE) -> None:
    """Mesh a shape's faces. fine : the farthest that triangles may be from them, mm; angle : between
    neighbours, rad."""
    parameters = IMeshTools_Parameters()
    parameters.Deflection, parameters.Angle = fine, angle
    parameters.MeshAlgo = (
        IMeshTools_MeshAlgoType.IMeshTools_MeshAlgoType_Delabella
    )  # the default is slow with holes
    BRepMesh_IncrementalMesh(shape, parameters)
    parameters.MeshAlgo = IMeshTools_MeshAlgoType.IMeshTools_MeshAlgoType_Watson
    for face in faces_of(shape):
        made = BRep_Tool.Triangulation_s(face, TopLoc_Location())
        if made is None or not made.NbTriangles():  # it leaves out faces that are pushed along a spline
            fell_back("meshing a face", "no triangles by the quick way")
            BRepMesh_IncrementalMesh(face, parameters)
        else:
            went_well("meshing a face")


def _face_mesh(face: TopoDS_Face) -> FaceMesh:
    location = TopLoc_Location()
    triangulation = BRep_Tool.Triangulation_s(face, location)
    if triangulation is None:
        nothing = np.zeros((0, 3), np.float32)
        return _digested(nothing, nothing, np.zeros((0, 3), np.uint32))
    triangulation.ComputeNormals()
    places, triangles, normals = _arrays(triangulation)
    if not location.IsIdentity():
        matrix = np.array([[location.Transformation().Value(i, j) for j in (1, 2, 3, 4)] for i in (1, 2, 3)])
        places = places @ matrix[:, :3].T + matrix[:, 3]
        normals = normals @ matrix[:, :3].T
    if face.Orientation() == TopAbs_Orientation.TopAbs_REVERSED:
        triangles, normals = triangles[:, ::-1], -normals
    return _digested(
        places.astype(np.float32), normals.astype(np.float32), np.ascontiguousarray(triangles, np.uint32)
    )


def triangles_of(face: TopoDS_Face) -> tuple[F32, NDArray[np.int64]]:
    """Return the places and the triangles of a face that is meshed, outward."""
    found = _face_mesh(face)
    return found.places, found.triangles.astype(np.int64)


def _digested(places: F32, normals: F32, triangles: NDArray[np.uint32]) -> FaceMesh:
    content = places.tobytes() + np.round(normals, 5).tobytes() + triangles.tobytes()
    return FaceMesh(places, normals, triangles, hashlib.blake2b(content, digest_size=12).hexdigest())


def _arrays(t: Any) -> Arrays:
    """Read a triangulation straight from memory (a hundred times faster); where the layout differs, node by
    node."""
    if not t.IsDoublePrecision():
        fell_back(READING, "single precision")
        return _by_node(t)
    if not _layout_known():
        fell_back(READING, "the memory's layout is not known")
        return _by_node(t)
    went_well(READING)
    return _raw(t)


@cache
def _layout_known() -> bool:
    """Tell whether reading from memory gives what the binding says, all three arrays of a meshed cone, place
    by place."""
    cone = BRepPrimAPI_MakeCone(7.0, 2.0, 5.0).Shape()
    mesh_shape(cone, 0.1)
    for face in faces_of(cone):
        made = BRep_Tool.Triangulation_s(face, TopLoc_Location())
        made.ComputeNormals()
        # The binding scales a normal to length 1 once more, so it differs in the last place.
        if not all(
            np.allclose(read, told, rtol=0, atol=1e-6)
            for read, told in zip(_raw(made), _by_node(made), strict=True)
        ):
            log.error(
                "triangulations are read node by node: the binding lays them out differently from what was "
                "known"
            )
            return False
    return True


def _by_node(t: Any) -> Arrays:
    n, m = t.NbNodes(), t.NbTriangles()
    places = np.array([t.Node(i + 1).Coord() for i in range(n)])
    triangles = np.array([t.Triangle(i + 1).Get() for i in range(m)]) - 1
    normals = np.array([[d.X(), d.Y(), d.Z()] for d in (t.Normal(i + 1) for i in range(n))])
    return places, triangles, normals


def _raw(t: Any) -> Arrays:
    n, m = t.NbNodes(), t.NbTriangles()
    return (
        _memory(t.InternalNodes(), 0, ctypes.c_double, n, np.float64),
        _memory(t.InternalTriangles(), 24, ctypes.c_int32, m, np.int32) - 1,
        _memory(t.InternalNormals(), 24, ctypes.c_float, n, np.float32),
    )


def _memory(array: object, offset: int, kind: type, rows: int, dtype: type) -> NDArray:
    holder = ctypes.c_void_p.from_address(id(array) + 16).value or 0
    start = ctypes.c_void_p.from_address(holder + offset).value or 0
    return np.frombuffer((kind * (3 * rows)).from_address(start), dtype).reshape(rows, 3).copy()  # type: ignore[operator, attr-defined]


def edge_lines(body: NamedShape) -> list[F32]:
    """Return every edge that is not degenerated as a line through points (n, 3) float32 mm, in stable
    order."""
    lines = []
    for edge in body.anatomy.edges:
        if edge.degenerated:
            continue
        if edge.line is None:
            points = GCPnts_TangentialDeflection(BRepAdaptor_Curve(edge.shape), ANGLE / 2, 0.1)
            edge.line = np.array([points.Value(i + 1).Coord() for i in range(points.NbPoints())], np.float32)
        lines.append(edge.line)
    return lines
