"""Sketch geometry in words: "the right vertical line", "the lower left circle", or just "the circle" where
there is one."""

from __future__ import annotations

import math
from collections import Counter

from ...tolerance import SAME_NUMBER
from ..constraints import rule_for
from ..drawn import AXES, ORIGIN, Arc, Circle, Constraint, Curve, Drawing, Free, Line, Oval, Spline

MOST = 4  # things named one by one
KINDS = {"ellipse_arc": "elliptical arc"}

__all__ = ["bare_name", "name_of", "say_bound", "say_constraint", "spot_of"]


class _Known:
    """What naming needs of a drawing, gathered once: whose points are whose, the box of all points, how many
    curves are called alike."""

    def __init__(self, drawing: Drawing) -> None:
        self.owner = {p: c for c, curve in reversed(drawing.curves.items()) for p in curve.points}
        xs, ys = [p[0] for p in drawing.points.values()], [p[1] for p in drawing.points.values()]
        self.box = (min(xs), max(xs), min(ys), max(ys)) if xs else (0.0, 0.0, 0.0, 0.0)
        self.nouns = Counter(_noun(drawing, curve) for curve in drawing.curves.values())
        self.texts = {t.base: t.words for t in reversed(drawing.texts.values())}
        self.names: dict[str, str] = {}


_last: tuple[Drawing, _Known] | None = None


def _known(drawing: Drawing) -> _Known:
    """Gather what naming needs; the last drawing's is kept, since one asks for many names of one drawing."""
    global _last
    if _last is None or _last[0] is not drawing:
        _last = (drawing, _Known(drawing))
    return _last[1]


def _noun(drawing: Drawing, curve: Curve) -> str:
    if isinstance(curve, Free) and curve.side:
        return (
            "curve beside a spline"
            if isinstance(curve, Spline)
            else f"{'inner' if curve.side > 0 else 'outer'} curve beside an ellipse"
        )
    return _lie(drawing, curve) + "line" if isinstance(curve, Line) else KINDS.get(curve.kind, curve.kind)


def name_of(drawing: Drawing, entity: str) -> str:
    """Name a point, curve or text by its kind and where it stands in the sketch."""
    names = _known(drawing).names
    if entity not in names:
        names[entity] = _named(drawing, entity)
    return names[entity]


def bare_name(drawing: Drawing, entity: str) -> str:
    """Name a point, curve or text as `name_of` does, without the article."""
    return name_of(drawing, entity).removeprefix("the ")


def _named(drawing: Drawing, entity: str) -> str:
    if entity == ORIGIN:
        return "the origin"
    if entity in AXES:
        return f"the {entity[0].upper()} axis"
    if entity in drawing.points:
        return _point(drawing, entity)
    if entity in drawing.texts:
        return f"the text “{drawing.texts[entity].words}”"
    curve = drawing.curves[entity]
    written = _known(drawing).texts.get(entity) if curve.construction else None
    if written:
        return f"the base line of “{written}”"
    ends = curve.ends if isinstance(curve, Line | Spline) else None
    places = [drawing.place(p) for p in ends] if ends else [drawing.place(curve.points[0])]
    middle, noun = (
        (sum(x for x, _ in places) / len(places), sum(y for _, y in places) / len(places)),
        _noun(drawing, curve),
    )
    spot = "" if _known(drawing).nouns[noun] < 2 else spot_of(drawing, *middle)
    return f"the {spot} {noun}" if spot else f"the {noun}"


def _lie(drawing: Drawing, line: Line) -> str:
    (ax, ay), (bx, by) = drawing.place(line.start), drawing.place(line.end)
    tilt = abs(math.degrees(math.atan2(by - ay, bx - ax)))
    return "horizontal " if min(tilt, 180 - tilt) < 1 else "vertical " if abs(tilt - 90) < 1 else ""


def _point(drawing: Drawing, point: str) -> str:
    owner = _known(drawing).owner.get(point)
    curve = drawing.curves.get(owner or "")
    if isinstance(curve, Circle | Arc | Oval) and curve.centre == point:
        return f"the centre of {name_of(drawing, owner or '')}"
    if isinstance(curve, Oval) and curve.tip == point:
        return f"the tip of {name_of(drawing, owner or '')}"
    if isinstance(curve, Spline) and point not in curve.ends:
        return f"point {curve.over.index(point) + 1} of {name_of(drawing, owner or '')}"
    if curve is not None and curve.ends:
        other = next(p for p in curve.ends if p != point)
        (x, y), (u, v) = drawing.place(point), drawing.place(other)
        which = ("left" if x < u else "right") if abs(x - u) >= abs(y - v) else "lower" if y < v else "upper"
        return f"the {which} end of {name_of(drawing, owner or '')}"
    spot = spot_of(drawing, *drawing.place(point))
    return f"the {spot} point" if spot else "the point"


def spot_of(drawing: Drawing, x: float, y: float) -> str:
    """Return "lower left", "right", "" (middle) … within the box of the drawing."""
    left, right, low_, high_ = _known(drawing).box
    words = []
    for value, low, high, names in (
        (y, low_, high_, ("lower", "upper")),
        (x, left, right, ("left", "right")),
    ):
        if high - low > SAME_NUMBER:
            share = (value - low) / (high - low)
            words.append(names[0] if share < 1 / 3 else names[1] if share > 2 / 3 else "")
    return " ".join(w for w in words if w)


def say_constraint(drawing: Drawing, c: Constraint) -> str:
    """Say what a constraint binds: "parallel: the upper line and the lower line"."""
    title = c.value.tag if c.value and c.value.tag else rule_for(c.kind).title.lower()
    return f"{title}: {say_bound(drawing, c)}"


def say_bound(drawing: Drawing, c: Constraint) -> str:
    """Say what things a constraint binds: "the upper line and the lower line"."""
    # Of a chain its sources count; of many things the first two stand for all.
    of = list(dict.fromkeys(e for e in c.of[::2] if e in drawing.curves)) if c.kind == "offset" else c.of
    if len(of) > MOST:
        return f"{name_of(drawing, of[0])}, {name_of(drawing, of[1])} and {len(of) - 2} more"
    return " and ".join(name_of(drawing, e) for e in of)
