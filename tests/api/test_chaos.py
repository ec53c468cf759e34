"""Eight windows on three parts, and everything under them killed now and then: no acknowledged edit is lost, no part gets another's content."""

from __future__ import annotations

import json
import os
import random
import signal
import threading
import time
from collections.abc import Iterator
from contextlib import suppress
from typing import Any

import pytest
from sqlalchemy import select
from starlette.testclient import TestClient
from starlette.websockets import WebSocketDisconnect

from tests.api.test_database import maria, own_store  # noqa: F401 - fixtures
from tests.api.test_service import ORIGIN, Talk
from tests.samples import block
from wendal.api import create_app
from wendal.core.route import read_part, write_part
from wendal.store import MariaServer, PartStore
from wendal.store.models import RevisionTable
from wendal.store.packing import unpacked

WINDOWS, EDITS = 8, 6
LONGEST = 240.0  # s that an edit is tried: a database may be frozen for a minute, and again
HOSTILE = ['{"type": "offers", "id": 1, "picks": [' + "[]," * 9000 + '[]], "kinds": []}', "[" * 4000, "{}", '{"type": "look", "at": 7}', "\x00"]


def lettered(number: int) -> str:
    """A number as letters: tags end in no figures."""
    return "".join("abcdefghij"[int(c)] for c in str(number))


class Designer(threading.Thread):
    """One window that edits, undoes, goes and comes back, and now and then says something hostile."""

    def __init__(self, client: TestClient, part: int, number: int, edits: int) -> None:
        super().__init__(daemon=True)
        self.client, self.part, self.number, self.edits = client, part, number, edits
        self.kept: list[str] = []
        self.trouble: BaseException | None = None

    def run(self) -> None:
        rng = random.Random(self.number)
        try:
            done = 0
            while done < self.edits:
                with suppress(WebSocketDisconnect), self.client.websocket_connect(f"/api/parts/{self.part}/session", headers=ORIGIN) as socket:
                    talk = Talk(socket)
                    talk.last = 1_000_000 * self.number + 1000 * done
                    talk.hear("part")
                    for _ in range(rng.randint(1, 5)):
                        self._once(talk, rng, done)
                        done += 1
        except BaseException as error:
            self.trouble = error

    def _once(self, talk: Talk, rng: random.Random, done: int) -> None:
        if rng.random() < 0.25:
            talk.socket.send_text(rng.choice(HOSTILE))
        if rng.random() < 0.2:
            talk.ask("done", type="undo", edition=talk.edition, key=f"u{self.number}_{done}")
            return
        tag = f"part_{'abcdefgh'[self.part % 8]}_{'abcdefgh'[self.number]}_{lettered(done)}"
        until, attempt = time.monotonic() + LONGEST, 0
        while time.monotonic() < until:  # another window was quicker, or something is being started again, or stands still
            attempt += 1
            found = talk.ask("done", type="command", edition=talk.edition, key=f"k{tag}{attempt}", command={"do": "add_tag", "tag": tag, "formula": "1 mm"})
            if found["type"] == "done":
                self.kept.append(tag)
                return
            time.sleep(0.05 + 0.1 * rng.random())
        raise AssertionError(f"{tag} was refused to the end: {found['message']}")


def trial(maria: MariaServer, store: PartStore, seed: int, edits: int, harms: Iterator[str]) -> tuple[int, int]:  # noqa: F811
    """Let eight windows edit three parts while harm is done to what is under them; return how many edits were acknowledged, and how many
    harms were done. Raises AssertionError where one is lost, or stands in another part."""
    with TestClient(create_app(store), base_url="http://127.0.0.1", headers=ORIGIN) as client:
        parts = [int(client.post("/api/parts/read", json={"text": write_part(block().part)}).json()["id"]) for _ in range(3)]
        designers = [Designer(client, parts[i % 3], i, edits) for i in range(WINDOWS)]
        for d in designers:
            d.start()
        rng, done = random.Random(seed), 0
        hubs = client.app.state.hubs  # type: ignore[attr-defined]
        for what in harms:
            time.sleep(0.4 + rng.random() * 0.6)
            if not any(d.is_alive() for d in designers):
                break
            _harm(what, client, hubs, maria, rng)
            done += 1
        for d in designers:
            d.join(2 * LONGEST + edits)
            assert not d.is_alive()
            assert d.trouble is None, d.trouble
        for part in parts:
            kept = {t for d in designers if d.part == part for t in d.kept}
            assert kept <= _ever(store, part)
            assert all(t.startswith(f"part_{'abcdefgh'[part % 8]}_") for t in _ever(store, part) if t.startswith("part_"))
            seen = []
            for _ in range(2):
                with client.websocket_connect(f"/api/parts/{part}/session", headers=ORIGIN) as socket:
                    seen.append(Talk(socket).hear("part")["document"])
            assert seen[0] == seen[1] == json.loads(store.state(part).document)
        return sum(len(d.kept) for d in designers), done


@pytest.mark.parametrize("seed", [1])
def test_nothing_acknowledged_is_lost_and_nothing_is_mixed(maria: MariaServer, own_store: PartStore, seed: int) -> None:  # noqa: F811
    trial(maria, own_store, seed, EDITS, iter(["pen", "database", "geometry", "file", "pen", "geometry", "database"]))


def _harm(what: str, client: TestClient, hubs: Any, maria: MariaServer, rng: random.Random) -> None:  # noqa: F811
    if what == "file":
        assert client.post("/api/parts/read", json={"text": "[" * 50_000}).status_code == 422
        return
    if what == "freeze":
        pid = maria.pid
        os.kill(pid, signal.SIGSTOP)
        time.sleep(rng.uniform(5, 60))
        with suppress(ProcessLookupError):
            os.kill(pid, signal.SIGCONT)
        return
    pids = [maria.pid] if what == "database" else getattr(hubs, what).pids()
    if pids and all(pids):
        with suppress(ProcessLookupError):
            os.kill(rng.choice(pids), signal.SIGKILL)


def _ever(store: PartStore, part: int) -> set[str]:
    """All tags that any revision of a part has had."""
    with store._transaction() as session:
        documents = session.scalars(select(RevisionTable.document).where(RevisionTable.part_id == part)).all()
    return {t for d in documents for t in read_part(unpacked(d)).tags()}
