"""Lines that lie on each other: what is seen goes before what is hidden (ISO 128-2), and each is drawn
once."""

from __future__ import annotations

import math
from collections.abc import Iterable, Iterator
from itertools import pairwise

from ..strokes import Stroke
from .views import Line

__all__ = ["clipped", "shown"]

SAME = 1e-6
Span = tuple[float, float]


def shown(lines: Iterable[Line], hidden: bool, smooth: bool) -> list[Line]:
    """Return the lines that are drawn: all that are seen, and of the hidden ones what lies beside those."""
    held = list(lines)
    seen = [ln for ln in held if ln.visible and (smooth or ln.kind != "smooth")]
    taken: dict[tuple[float, ...], list[Span]] = {}
    for ln in seen:
        if at := _place(ln.stroke):
            taken.setdefault(at[0], []).extend(at[1])
    if not hidden:
        return seen
    behind = []
    for ln in held:
        if ln.visible or ln.kind == "smooth":
            continue
        at = _place(ln.stroke)
        if at is None:
            behind.append(ln)
            continue
        key, spans = at
        for span in spans:
            behind += [_with(ln, key, s) for s in _less(span, taken.get(key, []))]
        taken.setdefault(key, []).extend(spans)
    return seen + behind


def _with(ln: Line, key: tuple[float, ...], span: Span) -> Line:
    return Line(_stroke(key, span), ln.kind, ln.visible, ln.body, ln.edge, ln.face)


def _place(s: Stroke) -> tuple[tuple[float, ...], list[Span]] | None:
    """Return the endless line or circle that a stroke lies on, and where on it; None for other curves."""
    if s.kind == "line":
        dx, dy = s.end[0] - s.start[0], s.end[1] - s.start[1]
        length = math.hypot(dx, dy)
        if length < SAME:
            return None
        u, v = dx / length, dy / length
        if u < -SAME or (abs(u) <= SAME and v < 0):
            u, v = -u, -v
        off = s.start[0] * v - s.start[1] * u
        ends = sorted(p[0] * u + p[1] * v for p in (s.start, s.end))
        return (round(u, 6) + 0.0, round(v, 6) + 0.0, round(off, 5) + 0.0), [(ends[0], ends[1])]
    if s.kind == "arc":
        a, b = sorted((s.t0, s.t1))
        turns = math.floor(a / (2 * math.pi)) * 2 * math.pi
        a, b = a - turns, b - turns
        spans = [(a, b)] if b <= 2 * math.pi + SAME else [(a, 2 * math.pi), (0.0, b - 2 * math.pi)]
        return (round(s.centre[0], 5) + 0.0, round(s.centre[1], 5) + 0.0, round(s.radius, 5), 1.0), spans
    return None


def _stroke(key: tuple[float, ...], span: Span) -> Stroke:
    a, b = span
    if len(key) == 3:
        u, v, off = key
        size = math.hypot(u, v)
        u, v = u / size, v / size
        return Stroke("line", (a * u + off * v, a * v - off * u), (b * u + off * v, b * v - off * u))
    x, y, r, _ = key
    ends = [(x + r * math.cos(t), y + r * math.sin(t)) for t in (a, b)]
    return Stroke("arc", ends[0], ends[1], (x, y), r, a, b)


def _less(span: Span, taken: list[Span]) -> Iterator[Span]:
    low, high = span
    for a, b in sorted(taken):
        if b <= low or a >= high:
            continue
        if a > low + SAME:
            yield low, a
        low = max(low, b)
    if high > low + SAME:
        yield low, high


def clipped(strokes: Iterable[Line], middle: tuple[float, float], radius: float) -> list[Line]:
    """Return what of lines lies within a circle."""
    found = []
    for ln in strokes:
        n = 64
        inside = [math.dist(ln.stroke.at(i / n), middle) <= radius for i in range(n + 1)]
        if all(inside):
            found.append(ln)
            continue
        cuts = [0.0]
        for i in range(n):
            if inside[i] != inside[i + 1]:
                a, b = i / n, (i + 1) / n
                for _ in range(40):
                    c = (a + b) / 2
                    if (math.dist(ln.stroke.at(c), middle) <= radius) == inside[i]:
                        a = c
                    else:
                        b = c
                cuts.append((a + b) / 2)
        cuts.append(1.0)
        for a, b in pairwise(cuts):
            if b - a > 1e-9 and math.dist(ln.stroke.at((a + b) / 2), middle) <= radius:
                found.append(Line(ln.stroke.part(a, b), ln.kind, ln.visible, ln.body, ln.edge, ln.face))
    return found
