"""What is written of a part, said in words: "top of Base", "section at XY + 5", "view from above", a sketch's
or a body's name."""

from __future__ import annotations

import re
from typing import Any

from ..datum.planes import BASE_PLANES
from ..errors import CommandRefused
from ..kernel.types import Vec, dot
from ..reference import face_ref
from ..route import Evaluation, Part
from ..steps.sketch import Sketch

__all__ = ["SIDES", "in_words"]

SIDES: dict[str, Vec] = {
    "top": (0, 0, 1),
    "bottom": (0, 0, -1),
    "front": (0, -1, 0),
    "back": (0, 1, 0),
    "left": (-1, 0, 0),
    "right": (1, 0, 0),
}
WHENCE = {"above": "top", "below": "bottom"} | {s: s for s in SIDES}
LEVEL, SAME = 1e-9, 1e-6  # of a cosine: it looks that way; mm, and of an area: as far, as large
SAYS = (
    "Say “part”, “table”, “drawing”, a sketch's or a body's name, “top of BODY” (or bottom, front, back, "
    "left, right), “view from above” (or below, front, back, left, right), “view at PLANE”, “section at "
    "PLANE” or “section at PLANE + 5”."
)


def in_words(part: Part, evaluation: Evaluation, words: str) -> dict[str, Any]:
    """Return what is meant, as `Subject` has it; raises CommandRefused where nothing, or more than one thing,
    is called so."""
    said = " ".join(words.split())
    if said in ("part", "table", "drawing"):
        return {"of": said}
    if (found := re.fullmatch(r"(\w+) of (.+)", said)) and found[1] in SIDES:
        return _side(evaluation, found[1], found[2])
    if (found := re.fullmatch(r"view from (?:the )?(\w+)", said)) and found[1] in WHENCE:
        return {"of": "view", "way": WHENCE[found[1]]}
    if found := re.fullmatch(r"section at (.+?)(?: ([+-]) ?(\d+(?:\.\d+)?))?", said):
        off = float(f"{found[2]}{found[3]}") if found[2] else 0.0
        return {"of": "section", "thing": _plane(part, evaluation, found[1]), "off": off}
    if found := re.fullmatch(r"view at (.+)", said):
        return {"of": "view", "thing": _plane(part, evaluation, found[1])}
    steps = [s for s in part.steps if s.name == said and isinstance(s, Sketch)]
    bodies = [b.id for b in evaluation.site.bodies.values() if b.name == said]
    if len(steps) + len(bodies) > 1:
        raise CommandRefused(f"“{said}” is the name of a sketch and of a body.", field="of")
    if steps:
        return {"of": "sketch", "step": steps[0].id}
    if bodies:
        return {"of": "bodies", "bodies": bodies}
    raise CommandRefused(f"Nothing here is called “{said}”. {SAYS}", field="of")


def _side(evaluation: Evaluation, side: str, name: str) -> dict[str, Any]:
    """Return the flat face of a body that lies farthest out on a side."""
    body = next((b for b in evaluation.site.bodies.values() if b.name == name), None)
    if body is None:
        names = ", ".join(b.name for b in evaluation.site.bodies.values()) or "none"
        raise CommandRefused(f"There is no body “{name}”; there are: {names}.", field="of")
    way = SIDES[side]
    rows = [
        (dot(f.frame.origin, way), f.area, i)
        for i, f in enumerate(body.topology.faces)
        if f.form == "flat" and dot(f.frame.normal, way) > 1 - LEVEL
    ]
    if not rows:
        raise CommandRefused(f"{name} has no flat face at its {side}.", field="of")
    far = max(r[0] for r in rows)
    outer = sorted((r for r in rows if r[0] > far - SAME), key=lambda r: -r[1])
    if len(outer) > 1 and outer[1][1] > outer[0][1] * (1 - SAME):
        raise CommandRefused(f"{name} has {len(outer)} faces at its {side} that are as far out.", field="of")
    thing = face_ref(body.id, body.topology, outer[0][2]).model_dump(mode="json")
    return {"of": "face", "thing": thing}


def _plane(part: Part, evaluation: Evaluation, name: str) -> dict[str, Any]:
    if name in BASE_PLANES:
        return {"of": "base", "name": name}
    for step in part.steps:
        made = evaluation.site.datums.get(step.id, [])
        if step.name == name and any(d.kind == "plane" for d in made):
            return {
                "of": "datum",
                "step": step.id,
                "index": next(i for i, d in enumerate(made) if d.kind == "plane"),
            }
    raise CommandRefused(f"There is no plane “{name}” that is built. {SAYS}", field="of")
