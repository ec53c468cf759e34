"""Open parts: one hub a part, which orders its edits, evaluates it, and tells every window what changed."""

from __future__ import annotations

import asyncio
import json
import logging
import time
from collections import OrderedDict
from collections.abc import Callable, Collection, Coroutine
from contextlib import suppress
from dataclasses import replace
from hashlib import blake2b
from typing import Any

from wendal.core.errors import StepError, WendalError
from wendal.core.route import todays
from wendal.log import about
from wendal.store import PartStore
from wendal.store.rows import PartState
from wendal.store.transactions import Stale, StoreError
from wendal.workers import Pool, WorkerDied, WorkerTooSlow
from wendal.workers.shelf import Shelf

from .branches import Branches
from .builds import Builds, Superseded
from .commits import kept
from .trials import Trials
from .window import Window

__all__ = ["Acknowledge", "Hub", "refusal"]

log = logging.getLogger(__name__)
KEPT_BYTES = 256 * 2**20
NOT_BUILDING = {"name", "visible", "suppressed"}  # fields whose change needs no successful build
KEYS_KEPT = 400
READIED = 0.25  # s in which nothing else is asked, before what is previewed is made ready to be shown
WAITS = "(waiting for another part)"
LEFT = 1.0  # s after its last window has gone that a part is built on for
RESTED = 2.0  # s without a change before a part is looked over as a whole


Acknowledge = Callable[[int, str], None]  # takes the edition that was kept, and the step it concerns


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
        self.lock = asyncio.Lock()
        self._state: PartState | None = None
        self.blobs: OrderedDict[str, bytes] = OrderedDict()
        self._dirty, self._task = False, None  # type: bool, asyncio.Task[None] | None
        self._showing: PartState | None = None  # the state that is, or was last, evaluated to be shown
        self.asked = 0.0  # when it was last asked for
        self._keys: OrderedDict[str, str] = (
            OrderedDict()
        )  # edits that were kept, by their own keys: the step each concerns
        self._works: set[asyncio.Task[Any]] = set()
        self.trials = Trials(self)
        self.branches = Branches(self)
        self._resting: asyncio.TimerHandle | None = None
        self._readying: asyncio.TimerHandle | None = None
        self._previews = 0  # how often something was previewed or foreseen
        self._taken: dict[str, Any] = {}  # where the model puts what sketches took in from it

    async def state(self) -> PartState:
        """Return the part as it stands."""
        while self._state is None:
            read = await asyncio.to_thread(self._read)
            if (
                self._state is None
                # Whoever asked at the same time has the same one: by it an evaluation knows that it is not
                # outdated.
            ):
                self._state = replace(
                    read, document=todays(read.document)
                )  # kept as it was written until it is changed
        return self._state

    def _read(self) -> PartState:
        if self.version:
            return self.store.version(self.part, self.version)
        return self.store.state(self.part)

    def present(self) -> None:
        """Raise WendalError where the part is only looked at as it was."""
        if self.version:
            raise WendalError(
                f"This is v{self.version} as it was, and it stays so. Go back to it, or to the present, to "
                "change something.",
            )

    async def join(self, window: Window) -> None:
        """Show the part in a window."""
        state = await self.state()
        self.windows.append(window)
        self._send_part(state, [window])
        self.evaluate_soon()

    @property
    def idle(self) -> bool:
        """Whether nobody looks at the part and nothing is done for it."""
        return not self.windows and not self._works and (self._task is None or self._task.done())

    def leave(self, window: Window) -> None:
        """Forget a window; when the last one has gone for a moment, nothing is built for it any more."""
        if window in self.windows:
            self.windows.remove(window)
            asyncio.get_running_loop().call_later(LEFT, self._rest)

    def _rest(self) -> None:
        """End what is built for nobody; an edit that is under way is made."""
        if not self.windows and not self.lock.locked():
            self.builds.rest()
            self.leave_to(self.trials.stop())

    def close(self) -> None:
        """The part is gone: end all that is done for it."""
        self.rest_no_more()
        self.builds.close()
        self.leave_to(self.trials.stop())

    def rest_no_more(self) -> None:
        """Do not look the part over: it is gone."""
        for waiting in (self._resting, self._readying):
            if waiting:
                waiting.cancel()

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

    async def command(
        self,
        edition: int,
        command: dict[str, Any],
        acknowledge: Acknowledge = lambda edition, step: None,
        key: str = "",
    ) -> str:
        """Apply and keep a command; return the step it concerns. Raises WendalError, and then nothing has
        changed.

        acknowledge : called as soon as it is kept, before anything is computed or shown that follows from it.
        key : the command's own; one that was kept already is acknowledged again, and not done twice.
        """
        with about(part=self.part, edit=key):
            work = self.leave_to(self._command(edition, command, acknowledge, self.builds.cancels, key))
        step: str = await asyncio.shield(work)
        return step

    async def _command(
        self, edition: int, command: dict[str, Any], acknowledge: Acknowledge, cancels: int, key: str
    ) -> str:
        began = time.perf_counter()
        self.present()
        async with self.lock:
            if (known := await self._known(key, edition)) is not None:
                acknowledge((await self.state()).edition, known)
                return known
            state = await self.at_edition(edition)
            self.builds.take_up_again()
            if command["do"] == "edit_sketch" and command["edit"]["op"] == "take_in":
                command["edit"]["found"] = await self.builds.ask(
                    "trace", {"document": state.document, "step": command["step"], "edit": command["edit"]}
                )
            changed = await self._pen_call("command", {"document": state.document, "command": command})
            if _must_build(command):
                taken = await self._check_build(changed, cancels)
                if changed["step"] in taken:  # how it came out is kept with it
                    request = {"document": changed["document"], "taken": taken}
                    changed["document"] = await self._pen_call("settle", request)
            record = json.dumps({"key": key, "step": str(changed["step"]), "command": command})
            await self.keep_state(
                self.store.commit,
                edition,
                changed["name"],
                changed["document"],
                changed["summary"],
                record,
            )
            self._done_with(key, str(changed["step"]))
            took = {"step": changed["step"], "milliseconds": _since(began)}
            log.info("%s is kept", command["do"], extra=took)
            await self.changed(changed["step"], acknowledge)
        return str(changed["step"])

    async def at_edition(self, edition: int) -> PartState:
        """Return the part at the edition an edit was made for; raises Stale.

        A hub that has fallen behind reads again first.
        """
        state = await self.state()
        if edition != state.edition:
            self._state = None
            state = await self.state()
        if edition != state.edition:
            self._send_part(state, self.windows)
            raise Stale()
        return state

    async def _known(self, key: str, edition: int) -> str | None:
        """Return the step of an edit that was kept under this key, None for a new one."""
        if not key or key in self._keys:
            return self._keys.get(key) if key else None
        if self._state is not None and self._state.edition == edition:
            return None  # made for the part as it stands, so it is new
        found: str | None = await asyncio.to_thread(self.store.step_of, self.part, key)
        return found

    def _done_with(self, key: str, step: str) -> None:
        if key:
            self._keys[key] = step
            while len(self._keys) > KEYS_KEPT:
                self._keys.popitem(last=False)

    async def keep_state(self, move: Callable[..., PartState], edition: int, *arguments: Any) -> None:
        """Change the part in the store. Whatever goes wrong, what the store has is read again and told."""
        try:
            state = await kept(self.store, self.part, move, edition, *arguments)
            self._state = replace(state, document=todays(state.document))
        except StoreError:
            self._state = None
            self.leave_to(self._tell_state())
            raise

    async def read_again(self) -> None:
        """Take the part as the store has it; tell it where it is not what was shown."""
        async with self.lock:
            known, self._state = self._state, None
            try:
                if known is None or (await self.state()).edition != known.edition:
                    await self._tell_state()
            except WendalError as error:
                self.tell(refusal(0, error))

    async def _tell_state(self) -> None:
        self._send_part(await self.state(), self.windows)
        self.evaluate_soon()

    async def _check_build(self, changed: dict[str, Any], cancels: int) -> dict[str, Any]:
        """Return what the model tells of the part's steps (see `taken_now`); raises StepError when the step
        that a command makes or edits can not be built.

        cancels : how often it was cancelled when this began.
        """
        try:
            result = await self.builds.ask(
                "evaluate",
                {"document": changed["document"], "has": list(self.blobs)},
                lambda: self.builds.cancels == cancels,
            )
        except Superseded as error:
            raise WendalError(
                "Building this was cancelled; nothing was changed. Accept it again when you want it."
            ) from error
        self.keep(result["blobs"])
        report = next((r for r in result["reports"] if r["id"] == changed["step"]), None)
        if report and report["state"] == "stopped":
            raise StepError(report["message"], field=report["field"], step=changed["step"])
        return dict(result["taken"])

    async def move(
        self, edition: int, way: str, acknowledge: Acknowledge = lambda edition, step: None, key: str = ""
    ) -> None:
        """Undo or redo. Raises WendalError. key : as a command's."""
        await asyncio.shield(self.leave_to(self._move(edition, way, acknowledge, key)))

    async def _move(self, edition: int, way: str, acknowledge: Acknowledge, key: str) -> None:
        self.present()
        async with self.lock:
            if key and key in self._keys:
                acknowledge((await self.state()).edition, "")
                return
            await self.at_edition(edition)
            self.builds.take_up_again()
            await self.keep_state(getattr(self.store, way), edition)
            self._done_with(key, "")
            await self.changed("", acknowledge)

    async def changed(self, step: str, acknowledge: Acknowledge) -> None:
        """Tell what has been kept: the part to all, done to whoever asked, then what follows from it."""
        state = await self.state()
        self._send_part(state, self.windows)
        acknowledge(state.edition, step)
        self.leave_to(self._show_sketches())
        self.evaluate_soon()

    async def _show_sketches(self) -> None:
        await asyncio.gather(*(self.show_sketch(w) for w in list(self.windows)))

    def tell(self, message: dict[str, Any]) -> None:
        """Send a message to every window."""
        for window in list(self.windows):
            window.send(message)

    async def show_sketch(self, window: Window) -> None:
        """Send a window the sketch it has open."""
        window.showing += 1
        showing, step = window.showing, window.sketch
        if not step:
            return
        state = await self.state()

        def send(message: dict[str, Any]) -> None:
            if showing == window.showing:  # what was asked for later is not overtaken
                window.send({**message, "edition": state.edition})

        try:
            found = await self._pen_call(
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
        state, cancels = await self.state(), self.builds.cancels
        try:
            result = await self.builds.ask(
                "preview",
                {"document": state.document, "command": command, "has": list(self.blobs), "seek": seek},
                lambda: (
                    number >= window.preview
                    and not window.dropped.is_set()
                    and self.builds.cancels == cancels
                ),
            )
        except Superseded as error:
            if self.builds.cancels != cancels:
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
        self.keep(result["blobs"], wanted)
        window.hand(self.blobs, wanted, "preview")
        window.send({"type": "preview", "id": number, "report": result["report"], "preview": shown})
        if command["do"] == "add_step" and result["report"]["state"] != "stopped":
            self._ready_soon(command)

    async def foresee(self, window: Window, command: dict[str, Any]) -> dict[str, Any]:
        """Return what a command would reach, unless the window asks for a preview before that is begun."""
        state, asked = await self.state(), window.preview
        self._previews += 1
        found: dict[str, Any] = await self.builds.ask(
            "foresee",
            {"document": state.document, "command": command},
            lambda: asked == window.preview and not window.dropped.is_set(),
        )
        self._ready_soon(command)
        return found

    async def answer(self, asked: dict[str, Any]) -> dict[str, Any]:
        """Return the answer to a question about the part as it stands."""
        state = await self.state()
        if asked.get("of") == "page":  # what the title block says of the version
            asked = {**asked, "version": f"v{state.version}", "date": state.made}
        found: dict[str, Any] = await self.builds.ask("answer", {"document": state.document, "ask": asked})
        return found

    def _ready_soon(self, command: dict[str, Any]) -> None:
        """Have what a command would come to packed when nothing else is asked for a moment: accepted, it is
        then shown at once."""
        if self._readying:
            self._readying.cancel()
        previews, state = self._previews, self._state
        if state is None:
            return
        request = {"document": state.document, "command": command}

        def wanted() -> bool:
            return previews == self._previews and state is self._state and not self._dirty

        async def ready() -> None:
            if wanted():
                with suppress(WendalError):  # it is told when it is accepted
                    self.keep(await self.builds.ask("ready", {**request, "has": list(self.blobs)}, wanted))

        self._readying = asyncio.get_running_loop().call_later(READIED, lambda: self.leave_to(ready()))

    async def drag(self, request: dict[str, Any]) -> dict[str, Any]:
        """Move sketch geometry without keeping it; `first` takes hold."""
        first = request.pop("first")
        if first:
            request["document"] = (await self.state()).document
        found: dict[str, Any] = await self._pen_call("drag", request)
        return found

    async def ask_pen(self, operation: str, request: dict[str, Any]) -> Any:
        """Ask the pen something about the part as it stands."""
        return await self._pen_call(operation, {**request, "document": (await self.state()).document})

    def evaluate_soon(self) -> None:
        """Evaluate the part as it stands, after whatever evaluation is under way."""
        self._dirty = True
        if self._task is None or self._task.done():
            self._task = asyncio.create_task(self._evaluate())
        elif self._showing is not self._state:
            self.builds.leave_off()

    async def _evaluate(self) -> None:
        while self._dirty:
            self._dirty = False
            began = time.perf_counter()
            try:
                with about(part=self.part, edit=next(reversed(self._keys), "")):
                    await self._evaluate_once()
                    log.info("evaluated and told", extra={"milliseconds": _since(began)})
            except Superseded:
                # After a cancel the part is told as far as it is remembered; a newer edit is evaluated next.
                self._dirty = self._dirty or (self.builds.held is not None and bool(self.windows))
            except WendalError as error:
                self.tell(refusal(0, error))
            except Exception:  # whatever it is, the part's windows are told, and the next edit is evaluated
                log.exception("evaluating failed by a fault of ours")
                self.tell(
                    refusal(
                        0,
                        WendalError(
                            "Evaluating the part failed inside Wendal; its log says more. The "
                            "part is kept as it is."
                        ),
                    )
                )

    async def _evaluate_once(self) -> None:
        state = self._showing = await self.state()
        for at in {w.at for w in self.windows}:
            request = {"document": state.document, "has": list(self.blobs), "at": at}
            result = await self.builds.ask("evaluate", request, shows=True)
            wanted = _named_by(result["scene"])
            self.keep(result["blobs"], wanted)
            if self._state is not state:
                self._dirty = True  # it is outdated: the newer one is evaluated next
                return
            if result["taken"] != self._taken:
                self._taken = result["taken"]
                await self._show_sketches()
            message = {
                "type": "results",
                "edition": state.edition,
                "reports": result["reports"],
                "ledger": result["ledger"],
                "scene": result["scene"],
            }
            if any(digest not in self.blobs for digest in wanted):
                # Some was thrown out since this was asked: it is asked again, with what is here now.
                self._dirty = True
                return
            for window in [w for w in self.windows if w.at == at]:
                window.hand(self.blobs, wanted, "scene")
                window.send(message)
        if self._resting:
            self._resting.cancel()
        if self.version:
            return  # what is kept on the shelf is the part as it stands
        self._resting = asyncio.get_running_loop().call_later(
            RESTED, lambda: self.leave_to(self._look_over(state))
        )

    async def _look_over(self, state: PartState) -> None:
        """When nothing has changed for a while: have the whole part checked by the kernel, and its picture
        drawn for the list."""

        def wanted() -> bool:
            return self._state is state and not self._dirty

        if not wanted():
            return
        try:
            found = await self.builds.ask("look_over", {"document": state.document}, wanted)
        except Superseded:
            return
        await asyncio.to_thread(self.store.set_picture, self.part, state.version, found["picture"])
        for name in found["broken"] if wanted() else ():
            self.tell(
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
        self.builds.absolve()
        self.builds.take_up_again()
        self.evaluate_soon()

    async def _pen_call(
        self,
        operation: str,
        request: dict[str, Any],
        progress: Callable[[dict[str, Any]], None] | None = None,
    ) -> Any:
        request = {"taken": self._taken, **request}
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

    def keep(self, blobs: dict[str, bytes], wanted: Collection[str] = ()) -> None:
        """Keep content; what was used longest ago goes, but never what is wanted now, nor what a window's
        picture names."""
        self.blobs.update(blobs)
        total = sum(len(b) for b in self.blobs.values())
        if total <= KEPT_BYTES:
            return
        named = frozenset(wanted).union(blobs, *(w.named for w in self.windows))
        for digest in [d for d in self.blobs if d in named]:
            self.blobs.move_to_end(digest)
        for digest in [d for d in self.blobs if d not in named]:
            if total <= KEPT_BYTES:
                break
            total -= len(self.blobs.pop(digest))

    def _send_part(self, state: PartState, windows: list[Window]) -> None:
        message, steps = _part_message(state)
        for window in list(windows):
            window.hand(steps, list(steps), "part")
            window.send(message)


def refusal(number: int, error: WendalError) -> dict[str, Any]:
    """Return a refusal as a message."""
    return {
        "type": "refused",
        "id": number,
        "code": error.code,
        "message": error.message,
        "field": error.field,
        "step": error.step,
        "at": error.at,
        "fights": getattr(error, "fights", []),
        "spare": getattr(error, "spare", False),
    }


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


def _named_by(scene: dict[str, Any]) -> list[str]:
    """Return the digests of all content that a scene names."""
    found = [d for b in scene["bodies"] for d in (*b["faces"], *b["edges"], *b["things"])]
    return found + [s["content"] for s in scene["sketches"]]


def _since(began: float) -> float:
    """Return the milliseconds since a reading of the clock."""
    return round(1000 * (time.perf_counter() - began), 1)


def _must_build(command: dict[str, Any]) -> bool:
    """Tell whether a command is only accepted when its step can be built."""
    if command["do"] == "add_step":
        return True
    if command["do"] != "edit_step":
        return False
    # Of several things taken in that are gone, each is mended by itself.
    return any(f not in NOT_BUILDING and not f.startswith("taken:") for f in command["fields"])
