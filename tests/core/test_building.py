"""Every building step in every manner against hand calculation, before and after its dimensions change."""

from __future__ import annotations

import math
from collections.abc import Callable
from typing import Any

import pytest

from tests.samples import XY, block, evaluated, plate
from wendal.core import exchange, kernel
from wendal.core.errors import WendalError
from wendal.core.route import Evaluation
from wendal.demo.builder import Builder

PI = math.pi
BODY = {"of": "body", "body": "s2"}
TOP = {"of": "face", "body": "s2", "names": ["s2/end/r1"]}
BOTTOM = {"of": "face", "body": "s2", "names": ["s2/start/r1"]}


def axis(name: str) -> dict[str, Any]:
    return {"of": "base", "name": name}


def datum(step: str, index: int = 0) -> dict[str, Any]:
    return {"of": "datum", "step": step, "index": index}


def of_step(step: str) -> dict[str, Any]:
    return {"of": "step", "step": step}


def f(formula: str) -> dict[str, str]:
    return {"formula": formula}


def drawn_on(b: Builder, plane: Any, shape: str, *ends: tuple[float, float], **values: str) -> str:
    sketch = b.step("sketch", f"Sketch of {shape} {b.part.last}", on=plane)
    b.draw(sketch, shape, *ends, **values)
    return sketch


def side(line: str) -> dict[str, Any]:
    """A side of the plate by its curve: c3 low, c6 right, c9 high, c12 left."""
    return {"of": "face", "body": "s2", "names": [f"s2/side/{line}/r1"]}


def built(b: Builder) -> Evaluation:
    evaluation = evaluated(b)
    assert [(r.id, r.message) for r in evaluation.reports if r.state != "built"] == []
    return evaluation


def volume(b: Builder) -> float:
    """The volume of all bodies, each of them checked; and the same after it was written as STEP."""
    total = 0.0
    for body in built(b).site.bodies.values():
        mass = kernel.mass_of(body.shape)
        assert mass.valid
        assert all(body.shape.names)
        total += mass.volume
    return total


def on_top(b: Builder, shape: str, *ends: tuple[float, float], **values: str) -> list[dict[str, Any]]:
    return b.profile(drawn_on(b, TOP, shape, *ends, **values), 0)


def disc_on_top(result: str = "add", **fields: Any) -> Callable[[], Builder]:
    """A disc of Ø10 in the middle of the plate's top, extruded somehow."""
    def make() -> Builder:
        b = plate()
        profile = on_top(b, "circle", (20, 12), (25, 12), diameter="10 mm")
        extra = {k: (v(b) if callable(v) else v) for k, v in fields.items()}
        b.step("extrude", "Boss", profile=profile, result=result, bodies=[BODY] if result != "new" else [], **extra)
        return b
    return make


def offset_plane(base: Any, distance: str) -> Callable[[Builder], str]:
    return lambda b: b.step("plane", f"Plane {b.part.last}", how="offset", first=base, distance=f(distance))


PLATE, DISC = 40 * 25 * 10, 25 * PI
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


def test_several_faces_at_once() -> None:
    b = plate()
    roof = drawn_on(b, axis("ZX"), "line", (0, 40), (20, 30))
    for p, q in (((20, 30), (40, 40)), ((40, 40), (40, 50)), ((40, 50), (0, 50)), ((0, 50), (0, 40))):
        b.draw(roof, "line", p, q)
    drawing = b.drawing(roof)
    lines = list(drawing.curves)
    for i in range(5):
        b.constrain(roof, "coincident", drawing.curves[lines[i]].end, drawing.curves[lines[(i + 1) % 5]].start)
    b.step("extrude", "Roof", profile=b.profile(roof, 0), extent="both", depth=f("80 mm"))
    body = b.part.steps[-1].id
    faces = [{"of": "face", "body": body, "names": [f"{body}/side/{c}/r1"]} for c in lines[:2]]
    b.step("extrude", "Post", profile=on_top(b, "rectangle", (10, 5), (30, 20)), extent="until", until=faces)
    before = volume(b)
    roof_volume = 80 * (40 * 10 + 40 * 10 / 2)
    assert before == pytest.approx(PLATE + roof_volume + 20 * 15 * (32.5 - 10))
    b.do(do="edit_step", step=b.part.steps[-1].id, fields={"short": f("1 mm")})
    assert volume(b) == pytest.approx(PLATE + roof_volume + 20 * 15 * (32.5 - 10 - math.hypot(1, 0.5)))


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


# — holes —

def holes(**fields: Any) -> Callable[[], Builder]:
    """Holes at two loose points of a sketch on the plate's top."""
    def make() -> Builder:
        b = plate()
        sketch = b.step("sketch", "Spots", on=TOP)
        for place in ((10, 12), (30, 12)):
            b.draw(sketch, "point", place)
        extra = {k: (v(b) if callable(v) else v) for k, v in fields.items()}
        b.step("hole", "Drill", **{"at": [{"of": "sketch", "step": sketch}], **extra})
        return b
    return make


def cyl(d: float, h: float) -> float:
    return PI * d * d / 4 * h


def tipped(d: float, h: float, angle: float = 118) -> float:
    return cyl(d, h) + cyl(d, d / 2 / math.tan(math.radians(angle / 2))) / 3


def sunk(big: float, d: float, angle: float = 90) -> float:
    """What a countersink takes away beyond the hole."""
    h = (big - d) / 2 / math.tan(math.radians(angle / 2))
    return PI * h / 12 * (big * big + big * d + d * d) - cyl(d, h)


HOLES = {
    "plain": (holes(diameter=f("6 mm")), 2 * cyl(6, 10), "2 × Ø6 through"),
    "fine": (holes(sizing="clearance", screw="M5", fit="fine"), 2 * cyl(5.3, 10), "2 × Ø5.3 through"),
    "medium": (holes(sizing="clearance", screw="M5"), 2 * cyl(5.5, 10), "2 × Ø5.5 through"),
    "coarse": (holes(sizing="clearance", screw="M5", fit="coarse"), 2 * cyl(5.8, 10), "2 × Ø5.8 through"),
    "tapped": (holes(sizing="tapped", thread="M6"), 2 * cyl(5, 10), "2 × M6, Ø5 through"),
    "tapped_fine": (holes(sizing="tapped", thread="M8 × 1", hand="left"), 2 * cyl(7, 10), "2 × M8 × 1 LH, Ø7 through"),
    "tapped_inch": (holes(sizing="tapped", thread="1/4-20 UNC", end="depth", depth=f("8 mm"), threaded="part", thread_depth=f("6 mm")), 2 * tipped(5.11, 8),
                    "2 × 1/4-20 UNC ↧ 6, Ø5.11 ↧ 8"),
    "depth": (holes(diameter=f("6 mm"), end="depth", depth=f("5 mm")), 2 * tipped(6, 5), "2 × Ø6 ↧ 5"),
    "flat": (holes(diameter=f("6 mm"), end="depth", depth=f("5 mm"), point="flat"), 2 * cyl(6, 5), "2 × Ø6 ↧ 5"),
    "tip_120": (holes(diameter=f("6 mm"), end="depth", depth=f("5 mm"), point="120"), 2 * tipped(6, 5, 120), "2 × Ø6 ↧ 5"),
    "tip_typed": (holes(diameter=f("6 mm"), end="depth", depth=f("5 mm"), point="typed", tip=f("140 deg")), 2 * tipped(6, 5, 140), "2 × Ø6 ↧ 5"),
    "to_tip": (holes(diameter=f("6 mm"), end="tip", depth=f("6 mm"), point="90"), 2 * tipped(6, 3, 90), "2 × Ø6 ↧ 3"),
    "until": (holes(diameter=f("6 mm"), end="until", until=lambda b: datum(offset_plane(BOTTOM, "-4 mm")(b)), point="flat"), 2 * cyl(6, 6), "2 × Ø6 ↧ 6"),
    "next": (holes(diameter=f("6 mm"), end="next"), 2 * cyl(6, 10), "2 × Ø6 through"),
    "counterbored": (holes(sizing="clearance", screw="M4", shape="counterbore"), 2 * (cyl(4.5, 10) + cyl(8, 4.4) - cyl(4.5, 4.4)), "⌴ Ø8 ↧ 4.4"),
    "counterbored_typed": (holes(diameter=f("4 mm"), shape="counterbore", head="typed", head_diameter=f("9 mm"), head_depth=f("3 mm")),
                           2 * (cyl(4, 7) + cyl(9, 3)), "⌴ Ø9 ↧ 3"),
    "countersunk": (holes(sizing="clearance", screw="M4", shape="countersink"), 2 * (cyl(4.5, 10) + sunk(8.96, 4.5)), "⌵ Ø8.96 × 90°"),
    "countersunk_typed": (holes(diameter=f("4 mm"), shape="countersink", head="typed", sink_diameter=f("8 mm"), sink_angle=f("120 deg")),
                          2 * (cyl(4, 10) + sunk(8, 4, 120)), "⌵ Ø8 × 120°"),
    "spotfaced": (holes(sizing="clearance", screw="M4", shape="spotface"), 2 * (cyl(4.5, 9) + cyl(10, 1)), "⌴ Ø10 SF"),
    "toleranced": (holes(diameter=f("6 mm"), toleranced="on", tolerance="H7"), 2 * cyl(6, 10), "2 × Ø6 H7 through"),
    "from_below": (holes(diameter=f("6 mm"), side="back", start="from", start_at=BOTTOM, end="depth", depth=f("4 mm"), point="flat"), 2 * cyl(6, 4), "↧ 4"),
    "body_start": (holes(diameter=f("6 mm"), start="body", end="depth", depth=f("4 mm"), point="flat"), 2 * cyl(6, 4), "↧ 4"),
    "one_point": (holes(diameter=f("6 mm"), at=[{"of": "drawn", "step": "s3", "entity": "p1"}]), cyl(6, 10), "Ø6 through"),
    "coordinates": (holes(where="coordinates", x=f("12 mm"), y=f("9 mm"), diameter=f("6 mm"), side="back"), cyl(6, 10), "Ø6 through"),
    "spot": (holes(where="spot", face=TOP, edge={"of": "edge", "body": "s2", "faces": [["s2/end/r1"], ["s2/side/c3/r1"]]}, distance=f("8 mm"),
                   edge_two={"of": "edge", "body": "s2", "faces": [["s2/end/r1"], ["s2/side/c12/r1"]]}, distance_two=f("11 mm"), diameter=f("6 mm")),
             cyl(6, 10), "Ø6 through"),
    "datum_point": (holes(at=lambda b: [datum(b.step("point", "Mark", how="coordinates", x=f("20 mm"), y=f("12 mm"), z=f("10 mm")))],
                          start="from", start_at=TOP, diameter=f("6 mm")), cyl(6, 10), "Ø6 through"),
}


@pytest.mark.parametrize("case", HOLES)
def test_hole(case: str) -> None:
    make, taken, note = HOLES[case]
    b = make()
    assert volume(b) == pytest.approx(PLATE - taken, rel=1e-9)
    assert note in built(b).reports[-1].message


@pytest.mark.parametrize(("case", "fields", "taken"), [
    ("plain", {"diameter": f("8 mm")}, 2 * cyl(8, 10)), ("medium", {"screw": "M6"}, 2 * cyl(6.6, 10)), ("depth", {"depth": f("7 mm")}, 2 * tipped(6, 7)),
    ("countersunk_typed", {"sink_diameter": f("9 mm")}, 2 * (cyl(4, 10) + sunk(9, 4, 120))), ("tapped", {"thread": "M5"}, 2 * cyl(4.2, 10)),
    ("spot", {"distance": f("9 mm")}, cyl(6, 10)), ("coordinates", {"x": f("15 mm")}, cyl(6, 10)), ("to_tip", {"depth": f("7 mm")}, 2 * tipped(6, 4, 90)),
])
def test_hole_changed(case: str, fields: dict[str, Any], taken: float) -> None:
    b = HOLES[case][0]()
    b.do(do="edit_step", step=b.part.steps[-1].id, fields=fields)
    assert volume(b) == pytest.approx(PLATE - taken, rel=1e-9)


@pytest.mark.parametrize(("fields", "told", "field"), [
    ({"shape": "counterbore"}, "only where the hole is a clearance hole", "head"), ({"sizing": "clearance", "screw": "M2", "shape": "countersink"}, "no countersunk head for M2", "head"),
    ({"shape": "counterbore", "head": "typed", "head_diameter": f("5 mm")}, "must be wider", "head_diameter"),
    ({"end": "depth", "depth": f("2 mm"), "shape": "counterbore", "head": "typed", "head_depth": f("9 mm")}, "goes deeper than the hole", "depth"),
    ({"end": "tip", "depth": f("1 mm")}, "The tip alone", "depth"), ({"side": "back"}, "Turn the hole round", "side"),
    ({"sizing": "tapped", "end": "depth", "depth": f("5 mm"), "threaded": "part", "thread_depth": f("6 mm")}, "thread is deeper", "thread_depth"),
    ({"at": [{"of": "vertex", "body": "s2", "faces": [["s2/end/r1"], ["s2/side/c3/r1"], ["s2/side/c12/r1"]]}]}, "A point alone has no direction", "at"),
    ({"toleranced": "on", "tolerance": "tight"}, "a class by ISO 286", "tolerance"),
])
def test_hole_refusals(fields: dict[str, Any], told: str, field: str) -> None:
    report = evaluated(holes(**fields)()).reports[-1]
    assert (report.state, report.field) == ("stopped", field)
    assert told in report.message


def test_a_place_picked_twice_is_drilled_once_and_circles_give_their_centres() -> None:
    b = holes(diameter=f("6 mm"))()
    sketch = b.part.steps[-1].model_dump()["at"][0]
    b.do(do="edit_step", step=b.part.steps[-1].id, fields={"at": [sketch, {"of": "drawn", "step": sketch["step"], "entity": "p1"}]})
    assert "2 × Ø6" in built(b).reports[-1].message
    b = plate()
    ring_ = drawn_on(b, TOP, "circle", (20, 12), (25, 12))
    b.step("hole", "Bore", at=[{"of": "drawn", "step": ring_, "entity": next(iter(b.drawing(ring_).curves))}], diameter=f("6 mm"))
    assert volume(b) == pytest.approx(PLATE - cyl(6, 10))


def test_threads_are_drawn_and_mirrored_ones_keep_their_hand() -> None:
    b = HOLES["tapped"][0]()
    hole = b.part.steps[-1].id
    plane = b.step("plane", "Half", how="midway", first=side("c3"), second=side("c9"))
    b.do(do="edit_step", step=hole, fields={"at": [{"of": "drawn", "step": "s3", "entity": "p1"}]})
    b.step("mirror", "Other", seeds=[of_step(hole)], about=datum(plane))
    b.do(do="edit_step", step=plane, fields={"first": side("c6"), "second": side("c12")})
    evaluation = built(b)
    assert evaluation.reports[-1].message == "Mirrored threads keep their hand."
    assert {step: [(round(f_.origin[0], 6), r) for f_, r in made] for step, made in evaluation.site.threads.items()} == {
        hole: [(10, 3)], b.part.steps[-1].id: [(30, 3)]}


def test_a_hole_on_the_axis_of_a_round_face_and_its_faces_can_be_referred_to() -> None:
    b = block()
    boss = next(c for c in b.drawing("s3").curves)
    hole = b.step("hole", "Bore", at=[{"of": "face", "body": "s2", "names": [f"s4/side/{boss}/r1"]}], diameter=f("4 mm"), start="body")
    assert volume(b) == pytest.approx(PLATE + 6 * DISC - cyl(4, 16))
    (wall,) = [n for n in {n for x in built(b).site.bodies["s2"].topology.faces for n in x.names} if n.startswith(hole)]
    axis_of = b.step("axis", "Bore axis", how="of_round", first={"of": "face", "body": "s2", "names": [wall]})
    assert built(b).site.datums[axis_of][0].frame.origin[:2] == pytest.approx((20, 12))


# — patterns and mirrors —

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
    "curve": (pinned(manner="curve", count=f("3"), curve={"of": "edge", "body": "s2", "faces": [["s2/end/r1"], ["s2/side/c3/r1"]]}, turning="parallel"), None),
    "mirror": (pinned(kind="mirror", about=lambda b: datum(b.step("plane", "Half", how="midway", first=side("c6"), second=side("c12")))), 2),
    "mirror_anew": (pinned(kind="mirror", copying="anew", about=lambda b: datum(b.step("plane", "Half", how="midway", first=side("c6"), second=side("c12")))), 2),
}


@pytest.mark.parametrize("case", REPEATED)
def test_repeat_and_mirror(case: str) -> None:
    make, count = REPEATED[case]
    if count is not None:
        assert volume(make()) == pytest.approx(PLATE + count * PIN, rel=1e-9)
    else:  # along an edge that runs out over the plate's end
        report = evaluated(make()).reports[-1]
        assert (report.state, report.field) in {("built", ""), ("stopped", ""), ("stopped", "skipped")}


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
    (REPEATED["lines"][0], {"count": f("1")}, "count must be greater than 1"),
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


# — bodies —

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
