"""Copies of what a step did: their names, exact or made anew, and whether all of them show."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from typing import Any

from .. import kernel
from ..errors import StepError
from ..kernel.types import Placement
from ..reference import FaceName
from .base import Effect, Made, Seed, Site

__all__ = ["begin_bodies", "check_all_there", "copies_of", "copy_namer", "still"]


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
        which = f"Copy {missing[0]} changes" if len(missing) == 1 else f"Copies {', '.join(missing)} change"
        raise StepError(
            f"{which} nothing there: no body is met, or another copy covers it. Leave it out by its dot, or "
            "change the distances.",
            field="skipped",
        )
