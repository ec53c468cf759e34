"""Results remembered by content: the key of a step's result is a digest of everything that went into it."""

from __future__ import annotations

import hashlib
from collections import OrderedDict
from dataclasses import dataclass

from ..errors import WendalError
from ..steps import Body, Made

__all__ = ["Memory", "Remembered", "digest"]

KEPT = 600


def digest(*parts: object) -> str:
    """Return a short digest of values whose repr tells all of them."""
    return hashlib.blake2b(repr(parts).encode(), digest_size=16).hexdigest()


@dataclass(frozen=True, slots=True)
class Remembered:
    """What a step came to: what it made and the bodies after it, or the refusal."""

    made: Made | None
    bodies: dict[str, Body | None]
    error: WendalError | None


class Memory:
    """The latest results by key; the longest unused are forgotten first."""

    def __init__(self, kept: int = KEPT) -> None:
        self._kept = kept
        self._known: OrderedDict[str, Remembered] = OrderedDict()

    def get(self, key: str) -> Remembered | None:
        """Return a remembered result and count it as used."""
        if key in self._known:
            self._known.move_to_end(key)
        return self._known.get(key)

    def put(self, key: str, result: Remembered) -> None:
        """Remember a result."""
        self._known[key] = result
        if len(self._known) > self._kept:
            self._known.popitem(last=False)
