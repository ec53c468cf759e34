"""Steps on whole bodies: split, combine, move and copy."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated, Literal

from .. import kernel
from ..blanks import Choice, Name, Number, Pick
from ..datum import Picked
from ..errors import StepError
from ..kernel.types import Frame, Placement
from ..reference import BodyRef, PlaneRef, ThingRef
from ..stored import Value
from ..tolerance import NO_VOLUME
from .base import Body, Made, Site, Step, register
from .building import reach_of
from .copying import copy_namer
from .given import Given

__all__ = ["Combine", "MoveBody", "Split"]


@dataclass(slots=True, kw_only=True)
class SplitGiven(Given):
    """What a split is given."""

    body: Body
    by: Picked


@register
class Split(Step):
    """A body or sheet cut by a plane, face or sheet; either side is kept, or both as bodies of their own."""

    title, group, key, makes = "Split", "build", "b k", "body"
    shelf = "Bodies"
    takes = SplitGiven
    explains = "Cut a body or sheet by a plane, a face or a sheet, and keep either side or both."
    sentence = "Split {name}: {body} by {by}, {keep}"

    kind: Literal["split"] = "split"
    name: Annotated[str, Name(label="name")]
    body: Annotated[BodyRef | None, Pick(label="body", accepts=("body",), needs="a body to split")] = None
    by: Annotated[
        ThingRef | None,
        Pick(
            label="plane, face or sheet",
            accepts=("plane", "face"),
            needs="a plane, face or sheet to split by",
        ),
    ] = None
    keep: Annotated[
        Literal["both", "front", "back"],
        Choice(
            label="keep",
            words={
                "both": "keeping both",
                "front": "keeping what lies in front",
                "back": "keeping what lies behind",
            },
            turns=("front", "back"),
        ),
    ] = "both"

    def evaluate(self, given: SplitGiven, site: Site) -> Made:
        """Cut the body. What lies in front keeps its id; each piece behind is a new body."""
        body = given.body
        target = _cutter(given.by)
        shapes = [body.shape, *([given.by.solid[0]] if given.by.solid else [])]
        reach = reach_of(shapes, *([target] if isinstance(target, Frame) else []))
        front, behind = kernel.split(body.shape, target, reach, self.id)
        for piece in (*front, *behind):
            (kernel.check_sheet if body.sheet else kernel.check_solid)(piece)
        if self.keep == "both":
            shapes_of = {body.id: _joined(front), self.id: _joined(behind)}
        else:
            shapes_of = {body.id: _joined(front if self.keep == "front" else behind)}
        pieces = len(front) + len(behind)
        return Made(shapes=dict(shapes_of), note=f"The cut makes {pieces} pieces." if pieces > 2 else "")


def _cutter(by: Picked) -> Frame | tuple[kernel.NamedShape, int] | kernel.NamedShape:
    """Return what a picked thing cuts as: a face of a sheet stands for the sheet, a flat face for its
    plane."""
    if by.solid is not None and kernel.is_sheet(by.solid[0]):
        return by.solid[0]
    if by.plane is not None:
        return by.plane
    if by.solid is not None:
        return by.solid
    raise StepError("This cannot split a body. Pick a plane, a face or a sheet.", field="by")


def _joined(pieces: list[kernel.NamedShape]) -> kernel.NamedShape:
    return pieces[0] if len(pieces) == 1 else kernel.together(pieces)


@dataclass(slots=True, kw_only=True)
class CombineGiven(Given):
    """What a combination is given."""

    body: Body
    tools: list[Body]


@register
class Combine(Step):
    """Bodies joined, taken away from one, or kept in common."""

    title, group, key, makes = "Combine", "build", "b j", "body"
    shelf = "Bodies"
    takes = CombineGiven
    explains = "Join bodies, take some away from one, or keep what they have in common."
    sentence = "Combine {name}: {manner} {body} {tools}, {keep}{seams}"

    kind: Literal["combine"] = "combine"
    name: Annotated[str, Name(label="name")]
    manner: Annotated[
        Literal["join", "take", "common"],
        Choice(
            label="manner",
            words={"join": "join to", "take": "take away from", "common": "keep what is common of"},
        ),
    ] = "join"
    body: Annotated[BodyRef | None, Pick(label="body", accepts=("body",), needs="the body that stays")] = None
    tools: Annotated[
        list[BodyRef],
        Pick(
            label="other bodies", accepts=("body",), many=True, needs="at least one other body", before="and"
        ),
    ] = []
    keep: Annotated[
        Literal["used", "kept"],
        Choice(
            label="others",
            words={"used": "using the others up", "kept": "keeping the others"},
            turns=("used", "kept"),
        ),
    ] = "used"
    seams: Annotated[
        Literal["", "apart"],
        Choice(
            label="flush faces", words={"": "", "apart": ", flush faces kept apart"}, clause="flush faces"
        ),
    ] = ""

    def evaluate(self, given: CombineGiven, site: Site) -> Made:
        """Combine the bodies into the first, which keeps its id."""
        body = given.body.solid("body")
        others = [b.solid("tools") for b in given.tools if b.id != body.id]
        if not others:
            raise StepError("A body can not be combined with itself. Pick another one.", field="tools")
        shapes = [kernel.set_apart(b.shape, self.id) if self.seams else b.shape for b in others]
        if self.manner == "join":
            made = kernel.fuse([body.shape, *shapes])
        elif self.manner == "take":
            made = kernel.cut(body.shape, shapes)
        else:
            made = kernel.common(body.shape, [kernel.fuse(shapes)])
        if not kernel.lumps(made):
            raise StepError(f"Nothing is left of {body.name}.", field="tools")
        kernel.check_solid(made)
        if self.manner == "join" and kernel.lumps(made) > kernel.lumps(body.shape):
            raise StepError("These bodies do not touch, so they can not be joined.", field="tools")
        if self.manner == "take" and abs(
            kernel.volume_of(made) - kernel.volume_of(body.shape)
        ) < NO_VOLUME * kernel.volume_of(body.shape):
            raise StepError(f"This takes nothing away: the others miss {body.name}.", field="tools")
        gone = {} if self.keep == "kept" else dict.fromkeys(b.id for b in others)
        taken = dict.fromkeys(gone, body.id) if self.manner == "join" else {}
        return Made(shapes={body.id: made, **gone}, taken=taken)


def _move(label: str, before: str = "") -> Number:
    return Number(
        label=label, quantity="length", start="0 mm", quiet=True, when={"manner": ("by",)}, before=before
    )


@dataclass(slots=True, kw_only=True)
class MoveBodyGiven(Given):
    """What a move is given: distances in mm, the turn in rad."""

    body: Body
    x: float = 0.0
    y: float = 0.0
    z: float = 0.0
    turn: float = 0.0
    about: Picked | None = None
    start: Picked | None = None
    end: Picked | None = None


@register
class MoveBody(Step):
    """A body moved, or copied, by distances and turns or from one system to another."""

    title, group, key, makes = "Move body", "build", "b v", "body"
    shelf = "Bodies"
    takes = MoveBodyGiven
    explains = "Move or copy a body by distances and turns, or from one coordinate system to another."
    sentence = "Move body {name}: {copying} {body} {manner} {x}{y}{z}{turn}{about}{start}{end}"

    kind: Literal["move_body"] = "move_body"
    name: Annotated[str, Name(label="name")]
    copying: Annotated[
        Literal["move", "copy"],
        Choice(label="copy", words={"move": "move", "copy": "a copy of"}, turns=("move", "copy")),
    ] = "move"
    body: Annotated[BodyRef | None, Pick(label="body", accepts=("body",), needs="a body to move")] = None
    manner: Annotated[
        Literal["by", "turn", "systems"],
        Choice(label="manner", words={"by": "by", "turn": "turned by", "systems": "from"}),
    ] = "by"
    x: Annotated[Value, _move("X")] = Value(formula="0 mm")
    y: Annotated[Value, _move("Y")] = Value(formula="0 mm")
    z: Annotated[Value, _move("Z")] = Value(formula="0 mm")
    turn: Annotated[
        Value, Number(label="turn", quantity="angle", start="90 deg", when={"manner": ("turn",)})
    ] = Value(formula="90 deg")
    about: Annotated[
        ThingRef | None,
        Pick(
            label="axis",
            accepts=("axis",),
            needs="an axis to turn about",
            when={"manner": ("turn",)},
            before="about",
        ),
    ] = None
    start: Annotated[
        ThingRef | None,
        Pick(
            label="system",
            accepts=("system",),
            needs="a coordinate system to begin at",
            when={"manner": ("systems",)},
        ),
    ] = None
    end: Annotated[
        PlaneRef | None,
        Pick(
            label="other system",
            accepts=("system",),
            needs="a coordinate system to end at",
            when={"manner": ("systems",)},
            before="to",
        ),
    ] = None

    def evaluate(self, given: MoveBodyGiven, site: Site) -> Made:
        """Place the body elsewhere; a copy is a new body whose faces have names of their own."""
        body = given.body
        if self.manner == "by":
            placement = Placement.shifted((given.x, given.y, given.z))
        elif self.manner == "turn":
            assert given.about is not None
            assert given.about.axis is not None
            line = given.about.axis
            placement = Placement.turned(line.origin, line.direction, given.turn)
        else:
            assert given.start is not None
            assert given.end is not None
            assert given.start.system is not None
            assert given.end.system is not None
            placement = Placement.between(given.start.system, given.end.system)
        if self.copying == "copy":
            return Made(shapes={self.id: kernel.placed(body.shape, placement, copy_namer(self.id, "2"))})
        return Made(shapes={body.id: kernel.placed(body.shape, placement)})
