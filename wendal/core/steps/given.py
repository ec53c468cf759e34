"""What `evaluate` is given: a step's numbers and what its references came to, typed.

A kind names a dataclass of its own as `takes`, derived from `Given`, with one field for each number and pick:

    @dataclass(slots=True, kw_only=True)
    class SplitGiven(Given):
        body: Body
        by: Picked

Numbers are float (mm, rad or a count); a pick of one thing is what it came to, or None where it may stay
empty; a pick of many is a list. What is asked for only with some choices has a default. Kinds without `takes`
are given a namespace with the same names. `tests/core/test_given.py` holds the fields against the blanks.
"""

from __future__ import annotations

import dataclasses
from collections.abc import Callable
from dataclasses import dataclass
from types import SimpleNamespace
from typing import Any, TypeVar

from ..datum import Picked

__all__ = ["Given", "changed", "on_others"]

T = TypeVar("T", bound="Given | SimpleNamespace")


@dataclass(slots=True, kw_only=True)
class Given:
    """Base of what kinds are given."""


def _values(given: Given | SimpleNamespace) -> dict[str, Any]:
    if isinstance(given, SimpleNamespace):
        return vars(given)
    return {f.name: getattr(given, f.name) for f in dataclasses.fields(given)}


def changed(given: T, **values: Any) -> T:
    """Return what is given with some values replaced."""
    return type(given)(**{**_values(given), **values})


def on_others(given: T, picks: Callable[[Picked], list[Picked]]) -> T:
    """Return what is given with each thing in lists of picked things replaced by others."""
    lists = {
        name: [q for p in held for q in picks(p)]
        for name, held in _values(given).items()
        if isinstance(held, list) and held and isinstance(held[0], Picked)
    }
    return changed(given, **lists)
