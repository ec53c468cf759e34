"""Datum planes that touch a cylinder or cone (D10).

A touching plane has an outward unit normal n with n·a = c (a the axis, c = 0 for a cylinder, minus the sine
of the half angle for a cone) and lies at n·(Q - C) = r from a place C of the axis, r being the reach there.
Each construction adds one more linear condition n·w = e; two planes of conditions cut the unit sphere in two
normals.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from types import SimpleNamespace

from ..errors import StepError
from ..kernel.types import Vec, add, cross, dot, minus, scaled, unit
from ..tolerance import ONE_PLACE, PARALLEL
from .picked import Datum, Round, of_plane
from .planes import parallel
from .table import angle, construction, pick

__all__ = ["unit_normals"]


@construction(
    "plane",
    "touch_point",
    "D10",
    "Touching a round face, through a point",
    "touching {first} through {second}",
    28,
    first=pick("round"),
    second=pick("point"),
)
def touching_through_point(given: SimpleNamespace) -> Sequence[Datum]:
    """Through a point outside; two answers, left and right of it."""
    return _touching(given.first.round, through=given.second.point)


@construction(
    "plane",
    "touch_line",
    "D10",
    "Touching a round face, through a line",
    "touching {first} through {second}",
    29,
    first=pick("round"),
    second=pick("line"),
)
def touching_through_line(given: SimpleNamespace) -> Sequence[Datum]:
    """Through a line outside; it must be able to lie in a touching plane."""
    line = given.second.line
    found = _touching(given.first.round, through=line.origin)
    held = [d for d in found if abs(dot(d.frame.normal, line.direction)) < ONE_PLACE]
    if not held:
        raise StepError(
            "The line crosses the direction of the round face, so no touching plane holds it. "
            "Pick a line along the face's axis, or a point."
        )
    return held


@construction(
    "plane",
    "touch_parallel",
    "D10",
    "Touching a round face, parallel to a plane",
    "touching {first}, parallel to {second}",
    33,
    first=pick("round"),
    second=pick("plane"),
)
def touching_parallel(given: SimpleNamespace) -> Sequence[Datum]:
    """Parallel to a plane; one answer on either side."""
    face, n = given.first.round, given.second.plane.normal
    lean = _lean(face)
    held = [m for m in (n, scaled(n, -1.0)) if abs(dot(m, face.axis.direction) - lean) < PARALLEL]
    if not held:
        raise StepError(
            "No touching plane is parallel to this plane: it must run along the round face. Pick another "
            "plane, "
            "or give an angle."
        )
    return [_plane(face, m) for m in held]


@construction(
    "plane",
    "touch_square",
    "D10",
    "Touching a round face, square to a plane",
    "touching {first}, square to {second}",
    34,
    first=pick("round"),
    second=pick("plane"),
)
def touching_square(given: SimpleNamespace) -> Sequence[Datum]:
    """Square to a plane; one answer on either side."""
    return _touching(given.first.round, leaning=(given.second.plane.normal, 0.0))


@construction(
    "plane",
    "touch_angle",
    "D10",
    "Touching a round face, at an angle to a plane",
    "touching {first} at {angle} to {second}",
    35,
    first=pick("round"),
    angle=angle(),
    second=pick("plane"),
)
def touching_at_angle(given: SimpleNamespace) -> Sequence[Datum]:
    """At an angle to a plane; up to four answers around the face."""
    n, cosine = given.second.plane.normal, math.cos(given.angle)
    found: list[Datum] = []
    for c in dict.fromkeys((cosine, -cosine)):
        found += _touching(given.first.round, leaning=(n, c), quiet=True)
    if not found:
        raise StepError(
            "No plane touches this face at that angle to the plane. Choose another angle.", field="angle"
        )
    return found


def _lean(face: Round) -> float:
    """Return n·a of every touching plane."""
    return -face.slope / math.hypot(1.0, face.slope)


def _touching(
    face: Round, *, through: Vec | None = None, leaning: tuple[Vec, float] | None = None, quiet: bool = False
) -> list[Datum]:
    a = face.axis.direction
    if leaning is not None:
        other = leaning
    else:
        assert through is not None
        q = minus(through, face.axis.origin)
        # The plane passes at n·C + r cos(half angle) from the axis' origin.
        other = (q, face.radius / math.hypot(1.0, face.slope))
    normals = unit_normals((a, _lean(face)), other)
    if not normals and not quiet:
        if through is not None:
            off = math.dist(through, face.axis.foot(through))
            raise StepError(
                f"The point lies inside the round face ({off:.4g} mm from its axis), so no plane through it "
                "can touch the "
                "face. Pick a point outside."
            )
        raise StepError(
            "No plane touches the face in that way: the plane runs across its axis. Pick another plane."
        )
    return [_plane(face, n) for n in normals]


def _plane(face: Round, n: Vec) -> Datum:
    reach = face.radius / math.hypot(1.0, face.slope)
    return of_plane(add(face.axis.origin, scaled(n, reach)), n)


def unit_normals(first: tuple[Vec, float], second: tuple[Vec, float]) -> list[Vec]:
    """Return the unit vectors n with n·v = c for two (v, c): two, one where they just touch, or none."""
    (v, c), (w, e) = first, second
    if parallel(unit(v), _unit_or(w, v)):
        return []
    d = unit(cross(v, w))
    vv, ww, vw = dot(v, v), dot(w, w), dot(v, w)
    k = vv * ww - vw * vw
    base = add(scaled(v, (c * ww - e * vw) / k), scaled(w, (e * vv - c * vw) / k))
    rest = 1 - dot(base, base)
    if rest < -PARALLEL:
        return []
    if rest < PARALLEL:
        return [unit(base)]
    height = math.sqrt(rest)
    return [add(base, scaled(d, height)), add(base, scaled(d, -height))]


def _unit_or(w: Vec, other: Vec) -> Vec:
    return unit(w) if dot(w, w) > PARALLEL else unit(other)
