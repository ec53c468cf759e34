"""Aligned sections: cut at two planes that meet in an axis, the second turned into the first (ISO 128-3).

Of either leg its own side of the axis is drawn: what lies behind it, as far as the axis. So nothing of the
one covers anything of the other.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

from .. import kernel
from ..kernel.types import Frame, Placement, Profile, Segment, scaled
from ..route.pages import View
from .ink import XY
from .looking import line_ways

__all__ = ["CUT", "Aligned", "is_aligned", "second_eye", "upright"]

CUT = "cut"  # the step in the names of what a section's tools leave
SQUARE = 1e-6  # of a leg's length: it bends at a right angle, or not at all


def is_aligned(view: View) -> bool:
    """Tell whether a section's line has two legs that meet at a slant."""
    if view.way != "section" or len(view.line) != 3:
        return False
    a, b = _out(view)
    along, across = a[0] * b[0] + a[1] * b[1], a[0] * b[1] - a[1] * b[0]
    return min(abs(along), abs(across)) > SQUARE


def _out(view: View) -> tuple[XY, XY]:
    """Return the unit ways from the bend along the two legs."""
    a, b, c = view.line
    return _unit(b, a), _unit(b, c)


def _unit(a: XY, b: XY) -> XY:
    length = max(math.dist(a, b), 1e-12)
    return (b[0] - a[0]) / length, (b[1] - a[1]) / length


def _angle(view: View) -> float:
    """Return by how much the second leg is turned to run on from the first, rad, counter-clockwise."""
    (u, v), (x, y) = _out(view)
    return math.remainder(math.atan2(-v, -u) - math.atan2(y, x), math.tau)


def second_eye(view: View) -> XY:
    """Return, in the parent's view, the way from the second leg to its eye."""
    _, (n, m) = line_ways(view)
    c, s = math.cos(-_angle(view)), math.sin(-_angle(view))
    return n * c - m * s, n * s + m * c


@dataclass(frozen=True, slots=True)
class Aligned:
    """What an aligned section leaves of the part by its two legs, and how the second is turned."""

    first: kernel.NamedShape
    second: kernel.NamedShape
    placement: Placement

    @classmethod
    def of(cls, view: View, above: Frame, far: float) -> Aligned | None:
        """Return what a view's line cuts; None for one that is not aligned. above : the frame of the view
        that has the line; far : mm beyond the part."""
        if not is_aligned(view):
            return None
        bend = (float(view.line[1][0]), float(view.line[1][1]))
        one, two = _out(view)
        eye, other = line_ways(view)[1], second_eye(view)
        return cls(
            _quarter(bend, one, eye, above, far),
            _quarter(bend, two, other, above, far),
            Placement.turned(above.at(*bend), above.normal, _angle(view)),
        )


def _quarter(bend: XY, out: XY, eye: XY, above: Frame, far: float) -> kernel.NamedShape:
    """Return the solid behind a leg, from the axis outwards."""
    corners = [
        (bend[0] + far * (i * out[0] - j * eye[0]), bend[1] + far * (i * out[1] - j * eye[1]))
        for i, j in ((0, 0), (1, 0), (1, 1), (0, 1))
    ]
    return upright(corners, above, far)


def upright(corners: list[XY], above: Frame, far: float) -> kernel.NamedShape:
    """Return the solid over a polygon in a view, as far as `far` to both sides; its sides are the legs of a
    section's line."""
    pairs = list(zip(corners, [*corners[1:], corners[0]], strict=True))
    if sum(a[0] * b[1] - b[0] * a[1] for a, b in pairs) < 0:
        return upright(corners[::-1], above, far)
    segments = [Segment(f"leg{i}", a, b) for i, (a, b) in enumerate(pairs)]
    low = above.raised(-far)
    return kernel.prism(Profile("line", [segments]), low, scaled(above.normal, 2 * far), CUT)
