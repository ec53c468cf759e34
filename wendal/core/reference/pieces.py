"""Telling apart the pieces of a face or edge that is cut up: by what bounds a piece, then by place.

A groove across a face leaves pieces that bear the same names. A reference to one of them stores what tells it
from its siblings: of an edge the faces at its two ends, of a face those neighbours that not all siblings
have, and where it was. Later, of the pieces that are there:

1. All that bounded it bounds just one piece: it is that one, wherever it is now.
2. Some of it bounds one piece more than any other: it is that one if it alone lies where the old one lay,
   else it is in doubt.
3. Several are bounded alike: the only one that lies where the old one lay, else they are in doubt.
4. None is bounded by any of it: the piece that has all of the old place, for what cut it off is gone; in
   doubt where a piece has some of it; else lost. That one piece is left is no reason to take it.

A neighbour is found again when its names meet (a flush body adds names), or when one of both is a blend
between the other and the face itself: rounding an edge changes its neighbour. The rule was measured against
oracles of intervals on a line, on several thousand changes; `tools/hunts/pieces.py` is that measurement.
"""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Callable, Iterable, Mapping, Sequence, Set
from dataclasses import dataclass
from typing import Any

from ..kernel.types import Topology, Vec, cross, dot, minus
from ..tolerance import MEETS, SHARE
from .model import EdgeEnd, EdgeRef, FaceRef
from .names import FaceName, own_names

__all__ = [
    "Verdict",
    "corner_piece",
    "edge_ends",
    "edge_is_whole",
    "face_is_whole",
    "face_piece",
    "lies_beside",
    "lies_over",
    "which_edge",
    "which_face",
]

Names = Set[str]
Hit = tuple[str, int]  # a body, and an index in its topology
Box = tuple[Vec, Vec]  # its lowest and its highest corner, mm
Shares = Callable[[Hit, bool], float]  # of the old place, what a hit has; with True, not beside it


@dataclass(frozen=True, slots=True)
class Verdict:
    """Which of some pieces is meant, and the doubt about it; None for the piece: it is gone."""

    hit: Hit | None
    doubt: str = ""


# ---- What is stored ----


def face_is_whole(topology: Topology, index: int) -> bool:
    """Tell whether no other face bears any of a face's names."""
    return len(topology.named(own_names(topology.names[index]))) == 1


def face_piece(topology: Topology, index: int) -> dict[str, Any]:
    """Return what tells a face from its siblings: the neighbours that not all of them have, and its box."""
    siblings = [i for i in topology.named(own_names(topology.names[index])) if i != index]
    around = [[topology.names[g] for g in topology.beside(i)] for i in siblings]
    telling = {
        names
        for names in (topology.names[g] for g in topology.beside(index))
        if not all(any(names & other for other in others) for others in around)
    }
    low, high = _box(topology, index)
    return {"telling": sorted(sorted(own_names(n)) for n in telling), "low": low, "high": high}


def edge_is_whole(topology: Topology, index: int) -> bool:
    """Tell whether faces of the names that meet in an edge meet in no other."""
    return _counted(topology).edges[_meeting(topology, index)] == 1


def edge_ends(topology: Topology, index: int, faces: Sequence[int]) -> list[dict[str, Any]]:
    """Return an edge's ends as they are stored, along its sense; faces : the two that meet in it, in order.

    Where a sibling has the very same faces at its ends, these tell nothing, and the places alone are stored;
    of a sheet's rim, which edge of its face it is, too.
    """
    ends = _along(topology, index, faces)
    there = [_others(topology, index, v) for v in ends]
    siblings = [
        i
        for i in topology.edges_of[faces[0]]
        if i != index and _meeting(topology, i) == _meeting(topology, index)
    ]
    for i in siblings:
        theirs = [_others(topology, i, v) for v in _along(topology, i, faces)]
        if theirs == there or (not topology.turn(index, faces[0]) and theirs[::-1] == there):
            there = [frozenset() for _ in ends]
    if not any(there) and (rim := _rim(topology, index)):
        there = [frozenset({frozenset({rim})}) for _ in ends]
    return [
        {"faces": sorted(sorted(own_names(n)) for n in names), "at": topology.vertices[v].place}
        for v, names in zip(ends, there, strict=True)
    ]


def _rim(topology: Topology, index: int) -> str:
    """Return which edge of its one face a free edge is, "" where it is none: a sheet's rim has nothing beside
    it by which its edges could be told apart."""
    at = topology.faces_at[index]
    if len(at) != 1:
        return ""
    around = list(topology.edges_of[at[0]])
    return f"rim {around.index(index)} of {len(around)}"


def _others(topology: Topology, edge: int, corner: int) -> frozenset[frozenset[str]]:
    """Return the names of the faces at an edge's end that do not meet in the edge."""
    own = topology.faces_at[edge]
    return frozenset(topology.names[f] for f in topology.faces_round[corner] if f not in own)


def corner_piece(topology: Topology, index: int) -> dict[str, Any]:
    """Return what tells a corner from others in which faces of the same names meet: whether there are any,
    and which way the edge of two flat faces runs on from it."""
    faces = topology.faces_round[index]
    if _counted(topology).corners[_round(topology, index)] == 1:
        return {"whole": True}
    flat = [f for f in faces if topology.faces[f].form == "flat"]
    for i, one in enumerate(flat):
        for other in flat[i + 1 :]:
            first, second = sorted((one, other), key=lambda f: sorted(topology.names[f]))
            if runs := _onward(topology, index, first, second):
                return {"whole": False, "onward": runs}
    return {"whole": False}


def _onward(topology: Topology, corner: int, first: int, second: int) -> int:
    """Return whether the edge of two flat faces runs forwards (1) or backwards (-1) from a corner; 0
    without one."""
    sense = _sense(topology, (first, second))
    for e in topology.edges_of[first]:
        ends = topology.ends_of[e]
        if (
            sense is not None
            and corner in ends
            and len(ends) == 2
            and set(topology.faces_at[e]) == {first, second}
        ):
            other = ends[0] if ends[1] == corner else ends[1]
            along = dot(minus(topology.vertices[other].place, topology.vertices[corner].place), sense)
            return 1 if along > 0 else -1
    return 0


def _meeting(topology: Topology, index: int) -> frozenset[frozenset[str]]:
    return frozenset(topology.names[f] for f in topology.faces_at[index])


def _round(topology: Topology, corner: int) -> frozenset[frozenset[str]]:
    return frozenset(topology.names[f] for f in topology.faces_round[corner])


@dataclass(frozen=True, slots=True)
class _Counts:
    """In how many edges and corners of a body faces of the same names meet."""

    topology: Topology
    edges: Counter[frozenset[frozenset[str]]]
    corners: Counter[frozenset[frozenset[str]]]


_last: _Counts | None = None


def _counted(topology: Topology) -> _Counts:
    """Return the counts of a body; the last body's are kept, since all of its edges are asked one by one."""
    global _last
    if _last is None or _last.topology is not topology:
        _last = _Counts(
            topology,
            Counter(_meeting(topology, i) for i in range(len(topology.faces_at))),
            Counter(_round(topology, i) for i in range(len(topology.faces_round))),
        )
    return _last


def _along(topology: Topology, index: int, faces: Sequence[int]) -> list[int]:
    """Return an edge's corners in the order in which its first face, seen from outside, is passed round."""
    edge, ends = topology.edges[index], list(topology.ends_of[index])
    ends.sort(key=lambda v: math.dist(topology.vertices[v].place, edge.start))
    return ends[::-1] if topology.turn(index, faces[0]) < 0 else ends


def _sense(topology: Topology, faces: Sequence[int]) -> Vec | None:
    if len(faces) != 2 or any(topology.faces[f].form != "flat" for f in faces):
        return None
    return cross(topology.faces[faces[0]].frame.normal, topology.faces[faces[1]].frame.normal)


def _box(topology: Topology, face: int) -> Box:
    """Return the box round a face's corners and middle: as rough as is enough to tell where a piece lies."""
    places = [topology.vertices[v].place for v in topology.corners_of[face]] or [topology.faces[face].centre]
    x, y, z = zip(*places, strict=True)
    return (min(x), min(y), min(z)), (max(x), max(y), max(z))


# ---- Which piece is meant ----


def which_face(ref: FaceRef, hits: Sequence[Hit], bodies: Mapping[str, Topology]) -> Verdict:
    """Return which of the faces with a reference's names is meant."""
    own = set(ref.names)

    def found(hit: Hit) -> int:
        topology = bodies[hit[0]]
        around = [topology.names[g] for g in topology.beside(hit[1])]
        return sum(any(_is(set(names), other, own) for other in around) for names in ref.telling)

    def shares(hit: Hit, just: bool) -> float:
        if ref.low is None or ref.high is None:
            return 0.0
        face, box = bodies[hit[0]].faces[hit[1]], _box(bodies[hit[0]], hit[1])
        across = face.frame.normal if face.form == "flat" else None
        return _overlap((ref.low, ref.high), box, across, just)

    return _judge([found(h) for h in hits], len(ref.telling), hits, shares, "face")


def which_edge(ref: EdgeRef, hits: Sequence[Hit], bodies: Mapping[str, Topology]) -> Verdict:
    """Return which of the edges in which a reference's faces meet is meant."""
    own = {n for names in ref.faces for n in names}
    ends = [(end, [set(names) for names in end.faces]) for end in ref.ends]
    wanted = sum(bool(faces) for _, faces in ends)

    def found(hit: Hit) -> int:
        topology, index = bodies[hit[0]], hit[1]
        faces = _ordered(topology, index, ref)
        now = [_others(topology, index, v) for v in _along(topology, index, faces)]

        def matches(order: Sequence[Set[Names]]) -> int:
            return sum(
                bool(stored) and all(any(_is(names, other, own) for other in there) for names in stored)
                for (_, stored), there in zip(ends, order, strict=False)
            )

        if topology.turn(index, faces[0]):
            return matches(now)
        return max(matches(now), matches(now[::-1]))  # which end is which cannot be told

    def shares(hit: Hit, just: bool) -> float:
        topology = bodies[hit[0]]
        places = [topology.vertices[v].place for v in topology.ends_of[hit[1]]]
        return _along_one(ref.ends, places, just)

    if rim := _stored_rim(ref):
        # It is the same edge of its face, and where it was: by one of both alone it could be another one.
        same = [h for h in hits if _rim(bodies[h[0]], h[1]) == rim and _unmoved(ref, bodies[h[0]], h[1])]
        if len(same) == 1:
            return Verdict(same[0])
        ends, wanted = [(end, []) for end, _ in ends], 0
    return _judge([found(h) for h in hits], wanted, hits, shares, "edge")


def _stored_rim(ref: EdgeRef) -> str:
    names = ref.ends[0].faces if len(ref.faces) == 1 and ref.ends else []
    return names[0][0] if names and names[0][0].startswith("rim ") else ""


def _unmoved(ref: EdgeRef, topology: Topology, index: int) -> bool:
    """Tell whether an edge ends where the picked one did."""
    then, now = (
        sorted(e.at for e in ref.ends),
        sorted(topology.vertices[v].place for v in topology.ends_of[index]),
    )
    return len(then) == len(now) and all(math.dist(p, q) < MEETS for p, q in zip(then, now, strict=True))


def _judge(found: list[int], wanted: int, hits: Sequence[Hit], shares: Shares, noun: str) -> Verdict:
    """Return which hit is meant, by how much of what bounded the piece bounds each, and where it lies."""
    best = max(found)
    first = [h for h, n in zip(hits, found, strict=True) if n == best]
    if best and best == wanted and len(first) == 1:
        return Verdict(first[0])
    there = [h for h in hits if shares(h, False) > 0]
    here = [h for h in first if h in there]
    if best or not wanted:
        if len(here) == 1 and (len(first) > 1 or len(there) == 1):
            return Verdict(here[0])
        several = (
            f"{len(hits)} pieces of the {noun} are there now; the one most like the picked one was taken"
        )
        alone = f"this piece of the {noun} is bounded by something else now, and lies elsewhere"
        return Verdict((here or first)[0], several if len(hits) > 1 else alone)
    just = [h for h in there if shares(h, True) > 0]
    if len(just) == 1 and shares(just[0], True) > 1 - SHARE:
        return Verdict(just[0])  # all that cut it off is gone, and it lies in what is there as it was
    if just:
        doubt = f"the piece of the {noun} that lies where the picked one lay is bounded by others now"
        return Verdict(just[0], doubt)
    return Verdict(None)


def _ordered(topology: Topology, index: int, ref: EdgeRef) -> list[int]:
    """Return the faces that meet in an edge in the order in which a reference has them."""
    faces = list(topology.faces_at[index])
    if len(faces) == 2 and not topology.names[faces[0]] & set(ref.faces[0]):
        faces.reverse()
    return faces


def _is(one: Names, other: Names, own: Names) -> bool:
    """Tell whether two sets of names are of one face, or one is a blend between the other and the face
    itself."""
    return bool(one & other) or _blends(one, other, own) or _blends(other, one, own)


def _blends(blend: Names, other: Names, own: Names) -> bool:
    for text in blend:
        sources = FaceName.read(text).source.split("+")
        if len(sources) > 1:
            read = {_unsourced(s) for s in sources}
            if read & other and read - other <= own:
                return True
    return False


def _unsourced(text: str) -> str:
    return text.replace("~", "/").replace("%", "@")


def _overlap(one: Box, other: Box, across: Vec | None, just: bool) -> float:
    """Return the share of a box that another has, the least along any axis.

    across : a direction in which both are flat and may lie apart; just : they may not.
    """
    free = max(range(3), key=lambda i: abs(across[i])) if across is not None else -1
    if just and free >= 0 and abs(one[0][free] - other[0][free]) > MEETS:
        return 0.0
    shares = []
    for i in range(3):
        size = one[1][i] - one[0][i]
        if i == free:
            continue
        both = min(one[1][i], other[1][i]) - max(one[0][i], other[0][i])
        if both < -MEETS or (size > MEETS and both < MEETS):
            return 0.0
        shares.append(both / size if size > MEETS else 1.0)
    return min(shares)


def lies_over(topology: Topology, face: int, place: Vec) -> bool:
    """Tell whether a place lies in the box of a face, in whichever height over a flat one."""
    low, high = _box(topology, face)
    flat = topology.faces[face].form == "flat"
    normal = topology.faces[face].frame.normal
    free = max(range(3), key=lambda i: abs(normal[i])) if flat else -1
    return all(low[i] - MEETS <= place[i] <= high[i] + MEETS for i in range(3) if i != free)


def lies_beside(topology: Topology, edge: int, place: Vec, just: bool = False) -> bool:
    """Tell whether a place lies between the ends of an edge, beside it as far as it will.

    True for closed and bent edges. just : and not beside a straight one.
    """
    ends = [topology.vertices[v].place for v in topology.ends_of[edge]]
    if len(ends) != 2 or topology.edges[edge].form != "line":
        return True
    way = minus(ends[1], ends[0])
    if just and math.hypot(*cross(minus(place, ends[0]), way)) > MEETS * math.hypot(*way):
        return False
    return -MEETS <= dot(minus(place, ends[0]), way) <= dot(way, way) + MEETS


def _along_one(ends: Iterable[EdgeEnd], places: Sequence[Vec], just: bool) -> float:
    """Return the share of an edge along which another goes, by their ends; just : and not beside it."""
    old = [e.at for e in ends]
    if len(old) != 2 or len(places) != 2:
        return 0.0
    way = minus(old[1], old[0])
    length = math.hypot(*way)
    if length < MEETS:
        return 0.0
    if just and any(math.hypot(*cross(minus(p, old[0]), way)) > MEETS * length for p in places):
        return 0.0
    new = sorted(dot(minus(p, old[0]), way) / length for p in places)
    both = min(new[1], length) - max(new[0], 0.0)
    return both / length if both > MEETS else 0.0
