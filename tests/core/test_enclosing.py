"""Proofs that do not ask the kernel's own checks: triangles that enclose what the surfaces do, whole handles."""

from __future__ import annotations

from pathlib import Path

import pytest

from tests.samples import XY, evaluated
from wendal.core import kernel
from wendal.core.kernel.named import NamedShape
from wendal.core.kernel.shapes import faces_of
from wendal.core.route import Memory, evaluate, read_part
from wendal.demo.builder import Builder

CASES = Path(__file__).parents[1] / "data" / "cases"


def cube(size: float) -> Builder:
    b = Builder("Cube")
    sketch = b.step("sketch", "Outline", on=XY)
    b.draw(sketch, "rectangle", (0, 0), (size, size))
    b.step("extrude", "Body", profile=b.profile(sketch, 0), depth={"formula": f"{size!r} mm"})
    return b


def test_a_bend_as_tight_as_its_section_is_refused() -> None:
    found = evaluate(read_part((CASES / "d6_sweep_bend_equals_radius.json").read_text()), Memory())
    assert found.reports[-1].state == "stopped"
    assert "folds over itself" in found.reports[-1].message


def test_a_boss_coaxial_with_a_round_end_is_joined_in_the_other_order() -> None:
    part = read_part((CASES / "broken_solid_coaxial_boss.json").read_text())
    found = evaluate(part, Memory())
    assert [r.state for r in found.reports] == ["built"] * 6
    # The kernel's volumes of both and of what they share: 32660.7104 + 34607.7847 − 13975.5334.
    assert kernel.volume_of(found.site.bodies["s2"].shape) == pytest.approx(53292.9617, abs=1e-3)


@pytest.mark.parametrize(("wall", "state"), [("1 mm", "built"), ("0.006 mm", "built"), ("0.004 mm", "stopped"), ("0.002 mm", "stopped")])
def test_walls_that_the_kernel_takes_for_none_are_refused_in_words(wall: str, state: str) -> None:
    b = cube(20.0)
    opening = {"of": "face", "body": "s2", "names": ["s2/end/r1"]}
    b.step("shell", "Hollow", body={"of": "body", "body": "s2"}, openings=[opening], thickness={"formula": wall})
    report = evaluated(b).reports[-1]
    assert report.state == state
    assert state == "built" or "thinner than 0.005 mm" in report.message


def test_the_check_tells_an_open_or_inverted_surface_from_a_sound_one() -> None:
    b = cube(20.0)
    drill = b.step("sketch", "Drill", on=XY)
    b.draw(drill, "circle", (10, 10), (13, 10))
    b.step("extrude", "Hole", profile=b.profile(drill, 0), depth={"formula": "20 mm"}, result="cut")
    body = evaluated(b).site.bodies["s2"].shape
    assert kernel.encloses(body)
    assert kernel.handles(body) == 1
    inside_out = body.shape.Reversed()
    assert not kernel.encloses(NamedShape.collect(inside_out, list(zip(faces_of(inside_out), body.names, strict=True))))
    assert kernel.handles(evaluated(cube(3.0)).site.bodies["s2"].shape) == 0
