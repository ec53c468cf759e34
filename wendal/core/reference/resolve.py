"""Finding again what a reference means: sound, re-found with the reason, or lost with ranked candidates.

A face is looked for by its names. One hit is sound. Several are pieces of a split face: the one with the
same neighbours as when it was picked is taken, else the nearest to the pick, and that is only re-found.
None is lost; nothing else is ever taken in its place.
"""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import TypeVar

from ..errors import ReferenceLost
from ..kernel.types import Edge, Face, Topology, Vec, cross
from .model import EdgeRef, FaceRef, VertexRef
from .names import own_names, say_face

__all__ = ["Found", "edge_ref", "face_ref", "find_edge", "find_face", "find_vertex", "vertex_ref"]


Hit = TypeVar("Hit", bound=tuple)


@dataclass(frozen=True, slots=True)
class Found:
    """Where a reference was found: body, index in its topology, and "" or the reason why it is only re-found.

    also : with a doubt, all that fit, as pairs of body and index.
    """

    body: str
    index: int
    doubt: str = ""
    also: tuple[tuple[str, int], ...] = ()


def face_ref(body: str, topology: Topology, index: int, near: Vec | None = None) -> FaceRef:
    """Return the durable reference to a face."""
    face = topology.faces[index]
    beside = {n for i in face.neighbours for n in topology.faces[i].names}
    return FaceRef(body=body, names=sorted(own_names(face.names)), beside=sorted(beside - face.names), near=near or face.centre)


def edge_ref(body: str, topology: Topology, index: int) -> EdgeRef:
    """Return the durable reference to an edge."""
    edge = topology.edges[index]
    faces = list(edge.faces[:2])
    if len(faces) == 2 and all(topology.faces[f].form == "flat" for f in faces):
        # The order of the faces tells the edge's sense (core/datum/taken.py): forwards along the axis it lies nearest to.
        along = cross(topology.faces[faces[0]].frame.normal, topology.faces[faces[1]].frame.normal)
        if max(along, key=abs) < 0:
            faces.reverse()
    return EdgeRef(body=body, faces=[sorted(own_names(topology.faces[f].names)) for f in faces],
                   beside=sorted(_at_ends(topology, edge)), near=edge.middle, alone=_meeting(topology)[edge.faces] == 1)


_last: tuple[Topology, Counter[tuple[int, ...]]] | None = None


def _meeting(topology: Topology) -> Counter[tuple[int, ...]]:
    """Count in how many edges the same faces meet; the last body's is kept, since one asks for all edges of one body."""
    global _last
    if _last is None or _last[0] is not topology:
        _last = (topology, Counter(e.faces for e in topology.edges))
    return _last[1]


def vertex_ref(body: str, topology: Topology, index: int) -> VertexRef:
    """Return the durable reference to a corner."""
    vertex = topology.vertices[index]
    return VertexRef(body=body, faces=[sorted(own_names(topology.faces[f].names)) for f in vertex.faces], near=vertex.place)


def find_face(ref: FaceRef, bodies: Mapping[str, Topology], called: Callable[[str], str] = str) -> Found:
    """Find a face; raises ReferenceLost. called : gives the name of a step for messages."""
    wanted = set(ref.names)
    hits = _own_first(ref.body, [(b, i, face) for b, topology in bodies.items() for i, face in enumerate(topology.faces)
                                 if face.names & wanted])
    if not hits:
        raise ReferenceLost(f"The face this stands on ({say_face(ref.names, called)}) is not there any more. Pick another.")
    if len(hits) == 1:
        return Found(hits[0][0], hits[0][1])
    likeness = [_likeness(ref.beside, _beside(bodies[b], face)) for b, _, face in hits]
    best = max(likeness)
    if best == 1.0 and likeness.count(best) == 1:
        body, index, _ = hits[likeness.index(best)]
        return Found(body, index)
    nearest = min((h for h, like in zip(hits, likeness, strict=True) if like > best - 1e-9),
                  key=lambda h: math.dist(h[2].centre, ref.near) if ref.near else 0.0)
    reason = f"the face ({say_face(ref.names, called)}) is now in {len(hits)} pieces; the one most like the picked one was taken"
    return Found(nearest[0], nearest[1], reason, tuple((b, i) for b, i, _ in hits))


def find_edge(ref: EdgeRef, bodies: Mapping[str, Topology]) -> Found:
    """Find an edge; raises ReferenceLost."""
    wanted = [set(names) for names in ref.faces]
    hits = _own_first(ref.body, [(b, i) for b, t in bodies.items() for i, e in enumerate(t.edges)
                                 if _meets(t, e.faces, wanted, exact=True)])
    if not hits:
        raise ReferenceLost("The edge this stands on is not there any more. Pick another.")
    if len(hits) == 1:
        return Found(*hits[0])
    likeness = [_likeness(ref.beside, _at_ends(bodies[b], bodies[b].edges[i])) for b, i in hits]
    best = max(likeness)
    if best == 1.0 and likeness.count(best) == 1:
        return Found(*hits[likeness.index(best)])
    body, index = min((h for h, like in zip(hits, likeness, strict=True) if like > best - 1e-9),
                      key=lambda h: math.dist(bodies[h[0]].edges[h[1]].middle, ref.near) if ref.near else 0.0)
    return Found(body, index, f"the edge is now in {len(hits)} pieces; the one most like the picked one was taken", tuple(hits))


def find_vertex(ref: VertexRef, bodies: Mapping[str, Topology]) -> Found:
    """Find a corner; raises ReferenceLost."""
    wanted = [set(names) for names in ref.faces]
    hits = _own_first(ref.body, [(b, i) for b, t in bodies.items() for i, v in enumerate(t.vertices)
                                 if _meets(t, v.faces, wanted, exact=False)])
    if not hits:
        raise ReferenceLost("The corner this stands on is not there any more. Pick another.")
    if len(hits) == 1:
        return Found(*hits[0])
    body, index = min(hits, key=lambda h: math.dist(bodies[h[0]].vertices[h[1]].place, ref.near) if ref.near else 0.0)
    return Found(body, index, f"{len(hits)} corners fit now; the nearest to the picked one was taken")


def _own_first(body: str, hits: list[Hit]) -> list[Hit]:
    """Return the hits in the reference's own body; only where there are none, those elsewhere: a copy makes nothing doubtful."""
    return [h for h in hits if h[0] == body] or hits


def _meets(topology: Topology, faces: tuple[int, ...], wanted: list[set[str]], *, exact: bool) -> bool:
    """Tell whether every wanted face is among those that meet, each by one of its names."""
    if exact and len(faces) != len(wanted):
        return False
    return all(any(topology.faces[f].names & names for f in faces) for names in wanted)


def _beside(topology: Topology, face: Face) -> set[str]:
    return {n for i in face.neighbours for n in topology.faces[i].names} - face.names


def _at_ends(topology: Topology, edge: Edge) -> set[str]:
    return {n for v in edge.ends for f in topology.vertices[v].faces if f not in edge.faces
            for n in topology.faces[f].names}


def _likeness(stored: list[str], now: set[str]) -> float:
    both = set(stored) | now
    return len(set(stored) & now) / len(both) if both else 1.0
