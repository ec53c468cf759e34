"""Datum planes. Distances are mm, along the normal of what they stand on."""

from __future__ import annotations

from ..kernel.types import Frame, upright

__all__ = ["BASE_PLANES", "parallel_plane"]

ORIGIN = (0.0, 0.0, 0.0)
# Seen square-on, Z is up wherever it can be: ZX is the front view, so its normal points to the viewer (-Y).
BASE_PLANES = {
    "XY": upright(ORIGIN, (0.0, 0.0, 1.0)),
    "YZ": upright(ORIGIN, (1.0, 0.0, 0.0)),
    "ZX": upright(ORIGIN, (0.0, -1.0, 0.0)),
}


def parallel_plane(base: Frame, distance: float, flip: bool) -> Frame:
    """Return the plane at a distance from another; flip takes the other side and keeps the plane's own sense."""
    return base.raised(-distance if flip else distance)
