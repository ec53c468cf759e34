"""What patterns and mirrors share: making what earlier steps did, or whole bodies, again under placements."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, replace
from types import SimpleNamespace
from typing import Any, Literal

from .. import kernel
from ..datum import Picked
from ..errors import StepError
from ..kernel.types import Placement
from ..tolerance import NO_VOLUME, ROUNDED_VOLUME
from .applying import applied
from .base import Body, Effect, Made, Seed, Site
from .copying import begin_bodies, check_all_there, check_hopeful, copies_of, copy_namer, still
from .given import Given
from .group_anew import group_anew

__all__ = ["RepeatGiven", "repeated"]


@dataclass(slots=True, kw_only=True)
class RepeatGiven(Given):
    """What patterns and mirrors are given at least: what is to be repeated."""

    seeds: list[Seed | Body | Picked]


def repeated(
    step: Any,
    given: RepeatGiven | SimpleNamespace,
    site: Site,
    placements: dict[str, Placement],
    anew: bool,
    joined: bool,
) -> Made:
    """Make seeds again under placements by number, all copies of one effect in one operation.

    given.seeds : steps (Seed), bodies, and faces of a pocket or boss. anew : steps are evaluated again in
    their places, else their solids are copied exactly. joined : copies of bodies are added to the body they
    are of, else each is a body of its own. Raises StepError that names the copy that can not be made.
    """
    effects: list[Effect] = []
    faces = [s for s in given.seeds if isinstance(s, Picked)]
    if faces:
        effects += _of_faces(step, faces, site, placements)
    own = steps = [s for s in given.seeds if isinstance(s, Seed)]
    if anew and any(s.changes for s in own):
        return _made_anew(step, given, own, site, placements)
    if any(s.changes for s in steps):
        effects += _of_group(step, _ordered(steps, site), site, placements)
        steps = []
    for seed in (s for s in given.seeds if not isinstance(s, Picked)):
        if not isinstance(seed, Seed):
            effects += _of_body(step, seed, placements, joined)
        elif seed in steps:
            effects += copies_of(step, seed, site, placements, anew, begin_bodies(own))
    if not effects:
        raise StepError("There is nothing to repeat here.", field="seeds")
    check_hopeful(step, effects, site)
    made = applied(step.id, effects, site)
    check_all_there(step, made, effects, placements)
    return _threaded(made, own, placements)


def _threaded(made: Made, seeds: list[Seed], placements: dict[str, Placement]) -> Made:
    """Carry the threads of seeds along."""
    made.threads = [
        (frame.moved(p), radius)
        for p in placements.values()
        for seed in seeds
        for frame, radius in seed.threads
    ]
    if made.threads and any(p.mirrors for p in placements.values()):
        made.note = " ".join(filter(None, (made.note, "Mirrored threads keep their hand.")))
    return made


def _made_anew(
    step: Any,
    given: RepeatGiven | SimpleNamespace,
    steps: list[Seed],
    site: Site,
    placements: dict[str, Placement],
) -> Made:
    """Make a group with steps that change bodies as they stand anew, where nothing else is to be repeated and
    all of it can be."""
    fixed = next((s for s in steps if s.changes and not s.made_by.placeless), None)
    if fixed is not None:
        raise StepError(
            "One of these steps stands on more than the edges and faces it changes, such as a plane or a "
            "direction, so it is not made anew. "
            "Choose exact copies.",
            field="copying",
        )
    if len(steps) < len(given.seeds):
        raise StepError(
            "Bodies and faces are copied exactly. Take them out, or choose exact copies.", field="copying"
        )
    return _threaded(group_anew(step, _ordered(steps, site), site, placements), steps, placements)


def _ordered(steps: list[Seed], site: Site) -> list[Seed]:
    return sorted(steps, key=lambda s: list(site.seeds).index(s.step))


def _of_group(step: Any, seeds: list[Seed], site: Site, placements: dict[str, Placement]) -> Iterable[Effect]:
    """Copy what steps did together, among them some that change bodies as they stand: what each adds and
    takes away, in their order.

    A fillet taken off a boss is taken off the solid that is copied, so that the copy is one solid with its
    fillet.
    """
    done: list[Effect] = []
    for effect in _in_order(seeds):
        last = done[-1] if done else None
        own = next((i for i, e in enumerate(done) if e.how == "new" and effect.bodies == (e.label,)), None)
        if own is not None:  # done to a body that the group itself begins
            done[own] = replace(done[own], tools=_after(done[own].tools, effect))
        elif (
            effect.how == "cut"
            and last
            and last.how in ("add", "new")
            and (rest := _taken_off(last.tools, effect.tools))
        ):
            done[-1] = replace(last, tools=[rest])
        elif effect.how == "add" and last and last.how == "add" and last.bodies == effect.bodies:
            done[-1] = replace(last, tools=[kernel.fuse([*last.tools, *effect.tools])])
        else:
            done.append(effect)
    for i, effect in enumerate(done):
        copies = {
            n: [kernel.placed(t, p, copy_namer(step.id, n)) for t in effect.tools]
            for n, p in placements.items()
        }
        if effect.how == "new":
            yield from (
                Effect("new", tools, None, n if len(done) == 1 else f"{n}_{i + 1}")
                for n, tools in copies.items()
            )
        else:
            yield Effect(
                effect.how, [t for tools in copies.values() for t in tools], still(effect.bodies, site)
            )


def _in_order(seeds: list[Seed]) -> Iterable[Effect]:
    """Yield what steps did one after the other; of a change, the solids that it adds and those that it takes
    away."""
    for seed in seeds:
        yield from (replace(e, label=seed.step) if e.how == "new" else e for e in seed.effects)
        for body, before, after in seed.changes:
            for how, solids in _differences(before, after):
                if solids:
                    yield Effect(how, solids, (body,))


def _differences(
    before: kernel.NamedShape, after: kernel.NamedShape
) -> Iterable[tuple[Literal["add", "cut"], list[kernel.NamedShape]]]:
    """Yield the solids that a change adds and those that it takes away; where one of them tells all of the
    change, the other is not looked for."""
    sizes = kernel.volume_of(before), kernel.volume_of(after)
    pairs: list[tuple[Literal["add", "cut"], kernel.NamedShape, kernel.NamedShape]] = [
        ("add", after, before),
        ("cut", before, after),
    ]
    if sizes[1] < sizes[0]:
        pairs.reverse()
    found: dict[Literal["add", "cut"], list[kernel.NamedShape]] = {"add": [], "cut": []}
    for how, one, other in pairs:
        found[how] = kernel.pieces_of(kernel.cut(one, [other], merge=False))
        if abs(sum(map(kernel.volume_of, found[how])) - abs(sizes[1] - sizes[0])) < NO_VOLUME * sizes[0]:
            break  # the volumes say that there is no other part
    yield from found.items()


def _after(solids: list[kernel.NamedShape], effect: Effect) -> list[kernel.NamedShape]:
    """Return solids after what is added to them, cut from them or kept in common."""
    if effect.how == "add":
        return [kernel.fuse([*solids, *effect.tools])]
    whole = kernel.fuse(solids)
    return [
        kernel.cut(whole, effect.tools)
        if effect.how == "cut"
        else kernel.common(whole, [kernel.fuse(effect.tools)])
    ]


def _taken_off(solids: list[kernel.NamedShape], tools: list[kernel.NamedShape]) -> kernel.NamedShape | None:
    """Return solids less what is cut from them; None where that reaches beyond them, so that it cuts
    something else, too."""
    whole = kernel.fuse(solids)
    rest = kernel.cut(whole, tools)
    size = sum(map(kernel.volume_of, tools))
    over = abs(kernel.volume_of(whole) - kernel.volume_of(rest) - size)
    if (
        NO_VOLUME * size <= over < ROUNDED_VOLUME * size
    ):  # the kernel's integrals are no closer: the solids themselves are asked
        over = sum(kernel.volume_of(kernel.cut(t, [whole], merge=False)) for t in tools)
    return rest if over < NO_VOLUME * size else None


def _of_body(step: Any, body: Body, placements: dict[str, Placement], joined: bool) -> Iterable[Effect]:
    copies = {n: kernel.placed(body.shape, p, copy_namer(step.id, n)) for n, p in placements.items()}
    if joined:
        return [Effect("add", list(copies.values()), (body.id,))]
    return [Effect("new", [shape], None, n) for n, shape in copies.items()]


def _of_faces(
    step: Any, faces: list[Picked], site: Site, placements: dict[str, Placement]
) -> Iterable[Effect]:
    """Copy the pocket or boss that some faces of a body make; each body for itself."""
    for b, body in site.bodies.items():
        own = [f.solid[1] for f in faces if f.solid and f.solid[0] is body.shape]
        if own:
            boss, solid = kernel.feature_of(body.shape, own, step.id)
            yield Effect(
                "add" if boss else "cut",
                [kernel.placed(solid, p, copy_namer(step.id, n)) for n, p in placements.items()],
                (b,),
            )
