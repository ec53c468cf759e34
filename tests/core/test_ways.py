"""Everything that can be done with a selection, in one list, likeliest first."""

from __future__ import annotations

import pytest

from wendal.core.steps import Way, kinds, ways_for, ways_in_sketch

FLAT, ROUND, EDGE = {"plane", "face", "flat"}, {"axis", "turned", "round", "face", "curved"}, {"edge", "line", "axis", "curve"}
REGION, SYSTEM, BASE = {"region"}, {"system", "point"}, {"plane"}


def told(ways: list[Way]) -> list[str]:
    return [f"{w.what} {w.kind}" for w in ways]


@pytest.mark.parametrize(("picks", "things", "first", "among", "never"), [
    ([FLAT], ["flat"], "step sketch", ["here axis", "here point", "view square", "step fillet", "step draft", "step shell"], ["view hide", "step move_body"]),
    ([REGION], ["region"], "step extrude", ["step revolve", "view square", "view hide"], ["step fillet", "here axis"]),
    ([EDGE], ["edge"], "datum", ["step fillet", "step chamfer"], ["view square", "step sketch"]),
    ([EDGE, EDGE], ["edge", "edge"], "datum", ["step fillet"], ["here axis", "view square"]),
    ([SYSTEM], ["datum"], "datum", ["view work in", "view hide"], ["view square"]),
    ([BASE], ["base"], "step sketch", ["view square", "view hide"], ["step fillet"]),
    ([ROUND], ["face"], "datum axis", ["step offset_faces"], ["view square", "here axis"]),
    ([], [], "", [], []),
])
def test_what_can_be_done_on_the_stage(picks: list[set[str]], things: list[str], first: str, among: list[str], never: list[str]) -> None:
    found = told(ways_for(picks, things))
    assert (found[0] if found else "").startswith(first)
    assert set(among) & {f"step {k}" for k in kinds()} <= set(found)
    assert {w for w in among if not w.startswith("step")} <= set(found)
    assert not set(never) & set(found)


def test_what_still_needs_something_comes_after_what_does_not_and_rare_steps_after_frequent_ones() -> None:
    ways = ways_for([FLAT], ["flat"])
    datums = [w for w in ways if w.what == "datum"]
    assert not any(w.needs for w in datums[:min(5, sum(not w.needs for w in datums))])
    places = {True: [i for i, w in enumerate(ways) if w.what == "step" and kinds()[w.kind].rare],
              False: [i for i, w in enumerate(ways) if w.what == "step" and not kinds()[w.kind].rare]}
    assert not places[True] or max(places[False]) < min(places[True])


@pytest.mark.parametrize(("things", "model", "wanted", "never"), [
    (["line"], 0, ["constraint dimension", "constraint horizontal", "constraint vertical", "tool offset", "tool mirror", "tool text"], ["constraint parallel"]),
    (["line", "line"], 0, ["constraint dimension", "constraint parallel", "constraint equal", "tool round", "tool chamfer"], ["tool text"]),
    (["point", "point"], 0, ["constraint dimension", "constraint coincident", "tool round"], ["tool offset", "constraint parallel"]),
    (["text"], 0, ["tool mirror", "tool repeat"], ["tool offset", "constraint dimension"]),
    (["line", ""], 1, [], ["tool offset", "tool project"]),
    (["line"], 1, ["tool project"], ["tool offset"]),
    ([], 0, [], ["tool project"]),
])
def test_what_can_be_done_in_a_sketch(things: list[str], model: int, wanted: list[str], never: list[str]) -> None:
    found = told(ways_in_sketch(things, model))
    assert set(wanted) <= set(found)
    assert not set(never) & set(found)
    if "constraint dimension" in found:
        assert found[0] == "constraint dimension"
    assert "constraint fixed" not in found or found.index("constraint fixed") == max(i for i, w in enumerate(found) if w.startswith("constraint"))
