"""What can be picked of a body, with its words and its reference: faces, edges and corners, as JSON in pieces.

The pieces go by digest, so that a change sends those alone that it reaches; and what is said of a thing is kept for as long as the thing, its
names and its neighbours are the same.
"""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any
from weakref import WeakKeyDictionary

from pydantic_core import to_json

from ..kernel import Frame
from ..reference import FaceName, alone, edge_data, face_data, own_names
from ..reference.calling import called
from ..steps import Body

__all__ = ["EDGE_FACETS", "FACE_FACETS", "PIECE", "frame_data", "pieces"]

PIECE = 64  # things that go together
# What can be picked as what, by form; `core/datum/taken.py` makes of a pick just these facets.
FACE_FACETS = {"flat": ["plane", "face", "flat"], "round": ["axis", "turned", "round", "face", "curved"],
               "cone": ["axis", "turned", "round", "face", "curved"], "torus": ["axis", "turned", "face", "curved"]}
EDGE_FACETS = {"line": ["line", "axis", "curve"], "circle": ["axis", "turned", "circle", "curve"], "ellipse": ["circle", "curve"],
               "bent": ["curve"]}
_told: WeakKeyDictionary[Any, tuple[Any, bytes]] = WeakKeyDictionary()  # by the marks of faces and edges: what it hangs on, and the JSON


def frame_data(frame: Frame) -> dict[str, Any]:
    """Return a frame as data."""
    return {"origin": frame.origin, "x": frame.x, "y": frame.y, "normal": frame.normal}


def pieces(body: Body) -> Iterator[bytes]:
    """Yield a body's things: JSON objects with one list each, "faces", "edges" or "vertices", which go on one behind the other."""
    words = called(body.name, body.topology, body.sheet)
    rows = (("faces", [_face(body, i, *w) for i, w in enumerate(zip(words.faces, words.brief[0], strict=True))]),
            ("edges", [_edge(body, i, *w) for i, w in enumerate(zip(words.edges, words.brief[1], strict=True))]),
            ("vertices", [_corner(body, i, w, words.brief[2]) for i, w in enumerate(words.corners) if body.topology.faces_round[i]]))
    for sort, held in rows:
        for i in range(0, len(held), PIECE):
            yield b'{"%s":[%s]}' % (sort.encode(), b",".join(held[i:i + PIECE]))


def _face(body: Body, index: int, words: str, brief: str) -> bytes:
    topology = body.topology
    mark, context = topology.marks[0][index], (body.id, words, topology.names[index], [topology.names[g] for g in topology.beside(index)])
    known = _told.get(mark)
    if known is None or known[0] != context:
        f = topology.faces[index]
        name = FaceName.read(min(own_names(topology.names[index]), default=""))
        data = {"form": f.form, "words": words, "brief": brief, "made_by": name.step, "copied_by": name.instances[-1][0] if name.instances else "",
                "facets": FACE_FACETS.get(f.form, ["face", "curved"]), "frame": frame_data(f.frame),
                "area": f.area, "radius": f.radius, "ref": {"of": "face", **face_data(body.id, topology, index), "near": f.centre, "key": ""}}
        known = _told[mark] = (context, to_json(data))
    return known[1]


def _edge(body: Body, index: int, words: str, brief: str) -> bytes:
    topology = body.topology
    faces = topology.faces_at[index]
    around = [topology.names[f] for v in topology.ends_of[index] for f in topology.faces_round[v]]
    own = [(topology.names[f], topology.marks[0][f].number) for f in faces]  # the order of flat faces tells an edge's sense
    mark, context = topology.marks[1][index], (body.id, words, faces, own, around, alone(topology, index))
    known = _told.get(mark)
    if known is None or known[0] != context:
        e = topology.edges[index]
        data = {"form": e.form, "words": words, "brief": brief, "facets": ["edge", *EDGE_FACETS.get(e.form, ["curve"])], "centre": e.centre, "faces": faces,
                "length": e.length, "middle": e.middle, "ref": {"of": "edge", **edge_data(body.id, topology, index), "near": e.middle}}
        known = _told[mark] = (context, to_json(data))
    return known[1]


def _corner(body: Body, index: int, words: str, brief: str) -> bytes:
    topology = body.topology
    mark, context = topology.marks[2][index], (body.id, words, [topology.names[f] for f in topology.faces_round[index]])
    known = _told.get(mark)
    if known is None or known[0] != context:
        place = topology.vertices[index].place
        faces = [sorted(own_names(topology.names[f])) for f in topology.faces_round[index]]
        ref = {"of": "vertex", "body": body.id, "faces": faces, "near": place}
        known = _told[mark] = (context, to_json({"place": place, "words": words, "brief": brief, "ref": ref}))
    return known[1]
