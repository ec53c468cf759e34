"""The hunt for wrong references: random parts, random edits, and an oracle that knows the construction.

A part is a stack of extrudes from sketches of straight lines. References to faces, edges and corners of the result
are attached as datums; then upstream things are moved, resized, cut, suppressed, re-ordered, deleted and drawn anew.
The oracle works out from the drawings alone where the thing should be, and asks the solid, point by point, whether
material ends there. What a reference resolves to is compared with that.
"""

from __future__ import annotations

import math
import random
from collections import Counter
from dataclasses import dataclass
from typing import Any

from OCP.BRepClass3d import BRepClass3d_SolidClassifier
from OCP.gp import gp_Pnt
from OCP.TopAbs import TopAbs_State

from tests.samples import XY
from wendal.core.errors import WendalError
from wendal.core.kernel.types import Vec, cross, dot, minus, scaled, unit
from wendal.core.reference import edge_ref, face_ref, vertex_ref
from wendal.core.route import Evaluation, Memory, evaluate
from wendal.demo.builder import Builder

__all__ = ["hunt"]

OUTLINES = [
    [(0, 0), (60, 0), (60, 40), (0, 40)], [(0, 0), (60, 0), (60, 18), (25, 18), (25, 40), (0, 40)],
    [(0, 0), (70, 0), (70, 40), (45, 40), (45, 25), (25, 25), (25, 40), (0, 40)],
]


@dataclass
class Wall:
    """Where a named face should be: its plane (place, outward normal) and the places on it to ask about."""

    place: Vec
    normal: Vec
    samples: list[Vec]


class Case:
    """A random part with references."""

    def __init__(self, seed: int) -> None:
        self.rng = random.Random(seed)
        self.b = Builder("Hunted")
        self.memory = Memory()
        self.extrudes: list[str] = []
        self._build()
        self.targets: list[tuple[str, str, list[str]]] = []  # datum step, kind, one name of every face that meets
        self._attach()

    # — building —

    def _outline(self, sketch: str, corners: list[tuple[float, float]]) -> list[str]:
        lines = [self.b.draw(sketch, "line", p, q)[0] for p, q in zip(corners, corners[1:] + corners[:1], strict=True)]
        points = [self.b.drawing(sketch).curves[line].points for line in lines]
        for i, line in enumerate(lines):
            self.b.constrain(sketch, "coincident", points[i][1], points[(i + 1) % len(lines)][0])
            level = abs(corners[i][1] - corners[(i + 1) % len(corners)][1]) < 1e-9
            self.b.constrain(sketch, "horizontal" if level else "vertical", line)
        return lines

    def _extrude(self, sketch: str, **fields: Any) -> str:
        step = self.b.step("extrude", f"Extrude of {sketch}", profile=self.b.profile(sketch, 0), **fields)
        self.extrudes.append(step)
        return step

    def _build(self) -> None:
        rng, b = self.rng, self.b
        first = b.step("sketch", "First", on=XY)
        self._outline(first, rng.choice(OUTLINES))
        base = self._extrude(first, depth={"formula": f"{rng.randint(8, 20)} mm"})
        body = {"of": "body", "body": base}
        second = b.step("sketch", "Second", on={"of": "face", "body": base, "names": [f"{base}/end/r1"]})
        x, y = rng.uniform(-8, 40), rng.uniform(-8, 20)
        self._outline(second, [(x, y), (x + 22, y), (x + 22, y + 17), (x, y + 17)])
        if rng.random() < 0.5:
            self._extrude(second, depth={"formula": f"{rng.randint(4, 12)} mm"}, result="add", bodies=[body])
        else:
            self._extrude(second, depth={"formula": f"{rng.randint(3, 6)} mm"}, result="cut", extent="into", bodies=[body])
        if rng.random() < 0.6:
            third = b.step("sketch", "Third", on=XY)
            x = rng.uniform(8, 45)
            self._outline(third, [(x, -9), (x + 6, -9), (x + 6, 60), (x, 60)])
            self._extrude(third, depth={"formula": "5 mm"}, result="cut", bodies=[body])

    def _attach(self) -> None:
        evaluation = self.evaluate()
        (body,) = evaluation.site.bodies.values()
        t = body.topology
        for n in range(4):
            kind = self.rng.choice(["face", "edge", "vertex"])
            if kind == "face":
                i = self.rng.randrange(len(t.faces))
                ref: Any = face_ref(body.id, t, i)
                names = [ref.names[0]]
                step = self.b.step("plane", f"Datum {n}", first=ref.model_dump(mode="json"), distance={"formula": "0 mm"})
            elif kind == "edge":
                i = self.rng.randrange(len(t.edges))
                ref = edge_ref(body.id, t, i)
                names = [f[0] for f in ref.faces]
                step = self.b.step("axis", f"Datum {n}", how="along", first=ref.model_dump(mode="json"))
            else:
                i = self.rng.randrange(len(t.vertices))
                ref = vertex_ref(body.id, t, i)
                names = [f[0] for f in ref.faces]
                step = self.b.step("point", f"Datum {n}", how="at_point", first=ref.model_dump(mode="json"))
            self.targets.append((step, kind, names))

    def evaluate(self) -> Evaluation:
        return evaluate(self.b.part, self.memory)

    # — edits —

    def edit(self) -> str:
        """Make one random edit upstream; return its kind, or "" when it was refused."""
        kind = self.rng.choice(["depth", "drag", "drag", "shift", "suppress", "reorder", "redraw", "split"])
        try:
            getattr(self, f"_{kind}")()
        except WendalError:
            return ""
        return kind

    def _sketches(self) -> list[str]:
        return [s.id for s in self.b.part.steps if s.kind == "sketch"]

    def _depth(self) -> None:
        step = self.rng.choice(self.extrudes)
        tag = self.b.part.step(step).depth.tag  # type: ignore[attr-defined]
        self.b.do(do="set_formula", tag=tag, formula=f"{self.rng.uniform(2, 26):.2f} mm")

    def _drag(self) -> None:
        sketch = self.rng.choice(self._sketches())
        drawing = self.b.drawing(sketch)
        line = self.rng.choice(list(drawing.curves))
        (ax, ay), (bx, by) = (drawing.points[p] for p in drawing.curves[line].points)
        by_how = self.rng.uniform(-30, 30)
        dx, dy = (by_how, 0.0) if abs(ax - bx) < 1e-6 else (0.0, by_how)
        middle = ((ax + bx) / 2, (ay + by) / 2)
        self._edit(sketch, op="move", entity=line, start=middle, to=(middle[0] + dx, middle[1] + dy))

    def _shift(self) -> None:
        """Move a whole outline."""
        sketch = self.rng.choice(self._sketches()[1:])
        dx, dy = self.rng.uniform(-25, 25), self.rng.uniform(-25, 25)
        step = self.b.part.step(sketch)
        drawing = self.b.drawing(sketch)
        places = {p: (x + dx, y + dy) for p, (x, y) in drawing.points.items()}
        self.b.part = self.b.part.with_step(step.model_copy(update={"drawing": drawing.model_copy(update={"points": places})}))

    def _suppress(self) -> None:
        step = self.rng.choice(self.extrudes[1:])
        self.b.do(do="edit_step", step=step, fields={"suppressed": not self.b.part.step(step).suppressed})

    def _reorder(self) -> None:
        ids = [s.id for s in self.b.part.steps]
        step = self.rng.choice(self.extrudes)
        self.b.do(do="move_step", step=step, after=self.rng.choice(ids))

    def _redraw(self) -> None:
        """Delete a line and draw it anew: the same place, another thing."""
        sketch = self.rng.choice(self._sketches())
        drawing = self.b.drawing(sketch)
        line = self.rng.choice(list(drawing.curves))
        places = [drawing.points[p] for p in drawing.curves[line].points]
        self._edit(sketch, op="remove", entities=[line])
        self.b.draw(sketch, "line", *places)

    def _split(self) -> None:
        """Draw a small lug over a side of an outline, so that the side's face is split when it is used."""
        sketch = self.rng.choice(self._sketches())
        drawing = self.b.drawing(sketch)
        (ax, ay), (bx, by) = (drawing.points[p] for p in drawing.curves[self.rng.choice(list(drawing.curves))].points)
        x, y = (ax + bx) / 2, (ay + by) / 2
        self.b.draw(sketch, "rectangle", (x - 2.1, y - 1.7), (x + 2.3, y + 1.9))

    def _edit(self, sketch: str, **edit: Any) -> None:
        self.b.do(do="edit_sketch", step=sketch, edit=edit)

    # — the oracle —

    def wall(self, name: str, evaluation: Evaluation) -> Wall | None:
        """Work out from the drawings where a named face should be; None when its source is gone."""
        step, role, *source = name.split("/")
        extrude: Any = next((s for s in self.b.part.steps if s.id == step), None)
        made = evaluation.site.sketches.get(extrude.profile[0].step) if extrude else None
        if made is None or extrude.suppressed:
            return None
        frame, depth = made.frame, self._value(extrude.depth.tag)
        sign = 1.0 if extrude.extent == "out" else -1.0
        if role == "side":
            curve = made.drawing.curves.get(source[0])
            if curve is None:
                return None
            a, b = (made.drawing.points[p] for p in curve.points)
            ends = [frame.at(*a), frame.at(*b)]
            along = minus(ends[1], ends[0])
            if math.sqrt(dot(along, along)) < 1e-6:
                return None
            rise = scaled(frame.normal, sign * depth)
            samples = [tuple(ends[0][k] + u * along[k] + w * rise[k] for k in range(3))
                       for u in _GRID for w in _GRID]
            return Wall(ends[0], unit(cross(along, frame.normal)), samples)  # type: ignore[arg-type]
        height = 0.0 if role == "start" else sign * depth
        xs, ys = ([p[i] for p in made.drawing.points.values()] for i in (0, 1))
        samples = [frame.at(min(xs) + u * (max(xs) - min(xs)), min(ys) + w * (max(ys) - min(ys)), height) for u in _FINE for w in _FINE]
        return Wall(frame.at(0, 0, height), frame.normal, samples)

    def _value(self, tag: str) -> float:
        value = self.b.part.evaluated()[tag].value
        assert value is not None
        return float(value.to("mm").magnitude)

    def judge(self) -> Counter[str]:
        """Compare every reference with the oracle."""
        evaluation = self.evaluate()
        found: Counter[str] = Counter()
        if len(evaluation.site.bodies) != 1:
            return found
        (body,) = evaluation.site.bodies.values()
        inside = _Inside(body.shape.shape)
        for step, kind, names in self.targets:
            report = evaluation.report(step)
            walls = [self.wall(n, evaluation) for n in names]
            there = all(w is not None for w in walls) and self._exists([w for w in walls if w], kind, inside, body.topology)
            if report.state == "stopped":
                found["lost rightly" if not there else "lost, though there"] += 1
                continue
            frame = evaluation.site.datums[step][0].frame
            right = all(w is not None and _agrees(frame, w, kind) for w in walls)
            if not right:
                found["wrong"] += 1
                found[f"wrong: {kind}"] += 1
            else:
                found["sound, right" if report.state == "built" else "re-found, right"] += 1
        return found

    def _exists(self, walls: list[Wall], kind: str, inside: _Inside, topology: Any) -> bool:
        """Tell from the solid whether the thing is there."""
        if kind == "face":
            return any(inside.ends_at(p, walls[0].normal) for p in walls[0].samples)
        places = [e.middle for e in topology.edges] if kind == "edge" else [v.place for v in topology.vertices]
        return all(any(inside.ends_at(p, w.normal) for p in w.samples) for w in walls) and any(
            all(abs(dot(minus(p, w.place), w.normal)) < 1e-6 for w in walls) for p in places)


_GRID = (0.04, 0.2, 0.35, 0.5, 0.65, 0.8, 0.96)
_FINE = tuple(0.02 + 0.04 * i for i in range(25))


class _Inside:
    """Asks a solid where its material is."""

    def __init__(self, shape: Any) -> None:
        self._classifier = BRepClass3d_SolidClassifier(shape)

    def at(self, p: Vec) -> bool:
        self._classifier.Perform(gp_Pnt(*p), 1e-7)
        return bool(self._classifier.State() == TopAbs_State.TopAbs_IN)

    def ends_at(self, p: Vec, normal: Vec) -> bool:
        """Tell whether material ends at a place across a direction, one way or the other."""
        step = scaled(normal, 1e-4)
        sides = [self.at((p[0] + s * step[0], p[1] + s * step[1], p[2] + s * step[2])) for s in (1, -1)]
        return sides[0] != sides[1]


def _agrees(frame: Any, wall: Wall, kind: str) -> bool:
    on = abs(dot(minus(frame.origin, wall.place), wall.normal)) < 1e-6
    if kind == "face":
        return on and abs(abs(dot(frame.normal, wall.normal)) - 1) < 1e-9
    if kind == "edge":
        return on and abs(dot(frame.x, wall.normal)) < 1e-9
    return on


def hunt(edits: int, seed: int = 1) -> Counter[str]:
    """Run a number of edits; return how many references came out how."""
    found: Counter[str] = Counter()
    case_number, done = seed * 100_000, 0
    while done < edits:
        case_number += 1
        try:
            case = Case(case_number)
        except (WendalError, ValueError):
            continue  # the random outline makes no part; another is taken
        for _ in range(4):
            if case.edit():
                done += 1
                result = case.judge()
                if result["wrong"]:
                    found[f"  in case {case_number}"] += result["wrong"]
                found += result
    return found


def share_kept(found: Counter[str]) -> float:
    """Return the share of the cases with the geometry still there that came out right."""
    right = found["sound, right"] + found["re-found, right"]
    return right / max(right + found["lost, though there"] + found["wrong"], 1)
