"""What a change would do, told before it is made."""

from __future__ import annotations

from typing import Any

from .. import kernel
from ..route import Evaluation, Part

__all__ = ["foresee"]


def foresee(before: Part, old: Evaluation, after: Part, new: Evaluation) -> dict[str, Any]:
    """Return the steps that a change reaches and how they would stand, and the bodies whose volume (mm³)
    would change."""
    known = {r.id: r for r in old.reports}
    steps = [
        {"id": s.id, "name": s.name, "number": after.number(s.id), "state": r.state, "message": r.message}
        for s, r in zip(after.steps, new.reports, strict=True)
        if s.id not in known or (known[s.id].key, known[s.id].state) != (r.key, r.state)
    ]
    bodies = []
    for body in dict.fromkeys([*old.site.bodies, *new.site.bodies]):
        was, will = old.site.bodies.get(body), new.site.bodies.get(body)
        if was is not None and will is not None and was.key == will.key:
            continue
        volumes = [None if b is None else kernel.volume_of(b.shape) for b in (was, will)]
        bodies.append({"name": (will or was).name, "before": volumes[0], "after": volumes[1]})  # type: ignore[union-attr]
    return {"steps": steps, "bodies": bodies}
