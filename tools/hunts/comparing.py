"""Pairs of random bodies compared, of which is known in what they differ.

Moved by a random motion; a mirror image; the same made in another order; a bore shifted by 1e-6 to 1e-2 mm (its width
times the shift, times the thickness, on either side); one bore more; none of these. Common and only here is always the
whole, to 1e-9. Last, two bodies of some 500 faces that differ by one pocket, in seconds.
"""

from __future__ import annotations

import math
import random
import time
from collections import Counter
from typing import Any

from tests.building import axis, drawn_on, f
from tests.samples import evaluated
from wendal.core import kernel
from wendal.core.kernel.types import Frame, Placement, unit
from wendal.demo.builder import Builder

__all__ = ["hunt_comparing"]

KINDS = ("moved", "mirrored", "another order", "shifted", "one more", "resized")
WHOLE = 1e-9  # of a volume
LEAST = 1e-5  # mm: what is nearer is the same to the kernel
Bore = tuple[float, float, float]


def body(w: float, h: float, t: float, bores: list[Bore], more: float = 0.0) -> Any:
    """Return a plate with bores, and a step along its edge, so that it is no mirror image of itself."""
    b = Builder("Plate")
    outline = b.step("sketch", "Outline", on=axis("XY"))
    b.draw(outline, "rectangle", (0, 0), (w + more, h), on="origin", width=f"{w + more} mm", height=f"{h} mm")
    b.step("extrude", "Base", profile=b.profile(outline, 0), depth=f(f"{t} mm"))
    for n, (x, y, r) in enumerate(bores):
        ring = drawn_on(b, axis("XY"), "circle", (x, y), (x + r, y))
        b.step("extrude", f"Bore {n}", profile=b.profile(ring, 0), result="cut", **({"depth": f(f"{t / 2} mm")} if n == 0 else {"extent": "through"}))
    (found,) = evaluated(b).site.bodies.values()
    return found.shape


def bores_of(rng: random.Random, w: float, h: float) -> list[Bore]:
    """Return bores that stay clear of one another."""
    found: list[Bore] = []
    while len(found) < rng.randint(2, 5):
        r = round(rng.uniform(1, 3), 2)
        x, y = round(rng.uniform(r + 1, w - r - 1), 2), round(rng.uniform(r + 1, h - r - 1), 2)
        if all(math.dist((x, y), (u, v)) > r + s + 1 for u, v, s in found):
            found.append((x, y, r))
    return found


def motion(rng: random.Random) -> Placement:
    """Return a random motion."""
    along = unit((rng.uniform(-1, 1), rng.uniform(-1, 1), rng.uniform(0.1, 1)))
    turn = Placement.turned((rng.uniform(-9, 9), 0, 5), along, rng.uniform(-3, 3))
    return turn.then(Placement.shifted((rng.uniform(-80, 80), rng.uniform(-80, 80), rng.uniform(-80, 80))))


def balanced(a: Any, b: Any, here: float, there: float, near: float) -> bool:
    """Tell whether what only one has is as known, and common and only here is the whole."""
    apart = kernel.apart_from(a, b)
    common, only_a, only_b = apart.volumes
    va, vb = kernel.volume_of(a), kernel.volume_of(b)
    whole = abs(common + only_a - va) <= WHOLE * va and abs(common + only_b - vb) <= WHOLE * vb
    return whole and abs(only_a - here) <= near and abs(only_b - there) <= near


def one(kind: str, rng: random.Random) -> bool:
    """Compare one pair; tell whether it is told as known."""
    w, h, t = (round(rng.uniform(*r), 2) for r in ((30, 60), (20, 40), (4, 12)))
    bores = bores_of(rng, w, h)
    a = body(w, h, t, bores)
    if kind == "moved":
        there = kernel.placed(a, motion(rng))
        found = kernel.motion_between(a, there)
        return found is not None and not found.mirrors and kernel.same_within(kernel.placed(a, found), there) <= LEAST
    if kind == "mirrored":
        flat = Frame((3.0, 0.0, 0.0), (0.0, 1.0, 0.0), (0.0, 0.0, 1.0))
        found = kernel.motion_between(a, kernel.placed(a, Placement.mirrored(flat).then(motion(rng))))
        return found is not None and found.mirrors
    if kind == "another order":
        first, *others = bores
        return bool(kernel.same_within(a, body(w, h, t, [first, *others[::-1]])) <= 1e-8)
    if kind == "shifted":
        shift = 10 ** rng.uniform(-6, -2)
        x, y, r = bores[-1]
        b = body(w, h, t, [*bores[:-1], (x + shift, y, r)])
        within = kernel.same_within(a, b)
        if shift < LEAST / 2:
            return bool(within <= LEAST)
        if within < math.inf:
            return shift < 1.5 * LEAST
        sides = 2 * r * shift * (t / 2 if len(bores) == 1 else t)
        return balanced(a, b, sides, sides, 5e-3 * sides + 1e-6)
    if kind == "one more":
        while True:
            more = bores_of(rng, w, h)[0]
            if all(math.dist(more[:2], x[:2]) > more[2] + x[2] + 1 for x in bores):
                break
        return balanced(a, body(w, h, t, [*bores, more]), math.pi * more[2] ** 2 * t, 0.0, 1e-6)
    wider = round(rng.uniform(0.5, 3), 2)
    return balanced(a, body(w, h, t, bores, wider), 0.0, wider * h * t, 1e-6)


def many(at: float) -> Any:
    """Return a plate with a hundred pockets, one of which is at a place of its own."""
    b = Builder("Many")
    outline = b.step("sketch", "Outline", on=axis("XY"))
    b.draw(outline, "rectangle", (0, 0), (200, 200))
    b.step("extrude", "Base", profile=b.profile(outline, 0), depth=f("8 mm"))
    rings = b.step("sketch", "Pockets", on=axis("XY"))
    for i in range(100):
        x, y = 20 * (i % 10) + 4, 20 * (i // 10) + 4
        x += at if i == 47 else 0.0
        b.draw(rings, "rectangle", (x, y), (x + 11, y + 12))
    b.step("extrude", "Pocket", profile=b.profile(rings, *range(100)), depth=f("3 mm"), result="cut")
    (found,) = evaluated(b).site.bodies.values()
    return found.shape


def hunt_comparing(size: int, seed: int = 1, large: bool = True) -> Counter[str]:
    """Compare so many pairs of every kind, and one of some 500 faces."""
    found: Counter[str] = Counter()
    for kind in KINDS:
        for k in range(size):
            right = one(kind, random.Random(f"{kind}:{seed}:{k}"))
            found[f"{kind}: {'right' if right else 'wrong'}"] += 1
            if not right:
                print(f"  comparing {kind}:{seed}:{k} is wrong", flush=True)
    if large:
        a, b = many(0.0), many(0.5)
        began = time.monotonic()
        lonely, there = kernel.unmatched(a, b)
        told = time.monotonic() - began
        right = balanced(a, b, 0.5 * 12 * 3, 0.5 * 12 * 3, 1e-6)
        took = time.monotonic() - began
        print(f"  {len(a.names)} faces: {len(lonely)} and {len(there)} that differ after {told:.2f} s, all of it after {took:.2f} s")
        found[f"500 faces: {'right' if right else 'wrong'}"] += 1
    return found
