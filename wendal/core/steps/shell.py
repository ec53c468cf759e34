"""Shell: a body hollowed to a thickness, open at picked faces."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Annotated, Literal

from .. import kernel
from ..blanks import Choice, Name, Number, Pick
from ..datum import Picked
from ..errors import StepError
from ..kernel.types import scaled
from ..reference import BodyRef, ThingRef
from ..stored import Value
from ..tolerance import THINNEST
from .base import Body, Handle, Made, Site, Step, register
from .given import Given

__all__ = ["Shell"]


@dataclass(slots=True, kw_only=True)
class ShellGiven(Given):
    """What a shell is given; thicknesses in mm."""

    body: Body
    thickness: float
    openings: list[Picked]
    walls: list[Picked] = field(default_factory=list)
    thickness_two: float = 0.0


@register
class Shell(Step):
    """A body hollowed to walls of a thickness; picked faces are left open, others can have a thickness of
    their own."""

    title, group, key, makes = "Shell", "build", "b s", "body"
    shelf = "Walls"
    leads = ("openings",)
    takes = ShellGiven
    explains = "Hollow a body to a thickness, open at picked faces or closed all round."
    sentence = "Shell {name}: {body} to {thickness} {side}, open at {openings}{other}{walls}{thickness_two}"

    kind: Literal["shell"] = "shell"
    name: Annotated[str, Name(label="name")]
    body: Annotated[BodyRef | None, Pick(label="body", accepts=("body",), needs="a body to hollow")] = None
    thickness: Annotated[Value, Number(label="thickness", quantity="length", above=0.0, start="2 mm")] = (
        Value(formula="2 mm")
    )
    side: Annotated[
        Literal["in", "out", "both"],
        Choice(
            label="side",
            words={"in": "inwards", "out": "outwards", "both": "evenly to both sides"},
            turns=("in", "out"),
        ),
    ] = "in"
    openings: Annotated[
        list[ThingRef],
        Pick(
            label="open faces",
            accepts=("face",),
            many=True,
            needs="faces to leave open",
            optional=True,
            unless="none, closed all round",
        ),
    ] = []
    other: Annotated[
        Literal["", "other"],
        Choice(label="other walls", words={"": "", "other": ", with"}, clause="other thickness"),
    ] = ""
    walls: Annotated[
        list[ThingRef],
        Pick(
            label="walls of the other thickness",
            accepts=("face",),
            many=True,
            needs="faces with a thickness of their own",
            when={"other": ("other",)},
        ),
    ] = []
    thickness_two: Annotated[
        Value,
        Number(
            label="other thickness",
            quantity="length",
            above=0.0,
            start="4 mm",
            when={"other": ("other",)},
            before="of",
        ),
    ] = Value(formula="4 mm")

    def evaluate(self, given: ShellGiven, site: Site) -> Made:
        """Hollow the body; it keeps its id, and its new walls are named by the faces that they run along."""
        body = given.body.solid("body")
        openings = _faces(body, given.openings, "openings")
        others = dict.fromkeys(_faces(body, given.walls, "walls"), given.thickness_two) if self.other else {}
        if set(openings) & set(others):
            raise StepError(
                "A face can not be left open and have a wall too. Take it out of one.", field="walls"
            )
        for name, thick in (("thickness", given.thickness), ("thickness_two", given.thickness_two)):
            if thick < THINNEST and (name == "thickness" or others):
                raise StepError(
                    f"Walls thinner than {THINNEST:g} mm are not made: the kernel takes both sides for one. "
                    "Make them thicker.",
                    field=name,
                )
        if self.side == "both" and others:
            raise StepError(
                "Walls to both sides have one thickness. Take the other thickness away, or choose a side.",
                field="walls",
            )
        try:
            shape, skin = self._hollowed(body, openings, given.thickness, others)
        except kernel.ShellFailed:
            raise self._failure(body, openings, given.thickness, others) from None
        made = Made(shapes={body.id: shape}, skin=skin)
        face = body.topology.faces[openings[0] if openings else 0]
        made.handles = [
            Handle("thickness", face.centre, scaled(face.frame.normal, 1.0 if self.side == "out" else -1.0))
        ]
        if kernel.lumps(shape) > 1:
            made.note = f"This leaves {kernel.lumps(shape)} separate pieces."
        return made

    def _hollowed(
        self, body: Body, openings: tuple[int, ...], thickness: float, others: dict[int, float]
    ) -> tuple[kernel.NamedShape, kernel.NamedShape]:
        """Hollow the body; to both sides, it grows by half of the thickness first, its open faces staying
        where they are."""
        if self.side != "both":
            return kernel.hollowed(body.shape, openings, thickness, self.side == "out", others, self.id)
        try:
            grown, _ = kernel.faces_offset(
                body.shape, {i: thickness / 2 for i in range(len(body.topology.faces)) if i not in openings}
            )
        except kernel.FaceRefused as error:
            raise kernel.ShellFailed from error
        opened = {n for i in openings for n in body.shape.names[i]}
        return kernel.hollowed(
            grown,
            tuple(i for i, names in enumerate(grown.names) if names & opened),
            thickness,
            False,
            {},
            self.id,
        )

    def _failure(
        self, body: Body, openings: tuple[int, ...], thickness: float, others: dict[int, float]
    ) -> StepError:
        """Say up to which thickness it works; found by trying."""
        share = kernel.most(
            lambda by: self._hollowed(body, openings, thickness * by, {i: t * by for i, t in others.items()})
        )
        if share is None:
            return StepError(
                f"Walls of {thickness:g} mm can not be made here. Make them thinner, or leave other faces "
                "open.",
                field="thickness",
                findable=True,
            )
        most = share * thickness
        if most > 0:
            more = " (the other thickness in proportion)" if others else ""
            return StepError(
                f"Walls of {thickness:g} mm can not be made here; it works up to about {kernel.said(most)} "
                f"mm{more}.",
                field="thickness",
                offer="" if others else f"{kernel.said(most)} mm",
            )
        if others:
            return StepError(
                "Walls of different thickness can not be made here: a wall's thickness goes on along all "
                "that runs on smoothly "
                "from it. Pick all of these faces, or none.",
                field="walls",
            )
        return StepError(
            "This body can not be hollowed so, at any thickness that was tried. Leave other faces open, or "
            "hollow it before "
            "its edges are rounded.",
            field="openings",
        )


def _faces(body: Body, picks: list[Picked], field: str) -> tuple[int, ...]:
    found: dict[int, None] = {}
    for p in picks:
        if not p.solid or p.solid[0] is not body.shape:
            raise StepError(
                f"A picked face is not one of {body.name}. Pick faces of the body that is hollowed.",
                field=field,
            )
        found[p.solid[1]] = None
    return tuple(found)
