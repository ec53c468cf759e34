"""Paths that profiles are carried along: curves of a sketch, or edges of a body."""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import cached_property
from itertools import pairwise

from OCP.BRep import BRep_Tool
from OCP.BRepAdaptor import BRepAdaptor_Curve
from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeWire
from OCP.gp import gp_Pnt, gp_Vec
from OCP.TopAbs import TopAbs_Orientation
from OCP.TopoDS import TopoDS, TopoDS_Edge, TopoDS_Wire

from ..errors import StepError
from ..tolerance import KINK, MEETS
from .extrusion import wire_of
from .lengths import length_of, parameter_at
from .named import NamedShape, source_of
from .query import edge_faces
from .shapes import place
from .types import Frame, Segment, Vec, add, dot, minus, scaled, unit

__all__ = ["Spine", "spine_drawn", "spine_of_edges"]

FINE = 200  # steps in which a path is looked through


@dataclass(frozen=True)
class Spine:
    """A path in space as the kernel's wire.

    runs : its pieces in order, each with its name; closed : it comes back to its beginning.
    """

    wire: TopoDS_Wire
    runs: list[tuple[str, TopoDS_Edge]]
    closed: bool

    def begin(self) -> tuple[Vec, Vec]:
        """Return where it begins and its unit direction there."""
        return _at(self.runs[0][1], 0.0)

    @cached_property
    def lengths(self) -> list[float]:
        """The lengths of its pieces, mm."""
        return [length_of(BRepAdaptor_Curve(e)) for _, e in self.runs]

    def length(self) -> float:
        """Return its length, mm."""
        return sum(self.lengths)

    def kinks(self) -> list[Vec]:
        """Return its corners, where it changes its direction at once."""
        pairs = zip(self.runs, [*self.runs[1:], *(self.runs[:1] if self.closed else [])], strict=False)
        return [
            there
            for (_, one), (_, other) in pairs
            for (there, before), (_, after) in [(_at(one, 1.0), _at(other, 0.0))]
            if dot(before, after) < math.cos(KINK)
        ]

    def at(self, along: float) -> tuple[Vec, Vec]:
        """Return the place so many mm along and the unit direction there."""
        rest = along
        for i, length in enumerate(self.lengths):
            if rest <= length + MEETS or i == len(self.runs) - 1:
                return _at(self.runs[i][1], min(max(rest / length, 0.0), 1.0))
            rest -= length
        raise AssertionError("a path without runs")

    def stations(self, count: int) -> list[tuple[Vec, Vec]]:
        """Return places and unit directions at so many even steps of its length, its beginning and end among
        them."""
        return [self.at(self.length() * k / count) for k in range(count + 1)]

    def reversed(self) -> Spine:
        """Return it run the other way."""
        return Spine(self.wire, [(n, TopoDS.Edge(e.Reversed())) for n, e in reversed(self.runs)], self.closed)

    def met(self, place: Vec, way: Vec, after: float) -> float | None:
        """Return how far along it first meets the plane through a place square to a direction, from a length
        on; None where it does not."""

        def ahead(s: float) -> float:
            return dot(minus(self.at(s)[0], place), way)

        whole = self.length()
        step = whole / FINE
        one, f = after, ahead(after)
        if abs(f) < MEETS:
            return after
        while one < whole - MEETS:
            other = min(one + step, whole)
            g = ahead(other)
            if abs(g) < MEETS:
                return other
            if f * g < 0:
                for _ in range(60):
                    mid = (one + other) / 2
                    one, other = (mid, other) if ahead(mid) * f > 0 else (one, mid)
                return (one + other) / 2
            one, f = other, g
        return None


def _at(edge: TopoDS_Edge, share: float) -> tuple[Vec, Vec]:
    """Return the place and unit direction at a share of an edge's length, in the sense in which it is run."""
    curve = BRepAdaptor_Curve(edge)
    back = edge.Orientation() == TopAbs_Orientation.TopAbs_REVERSED
    share = 1.0 - share if back else share
    length = length_of(curve)
    parameter = (
        parameter_at(curve, length * share)
        if 0.0 < share < 1.0
        else (curve.FirstParameter() if share <= 0.0 else curve.LastParameter())
    )
    at, tangent = gp_Pnt(), gp_Vec()
    curve.D1(parameter, at, tangent)
    way = unit((tangent.X(), tangent.Y(), tangent.Z()))
    return place(at), scaled(way, -1.0) if back else way


def spine_drawn(path: list[Segment], frame: Frame, closed: bool) -> Spine:
    """Return curves of a sketch as a path. Raises StepError where they do not join."""
    try:
        wire, edges = wire_of(path, frame, closed)
    except StepError as error:
        raise StepError(
            "The curves of this path do not join on to each other. Look at their ends.", field="path"
        ) from error
    return Spine(wire, [(s.name, e) for s, e in edges], closed)


def spine_of_edges(body: NamedShape, picked: list[int], smooth: bool, plane: Frame | None) -> Spine:
    """Return edges of a body, by index, as a path that begins in a plane (anywhere, if none). smooth : with
    all that runs on smoothly.

    A run is named by the faces that meet in its edge. Raises StepError where they make no one path, or none
    of its ends lies in the plane.
    """
    own = [
        (TopoDS.Edge(e), around)
        for e, around in edge_faces(body.shape)
        if not BRep_Tool.Degenerated_s(TopoDS.Edge(e))
    ]
    wanted = list(dict.fromkeys(picked))
    if smooth:
        _run_on(own, wanted)
    chain = _ordered([own[i][0] for i in wanted])
    if chain is None:
        raise StepError(
            "These edges make no one path: they do not all join on to each other, end to end. Take some "
            "out, or pick those between.",
            field="edges",
        )
    closed = math.dist(_at(chain[0], 0.0)[0], _at(chain[-1], 1.0)[0]) < MEETS
    if plane is not None:
        chain = _begun_in(chain, closed, plane)
    names = {}
    for i in wanted:
        faces = sorted(source_of(n) for f, n in body.pairs() if any(f.IsSame(g) for g in own[i][1]))
        names[i] = "+".join(faces)
    maker = BRepBuilderAPI_MakeWire()
    for edge in chain:
        maker.Add(edge)
    runs = [(next(names[i] for i in wanted if own[i][0].IsSame(e)), e) for e in chain]
    if len({n for n, _ in runs}) < len(runs):  # two edges between the same faces
        runs = [(f"{n}.{k}", e) for k, (n, e) in enumerate(runs)]
    return Spine(maker.Wire(), runs, closed)


def _run_on(own: list[tuple[TopoDS_Edge, list]], wanted: list[int]) -> None:
    """Add to some edges all that run on smoothly from them."""

    def ends(edge: TopoDS_Edge) -> list[tuple[Vec, Vec]]:
        (a, one), (b, other) = _at(edge, 0.0), _at(edge, 1.0)
        return [(a, scaled(one, -1.0)), (b, other)]  # outwards

    for i in wanted:  # grows as it is run through
        for at, way in ends(own[i][0]):
            for k, (edge, _) in enumerate(own):
                if k not in wanted and any(
                    math.dist(at, p) < MEETS and dot(way, out) < -math.cos(KINK) for p, out in ends(edge)
                ):
                    wanted.append(k)


def _ordered(edges: list[TopoDS_Edge]) -> list[TopoDS_Edge] | None:
    """Return edges in the order and sense in which they follow each other; None where they do not."""
    chain, rest = [edges[0]], edges[1:]
    while rest:
        head, tail = _at(chain[0], 0.0)[0], _at(chain[-1], 1.0)[0]
        for e in rest:
            turned = TopoDS.Edge(e.Reversed())
            if found := next((x for x in (e, turned) if math.dist(_at(x, 0.0)[0], tail) < MEETS), None):
                chain.append(found)
            elif found := next((x for x in (e, turned) if math.dist(_at(x, 1.0)[0], head) < MEETS), None):
                chain.insert(0, found)
            else:
                continue
            rest = [x for x in rest if not x.IsSame(e)]
            break
        else:
            return None
    return chain


def _begun_in(chain: list[TopoDS_Edge], closed: bool, plane: Frame) -> list[TopoDS_Edge]:
    def off(p: Vec) -> float:
        return abs(dot(minus(p, plane.origin), plane.normal))

    if closed:
        starts = [i for i, e in enumerate(chain) if off(_at(e, 0.0)[0]) < MEETS]
        if not starts:
            raise StepError(
                "No corner of this closed path lies in the profile's plane. Draw the profile where there is "
                "one.",
                field="edges",
            )
        return [*chain[starts[0] :], *chain[: starts[0]]]
    if off(_at(chain[0], 0.0)[0]) < MEETS:
        return chain
    if off(_at(chain[-1], 1.0)[0]) < MEETS:
        return [TopoDS.Edge(e.Reversed()) for e in reversed(chain)]
    raise StepError(
        "The path does not begin in the profile's plane. Draw the profile on a plane at its end.",
        field="edges",
    )


def carried(frames: list[tuple[Vec, Vec]], start: Frame) -> list[Frame]:
    """Return a frame carried along places and directions without turning about them (by double reflection),
    the first one given."""
    found = [start]
    for (p, t), (q, u) in pairwise(frames):
        frame = found[-1]
        step = minus(q, p)
        x, y, way = frame.x, frame.y, t
        for mirror in (step, None):
            axis = mirror if mirror is not None else minus(u, way)
            size = dot(axis, axis)
            if size < 1e-18:
                continue
            x, y, way = (minus(v, scaled(axis, 2 * dot(v, axis) / size)) for v in (x, y, way))
        # The frame's origin keeps its place beside the path.
        beside = minus(frame.origin, p)
        for mirror in (step, None):
            axis = mirror if mirror is not None else minus(u, _mirrored(t, step))
            beside = _mirrored(beside, axis)
        found.append(Frame(add(q, beside), x, y))
    return found


def _mirrored(v: Vec, axis: Vec) -> Vec:
    size = dot(axis, axis)
    return v if size < 1e-18 else minus(v, scaled(axis, 2 * dot(v, axis) / size))
