"""What the things of a body are called in lists and sentences: no two of a body alike."""

from __future__ import annotations

import math
from collections import Counter
from functools import lru_cache

from .. import tolerance
from ..kernel.types import Edge, Face, Topology, Vec, dot
from ..tolerance import FULL_EDGE

__all__ = ["Naming", "apart", "called", "figure", "in_brief", "said_place"]

KEPT = "called"  # under which a mark keeps what its face, edge or corner is called
STRAIGHT = 1 - tolerance.STRAIGHT  # of 1: a direction nearer than this to an axis runs along it
SIDES = {
    (0, 1): "side at +X",
    (0, -1): "side at −X",
    (1, 1): "side at +Y",
    (1, -1): "side at −Y",
    (2, 1): "top face",
    (2, -1): "bottom face",
}


class Naming:
    """The words of a body's faces, edges and corners, each list in the order of its topology.

    brief : of each list, what is said in a sentence: without sizes, places and what is around.
    """

    def __init__(
        self, faces: list[str], edges: list[str], corners: list[str], brief: tuple[list[str], list[str], str]
    ) -> None:
        self.faces, self.edges, self.corners, self.brief = faces, edges, corners, brief


def called(name: str, topology: Topology, sheet: bool = False) -> Naming:
    """Return what the things of a body of a name are called: "top face of Base, 40 × 25"; where two would be
    alike, with their places."""
    of = f"of sheet {name}" if sheet else f"of {name}"
    faces = [_face_told(topology, i, sheet) for i in range(len(topology.faces))]
    edges = [_edge_told(topology, i) for i in range(len(topology.edges))]
    kinds = [kind for kind, _, _ in faces]
    between = [_between(tuple(kinds[f] for f in faces_at[:2])) for faces_at in topology.faces_at]
    corners = [f"corner {of}, at {_corner_told(topology, i)}" for i in range(len(topology.vertices))]
    return Naming(
        apart([f"{kind} {of}{size}" for kind, size, _ in faces], [at for _, _, at in faces]),
        apart(
            [f"{what} {of} {way}, {size}" for (what, size, _), way in zip(edges, between, strict=True)],
            [at for _, _, at in edges],
        ),
        apart(corners, []),
        ([f"{kind} {of}" for kind in kinds], [f"{what} {of}" for what, _, _ in edges], f"corner {of}"),
    )


def in_brief(name: str, topology: Topology, kind: str, index: int, sheet: bool = False) -> str:
    """Return what a "face", an "edge" or a "corner" of a body is called in a sentence: "top face of Base"."""
    of = f"of sheet {name}" if sheet else f"of {name}"
    if kind == "face":
        return f"{_face_told(topology, index, sheet)[0]} {of}"
    return f"{_edge_told(topology, index)[0] if kind == 'edge' else 'corner'} {of}"


def _face_told(topology: Topology, index: int, sheet: bool) -> tuple[str, str, str]:
    """Return what a face is, its size and its place; of a body's face they are kept for as long as it is the
    same."""
    mark = topology.marks[0][index]
    known = None if sheet else mark.notes.get(KEPT)
    if known is None:
        face = topology.faces[index]
        known = (
            _kind(face, sheet),
            _size(face, [topology.marks[1][e].described for e in topology.edges_of[index]]),
            said_place(face.centre),
        )
        if not sheet:
            mark.notes[KEPT] = known
    return known


def _corner_told(topology: Topology, index: int) -> str:
    mark = topology.marks[2][index]
    known = mark.notes.get(KEPT)
    if known is None:
        known = mark.notes[KEPT] = said_place(topology.vertices[index].place)
    return known


def _edge_told(topology: Topology, index: int) -> tuple[str, str, str]:
    mark = topology.marks[1][index]
    known = mark.notes.get(KEPT)
    if known is None:
        edge = topology.edges[index]
        known = mark.notes[KEPT] = (*_edge(edge), said_place(edge.middle))
    return known


def _kind(face: Face, sheet: bool) -> str:
    if face.form == "flat":
        n = face.frame.normal
        k = max(range(3), key=lambda i: abs(n[i]))
        if abs(n[k]) > STRAIGHT and not sheet:
            return SIDES[(k, 1 if n[k] > 0 else -1)]
        return "flat face" if sheet else "upright side" if abs(n[2]) < 1 - STRAIGHT else "slanting face"
    if face.form == "round":
        return "wall of a hole" if face.hollow else "round face"
    return {"cone": "conical face", "sphere": "ball face", "torus": "ring face"}.get(face.form, "curved face")


def _size(face: Face, edges: list[Edge]) -> str:
    if face.form == "round":
        return f", Ø{figure(2 * face.radius)}"
    if face.form != "flat":
        return ""
    places = [p for e in edges for p in _extent(e)]
    if not places:
        return ""
    spans = [
        max(along) - min(along)
        for way in (face.frame.x, face.frame.y)
        for along in [[dot(p, way) for p in places]]
    ]
    return f", {figure(spans[0])} × {figure(spans[1])}"


def _extent(edge: Edge) -> list[Vec]:
    """Return places of an edge that tell how far it reaches."""
    found = [edge.start, edge.middle]
    if edge.form == "line":
        found.append(
            (
                2 * edge.middle[0] - edge.start[0],
                2 * edge.middle[1] - edge.start[1],
                2 * edge.middle[2] - edge.start[2],
            )
        )
    elif (
        edge.form == "circle"
        and edge.centre is not None
        and edge.length > (2 * math.pi - FULL_EDGE) * edge.radius
    ):
        found += [
            (
                edge.centre[0] + s * edge.radius * (i == 0),
                edge.centre[1] + s * edge.radius * (i == 1),
                edge.centre[2] + s * edge.radius * (i == 2),
            )
            for s in (1, -1)
            for i in range(3)
        ]
    return found


def _edge(edge: Edge) -> tuple[str, str]:
    """Return what an edge is, and its size."""
    if edge.form == "line":
        along = max(range(3), key=lambda i: abs(edge.tangent[i]))
        way = f" along {'XYZ'[along]}" if abs(edge.tangent[along]) > STRAIGHT else ""
        return f"edge{way}", f"{figure(edge.length)} mm"
    if edge.form == "circle":
        whole = edge.length > (2 * math.pi - FULL_EDGE) * edge.radius
        return (
            ("circular edge", f"Ø{figure(2 * edge.radius)}")
            if whole
            else ("arc edge", f"R{figure(edge.radius)}")
        )
    return "curved edge", f"{figure(edge.length)} mm"


@lru_cache(4096)
def _between(own: tuple[str, ...]) -> str:
    if len(own) < 2:
        return f"at the rim of the {own[0]}" if own else "free"
    return f"between {own[0]} and {own[1]}"


def apart(words: list[str], places: list[str]) -> list[str]:
    """Add where they are to those that read alike, and a number to what is still alike."""
    alike = Counter(words)
    told = [f"{w}, at {places[i]}" if alike[w] > 1 and places else w for i, w in enumerate(words)]
    if len(set(told)) == len(told):
        return told
    again: Counter[str] = Counter()
    alike = Counter(told)
    found = []
    for w in told:
        again[w] += 1
        found.append(f"{w} ({again[w]})" if alike[w] > 1 else w)
    return found


def said_place(p: Vec) -> str:
    return f"X {figure(p[0])} Y {figure(p[1])} Z {figure(p[2])}"


def figure(value: float) -> str:
    """Return a figure short: at most three decimals, no noughts behind."""
    return (
        f"{value + 0.0:.3f}".rstrip("0").rstrip(".").replace("-0", "0")
        if abs(value) < 5e-4
        else f"{value:.3f}".rstrip("0").rstrip(".")
    )
