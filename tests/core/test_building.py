"""Extrude and revolve, in every manner, against hand calculation, before and after their dimensions change."""

from __future__ import annotations

import math
from collections.abc import Callable
from typing import Any

import pytest

from tests.building import (
    BODY,
    BOTTOM,
    DISC,
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
from tests.samples import XY, evaluated, plate
from wendal.core import kernel
from wendal.core.reference import face_ref
from wendal.demo.builder import Builder


def disc_on_top(result: str = "add", **fields: Any) -> Callable[[], Builder]:
    """A disc of Ø10 in the middle of the plate's top, extruded somehow."""
    def make() -> Builder:
        b = plate()
        profile = on_top(b, "circle", (20, 12), (25, 12), diameter="10 mm")
        extra = {k: (v(b) if callable(v) else v) for k, v in fields.items()}
        b.step("extrude", "Boss", profile=profile, result=result, bodies=[BODY] if result != "new" else [], **extra)
        return b
    return make


UP = {"extent": "until"}


def cone_frustum(r: float, h: float, angle: float) -> float:
    q = r - h * math.tan(angle)
    return PI * h * (r * r + r * q + q * q) / 3


EXTRUDED = {
    "out": (disc_on_top(depth=f("6 mm")), PLATE + 6 * DISC),
    "into": (disc_on_top("cut", extent="into", depth=f("4 mm")), PLATE - 4 * DISC),
    "both": (disc_on_top(extent="both", depth=f("8 mm")), PLATE + 4 * DISC),
    "two": (disc_on_top("cut", extent="two", depth=f("3 mm"), depth_two=f("7 mm")), PLATE - 7 * DISC),
    "two_new": (disc_on_top("new", extent="two", depth=f("3 mm"), depth_two=f("7 mm")), PLATE + 10 * DISC),
    "through_into": (disc_on_top("cut", extent="through_into"), PLATE - 10 * DISC),
    "through_both": (disc_on_top("cut", extent="through_both"), PLATE - 10 * DISC),
    "until_plane": (disc_on_top(until=lambda b: [datum(offset_plane(TOP, "15 mm")(b))], **UP), PLATE + 15 * DISC),
    "until_plane_short": (disc_on_top(until=lambda b: [datum(offset_plane(TOP, "15 mm")(b))], short=f("2 mm"), **UP), PLATE + 13 * DISC),
    "until_plane_beyond": (disc_on_top(until=lambda b: [datum(offset_plane(TOP, "15 mm")(b))], short=f("-2 mm"), **UP), PLATE + 17 * DISC),
    "until_face_below": (disc_on_top("cut", until=[BOTTOM], **UP), PLATE - 10 * DISC),
    "until_face_below_short": (disc_on_top("cut", until=[BOTTOM], short=f("-1 mm"), **UP), PLATE - 10 * DISC),
    "until_corner": (disc_on_top("cut", until=[{"of": "vertex", "body": "s2", "faces": [["s2/start/r1"], ["s2/side/c3/r1"], ["s2/side/c12/r1"]]}], **UP),
                     PLATE - 10 * DISC),
    "start_off": (disc_on_top("cut", extent="into", depth=f("4 mm"), start="off", start_by=f("-3 mm")), PLATE - 4 * DISC),
    "start_off_above": (disc_on_top("new", depth=f("4 mm"), start="off", start_by=f("3 mm")), PLATE + 4 * DISC),
    "start_from": (disc_on_top("cut", depth=f("4 mm"), start="from", start_at=BOTTOM), PLATE - 4 * DISC),
    "slant": (disc_on_top("new", depth=f("5 mm"), slant="along", line=axis("Z")), PLATE + 5 * DISC),
    "narrow": (disc_on_top(depth=f("6 mm"), taper="narrow", draft=f("10 deg")), PLATE + cone_frustum(5, 6, math.radians(10))),
    "widen": (disc_on_top(depth=f("6 mm"), taper="widen", draft=f("10 deg")), PLATE + cone_frustum(5, 6, -math.radians(10))),
    "narrow_cut": (disc_on_top("cut", extent="into", depth=f("6 mm"), taper="narrow", draft=f("10 deg")), PLATE - cone_frustum(5, 6, math.radians(10))),
    "narrow_both": (disc_on_top("new", extent="both", depth=f("6 mm"), taper="narrow", draft=f("10 deg")), PLATE + 2 * cone_frustum(5, 3, math.radians(10))),
    "common": (disc_on_top("common", extent="into", depth=f("10 mm")), 10 * DISC),
    "new": (disc_on_top("new", depth=f("6 mm")), PLATE + 6 * DISC),
}


@pytest.mark.parametrize("case", EXTRUDED)
def test_extrude(case: str) -> None:
    make, expected = EXTRUDED[case]
    assert volume(make()) == pytest.approx(expected, rel=1e-9)


@pytest.mark.parametrize(("case", "fields", "expected"), [
    ("out", {"depth": f("9 mm")}, PLATE + 9 * DISC), ("into", {"depth": f("4 mm + 1 mm")}, PLATE - 5 * DISC), ("both", {"depth": f("2 mm")}, PLATE + DISC),
    ("two", {"depth_two": f("2 mm")}, PLATE - 2 * DISC), ("until_plane_short", {"short": f("5 mm")}, PLATE + 10 * DISC),
    ("start_off", {"start_by": f("-6 mm")}, PLATE - 4 * DISC), ("narrow", {"draft": f("5 deg")}, PLATE + cone_frustum(5, 6, math.radians(5))),
    ("through_into", {"extent": "into", "depth": f("3 mm")}, PLATE - 3 * DISC), ("common", {"depth": f("3 mm")}, 3 * DISC),
    ("narrow", {"taper": ""}, PLATE + 6 * DISC),
])
def test_extrude_changed(case: str, fields: dict[str, Any], expected: float) -> None:
    b = EXTRUDED[case][0]()
    step = next(s.id for s in b.part.steps if s.name == "Boss")
    b.do(do="edit_step", step=step, fields=fields)
    assert volume(b) == pytest.approx(expected, rel=1e-9)


def test_extrude_follows_its_target() -> None:
    b = EXTRUDED["until_plane"][0]()
    tag = next(r.tag for r in b.part.rows() if r.formula == "15 mm")
    b.do(do="set_formula", tag=tag, formula="22 mm")
    assert volume(b) == pytest.approx(PLATE + 22 * DISC)
    b.do(do="set_formula", tag="base_depth", formula="14 mm")
    assert volume(b) == pytest.approx(PLATE * 1.4 + 22 * DISC)


def test_extrude_along_a_slanted_line() -> None:
    b = plate()
    line = drawn_on(b, axis("ZX"), "line", (0, 0), (10, 10))
    curve = next(iter(b.drawing(line).curves))
    b.step("extrude", "Leaning", profile=on_top(b, "circle", (20, 12), (25, 12)), depth=f("10 mm"), slant="along",
           line={"of": "drawn", "step": line, "entity": curve})
    assert volume(b) == pytest.approx(PLATE + DISC * 10 / math.sqrt(2))


def test_up_to_the_next_face_and_to_round_and_several_faces() -> None:
    b = plate()
    high = drawn_on(b, XY, "rectangle", (0, 30), (40, 55))
    b.step("extrude", "Far", profile=b.profile(high, 0), depth=f("30 mm"), result="new")
    wall = drawn_on(b, side("c9"), "circle", (-20, 5), (-17, 5))  # on the plate's far side, looking at the other body
    b.step("extrude", "Bridge", profile=b.profile(wall, 0), extent="next", result="add", bodies=[])
    assert volume(b) == pytest.approx(PLATE + 40 * 25 * 30 + 9 * PI * 5)
    assert len(built(b).site.bodies) == 1  # it joins both


def test_up_to_a_cylinder_is_exact_and_extends_what_is_too_small() -> None:
    b = plate()
    lying = drawn_on(b, axis("ZX"), "circle", (20, 40), (35, 40))
    b.step("extrude", "Roll", profile=b.profile(lying, 0), extent="both", depth=f("60 mm"))
    roll = {"of": "face", "body": b.part.steps[-1].id, "names": [f"{b.part.steps[-1].id}/side/{next(iter(b.drawing(lying).curves))}/r1"]}
    b.step("extrude", "Post", profile=on_top(b, "rectangle", (10, 5), (30, 20)), extent="until", until=[roll])
    under = 40 - (10 * math.sqrt(225 - 100) / 2 * 2 / 20 + 225 / 20 * math.asin(10 / 15))  # mean height of the arc's underside
    assert volume(b) == pytest.approx(PLATE + PI * 225 * 60 + 20 * 15 * (under - 10), rel=1e-6)


def outline(b: Builder, plane: Any, *corners: tuple[float, float]) -> tuple[str, list[str]]:
    """A closed outline of lines: its sketch, and the lines."""
    sketch = b.step("sketch", f"Outline {b.part.last}", on=plane)
    for p, q in zip(corners, corners[1:] + corners[:1], strict=True):
        b.draw(sketch, "line", p, q)
    drawing = b.drawing(sketch)
    lines = list(drawing.curves)
    for line, after in zip(lines, lines[1:] + lines[:1], strict=True):
        b.constrain(sketch, "coincident", drawing.curves[line].end, drawing.curves[after].start)
    return sketch, lines


def post_under(b: Builder, corners: list[tuple[float, float]], sides: list[int], turn: str = "") -> str:
    """Push a rectangle of 20 x 15 up to some sides of a bar across the plate; return the bar."""
    profile = on_top(b, "rectangle", (10, 5), (30, 20))
    sketch, lines = outline(b, axis("ZX"), *corners)
    body = b.step("extrude", "Roof", profile=b.profile(sketch, 0), extent="both", depth=f("80 mm"))
    if turn:
        middle = b.step("sketch", "Middle", on=TOP)
        b.draw(middle, "point", (20, 12.5))
        about = datum(b.step("axis", "Upright", how="square", first=TOP, second={"of": "drawn", "step": middle, "entity": "p1"}))
        b.step("move_body", "Turned", body={"of": "body", "body": body}, manner="turn", turn=f(turn), about=about)
    b.step("extrude", "Post", profile=profile, extent="until", result="new",
           until=[{"of": "face", "body": body, "names": [f"{body}/side/{lines[i]}/r1"]} for i in sides])
    return body


def post(b: Builder) -> float:
    """The volume of the post."""
    return kernel.mass_of(next(x for x in built(b).site.bodies.values() if x.name == "Post").shape).volume


def test_several_faces_at_once() -> None:
    b = plate()
    post_under(b, [(0, 40), (20, 30), (40, 40), (40, 50), (0, 50)], [0, 1])
    assert post(b) == pytest.approx(20 * 15 * (32.5 - 10))
    b.do(do="edit_step", step=b.part.steps[-1].id, fields={"short": f("1 mm")})
    assert post(b) == pytest.approx(20 * 15 * (32.5 - 10 - math.hypot(1, 0.5)))


@pytest.mark.parametrize("tip", [37, 43])
@pytest.mark.parametrize("turn", ["", "20 deg"])
def test_faces_smaller_than_the_profile_go_on_beyond_their_free_edges(tip: int, turn: str) -> None:
    """Two flats that meet in a ridge or a valley, narrower than the post that ends at them, their common edge aslant over it."""
    b, slope, angle = plate(), (40 - tip) / 6, math.radians(20 if turn else 0)
    post_under(b, [(14, 40), (20, tip), (26, 40), (26, 60), (14, 60)], [0, 1], turn)
    p, q = 10 * math.cos(angle), 7.5 * math.sin(angle)
    mean = tip - 10 + slope * (p / 2 + q * q / (6 * p))  # of |x cos a + y sin a| over the profile
    assert post(b) == pytest.approx(20 * 15 * mean)
    if not turn:
        b.do(do="edit_step", step=b.part.steps[-1].id, fields={"short": f("1 mm")})
        assert post(b) == pytest.approx(20 * 15 * (mean - math.hypot(1, slope)))


@pytest.mark.parametrize(("low", "high"), [(5, 28), (-5, 28), (-5, 31)])
def test_a_rib_ends_at_a_cylinder_and_the_cone_on_it_also_beyond_them(low: float, high: float) -> None:
    b = Builder("Hub")
    sketch, _ = outline(b, axis("ZX"), (0, 0), (10, 0), (10, 20), (4, 30), (0, 30))
    body = b.step("revolve", "Hub", profile=b.profile(sketch, 0), axis=axis("Z"))
    names = [n for x in built_faces(b, body) if x.form in ("round", "cone") for n in x.names]
    rib = drawn_on(b, datum(offset_plane(axis("YZ"), "30 mm")(b)), "rectangle", (-3, low), (3, high))
    b.step("extrude", "Post", profile=b.profile(rib, 0), extent="until", until=[{"of": "face", "body": body, "names": [n]} for n in names])

    def gap(r: float) -> float:
        return 6 * 30 - (3 * math.sqrt(r * r - 9) + r * r * math.asin(3 / r))

    steps = [low + (high - low) * (k + 0.5) / 20000 for k in range(20000)]
    wanted = sum(gap(10 if z < 20 else 10 - 0.6 * (z - 20)) for z in steps) * (high - low) / 20000
    assert post(b) == pytest.approx(wanted, rel=1e-6)


def test_a_face_behind_the_extension_of_another_is_refused() -> None:
    """Two treads of a stair without the riser between them: the lower would go on before the upper."""
    b = plate()
    body = post_under(b, [(14, 30), (20, 30), (20, 40), (26, 40), (26, 60), (14, 60)], [0, 2])
    report = evaluated(b).reports[-1]
    assert (report.state, report.field) == ("stopped", "until")
    sides = [f"{body}/side/{line}/r1" for line in list(b.drawing(b.part.step(body).profile[0].step).curves)[:3]]
    b.do(do="edit_step", step=b.part.steps[-1].id, fields={"until": [{"of": "face", "body": body, "names": [n]} for n in sides]})
    assert post(b) == pytest.approx(15 * (10 * 20 + 10 * 30))  # with the riser each has its place


def test_several_faces_that_do_not_reach_over_the_profile_are_refused() -> None:
    """Each would have to go on beyond its neighbours; that is told, and never guessed."""
    b = plate()
    bar = drawn_on(b, axis("ZX"), "rectangle", (15, 30), (25, 40))
    b.step("extrude", "Bar", profile=b.profile(bar, 0), extent="both", depth=f("80 mm"))
    body = b.part.steps[-1].id
    names = sorted({n for x in built(b).site.bodies[body].topology.faces for n in x.names if "/side/" in n})
    faces = [{"of": "face", "body": body, "names": [n]} for n in names[:2]]
    b.step("extrude", "Post", profile=on_top(b, "rectangle", (10, 5), (30, 20)), extent="until", until=faces)
    report = evaluated(b).reports[-1]
    assert (report.state, report.field) == ("stopped", "until")
    b.do(do="edit_step", step=b.part.steps[-1].id, fields={"until": [{"of": "face", "body": body, "names": [next(
        n for x in built_faces(b, body) for n in x.names if x.frame.normal[2] < -0.9)]}]})
    assert volume(b) == pytest.approx(PLATE + 10 * 10 * 80 + 20 * 15 * 20)  # one goes on as its whole plane


def built_faces(b: Builder, body: str) -> list[Any]:
    return list(evaluated(b).site.bodies[body].topology.faces)


def test_profiles_of_faces_texts_and_whole_sketches() -> None:
    b = plate()
    b.step("extrude", "Thicker", profile=[{**TOP, "key": ""}], depth=f("5 mm"), result="add", bodies=[BODY])
    assert volume(b) == pytest.approx(PLATE * 1.5)
    sketch = b.step("sketch", "Both", on=XY)
    b.draw(sketch, "circle", (60, 0), (63, 0))
    b.draw(sketch, "circle", (80, 0), (82, 0))
    whole = b.step("extrude", "Pins", profile=[{"of": "sketch", "step": sketch, "key": ""}], depth=f("4 mm"))
    assert volume(b) == pytest.approx(PLATE * 1.5 + 4 * 13 * PI)
    names = {n for f_ in built(b).site.bodies[whole].topology.faces for n in f_.names}
    b.draw(sketch, "circle", (100, 0), (101, 0))
    assert volume(b) == pytest.approx(PLATE * 1.5 + 4 * 14 * PI)
    assert names < {n for f_ in built(b).site.bodies[whole].topology.faces for n in f_.names}  # what was there keeps its names


WALLED = {  # around a rectangle of 20 x 10 on the XY plane, 5 high
    "inside": ({"thickness": f("2 mm")}, (20 * 10 - 16 * 6) * 5), "outside": ({"thickness": f("2 mm")}, (24 * 14 - 20 * 10) * 5),
    "centred": ({"thickness": f("2 mm")}, (22 * 12 - 18 * 8) * 5), "two": ({"thickness": f("1 mm"), "thickness_two": f("3 mm")}, (26 * 16 - 18 * 8) * 5),
}


@pytest.mark.parametrize("wall", WALLED)
def test_walls_along_closed_regions(wall: str) -> None:
    fields, expected = WALLED[wall]
    b = Builder("Wall")
    sketch = b.step("sketch", "Outline", on=XY)
    b.draw(sketch, "rectangle", (0, 0), (20, 10))
    step = b.step("extrude", "Wall", profile=b.profile(sketch, 0), depth=f("5 mm"), wall=wall, **fields)
    assert volume(b) == pytest.approx(expected)
    b.do(do="edit_step", step=step, fields={"thickness": f("40 mm")})
    assert ("shrink to nothing" in evaluated(b).report(step).message) is (wall != "outside")


def test_walls_along_rings_and_open_chains() -> None:
    b = Builder("Wall")
    sketch = b.step("sketch", "Outline", on=XY)
    b.draw(sketch, "circle", (0, 0), (10, 0))
    b.draw(sketch, "circle", (0, 0), (4, 0))
    b.step("extrude", "Tubes", profile=b.profile(sketch, 0), depth=f("5 mm"), wall="inside", thickness=f("1 mm"))
    assert volume(b) == pytest.approx(5 * PI * (100 - 81 + 25 - 16))  # into the ring's material from both of its outlines
    b = Builder("Rail")
    sketch = b.step("sketch", "Line", on=XY)
    (one,) = b.draw(sketch, "line", (0, 0), (30, 0))
    (two,) = b.draw(sketch, "line", (30, 0), (30, 20))
    curves = b.drawing(sketch).curves
    b.constrain(sketch, "coincident", curves[one].end, curves[two].start)
    rail = b.step("extrude", "Rail", profile=[{"of": "drawn", "step": sketch, "entity": one, "key": ""}], depth=f("5 mm"), wall="centred", thickness=f("2 mm"))
    assert volume(b) == pytest.approx(5 * 2 * (30 + 20))
    names = {n for x in built(b).site.bodies[rail].topology.faces for n in x.names}
    assert {n.split("/")[2] for n in names if "/side/" in n} == {f"{one}.left", f"{one}.right", f"{two}.left", f"{two}.right", "first end", "last end"}
    b.do(do="edit_step", step=rail, fields={"wall": "inside", "thickness": f("3 mm")})
    assert volume(b) == pytest.approx(5 * 3 * (30 + 20 - 3))
    b.do(do="edit_step", step=rail, fields={"wall": ""})
    assert "add + wall" in evaluated(b).report(rail).message


def test_a_revolved_wall() -> None:
    b = ring(wall="inside", thickness=f("1 mm"))()
    assert volume(b) == pytest.approx(PI * (14**2 - 10**2) * 6 - PI * (13**2 - 11**2) * 4)


def ring(**fields: Any) -> Callable[[], Builder]:
    """A rectangle 10 to 14 beside the Y axis, 6 high, turned about it."""
    def make() -> Builder:
        b = Builder("Ring")
        sketch = b.step("sketch", "Section", on=XY)
        b.draw(sketch, "rectangle", (10, 0), (14, 6), width="4 mm", height="6 mm")
        extra = {k: (v(b) if callable(v) else v) for k, v in fields.items()}
        b.step("revolve", "Ring", profile=b.profile(sketch, 0), **{"axis": axis("Y"), **extra})
        return b
    return make


WHOLE = PI * (14**2 - 10**2) * 6
REVOLVED = {
    "full": (ring(), WHOLE), "ahead": (ring(extent="ahead", angle=f("90 deg")), WHOLE / 4), "back": (ring(extent="back", angle=f("60 deg")), WHOLE / 6),
    "both": (ring(extent="both", angle=f("120 deg")), WHOLE / 3), "two": (ring(extent="two", angle=f("45 deg"), angle_two=f("45 deg")), WHOLE / 4),
    "two_closed": (ring(extent="two", angle=f("200 deg"), angle_two=f("160 deg")), WHOLE),
    "until": (ring(extent="until", until=[axis("YZ")]), WHOLE / 4),
    "datum_axis": (ring(axis=lambda b: datum(b.step("axis", "Own", how="points", first={"of": "drawn", "step": "s1", "entity": "p1"},
                                                    second={"of": "drawn", "step": "s1", "entity": "p10"}))), PI * 16 * 6),
    "sketch_line": (ring(axis={"of": "drawn", "step": "s1", "entity": "c12"}), PI * 16 * 6),
}


@pytest.mark.parametrize("case", REVOLVED)
def test_revolve(case: str) -> None:
    make, expected = REVOLVED[case]
    assert volume(make()) == pytest.approx(expected, rel=1e-9)


@pytest.mark.parametrize(("case", "fields", "expected"), [
    ("ahead", {"angle": f("30 deg")}, WHOLE / 12), ("both", {"angle": f("360 deg")}, WHOLE), ("two", {"angle_two": f("15 deg")}, WHOLE / 6),
    ("full", {"extent": "ahead", "angle": f("180 deg")}, WHOLE / 2), ("back", {"angle": f("359 deg")}, WHOLE * 359 / 360),
])
def test_revolve_changed(case: str, fields: dict[str, Any], expected: float) -> None:
    b = REVOLVED[case][0]()
    b.do(do="edit_step", step=b.part.steps[-1].id, fields=fields)
    assert volume(b) == pytest.approx(expected, rel=1e-9)


def test_a_revolved_section_on_its_axis_and_a_face_turned() -> None:
    b = Builder("Disc")
    sketch = b.step("sketch", "Half", on=XY)
    b.draw(sketch, "rectangle", (0, 0), (8, 3))
    b.step("revolve", "Disc", profile=b.profile(sketch, 0), axis=axis("Y"))
    assert volume(b) == pytest.approx(PI * 64 * 3)
    b = plate()
    edge = {"of": "edge", "body": "s2", "faces": [["s2/end/r1"], ["s2/side/c6/r1"]]}
    b.step("revolve", "Elbow", profile=[{**side("c6"), "key": ""}], axis=edge, extent="back", angle=f("90 deg"), result="add", bodies=[BODY])
    assert volume(b) == pytest.approx(PLATE + PI * 100 / 4 * 25)


@pytest.mark.parametrize(("fields", "told", "field"), [
    ({"axis": axis("Z")}, "does not lie in the profile's plane", "axis"),
    ({"extent": "two", "angle": f("300 deg"), "angle_two": f("90 deg")}, "comes to 390", "angle"),
])
def test_revolve_refusals(fields: dict[str, Any], told: str, field: str) -> None:
    b = ring(**fields)()
    report = evaluated(b).reports[-1]
    assert (report.state, report.field) == ("stopped", field)
    assert told in report.message


def test_a_profile_across_its_axis_is_refused_with_the_place() -> None:
    b = Builder("Across")
    sketch = b.step("sketch", "Section", on=XY)
    b.draw(sketch, "rectangle", (-2, 0), (8, 3))
    b.step("revolve", "Disc", profile=b.profile(sketch, 0), axis=axis("Y"))
    assert "crosses the axis, near X -2" in evaluated(b).reports[-1].message


@pytest.mark.parametrize(("kind", "verb"), [("extrude", "push"), ("revolve", "turn"), ("sweep", "sweep")])
def test_an_outline_that_is_open_is_told_with_its_gap(kind: str, verb: str) -> None:
    b = Builder("Open")
    sketch = b.step("sketch", "Outline", on=axis("XY"))
    for start, end in (((0, 0), (20, 0)), ((20, 0), (20, 10)), ((20, 10), (0, 0.4))):
        b.draw(sketch, "line", start, end)
    whole = {"profile": [{"of": "sketch", "step": sketch, "key": "r1"}]}
    more = {"revolve": {"axis": axis("Y")}, "sweep": {"path": {"of": "drawn", "step": b.step("sketch", "Way", on=axis("ZX")), "entity": ""}}}.get(kind, {})
    if kind == "sweep":
        b.draw(more["path"]["step"], "line", (0, 0), (0, 30))
        more["path"]["entity"] = next(iter(b.drawing(more["path"]["step"]).curves))
    step = b.step(kind, "Part", **whole, **more)
    assert evaluated(b).report(step).message == (f"There is nothing to {verb}: the sketch has no closed region. Two ends of its outline are 0.4 mm apart "
                                                 "near X 0.000 Y 0.000 Z 0.000. Join them on the drawing board.")


def test_a_hollow_is_cut_inside_one_of_two_lumps() -> None:
    """The kernel sees what lies inside of a single solid only: a body in two lumps said that nothing was touched."""
    b = plate()
    slot = drawn_on(b, axis("XY"), "rectangle", (10, 0), (14, 25))
    b.step("extrude", "Slot", profile=b.profile(slot, 0), depth=f("10 mm"), result="cut")
    floor = b.step("plane", "Floor", how="offset", first=axis("XY"), distance=f("3 mm"))
    inside = drawn_on(b, datum(floor), "rectangle", (20, 5), (30, 20))
    b.step("extrude", "Hollow", profile=b.profile(inside, 0), depth=f("4 mm"), result="cut")
    built(b)
    assert volume(b) == pytest.approx(36 * 25 * 10 - 10 * 15 * 4)


def beside(seams: str, result: str = "add") -> Builder:
    """A block flush with the plate on four sides."""
    b = plate()
    ring = drawn_on(b, XY, "rectangle", (40, 0), (60, 25))
    b.step("extrude", "Block", profile=b.profile(ring, 0), depth=f("10 mm"), result=result, seams=seams, bodies=[BODY] if result == "add" else [])
    return b


def faces_of(b: Builder) -> int:
    return sum(len(x.topology.faces) for x in built(b).site.bodies.values())


def test_flush_faces_are_kept_apart_where_that_is_asked_for() -> None:
    assert faces_of(beside("")) == 6
    b = beside("apart")
    assert faces_of(b) == 10
    # What comes later leaves them apart.
    for x, count in ((5, 15), (50, 20)):
        hollow = drawn_on(b, TOP, "rectangle", (x, 5), (x + 5, 10))
        b.step("extrude", f"Pocket {x}", profile=b.profile(hollow, 0), extent="into", depth=f("4 mm"), result="cut")
        assert faces_of(b) == count
    assert volume(b) == pytest.approx(60 * 25 * 10 - 2 * 5 * 5 * 4)
    # A sketch on a piece holds when they are put together, and apart again.
    topology = built(b).site.bodies["s2"].topology
    piece = next(i for i, x in enumerate(topology.faces) if x.centre[0] > 45 and x.frame.normal[2] > 0.9 and x.centre[2] > 9)
    ring = drawn_on(b, face_ref("s2", topology, piece).model_dump(mode="json"), "circle", (55, 18), (56, 18), diameter="2 mm")
    b.step("extrude", "Pin", profile=b.profile(ring, 0), depth=f("3 mm"), result="add")
    for seams in ("", "apart"):
        b.do(do="edit_step", step="s4", fields={"seams": seams})
        assert volume(b) == pytest.approx(60 * 25 * 10 - 2 * 5 * 5 * 4 + math.pi * 3)


def test_combined_bodies_keep_flush_faces_apart() -> None:
    b = beside("", result="new")
    b.step("combine", "Both", manner="join", body={"of": "body", "body": "s2"}, tools=[{"of": "body", "body": "s4"}], seams="apart")
    assert faces_of(b) == 10
    b.do(do="edit_step", step=b.part.steps[-1].id, fields={"seams": ""})
    assert faces_of(b) == 6


def test_copies_of_what_is_kept_apart_are_kept_apart() -> None:
    b = beside("apart")
    middle = b.step("plane", "Middle", how="offset", first=axis("YZ"), distance=f("20 mm"))
    b.step("mirror", "Other", seeds=[{"of": "step", "step": "s4"}], about=datum(middle))
    assert faces_of(b) == 4 + 5 + 5
