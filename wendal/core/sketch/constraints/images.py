"""Geometry that is an image of other geometry: mirrored, shifted along a line, or turned about a point.

A constraint lists what the image is taken by and then pairs of points, source before image. An image joins
its arcs' ends, so an arc's centre needs only what its ends leave open: one row, across the ends' bisector.
"""

from __future__ import annotations

import math
from abc import abstractmethod

from ...errors import SketchError
from ..drawn import Arc, Constraint, Drawing, EllipseArc, Layout, Spline, path_of
from ..equations import mid_on_line, shifted_across, shifted_along, square_to_line, turned_x, turned_y
from .base import Compiled, Row, Rule, register


class Image(Rule):
    """The pairs and their rows.

    The first thing of a constraint is the axis, line or point that the image is taken by.
    """

    by = "line"

    def ordered(self, of: list[str], drawing: Drawing) -> list[str]:
        """Check the kinds; the order is as given."""
        if (
            len(of) < 3
            or len(of) % 2 == 0
            or drawing.kind(of[0]) != self.by
            or any(drawing.kind(p) != "point" for p in of[1:])
        ):
            raise SketchError(f"{self.title} wants a {self.by} and pairs of points.")
        return of

    def compile(self, c: Constraint, at: Layout, value: float) -> Compiled:
        """Two rows a pair, one for the centre of an arc whose ends are in it too."""
        images = set(c.of[2::2])
        across = _along_ovals(images, at)
        ends = {
            curve.centre: (curve.start, curve.end)
            for curve in at.drawing.curves.values()
            if isinstance(curve, Arc) and curve.centre in images
        }
        joined = {at.joined[p] for p in images}
        rows = []
        for source, image in zip(c.of[1::2], c.of[2::2], strict=True):
            own = self.rows(c, source, image, at, value)
            if image in ends and all(at.joined[p] in joined for p in ends[image]):
                (sx, sy), (ex, ey) = (at.x[list(at.xy(p))] for p in ends[image])
                own = own[self.choice(c, at, (sy - ey, ex - sx)) :][:1]
            elif image in across:
                own = own[self.choice(c, at, across[image]) :][:1]
            rows += own
        return Compiled(rows)

    @abstractmethod
    def rows(self, c: Constraint, source: str, image: str, at: Layout, value: float) -> list[Row]:
        """Return the two rows of a pair."""

    def choice(self, c: Constraint, at: Layout, across: tuple[float, float]) -> int:
        """Return which of the two rows says most about moves along `across`."""
        ax, ay, bx, by = at.x[list(at.line(c.of[0]))]
        n = math.hypot(bx - ax, by - ay) or 1.0
        along = ((bx - ax) * across[0] + (by - ay) * across[1]) / n
        return 0 if abs(along) >= math.hypot(*across) * math.sqrt(0.5) else 1


def _along_ovals(images: set[str], at: Layout) -> dict[str, tuple[float, float]]:
    """Return, for ends of elliptical arcs and of parts of splines that are images with their whole curve, the
    direction along it: all that is left open there."""
    found = {}
    for c, curve in at.drawing.curves.items():
        whole = (
            (curve.centre, curve.tip)
            if isinstance(curve, EllipseArc)
            else curve.over
            if isinstance(curve, Spline)
            else ()
        )
        if curve.ends and whole and images.issuperset(whole):
            path = path_of(at.drawing, c)
            for end, t in zip(curve.ends, (path.t0, path.t1), strict=True):
                if end not in whole:
                    angle = path.heading(t, t + 1.0)[0]
                    found[end] = (math.cos(angle), math.sin(angle))
    return found


@register
class Mirrored(Image):
    """Points that are the mirror images of others about a line."""

    kind, title, symbol, key = "mirrored", "Mirror link", "⇋", ""
    takes = ()

    def rows(self, c: Constraint, source: str, image: str, at: Layout, value: float) -> list[Row]:
        """Their join is square to the line; its middle lies on it."""
        variables = at.xy(source) + at.xy(image) + at.line(c.of[0])
        return [Row(square_to_line, variables), Row(mid_on_line, variables)]


@register
class Shifted(Image):
    """Points that follow others at a distance along a line; sense -1 against its direction."""

    kind, title, symbol, key = "shifted", "Copy distance", "⇥", ""
    takes = ()
    quantity = "length"

    def measure(self, c: Constraint, at: Layout) -> float:
        """Return the present shift of the first pair, mm."""
        return self._along(c, at) * c.sense

    def choose(self, c: Constraint, at: Layout) -> float:
        """Read the way off the drawing."""
        return 1.0 if self._along(c, at) >= 0 else -1.0

    @staticmethod
    def _along(c: Constraint, at: Layout) -> float:
        ax, ay, bx, by = at.x[list(at.line(c.of[0]))]
        (px, py), (qx, qy) = (at.x[list(at.xy(p))] for p in c.of[1:3])
        return float((qx - px) * (bx - ax) + (qy - py) * (by - ay)) / (math.hypot(bx - ax, by - ay) or 1.0)

    def rows(self, c: Constraint, source: str, image: str, at: Layout, value: float) -> list[Row]:
        """So far along the line, and not away from it."""
        variables = at.xy(source) + at.xy(image) + at.line(c.of[0])
        return [Row(shifted_along, variables, (c.sense * value,)), Row(shifted_across, variables)]


@register
class Turned(Image):
    """Points that follow others turned about a point; sense -1 clockwise."""

    kind, title, symbol, key = "turned", "Copy angle", "↻", ""
    takes = ()
    quantity = "angle"
    by = "point"

    def measure(self, c: Constraint, at: Layout) -> float:
        """Return the present turn of the pair farthest from the middle, rad."""
        return self._turn(c, at) * c.sense % (2 * math.pi)

    def choose(self, c: Constraint, at: Layout) -> float:
        """Counter-clockwise."""
        return 1.0

    def check_value(self, value: float, c: Constraint, drawing: Drawing) -> None:
        """Refuse what is no part of a full turn."""
        if not 0 < value < 2 * math.pi:
            raise SketchError("A copy is turned by more than 0 deg and less than 360 deg.", field="value")

    @staticmethod
    def _turn(c: Constraint, at: Layout) -> float:
        ox, oy = at.x[list(at.xy(c.of[0]))]
        best = (0.0, 0.0)
        for source, image in zip(c.of[1::2], c.of[2::2], strict=True):
            (px, py), (qx, qy) = (at.x[list(at.xy(p))] for p in (source, image))
            best = max(
                best,
                (math.hypot(px - ox, py - oy), math.atan2(qy - oy, qx - ox) - math.atan2(py - oy, px - ox)),
            )
        return best[1]

    def rows(self, c: Constraint, source: str, image: str, at: Layout, value: float) -> list[Row]:
        """The turned place, in x and in y."""
        variables = at.xy(source) + at.xy(image) + at.xy(c.of[0])
        turn = (math.cos(c.sense * value), math.sin(c.sense * value))
        return [Row(turned_x, variables, turn), Row(turned_y, variables, turn)]

    def choice(self, c: Constraint, at: Layout, across: tuple[float, float]) -> int:
        """The x row where the bisector runs more along x."""
        return 0 if abs(across[0]) >= abs(across[1]) else 1
