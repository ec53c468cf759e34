"""What a datum can stand on: a picked thing, told by what it can be taken for (its facets).

Lengths are mm.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field, replace
from typing import TYPE_CHECKING

from .. import kernel
from ..blanks import WORDS
from ..kernel.types import Frame, Placement, Vec, add, cross, dot, minus, scaled, unit, upright

if TYPE_CHECKING:
    from ..kernel import NamedShape

__all__ = [
    "FACETS",
    "Curve",
    "Datum",
    "EndlessLine",
    "Picked",
    "Round",
    "Surface",
    "of_axis",
    "of_plane",
    "of_point",
]

# Every facet, and how a blank that wants it is said.
FACETS = {
    "plane": "a plane or a flat face",
    "line": "a straight edge, sketch line or axis",
    "axis": "a line, an axis or a round face",
    "turned": "a round face or a circular edge",
    "point": "a point, corner, middle or centre",
    "round": "a round or conical face",
    "circle": "a circle or an arc",
    "curve": "an edge or a sketch curve",
    "face": "a face",
    "curved": "a curved face",
    "system": "a coordinate system",
    "region": "a region of a sketch",
    "body": "a body",
    "flat": "a flat face of a body",
    "sketch": "a whole sketch",
    "step": "a step",
    "drawn": "a curve of a sketch",
    "edge": "an edge of a body",
}


@dataclass(frozen=True, slots=True)
class EndlessLine:
    """An endless line with a sense.

    length : of the edge it comes from, origin then being the edge's start.
    """

    origin: Vec
    direction: Vec
    length: float = 0.0

    def at(self, t: float) -> Vec:
        """Return the place t mm along."""
        return add(self.origin, scaled(self.direction, t))

    def foot(self, p: Vec) -> Vec:
        """Return the place on the line nearest to p."""
        return self.at(dot(minus(p, self.origin), self.direction))


@dataclass(frozen=True, slots=True)
class Round:
    """A cylinder or cone.

    radius : mm at the axis' origin. slope : by how much it grows per mm along the axis.
    """

    axis: EndlessLine
    radius: float
    slope: float = 0.0


@dataclass(frozen=True, slots=True)
class Curve:
    """Any curve. at : place and unit tangent at mm from its start; ring : centre line of a circle; radius mm.

    pulled : where it is a clamped cubic B-spline, its knots (each once, from 0 to 1) and control points.
    """

    length: float
    at: Callable[[float], tuple[Vec, Vec]] = field(repr=False, compare=False)
    nearest: Callable[[Vec], float] = field(repr=False, compare=False)
    closed: bool = False
    pulled: Callable[[], tuple[list[float], list[Vec]] | None] = field(
        default=lambda: None, repr=False, compare=False
    )


def _no_pieces(frame: Frame) -> list[tuple[str, list[tuple[float, float]], float]]:
    return []


def _no_lines(eye: Vec) -> list[tuple[Vec, Vec]]:
    return []


@dataclass(frozen=True, slots=True)
class Surface:
    """Any face. centre : its centroid. nearest : the place on the face (bounded) nearest to another.

    drop : the foot of the square from a place onto the whole surface. normal : outward at a place on it. cut
    : its pieces in a plane, each ("line" | "circle" | "arc" | …, places in the plane, radius). turning :
    straight lines (a place, a direction) along which it turns away from an eye that looks in a direction.
    """

    centre: Vec
    nearest: Callable[[Vec], Vec] = field(repr=False, compare=False)
    drop: Callable[[Vec], Vec] = field(repr=False, compare=False)
    normal: Callable[[Vec], Vec] = field(repr=False, compare=False)
    cut: Callable[[Frame], list[tuple[str, list[tuple[float, float]], float]]] = field(
        default=_no_pieces, repr=False, compare=False
    )
    turning: Callable[[Vec], list[tuple[Vec, Vec]]] = field(default=_no_lines, repr=False, compare=False)


@dataclass(frozen=True, slots=True)
class Picked:
    """A resolved pick: every facet it has, None for those it has not. key : tells all of its content.

    solid : for a face, its body's shape and its index there; edge : the same for an edge; lead : of an edge,
    the index of the face on which what is measured from one of its two faces begins, -1 where that is not
    known. plane_of : for what is drawn in a sketch, the sketch's frame; name : tells it from all others of
    the part, in names of what is made at it. spot : of a datum plane, the place that it was set through.
    """

    words: str = field(metadata=WORDS)
    plane: Frame | None = None
    line: EndlessLine | None = None
    axis: EndlessLine | None = None
    turned: EndlessLine | None = None
    point: Vec | None = None
    round: Round | None = None
    circle: EndlessLine | None = None
    curve: Curve | None = None
    face: Surface | None = None
    curved: Surface | None = None
    system: Frame | None = None
    key: str = ""
    solid: tuple[NamedShape, int] | None = field(default=None, repr=False, compare=False)
    edge: tuple[NamedShape, int] | None = field(default=None, repr=False, compare=False)
    lead: int = -1
    plane_of: Frame | None = None
    name: str = ""
    spot: Vec | None = None

    @property
    def facets(self) -> set[str]:
        """The names of the facets it has."""
        return {f for f in FACETS if getattr(self, f, None) is not None} | (
            {"flat"} if self.plane and self.solid else set()
        )

    def plain(self) -> Picked:
        """Return the pick in figures alone, without the shape that it is of."""
        return replace(self, curve=None, face=None, curved=None, key="", solid=None, edge=None)

    def moved(self, by: Placement) -> Picked:
        """Return the pick after a motion, as far as a tool can end or begin at it."""

        def line(held: EndlessLine | None) -> EndlessLine | None:
            return held and EndlessLine(by.point(held.origin), by.vector(held.direction), held.length)

        solid = self.solid and (kernel.placed(self.solid[0], by), self.solid[1])
        return Picked(
            self.words,
            plane=self.plane and self.plane.moved(by),
            line=line(self.line),
            axis=line(self.axis),
            point=self.point and by.point(self.point),
            key=self.key,
            solid=solid,
        )


@dataclass(frozen=True, slots=True)
class Datum:
    """What a datum step makes.

    kind : "plane", "axis" (along the frame's x), "point" (its origin) or "system". unmoved : its frame before
    it was shifted and turned about its own axes. spot : of a plane, the place that it was set through.
    """

    kind: str
    frame: Frame
    unmoved: Frame | None = None
    spot: Vec | None = None

    def picked(self, words: str) -> Picked:
        """Return the datum as a thing to stand on."""
        f = self.frame
        if self.kind == "plane":
            return Picked(words, plane=f, spot=self.spot)
        if self.kind == "axis":
            line = EndlessLine(f.origin, f.x)
            return Picked(words, line=line, axis=line)
        if self.kind == "point":
            return Picked(words, point=f.origin)
        return Picked(words, system=f, point=f.origin, plane=f)


def of_plane(through: Vec, normal: Vec, told: bool = False) -> Datum:
    """Return a datum plane through a place; its axes and origin depend on the plane alone.

    told : the place is one that the designer named, at which a sketch on it begins.
    """
    return Datum("plane", upright(through, normal), spot=through if told else None)


def of_axis(through: Vec, direction: Vec) -> Datum:
    """Return a datum axis through a place."""
    x = unit(direction)
    level = (0.0, 0.0, 1.0) if abs(x[2]) < 0.9 else (0.0, 1.0, 0.0)
    y = unit(cross(level, x))
    return Datum("axis", Frame(through, x, y))


def of_point(place: Vec) -> Datum:
    """Return a datum point."""
    return Datum("point", Frame(place))
