"""Results outlive their process: a new geometry worker, and a new server, show a part without building it."""

from __future__ import annotations

import os
import signal
from pathlib import Path

import pytest
from starlette.testclient import TestClient

from tests.api.test_service import ORIGIN, Talk
from tests.conftest import eventually
from tests.samples import block
from wendal.api import create_app
from wendal.core.route import write_part
from wendal.store import PartStore


def first_look(client: TestClient, part: int) -> tuple[list[str], dict[str, object], Talk]:
    """Open a part; return what it says until its results are there, the results, and the content that came."""
    with client.websocket_connect(f"/api/parts/{part}/session", headers=ORIGIN) as socket:
        talk, said = Talk(socket), list[str]()
        while True:
            found = talk.hear("part", "building", "results")
            said.append(found["type"])
            if found["type"] == "results":
                return said, found, talk


def test_a_part_is_shown_by_the_next_process_without_building_it(store: PartStore, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("wendal.api.picture.RESTED", 0.05)
    part = store.create("Sample", write_part(block().part), "Made").id
    file = tmp_path / "results" / f"{part}.results"

    def server() -> TestClient:
        return TestClient(create_app(store, tmp_path / "results"), base_url="http://127.0.0.1", headers=ORIGIN)

    with server() as client:
        said, shown, talk = first_look(client, part)
        assert "building" in said
        eventually(file.exists)
        for pid in client.app.state.hubs.geometry.pids():  # type: ignore[attr-defined]
            os.kill(pid, signal.SIGKILL)
        assert "building" not in first_look(client, part)[0]
    with server() as client:
        said, again, later = first_look(client, part)
        assert "building" not in said
        assert (again["scene"], again["ledger"]) == (shown["scene"], shown["ledger"])
        assert later.content == talk.content
    file.write_bytes(file.read_bytes()[:-1])
    with server() as client:
        said, again, _ = first_look(client, part)
        assert "building" in said
        assert again["scene"] == shown["scene"]
        eventually(lambda: file.exists())
        assert client.delete(f"/api/parts/{part}").status_code == 204
        eventually(lambda: not file.exists())
