"""Picked faces and edges, sorted by the bodies that they are of."""

from __future__ import annotations

from typing import Literal

from ..datum import Picked
from ..errors import StepError
from ..kernel.types import said_at
from .base import Body, Site

__all__ = ["by_body", "near"]


def by_body(
    picks: list[Picked], site: Site, kind: Literal["face", "edge"] = "face"
) -> list[tuple[Body, list[int]]]:
    """Return the bodies of picked faces or edges, each with these by index; raises StepError where there is
    none."""
    held = [(p.solid if kind == "face" else p.edge) for p in picks]
    found = [
        (b, list(dict.fromkeys(h[1] for h in held if h and h[0] is b.shape))) for b in site.bodies.values()
    ]
    found = [(b, own) for b, own in found if own]
    if not found:
        raise StepError(
            f"None of these is {'a face' if kind == 'face' else 'an edge'} of a body any more. Pick others.",
            field=f"{kind}s",
        )
    return found


def near(body: Body, face: int) -> str:
    """Say where a face is."""
    return said_at(body.topology.faces[face].centre)
