"""Memory of the server and its workers over many edits, over many parts that are opened and closed, and over an hour of everything."""

from __future__ import annotations

import os
import random
import tempfile
import time
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

from starlette.testclient import TestClient

from tests.api.test_service import ORIGIN, Talk
from tests.samples import plate
from wendal.api import create_app
from wendal.core.route import Part, write_part
from wendal.core.tally import shares
from wendal.store import Database, MariaServer, PartStore

__all__ = ["remembered", "soaked"]


def _megabytes(pids: list[int]) -> list[float]:
    """Resident memory of processes, MB."""
    page = os.sysconf("SC_PAGE_SIZE")
    return [int(Path(f"/proc/{p}/statm").read_text().split()[1]) * page / 2**20 for p in pids]


@contextmanager
def _server(shelf: bool) -> Iterator[tuple[TestClient, Any]]:
    """A server of its own; yields a client and a function that returns the MB of server, fullest geometry worker, fullest pen and shelf."""
    with tempfile.TemporaryDirectory() as folder:
        server = MariaServer(Path(folder) / "maria")
        server.start()
        database = Database(server.url)
        database.upgrade()
        results = Path(folder) / "results"
        with TestClient(create_app(PartStore(database), results if shelf else None), base_url="http://127.0.0.1", headers=ORIGIN) as client:
            hubs = client.app.state.hubs  # type: ignore[attr-defined]
            client.app.state.maria = server  # type: ignore[attr-defined] # for trials that stop it

            def sizes() -> list[float]:
                kept = sum(f.stat().st_size for f in results.glob("*")) / 2**20
                return [*_megabytes([os.getpid()]), max(_megabytes(hubs.geometry.pids())), max(_megabytes(hubs.pen.pids())), *([kept] if shelf else [])]

            yield client, sizes
        database.close()
        server.stop()


def soaked(minutes: float, parts: list[Part], seed: int = 1) -> tuple[list[list[object]], list[list[object]]]:
    """Edit, preview, undo, look and foresee at random in some parts, one after the other; return ten rows (what was done so far, MB),
    and what fell back to a slower way in the geometry workers that still run (what, why, count, share in percent)."""
    rng, rows = random.Random(seed), list[list[object]]()
    with _server(shelf=True) as (client, sizes):
        numbers = [client.post("/api/parts/read", json={"text": write_part(p)}).json()["id"] for p in parts]
        began, done, refused = time.monotonic(), 0, 0
        while len(rows) < 10:
            with client.websocket_connect(f"/api/parts/{rng.choice(numbers)}/session", headers=ORIGIN) as socket:
                talk = Talk(socket)
                document = talk.hear("part")["document"]
                talk.built()
                values = [(s["id"], name) for s in document["steps"] for name, v in s.items() if isinstance(v, dict) and v.keys() == {"formula", "tag"} and v["tag"]]
                for _ in range(rng.randint(5, 40)):
                    step, name = rng.choice(values)
                    found = next((s for s in document["steps"] if s["id"] == step), None)
                    tag = found[name]["tag"] if found else ""
                    what = rng.choice(["set", "set", "set", "undo", "redo", "look", "foresee"])
                    command = {"do": "set_formula", "tag": tag, "formula": f"{rng.uniform(3, 30):.2f} mm"}
                    if what == "set":
                        refused += talk.command(**command)["type"] == "refused"
                    elif what == "foresee":
                        talk.ask("foreseen", type="foresee", command=command)
                    elif what == "look":
                        socket.send_json({"type": "look", "at": rng.choice([None, step])})
                        talk.hear("results")
                    else:
                        talk.ask("done", type=what, edition=talk.edition, key=f"{done}")
                    done += 1
                if rng.random() < 0.3:
                    time.sleep(2.5)  # long enough for the part to be looked over and kept
            if time.monotonic() - began > 60 * minutes * len(rows) / 9:
                rows.append([f"{(time.monotonic() - began) / 60:.0f} min, {done} requests, {refused} refused", *sizes()])
        fallbacks = shares(client.get("/api/health?tallies=true").json()["tallies"])
    return rows, fallbacks


def remembered(edits: int, opened: int) -> list[list[object]]:
    """Return rows (what was done, MB of server, of the geometry worker that grew most, of the pen that did) as it goes on."""
    rows: list[list[object]] = []
    with _server(shelf=False) as (client, sizes):
        document = write_part(plate().part)
        part = client.post("/api/parts/read", json={"text": document}).json()["id"]
        with client.websocket_connect(f"/api/parts/{part}/session", headers=ORIGIN) as socket:
            talk = Talk(socket)
            talk.built()
            rows.append(["begun", *sizes()])
            for i in range(1, edits + 1):
                talk.command(do="set_formula", tag="base_depth", formula=f"{10 + i / 100:.2f} mm")
                if i % (edits // 5) == 0:
                    talk.built()
                    rows.append([f"{i} edits", *sizes()])
        for i in range(1, opened + 1):
            other = client.post("/api/parts/read", json={"text": document}).json()["id"]
            with client.websocket_connect(f"/api/parts/{other}/session", headers=ORIGIN) as socket:
                Talk(socket).built()
            if i % (opened // 4) == 0:
                rows.append([f"{i} parts opened and closed", *sizes()])
    return rows
