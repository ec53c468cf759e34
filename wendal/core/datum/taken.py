"""Taking base geometry, faces, edges, corners as things to stand on, with every facet they have.

The sense of an edge follows from the faces that meet in it, in the order in which its reference names them
(first normal × second normal), not from the kernel: a rebuild that turns an edge round turns nothing that
stands on it.
"""

from __future__ import annotations

import math
from bisect import bisect_right
from collections.abc import Callable
from itertools import accumulate, pairwise
from typing import TYPE_CHECKING

from .. import kernel
from ..kernel.types import Edge, Frame, Topology, Vec, cross, dot, minus, scaled, unit
from ..tolerance import FULL_ROUND, STRAIGHT
from .picked import Curve, EndlessLine, Picked, Round, Surface
from .planes import BASE_AXES, BASE_PLANES

GAUSS = [  # places and weights of Gauss and Legendre over -1 to 1
    (0.0, 128 / 225),
    *((s * 0.5384693101056831, 0.47862867049936647) for s in (-1, 1)),
    *((s * 0.906179845938664, 0.23692688505618908) for s in (-1, 1)),
]
BENT = 96  # stretches that a bent curve is measured by

if TYPE_CHECKING:
    from ..kernel import NamedShape

__all__ = ["circle_curve", "line_curve", "take_base", "take_edge", "take_face", "take_spot", "take_vertex"]


def take_base(name: str) -> Picked:
    """Return a base plane, base axis or the origin."""
    if name in BASE_PLANES:
        return Picked(name, plane=BASE_PLANES[name])
    if name in BASE_AXES:
        line = EndlessLine((0.0, 0.0, 0.0), BASE_AXES[name])
        return Picked(name, line=line, axis=line)
    return Picked(name, point=(0.0, 0.0, 0.0), system=Frame())


def take_face(shape: NamedShape, topology: Topology, index: int, key: str) -> Picked:
    """Return a face."""
    face = topology.faces[index]
    surface = Surface(
        face.centre,
        lambda p: kernel.nearest_on_face(shape, index, p),
        lambda p: kernel.drop_on_face(shape, index, p),
        lambda p: kernel.normal_on_face(shape, index, p),
        lambda f: kernel.cut_face(shape, index, f),
        lambda eye: kernel.turning_lines(shape, index, eye),
    )
    plane = face.frame if face.form == "flat" else None
    axis = EndlessLine(*face.axis) if face.axis else None
    round_ = Round(axis, face.radius, face.slope) if axis and face.form in ("round", "cone") else None
    return Picked(
        "a flat face" if plane else "a face",
        plane=plane,
        axis=axis,
        turned=axis,
        round=round_,
        face=surface,
        curved=None if plane else surface,
        key=key,
        solid=(shape, index),
    )


def take_vertex(topology: Topology, index: int) -> Picked:
    """Return a corner."""
    return Picked("a corner", point=topology.vertices[index].place)


def take_edge(shape: NamedShape, topology: Topology, index: int, first: set[str], key: str) -> Picked:
    """Return an edge. first : the names of the face that its reference names first; they tell its sense."""
    edge = topology.edges[index]
    ahead = _sense(shape, topology, edge, first)
    if edge.form == "line":
        d = scaled(edge.tangent, ahead)
        start = (
            edge.middle[0] - d[0] * edge.length / 2,
            edge.middle[1] - d[1] * edge.length / 2,
            edge.middle[2] - d[2] * edge.length / 2,
        )
        line = EndlessLine(start, d, edge.length)
        return Picked("an edge", line=line, axis=line, curve=line_curve(line), key=key, edge=(shape, index))
    circle = None
    if edge.centre is not None and edge.normal is not None:
        about = dot(cross(minus(edge.middle, edge.centre), scaled(edge.tangent, ahead)), edge.normal)
        circle = EndlessLine(edge.centre, scaled(edge.normal, math.copysign(1.0, about)))
    length = edge.length

    def at(t: float) -> tuple[Vec, Vec]:
        place, tangent = kernel.along_edge(shape, index, t if ahead > 0 else length - t)
        return place, scaled(tangent, ahead)

    def nearest(p: Vec) -> float:
        t = kernel.nearest_on_edge(shape, index, p)
        return t if ahead > 0 else length - t

    def pulled() -> tuple[list[float], list[Vec]] | None:
        found = kernel.pulled_edge(shape, index)
        return ([1.0 - k for k in found[0][::-1]], found[1][::-1]) if found and ahead < 0 else found

    turned = circle if edge.form == "circle" else None
    curve = Curve(length, at, nearest, len(edge.ends) == 1, pulled)
    return Picked(
        "an edge", axis=turned, turned=turned, circle=circle, curve=curve, key=key, edge=(shape, index)
    )


def take_spot(edge: Edge, at: str) -> Picked | None:
    """Return the middle of an edge or the centre of a round one; None where it has no centre."""
    place = edge.middle if at == "middle" else edge.centre
    if place is None:
        return None
    ring = EndlessLine(place, edge.normal) if at == "centre" and edge.normal is not None else None
    return Picked(f"the {at} of an edge", point=place, turned=ring)


def _sense(shape: NamedShape, topology: Topology, edge: Edge, first: set[str]) -> float:
    """Return 1.0 when the kernel's sense of an edge is that of its faces, else -1.0."""
    if len(edge.faces) == 2:
        a, b = edge.faces
        if topology.faces[b].names & first and not topology.faces[a].names & first:
            a, b = b, a
        n = cross(_normal(shape, topology, a, edge.middle), _normal(shape, topology, b, edge.middle))
        if math.sqrt(dot(n, n)) > STRAIGHT:
            return math.copysign(1.0, dot(n, edge.tangent))
    # Faces that run into each other smoothly tell nothing: then the part's own axes do.
    d = edge.tangent
    return math.copysign(1.0, next((c for c in (d[0], d[1], d[2]) if abs(c) > STRAIGHT), 1.0))


def _normal(shape: NamedShape, topology: Topology, face: int, at: Vec) -> Vec:
    found = topology.faces[face]
    return found.frame.normal if found.form == "flat" else kernel.normal_on_face(shape, face, at)


def line_curve(line: EndlessLine) -> Curve:
    """Return a bounded line as a curve."""
    return Curve(
        line.length,
        lambda t: (line.at(t), line.direction),
        lambda p: min(max(dot(minus(p, line.origin), line.direction), 0.0), line.length),
    )


def bent_curve(
    frame: Frame,
    at: Callable[[float], tuple[float, float]],
    slope: Callable[[float], tuple[float, float]],
    t0: float,
    t1: float,
) -> Curve:
    """Return a curve of a plane, given by its place and derivative (mm) over t0 to t1, measured along its
    length."""
    ts = [t0 + (t1 - t0) * i / BENT for i in range(BENT + 1)]
    places = [at(t) for t in ts]

    def length(low: float, high: float) -> float:
        """Gauss and Legendre, five places."""
        half, middle = (high - low) / 2, (high + low) / 2
        return abs(half) * math.fsum(w * math.hypot(*slope(middle + half * x)) for x, w in GAUSS)

    along = [0.0, *accumulate(length(a, b) for a, b in pairwise(ts))]

    def parameter(distance: float) -> float:
        """Newton, from the chord of the stretch that it lies on."""
        i = min(max(bisect_right(along, distance) - 1, 0), BENT - 1)
        step = along[i + 1] - along[i] or 1.0
        low, high = sorted((ts[i], ts[i + 1]))
        t = ts[i] + (ts[i + 1] - ts[i]) * min(max((distance - along[i]) / step, 0.0), 1.0)
        way = math.copysign(1.0, ts[i + 1] - ts[i])
        for _ in range(4):
            speed = math.hypot(*slope(t))
            if speed:
                t = min(max(t - way * (along[i] + length(ts[i], t) - distance) / speed, low), high)
        return t

    def there(distance: float) -> tuple[Vec, Vec]:
        t = parameter(distance)
        return frame.at(*at(t)), unit(minus(frame.at(*slope(t)), frame.origin))

    def nearest(p: Vec) -> float:
        u, v, _ = frame.local(p)
        i = min(range(BENT + 1), key=lambda i: math.dist(places[i], (u, v)))
        low, high = max(i - 1, 0), min(i + 1, BENT)
        a, b = ts[low], ts[high]
        for _ in range(60):  # thirds: the distance has one least place between two neighbours
            c, d = a + (b - a) / 3, b - (b - a) / 3
            if math.dist(at(c), (u, v)) < math.dist(at(d), (u, v)):
                b = d
            else:
                a = c
        return _summed(low, (a + b) / 2)

    def _summed(low: int, t: float) -> float:
        """Return the length up to a place on one of two stretches."""
        first = abs(t - ts[low]) <= abs(ts[low + 1] - ts[low])
        return along[low] + length(ts[low], t) if first else along[low + 1] + length(ts[low + 1], t)

    return Curve(along[-1], there, nearest)


def circle_curve(frame: Frame, radius: float, t0: float, t1: float) -> Curve:
    """Return a circle or arc about a frame's origin as a curve, from angle t0 to t1 in rad."""

    def at(distance: float) -> tuple[Vec, Vec]:
        t = t0 + distance / radius
        return (
            frame.at(radius * math.cos(t), radius * math.sin(t)),
            unit(minus(frame.at(-math.sin(t), math.cos(t)), frame.origin)),
        )

    def nearest(p: Vec) -> float:
        u, v, _ = frame.local(p)
        t = (math.atan2(v, u) - t0) % (2 * math.pi)
        sweep = t1 - t0
        if t > sweep:
            t = sweep if t - sweep < 2 * math.pi - t else 0.0
        return t * radius

    return Curve(radius * (t1 - t0), at, nearest, t1 - t0 > 2 * math.pi - FULL_ROUND)
