"""Gauging: what things of a part measure, at one place of the route; one by itself, two, several together.

Every figure has a key that stays when names change: `least`, `plane`, `axis`, `centre`, `square:0` …; of a
way, `least:x` is its part along the X axis of the active system.
"""

from __future__ import annotations

import logging
import math
from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import Any, Literal

from .. import kernel
from ..datum import Curve, EndlessLine, Picked
from ..errors import CommandRefused, ReferenceLost, WendalError
from ..kernel.types import Edge, Frame, Vec, cross, dot, minus, unit
from ..quantity import Quantity
from ..quantity.units import quantity
from ..reference import BodyRef, DrawnRef, ThingRef
from ..sketch import Bent, path_of
from ..sketch.regions import Piece
from ..steps import Body, Site
from ..steps.profiles import segment_of
from ..tolerance import PARALLEL
from .document import Kept, Part
from .resolving import Resolver

__all__ = ["Gauge", "Gauged", "Reading", "Thing", "Unit", "edge_thing", "gauged", "worth_of"]

log = logging.getLogger(__name__)
Unit = Literal["length", "angle", "area", "volume"]
_POWER = {"length": 1, "area": 2, "volume": 3}


@dataclass(frozen=True, slots=True)
class Reading:
    """One figure: its key, what it is, its value (mm, rad, mm², mm³). feet : of a way, its two ends in the
    part, mm; parts : its parts along the axes of the active system."""

    key: str
    words: str
    value: float
    unit: Unit = "length"
    feet: tuple[Vec, ...] = ()
    parts: tuple[Reading, ...] = ()

    def quantity(self) -> Quantity:
        """Return it with its unit."""
        return worth_of(self.value, self.unit)


def worth_of(value: float, unit_: Unit) -> Quantity:
    """Return a plain value (mm, rad, mm², mm³) with its unit."""
    return quantity(value, "rad") if unit_ == "angle" else value * quantity(1, "mm") ** _POWER[unit_]


@dataclass(frozen=True, slots=True)
class Gauged:
    """What a kept measure came to. state : as of a reference, or "waiting" where its place is not built.

    now : what confirming a doubt would store; thing, candidates : which of its things is lost, and what could
    be meant instead.
    """

    state: Literal["sound", "held", "lost", "waiting"]
    reading: Reading | None = None
    message: str = ""
    words: tuple[str, ...] = ()
    now: tuple[dict[str, Any], ...] = ()
    thing: int = 0
    candidates: tuple[Any, ...] = ()


def told_by_axes(key: str) -> bool:
    """Tell whether a figure hangs on the directions of a coordinate system."""
    return key[-2:] in (":x", ":y", ":z", "_x", "_y", "_z")


def gauged(part: Part, site: Site, states: Mapping[str, str], kept: Kept) -> Gauged:
    """Take a kept measure at one place of the route."""
    things: list[Thing] = []
    try:
        gauge = Gauge(part, site, states, kept.system if told_by_axes(kept.key) else "")
        things += (gauge.thing(ref) for ref in kept.things)
        reading = gauge.pick(things, kept.key)
    except WendalError as error:
        candidates = tuple(getattr(error, "candidates", ()))
        return Gauged("lost", None, error.message, thing=len(things), candidates=candidates)
    except Exception as error:  # one measure that can not be taken stops no part
        if kernel.is_refusal(error):
            return Gauged("lost", None, "The geometry kernel can not measure this. Pick parts of it.")
        log.exception("the measure %s failed by a fault of ours", kept.tag)
        return Gauged("lost", None, "Measuring this failed inside Wendal; its log says more.")
    words = tuple(t.words for t in things)
    if reading.unit != kept.unit:
        return Gauged("lost", None, "What was measured there is of another kind now.", words)
    state: Literal["sound", "held"] = "held" if gauge.doubt else "sound"
    return Gauged(state, reading, gauge.doubt, words, tuple(gauge.now) if gauge.doubt else ())


@dataclass(slots=True)
class Thing:
    """A thing to measure: what it is called, what the kernel measures to, what else is known of it.

    axis, radius : of a round thing. edge : as the topology knows it. area : of a face, mm². tips : the two
    ends of a straight one. middle, corners : of a face."""

    words: str
    extent: kernel.Extent
    plane: Frame | None = None
    line: EndlessLine | None = None
    axis: EndlessLine | None = None
    point: Vec | None = None
    edge: Edge | None = None
    length: float | None = None
    closed: bool = False
    radius: float = 0.0
    area: float | None = None
    perimeter: float | None = None
    body: Body | None = None
    tips: tuple[Vec, Vec] | None = None
    middle: Vec | None = None
    corners: tuple[Vec, ...] = ()

    @property
    def ends(self) -> bool:
        """Whether it has an end, and so a greatest distance."""
        return (
            self.point is not None
            or self.area is not None
            or self.length is not None
            or self.body is not None
        )


class Gauge:
    """Gauges things at one place of the route. states : how the steps before stand, by id. system : the step
    whose coordinate system gives the directions, "" for the part's own."""

    def __init__(self, part: Part, site: Site, states: Mapping[str, str], system: str = "") -> None:
        self._site, self._resolver = site, Resolver(part, states)
        active = site.datums.get(system)
        if system and active is None:
            raise ReferenceLost("The coordinate system in which this is told is not there.")
        self._frame = (active[0].frame if active else None) or Frame()
        self.doubt = ""  # about the things taken so far
        self.now: list[dict[str, Any]] = []  # what confirming them would store

    # — things —

    def thing(self, ref: ThingRef | BodyRef) -> Thing:
        """Return what a reference means; raises ReferenceLost."""
        if isinstance(ref, BodyRef):
            body = self._site.bodies.get(ref.body)
            if body is None:
                raise ReferenceLost("This body is not there any more. Pick another.")
            self.now.append(ref.model_dump(mode="json"))
            return Thing(f"body {body.name}", kernel.extent_of(body=body.shape), body=body)
        picked, doubt, now, _ = self._resolver.take(ref, self._site)
        self.doubt = self.doubt or doubt
        self.now.append(now or ref.model_dump(mode="json"))
        if picked.solid:
            return self._face(picked)
        if picked.edge:
            return self._edge(picked)
        if picked.point is not None:
            return Thing(picked.words, kernel.extent_of(at=picked.point), point=picked.point)
        if picked.plane is not None:
            return Thing(picked.words, kernel.extent_of(plane=picked.plane), plane=picked.plane)
        if picked.curve is not None:
            return _drawn(picked, picked.curve, self._bent(ref))
        assert picked.line is not None
        ends = kernel.endless(picked.line.origin, picked.line.direction)
        return Thing(picked.words, kernel.extent_of(line=ends), line=picked.line)

    def _bent(self, ref: Any) -> kernel.Extent | None:
        """Return what a spline or an ellipse of a sketch is measured to; None for other curves."""
        sketch = self._site.sketches.get(getattr(ref, "step", "")) if isinstance(ref, DrawnRef) else None
        path = path_of(sketch.drawing, ref.entity) if sketch else None
        if sketch is None or not isinstance(path, Bent):
            return None
        side = segment_of(Piece(ref.entity, path, path.t0, path.t1))
        return kernel.spine_drawn([side], sketch.frame, path.closed).wire

    def _face(self, picked: Picked) -> Thing:
        assert picked.solid is not None
        shape, index = picked.solid
        topology = next(b.topology for b in self._site.bodies.values() if b.shape is shape)
        facts, edges, _ = topology.marks  # a seam is passed both ways, and is no part of the perimeter
        around = [topology.edges[e] for e in topology.edges_of[index] if facts[index].turn(edges[e])]
        radius, centre = kernel.roundness_of(shape, index)
        return Thing(
            picked.words,
            kernel.extent_of(face=picked.solid),
            plane=picked.plane,
            axis=picked.axis,
            point=centre,
            radius=radius,
            area=topology.faces[index].area,
            perimeter=math.fsum(e.length for e in around),
            middle=topology.faces[index].centre,
            corners=tuple(topology.vertices[c].place for c in topology.corners_of[index]),
        )

    def _edge(self, picked: Picked) -> Thing:
        assert picked.edge is not None
        shape, index = picked.edge
        edge = next(b.topology for b in self._site.bodies.values() if b.shape is shape).edges[index]
        extent = kernel.extent_of(edge=picked.edge)
        axis = picked.circle if edge.form == "circle" else None
        found = edge_thing(picked.words, extent, edge, closed=len(edge.ends) == 1)
        return replace(found, line=picked.line, axis=axis)

    # — figures —

    def readings(self, things: list[Thing], greatest: bool = False) -> tuple[list[Reading], list[Reading]]:
        """Return the meanings of the way between two things, the likeliest first, and all other figures.

        greatest : with the greatest distance, which takes its time.
        """
        if len(things) == 1:
            return [], self.alone(things[0])
        if len(things) == 2:
            return self.between(things[0], things[1], greatest), self.angle(*things)
        return [], self.together(things)

    def pick(self, things: list[Thing], key: str) -> Reading:
        """Return one figure of things by its key; raises CommandRefused."""
        meanings, figures = self.readings(things, greatest=key.startswith("greatest"))
        for found in (*meanings, *figures):
            for reading in (found, *found.parts):
                if reading.key == key:
                    return reading
        raise CommandRefused("What was measured there has no such figure any more.")

    def _place(self, key: str, what: str, at: Vec) -> list[Reading]:
        return [
            Reading(f"{key}_{axis.lower()}", f"{axis} of {what}", v)
            for axis, v in zip("XYZ", self._frame.local(at), strict=True)
        ]

    def alone(self, t: Thing) -> list[Reading]:
        """Return what one thing measures; raises CommandRefused where it has no size."""
        found: list[Reading] = []
        if t.body is not None:
            mass = kernel.mass_of(t.body.shape)
            found += [] if mass.sheet else [Reading("volume", "volume", mass.volume, "volume")]
            found += [
                Reading("area", "area", mass.area, "area"),
                *self._place("centre", "the centre", mass.centre),
            ]
        if t.length is not None:
            found.append(Reading("length", "length round" if t.closed else "length", t.length))
        if t.area is not None:
            found += [
                Reading("area", "area", t.area, "area"),
                Reading("perimeter", "perimeter", t.perimeter or 0.0),
            ]
        if t.radius:
            found += [
                Reading("diameter", "diameter", 2 * t.radius),
                Reading("radius", "radius", t.radius),
            ]
        if t.point is not None:
            found += self._place("place", "the centre" if t.radius else "the place", t.point)
        if not found:
            raise CommandRefused(
                f"{t.words[:1].upper()}{t.words[1:]} has no end, so it has no size of its own. Pick "
                "something to measure to."
            )
        return found

    def together(self, things: list[Thing]) -> list[Reading]:
        """Return what several things come to together: lengths of edges and curves, or areas of faces."""
        lengths, areas = [t.length for t in things], [t.area for t in things]
        if None not in lengths:
            whole = math.fsum(v or 0.0 for v in lengths)
            return [Reading("sum", f"length of {len(things)} together", whole)]
        if None not in areas:
            whole = math.fsum(v or 0.0 for v in areas)
            return [Reading("sum", f"area of {len(things)} together", whole, "area")]
        raise CommandRefused(
            "Several things are added up where all of them are edges, or all are faces. Pick two things for "
            "the way between them."
        )

    def _way(self, key: str, words: str, value: float, a: Vec, b: Vec) -> Reading:
        run = [dot(minus(b, a), axis) for axis in (self._frame.x, self._frame.y, self._frame.normal)]
        parts = [Reading(f"{key}:{n.lower()}", f"along {n}", v) for n, v in zip("XYZ", run, strict=True)]
        return Reading(key, words, value, feet=(a, b), parts=tuple(parts))

    def between(self, a: Thing, b: Thing, greatest: bool = False) -> list[Reading]:
        """Return the meanings of the way between two things, the likeliest first."""
        found: list[Reading] = []
        if a.plane and b.plane and _parallel(a.plane.normal, b.plane.normal):
            foot = a.plane.origin
            off = dot(minus(b.plane.origin, foot), b.plane.normal)
            found.append(
                self._way(
                    "plane", "square from plane to plane", abs(off), foot, _along(foot, b.plane.normal, off)
                )
            )
        if a.axis and b.axis and _parallel(a.axis.direction, b.axis.direction):
            foot = b.axis.foot(a.axis.origin)
            found.append(
                self._way("axis", "from axis to axis", math.dist(a.axis.origin, foot), a.axis.origin, foot)
            )
        if a.point and b.point and (a.radius or b.radius):
            found.append(
                self._way("centre", "from centre to centre", math.dist(a.point, b.point), a.point, b.point)
            )
        value, one, other = kernel.apart(a.extent, b.extent)
        found.append(self._way("least", "least distance", value, one, other))
        for n, (first, second) in enumerate(((a, b), (b, a))):
            if first.axis and not second.axis and second.point:
                foot = first.axis.foot(second.point)
                words = f"from the axis of {first.words} to {second.words}"
                found.append(
                    self._way(f"from_axis:{n}", words, math.dist(foot, second.point), foot, second.point)
                )
            if first.axis and second.plane and abs(dot(first.axis.direction, second.plane.normal)) < PARALLEL:
                at = first.axis.origin
                off = dot(minus(second.plane.origin, at), second.plane.normal)
                words = f"from the axis of {first.words} to {second.words}"
                found.append(
                    self._way(f"axis_to_plane:{n}", words, abs(off), at, _along(at, second.plane.normal, off))
                )
            if first.plane and second.point and not first.area:
                continue  # a datum plane has no end: the least distance is the square one
            if first.plane and second.point:
                off = dot(minus(first.plane.origin, second.point), first.plane.normal)
                foot = _along(second.point, first.plane.normal, off)
                found.append(
                    self._way(f"square:{n}", f"square to {first.words}", abs(off), second.point, foot)
                )
        if greatest and a.ends and b.ends:
            value, one, other = kernel.farthest(a.extent, b.extent)
            found.append(self._way("greatest", "greatest distance", value, one, other))
        return found

    def angle(self, a: Thing, b: Thing) -> list[Reading]:
        """Return the angle between two things that have directions; a plane has the one it lies in."""
        one, other = (_direction(t) for t in (a, b))
        if one is None or other is None:
            return []
        across = math.hypot(*cross(one, other))
        angle = math.atan2(across, abs(dot(one, other)))
        if bool(a.plane) != bool(b.plane):
            angle = math.pi / 2 - angle
        return [Reading("angle", "angle", max(angle, 0.0), "angle")]


def edge_thing(words: str, extent: kernel.Extent, edge: Edge, closed: bool = False) -> Thing:
    """Return an edge, or a piece of line that is like one."""
    round_ = edge.form == "circle"
    return Thing(
        words,
        extent,
        line=EndlessLine(edge.start, edge.tangent) if edge.form == "line" else None,
        axis=EndlessLine(edge.centre, edge.normal) if edge.centre and edge.normal and round_ else None,
        point=edge.centre if round_ else None,
        edge=edge,
        length=edge.length,
        closed=closed,
        radius=edge.radius if round_ else 0.0,
        tips=(edge.start, _along(edge.middle, minus(edge.middle, edge.start), 1.0))
        if edge.form == "line"
        else None,
    )


def _drawn(picked: Picked, curve: Curve, bent: kernel.Extent | None) -> Thing:
    """Return a curve of a sketch."""
    start, end = curve.at(0.0)[0], curve.at(curve.length)[0]
    if picked.line:
        extent = kernel.extent_of(line=(start, end))
        return Thing(picked.words, extent, line=picked.line, length=curve.length, tips=(start, end))
    if bent is not None:
        return Thing(picked.words, bent, length=curve.length, closed=curve.closed)
    assert picked.circle is not None
    centre, radius = picked.circle.origin, math.dist(picked.circle.origin, start)
    if curve.closed:
        extent = kernel.extent_of(ring=(centre, picked.circle.direction, radius))
    else:
        extent = kernel.extent_of(arc=(start, curve.at(curve.length / 2)[0], end))
    axis = picked.circle
    return Thing(
        picked.words, extent, axis=axis, point=centre, length=curve.length, closed=curve.closed, radius=radius
    )


def _direction(t: Thing) -> Vec | None:
    if t.plane:
        return t.plane.normal
    line = t.line or t.axis
    return unit(line.direction) if line else None


def _parallel(a: Vec, b: Vec) -> bool:
    return math.hypot(*cross(unit(a), unit(b))) < PARALLEL


def _along(at: Vec, way: Vec, by: float) -> Vec:
    return (at[0] + by * way[0], at[1] + by * way[1], at[2] + by * way[2])
