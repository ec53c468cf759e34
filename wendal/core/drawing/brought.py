"""Dimensions that are brought in from the sketches and steps that made the geometry: each tells a number of
the part, and double-clicked on a page it edits that number.

A dimension of a sketch is drawn where the sketch is seen square, and only where both of its feet lie on
visible lines. A number of a building step is told between two faces that the step made, if they are that far
apart. What is measured has to equal the number; else it is not brought in."""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass
from itertools import combinations

from ..kernel.types import Frame, add, cross, dot, minus, scaled
from ..quantity import Kind, in_kind
from ..quantity.units import plain
from ..reference import DatumRef, DrawnRef, FaceName, ThingRef
from ..reference.resolve import face_ref
from ..route import Evaluation, Part
from ..route.pages import View
from ..sketch.drawn import Constraint, Drawing
from ..steps import Body, Step
from ..steps.datum import Plane
from ..steps.sketch import Sketch
from .ink import XY
from .views import Drawn

__all__ = ["Brought", "brought_in", "is_round_at", "lies_on", "worth_of"]

SQUARE = 1e-9  # of a unit
ON = 1e-4  # mm
MOST_FACES = 60  # of one step, among which two are looked for


@dataclass(frozen=True, slots=True)
class Brought:
    """A dimension that a number of the part makes. worth : the number, mm or rad."""

    kind: str
    things: tuple[ThingRef, ...]
    step: str
    place: str
    worth: float


def brought_in(
    part: Part, evaluation: Evaluation, bodies: list[Body], view: View, seen: Drawn
) -> Iterator[Brought]:
    """Yield what numbers of the part make in a view, in the order of the route; whoever takes them measures
    them."""
    built = {r.id for r in evaluation.reports if r.state == "built"}
    for step in part.steps:
        if step.id not in built:
            continue
        if isinstance(step, Sketch):
            yield from _of_sketch(part, evaluation, step, seen.frame)
        else:
            yield from _of_step(part, evaluation, bodies, step, seen.frame)


def worth_of(part: Part, evaluation: Evaluation, tag: str, kind: Kind) -> float | None:
    """Return what a tag's number is without its sign, mm or rad; None where it has none."""
    outcome = evaluation.ledger.get(tag)
    if outcome is None or outcome.value is None:
        return None
    return abs(plain(in_kind(outcome.value, kind, part.units.units()), kind))


def _of_sketch(part: Part, evaluation: Evaluation, step: Sketch, frame: Frame) -> Iterator[Brought]:
    made = evaluation.site.sketches.get(step.id)
    if made is None or math.hypot(*cross(made.frame.normal, frame.normal)) > SQUARE:
        return
    for place, c in made.drawing.dimensions():
        assert c.value is not None
        quantity = Kind.ANGLE if c.kind == "angle" else Kind.LENGTH
        worth = worth_of(part, evaluation, c.value.tag, quantity)
        kind = _kind(made.drawing, c, made.frame, frame)
        if worth is None or not kind:
            continue
        things = tuple(DrawnRef(step=step.id, entity=e) for e in c.of)
        yield Brought(kind, things, step.id, place, worth)


def _kind(drawing: Drawing, c: Constraint, own: Frame, view: Frame) -> str:
    """Return what kind of a dimension on a page a sketch's is; "" for one that is not told there."""
    if c.kind in ("radius", "diameter", "angle"):
        return c.kind
    if c.kind != "distance":
        return ""
    kinds = [drawing.kind(e) for e in c.of]
    if any(s in ("circle", "arc", "ellipse", "ellipse_arc", "spline") for s in kinds):
        return ""
    if c.manner:
        way = own.x if c.manner == "horizontal" else own.y
        return _along(way, view) or ""
    if "line" in kinds:
        line = next(e for e in reversed(c.of) if drawing.kind(e) == "line")
        a, b = (drawing.place(p) for p in drawing.line_points(line))
        u, v = b[0] - a[0], b[1] - a[1]
        if len(c.of) == 2:
            u, v = -v, u  # square to the line
    else:
        a, b = (drawing.place(e) for e in c.of)
        u, v = b[0] - a[0], b[1] - a[1]
    length = math.hypot(u, v)
    if length < ON:
        return ""
    way = add(scaled(own.x, u / length), scaled(own.y, v / length))
    return _along(way, view) or "straight"


def _along(way: tuple[float, float, float], view: Frame) -> str:
    """Return along which axis of a page a direction runs."""
    if abs(dot(way, view.x)) > 1 - SQUARE:
        return "across"
    return "up" if abs(dot(way, view.y)) > 1 - SQUARE else ""


def _of_step(
    part: Part, evaluation: Evaluation, bodies: list[Body], step: Step, frame: Frame
) -> Iterator[Brought]:
    for place, value, kind in step.values():
        if not value.tag or kind not in (Kind.LENGTH, Kind.ANGLE):
            continue
        worth = worth_of(part, evaluation, value.tag, kind)
        if not worth:
            continue
        if kind == Kind.LENGTH:
            yield from _apart(bodies, step, place, worth, frame)
            yield from _rounded(bodies, step, place, worth, frame)
        elif isinstance(step, Plane):
            yield from _leaning(evaluation, bodies, step, place, worth, frame)


def _own(body: Body, step: str) -> list[int]:
    return [
        i
        for i, names in enumerate(body.topology.names)
        if any((n := FaceName.read(name)).step == step and not n.instances for name in names)
    ]


def _apart(bodies: list[Body], step: Step, place: str, worth: float, frame: Frame) -> Iterator[Brought]:
    """Yield the distance of two flat faces of a step that are as far apart as its number says."""
    for body in bodies:
        faces = body.topology.faces
        flat = [i for i in _own(body, step.id) if faces[i].form == "flat"]
        edge_on = [i for i in flat if abs(dot(faces[i].frame.normal, frame.normal)) < SQUARE]
        for i, j in combinations(edge_on[:MOST_FACES], 2):
            n = faces[i].frame.normal
            if dot(n, faces[j].frame.normal) > -1 + SQUARE:
                continue
            if abs(abs(dot(minus(faces[j].centre, faces[i].centre), n)) - worth) < ON / 100:
                refs = (face_ref(body.id, body.topology, i), face_ref(body.id, body.topology, j))
                yield Brought(_along(n, frame) or "straight", refs, step.id, place, worth)
                return


def _rounded(bodies: list[Body], step: Step, place: str, worth: float, frame: Frame) -> Iterator[Brought]:
    """Yield the radius of a round face that a step made with that radius, seen along its axis."""
    for body in bodies:  # the one that lies away from the lanes
        for i in sorted(
            _own(body, step.id), key=lambda f: -sum(frame.local(body.topology.faces[f].centre)[:2])
        ):
            face = body.topology.faces[i]
            if face.form != "round" or face.axis is None or abs(face.radius - worth) > ON / 100:
                continue
            if math.hypot(*cross(face.axis[1], frame.normal)) < SQUARE * math.hypot(*face.axis[1]):
                yield Brought("radius", (face_ref(body.id, body.topology, i),), step.id, place, worth)
                return


def _leaning(
    evaluation: Evaluation, bodies: list[Body], step: Plane, place: str, worth: float, frame: Frame
) -> Iterator[Brought]:
    """Yield the angle of a datum plane: between a face that lies parallel to it and one that is level or
    upright."""
    made = evaluation.site.datums.get(step.id)
    if not made or made[0].frame is None or abs(dot(made[0].frame.normal, frame.normal)) > SQUARE:
        return
    lean = made[0].frame.normal
    for body in bodies:
        faces = body.topology.faces
        along = [
            i for i, f in enumerate(faces) if f.form == "flat" and abs(dot(f.frame.normal, lean)) > 1 - SQUARE
        ]
        for base in (frame.y, frame.x):
            plain_ = [
                i for i, f in enumerate(faces) if f.form == "flat" and dot(f.frame.normal, base) < -1 + SQUARE
            ]
            if not along or not plain_:
                continue
            i = max(along, key=lambda k: faces[k].area)
            j = max(plain_, key=lambda k: faces[k].area)
            refs = (face_ref(body.id, body.topology, j), face_ref(body.id, body.topology, i))
            yield Brought("angle", refs, step.id, place, worth)
    yield Brought("angle", (DatumRef(step=step.id),), step.id, place, worth)


def is_round_at(seen: Drawn, middle: XY, radius: float) -> bool:
    """Tell whether a visible circle or arc of a radius runs round a place; 0 for any radius."""
    return any(
        ln.visible
        and ln.stroke.kind == "arc"
        and math.dist(ln.stroke.centre, middle) < ON
        and (not radius or abs(ln.stroke.radius - radius) < ON)
        for ln in seen.lines
    )


def lies_on(seen: Drawn, at: XY) -> bool:
    """Tell whether a place lies on a visible line of a view, or is the middle of a visible circle or arc."""
    for ln in seen.lines:
        if not ln.visible:
            continue
        s = ln.stroke
        if s.kind == "line":
            (ax, ay), (bx, by) = s.start, s.end
            length = math.hypot(bx - ax, by - ay)
            u, v = (bx - ax) / length, (by - ay) / length
            along, off = (at[0] - ax) * u + (at[1] - ay) * v, (at[0] - ax) * v - (at[1] - ay) * u
            if abs(off) < ON and -ON < along < length + ON:
                return True
        elif s.kind == "arc":
            if math.dist(at, s.centre) < ON:
                return True
            if abs(math.dist(at, s.centre) - s.radius) < ON and any(
                math.dist(at, s.at(i / 64)) < s.radius / 8 for i in range(65)
            ):
                return True
        elif any(math.dist(at, s.at(i / 256)) < 0.05 for i in range(257)):
            return True
    return False
