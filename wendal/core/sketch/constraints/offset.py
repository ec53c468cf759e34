"""A chain of curves that runs beside another at one distance."""

from __future__ import annotations

import math

from ...errors import SketchError
from ..layout import Layout
from ..model import Arc, Constraint, Drawing, Line
from ..rows import arc_arc_end, line_arc_end, point_line, sum_of
from .base import Compiled, Row, Rule, register
from .turning import offset


@register
class Offset(Rule):
    """Curves in pairs, source before offset curve, along a chain; sense 1 when the chain runs left of the first source as drawn.

    A third sort of pair, (point, arc), is the rounding of a gap at a sharp corner of the source.
    """

    kind, title, symbol, key = "offset", "Offset", "⫽", ""
    takes = ()
    quantity = "length"

    def ordered(self, of: list[str], drawing: Drawing) -> list[str]:
        """Check that pairs fit; the order is as given."""
        for source, made in zip(of[::2], of[1::2], strict=True):
            one, two = drawing.sort(source), drawing.sort(made)
            if one != two and (one, two) not in (("circle", "arc"), ("arc", "circle"), ("point", "arc")):
                raise SketchError(f"An offset of a {one} is no {two}.")
        return of

    def choose(self, c: Constraint, at: Layout) -> float:
        """Read the side off the first pair."""
        return side(c.of[0], c.of[1], at)

    def measure(self, c: Constraint, at: Layout) -> float:
        """Return the present distance of the first pair in mm."""
        source, made = c.of[:2]
        if at.drawing.sort(source) == "line":
            return abs(offset(at.drawing.line_points(made)[0], source, at))
        return abs(float(at.x[at.radius(made)] - at.x[at.radius(source)]))

    def compile(self, c: Constraint, at: Layout, value: float) -> Compiled:
        """Distances of the ends from straight sources, radii of round ones; see `_line` and `_round` for tangent joints."""
        found = Compiled()
        pairs = dict(zip(c.of[1::2], c.of[::2], strict=True))
        known: set[str] = set()  # radii that follow from a neighbour
        for made, source in pairs.items():
            curve = at.drawing.curves[made]
            if isinstance(curve, Line):
                self._line(source, made, pairs, at, value, found)
            elif at.drawing.sort(source) == "point":
                found.merges += zip(at.centre(made), at.xy(source), strict=True)
            else:
                self._round(source, made, pairs, at, value, found, known)
        return found

    def _line(self, source: str, made: str, pairs: dict[str, str], at: Layout, value: float, found: Compiled) -> None:
        side_ = side(source, made, at)
        for i, p in enumerate(at.drawing.line_points(made)):
            q = at.drawing.line_points(source)[i]
            neighbour = _neighbour(made, p, pairs, at)
            foot = Row(line_arc_end, (*at.xy(p), *at.xy(q), *at.line(source)))
            away = Row(point_line, (*at.xy(p), *at.line(source)), (side_ * value,))
            if neighbour is None:
                found.rows += [away, foot]  # an open end stands square to the source's end
            elif at.drawing.sort(pairs[neighbour]) == "point":
                # Beside a rounded gap: the end at its start fixes the gap's radius, the other follows from it.
                gap = at.drawing.curves[neighbour]
                assert isinstance(gap, Arc)
                found.rows += [away, foot] if at.joined[gap.start] == at.joined[p] else [foot]
            elif _smooth(source, pairs[neighbour], q, at):
                found.rows.append(foot)
            else:
                found.rows.append(away)

    def _round(self, source: str, made: str, pairs: dict[str, str], at: Layout, value: float, found: Compiled, known: set[str]) -> None:
        found.merges += zip(at.centre(made), at.centre(source), strict=True)
        grows = 1.0 if at.x[at.radius(made)] >= at.x[at.radius(source)] else -1.0
        if made not in known:
            found.rows.append(Row(sum_of, (at.radius(made), at.radius(source)), (1.0, -1.0, grows * value)))
        curve, base = at.drawing.curves[made], at.drawing.curves[source]
        if not isinstance(curve, Arc) or not isinstance(base, Arc):
            return
        for p, q in ((curve.start, base.start), (curve.end, base.end)):
            neighbour = _neighbour(made, p, pairs, at)
            if neighbour is None or at.drawing.sort(pairs[neighbour]) == "point":
                scale = max(float(at.x[at.radius(source)]), 1e-9)
                found.rows.append(Row(arc_arc_end, (*at.xy(p), *at.centre(made), *at.xy(q)), (scale,)))
            elif isinstance(at.drawing.curves[neighbour], Arc) and _order(pairs, neighbour) > _order(pairs, made) \
                    and _smooth(source, pairs[neighbour], q, at):
                # Two arcs that touch: their joint lies in line with both centres, and gives the second its radius.
                scale = max(float(at.x[at.radius(source)]), 1e-9)
                found.rows.append(Row(arc_arc_end, (*at.xy(p), *at.centre(made), *at.centre(neighbour)), (scale,)))
                known.add(neighbour)


def side(source: str, made: str, at: Layout) -> float:
    """Return 1 when the made curve runs left of the source as that is drawn, else -1."""
    if at.drawing.sort(source) == "line":
        (ax, ay, bx, by), (px, py, qx, qy) = at.x[list(at.line(source))], at.x[list(at.line(made))]
        return 1.0 if (bx - ax) * ((py + qy) / 2 - ay) - (by - ay) * ((px + qx) / 2 - ax) >= 0 else -1.0
    return 1.0 if at.x[at.radius(made)] < at.x[at.radius(source)] else -1.0


def _order(pairs: dict[str, str], made: str) -> int:
    return list(pairs).index(made)


def _neighbour(made: str, end: str, pairs: dict[str, str], at: Layout) -> str | None:
    """Return the made curve that is joined to an end of this one."""
    for other in pairs:
        curve = at.drawing.curves[other]
        if other != made and curve.ends:
            ends = curve.ends
            if any(at.joined[p] == at.joined[end] for p in ends):
                return other
    return None


def _smooth(one: str, other: str, joint: str, at: Layout) -> bool:
    """Tell whether two sources, one of them round, touch at their joint as drawn."""
    if at.drawing.sort(one) == "line" and at.drawing.sort(other) == "line":
        return False
    x, y = at.x[list(at.xy(joint))]
    directions = []
    for curve in (one, other):
        if at.drawing.sort(curve) == "line":
            ax, ay, bx, by = at.x[list(at.line(curve))]
            dx, dy = bx - ax, by - ay
        else:
            cx, cy = at.x[list(at.centre(curve))]
            dx, dy = cy - y, x - cx
        n = math.hypot(dx, dy) or 1.0
        directions.append((dx / n, dy / n))
    (ux, uy), (vx, vy) = directions
    return abs(ux * vy - uy * vx) < 1e-6
