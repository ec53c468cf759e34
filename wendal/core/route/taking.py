"""Taking in from the model: what picked things come to in a sketch's plane, and a sketch as the model puts it
now."""

from __future__ import annotations

from collections.abc import Mapping
from contextlib import suppress
from typing import Any

from ..datum import Stance
from ..errors import StepError, WendalError
from ..reference import FaceRef, edge_ref, find_face
from ..sketch import Drawing, Nth, Traced, carried, fits, nth_of, own_points
from ..steps import Site, SketchMade, Step
from ..steps.datum import DatumStep
from ..steps.sketch import Sketch
from ..steps.tracing import chosen, outlines, pieces_of, traced
from .checks import figures_of
from .document import Part
from .evaluate import Evaluation
from .resolving import Resolver

__all__ = ["follow_model", "settled", "taken_now", "trace_picks", "unsettled"]

Place = tuple[float, float]


def trace_picks(
    part: Part, evaluation: Evaluation, step: str, refs: list[Any], manner: str, near: Place | None
) -> list[dict[str, Any]]:
    """Return what references come to in a sketch's plane, as an edit "take_in" wants it.

    A face is projected edge by edge, a round one with the lines in which it turns away from the eye.

    Raises WendalError where none of them comes into the plane; one of many that does not is left out.
    """
    index = part.index(step)
    site = evaluation.sites[part.steps[index - 1].id if index else ""]
    made = evaluation.sites[step].sketches.get(step)
    if made is None:
        raise StepError("The sketch is not built, so its plane is not known yet. Repair it first.", step=step)
    resolver = Resolver(part, {r.id: r.state for r in evaluation.reports})
    found, refused = [], None
    single = [
        e for r in refs for e in (_edges(r, site) if manner == "project" and isinstance(r, FaceRef) else [r])
    ]
    for ref in single:
        try:
            shape = traced(resolver.take(ref, site)[0], made.frame, manner, near)
        except WendalError as error:
            refused = refused or error
            continue
        found.append(
            {"ref": ref.model_dump(mode="json"), "traced": shape.model_dump(mode="json"), "near": near}
        )
    for ref in refs if manner == "project" else []:
        if isinstance(ref, FaceRef):
            for shape in outlines(resolver.take(ref, site)[0], made.frame):
                (ax, ay), (bx, by) = shape.places
                found.append(
                    {
                        "ref": ref.model_dump(mode="json"),
                        "traced": shape.model_dump(mode="json"),
                        "manner": "outline",
                        "near": ((ax + bx) / 2, (ay + by) / 2),
                    }
                )
    if not found and refused:
        raise refused
    return found


def _edges(ref: FaceRef, site: Site) -> list[Any]:
    """Return references to all edges of a face, those of its holes too, but not the seam at which a round
    face meets itself."""
    face = find_face(ref, {b: body.topology for b, body in site.bodies.items()})
    topology = site.bodies[face.body].topology
    return [
        edge_ref(face.body, topology, i)
        for i, e in enumerate(topology.edges)
        if face.index in e.faces and len(set(e.faces)) > 1
    ]


def taken_now(part: Part, evaluation: Evaluation) -> dict[str, dict[str, Any]]:
    """Return what the model tells its steps, by step: `shapes`, where a sketch's taken entities are now, by
    entity; and `step`, what is kept of how it came out (see `settled`), where that is not kept yet."""
    found: dict[str, dict[str, Any]] = {}
    for step in part.steps:
        told: dict[str, Any] = {}
        if (
            isinstance(step, Sketch)
            and step.drawing.taken
            and (made := evaluation.site.sketches.get(step.id))
        ):
            told["shapes"] = _shapes(made.drawing)
        settled = _settled(step, part, evaluation)
        if settled is not step:
            told |= _kept(settled)
        if told:
            found[step.id] = told
    return found


def settled(part: Part, evaluation: Evaluation) -> Part:
    """Return the part with what its steps came to kept, where there was a choice and it is not kept yet: how
    the axes of planes run, and which pieces of the model were taken in.

    From then on they go on from there whatever moves.
    """
    for step in part.steps:
        after = _settled(step, part, evaluation)
        part = part.with_step(after) if after is not step else part
    return part


def unsettled(part: Part) -> bool:
    """Tell whether something is left to the first evaluation that `settled` would keep."""
    return any(
        (isinstance(s, DatumStep | Sketch) and s.axes_chosen and not _stances(s))
        or (
            isinstance(s, Sketch)
            and any(t.answer is None and t.manner != "project" for t in s.drawing.taken.values())
        )
        for s in part.steps
    )


def _stances(step: DatumStep | Sketch) -> list[Stance]:
    return step.stances if isinstance(step, DatumStep) else [step.stance] if step.stance else []


def _settled(step: Step, part: Part, evaluation: Evaluation) -> Step:
    if isinstance(step, DatumStep):
        made = evaluation.site.datums.get(step.id)
        return step.settled(made) if made else step
    if isinstance(step, Sketch) and evaluation.report(step.id).state in ("built", "held"):
        sketch = evaluation.site.sketches.get(step.id)
        if sketch and (step.stance is None or any(t.answer is None for t in step.drawing.taken.values())):
            return step.settled(sketch, _answers(step, sketch, part, evaluation))
    return step


def _answers(step: Sketch, made: SketchMade, part: Part, evaluation: Evaluation) -> dict[str, Nth]:
    """Return which pieces the taken entities of a sketch are, by entity, where they are not kept yet."""
    index = part.index(step.id)
    site = evaluation.sites[part.steps[index - 1].id if index else ""]
    resolver = Resolver(part, {r.id: r.state for r in evaluation.reports})
    found: dict[str, Nth] = {}
    for entity, taken in step.drawing.taken.items():
        if taken.answer is None and taken.manner != "project":
            with suppress(WendalError):  # it is told as lost
                pieces = pieces_of(resolver.take(taken.ref, site)[0], made.frame, taken.manner, taken.near)
                nth = nth_of(pieces, chosen(pieces, taken.near, None) or 0)
                if nth is not None:
                    found[entity] = nth
    return found


def _kept(step: Step) -> dict[str, Any]:
    """Return what is kept of how a step came out, as data."""
    if isinstance(step, DatumStep):
        return {"stances": [s.model_dump(mode="json") for s in step.stances]}
    assert isinstance(step, Sketch)
    answers = {e: t.answer.model_dump(mode="json") for e, t in step.drawing.taken.items() if t.answer}
    return {"stance": step.stance and step.stance.model_dump(mode="json"), "answers": answers}


def _shapes(d: Drawing) -> dict[str, Any]:
    """Return a drawing's taken entities as they are traced, by entity."""
    shapes = {}
    for entity in d.taken:
        if entity in d.points:
            shapes[entity] = Traced(kind="point", places=[d.points[entity]])
        else:
            curve = d.curves[entity]
            places = [d.place(p) for p in own_points(curve)]
            shapes[entity] = Traced(
                kind=curve.kind,
                places=places,
                radius=getattr(curve, "radius", 0.0),
                knots=getattr(curve, "knots", []),
            )
    return {e: s.model_dump(mode="json") for e, s in shapes.items()}


def follow_model(part: Part, taken: Mapping[str, Mapping[str, Any]]) -> Part:
    """Return the part with its sketches' taken geometry where `taken_now` says, and what it tells kept; a
    sketch that can not follow stays as stored."""
    for step in part.steps:
        told = taken.get(step.id)
        if told and (after := _with_told(step, told)) is not step:
            part = part.with_step(after)
            step = after
        if not told or not isinstance(step, Sketch):
            continue
        now = told.get("shapes", {})
        shapes = {e: Traced.model_validate(s) for e, s in now.items() if e in step.drawing.taken}
        shapes = {e: s for e, s in shapes.items() if fits(step.drawing, e, s)}
        try:
            drawing = carried(step.drawing, shapes, figures_of(part).values(step.drawing)).drawing
        except WendalError:
            continue
        if drawing != step.drawing:
            part = part.with_step(step.model_copy(update={"drawing": drawing}))
    return part


def _with_told(step: Step, told: Mapping[str, Any]) -> Step:
    """Return a step with what `taken_now` told of it kept, where it has none yet."""
    if isinstance(step, DatumStep) and not step.stances and step.axes_chosen and told.get("stances"):
        return step.model_copy(update={"stances": [Stance.model_validate(s) for s in told["stances"]]})
    if not isinstance(step, Sketch):
        return step
    if told.get("stance") and step.stance is None and step.axes_chosen:
        step = step.model_copy(update={"stance": Stance.model_validate(told["stance"])})
    answers = told.get("answers", {})
    taken = {
        e: t.model_copy(update={"answer": Nth.model_validate(answers[e])})
        if t.answer is None and e in answers
        else t
        for e, t in step.drawing.taken.items()
    }
    if taken == step.drawing.taken:
        return step
    return step.model_copy(update={"drawing": step.drawing.model_copy(update={"taken": taken})})
