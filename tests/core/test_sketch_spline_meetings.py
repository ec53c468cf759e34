"""What meets a spline between its ends, with exact answers on the parabola y = x - x²/20 from (0, 0) over (10, 5) to (20, 0)."""

from __future__ import annotations

import math
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.samples import drawn, settled
from wendal.core.errors import SketchError
from wendal.core.route import figures_of
from wendal.core.sketch import Drag, Layout, find_freedoms, find_regions, path_of, solve
from wendal.core.sketch.equations import joints
from wendal.demo.builder import Builder

BOW = ("spline_pulled", (0, 0), (10, 10), (20, 0))


def height(x: float) -> float:
    return x - x * x / 20


def bow(*shapes: tuple[Any, ...]) -> tuple[Builder, str, list[str]]:
    """The parabola, its points held, and other shapes; returns the ids of these."""
    b, sketch, (spline, *others) = drawn(BOW, *shapes)
    for p in b.drawing(sketch).curves[spline].points:
        b.constrain(sketch, "fixed", p)
    return b, spline, others


def freedoms(b: Builder) -> list[str]:
    drawing = b.drawing("s1")
    return [m.words for m in find_freedoms(solve(drawing, figures_of(b.part).values(drawing))).motions]


def point(b: Builder, at: tuple[float, float]) -> str:
    b.draw("s1", "point", at)
    return list(b.drawing("s1").points)[-1]


@pytest.mark.parametrize("x", [2.0, 5.0, 10.0, 17.5])
def test_a_point_on_it(x: float) -> None:
    b, spline, _ = bow()
    p = point(b, (x, height(x) + 1.5))
    before = len(freedoms(b))
    b.constrain("s1", "on_curve", p, spline)
    assert len(freedoms(b)) == before - 1 == 1
    b.constrain("s1", "distance", "y_axis", p, formula=f"{x} mm")
    assert settled(b).points[p] == pytest.approx((x, height(x)), abs=1e-9)
    assert freedoms(b) == []
    b.do(do="set_formula", tag=next(iter(b.part.tags())), formula=f"{x / 2} mm")
    assert settled(b).points[p] == pytest.approx((x / 2, height(x / 2)), abs=1e-9)


def test_beyond_its_end_a_point_lies_on_the_straight_continuation() -> None:
    b, spline, _ = bow()
    p = point(b, (24, -3))
    b.constrain("s1", "on_curve", p, spline)
    b.constrain("s1", "distance", "y_axis", p, formula="25 mm")
    assert settled(b).points[p] == pytest.approx((25, -5), abs=1e-9)  # the slope is -1 at the end


def test_its_own_points_are_refused() -> None:
    b, spline, _ = bow()
    with pytest.raises(SketchError, match="one of the spline's own"):
        b.constrain("s1", "on_curve", b.drawing("s1").curves[spline].points[0], spline)


@pytest.mark.parametrize("slope", [0.0, 0.5, -0.5, 0.9])
def test_a_line_that_touches_it(slope: float) -> None:
    x = 10 * (1 - slope)
    b, spline, (line,) = bow(("line", (x - 6, height(x) - 6 * slope + 1), (x + 6, height(x) + 6 * slope + 1.2)))
    start, end = b.drawing("s1").curves[line].points
    b.constrain("s1", "fixed", start)
    b.constrain("s1", "tangent", line, spline)
    (ax, ay), (bx, by) = (settled(b).points[p] for p in (start, end))
    # From (ax, ay) outside, the two tangents touch where t solves (t - ax)²/20 = ay - height(ax).
    root = math.sqrt(20 * (ay - height(ax)))
    assert (by - ay) / (bx - ax) == pytest.approx(1 - (ax + root) / 10, abs=1e-9)
    assert len(freedoms(b)) == 1  # how long the line is


@pytest.mark.parametrize(("centre", "radius"), [((10, 0), 5.0), ((10, 8), 3.0), ((10, -2), 7.0)])
def test_a_circle_that_touches_it_from_either_side(centre: tuple[float, float], radius: float) -> None:
    b, spline, (ring,) = bow(("circle", centre, (centre[0] + radius + 0.4, centre[1])))
    b.constrain("s1", "fixed", b.drawing("s1").curves[ring].points[0])
    b.constrain("s1", "tangent", ring, spline)
    assert settled(b).curves[ring].radius == pytest.approx(radius, abs=1e-9)  # type: ignore[union-attr]
    assert freedoms(b) == []


def test_a_circle_stays_on_its_side_when_its_diameter_changes() -> None:
    b, spline, (ring,) = bow(("circle", (10, 8), (13, 8)))
    b.constrain("s1", "tangent", ring, spline)
    b.constrain("s1", "diameter", ring, formula="6 mm")
    b.constrain("s1", "distance", "y_axis", b.drawing("s1").curves[ring].points[0], formula="10 mm")
    b.do(do="set_formula", tag="outline_diameter", formula="18 mm")
    assert settled(b).points[b.drawing("s1").curves[ring].points[0]] == pytest.approx((10, 14), abs=1e-8)


def test_a_line_that_ends_on_it_smoothly() -> None:
    b, spline, (line,) = bow(("line", (5, 4), (14, 9)))
    start = b.drawing("s1").curves[line].points[0]
    b.constrain("s1", "on_curve", start, spline)
    b.constrain("s1", "tangent", line, spline)
    b.constrain("s1", "distance", "y_axis", start, formula="5 mm")
    made = settled(b)
    (ax, ay), (bx, by) = (made.points[p] for p in made.curves[line].points)
    assert (ax, ay) == pytest.approx((5, 3.75), abs=1e-9)
    assert (by - ay) / (bx - ax) == pytest.approx(0.5, abs=1e-9)
    assert len(freedoms(b)) == 1


def test_an_arc_that_ends_on_it_smoothly_has_its_centre_on_the_normal() -> None:
    b, spline, (arc,) = bow(("arc", (10, 5.2), (14, 9), (14, 5)))
    curve = b.drawing("s1").curves[arc]
    end = min(curve.ends or (), key=lambda p: math.dist(b.drawing("s1").points[p], (10, 5.2)))
    b.constrain("s1", "on_curve", end, spline)
    b.constrain("s1", "tangent", arc, spline)
    b.constrain("s1", "distance", "y_axis", end, formula="10 mm")
    made = settled(b)
    assert made.points[end] == pytest.approx((10, 5), abs=1e-9)
    assert made.points[curve.points[0]][0] == pytest.approx(10, abs=1e-8)


def test_a_spline_that_ends_on_a_line_or_circle_leaves_along_it() -> None:
    b, _, (line, ring, spline) = drawn(("line", (-20, 0), (20, 0)), ("circle", (40, 0), (50, 0)), ("spline", (0, 0), (15, 8), (30, 0)))
    first, last = b.drawing("s1").curves[spline].ends or ("", "")
    for end, other in ((first, line), (last, ring)):
        b.constrain("s1", "on_curve", end, other)
        before = len(freedoms(b))
        b.constrain("s1", "tangent", other, spline)
        assert len(freedoms(b)) == before - 1
    made, path = settled(b), path_of(settled(b), spline)
    (ax, ay), (bx, by) = (made.points[p] for p in made.curves[line].points)
    dx, dy = path.moved(0.0, 1)  # type: ignore[attr-defined]
    assert (dx * (by - ay) - dy * (bx - ax)) / math.hypot(dx, dy) == pytest.approx(0, abs=1e-7)
    (ux, uy), (px, py), (cx, cy) = path.moved(1.0, 1), made.points[last], made.points[made.curves[ring].points[0]]  # type: ignore[attr-defined]
    assert (ux * (px - cx) + uy * (py - cy)) / math.hypot(ux, uy) == pytest.approx(0, abs=1e-7)


@settings(max_examples=20, deadline=None)
@given(at=st.tuples(st.floats(1, 19), st.floats(-4, 9)), to=st.tuples(st.floats(-5, 25), st.floats(-10, 15)))
def test_dragging_a_point_on_it_never_leaves_it(at: tuple[float, float], to: tuple[float, float]) -> None:
    b, spline, _ = bow()
    p = point(b, at)
    b.constrain("s1", "on_curve", p, spline)
    drawing = settled(b)
    drag = Drag(drawing, {}, p, drawing.points[p])
    for share in (0.25, 0.5, 0.75, 1.0):
        x, y = drawing.points[p]
        drag.move((x + share * (to[0] - x), y + share * (to[1] - y)))
    x, y = drag.finish().points[p]
    below = max(0.0, -x), max(0.0, x - 20)  # beyond the ends it goes straight on
    assert y == pytest.approx(-below[0] if below[0] else -below[1] if below[1] else height(x), abs=20e-8)


def test_a_free_spline_follows_a_point_that_is_held_on_it() -> None:
    b, _, (spline,) = drawn(("spline", (0, 0), (10, 6), (20, 0)))
    p = point(b, (12, 7))
    b.constrain("s1", "fixed", p)
    b.constrain("s1", "on_curve", p, spline)
    made = settled(b)
    assert path_of(made, spline).off(made.points[p]) == pytest.approx(0, abs=1e-9)
    assert len(freedoms(b)) == 5


def test_freedoms_beside_a_spline_in_words() -> None:
    b, spline, _ = bow()
    b.constrain("s1", "on_curve", point(b, (5, 5)), spline)
    assert freedoms(b) == ["the left point slides along the spline"]
    b, _, (spline,) = drawn(("spline", (0, 0), (10, 6), (20, 0)))
    b.constrain("s1", "on_curve", point(b, (12, 7)), spline)
    assert freedoms(b) == ["the upper point slides along the spline",
                           *(f"{who} of the spline slides along {way}, and what is joined to the spline follows"
                             for who in ("the left end", "point 2", "the right end") for way in "XY")]


@pytest.mark.parametrize("shape", [("line", (1, 2), (8, 5)), ("arc", (10, 0), (0, 10), (7, 7)), ("ellipse_arc", (10, 10), (22, 13), (10, 5), (20, 12)),
                                   ("spline", (0, 0), (5, 8), (12, 3)), ("spline_pulled", (0, 0), (5, 8), (12, 3), (15, 9))])
def test_the_direction_in_which_a_curve_leaves_its_ends(shape: tuple[Any, ...]) -> None:
    b, _, (c,) = drawn(shape)
    drawing = b.drawing("s1")
    layout, path, curve = Layout(drawing), path_of(drawing, c), drawing.curves[c]
    for end, at, ahead in zip(curve.ends or (), (path.t0, path.t1), (path.t1, path.t0), strict=True):
        dx, dy = joints._way(layout, curve, end)(layout.x)
        assert math.sin(math.atan2(dy, dx) - path.heading(at, ahead)[0]) == pytest.approx(0, abs=1e-6)
        assert math.cos(math.atan2(dy, dx) - path.heading(at, ahead)[0]) > 0


def test_no_drag_turns_a_smooth_joint_of_a_spline_into_a_cusp() -> None:
    b, sketch, (line, spline) = drawn(("line", (0, 0), (10, 0)), ("spline", (10, 0), (20, 5), (30, 0)))
    for p in b.drawing(sketch).curves[line].ends or ():
        b.constrain(sketch, "fixed", p)
    b.constrain(sketch, "coincident", (b.drawing(sketch).curves[line].ends or ("", ""))[1], b.drawing(sketch).curves[spline].points[-2])
    b.constrain(sketch, "tangent", line, spline)
    drawing = settled(b)
    middle = drawing.curves[spline].points[0]
    drag = Drag(drawing, {}, middle, drawing.points[middle])
    for i in range(1, 31):
        drag.move((20 - i, 5))
    dx, dy = path_of(drag.finish(), spline).moved(0.0, 1)  # type: ignore[attr-defined]
    assert dx > 0
    assert dy == pytest.approx(0, abs=1e-6)


def test_curves_that_only_touch_are_not_told_as_lying_on_each_other() -> None:
    b, _, (spline, ring) = drawn(("spline", (-40, 10), (-15, 22), (10, 8), (40, 16)), ("circle", (-20, -5), (-12, -5)))
    b.constrain("s1", "tangent", ring, spline)
    assert find_regions(settled(b)).overlaps == []
    b, _, _ = drawn(("spline", (0, 0), (10, 4), (20, 0)), ("spline", (0, 0), (10, 4), (20, 0)))
    assert len(find_regions(settled(b)).overlaps) == 1


@pytest.mark.parametrize("shape", ["line", "arc"])
def test_an_end_joined_to_a_point_it_goes_through_meets_it_smoothly(shape: str) -> None:
    other = ("line", (10, 7), (18, 13)) if shape == "line" else ("arc_centre", (9, 1), (16, 2), (10, 7))
    b, _, (spline, mate) = drawn(("spline", (0, 0), (10, 7), (20, 6), (30, 0)), other)
    curves = b.drawing("s1").curves
    over, end = curves[spline].over, curves[mate].points[-2 if shape == "line" else -1]  # type: ignore[union-attr]
    for p in over:
        b.constrain("s1", "fixed", p)
    b.constrain("s1", "coincident", end, over[1])
    before = len(freedoms(b))
    b.constrain("s1", "tangent", mate, spline)
    assert len(freedoms(b)) == before - 1
    made = settled(b)
    (dx, dy), path = path_of(made, spline).moved(path_of(made, spline).where(10, 7), 1), path_of(made, mate)  # type: ignore[attr-defined]
    heading = path.heading(path.where(10, 7), math.inf)[0]
    assert math.sin(heading - math.atan2(dy, dx)) == pytest.approx(0, abs=1e-6)
