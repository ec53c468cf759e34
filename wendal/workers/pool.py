"""A few worker processes of one sort; a part always goes to the same one, and a dead one is replaced."""

from __future__ import annotations

import asyncio
from collections.abc import Callable
from typing import Any

from .process import Main, Say, WorkerDied, WorkerFailed, WorkerProcess, WorkerStopped, WorkerTooSlow

__all__ = ["Pool", "WorkerDied", "WorkerFailed", "WorkerStopped", "WorkerTooSlow"]


STICKY = {"drag"}  # what goes on from one call to the next is asked of the same worker
GRACE = 2.0  # s that a worker has to leave off by itself what is not wanted any more
PATIENCE = 2.0  # s that a part waits for its own worker while that works for another part


WAITING = {"step": "", "name": "", "key": ""}  # said while a part waits for another's work to end


class Pool:
    """Workers by number. seconds : how long one may be silent before it is ended.

    roaming : while a part's own worker works for another part, a free one takes its call at once. Else the
    part, of which its own worker remembers much, waits a moment first, and then goes over to a free one;
    where none is free, one more than `size` is started. So nobody's trouble holds up others.
    """

    def __init__(self, main: Main, size: int, seconds: float, *, roaming: bool = False) -> None:
        self._main, self.seconds, self._roaming = main, seconds, roaming
        self._size = size
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
        loop = asyncio.get_running_loop()

        def said(content: Any) -> None:
            if progress:
                loop.call_soon_threadsafe(progress, content)

        number = await self._turn(part, operation, progress)
        try:
            if not wanted():
                raise asyncio.CancelledError
            worker = await asyncio.to_thread(self._worker, number)
            self._working[number] = part
            return await asyncio.to_thread(worker.call, operation, request, self.seconds, said)
        finally:
            self._working[number] = None
            self._turns[number].release()

    async def _turn(self, part: int, operation: str, progress: Say | None) -> int:
        """Wait for a worker's turn; return its number. Whoever gets it releases it."""
        number = self._for(part, operation)
        turn = self._turns[number]
        if turn.locked() and self._working[number] not in (part, None) and operation not in STICKY:
            if progress:
                progress(WAITING)
            try:
                await asyncio.wait_for(turn.acquire(), PATIENCE)
                return number
            except TimeoutError:
                other = self._free()
                if other is not None:
                    await self._turns[other].acquire()
                    self._move(part, other)
                    return other
        await turn.acquire()
        return number

    def _free(self) -> int | None:
        """Return a worker without work, else one more, of which there is one at most."""
        free = next((n for n, turn in enumerate(self._turns) if not turn.locked()), None)
        if free is None and len(self._workers) <= self._size:
            self._workers.append(None)
            self._turns.append(asyncio.Lock())
            self._working.append(None)
            self._load.append(0)
            free = len(self._workers) - 1
        return free

    def _move(self, part: int, number: int) -> None:
        """Let a part belong to another worker from now on."""
        self.forget(part)
        self._home[part] = number
        self._load[number] += 1

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

    def leave_off(self, part: int) -> list[tuple[WorkerProcess, int]]:
        """Ask the workers that work for a part to leave off before their next step: whoever waits sees
        WorkerStopped, and what was built so far stays remembered."""
        at = [n for n, working in enumerate(self._working) if working == part]
        return [(worker, worker.stop()) for n in at if (worker := self._workers[n]) is not None]

    def interrupt(self, part: int, grace: float = GRACE) -> None:
        """End what is done for a part: a worker that does not leave off by itself in time is killed, and
        whoever waits for it sees WorkerDied. What is done for others goes on."""
        loop = asyncio.get_running_loop()
        for worker, number in self.leave_off(part):
            loop.call_later(grace, worker.end_if_at, number)

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
