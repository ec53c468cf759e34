"""A chain of curves drawn again at a distance, and kept there."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from itertools import pairwise
from typing import Literal

from pydantic import Field
from scipy.spatial import cKDTree

from ...errors import SketchError
from ...stored import Stored, Value
from ...tolerance import MEETS, SMOOTH_CHAIN
from ..drawn import (
    Arc,
    Bent,
    Circle,
    Curve,
    Drawing,
    Ellipse,
    EllipseArc,
    Free,
    Layout,
    Line,
    Path,
    Place,
    Spline,
    SplinePath,
    meetings,
)
from ..explaining import name_of
from ..regions import Piece
from .base import PartFigures, edits, existing
from .pieces import Worked, carrier

__all__ = ["FlipOffset", "OffsetChain", "beside", "chain_from", "gone_on"]

ROUNDED = (
    "Outside of one corner the chain is rounded, since a spline does not go on beyond its end.",
    "Outside of some corners the chain is rounded, since a spline does not go on beyond its end.",
)


class OffsetChain(Stored):
    """Draw a chain beside a chain.

    side : 1 outside of a closed chain, or left of an open one as it begins; -1 the other side.
    """

    op: Literal["offset"] = "offset"
    curves: list[str] = Field(min_length=1)
    distance: str
    side: Literal[1, -1] = 1
    both: bool = False
    round_gaps: bool = False


class FlipOffset(Stored):
    """Let an offset chain run on the other side of its source."""

    op: Literal["flip_offset"] = "flip_offset"
    constraint: str


@dataclass(frozen=True, slots=True)
class ChainPart:
    """A curve as a chain runs along it; start and end are those of the way."""

    curve: str
    path: Path
    forward: bool

    def at(self, end: int) -> Place:
        """Return where the way begins (0) or ends (1)."""
        return self.path.at(self.path.t1 if bool(end) == self.forward else self.path.t0)

    def left(self, end: int) -> Place:
        """Return the unit normal to the left, at the beginning or end."""
        sign = 1.0 if self.forward else -1.0
        if isinstance(self.path, Bent):
            dx, dy = self.path.moved(self.path.t1 if bool(end) == self.forward else self.path.t0, 1)
            n = math.hypot(dx, dy) or 1.0
            return (-dy / n * sign, dx / n * sign)
        if not self.path.radius:
            return (-self.path.direction[1] * sign, self.path.direction[0] * sign)
        x, y = self.at(end)
        return (
            (self.path.base[0] - x) / self.path.radius * sign,
            (self.path.base[1] - y) / self.path.radius * sign,
        )

    def beside(self, d: float) -> Path:
        """Return the carrier at d mm to the left; a radius of less than nothing is told by the caller."""
        if isinstance(self.path, Bent):
            return replace(self.path, away=self.path.away + (d if self.forward else -d))
        if not self.path.radius:
            nx, ny = self.left(0)
            return replace(self.path, base=(self.path.base[0] + d * nx, self.path.base[1] + d * ny))
        return replace(self.path, radius=self.path.radius - (d if self.forward else -d))


@edits(OffsetChain, "Offset a chain")
def _offset(drawing: Drawing, edit: OffsetChain, figures: PartFigures) -> tuple[Drawing, list[str]]:
    distance = figures.number(edit.distance, "length")
    if distance <= 0:
        raise SketchError(
            f"An offset is greater than zero; this comes to {distance:g}. The side is a choice of its own.",
            field="distance",
        )
    work = Worked(drawing)
    formula, tag = edit.distance, figures.new_tag("offset")
    for ways, closed in _chains(drawing, edit.curves):
        for side in (edit.side, -edit.side) if edit.both else (edit.side,):
            _draw(
                work, ways, closed, side * distance, edit.round_gaps, Value(formula=formula, tag=tag), figures
            )
            formula, tag = tag or formula, ""
    made = [
        c for k, c in work.drawing.constraints.items() if c.kind == "offset" and k not in drawing.constraints
    ]
    rounded = sum(source in drawing.points for c in made for source in c.of[::2])
    return work.drawing, [ROUNDED[rounded > 1]] if rounded and not edit.round_gaps else []


@edits(FlipOffset, "Turn an offset over")
def _flip(drawing: Drawing, edit: FlipOffset, figures: PartFigures) -> Drawing:
    c = existing(drawing, edit.constraint)
    if c.kind != "offset" or c.value is None:
        raise SketchError("Only an offset has another side to run on.", field=edit.constraint)
    sources = [s for s in c.of[::2] if s in drawing.curves]
    round_gaps = len(sources) < len(c.of) // 2
    value = figures.number(c.value.formula, "length")
    work = Worked(drawing)
    work.drop(edit.constraint, *c.of[1::2])
    (ways, closed), *_ = _chains(work.drawing, sources)
    # The chain may run the other way round than when it was made: the first source tells the side that was.
    first = next(w for w in ways if w.curve == sources[0])
    now = c.sense * (1 if first.forward else -1) * (-1 if closed and _turns_left(ways) else 1)
    _draw(work, ways, closed, -now * value, round_gaps, c.value, figures)
    return work.drawing


def _chains(drawing: Drawing, curves: list[str]) -> list[tuple[list[ChainPart], bool]]:
    """Return the chains that curves form by their joints, each in order, and whether it is closed."""
    for c in curves:
        if c not in drawing.curves:
            raise SketchError(f"There is no curve “{c}” in this sketch any more.", field=c)
    joined = _joined(drawing)
    left = dict.fromkeys(curves)
    chains: list[tuple[list[ChainPart], bool]] = []

    def ends(c: str) -> tuple[str, str]:
        curve = drawing.curves[c]
        a, b = curve.points[-2:]
        return joined[a], joined[b]

    def grow(node: str) -> list[ChainPart]:
        found: list[ChainPart] = []
        while True:
            following = next((c for c in left if drawing.curves[c].ends and node in ends(c)), None)
            if following is None:
                return found
            del left[following]
            a, b = ends(following)
            found.append(ChainPart(following, carrier(drawing, following), node == a))
            node = b if node == a else a

    while left:
        first = next(iter(left))
        del left[first]
        if not drawing.curves[first].ends:
            chains.append(([ChainPart(first, carrier(drawing, first), True)], True))
            continue
        a, b = ends(first)
        ahead = grow(b)
        behind = [ChainPart(w.curve, w.path, not w.forward) for w in reversed(grow(a))]
        ways = [*behind, ChainPart(first, carrier(drawing, first), True), *ahead]
        closed = (len(ways) > 1 or isinstance(ways[0].path, SplinePath)) and math.dist(
            ways[0].at(0), ways[-1].at(1)
        ) < MEETS
        _sure(drawing, ways, closed)
        chains.append((ways, closed))
    return chains


def chain_from(drawing: Drawing, curve: str) -> tuple[list[Piece], bool]:
    """Return the chain of real curves that hang together with one, in order, and whether it is closed."""
    joined = _joined(drawing)
    rest = {c for c, k in drawing.curves.items() if not k.construction and k.ends}
    found, tips = [curve], {joined[p] for p in drawing.curves[curve].ends or ()}
    rest.discard(curve)
    while fresh := [
        c for c in drawing.curves if c in rest and tips & {joined[p] for p in drawing.curves[c].ends or ()}
    ]:
        found += fresh
        rest -= set(fresh)
        tips |= {joined[p] for c in fresh for p in drawing.curves[c].ends or ()}
    chains = _chains(drawing, found)
    if len(chains) > 1:
        raise SketchError(
            "Several chains begin where this one ends, so it is not clear how it goes on.", field=curve
        )
    ways, closed = chains[0]
    return [
        Piece(w.curve, w.path, *((w.path.t0, w.path.t1) if w.forward else (w.path.t1, w.path.t0)))
        for w in ways
    ], closed


def gone_on(pieces: list[Piece], by: float, word: str = "beyond") -> list[Piece]:
    """Return an open chain with its end gone on straight by mm: a line grows, a curve is followed by a line
    named `<curve>.<word>`."""
    last = pieces[-1]
    if not last.path.radius and not isinstance(last.path, Bent):
        return [*pieces[:-1], replace(last, t1=last.t1 + math.copysign(by, last.t1 - last.t0))]
    x, y = ChainPart(
        last.curve, replace(last.path, t0=min(last.t0, last.t1), t1=max(last.t0, last.t1)), last.t1 > last.t0
    ).left(1)
    return [*pieces, Piece(f"{last.curve}.{word}", Path(last.end, (y, -x), 0.0, 0.0, by), 0.0, by)]


def beside(drawing: Drawing, pieces: list[Piece], closed: bool, d: float) -> list[Piece] | None:
    """Return a chain at d mm to its left (negative: right), corners sharp; None where a curve would shrink to
    nothing or turn over."""
    if not d:
        return pieces
    ways = [
        ChainPart(p.curve, replace(p.path, t0=min(p.t0, p.t1), t1=max(p.t0, p.t1)), p.t1 > p.t0)
        for p in pieces
    ]
    places = _joints(drawing, ways, closed, d, False)
    if places is None:
        return None
    found = []
    for w, (a, b) in zip(ways, places, strict=True):
        path = w.beside(d)
        if len(ways) == 1 and closed:
            t0, t1 = w.path.t0, w.path.t1
        else:
            t0, t1 = (path.where(*p) for p in ((a, b) if w.forward else (b, a)))
            if path.turns:
                t1 = t0 + (t1 - t0) % (2 * math.pi)
        found.append(Piece(w.curve, replace(path, t0=t0, t1=t1), *((t0, t1) if w.forward else (t1, t0))))
    return found


def _joined(drawing: Drawing) -> dict[str, str]:
    """Return for every point the one that stands for all it is joined to.

    Curves taken in meet where the model's edges do.
    """
    joined = dict(Layout(drawing).joined)
    ends = [p for c in drawing.taken if c in drawing.curves for p in drawing.curves[c].ends or ()]
    if ends:
        for i, j in cKDTree([drawing.place(p) for p in ends]).query_pairs(MEETS):
            one, other = joined[ends[i]], joined[ends[j]]
            if one != other:
                joined = {p: one if root == other else root for p, root in joined.items()}
    return joined


def _sure(drawing: Drawing, ways: list[ChainPart], closed: bool) -> None:
    """Raise SketchError where free curves run smoothly into each other and nothing keeps them so."""
    bound = {frozenset(k.of) for k in drawing.constraints.values() if k.kind == "tangent" and not k.reference}
    for one, two in pairwise([*ways, *(ways[:1] if closed and len(ways) > 1 else [])]):
        a, b = drawing.curves[one.curve], drawing.curves[two.curve]
        (ux, uy), (vx, vy) = one.left(1), two.left(0)
        if not isinstance(a, Free) or not isinstance(b, Free) or abs(ux * vy - uy * vx) > SMOOTH_CHAIN:
            continue
        same = isinstance(a, Spline) and isinstance(b, Spline) and a.over == b.over
        if (
            not same
            and frozenset((one.curve, two.curve)) not in bound
            and not {one.curve, two.curve} <= drawing.taken.keys()
        ):
            raise SketchError(
                f"{name_of(drawing, one.curve).capitalize()} runs smoothly into "
                f"{name_of(drawing, two.curve)}, but nothing "
                "keeps it so. Make them tangent first.",
                field=two.curve,
            )


def _turns_left(ways: list[ChainPart]) -> bool:
    """Tell whether a closed chain runs counter-clockwise."""
    return (
        sum(w.path.area(*((w.path.t0, w.path.t1) if w.forward else (w.path.t1, w.path.t0))) for w in ways) > 0
    )


def _draw(
    work: Worked,
    ways: list[ChainPart],
    closed: bool,
    distance: float,
    round_gaps: bool,
    value: Value,
    figures: PartFigures,
) -> None:
    """Draw the chain at so many mm outside (closed) or to the left (open)."""
    d = -distance if closed and _turns_left(ways) else distance
    places = _joints(work.drawing, ways, closed, d, round_gaps)
    if places is None:
        low, high = 0.0, 1.0
        for _ in range(30):
            half = (low + high) / 2
            fits = _joints(work.drawing, ways, closed, d * half, round_gaps) is not None
            low, high = (half, high) if fits else (low, half)
        limit = (
            f" Up to about {figures.show(float(f'{abs(d) * low:.3g}'), 'length')} goes." if low > 1e-3 else ""
        )
        raise SketchError(
            "At this distance a curve of the chain would shrink to nothing or turn over." + limit,
            field="distance",
        )
    pairs: list[str] = []
    made: list[tuple[str, str, str]] = []  # curve, start and end of the way along it
    for w, (a, b) in zip(ways, places, strict=True):
        source = work.drawing.curves[w.curve]
        beside = w.beside(d)
        if not source.ends:
            pairs += [w.curve, work.curve(_whole(work, source, beside))]
            continue
        start, end = work.point(a if w.forward else b), work.point(b if w.forward else a)
        if isinstance(source, Free):
            c = work.curve(_further(source, beside).model_copy(update={"start": start, "end": end}))
        elif isinstance(source, Line):
            c = work.curve(Line(start=start, end=end, construction=source.construction))
        else:
            c = work.curve(
                Arc(
                    centre=work.point(w.path.base),
                    start=start,
                    end=end,
                    radius=beside.radius,
                    construction=source.construction,
                )
            )
        pairs += [w.curve, c]
        made.append((c, *((start, end) if w.forward else (end, start))))
    for i in range(len(made) if closed else len(made) - 1):
        (_, _, tip), (_, tail, _) = made[i], made[(i + 1) % len(made)]
        if math.dist(work.drawing.place(tip), work.drawing.place(tail)) < MEETS:
            work.constrain("coincident", tip, tail)
        else:
            pairs += _gap(work, ways[i], tip, tail, abs(d), d > 0)
    work.constrain("offset", *pairs, value=value, sense=1.0 if (d > 0) == ways[0].forward else -1.0)


def _whole(work: Worked, source: Curve, beside: Path) -> Curve:
    if isinstance(source, Free):
        return _further(source, beside)
    return Circle(centre=work.point(beside.base), radius=beside.radius, construction=source.construction)


def _further(source: Ellipse | EllipseArc | Spline, beside: Path) -> Ellipse | EllipseArc | Spline:
    """Return a free curve as it runs further away from what its points shape."""
    assert isinstance(beside, Bent)
    if abs(beside.away) < MEETS:
        raise SketchError(
            "At this distance the chain would run along the very curve that it is already beside.",
            field="distance",
        )
    return source.model_copy(update={"side": 1 if beside.away > 0 else -1, "away": abs(beside.away)})


def _gap(work: Worked, before: ChainPart, tip: str, tail: str, radius: float, left: bool) -> list[str]:
    """Round the gap at a sharp corner by an arc about it; returns the pair for the constraint."""
    end = work.drawing.curves[before.curve].points[-2:][1 if before.forward else 0]
    # Seen from the corner, a chain to the left of a right turn runs clockwise about it.
    first, last = (tail, tip) if left else (tip, tail)
    start, stop = work.point(work.drawing.place(first)), work.point(work.drawing.place(last))
    arc = work.curve(
        Arc(
            centre=work.point(before.at(1)),
            start=start,
            end=stop,
            radius=radius,
            construction=work.drawing.curves[before.curve].construction,
        )
    )
    work.constrain("coincident", start, first)
    work.constrain("coincident", stop, last)
    return [end, arc]


def _joints(
    drawing: Drawing, ways: list[ChainPart], closed: bool, d: float, round_gaps: bool
) -> list[tuple[Place, Place]] | None:
    """Return where each offset curve begins and ends, or None where one would shrink to nothing or turn
    over."""
    if any(w.path.radius and w.beside(d).radius < MEETS for w in ways):
        return None
    n = len(ways)
    if n == 1 and not drawing.curves[ways[0].curve].ends:
        beside = ways[0].beside(d)
        return None if isinstance(beside, Bent) and beside.turns_back() else [(ways[0].at(0), ways[0].at(1))]
    free = [[(w.at(e)[0] + d * w.left(e)[0], w.at(e)[1] + d * w.left(e)[1]) for e in (0, 1)] for w in ways]
    for i in range(n if closed else n - 1):
        one, two = ways[i], ways[(i + 1) % n]
        here, there = free[i][1], free[(i + 1) % n][0]
        if math.dist(here, there) < MEETS:
            continue
        if one is two:
            raise SketchError(
                f"{name_of(drawing, one.curve).capitalize()} comes back to its beginning at a corner. Break "
                "it in two and "
                "offset both parts as a chain.",
                field=one.curve,
            )
        (ax, ay), (bx, by) = one.left(1), two.left(0)
        convex = (ax * by - ay * bx) * d < 0
        if convex and round_gaps:
            continue
        met = meetings(
            *(p.whole() if isinstance(p, SplinePath) else p for p in (one.beside(d), two.beside(d)))
        )
        if not met and convex and (isinstance(one.path, SplinePath) or isinstance(two.path, SplinePath)):
            continue  # beyond its end there is nothing of a spline: such a corner is always rounded
        if not met:
            return None
        at = min(met, key=lambda m: math.dist(m, here) + math.dist(m, there))
        free[i][1] = free[(i + 1) % n][0] = at
    for w, (a, b) in zip(ways, free, strict=True):
        if _turned_over(w, a, b, d):
            return None
    return [(a, b) for a, b in free]


def _turned_over(w: ChainPart, a: Place, b: Place, d: float) -> bool:
    if not w.path.radius and not isinstance(w.path, Bent):
        (px, py), (qx, qy) = w.at(0), w.at(1)
        return (b[0] - a[0]) * (qx - px) + (b[1] - a[1]) * (qy - py) <= MEETS
    path = w.beside(d)
    if isinstance(path, SplinePath):
        t0, t1 = sorted((path.where(*a), path.where(*b))) if math.dist(a, b) > MEETS else (path.t0, path.t1)
        ahead = w.forward == (path.where(*b) >= path.where(*a)) or math.dist(a, b) < MEETS
        return not ahead or (t1 - t0) * path.scale < MEETS or replace(path, t0=t0, t1=t1).turns_back()
    if isinstance(path, Bent):
        t0, t1 = (path.where(*p) for p in ((a, b) if w.forward else (b, a)))
        sweep = (t1 - t0) % (2 * math.pi)
        over = sweep > (path.t1 - path.t0 + 2 * math.pi) / 2 or sweep * path.scale < MEETS
        return over or replace(path, t0=t0, t1=t0 + sweep).turns_back()
    sweep = (path.where(*(b if w.forward else a)) - path.where(*(a if w.forward else b))) % (2 * math.pi)
    had = w.path.t1 - w.path.t0
    return sweep > (had + 2 * math.pi) / 2 or sweep * path.radius < MEETS
