"""No kernel call changes a shape that is remembered: their own text is the same before and after every step."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import pytest

from tests.building import TOP, drawn_on, f
from tests.core.test_choices_kept import bevelled
from tests.samples import block, plate, plate_with_circle
from tools.hunts.unaltered import altered, hunt_unaltered
from wendal.core import inspect, kernel
from wendal.core.route import Evaluation, Memory, Part, evaluate, read_part
from wendal.demo import DEMO_PARTS


def elbow() -> Part:
    """A side of the plate turned on about an edge of its top: the profile is a face of the body that it is joined to."""
    b = plate()
    edge = {"of": "edge", "body": "s2", "faces": [["s2/end/r1"], ["s2/side/c6/r1"]]}
    side = {"of": "face", "body": "s2", "names": ["s2/side/c6/r1"], "key": ""}
    b.step("revolve", "Elbow", profile=[side], axis=edge, extent="back", angle=f("90 deg"), result="add", bodies=[{"of": "body", "body": "s2"}])
    return b.part


def ringed() -> Part:
    """The top of a plate split by a circle."""
    b = plate()
    ring = drawn_on(b, TOP, "circle", (20, 12), (25, 12))
    b.step("split_faces", "Ring", faces=[TOP], manner="drawn", lines=[{"of": "drawn", "step": ring, "entity": next(iter(b.drawing(ring).curves))}])
    return b.part


PARTS: dict[str, Callable[[], Part]] = {
    **DEMO_PARTS, "block": lambda: block().part, "drilled": lambda: plate_with_circle(True).part, "elbow": elbow, "ringed": ringed,
    "bevelled": lambda: bevelled(True).part,
}


@pytest.mark.parametrize("name", PARTS)
def test_no_step_alters_what_is_remembered(name: str) -> None:
    assert altered(PARTS[name]()) == []


DATA = Path(__file__).parents[1] / "data"


def read(name: str) -> Part:
    return read_part((DATA / f"{name}.json").read_text(encoding="utf-8"))


def test_no_step_of_random_parts_alters_what_is_remembered() -> None:
    found = hunt_unaltered(4, seed=3)
    assert not [what for what in found if "wrong" in what], found
    assert found["unaltered"] == 4


def test_no_step_of_a_grown_part_alters_what_is_remembered() -> None:
    assert altered(read("grown")) == []


def test_a_shell_that_is_refused_leaves_its_body_sound() -> None:
    """The kernel raises corners to a tolerance of 2 mm before it gives up."""
    part = read("refused_shell")
    evaluation = evaluate(part, Memory())
    assert evaluation.reports[-1].state == "stopped"
    assert inspect.broken(evaluation) == []
    assert altered(part) == []


def test_a_refused_trial_changes_nothing_of_what_comes_after() -> None:
    """A part, a step more that is refused, the part again, an edit: in one memory and from nothing it is the same."""
    memory = Memory()
    for name in ("grown", "grown_and_refused", "grown", "grown_and_edited"):
        remembered = evaluate(read(name), memory)
        assert all(kernel.check_whole(b.shape) for b in remembered.site.bodies.values()), name
    fresh = evaluate(read("grown_and_edited"), Memory())
    assert told(remembered) == told(fresh)
    assert kernel.volume_of(fresh.site.bodies["s8"].shape) == pytest.approx(22354.955, abs=1e-3)


def told(evaluation: Evaluation) -> object:
    reports = [(r.state, r.message) for r in evaluation.reports]
    return reports, [kernel.mass_of(b.shape) for b in evaluation.site.bodies.values()]
