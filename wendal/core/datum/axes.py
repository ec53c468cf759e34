"""Datum axes (D20 to D26)."""

from __future__ import annotations

import math
from collections.abc import Sequence
from types import SimpleNamespace

from ..errors import StepError
from ..kernel.types import Frame, Vec, add, cross, dot, minus, scaled, unit
from ..tolerance import PARALLEL
from .picked import Datum, EndlessLine, of_axis
from .planes import meeting, parallel
from .table import construction, length, part_of, pick

__all__ = ["spot_on_face"]


@construction("axis", "of_round", "D20", "Of a round face or circle", "of {first}", 10, first=pick("turned"))
def of_round(given: SimpleNamespace) -> Sequence[Datum]:
    """The axis of a cylinder, cone, torus or circular edge."""
    line = given.first.turned
    return [of_axis(line.origin, line.direction)]


@construction(
    "axis",
    "planes",
    "D21",
    "Where two planes meet",
    "where {first} meets {second}",
    20,
    first=pick("plane"),
    second=pick("plane"),
)
def where_planes_meet(given: SimpleNamespace) -> Sequence[Datum]:
    """Where two planes or flat faces meet when both are extended."""
    line = meeting(given.first.plane, given.second.plane)
    return [of_axis(line.origin, line.direction)]


@construction(
    "axis",
    "points",
    "D22",
    "Through two points",
    "through {first} and {second}",
    21,
    first=pick("point"),
    second=pick("point"),
)
def through_points(given: SimpleNamespace) -> Sequence[Datum]:
    """From the first point to the second."""
    a, b = given.first.point, given.second.point
    if math.dist(a, b) < PARALLEL:
        raise StepError(
            "Both points stand at the same place, so they give no direction. Pick two different ones."
        )
    return [of_axis(a, minus(b, a))]


@construction("axis", "along", "D23", "Along a line", "along {first}", 11, first=pick("line"))
def along(given: SimpleNamespace) -> Sequence[Datum]:
    """Along an edge, sketch line or other axis."""
    return [of_axis(given.first.line.origin, given.first.line.direction)]


@construction(
    "axis",
    "square",
    "D24",
    "Square to a plane, through a point",
    "square to {first} through {second}",
    22,
    first=pick("plane"),
    second=pick("point"),
)
def square_through(given: SimpleNamespace) -> Sequence[Datum]:
    """Square to a plane or flat face, through a point."""
    return [of_axis(given.second.point, given.first.plane.normal)]


@construction(
    "axis",
    "square_curved",
    "D24",
    "Square to a curved face, through a point",
    "square to {first} through {second}",
    23,
    first=pick("curved"),
    second=pick("point"),
)
def square_to_face(given: SimpleNamespace) -> Sequence[Datum]:
    """Square to a curved face at the foot of a point."""
    foot = given.first.curved.drop(given.second.point)
    return [of_axis(foot, given.first.curved.normal(foot))]


@construction(
    "axis",
    "spot",
    "D25",
    "Square to a face, at a place from two edges",
    "square to {first}, {distance} from {second} and {distance_two} from {third}",
    24,
    first=pick("plane"),
    distance=length("10 mm"),
    second=pick("line", "edge"),
    distance_two=length("10 mm", "second distance"),
    third=pick("line", "second edge"),
)
def square_at_spot(given: SimpleNamespace) -> Sequence[Datum]:
    """Square to a flat face at a place that is told by its distances from two edges, towards the face's
    inside."""
    place = spot_on_face(given)
    return [of_axis(place, given.first.plane.normal)]


@construction(
    "axis",
    "direction",
    "D26",
    "Through a point, along a direction",
    "through {first} along {second}",
    25,
    first=pick("point"),
    second=pick("axis"),
)
def along_direction(given: SimpleNamespace) -> Sequence[Datum]:
    """Through a point, along the direction of a line or axis."""
    return [of_axis(given.first.point, given.second.axis.direction)]


@construction(
    "axis",
    "numbers",
    "D26",
    "Through a point, along a direction in numbers",
    "through {first} along {x} {y} {z} in {second}",
    26,
    first=pick("point"),
    x=part_of("x", "0"),
    y=part_of("y", "0"),
    z=part_of("z", "1"),
    second=pick("system", optional=True),
)
def along_numbers(given: SimpleNamespace) -> Sequence[Datum]:
    """Through a point, along a direction by its parts along X, Y and Z; only their proportion counts."""
    frame: Frame = given.second.system if given.second else Frame()
    way = minus(frame.at(given.x, given.y, given.z), frame.origin)
    if math.hypot(*way) < PARALLEL:
        raise StepError("All three parts are zero, so they give no direction. Change one.")
    return [of_axis(given.first.point, way)]


def spot_on_face(given: SimpleNamespace) -> Vec:
    """Return the place on a plane at two distances from two lines; inside is where the face's middle lies."""
    plane = given.first.plane
    n, middle = plane.normal, given.first.face.centre if given.first.face else plane.origin
    inward = [_inward(line, n, middle) for line in (given.second.line, given.third.line)]
    if parallel(given.second.line.direction, given.third.line.direction):
        raise StepError(
            "The two edges are parallel, so the place is not told. Pick an edge in another direction."
        )
    (a, p), (b, q) = inward
    # place = p + s (line direction): solve a·x = a·p + d1, b·x = b·q + d2, n·x = n·origin
    x = dot(a, p) + given.distance
    y = dot(b, q) + given.distance_two
    z = dot(n, plane.origin)
    det = dot(a, cross(b, n))
    return scaled(add(add(scaled(cross(b, n), x), scaled(cross(n, a), y)), scaled(cross(a, b), z)), 1 / det)


def _inward(line: EndlessLine, n: Vec, middle: Vec) -> tuple[Vec, Vec]:
    across = cross(n, line.direction)
    if math.sqrt(dot(across, across)) < PARALLEL:
        raise StepError(
            "This edge stands square to the face, so it gives no distance on it. Pick an edge along the face."
        )
    across = unit(across)
    if dot(across, minus(middle, line.origin)) < 0:
        across = scaled(across, -1.0)
    return across, line.origin
