"""Patterns, mirrors, and steps on whole bodies against hand calculation; limits of blanks; files of what was built."""

from __future__ import annotations

import math
from collections.abc import Callable
from typing import Any

import pytest

from tests.building import (
    BODY,
    PLATE,
    TOP,
    axis,
    built,
    cyl,
    datum,
    drawn_on,
    f,
    of_step,
    on_top,
    side,
    volume,
)
from tests.core.test_building import EXTRUDED, REVOLVED, disc_on_top
from tests.core.test_holes import HOLES
from tests.samples import XY, evaluated, plate
from wendal.core import exchange, kernel
from wendal.core.errors import WendalError
from wendal.demo.builder import Builder


def pinned(**fields: Any) -> Callable[[], Builder]:
    """A pin of Ø4 x 6 near the plate's corner, repeated."""
    def make() -> Builder:
        b = plate()
        pin = b.step("extrude", "Pin", profile=on_top(b, "circle", (5, 5), (7, 5)), depth=f("6 mm"), result="add", bodies=[BODY])
        extra = {k: (v(b) if callable(v) else v) for k, v in fields.items()}
        b.step(extra.pop("kind", "pattern"), "Copies", **{"seeds": [of_step(pin)], **extra})
        return b
    return make


PIN = cyl(4, 6)


def middle_axis(b: Builder) -> dict[str, Any]:
    sketch = b.step("sketch", "Middle", on=TOP)
    b.draw(sketch, "point", (20, 12.5))
    return datum(b.step("axis", "Middle axis", how="square", first=TOP, second={"of": "drawn", "step": sketch, "entity": "p1"}))


def line_of_24(b: Builder) -> dict[str, Any]:
    sketch = drawn_on(b, TOP, "line", (5, 5), (29, 5))
    return {"of": "drawn", "step": sketch, "entity": next(iter(b.drawing(sketch).curves))}


def spots(*places: tuple[float, float]) -> Callable[[Builder], list[dict[str, Any]]]:
    def make(b: Builder) -> list[dict[str, Any]]:
        sketch = b.step("sketch", "Spots", on=TOP)
        for place in places:
            b.draw(sketch, "point", place)
        return [{"of": "sketch", "step": sketch}]
    return make


REPEATED = {
    "lines": (pinned(along=axis("X"), count=f("4"), spacing=f("10 mm")), 4), "whole": (pinned(along=axis("X"), count=f("4"), step_by="whole", span=f("30 mm")), 4),
    "both": (pinned(along=axis("Y"), count=f("2"), step_by="both", spacing=f("-15 mm")), 2),
    "grid": (pinned(manner="grid", along=axis("X"), count=f("4"), spacing=f("10 mm"), along_two=axis("Y"), count_two=f("2"), spacing_two=f("15 mm")), 8),
    "staggered": (pinned(manner="grid", along=axis("X"), count=f("3"), spacing=f("10 mm"), along_two=axis("Y"), count_two=f("2"), spacing_two=f("15 mm"),
                         stagger="half"), 6),
    "skipped": (pinned(along=axis("X"), count=f("4"), spacing=f("10 mm"), skipped=["2", "3"]), 2),
    "anew": (pinned(along=axis("X"), count=f("3"), spacing=f("10 mm"), copying="anew"), 3),
    "points": (pinned(manner="points", at=spots((5, 5), (15, 12), (30, 18))), 3),
    "ring": (pinned(manner="ring", axis=middle_axis, count=f("2")), 2), "arc": (pinned(manner="arc", axis=middle_axis, count=f("2"), angle=f("180 deg")), 2),
    "parallel": (pinned(manner="ring", axis=middle_axis, count=f("2"), turning="parallel"), 2),
    "curve": (pinned(manner="curve", count=f("3"), curve=line_of_24, turning="parallel"), 3),
    "curve_by": (pinned(manner="curve", count=f("4"), curve=line_of_24, pitch="by", gap=f("7 mm")), 4),
    "mirror": (pinned(kind="mirror", about=lambda b: datum(b.step("plane", "Half", how="midway", first=side("c6"), second=side("c12")))), 2),
    "mirror_anew": (pinned(kind="mirror", copying="anew", about=lambda b: datum(b.step("plane", "Half", how="midway", first=side("c6"), second=side("c12")))), 2),
}


@pytest.mark.parametrize("case", REPEATED)
def test_repeat_and_mirror(case: str) -> None:
    make, count = REPEATED[case]
    assert volume(make()) == pytest.approx(PLATE + count * PIN, rel=1e-9)


def slot_line(b: Builder) -> list[dict[str, Any]]:
    """A line of 20, a half circle of radius 5 and a line of 20 back, in three curves."""
    sketch = b.step("sketch", "Path", on=TOP)
    out = b.draw(sketch, "line", (10, 5), (30, 5))[0]
    back = b.draw(sketch, "line", (10, 15), (30, 15))[0]
    bend = b.draw(sketch, "arc_centre", (30, 10), (30, 5), (30, 15))[0]
    return [{"of": "drawn", "step": sketch, "entity": e} for e in (out, back, bend)]


def test_copies_along_a_chain_of_curves_go_round_its_bends() -> None:
    b = plate()
    first, back, bend = slot_line(b)
    pin = b.step("extrude", "Pin", profile=on_top(b, "rectangle", (9, 4), (11, 6)), depth=f("6 mm"), result="add", bodies=[BODY])
    last = b.step("pattern", "Copies", seeds=[of_step(pin)], manner="curve", curve=first, chain="on", more=[back, bend], count=f("3"))
    assert volume(b) == pytest.approx(PLATE + 3 * 2 * 2 * 6)
    faces = next(iter(built(b).site.bodies.values())).topology.faces
    tops = {n.rpartition(".")[2]: x.centre for x in faces for n in x.names if n.startswith(f"{pin}/end/r1@{last}.")}
    assert tops["2"][:2] == pytest.approx((35, 10), abs=1e-5)
    assert tops["3"][:2] == pytest.approx((10, 15), abs=1e-5)
    b.do(do="edit_step", step=last, fields={"more": [back]})
    report = evaluated(b).report(last)
    assert (report.state, report.field) == ("stopped", "more")
    assert "does not begin where the curve so far ends" in report.message


def test_copies_that_do_not_fit_on_their_curve_are_refused() -> None:
    report = evaluated(pinned(manner="curve", count=f("4"), curve=line_of_24, pitch="by", gap=f("9 mm"))()).reports[-1]
    assert (report.state, report.field) == ("stopped", "gap")
    assert "24.000 mm long" in report.message


@pytest.mark.parametrize(("case", "fields", "count"), [
    ("lines", {"count": f("3")}, 3), ("lines", {"spacing": f("6 mm")}, 4), ("grid", {"count_two": f("1")}, 4), ("skipped", {"skipped": []}, 4), ("whole", {"span": f("27 mm")}, 4),
    ("lines", {"copying": "anew"}, 4),
])
def test_repeat_changed(case: str, fields: dict[str, Any], count: int) -> None:
    b = REPEATED[case][0]()
    b.do(do="edit_step", step=b.part.steps[-1].id, fields=fields)
    assert volume(b) == pytest.approx(PLATE + count * PIN, rel=1e-9)


@pytest.mark.parametrize(("make", "fields", "told"), [
    (REVOLVED["ahead"][0], {"angle": f("400 deg")}, "angle may be at most 360°"), (HOLES["tip_typed"][0], {"tip": f("200 deg")}, "tip angle may be at most 180°"),
    (EXTRUDED["narrow"][0], {"draft": f("89.5 deg")}, "draft angle may be at most 89°"), (HOLES["plain"][0], {"diameter": f("0 mm")}, "must be greater than zero"),
    (REPEATED["lines"][0], {"count": f("0")}, "count must be greater than zero"),
])
def test_limits_of_blanks_are_told_where_they_are_typed(make: Callable[[], Builder], fields: dict[str, Any], told: str) -> None:
    b = make()
    step = next(s.id for s in reversed(b.part.steps) if s.makes == "body")
    before = b.part
    with pytest.raises(WendalError, match=told) as caught:
        b.do(do="edit_step", step=step, fields=fields)
    assert caught.value.field in fields
    assert b.part is before


def test_a_change_of_the_seed_reaches_the_copies_and_references_to_copies_come_back() -> None:
    b = REPEATED["lines"][0]()
    last = b.part.steps[-1].id
    pin = next(s.id for s in b.part.steps if s.name == "Pin")
    name = f"{pin}/end/r1@{last}.4"
    mark = b.step("sketch", "On the last pin", on={"of": "face", "body": "s2", "names": [name]})
    assert built(b).site.sketches[mark].frame.origin[2] == pytest.approx(16)
    b.do(do="set_formula", tag="pin_depth", formula="9 mm")
    assert volume(b) == pytest.approx(PLATE + 4 * cyl(4, 9))
    assert built(b).site.sketches[mark].frame.origin[2] == pytest.approx(19)
    b.do(do="set_formula", tag="copies_count", formula="2")
    assert evaluated(b).report(mark).state == "stopped"
    b.do(do="set_formula", tag="copies_count", formula="4")
    assert [r.state for r in evaluated(b).report(mark).references if r.field == "on"] == ["sound"]


def test_copies_made_anew_find_their_own_end() -> None:
    """A post under a slope: an exact copy has the seed's length, one made anew ends at the slope where it stands."""
    b = plate()
    slope = datum(b.step("plane", "Slope", how="points", first={"of": "base", "name": "origin"},
                         second={"of": "vertex", "body": "s2", "faces": [["s2/start/r1"], ["s2/side/c3/r1"], ["s2/side/c6/r1"]]},
                         third={"of": "vertex", "body": "s2", "faces": [["s2/start/r1"], ["s2/side/c9/r1"], ["s2/side/c12/r1"]]},
                         more="moved", shift_z=f("40 mm"), turn_y=f("-20 deg")))
    post = b.step("extrude", "Post", profile=on_top(b, "rectangle", (2, 5), (6, 9)), extent="until", until=[slope], result="add", bodies=[BODY])
    first = volume(b) - PLATE
    b.step("pattern", "Posts", seeds=[of_step(post)], along=axis("X"), count=f("3"), spacing=f("10 mm"))
    assert volume(b) == pytest.approx(PLATE + 3 * first)
    b.do(do="edit_step", step=b.part.steps[-1].id, fields={"copying": "anew"})
    rise = 16 * 10 * math.tan(math.radians(20))
    total = volume(b) - PLATE
    assert total in (pytest.approx(3 * first + 3 * rise), pytest.approx(3 * first - 3 * rise))


@pytest.mark.parametrize(("result", "sign"), [("add", 1), ("cut", -1)])
def test_faces_of_a_boss_or_pocket_are_repeated_and_mirrored(result: str, sign: int) -> None:
    b = plate()
    extent = "out" if result == "add" else "into"
    pin = b.step("extrude", "Pin", profile=on_top(b, "rectangle", (3, 3), (7, 8)), depth=f("4 mm"), extent=extent, result=result, bodies=[BODY])
    names = {n for x in built(b).site.bodies["s2"].topology.faces for n in x.names if n.startswith(f"{pin}/")}
    faces = [{"of": "face", "body": "s2", "names": [n]} for n in sorted(names)]
    row = b.step("pattern", "Row", seeds=faces, what="faces", along=axis("X"), count=f("3"), spacing=f("12 mm"))
    assert volume(b) == pytest.approx(PLATE + sign * 3 * 4 * 5 * 4)
    plane = b.step("plane", "Half", how="midway", first=side("c3"), second=side("c9"))
    b.step("mirror", "Other", seeds=faces, what="faces", about=datum(plane))
    assert volume(b) == pytest.approx(PLATE + sign * 4 * 4 * 5 * 4)
    b.do(do="set_formula", tag="pin_depth", formula="5 mm")
    assert volume(b) == pytest.approx(PLATE + sign * 4 * 4 * 5 * 5)
    b.do(do="edit_step", step=row, fields={"seeds": faces[:1]})
    assert evaluated(b).report(row).state == "stopped"


def test_a_pattern_of_a_pattern_and_a_mirror_of_one() -> None:
    b = REPEATED["lines"][0]()
    row = b.part.steps[-1].id
    b.step("pattern", "Rows", seeds=[of_step("s4"), of_step(row)], along=axis("Y"), count=f("2"), spacing=f("15 mm"))
    assert volume(b) == pytest.approx(PLATE + 8 * PIN)
    b = REPEATED["lines"][0]()
    plane = b.step("plane", "Half", how="midway", first=side("c3"), second=side("c9"))
    b.step("mirror", "Other row", seeds=[of_step("s4"), of_step(b.part.steps[-2].id)], about=datum(plane))
    assert volume(b) == pytest.approx(PLATE + 8 * PIN)


def test_bodies_repeated_and_mirrored_joined_and_apart() -> None:
    b = plate()
    b.step("mirror", "Twin", seeds=[BODY], about=side("c6"))
    assert volume(b) == pytest.approx(2 * PLATE)
    assert list(built(b).site.bodies) == ["s2"]
    b.do(do="edit_step", step=b.part.steps[-1].id, fields={"joining": "apart"})
    assert list(built(b).site.bodies) == ["s2", "s3.2"]
    b.step("pattern", "Rows", seeds=[BODY], along=axis("Y"), count=f("3"), spacing=f("30 mm"), joining="apart")
    assert volume(b) == pytest.approx(4 * PLATE)


def test_a_copy_that_misses_is_named_and_can_be_left_out() -> None:
    b = pinned(along=axis("X"), count=f("4"), spacing=f("10 mm"))()
    b.do(do="edit_step", step="s4", fields={"result": "cut", "extent": "into", "depth": f("4 mm")})
    b.do(do="edit_step", step=b.part.steps[-1].id, fields={"spacing": f("16 mm")})
    report = evaluated(b).reports[-1]
    assert (report.state, report.field) == ("stopped", "skipped")
    assert "Copy 4 changes nothing" in report.message
    assert set(report.dots) == {"2", "3", "4"}
    b.do(do="edit_step", step=b.part.steps[-1].id, fields={"skipped": ["4"]})
    assert volume(b) == pytest.approx(PLATE - 3 * cyl(4, 4))


def test_split_keeps_either_side_or_both_and_references_find_their_piece() -> None:
    b = plate()
    b.step("plane", "Cut", how="offset", first=axis("YZ"), distance=f("15 mm"))
    split = b.step("split", "Halves", body=BODY, by=datum("s3"))
    bodies = built(b).site.bodies
    assert {i: kernel.volume_of(x.shape) for i, x in bodies.items()} == {"s2": pytest.approx(25 * 25 * 10), split: pytest.approx(15 * 25 * 10)}
    left = b.step("plane", "On the left", how="offset", first=side("c12"), distance=f("5 mm"))
    assert built(b).report(left).references[0].state == "sound"  # it is on the new body now
    for keep, expected in (("front", 25 * 25 * 10), ("back", 15 * 25 * 10)):
        b.do(do="edit_step", step=split, fields={"keep": keep})
        assert sum(kernel.volume_of(x.shape) for x in evaluated(b).site.bodies.values()) == pytest.approx(expected)
    b.do(do="set_formula", tag="cut_distance", formula="50 mm")
    assert "does not cut the body" in evaluated(b).report(split).message


def two_blocks() -> tuple[Builder, str]:
    b = plate()
    other = drawn_on(b, XY, "rectangle", (30, 10), (60, 40))
    return b, b.step("extrude", "Other", profile=b.profile(other, 0), depth=f("20 mm"))


@pytest.mark.parametrize(("manner", "keep", "expected"), [
    ("join", "used", PLATE + 30 * 30 * 20 - 10 * 15 * 10), ("take", "used", PLATE - 10 * 15 * 10), ("common", "used", 10 * 15 * 10),
    ("take", "kept", PLATE - 10 * 15 * 10 + 30 * 30 * 20),
])
def test_combine(manner: str, keep: str, expected: float) -> None:
    b, other = two_blocks()
    b.step("combine", "One", manner=manner, body=BODY, tools=[{"of": "body", "body": other}], keep=keep)
    assert volume(b) == pytest.approx(expected)


def test_move_and_copy_bodies() -> None:
    b = plate()
    moved = b.step("move_body", "Away", body=BODY, x=f("5 mm"), z=f("-3 mm"))
    assert kernel.mass_of(built(b).site.bodies["s2"].shape).low == pytest.approx((5, 0, -3))
    b.do(do="edit_step", step=moved, fields={"copying": "copy", "x": f("50 mm")})
    assert volume(b) == pytest.approx(2 * PLATE)
    b.do(do="edit_step", step=moved, fields={"manner": "turn", "about": axis("Z"), "turn": f("90 deg")})
    assert kernel.mass_of(built(b).site.bodies[moved].shape).low == pytest.approx((-25, 0, 0), abs=1e-9)
    own = b.step("system", "Own", how="moved", x=f("100 mm"))
    b.do(do="move_step", step=own, after="s2")
    b.do(do="edit_step", step=moved, fields={"manner": "systems", "start": {"of": "base", "name": "origin"}, "end": datum(own)})
    assert kernel.mass_of(built(b).site.bodies[moved].shape).low == pytest.approx((100, 0, 0))


def test_a_tool_may_touch_several_bodies() -> None:
    b, other = two_blocks()
    slot = drawn_on(b, XY, "rectangle", (-5, 12), (70, 14))
    cut = b.step("extrude", "Slot", profile=b.profile(slot, 0), extent="through", result="cut")
    assert volume(b) == pytest.approx(PLATE + 30 * 30 * 20 - 40 * 2 * 10 - 30 * 2 * 20)
    b.do(do="edit_step", step=cut, fields={"bodies": [{"of": "body", "body": other}]})
    assert volume(b) == pytest.approx(PLATE + 30 * 30 * 20 - 30 * 2 * 20)


@pytest.mark.parametrize("make", [EXTRUDED["narrow"][0], REVOLVED["two"][0], HOLES["countersunk"][0], REPEATED["grid"][0], REPEATED["mirror"][0]])
def test_step_files_have_the_same_volume(make: Callable[[], Builder]) -> None:
    b = make()
    content = exchange.export(b.part, built(b), "step")
    assert kernel.step_volume(content) == pytest.approx(volume(b), rel=1e-9)


@pytest.mark.parametrize(("fields", "told"), [
    ({"extent": "next"}, "Nothing lies in this direction"), ({"taper": "narrow", "draft": f("50 deg"), "depth": f("8 mm")}, "shrink to nothing"),
    ({"slant": "along", "line": axis("X")}, "runs along the profile's plane"), ({"start": "from", "start_at": axis("YZ")}, "parallel to its profile"),
    ({"extent": "until", "until": [TOP]}, "begins at or behind"), ({"extent": "through"}, "Nothing lies in this direction"),
])
def test_extrude_refusals(fields: dict[str, Any], told: str) -> None:
    assert told in evaluated(disc_on_top(**fields)()).reports[-1].message


def test_copies_both_ways_keep_their_numbers_when_the_count_grows() -> None:
    b = plate()
    pin = b.step("extrude", "Pin", profile=on_top(b, "circle", (20, 12), (22, 12)), depth=f("6 mm"), result="add", bodies=[BODY])
    last = b.step("pattern", "Copies", seeds=[of_step(pin)], along=axis("X"), count=f("2"), step_by="both", spacing=f("7 mm"))
    for count, expected in (("2", {"2": 13}), ("3", {"2": 13, "3": 27}), ("4", {"2": 13, "3": 27, "4": 6}), ("5", {"2": 13, "3": 27, "4": 6, "5": 34})):
        b.do(do="set_formula", tag="copies_count", formula=count)
        body = next(iter(built(b).site.bodies.values()))
        found = {n.rpartition(".")[2]: face.centre[0] for face in body.topology.faces for n in face.names if n.startswith(f"{pin}/end/r1@{last}.")}
        assert found == pytest.approx(expected)


def test_a_point_that_goes_renames_no_other_copy() -> None:
    b = REPEATED["points"][0]()
    last, pin = b.part.steps[-1].id, next(s.id for s in b.part.steps if s.name == "Pin")
    sketch = next(s.id for s in b.part.steps if s.name == "Spots")
    names = sorted(n for body in built(b).site.bodies.values() for face in body.topology.faces for n in face.names if n.startswith(f"{pin}/end/r1@{last}."))
    mark = b.step("sketch", "On the last", on={"of": "face", "body": "s2", "names": [names[-1]]})
    middle = next(p for p in sorted(b.drawing(sketch).points) if names[0].endswith(f".{p}"))
    b.do(do="edit_sketch", step=sketch, edit={"op": "remove", "entities": [middle]})
    evaluation = built(b)
    assert [r.state for r in evaluation.report(mark).references] == ["sound"]
    assert volume(b) == pytest.approx(PLATE + 2 * PIN, rel=1e-9)
    b.do(do="edit_step", step=last, fields={"skipped": ["2"]})
    assert evaluated(b).report(last).state == "stopped"


def test_a_plane_on_a_face_in_two_pieces_is_sound_since_both_give_it() -> None:
    b = plate()
    b.step("extrude", "Slot", profile=on_top(b, "rectangle", (18, -1), (22, 26)), extent="into", depth=f("4 mm"), result="cut", bodies=[BODY])
    above = b.step("plane", "Above", how="offset", first=TOP, distance=f("5 mm"))
    sketch = b.step("sketch", "On both pieces", on=TOP)
    evaluation = built(b)
    assert [r.state for s in (above, sketch) for r in evaluation.report(s).references] == ["sound", "sound"]
    assert evaluation.site.sketches[sketch].frame.origin[2] == pytest.approx(10)
    # What takes the piece itself still asks.
    b.step("extrude", "Raised", profile=[{**TOP, "key": "f1"}], depth=f("1 mm"))
    assert evaluated(b).reports[-1].state == "held"


@pytest.mark.parametrize("copying", ["exact", "anew"])
def test_two_steps_that_begin_bodies_are_repeated_side_by_side(copying: str) -> None:
    b = plate()
    own = [b.step("extrude", name, profile=on_top(b, "rectangle", low, high), depth=f("5 mm"))
           for name, low, high in (("One", (2, 3), (6, 7)), ("Two", (2, 13), (6, 19)))]
    step = b.step("pattern", "Pairs", seeds=[of_step(s) for s in own], along=axis("X"), count=f("3"), spacing=f("9 mm"), copying=copying)
    assert volume(b) == pytest.approx(PLATE + 3 * (16 + 24) * 5)
    assert len(built(b).site.bodies) == 1 + 3 * 2
    soft = b.step("fillet", "Soft", edges=[{"of": "face", "body": own[0], "names": [f"{own[0]}/end/r1"]}], radius=f("1 mm"))
    b.do(do="move_step", step=soft, after=own[1])
    b.do(do="edit_step", step=step, fields={"seeds": [of_step(s) for s in (*own, soft)]})
    after = volume(b)
    assert len(built(b).site.bodies) == 1 + 3 * 2
    b.do(do="remove_step", step=step)
    assert after == pytest.approx(PLATE + 3 * (volume(b) - PLATE), rel=1e-9)


@pytest.mark.parametrize(("count", "spacing", "told"), [
    (2000, "20 mm", "Copies 4, 5, 6, 7, 8 and 1992 more change nothing there: no body comes near"),
    (4, "20 mm", "Copy 4 changes nothing there: no body comes near"),
    (2000, "0.02 mm", "overlap one another"),
])
def test_what_cannot_come_to_anything_is_refused_before_it_is_built(count: int, spacing: str, told: str) -> None:
    b = Builder("Row")
    plate = b.step("sketch", "Outline", on=XY)
    b.draw(plate, "rectangle", (0, 0), (60, 20))
    body = b.step("extrude", "Plate", profile=b.profile(plate, 0), depth={"formula": "10 mm"})
    hole = b.step("sketch", "Drill", on=XY)
    b.draw(hole, "circle", (5, 10), (7, 10))
    cut = b.step("extrude", "Drilled", profile=b.profile(hole, 0), depth={"formula": "15 mm"}, result="cut", bodies=[{"of": "body", "body": body}])
    b.step("pattern", "Row", seeds=[{"of": "step", "step": cut}], manner="lines", along={"of": "base", "name": "X"}, count={"formula": str(count)}, spacing={"formula": spacing})
    report = evaluated(b).reports[-1]
    assert report.state == "stopped"
    assert told in report.message
