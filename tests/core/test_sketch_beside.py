"""Curves that run beside ellipses and splines: exact, bound to their source, joined to their neighbours, cut, copied and built from."""

from __future__ import annotations

import math
from itertools import pairwise
from typing import Any

import numpy as np
import pytest

from tests.samples import drawn, edit, evaluated, freedoms, settled
from wendal.core import kernel
from wendal.core.errors import SketchError
from wendal.core.sketch import Bent, Drag, Drawing, SplinePath, find_freedoms, find_regions, path_of, solve
from wendal.demo.builder import Builder

WAVE = [(0, 0), (10, 16), (24, 6), (40, 18), (60, 0)]


def gaps(drawing: Drawing, source: str, made: str) -> list[float]:
    """How far places all along a curve are from its source, mm."""
    path, base = path_of(drawing, made), path_of(drawing, source)
    assert isinstance(base, Bent)
    whole = base.whole() if isinstance(base, SplinePath) else base
    return [whole.off(path.at(float(t))) for t in np.linspace(path.t0, path.t1, 60)]


def chain(*shapes: Any, tangent: tuple[tuple[int, int], ...] = (), more: tuple[Any, ...] = ()) -> tuple[Builder, list[str]]:
    """Shapes drawn one after the other, each joined to the one before."""
    b, sketch, curves = drawn(*shapes)
    drawing = b.drawing(sketch)
    for one, other in pairwise(curves):
        b.constrain(sketch, "coincident", drawing.curves[one].ends[1], drawing.curves[other].ends[0])  # type: ignore[index]
    for i, j in tangent:
        b.constrain(sketch, "tangent", curves[i], curves[j])
    return b, curves


@pytest.mark.parametrize("side", [1, -1])
@pytest.mark.parametrize(("shape", "ends", "free"), [
    ("spline", WAVE, 10), ("spline_pulled", WAVE, 10), ("spline_pulled", [(0, 0), (20, 15), (40, 0)], 6),
    ("ellipse", [(0, 0), (30, 0), (0, 18)], 5), ("ellipse_arc", [(0, 0), (30, 0), (0, 18), (-30, 0)], 7)])
def test_what_runs_beside_is_as_far_away_all_along(shape: str, ends: list, free: int, side: int) -> None:
    b, _, (source,) = drawn((shape, *ends))
    (made,) = edit(b, op="offset", curves=[source], distance="2.5 mm", side=side)
    assert freedoms(b) == free
    b.do(do="set_formula", tag="outline_offset", formula="2 mm")
    drawing = settled(b)
    assert gaps(drawing, source, made) == pytest.approx([2.0] * 60, abs=1e-9)
    p = list(drawing.points)[1]
    x, y = drawing.points[p]
    b.do(do="edit_sketch", step="s1", edit={"op": "move", "entity": p, "start": (x, y), "to": (x + 2, y + 1)})
    drawing = settled(b)
    assert gaps(drawing, source, made) == pytest.approx([2.0] * 60, abs=1e-9)
    assert freedoms(b) == free
    for own, end in zip(drawing.curves[made].ends or (), drawing.curves[source].ends or (), strict=True):
        assert math.dist(drawing.place(own), drawing.place(end)) == pytest.approx(2.0, abs=1e-9)


def test_area_beside_an_ellipse_is_steiners() -> None:
    b, _, (source,) = drawn(("ellipse", (0, 0), (30, 0), (0, 18)))
    edit(b, op="offset", curves=[source], distance="3 mm")
    around = 2 * math.pi * np.mean([math.hypot(30 * math.sin(t), 18 * math.cos(t)) for t in np.linspace(0, 2 * math.pi, 4000, endpoint=False)])
    areas = sorted(r.area for r in find_regions(settled(b)).found)
    assert areas == pytest.approx([3 * around + 9 * math.pi, math.pi * 30 * 18], rel=1e-9)


def ring() -> tuple[Builder, list[str]]:
    """A spline over the line that joins its ends."""
    b, curves = chain(("spline", *WAVE), ("line", WAVE[-1], WAVE[0]))
    drawing = b.drawing("s1")
    b.constrain("s1", "coincident", drawing.curves[curves[1]].ends[1], drawing.curves[curves[0]].ends[0])  # type: ignore[index]
    return b, curves


def rounded(other: Any) -> tuple[Builder, list[str]]:
    b, (_, spline) = chain(other, ("spline", *WAVE))
    edit(b, op="round_corner", points=[b.drawing("s1").curves[spline].over[0]], radius="3 mm")  # type: ignore[union-attr]
    return b, list(b.drawing("s1").curves)


def divided() -> tuple[Builder, list[str]]:
    b, _, (spline,) = drawn(("spline", *WAVE))
    edit(b, op="split", curve=spline, at=[WAVE[2]])
    return b, list(b.drawing("s1").curves)


CHAINS: dict[str, Any] = {
    "a wave closed by a line": ring,
    "a line that goes on as a spline": lambda: chain(("line", (-30, -48), (0, 0)), ("spline", *WAVE), tangent=((0, 1),)),
    "two splines that go on smoothly": lambda: chain(("spline", *WAVE), ("spline", (60, 0), (70, -10), (90, 5)), tangent=((0, 1),)),
    "two splines in a corner": lambda: chain(("spline", *WAVE), ("spline", (60, 0), (70, 15), (90, 5))),
    "two parts of one spline": divided,
    "a rounding between a line and a spline": lambda: rounded(("line", (-30, 20), (0, 0))),
    "a rounding between two splines": lambda: rounded(("spline", (-30, 20), (-20, 30), (0, 0))),
    "half an ellipse in a corner": lambda: chain(("line", (20, 40), (0, 18)), ("ellipse_arc", (0, 0), (30, 0), (0, 18), (-30, 0))),
}


@pytest.mark.parametrize("side", [1, -1])
@pytest.mark.parametrize("name", CHAINS)
def test_a_chain_takes_no_freedom_and_hangs_together(name: str, side: int) -> None:
    b, curves = CHAINS[name]()
    free = freedoms(b)
    edit(b, op="offset", curves=curves, distance="2 mm", side=side)
    offset = next(k for k, c in b.drawing("s1").constraints.items() if c.kind == "offset")
    for _ in "ab":  # on one side, then on the other
        assert freedoms(b) == free
        b.do(do="set_formula", tag="outline_offset", formula="1.5 mm")
        drawing = settled(b)
        pairs = drawing.constraints[offset].of
        bent = [(s, m) for s, m in zip(pairs[::2], pairs[1::2], strict=True) if isinstance(path_of(drawing, m), Bent)]
        assert bent
        assert max(abs(gap - 1.5) for s, m in bent for gap in gaps(drawing, s, m)) < 1e-9
        ends = [drawing.place(e) for m in pairs[1::2] for e in drawing.curves[m].ends or ()]
        alone = [p for p in ends if sum(math.dist(p, q) < 1e-9 for q in ends) == 1]
        assert len(alone) == (0 if name == "a wave closed by a line" else 2)
        assert freedoms(b) == free
        b.do(do="edit_sketch", step="s1", edit={"op": "flip_offset", "constraint": offset})
        offset = next(k for k, c in b.drawing("s1").constraints.items() if c.kind == "offset")


def test_area_inside_and_outside_of_a_wave_is_built() -> None:
    """Steiner: around a closed chain, corners rounded, the area grows by length times distance and pi times its square."""
    b, curves = ring()
    path = path_of(b.drawing("s1"), curves[0])
    assert isinstance(path, Bent)
    length = 60 + sum(math.dist(path.at(i / 4000), path.at((i + 1) / 4000)) for i in range(4000))
    edit(b, op="offset", curves=curves, distance="1 mm", round_gaps=True)
    b.step("extrude", "Wall", profile=b.profile("s1", 0), depth={"formula": "5 mm"})
    inner, outer = sorted(r.area for r in find_regions(settled(b)).found)[::-1]
    assert kernel.volume_of(evaluated(b).site.bodies["s2"].shape) == pytest.approx(5 * inner, rel=1e-8)
    assert outer == pytest.approx(length + math.pi, rel=1e-5)


def beside(shape: Any = ("spline", *WAVE)) -> tuple[Builder, str, str]:
    b, _, (source,) = drawn(shape)
    (made,) = edit(b, op="offset", curves=[source], distance="2 mm")
    return b, source, made


@pytest.mark.parametrize("shape", [("spline", *WAVE), ("ellipse", (5, 3), (35, 3), (5, 21))])
def test_an_offset_is_pulled_along_with_its_source(shape: Any) -> None:
    b, source, made = beside(shape)
    before = path_of(settled(b), source).at(0.3)
    x, y = path_of(settled(b), made).at(1.2 if shape[0] == "ellipse" else 0.4)
    edit(b, "move", entity=made, start=(x, y), to=(x + 1, y + 3))
    drawing = b.drawing("s1")
    assert path_of(drawing, source).off(before) > 0.1
    assert gaps(drawing, source, made) == pytest.approx([2.0] * 60, abs=1e-8)


def test_what_runs_beside_is_cut_and_lengthened_like_any_curve() -> None:
    b, source, made = beside()
    (line,) = b.draw("s1", "line", (20, -10), (22, 30))
    edit(b, op="trim", curves=[made], path=[(5, 14)])
    assert freedoms(b) == 14
    drawing = settled(b)
    assert path_of(drawing, line).off(drawing.place(drawing.curves[made].ends[0])) < 1e-9  # type: ignore[index]
    assert gaps(drawing, source, made) == pytest.approx([2.0] * 60, abs=1e-9)
    edit(b, op="remove", entities=[line])
    edit(b, op="extend", curve=made, at=(21, 8))
    assert (path_of(settled(b), made).t0, freedoms(b)) == (0.0, 10)


@pytest.mark.parametrize("shape", [("circle", (0, 0), (30, 0)), ("ellipse", (0, 0), (30, 0), (0, 18))])
def test_an_offset_of_a_whole_circle_or_ellipse_is_trimmed(shape: Any) -> None:
    b, source, made = beside(shape)
    free = freedoms(b)
    (line,) = b.draw("s1", "line", (10, -40), (10, 40))
    edit(b, op="trim", curves=[made], path=[path_of(settled(b), made).at(math.pi)])
    assert freedoms(b) == free + 4
    drawing = settled(b)
    ends = [drawing.place(p) for p in drawing.curves[made].ends or ()]
    assert [path_of(drawing, line).off(p) for p in ends] == pytest.approx([0, 0], abs=1e-9)
    assert [path_of(drawing, source).off(p) for p in ends] == pytest.approx([2, 2], abs=1e-9)


@pytest.mark.parametrize(("shape", "at"), [
    (("line", (0, 0), (30, 0)), (15, 2)), (("arc_centre", (0, 0), (10, 0), (-10, 0)), (0, 8)), (("spline", *WAVE), (24, 8)),
    (("ellipse_arc", (0, 0), (30, 0), (0, 18), (-30, 0)), (-20, 12))])
def test_both_parts_of_a_broken_offset_keep_their_distance(shape: Any, at: Any) -> None:
    b, source, made = beside(shape)
    free = freedoms(b)
    (rest,) = edit(b, op="split", curve=made, at=[at])
    assert freedoms(b) == free + 1  # where they meet
    b.do(do="set_formula", tag="outline_offset", formula="3 mm")
    drawing = settled(b)
    ends = [drawing.place(e) for c in (made, rest) for e in drawing.curves[c].ends or ()]
    assert [path_of(drawing, source).off(p) for p in ends] == pytest.approx([3.0] * 4)
    assert freedoms(b) == free + 1


def test_corners_of_an_offset_are_rounded() -> None:
    for make, free, area in ((lambda: drawn(("rectangle", (0, 0), (30, 20)))[::2], 4, 416 - (4 - math.pi) / 16), (ring, 10, None)):
        b, curves = make()
        made = edit(b, op="offset", curves=curves, distance="2 mm", side=-1)
        edit(b, op="round_corner", points=[b.drawing("s1").curves[made[0]].ends[1]], radius="0.5 mm")  # type: ignore[index]
        assert freedoms(b) == free
        assert area is None or sum(r.area for r in find_regions(settled(b)).found[:1]) == pytest.approx(area)


def test_an_offset_of_an_offset_counts_from_the_source() -> None:
    b, source, made = beside()
    (further,) = edit(b, op="offset", curves=[made], distance="2.5 mm")
    (across,) = edit(b, op="offset", curves=[made], distance="3 mm", side=-1)
    drawing = settled(b)
    assert min(gaps(drawing, source, further)) == pytest.approx(4.5, abs=0.05)  # deep in a hollow another place is nearer
    assert gaps(drawing, source, across) == pytest.approx([1.0] * 60, abs=1e-9)
    assert freedoms(b) == 10


def test_images_and_copies_run_beside_theirs() -> None:
    b, source, made = beside()
    two = edit(b, op="mirror", entities=[source, made], axis="y_axis")
    copies = edit(b, op="repeat", entities=[source, made], by="x_axis", count=2, spacing="80 mm")
    drawing = settled(b)
    assert [gaps(drawing, *pair) for pair in (two, copies)] == [pytest.approx([2.0] * 60, abs=1e-9)] * 2
    (large,) = edit(b, op="transform", entities=[made], scale=2.0, move=("0 mm", "60 mm"), copied=True)
    assert b.drawing("s1").curves[large].away == pytest.approx(4)  # type: ignore[union-attr]
    edit(b, op="remove", entities=[large])
    assert freedoms(b) == 9  # the spline begins on the axis, and so does its image
    b.do(do="set_formula", tag="outline_offset", formula="1 mm")
    drawing = settled(b)
    assert [gaps(drawing, *pair) for pair in (two, copies)] == [pytest.approx([1.0] * 60, abs=1e-9)] * 2


@pytest.mark.parametrize("shape", [("spline", *WAVE), ("ellipse", (0, 0), (30, 0), (0, 18)), ("ellipse_arc", (0, 0), (30, 0), (0, 18), (-30, 0))])
def test_circles_and_lines_touch_what_runs_beside(shape: Any) -> None:
    b, _, made = beside(shape)
    (ring_,) = b.draw("s1", "circle", (-12, 22), (-12, 25))
    (line,) = b.draw("s1", "line", (-30, 27), (50, 28))
    for c in (ring_, line):
        b.constrain("s1", "tangent", c, made)
    drawing = settled(b)
    path, circle, straight = (path_of(drawing, c) for c in (made, ring_, line))
    assert path.off(circle.base) == pytest.approx(circle.radius, abs=1e-8)
    across = [straight.direction[0] * (y - straight.base[1]) - straight.direction[1] * (x - straight.base[0])
              for x, y in (path.at(float(t)) for t in np.linspace(path.t0, path.t1, 9000))]
    assert min(map(abs, across)) < 1e-5
    assert min(across) * max(across) > -1e-5 * max(map(abs, across))


@pytest.mark.parametrize("other", [("line", (0, -20)), ("arc", (6, -20), (9, -8))])
@pytest.mark.parametrize("shape", [("spline", *WAVE), ("ellipse_arc", (0, 0), (30, 0), (0, 18), (-30, 0))])
def test_a_curve_goes_on_smoothly_from_what_runs_beside(shape: Any, other: Any) -> None:
    b, _, made = beside(shape)
    end = b.drawing("s1").curves[made].ends[1]  # type: ignore[index]
    x, y = b.drawing("s1").place(end)
    kind, *places = other
    (more,) = b.draw("s1", kind, (x, y), *((x + u, y + v) for u, v in places))
    drawing = b.drawing("s1")
    b.constrain("s1", "coincident", end, min(drawing.curves[more].ends or (), key=lambda p: math.dist(drawing.place(p), (x, y))))
    b.constrain("s1", "tangent", more, made)
    drawing = settled(b)
    path, beyond = path_of(drawing, made), path_of(drawing, more)
    assert isinstance(path, Bent)
    at = drawing.place(end)
    (ux, uy), angle = path.moved(path.where(*at), 1), beyond.heading(beyond.where(*at), 1e9)[0]
    assert (ux * math.sin(angle) - uy * math.cos(angle)) / math.hypot(ux, uy) == pytest.approx(0, abs=1e-6)


@pytest.mark.parametrize(("shapes", "which", "more", "told"), [
    ([("ellipse", (0, 0), (30, 0), (0, 10))], [0], {"distance": "4 mm", "side": -1}, r"turn over. Up to about 3\.33 mm"),
    ([("spline", (0, 0), (10, 12), (20, 0))], [0], {"distance": "20 mm", "side": -1}, "turn over. Up to about"),
    ([("spline", (0, 0), (20, 12), (40, 0)), ("spline", (40, 0), (60, -12), (80, 0))], [0, 1], {"distance": "1 mm"}, "Make them tangent")])
def test_what_can_not_run_beside_is_told(shapes: list, which: list, more: dict, told: str) -> None:
    b, curves = chain(*shapes) if len(shapes) > 1 else drawn(*shapes)[::2]
    with pytest.raises(SketchError, match=told):
        edit(b, op="offset", curves=[curves[i] for i in which], **more)


def test_without_its_constraint_it_runs_nearer_or_further_away() -> None:
    b, source, made = beside()
    b.do(do="edit_sketch", step="s1", edit={"op": "remove", "entities": [k for k, c in b.drawing("s1").constraints.items() if c.kind == "offset"]})
    drawing = b.drawing("s1")
    told = [f.words for f in find_freedoms(solve(drawing, {})).motions]
    assert "the curve beside a spline runs nearer or further away" in told
    drag = Drag(drawing, {}, made, path_of(drawing, made).at(0.4))
    drag.move(path_of(drawing.model_copy(update={"curves": {made: drawing.curves[made].model_copy(update={"away": 3.5})}}), made).at(0.4))
    assert gaps(drag.finish(), source, made) == pytest.approx([3.5] * 60, abs=1e-3)  # the pointer weighs heavily, not alone
    edit(b, op="remove", entities=[source])
    assert made in b.drawing("s1").curves


def nearest_ends(drawing: Drawing, one: str, other: str) -> tuple[str, str]:
    ends = [drawing.curves[c].ends or () for c in (one, other)]
    return min(((p, q) for p in ends[0] for q in ends[1]), key=lambda pq: math.dist(*map(drawing.place, pq)))


@pytest.mark.parametrize(("shapes", "cut"), [
    ([("spline", *WAVE), ("spline", (42, 30), (48, 12), (54, -10), (60, -30))], True),
    ([("spline", *WAVE), ("ellipse_arc", (90, 0), (60, 0), (90, 20), (60, 0))], False),
    ([("ellipse_arc", (0, 0), (30, 0), (0, 18), (-30, 0)), ("ellipse_arc", (-60, 0), (-30, 0), (-60, 25), (-90, 0))], False)])
def test_free_curves_go_on_smoothly_from_each_other_and_are_offset_together(shapes: list, cut: bool) -> None:
    b, _, (one, other) = drawn(*shapes)
    if cut:
        edit(b, op="trim", manner="corner", curves=[one, other], path=[(30, 12), (57, -20)])
    else:
        b.constrain("s1", "coincident", *nearest_ends(b.drawing("s1"), one, other))
    free = freedoms(b)
    b.constrain("s1", "tangent", one, other)
    assert freedoms(b) == free - 1
    drawing = settled(b)
    at = drawing.place(nearest_ends(drawing, one, other)[0])
    ways = [path.moved(path.where(*at), 1) for path in (path_of(drawing, one), path_of(drawing, other)) if isinstance(path, Bent)]
    assert abs(ways[0][0] * ways[1][1] - ways[0][1] * ways[1][0]) / math.hypot(*ways[0]) / math.hypot(*ways[1]) < 1e-8
    two = edit(b, op="offset", curves=[one, other], distance="1 mm")
    assert freedoms(b) == free - 1
    ends = [settled(b).place(p) for c in two for p in settled(b).curves[c].ends or ()]
    assert sum(math.dist(p, q) < 1e-9 for i, p in enumerate(ends) for q in ends[:i]) == 1


def test_a_change_that_would_let_it_turn_back_is_refused() -> None:
    b, _, (source,) = drawn(("ellipse", (0, 0), (30, 0), (0, 18)))
    (made,) = edit(b, "offset", curves=[source], distance="3 mm", side=-1)
    for point in b.drawing("s1").curves[source].points:
        b.constrain("s1", "fixed", point)
    b.constrain("s1", "cross_axis", source, formula="36 mm")
    b.do(do="set_formula", tag="outline_offset", formula="10.7 mm")
    assert settled(b).curves[made].away == pytest.approx(10.7)  # type: ignore[union-attr]
    for tag, formula, told in (("outline_offset", "12 mm", "follows to about 10.7"), ("outline_cross_axis", "20 mm", "can not meet")):
        b.do(do="set_formula", tag=tag, formula=formula)
        with pytest.raises(SketchError, match=told):
            settled(b)
        b.do(do="set_formula", tag="outline_offset", formula="10.7 mm")


def test_a_closed_spline_is_offset_all_round() -> None:
    b, _, (source,) = drawn(("spline_pulled", (0, 0), (0, 14), (30, 20), (50, 0), (30, -20), (0, -14), (0.0, 0)))
    first, last = b.drawing("s1").curves[source].ends  # type: ignore[misc]
    b.constrain("s1", "coincident", first, last)
    b.constrain("s1", "fixed", first)
    free = freedoms(b)
    (made,) = edit(b, "offset", curves=[source], distance="2 mm", side=-1)
    drawing = settled(b)
    assert freedoms(b) == free
    assert gaps(drawing, source, made) == pytest.approx([2.0] * 60, abs=1e-9)
    assert len(find_regions(drawing).found) == 2
