"""Trials of an open part: shakedowns, what moves what, aims, tolerances, families. Each runs in processes of
its own, is told to the part's windows as it grows, and is cancelled at once; of one part one at a time."""

from __future__ import annotations

import asyncio
import logging
import threading
import time
from collections.abc import Callable, Iterator
from contextlib import suppress
from dataclasses import dataclass
from typing import TYPE_CHECKING, Any

from pydantic import ValidationError

from wendal.core.errors import CommandRefused, WendalError
from wendal.core.route import Part, read_part
from wendal.core.trust import (
    Aimed,
    FamilyFound,
    Moved,
    Plan,
    Sampled,
    Setup,
    ShakedownReport,
    Watched,
    aimed,
    as_html,
    checked,
    compared,
    moved,
    sampled,
    shaken,
    stacked,
)
from wendal.core.trust.report import said
from wendal.workers.cluster import Cluster, trial_pool
from wendal.workers.trials import Processes

if TYPE_CHECKING:
    from .hub import Hub

__all__ = ["Trials"]

log = logging.getLogger(__name__)
OFTEN = 0.25  # s between two words on how far it is
FAULT = "This failed inside Wendal; its log says more."
Report = ShakedownReport | Moved | Aimed | Sampled | FamilyFound
Go = Callable[[Part, Processes | Cluster, Callable[[], bool]], Iterator[Report]]


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
    go: Go


class Trials:
    """The trials of one part, told to all its windows."""

    def __init__(self, hub: Hub) -> None:
        self._hub = hub
        self._cancelled = threading.Event()
        self._pool: Processes | Cluster | None = None
        self._task: asyncio.Task[None] | None = None
        self._turn = asyncio.Lock()  # two windows may begin at once
        self.last: Kept | None = None

    async def shake(self, plan: Plan) -> None:
        """Begin a shakedown."""
        await self.kept_before()
        await self._begin(
            lambda part: ShakedownReport(part=part.name, seed=plan.seed),
            lambda part, pool, stop: shaken(part, plan, pool, stop),
        )

    async def moves(self, tags: tuple[str, ...], setup: Setup) -> None:
        """Begin to find what moves what."""
        await self._begin(
            lambda part: Moved(part=part.name),
            lambda part, pool, stop: moved(part, tags, pool, stop, setup),
        )

    async def aim(self, figure: str, wish: float, tags: tuple[str, ...], things: tuple[Watched, ...]) -> None:
        """Begin to bring a figure to a wish by dimensions."""
        await self._begin(
            lambda part: Aimed(figure=figure, wish=wish, tags=list(tags)),
            lambda part, pool, stop: aimed(part, figure, wish, tags, pool, stop, things=things),
        )

    async def sample(self, figure: str, seed: int, count: int, things: tuple[Watched, ...]) -> None:
        """Begin to build sets by chance within the tolerances of a figure."""
        await self._begin(
            lambda part: Sampled(figure=figure, seed=seed, wanted=count),
            lambda part, pool, stop: sampled(part, figure, pool, stop, seed, count, things),
        )

    async def family(self, rows: tuple[str, ...]) -> None:
        """Begin to build and judge members of the family."""
        await self._begin(
            lambda part: FamilyFound(part=part.name),
            lambda part, pool, stop: checked(part, rows, pool, stop),
        )

    async def _begin(self, begins: Callable[[Part], Report], go: Go) -> None:
        state = await self._hub.state()
        part = read_part(state.document)
        await self._start(_Job(part, state.version, begins(part), go))

    async def _start(self, job: _Job) -> None:
        """Begin; what is under way is left off first."""
        async with self._turn:
            await self.stop()
            self._cancelled, self._pool = threading.Event(), await asyncio.to_thread(self._made_pool)
            self._task = asyncio.create_task(self._work(job, self._pool, self._cancelled))

    def _made_pool(self) -> Processes | Cluster:
        """Return what does the trials; processes of this machine are given what is kept of the part."""
        pool = trial_pool()
        if isinstance(pool, Processes) and self._hub.shelf:
            pool.kept = self._hub.shelf.read(self._hub.part) or b""
        return pool

    async def _work(self, job: _Job, pool: Processes | Cluster, cancelled: threading.Event) -> None:
        loop = asyncio.get_running_loop()

        def run() -> Report:
            told, report = 0.0, job.begins
            for report in job.go(job.part, pool, cancelled.is_set):
                if time.monotonic() - told > OFTEN or report.state != "running":
                    told = time.monotonic()
                    loop.call_soon_threadsafe(self._hub.tell, self._word(job, report))
            return report

        try:
            report = await asyncio.to_thread(run)
            if isinstance(report, ShakedownReport) and report.state == "done":
                self.last = Kept(job.version, report)
                await self._keep(job.version, report)
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
        self._hub.tell(self._word(job, report))

    def _word(self, job: _Job, report: Report) -> dict[str, Any]:
        data = {"version": job.version, "report": report.model_dump(mode="json")}
        plain = {Aimed: "aimed", Sampled: "sampled", FamilyFound: "family"}.get(type(report))
        if plain:
            return {"type": plain, **data}
        if isinstance(report, Moved):
            done = report.state == "done"
            stacks = [stacked(job.part, report, f) for f in report.figures] if done else []
            return {"type": "moved", **data, "stacks": [s.model_dump(mode="json") for s in stacks]}
        assert isinstance(report, ShakedownReport)
        since = None
        if self.last and report.state == "done":
            sturdier, weaker = compared(self.last.report, report)
            since = {"version": self.last.version, "sturdier": sturdier, "weaker": weaker}
        return self._shaken(job.version, report, since)

    async def stop(self) -> None:
        """Leave off what is under way."""
        self._cancelled.set()
        if self._pool:
            await asyncio.to_thread(self._pool.end)
        if self._task and not self._task.done():
            await asyncio.wait([self._task], timeout=5)

    async def _keep(self, version: int, report: ShakedownReport) -> None:
        """Keep a shakedown with its version. The windows have it already, so that it is not kept is no
        failure of the shakedown."""
        try:
            await asyncio.to_thread(
                self._hub.store.keep_shaken, self._hub.part, version, report.model_dump_json()
            )
        except WendalError as error:
            log.warning("a shakedown was not kept: %s", error.message)

    async def kept_before(self) -> Kept | None:
        """Return the last shakedown that came to its end, of this version or the newest before it, from the
        store where this server has run none."""
        if self.last is None:
            most = self._hub.version
            found = await asyncio.to_thread(self._hub.store.last_shaken, self._hub.part, most)
            if found is not None and self.last is None:
                with suppress(ValidationError):  # what another Wendal kept may have another form
                    self.last = Kept(found[0], ShakedownReport.model_validate_json(found[1]))
        return self.last

    async def kept(self) -> Kept:
        """Return the last shakedown that came to its end; raises CommandRefused."""
        found = await self.kept_before()
        if found is None:
            raise CommandRefused("No shakedown has come to its end yet. Run one with l k.")
        return found

    async def page(self) -> str:
        """Return the last shakedown as a page of its own, with pictures of where ranges end."""
        kept = await self.kept()
        state = await asyncio.to_thread(self._hub.store.version, self._hub.part, kept.version)
        request = {"document": state.document, "report": kept.report.model_dump_json()}
        return as_html(kept.report, await self._hub.builds.ask("pictures", request))

    async def tell_kept(self) -> dict[str, Any] | None:
        """Return the word on the last shakedown that came to its end; None where there was none."""
        found = await self.kept_before()
        if found is None:
            return None
        return self._shaken(found.version, found.report, None)

    def _shaken(self, version: int, report: ShakedownReport, since: dict[str, Any] | None) -> dict[str, Any]:
        return {
            "type": "shaken",
            "version": version,
            "report": report.model_dump(mode="json"),
            "order": [d.tag for d in report.sorted()],
            "said": {d.tag: said(d) for d in report.dimensions},
            "since": since,
        }
