"""Trials of an open part: told as they grow, left off at once, one at a time, and no fault when they are ended."""

from __future__ import annotations

import asyncio
import csv
import io
import logging
import time
import zipfile
from types import SimpleNamespace
from typing import Any

import pytest
from starlette.testclient import TestClient

from tests.api.test_service import Talk, client, part, talk  # noqa: F401
from tests.conftest import run_async
from tests.samples import plate
from wendal.api.messages import to_browser
from wendal.api.trials import Trials
from wendal.core.errors import CommandRefused
from wendal.core.route import write_part
from wendal.core.trust import PLAIN, Plan

DOCUMENT = write_part(plate().part)


class Part:
    """An open part without its server: what trials want of it. kept : reports by version."""

    part, shelf = 7, None

    def __init__(self, told: list[dict[str, Any]] | None = None) -> None:
        self.at, self.version, self.told, self.kept = 3, 0, told if told is not None else [], dict[int, str]()
        self.store = SimpleNamespace(
            keep_shaken=lambda of, number, report: self.kept.update({number: report}),
            last_shaken=lambda of, most=0: max(self.kept.items(), default=None),
        )

    def tell(self, message: dict[str, Any]) -> None:
        self.told.append(message)

    async def state(self) -> Any:
        return SimpleNamespace(document=DOCUMENT, version=self.at)


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
        opened = Part(told)
        trials = Trials(opened)  # type: ignore[arg-type]
        with pytest.raises(CommandRefused, match="No shakedown has come to its end"):
            await trials.kept()
        assert await trials.tell_kept() is None
        await trials.shake(Plan(sets=2000))
        await until(told, lambda m: m["report"]["trials"] > 3)
        began = time.monotonic()
        await trials.stop()
        assert time.monotonic() - began < 5
        await until(told, state("cancelled"))
        count = len(told)
        await asyncio.sleep(0.5)
        assert len(told) == count
        # Another is begun over one that has only just begun; a part that is not sound says why.
        await trials.shake(Plan(sets=0))
        opened.at = 4
        await trials.shake(Plan(tags=("base_depth",), sets=0, ranges={"base_depth": (5.0, 20.0)}))
        done = await until(told, state("done"))
        assert done["version"] == 4
        assert (await trials.kept()).version == 4
        await trials.stop()
        # It is kept with its version, for a server that comes after.
        assert list(opened.kept) == [4]
        later = await Trials(opened).tell_kept()  # type: ignore[arg-type]
        assert later is not None
        assert (later["version"], later["report"]["dimensions"]) == (4, done["report"]["dimensions"])
        told.append(later)
        await trials.moves(("base_depth",), PLAIN)
        moved = await until(told, lambda m: m["type"] == "moved" and m["report"]["state"] == "done")
        assert moved["report"]["dimensions"][0]["per"]["Base: volume"] == pytest.approx(1000, rel=1e-6)
        assert {s["figure"] for s in moved["stacks"]} == set(moved["report"]["figures"])
        await trials.aim("nothing", 3.0, ("base_depth",), ())
        refused = await until(told, lambda m: m["type"] == "aimed" and m["report"]["state"] == "refused")
        assert "no figure" in refused["report"]["trouble"]
        await trials.sample("Base: volume", 1, 10, ())
        drawn = await until(told, lambda m: m["type"] == "sampled" and m["report"]["state"] == "done")
        assert drawn["report"]["sets"] == 10
        await trials.family(("nobody",))
        refused = await until(told, lambda m: m["type"] == "family" and m["report"]["state"] == "refused")
        assert "There is no “nobody”" in refused["report"]["trouble"]
        await trials.stop()
        for message in told:
            to_browser.validate_python(message)

    run_async(go())


def test_ending_in_the_middle_is_no_fault(faults: list[logging.LogRecord]) -> None:
    async def go(wait: float) -> None:
        trials = Trials(Part())  # type: ignore[arg-type]
        await trials.shake(Plan(sets=500))
        await asyncio.sleep(wait)
        await trials.stop()
        assert not trials._task or trials._task.done()

    for wait in (0.0, 0.05, 0.4, 1.5):
        run_async(go(wait))
    assert faults == []


def test_other_values_are_tried_on_and_nothing_is_kept(talk: Talk) -> None:  # noqa: F811
    found = talk.ask("tried_on", type="try_on", values={"base_depth": "12 mm"})
    (body,) = found["bodies"]
    assert (found["judgement"], found["why"], found["other"]) == ("good", "", "")
    assert body["volumes"][1] == pytest.approx(body["volumes"][0] + 2000)
    for mesh in (body["now"], body["tried"]):
        assert all(d in talk.content for d in (*mesh["faces"], *mesh["edges"]))
    bad = talk.ask("tried_on", type="try_on", values={"base_depth": "-1 mm"})
    assert (bad["judgement"], bad["at"], bad["field"]) == ("refused", "Base", "depth")
    assert bad["bodies"][0]["now"]
    assert bad["bodies"][0]["tried"] is None
    compared = talk.ask("compared", type="compare", values={"base_depth": "12 mm"})
    assert compared["bodies"][0]["shares"][2] == pytest.approx(body["volumes"][1] - body["volumes"][0])
    assert "no tag" in talk.ask("compared", type="compare", values={"nothing": "1"})["message"]
    assert talk.ask("answer", type="ask", ask={"of": "mass"})["answer"]["bodies"][0]["volume"] == pytest.approx(body["volumes"][0])


def test_a_family_is_checked_and_written_as_one_zip(talk: Talk, client: TestClient, part: int) -> None:  # noqa: F811
    for name, depth in (("Thin/one", "5 mm"), ("Thick", "20 mm"), ("Wrong", "-3 mm")):
        assert talk.command(do="add_family_row", name=name, values={"base_depth": depth})["type"] == "done"
    assert talk.ask("done", type="family", rows=[])["type"] == "done"
    told = talk.hear("family")
    while told["report"]["state"] == "running":
        told = talk.hear("family")
    by = {m["name"]: m for m in told["report"]["members"]}
    assert [m["judgement"] for m in by.values()] == ["good", "good", "refused"]
    orders = {"orders": [{"format": "step"}, {"format": "stl"}], "family": ["Thin/one", "Thick", "Wrong"]}
    answer = client.post(f"/api/parts/{part}/write", json=orders)
    assert answer.content == client.post(f"/api/parts/{part}/write", json=orders).content
    with zipfile.ZipFile(io.BytesIO(answer.content)) as archive:
        assert archive.namelist() == ["Thin_one.step", "Thin_one.stl", "Thick.step", "Thick.stl", "members.csv"]
        table = list(csv.reader(io.StringIO(archive.read("members.csv").decode())))
    assert [(r[0], r[2]) for r in table[1:]] == [
        ("Thin/one", "Thin_one.step"), ("Thin/one", "Thin_one.stl"), ("Thick", "Thick.step"), ("Thick", "Thick.stl"), ("Wrong", ""), ("Wrong", "")]
    assert table[1][1] == "base_depth = 5 mm"
    assert "must be greater than zero" in table[-1][3]
    assert "There is no “Who”" in client.post(f"/api/parts/{part}/write", json={**orders, "family": ["Who"]}).json()["message"]
    text = client.get(f"/api/parts/{part}/family.csv").text
    assert text.splitlines()[0] == "name,base_depth"


def test_a_shakedown_is_there_again_when_it_is_asked_for(talk: Talk, client: TestClient, part: int) -> None:  # noqa: F811
    assert talk.ask("done", type="shake", tags=["base_depth"], sets=0, kept=True)["type"] == "done"
    told = talk.hear("shaken")
    while told["report"]["state"] == "running":
        told = talk.hear("shaken")
    again = talk.ask_for("shaken", type="shake", kept=True)
    assert again["report"] == told["report"]
    assert client.get(f"/api/parts/{part}/shakedown.html").status_code == 200
