"""What of a part's picture the server holds, by digest: one limit for all parts, and what a window's picture
names is never thrown out."""

from __future__ import annotations

import time
from collections import OrderedDict
from collections.abc import Callable, Collection, Iterable
from weakref import WeakSet

from .window import Window

__all__ = ["Contents"]

KEPT_BYTES = 256 * 2**20  # of all parts together
_all: WeakSet[Contents] = WeakSet()


class Contents:
    """The content of one part. windows : gives those that are open on it."""

    def __init__(self, windows: Callable[[], Iterable[Window]]) -> None:
        self._windows = windows
        self.blobs: OrderedDict[str, bytes] = OrderedDict()
        self._bytes, self._used = 0, 0.0
        _all.add(self)

    @property
    def has(self) -> list[str]:
        """The digests of all that it has."""
        return list(self.blobs)

    def lacks(self, wanted: Iterable[str]) -> bool:
        """Tell whether any of these was thrown out, so that it must be asked for again."""
        return any(digest not in self.blobs for digest in wanted)

    def keep(self, blobs: dict[str, bytes], wanted: Collection[str] = ()) -> None:
        """Keep content; where all parts together have too much, what was used longest ago goes, of the part
        that was used longest ago first. What is wanted now stays, and what a window's picture names."""
        self._used = time.monotonic()
        self._bytes += sum(len(b) for d, b in blobs.items() if d not in self.blobs)
        self.blobs.update(blobs)
        for digest in [d for d in wanted if d in self.blobs]:
            self.blobs.move_to_end(digest)
        total = sum(c._bytes for c in _all)
        for contents in sorted(_all, key=lambda c: c._used):
            if total <= KEPT_BYTES:
                break
            total -= contents._shed(
                total - KEPT_BYTES, frozenset(wanted).union(blobs) if contents is self else frozenset()
            )

    def _shed(self, much: int, wanted: frozenset[str]) -> int:
        """Throw out that many bytes at least, as far as nobody's picture names them; return how many went."""
        named = wanted.union(*(w.named for w in self._windows()))
        gone = 0
        for digest in [d for d in self.blobs if d not in named]:
            if gone >= much:
                break
            gone += len(self.blobs.pop(digest))
        self._bytes -= gone
        return gone

    def hand(self, window: Window, digests: Collection[str], of: str) -> None:
        """Hand a window what it has not of some content; of : as in `Window.hand`."""
        window.hand(self.blobs, digests, of)
