"""The classic way to lose a reference: a collar of three tiers, each sketched on the one below, whose middle tier is remade."""

from __future__ import annotations

import pytest

from tests.samples import XY, evaluated
from wendal.core import kernel
from wendal.demo.builder import Builder


def collar() -> Builder:
    """Return three discs and blocks on top of each other: s2 Foot, s4 Middle, s6 Top; a datum on the top tier's end."""
    b = Builder("Collar")
    on = XY
    body = ""
    for n, (name, half) in enumerate((("Foot", 30), ("Middle", 20), ("Top", 10))):
        sketch = b.step("sketch", f"{name} outline", on=on)
        b.draw(sketch, "rectangle", (-half, -half), (half, half))
        more = {"result": "add", "bodies": [{"of": "body", "body": body}]} if n else {}
        made = b.step("extrude", name, profile=b.profile(sketch, 0), depth={"formula": "10 mm"}, **more)
        body = body or made
        on = {"of": "face", "body": body, "names": [f"{made}/end/r1"]}
    b.step("plane", "Lid", first=on, distance={"formula": "0 mm"})
    return b


def lid(b: Builder) -> float:
    evaluation = evaluated(b)
    assert evaluation.report("s7").state == "built", evaluation.report("s7").message
    return evaluation.site.datums["s7"][0].frame.origin[2]


def shifted(b: Builder, sketch: str, dx: float, dy: float) -> None:
    step, drawing = b.part.step(sketch), b.drawing(sketch)
    points = {p: (x + dx, y + dy) for p, (x, y) in drawing.points.items()}
    b.part = b.part.with_step(step.model_copy(update={"drawing": drawing.model_copy(update={"points": points})}))


def test_the_middle_tier_hangs_partly_over_the_foot() -> None:
    b = collar()
    assert lid(b) == pytest.approx(30)
    shifted(b, "s3", 25, 0)  # 15 mm over the foot's edge; the top tier stays where its own sketch puts it
    evaluation = evaluated(b)
    assert [r.state for r in evaluation.reports] == ["built"] * 7
    assert lid(b) == pytest.approx(30)
    assert kernel.volume_of(evaluation.site.bodies["s2"].shape) == pytest.approx(60**2 * 10 + 40**2 * 10 + 20**2 * 10)


def test_the_middle_tier_gets_another_number_of_sides() -> None:
    b = collar()
    lines = list(b.drawing("s3").curves)
    # One side is bent outwards: its line goes, two come. The others keep their names.
    places = [b.drawing("s3").points[p] for p in b.drawing("s3").curves[lines[1]].points]
    b.do(do="edit_sketch", step="s3", edit={"op": "remove", "entities": [lines[1]]})
    b.draw("s3", "line", places[0], (27, 0))
    b.draw("s3", "line", (27, 0), places[1])
    report = evaluated(b).report("s4")
    assert (report.state, next(r for r in report.references if r.field == "profile").state) == ("built", "sound")  # no other region is in question
    assert lid(b) == pytest.approx(30)
    assert [r.state for r in evaluated(b).reports] == ["built"] * 7
    assert kernel.volume_of(evaluated(b).site.bodies["s2"].shape) == pytest.approx(36_000 + 16_000 + 4_000 + 7 * 40 / 2 * 10)


def test_the_middle_tier_leaves_and_everything_above_says_so() -> None:
    b = collar()
    b.do(do="edit_step", step="s4", fields={"suppressed": True})
    reports = {r.id: r for r in evaluated(b).reports}
    assert "“Middle”, which waits" in reports["s5"].message
    assert reports["s6"].state == reports["s7"].state == "stopped"
    b.do(do="edit_step", step="s4", fields={"suppressed": False})
    assert lid(b) == pytest.approx(30)
