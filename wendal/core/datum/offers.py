"""What can be made of a selection, likeliest first, and why something does not fit.

The ranking is the table's: complete fits before those that still need something, then by the `rank` of each
construction. Among ways in which the picks fit one construction, the order of picking decides.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from itertools import permutations

from .picked import FACETS
from .table import KINDS, Construction, constructions

__all__ = ["MOST_PICKS", "Offer", "offers", "why_not"]

MOST_PICKS = 3


@dataclass(frozen=True, slots=True)
class Offer:
    """A construction that takes all picks. fills : blank by pick. needs : what is still wanted, in words."""

    kind: str
    how: str
    title: str
    fills: dict[str, int]
    needs: list[str]


def offers(picks: Sequence[set[str]], kinds: Iterable[str] = KINDS) -> list[Offer]:
    """Return the constructions that can take every pick, each pick told by its facets; one to three picks."""
    if not 0 < len(picks) <= MOST_PICKS:
        return []
    found: list[tuple[tuple[int, int, int], Offer]] = []
    for place, kind in enumerate(kinds):
        for c in constructions(kind).values():
            fills = _fit(c, picks)
            if fills is not None:
                needs = [b.needs for n, b in c.picks.items() if n not in fills and not b.optional]
                found.append(((len(needs), c.rank, place), Offer(kind, c.how, c.title, fills, needs)))
    return [offer for _, offer in sorted(found, key=lambda f: f[0])]


def _fit(c: Construction, picks: Sequence[set[str]]) -> dict[str, int] | None:
    """Return which pick goes into which blank, or None when one finds no place."""
    blanks = list(c.picks.items())
    if len(picks) > len(blanks):
        return None
    for order in permutations(range(len(blanks)), len(picks)):
        if all(set(blanks[slot][1].accepts) & facets for slot, facets in zip(order, picks, strict=True)):
            return {blanks[slot][0]: i for i, slot in enumerate(order)}
    return None


def why_not(kind: str, picks: Sequence[set[str]]) -> str:
    """Say why no datum of a kind can be made of the picks."""
    if len(picks) > MOST_PICKS:
        return f"No datum stands on more than {MOST_PICKS} picks. Take some away."
    taken = {f for c in constructions(kind).values() for b in c.picks.values() for f in b.accepts}
    for facets in picks:
        if not facets & taken:
            return f"{_NOUN[kind]} can not stand on this. Pick {_any(taken)}."
    if len(picks) == 1:
        wants = {
            f
            for c in constructions(kind).values()
            if len(c.picks) == 1
            for b in c.picks.values()
            for f in b.accepts
        }
        return f"This alone gives no {kind}; pick {_any(wants)}, or add a second pick."
    return f"There is no {kind} that stands on just these. Take one away, or pick something else."


_NOUN = {"plane": "A plane", "axis": "An axis", "point": "A point", "system": "A coordinate system"}


def _any(facets: Iterable[str]) -> str:
    words = [FACETS[f] for f in FACETS if f in set(facets)]
    return f"{', '.join(words[:-1])} or {words[-1]}" if len(words) > 1 else words[0]
