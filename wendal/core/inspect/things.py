"""What can be picked of a body, with its words and its reference: faces, edges and corners, as JSON in
pieces.

The pieces go by digest, so that a change sends those alone that it reaches; and what is said of a thing is
kept for as long as the thing, its names and its neighbours are the same.
"""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

from pydantic_core import to_json

from ..kernel import Frame
from ..kernel.types import Topology
from ..reference import FaceName, corner_data, edge_data, face_data, own_names
from ..reference.calling import called
from ..reference.pieces import corner_piece, edge_is_whole, face_is_whole, face_piece
from ..steps import Body

__all__ = ["EDGE_FACETS", "FACE_FACETS", "PIECE", "frame_data", "pieces"]

PIECE = 64  # things that go together
# What can be picked as what, by form; `core/datum/taken.py` makes of a pick just these facets.
FACE_FACETS = {
    "flat": ["plane", "face", "flat"],
    "round": ["axis", "turned", "round", "face", "curved"],
    "cone": ["axis", "turned", "round", "face", "curved"],
    "torus": ["axis", "turned", "face", "curved"],
}
EDGE_FACETS = {
    "line": ["line", "axis", "curve"],
    "circle": ["axis", "turned", "circle", "curve"],
    "ellipse": ["circle", "curve"],
    "bent": ["curve"],
}
KEPT = "told"  # under which a mark keeps the JSON of a thing, with what it hangs on


def frame_data(frame: Frame) -> dict[str, Any]:
    """Return a frame as data."""
    return {"origin": frame.origin, "x": frame.x, "y": frame.y, "normal": frame.normal}


def pieces(body: Body) -> Iterator[bytes]:
    """Yield a body's things: JSON objects with one list each, "faces", "edges" or "vertices", which go on one
    behind the other."""
    topology = body.topology.unfolded()
    words, told = called(body.name, topology, body.sheet), _Told(body.id, topology)
    rows = (
        ("faces", [told.face(i, *w) for i, w in enumerate(zip(words.faces, words.brief[0], strict=True))]),
        ("edges", [told.edge(i, *w) for i, w in enumerate(zip(words.edges, words.brief[1], strict=True))]),
        (
            "vertices",
            [
                told.corner(i, w, words.brief[2])
                for i, w in enumerate(words.corners)
                if topology.faces_round[i]
            ],
        ),
    )
    for kind, held in rows:
        for i in range(0, len(held), PIECE):
            yield b'{"%s":[%s]}' % (kind.encode(), b",".join(held[i : i + PIECE]))


class _Told:
    """The things of one body as JSON, each with what it hangs on beside it."""

    def __init__(self, body: str, topology: Topology) -> None:
        self._body, self._topology = body, topology
        names = topology.names
        # The order of flat faces tells an edge's sense.
        self._own = [(own, mark.described.sense) for own, mark in zip(names, topology.marks[0], strict=True)]
        self._at_corner = [tuple(names[f] for f in faces) for faces in topology.faces_round]

    def face(self, index: int, words: str, brief: str) -> bytes:
        topology = self._topology
        names = topology.names
        apart = None if face_is_whole(topology, index) else face_piece(topology, index)
        mark = topology.marks[0][index]
        context = (self._body, words, names[index], [names[g] for g in topology.beside(index)], apart)
        known = mark.notes.get(KEPT)
        if known is None or known[0] != context:
            f = topology.faces[index]
            name = FaceName.read(min(own_names(topology.names[index]), default=""))
            data = {
                "form": f.form,
                "words": words,
                "brief": brief,
                "made_by": name.step,
                "copied_by": name.instances[-1][0] if name.instances else "",
                "facets": FACE_FACETS.get(f.form, ["face", "curved"]),
                "frame": frame_data(f.frame),
                "area": f.area,
                "radius": f.radius,
                "ref": {"of": "face", **face_data(self._body, topology, index), "near": f.centre, "key": ""},
            }
            known = mark.notes[KEPT] = (context, to_json(data))
        return known[1]

    def edge(self, index: int, words: str, brief: str) -> bytes:
        topology = self._topology
        faces = topology.faces_at[index]
        whole = edge_is_whole(topology, index)
        context = (
            self._body,
            words,
            faces,
            [self._own[f] for f in faces],
            [self._at_corner[v] for v in topology.ends_of[index]],
            whole or [topology.vertices[v].place for v in topology.ends_of[index]],
        )
        mark = topology.marks[1][index]
        known = mark.notes.get(KEPT)
        if known is None or known[0] != context:
            e = topology.edges[index]
            data = {
                "form": e.form,
                "words": words,
                "brief": brief,
                "facets": ["edge", *EDGE_FACETS.get(e.form, ["curve"])],
                "centre": e.centre,
                "faces": faces,
                "length": e.length,
                "middle": e.middle,
                "ref": {"of": "edge", **edge_data(self._body, topology, index), "near": e.middle},
            }
            known = mark.notes[KEPT] = (context, to_json(data))
        return known[1]

    def corner(self, index: int, words: str, brief: str) -> bytes:
        topology = self._topology
        mark = topology.marks[2][index]
        context = (self._body, words, self._at_corner[index], corner_piece(topology, index))
        known = mark.notes.get(KEPT)
        if known is None or known[0] != context:
            place = topology.vertices[index].place
            ref = {"of": "vertex", **corner_data(self._body, topology, index), "near": place}
            known = mark.notes[KEPT] = (
                context,
                to_json({"place": place, "words": words, "brief": brief, "ref": ref}),
            )
        return known[1]
