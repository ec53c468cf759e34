"""The edits of one part: put in order, applied, kept, and told apart from those that were kept already."""

from __future__ import annotations

import asyncio
import json
import logging
import time
from collections import OrderedDict
from collections.abc import Callable
from dataclasses import replace
from typing import TYPE_CHECKING, Any

from wendal.core.errors import StepError, WendalError
from wendal.core.route import todays
from wendal.log import about, since
from wendal.store.rows import PartState
from wendal.store.transactions import Stale, StoreError

from .builds import Superseded
from .commits import kept
from .refusals import refusal

if TYPE_CHECKING:
    from .hub import Hub

__all__ = ["Acknowledge", "Edits"]

log = logging.getLogger(__name__)
NOT_BUILDING = {"name", "visible", "suppressed"}  # fields whose change needs no successful build
KEYS_KEPT = 400

Acknowledge = Callable[[int, str], None]  # takes the edition that was kept, and the step it concerns


class Edits:
    """The part of a hub as it is kept, and what changes it. lock : held by whatever changes it."""

    def __init__(self, hub: Hub) -> None:
        self._hub = hub
        self.lock = asyncio.Lock()
        self._state: PartState | None = None
        self._keys: OrderedDict[str, str] = (
            OrderedDict()
        )  # edits that were kept, by their own keys: the step each concerns

    @property
    def known(self) -> PartState | None:
        """The part as it stands, where it has been read."""
        return self._state

    @property
    def last(self) -> str:
        """The key of the edit that was kept last."""
        return next(reversed(self._keys), "")

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
        if self._hub.version:
            return self._hub.store.version(self._hub.part, self._hub.version)
        return self._hub.store.state(self._hub.part)

    def present(self) -> None:
        """Raise WendalError where the part is only looked at as it was."""
        if self._hub.version:
            raise WendalError(
                f"This is v{self._hub.version} as it was, and it stays so. Go back to it, or to the present, "
                "to change something.",
            )

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
        with about(part=self._hub.part, edit=key):
            work = self._hub.leave_to(
                self._command(edition, command, acknowledge, self._hub.builds.cancels, key)
            )
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
            self._hub.builds.take_up_again()
            if command["do"] == "edit_sketch" and command["edit"]["op"] == "take_in":
                command["edit"]["found"] = await self._hub.builds.ask(
                    "trace", {"document": state.document, "step": command["step"], "edit": command["edit"]}
                )
            changed = await self._hub.pen_call("command", {"document": state.document, "command": command})
            if _must_build(command):
                taken = await self._check_build(changed, cancels)
                if changed["step"] in taken:  # how it came out is kept with it
                    request = {"document": changed["document"], "taken": taken}
                    changed["document"] = await self._hub.pen_call("settle", request)
            record = json.dumps({"key": key, "step": str(changed["step"]), "command": command})
            await self.keep_state(
                self._hub.store.commit,
                edition,
                changed["name"],
                changed["document"],
                changed["summary"],
                record,
            )
            self._done_with(key, str(changed["step"]))
            took = {"step": changed["step"], "milliseconds": since(began)}
            log.info("%s is kept", command["do"], extra=took)
            await self._hub.changed(changed["step"], acknowledge)
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
            self._hub.send_part(state, self._hub.windows)
            raise Stale()
        return state

    async def _known(self, key: str, edition: int) -> str | None:
        """Return the step of an edit that was kept under this key, None for a new one."""
        if not key or key in self._keys:
            return self._keys.get(key) if key else None
        if self._state is not None and self._state.edition == edition:
            return None  # made for the part as it stands, so it is new
        found: str | None = await asyncio.to_thread(self._hub.store.step_of, self._hub.part, key)
        return found

    def _done_with(self, key: str, step: str) -> None:
        if key:
            self._keys[key] = step
            while len(self._keys) > KEYS_KEPT:
                self._keys.popitem(last=False)

    async def keep_state(self, move: Callable[..., PartState], edition: int, *arguments: Any) -> None:
        """Change the part in the store. Whatever goes wrong, what the store has is read again and told."""
        try:
            state = await kept(self._hub.store, self._hub.part, move, edition, *arguments)
            self._state = replace(state, document=todays(state.document))
        except StoreError:
            self._state = None
            self._hub.leave_to(self._hub.tell_state())
            raise

    async def read_again(self) -> None:
        """Take the part as the store has it; tell it where it is not what was shown."""
        async with self.lock:
            known, self._state = self._state, None
            try:
                if known is None or (await self.state()).edition != known.edition:
                    await self._hub.tell_state()
            except WendalError as error:
                self._hub.tell(refusal(0, error))

    async def _check_build(self, changed: dict[str, Any], cancels: int) -> dict[str, Any]:
        """Return what the model tells of the part's steps (see `taken_now`); raises StepError when the step
        that a command makes or edits can not be built.

        cancels : how often it was cancelled when this began.
        """
        try:
            result = await self._hub.builds.ask(
                "evaluate",
                {"document": changed["document"], "has": self._hub.contents.has},
                lambda: self._hub.builds.cancels == cancels,
            )
        except Superseded as error:
            raise WendalError(
                "Building this was cancelled; nothing was changed. Accept it again when you want it."
            ) from error
        self._hub.contents.keep(result["blobs"])
        report = next((r for r in result["reports"] if r["id"] == changed["step"]), None)
        if report and report["state"] == "stopped":
            raise StepError(report["message"], field=report["field"], step=changed["step"])
        return dict(result["taken"])

    async def move(
        self, edition: int, way: str, acknowledge: Acknowledge = lambda edition, step: None, key: str = ""
    ) -> None:
        """Undo or redo. Raises WendalError. key : as a command's."""
        await asyncio.shield(self._hub.leave_to(self._move(edition, way, acknowledge, key)))

    async def _move(self, edition: int, way: str, acknowledge: Acknowledge, key: str) -> None:
        self.present()
        async with self.lock:
            if key and key in self._keys:
                acknowledge((await self.state()).edition, "")
                return
            await self.at_edition(edition)
            self._hub.builds.take_up_again()
            await self.keep_state(getattr(self._hub.store, way), edition)
            self._done_with(key, "")
            await self._hub.changed("", acknowledge)


def _must_build(command: dict[str, Any]) -> bool:
    """Tell whether a command is only accepted when its step can be built."""
    if command["do"] == "add_step":
        return True
    if command["do"] != "edit_step":
        return False
    # Of several things taken in that are gone, each is mended by itself.
    return any(f not in NOT_BUILDING and not f.startswith("taken:") for f in command["fields"])
