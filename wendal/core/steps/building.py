"""What the steps that build share: what they do to which bodies, and how they are made again elsewhere."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from types import SimpleNamespace
from typing import Annotated, Any, Literal

from .. import kernel
from ..blanks import Choice, Number, Pick
from ..datum import Picked
from ..errors import StepError
from ..kernel.types import Frame, Placement, Profile, Segment, Vec, dot, minus
from ..reference import BodyRef, ProfileRef
from ..stored import Value
from .applying import applied
from .base import Body, Effect, Made, Site, Step
from .given import changed
from .profiles import ChainFound, FaceFound, ProfileFound, segment_of

__all__ = ["RESULT", "WALL", "BuildStep", "WallStep", "along", "reach_of", "target_of"]

RESULT = ", {result} {bodies}{seams}"


class BuildStep(Step):
    """Base of the steps that make solids and add them to bodies, cut them, keep what is common, or begin a
    new body.

    bodies : which; none for all that the solids touch.
    """

    group, makes = "build", "body"

    result: Annotated[
        Literal["new", "add", "cut", "common"],
        Choice(
            label="result",
            words={
                "new": "making a new body",
                "add": "adding to",
                "cut": "cutting",
                "common": "keeping only what is common with",
            },
            turns=("add", "cut"),
        ),
    ] = "new"
    bodies: Annotated[
        list[BodyRef],
        Pick(
            label="bodies",
            accepts=("body",),
            many=True,
            needs="a body",
            optional=True,
            unless="all that it touches",
            when={"result": ("add", "cut", "common")},
        ),
    ] = []

    seams: Annotated[
        Literal["", "apart"],
        Choice(
            label="flush faces",
            words={"": "", "apart": ", flush faces kept apart"},
            clause="flush faces",
            when={"result": ("add", "cut", "common")},
        ),
    ] = ""

    def effects(self, given: SimpleNamespace, site: Site) -> list[Effect]:
        """Return what the step does to bodies; raises StepError in words."""
        raise NotImplementedError(self.kind)

    def evaluate(self, given: SimpleNamespace, site: Site) -> Made:
        """Make the solids and do with them what is asked for."""
        return applied(self.id, self.effects(given, site), site)

    def effect(self, tools: list[kernel.NamedShape], given: SimpleNamespace) -> Effect:
        """Return the effect of some solids, as the step's result says."""
        chosen = getattr(given, "bodies", None) or []
        if all(map(kernel.is_sheet, tools)):
            return Effect("new", tools)
        if self.seams and self.result != "new":
            tools = [kernel.set_apart(t, self.id) for t in tools]
        return Effect(self.result, tools, tuple(b.id for b in chosen) or None)

    def material(self, given: SimpleNamespace, site: Site) -> list[Body]:
        """Return the bodies that "through everything" and "the next face" look at: the picked ones, else
        all."""
        return getattr(given, "bodies", None) or [b for b in site.bodies.values() if not b.sheet]

    def again(self, given: SimpleNamespace, site: Site, placement: Placement) -> list[Effect]:
        """Make the step anew under a placement.

        Everything that stays where it is, bodies and ends, is taken back by the placement; what comes out is
        carried forward.
        """
        back = placement.back()
        here = Site(
            {b: replace(body, shape=kernel.placed(body.shape, back)) for b, body in site.bodies.items()},
            site.datums,
            site.sketches,
            site.seeds,
        )
        moved: dict[str, Any] = {}
        for name, blank in self.blanks().items():
            if isinstance(blank, Pick) and blank.fixed:
                held = getattr(given, name)
                moved[name] = (
                    [p.moved(back) for p in held] if isinstance(held, list) else held and held.moved(back)
                )
        if getattr(given, "bodies", None):
            moved["bodies"] = [here.bodies[b.id] for b in given.bodies if b.id in here.bodies]
        return [
            replace(e, tools=[kernel.placed(t, placement) for t in e.tools])
            for e in self.effects(changed(given, **moved), here)
        ]

    def reads(self, site: Site) -> list[Body]:
        """A step that names no bodies depends on all of them."""
        return [] if self.bodies or self.result == "new" else list(site.bodies.values())


WALL = "{wall}{thickness}{thickness_two}"
THICK = ("inside", "outside", "centred", "two")


class WallStep(BuildStep):
    """Base of the steps that build from profiles, solid or as a wall along their outlines."""

    profile: Annotated[
        list[ProfileRef],
        Pick(
            label="regions",
            accepts=("region", "flat", "sketch"),
            many=True,
            accepts_with={"drawn": {"wall": (*THICK, "sheet")}},
            needs="at least one closed region or text of a sketch, or a flat face",
        ),
    ] = []
    wall: Annotated[
        Literal["", "inside", "outside", "centred", "two", "sheet"],
        Choice(
            label="wall",
            words={
                "": "",
                "inside": ", as a wall inside of",
                "outside": ", as a wall outside of",
                "centred": ", as a wall to both sides, in all",
                "two": ", as a wall on both sides, inside of",
                "sheet": ", as a sheet along the outline",
            },
            clause="wall or sheet",
            turns=("inside", "outside"),
        ),
    ] = ""
    thickness: Annotated[Value, Number(label="thickness", above=0.0, start="3 mm", when={"wall": THICK})] = (
        Value(formula="3 mm")
    )
    thickness_two: Annotated[
        Value,
        Number(
            label="thickness outside",
            above=0.0,
            start="2 mm",
            when={"wall": ("two",)},
            before="and outside of",
        ),
    ] = Value(formula="2 mm")

    result: Annotated[
        Literal["new", "add", "cut", "common"],
        Choice(
            label="result",
            words={
                "new": "making a new body",
                "add": "adding to",
                "cut": "cutting",
                "common": "keeping only what is common with",
            },
            turns=("add", "cut"),
            when={"wall": ("", *THICK)},
        ),
    ] = "new"

    def sheets(
        self, found: ProfileFound, make: Callable[[list[Segment], bool, str], kernel.NamedShape]
    ) -> list[kernel.NamedShape]:
        """Return a sheet along every outline: make gets its sides in order, whether it is closed, and its
        name."""
        if isinstance(found, ChainFound):
            return [make([segment_of(p) for p in found.pieces], found.closed, found.key)]
        if isinstance(found, FaceFound):
            raise StepError(
                "A sheet is made along a region or chain of a sketch. Project the face into a sketch first, "
                "or copy its faces.",
                field="profile",
            )
        return [make(loop, True, profile.name) for profile in found.profiles() for loop in profile.loops]

    def profiles(self, found: ProfileFound, given: SimpleNamespace) -> list[Profile]:
        """Return what is built from: a profile filled, or the wall along it (inside is left of an open
        chain)."""
        if not self.wall:
            return found.profiles()
        t = given.thickness
        left, right = {"inside": (t, 0.0), "outside": (0.0, t), "centred": (t / 2, t / 2)}.get(self.wall) or (
            t,
            given.thickness_two,
        )
        return found.walls(left, right)


def reach_of(shapes: list[kernel.NamedShape], *frames: Frame) -> float:
    """Return a length beyond everything: from any frame's origin past all shapes and back, mm."""
    if not shapes:
        return 1000.0
    low, high = kernel.box_of(shapes)
    places = [low, high, *(f.origin for f in frames)]
    span = [max(p[i] for p in places) - min(p[i] for p in places) for i in range(3)]
    return 2.0 * sum(span) + 10.0


def along(shapes: list[kernel.NamedShape], origin: Vec, way: Vec) -> tuple[float, float]:
    """Return where shapes begin and end along a unit direction from a place, mm."""
    low, high = kernel.box_of(shapes)
    corners = [(x, y, z) for x in (low[0], high[0]) for y in (low[1], high[1]) for z in (low[2], high[2])]
    heights = [dot(minus(c, origin), way) for c in corners]
    return min(heights), max(heights)


def target_of(picked: Picked, way: Vec) -> kernel.Target:
    """Return what a tool is to end at: a face, a plane, or the plane through a point square to the tool's
    way."""
    if picked.solid is not None:
        return picked.solid
    if picked.plane is not None:
        return picked.plane
    if picked.point is not None:
        return kernel.upright(picked.point, way).at_place(picked.point)
    raise StepError("This can not be an end. Pick a face, a plane or a corner.", field="until")
