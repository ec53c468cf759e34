"""A spline with a point more, of the same shape.

Through its points: the natural spline through the same places and one more on it is the same curve. Pulled by
them: Boehm's knot insertion. Source: W. Boehm, Inserting new knots into B-spline curves, Computer-Aided
Design 12 (1980) 199-201.
"""

from __future__ import annotations

from bisect import bisect
from typing import Literal

import numpy as np

from ...errors import SketchError
from ...stored import Stored
from ...tolerance import SPLINE_ROOM
from ..drawn import Drawing, Place, Spline, SplinePath, basis_of, images_of, path_of, with_pair
from .base import PartFigures, edits
from .pieces import Worked

__all__ = ["AddSplinePoint"]

MOST = 200


class AddSplinePoint(Stored):
    """Give a spline, its parts and its linked images one point more near a place; the curve stays as it
    is."""

    op: Literal["add_point"] = "add_point"
    curve: str
    at: Place


@edits(AddSplinePoint, "Add a spline point")
def _add(drawing: Drawing, edit: AddSplinePoint, figures: PartFigures) -> Drawing:
    spline = drawing.curves.get(edit.curve)
    if not isinstance(spline, Spline):
        raise SketchError(
            "Only a spline takes one point more. Click on one where it is to stand.", field="curve"
        )
    work = Worked(drawing)
    name = work.named(edit.curve)
    if any(
        isinstance(c, Spline) and c.over == spline.over
        for e, c in drawing.curves.items()
        if e in drawing.taken
    ):
        raise SketchError(
            f"{name.capitalize()} is taken in from the model, and has the points that it has there.",
            field="curve",
        )
    if len(spline.over) >= MOST:
        raise SketchError(f"{name.capitalize()} has {MOST} points, and can not have more.", field="curve")
    t = _parameter(drawing, edit.curve, spline, edit.at)
    place = _inserted(work, spline, t, name)
    # Its images, which are splines of the same parameters, get theirs and are bound to it.
    for k, image in images_of(drawing, spline.over):
        follower = _inserted(work, image, t, name)
        work.drawing = with_pair(work.drawing, k, place, follower)
    return work.drawing


def _parameter(drawing: Drawing, curve: str, spline: Spline, at: Place) -> float:
    """Return the parameter of the place of a spline, or of what it runs beside, that is nearest."""
    path = path_of(drawing, curve)
    assert isinstance(path, SplinePath)
    return path.where(*at)


def _inserted(work: Worked, spline: Spline, t: float, name: str) -> str:
    """Give all curves over the points of a spline one point more at a parameter; returns the new point."""
    over, knots, moved, index, place = (_through if spline.manner == "through" else _pulled)(
        work.drawing, spline, t, name
    )
    fresh = work.point(place)
    points = work.drawing.points | dict(zip(over, moved, strict=True))
    over = [*over[:index], fresh, *over[index:]]
    changed = {
        c: other.model_copy(update={"over": over, "knots": knots})
        for c, other in work.drawing.curves.items()
        if isinstance(other, Spline) and other.over == spline.over
    }
    work.drawing = work.drawing.model_copy(
        update={"points": points | {fresh: place}, "curves": {**work.drawing.curves, **changed}}
    )
    return fresh


# The old points, the new knots, the old points' places, the new point's index, its place.
Inserted = tuple[list[str], list[float], list[Place], int, Place]


def _through(drawing: Drawing, spline: Spline, t: float, name: str) -> Inserted:
    if min(abs(t - k) for k in spline.knots) < SPLINE_ROOM:
        raise SketchError(f"{name.capitalize()} has a point here already.", field="at")
    index = bisect(spline.knots, t)
    whole = spline.model_copy(update={"start": "", "end": "", "side": 0})
    x, y = path_of(drawing.model_copy(update={"curves": {"": whole}}), "").at(t)
    return (
        spline.over,
        [*spline.knots[:index], t, *spline.knots[index:]],
        [drawing.place(p) for p in spline.over],
        index,
        (x, y),
    )


def _pulled(drawing: Drawing, spline: Spline, t: float, name: str) -> Inserted:
    P = np.array([drawing.place(p) for p in spline.over])
    u, _, degree = basis_of(tuple(spline.knots), len(P))
    if degree < 3:  # three points: the same parabola as a cubic
        Q, index, knots = np.array([P[0], (P[0] + 2 * P[1]) / 3, (2 * P[1] + P[2]) / 3, P[2]]), 2, [0.0, 1.0]
    else:
        if min(abs(t - k) for k in u) < SPLINE_ROOM:
            raise SketchError(f"Two pieces of {name} meet here already. Take a place between.", field="at")
        k = int(np.searchsorted(u, t, side="right")) - 1
        Q = np.insert(P, k, 0.0, axis=0)
        for i in range(k - degree + 1, k + 1):
            share = (t - u[i]) / (u[i + degree] - u[i])
            Q[i] = share * P[i] + (1 - share) * P[i - 1]
        index, knots = k - degree // 2, [float(v) for v in np.sort(np.append(u, t))[degree:-degree]]
    places = [(float(x), float(y)) for x, y in Q]
    return spline.over, knots, [*places[:index], *places[index + 1 :]], index, places[index]
