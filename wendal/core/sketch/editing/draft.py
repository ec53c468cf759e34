"""New geometry on its way into a drawing: places and what they were caught on, points, curves and what joins
them."""

from __future__ import annotations

import math
from typing import Literal

from ...errors import SketchError
from ...stored import Stored
from ...tolerance import MEETS
from ..drawn import (
    Arc,
    Circle,
    Constraint,
    Curve,
    Drawing,
    Ellipse,
    EllipseArc,
    EllipsePath,
    Line,
    Place,
    Spline,
    chord_knots,
)

__all__ = ["End", "NewGeometry"]


class End(Stored):
    """A place, and what it was caught on: a point, a curve, "middle:" and a line, or "" for nothing."""

    at: Place
    on: str = ""


class NewGeometry:
    """New geometry for a drawing, with ids that were never used in it.

    made : ids of the new curves (or points), in order. joins : (needed, constraint) pairs to be added.
    """

    def __init__(self, drawing: Drawing, construction: bool, sides: int = 6) -> None:
        self._drawing, self._construction, self.sides = drawing, construction, sides
        self._points: dict[str, Place] = {}
        self._curves: dict[str, Curve] = {}
        self._last = drawing.last
        self.made: list[str] = []
        self.first = ""  # the new point at the place that the shape was begun at, "" where there is none
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
            self.joins.append(
                (False, Constraint(kind="midpoint", of=[point, end.on.removeprefix("middle:")]))
            )
        elif end.on:
            is_point = self._drawing.kind(end.on) == "point"
            self.joins.append(
                (False, Constraint(kind="coincident" if is_point else "on_curve", of=[point, end.on]))
            )
        return point

    def begun_at(self, place: Place) -> None:
        """Note which of the new points stands where the shape was begun."""
        self.first = next((p for p, at in self._points.items() if math.dist(at, place) < MEETS), "")

    def line(self, start: str, end: str) -> str:
        """Make a line; a line without length is refused."""
        if math.dist(self._points[start], self._points[end]) < MEETS:
            raise SketchError("A line needs two different places; both ends are at one.", field="ends")
        return self._curve(Line(start=start, end=end, construction=self._construction))

    def circle(self, centre: str, radius: float, *, construction: bool = False) -> str:
        """Make a circle; one without radius is refused."""
        if radius < MEETS:
            raise SketchError("A circle needs a radius greater than zero.", field="ends")
        return self._curve(
            Circle(centre=centre, radius=radius, construction=self._construction or construction)
        )

    def arc(self, centre: str, start: str, end: str) -> str:
        """Make an arc, counter-clockwise."""
        radius = math.dist(self._points[centre], self._points[start])
        return self._curve(
            Arc(centre=centre, start=start, end=end, radius=radius, construction=self._construction)
        )

    def ellipse(self, centre: str, tip: str, radius: float) -> str:
        """Make an ellipse from its middle, the end of a half-axis, and the other half-axis in mm."""
        return self._curve(Ellipse(centre=centre, tip=tip, radius=radius, construction=self._construction))

    def part(self, ellipse: str, start: str, end: End) -> str:
        """Make an ellipse just drawn a part of itself, from a point on it to where the direction of another
        place meets it."""
        whole = self._curves[ellipse]
        assert isinstance(whole, Ellipse)
        (cx, cy), (tx, ty) = self._points[whole.centre], self._points[whole.tip]
        path = EllipsePath((cx, cy), (tx - cx, ty - cy), 0.0, 0.0, 2 * math.pi, other=whole.radius)
        stop = self.point(End(at=path.at(path.angle(end.at)), on=end.on))
        self._curves[ellipse] = EllipseArc(
            centre=whole.centre,
            tip=whole.tip,
            start=start,
            end=stop,
            radius=whole.radius,
            construction=whole.construction,
        )
        return ellipse

    def spline(self, over: list[str], manner: Literal["through", "pulled"]) -> str:
        """Make a spline over points."""
        knots = chord_knots([self._points[p] for p in over]) if manner == "through" else []
        return self._curve(Spline(over=over, manner=manner, knots=knots, construction=self._construction))

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

    def is_point(self, entity: str) -> bool:
        """Tell whether an id is a point that was there before."""
        return bool(entity) and not entity.startswith("middle:") and self._drawing.kind(entity) == "point"

    def is_curve(self, entity: str) -> bool:
        """Tell whether an id is a curve, or an axis, that was there before."""
        return bool(entity) and not entity.startswith("middle:") and self._drawing.kind(entity) != "point"

    def leaving(self, point: str) -> tuple[str, Place]:
        """Return the curve that ends at a point and the direction in which it leaves there; raises
        SketchError."""
        owner = self._drawing.owner(point) if point else None
        curve = self._drawing.curves.get(owner or "")
        if owner is None or not isinstance(curve, Line | Arc) or point not in curve.ends:
            raise SketchError("A tangent arc begins at the end of a line or arc.", field="ends")
        (ax, ay), (bx, by) = (self._drawing.place(p) for p in curve.ends)
        ahead = 1.0 if point == curve.end else -1.0
        if isinstance(curve, Line):
            n = math.dist((ax, ay), (bx, by)) or 1.0
            return owner, (ahead * (bx - ax) / n, ahead * (by - ay) / n)
        (cx, cy), (x, y) = self._drawing.place(curve.centre), self._drawing.place(point)
        n = math.dist((cx, cy), (x, y)) or 1.0
        return owner, (-ahead * (y - cy) / n, ahead * (x - cx) / n)

    def drawing(self) -> Drawing:
        """Return the drawing with the new geometry, not yet joined."""
        old = self._drawing
        return old.model_copy(
            update={
                "points": {**old.points, **self._points},
                "curves": {**old.curves, **self._curves},
                "last": self._last,
            }
        )
