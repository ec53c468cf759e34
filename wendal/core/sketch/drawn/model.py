"""A sketch as data: points, curves, constraints. Coordinates are mm in the sketch's own plane."""

from __future__ import annotations

from collections.abc import Iterator
from itertools import pairwise
from typing import Annotated, Literal, Self

from pydantic import Field, model_validator

from ...errors import SketchError
from ...reference import ThingRef
from ...stored import Figure, Stored, Value
from .nth import Nth

__all__ = [
    "AXES",
    "ORIGIN",
    "X_AXIS",
    "Y_AXIS",
    "Arc",
    "Circle",
    "Constraint",
    "Curve",
    "Drawing",
    "Ellipse",
    "EllipseArc",
    "Free",
    "Line",
    "Oval",
    "Place",
    "Spline",
    "Taken",
    "Text",
]

ORIGIN, X_AXIS, Y_AXIS = "origin", "x_axis", "y_axis"
AXES = {X_AXIS: (ORIGIN, "x_unit"), Y_AXIS: (ORIGIN, "y_unit")}
BUILT_IN_POINTS = {ORIGIN: (0.0, 0.0), "x_unit": (1.0, 0.0), "y_unit": (0.0, 1.0)}
Place = tuple[Figure, Figure]


class Line(Stored):
    """A straight line between two of the sketch's points."""

    kind: Literal["line"] = "line"
    start: str
    end: str
    construction: bool = False

    @property
    def points(self) -> tuple[str, ...]:
        """The ids of the curve's own points."""
        return (self.start, self.end)

    @property
    def ends(self) -> tuple[str, str]:
        """The ids of its two ends."""
        return (self.start, self.end)


class Circle(Stored):
    """A full circle; radius in mm."""

    kind: Literal["circle"] = "circle"
    centre: str
    radius: float = Field(gt=0, allow_inf_nan=False)
    construction: bool = False

    @property
    def points(self) -> tuple[str, ...]:
        """The ids of the curve's own points."""
        return (self.centre,)

    @property
    def ends(self) -> None:
        """It has none."""


class Free(Stored):
    """What ellipses and splines share: each may run beside the curve that its points shape, at one distance
    all along.

    side : 1 to the left of that curve, -1 to the right, 0 for that curve itself. away : how far beside it,
    mm.
    """

    side: Literal[-1, 0, 1] = 0
    away: float = Field(default=0.0, ge=0, allow_inf_nan=False)


class Oval(Free):
    """What ellipses and elliptical arcs share: the middle, the end of one half-axis, and the other half-axis
    in mm."""

    centre: str
    tip: str
    radius: float = Field(gt=0, allow_inf_nan=False)
    construction: bool = False


class Ellipse(Oval):
    """A full ellipse."""

    kind: Literal["ellipse"] = "ellipse"

    @property
    def points(self) -> tuple[str, ...]:
        """The ids of the curve's own points."""
        return (self.centre, self.tip)

    @property
    def ends(self) -> None:
        """It has none."""


class EllipseArc(Oval):
    """A part of an ellipse, counter-clockwise from start to end."""

    kind: Literal["ellipse_arc"] = "ellipse_arc"
    start: str
    end: str

    @property
    def points(self) -> tuple[str, ...]:
        """The ids of the curve's own points."""
        return (self.centre, self.tip, self.start, self.end)

    @property
    def ends(self) -> tuple[str, str]:
        """The ids of its two ends."""
        return (self.start, self.end)


class Arc(Stored):
    """A circular arc, counter-clockwise from start to end; radius in mm."""

    kind: Literal["arc"] = "arc"
    centre: str
    start: str
    end: str
    radius: float = Field(gt=0, allow_inf_nan=False)
    construction: bool = False

    @property
    def points(self) -> tuple[str, ...]:
        """The ids of the curve's own points."""
        return (self.centre, self.start, self.end)

    @property
    def ends(self) -> tuple[str, str]:
        """The ids of its two ends."""
        return (self.start, self.end)


class Spline(Free):
    """A cubic spline over points, from the first to the last, or a part of one.

    start, end : the points at which a part begins and ends, "" where the whole spline does; they lie on it.
    Parts of one spline run over the same points, and so do those that run beside it: they have both. manner :
    "through" the points, or "pulled" by them (a clamped B-spline whose control points they are). knots :
    through its points, the parameter of each, from 0 rising to 1: chosen by the chords when it was drawn and
    kept, so that the curve depends on its points linearly and never jumps. Pulled, where its pieces meet,
    from 0 rising to 1; none for equal pieces.
    """

    kind: Literal["spline"] = "spline"
    over: list[str] = Field(min_length=3, max_length=200)
    manner: Literal["through", "pulled"] = "through"
    knots: list[float] = Field(default_factory=list)
    start: str = ""
    end: str = ""
    construction: bool = False

    @model_validator(mode="after")
    def _fitting_knots(self) -> Self:
        rising = all(a < b for a, b in pairwise(self.knots))
        if self.manner == "through" and not (
            len(self.knots) == len(self.over) and rising and self.knots[0] == 0 and self.knots[-1] == 1
        ):
            raise ValueError("a spline through points has one knot a point, from 0 rising to 1")
        joints = len(self.over) - min(3, len(self.over) - 1) + 1
        fitting = len(self.knots) == joints and rising and (self.knots[0], self.knots[-1]) == (0, 1)
        if self.manner == "pulled" and self.knots and not fitting:
            raise ValueError(
                "a spline pulled by its points has a knot for every joint of its pieces, from 0 rising to "
                "1, or none"
            )
        if {self.start, self.end} & set(self.over) or (self.start and self.start == self.end):
            raise ValueError("a part of a spline begins and ends at two points of its own")
        if self.side and not (self.start and self.end):
            raise ValueError("what runs beside a spline begins and ends at two points of its own")
        return self

    @property
    def points(self) -> tuple[str, ...]:
        """The ids of the curve's own points, its two ends last."""
        ends = self.ends
        return (*(p for p in self.over if p not in ends), *ends)

    @property
    def ends(self) -> tuple[str, str]:
        """The ids of its two ends."""
        return (self.start or self.over[0], self.end or self.over[-1])

    @property
    def tips(self) -> tuple[str, ...]:
        """The ids of the two ends of the whole spline; none of what runs beside it."""
        return () if self.side else (self.over[0], self.over[-1])

    @property
    def cut_ends(self) -> tuple[str, ...]:
        """The ids of those ends that are not the whole spline's."""
        return tuple(p for p in (self.start, self.end) if p)


Curve = Annotated[Line | Circle | Arc | Ellipse | EllipseArc | Spline, Field(discriminator="kind")]


class Constraint(Stored):
    """One constraint or dimension.

    of : ids of the points and curves it binds, in the order its kind defines. value : for a dimension, its
    formula. sense : the chosen one of several answers (side, turning direction); fixed when it is made, kept
    ever after. manner : for a distance, "" (straight), "horizontal" or "vertical". at : where a dimension's
    figure stands, mm in the sketch. reference : a dimension that only tells its value and binds nothing; it
    has no formula and no tag.
    """

    kind: str
    of: list[str]
    value: Value | None = None
    sense: float = 1.0
    manner: Literal["", "horizontal", "vertical"] = ""
    at: Place | None = None
    reference: bool = False


class Text(Stored):
    """Letters along a curve of the sketch, its base line. Each letter of it is a closed outline to build
    from.

    height : of a capital, a formula. place : where the words stand on the base line, seen in the direction in
    which they run. turned : they run against the base line's own direction, and so on its other side. marks :
    a number for every sign, kept through any change of the words and never given again, by which the faces
    built of it are named.
    """

    base: str
    words: str = Field(min_length=1, max_length=200)
    font: Literal["barlow", "barlow_semibold", "b612_mono"] = "barlow"
    height: Value
    place: Literal["start", "middle", "end"] = "start"
    turned: bool = False
    marks: list[int]

    @model_validator(mode="after")
    def _one_mark_a_sign(self) -> Self:
        if len(self.marks) != len(self.words) or len(set(self.marks)) != len(self.marks):
            raise ValueError("a text has a number of its own for every sign")
        if any(not s.isprintable() for s in self.words) or not self.words.strip():
            raise ValueError("a text is one line of signs that can be seen")
        return self


class Taken(Stored):
    """Where a point or curve was taken in from: a thing of the model, and how it comes into the plane.

    manner : "project", seen square onto the plane; "cut", where the thing meets the plane; "outline", where a
    round face turns away from the eye. near : of several pieces the one nearest to this place (mm in the
    sketch) was picked. answer : which of the pieces is meant; None for the nearest, until it is known.
    """

    ref: ThingRef
    manner: Literal["project", "cut", "outline"] = "project"
    near: Place | None = None
    answer: Nth | None = None


class Drawing(Stored):
    """What a sketch holds. `last` is the highest number given to an id so far, so that ids are never used
    again.

    taken : the points and curves that follow the model, which nothing in the sketch moves.
    """

    points: dict[str, Place] = Field(default_factory=dict)
    curves: dict[str, Curve] = Field(default_factory=dict)
    constraints: dict[str, Constraint] = Field(default_factory=dict)
    taken: dict[str, Taken] = Field(default_factory=dict)
    texts: dict[str, Text] = Field(default_factory=dict)
    last: int = 0

    @model_validator(mode="after")
    def _ids_once(self) -> Self:
        """An id is part of the names of what is made from a thing, so no two things of a sketch share one."""
        ids = [*self.points, *self.curves, *self.constraints, *self.texts, *BUILT_IN_POINTS, *AXES]
        if len(ids) > len(set(ids)):
            raise ValueError(
                f"the id “{next(i for i in ids if ids.count(i) > 1)}” is used twice in this sketch; each is "
                "used once"
            )
        return self

    def place(self, point: str) -> Place:
        """Return a point's coordinates; raises SketchError for an unknown id."""
        found = self.points.get(point) or BUILT_IN_POINTS.get(point)
        if found is None:
            raise SketchError(f"There is no point “{point}” in this sketch.", field=point)
        return found

    def line_points(self, line: str) -> tuple[str, str]:
        """Return the ids of a line's (or axis') two points; raises SketchError when it is no line."""
        if line in AXES:
            return AXES[line]
        curve = self.curves.get(line)
        if not isinstance(curve, Line):
            raise SketchError(f"“{line}” is not a line of this sketch.", field=line)
        return curve.start, curve.end

    def kind(self, entity: str) -> str:
        """Return "point", "line", "circle", "arc", "ellipse", "ellipse_arc", "spline" or "text"; raises
        SketchError for an unknown id."""
        if entity in self.points or entity == ORIGIN:
            return "point"
        if entity in AXES:
            return "line"
        if entity in self.curves:
            return self.curves[entity].kind
        if entity in self.texts:
            return "text"
        raise SketchError(f"“{entity}” is not in this sketch any more.", field=entity)

    def owner(self, point: str) -> str | None:
        """Return the curve a point belongs to, or None for a loose point."""
        return next((c for c, curve in self.curves.items() if point in curve.points), None)

    def dimensions(self) -> Iterator[tuple[str, Constraint]]:
        """Yield the constraints that hold a value."""
        return ((k, c) for k, c in self.constraints.items() if c.value is not None)
