"""What does trials, and what all reports of trials have in common."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from typing import Literal, Protocol

from ..route import Part, write_part
from .figures import PLAIN, Setup
from .trial import Trial, Verdict

__all__ = ["Pool", "Report", "begun"]


class Pool(Protocol):
    """What does trials: in this process, in several, or elsewhere."""

    def begin(self, document: str, setup: Setup = ...) -> Verdict:
        """Take up a part; return how it stands as it is. Raises WendalError for what can not be watched."""

    def run(self, trials: list[Trial]) -> Iterator[tuple[int, Verdict]]:
        """Do trials; yield each number with its verdict as it comes, in any order."""


class Report(Protocol):
    """What a report of trials has in common with the others."""

    state: Literal["running", "done", "cancelled", "refused"]
    trouble: str


def begun(
    part: Part,
    pool: Pool,
    report: Report,
    cancelled: Callable[[], bool],
    setup: Setup = PLAIN,
) -> Verdict | None:
    """Have a pool take up a part; return how it stands, or None, noted in the report, where nothing is tried:
    it was cancelled meanwhile, or is not sound as it is."""
    base = pool.begin(write_part(part), setup)
    if cancelled():
        report.state = "cancelled"
        return None
    if not base.good:
        where = f" ({base.name})" if base.name else ""
        report.state = "refused"
        report.trouble = f"The part itself is not sound as it is, so nothing is tried{where}: {base.why}"
        return None
    return base
