"""Sample parts and sketches that many tests use."""

from __future__ import annotations

from functools import cache
from typing import Any

from wendal.core import kernel
from wendal.core.route import Evaluation, Memory, Part, evaluate, figures_of
from wendal.core.sketch import Drawing, Solution, find_freedoms, solve
from wendal.demo import DEMO_PARTS
from wendal.demo.builder import Builder

__all__ = ["XY", "block", "demo", "drawn", "edit", "evaluated", "free_sketch", "freedoms", "plate", "plate_by_default",
           "plate_with_circle", "settled", "solution"]

XY = {"of": "base", "name": "XY"}


@cache
def demo(name: str) -> tuple[Part, Evaluation]:
    """A demo part and what it comes to, for tests that only read: it is built once in a process."""
    part = DEMO_PARTS[name]()
    return part, evaluate(part, Memory())


def free_sketch() -> tuple[Builder, str]:
    """Return a part with an empty sketch on XY, and the sketch's id."""
    b = Builder("Sample")
    return b, b.step("sketch", "Outline", on=XY)


def drawn(*shapes: tuple[Any, ...]) -> tuple[Builder, str, list[str]]:
    """Return a sketch with shapes drawn, each (shape, place, place, …), and the ids of all curves in order."""
    b, sketch = free_sketch()
    curves = [c for shape, *ends in shapes for c in b.draw(sketch, shape, *ends)]
    return b, sketch, curves


def edit(b: Builder, op: str, **more: Any) -> list[str]:
    """Carry an edit of the sketch s1 out; return the ids of the curves that it made."""
    before = set(b.drawing("s1").curves)
    b.do(do="edit_sketch", step="s1", edit={"op": op, **more})
    return [c for c in b.drawing("s1").curves if c not in before]


def solution(b: Builder, sketch: str = "s1") -> Solution:
    """Solve a sketch for its dimensions as they are now."""
    drawing = b.drawing(sketch)
    return solve(drawing, figures_of(b.part).values(drawing))


def settled(b: Builder, sketch: str = "s1") -> Drawing:
    """Return a sketch as solved."""
    return solution(b, sketch).drawing


def freedoms(b: Builder, sketch: str = "s1") -> int:
    """Return how many freedoms a sketch has."""
    return find_freedoms(solution(b, sketch)).number


def plate(width: str = "40 mm", height: str = "25 mm", depth: str = "10 mm") -> Builder:
    """Return a plate with one corner at the origin: steps s1 (sketch Outline), s2 (extrude Base)."""
    b, sketch = free_sketch()
    b.draw(sketch, "rectangle", (0, 0), (40, 25), on="origin", width=width, height=height)
    b.step("extrude", "Base", profile=b.profile(sketch, 0), depth={"formula": depth})
    return b


def plate_by_default(depth: str = "10 mm") -> Builder:
    """Return the plate as a designer makes it who names nothing: Sketch 1 with width and height, Extrude 1."""
    b = Builder("Part")
    sketch = b.step("sketch", "Sketch 1", on=XY)
    b.draw(sketch, "rectangle", (0, 0), (40, 25), on="origin", width="40 mm", height="25 mm")
    b.step("extrude", "Extrude 1", profile=b.profile(sketch, 0), depth={"formula": depth})
    return b


def plate_with_circle(drilled: bool = False) -> Builder:
    """Return the same with a circle of 10 drawn on its top at 20, 12; drilled : cut through, as Extrude 2."""
    b = plate_by_default()
    sketch = b.step("sketch", "Sketch 2", on={"of": "face", "body": "s2", "names": ["s2/end/r1"]})
    b.draw(sketch, "circle", (20, 12), (25, 12), diameter="10 mm")
    if drilled:
        b.step("extrude", "Extrude 2", profile=b.profile(sketch, 0), depth={"formula": "10 mm"}, extent="into", result="cut")
    return b


def block() -> Builder:
    """Return a plate with a boss of 10 on its top: s3 (sketch Boss outline), s4 (extrude Boss)."""
    b = plate()
    top = {"of": "face", "body": "s2", "names": ["s2/end/r1"]}
    sketch = b.step("sketch", "Boss outline", on=top)
    b.draw(sketch, "circle", (20, 12), (25, 12), diameter="10 mm")
    b.step("extrude", "Boss", profile=b.profile(sketch, 0), depth={"formula": "6 mm"}, result="add",
           bodies=[{"of": "body", "body": "s2"}])
    return b


def evaluated(part: Part | Builder, **more: Any) -> Evaluation:
    """Evaluate a part as a worker does that has built others before, and prove that the triangles of its bodies enclose what their surfaces do."""
    found = evaluate(part.part if isinstance(part, Builder) else part, _worker, **more)
    for body in found.site.bodies.values():
        if body.key not in _proved:
            _proved.add(body.key)
            assert kernel.encloses(body.shape), f"the mesh of {body.name} does not enclose it"
    return found


_proved: set[str] = set()
_worker = Memory()
