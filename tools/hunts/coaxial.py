"""Bosses coaxial with a round end of the same radius, over fillets: the joined volume against the bare kernel's.

The oracle is the kernel's own volumes of both bodies and of what they have in common: V(A ∪ B) = V(A) + V(B) − V(A ∩ B),
where the common part comes from an operation of another kind.
"""

from __future__ import annotations

import random
from collections import Counter
from pathlib import Path

from wendal.core import kernel
from wendal.core.kernel.boolean import by_kernel
from wendal.core.route import Memory, apply, evaluate, read_part
from wendal.core.route.commands import EditStep, SetFormula

__all__ = ["hunt_coaxial"]

CASE = Path(__file__).parents[2] / "tests" / "data" / "cases" / "broken_solid_coaxial_boss.json"


def hunt_coaxial(size: int, seed: int = 1) -> Counter[str]:
    """Try bosses at random; count how they came out."""
    found: Counter[str] = Counter()
    case = read_part(CASE.read_text())
    memory = Memory(faces=4000)
    for k in range(size):
        rng = random.Random(f"{seed}:{k}")
        part = case
        for tag, low, high in (("extrude_1_depth", 14, 40), ("extrude_2_depth", 5, 12), ("fillet_1_radius", 0.4, 2.4), ("extrude_3_depth", 15, 60)):
            part = apply(part, SetFormula(tag=tag, formula=f"{round(rng.uniform(low, high), rng.randint(1, 3))} mm"))
        extent = rng.choice(["both", "out", "into"])
        part = apply(part, EditStep(step="s5", fields={"extent": extent}))
        result = evaluate(part, memory)
        states = [r.state for r in result.reports]
        if states[:-1] != ["built"] * (len(states) - 1):
            found["upstream refused"] += 1
            continue
        if states[-1] != "built":
            found["refused: " + result.reports[-1].message[:50]] += 1
            print(f"  coaxial {seed}:{k}: {result.reports[-1].message}", flush=True)
            continue
        before = result.sites["s6"].bodies["s2"].shape
        alone = evaluate(apply(part, EditStep(step="s5", fields={"result": "new", "bodies": []})), memory)
        boss = alone.site.bodies["s5"].shape
        shared = by_kernel("common", [boss], [before], merge=False)
        expected = kernel.volume_of(before) + kernel.volume_of(boss) - kernel.volume_of(shared)
        volume = kernel.volume_of(result.site.bodies["s2"].shape)
        right = abs(volume - expected) < 1e-6 * expected
        found["right" if right else "wrong"] += 1
        if not right:
            print(f"  coaxial {seed}:{k}: {volume} for {expected}", flush=True)
    return found
