"""A part that is evaluated edit by edit comes to the same as one that is evaluated from nothing: in every fact, name and digest."""

from __future__ import annotations

import random
from typing import Any

import pytest

from tools.bench.parts import mixed_plate
from wendal.core import inspect, kernel
from wendal.core.errors import WendalError
from wendal.core.kernel import known
from wendal.core.route import Evaluation, Memory, Part, evaluate, read_part, write_part
from wendal.demo import instrument_bracket, sensor_housing
from wendal.demo.builder import Builder

EDITS, LOOKED_AT = 12, 4  # of each part: edits, and after how many of them all is compared


def edited(b: Builder, rng: random.Random, was: list[Part]) -> None:
    """Make one random edit: a number changed, a step held back or let again, renamed, the stop line moved, or an earlier state taken again."""
    kind = rng.choice(["number", "number", "number", "suppress", "name", "line", "back"])
    step = rng.choice(b.part.steps)
    try:
        if kind == "number":
            row = rng.choice([r for r in b.part.rows() if r.step])
            b.do(do="set_formula", tag=row.tag, formula=f"({row.formula}) * {rng.choice([0.9, 0.97, 1.02, 1.1])}" if len(row.formula) < 60 else "10 mm")
        elif kind == "suppress":
            b.do(do="edit_step", step=step.id, fields={"suppressed": not step.suppressed})
        elif kind == "name":
            b.do(do="edit_step", step=step.id, fields={"name": f"{step.name[:20]} {rng.randrange(1000)}"})
        elif kind == "line":
            b.do(do="set_stop_line", after=rng.choice(["", "", step.id]))
        else:
            b.part = rng.choice(was)
    except WendalError:
        return
    b.part = read_part(write_part(b.part))
    was.append(b.part)


def told(part: Part, evaluation: Evaluation) -> dict[str, Any]:
    """Return everything that a part came to."""
    reports = [(r.id, r.state, r.message, r.field, r.key, r.upon, r.answers, r.stands_on, [(x.field, x.state, x.reason, x.now) for x in r.references])
               for r in evaluation.reports]
    blobs = inspect.Blobs(set(), {})
    scene = inspect.scene(part, evaluation, blobs)
    bodies = {b.id: (b.name, b.key, b.shape.names, list(b.topology.faces), list(b.topology.edges), list(b.topology.vertices), kernel.mass_of(b.shape))
              for b in evaluation.site.bodies.values()}
    return {"reports": reports, "scene": scene, "bodies": bodies, "blobs": blobs.new, "ledger": inspect.ledger_rows(part, evaluation)}


@pytest.mark.parametrize("make", [instrument_bracket, sensor_housing, lambda: mixed_plate(12)], ids=["bracket", "housing", "plate"])
def test_edit_by_edit_is_as_from_nothing(make: Any) -> None:
    b = Builder("Part")
    b.part = make()
    rng, memory, was = random.Random(7), Memory(), [b.part]
    built = 0
    for n in range(EDITS):
        edited(b, rng, was)
        evaluation = evaluate(b.part, memory)
        if n % LOOKED_AT:
            continue
        step_by_step = told(b.part, evaluation)
        held, known._tables = known._tables, known._Tables()
        whole = told(b.part, evaluate(read_part(write_part(b.part)), Memory()))
        known._tables = held
        for what, found in whole.items():
            assert step_by_step[what] == found, (n, what)
        built += sum(r.state == "built" for r in evaluation.reports)
    assert built > 3 * EDITS / LOOKED_AT
