"""Working a thing out once: remembered by the identity of objects that never change, or by keys."""

from __future__ import annotations

import weakref
from collections import OrderedDict
from collections.abc import Callable, Hashable
from typing import Generic, TypeVar

__all__ = ["Latest", "Lazily", "Once", "OnceWeakly"]

Thing = TypeVar("Thing")
Found = TypeVar("Found")
Key = TypeVar("Key", bound=Hashable)
Value = TypeVar("Value")


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


class OnceWeakly(Generic[Thing, Found]):
    """The same for objects that are held elsewhere: what was found goes with its object."""

    def __init__(self, make: Callable[[Thing], Found]) -> None:
        self._make = make
        self._known: dict[int, tuple[weakref.ref[Thing], Found]] = {}

    def __call__(self, thing: Thing) -> Found:
        """Return what the function finds."""
        number = id(thing)
        known = self._known.get(number)
        if known is not None and known[0]() is thing:
            return known[1]
        found = self._make(thing)
        self._known[number] = weakref.ref(thing, lambda gone: self._forget(number, gone)), found
        return found

    def _forget(self, number: int, gone: weakref.ref[Thing]) -> None:
        known = self._known.get(number)
        if known is not None and known[0] is gone:  # else another has taken its place already
            del self._known[number]


class Latest(Generic[Key, Value]):
    """Values by key, the longest unused forgotten first.

    most : how many. weight : how much they may weigh in all. each : how many of one owner, so
    that what a small thing takes that is changed for long is soon level.
    """

    def __init__(self, most: int, weight: int, each: int) -> None:
        self._most, self._weight, self._each = most, weight, each
        self._held: OrderedDict[Key, tuple[Value, int, str]] = OrderedDict()
        self._of: dict[str, OrderedDict[Key, None]] = {}
        self._size = 0

    def __contains__(self, key: Key) -> bool:
        return key in self._held

    def get(self, key: Key) -> Value | None:
        """Return a value, without counting it as used."""
        found = self._held.get(key)
        return found[0] if found else None

    def used(self, key: Key) -> None:
        """Count a value as used."""
        self._held.move_to_end(key)
        self._of[self._held[key][2]].move_to_end(key)

    def put(self, key: Key, value: Value, weight: int, of: str) -> None:
        """Hold a value. of : its owner; "" is none, and has no limit of its own."""
        if key in self._held:
            self._forget(key)
        self._held[key] = value, weight, of
        keys = self._of.setdefault(of, OrderedDict())
        keys[key] = None
        self._size += weight
        while of and len(keys) > self._each:
            self._forget(next(iter(keys)))
        while len(self._held) > 1 and (len(self._held) > self._most or self._size > self._weight):
            self._forget(next(iter(self._held)))

    def _forget(self, key: Key) -> None:
        _, weight, of = self._held.pop(key)
        self._size -= weight
        del self._of[of][key]
        if not self._of[of]:
            del self._of[of]
