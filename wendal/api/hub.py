"""Open parts: one hub a part, with three rooms: its edits, the content its windows hold, and its picture."""

from __future__ import annotations

import asyncio
import json
from collections.abc import Callable, Coroutine
from hashlib import blake2b
from typing import Any

from wendal.core.errors import WendalError
from wendal.store import PartStore
from wendal.store.rows import PartState
from wendal.workers import Pool, WorkerDied, WorkerTooSlow
from wendal.workers.shelf import Shelf

from .branches import Branches
from .builds import Builds
from .contents import Contents
from .edits import Acknowledge, Edits
from .picture import Picture
from .trials import Trials
from .window import Window

__all__ = ["Hub"]

WAITS = "(waiting for another part)"
LEFT = 1.0  # s after its last window has gone that a part is built on for


class Hub:
    """One part."""

    def __init__(
        self,
        part: int,
        store: PartStore,
        geometry: Pool,
        pen: Pool,
        shelf: Shelf | None = None,
        version: int = 0,
    ) -> None:
        """version : the one that is looked at as it was, 0 for the part as it stands."""
        self.part, self.store, self._pen, self.version = part, store, pen, version
        self.shelf = shelf
        self.builds = Builds(
            part,
            geometry,
            lambda said: self.tell({"type": "building", "step": said["step"], "name": said["name"] or WAITS}),
            shelf,
        )
        self.windows: list[Window] = []
        self.asked = 0.0  # when it was last asked for
        self._works: set[asyncio.Task[Any]] = set()
        self.trials = Trials(self)
        self.branches = Branches(self)
        self.edits = Edits(self)
        self.contents = Contents(lambda: self.windows)
        self.picture = Picture(self)

    async def state(self) -> PartState:
        """Return the part as it stands."""
        return await self.edits.state()

    async def join(self, window: Window) -> None:
        """Show the part in a window."""
        state = await self.state()
        self.windows.append(window)
        self.send_part(state, [window])
        self.picture.evaluate_soon()

    @property
    def idle(self) -> bool:
        """Whether nobody looks at the part and nothing is done for it."""
        return not self.windows and not self._works and self.picture.idle

    def leave(self, window: Window) -> None:
        """Forget a window; when the last one has gone for a moment, nothing is built for it any more."""
        if window in self.windows:
            self.windows.remove(window)
            asyncio.get_running_loop().call_later(LEFT, self._rest)

    def _rest(self) -> None:
        """End what is built for nobody; an edit that is under way is made."""
        if not self.windows and not self.edits.lock.locked():
            self.builds.rest()
            self.leave_to(self.trials.stop())

    def close(self) -> None:
        """The part is gone: end all that is done for it."""
        self.picture.rest_no_more()
        self.builds.close()
        self.leave_to(self.trials.stop())

    def leave_to(self, work: Coroutine[Any, Any, Any]) -> asyncio.Task[Any]:
        """Do something as the part's own work, which goes on whatever becomes of the window that asked for
        it."""
        task = asyncio.create_task(work)
        self._works.add(task)
        task.add_done_callback(self._worked)
        return task

    def _worked(self, task: asyncio.Task[Any]) -> None:
        self._works.discard(task)
        if not task.cancelled():
            task.exception()  # told to whoever asked, if that one still listens

    async def tell_state(self) -> None:
        """Tell every window how the part stands, and evaluate it."""
        self.send_part(await self.state(), self.windows)
        self.picture.evaluate_soon()

    async def changed(self, step: str, acknowledge: Acknowledge) -> None:
        """Tell what has been kept: the part to all, done to whoever asked, then what follows from it."""
        state = await self.state()
        self.send_part(state, self.windows)
        acknowledge(state.edition, step)
        self.leave_to(self.picture.show_sketches())
        self.picture.evaluate_soon()

    def tell(self, message: dict[str, Any]) -> None:
        """Send a message to every window."""
        for window in list(self.windows):
            window.send(message)

    async def answer(self, asked: dict[str, Any]) -> dict[str, Any]:
        """Return the answer to a question about the part as it stands."""
        state = await self.state()
        if asked.get("of") == "page":  # what the title block says of the version
            asked = {**asked, "version": f"v{state.version}", "date": state.made}
        found: dict[str, Any] = await self.builds.ask("answer", {"document": state.document, "ask": asked})
        return found

    async def drag(self, request: dict[str, Any]) -> dict[str, Any]:
        """Move sketch geometry without keeping it; `first` takes hold."""
        first = request.pop("first")
        if first:
            request["document"] = (await self.state()).document
        found: dict[str, Any] = await self.pen_call("drag", request)
        return found

    async def ask_pen(self, operation: str, request: dict[str, Any]) -> Any:
        """Ask the pen something about the part as it stands."""
        return await self.pen_call(operation, {**request, "document": (await self.state()).document})

    async def pen_call(
        self,
        operation: str,
        request: dict[str, Any],
        progress: Callable[[dict[str, Any]], None] | None = None,
    ) -> Any:
        """Ask the pen; raises WendalError where it does not come to an end."""
        request = {"taken": self.picture.taken, **request}
        for _ in range(2):
            try:
                return await self._pen.call(self.part, operation, request, progress)
            except WorkerDied:
                continue
            except WorkerTooSlow as error:
                raise WendalError(
                    "Solving this took too long and was ended; nothing was changed. Take smaller steps."
                ) from error
        raise WendalError(
            "The drawing worker ended while it solved this; nothing was changed. Try a smaller step."
        )

    def send_part(self, state: PartState, windows: list[Window]) -> None:
        """Send windows the part, and of its steps what they have not."""
        message, steps = _part_message(state)
        for window in list(windows):
            window.hand(steps, list(steps), "part")
            window.send(message)


def _part_message(state: PartState) -> tuple[dict[str, Any], dict[str, bytes]]:
    """Return the part as a message, and the content of its steps by digest: a window is sent those alone that
    it has not."""
    document = json.loads(state.document)
    content = [json.dumps(step, separators=(",", ":")).encode() for step in document["steps"]]
    steps = {f"s{blake2b(c, digest_size=11).hexdigest()}": c for c in content}
    return {
        "type": "part",
        "edition": state.edition,
        "version": state.version,
        "undo": state.undo,
        "redo": state.redo,
        "document": {**document, "steps": []},
        "steps": list(steps),
    }, steps
