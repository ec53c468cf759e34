"""What has changed since a step was built last, in all that it hangs on, and how that is put back."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, field
from typing import Any

from ..errors import WendalError
from ..quantity import parse
from .depends import stands_on
from .differing import Change, StepChange, differences
from .document import Part, read_step
from .setting import with_values

__all__ = ["Since", "since"]

SOLVED = ("stance", "stances")  # of a step: told by an evaluation, and no choice


@dataclass(slots=True)
class Since:
    """What is another since then. words : all of it; values : the formulas of then, by tag; fields : of the
    step itself, as they were. whole : these alone bring all back that the step hangs on."""

    words: list[str] = field(default_factory=list)
    values: dict[str, str] = field(default_factory=dict)
    fields: dict[str, Any] = field(default_factory=dict)
    whole: bool = False


def since(was: Part, now: Part, step: str) -> Since:
    """Return what has changed of what a step hangs on, between a part in which it was built and today's."""
    hangs = _below(was, step) | _below(now, step)
    told = differences(was, now)
    tags = _tags(was, hangs) | _tags(now, hangs)
    found = Since()
    found.words += [w for c in told.steps if c.id in hangs for w in _said(c)]
    found.words += [_changed("", c) for c in told.ledger if c.tag in tags or c.field in tags]
    old = {r.tag: r for r in was.rows()}
    for row in now.rows():
        then = old.get(row.tag)
        if then and then.formula != row.formula and (row.step in hangs or row.tag in tags):
            found.values[row.tag] = then.formula
    before, after = (p.step(step).model_dump(mode="json") for p in (was, now))
    for name, value in before.items():
        if name in SOLVED or name == "drawing" or value == after.get(name):
            continue
        if not (isinstance(value, dict) and value.get("tag") in found.values):
            found.fields[name] = value
    found.whole = _brings_back(was, now, found, hangs, step)
    return found


def _below(part: Part, step: str) -> set[str]:
    """Return a step and all that it stands on, straight or through others."""
    known = {s.id: s for s in part.steps}
    found, todo = set[str](), [step]
    while todo:
        here = todo.pop()
        if here in known and here not in found:
            found.add(here)
            todo += stands_on(known[here])
    return found


def _tags(part: Part, steps: set[str]) -> set[str]:
    """Return the tags that the numbers of some steps hang on."""
    formulas = {r.tag: r.formula for r in part.rows()}
    todo = [r.formula for r in part.rows() if r.step in steps]
    found: set[str] = set()
    while todo:
        for tag in parse(todo.pop()).tags:
            if tag in formulas and tag not in found:
                found.add(tag)
                todo.append(formulas[tag])
    return found


def _said(change: StepChange) -> Iterator[str]:
    if change.was in ("added", "removed", "moved"):
        yield f"{change.name} was {change.was}"
    yield from (_changed(change.name, c) for c in change.fields)


def _changed(name: str, change: Change) -> str:
    what = change.tag or f"{name}: {change.field}".removeprefix(": ")
    return f"{what}: {change.before} → {change.after}"


def _brings_back(was: Part, now: Part, found: Since, hangs: set[str], step: str) -> bool:
    """Tell whether the values and fields of then make all that the step hangs on what it was."""
    if bool(found.values) == bool(found.fields):  # one edit does one of them
        return False
    try:
        if found.values:
            now = with_values(now, found.values)
        else:
            now = now.with_step(read_step(now.step(step).put(found.fields)))
    except WendalError:
        return False
    then, today = (
        {s.id: _bare(s.model_dump(mode="json")) for s in p.steps if s.id in hangs} for p in (was, now)
    )
    return list(then) == list(today) and then == today


def _bare(step: dict[str, Any]) -> dict[str, Any]:
    step = {k: v for k, v in step.items() if k not in SOLVED}
    if isinstance(step.get("drawing"), dict):
        step["drawing"] = {k: v for k, v in step["drawing"].items() if k != "points"}
    return step
