"""Commands on the ledger: formulas, tags, remarks, their order, and CSV."""

from __future__ import annotations

import csv
import io
from collections.abc import Iterator
from contextlib import contextmanager, nullcontext
from typing import Any, Literal

from pydantic import Field

from ..errors import CommandRefused, StepError, WendalError
from ..quantity import Kind, parse, rename_tag, usable_tag
from ..quantity.units import plain
from ..standards import limits_of
from ..steps import numbers_of
from ..steps.sketch import Sketch
from ..stored import Stored, Value
from .checks import check_complete, figures_of, limit_of, no_new_trouble, scope_of
from .document import Entry, LedgerLine, Part, Remark
from .family import with_tag_renamed, without_tag

__all__ = [
    "COLUMNS",
    "LEDGER",
    "RUN",
    "AddTag",
    "MoveTag",
    "ReadLedger",
    "RemoveTag",
    "RenameTag",
    "SetFormula",
    "SetRemark",
]

RUN = tuple("=+-@\t\r")  # what a spreadsheet takes for the beginning of a formula of its own
COLUMNS = ("tag", "formula", "value", "note", "least", "most", "values", "tolerance")


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


class MoveTag(Stored):
    """Move one of the ledger's own tags to behind another ("" for the beginning)."""

    do: Literal["move_tag"] = "move_tag"
    tag: str
    after: str = ""


class SetRemark(Stored):
    """Lay down a note, limits, allowed values or a tolerance for a tag."""

    do: Literal["set_remark"] = "set_remark"
    tag: str
    note: str = ""
    least: str = ""
    most: str = ""
    values: list[str] = Field(default_factory=list, max_length=50)
    tolerance: str = Field("", max_length=40)


class ReadLedger(Stored):
    """Take formulas, notes and limits from CSV text; tags that are not there yet are added."""

    do: Literal["read_ledger"] = "read_ledger"
    text: str = Field(max_length=1_000_000)


def _set_formula(part: Part, command: SetFormula) -> Part:
    for row in part.rows():
        if row.tag == command.tag:
            break
    else:
        raise CommandRefused(f"There is no tag “{command.tag}” in the ledger.", field=command.tag)
    if not row.step:
        ledger = [
            e.model_copy(update={"formula": command.formula}) if e.tag == row.tag else e for e in part.ledger
        ]
        return part.model_copy(update={"ledger": ledger})
    step = part.step(row.step)
    changed = part.with_step(step.with_value(row.place, Value(formula=command.formula, tag=row.tag)))
    no_new_trouble(part, changed)
    if not isinstance(step, Sketch):
        check_complete(changed.step(step.id), changed)
    else:
        figures_of(changed).checked(changed.step(step.id).drawing, row.place)  # type: ignore[attr-defined]
    return changed


def _add_tag(part: Part, command: AddTag) -> Part:
    usable_tag(command.tag, part.tags())
    ledger = [*part.ledger, Entry(tag=command.tag, formula=command.formula)]
    remarks = {**part.remarks, command.tag: Remark(note=command.note)} if command.note else part.remarks
    return part.model_copy(update={"ledger": ledger, "remarks": remarks})


def _remove_tag(part: Part, command: RemoveTag) -> Part:
    row = next((r for r in part.rows() if r.tag == command.tag), None)
    if row is None and command.tag not in part.tags():
        raise CommandRefused(f"There is no tag “{command.tag}” in the ledger.", field=command.tag)
    if row and row.step:
        raise CommandRefused(
            f"“{command.tag}” belongs to “{part.step(row.step).name}”; it goes when that dimension goes.",
            field=command.tag,
        )
    users = [t for t, o in part.evaluated().items() if command.tag in o.uses]
    users += [
        s.name
        for s in part.steps
        for _, v, _ in numbers_of(s)
        if not v.tag and command.tag in parse(v.formula).tags
    ]
    if users:
        raise CommandRefused(
            f"“{command.tag}” is used by {', '.join(users)}. Change those first.", field=command.tag
        )
    return part.model_copy(
        update={
            "ledger": [e for e in part.ledger if e.tag != command.tag],
            "kept": [k for k in part.kept if k.tag != command.tag],
            "remarks": {t: r for t, r in part.remarks.items() if t != command.tag},
            "family": without_tag(part.family, command.tag),
        }
    )


def _rename_tag(part: Part, command: RenameTag) -> Part:
    if command.tag not in part.tags():
        raise CommandRefused(f"There is no tag “{command.tag}” in the ledger.", field=command.tag)
    usable_tag(command.to, part.tags() - {command.tag})

    def renamed(tag: str, formula: str) -> dict[str, str]:
        return {
            "tag": command.to if tag == command.tag else tag,
            "formula": rename_tag(formula, command.tag, command.to),
        }

    ledger = [e.model_copy(update=renamed(e.tag, e.formula)) for e in part.ledger]
    steps = []
    for step in part.steps:
        for place, value, _ in numbers_of(step):
            step = step.with_value(place, value.model_copy(update=renamed(value.tag, value.formula)))
        steps.append(step)
    remarks = {}
    for tag, remark in part.remarks.items():
        formulas = {
            n: rename_tag(f, command.tag, command.to) for n in ("least", "most") if (f := getattr(remark, n))
        }
        values = [rename_tag(v, command.tag, command.to) for v in remark.values]
        remarks[command.to if tag == command.tag else tag] = remark.model_copy(
            update={**formulas, "values": values}
        )
    kept = [k.model_copy(update={"tag": command.to}) if k.tag == command.tag else k for k in part.kept]
    more = {"kept": kept, "family": with_tag_renamed(part.family, command.tag, command.to)}
    return part.model_copy(update={"ledger": ledger, "steps": steps, "remarks": remarks, **more})


def _move_tag(part: Part, command: MoveTag) -> Part:
    own = {e.tag: e for e in part.ledger}
    for tag in (command.tag, *([command.after] if command.after else [])):
        if tag not in own:
            raise CommandRefused(
                f"“{tag}” is not one of the ledger's own tags, so it has its place with its step.", field=tag
            )
    rest = [e for e in part.ledger if e.tag != command.tag]
    at = next((i + 1 for i, e in enumerate(rest) if e.tag == command.after), 0)
    return part.model_copy(update={"ledger": [*rest[:at], own[command.tag], *rest[at:]]})


def _set_remark(part: Part, command: SetRemark) -> Part:
    if command.tag not in part.tags():
        raise CommandRefused(f"There is no tag “{command.tag}” in the ledger.", field=command.tag)
    scope = scope_of(part)
    like = scope.get(command.tag)
    limits = {
        f: parse(f).value(scope) if like is None else limit_of(f, like, part, scope)
        for f in filter(None, (command.least, command.most, *command.values))
    }
    if command.least and command.most and limits[command.least] > limits[command.most]:
        raise CommandRefused(
            f"No value is between {command.least} and {command.most}: the least comes first.",
            field=command.tag,
        )
    _usable_tolerance(part, command.tag, command.tolerance)
    remark = Remark(
        note=command.note,
        least=command.least,
        most=command.most,
        values=command.values,
        tolerance=command.tolerance.strip(),
    )
    remarks = {t: r for t, r in part.remarks.items() if t != command.tag}
    if remark != Remark():
        remarks[command.tag] = remark
    return part.model_copy(update={"remarks": remarks})


def _usable_tolerance(part: Part, tag: str, tolerance: str) -> None:
    """Raise CommandRefused where a tolerance is not understood, or is of no length and no angle."""
    if not tolerance.strip():
        return
    outcome = part.evaluated().get(tag)
    value = outcome.value if outcome else None
    if value is not None and value.check("[angle]") and not value.dimensionless:
        if tolerance.strip()[:1].isalpha():
            raise CommandRefused(
                f"“{tag}” is an angle: write its tolerance in degrees, such as ±0.5 or +0.5/0.", field=tag
            )
        value = None
    elif value is not None and not value.check("[length]"):
        raise CommandRefused(f"“{tag}” is no length and no angle, so it takes no tolerance.", field=tag)
    try:
        limits_of(tolerance, plain(value, Kind.LENGTH) if value is not None else None)
    except StepError as error:
        raise CommandRefused(error.message, field=tag) from error


def _read_ledger(part: Part, command: ReadLedger) -> Part:
    lines = _lines(command.text)
    known = {r.tag: r for r in part.rows()}
    tags, ledger, steps, remarks = (
        part.tags(),
        {e.tag: e for e in part.ledger},
        {s.id: s for s in part.steps},
        dict(part.remarks),
    )
    changed: dict[str, LedgerLine] = {}  # values of steps, by their tags
    for number, (tag, row) in lines.items():
        formula, found = row["formula"], known.get(tag)
        with _in_line(number, tag):
            if not found:
                usable_tag(tag, tags)
                tags.add(tag)
            if not found or found.formula != formula:
                parse(formula)
                if found and found.step:
                    steps[found.step] = steps[found.step].with_value(
                        found.place, Value(formula=formula, tag=tag)
                    )
                    changed[tag] = found
                else:
                    ledger[tag] = Entry(tag=tag, formula=formula)
        given: dict[str, Any] = {n: row[n] for n in ("note", "least", "most", "tolerance") if n in row}
        if "values" in row:
            given["values"] = [v.strip() for v in row["values"].split(";") if v.strip()]
        remarks[tag] = remarks.get(tag, Remark()).model_copy(update=given)
    after = part.model_copy(
        update={
            "ledger": list(ledger.values()),
            "steps": list(steps.values()),
            "remarks": {t: r for t, r in remarks.items() if r != Remark()},
        }
    )
    _check_read(part, after, {tag: number for number, (tag, _) in lines.items()}, changed)
    return after


def _lines(text: str) -> dict[int, tuple[str, dict[str, str]]]:
    """Return the tag and the cells of every line of a ledger's CSV by its number; raises CommandRefused."""
    try:
        rows = list(csv.DictReader(io.StringIO(text)))
    except csv.Error as error:
        raise CommandRefused(f"This is no CSV that can be read: {error}.", field="the text") from error
    if not rows or "tag" not in rows[0] or "formula" not in rows[0]:
        raise CommandRefused(
            "This is no ledger: the first line must name the columns, at least tag and formula.",
            field="line 1",
        )
    found: dict[int, tuple[str, dict[str, str]]] = {}
    for number, row in enumerate(rows, 2):
        cells = {n: spelt(v or "") for n, v in row.items() if n in COLUMNS and v is not None}
        if cells.get("tag"):
            found[number] = (cells["tag"], {"formula": "", **cells})
    return found


@contextmanager
def _in_line(number: int, tag: str) -> Iterator[None]:
    try:
        yield
    except WendalError as error:
        raise CommandRefused(
            f"In line {number}, at {tag}: {error.message} Nothing was taken.", field=f"line {number}"
        ) from error


def _check_read(before: Part, after: Part, lines: dict[str, int], changed: dict[str, LedgerLine]) -> None:
    """Raise CommandRefused, with the line, for what a ledger that was read would break."""
    scope = scope_of(after)
    for tag, number in lines.items():
        remark = after.remarks.get(tag, Remark())
        for formula in filter(None, (remark.least, remark.most, *remark.values)):
            with _in_line(number, tag):
                parse(formula).value(scope)
        with _in_line(number, tag):
            _usable_tolerance(after, tag, remark.tolerance)
    try:
        no_new_trouble(before, after)
    except WendalError as error:
        places = {(r.step, r.place): r.tag for r in after.rows() if r.step}
        tag = error.field if error.field in lines else places.get((error.step, error.field), "")
        with _in_line(lines[tag], tag) if tag in lines else nullcontext():
            raise
    figures = figures_of(after)
    for tag, row in changed.items():
        step = after.step(row.step)
        with _in_line(lines[tag], tag):
            if isinstance(step, Sketch):
                figures.checked(step.drawing, row.place)
            else:
                check_complete(step, after)


def spelt(cell: str) -> str:
    """Return a cell as it was before it was written for spreadsheets: without the mark that keeps them from
    running it."""
    cell = cell.strip()
    return cell[1:] if cell[:1] == "'" and cell[1:2] in RUN else cell


LEDGER: dict[type, Any] = {
    SetFormula: _set_formula,
    AddTag: _add_tag,
    RemoveTag: _remove_tag,
    RenameTag: _rename_tag,
    MoveTag: _move_tag,
    SetRemark: _set_remark,
    ReadLedger: _read_ledger,
}
