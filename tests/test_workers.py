"""Worker processes: answers, progress, refusals, death and slowness."""

from __future__ import annotations

import asyncio
import time
from queue import SimpleQueue
from typing import Any

import pytest

from tests.conftest import run_async
from tests.echo import echo_main
from tests.samples import plate
from wendal.core.errors import StepError
from wendal.core.route import write_part
from wendal.workers import Pool, WorkerDied, WorkerFailed, WorkerStopped, WorkerTooSlow, geometry
from wendal.workers.pool import MORE


def run(work: Any, seconds: float = 120) -> Any:
    """Run async work with a pool of two workers. A worker that starts on a busy machine is silent for long, so its limit is long."""
    async def inside() -> Any:
        pool = Pool(echo_main, 2, seconds)
        try:
            return await work(pool)
        finally:
            pool.stop()
    return run_async(inside())


def test_a_part_stays_with_its_worker_and_parts_are_spread() -> None:
    async def work(pool: Pool) -> list[int]:
        return [await pool.call(part, "pid", None) for part in (1, 2, 1, 2, 3)]
    a, b, c, d, _ = run(work)
    assert (a, b) == (c, d)
    assert a != b


def test_refusals_keep_field_and_step() -> None:
    async def work(pool: Pool) -> None:
        await pool.call(1, "refuse", None)
    with pytest.raises(StepError) as caught:
        run(work)
    assert (caught.value.message, caught.value.field, caught.value.step) == ("No.", "depth", "s1")


def test_a_dead_worker_is_replaced() -> None:
    async def work(pool: Pool) -> str:
        with pytest.raises(WorkerDied):
            await pool.call(1, "die", None)
        return await pool.call(1, "echo", "again")
    assert run(work) == "again"


def test_a_slow_worker_is_ended_and_replaced() -> None:
    async def work(pool: Pool) -> tuple[bool, str]:
        before = await pool.call(1, "pid", None)
        pool.seconds = 0.2
        with pytest.raises(WorkerTooSlow):
            await pool.call(1, "sleep", 600)
        pool.seconds = 120
        return await pool.call(1, "pid", None) != before, await pool.call(1, "echo", "again")
    assert run(work) == (True, "again")


def test_progress_gives_a_worker_its_whole_time_anew(monkeypatch: pytest.MonkeyPatch) -> None:
    given: list[float] = []

    class Box(SimpleQueue[Any]):
        """A box that tells how long it is waited for."""

        def get(self, block: bool = True, timeout: float | None = None) -> Any:
            given.append(timeout or 0)
            return super().get(block, timeout)

    monkeypatch.setattr("wendal.workers.process.SimpleQueue", Box)

    async def work(pool: Pool) -> tuple[int, list[int]]:
        heard: list[int] = []
        done = await pool.call(1, "count", 5, heard.append)
        await asyncio.sleep(0)  # what was said on the loop before the answer has been heard
        return done, heard
    assert run(work, 100) == (5, [0, 1, 2, 3, 4])
    assert given == [100] * 6


def test_a_call_that_was_given_up_leaves_its_answer_to_nobody() -> None:
    async def work(pool: Pool) -> list[tuple[int, Any]]:
        pool.home(1), pool.home(2)
        found = []
        for i in range(30):  # parts 1 and 3 share a worker
            call = asyncio.create_task(pool.call(1, "late", f"given up {i}"))
            await asyncio.sleep(0.01)
            call.cancel()
            found.append((i, await pool.call(3, "echo", i)))
        return found
    assert all(asked == answered for asked, answered in run(work))


def test_what_nobody_wants_any_more_is_not_sent() -> None:
    async def work(pool: Pool) -> list[Any]:
        first = asyncio.create_task(pool.call(1, "late", "first"))
        await asyncio.sleep(0.01)
        given_up = asyncio.create_task(pool.call(1, "late", "given up"))
        unwanted = asyncio.create_task(pool.call(1, "late", "unwanted", wanted=lambda: False))
        await asyncio.sleep(0)
        given_up.cancel()
        assert await first == "first"
        with pytest.raises(asyncio.CancelledError):
            await unwanted
        return await pool.call(1, "asked", None)
    assert run(work) == ["first"]


def test_what_raises_in_a_worker_is_an_answer_and_no_death() -> None:
    async def work(pool: Pool) -> bool:
        pid = await pool.call(1, "pid", None)
        with pytest.raises(WorkerFailed, match="KeyError"):
            await pool.call(1, "fail", "x")
        return pid == await pool.call(1, "pid", None)
    assert run(work)


def test_interrupting_spares_other_parts() -> None:
    async def work(pool: Pool) -> Any:
        pool.home(1), pool.home(2)
        call = asyncio.create_task(pool.call(3, "late", "other"))
        await asyncio.sleep(0.01)
        pool.interrupt(1)
        return await call
    assert run(work) == "other"


def test_interrupting_ends_the_call_at_once() -> None:
    async def work(pool: Pool) -> None:
        await pool.call(1, "pid", None)
        call = asyncio.create_task(pool.call(1, "sleep", 600))  # it is ended long before it or its limit is over
        while pool._places[pool.home(1)].working != 1:
            await asyncio.sleep(0.01)
        pool.interrupt(1)
        with pytest.raises(WorkerDied):
            await call
    run(work)


def test_a_worker_leaves_off_between_two_steps_and_goes_on_with_others() -> None:
    async def work(pool: Pool) -> tuple[int, int, float]:
        pid = await pool.call(1, "pid", None)
        heard: list[int] = []
        call = asyncio.create_task(pool.call(1, "count", 2000, heard.append))
        while not heard:
            await asyncio.sleep(0.01)
        began = time.perf_counter()
        pool.interrupt(1)
        with pytest.raises(WorkerStopped):
            await call
        took = time.perf_counter() - began
        return pid, await pool.call(1, "pid", None), took
    before, after, took = run(work)
    assert before == after
    assert took < 1.5


def test_a_part_goes_over_to_a_free_worker_and_at_most_one_more_is_started() -> None:
    async def work(pool: Pool) -> list[Any]:
        assert (pool.home(1), pool.home(2), pool.home(3), pool.home(4)) == (0, 1, 0, 1)
        heavy = [asyncio.create_task(pool.call(part, "sleep", 30)) for part in (1, 2)]
        while [p.working for p in pool._places[:2]] != [1, 2]:
            await asyncio.sleep(0.01)
        said: list[Any] = []
        answers = [await asyncio.wait_for(pool.call(part, "echo", part, said.append), 20) for part in (3, 4, 3)]
        assert len(pool.pids()) == 3
        assert said[0]["name"] == ""  # it said that it waits
        for part in (1, 2):
            pool.interrupt(part, 0.0)
        for call in heavy:
            with pytest.raises(WorkerDied):
                await call
        return answers
    assert run(work) == [3, 4, 3]


async def sleeping(pool: Pool, *parts: int) -> list[asyncio.Task[Any]]:
    """Give parts ten minutes' work each, of which no worker leaves off by itself; return once all are at it."""
    calls = [asyncio.create_task(pool.call(part, "sleep", 600)) for part in parts]
    while not set(parts) <= {p.working for p in pool._places if p.worker and p.worker._boxes}:
        await asyncio.sleep(0.01)
    return calls


def test_what_is_given_up_while_its_worker_is_started_is_ended_too() -> None:
    async def work(pool: Pool) -> None:
        call = asyncio.create_task(pool.call(1, "sleep", 600))
        while pool._places[0].working != 1:
            await asyncio.sleep(0)
        assert pool._places[0].worker is None  # it has its place, and nothing was sent
        pool.interrupt(1, 0.3)
        with pytest.raises(WorkerDied):
            await asyncio.wait_for(call, 30)
        assert await pool.call(1, "echo", "next") == "next"
    run(work)


def test_a_worker_that_does_not_leave_off_loses_its_place_before_it_is_killed() -> None:
    async def work(pool: Pool) -> None:
        await pool.start()
        before = await pool.call(1, "pid", None)
        (call,) = await sleeping(pool, 1)
        pool.interrupt(1, 5.0)
        assert pool.working_for(1)
        after = await asyncio.wait_for(pool.call(1, "pid", None), 4)  # the same part, while the old one still sleeps
        assert after != before
        assert not call.done()
        with pytest.raises(WorkerDied):
            await call
        assert before not in pool.pids()
        assert not pool.working_for(1)
        assert await pool.call(1, "pid", None) == after
    run(work)


def test_more_are_started_while_all_are_busy_and_end_when_they_rest(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("wendal.workers.pool.REST", 0.3)
    monkeypatch.setattr("wendal.workers.pool.PATIENCE", 0.05)

    async def work(pool: Pool) -> None:
        calls = await sleeping(pool, 1, 2)
        calls += await sleeping(pool, *range(3, 3 + MORE))
        assert len(pool.pids()) == 2 + MORE
        last = asyncio.create_task(pool.call(99, "echo", "in line"))
        await asyncio.sleep(0.3)
        assert not last.done()  # that many and no more
        pool.interrupt(3, 0.0)
        assert await last == "in line"
        for part in (1, 2, *range(4, 3 + MORE)):
            pool.interrupt(part, 0.0)
        for call in calls:
            with pytest.raises(WorkerDied):
                await call
        assert await pool.call(99, "echo", "again") == "again"
        until = time.monotonic() + 20
        while len(pool.pids()) > 2:
            assert time.monotonic() < until
            await asyncio.sleep(0.05)
        assert await pool.call(99, "echo", "at home again") == "at home again"
    run(work)


def test_calls_of_one_part_are_answered_in_their_order_wherever_they_are_done() -> None:
    async def work(pool: Pool) -> None:
        assert (pool.home(1), pool.home(2), pool.home(3)) == (0, 1, 0)
        (heavy,) = await sleeping(pool, 1)
        done: list[int] = []

        async def one(n: int) -> None:
            await pool.call(3, "late" if n % 2 else "echo", n)
            done.append(n)

        await asyncio.gather(*(one(n) for n in range(20)))
        assert done == list(range(20))
        pool.interrupt(1, 0.0)
        with pytest.raises(WorkerDied):
            await heavy
    run(work)


def test_one_in_line_that_is_given_up_holds_up_nobody() -> None:
    async def work(pool: Pool) -> None:
        calls = await sleeping(pool, 1, 2)
        given_up = [asyncio.create_task(pool.call(3, "sleep", 600)) for _ in range(3)]
        await asyncio.sleep(0.02)
        for call in given_up:
            call.cancel()
        assert await asyncio.wait_for(pool.call(3, "echo", "next"), 20) == "next"
        for part in (1, 2):
            pool.interrupt(part, 0.0)
        for call in calls:
            with pytest.raises(WorkerDied):
                await call
    run(work)


def test_who_gives_up_at_the_moment_of_his_turn_takes_no_place() -> None:
    async def work(pool: Pool) -> None:
        first, second = pool._places
        first.busy = second.busy = True
        waiting = asyncio.create_task(pool._turn(3, "echo"))
        await asyncio.sleep(0)
        waiting.cancel()
        pool._left(first)  # before the one that was given up has heard of it
        assert not first.busy
        pool._left(second)
        with pytest.raises(asyncio.CancelledError):
            await waiting
        assert await pool.call(3, "echo", "next") == "next"
    run(work)


def test_the_geometry_worker_hands_out_content_once() -> None:
    worker = geometry.GeometryWorker()
    request = {"document": write_part(plate().part), "has": []}
    first = worker.evaluate(request, lambda said: None)
    assert [r["state"] for r in first["reports"]] == ["built", "built"]
    assert len(first["scene"]["bodies"][0]["faces"]) == 6
    said: list[Any] = []
    second = worker.evaluate({**request, "has": list(first["blobs"])}, said.append)
    assert second["blobs"] == {}
    assert said == []
