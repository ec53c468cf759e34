"""Datum points (D30 to D37)."""

from __future__ import annotations

import math
from collections.abc import Sequence
from types import SimpleNamespace

from ..errors import StepError
from ..kernel.types import Frame, add, cross, dot, minus, scaled
from ..tolerance import MEETS, PARALLEL, SHARE
from .axes import spot_on_face
from .picked import Datum, of_point
from .planes import along, apart, parallel
from .table import construction, count, length, pick, share

__all__: list[str] = []


@construction(
    "point",
    "centre",
    "D30",
    "At the centre of a circle",
    "at the centre of {first}",
    10,
    first=pick("circle"),
)
def centre(given: SimpleNamespace) -> Sequence[Datum]:
    """The centre of a circle, arc or ellipse."""
    return [of_point(given.first.circle.origin)]


@construction(
    "point", "centroid", "D31", "In the middle of a face", "in the middle of {first}", 12, first=pick("face")
)
def centroid(given: SimpleNamespace) -> Sequence[Datum]:
    """The centroid of a face."""
    return [of_point(given.first.face.centre)]


@construction(
    "point",
    "lines_cross",
    "D32",
    "Where two lines cross",
    "where {first} crosses {second}",
    20,
    first=pick("axis"),
    second=pick("axis"),
)
def where_lines_cross(given: SimpleNamespace) -> Sequence[Datum]:
    """Where two lines or axes cross."""
    a, b = given.first.axis, given.second.axis
    if parallel(a.direction, b.direction):
        raise StepError(
            "The two lines are parallel, so they do not cross. Pick two that are inclined to each other."
        )
    gap = apart(a, b)
    if gap > MEETS:
        raise StepError(
            f"The two lines pass each other {gap:.4g} mm apart, so they do not cross. Drop a point on one "
            "of them instead."
        )
    n = cross(a.direction, b.direction)
    t = dot(cross(minus(b.origin, a.origin), b.direction), n) / dot(n, n)
    return [of_point(a.at(t))]


@construction(
    "point",
    "line_plane",
    "D32",
    "Where a line meets a plane",
    "where {first} meets {second}",
    21,
    first=pick("axis"),
    second=pick("plane"),
)
def where_line_meets_plane(given: SimpleNamespace) -> Sequence[Datum]:
    """Where a line or axis goes through a plane."""
    line, plane = given.first.axis, given.second.plane
    slope = dot(line.direction, plane.normal)
    if abs(slope) < PARALLEL:
        raise StepError(
            "The line runs along the plane, so it does not go through it. Pick another line or plane."
        )
    return [of_point(line.at(dot(minus(plane.origin, line.origin), plane.normal) / slope))]


@construction(
    "point",
    "planes",
    "D32",
    "Where three planes meet",
    "where {first}, {second} and {third} meet",
    22,
    first=pick("plane"),
    second=pick("plane"),
    third=pick("plane"),
)
def where_planes_meet(given: SimpleNamespace) -> Sequence[Datum]:
    """Where three planes or flat faces meet."""
    frames: list[Frame] = [given.first.plane, given.second.plane, given.third.plane]
    a, b, c = (f.normal for f in frames)
    det = dot(a, cross(b, c))
    if abs(det) < PARALLEL:
        raise StepError(
            "These three planes have no single point in common: two are parallel, or all meet along one "
            "line. "
            "Pick others."
        )
    h, k, m = (dot(f.origin, f.normal) for f in frames)
    total = add(add(scaled(cross(b, c), h), scaled(cross(c, a), k)), scaled(cross(a, b), m))
    return [of_point(scaled(total, 1 / det))]


@construction(
    "point",
    "dropped",
    "D33",
    "Dropped square onto a plane",
    "{first} dropped on {second}",
    23,
    first=pick("point"),
    second=pick("plane"),
)
def dropped(given: SimpleNamespace) -> Sequence[Datum]:
    """A point dropped square onto a plane or flat face."""
    u, v, _ = given.second.plane.local(given.first.point)
    return [of_point(given.second.plane.at(u, v))]


@construction(
    "point",
    "dropped_curved",
    "D33",
    "Dropped square onto a curved face",
    "{first} dropped on {second}",
    24,
    first=pick("point"),
    second=pick("curved"),
)
def dropped_on_face(given: SimpleNamespace) -> Sequence[Datum]:
    """A point dropped square onto a curved face."""
    return [of_point(given.second.curved.drop(given.first.point))]


@construction(
    "point", "at_point", "D34", "At a corner or sketch point", "at {first}", 11, first=pick("point")
)
def at_point(given: SimpleNamespace) -> Sequence[Datum]:
    """At a corner, sketch point, middle or centre."""
    return [of_point(given.first.point)]


@construction(
    "point",
    "curve_share",
    "D35",
    "Along a curve, at a share of it",
    "along {first} at {share}",
    31,
    first=pick("curve"),
    share=share(),
)
def along_share(given: SimpleNamespace) -> Sequence[Datum]:
    """Along a curve at a share of its length from its start."""
    if not -SHARE <= given.share <= 1 + SHARE:
        raise StepError("The share goes from 0 % (the curve's start) to 100 % (its end).", field="share")
    return [of_point(given.first.curve.at(given.share * given.first.curve.length)[0])]


@construction(
    "point",
    "curve_length",
    "D35",
    "Along a curve, at a length",
    "along {first}, {distance} from its start",
    32,
    first=pick("curve"),
    distance=length("10 mm"),
)
def along_length(given: SimpleNamespace) -> Sequence[Datum]:
    """Along a curve at a length from its start."""
    return [of_point(given.first.curve.at(along(given))[0])]


@construction(
    "point",
    "spread",
    "D35",
    "Several along a curve, evenly",
    "{count} points along {first}, evenly",
    30,
    count=count(),
    first=pick("curve"),
)
def spread(given: SimpleNamespace) -> Sequence[Datum]:
    """n points spread evenly: from end to end of an open curve, around a closed one. All are made."""
    curve, n = given.first.curve, round(given.count)
    if n > 500:
        raise StepError("More than 500 points are not made in one step.", field="count")
    if n == 1:
        return [of_point(curve.at(curve.length / 2)[0])]
    gaps = n if curve.closed else n - 1
    return [of_point(curve.at(curve.length * i / gaps)[0]) for i in range(n)]


@construction(
    "point",
    "coordinates",
    "D36",
    "By coordinates",
    "at {x} {y} {z} in {first}",
    50,
    x=length("0 mm", "x"),
    y=length("0 mm", "y"),
    z=length("0 mm", "z"),
    first=pick("system", optional=True),
)
def by_coordinates(given: SimpleNamespace) -> Sequence[Datum]:
    """At coordinates in a coordinate system, or in the part's own."""
    system: Frame = given.first.system if given.first else Frame()
    return [of_point(system.at(given.x, given.y, given.z))]


@construction(
    "point",
    "nearest_face",
    "D37",
    "Nearest place of a face",
    "on {first} nearest to {second}",
    40,
    first=pick("face"),
    second=pick("point"),
)
def nearest_on_face(given: SimpleNamespace) -> Sequence[Datum]:
    """The place of a bounded face that is nearest to a point."""
    return [of_point(given.first.face.nearest(given.second.point))]


@construction(
    "point",
    "nearest_curve",
    "D37",
    "Nearest place of a curve",
    "on {first} nearest to {second}",
    41,
    first=pick("curve"),
    second=pick("point"),
)
def nearest_on_curve(given: SimpleNamespace) -> Sequence[Datum]:
    """The place of a curve that is nearest to a point."""
    curve = given.first.curve
    return [of_point(curve.at(curve.nearest(given.second.point))[0])]


@construction(
    "point",
    "spot",
    "D36",
    "On a face, by distances from two edges",
    "on {first}, {distance} from {second} and {distance_two} from {third}",
    42,
    first=pick("plane"),
    distance=length("10 mm"),
    second=pick("line", "edge"),
    distance_two=length("10 mm", "second distance"),
    third=pick("line", "second edge"),
)
def on_face(given: SimpleNamespace) -> Sequence[Datum]:
    """On a flat face at two distances from two of its edges."""
    if math.isnan(given.distance):
        raise StepError("A distance is wanted.", field="distance")
    return [of_point(spot_on_face(given))]
