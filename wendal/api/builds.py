"""What a part asks of its geometry worker: steps that take the worker down are condemned, and what is being
built can be cancelled."""

from __future__ import annotations

import asyncio
from collections.abc import Callable
from typing import Any

from wendal.core.errors import WendalError
from wendal.workers import Pool, WorkerDied, WorkerTooSlow

__all__ = ["Builds", "Superseded"]

TRIES = 50  # of one request: each that fails condemns another step


class Superseded(WendalError):
    """What nobody waits for any more."""

    code = "superseded"


class Builds:
    """The line to the geometry workers of one part.

    announce : told each step that is really built, as the worker says it.
    """

    def __init__(self, part: int, workers: Pool, announce: Callable[[dict[str, str]], None]) -> None:
        self._part, self._workers, self._announce = part, workers, announce
        self.cancels = 0  # how often it was cancelled
        self.condemned: dict[
            str, str
        ] = {}  # keys of steps that are not to be built, with what is said of each
        self._given_up: set[str] = set()  # condemned only because they were cancelled
        self._building: dict[str, str] | None = None
        self._cancelled = ""  # the key of what was being built when it was cancelled

    async def ask(
        self, operation: str, request: dict[str, Any], wanted: Callable[[], bool] = lambda: True
    ) -> Any:
        """Ask the geometry worker. A step that takes the worker down, or too long, is condemned, and the rest
        goes on.

        wanted : asked when its turn comes; what is not wanted any more is not sent, and raises Superseded.
        """
        building: dict[str, str] | None = None  # for this request; others wait for their turns meanwhile

        def said(step: dict[str, str]) -> None:
            nonlocal building
            building = self._building = step
            self._announce(step)

        for attempt in range(TRIES):
            building = None
            try:
                return await self._workers.call(
                    self._part,
                    operation,
                    {**request, "part": self._part, "condemned": self.condemned},
                    said,
                    wanted,
                )
            except asyncio.CancelledError:
                if wanted():
                    raise
                raise Superseded("This is not asked for any more.") from None
            except (WorkerDied, WorkerTooSlow) as error:
                await asyncio.sleep(0)  # what it said last is still on its way
                if building is not None:
                    self._condemn(building["key"], error)
                elif attempt > 2:
                    break
            finally:
                if self._building is building:
                    self._building = None
        raise WendalError("The geometry workers keep ending. The part is kept as it is; start Wendal again.")

    def _condemn(self, key: str, error: Exception) -> None:
        slow = (
            f"This took longer than {self._workers.seconds:.0f} s and was ended. Make it simpler, or try "
            "again."
        )
        died = (
            "The geometry worker ended while it built this; a new one has taken over. Try again, or change "
            "the step."
        )
        if cancelled := key == self._cancelled:
            self._given_up.add(key)
            self._cancelled = ""
        self.condemned[key] = (
            "Building this was cancelled. Try again when you want it."
            if cancelled
            else slow
            if isinstance(error, WorkerTooSlow)
            else died
        )

    def cancel(self) -> None:
        """End what is being built, be it under an accept, and give up what waits for it; the step it was at
        says so."""
        self.cancels += 1
        if self._building is not None:
            self._cancelled = self._building["key"]
            self._workers.interrupt(self._part)

    def take_up_again(self) -> None:
        """What was cancelled is built when it is asked for again."""
        for key in self._given_up:
            self.condemned.pop(key, None)
        self._given_up.clear()
