"""Revolve: flat profiles turned about an axis in their plane."""

from __future__ import annotations

import math
from types import SimpleNamespace
from typing import Annotated, Literal

from .. import kernel
from ..blanks import Choice, Name, Number, Pick
from ..datum.picked import EndlessLine
from ..errors import StepError
from ..kernel.types import Frame, Profile, cross, dot, minus, scaled, unit
from ..reference import ThingRef
from ..stored import Value
from ..tolerance import FULL_TURN, MEETS, ONE_PLACE, SAME_NUMBER
from .base import Effect, Handle, Made, Site, register
from .building import RESULT, WALL, WallStep, target_of
from .profiles import ProfileFound, middle_of, nothing_closed

__all__ = ["Revolve"]

NEARLY = 0.999  # of a full turn: a tool that is cut off at something


@register
class Revolve(WallStep):
    """Profiles turned about an axis: fully, by an angle, or up to something."""

    title, key = "Revolve", "b r"
    shelf = "Shape from a sketch"
    explains = "Turn regions or flat faces about an axis, fully, by an angle, or up to something."
    sentence = "Revolve {name}: {profile} about {axis} {extent} {angle}{angle_two}{until}" + WALL + RESULT

    kind: Literal["revolve"] = "revolve"
    name: Annotated[str, Name(label="name")]
    axis: Annotated[
        ThingRef | None,
        Pick(label="axis", accepts=("axis",), needs="an axis: a line, edge, datum axis or round face"),
    ] = None
    extent: Annotated[
        Literal["full", "ahead", "back", "both", "two", "until"],
        Choice(
            label="extent",
            words={
                "full": "by a full turn",
                "ahead": "by",
                "back": "backwards by",
                "both": "evenly both ways, in all",
                "two": "both ways, by",
                "until": "up to",
            },
            turns=("ahead", "back"),
        ),
    ] = "full"
    angle: Annotated[
        Value,
        Number(
            label="angle",
            quantity="angle",
            above=0.0,
            most=2 * math.pi,
            start="90 deg",
            when={"extent": ("ahead", "back", "both", "two")},
        ),
    ] = Value(formula="90 deg")
    angle_two: Annotated[
        Value,
        Number(
            label="angle backwards",
            quantity="angle",
            above=0.0,
            most=2 * math.pi,
            start="30 deg",
            when={"extent": ("two",)},
            before="and",
            after="backwards",
        ),
    ] = Value(formula="30 deg")
    until: Annotated[
        list[ThingRef],
        Pick(
            label="face or plane",
            accepts=("plane", "face"),
            many=True,
            needs="a face or plane to end at",
            when={"extent": ("until",)},
            fixed=True,
        ),
    ] = []

    def effects(self, given: SimpleNamespace, site: Site) -> list[Effect]:
        """Turn every profile."""
        axis: EndlessLine = given.axis.axis
        tools = []
        for found in given.profile:
            _check(found, axis)
            if self.wall == "sheet":
                tools += self._sheets(found, axis, given)
                continue
            tools += [
                self._turned(profile, found.frame, axis, given, site)
                for profile in self.profiles(found, given)
            ]
        if not tools:
            raise nothing_closed("turn", given.profile)
        return [self.effect(tools, given)]

    def evaluate(self, given: SimpleNamespace, site: Site) -> Made:
        """Turn every profile; an angle can be pulled on the stage."""
        made = super().evaluate(given, site)
        if self.extent in ("ahead", "back", "both", "two"):
            found: ProfileFound = given.profile[0]
            axis, middle = given.axis.axis, middle_of(found, found.frame)
            way = unit(axis.direction)
            back = scaled(way, -1.0)
            made.handles = [
                Handle(
                    "angle",
                    middle,
                    back if self.extent == "back" else way,
                    2.0 if self.extent == "both" else 1.0,
                    axis.foot(middle),
                )
            ]
            if self.extent == "two":
                made.handles.append(Handle("angle_two", middle, back, 1.0, axis.foot(middle)))
        return made

    def _sheets(
        self, found: ProfileFound, axis: EndlessLine, given: SimpleNamespace
    ) -> list[kernel.NamedShape]:
        if self.extent == "until":
            raise StepError(
                "A sheet is turned by an angle. Give one, or split the sheet afterwards where it should end.",
                field="extent",
            )
        whole, back = self._sweep(given)
        through, way = axis.origin, unit(axis.direction)
        frame = found.frame.turned(through, way, -back)
        return self.sheets(
            found,
            lambda sides, closed, name: kernel.sheet_turned(
                sides, frame, through, way, whole, closed, self.id, name
            ),
        )

    def _sweep(self, given: SimpleNamespace) -> tuple[float, float]:
        """Return the whole turn, and how much of it goes backwards, rad."""
        whole, back = kernel.FULL, 0.0
        if self.extent != "full":
            whole = given.angle + (given.angle_two if self.extent == "two" else 0.0)
            back = {"both": whole / 2, "two": getattr(given, "angle_two", 0.0), "back": whole}.get(
                self.extent, 0.0
            )
            if whole > kernel.FULL + FULL_TURN:
                raise StepError(
                    f"This comes to {math.degrees(whole):g}°; a full turn is 360°.", field="angle"
                )
        return whole, back

    def _turned(
        self, profile: Profile, frame: Frame, axis: EndlessLine, given: SimpleNamespace, site: Site
    ) -> kernel.NamedShape:
        through, way = axis.origin, unit(axis.direction)
        if self.extent == "until":
            targets = [target_of(p, way) for p in given.until]
            long = kernel.revolved(
                profile, frame, through, way, NEARLY * kernel.FULL, self.id, far=kernel.LEAK
            )
            low, high = kernel.box_of([long])
            reach = 2 * math.dist(low, high) + max(
                (math.dist(t.origin, low) for t in targets if isinstance(t, Frame)), default=0.0
            )
            return kernel.up_to(long, targets, 2 * reach, self.id, profile.name)
        whole, back = self._sweep(given)
        if profile.face is not None and back:
            return self._face_both_ways(profile, frame, axis, whole - back, back)
        return kernel.revolved(profile, frame.turned(through, way, -back), through, way, whole, self.id)

    def _face_both_ways(
        self, profile: Profile, frame: Frame, axis: EndlessLine, ahead: float, back: float
    ) -> kernel.NamedShape:
        """Turn a face of a body, which stays where it is, one way and the other."""
        through, way = axis.origin, unit(axis.direction)
        halves = [kernel.revolved(profile, frame, through, scaled(way, -1.0), back, self.id, far="start")]
        if ahead > SAME_NUMBER:
            halves.append(kernel.revolved(profile, frame, through, way, ahead, self.id))
        return kernel.fuse(halves)


def _check(found: ProfileFound, axis: EndlessLine) -> None:
    """Raise StepError unless the axis lies in the profile's plane and the profile on one side of it."""
    frame, way = found.frame, unit(axis.direction)
    if abs(dot(way, frame.normal)) > MEETS or abs(frame.local(axis.origin)[2]) > MEETS:
        raise StepError(
            "The axis does not lie in the profile's plane. Pick one that does, or draw a line in the sketch.",
            field="axis",
        )
    aside = cross(frame.normal, way)
    for outline in found.outlines():
        sides = [(dot(minus(frame.at(*p), axis.origin), aside), p) for p in outline]
        (low, first), (high, last) = min(sides), max(sides)
        at = first if -low < high else last
        if low < -ONE_PLACE and high > ONE_PLACE:
            raise StepError(
                f"The profile crosses the axis, near X {at[0]:.3f} Y {at[1]:.3f} of its plane. Move one of "
                "the two, or cut the "
                "profile at the axis.",
                field="axis",
            )
