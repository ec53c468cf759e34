"""Cutting curves where others cross them: trim in four manners, extend, split."""

from __future__ import annotations

import math
from dataclasses import replace
from itertools import pairwise
from typing import Literal

from pydantic import Field

from ...errors import SketchError
from ...stored import Stored
from ...tolerance import MEETS
from ..drawn import AXES, Drawing, Line, Path, Place, SplinePath, crossings, meetings
from ..explaining import name_of
from .base import PartFigures, edits
from .pieces import LONG, TURN, Cut, Worked, carrier, cuts_of, parameter

__all__ = ["Break", "Extend", "Trim"]


class Trim(Stored):
    """Take pieces of curves away.

    manner : "nearest", the piece of curves[0] at path[0] between the next crossings; "sweep", every piece
    that the path (mm) runs across; "corner", curves[0] and [1] meet in a corner, path[0] and [1] lie on what
    stays of each; "inside" and "outside", what of curves[2:] lies between the boundaries curves[0] and [1],
    or beyond them.
    """

    op: Literal["trim"] = "trim"
    manner: Literal["nearest", "sweep", "corner", "inside", "outside"] = "nearest"
    curves: list[str] = Field(default_factory=list)
    path: list[Place] = Field(default_factory=list)


class Extend(Stored):
    """Lengthen the end of a line, arc or part of a spline that is nearer to a place, up to the next curve.

    Where none lies ahead, a part of a spline gets its own end back.
    """

    op: Literal["extend"] = "extend"
    curve: str
    at: Place


class Break(Stored):
    """Break a line, arc or spline at a place in two; a circle at two places."""

    op: Literal["split"] = "split"
    curve: str
    at: list[Place] = Field(min_length=1, max_length=2)


@edits(Trim, "Trim ({manner})")
def _trim(drawing: Drawing, edit: Trim, figures: PartFigures) -> Drawing:
    work = Worked(drawing)
    if edit.manner == "nearest":
        if len(edit.curves) != 1 or not edit.path:
            raise SketchError("Trim wants a curve, picked at the piece that is to go.", field="curves")
        _take_piece(work, edit.curves[0], edit.path[0])
    elif edit.manner == "sweep":
        if not _sweep(work, edit.path):
            raise SketchError(
                "The sweep crossed no curve; draw it across the pieces that are to go.", field="path"
            )
    elif edit.manner == "corner":
        _corner(work, edit.curves, edit.path)
    else:
        _between(work, edit)
    return work.drawing


def _take_piece(work: Worked, curve: str, place: Place) -> None:
    """Take the piece at a place away: an end, a middle (then two stay), or all where nothing crosses."""
    work.named(curve)
    source, curve = curve, work.own(curve)
    path = carrier(work.drawing, curve)
    cuts = cuts_of(work.drawing, curve, path, [c for c in work.drawing.curves if c != source])
    t = parameter(path, place)
    if path.closed:
        if not cuts:
            work.drop(curve)
        elif len(cuts) == 1:
            raise SketchError(
                f"Only one curve meets {work.named(curve)}, at one place, so there is no piece to take. "
                "Delete it, or draw another curve across it.",
                field=curve,
            )
        else:
            after = next((c for c in cuts if c.t > t), cuts[0])
            before = next((c for c in reversed(cuts) if c.t <= t), cuts[-1])
            work.open_circle(curve, after, before)
        return
    inner = [c for c in cuts if path.t0 + MEETS / path.scale < c.t < path.t1 - MEETS / path.scale]
    low = next((c for c in reversed(inner) if c.t <= t), None)
    high = next((c for c in inner if c.t > t), None)
    if low and high:
        work.divide(curve, low, high)
    elif low:
        work.move_end(curve, 1, low)
    elif high:
        work.move_end(curve, 0, high)
    else:
        work.drop(curve)


def _sweep(work: Worked, places: list[Place]) -> bool:
    """Take every piece away that a path runs across; tell whether there was any."""
    hits: list[tuple[str, Place]] = []
    for a, b in pairwise(places):
        length = math.dist(a, b)
        if length < MEETS:
            continue
        way = Path(a, ((b[0] - a[0]) / length, (b[1] - a[1]) / length), 0.0, 0.0, length)
        found = [
            (t, c)
            for c in work.drawing.curves
            for _, _, t, _ in crossings({"": way, c: carrier(work.drawing, c)})
        ]
        hits += [(c, way.at(t)) for t, c in sorted(found)]
    alive = [(c, at) for c, at in hits if c in work.drawing.curves]
    for curve, at in alive:
        # The piece may have gone with an earlier one, or stand under a new id.
        here = next(
            (c for c in [curve, *work.drawing.curves] if c in work.drawing.curves and _on(work, c, at)), None
        )
        if here:
            _take_piece(work, here, at)
    return bool(hits)


def _on(work: Worked, curve: str, at: Place) -> bool:
    path = carrier(work.drawing, curve)
    return math.dist(path.at(parameter(path, at)), at) < MEETS


def _corner(work: Worked, curves: list[str], places: list[Place]) -> None:
    if len(curves) != 2 or len(places) != 2 or curves[0] == curves[1]:
        raise SketchError(
            "A corner wants two curves, each picked on the part that is to stay.", field="curves"
        )
    corner_of(work, curves[0], curves[1], places)


def corner_of(work: Worked, one: str, other: str, places: list[Place]) -> tuple[str, str]:
    """Let two lines or arcs end where they, or what they lengthen to, meet; returns their two joined ends."""
    for c in (one, other):
        if c in AXES:
            raise SketchError(
                f"{name_of(work.drawing, c).capitalize()} has no ends to bring to a corner.", field=c
            )
        name = work.named(c)
        if not work.drawing.curves[c].ends:
            raise SketchError(f"{name.capitalize()} has no ends to bring to a corner.", field=c)
    one, other = work.own(one), work.own(other)
    p, q = (
        path.whole() if isinstance(path, SplinePath) else path
        for path in (carrier(work.drawing, c) for c in (one, other))
    )
    met = meetings(p, q)
    if not met:
        raise SketchError(
            f"{work.named(one).capitalize()} and {work.named(other)} never meet, however far they go.",
            field=other,
        )
    at = min(met, key=lambda m: math.dist(m, places[0]) + math.dist(m, places[1]))
    ends = [
        _bring(work, c, carrier(work.drawing, c), place, at)
        for c, place in ((one, places[0]), (other, places[1]))
    ]
    joined = work.joined_with(ends[0])
    if ends[1] not in joined:
        work.constrain("coincident", ends[0], ends[1])
    return ends[0], ends[1]


def _bring(work: Worked, curve: str, path: Path, keep: Place, at: Place) -> str:
    """Move the end of a curve that is on the far side of the kept place to `at`; an end that is there
    stays."""
    t, goal = parameter(path, keep), path.where(*at)
    beyond = path.turns and goal > path.t1  # then the nearer way round
    which = int(goal - path.t1 < path.t0 + TURN - goal if beyond else goal > t)
    end = work.drawing.curves[curve].points[-2:][which]
    if math.dist(work.drawing.place(end), at) < MEETS:
        return end
    return work.move_end(curve, which, Cut(goal, "", at))


def _between(work: Worked, edit: Trim) -> None:
    """Trim curves inside or outside of two boundaries."""
    if len(edit.curves) < 3:
        raise SketchError(
            f"Trim {edit.manner} wants two boundaries and then the curves to trim.", field="curves"
        )
    first, second, *targets = edit.curves
    for curve in targets:
        work.named(curve)
        curve = work.own(curve)
        path = carrier(work.drawing, curve)
        ones, twos = (cuts_of(work.drawing, curve, path, [b]) for b in (first, second))
        if not ones or not twos:
            raise SketchError(
                f"{work.named(curve).capitalize()} does not cross both boundaries.", field=curve
            )
        low, high = min(((a, b) for a in ones for b in twos), key=lambda ab: abs(ab[0].t - ab[1].t))
        if low.t > high.t:
            low, high = high, low
        if high.t - low.t < MEETS / path.scale:
            raise SketchError(
                f"Both boundaries cross {work.named(curve)} at one place, so nothing lies between.",
                field=curve,
            )
        if path.closed:
            inside = edit.manner == "inside"
            work.open_circle(curve, *((high, low) if inside else (low, high)))
        elif edit.manner == "inside":
            work.divide(curve, low, high)
        else:
            work.move_end(curve, 0, low)
            work.move_end(curve, 1, high)


@edits(Extend, "Extend")
def _extend(drawing: Drawing, edit: Extend, figures: PartFigures) -> Drawing:
    work = Worked(drawing)
    name = work.named(edit.curve)
    c = drawing.curves[edit.curve]
    if not c.ends:
        raise SketchError(f"{name.capitalize()} has no end to extend.", field=edit.curve)
    curve = work.own(edit.curve)
    path = carrier(work.drawing, curve)
    which = 1 if math.dist(path.at(path.t1), edit.at) <= math.dist(path.at(path.t0), edit.at) else 0
    end = path.t1 if which else path.t0
    reach = LONG if isinstance(c, Line) else TURN - (path.t1 - path.t0)
    if isinstance(path, SplinePath):
        reach = 1.0 - path.t1 if which else path.t0
        if reach * path.scale < MEETS:
            raise SketchError(
                f"This is where the whole of {name} ends: it goes no further. Pull its last point instead.",
                field=edit.curve,
            )
    low, high = (end, end + reach) if which else (end - reach, end)
    beyond = replace(path, t0=low, t1=high)
    cuts = [
        cut
        for cut in cuts_of(drawing, edit.curve, beyond)
        if MEETS / path.scale
        < abs(cut.t - end)
        < reach + (MEETS if isinstance(path, SplinePath) else -MEETS) / path.scale
    ]
    if not cuts and isinstance(path, SplinePath):
        work.restore_end(curve, which)
        return work.drawing
    if not cuts:
        raise SketchError(f"Nothing lies ahead of this end of {name}.", field=edit.curve)
    work.move_end(curve, which, min(cuts, key=lambda cut: abs(cut.t - end)))
    return work.drawing


@edits(Break, "Break")
def _split(drawing: Drawing, edit: Break, figures: PartFigures) -> Drawing:
    work = Worked(drawing)
    name = work.named(edit.curve)
    curve = work.own(edit.curve)
    path = carrier(work.drawing, curve)
    cuts = [Cut(t, "", path.at(t)) for t in sorted(parameter(path, p) for p in edit.at)]
    if path.closed:
        if len(cuts) != 2 or (cuts[1].t - cuts[0].t) * path.scale < MEETS:
            raise SketchError("A circle is split at two different places.", field="at")
        work.open_circle(curve, *cuts)
        arc = work.drawing.curves[curve]
        own = {
            name: work.point(work.drawing.place(getattr(arc, name)))
            for name in ("centre", "tip")
            if hasattr(arc, name)
        }
        rest = work.curve(
            arc.model_copy(update={**own, "start": work.point(cuts[1].at), "end": work.point(cuts[0].at)})
        )
        (a, b), (p, q) = arc.ends or ("", ""), work.drawing.curves[rest].ends or ("", "")
        work.same_round(curve, rest)
        work.constrain("coincident", b, p)
        work.constrain("coincident", q, a)
        return work.drawing
    if len(cuts) != 1:
        raise SketchError("A line, arc or spline is split at one place.", field="at")
    if min(cuts[0].t - path.t0, path.t1 - cuts[0].t) * path.scale < MEETS:
        raise SketchError(
            f"This place is the end of {name}; split it somewhere between its ends.", field="at"
        )
    low, high = work.divide(curve, cuts[0], cuts[0])
    work.constrain("coincident", low, high)
    return work.drawing
