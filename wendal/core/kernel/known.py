"""What is known of faces, wires, edges and corners by their identity: worked out once, and found again for as
long as shapes hold them.

An operation hands every face on that it does not touch, the same one, in the same place. So what a face is
(its form, its share of the volume, its box, its edges, whether it is sound) is kept beside it in tables, and
asking a body costs what is new in it. A face counts once for either way that it can be turned. The tables
begin anew when they have grown large: a shape that is asked again after that enters its faces into the new
ones, with what was known of them.
"""

from __future__ import annotations

import itertools
from dataclasses import dataclass, field
from functools import cached_property
from typing import Any, TypeVar

import numpy as np
from numpy.typing import NDArray
from OCP.Bnd import Bnd_Box
from OCP.BRep import BRep_Builder, BRep_Tool
from OCP.BRepBndLib import BRepBndLib
from OCP.BRepCheck import BRepCheck_Analyzer
from OCP.BRepGProp import BRepGProp_Domain, BRepGProp_Face, BRepGProp_Vinert
from OCP.GeomAbs import GeomAbs_CurveType, GeomAbs_Shape
from OCP.gp import gp_Pnt
from OCP.ShapeUpgrade import ShapeUpgrade_ShapeDivideContinuity
from OCP.TopAbs import TopAbs_Orientation, TopAbs_ShapeEnum
from OCP.TopoDS import TopoDS, TopoDS_Edge, TopoDS_Face, TopoDS_Iterator, TopoDS_Shape, TopoDS_Vertex

from . import forms
from .shapes import ShapeMap, faces_of, place, shape_map
from .types import Edge, Vec

__all__ = ["Anatomy", "EdgeFacts", "FaceFacts", "anatomy", "box_six", "facts_of"]

FACE, EDGE, VERTEX, WIRE = (
    TopAbs_ShapeEnum.TopAbs_FACE,
    TopAbs_ShapeEnum.TopAbs_EDGE,
    TopAbs_ShapeEnum.TopAbs_VERTEX,
    TopAbs_ShapeEnum.TopAbs_WIRE,
)
REVERSED, FORWARD = TopAbs_Orientation.TopAbs_REVERSED, TopAbs_Orientation.TopAbs_FORWARD
# Of a flat face, above which its area is taken wire by wire: one more opening then costs what it is, not what
# the face is.
MANY_WIRES = 8
KEPT = 60_000  # edges of all faces in the tables at most, one that two faces share twice
LEAST, PER_FACE = 4_000, 200  # that are kept in any case, and for each face of the largest body
ORIGIN = gp_Pnt(0.0, 0.0, 0.0)  # about which every face's share of the volume is taken
Ints = NDArray[np.int64]  # numbers of edges and corners
Places = NDArray[np.int32]  # in a shape's own order
Floats = NDArray[np.float64]
_numbers = itertools.count()
T = TypeVar("T")


@dataclass(eq=False)
class CornerFacts:
    """A corner: its number, which no other has, and its place.

    notes : what others keep of it for as long as it is there, as of edges and faces.
    """

    number: int
    place: Vec
    notes: dict[str, Any] = field(default_factory=dict)


class EdgeFacts:
    """An edge: its number, whether it is degenerated, its ends; the rest when it is asked for."""

    def __init__(self, shape: TopoDS_Edge, number: int, ends: list[CornerFacts]) -> None:
        self.shape, self.number, self.ends = shape, number, ends
        self.degenerated = BRep_Tool.Degenerated_s(shape)
        self.line: NDArray[np.float32] | None = None  # as it is drawn
        self.notes: dict[str, Any] = {}

    @cached_property
    def spline(self) -> bool:
        """Whether it runs along a spline."""
        return (
            not self.degenerated
            and forms.curve_of(self.shape).GetType() == GeomAbs_CurveType.GeomAbs_BSplineCurve
        )

    @cached_property
    def described(self) -> Edge:
        """The edge as references see it, but for what meets in it."""
        return forms.edge_form(self.shape)


@dataclass(slots=True, eq=False)
class WireFacts:
    """A wire as its own sense goes: its edges with 1 or -1 for the way each is passed, its corners.

    box, and what it encloses on a flat face (area and middle) : when they were asked for.
    """

    shape: TopoDS_Shape
    edges: list[EdgeFacts]
    numbers: Ints
    signs: Ints
    corners: list[CornerFacts]
    box: Floats | None = None
    encloses: tuple[float, Vec] | None = None


class FaceFacts:
    """A face turned as it is, and its number, which nothing else has; what takes time is worked out when it
    is asked for."""

    def __init__(self, shape: TopoDS_Face, wires: list[tuple[WireFacts, int]]) -> None:
        self.shape, self.wires, self.number = shape, wires, next(_numbers)
        self.edges = list(dict.fromkeys(e for w, _ in wires for e in w.edges))
        self.corners = list(dict.fromkeys(c for w, _ in wires for c in w.corners))
        self.numbers = np.array([e.number for e in self.edges], np.int64)
        self.corner_numbers = np.array([c.number for c in self.corners], np.int64)
        self.sound: bool | None = None  # what the kernel's check said of it
        self.meshes: dict[float, Any] = {}  # by deflection
        self.notes: dict[str, Any] = {}

    def adopt(self, other: FaceFacts) -> None:
        """Take over what another table's entry of the same face has found out; what hangs on the numbers of
        edges is not taken."""
        self.sound, self.meshes = other.sound, other.meshes
        for name in ("described", "mass", "box", "surface"):
            if name in other.__dict__:
                self.__dict__[name] = other.__dict__[name]
        for (own, _), (known, _) in zip(self.wires, other.wires, strict=True):
            own.box, own.encloses = known.box, known.encloses

    @cached_property
    def coedges(self) -> tuple[Ints, Ints]:
        """The numbers of the edges as its wires pass them, and 1 or -1 for the way, degenerated edges left
        out."""
        turned = -1 if self.shape.Orientation() == REVERSED else 1
        if not self.wires:
            return np.zeros(0, np.int64), np.zeros(0, np.int64)
        return (
            np.concatenate([w.numbers for w, _ in self.wires]),
            np.concatenate([turned * s * w.signs for w, s in self.wires]),
        )

    def turn(self, edge: EdgeFacts) -> int:
        """Return whether the face, seen from outside, is passed round along an edge (1) or against it (-1).

        0 for an edge that it does not have, or has on both sides.
        """
        numbers, signs = self.coedges
        return int(signs[numbers == edge.number].sum())

    @cached_property
    def described(self) -> forms.FaceForm:
        """The face as references see it, but for its names and neighbours."""
        return forms.face_form(self.shape, *self._area)

    @cached_property
    def _area(self) -> tuple[float, Vec]:
        if len(self.wires) <= MANY_WIRES or forms.out_of_flat(self.shape) is None or self._splines():
            return forms.area_of(self.shape)
        outer, *holes = sorted((self._enclosed(w) for w, _ in self.wires), key=lambda found: -found[0])
        area = outer[0] - sum(a for a, _ in holes)
        moment = outer[0] * np.array(outer[1]) - sum(a * np.array(c) for a, c in holes)
        x, y, z = (moment / area).tolist()
        return area, (x, y, z)

    def _enclosed(self, wire: WireFacts) -> tuple[float, Vec]:
        """Return what a wire of this flat face encloses; it stays the same on another face in the same
        plane."""
        if wire.encloses is None:
            alone = TopoDS.Face(self.shape.EmptyCopied())
            alone.Orientation(FORWARD)
            BRep_Builder().Add(alone, wire.shape.Oriented(FORWARD))
            area, centre = forms.area_of(alone)
            wire.encloses = abs(area), centre
        return wire.encloses

    @cached_property
    def mass(self) -> Floats:
        """Its shares: volume about the origin (mm³), that times its centre (3), area (mm²), that times its
        centre (3)."""
        if self._splines():
            return np.asarray(sum(_shares(piece, *forms.area_of(piece)) for piece in _divided(self.shape)))
        return _shares(self.shape, *self._area)

    def _splines(self) -> bool:
        return any(e.spline for e in self.edges)

    @cached_property
    def box(self) -> Floats:
        """The lowest and the highest corner of a box as narrow as it goes, mm."""
        return box_six(self.shape)

    @cached_property
    def wire_boxes(self) -> Floats:
        """The boxes round its wires (n, 6)."""
        for wire, _ in self.wires:
            if wire.box is None:
                wire.box = box_six(wire.shape)
        return np.array([w.box for w, _ in self.wires]).reshape(-1, 6)

    @cached_property
    def surface(self) -> Floats:
        """What its surface is, in ten figures: kind, direction, a place (of a plane and an axis the one
        nearest to the origin), radius, two more."""
        return forms.surface_row(self.shape)

    def check(self) -> bool:
        """Tell whether the kernel finds the face sound, with its wires and edges."""
        if self.sound is None:
            self.sound = bool(BRepCheck_Analyzer(self.shape).IsValid())
        return self.sound


def _shares(face: TopoDS_Face, area: float, centre: Vec) -> Floats:
    """Return the shares of a face of a known area and middle, as `FaceFacts.mass` has them.

    Under a flat face is a pyramid with its tip at the origin: a third of base and height, its middle at three
    quarters of the way to the base's.
    """
    middle = np.array(centre)
    out = forms.out_of_flat(face)
    if out is not None:
        volume = area * float(np.array(out) @ middle) / 3
        return np.array([volume, *(0.75 * volume * middle), area, *(area * middle)])
    found = BRepGProp_Vinert(BRepGProp_Face(face), BRepGProp_Domain(face), ORIGIN)
    return np.array(
        [found.Mass(), *(found.Mass() * np.array(place(found.CentreOfMass()))), area, *(area * middle)]
    )


def box_six(shape: TopoDS_Shape) -> Floats:
    """Return the corners of the box round a shape, as narrow as it goes, as six numbers, mm."""
    box = Bnd_Box()
    BRepBndLib.AddOptimal_s(shape, box, False, False)
    return np.array([*place(box.CornerMin()), *place(box.CornerMax())])


def _divided(face: TopoDS_Face) -> list[TopoDS_Face]:
    """Return a face cut up where splines change their polynomial: the kernel's integrals over it are off by
    1e-3 otherwise."""
    smooth = GeomAbs_Shape.GeomAbs_CN
    divided = ShapeUpgrade_ShapeDivideContinuity(face)
    divided.SetBoundaryCriterion(smooth)
    divided.SetPCurveCriterion(smooth)
    divided.SetSurfaceCriterion(smooth)
    return faces_of(divided.Result()) if divided.Perform() else [face]


@dataclass(slots=True)
class _Tables:
    faces: ShapeMap = field(default_factory=ShapeMap)
    wires: ShapeMap = field(default_factory=ShapeMap)
    edges: ShapeMap = field(default_factory=ShapeMap)
    corners: ShapeMap = field(default_factory=ShapeMap)
    of_faces: dict[int, FaceFacts] = field(default_factory=dict)
    of_wires: dict[int, WireFacts] = field(default_factory=dict)
    of_edges: list[EdgeFacts] = field(default_factory=list)
    of_corners: list[CornerFacts] = field(default_factory=list)
    generation: int = 0
    weight: int = 0
    largest: int = 0  # faces of a shape


_tables = _Tables()


def facts_of(face: TopoDS_Face, before: FaceFacts | None = None) -> FaceFacts:
    """Return what is known of a face. before : its entry in older tables."""
    turned = face.Orientation() == REVERSED
    key = 2 * _tables.faces.Add(face) + turned
    known = _tables.of_faces.get(key)
    if known is None:
        wires = []
        children = TopoDS_Iterator(face.Oriented(FORWARD))
        while children.More():
            child = children.Value()
            if child.ShapeType() == WIRE:
                wires.append((_wire(child), -1 if child.Orientation() == REVERSED else 1))
            children.Next()
        known = _tables.of_faces[key] = FaceFacts(TopoDS.Face(face.Oriented(face.Orientation())), wires)
        _tables.weight += len(known.edges)
        if before is not None:
            known.adopt(before)
    return known


def _wire(shape: TopoDS_Shape) -> WireFacts:
    key = _tables.wires.Add(shape)
    known = _tables.of_wires.get(key)
    if known is None:
        edges, signs = [], []
        children = TopoDS_Iterator(shape.Oriented(FORWARD))
        while children.More():
            child = children.Value()
            edges.append(_edge(TopoDS.Edge(child)))
            signs.append(-1 if child.Orientation() == REVERSED else 1)
            children.Next()
        real = [i for i, e in enumerate(edges) if not e.degenerated]
        known = _tables.of_wires[key] = WireFacts(
            shape.Oriented(shape.Orientation()),
            edges,
            np.array([edges[i].number for i in real], np.int64),
            np.array([signs[i] for i in real], np.int64),
            list(dict.fromkeys(c for e in edges for c in e.ends)),
        )
    return known


def _edge(shape: TopoDS_Edge) -> EdgeFacts:
    index = _tables.edges.Add(shape)
    if index > len(_tables.of_edges):
        _tables.of_edges.append(
            EdgeFacts(TopoDS.Edge(shape.Oriented(FORWARD)), next(_numbers), _corners(shape))
        )
    return _tables.of_edges[index - 1]


def _corners(edge: TopoDS_Edge) -> list[CornerFacts]:
    found = []
    ends = shape_map(edge, VERTEX)
    for i in range(1, ends.Extent() + 1):
        vertex: TopoDS_Vertex = TopoDS.Vertex(ends.FindKey(i))
        index = _tables.corners.Add(vertex)
        if index > len(_tables.of_corners):
            _tables.of_corners.append(CornerFacts(next(_numbers), place(BRep_Tool.Pnt_s(vertex))))
        found.append(_tables.of_corners[index - 1])
    return found


class Anatomy:
    """A shape taken apart: its faces, edges (degenerated ones too) and corners, each once, in the kernel's
    stable order."""

    def __init__(self, faces: list[FaceFacts]) -> None:
        self.faces, self._generation = faces, _tables.generation

    def now(self) -> Anatomy:
        """Return it by the tables as they are now: numbers of edges from different ones do not go
        together."""
        return (
            self
            if self._generation == _tables.generation
            else Anatomy([facts_of(f.shape, f) for f in self.faces])
        )

    @cached_property
    def meeting(self) -> tuple[Places, Places, list[EdgeFacts]]:
        """Which faces meet in which edges: rows of (edge, face) as two arrays, sorted by edge and then by
        face; and the edges."""
        return _rows([f.numbers for f in self.faces], [f.edges for f in self.faces])

    @cached_property
    def touching(self) -> tuple[Places, Places, list[CornerFacts]]:
        """Which faces meet in which corners, as `meeting` tells it of edges."""
        return _rows([f.corner_numbers for f in self.faces], [f.corners for f in self.faces])

    def beside(self, face: int) -> list[int]:
        """Return the faces that share an edge with one."""
        numbers, owner = self._passed
        own = np.array([e.number for e in self.faces[face].edges if not e.degenerated], np.int64)
        return [i for i in np.unique(owner[np.isin(numbers, own)]).tolist() if i != face]

    @cached_property
    def _passed(self) -> tuple[Ints, Ints]:
        """The numbers of the faces' edges, one face behind the other, and the face of each."""
        numbers = [f.numbers for f in self.faces]
        return np.concatenate(numbers), np.repeat(np.arange(len(numbers)), [len(n) for n in numbers])

    @property
    def edges(self) -> list[EdgeFacts]:
        """The edges, each once."""
        return self.meeting[2]

    @cached_property
    def mass(self) -> Floats:
        """The sum of all faces' shares."""
        return np.asarray(self.masses.sum(axis=0))

    @cached_property
    def masses(self) -> Floats:
        """The faces' own shares (n, 8)."""
        return np.concatenate([np.zeros(0), *(f.mass for f in self.faces)]).reshape(-1, 8)

    @cached_property
    def box(self) -> Floats:
        """The box round all faces; raises ValueError without any."""
        return np.concatenate([self.boxes[:, :3].min(0), self.boxes[:, 3:].max(0)])

    @cached_property
    def boxes(self) -> Floats:
        """The faces' own boxes (n, 6)."""
        return np.concatenate([np.zeros(0), *(f.box for f in self.faces)]).reshape(-1, 6)

    @cached_property
    def unclosed(self) -> tuple[EdgeFacts, int] | None:
        """An edge that is not passed just twice, once either way, and how often it is; None for what is
        closed all round. The one passed most."""
        pairs = [f.coedges for f in self.faces]
        numbers = np.concatenate([n for n, _ in pairs]) if pairs else np.zeros(0, np.int64)
        if not len(numbers):
            return None
        values, place_of, counts = np.unique(numbers, return_inverse=True, return_counts=True)
        sums = np.bincount(place_of, np.concatenate([s for _, s in pairs]), len(values))
        bad = np.nonzero((counts != 2) | (sums != 0))[0]
        if not len(bad):
            return None
        worst = bad[counts[bad].argmax()]
        return next(e for f in self.faces for e in f.edges if e.number == values[worst]), int(counts[worst])


def _rows(numbers: list[Ints], things: list[list[T]]) -> tuple[Places, Places, list[T]]:
    if not numbers or not sum(map(len, numbers)):
        return np.zeros(0, np.int32), np.zeros(0, np.int32), []
    every = np.concatenate(numbers)
    owner = np.repeat(np.arange(len(numbers)), [len(n) for n in numbers])
    _, first, inverse = np.unique(every, return_index=True, return_inverse=True)
    rank = np.argsort(np.argsort(first))  # in the order in which they are met
    flat = [t for row in things for t in row]
    local = rank[inverse]
    order = np.lexsort((owner, local))
    return local[order].astype(np.int32), owner[order].astype(np.int32), [flat[i] for i in np.sort(first)]


def anatomy(shape: TopoDS_Shape) -> Anatomy:
    """Take a shape apart, by what is known of its faces already."""
    global _tables
    found = shape_map(shape, FACE)
    _tables.largest = max(_tables.largest, found.Extent())  # a tool is small, and says nothing of the body
    if _tables.weight > min(KEPT, max(LEAST, PER_FACE * _tables.largest)):
        _tables = _Tables(generation=_tables.generation + 1)
    return Anatomy([facts_of(found.FindKey(i)) for i in range(1, found.Extent() + 1)])
