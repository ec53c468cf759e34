"""Extrude: flat profiles pushed out of or into their plane, to a depth or up to something."""

from __future__ import annotations

import math
from types import SimpleNamespace
from typing import Annotated, Literal

from .. import kernel
from ..blanks import Choice, Name, Number, Pick
from ..errors import StepError
from ..kernel.types import Frame, Profile, Vec, add, cross, dot, minus, scaled, unit
from ..reference import ThingRef
from ..stored import Value
from ..tolerance import ASLANT, ONE_PLACE
from .base import Effect, Handle, Made, Site, register
from .building import RESULT, WALL, WallStep, along, reach_of, target_of
from .profiles import ProfileFound, middle_of, nothing_closed

__all__ = ["Extrude"]

DEPTH = ("out", "into", "both", "two")
BACK = ("into", "through_into", "next_into")


@register
class Extrude(WallStep):
    """Profiles pushed by a depth, through everything, or up to something: a new body, added to one, or cut
    from one."""

    title, key = "Extrude", "b e"
    shelf = "Shape from a sketch"
    explains = "Push regions, texts or flat faces by a depth, through everything, or up to something."
    sentence = (
        "Extrude {name}: {profile} {extent} "
        "{depth}{depth_two}{until}{short}{start}{start_by}{start_at}{slant}{line}{taper}{draft}"
        + WALL
        + RESULT
    )

    kind: Literal["extrude"] = "extrude"
    name: Annotated[str, Name(label="name")]
    extent: Annotated[
        Literal[
            "out",
            "into",
            "both",
            "two",
            "through",
            "through_into",
            "through_both",
            "next",
            "next_into",
            "until",
        ],
        Choice(
            label="extent",
            words={
                "out": "out of its plane by",
                "into": "into its plane by",
                "both": "evenly both ways, in all",
                "two": "both ways, out of its plane by",
                "through": "out of its plane, through everything",
                "through_into": "into its plane, through everything",
                "through_both": "both ways, through everything",
                "next": "out of its plane, up to the next face",
                "next_into": "into its plane, up to the next face",
                "until": "up to",
            },
            turns=("out", "into", "through", "through_into", "next", "next_into"),
        ),
    ] = "out"
    depth: Annotated[Value, Number(label="depth", quantity="length", above=0.0, when={"extent": DEPTH})] = (
        Value(formula="10 mm")
    )
    depth_two: Annotated[
        Value,
        Number(
            label="depth into the plane",
            quantity="length",
            above=0.0,
            start="5 mm",
            when={"extent": ("two",)},
            before="and",
            after="into it",
        ),
    ] = Value(formula="5 mm")
    until: Annotated[
        list[ThingRef],
        Pick(
            label="face, plane or corner",
            accepts=("plane", "face", "point"),
            many=True,
            needs="a face, plane or corner to end at",
            when={"extent": ("until",)},
            fixed=True,
        ),
    ] = []
    short: Annotated[
        Value,
        Number(
            label="short by",
            quantity="length",
            start="0 mm",
            quiet=True,
            when={"extent": ("until",)},
            before=", short by",
        ),
    ] = Value(formula="0 mm")
    start: Annotated[
        Literal["", "off", "from"],
        Choice(
            label="start",
            words={"": "", "off": ", begun off its plane by", "from": ", begun at"},
            clause="other start",
        ),
    ] = ""
    start_by: Annotated[
        Value, Number(label="start distance", quantity="length", start="5 mm", when={"start": ("off",)})
    ] = Value(formula="5 mm")
    start_at: Annotated[
        ThingRef | None,
        Pick(
            label="start plane",
            accepts=("plane",),
            needs="a plane or flat face to begin at",
            when={"start": ("from",)},
            fixed=True,
        ),
    ] = None
    slant: Annotated[
        Literal["", "along"],
        Choice(label="direction", words={"": "", "along": ", along"}, clause="other direction"),
    ] = ""
    line: Annotated[
        ThingRef | None,
        Pick(
            label="line",
            accepts=("line", "axis"),
            needs="a line, edge or axis to push along",
            when={"slant": ("along",)},
        ),
    ] = None
    taper: Annotated[
        Literal["", "narrow", "widen"],
        Choice(
            label="draft",
            words={"": "", "narrow": ", narrowing by", "widen": ", widening by"},
            clause="draft angle",
        ),
    ] = ""
    draft: Annotated[
        Value,
        Number(
            label="draft angle",
            quantity="angle",
            above=0.0,
            most=math.radians(89),
            start="3 deg",
            when={"taper": ("narrow", "widen")},
        ),
    ] = Value(formula="3 deg")

    def effects(self, given: SimpleNamespace, site: Site) -> list[Effect]:
        """Push every profile."""
        if self.wall == "sheet":
            return [
                self.effect([sheet for found in given.profile for sheet in self._sheets(found, given)], given)
            ]
        tools = [
            self._pushed(found, profile, given, site)
            for found in given.profile
            for profile in self.profiles(found, given)
        ]
        if not tools:
            raise nothing_closed("push", given.profile)
        return [self.effect(tools, given)]

    def evaluate(self, given: SimpleNamespace, site: Site) -> Made:
        """Push every profile; a depth can be pulled on the stage."""
        made = super().evaluate(given, site)
        if self.extent in DEPTH:
            found: ProfileFound = given.profile[0]
            way = self._direction(found.frame, given)
            middle = middle_of(found, self._begun(found.frame, way, given))
            back = scaled(way, -1.0)
            made.handles = [
                Handle(
                    "depth",
                    middle,
                    back if self.extent == "into" else way,
                    2.0 if self.extent == "both" else 1.0,
                )
            ]
            if self.extent == "two":
                made.handles.append(Handle("depth_two", middle, back))
        return made

    def reads(self, site: Site) -> list:
        """What ends at something looks at all bodies unless they are named."""
        looks = self.extent not in (*DEPTH, "until")
        return list(site.bodies.values()) if looks and not self.bodies else super().reads(site)

    def _sheets(self, found: ProfileFound, given: SimpleNamespace) -> list[kernel.NamedShape]:
        if self.extent not in DEPTH:
            raise StepError(
                "A sheet is pushed by a depth. Give one, or split the sheet afterwards where it should end.",
                field="extent",
            )
        if self.taper:
            raise StepError("A sheet takes no draft angle. Take the clause away.", field="draft")
        way = self._direction(found.frame, given)
        frame = self._begun(found.frame, way, given)
        into = (
            given.depth_two
            if self.extent == "two"
            else {"into": given.depth, "both": given.depth / 2}.get(self.extent, 0.0)
        )
        out = {"into": 0.0, "both": given.depth / 2}.get(self.extent, given.depth)
        back = frame.at_place(add(frame.origin, scaled(way, -into)))
        return self.sheets(
            found,
            lambda sides, closed, name: kernel.sheet_along(
                sides, back, scaled(way, out + into), closed, self.id, name
            ),
        )

    def _pushed(
        self, found: ProfileFound, profile: Profile, given: SimpleNamespace, site: Site
    ) -> kernel.NamedShape:
        frame = found.frame
        way = self._direction(frame, given)
        frame = self._begun(frame, way, given)
        draft = {"narrow": 1.0, "widen": -1.0}.get(self.taper, 0.0) * getattr(given, "draft", 0.0)
        if draft and self.slant:
            raise StepError(
                "A draft goes with a push square to the plane only. Take one of the two clauses away.",
                field="draft",
            )
        if self.extent in DEPTH:
            return self._to_depth(profile, frame, way, draft, given)
        shapes = [b.shape for b in self.material(given, site)]
        if self.extent == "until":
            return self._until(found, profile, frame, way, draft, given, shapes)
        if not shapes:
            raise StepError("There is no body yet to go through or up to. Give a depth.", field="extent")
        ahead = scaled(way, -1.0) if self.extent in BACK else way
        low, high = along(shapes, frame.origin, ahead)
        if high <= 0 and self.extent != "through_both":
            raise StepError("Nothing lies in this direction. Turn it, or give a depth.", field="extent")
        if self.extent.startswith("next"):
            long = kernel.prism(
                profile, frame, scaled(ahead, high + 1.0), self.id, far=kernel.LEAK, draft=draft
            )
            return kernel.up_to_next(long, shapes, self.id, profile.name)
        if self.extent == "through_both" and low < 0:
            return self._both(profile, frame, way, high + 1.0, 1.0 - low, draft)
        return kernel.prism(profile, frame, scaled(ahead, high + 1.0), self.id, draft=draft)

    def _to_depth(
        self, profile: Profile, frame: Frame, way: Vec, draft: float, given: SimpleNamespace
    ) -> kernel.NamedShape:
        if self.extent == "both":
            return self._both(profile, frame, way, given.depth / 2, given.depth / 2, draft)
        if self.extent == "two":
            return self._both(profile, frame, way, given.depth, given.depth_two, draft)
        ahead = scaled(way, -1.0 if self.extent == "into" else 1.0)
        return kernel.prism(profile, frame, scaled(ahead, given.depth), self.id, draft=draft)

    def _both(
        self, profile: Profile, frame: Frame, way: Vec, out: float, into: float, draft: float
    ) -> kernel.NamedShape:
        """Push both ways from the plane: at once, or, since a draft narrows away from the plane, in two
        halves."""
        if not draft:
            back = frame.at_place(minus(frame.origin, scaled(way, into)))
            if profile.face is None:
                return kernel.prism(profile, back, scaled(way, out + into), self.id)
        return kernel.fuse(
            [
                kernel.prism(profile, frame, scaled(way, out), self.id, draft=draft),
                kernel.prism(profile, frame, scaled(way, -into), self.id, far="start", draft=draft),
            ]
        )

    def _until(
        self,
        found: ProfileFound,
        profile: Profile,
        frame: Frame,
        way: Vec,
        draft: float,
        given: SimpleNamespace,
        shapes: list[kernel.NamedShape],
    ) -> kernel.NamedShape:
        targets = [target_of(p, way) for p in given.until]
        solids = [t[0] for t in targets if not isinstance(t, Frame)]
        frames = [t for t in targets if isinstance(t, Frame)]
        middle = middle_of(found, frame)
        heights = [dot(minus(_place(p, middle), middle), way) for p in given.until]
        if max(map(abs, heights)) < ONE_PLACE:
            raise StepError(
                "The profile begins at or behind what it should end at. Pick another end, or another start.",
                field="until",
            )
        ahead = way if sum(heights) >= 0 else scaled(way, -1.0)
        reach = reach_of([*shapes, *solids], frame, *frames)
        long = kernel.prism(profile, frame, scaled(ahead, reach), self.id, far=kernel.LEAK, draft=draft)
        facing = [t if not isinstance(t, Frame) or dot(t.normal, ahead) < 0 else t.flipped() for t in targets]
        seen = [dot(p.face.normal(p.face.nearest(middle)), ahead) for p in given.until if p.face is not None]
        beyond = -1.0 if sum(seen) > 0 else 1.0  # faces seen from inside their body: short of them is into it
        return kernel.up_to(
            long, facing, 2 * reach, self.id, profile.name, beyond * given.short, scaled(ahead, beyond)
        )

    def _direction(self, frame: Frame, given: SimpleNamespace) -> Vec:
        """Return the unit direction out of the plane."""
        if not self.slant:
            return frame.normal
        line = given.line.line or given.line.axis
        way = unit(line.direction)
        rise = dot(way, frame.normal)
        if abs(rise) < ASLANT:
            raise StepError(
                "This line runs along the profile's plane, so nothing is pushed out of it. Pick another.",
                field="line",
            )
        return way if rise > 0 else scaled(way, -1.0)

    def _begun(self, frame: Frame, way: Vec, given: SimpleNamespace) -> Frame:
        """Return the frame where the push begins."""
        if self.start == "off":
            return frame.at_place(add(frame.origin, scaled(way, given.start_by)))
        if self.start == "from":
            plane: Frame = given.start_at.plane
            tilt = cross(plane.normal, frame.normal)
            if math.sqrt(dot(tilt, tilt)) > ASLANT:
                raise StepError(
                    "The push begins at a plane that is parallel to its profile only. Pick another plane.",
                    field="start_at",
                )
            height = dot(minus(plane.origin, frame.origin), plane.normal) / dot(way, plane.normal)
            return frame.at_place(add(frame.origin, scaled(way, height)))
        return frame


def _place(picked: object, near: Vec) -> Vec:
    """Return a place of an end, to tell on which side it lies."""
    from ..datum import Picked

    assert isinstance(picked, Picked)
    if picked.face is not None:
        return picked.face.nearest(near)
    if picked.point is not None:
        return picked.point
    assert picked.plane is not None
    n = picked.plane.normal
    return add(near, scaled(n, dot(minus(picked.plane.origin, near), n)))
