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
from ..standards import general_limit, limits_of
from .figures import WALL, Setup, Watched
from .moving import Moved, MovedBy, moved
from .pool import Pool, begun
from .trial import Trial, driving, laid_down

__all__ = ["Sampled", "Stack", "StackShare", "sampled", "stacked"]

SETS = 2000  # by chance
AT_ONCE = 100  # sets between two words
WITHIN = 3.0  # standard deviations from the middle of a tolerance to its limits
TAIL = 0.135  # per cent on each side of ± 3 standard deviations of a normal distribution
BARS = 24  # of the histogram

TOLERANCED = ("length", "angle")
NOTHING = 1e-9  # a figure that moves by no more than that does not
STRAIGHT = 0.02  # by how much of itself a change may bend within a tolerance and still be called linear


class StackShare(BaseModel):
    """What a dimension's tolerance brings to a figure. low, high : its limits about the nominal value (mm or
    degrees); of : where they are from, "" where no standard has any; share : of the whole, statistically.
    made : it has a formula, and is made to a tolerance of its own."""

    tag: str
    low: float
    high: float
    of: str
    per: float
    adds: float
    share: float = 0.0
    bent: bool = False
    made: bool = False


class Stack(BaseModel):
    """How much tolerances add up to in a figure: its worst limits, and those by the root of the sum of
    squares. bent : whether a share is not linear within its tolerance. untold : dimensions that could not be
    moved to either side, so that what they bring is not known."""

    figure: str
    unit: str
    nominal: float
    least: float
    most: float
    rss: float
    shares: list[StackShare]
    bent: bool = False
    untold: list[str] = []


def stacked(part: Part, found: Moved, figure: str) -> Stack:
    """Add up the tolerances of all dimensions that move a figure: those laid down in the ledger, else
    those of ISO 2768-1 in the part's class. A formula with a tolerance of its own counts as a dimension, and
    what it is counted from does not move it. Raises CommandRefused for a figure that is not there."""
    if figure not in found.figures:
        raise CommandRefused(f"There is no figure “{figure}”. There are {', '.join(found.figures)}.")
    shares, least, most, square = [], 0.0, 0.0, 0.0
    movers = [(d.held or d, False) for d in found.dimensions] + [(d, True) for d in found.made]
    for d, made in movers:
        if d.kind not in TOLERANCED or abs(d.per.get(figure, 0.0)) <= NOTHING:
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
            made=made,
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
        untold=[d.tag for d, _ in movers if d.sides == "none" and d.kind in TOLERANCED],
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
    letter = part.about.general
    half = general_limit(letter, d.kind, d.now)
    return (0.0, 0.0, "") if half is None else (-half, half, f"ISO 2768-{letter}")


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
        made = laid_down(part)
        known = {d.tag: d for d in (*driving(part), *made)}
        self._stand = {d.tag: d.formula(d.value) for d in made}
        self._shares = [(known[s.tag], s) for s in stack.shares]
        self._seed = seed

    def formulas(self, k: int) -> dict[str, str]:
        """Return set k."""
        rng = np.random.default_rng([self._seed, k])
        found = dict(self._stand)
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
