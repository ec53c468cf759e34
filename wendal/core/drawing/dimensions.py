"""What dimensions of a view measure: always on the part, never on the paper.

Each thing that a dimension holds is a place in the view, or a straight line there; the figure is measured
between them, and the feet tell where it is drawn. What can not be told as it is seen is refused in words."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass, replace
from itertools import pairwise
from typing import Any, Literal

from .. import standards
from ..errors import CommandRefused, WendalError
from ..inspect.schedule import HoleRow
from ..kernel.types import Frame, Vec, add, cross, dot, minus, scaled
from ..route import Evaluation, Part
from ..route.gauging import Gauge, Thing
from ..route.pages import FIT, Dimension
from ..steps import Body
from ..steps.hole_note import figure
from .centres import axles_of
from .drilled import alike_with, ring_of
from .ink import XY
from .views import Drawn, extent_of

__all__ = ["ROUNDING", "Locus", "Measured", "Seeing", "angle_said", "locus_of", "measured", "ring_in"]

ROUNDING = math.radians(200)  # of a turn, less than which an arc is a rounding and no part of a hole or boss
FLAT = 1e-7  # of a unit vector: lies in the view, or is seen end-on
Shape = Literal["level", "upright", "straight", "angle", "round", "leader", "places_x", "places_y"]


@dataclass(frozen=True, slots=True)
class Measured:
    """A dimension as it came out. shape : how it is drawn. feet : mm of the part in the view, from its
    middle; of a round one its middle and a place on it; of an angle its corner and a place on each leg. value
    : mm or rad. said : as it is printed. radius : of a round one. state : as of a reference; trouble : why it
    is lost or held."""

    of: Dimension
    shape: Shape = "straight"
    feet: tuple[XY, ...] = ()
    value: float = 0.0
    said: str = ""
    radius: float = 0.0
    said_each: tuple[str, ...] = ()
    state: Literal["sound", "held", "lost"] = "sound"
    trouble: str = ""
    thing: int = 0
    candidates: tuple[Any, ...] = ()
    now: tuple[dict[str, Any], ...] = ()


@dataclass(slots=True)
class Seeing:
    """What dimensions of a view are measured with."""

    part: Part
    evaluation: Evaluation
    bodies: list[Body]
    view: Drawn


def angle_said(value: float) -> str:
    """Return an angle (rad) as it is printed, in degrees to three decimals."""
    return f"{math.degrees(value):.3f}".rstrip("0").rstrip(".") + "°"


def measured(seeing: Seeing, dimension: Dimension) -> Measured:
    """Measure a dimension; one that can not be is lost, with the reason."""
    gauge = Gauge(seeing.part, seeing.evaluation.site, {r.id: r.state for r in seeing.evaluation.reports})
    things: list[Thing] = []
    try:
        things += (gauge.thing(ref) for ref in dimension.things)
        found = _KINDS[dimension.kind](_Taken(seeing, dimension, things))
    except WendalError as error:
        return Measured(
            dimension,
            state="lost",
            trouble=error.message,
            thing=len(things),
            candidates=tuple(getattr(error, "candidates", ())),
        )
    if gauge.doubt:
        return replace(found, state="held", trouble=gauge.doubt, now=tuple(gauge.now))
    return found


@dataclass(slots=True)
class _Taken:
    """A dimension with the things it holds."""

    seeing: Seeing
    dimension: Dimension
    things: list[Thing]

    @property
    def frame(self) -> Frame:
        return self.seeing.view.frame

    @property
    def inches(self) -> bool:
        return self.seeing.part.units.length == "in"

    def said(self, text: str, size: float | None = None, unit: str = "") -> str:
        """Return a figure with what stands round it: its tolerance with its limits, brackets, words.

        size : mm, for classes of ISO 286; None for what has none, where a class is refused. unit : behind
        limits."""
        d = self.dimension
        own = d.tolerance.strip()
        if FIT.fullmatch(own) and size is not None:
            text += f" {own}"
        elif own and own[0].isalpha():
            if size is None:
                raise CommandRefused(
                    f"{own} is a class of ISO 286, which is of one length. Write limits here."
                )
            limits = standards.limits_of(own, size)
            text += f" {own} ({limits.said(self.inches)})" if limits else ""
        elif own:
            text += f" {standards.limits_of(own, size)}{unit}"  # as they are written, in the part's unit
        text = f"{d.before}{text}{d.after}"
        return f"({text})" if d.reference else text

    def length(self, shape: Shape, a: XY, b: XY, value: float, sign: str = "") -> Measured:
        return Measured(
            self.dimension,
            shape,
            (a, b),
            value,
            self.said(sign + figure(value, self.inches), value),
        )


# — places and lines in a view —


@dataclass(frozen=True, slots=True)
class Locus:
    """A thing as it is seen: a place, or a straight line with a place on it, its direction, its ends if it
    has any."""

    at: XY
    way: XY | None = None
    tips: tuple[XY, XY] | None = None


def _spot(frame: Frame, p: Vec) -> XY:
    u, v, _ = frame.local(p)
    return u, v


def locus_of(frame: Frame, t: Thing) -> Locus:
    """Return how a thing is seen; raises CommandRefused where it is seen at a slant."""
    if t.tips is not None:
        a, b = (_spot(frame, p) for p in t.tips)
        length = math.dist(a, b)
        if length < 1e-9:
            return Locus(a)
        return Locus(a, ((b[0] - a[0]) / length, (b[1] - a[1]) / length), (a, b))
    if t.plane is not None:
        return _of_plane(frame, t)
    if t.axis is not None and (t.point is None or t.radius == 0 or t.area is not None):
        return _of_line(frame, t.axis.origin, t.axis.direction, t)
    if t.point is not None:
        return Locus(_spot(frame, t.point))
    if t.line is not None:
        return _of_line(frame, t.line.origin, t.line.direction, t)
    raise CommandRefused(
        f"A dimension can not be taken to {t.words}. Take a straight edge, an axis or a corner."
    )


def _of_line(frame: Frame, origin: Vec, direction: Vec, t: Thing) -> Locus:
    du, dv = dot(direction, frame.x), dot(direction, frame.y)
    size = math.hypot(du, dv) / math.hypot(*direction)
    if size < FLAT:
        return Locus(_spot(frame, origin))
    if size < 1 - FLAT:
        raise CommandRefused(
            f"{_begun(t.words)} is seen at a slant here. Take a view that looks along or across it."
        )
    at = t.middle or origin
    off = dot(minus(at, origin), direction) / dot(direction, direction)
    foot = add(origin, scaled(direction, off))
    length = math.hypot(du, dv)
    return Locus(_spot(frame, foot), (du / length, dv / length))


def _of_plane(frame: Frame, t: Thing) -> Locus:
    assert t.plane is not None
    n = t.plane.normal
    if abs(dot(n, frame.normal)) > FLAT:
        raise CommandRefused(
            f"{_begun(t.words)} is not seen edge-on in this view. Take a view that looks along it."
        )
    u, v = dot(n, frame.x), dot(n, frame.y)
    places = sorted((_spot(frame, c) for c in t.corners), key=lambda p: p[1] * u - p[0] * v)
    tips = (places[0], places[-1]) if len(places) > 1 and math.dist(places[0], places[-1]) > 1e-6 else None
    return Locus(_spot(frame, t.middle or t.plane.origin), (-v, u), tips)


def _begun(words: str) -> str:
    return words[:1].upper() + words[1:]


def _two(taken: _Taken) -> tuple[Locus, Locus]:
    if len(taken.things) == 1:
        one = locus_of(taken.frame, taken.things[0])
        if one.tips is None:
            raise CommandRefused("Take a second thing to measure to.")
        return Locus(one.tips[0]), Locus(one.tips[1])
    if len(taken.things) != 2:
        raise CommandRefused("This is measured between two things.")
    return locus_of(taken.frame, taken.things[0]), locus_of(taken.frame, taken.things[1])


def _along(taken: _Taken, axis: int) -> Measured:
    """Measure across (0) or up (1) the page."""
    one, other = _two(taken)
    for locus, t in zip((one, other), taken.things, strict=False):
        if locus.way is not None and abs(locus.way[axis]) > FLAT:
            raise CommandRefused(
                f"{_begun(t.words)} does not run {'upright' if axis == 0 else 'level'} in this view, so it "
                "has no one place to measure to. Take its end, or measure straight."
            )
    value = abs(other.at[axis] - one.at[axis])
    if value < 1e-9:
        raise CommandRefused("These two lie in one line in this view: there is nothing to measure.")
    a, b = _nearest_ends(one, other, axis)
    return taken.length("level" if axis == 0 else "upright", a, b, value)


def _nearest_ends(one: Locus, other: Locus, axis: int) -> tuple[XY, XY]:
    """Return the feet: of lines the lower (or left) ends, which lie nearer to where the figure stands."""
    ends = []
    for locus in (one, other):
        tips = locus.tips or (locus.at,)
        ends.append(min(tips, key=lambda p: p[1 - axis]))
    return ends[0], ends[1]


def _straight(taken: _Taken) -> Measured:
    one, other = _two(taken)
    if len(taken.things) == 1:
        _true_length(taken)
    if one.way and other.way:
        if abs(one.way[0] * other.way[1] - one.way[1] * other.way[0]) > FLAT:
            raise CommandRefused("These two are not parallel. Measure the angle between them.")
        foot = _foot(other.at, one)
        return taken.length("straight", foot, other.at, _dist(foot, other.at))
    if one.way or other.way:
        held, p = (one, other.at) if one.way else (other, one.at)
        foot = _foot(p, held)
        return taken.length("straight", foot, p, _dist(foot, p))
    return taken.length("straight", one.at, other.at, _dist(one.at, other.at))


def _dist(a: XY, b: XY) -> float:
    value = math.dist(a, b)
    if value < 1e-9:
        raise CommandRefused("These two lie in one place in this view: there is nothing to measure.")
    return value


def _foot(p: XY, locus: Locus) -> XY:
    assert locus.way is not None
    along = (p[0] - locus.at[0]) * locus.way[0] + (p[1] - locus.at[1]) * locus.way[1]
    return locus.at[0] + along * locus.way[0], locus.at[1] + along * locus.way[1]


def _true_length(taken: _Taken) -> None:
    tips = taken.things[0].tips
    assert tips is not None
    way = minus(tips[1], tips[0])
    if abs(dot(way, taken.frame.normal)) > FLAT * math.hypot(*way):
        raise CommandRefused("This edge is seen shortened here. Take a view that looks square to it.")


def _angle(taken: _Taken) -> Measured:
    if len(taken.things) != 2:
        raise CommandRefused("An angle is measured between two straight things.")
    one, other = (locus_of(taken.frame, t) for t in taken.things)
    if one.way is None or other.way is None:
        raise CommandRefused("An angle is measured between two straight things that are seen as lines.")
    (ax, ay), (bx, by) = one.way, other.way
    turn = ax * by - ay * bx
    if abs(turn) < FLAT:
        raise CommandRefused("These two are parallel: there is no angle between them.")
    dx, dy = other.at[0] - one.at[0], other.at[1] - one.at[1]
    s = (dx * by - dy * bx) / turn
    corner = one.at[0] + s * ax, one.at[1] + s * ay
    legs = [_leg(corner, locus) for locus in (one, other)]
    (px, py), (qx, qy) = ((p[0] - corner[0], p[1] - corner[1]) for p in legs)
    value = math.atan2(abs(px * qy - py * qx), px * qx + py * qy)
    for t in taken.things:  # an edge seen at a slant has another angle in space than on paper
        if t.tips is not None and abs(
            dot(minus(t.tips[1], t.tips[0]), taken.frame.normal)
        ) > FLAT * math.dist(*t.tips):
            raise CommandRefused(
                f"{_begun(t.words)} is seen shortened here. Take a view that looks square to it."
            )
    return Measured(taken.dimension, "angle", (corner, *legs), value, taken.said(angle_said(value), unit="°"))


def _leg(corner: XY, locus: Locus) -> XY:
    """Return the place on a leg that tells on which side of the corner it lies: its middle."""
    assert locus.way is not None
    a, b = locus.tips or (locus.at, locus.at)
    middle = (a[0] + b[0]) / 2, (a[1] + b[1]) / 2
    if math.dist(middle, corner) < 1e-6:
        return middle[0] + locus.way[0], middle[1] + locus.way[1]
    return middle


def _round(taken: _Taken, sign: str, factor: float) -> Measured:
    """Measure a radius or a diameter: as a circle where it is seen along its axis, else across."""
    if len(taken.things) != 1 or not taken.things[0].radius:
        raise CommandRefused("A radius or diameter is of one round edge or face.")
    t = taken.things[0]
    axis = t.axis
    if axis is None or (t.point is None and axis.origin is None):
        raise CommandRefused(f"{_begun(t.words)} has no axis to be seen along.")
    value = factor * t.radius
    said = taken.said(sign + figure(value, taken.inches), 2 * t.radius)
    way = axis.direction
    size = math.hypot(dot(way, taken.frame.x), dot(way, taken.frame.y)) / math.hypot(*way)
    if size < FLAT:
        middle = _spot(taken.frame, axis.origin if t.point is None else t.point)
        on = _nearest_on(taken, t, middle)
        return Measured(taken.dimension, "round", (middle, on), value, said, t.radius)
    if size < 1 - FLAT or factor == 1.0:
        raise CommandRefused(
            f"{_begun(t.words)} is seen at a slant here. Take a view that looks along its axis."
        )
    u, v = dot(way, taken.frame.x), dot(way, taken.frame.y)
    length = math.hypot(u, v)
    u, v = u / length, v / length
    at = _spot(taken.frame, t.middle or t.point or axis.origin)
    middle = _foot(at, Locus(_spot(taken.frame, axis.origin), (u, v)))
    a, b = ((middle[0] - s * v * t.radius, middle[1] + s * u * t.radius) for s in (1, -1))
    shape: Shape = "upright" if abs(v) < FLAT else "level" if abs(u) < FLAT else "straight"
    return Measured(taken.dimension, shape, (a, b), value, said)


def _nearest_on(taken: _Taken, t: Thing, middle: XY) -> XY:
    """Return the place in the middle of what there is of a circle or arc."""
    if t.edge is not None and not t.closed:
        return _spot(taken.frame, t.edge.middle)
    if t.middle is not None:
        u, v = _spot(taken.frame, t.middle)
        off = math.hypot(u - middle[0], v - middle[1])
        if off > 1e-6:
            return middle[0] + t.radius * (u - middle[0]) / off, middle[1] + t.radius * (v - middle[1]) / off
    return middle[0] + t.radius * math.sqrt(0.5), middle[1] + t.radius * math.sqrt(0.5)


def _radius(taken: _Taken) -> Measured:
    found = _round(taken, "R", 1.0)
    count = _arcs_alike(taken.seeing, found.radius)
    if count > 1 and not taken.dimension.before:
        return replace(found, said=f"{count} × {found.said}")
    return found


def _arcs_alike(seeing: Seeing, radius: float) -> int:
    """Return how many visible roundings have a radius: edges that are less than a full circle, those about
    one axis once. Of a cut view it is not told: what is cut is none of the part's edges any more."""
    if seeing.view.areas:
        return 1
    topologies = {b.id: b.topology for b in seeing.bodies}
    middles = set()
    for ln in seeing.view.lines:
        s = ln.stroke
        if not ln.visible or ln.edge < 0 or s.kind != "arc" or abs(s.radius - radius) > 1e-6:
            continue
        edge = topologies[ln.body].edges[ln.edge]
        if edge.form == "circle" and edge.length < ROUNDING * edge.radius:
            middles.add((round(s.centre[0], 4), round(s.centre[1], 4)))
    return len(middles)


def _chamfer(taken: _Taken) -> Measured:
    if len(taken.things) != 1:
        raise CommandRefused("A chamfer is told of its one face or edge.")
    locus = locus_of(taken.frame, taken.things[0])
    tips = locus.tips
    if tips is None:
        raise CommandRefused("This chamfer goes round. Tell it by its angle and its diameters.")
    du, dv = abs(tips[1][0] - tips[0][0]), abs(tips[1][1] - tips[0][1])
    if min(du, dv) < 1e-6:
        raise CommandRefused(
            "This does not slope in this view. Take a view in which the chamfer is seen edge-on."
        )
    if abs(du - dv) < 1e-6:
        text = f"{figure(du, taken.inches)} × 45°"
    else:
        text = f"{figure(du, taken.inches)} × {angle_said(math.atan2(dv, du))}"
    middle = (tips[0][0] + tips[1][0]) / 2, (tips[0][1] + tips[1][1]) / 2
    return Measured(taken.dimension, "leader", (middle,), du, taken.said(text))


def _holes(taken: _Taken) -> Measured:
    seeing, t = taken.seeing, taken.things[0]
    if t.axis is None:
        raise CommandRefused("Take the round edge or the wall of a hole.")
    ref = taken.dimension.things[0]
    alike = alike_with(seeing.part, seeing.evaluation, ref, t.axis.origin, t.axis.direction)
    if not alike:
        raise CommandRefused("This is not of a hole that a hole step drilled. Tell its diameter.")
    count = f"{len(alike)} × " if len(alike) > 1 else ""
    ring = ring_in(seeing, alike)
    told = f" on Ø{figure(2 * ring[1], taken.inches)}" if ring else ""
    note = taken.said(count + alike[0].note + told, alike[0].diameter)
    frame = taken.frame
    u, v = _spot(frame, t.axis.origin)
    size = math.hypot(dot(t.axis.direction, frame.x), dot(t.axis.direction, frame.y))
    if size > FLAT:
        at = t.point or t.middle or t.axis.origin
        return Measured(taken.dimension, "leader", (_spot(frame, at),), 2 * t.radius, note)
    return Measured(taken.dimension, "round", ((u, v), (u + t.radius, v)), 2 * t.radius, note, t.radius)


def ring_in(seeing: Seeing, alike: list[HoleRow]) -> tuple[XY, float] | None:
    """Return the circle on which holes lie evenly as a view shows them: its middle and radius (mm)."""
    frame = seeing.view.frame
    axes = [
        _spot(frame, a.origin)
        for b in seeing.bodies
        for a in axles_of(b.id, b.shape)
        if math.hypot(*cross(a.way, frame.normal)) < FLAT
    ]
    return ring_of([_spot(frame, r.at) for r in alike], axes)


def _places(taken: _Taken, axis: int) -> Measured:
    """Measure places from the first thing along X (0) or Y (1) of the page."""
    if len(taken.things) < 2:
        raise CommandRefused("Take the thing to count from, and then what is counted.")
    loci = [locus_of(taken.frame, t) for t in taken.things]
    for locus, t in zip(loci, taken.things, strict=True):
        if locus.way is not None and abs(locus.way[axis]) > FLAT:
            raise CommandRefused(f"{_begun(t.words)} has no one place along the page's {'XY'[axis]}.")
    zero = loci[0].at[axis]
    feet = [min(lo.tips or (lo.at,), key=lambda p: p[1 - axis]) for lo in loci]
    values = [lo.at[axis] - zero for lo in loci]
    said = ("0", *(taken.said(figure(v, taken.inches), abs(v)) for v in values[1:]))
    shape: Shape = "places_x" if axis == 0 else "places_y"
    return Measured(taken.dimension, shape, tuple(feet), values[-1], " · ".join(said), said_each=said)


def _overall(taken: _Taken, axis: int) -> Measured:
    """Measure the whole view's width (0) or height (1)."""
    low, high = extent_of(taken.seeing.view)
    value = high[axis] - low[axis]
    if value < 1e-9:
        raise CommandRefused("What is seen here has no extent in this direction.")
    ends = [_extreme(taken.seeing.view, axis, side) for side in (min, max)]
    a, b = (
        ((low[axis], ends[0][1]), (high[axis], ends[1][1]))
        if axis == 0
        else (
            (ends[0][0], low[axis]),
            (ends[1][0], high[axis]),
        )
    )
    return taken.length("level" if axis == 0 else "upright", a, b, value)


def _extreme(view: Drawn, axis: int, side: Callable[..., Any]) -> XY:
    """Return the place of a visible line that lies furthest out, and of those the lowest (or the
    leftmost)."""
    places = [ln.stroke.at(i / 16) for ln in view.lines if ln.visible for i in range(17)]
    far = side(p[axis] for p in places)
    return min((p for p in places if abs(p[axis] - far) < 1e-3), key=lambda p: p[1 - axis])


_KINDS: dict[str, Callable[[_Taken], Measured]] = {
    "across": lambda t: _along(t, 0),
    "up": lambda t: _along(t, 1),
    "straight": _straight,
    "angle": _angle,
    "radius": _radius,
    "diameter": lambda t: _round(t, "Ø", 2.0),
    "chamfer": _chamfer,
    "holes": _holes,
    "places_x": lambda t: _places(t, 0),
    "places_y": lambda t: _places(t, 1),
    "chain_x": lambda t: _chain(t, 0),
    "chain_y": lambda t: _chain(t, 1),
    "width": lambda t: _overall(t, 0),
    "height": lambda t: _overall(t, 1),
}


def _chain(taken: _Taken, axis: int) -> Measured:
    """Measure from each thing to the next, along X (0) or Y (1) of the page."""
    found = _places(taken, axis)
    order = sorted(range(len(found.feet)), key=lambda i: found.feet[i][axis])
    feet = tuple(found.feet[i] for i in order)
    steps = [b[axis] - a[axis] for a, b in pairwise(feet)]
    if min(steps) < 1e-9:
        raise CommandRefused("Two of these lie in one line: there is nothing to measure between them.")
    said = tuple(taken.said(figure(s, taken.inches), s) for s in steps)
    return replace(found, feet=feet, value=sum(steps), said=" · ".join(said), said_each=said)
