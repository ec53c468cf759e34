"""Sheets: made, cut, extended, sewn and thickened, against formulas, before and after a change; and what is refused."""

from __future__ import annotations

import math
from typing import Any

import pytest

from tests.building import (
    BODY,
    PI,
    PLATE,
    TOP,
    axis,
    built,
    datum,
    drawn_on,
    f,
    offset_plane,
    on_top,
    side,
    volume,
)
from tests.core.test_blends import edge
from tests.core.test_reshape import message
from tests.core.test_rib import line_on
from tests.samples import evaluated, plate
from wendal.core import kernel
from wendal.demo.builder import Builder


def areas(b: Builder) -> dict[str, float]:
    """The area of every sheet, each of them checked."""
    found = {}
    for body in built(b).site.bodies.values():
        if body.sheet:
            mass = kernel.mass_of(body.shape)
            assert mass.valid
            assert mass.sheet
            assert mass.volume == 0
            assert all(body.shape.names)
            found[body.id] = mass.area
    return found


def of(body: str) -> dict[str, Any]:
    return {"of": "body", "body": body}


def angle_sheet(depth: str = "30 mm") -> tuple[Builder, str]:
    """An open sheet along an angle of two lines of 20 mm, pushed by a depth."""
    b = Builder("Angle")
    lines = line_on(b, axis("XY"), (0, 20), (0, 0), (20, 0))
    return b, b.step("extrude", "Angle", profile=[{**lines[0], "key": "r1"}], wall="sheet", depth=f(depth))


def test_sheets_are_pushed_and_turned() -> None:
    b, step = angle_sheet()
    assert areas(b) == {step: pytest.approx(40 * 30)}
    assert volume(b) == 0
    b.do(do="set_formula", tag="angle_depth", formula="12 mm")
    assert areas(b) == {step: pytest.approx(40 * 12)}
    b = Builder("Ring")
    sketch = drawn_on(b, axis("XY"), "rectangle", (10, 0), (15, 8))
    step = b.step("revolve", "Ring", profile=b.profile(sketch, 0), axis=axis("Y"), wall="sheet")
    assert areas(b) == {step: pytest.approx(2 * PI * (25 * 8) + 2 * PI * (225 - 100))}
    b.do(do="edit_step", step=step, fields={"extent": "both", "angle": f("90 deg")})
    assert areas(b) == {step: pytest.approx((2 * PI * (25 * 8) + 2 * PI * (225 - 100)) / 4)}


@pytest.mark.parametrize(("how", "expected"), [
    ({"side": "front", "thickness": f("2 mm")}, None), ({"side": "back", "thickness": f("2 mm")}, None),
    ({"side": "centred", "thickness": f("2 mm")}, 40 * 2 * 30), ({"side": "two", "thickness": f("2 mm"), "thickness_two": f("2 mm")}, 40 * 4 * 30),
], ids=["front", "back", "centred", "two"])
def test_thickened_with_sharp_corners(how: dict[str, Any], expected: float | None) -> None:
    b, sheet = angle_sheet()
    step = b.step("thicken", "Solid", sheet=of(sheet), **how)
    inner, outer = (40 * 2 - 4) * 30, (40 * 2 + 4) * 30
    got = volume(b)
    assert any(got == pytest.approx(v, rel=1e-9) for v in ([expected] if expected else [inner, outer]))
    assert set(built(b).site.bodies) == {step}
    names = {n.split("/")[1] for x in built(b).site.bodies[step].topology.faces for n in x.names}
    assert names == {"front", "back", "edge"}


def test_the_same_arm_made_three_ways() -> None:
    """A wall, a shell and a thickened sheet along an arm of two round ends joined by tangent sides."""
    found = []
    for way in ("wall", "shell", "sheet"):
        b = Builder("Arm")
        sketch = b.step("sketch", "Outline", on=axis("XY"))
        b.draw(sketch, "slot", (0, 0), (50, 0), (50, 12))
        profile = b.profile(sketch, 0)
        if way == "wall":
            b.step("extrude", "Arm", profile=profile, depth=f("10 mm"), wall="inside", thickness=f("2.5 mm"))
        elif way == "shell":
            body = b.step("extrude", "Arm", profile=profile, depth=f("10 mm"))
            ends = [{"of": "face", "body": body, "names": [f"{body}/{word}/r1"]} for word in ("start", "end")]
            b.step("shell", "Hollow", body=of(body), thickness=f("2.5 mm"), openings=ends)
        else:
            sheet = b.step("extrude", "Arm", profile=profile, depth=f("10 mm"), wall="sheet")
            outside = volume_of_way(b, sheet)
            b.step("thicken", "Solid", sheet=of(sheet), side=outside, thickness=f("2.5 mm"))
        found.append(volume(b))
    expected = ((50 * 24 + PI * 144) - (50 * 19 + PI * 9.5**2)) * 10
    assert found == [pytest.approx(expected, rel=1e-9)] * 3


def volume_of_way(b: Builder, sheet: str) -> str:
    """Which side of the arm's sheet is its inside."""
    body = built(b).site.bodies[sheet]
    i = next(k for k, x in enumerate(body.topology.faces) if x.form == "flat")
    at, n = body.topology.faces[i].centre, body.topology.faces[i].frame.normal
    return "front" if n[1] * at[1] < 0 else "back"


def test_a_box_of_sheets_is_sewn_to_a_solid() -> None:
    b = plate()
    faces = [TOP, *(side(c) for c in ("c3", "c6", "c9", "c12"))]
    open_box = b.step("copy_faces", "Five", faces=faces)
    assert areas(b) == {open_box: pytest.approx(40 * 25 + 130 * 10)}
    lid = b.step("fill", "Lid", manner="loop", edges=[edge(w, "start") for w in ("low", "high", "left", "right")])
    assert areas(b)[lid] == pytest.approx(1000)
    sewn = b.step("sew", "Closed", body=of(open_box), tools=[of(lid)])
    assert areas(b) == {}
    assert built(b).report(sewn).message == "Closed all round: a solid body now."
    assert volume(b) == pytest.approx(2 * PLATE)
    b.do(do="set_formula", tag="base_depth", formula="14 mm")
    assert volume(b) == pytest.approx(2 * 40 * 25 * 14)


def test_what_is_not_closed_says_which_edges_are_free() -> None:
    b = plate()
    one = b.step("copy_faces", "One", faces=[TOP])
    two = b.step("copy_faces", "Two", faces=[side("c3")])
    sewn = b.step("sew", "Corner", body=of(one), tools=[of(two)])
    assert "6 edges stay free" in built(b).report(sewn).message
    assert areas(b) == {one: pytest.approx(40 * 25 + 40 * 10)}
    far = b.step("fill", "Far", profile=b.profile(drawn_on(b, datum(offset_plane(axis("XY"), "90 mm")(b)), "rectangle", (0, 0), (4, 5)), 0))
    assert areas(b)[far] == pytest.approx(20)
    step = b.step("sew", "No", body=of(one), tools=[of(far)])
    assert "nothing is sewn" in message(b, step)


def test_a_sheet_is_split_and_trimmed() -> None:
    b, sheet = angle_sheet()
    plane = datum(offset_plane(axis("XY"), "12 mm")(b))
    step = b.step("split", "Trim", body=of(sheet), by=plane, keep="back")
    assert areas(b) == {sheet: pytest.approx(40 * 12)}
    b.do(do="edit_step", step=step, fields={"keep": "both"})
    assert sorted(areas(b).values()) == pytest.approx([40 * 12, 40 * 18])
    b.do(do="set_formula", tag=next(r.tag for r in b.part.rows() if r.tag.endswith("distance")), formula="10 mm")
    assert sorted(areas(b).values()) == pytest.approx([40 * 10, 40 * 20])


def test_a_body_is_cut_by_a_sheet() -> None:
    b = plate()
    lines = line_on(b, axis("XY"), (-5, 10), (20, 10), (20, 30))
    sheet = b.step("extrude", "Knife", profile=[{**lines[0], "key": "r1"}], wall="sheet", extent="both", depth=f("60 mm"))
    picked = {"of": "face", "body": sheet, "names": [sorted(built(b).site.bodies[sheet].topology.faces[0].names)[0]]}
    split = b.step("split", "Cut", body=BODY, by=picked, keep="both")
    parts = sorted(kernel.volume_of(x.shape) for x in built(b).site.bodies.values() if not x.sheet)
    assert parts == pytest.approx([20 * 15 * 10, PLATE - 20 * 15 * 10])
    b.do(do="edit_step", step=split, fields={"body": BODY, "keep": "front"})
    assert len(built(b).site.bodies) == 2
    b = plate()
    short = line_on(b, axis("XY"), (-5, 10), (20, 10))
    sheet = b.step("extrude", "Short", profile=[{**short[0], "key": "r1"}], wall="sheet", extent="both", depth=f("60 mm"))
    picked = {"of": "face", "body": sheet, "names": [sorted(built(b).site.bodies[sheet].topology.faces[0].names)[0]]}
    step = b.step("split", "Cut", body=BODY, by=picked)
    assert "does not cut the body through" in message(b, step)


def test_a_sheet_goes_on_from_its_rim() -> None:
    b, sheet = angle_sheet()
    faces = built(b).site.bodies[sheet].topology
    rim = [{"of": "edge", "body": sheet, "faces": [sorted(faces.faces[e.faces[0]].names)], "near": e.middle, "beside": []}
           for e in faces.edges if len(e.faces) == 1 and abs(e.middle[0] - 20) < 1e-9]
    step = b.step("extend_sheet", "Longer", edges=rim, distance=f("5 mm"))
    assert areas(b) == {sheet: pytest.approx(45 * 30)}
    assert len(built(b).site.bodies[sheet].topology.faces) == 2  # flush: merged
    b.do(do="set_formula", tag="longer_distance", formula="8 mm")
    assert areas(b) == {sheet: pytest.approx(48 * 30)}
    seam = next(e for e in faces.edges if len(e.faces) == 2)
    b.do(do="edit_step", step=step, fields={"edges": [{"of": "edge", "body": sheet, "faces": [sorted(faces.faces[i].names) for i in seam.faces]}]})
    assert "not at the rim" in message(b, step)


def test_sheets_keep_out_of_what_is_for_solids() -> None:
    b = plate()
    sheet = b.step("copy_faces", "Skin", faces=[TOP])
    boss = b.step("extrude", "Boss", profile=on_top(b, "circle", (12, 12), (16, 12)), depth=f("6 mm"), result="add")  # touches both
    assert volume(b) == pytest.approx(PLATE + PI * 16 * 6)
    assert areas(b) == {sheet: pytest.approx(1000)}
    b.do(do="edit_step", step=boss, fields={"bodies": [of(sheet)]})
    assert "is a sheet: nothing can be added" in message(b, boss)
    for kind, fields, words in (
        ("shell", {"body": of(sheet)}, "is a sheet, and this works on solid bodies"),
        ("combine", {"body": BODY, "tools": [of(sheet)]}, "is a sheet, and this works on solid bodies"),
        ("thicken", {"sheet": BODY}, "is a solid body, and this works on sheets"),
        ("offset_faces", {"faces": [{"of": "face", "body": sheet, "names": [f"{sheet}/copy/s2~end~r1"]}]}, "is a sheet, and this"),
    ):
        b = plate()
        b.step("copy_faces", "Skin", faces=[TOP])
        step = b.step(kind, "Wrong", **fields)
        assert words in message(b, step)


def test_what_a_sheet_can_not_be() -> None:
    b = plate()
    step = b.step("fill", "Open", manner="loop", edges=[edge(w, "start") for w in ("low", "high", "left")])
    assert "do not make one closed loop" in message(b, step)
    b, sheet = angle_sheet()
    b.do(do="edit_step", step=sheet, fields={"extent": "through"})
    assert "A sheet is pushed by a depth" in message(b, sheet)
    b = Builder("Tube")
    sheet = b.step("extrude", "Tube", profile=b.profile(drawn_on(b, axis("XY"), "circle", (0, 0), (5, 0)), 0), wall="sheet", depth=f("10 mm"))
    for way in ("front", "back"):
        step = b.step("thicken", f"Thick {way}", sheet=of(sheet), side=way, thickness=f("6 mm"), keep="kept")
    reports = [evaluated(b).report(s.id) for s in b.part.steps if s.kind == "thicken"]
    assert sorted(r.state for r in reports) == ["built", "stopped"]
    assert "can not be made so thick" in next(r.message for r in reports if r.state == "stopped")
    assert kernel.volume_of(next(x.shape for x in evaluated(b).site.bodies.values() if not x.sheet)) == pytest.approx(PI * (121 - 25) * 10)
    assert math.isclose(sum(kernel.mass_of(x.shape).area for x in evaluated(b).site.bodies.values() if x.sheet), 100 * PI)
