"""The web service: doors, parts, files, the socket, and a worker that is killed."""

from __future__ import annotations

import json
import os
import re
import signal
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from typing import Any

import pytest
from starlette.testclient import TestClient, WebSocketTestSession
from starlette.websockets import WebSocketDisconnect

from tests.samples import XY, block
from tools.bench.explaining import free_sketch
from wendal.api import create_app
from wendal.api.builds import Builds
from wendal.api.edits import _must_build
from wendal.cli import main
from wendal.core.route import write_part
from wendal.demo.builder import Builder
from wendal.store import PartStore

ORIGIN = {"origin": "http://127.0.0.1", "host": "127.0.0.1"}


@pytest.fixture
def client(store: PartStore) -> Iterator[TestClient]:
    with TestClient(create_app(store), base_url="http://127.0.0.1", headers=ORIGIN) as found:
        yield found


@pytest.fixture
def part(client: TestClient) -> int:
    made = client.post("/api/parts/read", json={"text": write_part(block().part)})
    assert made.status_code == 201
    return int(made.json()["id"])


class Talk:
    """One window on a part."""

    def __init__(self, socket: WebSocketTestSession) -> None:
        self.socket, self.last, self.edition = socket, 0, 0
        self.trouble = ""  # with the database, as it was told last
        self.content: dict[str, bytes] = {}

    def hear(self, *types: str) -> dict[str, Any]:
        """Return the next message of one of the types."""
        while True:
            raw = self.socket.receive()
            if raw["type"] == "websocket.close":
                raise WebSocketDisconnect(raw["code"])
            if raw.get("bytes"):
                size = raw["bytes"][0]
                self.content[raw["bytes"][1 : 1 + size].decode()] = raw["bytes"][1 + size :]
                continue
            message = json.loads(raw["text"])
            if message["type"] == "store":
                self.trouble = message["trouble"]
            if message["type"] == "part":
                self.edition = message["edition"]
                message["document"]["steps"] = [json.loads(self.content[d]) for d in message["steps"]]
            if message["type"] in types:
                return message

    def ask(self, answer: str, **message: Any) -> dict[str, Any]:
        """Send a request; return its answer or refusal."""
        self.last += 1
        self.socket.send_text(json.dumps({"id": self.last, **message}))
        while True:
            found = self.hear(answer, "refused")
            if found["id"] == self.last:
                return found

    def ask_for(self, told: str, **message: Any) -> dict[str, Any]:
        """Send a request; return what is told to all windows because of it."""
        self.last += 1
        self.socket.send_text(json.dumps({"id": self.last, **message}))
        return self.hear(told)

    def command(self, **command: Any) -> dict[str, Any]:
        return self.ask("done", type="command", edition=self.edition, command=command)

    def built(self) -> dict[str, Any]:
        """Return the results for the present edition."""
        while True:
            found = self.hear("results")
            if found["edition"] == self.edition:
                return found


@pytest.fixture
def talk(client: TestClient, part: int) -> Iterator[Talk]:
    with client.websocket_connect(f"/api/parts/{part}/session", headers=ORIGIN) as socket:
        found = Talk(socket)
        found.built()
        yield found


@pytest.mark.parametrize(("headers", "status"), [
    ({"host": "wendal.example"}, 403), ({"host": "127.0.0.1:99", "origin": "http://127.0.0.1"}, 403),
    ({"origin": "http://elsewhere.example"}, 403), ({"origin": "null"}, 403), ({"content-length": str(40 * 2**20)}, 413), ({}, 201),
])
def test_doors(client: TestClient, headers: dict[str, str], status: int) -> None:
    assert client.post("/api/parts", json={"name": "A"}, headers=headers).status_code == status


@pytest.mark.parametrize("headers", [{"origin": "http://elsewhere.example", "host": "127.0.0.1"}, {"host": "127.0.0.1", "origin": ""},
                                     {"origin": "http://wendal.example", "host": "wendal.example"}])
def test_a_socket_from_elsewhere_is_closed(client: TestClient, part: int, headers: dict[str, str]) -> None:
    with pytest.raises(WebSocketDisconnect), client.websocket_connect(f"/api/parts/{part}/session", headers=headers) as socket:
        socket.receive_text()


def test_the_policy_lets_no_inline_script_run(client: TestClient) -> None:
    policy = client.get("/api/about").headers["content-security-policy"]
    assert "script-src 'self';" in policy
    assert "default-src 'none'" in policy


def test_parts_are_made_renamed_copied_and_deleted(client: TestClient, part: int) -> None:
    renamed = client.patch(f"/api/parts/{part}", json={"name": "  Foot "}).json()
    assert (renamed["name"], renamed["version"]) == ("Foot", 2)
    copies = [client.post(f"/api/parts/{part}/copy").json()["name"] for _ in range(2)]
    assert copies == ["Foot, copy", "Foot, copy 2"]
    assert client.delete(f"/api/parts/{part}").status_code == 204
    assert [p["name"] for p in client.get("/api/parts").json()] == ["Foot, copy 2", "Foot, copy"]


@pytest.mark.parametrize(("call", "status", "told"), [
    (lambda c, p: c.post("/api/parts", json={"name": ""}), 422, "name"), (lambda c, p: c.post("/api/parts", json={"name": " "}), 422, "needs a name"),
    (lambda c, p: c.post("/api/parts", json={"name": "x" * 121}), 422, "name"), (lambda c, p: c.post("/api/parts", content=b"{"), 422, ""),
    (lambda c, p: c.post("/api/parts/read", json={"text": "{}"}), 422, "name"),
    (lambda c, p: c.post("/api/parts/read", json={"text": "[" * 100_000}), 422, ""),
    (lambda c, p: c.get(f"/api/parts/{p + 99}/report"), 404, "no such part"), (lambda c, p: c.get(f"/api/parts/{p}/file.doc"), 422, "no format"),
    (lambda c, p: c.delete(f"/api/parts/{p + 99}"), 404, "no such part"),
])
def test_bad_requests_get_a_clear_answer(client: TestClient, part: int, call: Any, status: int, told: str) -> None:
    answer = call(client, part)
    assert answer.status_code == status
    assert told in answer.json()["message"]
    assert len(client.get("/api/parts").json()) == 1


@pytest.mark.parametrize(("ending", "start"), [("step", b"ISO-10303-21"), ("json", b'{\n "format": "wendal-part"'), ("stl", b"")])
def test_files(client: TestClient, part: int, ending: str, start: bytes) -> None:
    answer = client.get(f"/api/parts/{part}/file.{ending}")
    assert answer.content.startswith(start)
    assert answer.headers["content-disposition"].endswith(f"Sample.{ending}")


def test_the_picture_follows_the_part(client: TestClient, part: int) -> None:
    first = client.get(f"/api/parts/{part}/picture.svg").text
    assert first.count("M") > 9
    assert client.get(f"/api/parts/{part}/picture.svg").text == first


def test_pictures_of_a_list_are_drawn_one_after_the_other(client: TestClient, monkeypatch: pytest.MonkeyPatch) -> None:
    """So a part that is opened meanwhile waits for one of them at most, however many parts there are."""
    parts = [int(client.post("/api/parts/read", json={"text": write_part(block().part)}).json()["id"]) for _ in range(4)]
    under_way, most, drawn = 0, 0, 0
    ask = Builds.ask

    async def counted(hub: Builds, operation: str, *more: Any, **named: Any) -> Any:
        nonlocal under_way, most, drawn
        if operation != "picture":
            return await ask(hub, operation, *more, **named)
        under_way += 1
        most, drawn = max(most, under_way), drawn + 1
        try:
            return await ask(hub, operation, *more, **named)
        finally:
            under_way -= 1

    monkeypatch.setattr(Builds, "ask", counted)
    with ThreadPoolExecutor(4) as threads:
        answers = list(threads.map(lambda part: client.get(f"/api/parts/{part}/picture.svg"), parts))
    assert [a.status_code for a in answers] == [200] * 4
    assert all(a.text.startswith("<svg") for a in answers)
    assert (drawn, most) == (4, 1)


def test_an_edit_is_kept_built_undone_and_redone(talk: Talk) -> None:
    assert talk.command(do="set_formula", tag="base_depth", formula="20 mm")["type"] == "done"
    results = talk.built()
    assert results["scene"]["bodies"][0]["mass"]["high"][2] == pytest.approx(26)
    assert set(results["scene"]["bodies"][0]["faces"]) <= talk.content.keys()
    assert talk.ask("done", type="undo", edition=talk.edition)["type"] == "done"
    assert talk.built()["scene"]["bodies"][0]["mass"]["high"][2] == pytest.approx(16)
    assert talk.ask("done", type="redo", edition=talk.edition)["type"] == "done"
    assert talk.ask("done", type="redo", edition=talk.edition)["message"] == "There is nothing after this to go forward to."


def test_an_edit_against_an_older_edition_is_refused_and_changes_nothing(talk: Talk, client: TestClient, part: int) -> None:
    talk.command(do="set_formula", tag="base_depth", formula="20 mm")
    told = talk.ask("done", type="command", edition=talk.edition - 1, command={"do": "set_formula", "tag": "base_depth", "formula": "9 mm"})
    assert (told["type"], told["code"]) == ("refused", "stale")
    assert client.get(f"/api/parts/{part}/report").json()["ledger"][2]["formula"] == "20 mm"


@pytest.mark.parametrize("text", [
    "", "{", "[]", '{"type": "command"}', '{"type": "fly", "id": 1}', '{"id": 1, "type": "command", "edition": 1, "command": {"do": "fly"}}',
    '{"id": 1, "type": "undo", "edition": "x"}', "[" * 50_000,
    '{"id": 1, "type": "preview", "command": {"do": "remove_step", "step": "s2"}}',
    '{"id": 1, "type": "drag", "step": "s1", "entity": "p999", "start": [0,0], "to": [1,1], "first": true}',
    '{"id": 1, "type": "drag", "step": "s9", "entity": "p1", "start": [0,0], "to": [1,1], "first": false}',
])
def test_nonsense_on_the_socket_is_refused_and_the_session_lives(talk: Talk, text: str) -> None:
    talk.socket.send_text(text)
    assert talk.hear("refused")["message"]
    assert talk.command(do="rename_part", name="Still here")["type"] == "done"


def test_a_preview_tells_what_would_be_and_keeps_nothing(talk: Talk, client: TestClient, part: int) -> None:
    before = client.get("/api/parts").json()[0]["version"]
    step = {"do": "edit_step", "step": "s4", "fields": {"depth": {"formula": "8 mm", "tag": "boss_depth"}}}
    told = talk.ask("preview", type="preview", command=step)
    assert told["report"]["state"] == "built"
    assert told["preview"]["added"]["volume"] == pytest.approx(25 * 3.14159265 * 8, rel=1e-6)
    assert client.get("/api/parts").json()[0]["version"] == before


def test_a_step_that_can_not_be_built_is_not_accepted(talk: Talk) -> None:
    told = talk.command(do="edit_step", step="s4", fields={"extent": "into", "result": "add"})
    assert (told["type"], told["step"]) == ("refused", "s4")
    assert "adds nothing" in told["message"]


def test_offers_over_the_socket(talk: Talk) -> None:
    told = talk.ask("offers", type="offers", picks=[["plane", "face"], ["line", "axis", "curve"]], kinds=["plane", "axis"])
    assert told["offers"][0] == {"kind": "plane", "how": "angle", "title": "Through a line, at an angle", "fills": {"first": 1, "second": 0},
                                 "needs": []}
    told = talk.ask("offers", type="offers", picks=[["region"]], kinds=["axis"])
    assert (told["offers"], told["why"]["axis"][:25]) == ([], "An axis can not stand on ")


def test_what_a_change_would_reach_is_told_and_not_done(talk: Talk, client: TestClient, part: int) -> None:
    told = talk.ask("foreseen", type="foresee", command={"do": "set_formula", "tag": "base_depth", "formula": "12 mm"})
    assert [s["id"] for s in told["steps"]] == ["s2", "s3", "s4"]
    assert told["bodies"][0]["after"] - told["bodies"][0]["before"] == pytest.approx(2000)
    told = talk.ask("foreseen", type="foresee", command={"do": "edit_step", "step": "s2", "fields": {"suppressed": True}})
    (body,) = told["bodies"]
    assert (body["before"], body["after"], body["will"]) == (pytest.approx(10_471.24, rel=1e-4), None, None)
    assert body["was"]["high"] == pytest.approx([40.0, 25.0, 16.0], abs=1e-6)
    assert [s["state"] for s in told["steps"]] == ["waiting", "stopped", "stopped"]
    assert client.get("/api/parts").json()[0]["version"] == 1


def test_dragging_over_the_socket(talk: Talk) -> None:
    talk.command(do="add_step", step={"kind": "sketch", "name": "Free", "on": {"of": "base", "name": "XY"}})
    talk.command(do="edit_sketch", step="s5", edit={"op": "draw", "shape": "line", "ends": [{"at": [0, 0]}, {"at": [9, 4]}]})
    moved = talk.ask("dragged", type="drag", step="s5", entity="p2", start=[9, 4], to=[12, 7], first=True)
    assert moved["points"]["p2"] == pytest.approx([12, 7])
    moved = talk.ask("dragged", type="drag", step="s5", entity="p2", start=[9, 4], to=[-3, 1], first=False)
    assert moved["points"]["p2"] == pytest.approx([-3, 1])
    assert moved["points"]["p1"] == pytest.approx([0, 0], abs=1e-6)


def test_a_killed_geometry_worker_is_replaced_and_nothing_is_lost(talk: Talk, client: TestClient) -> None:
    before = client.get("/api/health").json()["geometry"]
    for pid in before:
        os.kill(pid, signal.SIGKILL)
    assert talk.command(do="set_formula", tag="base_depth", formula="20 mm")["type"] == "done"
    assert talk.built()["scene"]["bodies"][0]["mass"]["high"][2] == pytest.approx(26)
    assert set(client.get("/api/health").json()["geometry"]) != set(before)


def test_a_killed_pen_is_replaced(talk: Talk, client: TestClient) -> None:
    for pid in client.get("/api/health").json()["pen"]:
        os.kill(pid, signal.SIGKILL)
    assert talk.command(do="set_formula", tag="base_depth", formula="20 mm")["type"] == "done"


def test_a_step_that_takes_its_worker_down_stops_and_can_be_tried_again(talk: Talk, client: TestClient, part: int) -> None:
    hub = client.app.state.hubs.hub(part)  # type: ignore[attr-defined]
    key = next(r["key"] for r in _reports(talk) if r["id"] == "s4")
    hub.builds.condemned[key] = "The geometry worker ended while it built this."
    for pid in client.get("/api/health").json()["geometry"]:
        os.kill(pid, signal.SIGKILL)
    talk.command(do="set_formula", tag="outline_width", formula="41 mm")
    talk.command(do="set_formula", tag="outline_width", formula="40 mm")
    report = next(r for r in talk.built()["reports"] if r["id"] == "s4")
    assert (report["state"], report["message"]) == ("stopped", "The geometry worker ended while it built this.")
    talk.socket.send_text('{"type": "retry"}')
    while next(r for r in talk.hear("results")["reports"] if r["id"] == "s4")["state"] != "built":
        pass


def _reports(talk: Talk) -> list[dict[str, Any]]:
    talk.socket.send_text('{"type": "retry"}')
    found: list[dict[str, Any]] = talk.built()["reports"]
    return found


def test_deleting_an_open_part_is_told(talk: Talk, client: TestClient, part: int) -> None:
    client.delete(f"/api/parts/{part}")
    assert talk.hear("gone")["type"] == "gone"


def test_an_unknown_part_closes_the_socket(client: TestClient) -> None:
    with client.websocket_connect("/api/parts/4711/session", headers=ORIGIN) as socket:
        assert "no such part" in socket.receive_text()
        assert socket.receive()["code"] == 4404


def test_the_published_kinds_have_all_that_editing_needs(client: TestClient) -> None:
    about = client.get("/api/about").json()
    for kind in about["kinds"]:
        for variant in kind["variants"].values():
            assert all(f"{{{blank}}}" in variant["sentence"] for blank in variant["blanks"])
        assert kind["explains"]
        assert kind["key"].count(" ") == 1
    assert {c["kind"] for c in about["constraints"]} >= {"coincident", "tangent", "distance", "angle"}
    assert client.get("/api/schema/part").json()["title"] == "Part"


@pytest.mark.parametrize(("headers", "status"), [
    ({"host": "user@127.0.0.1"}, 403), ({"host": "[::1", "origin": "http://127.0.0.1"}, 403), ({"origin": "https://127.0.0.1"}, 403),
    ({"origin": "http://[::1"}, 403), ({"origin": "http://127.0.0.1", "host": "127.0.0.1"}, 201),
])
def test_doors_with_odd_headers_refuse_with_the_policy(client: TestClient, headers: dict[str, str], status: int) -> None:
    answer = client.post("/api/parts", json={"name": "A"}, headers=headers)
    assert answer.status_code == status
    assert "default-src 'none'" in answer.headers["content-security-policy"]


def test_a_body_in_chunks_over_the_limit_is_refused(client: TestClient) -> None:
    def chunks() -> Iterator[bytes]:
        yield b'{"name": "'
        for _ in range(40):
            yield b"a" * 2**20

    answer = client.post("/api/parts", content=chunks(), headers={"content-type": "application/json"})
    assert answer.status_code == 413
    assert "the most that is taken" in answer.json()["message"]


@pytest.mark.parametrize("text", [
    '{"type": "offers", "id": 1, "picks": [], "kinds": [' + ", ".join(['"plane"'] * 100_000) + "]}", '{"type": "retry", "id": Infinity}',
    '{"type": "command", "id": 1, "edition": 1, "command": ' + '{"do": ' * 60 + "1" + "}" * 60 + "}", "[" * 100_000, "7",
])
def test_hostile_messages_are_refused_at_once_and_the_window_goes_on(talk: Talk, text: str) -> None:
    talk.socket.send_text(text)
    assert talk.hear("refused")["message"]
    talk.socket.send_bytes(b"\x00\x01")
    assert "binary" in talk.hear("refused")["message"]
    assert talk.command(do="add_tag", tag="span", formula="12 mm")["type"] == "done"


@pytest.mark.parametrize(("change", "told"), [
    ({"steps": [{"kind": "sketch", "id": "s²", "name": "A", "on": {"of": "base", "name": "XY"}}]}, "an s and a number"),
    ({"ledger": [{"tag": "t", "formula": "-" * 700 + "1"}]}, ""), ({"ledger": [{"tag": "t", "formula": "１２ mm"}]}, ""),
    ({"ledger": [{"tag": f"t{i}", "formula": "1"} for i in range(6000)]}, "at most 5000 items"),
])
def test_what_is_read_from_a_file_can_be_opened_or_is_refused_in_words(client: TestClient, change: dict[str, Any], told: str) -> None:
    document = {**json.loads(write_part(block().part)), "active_system": "", "stop_after": "", **change}
    answer = client.post("/api/parts/read", json={"text": json.dumps(document)})
    if told:
        assert answer.status_code == 422
        assert told in answer.json()["message"]
        return
    assert answer.status_code == 201
    with client.websocket_connect(f"/api/parts/{answer.json()['id']}/session", headers=ORIGIN) as socket:
        found = Talk(socket)
        found.built()
        assert found.command(do="rename_part", name="Opened")["type"] == "done"
    assert client.get(f"/api/parts/{answer.json()['id']}/file.json").status_code == 200


def test_a_drawing_that_takes_long_holds_up_no_other_part(client: TestClient, part: int) -> None:
    import time

    hubs = client.app.state.hubs  # type: ignore[attr-defined]
    first, second = part, int(client.post("/api/parts/read", json={"text": write_part(block().part)}).json()["id"])
    hubs.pen._home.update({first: 0, second: 0})
    with client.websocket_connect(f"/api/parts/{first}/session", headers=ORIGIN) as one, \
            client.websocket_connect(f"/api/parts/{second}/session", headers=ORIGIN) as two:
        slow, quick = Talk(one), Talk(two)
        slow.built()
        quick.built()
        os.kill(hubs.pen._places[0].worker.pid, signal.SIGSTOP)  # the pen of both parts does not come back
        try:
            one.send_text(json.dumps({"id": 1, "type": "command", "edition": slow.edition, "command": {"do": "add_tag", "tag": "span", "formula": "1 mm"}}))
            time.sleep(0.3)
            assert quick.command(do="add_tag", tag="span", formula="12 mm")["type"] == "done"  # while the other still waits
        finally:
            os.kill(hubs.pen._places[0].worker.pid, signal.SIGCONT)
        assert slow.hear("done")["id"] == 1


def test_how_many_freedoms_there_are_is_told_before_their_words(client: TestClient) -> None:
    b = Builder("Free")
    step = b.step("sketch", "Free", on=XY, drawing=free_sketch(60, False).model_dump(mode="json"))
    part = int(client.post("/api/parts/read", json={"text": write_part(b.part)}).json()["id"])
    with client.websocket_connect(f"/api/parts/{part}/session", headers=ORIGIN) as socket:
        talk = Talk(socket)
        talk.built()
        socket.send_text(json.dumps({"type": "sketch", "step": step}))
        first = talk.hear("sketch", "freedoms")["view"]
        words = talk.hear("sketch", "freedoms")
        assert (first["freedoms"], words["type"], words["step"]) == (None, "freedoms", step)
        assert first["free"] == len(words["freedoms"]) > 150


def test_what_fell_back_is_told_by_each_geometry_worker(client: TestClient, talk: Talk) -> None:
    told = client.get("/api/health?tallies=true").json()
    assert len(told["tallies"]) == len(told["geometry"])
    assert any("meshing a face" in counts for counts in told["tallies"])
    assert client.get("/api/health").json()["tallies"] == []


def test_what_is_published_names_every_kind_with_its_blanks(client: TestClient) -> None:
    about = client.get("/api/about").json()
    kinds = {k["kind"]: k for k in about["kinds"]}
    depth = kinds["extrude"]["variants"][""]["blanks"]["depth"]
    assert (depth["kind"], depth["quantity"], depth["accepts"]) == ("number", "length", [])
    assert {fmt["ending"] for fmt in about["formats"]} >= {"step", "stl", "json"}


def test_what_is_published_goes_compressed_and_is_not_sent_twice(client: TestClient) -> None:
    first = client.get("/api/about", headers={"accept-encoding": "gzip"})
    assert first.headers["content-encoding"] == "gzip"
    assert int(first.headers["content-length"]) < len(first.content) / 4
    again = client.get("/api/about", headers={"if-none-match": first.headers["etag"]})
    assert (again.status_code, again.content) == (304, b"")
    assert client.get("/api/about", headers={"if-none-match": '"other"'}).status_code == 200


def test_files_named_by_their_content_are_kept_by_the_browser_and_the_page_is_not(client: TestClient) -> None:
    page = client.get("/")
    assert page.headers["cache-control"] == "no-cache"
    script = re.search(r'src="(/assets/[^"]+\.js)"', page.text)
    assert script
    found = client.get(script[1], headers={"accept-encoding": "gzip"})
    assert "immutable" in found.headers["cache-control"]
    assert found.headers["content-encoding"] == "gzip"


@pytest.mark.parametrize("body", [b"[" * 3_000_000, b"[" + b"[]," * 1_000_000 + b"[]]", b'{"text": ' + b"{" * 2_000_000, b'{"ending": "json"}', b"", b"\xff", b'{"text": 7}'])
def test_a_body_that_is_no_import_is_refused_in_words(client: TestClient, body: bytes) -> None:
    answer = client.post("/api/parts/read", content=body, headers={"content-type": "application/json"})
    assert answer.status_code == 422
    assert answer.json()["message"]


@pytest.mark.parametrize(("fields", "must"), [
    ({"depth": {}}, True), ({"name": "x"}, False), ({"taken:c1": {}}, False), ({"taken:c1": {}, "on": {}}, True), ({"visible": False, "suppressed": True}, False),
])
def test_which_edits_are_accepted_only_when_they_build(fields: dict[str, Any], must: bool) -> None:
    assert _must_build({"do": "edit_step", "step": "s1", "fields": fields}) == must


def test_a_file_without_geometry_does_not_wait_for_any(client: TestClient, part: int) -> None:
    asked: list[str] = []
    pool = client.app.state.hubs.geometry  # type: ignore[attr-defined]
    call = pool.call

    async def noted(number: int, operation: str, *more: Any, **named: Any) -> Any:
        asked.append(operation)
        return await call(number, operation, *more, **named)

    pool.call = noted
    assert client.get(f"/api/parts/{part}/file.json").json()["format"] == "wendal-part"
    assert client.get(f"/api/parts/{part}/file.csv").text.startswith("tag,")
    assert "export" not in asked
    assert client.get(f"/api/parts/{part}/file.stl").status_code == 200
    assert "export" in asked


def test_a_part_goes_out_and_in_with_all_its_versions(client: TestClient, part: int) -> None:
    with client.websocket_connect(f"/api/parts/{part}/session", headers=ORIGIN) as socket:
        talk = Talk(socket)
        talk.built()
        talk.command(do="add_tag", tag="span", formula="12 mm")
        talk.hear("results")
    answer = client.get(f"/api/parts/{part}/history.wendal-part")
    assert answer.status_code == 200
    assert "wendal-part" in answer.headers["content-disposition"]
    made = client.post("/api/parts/history", content=answer.content)
    assert made.status_code == 201
    assert made.json()["id"] != part
    assert client.get(f"/api/parts/{made.json()['id']}/file.json").json() == client.get(f"/api/parts/{part}/file.json").json()
    with client.websocket_connect(f"/api/parts/{made.json()['id']}/session", headers=ORIGIN) as socket:
        talk = Talk(socket)
        assert talk.hear("part")["undo"]
    for bad in (b"", b"nonsense", answer.content[:-30]):
        refused = client.post("/api/parts/history", content=bad)
        assert refused.status_code == 422
        assert "tmp" not in refused.json()["message"]
    assert client.get("/api/parts/1000000/history.wendal-part").status_code == 404


def test_questions_are_asked_by_socket_rest_and_command_line(client: TestClient, part: int, tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    body = client.get(f"/api/parts/{part}/report").json()["bodies"][0]
    things = [{"of": "body", "body": body["id"]}]
    with client.websocket_connect(f"/api/parts/{part}/session", headers=ORIGIN) as socket:
        talk = Talk(socket)
        talk.built()
        answer = talk.ask("answer", type="ask", ask={"of": "measure", "things": things})
        assert answer["type"] == "answer", answer
        answer = answer["answer"]
        assert next(x for x in answer["figures"] if x["words"] == "volume")["value"] == pytest.approx(body["volume"])
        refused = talk.ask("answer", type="ask", ask={"of": "measure", "things": [{"of": "body", "body": "s99"}]})
        assert (refused["type"], "not there any more" in refused["message"]) == ("refused", True)
    assert client.post(f"/api/parts/{part}/ask/measure", json={"things": things}).json() == answer
    assert client.post(f"/api/parts/{part}/ask/mass", json={}).json()["bodies"][0]["volume"] == pytest.approx(body["volume"])
    assert client.post(f"/api/parts/{part}/ask/weight", json={}).status_code == 422
    file = tmp_path / "part.json"
    file.write_bytes(client.get(f"/api/parts/{part}/file.json").content)
    assert main(["ask", str(file), "measure", json.dumps({"things": things})]) == 0
    assert json.loads(capsys.readouterr().out) == answer
    assert main(["ask", str(file), "measure", "nonsense"]) == 2
