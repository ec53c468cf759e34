"""Shaping beside the same bare kernel calls: a comb of lofted, blended teeth, and a fillet of many edges."""

from __future__ import annotations

import time
from collections.abc import Callable
from typing import Any

from OCP.BRepAlgoAPI import BRepAlgoAPI_Fuse
from OCP.BRepFilletAPI import BRepFilletAPI_MakeFillet
from OCP.gp import gp_Trsf, gp_Vec
from OCP.TopLoc import TopLoc_Location

from wendal.core import kernel
from wendal.core.kernel.shapes import edges_of, shape_list
from wendal.core.route import Memory, evaluate
from wendal.demo.builder import Builder

__all__ = ["comb", "many_edges"]

TEETH, PITCH = 30, 8.0


def _timed(work: Callable[[], Any]) -> tuple[float, Any]:
    began = time.perf_counter()
    found = work()
    return time.perf_counter() - began, found


def _comb() -> tuple[Builder, str, str]:
    """A bar with one lofted tooth, its tip rounded; return also the ids of the bar and of the pattern."""
    b = Builder("Comb")
    xy: dict[str, Any] = {"of": "base", "name": "XY"}
    outline = b.step("sketch", "Outline", on=xy)
    b.draw(outline, "rectangle", (0, 0), (TEETH * PITCH, 20), on="origin")
    bar = b.step("extrude", "Bar", profile=b.profile(outline, 0), extent="into", depth={"formula": "6 mm"})
    foot = b.step("sketch", "Foot", on=xy)
    b.draw(foot, "rectangle", (1.5, 5), (6.5, 15))
    level = b.step("plane", "Level", first=xy, distance={"formula": "12 mm"})
    tip = b.step("sketch", "Tip", on={"of": "datum", "step": level})
    b.draw(tip, "rectangle", (2.5, 7), (5.5, 13))
    profile = [{**b.profile(s, 0)[0], "key": key} for s, key in ((foot, "r1"), (tip, "r2"))]
    tooth = b.step("loft", "Tooth", profile=profile, manner="ruled", result="add", bodies=[{"of": "body", "body": bar}])
    soft = b.step("fillet", "Soft", edges=[{"of": "face", "body": bar, "names": [f"{tooth}/end/r1"]}], radius={"formula": "0.8 mm"})
    seeds = [{"of": "step", "step": s} for s in (tooth, soft)]
    rest = b.step("pattern", "Teeth", seeds=seeds, along={"of": "base", "name": "X"}, count={"formula": str(TEETH)}, spacing={"formula": f"{PITCH} mm"})
    return b, bar, rest


def comb() -> list[float]:
    """Return ms of the whole comb, of its pattern alone, and of the bare kernel calls of the whole."""
    b, bar, _ = _comb()
    memory = Memory()
    evaluate(b.part, Memory(), until=b.part.steps[1].id)  # the kernel is loaded
    whole, evaluation = _timed(lambda: evaluate(b.part, memory))
    assert all(r.state == "built" for r in evaluation.reports), [r.message for r in evaluation.reports]
    pattern = evaluation.reports[-1].milliseconds
    bare_body = evaluation.sites[b.part.steps[1].id].bodies[bar].shape.shape
    lump = evaluation.site.seeds[b.part.steps[-1].id].effects[0].tools[0].shape

    def bare() -> Any:
        copies = []
        for k in range(TEETH):
            shift = gp_Trsf()
            shift.SetTranslation(gp_Vec(k * PITCH - PITCH, 0, 0))
            copies.append(lump.Moved(TopLoc_Location(shift)))
        operation = BRepAlgoAPI_Fuse()
        operation.SetArguments(shape_list([bare_body]))
        operation.SetTools(shape_list(copies))
        operation.Build()
        return operation.Shape()

    calls, _ = _timed(bare)
    return [1000 * whole, pattern, 1000 * calls]


def many_edges() -> list[float]:
    """Return ms of a fillet of 40 edges as a step, and of the bare call."""
    b = Builder("Posts")
    xy: dict[str, Any] = {"of": "base", "name": "XY"}
    outline = b.step("sketch", "Outline", on=xy)
    for i in range(10):
        b.draw(outline, "rectangle", (12.0 * i, 0), (12.0 * i + 8, 8))
    post = b.step("extrude", "Posts", profile=b.profile(outline, *range(10)), depth={"formula": "10 mm"})
    ends = [{"of": "face", "body": post, "names": [f"{post}/end/r{n}"]} for n in range(1, 11)]
    b.step("fillet", "Soft", edges=ends, radius={"formula": "1 mm"})
    memory = Memory()
    before = evaluate(b.part, memory, until=post)
    step, evaluation = _timed(lambda: evaluate(b.part, memory))
    assert evaluation.reports[-1].state == "built", evaluation.reports[-1].message
    shape: kernel.NamedShape = before.site.bodies[post].shape
    topology = before.site.bodies[post].topology
    picked = [i for i, e in enumerate(topology.edges) if any(any("/end/" in n for n in topology.faces[f].names) for f in e.faces)]

    def bare() -> Any:
        maker = BRepFilletAPI_MakeFillet(shape.shape)
        for i in picked:
            maker.Add(1.0, edges_of(shape.shape)[i])
        maker.Build()
        return maker.Shape()

    calls, _ = _timed(bare)
    return [float(len(picked)), 1000 * step, 1000 * calls]
