"""A part in figures, as plain JSON data."""

from __future__ import annotations

from dataclasses import asdict
from functools import lru_cache
from typing import Any

from .. import kernel
from ..errors import StepError
from ..once import OnceWeakly
from ..quantity import Kind, Units, format_quantity, parse
from ..quantity.units import plain
from ..route import Evaluation, Kept, Part, Remark
from ..route.checks import outside
from ..route.gauging import Gauged
from ..standards import limits_of
from ..steps import Body, Step, numbers_of
from .measure import shown_as

__all__ = ["broken", "ledger_rows", "report"]

NO_REMARK = Remark().model_dump()
_used_untagged: OnceWeakly[Step, tuple[str, ...]] = OnceWeakly(
    lambda step: tuple(t for _, v, _ in numbers_of(step) if not v.tag for t in parse(v.formula).tags)
)


def report(part: Part, evaluation: Evaluation) -> dict[str, Any]:
    """Return each step's state and references, each body's figures (mm, mm², mm³), and the ledger's
    values."""
    steps = [
        {
            "number": part.number(s.id),
            "id": s.id,
            "kind": s.kind,
            "name": s.name,
            "state": r.state,
            "message": r.message,
            "references": [asdict(x) for x in r.references],
        }
        for s, r in zip(part.steps, evaluation.reports, strict=True)
    ]
    bodies = [
        {"id": b.id, "name": b.name, **asdict(kernel.mass_of(b.shape))}
        for b in evaluation.site.bodies.values()
    ]
    return {"part": part.name, "steps": steps, "bodies": bodies, "ledger": ledger_rows(part, evaluation)}


def broken(evaluation: Evaluation) -> list[str]:
    """Return the names of the bodies with which the kernel finds fault when it looks at all of each; that
    takes its time."""

    def sound(body: Body) -> bool:
        return kernel.check_whole(body.shape) and kernel.encloses(body.shape)

    return [b.name for b in evaluation.site.bodies.values() if not sound(b)]


@lru_cache(20_000)
def _told(magnitude: float, unit: Any, kind: Kind, units: Units) -> tuple[float, str]:
    """Return a quantity as a plain number and as it is shown."""
    worth = magnitude * unit
    return plain(worth, kind), format_quantity(worth, units, kind)


def _limits(remark: Remark | None, value: float | None) -> str:
    """Say what a class of tolerance comes to; one that the value has grown out of says so."""
    if remark is None or not remark.tolerance or value is None:
        return ""
    try:
        return str(limits_of(remark.tolerance, abs(value)))
    except StepError as error:
        return error.message


def ledger_rows(part: Part, evaluation: Evaluation) -> list[dict[str, Any]]:
    """Return the ledger: formula, value in the part's units, where each tag lives and what uses it."""
    used: dict[str, list[str]] = {}
    for tag, outcome in evaluation.ledger.items():
        for other in outcome.uses:
            used.setdefault(other, []).append(tag)
    for step in part.steps:
        for other in _used_untagged(step):
            used.setdefault(other, []).append(step.name)
    rows, units = [], part.units.units()
    for row in part.rows():
        outcome = evaluation.ledger[row.tag]
        remark = part.remarks.get(row.tag)
        worth = outcome.value
        value, shown = (
            _told(worth.magnitude, worth.units, row.kind, units) if worth is not None else (None, "")
        )
        rows.append(
            {
                "tag": row.tag,
                "formula": row.formula,
                "kind": row.kind.value,
                "step": row.step,
                "place": row.place,
                **(remark.model_dump() if remark else NO_REMARK),
                "limits": _limits(remark, value),
                "value": value,
                "shown": shown,
                "error": outcome.error.message if outcome.error else "",
                "used_by": used.get(row.tag, []),
                "kept": None,
            }
        )
    return rows + [_kept_row(part, evaluation, kept, used.get(kept.tag, [])) for kept in part.kept]


def _kept_row(part: Part, evaluation: Evaluation, kept: Kept, used: list[str]) -> dict[str, Any]:
    """Return a kept measure as a row of the ledger: what it came to, whether it is within what is allowed."""
    found, units = evaluation.gauged.get(kept.tag, Gauged("waiting")), part.units.units()
    remark, reading = part.remarks.get(kept.tag), found.reading
    shown = shown_as(reading, units) if reading else ""
    scope = {t: o.value for t, o in evaluation.ledger.items() if o.value is not None}
    return {
        "tag": kept.tag,
        "formula": "",
        "kind": kept.unit if kept.unit in ("length", "angle") else "any",
        "step": "",
        "place": "",
        **(remark.model_dump() if remark else NO_REMARK),
        "limits": "",
        "value": reading.value if reading else None,
        "shown": shown,
        "error": found.message if found.state in ("lost", "waiting") else "",
        "used_by": used,
        "kept": {
            "state": found.state,
            "message": found.message,
            "outside": outside(part, kept.tag, reading.quantity(), scope) if reading else "",
            "key": kept.key,
            "words": reading.words if reading else "",
            "of": list(found.words),
            "things": [t.model_dump(mode="json") for t in kept.things],
            "feet": list(reading.feet) if reading else [],
            "after": kept.after,
            "now": list(found.now),
            "thing": found.thing,
            "candidates": [asdict(c) for c in found.candidates],
        },
    }
