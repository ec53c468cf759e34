"""Loft: a solid through regions that stand one after the other."""

from __future__ import annotations

from types import SimpleNamespace
from typing import Annotated, Literal

from .. import kernel
from ..blanks import Choice, Name, Pick
from ..errors import StepError
from ..kernel.types import Profile
from ..reference import ProfileRef, ThingRef
from .base import Effect, Site, register
from .building import RESULT, BuildStep
from .profiles import FaceFound, ProfileFound

__all__ = ["Loft"]


@register
class Loft(BuildStep):
    """A solid through two or more regions, in the order in which they were picked; it can begin and end at
    points."""

    title, key = "Loft", "b l"
    shelf = "Shape from a sketch"
    explains = (
        "Make a solid through two or more regions or flat faces, in the order in which they are picked; it "
        "can begin or end at a point."
    )
    sentence = (
        "Loft {name}: through {profile}, {manner}{square}{begin}{start}{finish}{end}{ring}{matching}{corners}"
        + RESULT
    )

    kind: Literal["loft"] = "loft"
    name: Annotated[str, Name(label="name")]
    profile: Annotated[
        list[ProfileRef],
        Pick(
            label="regions or flat faces",
            accepts=("region", "flat"),
            many=True,
            needs="two or more closed regions or flat faces, one after the other",
        ),
    ] = []
    manner: Annotated[
        Literal["smooth", "ruled"],
        Choice(
            label="manner",
            words={"smooth": "smoothly", "ruled": "straight from one to the next"},
            turns=("smooth", "ruled"),
        ),
    ] = "smooth"
    square: Annotated[
        Literal["", "square"],
        Choice(
            label="ends",
            words={"": "", "square": ", square to its end regions"},
            clause="square ends",
            when={"manner": ("smooth",)},
        ),
    ] = ""
    begin: Annotated[
        Literal["", "point"],
        Choice(label="beginning", words={"": "", "point": ", beginning at"}, clause="beginning at a point"),
    ] = ""
    start: Annotated[
        ThingRef | None,
        Pick(
            label="first point", accepts=("point",), needs="a point to begin at", when={"begin": ("point",)}
        ),
    ] = None
    finish: Annotated[
        Literal["", "point"],
        Choice(label="ending", words={"": "", "point": ", ending at"}, clause="ending at a point"),
    ] = ""
    end: Annotated[
        ThingRef | None,
        Pick(label="last point", accepts=("point",), needs="a point to end at", when={"finish": ("point",)}),
    ] = None
    ring: Annotated[
        Literal["", "ring"],
        Choice(label="ring", words={"": "", "ring": ", closed to a ring"}, clause="closed ring"),
    ] = ""
    matching: Annotated[
        Literal["", "picked"],
        Choice(label="corners", words={"": "", "picked": ", joining the corners"}, clause="chosen corners"),
    ] = ""
    corners: Annotated[
        list[ThingRef],
        Pick(
            label="corners that belong together",
            accepts=("point",),
            many=True,
            needs="one corner of every region, in the same order",
            when={"matching": ("picked",)},
        ),
    ] = []

    def effects(self, given: SimpleNamespace, site: Site) -> list[Effect]:
        """Loft through the regions."""
        sections = [(profile, found.frame) for found in given.profile for profile in _outlines(found)]
        points = bool(self.begin) + bool(self.finish)
        if len(sections) + points < 2:
            raise StepError(
                "One region is not enough. Pick at least one more, or let it end at a point.", field="profile"
            )
        if self.ring and (len(sections) < 3 or points):
            raise StepError(
                "A ring goes through three or more regions and no points. Pick more regions, or take the "
                "ring away.",
                field="profile",
            )
        corners = [p.point for p in given.corners] if self.matching else []
        if corners and len(corners) != len(sections):
            raise StepError(
                f"There are {len(sections)} regions and {len(corners)} corners. Pick one corner of every "
                "region, in the same order.",
                field="corners",
            )
        how = kernel.Lofting(
            self.manner == "ruled",
            bool(self.ring),
            given.start.point if self.begin else None,
            given.end.point if self.finish else None,
            self.square == "square",
            tuple(corners),
        )
        return [self.effect([kernel.lofted(sections, how, self.id)], given)]


def _outlines(found: ProfileFound) -> list[Profile]:
    """Return what a pick is lofted as; a flat face by the edges around it."""
    if not isinstance(found, FaceFound):
        return found.profiles()
    (profile,) = found.profiles()
    assert profile.face is not None
    return [kernel.profile_of_face(*profile.face, found.frame, profile.name)]
