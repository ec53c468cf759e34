"""A few worker processes of one sort; a part always goes to the same one, and a dead one is replaced."""

from __future__ import annotations

import asyncio
from typing import Any

from .process import Main, Say, WorkerDied, WorkerProcess, WorkerTooSlow

__all__ = ["Pool", "WorkerDied", "WorkerTooSlow"]


class Pool:
    """Workers by number. seconds : how long one may be silent before it is ended."""

    def __init__(self, main: Main, size: int, seconds: float) -> None:
        self._main, self.seconds = main, seconds
        self._workers: list[WorkerProcess | None] = [None] * size
        self._locks = [asyncio.Lock() for _ in range(size)]
        self._load = [0] * size
        self._home: dict[int, int] = {}

    def home(self, part: int) -> int:
        """Return the worker a part belongs to: the one with the fewest parts, and ever after the same."""
        if part not in self._home:
            self._home[part] = self._load.index(min(self._load))
            self._load[self._home[part]] += 1
        return self._home[part]

    async def start(self) -> None:
        """Start all workers."""
        await asyncio.gather(*(asyncio.to_thread(self._worker, i) for i in range(len(self._workers))))

    def _worker(self, number: int) -> WorkerProcess:
        worker = self._workers[number]
        if worker is None or not worker.alive:
            worker = self._workers[number] = WorkerProcess(self._main)
        return worker

    async def call(self, part: int, operation: str, request: Any, progress: Say | None = None) -> Any:
        """Ask a part's worker; progress is said on the event loop. Raises as WorkerProcess.call does."""
        number = self.home(part)
        loop = asyncio.get_running_loop()

        def said(content: Any) -> None:
            if progress:
                loop.call_soon_threadsafe(progress, content)

        async with self._locks[number]:
            worker = await asyncio.to_thread(self._worker, number)
            return await asyncio.to_thread(worker.call, operation, request, self.seconds, said)

    def interrupt(self, part: int) -> None:
        """End the worker of a part at once; whoever waits for it sees WorkerDied, and the next call starts anew."""
        worker = self._workers[self.home(part)]
        if worker is not None:
            worker.kill()

    def pids(self) -> list[int]:
        """Return the numbers of the processes that run."""
        return [w.pid for w in self._workers if w is not None and w.alive]

    def stop(self) -> None:
        """End all workers."""
        for worker in self._workers:
            if worker is not None:
                worker.end()
