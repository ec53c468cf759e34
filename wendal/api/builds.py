"""What a part asks of its geometry worker: steps that take the worker down are condemned, and what is being
built can be cancelled."""

from __future__ import annotations

import asyncio
from collections.abc import Callable
from typing import Any

from wendal.core.errors import WendalError
from wendal.core.route import ONWARD
from wendal.settings import settings
from wendal.workers import Pool, WorkerDied, WorkerStopped, WorkerTooSlow
from wendal.workers.shelf import Shelf

__all__ = ["Builds", "Superseded"]

TRIES = 50  # of one request: each that fails condemns another step
CANCELLED = "Building this was cancelled. Try again when you want it."


def _too_long(seconds: float) -> str:
    return (
        f"Building the part took longer than {seconds:.0f} s in all and was left off here. Try again to go "
        "on from what is built."
    )


class Superseded(WendalError):
    """What nobody waits for any more."""

    code = "superseded"


class Builds:
    """The line to the geometry workers of one part.

    announce : told each step that is really built, as the worker says it; one without a name while another
    part's work is waited for.
    """

    def __init__(
        self,
        part: int,
        workers: Pool,
        announce: Callable[[dict[str, str]], None],
        shelf: Shelf | None = None,
    ) -> None:
        self._part, self._workers, self._announce, self._shelf = part, workers, announce, shelf
        self.cancels = 0  # how often it was cancelled
        # Keys of steps that are not to be built, with what is said of each; kept on the shelf with the part.
        self.condemned: dict[str, str] = shelf.condemned(part) if shelf else {}
        # The showing of the part was cancelled at this step ("" for before the first): from there on what is
        # not remembered is not built until it is asked for again. None where nothing is held.
        self.held: str | None = None
        self._why = CANCELLED
        self._at = ""  # the step that was built last to show the part
        self._closed = False  # nobody wants anything of it any more
        self._under_way: list[bool] = []  # of each request, whether it shows the part as it stands
        self._end = asyncio.Event()  # set when what is under way is given up

    async def ask(
        self,
        operation: str,
        request: dict[str, Any],
        wanted: Callable[[], bool] = lambda: True,
        *,
        shows: bool = False,
    ) -> Any:
        """Ask the geometry worker. A step that takes the worker down, or too long, is condemned, and the rest
        goes on.

        wanted : asked when its turn comes; what is not wanted any more is not sent, and raises Superseded, as
        does all that is under way when it is cancelled, at once, be it built or in line. shows : it is to
        show the part as it stands, so that a newer edit makes it outdated, and a cancel holds it.
        """
        building: dict[str, str] | None = None  # for this request; others wait for their turns meanwhile

        def said(step: dict[str, str]) -> None:
            nonlocal building
            if step["key"]:
                building = step
                self._at = step["step"] if shows else self._at
            self._announce(step)

        self._under_way.append(shows)
        limit = None
        if shows:
            self._at = ""
            limit = asyncio.get_running_loop().call_later(
                settings().evaluation_seconds, self.cancel, _too_long(settings().evaluation_seconds)
            )
        try:
            for attempt in range(TRIES):
                if self._closed:
                    break
                building = None
                try:
                    return await self._once(operation, request, said, wanted, shows)
                except WorkerStopped:
                    raise Superseded("This is not asked for any more.") from None
                except (WorkerDied, WorkerTooSlow) as error:
                    await asyncio.sleep(0)  # what it said last is still on its way
                    if building is not None:
                        self._condemn(building["key"], error)
                    elif attempt > 2:
                        break
        finally:
            self._under_way.remove(shows)
            if limit:
                limit.cancel()
        if self._closed:
            raise Superseded("The part was closed.")
        raise WendalError("The geometry workers keep ending. The part is kept as it is; start Wendal again.")

    async def _once(
        self,
        operation: str,
        request: dict[str, Any],
        said: Callable[[dict[str, str]], None],
        wanted: Callable[[], bool],
        shows: bool,
    ) -> Any:
        held = {ONWARD + self.held: self._why} if shows and self.held is not None else {}
        whole = {**request, "part": self._part, "condemned": {**self.condemned, **held}}
        call = asyncio.ensure_future(self._workers.call(self._part, operation, whole, said, wanted))
        ended = asyncio.ensure_future(self._end.wait())
        try:
            await asyncio.wait({call, ended}, return_when=asyncio.FIRST_COMPLETED)
            if not call.done():
                raise Superseded("This was cancelled.")
            if call.cancelled():
                raise Superseded("This is not asked for any more.")
            return call.result()
        finally:
            ended.cancel()
            if not call.done():
                call.cancel()

    def _condemn(self, key: str, error: Exception) -> None:
        slow = (
            f"This took longer than {self._workers.seconds:.0f} s and was ended. Make it simpler, or try "
            "again."
        )
        died = (
            "The geometry worker ended while it built this; a new one has taken over. Try again, or change "
            "the step."
        )
        self.condemned[key] = slow if isinstance(error, WorkerTooSlow) else died
        if self._shelf:
            self._shelf.condemn(self._part, self.condemned)

    def absolve(self) -> None:
        """Forget what took workers down, so that it is tried again."""
        self.condemned.clear()
        if self._shelf:
            self._shelf.condemn(self._part, {})

    def cancel(self, why: str = CANCELLED) -> bool:
        """Give up all that is under way for the part, be it built, under an accept, or in line; tell whether
        there was anything. What is not remembered is not built until it is asked for again, which is said
        with its reason."""
        self.cancels += 1
        any_ = bool(self._under_way)
        if any(self._under_way):
            self.held, self._why = self._at, why
        if any_:
            self._give_up()
        return any_

    def close(self) -> None:
        """Nobody wants anything of the part any more: end what is under way."""
        self._closed = True
        self._give_up()

    def leave_off(self) -> None:
        """Give up showing a state that is out of date, before its next step; what was built so far stays
        remembered. Where anything else is under way, nothing is touched."""
        if self._under_way == [True]:
            self._workers.leave_off(self._part)

    def rest(self) -> None:
        """Nobody looks at the part: end what is built for its picture."""
        if self._under_way:
            self._give_up()

    def _give_up(self) -> None:
        end, self._end = self._end, asyncio.Event()
        end.set()
        self._workers.interrupt(self._part)

    def take_up_again(self) -> None:
        """What was cancelled is built when it is asked for again."""
        self.held = None
