"""What a change would do, told before it is made."""

from __future__ import annotations

from typing import Any

from .. import kernel
from ..errors import WendalError
from ..reference import ThingRef
from ..route import Evaluation, Part
from ..route.resolving import Resolver
from ..standards import materials
from ..steps import Body

__all__ = ["foresee"]

GRAMS = 1e-3  # g/mm³ for a density of 1 g/cm³


def foresee(before: Part, old: Evaluation, after: Part, new: Evaluation) -> dict[str, Any]:
    """Return the steps that a change reaches and how they would stand, the bodies whose volume (mm³) would
    change, and what would be lost: kept measures, and what is dimensioned or marked on pages."""
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
    measures = [
        kept.tag
        for kept in after.kept
        if new.gauged[kept.tag].state == "lost" and _had(old, kept.tag) not in ("lost", "waiting")
    ]
    pages = _lost_on_pages(before, old, after, new) if steps or bodies else []
    return {"steps": steps, "bodies": bodies, "measures": measures, "pages": pages}


def _had(stands: Evaluation, tag: str) -> str:
    known = stands.gauged.get(tag)
    return known.state if known else "lost"


def _lost_on_pages(before: Part, old: Evaluation, after: Part, new: Evaluation) -> list[dict[str, Any]]:
    """Return for each page how many of its dimensions and marks would lose a thing that is there now."""
    told = []
    for page in after.pages:
        held = [d.things for d in page.dimensions] + [[m.thing] for m in page.marks if m.thing is not None]
        lost = sum(not _there(after, new, t) and _there(before, old, t) for t in held)
        if lost:
            told.append({"name": page.name, "lost": lost})
    return told


def _there(part: Part, stands: Evaluation, things: list[ThingRef]) -> bool:
    resolver = Resolver(part, {r.id: r.state for r in stands.reports})
    try:
        for thing in things:
            resolver.take(thing, stands.site)
    except WendalError:
        return False
    return True


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
