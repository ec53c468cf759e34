"""Two branches brought together: chains of edits by chance on both sides of parts, against both chains done one after the other.

What one chain touches the other leaves alone, so the oracle is the same edits made on one part in a row: numbers, steps,
their order and their states, the bodies' volumes and centres must be the same, whichever side is called ours. And
where both change one number, it must be told as a conflict, and either choice must give that value.
"""

from __future__ import annotations

import random
from collections import Counter
from collections.abc import Callable
from typing import Any

from pydantic import TypeAdapter

from wendal.core import kernel
from wendal.core.errors import WendalError
from wendal.core.route import Command, Memory, Part, apply, evaluate, read_part, write_part
from wendal.core.route.together import bring_together
from wendal.demo import DEMO_PARTS

__all__ = ["hunt_together"]

COMMANDS: TypeAdapter[Any] = TypeAdapter(Command)
PLANES = ("XY", "YZ", "ZX")


def _formulas(part: Part, rng: random.Random, tags: list[str]) -> list[dict[str, Any]]:
    rows = {r.tag: r.formula for r in part.rows()}
    found = []
    for tag in tags:
        number, _, unit = rows[tag].partition(" ")
        try:
            found.append({"do": "set_formula", "tag": tag, "formula": f"{float(number) * rng.uniform(0.97, 1.03):.6g} {unit}".strip()})
        except ValueError:
            continue
    return found


def _chain(part: Part, rng: random.Random, tags: list[str], side: str) -> list[dict[str, Any]]:
    """Return edits of one side: numbers, new datums and sketches at the end or in between, notes, tags, looks, renamed steps."""
    edits = _formulas(part, rng, tags)
    for n in range(rng.randint(0, 2)):
        after = rng.choice(part.steps).id if rng.random() < 0.5 else ""
        step = {"kind": "plane", "name": rng.choice(["Aside", f"Aside {side}{n}"]), "how": "offset",
                "first": {"of": "base", "name": rng.choice(PLANES)}, "distance": {"formula": f"{rng.randint(1, 90)} mm"}}
        edits.append({"do": "add_step", "step": step, "after": after})
    for n in range(rng.randint(0, 2)):
        edits.append({"do": "add_tag", "tag": rng.choice(["spare", f"spare_{side}{n}"]), "formula": f"{rng.randint(1, 9)} mm"})
    if rng.random() < 0.5:
        edits.append({"do": "set_note", "step": rng.choice(part.steps[:: 2 if side == "a" else 3][:1]).id if side == "a" else part.steps[-1].id, "note": f"by {side}"})
    return edits


def _done(part: Part, edits: list[dict[str, Any]]) -> tuple[Part, list[dict[str, Any]]]:
    made = []
    for edit in edits:
        try:
            part = apply(part, COMMANDS.validate_python(edit))
        except (WendalError, ValueError):
            continue
        made.append(edit)
    return part, made


def _told(part: Part, memory: Memory) -> Any:
    """Return all that matters of a part, but for ids: names are the same on both ways but for those that were met twice."""
    found = evaluate(part, memory)
    values = sorted(str(o.value) for o in part.evaluated().values())
    kinds = Counter((s.kind, r.state) for s, r in zip(part.steps, found.reports, strict=True))
    bodies = {b: (round(m.volume, 5), tuple(round(x, 6) for x in m.centre)) for b, body in found.site.bodies.items() for m in [kernel.mass_of(body.shape)]}
    return values, kinds, bodies, sorted(part.notes.values())


def one(base: Part, seed: str, memory: Memory) -> str:
    """Bring two chains together in both orders; return what came of it."""
    rng = random.Random(seed)
    tags = [r.tag for r in base.rows() if r.formula[:1].isdigit()]
    rng.shuffle(tags)
    cut, end = rng.randint(0, 4), rng.randint(5, 8)
    ours, mine = _done(base, _chain(base, rng, tags[:cut], "a"))
    theirs, other = _done(base, _chain(base, rng, tags[cut:end], "b"))
    try:
        _whole, _ = _done(ours, other)
        row, made = _done(base, [*mine, *other])
    except WendalError:
        return "  the oracle is refused"
    spared = {e["tag"] for e in mine if e["do"] == "add_tag"} & {e["tag"] for e in other if e["do"] == "add_tag"}
    if spared:  # both added one tag: the same number or a conflict
        merged = bring_together(base, ours, theirs)
        return "told" if {c.field for c in merged.conflicts} <= spared else f"wrong: {merged.conflicts}"
    if len(made) < len(mine) + len(other):
        twice = {e["step"]["name"] for e in mine if e["do"] == "add_step"} & {e["step"]["name"] for e in other if e["do"] == "add_step"}
        if not twice:
            return "  the oracle is refused"
        row = None
    one_way, other_way = bring_together(base, ours, theirs), bring_together(base, theirs, ours)
    if one_way.conflicts or other_way.conflicts:
        return f"wrong: asked needlessly, {one_way.conflicts or other_way.conflicts}"
    first, second = (read_part(write_part(m.part)) for m in (one_way, other_way))
    told = _told(first, memory)
    if told != _told(second, memory):
        return "wrong: the order of the sides matters"
    if row is not None and told != _told(row, memory):
        return "wrong: not as both in a row"
    if len(first.steps) != len(base.steps) + sum(e["do"] == "add_step" for e in (*mine, *other)):
        return "wrong: steps lost"
    return "joined"


def conflict(base: Part, seed: str) -> str:
    """Change one number on both sides; it must be asked, and either choice be taken."""
    rng = random.Random(seed)
    tags = [r.tag for r in base.rows() if r.formula[:1].isdigit()]
    tag = rng.choice(tags)
    sides = []
    for _ in range(2):
        side, made = _done(base, _formulas(base, rng, [tag]))
        if not made:
            return "  refused"
        sides.append(side)
    formulas = [next(r.formula for r in s.rows() if r.tag == tag) for s in sides]
    if len(set(formulas)) == 1:
        return "  the same"
    found = bring_together(base, *sides)
    if len(found.conflicts) != 1 or {found.conflicts[0].ours, found.conflicts[0].theirs} != set(formulas):
        return f"wrong: {found.conflicts}"
    for choice, wanted in zip(("ours", "theirs"), formulas, strict=True):
        chosen = bring_together(base, *sides, {found.conflicts[0].key: choice}).part
        if next(r.formula for r in chosen.rows() if r.tag == tag) != wanted:
            return "wrong: not what was chosen"
    return "asked and taken"


def hunt_together(size: int, seed: int, parts: dict[str, Callable[[], Part]] = DEMO_PARTS) -> Counter[str]:
    """Bring so many pairs of chains together for each part; count what came of it."""
    found: Counter[str] = Counter()
    for name, make in parts.items():
        base, memory = read_part(write_part(make())), Memory()
        for k in range(size):
            for came in (one(base, f"{seed}:{k}:{name}", memory), conflict(base, f"{seed}:c{k}:{name}")):
                found[came if not came.startswith("wrong") else f"wrong: {name} {seed}:{k} {came[7:200]}"] += 1
    return found
