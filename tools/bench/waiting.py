"""Nobody waits for another's trouble, at full size: how long an unrelated part waits while another is heavy, closed, deleted or cancelled,
and while the database stands still; how long a cancel takes, at random moments, also in line; memory with a stopped step in the part."""

from __future__ import annotations

import itertools
import os
import random
import signal
import tempfile
import threading
import time
from collections import Counter
from collections.abc import Callable
from pathlib import Path
from typing import Any

import numpy as np
from starlette.testclient import TestClient

from tests.api.test_chaos import trial
from tests.api.test_service import ORIGIN, Talk
from tests.building import axis, f, of_step
from tests.samples import plate
from tools.bench.leaks import _server
from wendal.core.route import Part, write_part
from wendal.demo.builder import Builder
from wendal.store import Database, MariaServer, PartStore

__all__ = ["cancelled", "frozen", "killed", "stopped", "unrelated"]

TITLE = ("times", "median", "p95", "p99", "most")


_numbers = itertools.count()


def heavy() -> Part:
    """A part whose last step takes a minute; none is like another, so that no worker remembers it."""
    b = plate()
    near = f"{0.7 - 1e-5 * next(_numbers):.5f} mm"
    hole = b.step("hole", "Tiny", where="coordinates", x=f("1 mm"), y=f("1 mm"), diameter=f("0.3 mm"), side="back")
    b.step("pattern", "Many", seeds=[of_step(hole)], manner="grid", along=axis("X"), along_two=axis("Y"), count=f("55"), spacing=f(near),
           count_two=f("30"), spacing_two=f("0.7 mm"))
    return b.part


def figures(seconds: list[float]) -> list[float]:
    """Number, and in ms the median, p95, p99 and the most."""
    ms = 1000 * np.array(seconds)
    return [len(ms), *(float(np.percentile(ms, q)) for q in (50, 95, 99)), float(ms.max())]


def read(client: TestClient, part: Part) -> int:
    """Store a part; return its number."""
    return int(client.post("/api/parts/read", json={"text": write_part(part)}).json()["id"])


def window(client: TestClient, part: int) -> Any:
    """A window on a part, to be entered."""
    return client.websocket_connect(f"/api/parts/{part}/session", headers=ORIGIN)


def edits(talk: Talk, until: Callable[[], bool], rng: random.Random) -> list[float]:
    """Change the plate's depth as long as is wanted; return the seconds from the edit to its picture."""
    seconds = []
    while not until():
        began = time.perf_counter()
        answer = talk.command(do="set_formula", tag="base_depth", formula=f"{rng.uniform(5, 30):.3f} mm")
        assert answer["type"] == "done", answer
        talk.built()
        seconds.append(time.perf_counter() - began)
        time.sleep(rng.uniform(0, 0.1))
    return seconds


def unrelated(seconds: float, seed: int = 1) -> list[list[object]]:
    """Return rows of what others do beside, and how long the unrelated part waits from its edit to its picture, ms."""
    rng, rows = random.Random(seed), list[list[object]]()
    with _server(shelf=True) as (client, _):
        light = read(client, plate().part)
        with window(client, light) as socket:
            talk = Talk(socket)
            talk.built()
            for what in ("nothing", "heavy", "closed", "deleted", "cancelled"):
                ended = threading.Event()
                beside = threading.Thread(target=_beside, args=(client, what, ended, random.Random(f"{seed}{what}")))
                beside.start()
                until = time.monotonic() + seconds
                rows.append([what, *figures(edits(talk, lambda until=until: time.monotonic() > until, rng))])
                ended.set()
                beside.join()
    return rows


def _beside(client: TestClient, what: str, ended: threading.Event, rng: random.Random) -> None:
    """Open heavy parts, one or two at a time, and leave them as is said, until it is over."""
    while what != "nothing" and not ended.is_set():
        numbers = [read(client, heavy()) for _ in range(rng.choice([1, 2]))]
        windows = [window(client, n) for n in numbers]
        sockets = [w.__enter__() for w in windows]
        ended.wait(rng.uniform(0.2, 4.0) if what != "heavy" else 20.0)
        if what == "cancelled":
            for s in sockets:
                s.send_json({"type": "cancel"})
            ended.wait(0.5)
        if what == "deleted":
            for n in numbers:
                client.delete(f"/api/parts/{n}?for_good=true")
        for w in windows:
            w.__exit__(None, None, None)


def cancelled(times: int, seed: int = 1) -> list[list[object]]:
    """Cancel a heavy part at random moments, alone and in line behind two others; return rows of how long it took, ms."""
    rows: list[list[object]] = []
    with _server(shelf=False) as (client, _):
        for what, others in (("alone", 0), ("in line behind two", 2)):
            rng, taken, shown = random.Random(f"{seed}{what}"), list[float](), list[float]()
            beside = [window(client, read(client, heavy())) for _ in range(others)]
            for w in beside:
                w.__enter__()
            for _ in range(times // 2):
                number = read(client, heavy())
                with window(client, number) as socket:
                    talk = Talk(socket)
                    talk.hear("part")
                    time.sleep(rng.uniform(0.0, 3.0))
                    began = time.perf_counter()
                    socket.send_json({"type": "cancel"})
                    told = talk.hear("cancelled", "results")
                    taken.append(time.perf_counter() - began)
                    while told["type"] != "results" or not any("cancelled" in r["message"] for r in told["reports"]):
                        told = talk.hear("results")
                    shown.append(time.perf_counter() - began)
                client.delete(f"/api/parts/{number}?for_good=true")
            for w in beside:
                w.__exit__(None, None, None)
            rows += [[f"{what}, told", *figures(taken)], [f"{what}, shown", *figures(shown)]]
    return rows


def frozen(times: int, longest: float, seed: int = 1) -> list[list[object]]:
    """Stop the database for a while in the middle of edits; return rows: what was told, how often, the longest until it was, s, and how
    many edits are not in the part as they were told."""
    rng, told, longest_told, wrong = random.Random(seed), Counter[str](), dict[str, float](), 0
    with _server(shelf=False) as (client, _):
        pid = client.app.state.maria.pid  # type: ignore[attr-defined]
        number = read(client, plate().part)
        with window(client, number) as socket:
            talk = Talk(socket)
            talk.built()
            for n in range(times):
                os.kill(pid, signal.SIGSTOP)
                threading.Timer(rng.uniform(1.0, longest), os.kill, (pid, signal.SIGCONT)).start()
                began, tag = time.perf_counter(), f"held_{n}"
                answer = talk.command(do="add_tag", tag=tag, formula="12 mm")
                kind = answer["type"] if answer["type"] == "done" else answer.get("code", "refused")
                told[kind] += 1
                longest_told[kind] = max(longest_told.get(kind, 0.0), time.perf_counter() - began)
                time.sleep(longest / 4)
                while True:
                    held = client.get(f"/api/parts/{number}/file.json")
                    if held.status_code == 200:
                        break
                    time.sleep(0.5)
                there = any(row["tag"] == tag for row in held.json()["ledger"])
                wrong += (kind == "done") != there and kind != "unknown"
    return [[k, told[k], longest_told[k], wrong] for k in told]


def killed(edit_count: int, seed: int = 1) -> list[list[object]]:
    """Let eight windows edit three parts, so many edits each, while processes are killed and the database is frozen for 5 to 60 s; raises
    AssertionError where an acknowledged edit is lost or mixed up."""
    rng = random.Random(seed)
    harms = iter(lambda: rng.choices(["pen", "geometry", "file", "database", "freeze"], [4, 4, 4, 2, 0.3])[0], "")
    with tempfile.TemporaryDirectory() as folder:
        maria = MariaServer(Path(folder) / "maria")
        maria.start()
        maria.watch()
        database = Database(maria.url)
        database.upgrade()
        try:
            kept, done = trial(maria, PartStore(database), seed, edit_count, harms)
        finally:
            database.close()
            maria.stop()
    return [[kept, done, 0, 0]]


def stopped(edit_count: int, opened: int) -> list[list[object]]:
    """Return rows of memory, MB, while a part with a stopped step is edited and opened."""
    b: Builder = plate()
    b.step("hole", "Beside", where="coordinates", x=f("500 mm"), y=f("1 mm"), diameter=f("3 mm"))
    rows: list[list[object]] = []
    with _server(shelf=False) as (client, sizes):
        number = read(client, b.part)
        with window(client, number) as socket:
            talk = Talk(socket)
            reports = talk.built()["reports"]
            assert [r["state"] for r in reports][-1] == "stopped", reports
            rows.append(["begun", *sizes()])
            for i in range(1, edit_count + 1):
                talk.command(do="set_formula", tag="base_depth", formula=f"{10 + i / 100:.2f} mm")
                if i % (edit_count // 5) == 0:
                    talk.built()
                    rows.append([f"{i} edits", *sizes()])
        for i in range(1, opened + 1):
            with window(client, number) as socket:
                Talk(socket).built()
            if i % (opened // 3) == 0:
                rows.append([f"{i} times opened", *sizes()])
    return rows
