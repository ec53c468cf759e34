"""Ellipses and splines: drawn, constrained, crossed, closed into regions, built, copied; what is refused."""

from __future__ import annotations

import json
import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.samples import drawn, evaluated, free_sketch, freedoms, settled
from wendal.core import kernel
from wendal.core.errors import DocumentError, SketchError
from wendal.core.route import read_part, write_part
from wendal.core.sketch import (
    Drag,
    Ellipse,
    EllipseArc,
    Spline,
    find_freedoms,
    find_regions,
    measured,
    name_of,
    path_of,
    solve,
)
from wendal.core.sketch.drawn.splines import end_weights, shape_of
from wendal.demo.builder import Builder

WAVE = [(0, 0), (5, 8), (12, 3), (20, 9), (30, 0)]


def closed_wave(shape: str) -> tuple[Builder, str, str]:
    """A spline over a line that joins its ends."""
    b, sketch, (spline,) = drawn((shape, *WAVE))
    (line,) = b.draw(sketch, "line", WAVE[0], WAVE[-1])
    ends = b.drawing(sketch).curves
    for own, other in zip(ends[spline].ends or (), ends[line].ends or (), strict=True):
        b.constrain(sketch, "coincident", own, other)
    return b, spline, line


@pytest.mark.parametrize(("shape", "ends", "number"), [
    ("ellipse", [(0, 0), (10, 2), (0, 6)], 5), ("spline", WAVE, 10), ("spline_pulled", WAVE, 10), ("spline_pulled", WAVE[:3], 6)])
def test_freedoms(shape: str, ends: list, number: int) -> None:
    b, _, _ = drawn((shape, *ends))
    assert freedoms(b) == number


def test_an_ellipse_is_fully_constrained_by_its_middle_and_axes() -> None:
    b, sketch = free_sketch()
    (ellipse,) = b.draw(sketch, "ellipse", (0, 0), (9, 1), (1, 5), on="origin", axis="40 mm", **{"cross axis": "24 mm"})
    curve = b.drawing(sketch).curves[ellipse]
    assert isinstance(curve, Ellipse)
    assert freedoms(b) == 1
    b.constrain(sketch, "horizontal", curve.centre, curve.tip)
    assert freedoms(b) == 0
    made = settled(b)
    assert made.points[curve.tip] == pytest.approx((20, 0), abs=1e-9)
    assert find_regions(made).found[0].area == pytest.approx(math.pi * 20 * 12)


def test_a_point_on_an_ellipse_and_a_line_touching_it() -> None:
    b, sketch, (ellipse, line) = drawn(("ellipse", (0, 0), (10, 0), (0, 6)), ("line", (-9, 7), (12, 6)))
    b.do(do="edit_sketch", step=sketch, edit={"op": "constrain", "kind": "fixed", "of": [ellipse]})
    b.constrain(sketch, "tangent", line, ellipse)
    b.constrain(sketch, "horizontal", line)
    (a, _) = (settled(b).points[p] for p in settled(b).curves[line].points)
    assert a[1] == pytest.approx(6)
    b.draw(sketch, "point", (6, 5))
    point = f"p{b.drawing(sketch).last}"
    b.constrain(sketch, "on_curve", point, ellipse)
    b.constrain(sketch, "distance", point, "y_axis", formula="6 mm")
    assert settled(b).points[point] == pytest.approx((6, 4.8), abs=1e-9)


@given(st.floats(0.2, 4), st.floats(0.2, 4), st.floats(-3, 3))
@settings(max_examples=20, deadline=None)
def test_a_tangent_touches_a_turned_ellipse_in_one_place(a: float, b_: float, turn: float) -> None:
    c, s = math.cos(turn), math.sin(turn)
    at = lambda x, y: (c * x - s * y, s * x + c * y)  # noqa: E731
    b, sketch, (ellipse, line) = drawn(("ellipse", (0, 0), at(a, 0), at(0, b_)), ("line", at(-6, b_ * 1.05 + 0.1), at(6, b_ * 1.05)))
    b.do(do="edit_sketch", step=sketch, edit={"op": "constrain", "kind": "fixed", "of": [ellipse]})
    b.constrain(sketch, "tangent", line, ellipse)
    made = settled(b)
    (px, py), (qx, qy) = (made.points[p] for p in made.curves[line].points)
    n = math.hypot(qx - px, qy - py)
    gaps = [((qx - px) * (y - py) - (qy - py) * (x - px)) / n for x, y in path_of(made, ellipse).places()]  # type: ignore[attr-defined]
    assert max(gaps) == pytest.approx(0, abs=2e-3 * (a + b_))  # on one side of it, and touching
    assert min(gaps) < -0.1 * min(a, b_)


@pytest.mark.parametrize("shape", ["spline", "spline_pulled"])
def test_a_spline_runs_from_its_first_point_to_its_last(shape: str) -> None:
    b, sketch, (c,) = drawn((shape, *WAVE))
    drawing = b.drawing(sketch)
    curve = drawing.curves[c]
    assert isinstance(curve, Spline)
    shape_ = shape_of(drawing, curve)
    assert shape_(0.0) == pytest.approx(WAVE[0])
    assert shape_(1.0) == pytest.approx(WAVE[-1])
    if shape == "spline":
        assert np.array([shape_(t) for t in curve.knots]) == pytest.approx(np.array(WAVE))
    leaves = end_weights(curve, first=True) @ np.array(WAVE)
    near = shape_(1e-6) - shape_(0.0)
    assert leaves / np.linalg.norm(leaves) == pytest.approx(near / np.linalg.norm(near), abs=1e-4)


@pytest.mark.parametrize("shape", ["spline", "spline_pulled"])
def test_a_spline_made_tangent_at_its_end_leaves_along_the_line(shape: str) -> None:
    b, sketch, (c,) = drawn((shape, *WAVE))
    (line,) = b.draw(sketch, "line", (-10, -3), (0, 0))
    curve = b.drawing(sketch).curves[c]
    assert isinstance(curve, Spline)
    b.constrain(sketch, "coincident", b.drawing(sketch).curves[line].points[1], curve.over[0])
    before = freedoms(b)
    b.constrain(sketch, "tangent", line, c)
    assert freedoms(b) == before - 1
    made = settled(b)
    (dx, dy), (ax, ay), (bx, by) = path_of(made, c).moved(0.0, 1), *(made.points[p] for p in made.curves[line].points)  # type: ignore[attr-defined]
    assert (dx * (by - ay) - dy * (bx - ax)) / math.hypot(dx, dy) / math.hypot(bx - ax, by - ay) == pytest.approx(0, abs=1e-9)


@pytest.mark.parametrize(("other", "kind"), [(("arc", (-10, 0), (0, 0), (-5, -2)), "arc"), (("spline_pulled", (-20, 5), (-12, -4), (0, 0)), "spline")])
def test_a_spline_goes_on_smoothly_from_an_arc_or_another_spline(other: tuple, kind: str) -> None:
    b, sketch, (c, o) = drawn(("spline", *WAVE), other)
    curves = b.drawing(sketch).curves
    apart = freedoms(b)
    if kind == "spline":
        with pytest.raises(SketchError, match="made tangent to each other where they end"):
            b.constrain(sketch, "tangent", o, c)
    end = min(curves[o].ends or (), key=lambda p: math.dist(b.drawing(sketch).points[p], (0, 0)))
    b.constrain(sketch, "coincident", end, (curves[c].ends or ("",))[0])
    b.constrain(sketch, "tangent", o, c)
    made = settled(b)
    assert freedoms(b) == apart - 3
    path = path_of(made, o)
    first = end == (curves[o].ends or ())[0]
    at, ahead = (path.t0, path.t0 + 0.01) if first else (path.t1, path.t1 - 0.01)
    assert made.kind(o) == kind
    assert math.sin(path.heading(at, ahead)[0] - path_of(made, c).heading(0.0, 1.0)[0]) == pytest.approx(0, abs=1e-6)


@pytest.mark.parametrize("shape", ["spline", "spline_pulled"])
def test_a_closed_wave_is_a_region_and_its_solid_has_its_volume(shape: str) -> None:
    b, spline, _ = closed_wave(shape)
    (region,) = b.regions("s1")
    assert region.contains(*region.inside())
    b.step("extrude", "Wave", profile=b.profile("s1", 0), depth={"formula": "5 mm"})
    made = evaluated(b)
    assert made.report("s2").state == "built", made.report("s2").message
    mass = kernel.mass_of(made.site.bodies["s2"].shape)
    assert mass.volume == pytest.approx(5 * region.area, rel=1e-9)
    assert mass.valid
    assert any(f"/side/{spline}/" in n for face in made.site.bodies["s2"].topology.faces for n in face.names)


@pytest.mark.parametrize(("a", "b_"), [(10, 6), (6, 10)])
def test_an_elliptic_solid_with_a_hole(a: float, b_: float) -> None:
    b, sketch, _ = drawn(("ellipse", (0, 0), (0.8 * a, 0.6 * a), (-0.6 * b_, 0.8 * b_)), ("circle", (0, 0), (2, 0)))
    b.step("extrude", "Oval", profile=b.profile(sketch, 0), depth={"formula": "5 mm"})
    made = evaluated(b)
    assert kernel.volume_of(made.site.bodies["s2"].shape) == pytest.approx(5 * math.pi * (a * b_ - 4), rel=1e-9)


@pytest.mark.parametrize(("other", "areas"), [
    (("line", (-20, 0), (20, 0)), [30 * math.pi, 30 * math.pi]),
    (("line", (0, -20), (0, 20)), [30 * math.pi, 30 * math.pi]),
    (("circle", (0, 0), (8, 0)), None),
    (("ellipse", (0, 0), (0, 10), (6, 0)), None),
])
def test_an_ellipse_is_cut_into_regions_by_what_crosses_it(other: tuple, areas: list[float] | None) -> None:
    b, _, _ = drawn(("ellipse", (0, 0), (10, 0), (0, 6)), other)
    found = [r.area for r in b.regions("s1")]
    assert len(found) == (2 if areas else 5)
    if areas:
        assert found == pytest.approx(areas, rel=1e-9)
    elif other[0] == "ellipse":
        # Four horns alike and what both share.
        assert sum(found) == pytest.approx(2 * math.pi * 60 - max(found), rel=1e-9)


def test_dragging_moves_points_and_widens_ellipses() -> None:
    b, sketch, (ellipse, spline) = drawn(("ellipse", (0, 0), (10, 0), (0, 6)), ("spline", *WAVE))
    drawing = b.drawing(sketch)
    wide = Drag(drawing, {}, ellipse, (0, 6))
    wide.move((0, 9))
    after = wide.finish().curves[ellipse]
    assert isinstance(after, Ellipse)
    assert after.radius == pytest.approx(9)
    whole = Drag(drawing, {}, spline, (12, 3))
    whole.move((15, 7))
    moved = whole.finish()
    for p, (x, y) in zip(drawing.curves[spline].points, (drawing.points[p] for p in drawing.curves[spline].points), strict=True):
        assert moved.points[p] == pytest.approx((x + 3, y + 4))


def test_a_line_is_trimmed_at_an_ellipse() -> None:
    b, sketch, (ellipse, line) = drawn(("ellipse", (0, 0), (10, 0), (0, 6)), ("line", (-20, 1), (40, 2)))
    b.do(do="edit_sketch", step=sketch, edit={"op": "trim", "manner": "nearest", "curves": [line], "path": [(-15, 1.08)]})
    start = b.drawing(sketch).points[b.drawing(sketch).curves[line].points[0]]
    assert path_of(b.drawing(sketch), ellipse).off(start) < 1e-6


def test_an_elliptical_arc_is_drawn_and_its_ends_stay_on_the_ellipse() -> None:
    b, sketch = free_sketch()
    (c,) = b.draw(sketch, "ellipse_arc", (0, 0), (10, 0), (0, 6), (-30, 0.0), on="origin", axis="24 mm")
    curve = b.drawing(sketch).curves[c]
    assert isinstance(curve, EllipseArc)
    made = settled(b)
    assert made.points[curve.end] == pytest.approx((-12, 0), abs=1e-6)
    assert freedoms(b) == 4  # its turn, its cross axis, and both ends along it
    drag = Drag(made, measured(made), curve.end, made.points[curve.end])
    drag.move((-3, -4))
    after = drag.finish()
    path = path_of(after, c)
    assert path.off(after.points[curve.end]) < 1e-8
    assert name_of(after, c) == "the elliptical arc"


def test_an_ellipse_is_trimmed_and_split_and_half_of_it_is_built() -> None:
    b, sketch, (ellipse, line) = drawn(("ellipse", (0, 0), (10, 0), (0, 6)), ("line", (-15, 0), (15, 0)))
    b.do(do="edit_sketch", step=sketch, edit={"op": "trim", "manner": "nearest", "curves": [ellipse], "path": [(0, -6)]})
    drawing = b.drawing(sketch)
    assert isinstance(drawing.curves[ellipse], EllipseArc)
    (region,) = b.regions(sketch)
    assert region.area == pytest.approx(30 * math.pi, rel=1e-9)
    b.step("extrude", "Half", profile=b.profile(sketch, 0), depth={"formula": "5 mm"})
    assert kernel.volume_of(evaluated(b).site.bodies["s2"].shape) == pytest.approx(150 * math.pi, rel=1e-9)
    b.do(do="edit_sketch", step=sketch, edit={"op": "split", "curve": ellipse, "at": [(0, 6)]})
    parts = [c for c, curve in b.drawing(sketch).curves.items() if isinstance(curve, EllipseArc)]
    assert len(parts) == 2
    b.constrain(sketch, "cross_axis", parts[1], formula="20 mm")
    made = settled(b)
    assert [made.curves[c].radius for c in parts] == pytest.approx([10, 10])  # type: ignore[union-attr]
    assert line in made.curves


@pytest.mark.parametrize("axis", ["y_axis", "x_axis"])
def test_a_linked_mirror_image_of_an_elliptical_arc(axis: str) -> None:
    b, sketch, (c,) = drawn(("ellipse_arc", (20, 12), (30, 14), (18, 17), (9, 10)))
    before = freedoms(b)
    b.do(do="edit_sketch", step=sketch, edit={"op": "mirror", "entities": [c], "axis": axis, "linked": True})
    assert freedoms(b) == before
    first, second = (path_of(b.drawing(sketch), e) for e in b.drawing(sketch).curves)
    flip = np.array([-1.0, 1.0] if axis == "y_axis" else [1.0, -1.0])
    assert second.places()[::-1] == pytest.approx(first.places() * flip, abs=1e-9)  # type: ignore[attr-defined]
    assert len(b.drawing(sketch).curves) == 2


def test_a_line_goes_on_smoothly_from_an_elliptical_arc() -> None:
    """At a shared end the distance of the middle from the line says nothing more: the direction there is what counts."""
    b, sketch, (c, line) = drawn(("ellipse_arc", (0, 0), (20, 0), (0, -8), (12, 6.4)), ("line", (12, 6.4), (-3, 15)))
    d = b.drawing(sketch)
    b.constrain(sketch, "coincident", d.curves[c].points[3], d.curves[line].points[0])
    b.do(do="edit_sketch", step=sketch, edit={"op": "constrain", "kind": "fixed", "of": [c]})
    b.constrain(sketch, "tangent", line, c)
    made = settled(b)
    (ax, ay), (bx, by) = (made.points[p] for p in made.curves[line].points)
    path = path_of(made, c)
    dx, dy = path.moved(path.t1, 1)  # type: ignore[attr-defined]
    assert ((bx - ax) * dy - (by - ay) * dx) / math.hypot(dx, dy) / math.dist((ax, ay), (bx, by)) == pytest.approx(0, abs=1e-9)
    assert freedoms(b) == 1  # only its length


@pytest.mark.parametrize(("knots", "manner"), [([0.0, 0.5], "through"), ([], "through"), ([0.0, 0.9, 0.4], "through"), ([0.0, 0.5, 1.0], "pulled")])
def test_a_file_whose_spline_has_other_knots_is_refused_in_words(knots: list[float], manner: str) -> None:
    b, _, (c,) = drawn(("spline", (0, 0), (5, 5), (9, 0)))
    data = json.loads(write_part(b.part))
    data["steps"][0]["drawing"]["curves"][c] |= {"knots": knots, "manner": manner}
    with pytest.raises(DocumentError, match="knot"):
        read_part(json.dumps(data))


def test_a_mirrored_half_copies_and_scaling() -> None:
    b, sketch, (ellipse, spline) = drawn(("ellipse", (20, 0), (30, 3), (18, 6)), ("spline", *((x + 5, y + 20) for x, y in WAVE)))
    b.do(do="edit_sketch", step=sketch, edit={"op": "mirror", "entities": [ellipse, spline], "axis": "y_axis", "linked": True})
    drawing = b.drawing(sketch)
    assert len(drawing.curves) == 4
    assert freedoms(b) == 15  # those of the first half alone
    twin = next(c for c, curve in drawing.curves.items() if isinstance(curve, Spline) and c != spline)
    here, there = (path_of(drawing, c).places() for c in (spline, twin))  # type: ignore[attr-defined]
    assert there == pytest.approx(here * np.array([-1.0, 1.0]))
    b.do(do="edit_sketch", step=sketch, edit={"op": "transform", "entities": [ellipse], "scale": 2.0, "copied": True})
    copy = [c for c in b.drawing(sketch).curves.values() if isinstance(c, Ellipse)][-1]
    old = b.drawing(sketch).curves[ellipse]
    assert isinstance(old, Ellipse)
    assert copy.radius == pytest.approx(2 * old.radius)


def test_names_and_the_file() -> None:
    b, sketch, (ellipse, spline) = drawn(("ellipse", (0, 0), (10, 0), (0, 6)), ("spline", *WAVE))
    drawing = b.drawing(sketch)
    assert [name_of(drawing, e) for e in (ellipse, spline)] == ["the ellipse", "the spline"]
    assert name_of(drawing, drawing.curves[spline].points[0]) == "point 2 of the spline"
    assert name_of(drawing, drawing.curves[ellipse].points[1]) == "the tip of the ellipse"
    assert read_part(write_part(b.part)).steps == b.part.steps
    assert measured(drawing) == {}


@pytest.mark.parametrize(("shape", "ends", "told"), [
    ("ellipse", [(0, 0), (0, 0), (1, 1)], "needs an axis"), ("ellipse", [(0, 0), (9, 0), (4, 0)], "needs a width"),
    ("spline", [(0, 0), (9, 0)], "three points"), ("spline", [(0, 0), (9, 0), (9, 0)], "at one place"), ("ellipse", [(0, 0), (5, 0)], "more places")])
def test_shapes_without_extent_are_refused(shape: str, ends: list, told: str) -> None:
    b, sketch = free_sketch()
    with pytest.raises(SketchError, match=told):
        b.draw(sketch, shape, *ends)


def test_a_plane_square_to_a_spline_follows_it() -> None:
    b, spline, _ = closed_wave("spline")
    b.step("extrude", "Wave", profile=b.profile("s1", 0), depth={"formula": "5 mm"})
    step = b.step("plane", "Square", how="curve_share", first={"of": "drawn", "step": "s1", "entity": spline}, share={"formula": "50 %"})
    made = evaluated(b)
    assert made.report(step).state == "built", made.report(step).message
    (datum,) = made.site.datums[step]
    path, n = path_of(settled(b), spline), datum.frame.normal
    t = min(np.linspace(0, 1, 4001), key=lambda t: abs(sum((p - o) * k for p, o, k in zip(path.at(t), datum.frame.origin, n, strict=False))))
    dx, dy = path.moved(float(t), 1)  # type: ignore[attr-defined]
    assert (dx * n[1] - dy * n[0]) / math.hypot(dx, dy) == pytest.approx(0, abs=2e-2)
    assert n[2] == pytest.approx(0)


@pytest.mark.parametrize(("shape", "told"), [
    (("arc", (10, 0), (0, 10), (7, 7)), ["the right end of the arc slides along it", "the left end of the arc slides along it", "the arc slides along X",
                                       "the arc slides along Y", "the arc grows or shrinks"]),
    (("ellipse_arc", (0, 0), (20, 0), (8, 6), (-9, -3)), [
        "the left end of the elliptical arc slides along it", "the right end of the elliptical arc slides along it",
        "the elliptical arc slides along X", "the elliptical arc slides along Y", "the elliptical arc turns about the origin",
        "the elliptical arc grows or shrinks across its axis", "the elliptical arc grows or shrinks along its axis"]),
])
def test_what_is_free_of_an_arc_in_words(shape: tuple, told: list[str]) -> None:
    b, sketch, _ = drawn(shape)
    found = [m.words for m in find_freedoms(solve(b.drawing(sketch), {})).motions]
    assert sorted(found) == sorted(told)
