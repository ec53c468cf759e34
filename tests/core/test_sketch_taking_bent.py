"""Taking in free curves: spline edges, what free faces are cut in, and where extruded ones turn away from the eye."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
import pytest

from tests.core.test_sketch_spline_meetings import height
from tests.core.test_sketch_taking import cut_sketch, edges, now, on_a_slope, on_top, shape, take_in
from tests.samples import XY, evaluated
from wendal.core import kernel
from wendal.core.reference import face_ref
from wendal.core.route import figures_of
from wendal.core.sketch import Drawing, Line, Spline, Traced, find_freedoms, path_of, solve, traced_spline
from wendal.core.sketch.drawn.splines import TRACED
from wendal.core.sketch.solving.taken import placed
from wendal.demo.builder import Builder


def vault(depth: str = "10 mm") -> Builder:
    """The space between the parabola y = x - x²/20 and the X axis, pushed up."""
    b = Builder("Vault")
    sketch = b.step("sketch", "Bow", on=XY)
    (bow,) = b.draw(sketch, "spline_pulled", (0, 0), (10, 10), (20, 0))
    for p in b.drawing(sketch).curves[bow].points:
        b.constrain(sketch, "fixed", p)
    b.draw(sketch, "line", (0, 0), (20, 0))
    b.step("extrude", "Vault", profile=b.profile(sketch, 0), depth={"formula": depth})
    return b


def bow_edge(b: Builder, top: bool = True) -> Any:
    return next(ref for e, ref in edges(b) if e.form not in ("line", "circle", "ellipse") and (e.middle[2] > 1) == top)


def bow_face(b: Builder) -> Any:
    topology = evaluated(b).site.bodies["s2"].topology
    return face_ref("s2", topology, next(i for i, f in enumerate(topology.faces) if f.form not in ("flat", "round")))


def trimmed() -> tuple[Builder, str, str]:
    """The upper edge of the vault taken in, and cut off beyond x = 12."""
    b = vault()
    sketch = on_top(b)
    (taken,) = take_in(b, sketch, bow_edge(b))
    b.draw(sketch, "line", (12, -3), (12, 9))
    b.do(do="edit_sketch", step=sketch, edit={"op": "trim", "curves": [taken], "path": [(18, height(18))]})
    return b, sketch, taken


@pytest.mark.parametrize(("curve", "within"), [
    (lambda s: (20 * s, 5 * math.sin(6 * s)), 2e-5), (lambda s: (10 * math.cos(5 * s), 10 * math.sin(5 * s)), 2e-5),
    (lambda s: (20 * s, height(20 * s)), 1e-9)], ids=["wave", "circle", "parabola"])
def test_a_traced_spline_agrees_with_its_curve(curve: Any, within: float) -> None:
    controls = traced_spline([curve(i / 256) for i in range(257)])
    assert len(controls) == TRACED
    b = Builder("Traced")
    b.step("sketch", "On", on=XY)
    (c,) = b.draw("s1", "spline_pulled", *controls)
    path = path_of(b.drawing("s1"), c)
    assert max(path.off(curve(s)) for s in np.linspace(0, 1, 41)) < within
    assert path.at(0.0) == pytest.approx(curve(0.0), abs=1e-9)
    assert path.at(1.0) == pytest.approx(curve(1.0), abs=1e-9)


def test_a_spline_edge_comes_in_as_a_spline_that_follows() -> None:
    b = vault()
    sketch = on_top(b)
    (taken,) = take_in(b, sketch, bow_edge(b))
    drawing = now(b, sketch)
    path = path_of(drawing, taken)
    assert isinstance(drawing.curves[taken], Spline)
    assert max(path.off((x, height(x))) for x in np.linspace(0, 20, 33)) < 1e-9
    assert find_freedoms(solve(drawing, {})).number == 0
    middle = next(iter(b.drawing("s1").curves.values())).points[0]
    free = next(k for k, c in b.drawing("s1").constraints.items() if c.kind == "fixed" and c.of == [middle])
    b.do(do="edit_sketch", step="s1", edit={"op": "remove", "entities": [free]})
    b.do(do="edit_sketch", step="s1", edit={"op": "move", "entity": middle, "start": (10, 10), "to": (10, 20)})
    path = path_of(now(b, sketch), taken)
    assert max(path.off((x, 2 * height(x))) for x in np.linspace(0, 20, 33)) < 1e-9


def test_a_spline_through_many_points_comes_in_as_itself() -> None:
    b = Builder("Wave")
    sketch = b.step("sketch", "Wave", on=XY)
    (wave,) = b.draw(sketch, "spline", (0, 0), (5, 7), (13, 6), (19, 9), (26, 0))
    b.draw(sketch, "line", (0, 0), (26, 0))
    b.step("extrude", "Wave", profile=b.profile(sketch, 0), depth={"formula": "10 mm"})
    other = on_top(b)
    (taken,) = take_in(b, other, bow_edge(b))
    here, there = path_of(now(b, sketch), wave), path_of(now(b, other), taken)
    assert max(there.off(here.at(t)) for t in np.linspace(0, 1, 57)) < 1e-9
    assert sorted((there.at(0.0), there.at(1.0))) == [pytest.approx((0, 0), abs=1e-9), pytest.approx((26, 0), abs=1e-9)]


@pytest.mark.parametrize("count", [4, 5, 8, 12])
def test_a_source_with_more_or_fewer_points_is_followed_by_all_its_parts(count: int) -> None:
    b, sketch, taken = trimmed()
    drawing = b.drawing(sketch)
    places = [(20 * i / (count - 1), 1.0 * (i % 3)) for i in range(count)]
    knots = [i / (count - 3) for i in range(count - 2)]
    drawing = placed(drawing, {taken: Traced(kind="spline", places=places, knots=knots)})
    again = placed(drawing, {taken: Traced(kind="spline", places=places, knots=knots)})
    assert again == drawing
    splines = [curve for curve in drawing.curves.values() if isinstance(curve, Spline)]
    assert len(splines) == 2
    assert [[drawing.points[p] for p in curve.over] for curve in splines] == [places, places]
    assert set(drawing.points) >= {p for curve in drawing.curves.values() for p in curve.points if p != "origin"}
    assert Drawing.model_validate(drawing.model_dump()).points.keys() == drawing.points.keys()


def test_what_was_taken_in_is_trimmed_and_keeps_its_link() -> None:
    b, sketch, taken = trimmed()
    drawing = b.drawing(sketch)
    (own,) = (c for c, curve in drawing.curves.items() if isinstance(curve, Spline) and c != taken)
    assert drawing.curves[taken].construction
    assert drawing.points[drawing.curves[own].points[-1]] == pytest.approx((12, height(12)), abs=1e-6)
    assert own not in drawing.taken
    b.draw(sketch, "line", (5, -3), (5, 9))
    b.do(do="edit_sketch", step=sketch, edit={"op": "trim", "curves": [own], "path": [(2, height(2))]})
    drawing = b.drawing(sketch)
    assert sum(isinstance(curve, Spline) for curve in drawing.curves.values()) == 2  # what it was taken from does not cut it
    assert [drawing.points[p][0] for p in drawing.curves[own].points[-2:]] == pytest.approx([5, 12], abs=1e-6)


def test_seen_edge_on_a_spline_edge_is_a_line() -> None:
    b = vault()
    sketch = b.step("sketch", "From the front", on={"of": "base", "name": "ZX"})
    (taken,) = take_in(b, sketch, bow_edge(b))
    drawing = now(b, sketch)
    assert isinstance(drawing.curves[taken], Line)
    assert math.dist(*shape(drawing, taken)) == pytest.approx(20, abs=1e-6)


def test_a_slope_cuts_a_free_face_in_a_spline() -> None:
    b = vault("30 mm")
    sketch = on_a_slope(b)
    (taken,) = take_in(b, sketch, bow_face(b), manner="cut")
    drawing = now(b, sketch)
    assert isinstance(drawing.curves[taken], Spline)
    stretch = 1 / math.cos(math.radians(30))  # the slope turns about X
    path = path_of(drawing, taken)
    assert max(path.off((x, stretch * height(x))) for x in np.linspace(0.5, 19.5, 21)) < 1e-5


def test_cut_along_its_own_direction_a_free_face_gives_a_line() -> None:
    b = vault()
    sketch = cut_sketch(b, "YZ", 8)
    (taken,) = take_in(b, sketch, bow_face(b), manner="cut")
    assert isinstance(now(b, sketch).curves[taken], Line)
    assert sorted(shape(now(b, sketch), taken)) == [pytest.approx((height(8), 0), abs=1e-6), pytest.approx((height(8), 10), abs=1e-6)]


def test_an_extruded_face_shows_its_outline_where_it_turns_away() -> None:
    b = vault()
    sketch = b.step("sketch", "From the side", on={"of": "base", "name": "YZ"})
    taken = take_in(b, sketch, bow_face(b))
    manners = {t: b.drawing(sketch).taken[t].manner for t in taken}
    (outline,) = (t for t, m in manners.items() if m == "outline")  # seen along X, the crown of the bow
    assert sorted(shape(now(b, sketch), outline)) == [pytest.approx((5, 0), abs=1e-7), pytest.approx((5, 10), abs=1e-7)]
    b.do(do="set_formula", tag="vault_depth", formula="25 mm")
    assert sorted(shape(now(b, sketch), outline))[1] == pytest.approx((5, 25), abs=1e-7)


def test_seen_end_on_or_where_nothing_turns_away_there_is_none() -> None:
    b = vault()
    shape_, topology = evaluated(b).site.bodies["s2"].shape, evaluated(b).site.bodies["s2"].topology
    bow = next(i for i, f in enumerate(topology.faces) if f.form not in ("flat", "round"))
    flat = next(i for i, f in enumerate(topology.faces) if f.form == "flat")
    assert kernel.turning_lines(shape_, bow, (0.0, 0.0, 1.0)) == []
    assert kernel.turning_lines(shape_, bow, (0.0, 1.0, 0.0)) == []
    assert kernel.turning_lines(shape_, flat, (1.0, 0.0, 0.0)) == []
    ((place, along),) = kernel.turning_lines(shape_, bow, (1.0, 0.0, 0.0))
    assert place[:2] == pytest.approx((10, 5), abs=1e-9)
    assert abs(along[2]) == pytest.approx(1)


@pytest.mark.parametrize("shape", [("spline", (0, 0), (10, 8), (20, 2), (30, 0)), ("spline_pulled", (0, 0), (10, 10), (20, 0)),
                                   ("ellipse_arc", (10, 0), (20, 0), (10, 6), (0, 0))])
def test_every_face_beside_a_bent_curve_is_seen(shape: Any) -> None:
    b = Builder("Seen")
    sketch = b.step("sketch", "Bow", on=XY)
    (c,) = b.draw(sketch, *shape)
    start, end = (b.drawing(sketch).points[p] for p in b.drawing(sketch).curves[c].ends or ())
    b.draw(sketch, "line", start, end)
    b.step("extrude", "Seen", profile=b.profile(sketch, 0), depth={"formula": "10 mm"})
    body = evaluated(b).site.bodies["s2"]
    for face, mesh in zip(body.topology.faces, kernel.face_meshes(body.shape, 30.0), strict=True):
        p, q, r = (mesh.places[mesh.triangles[:, i]].astype(float) for i in range(3))
        assert np.linalg.norm(np.cross(q - p, r - p), axis=1).sum() / 2 == pytest.approx(face.area, rel=0.01)


def test_a_linked_image_follows_when_the_source_gets_more_points_or_fewer() -> None:
    b = Builder("Wave")
    sketch = b.step("sketch", "Wave", on=XY)
    (wave,) = b.draw(sketch, "spline", (2, 0), (5, 7), (13, 6), (19, 9), (26, 0))
    b.draw(sketch, "line", (2, 0), (26, 0))
    b.step("extrude", "Wave", profile=b.profile(sketch, 0), depth={"formula": "10 mm"})
    other = on_top(b)
    (taken,) = take_in(b, other, bow_edge(b))
    b.do(do="edit_sketch", step=other, edit={"op": "offset", "curves": [taken], "distance": "1 mm"})
    b.do(do="edit_sketch", step=other, edit={"op": "mirror", "entities": [taken], "axis": "y_axis"})
    image = list(b.drawing(other).curves)[-1]

    def check(count: int) -> None:
        drawing = now(b, other)
        curves = [c for c in drawing.curves.values() if isinstance(c, Spline)]
        assert [len(c.over) for c in curves] == [count] * 3
        assert find_freedoms(solve(drawing, figures_of(b.part).values(drawing))).number == 0
        source, mirrored = path_of(now(b, sketch), wave), path_of(drawing, image)
        assert max(mirrored.off((-x, y)) for x, y in (source.at(t) for t in np.linspace(0, 1, 41))) < 1e-8

    check(7)
    b.do(do="edit_sketch", step=sketch, edit={"op": "add_point", "curve": wave, "at": (10, 7)})
    inner = b.drawing(sketch).curves[wave].points[2]
    x, y = b.drawing(sketch).points[inner]
    b.do(do="edit_sketch", step=sketch, edit={"op": "move", "entity": inner, "start": (x, y), "to": (x, y + 2)})
    check(8)
    for p in b.drawing(sketch).curves[wave].points[2:4]:
        b.do(do="edit_sketch", step=sketch, edit={"op": "remove", "entities": [p]})
    check(6)
