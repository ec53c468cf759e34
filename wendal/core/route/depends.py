"""Which steps a step stands on, read from its references."""

from __future__ import annotations

from collections.abc import Collection, Iterator

from pydantic import BaseModel

from ..reference import (
    BodyRef,
    DatumRef,
    DrawnRef,
    EdgeRef,
    FaceRef,
    RegionRef,
    SketchRef,
    SpotRef,
    StepRef,
    VertexRef,
    body_step,
    steps_of,
)
from ..steps import Step
from .document import Part

__all__ = ["references", "standing_on", "stands_on"]


def references(step: Step) -> Iterator[tuple[str, BaseModel]]:
    """Yield (field, reference) for every reference of a step."""
    for name in type(step).model_fields:
        held = getattr(step, name)
        for item in held if isinstance(held, list) else [held]:
            if isinstance(item, BaseModel) and hasattr(item, "of"):
                yield name, item
    for entity, ref in step.takings():
        yield f"taken:{entity}", ref


def stands_on(step: Step) -> set[str]:
    """Return the ids of the steps whose results a step refers to."""
    found: set[str] = set()
    for _, held in references(step):
        ref = held.edge if isinstance(held, SpotRef) else held
        if isinstance(ref, DatumRef | SketchRef | RegionRef | DrawnRef | StepRef):
            found.add(ref.step)
        elif isinstance(ref, FaceRef):
            found |= {s for n in ref.names for s in steps_of(n)} | {body_step(ref.body)}
        elif isinstance(ref, EdgeRef | VertexRef):
            found |= {s for names in ref.faces for n in names for s in steps_of(n)} | {body_step(ref.body)}
        elif isinstance(ref, BodyRef):
            found.add(body_step(ref.body))
    return found - {step.id}


def standing_on(part: Part, steps: Collection[str]) -> list[str]:
    """Return the steps that stand on some steps, straight or through others, in the order of the route."""
    reached = set(steps)
    for step in part.steps:
        if stands_on(step) & reached:
            reached.add(step.id)
    return [s.id for s in part.steps if s.id in reached and s.id not in steps]
