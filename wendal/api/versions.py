"""REST: the versions of a part, what they are called, branches of them."""

from __future__ import annotations

import asyncio
from datetime import UTC, datetime
from typing import Literal

from fastapi import APIRouter
from pydantic import BaseModel, Field

from wendal.core.route.differing import StepChange
from wendal.core.route.together import Conflict

from .messages.compared import VersionTold
from .messages.told import ForeseenBody, ForeseenStep
from .parts import Open, PartSummary, create, renamed

__all__ = ["router", "together"]

router = APIRouter(prefix="/api/parts/{part}/versions", tags=["versions"])


class VersionSummary(BaseModel):
    """One version of a part.

    parent : the number of the version before it, 0 for the first. other : the part and version that were
    brought together with it. line : it is on the way to the present one.
    """

    number: int
    parent: int
    summary: str
    name: str
    made: datetime
    other: tuple[int, int] | None = None
    present: bool
    line: bool


class VersionsOfPart(BaseModel):
    """All versions of a part, the latest first.

    origin : the part and version it was branched from. branches : the parts that were branched from it, each
    with the version it began at.
    """

    versions: list[VersionSummary]
    origin: tuple[int, int] | None = None
    branches: list[tuple[int, int]] = []


class VersionName(BaseModel):
    """A name for a version, "" for none."""

    name: str = Field(max_length=80)


@router.get("")
async def versions(part: int, open_: Open) -> VersionsOfPart:
    """List all versions of a part."""
    store = open_.store
    rows = await asyncio.to_thread(store.versions, part)
    origin = await asyncio.to_thread(store.origin, part)
    branches = await asyncio.to_thread(store.branches, part)
    parents = {r.number: r.parent for r in rows}
    line, at = set(), next((r.number for r in rows if r.present), 0)
    while at:
        line.add(at)
        at = parents[at]
    return VersionsOfPart(
        versions=[
            VersionSummary(
                number=r.number,
                parent=r.parent,
                summary=r.summary,
                name=r.name,
                made=r.made.replace(tzinfo=UTC),
                other=r.other if r.other[0] else None,
                present=r.present,
                line=r.number in line,
            )
            for r in rows
        ],
        origin=origin if origin[0] else None,
        branches=branches,
    )


@router.put("/{number}/name", status_code=204)
async def name_version(part: int, number: int, body: VersionName, open_: Open) -> None:
    """Call a version by a name."""
    await asyncio.to_thread(open_.store.name_version, part, number, body.name)


@router.post("/{number}/branch", status_code=201)
async def branch(part: int, number: int, open_: Open) -> PartSummary:
    """Make a new part from a version, which remembers where it came from."""
    state = await asyncio.to_thread(open_.store.version, part, number)
    document = await renamed(open_, state.document, "branch")
    return await create(open_, document, f"Branch of v{number}", origin=(part, number))


@router.post("/{number}/back", status_code=204)
async def back_to(part: int, number: int, open_: Open) -> None:
    """Make a version the present one, as a new version on top; it can be undone."""
    await open_.hub(part).branches.back_to(number)


class OtherBranch(BaseModel):
    """A branch to bring in, and what is chosen where both sides changed something, by its key.

    part : whose; version : 0 for as it stands. edition : of this part, as it was looked at.
    """

    part: int
    version: int = 0
    chosen: dict[str, Literal["ours", "theirs"]] = {}
    edition: int = 0


class TogetherTold(BaseModel):
    """What bringing a branch in comes to.

    base : the version that both came from. changes : for this part, step by step. renamed : what of the other
    side goes by another name. pictures : of this side, the other, both together. steps, bodies : as foreseen.
    """

    of: VersionTold
    base: VersionTold
    edition: int
    conflicts: list[Conflict]
    changes: list[StepChange]
    renamed: dict[str, str]
    pictures: tuple[str, str, str]
    steps: list[ForeseenStep]
    bodies: list[ForeseenBody]


together = APIRouter(prefix="/api/parts/{part}/together", tags=["versions"])


@together.post("/look")
async def look(part: int, body: OtherBranch, open_: Open) -> TogetherTold:
    """Tell what bringing a branch in would come to; nothing is changed."""
    found = await open_.hub(part).branches.together(body.part, body.version, dict(body.chosen))
    return TogetherTold(**{k: v for k, v in found.items() if k != "document"})


@together.post("", status_code=204)
async def bring_together(part: int, body: OtherBranch, open_: Open) -> None:
    """Bring a branch in, as one version with two parents; it can be undone."""
    await open_.hub(part).branches.bring_together(body.part, body.version, dict(body.chosen), body.edition)
