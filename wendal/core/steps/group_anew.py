"""Groups of steps made anew: every step is done again where its copy stands, a fillet on the edges that it
finds there."""

from __future__ import annotations

import math
import re
from collections.abc import Iterable
from dataclasses import replace
from typing import Any

from .. import kernel
from ..datum import Picked
from ..datum.taken import take_edge, take_face
from ..errors import StepError
from ..kernel.types import Placement, Topology, Vec, said_at
from ..reference import FaceName
from .applying import applied
from .base import Body, Made, Seed, Site
from .copying import begin_bodies, check_all_there, copies_of, copy_namer

__all__ = ["group_anew"]


class _Absent(StepError):
    """What a copy is to be done on is not there."""


def group_anew(step: Any, seeds: list[Seed], site: Site, placements: dict[str, Placement]) -> Made:
    """Do steps again, in their order, each under all placements by number, on what the ones before it left.

    Faces are named as those of exact copies are. Raises StepError that names the copy and what it does not
    find in its place.
    """
    own = {s.step for s in seeds}
    now, made = site.copy(), Made()
    for seed in seeds:
        if not (seed.changes and seed.made_by.placeless):
            effects = list(copies_of(step, seed, now, placements, True, begin_bodies(seeds)))
            done = applied(step.id, effects, now)
            check_all_there(step, done, effects, placements)
        else:
            done = _changed(step, seed, own, now, placements)
        made.shapes |= done.shapes
        made.note, made.inches = (
            " ".join(dict.fromkeys(n for n in (made.told(i), done.told(i)) if n)) for i in (False, True)
        )
        for b, shape in done.shapes.items():
            if shape is None:
                del now.bodies[b]
            else:
                known = now.bodies.get(b)
                now.bodies[b] = Body(b, known.name if known else step.name, shape, kernel.describe(shape), "")
    return made


def _changed(step: Any, seed: Seed, own: set[str], now: Site, placements: dict[str, Placement]) -> Made:
    """Do a step that changes bodies as they stand, on the copies of what was picked for it, all at once."""
    had = {n for body in now.bodies.values() for names in body.shape.names for n in names}

    def copies(pick: Picked) -> list[Picked]:
        return [
            _edge(step, pick, seed, own, now, n, p) if pick.edge else _face(step, pick, seed, own, now, n, p)
            for n, p in placements.items()
        ]

    try:
        made = seed.on_others(copies, now)
    except _Absent:
        raise
    except StepError as error:
        raise StepError(
            f"The copies can not be made in their places: {error.message}", field="seeds"
        ) from error
    for b, shape in made.shapes.items():
        if shape is not None:
            made.shapes[b] = kernel.renamed(
                shape, lambda n: n if n in had else _as_copy(n, seed.step, step.id)
            )
    return made


def _as_copy(name: str, seed: str, step: str) -> str:
    """Return the name of a face that a seed's step made from copied faces alone, as the copy of the name that
    it made from the first ones."""
    read = FaceName.read(name)
    mark = re.compile(rf"%{re.escape(step)}\.([^+%~]+)")
    numbers = {*mark.findall(read.source), *mark.findall(read.profile)}
    if read.step != seed or len(numbers) != 1:
        return name

    def bare(text: str) -> str:
        return "+".join(sorted(mark.sub("", text).split("+")))

    return str(
        replace(read, source=bare(read.source), profile=bare(read.profile)).copied(step, numbers.pop())
    )


def _wanted(names: Iterable[str], own: set[str], step: str, number: str) -> tuple[set[str], bool]:
    """Return the names that a face has in a copy, and whether it is one that the group makes."""
    ours = {copy_namer(step, number)(n) for n in names if FaceName.read(n).step in own}
    return ours or set(names), bool(ours)


def _before(seed: Seed, shape: kernel.NamedShape) -> Topology:
    return next(b.topology for b in seed.site.bodies.values() if b.shape is shape)


def _edge(
    step: Any, pick: Picked, seed: Seed, own: set[str], now: Site, number: str, placement: Placement
) -> Picked:
    assert pick.edge is not None
    assert pick.curve is not None
    topology, index = _before(seed, pick.edge[0]), pick.edge[1]
    around = [topology.faces[f].names for f in topology.edges[index].faces]
    wanted = [_wanted(names, own, step.id, number) for names in around]
    middle = placement.point(topology.edges[index].middle)
    if not any(ours for _, ours in wanted):
        raise _absent(number, "edge", middle, "none of the steps picked here makes it")
    alike = sum(_meet(topology, f, around) for f in (e.faces for e in topology.edges))
    sides = [names for names, _ in wanted]
    hits = [
        (body, i)
        for body in now.bodies.values()
        for i, e in enumerate(body.topology.edges)
        if _meet(body.topology, e.faces, sides)
    ]
    if not hits and len(wanted) == 2 and not all(ours for _, ours in wanted):
        # It stands on another face there: the one edge between the copy and what it does not make itself.
        mine = next(names for names, ours in wanted if ours)
        hits = [
            (body, i)
            for body in now.bodies.values()
            for i, e in enumerate(body.topology.edges)
            if len(e.faces) == 2
            and any(
                body.topology.faces[f].names & mine
                and not own & {FaceName.read(n).step for n in body.topology.faces[g].names}
                for f, g in (e.faces, e.faces[::-1])
            )
        ]
        alike = 1
    if len(hits) != alike:
        raise _absent(number, "edge", middle, "it is not there, or in other pieces")
    body, found = min(hits, key=lambda h: math.dist(h[0].topology.edges[h[1]].middle, middle))
    start = placement.point(pick.curve.at(0.0)[0])
    either = [
        take_edge(body.shape, body.topology, found, set(body.topology.faces[f].names), "")
        for f in body.topology.edges[found].faces[:2]
    ]
    return min(either, key=lambda p: math.dist(p.curve.at(0.0)[0], start) if p.curve else math.inf)


def _meet(topology: Topology, faces: tuple[int, ...], wanted: list[Any]) -> bool:
    return len(faces) == len(wanted) and all(
        any(topology.faces[f].names & set(names) for f in faces) for names in wanted
    )


def _face(
    step: Any, pick: Picked, seed: Seed, own: set[str], now: Site, number: str, placement: Placement
) -> Picked:
    assert pick.solid is not None
    topology, index = _before(seed, pick.solid[0]), pick.solid[1]
    names, ours = _wanted(topology.faces[index].names, own, step.id, number)
    centre = placement.point(topology.faces[index].centre)
    if not ours:
        raise _absent(number, "face", centre, "none of the steps picked here makes it")
    alike = sum(bool(f.names & topology.faces[index].names) for f in topology.faces)
    hits = [
        (body, i)
        for body in now.bodies.values()
        for i, face in enumerate(body.topology.faces)
        if face.names & names
    ]
    if len(hits) != alike:
        raise _absent(number, "face", centre, "it is not there, or in other pieces")
    body, found = min(hits, key=lambda h: math.dist(h[0].topology.faces[h[1]].centre, centre))
    return take_face(body.shape, body.topology, found, "")


def _absent(number: str, what: str, at: Vec, why: str) -> _Absent:
    return _Absent(
        f"Copy {number} can not be made in its place: the {what} wanted near {said_at(at)}: {why}. Choose "
        "exact copies, or leave this copy out.",
        field="seeds",
    )
