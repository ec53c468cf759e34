"""Formulas, units and the ledger: known answers and refusals."""

from __future__ import annotations

import math

import pytest
from hypothesis import assume, given, settings
from hypothesis import strategies as st

from wendal.core.errors import FormulaError
from wendal.core.quantity import (
    Definition,
    Kind,
    Units,
    evaluate_ledger,
    format_quantity,
    in_kind,
    parse,
    rename_tag,
    usable_tag,
)
from wendal.core.quantity.units import plain, quantity

SCOPE = {"plate_length": quantity(120, "mm"), "pitch": quantity(22, "mm"), "tilt": quantity(22, "deg"), "n": quantity(6),
         "wide": quantity(2, "in")}


def value(text: str, kind: Kind = Kind.LENGTH, units: str = "mm") -> float:
    return plain(in_kind(parse(text).value(SCOPE), kind, Units(units)), kind)


@pytest.mark.parametrize(("text", "kind", "expected"), [
    ("12 mm", Kind.LENGTH, 12), ("12", Kind.LENGTH, 12), ("1 in + 1 mm", Kind.LENGTH, 26.4), ("2.5 cm", Kind.LENGTH, 25),
    (".5 in", Kind.LENGTH, 12.7), ("plate_length / 2 - 3 mm", Kind.LENGTH, 57), ("max(3 mm, 1 in, 2 mm)", Kind.LENGTH, 25.4),
    ("min(plate_length, pitch)", Kind.LENGTH, 22), ("round(pitch / 4 mm)", Kind.COUNT, 6), ("floor(pitch / 4 mm)", Kind.COUNT, 5),
    ("ceil(pitch / 4 mm)", Kind.COUNT, 6), ("sin(30 deg) * 10 mm", Kind.LENGTH, 5), ("atan2(1 mm, 1 mm)", Kind.ANGLE, math.pi / 4),
    ("sqrt(9 mm^2)", Kind.LENGTH, 3), ("2 ^ 3 * 1 mm", Kind.LENGTH, 8), ("-2 ^ 2 * 1 mm", Kind.LENGTH, -4),
    ("2 ^ -1 * 1 mm", Kind.LENGTH, 0.5), ("1/2 in", Kind.ANY, None), ("if(wide > 40 mm, 6, 4)", Kind.COUNT, 6),
    ("if(wide > 40 mm and n == 5, 6, 4)", Kind.COUNT, 4), ("if(n == 5 or not(n > 7), 1, 2)", Kind.COUNT, 1),
    ("22°", Kind.ANGLE, math.radians(22)), ("tilt * 2", Kind.ANGLE, math.radians(44)), ("90", Kind.ANGLE, math.pi / 2),
    ("pi * 1 rad", Kind.ANGLE, math.pi), ("mod(7 mm, 4 mm)", Kind.LENGTH, 3), ("abs(-3 mm)", Kind.LENGTH, 3),
    ("3 mm × 2", Kind.LENGTH, 6), ("5 mm − 2 mm", Kind.LENGTH, 3), ("1e1 mm", Kind.LENGTH, 10), ("n * pitch", Kind.LENGTH, 132),
])
def test_values(text: str, kind: Kind, expected: float | None) -> None:
    if expected is None:
        assert str(parse(text).value(SCOPE).dimensionality) == "1 / [length]"  # a unit binds to its number first
    else:
        assert value(text, kind) == pytest.approx(expected, rel=1e-12)


@pytest.mark.parametrize(("text", "kind", "words", "at"), [
    ("", Kind.LENGTH, "is wanted here", 0), ("   ", Kind.LENGTH, "is wanted here", 0), ("1/0", Kind.LENGTH, "divides by zero", 0),
    ("3 mm + 2 deg", Kind.LENGTH, "mixes a length with an angle", 0), ("12 kg", Kind.LENGTH, "and this is a mass", None),
    ("nosuch", Kind.LENGTH, "no tag “nosuch”", 0), ("2 mm + plate_len", Kind.LENGTH, "Near to it: plate_length", 7),
    ("sin(3 mm)", Kind.ANY, "An angle is wanted", 0), ("sin(3)", Kind.ANY, "An angle is wanted", 0),
    ("log(3)", Kind.ANY, "There is no function “log”", 0), ("if(1, 2)", Kind.ANY, "if takes three", 0),
    ("sin()", Kind.ANY, "takes one value", 0), ("3 +", Kind.ANY, "ends too early", 3), ("3 ) 4", Kind.ANY, "“)” at character 3", 2),
    ("3 # 4", Kind.ANY, "“#” at character 3", 2), ("Plate", Kind.ANY, "“Plate” at character 1", 0),
    ("2.5", Kind.COUNT, "whole number", None), ("2 mm", Kind.COUNT, "A count is wanted", None), ("sqrt(-1)", Kind.ANY, "no value", 0),
    ("2 ^ (1 mm)", Kind.ANY, "exponent", 0), ("10 ^ 400", Kind.ANY, "no ", None), ("(-8) ^ 0.5", Kind.ANY, "no value", 0),
    ("plate_length plate_length", Kind.ANY, "operator", 13), ("mm", Kind.LENGTH, "write 1 mm", 0),
])
def test_refusals_say_what_and_where(text: str, kind: Kind, words: str, at: int | None) -> None:
    with pytest.raises(FormulaError, match=r".") as caught:
        value(text, kind)
    assert words in caught.value.message
    if at is not None:
        assert caught.value.at == at


@given(st.recursive(st.integers(0, 50).map(str), lambda inner: st.tuples(inner, st.sampled_from("+-*"), inner).map(
    lambda t: f"({t[0]} {t[1]} {t[2]})"), max_leaves=8))
def test_plain_arithmetic_agrees_with_python(text: str) -> None:
    assert parse(text).value({}).magnitude == pytest.approx(float(eval(text)))


@given(st.floats(-1e4, 1e4), st.sampled_from(["mm", "in", "cm", "ft"]), st.floats(-1e4, 1e4), st.sampled_from(["mm", "in", "m"]))
def test_units_mix_and_sums_commute(a: float, u: str, b: float, v: str) -> None:
    first, second = f"({a:.6f}) * 1 {u}", f"({b:.6f}) * 1 {v}"
    assert value(f"{first} + {second}") == pytest.approx(value(f"{second} + {first}"), rel=1e-12, abs=1e-9)
    assert value(f"{first} + {second}") == pytest.approx(value(first) + value(second), rel=1e-9, abs=1e-6)


@pytest.mark.parametrize(("text", "old", "new", "expected"), [
    ("a + aa - a", "a", "base_depth", "base_depth + aa - base_depth"), ("max(a, 3 mm)", "a", "b", "max(b, 3 mm)"), ("3 mm", "a", "b", "3 mm"),
])
def test_renaming_a_tag_touches_that_tag_alone(text: str, old: str, new: str, expected: str) -> None:
    assert rename_tag(text, old, new) == expected


@pytest.mark.parametrize(("figure", "unit", "units", "shown"), [
    (12.5, "mm", Units(), "12.5 mm"), (25.4, "mm", Units("in"), "1 in"), (22, "deg", Units(), "22°"), (6, "", Units(), "6"),
    (-0.0, "mm", Units(), "0 mm"), (1e-9, "mm", Units(), "0 mm"),
])
def test_values_are_shown_in_the_parts_units(figure: float, unit: str, units: Units, shown: str) -> None:
    assert format_quantity(quantity(figure, unit), units) == shown


def test_bare_numbers_take_the_parts_unit() -> None:
    assert value("2", units="in") == pytest.approx(50.8)


@pytest.mark.parametrize("tag", ["", "Depth", "9lives", "a__b", "a b", "deg", "mm", "pi", "if", "_a", "a_"])
def test_unusable_tags(tag: str) -> None:
    with pytest.raises(FormulaError):
        usable_tag(tag)


def test_a_taken_tag_is_refused() -> None:
    with pytest.raises(FormulaError, match="already"):
        usable_tag("depth", {"depth"})


def rows(**formulas: str) -> dict[str, object]:
    return dict(evaluate_ledger([Definition(t, f) for t, f in formulas.items()], Units()))


def test_the_ledger_is_worked_out_in_the_order_of_need() -> None:
    found = rows(c="a + b", b="a * 2", a="3 mm")
    assert [found[t].value.magnitude for t in "abc"] == [3, 6, 9]
    assert found["c"].uses == {"a", "b"}


def test_a_circle_is_named_and_what_uses_it_says_so() -> None:
    found = rows(a="b + 1 mm", b="c", c="a", d="a + 1 mm", e="5 mm")
    assert all("in a circle: " in found[t].error.message for t in "abc")
    assert "“a”, which this uses, has no value" in found["d"].error.message
    assert found["e"].value.magnitude == 5


def test_two_circles_and_a_tag_that_needs_itself() -> None:
    found = rows(a="a", b="c", c="b", d="1")
    assert "a → a" in found["a"].error.message
    assert found["b"].error
    assert found["d"].error is None


LENGTHS, ANGLES = {"mm": 0.001, "um": 1e-6, "cm": 0.01, "m": 1.0, "in": 0.0254, "ft": 0.3048}, {"deg": math.pi / 180, "rad": 1.0}
PLAIN = {  # a formula over a, b (of one kind), and the same in plain numbers of SI units; 1 where the result is a plain number
    "a / b": (lambda a, b: a / b, 1), "floor(a / b)": (lambda a, b: math.floor(a / b), 1), "ceil(a / b)": (lambda a, b: math.ceil(a / b), 1),
    "round(a / b)": (lambda a, b: math.floor(a / b + 0.5), 1), "2 ^ (a / b)": (lambda a, b: 2 ** (a / b), 1),
    "abs(-a / b)": (lambda a, b: a / b, 1), "a / b + 1": (lambda a, b: a / b + 1, 1), "-(a / b) - 25 %": (lambda a, b: -a / b - 0.25, 1),
    "min(a / b, 2)": (lambda a, b: min(a / b, 2), 1), "max(1, a / b)": (lambda a, b: max(1, a / b), 1), "atan2(a, b) / 1 rad": (math.atan2, 1),
    "atan(a / b) / 1 rad": (lambda a, b: math.atan(a / b), 1), "asin(min(1, a / b)) / 1 rad": (lambda a, b: math.asin(min(1, a / b)), 1),
    "acos(min(1, a / b)) / 1 rad": (lambda a, b: math.acos(min(1, a / b)), 1), "a > b": (lambda a, b: a > b, 1), "a <= b": (lambda a, b: a <= b, 1),
    "if(a / b - a / b, 1, 2)": (lambda a, b: 2, 1), "a / b > 1 and not(a < b)": (lambda a, b: a > b, 1), "a == b or a != b": (lambda a, b: 1, 1),
    "sqrt(a / b)": (lambda a, b: math.sqrt(a / b), 1), "a * a / (b * b)": (lambda a, b: (a / b) ** 2, 1), "(a / b) ^ 3": (lambda a, b: (a / b) ** 3, 1),
    "a + b": (lambda a, b: a + b, 0), "a - b": (lambda a, b: a - b, 0), "min(a, b)": (min, 0), "max(a, b)": (max, 0), "a * (b / a)": (lambda a, b: b, 0),
    "mod(a, b)": (lambda a, b: a - b * math.floor(a / b), 0), "sqrt(a * b)": (lambda a, b: math.sqrt(a * b), 0),
}


@pytest.mark.parametrize("text", PLAIN)
@settings(max_examples=10, deadline=None)
@given(st.data())
def test_units_make_no_difference(text: str, data: st.DataObject) -> None:
    """Every function and operator over mixed units gives what plain numbers in SI units give."""
    of = data.draw(st.sampled_from([LENGTHS, ANGLES]))
    (a, unit_a), (b, unit_b) = ((data.draw(st.integers(1, 400)) / 8, data.draw(st.sampled_from(sorted(of)))) for _ in range(2))
    si_a, si_b = a * of[unit_a], b * of[unit_b]
    ratio = si_a / si_b
    assume(abs(ratio * 2 - round(ratio * 2)) > 1e-9 and abs(ratio) < 1e3)  # jumps of floor, round and mod have rows of their own
    function, plain_result = PLAIN[text]
    found = parse(text).value({"a": quantity(a, unit_a), "b": quantity(b, unit_b)})
    assert found.dimensionless is bool(plain_result)
    scale = 1 if plain_result else (found.to("meter").magnitude if of is LENGTHS else found.to("radian").magnitude) / found.magnitude
    assert found.magnitude * scale == pytest.approx(float(function(si_a, si_b)), rel=1e-9, abs=1e-12)


@pytest.mark.parametrize(("text", "expected"), [
    ("floor(12 cm / 30 mm)", 4), ("floor(120 mm / 1.25 in)", 3), ("360 deg / 0.5 rad", 4 * math.pi), ("floor(0.3 m / 100 mm)", 3),
    ("ceil(0.3 m / 100 mm)", 3), ("1 in == 25.4 mm", 1), ("1 in <= 25.4 mm", 1), ("1 in < 25.4 mm", 0), ("mod(0.3 m, 100 mm) / 1 mm", 0),
    ("if(12 cm / 40 mm - 3, 5, 6)", 6), ("mod(-1 in, 10 mm) / 1 mm", 4.6),
])
def test_ratios_of_mixed_units(text: str, expected: float) -> None:
    assert value(text, Kind.ANY) == pytest.approx(expected, rel=1e-12, abs=1e-12)
