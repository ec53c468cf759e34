"""General tolerances by ISO 2768-1: what holds where no limits are laid down."""

from __future__ import annotations

from bisect import bisect_left

from .tables import _table

__all__ = ["general_limit"]


def general_limit(letter: str, kind: str, size: float) -> float | None:
    """Return by how much a dimension may be off, ±: mm for a length of this size (mm), degrees for an angle;
    None where the standard has nothing for it. letter : f, m, c or v (fine to very coarse).

    The limit of an angle hangs on its shorter leg, which is not known here: that of the shortest is taken,
    which is the widest.
    """
    table = _table("general")
    if kind == "angle":
        return float(table["angles"][letter]) / 60
    step = bisect_left(table["lengths"], abs(size))
    found = table[letter][step] if step < len(table["lengths"]) else None
    return None if found is None else float(found)
