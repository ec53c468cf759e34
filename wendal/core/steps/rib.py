"""Rib: a wall from open lines to the next material."""

from __future__ import annotations

import math
from dataclasses import replace
from types import SimpleNamespace
from typing import Annotated, Literal

from .. import kernel
from ..blanks import Choice, Name, Number, Pick
from ..errors import StepError
from ..kernel.types import Frame, Profile, Segment, Vec, said_at, scaled
from ..reference import BodyRef, DrawnRef
from ..stored import Value
from .base import Body, Effect, Handle, Made, Site, register
from .building import BuildStep, along, reach_of
from .profiles import ChainFound, segment_of

__all__ = ["Rib"]

SAMPLES = 9  # places along a line, odd: the middle one tells which piece the line means


@register
class Rib(BuildStep):
    """A wall from open lines of a sketch to the next material: in the sketch's plane, or square to it."""

    title, key = "Rib", "b i"
    shelf = "Shape from a sketch"
    explains = (
        "Make a wall from lines of a sketch to the next material, in the sketch's plane or square to it."
    )
    sentence = (
        "Rib {name}: from {lines} {manner}, {side} {thickness}{taper}{draft}, adding to {bodies}{seams}"
    )

    kind: Literal["rib"] = "rib"
    name: Annotated[str, Name(label="name")]
    lines: Annotated[
        list[DrawnRef],
        Pick(label="lines", accepts=("drawn",), many=True, needs="a line or chain of a sketch"),
    ] = []
    manner: Annotated[
        Literal["left", "right", "into", "out"],
        Choice(
            label="manner",
            words={
                "left": "in its plane to the left of it",
                "right": "in its plane to the right of it",
                "into": "square into its plane",
                "out": "square out of its plane",
            },
            turns=("left", "right", "into", "out"),
        ),
    ] = "left"
    side: Annotated[
        Literal["centred", "one", "other"],
        Choice(
            label="thickness to",
            words={
                "centred": "evenly thick by",
                "one": "thick to the one side by",
                "other": "thick to the other side by",
            },
            turns=("one", "other"),
        ),
    ] = "centred"
    thickness: Annotated[Value, Number(label="thickness", quantity="length", above=0.0, start="3 mm")] = (
        Value(formula="3 mm")
    )
    taper: Annotated[
        Literal["", "widen", "narrow"],
        Choice(
            label="draft",
            words={
                "": "",
                "widen": ", widening towards its foot by",
                "narrow": ", narrowing towards its foot by",
            },
            clause="draft angle",
            when={"manner": ("into", "out")},
        ),
    ] = ""
    draft: Annotated[
        Value,
        Number(
            label="draft angle",
            quantity="angle",
            above=0.0,
            most=math.radians(45),
            start="1 deg",
            when={"taper": ("widen", "narrow")},
        ),
    ] = Value(formula="1 deg")
    result: Literal["add"] = "add"
    bodies: Annotated[
        list[BodyRef],
        Pick(
            label="bodies",
            accepts=("body",),
            many=True,
            needs="a body",
            optional=True,
            unless="all that it touches",
        ),
    ] = []

    def effects(self, given: SimpleNamespace, site: Site) -> list[Effect]:
        """Make the walls and keep what lies between the bodies."""
        bodies: list[Body] = self.material(given, site)
        if not bodies:
            raise StepError("There is no body yet that a rib could stand in.", field="lines")
        shapes = [b.shape for b in bodies]
        tools = [tool for chain in given.lines for tool in self._walls(chain, given, shapes)]
        kept, open_at, _ = kernel.ribs_between(tools, shapes, [_along(chain) for chain in given.lines])
        if open_at:
            raise StepError(
                f"The rib from the line near {said_at(open_at[0])} does not meet material everywhere: gone "
                "on straight, it leaves "
                "the bodies. Turn it to the other side, or let both of its ends look at walls.",
                field="lines",
            )
        if not kept:
            raise StepError(
                "The lines lie wholly inside material, so there is nothing to fill. Draw them where the "
                "rib's edge should be.",
                field="lines",
            )
        return [self.effect(kept, given)]

    def evaluate(self, given: SimpleNamespace, site: Site) -> Made:
        """Make the ribs; the thickness can be pulled."""
        made = super().evaluate(given, site)
        chain: ChainFound = given.lines[0]
        frame, line = chain.frame, _along(chain)
        way = frame.normal if self.manner in ("left", "right") else _left(chain, frame)
        made.handles = [
            Handle(
                "thickness",
                line[len(line) // 2],
                scaled(way, -1.0 if self.side == "other" else 1.0),
                2.0 if self.side == "centred" else 1.0,
            )
        ]
        return made

    def _walls(
        self, chain: ChainFound, given: SimpleNamespace, shapes: list[kernel.NamedShape]
    ) -> list[kernel.NamedShape]:
        one, other = {
            "centred": (given.thickness / 2,) * 2,
            "one": (given.thickness, 0.0),
            "other": (0.0, given.thickness),
        }[self.side]
        frame, reach = chain.frame, reach_of(shapes, chain.frame)
        longer = chain.gone_on(reach)
        if self.manner in ("left", "right"):
            if chain.closed:
                raise StepError(
                    "In its own plane a rib runs from an open line. Extrude the region, or take one line of "
                    "it.",
                    field="lines",
                )
            ring = _ring(longer, chain, reach if self.manner == "left" else -reach)
            return [
                kernel.prism(
                    Profile(chain.key, [ring]),
                    frame.raised(-other),
                    scaled(frame.normal, one + other),
                    self.id,
                )
            ]
        ahead = frame.normal if self.manner == "out" else scaled(frame.normal, -1.0)
        deep = along(shapes, frame.origin, ahead)[1] + 1.0
        if deep <= 1.0:
            raise StepError(
                "Nothing lies on this side of the sketch's plane. Turn the rib to the other side.",
                field="manner",
            )
        ahead = scaled(ahead, deep)
        draft = {"narrow": 1.0, "widen": -1.0}.get(self.taper, 0.0) * getattr(given, "draft", 0.0)
        walls = [_open_ends(p) for p in longer.walls(one, other)]
        return [kernel.prism(p, frame, ahead, self.id, far=kernel.LEAK, draft=draft) for p in walls]


def _ring(longer: ChainFound, chain: ChainFound, far: float) -> list[Segment]:
    """Close a chain that was made longer far on its left (negative: right), square to the way from its
    beginning to its end."""
    (ax, ay), (bx, by) = chain.pieces[0].start, chain.pieces[-1].end
    span = math.hypot(bx - ax, by - ay)
    nx, ny = (-(by - ay) / span * far, (bx - ax) / span * far)
    start, end = longer.pieces[0].start, longer.pieces[-1].end
    corners = [end, (end[0] + nx, end[1] + ny), (start[0] + nx, start[1] + ny), start]
    closing = [Segment(f"{kernel.LEAK}{i + 1}", corners[i], corners[i + 1]) for i in range(3)]
    return [*map(segment_of, longer.pieces), *closing]


def _open_ends(profile: Profile) -> Profile:
    """Mark the ends of an open wall, which lie beyond everything."""
    loops = [
        [
            replace(s, name=f"{kernel.LEAK} {s.name}") if s.name in ("first end", "last end") else s
            for s in loop
        ]
        for loop in profile.loops
    ]
    return replace(profile, loops=loops)


def _along(chain: ChainFound) -> list[Vec]:
    """Return places along a chain, as many on each curve, its ends left out; the middle one lies in the
    middle of a curve."""
    shares = [(p, (k + 0.5) / SAMPLES) for p in chain.pieces for k in range(SAMPLES)]
    if len(chain.pieces) % 2 == 0:
        shares = shares[:-1]  # an odd number: the middle one is a place on a curve, never between two
    return [chain.frame.at(*p.path.at(p.t0 + t * (p.t1 - p.t0))) for p, t in shares]


def _left(chain: ChainFound, frame: Frame) -> Vec:
    (ax, ay), (bx, by) = chain.pieces[0].start, chain.pieces[-1].end
    span = math.hypot(bx - ax, by - ay) or 1.0
    return tuple(-(by - ay) / span * frame.x[i] + (bx - ax) / span * frame.y[i] for i in range(3))  # type: ignore[return-value]
