"""Work that may take long and can not be left off, each in a child of this process, with a limit.

The kernel's hidden lines hold the interpreter and have no way to stop. A forked child has all shapes
already; what it finds comes back as plain data. One that takes too long is killed, and its work is
answered with None."""

from __future__ import annotations

import ctypes
import logging
import os
import pickle
import select
import signal
import time
from collections.abc import Callable
from typing import Any, TypeVar

__all__ = ["in_children"]

log = logging.getLogger(__name__)
Found = TypeVar("Found")
DIES_WITH_ITS_PARENT = 1  # of prctl, in Linux


def in_children(works: list[Callable[[], Found]], limit: float, at_once: int = 0) -> list[Found | None]:
    """Do works side by side; return what each found, None where it failed or was not done within `limit` s of
    the beginning.

    at_once : how many run together, 0 for as many as there are cores.
    """
    found: list[Found | None] = [None] * len(works)
    waiting = list(range(len(works)))
    going: dict[int, tuple[int, int, bytearray]] = {}  # by pipe: which, process, content
    deadline = time.monotonic() + limit
    while going or (waiting and time.monotonic() < deadline):
        while waiting and len(going) < (at_once or os.cpu_count() or 1):
            n = waiting.pop(0)
            pid, pipe = _begin(works[n], limit)
            going[pipe] = (n, pid, bytearray())
        ready, _, _ = select.select(list(going), [], [], 0.05)
        for pipe in list(going):
            n, pid, content = going[pipe]
            if pipe in ready:
                piece = os.read(pipe, 1 << 20)
                content += piece
                if piece:
                    continue
                found[n] = _read(bytes(content))
            elif time.monotonic() < deadline:
                continue
            else:
                log.info("a view took more than %g s and was left off", limit)
                os.kill(pid, signal.SIGKILL)
            os.close(pipe)
            os.waitpid(pid, 0)
            del going[pipe]
    return found


def _begin(work: Callable[[], object], limit: float) -> tuple[int, int]:
    reading, writing = os.pipe()
    pid = os.fork()
    if pid:
        os.close(writing)
        return pid, reading
    try:  # in the child, which never returns from here
        os.close(reading)
        ctypes.CDLL(None).prctl(DIES_WITH_ITS_PARENT, signal.SIGKILL)
        signal.signal(signal.SIGALRM, signal.SIG_DFL)
        signal.alarm(int(limit) + 2)
        with os.fdopen(writing, "wb") as out:
            pickle.dump(work(), out)
    except (
        BaseException
    ):  # whatever it is, this is a child: it says so and ends, and never goes on as its parent
        log.exception("a view failed in its child")
        os._exit(1)
    os._exit(0)


def _read(content: bytes) -> Any:
    return pickle.loads(content) if content else None
