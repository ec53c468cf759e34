"""Other picks for what a step stands on: what lies in the same plane, on the same line, at the same place.

A face that was cut away by a dimension is lost; a base plane in which it lay, or a face of an earlier step,
is not.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from ..errors import WendalError
from ..kernel.types import Topology, Vec, dot, minus
from ..reference import (
    BaseRef,
    DatumRef,
    EdgeRef,
    FaceRef,
    ThingRef,
    VertexRef,
    edge_ref,
    face_ref,
    vertex_ref,
)
from ..route import Evaluation, Part
from ..route.depends import references
from ..route.gauging import Gauge, Thing
from ..steps import Site

__all__ = ["Other", "Pick", "others", "picks_of", "ref_of"]

NEAR = 1e-7  # mm: what is no farther off is in the same plane, on the same line, at the same place
SENSE = 1e-9  # of a cosine
MOST = 4  # other picks of one thing
LOOKED = 400  # faces, edges or corners of a body that are looked at
BASE: dict[str, tuple[str, ...]] = {
    "plane": ("XY", "YZ", "ZX"),
    "line": ("X", "Y", "Z"),
    "point": ("origin",),
}


@dataclass(frozen=True, slots=True)
class Pick:
    """One pick of a step. item : which one of a list; -1 where the field has one pick only."""

    step: str
    field: str
    item: int = -1


@dataclass(frozen=True, slots=True)
class Other:
    """What could be picked instead: its words, and its reference as data."""

    words: str
    ref: Mapping[str, Any]


def ref_of(part: Part, pick: Pick) -> ThingRef:
    """Return what a pick has picked."""
    held: Any = getattr(part.step(pick.step), pick.field)
    found: ThingRef = held if pick.item < 0 else held[pick.item]
    return found


def picks_of(part: Part, step: str, fields: Sequence[str]) -> list[Pick]:
    """Return the picks of faces, edges and corners that a step has; of some fields only, where any of these
    has one."""
    found: list[Pick] = []
    for field in dict.fromkeys(f for f, _ in references(part.step(step)) if ":" not in f):
        held = getattr(part.step(step), field)
        listed = enumerate(held) if isinstance(held, list) else [(-1, held)]
        found += (Pick(step, field, i) for i, r in listed if isinstance(r, FaceRef | EdgeRef | VertexRef))
    meant = [p for p in found if p.field in fields]
    return meant or found


def others(part: Part, evaluation: Evaluation, pick: Pick) -> tuple[Other, ...]:
    """Return what else lies where a pick lies, what is sturdiest first: what every part has, datums, then
    what earlier steps have made."""
    index, ref = part.index(pick.step), ref_of(part, pick)
    site = evaluation.sites.get(part.steps[index - 1].id) if index else None
    if site is None:
        return ()
    gauge = Gauge(part, site, {r.id: r.state for r in evaluation.reports})
    try:
        place = _place(gauge.thing(ref))
    except WendalError:
        return ()
    if place is None:
        return ()
    found: list[Other] = []
    for candidate in _candidates(part, site, ref, place[0]):
        try:
            thing = gauge.thing(candidate)
        except WendalError:
            continue
        if gauge.doubt or not _same(place, _place(thing)):
            gauge.doubt = ""
            continue
        found.append(Other(thing.words, candidate.model_dump(mode="json")))
        if len(found) == MOST:
            break
    return tuple(found)


Place = tuple[str, Vec, Vec]  # what it is, a place on it, its normal or direction


def _place(thing: Thing) -> Place | None:
    if thing.plane is not None:
        return "plane", thing.plane.origin, thing.plane.normal
    line = thing.axis or thing.line
    if line is not None:
        return "line", line.origin, line.direction
    return ("point", thing.point, (0.0, 0.0, 0.0)) if thing.point is not None else None


def _same(a: Place, b: Place | None) -> bool:
    """Tell whether two things are one plane, seen from one side, one line, or one place."""
    if b is None or a[0] != b[0]:
        return False
    away = minus(b[1], a[1])
    if a[0] == "point":
        return math.hypot(*away) < NEAR
    if a[0] == "plane":
        return dot(a[2], b[2]) > 1 - SENSE and abs(dot(away, a[2])) < NEAR
    along = dot(away, a[2])
    off = tuple(away[i] - along * a[2][i] for i in range(3))
    return abs(dot(a[2], b[2])) > 1 - SENSE and math.hypot(*off) < NEAR


def _candidates(part: Part, site: Site, ref: ThingRef, kind: str) -> Iterator[ThingRef]:
    """Yield what could be picked in place of a thing of one kind, the sturdiest first."""
    for name in BASE[kind]:
        yield BaseRef(name=name)
    for step in part.steps:
        for i, _ in enumerate(site.datums.get(step.id, ())):
            yield DatumRef(step=step.id, index=i)
    order = {s.id: i for i, s in enumerate(part.steps)}

    def since(names: frozenset[str]) -> int:
        return max((order.get(n.split("/")[0], 0) for n in names), default=0)

    for body, known in site.bodies.items():
        topology = known.topology
        made: list[tuple[int, int]] = []
        if isinstance(ref, FaceRef):
            made = [(since(n), i) for i, n in enumerate(topology.names) if not n & set(ref.names)]
            yield from (face_ref(body, topology, i) for _, i in sorted(made)[:LOOKED])
        elif isinstance(ref, EdgeRef):
            made = [(_late(topology, faces, since), i) for i, faces in enumerate(topology.faces_at)]
            yield from (edge_ref(body, topology, i) for _, i in sorted(made)[:LOOKED])
        elif isinstance(ref, VertexRef):
            made = [(_late(topology, faces, since), i) for i, faces in enumerate(topology.faces_round)]
            yield from (vertex_ref(body, topology, i) for _, i in sorted(made)[:LOOKED])


def _late(topology: Topology, faces: Sequence[int], since: Callable[[frozenset[str]], int]) -> int:
    return max((since(topology.names[f]) for f in faces), default=0)
