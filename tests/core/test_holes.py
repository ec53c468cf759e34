"""Holes in every manner against hand calculation, with their notes and refusals."""

from __future__ import annotations

import math
from collections.abc import Callable
from typing import Any

import pytest

from tests.building import (
    BOTTOM,
    DISC,
    PI,
    PLATE,
    TOP,
    built,
    cyl,
    datum,
    drawn_on,
    f,
    of_step,
    offset_plane,
    side,
    volume,
)
from tests.samples import XY, block, evaluated, plate
from wendal.core import kernel
from wendal.core.route import Memory, evaluate
from wendal.core.route.document import UnitChoice
from wendal.demo.builder import Builder


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
    "tapped_pitch": (holes(sizing="tapped", thread="M10 × 1"), 2 * cyl(9, 10), "Pitch Ø9.35, minor Ø8.917 by ISO 724"),
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
    "toleranced": (holes(diameter=f("6 mm"), toleranced="on", tolerance="H7"), 2 * cyl(6, 10), "2 × Ø6 H7 (+0.012/0) through"),
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


# ---- Bodies that stand aslant: a hole square to its body is the same at any tilt ----


def aslant(tilt: float, lid: bool = False) -> tuple[Builder, str]:
    """A plate 30 x 20 x 10 on a plane tilted about X (degrees), a lid of 4 at 15 over it, and a sketch with a point 30 above."""
    b = Builder("Aslant")
    plane = b.step("plane", "Tilted", how="angle", first={"of": "base", "name": "X"}, second={"of": "base", "name": "XY"}, angle=f(f"{tilt} deg"))
    for name, at, depth in (("Plate", 0, 10), *((("Lid", 15, 4),) if lid else ())):
        level = b.step("plane", f"Under {name}", how="offset", first={"of": "datum", "step": plane}, distance=f(f"{at} mm"))
        outline = b.step("sketch", f"{name} outline", on={"of": "datum", "step": level})
        b.draw(outline, "rectangle", (-15, -10), (15, 10))
        b.step("extrude", name, profile=b.profile(outline, 0), depth=f(f"{depth} mm"))
    above = b.step("plane", "Above", how="offset", first={"of": "datum", "step": plane}, distance=f("30 mm"))
    points = b.step("sketch", "Point", on={"of": "datum", "step": above})
    b.draw(points, "point", (4, 3))
    return b, points


def taken(b: Builder, **fields: Any) -> dict[str, float]:
    """What a hole takes off each body, mm³."""
    before = {x.name: kernel.volume_of(x.shape) for x in evaluated(b).site.bodies.values()}
    step = b.step("hole", "Bore", **fields)
    evaluation = evaluated(b)
    assert evaluation.report(step).state == "built", evaluation.report(step).message
    return {x.name: before[x.name] - kernel.volume_of(x.shape) for x in evaluation.site.bodies.values()}


TILTS = (0, 7, 30, 45, 63, 90, 120, 179)


@pytest.mark.parametrize("tilt", TILTS)
def test_a_depth_from_the_body_is_measured_along_the_hole(tilt: float) -> None:
    b, points = aslant(tilt)
    found = taken(b, at=[{"of": "sketch", "step": points}], start="body", end="depth", depth=f("5 mm"), diameter=f("6 mm"), point="flat")
    assert found["Plate"] == pytest.approx(PI * 9 * 5, rel=1e-9)


@pytest.mark.parametrize("tilt", TILTS)
def test_the_next_end_is_that_of_the_first_body(tilt: float) -> None:
    b, points = aslant(tilt, lid=True)
    found = taken(b, at=[{"of": "sketch", "step": points}], end="next", diameter=f("6 mm"))
    assert found == {"Plate": pytest.approx(0, abs=1e-6), "Lid": pytest.approx(PI * 9 * 4, rel=1e-9)}


@pytest.mark.parametrize("tilt", TILTS)
def test_through_everything_along_an_axis_goes_all_the_way(tilt: float) -> None:
    """On the rim of a boss, as on its wall: all of plate and boss is drilled."""
    for pick in ("rim", "wall"):
        b, _ = aslant(tilt)
        top = b.step("sketch", "Boss outline", on={"of": "face", "body": "s4", "names": ["s4/end/r1"]})
        b.draw(top, "circle", (0, 0), (5, 0))
        boss = b.step("extrude", "Boss", profile=b.profile(top, 0), depth=f("12 mm"), result="add")
        wall, end = f"{boss}/side/c2/r1", f"{boss}/end/r1"
        ref = ({"of": "face", "body": "s4", "names": [wall]} if pick == "wall" else
               {"of": "edge", "body": "s4", "faces": [[wall], [end]], "alone": True})
        assert sum(taken(b, at=[ref], end="through", diameter=f("2 mm")).values()) == pytest.approx(PI * 22, rel=1e-9), pick


def test_the_note_tells_the_depth_of_each_hole() -> None:
    """Two holes that end at a plane aslant are as deep as each of them is."""
    b = plate()
    end = b.step("plane", "End", how="angle", first={"of": "base", "name": "Y"}, second=XY, angle=f("10 deg"))
    points = b.step("sketch", "Points", on=TOP)
    b.draw(points, "point", (10, 10))
    b.draw(points, "point", (26, 10))
    step = b.step("hole", "Bores", at=[{"of": "sketch", "step": points}], end="until", until={"of": "datum", "step": end}, diameter=f("4 mm"))
    message = evaluated(b).report(step).message
    depths = [10 + s * x * math.tan(math.radians(10)) for x in (10, 26) for s in (1, -1)]
    assert sum(f"↧ {d:.3f}" in message for d in depths) == 2, message


@pytest.mark.parametrize(("fields", "notes"), [
    ({"end": "through"}, ["2 × Ø4 through", "Ø4 through (closed where it begins)"]),
    ({"end": "depth", "depth": f("12 mm")}, ["2 × Ø4 ↧ 12 (it comes out)", "Ø4 ↧ 12 (closed where it begins, it comes out)"]),
    ({"end": "depth", "depth": f("5 mm")}, ["2 × Ø4 ↧ 5;", "Ø4 ↧ 5 (closed where it begins)"]),
    ({"shape": "counterbore", "head": "typed", "head_diameter": f("8 mm"), "head_depth": f("3 mm")},
     ["Ø4 through ⌴ Ø8 ↧ 3;", "Ø4 through ⌴ Ø8 ↧ 3 (its head is open at the side)", "closed where it begins"]),
])
def test_the_note_tells_what_each_hole_got(fields: dict[str, Any], notes: list[str]) -> None:
    """A plate of 40 x 24 x 10 with a block on its right part; one hole beside it, one at the edge, one under the block."""
    b = plate()
    block = drawn_on(b, TOP, "rectangle", (28, 0), (40, 24))
    b.step("extrude", "Block", profile=b.profile(block, 0), depth=f("6 mm"), result="add")
    points = b.step("sketch", "Points", on=TOP)
    for at in ((16, 12), (3, 12), (34, 12)):
        b.draw(points, "point", at)
    step = b.step("hole", "Bores", at=[{"of": "sketch", "step": points}], diameter=f("4 mm"), **fields)
    message = built(b).report(step).message
    assert all(note in message for note in notes), message


@pytest.mark.parametrize(("above", "told"), [(2, "its head is only 1 deep"), (5, "its head lies in the air")])
def test_the_note_tells_of_a_head_in_the_air(above: float, told: str) -> None:
    b = plate()
    start = b.step("plane", "Start", how="offset", first={"of": "face", "body": "s2", "names": ["s2/end/r1"]}, distance=f(f"{above} mm"))
    points = b.step("sketch", "Points", on=datum(start))
    b.draw(points, "point", (10, 12))
    step = b.step("hole", "Bore", at=[{"of": "sketch", "step": points}], diameter=f("4 mm"), shape="counterbore", head="typed",
                  head_diameter=f("8 mm"), head_depth=f("3 mm"))
    assert told in built(b).report(step).message


@pytest.mark.parametrize(("name", "says"), [
    ("plain", "2 × Ø0.2362 through."), ("counterbored_typed", "2 × Ø0.1575 through ⌴ Ø0.3543 ↧ 0.1181."),
    ("tapped_inch", "2 × 1/4-20 UNC ↧ 0.2362, Ø0.2012 ↧ 0.315. Pitch Ø0.2175, minor Ø0.1959 by ISO 724."),
])
def test_in_a_part_told_in_inches_notes_are_in_inches(name: str, says: str) -> None:
    part, memory = HOLES[name][0]().part, Memory()
    inch = part.model_copy(update={"units": UnitChoice(length="in")})
    for told, words in ((part, HOLES[name][2]), (inch, says), (part, HOLES[name][2])):
        assert words in evaluate(told, memory).reports[-1].message
