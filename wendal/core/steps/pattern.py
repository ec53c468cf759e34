"""Pattern: steps or bodies made again along lines, round an axis, along a curve, at points."""

from __future__ import annotations

import math
from collections.abc import Mapping
from types import SimpleNamespace
from typing import Annotated, Any, Literal

from ..blanks import Choice, Dots, Name, Number, Pick
from ..datum import Picked
from ..datum.chain import chained
from ..errors import StepError
from ..kernel.types import Placement, Vec, cross, dot, minus, scaled, unit
from ..reference import DrawnRef, FaceName, PlaceRef, SeedRef, SketchRef, ThingRef
from ..stored import Value
from ..tolerance import FULL_TURN, NO_LENGTH, ONE_PLACE, PARALLEL, SAME_NUMBER, SHARE
from .base import Body, Handle, Made, Site, Step, register
from .repeating import repeated

__all__ = ["Pattern"]

MOST = 5000
BENDS = 16  # places from one copy along a curve to the next at which it is looked where the curve turns to
LINES, RING, CURVE, POINTS = ("lines", "grid"), ("ring", "arc"), ("curve",), ("points",)


@register
class Pattern(Step):
    """Steps or bodies made again: exact copies, or made anew in their places."""

    title, group, key, makes = "Pattern", "build", "b p", "body"
    shelf = "Copies"
    explains = "Make steps or bodies again along lines, round an axis, along a curve, or at points."
    sentence = (
        "Pattern {name}: {seeds}{what} {manner} {along}{axis}{curve}{chain}{more}{at}{start}"
        "{count}{step_by}{spacing}{span}{angle}{pitch}{gap}{turning}"
        "{along_two}{count_two}{spacing_two}{stagger}, {copying}{skipped}{joining}"
    )

    kind: Literal["pattern"] = "pattern"
    name: Annotated[str, Name(label="name")]
    seeds: Annotated[
        list[SeedRef],
        Pick(
            label="steps or bodies",
            accepts=("step", "body"),
            many=True,
            needs="a step or body to repeat",
            accepts_with={"face": {"what": ("faces",)}},
        ),
    ] = []
    what: Annotated[
        Literal["", "faces"],
        Choice(label="faces", words={"": "", "faces": ", faces picked one by one"}, clause="picked faces"),
    ] = ""
    manner: Annotated[
        Literal["lines", "grid", "ring", "arc", "curve", "points"],
        Choice(
            label="manner",
            words={
                "lines": "along",
                "grid": "in rows along",
                "ring": "round",
                "arc": "along an arc round",
                "curve": "along the curve",
                "points": "to the points",
            },
        ),
    ] = "lines"
    along: Annotated[
        ThingRef | None,
        Pick(
            label="direction",
            accepts=("line", "axis"),
            needs="a line, edge or axis to go along",
            when={"manner": LINES},
        ),
    ] = None
    axis: Annotated[
        ThingRef | None,
        Pick(
            label="axis",
            accepts=("axis", "turned"),
            needs="an axis to go round: a line, edge or round face",
            when={"manner": RING},
        ),
    ] = None
    curve: Annotated[
        ThingRef | None,
        Pick(
            label="curve",
            accepts=("curve",),
            needs="an edge or sketch curve to go along",
            when={"manner": CURVE},
        ),
    ] = None
    chain: Annotated[
        Literal["", "on"],
        Choice(
            label="more curves",
            words={"": "", "on": "and on along"},
            clause="more curves",
            when={"manner": CURVE},
        ),
    ] = ""
    more: Annotated[
        list[ThingRef],
        Pick(
            label="next curves",
            accepts=("curve",),
            many=True,
            needs="the next edges or sketch curves, end to end",
            when={"chain": ("on",)},
        ),
    ] = []
    at: Annotated[
        list[PlaceRef],
        Pick(
            label="points",
            accepts=("point", "circle", "sketch"),
            many=True,
            needs="points, or a sketch whose loose points are meant",
            when={"manner": POINTS},
        ),
    ] = []
    start: Annotated[
        PlaceRef | None,
        Pick(
            label="seed's point",
            accepts=("point", "circle"),
            needs="the point where the seed stands",
            optional=True,
            unless="the first of them",
            when={"manner": POINTS},
            before="from",
        ),
    ] = None
    count: Annotated[
        Value,
        Number(
            label="count",
            quantity="count",
            above=0.0,
            start="3",
            when={"manner": (*LINES, *RING, *CURVE)},
            before=",",
            after="times",
        ),
    ] = Value(formula="3")
    step_by: Annotated[
        Literal["each", "whole", "both"],
        Choice(
            label="layout",
            words={"each": "every", "whole": "over", "both": "evenly both ways, every"},
            when={"manner": LINES},
            turns=("each", "whole"),
        ),
    ] = "each"
    spacing: Annotated[
        Value, Number(label="spacing", quantity="length", start="20 mm", when={"step_by": ("each", "both")})
    ] = Value(formula="20 mm")
    span: Annotated[
        Value, Number(label="span", quantity="length", start="60 mm", when={"step_by": ("whole",)})
    ] = Value(formula="60 mm")
    angle: Annotated[
        Value,
        Number(
            label="angle between", quantity="angle", start="30 deg", when={"manner": ("arc",)}, before="every"
        ),
    ] = Value(formula="30 deg")
    pitch: Annotated[
        Literal["even", "by"],
        Choice(
            label="curve spacing",
            words={"even": "evenly over all of it", "by": "every"},
            when={"manner": CURVE},
        ),
    ] = "even"
    gap: Annotated[
        Value, Number(label="spacing along the curve", above=0.0, start="20 mm", when={"pitch": ("by",)})
    ] = Value(formula="20 mm")
    turning: Annotated[
        Literal["turned", "parallel"],
        Choice(
            label="turning",
            words={"turned": "turned along", "parallel": "kept parallel"},
            when={"manner": (*RING, *CURVE)},
            turns=("turned", "parallel"),
        ),
    ] = "turned"
    along_two: Annotated[
        ThingRef | None,
        Pick(
            label="second direction",
            accepts=("line", "axis"),
            needs="a second line, edge or axis",
            when={"manner": ("grid",)},
            before="and along",
        ),
    ] = None
    count_two: Annotated[
        Value,
        Number(
            label="rows", quantity="count", above=0.0, start="2", when={"manner": ("grid",)}, after="rows"
        ),
    ] = Value(formula="2")
    spacing_two: Annotated[
        Value,
        Number(
            label="row spacing", quantity="length", start="20 mm", when={"manner": ("grid",)}, before="every"
        ),
    ] = Value(formula="20 mm")
    stagger: Annotated[
        Literal["", "half"],
        Choice(
            label="stagger",
            words={"": "", "half": ", every second row half a step on"},
            clause="staggered rows",
            when={"manner": ("grid",)},
        ),
    ] = ""
    copying: Annotated[
        Literal["exact", "anew"],
        Choice(
            label="copies",
            words={"exact": "each an exact copy", "anew": "each made anew in its place"},
            turns=("exact", "anew"),
        ),
    ] = "exact"
    skipped: Annotated[list[str], Dots(label="left out")] = []
    joining: Annotated[
        Literal["", "apart"],
        Choice(
            label="bodies", words={"": "", "apart": ", as bodies of their own"}, clause="bodies of their own"
        ),
    ] = ""

    def evaluate(self, given: SimpleNamespace, site: Site) -> Made:
        """Make the copies; the seed itself is the first and stays as it is."""
        places = self._placements(given)
        if not places:
            return Made(note="A count of one is the seed itself: there are no copies.")
        # Documents of before copies at points were called by their points leave them out by number.
        left = {
            *self.skipped,
            *(n for i, n in enumerate(places, 2) if self.manner in POINTS and str(i) in self.skipped),
        }
        kept = {n: p for n, p in places.items() if n not in left}
        if not kept:
            raise StepError("Every copy is left out. Take one back in, or delete the step.", field="skipped")
        spot = _spot(given)
        dots = {n: p.point(spot) for n, p in places.items()}
        try:
            made = repeated(self, given, site, kept, self.copying == "anew", not self.joining)
        except StepError as error:
            error.dots = dots
            raise
        made.dots = dots
        if self.manner in LINES and self.step_by == "each":
            made.handles = [Handle("spacing", spot, unit(_line(given.along)))]
        if self.manner == "arc":
            line = given.axis.axis or given.axis.turned
            made.handles = [Handle("angle", spot, unit(line.direction), 1.0, line.foot(spot))]
        if self.manner == "grid":
            made.handles.append(Handle("spacing_two", spot, unit(_line(given.along_two))))
        return made

    def begun(self, steps: Mapping[str, Step]) -> Pattern:
        """A new pattern at points keeps the point where its seed stands, so that none of its copies hangs on
        which point is the first."""
        if self.manner not in POINTS or self.start is not None or not self.at:
            return self
        first: Any = self.at[0]
        if isinstance(first, SketchRef):
            drawing: Any = getattr(steps.get(first.step), "drawing", None)
            loose = [p for p in drawing.points if drawing.owner(p) is None] if drawing else []
            first = DrawnRef(step=first.step, entity=loose[0]) if loose else None
        return self.model_copy(update={"start": first})

    def reads(self, site: Site) -> list[Body]:
        """Copies go to whatever bodies there are."""
        return list(site.bodies.values())

    def _placements(self, given: SimpleNamespace) -> dict[str, Placement]:
        """Return the placement of every copy but the first, by its number, counted from 2."""
        if self.manner in POINTS:
            return _at_points(given.at, given.start)
        count = round(given.count)
        if count * (round(given.count_two) if self.manner == "grid" else 1) > MOST:
            raise StepError(f"More than {MOST} copies are not made in one step.", field="count")
        if self.manner in CURVE:
            return self._along_curve(given, count)
        if self.manner in RING:
            return self._round(given, count)
        way = unit(_line(given.along))
        step = given.span / max(count - 1, 1) if self.step_by == "whole" else given.spacing
        # Both ways, copies are numbered from the seed outwards, so that a greater count gives none of them
        # another number.
        places = (
            [n // 2 if n % 2 else -(n // 2) for n in range(1, count + 1)]
            if self.step_by == "both"
            else range(count)
        )
        row = [scaled(way, k * step) for k in places]
        shifts = (
            {str(n): s for n, s in enumerate(row, 1)}
            if self.manner == "lines"
            else self._rows(given, row, scaled(way, step / 2))
        )
        if abs(step) < SAME_NUMBER:
            raise StepError("Copies at no distance would lie on each other. Give a spacing.", field="spacing")
        return {n: Placement.shifted(s) for n, s in shifts.items() if s != (0.0, 0.0, 0.0)}

    def _rows(self, given: SimpleNamespace, row: list[Vec], half: Vec) -> dict[str, Vec]:
        other = unit(_line(given.along_two))
        if abs(dot(other, unit(_line(given.along)))) > 1 - PARALLEL:
            raise StepError("Both directions run the same way. Pick another second one.", field="along_two")
        found = {}
        for j in range(round(given.count_two)):
            aside = scaled(other, j * given.spacing_two)
            on = half if self.stagger and j % 2 else (0.0, 0.0, 0.0)
            for i, s in enumerate(row):
                found[f"{i + 1}_{j + 1}"] = (
                    s[0] + aside[0] + on[0],
                    s[1] + aside[1] + on[1],
                    s[2] + aside[2] + on[2],
                )
        return found

    def _round(self, given: SimpleNamespace, count: int) -> dict[str, Placement]:
        line = given.axis.axis or given.axis.turned
        step = 2 * math.pi / count if self.manner == "ring" else given.angle
        if abs(step) * (count - 1) > 2 * math.pi + FULL_TURN:
            raise StepError(
                "These copies go round more than once. Give a smaller angle or count.", field="angle"
            )
        way = unit(line.direction)
        turns = {str(k + 1): Placement.turned(line.origin, way, k * step) for k in range(1, count)}
        if self.turning == "turned":
            return turns
        spot = _spot(given)
        return {n: Placement.shifted(minus(p.point(spot), spot)) for n, p in turns.items()}

    def _along_curve(self, given: SimpleNamespace, count: int) -> dict[str, Placement]:
        picks = [given.curve, *(given.more if self.chain else [])]
        curve = chained([p.curve for p in picks], [p.words for p in picks], "more")
        step = given.gap if self.pitch == "by" else curve.length / (count if curve.closed else count - 1)
        if step * (count - 1) > curve.length * (1 + SHARE):
            raise StepError(
                f"The curve is {curve.length:.3f} mm long, and these copies would go "
                f"{step * (count - 1):.3f} mm along it.",
                field="gap",
            )
        found, turn = {}, Placement()
        start, tangent = curve.at(0.0)
        for k in range(1, count):
            for i in range(1, BENDS + 1) if self.turning == "turned" else ():
                before, (_, tangent) = tangent, curve.at((k - 1 + i / BENDS) * step)
                turn = turn.then(_turning(before, tangent))
            found[str(k + 1)] = Placement(turn.turn, minus(curve.at(k * step)[0], turn.vector(start)))
        return found


def _turning(one: Vec, other: Vec) -> Placement:
    """Return the smallest turn that brings one unit direction to another."""
    axis = cross(one, other)
    size = math.sqrt(dot(axis, axis))
    if size < NO_LENGTH:
        if dot(one, other) > 0:
            return Placement()
        raise StepError(
            "The curve turns right back here, so it is not clear which way a copy turns. Keep them parallel.",
            field="turning",
        )
    return Placement.turned((0.0, 0.0, 0.0), scaled(axis, 1 / size), math.atan2(size, dot(one, other)))


def _at_points(picks: list[Picked | list[Picked]], start: Picked | None) -> dict[str, Placement]:
    """Return shifts from the seed's point to each of the others, called by the points: one that goes renames
    and moves none of the others. start : the seed's point, None for the first of them."""
    flat = [x for pick in picks for x in (pick if isinstance(pick, list) else [pick])]
    places = {p.name or str(i): _place(p) for i, p in enumerate(flat, 1)}
    names = list(places)
    own = _place(start) if start is not None else places[names[0]]
    others = {
        n: p for n, p in places.items() if (n != names[0] if start is None else math.dist(p, own) > ONE_PLACE)
    }
    if not others:
        raise StepError("One point is where the seed stands; pick at least one more.", field="at")
    return {FaceName.as_source(n): Placement.shifted(minus(p, own)) for n, p in others.items()}


def _place(picked: Picked) -> Vec:
    return picked.point or (picked.circle or picked.turned).origin  # type: ignore[union-attr]


def _line(picked: Picked) -> Vec:
    line = picked.line or picked.axis
    assert line is not None
    return line.direction


def _spot(given: SimpleNamespace) -> Vec:
    """Return the middle of what is repeated, for its dots."""
    from .. import kernel
    from .base import Seed

    shapes = [t for s in given.seeds if isinstance(s, Seed) for e in s.effects for t in e.tools]
    shapes += [s.shape for s in given.seeds if isinstance(s, Body)]
    if not shapes:
        return next((s.face.centre for s in given.seeds if isinstance(s, Picked) and s.face), (0.0, 0.0, 0.0))
    low, high = kernel.box_of(shapes)
    return ((low[0] + high[0]) / 2, (low[1] + high[1]) / 2, (low[2] + high[2]) / 2)
