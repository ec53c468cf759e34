"""What a changed part must not bring with it, and what edits need to know of the part around them."""

from __future__ import annotations

import math
from collections.abc import Collection, Mapping
from functools import cache
from types import MappingProxyType

from annotated_types import MaxLen
from pydantic import BaseModel

from ..blanks import Number
from ..errors import CommandRefused, FormulaError, StepError
from ..once import Once
from ..quantity import (
    Kind,
    Outcome,
    Quantity,
    format_quantity,
    in_kind,
    parse,
    plain_number,
    plain_value,
    usable_tag,
)
from ..quantity.units import plain, quantity
from ..sketch import PartFigures
from ..steps import Step, numbers_of
from ..tolerance import SAME_NUMBER
from .document import Part, Remark
from .measures import guesses, known_before

__all__ = [
    "check_complete",
    "figures_of",
    "free_name",
    "free_tag",
    "limit_of",
    "no_longer_than_kept",
    "no_new_trouble",
    "outside",
    "scope_of",
]


def scope_of(part: Part) -> dict[str, Quantity]:
    """Return what formulas of a part may use: tags with a value, and stand-ins for the measures of its
    steps."""
    return {**guesses(part), **{t: o.value for t, o in _guessed(part).items() if o.value is not None}}


def _evaluated(part: Part) -> dict[str, Outcome]:
    return part.evaluated(guesses(part))


_guessed: Once[Part, dict[str, Outcome]] = Once(_evaluated, 8)  # the ledger with stand-ins for the measures


@cache
def _most(kind: type[BaseModel]) -> dict[str, int]:
    """Return how many things each list or table of a model may hold."""
    return {
        name: limit.max_length
        for name, field in kind.model_fields.items()
        for limit in field.metadata
        if isinstance(limit, MaxLen)
    }


def no_longer_than_kept(part: Part) -> None:
    """Raise CommandRefused where a list has more than a part may hold: it could not be read again."""
    for whose, held in (("A part", part), *((f"The page {p.name}", p) for p in part.pages)):
        for name, most in _most(type(held)).items():
            value = getattr(held, name)
            if not isinstance(value, str) and len(value) > most:
                raise CommandRefused(f"{whose} has at most {most} {name}.", field=name)


def no_new_trouble(before: Part, after: Part) -> None:
    """Raise the first formula error that a command would bring into the part."""
    had = {tag for tag, o in _guessed(before).items() if o.error}
    outcomes = _guessed(after)
    broken = [row for row in after.rows() if outcomes[row.tag].error and row.tag not in had]
    if broken:  # the one that is wrong itself before those that only use it
        row = min(broken, key=lambda r: any(outcomes[u].error for u in outcomes[r.tag].uses if u in outcomes))
        error = outcomes[row.tag].error
        assert error is not None
        raise FormulaError(error.message, field=row.place or row.tag, step=row.step, at=error.at)
    scope = scope_of(after)
    known_before(after)
    if after.remarks:
        _within_limits(before, after, scope)
    earlier = {s.id: s for s in before.steps}
    for step in after.steps:
        known = earlier.get(step.id)
        if known is step or known == step:
            continue
        before_it = {place: value.formula for place, value, _ in numbers_of(known)} if known else {}
        for place, value, kind in numbers_of(step):
            if before_it.get(place) == value.formula:
                continue  # whatever is wrong with it, this change did not bring
            try:
                if parse(value.formula).tags:
                    in_kind(parse(value.formula).value(scope), kind, after.units.units())
                else:
                    plain_value(value.formula, kind, after.units.units())
            except FormulaError as error:
                raise error.located(field=place, step=step.id) from error


def _within_limits(before: Part, after: Part, scope: dict[str, Quantity]) -> None:
    """Raise FormulaError when a tag goes, or stays, outside what its remark allows, unless nothing about it
    has changed."""
    old, kept = scope_of(before), {k.tag for k in after.kept}
    for tag, remark in after.remarks.items():
        value = scope.get(tag)
        if tag in kept:
            continue  # what it comes to is known once the part is built, and told then
        if value is None or (before.remarks.get(tag) == remark and old.get(tag) == value):
            continue
        if fault := outside(after, tag, value, scope):
            raise FormulaError(fault, field=tag)


def outside(part: Part, tag: str, value: Quantity, scope: dict[str, Quantity]) -> str:
    """Say that a value is not what its remark allows, or that this can not be told any more; "" where it is
    allowed, or there is no remark."""
    remark = part.remarks.get(tag)
    if remark is None:
        return ""
    try:
        return _outside(part, remark, tag, value, scope)
    except FormulaError as error:
        return f"What “{tag}” may be can not be told: {error.message}"


def _outside(part: Part, remark: Remark, tag: str, value: Quantity, scope: dict[str, Quantity]) -> str:
    say = format_quantity(value, part.units.units())
    if remark.least and value < limit_of(remark.least, value, part, scope):
        return f"“{tag}” comes to {say}; it may be no less than {remark.least}."
    if remark.most and value > limit_of(remark.most, value, part, scope):
        return f"“{tag}” comes to {say}; it may be no more than {remark.most}."
    if remark.values and not any(
        abs((value - limit_of(v, value, part, scope)).magnitude) < SAME_NUMBER for v in remark.values
    ):
        return f"“{tag}” comes to {say}; it may be {', '.join(remark.values)}."
    return ""


def limit_of(formula: str, like: Quantity, part: Part, scope: dict[str, Quantity]) -> Quantity:
    """Evaluate a limit for a quantity; a bare number takes the part's unit where the quantity has one."""
    found = parse(formula).value(scope)
    if found.dimensionless and not like.dimensionless:
        for power in (2, 3):  # areas and volumes
            if like.check(f"[length] ** {power}"):
                return found.magnitude * quantity(1, part.units.length) ** power
        return in_kind(found, Kind.LENGTH if like.check("[length]") else Kind.ANGLE, part.units.units())
    if not found.is_compatible_with(like):
        raise FormulaError(f"{formula} is not of the kind of {format_quantity(like, part.units.units())}.")
    return found


def check_complete(step: Step, part: Part) -> None:
    missing = step.missing()
    if missing:
        raise StepError(f"{step.title} {step.name} still needs {' and '.join(missing)}.", step=step.id)
    figures = figures_of(part)
    for name, blank in step.blanks().items():
        if isinstance(blank, Number) and (blank.above, blank.most) != (None, None):
            value = getattr(step, name)
            try:
                figure = figures.number(value.formula, blank.quantity)
            except FormulaError as error:
                raise error.located(field=name, step=step.id) from error
            if fault := blank.fault(figure):
                raise StepError(f"{fault}; {value.formula} is not.", field=name, step=step.id)


def free_tag(words: str, taken: set[str]) -> str:
    base = (
        "_".join("".join(c if c.isascii() and c.isalnum() else " " for c in words.lower()).split()) or "size"
    )
    base = base if base[0].isalpha() else f"size_{base}"
    endings = ["", "_second", "_third", "_fourth", "_fifth", "_sixth", "_seventh", "_eighth", "_ninth"]
    more = (f"_further{'_on' * n}" for n in range(1000))
    for ending in (*endings, *more):
        try:
            usable_tag(base + ending, taken)
        except FormulaError:
            continue
        return base + ending
    raise CommandRefused(f"No tag is left that begins with “{base}”.")  # pragma: no cover


def free_name(name: str, taken: Collection[str]) -> str:
    """Return a name that nothing has yet: itself, or with a number behind it."""
    found, number = name, 2
    while found in taken:
        found, number = f"{name} {number}", number + 1
    return found


def figures_of(part: Part, name: str = "") -> PartFigures:
    """Return what sketch edits and checks need of the part: formulas, tags and units."""
    units = part.units.units()
    scope = scope_of(part)
    taken = set(part.tags())

    def number(
        formula: str, kind: str, fresh: Mapping[str, tuple[float, str]] = MappingProxyType({})
    ) -> float:
        read = parse(formula)
        if not read.tags:
            return plain_number(formula, Kind(kind), units)
        more = {
            tag: quantity(v, "mm" if k == Kind.LENGTH else "rad")
            for tag, (v, k) in fresh.items()
            if tag not in scope
        }
        return plain(in_kind(read.value({**scope, **more} if more else scope), Kind(kind), units), Kind(kind))

    def new_tag(words: str) -> str:
        tag = free_tag(f"{name} {words}", taken)
        taken.add(tag)
        return tag

    def show(value: float, kind: str) -> str:
        shown = quantity(value, "mm").to("inch") if units.length == "in" else quantity(value, "mm")
        if kind == "angle":
            return f"{math.degrees(value):.1f}".removesuffix(".0") + " deg"
        digits = 3 if units.length == "in" else 2
        return format_quantity(quantity(round(shown.magnitude, digits), units.length), units)

    return PartFigures(number, new_tag, show)
