"""Where a new sketch begins, and what the rest of a drawing is measured from."""

from __future__ import annotations

from typing import Any

import pytest

from tests.building import axis, built, drawn_on, f
from tests.core.test_sketch_taking import take_in, top_edge
from tests.samples import evaluated, plate
from wendal.core.route.checks import figures_of
from wendal.core.sketch import ORIGIN, propose
from wendal.core.sketch.solving import solve
from wendal.demo.builder import Builder


@pytest.mark.parametrize(("how", "fields", "place"), [
    ("parallel", {"first": "point", "second": axis("XY")}, (7, 5, 9)), ("square", {"first": "point", "second": {"of": "base", "name": "Y"}}, (7, 5, 9)),
    ("curve_share", {"first": "curve", "share": f("100 %")}, (30, 0, 40)), ("curve_length", {"first": "curve", "distance": f("25 mm")}, (15, 0, 20)),
])  # fmt: skip
def test_a_sketch_on_a_plane_through_a_place_begins_there_and_follows_it(how: str, fields: dict[str, Any], place: tuple[float, ...]) -> None:
    b = Builder("Beginnings")
    point = b.step("point", "Mark", how="coordinates", x=f("7 mm"), y=f("5 mm"), z=f("9 mm"))
    path = b.step("sketch", "Path", on=axis("ZX"))
    frame = built(b).site.sketches[path].frame
    curve = b.draw(path, "line", frame.local((0, 0, 0))[:2], frame.local((30, 0, 40))[:2])[0]
    held = {"point": {"of": "datum", "step": point}, "curve": {"of": "drawn", "step": path, "entity": curve}}
    plane = b.step("plane", "Across", how=how, **{k: held.get(v, v) if isinstance(v, str) else v for k, v in fields.items()})
    sketch = b.step("sketch", "Section", on={"of": "datum", "step": plane})
    assert built(b).site.sketches[sketch].frame.origin == pytest.approx(place, abs=1e-9)
    if "first" in fields and fields["first"] == "point":
        b.do(do="edit_step", step=point, fields={"x": f("11 mm"), "y": f("6 mm")})
        assert built(b).site.sketches[sketch].frame.origin == pytest.approx((11, 6, 9), abs=1e-9)
    old = b.part.step(sketch).model_copy(update={"begins": "plane"})  # as an older file has it
    assert evaluated_frame(b, old) == pytest.approx(built(b).site.datums[plane][0].frame.origin)


def evaluated_frame(b: Builder, step: Any) -> tuple[float, ...]:
    b.part = b.part.with_step(step)
    return built(b).site.sketches[step.id].frame.origin


def test_a_sweep_whose_path_does_not_meet_its_profile_says_by_how_much() -> None:
    b = Builder("Apart")
    path = b.step("sketch", "Path", on=axis("ZX"))
    frame = built(b).site.sketches[path].frame
    curve = b.draw(path, "line", frame.local((0, 0, 12.5))[:2], frame.local((0, 0, 40))[:2])[0]
    section = drawn_on(b, axis("XY"), "circle", (0, 0), (3, 0))
    step = b.step("sweep", "Swept", profile=b.profile(section, 0), path={"of": "drawn", "step": path, "entity": curve})
    assert "12.5 mm off the profile's plane" in evaluated(b).report(step).message


def measured_from(b: Builder, sketch: str) -> set[str]:
    """Points and lines outside of what is drawn from which the proposals measure; all of them together leave no freedom."""
    drawing = b.drawing(sketch)
    solution = solve(drawing, figures_of(b.part).values(drawing))
    own = set(drawing.points) - {p for t in drawing.taken if t in drawing.curves for p in drawing.curves[t].points}
    return {e for p in propose(solution, []) for e in p.of if e == ORIGIN or e in drawing.taken or (e not in own and e not in drawing.curves)}


def test_the_rest_is_measured_from_what_was_taken_in_before_the_origin() -> None:
    b = plate()
    sketch = b.step("sketch", "On top", on={"of": "face", "body": "s2", "names": ["s2/end/r1"]})
    b.draw(sketch, "circle", (12, 9), (15, 9))
    assert ORIGIN in measured_from(b, sketch)
    for at in ((40, 12.5, 10), (20, 25, 10)):
        take_in(b, sketch, top_edge(b, at), construction=True)
    found = measured_from(b, sketch)
    assert ORIGIN not in found
    assert found == set(b.drawing(sketch).taken)


def test_the_rest_goes_on_from_a_dimension_chain() -> None:
    b = Builder("Chain")
    sketch = b.step("sketch", "Points", on=axis("XY"))
    for at in ((10, 5), (30, 5), (52, 9)):
        b.draw(sketch, "point", at)
    p, q, r = b.drawing(sketch).points
    b.constrain(sketch, "distance", p, q, formula="20 mm", manner="horizontal")
    chained = [x for x in propose(solve(b.drawing(sketch), figures_of(b.part).values(b.drawing(sketch))), []) if r in x.of]
    assert {e for x in chained for e in x.of} == {q, r}
