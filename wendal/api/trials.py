"""Trials of an open part: a shakedown, what moves what, an aim. Each runs in processes of its own, is told to
the part's windows as it grows, and is cancelled at once; of one part one at a time."""

from __future__ import annotations

import asyncio
import logging
import threading
import time
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from typing import Any

from wendal.core.errors import CommandRefused, WendalError
from wendal.core.route import Part, read_part
from wendal.core.trust import (
    Aimed,
    Moved,
    Plan,
    ShakedownReport,
    aimed,
    compared,
    moved,
    shaken,
    stacked,
)
from wendal.core.trust.report import said
from wendal.workers.trials import Processes

__all__ = ["Trials"]

log = logging.getLogger(__name__)
OFTEN = 0.25  # s between two words on how far it is
FAULT = "This failed inside Wendal; its log says more."
Tell = Callable[[dict[str, Any]], None]
Report = ShakedownReport | Moved | Aimed


@dataclass(slots=True)
class Kept:
    """A shakedown that came to its end, and the version it was of."""

    version: int
    report: ShakedownReport


@dataclass(frozen=True, slots=True)
class _Job:
    """What is done: the part and its version, the report it begins with, and how it goes on."""

    part: Part
    version: int
    begins: Report
    go: Callable[[Processes, Callable[[], bool]], Iterator[Report]]


class Trials:
    """The trials of one part; `tell` reaches all its windows."""

    def __init__(self, tell: Tell) -> None:
        self._tell = tell
        self._cancelled = threading.Event()
        self._pool: Processes | None = None
        self._task: asyncio.Task[None] | None = None
        self._turn = asyncio.Lock()  # two windows may begin at once
        self.last: Kept | None = None

    async def shake(self, document: str, version: int, plan: Plan) -> None:
        """Begin a shakedown."""
        part = read_part(document)
        begins = ShakedownReport(part=part.name, seed=plan.seed)
        await self._start(_Job(part, version, begins, lambda pool, stop: shaken(part, plan, pool, stop)))

    async def moves(self, document: str, version: int, tags: tuple[str, ...]) -> None:
        """Begin to find what moves what."""
        part = read_part(document)
        begins = Moved(part=part.name)
        await self._start(_Job(part, version, begins, lambda pool, stop: moved(part, tags, pool, stop)))

    async def aim(self, document: str, version: int, figure: str, wish: float, tag: str) -> None:
        """Begin to bring a figure to a wish by a dimension."""
        part = read_part(document)
        begins = Aimed(figure=figure, wish=wish, tag=tag)
        go = lambda pool, stop: aimed(part, figure, wish, tag, pool, stop)  # noqa: E731
        await self._start(_Job(part, version, begins, go))

    async def _start(self, job: _Job) -> None:
        """Begin; what is under way is left off first."""
        async with self._turn:
            await self.stop()
            self._cancelled, self._pool = threading.Event(), Processes()
            self._task = asyncio.create_task(self._work(job, self._pool, self._cancelled))

    async def _work(self, job: _Job, pool: Processes, cancelled: threading.Event) -> None:
        loop = asyncio.get_running_loop()

        def run() -> Report:
            told, report = 0.0, job.begins
            for report in job.go(pool, cancelled.is_set):
                if time.monotonic() - told > OFTEN or report.state != "running":
                    told = time.monotonic()
                    loop.call_soon_threadsafe(self._tell, self._word(job, report))
            return report

        try:
            report = await asyncio.to_thread(run)
            if isinstance(report, ShakedownReport) and report.state == "done":
                self.last = Kept(job.version, report)
        except WendalError as error:
            self._failed(job, error.message)
        except Exception:  # whatever it is, the windows are told
            if cancelled.is_set():  # its processes were ended under its hands
                self._failed(job, "", "cancelled")
            else:
                log.exception("trials failed by a fault of ours")
                self._failed(job, FAULT)
        finally:
            await asyncio.to_thread(pool.end)

    def _failed(self, job: _Job, words: str, state: str = "refused") -> None:
        report = job.begins.model_copy(update={"state": state, "trouble": words})
        self._tell(self._word(job, report))

    def _word(self, job: _Job, report: Report) -> dict[str, Any]:
        data = {"version": job.version, "report": report.model_dump(mode="json")}
        if isinstance(report, Aimed):
            return {"type": "aimed", **data}
        if isinstance(report, Moved):
            done = report.state == "done"
            stacks = [stacked(job.part, report, f) for f in report.figures] if done else []
            return {"type": "moved", **data, "stacks": [s.model_dump(mode="json") for s in stacks]}
        since = None
        if self.last and report.state == "done":
            sturdier, weaker = compared(self.last.report, report)
            since = {"version": self.last.version, "sturdier": sturdier, "weaker": weaker}
        return {
            "type": "shaken",
            **data,
            "order": [d.tag for d in report.sorted()],
            "said": {d.tag: said(d) for d in report.dimensions},
            "since": since,
        }

    async def stop(self) -> None:
        """Leave off what is under way."""
        self._cancelled.set()
        if self._pool:
            await asyncio.to_thread(self._pool.end)
        if self._task and not self._task.done():
            await asyncio.wait([self._task], timeout=5)

    def kept(self) -> Kept:
        """Return the last shakedown that came to its end; raises CommandRefused."""
        if self.last is None:
            raise CommandRefused("No shakedown has come to its end yet. Run one with l k.")
        return self.last
