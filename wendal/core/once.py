"""Working a thing out once: remembered by the identity of objects that never change."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Callable
from typing import Generic, TypeVar

__all__ = ["Lazily", "Once"]

Thing = TypeVar("Thing")
Found = TypeVar("Found")


class Lazily(Generic[Found]):
    """A value that is worked out when it is first asked for, and then kept.

    What `make` raises is not kept.
    """

    __slots__ = ("_found", "_make")

    def __init__(self, make: Callable[[], Found]) -> None:
        self._make: Callable[[], Found] | None = make

    def __call__(self) -> Found:
        """Return the value."""
        if self._make is not None:
            self._found = self._make()
            self._make = None
        return self._found


class Once(Generic[Thing, Found]):
    """A function of one object that never changes, which remembers what it found for the latest ones. What it
    raises is not remembered.

    make : the function. most : of how many objects, which are held that long, so that no other takes the
    place of one.
    """

    def __init__(self, make: Callable[[Thing], Found], most: int) -> None:
        self._make, self._most = make, most
        self._known: OrderedDict[int, tuple[Thing, Found]] = OrderedDict()

    def __call__(self, thing: Thing) -> Found:
        """Return what the function finds."""
        known = self._known.get(id(thing))
        if known is not None:  # what is held can not have lent its place to another
            self._known.move_to_end(id(thing))
            return known[1]
        found = self._make(thing)
        self._known[id(thing)] = (thing, found)
        while len(self._known) > self._most:
            self._known.popitem(last=False)
        return found
