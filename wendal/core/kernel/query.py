"""Asking a shape: its mass, whether it is sound, and everything that references need to know of it."""

from __future__ import annotations

from array import array
from collections.abc import Sequence
from typing import Any, overload

import numpy as np
from numpy.typing import NDArray
from OCP.BOPAlgo import BOPAlgo_ArgumentAnalyzer
from OCP.BRepCheck import BRepCheck_Analyzer
from OCP.BRepClass3d import BRepClass3d_SolidClassifier
from OCP.BRepExtrema import BRepExtrema_DistShapeShape
from OCP.collections import (
    IndexedDataMap_TopoDS_Shape_List_TopoDS_Shape_TopTools_ShapeMapHasher as AncestorMap,
)
from OCP.gp import gp_Pnt
from OCP.ShapeAnalysis import ShapeAnalysis_ShapeTolerance
from OCP.TopAbs import TopAbs_ShapeEnum, TopAbs_State
from OCP.TopExp import TopExp
from OCP.TopoDS import TopoDS_Shape
from scipy.sparse import coo_matrix
from scipy.sparse.csgraph import connected_components

from ..errors import StepError
from ..once import Once
from ..tolerance import LOOSE, ONE_PLACE
from .forms import middle_of
from .known import box_six
from .named import NamedShape
from .shapes import compound, items, listed, shape_map, solids_of
from .types import Edge, Face, Mass, OnDemand, Topology, Vec, Vertex, said_at
from .write import welded

__all__ = [
    "box_of",
    "check_solid",
    "check_whole",
    "describe",
    "edge_faces",
    "lumps",
    "mass_of",
    "middle_of",
    "pieces_of",
    "runs_into_itself",
    "together",
    "touching",
    "volume_of",
]

EDGE, FACE, SHELL = TopAbs_ShapeEnum.TopAbs_EDGE, TopAbs_ShapeEnum.TopAbs_FACE, TopAbs_ShapeEnum.TopAbs_SHELL
PLACES = 12  # corners of a tool, and edges, that are looked at before how near it comes is measured
BROKEN = "The kernel made a broken solid of this. A slightly different depth or outline often helps."


def lumps(body: NamedShape) -> int:
    """Return the number of separate solids."""
    return len(solids_of(body.shape))


def volume_of(body: NamedShape) -> float:
    """Return a body's volume in mm³, 0 of a sheet."""
    return float(body.anatomy.mass[0]) if solids_of(body.shape) else 0.0


def box_of(bodies: list[NamedShape]) -> tuple[Vec, Vec]:
    """Return the lowest and highest corner of a box around bodies, mm."""
    boxes = np.array([b.anatomy.box if b.anatomy.faces else box_six(b.shape) for b in bodies])
    low, high = boxes[:, :3].min(0).tolist(), boxes[:, 3:].max(0).tolist()
    return (low[0], low[1], low[2]), (high[0], high[1], high[2])


def together(shapes: list[NamedShape]) -> NamedShape:
    """Return several shapes as one, not joined."""
    return NamedShape.collect(
        compound(s.shape for s in shapes), [pair for shape in shapes for pair in shape.pairs()]
    )


def touching(body: NamedShape, tools: list[NamedShape]) -> bool:
    """Tell whether a body and any of some tools meet, be it in a point."""
    low, high = box_of([body])
    for tool in tools:
        a, b = box_of([tool])
        near = all(low[i] <= b[i] + ONE_PLACE and a[i] <= high[i] + ONE_PLACE for i in range(3))
        if near and (_reaches_in(body, tool) or _meet(body.shape, tool.shape) or _within(body, tool)):
            return True
    return False


def _reaches_in(body: NamedShape, tool: NamedShape) -> bool:
    """Tell whether a corner of a tool, or the middle of one of its edges, is seen to lie within a solid body:
    most do, and that is known ten times as soon as how near they come."""
    if len(solids_of(body.shape)) != 1:
        return False
    low, high = body.anatomy.box[:3], body.anatomy.box[3:]
    found = tool.anatomy
    places = [c.place for c in found.touching[2][:PLACES]]
    places += [e.described.middle for e in found.edges[:PLACES] if not e.degenerated]
    inside = [p for p in places if np.all(low < p) and np.all(p < high)]
    if not inside:
        return False
    classifier = BRepClass3d_SolidClassifier(body.shape)
    for p in inside:
        classifier.Perform(gp_Pnt(*p), ONE_PLACE)
        if classifier.State() == TopAbs_State.TopAbs_IN:
            return True
    return False


def _within(body: NamedShape, tool: NamedShape) -> bool:
    """Tell whether a solid of one shape and one of another meet: of several together the kernel does not see
    that one lies inside."""
    one, other = solids_of(body.shape), solids_of(tool.shape)
    if len(one) <= 1 and len(other) <= 1:
        return False
    boxes = [(x, box_six(x)) for x in one], [(x, box_six(x)) for x in other]
    return any(
        np.all(a[:3] <= b[3:] + ONE_PLACE) and np.all(b[:3] <= a[3:] + ONE_PLACE) and _meet(x, y)
        for x, a in boxes[0]
        for y, b in boxes[1]
    )


def _meet(a: Any, b: Any) -> bool:
    gap = BRepExtrema_DistShapeShape(a, b)
    return bool(gap.IsDone() and gap.Value() < ONE_PLACE)


def pieces_of(body: NamedShape) -> list[NamedShape]:
    """Return the separate solids of a shape, each with its names."""
    return [NamedShape.collect(solid, body.pairs()) for solid in solids_of(body.shape)]


def mass_of(body: NamedShape) -> Mass:
    """Return a body's volume, area, centre (of a sheet that of its area), box and counts."""
    found = body.anatomy
    volume, area = found.mass[:4], found.mass[4:]
    sheet = not solids_of(body.shape)
    whole = area if sheet else volume
    low, high = box_of([body])
    x, y, z = (whole[1:] / whole[0]).tolist() if whole[0] else (0.0, 0.0, 0.0)
    return Mass(
        0.0 if sheet else float(volume[0]),
        float(area[0]),
        (x, y, z),
        low,
        high,
        len(found.faces),
        len(found.edges),
        len(found.touching[2]),
        all(f.check() for f in found.faces) and (sheet or found.unclosed is None),
        sheet,
    )


def check_solid(body: NamedShape) -> None:
    """Raise StepError unless a result is a sound solid: there, valid, positive, closed, no two faces glued
    along an edge only.

    Faces that were found sound once are not looked at again; that all are joined is. The kernel's own look at
    the whole shape is `check_whole`.
    """
    solids = solids_of(body.shape)
    if not solids:
        raise StepError("Nothing is left of the body. Check the depth and the side.")
    found = body.anatomy
    if found.unclosed is not None and found.unclosed[1] > 2:
        raise StepError(
            f"This touches the body only along an edge, near {said_at(found.unclosed[0].described.middle)}. "
            "Let it overlap, or leave a gap."
        )
    if (
        found.unclosed is not None
        or not all(f.check() for f in found.faces)
        or not _shells_apart(body, solids)
    ):
        raise StepError(BROKEN)
    if (loose := _loosest(body.shape)) > LOOSE and not _closes(body):
        raise StepError(
            f"The kernel made a shape whose corners do not meet to within {loose:.1g} mm. A slightly "
            "different size, or another order of the steps, often helps."
        )
    if volume_of(body) <= 0:
        raise StepError("The result has no volume.")


def _closes(body: NamedShape) -> bool:
    """Tell whether a body's triangles close.

    It is asked of those alone whose corners are badly known; some sound walls are among them.
    """
    try:
        welded(body, float(np.linalg.norm(body.anatomy.box[3:] - body.anatomy.box[:3])))
    except StepError:
        return False
    return True


def _loosest(shape: TopoDS_Shape) -> float:
    """Return the largest tolerance of a corner, mm."""
    return float(ShapeAnalysis_ShapeTolerance().Tolerance(shape, 1, TopAbs_ShapeEnum.TopAbs_VERTEX))


def _shells_apart(body: NamedShape, solids: list[TopoDS_Shape]) -> bool:
    """Tell whether the faces hang together as many as there are shells; several shells in one solid are left
    to the kernel's own check."""
    shells = shape_map(body.shape, SHELL).Extent()
    at_edges, faces, _ = body.anatomy.meeting
    count = len(body.anatomy.faces)
    same = at_edges[1:] == at_edges[:-1]
    links = coo_matrix((np.ones(same.sum()), (faces[:-1][same], faces[1:][same])), shape=(count, count))
    if connected_components(links, False)[0] != shells:
        return False
    return shells == len(solids) or bool(BRepCheck_Analyzer(body.shape).IsValid())


def _checked(body: NamedShape) -> bool:
    return bool(BRepCheck_Analyzer(body.shape).IsValid())


_known_whole: Once[NamedShape, bool] = Once(_checked, 32)


def check_whole(body: NamedShape) -> bool:
    """Tell whether the kernel's own check finds nothing wrong with a shape; it looks at everything, and takes
    its time."""
    return _known_whole(body)


def runs_into_itself(body: NamedShape) -> bool:
    """Tell whether a shape's faces cut each other elsewhere than at their edges, which the kernel's own check
    does not see; it takes 15 ms and more."""
    analyzer = BOPAlgo_ArgumentAnalyzer()
    analyzer.SetShape1(body.shape)
    analyzer.SelfInterMode = True
    analyzer.ArgumentTypeMode = False
    analyzer.SmallEdgeMode = False
    analyzer.Perform()
    return bool(analyzer.HasFaulty())


def edge_faces(shape: TopoDS_Shape) -> list[tuple[TopoDS_Shape, list[TopoDS_Shape]]]:
    """Return every edge with the faces that meet in it."""
    return _ancestors(shape, EDGE)


def _ancestors(shape: TopoDS_Shape, kind: TopAbs_ShapeEnum) -> list[tuple[TopoDS_Shape, list[TopoDS_Shape]]]:
    """Return every sub-shape of a kind with the faces around it, in the stable order that meshes use too."""
    found = AncestorMap()
    TopExp.MapShapesAndAncestors_s(shape, kind, FACE, found)
    return [
        (s, listed(found.FindFromKey(s)) if found.Contains(s) else []) for s in items(shape_map(shape, kind))
    ]


def faces_named(body: NamedShape, prefix: str) -> list[tuple[frozenset[str], float, list[Vec]]]:
    """Return the faces that have a name with a prefix: those names, the area in mm², the corners' places."""
    return [
        (own, face.described.area, [corner.place for corner in face.corners])
        for names, face in zip(body.names, body.anatomy.faces, strict=True)
        if (own := frozenset(n for n in names if n.startswith(prefix)))
    ]


def describe(body: NamedShape) -> Topology:
    """Return every face, edge and corner of a body with what meets what."""
    return Described(body)


class Described(Topology):
    """A body's topology, taken apart when it is first asked for more than its faces and their names."""

    def __init__(self, body: NamedShape) -> None:
        self._body, self._apart = body, False
        self.names = body.names
        self.faces = OnDemand(len(body.names), self._face)

    def _face(self, index: int) -> Face:
        f = self._body.anatomy.faces[index].described
        return Face(self.names[index], f.form, f.frame, f.centre, f.area, f.radius, f.axis, f.slope, f.hollow)

    def beside(self, face: int) -> list[int]:
        """Return the faces that share an edge with one."""
        return super().beside(face) if self._apart else self._body.anatomy.beside(face)

    def __getattr__(self, name: str) -> Any:
        if name.startswith("_") or self._apart:
            raise AttributeError(name)
        self._take_apart()
        self._apart = True
        return getattr(self, name)

    def _take_apart(self) -> None:
        found = self._body.anatomy
        at_edges, faces_there, every = found.meeting
        at_corners, faces_at_corners, corners = found.touching
        real = np.array([not e.degenerated for e in every], bool)
        edges = [e for e in every if not e.degenerated]
        rank = np.cumsum(real) - 1
        kept = real[at_edges] if len(at_edges) else np.zeros(0, bool)
        at_edges, faces_there = rank[at_edges[kept]] if len(at_edges) else at_edges, faces_there[kept]
        faces_at = Grouped(at_edges, faces_there, len(edges))
        faces_round = Grouped(at_corners, faces_at_corners, len(corners))
        place_of = {c.number: i for i, c in enumerate(corners)}
        ends = np.array([place_of[c.number] for e in edges for c in e.ends], np.int32)
        ends_of = Grouped(
            np.repeat(np.arange(len(edges), dtype=np.int32), [len(e.ends) for e in edges]), ends, len(edges)
        )

        def edge(i: int) -> Edge:
            e = edges[i].described
            return Edge(
                faces_at[i],
                ends_of[i],
                e.form,
                e.middle,
                e.length,
                e.start,
                e.tangent,
                e.centre,
                e.normal,
                e.radius,
            )

        super().__init__(
            self.faces,
            OnDemand(len(edges), edge),
            OnDemand(len(corners), lambda i: Vertex(faces_round[i], corners[i].place)),
            self.names,
            edges_of=Grouped(faces_there, at_edges, len(found.faces)),
            corners_of=Grouped(faces_at_corners, at_corners, len(found.faces)),
            faces_at=faces_at,
            ends_of=ends_of,
            faces_round=faces_round,
            marks=(found.faces, edges, corners),
        )


class Grouped(Sequence[tuple[int, ...]]):
    """For each of so many keys its values, sorted."""

    def __init__(self, keys: NDArray[np.int32], values: NDArray[np.int32], count: int) -> None:
        order = np.lexsort((values, keys))
        self._flat = array("i", values[order].astype(np.intc).tobytes())
        self._ends = array("i", np.searchsorted(keys[order], np.arange(count + 1)).astype(np.intc).tobytes())

    def __len__(self) -> int:
        return len(self._ends) - 1

    @overload
    def __getitem__(self, index: int) -> tuple[int, ...]: ...
    @overload
    def __getitem__(self, index: slice) -> list[tuple[int, ...]]: ...
    def __getitem__(self, index: int | slice) -> tuple[int, ...] | list[tuple[int, ...]]:
        if isinstance(index, slice):
            flat, ends = self._flat.tolist(), self._ends.tolist()
            return [tuple(flat[ends[i] : ends[i + 1]]) for i in range(*index.indices(len(self)))]
        if not 0 <= index < len(self._ends) - 1:
            raise IndexError(index)
        return tuple(self._flat[self._ends[index] : self._ends[index + 1]])
