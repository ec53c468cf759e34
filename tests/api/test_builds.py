"""What a part asks of its geometry worker: one request at a time, each of which can be ended."""

from __future__ import annotations

import asyncio
from collections.abc import Callable
from typing import Any

import pytest

from tests.conftest import run_async
from wendal.api.builds import Builds, Superseded
from wendal.core.route import ONWARD


class Slow:
    """A worker that takes requests one after the other and builds a step in each, until it is let, or ended."""

    seconds = 60.0

    def __init__(self) -> None:
        self.turn, self.let, self.ended, self.asked = asyncio.Lock(), asyncio.Event(), 0, list[dict[str, Any]]()

    async def call(self, part: int, operation: str, request: dict[str, Any], say: Callable[[Any], None], wanted: Callable[[], bool]) -> Any:
        self.asked.append(request)
        async with self.turn:
            if not wanted():
                raise asyncio.CancelledError
            say({"step": "s1", "name": "One", "key": operation})
            await self.let.wait()
            return "built"

    def interrupt(self, part: int) -> None:
        self.ended += 1

    def leave_off(self, part: int) -> None:
        self.ended += 1


def test_cancelling_gives_up_what_is_built_and_what_waits_at_once() -> None:
    async def work() -> None:
        worker = Slow()
        builds = Builds(1, worker, lambda said: None)  # type: ignore[arg-type]
        asked = [asyncio.create_task(builds.ask("evaluate", {}, shows=True)), *(asyncio.create_task(builds.ask(o, {})) for o in ("evaluate", "preview"))]
        await asyncio.sleep(0.01)
        builds.cancel()
        for one in asked:
            with pytest.raises(Superseded):
                await asyncio.wait_for(one, 1)
        assert worker.ended == 1
        # What follows is told as far as it is remembered, until it is asked for again.
        worker.let.set()
        await builds.ask("evaluate", {}, shows=True)
        assert "cancelled" in worker.asked[-1]["condemned"][ONWARD + "s1"]
        await builds.ask("evaluate", {})  # what is accepted is built all the same
        assert worker.asked[-1]["condemned"] == {}
        builds.take_up_again()
        assert await builds.ask("evaluate", {}, shows=True) == "built"
        assert worker.asked[-1]["condemned"] == {}
    run_async(work())


def test_a_cancel_without_work_holds_nothing() -> None:
    builds = Builds(1, Slow(), lambda said: None)  # type: ignore[arg-type]
    builds.cancel()
    assert builds.held is None
    assert builds.cancels == 1


def test_a_cancelled_preview_leaves_the_part_as_it_stands() -> None:
    async def work() -> None:
        worker = Slow()
        builds = Builds(1, worker, lambda said: None)  # type: ignore[arg-type]
        preview = asyncio.create_task(builds.ask("preview", {}))
        await asyncio.sleep(0.01)
        builds.cancel()
        with pytest.raises(Superseded):
            await preview
        assert builds.held is None
    run_async(work())


def test_a_cancel_in_line_holds_from_the_beginning() -> None:
    async def work() -> None:
        worker = Slow()
        await worker.turn.acquire()  # another part's work
        builds = Builds(1, worker, lambda said: None)  # type: ignore[arg-type]
        shown = asyncio.create_task(builds.ask("evaluate", {}, shows=True))
        await asyncio.sleep(0.01)
        builds.cancel()
        with pytest.raises(Superseded):
            await asyncio.wait_for(shown, 1)
        worker.turn.release()
        worker.let.set()
        await builds.ask("evaluate", {}, shows=True)
        assert "cancelled" in worker.asked[-1]["condemned"][ONWARD]
    run_async(work())


def test_only_an_evaluation_alone_is_left_off_for_a_newer_edit() -> None:
    async def work() -> None:
        worker = Slow()
        builds = Builds(1, worker, lambda said: None)  # type: ignore[arg-type]
        one = asyncio.create_task(builds.ask("evaluate", {}))  # under an accept: never left off
        await asyncio.sleep(0)
        builds.leave_off()
        assert worker.ended == 0
        one.cancel()
        await asyncio.sleep(0)
        one = asyncio.create_task(builds.ask("evaluate", {}, shows=True))
        await asyncio.sleep(0)
        builds.leave_off()
        assert worker.ended == 1
        other = asyncio.create_task(builds.ask("preview", {}))
        await asyncio.sleep(0)
        builds.leave_off()
        assert worker.ended == 1
        builds.close()
        for call in (one, other):
            with pytest.raises(Superseded):
                await call
        with pytest.raises(Superseded):
            await builds.ask("evaluate", {})
    run_async(work())
