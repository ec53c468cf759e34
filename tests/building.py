"""What the tests of building steps share: a plate, what is drawn on it, and the volume of what is built, checked."""

from __future__ import annotations

import math
from collections.abc import Callable
from typing import Any

from tests.samples import evaluated
from wendal.core import kernel
from wendal.core.route import Evaluation
from wendal.demo.builder import Builder

PI = math.pi
BODY = {"of": "body", "body": "s2"}
TOP = {"of": "face", "body": "s2", "names": ["s2/end/r1"]}
BOTTOM = {"of": "face", "body": "s2", "names": ["s2/start/r1"]}


def axis(name: str) -> dict[str, Any]:
    return {"of": "base", "name": name}


def datum(step: str, index: int = 0) -> dict[str, Any]:
    return {"of": "datum", "step": step, "index": index}


def of_step(step: str) -> dict[str, Any]:
    return {"of": "step", "step": step}


def f(formula: str) -> dict[str, str]:
    return {"formula": formula}


def drawn_on(b: Builder, plane: Any, shape: str, *ends: tuple[float, float], **values: str) -> str:
    sketch = b.step("sketch", f"Sketch of {shape} {b.part.last}", on=plane)
    b.draw(sketch, shape, *ends, **values)
    return sketch


def side(line: str) -> dict[str, Any]:
    """A side of the plate by its curve: c3 low, c6 right, c9 high, c12 left."""
    return {"of": "face", "body": "s2", "names": [f"s2/side/{line}/r1"]}


def built(b: Builder) -> Evaluation:
    evaluation = evaluated(b)
    assert [(r.id, r.message) for r in evaluation.reports if r.state != "built"] == []
    return evaluation


def volume(b: Builder) -> float:
    """The volume of all bodies, each of them checked; and the same after it was written as STEP."""
    total = 0.0
    for body in built(b).site.bodies.values():
        mass = kernel.mass_of(body.shape)
        assert mass.valid
        assert all(body.shape.names)
        total += mass.volume
    return total


def on_top(b: Builder, shape: str, *ends: tuple[float, float], **values: str) -> list[dict[str, Any]]:
    return b.profile(drawn_on(b, TOP, shape, *ends, **values), 0)


def offset_plane(base: Any, distance: str) -> Callable[[Builder], str]:
    return lambda b: b.step("plane", f"Plane {b.part.last}", how="offset", first=base, distance=f(distance))


PLATE, DISC = 40 * 25 * 10, 25 * PI


def cyl(d: float, h: float) -> float:
    return PI * d * d / 4 * h
