"""What is offered as a way out of a conflict is all of which the removal alone makes room: nothing else, and nothing left out."""

from __future__ import annotations

import math
from typing import Any

import pytest

from tests.samples import XY
from wendal.core.errors import SketchError
from wendal.core.route import figures_of
from wendal.core.sketch import solve
from wendal.demo.builder import Builder


def rectangle() -> tuple[Builder, str, dict[str, Any]]:
    """60 x 40, and its top is to be 50 wide."""
    b = Builder("Conflict")
    s = b.step("sketch", "Outline", on=XY)
    lines = b.draw(s, "rectangle", (0, 0), (60, 40), on="origin", width="60 mm", height="40 mm")
    top = max(lines, key=lambda c: sum(b.drawing(s).place(p)[1] for p in b.drawing(s).curves[c].points))
    return b, s, {"kind": "distance", "of": [top], "formula": "50 mm"}


def rings() -> tuple[Builder, str, dict[str, Any]]:
    """Two circles of one size on one level that touch, and their middles are to be 25 apart at a diameter of 20."""
    b = Builder("Conflict")
    s = b.step("sketch", "Outline", on=XY)
    one, two = (b.draw(s, "circle", (x, 0), (x + 10, 0))[0] for x in (0, 20))
    centres = [b.drawing(s).curves[c].points[0] for c in (one, two)]
    b.constrain(s, "coincident", centres[0], "origin")
    b.constrain(s, "equal", one, two)
    b.constrain(s, "tangent", one, two)
    b.constrain(s, "horizontal", *centres)
    b.constrain(s, "diameter", one, formula="20 mm")
    return b, s, {"kind": "distance", "of": centres, "formula": "25 mm"}


@pytest.mark.parametrize("make", [rectangle, rings])
def test_every_way_out_is_offered(make: Any) -> None:
    b, s, wanted = make()
    with pytest.raises(SketchError, match="would fight") as refused:
        b.do(do="edit_sketch", step=s, edit={"op": "constrain", **wanted})
    found = set()
    for k in b.drawing(s).constraints:
        less = Builder("Less")
        less.part = b.part
        try:
            less.do(do="edit_sketch", step=s, edit={"op": "constrain", **wanted, "dropping": [k]})
        except SketchError:
            continue
        found.add(k)
    assert set(refused.value.fights) == found
    kinds = [b.drawing(s).constraints[k].kind for k in refused.value.fights]
    assert kinds == sorted(kinds, key=lambda k: (k == "coincident", k not in ("distance", "diameter")))
    assert len(found) >= 3


@pytest.mark.parametrize("end", [(40.0, 3.0), (40.0, -3.0)])
def test_half_a_turn_is_an_angle_and_keeps_its_sense(end: tuple[float, float]) -> None:
    b = Builder("Angle")
    s = b.step("sketch", "Outline", on=XY)
    one, two = b.draw(s, "line", (0, 0), (20, 0), on="origin")[0], b.draw(s, "line", (20, 0), end)[0]
    curves = b.drawing(s).curves
    b.constrain(s, "coincident", curves[one].points[1], curves[two].points[0])
    b.constrain(s, "horizontal", one)
    for line in (one, two):
        b.constrain(s, "distance", line, formula="20 mm")
    b.constrain(s, "angle", one, two, formula="180 deg")
    angle = next(k for k, c in b.drawing(s).constraints.items() if c.kind == "angle")
    for typed, reached in (("150 deg", (2.6794919, 10.0)), ("180 deg", (0.0, 0.0)), ("90 deg", (20.0, 20.0)), ("180 deg", (0.0, 0.0))):
        b.do(do="edit_sketch", step=s, edit={"op": "set_value", "constraint": angle, "formula": typed})
        drawing = solve(b.drawing(s), figures_of(b.part).values(b.drawing(s))).drawing
        x, y = drawing.place(drawing.curves[two].points[1])
        assert (x, math.copysign(1, end[1]) * y) == pytest.approx(reached, abs=1e-6)
    with pytest.raises(SketchError, match="at most 180"):
        b.do(do="edit_sketch", step=s, edit={"op": "set_value", "constraint": angle, "formula": "181 deg"})
