"""Fillets and chamfers along edges, and how far they can go.

A blend runs along the whole chain of edges that go on smoothly. Every asked edge must have a face of its own in the result: the kernel
can call a blend done that is broken, or leave an edge out. What does not fit is searched for in a child process, since trying can end it.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import Any

from OCP.BRep import BRep_Tool
from OCP.BRepAdaptor import BRepAdaptor_Curve
from OCP.BRepFilletAPI import BRepFilletAPI_MakeChamfer, BRepFilletAPI_MakeFillet
from OCP.TopAbs import TopAbs_ShapeEnum
from OCP.TopoDS import TopoDS, TopoDS_Edge, TopoDS_Face, TopoDS_Shape

from ..errors import StepError
from .named import NamedShape, carry, some_of, source_of
from .query import check_solid, middle_of
from .shapes import edges_of, items, listed, map_of, shape_map, vertices_of
from .trying import most, survives

__all__ = ["Blend", "BlendFailed", "blended", "edge_near", "largest", "works"]


Beside = tuple[TopoDS_Face, frozenset[str], int]


@dataclass(frozen=True, slots=True)
class Blend:
    """What is wanted along some edges: a radius, or a chamfer's two legs (mm), or a leg and an angle (rad).

    edges : by their index in the body's topology. on : for edges that a face stands for, that face. A chamfer's first leg lies on this
    face, else on the one whose name comes first, so that no change of the kernel's order swaps the legs; turned : on the other one.
    """

    edges: tuple[int, ...]
    size: float
    other: float = 0.0
    angle: float = 0.0
    turned: bool = False
    round: bool = True
    on: Mapping[int, int] = field(default_factory=dict)

    def scaled(self, by: float) -> Blend:
        """Return the same in another size."""
        return replace(self, size=self.size * by, other=self.other * by)

    def along(self, edges: Sequence[int], on: Mapping[int, int] | None = None) -> Blend:
        """Return the same along other edges."""
        return replace(self, edges=tuple(edges), on=self.on if on is None else on)


class BlendFailed(Exception):
    """The kernel did not make the blends, or made something broken of them."""


def blended(body: NamedShape, blends: Sequence[Blend], step: str) -> tuple[NamedShape, NamedShape, int]:
    """Round or bevel a body's edges; return it, the new faces alone, and how many more edges the blends run along.

    New faces are named `step/round/<the faces that meet>` (`bevel`, `corner`). Raises StepError where edges of one smooth chain are
    wanted in two sizes, BlendFailed where it does not work.
    """
    edges = _edges(body)
    around = _Around(body)
    maker: Any = BRepFilletAPI_MakeFillet(body.shape) if blends[0].round else BRepFilletAPI_MakeChamfer(body.shape)
    sizes: dict[int, Blend] = {}
    asked = 0
    for blend in blends:
        for i in blend.edges:
            asked += 1
            if contour := maker.Contour(edges[i]):
                held = sizes[contour]
                if (held.size, held.other, held.angle) != (blend.size, blend.other, blend.angle):
                    raise StepError(f"The edge near {_said(edges[i])} goes on smoothly from one that has another size. Give them one size.", field="edges")
                continue
            try:
                _add(maker, blend, i, edges[i], around)
            except Exception as error:
                raise BlendFailed from error
            if not maker.Contour(edges[i]):
                raise BlendFailed
            sizes[maker.Contour(edges[i])] = blend
    chain = [maker.Edge(c, k) for c in range(1, maker.NbContours() + 1) for k in range(1, maker.NbEdges(c) + 1)]
    try:
        maker.Build()
        if not maker.IsDone():
            raise BlendFailed
        shape = maker.Shape()
    except BlendFailed:
        raise
    except Exception as error:
        raise BlendFailed from error
    made = carry(maker, [body], shape)
    fresh = _fresh(maker, body, chain, around, shape, f"{step}/{'round' if blends[0].round else 'bevel'}", f"{step}/corner")
    made = NamedShape.collect(shape, [*made.pairs(), *fresh])
    try:
        check_solid(made)
    except StepError as error:
        raise BlendFailed from error
    if not all(made.names):
        raise BlendFailed
    skin = some_of(made, [f for f, _ in fresh])
    return made, skin, len(chain) - asked


def largest(body: NamedShape, blend: Blend, step: str) -> float:
    """Return a size up to which a blend works (0.0 for none that was found), by trying at most nine, each in a child process."""
    return most(lambda by: blended(body, [blend.scaled(by)], step)) * blend.size


def works(body: NamedShape, blends: Sequence[Blend], step: str) -> bool:
    """Tell whether blends can be made, tried in a child process."""
    return survives(lambda: blended(body, blends, step))


def _add(maker: Any, blend: Blend, index: int, edge: TopoDS_Edge, around: _Around) -> None:
    if not blend.other and not blend.angle:
        maker.Add(blend.size, edge)
    else:
        on = blend.on.get(index)
        meeting = sorted(around(edge), key=lambda found: (found[2] != on, min(found[1])))
        face = meeting[1 if blend.turned else 0][0]
        if blend.angle:
            maker.AddDA(blend.size, blend.angle, edge, face)
        else:
            maker.Add(blend.size, blend.other, edge, face)


def _edges(body: NamedShape) -> list[TopoDS_Edge]:
    return [e for e in edges_of(body.shape) if not BRep_Tool.Degenerated_s(e)]


class _Around:
    """The faces that meet at the edges and corners of a body, by what is the same and not by how it is turned."""

    def __init__(self, body: NamedShape) -> None:
        self._maps = [shape_map(body.shape, kind) for kind in (TopAbs_ShapeEnum.TopAbs_EDGE, TopAbs_ShapeEnum.TopAbs_VERTEX)]
        self._faces: list[dict[int, list[Beside]]] = [{}, {}]
        for index, (face, names) in enumerate(body.pairs()):
            for own, (known, parts) in zip(self._faces, zip(self._maps, (edges_of(face), vertices_of(face)), strict=True), strict=True):
                for part in parts:
                    own.setdefault(known.FindIndex(part), []).append((TopoDS.Face(face), names, index))

    def __call__(self, part: TopoDS_Shape) -> list[Beside]:
        """Return the faces round an edge or corner, with their names and indices."""
        return next((found[i] for known, found in zip(self._maps, self._faces, strict=True) if (i := known.FindIndex(part))), [])


def _fresh(maker: Any, body: NamedShape, chain: list[TopoDS_Edge], around: _Around, shape: TopoDS_Shape, role: str,
           corner: str) -> list[tuple[TopoDS_Shape, frozenset[str]]]:
    """Return the new faces with their names; raises BlendFailed where an edge has none."""
    present = shape_map(shape, TopAbs_ShapeEnum.TopAbs_FACE)

    def name(word: str, part: TopoDS_Shape) -> frozenset[str]:
        return frozenset({f"{word}/{'+'.join(sorted(source_of(names) for _, names, _ in around(part)))}"})

    def faces(part: TopoDS_Shape) -> list[TopoDS_Shape]:
        return [f for f in listed(maker.Generated(part)) if f.ShapeType() == TopAbs_ShapeEnum.TopAbs_FACE and present.Contains(f)]

    found: list[tuple[TopoDS_Shape, frozenset[str]]] = []
    corners = map_of(v for edge in chain for v in vertices_of(edge))
    for edge in chain:
        made = faces(edge)
        if not made:
            raise BlendFailed
        found += [(f, name(role, edge)) for f in made]
    known = map_of(f for f, _ in found)
    for vertex in items(corners):
        found += [(f, name(corner, vertex)) for f in faces(vertex) if not known.Contains(f)]
    return found


def _said(edge: TopoDS_Edge) -> str:
    x, y, z = middle_of(BRepAdaptor_Curve(edge))[0]
    return f"X {x:.3f} Y {y:.3f} Z {z:.3f}"


def edge_near(body: NamedShape, edge: int) -> str:
    """Say where an edge is."""
    return _said(_edges(body)[edge])
