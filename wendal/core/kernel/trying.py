"""Trying what may end the process, in a child of its own, and finding how far something works."""

from __future__ import annotations

import math
import os
import signal
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager, suppress

__all__ = ["most", "said", "seeking", "sought", "survives"]

TRIES = 9
SECONDS = 3  # that one try may take in its child
PATIENCE = 8.0  # s that a search may take in all
SURELY = 0.99  # of what was found to work, told as what works


def survives(work: Callable[[], object]) -> bool:
    """Tell whether something works, in a child process that it may end: the kernel can take its process
    down."""
    child = os.fork()
    if not child:
        with suppress(BaseException):  # whatever it raises is a no
            signal.signal(signal.SIGALRM, signal.SIG_DFL)
            signal.alarm(SECONDS)
            work()
            os._exit(0)
        os._exit(1)
    return os.waitstatus_to_exitcode(os.waitpid(child, 0)[1]) == 0


_wanted = True  # whether it is looked for at all: it takes seconds


@contextmanager
def seeking(wanted: bool) -> Iterator[None]:
    """Within this, what works instead is looked for, or not."""
    global _wanted
    before, _wanted = _wanted, wanted
    try:
        yield
    finally:
        _wanted = before


def sought() -> bool:
    """Tell whether what works instead is looked for now."""
    return _wanted


def most(work: Callable[[float], object]) -> float | None:
    """Return up to which share (0 to 1) of what was asked something works, a little less to be sure; 0.0
    where none did, None where it is not looked for."""
    if not _wanted:
        return None
    low, high, until = 0.0, 1.0, time.monotonic() + PATIENCE
    for _ in range(TRIES):
        middle = (low + high) / 2
        if survives(lambda by=middle: work(by)):  # type: ignore[misc]
            low = middle
        else:
            high = middle
        if high - low < 0.01 * high or time.monotonic() > until:
            break
    return low * SURELY


def said(size: float) -> str:
    """Say a size up to which something works, in mm, rounded down: what is said still works."""
    digits = max(0, 2 - math.floor(math.log10(size))) if size < 100 else 0
    return f"{math.floor(size * 10**digits) / 10**digits:g}"
