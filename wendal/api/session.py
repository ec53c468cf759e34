"""The socket of an open part."""

from __future__ import annotations

import asyncio
import json
import logging
from contextlib import suppress
from dataclasses import asdict
from typing import Any

from fastapi import APIRouter, WebSocket, WebSocketDisconnect
from pydantic import TypeAdapter, ValidationError

from wendal.core.datum import offers, why_not
from wendal.core.errors import WendalError
from wendal.core.reference import ThingRef
from wendal.core.steps import ways_for, ways_in_sketch
from wendal.core.trust import Plan, Setup, Watched
from wendal.log import about

from .edits import Acknowledge
from .hub import Hub
from .hubs import Hubs
from .messages import browser_message
from .refusals import refusal
from .window import Window

__all__ = ["router"]

router = APIRouter()
log = logging.getLogger(__name__)
LONGEST_MESSAGE = 2 * 2**20  # signs; the largest honest one is a ledger of a few thousand lines
LONGEST_LIST, DEEPEST = 5000, 24
_thing: TypeAdapter[Any] = TypeAdapter(ThingRef)
SLOWEST_WINDOW = 20.0  # s that one message may take


@router.websocket("/api/parts/{part}/session")
async def session(socket: WebSocket, part: int, version: int = 0) -> None:
    """Serve one window on a part, or on a version of it as it was, until it closes, breaks or falls
    behind."""
    hubs: Hubs = socket.app.state.hubs
    await socket.accept()
    hub, window = hubs.hub(part, version), Window()
    try:
        await hub.join(window)
    except WendalError as error:
        await socket.send_text(json.dumps(refusal(0, error)))
        # What is down comes back, and then the window does: only what will never open is told so.
        await socket.close(1013 if error.code == "down" else 4404, error.message[:40])
        return
    works = [
        asyncio.create_task(w)
        for w in (_receive(socket, hub, window), _deliver(socket, window), window.dropped.wait())
    ]
    try:
        await asyncio.wait(works, return_when=asyncio.FIRST_COMPLETED)
    finally:
        window.dropped.set()
        hub.leave(window)
        hubs.left(part, version)
        for work in works:
            work.cancel()
    with suppress(Exception):  # it is closed already, most often
        await socket.close(1011)


async def _receive(socket: WebSocket, hub: Hub, window: Window) -> None:
    """Take messages. Each is answered on its own: what changes the part goes on when the window closes."""
    with suppress(WebSocketDisconnect, RuntimeError):
        while True:
            message = await socket.receive()
            if message["type"] == "websocket.disconnect":
                return
            text = message.get("text")
            if text is None:
                window.send(
                    refusal(0, WendalError("Messages are text; this one was binary and was not read."))
                )
            else:
                hub.leave_to(_answer(hub, window, text))


async def _deliver(socket: WebSocket, window: Window) -> None:
    """Send what the window is told, in order; one that takes too long over a message is given up."""
    with suppress(Exception):  # whatever a broken line raises ends this window and nothing else
        while True:
            message = await window.next()
            async with asyncio.timeout(SLOWEST_WINDOW):  # wait_for may miss that it is cancelled
                if isinstance(message, bytes):
                    await socket.send_bytes(message)
                else:
                    await socket.send_text(json.dumps(message))


async def _answer(hub: Hub, window: Window, text: str) -> None:
    """Handle one message; whatever goes wrong is told to the window."""
    number = _number(text)
    try:
        data = _read(text)
        with about(part=hub.part):
            await _HANDLERS[data["type"]](hub, window, data)
    except WendalError as error:
        window.send(refusal(number, error))
    except Exception:  # whatever it is, the window is told, and goes on
        log.exception("answering %.200s", text)
        window.send(
            refusal(
                number, WendalError("This failed inside Wendal and nothing was changed; its log says more.")
            )
        )


def _read(text: str) -> dict[str, Any]:
    if len(text) > LONGEST_MESSAGE:
        raise WendalError("This message is too long.")
    _within_limits(text)
    try:
        message = browser_message.validate_json(text)
    except ValidationError as error:
        first = error.errors()[0]
        where = ".".join(str(p) for p in first["loc"])
        raise WendalError(f"At {where or 'the message'}: {first['msg']}.", field=where) from error
    found: dict[str, Any] = message.model_dump(mode="json")
    return found


def _within_limits(text: str) -> None:
    """Raise WendalError for a message that is larger inside than any that a designer could mean."""
    try:
        level: list[Any] = [[json.loads(text)]]
    except (ValueError, RecursionError) as error:
        raise WendalError(f"This message can not be read: {error}.") from error
    for _ in range(DEEPEST + 1):
        if any(len(x) > LONGEST_LIST for x in level):
            raise WendalError(
                f"A list in this message is longer than {LONGEST_LIST}, the most that is taken."
            )
        level = [
            y for x in level for y in (x.values() if isinstance(x, dict) else x) if isinstance(y, dict | list)
        ]
        if not level:
            return
    raise WendalError("This message is nested too deep.")


def _number(text: str) -> int:
    """Return the number under which a request wants its answer, 0 where it has none."""
    try:
        return int(json.loads(text)["id"])
    except (ValueError, KeyError, TypeError, RecursionError, OverflowError):
        return 0


async def _command(hub: Hub, window: Window, data: dict[str, Any]) -> None:
    await hub.edits.command(data["edition"], data["command"], _done(window, data["id"]), data["key"])


async def _move(hub: Hub, window: Window, data: dict[str, Any]) -> None:
    await hub.edits.move(data["edition"], data["type"], _done(window, data["id"]), data["key"])


def _done(window: Window, number: int) -> Acknowledge:
    return lambda edition, step: window.send({"type": "done", "id": number, "edition": edition, "step": step})


async def _preview(hub: Hub, window: Window, data: dict[str, Any]) -> None:
    await hub.picture.preview(window, data["id"], data["command"], data["seek"])


async def _look(hub: Hub, window: Window, data: dict[str, Any]) -> None:
    window.at = data["at"]
    hub.picture.evaluate_soon()


async def _sketch(hub: Hub, window: Window, data: dict[str, Any]) -> None:
    window.sketch = data["step"]
    await hub.picture.show_sketch(window)


async def _drag(hub: Hub, window: Window, data: dict[str, Any]) -> None:
    request = {k: data[k] for k in ("step", "entity", "start", "to", "first")}
    moved = await hub.drag({**request, "drag": f"{id(window)}"})
    window.send({"type": "dragged", "id": data["id"], **moved})


async def _rehearse(hub: Hub, window: Window, data: dict[str, Any]) -> None:
    told = await hub.ask_pen("rehearse", {"step": data["step"], "edit": data["edit"]})
    window.send({"type": "rehearsed", "id": data["id"], **told})


async def _motion(hub: Hub, window: Window, data: dict[str, Any]) -> None:
    frames = await hub.ask_pen("motion", {"step": data["step"], "index": data["index"]})
    window.send({"type": "motion", "id": data["id"], "frames": frames})


async def _propose(hub: Hub, window: Window, data: dict[str, Any]) -> None:
    found = await hub.ask_pen("propose", {"step": data["step"], "baselines": data["baselines"]})
    window.send({"type": "proposed", "id": data["id"], "proposals": found})


async def _offers(hub: Hub, window: Window, data: dict[str, Any]) -> None:
    picks = [set(p) for p in data["picks"]]
    found = [asdict(o) for o in offers(picks, data["kinds"])]
    made = {o["kind"] for o in found}
    window.send(
        {
            "type": "offers",
            "id": data["id"],
            "offers": found,
            "why": {s: why_not(s, picks) for s in data["kinds"] if s not in made},
        }
    )


async def _ways(hub: Hub, window: Window, data: dict[str, Any]) -> None:
    found = (
        ways_in_sketch(data["things"], data["model"])
        if data["sketch"]
        else ways_for([set(p) for p in data["picks"]], data["things"])
    )
    window.send({"type": "ways", "id": data["id"], "ways": [asdict(w) for w in found]})


async def _foresee(hub: Hub, window: Window, data: dict[str, Any]) -> None:
    window.send({"type": "foreseen", "id": data["id"], **await hub.picture.foresee(window, data["command"])})


async def _ask(hub: Hub, window: Window, data: dict[str, Any]) -> None:
    window.send({"type": "answer", "id": data["id"], "answer": await hub.answer(data["ask"])})


async def _shake(hub: Hub, window: Window, data: dict[str, Any]) -> None:
    setup = Setup(wall=data["wall"], mass=data["mass"])
    if data["kept"] and (word := await hub.trials.tell_kept()):
        window.send(word)
    else:
        await hub.trials.shake(Plan(tuple(data["tags"]), data["seed"], data["sets"], setup=setup))
    await _begun(hub, window, data)


async def _moves(hub: Hub, window: Window, data: dict[str, Any]) -> None:
    await hub.trials.moves(tuple(data["tags"]), Setup(walls=data["walls"], things=_watched(data)))
    await _begun(hub, window, data)


async def _aim(hub: Hub, window: Window, data: dict[str, Any]) -> None:
    await hub.trials.aim(data["figure"], data["wish"], tuple(data["tags"]), _watched(data))
    await _begun(hub, window, data)


def _watched(data: dict[str, Any]) -> tuple[Watched, ...]:
    called = [*data["called"], *[""] * len(data["things"])]
    things = map(_thing.validate_python, data["things"])
    return tuple(Watched(t, called=c) for t, c in zip(things, called, strict=False))


async def _sample(hub: Hub, window: Window, data: dict[str, Any]) -> None:
    await hub.trials.sample(data["figure"], data["seed"], data["count"], _watched(data))
    await _begun(hub, window, data)


async def _family(hub: Hub, window: Window, data: dict[str, Any]) -> None:
    await hub.trials.family(tuple(data["rows"]))
    await _begun(hub, window, data)


async def _last_good(hub: Hub, window: Window, data: dict[str, Any]) -> None:
    found = await hub.branches.last_good(window, data["step"])
    window.send({"type": "last_good", "id": data["id"], **found})


async def _try_on(hub: Hub, window: Window, data: dict[str, Any]) -> None:
    found = await hub.branches.try_on(window, data["values"], data["command"], _watched(data))
    window.send({"type": "tried_on", "id": data["id"], **found})


async def _begun(hub: Hub, window: Window, data: dict[str, Any]) -> None:
    window.send({"type": "done", "id": data["id"], "edition": (await hub.state()).edition, "step": ""})


async def _stop_trials(hub: Hub, window: Window, data: dict[str, Any]) -> None:
    await hub.trials.stop()


async def _compare(hub: Hub, window: Window, data: dict[str, Any]) -> None:
    found = await hub.branches.compare(
        window, data["part"] or hub.part, data["version"], data["values"], data["before"], data["bodies"]
    )
    window.send({"type": "compared", "id": data["id"], **found})


async def _retry(hub: Hub, window: Window, data: dict[str, Any]) -> None:
    hub.picture.retry()


async def _cancel(hub: Hub, window: Window, data: dict[str, Any]) -> None:
    if hub.builds.cancel():  # said at once; what is built of the part needs a worker's turn
        hub.tell({"type": "cancelled"})


_HANDLERS = {
    "ask": _ask,
    "command": _command,
    "undo": _move,
    "redo": _move,
    "preview": _preview,
    "look": _look,
    "sketch": _sketch,
    "drag": _drag,
    "rehearse": _rehearse,
    "motion": _motion,
    "propose": _propose,
    "offers": _offers,
    "ways": _ways,
    "foresee": _foresee,
    "compare": _compare,
    "shake": _shake,
    "moves": _moves,
    "aim": _aim,
    "sample": _sample,
    "family": _family,
    "last_good": _last_good,
    "try_on": _try_on,
    "stop_trials": _stop_trials,
    "retry": _retry,
    "cancel": _cancel,
}
