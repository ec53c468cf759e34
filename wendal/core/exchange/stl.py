"""STL: triangles in mm."""

from __future__ import annotations

import math

from .. import kernel
from .base import Format, Meshing, Order, register, solid_bodies


def _write(order: Order) -> bytes:
    bodies = [shape for _, _, shape in solid_bodies(order, sheets=False)]
    masses = [kernel.mass_of(b) for b in bodies]
    return kernel.write_stl(bodies, max(math.dist(m.low, m.high) for m in masses), order.options.share)


register(Format("stl", "model/stl", "STL, triangles in mm", _write, ("part", "bodies"), Meshing))
