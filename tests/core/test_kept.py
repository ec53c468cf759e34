"""Kept measures: they follow the part, formulas behind them read them, and what is lost is told."""

from __future__ import annotations

import math
from typing import Any

import pytest

from tests.building import BODY, BOTTOM, TOP, axis, datum, drawn_on, f
from tests.samples import evaluated, plate
from wendal.core.errors import CommandRefused, FormulaError
from wendal.core.inspect import ledger_rows
from wendal.core.reference import edge_ref
from wendal.core.route import Memory, evaluate, read_part, write_part
from wendal.core.route.gauging import Gauge
from wendal.demo.builder import Builder


def keep(b: Builder, tag: str, *things: Any, key: str = "least", unit: str = "length", after: str = "s2", worth: float = 10.0) -> None:
    b.do(do="keep_measure", measure={"tag": tag, "things": list(things), "key": key, "unit": unit, "after": after, "worth": worth})


def row(b: Builder, tag: str) -> dict[str, Any]:
    return next(r for r in ledger_rows(b.part, evaluated(b)) if r["tag"] == tag)


def change(b: Builder, tag: str, formula: str) -> None:
    b.do(do="set_formula", tag=tag, formula=formula)


KINDS = [("high", (TOP, BOTTOM), "plane", "length", lambda w, h, d: d), ("least", (TOP, BOTTOM), "least", "length", lambda w, h, d: d),
         ("up", (BOTTOM, TOP), "plane:z", "length", lambda w, h, d: d), ("top", (TOP,), "area", "area", lambda w, h, d: w * h),
         ("round", (TOP,), "perimeter", "length", lambda w, h, d: 2 * (w + h)), ("all", (BODY,), "volume", "volume", lambda w, h, d: w * h * d),
         ("skin", (BODY,), "area", "area", lambda w, h, d: 2 * (w * h + h * d + w * d)), ("middle", (BODY,), "centre_x", "length", lambda w, h, d: w / 2),
         ("slope", (TOP, axis("XY")), "angle", "angle", lambda w, h, d: 0.0), ("two", (TOP, axis("XY")), "plane", "length", lambda w, h, d: d)]


@pytest.mark.parametrize(("tag", "things", "key", "unit", "right"), KINDS, ids=[k[0] for k in KINDS])
def test_a_kept_measure_follows_the_part(tag: str, things: Any, key: str, unit: str, right: Any) -> None:
    b = plate()
    keep(b, f"m_{tag}", *things, key=key, unit=unit)
    for w, h, d in ((40, 25, 10), (61.5, 12, 7.25), (8, 9, 120)):
        for name, v in (("outline_width", w), ("outline_height", h), ("base_depth", d)):
            change(b, name, f"{v} mm")
        found = row(b, f"m_{tag}")
        assert found["value"] == pytest.approx(right(w, h, d), rel=1e-9, abs=1e-9)
        assert found["kept"]["state"] == "sound"
        assert found["error"] == ""


def test_steps_behind_a_measure_read_it_and_follow() -> None:
    b = plate()
    keep(b, "high", TOP, BOTTOM, key="plane")
    ring = drawn_on(b, axis("XY"), "circle", (60, 0), (65, 0))
    pin = b.step("extrude", "Pin", profile=b.profile(ring, 0), depth=f("2 * high"))
    b.do(do="add_tag", tag="half", formula="high / 2")
    for d in (10, 17.5):
        change(b, "base_depth", f"{d} mm")
        e = evaluated(b)
        assert e.report(pin).state == "built"
        assert e.ledger["half"].value.to("mm").magnitude == pytest.approx(d / 2)
        assert e.ledger["pin_depth"].value.to("mm").magnitude == pytest.approx(2 * d)
    assert set(row(b, "high")["used_by"]) == {"half", "pin_depth"}
    assert read_part(write_part(b.part)) == b.part


def test_only_steps_whose_formulas_reach_it_are_built_again() -> None:
    b = plate()
    ring = drawn_on(b, axis("XY"), "circle", (60, 0), (65, 0))
    plain = b.step("extrude", "Plain", profile=b.profile(ring, 0), depth=f("20 mm"))
    keep(b, "wide", BODY, key="volume", unit="volume", after=plain)
    other = drawn_on(b, axis("XY"), "circle", (90, 0), (95, 0))
    late = b.step("extrude", "Late", profile=b.profile(other, 0), depth=f("20 mm"))
    reader = b.step("extrude", "Reader", profile=b.profile(other, 0), depth=f("wide / 1000 mm^2"))
    memory = Memory()
    evaluate(b.part, memory)
    change(b, "base_depth", "12 mm")
    e = evaluate(b.part, memory)
    assert [e.report(s).remembered for s in (plain, late, reader)] == [True, True, False]


def test_a_measure_in_a_formula_before_it_is_refused_and_changes_nothing() -> None:
    b = plate()
    keep(b, "high", TOP, BOTTOM, key="plane")
    before = b.part
    with pytest.raises(FormulaError, match="“high” is measured after Base, and Outline comes before"):
        change(b, "outline_width", "4 * high")
    with pytest.raises(FormulaError, match="“high” is measured after Base, and Base comes"):
        change(b, "base_depth", "high + 1 mm")
    b.do(do="add_tag", tag="twice", formula="2 * high")
    with pytest.raises(FormulaError, match="Outline comes before"):
        change(b, "outline_width", "twice")
    keep(b, "last", TOP, key="area", unit="area", after="")
    with pytest.raises(FormulaError, match="at the end of the route"):
        change(b, "base_depth", "last / 1 mm")
    assert b.part.steps == before.steps


def test_what_is_lost_says_so_and_so_do_the_formulas_that_read_it() -> None:
    b = plate()
    other = drawn_on(b, axis("XY"), "circle", (60, 0), (65, 0))
    pin = b.step("extrude", "Pin", profile=b.profile(other, 0), depth=f("8 mm"))
    keep(b, "pin_top", {"of": "face", "body": pin, "names": [f"{pin}/end/r1"]}, axis("XY"), key="plane", after=pin, worth=8)
    third = drawn_on(b, axis("XY"), "circle", (90, 0), (95, 0))
    last = b.step("extrude", "Last", profile=b.profile(third, 0), depth=f("pin_top"))
    b.do(do="add_tag", tag="more", formula="pin_top + 1 mm")
    assert evaluated(b).report(last).state == "built"
    b.do(do="edit_step", step=pin, fields={"suppressed": True})
    e = evaluated(b)
    assert e.report(last).state == "stopped"
    assert "The measure “pin_top” is not there" in e.report(last).message
    assert "The measure “pin_top” is not there" in e.ledger["more"].error.message
    assert row(b, "pin_top")["kept"]["state"] == "waiting"
    b.do(do="edit_step", step=pin, fields={"suppressed": False})
    assert evaluated(b).report(last).state == "built"
    b.do(do="remove_step", step=pin)
    found = row(b, "pin_top")
    assert found["kept"]["state"] == "lost"
    assert "deleted" in found["error"]
    b.do(do="edit_kept", tag="pin_top", things=[TOP, axis("XY")])
    assert row(b, "pin_top")["value"] == pytest.approx(10)
    assert evaluated(b).report(last).state == "built"


def test_a_range_that_is_left_is_told_and_refuses_nothing() -> None:
    b = plate()
    keep(b, "high", TOP, BOTTOM, key="plane")
    keep(b, "top", TOP, key="area", unit="area")
    b.do(do="set_remark", tag="high", least="8 mm", most="12")
    b.do(do="set_remark", tag="top", least="900", most="")
    assert row(b, "high")["kept"]["outside"] == row(b, "top")["kept"]["outside"] == ""
    change(b, "base_depth", "7 mm")
    change(b, "outline_width", "30 mm")
    assert row(b, "high")["kept"]["outside"] == "“high” comes to 7 mm; it may be no less than 8 mm."
    assert "no less than 900" in row(b, "top")["kept"]["outside"]
    change(b, "base_depth", "12.5 mm")
    assert "no more than 12" in row(b, "high")["kept"]["outside"]


def test_a_range_that_holds_nothing_or_is_of_another_kind_is_refused() -> None:
    b = plate()
    keep(b, "high", TOP, BOTTOM, key="plane")
    with pytest.raises(CommandRefused, match="No value is between 9 mm and 8 mm"):
        b.do(do="set_remark", tag="high", least="9 mm", most="8 mm")
    for tag in ("high", "base_depth"):
        with pytest.raises(FormulaError, match="3 deg is not of the kind of 10 mm"):
            b.do(do="set_remark", tag=tag, least="3 deg")


def test_a_limit_that_can_not_be_told_any_more_is_said_and_stops_no_part() -> None:
    b = plate()
    keep(b, "high", TOP, BOTTOM, key="plane")
    b.do(do="add_tag", tag="lim", formula="4 mm")
    b.do(do="set_remark", tag="high", least="lim")
    b.do(do="remove_tag", tag="lim")
    part = read_part(write_part(b.part))
    found = next(r for r in ledger_rows(part, evaluated(part)) if r["tag"] == "high")
    assert found["kept"]["outside"].startswith("What “high” may be can not be told: There is no tag “lim”")


def test_a_measure_that_fails_by_our_fault_is_lost_alone(monkeypatch: pytest.MonkeyPatch, faults: list[Any]) -> None:
    b = plate()
    keep(b, "high", TOP, BOTTOM, key="plane")
    keep(b, "top", TOP, key="area", unit="area")
    monkeypatch.setattr(Gauge, "between", lambda *a: 1 / 0)
    evaluation = evaluate(b.part, Memory())  # which remembers no gauge that was whole
    assert evaluation.report("s2").state == "built"
    found = {r["tag"]: r for r in ledger_rows(b.part, evaluation)}
    assert "failed inside Wendal" in found["high"]["error"]
    assert found["top"]["value"] == pytest.approx(1000)
    assert faults
    faults.clear()


def test_only_figures_told_by_axes_hang_on_their_system() -> None:
    b = plate()
    corner = b.step("point", "Corner", how="coordinates", x=f("40 mm"), y=f("25 mm"), z=f("10 mm"))
    system = b.step("system", "Turned", how="axes", first=datum(corner), second=axis("Y"), third=axis("Z"))
    for tag, key in (("high", "plane"), ("up", "plane:z")):
        b.do(do="keep_measure", measure={"tag": tag, "things": [BOTTOM, TOP], "key": key, "unit": "length", "after": system, "system": system, "worth": 10})
    assert row(b, "high")["value"] == pytest.approx(10)
    assert row(b, "up")["value"] == pytest.approx(0, abs=1e-9)  # its Z is the part's X or Y
    b.do(do="remove_step", step=system)
    assert row(b, "high")["value"] == pytest.approx(10)
    assert "coordinate system" in row(b, "up")["error"]


def test_tags_of_measures_are_tags() -> None:
    b = plate()
    keep(b, "high", TOP, BOTTOM, key="plane")
    b.do(do="add_tag", tag="half", formula="high / 2")
    for command in ({"do": "add_tag", "tag": "high", "formula": "1"}, {"do": "rename_tag", "tag": "base_depth", "to": "high"}):
        with pytest.raises(FormulaError, match="There is a tag “high” already"):
            b.do(**command)
    with pytest.raises(FormulaError, match="already"):
        keep(b, "base_depth", TOP, key="area", unit="area")
    with pytest.raises(CommandRefused, match="used by half"):
        b.do(do="remove_tag", tag="high")
    b.do(do="rename_tag", tag="high", to="tall")
    assert b.part.ledger[0].formula == "tall / 2"
    assert evaluated(b).ledger["half"].value.to("mm").magnitude == pytest.approx(5)
    b.do(do="remove_tag", tag="half")
    b.do(do="remove_tag", tag="tall")
    assert b.part.kept == []
    with pytest.raises(CommandRefused, match="no kept measure"):
        b.do(do="edit_kept", tag="tall", after="s1")


def test_a_deleted_step_hands_its_measures_to_the_one_before() -> None:
    b = plate()
    topology = evaluated(b).site.bodies["s2"].topology
    upright = next(i for i, e in enumerate(topology.edges) if abs(e.tangent[2]) > 0.9)
    b.step("fillet", "Soft", edges=[edge_ref("s2", topology, upright).model_dump(mode="json")], radius=f("2 mm"))
    keep(b, "top", TOP, key="area", unit="area", after="s3")
    assert row(b, "top")["value"] == pytest.approx(1000 - (4 - math.pi))
    b.do(do="remove_step", step="s3")
    assert b.part.kept[0].after == "s2"
    assert row(b, "top")["value"] == pytest.approx(1000)


def test_a_figure_of_another_kind_is_lost() -> None:
    b = plate()
    keep(b, "high", TOP, BOTTOM, key="volume", unit="volume")
    assert row(b, "high")["kept"]["state"] == "lost"
    assert "no such figure" in row(b, "high")["error"]
