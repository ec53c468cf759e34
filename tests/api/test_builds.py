"""What a part asks of its geometry worker: one request at a time, each of which can be ended."""

from __future__ import annotations

import asyncio
from collections.abc import Callable
from pathlib import Path
from typing import Any

import pytest

from tests.conftest import run_async
from wendal.api.builds import Builds, Superseded
from wendal.core.route import ONWARD
from wendal.settings import Settings
from wendal.workers import WorkerDied
from wendal.workers.shelf import Shelf


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


def test_showing_a_part_has_a_limit_in_all(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("wendal.api.builds.settings", lambda: Settings(evaluation_seconds=0.05))

    async def work() -> None:
        worker = Slow()
        builds = Builds(1, worker, lambda said: None)  # type: ignore[arg-type]
        with pytest.raises(Superseded):
            await asyncio.wait_for(builds.ask("evaluate", {}, shows=True), 5)
        worker.let.set()
        await builds.ask("evaluate", {}, shows=True)
        assert "in all" in worker.asked[-1]["condemned"][ONWARD + "s1"]
        builds.take_up_again()
        await builds.ask("evaluate", {}, shows=True)
        assert worker.asked[-1]["condemned"] == {}
    run_async(work())


def test_what_takes_a_worker_down_is_kept_with_the_part(tmp_path: Path) -> None:
    class Deadly(Slow):
        async def call(self, part: int, operation: str, request: dict[str, Any], say: Callable[[Any], None], wanted: Callable[[], bool]) -> Any:
            self.asked.append(request)
            if "bad" not in request["condemned"]:
                say({"step": "s1", "name": "One", "key": "bad"})
                raise WorkerDied("gone")
            return "told"

    async def work() -> None:
        shelf = Shelf(tmp_path / "results")
        worker = Deadly()
        assert await Builds(1, worker, lambda said: None, shelf).ask("evaluate", {}, shows=True) == "told"  # type: ignore[arg-type]
        # The hub has gone, and another Wendal has started: the step is not tried again.
        later = Builds(1, worker, lambda said: None, Shelf(tmp_path / "results"))  # type: ignore[arg-type]
        asked = len(worker.asked)
        assert await later.ask("evaluate", {}, shows=True) == "told"
        assert len(worker.asked) == asked + 1
        assert Builds(2, worker, lambda said: None, shelf).condemned == {}  # type: ignore[arg-type]
        later.absolve()
        assert Shelf(tmp_path / "results").condemned(1) == {}
        shelf.condemn(1, {"bad": "words"})
        file = next((tmp_path / "results").glob("*.condemned"))
        file.write_bytes(file.read_bytes().replace(b"words", b"other"))
        assert shelf.condemned(1) == {}  # not sealed by this Wendal
    run_async(work())
