"""Naming a region by the curve sides that bound it, a text by its id, and finding them again after the sketch
has changed."""

from __future__ import annotations

from collections.abc import Mapping

from ...errors import ReferenceLost
from ...reference import RegionRef
from .regions import Region

__all__ = ["find_region", "find_text", "is_text", "region_ref", "text_ref"]


def region_ref(step: str, region: Region, key: str = "r1") -> RegionRef:
    """Return the durable reference to a region of a step's sketch."""
    return RegionRef(
        step=step,
        sides=sorted(region.sides),
        inside=region.inside(),
        key=key,
        holes=sorted(sorted(p.side for p in loop) for loop in region.holes),
    )


def find_region(ref: RegionRef, regions: list[Region]) -> tuple[Region, str]:
    """Find a region; return it with "" or the reason why it is only re-found. Raises ReferenceLost.

    The same sides are sound, and so is the only region that has kept any of them (a rounded corner, a side
    drawn anew): there is no other answer. Of several that each kept some, one that kept all is re-found; else
    the region is lost. One with other outlines inside it than when it was picked is only re-found, too.
    """
    found, doubt = _by_outline(ref, regions)
    return found, doubt or _other_holes(ref, found)


def _other_holes(ref: RegionRef, found: Region) -> str:
    """Say what has become of the outlines inside a region; "" where they are the stored ones."""
    if ref.holes is None:
        return ""
    now = [{p.side for p in loop} for loop in found.holes]
    left = [h for h in ref.holes if not any(set(h) & n for n in now)]
    new = [n for n in now if not any(set(h) & n for h in ref.holes)]
    if not left and not new:
        return ""
    said = [
        f"{len(x)} outline{'s' if len(x) > 1 else ''} inside it {verb}"
        for x, verb in ((left, "left it"), (new, "came into it"))
        if x
    ]
    return f"of the region, {' and '.join(said)} since it was picked"


def _by_outline(ref: RegionRef, regions: list[Region]) -> tuple[Region, str]:
    wanted = frozenset(ref.sides)
    same = [r for r in regions if r.sides == wanted]
    if len(same) == 1:
        return same[0], ""
    if same:
        holding = [r for r in same if r.contains(*ref.inside)]
        if len(holding) == 1:
            return holding[0], ""
        raise ReferenceLost(f"{len(same)} regions are bounded alike now. Pick the one that is meant.")
    near = [r for r in regions if r.sides & wanted]
    grown = [r for r in near if r.sides > wanted]
    if len(near) == 1:
        return near[0], ""
    if len(grown) == 1:
        return grown[0], f"it was divided; of {len(near)} parts the one with all the picked sides was taken"
    if near:
        raise ReferenceLost(f"The region was divided into {len(near)}. Pick the ones that are meant.")
    raise ReferenceLost("The region is not there any more: its outline was deleted or is open. Pick another.")


def text_ref(step: str, text: str, pieces: list[Region], key: str = "r1") -> RegionRef:
    """Return the durable reference to a text of a step's sketch; its id never changes and is never used
    again."""
    return RegionRef(step=step, sides=[text], inside=pieces[0].inside() if pieces else (0.0, 0.0), key=key)


def is_text(ref: RegionRef) -> bool:
    """Tell whether a reference means a text."""
    return len(ref.sides) == 1 and ref.sides[0][-1:] not in "+-"  # a side of a curve ends in one of these


def find_text(ref: RegionRef, texts: Mapping[str, list[Region]]) -> list[Region]:
    """Find the pieces of a text's letters; raises ReferenceLost."""
    found = texts.get(ref.sides[0])
    if not found:
        raise ReferenceLost("The text is not there any more: it or its base line was deleted. Pick another.")
    return found
