"""Two sides drew in one sketch: what each of them drew has ids of its own, so that both can stand in it."""

from __future__ import annotations

import re
from typing import Any

from ..steps.sketch import Sketch
from .depends import standing_on
from .document import Part, read_step

__all__ = ["drawn_apart", "ids_of"]

HELD = ("points", "curves", "constraints", "texts")
WRITTEN = ("formula", "tag", "text")  # by the designer: never an id
ID = re.compile(r"([a-z]+)(\d+)")


def ids_of(drawing: dict[str, Any]) -> set[str]:
    """Return the ids of all that a drawing, as data, holds."""
    return {k for name in HELD for k in drawing[name]}


def drawn_apart(base: Part, ours: Part, theirs: Part) -> Part:
    """Return their part, with other ids for what they drew in sketches in which ours drew as well.

    Where they have built on what they drew it keeps its ids, for what is built goes by them.
    """
    was, mine = ({s.id: s for s in p.steps if isinstance(s, Sketch)} for p in (base, ours))
    for step in theirs.steps:
        if not isinstance(step, Sketch) or step.id not in was or step.id not in mine:
            continue
        a, b, c = (s.drawing.model_dump(mode="json") for s in (was[step.id], mine[step.id], step))
        fresh = ids_of(c) - ids_of(a)
        if not fresh & (ids_of(b) - ids_of(a)) or fresh & _told(theirs, step.id):
            continue
        further = b["last"] - a["last"]
        others = {i: _further(i, further) for i in fresh}
        drawing = {**_renamed(c, others), "last": c["last"] + further}
        data = {**step.model_dump(mode="json"), "drawing": drawing}
        theirs = theirs.with_step(read_step(data))
    return theirs


def _further(id_: str, by: int) -> str:
    found = ID.fullmatch(id_)
    return f"{found[1]}{int(found[2]) + by}" if found else f"{id_}{by}"


def _told(part: Part, sketch: str) -> set[str]:
    """Return all that could be an id in the steps that stand on a sketch."""
    steps = (part.step(s) for s in standing_on(part, [sketch]))
    return {m[0] for s in steps for m in ID.finditer(s.model_dump_json())}


def _renamed(data: Any, others: dict[str, str]) -> Any:
    if isinstance(data, str):
        return others.get(data, data)
    if isinstance(data, dict):
        return {others.get(k, k): v if k in WRITTEN else _renamed(v, others) for k, v in data.items()}
    return [_renamed(v, others) for v in data] if isinstance(data, list) else data
