"""Loft: a solid through regions that stand one after the other."""

from __future__ import annotations

from types import SimpleNamespace
from typing import Annotated, Literal

from .. import kernel
from ..blanks import Choice, Name, Pick
from ..errors import StepError
from ..reference import ProfileRef
from .base import Effect, Site, register
from .building import RESULT, BuildStep

__all__ = ["Loft"]


@register
class Loft(BuildStep):
    """A solid through two or more regions, in the order in which they were picked."""

    title, key = "Loft", "b l"
    explains = "Make a solid through two or more regions, in the order in which they are picked."
    sentence = "Loft {name}: through {profile}, {manner}" + RESULT

    kind: Literal["loft"] = "loft"
    name: Annotated[str, Name(label="name")]
    profile: Annotated[list[ProfileRef], Pick(label="regions", accepts=("region",), many=True,
                                              needs="two or more closed regions, one after the other")] = []
    manner: Annotated[Literal["smooth", "ruled"], Choice(label="manner", words={
        "smooth": "smoothly", "ruled": "straight from one to the next"}, turns=("smooth", "ruled"))] = "smooth"

    def effects(self, given: SimpleNamespace, site: Site) -> list[Effect]:
        """Loft through the regions."""
        sections = [(profile, found.frame) for found in given.profile for profile in found.profiles()]
        if len(sections) < 2:
            raise StepError("One region is not enough. Pick at least one more.", field="profile")
        if any(len(profile.loops) != 1 for profile, _ in sections):
            raise StepError("A region with holes can not be lofted. Loft its outline, and cut the hole by another loft.", field="profile")
        return [self.effect([kernel.lofted(sections, self.manner == "ruled", self.id)], given)]
