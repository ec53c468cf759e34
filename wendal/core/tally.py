"""How often what is tried first gave the answer, and how often something slower had to.

Counts are kept by process. A worker's are asked for over its line, so that the shares of a long run can be
printed (`make soak`, `make hunt`). A fallback is no error: its reason is logged at debug level.
"""

from __future__ import annotations

import logging
from collections import Counter
from collections.abc import Iterable, Mapping

__all__ = ["clear", "fell_back", "shares", "tallied", "went_well"]

log = logging.getLogger(__name__)
WELL = ""
_counts: Counter[tuple[str, str]] = Counter()


def went_well(what: str) -> None:
    """Count that the first way gave the answer. what : such as "local boolean"."""
    _counts[what, WELL] += 1


def fell_back(what: str, why: str) -> None:
    """Count that a slower way had to give the answer, with the reason in a few words, and log it."""
    _counts[what, why] += 1
    log.debug("%s fell back: %s", what, why)


def tallied() -> dict[str, dict[str, int]]:
    """Return the counts of this process: by what was tried, how often it went well ("") and why it did
    not."""
    found: dict[str, dict[str, int]] = {}
    for (what, why), count in sorted(_counts.items()):
        found.setdefault(what, {})[why] = count
    return found


def clear() -> None:
    """Begin to count anew."""
    _counts.clear()


def shares(tallies: Iterable[Mapping[str, Mapping[str, int]]]) -> list[list[object]]:
    """Add up the counts of some processes; return rows of (what, reason, count, share in percent)."""
    total: Counter[tuple[str, str]] = Counter()
    for tally in tallies:
        for what, reasons in tally.items():
            for why, count in reasons.items():
                total[what, why] += count
    tried: Counter[str] = Counter()
    for (what, _), count in total.items():
        tried[what] += count
    return [
        [what, why or "went well", count, round(100 * count / tried[what], 2)]
        for (what, why), count in sorted(total.items())
    ]
