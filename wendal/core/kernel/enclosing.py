"""Whether a body encloses what it says: proofs that do not ask the kernel's own checks.

The kernel calls some surfaces sound that fold over themselves. Their triangles tell: a closed surface has no
directed area left over, and triangles that look outward enclose nearly the volume that the surfaces do. And
by Euler and Poincaré a closed surface has a whole number of handles.
"""

from __future__ import annotations

import math

import numpy as np
from OCP.TopAbs import TopAbs_ShapeEnum

from ..errors import StepError
from .mesh import ANGLE, DEFLECTION, face_meshes
from .named import NamedShape
from .shapes import shape_map, solids_of

__all__ = ["check_enclosing", "encloses", "handles"]

FOLDED = (
    "What this comes to folds over itself: its surface encloses another volume than it should. Make what is "
    "swept, hollowed or drafted smaller, or the bend wider."
)
LEFT_OVER = 5e-3  # of the area: faces meshed at different times share no points along their edges


def check_enclosing(body: NamedShape, field: str = "") -> None:
    """Raise StepError where a body's triangles do not enclose what its surfaces do."""
    if not encloses(body):
        raise StepError(FOLDED, field=field)


def encloses(body: NamedShape) -> bool:
    """Tell whether a body's triangles are closed, look outward and enclose its volume within what their
    fineness allows; True of a sheet."""
    if not solids_of(body.shape):
        return True
    found = body.anatomy
    low, high = found.box[:3], found.box[3:]
    size = math.dist(low.tolist(), high.tolist())
    middle = (low + high) / 2
    directed, volume, area = np.zeros(3), 0.0, 0.0
    for mesh in face_meshes(body, size):
        if not len(mesh.triangles):
            return False
        p = mesh.places.astype(np.float64) - middle
        a, b, c = (p[mesh.triangles[:, k]] for k in range(3))
        square = np.cross(b - a, c - a)
        directed += square.sum(0) / 2
        volume += float((a * square).sum()) / 6
        area += float(np.linalg.norm(square, axis=1).sum()) / 2
    exact = float(found.mass[0])
    # A facet lies off by no more than the deflection, or than the arc of its angle: the less of the two.
    off = area * max(DEFLECTION * size, 1e-4) * math.sqrt(2) + ANGLE**2 / 4 * abs(exact)
    return bool(exact > 0 and np.linalg.norm(directed) <= LEFT_OVER * area and abs(volume - exact) <= off)


def handles(body: NamedShape) -> float:
    """Return how many handles all shells of a closed body have together, by V − E + 2F − L = 2 (S − H); no
    whole number where it is not closed."""
    found = body.anatomy
    shells = shape_map(body.shape, TopAbs_ShapeEnum.TopAbs_SHELL).Extent()
    corners = len(found.touching[2])
    edges = sum(not e.degenerated for e in found.edges)
    loops = sum(len(f.wires) for f in found.faces)
    return shells - (corners - edges + 2 * len(found.faces) - loops) / 2
