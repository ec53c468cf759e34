"""STL: triangles in mm."""

from __future__ import annotations

import math

from .. import kernel
from ..route import Evaluation, Part
from .base import Format, register, solid_bodies


def _write(part: Part, evaluation: Evaluation) -> bytes:
    bodies = [shape for _, shape in solid_bodies(part, evaluation, sheets=False)]
    masses = [kernel.mass_of(b) for b in bodies]
    return kernel.write_stl(bodies, max(math.dist(m.low, m.high) for m in masses))


register(Format("stl", "model/stl", "STL, triangles in mm", _write))
