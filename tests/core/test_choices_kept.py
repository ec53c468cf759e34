"""What was chosen stays chosen while something else changes: legs, seeds, bodies that are joined, holes of a whole sketch."""

from __future__ import annotations

import math
from typing import Any

import pytest

from tests.building import f
from tests.samples import XY, evaluated, plate
from wendal.core import kernel
from wendal.core.reference import edge_ref
from wendal.demo.builder import Builder

PI = math.pi


def volumes(b: Builder) -> dict[str, float]:
    return {x.name: kernel.volume_of(x.shape) for x in evaluated(b).site.bodies.values()}


# ---- A chamfer of two legs ----


def padded(awake: bool, order: str) -> Builder:
    """A plate; beside its right end, flush with the top or with the end, a block is joined that gives its names to a face."""
    b = plate()
    for k in range(8):  # so that the names of the pad come before those of the plate
        b.step("plane", f"Spare {k}", how="offset", first=XY, distance=f("50 mm"))
    sketch = b.step("sketch", "Pad outline", on=XY)
    corners = ((0, 25), (40, 35)) if order == "top" else ((30, 25), (40, 35))
    b.draw(sketch, "rectangle", *corners)
    depth = "10 mm" if order == "top" else "6 mm"
    b.step("extrude", "Pad", profile=b.profile(sketch, 0), depth=f(depth), result="add", suppressed=not awake)
    return b


def bevelled(awake: bool, order: str = "end", side: str = "other") -> Builder:
    """The same with the edge at its end bevelled in two legs."""
    topology = evaluated(padded(False, order)).site.bodies["s2"].topology
    at = next(i for i, e in enumerate(topology.edges) if abs(e.middle[0] - 40) < 1e-9 and abs(e.middle[2] - 10) < 1e-9)
    b = padded(awake, order)
    b.step("chamfer", "Bevel", edges=[edge_ref("s2", topology, at).model_dump(mode="json")], manner="two", leg=f("4 mm"), leg_two=f("1 mm"), side=side)
    return b


@pytest.mark.parametrize("order", ["top", "end"])
@pytest.mark.parametrize("side", ["first", "other"])
def test_the_legs_keep_their_faces_when_one_of_these_gets_more_names(order: str, side: str) -> None:
    def slope(awake: bool) -> float:
        b = bevelled(awake, order, side)
        step = b.part.steps[-1].id
        evaluation = evaluated(b)
        assert evaluation.report(step).state == "built"
        bevel = next(x for x in evaluation.site.bodies["s2"].topology.faces if any(n.startswith(f"{step}/bevel") for n in x.names))
        return abs(bevel.frame.normal[2])

    assert slope(True) == pytest.approx(slope(False), abs=1e-9)
    assert slope(False) in (pytest.approx(4 / math.hypot(4, 1)), pytest.approx(1 / math.hypot(4, 1)))


# ---- A pattern at points ----


def pins(*left_out: int) -> tuple[Builder, str]:
    """A plate with a pin at the first of three points of a sketch, repeated at the others."""
    b = plate("60 mm", "40 mm")
    points = b.step("sketch", "Points", on=XY)
    for x, y in ((10, 10), (40, 8), (50, 25)):
        b.draw(points, "point", (x, y))
    outline = b.step("sketch", "Pin outline", on=XY)
    b.draw(outline, "circle", (10, 10), (12, 10))
    pin = b.step("extrude", "Pin", profile=b.profile(outline, 0), depth=f("20 mm"), result="add")
    step = b.step("pattern", "Pins", seeds=[{"of": "step", "step": pin}], manner="points", at=[{"of": "sketch", "step": points}])
    loose = [p for p in b.drawing(points).points if b.drawing(points).owner(p) is None]
    for k in left_out:
        b.do(do="edit_sketch", step=points, edit={"op": "remove", "entities": [loose[k]]})
    return b, step


def tops(b: Builder) -> set[tuple[float, float]]:
    """Where pins stand: the middles of their upper ends."""
    faces = evaluated(b).site.bodies["s2"].topology.faces
    return {(round(x.centre[0], 6), round(x.centre[1], 6)) for x in faces if x.form == "flat" and abs(x.centre[2] - 20) < 1e-9}


def test_copies_at_points_stand_on_their_own_points() -> None:
    assert tops(pins()[0]) == {(10, 10), (40, 8), (50, 25)}
    assert tops(pins(1)[0]) == {(10, 10), (50, 25)}
    assert tops(pins(2)[0]) == {(10, 10), (40, 8)}


def test_a_seeds_point_that_is_deleted_says_so_and_moves_nothing() -> None:
    b, step = pins(0)
    report = evaluated(b).report(step)
    assert (report.state, report.field) == ("stopped", "start")
    assert "deleted" in report.message


@pytest.mark.parametrize("fields", [
    {"manner": "lines", "along": {"of": "base", "name": "X"}, "spacing": f("10 mm")},
    {"manner": "lines", "along": {"of": "base", "name": "X"}, "step_by": "whole", "span": f("30 mm")},
    {"manner": "ring", "axis": {"of": "base", "name": "Z"}},
    {"manner": "arc", "axis": {"of": "base", "name": "Z"}, "angle": f("30 deg")},
])
def test_a_count_that_comes_to_one_is_one(fields: dict[str, Any]) -> None:
    b = plate()
    hole = b.step("hole", "Bore", where="coordinates", x=f("10 mm"), y=f("10 mm"), diameter=f("4 mm"), side="back")
    before = volumes(b)
    b.do(do="add_tag", tag="n", formula="1")
    step = b.step("pattern", "Row", seeds=[{"of": "step", "step": hole}], count=f("n"), **fields)
    report = evaluated(b).report(step)
    assert report.state == "built"
    assert "no copies" in report.message
    assert volumes(b) == before
    b.do(do="set_formula", tag="n", formula="0")
    assert evaluated(b).report(step).field == "count"


# ---- A body that is joined into another ----


def box(b: Builder, name: str, x0: float, x1: float) -> str:
    sketch = b.step("sketch", f"{name} outline", on=XY)
    b.draw(sketch, "rectangle", (x0, 0), (x1, 20))
    return b.step("extrude", name, profile=b.profile(sketch, 0), depth=f("10 mm"))


def pockets(used: str, count: int = 2, lug: float = 40) -> Builder:
    """A pocket in a lug that was named for it; the lug is joined or used up; then the pocket is repeated."""
    b = Builder("Joined")
    base, lug_id = box(b, "Base", 0, 40), box(b, "Lug", lug, 80)
    box(b, "Stranger", 100, 140)
    sketch = b.step("sketch", "Pocket outline", on=XY)
    b.draw(sketch, "rectangle", (50, 5), (56, 11))
    pocket = b.step("extrude", "Pocket", profile=b.profile(sketch, 0), depth=f("4 mm"), result="cut", bodies=[{"of": "body", "body": lug_id}])
    if used:
        b.step("combine", "Used", manner=used, body={"of": "body", "body": base}, tools=[{"of": "body", "body": lug_id}])
    b.step("pattern", "Row", seeds=[{"of": "step", "step": pocket}], along={"of": "base", "name": "X"}, count=f(str(count)), spacing=f("15 mm"))
    return b


def test_copies_of_a_cut_go_to_the_body_that_took_its_body_in() -> None:
    assert volumes(pockets("")) == pytest.approx({"Base": 8000, "Lug": 8000 - 2 * 144, "Stranger": 8000})
    assert volumes(pockets("join")) == pytest.approx({"Base": 16000 - 2 * 144, "Stranger": 8000})


def test_copies_of_a_cut_never_go_to_a_body_that_nobody_named() -> None:
    b = pockets("join", count=5)  # the fifth would reach the stranger
    assert evaluated(b).reports[-1].state == "stopped"
    assert volumes(b)["Stranger"] == pytest.approx(8000)


def test_copies_of_a_cut_stop_where_its_body_was_used_up() -> None:
    b = pockets("take", lug=38)
    assert evaluated(b).reports[-1].state == "stopped"
    assert "not there any more" in evaluated(b).reports[-1].message
    assert volumes(b)["Stranger"] == pytest.approx(8000)


# ---- A whole sketch ----


def test_what_lies_inside_an_outline_of_a_whole_sketch_is_a_hole() -> None:
    b = Builder("Nested")
    sketch = b.step("sketch", "Outlines", on=XY)
    b.draw(sketch, "rectangle", (0, 0), (60, 40))
    b.draw(sketch, "circle", (20, 20), (30, 20))
    b.draw(sketch, "circle", (20, 20), (24, 20))  # filled again in the hole
    b.draw(sketch, "circle", (100, 20), (105, 20))
    b.step("extrude", "Plate", profile=[{"of": "sketch", "step": sketch}], depth=f("10 mm"))
    assert sum(volumes(b).values()) == pytest.approx(10 * (2400 - PI * 100 + PI * 16 + PI * 25))


# ---- A region and the outlines inside it ----


def ringed(x: float, more: bool = False) -> Builder:
    """A rectangle of 60 x 40 with a circle of 10 at x, 20, and another one at 45, 10."""
    b = Builder("Region")
    sketch = b.step("sketch", "Outlines", on=XY)
    b.draw(sketch, "rectangle", (0, 0), (60, 40))
    b.draw(sketch, "circle", (x, 20), (x + 5, 20))
    if more:
        b.draw(sketch, "circle", (45, 10), (48, 10))
    return b


@pytest.mark.parametrize(("x", "more", "state", "told"), [
    (20, False, "built", ""), (30, False, "built", ""), (80, False, "held", "1 outline inside it left it"),
    (20, True, "held", "1 outline inside it came into it"), (80, True, "held", "left it and 1 outline inside it came into it"),
])
def test_a_region_is_sound_only_with_the_outlines_that_were_inside_it(x: float, more: bool, state: str, told: str) -> None:
    picked = ringed(20).profile("s1", 0)
    b = ringed(x, more)
    step = b.step("extrude", "Plate", profile=picked, depth=f("10 mm"))
    report = evaluated(b).report(step)
    assert report.state == state
    assert told in report.message
    if state == "held":  # confirming holds
        now = report.references[0].now
        b.do(do="edit_step", step=step, fields={"profile": [now]})
        assert evaluated(b).report(step).state == "built"
