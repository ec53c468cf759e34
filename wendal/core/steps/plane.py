"""Datum plane: parallel to another plane or flat face, at a distance."""

from __future__ import annotations

from types import SimpleNamespace
from typing import Annotated, Literal

from ..datum import parallel_plane
from ..reference import PlaneRef
from ..stored import Value
from .base import Made, Site, Step, register
from .blanks import Choice, Name, Number, Pick


@register
class Plane(Step):
    """A datum plane at a distance from a base plane, another datum plane or a flat face."""

    title, group, key, makes = "Plane", "datum", "d p", "datum"
    explains = "A plane at a distance from another plane or a flat face."
    sentence = "Plane {name} {distance} {side} {base}"

    kind: Literal["plane"] = "plane"
    name: Annotated[str, Name(label="name")]
    distance: Annotated[Value, Number(label="distance", kind="length", start="20 mm")] = Value(formula="20 mm")
    side: Annotated[Literal["out", "back"], Choice(label="side", words={"out": "out from", "back": "back from"})] = "out"
    base: Annotated[PlaneRef | None, Pick(
        label="plane or flat face", accepts=("base", "datum", "flat"), needs="a plane or a flat face to measure from",
    )] = None

    def evaluate(self, given: SimpleNamespace, site: Site, *, preview: bool = False) -> Made:
        """Shift the base plane along its normal."""
        return Made(datum=parallel_plane(given.base, given.distance, flip=self.side == "back"))
