"""The ledger: all tagged dimensions of a part, evaluated in the order in which they need each other."""

from __future__ import annotations

import re
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from functools import lru_cache
from graphlib import CycleError, TopologicalSorter

from ..errors import FormulaError
from .formula import parse
from .units import UNIT_NAMES, Kind, Quantity, Units, in_kind, plain

__all__ = ["Definition", "Outcome", "evaluate_ledger", "plain_number", "plain_value", "usable_tag"]

_TAG = re.compile(r"[a-z][a-z0-9]*(_[a-z0-9]+)*")
_RESERVED = {"pi", "and", "or", "not", "if", *UNIT_NAMES}


@dataclass(frozen=True, slots=True)
class Definition:
    """One row before evaluation: a tag, its formula and the kind of quantity its place wants."""

    tag: str
    formula: str
    kind: Kind = Kind.ANY


@dataclass(frozen=True, slots=True)
class Outcome:
    """One row after evaluation: a value, or the error that says why there is none."""

    value: Quantity | None
    error: FormulaError | None
    uses: frozenset[str]


def usable_tag(tag: str, taken: Iterable[str] = ()) -> None:
    """Raise FormulaError when a tag is not lower-case words with underscores, reserved or already taken."""
    if not _TAG.fullmatch(tag):
        raise FormulaError(
            f"“{tag}” can not be a tag: write lower-case words with underscores, for example seat_depth.",
            field="tag",
        )
    if tag in _RESERVED:
        raise FormulaError(
            f"“{tag}” is a unit or a word of formulas already; choose a longer tag.", field="tag"
        )
    if tag in set(taken):
        raise FormulaError(f"There is a tag “{tag}” already; choose another.", field="tag")


def evaluate_ledger(
    rows: Iterable[Definition], units: Units, measures: Mapping[str, Quantity] | None = None
) -> dict[str, Outcome]:
    """Evaluate every row; a row that fails, and every row that uses it, carries the reason.

    measures : quantities that formulas may use besides tags, by name.
    """
    definitions = {row.tag: row for row in rows}
    uses: dict[str, frozenset[str]] = {}
    done: dict[str, Outcome] = {}
    for tag, row in definitions.items():
        try:
            uses[tag] = parse(row.formula).tags
            if not uses[tag]:
                done[tag] = _literal(row.formula, row.kind, units)
        except FormulaError as error:
            uses[tag], done[tag] = frozenset(), Outcome(None, error.located(field=tag), frozenset())
    for tag, members in _cycles(uses).items():
        path = " → ".join([*members, members[0]])
        done[tag] = Outcome(
            None,
            FormulaError(
                f"These need each other in a circle: {path}. Give one of them a value of its own.", field=tag
            ),
            uses[tag],
        )
    open_ = definitions.keys() - done.keys()
    known = {t: sorted(u & open_) for t, u in uses.items() if t not in done}
    values: dict[str, Quantity] = {
        **(measures or {}),
        **{t: o.value for t, o in done.items() if o.value is not None},
    }
    for tag in TopologicalSorter(known).static_order():
        done[tag] = _row(definitions[tag], uses[tag], values, done, units)
        if done[tag].value is not None:
            values[tag] = done[tag].value
    return {tag: done[tag] for tag in definitions}


def _row(
    row: Definition,
    uses: frozenset[str],
    values: Mapping[str, Quantity],
    done: Mapping[str, Outcome],
    units: Units,
) -> Outcome:
    broken = sorted(u for u in uses if u in done and done[u].value is None)
    if broken:
        return Outcome(
            None, FormulaError(f"“{broken[0]}”, which this uses, has no value.", field=row.tag), uses
        )
    try:
        value = (
            in_kind(parse(row.formula).value(values), row.kind, units)
            if uses
            else plain_value(row.formula, row.kind, units)
        )
        return Outcome(value, None, uses)
    except FormulaError as error:
        return Outcome(None, error.located(field=row.tag), uses)


@lru_cache(maxsize=8192)
def _literal(formula: str, kind: Kind, units: Units) -> Outcome:
    return Outcome(plain_value(formula, kind, units), None, frozenset())


@lru_cache(maxsize=8192)
def plain_value(formula: str, kind: Kind, units: Units) -> Quantity:
    """Return the value of a formula that uses no tags; raises FormulaError."""
    return in_kind(parse(formula).value({}), kind, units)


@lru_cache(maxsize=8192)
def plain_number(formula: str, kind: Kind, units: Units) -> float:
    """Return the same as a bare number, mm or rad."""
    return plain(plain_value(formula, kind, units), kind)


def _cycles(uses: Mapping[str, frozenset[str]]) -> dict[str, list[str]]:
    """Return for every tag on a circle the members of one circle it is on."""
    found: dict[str, list[str]] = {}
    graph = {t: sorted(u & uses.keys()) for t, u in uses.items()}
    while True:
        try:
            TopologicalSorter(graph).prepare()
            return found
        except CycleError as error:
            members = list(reversed(error.args[1][:-1]))
            for tag in members:
                found[tag] = members
                del graph[tag]
            graph = {t: [x for x in u if x in graph] for t, u in graph.items()}
