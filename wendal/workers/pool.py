"""A few worker processes of one kind; a part always goes to the same one, and a dead one is replaced."""

from __future__ import annotations

import asyncio
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from .process import Main, Say, WorkerDied, WorkerFailed, WorkerProcess, WorkerStopped, WorkerTooSlow

__all__ = ["Pool", "WorkerDied", "WorkerFailed", "WorkerStopped", "WorkerTooSlow"]


STICKY = {"drag"}  # what goes on from one call to the next is asked of the same worker
SOON = 0.25  # s that a worker has to leave off by itself before its place is given to another
GRACE = 1.0  # s until one that does not is killed
PATIENCE = 0.5  # s that a part waits for its own worker while that works for another part
REST = 30.0  # s that a worker beyond the usual number is kept without work
MORE = 4  # workers beyond the usual number, while all are busy and something waits

WAITING = {"step": "", "name": "", "key": ""}  # said while a part waits for another's work to end


@dataclass(eq=False, slots=True)
class _Place:
    """A worker's place. working : the part that it works for, also while it is started for that. turn : how
    often it was given to a call."""

    number: int
    worker: WorkerProcess | None = None
    working: int | None = None
    busy: bool = False
    turn: int = 0
    since: float = 0.0  # when it was last used


@dataclass(eq=False, slots=True)
class _Waiting:
    """A call in line. only : the place that it wants and no other."""

    part: int
    operation: str
    granted: asyncio.Future[_Place]
    since: float
    only: _Place | None = None


class Pool:
    """Workers in places. seconds : how long one may be silent before it is ended.

    roaming : while a part's own worker works for another part, a free one takes its call at once. Else the
    part, of which its own worker remembers much, waits a moment first, and then goes over to a free one;
    where none is free, a few more than `size` are started, and ended when they rest. So nobody's trouble
    holds up others. Calls of one part are answered in their order.
    """

    def __init__(self, main: Main, size: int, seconds: float, *, roaming: bool = False) -> None:
        self._main, self.seconds, self._roaming = main, seconds, roaming
        self._size = size
        self._places = [_Place(n) for n in range(size)]
        self._line: list[_Waiting] = []
        self._load = [0] * size
        self._home: dict[int, int] = {}
        self._calls: set[asyncio.Task[Any]] = set()
        self._leaving: list[_Place] = []  # that were given to other workers, and are not left yet

    def home(self, part: int) -> int:
        """Return the place a part belongs to: the one with the fewest parts, and ever after the same."""
        if part not in self._home:
            usual = self._load[: self._size]
            self._home[part] = usual.index(min(usual))
            self._load[self._home[part]] += 1
        return self._home[part]

    def forget(self, part: int) -> None:
        """Let a part's place go."""
        home = self._home.pop(part, None)
        if home is not None:
            self._load[home] -= 1

    async def start(self) -> None:
        """Start all workers."""
        await asyncio.gather(*(asyncio.to_thread(self._worker, place) for place in self._places))

    def _worker(self, place: _Place) -> WorkerProcess:
        worker = place.worker
        if worker is None or not worker.alive:
            worker = place.worker = WorkerProcess(self._main)
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

        place = await self._turn(part, operation, progress)
        try:
            if not wanted():
                raise asyncio.CancelledError
            worker = await asyncio.to_thread(self._worker, place)
            return await asyncio.to_thread(worker.call, operation, request, self.seconds, said)
        finally:
            self._left(place)

    async def _turn(
        self, part: int, operation: str, progress: Say | None = None, only: _Place | None = None
    ) -> _Place:
        """Wait for a worker's turn; return its place. Whoever gets it leaves it again."""
        loop = asyncio.get_running_loop()
        waiting = _Waiting(part, operation, loop.create_future(), loop.time(), only)
        self._line.append(waiting)
        self._serve()
        if not waiting.granted.done():
            if progress and not only and self._places[self.home(part)].working != part:
                progress(WAITING)
            loop.call_later(PATIENCE, self._serve)
        try:
            return await waiting.granted
        except asyncio.CancelledError:
            if waiting in self._line:
                self._line.remove(waiting)
            elif waiting.granted.done() and not waiting.granted.cancelled():
                self._left(waiting.granted.result())
            raise

    def _serve(self) -> None:
        """Give places to those in line who can have one. No call of a part goes before an earlier one."""
        behind: set[int] = set()
        for waiting in list(self._line):
            if waiting.granted.done():  # it was given up just now, and has not left the line yet
                continue
            place = None if waiting.part in behind else self._place_for(waiting)
            if place is None:
                behind.add(waiting.part)
                continue
            self._line.remove(waiting)
            place.busy, place.working, place.turn = True, waiting.part, place.turn + 1
            waiting.granted.set_result(place)

    def _place_for(self, waiting: _Waiting) -> _Place | None:
        own = waiting.only or self._places[self.home(waiting.part)]
        if not own.busy:
            return own
        if waiting.only or waiting.operation in STICKY or own.working == waiting.part:
            return None
        if self._roaming:
            free = self._free()
        elif asyncio.get_running_loop().time() - waiting.since < PATIENCE * 0.99:
            return None
        else:
            free = self._free() or self._one_more()
            if free is not None:
                self.forget(waiting.part)
                self._home[waiting.part] = free.number
                self._load[free.number] += 1
        return free

    def _free(self) -> _Place | None:
        """Return a place where nothing is done, one with a worker first."""
        free = [p for p in self._places if not p.busy]
        return min(free, key=lambda p: p.worker is None) if free else None

    def _one_more(self) -> _Place | None:
        if len(self._places) >= self._size + MORE:
            return None
        self._places.append(_Place(len(self._places)))
        self._load.append(0)
        return self._places[-1]

    def _left(self, place: _Place) -> None:
        """What was done in a place has come to its end."""
        loop = asyncio.get_running_loop()
        place.busy, place.working, place.since = False, None, loop.time()
        now = self._places[place.number]
        if place in self._leaving:
            self._leaving.remove(place)
        if now is not place and place.worker is not None:  # its place was given away meanwhile
            worker = place.worker
            if worker.alive and now.worker is None and not now.busy:
                now.worker = worker  # which remembers what it has built
            else:
                worker.kill()
        elif place.number >= self._size:
            loop.call_later(REST, self._rested, place)
        self._serve()

    def _rested(self, place: _Place) -> None:
        """End a worker beyond the usual number that has had nothing to do."""
        loop = asyncio.get_running_loop()
        if place.busy or place.worker is None or loop.time() - place.since < REST * 0.99:
            return
        worker, place.worker = place.worker, None
        for part in [p for p, home in self._home.items() if home == place.number]:
            self.forget(part)
        worker.kill()

    def leave_off(self, part: int) -> list[_Place]:
        """Ask the workers that work for a part to leave off before their next step: whoever waits sees
        WorkerStopped, and what was built so far stays remembered. Returns their places."""
        at = [p for p in self._places if p.working == part]
        for place in at:
            if place.worker is not None:
                place.worker.stop()
        return at

    def interrupt(self, part: int, grace: float = GRACE) -> None:
        """End what is done for a part: a worker that does not leave off by itself soon loses its place to
        another, and in time it is killed; whoever waits for it sees WorkerDied. What is done for others goes
        on."""
        loop = asyncio.get_running_loop()
        for place in self.leave_off(part):
            loop.call_later(min(SOON, grace), self._give_away, place, place.turn)
            loop.call_later(grace, self._end, place, place.turn)

    def _give_away(self, place: _Place, turn: int) -> None:
        """Give a worker's place to another, where it is still at the same turn."""
        if self._places[place.number] is not place or not place.busy or place.turn != turn:
            return
        self._leaving.append(place)
        self._places[place.number] = _Place(place.number)
        self._serve()

    def _end(self, place: _Place, turn: int) -> None:
        """Kill a worker that is still at the same turn; where it is only being started, once it is there."""
        if not place.busy or place.turn != turn:
            return
        if place.worker is not None:
            place.worker.kill()
        asyncio.get_running_loop().call_later(SOON, self._end, place, turn)

    async def ask_all(self, operation: str) -> list[Any]:
        """Ask every worker that runs, each in its turn, the same without a request; return the answers."""
        answers = []
        for place in list(self._places):
            if place.worker is not None and place.worker.alive:
                await self._turn(-1 - place.number, operation, only=place)
                try:
                    worker = place.worker
                    answers.append(await asyncio.to_thread(worker.call, operation, None, self.seconds))
                finally:
                    self._left(place)
        return answers

    def working_for(self, part: int) -> bool:
        """Tell whether anything is done for a part."""
        at = [*(p.working for p in (*self._places, *self._leaving)), *(w.part for w in self._line)]
        return part in at

    def pids(self) -> list[int]:
        """Return the numbers of the processes that run."""
        return [p.worker.pid for p in self._places if p.worker is not None and p.worker.alive]

    def stop(self) -> None:
        """End all workers."""
        for place in (*self._places, *self._leaving):
            if place.worker is not None:
                place.worker.end()
