"""Memory of the server and its workers over many edits, and over many parts that are opened and closed."""

from __future__ import annotations

import os
import tempfile
from pathlib import Path

from starlette.testclient import TestClient

from tests.api.test_service import ORIGIN, Talk
from tests.samples import plate
from wendal.api import create_app
from wendal.core.route import write_part
from wendal.store import Database, MariaServer, PartStore

__all__ = ["remembered"]


def _megabytes(pids: list[int]) -> list[float]:
    """Resident memory of processes, MB."""
    page = os.sysconf("SC_PAGE_SIZE")
    return [int(Path(f"/proc/{p}/statm").read_text().split()[1]) * page / 2**20 for p in pids]


def remembered(edits: int, opened: int) -> list[list[object]]:
    """Return rows (what was done, MB of server, of the geometry worker that grew most, of the pen that did) as it goes on."""
    rows: list[list[object]] = []
    with tempfile.TemporaryDirectory() as folder:
        server = MariaServer(Path(folder) / "maria")
        server.start()
        database = Database(server.url)
        database.upgrade()
        store = PartStore(database)
        with TestClient(create_app(store), base_url="http://127.0.0.1", headers=ORIGIN) as client:
            hubs = client.app.state.hubs  # type: ignore[attr-defined]

            def note(words: str) -> None:
                rows.append([words, *_megabytes([os.getpid()]), max(_megabytes(hubs.geometry.pids())), max(_megabytes(hubs.pen.pids()))])

            document = write_part(plate().part)
            part = client.post("/api/parts/read", json={"text": document}).json()["id"]
            with client.websocket_connect(f"/api/parts/{part}/session", headers=ORIGIN) as socket:
                talk = Talk(socket)
                talk.built()
                note("begun")
                for i in range(1, edits + 1):
                    talk.command(do="set_formula", tag="base_depth", formula=f"{10 + i / 100:.2f} mm")
                    if i % (edits // 5) == 0:
                        talk.built()
                        note(f"{i} edits")
            for i in range(1, opened + 1):
                other = client.post("/api/parts/read", json={"text": document}).json()["id"]
                with client.websocket_connect(f"/api/parts/{other}/session", headers=ORIGIN) as socket:
                    Talk(socket).built()
                if i % (opened // 4) == 0:
                    note(f"{i} parts opened and closed")
        database.close()
        server.stop()
    return rows
