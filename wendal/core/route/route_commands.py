"""Commands on several steps at once: moving, deleting, suppressing, pasting, notes and headings."""

from __future__ import annotations

from collections.abc import Collection, Iterable
from typing import Annotated, Any, Literal

from pydantic import Field

from ..errors import CommandRefused, DocumentError, FormulaError
from ..quantity import parse
from ..stored import Stored
from .checks import free_name, free_tag
from .depends import stands_on
from .document import Group, Part, PartText, read_step
from .kept_commands import without_step
from .pages import GENERAL
from .renaming import with_ids, with_tags

__all__ = [
    "ROUTE",
    "EditGroup",
    "GroupSteps",
    "MoveSteps",
    "PasteSteps",
    "RemoveSteps",
    "SetAbout",
    "SetNote",
    "SetSuppressed",
    "regrouped",
    "without",
]

MOST_AT_ONCE = 500
Ids = Annotated[list[str], Field(min_length=1, max_length=MOST_AT_ONCE)]


class MoveSteps(Stored):
    """Move steps, in the order of the route, to behind another ("" for the beginning)."""

    do: Literal["move_steps"] = "move_steps"
    steps: Ids
    after: str = ""


class RemoveSteps(Stored):
    """Delete steps; what stands on them, and is not deleted with them, stops and says so. values : formulas
    that stand for their tags where other formulas use these. instead : the step that takes the place of the
    one which is deleted, wherever others stand on it as a datum, a sketch or a step."""

    do: Literal["remove_steps"] = "remove_steps"
    steps: Ids
    values: dict[str, str] = {}
    instead: str = ""


class SetSuppressed(Stored):
    """Leave steps out of what is built, or build them again."""

    do: Literal["set_suppressed"] = "set_suppressed"
    steps: Ids
    suppressed: bool


class PasteSteps(Stored):
    """Add copies of steps, in their order.

    steps : their data. here : they are of this part, so that what they stand on outside is the same; else it
    is lost and picked anew. values : formulas that stand for tags which this part does not have.
    """

    do: Literal["paste_steps"] = "paste_steps"
    steps: list[dict[str, Any]] = Field(min_length=1, max_length=MOST_AT_ONCE)
    here: bool
    after: str = ""
    values: dict[str, str] = {}


class SetAbout(Stored):
    """Say what is said of the part."""

    do: Literal["set_about"] = "set_about"
    about: PartText


class SetNote(Stored):
    """Write a note on a step, "" for none."""

    do: Literal["set_note"] = "set_note"
    step: str
    note: str = Field(max_length=2000)


class NumberSteps(Stored):
    """Number the steps anew: 10, 20, 30 …"""

    do: Literal["number_steps"] = "number_steps"


class GroupSteps(Stored):
    """Put steps that stand one behind the other under a heading."""

    do: Literal["group_steps"] = "group_steps"
    steps: Ids
    name: str = Field(min_length=1, max_length=80)


class EditGroup(Stored):
    """Rename, fold or unfold a heading; with gone its steps stand alone again."""

    do: Literal["edit_group"] = "edit_group"
    name: str
    to: str = Field(default="", max_length=80)
    folded: bool | None = None
    gone: bool = False


def _in_order(part: Part, steps: Collection[str]) -> list[str]:
    for step in steps:
        part.index(step)
    return [s.id for s in part.steps if s.id in set(steps)]


def _move_steps(part: Part, command: MoveSteps) -> Part:
    moving = _in_order(part, command.steps)
    if command.after in moving:
        at = part.index(command.after)
        after = next((s.id for s in part.steps[:at][::-1] if s.id not in moving), "")
    else:
        after = command.after
    if after:
        part.index(after)
    rest = [s for s in part.steps if s.id not in moving]
    index = next((i + 1 for i, s in enumerate(rest) if s.id == after), 0)
    order = [*rest[:index], *(part.step(m) for m in moving), *rest[index:]]
    place = {s.id: i for i, s in enumerate(order)}
    for s in order:
        for base in stands_on(s):
            if base in place and place[base] > place[s.id]:
                raise CommandRefused(
                    f"“{s.name}” stands on “{part.step(base).name}”, so it can not come before it.", step=s.id
                )
    return regrouped(part.model_copy(update={"steps": order}), moving)


def regrouped(part: Part, moved: Collection[str] = ()) -> Part:
    """Return a part whose headings have what stands between their first and their last step; what was moved
    leaves its heading, unless it was put between others of it."""
    if not part.groups:
        return part
    places = {s.id: i for i, s in enumerate(part.steps)}
    groups = []
    for group in part.groups:
        staying = [i for s in group.steps if (i := places.get(s)) is not None and s not in moved]
        whole = [i for s in group.steps if (i := places.get(s)) is not None]
        of = staying or whole
        if of:
            steps = [s.id for s in part.steps[min(of) : max(of) + 1]]
            groups.append(group.model_copy(update={"steps": steps}))
    return part if groups == part.groups else part.model_copy(update={"groups": groups})


def _remove_steps(part: Part, command: RemoveSteps) -> Part:
    gone = {r.tag for r in part.rows() if r.step in set(command.steps)}
    if command.instead:
        part = _put_in_place(part, command)
    for step in _in_order(part, command.steps)[::-1]:
        part = without(part, step)
    tags = {t: f"({command.values[t]})" for t in gone if t in command.values}
    left = [r for r in part.rows() if (used := _used(r.formula) & gone) and used - tags.keys()]
    if left:
        raise CommandRefused(
            f"“{left[0].tag}” is {left[0].formula}, which uses a dimension of what is deleted. Give it a "
            "formula of its own first.",
            field=left[0].tag,
            step=left[0].step,
        )
    if not tags:
        return part
    data = part.model_dump(mode="json", include={"ledger", "steps"})
    steps = [
        read_step(with_tags(s, tags)) if _used_in(s) & gone else held
        for s, held in zip(data["steps"], part.steps, strict=True)
    ]
    ledger = [
        e.model_copy(update={"formula": with_tags({"formula": e.formula}, tags)["formula"]})
        for e in part.ledger
    ]
    return part.model_copy(update={"steps": steps, "ledger": ledger})


def _put_in_place(part: Part, command: RemoveSteps) -> Part:
    """Return a part in which another step takes the place of one that goes."""
    if len(command.steps) != 1 or command.instead in command.steps:
        raise CommandRefused("One step takes the place of one other.", field="instead")
    old, new = part.step(command.steps[0]), part.step(command.instead)
    if old.kind != new.kind:
        raise CommandRefused(
            f"{new.name} can not take the place of {old.name}: they are of two kinds.", field="instead"
        )
    steps = []
    for i, step in enumerate(part.steps):
        data = step.model_dump(mode="json")
        turned = _turned_to(data, old.id, new.id)
        if turned != data and i <= part.index(new.id):
            raise CommandRefused(
                f"{step.name} would stand on {new.name}, which comes behind it. Move that up first.",
                field="instead",
                step=step.id,
            )
        steps.append(step if turned == data else read_step(turned))
    return part.model_copy(update={"steps": steps})


def _turned_to(data: Any, old: str, new: str) -> Any:
    """Return data in which references to a step as a datum, a sketch or a step are those to another."""
    if isinstance(data, dict):
        if data.get("of") in ("datum", "sketch", "step") and data.get("step") == old:
            return {**data, "step": new, **({"index": 0} if "index" in data else {})}
        return {k: _turned_to(v, old, new) for k, v in data.items()}
    return [_turned_to(v, old, new) for v in data] if isinstance(data, list) else data


def _used(formula: str) -> set[str]:
    try:
        return set(parse(formula).tags)
    except FormulaError:
        return set()


def _used_in(data: Any) -> set[str]:
    return {t for value in _values(data) for t in _used(value["formula"])}


def without(part: Part, step: str) -> Part:
    """Return a part without a step; what was put behind it is behind the one before it then."""
    index = part.index(step)
    stop = part.stop_after
    if stop == step:
        stop = part.steps[index - 1].id if index else ""
    changed = part.model_copy(
        update={
            "steps": [s for s in part.steps if s.id != step],
            "stop_after": stop,
            "active_system": "" if part.active_system == step else part.active_system,
            "kept": without_step(part, step),
            "notes": {s: n for s, n in part.notes.items() if s != step},
        }
    )
    return regrouped(changed)


def _set_suppressed(part: Part, command: SetSuppressed) -> Part:
    for step in _in_order(part, command.steps):
        held = part.step(step)
        part = part.with_step(held.model_copy(update={"suppressed": command.suppressed}))
    return part


def _paste_steps(part: Part, command: PasteSteps) -> Part:
    old = [str(data.get("id", "")) for data in command.steps]
    if len(set(old)) < len(old) or not all(old):
        raise DocumentError("What is pasted is no list of steps.", field="steps")
    last = part.last + len(old)
    ids = {o: f"s{part.last + 1 + i}" for i, o in enumerate(old)}
    outside = sorted(_meant(command.steps) - set(ids)) if not command.here else []
    for step in outside:  # a number that no step of this part ever has: it is lost, and picked anew
        last += 1
        ids[step] = f"s{last}"
    tags = _new_tags(part, command)
    names = {s.name for s in part.steps}
    steps = []
    for data in command.steps:
        new = with_tags(with_ids({**data, "id": ""}, ids), tags)
        new = {**_valued(part, new, tags, command), "id": ids[str(data["id"])]}
        new["name"] = free_name(str(new.get("name", "")), names)
        names.add(new["name"])
        steps.append(read_step(new))
    after = command.after or part.stop_after
    index = part.index(after) + 1 if after else len(part.steps)
    stop = steps[-1].id if part.stop_after and after == part.stop_after else part.stop_after
    order = [*part.steps[:index], *steps, *part.steps[index:]]
    return regrouped(part.model_copy(update={"steps": order, "last": last, "stop_after": stop}))


def _meant(data: Any) -> set[str]:
    """Return all steps that references mean."""
    found: set[str] = set()

    class Noting(dict[str, str]):
        def get(self, key: str, default: Any = None) -> Any:
            found.add(key)
            return default

    with_ids(data, Noting())
    return found


def _values(data: Any) -> Iterable[dict[str, Any]]:
    if isinstance(data, dict):
        if isinstance(data.get("formula"), str):
            yield data
        for held in data.values():
            yield from _values(held)
    elif isinstance(data, list):
        for held in data:
            yield from _values(held)


def _new_tags(part: Part, command: PasteSteps) -> dict[str, str]:
    """Return the new tags of the copied numbers: each its own."""
    taken, found = part.tags() | set(command.values), {}
    for value in _values(command.steps):
        if tag := value.get("tag"):
            found[tag] = free_tag(tag.removesuffix("_second"), taken)
            taken.add(found[tag])
    return found


def _valued(part: Part, data: Any, tags: dict[str, str], command: PasteSteps) -> Any:
    """Return a step's data in whose formulas the tags that this part has not stand as their values."""
    known, own = part.tags(), set(tags.values())
    for value in _values(data):
        try:
            used = parse(value["formula"]).tags
        except FormulaError:
            continue
        unknown = [t for t in used if t not in own and (t not in known or not command.here)]
        for tag in unknown:
            if tag not in command.values:
                raise CommandRefused(f"A formula uses “{tag}”, which this part has not.", field="steps")
        if unknown:
            value["formula"] = with_tags(
                {"formula": value["formula"]}, {t: f"({command.values[t]})" for t in unknown}
            )["formula"]
    return data


def _set_about(part: Part, command: SetAbout) -> Part:
    """Pages that name the class of general tolerances which the part had name its new one."""
    before, now = (f"{GENERAL}{a.general}" for a in (part.about, command.about))
    pages = [p.model_copy(update={"tolerance": now}) if p.tolerance == before else p for p in part.pages]
    return part.model_copy(update={"about": command.about, "pages": pages})


def _set_note(part: Part, command: SetNote) -> Part:
    part.index(command.step)
    notes = {s: n for s, n in part.notes.items() if s != command.step}
    if command.note.strip():
        notes[command.step] = command.note.strip()
    return part.model_copy(update={"notes": notes})


def _number_steps(part: Part, command: NumberSteps) -> Part:
    if not part.numbers:
        raise CommandRefused("The steps are numbered 10, 20, 30 … as they are.")
    return part.model_copy(update={"numbers": {}})


def _group_steps(part: Part, command: GroupSteps) -> Part:
    steps = _in_order(part, command.steps)
    first, end = part.index(steps[0]), part.index(steps[-1])
    if end - first + 1 > len(steps):
        between = next(s for s in part.steps[first:end] if s.id not in steps)
        raise CommandRefused(
            f"“{between.name}” stands between them. Under one heading is what comes one behind the other.",
            step=between.id,
        )
    _free_heading(part, command.name)
    for group in part.groups:
        if set(group.steps) & set(steps):
            raise CommandRefused(f"Some of them stand under “{group.name}” already.", field="name")
    return part.model_copy(update={"groups": [*part.groups, Group(name=command.name.strip(), steps=steps)]})


def _free_heading(part: Part, name: str) -> None:
    if not name.strip():
        raise CommandRefused("A heading needs words.", field="name")
    if any(g.name == name.strip() for g in part.groups):
        raise CommandRefused(f"There is a heading “{name.strip()}” already; choose another.", field="name")


def _edit_group(part: Part, command: EditGroup) -> Part:
    group = next((g for g in part.groups if g.name == command.name), None)
    if group is None:
        raise CommandRefused(f"There is no heading “{command.name}” any more.", field="name")
    if command.gone:
        return part.model_copy(update={"groups": [g for g in part.groups if g is not group]})
    if command.to and command.to.strip() != group.name:
        _free_heading(part, command.to)
    folded = group.folded if command.folded is None else command.folded
    new = group.model_copy(update={"name": command.to.strip() or group.name, "folded": folded})
    return part.model_copy(update={"groups": [new if g is group else g for g in part.groups]})


ROUTE: dict[type, Any] = {
    MoveSteps: _move_steps,
    RemoveSteps: _remove_steps,
    SetSuppressed: _set_suppressed,
    PasteSteps: _paste_steps,
    SetAbout: _set_about,
    SetNote: _set_note,
    NumberSteps: _number_steps,
    GroupSteps: _group_steps,
    EditGroup: _edit_group,
}
