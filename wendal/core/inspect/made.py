"""What made a face or an edge: steps, the line of a sketch, the dimensions of both, and what stands on it."""

from __future__ import annotations

import re
from typing import Literal

from ..errors import CommandRefused
from ..quantity import format_quantity
from ..reference import EdgeRef, FaceRef, SpotRef, ThingRef, VertexRef
from ..reference.names import FaceName, own_names
from ..route import Evaluation, Part, references, standing_on
from ..sketch.explaining import name_of
from ..steps import Step
from ..steps.sketch import Sketch
from .questions import Answer, Request, question

__all__ = ["MadeBy", "WhatMade"]

_CURVE = re.compile(r"^[ct][0-9]+$")


class WhatMade(Request):
    """Ask what made a face, an edge or a corner."""

    of: Literal["made"] = "made"
    thing: ThingRef


class Maker(Answer):
    """A step that has a part in it. line : the curve of its sketch, in words; entity, its id there."""

    step: str
    name: str
    role: str
    line: str = ""
    entity: str = ""


class MovingNumber(Answer):
    """A number that is in it: of the step itself, of the line, or of elsewhere in its sketch."""

    tag: str
    formula: str
    shown: str
    step: str
    place: str
    of: Literal["step", "line", "sketch"]


class StandingStep(Answer):
    """A step that stands on it: straight, or through others."""

    step: str
    name: str
    straight: bool


class MadeBy(Answer):
    """The makers, one each face that meets in the thing and its copies; dimensions; what stands on it."""

    of: Literal["made"] = "made"
    makers: list[Maker]
    numbers: list[MovingNumber]
    standing: list[StandingStep]


def _names(thing: ThingRef) -> list[list[str]]:
    """Return the names of the faces that a thing is made of, face by face."""
    held = thing.edge if isinstance(thing, SpotRef) else thing
    if isinstance(held, FaceRef):
        return [held.names]
    if isinstance(held, EdgeRef | VertexRef):
        return held.faces
    raise CommandRefused("Pick a face, an edge or a corner to see what made it.", field="thing")


@question(WhatMade, MadeBy)
def made(part: Part, evaluation: Evaluation, request: WhatMade) -> MadeBy:
    """Tell what made a thing; raises CommandRefused for what no step made."""
    faces = _names(request.thing)
    makers: dict[tuple[str, str], Maker] = {}
    numbers: dict[str, MovingNumber] = {}
    for names in faces:
        name = FaceName.read(min(own_names(names), key=len))
        for step, role in ((name.step, name.role), *((s, "copy") for s, _ in name.instances)):
            held = next((s for s in part.steps if s.id == step), None)
            if held is None:
                continue
            sketch = _sketch_of(part, held, name.profile) if role != "copy" else None
            curve = name.source if sketch is not None and _CURVE.match(name.source) else ""
            curve = curve if sketch is not None and curve in sketch.drawing.curves else ""
            line = f"{name_of(sketch.drawing, curve)} of {sketch.name}" if sketch and curve else ""
            makers.setdefault(
                (step, curve), Maker(step=step, name=held.name, role=role, line=line, entity=curve)
            )
            for number in _numbers(part, held, sketch, curve):
                numbers.setdefault(number.tag, number)
    if not makers:
        raise CommandRefused("The steps that made this are not in the route any more.", field="thing")
    return MadeBy(
        makers=list(makers.values()), numbers=list(numbers.values()), standing=_standing(part, faces)
    )


def _sketch_of(part: Part, step: Step, profile: str) -> Sketch | None:
    """Return the sketch whose region (by its key in the step) a face was made from."""
    refs = [r for f, r in references(step) if f in ("profile", "lines", "path")]
    wanted = [r for r in refs if getattr(r, "key", "") == profile] or refs
    ids = [s for r in wanted if (s := getattr(r, "step", ""))]
    found = next((s for s in part.steps if ids and s.id == ids[0]), None)
    return found if isinstance(found, Sketch) else None


def _numbers(part: Part, step: Step, sketch: Sketch | None, curve: str) -> list[MovingNumber]:
    rows = {(r.step, r.place): r for r in part.rows()}
    values = part.evaluated()

    def number(of: str, owner: str, place: str) -> MovingNumber | None:
        row = rows.get((owner, place))
        if row is None:
            return None
        value = values[row.tag].value
        return MovingNumber(
            tag=row.tag,
            formula=row.formula,
            shown=format_quantity(value, part.units.units()) if value is not None else "",
            step=owner,
            place=place,
            of=of,
        )

    found = [number("step", step.id, place) for place, _, _ in step.values()]
    if sketch is not None:
        near = _touching(sketch, curve)
        places = [place for place, _, _ in sketch.values()]
        found += [number("line", sketch.id, p) for p in places if p in near]
        found += [number("sketch", sketch.id, p) for p in places if p not in near]
    return [n for n in found if n is not None]


def _touching(sketch: Sketch, curve: str) -> set[str]:
    """Return the constraints on a curve and on its points."""
    if not curve:
        return set()
    drawing = sketch.drawing
    held = drawing.curves[curve].model_dump(mode="json")
    of = {curve, *(v for v in held.values() if isinstance(v, str) and v in drawing.points)}
    return {
        k
        for k, c in drawing.constraints.items()
        if of
        & {
            v
            for x in c.model_dump(mode="json").values()
            for v in (x if isinstance(x, list) else [x])
            if isinstance(v, str)
        }
    }


def _standing(part: Part, faces: list[list[str]]) -> list[StandingStep]:
    wanted = [frozenset(own_names(names)) for names in faces]

    def means(held: object) -> bool:
        ref = held.edge if isinstance(held, SpotRef) else held
        groups = (
            [ref.names]
            if isinstance(ref, FaceRef)
            else ref.faces
            if isinstance(ref, EdgeRef | VertexRef)
            else []
        )
        here = [set(g) for g in groups]
        return (
            all(any(w & g for g in here) for w in wanted)
            if len(wanted) > 1
            else any(wanted[0] & g for g in here)
        )

    straight = [s.id for s in part.steps if any(means(r) for _, r in references(s))]
    further = standing_on(part, straight)
    name = {s.id: s.name for s in part.steps}
    return [StandingStep(step=s, name=name[s], straight=True) for s in straight] + [
        StandingStep(step=s, name=name[s], straight=False) for s in further
    ]
