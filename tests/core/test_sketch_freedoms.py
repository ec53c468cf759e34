"""Freedoms and new constraints where equations depend on each other at the sizes there are: against construction, and a referee without ranks."""

from __future__ import annotations

import math
import random
from pathlib import Path

import pytest

from tests.building import TOP, f
from tests.samples import evaluated, freedoms, plate
from tools.hunts.singular import FAMILIES, FRAMES, made, spread
from wendal.core.errors import SketchError, WendalError
from wendal.core.route import read_part
from wendal.core.sketch import Constraint, Layout, find_freedoms, measured, rule_for, solve
from wendal.core.sketch.explaining.diagnosis import check_new
from wendal.demo.builder import Builder

CASE = Path(__file__).parent.parent / "data" / "symmetric_arc.json"
CHANGES = 1e-6  # of the sketch's size


@pytest.mark.parametrize("frame", FRAMES)
@pytest.mark.parametrize("name", FAMILIES)
def test_freedoms_at_special_sizes(name: str, frame: str) -> None:
    for seed, size in ((2, 0.1), (3, 40.0)):
        drawing, expected = made([name], frame, seed, size)
        assert find_freedoms(solve(drawing, measured(drawing))).number == expected


@pytest.mark.parametrize("seed", range(10))
def test_freedoms_of_two_mechanisms_over_one_frame(seed: int) -> None:
    rng = random.Random(seed)
    drawing, expected = made(rng.sample(list(FAMILIES), 2), rng.choice(list(FRAMES)), seed)
    assert find_freedoms(solve(drawing, measured(drawing))).number == expected


@pytest.mark.parametrize("name", ["straight chain of 3", "folded chain", "platform of 3", "even arc", "touching circles", "dead crank"])
def test_the_referee_agrees_and_a_distance_is_needed_exactly_when_it_changes(name: str) -> None:
    drawing, expected = made([name], "sliding", 7)
    solution = solve(drawing, measured(drawing))
    count, reached = spread(solution.system, solution.z)
    assert count == expected
    rng, values = random.Random(5), measured(drawing)
    for _ in range(6):
        a, b = rng.sample(list(drawing.points), 2)
        c = Constraint(kind="distance", of=[a, b])
        value = rule_for("distance").measure(c, Layout(solution.drawing))
        places = [solution.system.drawn(z).points for z in reached]
        changes = max(abs(math.dist(p[a], p[b]) - value) for p in places) > CHANGES * solution.system.size
        if value < 1e-6 * solution.system.size:
            continue
        said = ""
        try:
            check_new(solution.drawing, values, c, value)
        except SketchError as error:
            said = error.message
        assert ("not needed" not in said) == changes, (a, b, said)


def arc_case() -> Builder:
    b = Builder("Case")
    b.part = read_part(CASE.read_text())
    return b


@pytest.mark.parametrize("radius", ["60 mm", "68 mm", "45 mm"])
def test_an_arc_between_even_ends_keeps_a_freedom_until_its_radius_is_given(radius: str) -> None:
    b = arc_case()
    b.do(do="set_formula", tag="ra", formula=radius)
    sketch = b.part.steps[0].id
    assert freedoms(b, sketch) == 1
    b.constrain(sketch, "radius", "c4", formula="ra")
    assert freedoms(b, sketch) == 0
    b.do(do="set_formula", tag="ra", formula="52 mm")
    made = evaluated(b).site.sketches[sketch].drawing
    assert made.points["p1"] == pytest.approx((0, 0), abs=1e-6)
    assert made.curves["c4"].radius == pytest.approx(52)  # type: ignore[union-attr]


def test_what_is_singular_is_said() -> None:
    def notes(name: str) -> list[str]:
        drawing, _ = made([name], "pinned", 1)
        return find_freedoms(solve(drawing, measured(drawing))).notes

    assert "drawn at an extreme" in notes("straight chain of 3")[0]
    assert "says nothing that the others do not say" in notes("platform of 3")[0]
    assert "Two ways to move meet here" in notes("folded chain")[0]
    assert notes("triangle") == notes("crank") == []


def test_a_new_constraint_that_holds_at_these_sizes_only_is_refused_with_the_reason() -> None:
    whole, _ = made(["platform of 3"], "pinned", 3)
    legs = [k for k, c in whole.constraints.items() if c.kind == "distance" and not c.manner][:3]
    third = whole.constraints[legs[2]]  # the third of equal parallel legs follows while they are equal
    less = whole.model_copy(update={"constraints": {k: c for k, c in whole.constraints.items() if k != legs[2]}})
    values = measured(less)
    value = rule_for("distance").measure(third, Layout(less))
    assert find_freedoms(solve(less, values)).number == find_freedoms(solve(whole, measured(whole))).number == 1
    with pytest.raises(SketchError, match="is not needed: at these sizes nothing is left that it would hold") as caught:
        check_new(less, values, third, value)
    assert set(legs[:2]) & set(caught.value.fights)
    with pytest.raises(SketchError, match="would fight with"):
        check_new(less, values, third, value * 1.1)


def spot_by_distances() -> tuple[Builder, str]:
    b = plate()
    b.do(do="add_tag", tag="off", formula="5 mm")
    sketch = b.step("sketch", "Spot", on=TOP)
    b.draw(sketch, "point", (5, 8))
    spot = next(iter(b.drawing(sketch).points))
    b.constrain(sketch, "distance", spot, "y_axis", formula="off")
    b.constrain(sketch, "distance", "origin", spot, manner="vertical", formula="8 mm")
    return b, sketch


@pytest.mark.parametrize("own", [True, False])
def test_a_distance_may_be_nothing_but_not_negative_however_it_is_reached(own: bool) -> None:
    b, sketch = spot_by_distances()
    tag = next(r.tag for r in b.part.rows() if r.step == sketch) if own else "off"
    b.do(do="set_formula", tag=tag, formula="0 mm")
    assert next(iter(evaluated(b).site.sketches[sketch].drawing.points.values())) == pytest.approx((0, 8))
    b.do(do="set_formula", tag=tag, formula="3 mm")
    assert next(iter(evaluated(b).site.sketches[sketch].drawing.points.values())) == pytest.approx((3, 8))  # on the side it had
    if own:
        with pytest.raises(WendalError, match="turn its side"):
            b.do(do="set_formula", tag=tag, formula="-5 mm")
    else:
        b.do(do="set_formula", tag=tag, formula="-5 mm")
        report = evaluated(b).report(sketch)
        assert report.state == "stopped"
        assert "turn its side" in report.message


def test_a_lines_length_may_not_be_nothing_however_it_is_reached() -> None:
    b = plate()
    b.do(do="add_tag", tag="wide", formula="40 mm")
    b.do(do="set_formula", tag="outline_width", formula="wide")
    b.do(do="set_formula", tag="wide", formula="0 mm")
    report = evaluated(b).report("s1")
    assert report.state == "stopped"
    assert "make them coincident" in report.message


def test_setting_a_dimension_is_not_refused_for_another_formula_that_has_no_value_at_the_moment() -> None:
    b = plate()
    other = b.step("sketch", "Second", on={"of": "base", "name": "YZ"})
    b.draw(other, "rectangle", (0, 0), (20, 10), width="20 mm", height="10 mm")
    b.do(do="set_formula", tag="second_width", formula="base.volume / (500 mm^2)")
    b.do(do="edit_step", step="s2", fields={"suppressed": True})
    assert evaluated(b).report(other).state == "stopped"
    for tag in ("second_height", "outline_width"):
        b.do(do="set_formula", tag=tag, formula="12 mm")
    b.do(do="edit_step", step="s2", fields={"suppressed": False, "depth": f("5 mm")})
    xs = [p[0] for p in evaluated(b).site.sketches[other].drawing.points.values()]
    assert max(xs) - min(xs) == pytest.approx(12 * 25 * 5 / 500)
