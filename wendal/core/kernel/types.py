"""What goes into and comes out of the kernel, as plain data without the binding. Lengths are mm."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterable, Iterator, Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Any, TypeVar, overload

from ..tolerance import PARALLEL, ROUNDING

__all__ = [
    "Edge",
    "Face",
    "Frame",
    "Mass",
    "OnDemand",
    "Placement",
    "Profile",
    "Segment",
    "Topology",
    "Vec",
    "Vertex",
    "add",
    "cross",
    "dot",
    "minus",
    "said_at",
    "scaled",
    "turned",
    "unit",
    "upright",
]

Vec = tuple[float, float, float]
Thing = TypeVar("Thing")


def dot(a: Vec, b: Vec) -> float:
    """Return the scalar product."""
    return a[0] * b[0] + a[1] * b[1] + a[2] * b[2]


def cross(a: Vec, b: Vec) -> Vec:
    """Return the vector product."""
    return (a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0])


def add(a: Vec, b: Vec) -> Vec:
    """Return a + b."""
    return (a[0] + b[0], a[1] + b[1], a[2] + b[2])


def minus(a: Vec, b: Vec) -> Vec:
    """Return a - b."""
    return (a[0] - b[0], a[1] - b[1], a[2] - b[2])


def scaled(a: Vec, k: float) -> Vec:
    """Return k a."""
    return (k * a[0], k * a[1], k * a[2])


def turned(v: Vec, axis: Vec, angle: float) -> Vec:
    """Return v turned about a unit axis by an angle in rad, right-handed (Rodrigues' formula)."""
    c, s = math.cos(angle), math.sin(angle)
    return add(add(scaled(v, c), scaled(cross(axis, v), s)), scaled(axis, dot(axis, v) * (1 - c)))


def said_at(p: Vec) -> str:
    """Say where a place is, as messages do."""
    return "X {:.3f} Y {:.3f} Z {:.3f}".format(*p)


def unit(a: Vec) -> Vec:
    """Return the vector of length 1; raises ZeroDivisionError for a zero vector."""
    length = math.sqrt(dot(a, a))
    return (a[0] / length, a[1] / length, a[2] / length)


@dataclass(frozen=True, slots=True)
class Frame:
    """A plane with its own origin and axes: right-handed, of unit length."""

    origin: Vec = (0.0, 0.0, 0.0)
    x: Vec = (1.0, 0.0, 0.0)
    y: Vec = (0.0, 1.0, 0.0)

    @property
    def normal(self) -> Vec:
        """The direction out of the plane."""
        return cross(self.x, self.y)

    def at(self, u: float, v: float, w: float = 0.0) -> Vec:
        """Return the place in space of plane coordinates u, v and height w."""
        o, x, y, n = self.origin, self.x, self.y, self.normal
        return (
            o[0] + u * x[0] + v * y[0] + w * n[0],
            o[1] + u * x[1] + v * y[1] + w * n[1],
            o[2] + u * x[2] + v * y[2] + w * n[2],
        )

    def local(self, p: Vec) -> Vec:
        """Return the plane coordinates and height of a place in space."""
        d = (p[0] - self.origin[0], p[1] - self.origin[1], p[2] - self.origin[2])
        return (dot(d, self.x), dot(d, self.y), dot(d, self.normal))

    def raised(self, height: float) -> Frame:
        """Return the plane moved along its normal."""
        return Frame(self.at(0.0, 0.0, height), self.x, self.y)

    def at_place(self, origin: Vec) -> Frame:
        """Return the frame with its origin elsewhere."""
        return Frame(origin, self.x, self.y)

    def moved(self, by: Placement) -> Frame:
        """Return the frame after a motion; a mirrored one looks the other way."""
        return Frame(by.point(self.origin), by.vector(self.x), by.vector(self.y))

    def turned(self, through: Vec, axis: Vec, angle: float) -> Frame:
        """Return the plane turned by an angle (rad) about a unit axis through a place."""
        motion = Placement.turned(through, axis, angle)
        return Frame(motion.point(self.origin), motion.vector(self.x), motion.vector(self.y))

    def flipped(self) -> Frame:
        """Return the plane seen from behind: the normal turned round, y kept."""
        return Frame(self.origin, (-self.x[0], -self.x[1], -self.x[2]), self.y)


@dataclass(frozen=True, slots=True)
class Placement:
    """A motion of space, or a mirroring: p becomes turn p + shift. turn : three rows; shift : mm."""

    turn: tuple[Vec, Vec, Vec] = ((1.0, 0.0, 0.0), (0.0, 1.0, 0.0), (0.0, 0.0, 1.0))
    shift: Vec = (0.0, 0.0, 0.0)

    @classmethod
    def shifted(cls, by: Vec) -> Placement:
        """Return a shift."""
        return cls(shift=by)

    @classmethod
    def turned(cls, through: Vec, axis: Vec, angle: float) -> Placement:
        """Return a turn by an angle (rad, right-handed) about a unit axis through a place."""
        columns = [turned(e, axis, angle) for e in ((1.0, 0.0, 0.0), (0.0, 1.0, 0.0), (0.0, 0.0, 1.0))]
        return cls._about(through, columns)

    @classmethod
    def mirrored(cls, plane: Frame) -> Placement:
        """Return the mirroring about a plane."""
        n = plane.normal
        columns = [
            minus(e, scaled(n, 2 * dot(n, e))) for e in ((1.0, 0.0, 0.0), (0.0, 1.0, 0.0), (0.0, 0.0, 1.0))
        ]
        return cls._about(plane.origin, columns)

    @classmethod
    def between(cls, start: Frame, end: Frame) -> Placement:
        """Return the motion that carries one frame onto another."""
        columns = [
            add(add(scaled(end.x, e[0]), scaled(end.y, e[1])), scaled(end.normal, e[2]))
            for e in zip(start.x, start.y, start.normal, strict=True)
        ]
        made = cls._of_columns(columns)
        return cls(made.turn, minus(end.origin, made.vector(start.origin)))

    @classmethod
    def _of_columns(cls, columns: list[Vec]) -> Placement:
        rows = tuple(zip(*columns, strict=True))
        return cls((rows[0], rows[1], rows[2]))

    @classmethod
    def _about(cls, through: Vec, columns: list[Vec]) -> Placement:
        made = cls._of_columns(columns)
        return cls(made.turn, minus(through, made.vector(through)))

    @property
    def mirrors(self) -> bool:
        """Whether it turns left into right."""
        a, b, c = self.turn
        return dot(cross(a, b), c) < 0

    def vector(self, v: Vec) -> Vec:
        """Return a direction or difference after the motion."""
        a, b, c = self.turn
        return (dot(a, v), dot(b, v), dot(c, v))

    def point(self, p: Vec) -> Vec:
        """Return a place after the motion."""
        return add(self.vector(p), self.shift)

    def then(self, other: Placement) -> Placement:
        """Return this motion followed by another."""
        columns = [other.vector(self.vector(e)) for e in ((1.0, 0.0, 0.0), (0.0, 1.0, 0.0), (0.0, 0.0, 1.0))]
        return Placement(self._of_columns(columns).turn, other.point(self.shift))

    def back(self) -> Placement:
        """Return the motion that takes this one back."""
        a, b, c = self.turn
        made = Placement(((a[0], b[0], c[0]), (a[1], b[1], c[1]), (a[2], b[2], c[2])))
        return Placement(made.turn, scaled(made.vector(self.shift), -1.0))


@dataclass(frozen=True, slots=True)
class Segment:
    """A side of a profile, in plane coordinates (mm), in the direction of its loop.

    centre, t0, t1 : for an arc, its middle and angles in rad (t1 < t0 runs clockwise); centre None is
    straight. half : for an ellipse, the half-axis from its centre at which its angle is 0; radius is the one
    across. knots, poles, degree : of a B-spline, which runs from t0 to t1. away : mm to the left of that
    ellipse or B-spline at which the side runs instead, with the same angles or parameters.
    """

    name: str
    start: tuple[float, float]
    end: tuple[float, float]
    centre: tuple[float, float] | None = None
    radius: float = 0.0
    t0: float = 0.0
    t1: float = 0.0
    half: tuple[float, float] | None = None
    knots: tuple[float, ...] = ()
    poles: tuple[tuple[float, float], ...] = ()
    degree: int = 3
    away: float = 0.0


@dataclass(frozen=True, slots=True)
class Profile:
    """A flat region to build from: its loops (outer counter-clockwise first) and the name of its caps'
    source.

    face : instead of loops, a flat face of a body (its shape and index), with the name of the source at each
    of its edges, by their index in the shape.
    """

    name: str
    loops: list[list[Segment]]
    face: tuple[Any, int, dict[int, str]] | None = None


@dataclass(frozen=True, slots=True)
class Face:
    """A face as references see it.

    names : all durable names it carries. form : "flat", "round" (cylinder) or another surface's word.
    frame : for a flat face its plane, outward; for others a tangent frame.
    axis : (place, direction) of a cylinder, cone or torus; radius : there; slope : growth per mm along it.
    hollow : the axis' side is outside, as in a hole.
    """

    names: frozenset[str]
    form: str
    frame: Frame
    centre: Vec
    area: float
    radius: float = 0.0
    axis: tuple[Vec, Vec] | None = None
    slope: float = 0.0
    hollow: bool = False


@dataclass(frozen=True, slots=True)
class Edge:
    """An edge: the faces that meet in it, its end vertices, its middle and length (mm).

    start, tangent : place and unit direction at its beginning and in its middle, in the kernel's own sense.
    centre, normal, radius : of a circular or elliptic edge (major radius), else None and 0.
    """

    faces: tuple[int, ...]
    ends: tuple[int, ...]
    form: str
    middle: Vec
    length: float
    start: Vec = (0.0, 0.0, 0.0)
    tangent: Vec = (1.0, 0.0, 0.0)
    centre: Vec | None = None
    normal: Vec | None = None
    radius: float = 0.0


@dataclass(frozen=True, slots=True)
class Vertex:
    """A corner: the faces that meet in it, and its place."""

    faces: tuple[int, ...]
    place: Vec


class Topology:
    """Everything of a body that can be referred to, in the kernel's own order. What is asked for by index is
    worked out then: a body of a thousand faces costs what is wanted of it.

    names : of the faces. edges_of, corners_of : of each face, by index; faces_at, ends_of : the faces and the
    corners of each edge; faces_round : the faces at each corner. marks : of each face, edge and corner what
    stays the same object for as long as it is the same, from body to body; `described` of a face's and an
    edge's tells its form, and `notes` is for what is kept of them.
    """

    def __init__(
        self,
        faces: Sequence[Face] = (),
        edges: Sequence[Edge] = (),
        vertices: Sequence[Vertex] = (),
        names: Sequence[frozenset[str]] = (),
        *,
        edges_of: Sequence[Sequence[int]] = (),
        corners_of: Sequence[Sequence[int]] = (),
        faces_at: Sequence[tuple[int, ...]] = (),
        ends_of: Sequence[tuple[int, ...]] = (),
        faces_round: Sequence[Sequence[int]] = (),
        marks: tuple[Sequence[Any], Sequence[Any], Sequence[Any]] = ((), (), ()),
    ) -> None:
        self.faces, self.edges, self.vertices, self.names = faces, edges, vertices, names
        self.edges_of, self.corners_of, self.faces_at, self.ends_of, self.faces_round = (
            edges_of,
            corners_of,
            faces_at,
            ends_of,
            faces_round,
        )
        self.marks = marks

    def beside(self, face: int) -> list[int]:
        """Return the faces that share an edge with one."""
        return sorted({g for e in self.edges_of[face] for g in self.faces_at[e]} - {face})

    def turn(self, edge: int, face: int) -> int:
        """Return whether a face, seen from outside, is passed round along an edge (1) or against it (-1); 0
        where that cannot be told."""
        return int(self.marks[0][face].turn(self.marks[1][edge])) if self.marks[0] else 0

    def unfolded(self) -> Topology:
        """Return it with what meets what as plain lists, for whoever asks of all of it."""
        return Topology(
            self.faces,
            self.edges,
            self.vertices,
            self.names,
            edges_of=self.edges_of[:],
            corners_of=self.corners_of[:],
            faces_at=self.faces_at[:],
            ends_of=self.ends_of[:],
            faces_round=self.faces_round[:],
            marks=self.marks,
        )

    @cached_property
    def _named(self) -> dict[str, list[int]]:
        found: dict[str, list[int]] = {}
        for i, own in enumerate(self.names):
            for name in own:
                found.setdefault(name, []).append(i)
        return found

    def named(self, names: Iterable[str]) -> list[int]:
        """Return the faces that carry any of some names, in order."""
        return sorted({i for n in names for i in self._named.get(n, ())})


class OnDemand(Sequence[Thing]):
    """A row of things that are made when they are asked for, each once.

    count : of them; make : gives the one at an index.
    """

    def __init__(self, count: int, make: Callable[[int], Thing]) -> None:
        self._made: list[Thing | None] = [None] * count
        self._make = make

    def __len__(self) -> int:
        return len(self._made)

    @overload
    def __getitem__(self, index: int) -> Thing: ...
    @overload
    def __getitem__(self, index: slice) -> list[Thing]: ...
    def __getitem__(self, index: int | slice) -> Thing | list[Thing]:
        if isinstance(index, slice):
            return [self[i] for i in range(*index.indices(len(self)))]
        found = self._made[index]
        if found is None:
            found = self._made[index] = self._make(index % len(self._made))
        return found

    def __iter__(self) -> Iterator[Thing]:
        return (self[i] for i in range(len(self._made)))


@dataclass(frozen=True, slots=True)
class Mass:
    """A body in figures: mm³, mm², mm. sheet : it has no thickness, and its volume is 0."""

    volume: float
    area: float
    centre: Vec
    low: Vec
    high: Vec
    faces: int
    edges: int
    vertices: int
    valid: bool
    sheet: bool = False


def upright(centre: Vec, normal: Vec) -> Frame:
    """Return the plane's own frame, which depends on the plane alone: Y as near to up (Z) as it goes, origin
    where the world's origin drops on it. A level plane has X along X."""
    n = (_clean(normal[0]), _clean(normal[1]), _clean(normal[2]))
    n = unit(n)
    if abs(n[2]) > 1 - PARALLEL:
        level = math.copysign(1.0, n[2])
        y: Vec = unit((-level * n[1] * n[0] + 0.0, level * (1 - n[1] * n[1]), -level * n[1] * n[2] + 0.0))
    else:
        y = unit((-n[2] * n[0], -n[2] * n[1], 1 - n[2] * n[2]))
    height = dot(centre, n)
    return Frame((height * n[0] + 0.0, height * n[1] + 0.0, height * n[2] + 0.0), cross(y, n), y)


def _clean(value: float) -> float:
    """Take rounding noise off a component that is 0 or 1 in truth."""
    near = float(round(value))
    return near + 0.0 if abs(value - near) < ROUNDING else value
