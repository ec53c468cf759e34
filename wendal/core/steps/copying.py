"""Copies of what a step did: their names, exact or made anew, and whether all of them show."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from typing import Any

import numpy as np
from numpy.typing import NDArray

from .. import kernel
from ..errors import StepError
from ..kernel.types import Placement
from ..reference import FaceName
from ..tolerance import MEETS
from .base import Effect, Made, Seed, Site

__all__ = ["begin_bodies", "check_all_there", "check_hopeful", "copies_of", "copy_namer", "still"]

TOLD = 5  # copies that are named in a sentence
MOST_OVERLAPS = 1500  # pairs of copies that share room; each costs the kernel some hundredths of a second


def copy_namer(step: str, number: str) -> Callable[[str], str]:
    """Return what turns a face's name into that of a copy."""
    return lambda name: str(FaceName.read(name).copied(step, number))


def copies_of(
    step: Any, seed: Seed, site: Site, placements: dict[str, Placement], anew: bool, several: bool
) -> Iterable[Effect]:
    """Yield what a step did, again under placements by number, each of its effects as one.

    several : others begin bodies beside it, so that its own are told apart by it. Raises StepError that names
    the copy that can not be made.
    """
    if anew:
        copies: dict[str, list[Effect]] = {}
        for number, placement in placements.items():
            try:
                copies[number] = seed.again(placement, site)
            except StepError as error:
                raise StepError(
                    f"Copy {number} can not be made in its place: {error.message}", field="seeds"
                ) from error
    else:
        copies = {
            n: [
                Effect(e.how, [kernel.placed(t, p) for t in e.tools], e.bodies, e.label) for e in seed.effects
            ]
            for n, p in placements.items()
        }
    for i, effect in enumerate(seed.effects):
        named = {
            n: [kernel.renamed(t, copy_namer(step.id, n)) for t in made[i].tools]
            for n, made in copies.items()
        }
        if effect.how == "new":
            ending = (f"_{seed.step}" if several else "") + (f"_{i + 1}" if len(seed.effects) > 1 else "")
            yield from (Effect("new", tools, None, n + ending) for n, tools in named.items())
        else:
            yield Effect(
                effect.how, [t for tools in named.values() for t in tools], still(effect.bodies, site)
            )


def begin_bodies(seeds: list[Seed]) -> bool:
    """Tell whether more than one of some steps begins bodies, so that these are told apart by their steps."""
    return sum(any(e.how == "new" for e in s.effects) for s in seeds) > 1


def still(bodies: tuple[str, ...] | None, site: Site) -> tuple[str, ...] | None:
    """Return the bodies that are named, each as it stands now, in the one that it was joined into.

    None for all that the copies touch, where none was named. Raises StepError where none is left.
    """
    if not bodies:
        return None
    left = dict.fromkeys(now for b in bodies if (now := site.now(b)))
    if not left:
        raise StepError(
            "The body that these steps work on is not there any more at this place of the route. "
            "Repeat them before it is used up, or pick others.",
            field="seeds",
        )
    return tuple(left)


def check_all_there(step: Any, made: Made, effects: list[Effect], placements: dict[str, Placement]) -> None:
    """Raise StepError for copies of which the bodies show nothing."""
    there = {n for shape in made.shapes.values() if shape is not None for names in shape.names for n in names}
    wanted: dict[str, set[str]] = {n: set() for n in placements}
    for effect in effects:
        for tool in effect.tools:
            for names in tool.names:
                for n in names:
                    copied = FaceName.read(n).instances
                    if copied and copied[-1][0] == step.id:
                        wanted[copied[-1][1]].add(n)
    missing = [n for n, names in wanted.items() if names and not names & there]
    if missing:
        raise StepError(
            f"{_said(missing)} nothing there: no body is met, or another copy covers it. Leave it out by its "
            "dot, or change the distances.",
            field="skipped",
        )


def _said(copies: list[str]) -> str:
    """Say which copies change: the first few by number."""
    if len(copies) == 1:
        return f"Copy {copies[0]} changes"
    named = ", ".join(copies[:TOLD])
    more = f" and {len(copies) - TOLD} more" if len(copies) > TOLD else ""
    return f"Copies {named}{more} change"


def check_hopeful(step: Any, effects: list[Effect], site: Site) -> None:
    """Raise StepError at once for copies that cannot come to anything, by their boxes: cuts that no body
    comes near, and so many overlaps that joining them would take minutes."""
    if all(e.how == "cut" for e in effects):
        missing = _far_from_all(step, effects, site)
        if missing:
            raise StepError(
                f"{_said(missing)} nothing there: no body comes near. Leave it out by its dot, or change the "
                "distances.",
                field="skipped",
            )
    boxes = [[t.anatomy.box for t in e.tools if t.names] for e in effects if e.how in ("add", "cut")]
    near = sum(_overlaps(np.array(own).reshape(-1, 6)) for own in boxes)
    if near > MOST_OVERLAPS:
        raise StepError(
            f"These copies overlap one another {near} times, which would take minutes to join. Choose fewer "
            "copies, or put them farther apart.",
            field="count" if hasattr(step, "count") else "",
        )


def _far_from_all(step: Any, effects: list[Effect], site: Site) -> list[str]:
    """Return the copies of which no tool comes near a body that it works on, by number."""
    there: dict[str, bool] = {}
    for effect in effects:
        bodies = [b for i, b in site.bodies.items() if effect.bodies is None or i in effect.bodies]
        theirs = np.array([b.shape.anatomy.box for b in bodies if b.shape.names]).reshape(-1, 6)
        for tool in effect.tools:
            copied = next(
                (c for names in tool.names for n in names if (c := FaceName.read(n).instances)), None
            )
            if copied and copied[-1][0] == step.id:
                number = copied[-1][1]
                there[number] = there.get(number, False) or _meets(theirs, tool.anatomy.box)
    return [n for n, met in there.items() if not met]


def _meets(boxes: NDArray[np.float64], box: NDArray[np.float64]) -> bool:
    near = np.all(boxes[:, :3] <= box[3:] + MEETS, 1) & np.all(boxes[:, 3:] >= box[:3] - MEETS, 1)
    return bool(near.any())


def _overlaps(boxes: NDArray[np.float64]) -> int:
    """Return how many pairs of boxes share room."""

    def after(i: int) -> int:
        rest, box = boxes[i + 1 :], boxes[i]
        return int(
            (np.all(rest[:, :3] < box[3:] - MEETS, 1) & np.all(rest[:, 3:] > box[:3] + MEETS, 1)).sum()
        )

    return sum(map(after, range(len(boxes))))
