"""Many motions told in few lines: those of one kind together, and no two that read alike."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Protocol, TypeVar

from ...tolerance import TOLD_AS_ONE
from ..drawn import Arc, Circle, Drawing, Oval
from .shapes_of import curves_at

__all__ = ["MANY", "Group", "grouped", "told_apart"]

MANY = 12  # motions above which they are told in groups
KINDS = {
    "circle": "circles",
    "arc": "arcs",
    "line": "lines",
    "ellipse": "ellipses",
    "ellipse_arc": "elliptical arcs",
    "spline": "splines",
    "shape": "shapes",
    "centre": "centres",
    "end": "ends of curves",
    "on": "points that shape a curve",
    "point": "points",
}
XY = tuple[float, float]


class Motion(Protocol):
    """What of a motion counts: its words, how each point moves, and each radius grows."""

    @property
    def words(self) -> str: ...
    @property
    def moves(self) -> dict[str, XY]: ...
    @property
    def grows(self) -> dict[str, float]: ...


Told = TypeVar("Told", bound=Motion)


@dataclass(frozen=True, slots=True)
class Group:
    """Motions of one kind: "24 circles can grow or shrink"; of : which, by their numbers."""

    words: str
    of: list[int]


def grouped(drawing: Drawing, motions: Sequence[Motion]) -> list[Group]:
    """Return the motions in groups, the largest first; none where there are few of them."""
    if len(motions) <= MANY:
        return []
    found: dict[tuple[str, str], list[int]] = {}
    for i, motion in enumerate(motions):
        found.setdefault(_kind(drawing, motion), []).append(i)
    ranked = sorted(found.items(), key=lambda group: -len(group[1]))
    return [
        Group(motions[of[0]].words if len(of) == 1 else f"{len(of)} {KINDS[kind]} can {way}", of)
        for (kind, way), of in ranked
    ]


def told_apart(drawing: Drawing, motions: list[Told]) -> list[Told]:
    """Return motions with the place added to those that read alike, and a number to what is still alike."""
    alike = Counter(m.words for m in motions)
    said = [f"{m.words}, at {_place(drawing, m)}" if alike[m.words] > 1 else m.words for m in motions]
    alike, seen = Counter(said), Counter[str]()
    found = []
    for motion, words in zip(motions, said, strict=True):
        seen[words] += 1
        found.append(replace(motion, words=f"{words} ({seen[words]})" if alike[words] > 1 else words))  # type: ignore[type-var]
    return found


def _kind(drawing: Drawing, motion: Motion) -> tuple[str, str]:
    """Return what moves, and how."""
    if motion.grows:
        largest = max(motion.grows, key=lambda c: abs(motion.grows[c]))
        return drawing.curves[largest].kind, "grow or shrink"
    steps = list(motion.moves.values())
    (dx, dy), as_one = (
        steps[0],
        all(abs(x - steps[0][0]) + abs(y - steps[0][1]) < TOLD_AS_ONE for x, y in steps),
    )
    way = (
        (
            "slide along X"
            if abs(dy) < TOLD_AS_ONE
            else "slide along Y"
            if abs(dx) < TOLD_AS_ONE
            else "slide aslant"
        )
        if as_one
        else "turn or change shape"
    )
    places, at = {drawing.place(p) for p in motion.moves}, curves_at(drawing)
    touched = dict.fromkeys(c for p in motion.moves for c in at.get(p, ())) if len(places) > 1 else {}
    curves = [c for c in touched if set(drawing.curves[c].points) <= motion.moves.keys()]
    if len(curves) == 1:
        return drawing.curves[curves[0]].kind, way
    if len(places) > 1:
        return "shape", way
    owner = next((drawing.curves[at[p][0]] for p in motion.moves if p in at), None)
    point = next(iter(motion.moves))
    if owner is None:
        return "point", way
    if isinstance(owner, Circle | Arc | Oval) and owner.centre == point:
        return "centre", way
    return ("end" if point in (owner.ends or ()) else "on"), way


def _place(drawing: Drawing, motion: Motion) -> str:
    """Say where a motion is: the middle of what moves, or of what grows."""
    points = list(motion.moves) or [p for c in motion.grows for p in drawing.curves[c].points]
    places = [drawing.place(p) for p in points]
    x, y = (sum(p[i] for p in places) / len(places) for i in (0, 1))
    return f"{x:.1f}, {y:.1f}".replace("-0.0", "0.0")
