"""DXF as curves for a sketch: written by its own library and by Wendal, read back to the last figures; hostile ones refused in words."""

from __future__ import annotations

import io
import math
import random
from typing import Any

import ezdxf
import pytest

from tests.samples import demo, evaluated, plate_with_circle
from wendal.core import exchange
from wendal.core.errors import DocumentError
from wendal.core.exchange.dxf_in import read_dxf
from wendal.core.route import apply
from wendal.core.sketch.drawn import path_of
from wendal.demo import DEMO_PARTS
from wendal.demo.builder import Builder

XY = {"of": "base", "name": "XY"}


def written(draw: Any, unit: int = 4) -> bytes:
    document = ezdxf.new("R2010", units=unit)
    draw(document.modelspace())
    text = io.StringIO()
    document.write(text)
    return text.getvalue().encode()


def kinds(found: Any) -> list[str]:
    return sorted(c.kind for c in found.drawing.curves.values())


def test_a_plate_s_outline_with_bulges_is_closed_and_builds() -> None:
    def draw(space: Any) -> None:
        space.add_lwpolyline([(0, 0, 0), (40, 0, 1), (40, 20, 0), (0, 20, 0)], format="xyb", close=True)
        space.add_circle((20, 10), 4)
        space.add_text("plate", height=3)

    found = read_dxf(written(draw))
    assert kinds(found) == ["arc", "circle", "line", "line", "line"]
    assert (found.joined, found.gaps, found.forks, found.unit) == (4, [], [], "mm")
    assert found.told == ["1 TEXT not taken"]
    assert (found.low, found.high) == (pytest.approx((0, 0)), pytest.approx((50, 20)))
    b = Builder("Plate")
    sketch = b.step("sketch", "Outline", on=XY)
    b.do(do="edit_sketch", step=sketch, edit={"op": "paste", "what": found.drawing.model_dump(mode="json")})
    profile = b.profile(sketch, 0)
    b.step("extrude", "Base", profile=profile, depth={"formula": "5 mm"})
    (body,) = evaluated(b).site.bodies.values()
    from wendal.core import kernel

    assert kernel.volume_of(body.shape) == pytest.approx(5 * (40 * 20 + math.pi * 100 / 2 - math.pi * 16), rel=1e-9)


@pytest.mark.parametrize(("unit", "k"), [(4, 1.0), (5, 10.0), (1, 25.4), (6, 1000.0)])
def test_units_are_the_file_s(unit: int, k: float) -> None:
    found = read_dxf(written(lambda space: space.add_circle((1, 2), 0.5), unit))
    (circle,) = found.drawing.curves.values()
    assert circle.radius == pytest.approx(0.5 * k)  # type: ignore[union-attr]
    assert found.drawing.points[circle.centre] == pytest.approx((k, 2 * k))  # type: ignore[union-attr]


def test_a_file_without_a_unit_asks_for_it() -> None:
    content = written(lambda space: space.add_line((0, 0), (1, 0)), 0)
    with pytest.raises(DocumentError) as refused:
        read_dxf(content)
    assert refused.value.field == "unit"
    assert read_dxf(content, "in").high == pytest.approx((25.4, 0))


def test_arcs_of_both_senses_and_seen_from_below_lie_where_they_are_drawn() -> None:
    rng = random.Random(5)
    for _ in range(60):
        centre, r = (rng.uniform(-9, 9), rng.uniform(-9, 9)), rng.uniform(0.5, 8)
        a, b = rng.uniform(0, 360), rng.uniform(0, 360)
        below = rng.random() < 0.5
        more = {"extrusion": (0, 0, -1)} if below else {}
        content = written(lambda space, c=centre, r=r, a=a, b=b, more=more: space.add_arc(c, r, a, b, dxfattribs=more))  # type: ignore[misc]
        found = read_dxf(content)
        (curve,) = found.drawing.curves
        path = path_of(found.drawing, curve)
        middle = math.radians(a + ((b - a) % 360) / 2)
        side = -1 if below else 1
        want = (side * (centre[0] + r * math.cos(middle)), centre[1] + r * math.sin(middle))
        assert path.at((path.t0 + path.t1) / 2) == pytest.approx(want, abs=1e-9)


def test_ellipses_splines_and_placed_blocks() -> None:
    def draw(space: Any) -> None:
        space.add_ellipse((5, 5), (3, 1, 0), 0.4, 0.3, 2.0)
        space.add_open_spline([(0, 0), (1, 3), (4, 3), (6, 0), (8, 1)], degree=3)
        block = space.doc.blocks.new("B")
        block.add_line((0, 0), (2, 0))
        space.add_blockref("B", (10, 10), dxfattribs={"rotation": 90})

    found = read_dxf(written(draw))
    assert kinds(found) == ["ellipse_arc", "line", "spline"]
    (spline,) = [c for c in found.drawing.curves.values() if c.kind == "spline"]
    assert spline.manner == "pulled"  # type: ignore[union-attr]
    (line,) = [c for c in found.drawing.curves.values() if c.kind == "line"]
    ends = sorted(found.drawing.points[p] for p in line.ends)  # type: ignore[union-attr]
    assert ends == [pytest.approx((10, 10)), pytest.approx((10, 12))]
    (oval,) = [n for n, c in found.drawing.curves.items() if c.kind == "ellipse_arc"]
    path = path_of(found.drawing, oval)
    t = (0.3 + 2.0) / 2
    want = (5 + 3 * math.cos(t) - 0.4 * 1 * math.sin(t), 5 + 1 * math.cos(t) + 0.4 * 3 * math.sin(t))
    assert path.at((path.t0 + path.t1) / 2) == pytest.approx(want, abs=1e-6)


def test_gaps_and_forks_are_told_where_they_are() -> None:
    def draw(space: Any) -> None:
        space.add_line((0, 0), (10, 0))
        space.add_line((10.005, 0), (10, 10))
        space.add_line((10, 0.003), (20, 0))
        space.add_line((10, 10.5), (0, 0))

    found = read_dxf(written(draw))
    assert [tuple(round(v) for v in p) for p in found.forks] == [(10, 0)]
    assert sorted(tuple(round(v, 1) for v in p) for p in found.gaps) == [(10.0, 10.0), (10.0, 10.5), (20.0, 0.0)]
    assert not read_dxf(written(draw), within=0.6).forks[1:]


@pytest.mark.parametrize("name", list(DEMO_PARTS))
def test_what_wendal_writes_of_its_sketches_comes_back(name: str) -> None:
    part, evaluation = demo(name)
    for step in [s for s in part.steps if s.kind == "sketch"]:
        drawing = evaluation.site.sketches[step.id].drawing
        real = [c for c, held in drawing.curves.items() if not held.construction]
        if not real or any(drawing.curves[c].kind == "spline" for c in real):
            continue
        found = read_dxf(exchange.export(part, evaluation, "dxf", {"of": "sketch", "step": step.id}))
        assert kinds(found) == sorted(drawing.curves[c].kind for c in real)
        for c in real:
            path = path_of(drawing, c)
            place = path.at((path.t0 + path.t1) / 2)
            assert any(math.dist(place, _middle(found, o)) < 1e-6 for o in found.drawing.curves) or path.closed


def _middle(found: Any, curve: str) -> tuple[float, float]:
    path = path_of(found.drawing, curve)
    return path.at((path.t0 + path.t1) / 2)


def test_hostile_files_are_refused_in_words() -> None:
    good = written(lambda space: space.add_line((0, 0), (1, 0)))
    rng = random.Random(1)
    files: list[bytes] = [b"", b"\0" * 1000, b"not a drawing", good[: len(good) // 3], b"  0\nSECTION\n" * 500]
    for _ in range(40):
        held = bytearray(good)
        for _ in range(30):
            held[rng.randrange(len(held))] = rng.randrange(256)
        files.append(bytes(held))
    for content in files:
        found, said = None, ""
        try:
            found = read_dxf(content, "mm")
        except DocumentError as error:
            said = error.message
        assert said or (found and all(math.isfinite(v) for p in found.drawing.points.values() for v in p))

    def itself(space: Any) -> None:
        block = space.doc.blocks.new("A")
        block.add_blockref("A", (0, 0))
        space.add_blockref("A", (0, 0))

    with pytest.raises(DocumentError):
        read_dxf(written(itself))
    with pytest.raises(DocumentError) as refused:
        read_dxf(written(lambda space: space.add_circle((0, 0), 1e300)))
    assert "no curve" in refused.value.message
    with pytest.raises(DocumentError):
        read_dxf(written(lambda space: [space.add_line((i, 0), (i, 1)) for i in range(3200)]))


def test_what_is_pasted_is_one_edit_and_can_be_constrained() -> None:
    b = plate_with_circle()
    before = len(b.part.steps)
    found = read_dxf(written(lambda space: space.add_lwpolyline([(0, 0), (30, 0), (30, 10)], close=True)))
    sketch = b.step("sketch", "New", on=XY)
    b.part = apply(b.part, b_edit(sketch, found))
    assert len(b.part.steps) == before + 1
    drawing = b.drawing(sketch)
    assert len(drawing.curves) == 3
    assert sum(c.kind == "coincident" for c in drawing.constraints.values()) == 3


def b_edit(sketch: str, found: Any) -> Any:
    from wendal.core.route.commands import EditSketch

    return EditSketch.model_validate({"step": sketch, "edit": {"op": "paste", "what": found.drawing.model_dump(mode="json"), "move": (5, 5)}})


def test_what_lies_aslant_in_space_is_told_and_not_flattened() -> None:
    def draw(space: Any) -> None:
        space.add_line((0, 0, 0), (10, 0, 0))
        space.add_line((0, 0, 0), (10, 0, 4))
        space.add_open_spline([(0, 0, 0), (1, 3, 1), (4, 3, 2), (6, 0, 3)], degree=3)
        space.add_circle((0, 0), 2, dxfattribs={"extrusion": (0, 0.6, 0.8)})

    found = read_dxf(written(draw))
    assert kinds(found) == ["line"]
    assert found.told == [f"1 {what} that lies aslant in space not taken" for what in ("CIRCLE", "LINE", "SPLINE")]
