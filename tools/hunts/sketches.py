"""Sketches made by chance, each fully constrained and of a kind that designers draw: for property tests and for the figures."""

from __future__ import annotations

import cmath
import math
from collections.abc import Callable, Sequence

import numpy as np

from wendal.core.sketch import Arc, Circle, Constraint, Drawing, Layout, Line, rule_for
from wendal.core.stored import Value

__all__ = ["FAMILIES", "generated"]

Place = tuple[float, float]


class Pen:
    """Draws a sketch by exact places and ties it with constraints whose senses are read off the drawing."""

    def __init__(self) -> None:
        self.points: dict[str, Place] = {}
        self.curves: dict[str, Line | Arc | Circle] = {}
        self.constraints: dict[str, Constraint] = {}

    @property
    def drawing(self) -> Drawing:
        return Drawing(points=self.points, curves=self.curves, constraints=self.constraints, last=9999)

    def point(self, at: complex | Place) -> str:
        name = f"p{len(self.points)}"
        self.points[name] = (at.real, at.imag) if isinstance(at, complex) else at
        return name

    def line(self, a: str, b: str) -> str:
        """A line with ends of its own, joined to two points."""
        ends = [self.point(self.points[p]) for p in (a, b)]
        name = f"l{len(self.curves)}"
        self.curves[name] = Line(start=ends[0], end=ends[1])
        for own, p in zip(ends, (a, b), strict=True):
            self.tie("coincident", own, p)
        return name

    def arc(self, centre: str, a: str, b: str) -> str:
        """An arc, counter-clockwise, with ends of its own, joined to two points."""
        ends = [self.point(self.points[p]) for p in (a, b)]
        name = f"a{len(self.curves)}"
        self.curves[name] = Arc(centre=centre, start=ends[0], end=ends[1], radius=math.dist(self.points[centre], self.points[a]))
        for own, p in zip(ends, (a, b), strict=True):
            self.tie("coincident", own, p)
        return name

    def circle(self, centre: str, radius: float) -> str:
        name = f"o{len(self.curves)}"
        self.curves[name] = Circle(centre=centre, radius=radius)
        return name

    def tie(self, kind: str, *of: str, manner: str = "") -> None:
        rule = rule_for(kind)
        c = Constraint(kind=kind, of=list(of), manner=manner)
        layout = Layout(self.drawing)
        k = f"k{len(self.constraints)}"
        value = Value(formula="1", tag=k) if rule.quantity else None
        self.constraints[k] = c.model_copy(update={"sense": rule.choose(c, layout), "value": value})


def outline(rng: np.random.Generator) -> Drawing:
    """A closed outline of lines by lengths and angles, one corner at the origin, one line level."""
    pen, n = Pen(), int(rng.integers(4, 9))
    turn = np.sort(rng.uniform(0, 2 * math.pi, n) * 0.3 + np.arange(n) * 2 * math.pi / n * 0.9)
    at = [cmath.rect(float(rng.uniform(18, 40)), float(t)) for t in turn]
    at = [(p - at[0]) * cmath.exp(-1j * cmath.phase(at[1] - at[0])) for p in at]
    points = [pen.point(p) for p in at]
    pen.tie("coincident", points[0], "origin")
    lines = [pen.line(points[i], points[(i + 1) % n]) for i in range(n)]
    pen.tie("horizontal", lines[0])
    for i in range(n - 2):
        pen.tie("distance", lines[i])
        pen.tie("angle", lines[i], lines[i + 1])
    pen.tie("distance", lines[n - 2])
    return pen.drawing


def truss(rng: np.random.Generator) -> Drawing:
    """A strip of triangles by the lengths of their sides."""
    pen, n = Pen(), int(rng.integers(2, 6))
    wander = lambda: complex(*rng.uniform(-4, 4, 2))  # noqa: E731
    points = [pen.point(10 * i + (0 if i % 2 else 17j) + wander()) for i in range(n + 2)]
    first = pen.line(points[0], points[1])
    pen.tie("coincident", points[0], "origin")
    pen.points[points[0]] = (0.0, 0.0)
    pen.points[pen.curves[first].points[0]] = (0.0, 0.0)
    pen.tie("distance", first)
    pen.tie("angle", "x_axis", first)
    for i in range(n):
        for other in (points[i], points[i + 1]):
            pen.tie("distance", pen.line(other, points[i + 2]))
    return pen.drawing


def linkage(rng: np.random.Generator) -> Drawing:
    """Two cranks and a coupler: the crank by its angle, the rest by lengths."""
    pen = Pen()
    far = float(rng.uniform(25, 45))
    tip = cmath.rect(float(rng.uniform(8, 14)), float(rng.uniform(0.6, 2.2)))
    other = far + cmath.rect(float(rng.uniform(18, 30)), float(rng.uniform(1.0, 2.0)))
    a, b, c, d = (pen.point(p) for p in (0j, far + 0j, tip, other))
    pen.tie("coincident", a, "origin")
    base, crank, rod, rocker = (pen.line(*ends) for ends in ((a, b), (a, c), (c, d), (d, b)))
    pen.tie("horizontal", base)
    for line in (base, crank, rod, rocker):
        pen.tie("distance", line)
    pen.tie("angle", base, crank)
    return pen.drawing


def belt(rng: np.random.Generator) -> Drawing:
    """Two round ends joined by two lines tangent to both: an ear, a belt, a slot that narrows."""
    pen = Pen()
    r, s = (float(v) for v in rng.uniform(4, 10, 2))
    far = r + s + float(rng.uniform(8, 30))
    turn = math.acos((r - s) / far)
    up, down = cmath.rect(1, turn), cmath.rect(1, -turn)
    a, b = pen.point(0j), pen.point(far + 0j)
    tops = [pen.point(r * up), pen.point(far + s * up)]
    feet = [pen.point(r * down), pen.point(far + s * down)]
    pen.tie("coincident", a, "origin")
    pen.tie("horizontal", b, "origin")
    pen.tie("distance", a, b)
    left, right = pen.arc(a, tops[0], feet[0]), pen.arc(b, feet[1], tops[1])
    for line in (pen.line(*tops), pen.line(*feet)):
        pen.tie("tangent", line, left)
        pen.tie("tangent", line, right)
    pen.tie("radius", left)
    pen.tie("diameter", right)
    return pen.drawing


def groove(rng: np.random.Generator) -> Drawing:
    """A closed ring of arcs, each tangent to the next, bulging out and in by turns, as of a seal's groove."""
    pen, n = Pen(), int(rng.integers(2, 5))
    out, into = float(rng.uniform(8, 11)), float(rng.uniform(3, 5))
    hub = float(rng.uniform(26, 30)) * (1.25 if n == 2 else 1.0)
    step = math.pi / n
    # Bulges stand on a circle of radius `hub`; between two of them a hollow touches both from outside.
    half = hub * math.sin(step)
    into = max(into, 1.15 * half - out)
    away = hub * math.cos(step) + math.sqrt((out + into) ** 2 - half**2)
    pen.tie("coincident", pen.point(0j), "origin")
    centres = [pen.point(cmath.rect(hub if i % 2 == 0 else away, i * step)) for i in range(2 * n)]
    place = [complex(*pen.points[c]) for c in centres]
    share = out / (out + into)
    joints = []
    for i in range(2 * n):
        a, b = place[i], place[(i + 1) % (2 * n)]
        joints.append(pen.point(a + (share if i % 2 == 0 else 1 - share) * (b - a)))
    arcs = []
    for i in range(2 * n):
        before, after = joints[i - 1], joints[i]
        arcs.append(pen.arc(centres[i], before, after) if i % 2 == 0 else pen.arc(centres[i], after, before))
    for i in range(2 * n):
        pen.tie("tangent", arcs[i], arcs[(i + 1) % (2 * n)])
    for i in range(0, 2 * n, 2):
        pen.tie("radius", arcs[i])
        pen.tie("distance", centres[i], "x_axis") if abs(place[i].imag) > 1e-6 else pen.tie("on_curve", centres[i], "x_axis")
        pen.tie("distance", centres[i], "y_axis") if abs(place[i].real) > 1e-6 else pen.tie("on_curve", centres[i], "y_axis")
    for i in range(1, 2 * n, 2):
        pen.tie("radius", arcs[i])
    return pen.drawing


def rounded(rng: np.random.Generator) -> Drawing:
    """A level rectangle whose corners are rounded, with holes placed from its sides."""
    pen = Pen()
    w, h = float(rng.uniform(40, 70)), float(rng.uniform(30, 50))
    r = [float(v) for v in rng.uniform(3, 9, 4)]
    corner = [0j, w + 0j, w + 1j * h, 1j * h]
    along = [1, 1j, -1, -1j]
    lines, arcs, marks = [], [], []
    for i in range(4):
        marks.append((pen.point(corner[i] - r[i] * along[i - 1]), pen.point(corner[i] + r[i] * along[i])))
    for i in range(4):
        lines.append(pen.line(marks[i][1], marks[(i + 1) % 4][0]))
        arcs.append(pen.arc(pen.point(corner[i] + r[i] * (along[i] - along[i - 1])), *marks[i]))
    for i in range(4):
        pen.tie("tangent", lines[i - 1], arcs[i])
        pen.tie("tangent", lines[i], arcs[i])
        pen.tie("vertical" if i % 2 else "horizontal", lines[i])
        pen.tie("radius", arcs[i])
    pen.tie("on_curve", pen.curves[lines[0]].points[0], "x_axis")
    pen.tie("on_curve", pen.curves[lines[3]].points[0], "y_axis")
    pen.tie("distance", lines[0], lines[2])
    pen.tie("distance", lines[1], lines[3])
    for _ in range(int(rng.integers(1, 4))):
        x, y = float(rng.uniform(12, w - 12)), float(rng.uniform(11, h - 11))
        hole = pen.circle(pen.point((x, y)), float(rng.uniform(1.5, 4)))
        pen.tie("diameter", hole)
        pen.tie("distance", pen.curves[hole].points[0], lines[int(rng.integers(0, 2)) * 2])
        pen.tie("distance", pen.curves[hole].points[0], lines[int(rng.integers(0, 2)) * 2 + 1])
    return pen.drawing


def steps(rng: np.random.Generator) -> Drawing:
    """A stair of lines aslant, square to each other, by lengths and places from the first line."""
    pen, n = Pen(), int(rng.integers(2, 5))
    tilt = cmath.rect(1, float(rng.uniform(0.15, 0.9)))
    at, here = [0j], 0j
    for _ in range(n):
        for way in (1j, 1):
            here += way * float(rng.uniform(5, 14))
            at.append(here)
    at.append(here.real + 0j)
    points = [pen.point(p * tilt) for p in at]
    pen.tie("coincident", points[0], "origin")
    base = pen.line(points[0], points[-1])
    pen.tie("angle", "x_axis", base)
    lines = [pen.line(points[i], points[i + 1]) for i in range(len(at) - 1)]
    for i, line in enumerate(lines):
        pen.tie("parallel" if i % 2 else "square", base, line)
    for i, line in enumerate(lines[:-1]):
        if i % 2 or i == 0:
            pen.tie("distance", line)
        else:
            pen.tie("distance", points[i + 1], base)
    return pen.drawing


def mirrored(rng: np.random.Generator) -> Drawing:
    """A kite or arrow whose halves are symmetric about the Y axis, with a hole in its middle line."""
    pen = Pen()
    w, low, high = float(rng.uniform(10, 25)), float(rng.uniform(2, 10)), float(rng.uniform(16, 30))
    foot, tip, left, right = (pen.point(p) for p in (0j, 1j * high, -w + 1j * low, w + 1j * low))
    pen.tie("coincident", foot, "origin")
    pen.tie("on_curve", tip, "y_axis")
    for ends in ((foot, right), (right, tip), (tip, left), (left, foot)):
        pen.line(*ends)
    lines = list(pen.curves)
    pen.tie("symmetric", left, right, "y_axis")
    pen.tie("distance", lines[0])
    pen.tie("distance", lines[1])
    pen.tie("angle", lines[0], lines[1])
    middle = 1j * (low + high) / 2
    side = (1j * high - complex(w, low)) / abs(1j * high - complex(w, low))
    hole = pen.circle(pen.point(middle), abs(((middle - complex(w, low)) * side.conjugate()).imag))
    pen.tie("on_curve", pen.curves[hole].points[0], "y_axis")
    pen.tie("tangent", lines[1], hole)
    pen.tie("distance", pen.curves[hole].points[0], foot)
    return pen.drawing


FAMILIES: Sequence[Callable[[np.random.Generator], Drawing]] = (outline, truss, linkage, belt, groove, rounded, steps, mirrored)


def generated(seed: int, scale: float = 1.0) -> Drawing:
    """Return a fully constrained sketch, solved as drawn; scale : mm a unit, from 0.01 for a tenth of a mm to 100 for metres."""
    rng = np.random.default_rng(seed)
    drawing = FAMILIES[seed % len(FAMILIES)](rng)
    points = {p: (scale * x, scale * y) for p, (x, y) in drawing.points.items()}
    curves = {c: curve if isinstance(curve, Line) else curve.model_copy(update={"radius": scale * curve.radius})
              for c, curve in drawing.curves.items()}
    return drawing.model_copy(update={"points": points, "curves": curves})
