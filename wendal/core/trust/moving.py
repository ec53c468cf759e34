"""What moves what: by how much each figure of a part changes with each dimension, on the part as it is built.

By central differences, with steps that stay of one kind of part (else to one side, which is said). From them,
how much the tolerances of the dimensions add up to in a figure: in the worst case, and as the root of the sum
of their squares.
"""

from __future__ import annotations

import math
import time
from collections.abc import Callable, Iterator
from itertools import pairwise
from typing import Literal

from pydantic import BaseModel

from ..errors import CommandRefused, StepError
from ..route import Part
from ..standards import limits_of
from .shaking import Plan, Pool, begun, range_of
from .trial import Dimension, Trial, Verdict, wanted

__all__ = ["Aimed", "Moved", "MovedBy", "Stack", "StackShare", "aimed", "moved", "stacked"]

STEP = {"length": 0.02, "angle": math.radians(0.02), "count": 1.0}  # mm, rad, one
SHARE = 1e-3  # of the value, for bare numbers
STRAIGHT = 0.02  # by how much of itself a change may bend within a tolerance and still be called linear
CLOSE = 1e-9  # of the wish: how near an aim comes
PLACES = 13  # of the sweep for an aim
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


class MovedBy(BaseModel):
    """A dimension, and by how much it changes each figure: per mm, per degree, or per one. bends : by how
    much more it does so over one such unit. sides : on which sides it could be moved; why : why not on
    both."""

    tag: str
    kind: str
    now: float
    per: dict[str, float] = {}
    bends: dict[str, float] = {}
    sides: Literal["both", "up", "down", "none"] = "none"
    why: str = ""


class Moved(BaseModel):
    """What moves what. figures : by name, their values now; units : theirs."""

    part: str
    state: Literal["running", "done", "cancelled", "refused"] = "running"
    trouble: str = ""
    trials: int = 0
    seconds: float = 0.0
    figures: dict[str, float] = {}
    units: dict[str, str] = {}
    dimensions: list[MovedBy] = []

    def ranked(self, figure: str) -> list[MovedBy]:
        """Return the dimensions that move a figure, the most first."""
        found = [d for d in self.dimensions if abs(d.per.get(figure, 0.0)) > 1e-9]
        return sorted(found, key=lambda d: -abs(d.per[figure]))


def moved(
    part: Part, tags: tuple[str, ...], pool: Pool, cancelled: Callable[[], bool] = lambda: False
) -> Iterator[Moved]:
    """Find what moves what; yield the report as it grows. Raises CommandRefused for unknown tags."""
    began = time.monotonic()
    dimensions = wanted(part, tags)
    report = Moved(part=part.name)
    base = begun(part, pool, report, cancelled)
    if base is None:
        yield report
        return
    report.figures, report.units = dict(base.figures), _units(part, base)
    steps = [(d, way) for d in dimensions for way in (1, -1)]
    trials = [Trial(i, {d.tag: d.formula(d.value + way * _step(d))}) for i, (d, way) in enumerate(steps)]
    tried: dict[str, dict[int, Verdict]] = {d.tag: {} for d in dimensions}
    for number, verdict in pool.run(trials):
        d, way = steps[number]
        tried[d.tag][way] = verdict
        report.trials += 1
        report.seconds = round(time.monotonic() - began, 2)
        if len(tried[d.tag]) == 2:
            report.dimensions.append(_moved_by(d, base, tried[d.tag]))
        yield report
        if cancelled():
            break
    order = {d.tag: i for i, d in enumerate(dimensions)}
    report.dimensions.sort(key=lambda m: order[m.tag])
    report.state = "cancelled" if cancelled() else "done"
    yield report


def _step(d: Dimension) -> float:
    return STEP.get(d.kind, SHARE * max(abs(d.value), 1e-3))


def _units(part: Part, base: Verdict) -> dict[str, str]:
    own = {k.tag: {"length": "mm", "angle": "rad", "area": "mm²", "volume": "mm³"}[k.unit] for k in part.kept}
    ends = {"volume": "mm³", "area": "mm²", "mass": "g"}
    return {f: own.get(f) or ends.get(f.rpartition(": ")[2], "mm") for f in base.figures}


def _moved_by(d: Dimension, base: Verdict, tried: dict[int, Verdict]) -> MovedBy:
    """Return the differences of a dimension, central where both sides are as good as the part itself."""
    unit = math.radians(1) if d.kind == "angle" else 1.0
    h = _step(d) / unit
    good = {way: v for way, v in tried.items() if v.good}
    found = MovedBy(tag=d.tag, kind=d.kind, now=d.value)
    bad = next((v for v in tried.values() if not v.good), None)
    found.why = bad.why if bad else ""
    if not good:
        return found
    found.sides = "both" if len(good) == 2 else "up" if 1 in good else "down"
    for figure, now in base.figures.items():
        values = {way: v.figures[figure] for way, v in good.items() if figure in v.figures}
        if len(values) == 2:
            found.per[figure] = (values[1] - values[-1]) / (2 * h)
            found.bends[figure] = (values[1] - 2 * now + values[-1]) / (h * h)
        elif values:
            ((way, value),) = values.items()
            found.per[figure] = (value - now) / (way * h)
    return found


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
    if remark is not None and remark.tolerance and d.kind == "length":
        try:
            limits = limits_of(remark.tolerance, abs(d.now))
        except StepError as error:
            raise CommandRefused(f"{d.tag}: {error.message}", field=d.tag) from error
        if limits is not None:
            return limits.below, limits.above, remark.tolerance
    table, size = (MEDIUM, abs(d.now)) if d.kind == "length" else (MEDIUM_ANGLE, 0.0)
    half = next((t for most, t in table if size <= most), table[-1][1])
    return -half, half, "ISO 2768-m"


class Aimed(BaseModel):
    """A figure brought to a wish by one dimension. value : that dimension's, mm, rad or bare, None where no
    value in the range does it; reached : what the figure comes to; others : further values that do it."""

    figure: str
    wish: float
    tag: str
    state: Literal["running", "done", "cancelled", "refused"] = "running"
    trouble: str = ""
    trials: int = 0
    value: float | None = None
    formula: str = ""
    reached: float | None = None
    others: list[float] = []
    least: float | None = None
    most: float | None = None


def aimed(
    part: Part,
    figure: str,
    wish: float,
    tag: str,
    pool: Pool,
    cancelled: Callable[[], bool] = lambda: False,
    looked: tuple[float, float] | None = None,
) -> Iterator[Aimed]:
    """Bring a figure to a wish by a dimension: a sweep of its range, then every change of side bracketed and
    closed in on (Illinois, a false position that does not stick). Nearest to the present value first."""
    (dimension,) = wanted(part, (tag,))
    report = Aimed(figure=figure, wish=wish, tag=tag)
    base = begun(part, pool, report, cancelled)
    if base is None:
        yield report
        return
    if figure not in base.figures:
        raise CommandRefused(f"There is no figure “{figure}”. There are {', '.join(base.figures)}.")
    aim = _Aim(report, dimension, pool, base)
    low, high = looked or aim.range_of(part)
    places = {low + (high - low) * i / (PLACES - 1) for i in range(PLACES)} | {dimension.value}
    if dimension.kind == "count":
        places = {float(round(p)) for p in places}
    for _ in aim.sweep(sorted(places)):
        yield report
        if cancelled():
            break
    else:
        for _ in aim.close_in():
            yield report
    report.state = "cancelled" if cancelled() else "done"
    yield report


class _Aim:
    """An aim under way."""

    def __init__(self, report: Aimed, dimension: Dimension, pool: Pool, base: Verdict) -> None:
        self._report, self._d, self._pool = report, dimension, pool
        self._off: dict[float, float] = {dimension.value: base.figures[report.figure] - report.wish}
        self._number = 0

    def range_of(self, part: Part) -> tuple[float, float]:
        """Return where to look: as a shakedown does."""
        return range_of(part, self._d, Plan())

    def _try(self, values: list[float]) -> Iterator[None]:
        trials = [Trial(i, {self._d.tag: self._d.formula(v)}) for i, v in enumerate(values)]
        for number, verdict in self._pool.run(trials):
            self._report.trials += 1
            if verdict.good and self._report.figure in verdict.figures:
                self._off[values[number]] = verdict.figures[self._report.figure] - self._report.wish
            yield

    def sweep(self, values: list[float]) -> Iterator[None]:
        """Look at places over the range."""
        yield from self._try([v for v in values if v not in self._off])
        found = [o + self._report.wish for o in self._off.values()]
        self._report.least, self._report.most = min(found), max(found)

    def close_in(self) -> Iterator[None]:
        """Close in on every place where the figure passes its wish."""
        values = sorted(self._off)
        near = max(abs(self._report.wish), 1.0) * CLOSE
        roots = [v for v in values if abs(self._off[v]) <= near]
        for a, b in pairwise(values):
            if self._off[a] * self._off[b] < 0 and self._d.kind != "count":
                yield from self._bracketed(a, b, near, roots)
        if not roots:
            return
        roots.sort(key=lambda r: abs(r - self._d.value))
        best = roots[0]
        self._report.value, self._report.formula = best, self._d.formula(best)
        self._report.reached = self._off[best] + self._report.wish
        self._report.others = roots[1:]

    def _bracketed(self, a: float, b: float, near: float, roots: list[float]) -> Iterator[None]:
        fa, fb, side = self._off[a], self._off[b], 0
        for _ in range(60):
            c = (a * fb - b * fa) / (fb - fa)
            yield from self._try([c])
            if c not in self._off:
                return  # the part fails in between: that is no passing of the wish
            fc = self._off[c]
            if abs(fc) <= near or abs(b - a) < 1e-12 * max(abs(a), abs(b), 1.0):
                roots.append(c)
                return
            if fc * fb > 0:
                b, fb = c, fc
                fa, side = (fa / 2 if side == -1 else fa), -1
            else:
                a, fa = c, fc
                fb, side = (fb / 2 if side == 1 else fb), 1
