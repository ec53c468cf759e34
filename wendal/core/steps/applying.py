"""Doing to bodies what steps ask for: the one place that adds, cuts and keeps common, checks the result, and
shows it beforehand."""

from __future__ import annotations

from collections.abc import Iterable
from typing import TYPE_CHECKING

from .. import kernel
from ..errors import StepError
from ..tally import fell_back
from ..tolerance import NO_VOLUME, ROUNDED_VOLUME
from .base import Effect, Made, Site

__all__ = ["applied", "shown"]

if TYPE_CHECKING:
    Shapes = dict[str, kernel.NamedShape | None]


def applied(step: str, effects: list[Effect], site: Site) -> Made:
    """Return what a step's effects make of the bodies; raises StepError in words where one does nothing, or
    breaks a body."""
    now: Shapes = {b: body.shape for b, body in site.bodies.items()}
    names = {b: body.name for b, body in site.bodies.items()}
    changed: Shapes = {}
    notes: list[str] = []
    taken: dict[str, str] = {}
    for effect in effects:
        if effect.how == "new":
            made = _new(effect.tools)
            done: Shapes = {f"{step}.{effect.label}" if effect.label else step: made}
        else:
            bodies = _bodies(effect, now, names)
            done = {"add": _added, "cut": _cut, "common": _common}[effect.how](
                bodies, effect.tools, names, notes
            )
        left = [b for b, shape in done.items() if shape is not None]
        taken |= {b: left[0] for b, shape in done.items() if shape is None}
        changed |= done
        now |= done
    return Made(shapes=changed, effects=effects, taken=taken, note=" ".join(dict.fromkeys(notes)))


def _new(tools: list[kernel.NamedShape]) -> kernel.NamedShape:
    if not all(map(kernel.is_sheet, tools)):
        made = kernel.fuse(tools)
        kernel.check_solid(made)
        return made
    made = tools[0] if len(tools) == 1 else kernel.together(tools)
    kernel.check_sheet(made)
    return made


def _bodies(effect: Effect, now: Shapes, names: dict[str, str]) -> dict[str, kernel.NamedShape]:
    """Return the bodies that an effect is for: those asked for, else all that its solids touch."""
    standing = {b: shape for b, shape in now.items() if shape is not None}
    if effect.bodies is not None:
        gone = [b for b in effect.bodies if b not in standing]
        if gone:
            called = names.get(gone[0], "A body")
            raise StepError(
                f"{called} is not there any more at this place of the route. Pick another body.",
                field="bodies",
            )
        sheet = next((b for b in effect.bodies if kernel.is_sheet(standing[b])), None)
        if sheet is not None:
            raise StepError(
                f"{names.get(sheet, 'A body')} is a sheet: nothing can be added to it or cut from it. "
                "Thicken it first.",
                field="bodies",
            )
        return {b: standing[b] for b in effect.bodies}
    found = {
        b: shape
        for b, shape in standing.items()
        if not kernel.is_sheet(shape) and kernel.touching(shape, effect.tools)
    }
    if not found:
        verb = {"add": "added to", "cut": "cut", "common": "kept"}[effect.how]
        raise StepError(
            f"This touches no body, so nothing can be {verb}. Turn the direction, change the depth, or make "
            "a new body."
        )
    return found


def _added(
    bodies: dict[str, kernel.NamedShape],
    tools: list[kernel.NamedShape],
    names: dict[str, str],
    notes: list[str],
) -> Shapes:
    first, *others = bodies
    made = kernel.fuse([*bodies.values(), *tools])
    kernel.check_solid(made)
    had = sum(kernel.lumps(b) for b in bodies.values())
    if kernel.lumps(made) > max(1, had - len(others)):
        far = next((b for b in others if not kernel.touching(bodies[b], tools)), first)
        raise StepError(
            f"This would not touch {names.get(far, far)}, so it can not be added to it. Move it, or make a "
            "new body."
        )
    before = sum(kernel.volume_of(b) for b in bodies.values())
    if kernel.volume_of(made) - before < NO_VOLUME * before and not others:
        raise StepError(
            f"This adds nothing: it lies wholly inside {names.get(first, first)}. Turn the direction, or "
            "change the depth."
        )
    if others:
        notes.append(f"Joins {', '.join(names.get(b, b) for b in others)} to {names.get(first, first)}.")
    return {first: made, **dict.fromkeys(others)}


def _cut(
    bodies: dict[str, kernel.NamedShape],
    tools: list[kernel.NamedShape],
    names: dict[str, str],
    notes: list[str],
) -> Shapes:
    done: Shapes = {}
    for b, shape in bodies.items():
        made = kernel.cut(shape, tools)
        if not kernel.lumps(made):
            raise StepError(f"This cuts all of {names.get(b, b)} away. Make it smaller, or delete the body.")
        kernel.check_solid(made)
        before = kernel.volume_of(shape)
        if before - kernel.volume_of(made) < NO_VOLUME * before:
            continue
        done[b] = made
        if kernel.lumps(made) > kernel.lumps(shape):
            notes.append(f"{names.get(b, b)} is in {kernel.lumps(made)} separate pieces after this.")
    if not done:
        missed = ", ".join(names.get(b, b) for b in bodies)
        raise StepError(f"This cuts nothing: it misses {missed}. Turn the direction, or change the depth.")
    return done


def _common(
    bodies: dict[str, kernel.NamedShape],
    tools: list[kernel.NamedShape],
    names: dict[str, str],
    notes: list[str],
) -> Shapes:
    done: Shapes = {}
    for b, shape in bodies.items():
        made = kernel.common(shape, [kernel.fuse(tools)])
        if not kernel.lumps(made):
            raise StepError(
                f"This has nothing in common with {names.get(b, b)}. Move it, or change the depth."
            )
        kernel.check_solid(made)
        if kernel.lumps(made) > kernel.lumps(shape):
            notes.append(f"{names.get(b, b)} is in {kernel.lumps(made)} separate pieces after this.")
        done[b] = made
    return done


def shown(made: Made, before: Site) -> tuple[kernel.NamedShape | None, kernel.NamedShape | None]:
    """Return the material that a step adds and takes away, for its preview; nothing is built a second time.

    It is what the volumes of the bodies before and after say, else it is taken from these bodies.
    """
    was = {b: body.shape for b, body in before.bodies.items()}
    after = {b: shape for b, shape in made.shapes.items() if shape is not None}
    gone = [was[b] for b in made.shapes if b in was]
    if made.effects:
        added, removed = _of_tools(made, was)
        grown = sum(map(kernel.volume_of, after.values())) - sum(map(kernel.volume_of, gone))
        told = sum(kernel.volume_of(x) * way for x, way in ((added, 1), (removed, -1)) if x is not None)
        size = max((kernel.volume_of(x) for x in (added, removed) if x is not None), default=0.0)
        if abs(told - grown) <= ROUNDED_VOLUME * size:
            return added, removed
        fell_back("showing what a step does", "tools overlap")  # each counts for itself in what they show
    return _less(list(after.values()), gone), _less(gone, list(after.values()))


def _of_tools(
    made: Made, was: dict[str, kernel.NamedShape]
) -> tuple[kernel.NamedShape | None, kernel.NamedShape | None]:
    added, removed = [], []
    for effect in made.effects:
        touched = [was[b] for b in made.shapes if b in was and (effect.bodies is None or b in effect.bodies)]
        if effect.how == "cut" and touched:
            removed.append(kernel.common(touched, effect.tools, merge=False))
        elif effect.how == "common" and touched:
            removed.append(kernel.cut(touched, effect.tools, merge=False))
        elif effect.how == "add" and touched:
            added.append(kernel.cut(effect.tools, touched, merge=False))
        else:
            added.append(_new(effect.tools))
    return _one(added), _one(removed)


def _less(shapes: list[kernel.NamedShape], others: list[kernel.NamedShape]) -> kernel.NamedShape | None:
    if not shapes:
        return None
    return kernel.cut(shapes, others, merge=False) if others else _one(shapes)


def _one(shapes: Iterable[kernel.NamedShape]) -> kernel.NamedShape | None:
    found = list(shapes)
    return None if not found else found[0] if len(found) == 1 else kernel.together(found)
