"""Shapes placed elsewhere: seen from another system, shifted, turned, mirrored.

Names stay, or are written anew one by one.
"""

from __future__ import annotations

from collections.abc import Callable

from OCP.BRepBuilderAPI import BRepBuilderAPI_Transform
from OCP.gp import gp_Trsf
from OCP.TopLoc import TopLoc_Location

from .named import NamedShape, carry
from .shapes import ax3
from .types import Frame, Placement

__all__ = ["placed", "renamed", "seen_from"]


def seen_from(body: NamedShape, frame: Frame) -> NamedShape:
    """Return a copy of a body in the coordinates of a frame, names kept."""
    turn = gp_Trsf()
    turn.SetTransformation(ax3(frame))  # from the part's own system to the frame's
    made = BRepBuilderAPI_Transform(body.shape, turn, True)
    return carry(made, [body], made.Shape())


def placed(body: NamedShape, placement: Placement, copied: Callable[[str], str] = str) -> NamedShape:
    """Return a shape after a motion. copied : turns a face's name into that of its copy.

    A mirrored shape is made anew, since the kernel's moved one would be inside out; any other shares its
    geometry.
    """
    (a, b, c), (x, y, z) = placement.turn, placement.shift
    motion = gp_Trsf()
    motion.SetValues(*a, x, *b, y, *c, z)
    shape = (
        BRepBuilderAPI_Transform(body.shape, motion, True).Shape()
        if placement.mirrors
        else body.shape.Moved(TopLoc_Location(motion))
    )
    return renamed(NamedShape(shape, body.names), copied)  # faces keep their order


def renamed(body: NamedShape, copied: Callable[[str], str]) -> NamedShape:
    """Return a shape with its faces' names written anew."""
    return NamedShape(body.shape, [frozenset(copied(n) for n in names) for names in body.names])
