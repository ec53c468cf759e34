"""Ways along curved edges against closed formulas and sums of chords: slender ellipses and splines, on which one look over the whole curve is some percent off."""

from __future__ import annotations

import itertools
import math
from typing import Any

import pytest
from scipy.special import ellipe

from tests.building import axis, built, drawn_on, f
from wendal.core.inspect import Measure, ask
from wendal.core.reference import edge_ref
from wendal.core.sketch import path_of
from wendal.demo.builder import Builder


def rim(b: Builder, form: str, z: float) -> dict[str, Any]:
    """The longest edge of a form at a height."""
    (body,) = built(b).site.bodies.values()
    edges = [(e.length, i) for i, e in enumerate(body.topology.edges) if e.form == form and abs(e.middle[2] - z) < 1e-6]
    return edge_ref(body.id, body.topology, max(edges)[1]).model_dump(mode="json")


def length(b: Builder, of: dict[str, Any]) -> float:
    told = ask(b.part, built(b), Measure.model_validate({"things": [of]}))
    return next(x.value for x in told.figures if x.key == "length")  # type: ignore[attr-defined]


@pytest.mark.parametrize(("long", "short"), [(12, 10), (30, 10), (100, 3)])
def test_an_ellipse(long: float, short: float) -> None:
    b = Builder("Oval")
    sketch = drawn_on(b, axis("XY"), "ellipse", (0, 0), (long, 0), (0, short))
    b.step("extrude", "Oval", profile=b.profile(sketch, 0), depth=f("8 mm"))
    top = rim(b, "ellipse", 8)
    assert length(b, top) == pytest.approx(4 * long * ellipe(1 - (short / long) ** 2), rel=1e-9)
    # A quarter of the way round lies on the other axis, whichever end the edge begins at.
    quarter = b.step("point", "Quarter", how="curve_share", first=top, share=f("25 %"))
    (made,) = built(b).site.datums[quarter]
    assert sorted(map(abs, made.frame.origin)) == pytest.approx(sorted([0, short, 8]), abs=1e-6)
    spread = b.step("point", "Spread", how="spread", first=top, count=f("8"))
    places = [d.frame.origin for d in built(b).site.datums[spread]]
    # Evenly spread over a closed curve they are the same seen from its other side.
    assert all(min(math.dist((-x, y), p[:2]) for p in places) < 1e-5 for x, y, _ in places)


@pytest.mark.parametrize("places", [[(0, 0), (10, 14), (20, -9), (34, 11), (50, 0)], [(0, 0), (3, 25), (30, 26), (36, 0)]])
def test_a_spline(places: list[tuple[float, float]]) -> None:
    b = Builder("Wave")
    sketch = drawn_on(b, axis("XY"), "spline", *places)
    curve = next(iter(b.drawing(sketch).curves))
    b.step("extrude", "Wave", profile=[{"of": "drawn", "step": sketch, "entity": curve, "key": "r1"}], wall="sheet", depth=f("6 mm"))
    path = path_of(built(b).site.sketches[sketch].drawing, curve)
    chords = [path.at(path.t0 + (path.t1 - path.t0) * k / 40_000) for k in range(40_001)]
    ways = [0.0, *itertools.accumulate(math.dist(p, q) for p, q in itertools.pairwise(chords))]
    top = rim(b, "curve", 6)
    assert length(b, top) == pytest.approx(ways[-1], rel=1e-7)
    far = b.step("point", "Far", how="curve_length", first=top, distance=f("17 mm"))
    (x, y, z), = (d.frame.origin for d in built(b).site.datums[far])
    assert z == pytest.approx(6)
    at = [min(range(len(ways)), key=lambda i: abs(ways[i] - way)) for way in (17, ways[-1] - 17)]  # from either end
    assert min(math.dist((x, y), chords[i]) for i in at) < 2 * ways[-1] / 40_000
