"""What each hole got, and the note in the form that drawings have."""

from __future__ import annotations

import math
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field
from typing import TYPE_CHECKING

from .. import kernel, standards
from ..errors import StepError
from ..kernel.types import Frame, dot, minus
from ..reference import FaceName
from ..tolerance import BESIDE
from .hole_section import Section

if TYPE_CHECKING:
    from .hole import Hole

__all__ = ["figure", "hole_note", "remarks_of", "tolerance_of"]

CAP, ENDS = "cap", ("hole floor", "tip cone")
ROUNDED_AREA = 1e-4  # share by which a wall measured by the kernel may be short
HEAD_WALLS = ("counterbore wall", "spotface wall", "countersink cone")


@dataclass(slots=True)
class Got:
    """What is left of a hole's faces in the bodies.

    parts : which; heights : where the corners of its head's wall lie along it, mm; area : of that wall, mm².
    """

    parts: set[str] = field(default_factory=set)
    heights: list[float] = field(default_factory=list)
    area: float = 0.0


def remarks_of(
    hole: Hole,
    shapes: Iterable[kernel.NamedShape],
    holes: Mapping[str, tuple[Frame, Section]],
    inches: bool = False,
) -> dict[str, tuple[str, ...]]:
    """Say of each hole, by its name, what it got that is not told by its section, from what is left of its
    faces in the bodies.

    holes : where each begins, its normal into the material, and its section.
    """
    got = {name: Got() for name in holes}
    for shape in shapes:
        for names, area, corners in kernel.faces_named(shape, f"{hole.id}/"):
            for read in map(FaceName.read, names):
                if read.profile not in got:
                    continue
                found, (start, _) = got[read.profile], holes[read.profile]
                found.parts.add(read.source)
                if read.source in HEAD_WALLS:
                    found.heights += [dot(minus(c, start.origin), start.normal) for c in corners]
                    found.area += area
    through = hole.end in ("through", "next")
    told = {}
    for name, found in got.items():
        ends = not found.parts.isdisjoint(ENDS)
        told[name] = (
            *(["closed where it begins"] if CAP in found.parts else []),
            *(["it ends in material"] if through and ends else []),
            *(["it comes out"] if not through and not ends else []),
            *(_of_head(holes[name][1], found, inches) if hole.shape else []),
        )
    return told


def hole_note(
    hole: Hole, section: Section, remarks: tuple[str, ...], count: int, inches: bool = False
) -> str:
    """Return the note of holes that are alike: `4 × Ø6.6 through ⌴ Ø11 ↧ 6.4`. inches : its lengths are told
    in them."""

    def said(value: float) -> str:
        return figure(value, inches)

    times = f"{count} × " if count > 1 else ""
    deep = "through"
    if hole.end not in ("through", "next"):
        deep = f"↧ {said(section.length)}{_limits(hole, 'depth_tolerance', section.length, inches)}"
    if hole.sizing == "tapped":
        thread = standards.thread(hole.thread)
        name = hole.thread + (" LH" if hole.hand == "left" else "")
        own = f" ↧ {said(section.threaded)}" if section.threaded else ""
        text = f"{name}{own}, Ø{said(thread.drill)}{_limits(hole, 'tolerance', thread.drill, inches)} {deep}"
    else:
        size = 2 * section.radius
        text = f"Ø{said(size)}{_limits(hole, 'tolerance', size, inches)} {deep}"
    if hole.shape == "countersink":
        text += f" ⌵ Ø{said(section.wide)} × {figure(math.degrees(section.angle))}°"
    elif hole.shape:
        text += f" ⌴ Ø{said(section.wide)}" + (
            f" ↧ {said(section.deep)}" if hole.shape == "counterbore" else " SF"
        )
    return times + text + (f" ({', '.join(remarks)})" if remarks else "")


def _of_head(section: Section, got: Got, inches: bool) -> list[str]:
    """Say where a head is not the whole one: it begins in the air, or is open at its side."""
    if not got.heights:
        return ["its head lies in the air"]
    if section.angle:
        wide, narrow = section.wide / 2, section.radius
        deep = (wide - narrow) / math.tan(section.angle / 2)
        whole = math.pi * (wide + narrow) * math.hypot(deep, wide - narrow)
    else:
        deep, whole = section.deep, math.pi * section.wide * section.deep
    there = max(got.heights) - min(got.heights)
    if there < deep - BESIDE:
        return [f"its head is only {figure(there, inches)} deep"]
    return ["its head is open at the side"] if got.area < whole * (1 - ROUNDED_AREA) else []


def tolerance_of(hole: Hole, field: str, size: float | None) -> standards.Limits | None:
    """Return the limits of one of a hole's tolerances, size in mm; raises StepError with the field."""
    try:
        return standards.limits_of(getattr(hole, field), size)
    except StepError as error:
        raise error.located(field=field) from error


def _limits(hole: Hole, field: str, size: float, inches: bool) -> str:
    """Return a tolerance as the note has it, a class with its limits: ` H7 (+0.012/0)`."""
    if not hole.toleranced:
        return ""
    text, limits = getattr(hole, field).strip(), tolerance_of(hole, field, size)
    if not limits or not text[0].isalpha():
        return f" {text}" if text else ""
    return f" {text} ({limits.said(inches)})"


def figure(value: float, inches: bool = False) -> str:
    """Return a length (mm) as notes have it: mm to three decimals, inches to four."""
    shown = f"{value / 25.4:.4f}" if inches else f"{value:.3f}"
    text = shown.rstrip("0").rstrip(".")
    return "0" if text == "-0" else text
