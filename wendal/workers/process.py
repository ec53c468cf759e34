"""One worker process and the line to it.

A request is (number, operation, plain data), an answer (number, word, plain data). One thread reads the line
and hands every answer to the call that asked for it, so that a call that was given up can never leave its
answer to another.
"""

from __future__ import annotations

import itertools
import logging
import multiprocessing
import os
import resource
import signal
import threading
import time
from collections import deque
from collections.abc import Callable
from contextlib import suppress
from multiprocessing import forkserver
from multiprocessing.connection import Connection
from queue import Empty, SimpleQueue
from typing import Any, Protocol

from wendal.core.errors import WendalError
from wendal.core.tally import tallied
from wendal.log import about, known, set_up

__all__ = [
    "Operation",
    "Say",
    "WorkerDied",
    "WorkerFailed",
    "WorkerProcess",
    "WorkerStopped",
    "WorkerTooSlow",
    "begin_loading",
    "serve",
]

log = logging.getLogger(__name__)
Say = Callable[[Any], None]
Operation = Callable[[Any, Say], Any]  # takes the request and a way to say progress, returns the answer


class Main(Protocol):
    """What a worker runs: a function at module level that takes its end of the line."""

    def __call__(self, line: Connection) -> None: ...


class WorkerDied(Exception):
    """The process ended while it worked."""


class WorkerTooSlow(Exception):
    """The process took longer than it may and was ended."""


class WorkerStopped(Exception):
    """The process left off the operation, as it was asked to, and goes on with the next."""


class WorkerFailed(WendalError):
    """The operation raised what it should not have; the process goes on."""

    code = "failed"


LEAST_MEMORY, SHARE = (
    6 * 2**30,
    0.7,
)  # bytes of address space a worker may have in any case, and of the machine's memory else
_context = multiprocessing.get_context("forkserver")
# The fork server loads the kernel once and never computes; workers fork from it in milliseconds.
_context.set_forkserver_preload(["wendal.workers.preload"])


def begin_loading() -> None:
    """Have the fork server load the kernel from now on, beside whatever else is loaded. Returns at once."""
    forkserver.ensure_running()


STOP = "stop"  # the operation that asks for another to be left off


class Stopped(BaseException):
    """Raised where progress is said, in an operation that is to be left off. No refusal, so that nothing
    takes it for the end of a step."""


class WorkerProcess:
    """A child process that answers one request after the other."""

    def __init__(self, main: Main) -> None:
        self._line, far_end = _context.Pipe()
        self._sending, self._ending = threading.Lock(), threading.Lock()
        self._numbers = itertools.count(1)
        self._boxes: dict[int, SimpleQueue[tuple[str, Any]]] = {}
        self._closed = False
        self._now = 0  # the number of the request under way
        self._process = _context.Process(target=main, args=(far_end,), daemon=True)
        self._process.start()
        far_end.close()
        threading.Thread(target=self._read, name=f"answers of {self.pid}", daemon=True).start()

    @property
    def pid(self) -> int:
        """The process number."""
        return self._process.pid or 0

    @property
    def alive(self) -> bool:
        """Whether the process still runs and can be asked."""
        return not self._closed and self._process.is_alive()

    def call(self, operation: str, request: Any, seconds: float, progress: Say | None = None) -> Any:
        """Ask and wait. `seconds` is the longest silence allowed: each word of progress starts it anew.

        Raises WorkerDied or WorkerTooSlow (the process is then ended), or the WendalError the operation
        raised.
        """
        number, box = next(self._numbers), SimpleQueue[tuple[str, Any]]()
        self._boxes[number] = box
        try:
            with self._sending:
                if self._closed:
                    raise WorkerDied
                self._now = number
                self._line.send((number, operation, request, known()))
            while True:
                word, content = box.get(timeout=seconds)
                if word == "died":
                    raise WorkerDied
                if word == "stopped":
                    raise WorkerStopped
                if word == "refused":
                    raise content
                if word == "done":
                    return content
                if progress:
                    progress(content)
        except Empty as error:
            self.end()
            raise WorkerTooSlow from error
        except OSError as error:
            self.end()
            raise WorkerDied from error
        finally:
            self._boxes.pop(number, None)

    def _read(self) -> None:
        """Hand answers out until the line breaks; then everyone who waits hears that the process is gone."""
        while True:
            try:
                number, word, content = self._line.recv()
            except (EOFError, OSError):
                break
            except Exception:  # what cannot be read ends this worker, and is told as its death
                log.exception("an answer of worker %s can not be read", self.pid)
                break
            box = self._boxes.get(number)
            if box:
                box.put((word, content))
        self._closed = True
        with self._sending:  # whoever is about to ask sees `_closed`, whoever has asked is in the boxes
            for box in list(self._boxes.values()):
                box.put(("died", None))
        self._process.kill()
        self._process.join(5)
        self._line.close()

    def stop(self) -> None:
        """Ask the process to leave off what it does before its next step."""
        with suppress(OSError), self._sending:
            if not self._closed and self._now in self._boxes:
                self._line.send((self._now, STOP, None, {}))

    def kill(self) -> None:
        """Kill the process; the reader tells whoever waits."""
        self._process.kill()

    def end(self) -> None:
        """End the process at once and wait until it is gone."""
        with self._ending:
            self._closed = True
            self._process.kill()
            self._process.join(5)


def serve(line: Connection, operations: dict[str, Operation]) -> None:
    """Answer requests until the line closes; runs in the child.

    Exceptions are sent back as answers; `WorkerDied` means that the process itself ended.
    """
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    os.setpgid(0, 0)
    memory = max(LEAST_MEMORY, int(SHARE * os.sysconf("SC_PAGE_SIZE") * os.sysconf("SC_PHYS_PAGES")))
    # More than that is an error of the step, not the machine's end.
    resource.setrlimit(resource.RLIMIT_AS, (memory, memory))
    set_up()
    operations = {"tallies": lambda request, say: tallied(), **operations}
    inbox = _Inbox(line)
    while True:
        try:
            number, operation, request, asked_for = inbox.next()
        except (EOFError, OSError):
            return
        try:
            with about(**asked_for):
                _answer(inbox, number, operations[operation], request)
        except (BrokenPipeError, ConnectionResetError):  # nobody listens any more
            return


class _Inbox:
    """What has come over the line: requests in their order, and which of them are to be left off."""

    def __init__(self, line: Connection) -> None:
        self.line = line
        self._waiting: deque[Any] = deque()
        self._stopped: set[int] = set()

    def _take(self) -> None:
        message = self.line.recv()
        if message[1] == STOP:
            self._stopped.add(message[0])
        else:
            self._waiting.append(message)

    def next(self) -> Any:
        """Return the next request, waiting for it."""
        while not self._waiting:
            self._take()
        return self._waiting.popleft()

    def check(self, number: int) -> None:
        """Raise Stopped where a request is to be left off."""
        while self.line.poll():
            self._take()
        if number in self._stopped:
            self._stopped.clear()
            raise Stopped


def _answer(inbox: _Inbox, number: int, operation: Operation, request: Any) -> None:
    began = time.perf_counter()
    line = inbox.line

    def say(said: Any) -> None:
        inbox.check(number)
        line.send((number, "progress", said))

    try:
        answer = operation(request, say)
        line.send((number, "done", answer))
    except Stopped:
        line.send((number, "stopped", None))
    except WendalError as error:
        # Without its trace: where Dask is installed, traces are sent as well, and deep ones can not be.
        line.send((number, "refused", error.bare()))
    except (BrokenPipeError, ConnectionResetError):
        raise
    except Exception as error:  # whatever it is, who asked is told and the worker goes on
        log.exception("%s failed by a fault of ours", operation.__name__)
        told = (
            f"This failed inside Wendal ({type(error).__name__}), and nothing was changed. Its log says more."
        )
        line.send((number, "refused", WorkerFailed(told)))
    took = 1000 * (time.perf_counter() - began)
    log.info("%s", operation.__name__, extra={"milliseconds": round(took, 1)})
