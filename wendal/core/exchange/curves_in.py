"""Flat curves of a file as a sketch's drawing: ends that meet are joined, gaps and forks are told."""

from __future__ import annotations

import math
from dataclasses import dataclass, field

import numpy as np
from scipy.sparse import coo_matrix
from scipy.sparse.csgraph import connected_components
from scipy.spatial import cKDTree

from ..errors import DocumentError
from ..sketch import Drawing
from ..sketch.drawn import Arc, Circle, Constraint, Curve, Ellipse, EllipseArc, Line, Spline, chord_knots
from ..strokes import XY, Stroke

__all__ = ["UNITS", "CurvesRead", "drawing_of"]

UNITS = {"mm": 1.0, "cm": 10.0, "m": 1000.0, "in": 25.4, "ft": 304.8}
WITHIN = 0.01  # mm at which ends are one, unless told otherwise
MOST = 3000  # curves that are taken at once
PLACES = 24  # of a spline that is not one of ours, through which one of ours runs
FARTHEST = 1e5  # mm


@dataclass(slots=True)
class CurvesRead:
    """What a file's curves came to. drawing : as it is put into a sketch. layers : how many curves each
    has. low, high : mm. joined : ends that were made one; gaps : ends that nothing is near to, forks :
    places where more than two meet. told : what was not taken, or not exactly, in words."""

    drawing: Drawing
    unit: str
    layers: dict[str, int]
    low: XY
    high: XY
    joined: int
    gaps: list[XY] = field(default_factory=list)
    forks: list[XY] = field(default_factory=list)
    told: list[str] = field(default_factory=list)


def drawing_of(strokes: list[Stroke], unit: str, told: list[str], within: float = WITHIN) -> CurvesRead:
    """Return strokes (mm) as a drawing; raises DocumentError where there is nothing to take, or too much."""
    layers: dict[str, int] = {}
    for s in strokes:
        layers[s.layer] = layers.get(s.layer, 0) + 1
    kept = [s for s in strokes if _sound(s, within)]
    if len(kept) < len(strokes):
        told = [*told, f"{len(strokes) - len(kept)} without a length, or too far away"]
    if not kept:
        raise DocumentError("There is no curve in this file that a sketch can take.", field="file")
    if len(kept) > MOST:
        raise DocumentError(f"These are {len(kept)} curves, and a sketch takes {MOST} at once.", field="file")
    work = _Work()
    rough = sum(work.add(s) for s in kept)
    if rough:
        told = [
            *told,
            f"{rough} splines run through {PLACES} places each: they are of a kind that sketches do not have",
        ]
    joined, gaps, forks = work.join(within)
    places = [s.at(i / 16) for s in kept for i in range(17)]
    xs, ys = zip(*places, strict=True)
    return CurvesRead(
        Drawing(points=work.points, curves=work.curves, constraints=work.constraints, last=work.last),
        unit,
        layers,
        (min(xs), min(ys)),
        (max(xs), max(ys)),
        joined,
        gaps,
        forks,
        told,
    )


def _sound(s: Stroke, within: float) -> bool:
    places = [s.at(i / 4) for i in range(5)]
    if not all(math.isfinite(c) and abs(c) < FARTHEST for p in places for c in p):
        return False
    return max(math.dist(places[0], p) for p in places[1:]) > max(within, 1e-6)


class _Work:
    """A drawing that grows."""

    def __init__(self) -> None:
        self.points: dict[str, XY] = {}
        self.curves: dict[str, Curve] = {}
        self.constraints: dict[str, Constraint] = {}
        self.last = 0
        self._ends: list[str] = []

    def _id(self, letter: str) -> str:
        self.last += 1
        return f"{letter}{self.last}"

    def _point(self, at: XY, end: bool = False) -> str:
        point = self._id("p")
        self.points[point] = (float(at[0]), float(at[1]))
        if end:
            self._ends.append(point)
        return point

    def add(self, s: Stroke) -> bool:
        """Add a stroke; tell whether it is only near to what it was."""
        if s.kind == "line":
            start, end = self._point(s.start, True), self._point(s.end, True)
            self.curves[self._id("c")] = Line(start=start, end=end)
        elif s.kind == "arc" and s.closed:
            self.curves[self._id("c")] = Circle(centre=self._point(s.centre), radius=s.radius)
        elif s.kind == "arc":
            a, b = (s.start, s.end) if s.t1 > s.t0 else (s.end, s.start)
            centre, start, end = self._point(s.centre), self._point(a, True), self._point(b, True)
            self.curves[self._id("c")] = Arc(centre=centre, start=start, end=end, radius=s.radius)
        elif s.kind == "ellipse":
            self._ellipse(s)
        else:
            return self._spline(s)
        return False

    def _ellipse(self, s: Stroke) -> None:
        centre = self._point(s.centre)
        tip = self._point((s.centre[0] + s.major[0], s.centre[1] + s.major[1]))
        other = math.hypot(*s.major) * s.ratio
        if s.closed:
            self.curves[self._id("c")] = Ellipse(centre=centre, tip=tip, radius=other)
            return
        a, b = (s.start, s.end) if s.t1 > s.t0 else (s.end, s.start)
        start, end = self._point(a, True), self._point(b, True)
        self.curves[self._id("c")] = EllipseArc(centre=centre, tip=tip, start=start, end=end, radius=other)

    def _spline(self, s: Stroke) -> bool:
        """Add a spline: as it is where it is a clamped one without weights whose inner knots are single,
        else through places of it."""
        n, p = len(s.poles), s.degree
        joints = sorted(set(s.knots))
        own = (
            not s.weights
            and p == min(3, n - 1)
            and n >= 3
            and len(joints) == n - p + 1
            and list(s.knots[: p + 1]) == [joints[0]] * (p + 1)
            and list(s.knots[-p - 1 :]) == [joints[-1]] * (p + 1)
        )
        poles = list(s.poles) if own else [s.at(i / (PLACES - 1)) for i in range(PLACES)]
        if not own and s.closed:
            poles[-1] = poles[0]
        over = [self._point(at, i in (0, len(poles) - 1)) for i, at in enumerate(poles)]
        span = joints[-1] - joints[0]
        if own:
            knots = [(k - joints[0]) / span for k in joints]
            knots[0], knots[-1] = 0.0, 1.0
            curve = Spline(over=over, manner="pulled", knots=knots)
        else:
            curve = Spline(over=over, manner="through", knots=chord_knots([self.points[q] for q in over]))
        self.curves[self._id("c")] = curve
        return not own

    def join(self, within: float) -> tuple[int, list[XY], list[XY]]:
        """Bind ends that meet: they are moved into their middle and made coincident. Return how many were
        joined, and where ends are alone and where more than two meet."""
        if not self._ends:
            return 0, [], []
        places = np.array([self.points[e] for e in self._ends])
        pairs = cKDTree(places).query_pairs(within, output_type="ndarray")
        size = len(places)
        graph = coo_matrix((np.ones(len(pairs)), (pairs[:, 0], pairs[:, 1])), shape=(size, size))
        count, label = connected_components(graph, directed=False)
        gaps, forks, joined = [], [], 0
        for group in range(count):
            held = np.flatnonzero(label == group)
            middle = places[held].mean(axis=0)
            at = (float(middle[0]), float(middle[1]))
            if len(held) == 1:
                gaps.append(at)
                continue
            if len(held) > 2:
                forks.append(at)
            joined += len(held) - 1
            first = self._ends[held[0]]
            for k in held:
                self.points[self._ends[k]] = at
            for k in held[1:]:
                self.constraints[self._id("k")] = Constraint(kind="coincident", of=[first, self._ends[k]])
        return joined, gaps, forks
