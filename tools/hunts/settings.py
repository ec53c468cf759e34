"""Parts under random settings of their ledger: each is valid with all references sound, or stopped with words. There is no third outcome."""

from __future__ import annotations

import random
from collections import Counter

from wendal.core import kernel
from wendal.core.errors import WendalError
from wendal.core.quantity import parse
from wendal.core.route import Memory, Part, evaluate
from wendal.demo.builder import Builder

__all__ = ["tried"]


def tried(part: Part, settings: int, seed: int = 1, low: float = 0.6, high: float = 1.7) -> tuple[Counter[str], list[str]]:
    """Set the part's own tags at random and judge what comes of it; return how often each outcome came, and every third one in words."""
    rng, memory = random.Random(seed), Memory()
    free = [e for e in part.ledger if not parse(e.formula).tags]
    found: Counter[str] = Counter()
    strange: list[str] = []
    for _ in range(settings):
        b = Builder("tried")
        b.part = part
        said = []
        try:
            for entry in rng.sample(free, rng.randint(1, len(free))):
                value = parse(entry.formula).value({})
                formula = str(rng.randint(2, 12)) if value.dimensionless else f"{round(value.magnitude * rng.uniform(low, high), 2)} {value.units:~}"
                said.append(f"{entry.tag} = {formula}")
                b.do(do="set_formula", tag=entry.tag, formula=formula)
        except WendalError as error:
            found["refused" if error.message else "without a word"] += 1
            continue
        outcome = _judged(b.part, memory)
        found[outcome] += 1
        if outcome not in ("valid", "stopped"):
            strange.append(f"{outcome}: {', '.join(said)}")
    return found, strange


def _judged(part: Part, memory: Memory) -> str:
    evaluation = evaluate(part, memory)
    states = {r.state for r in evaluation.reports}
    if "stopped" in states:
        return "stopped" if all(r.message for r in evaluation.reports if r.state == "stopped") else "stopped without a word"
    if states != {"built"}:
        return "held"
    if any(ref.state != "sound" for r in evaluation.reports for ref in r.references):
        return "not sound"
    masses = [kernel.mass_of(b.shape) for b in evaluation.site.bodies.values()]
    return "valid" if masses and all(m.valid and m.volume > 0 for m in masses) else "broken"
