"""What the browser draws and picks under the pointer by itself, as the core has it: cases for `web/src/sketch/pointer.test.ts`.

`python -m tools.pointer` writes them as JSON: drawings, places along every curve, for some places how far each curve is, and which curves hang together.
"""

from __future__ import annotations

import json
import math
import sys
from typing import Any

import numpy as np

from wendal.core.errors import SketchError
from wendal.core.sketch import (
    Arc,
    Circle,
    Constraint,
    Drawing,
    Ellipse,
    EllipseArc,
    Line,
    Spline,
    chain_from,
    path_of,
)

PLACES, DENSE, TRIED = 24, 4000, 6  # places along a curve, places among which the nearest is looked for, places from which it is


class Pen:
    """Draws by chance."""

    def __init__(self, seed: int) -> None:
        self.rng = np.random.default_rng(seed)
        self.points: dict[str, tuple[float, float]] = {}
        self.curves: dict[str, Any] = {}
        self.constraints: dict[str, Constraint] = {}

    def point(self, x: float, y: float) -> str:
        name = f"p{len(self.points)}"
        self.points[name] = (float(x), float(y))
        return name

    def some(self, low: float, high: float) -> float:
        return float(self.rng.uniform(low, high))

    def add(self, curve: Any) -> str:
        name = f"c{len(self.curves)}"
        self.curves[name] = curve
        return name

    def join(self, a: str, b: str) -> None:
        self.points[b] = self.points[a]
        self.constraints[f"k{len(self.constraints)}"] = Constraint(kind="coincident", of=[a, b])

    def draw(self, x: float, y: float) -> None:
        """One of each kind about a place, and a chain of three."""
        self.add(Circle(centre=self.point(x, y), radius=self.some(1, 9)))
        r, t = self.some(2, 9), self.some(0, 6)
        ends = [self.point(x + r * math.cos(a), y + r * math.sin(a)) for a in (t, t + self.some(0.4, 5.8))]
        self.add(Arc(centre=self.point(x, y), start=ends[0], end=ends[1], radius=r))
        long, turn, short = self.some(4, 9), self.some(0, 6), self.some(1, 4)
        centre = self.point(x, y)
        tip = self.point(x + long * math.cos(turn), y + long * math.sin(turn))
        self.add(Ellipse(centre=centre, tip=tip, radius=short))

        def on(s: float) -> str:
            u, v = long * math.cos(s), short * math.sin(s)
            return self.point(x + u * math.cos(turn) - v * math.sin(turn), y + u * math.sin(turn) + v * math.cos(turn))

        first = self.some(0, 6)
        self.add(EllipseArc(centre=self.point(x, y), tip=self.point(*self.points[tip]), radius=short, start=on(first), end=on(first + self.some(0.5, 5.5))))
        for manner in ("through", "pulled"):
            count = int(self.rng.integers(3, 7))
            over = [self.point(x + 5 * k + self.some(-1, 1), y + self.some(-6, 6)) for k in range(count)]
            spans = count - 1 if manner == "through" else count - min(3, count - 1)
            steps = self.rng.uniform(0.5, 1.5, spans)
            self.add(Spline(over=over, manner=manner, knots=[0.0, *(np.cumsum(steps) / steps.sum()).tolist()]))
        last = ""
        for k in range(3):
            a, b = self.point(x + 7 * k, y), self.point(x + 7 * (k + 1), y + self.some(-5, 5))
            if last:
                self.join(last, a)
            self.add(Line(start=a, end=b))
            last = b


def case(seed: int) -> dict[str, Any]:
    """Return one drawing with what the core finds."""
    pen = Pen(seed)
    for i in range(2):
        pen.draw(60.0 * i, pen.some(-20, 20))
    drawing = Drawing(points=pen.points, curves=pen.curves, constraints=pen.constraints, last=999)
    found: dict[str, Any] = {"drawing": drawing.model_dump(mode="json"), "along": {}, "near": [], "chains": {}}
    dense = {}
    for c in drawing.curves:
        path = path_of(drawing, c)
        found["along"][c] = [path.at(t) for t in np.linspace(path.t0, path.t1, PLACES).tolist()]
        dense[c] = np.array([path.at(t) for t in np.linspace(path.t0, path.t1, DENSE).tolist()])
        if drawing.curves[c].ends:
            try:
                found["chains"][c] = sorted({p.curve for p in chain_from(drawing, c)[0]})
            except SketchError:
                continue
    for _ in range(TRIED):
        p = (pen.some(-10, 80), pen.some(-30, 30))
        found["near"].append({"at": p, "off": {c: float(np.hypot(*(ps - p).T).min()) for c, ps in dense.items()}})
    return found


if __name__ == "__main__":
    json.dump([case(seed) for seed in range(8)], sys.stdout)
