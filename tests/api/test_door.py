"""The key of the door: without it nobody is let in, by no route and no socket."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import pytest
from starlette.testclient import TestClient
from starlette.websockets import WebSocketDisconnect

from tests.samples import block
from wendal.api import create_app
from wendal.cli import _token
from wendal.core.route import write_part
from wendal.store import PartStore

HOME = {"accept": "text/html,*/*"}


@pytest.fixture
def locked(store: PartStore) -> Iterator[TestClient]:
    with TestClient(create_app(store, token="a-key"), base_url="http://127.0.0.1:8731", headers={"origin": "http://127.0.0.1:8731"}) as found:
        yield found


@pytest.mark.parametrize("path", ["/", "/api/parts", "/api/health", "/api/about", "/api/schema/part", "/index.html", "/?token=", "/?token=another", "/nothing"])
def test_without_the_key_every_route_answers_with_what_to_do(locked: TestClient, path: str) -> None:
    answer = locked.get(path)
    assert answer.status_code == 401
    assert "start command has printed" in answer.json()["message"]
    assert "start command has printed" in locked.get(path, headers=HOME).text
    assert "set-cookie" not in answer.headers


def test_the_key_comes_once_in_the_address_and_is_a_cookie_that_no_script_can_read(locked: TestClient, store: PartStore) -> None:
    part = store.create("Sample", write_part(block().part), "Made").id
    assert locked.post("/api/parts", json={"name": "x"}).status_code == 401
    socket_of = {"host": "127.0.0.1:8731", "origin": "http://127.0.0.1:8731"}
    for cookie in ("", "wendal-8731=another", "wendal-80=a-key"):
        with pytest.raises(WebSocketDisconnect) as closed, locked.websocket_connect(f"/api/parts/{part}/session", headers={**socket_of, "cookie": cookie}):
            pass
        assert closed.value.code == 1008
    answer = locked.get("/?token=a-key", follow_redirects=False)
    assert (answer.status_code, answer.headers["location"]) == (303, "/")
    cookie = answer.headers["set-cookie"].lower()
    assert cookie.startswith("wendal-8731=a-key")
    assert "httponly" in cookie
    assert "samesite=strict" in cookie
    assert locked.get("/api/parts").status_code == 200
    with locked.websocket_connect(f"/api/parts/{part}/session", headers={**socket_of, "cookie": "wendal-8731=a-key"}) as socket:
        assert socket.receive()["type"] == "websocket.send"
    locked.cookies.clear()
    locked.cookies.set("wendal-8731", "forged")
    assert locked.get("/api/parts").status_code == 401


def test_a_key_in_the_address_opens_nothing_but_a_page(locked: TestClient) -> None:
    assert locked.post("/api/parts?token=a-key", json={"name": "x"}).status_code == 401


def test_the_host_is_still_compared(locked: TestClient) -> None:
    assert locked.get("/?token=a-key", headers={"host": "wendal.example"}).status_code == 403


def test_the_key_is_kept_with_the_data_for_its_owner_alone(tmp_path: Path) -> None:
    first = _token(tmp_path / "token")
    assert len(first) >= 32
    assert (tmp_path / "token").stat().st_mode & 0o777 == 0o600
    assert _token(tmp_path / "token") == first
