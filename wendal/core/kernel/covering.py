"""Which of many places are covered from the eye, by the triangles of bodies: quick, all at once, good to
the fineness of the triangles."""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray

from .mesh import face_meshes
from .named import NamedShape
from .query import box_of
from .types import Frame

__all__ = ["ASIDE", "LIFT", "ROUND", "Cover"]

F64 = NDArray[np.float64]
# Beside a place; in what order: the four sides first, which tell most of what is seen.
ROUND = ((1, 0), (-1, 0), (0, 1), (0, -1), (0.7, 0.7), (-0.7, 0.7), (0.7, -0.7), (-0.7, -0.7))
# mm, as exact rays begin: what the triangles are too coarse for is doubted, and those decide.
ASIDE, LIFT = 1e-3, 5e-3
NO_AREA = 1e-14  # mm² of a triangle that is seen edge-on


class Cover:
    """The triangles of bodies as they are seen in a frame, and looks through them."""

    def __init__(self, bodies: list[NamedShape], frame: Frame) -> None:
        axes = np.array([frame.x, frame.y, frame.normal])
        corners = [
            ((mesh.places.astype(float) - frame.origin) @ axes.T)[mesh.triangles.astype(int)]
            for body in bodies
            for mesh in face_meshes(body, math.dist(*box_of([body])))  # those of the stage
        ]
        found = np.concatenate(corners) if corners else np.zeros((0, 3, 3))
        a, b, c = found[:, 0], found[:, 1], found[:, 2]
        area = (b[:, 0] - a[:, 0]) * (c[:, 1] - a[:, 1]) - (c[:, 0] - a[:, 0]) * (b[:, 1] - a[:, 1])
        self._triangles = found[np.abs(area) > NO_AREA]

    def agrees(self, places: F64, visible: NDArray[np.bool_]) -> NDArray[np.bool_]:
        """Tell of places (n, 3) in the frame's coordinates whether what is claimed of them is what is
        seen: of a visible one a look beside it is free, of a hidden one a look is not."""
        found = np.zeros(len(places), dtype=bool)
        for n, (u, v) in enumerate(ROUND):
            left = np.flatnonzero(~found if n < 4 else ~found & ~visible)
            if not len(left):
                continue
            hidden = self._covered(places[left] + np.array([u * ASIDE, v * ASIDE, LIFT]))
            found[left] = hidden != visible[left]
        return found

    def _covered(self, places: F64) -> NDArray[np.bool_]:
        """Tell which places have a triangle before them: triangle by triangle, for all places in its box."""
        order = np.argsort(places[:, 0])
        held = places[order]
        hidden = np.zeros(len(held), dtype=bool)
        triangles = self._triangles
        low, high = triangles.min(axis=1), triangles.max(axis=1)
        first = np.searchsorted(held[:, 0], low[:, 0])
        last = np.searchsorted(held[:, 0], high[:, 0])
        for k in np.flatnonzero(last > first):
            i, j = first[k], last[k]
            p = held[i:j]
            near = np.flatnonzero(
                (p[:, 1] > low[k, 1]) & (p[:, 1] < high[k, 1]) & (p[:, 2] < high[k, 2]) & ~hidden[i:j]
            )
            if not len(near):
                continue
            a, b, c = triangles[k]
            q = p[near]
            area = (b[0] - a[0]) * (c[1] - a[1]) - (c[0] - a[0]) * (b[1] - a[1])
            s = ((q[:, 0] - a[0]) * (c[1] - a[1]) - (c[0] - a[0]) * (q[:, 1] - a[1])) / area
            t = ((b[0] - a[0]) * (q[:, 1] - a[1]) - (q[:, 0] - a[0]) * (b[1] - a[1])) / area
            depth = a[2] + s * (b[2] - a[2]) + t * (c[2] - a[2])
            hidden[i + near[(s >= 0) & (t >= 0) & (s + t <= 1) & (depth > q[:, 2])]] = True
        found = np.zeros(len(held), dtype=bool)
        found[order] = hidden
        return found
