"""Sketches with known answers: coordinates, freedoms, refusals; what is predictable when dimensions change."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.samples import drawn, freedoms
from tools.bench.outlines import plate_outline
from wendal.core.errors import SketchError
from wendal.core.route import figures_of
from wendal.core.sketch import Drag, Drawing, find_freedoms, measured, solve
from wendal.core.sketch.solving import singular
from wendal.core.sketch.solving.system import EquationSystem
from wendal.core.stored import Value
from wendal.demo.builder import Builder


def words(b: Builder, sketch: str) -> list[str]:
    drawing = b.drawing(sketch)
    return [f.words for f in find_freedoms(solve(drawing, figures_of(b.part).values(drawing))).motions]


def ends(drawing: Drawing, curve: str) -> list[tuple[float, float]]:
    c = drawing.curves[curve]
    return [drawing.points[p] for p in c.points]


# name, shapes, constraints as (kind, indices of curves or ids, formula), freedoms
CASES: list[tuple[str, list[tuple[Any, ...]], list[tuple[Any, ...]], int]] = [
    ("a line alone", [("line", (0, 0), (9, 4))], [], 4),
    ("a level line", [("line", (0, 0), (9, 4))], [("horizontal", [0])], 3),
    ("a level line of given length", [("line", (0, 0), (9, 4))], [("horizontal", [0]), ("distance", [0], "12 mm")], 2),
    ("a fixed line", [("line", (0, 0), (9, 4))], [("fixed", [0])], 0),
    ("a circle alone", [("circle", (5, 5), (8, 5))], [], 3),
    ("a circle of given size", [("circle", (5, 5), (8, 5))], [("diameter", [0], "7 mm")], 2),
    ("a circle round the origin", [("circle", (5, 5), (8, 5))], [("concentric", [0, "origin"]), ("radius", [0], "7 mm")], 0),
    ("an arc alone", [("arc", (10, 0), (0, 10), (7, 7))], [], 5),
    ("a rectangle", [("rectangle", (3, 2), (30, 20))], [], 4),
    ("a rectangle with width", [("rectangle", (3, 2), (30, 20))], [("distance", [0], "30 mm")], 3),
    ("a square", [("rectangle", (3, 2), (30, 20))], [("distance", [0], "30 mm"), ("equal", [0, 1])], 2),
    ("two parallels", [("line", (0, 0), (9, 1)), ("line", (0, 5), (9, 7))], [("parallel", [0, 1])], 7),
    ("two parallels at a distance", [("line", (0, 0), (9, 1)), ("line", (0, 5), (9, 7))],
     [("parallel", [0, 1]), ("distance", [0, 1], "5 mm")], 6),
    ("two squares to each other", [("line", (0, 0), (9, 1)), ("line", (0, 5), (1, 12))], [("square", [0, 1])], 7),
    ("an angle", [("line", (0, 0), (9, 1)), ("line", (0, 5), (6, 12))], [("angle", [0, 1], "35 deg")], 7),
    ("equal circles", [("circle", (0, 0), (3, 0)), ("circle", (9, 0), (11, 0))], [("equal", [0, 1])], 5),
    ("touching circles", [("circle", (0, 0), (3, 0)), ("circle", (9, 0), (12, 0))], [("tangent", [0, 1])], 5),
    ("a line that touches a circle", [("line", (0, 9), (20, 11)), ("circle", (9, 0), (12, 0))], [("tangent", [0, 1])], 6),
    ("three touching circles of given size", [("circle", (0, 0), (5, 0)), ("circle", (11, 0), (16, 0)), ("circle", (5, 9), (10, 9))],
     [("diameter", [i], "10 mm") for i in (0, 1, 2)] + [("tangent", [0, 1]), ("tangent", [1, 2]), ("tangent", [0, 2])], 3),
    ("a line on both axes", [("line", (4, 1), (1, 5))], [("on_curve", ["p1", "x_axis"]), ("on_curve", ["p2", "y_axis"])], 2),
    ("symmetric ends", [("line", (-6, 2), (5, 3))], [("symmetric", ["p1", "p2", "y_axis"])], 2),
    ("a middle at the origin", [("line", (-6, 2), (5, 3))], [("midpoint", ["origin", 0])], 2),
    ("upright by two points", [("point", (1, 2)), ("point", (3, 4))], [("vertical", ["p1", "p2"])], 3),
    ("a slot", [("slot", (0, 0), (30, 4), (33, 12))], [], 5),
    ("a level slot of given width", [("slot", (0, 0), (30, 4), (33, 12))], [("diameter", [0], "12 mm"), ("horizontal", [2])], 3),
    ("a hexagon", [("polygon", (0, 0), (20, 3))], [], 4),
    ("a hexagon round the origin, upright", [("polygon", (0, 0), (20, 3))],
     [("concentric", [0, "origin"]), ("diameter", [0], "40 mm"), ("vertical", [1])], 0),
    ("a rectangle by its middle", [("rectangle_centre", (0, 0), (20, 10))], [], 4),
    ("a rectangle by its middle, placed and sized", [("rectangle_centre", (0, 0), (20, 10))],
     [("coincident", ["origin", "p13"]), ("distance", [0], "50 mm"), ("distance", [1], "20 mm")], 0),
    ("a rectangle aslant", [("rectangle_three", (0, 0), (20, 10), (15, 20))], [], 5),
    ("a circle through three places", [("circle_three", (10, 0), (0, 10), (-10, 0))], [], 3),
    ("an arc about its middle", [("arc_centre", (0, 0), (10, 0), (0, 7))], [], 5),
    ("a curved slot", [("arc_slot", (0, 0), (30, 0), (0, 30), (36, 2))], [], 6),
    ("a curved slot of given width round the origin", [("arc_slot", (0, 0), (30, 0), (0, 30), (36, 2))],
     [("concentric", [0, "origin"]), ("diameter", [2], "10 mm")], 3),
    ("two lines in line", [("line", (0, 0), (9, 0)), ("line", (12, 0), (20, 0))], [("collinear", [0, 1])], 6),
    ("an arc of given length", [("arc", (10, 0), (0, 10), (7, 7))], [("radius", [0], "10 mm"), ("arc_length", [0], "12 mm")], 3),
    ("two equal spans", [("point", (0, 0)), ("point", (9, 0)), ("point", (0, 5)), ("point", (9, 6))],
     [("equal", ["p1", "p2", "p3", "p4"])], 7),
    ("a point off a circle's edge", [("circle", (0, 0), (5, 0)), ("point", (9, 0))], [("distance", ["p3", 0], "6 mm")], 4),
    ("a line off a circle's edge", [("circle", (0, 0), (5, 0)), ("line", (-9, 9), (9, 8))], [("distance", [1, 0], "2 mm")], 6),
    ("a web between two circles", [("circle", (0, 0), (5, 0)), ("circle", (20, 0), (24, 0))], [("distance", [0, 1], "8 mm")], 5),
    ("two points apart", [("point", (1, 2)), ("point", (3, 4))], [("distance", ["p1", "p2"], "8 mm")], 3),
]


@pytest.mark.parametrize(("shapes", "constraints", "expected"), [c[1:] for c in CASES], ids=[c[0] for c in CASES])
@pytest.mark.parametrize("order", ["as given", "backwards"])
def test_freedoms(shapes: list, constraints: list, expected: int, order: str) -> None:
    b, sketch, curves = drawn(*shapes)
    # An equality or tangency that stands on sizes can only be drawn after them; otherwise the order is free.
    todo = constraints if order == "as given" or len({c[0] for c in constraints}) < len(constraints) else constraints[::-1]
    for kind, of, *formula in todo:
        things = [curves[e] if isinstance(e, int) else e for e in of]
        b.constrain(sketch, kind, *things, **({"formula": formula[0]} if formula else {}))
    assert freedoms(b, sketch) == expected
    drawing = b.drawing(sketch)
    system = solve(drawing, figures_of(b.part).values(drawing)).system
    assert abs(system.residuals(system.z0)).max(initial=0) <= 1e-9 * system.size


def test_a_rectangle_with_two_dimensions_and_a_corner_at_the_origin_is_fully_constrained() -> None:
    b, sketch, _ = drawn()
    b.draw(sketch, "rectangle", (0, 0), (30, 20), on="origin", width="40 mm", height="25 mm")
    assert freedoms(b, sketch) == 0
    assert sorted({(round(x, 9), round(y, 9)) for x, y in b.drawing(sketch).points.values()}) == [
        (0, 0), (0, 25), (40, 0), (40, 25)]
    width = next(k for k, c in b.drawing(sketch).constraints.items() if c.value and c.value.tag.endswith("width"))
    b.do(do="edit_sketch", step=sketch, edit={"op": "remove", "entities": [width]})
    assert words(b, sketch) == ["the right vertical line slides along X"]


@pytest.mark.parametrize(("first", "second", "told"), [
    (("horizontal", [0]), ("horizontal", [0]), "not needed"),
    (("horizontal", [0]), ("vertical", [0]), "fight"),
    (("distance", [0], "10 mm"), ("distance", [0], "12 mm"), "fight"),
    (("distance", [0], "10 mm"), ("distance", [0], "10 mm"), "not needed"),
    (("parallel", [0, 1]), ("angle", [0, 1], "30 deg"), "fight"),
    (("parallel", [0, 1]), ("parallel", [1, 0]), "not needed"),
])
def test_redundant_is_told_apart_from_fighting(first: tuple, second: tuple, told: str) -> None:
    b, sketch, curves = drawn(("line", (0, 0), (9, 1)), ("line", (0, 5), (9, 7)))

    def add(kind: str, of: list[int], *formula: str) -> None:
        b.constrain(sketch, kind, *(curves[i] for i in of), **({"formula": formula[0]} if formula else {}))

    add(*first)
    before = b.part
    with pytest.raises(SketchError, match=told):
        add(*second)
    assert b.part is before


@pytest.mark.parametrize(("kind", "of", "formula", "told"), [
    ("distance", [0], "0 mm", "greater than zero"), ("distance", [0], "-3 mm", "greater than zero"),
    ("diameter", [0], "", "wants a circle or arc"), ("angle", [0, 1], "181 deg", "at most 180"), ("parallel", [0, 0], "", "picked twice"),
    ("parallel", [0, 2], "", "wants two lines"), ("tangent", [0, 1], "", "wants a line and a circle or arc, or two circles"), ("glued", [0, 1], "", "There is no constraint"),
    ("horizontal", [0], "3 mm", "has no value"),
])
def test_what_does_not_fit_is_refused_in_words(kind: str, of: list[int], formula: str, told: str) -> None:
    b, sketch, curves = drawn(("line", (0, 0), (9, 1)), ("line", (0, 5), (9, 9)), ("circle", (20, 0), (22, 0)))
    with pytest.raises(SketchError, match=told):
        b.constrain(sketch, kind, *(curves[i] for i in of), **({"formula": formula} if formula else {}))


def test_an_unreachable_value_is_refused_with_the_largest_reachable_one() -> None:
    b, sketch, (a, c, e) = drawn(("line", (0, 0), (1, 0.2)), ("line", (1, 0.2), (0.5, 0.9)), ("line", (0.5, 0.9), (0, 0)))
    for first, second in (("p2", "p4"), ("p5", "p7"), ("p8", "p1")):
        b.constrain(sketch, "coincident", first, second)
    for line, name in ((a, "first"), (c, "second"), (e, "third")):
        b.constrain(sketch, "distance", line, formula="1 mm", tag=name)
    drawing = b.drawing(sketch)
    values = {k: v if drawing.constraints[k].value.tag != "outline_third" else 5.0 for k, v in measured(drawing).items()}  # type: ignore[union-attr]
    with pytest.raises(SketchError, match=r"follows to about (1\.99|2)"):
        solve(drawing, values)


@pytest.mark.parametrize("formula", ["3 mm", "20 mm", "85 mm", "0.1 mm"])
def test_a_dimension_change_never_mirrors(formula: str) -> None:
    b, sketch, (a, *_) = drawn(("line", (0, 0), (40, 0)), ("line", (40, 0), (12, 21)), ("line", (12, 21), (0, 0)))
    for first, second in (("p2", "p4"), ("p5", "p7"), ("p8", "p1"), ("p1", "origin")):
        b.constrain(sketch, "coincident", first, second)
    b.constrain(sketch, "horizontal", a)
    b.constrain(sketch, "distance", a, formula="40 mm", tag="base")
    b.constrain(sketch, "distance", "p7", a, formula="21 mm", tag="rise")
    b.constrain(sketch, "distance", "p7", "y_axis", formula="12 mm", tag="reach")
    for tag in ("outline_rise", "outline_reach", "outline_base"):
        b.do(do="set_formula", tag=tag, formula=formula)
        drawing = b.drawing(sketch)
        solved = solve(drawing, figures_of(b.part).values(drawing)).drawing
        assert solved.points["p7"][1] > 0
        assert solved.points["p7"][0] > 0
        assert solved.points["p2"][0] > 0


@given(st.floats(0.02, 400), st.floats(0.02, 400), st.floats(-3, 3), st.sampled_from([1e-1, 1.0, 1e3]))
@settings(max_examples=25, deadline=None)
def test_a_turned_rectangle_takes_any_size(width: float, height: float, tilt: float, scale: float) -> None:
    turn = lambda x, y: (scale * (x * math.cos(tilt) - y * math.sin(tilt)), scale * (x * math.sin(tilt) + y * math.cos(tilt)))  # noqa: E731
    corners = [turn(*p) for p in ((0, 0), (30, 0), (30, 20), (0, 20))]
    b, sketch, lines = drawn(*(("line", corners[i], corners[(i + 1) % 4]) for i in range(4)))
    points = [b.drawing(sketch).curves[line].points for line in lines]
    for i in range(4):
        b.constrain(sketch, "coincident", points[i][1], points[(i + 1) % 4][0])
        if i < 3:
            b.constrain(sketch, "square", lines[i], lines[i + 1])
    b.constrain(sketch, "distance", lines[0], formula=f"{30 * scale:.9f} mm", tag="width")
    b.constrain(sketch, "distance", lines[1], formula=f"{20 * scale:.9f} mm", tag="height")
    b.do(do="set_formula", tag="outline_width", formula=f"{width * scale:.9f} mm")
    b.do(do="set_formula", tag="outline_height", formula=f"{height * scale:.9f} mm")
    drawing = b.drawing(sketch)
    solved = solve(drawing, figures_of(b.part).values(drawing)).drawing
    lengths = [math.dist(*ends(solved, line)) for line in lines]
    assert lengths == pytest.approx([width * scale, height * scale] * 2, rel=1e-7, abs=1e-8 * scale * max(width, height))
    (ax, ay), (bx, by), (cx, cy) = solved.points[points[0][0]], solved.points[points[0][1]], solved.points[points[1][1]]
    assert (bx - ax) * (cy - by) - (by - ay) * (cx - bx) > 0  # still turns left


@given(st.lists(st.tuples(st.floats(-80, 80), st.floats(-80, 80)), min_size=1, max_size=6), st.sampled_from(["p2", "c3", "c9", "p5"]))
@settings(max_examples=20, deadline=None)
def test_a_drag_never_breaks_a_constraint(path: list[tuple[float, float]], held: str) -> None:
    b, sketch, curves = drawn(("line", (0, 0), (40, 3)), ("line", (40, 3), (25, 30)), ("line", (10, 9), (33, 11)))
    b.constrain(sketch, "coincident", "p2", "p4")
    b.constrain(sketch, "coincident", "p1", "origin")
    b.constrain(sketch, "distance", curves[0], formula="41 mm")
    b.constrain(sketch, "square", curves[0], curves[2]) if held == "p5" else b.constrain(sketch, "parallel", curves[0], curves[2])
    drawing = b.drawing(sketch)
    values = figures_of(b.part).values(drawing)
    drag = Drag(drawing, values, held, (20.0, 10.0))
    for place in path:
        drag.move(place)
    after = drag.finish()
    assert measured(after) == pytest.approx(values, rel=1e-8)
    system = solve(after, values).system
    assert abs(system.residuals(system.z0)).max() <= 1e-8 * system.size


@pytest.mark.parametrize(("equations", "doubled"), [(250, 0), (310, 7), (320, 40)])
def test_motions_of_many_unknowns_are_the_same_by_either_method(monkeypatch: pytest.MonkeyPatch, equations: int, doubled: int) -> None:
    rng = np.random.default_rng(5)
    J = rng.normal(size=(equations, 320)) * (rng.random(size=(equations, 320)) < 0.05)
    J[equations - doubled :] = J[:doubled] if doubled else J[equations:]  # equations that say nothing new
    quick = singular.null_space(J)
    monkeypatch.setattr(singular, "MANY", 10_000)
    sure = singular.null_space(J)
    assert quick.shape == sure.shape == (320, 320 - np.linalg.matrix_rank(J))
    assert np.abs(J @ quick).max() < 1e-10
    assert np.allclose(quick @ (quick.T @ sure), sure, atol=1e-9)


@pytest.mark.parametrize("turned", [0.0, 0.3])
def test_equations_that_serve_again_give_what_fresh_ones_give(turned: float) -> None:
    drawing = plate_outline(20, turned)
    drawing = solve(drawing, measured(drawing)).drawing
    values = measured(drawing)
    rng = np.random.default_rng(4)
    for k in list(values)[::7]:
        wanted = {**values, k: values[k] * float(rng.uniform(0.9, 1.1))}
        again, fresh = solve(drawing, wanted), EquationSystem(drawing, wanted)
        assert again.system.residuals(again.z) == pytest.approx(fresh.residuals(again.z), abs=1e-12)
        assert np.abs(fresh.residuals(again.z)).max() < 1e-9


def test_equations_serve_again_only_where_nothing_but_values_differs() -> None:
    drawing = plate_outline(20)
    values = measured(drawing)
    system = EquationSystem(drawing, values)
    k, c = next(iter(drawing.dimensions()))

    def changed(**update: Any) -> Drawing:
        return drawing.model_copy(update={"constraints": {**drawing.constraints, k: c.model_copy(update=update)}})

    other = changed(value=Value(formula="1 mm", tag="fresh"))
    reused = system.of(other, values)
    assert reused is not None
    assert reused.drawn(reused.z0).constraints[k].value == other.constraints[k].value
    assert system.of(changed(sense=-c.sense), values) is None
    assert system.of(changed(reference=True, value=None), values) is None
    assert system.of(drawing.model_copy(update={"points": dict(drawing.points)}), values) is None
    fewer = {q: d for q, d in drawing.constraints.items() if q != k}
    assert system.of(drawing.model_copy(update={"constraints": fewer}), values) is None
