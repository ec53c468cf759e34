"""Pictures of where ranges end: the last shape that holds, and what comes just beyond."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass

from ..errors import WendalError
from ..inspect.picture import picture
from ..route import Evaluation, Part
from ..route.setting import with_values
from .report import DimensionFound, EndFound, Pictures, ShakedownReport
from .trial import Dimension

__all__ = ["pictured"]

ENDS = 12  # of the most fragile dimensions


@dataclass(frozen=True, slots=True)
class _End:
    """An end of a usable range: of which tag, which one, and the values at it and just beyond."""

    tag: str
    side: str
    at: dict[str, str]
    beyond: dict[str, str]


def _ends_of(report: ShakedownReport) -> list[_End]:
    """Return the ends that are worth a picture, the most fragile first."""

    def values(d: DimensionFound, value: float) -> dict[str, str]:
        return {d.tag: Dimension(d.tag, d.kind, d.now, d.unit).formula(value)}

    def ends() -> Iterator[_End]:
        for d in report.sorted():
            sides: list[tuple[str, EndFound | None]] = [("low", d.low_end), ("high", d.high_end)]
            for side, end in sides:
                if end:
                    yield _End(d.tag, side, values(d, end.at), values(d, end.beyond))

    return list(ends())[:ENDS]


def pictured(part: Part, report: ShakedownReport, evaluate: Callable[[Part], Evaluation]) -> Pictures:
    """Return pictures at the ends of a report, and just beyond; "" where the part refuses the values."""

    def drawn(values: dict[str, str]) -> str:
        try:
            return picture(evaluate(with_values(part, values)))
        except WendalError:
            return ""

    return {(e.tag, e.side): (drawn(e.at), drawn(e.beyond)) for e in _ends_of(report)}
