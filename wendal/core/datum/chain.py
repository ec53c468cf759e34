"""Several curves taken as one, end to end."""

from __future__ import annotations

import math
from bisect import bisect_right
from collections.abc import Sequence

from ..errors import StepError
from ..kernel.types import Vec, scaled
from ..tolerance import OFFSET
from .picked import Curve

__all__ = ["chained"]


def chained(curves: Sequence[Curve], names: Sequence[str], field: str) -> Curve:
    """Return curves as one that begins at the first's free end and runs through all of them, in whatever
    order they were picked.

    names : how each is called. Raises StepError (at a field) for one that does not join on.
    """
    first, *rest = zip(curves, names, strict=True)
    if not rest:
        return first[0]
    if any(c.closed for c in curves):
        raise StepError(
            "A closed curve has no end at which another could join on. Pick it alone.", field=field
        )
    found, waiting = [first[0]], list(rest)
    if not any(_meet(_end(first[0]), p) for c, _ in waiting for p in _ends(c)):
        found = [_reversed(first[0])]
    while waiting:
        end = _end(found[-1])
        after = next(((c, n) for c, n in waiting if any(_meet(end, p) for p in _ends(c))), None)
        if after is None:
            raise StepError(
                f"The {waiting[0][1]} does not begin where the curve so far ends. Pick what joins on, or "
                "take it out.",
                field=field,
            )
        waiting.remove(after)
        found.append(after[0] if _meet(end, _start(after[0])) else _reversed(after[0]))
    return _joined(found)


def _joined(curves: list[Curve]) -> Curve:
    begins = [0.0]
    for c in curves:
        begins.append(begins[-1] + c.length)

    def at(t: float) -> tuple[Vec, Vec]:
        i = min(max(bisect_right(begins, t) - 1, 0), len(curves) - 1)
        return curves[i].at(min(max(t - begins[i], 0.0), curves[i].length))

    def nearest(p: Vec) -> float:
        return min(
            (begins[i] + c.nearest(p) for i, c in enumerate(curves)), key=lambda t: math.dist(at(t)[0], p)
        )

    return Curve(begins[-1], at, nearest, closed=_meet(_start(curves[0]), _end(curves[-1])))


def _reversed(curve: Curve) -> Curve:
    def at(t: float) -> tuple[Vec, Vec]:
        place, tangent = curve.at(curve.length - t)
        return place, scaled(tangent, -1.0)

    return Curve(curve.length, at, lambda p: curve.length - curve.nearest(p))


def _start(curve: Curve) -> Vec:
    return curve.at(0.0)[0]


def _end(curve: Curve) -> Vec:
    return curve.at(curve.length)[0]


def _ends(curve: Curve) -> tuple[Vec, Vec]:
    return _start(curve), _end(curve)


def _meet(p: Vec, q: Vec) -> bool:
    return math.dist(p, q) < OFFSET
