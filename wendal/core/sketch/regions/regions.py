"""The closed regions of a drawing, found in the arrangement of its curves.

Curves are cut where they meet; the pieces form a planar graph whose faces are traced with their inside to
the left. A region knows by which side of which curve it is bounded: `c5+` lies to the left of curve c5 as
drawn, `c5-` to its right. That is its name for references.
"""

from __future__ import annotations

import math
from collections import defaultdict
from dataclasses import dataclass, field
from itertools import pairwise

import numpy as np
from scipy.sparse import coo_matrix
from scipy.sparse.csgraph import connected_components
from scipy.spatial import cKDTree

from ...tolerance import KINK, MEETS
from ..drawn import Drawing, Path, crossings, path_of

__all__ = ["Piece", "Region", "Regions", "filled", "find_regions"]

TOUCHING = 0.01  # of a curve's box: a shorter piece on another curve only touches it
HEIGHTS = 16  # that are tried for a place inside


@dataclass(frozen=True, slots=True)
class Piece:
    """A part of a curve between two crossings, in the direction in which a loop runs along it.

    t0, t1 : parameters on the path (mm along a line, rad around an arc); t1 < t0 runs against the curve.
    """

    curve: str
    path: Path
    t0: float
    t1: float

    @property
    def side(self) -> str:
        """The curve's side on which the loop's inside lies."""
        return f"{self.curve}{'+' if self.t1 > self.t0 else '-'}"

    @property
    def start(self) -> tuple[float, float]:
        """Where the piece begins, mm."""
        return self.path.at(self.t0)

    @property
    def end(self) -> tuple[float, float]:
        """Where the piece ends, mm."""
        return self.path.at(self.t1)

    def reversed(self) -> Piece:
        """Return the piece run the other way."""
        return Piece(self.curve, self.path, self.t1, self.t0)

    def area(self) -> float:
        """Return the part of the enclosed area (mm²) that this piece contributes."""
        return self.path.area(self.t0, self.t1)

    def polyline(self, fineness: float = 0.1) -> list[tuple[float, float]]:
        """Return points along the piece, its end left out; fineness in rad."""
        return self.path.along(self.path.samples(self.t0, self.t1, fineness))


Loop = list[Piece]


@dataclass(slots=True)
class Region:
    """A closed region: its outer loop counter-clockwise, its holes clockwise."""

    outer: Loop
    holes: list[Loop] = field(default_factory=list)
    _outline: list[list[tuple[float, float]]] = field(default_factory=list, repr=False, compare=False)

    @property
    def sides(self) -> frozenset[str]:
        """The curve sides that bound it from outside."""
        return frozenset(p.side for p in self.outer)

    @property
    def area(self) -> float:
        """The area in mm², holes taken off."""
        return float(sum(p.area() for loop in (self.outer, *self.holes) for p in loop))

    def outline(self) -> list[list[tuple[float, float]]]:
        """Return its loops as polygons, the outer one first."""
        if len(self._outline) != 1 + len(self.holes):
            self._outline = [[q for p in loop for q in p.polyline()] for loop in (self.outer, *self.holes)]
        return self._outline

    def contains(self, x: float, y: float) -> bool:
        """Tell whether a place (mm) lies inside."""
        return sum(_inside(loop, x, y) for loop in self.outline()) % 2 == 1

    def inside(self) -> tuple[float, float]:
        """Return a place (mm) well inside."""
        outline = self.outline()
        ends = [np.array([loop, loop[1:] + loop[:1]]) for loop in outline]
        (ax, ay), (bx, by) = (np.concatenate([e[i] for e in ends]).T for i in (0, 1))
        heights = np.unique(np.round(ay, 9))
        best = (0.0, (float(ax[0]), float(ay[0])))
        # The widest place halfway between two corners' heights; of very many heights, between those that are
        # furthest apart.
        for i in np.argsort(-np.diff(heights), kind="stable")[:HEIGHTS]:
            y = (heights[i + 1] + heights[i]) / 2
            cut = (ay > y) != (by > y)
            xs = np.sort(ax[cut] + (y - ay[cut]) * (bx[cut] - ax[cut]) / (by[cut] - ay[cut]))
            widths = xs[1::2] - xs[: 2 * (len(xs) // 2) : 2]
            if len(widths):
                k = int(widths.argmax())
                best = max(best, (float(widths[k]), (float(xs[2 * k] + xs[2 * k + 1]) / 2, float(y))))
        return best[1]


@dataclass(slots=True)
class Regions:
    """All regions, and what may be amiss with the outlines.

    open_ends : (curve, place, gap to the next open end in mm or inf). crossings : (curve, curve, place) where
    two curves pass through each other. overlaps : (curve, earlier curve, place) where a curve doubles
    another, at the middle of what is double.
    """

    found: list[Region]
    open_ends: list[tuple[str, tuple[float, float], float]]
    crossings: list[tuple[str, str, tuple[float, float]]] = field(default_factory=list)
    overlaps: list[tuple[str, str, tuple[float, float]]] = field(default_factory=list)


def filled(regions: list[Region]) -> list[Region]:
    """Return the regions that a whole sketch stands for: what lies in a hole of one is a hole, what lies in a
    hole of that is filled again."""
    around = [r for r in regions if r.holes]

    def depth(region: Region) -> int:
        x, y = region.inside()
        return sum(s is not region and _inside(s.outline()[0], x, y) for s in around)

    return [r for r in regions if depth(r) % 2 == 0] if around else regions


def find_regions(drawing: Drawing) -> Regions:
    """Find every closed region that the real (not construction) curves bound."""
    paths = {c: path_of(drawing, c) for c, curve in drawing.curves.items() if not curve.construction}
    met = list(crossings(paths))
    pieces, ends = _pieces(paths, met)
    pieces, ends, overlaps = _once(pieces, ends)
    pieces, ends, loose = _without_dangling(pieces, ends)
    loops = _trace(pieces, ends)
    sizes = [float(sum(p.area() for p in loop)) for loop in loops]
    regions = [Region(loop) for loop, size in zip(loops, sizes, strict=True) if size > MEETS**2]
    holes = [loop for loop, size in zip(loops, sizes, strict=True) if size < -(MEETS**2)]
    around = [_Surrounds(r) for r in regions] if holes else []
    for hole in holes:
        _nest(around, hole)
    through = [(a, b, paths[a].at(t)) for a, b, t, u in met if _amid(paths[a], t) and _amid(paths[b], u)]
    return Regions(
        sorted(regions, key=lambda r: -r.area),
        _gaps(loose),
        [m for m in through if not _touching(paths, *m)],
        overlaps,
    )


def _amid(path: Path, t: float) -> bool:
    """Tell whether a parameter is away from a path's ends."""
    return path.closed or (path.t0 + MEETS / path.scale < t < path.t1 - MEETS / path.scale)


def _touching(paths: dict[str, Path], a: str, b: str, place: tuple[float, float]) -> bool:
    """Tell whether two paths run in one direction where they meet: they touch there and do not cross."""
    turns = [p.heading(t, t + 1.0)[0] for p, t in ((paths[c], paths[c].where(*place)) for c in (a, b))]
    return abs(math.sin(turns[0] - turns[1])) < KINK


def _pieces(
    paths: dict[str, Path], met: list[tuple[str, str, float, float]]
) -> tuple[list[Piece], list[tuple[int, int]]]:
    """Cut the curves where they meet; return the pieces and the nodes they run between."""
    cuts: dict[str, list[float]] = {c: [] if p.closed else [p.t0, p.t1] for c, p in paths.items()}
    for first, second, t, u in met:
        cuts[first].append(t)
        cuts[second].append(u)
    pieces = []
    for c, path in paths.items():
        ts = sorted(min(max(t, path.t0), path.t1) for t in cuts[c])
        if path.closed:  # a circle starts, and ends, at its first crossing
            begin = ts[0] if ts else path.t0
            ts = [*(ts or [begin]), begin + 2 * math.pi]
        kept = [ts[0]]
        for t in ts[1:]:
            if (t - kept[-1]) * path.scale > MEETS:
                kept.append(t)
        if len(kept) > 1 and (ts[-1] - kept[-1]) * path.scale <= MEETS:
            kept[-1] = ts[-1]
        pieces += [Piece(c, path, a, b) for a, b in pairwise(kept)]
    if not pieces:
        return [], []
    places = np.array([q for p in pieces for q in (p.start, p.end)])
    near = cKDTree(places).query_pairs(2 * MEETS, output_type="ndarray")
    node = connected_components(
        coo_matrix((np.ones(len(near)), near.T), shape=(len(places), len(places))), False
    )[1].tolist()
    return pieces, [(node[2 * i], node[2 * i + 1]) for i in range(len(pieces))]


def _once(
    pieces: list[Piece], ends: list[tuple[int, int]]
) -> tuple[list[Piece], list[tuple[int, int]], list[tuple[str, str, tuple[float, float]]]]:
    """Leave out pieces that lie on an earlier curve's piece, and tell of them: where curves double each
    other, the first bounds."""
    doubled: list[tuple[str, str, tuple[float, float]]] = []
    before: tuple[int, tuple[str, str]] | None = None
    kept: dict[tuple[int, int], list[int]] = defaultdict(list)
    for i, (a, b) in enumerate(ends):
        middle = pieces[i].path.at((pieces[i].t0 + pieces[i].t1) / 2)
        same = kept[min(a, b), max(a, b)]
        earlier = next(
            (
                k
                for k in same
                if math.dist(middle, pieces[k].path.at((pieces[k].t0 + pieces[k].t1) / 2)) < 2 * MEETS
            ),
            None,
        )
        if earlier is None:
            same.append(i)
        elif _long(pieces[i]) and _long(pieces[earlier]):
            pair = (pieces[i].curve, pieces[earlier].curve)
            if before != (i - 1, pair):  # one stretch in several pieces is told once
                doubled.append((*pair, middle))
            before = (i, pair)
    order = sorted(i for same in kept.values() for i in same)
    return [pieces[i] for i in order], [ends[i] for i in order], doubled


def _long(piece: Piece) -> bool:
    """Tell whether a piece is enough of its curve to lie on another: where curves only touch, a very short
    one seems to."""
    left, low, right, high = piece.path.box()
    return abs(piece.t1 - piece.t0) * piece.path.scale > TOUCHING * math.hypot(right - left, high - low)


def _without_dangling(
    pieces: list[Piece], ends: list[tuple[int, int]]
) -> tuple[list[Piece], list[tuple[int, int]], list[tuple[str, tuple[float, float]]]]:
    loose: list[tuple[str, tuple[float, float]]] = []
    first = True
    while True:
        degree: dict[int, int] = defaultdict(int)
        for a, b in ends:
            degree[a] += 1
            degree[b] += 1
        dangling = [i for i, (a, b) in enumerate(ends) if degree[a] == 1 or degree[b] == 1]
        if first:
            loose = [
                (pieces[i].curve, pieces[i].start if degree[n] == 1 and n == ends[i][0] else pieces[i].end)
                for i in dangling
                for n in ends[i]
                if degree[n] == 1
            ]
            first = False
        if not dangling:
            return pieces, ends, loose
        keep = [i for i in range(len(pieces)) if i not in set(dangling)]
        pieces, ends = [pieces[i] for i in keep], [ends[i] for i in keep]


def _trace(pieces: list[Piece], ends: list[tuple[int, int]]) -> list[Loop]:
    """Walk around every face, inside to the left: at each node take the next way clockwise."""
    half = list(pieces) + [p.reversed() for p in pieces]
    start = [a for a, _ in ends] + [b for _, b in ends]
    n = len(pieces)
    around: dict[int, list[int]] = defaultdict(list)
    for h in range(2 * n):
        around[start[h]].append(h)
    for out in around.values():
        out.sort(key=lambda h: half[h].path.heading(half[h].t0, half[h].t1))
    following = {}
    for out in around.values():
        for i, h in enumerate(out):
            following[(h + n) % (2 * n)] = out[i - 1]
    loops, seen = [], set()
    for h in range(2 * n):
        loop = []
        while h not in seen:
            seen.add(h)
            loop.append(half[h])
            h = following[h]
        if loop:
            loops.append(loop)
    return loops


class _Surrounds:
    """A region as it may surround holes: its outline, the box of that, its area and the pieces that bound
    it."""

    def __init__(self, region: Region) -> None:
        self.region = region
        self.outline = [q for p in region.outer for q in p.polyline()]
        self.area = sum(p.area() for p in region.outer)
        self.own = {(p.curve, min(p.t0, p.t1)) for p in region.outer}
        places = np.array(self.outline)
        (left, low), (right, high) = places.min(axis=0).tolist(), places.max(axis=0).tolist()
        self.box = (left, right, low, high)

    def holds(self, x: float, y: float) -> bool:
        """Tell whether a place lies inside the outer loop."""
        left, right, low, high = self.box
        return left <= x <= right and low <= y <= high and _inside(self.outline, x, y)


def _nest(regions: list[_Surrounds], hole: Loop) -> None:
    """Give a clockwise loop to the smallest region that surrounds it from outside."""
    own = {(p.curve, min(p.t0, p.t1)) for p in hole}
    x, y = hole[0].path.at((hole[0].t0 + hole[0].t1) / 2)
    around = [r for r in regions if r.holds(x, y) and not own & r.own]
    if around:
        min(around, key=lambda r: r.area).region.holes.append(hole)


def _cuts(loop: list[tuple[float, float]], y: float) -> list[float]:
    """Return where a polygon crosses the height y."""
    found = []
    for (ax, ay), (bx, by) in zip(loop, loop[1:] + loop[:1], strict=True):
        if (ay > y) != (by > y):
            found.append(ax + (y - ay) * (bx - ax) / (by - ay))
    return found


def _inside(loop: list[tuple[float, float]], x: float, y: float) -> bool:
    return sum(cut > x for cut in _cuts(loop, y)) % 2 == 1


def _gaps(loose: list[tuple[str, tuple[float, float]]]) -> list[tuple[str, tuple[float, float], float]]:
    """Tell for every open end how far the next open end is."""
    return [
        (c, p, min((math.dist(p, q) for i, (_, q) in enumerate(loose) if i != k), default=math.inf))
        for k, (c, p) in enumerate(loose)
    ]
