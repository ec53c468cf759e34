"""Parts of splines: trimmed, split, extended and built from, with exact answers on the parabola y = x - x²/20."""

from __future__ import annotations

import math
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.core.test_sketch_spline_meetings import BOW, bow, freedoms, height, settled
from tests.samples import drawn, edit, evaluated
from wendal.core import kernel
from wendal.core.errors import SketchError
from wendal.core.route import figures_of
from wendal.core.sketch import Drag, Drawing, Layout, Spline, find_freedoms, measured, path_of, solve
from wendal.core.sketch.equations import joints
from wendal.demo.builder import Builder

Flat = tuple[float, float]


def upright(x: float, low: float = -5, high: float = 8) -> tuple[Any, ...]:
    return ("line", (x, low), (x, high))


def trim(b: Builder, curve: str, x: float) -> None:
    edit(b, "trim", curves=[curve], path=[(x, height(x))])


def reach(drawing: Drawing, curve: str) -> tuple[float, float]:
    """The x at which a part starts and ends, after a look that its ends lie on the parabola."""
    ends = [drawing.points[p] for p in drawing.curves[curve].ends or ()]
    for x, y in ends:
        assert y == pytest.approx(height(x), abs=1e-8)
    path = path_of(drawing, curve)
    assert [path.at(t) for t in (path.t0, path.t1)] == [pytest.approx(e, abs=1e-8) for e in ends]
    return ends[0][0], ends[1][0]


def parts(drawing: Drawing) -> list[str]:
    return sorted((c for c, curve in drawing.curves.items() if isinstance(curve, Spline)), key=lambda c: reach(drawing, c))


@pytest.mark.parametrize(("pick", "left"), [(1.0, [(4, 20)]), (19.0, [(0, 16)]), (10.0, [(0, 4), (16, 20)])])
def test_the_piece_that_is_picked_goes(pick: float, left: list[Flat]) -> None:
    b, spline, _ = bow(upright(4), upright(16))
    before = len(freedoms(b))
    trim(b, spline, pick)
    made = settled(b)
    assert [reach(made, c) for c in parts(made)] == [pytest.approx(x, abs=1e-8) for x in left]
    assert len(freedoms(b)) == before  # every new end lies on the spline and on the line that cut it
    assert {made.curves[c].over[1] for c in parts(made)} == {made.curves[spline].over[1]}  # type: ignore[union-attr]


def test_ends_follow_what_cut_them() -> None:
    b, spline, (line,) = bow(upright(12))
    trim(b, spline, 18)
    b.constrain("s1", "vertical", line)
    b.constrain("s1", "distance", "y_axis", b.drawing("s1").curves[line].points[0], formula="12 mm")
    assert reach(settled(b), spline) == pytest.approx((0, 12), abs=1e-8)
    b.do(do="set_formula", tag=next(iter(b.part.tags())), formula="7 mm")
    assert reach(settled(b), spline) == pytest.approx((0, 7), abs=1e-8)


def test_a_loose_end_slides_along_it_and_is_told() -> None:
    b, spline, (line,) = bow(upright(12))
    trim(b, spline, 18)
    edit(b, "remove", entities=[line])
    assert freedoms(b) == ["the right end of the spline slides along it"]
    end = b.drawing("s1").curves[spline].points[-1]
    with pytest.raises(SketchError, match="one of the spline's own"):
        b.constrain("s1", "on_curve", end, spline)
    b.constrain("s1", "distance", "y_axis", end, formula="9 mm")
    assert reach(settled(b), spline) == pytest.approx((0, 9), abs=1e-8)
    assert freedoms(b) == []


def test_what_is_left_can_be_trimmed_and_extended_again() -> None:
    b, spline, (_, _, far) = bow(upright(4), upright(12), upright(16))
    trim(b, spline, 18)
    trim(b, spline, 14)
    assert reach(settled(b), spline) == pytest.approx((0, 12), abs=1e-8)
    edit(b, "extend", curve=spline, at=(12, height(12)))
    assert reach(settled(b), spline) == pytest.approx((0, 16), abs=1e-8)
    edit(b, "remove", entities=[far])
    edit(b, "extend", curve=spline, at=(16, height(16)))
    whole = b.drawing("s1").curves[spline]
    assert isinstance(whole, Spline)
    assert whole.ends == whole.tips
    with pytest.raises(SketchError, match="where the whole of the spline ends"):
        edit(b, "extend", curve=spline, at=(0, 0))


def test_split_its_parts_run_on_smoothly_and_share_their_points() -> None:
    b, spline, _ = bow()
    edit(b, "split", curve=spline, at=[(8, height(8))])
    made = settled(b)
    one, other = parts(made)
    assert (reach(made, one), reach(made, other)) == (pytest.approx((0, 8), abs=1e-8), pytest.approx((8, 20), abs=1e-8))
    assert len(freedoms(b)) == 1  # the place of the split, once
    with pytest.raises(SketchError, match="parts of one spline"):
        b.constrain("s1", "tangent", one, other)
    edit(b, "remove", entities=[other])
    assert set(b.drawing("s1").curves[one].points) <= set(b.drawing("s1").points)  # what it runs over stayed
    edit(b, "remove", entities=[b.drawing("s1").curves[one].over[1]])  # type: ignore[union-attr]
    assert not b.drawing("s1").curves


def test_other_manners_of_trimming() -> None:
    b, spline, (low, high) = bow(upright(6), upright(14))
    edit(b, "trim", manner="inside", curves=[low, high, spline])
    made = settled(b)
    assert [reach(made, c) for c in parts(made)] == [pytest.approx((0, 6), abs=1e-8), pytest.approx((14, 20), abs=1e-8)]
    b, spline, (low, high) = bow(upright(6), upright(14))
    edit(b, "trim", manner="outside", curves=[low, high, spline])
    assert reach(settled(b), spline) == pytest.approx((6, 14), abs=1e-8)
    b, spline, _ = bow(upright(6), upright(14))
    edit(b, "trim", manner="sweep", path=[(10, 8), (10, 2)])
    made = settled(b)
    assert [reach(made, c) for c in parts(made)] == [pytest.approx((0, 6), abs=1e-8), pytest.approx((14, 20), abs=1e-8)]


def test_a_corner_is_made_where_a_line_that_falls_short_would_meet_it() -> None:
    b, spline, (line,) = bow(upright(14, -5, 0))
    edit(b, "trim", manner="corner", curves=[spline, line], path=[(5, height(5)), (14, -3)])
    made = settled(b)
    assert reach(made, spline) == pytest.approx((0, 14), abs=1e-8)
    assert made.points[made.curves[line].points[-1]] == pytest.approx((14, height(14)), abs=1e-8)
    assert Layout(made).joined[made.curves[line].points[-1]] == Layout(made).joined[made.curves[spline].points[-1]]


def test_a_region_bounded_by_a_part_is_found_and_built() -> None:
    b, spline, (left, right, foot) = bow(upright(4, 0), upright(16, 0), ("line", (0, 0), (20, 0)))
    trim(b, spline, 1)
    trim(b, spline, 19)
    for line, top in ((left, 6.5), (right, 6.5)):
        edit(b, "trim", curves=[line], path=[(b.drawing("s1").points[b.drawing("s1").curves[line].points[0]][0], top)])
    for x in (1, 19):
        edit(b, "trim", curves=[foot], path=[(x, 0)])
    (region,) = b.regions("s1")
    area = (16**2 - 4**2) / 2 - (16**3 - 4**3) / 60
    assert region.area == pytest.approx(area, rel=1e-9)
    b.step("extrude", "Bow", profile=b.profile("s1", 0), depth={"formula": "5 mm"})
    assert kernel.volume_of(evaluated(b).site.bodies["s2"].shape) == pytest.approx(5 * area, rel=1e-9)


@pytest.mark.parametrize("cut_by", ["line", "arc"])
def test_what_goes_on_smoothly_from_a_cut_end(cut_by: str) -> None:
    b, spline, (line,) = bow(upright(12))
    trim(b, spline, 18)
    end = b.drawing("s1").curves[spline].points[-1]
    edit(b, "remove", entities=[line])
    b.constrain("s1", "distance", "y_axis", end, formula="14 mm")
    x, y = settled(b).points[end]
    if cut_by == "line":
        (other,) = b.draw("s1", "line", (x, y), (x + 6, y - 1), on=end)
    else:
        b.draw("s1", "arc_centre", (x - 2, y - 6), (x + 4, y - 4), (x, y))
        other = list(b.drawing("s1").curves)[-1]
        b.constrain("s1", "coincident", end, b.drawing("s1").curves[other].points[-1])
    before = len(freedoms(b))
    b.constrain("s1", "tangent", other, spline)
    assert len(freedoms(b)) == before - 1
    made = settled(b)
    path, t = path_of(made, other), path_of(made, spline).t1
    dx, dy = path_of(made, spline).moved(t, 1)  # type: ignore[attr-defined]
    assert dy / dx == pytest.approx(1 - 14 / 10, abs=1e-8)
    heading = path.heading(path.where(*made.points[end]), math.inf)[0]
    assert dx * math.sin(heading) - dy * math.cos(heading) == pytest.approx(0, abs=5e-6)  # headings are rounded
    b.do(do="set_formula", tag=next(iter(b.part.tags())), formula="11 mm")
    assert reach(settled(b), spline) == pytest.approx((0, 11), abs=1e-8)


def test_another_spline_goes_on_smoothly_from_a_cut_end() -> None:
    b, spline, (line, other) = bow(upright(12), ("spline", (12, height(12)), (20, 8), (26, 3)))
    trim(b, spline, 18)
    ends = [b.drawing("s1").curves[c].ends for c in (spline, other)]
    edit(b, "remove", entities=[line])
    b.constrain("s1", "coincident", ends[0][1], ends[1][0])  # type: ignore[index]
    b.constrain("s1", "distance", "y_axis", ends[0][1], formula="13 mm")  # type: ignore[index]
    b.constrain("s1", "tangent", other, spline)
    made = settled(b)
    (ax, ay), (bx, by) = path_of(made, spline).moved(path_of(made, spline).t1, 1), path_of(made, other).moved(0.0, 1)  # type: ignore[attr-defined]
    assert reach(made, spline) == pytest.approx((0, 13), abs=1e-8)
    assert (ax * by - ay * bx) / math.hypot(ax, ay) / math.hypot(bx, by) == pytest.approx(0, abs=1e-9)
    assert joints.Joints(Layout(made))._smooth(Layout(made).x).tolist() == [1.0]


def test_a_part_never_comes_to_run_against_its_spline() -> None:
    b, spline, _ = bow(upright(6), upright(14))
    trim(b, spline, 1)
    trim(b, spline, 19)
    start, end = b.drawing("s1").curves[spline].points[-2:]
    edit(b, "remove", entities=[c for c in b.drawing("s1").curves if c != spline])
    b.constrain("s1", "distance", "y_axis", start, formula="6 mm")
    b.constrain("s1", "distance", "y_axis", end, formula="14 mm")
    b.do(do="set_formula", tag="outline_distance", formula="13 mm")
    assert reach(settled(b), spline) == pytest.approx((13, 14), abs=1e-8)
    b.do(do="set_formula", tag="outline_distance", formula="17 mm")
    with pytest.raises(SketchError, match="can not go there"):
        settled(b)


def test_parts_are_copied_mirrored_and_scaled_whole() -> None:
    b, spline, (line,) = bow(upright(12))
    trim(b, spline, 18)
    edit(b, "remove", entities=[line])
    before = len(freedoms(b))
    edit(b, "mirror", entities=[spline], axis="x_axis", linked=True)
    made = settled(b)
    twin = next(c for c in made.curves if c != spline)
    assert made.points[made.curves[twin].points[-1]] == pytest.approx((12, -height(12)), abs=1e-8)
    assert len(freedoms(b)) == before  # the image's end slides with its source alone
    end = made.curves[spline].points[-1]
    drag = Drag(made, measured(made), end, made.points[end])
    drag.move((9, 5))
    after = drag.finish()
    (x, y), (u, v) = (after.points[after.curves[c].points[-1]] for c in (spline, twin))
    assert (u, v) == pytest.approx((x, -y), abs=1e-7)
    edit(b, "transform", entities=[spline], about=(0, 0), scale=2, copied=True)
    made = settled(b)
    big = list(made.curves)[-1]
    assert made.points[made.curves[big].points[-1]] == pytest.approx((24, 2 * height(12)), abs=1e-8)


def test_a_cut_end_joined_to_a_point_it_goes_through_needs_nothing_more() -> None:
    b, sketch, (spline, line) = drawn(("spline", (0, 0), (10, 5), (20, 0), (30, 4)), ("line", (15, -9), (15, 9)))
    trim_at = {"curves": [spline], "path": [(29, 3.6)]}
    edit(b, "trim", **trim_at)
    edit(b, "remove", entities=[line])
    curve = b.drawing(sketch).curves[spline]
    assert isinstance(curve, Spline)
    b.constrain(sketch, "coincident", curve.end, curve.over[1])
    made = settled(b)
    assert made.points[curve.end] == pytest.approx(made.points[curve.over[1]], abs=1e-9)
    assert find_freedoms(solve(made, measured(made))).number == 2 * len(curve.over)


@settings(max_examples=25, deadline=None)
@given(st.floats(3, 9), st.floats(-4, 4), st.floats(11, 17), st.floats(-3, 3))
def test_a_drag_of_what_shapes_it_keeps_its_ends_on_it(x: float, dx: float, cut: float, dy: float) -> None:
    b, _, (spline, line) = drawn(BOW, upright(cut, -8, 9))
    trim(b, spline, 19.5)
    drawing = settled(b)
    pulled = drawing.curves[spline].over[1]  # type: ignore[union-attr]
    drag = Drag(drawing, figures_of(b.part).values(drawing), pulled, drawing.points[pulled])
    drag.move((x + dx + 3, 10 + dy))
    after = drag.finish()
    path, end = path_of(after, spline), after.points[after.curves[spline].points[-1]]
    assert path.off(end) < 1e-6
    assert path.t0 == 0.0 < path.t1 < 1.0
    (ax, ay), (bx, by) = (after.points[p] for p in after.curves[line].points)
    assert abs((bx - ax) * (end[1] - ay) - (by - ay) * (end[0] - ax)) / math.hypot(bx - ax, by - ay) < 1e-6


@pytest.mark.parametrize("manner", ["spline", "spline_pulled"])
@pytest.mark.parametrize("which", [0, 2, 4])
def test_a_point_taken_out_of_a_spline_leaves_the_rest(manner: str, which: int) -> None:
    b, sketch, (spline, line) = drawn((manner, (0, 0), (10, 5), (20, 0), (30, 4), (40, 0)), ("line", (33, -9), (33, 9)))
    edit(b, "split", curve=spline, at=[(15, 3)])
    before = b.drawing(sketch)
    (over,) = {tuple(curve.over) for curve in before.curves.values() if isinstance(curve, Spline)}
    edit(b, "remove", entities=[over[which]])
    after = b.drawing(sketch)
    left = [p for i, p in enumerate(over) if i != which]
    splines = [curve for curve in after.curves.values() if isinstance(curve, Spline)]
    assert [curve.over for curve in splines] == [left, left]
    assert over[which] not in after.points
    made = settled(b)
    for c in after.curves:
        for p in after.curves[c].ends or ():
            assert path_of(made, c).off(made.points[p]) < 1e-8
    assert line in made.curves
    edit(b, "remove", entities=left[:2])
    assert not [c for c in b.drawing(sketch).curves.values() if isinstance(c, Spline)]  # two points are no spline
