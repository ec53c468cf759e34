"""The document and its commands: what each turns into what, and what is refused."""

from __future__ import annotations

import json
from typing import Any

import pytest
from pydantic import TypeAdapter

from tests.samples import XY, block, evaluated, plate
from wendal.core.errors import CommandRefused, DocumentError, FormulaError, StepError, WendalError
from wendal.core.route import Command, Part, part_schema, read_part, say_command, stands_on, write_part
from wendal.demo import instrument_bracket


def test_a_part_reads_back_as_itself() -> None:
    part = instrument_bracket()
    text = write_part(part)
    assert read_part(text) == part
    assert write_part(read_part(text)) == text


def test_the_schema_is_published_and_covers_every_step() -> None:
    text = json.dumps(part_schema())
    assert all(f'"const": "{kind}"' in text for kind in ("plane", "sketch", "extrude"))


@pytest.mark.parametrize(("change", "field"), [
    ({"version": 99}, "version"), ({"format": "other"}, "format"), ({"name": ""}, "name"), ({"surprise": 1}, "surprise"),
    ({"steps": [{"kind": "weld", "id": "s1", "name": "A"}]}, "steps.0"), ({"steps": [{"id": "s1", "name": "A"}]}, "steps.0"),
    ({"stop_after": "s9"}, "stop_after"), ({"last": 0}, "last"), ({"ledger": [{"tag": "a", "formula": "1"}] * 2}, "a"),
])
def test_bad_json_names_its_first_bad_field(change: dict[str, Any], field: str) -> None:
    data = json.loads(write_part(plate().part)) | change
    with pytest.raises(DocumentError) as caught:
        read_part(json.dumps(data))
    assert caught.value.field == field


@pytest.mark.parametrize("text", ["", "{", "[]", "null", '{"name": NaN}', "\x00"])
def test_what_is_no_json_is_refused(text: str) -> None:
    with pytest.raises(DocumentError):
        read_part(text)


def test_numbers_get_tags_from_what_they_measure() -> None:
    assert [r.tag for r in plate().part.rows()] == ["outline_width", "outline_height", "base_depth"]


@pytest.mark.parametrize(("command", "error", "told"), [
    ({"do": "edit_step", "step": "s9", "fields": {}}, CommandRefused, "not in the route"),
    ({"do": "edit_step", "step": "s2", "fields": {"id": "s7"}}, CommandRefused, "keeps its id"),
    ({"do": "edit_step", "step": "s2", "fields": {"name": "Outline"}}, CommandRefused, "named “Outline” already"),
    ({"do": "edit_step", "step": "s2", "fields": {"depth": {"formula": "0 mm"}}}, StepError, "greater than zero"),
    ({"do": "edit_step", "step": "s2", "fields": {"profile": []}}, StepError, "still needs at least one closed region"),
    ({"do": "edit_step", "step": "s2", "fields": {"colour": "red"}}, DocumentError, "colour"),
    ({"do": "add_step", "step": {"kind": "weld"}}, DocumentError, "kind"),
    ({"do": "add_step", "step": {"kind": "plane", "name": "A"}}, StepError, "still needs a plane"),
    ({"do": "add_step", "step": {"kind": "plane", "first": XY, "distance": {"formula": "x_y"}}}, FormulaError, "no tag"),
    ({"do": "move_step", "step": "s2", "after": ""}, CommandRefused, "stands on “Outline”"),
    ({"do": "set_stop_line", "after": "s9"}, CommandRefused, "not in the route"),
    ({"do": "edit_sketch", "step": "s2", "edit": {"op": "remove", "entities": ["c1"]}}, CommandRefused, "not a sketch"),
    ({"do": "set_formula", "tag": "nosuch", "formula": "1"}, CommandRefused, "no tag “nosuch”"),
    ({"do": "set_formula", "tag": "base_depth", "formula": "-1 mm"}, StepError, "greater than zero"),
    ({"do": "set_formula", "tag": "outline_width", "formula": "base_depth + 4 deg"}, FormulaError, "mixes"),
    ({"do": "set_formula", "tag": "outline_width", "formula": "outline_width"}, FormulaError, "circle"),
    ({"do": "add_tag", "tag": "Pitch", "formula": "1"}, FormulaError, "lower-case"),
    ({"do": "add_tag", "tag": "base_depth", "formula": "1"}, FormulaError, "already"),
    ({"do": "add_tag", "tag": "pitch", "formula": "1 +"}, FormulaError, "ends too early"),
    ({"do": "remove_tag", "tag": "base_depth"}, CommandRefused, "belongs to “Base”"),
    ({"do": "rename_tag", "tag": "nosuch", "to": "a"}, CommandRefused, "no tag"),
    ({"do": "rename_tag", "tag": "base_depth", "to": "outline_width"}, FormulaError, "already"),
    ({"do": "rename_part", "name": "  "}, CommandRefused, "needs a name"),
])
def test_refusals(command: dict[str, Any], error: type[WendalError], told: str) -> None:
    b = plate()
    before = b.part
    with pytest.raises(error, match=told):
        b.do(**command)
    assert b.part is before


def test_a_refusal_names_field_and_step() -> None:
    b = plate()
    with pytest.raises(FormulaError) as caught:
        b.do(do="edit_step", step="s2", fields={"depth": {"formula": "1/0", "tag": "base_depth"}})
    assert (caught.value.field, caught.value.step) == ("depth", "s2")


def test_renaming_a_tag_reaches_every_formula() -> None:
    b = plate(depth="outline_width / 4")
    b.do(do="set_formula", tag="outline_height", formula="outline_width / 2")
    b.do(do="rename_tag", tag="outline_width", to="plate_length")
    assert {r.tag: r.formula for r in b.part.rows()} == {
        "plate_length": "40 mm", "outline_height": "plate_length / 2", "base_depth": "plate_length / 4"}


def test_a_used_tag_stays_and_an_unused_one_goes() -> None:
    b = plate()
    b.do(do="add_tag", tag="pitch", formula="7 mm")
    b.do(do="set_formula", tag="base_depth", formula="pitch")
    with pytest.raises(CommandRefused, match="used by base_depth"):
        b.do(do="remove_tag", tag="pitch")
    b.do(do="set_formula", tag="base_depth", formula="7 mm")
    b.do(do="remove_tag", tag="pitch")
    assert "pitch" not in b.part.tags()


def test_new_steps_go_behind_the_stop_line_and_take_it_along() -> None:
    b = block()
    b.do(do="set_stop_line", after="s2")
    b.step("plane", "Cover", first=XY)
    assert [s.id for s in b.part.steps] == ["s1", "s2", "s5", "s3", "s4"]
    assert b.part.stop_after == "s5"
    assert [r.state for r in evaluated(b).reports] == ["built", "built", "built", "waiting", "waiting"]


def test_removing_the_step_at_the_stop_line_moves_it_up() -> None:
    b = block()
    b.do(do="set_stop_line", after="s3")
    b.do(do="remove_step", step="s3")
    assert b.part.stop_after == "s2"


def test_what_stands_on_what() -> None:
    part = block().part
    assert [stands_on(s) for s in part.steps] == [set(), {"s1"}, {"s2"}, {"s2", "s3"}]


def test_inches_read_bare_numbers_anew() -> None:
    b = plate(depth="2")
    b.do(do="set_units", units={"length": "in"})
    (body,) = evaluated(b).site.bodies.values()
    assert max(v.place[2] for v in body.topology.vertices) == pytest.approx(50.8)


@pytest.mark.parametrize(("command", "said"), [
    ({"do": "set_formula", "tag": "base_depth", "formula": "14 mm"}, "Change base_depth to 14 mm"),
    ({"do": "remove_step", "step": "s2"}, "Delete Base"), ({"do": "rename_part", "name": "Foot"}, "Rename part Foot"),
    ({"do": "edit_sketch", "step": "s1", "edit": {"op": "remove", "entities": ["c3"]}}, "Remove geometry in Outline"),
])
def test_versions_are_told_in_words(command: dict[str, Any], said: str) -> None:
    assert said == say_command(plate().part, TypeAdapter(Command).validate_python(command))


def test_an_empty_part_is_a_part() -> None:
    assert evaluated(Part(name="Nothing")).reports == []


@pytest.mark.parametrize(("change", "told"), [
    ({"version": True}, "version"),
    ({"version": 99}, "made by a newer Wendal"),
    ({"last": -5}, "last"),
    ({"last": 10**40}, "last"),
    ({"steps.0.id": ""}, "a number"),
    ({"steps.0.id": "a/b"}, "a number"),
    ({"steps.0.id": "../x"}, "a number"),
    ({"steps.0.drawing.last": 0}, "at least the highest"),
    ({"steps.0.drawing.last": -1}, "at least the highest"),
    ({"steps.0.drawing.points.../p": [0, 0]}, "a letter and a number"),
])
def test_ids_and_counters_outside_of_their_form_are_refused(change: dict[str, Any], told: str) -> None:
    data = json.loads(write_part(plate().part))
    for path, value in change.items():
        *way, last = path.split(".", 4) if path.startswith("steps.0.drawing.points.") else path.split(".")
        at = data
        for name in way:
            at = at[int(name)] if name.isdigit() else at[name]
        at[last] = value
    with pytest.raises(DocumentError, match=told):
        read_part(json.dumps(data))
