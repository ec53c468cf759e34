"""Commands: each turns one part document into the next, or is refused and changes nothing."""

from __future__ import annotations

import math
from typing import Annotated, Any, Literal

from pydantic import Field

from ..blanks import Number
from ..errors import CommandRefused, FormulaError, StepError, WendalError
from ..quantity import Kind, format_quantity, in_kind, parse, rename_tag, usable_tag
from ..quantity.units import plain, quantity
from ..sketch import Bench, SketchEdit, apply_edit
from ..steps import Step
from ..steps.datum import System
from ..steps.sketch import Sketch
from ..stored import Stored, Value
from .depends import stands_on
from .document import Entry, Part, UnitChoice, read_step

__all__ = ["Command", "apply", "bench_of", "say_command"]


class AddStep(Stored):
    """Add a step; its id is given here. after : the step to stand behind, "" for the stop line or the end."""

    do: Literal["add_step"] = "add_step"
    step: dict[str, Any]
    after: str = ""


class EditStep(Stored):
    """Replace some of a step's fields."""

    do: Literal["edit_step"] = "edit_step"
    step: str
    fields: dict[str, Any]


class RemoveStep(Stored):
    """Delete a step. Steps that stood on it stop and say so."""

    do: Literal["remove_step"] = "remove_step"
    step: str


class MoveStep(Stored):
    """Move a step to behind another ("" for the beginning)."""

    do: Literal["move_step"] = "move_step"
    step: str
    after: str = ""


class SetStopLine(Stored):
    """Build only up to a step; "" builds all."""

    do: Literal["set_stop_line"] = "set_stop_line"
    after: str = ""


class EditSketch(Stored):
    """Edit a sketch's drawing."""

    do: Literal["edit_sketch"] = "edit_sketch"
    step: str
    edit: SketchEdit


class SetFormula(Stored):
    """Give a tag another formula, wherever it lives."""

    do: Literal["set_formula"] = "set_formula"
    tag: str
    formula: str


class AddTag(Stored):
    """Add a tag to the ledger."""

    do: Literal["add_tag"] = "add_tag"
    tag: str
    formula: str
    note: str = ""


class RemoveTag(Stored):
    """Take a tag that belongs to no step out of the ledger."""

    do: Literal["remove_tag"] = "remove_tag"
    tag: str


class RenameTag(Stored):
    """Rename a tag everywhere at once."""

    do: Literal["rename_tag"] = "rename_tag"
    tag: str
    to: str


class RenamePart(Stored):
    """Rename the part."""

    do: Literal["rename_part"] = "rename_part"
    name: str = Field(min_length=1, max_length=120)


class SetActiveSystem(Stored):
    """Work in a coordinate system; "" for the part's own."""

    do: Literal["set_active_system"] = "set_active_system"
    step: str = ""


class SetUnits(Stored):
    """Choose the part's units; formulas stay as they are written."""

    do: Literal["set_units"] = "set_units"
    units: UnitChoice


Command = Annotated[
    AddStep | EditStep | RemoveStep | MoveStep | SetStopLine | EditSketch | SetFormula | AddTag | RemoveTag | RenameTag
    | RenamePart | SetActiveSystem | SetUnits,
    Field(discriminator="do"),
]


def apply(part: Part, command: Command) -> Part:
    """Return the part after a command; raises WendalError in words, and then nothing has changed."""
    changed: Part = _APPLY[type(command)](part, command)
    _no_new_trouble(part, changed)
    return changed


def _no_new_trouble(before: Part, after: Part) -> None:
    """Raise the first formula error that a command would bring into the part."""
    had = {tag for tag, o in before.evaluated().items() if o.error}
    outcomes = after.evaluated()
    broken = [row for row in after.rows() if outcomes[row.tag].error and row.tag not in had]
    if broken:  # the one that is wrong itself before those that only use it
        row = min(broken, key=lambda r: any(outcomes[u].error for u in outcomes[r.tag].uses if u in outcomes))
        error = outcomes[row.tag].error
        assert error is not None
        raise FormulaError(error.message, field=row.place or row.tag, step=row.step, at=error.at)
    scope = {t: o.value for t, o in outcomes.items() if o.value is not None}
    for step in after.steps:
        known = next((s for s in before.steps if s.id == step.id), None)
        if known == step:
            continue
        for place, value, kind in step.values():
            try:
                in_kind(parse(value.formula).value(scope), kind, after.units.units())
            except FormulaError as error:
                raise error.located(field=place, step=step.id) from error


def _add_step(part: Part, command: AddStep) -> Part:
    last = part.last + 1
    after = command.after or part.stop_after
    index = part.index(after) + 1 if after else len(part.steps)
    fields = {**command.step, "id": f"s{last}"}
    fields["name"] = str(fields.get("name") or "").strip() or _new_name(part, str(fields.get("kind", "step")))
    step = _tagged(part, read_step(fields))
    _check_complete(step, part)
    stop = step.id if part.stop_after and after == part.stop_after else part.stop_after
    steps = [*part.steps[:index], step, *part.steps[index:]]
    return part.model_copy(update={"steps": steps, "last": last, "stop_after": stop})


def _edit_step(part: Part, command: EditStep) -> Part:
    old = part.step(command.step)
    if {"id", "kind"} & command.fields.keys():
        raise CommandRefused("A step keeps its id and its kind.", step=command.step)
    step = _tagged(part, read_step({**old.model_dump(mode="json"), **command.fields}))
    _check_complete(step, part)
    if any(s.name == step.name and s.id != step.id for s in part.steps):
        raise CommandRefused(f"There is a step named “{step.name}” already; choose another name.", field="name", step=step.id)
    return part.with_step(step)


def _check_complete(step: Step, part: Part) -> None:
    missing = step.missing()
    if missing:
        raise StepError(f"{step.title} {step.name} still needs {' and '.join(missing)}.", step=step.id)
    bench = bench_of(part)
    for name, blank in step.blanks().items():
        if isinstance(blank, Number) and blank.above is not None:
            value = getattr(step, name)
            try:
                figure = bench.number(value.formula, blank.kind)
            except FormulaError as error:
                raise error.located(field=name, step=step.id) from error
            if figure <= blank.above:
                limit = f"{blank.above:g} {blank.kind}".replace(" length", " mm") if blank.above else "zero"
                raise StepError(f"The {blank.label} must be greater than {limit}; {value.formula} is not.", field=name,
                                step=step.id)


def _tagged(part: Part, step: Step) -> Step:
    """Give every number of a step that has none a tag made from the step's name and what it measures."""
    taken = part.tags() - {v.tag for s in part.steps if s.id == step.id for _, v, _ in s.values()}
    used = {place for place, _, _ in step.values()}
    idle = {n: v.model_copy(update={"tag": ""}) for n in type(step).model_fields
            if n not in used and isinstance(v := getattr(step, n), Value) and v.tag}
    step = step.model_copy(update=idle)
    for place, value, _ in list(step.values()):
        blank = step.blanks().get(place)
        if value.tag:
            usable_tag(value.tag, taken)
        elif not (isinstance(blank, Number) and blank.quiet and value.formula.strip() == blank.start):
            tag = _free_tag(f"{step.name} {place}", taken)
            step = step.with_value(place, value.model_copy(update={"tag": tag}))
            taken = taken | {tag}
    return step


def _free_tag(words: str, taken: set[str]) -> str:
    base = "_".join("".join(c if c.isascii() and c.isalnum() else " " for c in words.lower()).split()) or "size"
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


def _new_name(part: Part, kind: str) -> str:
    names = {s.name for s in part.steps}
    number = 1
    while f"{kind.capitalize()} {number}" in names:
        number += 1
    return f"{kind.capitalize()} {number}"


def _remove_step(part: Part, command: RemoveStep) -> Part:
    index = part.index(command.step)
    stop = part.stop_after
    if stop == command.step:
        stop = part.steps[index - 1].id if index else ""
    active = "" if part.active_system == command.step else part.active_system
    return part.model_copy(update={"steps": [s for s in part.steps if s.id != command.step], "stop_after": stop, "active_system": active})


def _move_step(part: Part, command: MoveStep) -> Part:
    step = part.step(command.step)
    if command.after == command.step:
        return part
    rest = [s for s in part.steps if s.id != step.id]
    index = next((i + 1 for i, s in enumerate(rest) if s.id == command.after), 0) if command.after else 0
    part.index(command.after or step.id)
    order = [*rest[:index], step, *rest[index:]]
    place = {s.id: i for i, s in enumerate(order)}
    for s in order:
        for base in stands_on(s):
            if base in place and place[base] > place[s.id]:
                raise CommandRefused(f"“{s.name}” stands on “{part.step(base).name}”, so it can not come before it.", step=s.id)
    return part.model_copy(update={"steps": order})


def _set_stop_line(part: Part, command: SetStopLine) -> Part:
    if command.after:
        part.index(command.after)
    return part.model_copy(update={"stop_after": command.after})


def _edit_sketch(part: Part, command: EditSketch) -> Part:
    step = part.step(command.step)
    if not isinstance(step, Sketch):
        raise CommandRefused(f"“{step.name}” is not a sketch.", step=step.id)
    try:
        drawing = apply_edit(step.drawing, command.edit, bench_of(part, step.name))
    except WendalError as error:
        raise error.located(step=step.id) from error
    return part.with_step(step.model_copy(update={"drawing": drawing}))


def bench_of(part: Part, name: str = "") -> Bench:
    """Return what sketch edits and checks need of the part: formulas, tags and units."""
    units = part.units.units()
    scope = {t: o.value for t, o in part.evaluated().items() if o.value is not None}
    taken = set(part.tags())

    def number(formula: str, kind: str) -> float:
        return plain(in_kind(parse(formula).value(scope), Kind(kind), units), Kind(kind))

    def new_tag(words: str) -> str:
        tag = _free_tag(f"{name} {words}", taken)
        taken.add(tag)
        return tag

    def show(value: float, kind: str) -> str:
        shown = quantity(value, "mm").to("inch") if units.length == "in" else quantity(value, "mm")
        if kind == "angle":
            return f"{math.degrees(value):.1f}".removesuffix(".0") + " deg"
        digits = 3 if units.length == "in" else 2
        return format_quantity(quantity(round(shown.magnitude, digits), units.length), units)

    return Bench(number, new_tag, show)


def _set_formula(part: Part, command: SetFormula) -> Part:
    for row in part.rows():
        if row.tag == command.tag:
            break
    else:
        raise CommandRefused(f"There is no tag “{command.tag}” in the ledger.", field=command.tag)
    if not row.step:
        ledger = [e.model_copy(update={"formula": command.formula}) if e.tag == row.tag else e for e in part.ledger]
        return part.model_copy(update={"ledger": ledger})
    step = part.step(row.step)
    changed = part.with_step(step.with_value(row.place, Value(formula=command.formula, tag=row.tag)))
    _no_new_trouble(part, changed)
    if not isinstance(step, Sketch):
        _check_complete(changed.step(step.id), changed)
    else:
        bench_of(changed).values(changed.step(step.id).drawing)  # type: ignore[attr-defined]
    return changed


def _add_tag(part: Part, command: AddTag) -> Part:
    usable_tag(command.tag, part.tags())
    entry = Entry(tag=command.tag, formula=command.formula, note=command.note)
    return part.model_copy(update={"ledger": [*part.ledger, entry]})


def _remove_tag(part: Part, command: RemoveTag) -> Part:
    row = next((r for r in part.rows() if r.tag == command.tag), None)
    if row is None:
        raise CommandRefused(f"There is no tag “{command.tag}” in the ledger.", field=command.tag)
    if row.step:
        raise CommandRefused(f"“{command.tag}” belongs to “{part.step(row.step).name}”; it goes when that dimension goes.",
                             field=command.tag)
    users = [t for t, o in part.evaluated().items() if command.tag in o.uses]
    users += [s.name for s in part.steps for _, v, _ in s.values() if not v.tag and command.tag in parse(v.formula).tags]
    if users:
        raise CommandRefused(f"“{command.tag}” is used by {', '.join(users)}. Change those first.", field=command.tag)
    return part.model_copy(update={"ledger": [e for e in part.ledger if e.tag != command.tag]})


def _rename_tag(part: Part, command: RenameTag) -> Part:
    if command.tag not in part.tags():
        raise CommandRefused(f"There is no tag “{command.tag}” in the ledger.", field=command.tag)
    usable_tag(command.to, part.tags() - {command.tag})

    def renamed(tag: str, formula: str) -> dict[str, str]:
        return {"tag": command.to if tag == command.tag else tag, "formula": rename_tag(formula, command.tag, command.to)}

    ledger = [e.model_copy(update=renamed(e.tag, e.formula)) for e in part.ledger]
    steps = []
    for step in part.steps:
        for place, value, _ in list(step.values()):
            step = step.with_value(place, value.model_copy(update=renamed(value.tag, value.formula)))
        steps.append(step)
    return part.model_copy(update={"ledger": ledger, "steps": steps})


def _rename_part(part: Part, command: RenamePart) -> Part:
    if not command.name.strip():
        raise CommandRefused("A part needs a name.", field="name")
    return part.model_copy(update={"name": command.name.strip()})


def _set_active_system(part: Part, command: SetActiveSystem) -> Part:
    if command.step and not isinstance(part.step(command.step), System):
        raise CommandRefused(f"“{part.step(command.step).name}” is not a coordinate system.", step=command.step)
    return part.model_copy(update={"active_system": command.step})


def _set_units(part: Part, command: SetUnits) -> Part:
    return part.model_copy(update={"units": command.units})


_APPLY: dict[type, Any] = {
    AddStep: _add_step, EditStep: _edit_step, RemoveStep: _remove_step, MoveStep: _move_step,
    SetStopLine: _set_stop_line, EditSketch: _edit_sketch, SetFormula: _set_formula, AddTag: _add_tag,
    RemoveTag: _remove_tag, RenameTag: _rename_tag, RenamePart: _rename_part, SetActiveSystem: _set_active_system, SetUnits: _set_units,
}


def say_command(part: Part, command: Command) -> str:
    """Say a command in a few words for the list of versions: "Change base_depth to 14 mm"."""
    data = command.model_dump()
    step = data.get("step")
    name = next((s.name for s in part.steps if s.id == step), "") if isinstance(step, str) else ""
    do = data["do"]
    if do == "add_step":
        return f"Add {data['step'].get('name') or data['step'].get('kind', 'a step')}"
    if do == "edit_sketch":
        words = {"draw": f"Draw {data['edit'].get('shape', '')}", "constrain": f"Constrain ({data['edit'].get('kind', '')})",
                 "set_value": "Change a dimension", "place_figure": "Move a figure", "remove": "Remove geometry",
                 "construction": "Construction", "move": "Drag"}
        return f"{words[data['edit']['op']]} in {name}"
    if do == "set_formula":
        return f"Change {data['tag']} to {data['formula']}"
    detail = name or str(data.get("tag") or data.get("name") or "")
    return f"{do.replace('_', ' ').capitalize()} {detail}".strip()
