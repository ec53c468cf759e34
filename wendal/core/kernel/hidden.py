"""Exact lines of a view: what is seen of bodies and what is hidden, each line with the edge or face that it
is.

The kernel's own hidden-line algorithm, read through its data and not through its shapes, which lose what a
line was. It is sometimes wrong: a rim far behind a flange was drawn through it. So every piece is proved by
rays towards the eye, and cut where the rays change."""

from __future__ import annotations

import logging
import math
from collections.abc import Iterable, Iterator
from dataclasses import dataclass, replace
from itertools import pairwise
from typing import Any, Literal

import numpy as np
from OCP.Bnd import Bnd_Box
from OCP.BRep import BRep_Tool
from OCP.BRepAdaptor import BRepAdaptor_Curve, BRepAdaptor_Surface
from OCP.BRepBndLib import BRepBndLib
from OCP.GeomAbs import GeomAbs_CurveType, GeomAbs_SurfaceType
from OCP.gp import gp_Ax2, gp_Dir, gp_Lin, gp_Pnt
from OCP.HLRAlgo import HLRAlgo_Projector
from OCP.HLRBRep import HLRBRep_Algo, HLRBRep_FaceIterator
from OCP.IntCurvesFace import IntCurvesFace_ShapeIntersector
from OCP.TopAbs import TopAbs_ShapeEnum
from OCP.TopoDS import TopoDS

from ..strokes import Stroke
from .covering import ASIDE, LIFT, ROUND, Cover
from .named import NamedShape
from .outlines import spline_stroke
from .shapes import ShapeMap, compound, faces_of, place, point, shape_map
from .types import Frame, Vec

__all__ = ["Seen", "lines_of_view", "weight_in_view"]

log = logging.getLogger(__name__)
EDGE, FACE = TopAbs_ShapeEnum.TopAbs_EDGE, TopAbs_ShapeEnum.TopAbs_FACE
NO_LENGTH = 1e-7  # of a parameter's range: no piece
END_ON = 1e-9  # share by which a circle's shorter axis is seen as none, or as long as the longer one
LOOKED = (0.03, 0.15, 0.5, 0.85, 0.97)  # shares of a piece at which it is proved
FINE = 24  # looks at a piece that is wrong somewhere


@dataclass(frozen=True, slots=True)
class Seen:
    """A piece of a line of a view, in mm of the view's frame.

    body : which; edge, face : its index there, -1 where it is the other; kind : a sharp edge, an outline (a
    face turning away, or an edge that is one), a smooth edge. span : the range of its own parameter."""

    body: int
    edge: int
    face: int
    kind: Literal["sharp", "outline", "smooth"]
    visible: bool
    stroke: Stroke
    span: tuple[float, float] = (0.0, 0.0)


def weight_in_view(shape: NamedShape) -> float:
    """Return how much work the lines of a body are, about: its faces, of which rounded rims weigh ten-
    fold."""
    rims = sum(
        BRepAdaptor_Surface(f, False).GetType() == GeomAbs_SurfaceType.GeomAbs_Torus
        for f in faces_of(shape.shape)
    )
    return len(shape.names) + 9.0 * rims


def lines_of_view(bodies: list[NamedShape], frame: Frame) -> list[Seen]:
    """Return all lines of bodies seen against the frame's normal, X to the right: visible and hidden ones.

    Seams that are no outline are left out. Coordinates count from the frame's origin.
    """
    whole = compound([b.shape for b in bodies])
    algorithm = HLRBRep_Algo()
    algorithm.Add(whole, 0)
    ax = gp_Ax2(gp_Pnt(*frame.origin), gp_Dir(*frame.normal), gp_Dir(*frame.x))
    algorithm.Projector(HLRAlgo_Projector(ax))
    algorithm.Update()
    algorithm.Hide()
    lines = list(_lines(algorithm, bodies))
    proof, doubted = _Rays(frame, bodies), _doubted(lines, bodies, frame)
    return [
        piece
        for n, line in enumerate(lines)
        for low, high, visible in _proved(line, proof, doubted.get(n, {}))
        for piece in [_piece(line, low, high, visible, frame)]
        if piece is not None
    ]


def _doubted(lines: list[_Line], bodies: list[NamedShape], frame: Frame) -> dict[int, dict[int, list[float]]]:
    """Return the looks (as shares) at ranges of lines, by number, of which the bodies' triangles say
    something else; those are proved by exact rays."""
    owners, places, visible = [], [], []
    for n, line in enumerate(lines):
        for i, (low, high, seen) in enumerate(line.ranges):
            for share in LOOKED:
                p = line.curve.Value(low + share * (high - low))
                owners.append((n, i, share))
                places.append(frame.local((p.X(), p.Y(), p.Z())))
                visible.append(seen)
    found: dict[int, dict[int, list[float]]] = {}
    if places:
        agree = Cover(bodies, frame).agrees(np.array(places), np.array(visible))
        for k in np.flatnonzero(~agree):
            n, i, share = owners[k]
            found.setdefault(n, {}).setdefault(i, []).append(share)
    return found


@dataclass(frozen=True, slots=True)
class _Line:
    """A line of the algorithm: its curve, whence it comes, and the ranges in which it is seen and hidden."""

    curve: BRepAdaptor_Curve
    body: int
    edge: int
    face: int
    kind: Literal["sharp", "outline", "smooth"]
    ranges: tuple[tuple[float, float, bool], ...]


def _lines(algorithm: HLRBRep_Algo, bodies: list[NamedShape]) -> Iterator[_Line]:
    data = algorithm.DataStructure()
    back = algorithm.ShapeBounds(1).Shape().DataStructure()
    edges, held, faces = data.EdgeMap(), data.EDataArray(), data.FDataArray()
    outlined = _outlined(faces, data.NbFaces())
    at_edge = [shape_map(b.shape, EDGE) for b in bodies]
    at_face = [shape_map(b.shape, FACE) for b in bodies]
    for i in range(1, data.NbEdges() + 1):
        shape = TopoDS.Edge(edges.FindKey(i))
        if BRep_Tool.Degenerated_s(shape):
            continue  # a tip has no curve, and to ask for a place on it ends the process
        body, edge = _found(at_edge, shape)
        face = -1
        if body < 0:
            source = back.NewSOldS(shape)
            if source.ShapeType() == FACE:
                body, face = _found(at_face, source)
            else:
                body, edge = _found(at_edge, source)
            if body < 0:
                continue
        drawn = held.Value(i)
        kind: Literal["sharp", "outline", "smooth"] = "sharp"
        if face >= 0 or i in outlined:
            kind = "outline"
        elif drawn.RgNLine():
            continue  # a seam
        elif drawn.Rg1Line():
            kind = "smooth"
        yield _Line(BRepAdaptor_Curve(shape), body, edge, face, kind, tuple(_ranges(drawn.Status())))


def _outlined(faces: Any, count: int) -> set[int]:
    """Return the numbers of edges that are the outline of a face which they bound."""
    found = set()
    for i in range(1, count + 1):
        iterator = HLRBRep_FaceIterator()
        iterator.InitEdge(faces.ChangeValue(i))
        while iterator.MoreEdge():
            if iterator.OutLine():
                found.add(iterator.Edge())
            iterator.NextEdge()
    return found


def _found(maps: list[ShapeMap], shape: Any) -> tuple[int, int]:
    for body, held in enumerate(maps):
        at = held.FindIndex(shape)
        if at:
            return body, at - 1
    return -1, -1


def _ranges(status: Any) -> Iterator[tuple[float, float, bool]]:
    low, _, high, _ = status.Bounds()
    at = low
    if not status.AllHidden():
        for j in range(1, status.NbVisiblePart() + 1):
            start, _, end, _ = status.VisiblePart(j)
            if start - at > NO_LENGTH * (high - low):
                yield at, start, False
            yield start, end, True
            at = end
    if high - at > NO_LENGTH * (high - low):
        yield at, high, False


class _Rays:
    """Tells whether a place is covered from the eye. A ray is sent through the faces alone whose boxes, as
    they are seen, it runs through."""

    def __init__(self, frame: Frame, bodies: list[NamedShape]) -> None:
        self._faces = [f for b in bodies for f in faces_of(b.shape)]
        self._casts: dict[int, IntCurvesFace_ShapeIntersector] = {}
        self._frame, self._towards = frame, gp_Dir(*frame.normal)
        self._low, self._high = self._boxes()
        self._far = float(self._high[:, 2].max() - self._low[:, 2].min()) + 1.0
        self._starts = [(u * ASIDE, v * ASIDE) for u, v in ROUND]

    def _boxes(self) -> tuple[Any, Any]:
        """Return the lowest and highest corners of the faces' boxes, in the view's coordinates, none too
        narrow."""
        axes = np.array([self._frame.x, self._frame.y, self._frame.normal])
        middles, halves = [], []
        for face in self._faces:
            box = Bnd_Box()
            BRepBndLib.Add_s(face, box, False)
            low, high = (np.array(place(c)) for c in (box.CornerMin(), box.CornerMax()))
            middles.append((low + high) / 2 - self._frame.origin)
            halves.append((high - low) / 2 + ASIDE)
        seen, reach = np.array(middles) @ axes.T, np.array(halves) @ np.abs(axes).T
        return seen - reach, seen + reach

    def free(self, at: Vec, whole: bool) -> bool:
        """Tell whether any ray (whole: each of them) beside a place comes to the eye."""
        u, v, w = self._frame.local(at)
        near = np.flatnonzero(
            (self._low[:, 0] <= u)
            & (self._high[:, 0] >= u)
            & (self._low[:, 1] <= v)
            & (self._high[:, 1] >= v)
            & (self._high[:, 2] >= w)
        )
        # What reaches nearest to the eye covers most.
        order = near[np.argsort(-self._high[near, 2])]
        starts = self._starts if whole else self._starts[:4]
        tell = all if whole else any
        return tell(self._clear(self._frame.at(u + a, v + b, w + LIFT), order) for a, b in starts)

    def _clear(self, start: Vec, faces: Any) -> bool:
        ray = gp_Lin(point(start), self._towards)
        for i in faces:
            cast = self._casts.get(i)
            if cast is None:
                cast = self._casts[i] = IntCurvesFace_ShapeIntersector()
                cast.Load(self._faces[i], 1e-7)
            cast.Perform(ray, 0.0, self._far)
            if cast.NbPnt():
                return False
        return True


def _proved(
    line: _Line, proof: _Rays, doubted: dict[int, list[float]]
) -> Iterable[tuple[float, float, bool]]:
    """Return the ranges of a line with what rays say of them, neighbours that are alike as one. doubted :
    at which looks rays are sent to which of them."""
    found: list[tuple[float, float, bool]] = []
    for i, (low, high, visible) in enumerate(line.ranges):
        looks = doubted.get(i, [])
        for a, b, seen in _of_range(line, low, high, visible, proof, looks):
            if found and found[-1][2] == seen and abs(found[-1][1] - a) <= NO_LENGTH * max(1.0, abs(a)):
                found[-1] = (found[-1][0], b, seen)
            else:
                found.append((a, b, seen))
    return found


def _of_range(
    line: _Line, low: float, high: float, visible: bool, proof: _Rays, looks: list[float]
) -> list[tuple[float, float, bool]]:
    def right(t: float) -> bool:
        p = line.curve.Value(t)
        return proof.free((p.X(), p.Y(), p.Z()), whole=not visible) == visible

    if all(right(low + share * (high - low)) for share in looks):
        return [(low, high, visible)]
    ts = [low + (high - low) * (i + 0.5) / FINE for i in range(FINE)]
    told = [right(t) for t in ts]
    log.info("a line of body %d is drawn as rays find it, not as the kernel does", line.body)
    found, start = [], low
    for (a, ra), (b, rb) in pairwise(zip(ts, told, strict=True)):
        if ra == rb:
            continue
        for _ in range(24):
            middle = (a + b) / 2
            a, b = (middle, b) if right(middle) == ra else (a, middle)
        found.append((start, a, visible == ra))
        start = a
    found.append((start, high, visible == told[-1]))
    return found


def _piece(line: _Line, low: float, high: float, visible: bool, frame: Frame) -> Seen | None:
    stroke = projected(line.curve, low, high, frame)
    if stroke is None:
        return None
    return Seen(line.body, line.edge, line.face, line.kind, visible, stroke, (low, high))


def projected(curve: BRepAdaptor_Curve, low: float, high: float, frame: Frame) -> Stroke | None:
    """Return a range of a curve as it is seen; None where it is seen end-on as a point."""
    kind = curve.GetType()
    if kind in (GeomAbs_CurveType.GeomAbs_Circle, GeomAbs_CurveType.GeomAbs_Ellipse):
        return _round(curve, kind, low, high, frame)
    start, end = (_seen(curve, t, frame) for t in (low, high))
    if kind == GeomAbs_CurveType.GeomAbs_Line:
        return Stroke("line", start, end) if math.dist(start, end) > NO_LENGTH else None
    stroke = spline_stroke(curve, low, high, start, end, frame)
    return _straightened(stroke)


def _seen(curve: BRepAdaptor_Curve, t: float, frame: Frame) -> tuple[float, float]:
    p = curve.Value(t)
    u, v, _ = frame.local((p.X(), p.Y(), p.Z()))
    return u, v


def _straightened(stroke: Stroke) -> Stroke | None:
    """Return a spline whose poles lie on a straight line as that line: its own extremes."""
    (x0, y0), poles = stroke.poles[0], np.asarray(stroke.poles)
    off = poles - (x0, y0)
    far = off[np.argmax(np.hypot(off[:, 0], off[:, 1]))]
    length = float(np.hypot(*far))
    if length < NO_LENGTH:
        return None
    along = far / length
    if np.abs(off @ np.array([-along[1], along[0]])).max() > NO_LENGTH:
        return stroke
    places = np.array([stroke.at(i / 64) for i in range(65)]) - (x0, y0)
    ways = places @ along
    a, b = float(ways.min()), float(ways.max())
    return Stroke("line", (x0 + a * along[0], y0 + a * along[1]), (x0 + b * along[0], y0 + b * along[1]))


def _round(curve: BRepAdaptor_Curve, kind: Any, low: float, high: float, frame: Frame) -> Stroke | None:
    """Return a circle or ellipse as it is seen: with A and B its half-axes in the view, the singular values
    of [A B] are the half-axes there."""
    if kind == GeomAbs_CurveType.GeomAbs_Circle:
        held = curve.Circle()
        major = minor = held.Radius()
    else:
        held = curve.Ellipse()
        major, minor = held.MajorRadius(), held.MinorRadius()
    c = held.Location()
    cx, cy, _ = frame.local((c.X(), c.Y(), c.Z()))
    axes = []
    for axis, r in ((held.XAxis(), major), (held.YAxis(), minor)):
        d = axis.Direction()
        v = (d.X(), d.Y(), d.Z())
        axes.append(
            (
                r * sum(a * b for a, b in zip(v, frame.x, strict=True)),
                r * sum(a * b for a, b in zip(v, frame.y, strict=True)),
            )
        )
    matrix = np.array(axes).T
    turn, (long, short), back = np.linalg.svd(matrix)
    start, end = (_seen(curve, t, frame) for t in (low, high))
    if long < NO_LENGTH:
        return None
    if short < END_ON * long:
        return _edge_on(matrix, (cx, cy), low, high, turn[:, 0])
    if long - short < END_ON * long:
        sense = 1.0 if np.linalg.det(matrix) > 0 else -1.0
        base = math.atan2(axes[0][1], axes[0][0])
        return Stroke(
            "arc",
            start,
            end,
            centre=(cx, cy),
            radius=float(long),
            t0=base + sense * low,
            t1=base + sense * high,
        )
    # back (cos t, sin t) = (cos u, sin u): u = t - phi, or phi - t where it mirrors.
    rotates = np.linalg.det(back) > 0
    phi = math.atan2(back[0, 1], back[0, 0])
    u0, u1 = (low - phi, high - phi) if rotates else (phi - low, phi - high)
    if np.linalg.det(turn) < 0:
        u0, u1 = -u0, -u1
    return Stroke(
        "ellipse",
        start,
        end,
        centre=(cx, cy),
        t0=u0,
        t1=u1,
        major=(float(long * turn[0, 0]), float(long * turn[1, 0])),
        ratio=float(short / long),
    )


def _edge_on(matrix: Any, centre: tuple[float, float], low: float, high: float, along: Any) -> Stroke | None:
    a, b = (float(matrix[:, 0] @ along), float(matrix[:, 1] @ along))
    size, phi = math.hypot(a, b), math.atan2(b, a)
    ts = [low, high]
    first = math.ceil((low - phi) / math.pi)
    while phi + first * math.pi < high:  # where it turns back
        ts.append(phi + first * math.pi)
        first += 1
    ways = [size * math.cos(t - phi) for t in ts]
    p, q = min(ways), max(ways)
    if q - p < NO_LENGTH:
        return None
    return replace(
        Stroke("line", (0.0, 0.0), (0.0, 0.0)),
        start=(centre[0] + p * float(along[0]), centre[1] + p * float(along[1])),
        end=(centre[0] + q * float(along[0]), centre[1] + q * float(along[1])),
    )
