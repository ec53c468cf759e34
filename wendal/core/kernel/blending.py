"""Fillets and chamfers along edges, and how far they can go.

A blend runs along the whole chain of edges that go on smoothly. Every asked edge must have a face of its own
in the result: the kernel can call a blend done that is broken, or leave an edge out. What does not fit is
searched for in a child process, since trying can end it.
"""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from itertools import pairwise
from typing import Any

from OCP.BRep import BRep_Tool
from OCP.BRepAdaptor import BRepAdaptor_Curve
from OCP.BRepFilletAPI import BRepFilletAPI_MakeChamfer, BRepFilletAPI_MakeFillet
from OCP.collections import Array1_gp_Pnt2d
from OCP.gp import gp_Pnt2d
from OCP.TopAbs import TopAbs_ShapeEnum
from OCP.TopoDS import TopoDS, TopoDS_Edge, TopoDS_Face, TopoDS_Shape

from ..errors import StepError
from .keeping_whole import sparing
from .named import NamedShape, carry, some_of, source_of
from .query import check_solid, middle_of
from .refusing import refused_as
from .shapes import edges_of, items, listed, map_of, place, shape_map, vertices_of
from .stopping import only_along
from .trying import most, survives
from .types import Vec, said_at

__all__ = ["Blend", "BlendFailed", "blended", "edge_near", "largest", "works"]


FINE = 16  # places at least by which a varying radius is given
Beside = tuple[TopoDS_Face, frozenset[str], int]


@dataclass(frozen=True, slots=True)
class Blend:
    """What is wanted along some edges: a radius, or a chamfer's two legs (mm), or a leg and an angle (rad).

    edges : by their index in the body's topology. on : for edges that a face stands for, that face. A
    chamfer's first leg lies on this face, else on the one whose name comes first, so that no change of the
    kernel's order swaps the legs; turned : on the other one. along_it : for a radius that varies, its values
    as (share of the edge, mm) pairs from 0 to 1, straight between; starts : for each edge the place where the
    share is 0. only : not along what goes on smoothly.
    """

    edges: tuple[int, ...]
    size: float
    other: float = 0.0
    angle: float = 0.0
    turned: bool = False
    round: bool = True
    on: Mapping[int, int] = field(default_factory=dict)
    along_it: tuple[tuple[float, float], ...] = ()
    starts: Mapping[int, Vec] = field(default_factory=dict)
    only: bool = False

    def scaled(self, by: float) -> Blend:
        """Return the same in another size."""
        return replace(
            self,
            size=self.size * by,
            other=self.other * by,
            along_it=tuple((u, r * by) for u, r in self.along_it),
        )

    def along(self, edges: Sequence[int], on: Mapping[int, int] | None = None) -> Blend:
        """Return the same along other edges."""
        return replace(self, edges=tuple(edges), on=self.on if on is None else on)


class BlendFailed(Exception):
    """The kernel did not make the blends, or made something broken of them."""


def blended(body: NamedShape, blends: Sequence[Blend], step: str) -> tuple[NamedShape, NamedShape, int]:
    """Round or bevel a body's edges; return it, the new faces alone, and how many more edges the blends run
    along.

    New faces are named `step/round/<the faces that meet>` (`bevel`, `corner`). Raises StepError where edges
    of one smooth chain are wanted in two sizes, BlendFailed where it does not work.
    """
    return sparing(body, lambda own: _blended(own, blends, step))


def _blended(body: NamedShape, blends: Sequence[Blend], step: str) -> tuple[NamedShape, NamedShape, int]:
    edges = _edges(body)
    around = _Around(body)
    maker: Any = (
        BRepFilletAPI_MakeFillet(body.shape) if blends[0].round else BRepFilletAPI_MakeChamfer(body.shape)
    )
    sizes: dict[int, Blend] = {}
    asked = 0
    for blend in blends:
        for i in blend.edges:
            asked += 1
            if contour := maker.Contour(edges[i]):
                held = sizes[contour]
                if (held.size, held.other, held.angle, held.along_it) != (
                    blend.size,
                    blend.other,
                    blend.angle,
                    blend.along_it,
                ):
                    raise StepError(
                        f"The edge near {_said(edges[i])} goes on smoothly from one that has another size. "
                        "Give them one size.",
                        field="edges",
                    )
                continue
            with refused_as(BlendFailed):
                _add(maker, blend, i, edges[i], around)
            if not maker.Contour(edges[i]):
                raise BlendFailed
            sizes[maker.Contour(edges[i])] = blend
            if blend.along_it and maker.NbEdges(maker.Contour(edges[i])) > 1:
                raise StepError(
                    f"The edge near {_said(edges[i])} goes on smoothly into others, so it is not clear "
                    "along what the radius should change. "
                    "Give it one radius, or break the smooth run.",
                    field="edges",
                )
    chain = [
        maker.Edge(c, k) for c in range(1, maker.NbContours() + 1) for k in range(1, maker.NbEdges(c) + 1)
    ]
    with refused_as(BlendFailed):
        maker.Build()
        if not maker.IsDone():
            raise BlendFailed
        shape = maker.Shape()
    made = carry(maker, [body], shape)
    fresh = _fresh(
        maker,
        body,
        chain,
        around,
        shape,
        f"{step}/{'round' if blends[0].round else 'bevel'}",
        f"{step}/corner",
    )
    made = NamedShape.collect(shape, [*made.pairs(), *fresh])
    try:
        check_solid(made)
    except StepError as error:
        raise BlendFailed from error
    if not all(made.names):
        raise BlendFailed
    short = [i for b in blends if b.only for i in b.edges]
    if short and len(chain) > asked:
        if len(short) < asked:
            raise StepError("Either all groups run along what goes on smoothly, or none does.", field="edges")
        role = f"{step}/{'round' if blends[0].round else 'bevel'}"
        made = only_along(body, made, [(edges[i], _named_by(role, edges[i], around)) for i in short], step)
        return (
            made,
            some_of(made, [f for f, names in made.pairs() if any(n.split("/")[0] == step for n in names)]),
            0,
        )
    skin = some_of(made, [f for f, _ in fresh])
    return made, skin, len(chain) - asked


def largest(body: NamedShape, blend: Blend, step: str) -> float | None:
    """Return a size up to which a blend works (0.0 for none that was found), by trying at most nine, each in
    a child process."""
    found = most(lambda by: blended(body, [blend.scaled(by)], step))
    return None if found is None else found * blend.size


def works(body: NamedShape, blends: Sequence[Blend], step: str) -> bool:
    """Tell whether blends can be made, tried in a child process."""
    return survives(lambda: blended(body, blends, step))


def _add(maker: Any, blend: Blend, index: int, edge: TopoDS_Edge, around: _Around) -> None:
    if blend.along_it:
        maker.Add(_law(blend, index, edge, around.shape), edge)
    elif not blend.other and not blend.angle:
        maker.Add(blend.size, edge)
    else:
        on = blend.on.get(index)
        meeting = sorted(around(edge), key=lambda found: (found[2] != on, min(found[1])))
        face = meeting[1 if blend.turned else 0][0]
        if blend.angle:
            maker.AddDA(blend.size, blend.angle, edge, face)
        else:
            maker.Add(blend.size, blend.other, edge, face)


def _law(blend: Blend, index: int, edge: TopoDS_Edge, shape: TopoDS_Shape) -> Any:
    """Return the radius along an edge as the kernel wants it: in its own sense, and at places close to each
    other, since it joins far ones by an S-curve."""
    probe: Any = BRepFilletAPI_MakeFillet(shape)
    probe.Add(edge)
    first, last = (place(BRep_Tool.Pnt_s(v)) for v in (probe.FirstVertex(1), probe.LastVertex(1)))
    at = blend.starts.get(index, first)
    turned = math.dist(at, last) < math.dist(at, first)
    shares = sorted({u for u, _ in blend.along_it} | {k / FINE for k in range(FINE + 1)})
    places = [(1 - u if turned else u, _between(blend.along_it, u)) for u in shares]
    found = Array1_gp_Pnt2d(1, len(places))
    for i, (u, r) in enumerate(sorted(places), 1):
        found.SetValue(i, gp_Pnt2d(u, r))
    return found


def _between(values: Sequence[tuple[float, float]], u: float) -> float:
    for (a, one), (b, other) in pairwise(values):
        if u <= b:
            return one + (other - one) * (u - a) / (b - a)
    return values[-1][1]


def _edges(body: NamedShape) -> list[TopoDS_Edge]:
    return [e for e in edges_of(body.shape) if not BRep_Tool.Degenerated_s(e)]


class _Around:
    """The faces that meet at the edges and corners of a body, by what is the same and not by how it is
    turned."""

    def __init__(self, body: NamedShape) -> None:
        self.shape = body.shape
        self._maps = [
            shape_map(body.shape, kind)
            for kind in (TopAbs_ShapeEnum.TopAbs_EDGE, TopAbs_ShapeEnum.TopAbs_VERTEX)
        ]
        self._faces: list[dict[int, list[Beside]]] = [{}, {}]
        for index, (face, names) in enumerate(body.pairs()):
            for own, (known, parts) in zip(
                self._faces, zip(self._maps, (edges_of(face), vertices_of(face)), strict=True), strict=True
            ):
                for part in parts:
                    own.setdefault(known.FindIndex(part), []).append((TopoDS.Face(face), names, index))

    def __call__(self, part: TopoDS_Shape) -> list[Beside]:
        """Return the faces round an edge or corner, with their names and indices."""
        return next(
            (
                found[i]
                for known, found in zip(self._maps, self._faces, strict=True)
                if (i := known.FindIndex(part))
            ),
            [],
        )


def _named_by(word: str, part: TopoDS_Shape, around: _Around) -> frozenset[str]:
    return frozenset({f"{word}/{'+'.join(sorted(source_of(names) for _, names, _ in around(part)))}"})


def _fresh(
    maker: Any,
    body: NamedShape,
    chain: list[TopoDS_Edge],
    around: _Around,
    shape: TopoDS_Shape,
    role: str,
    corner: str,
) -> list[tuple[TopoDS_Shape, frozenset[str]]]:
    """Return the new faces with their names; raises BlendFailed where an edge has none."""
    present = shape_map(shape, TopAbs_ShapeEnum.TopAbs_FACE)

    def faces(part: TopoDS_Shape) -> list[TopoDS_Shape]:
        return [
            f
            for f in listed(maker.Generated(part))
            if f.ShapeType() == TopAbs_ShapeEnum.TopAbs_FACE and present.Contains(f)
        ]

    found: list[tuple[TopoDS_Shape, frozenset[str]]] = []
    corners = map_of(v for edge in chain for v in vertices_of(edge))
    for edge in chain:
        made = faces(edge)
        if not made:
            raise BlendFailed
        found += [(f, _named_by(role, edge, around)) for f in made]
    known = map_of(f for f, _ in found)
    for vertex in items(corners):
        found += [(f, _named_by(corner, vertex, around)) for f in faces(vertex) if not known.Contains(f)]
    return found


def _said(edge: TopoDS_Edge) -> str:
    return said_at(middle_of(BRepAdaptor_Curve(edge))[0])


def edge_near(body: NamedShape, edge: int) -> str:
    """Say where an edge is."""
    return _said(_edges(body)[edge])
