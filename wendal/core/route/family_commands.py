"""Commands on the family: its members, their values, and its table as CSV or pasted from a spreadsheet."""

from __future__ import annotations

import csv
import io
from typing import Any, Literal

from pydantic import Field

from ..errors import CommandRefused, FormulaError
from ..quantity import Kind, in_kind, parse
from ..stored import Stored
from .checks import scope_of
from .document import LedgerLine, Part
from .family import LONGEST, NAMED, TAGS, FamilyRow, without_tag
from .ledger_commands import spelt

__all__ = [
    "FAMILY",
    "AddFamilyRow",
    "AddFamilyTag",
    "EditFamilyRow",
    "MoveFamilyRow",
    "ReadFamily",
    "RemoveFamilyRow",
    "RemoveFamilyTag",
    "family_tags",
]

NAME = "name"  # the heading of the first column
MOST = 1000  # members


class AddFamilyRow(Stored):
    """Add a member to the family: by a name ("" for a free one) and formulas by tag. like : the member whose
    values it begins with."""

    do: Literal["add_family_row"] = "add_family_row"
    name: str = Field("", max_length=80)
    values: dict[str, str] = {}
    like: str = ""


class EditFamilyRow(Stored):
    """Rename a member, or change some of its values; "" leaves a value as it is in the part."""

    do: Literal["edit_family_row"] = "edit_family_row"
    row: str
    name: str | None = Field(None, max_length=80)
    values: dict[str, str] = {}


class MoveFamilyRow(Stored):
    """Move a member to behind another ("" for the beginning)."""

    do: Literal["move_family_row"] = "move_family_row"
    row: str
    after: str = ""


class RemoveFamilyRow(Stored):
    """Take a member out of the family."""

    do: Literal["remove_family_row"] = "remove_family_row"
    row: str


class AddFamilyTag(Stored):
    """Have every member say a value for a tag: the part's own, where it says none yet."""

    do: Literal["add_family_tag"] = "add_family_tag"
    tag: str


class RemoveFamilyTag(Stored):
    """Have no member say a value for a tag any more."""

    do: Literal["remove_family_tag"] = "remove_family_tag"
    tag: str


class ReadFamily(Stored):
    """Take members from a table as text: name and tags in the first line, cells parted by commas,
    semicolons or tabs. Members of the same name are changed, others are added."""

    do: Literal["read_family"] = "read_family"
    text: str = Field(max_length=1_000_000)


def family_tags(part: Part) -> list[str]:
    """Return the tags that the members of a family say values for, in the ledger's order; those that the
    ledger has no more come last."""
    used = dict.fromkeys(t for row in part.family for t in row.values)
    known = [r.tag for r in part.rows() if r.tag in used]
    return [*known, *(t for t in used if t not in known)]


def _row(part: Part, name: str) -> FamilyRow:
    found = next((r for r in part.family if r.name == name), None)
    if found is None:
        raise CommandRefused(f"There is no “{name}” in the family.", field="row")
    return found


def _named(part: Part, name: str, but: str = "") -> str:
    name = " ".join(name.split())
    if not name:
        raise CommandRefused("A member of the family has a name. Write one.", field=NAME)
    if name != but and any(r.name == name for r in part.family):
        raise CommandRefused(f"There is a “{name}” in the family already.", field=NAME)
    return name


def _checked(part: Part, tag: str, formula: str, rows: dict[str, LedgerLine]) -> str:
    """Return a formula that a tag can have; raises CommandRefused that names the tag. Whether it is within
    its limits, and whether the part can be built with it, is told when the member is checked."""
    formula = formula.strip()
    if len(formula) > LONGEST:
        raise CommandRefused(f"{tag}: a formula has at most {LONGEST} signs.", field=tag)
    if tag not in rows:
        raise CommandRefused(f"There is no tag “{tag}” in the ledger.", field=tag)
    try:
        read = parse(formula)
        if tag in read.tags:
            raise FormulaError(f"“{tag}” can not use itself.")
        outcome, scope = part.evaluated().get(tag), scope_of(part)
        value, kind = read.value(scope), rows[tag].kind
        if kind == Kind.ANY and outcome and outcome.value is not None:
            for of, dimension in ((Kind.LENGTH, "[length]"), (Kind.ANGLE, "[angle]")):
                kind = of if outcome.value.check(dimension) else kind
        if kind != Kind.ANY:
            in_kind(value, kind, part.units.units())
    except FormulaError as error:
        raise CommandRefused(f"{tag}: {error.message}", field=tag) from error
    return formula


def _changed(part: Part, held: dict[str, str], values: dict[str, str]) -> dict[str, str]:
    rows = {r.tag: r for r in part.rows()}
    found = dict(held)
    for tag, formula in values.items():
        if formula.strip():
            found[tag] = _checked(part, tag, formula, rows)
        else:
            found.pop(tag, None)
    if len(found) > TAGS:
        raise CommandRefused(f"A member says values for at most {TAGS} dimensions.", field="values")
    return found


def _with(part: Part, family: list[FamilyRow]) -> Part:
    return part.model_copy(update={"family": family})


def _add_row(part: Part, command: AddFamilyRow) -> Part:
    begins = dict(_row(part, command.like).values) if command.like else {}
    if not command.like:  # a table has no holes to begin with
        formulas = {r.tag: r.formula for r in part.rows()}
        begins = {t: formulas[t] for t in family_tags(part) if t in formulas}
    taken = {r.name for r in part.family}
    free = next(f"Member {n}" for n in range(1, MOST + 2) if f"Member {n}" not in taken)
    name = _named(part, command.name) if command.name.strip() else free
    return _with(part, [*part.family, FamilyRow(name=name, values=_changed(part, begins, command.values))])


def _edit_row(part: Part, command: EditFamilyRow) -> Part:
    old = _row(part, command.row)
    name = old.name if command.name is None else _named(part, command.name, old.name)
    new = FamilyRow(name=name, values=_changed(part, old.values, command.values))
    return _with(part, [new if r is old else r for r in part.family])


def _move_row(part: Part, command: MoveFamilyRow) -> Part:
    moved = _row(part, command.row)
    rest = [r for r in part.family if r is not moved]
    at = rest.index(_row(part, command.after)) + 1 if command.after else 0
    return _with(part, [*rest[:at], moved, *rest[at:]])


def _remove_row(part: Part, command: RemoveFamilyRow) -> Part:
    gone = _row(part, command.row)
    return _with(part, [r for r in part.family if r is not gone])


def _add_tag(part: Part, command: AddFamilyTag) -> Part:
    row = next((r for r in part.rows() if r.tag == command.tag), None)
    if row is None:
        raise CommandRefused(f"There is no tag “{command.tag}” in the ledger.", field=command.tag)
    if not part.family:
        raise CommandRefused("Add a member to the family first.", field=command.tag)
    family = [r.model_copy(update={"values": {command.tag: row.formula, **r.values}}) for r in part.family]
    return _with(part, family)


def _remove_tag(part: Part, command: RemoveFamilyTag) -> Part:
    return _with(part, without_tag(part.family, command.tag))


def _read(part: Part, command: ReadFamily) -> Part:
    lines = _table(command.text)
    head = [spelt(c) for c in lines[0][1]]
    if head[0].lower() not in (NAME, ""):
        raise CommandRefused(
            "This is no family: the first line names the columns, name and then tags.", field="line 1"
        )
    rows, family = {r.tag: r for r in part.rows()}, {r.name: r for r in part.family}
    for tag in head[1:]:
        if tag not in rows:
            raise CommandRefused(f"Line 1: there is no tag “{tag}” in the ledger.", field="line 1")
    seen = set()
    for number, cells in lines[1:]:
        name = " ".join(spelt(cells[0]).split())
        try:
            if not 0 < len(name) <= NAMED or name in seen:
                raise CommandRefused(f"a member has a name of its own, of at most {NAMED} signs.")
            if len(cells) > len(head):
                raise CommandRefused(f"there are {len(cells)} cells for {len(head)} columns.")
            seen.add(name)
            given = dict(zip(head[1:], map(spelt, cells[1:]), strict=False))
            held = family[name].values if name in family else {}
            family[name] = FamilyRow(name=name, values=_changed(part, held, given))
        except CommandRefused as error:
            raise CommandRefused(
                f"Line {number}: {error.message} Nothing was taken.", field=f"line {number}"
            ) from error
    return _with(part, list(family.values()))


def _table(text: str) -> list[tuple[int, list[str]]]:
    """Return the lines of a table that are not empty, with their numbers; raises CommandRefused."""
    text = text.removeprefix("\ufeff")
    first = text.partition("\n")[0]
    mark = max("\t;,", key=first.count)
    try:
        lines = [(n, c) for n, c in enumerate(csv.reader(io.StringIO(text), delimiter=mark), 1) if any(c)]
    except csv.Error as error:
        raise CommandRefused(f"This is no table that can be read: {error}.", field="the text") from error
    if len(lines) < 2:
        raise CommandRefused(
            "There is nothing to take: a line that names the columns, then one for each member.",
            field="the text",
        )
    return lines


FAMILY: dict[type, Any] = {
    AddFamilyRow: _add_row,
    EditFamilyRow: _edit_row,
    MoveFamilyRow: _move_row,
    RemoveFamilyRow: _remove_row,
    AddFamilyTag: _add_tag,
    RemoveFamilyTag: _remove_tag,
    ReadFamily: _read,
}
