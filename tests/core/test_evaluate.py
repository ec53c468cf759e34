"""Building: exact volumes, what is remembered, failures that stay alone, references that follow."""

from __future__ import annotations

import math
from typing import Any

import pytest

from tests.samples import XY, block, evaluated, plate
from wendal.core import kernel
from wendal.core.route import Memory, Part, evaluate
from wendal.core.steps import Body, shown
from wendal.demo import instrument_bracket
from wendal.demo.builder import Builder


def body(part: Part | Builder) -> Body:
    (found,) = evaluated(part).site.bodies.values()
    return found


def volume(part: Part | Builder) -> float:
    return sum(kernel.mass_of(b.shape).volume for b in evaluated(part).site.bodies.values())


def bracket_by_hand(width: float = 120, tilt: float = 22, rise: float = 22, bore: float = 30) -> float:
    """Foot with four holes, two webs up to the middle of the seat's thickness, seat with its bore, what they share taken off once."""
    t, c = math.tan(math.radians(tilt)), math.cos(math.radians(tilt))
    foot = width * 80 * 12 - 4 * math.pi * 4.5**2 * 12 - (4 - math.pi) * 6**2 * 12
    webs = 2 * 10 * 50 * (rise + 40 * t - 6 / c)
    return foot + webs + (86 * 76 - math.pi * bore**2 / 4) * 12 - 2 * 10 * 50 * 6 / c


def test_the_instrument_bracket_is_the_solid_it_should_be() -> None:
    part = instrument_bracket()
    evaluation = evaluated(part)
    assert [r.state for r in evaluation.reports] == ["built"] * len(part.steps)
    mass = kernel.mass_of(body(part).shape)
    assert mass.volume == pytest.approx(bracket_by_hand(), rel=1e-9)
    assert mass.valid
    assert mass.low == pytest.approx((0, 0, 0), abs=1e-9)
    assert mass.high[:2] == pytest.approx((120, 80))
    assert mass.high[2] == pytest.approx(34 + 78 * math.sin(math.radians(22)))


@pytest.mark.parametrize(("tag", "formula", "expected"), [
    ("foot_outline_width", "150 mm", bracket_by_hand(width=150)), ("seat_tilt", "35 deg", bracket_by_hand(tilt=35)),
    ("seat_tilt", "8 deg", bracket_by_hand(tilt=8)), ("seat_rise", "40 mm", bracket_by_hand(rise=40)),
    ("seat_outline_diameter", "20 mm", bracket_by_hand(bore=20)),
])
def test_the_bracket_follows_its_dimensions(tag: str, formula: str, expected: float) -> None:
    b = Builder("x")
    b.part = instrument_bracket()
    b.do(do="set_formula", tag=tag, formula=formula)
    evaluation = evaluated(b)
    assert {r.message for r in evaluation.reports} == {"", "4 × Ø9 through."}
    assert volume(b) == pytest.approx(expected, rel=1e-9)


@pytest.mark.parametrize(("direction", "low", "high"), [("out", 0, 8), ("into", -8, 0), ("both", -4, 4)])
def test_directions(direction: str, low: float, high: float) -> None:
    b = plate(depth="8 mm")
    b.do(do="edit_step", step="s2", fields={"extent": direction})
    mass = kernel.mass_of(body(b).shape)
    assert (mass.low[2], mass.high[2]) == pytest.approx((low, high))


def test_only_what_a_change_reaches_is_built_again() -> None:
    memory, b = Memory(), block()
    evaluate(b.part, memory)
    b.do(do="set_formula", tag="boss_depth", formula="9 mm")
    assert [r.remembered for r in evaluate(b.part, memory).reports] == [True, True, True, False]
    b.do(do="set_formula", tag="boss_depth", formula="6 mm")
    assert all(r.remembered for r in evaluate(b.part, memory).reports)
    b.do(do="edit_step", step="s1", fields={"name": "Other name"})
    assert all(r.remembered for r in evaluate(b.part, memory).reports)


@pytest.mark.parametrize(("fields", "told"), [
    ({"depth": {"formula": "6 mm"}, "extent": "into", "result": "add"}, "adds nothing"),
    ({"depth": {"formula": "6 mm"}, "extent": "out", "result": "cut"}, "cuts nothing"),
    ({"depth": {"formula": "boss_over"}, "result": "add"}, "no tag"),
])
def test_what_can_not_be_built_stops_alone_and_says_so(fields: dict[str, Any], told: str) -> None:
    b = block()
    b.step("plane", "Cover", first=XY)
    step = b.part.step("s4").model_copy(update={k: v for k, v in fields.items() if k != "depth"})
    step = step.with_value("depth", step.depth.model_copy(update={**fields["depth"], "tag": ""}))  # type: ignore[attr-defined]
    b.part = b.part.with_step(step)
    reports = evaluated(b).reports
    assert [r.state for r in reports] == ["built", "built", "built", "stopped", "built"]
    assert told in reports[3].message


def test_a_body_that_would_not_be_touched_and_one_cut_away_whole() -> None:
    b = plate()
    away = b.step("sketch", "Away", on=XY)
    b.draw(away, "rectangle", (60, 0), (70, 10))
    target = {"of": "body", "body": "s2"}
    b.step("extrude", "Lump", profile=b.profile(away, 0), result="add", bodies=[target])
    b.draw(away, "rectangle", (-5, -5), (55, 45))
    b.step("extrude", "All", profile=b.profile(away, 0, 1), result="cut", bodies=[target], extent="both", depth={"formula": "90 mm"})
    reports = evaluated(b).reports
    assert "would not touch Base" in reports[3].message
    assert "cuts all of Base away" in reports[4].message


def test_touching_along_an_edge_only_is_told() -> None:
    b = plate()
    edge = b.step("sketch", "Edge", on=XY)
    b.draw(edge, "rectangle", (40, 25), (50, 35))
    b.step("extrude", "Corner", profile=b.profile(edge, 0), result="add", bodies=[{"of": "body", "body": "s2"}])
    assert any(w in evaluated(b).reports[-1].message for w in ("would not touch", "only along an edge"))


@pytest.mark.parametrize(("do", "message"), [
    ({"do": "remove_step", "step": "s1"}, "was deleted"), ({"do": "edit_step", "step": "s1", "fields": {"suppressed": True}}, "waits"),
])
def test_a_missing_footing_is_named(do: dict[str, Any], message: str) -> None:
    b = block()
    b.do(**do)
    reports = {r.id: r for r in evaluated(b).reports}
    assert message in reports["s2"].message
    assert "Base" in reports["s3"].message
    assert reports["s4"].state == "stopped"


def test_a_sketch_stays_on_its_face_when_an_early_edge_moves_past_another() -> None:
    """An L-shaped plate; a boss stands on its foot's end wall; then the wall's edge is moved past the other one."""
    b = Builder("Ell")
    s = b.step("sketch", "Outline", on=XY)
    corners = [(0, 0), (60, 0), (60, 20), (30, 20), (30, 50), (0, 50)]
    lines = [b.draw(s, "line", p, q)[0] for p, q in zip(corners, corners[1:] + corners[:1], strict=True)]
    points = [b.drawing(s).curves[line].points for line in lines]
    b.constrain(s, "coincident", points[0][0], "origin")
    for i in range(6):
        b.constrain(s, "coincident", points[i][1], points[(i + 1) % 6][0])
        b.constrain(s, "vertical" if i % 2 else "horizontal", lines[i])
    for line, axis, tag, value in ((1, "y_axis", "foot", "60 mm"), (3, "y_axis", "leg", "30 mm"), (2, "x_axis", "thick", "20 mm"),
                                   (4, "x_axis", "rise", "50 mm")):
        b.constrain(s, "distance", points[line][0], axis, formula=value, tag=tag)
    base = b.step("extrude", "Base", profile=b.profile(s, 0), depth={"formula": "10 mm"})
    wall = {"of": "face", "body": base, "names": [f"{base}/side/{lines[3]}/r1"]}
    mark = b.step("sketch", "Mark", on=wall)
    before = evaluated(b).site.sketches[mark].frame
    assert before.origin[0] == pytest.approx(30)
    b.do(do="set_formula", tag="outline_leg", formula="45 mm")
    b.do(do="set_formula", tag="outline_foot", formula="44 mm")  # the foot's end now stands left of the leg's wall
    evaluation = evaluated(b)
    assert [r.state for r in evaluation.reports] == ["built"] * 3
    assert evaluation.site.sketches[mark].frame.origin[0] == pytest.approx(45)
    assert abs(evaluation.site.sketches[mark].frame.normal[0]) == pytest.approx(1)
    assert evaluation.report(mark).references[0].state == "sound"


def test_a_split_face_is_re_found_and_held_and_confirming_makes_it_sound() -> None:
    b = plate()
    top = {"of": "face", "body": "s2", "names": ["s2/end/r1"], "beside": [], "near": (5, 12, 10)}
    slot = b.step("sketch", "Slot", on=XY)
    b.draw(slot, "rectangle", (18, -5), (22, 30))
    b.step("extrude", "Groove", profile=b.profile(slot, 0), result="cut", bodies=[{"of": "body", "body": "s2"}], depth={"formula": "20 mm"})
    mark = b.step("extrude", "Mark", profile=[{**top, "key": "f1"}], depth={"formula": "1 mm"}, result="new")
    report = evaluated(b).report(mark)
    assert report.state == "held"
    assert "in 2 pieces" in report.message
    b.do(do="edit_step", step=mark, fields={"profile": [report.references[0].now]})
    assert evaluated(b).report(mark).state == "built"


def test_a_condemned_key_is_not_built() -> None:
    b = plate()
    key = evaluated(b).reports[1].key
    reports = evaluate(b.part, Memory(), condemned={key: "This ended the worker."}).reports
    assert (reports[1].state, reports[1].message) == ("stopped", "This ended the worker.")


def test_a_preview_tells_the_material() -> None:
    b = block()
    evaluation = evaluated(b, until="s4", preview="s4")
    assert evaluation.preview is not None
    added, removed = shown(evaluation.preview, evaluation.before)
    assert removed is None
    assert added is not None
    assert kernel.mass_of(added).volume == pytest.approx(math.pi * 25 * 6)


def test_accepting_what_was_previewed_builds_nothing() -> None:
    memory, b = Memory(), block()
    evaluate(b.part, memory, until="s4", preview="s4")
    assert all(r.remembered for r in evaluate(b.part, memory).reports)
