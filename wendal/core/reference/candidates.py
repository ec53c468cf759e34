"""What could be meant when a reference is lost: ranked, each with the reason. Nothing of this is ever taken
by itself.

A face counts by how much of its name agrees (same step, same role, same source curve), by how many of its
neighbours are the old ones, and by how near it is to the old place; edges and corners by the faces that meet.
"""

from __future__ import annotations

import math
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from ..kernel.types import Edge, Topology, Vec, Vertex
from .calling import called
from .model import EdgeRef, FaceRef, VertexRef
from .names import FaceName
from .resolve import edge_ref, face_ref, vertex_ref

__all__ = ["Candidate", "candidates"]

SHOWN = 5
LEAST = 0.15  # a score below this is no candidate


@dataclass(frozen=True, slots=True)
class Candidate:
    """A thing that could be meant. words : what it is and why; ref : what re-picking it would store; answer :
    of a thing in several pieces, which one."""

    words: str
    ref: dict[str, Any]
    answer: dict[str, Any] | None = None


def candidates(
    ref: FaceRef | EdgeRef | VertexRef, bodies: Mapping[str, Topology], names: Mapping[str, str] | None = None
) -> list[Candidate]:
    """Return the likeliest things of the same kind in place of a lost one, best first.

    names : of the bodies.
    """
    scored: list[tuple[float, Candidate]] = []
    for body, topology in bodies.items():
        size = _size(topology)
        words = called((names or {}).get(body, body), topology)
        if isinstance(ref, FaceRef):
            for i, face in enumerate(topology.faces):
                name, reason = _agreement(ref.names, face.names)
                beside = _share(set(ref.beside), {n for k in topology.beside(i) for n in topology.names[k]})
                score = 0.5 * name + 0.35 * beside + 0.15 * _near(ref.near, face.centre, size)
                if score >= LEAST and (name or beside):
                    told = f"{words.faces[i]}: {reason or 'it has the same neighbours'}"
                    scored.append(
                        (score, Candidate(told, face_ref(body, topology, i).model_dump(mode="json")))
                    )
        else:
            wanted = {n for names in ref.faces for n in names}
            things: Sequence[Edge | Vertex] = (
                topology.edges if isinstance(ref, EdgeRef) else topology.vertices
            )
            for i, thing in enumerate(things):
                met = _share(wanted, {n for k in thing.faces for n in topology.faces[k].names})
                place = topology.edges[i].middle if isinstance(ref, EdgeRef) else topology.vertices[i].place
                score = 0.8 * met + 0.2 * _near(ref.near, place, size)
                if met and score >= LEAST:
                    kept = round(met * len(wanted))
                    own, make = (
                        (words.edges, edge_ref) if isinstance(ref, EdgeRef) else (words.corners, vertex_ref)
                    )
                    told = f"{own[i]}: {kept} of the {len(wanted)} faces that met there meet here"
                    scored.append((score, Candidate(told, make(body, topology, i).model_dump(mode="json"))))
    return [c for _, c in sorted(scored, key=lambda s: -s[0])[:SHOWN]]


def _agreement(old: Iterable[str], new: Iterable[str]) -> tuple[float, str]:
    """Compare names like `s2/side/c5/r1` part by part; return a share and what agrees."""
    best, reason = 0.0, ""
    for a in old:
        for b in new:
            p, q = FaceName.read(a), FaceName.read(b)
            if p.step != q.step:
                continue
            same_role = p.role == q.role
            same_source = (p.source, p.profile) == (q.source, q.profile)
            score = 0.3 + 0.25 * same_role + 0.25 * same_source + 0.2 * (p.instances == q.instances)
            if score > best:
                best = score
                reason = "made by the same step"
                reason += (" in the same role" if same_role else "") + (
                    " from the same curve" if same_source else ""
                )
    return best, reason


def _share(old: set[str], new: set[str]) -> float:
    return len(old & new) / len(old) if old else 0.0


def _near(old: Vec | None, new: Vec, size: float) -> float:
    return max(0.0, 1 - math.dist(old, new) / size) if old else 0.0


def _size(topology: Topology) -> float:
    places = [v.place for v in topology.vertices] or [f.centre for f in topology.faces]
    low, high = (tuple(pick(p[i] for p in places) for i in range(3)) for pick in (min, max))
    return math.dist(low, high) or 1.0
