"""What can be done with some things of a sketch, told by their kinds: constraints that bind them, tools that
work on them."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence

from ..constraints import all_rules, kinds_of

__all__ = ["constraints_for", "tools_for"]

CURVES = {"line", "circle", "arc", "ellipse", "ellipse_arc", "spline"}
ENDED = {"line", "arc", "ellipse_arc", "spline"}


def constraints_for(kinds: Sequence[str]) -> list[str]:
    """Return the constraint kinds that bind just these things: a dimension first ("dimension" for all of
    them), then the rest, fixing last."""
    fitting = [r for r in all_rules() if r.key and any(_fits(pattern, kinds) for pattern in r.takes)]
    return [
        *(["dimension"] if any(r.quantity for r in fitting) else []),
        *sorted((r.kind for r in fitting if not r.quantity), key="fixed".__eq__),
    ]


def _fits(pattern: Sequence[str], kinds: Sequence[str]) -> bool:
    rest = list(kinds)
    for wanted in pattern:
        hit = next((s for s in rest if s in kinds_of(wanted)), None)
        if hit is None:
            return False
        rest.remove(hit)
    return not rest


def tools_for(kinds: Sequence[str]) -> list[str]:
    """Return the tools that work on just these things; nothing where one is of no kind."""
    if not kinds or not all(kinds):
        return []
    count = Counter(kinds)
    found = []
    if set(count) == {"point"} or (len(kinds) == 2 and set(count) <= ENDED):
        found += ["round", "chamfer"]
    if set(count) <= CURVES:
        found.append("offset")
    if set(count) & (CURVES | {"text"}):
        found += ["mirror", "repeat"]
    if len(kinds) == 1 and kinds[0] in CURVES:
        found.append("text")
    return found
