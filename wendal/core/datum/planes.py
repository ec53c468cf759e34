"""Datum planes (D1 to D13). Every function returns all planes that meet its picks, in a fixed order."""

from __future__ import annotations

import math
from collections.abc import Sequence
from types import SimpleNamespace

from ..errors import StepError
from ..kernel.types import Frame, Vec, add, cross, dot, minus, scaled, turned, unit, upright
from ..tolerance import MEETS, PARALLEL, ROUNDING, SHARE
from .picked import Datum, EndlessLine, of_plane
from .table import angle, construction, length, pick, share, side

__all__ = ["BASE_AXES", "BASE_PLANES"]

ORIGIN = (0.0, 0.0, 0.0)
# Seen square-on, Z is up wherever it can be: ZX is the front view, so its normal points to the viewer (-Y).
BASE_PLANES = {
    "XY": upright(ORIGIN, (0.0, 0.0, 1.0)),
    "YZ": upright(ORIGIN, (1.0, 0.0, 0.0)),
    "ZX": upright(ORIGIN, (0.0, -1.0, 0.0)),
}
BASE_AXES = {"X": (1.0, 0.0, 0.0), "Y": (0.0, 1.0, 0.0), "Z": (0.0, 0.0, 1.0)}
OUT = {"out": "out from", "back": "back from"}


@construction(
    "plane",
    "offset",
    "D1",
    "At a distance",
    "{distance} {side} {first}",
    10,
    copies=True,
    distance=length(),
    side=side(**OUT),
    first=pick("plane"),
)
def offset(given: SimpleNamespace) -> Sequence[Datum]:
    """Parallel to a plane at a distance; copies follow at the same distance each."""
    base: Frame = given.first.plane
    return [Datum("plane", base.raised(-given.distance if given.side == "back" else given.distance))]


@construction(
    "plane",
    "midway",
    "D2",
    "Midway between two",
    "midway between {first} and {second}",
    20,
    first=pick("plane"),
    second=pick("plane"),
)
def midway(given: SimpleNamespace) -> Sequence[Datum]:
    """Midway between two parallel planes, or both bisectors of two that cross (the nearer to both normals
    first)."""
    a, b = given.first.plane, given.second.plane
    n, m = a.normal, b.normal
    if parallel(n, m):
        gap = dot(minus(b.origin, a.origin), n)
        return [of_plane(add(a.origin, scaled(n, gap / 2)), n)]
    line = meeting(a, b)
    return [of_plane(line.origin, add(n, m)), of_plane(line.origin, minus(n, m))]


@construction(
    "plane",
    "angle",
    "D3",
    "Through a line, at an angle",
    "through {first} at {angle} to {second}",
    21,
    copies=True,
    first=pick("axis"),
    angle=angle(),
    second=pick("plane"),
)
def at_angle(given: SimpleNamespace) -> Sequence[Datum]:
    """Through a line or axis, at an angle to a plane: turned one way or the other about the line."""
    line, n = given.first.axis, given.second.plane.normal
    reach = math.sqrt(max(1 - dot(line.direction, n) ** 2, 0.0))
    if reach < PARALLEL:
        if abs(math.cos(given.angle)) < PARALLEL:
            raise StepError(
                "Every plane through this line stands square to the plane. Pick another line or plane."
            )
        raise StepError(
            "The line stands square to the plane, so planes through it are all at 90° to the plane. "
            "Pick a line that lies along the plane."
        )
    cosine = math.cos(given.angle) / reach
    if abs(cosine) > 1 + ROUNDING:
        least = math.degrees(math.acos(reach))
        raise StepError(
            f"No plane through this line is at that angle: the line itself rises at {least:.3f}° from the "
            "plane. "
            f"Choose an angle between {least:.3f}° and {180 - least:.3f}°.",
            field="angle",
        )
    foot = unit(minus(n, scaled(line.direction, dot(line.direction, n))))
    swing = math.acos(max(-1.0, min(1.0, cosine)))
    if abs(reach - 1) < PARALLEL:
        swing = given.angle  # the line lies along the plane: the angle is turned as it is, past 180° too
    return [of_plane(line.origin, turned(foot, line.direction, s)) for s in (swing, -swing)]


@construction(
    "plane",
    "points",
    "D4",
    "Through three points",
    "through {first}, {second} and {third}",
    22,
    first=pick("point"),
    second=pick("point"),
    third=pick("point"),
)
def through_points(given: SimpleNamespace) -> Sequence[Datum]:
    """Through three points."""
    a, b, c = given.first.point, given.second.point, given.third.point
    ab, ac = minus(b, a), minus(c, a)
    n = cross(ab, ac)
    if math.sqrt(dot(n, n)) <= PARALLEL * max(dot(ab, ab), dot(ac, ac)) or not dot(ab, ab) or not dot(ac, ac):
        raise StepError(
            "These three points lie in one line, so many planes go through them. Pick one that lies off it."
        )
    return [of_plane(a, n)]


@construction(
    "plane",
    "parallel",
    "D5",
    "Through a point, parallel to a plane",
    "through {first}, parallel to {second}",
    23,
    first=pick("point"),
    second=pick("plane"),
)
def through_parallel(given: SimpleNamespace) -> Sequence[Datum]:
    """Through a point, parallel to a plane."""
    return [of_plane(given.first.point, given.second.plane.normal, told=True)]


@construction(
    "plane",
    "square",
    "D6",
    "Through a point, square to a line",
    "through {first}, square to {second}",
    24,
    first=pick("point"),
    second=pick("axis"),
)
def through_square(given: SimpleNamespace) -> Sequence[Datum]:
    """Through a point, square to a line or axis."""
    return [of_plane(given.first.point, given.second.axis.direction, told=True)]


@construction(
    "plane",
    "curve_share",
    "D7",
    "Square to a curve, at a share of it",
    "square to {first} at {share}",
    30,
    first=pick("curve"),
    share=share(),
)
def square_at_share(given: SimpleNamespace) -> Sequence[Datum]:
    """Square to a curve at a share of its length from its start."""
    if not -PARALLEL <= given.share <= 1 + PARALLEL:
        raise StepError("The share goes from 0 % (the curve's start) to 100 % (its end).", field="share")
    place, tangent = given.first.curve.at(given.share * given.first.curve.length)
    return [of_plane(place, tangent, told=True)]


@construction(
    "plane",
    "curve_length",
    "D7",
    "Square to a curve, at a length along it",
    "square to {first}, {distance} from its start",
    31,
    first=pick("curve"),
    distance=length("10 mm"),
)
def square_at_length(given: SimpleNamespace) -> Sequence[Datum]:
    """Square to a curve at a length from its start."""
    place, tangent = given.first.curve.at(along(given))
    return [of_plane(place, tangent, told=True)]


@construction(
    "plane",
    "curve_point",
    "D7",
    "Square to a curve, at a point",
    "square to {first} at {second}",
    32,
    first=pick("curve"),
    second=pick("point"),
)
def square_at_point(given: SimpleNamespace) -> Sequence[Datum]:
    """Square to a curve at a point on it."""
    place, tangent = given.first.curve.at(given.first.curve.nearest(given.second.point))
    gap = math.dist(place, given.second.point)
    if gap > MEETS:
        raise StepError(
            f"The point lies {gap:.4g} mm off the curve. Pick a point on it, or go through a point square "
            "to a line."
        )
    return [of_plane(place, tangent, told=True)]


@construction(
    "plane",
    "lines",
    "D8",
    "Through two lines",
    "through {first} and {second}",
    25,
    first=pick("axis"),
    second=pick("axis"),
)
def through_lines(given: SimpleNamespace) -> Sequence[Datum]:
    """Through two lines that are parallel or cross."""
    a, b = given.first.axis, given.second.axis
    if parallel(a.direction, b.direction):
        across = minus(b.origin, a.foot(b.origin))
        if math.sqrt(dot(across, across)) < PARALLEL:
            raise StepError(
                "Both picks lie on one line, so many planes go through them. Pick a second line beside it."
            )
        return [of_plane(a.origin, cross(a.direction, across))]
    gap = apart(a, b)
    if gap > MEETS:
        raise StepError(
            f"The two lines pass each other {gap:.4g} mm apart, so no plane holds both. Pick lines that "
            "cross or are parallel."
        )
    return [of_plane(a.origin, cross(a.direction, b.direction))]


@construction(
    "plane",
    "line_point",
    "D9",
    "Through a line and a point",
    "through {first} and {second}",
    26,
    first=pick("axis"),
    second=pick("point"),
)
def through_line_and_point(given: SimpleNamespace) -> Sequence[Datum]:
    """Through a line and a point beside it."""
    line, p = given.first.axis, given.second.point
    across = minus(p, line.foot(p))
    if math.sqrt(dot(across, across)) < PARALLEL:
        raise StepError(
            "The point lies on the line, so many planes go through both. Pick a point beside it, or give an "
            "angle."
        )
    return [of_plane(p, cross(line.direction, across))]


@construction(
    "plane",
    "line_square",
    "D12",
    "Through a line, square to a plane",
    "through {first}, square to {second}",
    27,
    first=pick("axis"),
    second=pick("plane"),
)
def through_line_square(given: SimpleNamespace) -> Sequence[Datum]:
    """Through a line, square to a plane or flat face."""
    line, n = given.first.axis, given.second.plane.normal
    if parallel(line.direction, n):
        raise StepError(
            "The line stands square to the plane already, so many planes fit. Give an angle to another "
            "plane instead."
        )
    return [of_plane(line.origin, cross(line.direction, n))]


@construction(
    "plane",
    "view",
    "D13",
    "Parallel to the view, through a point",
    "facing the viewer as seen then, through {first}",
    60,
    first=pick("point"),
)
def facing_view(given: SimpleNamespace) -> Sequence[Datum]:
    """Parallel to the view as it was when the plane was made, through a point.

    facing : towards the viewer.
    """
    if math.sqrt(dot(given.facing, given.facing)) < PARALLEL:
        raise StepError("The direction of the view is missing; make this plane on the stage.", field="facing")
    return [of_plane(given.first.point, given.facing)]


def parallel(a: Vec, b: Vec) -> bool:
    """Tell whether two unit vectors run along each other, either way."""
    c = cross(a, b)
    return math.sqrt(dot(c, c)) < PARALLEL


def meeting(a: Frame, b: Frame) -> EndlessLine:
    """Return the line where two planes meet, its origin nearest to the world's; raises StepError when they
    are parallel."""
    n, m = a.normal, b.normal
    if parallel(n, m):
        raise StepError(
            "These planes are parallel, so they never meet. Pick two that are inclined to each other."
        )
    d = unit(cross(n, m))
    h, k, c = dot(a.origin, n), dot(b.origin, m), dot(n, m)
    place = add(scaled(n, (h - k * c) / (1 - c * c)), scaled(m, (k - h * c) / (1 - c * c)))
    return EndlessLine(place, d)


def apart(a: EndlessLine, b: EndlessLine) -> float:
    """Return the distance at which two lines that are not parallel pass each other."""
    return abs(dot(minus(b.origin, a.origin), unit(cross(a.direction, b.direction))))


def along(given: SimpleNamespace) -> float:
    """Return the given distance along the first pick's curve; raises StepError when it lies beyond."""
    whole: float = given.first.curve.length
    if not -SHARE <= given.distance <= whole + SHARE:
        raise StepError(
            f"The curve is {whole:.6g} mm long; {given.distance:.6g} mm lies beyond it.", field="distance"
        )
    return float(min(max(given.distance, 0.0), whole))
