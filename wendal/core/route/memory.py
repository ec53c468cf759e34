"""Results remembered by content: the key of a step's result is a digest of everything that went into it."""

from __future__ import annotations

from collections import OrderedDict
from dataclasses import dataclass

from ..errors import WendalError
from ..steps import Body, Made

__all__ = ["Memory", "Remembered"]

KEPT = 600


@dataclass(frozen=True, slots=True)
class Remembered:
    """What a step came to: what it made and the bodies after it, or the refusal.

    words : a digest of the names of what it stands on, which a refusal or note may have in it.
    """

    made: Made | None
    bodies: dict[str, Body | None]
    error: WendalError | None
    words: str = ""

    @property
    def tells(self) -> bool:
        """Whether it says anything in words."""
        return self.error is not None or bool(self.made and self.made.note)


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
