"""Figures of a part that trials are asked about, and limits that they are judged by.

Of each body its area, volume, mass, centre and, where it is asked for, its least wall; kept measures; and
where picked faces, edges and corners are.
"""

from __future__ import annotations

from dataclasses import dataclass

from .. import kernel
from ..errors import CommandRefused, WendalError
from ..kernel.types import Frame, Vec, dot, minus
from ..reference import ThingRef
from ..route import Evaluation, Part
from ..route.gauging import Gauge, Thing
from ..standards import materials
from ..steps import Body
from .others import Pick

__all__ = ["FROM", "PLAIN", "WALL", "Setup", "Watch", "Watched", "unit_of"]

GRAMS = 1e-3  # g/mm³ for a density of 1 g/cm³
EDGEWISE = 1e-3  # a face that has turned square to where it looked has no place along that way
WALL, MASS, ALONG = "least wall", "mass", "along its normal"
FROM = ("from YZ", "from ZX", "from XY")  # by the axis that is square to each
PARALLEL = 1e-12  # of a cosine
ENDS = {"volume": "mm³", "area": "mm²", MASS: "g"}


@dataclass(frozen=True, slots=True)
class Watched:
    """A thing whose place is told. after : the step behind which it is looked at, "" for the end; called :
    how its figures are, "" for its own words."""

    thing: ThingRef
    after: str = ""
    called: str = ""


@dataclass(frozen=True, slots=True)
class Setup:
    """What trials are to look at besides how the part stands.

    wall : the least wall of each body that is allowed, mm; mass : the greatest mass of all bodies, g; 0 for
    none. walls : tell the least wall. things : faces, edges and corners whose places are told. picks : of
    which it is told, of the part as it is, what else could be picked.
    """

    wall: float = 0.0
    mass: float = 0.0
    walls: bool = False
    things: tuple[Watched, ...] = ()
    picks: tuple[Pick, ...] = ()


PLAIN = Setup()  # nothing is looked at besides


@dataclass(frozen=True, slots=True)
class _Was:
    """Where a watched thing is in the part itself: its words, its plane, a place on it."""

    words: str
    plane: Frame | None
    at: Vec | None


@dataclass(frozen=True, slots=True)
class Watch:
    """What is looked at in each trial."""

    setup: Setup = PLAIN
    was: tuple[_Was, ...] = ()

    @staticmethod
    def begun(part: Part, evaluation: Evaluation, setup: Setup) -> Watch:
        """Take up what is to be watched, as it is in the part itself; raises WendalError."""
        solid = [b for b in evaluation.site.bodies.values() if not b.sheet]
        if setup.mass and (bare := next((b for b in solid if not _density(part, b)), None)):
            raise CommandRefused(
                f"{bare.name} has no material, so its mass is not known. Choose one, or leave the limit out."
            )
        was: list[_Was] = []
        for watched in setup.things:
            thing = _gauge(part, evaluation, watched.after).thing(watched.thing)
            words = watched.called or thing.words
            if any(w.words == words for w in was):
                words = f"{words} ({len(was) + 1})"
            was.append(_Was(words, thing.plane, _place(thing)))
        return Watch(setup, tuple(was))

    def fault(self, part: Part, evaluation: Evaluation) -> str:
        """Say which limit is not kept; "" where all are."""
        if self.setup.wall:
            for body in evaluation.site.bodies.values():
                if body.sheet:
                    continue
                thin = kernel.least_wall(body.shape, body.topology).thickness
                if thin < self.setup.wall:
                    return (
                        f"The least wall of {body.name} is {thin:.3g} mm, less than {self.setup.wall:g} mm."
                    )
        if self.setup.mass:
            bodies = evaluation.site.bodies.values()
            total = sum(_density(part, b) * GRAMS * kernel.mass_of(b.shape).volume for b in bodies)
            if total > self.setup.mass:
                return f"All bodies weigh {total:.4g} g, more than {self.setup.mass:g} g."
        return ""

    def figures(self, part: Part, evaluation: Evaluation) -> dict[str, float]:
        """Return all figures by name (mm, rad, mm², mm³, g)."""
        found = {t: g.reading.value for t, g in evaluation.gauged.items() if g.reading}
        named: set[str] = set()
        for body in evaluation.site.bodies.values():
            mass = kernel.mass_of(body.shape)
            name = body.name if body.name not in named else f"{body.name} ({body.id})"
            named.add(name)
            found[f"{name}: area"] = mass.area
            if body.sheet:
                continue
            found[f"{name}: volume"] = mass.volume
            if density := _density(part, body):
                found[f"{name}: {MASS}"] = density * GRAMS * mass.volume
            found |= {f"{name}: centre {a}": v for a, v in zip("XYZ", mass.centre, strict=True)}
            if self.setup.walls:
                found[f"{name}: {WALL}"] = kernel.least_wall(body.shape, body.topology).thickness
        if self.was:
            found |= self._places(part, evaluation)
        return found

    def _places(self, part: Part, evaluation: Evaluation) -> dict[str, float]:
        """Return where the watched things are; what is not there any more is left out."""
        found = dict[str, float]()
        for watched, was in zip(self.setup.things, self.was, strict=True):
            gauge = _gauge(part, evaluation, watched.after)
            try:
                thing = gauge.thing(watched.thing)
            except WendalError:
                continue
            if gauge.doubt:
                continue  # it may be another one
            found |= {f"{was.words}: {k}": v for k, v in _told(thing, was).items()}
        return found


def unit_of(part: Part, figure: str) -> str:
    """Return the unit of a figure."""
    own = {k.tag: {"length": "mm", "angle": "rad", "area": "mm²", "volume": "mm³"}[k.unit] for k in part.kept}
    return own.get(figure) or ENDS.get(figure.rpartition(": ")[2], "mm")


def _gauge(part: Part, evaluation: Evaluation, after: str = "") -> Gauge:
    site = evaluation.sites.get(after, evaluation.site) if after else evaluation.site
    return Gauge(part, site, {r.id: r.state for r in evaluation.reports})


def _density(part: Part, body: Body) -> float:
    look = part.looks.get(body.id)
    return materials().get(look.material, 0.0) if look and not body.sheet else 0.0


def _place(thing: Thing) -> Vec | None:
    """Return a place on a thing that tells where it is."""
    if thing.axis is not None:
        return thing.axis.origin
    return thing.point or thing.middle or (thing.edge.middle if thing.edge else None)


def _told(thing: Thing, was: _Was) -> dict[str, float]:
    """Return the figures of a watched thing: a flat face's height over the base plane that it is parallel to,
    else its place along the normal that it had; a round one's radius and where its axis is nearest to where
    it was; an edge's length and middle; a corner's place."""
    if thing.plane is not None and was.plane is not None and was.at is not None and thing.edge is None:
        across = dot(was.plane.normal, thing.plane.normal)
        if abs(across) < EDGEWISE:
            return {}
        axis = max(range(3), key=lambda i: abs(was.plane.normal[i]))  # type: ignore[union-attr]
        if abs(was.plane.normal[axis]) > 1 - PARALLEL:
            level = abs(thing.plane.normal[axis]) > 1 - PARALLEL
            return {FROM[axis]: thing.plane.origin[axis]} if level else {}
        return {ALONG: dot(minus(thing.plane.origin, was.at), thing.plane.normal) / across}
    found = {}
    if thing.radius:
        found["radius"] = thing.radius
    elif thing.length is not None:
        found["length"] = thing.length
    place = _place(thing)
    if thing.axis is not None and was.at is not None:
        along, way = minus(was.at, thing.axis.origin), thing.axis.direction
        by = dot(along, way)
        place = tuple(p + by * w for p, w in zip(thing.axis.origin, way, strict=True))  # type: ignore[assignment]
    if place is not None:
        found |= dict(zip("XYZ", place, strict=True))
    return found
