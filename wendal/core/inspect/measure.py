"""Measure: one thing by itself, the way from one to another, several together."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from ..quantity import Kind, Units, format_quantity
from ..reference import BodyRef, ThingRef
from ..route import Evaluation, Part
from ..route.gauging import Gauge, Reading, Unit
from .outline import CutSpot, cut_thing
from .questions import Answer, Request, question

__all__ = ["Figure", "Meaning", "Measure", "Measured", "figure_of", "shown_as"]


class Measure(Request):
    """Measure things: one, two, or more together. A place is told in the active coordinate system.

    greatest : the greatest distance between two, too, which takes its time.
    """

    of: Literal["measure"] = "measure"
    things: list[ThingRef | BodyRef | CutSpot] = Field(min_length=1, max_length=200)
    greatest: bool = False


class Figure(Answer):
    """One figure: what it is, its value (mm, rad, mm², mm³), and how it is shown in the part's units. key :
    by which it can be kept."""

    key: str
    words: str
    value: float
    unit: Unit
    shown: str


class Meaning(Figure):
    """One meaning of the way between two things. feet : its two ends in the part, mm. parts : of a length,
    along the axes of the active system, mm."""

    feet: list[tuple[float, float, float]]
    parts: list[Figure] = []


class Measured(Answer):
    """What was measured: the meanings of a way, the likeliest first, and all other figures."""

    of: Literal["measure"] = "measure"
    meanings: list[Meaning]
    figures: list[Figure]


@question(Measure, Measured)
def measure(part: Part, evaluation: Evaluation, request: Measure) -> Measured:
    """Measure the things; raises CommandRefused or ReferenceLost in words."""
    site, units = evaluation.site, part.units.units()
    system = part.active_system if part.active_system in site.datums else ""
    gauge = Gauge(part, site, {r.id: r.state for r in evaluation.reports}, system)
    things = [
        cut_thing(part, evaluation, ref) if isinstance(ref, CutSpot) else gauge.thing(ref)
        for ref in request.things
    ]
    meanings, figures = gauge.readings(things, request.greatest)
    return Measured(
        meanings=[
            Meaning(
                **figure_of(m, units).model_dump(),
                feet=list(m.feet),
                parts=[figure_of(p, units) for p in m.parts],
            )
            for m in meanings
        ],
        figures=[figure_of(f, units) for f in figures],
    )


def figure_of(reading: Reading, units: Units) -> Figure:
    """Return a reading as it is told."""
    return Figure(
        key=reading.key,
        words=reading.words,
        value=reading.value,
        unit=reading.unit,
        shown=shown_as(reading, units),
    )


def shown_as(reading: Reading, units: Units) -> str:
    """Return how a reading is shown in the part's units."""
    if reading.unit == "angle":
        return format_quantity(reading.quantity(), units, Kind.ANGLE)
    if reading.unit == "length":
        return format_quantity(reading.quantity(), units, Kind.LENGTH)
    power, name = (2, "²") if reading.unit == "area" else (3, "³")
    value = reading.value / (25.4 if units.length == "in" else 1.0) ** power
    figure = f"{value:.6g}" if abs(reading.value) < 1e6 else f"{value:.1f}"
    return f"{figure} {units.length}{name}"
