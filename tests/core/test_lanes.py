"""Dimensions in lanes: where their words stand while others are still to come."""

from __future__ import annotations

import pytest

from tests.overlaps import apart
from wendal.core.drawing.dimensions import Measured
from wendal.core.drawing.ink import corners
from wendal.core.drawing.placing import place_all
from wendal.core.drawing.room import Room
from wendal.core.route.pages import Dimension


@pytest.mark.parametrize("foot", [7.0, -7.0, 3.0, 0.4])
@pytest.mark.parametrize("shape", ["level", "upright"])
def test_words_beside_a_short_dimension_keep_clear_of_extension_lines_that_come_later(shape: str, foot: float) -> None:
    def along(*places: float) -> tuple[tuple[float, float], ...]:
        return tuple((p, -10.0) if shape == "level" else (-10.0, p) for p in places)

    kind = "across" if shape == "level" else "up"
    found = [
        Measured(Dimension(id=f"d{n}", view="v1", kind=kind), shape, along(*ends), ends[1] - ends[0], said)  # type: ignore[arg-type]
        for n, (ends, said) in enumerate([((-0.8, 0.8), "1.642"), ((foot, 30.0), "9"), ((-30.0, foot), "9")])
    ]
    items = place_all(found, Room((-40.0, -10.0, 40.0, 10.0) if shape == "level" else (-10.0, -40.0, 10.0, 40.0)), 2.0)
    lines = [(i.id, (k.stroke.start, k.stroke.end)) for i in items for k in i.inks]
    for item in items:
        for text in item.texts:
            assert all(apart(corners(text), list(ends)) for of, ends in lines if of != item.id), (item.id, lines)
