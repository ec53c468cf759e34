"""A part in figures, as plain JSON data."""

from __future__ import annotations

from dataclasses import asdict
from typing import Any

from .. import kernel
from ..quantity import format_quantity, parse
from ..quantity.units import plain
from ..route import Evaluation, Part, Remark
from ..steps import numbers_of

__all__ = ["broken", "ledger_rows", "report"]


def report(part: Part, evaluation: Evaluation) -> dict[str, Any]:
    """Return each step's state and references, each body's figures (mm, mm², mm³), and the ledger's values."""
    steps = [{"number": part.number(s.id), "id": s.id, "kind": s.kind, "name": s.name, "state": r.state,
              "message": r.message, "references": [asdict(x) for x in r.references]}
             for s, r in zip(part.steps, evaluation.reports, strict=True)]
    bodies = [{"id": b.id, "name": b.name, **asdict(kernel.mass_of(b.shape))} for b in evaluation.site.bodies.values()]
    return {"part": part.name, "steps": steps, "bodies": bodies, "ledger": ledger_rows(part, evaluation)}


def broken(evaluation: Evaluation) -> list[str]:
    """Return the names of the bodies with which the kernel finds fault when it looks at all of each; that takes its time."""
    return [b.name for b in evaluation.site.bodies.values() if not kernel.check_whole(b.shape)]


def ledger_rows(part: Part, evaluation: Evaluation) -> list[dict[str, Any]]:
    """Return the ledger: formula, value in the part's units, where each tag lives and what uses it."""
    used: dict[str, list[str]] = {}
    for tag, outcome in evaluation.ledger.items():
        for other in outcome.uses:
            used.setdefault(other, []).append(tag)
    for step in part.steps:
        for _, value, _ in numbers_of(step):
            for other in parse(value.formula).tags if not value.tag else ():
                used.setdefault(other, []).append(step.name)
    rows = []
    for row in part.rows():
        outcome = evaluation.ledger[row.tag]
        remark = part.remarks.get(row.tag, Remark())
        worth = outcome.value
        rows.append({
            "tag": row.tag, "formula": row.formula, "kind": row.kind.value, "step": row.step, "place": row.place,
            **remark.model_dump(), "value": None if worth is None else plain(worth, row.kind),
            "shown": "" if worth is None else format_quantity(worth, part.units.units(), row.kind),
            "error": outcome.error.message if outcome.error else "", "used_by": used.get(row.tag, []),
        })
    return rows
