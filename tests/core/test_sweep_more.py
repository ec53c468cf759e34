"""Sweeps along edges, of round sections, with rounded corners and twists, and as sheets; against formulas."""

from __future__ import annotations

import math
import re
from typing import Any

import pytest

from tests.building import BODY, PI, PLATE, axis, built, drawn_on, f, volume
from tests.core.test_blends import edge
from tests.core.test_reshape import message
from tests.core.test_rib import line_on
from tests.core.test_sheets import areas
from tests.samples import plate
from wendal.demo.builder import Builder

ZX, XY = axis("ZX"), axis("XY")
RIM = [edge(w, "end") for w in ("low", "right", "high", "left")]


def test_a_bead_along_the_edges_of_a_plate() -> None:
    """Half of a round rod lies over, the other half under the edge: three quarters stick out."""
    b = plate()
    step = b.step("sweep", "Bead", section="round", diameter=f("4 mm"), route="edges", edges=[edge("low", "end")], result="add", bodies=[BODY])
    assert volume(b) == pytest.approx(PLATE + 4 * PI * 40 * 3 / 4, rel=1e-9)
    b.do(do="set_formula", tag="bead_diameter", formula="6 mm")
    assert volume(b) == pytest.approx(PLATE + 9 * PI * 40 * 3 / 4, rel=1e-9)
    assert [r.state for r in built(b).report(step).references] == ["sound"] * 2


def test_a_groove_round_the_rim_and_what_runs_on_smoothly() -> None:
    b = plate()
    b.step("sweep", "Groove", section="round", diameter=f("4 mm"), route="edges", edges=RIM, result="cut", bodies=[BODY])
    assert volume(b) < PLATE
    b = plate()
    b.step("fillet", "Corners", edges=[edge(x, y) for x in ("low", "high") for y in ("left", "right")], radius=f("5 mm"))
    rounded = volume(b)
    step = b.step("sweep", "Groove", section="round", diameter=f("2 mm"), route="edges", edges=RIM[:1], smooth="all", result="cut", bodies=[BODY])
    length = 2 * 30 + 2 * 15
    quarter = PI / 4  # of the circle of radius 1, a quarter lies in the plate
    inward = 4 / (3 * PI)  # how far a quarter's middle lies inside of the rim
    assert volume(b) == pytest.approx(rounded - quarter * (length + 2 * PI * (5 - inward)), rel=1e-6)
    b.do(do="edit_step", step=step, fields={"edges": [RIM[0], edge("low", "start")], "smooth": ""})
    assert "make no one path" in message(b, step)


def path(b: Builder, *places: tuple[float, float]) -> dict[str, Any]:
    return line_on(b, ZX, *places)[0]


def test_a_pipe_with_a_wall_and_corners() -> None:
    b = Builder("Pipe")
    step = b.step("sweep", "Pipe", section="round", diameter=f("10 mm"), path=path(b, (0, 0), (40, 0), (40, 30)), wall="inside", thickness=f("1 mm"))
    assert volume(b) == pytest.approx(PI * (25 - 16) * 70, rel=1e-6)  # mitred
    b.do(do="edit_step", step=step, fields={"wall": ""})
    assert volume(b) == pytest.approx(PI * 25 * 70, rel=1e-6)
    b.do(do="edit_step", step=step, fields={"corners": "rounded"})
    # outside of the corner a quarter of a ball of the pipe's radius; inside both pipes meet as before
    lens = 2 * 5**3 * 2 / 3  # what the two half pipes beyond the corner overlap: each wedge is 2/3 r^3
    assert volume(b) == pytest.approx(PI * 25 * 70 - lens + PI / 3 * 125, rel=1e-3)
    assert any("/corner/" in n for x in built(b).site.bodies[step].topology.faces for n in x.names)
    b.do(do="edit_step", step=step, fields={"corners": "", "wall": "sheet"})
    assert areas(b) == {step: pytest.approx(10 * PI * 70, rel=1e-6)}
    b.do(do="edit_step", step=step, fields={"wall": "inside", "thickness": f("6 mm")})
    assert "does not fit into a diameter" in message(b, step)


def test_a_twisted_bar() -> None:
    b = Builder("Twisted")
    sketch = drawn_on(b, XY, "rectangle", (-2, -3), (2, 3))
    profile = b.profile(sketch, 0)
    step = b.step("sweep", "Twisted", profile=profile, path=path(b, (0, 0), (0, 40)), twist="left", angle=f("90 deg"))
    assert volume(b) == pytest.approx(24 * 40, rel=1e-5)
    names = {n for x in built(b).site.bodies[step].topology.faces for n in x.names}
    assert len(names) == 6
    end = next(x for x in built(b).site.bodies[step].topology.faces if any("/end/" in n for n in x.names))
    assert end.area == pytest.approx(24)


def test_curves_swept_to_a_sheet_and_a_twist_that_can_not_be() -> None:
    b = Builder("Sheet")
    chain = line_on(b, XY, (0, 0), (10, 0))[0]
    way = path(b, (0, 0), (0, 20))
    step = b.step("sweep", "Strip", profile=[{**chain, "key": "r1"}], path=way, wall="sheet")
    assert areas(b) == {step: pytest.approx(200)}
    b = Builder("Twisted")
    sketch = drawn_on(b, XY, "rectangle", (-2, -3), (2, 3))
    step = b.step("sweep", "Twisted", profile=b.profile(sketch, 0), path=path(b, (0, 0), (0, 20), (20, 20)), twist="left", angle=f("90 deg"))
    assert "without corners" in message(b, step)


def test_a_round_section_grows_with_a_guide() -> None:
    b = Builder("Horn")
    spine = path(b, (0, 0), (40, 0))
    b.step("sweep", "Horn", section="round", diameter=f("10 mm"), path=spine, guiding="guided", guide=path(b, (0, 5), (40, 10)))
    assert volume(b) == pytest.approx(PI * 40 / 3 * (25 + 50 + 100), rel=1e-6)
    b.do(do="set_formula", tag="horn_diameter", formula="20 mm")
    assert volume(b) == pytest.approx(4 * PI * 40 / 3 * (25 + 50 + 100), rel=1e-6)


def test_a_guide_round_a_bend_and_one_that_bulges() -> None:
    b = Builder("Bend")
    arcs = [drawn_on(b, ZX, "arc_centre", (0, 0), (r, 0), (0, r)) for r in (30, 36)]
    spine, guide = ({"of": "drawn", "step": s, "entity": next(iter(b.drawing(s).curves))} for s in arcs)
    b.step("sweep", "Bend", section="round", diameter=f("8 mm"), path=spine, guiding="guided", guide=guide)
    assert volume(b) == pytest.approx(PI * 16 * PI / 2 * 30, rel=1e-5)  # as far away all the way
    b = Builder("Spindle")
    eye = drawn_on(b, ZX, "arc_centre", (20, -33), (40, 5), (0, 5))  # a bulge over a straight path, drawn the other way
    bulge = {"of": "drawn", "step": eye, "entity": next(iter(b.drawing(eye).curves))}
    b.step("sweep", "Spindle", section="round", diameter=f("10 mm"), path=path(b, (0, 0), (40, 0)), guiding="guided", guide=bulge)
    r = math.hypot(20, 38)
    heights = [math.sqrt(r * r - (x - 20) ** 2) - 33 for i in range(4000) for x in [(i + 0.5) / 100]]
    wanted = PI * sum(h * h for h in heights) / 100
    assert volume(b) == pytest.approx(wanted, rel=1e-4)


@pytest.mark.parametrize(("fields", "told"), [
    ({"guide": [(0, 5), (30, 10)]}, r"none of it square to the path after 3\d\."),
    ({"guide": [(0, 5), (40, 0)]}, "The guide meets the path"),
    ({"guide": [(0, 5), (40, 10)], "twist": "left"}, "without a twist"),
    ({"guide": [(0, 5), (40, 10)], "turning": "parallel"}, "turns with its path"),
    ({"guide": [(0, 5), (40, 10)], "wall": "sheet"}, "swept without a twist or guide"),
    ({"guide": [(0, 5), (40, 10)], "wall": "inside", "thickness": f("1 mm")}, "region with holes"),
    ({"guide": [(0, 5), (40, 10)], "path": [(0, 0), (20, 0), (40, 20)]}, "without corners"),
    ({"twist": "left", "wall": "sheet"}, "swept without a twist or guide"),
])
def test_guides_that_do_not_do(fields: dict[str, Any], told: str) -> None:
    b = Builder("Horn")
    drawn = {n: path(b, *v) if isinstance(v, list) else v for n, v in ({"path": [(0, 0), (40, 0)]} | fields).items()}
    step = b.step("sweep", "Horn", section="round", diameter=f("8 mm"), guiding="guided" if "guide" in fields else "", **drawn)
    assert re.search(told, message(b, step))
