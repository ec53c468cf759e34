"""What is different between two parts, or two versions of one, told step by step and field by field.

Solved places of sketches, and axes that an evaluation told, are no choices, so they are left out. Steps of
one origin are the same by their ids; those of two parts are matched by kind and name.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, field
from difflib import SequenceMatcher
from typing import Any, Literal

from ..steps import Step
from .document import Part
from .renaming import with_ids

__all__ = ["Change", "Differences", "StepChange", "differences", "matched"]

MOST_SAID = 120  # signs of a formula or words that are told


@dataclass(frozen=True, slots=True)
class Change:
    """A field that is another one: what it was and what it is, in words. tag : of a number that has one."""

    field: str
    before: str
    after: str
    tag: str = ""


@dataclass(slots=True)
class StepChange:
    """A step that was added, removed, moved or changed. id : in the later part, else in the earlier one."""

    id: str
    name: str
    was: Literal["added", "removed", "moved", "changed"]
    fields: list[Change] = field(default_factory=list)


@dataclass(slots=True)
class Differences:
    """All that is different. part : what is not of a step: name, units, stop line, kept things."""

    steps: list[StepChange]
    ledger: list[Change]
    part: list[Change]

    @property
    def none(self) -> bool:
        """Whether there is no difference."""
        return not (self.steps or self.ledger or self.part)


def matched(before: Part, after: Part, related: bool) -> dict[str, str]:
    """Return the steps of an earlier part that a later one has too, by its id there. related : they are of
    one origin, so that ids mean the same."""
    if related:
        later = {s.id: s.kind for s in after.steps}
        return {s.id: s.id for s in before.steps if later.get(s.id) == s.kind}
    named = {(s.kind, s.name): s.id for s in after.steps}
    return {s.id: named[s.kind, s.name] for s in before.steps if (s.kind, s.name) in named}


def differences(before: Part, after: Part, related: bool = True) -> Differences:
    """Return what is different in a later part."""
    same = matched(before, after, related)
    back = {v: k for k, v in same.items()}
    moved = _moved(
        [same[s.id] for s in before.steps if s.id in same], [s.id for s in after.steps if s.id in back]
    )
    steps = [StepChange(s.id, s.name, "removed") for s in before.steps if s.id not in same]
    for s in after.steps:
        if s.id not in back:
            steps.append(StepChange(s.id, s.name, "added"))
            continue
        fields = _fields(before.step(back[s.id]), s, same)
        if fields or s.id in moved:
            steps.append(StepChange(s.id, s.name, "moved" if s.id in moved else "changed", fields))
    return Differences(steps, _ledger(before, after), _of_part(before, after))


def _moved(old: list[str], new: list[str]) -> set[str]:
    blocks = SequenceMatcher(None, old, new, autojunk=False).get_matching_blocks()
    staying = {new[b.b + i] for b in blocks for i in range(b.size)}
    return set(new) - staying


def _fields(old: Step, new: Step, same: dict[str, str]) -> list[Change]:
    a = with_ids(old.model_dump(mode="json"), same)
    b = new.model_dump(mode="json")
    found: list[Change] = []
    for name in a | b:
        if name in ("id", "kind", "stance", "stances") or a.get(name) == b.get(name):
            continue
        if name == "drawing":
            found += _drawing(a[name] or {}, b[name] or {})
        else:
            found += _change(name.replace("_", " "), a.get(name), b.get(name))
    return found


def _change(words: str, old: Any, new: Any) -> Iterator[Change]:
    """Yield what is different in a field: numbers by their formulas, picks by their number."""
    if _is_value(old) or _is_value(new):
        a, b = (x if isinstance(x, dict) else {} for x in (old, new))
        yield Change(
            words, _said(a.get("formula")), _said(b.get("formula")), b.get("tag") or a.get("tag") or ""
        )
    elif isinstance(old, dict) and isinstance(new, dict) and not {"of"} & (old.keys() | new.keys()):
        for key in old | new:
            if old.get(key) != new.get(key):
                yield from _change(f"{words} {key}".replace("_", " "), old.get(key), new.get(key))
    elif isinstance(old, list) and isinstance(new, list) and any(isinstance(x, dict) for x in [*old, *new]):
        gone, fresh = ([x for x in one if x not in other] for one, other in ((old, new), (new, old)))
        yield Change(words, _picks(len(gone), len(old)), _picks(len(fresh), len(new)))
    else:
        yield Change(words, _said(old), _said(new))


def _is_value(held: Any) -> bool:
    return isinstance(held, dict) and isinstance(held.get("formula"), str)


def _picks(other: int, all_: int) -> str:
    return f"{all_} picked, {other} of them not in the other" if other else f"{all_} picked"


def _said(held: Any) -> str:
    if held is None:
        return "nothing"
    if isinstance(held, bool):
        return "yes" if held else "no"
    if isinstance(held, dict):
        return "another pick"
    text = ", ".join(map(str, held)) if isinstance(held, list) else str(held)
    return text if len(text) <= MOST_SAID else f"{text[:MOST_SAID]} …"


def _drawing(old: dict[str, Any], new: dict[str, Any]) -> Iterator[Change]:
    for name, one in (
        ("curves", "curve"),
        ("constraints", "constraint"),
        ("texts", "text"),
        ("taken", "taken in"),
    ):
        a, b = old.get(name, {}), new.get(name, {})
        for key in a.keys() & b.keys():
            if a[key] != b[key]:
                yield from _constraint(name, a[key], b[key])
        gone, fresh = len(a.keys() - b.keys()), len(b.keys() - a.keys())
        if gone or fresh:
            yield Change(f"sketch: {one}{'s' if one != 'taken in' else ''}", _less(gone), _more(fresh))
    if old.get("points", {}).keys() != new.get("points", {}).keys():
        gone, fresh = (len(x) for x in _apart(old.get("points", {}), new.get("points", {})))
        yield Change("sketch: points", _less(gone), _more(fresh))


def _apart(a: dict[str, Any], b: dict[str, Any]) -> tuple[set[str], set[str]]:
    return a.keys() - b.keys(), b.keys() - a.keys()


def _less(n: int) -> str:
    return f"{n} that are gone" if n else "none gone"


def _more(n: int) -> str:
    return f"{n} more" if n else "none more"


def _constraint(name: str, a: dict[str, Any], b: dict[str, Any]) -> Iterator[Change]:
    words = f"sketch: {str(b.get('kind') or name.removesuffix('s')).replace('_', ' ')}"
    for key in a | b:
        if a.get(key) != b.get(key):
            yield from _change(words if _is_value(b.get(key)) else f"{words} {key}", a.get(key), b.get(key))


def _ledger(before: Part, after: Part) -> list[Change]:
    a, b = ({e.tag: e.formula for e in part.ledger} for part in (before, after))
    found = [Change("formula", _said(a.get(t)), _said(b.get(t)), t) for t in a | b if a.get(t) != b.get(t)]
    for tag in before.remarks | after.remarks:
        old, new = (part.remarks.get(tag) for part in (before, after))
        if old != new:
            x, y = (r.model_dump() if r else {} for r in (old, new))
            found += [Change(k, _said(x.get(k)), _said(y.get(k)), tag) for k in x | y if x.get(k) != y.get(k)]
    return found


def _of_part(before: Part, after: Part) -> list[Change]:
    skipped = {"format", "version", "ledger", "remarks", "steps", "last", "notes", "numbers"}
    a, b = (part.model_dump(mode="json", exclude=skipped) for part in (before, after))
    found: list[Change] = []
    for name in a:
        if a[name] != b[name]:
            found += _change(name.replace("_", " "), a[name], b[name])
    if before.notes != after.notes:
        found.append(Change("notes", f"{len(before.notes)}", f"{len(after.notes)}"))
    return found
