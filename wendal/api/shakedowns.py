"""The shakedown of an open part: run in processes of its own, told to its windows as it grows, cancelled at
once."""

from __future__ import annotations

import asyncio
import logging
import threading
import time
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any, Literal

from wendal.core.errors import CommandRefused, WendalError
from wendal.core.route import read_part
from wendal.core.trust import Plan, ShakedownReport, compared, shaken
from wendal.core.trust.report import said
from wendal.workers.trials import Processes

__all__ = ["Shakedown"]

log = logging.getLogger(__name__)
OFTEN = 0.25  # s between two words on how far it is
Tell = Callable[[dict[str, Any]], None]


@dataclass(slots=True)
class Kept:
    """A shakedown that came to its end, and the version it was of."""

    version: int
    report: ShakedownReport


class Shakedown:
    """The shakedown of one part; `tell` reaches all its windows."""

    def __init__(self, tell: Tell) -> None:
        self._tell = tell
        self._cancelled = threading.Event()
        self._pool: Processes | None = None
        self._task: asyncio.Task[None] | None = None
        self.last: Kept | None = None
        self.before: Kept | None = None

    @property
    def running(self) -> bool:
        """Whether one is under way."""
        return self._task is not None and not self._task.done()

    async def start(self, document: str, version: int, plan: Plan) -> None:
        """Begin a shakedown; one that is under way is left off first. Raises WendalError."""
        await self.stop()
        part = read_part(document)
        self._cancelled = cancelled = threading.Event()
        loop = asyncio.get_running_loop()
        self._pool = pool = Processes()

        def word(report: ShakedownReport) -> None:
            data = self._word(report, version)
            loop.call_soon_threadsafe(self._tell, data)

        def run() -> ShakedownReport:
            told, report = 0.0, ShakedownReport(part=part.name, seed=plan.seed)
            for report in shaken(part, plan, pool, cancelled.is_set):
                if time.monotonic() - told > OFTEN or report.state != "running":
                    told = time.monotonic()
                    word(report)
            return report

        async def work() -> None:
            try:
                report = await asyncio.to_thread(run)
                if report.state == "done":
                    self.before, self.last = self.last, Kept(version, report)
            except WendalError as error:
                self._failed(part.name, plan, version, error.message)
            except Exception:
                if cancelled.is_set():  # its processes were ended under its hands
                    return self._failed(part.name, plan, version, "", "cancelled")
                log.exception("a shakedown failed by a fault of ours")
                self._failed(
                    part.name, plan, version, "The shakedown failed inside Wendal; its log says more."
                )
            finally:
                await asyncio.to_thread(pool.end)

        self._task = asyncio.create_task(work())

    def _failed(
        self,
        name: str,
        plan: Plan,
        version: int,
        words: str,
        state: Literal["refused", "cancelled"] = "refused",
    ) -> None:
        report = ShakedownReport(part=name, seed=plan.seed, state=state, trouble=words)
        self._tell(self._word(report, version))

    def _word(self, report: ShakedownReport, version: int) -> dict[str, Any]:
        since = None
        if self.last and report.state == "done":
            sturdier, weaker = compared(self.last.report, report)
            since = {"version": self.last.version, "sturdier": sturdier, "weaker": weaker}
        return {
            "type": "shaken",
            "version": version,
            "report": report.model_dump(mode="json"),
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
        """Return the last one that came to its end; raises CommandRefused."""
        if self.last is None:
            raise CommandRefused("No shakedown has come to its end yet. Run one with l k.")
        return self.last
