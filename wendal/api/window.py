"""One browser window on a part, as the hub knows it."""

from __future__ import annotations

import asyncio
import json
import logging
from collections import OrderedDict
from collections.abc import Collection, Mapping
from typing import Any

from wendal.settings import settings

from .messages import to_browser

__all__ = ["Window"]

log = logging.getLogger(__name__)
HELD_BYTES = 192 * 2**20  # of content that one window holds
OUTBOX_MESSAGES, OUTBOX_BYTES = (
    4000,
    256 * 2**20,
)  # more than that waiting, and a window is dropped; it joins again by itself


def _check(message: dict[str, Any]) -> None:
    """Log a message that does not follow its model, as a fault of ours; it goes out all the same."""
    try:
        to_browser.validate_json(json.dumps(message))
    except ValueError:
        log.exception("a message of type %s does not follow its model", message.get("type"))


class Window:
    """One browser window on a part: where it looks, what content it has, which sketch it has open.

    What it is told waits in its own outbox, in order. Nobody waits for a window: one that is too slow, or
    broken, is dropped.
    """

    def __init__(self) -> None:
        self._outbox: asyncio.Queue[dict[str, Any] | bytes] = asyncio.Queue()
        self._waiting = 0
        self.dropped = asyncio.Event()
        self.at: str | None = None
        self.sketch, self.showing = "", 0  # the sketch it has open, and how often that was shown
        self.has: OrderedDict[str, int] = (
            OrderedDict()
        )  # content by digest: its size, what was used last at the end
        self.preview = 0
        self._named: dict[str, frozenset[str]] = {}  # what the part, the scene and the preview it shows name

    def hand(self, content: Mapping[str, bytes], digests: Collection[str], of: str) -> None:
        """Hand out what it has not of some content, by digest, and keep to what it may hold.

        of : "part", "scene" or "preview"; what its last one names is never dropped.
        """
        self._named[of] = frozenset(digests)
        for digest in dict.fromkeys(digests):
            if digest in self.has:
                self.has.move_to_end(digest)
            elif digest in content:
                self.has[digest] = len(content[digest])
                self.send(bytes([len(digest)]) + digest.encode() + content[digest])
        self._forget_rest()

    @property
    def named(self) -> frozenset[str]:
        """All content that what it shows names."""
        return frozenset().union(*self._named.values())

    def _forget_rest(self) -> None:
        """Tell the window to drop content that was used longest ago, down to what it may hold; what is named
        stays."""
        wanted = self.named
        total, dropped = sum(self.has.values()), []
        for digest in list(self.has):
            if total <= HELD_BYTES:
                break
            if digest not in wanted:
                total -= self.has.pop(digest)
                dropped.append(digest)
        if dropped:
            self.send({"type": "forget", "digests": dropped})

    def send(self, message: dict[str, Any] | bytes) -> None:
        """Put a message into the outbox. Never waits and never raises."""
        if self.dropped.is_set():
            return
        if settings().check_messages and isinstance(message, dict):
            _check(message)
        self._waiting += len(message) if isinstance(message, bytes) else 0
        self._outbox.put_nowait(message)
        if self._outbox.qsize() > OUTBOX_MESSAGES or self._waiting > OUTBOX_BYTES:
            log.warning("a window does not take what it is told, and is dropped")
            self.dropped.set()

    async def next(self) -> dict[str, Any] | bytes:
        """Return the next message to go out, when there is one."""
        message = await self._outbox.get()
        self._waiting -= len(message) if isinstance(message, bytes) else 0
        return message
