"""Bodies seen from another coordinate system."""

from __future__ import annotations

from OCP.BRepBuilderAPI import BRepBuilderAPI_Transform
from OCP.gp import gp_Trsf

from .named import NamedShape, carry
from .shapes import ax3
from .types import Frame

__all__ = ["seen_from"]


def seen_from(body: NamedShape, frame: Frame) -> NamedShape:
    """Return a copy of a body in the coordinates of a frame, names kept."""
    turn = gp_Trsf()
    turn.SetTransformation(ax3(frame))  # from the part's own system to the frame's
    made = BRepBuilderAPI_Transform(body.shape, turn, True)
    return carry(made, [body], made.Shape())
