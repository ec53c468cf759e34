"""Least wall: where a body is thinnest, from face to face through its material."""

from __future__ import annotations

from typing import Literal

from .. import kernel
from ..errors import CommandRefused, StepError
from ..reference.calling import called
from ..route import Evaluation, Part
from ..route.gauging import Reading
from .measure import shown_as
from .questions import Answer, Request, question

__all__ = ["LeastWall", "WallFound", "WallsFound"]

Spot = tuple[float, float, float]


class LeastWall(Request):
    """Ask for the least wall of each solid body."""

    of: Literal["wall"] = "wall"


class WallFound(Answer):
    """The least wall of a body: its thickness in mm and as shown, its two feet in the part (mm), and the
    faces that they lie on, in words."""

    id: str
    name: str
    thickness: float
    shown: str
    feet: list[Spot]
    between: list[str]


class WallsFound(Answer):
    """Of every solid body the least wall, the thinnest first."""

    of: Literal["wall"] = "wall"
    walls: list[WallFound]


@question(LeastWall, WallsFound)
def wall(part: Part, evaluation: Evaluation, request: LeastWall) -> WallsFound:
    """Look for the least walls; raises CommandRefused where there is no solid body."""
    solid = [b for b in evaluation.site.bodies.values() if not b.sheet]
    if not solid:
        raise CommandRefused("There is no solid body yet, so there is no wall.")
    found, units = [], part.units.units()
    for body in solid:
        try:
            least = kernel.least_wall(body.shape, body.topology)
        except StepError as error:
            raise CommandRefused(f"{body.name}: {error.message}") from error
        faces = called(body.name, body.topology.unfolded(), body.sheet).faces
        found.append(
            WallFound(
                id=body.id,
                name=body.name,
                thickness=least.thickness,
                shown=shown_as(Reading("wall", "least wall", least.thickness), units),
                feet=list(least.feet),
                between=[faces[i] for i in least.faces],
            )
        )
    return WallsFound(walls=sorted(found, key=lambda w: w.thickness))
