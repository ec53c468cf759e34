"""Adding and taking away, many tools in one operation, names carried through."""

from __future__ import annotations

from typing import Any, Literal

from OCP.BRepAlgoAPI import BRepAlgoAPI_Common, BRepAlgoAPI_Cut, BRepAlgoAPI_Fuse

from ..errors import StepError
from ..tally import fell_back
from .joining import local_boolean
from .keeping_whole import unharming
from .merging import merge_flush, merged
from .named import NamedShape, carry
from .shapes import shape_list, solids_of

__all__ = ["by_kernel", "common", "cut", "fuse"]

_OPERATIONS: dict[str, tuple[Any, str]] = {
    "fuse": (BRepAlgoAPI_Fuse, "joined"),
    "cut": (BRepAlgoAPI_Cut, "cut"),
    "common": (BRepAlgoAPI_Common, "intersected"),
}


def fuse(bodies: list[NamedShape]) -> NamedShape:
    """Join bodies into one and merge flush faces; raises StepError when the kernel fails."""
    if len(bodies) == 1:
        return merge_flush(bodies[0])
    near = local_boolean("fuse", bodies[0], bodies[1:])
    return merge_flush(near) if near else by_kernel("fuse", bodies[:1], bodies[1:])


def cut(body: NamedShape | list[NamedShape], tools: list[NamedShape], *, merge: bool = True) -> NamedShape:
    """Take tools away from a body (or from several at once) in one operation; an empty result is one without
    solids."""
    near = (
        local_boolean("cut", body, tools)
        if isinstance(body, NamedShape)
        else local_boolean("rest", tools[0], body)
        if len(tools) == 1
        else None
    )
    if near:
        return merge_flush(near) if merge and solids_of(near.shape) else near
    return by_kernel("cut", body if isinstance(body, list) else [body], tools, merge=merge)


def common(body: NamedShape | list[NamedShape], tools: list[NamedShape], *, merge: bool = True) -> NamedShape:
    """Keep what a body (or several) shares with tools; an empty result is one without solids."""
    whole = body if isinstance(body, NamedShape) else body[0] if len(body) == 1 else None
    near = local_boolean("common", whole, tools) if whole else None
    if near:
        return merge_flush(near) if merge and solids_of(near.shape) else near
    return by_kernel("common", body if isinstance(body, list) else [body], tools, merge=merge)


def by_kernel(
    way: Literal["fuse", "cut", "common"],
    arguments: list[NamedShape],
    tools: list[NamedShape],
    *,
    merge: bool = True,
) -> NamedShape:
    """Do one operation by the kernel's own means, on all of the shapes; raises StepError when it fails.

    Where faces that lie in one surface do not merge soundly, joining in the other order often helps: the
    kernel then takes the other body's surfaces and seams.
    """
    result = _operated(way, arguments, tools)
    if not merge or not solids_of(result.shape):
        return result
    made = merged(result)
    if made is not None:
        return made
    made = merged(_operated(way, tools, arguments)) if way == "fuse" else None
    if made is None:
        fell_back("merging", "not the same solid")
        return result
    fell_back("joining", "in the other order")
    return made


def _operated(way: str, arguments: list[NamedShape], tools: list[NamedShape]) -> NamedShape:
    make, verb = _OPERATIONS[way]
    operation = unharming(make())
    operation.SetArguments(shape_list(a.shape for a in arguments))
    operation.SetTools(shape_list(t.shape for t in tools))
    operation.Build()
    if not operation.IsDone() or operation.Shape().IsNull():
        raise StepError(
            f"The kernel could not make this: the bodies could not be {verb}. A slightly different depth or "
            "outline often helps where faces nearly touch."
        )
    return carry(operation, [*arguments, *tools], operation.Shape())
