"""Lofts against formulas, before and after a change, and what is refused."""

from __future__ import annotations

import math

import pytest

from tests.building import BODY, PI, PLATE, TOP, axis, built, datum, drawn_on, f, offset_plane, volume
from tests.samples import evaluated, plate
from wendal.demo.builder import Builder

XY = axis("XY")


def through(*sizes: float, shape: str = "rectangle", apart: float = 20, manner: str = "ruled", other: str = "") -> tuple[Builder, str]:
    """Squares (or circles) of sizes over each other, lofted."""
    b = Builder("Lofted")
    profile = []
    for i, size in enumerate(sizes):
        plane = XY if not i else datum(offset_plane(XY, f"{apart * i} mm")(b))
        kind = other if other and i else shape
        h = size / 2
        sketch = drawn_on(b, plane, kind, *(((-h, -h), (h, h)) if kind == "rectangle" else ((0, 0), (h, 0))))
        profile += [{**p, "key": f"r{i + 1}"} for p in b.profile(sketch, 0)]
    return b, b.step("loft", "Lofted", profile=profile, manner=manner)


def frustum(a: float, b: float, h: float) -> float:
    return h / 3 * (a * a + a * b + b * b)


@pytest.mark.parametrize("manner", ["smooth", "ruled"])
def test_two_sections(manner: str) -> None:
    b, step = through(20, 10, manner=manner)
    assert volume(b) == pytest.approx(frustum(20, 10, 20), rel=1e-9)
    names = {n for x in built(b).site.bodies[step].topology.faces for n in x.names}
    assert len(names) == 6
    tag = next(r.tag for r in b.part.rows() if r.tag.endswith("distance"))
    b.do(do="set_formula", tag=tag, formula="30 mm")
    assert volume(b) == pytest.approx(frustum(20, 10, 30), rel=1e-9)


def test_circles_and_three_sections() -> None:
    b, _ = through(20, 10, shape="circle")
    assert volume(b) == pytest.approx(PI / 4 * frustum(20, 10, 20), rel=1e-6)
    b, step = through(20, 10, 14)
    assert volume(b) == pytest.approx(frustum(20, 10, 20) + frustum(10, 14, 20), rel=1e-9)
    names = {n for x in built(b).site.bodies[step].topology.faces for n in x.names}
    assert len(names) == 2 * 4 + 2
    b.do(do="edit_step", step=step, fields={"manner": "smooth"})
    assert volume(b) > 0


def test_what_is_refused() -> None:
    b, step = through(20, 10, other="circle")
    assert "different numbers of sides (4, 1)" in evaluated(b).report(step).message
    b, step = through(20)
    assert "One region is not enough" in evaluated(b).report(step).message


def test_a_section_on_a_tilted_plane_is_matched_corner_to_corner() -> None:
    b = Builder("Tilted")
    low = drawn_on(b, XY, "rectangle", (-5, -5), (5, 5))
    plane = b.step("plane", "Tilted", how="offset", first=XY, distance=f("20 mm"), more="moved", turn_x=f("180 deg"))
    high = drawn_on(b, datum(plane), "rectangle", (-5, -5), (5, 5))  # looks the other way: run the other way round, it is a straight block
    profile = [{**p, "key": f"r{i}"} for i, s in enumerate((low, high), 1) for p in b.profile(s, 0)]
    b.step("loft", "Block", profile=profile, manner="ruled")
    assert volume(b) == pytest.approx(100 * 20, rel=1e-9)
    assert math.isfinite(volume(b))


def pyramid(manner: str = "ruled", **fields: object) -> tuple[Builder, str]:
    b, step = through(20, manner=manner)
    tip = b.step("point", "Tip", how="coordinates", x=f("0 mm"), y=f("0 mm"), z=f("30 mm"))
    b.do(do="move_step", step=tip)
    b.do(do="edit_step", step=step, fields={"finish": "point", "end": datum(tip), **fields})
    return b, step


def test_it_ends_at_a_point() -> None:
    b, step = pyramid()
    assert volume(b) == pytest.approx(400 * 30 / 3, rel=1e-9)
    assert len({n for x in built(b).site.bodies[step].topology.faces for n in x.names}) == 5
    b.do(do="set_formula", tag="tip_z", formula="15 mm")
    assert volume(b) == pytest.approx(400 * 15 / 3, rel=1e-9)
    tip = next(s.id for s in b.part.steps if s.name == "Tip")
    b.do(do="edit_step", step=step, fields={"finish": "", "end": None, "begin": "point", "start": datum(tip)})
    assert volume(b) == pytest.approx(400 * 15 / 3, rel=1e-9)


def test_holes_go_on_and_square_ends() -> None:
    b = Builder("Hollow")
    profile = []
    for i, (size, r) in enumerate(((20, 4), (30, 6))):
        sketch = drawn_on(b, XY if not i else datum(offset_plane(XY, "20 mm")(b)), "rectangle", (-size / 2, -size / 2), (size / 2, size / 2))
        b.draw(sketch, "circle", (0, 0), (r, 0))
        at = max(range(len(b.regions(sketch))), key=lambda k, s=sketch: b.regions(s)[k].area)  # type: ignore[misc]
        profile += [{**p, "key": f"r{i + 1}"} for p in b.profile(sketch, at)]
    b.step("loft", "Hollow", profile=profile, manner="ruled")
    assert volume(b) == pytest.approx(frustum(20, 30, 20) - PI * frustum(4, 6, 20), rel=1e-6)
    b, step = through(20, 10, manner="smooth")
    b.do(do="edit_step", step=step, fields={"square": "square"})
    narrow = volume(b)
    assert frustum(20, 10, 20) * 0.9 < narrow < frustum(20, 10, 20) * 1.15
    sides = [x for x in built(b).site.bodies[step].topology.faces if any("/side/" in n for n in x.names)]
    assert all(x.form != "flat" for x in sides)


def test_a_ring_through_four_regions() -> None:
    b = Builder("Ring")
    profile = []
    for i, (plane, x) in enumerate((("ZX", 20), ("YZ", 20), ("ZX", -20), ("YZ", -20))):
        sketch = drawn_on(b, axis(plane), "rectangle", (x - 2, -3), (x + 2, 3))
        profile += [{**p, "key": f"r{i + 1}"} for p in b.profile(sketch, 0)]
    step = b.step("loft", "Ring", profile=profile, manner="ruled", ring="ring")
    # A square frame set on its corner: sections 4 wide across the corners, 6 high.
    assert volume(b) == pytest.approx(2 * (22**2 - 18**2) * 6, rel=1e-9)
    assert len({n for x in built(b).site.bodies[step].topology.faces for n in x.names}) == 16
    b.do(do="edit_step", step=step, fields={"profile": profile[:2]})
    assert "three or more regions" in evaluated(b).report(step).message


def test_corners_are_chosen_where_it_is_not_clear_and_stay() -> None:
    """A square over one that is turned by an eighth: both ways round are alike."""
    b = Builder("Turned")
    low = drawn_on(b, XY, "rectangle", (-10, -10), (10, 10))
    high = b.step("sketch", "High", on=datum(offset_plane(XY, "20 mm")(b)))
    b.do(do="edit_sketch", step=high, edit={"op": "draw", "shape": "polygon", "ends": [{"at": [0, 0]}, {"at": [10, 0]}], "sides": 4})
    profile = [{**b.profile(low, 0)[0], "key": "r1"}, {**b.profile(high, 0)[0], "key": "r2"}]
    step = b.step("loft", "Turned", profile=profile, manner="ruled")
    assert "not clear which corners" in evaluated(b).report(step).message
    corner = next(p for p, at in b.drawing(low).points.items() if at == pytest.approx((10, 10)))
    picks: list[dict[str, object]] = []
    for place in ((10, 0), (0, 10)):  # an eighth to the one side and to the other
        tip = next(p for p, at in b.drawing(high).points.items() if at == pytest.approx(place, abs=1e-9))
        picks = [{"of": "drawn", "step": low, "entity": corner}, {"of": "drawn", "step": high, "entity": tip}]
        b.do(do="edit_step", step=step, fields={"matching": "picked", "corners": picks})
        assert volume(b) == pytest.approx(20 / 6 * (400 + 4 * 250 + 200), rel=1e-6)
    b.do(do="edit_step", step=step, fields={"corners": picks[:1]})
    assert "2 regions and 1 corners" in evaluated(b).report(step).message


def test_it_begins_at_a_face_of_a_body() -> None:
    """From the top of a plate with one round corner to a region over it; the sides are named by the faces beside the top."""
    b = plate()
    region = drawn_on(b, datum(offset_plane(XY, "30 mm")(b)), "rectangle", (10, 6.25), (30, 18.75), width="20 mm", height="12.5 mm")
    step = b.step("loft", "Hopper", profile=[{**TOP, "key": "r1"}, {**b.profile(region, 0)[0], "key": "r2"}], manner="ruled", result="add", bodies=[BODY])
    assert volume(b) == pytest.approx(PLATE + 20 / 6 * (1000 + 4 * 30 * 18.75 + 250), rel=1e-9)
    assert any("s2~side~c3~r1" in n for x in built(b).site.bodies["s2"].topology.faces for n in x.names if n.startswith(step))
    b.do(do="set_formula", tag="base_depth", formula="12 mm")
    assert volume(b) == pytest.approx(12000 + 18 / 6 * (1000 + 4 * 30 * 18.75 + 250), rel=1e-9)
    assert [r.state for r in built(b).report(step).references] == ["sound"] * 3


def test_from_a_round_face_to_a_round_face() -> None:
    b = Builder("Spindle")
    low = b.step("extrude", "Low", profile=b.profile(drawn_on(b, XY, "circle", (0, 0), (10, 0)), 0), extent="into", depth=f("5 mm"))
    level = datum(offset_plane(XY, "20 mm")(b))
    high = b.step("extrude", "High", profile=b.profile(drawn_on(b, level, "circle", (0, 0), (6, 0)), 0), depth=f("5 mm"))
    faces = [{"of": "face", "body": body, "names": [f"{body}/start/r1"], "key": f"r{i}"} for i, body in enumerate((low, high), 1)]
    b.step("loft", "Neck", profile=faces, manner="ruled")
    assert volume(b) == pytest.approx(PI * (500 + 180 + frustum(10, 6, 20)), rel=1e-6)


@pytest.mark.parametrize("shape", ["frustum", "smooth", "pyramid", "guided", "round"])
def test_flat_sides_are_planes_that_can_be_built_on(shape: str) -> None:
    if shape == "pyramid":
        b, step = pyramid()
    elif shape == "guided":
        b = Builder("Guided")
        ways = [drawn_on(b, axis("ZX"), "line", *ends) for ends in (((0, 0), (0, 30)), ((10, 0), (5, 30)))]
        spine, guide = ({"of": "drawn", "step": w, "entity": next(iter(b.drawing(w).curves))} for w in ways)
        outline = b.profile(drawn_on(b, XY, "rectangle", (-10, -10), (10, 10)), 0)
        step = b.step("sweep", "Guided", profile=outline, path=spine, guiding="guided", guide=guide)
    else:
        b, step = through(20, 10, shape="circle" if shape == "round" else "rectangle", manner="smooth" if shape == "smooth" else "ruled")
    body = built(b).site.bodies[step]
    flat = [x for x in body.topology.faces if x.form == "flat"]
    if shape == "round":
        assert len(flat) == 2
        return
    assert len(flat) == len(body.topology.faces) >= 5
    assert {e.form for e in body.topology.edges} == {"line"}
    (name,) = next(x.names for x in flat if "/side/" in min(x.names))
    before = volume(b)
    sketch = b.step("sketch", "Mark", on={"of": "face", "body": step, "names": [name]})
    b.draw(sketch, "circle", (0, 0), (1, 0))
    boss = b.step("extrude", "Boss", profile=b.profile(sketch, 0), depth=f("2 mm"), result="add", bodies=[{"of": "body", "body": step}])
    assert volume(b) == pytest.approx(before + 2 * PI, rel=1e-6)
    b.do(do="set_formula", tag=next(r.tag for r in b.part.rows() if r.tag.startswith("boss")), formula="3 mm")
    assert volume(b) == pytest.approx(before + 3 * PI, rel=1e-6)
    assert [r.state for r in built(b).report(boss).references][:1] == ["sound"]
