"""Trials on a Dask cluster: the same trials, in the same children, on other machines.

Dask has no time limit for a task that runs, and a task that ends its process takes the worker's other results
with it. So each thread of a Dask worker keeps a child of its own for the trials of a part, and a death or a
hang is the result of the one trial that it came from. Results are fetched as they come, in batches of about
half a second, and no more than two batches a thread are under way, so that cancelling is quick.
"""

from __future__ import annotations

import multiprocessing
import threading
import time
import uuid
from collections import OrderedDict
from collections.abc import Iterator
from contextlib import suppress
from typing import Any

from wendal.core.errors import CommandRefused, WendalError
from wendal.core.trust import PLAIN, Setup, Trial, Verdict
from wendal.settings import settings

from .trials import Processes

__all__ = ["Cluster", "trial_pool"]

BATCH = 0.5  # s that one is meant to take
MOST = 16  # trials in a batch
AHEAD = 2  # batches a thread that are under way
ANSWERS = 10.0  # s within which a scheduler answers
KEPT = 4  # children that a Dask worker keeps at most
Taken = tuple[str, str, Setup]  # a key of its own, the document, what is looked at


def trial_pool(count: int = 0) -> Processes | Cluster:
    """Return what does trials: a cluster where `WENDAL_DASK` names one, else processes of this machine."""
    return Cluster(settings().dask) if settings().dask else Processes(count)


# — on the cluster's workers —

_children: OrderedDict[tuple[str, int], tuple[Processes, Verdict]] = OrderedDict()
_guard = threading.Lock()


def _child(taken: Taken) -> tuple[Processes, Verdict]:
    """Return the child of this thread for a part, begun when it is asked for first."""
    key, document, setup = taken
    place = (key, threading.get_ident())
    with _guard:
        found = _children.get(place)
        if found:
            _children.move_to_end(place)
            return found
    # Dask marks its workers as having no children; ours end with the line to them.
    multiprocessing.current_process()._config["daemon"] = False  # type: ignore[attr-defined]
    pool = Processes(1)
    made = (pool, pool.begin(document, setup))
    with _guard:
        _children[place] = made
        old = [_children.popitem(last=False)[1] for _ in range(max(len(_children) - KEPT, 0))]
    for other, _ in old:
        other.end()
    return made


def _begin(taken: Taken) -> Verdict:
    return _child(taken)[1]


def _batch(taken: Taken, trials: list[Trial]) -> tuple[list[tuple[int, Verdict]], float]:
    """Do trials; return their verdicts, and the seconds that they took."""
    pool, _ = _child(taken)
    began = time.monotonic()
    return list(pool.run(trials)), time.monotonic() - began


def _forget(key: str) -> None:
    """End the children for a part."""
    with _guard:
        gone = [_children.pop(place)[0] for place in list(_children) if place[0] == key]
    for pool in gone:
        pool.end()


# — here —


class Cluster:
    """Trials on the workers of a Dask scheduler."""

    def __init__(self, address: str) -> None:
        """address : of the scheduler, such as tcp://10.0.0.7:8786. Raises CommandRefused."""
        try:
            from distributed import Client
        except ImportError as error:
            raise CommandRefused(
                "WENDAL_DASK is set, and the package “distributed” is not there. Install "
                "requirements-dask.lock, or unset it."
            ) from error
        try:
            self._client: Any = Client(address, timeout=ANSWERS, set_as_default=False)
        except (OSError, ValueError) as error:
            raise CommandRefused(
                f"No Dask scheduler answers at {address}. Start one, or unset WENDAL_DASK."
            ) from error
        self._taken: Taken = ("", "", PLAIN)
        self._ended = False

    def begin(self, document: str, setup: Setup = PLAIN) -> Verdict:
        """Take up a part; return how it stands."""
        self._leave()
        self._taken = (uuid.uuid4().hex, document, setup)
        found: Verdict = self._result(self._client.submit(_begin, self._taken, pure=False, retries=0))
        return found

    def run(self, trials: list[Trial]) -> Iterator[tuple[int, Verdict]]:
        """Do trials; yield each with its number as it comes."""
        from distributed import as_completed

        waiting = list(reversed(trials))
        threads = max(sum(self._client.nthreads().values()), 1)
        size, coming = 1, as_completed(loop=self._client.loop)
        held: dict[str, list[Trial]] = {}

        def send() -> None:
            while waiting and len(held) < AHEAD * threads and not self._ended:
                share = max(1, min(size, len(waiting) // threads or 1))
                some = [waiting.pop() for _ in range(min(share, len(waiting)))]
                future = self._client.submit(_batch, self._taken, some, pure=False, retries=0)
                held[future.key] = some
                coming.add(future)

        send()
        while held and not self._ended:
            future = next(coming)
            some = held.pop(future.key)
            try:
                found, took = self._result(future)
            except WendalError:
                # The worker went, with its children: one by one it is found which of them it was.
                yield from self._alone(some)
            else:
                yield from found
                size = max(1, min(MOST, round(BATCH * len(some) / max(took, 1e-3))))
            future.release()
            send()

    def _alone(self, trials: list[Trial]) -> Iterator[tuple[int, Verdict]]:
        for trial in trials:
            future = self._client.submit(_batch, self._taken, [trial], pure=False, retries=0)
            try:
                yield from self._result(future)[0]
            except WendalError:
                yield trial.number, Verdict("died", "This takes the cluster's worker down.")

    def _result(self, future: Any) -> Any:
        """Return what a future came to; raises WendalError, also where its worker or the cluster is gone."""
        from distributed.scheduler import KilledWorker

        try:
            return future.result()
        except WendalError:
            raise
        except (KilledWorker, OSError, TimeoutError) as error:
            raise WendalError(f"The Dask cluster lost this: {error}") from error
        except BaseException as error:  # cancelled by `end`, which comes as one of asyncio's or Dask's own
            if self._ended:
                raise WendalError("This was cancelled.") from error
            raise

    def _leave(self) -> None:
        if self._taken[0]:
            with suppress(Exception):
                self._client.run(_forget, self._taken[0], on_error="ignore")

    def end(self) -> None:
        """End all trials, and whatever is under way."""
        if self._ended:
            return
        self._ended = True
        self._leave()
        with suppress(Exception):
            self._client.close(timeout=2)
