"""Sketch: a constrained drawing on a plane."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from types import SimpleNamespace
from typing import Annotated, Any, Literal

from ..blanks import Choice, Name, Pick
from ..datum import Picked, Stance, carried_from, stance_of
from ..errors import SketchError, StepError
from ..kernel.types import Frame, cross, dot, minus, scaled, unit
from ..quantity import Kind
from ..reference import Candidate, DatumRef, FaceRef, PlaneRef, ThingRef, set_anew
from ..sketch import (
    Drawing,
    Nth,
    Taken,
    Traced,
    carried,
    find_regions,
    fits,
    name_of,
    nth_of,
    rule_for,
    runs_back,
    text_regions,
)
from ..stored import Value
from ..tolerance import STRAIGHT
from .base import Gone, Made, Site, SketchMade, Step, register
from .tracing import chosen, pieces_of


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
    # Where its origin lies unless one is picked: the plane's own, or the place that a datum plane was set
    # through. Older sketches have the plane's own.
    begins: Literal["plane", "place"] = "plane"
    drawing: Drawing = Drawing()
    stance: Stance | None = None

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
        shapes, gone, others = self._traced(given.taken, frame)
        drawing = carried(self.drawing, shapes, given.dimensions).drawing
        heights = {t: given.dimensions[t] for t in drawing.texts}
        texts = {t: text_regions(drawing, t, height) for t, height in heights.items()}
        return Made(
            sketch=SketchMade(frame, drawing, find_regions(drawing).found, texts, heights),
            gone=gone,
            others=others,
        )

    def _traced(
        self, taken: Mapping[str, Picked], frame: Frame
    ) -> tuple[dict[str, Traced], list[Gone], dict[str, list[Candidate]]]:
        """Return what the taken points and curves come to now, which of them come to nothing, and what else
        each of the others could be."""
        shapes: dict[str, Traced] = {}
        gone: list[Gone] = []
        others: dict[str, list[Candidate]] = {}
        for entity, picked in taken.items():
            held, place = self.drawing.taken[entity], f"taken:{entity}"
            called = name_of(self.drawing, entity).capitalize()
            try:
                pieces = pieces_of(picked, frame, held.manner, held.near)
            except StepError as error:
                gone.append(Gone(place, f"{called} is gone: {error.message}"))
                continue
            index = chosen(pieces, held.near, held.answer)
            if index is None:
                assert held.answer is not None
                reason = f"{called} was {_one_of(held.answer.of)}, and there {_are(len(pieces))} now"
                gone.append(Gone(place, f"{reason}. Say which is meant.", _choices(held, pieces)))
                continue
            if len(pieces) > 1:
                others[place] = _choices(held, pieces, but=index)
            shape = pieces[index]
            if held.answer and runs_back(shape, held.answer):
                shape = shape.model_copy(update={"places": shape.places[::-1]})
            if fits(self.drawing, entity, shape):
                shapes[entity] = shape
            else:
                was = self.drawing.kind(entity)
                gone.append(Gone(place, f"{called} was taken in as a {was} and would be a {shape.kind} now."))
        return shapes, gone, others

    def relies_on(self, entity: str) -> bool:
        """Tell whether anything in the drawing, or of what is built from it, hangs on a taken entity."""
        curve = self.drawing.curves.get(entity)
        if curve is not None and not curve.construction:
            return True
        own = {entity, *(curve.points if curve else ())}
        return any(own & {*k.of} for k in self.drawing.constraints.values())

    @property
    def axes_chosen(self) -> bool:
        """Whether the sketch's plane does not tell how X runs in it, so that it is kept as set."""
        return isinstance(self.on, FaceRef) and self.along is None

    def settled(self, made: SketchMade, answers: Mapping[str, Nth]) -> Sketch:
        """Return the sketch with what it came to kept, where it has none yet: how X runs, and which pieces of
        what was taken in are meant."""
        taken = {
            e: t.model_copy(update={"answer": answers[e]}) if t.answer is None and e in answers else t
            for e, t in self.drawing.taken.items()
        }
        step = self
        if taken != self.drawing.taken:
            step = step.model_copy(update={"drawing": self.drawing.model_copy(update={"taken": taken})})
        if step.stance is None and self.axes_chosen:
            step = step.model_copy(update={"stance": stance_of(made.frame)})
        return step

    def _placed(self, given: SimpleNamespace) -> Frame:
        """Return the plane with X and origin where they were asked for, both seen square onto it."""
        frame: Frame = given.on.plane
        if self.axes_chosen:
            frame = carried_from(self.stance, frame)
        begins = given.at.point if given.at else given.on.spot if self.begins == "place" else None
        if begins is not None:
            u, v, _ = frame.local(begins)
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
        """On a plane that was set through a place, a new sketch has its origin there; on one through three
        points it has it at the first one, and X towards the second."""
        step = self.model_copy(update={"begins": "place"}) if isinstance(self.on, DatumRef) else self
        plane = steps.get(self.on.step) if isinstance(self.on, DatumRef) else None
        if (
            plane is None
            or getattr(plane, "how", "") != "points"
            or getattr(plane, "more", "as") != "as"
            or self.at
            or self.along
        ):
            return step
        return step.model_copy(update={"at": plane.first, "along": plane.second, "way": "towards"})  # type: ignore[attr-defined]

    def takings(self) -> Iterator[tuple[str, Any]]:
        """Yield (entity, reference) for every point and curve that follows the model."""
        for entity, taken in self.drawing.taken.items():
            yield entity, taken.ref

    def put(self, fields: dict[str, Any]) -> dict[str, Any]:
        """Return the step as data with fields replaced; `taken:<entity>` is where a point or curve is taken
        from."""
        data = super().put({k: v for k, v in fields.items() if not k.startswith("taken:")})
        if "on" in fields and set_anew(self.on, fields["on"]):
            data["stance"] = None
        for name, ref in fields.items():
            if name.startswith("taken:"):
                entity = name.removeprefix("taken:")
                if entity not in data["drawing"]["taken"]:
                    raise StepError("This was not taken in from the model.", field=name)
                data["drawing"]["taken"][entity] |= {"ref": ref, "answer": None}
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


def _one_of(several: int) -> str:
    return "the only piece" if several == 1 else f"one of {several} pieces"


def _are(several: int) -> str:
    return "is one" if several == 1 else f"are {several}"


def _choices(held: Taken, pieces: list[Traced], but: int | None = None) -> list[Candidate]:
    """Return the pieces that could be meant, that nearest to where it was picked first; all but one."""
    first = chosen(pieces, held.near, None)
    order = sorted((i for i in range(len(pieces)) if i != but), key=lambda i: i != first)
    ref = held.ref.model_dump(mode="json")
    told = ((i, nth_of(pieces, i)) for i in order)
    return [
        Candidate(f"that {_at(pieces[i])}", ref, nth.model_dump(mode="json"))
        for i, nth in told
        if nth is not None
    ]


def _at(piece: Traced) -> str:
    places = piece.places[:1] if piece.kind in ("circle", "arc", "ellipse", "ellipse_arc") else piece.places
    x, y = (sum(p[k] for p in places) / len(places) for k in range(2))
    return f"about {x:.4g}, {y:.4g}"
