"""Freedoms in words, told by what leads a motion."""

from __future__ import annotations

from typing import Any

import pytest

from tests.core.test_sketch_spline_meetings import BOW, freedoms
from tests.samples import drawn

RING = ("circle", (3, 11), (3, 14))
FOLLOWS = ", and what is joined to the spline follows"


@pytest.mark.parametrize(("base", "ring", "told"), [
    (("line", (0, 0), (20, 3)), RING, "the circle slides along the line"),
    (("ellipse", (0, 0), (10, 0), (0, 6)), RING, "the circle slides along the ellipse"),
    (BOW, RING, "the circle slides along the spline"),
    (("circle", (0, 0), (8, 3)), ("circle", (3, 16), (3, 14)), "the upper right circle slides along the lower left circle")])
def test_a_circle_slides_along_what_it_touches(base: tuple[Any, ...], ring: tuple[Any, ...], told: str) -> None:
    b, sketch, (curve, circle) = drawn(base, ring)
    b.constrain(sketch, "tangent", circle, curve)
    assert told in freedoms(b)
    b.constrain(sketch, "fixed", curve)
    assert sorted(freedoms(b)) == sorted([told, f"{told.split(' slides')[0]} grows or shrinks, and what is joined to it follows"])


def test_each_point_of_a_spline_is_told_by_itself_though_roundings_follow() -> None:
    b, sketch, (spline, line) = drawn(("spline", (0, 0), (10, 8), (20, 3), (30, 0)), ("line", (30, 0), (30, -9)))
    curves = b.drawing(sketch).curves
    b.constrain(sketch, "vertical", line)
    b.constrain(sketch, "coincident", curves[spline].points[-1], curves[line].points[0])
    b.do(do="edit_sketch", step=sketch, edit={"op": "round_corner", "points": [curves[line].points[0]], "radius": "1 mm"})
    told = freedoms(b)
    for words in ("point 2 of the spline slides along X", "point 2 of the spline slides along Y", "point 3 of the spline slides along Y"):
        assert words + FOLLOWS in told
    assert not [w for w in told if "changes shape" in w or "turns" in w]


def test_a_line_that_cuts_a_spline_leads_and_the_ends_on_it_follow() -> None:
    b, sketch, (spline, line) = drawn(BOW, ("line", (-5, 3), (25, 3)))
    b.constrain(sketch, "horizontal", line)
    for p in b.drawing(sketch).curves[spline].points:
        b.constrain(sketch, "fixed", p)
    b.do(do="edit_sketch", step=sketch, edit={"op": "trim", "curves": [spline], "path": [(10, 5)]})
    assert sorted(freedoms(b)) == ["the horizontal line slides along Y, and what lies on it follows",
                                   "the left end of the horizontal line slides along X",
                                   "the right end of the horizontal line slides along X"]


def test_a_line_that_only_grows_longer_does_not_turn() -> None:
    b, sketch, lines = drawn(("rectangle", (0, 0), (40, 20)))
    corners = [b.drawing(sketch).curves[c].points[0] for c in lines]
    b.do(do="edit_sketch", step=sketch, edit={"op": "round_corner", "points": corners, "radius": "4 mm"})
    assert not [w for w in freedoms(b) if "turns" in w or "changes shape" in w]
