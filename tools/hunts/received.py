"""Newer versions of received files: parts with one dimension changed, or a hole or a boss more, written as STEP, received, and matched face
by face against the names that the faces have in the part they come from.

wrong : a face took the number of another one. missed : a face that is still there got a new number.
"""

from __future__ import annotations

import random
from collections import Counter

from tests.building import TOP, axis, drawn_on
from wendal.core import exchange
from wendal.core.errors import WendalError
from wendal.core.receiving import Kept, opened
from wendal.core.route import Evaluation, Memory, Part, apply, evaluate
from wendal.core.route.commands import SetFormula
from wendal.demo import DEMO_PARTS
from wendal.demo.builder import Builder
from wendal.workers import receiving

__all__ = ["hunt_received"]


def truth(evaluation: Evaluation) -> list[str]:
    """The faces' names, in the order in which they are received."""
    return [min(n, key=len) for b in evaluation.site.bodies.values() for n in b.shape.names]


def received(part: Part, evaluation: Evaluation, before: Kept | None) -> Kept:
    """Write a part as STEP and receive it."""
    content = exchange.export(part, evaluation, "step")
    return opened(receiving._read(content, "sent.step", "", before.content() if before else b"")[1])


def judge(old: Part, new: Part) -> Counter[str]:
    """Count faces whose numbers tell the truth, and those whose do not."""
    before, after = evaluate(old, Memory()), evaluate(new, Memory())
    if any(r.state not in ("built", "waiting") for e in (before, after) for r in e.reports):
        return Counter({"not built": 1})
    first = received(old, before, None)
    second = received(new, after, first)
    was, now = truth(before), truth(after)
    if (len(was), len(now)) != (len(first.numbers), len(second.numbers)):
        return Counter({"faces were split or joined on the way": 1})
    known = dict(zip(first.numbers, was, strict=True))
    found: Counter[str] = Counter()
    for number, name in zip(second.numbers, now, strict=True):
        if number in known:
            found["right" if known[number] == name else "wrong"] += 1
        else:
            found["missed" if name in was else "rightly new"] += 1
    return found


def changed(rng: random.Random) -> tuple[Part, Part]:
    """A demo part, and the same with one dimension changed by up to a tenth."""
    part = rng.choice(list(DEMO_PARTS.values()))()
    row = rng.choice([r for r in part.rows() if r.step and r.formula[:1].isdigit()])
    number, _, unit = row.formula.partition(" ")
    return part, apply(part, SetFormula(tag=row.tag, formula=f"{float(number) * rng.uniform(0.9, 1.1):.6g} {unit}"))


def added(rng: random.Random) -> tuple[Part, Part]:
    """A plate with some bores, and the same with a bore or a boss more."""

    def made(more: bool) -> Part:
        b = Builder("Plate")
        ring = drawn_on(b, axis("XY"), "rectangle", (0, 0), (80, 50))
        body = b.step("extrude", "Base", profile=b.profile(ring, 0), depth={"formula": "10 mm"})
        for n, (x, y, r) in enumerate(places if more else places[:-1]):
            boss = more and n == len(places) - 1 and raised
            ring = drawn_on(b, TOP if boss else axis("XY"), "circle", (x, y), (x + r, y))
            way = {"depth": {"formula": "6 mm"}, "result": "add", "bodies": [{"of": "body", "body": body}]} if boss else {"extent": "through", "result": "cut"}
            b.step("extrude", f"Round {n}", profile=b.profile(ring, 0), **way)
        return b.part

    places = [(12.0 + 18 * i + rng.uniform(-2, 2), rng.uniform(10, 40), rng.uniform(1.5, 5)) for i in range(rng.randint(2, 4))]
    raised = rng.random() < 0.4
    rng.shuffle(places)
    return made(False), made(True)


def hunt_received(size: int, seed: int = 1) -> Counter[str]:
    """Try so many newer files, two thirds with a change, one with an addition."""
    found: Counter[str] = Counter()
    for k in range(size):
        rng = random.Random(f"{seed}:{k}")
        kind = "added" if k % 3 == 2 else "changed"
        try:
            counted = judge(*(added if kind == "added" else changed)(rng))
        except WendalError as error:
            counted = Counter({f"refused: {error.message[:60]}": 1})
        if counted["wrong"]:
            print(f"  received {seed}:{k} {kind}: {dict(counted)}", flush=True)
        found.update({f"{kind} {what}": n for what, n in counted.items()})
    return found
