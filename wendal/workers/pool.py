"""A few worker processes of one sort; a part always goes to the same one, and a dead one is replaced."""

from __future__ import annotations

import asyncio
from collections.abc import Callable
from typing import Any

from .process import Main, Say, WorkerDied, WorkerFailed, WorkerProcess, WorkerTooSlow

__all__ = ["Pool", "WorkerDied", "WorkerFailed", "WorkerTooSlow"]


STICKY = {"drag"}  # what goes on from one call to the next is asked of the same worker


class Pool:
    """Workers by number. seconds : how long one may be silent before it is ended.

    roaming : while a part's own worker works for another part, a free one takes its call, so that nobody's
    trouble holds up others.
    """

    def __init__(self, main: Main, size: int, seconds: float, *, roaming: bool = False) -> None:
        self._main, self.seconds, self._roaming = main, seconds, roaming
        self._workers: list[WorkerProcess | None] = [None] * size
        self._turns = [asyncio.Lock() for _ in range(size)]
        self._working: list[int | None] = [None] * size  # the part that each works for
        self._load = [0] * size
        self._home: dict[int, int] = {}
        self._calls: set[asyncio.Task[Any]] = set()

    def home(self, part: int) -> int:
        """Return the worker a part belongs to: the one with the fewest parts, and ever after the same."""
        if part not in self._home:
            self._home[part] = self._load.index(min(self._load))
            self._load[self._home[part]] += 1
        return self._home[part]

    def forget(self, part: int) -> None:
        """Let a part's place go."""
        home = self._home.pop(part, None)
        if home is not None:
            self._load[home] -= 1

    async def start(self) -> None:
        """Start all workers."""
        await asyncio.gather(*(asyncio.to_thread(self._worker, i) for i in range(len(self._workers))))

    def _worker(self, number: int) -> WorkerProcess:
        worker = self._workers[number]
        if worker is None or not worker.alive:
            worker = self._workers[number] = WorkerProcess(self._main)
        return worker

    async def call(
        self,
        part: int,
        operation: str,
        request: Any,
        progress: Say | None = None,
        wanted: Callable[[], bool] = lambda: True,
    ) -> Any:
        """Ask a part's worker; progress is said on the event loop. Raises as WorkerProcess.call does.

        A call that has been sent is never torn off: when its asker is cancelled it goes on, and only its
        answer is dropped. One that still waits for its turn is dropped when its asker is cancelled, and
        raises CancelledError when it is not `wanted` any more.
        """
        given_up = False
        call = asyncio.create_task(
            self._ask(part, operation, request, progress, lambda: wanted() and not given_up)
        )
        self._calls.add(call)
        call.add_done_callback(self._ended)
        try:
            return await asyncio.shield(call)
        except asyncio.CancelledError:
            given_up = True
            raise

    def _ended(self, call: asyncio.Task[Any]) -> None:
        self._calls.discard(call)
        if not call.cancelled():
            call.exception()  # whoever gave the call up does not hear it

    async def _ask(
        self, part: int, operation: str, request: Any, progress: Say | None, wanted: Callable[[], bool]
    ) -> Any:
        number = self._for(part, operation)
        loop = asyncio.get_running_loop()

        def said(content: Any) -> None:
            if progress:
                loop.call_soon_threadsafe(progress, content)

        async with self._turns[number]:
            if not wanted():
                raise asyncio.CancelledError
            worker = await asyncio.to_thread(self._worker, number)
            self._working[number] = part
            try:
                return await asyncio.to_thread(worker.call, operation, request, self.seconds, said)
            finally:
                self._working[number] = None

    def _for(self, part: int, operation: str) -> int:
        home = self.home(part)
        if (
            not self._roaming
            or operation in STICKY
            or not self._turns[home].locked()
            or self._working[home] == part
        ):
            return home
        return next((n for n, turn in enumerate(self._turns) if not turn.locked()), home)

    def interrupt(self, part: int) -> None:
        """End what a worker does for a part, at once: whoever waits for it sees WorkerDied.

        What it does for others goes on.
        """
        number = self.home(part)
        worker = self._workers[number]
        if worker is not None and self._working[number] == part:
            worker.kill()

    async def ask_all(self, operation: str) -> list[Any]:
        """Ask every worker that runs, each in its turn, the same without a request; return the answers."""
        answers = []
        for number, worker in enumerate(self._workers):
            if worker is not None and worker.alive:
                async with self._turns[number]:
                    answers.append(await asyncio.to_thread(worker.call, operation, None, self.seconds))
        return answers

    def pids(self) -> list[int]:
        """Return the numbers of the processes that run."""
        return [w.pid for w in self._workers if w is not None and w.alive]

    def stop(self) -> None:
        """End all workers."""
        for worker in self._workers:
            if worker is not None:
                worker.end()
