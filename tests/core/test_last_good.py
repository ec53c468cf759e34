"""What has changed since a step was built last, and how it is put back: against parts changed by hand."""

from __future__ import annotations

from tests.building import TOP, drawn_on, f
from tests.samples import plate
from wendal.core.route.last_good import since
from wendal.demo.builder import Builder


def pocketed() -> Builder:
    b = plate()
    ring = drawn_on(b, TOP, "rectangle", (5, 5), (20, 15))
    b.step("extrude", "Pocket", profile=b.profile(ring, 0), extent="into", depth=f("4 mm"), result="cut")
    b.step("plane", "Aside", how="offset", first={"of": "base", "name": "XY"}, distance=f("3 mm"))
    return b


def test_values_that_a_step_hangs_on_are_told_and_others_are_not() -> None:
    b = pocketed()
    b.do(do="add_tag", tag="thick", formula="10 mm")
    b.do(do="set_formula", tag="base_depth", formula="thick")
    was = b.part
    b.do(do="set_formula", tag="thick", formula="2 mm")
    b.do(do="set_formula", tag="aside_distance", formula="9 mm")
    found = since(was, b.part, "s4")
    assert found.values == {"thick": "10 mm"}
    assert found.words == ["thick: 10 mm → 2 mm"]
    assert found.whole
    b.do(do="set_formulas", values=found.values)
    assert b.part.evaluated()["base_depth"].value is not None


def test_the_fields_of_a_step_are_put_back() -> None:
    b = pocketed()
    was = b.part
    b.do(do="edit_step", step="s4", fields={"extent": "out"})
    found = since(was, b.part, "s4")
    assert found.fields == {"extent": "into"}
    assert (found.values, found.whole) == ({}, True)


def test_what_two_sorts_of_edits_changed_is_told_and_not_put_back_by_one() -> None:
    b = pocketed()
    was = b.part
    b.do(do="edit_step", step="s4", fields={"extent": "out"})
    b.do(do="set_formula", tag="base_depth", formula="2 mm")
    found = since(was, b.part, "s4")
    assert (found.values, found.fields, found.whole) == ({"base_depth": "10 mm"}, {"extent": "into"}, False)
    b.do(do="remove_step", step="s3")
    found = since(was, b.part, "s4")
    assert not found.whole
    assert any("was removed" in w for w in found.words)


def test_nothing_changed_is_nothing() -> None:
    b = pocketed()
    found = since(b.part, b.part, "s4")
    assert (found.words, found.values, found.fields, found.whole) == ([], {}, {}, False)
