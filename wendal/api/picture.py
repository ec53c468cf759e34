"""The picture of one part: evaluated and told, previewed, foreseen, made ready, looked over at rest."""

from __future__ import annotations

import asyncio
import logging
import time
from contextlib import suppress
from typing import TYPE_CHECKING, Any

from wendal.core.errors import WendalError
from wendal.log import about, since
from wendal.store.rows import PartState

from .builds import Superseded
from .refusals import refusal
from .window import Window

if TYPE_CHECKING:
    from .hub import Hub

__all__ = ["Picture"]

log = logging.getLogger(__name__)
READIED = 0.25  # s in which nothing else is asked, before what is previewed is made ready to be shown
RESTED = 2.0  # s without a change before a part is looked over as a whole


class Picture:
    """What the windows of a hub see of its part."""

    def __init__(self, hub: Hub) -> None:
        self._hub = hub
        self._dirty, self._task = False, None  # type: bool, asyncio.Task[None] | None
        self._showing: PartState | None = None  # the state that is, or was last, evaluated to be shown
        self._resting: asyncio.TimerHandle | None = None
        self._readying: asyncio.TimerHandle | None = None
        self._previews = 0  # how often something was previewed or foreseen
        self.taken: dict[str, Any] = {}  # where the model puts what sketches took in from it

    @property
    def idle(self) -> bool:
        """Whether nothing is evaluated."""
        return self._task is None or self._task.done()

    def rest_no_more(self) -> None:
        """Do not look the part over: it is gone."""
        for waiting in (self._resting, self._readying):
            if waiting:
                waiting.cancel()

    async def show_sketches(self) -> None:
        """Send every window the sketch it has open."""
        await asyncio.gather(*(self.show_sketch(w) for w in list(self._hub.windows)))

    async def show_sketch(self, window: Window) -> None:
        """Send a window the sketch it has open."""
        window.showing += 1
        showing, step = window.showing, window.sketch
        if not step:
            return
        state = await self._hub.edits.state()

        def send(message: dict[str, Any]) -> None:
            if showing == window.showing:  # what was asked for later is not overtaken
                window.send({**message, "edition": state.edition})

        try:
            found = await self._hub.pen_call(
                "sketch",
                {"document": state.document, "step": step},
                lambda view: send({"type": "sketch", "view": view}),
            )
        except WendalError as error:
            if showing == window.showing:
                window.sketch = ""
                window.send(refusal(0, error))
            return
        send(
            {"type": "sketch", "view": found["view"]}
            if "view" in found
            else {"type": "freedoms", "step": step, **found["words"]}
        )

    async def preview(self, window: Window, number: int, command: dict[str, Any], seek: bool = False) -> None:
        """Answer a preview, unless the window has asked for a newer one meanwhile. seek : where a size does
        not work, one that does is looked for."""
        window.preview = max(window.preview, number)
        self._previews += 1
        await asyncio.sleep(0)
        if number < window.preview:
            raise Superseded("A newer preview was asked for.")
        state, cancels = await self._hub.edits.state(), self._hub.builds.cancels
        try:
            result = await self._hub.builds.ask(
                "preview",
                {"document": state.document, "command": command, "has": self._hub.contents.has, "seek": seek},
                lambda: (
                    number >= window.preview
                    and not window.dropped.is_set()
                    and self._hub.builds.cancels == cancels
                ),
            )
        except Superseded as error:
            if self._hub.builds.cancels != cancels:
                raise WendalError(
                    "Previewing this was cancelled. Change something, or accept it to have it built."
                ) from error
            raise
        if number < window.preview:
            raise Superseded("A newer preview was asked for.")
        shown = result["preview"]
        wanted = [
            d for w in ("added", "removed") if w in shown for d in (*shown[w]["faces"], *shown[w]["edges"])
        ]
        self._hub.contents.keep(result["blobs"], wanted)
        self._hub.contents.hand(window, wanted, "preview")
        window.send({"type": "preview", "id": number, "report": result["report"], "preview": shown})
        if command["do"] == "add_step" and result["report"]["state"] != "stopped":
            self._ready_soon(command)

    async def foresee(self, window: Window, command: dict[str, Any]) -> dict[str, Any]:
        """Return what a command would reach, unless the window asks for a preview before that is begun."""
        state, asked = await self._hub.edits.state(), window.preview
        self._previews += 1
        found: dict[str, Any] = await self._hub.builds.ask(
            "foresee",
            {"document": state.document, "command": command},
            lambda: asked == window.preview and not window.dropped.is_set(),
        )
        self._ready_soon(command)
        return found

    def _ready_soon(self, command: dict[str, Any]) -> None:
        """Have what a command would come to packed when nothing else is asked for a moment: accepted, it is
        then shown at once."""
        if self._readying:
            self._readying.cancel()
        previews, state, cancels = self._previews, self._hub.edits.known, self._hub.builds.cancels
        if state is None:
            return
        request = {"document": state.document, "command": command}

        def wanted() -> bool:
            return (
                previews == self._previews
                and state is self._hub.edits.known
                and cancels == self._hub.builds.cancels
                and not self._dirty
            )

        async def ready() -> None:
            if wanted():
                with suppress(WendalError):  # it is told when it is accepted
                    self._hub.contents.keep(
                        await self._hub.builds.ask(
                            "ready", {**request, "has": self._hub.contents.has}, wanted
                        )
                    )

        self._readying = asyncio.get_running_loop().call_later(READIED, lambda: self._hub.leave_to(ready()))

    def evaluate_soon(self) -> None:
        """Evaluate the part as it stands, after whatever evaluation is under way."""
        self._dirty = True
        if self._task is None or self._task.done():
            self._task = asyncio.create_task(self._evaluate())
        elif self._showing is not self._hub.edits.known:
            self._hub.builds.leave_off()

    async def _evaluate(self) -> None:
        while self._dirty:
            self._dirty = False
            began = time.perf_counter()
            try:
                with about(part=self._hub.part, edit=self._hub.edits.last):
                    await self._evaluate_once()
                    log.info("evaluated and told", extra={"milliseconds": since(began)})
            except Superseded:
                # After a cancel the part is told as far as it is remembered; a newer edit is evaluated next.
                self._dirty = self._dirty or (self._hub.builds.held is not None and bool(self._hub.windows))
            except WendalError as error:
                self._hub.tell(refusal(0, error))
            except Exception:  # whatever it is, the part's windows are told, and the next edit is evaluated
                log.exception("evaluating failed by a fault of ours")
                self._hub.tell(
                    refusal(
                        0,
                        WendalError(
                            "Evaluating the part failed inside Wendal; its log says more. The "
                            "part is kept as it is."
                        ),
                    )
                )

    async def _evaluate_once(self) -> None:
        state = self._showing = await self._hub.edits.state()
        for at in {w.at for w in self._hub.windows}:
            request = {"document": state.document, "has": self._hub.contents.has, "at": at}
            result = await self._hub.builds.ask("evaluate", request, shows=True)
            wanted = _named_by(result["scene"])
            self._hub.contents.keep(result["blobs"], wanted)
            if self._hub.edits.known is not state:
                self._dirty = True  # it is outdated: the newer one is evaluated next
                return
            if result["taken"] != self.taken:
                self.taken = result["taken"]
                await self.show_sketches()
            message = {
                "type": "results",
                "edition": state.edition,
                "reports": result["reports"],
                "ledger": result["ledger"],
                "scene": result["scene"],
            }
            if self._hub.contents.lacks(wanted):
                # Some was thrown out since this was asked: it is asked again, with what is here now.
                self._dirty = True
                return
            for window in [w for w in self._hub.windows if w.at == at]:
                self._hub.contents.hand(window, wanted, "scene")
                window.send(message)
        if self._resting:
            self._resting.cancel()
        if self._hub.version or self._hub.builds.held is not None:
            return  # what is kept on the shelf is the part as it stands, whole
        self._resting = asyncio.get_running_loop().call_later(
            RESTED, lambda: self._hub.leave_to(self._look_over(state))
        )

    async def _look_over(self, state: PartState) -> None:
        """When nothing has changed for a while: have the whole part checked by the kernel, and its picture
        drawn for the list."""

        def wanted() -> bool:
            return self._hub.edits.known is state and not self._dirty and self._hub.builds.held is None

        if not wanted():
            return
        try:
            found = await self._hub.builds.ask("look_over", {"document": state.document}, wanted)
        except Superseded:
            return
        await asyncio.to_thread(self._hub.store.set_picture, self._hub.part, state.version, found["picture"])
        for name in found["broken"] if wanted() else ():
            self._hub.tell(
                refusal(
                    0,
                    WendalError(
                        f"Looked at as a whole, {name} is broken, though every step looked sound: the "
                        "kernel finds fault with it. Change "
                        "the step that was built last a little; nothing is exported of it until then."
                    ),
                )
            )

    def retry(self) -> None:
        """Forget what took workers down, and evaluate again."""
        self._hub.builds.absolve()
        self._hub.builds.take_up_again()
        self.evaluate_soon()


def _named_by(scene: dict[str, Any]) -> list[str]:
    """Return the digests of all content that a scene names."""
    found = [d for b in scene["bodies"] for d in (*b["faces"], *b["edges"], *b["things"])]
    return found + [s["content"] for s in scene["sketches"]]
