"""Pictures of where ranges end: the last shape that holds, and what comes just beyond."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from ..errors import WendalError
from ..inspect.picture import picture
from ..route import Memory, Part, evaluate
from ..route.setting import with_values
from .report import DimensionFound, EndFound, ShakedownReport
from .trial import Dimension

__all__ = ["End", "ends_of", "pictured"]

ENDS = 12  # of the most fragile dimensions


@dataclass(frozen=True, slots=True)
class End:
    """An end of a usable range: of which tag, which one, and the values at it and just beyond."""

    tag: str
    side: str
    at: dict[str, str]
    beyond: dict[str, str]


def ends_of(report: ShakedownReport) -> list[End]:
    """Return the ends that are worth a picture, the most fragile first."""

    def values(d: DimensionFound, value: float) -> dict[str, str]:
        return {d.tag: Dimension(d.tag, d.kind, d.now, d.unit).formula(value)}

    def ends() -> Iterator[End]:
        for d in report.sorted():
            sides: list[tuple[str, EndFound | None]] = [("low", d.low_end), ("high", d.high_end)]
            for side, end in sides:
                if end:
                    yield End(d.tag, side, values(d, end.at), values(d, end.beyond))

    return list(ends())[:ENDS]


def pictured(part: Part, sets: list[dict[str, str]], memory: Memory) -> list[str]:
    """Return a picture of the part with each set of values; "" where it does not take them."""
    found = []
    for values in sets:
        try:
            after = with_values(part, values)
        except WendalError:
            found.append("")
            continue
        found.append(picture(evaluate(after, memory)))
    return found
