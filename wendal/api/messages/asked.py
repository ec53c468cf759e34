"""What the browser asks of the server."""

from __future__ import annotations

from functools import reduce
from operator import or_
from typing import TYPE_CHECKING, Annotated, Any, Literal

from pydantic import Field, TypeAdapter, model_validator

import wendal.core.drawing  # noqa: F401 - it has questions of its own
from wendal.core.inspect import Request, questions
from wendal.core.reference import ThingRef
from wendal.core.route import Command
from wendal.core.sketch import SketchEdit

from .base import Flat, Message

__all__ = [
    "DoAim",
    "DoAsk",
    "DoCancel",
    "DoCommand",
    "DoCompare",
    "DoDrag",
    "DoFamily",
    "DoForesee",
    "DoLastGood",
    "DoLook",
    "DoMotion",
    "DoMove",
    "DoMoves",
    "DoOffers",
    "DoPreview",
    "DoPropose",
    "DoRehearse",
    "DoRetry",
    "DoSample",
    "DoShake",
    "DoSketch",
    "DoStopTrials",
    "DoTryOn",
    "FromBrowser",
    "browser_message",
]


if TYPE_CHECKING:
    AnyRequest = Request
else:  # every question's own, from their registry
    _requests = [q.request for q in questions().values()]
    AnyRequest = Annotated[reduce(or_, _requests), Field(discriminator="of")]


class DoCommand(Message):
    """Edit the part as it was at an edition.

    key : the edit's own, the same when it is sent again after a lost answer.
    """

    type: Literal["command"] = "command"
    id: int
    edition: int
    key: str = Field("", max_length=40)
    command: Command


class DoMove(Message):
    """Undo or redo. key : as an edit's."""

    type: Literal["undo", "redo"]
    id: int
    edition: int
    key: str = Field("", max_length=40)


class DoPreview(Message):
    """Ask what a command that adds or edits a step would make, without making it.

    seek : where a size does not work, the largest that does is looked for, which takes seconds.
    """

    type: Literal["preview"] = "preview"
    id: int
    command: Command
    seek: bool = False


class DoAsk(Message):
    """Ask something about the part as it stands; `core/inspect/questions.py` lists the questions."""

    type: Literal["ask"] = "ask"
    id: int
    ask: AnyRequest


class DoShake(Message):
    """Begin a shakedown. tags : of the dimensions to be moved, none for all; sets : how many by chance.

    wall : the least wall that is allowed, mm; mass : the greatest mass of all bodies, g; 0 for none. kept :
    tell the last one that came to its end instead, where there is one.
    """

    type: Literal["shake"] = "shake"
    id: int
    tags: list[str] = Field(default_factory=list, max_length=2000)
    seed: int = Field(1, ge=0, le=2**31)
    sets: int = Field(64, ge=0, le=2000)
    wall: float = Field(0.0, ge=0, allow_inf_nan=False)
    mass: float = Field(0.0, ge=0, allow_inf_nan=False)
    kept: bool = False


class DoMoves(Message):
    """Find what moves what. tags : of the dimensions to be moved, none for all. things : faces, edges and
    corners whose places are figures too, called : by what names; walls : the least wall of each body is
    one."""

    type: Literal["moves"] = "moves"
    id: int
    tags: list[str] = Field(default_factory=list, max_length=2000)
    things: list[ThingRef] = Field(default_factory=list, max_length=20)
    called: list[Annotated[str, Field(max_length=200)]] = Field(default_factory=list, max_length=20)
    walls: bool = False


class DoAim(Message):
    """Bring a figure to a wish (mm, rad, mm², mm³, g) by one dimension, or by several with the smallest
    change."""

    type: Literal["aim"] = "aim"
    id: int
    figure: str
    wish: float = Field(allow_inf_nan=False)
    tags: list[str] = Field(min_length=1, max_length=20)
    things: list[ThingRef] = Field(default_factory=list, max_length=20)
    called: list[Annotated[str, Field(max_length=200)]] = Field(default_factory=list, max_length=20)


class DoSample(Message):
    """Build sets of values by chance within the tolerances of what moves a figure."""

    type: Literal["sample"] = "sample"
    id: int
    figure: str
    seed: int = Field(1, ge=0, le=2**31)
    count: int = Field(2000, ge=1, le=20_000)
    things: list[ThingRef] = Field(default_factory=list, max_length=20)
    called: list[Annotated[str, Field(max_length=200)]] = Field(default_factory=list, max_length=20)


class DoFamily(Message):
    """Build and judge members of the family, all for none."""

    type: Literal["family"] = "family"
    id: int
    rows: list[str] = Field(default_factory=list, max_length=1000)


class DoTryOn(Message):
    """Ask how the part would stand, and look, with other values, or after a command; nothing is kept.

    things : faces, edges and corners whose places are told, called : by what names.
    """

    type: Literal["try_on"] = "try_on"
    id: int
    values: dict[str, str] = Field(default_factory=dict, max_length=1000)
    command: Command | None = None
    things: list[ThingRef] = Field(default_factory=list, max_length=20)
    called: list[Annotated[str, Field(max_length=200)]] = Field(default_factory=list, max_length=20)


class DoLastGood(Message):
    """Ask in which version a step that stopped was built last, and what has changed since."""

    type: Literal["last_good"] = "last_good"
    id: int
    step: str


class DoStopTrials(Message):
    """Leave off a shakedown, an aim, or what moves what."""

    type: Literal["stop_trials"] = "stop_trials"


class DoLook(Message):
    """Look at the part as it stands after a step ("" before all, null at the end)."""

    type: Literal["look"] = "look"
    at: str | None = None


class DoSketch(Message):
    """Open a sketch on the drawing board, or close it with ""."""

    type: Literal["sketch"] = "sketch"
    step: str


class DoDrag(Message):
    """Take hold of sketch geometry (first) and bring it somewhere."""

    type: Literal["drag"] = "drag"
    id: int
    step: str
    entity: str
    start: Flat
    to: Flat
    first: bool


class DoRehearse(Message):
    """Try an edit of a sketch without keeping it."""

    type: Literal["rehearse"] = "rehearse"
    id: int
    step: str
    edit: SketchEdit


class DoMotion(Message):
    """Ask for the frames of one of a sketch's freedoms, by its number."""

    type: Literal["motion"] = "motion"
    id: int
    step: str
    index: int


class DoPropose(Message):
    """Ask what would constrain the rest of a sketch, measured from baselines."""

    type: Literal["propose"] = "propose"
    id: int
    step: str
    baselines: list[str] = Field(max_length=100)


class DoOffers(Message):
    """Ask which datums could be made of picks, each told by its facets; kinds: of which kinds ("plane",
    "axis" …)."""

    type: Literal["offers"] = "offers"
    id: int
    picks: list[Annotated[list[str], Field(max_length=30)]] = Field(max_length=12)
    kinds: list[Literal["plane", "axis", "point", "system"]] = Field(max_length=4)


class DoWays(Message):
    """Ask for everything that can be done with a selection, each pick told by its facets and its kind.

    sketch : the picks are things of a sketch, told by their kinds; model : how many of them are the model's.
    """

    type: Literal["ways"] = "ways"
    id: int
    picks: list[Annotated[list[str], Field(max_length=30)]] = Field(max_length=5000)
    things: list[str] = Field(max_length=5000)
    sketch: bool
    model: int = 0


class DoForesee(Message):
    """Ask what a command would change, without doing it."""

    type: Literal["foresee"] = "foresee"
    id: int
    command: Command


class DoCompare(Message):
    """Compare the part as it is looked at with another version, or another part (0: this one; version 0: as
    it stands), which is taken as the earlier one. values : with which this part is looked at; before : with
    which the other one is. bodies : two of this part, which are compared instead."""

    type: Literal["compare"] = "compare"
    id: int
    part: int = 0
    version: int = 0
    values: dict[str, str] = Field(default_factory=dict, max_length=1000)
    before: dict[str, str] = Field(default_factory=dict, max_length=1000)
    bodies: list[str] = Field(default_factory=list, max_length=2)

    @model_validator(mode="after")
    def _two(self) -> DoCompare:
        if len(self.bodies) == 1:
            raise ValueError("two bodies are compared")
        return self


class DoRetry(Message):
    """Build again what a lost worker had left stopped."""

    type: Literal["retry"] = "retry"


class DoCancel(Message):
    """Stop the evaluation that is under way."""

    type: Literal["cancel"] = "cancel"


FromBrowser = Annotated[
    DoAsk
    | DoShake
    | DoMoves
    | DoAim
    | DoSample
    | DoFamily
    | DoLastGood
    | DoTryOn
    | DoStopTrials
    | DoCommand
    | DoMove
    | DoPreview
    | DoLook
    | DoSketch
    | DoDrag
    | DoRehearse
    | DoMotion
    | DoPropose
    | DoOffers
    | DoWays
    | DoForesee
    | DoCompare
    | DoRetry
    | DoCancel,
    Field(discriminator="type"),
]
browser_message: TypeAdapter[Any] = TypeAdapter(FromBrowser)
