"""How a plane or axis stood when it was set: its other directions are carried from there.

A plane alone does not tell where X runs in it. Chosen by what is upright, X jumps by a quarter turn where the
plane passes through level. So a step keeps the axes that it was set with, and turns them by the shortest turn
that brings its plane from then to now. About a fixed axis this turns by exactly what the plane turns, all the
way round. It is a function of the part alone: how the plane came to where it is does not matter.
"""

from __future__ import annotations

import math

from ..kernel.types import Frame, Vec, add, cross, dot, minus, scaled, unit
from ..stored import Figure, Stored
from ..tolerance import PARALLEL

__all__ = ["Stance", "carried_from", "stance_of"]

Direction = tuple[Figure, Figure, Figure]


class Stance(Stored):
    """The X and Y that a datum or sketch was set with, unit vectors in the part's own system."""

    x: Direction
    y: Direction


def stance_of(frame: Frame) -> Stance:
    """Return a frame's axes, to be kept."""
    return Stance(x=frame.x, y=frame.y)


def carried_from(stance: Stance | None, frame: Frame, *, axis: bool = False) -> Frame:
    """Return a frame with its axes carried from a stance; as it is without one.

    axis : the frame is that of an axis along its X, else of a plane. Where the frame agrees with what is
    carried it comes back as it is, to the last bit.
    """
    if stance is None:
        return frame
    then, now = (stance.x, frame.x) if axis else (cross(stance.x, stance.y), frame.normal)
    x, y = (_turned_along(d, then, now, stance.x if not axis else stance.y) for d in (stance.x, stance.y))
    if math.dist(x, frame.x) < PARALLEL and math.dist(y, frame.y) < PARALLEL:
        return frame
    if axis:
        y = unit(minus(y, scaled(now, dot(y, now))))
        return Frame(frame.origin, frame.x, y)
    x = unit(minus(x, scaled(now, dot(x, now))))
    return Frame(frame.origin, x, cross(now, x))


def _turned_along(d: Vec, then: Vec, now: Vec, about: Vec) -> Vec:
    """Return a direction after the shortest turn that brings one unit vector to another (Rodrigues' formula);
    right round it is a half turn about a direction square to both."""
    axis, between = cross(then, now), add(then, now)
    if (size := dot(between, between)) < PARALLEL**2:
        return minus(scaled(about, 2 * dot(about, d)), d)
    across = cross(axis, d)
    return add(add(d, across), scaled(cross(axis, across), 2 / size))  # size : twice (1 + cosine)
