"""Images and copies of geometry: mirror, repeat, move, turn, scale, paste."""

from __future__ import annotations

import math
from collections.abc import Callable
from typing import Literal

from pydantic import Field

from ...errors import SketchError
from ...stored import Figure, Stored, Value
from ...tolerance import BROKEN, FULL_TURN, MEETS
from ..constraints import rule_for
from ..drawn import (
    AXES,
    Arc,
    Circle,
    Curve,
    Drawing,
    EllipseArc,
    Free,
    Layout,
    Line,
    Oval,
    Place,
    Spline,
    Text,
)
from ..regions import reads_turned
from ..solving import EquationSystem, measured
from .base import PartFigures, edits
from .pieces import Worked

__all__ = ["MirrorCurves", "Paste", "Repeat", "Transform"]

Map = Callable[[Place], Place]
# What a copy keeps of what binds its source within itself. Level and upright do not outlast a turn.
SHAPE = (
    "coincident",
    "tangent",
    "concentric",
    "parallel",
    "square",
    "collinear",
    "equal",
    "midpoint",
    "on_curve",
    "angle",
    "symmetric",
)
MOST = 500


class MirrorCurves(Stored):
    """Mirror curves and points about a line or axis; linked images stay symmetric."""

    op: Literal["mirror"] = "mirror"
    entities: list[str] = Field(min_length=1)
    axis: str
    linked: bool = True


class Repeat(Stored):
    """Repeat curves and points along a line (spacing a length) or about a point (spacing an angle); they
    follow their source.

    count : how many there are in all. back : against the line's direction, or clockwise.
    """

    op: Literal["repeat"] = "repeat"
    entities: list[str] = Field(min_length=1)
    by: str
    count: int = Field(ge=2, le=MOST)
    spacing: str
    back: bool = False


class Transform(Stored):
    """Move, turn (counter-clockwise about a place) and scale (about it) curves and points, or a copy of them;
    by formulas."""

    op: Literal["transform"] = "transform"
    entities: list[str] = Field(min_length=1)
    move: tuple[str, str] = ("0 mm", "0 mm")
    turn: str = "0 deg"
    scale: Figure = Field(default=1.0, gt=0)
    about: Place = (0.0, 0.0)
    copied: bool = False


class Paste(Stored):
    """Put geometry that was copied, here or in another sketch, at so many mm from where it was."""

    op: Literal["paste"] = "paste"
    what: Drawing
    move: tuple[Figure, Figure] = (0.0, 0.0)


def _selected(drawing: Drawing, entities: list[str]) -> tuple[list[str], list[str], list[str]]:
    """Return the curves, the loose points and the texts among picked things; a text comes with its base line.

    Raises SketchError for axes and unknown ids.
    """
    texts = [e for e in dict.fromkeys(entities) if e in drawing.texts]
    entities = [e for e in entities if e not in texts] + [drawing.texts[t].base for t in texts]
    curves, points = [], []
    for e in dict.fromkeys(entities):
        kind = drawing.kind(e)
        if e in AXES or e not in (drawing.points if kind == "point" else drawing.curves):
            raise SketchError(
                "The origin and the axes belong to every sketch and are not copied.", field="entities"
            )
        if kind != "point":
            curves.append(e)
    for e in entities:
        owner = drawing.owner(e) if e in drawing.points else None
        if e in drawing.points and owner not in curves:
            points.append(e)
    return curves, points, texts


def _copy(
    work: Worked,
    source: Drawing,
    curves: list[str],
    points: list[str],
    to: Map,
    *,
    scale: float = 1.0,
    turned_over: bool = False,
    keep: tuple[str, ...] = SHAPE,
) -> dict[str, str]:
    """Copy geometry through a map of places; returns new ids by old ones.

    An image that is turned over swaps the ends of arcs.
    """
    new: dict[str, str] = {}
    for c in curves:
        curve = source.curves[c]
        for p in curve.points:
            if p not in new:  # parts of one spline share their points
                new[p] = work.point(to(source.place(p)))
        names: dict[str, object] = {
            k: new[p] for k in ("centre", "tip", "start", "end") if (p := getattr(curve, k, ""))
        }
        if isinstance(curve, Arc | EllipseArc) and turned_over:
            names["start"], names["end"] = names["end"], names["start"]
        if isinstance(curve, Free):
            names |= {"away": curve.away * scale, "side": -curve.side if turned_over else curve.side}
        if isinstance(curve, Spline):
            names["over"] = [new[p] for p in curve.over]
        elif not isinstance(curve, Line):
            names["radius"] = curve.radius * scale
        new[c] = work.curve(curve.model_copy(update=names))
    for p in points:
        new[p] = work.point(to(source.place(p)))
    for k in list(source.constraints.values()):
        if k.kind in keep and k.value is None and not k.reference and all(e in new for e in k.of):
            of = [new[e] for e in k.of]
            made = k.model_copy(update={"of": of})
            work.constrain(k.kind, *of, sense=rule_for(k.kind).choose(made, Layout(work.drawing)))
    return new


def _pairs(drawing: Drawing, new: dict[str, str]) -> list[str]:
    """Return pairs of points that fix a linked copy: one for every place that is joined, source before
    copy."""
    joined = Layout(drawing).joined
    seen: set[str] = set()
    found: list[str] = []
    for old, made in new.items():
        if old in drawing.points and joined[old] not in seen:
            seen.add(joined[old])
            found += [old, made]
    return found


def _copy_texts(
    work: Worked,
    source: Drawing,
    texts: list[str],
    new: dict[str, str],
    scale: float = 1.0,
    *,
    mirrored: bool = False,
) -> None:
    """Copy texts onto the copies of their base lines; their height follows their source's.

    A mirrored one still reads.
    """
    for t in texts:
        text = source.texts[t]
        height = text.height.tag or f"({text.height.formula})"
        made = {
            "base": new[text.base],
            "height": Value(formula=height if scale == 1 else f"{scale:g} * {height}"),
        }
        if not mirrored:
            work.text(text.model_copy(update=made))
            continue
        reads = reads_turned(source, text.base) == text.turned
        turned = reads_turned(work.drawing, new[text.base]) == reads
        at, now = (
            _anchor(source, text, text.turned),
            _anchor(work.drawing, text.model_copy(update=made), turned),
        )
        if at and now and now != new[at]:
            made["place"] = {"start": "end", "end": "start"}[text.place]
        work.text(text.model_copy(update={**made, "turned": turned}))


def _anchor(drawing: Drawing, text: Text, turned: bool) -> str:
    """Return the end of its base line at which a text begins or ends, "" where there is none."""
    ends = drawing.curves[text.base].ends
    if ends is None or text.place == "middle":
        return ""
    return ends[int((text.place == "end") != turned)]


def _linked(
    work: Worked,
    source: Drawing,
    new: dict[str, str],
    kind: str,
    by: str,
    value: Value | None = None,
    sense: float = 1.0,
) -> None:
    for c, curve in source.curves.items():
        if c in new and (isinstance(curve, Circle | Oval) or (isinstance(curve, Spline) and curve.side)):
            work.constrain("equal", c, new[c])
    work.constrain(kind, by, *_pairs(source, new), value=value, sense=sense)


@edits(MirrorCurves, "Mirror")
def _mirror(drawing: Drawing, edit: MirrorCurves, figures: PartFigures) -> Drawing:
    if drawing.kind(edit.axis) != "line":
        raise SketchError("Mirror about a line or an axis of the sketch.", field="axis")
    curves, points, texts = _selected(drawing, [e for e in edit.entities if e != edit.axis])
    if not curves and not points:
        raise SketchError("Pick what is to be mirrored besides the line.", field="entities")
    (ax, ay), (bx, by) = (drawing.place(p) for p in drawing.line_points(edit.axis))
    n = (bx - ax) ** 2 + (by - ay) ** 2

    def over(p: Place) -> Place:
        along = ((p[0] - ax) * (bx - ax) + (p[1] - ay) * (by - ay)) / n
        fx, fy = ax + along * (bx - ax), ay + along * (by - ay)
        return (2 * fx - p[0], 2 * fy - p[1])

    work = Worked(drawing)
    new = _copy(
        work, drawing, curves, points, over, turned_over=True, keep=("coincident",) if edit.linked else SHAPE
    )
    _copy_texts(work, drawing, texts, new, mirrored=True)
    _meet_on_axis(work, drawing, new, over)
    if edit.linked:
        on_axis = {
            p
            for p in new
            if p in drawing.points and math.dist(over(drawing.place(p)), drawing.place(p)) < MEETS
        }
        kept = {old: made for old, made in new.items() if old not in on_axis}
        _linked(work, drawing, kept, "mirrored", edit.axis)
    return work.drawing


def _meet_on_axis(work: Worked, source: Drawing, new: dict[str, str], over: Map) -> None:
    """An end on the mirror line and its image are one point."""
    joined = Layout(source).joined
    done: set[str] = set()
    for p, made in new.items():
        if (
            p in source.points
            and math.dist(over(source.place(p)), source.place(p)) < MEETS
            and joined[p] not in done
        ):
            done.add(joined[p])
            work.constrain("coincident", p, made)


@edits(Repeat, "Repeat")
def _repeat(drawing: Drawing, edit: Repeat, figures: PartFigures) -> Drawing:
    kind = drawing.kind(edit.by)
    if kind not in ("line", "point"):
        raise SketchError("Repeat along a line or axis, or about a point.", field="by")
    curves, points, texts = _selected(drawing, [e for e in edit.entities if e != edit.by])
    if not curves and not points:
        raise SketchError("Pick what is to be repeated besides the line or point.", field="entities")
    link, quantity, word = (
        ("shifted", "length", "spacing") if kind == "line" else ("turned", "angle", "pitch")
    )
    spacing = figures.number(edit.spacing, quantity)
    if spacing <= 0:
        raise SketchError(f"The {word} is greater than zero; this comes to {spacing:g}.", field="spacing")
    if kind == "point" and spacing * (edit.count - 1) >= 2 * math.pi - FULL_TURN:
        raise SketchError(
            f"{edit.count} copies at this pitch go once round and more. Take fewer, or a smaller pitch.",
            field="count",
        )
    tag = figures.new_tag(word)
    sense = -1.0 if edit.back else 1.0
    work = Worked(drawing)
    for i in range(1, edit.count):
        to = _step(drawing, edit.by, kind, sense * spacing * i)
        new = _copy(work, drawing, curves, points, to, keep=("coincident",))
        _copy_texts(work, drawing, texts, new)
        value = Value(formula=edit.spacing, tag=tag) if i == 1 else Value(formula=f"{i} * {tag}")
        _linked(work, drawing, new, link, edit.by, value, sense)
    return work.drawing


def _step(drawing: Drawing, by: str, kind: str, amount: float) -> Map:
    if kind == "line":
        (ax, ay), (bx, by_) = (drawing.place(p) for p in drawing.line_points(by))
        n = math.hypot(bx - ax, by_ - ay)
        dx, dy = (bx - ax) / n * amount, (by_ - ay) / n * amount
        return lambda p: (p[0] + dx, p[1] + dy)
    return _turned(drawing.place(by), amount, 1.0, (0.0, 0.0))


def _turned(about: Place, turn: float, scale: float, move: Place) -> Map:
    c, s = math.cos(turn) * scale, math.sin(turn) * scale
    return lambda p: (
        about[0] + c * (p[0] - about[0]) - s * (p[1] - about[1]) + move[0],
        about[1] + s * (p[0] - about[0]) + c * (p[1] - about[1]) + move[1],
    )


@edits(Transform, "Move, turn or scale")
def _transform(drawing: Drawing, edit: Transform, figures: PartFigures) -> Drawing:
    curves, points, texts = _selected(drawing, edit.entities)
    dx, dy = (figures.number(m, "length") for m in edit.move)
    turn = figures.number(edit.turn, "angle")
    to = _turned(edit.about, turn, edit.scale, (dx, dy))
    work = Worked(drawing)
    if edit.copied:
        level = ("horizontal", "vertical") if turn == 0 else ()
        new = _copy(work, drawing, curves, points, to, scale=edit.scale, keep=(*SHAPE, *level))
        _copy_texts(work, drawing, texts, new, edit.scale)
        return work.drawing
    joined = Layout(drawing).joined
    own = {joined[p] for c in curves for p in drawing.curves[c].points} | {joined[p] for p in points}
    moved = {p: to(at) if joined[p] in own else at for p, at in drawing.points.items()}
    scaled = {c: _scaled(curve, edit.scale) if c in curves else curve for c, curve in drawing.curves.items()}
    written = dict(drawing.texts)
    for t, text in drawing.texts.items():
        if text.base in curves and edit.scale != 1:
            height = text.height.model_copy(update={"formula": f"{edit.scale:g} * ({text.height.formula})"})
            written[t] = text.model_copy(update={"height": height})
    result = drawing.model_copy(update={"points": moved, "curves": scaled, "texts": written})
    return _that_still_hold(result, figures.values(drawing))


def _scaled(curve: Curve, scale: float) -> Curve:
    sizes = {name: getattr(curve, name) * scale for name in ("radius", "away") if hasattr(curve, name)}
    return curve.model_copy(update=sizes)


def _that_still_hold(drawing: Drawing, values: dict[str, float]) -> Drawing:
    """Drop the constraints that the moved geometry does not meet."""
    system = EquationSystem(drawing, values, reduced=False)
    r = abs(system.residuals(system.z0))
    broken = {system.owner[i] for i in range(system.m) if r[i] > BROKEN * system.size}
    return drawing.model_copy(
        update={"constraints": {k: c for k, c in drawing.constraints.items() if k not in broken}}
    )


@edits(Paste, "Paste")
def _paste(drawing: Drawing, edit: Paste, figures: PartFigures) -> Drawing:
    what = edit.what
    if not what.curves and not what.points:
        raise SketchError("There is nothing to paste.", field="what")
    for c, curve in what.curves.items():
        for p in curve.points:
            if p not in what.points:
                raise SketchError(f"The copied curve “{c}” lacks its point “{p}”.", field="what")
    owned = {p for c in what.curves.values() for p in c.points}
    work = Worked(drawing)
    new = _copy(
        work,
        what,
        list(what.curves),
        [p for p in what.points if p not in owned],
        lambda p: (p[0] + edit.move[0], p[1] + edit.move[1]),
        keep=(*SHAPE, "horizontal", "vertical"),
    )
    for t, text in what.texts.items():
        if text.base not in new:
            raise SketchError(f"The copied text “{text.words}” lacks its base line.", field="what")
        formula = figures.show(figures.number(text.height.formula, "length"), "length")
        height = Value(formula=formula, tag=figures.new_tag("text_height"))
        work.text(what.texts[t].model_copy(update={"base": new[text.base], "height": height}))
    now = measured(what)
    for k, d in what.dimensions():
        rule = rule_for(d.kind)
        if all(e in new for e in d.of) and rule.takes:
            formula = figures.show(now[k], rule.quantity)
            work.constrain(
                d.kind,
                *(new[e] for e in d.of),
                sense=d.sense,
                manner=d.manner,
                value=Value(formula=formula, tag=figures.new_tag(d.kind)),
            )
    return work.drawing
