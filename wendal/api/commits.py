"""Changes of a part in the store, whose end is known before it is told."""

from __future__ import annotations

import asyncio
import time
from collections.abc import Callable
from typing import Any

from wendal.store import PartStore
from wendal.store.rows import PartState
from wendal.store.transactions import Stale, StoreDown, StoreError, StoreLost

__all__ = ["kept"]

UNKNOWN = 90.0  # s that a database may not answer before a change's end is told as not known


async def kept(
    store: PartStore, part: int, move: Callable[..., PartState], edition: int, *arguments: Any
) -> PartState:
    """Make a change (a commit, an undo or a redo) of a part at an edition; return the part after it.

    Where the database went while it was made, whether it was kept is looked up, and it is made again if not.
    Its caller alone changes the part, so at another edition it was kept. Until the database answers that is
    not known, and not guessed. Raises StoreError, also where it does not answer for long.
    """
    try:
        return await asyncio.to_thread(move, part, edition, *arguments)
    except StoreLost:
        pass
    until = time.monotonic() + UNKNOWN
    while True:
        try:
            state = await asyncio.to_thread(store.state, part)
            if state.edition != edition:
                return state
            return await asyncio.to_thread(move, part, edition, *arguments)
        except Stale:
            continue  # it was kept a moment ago
        except StoreDown as error:
            if time.monotonic() > until:
                raise StoreError(
                    "It is not known whether this was saved: the database does not answer. When it is back, "
                    "the part is shown as it was kept."
                ) from error
            await asyncio.sleep(0.25)
