"""Rounding and chamfering corners. The sharp corner stays as a point, with all that was bound to it."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass
from typing import Literal

from pydantic import Field

from ...errors import SketchError
from ...stored import Stored, Value
from ..drawn import Arc, Circle, Drawing, Ellipse, Line, Oval, Place, Spline
from ..explaining import name_of
from .base import PartFigures, edits
from .corner_fit import along, by_angle, touching
from .pieces import Worked, carrier
from .trim import corner_of

__all__ = ["ChamferCorner", "RoundCorner"]

HALVED = 16  # times, until the largest radius for all corners is known to three figures


class RoundCorner(Stored):
    """Round corners: points where two curves end, and (or) two curves with places (mm) on the parts that
    stay.

    each : give every corner a radius of its own instead of one for all.
    """

    op: Literal["round_corner"] = "round_corner"
    points: list[str] = Field(default_factory=list)
    curves: list[str] = Field(default_factory=list, max_length=2)
    keep: list[Place] = Field(default_factory=list, max_length=2)
    radius: str
    each: bool = False


class ChamferCorner(Stored):
    """Chamfer corners, picked as for rounding.

    manner : "equal", one leg; "two", both legs; "angle", the first leg and the angle (deg) to it. The first
    leg lies on the curve that was picked, or that ends at the corner, first; swap takes the other.
    """

    op: Literal["chamfer_corner"] = "chamfer_corner"
    points: list[str] = Field(default_factory=list)
    curves: list[str] = Field(default_factory=list, max_length=2)
    keep: list[Place] = Field(default_factory=list, max_length=2)
    manner: Literal["equal", "two", "angle"] = "equal"
    leg: str
    other: str = ""
    swap: bool = False
    each: bool = False


@dataclass(frozen=True, slots=True)
class Corner:
    """Two curves and the ends (0 start, 1 end) with which they meet."""

    one: str
    one_end: int
    two: str
    two_end: int


def _corners(work: Worked, edit: RoundCorner | ChamferCorner, notes: list[str]) -> list[Corner]:
    found = []
    if edit.curves:
        if len(edit.curves) != 2 or len(edit.keep) != 2:
            raise SketchError(
                "A corner wants two curves, each picked on the part that is to stay.", field="curves"
            )
        if any(isinstance(work.drawing.curves.get(c), Circle | Ellipse) for c in edit.curves):
            raise SketchError(
                "These two have no corner: one of them is a full circle or ellipse.", field="curves"
            )
        found.append(_corner_at(work, *corner_of(work, edit.curves[0], edit.curves[1], edit.keep)))
    seen: set[str] = set()
    for point in edit.points:
        mates = work.joined_with(point) if work.drawing.kind(point) == "point" else set()
        if mates & seen:
            continue
        seen |= mates
        ends = [
            (c, i)
            for c, curve in work.drawing.curves.items()
            if curve.ends
            for i in (0, 1)
            if curve.ends[i] in mates
        ]
        if len(ends) != 2:
            end = "one curve ends" if len(ends) == 1 else f"{len(ends) or 'no'} curves end"
            notes.append(
                f"{name_of(work.drawing, point).capitalize()}: {end} here, and a corner is made of two."
            )
        else:
            found.append(Corner(*ends[0], *ends[1]))
    if not found and not notes:
        raise SketchError("Pick corners, or two curves that meet in one.", field="points")
    return found


def _corner_at(work: Worked, *ends: str) -> Corner:
    """Return the corner of the curves that own two joined ends."""
    found: list[tuple[str, int]] = []
    for p in ends:
        found += [
            (c, curve.ends.index(p))
            for c, curve in work.drawing.curves.items()
            if curve.ends and p in curve.ends
        ][:1]
    return Corner(*found[0], *found[1])


def _work_on(
    drawing: Drawing, edit: RoundCorner | ChamferCorner, cut: Callable[[Worked, Corner], None]
) -> tuple[Drawing, list[str]]:
    notes: list[str] = []
    work = Worked(drawing)
    corners = _corners(work, edit, notes)
    done = 0
    for corner in corners:
        before = work.drawing
        try:
            corner = Corner(work.own(corner.one), corner.one_end, work.own(corner.two), corner.two_end)
            cut(work, corner)
            done += 1
        except SketchError as error:
            work.drawing = before
            notes.append(error.message)
    if not done:
        raise SketchError(" ".join(notes))
    return work.drawing, notes


@edits(RoundCorner, "Round corners")
def _round(drawing: Drawing, edit: RoundCorner, figures: PartFigures) -> tuple[Drawing, list[str]]:
    radius = figures.number(edit.radius, "length")
    if radius <= 0:
        raise SketchError(
            f"A corner's radius is greater than zero; this comes to {radius:g}.", field="radius"
        )
    arcs: list[str] = []

    def cut(work: Worked, corner: Corner) -> None:
        arc = _round_one(work, corner, radius, figures)
        if arcs and not edit.each:
            work.constrain("equal", arcs[0], arc)
        else:
            tag = figures.new_tag("corner radius")
            work.constrain("radius", arc, value=Value(formula=edit.radius, tag=tag))
        arcs.append(arc)

    try:
        made, notes = _work_on(drawing, edit, cut)
    except SketchError as error:
        told = _for_all(drawing, edit, radius, figures)
        if not told:
            raise
        raise SketchError(f"None of these corners takes this radius. {told}", field="radius") from error
    told = _for_all(drawing, edit, radius, figures) if notes else ""
    return made, [*notes, told] if told else notes


def _for_all(drawing: Drawing, edit: RoundCorner, radius: float, figures: PartFigures) -> str:
    """Say up to which radius all corners can be rounded together; "" for one alone, or where none does."""

    def fits(r: float) -> bool:
        work = Worked(drawing)
        try:
            for corner in _corners(work, edit, []):
                own = Corner(work.own(corner.one), corner.one_end, work.own(corner.two), corner.two_end)
                _round_one(work, own, r, figures)
        except SketchError:
            return False
        return True

    if len(_corners(Worked(drawing), edit, [])) < 2:
        return ""
    low, high = 0.0, radius
    for _ in range(HALVED):
        half = (low + high) / 2
        low, high = (half, high) if fits(half) else (low, half)
    return f"All of them take up to about {figures.show(_down(low), 'length')}." if low else ""


@edits(ChamferCorner, "Chamfer corners")
def _chamfer(drawing: Drawing, edit: ChamferCorner, figures: PartFigures) -> tuple[Drawing, list[str]]:
    leg = figures.number(edit.leg, "length")
    second = edit.other or edit.leg
    if edit.manner != "equal" and not edit.other:
        raise SketchError(
            "The second leg is missing." if edit.manner == "two" else "The angle is missing.", field="other"
        )
    other = figures.number(second, "angle" if edit.manner == "angle" else "length")
    if leg <= 0 or other <= 0 or (edit.manner == "angle" and other >= math.pi):
        raise SketchError(
            "A chamfer's legs and angle are greater than zero.", field="leg" if leg <= 0 else "other"
        )
    tags: list[str] = []

    def cut(work: Worked, corner: Corner) -> None:
        if edit.swap:
            corner = Corner(corner.two, corner.two_end, corner.one, corner.one_end)
        sharp, (a, b), line = _chamfer_one(work, corner, leg, other, edit.manner == "angle")
        own = not tags or edit.each
        if own:
            tags[:] = [
                figures.new_tag("chamfer"),
                figures.new_tag("chamfer angle" if edit.manner == "angle" else "chamfer second")
                if edit.manner != "equal"
                else "",
            ]
        formula = edit.leg if own else tags[0]
        work.constrain("distance", sharp, a, value=Value(formula=formula, tag=tags[0] if own else ""))
        if edit.manner == "angle":
            work.constrain(
                "angle",
                corner.one,
                line,
                sense=_turn(work.drawing, corner.one, line),
                value=Value(formula=edit.other if own else tags[1], tag=tags[1] if own else ""),
            )
        else:
            formula = tags[0] if edit.manner == "equal" else edit.other if own else tags[1]
            work.constrain(
                "distance",
                sharp,
                b,
                value=Value(formula=formula, tag=tags[1] if own and edit.manner == "two" else ""),
            )

    return _work_on(drawing, edit, cut)


def _turn(drawing: Drawing, one: str, two: str) -> float:
    (ax, ay), (bx, by), (cx, cy), (dx, dy) = (
        drawing.place(p) for line in (one, two) for p in drawing.line_points(line)
    )
    return 1.0 if (bx - ax) * (dy - cy) - (by - ay) * (dx - cx) >= 0 else -1.0


def _place(work: Worked, corner: Corner) -> Place:
    return work.drawing.place(work.drawing.curves[corner.one].points[-2:][corner.one_end])


def _said(work: Worked, corner: Corner) -> str:
    names = sorted([name_of(work.drawing, corner.one), name_of(work.drawing, corner.two)])
    return f"The corner of {names[0]} and {names[1]}"


def _round_one(work: Worked, corner: Corner, radius: float, figures: PartFigures) -> str:
    """Round one corner; returns the arc. Raises SketchError with the largest radius that fits."""
    one, two, at = *(carrier(work.drawing, c) for c in (corner.one, corner.two)), _place(work, corner)
    fit = touching(one, two, at, radius)
    if fit is None:
        low, high = 0.0, radius
        for _ in range(40):
            half = (low + high) / 2
            low, high = (half, high) if touching(one, two, at, half) else (low, half)
        if low < 1e-4 * radius:
            raise SketchError(f"{_said(work, corner)} runs smoothly, or too sharply to be rounded.")
        raise SketchError(
            f"{_said(work, corner)} takes no radius of more than about {figures.show(_down(low), 'length')}."
        )
    centre, a, b = fit
    first, second, _ = _cut_back(work, corner, a, b)
    c = work.point(centre)
    turn = (a[0] - centre[0]) * (b[1] - centre[1]) - (a[1] - centre[1]) * (b[0] - centre[0])
    (s, s_at), (e, e_at) = ((first, a), (second, b)) if turn > 0 else ((second, b), (first, a))
    start, end = work.point(s_at), work.point(e_at)
    arc = work.curve(
        Arc(
            centre=c,
            start=start,
            end=end,
            radius=radius,
            construction=work.drawing.curves[corner.one].construction,
        )
    )
    work.constrain("coincident", start, s)
    work.constrain("coincident", end, e)
    for curve in (corner.one, corner.two):
        bent = isinstance(work.drawing.curves[curve], Oval | Spline)
        work.constrain(
            "tangent",
            *((arc, curve) if bent else (curve, arc)),
            sense=_side(work.drawing, curve, centre, radius),
        )
    return arc


def _side(drawing: Drawing, curve: str, centre: Place, radius: float) -> float:
    c = drawing.curves[curve]
    if isinstance(c, Line):
        (ax, ay), (bx, by) = drawing.place(c.start), drawing.place(c.end)
        return 1.0 if (bx - ax) * (centre[1] - ay) - (by - ay) * (centre[0] - ax) >= 0 else -1.0
    if not isinstance(c, Arc):
        return 1.0  # at a joint the side follows from the drawing
    gap = math.dist(drawing.place(c.centre), centre)
    outside, inside = abs(gap - c.radius - radius), abs(gap - abs(c.radius - radius))
    return 1.0 if outside <= inside else 2.0 if c.radius >= radius else 3.0


def _down(value: float) -> float:
    """Round down to three figures."""
    power = 10 ** (math.floor(math.log10(value)) - 2)
    return math.floor(value / power * (1 + 1e-6)) * power


def _chamfer_one(
    work: Worked, corner: Corner, leg: float, other: float, angled: bool
) -> tuple[str, tuple[str, str], str]:
    one, two, at = *(carrier(work.drawing, c) for c in (corner.one, corner.two)), _place(work, corner)
    a = along(one, corner.one_end, leg)
    if angled:
        if not isinstance(work.drawing.curves[corner.one], Line) or not isinstance(
            work.drawing.curves[corner.two], Line
        ):
            raise SketchError(f"{_said(work, corner)}: a chamfer by an angle wants two lines.")
        b = by_angle(a, at, two, corner.two_end, other) if a else None
    else:
        b = along(two, corner.two_end, other)
    if a is None or b is None:
        raise SketchError(f"{_said(work, corner)} has no room for this chamfer.")
    first, second, sharp = _cut_back(work, corner, a, b)
    start, end = work.point(a), work.point(b)
    line = work.curve(Line(start=start, end=end, construction=work.drawing.curves[corner.one].construction))
    work.constrain("coincident", start, first)
    work.constrain("coincident", end, second)
    return sharp, (first, second), line


def _cut_back(work: Worked, corner: Corner, a: Place, b: Place) -> tuple[str, str, str]:
    """Let both curves end at new places; the old corner stays as a point on both.

    Returns the new ends and that point.
    """
    one, two = work.drawing.curves[corner.one], work.drawing.curves[corner.two]
    sharp, gone = one.points[-2:][corner.one_end], two.points[-2:][corner.two_end]
    if (
        isinstance(two, Spline) and gone in two.tips
    ):  # such a point shapes the spline, so it is the one that stays
        sharp, gone = gone, sharp
    shaping = any(isinstance(c, Spline) and gone in c.tips for c in (one, two))
    for curve, c in ((corner.one, one), (corner.two, two)):
        if isinstance(c, Line):
            work.points_instead(curve, *(sharp if p == gone else p for p in c.points))
    first, second = work.point(a), work.point(b)
    for curve, end, fresh in ((corner.one, corner.one_end, first), (corner.two, corner.two_end, second)):
        c = work.drawing.curves[curve]
        work.replace(curve, c.model_copy(update={("start", "end")[end]: fresh}))
    if shaping:  # both of two splines: they stay joined there
        return first, second, sharp
    for k, c_ in list(work.drawing.constraints.items()):
        if gone in c_.of:
            of = [sharp if e == gone else e for e in c_.of]
            if len(set(of)) < len(of):
                work.drop(k)
            else:
                work.retarget(k, of)
    work.drop(gone)
    _once(work, sharp)
    for curve in (corner.one, corner.two):
        if sharp not in work.drawing.curves[curve].points:
            work.constrain("on_curve", sharp, curve)
    return first, second, sharp


def _once(work: Worked, point: str) -> None:
    """Drop joints of a point that say the same twice."""
    seen: set[frozenset[str]] = set()
    for k, c in list(work.drawing.constraints.items()):
        if c.kind == "coincident" and point in c.of:
            pair = frozenset(c.of)
            if pair in seen:
                work.drop(k)
            seen.add(pair)
