"""The shapes one draws: each turns a few places into points, curves and the constraints that make it that
shape."""

from __future__ import annotations

import math
from collections.abc import Callable
from itertools import pairwise
from typing import Literal

from ...errors import SketchError
from ...tolerance import MEETS
from ..drawn import Constraint, Place
from .draft import End, NewGeometry

__all__ = ["AUTOMATIC", "SHAPES"]


def _point(draft: NewGeometry, ends: list[End]) -> str:
    draft.made.append(draft.point(ends[0]))
    return draft.made[-1]


def _line(draft: NewGeometry, ends: list[End]) -> str:
    return draft.line(draft.point(ends[0]), draft.point(ends[1]))


def _rectangle(draft: NewGeometry, ends: list[End]) -> str:
    (x0, y0), (x1, y1) = ends[0].at, ends[1].at
    if abs(x1 - x0) < MEETS or abs(y1 - y0) < MEETS:
        raise SketchError("A rectangle needs two corners that differ in X and in Y.", field="ends")
    corners = [ends[0], End(at=(x1, y0)), ends[1], End(at=(x0, y1))]
    lines, tips = [], []
    for i in range(4):
        start = draft.point(corners[i])
        end = draft.point(End(at=corners[(i + 1) % 4].at))
        tips.append((start, end))
        lines.append(draft.line(start, end))
    # What makes it a rectangle comes before what its corners were caught on.
    caught, draft.joins = draft.joins, []
    for i in range(4):
        draft.join("coincident", tips[i][1], tips[(i + 1) % 4][0])
        draft.join("vertical" if i % 2 else "horizontal", lines[i])
    draft.joins += caught
    return lines[0]


def _circle(draft: NewGeometry, ends: list[End]) -> str:
    centre = draft.point(ends[0])
    return draft.circle(centre, math.dist(ends[0].at, ends[1].at))


def _arc(draft: NewGeometry, ends: list[End]) -> str:
    """Start, end, and a place the arc passes through."""
    a, b, c = (e.at for e in (ends[0], ends[1], ends[2]))
    centre = End(at=_through(a, b, c)[0])
    turn = (b[0] - a[0]) * (c[1] - a[1]) - (b[1] - a[1]) * (c[0] - a[0])
    start, end = draft.point(ends[0]), draft.point(ends[1])
    # Start, end, middle turn clockwise: then start, middle, end turn counter-clockwise.
    return draft.arc(draft.point(centre), *((start, end) if turn < 0 else (end, start)))


def _rectangle_centre(draft: NewGeometry, ends: list[End]) -> str:
    """A rectangle by its middle and a corner; the middle stays as a point."""
    (cx, cy), (x, y) = ends[0].at, ends[1].at
    made = _rectangle(draft, [End(at=(2 * cx - x, 2 * cy - y)), End(at=(x, y), on=ends[1].on)])
    middle = draft.point(ends[0])
    lines = draft.made
    caught, draft.joins = (
        draft.joins[-1:] if ends[0].on else [],
        draft.joins[:-1] if ends[0].on else draft.joins,
    )
    draft.join("midpoint", middle, draft.start_of(lines[0]), draft.start_of(lines[2]))
    draft.joins += caught
    return made


def _rectangle_three(draft: NewGeometry, ends: list[End]) -> str:
    """A rectangle that stands aslant: two corners, and a place on the side across."""
    (ax, ay), (bx, by), (px, py) = (e.at for e in (ends[0], ends[1], ends[2]))
    length = math.dist((ax, ay), (bx, by))
    if length < MEETS:
        raise SketchError("A rectangle needs two different corners; both are at one place.", field="ends")
    nx, ny = -(by - ay) / length, (bx - ax) / length
    h = (px - ax) * nx + (py - ay) * ny
    if abs(h) < MEETS:
        raise SketchError("A rectangle needs a height: give a place beside its first side.", field="ends")
    corners = [ends[0], ends[1], End(at=(bx + h * nx, by + h * ny)), End(at=(ax + h * nx, ay + h * ny))]
    lines = []
    for i in range(4):
        start = draft.point(corners[i])
        lines.append(draft.line(start, draft.point(End(at=corners[(i + 1) % 4].at))))
    caught, draft.joins = draft.joins, []
    for i in range(4):
        draft.join("coincident", draft.end_of(lines[i]), draft.start_of(lines[(i + 1) % 4]))
    draft.join("square", lines[0], lines[1])
    draft.join("parallel", lines[0], lines[2])
    draft.join("parallel", lines[1], lines[3])
    draft.joins += caught
    return lines[0]


def _through(a: Place, b: Place, c: Place) -> tuple[Place, float]:
    """Return centre and radius of the circle through three places; raises SketchError when they lie in one
    line."""
    d = 2 * (a[0] * (b[1] - c[1]) + b[0] * (c[1] - a[1]) + c[0] * (a[1] - b[1]))
    if abs(d) < MEETS:
        raise SketchError("These three places lie in one line, so no circle goes through them.", field="ends")
    a2, b2, c2 = (p[0] ** 2 + p[1] ** 2 for p in (a, b, c))
    centre = (
        (a2 * (b[1] - c[1]) + b2 * (c[1] - a[1]) + c2 * (a[1] - b[1])) / d,
        (a2 * (c[0] - b[0]) + b2 * (a[0] - c[0]) + c2 * (b[0] - a[0])) / d,
    )
    return centre, math.dist(centre, a)


def _circle_three(draft: NewGeometry, ends: list[End]) -> str:
    """A circle through three places; a point that one was caught on lies on it."""
    centre, radius = _through(ends[0].at, ends[1].at, ends[2].at)
    ring = draft.circle(draft.point(End(at=centre)), radius)
    for end in ends[:3]:
        if draft.is_point(end.on):
            draft.joins.append((False, Constraint(kind="on_curve", of=[end.on, ring])))
    return ring


def _circle_tangent(draft: NewGeometry, ends: list[End]) -> str:
    """A circle that touches three lines, circles or arcs, each near the place it was picked at."""
    curves = [e.on for e in ends[:3]]
    if len(set(curves)) < 3 or any(not draft.is_curve(c) for c in curves):
        raise SketchError(
            "Pick three different lines, circles or arcs for the circle to touch.", field="ends"
        )
    centre, radius = _through(ends[0].at, ends[1].at, ends[2].at)
    ring = draft.circle(draft.point(End(at=centre)), radius)
    for c in curves:
        draft.join("tangent", c, ring)
    return ring


def _arc_centre(draft: NewGeometry, ends: list[End]) -> str:
    """An arc counter-clockwise about its middle, from a start towards an end."""
    (cx, cy), (sx, sy), (ex, ey) = (e.at for e in (ends[0], ends[1], ends[2]))
    r, reach = math.dist((cx, cy), (sx, sy)), math.dist((cx, cy), (ex, ey))
    if r < MEETS or reach < MEETS:
        raise SketchError("An arc needs a radius greater than zero.", field="ends")
    end = End(at=(cx + (ex - cx) * r / reach, cy + (ey - cy) * r / reach), on=ends[2].on)
    return draft.arc(draft.point(ends[0]), draft.point(ends[1]), draft.point(end))


def _tangent_arc(draft: NewGeometry, ends: list[End]) -> str:
    """An arc that goes on smoothly from the end of a line or arc."""
    curve, (tx, ty) = draft.leaving(ends[0].on)
    (sx, sy), (ex, ey) = ends[0].at, ends[1].at
    dx, dy = ex - sx, ey - sy
    off = -ty * dx + tx * dy
    if abs(off) < MEETS * max(math.hypot(dx, dy), MEETS):
        raise SketchError("Straight ahead no arc bends; give a place to the left or right.", field="ends")
    r = (dx * dx + dy * dy) / (2 * off)  # to the left when positive
    centre = draft.point(End(at=(sx - ty * r, sy + tx * r)))
    start, end = draft.point(ends[0]), draft.point(ends[1])
    arc = draft.arc(centre, *((start, end) if r > 0 else (end, start)))
    draft.join("tangent", curve, arc)
    return arc


def _arc_slot(draft: NewGeometry, ends: list[End]) -> str:
    """A slot along an arc: the middle of that, the middles of its two round ends, and a place on its rim."""
    (ox, oy), (ax, ay), (bx, by), (px, py) = (e.at for e in (ends[0], ends[1], ends[2], ends[3]))
    big = math.dist((ox, oy), (ax, ay))
    w = abs(math.dist((ox, oy), (px, py)) - big)
    if big < MEETS or w < MEETS or w >= big:
        raise SketchError("A curved slot needs a radius, and a width less than twice that.", field="ends")
    t0, t1 = math.atan2(ay - oy, ax - ox), math.atan2(by - oy, bx - ox)

    def at(r: float, t: float) -> str:
        return draft.point(End(at=(ox + r * math.cos(t), oy + r * math.sin(t))))

    outer = draft.arc(draft.point(ends[0]), at(big + w, t0), at(big + w, t1))
    inner = draft.arc(draft.point(End(at=(ox, oy))), at(big - w, t0), at(big - w, t1))
    second = draft.arc(at(big, t1), at(big + w, t1), at(big - w, t1))
    first = draft.arc(draft.point(ends[1]), at(big - w, t0), at(big + w, t0))
    caught, draft.joins = draft.joins, []
    draft.join("concentric", outer, inner)
    for one, other in ((outer, second), (first, outer)):
        draft.join("coincident", draft.end_of(one), draft.start_of(other))
    draft.join("coincident", draft.end_of(second), draft.end_of(inner))
    draft.join("coincident", draft.start_of(inner), draft.start_of(first))
    for one in (outer, inner):
        for other in (first, second):
            draft.join("tangent", one, other)
    draft.joins += caught
    return first


def _slot(draft: NewGeometry, ends: list[End]) -> str:
    """A straight slot: the middles of its two round ends, and a place on its rim."""
    (ax, ay), (bx, by), (cx, cy) = (e.at for e in (ends[0], ends[1], ends[2]))
    length = math.dist((ax, ay), (bx, by))
    if length < MEETS:
        raise SketchError("A slot needs two different middles; both ends are at one.", field="ends")
    ux, uy = (bx - ax) / length, (by - ay) / length
    along = min(max((cx - ax) * ux + (cy - ay) * uy, 0.0), length)
    r = math.hypot(cx - ax - along * ux, cy - ay - along * uy)
    if r < MEETS:
        raise SketchError("A slot needs a width: give a place beside its middle line.", field="ends")
    nx, ny = -uy * r, ux * r

    def at(x: float, y: float, side: int) -> str:
        return draft.point(End(at=(x + side * nx, y + side * ny)))

    first = draft.arc(draft.point(ends[0]), at(ax, ay, 1), at(ax, ay, -1))
    second = draft.arc(draft.point(ends[1]), at(bx, by, -1), at(bx, by, 1))
    lower = draft.line(at(ax, ay, -1), at(bx, by, -1))
    upper = draft.line(at(bx, by, 1), at(ax, ay, 1))
    caught, draft.joins = draft.joins, []
    for one, other in ((first, lower), (lower, second), (second, upper), (upper, first)):
        draft.join("coincident", draft.end_of(one), draft.start_of(other))
    for line in (lower, upper):
        for arc in (first, second):
            draft.join("tangent", line, arc)
    draft.join("equal", first, second)
    draft.joins += caught
    return first


def _polygon(draft: NewGeometry, ends: list[End]) -> str:
    """A regular polygon: its middle and one corner, on a construction circle."""
    (cx, cy), (px, py) = ends[0].at, ends[1].at
    r, turn = math.dist((cx, cy), (px, py)), math.atan2(py - cy, px - cx)
    if r < MEETS:
        raise SketchError("A polygon needs a size: its corner is at its middle.", field="ends")
    angles = [turn + 2 * math.pi * i / draft.sides for i in range(draft.sides)]
    spots = [(cx + r * math.cos(t), cy + r * math.sin(t)) for t in angles]
    ring = draft.circle(draft.point(ends[0]), r, construction=True)
    lines = []
    for i in range(draft.sides):
        start = draft.point(ends[1] if i == 0 else End(at=spots[i]))
        lines.append(draft.line(start, draft.point(End(at=spots[(i + 1) % draft.sides]))))
    caught, draft.joins = draft.joins, []
    for i, line in enumerate(lines):
        draft.join("coincident", draft.end_of(line), draft.start_of(lines[(i + 1) % draft.sides]))
        draft.join("on_curve", draft.start_of(line), ring)
        if i:
            draft.join("equal", lines[0], line)
    draft.joins += caught
    return ring


def _ellipse(draft: NewGeometry, ends: list[End]) -> str:
    """Its middle, the end of one half-axis, and a place on it."""
    return draft.ellipse(draft.point(ends[0]), draft.point(ends[1]), _across(ends))


def _across(ends: list[End]) -> float:
    """Return the half-axis across, of an ellipse by its middle, the end of its other half-axis and a place on
    it."""
    (cx, cy), (tx, ty), (px, py) = (e.at for e in (ends[0], ends[1], ends[2]))
    length = math.dist((cx, cy), (tx, ty))
    if length < MEETS:
        raise SketchError("An ellipse needs an axis: its tip is at its middle.", field="ends")
    along = ((px - cx) * (tx - cx) + (py - cy) * (ty - cy)) / length
    across = abs((tx - cx) * (py - cy) - (ty - cy) * (px - cx)) / length
    share = 1 - (along / length) ** 2
    half = across / math.sqrt(share) if share > 0.05 else across
    if half < MEETS:
        raise SketchError("An ellipse needs a width: give a place beside its axis.", field="ends")
    return half


def _ellipse_arc(draft: NewGeometry, ends: list[End]) -> str:
    """Its middle, the end of one half-axis, its start, and where it ends, counter-clockwise."""
    made = draft.ellipse(draft.point(ends[0]), draft.point(ends[1]), _across(ends))
    return draft.part(made, draft.point(ends[2]), ends[3])


def _spline(draft: NewGeometry, ends: list[End], manner: Literal["through", "pulled"]) -> str:
    if len(ends) < 3:
        raise SketchError("A spline wants three points or more.", field="ends")
    if any(math.dist(a.at, b.at) < MEETS for a, b in pairwise(ends)):
        raise SketchError("Two points of a spline in a row are at one place.", field="ends")
    return draft.spline([draft.point(e) for e in ends], manner)


SHAPES: dict[str, Callable[[NewGeometry, list[End]], str]] = {
    "point": _point,
    "line": _line,
    "rectangle": _rectangle,
    "circle": _circle,
    "arc": _arc,
    "slot": _slot,
    "polygon": _polygon,
    "rectangle_centre": _rectangle_centre,
    "rectangle_three": _rectangle_three,
    "circle_three": _circle_three,
    "circle_tangent": _circle_tangent,
    "arc_centre": _arc_centre,
    "tangent_arc": _tangent_arc,
    "arc_slot": _arc_slot,
    "ellipse": _ellipse,
    "ellipse_arc": _ellipse_arc,
    "spline": lambda draft, ends: _spline(draft, ends, "through"),
    "spline_pulled": lambda draft, ends: _spline(draft, ends, "pulled"),
}

Manner = Literal["", "horizontal", "vertical"]
# Which typed measure of a shape becomes which dimension, of the how-manieth of its curves.
AUTOMATIC: dict[str, dict[str, tuple[str, int, Manner]]] = {
    "point": {},
    "line": {"length": ("distance", 0, "")},
    "rectangle": {"width": ("distance", 0, ""), "height": ("distance", 1, "")},
    "circle": {"diameter": ("diameter", 0, "")},
    "arc": {"radius": ("radius", 0, "")},
    "slot": {"width": ("diameter", 0, "")},
    "polygon": {"across corners": ("diameter", 0, "")},
    "rectangle_centre": {"width": ("distance", 0, ""), "height": ("distance", 1, "")},
    "rectangle_three": {"width": ("distance", 0, ""), "height": ("distance", 1, "")},
    "circle_three": {"diameter": ("diameter", 0, "")},
    "circle_tangent": {"diameter": ("diameter", 0, "")},
    "arc_centre": {"radius": ("radius", 0, "")},
    "tangent_arc": {"radius": ("radius", 0, "")},
    "arc_slot": {"width": ("diameter", 3, "")},
    "ellipse": {"axis": ("axis", 0, ""), "cross axis": ("cross_axis", 0, "")},
    "ellipse_arc": {"axis": ("axis", 0, ""), "cross axis": ("cross_axis", 0, "")},
    "spline": {},
    "spline_pulled": {},
}
