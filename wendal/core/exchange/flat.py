"""What flat formats write: a sketch, a flat face, or the section of the bodies at a plane, at 1 : 1."""

from __future__ import annotations

import math
import re
from dataclasses import dataclass, field, replace
from itertools import pairwise

from pydantic import Field
from scipy.interpolate import BSpline

from .. import kernel
from ..datum.planes import BASE_PLANES
from ..drawing.hatching import APART, hatched
from ..errors import CommandRefused
from ..kernel.types import Frame
from ..reference import BaseRef, DatumRef, FaceRef
from ..reference.resolve import find_face
from ..sketch import Drawing, text_outline
from ..sketch.drawn import path_of
from ..sketch.drawn.crossings import Bent, EllipsePath, SplinePath
from ..strokes import XY, Stroke, Words, chained
from .base import Kind_, Order, PageOptions
from .viewed import chains_of_view

__all__ = ["Flat", "FlatOptions", "flat_of"]

FLAT: tuple[Kind_, ...] = ("sketch", "face", "section", "view")
PAST = 2.5  # mm that the lines of a centre mark run on over its circle
JOINED = 1e-6  # mm within which ends are one
BESIDE = 256  # cubic pieces that stand for a curve beside a bent one


class FlatOptions(PageOptions):
    """How flat things are written. `of` tells of which subjects an option says something."""

    construction: bool = Field(False, title="construction lines too", json_schema_extra={"of": ["sketch"]})
    text: bool = Field(False, title="texts as text, not as outlines", json_schema_extra={"of": ["sketch"]})
    centres: bool = Field(
        False, title="centre lines and marks", json_schema_extra={"of": ["face", "section", "view"]}
    )
    hatching: bool = Field(False, title="hatching", json_schema_extra={"of": ["section"]})
    hidden: bool = Field(False, title="hidden lines too", json_schema_extra={"of": ["view"]})
    bends: bool = Field(False, title="lines at which bends begin and end", json_schema_extra={"of": ["view"]})


@dataclass(slots=True)
class Flat:
    """Outlines in chains, each with its layer, and texts; named : what it is of."""

    named: str
    chains: list[list[Stroke]] = field(default_factory=list)
    words: list[Words] = field(default_factory=list)

    def box(self) -> tuple[float, float, float, float]:
        """Return the box of all strokes (x low, y low, x high, y high), mm."""
        places = [s.at(i / 24) for c in self.chains for s in c for i in range(25)]
        places += [
            (w.at[0] + x, w.at[1] + y)
            for w in self.words
            for x, y in ((0, 0), (len(w.text) * w.height, w.height))
        ]
        if not places:
            return 0.0, 0.0, 0.0, 0.0
        xs, ys = zip(*places, strict=True)
        return min(xs), min(ys), max(xs), max(ys)


def flat_of(order: Order) -> Flat:
    """Return what is asked for; raises CommandRefused where it is not there or not flat."""
    found = {"sketch": _sketch, "face": _face, "section": _section, "view": _view}[order.subject.of](order)
    if not found.chains and not found.words:
        raise CommandRefused(f"There is nothing to write of {found.named}.")
    return found


def _sketch(order: Order) -> Flat:
    made = order.evaluation.site.sketches.get(order.subject.step)
    if made is None:
        raise CommandRefused("Choose a sketch that is built.", field="step")
    options, drawing = order.options, made.drawing
    flat = Flat(order.part.step(order.subject.step).name)
    real = [stroke_of(drawing, c) for c, held in drawing.curves.items() if not held.construction]
    flat.chains = chained(real, JOINED)
    if options.construction:
        for c, held in drawing.curves.items():
            if held.construction:
                flat.chains.append([replace(stroke_of(drawing, c), layer="construction")])
    for t in drawing.texts:
        outline = text_outline(drawing, t, made.heights[t])
        if options.text and outline.boxes:
            (x, y), (u, v) = outline.boxes[0][0], outline.boxes[0][1]
            flat.words.append(
                Words(drawing.texts[t].words, (x, y), made.heights[t], math.atan2(v - y, u - x))
            )
        else:
            flat.chains += _outlines(outline.path)
    return flat


def stroke_of(drawing: Drawing, curve: str) -> Stroke:
    """Return a sketch's curve as a stroke; one beside a bent curve as a cubic spline through many of its
    places with its directions there."""
    path = path_of(drawing, curve)
    a, b = path.at(path.t0), path.at(path.t1)
    if isinstance(path, Bent) and path.away:
        return _beside(path)
    if isinstance(path, EllipsePath):
        other = path.other / math.hypot(*path.direction)
        return Stroke(
            "ellipse", a, b, centre=path.base, t0=path.t0, t1=path.t1, major=path.direction, ratio=other
        )
    if isinstance(path, SplinePath):
        return _part_of(path)
    if path.radius:
        return Stroke("arc", a, b, centre=path.base, radius=path.radius, t0=path.t0, t1=path.t1)
    return Stroke("line", a, b)


def _part_of(path: SplinePath) -> Stroke:
    """Return a part of a spline."""
    spline: BSpline = path.shapes[0]
    k = spline.k
    poles = tuple((float(x), float(y)) for x, y in spline.c)
    knots = tuple(float(t) for t in spline.t)
    whole = Stroke("spline", poles[0], poles[-1], poles=poles, knots=knots, degree=k)
    low, high = knots[k], knots[-k - 1]
    return whole.part((path.t0 - low) / (high - low), (path.t1 - low) / (high - low))


def _beside(path: Bent) -> Stroke:
    ts = [path.t0 + (path.t1 - path.t0) * i / BESIDE for i in range(BESIDE + 1)]
    poles = [path.moved(ts[0], 0)]
    for a, b in pairwise(ts):
        (x, y), (u, v) = path.moved(a, 0), path.moved(a, 1)
        (p, q), (r, s) = path.moved(b, 0), path.moved(b, 1)
        third = (b - a) / 3
        poles += [(x + third * u, y + third * v), (p - third * r, q - third * s), (p, q)]
    knots = [ts[0]] * 4 + [t for t in ts[1:-1] for _ in range(3)] + [ts[-1]] * 4
    return Stroke("spline", poles[0], poles[-1], poles=tuple(poles), knots=tuple(knots), degree=3)


_DATA = re.compile(r"([MLQCZ])([^MLQCZ]*)")


def _outlines(path: str) -> list[list[Stroke]]:
    """Return the outlines of letters from the data of an SVG path."""
    chains: list[list[Stroke]] = []
    at = start = (0.0, 0.0)
    for kind, data in _DATA.findall(path):
        numbers = [float(x) for x in data.split()]
        places = [(x, y) for x, y in zip(numbers[::2], numbers[1::2], strict=True)]
        if kind == "M":
            at = start = places[0]
            chains.append([])
        elif kind == "Z":
            if math.dist(at, start) > JOINED:
                chains[-1].append(Stroke("line", at, start, layer="text"))
            at = start
        elif kind == "L":
            chains[-1].append(Stroke("line", at, places[-1], layer="text"))
            at = places[-1]
        else:
            poles = (at, *places)
            n = len(places)
            knots = (0.0,) * (n + 1) + (1.0,) * (n + 1)
            chains[-1].append(
                Stroke("spline", at, places[-1], poles=poles, knots=knots, degree=n, layer="text")
            )
            at = places[-1]
    return [c for c in chains if c]


def _face(order: Order) -> Flat:
    ref = order.subject.thing
    if not isinstance(ref, FaceRef):
        raise CommandRefused("Pick a flat face.", field="thing")
    bodies = order.evaluation.site.bodies
    found = find_face(ref, {b: body.topology for b, body in bodies.items()})
    body = bodies[found.body]
    face = body.topology.faces[found.index]
    if face.form != "flat":
        raise CommandRefused(
            "This face is not flat. Pick a flat one, or cut the part at a plane.", field="thing"
        )
    loops = kernel.outlines_of_face(body.shape, found.index, face.frame)
    return Flat(f"a face of {body.name}", _marked(_layered(loops), order))


def _layered(loops: list[list[Stroke]]) -> list[list[Stroke]]:
    """Give the loops of an area their layers: the outline, and holes, round ones by their size."""
    chains = [loops[0]]
    for loop in loops[1:]:
        first = loop[0]
        one = len(loop) == 1 and first.kind == "arc" and first.closed
        layer = f"holes Ø{2 * first.radius:.6g}" if one else "openings"
        chains.append([replace(s, layer=layer) for s in loop])
    return chains


def _section(order: Order) -> Flat:
    frame = _plane(order)
    chains: list[list[Stroke]] = []
    hatch: list[list[Stroke]] = []
    named: list[str] = []
    for n, body in enumerate(b for b in order.evaluation.site.bodies.values() if not b.sheet):
        for loops in kernel.outlines_of_cut(body.shape, frame):
            chains += _layered(loops)
            if order.options.hatching:
                hatch += _hatch(loops, n)
            named.append(body.name)
    if not chains:
        raise CommandRefused("This plane meets no body. Move it, or choose another.", field="thing")
    return Flat(f"a section of {', '.join(dict.fromkeys(named))}", _marked(chains, order) + hatch)


def _hatch(loops: list[list[Stroke]], n: int) -> list[list[Stroke]]:
    """Return the hatching of a cut area of the n-th body, each body its own way (ISO 128-3)."""
    angle = math.radians(45 if n % 2 == 0 else 135)
    inks = hatched(loops, 1.0, angle, APART * (1 + n // 2 * 0.5))
    return [[replace(i.stroke, layer="hatch")] for i in inks]


def _marked(chains: list[list[Stroke]], order: Order) -> list[list[Stroke]]:
    """Add centre marks to whole circles, where they are wanted; one for all that share a middle."""
    if not order.options.centres:
        return chains
    middles: dict[XY, float] = {}
    for chain in chains:
        first = chain[0]
        if len(chain) == 1 and first.kind == "arc" and first.closed:
            at = (round(first.centre[0], 9), round(first.centre[1], 9))
            middles[at] = max(middles.get(at, 0.0), first.radius)
    marks = []
    for (x, y), radius in middles.items():
        r = radius + PAST
        marks.append([Stroke("line", (x - r, y), (x + r, y), layer="centre")])
        marks.append([Stroke("line", (x, y - r), (x, y + r), layer="centre")])
    return chains + marks


def _view(order: Order) -> Flat:
    plane = _plane(order) if order.subject.thing is not None else None
    whence = f"from the {order.subject.way}" if plane is None else "square to a plane"
    return Flat(f"a view {whence}", chains_of_view(order, plane, JOINED))


def _plane(order: Order) -> Frame:
    ref, site = order.subject.thing, order.evaluation.site
    if isinstance(ref, BaseRef) and ref.name in BASE_PLANES:
        frame = BASE_PLANES[ref.name]
    elif (
        isinstance(ref, DatumRef) and (made := site.datums.get(ref.step)) and made[ref.index].kind == "plane"
    ):
        frame = made[ref.index].frame
    elif isinstance(ref, FaceRef):
        found = find_face(ref, {b: body.topology for b, body in site.bodies.items()})
        face = site.bodies[found.body].topology.faces[found.index]
        if face.form != "flat":
            raise CommandRefused("This face is not flat.", field="thing")
        frame = face.frame
    else:
        raise CommandRefused("Pick a plane or a flat face to cut at.", field="thing")
    return frame.raised(order.subject.off)
