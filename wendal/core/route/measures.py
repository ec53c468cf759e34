"""What steps have come to, for use in formulas: `base.volume`, `base.area`, `outline.area`.

A measure is known once its step is built, so only later steps may use it; that also keeps circles out.
"""

from __future__ import annotations

from collections.abc import Iterable, Set
from functools import lru_cache
from typing import Any

from .. import kernel
from ..errors import CommandRefused, FormulaError
from ..quantity import Quantity, parse, rename_tag
from ..quantity.units import quantity
from ..steps import Site, Step, numbers_of
from .document import Part
from .gauging import worth_of

__all__ = [
    "guesses",
    "known_before",
    "measures_of",
    "names_of",
    "no_other_meaning",
    "renamed_measures",
    "used_measures",
]

_UNITS = {"volume": 3, "area": 2}
_OF = {"body": ("volume", "area"), "sketch": ("area",)}


@lru_cache(maxsize=2048)
def _slug(name: str) -> str:
    return (
        "_".join("".join(c if c.isascii() and c.isalnum() else " " for c in name.lower()).split()) or "step"
    )


def _listed(held: Any) -> list[Any]:
    return held if isinstance(held, list) else [held] if held else []


@lru_cache(maxsize=64)
def _guess(power: int) -> Quantity:
    return _mm(1000.0, power)


def _mm(value: float, power: int) -> Quantity:
    return value * quantity(1, "mm") ** power


def guesses(part: Part) -> dict[str, Quantity]:
    """Return every measure there is with a stand-in value of the right kind, for checking formulas before
    anything is built."""
    found: dict[str, Quantity] = {}
    for step in part.steps:
        for measure in _OF.get(step.makes, ()):
            found.setdefault(f"{_slug(step.name)}.{measure}", _guess(_UNITS[measure]))
    return found | {k.tag: worth_of(k.worth, k.unit) for k in part.kept}


def measures_of(step: Step, site: Site) -> dict[str, Quantity]:
    """Return the measures of a step that has been built; a building step measures the body it made or
    changed."""
    if step.makes == "sketch" and step.id in site.sketches:
        return {f"{_slug(step.name)}.area": _mm(sum(r.area for r in site.sketches[step.id].regions), 2)}
    named = [ref.body for field in ("bodies", "body") for ref in _listed(getattr(step, field, None))]
    body = site.bodies.get(step.id) or next((site.bodies[b] for b in named if b in site.bodies), None)
    if body is None and len(site.bodies) == 1:
        (body,) = site.bodies.values()
    if step.makes != "body" or body is None:
        return {}
    mass = kernel.mass_of(body.shape)
    return {f"{_slug(step.name)}.volume": _mm(mass.volume, 3), f"{_slug(step.name)}.area": _mm(mass.area, 2)}


def measures_in(formulas: Iterable[str], kept: Set[str] = frozenset()) -> set[str]:
    """Return the measures that formulas use, kept ones by their tags; one that cannot be read uses none."""
    found: set[str] = set()
    for formula in formulas:
        if "." in formula or any(tag in formula for tag in kept):
            try:
                found |= {tag for tag in parse(formula).tags if "." in tag or tag in kept}
            except FormulaError:
                continue
    return found


def used_measures(part: Part) -> set[str]:
    """Return the measures that any formula of a part uses."""
    own = (v.formula for s in part.steps for _, v, _ in numbers_of(s))
    return measures_in([*own, *(e.formula for e in part.ledger)], {k.tag for k in part.kept})


def names_of(step: Step) -> set[str]:
    """Return what the measures of a step are called in formulas."""
    return {f"{_slug(step.name)}.{measure}" for measure in _OF.get(step.makes, ())}


def renamed_measures(part: Part, before: Step, after: Step) -> Part:
    """Return a part in whose formulas the measures of a renamed step go by its new name."""
    for old in names_of(before) & used_measures(part):
        if sum(old in names_of(s) for s in part.steps if s.id != before.id):
            continue  # another step is meant by it as well; no_other_meaning has the word then
        new = f"{_slug(after.name)}.{old.split('.')[1]}"
        if new != old:
            part = _with_formulas(part, old, new)
    return part


def _with_formulas(part: Part, old: str, new: str) -> Part:
    steps = []
    for step in part.steps:
        for place, value, _ in numbers_of(step):
            if old in value.formula:
                formula = rename_tag(value.formula, old, new)
                step = step.with_value(place, value.model_copy(update={"formula": formula}))
        steps.append(step)
    ledger = [e.model_copy(update={"formula": rename_tag(e.formula, old, new)}) for e in part.ledger]
    return part.model_copy(update={"steps": steps, "ledger": ledger})


def no_other_meaning(before: Part, after: Part) -> None:
    """Raise CommandRefused where a measure that formulas use would be that of several steps."""
    for measure in sorted(used_measures(after)):
        owners = [s for s in after.steps if measure in names_of(s)]
        if len(owners) > 1 and len(owners) > sum(measure in names_of(s) for s in before.steps):
            new = next((s for s in owners[::-1] if s not in before.steps), owners[-1])
            other = next(s for s in owners if s is not new)
            raise CommandRefused(
                f"Formulas use {measure}, which is that of “{other.name}”; with the name “{new.name}” it "
                "could be "
                "either. Choose another name.",
                field="name",
                step=new.id,
            )


def known_before(part: Part) -> None:
    """Raise FormulaError when a step uses, straight or through tags, a measure that is known only after
    it."""
    if not used_measures(part):
        return
    place: dict[str, int] = {}
    for i, step in enumerate(part.steps):
        place.setdefault(_slug(step.name), i)
    at = {s.id: i for i, s in enumerate(part.steps)}
    kept = {k.tag: at.get(k.after, len(part.steps)) for k in part.kept}
    formulas = {r.tag: r.formula for r in part.rows()}

    def reached(formula: str, seen: set[str]) -> set[str]:
        try:
            tags = parse(formula).tags
        except FormulaError:
            return set()
        found = {t for t in tags if "." in t or t in kept}
        for tag in tags - seen:
            if tag in formulas:
                found |= reached(formulas[tag], seen | tags)
        return found

    for i, step in enumerate(part.steps):
        for field, value, _ in numbers_of(step):
            for name in sorted(reached(value.formula, set())):
                other = kept[name] if name in kept else place.get(name.split(".")[0])
                if other is not None and other >= i:
                    raise FormulaError(_known_later(part, name, other, step), field=field, step=step.id)


def _known_later(part: Part, name: str, other: int, step: Step) -> str:
    """Say that a measure is known only behind a step that uses it."""
    if "." in name:
        where = "before it" if part.step(step.id) is not part.steps[other] else "to it by this very number"
        built = part.steps[other].name
        return f"“{name}” is known only when {built} is built, and {step.name} comes {where}."
    where = f"after {part.steps[other].name}" if other < len(part.steps) else "at the end of the route"
    return (
        f"“{name}” is measured {where}, and {step.name} comes before that. Measure it further up, or use it "
        "further down."
    )
