"""Versions and branches of an open part: going back, comparing, bringing together."""

from __future__ import annotations

import asyncio
import json
import time
from dataclasses import asdict
from typing import TYPE_CHECKING, Any

from wendal.core.errors import WendalError
from wendal.core.route import read_part, todays
from wendal.core.route.last_good import Since, since
from wendal.core.trust import Watched
from wendal.store.rows import PartState

from .window import Window

if TYPE_CHECKING:
    from .hub import Hub

__all__ = ["Branches"]

LOOKED_BACK = 40  # versions in which a step that stopped is looked for as it was built
LOOKED_FOR = 30.0  # s


class Branches:
    """What is done with the versions of one open part."""

    def __init__(self, hub: Hub) -> None:
        self._hub = hub

    async def back_to(self, number: int) -> None:
        """Make a version the present one, as a new version on top."""
        await asyncio.shield(self._hub.leave_to(self._back_to(number)))

    async def _back_to(self, number: int) -> None:
        async with self._hub.edits.lock:
            edition = (await self._hub.state()).edition
            old = await asyncio.to_thread(self._hub.store.version, self._hub.part, number)
            self._hub.builds.take_up_again()
            name = str(json.loads(old.document)["name"])
            record = json.dumps({"back_to": number, "step": ""})
            await self._hub.edits.keep_state(
                self._hub.store.commit, edition, name, old.document, f"Back to v{number}", record
            )
            await self._hub.changed("", lambda edition, step: None)

    async def try_on(
        self,
        window: Window,
        values: dict[str, str],
        command: dict[str, Any] | None,
        things: tuple[Watched, ...],
    ) -> dict[str, Any]:
        """Tell how the part would stand and look with other values, or after a command. things : whose places
        are told."""
        state = await self._hub.state()
        request = {
            "document": state.document,
            "values": values,
            "command": command,
            "things": things,
            "has": self._hub.contents.has,
        }
        result = await self._hub.builds.ask("try_on", request, lambda: not window.dropped.is_set())
        self._hand(
            window, result, [b[n] for b in result["found"]["bodies"] for n in ("now", "tried")], "tried"
        )
        return dict(result["found"])

    async def last_good(self, window: Window, step: str) -> dict[str, Any]:
        """Tell in which version a step was built last, and what has changed since in what it hangs on;
        version 0 where none of those looked at is one."""
        hub, until = self._hub, time.monotonic() + LOOKED_FOR
        state = await hub.state()
        now = read_part(state.document)
        now.step(step)
        line = await asyncio.to_thread(hub.store.lineage, hub.part, state.version)
        for part, number in line[1:LOOKED_BACK]:
            if time.monotonic() > until or window.dropped.is_set():
                break
            if part != hub.part:
                continue  # of a branch that was brought in, or of the part that this one began as
            then = await asyncio.to_thread(hub.store.version, part, number)
            request = {"document": then.document, "step": step}
            stood = await hub.builds.ask("stood", request, lambda: not window.dropped.is_set())
            if stood == "built":
                found = since(read_part(then.document), now, step)
                return {"version": number, **asdict(found)}
        return {"version": 0, **asdict(Since())}

    def _hand(self, window: Window, result: dict[str, Any], meshes: list[Any], of: str) -> None:
        wanted = [d for mesh in meshes if mesh for d in (*mesh["faces"], *mesh["edges"])]
        self._hub.contents.keep(result["blobs"], wanted)
        self._hub.contents.hand(window, wanted, of)

    async def compare(
        self,
        window: Window,
        part: int,
        version: int,
        values: dict[str, str],
        others: dict[str, str],
        bodies: list[str],
    ) -> dict[str, Any]:
        """Compare the part as it is looked at with another version, the earlier one first, or with another
        part, which counts as the earlier one. values : with which this part is looked at; others : with which
        the other one is. bodies : two of this part that are compared instead."""
        state = await self._hub.state()
        other = (
            state
            if bodies
            else await asyncio.to_thread(
                lambda: self._hub.store.version(part, version) if version else self._hub.store.state(part)
            )
        )
        before, after = other, state
        if part == self._hub.part and other.version > state.version and not values:
            before, after = state, other
        result = await self._hub.builds.ask(
            "compare",
            {
                "document": todays(after.document),
                "before": todays(before.document),
                "has": self._hub.contents.has,
                "related": await asyncio.to_thread(self._related, part),
                "values": values,
                "others": others,
                "bodies": bodies,
            },
            lambda: not window.dropped.is_set(),
        )
        found = result["found"]
        meshes = [b[name] for b in found["bodies"] for name in ("common", "here", "there")]
        self._hand(window, result, meshes, "compared")
        told = [
            {"part": s.id, "version": s.version, "name": json.loads(s.document)["name"]}
            for s in (before, after)
        ]
        return {**found, "before": told[0], "after": told[1]}

    async def together(self, part: int, version: int, chosen: dict[str, str]) -> dict[str, Any]:
        """Tell what bringing another branch in would come to. version 0 : as it stands."""
        self._hub.edits.present()
        state, found = await self._brought(part, version, chosen)
        return {**found, "edition": state.edition}

    async def _brought(
        self, part: int, version: int, chosen: dict[str, str]
    ) -> tuple[PartState, dict[str, Any]]:
        state = await self._hub.state()
        theirs = await asyncio.to_thread(
            lambda: self._hub.store.version(part, version) if version else self._hub.store.state(part)
        )
        base = await asyncio.to_thread(self._common, state.version, part, theirs.version)
        request = {
            "document": state.document,
            "theirs": todays(theirs.document),
            "base": todays(base.document),
            "chosen": chosen,
        }
        found: dict[str, Any] = await self._hub.builds.ask("together", request)
        return state, {
            **found,
            "of": {"part": part, "version": theirs.version, "name": json.loads(theirs.document)["name"]},
            "base": {"part": base.id, "version": base.version, "name": json.loads(base.document)["name"]},
        }

    def _common(self, version: int, part: int, other: int) -> PartState:
        """Return what two versions have both come from; raises WendalError where there is nothing."""
        mine = self._hub.store.lineage(self._hub.part, version)
        theirs = set(self._hub.store.lineage(part, other))
        found = next((place for place in mine if place in theirs), None)
        if found is None:
            raise WendalError(
                "These two have no version in common, so there is nothing to bring together. Only branches "
                "of one part can be."
            )
        if found in ((self._hub.part, version), (part, other)):
            older = "The other one" if found == (part, other) else "This one"
            raise WendalError(
                f"{older} is a version that the other came from: there is nothing to bring together. Go back "
                "to the version you want instead."
            )
        return self._hub.store.version(*found)

    async def bring_together(self, part: int, version: int, chosen: dict[str, str], edition: int) -> None:
        """Bring another branch in, as one version with two parents. Raises WendalError while something that
        both sides changed is not chosen."""
        self._hub.edits.present()
        await asyncio.shield(self._hub.leave_to(self._bring_together(part, version, chosen, edition)))

    async def _bring_together(self, part: int, version: int, chosen: dict[str, str], edition: int) -> None:
        async with self._hub.edits.lock:
            await self._hub.edits.at_edition(edition)
            state, found = await self._brought(part, version, chosen)
            open_ = [c for c in found["conflicts"] if c["key"] not in chosen]
            if open_:
                raise WendalError(
                    f"Choose first: {open_[0]['where']}, {open_[0]['field']} is changed on both sides."
                )
            other = found["of"]
            record = json.dumps({"together": [other["part"], other["version"]], "step": "", "chosen": chosen})
            words = f"Bring together with v{other['version']} of {other['name']}"
            name = str(json.loads(found["document"])["name"])
            await self._hub.edits.keep_state(
                self._hub.store.commit,
                state.edition,
                name,
                found["document"],
                words,
                record,
                (other["part"], other["version"]),
            )
            await self._hub.changed("", lambda edition, step: None)

    def _related(self, part: int) -> bool:
        """Tell whether another part is of one origin with this one, so that ids mean the same."""
        if part == self._hub.part:
            return True
        roots = []
        for of in (part, self._hub.part):
            at = of
            while (origin := self._hub.store.origin(at)[0]) and origin != at:
                at = origin
            roots.append(at)
        return roots[0] == roots[1]
