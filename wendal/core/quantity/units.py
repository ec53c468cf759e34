"""Units and kinds of quantity.

An own pint registry in which an angle has a dimension of its own, so that `12 deg` can never pass for a
plain number. Inside Wendal lengths are mm, angles rad, and plain numbers have no unit.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from enum import StrEnum
from typing import Any

import pint

from ..errors import FormulaError
from ..tolerance import ROUNDING, SAME_NUMBER

__all__ = [
    "UNIT_NAMES",
    "Kind",
    "Quantity",
    "Units",
    "dimension_words",
    "format_plain",
    "format_quantity",
    "in_kind",
    "kind_of",
    "plain",
    "quantity",
    "reduced",
    "whole",
]


Quantity = Any  # pint's quantity class is made per registry, so it has no static name

_registry: Any = pint.UnitRegistry(None, autoconvert_to_preferred=False)
for _definition in (
    "millimeter = [length] = mm",
    "micrometer = 0.001 * millimeter = um",
    "centimeter = 10 * millimeter = cm",
    "meter = 1000 * millimeter = m",
    "inch = 25.4 * millimeter = in",
    "foot = 12 * inch = ft",
    "radian = [angle] = rad",
    "degree = 0.017453292519943295 * radian = deg",
    "gram = [mass] = g",
    "kilogram = 1000 * gram = kg",
    "second = [time] = s",
):
    _registry.define(_definition)

# What may stand behind a number in a formula.
UNIT_NAMES = {
    "mm": "millimeter",
    "um": "micrometer",
    "µm": "micrometer",
    "cm": "centimeter",
    "m": "meter",
    "in": "inch",
    "ft": "foot",
    "rad": "radian",
    "deg": "degree",
    "°": "degree",
    "g": "gram",
    "kg": "kilogram",
    "s": "second",
}


class Kind(StrEnum):
    """What a blank or a tag wants to be."""

    LENGTH = "length"
    ANGLE = "angle"
    COUNT = "count"
    SHARE = "share"
    ANY = "any"


_KIND_UNIT = {Kind.LENGTH: "millimeter", Kind.ANGLE: "radian"}
_WORDS = {
    "[length]": "a length",
    "[angle]": "an angle",
    "[mass]": "a mass",
    "[time]": "a time",
    "[length] ** 2": "an area",
    "[length] ** 3": "a volume",
    "dimensionless": "a plain number",
}


@dataclass(frozen=True, slots=True)
class Units:
    """The units a bare number takes in a blank of this part, and in which values are shown."""

    length: str = "mm"
    angle: str = "deg"


def quantity(value: float, unit: str = "") -> Quantity:
    """Return value with a unit by its short name (`mm`, `deg`, …), or a plain number."""
    return _registry.Quantity(value, UNIT_NAMES[unit] if unit else "dimensionless")


def reduced(value: Quantity) -> Quantity:
    """Return a quantity whose magnitude may be read: a ratio of mixed units (cm/mm, deg/rad) becomes the
    plain number it is."""
    return value.to("dimensionless") if value.dimensionless else value


def whole(value: float) -> float:
    """Return the whole number that a value is but for rounding (`0.3 m / 100 mm` is 3), else the value
    itself."""
    near = round(value)
    return float(near) if abs(value - near) <= ROUNDING * max(1.0, abs(value)) else value


def kind_of(value: Quantity) -> str:
    """Say in words what a quantity is: "a length", "an angle", "a plain number" …"""
    return dimension_words(str(value.dimensionality))


def dimension_words(dimension: str) -> str:
    """Say a dimension in words, from pint's way of writing it: `[length]`, `[length] ** 2`,
    `dimensionless`."""
    dimension = dimension.strip("()")
    return _WORDS.get(dimension, f"something that is {dimension}")


def plain(value: Quantity, kind: Kind) -> float:
    """Return the bare magnitude of a quantity of that kind: mm, rad or a number."""
    if value.dimensionless:
        return float(value.magnitude)
    return (
        float(value.to(_KIND_UNIT[kind]).magnitude)
        if kind in _KIND_UNIT
        else float(value.to_base_units().magnitude)
    )


def in_kind(value: Quantity, kind: Kind, units: Units) -> Quantity:
    """Read a quantity as a blank of that kind does: a bare number takes the part's unit.

    Raises FormulaError when the unit is of another kind, or a count is not whole.
    """
    if kind is Kind.ANY:
        return value
    if kind is Kind.SHARE:
        if not value.dimensionless:
            raise FormulaError(f"A share is wanted here, for example 50 %, and this is {kind_of(value)}.")
        return value
    if kind is Kind.COUNT:
        if not value.dimensionless:
            raise FormulaError(
                f"A count is wanted here, and this is {kind_of(value)}; divide by a unit, for example 1 mm."
            )
        if abs(value.magnitude - round(value.magnitude)) > SAME_NUMBER:
            raise FormulaError(
                f"A whole number is wanted here, and this is {value.magnitude:g}; use round, floor or ceil."
            )
        return quantity(round(value.magnitude))
    if value.dimensionless:
        return quantity(value.magnitude, units.length if kind is Kind.LENGTH else units.angle)
    if not value.check("[length]" if kind is Kind.LENGTH else "[angle]"):
        example = f"12 {units.length}" if kind is Kind.LENGTH else "22 deg"
        wanted = "A length" if kind is Kind.LENGTH else "An angle"
        raise FormulaError(f"{wanted} is wanted here, for example {example}, and this is {kind_of(value)}.")
    return value


def format_quantity(value: Quantity, units: Units, kind: Kind = Kind.ANY) -> str:
    """Write a quantity in the part's units: `12 mm`, `22°`, `6`, a share as `50 %`."""
    if kind is Kind.SHARE:
        return f"{_figure(100 * value.magnitude)} %"
    if value.dimensionless:
        return _figure(value.magnitude)
    if value.check("[length]"):
        return f"{_figure(value.to(UNIT_NAMES[units.length]).magnitude)} {units.length}"
    if value.check("[angle]"):
        figure = _figure(value.to(UNIT_NAMES[units.angle]).magnitude)
        return f"{figure}°" if units.angle == "deg" else f"{figure} {units.angle}"
    base = value.to_base_units()
    return f"{_figure(base.magnitude)} {base.units:~P}"


def format_plain(value: float, kind: Kind, units: Units) -> str:
    """Write a bare length (mm) or angle (rad) as `format_quantity` does."""
    if kind is Kind.LENGTH:
        return f"{_figure(value / 25.4 if units.length == 'in' else value)} {units.length}"
    figure = _figure(math.degrees(value) if units.angle == "deg" else value)
    return f"{figure}°" if units.angle == "deg" else f"{figure} {units.angle}"


def _figure(value: float) -> str:
    text = f"{value:.6f}".rstrip("0").rstrip(".")
    return "0" if text in ("-0", "") else text
