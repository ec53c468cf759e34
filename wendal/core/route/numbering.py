"""The numbers of steps on the route card: 10, 20, 30; a step put between two has a number between theirs, and
what stays where it is keeps its own."""

from __future__ import annotations

from bisect import bisect_left
from collections.abc import Collection, Mapping
from itertools import pairwise

from .document import TENS, Part

__all__ = ["numbered"]


def numbered(before: Part, after: Part, moved: Collection[str] = ()) -> Part:
    """Return a part whose steps have numbers that rise along the route; what was in this order before, and is
    not moved, keeps its numbers. Where no number is free between two, all are numbered anew."""
    ids = [s.id for s in after.steps]
    if ids == [s.id for s in before.steps]:
        return after
    known = {s.id: before.number(s.id) for s in before.steps if s.id not in moved}
    kept = _longest([known.get(i) for i in ids])
    found: dict[str, int] = {}
    marks = [-1, *kept, len(ids)]
    for a, b in pairwise(marks):
        low = known[ids[a]] if a >= 0 else 0
        new = ids[a + 1 : b]
        if b == len(ids):
            first = low // TENS * TENS
            found |= {s: first + TENS * (n + 1) for n, s in enumerate(new)}
        else:
            high = known[ids[b]]
            if high - low <= len(new):
                return after.model_copy(update={"numbers": {}})
            found |= {s: low + (high - low) * (n + 1) // (len(new) + 1) for n, s in enumerate(new)}
            found[ids[b]] = high
    return after.model_copy(update={"numbers": _sparse(ids, found)})


def _sparse(ids: list[str], numbers: Mapping[str, int]) -> dict[str, int]:
    """Return the numbers that are not what a step's place says."""
    return {s: numbers[s] for i, s in enumerate(ids) if numbers[s] != TENS * (i + 1)}


def _longest(values: list[int | None]) -> list[int]:
    """Return the places of a longest rising row of values (patience sorting; Fredman 1975)."""
    tails: list[int] = []
    ends: list[int] = []
    came: dict[int, int] = {}
    for i, value in enumerate(values):
        if value is None:
            continue
        k = bisect_left(tails, value)
        tails[k : k + 1], ends[k : k + 1] = [value], [i]
        if k:
            came[i] = ends[k - 1]
    row = [ends[-1]] if ends else []
    while row and row[-1] in came:
        row.append(came[row[-1]])
    return row[::-1]
