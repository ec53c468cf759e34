"""What a preview says is what accepting does: material added and taken away, against the bodies before and after."""

from __future__ import annotations

import random
from typing import Any

import pytest

from tests.building import f
from tests.samples import XY, plate
from wendal.core import inspect, kernel
from wendal.core.route import Memory, evaluate
from wendal.demo.builder import Builder


def told(b: Builder, step: str) -> tuple[float, float]:
    """The volume that a preview says, and that the bodies really gain, mm³."""
    evaluation = evaluate(b.part, Memory(), preview=step)
    assert evaluation.report(step).state == "built"
    shown = inspect.preview_scene(evaluation, b.part, step, inspect.Blobs(set(), {}))
    said = sum(way * shown[word]["volume"] for word, way in (("added", 1), ("removed", -1)) if word in shown)
    sizes = [sum(kernel.volume_of(x.shape) for x in site.bodies.values()) for site in (evaluation.before, evaluation.site)]
    return said, sizes[1] - sizes[0]


def pin(b: Builder, result: str) -> str:
    sketch = b.step("sketch", "Pin outline", on=XY)
    b.draw(sketch, "circle", (10, 10), (14, 10))
    return b.step("extrude", "Pin", profile=b.profile(sketch, 0), depth=f("20 mm"), result=result)


@pytest.mark.parametrize("result", ["add", "cut"])
@pytest.mark.parametrize("spacing", ["3 mm", "7.9 mm", "12 mm"])
def test_copies_that_overlap_are_not_counted_twice(result: str, spacing: str) -> None:
    b = plate("60 mm", "40 mm")
    seed = pin(b, result)
    step = b.step("pattern", "Row", seeds=[{"of": "step", "step": seed}], along={"of": "base", "name": "X"}, count=f("4"), spacing=f(spacing))
    said, really = told(b, step)
    assert said == pytest.approx(really, rel=1e-6)
    assert (said > 0) == (result == "add")


def random_step(rng: random.Random) -> tuple[Builder, str]:
    """A plate, and an extrude, hole or pattern at random on it."""
    b = plate("60 mm", "40 mm")
    what = rng.choice(["extrude", "hole", "pattern", "mirror"])
    if what == "hole":
        return b, b.step("hole", "Bore", where="coordinates", x=f(f"{rng.uniform(5, 55)} mm"), y=f(f"{rng.uniform(5, 35)} mm"),
                         diameter=f(f"{rng.uniform(2, 12)} mm"), side="back")
    seed = pin(b, rng.choice(["add", "cut"]))
    if what == "extrude":
        return b, seed
    seeds: list[Any] = [{"of": "step", "step": seed}]
    if what == "mirror":
        plane = b.step("plane", "Middle", how="offset", first={"of": "base", "name": "YZ"}, distance=f(f"{rng.uniform(8, 25)} mm"))
        return b, b.step("mirror", "Other", seeds=seeds, about={"of": "datum", "step": plane})
    return b, b.step("pattern", "Row", seeds=seeds, along={"of": "base", "name": "X"}, count=f(str(rng.randint(2, 5))),
                     spacing=f(f"{rng.uniform(2, 11)} mm"))


@pytest.mark.parametrize("seed", range(12))
def test_a_preview_says_what_accepting_does(seed: int) -> None:
    said, really = told(*random_step(random.Random(seed)))
    assert said == pytest.approx(really, rel=1e-6)
