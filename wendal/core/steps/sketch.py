"""Sketch: a constrained drawing on a plane."""

from __future__ import annotations

from collections.abc import Iterator
from types import SimpleNamespace
from typing import Annotated, Literal

from ..blanks import Name, Pick
from ..quantity import Kind
from ..reference import PlaneRef
from ..sketch import Drawing, find_regions, rule_for, solve
from ..stored import Value
from .base import Made, Site, SketchMade, Step, register


@register
class Sketch(Step):
    """A drawing on a base plane, datum plane or flat face. It stands on its own and may be used by many steps."""

    title, group, key, makes = "Sketch", "sketch", "k n", "sketch"
    explains = "A new drawing on a plane or a flat face."
    sentence = "Sketch {name} on {on}"

    kind: Literal["sketch"] = "sketch"
    name: Annotated[str, Name(label="name")]
    on: Annotated[PlaneRef | None, Pick(
        label="plane or flat face", accepts=("plane",), needs="a plane or a flat face to draw on",
    )] = None
    drawing: Drawing = Drawing()

    def evaluate(self, given: SimpleNamespace, site: Site, *, preview: bool = False) -> Made:
        """Solve the drawing for its dimensions and find its regions."""
        drawing = solve(self.drawing, given.dimensions).drawing
        return Made(sketch=SketchMade(given.on.plane, drawing, find_regions(drawing).found))

    def values(self) -> Iterator[tuple[str, Value, Kind]]:
        """Yield the drawing's dimensions; a place is a constraint's id."""
        for k, c in self.drawing.dimensions():
            assert c.value is not None
            yield k, c.value, Kind(rule_for(c.kind).quantity)

    def with_value(self, place: str, value: Value) -> Sketch:
        """Return the sketch with one dimension's value replaced."""
        c = self.drawing.constraints[place].model_copy(update={"value": value})
        constraints = {**self.drawing.constraints, place: c}
        return self.model_copy(update={"drawing": self.drawing.model_copy(update={"constraints": constraints})})
