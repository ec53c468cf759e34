"""The key of the door: without it nobody is let in, by no route and no socket."""

from __future__ import annotations

import asyncio
import socket
import threading
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest
import uvicorn
from starlette.testclient import TestClient
from starlette.websockets import WebSocketDisconnect

from tests.conftest import eventually, run_async
from tests.samples import block
from wendal.api import create_app
from wendal.api.timely import Timely
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
        with pytest.raises(WebSocketDisconnect) as closed, locked.websocket_connect(f"ws://127.0.0.1:8731/api/parts/{part}/session", headers={**socket_of, "cookie": cookie}):
            pass
        assert closed.value.code == 1008
    answer = locked.get("/?token=a-key", follow_redirects=False)
    assert (answer.status_code, answer.headers["location"]) == (303, "/")
    cookie = answer.headers["set-cookie"].lower()
    assert cookie.startswith("wendal-8731=a-key")
    assert "httponly" in cookie
    assert "samesite=strict" in cookie
    assert locked.get("/api/parts").status_code == 200
    with locked.websocket_connect(f"ws://127.0.0.1:8731/api/parts/{part}/session", headers={**socket_of, "cookie": "wendal-8731=a-key"}) as socket:
        assert socket.receive()["type"] == "websocket.send"
    locked.cookies.clear()
    locked.cookies.set("wendal-8731", "forged")
    assert locked.get("/api/parts").status_code == 401


def test_a_key_in_the_address_opens_nothing_but_a_page(locked: TestClient) -> None:
    assert locked.post("/api/parts?token=a-key", json={"name": "x"}).status_code == 401


@pytest.mark.parametrize("host", ["wendal.example", "127.0.0.1:8732", "127.0.0.1", "localhost.:8731", "127.0.0.1:8731.example", "x@127.0.0.1:8731", "[::1", "127.0.0.1:08731", ""])
def test_the_host_is_compared_whole(locked: TestClient, host: str) -> None:
    assert locked.get("/?token=a-key", headers={"host": host}).status_code == 403


@pytest.mark.parametrize("host", ["127.0.0.1:8731", "localhost:8731", "LOCALHOST:8731", "[::1]:8731"])
def test_each_name_of_this_machine_is_let_in(locked: TestClient, host: str) -> None:
    assert locked.get("/?token=a-key", headers={"host": host}, follow_redirects=False).status_code == 303


def test_half_sent_requests_are_closed(monkeypatch: pytest.MonkeyPatch) -> None:
    """Headers that do not end, and connections that say nothing, are closed; a request that takes its time to be answered is not."""
    monkeypatch.setattr("wendal.api.timely.HEADER_SECONDS", 0.5)

    async def slow(scope: Any, receive: Any, send: Any) -> None:
        await asyncio.sleep(1.2)
        await send({"type": "http.response.start", "status": 204, "headers": []})
        await send({"type": "http.response.body", "body": b""})

    server = uvicorn.Server(uvicorn.Config(slow, http=Timely, lifespan="off", log_level="error"))
    listener = socket.socket()
    listener.bind(("127.0.0.1", 0))
    thread = threading.Thread(target=server.run, kwargs={"sockets": [listener]})
    thread.start()
    eventually(lambda: server.started)
    try:
        for words in (b"", b"GET / HTTP/1.1\r\nHost: 127", b"GET / HTTP/1.1\r\nHost: x\r\n"):
            with socket.create_connection(listener.getsockname(), timeout=30) as half:
                half.sendall(words)
                assert half.recv(100) == b""  # closed from there
        with socket.create_connection(listener.getsockname(), timeout=30) as whole:
            whole.sendall(b"GET / HTTP/1.1\r\nHost: x\r\n\r\n")
            assert whole.recv(100).startswith(b"HTTP/1.1 204")
    finally:
        server.should_exit = True
        thread.join()
        listener.close()


def test_a_body_that_does_not_come_is_told(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("wendal.api.doors.BODY_SECONDS", 0.05)
    never = asyncio.Event()
    sent: list[dict[str, Any]] = []

    async def receive() -> dict[str, Any]:
        await never.wait()
        return {}

    async def send(message: dict[str, Any]) -> None:
        sent.append(message)

    async def work() -> None:
        scope = {"type": "http", "method": "POST", "path": "/api/parts", "query_string": b"", "server": ("127.0.0.1", 80), "scheme": "http",
                 "headers": [(b"host", b"127.0.0.1"), (b"origin", b"http://127.0.0.1"), (b"content-length", b"30"), (b"content-type", b"application/json")]}
        await create_app()(scope, receive, send)

    run_async(work())
    assert sent[0]["status"] == 408
    assert b"did not come whole" in sent[1]["body"]


def test_the_key_is_kept_with_the_data_for_its_owner_alone(tmp_path: Path) -> None:
    first = _token(tmp_path / "token")
    assert len(first) >= 32
    assert (tmp_path / "token").stat().st_mode & 0o777 == 0o600
    assert _token(tmp_path / "token") == first
