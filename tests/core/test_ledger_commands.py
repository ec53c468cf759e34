"""Remarks, limits, order, CSV and measures of steps in the ledger."""

from __future__ import annotations

import pytest

from tests.samples import block, evaluated, plate
from wendal.core import exchange
from wendal.core.errors import CommandRefused, FormulaError, WendalError
from wendal.core.inspect import ledger_rows
from wendal.core.route import read_part, write_part
from wendal.demo import instrument_bracket
from wendal.demo.builder import Builder


@pytest.mark.parametrize(("remark", "formula", "told"), [
    ({"least": "8 mm"}, "7 mm", "no less than 8 mm"), ({"most": "outline_width / 2"}, "21 mm", "no more than outline_width / 2"),
    ({"values": ["10 mm", "12 mm", "1 in"]}, "11 mm", "it may be 10 mm, 12 mm, 1 in"), ({"least": "8"}, "7.9", "no less than 8"),
])
def test_a_value_that_is_not_allowed_is_refused(remark: dict, formula: str, told: str) -> None:
    b = plate()
    b.do(do="set_remark", tag="base_depth", **remark)
    with pytest.raises(FormulaError, match=told):
        b.do(do="set_formula", tag="base_depth", formula=formula)
    b.do(do="set_formula", tag="base_depth", formula="12 mm")


def test_limits_hold_when_another_tag_drives_the_value() -> None:
    b = plate(depth="outline_width / 4")
    b.do(do="set_remark", tag="base_depth", most="12 mm", note="sheet stock")
    with pytest.raises(FormulaError, match="“base_depth” comes to 15 mm"):
        b.do(do="set_formula", tag="outline_width", formula="60 mm")
    assert ledger_rows(b.part, evaluated(b))[2]["note"] == "sheet stock"


def test_bad_remarks_are_refused_and_an_empty_one_goes() -> None:
    b = plate()
    with pytest.raises(FormulaError, match="no tag"):
        b.do(do="set_remark", tag="base_depth", least="nosuch")
    with pytest.raises(FormulaError, match="no less than 20 mm"):
        b.do(do="set_remark", tag="base_depth", least="20 mm")
    b.do(do="set_remark", tag="base_depth", note="x")
    b.do(do="set_remark", tag="base_depth")
    assert b.part.remarks == {}


def test_a_tolerance_tells_its_limits_at_the_value_that_the_tag_has() -> None:
    b = plate()
    b.do(do="set_remark", tag="base_depth", tolerance="h6")
    row = next(r for r in ledger_rows(b.part, evaluated(b)) if r["tag"] == "base_depth")
    assert (row["tolerance"], row["limits"]) == ("h6", "0/−0.009")  # 10 mm
    b.do(do="set_formula", tag="base_depth", formula="11 mm")
    assert "0/−0.011" in {r["limits"] for r in ledger_rows(b.part, evaluated(b))}
    for tag, tolerance, told in (("base_depth", "tight", "a class by ISO 286"), ("base_depth", "K9", "up to grade 8")):
        with pytest.raises(CommandRefused, match=told):
            b.do(do="set_remark", tag=tag, tolerance=tolerance)
    b.do(do="add_tag", tag="turn", formula="3 deg")
    with pytest.raises(CommandRefused, match="in degrees"):
        b.do(do="set_remark", tag="turn", tolerance="h6")
    b.do(do="set_remark", tag="turn", tolerance="±0.5")
    b.do(do="add_tag", tag="many", formula="3")
    with pytest.raises(CommandRefused, match="no length and no angle"):
        b.do(do="set_remark", tag="many", tolerance="±0.5")


def test_renaming_and_removing_take_remarks_along() -> None:
    b = plate()
    b.do(do="add_tag", tag="stock", formula="12 mm", note="as bought")
    b.do(do="set_remark", tag="base_depth", most="stock")
    b.do(do="rename_tag", tag="stock", to="sheet")
    assert b.part.remarks["base_depth"].most == "sheet"
    b.do(do="rename_tag", tag="base_depth", to="depth")
    assert b.part.remarks["depth"].most == "sheet"
    b.do(do="remove_tag", tag="sheet")
    assert "sheet" not in b.part.remarks


def test_own_tags_are_put_in_order() -> None:
    b = plate()
    for tag in ("a", "b", "c"):
        b.do(do="add_tag", tag=tag, formula="1")
    b.do(do="move_tag", tag="c", after="")
    b.do(do="move_tag", tag="a", after="b")
    assert [e.tag for e in b.part.ledger] == ["c", "b", "a"]
    with pytest.raises(CommandRefused, match="place with its step"):
        b.do(do="move_tag", tag="base_depth", after="a")


def test_the_ledger_goes_out_and_in_as_csv() -> None:
    b = Builder("x")
    b.part = instrument_bracket()
    text = exchange.export(b.part, evaluated(b), "csv").decode()
    lines = text.splitlines()
    assert lines[0] == "tag,formula,value,note,least,most,values,tolerance"
    assert "seat_tilt,22 deg,22°,against the foot,,,," in lines
    before = b.part
    b.do(do="read_ledger", text=text)
    assert b.part == before
    changed = text.replace("seat_tilt,22 deg,22°,against the foot,,,,", "seat_tilt,30 deg,,steeper,10 deg,40 deg,,").rstrip() + "\r\nspare,3 mm,,,,,1 mm; 3 mm,h6\r\n"
    b.do(do="read_ledger", text=changed)
    assert b.part.remarks["seat_tilt"].most == "40 deg"
    assert b.part.remarks["spare"].values == ["1 mm", "3 mm"]
    assert evaluated(b).ledger["seat_tilt"].value.to("degree").magnitude == pytest.approx(30)
    assert read_part(write_part(b.part)) == b.part


@pytest.mark.parametrize(("text", "told"), [
    ("", "This is no ledger"), ("a,b\n1,2\n", "This is no ledger"), ("tag,formula\nbase_depth,1/0\n", "In line 2, at base_depth"),
    ("tag,formula\nbase_depth,12 mm\nBad Tag,3\n", "In line 3, at Bad Tag"),
])
def test_csv_that_does_not_fit_names_its_line_and_nothing_is_taken(text: str, told: str) -> None:
    b = plate()
    before = b.part
    with pytest.raises(CommandRefused, match=told):
        b.do(do="read_ledger", text=text)
    assert b.part is before


def test_the_volume_of_a_step_can_be_used_by_later_ones() -> None:
    b = block()
    b.do(do="set_formula", tag="boss_depth", formula="base.volume / (50 mm * 20 mm)")
    assert evaluated(b).report("s4").state == "built"
    assert evaluated(b).ledger["boss_depth"].value.to("millimeter").magnitude == pytest.approx(10)
    b.do(do="set_formula", tag="outline_width", formula="60 mm")
    assert evaluated(b).ledger["boss_depth"].value.to("millimeter").magnitude == pytest.approx(15)
    b.do(do="add_tag", tag="blank_area", formula="outline.area * 2")
    assert evaluated(b).ledger["blank_area"].value.magnitude == pytest.approx(3000)


@pytest.mark.parametrize(("tag", "formula", "told"), [
    ("base_depth", "boss.volume / 400 mm^2", "“boss.volume” is known only when Boss is built, and Base comes before it"),
    ("base_depth", "base.volume / 400 mm^2", "to it by this very number"), ("boss_depth", "base.weight", "has no value here"),
    ("boss_depth", "base.volume", "A length is wanted"), ("boss_depth", "nosuch.volume / 1 mm^2", "has no value here"),
])
def test_measures_that_are_not_known_yet_are_refused(tag: str, formula: str, told: str) -> None:
    b = block()
    with pytest.raises(FormulaError, match=told):
        b.do(do="set_formula", tag=tag, formula=formula)


def test_a_circle_through_a_tag_and_a_measure_is_refused() -> None:
    b = block()
    b.do(do="add_tag", tag="size", formula="boss.volume / 100 mm^2")
    with pytest.raises(FormulaError, match="known only when Boss is built"):
        b.do(do="set_formula", tag="outline_width", formula="size")


def test_a_long_ledger_is_read_at_once_and_what_is_wrong_names_its_line() -> None:
    b = plate()
    rows = [f"t{chr(97 + i // 26 % 26)}{chr(97 + i % 26)}{chr(97 + i // 676)},{i + 1} mm,note {i}" for i in range(1000)]
    lines = ["tag,formula,note", *rows, "outline_width,taa" + "a / 1 + 40 mm,"]
    b.do(do="read_ledger", text="\n".join(lines))
    assert len(b.part.ledger) == 1000
    assert evaluated(b).ledger["outline_width"].value.to("mm").magnitude == pytest.approx(41)  # type: ignore[union-attr]
    before = b.part
    for wrong, told in (("taaa,1 kg *", "In line 2, at taaa: "), ("outline_width,-3 mm", "In line 2, at outline_width: A line's length is greater than zero"),
                        ("Bad Tag,1", "In line 2, at Bad Tag"), ("x," + "9" * 200_000, "field larger than field limit")):
        text = "tag,formula\n" + wrong
        with pytest.raises(WendalError, match=told):
            b.do(do="read_ledger", text=text)
    assert b.part is before


def test_cells_that_a_spreadsheet_would_run_are_text_to_it_and_come_back() -> None:
    b = plate()
    b.do(do="add_tag", tag="drop", formula="-5 mm", note="=SUM(A1:A9)")
    text = exchange.export(b.part, evaluated(b), "csv").decode()
    assert "drop,'-5 mm,'-5 mm,'=SUM(A1:A9)" in text
    b.do(do="set_formula", tag="drop", formula="-6 mm")
    b.do(do="read_ledger", text=text)
    assert next(e.formula for e in b.part.ledger if e.tag == "drop") == "-5 mm"
    assert b.part.remarks["drop"].note == "=SUM(A1:A9)"
