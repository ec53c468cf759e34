"""Planes that tilt, faces that slope, and bars that move past a plane, each followed against closed formulas.

- tilt: a plane through an axis at an angle, a prism on it, a sketch on the prism's end and another on its side. The
  plane is turned in steps through ±180°; every frame must be the first one turned about the axis by the same angle.
- slope: the top of a block slopes; a sketch on it is followed while the slope passes through level.
- cut: a round bar is cut by a plane in two lines; one is taken in. Bar and plane move, the line must stay on the side
  of the axis on which it was, at the distance that Pythagoras gives, or, where they do not meet, the sketch stops.
"""

from __future__ import annotations

import math
import random
from collections import Counter
from itertools import pairwise
from typing import Any

from tests.samples import XY
from wendal.core.reference import FaceRef, face_ref
from wendal.core.route import Memory, Part, apply, evaluate
from wendal.core.route.commands import SetFormula
from wendal.core.route.taking import settled, trace_picks
from wendal.demo.builder import Builder

__all__ = ["hunt_turns"]

CLOSE = 1e-6
BASES = {"X": (1.0, 0.0, 0.0), "Y": (0.0, 1.0, 0.0), "Z": (0.0, 0.0, 1.0)}
ALONG = {"X": ("XY", "ZX"), "Y": ("XY", "YZ"), "Z": ("YZ", "ZX")}


def turned(v: Any, axis: Any, angle: float) -> tuple[float, ...]:
    """Return a vector turned about a unit axis (Rodrigues' formula), written out here on purpose."""
    c, s, d = math.cos(angle), math.sin(angle), sum(a * b for a, b in zip(axis, v, strict=True))
    w = (axis[1] * v[2] - axis[2] * v[1], axis[2] * v[0] - axis[0] * v[2], axis[0] * v[1] - axis[1] * v[0])
    return tuple(c * v[i] + s * w[i] + (1 - c) * d * axis[i] for i in range(3))


def _set(part: Part, **formulas: str) -> Part:
    for tag, formula in formulas.items():
        part = apply(part, SetFormula(tag=tag, formula=formula))
    return part


def _face(b: Builder, body: str, name: str) -> dict[str, Any]:
    topology = evaluate(b.part, Memory()).site.bodies[body].topology
    index = next(i for i, f in enumerate(topology.faces) if any(n.startswith(name) for n in f.names))
    return face_ref(body, topology, index).model_dump(mode="json")


def tilt(rng: random.Random) -> Counter[str]:
    """Turn a plane with a prism and two sketches on it."""
    found: Counter[str] = Counter()
    axis = rng.choice("XYZ")
    start, other = rng.uniform(-179, 179), rng.choice(ALONG[axis])
    b = Builder("Tilt")
    plane = b.step("plane", "Tilt", how="angle", first={"of": "base", "name": axis}, second={"of": "base", "name": other}, angle={"formula": f"{start!r} deg", "tag": "tilt"})
    base = b.step("sketch", "Base", on={"of": "datum", "step": plane})
    b.draw(base, "rectangle", (0, 0), (20, 12))
    body = b.step("extrude", "Prism", profile=b.profile(base, 0), depth={"formula": "9 mm"})
    sketches = [base, *(b.step("sketch", name, on=_face(b, body, f"{body}/{name}")) for name in ("end", "side"))]
    memory = Memory()
    first = evaluate(b.part, memory)
    part = settled(b.part, first)
    then = {s: first.site.sketches[s].frame for s in sketches}
    for _ in range(12):
        angle = rng.choice([rng.uniform(-179, 179), rng.choice([0, 90, 180, -90]) + rng.choice([0, 1e-3, -1e-3, 1e-6]) - start])
        if abs(angle) > 179.9:
            continue
        site = evaluate(_set(part, tilt=f"{start + angle!r} deg"), memory).site
        for s in sketches:
            have = site.sketches[s].frame
            # A plane square to the axis stays what it is, and so does the sketch on it.
            by = 0.0 if abs(math.dist(then[s].normal, BASES[axis]) - 1) > 0.99 else math.radians(angle)
            right = all(math.dist(now, turned(was, BASES[axis], by)) < 1e-5 for now, was in ((have.x, then[s].x), (have.y, then[s].y)))
            found["tilt: right" if right else "tilt: wrong"] += 1
    return found


def slope(rng: random.Random) -> Counter[str]:
    """Let the top of a block slope this way and that."""
    found: Counter[str] = Counter()
    b = Builder("Slope")
    plane = rng.choice(["ZX", "YZ", "XY"])
    wide, right, left = rng.uniform(20, 80), rng.uniform(15, 25), rng.uniform(8, 40)
    side = b.step("sketch", "Side", on={"of": "base", "name": plane})
    b.draw(side, "line", (0, 0), (wide, 0))
    b.draw(side, "line", (wide, 0), (wide, right))
    b.draw(side, "line", (wide, right), (0, left))
    b.draw(side, "line", (0, left), (0, 0))
    lines = list(b.drawing(side).curves)
    for one, next_one in pairwise([*lines, lines[0]]):
        b.constrain(side, "coincident", b.drawing(side).curves[one].end, b.drawing(side).curves[next_one].start)
    b.constrain(side, "distance", lines[3], formula=f"{left!r} mm")
    tag = next(k.value.tag for _, k in b.drawing(side).dimensions())
    for line in (lines[1], lines[3]):
        b.constrain(side, "vertical", line)
    b.constrain(side, "horizontal", lines[0])
    for line in (lines[0], lines[1]):
        b.constrain(side, "fixed", line)
    body = b.step("extrude", "Block", profile=b.profile(side, 0), extent="both", depth={"formula": "30 mm"})
    top = b.step("sketch", "Top", on=_face(b, body, f"{body}/side/{lines[2]}"))
    memory = Memory()
    first = evaluate(b.part, memory)
    part, then = settled(b.part, first), first.site.sketches[top].frame
    about = first.site.sketches[side].frame.normal
    for _ in range(12):
        now = rng.choice([rng.uniform(5, 60), right + rng.choice([0, 1e-2, -1e-2, 1e-4, -1e-4])])
        result = evaluate(_set(part, **{tag: f"{now!r} mm"}), memory)
        if result.report(top).state != "built":
            found[f"slope: {result.report(top).state}"] += 1
            continue
        have = result.site.sketches[top].frame
        angle = math.atan2(right - now, wide) - math.atan2(right - left, wide)
        good = all(math.dist(x, turned(was, about, angle)) < 1e-5 for x, was in ((have.x, then.x), (have.y, then.y)))
        found["slope: right" if good else "slope: wrong"] += 1
    return found


def cut(rng: random.Random) -> Counter[str]:
    """Take in one of the two lines in which a plane cuts a round bar, and move both."""
    found: Counter[str] = Counter()
    b = Builder("Cut")
    radius, off = rng.uniform(5, 30), rng.uniform(40, 90)
    high = rng.uniform(-0.9, 0.9) * radius
    bar = b.step("sketch", "Bar", on={"of": "base", "name": "YZ"})
    b.draw(bar, "circle", (off, 0), (off + radius, 0), diameter=f"{2 * radius!r} mm")
    centre = next(iter(b.drawing(bar).points))
    b.constrain(bar, "horizontal", "origin", centre)
    b.constrain(bar, "distance", "origin", centre, formula=f"{off!r} mm")
    tags = [k.value.tag for _, k in b.drawing(bar).dimensions()]
    body = b.step("extrude", "Bar body", profile=b.profile(bar, 0), depth={"formula": "50 mm"})
    plane = b.step("plane", "Level", how="offset", first=XY, distance={"formula": f"{high!r} mm", "tag": "level"})
    sketch = b.step("sketch", "On it", on={"of": "datum", "step": plane})
    ref = _face(b, body, f"{body}/side/")
    beside = rng.choice([-1, 1])
    near = (25.0, off + beside * math.sqrt(radius**2 - high**2))
    edit = {"op": "take_in", "refs": [ref], "manner": "cut", "near": near, "found": trace_picks(b.part, evaluate(b.part, Memory()), sketch, [FaceRef.model_validate(ref)], "cut", near)}
    b.do(do="edit_sketch", step=sketch, edit=edit)
    entity = next(iter(b.drawing(sketch).taken))
    memory = Memory()
    first = evaluate(b.part, memory)
    part = settled(b.part, first)
    ends = [first.site.sketches[sketch].drawing.place(p)[0] for p in b.drawing(sketch).curves[entity].points]
    for _ in range(12):
        now, level = rng.uniform(1, 200), rng.uniform(-1.2, 1.2) * radius
        if abs(abs(level) - radius) < 1e-3:
            continue
        result = evaluate(_set(part, **{tags[1]: f"{now!r} mm", "level": f"{level!r} mm"}), memory)
        state = result.report(sketch).state
        if abs(level) > radius:
            found["cut: stopped" if state == "stopped" else "cut: wrong, built on what is gone"] += 1
            continue
        d = result.site.sketches[sketch].drawing
        places = [d.place(p) for p in d.curves[entity].points]
        y = now + beside * math.sqrt(radius**2 - level**2)
        right = state == "built" and all(abs(p[1] - y) < CLOSE for p in places) and all(abs(p[0] - e) < CLOSE for p, e in zip(places, ends, strict=True))
        found["cut: right" if right else "cut: wrong"] += 1
    return found


def hunt_turns(size: int, seed: int) -> Counter[str]:
    """Run `size` parts of each kind; count the checks by how they came out."""
    found: Counter[str] = Counter()
    for k in range(size):
        for run in (tilt, slope, cut):
            got = run(random.Random(f"{seed}:{k}:{run.__name__}"))
            if any("wrong" in name for name in got):
                print(f"  turns {run.__name__} seed {seed}:{k}: {dict(got)}", flush=True)
            found += got
    return found
