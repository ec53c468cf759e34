"""The same document gives the same part, whatever happened to it: parts that are edited many times and set back.

Every edit goes the way of the service: the model is followed (`follow_model`), then the command is applied. In the end
all numbers are what they were at first. The oracle is the part as it was, evaluated in a memory of its own: volumes,
centres, the places of all corners, the names of faces and how all steps stand must be the same.
"""

from __future__ import annotations

import json
import math
import random
from collections import Counter
from collections.abc import Callable, Iterable
from pathlib import Path
from typing import Any

from wendal.core import kernel
from wendal.core.errors import WendalError
from wendal.core.route import Evaluation, Memory, Part, apply, evaluate, read_part, write_part
from wendal.core.route.commands import SetFormula
from wendal.core.route.taking import follow_model, taken_now
from wendal.demo import DEMO_PARTS

__all__ = ["hunt_history"]

CASES = Path(__file__).parents[2] / "tests" / "data" / "cases"
PARTS: dict[str, Callable[[], Part]] = {
    **DEMO_PARTS,
    **{name: lambda name=name: read_part((CASES / f"{name}.json").read_text()) for name in ("slope", "cut_line_flips")},  # type: ignore[misc]
}
CLOSE = 1e-6


def _followed(part: Part, memory: Memory) -> Part:
    return follow_model(part, json.loads(json.dumps(taken_now(part, evaluate(part, memory)))))


def _figures(found: Evaluation) -> Any:
    bodies = {
        b: (kernel.mass_of(body.shape), sorted(v.place for v in body.topology.vertices), sorted(n for names in body.shape.names for n in names))
        for b, body in found.site.bodies.items()
    }
    return [(r.id, r.state) for r in found.reports], bodies


def _same(one: Evaluation, other: Evaluation) -> bool:
    (states, bodies), (states_too, bodies_too) = _figures(one), _figures(other)
    if states != states_too or bodies.keys() != bodies_too.keys():
        return False
    for (mass, corners, names), (mass_too, corners_too, names_too) in zip(bodies.values(), bodies_too.values(), strict=True):
        close = abs(mass.volume - mass_too.volume) < CLOSE * mass.volume and math.dist(mass.centre, mass_too.centre) < CLOSE * 10
        near = len(corners) == len(corners_too) and all(min(math.dist(p, q) for q in corners_too) < CLOSE * 10 for p in corners)
        if not close or not near or names != names_too:
            return False
    return True


def walked(part: Part, rng: random.Random, edits: int) -> tuple[Part, int]:
    """Return the part after some edits that are all taken back by hand, and how many were made."""
    memory, own = Memory(faces=9000), {r.tag: r.formula for r in part.rows()}
    values = {t: o.value for t, o in part.evaluated().items() if o.value is not None}
    tags = [t for t in own if t in values and own[t][:1].isdigit()]
    made, touched = 0, set()
    for _ in range(edits):
        tag = rng.choice(tags)
        number, _, unit = own[tag].partition(" ")
        try:
            size = float(number) * rng.uniform(0.85, 1.2)
            changed = apply(_followed(part, memory), SetFormula(tag=tag, formula=f"{size!r} {unit}".strip()))
        except (WendalError, ValueError):
            continue
        part, made = changed, made + 1
        touched.add(tag)
    for tag in sorted(touched):
        part = apply(_followed(part, memory), SetFormula(tag=tag, formula=own[tag]))
    return part, made


def hunt_history(size: int, seed: int, names: Iterable[str] = PARTS) -> Counter[str]:
    """Walk each of some parts so many times; count how it came back."""
    found: Counter[str] = Counter()
    for k in range(size):
        for name in names:
            make, rng = PARTS[name], random.Random(f"{seed}:{k}:{name}")
            first = read_part(write_part(make()))
            try:
                part, made = walked(first, rng, 20)
            except WendalError as error:  # on the way back through what is refused
                found[f"way back refused: {error.message[:40]}"] += 1
                continue
            same = _same(evaluate(part, Memory()), evaluate(first, Memory()))
            found["same" if same else f"wrong: {name}"] += 1
            found["  edits"] += made
            if not same:
                print(f"  history {seed}:{k}:{name}", flush=True)
    return found
