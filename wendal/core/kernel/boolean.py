"""Adding and taking away, many tools in one operation, names carried through."""

from __future__ import annotations

from typing import Any

from OCP.BRepAlgoAPI import BRepAlgoAPI_Common, BRepAlgoAPI_Cut, BRepAlgoAPI_Fuse

from ..errors import StepError
from .named import NamedShape, carry, merge_flush
from .shapes import shape_list, solids_of

__all__ = ["common", "cut", "fuse"]


def fuse(bodies: list[NamedShape]) -> NamedShape:
    """Join bodies into one and merge flush faces; raises StepError when the kernel fails."""
    if len(bodies) == 1:
        return merge_flush(bodies[0])
    return _run(BRepAlgoAPI_Fuse(), [bodies[0]], bodies[1:], "joined")


def cut(body: NamedShape | list[NamedShape], tools: list[NamedShape], *, merge: bool = True) -> NamedShape:
    """Take tools away from a body (or from several at once) in one operation; an empty result is one without solids."""
    return _run(BRepAlgoAPI_Cut(), body if isinstance(body, list) else [body], tools, "cut", merge)


def common(body: NamedShape | list[NamedShape], tools: list[NamedShape], *, merge: bool = True) -> NamedShape:
    """Keep what a body (or several) shares with tools; an empty result is one without solids."""
    return _run(BRepAlgoAPI_Common(), body if isinstance(body, list) else [body], tools, "intersected", merge)


def _run(operation: Any, arguments: list[NamedShape], tools: list[NamedShape], verb: str, merge: bool = True) -> NamedShape:
    operation.SetArguments(shape_list(a.shape for a in arguments))
    operation.SetTools(shape_list(t.shape for t in tools))
    operation.Build()
    if not operation.IsDone() or operation.Shape().IsNull():
        raise StepError(f"The kernel could not make this: the bodies could not be {verb}. A slightly different depth or "
                        "outline often helps where faces nearly touch.")
    result = carry(operation, [*arguments, *tools], operation.Shape())
    return merge_flush(result) if merge and solids_of(result.shape) else result
