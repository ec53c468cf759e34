"""Which of several pieces is meant, by their order along a direction that is kept.

Where a plane cuts a round face in two lines, a place that was once clicked tells nothing after the face has
moved past it. The order of the pieces does: the direction was that from the others to the one meant.
"""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from typing import Protocol

from pydantic import Field

from ...stored import Figure, Stored

__all__ = ["Nth", "find_nth", "nth_of", "runs_back"]

SAME = 1e-7  # mm: pieces no farther apart than this are not told apart


class Piece(Protocol):
    """A point, line or curve in a sketch's plane, as `Traced` is one."""

    @property
    def kind(self) -> str:
        """What it is."""

    @property
    def places(self) -> list[tuple[float, float]]:
        """Its places, mm."""

    @property
    def radius(self) -> float:
        """Of a round one, mm."""


class Nth(Stored):
    """One of `of` pieces: number `index` in their order along `way` (x, y and radius, of unit length).

    ahead : how an open one runs from its start to its end (x, y).
    """

    of: int = Field(ge=1, le=1000)
    index: int = Field(ge=0, le=999)
    way: tuple[Figure, Figure, Figure] = (0.0, 0.0, 0.0)
    ahead: tuple[Figure, Figure] = (0.0, 0.0)


def nth_of(pieces: Sequence[Piece], index: int) -> Nth | None:
    """Return how one piece is told from the others; None where two lie alike."""
    ahead = run_of(pieces[index])
    if len(pieces) == 1:
        return Nth(of=1, index=0, ahead=ahead)
    for way in _away_from_others(pieces, index):
        nth = Nth(of=len(pieces), index=_order(pieces, way).index(index), way=way, ahead=ahead)
        if find_nth(pieces, nth) == index:
            return nth
    return None


def find_nth(pieces: Sequence[Piece], nth: Nth) -> int | None:
    """Return which of the pieces is meant now; None where that cannot be told: there are more or fewer of
    them, or two lie alike."""
    if len(pieces) != nth.of:
        return None
    order = _order(pieces, nth.way)
    found = order[nth.index]
    at = [_along(p, nth.way) for p in pieces]
    return None if any(i != found and abs(at[i] - at[found]) < SAME for i in range(len(at))) else found


def run_of(piece: Piece) -> tuple[float, float]:
    """Return the direction from a line's or curve's start to its end, of unit length; none of others."""
    (ax, ay), (bx, by) = piece.places[0], piece.places[-1]
    n = math.hypot(bx - ax, by - ay)
    return ((bx - ax) / n, (by - ay) / n) if piece.kind in ("line", "spline") and n > SAME else (0.0, 0.0)


def runs_back(piece: Piece, nth: Nth) -> bool:
    """Tell whether a line or curve runs against the way that it ran when it was kept."""
    x, y = run_of(piece)
    return x * nth.ahead[0] + y * nth.ahead[1] < 0


def _spot(piece: Piece) -> tuple[float, float, float]:
    """Return where a piece is: a line's or curve's middle, a round one's centre and radius."""
    if piece.kind in ("circle", "arc", "ellipse", "ellipse_arc"):
        x, y = piece.places[0]
        return (x, y, piece.radius)
    n = len(piece.places)
    return (sum(p[0] for p in piece.places) / n, sum(p[1] for p in piece.places) / n, 0.0)


def _away_from_others(pieces: Sequence[Piece], index: int) -> Iterator[tuple[float, float, float]]:
    """Yield directions from the other pieces to one; of parallel lines first that square to them."""
    here, others = _spot(pieces[index]), [_spot(p) for i, p in enumerate(pieces) if i != index]
    x, y, r = (here[k] - sum(o[k] for o in others) / len(others) for k in range(3))
    square = _square(pieces)
    if square is not None and abs(side := x * square[0] + y * square[1]) > SAME:
        sign = math.copysign(1.0, side)
        yield (sign * square[0], sign * square[1], 0.0)
    size = math.hypot(x, y, r)
    if size > SAME:
        yield (x / size, y / size, r / size)


def _square(pieces: Sequence[Piece]) -> tuple[float, float] | None:
    """Return the direction square to lines that are all parallel; None for any others."""
    ways = []
    for p in pieces:
        if p.kind != "line":
            return None
        (ax, ay), (bx, by) = p.places[0], p.places[-1]
        n = math.hypot(bx - ax, by - ay) or 1.0
        ways.append(((bx - ax) / n, (by - ay) / n))
    ux, uy = ways[0]
    return (-uy, ux) if all(abs(ux * v - uy * u) < 1e-6 for u, v in ways) else None


def _along(piece: Piece, way: tuple[float, float, float]) -> float:
    return sum(a * b for a, b in zip(_spot(piece), way, strict=True))


def _order(pieces: Sequence[Piece], way: tuple[float, float, float]) -> list[int]:
    return sorted(range(len(pieces)), key=lambda i: _along(pieces[i], way))
