"""Aligned sections: areas and places by hand, whichever way the second leg is turned."""

from __future__ import annotations

import math

import pytest

from tests.building import axis, drawn_on
from tests.core.test_drawing import _area, sheet_of, with_page
from tests.samples import evaluated
from wendal.core.drawing.views import drawn
from wendal.core.drawing.views_inked import inked
from wendal.core.errors import CommandRefused
from wendal.core.route import apply
from wendal.core.route.page_commands import PutOnPage
from wendal.core.route.pages import View
from wendal.demo.builder import Builder


def flange(deep: str = "5 mm", second: float = 120.0) -> Builder:
    """A disc of 80 by 10 with a bore of 20; a hole of 8 through it on X at 28, and a blind one at an angle."""
    b = Builder("Flange")
    for n, (radius, x, y) in enumerate([(40.0, 0.0, 0.0), (10.0, 0.0, 0.0), (4.0, 28.0, 0.0), (4.0, 28 * math.cos(math.radians(second)), 28 * math.sin(math.radians(second)))]):
        ring = drawn_on(b, axis("XY"), "circle", (x, y), (x + radius, y))
        if n == 0:
            b.step("extrude", "Disc", profile=b.profile(ring, 0), depth={"formula": "10 mm"})
        else:
            more = {"depth": {"formula": deep}} if n == 3 else {"extent": "through"}
            b.step("extrude", f"Hole {n}", profile=b.profile(ring, 0), result="cut", **more)
    return b


@pytest.mark.parametrize("angle", [120.0, 150.0, -120.0, 90.5, 200.0])
@pytest.mark.parametrize("flipped", [False, True])
def test_an_aligned_section_turns_its_second_leg_into_the_first(angle: float, flipped: bool) -> None:
    """Areas by hand; the blind hole of the second leg lies at its radius, on the other side, as deep as it is."""
    b = flange(second=angle)
    turn = math.radians(angle)
    line = [(60.0, 0.0), (0.0, 0.0), (60 * math.cos(turn), 60 * math.sin(turn))]
    part = with_page(b.part, View(id="v1", way="section", parent="v2", line=line, flipped=flipped))
    page = part.pages[0]
    found = drawn(part, evaluated(part), page, page.views[-1])
    areas = sorted(sum((_area(loop) for loop in a.loops[1:]), -_area(a.loops[0])) for a in found.areas)
    assert -sum(areas) == pytest.approx((30 - 8) * 10 + 30 * 10 - 8 * 5, abs=1e-6)
    assert (found.box[0], found.box[2]) == pytest.approx((-40, 40), abs=1e-6)
    seen = [ln.stroke for ln in found.lines if ln.visible and ln.stroke.kind == "line"]
    upright = {(round(s.start[0], 6), round(abs(s.start[1] - s.end[1]), 6)) for s in seen if abs(s.start[0] - s.end[0]) < 1e-9}
    walls = {(24.0, 10.0), (32.0, 10.0), (-24.0, 5.0), (-32.0, 5.0), (10.0, 10.0), (-10.0, 10.0)}
    assert walls <= upright
    assert not [u for u, _ in upright if abs(u) < 1e-6]  # nothing is drawn where the legs meet
    assert not [ln for ln in found.lines if ln.edge >= 0 and ln.stroke.at(0.5)[0] < -1e-6]  # what is turned gives no figures
    inks = inked(part, evaluated(part), page, page.views[-1]).item.inks
    centre = sorted(round(i.stroke.at(0.5)[0], 3) for i in inks if i.pen == "centre" and abs(i.stroke.start[0] - i.stroke.end[0]) < 1e-6)
    assert {-28.0, 0.0, 28.0} <= {round(u / page.ratio_of(page.views[-1]), 3) for u in centre}
    sheet = sheet_of(part)
    assert not any(i.trouble for i in sheet.items)


def test_a_line_that_runs_back_beside_itself_is_refused() -> None:
    part = with_page(flange().part)
    for line in ([(60, 0), (0, 0), (60, 10)], [(60, 0), (0, 0), (-30, 40), (-60, 40)]):
        with pytest.raises(CommandRefused, match="once at a slant"):
            apply(part, PutOnPage(page="p1", views=[View(id="v1", way="section", parent="v2", line=line)]))


def test_a_thread_of_the_turned_leg_is_drawn_where_it_is_turned_to() -> None:
    """M6 in a hole 28 from the axis: its two lines lie 3 beside the hole's own axis, on the other side."""
    b = flange()
    x, y = (28 * way(math.radians(120)) for way in (math.cos, math.sin))
    b.do(do="edit_step", step="s8", fields={"suppressed": True})
    b.step("hole", "Tapped", where="coordinates", x={"formula": f"{x:.12g} mm"}, y={"formula": f"{y:.12g} mm"}, side="back", sizing="tapped", thread="M6")
    line = [(60.0, 0.0), (0.0, 0.0), (60 * math.cos(math.radians(120)), 60 * math.sin(math.radians(120)))]
    part = with_page(b.part, View(id="v1", way="section", parent="v2", line=line))
    evaluation, page = evaluated(part), part.pages[0]
    assert all(r.state in ("built", "waiting") for r in evaluation.reports), [r.message for r in evaluation.reports]
    inks = inked(part, evaluation, page, page.views[-1]).item.inks
    k = page.ratio_of(page.views[-1])
    threads = {round(i.stroke.at(0.5)[0] / k, 3) for i in inks if i.pen == "thread"}
    assert threads == {-31.0, -25.0}
