"""Holes as drawings tell them: whose wall something is, which are alike, on which circle they lie, their
threads."""

from __future__ import annotations

import math
from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from .. import kernel, standards
from ..errors import CommandRefused
from ..inspect.schedule import HoleRow, HoleSchedule, schedule, threaded_length
from ..kernel.types import Vec, add, cross, minus, scaled, unit
from ..reference import EdgeRef, FaceName, FaceRef
from ..route import Evaluation, Part
from ..steps.hole import Hole
from .ink import XY

__all__ = ["Thread", "alike_with", "drilled_steps", "holes_of", "ring_of", "threads_in"]

LEAST_RING = 3  # holes on a circle
SAME = 1e-5  # mm: one place, one radius; rad: one step


def holes_of(part: Part, evaluation: Evaluation) -> list[HoleRow]:
    """Return all holes as the schedule has them; none where there is none."""
    try:
        return schedule(part, evaluation, HoleSchedule()).holes  # type: ignore[attr-defined]
    except CommandRefused:
        return []


def drilled_steps(part: Part) -> dict[str, Hole]:
    """Return all hole steps by id."""
    return {s.id: s for s in part.steps if isinstance(s, Hole)}


def alike_with(part: Part, evaluation: Evaluation, ref: object, place: Vec, direction: Vec) -> list[HoleRow]:
    """Return the hole that a face or edge belongs to, first, and all that are like it and run the same
    way; none where no hole step drilled it.

    Holes of two steps may lie on one axis, so the hole is found by the name of its own face, not by the
    axis alone."""
    if isinstance(ref, FaceRef):
        names = list(ref.names)
    elif isinstance(ref, EdgeRef):
        names = [n for own in ref.faces for n in own]
    else:
        return []
    steps = {FaceName.read(n).step for n in names} & drilled_steps(part).keys()
    held = [r for r in holes_of(part, evaluation) if r.step in steps]
    way = unit(direction)
    own = next((r for r in held if math.hypot(*cross(minus(r.at, place), way)) < SAME), None)
    if own is None:
        return []
    rest = [
        r
        for r in _alike(holes_of(part, evaluation), own)
        if (r.at, r.step, r.body) != (own.at, own.step, own.body)
    ]
    return [own, *rest]


def _alike(rows: Iterable[HoleRow], own: HoleRow) -> list[HoleRow]:
    """Return the holes that have a hole's note and run its way."""
    return [r for r in rows if r.note == own.note and math.hypot(*cross(r.into, own.into)) < 1e-6]


def ring_of(middles: Sequence[XY], axes: Sequence[XY] = ()) -> tuple[XY, float] | None:
    """Return the circle on which places lie evenly, at least three of them: its middle and radius.

    axes : where something turns; four places at the corners of a square are a ring only about one of them.
    """
    if len(middles) < LEAST_RING:
        return None
    x, y = (sum(p[i] for p in middles) / len(middles) for i in (0, 1))
    radii = [math.dist(p, (x, y)) for p in middles]
    if min(radii) < 1e-3 or max(radii) - min(radii) > SAME:
        return None
    angles = sorted(math.atan2(p[1] - y, p[0] - x) for p in middles)
    steps = [b - a for a, b in zip(angles, [*angles[1:], angles[0] + 2 * math.pi], strict=True)]
    if max(steps) - min(steps) > SAME:
        return None
    if len(middles) == 4 and not any(math.dist(a, (x, y)) < SAME for a in axes):
        return None
    return (x, y), radii[0]


@dataclass(frozen=True, slots=True)
class Thread:
    """An inner thread: where it begins on its axis and which way it runs, how long it is, its radii (mm)."""

    start: Vec
    way: Vec
    length: float
    major: float
    core: float


def threads_in(part: Part, evaluation: Evaluation, shape: kernel.NamedShape) -> list[Thread]:
    """Return the threads of tapped holes that are left in a shape, each as long as its step says."""
    tapped = {i: s for i, s in drilled_steps(part).items() if s.sizing == "tapped"}
    if not tapped:
        return []
    rows = holes_of(part, evaluation)
    found: dict[tuple[float, ...], Thread] = {}
    for wall in kernel.rounds_of(shape):
        names = [FaceName.read(n) for n in shape.names[wall.face]]
        step = next((n.step for n in names if n.step in tapped and n.source == "drilled wall"), "")
        ends = [add(wall.origin, scaled(wall.way, h)) for h in (wall.low, wall.high)]
        row = next(
            (r for r in rows if r.step == step and math.hypot(*cross(minus(r.at, ends[0]), wall.way)) < SAME),
            None,
        )
        if not step or row is None:
            continue
        start, end = sorted(ends, key=lambda p: math.dist(p, row.at))
        full = math.dist(start, end)
        own = threaded_length(part, evaluation, tapped[step])
        way = unit(minus(end, start))
        major = standards.thread(tapped[step].thread).diameter / 2
        key = tuple(round(c, 4) for c in start)
        found[key] = Thread(start, way, min(own, full) if own else full, major, wall.radius)
    return list(found.values())
