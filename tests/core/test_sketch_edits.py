"""Edits of a drawing: reference dimensions, shapes that are refused, removal, construction, places of figures."""

from __future__ import annotations

import math
from typing import Any

import pytest

from tests.samples import drawn, free_sketch, plate
from wendal.core.errors import SketchError, WendalError
from wendal.core.inspect import sketch_view
from wendal.core.route import figures_of
from wendal.core.sketch import find_freedoms, solve
from wendal.demo.builder import Builder


def edit(b: Builder, sketch: str, **fields: Any) -> None:
    b.do(do="edit_sketch", step=sketch, edit=fields)


def rows(b: Builder, sketch: str) -> list[dict[str, Any]]:
    return [c for c in sketch_view(b.part, sketch)["constraints"] if c["dimension"]]


def test_a_reference_dimension_tells_its_value_and_binds_nothing() -> None:
    b = plate()
    upper = next(c for c in b.drawing("s1").curves if all(b.drawing("s1").points[p][1] > 24 for p in b.drawing("s1").curves[c].points))
    with pytest.raises(SketchError, match="not needed"):
        b.constrain("s1", "distance", upper)
    edit(b, "s1", op="constrain", kind="distance", of=[upper], reference=True)
    told = rows(b, "s1")[-1]
    assert (told["reference"], told["shown"], told["tag"]) == (True, "(40 mm)", "")
    b.do(do="set_formula", tag="outline_width", formula="55 mm")
    assert rows(b, "s1")[-1]["shown"] == "(55 mm)"
    with pytest.raises(SketchError, match="only tells its value"):
        edit(b, "s1", op="set_value", constraint=told["id"], formula="60 mm")


def test_a_dimension_is_made_reference_and_drives_again() -> None:
    b = plate()
    width = rows(b, "s1")[0]["id"]
    edit(b, "s1", op="set_reference", constraint=width, on=True)
    assert "outline_width" not in b.part.tags()
    drawing = b.drawing("s1")
    assert find_freedoms(solve(drawing, figures_of(b.part).values(drawing))).number == 1
    edit(b, "s1", op="set_reference", constraint=width, on=False)
    drawing = b.drawing("s1")
    assert find_freedoms(solve(drawing, figures_of(b.part).values(drawing))).number == 0
    assert "outline_width" in b.part.tags()


def test_a_dimension_that_others_use_can_not_stop_driving() -> None:
    b = plate(depth="outline_width / 4")
    before = b.part
    with pytest.raises(WendalError, match="no tag “outline_width”"):
        edit(b, "s1", op="set_reference", constraint=rows(b, "s1")[0]["id"], on=True)
    assert b.part is before


@pytest.mark.parametrize(("shape", "ends", "told"), [
    ("line", [(0, 0), (0, 0)], "two different places"), ("rectangle", [(0, 0), (5, 0)], "differ in X and in Y"),
    ("circle", [(1, 1), (1, 1)], "greater than zero"), ("arc", [(0, 0), (5, 0), (9, 0)], "in one line"), ("arc", [(0, 0), (5, 0)], "more places"),
    ("slot", [(0, 0), (0, 0), (5, 5)], "two different middles"), ("slot", [(0, 0), (9, 0), (4, 0)], "needs a width"),
    ("polygon", [(2, 2), (2, 2)], "needs a size"),
])
def test_shapes_without_extent_are_refused(shape: str, ends: list[tuple[float, float]], told: str) -> None:
    b, sketch = free_sketch()
    before = b.part
    with pytest.raises(SketchError, match=told):
        b.draw(sketch, shape, *ends)
    assert b.part is before


@pytest.mark.parametrize(("sides", "length"), [(3, 20 * math.sqrt(3)), (4, 20 * math.sqrt(2)), (8, 40 * math.sin(math.pi / 8))])
def test_polygons_have_equal_sides(sides: int, length: float) -> None:
    b, sketch = free_sketch()
    edit(b, sketch, op="draw", shape="polygon", ends=[{"at": (0, 0)}, {"at": (20, 0)}], sides=sides, values={"across corners": "40 mm"})
    drawing = b.drawing(sketch)
    lines = [c for c in drawing.curves.values() if c.kind == "line"]
    assert [math.dist(drawing.points[c.start], drawing.points[c.end]) for c in lines] == pytest.approx([length] * sides)


def test_a_slot_takes_its_width_and_keeps_its_shape_when_dragged() -> None:
    b, sketch = free_sketch()
    edit(b, sketch, op="draw", shape="slot", ends=[{"at": (0, 0)}, {"at": (30, 0)}, {"at": (10, 4)}], values={"width": "10 mm"})
    edit(b, sketch, op="move", entity=next(iter(b.drawing(sketch).curves.values())).centre, start=(0, 0), to=(-7, 9))  # type: ignore[union-attr]
    arcs = [c for c in b.drawing(sketch).curves.values() if c.kind == "arc"]
    assert [a.radius for a in arcs] == pytest.approx([5, 5])
    first = b.drawing(sketch).points[arcs[0].centre]
    assert first == pytest.approx((-7, 9), abs=1e-3)


def test_removing_takes_along_what_hangs_on_it_and_axes_stay() -> None:
    b, sketch, (line, circle) = drawn(("line", (0, 0), (9, 0)), ("circle", (20, 0), (22, 0)))
    b.constrain(sketch, "distance", line, formula="9 mm")
    edit(b, sketch, op="remove", entities=[line])
    drawing = b.drawing(sketch)
    assert set(drawing.curves) == {circle}
    assert drawing.constraints == {}
    assert len(drawing.points) == 1
    for entity in ("origin", "x_axis"):
        with pytest.raises(SketchError, match="belong to every sketch"):
            edit(b, sketch, op="remove", entities=[entity])
    with pytest.raises(SketchError, match="not in this sketch any more"):
        edit(b, sketch, op="remove", entities=["c77"])


def test_ends_caught_on_things_are_joined_and_typed_values_become_dimensions() -> None:
    b, sketch, (line,) = drawn(("line", (0, 0), (20, 0)))
    edit(b, sketch, op="draw", shape="line", ends=[{"at": (10, 0), "on": f"middle:{line}"}, {"at": (10, 8)}],
         automatic=[{"kind": "vertical"}], values={"length": "12 mm"})
    kinds = sorted(c.kind for c in b.drawing(sketch).constraints.values())
    assert kinds == ["distance", "midpoint", "vertical"]
    assert "outline_height" in b.part.tags()


def test_figures_are_put_elsewhere() -> None:
    b = plate()
    k = rows(b, "s1")[0]["id"]
    edit(b, "s1", op="place_figure", constraint=k, at=(3, -9))
    assert b.drawing("s1").constraints[k].at == (3, -9)


def test_a_circle_through_three_points_that_are_there_stays_on_them() -> None:
    b, sketch, (line, other) = drawn(("line", (-10, 0), (10, 0)), ("line", (0, 10), (30, 10)))
    points = [*b.drawing(sketch).curves[line].points, b.drawing(sketch).curves[other].points[0]]
    ends = [{"at": b.drawing(sketch).points[p], "on": p} for p in points]
    b.do(do="edit_sketch", step=sketch, edit={"op": "draw", "shape": "circle_three", "ends": ends})
    (circle,) = (c for c, curve in b.drawing(sketch).curves.items() if curve.kind == "circle")
    b.do(do="edit_sketch", step=sketch, edit={"op": "move", "entity": points[2], "start": (0, 10), "to": (0, 20)})
    made = b.drawing(sketch)
    curve = made.curves[circle]
    for p in points:
        assert math.dist(made.points[p], made.place(curve.points[0])) == pytest.approx(curve.radius)  # type: ignore[union-attr]


def test_a_circle_through_the_middle_of_a_line_is_drawn_there() -> None:
    b, sketch, (line,) = drawn(("line", (-10, 0), (10, 0)))
    ends = [{"at": (0, 0), "on": f"middle:{line}"}, {"at": (6, 6)}, {"at": (12, 0)}]
    b.do(do="edit_sketch", step=sketch, edit={"op": "draw", "shape": "circle_three", "ends": ends})
    (circle,) = (curve for curve in b.drawing(sketch).curves.values() if curve.kind == "circle")
    assert circle.radius == pytest.approx(6)
