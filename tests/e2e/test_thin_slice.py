"""The thinnest path: a plane, a rectangle, an extrude, a change, a reload, a STEP file."""

from __future__ import annotations

import pytest

from tests.e2e.designer import Designer


def test_plane_rectangle_extrude_change_reload_step(designer: Designer) -> None:
    d = designer
    d.new_part_from_the_list()
    d.keys("d", "p")
    d.pick_flag("XY")
    d.enter("distance", "25 mm")
    d.accept()

    d.pick_flag("Plane 1")
    d.offer("New sketch")
    d.accept()
    d.board_ready()
    d.draw("r", (0, 0), (30, 20), width="40 mm", height="25 mm")
    d.freedoms("Fully constrained")
    d.close_sketch()

    d.keys("b", "e")
    d.pick(20, 12, 25)
    d.enter("depth", "10 mm")
    d.says("Adds 10 000 mm³")
    d.accept()
    assert d.volume() == pytest.approx(40 * 25 * 10)

    d.page.get_by_role("button", name="Sketch 1", exact=True).click()
    d.board_ready()
    d.page.get_by_test_id("dimension").first.click()
    d.type_in(d.page.get_by_test_id("formula"), "50 mm")
    d.page.get_by_test_id("formula").press("Enter")
    d.close_sketch()
    assert d.volume() == pytest.approx(50 * 25 * 10)

    version = d.version
    d.page.reload()
    d.settled()
    assert d.version == version
    assert d.volume() == pytest.approx(50 * 25 * 10)
    (body,) = d.report()["bodies"]
    assert body["low"][2] == pytest.approx(25)

    d.page.get_by_test_id("exchange").click()
    with d.page.expect_download() as download:
        d.page.get_by_role("menuitem", name="Write STEP").click()
    content = download.value.path().read_text()
    assert content.startswith("ISO-10303-21;")
    assert "MANIFOLD_SOLID_BREP" in content
