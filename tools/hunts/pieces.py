"""References to pieces of a face and an edge that grooves cut up, against oracles of intervals on a line.

A bar from 0 to 100 along X has grooves right across its top. At each of the first stages every piece of the top, of
its front edge and every corner there is referred to. Then grooves move, grow, appear and vanish, all move together,
and the ends of the bar are rounded and sharp again. What a reference finds is judged by figures alone:

- place: the pieces that overlap the picked one,
- walk: the pieces that come of it when the change is walked in small steps (a groove that passes over ends it),
- walls: the piece between the same two walls.

Wrong is what none of these says, and any other piece than the only one between the same two walls.
"""

from __future__ import annotations

import json
import random
from collections import Counter
from dataclasses import dataclass
from itertools import pairwise
from typing import Any

from tests.samples import XY
from wendal.core.errors import ReferenceLost
from wendal.core.kernel.types import Topology
from wendal.core.reference import (
    edge_ref,
    face_ref,
    find_edge,
    find_face,
    find_vertex,
    vertex_ref,
)
from wendal.core.route import Memory, Part, evaluate, read_part, write_part
from wendal.demo.builder import Builder

__all__ = ["hunt_pieces"]

LENGTH, WIDTH, HEIGHT, FLOOR, ROUND = 100.0, 20.0, 10.0, 6.0, 3.0
STEPS = 400  # of a walk
NEAR = 1e-6
Interval = tuple[float, float]
Wall = tuple[int, int]  # a groove and its side (0 left, 1 right); (-1, side) is an end of the bar
Piece = tuple[float, float, Wall, Wall]


@dataclass(frozen=True)
class Stage:
    """Where the grooves are, by number; and whether the bar's right end is rounded."""

    grooves: dict[int, Interval]
    rounded: bool = False


def pieces(stage: Stage, edge: bool) -> list[Piece]:
    """Return the pieces of the top, or of its front edge, that the grooves leave."""
    found: list[Piece] = []
    at, wall = 0.0, (-1, 0)
    for n, (low, high) in sorted(stage.grooves.items(), key=lambda g: g[1]):
        if low - at > NEAR:
            found.append((at, low, wall, (n, 0)))
        if high > at:
            at, wall = high, (n, 1)
    end = LENGTH - ROUND if edge and stage.rounded else LENGTH
    if end - at > NEAR:
        found.append((at, end, wall, (-1, 1)))
    return found


def between(a: Stage, b: Stage, share: float) -> Stage:
    """Return a stage on the way; a groove that appears or vanishes opens from its middle."""
    grooves: dict[int, Interval] = {}
    for n in a.grooves.keys() | b.grooves.keys():
        at = (a.grooves.get(n) or b.grooves[n], b.grooves.get(n) or a.grooves[n])
        low, high = (at[0][i] + share * (at[1][i] - at[0][i]) for i in (0, 1))
        width = 1.0 if n in a.grooves and n in b.grooves else share if n in b.grooves else 1 - share
        middle = (low + high) / 2
        grooves[n] = (middle + width * (low - middle), middle + width * (high - middle))
    return Stage(grooves, b.rounded)


def walked(stages: list[Stage], picked: Piece, edge: bool) -> list[Interval]:
    """Return what comes of a piece when every change is walked in small steps."""
    now = [(picked[0], picked[1])]
    for a, b in pairwise(stages):
        for k in range(1, STEPS + 1):
            there = pieces(between(a, b, k / STEPS), edge)
            now = [(p[0], p[1]) for p in there if any(min(p[1], q[1]) - max(p[0], q[0]) > NEAR for q in now)]
    return now


def bar(stage: Stage, order: list[int]) -> Part:
    """Return the bar: base, its ends rounded or not, a plane, a sketch and a cut for each groove."""
    b = Builder("Bar")
    base = b.step("sketch", "Outline", on=XY)
    b.draw(base, "rectangle", (0, 0), (LENGTH, WIDTH))
    body = b.step("extrude", "Base", profile=b.profile(base, 0), depth={"formula": f"{HEIGHT} mm"})
    sides = {p: next(n for n in _names(b) if n.startswith(f"{body}/side/") and _lies(b, n, *p)) for p in ((1, LENGTH), (0, 0.0), (0, WIDTH), (1, 0.0))}
    corners = [{"of": "edge", "body": body, "faces": [[sides[0, y]], [sides[1, LENGTH]]], "alone": True} for y in (0.0, WIDTH)]
    b.step("fillet", "Ends", edges=corners, radius={"formula": f"{ROUND} mm"})
    b.step("plane", "Level", how="offset", first=XY, distance={"formula": f"{FLOOR} mm"})
    for n in order:
        low, high = stage.grooves.get(n, (0.0, 1.0))
        sketch = b.step("sketch", f"Groove {n}", on={"of": "datum", "step": "s4"})
        b.draw(sketch, "rectangle", (low, -5), (high, WIDTH + 5))
        b.step("extrude", f"Cut {n}", profile=b.profile(sketch, 0), depth={"formula": "10 mm"}, result="cut")
    return b.part


def _names(b: Builder) -> list[str]:
    body = evaluate(b.part, Memory()).site.bodies["s2"]
    return [n for names in body.shape.names for n in names]


def _lies(b: Builder, name: str, y_or_x: int, at: float) -> bool:
    topology = evaluate(b.part, Memory()).site.bodies["s2"].topology
    face = next(f for f in topology.faces if name in f.names)
    axis = 0 if y_or_x == 1 else 1
    return abs(abs(face.frame.normal[axis]) - 1) < NEAR and abs(face.centre[axis] - at) < NEAR


class Bar:
    """One bar that changes. Documents are changed as data, so that nothing but the grooves moves."""

    def __init__(self, seed: int) -> None:
        self.rng = random.Random(seed)
        self.order = list(range(self.rng.randint(1, 4)))
        self.stages = [Stage(self._apart(len(self.order)))]
        self.memory = Memory(faces=4000)
        self.template = json.loads(write_part(bar(self.stages[0], self.order)))

    def _apart(self, count: int) -> dict[int, Interval]:
        ends = sorted(self.rng.sample(range(3, 97), 2 * count))
        return {n: (float(ends[2 * n]), float(ends[2 * n + 1])) for n in range(count) if ends[2 * n + 1] - ends[2 * n] >= 1}

    def change(self) -> bool:
        """Change the bar at random; False where that makes no bar."""
        rng, grooves = self.rng, dict(self.stages[-1].grooves)
        rounded = self.stages[-1].rounded
        what = rng.choice(["move", "move", "grow", "appear", "vanish", "all", "round"])
        if what == "round":
            rounded = not rounded
        elif what == "appear" and len(self.order) < 5:
            n = len(self.order)
            low = rng.uniform(2, 90)
            grooves[n] = (low, low + rng.uniform(2, 9))
            self._add(n, grooves[n])
        elif what == "vanish" and grooves:
            del grooves[rng.choice(list(grooves))]
        elif grooves:
            by = rng.uniform(-25, 25)
            for n in grooves if what == "all" else [rng.choice(list(grooves))]:
                low, high = grooves[n]
                grooves[n] = (low, high + abs(by) / 2) if what == "grow" else (low + by, high + by)
        if any(not 1 < low < high < LENGTH - ROUND - 1 for low, high in grooves.values()):
            return False
        if any(abs(x - y) < 0.05 for n, g in grooves.items() for m, h in grooves.items() if n < m for x in g for y in h):
            return False  # flush walls are a matter of their own
        self.stages.append(Stage(grooves, rounded))
        return True

    def _add(self, n: int, at: Interval) -> None:
        self.order.append(n)
        whole = json.loads(write_part(bar(Stage({k: (5.0 + 10 * k, 9.0 + 10 * k) for k in self.order} | {n: at}), self.order)))
        self.template = whole

    def topology(self) -> Topology | None:
        """Return the bar as it is; None where a step stops, as one does that cuts nothing."""
        stage, data = self.stages[-1], json.loads(json.dumps(self.template))
        for step in data["steps"]:
            number = int(step["name"].split()[1]) if step["name"].startswith(("Groove", "Cut")) else -1
            step["suppressed"] = (number >= 0 and number not in stage.grooves) or (step["name"] == "Ends" and not stage.rounded)
            if step["name"].startswith("Groove") and number in stage.grooves:
                points, (low, high) = step["drawing"]["points"], stage.grooves[number]
                middle = sum(p[0] for p in points.values()) / len(points)
                step["drawing"]["points"] = {k: [low if p[0] < middle else high, p[1]] for k, p in points.items()}
        found = evaluate(read_part(json.dumps(data)), self.memory)
        if any(r.state in ("stopped", "held") for r in found.reports):
            return None
        return found.site.bodies["s2"].topology


def _faces(topology: Topology) -> list[tuple[int, Interval]]:
    found = []
    for i, f in enumerate(topology.faces):
        if f.form == "flat" and f.frame.normal[2] > 1 - NEAR and abs(f.centre[2] - HEIGHT) < NEAR:
            xs = [topology.vertices[v].place[0] for v in topology.corners_of[i]]
            found.append((i, (min(xs), max(xs))))
    return found


def _edges(topology: Topology) -> list[tuple[int, Interval]]:
    found = []
    for i, e in enumerate(topology.edges):
        if e.form == "line" and abs(e.middle[1]) < NEAR and abs(e.middle[2] - HEIGHT) < NEAR and abs(e.tangent[0]) > 1 - NEAR:
            xs = [topology.vertices[v].place[0] for v in topology.ends_of[i]]
            found.append((i, (min(xs), max(xs))))
    return found


def hunt_pieces(bars: int, seed: int = 1, changes: int = 4) -> Counter[str]:
    """Change some bars; return how many references came out how."""
    found: Counter[str] = Counter()
    done, number = 0, seed * 1_000_000
    while done < bars:
        number += 1
        one = Bar(number)
        kept: list[tuple[int, bool, Piece, Any]] = []  # the stage it was picked at, whether an edge, the piece, the reference
        corners: list[tuple[int, int, Piece, Any]] = []
        done += 1
        for k in range(changes + 1):
            if k and not any(one.change() for _ in range(20)):
                break
            topology = one.topology()
            if topology is None:
                one.stages.pop()
                continue
            for at, edge, piece, ref in kept:
                verdict = _judged(one, at, edge, piece, ref, topology)
                found[verdict] += 1
                if verdict.startswith("wrong"):
                    found[f"  in bar {number}, stage {at} to {k}"] += 1
            for at, side, piece, ref in corners:
                found[_judged_corner(one, at, side, piece, ref, topology)] += 1
            if k <= 2:
                at = len(one.stages) - 1
                for edge, row in ((False, _faces(topology)), (True, _edges(topology))):
                    for i, (low, high) in row:
                        piece = next((p for p in pieces(one.stages[-1], edge) if abs(p[0] - low) < 1e-4 and abs(p[1] - high) < 1e-4), None)
                        if piece is None:
                            found["not where the figures say"] += 1
                            continue
                        kept.append((at, edge, piece, edge_ref("s2", topology, i) if edge else face_ref("s2", topology, i)))
                        for v in topology.ends_of[i] if edge else ():
                            side = 0 if abs(topology.vertices[v].place[0] - low) < NEAR else 1
                            if piece[2 + side][0] >= 0:
                                corners.append((at, side, piece, vertex_ref("s2", topology, v)))
    return found


def _judged(one: Bar, at: int, edge: bool, piece: Piece, ref: Any, topology: Topology) -> str:
    there = pieces(one.stages[-1], edge)
    place = [(p[0], p[1]) for p in there if min(p[1], piece[1]) - max(p[0], piece[0]) > NEAR]
    walk = walked(one.stages[at:], piece, edge)
    walls = [(p[0], p[1]) for p in there if p[2:] == piece[2:]]
    right = {_round(p) for p in (*place, *walk, *walls)}
    agreed = len(place) == len(walk) == 1 and _round(place[0]) == _round(walk[0])
    try:
        got = (find_edge if edge else find_face)(ref, {"s2": topology})
    except ReferenceLost:
        return "lost, though walk and place agree" if agreed else "lost"
    if got.doubt:
        return "held, though walk and place agree" if agreed else "held"
    low, high = next(p for i, p in (_edges if edge else _faces)(topology) if i == got.index)
    if _round((low, high)) not in right or (len(walls) == 1 and _round((low, high)) != _round(walls[0])):
        return "wrong"
    return "right"


def _judged_corner(one: Bar, at: int, side: int, piece: Piece, ref: Any, topology: Topology) -> str:
    """A corner is where its piece meets a wall: it is there as long as that wall bounds a piece on the same side."""
    wall = piece[2 + side]
    there = [p[side] for p in pieces(one.stages[-1], True) if p[2 + side] == wall]
    try:
        got = find_vertex(ref, {"s2": topology})
    except ReferenceLost:
        return "corner lost, though there" if there else "corner lost"
    if got.doubt:
        return "corner held, though there" if there else "corner held"
    x = topology.vertices[got.index].place[0]
    return "corner right" if any(abs(x - t) < 1e-4 for t in there) else "wrong corner"


def _round(p: Interval) -> Interval:
    return round(p[0], 3), round(p[1], 3)
