"""Wrap: texts and regions laid round a cylinder, raised on it or engraved into it."""

from __future__ import annotations

from types import SimpleNamespace
from typing import Annotated, Literal

from .. import kernel
from ..blanks import Choice, Name, Number, Pick
from ..datum import Picked
from ..errors import StepError
from ..kernel.types import dot, minus
from ..reference import RegionRef, ThingRef
from ..stored import Value
from .applying import applied
from .base import Effect, Made, Site, Step, register

__all__ = ["Wrap"]


@register
class Wrap(Step):
    """Texts and regions laid round the outside of a cylinder, true to length."""

    title, group, key, makes = "Wrap", "build", "b n", "body"
    shelf = "Shape from a sketch"
    rare = True
    explains = "Lay texts or regions round the outside of a cylinder, raised or engraved."
    sentence = "Wrap {name}: {profile} onto {face}, {manner} {depth}"

    kind: Literal["wrap"] = "wrap"
    name: Annotated[str, Name(label="name")]
    profile: Annotated[
        list[RegionRef],
        Pick(
            label="texts or regions",
            accepts=("region",),
            many=True,
            needs="a text or closed region of a sketch",
        ),
    ] = []
    face: Annotated[
        ThingRef | None, Pick(label="round face", accepts=("face",), needs="the outside of a cylinder")
    ] = None
    manner: Annotated[
        Literal["raised", "engraved"],
        Choice(
            label="manner",
            words={"raised": "raised by", "engraved": "engraved by"},
            turns=("raised", "engraved"),
        ),
    ] = "engraved"
    depth: Annotated[Value, Number(label="depth", quantity="length", above=0.0, start="0.5 mm")] = Value(
        formula="0.5 mm"
    )

    def evaluate(self, given: SimpleNamespace, site: Site) -> Made:
        """Wrap every piece, and add it to the face's body or cut it from it."""
        picked: Picked = given.face
        body = next((b for b in site.bodies.values() if picked.solid and picked.solid[0] is b.shape), None)
        if body is None or picked.solid is None:
            raise StepError("The picked face is not one of a body any more. Pick another.", field="face")
        face = body.solid("face").topology.faces[picked.solid[1]]
        if face.form != "round" or face.axis is None or face.hollow:
            raise StepError(
                "Texts and regions are laid round the outside of a cylinder only. Pick such a face.",
                field="face",
            )
        into = self.manner == "engraved"
        tools = [
            kernel.wrapped(profile, found.frame, face.axis, face.radius, given.depth, into, self.id)
            for found in given.profile
            for profile in found.profiles()
        ]
        made = applied(self.id, [Effect("cut" if into else "add", tools, (body.id,))], site)
        if any(
            dot(minus(found.frame.origin, face.axis[0]), found.frame.normal) < -face.radius / 2
            for found in given.profile
        ):
            made.note = (
                "It lies on the far side of the round face, where it reads rightly: the sketch is seen from "
                "within the cylinder."
            )
        return made
