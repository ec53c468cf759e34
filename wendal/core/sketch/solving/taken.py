"""Geometry taken in from the model: how it comes into a drawing, and how the drawing follows when it
moves."""

from __future__ import annotations

import math
from collections.abc import Iterator, Mapping
from typing import Literal

from pydantic import Field

from ...errors import SketchError
from ...stored import Figure, Stored
from ...tolerance import MOTION_NOISE
from ..drawn import (
    Arc,
    Circle,
    Curve,
    Drawing,
    Ellipse,
    EllipseArc,
    Layout,
    Line,
    Oval,
    Place,
    Spline,
    with_so_many,
)
from .solver import Solution, solve

__all__ = ["Traced", "carried", "fits", "own_points", "placed"]

FINEST = 24


class Traced(Stored):
    """What a thing of the model comes to in a sketch's plane (mm).

    places : a point's; a line's ends; a circle's centre; an arc's centre, start and end, counter-clockwise;
    an ellipse's centre and the end of one half-axis (radius is the other), its start and end too where it is
    a part; the points that pull a spline, with its knots.
    """

    kind: Literal["point", "line", "circle", "arc", "ellipse", "ellipse_arc", "spline"]
    places: list[Place] = Field(min_length=1, max_length=200)
    radius: Figure = 0.0
    knots: list[Figure] = Field(default_factory=list)


def own_points(curve: Curve) -> tuple[str, ...]:
    """Return the ids of a curve's points in the order in which its places are traced."""
    return tuple(curve.over) if isinstance(curve, Spline) else curve.points


def fits(drawing: Drawing, entity: str, traced: Traced) -> bool:
    """Tell whether a taken entity can have a shape: its kind must stay what it was."""
    return drawing.kind(entity) == traced.kind


def placed(drawing: Drawing, traced: Mapping[str, Traced], share: float = 1.0) -> Drawing:
    """Return the drawing with taken entities put where they are traced, or a share of the way there.

    What runs beside one goes along with it, so that it stays on its side; nothing else moves.
    """
    for entity, shape in traced.items():
        if shape.kind == "spline":
            drawing = with_so_many(drawing, entity, shape.places, shape.knots)
    points, curves = dict(drawing.points), dict(drawing.curves)

    def put(point: str, to: Place) -> None:
        x, y = points[point]
        points[point] = to if share == 1 else (x + share * (to[0] - x), y + share * (to[1] - y))

    for entity, shape in traced.items():
        if entity in points:
            put(entity, shape.places[0])
            continue
        curve = curves[entity]
        for p, to in zip(own_points(curve), shape.places, strict=True):
            put(p, to)
        if isinstance(curve, Circle | Oval):
            curves[entity] = curve.model_copy(
                update={"radius": curve.radius + share * (shape.radius - curve.radius)}
            )
        elif isinstance(curve, Arc):
            at = points[curve.centre]
            curves[entity] = curve.model_copy(update={"radius": math.dist(at, points[curve.start])})
    for source, made in _beside(drawing, traced):
        one, other = drawing.curves[source], curves[made]
        for p, q in zip(drawing.curves[made].points, one.points, strict=False):
            (x, y), (u, v), (s, t) = points[p], points[q], drawing.points[q]
            points[p] = (x + u - s, y + v - t)
        if isinstance(one, Arc | Circle) and isinstance(other, Arc | Circle):
            grown = other.radius + curves[source].radius - one.radius  # type: ignore[union-attr]
            curves[made] = other.model_copy(update={"radius": max(grown, 0.5 * other.radius)})
    return drawing.model_copy(update={"points": points, "curves": curves})


def _beside(drawing: Drawing, traced: Mapping[str, Traced]) -> Iterator[tuple[str, str]]:
    """Yield (source, offset curve) for everything straight or round that runs beside what is traced."""
    straight_or_round = (Line, Arc, Circle)
    for k in drawing.constraints.values():
        if k.kind == "offset" and not k.reference:
            for source, made in zip(k.of[::2], k.of[1::2], strict=True):
                one, other = drawing.curves.get(source), drawing.curves.get(made)
                if (
                    source in traced
                    and made not in traced
                    and isinstance(one, straight_or_round)
                    and type(one) is type(other)
                ):
                    yield source, made


def carried(drawing: Drawing, traced: Mapping[str, Traced], values: Mapping[str, float]) -> Solution:
    """Return the drawing solved with its taken geometry where it is traced; far moves are followed in steps.

    Raises SketchError as `solve` does.
    """
    size = Layout(drawing).size()
    there = placed(drawing, traced)
    far = max(
        (math.dist(p, there.points[k]) for k, p in drawing.points.items() if k in there.points), default=0.0
    )
    steps = 1 if far < MOTION_NOISE * size else min(FINEST, math.ceil(far / (0.1 * size)))
    here = drawing
    for i in range(1, steps):
        try:
            here = solve(placed(here, traced, 1 / (steps - i + 1)), values).drawing
        except SketchError:
            break  # the rest at once: it tells what stands in the way
    return solve(placed(here, traced), values)


def draw_traced(shape: Traced, point: str, more: list[str]) -> Curve | None:
    """Return the curve for a traced shape through new points (None for a point alone)."""
    if shape.kind == "line":
        return Line(start=point, end=more[0])
    if shape.kind == "circle":
        return Circle(centre=point, radius=shape.radius)
    if shape.kind == "arc":
        return Arc(centre=point, start=more[0], end=more[1], radius=shape.radius)
    if shape.kind == "ellipse":
        return Ellipse(centre=point, tip=more[0], radius=shape.radius)
    if shape.kind == "ellipse_arc":
        return EllipseArc(centre=point, tip=more[0], start=more[1], end=more[2], radius=shape.radius)
    if shape.kind == "spline":
        return Spline(over=[point, *more], manner="pulled", knots=shape.knots)
    return None
