"""Two parts, or two versions of one, compared: their steps, their ledgers, and their bodies in space."""

from __future__ import annotations

import math
from dataclasses import asdict
from typing import Any

from .. import kernel
from ..errors import StepError
from ..kernel.types import Placement, dot, scaled
from ..quantity import format_quantity
from ..reference.calling import called
from ..route import Evaluation, Part
from ..route.differing import differences, matched
from ..standards import materials
from ..steps import Body
from .scene import Blobs, mesh_of, sketch_entry

__all__ = ["compare", "compare_bodies", "tried_bodies"]

GRAMS = 1e-3  # g/mm³ for a density of 1 g/cm³
MOST_FACES = 60  # faces that are told one by one


def compare(
    before: Part, old: Evaluation, after: Part, new: Evaluation, blobs: Blobs, related: bool
) -> dict[str, Any]:
    """Return what is different in a later part; meshes of what both have, only the earlier one, only the
    later one. related : they are of one origin, so that ids mean the same."""
    found = differences(before, after, related)
    same = matched(before, after, related)
    bodies = [
        _compared(a, b, (before, old), (after, new), blobs)
        for a, b in _pairs(list(old.site.bodies.values()), list(new.site.bodies.values()), same)
    ]
    return {
        "steps": [asdict(s) for s in found.steps],
        "ledger": [asdict(c) for c in found.ledger],
        "values": _values(before, after),
        "part": [asdict(c) for c in found.part],
        "bodies": bodies,
        "sketches": _sketches(before, old, new, same),
    }


def compare_bodies(
    part: Part, evaluation: Evaluation, bodies: tuple[str, str], blobs: Blobs
) -> dict[str, Any]:
    """Return what is different between two bodies of one part, as `compare` does; raises StepError for one
    that is not there."""
    found = [evaluation.site.bodies.get(b) for b in bodies]
    if None in found:
        raise StepError("A body is not there any more. Choose two that are.")
    told = _compared(found[0], found[1], (part, evaluation), (part, evaluation), blobs)
    told["name"] = " and ".join(b.name for b in found if b)
    told["words"] = told["words"] or "are different shapes"
    nothing: list[Any] = []
    return {
        "bodies": [told],
        **dict.fromkeys(("steps", "ledger", "values", "part", "sketches"), nothing),
    }


def tried_bodies(now: Evaluation, tried: Evaluation | None, blobs: Blobs) -> list[dict[str, Any]]:
    """Return the bodies of a part as it is and as it was tried, one beside the other; None where the values
    were refused."""
    old, new = (e.site.bodies if e else {} for e in (now, tried))
    return [
        {
            "id": body,
            "name": (new.get(body) or old[body]).name,
            "now": mesh_of(old[body].shape, blobs) if body in old else None,
            "tried": mesh_of(new[body].shape, blobs) if body in new else None,
            "volumes": [kernel.volume_of(of[body].shape) if body in of else 0.0 for of in (old, new)],
        }
        for body in {**old, **new}
    ]


def _values(before: Part, after: Part) -> list[dict[str, Any]]:
    """Return the tags whose values differ, though perhaps not their formulas."""
    a, b = ({t: o.value for t, o in part.evaluated().items()} for part in (before, after))
    rows = []
    for tag in a | b:
        x, y = a.get(tag), b.get(tag)
        if x is None and y is None:
            continue
        if x is None or y is None or str(x) != str(y):
            rows.append({"tag": tag, "before": _told(before, tag), "after": _told(after, tag)})
    return rows


def _told(part: Part, tag: str) -> str:
    outcome = part.evaluated().get(tag)
    return format_quantity(outcome.value, part.units.units()) if outcome and outcome.value is not None else ""


def _pairs(old: list[Body], new: list[Body], same: dict[str, str]) -> list[tuple[Body | None, Body | None]]:
    """Match bodies: by the steps that began them, else by their names, else the only two that are left."""
    left, pairs = list(new), []
    for a in old:
        step, _, more = a.id.partition(".")
        wanted = same.get(step, "") + (f".{more}" if more else "")
        b = next((x for x in left if x.id == wanted), None)
        b = b or next((x for x in left if x.name == a.name), None)
        if b is not None:
            left.remove(b)
        pairs.append((a, b))
    alone = [i for i, (_, b) in enumerate(pairs) if b is None]
    if len(alone) == len(left) == 1:
        pairs[alone[0]] = (pairs[alone[0]][0], left.pop())
    return [*pairs, *((None, b) for b in left)]


def _compared(
    a: Body | None,
    b: Body | None,
    before: tuple[Part, Evaluation],
    after: tuple[Part, Evaluation],
    blobs: Blobs,
) -> dict[str, Any]:
    body = b or a
    assert body is not None
    volumes = [kernel.volume_of(x.shape) if x else 0.0 for x in (a, b)]
    masses = [
        v * _density(p, x) * GRAMS if x else 0.0
        for v, x, (p, _) in zip(volumes, (a, b), (before, after), strict=True)
    ]
    entry: dict[str, Any] = {
        "id": body.id,
        "name": body.name,
        "state": "changed",
        "words": "",
        "faces": [],
        "within": 0.0,
        "volumes": volumes,
        "masses": masses,
        "shares": [0.0, 0.0, 0.0],
        "common": None,
        "here": None,
        "there": None,
    }
    if a is None or b is None:
        entry["state"] = "removed" if b is None else "added"
        entry["words"] = "is not there any more" if b is None else "is new"
        entry["here" if b is None else "there"] = mesh_of(body.shape, blobs)
        entry["shares"] = [0.0, *volumes]
        return entry
    if a.key == b.key:
        return _same(entry, b, 0.0, blobs)
    within = kernel.same_within(a.shape, b.shape)
    if within < math.inf:
        return _same(entry, b, within, blobs)
    return _different(entry, a, b, blobs)


def _density(part: Part, body: Body) -> float:
    look = part.looks.get(body.id)
    return materials().get(look.material, 0.0) if look else 0.0


def _same(entry: dict[str, Any], b: Body, within: float, blobs: Blobs) -> dict[str, Any]:
    entry |= {"state": "same", "within": within, "common": mesh_of(b.shape, blobs)}
    entry["words"] = f"the same to {within:.0e} mm" if within else "the same"
    entry["shares"] = [entry["volumes"][1], 0.0, 0.0]
    return entry


def _different(entry: dict[str, Any], a: Body, b: Body, blobs: Blobs) -> dict[str, Any]:
    motion = kernel.motion_between(a.shape, b.shape)
    if motion is not None:
        entry["state"] = "mirrored" if motion.mirrors else "moved"
        entry["words"] = "a mirror image" if motion.mirrors else f"the same, {_say(motion)}"
    lonely = kernel.unmatched(a.shape, b.shape)
    entry["faces"] = _faces("here", a, lonely[0]) + _faces("there", b, lonely[1])
    if a.sheet or b.sheet:
        entry["words"] = entry["words"] or "sheets: the faces that differ are told, volumes they have none"
        entry["here"], entry["there"] = mesh_of(a.shape, blobs), mesh_of(b.shape, blobs)
        return entry
    try:
        apart = kernel.apart_from(a.shape, b.shape)
    except StepError as error:
        entry["words"] = f"{entry['words']}{'; ' if entry['words'] else ''}{error.message}"
        entry["here"], entry["there"] = mesh_of(a.shape, blobs), mesh_of(b.shape, blobs)
        return entry
    entry["shares"] = list(apart.volumes)
    if apart.here is None and apart.there is None:
        entry |= {"state": "same", "words": "the same; faces are divided otherwise"}
    for name in ("common", "here", "there"):
        shape = getattr(apart, name)
        entry[name] = mesh_of(shape, blobs) if shape is not None else None
    return entry


def _faces(side: str, body: Body, faces: list[int]) -> list[dict[str, Any]]:
    """Tell faces that the other body has not, the largest first."""
    found = kernel.describe(body.shape)
    words = called(body.name, found, body.sheet).faces
    faces = sorted(faces, key=lambda i: -found.faces[i].area)[:MOST_FACES]
    return [
        {"side": side, "words": words[i], "area": found.faces[i].area, "at": list(found.faces[i].centre)}
        for i in faces
    ]


def _say(motion: Placement) -> str:
    """Say a motion: so far, turned by so much about a direction."""
    rows = motion.turn
    trace = rows[0][0] + rows[1][1] + rows[2][2]
    angle = math.acos(max(-1.0, min(1.0, (trace - 1) / 2)))
    shift = "moved by X {:.4g} Y {:.4g} Z {:.4g}".format(*(x + 0.0 for x in motion.shift))
    if angle < 1e-9:
        return shift
    axis = (rows[2][1] - rows[1][2], rows[0][2] - rows[2][0], rows[1][0] - rows[0][1])
    size = math.sqrt(dot(axis, axis))
    if size < 1e-9:  # by half a turn: the axis is what stays
        columns = [tuple(rows[i][j] + (i == j) for i in range(3)) for j in range(3)]
        axis = max(columns, key=lambda c: dot(c, c))  # type: ignore[arg-type, assignment]
        size = math.sqrt(dot(axis, axis))
    direction = "{:.3g} {:.3g} {:.3g}".format(*scaled(axis, 1 / size))
    return f"turned by {math.degrees(angle):.6g}° about {direction}, then {shift}"


def _sketches(before: Part, old: Evaluation, new: Evaluation, same: dict[str, str]) -> list[dict[str, Any]]:
    """Return the sketches of the earlier part that are drawn otherwise in the later one, or not any more."""
    found = []
    for step, made in old.site.sketches.items():
        other = new.site.sketches.get(same.get(step, ""))
        if other is None or other.drawing != made.drawing or other.frame != made.frame:
            found.append({**sketch_entry(step, before.step(step).name, made), "visible": True})
    return found
