"""What the server tells the browser."""

from __future__ import annotations

from functools import reduce
from operator import or_
from typing import TYPE_CHECKING, Annotated, Literal

from pydantic import Field

import wendal.core.drawing  # noqa: F401 - it has questions of its own
from wendal.core.inspect import Answer, questions
from wendal.core.route import Part
from wendal.core.sketch import Drawing

from .base import Flat, Message, Spot
from .compared import SayCompared
from .scene import LedgerRow, PreviewShape, Scene, StepState
from .sketch import FreedomData, FreedomGroup, SketchView
from .trials import SayAimed, SayFamily, SayLastGood, SayMoved, SaySampled, SayShaken, SayTriedOn

__all__ = [
    "ForeseenBody",
    "ForeseenPage",
    "ForeseenStep",
    "MotionFrame",
    "OfferData",
    "ProposalData",
    "SayAnswer",
    "SayBuilding",
    "SayCancelled",
    "SayDone",
    "SayDragged",
    "SayForeseen",
    "SayFreedoms",
    "SayGone",
    "SayMotion",
    "SayOffers",
    "SayPart",
    "SayPreview",
    "SayProposed",
    "SayRefused",
    "SayRehearsed",
    "SayResults",
    "SaySketch",
    "SayWays",
    "ToBrowser",
    "WayData",
]


if TYPE_CHECKING:
    AnyAnswer = Answer
else:  # every question's own, from their registry
    _answers = [q.answer for q in questions().values()]
    AnyAnswer = Annotated[reduce(or_, _answers), Field(discriminator="of")]


class SayPart(Message):
    """The part's document as it stands, but for its steps; undo and redo: what they would do, "" for nothing.

    steps : the digests of its steps, in order, whose content came before this message.
    """

    type: Literal["part"] = "part"
    edition: int
    version: int
    undo: str
    redo: str
    document: Part
    steps: list[str]


class SayResults(Message):
    """What the part came to."""

    type: Literal["results"] = "results"
    edition: int
    reports: list[StepState]
    ledger: list[LedgerRow]
    scene: Scene


class SayBuilding(Message):
    """A step is being built."""

    type: Literal["building"] = "building"
    step: str
    name: str


class SayCancelled(Message):
    """What was being built is given up; what is built of the part is told next."""

    type: Literal["cancelled"] = "cancelled"


class SayDone(Message):
    """A command was accepted and kept; step: the step it made or changed."""

    type: Literal["done"] = "done"
    id: int
    edition: int
    step: str


class SayRefused(Message):
    """A request was refused and changed nothing. id is 0 where it answers none.

    fights : constraints of the sketch that stand against it, any of which may go to let it in; spare : the
    dimension that was refused may be kept to tell its value.
    """

    type: Literal["refused"] = "refused"
    id: int
    code: str
    message: str
    field: str
    step: str
    at: int | None
    fights: list[str] = []
    spare: bool = False


class SayPreview(Message):
    """The answer to a preview."""

    type: Literal["preview"] = "preview"
    id: int
    report: StepState
    preview: PreviewShape


class SaySketch(Message):
    """The sketch on the drawing board."""

    type: Literal["sketch"] = "sketch"
    edition: int
    view: SketchView


class SayFreedoms(Message):
    """Words for the freedoms of the sketch on the drawing board, which was sent with their number alone."""

    type: Literal["freedoms"] = "freedoms"
    edition: int
    step: str
    freedoms: list[FreedomData]
    groups: list[FreedomGroup]


class OfferData(Message):
    """A construction that takes all the picks: fills tells the pick for each blank, needs what is still
    wanted."""

    kind: str
    how: str
    title: str
    fills: dict[str, int]
    needs: list[str]


class SayOffers(Message):
    """What could be made, likeliest first; why: why not, for each kind of which nothing can."""

    type: Literal["offers"] = "offers"
    id: int
    offers: list[OfferData]
    why: dict[str, str]


class WayData(Message):
    """One thing to do with a selection; see `core/steps/offering.py`."""

    what: Literal["step", "datum", "here", "view", "constraint", "tool"]
    kind: str
    how: str
    title: str
    fills: dict[str, int]
    needs: list[str]


class SayWays(Message):
    """Everything that can be done with the selection, likeliest first."""

    type: Literal["ways"] = "ways"
    id: int
    ways: list[WayData]


class ForeseenStep(Message):
    """A step that a change would reach, and how it would stand. was : how it stands, "" for a new one;
    lost : what it would not find again, in words."""

    id: str
    name: str
    number: int
    state: str
    message: str
    was: str = ""
    lost: list[str] = []


class ForeseenFigures(Message):
    """A body in figures: g (0 without a material), mm."""

    mass: float
    centre: Spot
    low: Spot
    high: Spot


class ForeseenBody(Message):
    """A body's volume (mm³) and figures before and after; null where it is not there."""

    name: str
    before: float | None
    after: float | None
    was: ForeseenFigures | None = None
    will: ForeseenFigures | None = None


class ForeseenPage(Message):
    """A page, and how many of its dimensions and marks would lose what they hold."""

    name: str
    lost: int


class SayForeseen(Message):
    """What a change would reach. measures : tags of kept measures that would lose what they measure."""

    type: Literal["foreseen"] = "foreseen"
    id: int
    steps: list[ForeseenStep]
    bodies: list[ForeseenBody]
    measures: list[str] = []
    pages: list[ForeseenPage] = []


class SayDragged(Message):
    """Where things are while dragging."""

    type: Literal["dragged"] = "dragged"
    id: int
    points: dict[str, Flat]
    radii: dict[str, float]
    aways: dict[str, float]
    texts: dict[str, str]


class SayRehearsed(Message):
    """What an edit would make of a sketch; lost : constraints and texts that would go, in words; texts : how
    they are drawn, by id."""

    type: Literal["rehearsed"] = "rehearsed"
    id: int
    drawing: Drawing
    lost: list[str]
    notes: list[str]
    texts: dict[str, str]


class MotionFrame(Message):
    """Where things are in one frame of a motion."""

    points: dict[str, Flat]
    radii: dict[str, float]
    aways: dict[str, float]
    texts: dict[str, str]


class SayMotion(Message):
    """A freedom as a moving picture."""

    type: Literal["motion"] = "motion"
    id: int
    frames: list[MotionFrame]


class ProposalData(Message):
    """A constraint that would take a freedom; shown : a dimension's value."""

    kind: str
    of: list[str]
    manner: str
    words: str
    symbol: str
    shown: str


class SayProposed(Message):
    """What would constrain the rest."""

    type: Literal["proposed"] = "proposed"
    id: int
    proposals: list[ProposalData]


class SayGone(Message):
    """The part was deleted."""

    type: Literal["gone"] = "gone"


class SayAnswer(Message):
    """The answer to a question."""

    type: Literal["answer"] = "answer"
    id: int
    answer: AnyAnswer


class SayForget(Message):
    """Content that is not needed for now; it is sent again when it is."""

    type: Literal["forget"] = "forget"
    digests: list[str]


class SayStore(Message):
    """How the database stands: "" well, else what is wrong with it, in words."""

    type: Literal["store"] = "store"
    trouble: str


ToBrowser = Annotated[
    SayPart
    | SayResults
    | SayBuilding
    | SayCancelled
    | SayDone
    | SayRefused
    | SayPreview
    | SaySketch
    | SayFreedoms
    | SayDragged
    | SayRehearsed
    | SayMotion
    | SayProposed
    | SayOffers
    | SayWays
    | SayForeseen
    | SayCompared
    | SayAnswer
    | SayGone
    | SayStore
    | SayShaken
    | SayMoved
    | SayAimed
    | SaySampled
    | SayFamily
    | SayLastGood
    | SayTriedOn
    | SayForget,
    Field(discriminator="type"),
]
