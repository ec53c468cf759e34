"""Taking in from the model: what picked things come to in a sketch's plane, and a sketch as the model puts it
now."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from ..errors import StepError, WendalError
from ..reference import FaceRef, edge_ref, find_face
from ..sketch import Traced, carried, fits, own_points
from ..steps import Site
from ..steps.sketch import Sketch
from ..steps.tracing import outlines, traced
from .checks import figures_of
from .document import Part
from .evaluate import Evaluation
from .resolving import Resolver

__all__ = ["follow_model", "taken_now", "trace_picks"]

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
    """Return, for every sketch that takes in, where its taken entities are now: shapes by entity, by step."""
    found: dict[str, dict[str, Any]] = {}
    for step in part.steps:
        made = (
            evaluation.site.sketches.get(step.id) if isinstance(step, Sketch) and step.drawing.taken else None
        )
        if made is None:
            continue
        d = made.drawing
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
        found[step.id] = {e: s.model_dump(mode="json") for e, s in shapes.items()}
    return found


def follow_model(part: Part, taken: Mapping[str, Mapping[str, Any]]) -> Part:
    """Return the part with its sketches' taken geometry where `taken_now` says; a sketch that can not follow
    stays as stored."""
    for step in part.steps:
        if step.id not in taken or not isinstance(step, Sketch):
            continue
        shapes = {e: Traced.model_validate(s) for e, s in taken[step.id].items() if e in step.drawing.taken}
        shapes = {e: s for e, s in shapes.items() if fits(step.drawing, e, s)}
        try:
            drawing = carried(step.drawing, shapes, figures_of(part).values(step.drawing)).drawing
        except WendalError:
            continue
        if drawing != step.drawing:
            part = part.with_step(step.model_copy(update={"drawing": drawing}))
    return part
