"""All open parts: their hubs, let go when nobody has come back for a while, and the database looked after."""

from __future__ import annotations

import asyncio
import logging
import time
from concurrent.futures import ThreadPoolExecutor

from wendal.store import PartStore
from wendal.store.transactions import DOWN
from wendal.workers import Pool
from wendal.workers.shelf import Shelf

from .hub import Hub

__all__ = ["Hubs"]

log = logging.getLogger(__name__)
IDLE = 60.0  # s after its last window has gone that a part's hub is kept
WATCHED = 0.5  # s from one look after the database to the next
LATE = 0.4  # s without an answer after which it is told that the database does not answer yet
WAITS = "The database does not answer yet; what you change waits for it."


class Hubs:
    """All open parts."""

    def __init__(self, store: PartStore, geometry: Pool, pen: Pool, shelf: Shelf | None = None) -> None:
        """shelf : where the geometry workers keep results."""
        self.store, self.geometry, self.pen, self._shelf = store, geometry, pen, shelf
        self._open: dict[tuple[int, int], Hub] = {}  # by part and version, 0 for the present
        # Its own thread: what is late is the database then, and not other work before it.
        self._looking = ThreadPoolExecutor(1, "database")
        self.trouble = ""  # what is wrong with the database, in words
        self.drawing = (
            asyncio.Lock()
        )  # pictures for the list are drawn one after the other, so that opening a part waits for one at most

    def hub(self, part: int, version: int = 0) -> Hub:
        """Return the hub of a part, or of a version of it as it was."""
        key = (part, version)
        if key not in self._open:
            self._open[key] = Hub(part, self.store, self.geometry, self.pen, self._shelf, version)
            self.left(part, version)
        self._open[key].asked = time.monotonic()
        return self._open[key]

    async def watch(self) -> None:
        """Look after the database for good: what is wrong with it is told to every window, and when it is
        back all is read again."""
        while True:
            await asyncio.sleep(WATCHED)
            try:
                await self._look()
            except Exception:  # whatever it is, it is looked again
                log.exception("looking after the database")

    async def _look(self) -> None:
        asked = asyncio.get_running_loop().run_in_executor(self._looking, self.store.trouble)
        done, _ = await asyncio.wait({asked}, timeout=LATE)
        if not done and self.trouble != DOWN:
            await self._tell(WAITS)
        await self._tell(await asked)

    async def _tell(self, trouble: str) -> None:
        if trouble == self.trouble:
            return
        was_down, self.trouble = self.trouble == DOWN, trouble
        for hub in list(self._open.values()):
            hub.tell({"type": "store", "trouble": trouble})
            if was_down:
                await hub.edits.read_again()

    def left(self, part: int, version: int = 0) -> None:
        """A window has left a part: when nobody comes back to it for a while, its hub and its workers' places
        are let go."""
        asyncio.get_running_loop().call_later(IDLE, self._let_go, part, version)

    def _let_go(self, part: int, version: int) -> None:
        hub = self._open.get((part, version))
        if hub is None or hub.windows:
            return
        if (
            not hub.idle or time.monotonic() - hub.asked < IDLE
        ):  # whoever has asked for it may be about to use it
            self.left(part, version)
            return
        del self._open[part, version]
        if all(of != part for of, _ in self._open):
            self.geometry.forget(part)
            self.pen.forget(part)

    async def end_trials(self) -> None:
        """Leave off what is tried of any part: Wendal ends."""
        await asyncio.gather(*(hub.trials.stop() for hub in self._open.values()))

    async def forget(self, part: int) -> None:
        """Tell every window that a part is gone."""
        for key in [k for k in self._open if k[0] == part]:
            hub = self._open.pop(key)
            hub.tell({"type": "gone"})
            hub.close()
        self.geometry.forget(part)
        self.pen.forget(part)
        if self._shelf:
            self._shelf.remove(part)
