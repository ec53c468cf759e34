"""A figure brought to a wish by one dimension, or by several with the smallest change."""

from __future__ import annotations

from collections.abc import Callable, Generator, Iterator, Mapping, Sequence
from itertools import pairwise
from types import MappingProxyType
from typing import Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel
from scipy.optimize import brentq

from ..errors import CommandRefused
from ..route import Part
from .figures import WALL, Setup, Watched
from .moving import STEP
from .pool import Pool, begun
from .shaking import Plan, allowed, range_of
from .trial import Dimension, Trial, Verdict, wanted

__all__ = ["Aimed", "aimed"]

Array = NDArray[np.float64]

CLOSE = 1e-9  # of the wish: how near an aim comes
PLACES = 13  # of the sweep for an aim
ROUNDS = 14  # of an aim by several
HALVED = 7  # how often a way is made half as long
SLIDE = 0.1  # of how far it was off: so far off again it may come for a smaller change
MOST_CORNERS = 32  # of the ranges that are looked at
SETTLED = 1e-7  # of a dimension's value: what moves less has come to rest


class Aimed(BaseModel):
    """A figure brought to a wish by dimensions. values : of the dimensions, as formulas, that do it; empty
    where none in their ranges do. reached : what the figure comes to then. value : that of the only dimension
    (mm, rad or bare); others : further values of it that do it. least, most : between which the figure was
    seen. path : of one dimension, what the figure is at its values, as tried."""

    figure: str
    wish: float
    tags: list[str]
    state: Literal["running", "done", "cancelled", "refused"] = "running"
    trouble: str = ""
    trials: int = 0
    values: dict[str, str] = {}
    value: float | None = None
    reached: float | None = None
    others: list[float] = []
    least: float | None = None
    most: float | None = None
    path: list[tuple[float, float]] = []


def aimed(
    part: Part,
    figure: str,
    wish: float,
    tags: tuple[str, ...],
    pool: Pool,
    cancelled: Callable[[], bool] = lambda: False,
    looked: Mapping[str, tuple[float, float]] = MappingProxyType({}),
    things: tuple[Watched, ...] = (),
) -> Iterator[Aimed]:
    """Bring a figure to a wish by one dimension, or by several that change as little as they can. looked :
    the ranges to look in, by tag, else those that a shakedown would look at. things : whose places are
    figures too. Raises CommandRefused."""
    if not tags or len(set(tags)) < len(tags):
        raise CommandRefused("Choose the dimensions that are to be changed, each once.", field="tags")
    dimensions = wanted(part, tags)
    if len(dimensions) > 1 and (count := next((d for d in dimensions if d.kind == "count"), None)):
        raise CommandRefused(f"“{count.tag}” is a count: aim by it alone.", field=count.tag)
    only = {d.tag: values for d in dimensions if (values := allowed(part, d))}
    if len(dimensions) > 1 and only:
        tag = next(iter(only))
        raise CommandRefused(f"“{tag}” may only have the values it is allowed: aim by it alone.", field=tag)
    report = Aimed(figure=figure, wish=wish, tags=list(tags))
    setup = Setup(walls=figure.endswith(f": {WALL}"), things=things)
    base = begun(part, pool, report, cancelled, setup)
    if base is None:
        yield report
        return
    if figure not in base.figures:
        raise CommandRefused(f"There is no figure “{figure}”. There are {', '.join(base.figures)}.")
    ranges = [looked.get(d.tag) or range_of(part, d, Plan()) for d in dimensions]
    trier = _Trier(report, dimensions, pool, cancelled)
    single = only.get(dimensions[0].tag, [])
    way = _one(trier, base, ranges[0], single) if len(tags) == 1 else _Several(trier, base, ranges).found()
    for _ in way:
        yield report
        if cancelled():
            break
    report.state = "cancelled" if cancelled() else "done"
    yield report


class _Trier:
    """Tries values of the dimensions of an aim, and tells how far the figure is off its wish."""

    def __init__(
        self, report: Aimed, dimensions: list[Dimension], pool: Pool, cancelled: Callable[[], bool]
    ) -> None:
        self.report, self.dimensions, self._pool, self.cancelled = report, dimensions, pool, cancelled
        self.near = max(abs(report.wish), 1.0) * CLOSE

    def formulas(self, values: Sequence[float]) -> dict[str, str]:
        """Return values as formulas by tag."""
        return {d.tag: d.formula(v) for d, v in zip(self.dimensions, values, strict=True)}

    def off(self, sets: Sequence[Sequence[float]]) -> list[float | None]:
        """Return by how much the figure is off with each set of values; None where the part does not hold."""
        found: list[float | None] = [None] * len(sets)
        for number, verdict in self._pool.run([Trial(i, self.formulas(s)) for i, s in enumerate(sets)]):
            self.report.trials += 1
            found[number] = self.told(verdict)
        return found

    def told(self, verdict: Verdict) -> float | None:
        """Return by how much a verdict's figure is off."""
        worth = verdict.figures.get(self.report.figure) if verdict.good else None
        if worth is None:
            return None
        seen = [x for x in (self.report.least, self.report.most, worth) if x is not None]
        self.report.least, self.report.most = min(seen), max(seen)
        return worth - self.report.wish

    def take(self, values: Sequence[float], off: float) -> None:
        """Put down values that do it."""
        self.report.values = self.formulas(values)
        self.report.reached = off + self.report.wish
        if len(values) == 1:
            self.report.value = values[0]


def _one(trier: _Trier, base: Verdict, looked: tuple[float, float], only: Sequence[float]) -> Iterator[None]:
    """Aim by one dimension: a sweep of its range, then every change of side bracketed and closed in on
    (Illinois, a false position that does not stick). Nearest to the present value first. only : the values
    that it may have, where they are named one by one."""
    (d,), (low, high) = trier.dimensions, looked
    at_first = trier.told(base)
    assert at_first is not None
    off: dict[float, float] = {d.value: at_first}
    places = {low + (high - low) * i / (PLACES - 1) for i in range(PLACES)}
    if only:
        places = set(only)
    elif d.kind == "count":
        places = {float(round(p)) for p in places}
    sweep = sorted(p for p in places if p not in off)
    for at in range(0, len(sweep), 4):
        some = sweep[at : at + 4]
        off |= {v: o for v, o in zip(some, trier.off([[v] for v in some]), strict=True) if o is not None}
        trier.report.path = sorted((v, o + trier.report.wish) for v, o in off.items())
        yield
    values, whole = sorted(off), d.kind == "count" or bool(only)
    roots = [v for v in values if abs(off[v]) <= trier.near]
    for a, b in pairwise(values):
        if off[a] * off[b] < 0 and not whole:
            root = _bracketed(trier, (a, off[a]), (b, off[b]))
            if root is not None:
                roots.append(root[0])
                off[root[0]] = root[1]
            yield
    if roots:
        roots.sort(key=lambda r: abs(r - d.value))
        trier.take([roots[0]], off[roots[0]])
        trier.report.others = roots[1:]


Place = Callable[[float], Sequence[float]]  # the values of all dimensions at a place of a way


def _bracketed(
    trier: _Trier, low: tuple[float, float], high: tuple[float, float], at: Place = lambda t: [t]
) -> tuple[float, float] | None:
    """Close in on a passing of the wish between two places (place, off); None where the part fails in
    between: that is no passing."""
    (a, fa), (b, fb), side = low, high, 0
    for _ in range(60):
        c = (a * fb - b * fa) / (fb - fa)
        (fc,) = trier.off([at(c)])
        if fc is None or trier.cancelled():
            return None
        if abs(fc) <= trier.near or abs(b - a) < 1e-12 * max(abs(a), abs(b), 1.0):
            return c, fc
        if fc * fb > 0:
            b, fb = c, fc
            fa, side = (fa / 2 if side == -1 else fa), -1
        else:
            a, fa = c, fc
            fb, side = (fb / 2 if side == 1 else fb), 1
    return None


class _Several:
    """Aim by several dimensions that change as little as they can: the least sum of the squares of their
    changes, each as a share of its own value.

    Each round goes to the nearest place of the present one's tangent plane (least change from the beginning,
    within the ranges), which is a sequence of quadratic programmes (Nocedal and Wright, ch. 18) with one
    condition. Where the wish lies behind a hill, a place on its other side is looked for first, by chance.
    """

    def __init__(self, trier: _Trier, base: Verdict, ranges: list[tuple[float, float]]) -> None:
        self._trier = trier
        self._base = trier.told(base)
        self._x0 = np.array([d.value for d in trier.dimensions])
        width = np.array([b - a for a, b in ranges])
        self._scale = np.where(np.abs(self._x0) > 1e-9, np.abs(self._x0), np.maximum(width, 1e-9))
        low, high = (np.array([r[i] for r in ranges]) for i in (0, 1))
        self._low, self._high = (low - self._x0) / self._scale, (high - self._x0) / self._scale
        self._step = np.array([STEP.get(d.kind, 1e-3) for d in trier.dimensions]) / self._scale

    def found(self) -> Iterator[None]:
        """Look for the values."""
        assert self._base is not None
        begin, off = np.zeros(len(self._x0)), self._base
        yield from self._rounds(begin, off)
        if self._trier.report.values or self._trier.cancelled():
            return
        other = yield from self._across()
        if other is not None:
            yield from self._rounds(*other)

    def _values(self, u: Array) -> list[float]:
        return [float(f"{v:.12g}") for v in self._x0 + u * self._scale]

    def _rounds(self, u: Array, off: float) -> Iterator[None]:
        """Go on from a place until the least change is found; what does it is put down."""
        done: tuple[Array, float] | None = (u, off) if abs(off) <= self._trier.near else None
        for _ in range(ROUNDS):
            slope = self._slope(u, off)
            yield
            if not np.any(np.abs(slope) > 1e-12):
                break
            goal = _nearest(u, off, slope, self._low, self._high)
            ahead = self._towards(u, off, goal)
            yield
            if ahead is None:
                break
            moved = float(np.max(np.abs(ahead[0] - u)))
            u, off = ahead
            if abs(off) <= self._trier.near:
                done = (u, off) if done is None or _change(u) <= _change(done[0]) * (1 + 1e-9) else done
            if moved < SETTLED:
                break
        if done is not None:
            self._trier.take(self._values(done[0]), done[1])

    def _slope(self, u: Array, off: float) -> Array:
        """Return how the figure goes with each dimension, by central differences; to one side at the end of a
        range and where the part does not hold on the other; nought where it holds on none."""
        sets, steps = [], []
        for i, h in enumerate(self._step):
            for way in (-1.0, 1.0):
                v = u.copy()
                v[i] = min(max(u[i] + way * h, self._low[i]), self._high[i])
                steps.append(v[i])
                sets.append(self._values(v))
        offs = self._trier.off(sets)
        slope = np.zeros(len(u))
        for i in range(len(u)):
            ends = zip(steps[2 * i : 2 * i + 2], offs[2 * i : 2 * i + 2], strict=True)
            held = [(at, o) for at, o in ends if o is not None]
            if len(held) == 1:
                held.append((float(u[i]), off))
            if len(held) == 2 and held[0][0] != held[1][0]:
                slope[i] = (held[1][1] - held[0][1]) / (held[1][0] - held[0][0])
        return slope

    def _towards(self, u: Array, off: float, goal: Array) -> tuple[Array, float] | None:
        """Go to a place, or as far towards it as the part holds and the wish comes nearer."""
        share = 1.0
        for _ in range(HALVED):
            v = u + share * (goal - u)
            (found,) = self._trier.off([self._values(v)])
            if found is None:
                share /= 2
                continue
            slides = _change(v) < _change(u) and abs(found) < SLIDE * abs(self._base or 0.0)
            if abs(found) < abs(off) or abs(found) <= self._trier.near or slides:
                return v, found
            share /= 2
        return None

    def _across(self) -> Generator[None, None, tuple[Array, float] | None]:
        """Return a place where the wish is met, between the beginning and one on the wish's other side."""
        assert self._base is not None
        count = len(self._x0)
        from scipy.stats import qmc  # here: it takes a second to load, and few sessions need it

        points = qmc.Sobol(count, scramble=True, rng=np.random.default_rng(1)).random_base2(5)
        ends = [[(k >> i) & 1 for i in range(count)] for k in range(min(2**count, MOST_CORNERS))]
        for shares in (np.array(ends, float), points):
            places = [self._low + s * (self._high - self._low) for s in shares]
            offs = self._trier.off([self._values(p) for p in places])
            yield
            there = [
                (p, o) for p, o in zip(places, offs, strict=True) if o is not None and o * self._base <= 0
            ]
            for p, o in sorted(there, key=lambda found: _change(found[0]))[:3]:
                root = _bracketed(self._trier, (0.0, self._base), (1.0, o), self._way(p))
                if root is not None:
                    return root[0] * p, root[1]
                yield
        return None

    def _way(self, end: Array) -> Place:
        """Return the straight way from the beginning to a place."""
        return lambda t: self._values(t * end)


def _change(u: Array) -> float:
    return float(np.dot(u, u))


def _nearest(u: Array, off: float, slope: Array, low: Array, high: Array) -> Array:
    """Return the place within a box with the least change from nought at which the figure, taken as straight,
    meets its wish; where none does, the one that comes nearest to it."""

    def place(t: float) -> Array:
        return np.clip(t * slope, low, high)

    def left(t: float) -> float:
        return float(off + slope @ (place(t) - u))

    far = 1.0
    while far < 1e18 and left(-far) * left(far) > 0:
        far *= 4
    if left(-far) * left(far) > 0:
        return place(-far if abs(left(-far)) < abs(left(far)) else far)
    return place(float(brentq(left, -far, far, xtol=1e-16, rtol=1e-14)))
