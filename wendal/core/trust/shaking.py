"""A shakedown: every dimension swept over a range and its ends bisected; then all together, by chance.

Sweep first, then bisect: growing from the present value finds no island beyond a gap. Sets by chance are
Sobol points and corners of the usable ranges by turns: of the ways tried, that finds planted weaknesses
soonest (Sobol 1967; scrambled as Owen 1998). Trial k of a seed is the same in every run.
"""

from __future__ import annotations

import math
import time
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, field
from itertools import pairwise

import numpy as np

from ..errors import FormulaError
from ..quantity import Kind, in_kind, parse
from ..quantity.units import plain
from ..route import Part
from ..route.checks import scope_of
from .advising import Failure, Findings, advised
from .figures import PLAIN, Setup
from .pool import Changes, Pool, Search, begun, in_step
from .report import DimensionFound, EndFound, SetFound, ShakedownReport
from .trial import Dimension, Trial, Verdict, wanted

__all__ = ["Plan", "allowed", "range_of", "shaken"]

PLACES = 17  # of a sweep
CLOSE = {"length": 1e-3, "angle": math.radians(0.01)}  # mm, rad: to which an end is found
SHARE = 1e-4  # of the range, for bare numbers
BEYOND = 0.02  # of the range: what lies behind an end is looked for there
EDGE = 0.01  # of a usable range: how near to its ends sets go
SHRUNK = 8  # failing sets of which those that matter are looked for
DEGREE = math.pi / 180


@dataclass(frozen=True, slots=True)
class Plan:
    """What is to be shaken: tags (none: all), a seed, how many sets, places of a sweep, ranges by tag, and
    what is looked at besides."""

    tags: tuple[str, ...] = ()
    seed: int = 1
    sets: int = 64
    places: int = PLACES
    ranges: dict[str, tuple[float, float]] = field(default_factory=dict)
    setup: Setup = PLAIN


def shaken(
    part: Part, plan: Plan, pool: Pool, cancelled: Callable[[], bool] = lambda: False
) -> Iterator[ShakedownReport]:
    """Shake a part down; yield the report, again and again as it grows, and last when it is done.

    Raises CommandRefused for a tag that has no value of its own, or where there is none.
    """
    began = time.monotonic()
    probes = [
        _Probe(d, *range_of(part, d, plan), plan.places, allowed(part, d)) for d in wanted(part, plan.tags)
    ]
    report = ShakedownReport(part=part.name, seed=plan.seed, sets_wanted=plan.sets)
    report.dimensions = [p.found for p in probes]
    if begun(part, pool, report, cancelled, plan.setup) is None:
        yield report
        return
    run = _Run(part, pool, report, began, cancelled)
    for phase in (run.ranges(probes), run.sets(probes, plan), run.advise(probes)):
        for _ in phase:
            yield report
    report.state = "cancelled" if cancelled() else "done"
    run.tick()
    yield report


def range_of(part: Part, d: Dimension, plan: Plan) -> tuple[float, float]:
    """Return the range to look at: given, allowed by the ledger, or proposed."""
    if d.tag in plan.ranges:
        return plan.ranges[d.tag]
    if only := allowed(part, d):
        return min(only[0], d.value), max(only[-1], d.value)
    low, high = _proposed(d)
    remark = part.remarks.get(d.tag)
    if remark is not None:
        limits = [_limit(part, d, f) for f in (remark.least, remark.most)]
        low = limits[0] if limits[0] is not None else min(low, limits[1] if limits[1] is not None else low)
        high = limits[1] if limits[1] is not None else max(high, low)
    return min(low, d.value), max(high, d.value)


def _proposed(d: Dimension) -> tuple[float, float]:
    v = d.value
    if d.kind == "count":
        return 1.0, 2 * max(v, 1.0) + 3
    if d.kind == "angle":
        low, high = v - 45 * DEGREE, v + 45 * DEGREE
        return (max(low, DEGREE), min(high, 359 * DEGREE)) if v > 0 else (low, high)
    if v == 0:
        return -10.0, 10.0
    near, far = sorted((0.2 * v, 2.5 * v))
    return (max(near, min(0.1, v)), far) if v > 0 else (near, far)


def allowed(part: Part, d: Dimension) -> list[float]:
    """Return the values that the ledger allows a dimension, where it names them one by one."""
    remark = part.remarks.get(d.tag)
    found = [_limit(part, d, f) for f in remark.values] if remark else []
    return sorted(v for v in found if v is not None)


def _limit(part: Part, d: Dimension, formula: str) -> float | None:
    if not formula:
        return None
    kind = Kind(d.kind)
    try:
        return plain(in_kind(parse(formula).value(scope_of(part)), kind, part.units.units()), kind)
    except FormulaError:
        return None


class _Probe:
    """One dimension under trial: what was tried, and what is to be tried next."""

    def __init__(
        self, dimension: Dimension, low: float, high: float, places: int, only: Sequence[float] = ()
    ) -> None:
        """only : the values that it may have, where they are named one by one."""
        self.only = [v for v in only if low <= v <= high]
        self.dimension, self.whole = dimension, dimension.kind == "count"
        self.tried: dict[float, Verdict] = {}
        self.behind: dict[float, Verdict] = {}  # what lies behind an end, by the end
        self._places = places
        self._close = CLOSE.get(dimension.kind, SHARE * max(high - low, 1e-9))
        self.found = DimensionFound(
            tag=dimension.tag,
            kind=dimension.kind,
            unit=dimension.unit,
            now=dimension.value,
            low=low,
            high=high,
        )

    def next(self) -> list[float]:
        """Return the values to try next: the sweep, then the middle of every change of judgement."""
        if not self.tried:
            if self.only:
                return sorted({*self.only, self.found.now})
            spread = np.linspace(self.found.low, self.found.high, self._places)
            values = {round(v) for v in spread} if self.whole else set(spread.tolist())
            return sorted(float(v) for v in values | {self.found.now})
        found = []
        for a, b in self._changes():
            if self.only:
                continue  # there is nothing in between
            if self.whole and b - a > 1:
                found.append(float((a + b) // 2))
            elif not self.whole and b - a > self._close:
                found.append((a + b) / 2)
        return found

    def _changes(self) -> list[tuple[float, float]]:
        """Return neighbours of which one is good and the other is not."""
        values = sorted(self.tried)
        return [(a, b) for a, b in pairwise(values) if self.tried[a].good != self.tried[b].good]

    def ends(self) -> list[tuple[float, float]]:
        """Return the values behind the ends of the range about the present value: (the bad value there, one
        further behind)."""
        low, high = self._about()
        step = BEYOND * (self.found.high - self.found.low)
        found = []
        for bad, way in ((low[1], -1), (high[1], 1)):
            if bad is not None and not self.only:
                far = bad + way * (1 if self.whole else step)
                if self.found.low <= far <= self.found.high and far not in self.tried:
                    found.append((bad, far))
        return found

    def _about(self) -> tuple[tuple[float, float | None], tuple[float, float | None]]:
        """Return the last good value below the present one and the first bad one behind it, None for none;
        and the same above."""
        values = sorted(self.tried)
        at = values.index(self.found.now)
        low: tuple[float, float | None] = (values[0], None)
        high: tuple[float, float | None] = (values[-1], None)
        for i in range(at, -1, -1):
            if not self.tried[values[i]].good:
                low = (values[i + 1], values[i])
                break
        for i in range(at, len(values)):
            if not self.tried[values[i]].good:
                high = (values[i - 1], values[i])
                break
        return low, high

    def settle(self) -> None:
        """Write down what is known so far."""
        values = sorted(self.tried)
        ranges: list[tuple[float, float]] = []
        for v in values:
            if self.tried[v].good:
                begins = not ranges or not self.tried[values[values.index(v) - 1]].good
                if begins:
                    ranges.append((v, v))
                else:
                    ranges[-1] = (ranges[-1][0], v)
        self.found.ranges, self.found.trials = ranges, len(self.tried) + len(self.behind)
        if self.found.now not in self.tried or not self.tried[self.found.now].good:
            return
        low, high = self._about()
        self.found.low_end, self.found.high_end = self._end(*low), self._end(*high)

    def _end(self, good: float, bad: float | None) -> EndFound | None:
        if bad is None:
            return None
        verdict = self.tried[bad]
        behind = self.behind.get(bad)
        if behind is not None and not behind.good:
            verdict = behind  # at the very end things often just touch
        return EndFound(
            at=good,
            beyond=bad,
            judgement=verdict.judgement,
            why=verdict.why,
            step=verdict.step,
            name=verdict.name,
            field=verdict.field,
        )


class _Run:
    """A shakedown under way."""

    def __init__(
        self,
        part: Part,
        pool: Pool,
        report: ShakedownReport,
        began: float,
        cancelled: Callable[[], bool],
    ) -> None:
        self._part, self._pool, self._report = part, pool, report
        self._began, self._cancelled = began, cancelled
        self._number = 0
        self._sets: list[dict[str, float]] = []
        self._failing: list[int] = []
        self._failures: list[Failure] = []
        self._pairs: list[Failure] = []

    def tick(self) -> None:
        """Note the time."""
        self._report.seconds = round(time.monotonic() - self._began, 2)

    def _try(self, changes: Sequence[Changes]) -> Iterator[tuple[int, Verdict]]:
        """Do trials; yield the place in the list and the verdict of each as it comes."""
        first = self._number
        self._number += len(changes)
        trials = [Trial(first + i, c) for i, c in enumerate(changes)]
        for number, verdict in self._pool.run(trials):
            self._report.trials += 1
            self.tick()
            yield number - first, verdict
            if self._cancelled():
                return

    def ranges(self, probes: list[_Probe]) -> Iterator[None]:
        """Sweep every dimension, then bisect the changes of all of them."""
        while not self._cancelled():
            wanted = [(p, v) for p in probes for v in p.next()]
            if not wanted:
                break
            for i, verdict in self._try([{p.found.tag: p.dimension.formula(v)} for p, v in wanted]):
                probe, value = wanted[i]
                probe.tried[value] = verdict
                probe.settle()
                yield
        last = [(p, bad, far) for p in probes for bad, far in (p.ends() if p.tried else [])]
        for i, verdict in self._try([{p.found.tag: p.dimension.formula(far)} for p, _, far in last]):
            probe, bad, _ = last[i]
            probe.behind[bad] = verdict
            probe.settle()
            yield
        for probe in probes:
            probe.found.done = not self._cancelled()
        yield

    def sets(self, probes: list[_Probe], plan: Plan) -> Iterator[None]:
        """Try sets of values by chance within the usable ranges, and find which of a failing set matter."""
        movable = [p for p in probes if p.found.fits[1] > p.found.fits[0]]
        if len(movable) < 2 or self._cancelled():
            self._report.sets_wanted = 0
            return
        sets = chance_sets([p.found.fits for p in movable], [p.whole for p in movable], plan.seed, plan.sets)
        for values in sets:
            for k, probe in enumerate(movable):
                if probe.only:
                    values[k] = min(probe.only, key=lambda v, at=values[k]: abs(v - at))  # type: ignore[misc]
        changes: list[Changes] = [
            {p.found.tag: p.dimension.formula(v) for p, v in zip(movable, values, strict=True)}
            for values in sets
        ]
        tags = [p.found.tag for p in movable]
        self._sets = [dict(zip(tags, values, strict=True)) for values in sets]
        failed: dict[int, Verdict] = {}
        for i, verdict in self._try(changes):
            self._report.sets += 1
            if not verdict.good:
                failed[i] = verdict
                self._failing.append(i)
                self._failures.append(Failure(changes[i], verdict))
                self._report.failed.append(_set_found(i, verdict, changes[i]))
                self._report.failed.sort(key=lambda s: s.number)
            yield
        wanted = sorted(failed)[:SHRUNK]
        found = yield from in_step([_shrunk(changes[i]) for i in wanted], self._try)
        for i, (few, why) in ((i, f) for i, f in zip(wanted, found, strict=True) if f is not None):
            if len(few) == 2:
                self._pairs.append(Failure(few, why or failed[i]))
            place = next(k for k, s in enumerate(self._report.failed) if s.number == i)
            self._report.failed[place] = _set_found(i, why or failed[i], few)
        yield

    def advise(self, probes: list[_Probe]) -> Iterator[None]:
        """Look for what would help, and prove it on what failed."""
        if self._cancelled():
            return
        good = []
        for p in probes:
            for value, verdict in p.tried.items():
                change = {p.found.tag: p.dimension.formula(value)}
                if verdict.good:
                    good.append(change)
                else:
                    self._failures.append(Failure(change, verdict))
        found = Findings(self._failures, self._pairs, good, self._sets, self._failing)
        dimensions = [p.dimension for p in probes]
        for advice in advised(self._part, found, dimensions, self._pool, self._try, self._cancelled):
            if advice is not None:
                self._report.advice.append(advice)
                self._report.advice.sort(key=lambda a: -a.survived)
            self.tick()
            yield


def _shrunk(changes: Changes) -> Search[tuple[Changes, Verdict | None]]:
    """Cut a failing set down to the few tags with which it still fails: halves first, then one by one. Return
    them with their verdict; None where no smaller set fails."""

    def of(some: list[str]) -> Changes:
        return {t: changes[t] for t in some}

    tags, why = list(changes), None
    while len(tags) > 1:
        half = len(tags) // 2
        parts = [tags[:half], tags[half:]]
        bad = [(p, v) for p, v in zip(parts, (yield [of(p) for p in parts]), strict=True) if not v.good]
        if not bad:
            break
        tags, why = bad[0]
    for tag in list(tags):
        if len(tags) < 2:
            break
        rest = [t for t in tags if t != tag]
        (verdict,) = yield [of(rest)]
        if not verdict.good:
            tags, why = rest, verdict
    return of(tags), why


def _set_found(number: int, verdict: Verdict, tags: Changes) -> SetFound:
    return SetFound(
        number=number,
        judgement=verdict.judgement,
        why=verdict.why,
        step=verdict.step,
        name=verdict.name,
        tags=dict(tags),
    )


def chance_sets(
    ranges: list[tuple[float, float]], whole: list[bool], seed: int, count: int
) -> list[list[float]]:
    """Return sets of values by chance: Sobol points and corners by turns; set k hangs on the seed and k
    alone."""
    from scipy.stats import qmc  # here: it takes a second to load, and few sessions need it

    depth = max(math.ceil(math.log2(max(count, 2))), 1)
    points = qmc.Sobol(len(ranges), scramble=True, rng=np.random.default_rng(seed)).random_base2(depth)
    found = []
    for k in range(count):
        corner = np.random.default_rng([seed, k]).integers(0, 2, len(ranges))
        shares = EDGE + (1 - 2 * EDGE) * (points[k] if k % 2 == 0 else corner)
        values = [a + (b - a) * float(s) for (a, b), s in zip(ranges, shares, strict=True)]
        found.append(
            [float(round(v)) if w else float(f"{v:.6g}") for v, w in zip(values, whole, strict=True)]
        )
    return found
