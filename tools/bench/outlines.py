"""Generated sketches for measuring: a plate outline of N curves, fully dimensioned, axis-aligned or turned."""

from __future__ import annotations

import math

from wendal.core.sketch import Constraint, Drawing, Line
from wendal.core.sketch.drawn.model import Circle
from wendal.core.stored import Value

__all__ = ["plate_outline"]


def plate_outline(curves: int, turned: float = 0.0) -> Drawing:
    """Return a toothed outline with a hole in every tooth.

    Half of the curves are lines of a closed comb, the rest circles; every length, place and diameter is a dimension.
    turned : rad; a turned comb uses parallel and square instead of level and upright.
    """
    teeth = max(curves // 5, 1)
    points: dict[str, tuple[float, float]] = {}
    lines: dict[str, Line] = {}
    circles: dict[str, Circle] = {}
    constraints: dict[str, Constraint] = {}
    turn = lambda x, y: (x * math.cos(turned) - y * math.sin(turned), x * math.sin(turned) + y * math.cos(turned))  # noqa: E731

    def tie(kind: str, *of: str, value: str = "", sense: float = 1.0) -> None:
        k = f"k{len(constraints) + 1}"
        constraints[k] = Constraint(kind=kind, of=list(of), sense=sense, value=Value(formula=value, tag=f"size_{k}") if value else None)

    corners = [(0.0, -20.0)]
    for i in range(teeth):
        corners += [(10.0 * i, 0.0), (10.0 * i, 6.0), (10.0 * i + 6, 6.0), (10.0 * i + 6, 0.0)]
    clean = [corners[0], *corners[2:], (10.0 * teeth, 0.0), (10.0 * teeth, -20.0)]
    for i in range(len(clean)):
        a, b = clean[i], clean[(i + 1) % len(clean)]
        points[f"p{i}a"], points[f"p{i}b"] = turn(*a), turn(*b)
        lines[f"l{i}"] = Line(start=f"p{i}a", end=f"p{i}b")
    n = len(clean)
    tie("coincident", "p0a", "origin")
    origin = points["p0a"]
    points = {p: (x - origin[0], y - origin[1]) for p, (x, y) in points.items()}
    for i in range(n):
        if i < n - 1:
            tie("coincident", f"p{i}b", f"p{i + 1}a")
        else:
            tie("coincident", f"p{i}b", "p0a")
        (ax, ay), (bx, by) = clean[i], clean[(i + 1) % n]
        level = abs(by - ay) < 1e-9
        if not turned:
            tie("horizontal" if level else "vertical", f"l{i}")
        elif i == 0:
            tie("angle", "x_axis", "l0", value=f"{math.degrees(math.pi / 2 + turned):.12f} deg")
        else:
            (px, py), (qx, qy) = clean[i - 1], clean[i]
            left = (qx - px) * (by - ay) - (qy - py) * (bx - ax) > 0
            if i < n - 1:
                tie("square", f"l{i - 1}", f"l{i}", sense=1.0 if left else -1.0)
        if i < n - 2:
            tie("distance", f"l{i}", value=f"{math.hypot(bx - ax, by - ay):.9f} mm")
    if turned:
        tie("square", f"l{n - 2}", f"l{n - 1}", sense=-1.0)
    for i in range(curves - n if curves > n else 0):
        x, y = turn(10.0 * (i % teeth) + 3, 3.0 - 6 * (i // teeth))
        points[f"c{i}"] = (x - origin[0], y - origin[1])
        circles[f"o{i}"] = Circle(centre=f"c{i}", radius=1.5)
        tie("diameter", f"o{i}", value="3 mm")
        left, top = f"l{4 * (i % teeth)}", f"l{4 * (i % teeth) + 1}"
        tie("distance", f"c{i}", left, value="3 mm", sense=-1.0)
        tie("distance", f"c{i}", top, value=f"{3 + 6 * (i // teeth)} mm", sense=-1.0)
    return Drawing(points=points, curves={**lines, **circles}, constraints=constraints, last=10_000)
