"""Sketch: a constrained drawing on a plane."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from types import SimpleNamespace
from typing import Annotated, Any, Literal

from ..blanks import Choice, Name, Pick
from ..errors import SketchError, StepError
from ..kernel.types import Frame, cross, dot, minus, scaled, unit
from ..quantity import Kind
from ..reference import DatumRef, PlaneRef, ThingRef
from ..sketch import Drawing, Traced, carried, find_regions, fits, name_of, rule_for, text_regions
from ..stored import Value
from ..tolerance import STRAIGHT
from .base import Made, Site, SketchMade, Step, register
from .tracing import traced


@register
class Sketch(Step):
    """A drawing on a base plane, datum plane or flat face.

    It stands on its own and may be used by many steps.
    """

    title, group, key, makes = "Sketch", "sketch", "k n", "sketch"
    explains = "A new drawing on a plane or a flat face."
    sentence = "Sketch {name} on {on}, {way} {along}{at}"

    kind: Literal["sketch"] = "sketch"
    name: Annotated[str, Name(label="name")]
    on: Annotated[
        PlaneRef | None,
        Pick(
            label="plane or flat face",
            accepts=("plane",),
            needs="a plane or a flat face to draw on",
            plain=True,
        ),
    ] = None
    way: Annotated[
        Literal["along", "against", "towards"],
        Choice(
            label="direction",
            words={"along": "X along", "against": "X against", "towards": "X towards the point"},
        ),
    ] = "along"
    along: Annotated[
        ThingRef | None,
        Pick(
            label="direction of X",
            accepts=("line",),
            needs="a line or edge",
            optional=True,
            unless="the plane's own X",
            unsaid=True,
            plain=True,
            accepts_with={"point": {"way": ("towards",)}},
        ),
    ] = None
    at: Annotated[
        ThingRef | None,
        Pick(
            label="origin",
            accepts=("point",),
            needs="a point or corner",
            optional=True,
            unless="the plane's own",
            unsaid=True,
            plain=True,
            before=", origin at",
        ),
    ] = None
    drawing: Drawing = Drawing()

    def evaluate(self, given: SimpleNamespace, site: Site) -> Made:
        """Put taken geometry where it is now, solve the drawing for its dimensions and find its regions."""
        frame = self._placed(given)
        for k, c in self.drawing.dimensions():
            try:
                rule_for(c.kind).check_value(given.dimensions[k], c, self.drawing)
            except SketchError as error:
                raise SketchError(
                    f"“{c.value.tag}”: {error.message}" if c.value else error.message, field=k
                ) from error
        notes: list[str] = []
        shapes: dict[str, Traced] = {}
        for entity, picked in given.taken.items():
            taken = self.drawing.taken[entity]
            try:
                shape = traced(picked, frame, taken.manner, taken.near)
            except StepError as error:
                notes.append(error.message)
                continue
            if fits(self.drawing, entity, shape):
                shapes[entity] = shape
            else:
                notes.append(
                    f"{name_of(self.drawing, entity).capitalize()} was taken in as a "
                    f"{self.drawing.sort(entity)} and "
                    f"would be a {shape.kind} now; it stays where it was."
                )
        drawing = carried(self.drawing, shapes, given.dimensions).drawing
        heights = {t: given.dimensions[t] for t in drawing.texts}
        texts = {t: text_regions(drawing, t, height) for t, height in heights.items()}
        return Made(
            sketch=SketchMade(frame, drawing, find_regions(drawing).found, texts, heights),
            note=" ".join(notes),
        )

    def _placed(self, given: SimpleNamespace) -> Frame:
        """Return the plane with X and origin where they were asked for, both seen square onto it."""
        frame: Frame = given.on.plane
        if given.at:
            u, v, _ = frame.local(given.at.point)
            frame = Frame(frame.at(u, v), frame.x, frame.y)
        if not given.along:
            return frame
        n = frame.normal
        if self.way == "towards":
            if given.along.point is None:
                raise StepError(
                    "X runs towards a point, and a line is picked. Pick a point, or let it run along the "
                    "line.",
                    field="along",
                )
            run, words = (
                minus(given.along.point, frame.origin),
                "the point lies square over the origin. Pick another",
            )
        else:
            if given.along.line is None:
                raise StepError(
                    "X runs along a line, and a point is picked. Pick a line, or let it run towards the "
                    "point.",
                    field="along",
                )
            run, words = (
                given.along.line.direction,
                f"{given.along.words} stands square to the plane. Pick another line",
            )
        run = minus(run, scaled(n, dot(n, run)))
        if dot(run, run) < STRAIGHT**2:
            raise StepError(
                f"X can not run {'there' if self.way == 'towards' else 'along it'}: {words}.", field="along"
            )
        x = scaled(unit(run), -1.0 if self.way == "against" else 1.0)
        return Frame(frame.origin, x, cross(n, x))

    def begun(self, steps: Mapping[str, Step]) -> Sketch:
        """On a plane through three points, a new sketch has its origin at the first one and X towards the
        second."""
        plane = steps.get(self.on.step) if isinstance(self.on, DatumRef) else None
        if (
            plane is None
            or getattr(plane, "how", "") != "points"
            or getattr(plane, "more", "as") != "as"
            or self.at
            or self.along
        ):
            return self
        return self.model_copy(update={"at": plane.first, "along": plane.second, "way": "towards"})  # type: ignore[attr-defined]

    def takings(self) -> Iterator[tuple[str, Any]]:
        """Yield (entity, reference) for every point and curve that follows the model."""
        for entity, taken in self.drawing.taken.items():
            yield entity, taken.ref

    def put(self, fields: dict[str, Any]) -> dict[str, Any]:
        """Return the step as data with fields replaced; `taken:<entity>` is where a point or curve is taken
        from."""
        data = super().put({k: v for k, v in fields.items() if not k.startswith("taken:")})
        for name, ref in fields.items():
            if name.startswith("taken:"):
                entity = name.removeprefix("taken:")
                if entity not in data["drawing"]["taken"]:
                    raise StepError("This was not taken in from the model.", field=name)
                data["drawing"]["taken"][entity]["ref"] = ref
        return data

    def values(self) -> Iterator[tuple[str, Value, Kind]]:
        """Yield the drawing's dimensions and its texts' heights; a place is a constraint's or a text's id."""
        for k, c in self.drawing.dimensions():
            assert c.value is not None
            yield k, c.value, Kind(rule_for(c.kind).quantity)
        for t, text in self.drawing.texts.items():
            yield t, text.height, Kind.LENGTH

    def with_value(self, place: str, value: Value) -> Sketch:
        """Return the sketch with one dimension's value, or one text's height, replaced."""
        if place in self.drawing.texts:
            texts = {
                **self.drawing.texts,
                place: self.drawing.texts[place].model_copy(update={"height": value}),
            }
            return self.model_copy(update={"drawing": self.drawing.model_copy(update={"texts": texts})})
        c = self.drawing.constraints[place].model_copy(update={"value": value})
        constraints = {**self.drawing.constraints, place: c}
        return self.model_copy(
            update={"drawing": self.drawing.model_copy(update={"constraints": constraints})}
        )
