"""Draft, and faces removed: what is done to picked faces of a body."""

from __future__ import annotations

import math
from types import SimpleNamespace
from typing import Annotated, Literal

from .. import kernel
from ..blanks import Choice, Name, Number, Pick
from ..errors import StepError
from ..kernel.types import Frame
from ..reference import PlaneRef, ThingRef
from ..stored import Value
from ..tolerance import PARALLEL
from .base import Body, Made, Site, Step, register
from .building import reach_of
from .on_bodies import by_body, near

__all__ = ["Draft", "RemoveFaces"]


@register
class Draft(Step):
    """Faces inclined by an angle about where they meet a plane, so that a part leaves its mould."""

    title, group, key, makes = "Draft", "build", "b d", "body"
    shelf = "Walls"
    copied = True
    explains = "Incline faces by an angle from where they meet a plane."
    sentence = "Draft {name}: {faces} by {angle} from {plane}, {side}{ways}"

    kind: Literal["draft"] = "draft"
    name: Annotated[str, Name(label="name")]
    faces: Annotated[
        list[ThingRef], Pick(label="faces", accepts=("face",), many=True, needs="a face to incline")
    ] = []
    angle: Annotated[
        Value, Number(label="angle", quantity="angle", above=0.0, most=math.radians(80), start="2 deg")
    ] = Value(formula="2 deg")
    plane: Annotated[
        PlaneRef | None,
        Pick(label="plane", accepts=("plane",), needs="the plane or flat face at which they keep their size"),
    ] = None
    side: Annotated[
        Literal["narrow", "widen"],
        Choice(
            label="side",
            words={"narrow": "narrowing away from it", "widen": "widening away from it"},
            turns=("narrow", "widen"),
        ),
    ] = "narrow"
    ways: Annotated[
        Literal["", "both"],
        Choice(
            label="ways", words={"": "", "both": ", to both sides of it"}, clause="both sides of the plane"
        ),
    ] = ""

    def evaluate(self, given: SimpleNamespace, site: Site) -> Made:
        """Incline the faces; each keeps its name."""
        made, further = Made(), 0
        plane: Frame = given.plane.plane
        if given.plane.solid:  # away from a face is into its body
            plane = plane.flipped()
        for body, faces in by_body(given.faces, site):
            body.solid("faces")
            try:
                made.shapes[body.id], more = self._inclined(
                    body, faces, plane, given.angle if self.side == "narrow" else -given.angle
                )
            except kernel.FaceRefused as error:
                raise self._refused(body, faces, error.faces, plane) from None
            further += more
        if further:
            made.note = (
                f"{further} more face{'s come' if further > 1 else ' comes'} along, since "
                f"{'they run' if further > 1 else 'it runs'} on smoothly."
            )
        return made

    def _inclined(
        self, body: Body, faces: list[int], plane: Frame, angle: float
    ) -> tuple[kernel.NamedShape, int]:
        """Incline the faces; to both sides of the plane, they are split there first, and each part leans away
        from the plane."""
        if not self.ways:
            return kernel.inclined(body.shape, [(faces, plane)], angle)
        shape, _ = kernel.faces_split(
            body.shape, faces, [(plane, kernel.front_of(plane))], reach_of([body.shape], plane), self.id
        )
        parts = [
            [
                i
                for i, names in enumerate(shape.names)
                if any(n.startswith(f"{self.id}/part/{word}/") for n in names)
            ]
            for word in ("front", "back")
        ]
        return kernel.inclined(shape, [(parts[0], plane), (parts[1], plane.flipped())], angle)

    def _refused(self, body: Body, faces: list[int], refused: list[int], plane: Frame) -> StepError:
        flat = [
            i
            for i in faces
            if body.topology.faces[i].form == "flat"
            and abs(
                sum(a * b for a, b in zip(body.topology.faces[i].frame.normal, plane.normal, strict=True))
            )
            > 1 - PARALLEL
        ]
        if flat:
            return StepError(
                f"The face near {near(body, flat[0])} is parallel to the plane, so it can not be inclined "
                "from it. Take it out.",
                field="faces",
            )
        if refused and self.ways:
            return StepError(
                "A face does not reach over both sides of the plane, or can not be inclined from it. Take "
                "it out, or draft to one side.",
                field="faces",
            )
        if refused:
            return StepError(
                f"The face near {near(body, refused[0])} can not be inclined from this plane. Take it out, "
                "or pick another plane.",
                field="faces",
            )
        return StepError("The faces would run into others at this angle. Make it smaller.", field="angle")


@register
class RemoveFaces(Step):
    """Faces taken away, the faces round them grown together: a hole, boss, pocket or fillet is gone."""

    title, group, key, makes = "Remove faces", "build", "b x", "body"
    shelf = "Faces"
    copied = True
    placeless = True
    explains = "Take faces away and heal the body over them: a hole, boss, pocket or fillet is gone."
    sentence = "Remove faces {name}: {faces}, healed"

    kind: Literal["remove_faces"] = "remove_faces"
    name: Annotated[str, Name(label="name")]
    faces: Annotated[
        list[ThingRef], Pick(label="faces", accepts=("face",), many=True, needs="a face to take away")
    ] = []

    def evaluate(self, given: SimpleNamespace, site: Site) -> Made:
        """Take the faces away; the others keep their names."""
        made = Made()
        for body, faces in by_body(given.faces, site):
            body.solid("faces")
            try:
                made.shapes[body.id] = kernel.without_faces(body.shape, faces)
            except kernel.FaceRefused as error:
                where = f"the face near {near(body, error.faces[0])}" if error.faces else "these faces"
                raise StepError(
                    f"The body does not close over {where}. Pick all faces of what is to go (a boss's top "
                    "too, all of a chain of "
                    "fillets), or leave it.",
                    field="faces",
                ) from None
        return made
