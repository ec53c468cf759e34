"""Faces offset, moved, replaced and split: against formulas, before and after a change, and what is refused."""

from __future__ import annotations

import math

import pytest
from scipy.integrate import quad

from tests.building import (
    BODY,
    BOTTOM,
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
from tests.core.test_faces import SIDES, busy, face
from tests.core.test_rib import line_on
from tests.samples import evaluated, plate
from wendal.core import kernel
from wendal.demo.builder import Builder


def message(b: Builder, step: str) -> str:
    report = evaluated(b).report(step)
    assert report.state == "stopped", report
    return report.message


BUSY = PLATE + PI * 16 * 6 - PI * 9 * 10


@pytest.mark.parametrize(("picks", "out", "expected"), [
    ((["{boss}/side"],), 1.0, PLATE + PI * 25 * 6 - PI * 9 * 10), ((["{boss}/end"],), 2.0, PLATE + PI * 16 * 8 - PI * 90),
    ((["{hole}"],), -1.0, PLATE + PI * 96 - PI * 160), ((["{hole}"],), 1.0, PLATE + PI * 96 - PI * 40),
    ((["side/c3"],), 3.0, 40 * 28 * 10 + PI * 96 - PI * 90), ((["side/c3"], ["{boss}/end"]), 2.0, 40 * 27 * 10 + PI * 16 * 8 - PI * 90),
], ids=["boss wall", "boss top", "wider hole", "narrower hole", "side", "two"])
def test_offsets(picks: tuple[list[str], ...], out: float, expected: float) -> None:
    b, boss, hole = busy()
    faces = [face(b, *(part.format(boss=boss, hole=hole) for part in parts)) for parts in picks]
    mark = b.step("sketch", "Mark", on=face(b, f"{boss}/end"))
    step = b.step("offset_faces", "Off", faces=faces, side="out" if out > 0 else "in", distance=f(f"{abs(out)} mm"))
    assert volume(b) == pytest.approx(expected, rel=1e-9)
    assert [r.state for s in (step, mark) for r in built(b).report(s).references] == ["sound"] * (len(faces) + 1)


def test_an_offset_follows_changes_and_goes_along_what_is_smooth() -> None:
    b = plate()
    b.step("fillet", "Corners", edges=[edge(x, y) for x in ("low", "high") for y in ("left", "right")], radius=f("5 mm"))
    step = b.step("offset_faces", "Off", faces=[SIDES[0]], distance=f("2 mm"))
    assert built(b).report(step).message == "7 more faces come along, since they run on smoothly."
    assert volume(b) == pytest.approx((44 * 29 - (4 - PI) * 49) * 10, rel=1e-9)
    b.do(do="set_formula", tag="off_distance", formula="1 mm")
    b.do(do="set_formula", tag="base_depth", formula="8 mm")
    assert volume(b) == pytest.approx((42 * 27 - (4 - PI) * 36) * 8, rel=1e-9)


@pytest.mark.parametrize(("pick", "side_", "distance", "least"), [("{boss}/side", "in", "4.5 mm", 3.5), ("{boss}/end", "in", "7 mm", 5.5)])
def test_what_goes_too_far_is_told_with_how_far_it_could(pick: str, side_: str, distance: str, least: float) -> None:
    b, boss, _ = busy()
    step = b.step("offset_faces", "Off", faces=[face(b, pick.format(boss=boss))], side=side_, distance=f(distance))
    said = message(b, step)
    assert "It works up to about" in said
    assert least < float(said.split("about ")[1].split(" mm")[0]) < float(distance.split()[0])


def test_a_boss_and_a_hole_are_moved_as_they_are() -> None:
    b, boss, hole = busy()
    b.step("fillet", "Foot", edges=[{"of": "edge", "body": "s2", "faces": [face(b, f"{boss}/side")["names"], ["s2/end/r1"]]}], radius=f("1 mm"))
    full = volume(b)
    faces = [face(b, f"{boss}/side"), face(b, f"{boss}/end"), face(b, "/round/")]
    step = b.step("move_faces", "Boss aside", faces=faces, x=f("3 mm"))
    assert volume(b) == pytest.approx(full, rel=1e-9)
    assert "Moved as a whole" in built(b).report(step).message
    found = next(x for x in built(b).site.bodies["s2"].topology.faces if f"{boss}/end/r1" in x.names)
    assert found.centre[:2] == pytest.approx((15, 12), abs=1e-9)
    b.step("move_faces", "Hole aside", faces=[face(b, hole)], manner="back", line=axis("X"), distance=f("1 mm"))
    assert volume(b) == pytest.approx(full, rel=1e-9)
    assert next(x for x in built(b).site.bodies["s2"].topology.faces if any(hole in n for n in x.names)).centre[0] == pytest.approx(29, abs=1e-9)
    b.do(do="set_formula", tag="base_depth", formula="12 mm")
    assert volume(b) == pytest.approx(full + 2 * (40 * 25 - 9 * PI), rel=1e-9)


def test_flat_faces_move_along_their_normals_and_what_would_not_is_refused() -> None:
    b, *_ = busy()
    b.step("move_faces", "Longer", faces=[side("c6")], x=f("5 mm"), y=f("2 mm"))
    assert volume(b) == pytest.approx(BUSY + 5 * 25 * 10, rel=1e-9)
    b, boss, _ = busy()
    wall, top = face(b, f"{boss}/side"), face(b, f"{boss}/end")
    step = b.step("move_faces", "Slide", faces=[side("c6")], y=f("5 mm"))
    assert "only slide in its own plane" in message(b, step)
    b.do(do="edit_step", step=step, fields={"y": f("0 mm")})
    assert "moves by nothing" in message(b, step)
    b.do(do="edit_step", step=step, fields={"faces": [wall], "y": f("3 mm")})
    assert "Pick all of its faces" in message(b, step)
    b.do(do="edit_step", step=step, fields={"faces": [wall, top], "z": f("3 mm")})
    assert "come loose" in message(b, step)  # it would float


def test_a_face_is_replaced_by_a_slanting_plane() -> None:
    b = plate()
    plane = b.step("plane", "Slant", how="angle", first=axis("Y"), second=axis("XY"), angle=f("-10 deg"))
    step = b.step("replace_face", "Slope", face=TOP, target=datum(plane))
    slope = abs(math.tan(math.radians(10)))
    got = volume(b)
    assert got == pytest.approx(40 * 40 / 2 * slope * 25, rel=1e-9)
    mark = b.step("sketch", "Mark", on=TOP)
    assert [r.state for s in (step, mark) for r in built(b).report(s).references][-1] == "sound"


def test_a_face_is_replaced_by_a_plane_above_and_below() -> None:
    for distance, high in (("16 mm", 16), ("4 mm", 4)):
        b, boss, _ = busy()
        plane = datum(offset_plane(axis("XY"), distance)(b))
        b.step("remove_faces", "No boss", faces=[face(b, f"{boss}/side"), face(b, f"{boss}/end")])
        b.step("replace_face", "Level", face=TOP, target=plane)
        assert volume(b) == pytest.approx((40 * 25 - PI * 9) * high, rel=1e-9)


def test_a_face_that_its_neighbours_do_not_let_go_is_refused() -> None:
    b = plate()
    b.step("draft", "Lean", faces=SIDES, plane=BOTTOM, angle=f("5 deg"))
    plane = datum(offset_plane(axis("XY"), "14 mm")(b))
    step = b.step("replace_face", "Level", face=TOP, target=plane)
    assert "do not stand square to it" in message(b, step)
    b = plate()
    aside = datum(offset_plane(axis("YZ"), "20 mm")(b))
    step = b.step("replace_face", "Level", face=TOP, target=aside)
    assert "does not reach over all of this face" in message(b, step)


def test_faces_are_split_and_their_parts_stay_what_they_are() -> None:
    b = plate()
    plane = datum(offset_plane(axis("YZ"), "10 mm")(b))
    split = b.step("split_faces", "Halves", faces=[TOP], by=plane)
    assert volume(b) == pytest.approx(PLATE, rel=1e-9)
    body = built(b).site.bodies["s2"]
    parts = sorted(x.area for x in body.topology.faces if any("/part/" in n for n in x.names))
    assert parts == pytest.approx([250, 750])
    low = face(b, "/part/back/")
    post = b.step("extrude", "Post", profile=[{**low, "key": "r1"}], depth=f("5 mm"), result="add", bodies=[BODY])
    assert volume(b) == pytest.approx(PLATE + 250 * 5, rel=1e-9)
    b.do(do="set_formula", tag=next(r.tag for r in b.part.rows() if r.tag.endswith("distance")), formula="15 mm")
    assert volume(b) == pytest.approx(PLATE + 375 * 5, rel=1e-9)
    assert [r.state for s in (split, post) for r in built(b).report(s).references] == ["sound"] * 4
    assert any("/part/front/" in n for x in built(b).site.bodies["s2"].topology.faces for n in x.names)  # no later step merges the parts


def test_faces_are_split_by_curves() -> None:
    b = plate()
    sketch = on_top(b, "circle", (20, 12), (25, 12))[0]["step"]
    b.step("split_faces", "Ring", faces=[TOP], manner="drawn", lines=[{"of": "drawn", "step": sketch, "entity": next(iter(b.drawing(sketch).curves))}])
    inner = next(x for x in built(b).site.bodies["s2"].topology.faces if any("/part/inside/" in n for n in x.names))
    assert inner.area == pytest.approx(25 * PI)
    b = plate()
    lines = [*line_on(b, TOP, (10, 5), (10, 10)), *line_on(b, TOP, (5, 12), (8, 12))]
    b.step("split_faces", "Cross", faces=[TOP], manner="drawn", lines=lines)
    parts = {n: x.area for x in built(b).site.bodies["s2"].topology.faces for n in x.names if "/part/" in n}
    assert sorted(parts.values()) == pytest.approx(sorted([10 * 12, 10 * 13, 30 * 12, 30 * 13]))
    step = b.step("split_faces", "Miss", faces=[BOTTOM], by=datum(offset_plane(axis("YZ"), "80 mm")(b)))
    assert "not cut in two" in message(b, step)


@pytest.mark.parametrize(("side", "more"), [("out", 250 * 2.0), ("in", -250 * 2.0)])
def test_a_patch_of_a_face_is_pushed(side: str, more: float) -> None:
    b = plate()
    b.step("split_faces", "Halves", faces=[TOP], by=datum(offset_plane(axis("YZ"), "10 mm")(b)))
    low = face(b, "/part/back/")
    step = b.step("offset_faces", "Push", faces=[low], side=side, distance=f("2 mm"))
    assert volume(b) == pytest.approx(PLATE + more, rel=1e-9)
    # The pushed face is the one that was picked, and the wall is new.
    z = next(x for x in built(b).site.bodies["s2"].topology.faces if any("/part/back/" in n for n in x.names)).centre[2]
    assert z == pytest.approx(12 if side == "out" else 8)
    b.do(do="set_formula", tag=next(r.tag for r in b.part.rows() if r.tag.endswith("distance") and r.step != step), formula="15 mm")
    assert volume(b) == pytest.approx(PLATE + 1.5 * more, rel=1e-9)


@pytest.mark.parametrize(("side", "radius"), [("out", 12.0), ("in", 8.0)])
def test_a_patch_of_a_round_face_is_pushed_square_to_it(side: str, radius: float) -> None:
    b = Builder("Disc")
    ring = b.step("sketch", "Ring", on=axis("XY"))
    b.draw(ring, "circle", (0, 0), (10, 0))
    b.step("extrude", "Disc", profile=b.profile(ring, 0), depth=f("6 mm"))
    b.step("split_faces", "Halves", faces=[face(b, "/side/")], by=axis("YZ"))
    b.step("offset_faces", "Push", faces=[face(b, "/part/back/")], side=side, distance=f("2 mm"))
    assert volume(b) == pytest.approx(PI * 600 + PI / 2 * (radius**2 - 100) * 6, rel=1e-9)


def test_a_patch_pushed_through_its_own_axis_is_refused_at_its_distance() -> None:
    b = Builder("Disc")
    ring = b.step("sketch", "Ring", on=axis("XY"))
    b.draw(ring, "circle", (0, 0), (10, 0))
    b.step("extrude", "Disc", profile=b.profile(ring, 0), depth=f("6 mm"))
    b.step("split_faces", "Halves", faces=[face(b, "/side/")], by=axis("YZ"))
    step = b.step("offset_faces", "Push", faces=[face(b, "/part/back/")], side="in", distance=f("12 mm"))
    report = evaluated(b).report(step)
    assert (report.state, report.field) == ("stopped", "distance")


def test_a_copied_patch_is_thickened() -> None:
    b = plate()
    b.step("split_faces", "Halves", faces=[TOP], by=datum(offset_plane(axis("YZ"), "10 mm")(b)))
    sheet = b.step("copy_faces", "Skin", faces=[face(b, "/part/back/")])
    b.step("thicken", "Thick", sheet={"of": "body", "body": sheet}, thickness=f("3 mm"), result="new")
    assert sorted(kernel.volume_of(x.shape) for x in built(b).site.bodies.values() if not x.sheet) == pytest.approx([750, PLATE])


def test_a_patch_that_would_run_into_something_is_refused() -> None:
    b = plate()
    tower = drawn_on(b, TOP, "rectangle", (12, 2), (20, 23))
    b.step("extrude", "Tower", profile=b.profile(tower, 0), depth=f("9 mm"), result="add")
    arm = drawn_on(b, datum(offset_plane(axis("XY"), "16 mm")(b)), "rectangle", (2, 4), (14, 20))
    b.step("extrude", "Arm", profile=b.profile(arm, 0), depth=f("3 mm"), result="add")
    b.step("split_faces", "Halves", faces=[TOP], by=datum(offset_plane(axis("YZ"), "6 mm")(b)))
    step = b.step("offset_faces", "Push", faces=[face(b, "/part/back/")], distance=f("8 mm"))
    assert "runs into other faces" in message(b, step)
    b.do(do="edit_step", step=step, fields={"distance": {"formula": "5 mm"}})
    built(b)


@pytest.mark.parametrize("off", ["0 mm", "30 mm", "-30 mm"])
def test_a_round_face_is_split_on_the_near_side_only(off: str) -> None:
    """A ring seen along Y on a cylinder about Z: through it is two parts and a rest, near it is one."""
    b = Builder("Post")
    ring = b.step("sketch", "Ring", on=axis("XY"))
    b.draw(ring, "circle", (0, 0), (10, 0))
    b.step("extrude", "Post", profile=b.profile(ring, 0), depth=f("30 mm"))
    plane = offset_plane(axis("ZX"), off)(b)
    eye = b.step("sketch", "Eye", on=datum(plane))
    frame = built(b).site.sketches[eye].frame
    here = frame.local((0.0, frame.origin[1], 15.0))[:2]
    b.draw(eye, "circle", here, (here[0] + 4, here[1]))
    curve = next(iter(b.drawing(eye).curves))
    step = b.step("split_faces", "Spot", faces=[face(b, "/side/")], manner="drawn", lines=[{"of": "drawn", "step": eye, "entity": curve}])
    spots = [x for x in built(b).site.bodies["s2"].topology.faces if any("/part/inside/" in n for n in x.names)]
    assert len(spots) == 2
    b.do(do="edit_step", step=step, fields={"reach": "near"})
    (spot,) = [x for x in built(b).site.bodies["s2"].topology.faces if any("/part/inside/" in n for n in x.names)]
    assert spot.area == pytest.approx(spots[0].area, rel=2e-5)
    assert spot.centre[1] * (frame.origin[1] or frame.normal[1]) > 0
    # The area of a disc seen on a cylinder, by quadrature.
    true = quad(lambda x: 2 * math.sqrt(16 - x * x) * 10 / math.sqrt(100 - x * x), -4, 4)[0]
    assert spot.area == pytest.approx(true, rel=1e-5)
    assert volume(b) == pytest.approx(PI * 100 * 30, rel=1e-9)
