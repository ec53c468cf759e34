"""A database that ends by itself: it is started again, edits wait for it, windows are told, nothing is done twice."""

from __future__ import annotations

import os
import signal
import threading
from collections.abc import Iterator
from pathlib import Path
from types import SimpleNamespace
from typing import Any

import pytest
from sqlalchemy.exc import OperationalError
from starlette.testclient import TestClient

from tests.api.test_service import ORIGIN, Talk
from tests.conftest import eventually
from tests.samples import block
from wendal.api import create_app
from wendal.core.route import read_part, write_part
from wendal.store import Database, MariaServer, PartStore, server
from wendal.store.parts import StoreDown

ADD = {"do": "add_tag", "tag": "span", "formula": "12 mm"}


@pytest.fixture
def maria(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Iterator[MariaServer]:
    monkeypatch.setattr(server, "PAUSES", (1.5,))
    found = MariaServer(tmp_path / "maria")
    found.start()
    found.watch()
    yield found
    found.stop()


@pytest.fixture
def own_store(maria: MariaServer) -> Iterator[PartStore]:
    database = Database(maria.url)
    database.upgrade()
    yield PartStore(database)
    database.close()


def test_edits_wait_for_a_database_that_was_killed_and_windows_are_told(maria: MariaServer, own_store: PartStore) -> None:
    with TestClient(create_app(own_store), base_url="http://127.0.0.1", headers=ORIGIN) as client:
        part = client.post("/api/parts/read", json={"text": write_part(block().part)}).json()["id"]
        with client.websocket_connect(f"/api/parts/{part}/session", headers=ORIGIN) as socket:
            talk = Talk(socket)
            talk.built()
            os.kill(maria.pid, signal.SIGKILL)
            while "being started again" not in talk.hear("store")["trouble"]:
                pass  # that it does not answer yet may be told before
            assert client.get("/api/health").status_code == 503
            assert talk.command(**ADD)["type"] == "done"  # it waited
            while talk.trouble:  # that all is well may have been told before or after
                talk.hear("store")
            assert client.get("/api/health").json()["database"] == "well"
            assert "span" in read_part(own_store.state(part).document).tags()


def test_without_a_database_calls_are_refused_in_words(maria: MariaServer, own_store: PartStore, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("wendal.store.transactions.PATIENCE", 0.3)
    with TestClient(create_app(own_store), base_url="http://127.0.0.1", headers=ORIGIN) as client:
        part = client.post("/api/parts/read", json={"text": write_part(block().part)}).json()["id"]
        maria.stop()
        refused = client.get("/api/parts")
        assert refused.status_code == 503
        assert refused.json()["message"].startswith("Not saved: the database is being started again")
        with pytest.raises(StoreDown):
            own_store.state(part)
        with client.websocket_connect(f"/api/parts/{part + 1}/session", headers=ORIGIN) as socket:
            while (raw := socket.receive())["type"] != "websocket.close":
                pass
        assert raw["code"] == 1013  # the window comes back by itself


def test_a_database_is_started_again_and_again(maria: MariaServer, own_store: PartStore) -> None:
    for _ in range(2):
        before = maria.pid
        os.kill(before, signal.SIGKILL)
        eventually(lambda before=before: maria.pid not in (0, before))  # type: ignore[misc]
        assert own_store.list() == []


@pytest.mark.parametrize("moment", ["before", "while it is kept"])
def test_an_edit_to_a_frozen_database_is_never_told_as_lost_when_it_is_kept(maria: MariaServer, moment: str, monkeypatch: pytest.MonkeyPatch) -> None:
    database = Database(maria.url, answers=1)
    database.upgrade()
    store = PartStore(database)
    with TestClient(create_app(store), base_url="http://127.0.0.1", headers=ORIGIN) as client:
        part = client.post("/api/parts/read", json={"text": write_part(block().part)}).json()["id"]
        with client.websocket_connect(f"/api/parts/{part}/session", headers=ORIGIN) as socket:
            talk = Talk(socket)
            talk.built()
            before = store.state(part).edition
            thaw = threading.Timer(4.0, os.kill, (maria.pid, signal.SIGCONT))
            if moment == "before":
                os.kill(maria.pid, signal.SIGSTOP)
            else:
                touch = PartStore._touch

                def frozen(row: Any, name: str) -> None:
                    touch(row, name)
                    monkeypatch.setattr(PartStore, "_touch", staticmethod(touch))
                    os.kill(maria.pid, signal.SIGSTOP)

                monkeypatch.setattr(PartStore, "_touch", staticmethod(frozen))
            thaw.start()
            if moment == "before":  # told long before an answer is given up
                assert "does not answer yet" in talk.hear("store")["trouble"]
            answer = talk.ask("done", type="command", edition=talk.edition, command=ADD, key="k-frozen")
            thaw.join()
            kept = "span" in read_part(store.state(part).document).tags()
            assert (answer["type"] == "done") == kept
            assert store.state(part).edition == before + kept
            # Sent once more, it is made, or known.
            if answer["type"] == "done":
                again = talk.ask("done", type="command", edition=before, command=ADD, key="k-frozen")
                assert again["type"] == "done"
                assert store.state(part).edition == before + 1
    database.close()


def test_a_database_error_is_told_by_its_number_and_a_full_disk_as_one(maria: MariaServer, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    database = Database(maria.url, tmp_path)
    store = PartStore(database)

    def told(number: int) -> str:
        return store._in_words(OperationalError("INSERT", {}, Exception(number, "said"))).message

    assert "in each other's way" in told(1213)
    assert "larger than the database takes" in told(1153)
    assert "being started again" in told(2013)
    assert "disk is full" in told(1021)
    assert str(tmp_path) in told(1021)
    monkeypatch.setattr("shutil.disk_usage", lambda folder: SimpleNamespace(free=1000))
    assert "disk is full" in told(2013)  # whatever it says itself
    database.close()


def test_an_edit_that_is_sent_again_is_recognised(maria: MariaServer, own_store: PartStore) -> None:
    with TestClient(create_app(own_store), base_url="http://127.0.0.1", headers=ORIGIN) as client:
        part = client.post("/api/parts/read", json={"text": write_part(block().part)}).json()["id"]
        with client.websocket_connect(f"/api/parts/{part}/session", headers=ORIGIN) as socket:
            talk = Talk(socket)
            talk.built()
            first = talk.edition
            assert talk.ask("done", type="command", edition=first, command=ADD, key="k-1")["type"] == "done"
            assert talk.ask("done", type="undo", edition=first + 1, key="k-2")["type"] == "done"
            assert talk.ask("done", type="undo", edition=first + 1, key="k-2")["type"] == "done"
            assert own_store.state(part).edition == first + 2
    with TestClient(create_app(own_store), base_url="http://127.0.0.1", headers=ORIGIN) as client, \
            client.websocket_connect(f"/api/parts/{part}/session", headers=ORIGIN) as socket:
        talk = Talk(socket)  # a server that knows nothing of it
        talk.built()
        edition = talk.edition
        assert talk.ask("done", type="command", edition=edition, command={**ADD, "tag": "rise"}, key="k-3")["type"] == "done"
    with TestClient(create_app(own_store), base_url="http://127.0.0.1", headers=ORIGIN) as client, \
            client.websocket_connect(f"/api/parts/{part}/session", headers=ORIGIN) as socket:
        talk = Talk(socket)
        talk.built()
        assert talk.ask("done", type="command", edition=edition, command={**ADD, "tag": "rise"}, key="k-3")["edition"] == edition + 1
        assert own_store.state(part).edition == edition + 1
        assert talk.ask("done", type="command", edition=edition, command={**ADD, "tag": "run"}, key="k-4")["code"] == "stale"


def test_undo_and_redo_follow_the_line_that_was_gone_and_long_documents_are_kept_small(own_store: PartStore) -> None:
    def document(name: str, notes: str = "") -> str:
        part = block().part.model_copy(update={"name": name, "remarks": {}})
        return write_part(part).replace('"name": "' + name + '"', '"name": "' + name + '"' + notes)

    part = own_store.create("a", document("a"), "Begin").id
    for i, name in enumerate("bcdef", 1):
        own_store.commit(part, i, name, document(name, " " * 100_000 if name == "d" else ""), name, "")
    for i in range(6, 10):
        own_store.undo(part, i)
    state = own_store.state(part)
    assert (state.undo, state.redo) == ("b", "c")
    for i, name in zip((10, 11), "cd", strict=True):
        assert own_store.redo(part, i).undo == name
    assert own_store.state(part).document == document("d", " " * 100_000)
    own_store.commit(part, 12, "x", document("x"), "x", "")
    assert own_store.state(part).redo == ""
    own_store.undo(part, 13)
    assert own_store.state(part).redo == "x"
