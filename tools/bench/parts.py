"""Generated parts of many steps, and what a change of each costs beside the same bare kernel calls."""

from __future__ import annotations

import time
from collections.abc import Callable
from typing import Any

from OCP.BRepAlgoAPI import BRepAlgoAPI_Cut, BRepAlgoAPI_Fuse

from tests.samples import XY
from wendal.core import inspect
from wendal.core.kernel.shapes import shape_list
from wendal.core.route import Evaluation, Memory, Part, evaluate, write_part
from wendal.demo.builder import Builder
from wendal.workers.geometry import GeometryWorker

__all__ = ["OPERATIONS", "bare_calls", "mixed_plate", "pocket_plate", "proportion"]

OPERATIONS = {"cut": BRepAlgoAPI_Cut, "add": BRepAlgoAPI_Fuse}
TRIES = 3


def _timed(work: Callable[[], Any]) -> tuple[float, Any]:
    """Return ms of processor time, which other processes disturb less than the clock's, and the result."""
    began = time.process_time()
    found = work()
    return 1000 * (time.process_time() - began), found


def _plate(name: str) -> tuple[Builder, str, dict[str, Any]]:
    b = Builder(name)
    outline = b.step("sketch", "Outline", on=XY)
    b.draw(outline, "rectangle", (0, 0), (500, 400), on="origin")
    plate = b.step("extrude", "Plate", profile=b.profile(outline, 0), depth={"formula": "20 mm"})
    return b, plate, {"of": "face", "body": plate, "names": [f"{plate}/end/r1"]}


def pocket_plate(sketches: int = 49) -> Part:
    """A plate of 500 x 400 mm with so many sketches of four pockets each, each cut: two steps a sketch."""
    b, plate, top = _plate("Pockets")
    for i in range(sketches):
        s = b.step("sketch", f"Four {i}", on=top)
        x, y = 8 + 69 * (i % 7), 8 + 56 * (i // 7)
        for k in range(4):
            u, v = x + 34 * (k % 2), y + 27 * (k // 2)
            b.draw(s, "rectangle", (u, v), (u + 20, v + 15))
        b.step("extrude", f"Pockets {i}", profile=b.profile(s, 0, 1, 2, 3), depth={"formula": "10 mm"}, extent="into", result="cut",
               bodies=[{"of": "body", "body": plate}])
    return b.part


def mixed_plate(pairs: int = 149) -> Part:
    """A plate with as many pairs of a sketch and a boss, pocket or counterbored hole, one after the other, mostly round."""
    b, plate, top = _plate("Mixed")
    body = [{"of": "body", "body": plate}]
    for i in range(pairs):
        x, y = 20 + 38 * (i % 13), 20 + 33 * (i // 13)
        s = b.step("sketch", f"Place {i}", on=top)
        if i % 3 == 2:
            b.draw(s, "point", (x, y))
            b.step("hole", f"Hole {i}", at=[{"of": "sketch", "step": s}], diameter={"formula": "8 mm"}, shape="counterbore", head="typed")
            continue
        b.draw(s, "circle", (x, y), (x + 9, y))
        more: dict[str, Any] = {"extent": "into", "result": "cut"} if i % 3 else {"result": "add"}
        b.step("extrude", f"Round {i}", profile=b.profile(s, 0), depth={"formula": "6 mm"}, bodies=body, **more)
    return b.part


def bare_calls(evaluation: Evaluation, part: Part, only: set[str] | None = None) -> float:
    """Return ms of the same booleans by the kernel alone, on the same bodies with the same tools. only : the steps that count."""
    total = 0.0
    for before, step in zip(["", *(s.id for s in part.steps)], part.steps, strict=False):
        if step.id not in evaluation.site.seeds or (only is not None and step.id not in only):
            continue
        for effect in evaluation.site.seeds[step.id].effects:
            if effect.how not in OPERATIONS:
                continue
            for body in evaluation.sites[before].bodies.values():
                def run(bare: Any = OPERATIONS[effect.how], shape: Any = body.shape.shape, tools: Any = effect.tools) -> None:
                    operation = bare()
                    operation.SetArguments(shape_list([shape]))
                    operation.SetTools(shape_list(t.shape for t in tools))
                    operation.Build()
                total += _timed(run)[0]
    return total


def proportion(part: Part, tag: str, values: list[str]) -> list[Any]:
    """Return a part's figures in ms: faces; from nothing, beside bare; a late dimension changed, its picture, beside bare; what is previewed and
    accepted; all remembered; the ledger; the drawn picture. values : of the late dimension."""
    evaluate(part, Memory(), until=part.steps[1].id)  # the kernel is loaded
    memory = Memory()
    whole, evaluation = _timed(lambda: evaluate(part, memory))
    assert all(r.state == "built" for r in evaluation.reports), [r.message for r in evaluation.reports if r.message]
    faces = sum(len(b.topology.faces) for b in evaluation.site.bodies.values())
    bare = bare_calls(evaluation, part)
    worker = GeometryWorker()
    has: set[str] = set()

    def ask(document: str) -> dict[str, Any]:
        answer = worker.evaluate({"document": document, "has": list(has), "at": None}, lambda said: None)
        has.update(answer["blobs"])
        return answer

    cold, _ = _timed(lambda: ask(write_part(part)))
    b = Builder(part.name)
    b.part = part
    late, lates, again = 0.0, [], []
    step = next(r.step for r in part.rows() if r.tag == tag)
    place = next(r.place for r in part.rows() if r.tag == tag)
    for value in values:
        was = write_part(b.part)
        edit: dict[str, Any] = {"do": "edit_step", "step": step, "fields": {place: {"formula": value, "tag": tag}}}
        preview = _timed(lambda was=was, edit=edit: worker.preview({"document": was, "command": edit, "has": list(has)}, lambda said: None))[0]
        has.update(worker.ready({"document": was, "command": edit, "has": list(has)}, lambda said: None))  # while nothing is typed
        b.do(do="set_formula", tag=tag, formula=value)
        accepted = _timed(lambda: ask(write_part(b.part)))[0]
        b.do(do="set_formula", tag=tag, formula=f"({value}) + 0.01 mm")
        lates.append((_timed(lambda: ask(write_part(b.part)))[0], preview, accepted))
        again.append(_timed(lambda was=was: ask(was))[0])
    late, preview, accepted = (min(column) for column in zip(*lates, strict=True))
    changed = evaluate(b.part, worker._memory)
    reached = {r.id for r, old in zip(changed.reports, evaluation.reports, strict=True) if r.key != old.key}
    bare_late = min(bare_calls(changed, b.part, reached) for _ in range(TRIES))
    ledger = _timed(lambda: inspect.ledger_rows(b.part, changed))[0]
    picture = _timed(lambda: inspect.picture(changed))[0]
    return [part.name, len(part.steps), faces, whole, bare, whole / bare, cold, late, bare_late, late / bare_late, preview, accepted, min(again), ledger, picture]
