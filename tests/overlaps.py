"""What stands on what on a page, counted apart from how pages are laid out: by separating axes."""

from __future__ import annotations

import math
from itertools import combinations, pairwise

from wendal.core.drawing.ink import corners
from wendal.core.drawing.page import Sheet
from wendal.core.strokes import Stroke

__all__ = ["apart", "overlaps"]

Places = list[tuple[float, float]]


def apart(a: Places, b: Places) -> bool:
    """Tell whether a line divides two convex shapes (the separating axis theorem)."""
    for shape in (a, b):
        for (x0, y0), (x1, y1) in pairwise([*shape, shape[0]]):
            nx, ny = y1 - y0, x0 - x1
            size = math.hypot(nx, ny)
            if size < 1e-12:
                continue
            own = [(x * nx + y * ny) / size for x, y in a]
            other = [(x * nx + y * ny) / size for x, y in b]
            if min(own) >= max(other) - 1e-9 or min(other) >= max(own) - 1e-9:
                return True
    return False


def _runs(s: Stroke) -> list[Places]:
    n = 1 if s.kind == "line" else 48
    return [[a, b] for a, b in pairwise([s.at(i / n) for i in range(n + 1)])]


def _cross(a: Places, b: Places) -> bool:
    def side(p: tuple[float, float], q: tuple[float, float], r: tuple[float, float]) -> float:
        return (q[0] - p[0]) * (r[1] - p[1]) - (q[1] - p[1]) * (r[0] - p[0])

    return side(*a, b[0]) * side(*a, b[1]) < -1e-6 and side(*b, a[0]) * side(*b, a[1]) < -1e-6


def overlaps(sheet: Sheet) -> dict[str, int]:
    """Count words on words, words on outlines, words on other dimensions' lines, and leaders that cross."""
    texts = [(i.id, corners(t)) for i in sheet.items if i.of != "frame" for t in i.texts if t.words.strip()]
    outline = [r for i in sheet.items if i.of == "view" for k in i.inks if k.pen == "outline" for r in _runs(k.stroke)]
    dimensions = {i.id: [r for k in i.inks if k.pen == "thin" for r in _runs(k.stroke)] for i in sheet.items if i.of == "dimension"}
    led = {m.of.id for m in sheet.measured if m.shape in ("round", "leader")}
    return {
        "words on words": sum(a != b and not apart(p, q) for (a, p), (b, q) in combinations(texts, 2)),
        "words on outlines": sum(any(not apart(p, r) for r in outline) for _, p in texts),
        "words on lines": sum(any(not apart(p, r) for i, held in dimensions.items() if i != a for r in held) for a, p in texts),
        "leaders that cross": sum(
            any(_cross(r, q) for r in dimensions[a] for q in dimensions[b]) for a, b in combinations(sorted(led & dimensions.keys()), 2)
        ),
    }
