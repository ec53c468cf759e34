"""Hole: drilled, counterbored, countersunk, spotfaced; to a size, for a screw, or tapped; many positions in
one step."""

from __future__ import annotations

import math
from dataclasses import replace
from types import SimpleNamespace
from typing import Annotated, Literal

from .. import kernel, standards
from ..blanks import Choice, Name, Number, Pick, Words
from ..datum import Picked, constructions
from ..errors import StepError
from ..kernel.types import Frame, Placement, Vec, add, dot, minus, scaled, unit, upright
from ..reference import BodyRef, FaceName, PlaceRef, ThingRef
from ..stored import Value
from ..tolerance import BESIDE, FULL_TURN, PARALLEL, SAME_NUMBER, STRAIGHT
from .applying import applied
from .base import Body, Effect, Handle, Made, Site, register
from .building import BuildStep, along
from .hole_note import figure, hole_note, remarks_of, tolerance_of
from .hole_section import Section, outline_of

__all__ = ["Hole"]

HEADED = ("counterbore", "countersink", "spotface")
SCREWS = {name: name for name in standards.clearance()}
THREADS = {name: name for name in standards.threads()}
TIPS = {"118": 118.0, "120": 120.0, "90": 90.0, "flat": 180.0}
HEADS = {"counterbore": "socket", "countersink": "countersunk", "spotface": "hexagon"}
SPOTFACE = 1.0  # mm by which a spotface is wider than the washer that lies on it
MOST = 5000


def _when(**more: tuple[str, ...]) -> dict[str, tuple[str, ...]]:
    return more


@register
class Hole(BuildStep):
    """Holes at any number of places, each with the same section."""

    title, key = "Hole", "b h"
    shelf = "Holes"
    explains = (
        "Drill holes at points, places on a face or coordinates: plain, for a screw, tapped, counterbored …"
    )
    sentence = (
        "Hole {name}: {sizing} {diameter}{screw}{fit}{thread}{hand} {where} "
        "{at}{face}{distance}{edge}{distance_two}{edge_two}{x}{y}"
        "{system}, {end} {depth}{until}{point}{tip}{shape}{head}{head_diameter}{head_depth}"
        "{sink_diameter}{sink_angle}{start}{start_at}"
        "{threaded}{thread_depth}{toleranced}{tolerance}{depth_tolerance}{side}{bodies}"
    )

    kind: Literal["hole"] = "hole"
    name: Annotated[str, Name(label="name")]
    result: Literal["cut"] = "cut"
    seams: Literal[""] = ""
    bodies: Annotated[
        list[BodyRef],
        Pick(
            label="bodies",
            accepts=("body",),
            many=True,
            needs="a body",
            optional=True,
            unless="all that it meets",
            unsaid=True,
            before=", in",
        ),
    ] = []
    sizing: Annotated[
        Literal["typed", "clearance", "tapped"],
        Choice(label="size", words={"typed": "diameter", "clearance": "clearance for", "tapped": "tapped"}),
    ] = "typed"
    diameter: Annotated[
        Value, Number(label="diameter", above=0.0, start="6 mm", when=_when(sizing=("typed",)))
    ] = Value(formula="6 mm")
    screw: Annotated[str, Choice(label="screw", words=SCREWS, when=_when(sizing=("clearance",)))] = "M6"
    fit: Annotated[
        Literal["fine", "medium", "coarse"],
        Choice(
            label="series",
            words={"fine": "fine", "medium": "medium", "coarse": "coarse"},
            when=_when(sizing=("clearance",)),
        ),
    ] = "medium"
    thread: Annotated[str, Choice(label="thread", words=THREADS, when=_when(sizing=("tapped",)))] = "M6"
    hand: Annotated[
        Literal["right", "left"],
        Choice(
            label="hand",
            words={"right": "right-handed", "left": "left-handed"},
            when=_when(sizing=("tapped",)),
        ),
    ] = "right"
    where: Annotated[
        Literal["points", "spot", "coordinates"],
        Choice(label="where", words={"points": "at", "spot": "on", "coordinates": "at X, Y"}),
    ] = "points"
    at: Annotated[
        list[PlaceRef],
        Pick(
            label="places",
            accepts=("point", "circle", "turned", "sketch"),
            many=True,
            needs="points, circles or round faces, or a sketch whose loose points are meant",
            when=_when(where=("points",)),
        ),
    ] = []
    face: Annotated[
        ThingRef | None,
        Pick(
            label="flat face",
            accepts=("flat",),
            needs="a flat face to drill into",
            when=_when(where=("spot",)),
        ),
    ] = None
    distance: Annotated[
        Value, Number(label="distance", start="10 mm", when=_when(where=("spot",)), before=",")
    ] = Value(formula="10 mm")
    edge: Annotated[
        ThingRef | None,
        Pick(
            label="edge",
            accepts=("line",),
            needs="an edge of the face to measure from",
            when=_when(where=("spot",)),
            before="from",
        ),
    ] = None
    distance_two: Annotated[
        Value, Number(label="second distance", start="10 mm", when=_when(where=("spot",)), before="and")
    ] = Value(formula="10 mm")
    edge_two: Annotated[
        ThingRef | None,
        Pick(
            label="second edge",
            accepts=("line",),
            needs="a second edge to measure from",
            when=_when(where=("spot",)),
            before="from",
        ),
    ] = None
    x: Annotated[Value, Number(label="X", start="0 mm", when=_when(where=("coordinates",)))] = Value(
        formula="0 mm"
    )
    y: Annotated[Value, Number(label="Y", start="0 mm", when=_when(where=("coordinates",)), before=",")] = (
        Value(formula="0 mm")
    )
    system: Annotated[
        ThingRef | None,
        Pick(
            label="system",
            accepts=("system",),
            needs="a coordinate system",
            optional=True,
            unless="the part's own system",
            when=_when(where=("coordinates",)),
            before="in",
        ),
    ] = None
    end: Annotated[
        Literal["through", "depth", "tip", "next", "until"],
        Choice(
            label="end",
            words={
                "through": "through everything",
                "depth": "full diameter deep",
                "tip": "to its tip deep",
                "next": "through to the next face",
                "until": "up to",
            },
        ),
    ] = "through"
    depth: Annotated[
        Value, Number(label="depth", above=0.0, start="10 mm", when=_when(end=("depth", "tip")))
    ] = Value(formula="10 mm")
    until: Annotated[
        ThingRef | None,
        Pick(
            label="end face",
            accepts=("plane", "face"),
            needs="a face or plane to drill up to",
            when=_when(end=("until",)),
            fixed=True,
        ),
    ] = None
    point: Annotated[
        Literal["118", "120", "90", "flat", "typed"],
        Choice(
            label="tip",
            words={
                "118": ", tip 118°",
                "120": ", tip 120°",
                "90": ", tip 90°",
                "flat": ", flat",
                "typed": ", tip",
            },
            when=_when(end=("depth", "tip", "until")),
        ),
    ] = "118"
    tip: Annotated[
        Value,
        Number(
            label="tip angle",
            quantity="angle",
            above=0.0,
            most=math.pi,
            start="118 deg",
            when=_when(point=("typed",)),
        ),
    ] = Value(formula="118 deg")
    shape: Annotated[
        Literal["", "counterbore", "countersink", "spotface"],
        Choice(
            label="head",
            words={
                "": "",
                "counterbore": ", counterbored",
                "countersink": ", countersunk",
                "spotface": ", spotfaced",
            },
            clause="counterbore or countersink",
        ),
    ] = ""
    head: Annotated[
        Literal["screw", "typed"],
        Choice(label="head size", words={"screw": "for the screw", "typed": "to"}, when=_when(shape=HEADED)),
    ] = "screw"
    head_diameter: Annotated[
        Value,
        Number(
            label="head diameter",
            above=0.0,
            start="11 mm",
            before=" Ø",
            when=_when(head=("typed",), shape=("counterbore", "spotface")),
        ),
    ] = Value(formula="11 mm")
    head_depth: Annotated[
        Value,
        Number(
            label="head depth",
            above=0.0,
            start="6 mm",
            before=",",
            after="deep",
            when=_when(head=("typed",), shape=("counterbore", "spotface")),
        ),
    ] = Value(formula="6 mm")
    sink_diameter: Annotated[
        Value,
        Number(
            label="countersink diameter",
            above=0.0,
            start="12 mm",
            before=" Ø",
            when=_when(head=("typed",), shape=("countersink",)),
        ),
    ] = Value(formula="12 mm")
    sink_angle: Annotated[
        Value,
        Number(
            label="countersink angle",
            quantity="angle",
            above=0.0,
            most=math.radians(179),
            start="90 deg",
            before="at",
            when=_when(head=("typed",), shape=("countersink",)),
        ),
    ] = Value(formula="90 deg")
    start: Annotated[
        Literal["", "body", "from"],
        Choice(
            label="start",
            words={"": "", "body": ", from where the body begins", "from": ", from"},
            clause="other start",
        ),
    ] = ""
    start_at: Annotated[
        ThingRef | None,
        Pick(
            label="start plane",
            accepts=("plane",),
            needs="a plane or flat face to drill from",
            when=_when(start=("from",)),
            fixed=True,
        ),
    ] = None
    threaded: Annotated[
        Literal["", "part"],
        Choice(
            label="thread depth",
            words={"": "", "part": ", thread"},
            clause="thread depth",
            when=_when(sizing=("tapped",)),
        ),
    ] = ""
    thread_depth: Annotated[
        Value,
        Number(
            label="depth of thread", above=0.0, start="8 mm", after="deep", when=_when(threaded=("part",))
        ),
    ] = Value(formula="8 mm")
    toleranced: Annotated[
        Literal["", "on"], Choice(label="tolerances", words={"": "", "on": ", tolerance"}, clause="tolerance")
    ] = ""
    tolerance: Annotated[
        str, Words(label="tolerance of the diameter", hint="H7 or +0.1/0", when=_when(toleranced=("on",)))
    ] = ""
    depth_tolerance: Annotated[
        str,
        Words(label="tolerance of the depth", hint="+0.5/0", before="depth", when=_when(toleranced=("on",))),
    ] = ""
    side: Annotated[
        Literal["", "back"],
        Choice(
            label="side", words={"": "", "back": ", turned round"}, turns=("", "back"), clause="turned round"
        ),
    ] = ""

    def effects(self, given: SimpleNamespace, site: Site) -> list[Effect]:
        """Turn one tool a depth, and place it everywhere."""
        return [self.effect(self._tools(given, site)[0], given)]

    def evaluate(self, given: SimpleNamespace, site: Site) -> Made:
        """Cut the holes; the note in standard form is told beside the step."""
        for name in ("tolerance", "depth_tolerance") if self.toleranced else ():
            tolerance_of(self, name, 2 * self._radius(given) if name == "tolerance" else None)
        tools, names, starts, shapes = self._tools(given, site)
        made = applied(self.id, [self.effect(tools, given)], site)
        cut = [shape for shape in made.shapes.values() if shape is not None]
        held = dict(zip(names, zip(starts, shapes, strict=True), strict=True))
        further = made.note
        made.note, made.inches = (
            " ".join(filter(None, (self._said(cut, held, inches), further))) for inches in (False, True)
        )
        if self.end in ("depth", "tip"):
            made.handles = [Handle("depth", starts[0].origin, starts[0].normal)]
        if self.where == "spot" and len(starts) == 1:
            for name, edge in (("distance", given.edge), ("distance_two", given.edge_two)):
                place, line = self._places(given, [])[0][1], edge.line
                if line is not None and math.dist(place, line.foot(place)) > BESIDE:
                    made.handles.append(Handle(name, line.foot(place), unit(minus(place, line.foot(place)))))
        if self.sizing == "tapped":
            thread = standards.thread(self.thread)
            made.threads = [(start, thread.diameter / 2) for start in starts]
        return made

    def _said(
        self, cut: list[kernel.NamedShape], holes: dict[str, tuple[Frame, Section]], inches: bool
    ) -> str:
        """Return the note in standard form of all holes, those alike together."""
        remarks = remarks_of(self, cut, holes, inches)
        alike = [(section, remarks[name]) for name, (_, section) in holes.items()]
        said = "; ".join(hole_note(self, *one, alike.count(one), inches) for one in dict.fromkeys(alike))
        if self.sizing != "tapped":
            return f"{said}."
        thread = standards.thread(self.thread)
        middle, minor = figure(thread.middle, inches), figure(thread.minor, inches)
        return f"{said}. Pitch Ø{middle}, minor Ø{minor} by ISO 724."

    def _tools(
        self, given: SimpleNamespace, site: Site
    ) -> tuple[list[kernel.NamedShape], list[str], list[Frame], list[Section]]:
        """Return every hole's tool, its name, where it begins, and its section."""
        bodies = self.material(given, site)
        if not bodies:
            raise StepError("There is no body yet to drill into.")
        built: dict[float, tuple[kernel.NamedShape, Section]] = {}
        tools, starts, shapes = [], [], []
        places = self._places(given, bodies)
        if len(places) > MOST:
            raise StepError(f"More than {MOST} holes are not made in one step.", field="at")
        base = Frame()
        for name, place, way in places:
            start = self._start(place, way, given, bodies)
            length = self._length(start, way, given, bodies)
            known = round(length, 9)
            if known not in built:
                shape = self._shape(length, given)
                built[known] = (
                    kernel.tool_of_revolution(*outline_of(shape, self.shape), base, self.id, "tool"),
                    shape,
                )
            frame = upright(start, way).at_place(start)
            tool = kernel.placed(built[known][0], Placement.between(base, frame))
            tools.append(kernel.renamed(tool, lambda n, at=name: str(replace(FaceName.read(n), profile=at))))  # type: ignore[misc]
            starts.append(frame)
            shapes.append(built[known][1])
        return tools, [name for name, _, _ in places], starts, shapes

    # — where —

    def _places(self, given: SimpleNamespace, bodies: list[Body]) -> list[tuple[str, Vec, Vec]]:
        """Return every hole's name, place and unit direction into the material."""
        if self.where == "spot":
            wanted = SimpleNamespace(
                first=given.face,
                second=given.edge,
                third=given.edge_two,
                distance=given.distance,
                distance_two=given.distance_two,
                answer=0,
            )
            place = constructions("point")["spot"].answers(wanted)[0].frame.origin
            found = [("spot", place, scaled(given.face.plane.normal, -1.0))]
        elif self.where == "coordinates":
            frame = given.system.system if given.system else Frame()
            found = [("place", frame.at(given.x, given.y), scaled(frame.normal, -1.0))]
        else:
            picks = [p for pick in given.at for p in (pick if isinstance(pick, list) else [pick])]
            once = {
                p.name or f"place {i}": p for i, p in enumerate(picks, 1)
            }  # picked twice, a place is drilled once
            found = [self._place(name, p, given, bodies) for name, p in once.items()]
        if self.side == "back":
            found = [(n, p, scaled(d, -1.0)) for n, p, d in found]
        return found

    def _place(
        self, name: str, picked: Picked, given: SimpleNamespace, bodies: list[Body]
    ) -> tuple[str, Vec, Vec]:
        ring = picked.circle or picked.turned
        place = picked.point or (ring.origin if ring else None)
        if place is None:
            raise StepError("A hole wants a point, a circle or a round face here. Pick another.", field="at")
        if picked.plane_of is not None:
            return name, place, scaled(picked.plane_of.normal, -1.0)
        if self.start == "from":
            return name, place, scaled(given.start_at.plane.normal, -1.0)
        if ring is None:
            raise StepError(
                "A point alone has no direction. Add another start and pick the face to drill from.",
                field="at",
            )
        # Along an axis: the way in which there is material.
        way = unit(ring.direction)
        ahead = max(along([b.shape], place, way)[1] for b in bodies)
        back = max(-along([b.shape], place, way)[0] for b in bodies)
        way = way if ahead >= back else scaled(way, -1.0)
        if self.start == "" and (picked.circle is None or self.end == "through"):
            # The axis of a face has no end of its own, and a hole through everything has none inside.
            flipped = scaled(way, -1.0) if self.side == "back" else way
            place = add(
                place, scaled(flipped, self._stretches(place, flipped, given, bodies, -math.inf)[0][0])
            )
        return name, place, way

    def _start(self, place: Vec, way: Vec, given: SimpleNamespace, bodies: list[Body]) -> Vec:
        if self.start == "from":
            plane: Frame = given.start_at.plane
            slope = dot(way, plane.normal)
            if abs(slope) < STRAIGHT:
                raise StepError(
                    "The hole runs along the plane it should begin at. Pick another plane.", field="start_at"
                )
            return add(place, scaled(way, dot(minus(plane.origin, place), plane.normal) / slope))
        if self.start == "body":
            stretches = self._stretches(place, way, given, bodies, -math.inf)
            return add(place, scaled(way, stretches[0][0]))
        return place

    # — how deep —

    def _length(self, start: Vec, way: Vec, given: SimpleNamespace, bodies: list[Body]) -> float:
        """Return the length of full diameter, mm; of a hole to its tip, what is left of it without the
        tip."""
        if self.end == "depth":
            return float(given.depth)
        if self.end == "tip":
            length = given.depth - self._cone(given)
            if length <= 0:
                raise StepError(
                    f"The tip alone is {self._cone(given):.3f} mm high; make the hole deeper.", field="depth"
                )
            return float(length)
        if self.end == "until":
            return self._up_to(start, way, given.until)
        if self.end == "next":
            return self._stretches(start, way, given, bodies, 0.0)[0][1]
        far = max(along([b.shape], start, way)[1] for b in bodies)
        if far <= 0:
            raise StepError("Nothing lies in this direction. Turn the hole round.", field="side")
        return far + 1.0

    def _up_to(self, start: Vec, way: Vec, target: Picked) -> float:
        if target.plane is not None:
            slope = dot(way, target.plane.normal)
            length = (
                dot(minus(target.plane.origin, start), target.plane.normal) / slope
                if abs(slope) > PARALLEL
                else -1.0
            )
        else:
            assert target.solid is not None
            length = kernel.first_hit(*target.solid, start, way)
        if length <= 0:
            raise StepError(
                "The hole does not meet what it should end at. Pick another face, or turn the hole round.",
                field="until",
            )
        return length

    def _stretches(
        self, place: Vec, way: Vec, given: SimpleNamespace, bodies: list[Body], least: float
    ) -> list[tuple[float, float]]:
        """Return where material begins and ends along the hole, as wide as it is drilled, from its place on,
        mm."""
        far = max(along([b.shape], place, way)[1] for b in bodies) + 1.0
        low = max(least, min(along([b.shape], place, way)[0] for b in bodies) - 1.0)
        if far > low:
            frame = upright(place, way).at_place(add(place, scaled(way, low)))
            radius = self._radius(given)
            probe = kernel.tool_of_revolution(
                [(0.0, 0.0), (radius, 0.0), (radius, far - low), (0.0, far - low)],
                ["cap", "wall", "floor", "axis"],
                frame,
                "probe",
                "probe",
            )
            found = kernel.common([b.shape for b in bodies], [probe], merge=False)
            # Box after box along the hole: boxes along the world's axes would reach further than the
            # material.
            there = Placement.between(upright(place, way).at_place(place), Frame())
            boxes = [kernel.box_of([kernel.placed(piece, there)]) for piece in kernel.pieces_of(found)]
            stretches = sorted((box_low[2], box_high[2]) for box_low, box_high in boxes)
            if stretches:
                return stretches
        raise StepError(
            "The hole meets no material in this direction. Turn it round, or move it.", field="side"
        )

    # — the section —

    def _radius(self, given: SimpleNamespace) -> float:
        if self.sizing == "typed":
            return float(given.diameter) / 2
        if self.sizing == "clearance":
            return standards.clearance()[self.screw][self.fit] / 2
        return standards.thread(self.thread).drill / 2

    def _cone(self, given: SimpleNamespace) -> float:
        angle = given.tip if self.point == "typed" else math.radians(TIPS[self.point])
        return 0.0 if angle > math.pi - FULL_TURN else self._radius(given) / math.tan(angle / 2)

    def _shape(self, length: float, given: SimpleNamespace) -> Section:
        radius = self._radius(given)
        cone = self._cone(given) if self.end in ("depth", "tip", "until") else 0.0
        wide, deep, angle = self._head(given)
        if self.shape:
            if wide <= 2 * radius:
                raise StepError(
                    f"The {self.shape} is Ø{wide:g} mm and the hole Ø{2 * radius:g}: it must be wider.",
                    field="sink_diameter" if self.shape == "countersink" else "head_diameter",
                )
            sunk = (wide / 2 - radius) / math.tan(angle / 2) if angle else deep
            if sunk >= length + cone:
                raise StepError(
                    f"The {self.shape} goes deeper than the hole itself. Make the hole deeper.", field="depth"
                )
            length = max(length, sunk)
        if self.sizing == "tapped" and self.threaded and given.thread_depth > length + SAME_NUMBER:
            raise StepError(
                "The thread is deeper than the hole of full diameter. Make the hole deeper, or the thread "
                "shorter.",
                field="thread_depth",
            )
        return Section(
            radius,
            length,
            cone,
            wide,
            deep,
            angle,
            given.thread_depth if self.sizing == "tapped" and self.threaded else 0.0,
        )

    def _head(self, given: SimpleNamespace) -> tuple[float, float, float]:
        """Return diameter, depth and angle of the head."""
        if not self.shape:
            return 0.0, 0.0, 0.0
        if self.head == "typed":
            if self.shape == "countersink":
                return given.sink_diameter, 0.0, given.sink_angle
            return given.head_diameter, given.head_depth, 0.0
        if self.sizing != "clearance":
            raise StepError(
                f"A {self.shape} is taken from a screw only where the hole is a clearance hole for one. "
                "Give its size.",
                field="head",
            )
        table = standards.heads(HEADS[self.shape])
        if self.screw not in table:
            raise StepError(
                f"There is no {HEADS[self.shape]} head for {self.screw} in the table. Give its size.",
                field="head",
            )
        row = table[self.screw]
        if self.shape == "countersink":
            return row["head"], 0.0, math.radians(90.0)
        if self.shape == "spotface":
            return row["washer"] + SPOTFACE, 1.0, 0.0
        return row["counterbore"], row["height"] + standards.head_room(float(self.screw[1:])), 0.0
