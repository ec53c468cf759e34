"""Several windows and a moving store: what is kept is told as kept, and nobody's trouble is another's."""

from __future__ import annotations

import asyncio
import threading
import time
from typing import Any

import pytest
from starlette.testclient import TestClient
from starlette.websockets import WebSocket

from tests.api.test_service import ORIGIN, Talk, client, part, talk  # noqa: F401 - fixtures
from tests.building import axis, f, of_step
from tests.conftest import eventually, run_async
from tests.samples import plate
from wendal.api.hub import Hub
from wendal.api.session import _deliver
from wendal.api.window import Window
from wendal.core.route import read_part, write_part
from wendal.store import PartStore
from wendal.workers import Pool

EMPTY_SCENE: dict[str, Any] = {"bodies": [], "sketches": [], "datums": [], "at": None, "active": {"origin": (0, 0, 0), "x": (1, 0, 0), "y": (0, 1, 0), "normal": (0, 0, 1)}}
ADD = {"do": "add_tag", "tag": "span", "formula": "12 mm"}


def opened(client: TestClient, part: int) -> Any:  # noqa: F811
    return client.websocket_connect(f"/api/parts/{part}/session", headers=ORIGIN)


def test_a_window_closed_while_its_edit_is_kept_leaves_the_part_in_order(client: TestClient, part: int, store: PartStore,  # noqa: F811
                                                                         monkeypatch: pytest.MonkeyPatch) -> None:
    reached, release, commit = threading.Event(), threading.Event(), PartStore.commit

    def slowly(self: PartStore, *arguments: Any) -> Any:
        reached.set()
        release.wait(60)
        time.sleep(0.2)
        return commit(self, *arguments)

    with opened(client, part) as socket:
        talk = Talk(socket)
        talk.built()
        monkeypatch.setattr(PartStore, "commit", slowly)
        socket.send_json({"type": "command", "id": 1, "edition": talk.edition, "command": ADD})
        assert reached.wait(60)
    release.set()
    monkeypatch.setattr(PartStore, "commit", commit)
    with opened(client, part) as socket:
        talk = Talk(socket)
        talk.hear("part")
        while talk.edition < 2:
            talk.hear("part")
        assert talk.command(do="add_tag", tag="width", formula="3 mm")["type"] == "done"
    assert {"span", "width"} <= read_part(store.state(part).document).tags()


def test_an_edit_made_for_an_older_state_is_refused_and_the_part_told_anew(talk: Talk, part: int, store: PartStore) -> None:  # noqa: F811
    state = store.state(part)
    other = read_part(state.document).model_copy(update={"name": "Changed beside it"})
    store.commit(part, state.edition, other.name, write_part(other), "Beside", "")
    refused = talk.command(**ADD)
    assert (refused["type"], refused["code"]) == ("refused", "stale")
    assert read_part(store.state(part).document) == other
    while talk.edition == state.edition:
        talk.hear("part")
    assert talk.command(**ADD)["type"] == "done"
    assert read_part(store.state(part).document).name == "Changed beside it"


@pytest.mark.parametrize("trouble", ["broken", "stuck"])
def test_a_window_in_trouble_holds_up_nobody(client: TestClient, part: int, store: PartStore, trouble: str,  # noqa: F811
                                             monkeypatch: pytest.MonkeyPatch) -> None:
    import asyncio

    bad: set[int] = set()
    known: list[WebSocket] = []
    send = WebSocket.send_text

    async def sending(self: WebSocket, data: str) -> None:
        if self not in known:
            known.append(self)
        if id(self) in bad:
            if trouble == "broken":
                raise RuntimeError("the line is broken")
            await asyncio.sleep(3600)
        await send(self, data)

    monkeypatch.setattr(WebSocket, "send_text", sending)
    monkeypatch.setattr("wendal.api.session.SLOWEST_WINDOW", 3600.0)  # whoever waited for the stuck one would not come to an end
    with opened(client, part) as first:
        good = Talk(first)
        good.built()
        with opened(client, part) as second:
            Talk(second).built()
            bad.add(id(known[1]))
            _three_edits(good)
    assert {"span", "width", "rise"} <= read_part(store.state(part).document).tags()


def _three_edits(good: Talk) -> None:
    for tag in ("span", "width", "rise"):
        assert good.command(do="add_tag", tag=tag, formula="12 mm")["type"] == "done"


def _heavy(store: PartStore) -> int:
    """A part whose last step takes a minute."""
    b = plate()
    hole = b.step("hole", "Tiny", where="coordinates", x=f("1 mm"), y=f("1 mm"), diameter=f("0.3 mm"), side="back")
    b.step("pattern", "Many", seeds=[of_step(hole)], manner="grid", along=axis("X"), along_two=axis("Y"), count=f("55"), spacing=f("0.7 mm"), count_two=f("30"),
           spacing_two=f("0.7 mm"))
    return store.create("Sample", write_part(b.part), "Made").id


@pytest.mark.parametrize("way", ["closed", "deleted"])
def test_a_part_that_nobody_looks_at_is_not_built_on_and_others_are_not_held_up(client: TestClient, store: PartStore, way: str) -> None:  # noqa: F811
    pool: Pool = client.app.state.hubs.geometry  # type: ignore[attr-defined]
    heavy = [_heavy(store), _heavy(store)]
    light = store.create("Sample", write_part(plate().part), "Made").id
    for number in heavy:
        with opened(client, number) as socket:
            talk = Talk(socket)
            while talk.hear("building")["step"] != "s4":
                pass
        if way == "deleted":
            assert client.delete(f"/api/parts/{number}").status_code == 204
    with opened(client, light) as socket:  # a minute each is over for them only if they are not built on
        talk = Talk(socket)
        talk.built()
        assert talk.command(do="set_formula", tag="outline_width", formula="41 mm")["type"] == "done"
        talk.built()
    eventually(lambda: not any(pool.working_for(n) for n in heavy), 25)
    assert sum(pool._load) == len(pool._home)


def test_cancelling_an_evaluation_leaves_the_rest_unbuilt_until_it_is_asked_for(client: TestClient, store: PartStore) -> None:  # noqa: F811
    number = _heavy(store)
    with opened(client, number) as socket:
        talk = Talk(socket)
        while talk.hear("building")["step"] != "s4":
            pass
        socket.send_json({"type": "cancel"})
        assert talk.hear("cancelled", "results")["type"] == "cancelled"  # at once
        reports = talk.hear("results")["reports"]
        assert [r["state"] for r in reports][:3] == ["built"] * 3
        assert "cancelled" in reports[3]["message"]
        pool: Pool = client.app.state.hubs.geometry  # type: ignore[attr-defined]
        eventually(lambda: not pool.working_for(number), 25)
        # Undo, or any edit, takes it up again: nothing stays unbuilt because of a cancel before.
        assert talk.ask("done", type="command", edition=talk.edition, command={"do": "edit_step", "step": "s4", "fields": {"suppressed": True}})["type"] == "done"
        assert [r["state"] for r in talk.built()["reports"]] == ["built"] * 3 + ["waiting"]


def test_cancel_gives_up_a_build_under_accept_and_what_waits_for_it(client: TestClient, store: PartStore) -> None:  # noqa: F811
    b = plate()
    hole = b.step("hole", "Tiny", where="coordinates", x=f("1 mm"), y=f("1 mm"), diameter=f("0.3 mm"), side="back")
    number = store.create("Sample", write_part(b.part), "Made").id
    many = {"do": "add_step", "step": {"kind": "pattern", "name": "Many", "seeds": [of_step(hole)], "manner": "grid",
                                       "along": axis("X"), "along_two": axis("Y"),
                                       "count": f("55"), "spacing": f("0.7 mm"), "count_two": f("30"), "spacing_two": f("0.7 mm")}}
    with opened(client, number) as socket:
        talk = Talk(socket)
        talk.built()
        before = talk.edition
        socket.send_json({"type": "preview", "id": 1, "command": {**many, "step": {**many["step"], "count": f("54")}}})
        while talk.hear("building")["step"] != "s4":
            pass
        socket.send_json({"type": "command", "id": 2, "edition": before, "command": many})
        socket.send_json({"type": "cancel"})
        refused = [talk.hear("refused") for _ in range(2)]
        assert {r["id"] for r in refused} == {1, 2}
        assert all("cancelled" in r["message"] for r in refused)
        assert store.state(number).edition == before
        talk.last = 2
        assert talk.command(**ADD)["type"] == "done"
        talk.built()


def test_a_part_that_nobody_looks_at_is_let_go_and_comes_back(client: TestClient, part: int, monkeypatch: pytest.MonkeyPatch) -> None:  # noqa: F811
    monkeypatch.setattr("wendal.api.hubs.IDLE", 1.0)
    hubs = client.app.state.hubs  # type: ignore[attr-defined]
    with opened(client, part) as socket:
        Talk(socket).built()
        time.sleep(1.6)
        assert (part, 0) in hubs._open  # somebody looks at it
    eventually(lambda: (part, 0) not in hubs._open)
    assert part not in hubs.geometry._home
    with opened(client, part) as socket:
        talk = Talk(socket)
        talk.built()
        assert talk.command(**ADD)["type"] == "done"


def test_a_window_is_told_to_forget_what_it_has_not_used_for_long(client: TestClient, part: int, monkeypatch: pytest.MonkeyPatch) -> None:  # noqa: F811
    monkeypatch.setattr("wendal.api.window.HELD_BYTES", 20_000)
    with opened(client, part) as socket:
        talk = Talk(socket)
        talk.built()
        tag = next(r.tag for r in read_part(client.get(f"/api/parts/{part}/file.json").text).rows() if r.tag.endswith("depth"))
        forgotten: set[str] = set()
        for depth in range(11, 40):
            talk.command(do="set_formula", tag=tag, formula=f"{depth} mm")
            found = talk.hear("forget", "results")
            for digest in found.get("digests", []):
                forgotten.add(digest)
                del talk.content[digest]
        assert forgotten
        # Whatever was forgotten, all that the part and the picture name is there.
        for body in talk.built()["scene"]["bodies"] if found["type"] == "forget" else found["scene"]["bodies"]:
            assert {*body["edges"], *body["faces"]} <= set(talk.content)


def test_content_that_a_picture_names_is_not_thrown_out(client: TestClient, part: int, monkeypatch: pytest.MonkeyPatch) -> None:  # noqa: F811
    """With hardly any room: every picture that is told has all that it names."""
    monkeypatch.setattr("wendal.api.contents.KEPT_BYTES", 2000)
    monkeypatch.setattr("wendal.api.window.HELD_BYTES", 2000)
    with opened(client, part) as one, opened(client, part) as other:
        talks = [Talk(one), Talk(other)]
        for each in talks:
            each.built()
        tag = next(r.tag for r in read_part(client.get(f"/api/parts/{part}/file.json").text).rows() if r.tag.endswith("depth"))
        for depth in (11, 12, 13):
            talks[0].command(do="set_formula", tag=tag, formula=f"{depth} mm")
            for each in talks:
                for body in each.hear("results")["scene"]["bodies"]:
                    assert {*body["edges"], *body["faces"], *body["things"]} <= set(each.content)
            step = {"kind": "extrude", "profile": [{"of": "sketch", "step": "s1"}], "depth": {"formula": f"{40 + depth} mm"}}
            talks[0].ask("preview", type="preview", command={"do": "add_step", "step": step, "after": ""})


class SlowStore:
    """A store whose answers take a moment, each longer than the one before."""

    def __init__(self, store: PartStore) -> None:
        self._store, self._asked = store, 0

    def state(self, part: int) -> Any:  # noqa: F811
        self._asked += 1
        time.sleep(0.05 * self._asked)
        return self._store.state(part)

    def set_picture(self, part: int, version: int, picture: str) -> None:  # noqa: F811
        """Keep no picture."""


class Shown:
    """A geometry worker that answers at once, but not before it is let."""

    def __init__(self) -> None:
        self.let = asyncio.Event()

    async def call(self, part: int, operation: str, *_: Any) -> Any:  # noqa: F811
        await self.let.wait()
        return {"blobs": {}, "taken": {}, "reports": [], "ledger": [], "scene": EMPTY_SCENE} if operation == "evaluate" else "<svg/>"


def test_a_part_that_is_read_again_while_it_is_opened_is_shown_all_the_same(part: int, store: PartStore) -> None:  # noqa: F811
    """Whoever reads the part at the same time, or after the database came back, makes no evaluation look outdated."""
    async def opened() -> list[Any]:
        geometry = Shown()
        hub = Hub(part, SlowStore(store), geometry, None)  # type: ignore[arg-type]
        window = Window()
        states = await asyncio.gather(hub.state(), hub.join(window), hub.state())
        assert states[0] is states[2]
        await asyncio.sleep(0.05)
        await hub.edits.read_again()  # the evaluation still runs
        geometry.let.set()
        told = []
        while "results" not in told:
            message = await asyncio.wait_for(window.next(), 60)
            told.append(message["type"] if isinstance(message, dict) else "content")
        return told

    assert next(t for t in run_async(opened()) if t != "content") == "part"


class Broken:
    """A geometry worker that finds fault with a body when it looks at the whole."""

    async def call(self, part: int, operation: str, *_: Any) -> Any:  # noqa: F811
        if operation == "look_over":
            return {"picture": "<svg/>", "broken": ["Base"]}
        return {"blobs": {}, "taken": {}, "reports": [], "ledger": [], "scene": EMPTY_SCENE}


def test_what_is_broken_as_a_whole_is_told_when_nothing_happens(part: int, store: PartStore, monkeypatch: pytest.MonkeyPatch) -> None:  # noqa: F811
    monkeypatch.setattr("wendal.api.picture.RESTED", 0.05)

    async def opened() -> str:
        hub = Hub(part, store, Broken(), None)  # type: ignore[arg-type]
        window = Window()
        await hub.join(window)
        while True:
            message = await asyncio.wait_for(window.next(), 60)
            if isinstance(message, dict) and message["type"] == "refused":
                return str(message["message"])

    assert "Base is broken, though every step looked sound" in run_async(opened())


def test_what_is_previewed_is_packed_before_it_is_accepted(client: TestClient, talk: Talk, part: int, monkeypatch: pytest.MonkeyPatch) -> None:  # noqa: F811
    hub = client.app.state.hubs.hub(part)  # type: ignore[attr-defined]
    asked: list[str] = []
    ask = hub.builds._workers.call

    async def listening(number: int, operation: str, *more: Any) -> Any:
        asked.append(operation)
        return await ask(number, operation, *more)

    monkeypatch.setattr(hub.builds._workers, "call", listening)
    step = next(s for s in read_part(client.get(f"/api/parts/{part}/file.json").text).steps if s.kind == "extrude")
    edit = {"do": "edit_step", "step": step.id, "fields": {"depth": {"formula": "23 mm", "tag": "base_depth"}}}
    monkeypatch.setattr("wendal.api.picture.READIED", 3600.0)
    assert talk.ask("foreseen", type="foresee", command=edit)["steps"]
    monkeypatch.setattr("wendal.api.picture.READIED", 0.0)
    assert talk.ask("foreseen", type="foresee", command=edit)["steps"]
    eventually(lambda: asked.count("ready") == 1)
    eventually(lambda: not hub._works)
    held = set(hub.contents.blobs)
    assert talk.command(**edit)["type"] == "done"
    for body in talk.built()["scene"]["bodies"]:
        assert {*body["faces"], *body["edges"], *body["things"]} <= held


def test_what_is_sent_to_a_window_ends_when_it_is_closed_whatever_it_is_at() -> None:
    class Line:
        async def next(self) -> bytes:
            self.told = getattr(self, "told", 0) + 1
            await asyncio.sleep(0 if self.told < 3 else 60)
            return b"content"

        async def send_bytes(self, content: bytes) -> None:
            await asyncio.sleep(0)

    async def ends_after(turns: int) -> bool:
        line: Any = Line()
        work = asyncio.ensure_future(_deliver(line, line))
        for _ in range(turns):
            await asyncio.sleep(0)
        work.cancel()
        await asyncio.wait({work}, timeout=0.5)
        ended = work.done()
        work.cancel()
        return ended

    async def tried() -> list[int]:
        return [n for n in range(16) if not await ends_after(n)]

    assert run_async(tried()) == []
