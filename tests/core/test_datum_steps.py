"""Datum steps in a part: references to faces, edges, corners, spots, sketches and datums, and how they follow."""

from __future__ import annotations

import math
import struct
from typing import Any

import pytest

from tests.samples import XY, block, evaluated, plate
from wendal.core import exchange, kernel
from wendal.core.datum import Datum
from wendal.core.errors import CommandRefused, StepError
from wendal.core.inspect import scene
from wendal.core.inspect.scene import Blobs
from wendal.core.inspect.things import EDGE_FACETS, FACE_FACETS
from wendal.core.reference import edge_ref, face_ref, vertex_ref
from wendal.core.route import read_part, write_part
from wendal.core.route.resolving import Resolver
from wendal.core.steps import Site
from wendal.demo.builder import Builder


def datums(b: Builder, step: str) -> list[Datum]:
    evaluation = evaluated(b)
    assert evaluation.report(step).state == "built", evaluation.report(step).message
    return evaluation.site.datums[step]


def refs(b: Builder, after: str = "s2") -> tuple[Any, Site]:
    """Return makers of references into the body of a part, as it stands after a step."""
    site = evaluated(b).sites[after]
    return site.bodies["s2"].topology, site


def edge(b: Builder, x: float, y: float, z: float) -> dict[str, Any]:
    topology, _ = refs(b)
    i = min(range(len(topology.edges)), key=lambda k: math.dist(topology.edges[k].middle, (x, y, z)))
    return edge_ref("s2", topology, i).model_dump(mode="json")


def face(b: Builder, x: float, y: float, z: float) -> dict[str, Any]:
    topology, _ = refs(b)
    i = min(range(len(topology.faces)), key=lambda k: math.dist(topology.faces[k].centre, (x, y, z)))
    return face_ref("s2", topology, i).model_dump(mode="json")


def corner(b: Builder, x: float, y: float, z: float) -> dict[str, Any]:
    topology, _ = refs(b)
    i = min(range(len(topology.vertices)), key=lambda k: math.dist(topology.vertices[k].place, (x, y, z)))
    return vertex_ref("s2", topology, i).model_dump(mode="json")


def test_a_plane_midway_between_two_faces_follows_when_the_block_grows() -> None:
    b = plate()
    step = b.step("plane", "Middle", how="midway", first=face(b, 0, 12, 5), second=face(b, 40, 12, 5))
    assert datums(b, step)[0].frame.origin[0] == pytest.approx(20)
    b.do(do="set_formula", tag="outline_width", formula="90 mm")
    (datum,) = datums(b, step)
    assert datum.frame.origin[0] == pytest.approx(45)
    assert abs(datum.frame.normal[0]) == pytest.approx(1)


def test_a_plane_through_three_corners_follows_width_and_length() -> None:
    b = plate()
    step = b.step("plane", "Slant", how="points", first=corner(b, 0, 0, 10), second=corner(b, 40, 0, 0), third=corner(b, 0, 25, 0))
    for width, height in ((40, 25), (100, 25), (100, 7), (3, 200)):
        b.do(do="set_formula", tag="outline_width", formula=f"{width} mm")
        b.do(do="set_formula", tag="outline_height", formula=f"{height} mm")
        frame = datums(b, step)[0].frame
        for place in ((0, 0, 10), (width, 0, 0), (0, height, 0)):
            assert frame.local(place)[2] == pytest.approx(0, abs=1e-9)


def test_an_inclined_plane_its_copies_and_its_other_answer() -> None:
    b = plate()
    rim, top = edge(b, 20, 0, 10), face(b, 20, 12, 10)
    step = b.step("plane", "Slope", how="angle", first=rim, second=top, angle={"formula": "20 deg"}, copies={"formula": "3"})
    normals = [d.frame.normal for d in datums(b, step)]
    assert [math.degrees(math.acos(n[2])) for n in normals] == pytest.approx([20, 40, 60])
    assert all(n[1] < 0 for n in normals)
    b.do(do="edit_step", step=step, fields={"answer": 1})
    assert all(d.frame.normal[1] > 0 for d in datums(b, step))
    b.do(do="set_formula", tag="slope_angle", formula="35 deg")
    assert math.degrees(math.acos(datums(b, step)[0].frame.normal[2])) == pytest.approx(35)
    b.do(do="edit_step", step=step, fields={"copies": {"formula": "2", "tag": "slope_copies"}})
    cover = b.step("sketch", "On the second", on={"of": "datum", "step": step, "index": 1})
    b.do(do="edit_step", step=step, fields={"copies": {"formula": "1", "tag": "slope_copies"}})
    assert "has only 1 copies now" in evaluated(b).report(cover).message


@pytest.mark.parametrize("width", ["40 mm", "41 mm", "400 mm", "3 mm"])
def test_an_edge_keeps_its_sense_through_rebuilds(width: str) -> None:
    b = plate()
    axis = b.step("axis", "Rim", how="along", first=edge(b, 20, 0, 10))
    b.do(do="set_formula", tag="outline_width", formula=width)
    assert datums(b, axis)[0].frame.x == pytest.approx((1, 0, 0))


def test_shift_and_turn_come_after_and_count_in_the_ledger() -> None:
    b = plate()
    step = b.step("plane", "Moved", first=XY, distance={"formula": "10 mm"}, more="moved", shift_x={"formula": "5 mm"},
                  turn_x={"formula": "90 deg"})
    frame = datums(b, step)[0].frame
    assert frame.origin == pytest.approx((5, 0, 10))
    assert frame.normal == pytest.approx((0, -1, 0))
    assert {"moved_distance", "moved_shift_x", "moved_turn_x"} <= b.part.tags()
    assert "moved_shift_y" not in b.part.tags()
    b.do(do="edit_step", step=step, fields={"more": "as"})
    assert datums(b, step)[0].frame.normal == pytest.approx((0, 0, 1))
    assert "moved_shift_x" not in b.part.tags()


def test_round_faces_their_axes_and_touching_planes() -> None:
    b = block()
    round_face = {"of": "face", "body": "s2", "names": ["s4/side/c2/r1"]}
    topology = evaluated(b).site.bodies["s2"].topology
    boss = next(f for f in topology.faces if f.form == "round")
    round_face["names"] = sorted(boss.names)
    axis = b.step("axis", "Boss axis", how="of_round", first=round_face)
    frame = datums(b, axis)[0].frame
    assert frame.origin[:2] == pytest.approx((20, 12))
    assert abs(frame.x[2]) == pytest.approx(1)
    touch = b.step("plane", "Touch", how="touch_parallel", first=round_face, second={"of": "base", "name": "YZ"})
    assert datums(b, touch)[0].frame.origin[0] == pytest.approx(25)
    b.do(do="edit_step", step=touch, fields={"answer": 1})
    assert datums(b, touch)[0].frame.origin[0] == pytest.approx(15)
    b.do(do="set_formula", tag="boss_outline_diameter", formula="14 mm")
    assert datums(b, touch)[0].frame.origin[0] == pytest.approx(13)
    near = b.step("point", "Near", how="nearest_face", first=round_face, second={"of": "base", "name": "origin"})
    place = datums(b, near)[0].frame.origin
    assert math.hypot(place[0] - 20, place[1] - 12) == pytest.approx(7)
    assert place[2] == pytest.approx(10)


def test_points_along_edges_spots_and_sketch_geometry() -> None:
    b = block()
    rim = edge(b, 20, 0, 10)
    spread = b.step("point", "Row", how="spread", count={"formula": "5"}, first=rim)
    assert [d.frame.origin[0] for d in datums(b, spread)] == pytest.approx([0, 10, 20, 30, 40])
    middle = b.step("point", "Mid", how="at_point", first={"of": "spot", "at": "middle", "edge": rim})
    assert datums(b, middle)[0].frame.origin == pytest.approx((20, 0, 10))
    circle = next(iter(c for c in b.drawing("s3").curves))
    centre = b.step("point", "Centre", how="centre", first={"of": "drawn", "step": "s3", "entity": circle})
    assert datums(b, centre)[0].frame.origin == pytest.approx((20, 12, 10))
    line = next(c for c in b.drawing("s1").curves)
    along = b.step("plane", "Across", how="curve_share", first={"of": "drawn", "step": "s1", "entity": line}, share={"formula": "25 %"})
    assert datums(b, along)[0].frame.origin[0] == pytest.approx(10)
    b.do(do="set_formula", tag="outline_width", formula="80 mm")
    assert datums(b, along)[0].frame.origin[0] == pytest.approx(20)
    assert datums(b, spread)[-1].frame.origin[0] == pytest.approx(80)
    b.do(do="edit_sketch", step="s1", edit={"op": "remove", "entities": [line]})
    assert "was deleted" in evaluated(b).report(along).message


def test_an_axis_where_faces_of_two_bodies_would_meet() -> None:
    b = plate()
    s = b.step("sketch", "Post outline", on=XY)
    b.draw(s, "rectangle", (100, 100), (110, 110))
    post = b.step("extrude", "Post", profile=b.profile(s, 0), depth={"formula": "50 mm"})
    topology = evaluated(b).site.bodies[post].topology
    west = next(i for i, f in enumerate(topology.faces) if f.frame.normal[0] < -0.9)
    step = b.step("axis", "Meeting", how="planes", first=face(b, 20, 12, 10), second=face_ref(post, topology, west).model_dump(mode="json"))
    frame = datums(b, step)[0].frame
    assert (frame.origin[0], frame.origin[2]) == pytest.approx((100, 10))
    assert abs(frame.x[1]) == pytest.approx(1)


def test_a_system_on_a_slope_is_made_active_and_files_follow_it(tmp_path: Any) -> None:
    b = plate()
    slope = b.step("plane", "Slope", how="angle", first=edge(b, 20, 0, 10), second=face(b, 20, 12, 10), angle={"formula": "30 deg"}, answer=1)
    seat = b.step("system", "Seat", how="on_face", first={"of": "datum", "step": slope}, second=edge(b, 20, 0, 10), third=corner(b, 40, 0, 10))
    frame = datums(b, seat)[0].frame
    assert frame.origin == pytest.approx((40, 0, 10))
    assert frame.x == pytest.approx((1, 0, 0))
    with pytest.raises(CommandRefused, match="not a coordinate system"):
        b.do(do="set_active_system", step=slope)
    b.do(do="set_active_system", step=seat)
    assert read_part(write_part(b.part)) == b.part
    evaluation = evaluated(b)
    assert scene(b.part, evaluation, Blobs(set(), {}))["active"]["origin"] == pytest.approx((40, 0, 10))
    content = exchange.export(b.part, evaluation, "stl")


    (count,) = struct.unpack_from("<I", content, 80)
    xs = [struct.unpack_from("<3f", content, 84 + 50 * i + 12 * k)[0] for i in range(count) for k in (1, 2, 3)]
    assert (min(xs), max(xs)) == pytest.approx((-40, 0), abs=1e-4)
    (body,) = evaluation.site.bodies.values()
    assert kernel.volume_of(kernel.seen_from(body.shape, frame)) == pytest.approx(10_000)
    assert kernel.seen_from(body.shape, frame).names != []
    point = b.step("point", "There", how="coordinates", first={"of": "datum", "step": seat}, x={"formula": "-40 mm"})
    assert datums(b, point)[0].frame.origin == pytest.approx((0, 0, 10))
    b.do(do="edit_step", step=slope, fields={"suppressed": True})
    with pytest.raises(CommandRefused, match="“Seat” is not built"):
        exchange.export(b.part, evaluated(b), "stl")
    b.do(do="remove_step", step=point)
    b.do(do="remove_step", step=seat)
    assert b.part.active_system == ""


def test_a_plane_at_a_formula_follows_its_tag() -> None:
    b = plate()
    b.do(do="add_tag", tag="base_height", formula="30 mm")
    step = b.step("plane", "Under", first=XY, distance={"formula": "base_height - 10 mm"})
    assert datums(b, step)[0].frame.origin[2] == pytest.approx(20)
    b.do(do="set_formula", tag="base_height", formula="3 in")
    assert datums(b, step)[0].frame.origin[2] == pytest.approx(66.2)


@pytest.mark.parametrize(("fields", "error", "told"), [
    ({"how": "magic", "first": XY}, StepError, "There is no way “magic”"),
    ({"how": "midway", "first": XY}, StepError, "still needs a plane"),
    ({"first": XY, "copies": {"formula": "0"}}, StepError, "greater than zero"),
    ({"first": XY, "distance": {"formula": "30 deg"}}, Exception, "A length is wanted"),
])
def test_bad_datum_steps_are_refused(fields: dict[str, Any], error: type[Exception], told: str) -> None:
    b = plate()
    before = b.part
    with pytest.raises(error, match=told):
        b.step("plane", "Bad", **fields)
    assert b.part is before


def test_a_choice_among_answers_that_are_gone_is_told() -> None:
    b = plate()
    step = b.step("plane", "Slope", how="angle", first=edge(b, 20, 0, 10), second=face(b, 20, 12, 10), answer=7)
    assert "Answer 8 is not there any more; 2 are left" in evaluated(b).report(step).message


def test_a_thing_that_is_not_what_the_blank_wants_stops_the_step() -> None:
    b = block()
    topology = evaluated(b).site.bodies["s2"].topology
    boss = next(i for i, f in enumerate(topology.faces) if f.form == "round")
    step = b.step("plane", "Odd", first=face_ref("s2", topology, boss).model_dump(mode="json"))
    assert "Wanted here is a plane or a flat face" in evaluated(b).report(step).message


def test_what_the_stage_offers_as_facets_is_what_picks_have() -> None:
    b = block()
    evaluation = evaluated(b)
    topology = evaluation.site.bodies["s2"].topology
    resolver = Resolver(b.part, {})
    for i, f in enumerate(topology.faces):
        picked = resolver._thing(face_ref("s2", topology, i), evaluation.site).found
        assert picked.facets == set(FACE_FACETS[f.form])
    for i, e in enumerate(topology.edges):
        if len(e.faces) == 2:
            picked = resolver._thing(edge_ref("s2", topology, i), evaluation.site).found
            assert picked.facets == {"edge", *EDGE_FACETS[e.form]}


def test_a_lost_face_has_ranked_candidates_and_taking_one_mends_the_step() -> None:
    b = plate()
    gone = b.drawing("s1").curves
    right = next(c for c in gone if min(b.drawing("s1").points[p][0] for p in gone[c].points) > 39)
    mark = b.step("plane", "Mark", first={"of": "face", "body": "s2", "names": [f"s2/side/{right}/r1"],
                                          "beside": ["s2/end/r1", "s2/start/r1"], "near": (40, 12, 5)})
    b.do(do="edit_sketch", step="s1", edit={"op": "remove", "entities": [right]})
    b.draw("s1", "line", (40, 25), (40, 0))
    b.do(do="edit_step", step="s2", fields={"profile": b.profile("s1", 0)})
    (reference,) = evaluated(b).report(mark).references
    assert (reference.state, evaluated(b).report(mark).state) == ("lost", "stopped")
    best = reference.candidates[0]
    assert best.ref["near"][0] == pytest.approx(40)
    assert "made by the same step" in best.words
    b.do(do="edit_step", step=mark, fields={"first": best.ref})
    assert datums(b, mark)[0].frame.origin[0] == pytest.approx(60)


def test_steps_after_a_held_one_build_and_are_marked() -> None:
    b = plate()
    slot = b.step("sketch", "Slot", on=XY)
    b.draw(slot, "rectangle", (18, -5), (22, 30))
    b.step("extrude", "Groove", profile=b.profile(slot, 0), result="cut", bodies=[{"of": "body", "body": "s2"}], depth={"formula": "20 mm"})
    held = b.step("point", "Held", how="centroid", first={"of": "face", "body": "s2", "names": ["s2/end/r1"], "near": (5, 12, 10)})
    after = b.step("point", "After", how="at_point", first={"of": "datum", "step": held})
    reports = evaluated(b)
    assert (reports.report(held).state, reports.report(after).state, reports.report(after).upon) == ("held", "built", "Held")


def test_a_deleted_datum_is_named_by_what_stood_on_it() -> None:
    b = plate()
    first = b.step("plane", "First", first=XY)
    second = b.step("plane", "Second", first={"of": "datum", "step": first})
    b.do(do="remove_step", step=first)
    report = evaluated(b).report(second)
    assert "The datum this stands on was deleted" in report.message
