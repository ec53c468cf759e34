"""Where a sketch lies: its plane, its direction of X and its origin, and how it follows or is put elsewhere."""

from __future__ import annotations

from typing import Any

import pytest

from tests.core.test_datum_steps import corner, edge, face
from tests.samples import XY, evaluated, plate
from wendal.core.kernel.types import Frame
from wendal.demo.builder import Builder


def placed(b: Builder, step: str) -> Frame:
    evaluation = evaluated(b)
    assert evaluation.report(step).state == "built", evaluation.report(step).message
    return evaluation.site.sketches[step].frame


def near(a: tuple[float, ...], b: tuple[float, ...]) -> bool:
    return a == pytest.approx(b, abs=1e-9)


@pytest.mark.parametrize(("way", "at", "origin", "x", "y"), [
    ("along", (40, 0, 10), (40, 0, 10), (0, 1, 0), (-1, 0, 0)),
    ("against", (40, 0, 10), (40, 0, 10), (0, -1, 0), (1, 0, 0)),
    ("along", (0, 25, 0), (0, 25, 10), (0, 1, 0), (-1, 0, 0)),  # a corner below the plane is seen square onto it
])
def test_x_runs_along_an_edge_and_the_origin_stands_at_a_corner(way: str, at: Any, origin: Any, x: Any, y: Any) -> None:
    b = plate()
    y_axis = {"of": "base", "name": "Y"}
    step = b.step("sketch", "Holes", on=face(b, 20, 12.5, 10), along=y_axis, way=way, at=corner(b, *at))
    frame = placed(b, step)
    assert near(frame.origin, origin)
    assert near(frame.x, x)
    assert near(frame.y, y)


def test_the_sketch_follows_the_corner_its_origin_stands_at() -> None:
    b = plate()
    step = b.step("sketch", "Holes", on=face(b, 20, 12.5, 10), at=corner(b, 40, 25, 10))
    b.do(do="set_formula", tag="outline_width", formula="66 mm")
    b.do(do="set_formula", tag="base_depth", formula="14 mm")
    assert near(placed(b, step).origin, (66, 25, 14))


def test_a_line_square_to_the_plane_gives_no_direction() -> None:
    b = plate()
    step = b.step("sketch", "Holes", on=face(b, 20, 12.5, 10), along=edge(b, 0, 0, 5))
    report = evaluated(b).report(step)
    assert report.state == "stopped"
    assert "square to the plane" in report.message


def test_on_a_plane_through_three_points_the_origin_is_the_first_and_x_runs_towards_the_second() -> None:
    b = plate()
    three = {"first": corner(b, 40, 25, 10), "second": corner(b, 0, 25, 0), "third": corner(b, 40, 0, 0)}
    plane = b.step("plane", "Slant", how="points", **three)
    step = b.step("sketch", "Marks", on={"of": "datum", "step": plane})
    frame = placed(b, step)
    assert near(frame.origin, (40, 25, 10))
    assert near(frame.x, (-40 / 1700**0.5, 0, -10 / 1700**0.5))
    b.do(do="set_formula", tag="outline_width", formula="60 mm")
    assert near(placed(b, step).origin, (60, 25, 10))
    # It is said and can be changed in the sentence.
    b.do(do="edit_step", step=step, fields={"along": None, "at": None, "way": "along"})
    assert not near(placed(b, step).origin, (60, 25, 10))
    b.do(do="edit_step", step=step, fields={"along": corner(b, 60, 25, 10), "way": "along"})
    assert "X runs along a line, and a point is picked" in evaluated(b).report(step).message
    b.do(do="edit_step", step=step, fields={"along": {"of": "base", "name": "X"}, "way": "towards"})
    assert evaluated(b).report(step).state == "stopped"
    other = b.step("sketch", "Chosen", on={"of": "datum", "step": plane}, at={"of": "base", "name": "origin"})
    assert b.part.step(other).model_dump()["along"] is None  # what was chosen stays


def test_a_sketch_is_put_on_another_plane_without_drawing_it_again() -> None:
    b = plate()
    sketch = b.step("sketch", "Window", on=XY)
    b.draw(sketch, "rectangle", (3, 4), (12, 9))
    before = b.drawing(sketch)
    b.do(do="edit_step", step=sketch, fields={"on": face(b, 40, 12.5, 5), "at": corner(b, 40, 0, 0)})
    assert b.drawing(sketch) == before
    assert near(placed(b, sketch).origin, (40, 0, 0))
    assert abs(placed(b, sketch).normal[0]) == pytest.approx(1)
