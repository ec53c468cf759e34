"""Trials of an open part: told as they grow, left off at once, one at a time, and no fault when they are ended."""

from __future__ import annotations

import asyncio
import logging
import time
from typing import Any

import pytest

from tests.conftest import run_async
from tests.samples import plate
from wendal.api.messages import to_browser
from wendal.api.trials import Trials
from wendal.core.errors import CommandRefused
from wendal.core.route import write_part
from wendal.core.trust import Plan

DOCUMENT = write_part(plate().part)


async def until(told: list[dict[str, Any]], wanted: Any) -> dict[str, Any]:
    end = time.monotonic() + 120
    while time.monotonic() < end:
        found = next((m for m in told if wanted(m)), None)
        if found is not None:
            return found
        await asyncio.sleep(0.05)
    raise AssertionError([m.get("report", {}).get("state") for m in told])


def state(name: str) -> Any:
    return lambda m: m["report"]["state"] == name


def test_a_shakedown_grows_is_left_off_at_once_and_its_words_fit_their_model() -> None:
    async def go() -> None:
        told: list[dict[str, Any]] = []
        trials = Trials(told.append)
        with pytest.raises(CommandRefused, match="No shakedown has come to its end"):
            trials.kept()
        await trials.shake(DOCUMENT, 3, Plan(sets=2000))
        await until(told, lambda m: m["report"]["trials"] > 3)
        began = time.monotonic()
        await trials.stop()
        assert time.monotonic() - began < 5
        await until(told, state("cancelled"))
        count = len(told)
        await asyncio.sleep(0.5)
        assert len(told) == count
        # Another is begun over one that has only just begun; a part that is not sound says why.
        await trials.shake(DOCUMENT, 3, Plan(sets=0))
        await trials.shake(DOCUMENT, 4, Plan(tags=("base_depth",), sets=0, ranges={"base_depth": (5.0, 20.0)}))
        done = await until(told, state("done"))
        assert done["version"] == 4
        assert trials.kept().version == 4
        await trials.moves(DOCUMENT, 5, ("base_depth",))
        moved = await until(told, lambda m: m["type"] == "moved" and m["report"]["state"] == "done")
        assert moved["report"]["dimensions"][0]["per"]["Base: volume"] == pytest.approx(1000, rel=1e-6)
        assert {s["figure"] for s in moved["stacks"]} == set(moved["report"]["figures"])
        await trials.aim(DOCUMENT, 6, "nothing", 3.0, "base_depth")
        refused = await until(told, lambda m: m["type"] == "aimed" and m["report"]["state"] == "refused")
        assert "no figure" in refused["report"]["trouble"]
        await trials.stop()
        for message in told:
            to_browser.validate_python(message)

    run_async(go())


def test_ending_in_the_middle_is_no_fault(faults: list[logging.LogRecord]) -> None:
    async def go(wait: float) -> None:
        trials = Trials(lambda message: None)
        await trials.shake(DOCUMENT, 1, Plan(sets=500))
        await asyncio.sleep(wait)
        await trials.stop()
        assert not trials._task or trials._task.done()

    for wait in (0.0, 0.05, 0.4, 1.5):
        run_async(go(wait))
    assert faults == []
