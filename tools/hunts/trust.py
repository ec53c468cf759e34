"""What trials say of random parts against what is known of them by hand.

- ends: a plate with a bore, a pocket and rounded corners of random sizes: each range ends where the geometry says, to
  0.002 mm; a bore beside another has two islands.
- pairs: two bores that meet only when both have moved: found within 300 trials, and named by their two tags.
- advice: a step that is cut across the face that a window stands on: all that failed hold on a plane of its own, also on
  a fresh seed, and the part itself stays as it is.
- aims: volumes by one to three sides, with and without limits, against closed formulas; wishes that nothing reaches.
- planted: one part with six weaknesses, each found and named by its step, its reference or its tags within 300 trials; what
  a plane of its own saves there holds on a fresh seed.
- slopes: what moves what, against derivatives by formula, within 1e-4.
"""

from __future__ import annotations

import math
import random
from collections import Counter
from collections.abc import Callable
from typing import Any

from tests.building import TOP, axis, datum, drawn_on, f
from tests.samples import evaluated
from wendal.core import kernel
from wendal.core.reference import edge_ref, face_ref
from wendal.core.trust import Plan, ShakedownReport, aimed, driving, moved, shaken
from wendal.demo.builder import Builder
from wendal.workers.trials import Here

__all__ = ["hunt_trust"]

NEAR = 2e-3  # mm: to which an end is found
SLOPE = 1e-4  # of a derivative
WISH = 1e-7  # of a wish
SAME = 1e-4  # of a value that an aim finds


def plate(rng: random.Random) -> tuple[Builder, float, float, float]:
    """Return a plate of random size."""
    w, h, t = (round(rng.uniform(*r), 2) for r in ((30, 60), (20, 40), (6, 16)))
    b = Builder("Plate")
    outline = b.step("sketch", "Outline", on=axis("XY"))
    b.draw(outline, "rectangle", (0, 0), (w, h), on="origin", width=f"{w} mm", height=f"{h} mm")
    b.step("extrude", "Base", profile=b.profile(outline, 0), depth=f(f"{t} mm"))
    return b, w, h, t


def shake(b: Builder, ranges: dict[str, tuple[float, float]], sets: int = 0, seed: int = 1) -> ShakedownReport:
    """Shake some dimensions down in this process."""
    return list(shaken(b.part, Plan(tuple(ranges), seed, sets, ranges=ranges), Here()))[-1]


def judged(found: list[tuple[float, float]], known: list[tuple[float, float]]) -> bool:
    """Tell whether ranges are as known."""
    return len(found) == len(known) and all(abs(a - b) < NEAR for x, y in zip(found, known, strict=True) for a, b in zip(x, y, strict=True))


def bore(b: Builder, name: str, x: float, y: float, t: float, d: float) -> None:
    """Drill a plate at a place by two dimensions."""
    at = b.step("point", name, how="coordinates", x=f(f"{x} mm"), y=f(f"{y} mm"), z=f(f"{t} mm"))
    b.step("hole", f"Bore {name}", at=[datum(at)], start="from", start_at=TOP, end="through", diameter=f(f"{d} mm"))


def ends(rng: random.Random) -> bool:
    """One random part whose ranges are known."""
    b, w, h, t = plate(rng)
    d = round(rng.uniform(3, 7), 2)
    kind = rng.choice(["bore", "two bores", "pocket", "corners"])
    if kind == "bore":
        bore(b, "One", w / 2, h / 2, t, d)
        report = shake(b, {"one_x": (0.5, w - 0.5)})
        return judged(report.dimensions[0].ranges, [(d / 2, w - d / 2)])
    if kind == "two bores":
        bore(b, "One", d, h / 2, t, d)
        bore(b, "Two", w / 2, h / 2, t, d)
        report = shake(b, {"one_x": (0.5, w - 0.5)})
        return judged(report.dimensions[0].ranges, [(d / 2, w / 2 - d), (w / 2 + d, w - d / 2)])
    if kind == "pocket":
        ring = drawn_on(b, TOP, "rectangle", (4, 4), (w - 6, h - 5))
        b.step("extrude", "Pocket", profile=b.profile(ring, 0), extent="into", depth=f(f"{round(t / 3, 2)} mm"), result="cut")
        report = shake(b, {"pocket_depth": (0.2, 1.7 * t), "base_depth": (round(t / 3, 2) - 0.5, 2 * t)})
        return judged(report.dimensions[0].ranges, [(0.2, t)]) and judged(report.dimensions[1].ranges, [(round(t / 3, 2), 2 * t)])
    topology = evaluated(b).site.bodies["s2"].topology
    upright = [edge_ref("s2", topology, i).model_dump(mode="json") for i, e in enumerate(topology.edges) if abs(e.tangent[2]) > 0.9]
    b.step("fillet", "Soft", edges=upright, radius=f("2 mm"))
    report = shake(b, {"soft_radius": (0.5, 0.9 * max(w, h))})
    return judged(report.dimensions[0].ranges, [(0.5, min(w, h) / 2)])


def pairs(rng: random.Random) -> bool:
    """Two bores that meet only when both have moved."""
    b, w, h, t = plate(rng)
    d = round(rng.uniform(4, 7), 2)
    bore(b, "One", w / 4, h / 2, t, d)
    bore(b, "Two", 3 * w / 4, h / 2, t, d)
    near = w / 2 - d / 2 + rng.uniform(0.8, 2.0)  # each alone reaches so far: the other stays clear
    ranges = {"one_x": (w / 4 - 1, min(near, 3 * w / 4 - d - 0.1)), "two_x": (max(w - near, w / 4 + d + 0.1), 3 * w / 4 + 1), "base_depth": (t - 1, t + 2)}
    if ranges["one_x"][1] <= w / 4 or ranges["two_x"][0] >= 3 * w / 4 or ranges["two_x"][0] - ranges["one_x"][1] >= d:
        return True  # this plate has no such weakness
    report = shake(b, ranges, sets=40, seed=rng.randint(1, 99))
    named = [s for s in report.failed if set(s.tags) == {"one_x", "two_x"}]
    return bool(named) and report.trials <= 300 and all(d.holds for d in report.dimensions)


def advice(rng: random.Random) -> bool:
    """A window on a face that a step takes away."""
    b, w, h, t = plate(rng)
    floor = b.step("plane", "Step floor", how="offset", first=axis("XY"), distance=f(f"{round(t * 0.6, 2)} mm"))
    wide = round(w / 4, 2)
    outline = drawn_on(b, datum(floor), "rectangle", (0, 0), (wide, h), width=f"{wide} mm")
    b.step("extrude", "Step", profile=b.profile(outline, 0), depth=f("40 mm"), result="cut")
    window = drawn_on(b, TOP, "rectangle", (0.6 * w, h / 4), (0.85 * w, 0.7 * h))
    b.step("extrude", "Window", profile=b.profile(window, 0), extent="through_into", result="cut")
    tag = "sketch_of_rectangle_4_width" if any(r.tag == "sketch_of_rectangle_4_width" for r in b.part.rows()) else "sketch_of_rectangle_3_width"
    report = shake(b, {tag: (wide, 2.6 * w)})
    found = [a for a in report.advice if a.step]
    if not found or found[0].survived < found[0].tried:
        return False
    before = sum(kernel.volume_of(x.shape) for x in evaluated(b).site.bodies.values())
    b.do(**found[0].command)
    after = sum(kernel.volume_of(x.shape) for x in evaluated(b).site.bodies.values())
    again = shake(b, {tag: (wide, 2.6 * w), "base_depth": (0.9 * t, 1.5 * t)}, sets=8, seed=rng.randint(2, 99))
    bad = [d.high_end for d in again.dimensions if d.high_end] + again.failed
    return abs(after - before) < 1e-9 * before and not any(e.judgement in ("stopped", "held") for e in bad)


def block(b: Builder, name: str, plane: Any, low: tuple[float, float], high: tuple[float, float], depth: float, **more: Any) -> None:
    """Extrude a rectangle whose sizes are no dimensions."""
    ring = b.step("sketch", f"{name} sketch", on=plane)
    b.draw(ring, "rectangle", low, high)
    b.step("extrude", name, profile=b.profile(ring, 0), depth={"formula": f"{depth} mm"}, **more)


def top_of(b: Builder, body: str, height: float) -> dict[str, Any]:
    """Return the flat face of a body that looks up at a height."""
    topology = evaluated(b).site.bodies[body].topology
    faces = (i for i, x in enumerate(topology.faces) if x.form == "flat" and x.frame.normal[2] > 0.9 and abs(x.centre[2] - height) < 1e-6)
    return face_ref(body, topology, next(faces)).model_dump(mode="json")


def planted(rng: random.Random) -> bool:
    """One part with six weaknesses; each is to be found within 300 trials, and named."""
    w, h, t = (round(rng.uniform(*r), 2) for r in ((110, 140), (60, 80), (10, 14)))
    b = Builder("Six weaknesses")
    block(b, "Base", axis("XY"), (0, 0), (w, h), t)
    # 1: a pocket that breaks through. 2: corners rounder than their lug is wide. 3: a bore that leaves the plate.
    ring = drawn_on(b, top_of(b, "s2", t), "rectangle", (0.72 * w, 0.1 * h), (0.82 * w, 0.25 * h))
    b.step("extrude", "Pocket", profile=b.profile(ring, 0), extent="into", depth=f("3 mm"), result="cut")
    side = round(rng.uniform(10, 16), 2)
    block(b, "Lug", axis("XY"), (0, -60), (30, -60 + side), 8, result="new")
    lug = b.part.steps[-1].id
    topology = evaluated(b).site.bodies[lug].topology
    upright = [edge_ref(lug, topology, i).model_dump(mode="json") for i, e in enumerate(topology.edges) if abs(e.tangent[2]) > 0.9]
    b.step("fillet", "Lug corners", edges=upright, radius=f("2 mm"))
    for name, x, y in (("Lone", 0.9 * w, 0.9 * h), ("Left", 0.4 * w, 0.7 * h), ("Right", 0.6 * w, 0.7 * h)):
        at = b.step("point", name, how="coordinates", x=f(f"{round(x, 2)} mm"), y={"formula": f"{round(y, 2)} mm"}, z={"formula": f"{t} mm"})
        b.step("hole", f"Bore {name}", at=[datum(at)], start="from", start_at=top_of(b, "s2", t), end="through", diameter={"formula": "6 mm"})
    # 4: walls thicker than their case.
    case = round(rng.uniform(14, 19), 2)
    block(b, "Case", axis("XY"), (60, -60), (90, -60 + case), 20, result="new")
    made = b.part.steps[-1].id
    b.step("shell", "Hollow", body={"of": "body", "body": made}, openings=[top_of(b, made, 20)], thickness=f("2 mm"))
    # 5: a boss on a block whose top a slot takes away.
    block(b, "Block", top_of(b, "s2", t), (0.3 * w, 0.1 * h), (0.5 * w, 0.3 * h), 6, result="add", bodies=[{"of": "body", "body": "s2"}])
    slot = b.step("sketch", "Slot sketch", on=top_of(b, "s2", t))
    wide = round(0.34 * w, 2)
    b.draw(slot, "rectangle", (0, 0), (wide, 0.35 * h), on="origin", width=f"{wide} mm")
    b.step("extrude", "Slot", profile=b.profile(slot, 0), depth={"formula": "40 mm"}, result="cut")
    block(b, "Boss", top_of(b, "s2", t + 6), (0.46 * w, 0.15 * h), (0.55 * w, 0.25 * h), 4, result="add", bodies=[{"of": "body", "body": "s2"}])
    left, right = (next(d.value for d in driving(b.part) if d.tag == x) for x in ("left_x", "right_x"))
    near = (right - left) / 2 - 2  # each alone reaches so far, and stays clear of the other
    slot_tag = next(d.tag for d in driving(b.part) if d.tag.startswith("slot_"))
    ranges = {
        "pocket_depth": (1.0, 1.8 * t), "lug_corners_radius": (0.5, side), "lone_x": (0.8 * w, w + 2), "hollow_thickness": (0.5, case),
        slot_tag: (0.31 * w, 0.6 * w), "left_x": (left - 3, left + near), "right_x": (right - near, right + 3),
    }  # fmt: skip
    known = {"pocket_depth": ("Pocket", t), "lug_corners_radius": ("Lug corners", side / 2), "lone_x": ("Bore Lone", w - 3), "hollow_thickness": ("Hollow", case / 2), slot_tag: ("Boss sketch", 0.5 * w)}
    needed, last = 0, None
    for last in shaken(b.part, Plan(tuple(ranges), rng.randint(1, 99), 40, ranges=ranges), Here()):
        if not needed and any(set(x.tags) == {"left_x", "right_x"} for x in last.failed):
            needed = last.trials
    assert last is not None
    ends_found = {d.tag: d.high_end for d in last.dimensions}
    right_ends = all(e is not None and e.name == known[x][0] and abs(e.at - known[x][1]) < NEAR for x, e in ends_found.items() if x in known)
    return right_ends and 0 < needed <= 300 and getattr(ends_found[slot_tag], "field", "") == "on"


def aims(rng: random.Random) -> bool:
    """A volume by one to three sides; the least change of each as a share of itself is the same share of all."""
    b, w, h, t = plate(rng)
    sizes = {"outline_width": w, "outline_height": h, "base_depth": t}
    tags = rng.sample(list(sizes), rng.randint(1, 3))
    none = rng.random() < 0.1
    share = 2.5 ** len(tags) * 1.2 if none else rng.uniform(0.5, 0.95 * 2.4 ** len(tags) / (1 if len(tags) == 1 else 2))
    wish = w * h * t * share
    found = list(aimed(b.part, "Base: volume", wish, tuple(tags), Here()))[-1]
    if none:
        return not found.values
    if found.reached is None or abs(found.reached - wish) > WISH * wish:
        return False
    each = share ** (1 / len(tags))
    return all(abs(float(found.values[x].split()[0]) / sizes[x] - each) < SAME * each for x in tags)


def slopes(rng: random.Random) -> bool:
    """Volume, area and centre of a plate with a round bore, by every dimension."""
    b, w, h, t = plate(rng)
    d = round(rng.uniform(3, 7), 2)
    bore(b, "One", w / 3, h / 2, t, d)
    found = list(moved(b.part, (), Here()))[-1]
    per = {m.tag: m.per for m in found.dimensions}
    volume = {"outline_width": h * t, "outline_height": w * t, "base_depth": w * h - math.pi * d * d / 4, "one_x": 0.0, "bore_one_diameter": -math.pi * d * t / 2}
    area = {"base_depth": 2 * (w + h) + math.pi * d, "bore_one_diameter": math.pi * (t - d)}
    close: Callable[[float, float], bool] = lambda a, c: abs(a - c) <= SLOPE * max(abs(c), 1.0)  # noqa: E731
    return all(close(per[x]["Base: volume"], v) for x, v in volume.items()) and all(close(per[x]["Base: area"], v) for x, v in area.items())


KINDS: dict[str, Callable[[random.Random], bool]] = {"ends": ends, "pairs": pairs, "advice": advice, "planted": planted, "aims": aims, "slopes": slopes}


def hunt_trust(size: int, seed: int = 1, kinds: Any = tuple(KINDS)) -> Counter[str]:
    """Try random parts of every kind; count how they came out."""
    found: Counter[str] = Counter()
    for kind in kinds:
        for k in range(size):
            right = KINDS[kind](random.Random(f"{kind}:{seed}:{k}"))
            found[f"{kind}: {'right' if right else 'wrong'}"] += 1
            if not right:
                print(f"  trust {kind}:{seed}:{k} is wrong", flush=True)
    return found
