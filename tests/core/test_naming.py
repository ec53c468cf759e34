"""What things of bodies are called: what they are, and never two alike."""

from __future__ import annotations

import re

import pytest

from tests.building import BODY, TOP, axis, built, f, of_step, on_top
from tests.core.test_blends import edge
from tests.core.test_sheets import angle_sheet
from tests.samples import evaluated, plate
from wendal.core.reference.calling import called
from wendal.core.steps import kinds


def test_a_plate() -> None:
    body = built(plate()).site.bodies["s2"]
    words = called("Base", body.topology)
    assert sorted(words.faces) == sorted([
        "top face of Base, 40 × 25", "bottom face of Base, 40 × 25", "side at +X of Base, 25 × 10", "side at −X of Base, 25 × 10",
        "side at +Y of Base, 40 × 10", "side at −Y of Base, 40 × 10"])
    assert "edge along X of Base between top face and side at +Y, 40 mm" in [w.replace("side at +Y and top face", "top face and side at +Y") for w in words.edges]
    assert "corner of Base, at X 40 Y 25 Z 10" in words.corners


def test_no_two_are_alike() -> None:
    b = plate()
    hole = b.step("hole", "Bore", where="coordinates", x=f("6 mm"), y=f("6 mm"), side="back", diameter=f("3 mm"))
    b.step("pattern", "Bores", seeds=[of_step(hole)], along=axis("X"), count=f("4"), spacing=f("9 mm"))
    b.step("extrude", "Step", profile=on_top(b, "rectangle", (2, 14), (20, 22)), depth=f("4 mm"), result="add", bodies=[BODY])
    b.step("fillet", "Soft", edges=[TOP], radius=f("0.5 mm"))
    body = built(b).site.bodies["s2"]
    words = called("Base", body.topology)
    for held in (words.faces, words.edges, words.corners):
        assert len(set(held)) == len(held)
    assert sum(w.startswith("wall of a hole of Base, Ø3, at X") for w in words.faces) == 4


@pytest.mark.parametrize("part", ["faces", "edges"])
def test_a_sheet_says_so(part: str) -> None:
    b, sheet = angle_sheet()
    words = called("Angle", built(b).site.bodies[sheet].topology, sheet=True)
    assert all("of sheet Angle" in w for w in getattr(words, part))


def test_every_sentence_is_made_of_blanks_that_there_are() -> None:
    for kind in kinds().values():
        for variant in kind.variants().values():
            said = set(re.findall(r"{(\w+)}", variant.sentence))
            assert said <= set(variant.blanks), f"{kind.title}: {said - set(variant.blanks)}"
            assert set(variant.blanks) - said <= {"answer"}, f"{kind.title} does not say {set(variant.blanks) - said}"


def test_no_two_actions_share_a_key() -> None:
    keys = [kind.key for kind in kinds().values()]
    assert len(keys) == len(set(keys)), sorted(k for k in keys if keys.count(k) > 1)


def test_no_two_choices_of_a_blank_read_alike() -> None:
    for kind in kinds().values():
        for variant in kind.variants().values():
            for name, blank in variant.blanks.items():
                words = list(getattr(blank, "words", {}).values())
                assert len(words) == len(set(words)), f"{kind.title}: {name}"


def test_candidates_for_what_is_lost_read_differently_and_tell_what_they_are() -> None:
    b = plate()
    top = {"of": "face", "body": "s2", "names": ["s2/side/c99/r1"], "beside": [], "near": (20, 0, 5)}
    lost = b.step("plane", "Beside", first=top, distance=f("1 mm"))
    (state,) = evaluated(b).report(lost).references
    words = [c.words for c in state.candidates]
    assert len(set(words)) == len(words) >= 4
    assert any(w.startswith("side at −Y of Base, 40 × 10: made by the same step") for w in words)


def test_a_sentence_calls_a_thing_as_the_stage_does() -> None:
    b = plate()
    plane = b.step("plane", "Beside", first=TOP, distance=f("1 mm"))
    soft = b.step("fillet", "Soft", edges=[edge("low", "end")], radius=f("0.5 mm"))
    evaluation = evaluated(b)
    stage = called("Base", evaluation.site.bodies["s2"].topology)
    (face,), (line,) = evaluation.report(plane).references, evaluation.report(soft).references
    assert face.said == "top face of Base"
    assert any(w.startswith(face.said + ",") for w in stage.faces)
    assert line.said == "edge along X of Base"
    assert line.said in stage.brief[1]
