"""Hole schedule: every hole there is in the bodies, with its place, size and note.

What a hole measures is read off its faces in the bodies as they stand, copies in patterns and mirrors too;
what it is meant to be (thread, tolerance, end) is its step's.
"""

from __future__ import annotations

import math
import re
from collections.abc import Iterable, Iterator
from dataclasses import dataclass, field
from typing import Literal

from ..errors import CommandRefused, FormulaError
from ..kernel.types import Frame, Topology, Vec, add, dot, minus, scaled, unit
from ..quantity import Kind, in_kind, parse
from ..quantity.units import plain
from ..reference import FaceName
from ..route import Evaluation, Part
from ..steps import Body
from ..steps.hole import Hole
from ..steps.hole_note import ENDS, HEAD_WALLS, hole_note
from ..steps.hole_section import Section
from .questions import Answer, Request, question

__all__ = ["HoleRow", "HoleSchedule", "HolesListed", "threaded_length"]

Spot = tuple[float, float, float]
SAME = 1e-6  # mm: places that are told as one


class HoleSchedule(Request):
    """Ask for all holes, in the active coordinate system. order : as the route has them, along X, along Y, or
    along a short path."""

    of: Literal["holes"] = "holes"
    order: Literal["route", "x", "y", "path"] = "route"


class HoleRow(Answer):
    """A hole. number : in the order asked for. at : where its axis enters, in the part; place, into : the
    same and its direction in the active system, mm. diameter : mm. depth : mm of full diameter, None where it
    goes through. thread, tolerance : "" for none. note : as a drawing has it. size : by which holes are
    alike."""

    number: int
    step: str
    name: str
    body: str
    at: Spot
    place: Spot
    into: Spot
    diameter: float
    depth: float | None
    thread: str
    tolerance: str
    note: str
    size: int


class HolesListed(Answer):
    """All holes; sizes : the notes of those that are alike, with how many there are."""

    of: Literal["holes"] = "holes"
    holes: list[HoleRow]
    sizes: list[tuple[str, int]]


@dataclass(slots=True)
class _Seen:
    """What is left of a hole's faces in a body: heights along its axis at which each part lies."""

    hole: Hole
    body: Body
    origin: Vec
    way: Vec
    radius: float = 0.0
    wide: float = 0.0
    slope: float = 0.0
    heights: dict[str, list[float]] = field(default_factory=dict)
    mouths: list[float] = field(default_factory=list)

    @property
    def mouth(self) -> float:
        """Return the height at which its axis enters."""
        return min(self.mouths or [min(h) for h in self.heights.values()])


@question(HoleSchedule, HolesListed)
def schedule(part: Part, evaluation: Evaluation, request: HoleSchedule) -> HolesListed:
    """List the holes; raises CommandRefused where there is none."""
    holes = {s.id: s for s in part.steps if isinstance(s, Hole)}
    active = evaluation.site.datums.get(part.active_system)
    frame = (active[0].frame if active else None) or Frame()
    found = [
        row
        for body in evaluation.site.bodies.values()
        for seen in _seen_in(body, holes)
        if (row := _row(part, evaluation, seen, frame))
    ]
    if not found:
        raise CommandRefused("There is no hole yet. Drill some with b h.")
    place = {s.id: i for i, s in enumerate(part.steps)}
    found.sort(key=lambda r: place[r.step])
    ordered = _ordered(found, request.order)
    notes = list(dict.fromkeys(r.note for r in ordered))
    rows = [r.model_copy(update={"number": n, "size": notes.index(r.note)}) for n, r in enumerate(ordered, 1)]
    return HolesListed(holes=rows, sizes=[(n, sum(r.note == n for r in rows)) for n in notes])


def _seen_in(body: Body, holes: dict[str, Hole]) -> Iterable[_Seen]:
    """Gather the faces of each hole in a body, by the hole's place and copies."""
    found: dict[tuple[str, str, tuple[tuple[str, str], ...]], list[tuple[int, str]]] = {}
    for index, names in enumerate(body.topology.names):
        for name in map(FaceName.read, names):
            if name.step in holes and name.role == "side":
                key = (name.step, name.profile, name.instances)
                found.setdefault(key, []).append((index, name.source))
    for (step, _, _), faces in sorted(found.items(), key=lambda item: _counted(item[0][2])):
        if seen := _one(holes[step], body, faces):
            yield seen


def _counted(copies: tuple[tuple[str, str], ...]) -> list[tuple[str, list[int]]]:
    """Return copies so that the second comes before the tenth."""
    return [(s, [int(n) for n in re.findall(r"\d+", number)]) for s, number in copies[::-1]]


def _one(hole: Hole, body: Body, faces: list[tuple[int, str]]) -> _Seen | None:
    """Read a hole off its faces; None where neither its wall nor its head is left."""
    topology = body.topology
    round_ = [(i, s) for i, s in faces if topology.faces[i].axis is not None]
    if not round_:
        return None
    axis = topology.faces[round_[0][0]].axis
    assert axis is not None
    seen = _Seen(hole, body, axis[0], unit(axis[1]))
    own = {i for i, _ in faces}
    for index, source in faces:
        face = topology.faces[index]
        if source == "drilled wall":
            seen.radius = face.radius
        elif source in HEAD_WALLS:
            seen.slope = face.slope
        heights = list(_heights(topology, index, seen))
        seen.heights.setdefault(source, []).extend(h for h, _, _ in heights)
        if source == "drilled wall" or source in HEAD_WALLS:
            seen.mouths += [h for h, _, other in heights if not other & own]
        if source in HEAD_WALLS:
            seen.wide = max([seen.wide, *(2 * r for _, r, _ in heights)])
    return seen if seen.radius or seen.wide else None


def _heights(topology: Topology, face: int, seen: _Seen) -> Iterator[tuple[float, float, set[int]]]:
    """Yield where each edge round a face of a hole crosses its axis (mm along it), how far it is from the
    axis, and the other faces there."""
    for e in topology.edges_of[face]:
        edge = topology.edges[e]
        other = {*topology.faces_at[e]} - {face}
        if not other:
            continue  # a seam
        places = [edge.centre] if edge.centre else [edge.start, edge.middle]
        height = math.fsum(dot(minus(p, seen.origin), seen.way) for p in places if p) / len(places)
        off = minus(edge.middle, seen.origin)
        across = minus(off, scaled(seen.way, dot(off, seen.way)))
        yield height, math.hypot(*across), other


def _row(part: Part, evaluation: Evaluation, seen: _Seen, frame: Frame) -> HoleRow | None:
    hole, mouth = seen.hole, seen.mouth
    walls = seen.heights.get("drilled wall", [])
    deepest = max(walls or [h for s, hs in seen.heights.items() if s in HEAD_WALLS for h in hs])
    ends = any(s in ENDS for s in seen.heights)
    heads = [h for s, hs in seen.heights.items() if s in HEAD_WALLS for h in hs]
    section = Section(
        radius=seen.radius or seen.wide / 2,
        length=deepest - mouth,
        cone=0.0,
        wide=seen.wide,
        deep=max(heads) - mouth if heads else 0.0,
        angle=2 * math.atan(abs(seen.slope)),
        threaded=threaded_length(part, evaluation, hole),
    )
    through = hole.end in ("through", "next")
    remarks = []
    if through and ends:
        remarks.append("it ends in material")
    if not through and not ends:
        remarks.append("it comes out")
    at = add(seen.origin, scaled(seen.way, mouth))
    tapped = hole.sizing == "tapped"
    return HoleRow(
        number=0,
        step=hole.id,
        name=hole.name,
        body=seen.body.name,
        at=at,
        place=frame.local(at),
        into=(dot(seen.way, frame.x), dot(seen.way, frame.y), dot(seen.way, frame.normal)),
        diameter=2 * section.radius,
        depth=section.length if ends else None,
        thread=hole.thread + (" LH" if hole.hand == "left" else "") if tapped else "",
        tolerance=hole.tolerance.strip() if hole.toleranced else "",
        note=hole_note(hole, section, tuple(remarks), 1, inches=part.units.length == "in"),
        size=0,
    )


def threaded_length(part: Part, evaluation: Evaluation, hole: Hole) -> float:
    """Return the length of a hole's thread, mm; 0 for all of it."""
    if hole.sizing != "tapped" or not hole.threaded:
        return 0.0
    scope = {t: o.value for t, o in evaluation.ledger.items() if o.value is not None}
    try:
        worth = parse(hole.thread_depth.formula).value(scope)
        return plain(in_kind(worth, Kind.LENGTH, part.units.units()), Kind.LENGTH)
    except FormulaError:
        return 0.0


def _ordered(rows: list[HoleRow], order: str) -> list[HoleRow]:
    if order in ("x", "y"):
        first = "xy".index(order)
        return sorted(rows, key=lambda r: (round(r.place[first] / SAME), r.place[1 - first], r.place[2]))
    return _short_path(rows) if order == "path" else rows


def _short_path(rows: list[HoleRow]) -> list[HoleRow]:
    """Return the holes along a short path from the one nearest to the origin: always on to the nearest, then
    untangled by turning pieces round for as long as that shortens it (2-opt)."""
    left = sorted(rows, key=lambda r: math.hypot(*r.place))
    path = [left.pop(0)]
    while left:
        here = path[-1].place
        path.append(left.pop(min(range(len(left)), key=lambda i: math.dist(left[i].place, here))))
    shorter = len(path) <= 400
    while shorter:
        shorter = False
        for i in range(1, len(path) - 1):
            for j in range(i + 1, len(path)):
                a, b, c = path[i - 1].place, path[i].place, path[j].place
                d = path[j + 1].place if j + 1 < len(path) else None
                now = math.dist(a, b) + (math.dist(c, d) if d else 0.0)
                then = math.dist(a, c) + (math.dist(b, d) if d else 0.0)
                if then < now - SAME:
                    path[i : j + 1] = path[i : j + 1][::-1]
                    shorter = True
    return path
