"""What there is to see of a part: route, ledger, bodies, datums, sketches, previews."""

from __future__ import annotations

from typing import Any, Literal

from pydantic import Field

from wendal.core.reference import EdgeRef, FaceRef, RegionRef, VertexRef

from .base import Flat, Message, Spot

__all__ = [
    "BoardRegion",
    "BodyThings",
    "CandidateData",
    "DatumShape",
    "EdgeThing",
    "FaceThing",
    "FrameData",
    "KeptData",
    "LedgerRow",
    "MassData",
    "MeshData",
    "PreviewShape",
    "ReferenceReport",
    "Scene",
    "SceneBody",
    "SceneDatum",
    "SceneSketch",
    "SketchDrawn",
    "SketchLine",
    "SketchRegion",
    "SketchShown",
    "SketchText",
    "StepState",
    "VertexThing",
]


class FrameData(Message):
    """A plane with its axes."""

    origin: Spot
    x: Spot
    y: Spot
    normal: Spot


class CandidateData(Message):
    """A thing that could be meant instead of a lost one, with the reason; answer : of a thing in several
    pieces, which one."""

    words: str
    ref: dict[str, Any]
    answer: dict[str, Any] | None = None


class ReferenceReport(Message):
    """How a reference of a step stands; now : what confirming would store; said : of a face, how it came to
    be, in words."""

    field: str
    state: Literal["sound", "re-found", "lost"]
    reason: str
    now: dict[str, Any] | None
    candidates: list[CandidateData]
    item: int = 0
    said: str = ""


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
    offer: str = ""
    findable: bool = False
    stands_on: list[str]
    references: list[ReferenceReport]


class KeptData(Message):
    """What is kept of a measure, and what it came to.

    outside : says that it is not what is allowed. key, words : which figure; of, things : of what. feet : of
    a way, its two ends in the part, mm. after : the step behind which it is taken, "" for the end. now : what
    confirming a doubt stores; thing, candidates : which of its things is lost, and what could be meant.
    """

    state: Literal["sound", "held", "lost", "waiting"]
    message: str
    outside: str
    key: str
    words: str
    of: list[str]
    things: list[dict[str, Any]]
    feet: list[Spot]
    after: str
    now: list[dict[str, Any]]
    thing: int
    candidates: list[CandidateData]


class LedgerRow(Message):
    """A tag with its formula and value. limits : what its tolerance comes to at that value. kept : of a kept
    measure, which has no formula."""

    tag: str
    formula: str
    kind: Literal["length", "angle", "count", "share", "any"]
    step: str
    place: str
    note: str
    least: str
    most: str
    values: list[str]
    tolerance: str
    limits: str
    value: float | None
    shown: str
    error: str
    used_by: list[str]
    kept: KeptData | None


class MassData(Message):
    """A body in figures: mm³, mm², mm. sheet : it has no thickness."""

    sheet: bool
    volume: float
    area: float
    centre: Spot
    low: Spot
    high: Spot
    faces: int
    edges: int
    vertices: int
    valid: bool


class PaintedFace(Message):
    """A face that has a name or a colour of its own, "" for none. look : its place among the part's faces
    that have."""

    name: str
    colour: str
    look: int


class SceneBody(Message):
    """A body on the stage; faces, edges and things are digests of content that came before this message.
    painted : faces with looks of their own, by their places."""

    id: str
    name: str
    key: str
    faces: list[str]
    edges: list[str]
    things: list[str]
    visible: bool = True
    colour: str = ""
    through: bool = False
    painted: dict[str, PaintedFace] = Field(default_factory=dict)
    mass: MassData


class FaceThing(Message):
    """A face that can be picked.

    brief : how it is said in a sentence; made_by, copied_by : the step that made it, and the one that copied
    it last or ""; facets : what it can be taken for.
    """

    form: str
    words: str
    brief: str
    made_by: str
    copied_by: str
    facets: list[str]
    ref: FaceRef
    frame: FrameData
    area: float
    radius: float


class EdgeThing(Message):
    """An edge that can be picked.

    brief : how it is said in a sentence; facets : what it can be taken for; centre : of a round one.
    """

    form: str
    words: str
    brief: str
    facets: list[str]
    centre: Spot | None
    faces: list[int]
    length: float
    middle: Spot
    ref: EdgeRef


class VertexThing(Message):
    """A corner that can be picked. brief : how it is said in a sentence."""

    words: str
    brief: str
    place: Spot
    ref: VertexRef


class BodyThings(Message):
    """What can be picked of a body, in the order of its meshes; it comes in pieces, which go on one behind
    the other."""

    faces: list[FaceThing] = []
    edges: list[EdgeThing] = []
    vertices: list[VertexThing] = []


class SceneDatum(Message):
    """A datum on the stage; index tells copies apart."""

    step: str
    index: int
    kind: Literal["plane", "axis", "point", "system"]
    name: str
    visible: bool
    frame: FrameData


class BoardRegion(Message):
    """A closed region with the reference to it; outline: polygons, the outer one first."""

    ref: RegionRef
    area: float
    outline: list[list[Flat]]


class SketchRegion(BoardRegion):
    """A closed region as it is picked on the stage; words : what it is called."""

    words: str


class SketchText(Message):
    """A text with the reference to it.

    pieces : of its letters, each as polygons, the outer one first; boxes : four corners round every letter,
    to pick it by.
    """

    ref: RegionRef
    words: str
    area: float
    pieces: list[list[list[Flat]]]
    boxes: list[list[Flat]]


class SketchLine(Message):
    """A curve of a sketch as a line through points."""

    id: str
    words: str
    construction: bool
    facets: list[str]
    points: list[Flat]


class SketchDrawn(Message):
    """What there is to see of a sketch. words : of its points, by id."""

    step: str
    name: str
    frame: FrameData
    curves: list[SketchLine]
    points: dict[str, Flat]
    words: dict[str, str]
    regions: list[SketchRegion]
    texts: list[SketchText] = []


class SceneSketch(SketchDrawn):
    """A sketch on the stage."""

    visible: bool


class SketchShown(Message):
    """A sketch on the stage; content is the digest of what there is to see of it, which came before this
    message."""

    step: str
    visible: bool
    content: str


class ThreadData(Message):
    """A threaded hole's end, drawn as three quarters of a circle."""

    frame: FrameData
    radius: float


class Scene(Message):
    """What stands. active : the frame of the work coordinate system in use, null for the part's own."""

    at: str | None
    active: FrameData | None
    bodies: list[SceneBody]
    datums: list[SceneDatum]
    sketches: list[SketchShown]
    threads: list[ThreadData] = []


class MeshData(Message):
    """Preview material, with its edges. area : of a sheet, mm²; else 0."""

    faces: list[str]
    edges: list[str]
    volume: float
    area: float = 0.0


class DatumShape(Message):
    """A datum that a step would make."""

    kind: Literal["plane", "axis", "point", "system"]
    frame: FrameData


class HandleData(Message):
    """A number that can be pulled: factor times the way from the origin along a unit direction, mm; or, about
    a place, the turn of it."""

    field: str
    origin: Spot
    way: Spot
    factor: float
    about: Spot | None = None


class PreviewShape(Message):
    """What a step would make."""

    datums: list[DatumShape] = []
    sketch: SceneSketch | None = None
    added: MeshData | None = None
    removed: MeshData | None = None
    dots: dict[str, Spot] = {}
    handles: list[HandleData] = []
