"""Trials of a shakedown in processes of their own, at low priority: a death or a hang is the result of the
one trial that it came from."""

from __future__ import annotations

import os
import threading
from collections.abc import Iterator
from contextlib import suppress
from multiprocessing.connection import Connection
from queue import Empty, SimpleQueue
from typing import Any

from wendal.core import kernel
from wendal.core.errors import WendalError
from wendal.core.route import Memory, Part, evaluate, read_part
from wendal.core.route.keeping import NotKept, take_up
from wendal.core.trust import PLAIN, Setup, Trial, Verdict
from wendal.core.trust.trial import Base, based, stands, tried
from wendal.settings import settings

from .process import Say, WorkerDied, WorkerProcess, WorkerTooSlow, serve

__all__ = ["Here", "Processes"]

SLOWEST = 60.0  # s that one trial may take
MOST = 8  # processes, unless more are asked for: each takes some 300 MB


class Bench:
    """Does trials of one part."""

    def __init__(self) -> None:
        self._memory = Memory()
        self._part: Part | None = None
        self._base = Base()

    def begin(self, document: str, setup: Setup, kept: bytes = b"") -> Verdict:
        """Take up a part; return how it stands. Raises WendalError for what can not be watched.

        kept : what an earlier process has kept of it, so that it need not be built again.
        """
        self._part = read_part(document)
        if kept:
            with suppress(NotKept):  # then it is built
                take_up(self._memory, kept)
        with kernel.seeking(False):
            evaluation = evaluate(self._part, self._memory)
        self._base = based(self._part, evaluation, setup)
        return stands(self._part, evaluation, self._base)

    def one(self, trial: Trial) -> Verdict:
        """Do one trial."""
        assert self._part is not None
        with kernel.seeking(False):  # no search for the largest blend that works
            return tried(self._part, trial.changes, self._memory, self._base, trial.like)


class Here:
    """Trials in this process, one after the other."""

    def __init__(self) -> None:
        self._bench = Bench()

    def begin(self, document: str, setup: Setup = PLAIN) -> Verdict:
        """Take up a part; return how it stands."""
        return self._bench.begin(document, setup)

    def run(self, trials: list[Trial]) -> Iterator[tuple[int, Verdict]]:
        """Do trials in their order."""
        for trial in trials:
            yield trial.number, self._bench.one(trial)


def main(line: Connection) -> None:
    """Run a process that does trials."""
    os.nice(settings().trial_niceness)
    bench = Bench()

    def begin(request: Any, say: Say) -> Verdict:
        return bench.begin(*request)

    def one(request: Any, say: Say) -> Verdict:
        return bench.one(request)

    serve(line, {"begin": begin, "one": one})


class Processes:
    """Trials in several processes; each takes the next trial as soon as it is free. A process that ends or
    hangs is made anew."""

    def __init__(self, count: int = 0) -> None:
        self._count = count or min(os.cpu_count() or 2, MOST)
        self._workers: list[WorkerProcess | None] = []
        self._taken = ("", PLAIN)
        self._ended = False
        self.kept = b""  # what an earlier process has kept of the part

    def begin(self, document: str, setup: Setup = PLAIN) -> Verdict:
        """Take up a part in all processes; return how it stands."""
        self._taken = (document, setup)
        for worker in self._workers:
            if worker is not None:
                worker.end()
        self._workers = [None] * self._count
        try:
            return self._fresh(0)
        except WorkerDied:
            return Verdict("died", "Building it takes the geometry kernel down.")
        except WorkerTooSlow:
            return Verdict("slow", "Building it takes too long.")

    def _fresh(self, i: int) -> Verdict:
        """Start a process that has taken up the part."""
        worker = self._workers[i] = WorkerProcess(main)
        if self._ended:  # while it was started
            worker.end()
        found: Verdict = worker.call("begin", (*self._taken, self.kept), 20 * SLOWEST)
        return found

    def run(self, trials: list[Trial]) -> Iterator[tuple[int, Verdict]]:
        """Do trials; yield each with its number as it comes."""
        waiting, found = SimpleQueue[Trial](), SimpleQueue[tuple[int, Verdict]]()
        for trial in trials:
            waiting.put(trial)
        for i in range(min(self._count, len(trials))):
            threading.Thread(target=self._work, args=(i, waiting, found), daemon=True).start()
        for _ in trials:
            while True:
                try:
                    yield found.get(timeout=0.2)
                    break
                except Empty:
                    if self._ended:
                        return

    def _work(self, i: int, waiting: SimpleQueue[Trial], found: SimpleQueue[tuple[int, Verdict]]) -> None:
        while not self._ended:
            try:
                trial = waiting.get_nowait()
            except Empty:
                return
            found.put((trial.number, self._one(i, trial)))

    def _one(self, i: int, trial: Trial) -> Verdict:
        try:
            if self._workers[i] is None:
                self._fresh(i)
            worker = self._workers[i]
            assert worker is not None
            verdict: Verdict = worker.call("one", trial, SLOWEST)
            return verdict
        except WorkerDied:
            self._workers[i] = None
            return Verdict("died", "This takes the geometry kernel down.")
        except WorkerTooSlow:
            self._workers[i] = None
            return Verdict("slow", f"This takes longer than {SLOWEST:.0f} s.")
        except WendalError as error:
            return Verdict("stopped", error.message, error.step, "", error.field)

    def end(self) -> None:
        """End all processes, and whatever is under way."""
        self._ended = True
        for worker in self._workers:
            if worker is not None:
                with suppress(Exception):
                    worker.end()
