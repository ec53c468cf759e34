"""The shapes one draws: each turns a few places into points, curves and the constraints that make it that shape."""

from __future__ import annotations

import math
from collections.abc import Callable
from typing import Literal

from ..errors import SketchError
from ..stored import Stored
from .model import Arc, Circle, Constraint, Curve, Drawing, Line, Place

__all__ = ["AUTOMATIC", "SHAPES", "Draft", "End"]

SMALLEST = 1e-6  # mm


class End(Stored):
    """A place, and what it was caught on: a point, a curve, "middle:" and a line, or "" for nothing."""

    at: Place
    on: str = ""


class Draft:
    """New geometry for a drawing, with ids that were never used in it.

    made : ids of the new curves (or points), in order. joins : (needed, constraint) pairs to be added.
    """

    def __init__(self, drawing: Drawing, construction: bool, sides: int = 6) -> None:
        self._drawing, self._construction, self.sides = drawing, construction, sides
        self._points: dict[str, Place] = {}
        self._curves: dict[str, Curve] = {}
        self._last = drawing.last
        self.made: list[str] = []
        self.joins: list[tuple[bool, Constraint]] = []

    @staticmethod
    def is_needed(kind: str) -> bool:
        """Automatic constraints are left out where they say nothing new."""
        return False

    def point(self, end: End) -> str:
        """Make a point, joined to what its place was caught on."""
        self._last += 1
        point = f"p{self._last}"
        self._points[point] = end.at
        if end.on.startswith("middle:"):
            self.joins.append((False, Constraint(kind="midpoint", of=[point, end.on.removeprefix("middle:")])))
        elif end.on:
            is_point = self._drawing.sort(end.on) == "point"
            self.joins.append((False, Constraint(kind="coincident" if is_point else "on_curve", of=[point, end.on])))
        return point

    def line(self, start: str, end: str) -> str:
        """Make a line; a line without length is refused."""
        if math.dist(self._points[start], self._points[end]) < SMALLEST:
            raise SketchError("A line needs two different places; both ends are at one.", field="ends")
        return self._curve(Line(start=start, end=end, construction=self._construction))

    def circle(self, centre: str, radius: float, *, construction: bool = False) -> str:
        """Make a circle; one without radius is refused."""
        if radius < SMALLEST:
            raise SketchError("A circle needs a radius greater than zero.", field="ends")
        return self._curve(Circle(centre=centre, radius=radius, construction=self._construction or construction))

    def arc(self, centre: str, start: str, end: str) -> str:
        """Make an arc, counter-clockwise."""
        radius = math.dist(self._points[centre], self._points[start])
        return self._curve(Arc(centre=centre, start=start, end=end, radius=radius, construction=self._construction))

    def _curve(self, curve: Curve) -> str:
        self._last += 1
        self._curves[f"c{self._last}"] = curve
        self.made.append(f"c{self._last}")
        return self.made[-1]

    def start_of(self, curve: str) -> str:
        """Return the id of the point a new line or arc starts at."""
        return self._curves[curve].points[-2]

    def end_of(self, curve: str) -> str:
        """Return the id of the point a new line or arc ends at."""
        return self._curves[curve].points[-1]

    def join(self, kind: str, *of: str) -> None:
        """Ask for a constraint that makes the shape what it is."""
        self.joins.append((True, Constraint(kind=kind, of=list(of))))

    def drawing(self) -> Drawing:
        """Return the drawing with the new geometry, not yet joined."""
        old = self._drawing
        return old.model_copy(update={"points": {**old.points, **self._points},
                                      "curves": {**old.curves, **self._curves}, "last": self._last})


def _point(draft: Draft, ends: list[End]) -> str:
    draft.made.append(draft.point(ends[0]))
    return draft.made[-1]


def _line(draft: Draft, ends: list[End]) -> str:
    return draft.line(draft.point(ends[0]), draft.point(ends[1]))


def _rectangle(draft: Draft, ends: list[End]) -> str:
    (x0, y0), (x1, y1) = ends[0].at, ends[1].at
    if abs(x1 - x0) < SMALLEST or abs(y1 - y0) < SMALLEST:
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


def _circle(draft: Draft, ends: list[End]) -> str:
    centre = draft.point(ends[0])
    return draft.circle(centre, math.dist(ends[0].at, ends[1].at))


def _arc(draft: Draft, ends: list[End]) -> str:
    """Start, end, and a place the arc passes through."""
    (ax, ay), (bx, by), (cx, cy) = (e.at for e in (ends[0], ends[1], ends[2]))
    d = 2 * (ax * (by - cy) + bx * (cy - ay) + cx * (ay - by))
    if abs(d) < SMALLEST:
        raise SketchError("These three places lie in one line, so no arc goes through them.", field="ends")
    a2, b2, c2 = ax * ax + ay * ay, bx * bx + by * by, cx * cx + cy * cy
    centre = End(at=((a2 * (by - cy) + b2 * (cy - ay) + c2 * (ay - by)) / d,
                     (a2 * (cx - bx) + b2 * (ax - cx) + c2 * (bx - ax)) / d))
    start, end = draft.point(ends[0]), draft.point(ends[1])
    # d < 0 when start, end, middle turn clockwise: then start, middle, end turn counter-clockwise.
    return draft.arc(draft.point(centre), *((start, end) if d < 0 else (end, start)))


def _slot(draft: Draft, ends: list[End]) -> str:
    """A straight slot: the middles of its two round ends, and a place on its rim."""
    (ax, ay), (bx, by), (cx, cy) = (e.at for e in (ends[0], ends[1], ends[2]))
    length = math.dist((ax, ay), (bx, by))
    if length < SMALLEST:
        raise SketchError("A slot needs two different middles; both ends are at one.", field="ends")
    ux, uy = (bx - ax) / length, (by - ay) / length
    along = min(max((cx - ax) * ux + (cy - ay) * uy, 0.0), length)
    r = math.hypot(cx - ax - along * ux, cy - ay - along * uy)
    if r < SMALLEST:
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


def _polygon(draft: Draft, ends: list[End]) -> str:
    """A regular polygon: its middle and one corner, on a construction circle."""
    (cx, cy), (px, py) = ends[0].at, ends[1].at
    r, turn = math.dist((cx, cy), (px, py)), math.atan2(py - cy, px - cx)
    if r < SMALLEST:
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


SHAPES: dict[str, Callable[[Draft, list[End]], str]] = {
    "point": _point, "line": _line, "rectangle": _rectangle, "circle": _circle, "arc": _arc,
    "slot": _slot, "polygon": _polygon,
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
}
