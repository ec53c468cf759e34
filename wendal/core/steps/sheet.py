"""Steps on sheets: filled from loops, copied from faces, extended, sewn and thickened."""

from __future__ import annotations

from types import SimpleNamespace
from typing import Annotated, Literal

from .. import kernel
from ..blanks import Choice, Name, Number, Pick
from ..errors import StepError
from ..kernel.types import said_at, scaled
from ..reference import BodyRef, ProfileRef, ThingRef
from ..stored import Value
from .base import Body, Effect, Handle, Made, Site, Step, register
from .building import RESULT, BuildStep
from .on_bodies import by_body

__all__ = ["CopyFaces", "ExtendSheet", "Fill", "Sew", "Thicken"]


def _sheet(body: Body, field: str) -> Body:
    if not body.sheet:
        raise StepError(
            f"{body.name} is a solid body, and this works on sheets. Pick a sheet, or copy some of its "
            "faces first.",
            field=field,
        )
    return body


@register
class Fill(Step):
    """A flat sheet in a region of a sketch, or in a closed loop of edges."""

    title, group, key, makes = "Fill", "build", "b u", "body"
    shelf = "Sheets"
    rare = True
    explains = "Make a flat sheet of a region, or inside a closed loop of edges."
    sentence = "Fill {name}: {manner} {profile}{edges} with a flat sheet"

    kind: Literal["fill"] = "fill"
    name: Annotated[str, Name(label="name")]
    manner: Annotated[
        Literal["region", "loop"],
        Choice(label="manner", words={"region": "the regions", "loop": "the loop of edges"}),
    ] = "region"
    profile: Annotated[
        list[ProfileRef],
        Pick(
            label="regions",
            accepts=("region", "sketch"),
            many=True,
            needs="a closed region of a sketch",
            when={"manner": ("region",)},
        ),
    ] = []
    edges: Annotated[
        list[ThingRef],
        Pick(
            label="edges",
            accepts=("edge",),
            many=True,
            needs="all edges of a closed loop",
            when={"manner": ("loop",)},
        ),
    ] = []

    def evaluate(self, given: SimpleNamespace, site: Site) -> Made:
        """Fill the loop or the regions: a new sheet."""
        if self.manner == "loop":
            (body, edges), *others = by_body(given.edges, site, "edge")
            if others:
                raise StepError(
                    f"The loop runs along edges of {body.name} and {others[0][0].name}. Pick edges of one "
                    "body.",
                    field="edges",
                )
            sheet = kernel.filled(body.shape, edges, self.id)
        else:
            made = [
                kernel.sheet_of_region(p, found.frame, self.id)
                for found in given.profile
                for p in found.profiles()
            ]
            sheet = made[0] if len(made) == 1 else kernel.together(made)
        return Made(shapes={self.id: sheet}, skin=sheet)


@register
class CopyFaces(Step):
    """A sheet that is a copy of faces."""

    title, group, key, makes = "Copy faces", "build", "b a", "body"
    shelf = "Sheets"
    rare = True
    explains = "Make a sheet that is a copy of faces of a body."
    sentence = "Copy faces {name}: {faces} as a sheet"

    kind: Literal["copy_faces"] = "copy_faces"
    name: Annotated[str, Name(label="name")]
    faces: Annotated[
        list[ThingRef], Pick(label="faces", accepts=("face",), many=True, needs="a face to copy")
    ] = []

    def evaluate(self, given: SimpleNamespace, site: Site) -> Made:
        """Copy the faces into a new sheet."""
        made = [
            kernel.sheet_of_faces(body.shape, faces, self.id) for body, faces in by_body(given.faces, site)
        ]
        sheet = made[0] if len(made) == 1 else kernel.together(made)
        return Made(shapes={self.id: sheet}, skin=sheet)


@register
class ExtendSheet(Step):
    """A sheet that goes on straight from edges of its rim."""

    title, group, key, makes = "Extend sheet", "build", "b q", "body"
    shelf = "Sheets"
    rare = True
    explains = "Let a sheet go on straight from edges of its rim."
    sentence = "Extend sheet {name}: from {edges} by {distance}"

    kind: Literal["extend_sheet"] = "extend_sheet"
    name: Annotated[str, Name(label="name")]
    edges: Annotated[
        list[ThingRef], Pick(label="edges", accepts=("edge",), many=True, needs="an edge of a sheet's rim")
    ] = []
    distance: Annotated[Value, Number(label="distance", quantity="length", above=0.0, start="5 mm")] = Value(
        formula="5 mm"
    )

    def evaluate(self, given: SimpleNamespace, site: Site) -> Made:
        """Extend each sheet; it keeps its id."""
        made = Made()
        for body, edges in by_body(given.edges, site, "edge"):
            made.shapes[body.id] = kernel.sheet_extended(
                _sheet(body, "edges").shape, edges, given.distance, self.id
            )
        skins = [s for s in made.shapes.values() if s is not None]
        made.skin = skins[0] if len(skins) == 1 else kernel.together(skins)
        return made


@register
class Sew(Step):
    """Sheets joined along edges that lie on each other; closed all round they become a solid body."""

    title, group, key, makes = "Sew", "build", "b z", "body"
    shelf = "Sheets"
    rare = True
    explains = "Join sheets along edges that lie on each other; closed all round they become a solid body."
    sentence = "Sew {name}: {body} and {tools} together"

    kind: Literal["sew"] = "sew"
    name: Annotated[str, Name(label="name")]
    body: Annotated[BodyRef | None, Pick(label="sheet", accepts=("body",), needs="the sheet that stays")] = (
        None
    )
    tools: Annotated[
        list[BodyRef],
        Pick(label="other sheets", accepts=("body",), many=True, needs="at least one other sheet"),
    ] = []

    def evaluate(self, given: SimpleNamespace, site: Site) -> Made:
        """Sew the sheets into the first, which keeps its id; the others are used up."""
        first = _sheet(given.body, "body")
        others = [_sheet(b, "tools") for b in given.tools if b.id != first.id]
        if not others:
            raise StepError("A sheet can not be sewn to itself. Pick another one.", field="tools")
        sheet, pieces, free = kernel.sheets_sewn([b.shape for b in (first, *others)])
        had = sum(kernel.sheets_sewn([b.shape])[1] for b in (first, *others))
        if pieces >= had:
            raise StepError(
                "No edges of these sheets lie on each other (nearer than 0.001 mm), so nothing is sewn. "
                "Extend or split them so that they meet.",
                field="tools",
            )
        gone: dict[str, None] = dict.fromkeys(b.id for b in others)
        made = Made(shapes={first.id: sheet, **gone}, skin=sheet, taken=dict.fromkeys(gone, first.id))
        if not free:
            made.note = "Closed all round: a solid body now."
        else:
            more = f"{pieces} pieces, " if pieces > 1 else ""
            made.note = (
                f"{more}{len(free)} edge{'s stay' if len(free) > 1 else ' stays'} free, the first near "
                f"{said_at(free[0])}."
            )
        return made


@register
class Thicken(BuildStep):
    """A sheet made a solid of a thickness, to either side or both."""

    title, key = "Thicken", "b t"
    shelf = "Sheets"
    explains = "Make a sheet a solid of a thickness, to either side or both."
    sentence = "Thicken {name}: {sheet} {side} {thickness}{thickness_two}, {keep}" + RESULT

    kind: Literal["thicken"] = "thicken"
    name: Annotated[str, Name(label="name")]
    sheet: Annotated[BodyRef | None, Pick(label="sheet", accepts=("body",), needs="a sheet to thicken")] = (
        None
    )
    side: Annotated[
        Literal["front", "back", "centred", "two"],
        Choice(
            label="side",
            words={
                "front": "to its front by",
                "back": "to its back by",
                "centred": "evenly to both sides, in all",
                "two": "to both sides, to its front by",
            },
            turns=("front", "back"),
        ),
    ] = "front"
    thickness: Annotated[Value, Number(label="thickness", quantity="length", above=0.0, start="2 mm")] = (
        Value(formula="2 mm")
    )
    thickness_two: Annotated[
        Value,
        Number(
            label="thickness to its back",
            quantity="length",
            above=0.0,
            start="1 mm",
            when={"side": ("two",)},
            before="and to its back by",
        ),
    ] = Value(formula="1 mm")
    keep: Annotated[
        Literal["used", "kept"],
        Choice(
            label="sheet",
            words={"used": "using the sheet up", "kept": "keeping the sheet"},
            turns=("used", "kept"),
        ),
    ] = "used"

    def effects(self, given: SimpleNamespace, site: Site) -> list[Effect]:
        """Thicken the sheet."""
        t = given.thickness
        front, back = {"front": (t, 0.0), "back": (0.0, t), "centred": (t / 2, t / 2)}.get(self.side) or (
            t,
            given.thickness_two,
        )
        return [
            self.effect([kernel.thickened(_sheet(given.sheet, "sheet").shape, front, back, self.id)], given)
        ]

    def evaluate(self, given: SimpleNamespace, site: Site) -> Made:
        """Thicken; the thickness can be pulled."""
        made = super().evaluate(given, site)
        body: Body = given.sheet
        if self.keep == "used":
            made.shapes.setdefault(body.id, None)
        at = kernel.nearest_on_face(body.shape, 0, body.topology.faces[0].centre)
        way = kernel.normal_on_face(body.shape, 0, at)
        made.handles = [
            Handle(
                "thickness",
                at,
                scaled(way, -1.0 if self.side == "back" else 1.0),
                2.0 if self.side == "centred" else 1.0,
            )
        ]
        return made
