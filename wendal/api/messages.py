"""Every message between browser and server. The browser's TypeScript types are generated from these."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import BaseModel, ConfigDict, Field, TypeAdapter

from wendal.core.reference import EdgeRef, FaceRef, RegionRef, VertexRef
from wendal.core.route import Command, Part
from wendal.core.sketch import Drawing, SketchEdit

__all__ = ["FromBrowser", "ToBrowser", "browser_message"]

Spot = tuple[float, float, float]
Flat = tuple[float, float]


class Message(BaseModel):
    """Base of all messages: unknown fields are refused."""

    model_config = ConfigDict(extra="forbid")


class DoCommand(Message):
    """Edit the part as it was at an edition."""

    type: Literal["command"] = "command"
    id: int
    edition: int
    command: Command


class DoMove(Message):
    """Undo or redo."""

    type: Literal["undo", "redo"]
    id: int
    edition: int


class DoPreview(Message):
    """Ask what a command that adds or edits a step would make, without making it."""

    type: Literal["preview"] = "preview"
    id: int
    command: Command


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
    baselines: list[str]


class DoOffers(Message):
    """Ask which datums could be made of picks, each told by its facets; sorts: of which sorts ("plane", "axis" …)."""

    type: Literal["offers"] = "offers"
    id: int
    picks: list[list[str]]
    sorts: list[Literal["plane", "axis", "point", "system"]]


class DoForesee(Message):
    """Ask what a command would change, without doing it."""

    type: Literal["foresee"] = "foresee"
    id: int
    command: Command


class DoRetry(Message):
    """Build again what a lost worker had left stopped."""

    type: Literal["retry"] = "retry"


class DoCancel(Message):
    """Stop the evaluation that is under way."""

    type: Literal["cancel"] = "cancel"


FromBrowser = Annotated[DoCommand | DoMove | DoPreview | DoLook | DoSketch | DoDrag | DoRehearse | DoMotion | DoPropose | DoOffers
                        | DoForesee | DoRetry | DoCancel, Field(discriminator="type")]
browser_message: TypeAdapter[Any] = TypeAdapter(FromBrowser)


class FrameData(Message):
    """A plane with its axes."""

    origin: Spot
    x: Spot
    y: Spot
    normal: Spot


class CandidateData(Message):
    """A thing that could be meant instead of a lost one, with the reason."""

    words: str
    ref: dict[str, Any]


class ReferenceReport(Message):
    """How a reference of a step stands; now: what confirming would store."""

    field: str
    state: Literal["sound", "re-found", "lost"]
    reason: str
    now: dict[str, Any] | None
    candidates: list[CandidateData]


class StepState(Message):
    """How a step stands."""

    id: str
    state: Literal["built", "waiting", "held", "stopped"]
    message: str
    field: str
    key: str
    milliseconds: float
    remembered: bool
    answers: int
    upon: str
    stands_on: list[str]
    references: list[ReferenceReport]


class LedgerRow(Message):
    """A tag with its formula and value."""

    tag: str
    formula: str
    kind: Literal["length", "angle", "count", "share", "any"]
    step: str
    place: str
    note: str
    least: str
    most: str
    values: list[str]
    value: float | None
    shown: str
    error: str
    used_by: list[str]


class MassData(Message):
    """A body in figures: mm³, mm², mm."""

    volume: float
    area: float
    centre: Spot
    low: Spot
    high: Spot
    faces: int
    edges: int
    vertices: int
    valid: bool


class SceneBody(Message):
    """A body on the stage; faces, edges and things are digests of content that came before this message."""

    id: str
    name: str
    key: str
    faces: list[str]
    edges: str
    things: str
    mass: MassData


class FaceThing(Message):
    """A face that can be picked. facets : what it can be taken for."""

    form: str
    facets: list[str]
    ref: FaceRef
    frame: FrameData
    area: float
    radius: float


class EdgeThing(Message):
    """An edge that can be picked. facets : what it can be taken for; centre : of a round one."""

    form: str
    facets: list[str]
    centre: Spot | None
    faces: list[int]
    length: float
    middle: Spot
    ref: EdgeRef


class VertexThing(Message):
    """A corner that can be picked."""

    place: Spot
    ref: VertexRef


class BodyThings(Message):
    """All that can be picked of a body, in the order of its meshes."""

    faces: list[FaceThing]
    edges: list[EdgeThing]
    vertices: list[VertexThing]


class SceneDatum(Message):
    """A datum on the stage; index tells copies apart."""

    step: str
    index: int
    sort: Literal["plane", "axis", "point", "system"]
    name: str
    visible: bool
    frame: FrameData


class SketchRegion(Message):
    """A closed region with the reference to it; outline: polygons, the outer one first."""

    ref: RegionRef
    area: float
    outline: list[list[Flat]]


class SketchText(Message):
    """A text with the reference to it.

    pieces : of its letters, each as polygons, the outer one first; boxes : four corners round every letter, to pick it by.
    """

    ref: RegionRef
    words: str
    area: float
    pieces: list[list[list[Flat]]]
    boxes: list[list[Flat]]


class SketchLine(Message):
    """A curve of a sketch as a line through points."""

    id: str
    construction: bool
    facets: list[str]
    points: list[Flat]


class SceneSketch(Message):
    """A sketch on the stage."""

    step: str
    name: str
    visible: bool
    frame: FrameData
    curves: list[SketchLine]
    points: dict[str, Flat]
    regions: list[SketchRegion]
    texts: list[SketchText] = []


class Scene(Message):
    """What stands. active : the frame of the work coordinate system in use, null for the part's own."""

    at: str | None
    active: FrameData | None
    bodies: list[SceneBody]
    datums: list[SceneDatum]
    sketches: list[SceneSketch]


class MeshData(Message):
    """Preview material."""

    faces: list[str]
    volume: float


class DatumShape(Message):
    """A datum that a step would make."""

    sort: Literal["plane", "axis", "point", "system"]
    frame: FrameData


class PreviewShape(Message):
    """What a step would make."""

    datums: list[DatumShape] = []
    sketch: SceneSketch | None = None
    added: MeshData | None = None
    removed: MeshData | None = None


class Freedom(Message):
    """One remaining motion."""

    words: str
    moves: dict[str, Flat]
    grows: dict[str, float]


class OpenEnd(Message):
    """A place where an outline stays open; gap: mm to the next end."""

    curve: str
    at: Flat
    gap: float | None


class Meeting(Message):
    """A place where two curves pass through each other, or where one doubles the other."""

    what: Literal["crossing", "overlap"]
    of: list[str]
    at: Flat


class ConstraintRow(Message):
    """A constraint in words."""

    id: str
    kind: str
    symbol: str
    words: str
    of: list[str]
    dimension: bool
    shown: str
    tag: str
    formula: str
    manner: str
    at: Flat | None
    reference: bool
    value: float | None = None


class TextRow(Message):
    """A text as it is written.

    path : its outlines as the data of an SVG path (mm in the sketch); boxes : four corners round every letter; trouble : why it can
    not be set.
    """

    id: str
    base: str
    words: str
    font: str
    path: str
    boxes: list[list[Flat]]
    tag: str
    formula: str
    shown: str
    trouble: str = ""


class SketchView(Message):
    """A sketch explained."""

    step: str
    name: str
    trouble: str
    fights: list[str]
    drawing: Drawing
    freedoms: list[Freedom]
    pencilled: list[str]
    regions: list[SketchRegion]
    open_ends: list[OpenEnd]
    meetings: list[Meeting]
    constraints: list[ConstraintRow]
    texts: list[TextRow]
    names: dict[str, str]


class SayPart(Message):
    """The part's document as it stands; undo and redo: what they would do, "" for nothing."""

    type: Literal["part"] = "part"
    edition: int
    version: int
    undo: str
    redo: str
    document: Part


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


class SayDone(Message):
    """A command was accepted and kept; step: the step it made or changed."""

    type: Literal["done"] = "done"
    id: int
    step: str


class SayRefused(Message):
    """A request was refused and changed nothing. id is 0 where it answers none.

    fights : constraints of the sketch that stand against it, any of which may go to let it in; spare : the dimension that was
    refused may be kept to tell its value.
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


class OfferData(Message):
    """A construction that takes all the picks: fills tells the pick for each blank, needs what is still wanted."""

    sort: str
    how: str
    title: str
    fills: dict[str, int]
    needs: list[str]


class SayOffers(Message):
    """What could be made, likeliest first; why: why not, for each sort of which nothing can."""

    type: Literal["offers"] = "offers"
    id: int
    offers: list[OfferData]
    why: dict[str, str]


class ForeseenStep(Message):
    """A step that a change would reach, and how it would stand."""

    id: str
    name: str
    number: int
    state: str
    message: str


class ForeseenBody(Message):
    """A body's volume (mm³) before and after; null where it is not there."""

    name: str
    before: float | None
    after: float | None


class SayForeseen(Message):
    """What a change would reach."""

    type: Literal["foreseen"] = "foreseen"
    id: int
    steps: list[ForeseenStep]
    bodies: list[ForeseenBody]


class SayDragged(Message):
    """Where things are while dragging."""

    type: Literal["dragged"] = "dragged"
    id: int
    points: dict[str, Flat]
    radii: dict[str, float]
    texts: dict[str, str]


class SayRehearsed(Message):
    """What an edit would make of a sketch; lost : constraints and texts that would go, in words; texts : how they are drawn, by id."""

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


ToBrowser = Annotated[
    SayPart | SayResults | SayBuilding | SayDone | SayRefused | SayPreview | SaySketch | SayDragged | SayRehearsed | SayMotion
    | SayProposed | SayOffers | SayForeseen | SayGone,
    Field(discriminator="type"),
]


class Messages(Message):
    """Both directions and binary content, so that types are made for all of them."""

    from_browser: FromBrowser
    to_browser: ToBrowser
    things: BodyThings
