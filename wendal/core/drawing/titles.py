"""What a title block says, filled from the part."""

from __future__ import annotations

from .. import kernel
from ..inspect.mass import GRAMS
from ..route import Evaluation, Part
from ..route.pages import Page
from ..standards import materials
from .sheet import Titles

__all__ = ["titles_of"]


def titles_of(part: Part, evaluation: Evaluation, page: Page, version: str = "", date: str = "") -> Titles:
    """Return the fields of a page's title block. version, date : of the part as it is drawn."""
    order = [p.id for p in part.pages]
    materials = {
        look.material for b, look in part.looks.items() if look.material and b in evaluation.site.bodies
    }
    issue = page.issues[-1].name if page.issues else ""
    return Titles(
        part=part.name,
        number=part.about.number,
        material=part.about.material or ", ".join(sorted(materials)),
        mass=_mass(part, evaluation),
        scale=page.scale,
        date=date,
        version=version,
        drawn_by=part.about.drawn_by,
        tolerance=page.tolerance,
        page=page.name,
        of=f"{order.index(page.id) + 1} of {len(order)}" if page.id in order else "",
        size=page.size,
        unit="inches" if part.units.length == "in" else "mm",
        angle=page.angle,
        issue=issue,
    )


def _mass(part: Part, evaluation: Evaluation) -> str:
    """Return the mass of all solid bodies, if every one's material is known."""
    whole = 0.0
    for body in evaluation.site.bodies.values():
        if body.sheet:
            continue
        look = part.looks.get(body.id)
        density = materials().get(look.material, 0.0) if look else 0.0
        if not density:
            return ""
        whole += density * GRAMS * kernel.volume_of(body.shape)
    if not whole:
        return ""
    return f"{whole / 1000:.4g} kg" if whole >= 1000 else f"{whole:.4g} g"
