"""Mirror: steps or bodies made again on the other side of a plane."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated, Literal

from ..blanks import Choice, Name, Pick
from ..datum import Picked
from ..kernel.types import Placement
from ..reference import PlaneRef, SeedRef
from .base import Body, Made, Site, Step, register
from .repeating import RepeatGiven, repeated

__all__ = ["Mirror"]


@dataclass(slots=True, kw_only=True)
class MirrorGiven(RepeatGiven):
    """What a mirror is given."""

    about: Picked


@register
class Mirror(Step):
    """Steps or bodies made again on the other side of a plane; changes to them reach the copy."""

    title, group, key, makes = "Mirror", "build", "b m", "body"
    shelf = "Copies"
    takes = MirrorGiven
    explains = "Make steps or bodies again on the other side of a plane or flat face."
    sentence = "Mirror {name}: {seeds}{what} about {about}, {copying}{joining}"

    kind: Literal["mirror"] = "mirror"
    name: Annotated[str, Name(label="name")]
    seeds: Annotated[
        list[SeedRef],
        Pick(
            label="steps or bodies",
            accepts=("step", "body"),
            many=True,
            needs="a step or body to mirror",
            accepts_with={"face": {"what": ("faces",)}},
        ),
    ] = []
    what: Annotated[
        Literal["", "faces"],
        Choice(label="faces", words={"": "", "faces": ", faces picked one by one"}, clause="picked faces"),
    ] = ""
    about: Annotated[
        PlaneRef | None, Pick(label="plane", accepts=("plane",), needs="a plane or flat face to mirror about")
    ] = None
    copying: Annotated[
        Literal["exact", "anew"],
        Choice(
            label="copies",
            words={"exact": "an exact copy", "anew": "made anew in its place"},
            turns=("exact", "anew"),
        ),
    ] = "exact"
    joining: Annotated[
        Literal["", "apart"],
        Choice(
            label="bodies", words={"": "", "apart": ", as bodies of their own"}, clause="bodies of their own"
        ),
    ] = ""

    def evaluate(self, given: MirrorGiven, site: Site) -> Made:
        """Make the mirrored copy."""
        assert given.about.plane is not None  # what accepts only planes is given one
        return repeated(
            self,
            given,
            site,
            {"2": Placement.mirrored(given.about.plane)},
            self.copying == "anew",
            not self.joining,
        )

    def reads(self, site: Site) -> list[Body]:
        """Copies go to whatever bodies there are."""
        return list(site.bodies.values())
