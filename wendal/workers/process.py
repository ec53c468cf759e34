"""One worker process and the line to it. Requests are (operation, plain data); answers likewise."""

from __future__ import annotations

import multiprocessing
import os
import signal
import threading
import time
from collections.abc import Callable
from multiprocessing.connection import Connection
from typing import Any, Protocol

from wendal.core.errors import WendalError

__all__ = ["Operation", "Say", "WorkerDied", "WorkerProcess", "WorkerTooSlow", "serve"]

Say = Callable[[Any], None]
Operation = Callable[[Any, Say], Any]  # takes the request and a way to say progress, returns the answer


class Main(Protocol):
    """What a worker runs: a function at module level that takes its end of the line."""

    def __call__(self, line: Connection) -> None: ...


class WorkerDied(Exception):
    """The process ended while it worked."""


class WorkerTooSlow(Exception):
    """The process took longer than it may and was ended."""


_context = multiprocessing.get_context("forkserver")
# The fork server loads the kernel once and never computes; workers fork from it in milliseconds.
_context.set_forkserver_preload(["wendal.workers.geometry", "wendal.workers.pen"])


class WorkerProcess:
    """A child process that answers one request at a time."""

    def __init__(self, main: Main) -> None:
        self._line, far_end = _context.Pipe()
        self._ending = threading.Lock()
        self._process = _context.Process(target=main, args=(far_end,), daemon=True)
        self._process.start()
        far_end.close()

    @property
    def pid(self) -> int:
        """The process number."""
        return self._process.pid or 0

    @property
    def alive(self) -> bool:
        """Whether the process still runs."""
        return self._process.is_alive()

    def call(self, operation: str, request: Any, seconds: float, progress: Say | None = None) -> Any:
        """Ask and wait. `seconds` is the longest silence allowed: each word of progress starts it anew.

        Raises WorkerDied or WorkerTooSlow (the process is then ended), or the WendalError the operation raised.
        """
        try:
            self._line.send((operation, request))
            until = time.monotonic() + seconds
            while True:
                if not self._line.poll(max(0.0, until - time.monotonic())):
                    self.end()
                    raise WorkerTooSlow
                word, content = self._line.recv()
                if word == "progress":
                    until = time.monotonic() + seconds
                    if progress:
                        progress(content)
                elif word == "refused":
                    raise content
                else:
                    return content
        except (EOFError, OSError) as error:
            self.end()
            raise WorkerDied from error

    def kill(self) -> None:
        """Kill the process and leave the rest to whoever waits for its answer."""
        self._process.kill()

    def end(self) -> None:
        """End the process at once; whoever waits for its answer may end it too."""
        with self._ending:
            if self._process.is_alive():
                self._process.kill()
            self._process.join(5)
            self._line.close()


def serve(line: Connection, operations: dict[str, Operation]) -> None:
    """Answer requests until the line closes; runs in the child."""
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    os.setpgid(0, 0)
    while True:
        try:
            operation, request = line.recv()
        except (EOFError, OSError):
            return
        try:
            line.send(("done", operations[operation](request, lambda said: line.send(("progress", said)))))
        except WendalError as error:
            line.send(("refused", error))
