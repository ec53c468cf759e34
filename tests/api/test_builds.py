"""What a part asks of its geometry worker: one request at a time, each of which can be ended."""

from __future__ import annotations

import asyncio
from collections.abc import Callable
from typing import Any

import pytest

from tests.conftest import run_async
from wendal.api.builds import Builds, Superseded
from wendal.workers import WorkerDied


class Slow:
    """A worker that takes requests one after the other and builds a step in each, until it is let, or ended."""

    seconds = 60.0

    def __init__(self) -> None:
        self.turn, self.let, self.ended = asyncio.Lock(), asyncio.Event(), 0

    async def call(self, part: int, operation: str, request: dict[str, Any], say: Callable[[Any], None], wanted: Callable[[], bool]) -> Any:
        async with self.turn:
            if not wanted():
                raise asyncio.CancelledError
            if operation in request["condemned"]:
                return request["condemned"][operation]
            say({"step": "s1", "name": "One", "key": operation})
            ended = self.ended
            await self.let.wait()
            if ended < self.ended:
                raise WorkerDied
            return "built"

    def interrupt(self, part: int) -> None:
        self.ended += 1
        self.let.set()


def test_what_waits_does_not_hide_what_is_built_from_cancelling() -> None:
    async def work() -> None:
        worker = Slow()
        builds = Builds(1, worker, lambda said: None)  # type: ignore[arg-type]
        first = asyncio.create_task(builds.ask("ready", {}))
        await asyncio.sleep(0)
        second = asyncio.create_task(builds.ask("accept", {}, lambda: not builds.cancels))
        await asyncio.sleep(0)
        builds.cancel()
        assert worker.ended == 1
        assert "cancelled" in await first
        with pytest.raises(Superseded):
            await second
        builds.take_up_again()
        assert builds.condemned == {}
    run_async(work())
