"""Work coordinate systems (D40 to D44). Each is right-handed, of unit length."""

from __future__ import annotations

import math
from collections.abc import Sequence
from types import SimpleNamespace

from ..errors import StepError
from ..kernel.types import Frame, Vec, cross, dot, minus, scaled, unit
from ..tolerance import PARALLEL
from .picked import Datum, of_axis
from .table import construction, length, pick

__all__: list[str] = []


@construction(
    "system",
    "axes",
    "D40",
    "At a point, by two directions",
    "at {first}, X along {second}, Y towards {third}",
    30,
    first=pick("point"),
    second=pick("axis"),
    third=pick("axis"),
)
def by_axes(given: SimpleNamespace) -> Sequence[Datum]:
    """Origin at a point, X along a line, Y as near to another line as it goes."""
    return [_system(given.first.point, given.second.axis.direction, given.third.axis.direction)]


@construction(
    "system",
    "axes_z",
    "D40",
    "At a point, by X and Z",
    "at {first}, X along {second}, Z towards {third}",
    31,
    first=pick("point"),
    second=pick("axis"),
    third=pick("axis"),
)
def by_x_and_z(given: SimpleNamespace) -> Sequence[Datum]:
    """Origin at a point, X along a line, Z as near to another line as it goes."""
    x, z = given.second.axis.direction, given.third.axis.direction
    return [_system(given.first.point, x, cross(z, x))]


@construction(
    "system",
    "points",
    "D41",
    "By three points",
    "at {first}, X towards {second}, Y on the side of {third}",
    20,
    first=pick("point"),
    second=pick("point"),
    third=pick("point"),
)
def by_points(given: SimpleNamespace) -> Sequence[Datum]:
    """Origin, a point on X, and a point on the side of Y."""
    o = given.first.point
    x, y = minus(given.second.point, o), minus(given.third.point, o)
    if math.sqrt(dot(x, x)) < PARALLEL:
        raise StepError("The first two points stand at the same place, so X has no direction. Pick another.")
    if math.sqrt(dot(y, y)) < PARALLEL:
        raise StepError("The third point stands on the first, so Y has no direction. Pick another.")
    return [_system(o, x, y)]


@construction(
    "system",
    "on_face",
    "D42",
    "On a face, X along an edge",
    "at {third} on {first}, X along {second}",
    21,
    first=pick("plane"),
    second=pick("line"),
    third=pick("point", "origin"),
)
def on_face(given: SimpleNamespace) -> Sequence[Datum]:
    """On a plane or flat face, Z out of it, X along an edge, origin where a point drops on it."""
    plane, d = given.first.plane, given.second.line.direction
    n = plane.normal
    x = minus(d, scaled(n, dot(d, n)))
    if math.sqrt(dot(x, x)) < PARALLEL:
        raise StepError(
            "The edge stands square to the face, so it gives X no direction. Pick an edge along the face."
        )
    u, v, _ = plane.local(given.third.point)
    return [_system(plane.at(u, v), x, cross(n, x))]


@construction(
    "system",
    "moved",
    "D43",
    "Shifted from another",
    "from {first}, shifted {x} {y} {z}",
    11,
    first=pick("system", optional=True),
    x=length("0 mm", "x"),
    y=length("0 mm", "y"),
    z=length("0 mm", "z"),
)
def moved(given: SimpleNamespace) -> Sequence[Datum]:
    """Another system (or the part's own) shifted along its axes; turning is done as for every datum."""
    base: Frame = given.first.system if given.first else Frame()
    return [Datum("system", Frame(base.at(given.x, given.y, given.z), base.x, base.y))]


@construction(
    "system",
    "on_axis",
    "D44",
    "At the axis of a hole or cylinder",
    "at the axis of {first}",
    12,
    first=pick("turned"),
)
def at_axis(given: SimpleNamespace) -> Sequence[Datum]:
    """Z along the axis of a round face or circle, origin at its middle, X as level as it goes."""
    line = given.first.turned
    return [Datum("system", Frame(line.origin, *_across(line.direction)))]


@construction("system", "on_plane", "D42", "On a plane", "on {first}", 10, first=pick("plane"))
def on_plane(given: SimpleNamespace) -> Sequence[Datum]:
    """On a plane with the plane's own origin and axes."""
    return [Datum("system", given.first.plane)]


def _across(z: Vec) -> tuple[Vec, Vec]:
    """Return X and Y square to Z; X is level, along the world's X where Z is upright."""
    if abs(z[2]) > 1 - PARALLEL:
        y = unit(cross(z, (1.0, 0.0, 0.0)))
        return cross(y, z), y
    axis = of_axis((0.0, 0.0, 0.0), z).frame
    return axis.y, cross(z, axis.y)


def _system(origin: Vec, x: Vec, y: Vec) -> Datum:
    z = cross(x, y)
    if math.sqrt(dot(z, z)) < PARALLEL * math.sqrt(dot(x, x) * dot(y, y)):
        raise StepError(
            "X and the second direction run along each other, so the system is not told. Pick another "
            "direction."
        )
    x = unit(x)
    return Datum("system", Frame(origin, x, cross(unit(z), x)))
