"""What a change would do, told before it is made."""

from __future__ import annotations

from typing import Any

from .. import kernel
from ..route import Evaluation, Part
from ..standards import materials
from ..steps import Body

__all__ = ["foresee"]

GRAMS = 1e-3  # g/mm³ for a density of 1 g/cm³


def foresee(before: Part, old: Evaluation, after: Part, new: Evaluation) -> dict[str, Any]:
    """Return the steps that a change reaches and how they would stand, and the bodies whose volume (mm³)
    would change."""
    known = {r.id: r for r in old.reports}
    steps = [
        {
            "id": s.id,
            "name": s.name,
            "number": after.number(s.id),
            "state": r.state,
            "message": r.message,
            "was": known[s.id].state if s.id in known else "",
            "lost": [x.said for x in r.references if x.state == "lost"],
        }
        for s, r in zip(after.steps, new.reports, strict=True)
        if s.id not in known or (known[s.id].key, known[s.id].state) != (r.key, r.state)
    ]
    bodies = []
    for body in dict.fromkeys([*old.site.bodies, *new.site.bodies]):
        was, will = old.site.bodies.get(body), new.site.bodies.get(body)
        if was is not None and will is not None and was.key == will.key:
            continue
        name = (will or was).name  # type: ignore[union-attr]
        (v0, m0), (v1, m1) = _figures(before, was), _figures(after, will)
        bodies.append({"name": name, "before": v0, "after": v1, "was": m0, "will": m1})
    return {"steps": steps, "bodies": bodies}


def _figures(part: Part, body: Body | None) -> tuple[float | None, dict[str, Any] | None]:
    """Return a body's volume (mm³), and its mass (g, 0 without a material), centre and box (mm)."""
    if body is None:
        return None, None
    found, look = kernel.mass_of(body.shape), part.looks.get(body.id)
    density = materials().get(look.material, 0.0) if look else 0.0
    figures = {
        "mass": density * GRAMS * found.volume,
        "centre": found.centre,
        "low": found.low,
        "high": found.high,
    }
    return kernel.volume_of(body.shape), figures
