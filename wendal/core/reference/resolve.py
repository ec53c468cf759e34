"""Finding again what a reference means: sound, re-found with the reason, or lost with ranked candidates.

A face is looked for by its names. One hit is sound. Several are pieces of a split face: the one with the
same neighbours as when it was picked is taken, else the nearest to the pick, and that is only re-found.
None is lost; nothing else is ever taken in its place.
"""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from typing import Any, TypeVar

from ..errors import ReferenceLost
from ..kernel.types import Topology, Vec, cross
from ..tolerance import SAME_NUMBER
from .model import EdgeRef, FaceRef, VertexRef
from .names import own_names, say_face

__all__ = [
    "Found",
    "alone",
    "edge_data",
    "edge_ref",
    "face_data",
    "face_ref",
    "find_edge",
    "find_face",
    "find_vertex",
    "vertex_ref",
]


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
    return FaceRef(**face_data(body, topology, index), near=near or topology.faces[index].centre)


def face_data(body: str, topology: Topology, index: int) -> dict[str, Any]:
    """Return a reference to a face as data, but for the place."""
    return {
        "body": body,
        "names": sorted(own_names(topology.names[index])),
        "beside": sorted(_beside(topology, index)),
    }


def edge_ref(body: str, topology: Topology, index: int) -> EdgeRef:
    """Return the durable reference to an edge."""
    return EdgeRef(**edge_data(body, topology, index), near=topology.edges[index].middle)


def edge_data(body: str, topology: Topology, index: int) -> dict[str, Any]:
    """Return a reference to an edge as data, but for the place."""
    meeting = topology.faces_at[index]
    faces = list(meeting[:2])
    if len(faces) == 2 and all(topology.faces[f].form == "flat" for f in faces):
        # The order of the faces tells the edge's sense (core/datum/taken.py): forwards along the axis it lies
        # nearest to.
        along = cross(topology.faces[faces[0]].frame.normal, topology.faces[faces[1]].frame.normal)
        if max(along, key=abs) < 0:
            faces.reverse()
    return {
        "body": body,
        "faces": [sorted(own_names(topology.names[f])) for f in faces],
        "beside": sorted(_at_ends(topology, index)),
        "alone": alone(topology, index),
    }


def alone(topology: Topology, index: int) -> bool:
    """Tell whether the faces that meet in an edge meet in no other."""
    return _meeting(topology)[topology.faces_at[index]] == 1


_last: tuple[Topology, Counter[tuple[int, ...]]] | None = None


def _meeting(topology: Topology) -> Counter[tuple[int, ...]]:
    """Count in how many edges the same faces meet; the last body's is kept, since one asks for all edges of
    one body."""
    global _last
    if _last is None or _last[0] is not topology:
        _last = (topology, Counter(topology.faces_at))
    return _last[1]


def vertex_ref(body: str, topology: Topology, index: int) -> VertexRef:
    """Return the durable reference to a corner."""
    return VertexRef(
        body=body,
        faces=[sorted(own_names(topology.names[f])) for f in topology.faces_round[index]],
        near=topology.vertices[index].place,
    )


def find_face(ref: FaceRef, bodies: Mapping[str, Topology], called: Callable[[str], str] = str) -> Found:
    """Find a face; raises ReferenceLost. called : gives the name of a step for messages."""
    wanted = set(ref.names)
    hits = _own_first(ref.body, [(b, i) for b, topology in bodies.items() for i in topology.named(wanted)])
    if not hits:
        raise ReferenceLost(
            f"The face this stands on ({say_face(ref.names, called)}) is not there any more. Pick another."
        )
    if len(hits) == 1:
        return Found(*hits[0])
    likeness = [_likeness(ref.beside, _beside(bodies[b], i)) for b, i in hits]
    best = max(likeness)
    if best == 1.0 and likeness.count(best) == 1:
        return Found(*hits[likeness.index(best)])
    nearest = min(
        (h for h, like in zip(hits, likeness, strict=True) if like > best - SAME_NUMBER),
        key=lambda h: math.dist(bodies[h[0]].faces[h[1]].centre, ref.near) if ref.near else 0.0,
    )
    reason = (
        f"the face ({say_face(ref.names, called)}) is now in {len(hits)} pieces; the one most like the "
        "picked one was taken"
    )
    return Found(*nearest, reason, tuple(hits))


def find_edge(ref: EdgeRef, bodies: Mapping[str, Topology]) -> Found:
    """Find an edge; raises ReferenceLost."""
    wanted = [set(names) for names in ref.faces]
    hits = _own_first(
        ref.body,
        [
            (b, i)
            for b, t in bodies.items()
            for i in _among(t, t.edges_of, wanted[0])
            if _meets(t, t.faces_at[i], wanted, exact=True)
        ],
    )
    if not hits:
        raise ReferenceLost("The edge this stands on is not there any more. Pick another.")
    if len(hits) == 1:
        return Found(*hits[0])
    likeness = [_likeness(ref.beside, _at_ends(bodies[b], i)) for b, i in hits]
    best = max(likeness)
    if best == 1.0 and likeness.count(best) == 1:
        return Found(*hits[likeness.index(best)])
    body, index = min(
        (h for h, like in zip(hits, likeness, strict=True) if like > best - SAME_NUMBER),
        key=lambda h: math.dist(bodies[h[0]].edges[h[1]].middle, ref.near) if ref.near else 0.0,
    )
    return Found(
        body,
        index,
        f"the edge is now in {len(hits)} pieces; the one most like the picked one was taken",
        tuple(hits),
    )


def find_vertex(ref: VertexRef, bodies: Mapping[str, Topology]) -> Found:
    """Find a corner; raises ReferenceLost."""
    wanted = [set(names) for names in ref.faces]
    hits = _own_first(
        ref.body,
        [
            (b, i)
            for b, t in bodies.items()
            for i in _among(t, t.corners_of, wanted[0])
            if _meets(t, t.faces_round[i], wanted, exact=False)
        ],
    )
    if not hits:
        raise ReferenceLost("The corner this stands on is not there any more. Pick another.")
    if len(hits) == 1:
        return Found(*hits[0])
    body, index = min(
        hits, key=lambda h: math.dist(bodies[h[0]].vertices[h[1]].place, ref.near) if ref.near else 0.0
    )
    return Found(body, index, f"{len(hits)} corners fit now; the nearest to the picked one was taken")


def _among(topology: Topology, of: Sequence[Sequence[int]], names: set[str]) -> list[int]:
    """Return the edges or corners, each once and in order, of the faces that carry any of some names."""
    return sorted({i for f in topology.named(names) for i in of[f]})


def _own_first(body: str, hits: list[Hit]) -> list[Hit]:
    """Return the hits in the reference's own body; only where there are none, those elsewhere: a copy makes
    nothing doubtful."""
    return [h for h in hits if h[0] == body] or hits


def _meets(topology: Topology, faces: Sequence[int], wanted: list[set[str]], *, exact: bool) -> bool:
    """Tell whether every wanted face is among those that meet, each by one of its names."""
    if exact and len(faces) != len(wanted):
        return False
    return all(any(topology.names[f] & names for f in faces) for names in wanted)


def _beside(topology: Topology, index: int) -> set[str]:
    return {n for i in topology.beside(index) for n in topology.names[i]} - topology.names[index]


def _at_ends(topology: Topology, index: int) -> set[str]:
    """Return the names of the faces at an edge's ends that do not meet in it."""
    own = topology.faces_at[index]
    return {
        n
        for v in topology.ends_of[index]
        for f in topology.faces_round[v]
        if f not in own
        for n in topology.names[f]
    }


def _likeness(stored: list[str], now: set[str]) -> float:
    both = set(stored) | now
    return len(set(stored) & now) / len(both) if both else 1.0
