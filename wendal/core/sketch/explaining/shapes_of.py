"""Which curves belong together as one shape, and what such a shape is called."""

from __future__ import annotations

import math
from itertools import pairwise

from ...once import Once
from ...tolerance import STRAIGHT
from ..drawn import Arc, Circle, Drawing, Layout, Line
from .words import name_of, spot_of

__all__ = ["call_shape", "curves_at", "shapes_of"]

TOGETHER = ("on_curve", "tangent", "concentric")
SIDES = {3: "triangle", 5: "pentagon", 6: "hexagon", 8: "octagon"}


def _curves_at(drawing: Drawing) -> dict[str, list[str]]:
    found: dict[str, list[str]] = {}
    for c, curve in drawing.curves.items():
        for p in dict.fromkeys(curve.points):
            found.setdefault(p, []).append(c)
    return found


curves_at: Once[Drawing, dict[str, list[str]]] = Once(
    _curves_at, 4
)  # by point, the curves it is of, in the drawing's order


def shapes_of(drawing: Drawing) -> list[list[str]]:
    """Return the curves in groups that joints, tangencies, points on curves and common centres hold
    together."""
    joined = Layout(drawing).joined
    group = {c: c for c in drawing.curves}

    def root(c: str) -> str:
        while group[c] != c:
            c = group[c]
        return c

    at: dict[str, str] = {}
    for c, curve in drawing.curves.items():
        for p in curve.points:
            if joined[p] in at:
                group[root(c)] = root(at[joined[p]])
            else:
                at[joined[p]] = c
    owner = {p: c for c, curve in drawing.curves.items() for p in curve.points}
    for k in drawing.constraints.values():
        if k.kind in TOGETHER and not k.reference:
            met = [c for e in k.of if (c := owner.get(e, e)) in group]
            for a, b in pairwise(met):
                group[root(a)] = root(b)
    found: dict[str, list[str]] = {}
    for c in drawing.curves:
        found.setdefault(root(c), []).append(c)
    return list(found.values())


def call_shape(drawing: Drawing, curves: list[str]) -> str:
    """Call a group of curves by its shape: "the lower left rectangle", "the slot", "the shape of 7
    curves"."""
    if len(curves) == 1:
        return name_of(drawing, curves[0])
    noun = _noun(drawing, curves)
    points = [drawing.place(p) for c in curves for p in drawing.curves[c].points]
    spot = spot_of(drawing, sum(x for x, _ in points) / len(points), sum(y for _, y in points) / len(points))
    return f"the {spot} {noun}" if spot else f"the {noun}"


def _noun(drawing: Drawing, curves: list[str]) -> str:
    real = [drawing.curves[c] for c in curves if not drawing.curves[c].construction]
    lines, arcs = [c for c in real if isinstance(c, Line)], [c for c in real if isinstance(c, Arc)]
    if len(real) == len(lines) == 4 and _square(drawing, lines):
        return "rectangle"
    if len(lines) == 2 and len(arcs) == 2 and len(real) == 4:
        return "slot"
    rings = [drawing.curves[c] for c in curves if isinstance(drawing.curves[c], Circle)]
    if len(lines) == len(real) >= 3 and len(rings) == 1:
        return SIDES.get(len(lines), f"polygon with {len(lines)} sides")
    return f"shape of {len(curves)} curves"


def _square(drawing: Drawing, lines: list[Line]) -> bool:
    ways = []
    for line in lines:
        (ax, ay), (bx, by) = drawing.place(line.start), drawing.place(line.end)
        ways.append(math.atan2(by - ay, bx - ax))
    return all(abs(math.sin(2 * (w - ways[0]))) < STRAIGHT for w in ways)
