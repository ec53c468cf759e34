"""Sample parts and sketches that many tests use."""

from __future__ import annotations

from typing import Any

from wendal.core.route import Evaluation, Memory, Part, evaluate
from wendal.demo.builder import Builder

__all__ = ["XY", "block", "drawn", "evaluated", "free_sketch", "plate"]

XY = {"of": "base", "name": "XY"}


def free_sketch() -> tuple[Builder, str]:
    """Return a part with an empty sketch on XY, and the sketch's id."""
    b = Builder("Sample")
    return b, b.step("sketch", "Outline", on=XY)


def drawn(*shapes: tuple[Any, ...]) -> tuple[Builder, str, list[str]]:
    """Return a sketch with shapes drawn, each (shape, place, place, …), and the ids of all curves in order."""
    b, sketch = free_sketch()
    curves = [c for shape, *ends in shapes for c in b.draw(sketch, shape, *ends)]
    return b, sketch, curves


def plate(width: str = "40 mm", height: str = "25 mm", depth: str = "10 mm") -> Builder:
    """Return a plate with one corner at the origin: steps s1 (sketch Outline), s2 (extrude Base)."""
    b, sketch = free_sketch()
    b.draw(sketch, "rectangle", (0, 0), (40, 25), on="origin", width=width, height=height)
    b.step("extrude", "Base", profile=b.profile(sketch, 0), depth={"formula": depth})
    return b


def block() -> Builder:
    """Return a plate with a boss of 10 on its top: s3 (sketch Boss outline), s4 (extrude Boss)."""
    b = plate()
    top = {"of": "face", "body": "s2", "names": ["s2/end/r1"]}
    sketch = b.step("sketch", "Boss outline", on=top)
    b.draw(sketch, "circle", (20, 12), (25, 12), diameter="10 mm")
    b.step("extrude", "Boss", profile=b.profile(sketch, 0), depth={"formula": "6 mm"}, result="add",
           target={"of": "body", "body": "s2"})
    return b


def evaluated(part: Part | Builder, **more: Any) -> Evaluation:
    """Evaluate a part from nothing."""
    return evaluate(part.part if isinstance(part, Builder) else part, Memory(), **more)
