"""Arms and ridges on a cone: swept, rounded, faces removed, six times round; and by an extrude up to cylinder and cone."""

from __future__ import annotations

import pytest

from tests.building import PI, axis, built, drawn_on, f, of_step, volume
from tests.core.test_faces import face
from tests.core.test_rib import line_on
from wendal.demo.builder import Builder

CONE = PI * 40 / 3 * (20**2 + 20 * 10 + 10**2)


def cone() -> Builder:
    """A frustum of 40 mm about Z, from a radius of 20 down to one of 10; its body is s2."""
    b = Builder("Cone")
    sketch = b.step("sketch", "Half", on=axis("ZX"))
    corners = [(0, 0), (20, 0), (10, 40), (0, 40)]
    lines = [b.draw(sketch, "line", p, q)[0] for p, q in zip(corners, corners[1:] + corners[:1], strict=True)]
    points = [b.drawing(sketch).curves[line].points for line in lines]
    for i in range(4):
        b.constrain(sketch, "coincident", points[i][1], points[(i + 1) % 4][0])
    b.step("revolve", "Cone", profile=b.profile(sketch, 0), axis=axis("Z"))
    assert volume(b) == pytest.approx(CONE)
    return b


def test_arms_are_swept_and_patterned_six_times_with_what_was_rounded_and_removed_after() -> None:
    b = cone()
    body = {"of": "body", "body": "s2"}
    arm = b.step("sweep", "Arm", section="round", diameter=f("5 mm"), path=line_on(b, axis("ZX"), (8, 15), (32, 20))[0], result="add", bodies=[body])
    bare = volume(b) - CONE
    soft = b.step("fillet", "Soft", edges=[face(b, f"{arm}/end")], radius=f("1 mm"))
    one = volume(b) - CONE
    assert 0 < bare - one < 5
    six = b.step("pattern", "Six", seeds=[of_step(arm), of_step(soft)], manner="ring", axis=axis("Z"), count=f("6"))
    assert volume(b) == pytest.approx(CONE + 6 * one, rel=1e-6)
    sharp = b.step("remove_faces", "Sharp again", faces=[{**face(b, f"{soft}/round"), "names": [n for n in face(b, f"{soft}/round")["names"] if "@" not in n]}])
    b.do(do="move_step", step=sharp, after=soft)
    b.do(do="edit_step", step=six, fields={"seeds": [of_step(s) for s in (arm, soft, sharp)]})
    assert volume(b) == pytest.approx(CONE + 6 * bare, rel=1e-6)
    assert [r.state for r in built(b).report(six).references] == ["sound"] * 4
    b.do(do="set_formula", tag="arm_diameter", formula="6 mm")
    b.do(do="set_formula", tag="six_count", formula="4")
    more = volume(b)
    b.do(do="remove_step", step=six)
    assert more == pytest.approx(CONE + 4 * (volume(b) - CONE), rel=1e-6)


def test_the_same_by_an_extrude_up_to_cylinder_and_cone() -> None:
    """A wall between a round core and a conical shoulder above it ends at both."""
    b = Builder("Core")
    sketch = b.step("sketch", "Half", on=axis("ZX"))
    corners = [(0, 0), (10, 0), (10, 20), (20, 40), (0, 40)]
    lines = [b.draw(sketch, "line", p, q)[0] for p, q in zip(corners, corners[1:] + corners[:1], strict=True)]
    points = [b.drawing(sketch).curves[line].points for line in lines]
    for i in range(5):
        b.constrain(sketch, "coincident", points[i][1], points[(i + 1) % 5][0])
    b.step("revolve", "Core", profile=b.profile(sketch, 0), axis=axis("Z"))
    core = volume(b)
    plane = {"of": "datum", "step": b.step("plane", "Beside", how="offset", first=axis("YZ"), distance=f("24 mm"))}
    outline = drawn_on(b, plane, "rectangle", (-1.5, 5), (1.5, 35))
    ends = [face(b, f"/side/{lines[i]}") for i in (1, 2)]
    ridge = b.step("extrude", "Ridge", profile=b.profile(outline, 0), extent="until", until=ends, result="add", bodies=[{"of": "body", "body": "s2"}])
    one = volume(b) - core
    # Out from the wall at y to x = 24; the core's wall is at sqrt(100 - y^2) up to z = 20, the cone's beyond.
    steps = 400
    wanted = 0.0
    for i in range(steps):
        y = -1.5 + 3 * (i + 0.5) / steps
        for k in range(steps):
            z = 5 + 30 * (k + 0.5) / steps
            r = 10 if z <= 20 else 10 + (z - 20) / 2
            wanted += (24 - (r * r - y * y) ** 0.5) * 3 * 30 / steps**2
    assert one == pytest.approx(wanted, rel=1e-5)
    b.step("pattern", "Six", seeds=[of_step(ridge)], manner="ring", axis=axis("Z"), count=f("6"))
    assert volume(b) == pytest.approx(core + 6 * one, rel=1e-9)
