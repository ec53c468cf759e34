"""Mass and size of each body, and of all together."""

from __future__ import annotations

import math
from typing import Literal

from .. import kernel
from ..errors import CommandRefused
from ..kernel.types import Frame, Placement, Vec, add, dot, scaled
from ..route import Evaluation, Part
from ..standards import materials
from .questions import Answer, Request, question

__all__ = ["BodyMass", "MassAndSize", "MassesAndSizes"]

GRAMS = 1e-3  # g/mm³ for a density of 1 g/cm³
Spot = tuple[float, float, float]


class MassAndSize(Request):
    """Ask for mass and size; places and boxes are told in the active coordinate system."""

    of: Literal["mass"] = "mass"


class BodyMass(Answer):
    """A body, or all of them, in figures.

    id : "" for all. density : g/cm³, 0 where the material is not chosen; mass : g. volume : mm³, area : mm².
    centre, low, high : mm. inertia : the matrix about the centre, about : the same about the system's
    origin, in the system's directions; moments, axes : principal ones, least first, the axes in the part's
    directions. Inertia is g·mm², of a body without material mm⁵. at : the centre in the part.
    """

    id: str
    name: str
    material: str
    density: float
    mass: float
    volume: float
    area: float
    centre: Spot
    at: Spot
    low: Spot
    high: Spot
    inertia: tuple[Spot, Spot, Spot]
    about: tuple[Spot, Spot, Spot]
    moments: Spot
    axes: tuple[Spot, Spot, Spot]


class MassesAndSizes(Answer):
    """All solid bodies, and, where there are several, all together (None where a material is missing)."""

    of: Literal["mass"] = "mass"
    bodies: list[BodyMass]
    all: BodyMass | None


@question(MassAndSize, MassesAndSizes)
def mass(part: Part, evaluation: Evaluation, request: MassAndSize) -> MassesAndSizes:
    """Weigh and measure the bodies; raises CommandRefused where there is none."""
    active = evaluation.site.datums.get(part.active_system)
    frame = active[0].frame if active else Frame()
    solid = [b for b in evaluation.site.bodies.values() if not b.sheet]
    if not solid:
        raise CommandRefused("There is no solid body to weigh yet.")
    bodies = [
        _body(b.id, b.name, part.looks[b.id].material if b.id in part.looks else "", [b.shape], frame)
        for b in solid
    ]
    if len(bodies) == 1:
        return MassesAndSizes(bodies=bodies, all=None)
    return MassesAndSizes(bodies=bodies, all=_together(bodies, [b.shape for b in solid], frame))


def _body(id: str, name: str, material: str, shapes: list[kernel.NamedShape], frame: Frame) -> BodyMass:
    found = kernel.mass_of(shapes[0])
    density = materials().get(material, 0.0)
    weight = density * GRAMS or 1.0
    at, rows, moments, axes = kernel.inertia_of(shapes[0])
    low, high = _box(shapes, frame)
    return BodyMass(
        id=id,
        name=name,
        material=material,
        density=density,
        mass=density * GRAMS * found.volume,
        volume=found.volume,
        area=found.area,
        centre=frame.local(at),
        at=at,
        low=low,
        high=high,
        inertia=_times(_seen(rows, frame), weight),
        about=_times(_seen(kernel.inertia_of(shapes[0], frame.origin)[1], frame), weight),
        moments=scaled(moments, weight),
        axes=axes,
    )


def _together(bodies: list[BodyMass], shapes: list[kernel.NamedShape], frame: Frame) -> BodyMass | None:
    """Return all bodies as one; None where one has a material and another has none."""
    weighed = [b.density > 0 for b in bodies]
    if any(weighed) and not all(weighed):
        return None
    weights = [b.mass if b.density else b.volume for b in bodies]
    whole = math.fsum(weights)
    at = (0.0, 0.0, 0.0)
    for b, w in zip(bodies, weights, strict=True):
        at = add(at, scaled(b.at, w / whole))
    centre = frame.local(at)
    about = _sum([b.about for b in bodies])
    inertia = _less_steiner(about, centre, whole)
    moments, axes = kernel.principal(inertia)
    low, high = _box(shapes, frame)
    turned = [
        add(add(scaled(frame.x, a[0]), scaled(frame.y, a[1])), scaled(frame.normal, a[2])) for a in axes
    ]
    return BodyMass(
        id="",
        name="all bodies",
        material="",
        density=0.0,
        mass=whole if all(weighed) else 0.0,
        volume=math.fsum(b.volume for b in bodies),
        area=math.fsum(b.area for b in bodies),
        centre=centre,
        at=at,
        low=low,
        high=high,
        inertia=inertia,
        about=about,
        moments=moments,
        axes=(turned[0], turned[1], turned[2]),
    )


Rows = tuple[Spot, Spot, Spot]


def _seen(rows: Rows, frame: Frame) -> Rows:
    """Return a matrix of inertia in a frame's directions."""
    ways = (frame.x, frame.y, frame.normal)
    out = [[dot(a, _applied(rows, b)) for b in ways] for a in ways]
    return _rows(out)


def _applied(rows: Rows, v: Vec) -> Vec:
    return (dot(rows[0], v), dot(rows[1], v), dot(rows[2], v))


def _times(rows: Rows, by: float) -> Rows:
    return _rows([[v * by for v in row] for row in rows])


def _sum(several: list[Rows]) -> Rows:
    return _rows([[math.fsum(m[i][j] for m in several) for j in range(3)] for i in range(3)])


def _less_steiner(about: Rows, d: Vec, mass: float) -> Rows:
    """Return the matrix about the centre, from that about the origin (Steiner's theorem)."""
    square = dot(d, d)
    return _rows(
        [
            [about[i][j] - mass * ((square if i == j else 0.0) - d[i] * d[j]) for j in range(3)]
            for i in range(3)
        ]
    )


def _rows(rows: list[list[float]]) -> Rows:
    a, b, c = ((r[0], r[1], r[2]) for r in rows)
    return a, b, c


def _box(shapes: list[kernel.NamedShape], frame: Frame) -> tuple[Vec, Vec]:
    """Return the corners of the box along the axes of a frame."""
    if frame == Frame():
        return kernel.box_of(shapes)
    there = Placement.between(frame, Frame())
    return kernel.box_of([kernel.placed(s, there) for s in shapes])
