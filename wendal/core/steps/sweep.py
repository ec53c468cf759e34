"""Sweep: profiles carried along a path of sketch curves or edges."""

from __future__ import annotations

import math
from dataclasses import replace
from types import SimpleNamespace
from typing import Annotated, Literal

from .. import kernel
from ..blanks import Choice, Name, Number, Pick
from ..datum import Picked
from ..errors import StepError
from ..kernel.types import Frame, Profile, Segment, Vec, dot, minus
from ..reference import ProfileRef, ThingRef
from ..stored import Value
from ..tolerance import ASLANT, MEETS
from .base import Effect, Site, register
from .building import RESULT, THICK, WALL, WallStep
from .profiles import ChainFound, nothing_closed, segment_of

__all__ = ["Sweep"]


@register
class Sweep(WallStep):
    """Profiles carried along a path that begins in their plane: a new body, added to one, or cut from one."""

    title, key = "Sweep", "b w"
    shelf = "Shape from a sketch"
    explains = "Carry regions, flat faces or a round section along curves of a sketch or edges of a body."
    sentence = (
        "Sweep {name}: {section} {profile}{diameter} {route} {path}{edges}{smooth}, "
        "{turning}{corners}{twist}{angle}{guiding}{guide}" + WALL + RESULT
    )

    kind: Literal["sweep"] = "sweep"
    name: Annotated[str, Name(label="name")]
    section: Annotated[
        Literal["regions", "round"],
        Choice(label="section", words={"regions": "the regions", "round": "a round section of diameter"}),
    ] = "regions"
    profile: Annotated[
        list[ProfileRef],
        Pick(
            label="regions",
            accepts=("region", "flat", "sketch"),
            many=True,
            accepts_with={"drawn": {"wall": (*THICK, "sheet")}},
            needs="at least one closed region or text of a sketch, or a flat face",
            when={"section": ("regions",)},
        ),
    ] = []
    diameter: Annotated[
        Value,
        Number(label="diameter", quantity="length", above=0.0, start="6 mm", when={"section": ("round",)}),
    ] = Value(formula="6 mm")
    route: Annotated[
        Literal["drawn", "edges"],
        Choice(label="along", words={"drawn": "along the curve", "edges": "along the edges"}),
    ] = "drawn"
    path: Annotated[
        ThingRef | None,
        Pick(
            label="path",
            accepts=("drawn",),
            needs="a path: a curve of a sketch, with all that joins on to it",
            when={"route": ("drawn",)},
        ),
    ] = None
    edges: Annotated[
        list[ThingRef],
        Pick(
            label="edges of the path",
            accepts=("edge",),
            many=True,
            needs="edges of a body that follow each other",
            when={"route": ("edges",)},
        ),
    ] = []
    smooth: Annotated[
        Literal["", "all"],
        Choice(
            label="run",
            words={"": "", "all": " and all that runs on smoothly"},
            clause="what runs on smoothly",
            when={"route": ("edges",)},
        ),
    ] = ""
    turning: Annotated[
        Literal["turned", "parallel"],
        Choice(
            label="turning",
            words={"turned": "turning with it", "parallel": "kept parallel"},
            turns=("turned", "parallel"),
        ),
    ] = "turned"
    corners: Annotated[
        Literal["", "rounded"],
        Choice(
            label="corners", words={"": "", "rounded": ", rounded at its corners"}, clause="rounded corners"
        ),
    ] = ""
    twist: Annotated[
        Literal["", "left", "right"],
        Choice(
            label="twist",
            words={"": "", "left": ", twisting to the left by", "right": ", twisting to the right by"},
            clause="twist",
            turns=("left", "right"),
        ),
    ] = ""
    angle: Annotated[
        Value,
        Number(
            label="twist angle",
            quantity="angle",
            above=0.0,
            most=4 * math.pi,
            start="90 deg",
            when={"twist": ("left", "right")},
        ),
    ] = Value(formula="90 deg")
    guiding: Annotated[
        Literal["", "guided"],
        Choice(label="guide", words={"": "", "guided": ", growing and turning with"}, clause="guide"),
    ] = ""
    guide: Annotated[
        ThingRef | None,
        Pick(
            label="guide curve",
            accepts=("drawn",),
            needs="a curve of a sketch beside the path, with all that joins on to it",
            when={"guiding": ("guided",)},
        ),
    ] = None

    def effects(self, given: SimpleNamespace, site: Site) -> list[Effect]:
        """Carry every profile along the path."""
        if self.wall == "sheet" and (self.twist or self.guiding):
            raise StepError(
                "A sheet is swept without a twist or guide. Sweep a solid, and copy its faces.",
                field="twist" if self.twist else "guide",
            )
        if self.section == "round":
            return [self.effect(self._round(given, site), given)]
        tools = []
        for found in given.profile:
            spine = self._spine(given, site, found.frame)
            parallel = _parallel(spine, found.frame) if self.turning == "parallel" else None
            if self.wall == "sheet":
                tools += self.sheets(
                    found,
                    lambda sides, closed, name, f=found.frame, s=spine, p=parallel: (  # type: ignore[misc]
                        kernel.swept_sheet(sides, f, closed, s, self.id, name, p, self.corners == "rounded")
                    ),
                )
            else:
                tools += [
                    self._carried(profile, found.frame, spine, given, parallel)
                    for profile in self.profiles(found, given)
                ]
        if not tools:
            raise nothing_closed("sweep", given.profile)
        return [self.effect(tools, given)]

    def _carried(
        self,
        profile: Profile,
        frame: Frame,
        spine: kernel.Spine,
        given: SimpleNamespace,
        parallel: Frame | None,
    ) -> kernel.NamedShape:
        if self.guiding:
            if self.twist or parallel is not None or profile.face is not None:
                raise StepError(
                    "A guide goes with a region that turns with its path, and without a twist. Change one "
                    "of the two.",
                    field="guide",
                )
            drawn: ChainFound = given.guide
            return kernel.swept_guided(
                profile,
                frame,
                spine,
                kernel.spine_drawn([segment_of(p) for p in drawn.pieces], drawn.frame, drawn.closed),
                self.id,
            )
        if not self.twist:
            return kernel.swept(profile, frame, spine, self.id, parallel, self.corners == "rounded")
        if parallel is not None or profile.face is not None:
            raise StepError(
                "A twist goes with a region that turns with its path. Change one of the two.", field="twist"
            )
        return kernel.swept_twisted(
            profile, frame, spine, given.angle * (1.0 if self.twist == "left" else -1.0), self.id
        )

    def _round(self, given: SimpleNamespace, site: Site) -> list[kernel.NamedShape]:
        """Carry a circle, or a ring where a wall is asked for, whose middle runs along the path."""
        spine = self._spine(given, site, None)
        at, way = spine.begin()
        frame = kernel.upright(at, way).at_place(at)
        r = given.diameter / 2
        if self.wall == "sheet":
            return [
                kernel.swept_sheet(
                    _circle(r, "round"), frame, True, spine, self.id, "round", None, self.corners == "rounded"
                )
            ]
        left, right = (
            {
                "inside": (given.thickness, 0.0),
                "outside": (0.0, given.thickness),
                "centred": (given.thickness / 2,) * 2,
                "two": (given.thickness, getattr(given, "thickness_two", 0.0)),
            }[self.wall]
            if self.wall
            else (r, 0.0)
        )
        if left > r:
            raise StepError(
                f"A wall of {left:g} mm does not fit into a diameter of {given.diameter:g} mm. Make it "
                "thinner.",
                field="thickness",
            )
        loops = [
            _circle(r + right, "round"),
            *([[_back(s) for s in _circle(r - left, "inner")]] if r - left > MEETS else []),
        ]
        profile = Profile("round", loops)
        return [
            self._carried(
                profile, frame, spine, given, _parallel(spine, frame) if self.turning == "parallel" else None
            )
        ]

    def _spine(self, given: SimpleNamespace, site: Site, plane: Frame | None) -> kernel.Spine:
        if self.route == "drawn":
            path: ChainFound = given.path
            segments = _from(path, plane) if plane is not None else [segment_of(p) for p in path.pieces]
            return kernel.spine_drawn(segments, path.frame, path.closed)
        picks: list[Picked] = given.edges
        bodies = {id(p.edge[0]): p.edge[0] for p in picks if p.edge}
        if len(bodies) != 1:
            raise StepError("The edges of the path are not of one body. Pick edges of one.", field="edges")
        (shape,) = bodies.values()
        spine = kernel.spine_of_edges(
            shape, [p.edge[1] for p in picks if p.edge], self.smooth == "all", plane
        )
        if plane is not None and abs(dot(spine.begin()[1], plane.normal)) < ASLANT:
            raise StepError(
                "The path runs along the profile's plane at its beginning, so nothing is swept. Pick edges "
                "that leave the plane.",
                field="edges",
            )
        return spine


def _circle(radius: float, name: str) -> list[Segment]:
    return [Segment(name, (radius, 0.0), (radius, 0.0), (0.0, 0.0), radius, 0.0, 2 * math.pi)]


def _back(s: Segment) -> Segment:
    return replace(s, t0=s.t1, t1=s.t0)


def _parallel(spine: kernel.Spine, frame: Frame) -> Frame:
    """Return the frame that a profile keeps to: its own, at the path's beginning."""
    return frame.at_place(spine.begin()[0])


def _from(path: ChainFound, plane: Frame) -> list[Segment]:
    """Return the path from its end in the profile's plane on; raises StepError where none is."""
    pieces = path.pieces
    if path.closed:
        starts = [i for i, p in enumerate(pieces) if _off(path.frame.at(*p.start), plane) < MEETS]
        if not starts:
            raise StepError(
                "No corner of this closed path lies in the profile's plane. Put one there, or draw the "
                "profile where there is one.",
                field="path",
            )
        pieces = [*pieces[starts[0] :], *pieces[: starts[0]]]
    elif _off(path.frame.at(*pieces[0].start), plane) >= MEETS:
        if _off(path.frame.at(*pieces[-1].end), plane) >= MEETS:
            raise StepError(
                f"The path does not meet the profile: its nearer end lies {_nearer(path, plane):.4g} mm off "
                "the profile's plane. Draw its end there, or the profile on a plane at its end.",
                field="path",
            )
        pieces = [p.reversed() for p in reversed(pieces)]
    first, second, *_ = [*pieces[0].polyline(), pieces[0].end]
    ahead = minus(path.frame.at(*second), path.frame.at(*first))
    if abs(dot(ahead, plane.normal)) < ASLANT * math.sqrt(dot(ahead, ahead)):
        raise StepError(
            "The path runs along the profile's plane at its beginning, so nothing is swept. Let it leave "
            "the plane.",
            field="path",
        )
    return [segment_of(p) for p in pieces]


def _nearer(path: ChainFound, plane: Frame) -> float:
    return min(_off(path.frame.at(*at), plane) for at in (path.pieces[0].start, path.pieces[-1].end))


def _off(place: Vec, plane: Frame) -> float:
    return abs(dot(minus(place, plane.origin), plane.normal))
