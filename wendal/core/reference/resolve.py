"""Finding again what a reference means: sound, re-found with the reason, or lost with ranked candidates.

A face is looked for by its names. A face that was whole when it was picked is the only one with its names;
where it is in pieces now, the piece with the same neighbours is taken, else the nearest to the pick, and that
is only re-found. A piece of a face that was cut up already is told apart by what bounds it (`pieces.py`).
Edges and corners are looked for by the names of the faces that meet in them. What has no hit is lost; nothing
else is ever taken in its place.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from typing import Any, TypeVar

from ..errors import ReferenceLost
from ..kernel.types import Topology, Vec, cross
from ..tolerance import MEETS, SAME_NUMBER
from .model import EdgeRef, FaceRef, VertexRef
from .names import own_names, say_face
from .pieces import (
    Verdict,
    corner_piece,
    edge_ends,
    edge_is_whole,
    face_is_whole,
    face_piece,
    lies_beside,
    lies_over,
    which_edge,
    which_face,
)

__all__ = [
    "Found",
    "corner_data",
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
    whole = face_is_whole(topology, index)
    return {
        "body": body,
        "names": sorted(own_names(topology.names[index])),
        "beside": sorted(_beside(topology, index)),
        "whole": whole,
        **({} if whole else face_piece(topology, index)),
    }


def edge_ref(body: str, topology: Topology, index: int) -> EdgeRef:
    """Return the durable reference to an edge."""
    return EdgeRef(**edge_data(body, topology, index), near=topology.edges[index].middle)


def edge_data(body: str, topology: Topology, index: int) -> dict[str, Any]:
    """Return a reference to an edge as data, but for the place."""
    faces = list(topology.faces_at[index][:2])
    if len(faces) == 2 and all(topology.faces[f].form == "flat" for f in faces):
        # The order of the faces tells the edge's sense (core/datum/taken.py): forwards along the axis it lies
        # nearest to.
        along = cross(topology.faces[faces[0]].frame.normal, topology.faces[faces[1]].frame.normal)
        if max(along, key=abs) < 0:
            faces.reverse()
    whole = edge_is_whole(topology, index)
    return {
        "body": body,
        "faces": [sorted(own_names(topology.names[f])) for f in faces],
        "beside": sorted(_at_ends(topology, index)),
        "alone": whole,
        "whole": whole,
        **({} if whole else {"ends": edge_ends(topology, index, faces)}),
    }


def vertex_ref(body: str, topology: Topology, index: int) -> VertexRef:
    """Return the durable reference to a corner."""
    return VertexRef(**corner_data(body, topology, index), near=topology.vertices[index].place)


def corner_data(body: str, topology: Topology, index: int) -> dict[str, Any]:
    """Return a reference to a corner as data, but for the place."""
    faces = [sorted(own_names(topology.names[f])) for f in topology.faces_round[index]]
    return {"body": body, "faces": faces, **corner_piece(topology, index)}


def find_face(ref: FaceRef, bodies: Mapping[str, Topology], called: Callable[[str], str] = str) -> Found:
    """Find a face; raises ReferenceLost. called : gives the name of a step for messages."""
    said = say_face(ref.names, called)
    hits = _own_first(ref.body, [(b, i) for b, t in bodies.items() for i in t.named(set(ref.names))])
    if not hits:
        raise ReferenceLost(f"The face this stands on ({said}) is not there any more. Pick another.")
    if ref.whole is False:
        return _piece(which_face(ref, hits, bodies), hits, f"face this stands on ({said})")
    likeness = [_likeness(ref.beside, _beside(bodies[b], i)) for b, i in hits]
    if len(hits) == 1:
        strange = ref.whole is None and likeness[0] < 1 and not _on_face(ref, bodies[hits[0][0]], hits[0][1])
        return Found(
            *hits[0], STRANGE.format(f"the face ({said})") if strange else "", tuple(hits) if strange else ()
        )
    places = [bodies[b].faces[i].centre for b, i in hits]
    return _most_like(ref.near, hits, likeness, places, f"the face ({said})")


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
    if ref.ends:
        return _piece(which_edge(ref, hits, bodies), hits, "edge this stands on")
    likeness = [_likeness(ref.beside, _at_ends(bodies[b], i)) for b, i in hits]
    if len(hits) == 1:
        strange = ref.whole is None and _strange_edge(ref, bodies[hits[0][0]], hits[0][1], likeness[0])
        return Found(*hits[0], STRANGE.format("the edge") if strange else "", tuple(hits) if strange else ())
    places = [bodies[b].edges[i].middle for b, i in hits]
    return _most_like(ref.near, hits, likeness, places, "the edge")


# Files from before pieces were told apart do not say whether what was picked was a piece.
STRANGE = "{} has other neighbours than when it was picked, and lies elsewhere"


def _most_like(
    near: Vec | None, hits: list[tuple[str, int]], likeness: list[float], places: list[Vec], said: str
) -> Found:
    """Return the piece of what was whole that has the old neighbours, else, in doubt, the most like and
    nearest."""
    best = max(likeness)
    if best == 1.0 and likeness.count(best) == 1:
        return Found(*hits[likeness.index(best)])
    first = [k for k, like in enumerate(likeness) if like > best - SAME_NUMBER]
    nearest = min(first, key=lambda k: math.dist(places[k], near) if near else 0.0)
    doubt = f"{said} is now in {len(hits)} pieces; the one most like the picked one was taken"
    return Found(*hits[nearest], doubt, tuple(hits))


def _on_face(ref: FaceRef, topology: Topology, index: int) -> bool:
    """Tell whether the place of a pick lies over a face, across it; true where no place is known."""
    return ref.near is None or lies_over(topology, index, ref.near)


def _strange_edge(ref: EdgeRef, topology: Topology, index: int, likeness: float) -> bool:
    """Tell whether an edge may be another one than an older file means: one that has other neighbours and
    lies elsewhere, or, of one that had siblings, one that lies elsewhere at all."""
    if ref.near is None or not ref.beside:
        return False
    if not ref.alone:
        return not lies_beside(topology, index, ref.near, just=True)
    return likeness < 1 and not lies_beside(topology, index, ref.near)


def _piece(verdict: Verdict, hits: list[tuple[str, int]], what: str) -> Found:
    """Return the piece that is meant; raises ReferenceLost where it is gone though others are left."""
    if verdict.hit is None:
        left = "another piece is left" if len(hits) == 1 else f"{len(hits)} other pieces are left"
        raise ReferenceLost(f"The piece of the {what} is not there any more; {left}. Pick again.")
    return Found(*verdict.hit, verdict.doubt, tuple(hits) if verdict.doubt else ())


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
    away = {h: math.dist(bodies[h[0]].vertices[h[1]].place, ref.near) if ref.near else 0.0 for h in hits}
    if ref.whole is False:
        unmoved = [h for h in hits if ref.near and away[h] < MEETS]
        if ref.onward:
            hits = [
                h for h in hits if corner_piece(bodies[h[0]], h[1]).get("onward", ref.onward) == ref.onward
            ]
            if not hits:
                raise ReferenceLost(
                    "The corner this stands on is not there any more; another like it is left."
                )
        if len(unmoved) == 1 and unmoved[0] in hits:
            return Found(*unmoved[0])
    elif len(hits) == 1:
        return Found(*hits[0])
    if len(hits) == 1 and ref.onward:
        return Found(*hits[0])
    body, index = min(hits, key=lambda h: away[h])
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
