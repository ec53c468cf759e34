"""The table of datum constructions: what each is called, what it stands on, how it is said.

A construction is one function under `@construction(...)`. It takes what was picked and typed, and returns all
its answers; which of them is meant is a kept choice of the step. Everything else (editing, offers, picking
filters) follows from the table.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from types import SimpleNamespace

from ..blanks import Blank, Choice, Number, Pick
from ..errors import StepError
from .picked import FACETS, Datum

__all__ = [
    "KINDS",
    "Construction",
    "angle",
    "construction",
    "constructions",
    "count",
    "length",
    "part_of",
    "pick",
    "share",
    "side",
]

KINDS = ("plane", "axis", "point", "system")
Make = Callable[[SimpleNamespace], Sequence[Datum]]


@dataclass(frozen=True, slots=True)
class Construction:
    """One way to make a datum.

    how : its key. need : the code of the need it meets. sentence : with its blanks in braces. rank : its
    place among offers, lower first. copies : whether several at equal spacing can be made.
    """

    kind: str
    how: str
    need: str
    title: str
    sentence: str
    blanks: dict[str, Blank]
    rank: int
    make: Make
    copies: bool

    @property
    def picks(self) -> dict[str, Pick]:
        """The blanks that take geometry."""
        return {n: b for n, b in self.blanks.items() if isinstance(b, Pick)}

    def answers(self, given: SimpleNamespace) -> Sequence[Datum]:
        """Return every answer; raises StepError in words when there is none."""
        found = self.make(given)
        if not found:
            raise StepError("There is nothing that meets this with the present picks. Pick something else.")
        return found


_table: dict[tuple[str, str], Construction] = {}


def construction(
    kind: str,
    how: str,
    need: str,
    title: str,
    sentence: str,
    rank: int,
    *,
    copies: bool = False,
    **blanks: Blank,
) -> Callable[[Make], Make]:
    """Enter a function into the table; a second one under the same key is refused."""

    def enter(make: Make) -> Make:
        if (kind, how) in _table:
            raise ValueError(f"construction {kind} {how} is entered twice")
        _table[kind, how] = Construction(kind, how, need, title, sentence, blanks, rank, make, copies)
        return make

    return enter


def constructions(kind: str) -> dict[str, Construction]:
    """Return the constructions of a kind of datum by key, likeliest first."""
    found = [c for (s, _), c in _table.items() if s == kind]
    return {c.how: c for c in sorted(found, key=lambda c: c.rank)}


def pick(facet: str, label: str = "", *, optional: bool = False) -> Pick:
    """Return a blank for geometry with a facet."""
    words = FACETS[facet]
    noun = words.removeprefix("a ").removeprefix("an ").replace(" or a ", " or ").replace(" or an ", " or ")
    return Pick(
        label=label or noun,
        accepts=(facet,),
        needs=words,
        optional=optional,
        unless="the part's own system" if optional else "",
    )


def length(start: str = "20 mm", label: str = "distance") -> Number:
    """Return a blank for a length."""
    return Number(label=label, quantity="length", start=start)


def angle(start: str = "30 deg") -> Number:
    """Return a blank for an angle."""
    return Number(label="angle", quantity="angle", start=start)


def share() -> Number:
    """Return a blank for a share of a length."""
    return Number(label="share", quantity="share", start="50 %")


def count(start: str = "3") -> Number:
    """Return a blank for a number of things."""
    return Number(label="count", quantity="count", start=start, above=0.0)


def part_of(axis: str, start: str) -> Number:
    """Return a blank for the part of a direction along an axis, a plain number."""
    return Number(label=axis, quantity="count", start=start)


def side(**words: str) -> Choice:
    """Return a blank for a choice."""
    return Choice(label="side", words=words)
