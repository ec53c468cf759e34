"""Families: members checked as they are typed and as they are built, read from tables, renamed with their tags, brought together."""

from __future__ import annotations

import csv
import io
from typing import Any

import pytest

from tests.building import TOP, drawn_on, f
from tests.samples import plate
from wendal.core.errors import CommandRefused, WendalError
from wendal.core.route import Part, read_part, write_part
from wendal.core.route.family_commands import family_tags
from wendal.core.route.together import bring_together
from wendal.core.trust import FamilyFound, checked, family_csv, manifest
from wendal.demo.builder import Builder
from wendal.workers.trials import Here


def member(name: str, **values: str) -> dict[str, Any]:
    return {"do": "add_family_row", "name": name, "values": values}


def plates() -> Builder:
    b = plate()
    b.do(**member("Small", base_depth="5 mm", outline_width="30 mm"))
    b.do(**member("Thick", base_depth="2 * outline_height / 5"))
    return b


def rows(b: Builder) -> dict[str, dict[str, str]]:
    return {r.name: r.values for r in b.part.family}


def check(part: Part, *names: str) -> FamilyFound:
    return list(checked(part, names, Here()))[-1]


def test_members_are_built_with_their_values() -> None:
    b = plates()
    assert rows(b) == {"Small": {"base_depth": "5 mm", "outline_width": "30 mm"}, "Thick": {"outline_width": "40 mm", "base_depth": "2 * outline_height / 5"}}
    b.do(do="edit_family_row", row="Thick", values={"base_depth": "40 mm", "outline_width": ""})
    b.do(**member("Odd", base_depth="-1 mm"))
    found = check(b.part)
    assert found.state == "done"
    assert found.itself.figures["Base: volume"] == pytest.approx(10000)
    by = {m.name: m for m in found.members}
    assert by["Small"].figures["Base: volume"] == pytest.approx(30 * 25 * 5)
    assert by["Thick"].figures["Base: volume"] == pytest.approx(40 * 25 * 40)
    assert by["Odd"].judgement == "refused"
    assert by["Odd"].field == "depth"
    assert [m.name for m in check(b.part, "Thick").members] == ["Thick"]
    assert found.units["Base: volume"] == "mm³"


def test_another_kind_of_thing_is_told_and_is_no_failure() -> None:
    b = plate()
    hole = drawn_on(b, TOP, "circle", (10, 12), (13, 12), diameter="6 mm")
    b.step("extrude", "Bore", profile=b.profile(hole, 0), extent="into", depth=f("4 mm"), result="cut")
    b.do(**member("Through", bore_depth="10 mm"))
    b.do(**member("Deep", bore_depth="9 mm"))
    by = {m.name: m for m in check(b.part).members}
    assert by["Deep"].stands
    assert not by["Deep"].other
    assert by["Through"].stands
    assert "vanishes" in by["Through"].other


@pytest.mark.parametrize(
    ("command", "words", "field"),
    [
        (member("Small"), "There is a “Small” in the family already", "name"),
        ({"do": "edit_family_row", "row": "Small", "name": " "}, "has a name", "name"),
        ({"do": "edit_family_row", "row": "None"}, "There is no “None” in the family", "row"),
        (member("A", nothing="3 mm"), "no tag “nothing”", "nothing"),
        (member("A", base_depth="3 mm +"), "base_depth: ", "base_depth"),
        (member("A", base_depth="3 deg"), "base_depth: ", "base_depth"),
        (member("A", base_depth="2 * base_depth"), "can not use itself", "base_depth"),
        ({"do": "add_family_tag", "tag": "nothing"}, "no tag “nothing”", "nothing"),
        ({"do": "move_family_row", "row": "Small", "after": "None"}, "There is no “None”", "row"),
        ({"do": "read_family", "text": "name,nothing\nA,3"}, "Line 1: there is no tag “nothing”", "line 1"),
        ({"do": "read_family", "text": "name,base_depth\nA,3 mm\nA,4 mm"}, "Line 3: a member has a name of its own", "line 3"),
        ({"do": "read_family", "text": "name,base_depth\nA,3 mm,4 mm"}, "Line 2: there are 3 cells for 2 columns", "line 2"),
        ({"do": "read_family", "text": f"name,base_depth\n{'A' * 81},3 mm"}, "at most 80 signs", "line 2"),
        (member("A", base_depth="1 mm" + " + 1 mm" * 200), "at most 1000 signs", "base_depth"),
        ({"do": "read_family", "text": "name,base_depth"}, "nothing to take", "the text"),
        ({"do": "read_family", "text": "size,base_depth\nA,3"}, "This is no family", "line 1"),
    ],
)
def test_what_can_not_be_is_refused_with_its_field_and_changes_nothing(command: dict[str, Any], words: str, field: str) -> None:
    b = plates()
    before = b.part
    with pytest.raises(CommandRefused, match=words) as refused:
        b.do(**command)
    assert refused.value.field == field
    assert b.part is before


@pytest.mark.parametrize("mark", [",", ";", "\t"])
def test_a_table_is_read_back_as_it_was_written_and_changes_what_it_names(mark: str) -> None:
    b = plates()
    text = family_csv(b.part)
    cells = list(csv.reader(io.StringIO(text)))
    assert cells[0] == ["name", "outline_width", "base_depth"]
    out = io.StringIO()
    csv.writer(out, delimiter=mark).writerows([*cells, ["New one", "50 mm", "=20"], []])
    with pytest.raises(CommandRefused, match="Line 4"):
        b.do(do="read_family", text=out.getvalue())
    b.do(do="read_family", text="\ufeff" + out.getvalue().replace("=20", "20"))
    assert rows(b)["New one"] == {"outline_width": "50 mm", "base_depth": "20"}
    assert {n: rows(b)[n] for n in ("Small", "Thick")} == rows(plates())
    again = plate()
    again.do(do="read_family", text=family_csv(b.part))
    assert rows(again) == rows(b)
    assert read_part(write_part(b.part)) == b.part
    b.do(do="read_family", text="name,base_depth\nSmall,-3 mm\n")  # what a spreadsheet would run is marked
    assert "'-3 mm" in family_csv(b.part)
    again.do(do="read_family", text=family_csv(b.part))
    assert rows(again)["Small"]["base_depth"] == "-3 mm"


def test_members_follow_their_tags_and_their_order() -> None:
    b = plates()
    b.do(do="rename_tag", tag="base_depth", to="thick")
    assert family_tags(b.part) == ["outline_width", "thick"]
    b.do(do="rename_tag", tag="outline_height", to="wide")
    assert rows(b)["Thick"]["thick"] == "2 * wide / 5"
    b.do(do="add_tag", tag="own", formula="3 mm")
    b.do(do="add_family_tag", tag="own")
    assert rows(b)["Small"]["own"] == "3 mm"
    b.do(do="remove_tag", tag="own")
    assert "own" not in family_tags(b.part)
    b.do(do="remove_family_tag", tag="thick")
    assert family_tags(b.part) == ["outline_width"]
    b.do(do="add_family_row", like="Small")
    assert [r.name for r in b.part.family] == ["Small", "Thick", "Member 1"]
    assert rows(b)["Member 1"] == rows(b)["Small"]
    b.do(do="move_family_row", row="Member 1")
    b.do(do="move_family_row", row="Small", after="Thick")
    assert [r.name for r in b.part.family] == ["Member 1", "Thick", "Small"]
    b.do(do="remove_family_row", row="Thick")
    b.do(do="remove_step", step="s2")
    b.do(do="set_formula", tag="outline_width", formula="44 mm")
    assert [r.name for r in b.part.family] == ["Member 1", "Small"]


def test_a_tag_that_is_gone_is_told_when_the_member_is_checked() -> None:
    b = plates()
    b.do(do="remove_step", step="s2")
    assert family_tags(b.part) == ["outline_width", "base_depth"]
    by = {m.name: m for m in check(b.part).members}
    assert by["Small"].judgement == "refused"
    assert "no tag “base_depth”" in by["Small"].why
    with pytest.raises(CommandRefused, match="There is no family yet"):
        check(plate().part)


def test_members_of_two_branches_come_together() -> None:
    base = plates()
    ours, theirs = Builder("x"), Builder("x")
    ours.part = theirs.part = base.part
    ours.do(**member("Ours", base_depth="6 mm"))
    ours.do(do="rename_tag", tag="base_depth", to="thick")
    theirs.do(**member("Theirs", outline_width="60 mm"))
    theirs.do(do="edit_family_row", row="Thick", values={"outline_width": "41 mm"})
    made = bring_together(base.part, ours.part, theirs.part, {})
    assert [r.name for r in made.part.family] == ["Small", "Thick", "Ours", "Theirs"]


def test_several_values_at_once_are_checked_once() -> None:
    b = plate()
    b.do(do="set_remark", tag="outline_width", most="2 * outline_height")
    with pytest.raises(WendalError, match="no more than"):
        b.do(do="set_formula", tag="outline_width", formula="80 mm")
    b.do(do="set_formulas", values={"outline_height": "60 mm", "outline_width": "80 mm"}, why="Wider")
    assert {r.tag: r.formula for r in b.part.rows()}["outline_width"] == "80 mm"
    with pytest.raises(WendalError, match="no tag"):
        b.do(do="set_formulas", values={"outline_height": "61 mm", "none": "1"})
    assert manifest([("A", "x = 1", "A.step", "written")]).splitlines() == ["member,values,file,state", "A,x = 1,A.step,written"]
