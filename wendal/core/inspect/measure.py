"""Measure: one thing by itself, the way from one to another, several together."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Literal

from pydantic import Field

from .. import kernel
from ..datum import Curve, EndlessLine, Picked
from ..errors import CommandRefused, ReferenceLost
from ..kernel.types import Edge, Frame, Vec, cross, dot, minus, unit
from ..quantity import Kind, format_quantity
from ..quantity.units import quantity
from ..reference import BodyRef, ThingRef
from ..route import Evaluation, Part
from ..route.resolving import Resolver
from ..steps import Body
from ..tolerance import PARALLEL
from .questions import Answer, Request, question

__all__ = ["Meaning", "Measure", "Measured"]

Unit = Literal["length", "angle", "area", "volume"]


class Measure(Request):
    """Measure things: one, two, or more together. A place is told in the active coordinate system."""

    of: Literal["measure"] = "measure"
    things: list[ThingRef | BodyRef] = Field(min_length=1, max_length=200)


class Figure(Answer):
    """One figure: what it is, its value (mm, rad, mm², mm³), and how it is shown in the part's units."""

    words: str
    value: float
    unit: Unit
    shown: str


class Meaning(Figure):
    """One meaning of the way between two things. feet : its two ends in the part, mm. parts : of a length,
    along the axes of the active system, mm."""

    feet: list[tuple[float, float, float]]
    parts: list[Figure] = []


class Measured(Answer):
    """What was measured: the meanings of a way, the likeliest first, and all other figures."""

    of: Literal["measure"] = "measure"
    meanings: list[Meaning]
    figures: list[Figure]


@dataclass(slots=True)
class Thing:
    """A thing to measure: what it is called, what the kernel measures to, what else is known of it.

    axis, radius : of a round thing. edge : as the topology knows it. area : of a face, mm².
    """

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


@question(Measure, Measured)
def measure(part: Part, evaluation: Evaluation, request: Measure) -> Measured:
    """Measure the things; raises CommandRefused or ReferenceLost in words."""
    look = _Look(part, evaluation)
    things = [look.thing(ref) for ref in request.things]
    if len(things) == 1:
        return Measured(meanings=[], figures=look.alone(things[0]))
    if len(things) == 2:
        return Measured(meanings=look.between(*things), figures=look.angle(*things))
    return Measured(meanings=[], figures=look.together(things))


class _Look:
    """Measuring in one part."""

    def __init__(self, part: Part, evaluation: Evaluation) -> None:
        self._units, self._site = part.units.units(), evaluation.site
        self._resolver = Resolver(part, {r.id: r.state for r in evaluation.reports})
        active = self._site.datums.get(part.active_system)
        self._frame = active[0].frame if active else Frame()

    # — things —

    def thing(self, ref: ThingRef | BodyRef) -> Thing:
        """Return what a reference means; raises ReferenceLost."""
        if isinstance(ref, BodyRef):
            body = self._site.bodies.get(ref.body)
            if body is None:
                raise ReferenceLost("This body is not there any more. Pick another.")
            return Thing(f"body {body.name}", kernel.extent_of(body=body.shape), body=body)
        picked, _, _ = self._resolver.take(ref, self._site)
        if picked.solid:
            return self._face(picked)
        if picked.edge:
            return self._edge(picked)
        if picked.point is not None:
            return Thing(picked.words, kernel.extent_of(at=picked.point), point=picked.point)
        if picked.plane is not None:
            return Thing(picked.words, kernel.extent_of(plane=picked.plane), plane=picked.plane)
        if picked.curve is not None:
            return _drawn(picked, picked.curve)
        assert picked.line is not None
        ends = kernel.endless(picked.line.origin, picked.line.direction)
        return Thing(picked.words, kernel.extent_of(line=ends), line=picked.line)

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
        )

    def _edge(self, picked: Picked) -> Thing:
        assert picked.edge is not None
        shape, index = picked.edge
        edge = next(b.topology for b in self._site.bodies.values() if b.shape is shape).edges[index]
        circle = edge.form == "circle"
        return Thing(
            picked.words,
            kernel.extent_of(edge=picked.edge),
            line=picked.line,
            axis=picked.circle if circle else None,
            point=edge.centre if circle else None,
            edge=edge,
            length=edge.length,
            closed=len(edge.ends) == 1,
            radius=edge.radius if circle else 0.0,
        )

    # — figures —

    def _figure(self, words: str, value: float, unit_: Unit = "length") -> Figure:
        if unit_ == "angle":
            shown = format_quantity(quantity(value, "rad"), self._units, Kind.ANGLE)
        elif unit_ == "length":
            shown = format_quantity(quantity(value, "mm"), self._units, Kind.LENGTH)
        else:
            power, name = (2, "²") if unit_ == "area" else (3, "³")
            size = 25.4 if self._units.length == "in" else 1.0
            figure = f"{value / size**power:.6g}" if abs(value) < 1e6 else f"{value / size**power:.1f}"
            shown = f"{figure} {self._units.length}{name}"
        return Figure(words=words, value=value, unit=unit_, shown=shown)

    def _place(self, what: str, at: Vec) -> list[Figure]:
        return [
            self._figure(f"{axis} of {what}", v) for axis, v in zip("XYZ", self._frame.local(at), strict=True)
        ]

    def alone(self, t: Thing) -> list[Figure]:
        """Return what one thing measures; raises CommandRefused where it has no size."""
        found: list[Figure] = []
        if t.body is not None:
            mass = kernel.mass_of(t.body.shape)
            found += [] if mass.sheet else [self._figure("volume", mass.volume, "volume")]
            found += [self._figure("area", mass.area, "area"), *self._place("the centre", mass.centre)]
        if t.length is not None:
            found.append(self._figure("length round" if t.closed else "length", t.length))
        if t.area is not None:
            found += [self._figure("area", t.area, "area"), self._figure("perimeter", t.perimeter or 0.0)]
        if t.radius:
            found += [self._figure("diameter", 2 * t.radius), self._figure("radius", t.radius)]
        if t.point is not None:
            found += self._place("the centre" if t.radius else "the place", t.point)
        if not found:
            raise CommandRefused(
                f"{t.words[:1].upper()}{t.words[1:]} has no end, so it has no size of its own. Pick "
                "something to measure to."
            )
        return found

    def together(self, things: list[Thing]) -> list[Figure]:
        """Return what several things come to together: lengths of edges and curves, or areas of faces."""
        lengths, areas = [t.length for t in things], [t.area for t in things]
        if None not in lengths:
            whole = math.fsum(v or 0.0 for v in lengths)
            return [self._figure(f"length of {len(things)} together", whole)]
        if None not in areas:
            whole = math.fsum(v or 0.0 for v in areas)
            return [self._figure(f"area of {len(things)} together", whole, "area")]
        raise CommandRefused(
            "Several things are added up where all of them are edges, or all are faces. Pick two things for "
            "the way between them."
        )

    def _way(self, words: str, value: float, a: Vec, b: Vec) -> Meaning:
        figure = self._figure(words, value)
        run = [dot(minus(b, a), axis) for axis in (self._frame.x, self._frame.y, self._frame.normal)]
        parts = [self._figure(f"along {n}", v) for n, v in zip("XYZ", run, strict=True)]
        return Meaning(**figure.model_dump(), feet=[a, b], parts=parts)

    def between(self, a: Thing, b: Thing) -> list[Meaning]:
        """Return the meanings of the way between two things, the likeliest first."""
        found: list[Meaning] = []
        if a.plane and b.plane and _parallel(a.plane.normal, b.plane.normal):
            foot = a.plane.origin
            off = dot(minus(b.plane.origin, foot), b.plane.normal)
            found.append(
                self._way("square from plane to plane", abs(off), foot, _along(foot, b.plane.normal, off))
            )
        if a.axis and b.axis and _parallel(a.axis.direction, b.axis.direction):
            foot = b.axis.foot(a.axis.origin)
            found.append(self._way("from axis to axis", math.dist(a.axis.origin, foot), a.axis.origin, foot))
        if a.point and b.point and (a.radius or b.radius):
            found.append(self._way("from centre to centre", math.dist(a.point, b.point), a.point, b.point))
        value, one, other = kernel.apart(a.extent, b.extent)
        found.append(self._way("least distance", value, one, other))
        for first, second in ((a, b), (b, a)):
            if first.axis and not second.axis and second.point:
                foot = first.axis.foot(second.point)
                words = f"from the axis of {first.words} to {second.words}"
                found.append(self._way(words, math.dist(foot, second.point), foot, second.point))
            if first.axis and second.plane and abs(dot(first.axis.direction, second.plane.normal)) < PARALLEL:
                at = first.axis.origin
                off = dot(minus(second.plane.origin, at), second.plane.normal)
                words = f"from the axis of {first.words} to {second.words}"
                found.append(self._way(words, abs(off), at, _along(at, second.plane.normal, off)))
            if first.plane and second.point and not first.area:
                continue  # a datum plane has no end: the least distance is the square one
            if first.plane and second.point:
                off = dot(minus(first.plane.origin, second.point), first.plane.normal)
                foot = _along(second.point, first.plane.normal, off)
                found.append(self._way(f"square to {first.words}", abs(off), second.point, foot))
        return found

    def angle(self, a: Thing, b: Thing) -> list[Figure]:
        """Return the angle between two things that have directions; a plane has the one it lies in."""
        one, other = (_direction(t) for t in (a, b))
        if one is None or other is None:
            return []
        across = math.hypot(*cross(one, other))
        angle = math.atan2(across, abs(dot(one, other)))
        if bool(a.plane) != bool(b.plane):
            angle = math.pi / 2 - angle
        return [self._figure("angle", max(angle, 0.0), "angle")]


def _drawn(picked: Picked, curve: Curve) -> Thing:
    """Return a curve of a sketch."""
    start, end = curve.at(0.0)[0], curve.at(curve.length)[0]
    if picked.line:
        extent = kernel.extent_of(line=(start, end))
        return Thing(picked.words, extent, line=picked.line, length=curve.length)
    if picked.circle is None:
        raise CommandRefused("A spline or ellipse of a sketch is not measured yet. Measure its points.")
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
