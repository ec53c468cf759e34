"""Taking in the model: what edges, corners, faces and planes come to in a sketch, and how the sketch follows them."""

from __future__ import annotations

import json
import math
from typing import Any

import pytest

from tests.samples import XY, block, evaluated, plate
from wendal.core.errors import WendalError
from wendal.core.reference import edge_ref, face_ref, vertex_ref
from wendal.core.route import figures_of, read_part, write_part
from wendal.core.route.taking import follow_model, taken_now, trace_picks
from wendal.core.sketch import Drawing, Ellipse, find_freedoms, solve
from wendal.demo.builder import Builder


def take_in(b: Builder, sketch: str, *refs: Any, manner: str = "project", near: Any = None, construction: bool = False) -> list[str]:
    """Take things in as the service does; return the new entities."""
    before = b.drawing(sketch).taken
    found = trace_picks(b.part, evaluated(b), sketch, list(refs), manner, near)
    edit = {"op": "take_in", "refs": [r.model_dump(mode="json") for r in refs], "manner": manner, "near": near, "found": found,
            "construction": construction}
    b.do(do="edit_sketch", step=sketch, edit=edit)
    return [e for e in b.drawing(sketch).taken if e not in before]


def edges(b: Builder, body: str = "s2") -> list[Any]:
    topology = evaluated(b).site.bodies[body].topology
    return [(e, edge_ref(body, topology, i)) for i, e in enumerate(topology.edges)]


def top_edge(b: Builder, middle: tuple[float, float, float]) -> Any:
    return next(ref for e, ref in edges(b) if math.dist(e.middle, middle) < 1e-6)


def on_top(b: Builder) -> str:
    return b.step("sketch", "Pattern", on={"of": "face", "body": "s2", "names": ["s2/end/r1"]})


def now(b: Builder, sketch: str) -> Drawing:
    return evaluated(b).site.sketches[sketch].drawing


def shape(d: Drawing, entity: str) -> list[tuple[float, float]]:
    return [d.place(entity)] if entity in d.points else [d.place(p) for p in d.curves[entity].points]


def test_a_straight_edge_comes_in_as_a_line_that_nothing_moves() -> None:
    b = plate()
    sketch = on_top(b)
    (line,) = take_in(b, sketch, top_edge(b, (40, 12.5, 10)))
    d = b.drawing(sketch)
    assert sorted(shape(d, line)) == [pytest.approx((40, 0)), pytest.approx((40, 25))]
    assert find_freedoms(solve(d, {})).number == 0
    b.do(do="edit_sketch", step=sketch, edit={"op": "move", "entity": line, "start": (40, 5), "to": (60, 5)})
    assert b.drawing(sketch).points == d.points


def test_the_sketch_follows_when_the_edge_moves() -> None:
    b = plate()
    sketch = on_top(b)
    (line,) = take_in(b, sketch, top_edge(b, (40, 12.5, 10)), construction=True)
    b.draw(sketch, "circle", (30, 10), (33, 10), diameter="6 mm")
    centre = b.drawing(sketch).curves[list(b.drawing(sketch).curves)[-1]].points[0]
    b.constrain(sketch, "distance", centre, line, formula="10 mm")
    b.constrain(sketch, "distance", "origin", centre, manner="vertical")
    b.do(do="set_formula", tag="outline_width", formula="70 mm")
    d = now(b, sketch)
    assert sorted(shape(d, line)) == [pytest.approx((70, 0)), pytest.approx((70, 25))]
    assert d.place(centre)[0] == pytest.approx(60)


def test_the_pen_follows_too_and_an_edit_keeps_the_new_place() -> None:
    b = plate()
    sketch = on_top(b)
    (line,) = take_in(b, sketch, top_edge(b, (40, 12.5, 10)))
    b.do(do="set_formula", tag="outline_width", formula="12 mm")
    assert shape(b.drawing(sketch), line)[0][0] == pytest.approx(40)  # the document is as it was stored
    b.part = follow_model(b.part, json.loads(json.dumps(taken_now(b.part, evaluated(b)))))
    assert shape(b.drawing(sketch), line)[0][0] == pytest.approx(12)
    assert read_part(write_part(b.part)) == b.part


def test_a_whole_face_comes_in_with_its_holes() -> None:
    b = block()
    topology = evaluated(b).site.bodies["s2"].topology
    index = next(i for i, f in enumerate(topology.faces) if "s2/end/r1" in f.names)
    sketch = b.step("sketch", "Cover", on=XY)
    made = take_in(b, sketch, face_ref("s2", topology, index))
    d = b.drawing(sketch)
    assert sorted(d.curves[c].kind for c in made) == ["circle", "line", "line", "line", "line"]
    circle = next(c for c in made if d.curves[c].kind == "circle")
    assert shape(d, circle) == [pytest.approx((20, 12))]
    with pytest.raises(WendalError, match="taken in already"):
        take_in(b, sketch, face_ref("s2", topology, index))


def test_a_corner_comes_in_as_a_point() -> None:
    b = plate()
    topology = evaluated(b).site.bodies["s2"].topology
    index = next(i for i, v in enumerate(topology.vertices) if math.dist(v.place, (40, 25, 10)) < 1e-6)
    sketch = b.step("sketch", "Below", on=XY)
    (point,) = take_in(b, sketch, vertex_ref("s2", topology, index))
    assert shape(b.drawing(sketch), point) == [pytest.approx((40, 25))]


def test_an_edge_square_to_the_plane_is_a_point_and_a_circle_edge_on_a_line() -> None:
    b = block()
    upright = next(ref for e, ref in edges(b) if e.form == "line" and abs(e.tangent[2]) > 0.9 and math.dist(e.middle[:2], (40, 25)) < 1e-6)
    sketch = b.step("sketch", "Below", on=XY)
    (point,) = take_in(b, sketch, upright)
    assert shape(b.drawing(sketch), point) == [pytest.approx((40, 25))]
    side = b.step("sketch", "Side", on={"of": "base", "name": "ZX"})
    ring = next(ref for e, ref in edges(b) if e.form == "circle" and abs(e.middle[2] - 16) < 1e-6)
    (line,) = take_in(b, side, ring)
    (ax, ay), (bx, by) = shape(b.drawing(side), line)
    assert math.dist((ax, ay), (bx, by)) == pytest.approx(10, abs=1e-3)


CUTS = [("YZ", 10.0, 1, "line"), ("ZX", 10.0, 1, "line")]


def cut_sketch(b: Builder, base: str, offset: float) -> str:
    plane = b.step("plane", f"At {base}", how="offset", first={"of": "base", "name": base}, distance={"formula": f"{offset} mm"})
    return b.step("sketch", f"On {base}", on={"of": "datum", "step": plane})


def test_a_face_meets_the_plane_in_a_line_and_a_round_one_in_a_circle() -> None:
    b = block()
    topology = evaluated(b).site.bodies["s2"].topology
    top = next(i for i, f in enumerate(topology.faces) if "s2/end/r1" in f.names)
    wall = next(i for i, f in enumerate(topology.faces) if f.form == "round")
    upright = cut_sketch(b, "YZ", 10)
    (line,) = take_in(b, upright, face_ref("s2", topology, top), manner="cut")
    (ax, ay), (bx, by) = shape(b.drawing(upright), line)
    assert abs(bx - ax) + abs(by - ay) == pytest.approx(25)
    level = cut_sketch(b, "XY", 13)
    (ring,) = take_in(b, level, face_ref("s2", topology, wall), manner="cut")
    d = b.drawing(level)
    assert d.curves[ring].kind == "circle"
    assert d.curves[ring].radius == pytest.approx(5)  # type: ignore[union-attr]
    b.do(do="set_formula", tag="boss_outline_diameter", formula="16 mm")
    assert now(b, level).curves[ring].radius == pytest.approx(8)  # type: ignore[union-attr]


def test_of_two_pieces_the_nearest_is_kept() -> None:
    b = block()
    topology = evaluated(b).site.bodies["s2"].topology
    wall = next(i for i, f in enumerate(topology.faces) if f.form == "round")
    upright = cut_sketch(b, "YZ", 20)
    frame = evaluated(b).site.sketches[upright].frame
    near = frame.local((20, 17, 13))[:2]
    (line,) = take_in(b, upright, face_ref("s2", topology, wall), manner="cut", near=near)
    xs = [frame.at(*p)[1] for p in shape(b.drawing(upright), line)]
    assert xs == pytest.approx([17, 17])
    b.do(do="set_formula", tag="boss_outline_diameter", formula="14 mm")
    xs = [frame.at(*p)[1] for p in shape(now(b, upright), line)]
    assert xs == pytest.approx([19, 19])


def test_a_plane_comes_in_as_the_line_where_it_crosses() -> None:
    b = plate()
    sketch = on_top(b)
    plane = b.step("plane", "Cut", how="offset", first={"of": "base", "name": "YZ"}, distance={"formula": "7 mm"})
    b.do(do="move_step", step=plane, after="s2")
    from wendal.core.reference import DatumRef
    (line,) = take_in(b, sketch, DatumRef(step=plane), manner="cut", near=(7, 3))
    assert [x for x, _ in shape(b.drawing(sketch), line)] == pytest.approx([7, 7])


def test_a_lost_source_leaves_the_curve_in_place_with_candidates() -> None:
    b = plate()
    sketch = on_top(b)
    (line,) = take_in(b, sketch, top_edge(b, (40, 12.5, 10)))
    right = next(c for c in b.drawing("s1").curves if all(abs(b.drawing("s1").place(p)[0] - 40) < 1e-6 for p in b.drawing("s1").curves[c].points))
    b.do(do="edit_sketch", step="s1", edit={"op": "remove", "entities": [right]})
    ends = {p: at for p, at in b.drawing("s1").points.items() if abs(at[0] - 40) < 1e-6}
    (p, a), (q, c) = list(ends.items())[:2]
    edit = {"op": "draw", "shape": "line", "ends": [{"at": a, "on": p}, {"at": c, "on": q}]}
    b.do(do="edit_sketch", step="s1", edit=edit)
    report = evaluated(b).report(sketch)
    lost = next(r for r in report.references if r.field == f"taken:{line}")
    assert (report.state, lost.state) == ("stopped", "lost")
    assert "stays where it was" in report.message
    assert shape(now(b, sketch), line)[0][0] == pytest.approx(40)
    assert lost.candidates
    b.do(do="edit_step", step=sketch, fields={f"taken:{line}": lost.candidates[0].ref})
    assert evaluated(b).report(sketch).state == "built"


def test_trimming_what_was_taken_in_keeps_the_link() -> None:
    b = plate()
    sketch = on_top(b)
    (line,) = take_in(b, sketch, top_edge(b, (40, 12.5, 10)))
    b.draw(sketch, "line", (30, 10), (50, 10))
    b.do(do="edit_sketch", step=sketch, edit={"op": "trim", "curves": [line], "path": [(40, 20)]})
    d = b.drawing(sketch)
    assert d.curves[line].construction
    own = list(d.curves)[-1]
    assert sorted(shape(d, own)) == [pytest.approx((40, 0)), pytest.approx((40, 10))]
    b.do(do="set_formula", tag="outline_width", formula="45 mm")
    assert [x for x, _ in shape(now(b, sketch), own)] == pytest.approx([45, 45])


def on_a_slope(b: Builder, angle: str = "30 deg") -> str:
    plane = b.step("plane", "Aslant", how="angle", first={"of": "base", "name": "X"}, second={"of": "base", "name": "XY"}, angle={"formula": angle})
    return b.step("sketch", "On it", on={"of": "datum", "step": plane})


def test_what_does_not_come_in_says_why() -> None:
    b = block()
    ring = next(ref for e, ref in edges(b) if e.form == "circle")
    sketch = on_a_slope(b)
    with pytest.raises(WendalError, match="does not cut"):
        take_in(b, sketch, ring, manner="cut")


def test_a_circle_seen_aslant_comes_in_as_an_ellipse_and_follows() -> None:
    b = block()
    ring = next(ref for e, ref in edges(b) if e.form == "circle" and e.middle[2] > 12)
    sketch = on_a_slope(b)
    (oval,) = take_in(b, sketch, ring)
    curve = now(b, sketch).curves[oval]
    assert isinstance(curve, Ellipse)
    assert math.dist(*shape(now(b, sketch), oval)) == pytest.approx(5)
    assert curve.radius == pytest.approx(5 * math.cos(math.radians(30)))
    b.do(do="set_formula", tag="boss_outline_diameter", formula="14 mm")
    after = now(b, sketch).curves[oval]
    assert isinstance(after, Ellipse)
    assert after.radius == pytest.approx(7 * math.cos(math.radians(30)))
    assert find_freedoms(solve(now(b, sketch), {})).number == 0


@pytest.mark.parametrize("near", [(20, 30), (20, -30)])
def test_a_slope_cuts_a_cylinder_in_an_ellipse(near: tuple[float, float]) -> None:
    b, sketch = Builder("Rod"), ""
    sketch = b.step("sketch", "Ring", on=XY)
    b.draw(sketch, "circle", (0, 0), (6, 0), diameter="12 mm")
    b.step("extrude", "Rod", profile=b.profile(sketch, 0), depth={"formula": "40 mm"}, extent="both")
    slope = on_a_slope(b, "40 deg")
    made = evaluated(b)
    topology = made.site.bodies["s2"].topology
    wall = face_ref("s2", topology, next(i for i, f in enumerate(topology.faces) if f.form == "round"))
    taken = take_in(b, slope, wall, manner="cut", near=near)
    curve = now(b, slope).curves[taken[0]]
    assert isinstance(curve, Ellipse)
    halves = sorted((math.dist(*shape(now(b, slope), taken[0])), curve.radius))
    assert halves == pytest.approx([6, 6 / math.cos(math.radians(40))])
    b.do(do="set_formula", tag="ring_diameter", formula="20 mm")
    (after,) = (now(b, slope).curves[t] for t in taken)
    assert isinstance(after, Ellipse)
    assert min(math.dist(*shape(now(b, slope), taken[0])), after.radius) == pytest.approx(10)


def test_bench_values_are_those_of_the_part() -> None:
    b = plate()
    sketch = on_top(b)
    take_in(b, sketch, top_edge(b, (40, 12.5, 10)))
    assert figures_of(b.part).values(b.drawing(sketch)) == {}


def rod(diameter: str = "12 mm") -> tuple[Builder, Any]:
    """A rod of 40 along Z, and the reference to its wall."""
    b = Builder("Rod")
    ring = b.step("sketch", "Ring", on=XY)
    b.draw(ring, "circle", (0, 0), (6, 0), on="origin", diameter=diameter)
    b.step("extrude", "Rod", profile=b.profile(ring, 0), depth={"formula": "40 mm"})
    topology = evaluated(b).site.bodies["s2"].topology
    return b, face_ref("s2", topology, next(i for i, f in enumerate(topology.faces) if f.form == "round"))


def test_a_round_face_comes_in_with_its_outline_and_the_outline_follows() -> None:
    b, wall = rod()
    sketch = b.step("sketch", "From the side", on={"of": "base", "name": "ZX"})
    taken = take_in(b, sketch, wall)
    manners = [b.drawing(sketch).taken[t].manner for t in taken]
    lines = [sorted(shape(b.drawing(sketch), t)) for t, m in zip(taken, manners, strict=True) if m == "outline"]
    assert len(lines) == 2
    assert manners.count("project") == 2  # its rims, seen edge-on; the seam is no edge of the part
    spread = {round(abs(v), 6) for line in lines for p in line for v in p}
    assert spread == {0.0, 6.0, 40.0}
    b.do(do="set_formula", tag="ring_diameter", formula="20 mm")
    b.do(do="set_formula", tag="rod_depth", formula="55 mm")
    after = [shape(now(b, sketch), t) for t, m in zip(taken, manners, strict=True) if m == "outline"]
    assert {round(abs(v), 6) for line in after for p in line for v in p} == {0.0, 10.0, 55.0}
    assert len({round(p[0], 6) for line in after for p in line} | {round(p[1], 6) for line in after for p in line}) == 4  # still one on each side


def test_a_round_face_seen_end_on_has_no_outline_of_its_own() -> None:
    b, wall = rod()
    sketch = b.step("sketch", "From above", on=XY)
    taken = take_in(b, sketch, wall)
    assert {b.drawing(sketch).taken[t].manner for t in taken} == {"project"}


@pytest.mark.parametrize(("tilt", "across"), [("", 8.0), ("60 deg", 4.0)])
def test_an_elliptical_edge_comes_in_as_the_ellipse_it_is_and_follows(tilt: str, across: float) -> None:
    """Seen square on it is itself; seen from a slope about X, along which its long axis lies, it is narrower."""
    b = Builder("Oval")
    sketch = b.step("sketch", "Outline", on=XY)
    b.draw(sketch, "ellipse", (0, 0), (20, 0), (0, 8), on="origin", axis="40 mm", **{"cross axis": "16 mm"})
    b.step("extrude", "Oval", profile=b.profile(sketch, 0), depth={"formula": "10 mm"})
    top = next(ref for e, ref in edges(b) if e.form == "ellipse" and e.middle[2] > 9)
    other = on_a_slope(b, tilt) if tilt else on_top(b)
    (oval,) = take_in(b, other, top)
    curve = now(b, other).curves[oval]
    assert isinstance(curve, Ellipse)
    centre, tip = shape(now(b, other), oval)
    assert (math.dist(centre, tip), curve.radius) == pytest.approx((20, across))
    assert tip[1] == pytest.approx(centre[1])
    b.do(do="set_formula", tag="outline_axis", formula="60 mm")
    assert math.dist(*shape(now(b, other), oval)) == pytest.approx(30)


def test_half_an_elliptical_edge_comes_in_as_an_arc_with_its_ends() -> None:
    b = Builder("Half")
    sketch = b.step("sketch", "Outline", on=XY)
    (ellipse,) = b.draw(sketch, "ellipse", (0, 0), (20, 0), (0, 8))
    b.draw(sketch, "line", (-25, 0), (25, 0))
    b.do(do="edit_sketch", step=sketch, edit={"op": "trim", "manner": "nearest", "curves": [ellipse], "path": [(0, -8)]})
    b.step("extrude", "Half", profile=b.profile(sketch, 0), depth={"formula": "10 mm"})
    other = on_top(b)
    (arc,) = take_in(b, other, next(ref for e, ref in edges(b) if e.form == "ellipse" and e.middle[2] > 9))
    _, _, start, end = shape(now(b, other), arc)
    assert (start, end) == (pytest.approx((20, 0), abs=1e-6), pytest.approx((-20, 0), abs=1e-6))  # counter-clockwise, over the top


def test_a_face_taken_in_twice_is_told_and_nothing_is_doubled() -> None:
    b, wall = rod()
    sketch = b.step("sketch", "From the side", on={"of": "base", "name": "ZX"})
    take_in(b, sketch, wall)
    before = b.drawing(sketch)
    with pytest.raises(WendalError, match="taken in already"):
        take_in(b, sketch, wall)
    assert b.drawing(sketch) == before


@pytest.mark.parametrize(("side", "width", "height"), [(-1, 34, 19), (1, 46, 31)])
def test_a_face_that_came_in_is_a_chain_and_its_offset_runs_on_one_side_all_round(side: int, width: float, height: float) -> None:
    b = plate()
    sketch = on_top(b)
    face = face_ref("s2", evaluated(b).site.bodies["s2"].topology, next(i for i, f in enumerate(evaluated(b).site.bodies["s2"].topology.faces)
                                                                        if "s2/end/r1" in f.names))
    taken = take_in(b, sketch, face)
    b.do(do="edit_sketch", step=sketch, edit={"op": "offset", "curves": taken, "distance": "3 mm", "side": side})
    d = b.drawing(sketch)
    made = [p for c, curve in d.curves.items() if c not in taken for p in curve.points]
    for axis, size in ((0, width), (1, height)):
        along = [d.place(p)[axis] for p in made]
        assert max(along) - min(along) == pytest.approx(size)
    for wide, deep in (("60 mm", "25 mm"), ("20 mm", "90 mm"), ("300 mm", "8 mm")):
        b.do(do="set_formula", tag="outline_width", formula=wide)
        b.do(do="set_formula", tag="outline_height", formula=deep)
        after = now(b, sketch)
        for axis, size in ((0, width - 40 + float(wide[:-3])), (1, height - 25 + float(deep[:-3]))):
            along = [after.place(p)[axis] for p in made]
            assert max(along) - min(along) == pytest.approx(size)
