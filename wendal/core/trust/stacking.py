"""Tolerances of dimensions added up in a figure: in the worst case, as the root of the sum of their squares,
and, where that is not linear, by sets of values by chance through the built part."""

from __future__ import annotations

import math
import time
from collections.abc import Callable, Iterator
from typing import Literal

import numpy as np
from pydantic import BaseModel

from ..errors import CommandRefused, StepError
from ..route import Part
from ..standards import limits_of
from .figures import WALL, Setup, Watched
from .moving import Moved, MovedBy, moved
from .pool import Pool, begun
from .trial import Trial, driving

__all__ = ["Sampled", "Stack", "StackShare", "sampled", "stacked"]

SETS = 2000  # by chance
AT_ONCE = 100  # sets between two words
WITHIN = 3.0  # standard deviations from the middle of a tolerance to its limits
TAIL = 0.135  # per cent on each side of ± 3 standard deviations of a normal distribution
BARS = 24  # of the histogram

STRAIGHT = 0.02  # by how much of itself a change may bend within a tolerance and still be called linear
# ISO 2768-1, class m (medium): permissible deviations of lengths, ± mm, by nominal size up to.
MEDIUM = [
    (3, 0.1),
    (6, 0.1),
    (30, 0.2),
    (120, 0.3),
    (400, 0.5),
    (1000, 0.8),
    (2000, 1.2),
    (4000, 2.0),
]
MEDIUM_ANGLE = [(10, 1.0), (50, 0.5), (120, 1 / 3), (400, 1 / 6)]  # degrees, by the length of the shorter leg


class StackShare(BaseModel):
    """What a dimension's tolerance brings to a figure. low, high : its limits about the nominal value (mm or
    degrees); of : where they are from; share : of the whole, statistically."""

    tag: str
    low: float
    high: float
    of: str
    per: float
    adds: float
    share: float = 0.0
    bent: bool = False


class Stack(BaseModel):
    """How much tolerances add up to in a figure: its worst limits, and those by the root of the sum of
    squares. bent : whether a share is not linear within its tolerance."""

    figure: str
    unit: str
    nominal: float
    least: float
    most: float
    rss: float
    shares: list[StackShare]
    bent: bool = False


def stacked(part: Part, found: Moved, figure: str) -> Stack:
    """Add up the tolerances of all dimensions that move a figure: those laid down in the ledger, else those
    of ISO 2768-m by default. Raises CommandRefused for a figure that is not there."""
    if figure not in found.figures:
        raise CommandRefused(f"There is no figure “{figure}”. There are {', '.join(found.figures)}.")
    shares, least, most, square = [], 0.0, 0.0, 0.0
    for d in found.ranked(figure):
        if d.kind not in ("length", "angle"):
            continue  # counts have no tolerance
        low, high, of = _tolerance(part, d)
        ends = sorted((d.per[figure] * low, d.per[figure] * high))
        half = (ends[1] - ends[0]) / 2
        bend = abs(d.bends.get(figure, 0.0)) * max(abs(low), abs(high)) ** 2 / 2
        share = StackShare(
            tag=d.tag,
            low=low,
            high=high,
            of=of,
            per=d.per[figure],
            adds=half,
            bent=bend > STRAIGHT * max(half, 1e-12),
        )
        shares.append(share)
        least, most, square = least + ends[0], most + ends[1], square + half * half
    for share in shares:
        share.share = share.adds**2 / square if square else 0.0
    shares.sort(key=lambda s: -s.adds)
    nominal = found.figures[figure]
    return Stack(
        figure=figure,
        unit=found.units[figure],
        nominal=nominal,
        least=nominal + least,
        most=nominal + most,
        rss=math.sqrt(square),
        shares=shares,
        bent=any(s.bent for s in shares),
    )


def _tolerance(part: Part, d: MovedBy) -> tuple[float, float, str]:
    """Return a dimension's limits about its value: mm, or degrees."""
    remark = part.remarks.get(d.tag)
    if remark is not None and remark.tolerance:
        try:
            limits = limits_of(remark.tolerance, abs(d.now) if d.kind == "length" else None)
        except StepError as error:
            raise CommandRefused(f"{d.tag}: {error.message}", field=d.tag) from error
        if limits is not None:
            return limits.below, limits.above, remark.tolerance
    table, size = (MEDIUM, abs(d.now)) if d.kind == "length" else (MEDIUM_ANGLE, 0.0)
    half = next((t for most, t in table if size <= most), table[-1][1])
    return -half, half, "ISO 2768-m"


class Sampled(BaseModel):
    """A figure over sets of values by chance, each dimension normally distributed within its limits, which
    lie three standard deviations from their middle.

    sets : that were built, of wanted; failed : that do not hold as a part. low, high : between which 99.73 %
    lie; least, most : of all. outside : sets in which a kept measure is not what it may be. bars : how often
    the figure lies in each of equal steps from least to most.
    """

    figure: str
    seed: int
    state: Literal["running", "done", "cancelled", "refused"] = "running"
    trouble: str = ""
    unit: str = "mm"
    trials: int = 0
    seconds: float = 0.0
    wanted: int = SETS
    sets: int = 0
    failed: int = 0
    outside: int = 0
    nominal: float | None = None
    mean: float | None = None
    deviation: float | None = None
    low: float | None = None
    high: float | None = None
    least: float | None = None
    most: float | None = None
    bars: list[int] = []


def sampled(
    part: Part,
    figure: str,
    pool: Pool,
    cancelled: Callable[[], bool] = lambda: False,
    seed: int = 1,
    count: int = SETS,
    things: tuple[Watched, ...] = (),
) -> Iterator[Sampled]:
    """Build sets of values by chance within the tolerances of all dimensions that move a figure; set k is a
    function of the seed and k alone. things : whose places are figures too. Yield what is known so
    far; raises CommandRefused."""
    began = time.monotonic()
    report = Sampled(figure=figure, seed=seed, wanted=count)
    setup = Setup(walls=figure.endswith(f": {WALL}"), things=things)
    found = None
    for found in moved(part, (), pool, cancelled, setup):
        report.trials = found.trials
        yield report
    assert found is not None
    if found.state in ("cancelled", "refused"):
        report.state, report.trouble = found.state, found.trouble
        yield report
        return
    stack = stacked(part, found, figure)
    report.nominal, report.unit = stack.nominal, stack.unit
    if begun(part, pool, report, cancelled, setup) is None:
        yield report
        return
    chance = _Chance(part, stack, seed)
    values: list[float] = []
    for first in range(0, count, AT_ONCE):
        trials = [Trial(k, chance.formulas(k)) for k in range(first, min(first + AT_ONCE, count))]
        told: dict[int, float] = {}
        for k, verdict in pool.run(trials):
            report.trials += 1
            if verdict.judgement == "outside":
                report.outside += 1
            if figure in verdict.figures:
                told[k] = verdict.figures[figure]
            else:
                report.failed += 1
        values += [told[k] for k in sorted(told)]
        report.sets += len(trials)
        report.seconds = round(time.monotonic() - began, 2)
        _tell(report, values)
        yield report
        if cancelled():
            break
    report.state = "cancelled" if cancelled() else "done"
    yield report


class _Chance:
    """Values of the dimensions of a stack by chance."""

    def __init__(self, part: Part, stack: Stack, seed: int) -> None:
        known = {d.tag: d for d in driving(part)}
        self._shares = [(known[s.tag], s) for s in stack.shares]
        self._seed = seed

    def formulas(self, k: int) -> dict[str, str]:
        """Return set k."""
        rng = np.random.default_rng([self._seed, k])
        found = {}
        for d, share in self._shares:
            unit = math.radians(1) if d.kind == "angle" else 1.0
            middle, half = (share.low + share.high) / 2, (share.high - share.low) / 2
            by = float(np.clip(rng.normal(0.0, 1.0 / WITHIN), -1.0, 1.0))
            found[d.tag] = d.formula(d.value + unit * (middle + half * by))
        return found


def _tell(report: Sampled, values: list[float]) -> None:
    if not values:
        return
    all_ = np.array(values)
    report.mean, report.deviation = float(all_.mean()), float(all_.std(ddof=1)) if len(values) > 1 else 0.0
    report.low, report.high = (float(x) for x in np.percentile(all_, [TAIL, 100 - TAIL]))
    report.least, report.most = float(all_.min()), float(all_.max())
    if report.most > report.least:
        report.bars = [int(n) for n in np.histogram(all_, BARS)[0]]
