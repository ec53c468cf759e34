"""Draft and faces removed against formulas, before and after a change, and what is refused."""

from __future__ import annotations

import math
import re
from typing import Any

import pytest

from tests.building import BODY, BOTTOM, PI, PLATE, TOP, axis, built, f, on_top, side, volume
from tests.core.test_blends import edge
from tests.samples import evaluated, plate
from wendal.demo.builder import Builder

SIDES = [side(c) for c in ("c3", "c6", "c9", "c12")]


def frustum(w: float, h: float, depth: float, angle: float) -> float:
    """A block whose sides lean inwards by an angle (deg) from its full size."""
    s = depth * math.tan(math.radians(angle))
    return w * h * depth - (w + h) * s * depth + 4 * s * s * depth / 3


@pytest.mark.parametrize(("fields", "expected"), [
    ({"plane": BOTTOM, "angle": f("5 deg")}, frustum(40, 25, 10, 5)), ({"plane": BOTTOM, "angle": f("5 deg"), "side": "widen"}, frustum(40, 25, 10, -5)),
    ({"plane": TOP, "angle": f("3 deg")}, frustum(40, 25, 10, 3)), ({"plane": axis("XY"), "angle": f("3 deg")}, frustum(40, 25, 10, 3)),
    ({"faces": [SIDES[0]], "plane": TOP, "angle": f("10 deg")}, PLATE - 40 * 10 * 10 * math.tan(math.radians(10)) / 2),
])
def test_drafts(fields: dict[str, Any], expected: float) -> None:
    b = plate()
    b.step("draft", "Lean", **{"faces": SIDES, **fields})
    assert volume(b) == pytest.approx(expected, rel=1e-9)


@pytest.mark.parametrize(("off", "state"), [(-1e-4, "built"), (0, "stopped"), (1e-4, "stopped")])
def test_a_draft_that_comes_to_a_ridge_is_refused(off: float, state: str) -> None:
    """Two sides of 25 mm apart lean to one line 10 mm higher where the tangent is 1.25."""
    b = plate()
    angle = math.degrees(math.atan(1.25)) + off
    b.step("draft", "Lean", faces=[SIDES[0], SIDES[2]], plane=BOTTOM, angle=f(f"{angle!r} deg"))
    report = evaluated(b).reports[-1]
    assert report.state == state, report.message
    if state == "built":
        assert volume(b) == pytest.approx(40 * (250 - 100 * math.tan(math.radians(angle))), rel=1e-9)


def test_a_draft_follows_changes_and_its_faces_keep_their_names() -> None:
    b = plate()
    step = b.step("draft", "Lean", faces=SIDES, plane=BOTTOM, angle=f("5 deg"))
    mark = b.step("sketch", "On the side", on=SIDES[0])
    b.do(do="set_formula", tag="lean_angle", formula="8 deg")
    b.do(do="set_formula", tag="base_depth", formula="12 mm")
    assert volume(b) == pytest.approx(frustum(40, 25, 12, 8), rel=1e-9)
    assert [r.state for s in (step, mark) for r in built(b).report(s).references] == ["sound"] * 6


def test_what_runs_on_smoothly_comes_along_and_is_told() -> None:
    b = plate()
    b.step("fillet", "Corners", edges=[edge(x, y) for x in ("low", "high") for y in ("left", "right")], radius=f("5 mm"))
    step = b.step("draft", "Lean", faces=[SIDES[0]], plane=BOTTOM, angle=f("4 deg"))
    assert built(b).report(step).message == "7 more faces come along, since they run on smoothly."


def test_what_can_not_be_inclined_is_refused() -> None:
    b = plate()
    step = b.step("draft", "Lean", faces=[TOP], plane=BOTTOM, angle=f("5 deg"))
    assert "is parallel to the plane" in evaluated(b).report(step).message


def busy() -> tuple[Builder, str, str]:
    """A plate with a boss, whose foot is filleted, and a through hole."""
    b = plate()
    boss = b.step("extrude", "Boss", profile=on_top(b, "circle", (12, 12), (16, 12)), depth=f("6 mm"), result="add", bodies=[BODY])
    hole = b.step("hole", "Bore", where="coordinates", x=f("30 mm"), y=f("12 mm"), side="back", diameter=f("6 mm"))
    return b, boss, hole


def face(b: Builder, *parts: str) -> dict[str, Any]:
    name = next(n for x in built(b).site.bodies["s2"].topology.faces for n in sorted(x.names) if all(p in n for p in parts))
    return {"of": "face", "body": "s2", "names": [name]}


def test_faces_are_removed_and_the_body_heals() -> None:
    b, boss, hole = busy()
    wall = face(b, f"{boss}/side")
    b.step("remove_faces", "No bore", faces=[face(b, hole)])
    assert volume(b) == pytest.approx(PLATE + PI * 16 * 6, rel=1e-9)
    gone = b.step("remove_faces", "No boss", faces=[wall, face(b, f"{boss}/end")])
    assert volume(b) == pytest.approx(PLATE, rel=1e-9)
    b.do(do="set_formula", tag="base_depth", formula="14 mm")
    assert volume(b) == pytest.approx(40 * 25 * 14, rel=1e-9)
    assert [r.state for r in built(b).report(gone).references] == ["sound", "sound"]


def test_a_fillet_is_removed_and_what_does_not_close_is_named() -> None:
    b = plate()
    b.step("fillet", "Round", edges=[edge("low", "end")], radius=f("3 mm"))
    b.step("remove_faces", "Sharp again", faces=[face(b, "/round/")])
    assert volume(b) == pytest.approx(PLATE, rel=1e-9)
    b, boss, _ = busy()
    step = b.step("remove_faces", "Half a boss", faces=[face(b, f"{boss}/side")])
    report = evaluated(b).report(step)
    assert report.state == "stopped"
    assert re.search(r"does not close over the face near X 12\.000 Y 12\.000 Z 13\.000", report.message), report.message


def test_a_draft_to_both_sides_of_a_parting_plane() -> None:
    b = plate()
    plane = {"of": "datum", "step": b.step("plane", "Parting", how="offset", first=axis("XY"), distance=f("4 mm"))}
    step = b.step("draft", "Lean", faces=SIDES, plane=plane, angle=f("5 deg"), ways="both")
    assert volume(b) == pytest.approx(frustum(40, 25, 4, 5) + frustum(40, 25, 6, 5), rel=1e-9)
    b.do(do="set_formula", tag="parting_distance", formula="5 mm")
    assert volume(b) == pytest.approx(2 * frustum(40, 25, 5, 5), rel=1e-9)
    b.do(do="edit_step", step=step, fields={"side": "widen"})
    assert volume(b) == pytest.approx(2 * frustum(40, 25, 5, -5), rel=1e-9)
    b.do(do="set_formula", tag="parting_distance", formula="30 mm")
    assert evaluated(b).report(step).state == "stopped"
