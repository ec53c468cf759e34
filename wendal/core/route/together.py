"""Two branches of one part brought together: a three-way merge of documents.

What one side alone changed is taken, step by step and field by field. What both changed is a conflict, which
is told with both, and chosen. Steps that both sides made have ids of their own: those of the other side get
new ones where they would be the same, and so do its tags and names.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Any, Literal

from ..errors import CommandRefused
from ..steps import Step, numbers_of
from .checks import free_name, free_tag, no_new_trouble
from .depends import stands_on
from .document import Part, read_step
from .drawn_apart import drawn_apart, ids_of
from .numbering import numbered
from .renaming import with_ids, with_tags

__all__ = ["Choice", "Conflict", "Together", "bring_together"]

Choice = Literal["ours", "theirs"]
GONE: Any = object()  # what is not there on a side
MOST_SAID = 160


@dataclass(frozen=True, slots=True)
class Conflict:
    """What both sides changed, in words: what it was, what it is on either. key : by which it is chosen."""

    key: str
    where: str
    field: str
    base: str
    ours: str
    theirs: str


@dataclass(slots=True)
class Together:
    """Both sides in one part: conflicts by what was chosen, else by ours. ids, tags : new ones of theirs."""

    part: Part
    conflicts: list[Conflict]
    ids: dict[str, str]
    tags: dict[str, str]


class _Merge:
    """One merge: what was chosen, and what is in conflict."""

    def __init__(self, chosen: Mapping[str, str]) -> None:
        self.chosen, self.conflicts = chosen, list[Conflict]()

    def one(self, key: str, where: str, field: str, base: Any, ours: Any, theirs: Any) -> Any:
        """Return the one of two that differs from the base; both do: it is a conflict, and what was chosen is
        returned."""
        if theirs in (ours, base):
            return ours
        if ours == base:
            return theirs
        self.conflicts.append(Conflict(key, where, field, _said(base), _said(ours), _said(theirs)))
        return theirs if self.chosen.get(key) == "theirs" else ours

    def table(
        self, key: str, where: str, base: dict[str, Any], ours: dict[str, Any], theirs: dict[str, Any]
    ) -> dict[str, Any]:
        """Merge tables entry by entry; the order is ours, with what is new of theirs behind."""
        found = {}
        for name in ours | {k: v for k, v in theirs.items() if k not in ours} | base:
            held = self.one(
                f"{key}.{name}",
                where,
                name,
                base.get(name, GONE),
                ours.get(name, GONE),
                theirs.get(name, GONE),
            )
            if held is not GONE:
                found[name] = held
        return found


def bring_together(base: Part, ours: Part, theirs: Part, chosen: Mapping[str, str] | None = None) -> Together:
    """Merge two parts that were one; raises CommandRefused where what comes of it can be no part.

    chosen : "ours" or "theirs" by the keys of conflicts.
    """
    merge = _Merge(chosen or {})
    theirs, ids, tags = _apart(base, ours, theirs)
    theirs = drawn_apart(base, ours, theirs)
    steps = _steps(merge, base, ours, theirs)
    order = _order(merge, base, ours, theirs, set(steps))
    tables: dict[str, Any] = {
        "ledger": _ledger(merge, base, ours, theirs),
        **{name: _table(merge, name, words, base, ours, theirs) for name, words in TABLES.items()},
        **{name: _keyed(merge, name, key, words, base, ours, theirs) for name, (key, words) in KEYED.items()},
    }
    plain = {
        name: merge.one(
            name, "the part", name.replace("_", " "), *(getattr(p, name) for p in (base, ours, theirs))
        )
        for name in PLAIN
    }
    stop = plain["stop_after"] if plain["stop_after"] in steps else ""
    active = plain["active_system"] if plain["active_system"] in steps else ""
    part = ours.model_copy(
        update={
            **tables,
            **plain,
            "steps": [steps[s] for s in order],
            "last": max(ours.last, theirs.last),
            "stop_after": stop,
            "active_system": active,
            "kept": [k for k in tables["kept"] if not k.after or k.after in steps],
            "groups": [g for g in tables["groups"] if all(s in steps for s in g.steps)],
            "notes": {s: n for s, n in tables["notes"].items() if s in steps},
        }
    )
    _check(part, ours)
    return Together(numbered(ours, part), merge.conflicts, ids, tags)


PLAIN = ("name", "units", "stop_after", "active_system", "unseen", "about")
TABLES = {"remarks": "the ledger's remarks", "looks": "bodies", "notes": "notes on steps"}
KEYED = {
    "kept": ("tag", "kept measures"),
    "views": ("name", "views"),
    "sections": ("name", "sections"),
    "groups": ("name", "headings"),
    "pages": ("id", "pages of the drawing"),
    "family": ("name", "the family"),
    "faces": ("key", "looks of faces"),
}


def _table(merge: _Merge, name: str, words: str, *parts: Part) -> dict[str, Any]:
    return merge.table(name, words, *(getattr(p, name) for p in parts))


def _keyed(merge: _Merge, name: str, key: str, words: str, *parts: Part) -> list[Any]:
    tables = [{getattr(x, key): x for x in getattr(p, name)} for p in parts]
    return list(merge.table(name, words, *tables).values())


def _ledger(merge: _Merge, *parts: Part) -> list[Any]:
    tables = [{e.tag: e for e in p.ledger} for p in parts]
    return list(merge.table("ledger", "the ledger", *tables).values())


def _apart(base: Part, ours: Part, theirs: Part) -> tuple[Part, dict[str, str], dict[str, str]]:
    """Give the steps that the other side made, and their tags and names, others than ours have."""
    known, mine = {s.id for s in base.steps}, {s.id for s in ours.steps}
    theirs = _pages_apart(base, ours, theirs)
    fresh = [s for s in theirs.steps if s.id not in known]
    last, ids = max(ours.last, theirs.last), dict[str, str]()
    for step in fresh:
        if step.id in mine or int(step.id[1:]) <= ours.last:
            last += 1
            ids[step.id] = f"s{last}"
    tags = _other_tags(base, ours, theirs, ids)
    names = {s.name for s in ours.steps}
    if not ids and not tags and not any(s.name in names for s in fresh):
        return theirs, ids, tags
    data = with_tags(with_ids(theirs.model_dump(mode="json"), ids), tags)
    for step in data["steps"]:
        if step["id"] not in known:
            step["id"] = ids.get(step["id"], step["id"])
            step["name"] = free_name(step["name"], names)
            names.add(step["name"])
    data["last"] = last
    return Part.model_validate(_beside_steps(data, ids, tags)), ids, tags


def _pages_apart(base: Part, ours: Part, theirs: Part) -> Part:
    """Give the pages that the other side made other ids and names than ours have."""
    known, names = {p.id for p in base.pages}, {p.name for p in ours.pages}
    highest = max((int(p.id[1:]) for p in (*ours.pages, *theirs.pages)), default=0)
    pages = []
    for page in theirs.pages:
        if page.id not in known:
            highest += 1
            page = page.model_copy(update={"id": f"p{highest}", "name": free_name(page.name, names)})
        pages.append(page)
    return theirs.model_copy(update={"pages": pages}) if pages != theirs.pages else theirs


def _other_tags(base: Part, ours: Part, theirs: Part, ids: dict[str, str]) -> dict[str, str]:
    """Return other tags for those of their new numbers that ours have too, for another number."""
    own = {r.tag: (r.step, r.place) for r in ours.rows()}
    taken, had, tags = ours.tags() | theirs.tags(), base.tags(), dict[str, str]()
    for row in theirs.rows():
        if row.tag in own and row.tag not in had and (ids.get(row.step, row.step), row.place) != own[row.tag]:
            tags[row.tag] = free_tag(row.tag.removesuffix("_second"), taken)
            taken.add(tags[row.tag])
    return tags


def _beside_steps(data: dict[str, Any], ids: dict[str, str], tags: dict[str, str]) -> dict[str, Any]:
    """Return a part's data with other ids and tags in what is not of a step."""
    for entry in data["kept"]:
        entry["tag"] = tags.get(entry["tag"], entry["tag"])
        entry["after"] = ids.get(entry["after"], entry["after"])
    for table in ("remarks", "notes"):
        data[table] = {tags.get(k, ids.get(k, k)): v for k, v in data[table].items()}
    for row in data["family"]:
        row["values"] = {
            tags.get(t, t): with_tags({"formula": f}, tags)["formula"] for t, f in row["values"].items()
        }
    data["looks"] = {with_ids({"of": "", "body": k}, ids)["body"]: v for k, v in data["looks"].items()}
    for group in data["groups"]:
        group["steps"] = [ids.get(s, s) for s in group["steps"]]
    data["pages"] = with_ids(data["pages"], ids)
    for page in data["pages"]:
        for dimension in page["dimensions"]:
            dimension["step"] = ids.get(dimension["step"], dimension["step"])
    for name in ("stop_after", "active_system"):
        data[name] = ids.get(data[name], data[name])
    return data


def _steps(merge: _Merge, base: Part, ours: Part, theirs: Part) -> dict[str, Step]:
    """Return all steps of both sides by id, merged."""
    was, mine, other = ({s.id: s for s in p.steps} for p in (base, ours, theirs))
    found: dict[str, Step] = {}
    for step in {**mine, **other}:
        a, b, c = was.get(step), mine.get(step), other.get(step)
        if b is not None and c is not None and a is not None:
            found[step] = b if b == c or c == a else c if b == a else _fields(merge, a, b, c)
        elif a is None:
            found[step] = b or c  # type: ignore[assignment]
        elif (kept := _or_gone(merge, a, b, c)) is not None:
            found[step] = kept
    return found


def _or_gone(merge: _Merge, base: Step, ours: Step | None, theirs: Step | None) -> Step | None:
    """Return a step that one side deleted, where the other one changed it and that is chosen."""
    left = ours or theirs
    if left is None or left == base:
        return None
    said = ["deleted" if s is None else "changed" for s in (ours, theirs)]
    key = f"{base.id}."
    merge.conflicts.append(Conflict(key, base.name, "the step", "there", *said))
    return theirs if merge.chosen.get(key) == "theirs" else ours


def _fields(merge: _Merge, base: Step, ours: Step, theirs: Step) -> Step:
    a, b, c = (s.model_dump(mode="json") for s in (base, ours, theirs))
    found = {}
    for name in b:
        key = f"{base.id}.{name}"
        if name in SETTLED:  # what an evaluation told, no choice of either
            found[name] = b[name] or c[name]
        elif name == "drawing" and b[name] != c[name] and a[name] not in (b[name], c[name]):
            found[name] = _drawing(merge, key, ours.name, a[name], b[name], c[name])
        else:
            found[name] = merge.one(key, ours.name, name.replace("_", " "), a[name], b[name], c.get(name))
    return read_step(found)


SETTLED = ("stance", "stances")
ELEMENTS = ("curves", "constraints", "taken", "texts")


def _drawing(
    merge: _Merge, key: str, where: str, base: dict[str, Any], ours: dict[str, Any], theirs: dict[str, Any]
) -> dict[str, Any]:
    """Merge what two sides did to one sketch: entry by entry, where only one of them drew or deleted; else
    one of the two drawings is chosen."""
    fresh, gone = (
        [ids_of(a) - ids_of(b) for a, b in pairs]
        for pairs in (
            [(ours, base), (theirs, base)],
            [(base, ours), (base, theirs)],
        )
    )
    if fresh[0] & fresh[1]:  # what was built on theirs goes by its ids, so they can not be other ones
        return merge.one(key, where, "what is drawn", "", ours, theirs)
    if any(gone) and _reaches(base, ours, theirs):
        return merge.one(key, where, "what is drawn", "", ours, theirs)
    found = {n: merge.table(f"{key}.{n}", where, base[n], ours[n], theirs[n]) for n in ELEMENTS}
    # Places are solved, not chosen: those of whoever drew; they are solved anew in any case.
    first, second = (theirs, ours) if fresh[1] or gone[1] else (ours, theirs)
    erased = gone[0] | gone[1]
    places = {p: at for p, at in {**second["points"], **first["points"]}.items() if p not in erased}
    return {**found, "points": places, "last": max(ours["last"], theirs["last"])}


def _reaches(base: dict[str, Any], ours: dict[str, Any], theirs: dict[str, Any]) -> bool:
    """Tell whether one side changed what another erased, or binds it."""
    for one, other in ((ours, theirs), (theirs, ours)):
        gone = ids_of(base) - ids_of(one)
        changed = [v for n in ELEMENTS for k, v in other[n].items() if base[n].get(k) != v]
        touched = {k for n in ELEMENTS for k, v in other[n].items() if base[n].get(k) != v}
        if gone & (touched | _ids(changed)):
            return True
    return False


def _ids(data: Any) -> set[str]:
    if isinstance(data, str):
        return {data}
    held = data.values() if isinstance(data, dict) else data if isinstance(data, list | tuple) else ()
    return {x for h in held for x in _ids(h)}


def _order(merge: _Merge, base: Part, ours: Part, theirs: Part, there: set[str]) -> list[str]:
    """Return the order of all steps: by the side that moved any; new ones behind the one they were behind."""
    orders = [[s.id for s in p.steps] for p in (base, ours, theirs)]
    shared = [[s for s in order if all(s in o for o in orders)] for order in orders]
    first, second = orders[1], orders[2]
    if shared[0] == shared[1] != shared[2]:
        first, second = second, first
    elif shared[0] != shared[2] and shared[1] != shared[2]:
        merge.conflicts.append(
            Conflict("order", "the route", "the order of steps", "", "as here", "as there")
        )
        if merge.chosen.get("order") == "theirs":
            first, second = second, first
    found = [s for s in first if s in there]
    for i, step in enumerate(second):
        if step in there and step not in found:
            before = next((s for s in second[:i][::-1] if s in found), None)
            found.insert(found.index(before) + 1 if before else 0, step)
    return found


def _check(part: Part, ours: Part) -> None:
    """Raise WendalError where what was brought together is no part that can be built."""
    place = {s.id: i for i, s in enumerate(part.steps)}
    for i, step in enumerate(part.steps):
        late = next((b for b in stands_on(step) if place.get(b, -1) > i), None)
        if late is not None:
            raise CommandRefused(
                f"Brought together, “{step.name}” would stand before “{part.step(late).name}”, on which it "
                "stands. Move it on one of the two sides first.",
                step=step.id,
            )
    tags = [v.tag for s in part.steps for _, v, _ in numbers_of(s) if v.tag] + [e.tag for e in part.ledger]
    twice = next((t for t in tags if tags.count(t) > 1), None)
    if twice is not None:
        raise CommandRefused(
            f"Brought together, “{twice}” would be the tag of two numbers. Rename it on one of the two sides."
        )
    no_new_trouble(ours, part)


def _said(held: Any) -> str:
    if held is GONE:
        return "not there"
    if isinstance(held, dict) and isinstance(held.get("formula"), str):
        return str(held["formula"])
    formula: Callable[[Any], Any] = lambda x: getattr(x, "formula", None)  # noqa: E731
    if formula(held) is not None:
        return str(formula(held))
    if isinstance(held, bool):
        return "yes" if held else "no"
    if isinstance(held, dict):
        value = held.get("value")
        return str(value["formula"]) if isinstance(value, dict) and "formula" in value else "changed"
    if isinstance(held, list):
        return (
            f"{len(held)} picked"
            if held and isinstance(held[0], dict)
            else ", ".join(map(str, held)) or "none"
        )
    if hasattr(held, "model_dump"):
        held = ", ".join(
            f"{k.replace('_', ' ')} {v}"
            for k, v in held.model_dump().items()
            if v not in ("", None, [], False)
        )
    return str(held)[:MOST_SAID] or "nothing"
