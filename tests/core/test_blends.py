"""Fillets and chamfers against formulas, before and after a change; failures that name the edge and how far one could go."""

from __future__ import annotations

import math
import re
from itertools import pairwise
from pathlib import Path
from typing import Any

import pytest

from tests.building import BODY, PI, PLATE, TOP, axis, built, drawn_on, f, of_step, on_top, side, volume
from tests.samples import evaluated, plate
from wendal.core import kernel
from wendal.core.reference import edge_ref
from wendal.core.route import Memory, evaluate, read_part
from wendal.demo.builder import Builder

NOTCH = 1 - PI / 4  # what a fillet of radius 1 takes from a square edge, per mm
SIDES = {"low": "c3", "right": "c6", "high": "c9", "left": "c12"}


DATA = Path(__file__).parent.parent / "data"


def edge(*faces: str) -> dict[str, Any]:
    """An edge of the plate by the faces that meet: sides by name, start, end."""
    names = [f"s2/side/{SIDES[x]}/r1" if x in SIDES else f"s2/{x}/r1" for x in faces]
    return {"of": "edge", "body": "s2", "faces": [[n] for n in names]}


def ball(r: float) -> float:
    """What rounding all three edges of a corner takes beyond the three edges' own fillets, shortened by r each."""
    return r**3 - PI * r**3 / 6


def rounded(**fields: Any) -> Builder:
    b = plate()
    b.step("fillet", "Rounds", **fields)
    return b


FILLETS = {
    "one": ({"edges": [edge("low", "end")], "radius": f("3 mm")}, 9 * NOTCH * 40),
    "upright": ({"edges": [edge("low", "left"), edge("right", "high")]}, 2 * 9 * NOTCH * 10),
    # Mitred at its sharp corners: the rectangle at each height is smaller by s all round, s = 2 - sqrt(4 - z^2).
    "face": ({"edges": [TOP], "radius": f("2 mm")}, 2 * (40 + 25) * 4 * NOTCH - 4 * (16 - 4 * PI - 8 / 3)),
    "two": ({"edges": [edge("low", "end")], "radius": f("2 mm"), "second": "more", "edges_two": [edge("high", "end")], "radius_two": f("4 mm")}, (4 + 16) * NOTCH * 40),
}


@pytest.mark.parametrize("case", FILLETS)
def test_fillets(case: str) -> None:
    fields, taken = FILLETS[case]
    assert volume(rounded(**fields)) == pytest.approx(PLATE - taken, rel=1e-9)


def test_three_edges_of_a_corner_close_in_a_ball() -> None:
    b = rounded(edges=[edge("low", "end"), edge("left", "end"), edge("low", "left")], radius=f("3 mm"))
    assert volume(b) == pytest.approx(PLATE - 9 * NOTCH * (37 + 22 + 7) - ball(3), rel=1e-9)
    names = {n for x in built(b).site.bodies["s2"].topology.faces for n in x.names}
    assert sum("/round/" in n for n in names) == 3
    assert sum("/corner/" in n for n in names) == 1


def test_an_inner_edge_is_filled() -> None:
    b = plate()
    step = b.step("extrude", "Boss", profile=on_top(b, "circle", (20, 12), (25, 12)), depth=f("6 mm"), result="add", bodies=[BODY])
    boss = next(n for x in built(b).site.bodies["s2"].topology.faces for n in x.names if n.startswith(f"{step}/side/"))
    before = volume(b)
    b.step("fillet", "Foot", edges=[{"of": "edge", "body": "s2", "faces": [["s2/end/r1"], [boss]]}], radius=f("2 mm"))
    # A square ring of side 2 round the boss, less the quarter torus, by Pappus.
    filled = 2 * PI * (5 + 1) * 4 - PI * 4 / 4 * 2 * PI * (7 - 4 * 2 / (3 * PI))
    assert volume(b) - before == pytest.approx(filled, rel=1e-9)


def test_a_fillet_runs_along_what_goes_on_smoothly_and_follows_changes() -> None:
    b = rounded(edges=[edge("low", "left"), edge("low", "right"), edge("high", "left"), edge("high", "right")], radius=f("5 mm"))
    top = b.step("fillet", "Rim", edges=[edge("low", "end")], radius=f("2 mm"))
    report = built(b).report(top)
    assert report.message == "Goes on along 7 more edges that follow smoothly."
    straight = 4 * NOTCH * (2 * 30 + 2 * 15)
    # Round the corners: the square of side 2 less the quarter disc, turned about the corner's axis, by Pappus.
    bend = 4 * 2 * PI * (5 - 1) - PI * 2 * PI * (3 + 4 * 2 / (3 * PI))
    corners = 25 * 4 * NOTCH
    assert volume(b) == pytest.approx((1000 - corners) * 10 - straight - bend, rel=1e-9)
    b.do(do="set_formula", tag="outline_width", formula="50 mm")
    assert volume(b) == pytest.approx((1250 - corners) * 10 - straight - 4 * NOTCH * 20 - bend, rel=1e-9)
    assert [r.state for r in built(b).report(top).references] == ["sound"]


CHAMFERS = {
    "equal": ({"leg": f("2 mm")}, 2 * 2 / 2 * 40), "two": ({"manner": "two", "leg": f("2 mm"), "leg_two": f("3 mm")}, 2 * 3 / 2 * 40),
    "angle": ({"manner": "angle", "leg": f("2 mm"), "angle": f("30 deg")}, 2 * 2 * math.tan(math.radians(30)) / 2 * 40),
}


@pytest.mark.parametrize("case", CHAMFERS)
def test_chamfers(case: str) -> None:
    fields, taken = CHAMFERS[case]
    b = plate()
    step = b.step("chamfer", "Bevel", edges=[edge("low", "end")], **fields)
    assert volume(b) == pytest.approx(PLATE - taken, rel=1e-9)
    if case == "two":
        low = [next(x.area for x in built(b).site.bodies["s2"].topology.faces if x.names == {"s2/end/r1"})]
        b.do(do="edit_step", step=step, fields={"side": "other"})
        assert volume(b) == pytest.approx(PLATE - taken, rel=1e-9)
        low.append(next(x.area for x in built(b).site.bodies["s2"].topology.faces if x.names == {"s2/end/r1"}))
        assert sorted(low) == pytest.approx([40 * 22, 40 * 23])  # the legs change sides
    b.do(do="edit_step", step=step, fields={"leg": f("1 mm")})
    assert volume(b) > PLATE - taken


@pytest.mark.parametrize("face", ["end", "start", "low", "right"])
def test_a_picked_face_carries_the_first_leg_of_its_chamfers_whatever_its_name(face: str) -> None:
    b = plate()
    name = f"s2/side/{SIDES[face]}/r1" if face in SIDES else f"s2/{face}/r1"
    size = {"end": (40, 25), "start": (40, 25), "low": (40, 10), "right": (25, 10)}[face]
    b.step("chamfer", "Bevel", edges=[{"of": "face", "body": "s2", "names": [name]}], manner="two", leg=f("2 mm"), leg_two=f("1 mm"))
    left = next(x.area for x in built(b).site.bodies["s2"].topology.faces if x.names == {name})
    assert left == pytest.approx((size[0] - 4) * (size[1] - 4))


def post(b: Builder) -> tuple[str, str, str]:
    """A round post on a plate of 40 x 25, with a fillet at its foot and a chamfer at its top."""
    boss = b.step("extrude", "Post", profile=on_top(b, "circle", (6, 12), (9, 12)), depth=f("8 mm"), result="add", bodies=[BODY])
    wall = next(n for x in built(b).site.bodies["s2"].topology.faces for n in x.names if n.startswith(f"{boss}/side"))
    foot = b.step("fillet", "Foot", edges=[{"of": "edge", "body": "s2", "faces": [[wall], ["s2/end/r1"]]}], radius=f("1 mm"))
    top = b.step("chamfer", "Top", edges=[{"of": "edge", "body": "s2", "faces": [[wall], [f"{boss}/end/r1"]]}], leg=f("0.5 mm"))
    return boss, foot, top


@pytest.mark.parametrize("how", ["pattern", "mirror"])
def test_a_seed_is_repeated_with_its_fillet_and_chamfer(how: str) -> None:
    b = plate()
    seeds = [of_step(s) for s in reversed(post(b))]  # in any order
    one = volume(b) - PLATE
    if how == "pattern":
        step = b.step("pattern", "Posts", seeds=seeds, along=axis("X"), count=f("4"), spacing=f("9 mm"))
    else:
        step = b.step("mirror", "Other", seeds=seeds, about={"of": "datum", "step": b.step("plane", "Mid", how="offset", first=axis("YZ"), distance=f("20 mm"))})
    count = 4 if how == "pattern" else 2
    assert volume(b) == pytest.approx(PLATE + count * one, rel=1e-9)
    names = [n for x in built(b).site.bodies["s2"].topology.faces for n in x.names]
    for word in ("/round/", "/bevel/"):
        assert len({n for n in names if word in n}) == count
    b.do(do="set_formula", tag="foot_radius", formula="1.5 mm")
    b.do(do="set_formula", tag="post_depth", formula="10 mm")
    changed = volume(b)
    b.do(do="remove_step", step=step)
    assert changed == pytest.approx(PLATE + count * (volume(b) - PLATE), rel=1e-9)


def test_a_rounded_pocket_and_a_body_of_its_own_are_repeated() -> None:
    b = plate()
    pocket = b.step("extrude", "Pocket", profile=on_top(b, "rectangle", (3, 3), (9, 11)), extent="into", depth=f("5 mm"), result="cut", bodies=[BODY])
    floor = {"of": "face", "body": "s2", "names": [f"{pocket}/end/r1"]}
    corner = b.step("fillet", "Round", edges=[floor], radius=f("1 mm"))
    one = PLATE - volume(b)
    b.step("pattern", "Pockets", seeds=[of_step(pocket), of_step(corner)], along=axis("X"), count=f("4"), spacing=f("9 mm"))
    assert volume(b) == pytest.approx(PLATE - 4 * one, rel=1e-9)
    b = plate()
    cube = b.step("extrude", "Cube", profile=on_top(b, "rectangle", (3, 3), (8, 8)), depth=f("5 mm"))
    ends = {"of": "face", "body": cube, "names": [f"{cube}/end/r1"]}
    soft = b.step("fillet", "Soft", edges=[ends], radius=f("1 mm"))
    one = volume(b) - PLATE
    b.step("pattern", "Cubes", seeds=[of_step(cube), of_step(soft)], along=axis("X"), count=f("3"), spacing=f("9 mm"))
    assert volume(b) == pytest.approx(PLATE + 3 * one, rel=1e-9)
    assert len(built(b).site.bodies) == 4


def test_a_body_of_its_own_is_repeated_with_all_that_was_done_to_it() -> None:
    b = plate()
    cube = b.step("extrude", "Cube", profile=on_top(b, "rectangle", (3, 3), (8, 8)), depth=f("5 mm"))
    lid = {"of": "face", "body": cube, "names": [f"{cube}/end/r1"]}
    own = [{"of": "body", "body": cube}]
    knob = b.step("extrude", "Knob", profile=b.profile(drawn_on(b, lid, "circle", (5.5, 5.5), (6.5, 5.5)), 0), depth=f("2 mm"), result="add", bodies=own)
    soft = b.step("fillet", "Soft", edges=[{"of": "face", "body": cube, "names": [f"{cube}/start/r1"]}], radius=f("1 mm"))
    bore = b.step("hole", "Bore", where="coordinates", x=f("5.5 mm"), y=f("5.5 mm"), side="back", diameter=f("1 mm"), bodies=own)
    one = volume(b) - PLATE
    b.step("pattern", "Cubes", seeds=[of_step(s) for s in (cube, knob, soft, bore)], along=axis("X"), count=f("3"), spacing=f("9 mm"))
    assert volume(b) == pytest.approx(PLATE + 3 * one, rel=1e-9)
    assert len(built(b).site.bodies) == 4


def test_a_group_with_a_fillet_made_anew_is_the_same_where_nothing_else_is() -> None:
    b = plate()
    seeds = [of_step(s) for s in post(b)]
    step = b.step("pattern", "Posts", seeds=seeds, along=axis("X"), count=f("3"), spacing=f("9 mm"))
    found = []
    for copying in ("exact", "anew"):
        b.do(do="edit_step", step=step, fields={"copying": copying})
        found.append((volume(b), sorted(n for x in built(b).site.bodies["s2"].topology.faces for n in x.names)))
    assert found[0][0] == pytest.approx(found[1][0], rel=1e-9)
    assert found[0][1] == found[1][1]  # references to copies survive the choice
    b.do(do="edit_step", step=step, fields={"copying": "anew", "seeds": seeds[1:2]})
    assert evaluated(b).report(step).message.startswith("Copy 2 can not be made in its place: the edge wanted near")  # a fillet alone: none of its steps makes the edge
    b.do(do="edit_step", step=step, fields={"copying": "exact", "seeds": seeds[1:2], "spacing": f("60 mm")})
    assert evaluated(b).report(step).state == "stopped"  # a fillet alone, where there is nothing to round


def test_a_group_made_anew_tells_a_copy_that_misses_and_carries_its_threads() -> None:
    b = plate()
    boss, foot, _ = post(b)
    bore = b.step("hole", "Bore", where="coordinates", x=f("6 mm"), y=f("18 mm"), side="back", sizing="tapped", thread="M3", bodies=[BODY])
    seeds = [of_step(s) for s in (boss, bore, foot)]
    b.do(do="move_step", step=bore, after=boss)
    step = b.step("pattern", "Posts", seeds=seeds, along=axis("X"), count=f("3"), spacing=f("9 mm"), copying="anew")
    threads = built(b).site.threads
    assert len(threads[step]) == 2 * len(threads[bore]) > 0
    b.do(do="edit_step", step=bore, fields={"x": f("12 mm"), "y": f("22 mm")})
    b.do(do="edit_step", step=step, fields={"spacing": f("16 mm")})
    assert "Copy 3 changes nothing there" in evaluated(b).report(step).message  # its bore lies beside the plate


def test_a_rounded_post_made_anew_is_rounded_over_its_own_height() -> None:
    """Posts up to a slope, their upright edges rounded: what a copy is rounded over is its own height."""
    b = plate()
    slope = {"of": "datum", "step": b.step("plane", "Slope", how="points", first={"of": "base", "name": "origin"},
                                           second={"of": "vertex", "body": "s2", "faces": [["s2/start/r1"], ["s2/side/c3/r1"], ["s2/side/c6/r1"]]},
                                           third={"of": "vertex", "body": "s2", "faces": [["s2/start/r1"], ["s2/side/c9/r1"], ["s2/side/c12/r1"]]},
                                           more="moved", shift_z=f("40 mm"), turn_y=f("-20 deg"))}
    post = b.step("extrude", "Post", profile=on_top(b, "rectangle", (2, 5), (6, 9)), extent="until", until=[slope], result="add", bodies=[BODY])
    height = (volume(b) - PLATE) / 16
    sides = sorted({n for x in built(b).site.bodies["s2"].topology.faces for n in x.names if n.startswith(f"{post}/side/")})
    upright = [{"of": "edge", "body": "s2", "faces": [[one], [other]]} for one, other in zip(sides, sides[1:] + sides[:1], strict=True)]
    soft = b.step("fillet", "Soft", edges=upright, radius=f("1 mm"))
    area = 16 - (4 - PI)
    assert volume(b) == pytest.approx(PLATE + area * height)
    posts = b.step("pattern", "Posts", seeds=[of_step(post), of_step(soft)], along=axis("X"), count=f("3"), spacing=f("10 mm"), copying="anew")
    rise = 10 * math.tan(math.radians(20))
    higher = volume(b) > PLATE + 3 * area * height
    sense = 1 if higher else -1
    assert volume(b) == pytest.approx(PLATE + area * (3 * height + sense * 3 * rise))
    b.do(do="set_formula", tag="soft_radius", formula="1.5 mm")
    b.do(do="set_formula", tag="posts_count", formula="2")
    area = 16 - (4 - PI) * 2.25
    assert volume(b) == pytest.approx(PLATE + area * (2 * height + sense * rise))
    draft = b.step("draft", "Lean", faces=[{"of": "face", "body": "s2", "names": [sides[0]]}], plane={"of": "face", "body": "s2", "names": ["s2/end/r1"]})
    b.do(do="move_step", step=draft, after=post)
    b.do(do="edit_step", step=posts, fields={"seeds": [of_step(s) for s in (post, draft, soft)]})
    assert "is not made anew" in evaluated(b).report(posts).message


@pytest.mark.parametrize(("kind", "fields", "told"), [
    ("fillet", {"edges": [edge("low", "end")], "radius": f("11 mm")},
     r"A radius of 11 mm does not fit at the edge near X 20\.000 Y 0\.000 Z 10\.000; there it works up to about 9\.[789]"),
    ("fillet", {"edges": [edge("low", "end"), edge("low", "start")], "radius": f("6 mm")}, r"works alone, but together .* up to about 4\.9"),
    ("chamfer", {"edges": [edge("low", "end")], "leg": f("26 mm")}, r"A chamfer of 26 mm does not fit at the edge near .* up to about 9\.[789]"),
    ("fillet", {"edges": [edge("low", "end")], "radius": f("2 mm"), "second": "more", "edges_two": [edge("low", "end")]}, "picked for both sizes"),
])
def test_what_does_not_fit_names_the_edge_and_how_far_one_could_go(kind: str, fields: dict[str, Any], told: str) -> None:
    b = plate()
    step = b.step(kind, "Blend", **fields)
    report = evaluated(b).report(step)
    assert report.state == "stopped"
    assert re.search(told, report.message), report.message


def test_two_sizes_along_one_smooth_chain_are_refused() -> None:
    b = rounded(edges=[edge("low", "left"), edge("low", "right"), edge("high", "left"), edge("high", "right")], radius=f("5 mm"))
    step = b.step("fillet", "Rim", edges=[edge("low", "end")], radius=f("2 mm"), second="more", edges_two=[edge("high", "end")], radius_two=f("3 mm"))
    assert "goes on smoothly from one that has another size" in evaluated(b).report(step).message


def test_what_stands_on_a_fillet_is_found_again() -> None:
    b = rounded(edges=[edge("low", "end")], radius=f("3 mm"))
    name = next(n for x in built(b).site.bodies["s2"].topology.faces for n in x.names if "/round/" in n)
    axis = b.step("axis", "Along the round", how="of_round", first={"of": "face", "body": "s2", "names": [name]})
    b.do(do="set_formula", tag="rounds_radius", formula="4 mm")
    evaluation = built(b)
    assert [r.state for r in evaluation.report(axis).references] == ["sound"]
    assert evaluation.site.datums[axis][0].frame.origin[1:] == pytest.approx((4, 6))
    assert kernel.mass_of(evaluation.site.bodies["s2"].shape).volume == pytest.approx(PLATE - 16 * NOTCH * 40, rel=1e-9)


@pytest.mark.parametrize(("fields", "places"), [
    ({"varying": "ends", "radius_end": f("6 mm")}, [(0, 2), (1, 6)]),
    ({"varying": "middle", "middle": f("6 mm"), "share": f("25 %"), "radius_end": f("3 mm")}, [(0, 2), (0.25, 6), (1, 3)]),
])
def test_a_radius_that_changes_along_its_edge(fields: dict[str, Any], places: list[tuple[float, float]]) -> None:
    """Straight between the given places: a quarter of pi under 1 times the integral of the radius squared."""
    b = rounded(edges=[edge("low", "end")], radius=f("2 mm"), **fields)
    taken = sum((v - u) * 40 * (a * a + a * c + c * c) / 3 for (u, a), (v, c) in pairwise(places)) * (1 - PI / 4)
    assert volume(b) == pytest.approx(PLATE - taken, rel=2e-4 if len(places) > 2 else 5e-6)
    ends = {}
    for sense in ("along", "back"):
        b.do(do="edit_step", step=b.part.steps[-1].id, fields={"sense": sense})
        top = next(x for x in built(b).site.bodies["s2"].topology.faces if "s2/end/r1" in x.names)
        ends[sense] = top.centre[0]
    assert (ends["along"] - 20) * (ends["back"] - 20) < 0, "the other end is the other way round"


def test_three_groups_of_radii() -> None:
    b = rounded(edges=[edge("low", "left")], radius=f("2 mm"), second="more", edges_two=[edge("low", "right")], radius_two=f("3 mm"), third="more",
                edges_three=[edge("high", "left"), edge("high", "right")], radius_three=f("5 mm"))
    assert volume(b) == pytest.approx(PLATE - (1 - PI / 4) * 10 * (4 + 9 + 25 + 25), rel=1e-9)


@pytest.mark.parametrize("kind", ["fillet", "chamfer"])
def test_along_the_picked_edges_only(kind: str) -> None:
    b = plate()
    b.step("fillet", "Corners", edges=[edge(x, y) for x in ("low", "high") for y in ("left", "right")], radius=f("5 mm"))
    step = b.step(kind, "Rim", edges=[edge("low", "end")], run="only", **({"radius": f("2 mm")} if kind == "fillet" else {"leg": f("2 mm")}))
    corners = (4 - PI) * 25 * 10
    share = (1 - PI / 4) * 4 if kind == "fillet" else 2
    assert volume(b) == pytest.approx(PLATE - corners - share * 30, rel=1e-9)
    b.do(do="edit_step", step=step, fields={"run": ""})
    assert volume(b) < PLATE - corners - share * 100
    assert "more edges" in built(b).report(step).message


def test_a_face_is_rounded_fully() -> None:
    b = plate()
    sides = {"face": TOP, "one": side("c3"), "other": side("c9")}
    step = b.step("full_round", "Ridge", **sides)
    assert evaluated(b).report(step).state == "stopped"  # 25 wide and only 10 high: the circle would reach under the plate
    b.do(do="set_formula", tag="base_depth", formula="20 mm")
    assert volume(b) == pytest.approx(40 * (25 * 7.5 + PI * 12.5**2 / 2), rel=1e-9)
    assert built(b).report(step).message == "The radius comes to 12.5 mm."
    assert any("s2/end/r1" in x.names and x.form == "round" for x in built(b).site.bodies["s2"].topology.faces)
    b.do(do="set_formula", tag="base_depth", formula="30 mm")
    assert volume(b) == pytest.approx(40 * (25 * 17.5 + PI * 12.5**2 / 2), rel=1e-9)
    b.do(do="edit_step", step=step, fields={"other": side("c6")})
    assert "do not run along one direction" in evaluated(b).report(step).message


def test_all_edges_between_two_sets_of_faces() -> None:
    b = rounded(which="between", faces=[TOP], faces_two=[side("c3"), side("c9")], radius=f("2 mm"))
    assert volume(b) == pytest.approx(PLATE - 2 * (4 - PI) * 40, rel=1e-9)
    step = b.part.steps[-1].id
    b.do(do="edit_step", step=step, fields={"faces_two": [{"of": "face", "body": "s2", "names": ["s2/start/r1"]}]})
    assert "No edge lies between these faces" in evaluated(b).report(step).message


def test_an_edge_that_was_split_is_taken_with_all_its_pieces() -> None:
    """A notch through the edge leaves two pieces, and both are rounded; an edge that was one of two like it stays one."""
    b = plate()
    body = built(b).site.bodies["s2"]
    i = next(k for k, e in enumerate(body.topology.edges) if {n for f in e.faces for n in body.topology.faces[f].names} == {"s2/end/r1", f"s2/side/{SIDES['low']}/r1"})
    ref = edge_ref("s2", body.topology, i)
    assert ref.alone
    step = b.step("fillet", "Round", edges=[ref.model_dump(mode="json")], radius=f("2 mm"))
    notch = b.step("extrude", "Notch", profile=on_top(b, "rectangle", (15, -3), (21, 4)), extent="into", depth=f("5 mm"), result="cut", bodies=[BODY])
    sketch = b.part.steps[-2].id
    b.do(do="move_step", step=sketch, after="s2")
    b.do(do="move_step", step=notch, after=sketch)
    assert volume(b) == pytest.approx(PLATE - 6 * 4 * 5 - (4 - PI) * 34, rel=1e-9)
    assert [r.state for r in built(b).report(step).references] == ["sound"]
    b.do(do="edit_step", step=step, fields={"edges": [{**ref.model_dump(mode="json"), "whole": False}]})
    assert evaluated(b).report(step).state == "held"


def test_where_one_edge_has_gone_the_others_are_rounded_and_the_step_is_held() -> None:
    b = plate()
    post(b)
    foot = next(s for s in b.part.steps if s.name == "Foot")
    lost = foot.edges[0].model_dump(mode="json")  # type: ignore[attr-defined]
    b.do(do="edit_step", step=foot.id, fields={"edges": [lost, edge("low", "end")]})
    b.do(do="edit_step", step=next(s.id for s in b.part.steps if s.name == "Post"), fields={"suppressed": True})
    report = evaluated(b).report(foot.id)
    assert (report.state, [r.state for r in report.references]) == ("held", ["lost", "sound"])
    assert report.message.startswith("Built without what was lost: ")
    assert kernel.volume_of(evaluated(b).site.bodies["s2"].shape) == pytest.approx(PLATE - (1 - PI / 4) * 40, rel=1e-9)
    b.do(do="edit_step", step=foot.id, fields={"edges": [lost]})
    assert evaluated(b).report(foot.id).state == "stopped"  # nothing is left of it
    assert evaluated(b).report("s2").state == "built"


def test_a_blend_whose_corners_the_kernel_knows_only_badly_is_refused() -> None:
    """A corner of this blend is known to 1.8 mm: valid to the kernel, but its file and its triangles are of another shape."""
    part = read_part((DATA / "loose_blend.json").read_text())
    told = {r.id: r.message for r in evaluate(part, Memory()).reports if r.state == "stopped"}
    assert list(told) == ["s8", "s9"]
    assert "A radius of 0.43 mm does not fit" in told["s8"]
