"""Points added to splines and taken out of them, with what hangs on them: the shape, parts, curves beside, linked images."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest

from tests.samples import drawn, edit, freedoms, settled
from wendal.core.errors import SketchError
from wendal.core.sketch import Drawing, Spline, path_of
from wendal.demo.builder import Builder

WAVE = [(5, 0), (15, 16), (28, 6), (44, 18), (64, 0)]
SHAPES = [("spline", *WAVE), ("spline", *WAVE[:3]), ("spline_pulled", *WAVE), ("spline_pulled", *WAVE[:4]), ("spline_pulled", *WAVE[:3])]


def over(b: Builder, c: str) -> list[str]:
    spline = b.drawing("s1").curves[c]
    assert isinstance(spline, Spline)
    return spline.over


def apart(one: Drawing, c: str, other: Drawing, d: str) -> float:
    """How far a curve is from another at most, mm."""
    path, along = path_of(one, c), path_of(other, d)
    return max(along.off(path.at(float(t))) for t in np.linspace(path.t0, path.t1, 50))


@pytest.mark.parametrize("shape", SHAPES)
def test_a_point_more_leaves_the_shape_as_it_was(shape: Any) -> None:
    b, _, (c,) = drawn(shape)
    before = settled(b)
    path = path_of(before, c)
    for n, t in enumerate((0.37, 0.71), start=1):
        edit(b, op="add_point", curve=c, at=path.at(t))
        assert len(over(b, c)) == len(shape) - 1 + n
        assert apart(settled(b), c, before, c) < 1e-9
    assert freedoms(b) == 2 * len(over(b, c))


def test_parts_curves_beside_and_linked_images_have_it_too() -> None:
    b, _, (c,) = drawn(("spline", *WAVE))
    (beside,) = edit(b, op="offset", curves=[c], distance="2 mm")
    (part,) = edit(b, op="split", curve=c, at=[(28, 6)])
    (image,) = edit(b, op="mirror", entities=[c], axis="y_axis")
    free, before = freedoms(b), settled(b)
    edit(b, op="add_point", curve=part, at=(50, 16))
    assert over(b, c) == over(b, part) == over(b, beside)
    assert [len(over(b, s)) for s in (c, image)] == [6, 6]
    assert freedoms(b) == free + 2
    assert all(apart(settled(b), s, before, s) < 1e-9 for s in (c, part, beside, image))
    fresh = next(p for p in over(b, c) if p not in before.points)
    x, y = b.drawing("s1").points[fresh]
    edit(b, op="move", entity=fresh, start=(x, y), to=(x, y + 5))
    moved = settled(b)
    for p, q in zip(over(b, c), over(b, image), strict=True):
        assert moved.points[q] == pytest.approx((-moved.points[p][0], moved.points[p][1]))
    # A point less goes from the image, too.
    edit(b, op="remove", entities=[over(b, c)[2]])
    assert [len(over(b, s)) for s in (c, beside, image)] == [5, 5, 5]
    assert freedoms(b) == free


@pytest.mark.parametrize(("shape", "at", "told"), [
    (("spline", *WAVE), WAVE[2], "has a point here already"), (("spline", *WAVE), (0, 0), "has a point here already"),
    (("line", (0, 0), (9, 0)), (4, 0), "Only a spline")])
def test_where_there_is_no_room_it_is_told(shape: Any, at: Any, told: str) -> None:
    b, _, (c,) = drawn(shape)
    with pytest.raises(SketchError, match=told):
        edit(b, op="add_point", curve=c, at=at)
