"""What pages cost: a plate with bosses, plain and with rounded rims; as a draft, exact, and drawn again from memory."""

from __future__ import annotations

import time
from collections.abc import Callable, Iterator
from typing import Any

from tests.samples import XY
from wendal.core.drawing import views
from wendal.core.drawing.page import drawn_page
from wendal.core.reference.resolve import edge_ref
from wendal.core.route import Memory, evaluate
from wendal.core.route.pages import Page, View
from wendal.demo.builder import Builder

__all__ = ["drawing_costs", "studded_plate"]

MAIN = Page(id="p1", name="Main views", scale="1:2", last=3, views=[View(id="v1"), View(id="v2", way="top", parent="v1"), View(id="v3", way="left", parent="v1")])


def studded_plate(rows: int, apart: float, rounded: bool) -> Builder:
    """A plate with rows of bosses, a hole's width apart; rounded : at their feet and rims."""
    b = Builder("Studs")
    size = f"{apart * rows + 20} mm"
    sketch = b.step("sketch", "Outline", on=XY)
    b.draw(sketch, "rectangle", (0, 0), (240, 240), on="origin", width=size, height=size)
    base = b.step("extrude", "Base", profile=b.profile(sketch, 0), depth={"formula": "10 mm"})
    spot = b.step("sketch", "Spot", on={"of": "face", "body": base, "names": [f"{base}/end/r1"]})
    b.draw(spot, "circle", (14, 14), (20, 14), diameter="12 mm")
    boss = b.step("extrude", "Boss", profile=b.profile(spot, 0), depth={"formula": "12 mm"}, result="add")
    seeds = [{"of": "step", "step": boss}]
    if rounded:
        (body,) = evaluate(b.part, Memory()).site.bodies.values()
        rims = [edge_ref(body.id, body.topology, i).model_dump(mode="json") for i, e in enumerate(body.topology.edges) if e.form == "circle"]
        seeds.append({"of": "step", "step": b.step("fillet", "Rims", edges=rims, radius={"formula": "1 mm"})})
    step, count = {"formula": f"{apart} mm"}, {"formula": str(rows)}
    b.step("pattern", "Rows", manner="grid", seeds=seeds, along={"of": "base", "name": "X"}, count=count, spacing=step,
           along_two={"of": "base", "name": "Y"}, count_two=count, spacing_two=step)
    return b


def _took(work: Callable[[], Any]) -> float:
    began = time.perf_counter()
    work()
    return time.perf_counter() - began


def drawing_costs() -> Iterator[list[Any]]:
    """Yield rows: what, faces, seconds as a draft, exact in two processes, again."""
    for name, b in (("bosses", studded_plate(12, 19, False)), ("rounded bosses", studded_plate(5, 38, True))):
        evaluation = evaluate(b.part, Memory())
        faces = sum(len(body.topology.faces) for body in evaluation.site.bodies.values())
        views._known.clear()
        times = [_took(lambda d=drafts, e=evaluation, p=b.part: drawn_page(p, e, MAIN, drafts=d)) for drafts in (True, False, False)]  # type: ignore[misc]
        yield [name, faces, *times]
