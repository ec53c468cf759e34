"""STL: triangles in mm, closed and outward, of all bodies in one file."""

from __future__ import annotations

import math

import numpy as np

from .. import kernel
from .base import Format, Meshing, Order, register, solid_bodies

RECORD = np.dtype([("normal", "<f4", 3), ("corners", "<f4", (3, 3)), ("rest", "<u2")])


def _write(order: Order) -> bytes:
    bodies = [shape for _, _, shape in solid_bodies(order, sheets=False)]
    size = max(math.dist(m.low, m.high) for m in map(kernel.mass_of, bodies))
    parts = []
    for body in bodies:
        places, triangles = kernel.welded(body, size, order.options.share)
        found = np.zeros(len(triangles), RECORD)
        found["corners"] = places[triangles]
        a, b, c = (places[triangles[:, k]] for k in range(3))
        across = np.cross(b - a, c - a)
        found["normal"] = across / np.maximum(np.linalg.norm(across, axis=1), np.finfo(float).tiny)[:, None]
        parts.append(found)
    whole = np.concatenate(parts)
    return b"Wendal, mm".ljust(80) + len(whole).to_bytes(4, "little") + whole.tobytes()


register(Format("stl", "model/stl", "STL, triangles in mm", _write, ("part", "bodies"), Meshing))
