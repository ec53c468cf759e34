"""Circles and arcs that touch ellipses, and corners of ellipses and splines rounded and chamfered."""

from __future__ import annotations

import math
from typing import Any

import pytest

from tests.core.test_sketch_spline_meetings import bow, freedoms, height, settled
from tests.samples import drawn, edit
from wendal.core.errors import SketchError
from wendal.core.sketch import Arc, Drawing, EllipseArc, Layout, Line, Spline, find_regions, path_of
from wendal.core.sketch.equations import joints
from wendal.demo.builder import Builder

ELLIPSE = ("ellipse", (0, 0), (10, 0), (0, 6))


def held(*shapes: tuple[Any, ...]) -> tuple[Builder, str, list[str]]:
    """An ellipse of half-axes 10 and 6 that stands still, and other shapes."""
    b, sketch, (ellipse, *others) = drawn(ELLIPSE, *shapes)
    b.constrain(sketch, "fixed", ellipse)
    return b, ellipse, others


@pytest.mark.parametrize(("circle", "around"), [
    (((3, 11), (3, 14)), False), (((3, 2), (3, 3.5)), False), (((14, 0.5), (16, 0.5)), False), (((0, 0), (0, 11)), True)],
    ids=["outside", "inside", "at the tip", "round it"])
def test_a_circle_that_touches_an_ellipse(circle: tuple[tuple[float, float], ...], around: bool) -> None:
    b, ellipse, (ring,) = held(("circle", *circle))
    before = len(freedoms(b))
    b.constrain("s1", "tangent", ring, ellipse)
    made = settled(b)
    path, o = path_of(made, ellipse), made.curves[ring]
    places = [path.at(2 * math.pi * i / 20000) for i in range(20000)]
    gaps = [math.dist(p, made.points[o.points[0]]) for p in places]  # its centre
    assert o.radius == pytest.approx(max(gaps) if around else min(gaps), abs=1e-5)  # type: ignore[union-attr]
    assert len(freedoms(b)) == before - 1


def test_a_dimension_moves_a_circle_that_touches_an_ellipse() -> None:
    b, ellipse, (ring,) = held(("circle", (0.5, 9), (0.5, 12)))
    centre = b.drawing("s1").curves[ring].points[0]
    b.constrain("s1", "tangent", ring, ellipse)
    b.constrain("s1", "on_curve", centre, "y_axis")
    b.constrain("s1", "diameter", ring, formula="5 mm")
    assert settled(b).points[centre] == pytest.approx((0, 8.5), abs=1e-8)
    b.do(do="set_formula", tag=next(iter(b.part.tags())), formula="8 mm")
    assert settled(b).points[centre] == pytest.approx((0, 10), abs=1e-8)
    assert freedoms(b) == []


def smooth(drawing: Drawing, arc: str) -> None:
    """An arc goes on smoothly at both ends: two joints, none a cusp, none an edge."""
    found = joints.Joints(Layout(drawing))._smooth(Layout(drawing).x).tolist()
    assert found == [1.0, 1.0]
    curve, joined = drawing.curves[arc], Layout(drawing).joined
    assert isinstance(curve, Arc)
    for end in curve.ends:
        mate = next(c for c, other in drawing.curves.items() if c != arc and other.ends and joined[end] in {joined[p] for p in other.ends})
        a, b = path_of(drawing, arc), path_of(drawing, mate)
        here = [p.heading(p.where(*drawing.points[end]), math.inf)[0] for p in (a, b)]
        assert math.sin(here[0] - here[1]) == pytest.approx(0, abs=1e-6)


def rounded(b: Builder, curves: list[str], keep: list[tuple[float, float]], radius: str = "1 mm") -> tuple[Drawing, str]:
    edit(b, "round_corner", curves=curves, keep=keep, radius=radius)
    made = settled(b)
    (arc,) = (c for c, curve in made.curves.items() if isinstance(curve, Arc))
    return made, arc


def test_the_corner_of_a_spline_and_a_line_is_rounded_and_its_radius_changes() -> None:
    b, spline, (line,) = bow(("line", (14, -5), (14, 8)))
    before = len(freedoms(b))
    made, arc = rounded(b, [spline, line], [(5, height(5)), (14, -3)])
    smooth(made, arc)
    assert len(freedoms(b)) == before - 1  # the line's upper end is bound to the sharp corner now
    sharp = next(p for p, at in made.points.items() if at == pytest.approx((14, height(14)), abs=1e-6))
    assert path_of(made, spline).off(made.points[sharp]) < 1e-8
    b.do(do="set_formula", tag=next(iter(b.part.tags())), formula="2 mm")
    made = settled(b)
    assert made.curves[arc].radius == pytest.approx(2)  # type: ignore[union-attr]
    smooth(made, arc)


def test_the_own_end_of_a_spline_stays_as_the_sharp_corner() -> None:
    b, spline, (line,) = bow(("line", (20, 0), (20, 9)))
    curves = b.drawing("s1").curves
    b.constrain("s1", "coincident", curves[line].points[0], curves[spline].points[-1])
    made, arc = rounded(b, [spline, line], [(5, height(5)), (20, 5)], "1.5 mm")
    smooth(made, arc)
    curve = made.curves[spline]
    assert isinstance(curve, Spline)
    assert made.points[curve.over[-1]] == (20, 0)
    assert curve.end
    assert not curve.start


def test_the_corner_of_two_splines_is_rounded() -> None:
    b, one, (two,) = bow(("spline", (20, 0), (24, 6), (30, 9)))
    curves = b.drawing("s1").curves
    b.constrain("s1", "coincident", curves[one].points[-1], curves[two].points[-2])
    made, arc = rounded(b, [one, two], [(5, height(5)), (29, 8.7)])
    smooth(made, arc)


def test_the_corner_of_an_ellipse_and_a_line_is_rounded() -> None:
    b, ellipse, (line, foot) = held(("line", (4, -9), (4, 9)), ("line", (-12, 0), (12, 0)))
    edit(b, "trim", curves=[ellipse], path=[(0, -6)])
    assert isinstance(b.drawing("s1").curves[ellipse], EllipseArc)
    edit(b, "trim", curves=[foot], path=[(11, 0)])
    made, arc = rounded(b, [ellipse, line], [(-5, 5), (4, 1)])
    smooth(made, arc)
    assert path_of(made, ellipse).off(made.points[made.curves[ellipse].points[-1]]) < 1e-8


def test_a_radius_that_fits_nowhere_is_told_with_the_largest_that_does() -> None:
    b, spline, (line,) = bow(("line", (10, -5), (10, 8)))
    with pytest.raises(SketchError, match="takes no radius of more than about"):
        edit(b, "round_corner", curves=[spline, line], keep=[(5, height(5)), (10, 0)], radius="80 mm")


def test_a_corner_of_a_spline_is_chamfered_by_legs_measured_to_its_sharp_corner() -> None:
    b, spline, (line,) = bow(("line", (14, -5), (14, 8)))
    edit(b, "chamfer_corner", curves=[spline, line], keep=[(5, height(5)), (14, -3)], manner="two", leg="2 mm", other="1 mm")
    made = settled(b)
    sharp, (a, c) = (14, height(14)), (made.points[made.curves[e].points[-1]] for e in (spline, line))
    assert (math.dist(sharp, a), math.dist(sharp, c)) == (pytest.approx(2, abs=1e-8), pytest.approx(1, abs=1e-8))
    assert path_of(made, spline).off(a) < 1e-8
    assert any(isinstance(curve, Line) and {made.points[p] for p in curve.points} == {a, c} for curve in made.curves.values())
    with pytest.raises(SketchError, match="wants two lines"):
        edit(b, "chamfer_corner", curves=[spline, line], keep=[(5, height(5)), (14, -3)], manner="angle", leg="2 mm", other="45 deg")
    with pytest.raises(SketchError, match="no room"):
        edit(b, "chamfer_corner", curves=[spline, line], keep=[(5, height(5)), (14, -3)], leg="40 mm")


def test_a_closed_outline_with_a_spline_all_of_whose_corners_are_rounded() -> None:
    b, spline, _ = bow()
    b.draw("s1", "line", (0, 0), (0, -10))
    b.draw("s1", "line", (0, -10), (20, -10))
    b.draw("s1", "line", (20, -10), (20, 0))
    drawing = b.drawing("s1")
    ends = [p for p, at in drawing.points.items() if at == pytest.approx((0, 0)) or at == pytest.approx((20, 0))]
    for corner in ((0, 0), (20, 0)):
        here = [p for p in ends if drawing.points[p] == pytest.approx(corner)]
        if Layout(drawing).joined[here[0]] != Layout(drawing).joined[here[1]]:
            b.constrain("s1", "coincident", *here)
    edit(b, "round_corner", points=[drawing.curves[spline].points[-2], drawing.curves[spline].points[-1]], radius="1 mm")
    made = settled(b)
    (region,) = find_regions(made).found
    assert len(region.outer) == 6
    assert 200 + 400 / 3 * 0.5 > region.area > 200
