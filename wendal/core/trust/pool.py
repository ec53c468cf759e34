"""What does trials, and what all reports of trials have in common."""

from __future__ import annotations

from collections.abc import Callable, Generator, Iterator, Mapping, Sequence
from typing import Literal, Protocol, TypeVar

from ..route import Part, write_part
from .figures import PLAIN, Setup
from .trial import Trial, Verdict

__all__ = ["Changes", "Pool", "Report", "Search", "begun", "in_step"]

T = TypeVar("T")
Changes = Mapping[str, str]
Search = Generator[list[Changes], list[Verdict], T]  # yields what to try next, is sent the verdicts


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


def in_step(
    searches: Sequence[Search[T]], run: Callable[[list[Changes]], Iterator[tuple[int, Verdict]]]
) -> Generator[None, None, list[T | None]]:
    """Drive searches side by side, so that the trials of a round are shared out; return what each came to,
    None for those that were left off. run : does trials, and yields the place and the verdict of each; fewer
    of them when it is cancelled."""
    found: list[T | None] = [None] * len(searches)
    asked: dict[int, list[Changes]] = {}

    def go_on(i: int, verdicts: list[Verdict] | None) -> None:
        try:
            asked[i] = next(searches[i]) if verdicts is None else searches[i].send(verdicts)
        except StopIteration as done:
            asked.pop(i, None)
            found[i] = done.value

    for i in range(len(searches)):
        go_on(i, None)
    while asked:
        places = [(i, k) for i, sets in asked.items() for k in range(len(sets))]
        told: dict[tuple[int, int], Verdict] = {}
        for n, verdict in run([asked[i][k] for i, k in places]):
            told[places[n]] = verdict
            yield
        if len(told) < len(places):
            break
        for i in list(asked):
            go_on(i, [told[i, k] for k in range(len(asked[i]))])
    return found
