"""Datum steps: planes, axes, points, coordinate systems.

What each can stand on is the table of `core/datum`.
"""

from __future__ import annotations

import math
from dataclasses import replace
from types import SimpleNamespace
from typing import Annotated, Any, Literal

from ..blanks import Answer, Blank, Choice, Facing, Name, Number
from ..datum import Construction, Datum, Stance, carried_from, constructions, stance_of
from ..errors import StepError
from ..kernel.types import Frame, turned
from ..reference import FaceRef, ThingRef, set_anew
from ..stored import Figure, Value
from .base import Made, Site, Step, Variant, blanks_of, name_of, register

MOST_COPIES = 200
_MOVE: dict[str, tuple[str, ...]] = {"more": ("moved",)}


def _shift(label: str) -> Number:
    return Number(label=label, quantity="length", start="0 mm", when=_MOVE, quiet=True)


def _turn(label: str) -> Number:
    return Number(
        label=label,
        quantity="angle",
        start="0 deg",
        when=_MOVE,
        quiet=True,
        before=", turned" if label == "turn x" else "",
    )


class DatumStep(Step):
    """Base of the four kinds. how : the construction; first, second, third and the numbers are what it takes.

    answer : which of several answers is meant. more : "moved" when the datum is then shifted along its own
    axes and turned about them, x before y before z. stances : the axes that each copy was set with, where
    its place alone does not tell them.
    """

    group, makes = "datum", "datum"

    name: Annotated[str, Name(label="name")]
    how: str
    first: ThingRef | None = None
    second: ThingRef | None = None
    third: ThingRef | None = None
    distance: Value = Value(formula="20 mm")
    distance_two: Value = Value(formula="10 mm")
    angle: Value = Value(formula="30 deg")
    share: Value = Value(formula="50 %")
    count: Value = Value(formula="3")
    x: Value = Value(formula="0 mm")
    y: Value = Value(formula="0 mm")
    z: Value = Value(formula="0 mm")
    side: Literal["out", "back"] = "out"
    facing: Annotated[tuple[Figure, Figure, Figure], Facing(label="view")] = (0.0, 0.0, 0.0)
    copies: Annotated[Value, Number(label="copies", quantity="count", start="1", above=0.0, quiet=True)] = (
        Value(formula="1")
    )
    answer: Annotated[int, Answer(label="answer")] = 0
    more: Annotated[
        Literal["as", "moved"], Choice(label="move", words={"as": "as it is", "moved": "then shifted"})
    ] = "as"
    shift_x: Annotated[Value, _shift("shift x")] = Value(formula="0 mm")
    shift_y: Annotated[Value, _shift("shift y")] = Value(formula="0 mm")
    shift_z: Annotated[Value, _shift("shift z")] = Value(formula="0 mm")
    turn_x: Annotated[Value, _turn("turn x")] = Value(formula="0 deg")
    turn_y: Annotated[Value, _turn("turn y")] = Value(formula="0 deg")
    turn_z: Annotated[Value, _turn("turn z")] = Value(formula="0 deg")
    stances: list[Stance] = []

    @property
    def construction(self) -> Construction:
        """The row of the table; raises StepError for an unknown one."""
        found = constructions(self.kind).get(self.how)
        if found is None:
            raise StepError(
                f"There is no way “{self.how}” to make a {self.kind}. There are: "
                f"{', '.join(constructions(self.kind))}.",
                field="how",
            )
        return found

    def blanks(self) -> dict[str, Blank]:
        """Return the construction's blanks and the common ones."""
        return {n: b for n, b in _blanks(type(self), self.construction).items() if self.asks(b)}

    @classmethod
    def variants(cls) -> dict[str, Variant]:
        """Return every construction of the kind."""
        return {
            how: Variant(c.title, c.title, _sentence(cls, c), _blanks(cls, c))
            for how, c in constructions(name_of(cls)).items()
        }

    def evaluate(self, given: SimpleNamespace, site: Site) -> Made:
        """Make the datum, its copies, and move them."""
        given.side, given.facing = self.side, self.facing
        c = self.construction
        copies = round(given.copies) if c.copies else 1
        if copies > MOST_COPIES:
            raise StepError(f"More than {MOST_COPIES} copies are not made in one step.", field="copies")
        found: list[Datum] = []
        answers = 1
        for n in range(1, copies + 1):
            spaced = SimpleNamespace(**vars(given))
            if c.copies:
                spaced.distance, spaced.angle = (
                    n * getattr(given, "distance", 0.0),
                    n * getattr(given, "angle", 0.0),
                )
            made = c.answers(spaced)
            if c.how == "spread":
                found = list(made)
                break
            answers = len(made)
            found.append(made[self._choice(answers)])
        carried = [self._carried(i, d) for i, d in enumerate(found)]
        return Made(datums=[self._moved(d, given) for d in carried], answers=answers)

    @property
    def axes_chosen(self) -> bool:
        """Whether the place of the datum does not tell how its axes run, so that they are kept as set."""
        if self.kind == "plane":
            return self.how != "offset" or isinstance(self.first, FaceRef)
        if self.kind == "system":
            return self.how == "on_axis" or (self.how == "on_plane" and isinstance(self.first, FaceRef))
        return self.kind == "axis" and self.more == "moved"

    def _carried(self, index: int, datum: Datum) -> Datum:
        """Return a copy with its axes as they were set; copies that came later go with the last one."""
        if not self.stances or not self.axes_chosen:
            return datum
        stance = self.stances[min(index, len(self.stances) - 1)]
        return replace(datum, frame=carried_from(stance, datum.frame, axis=self.kind == "axis"))

    def settled(self, made: list[Datum]) -> DatumStep:
        """Return the step with the axes that it came to kept, where it has none yet."""
        if self.stances or not self.axes_chosen:
            return self
        return self.model_copy(update={"stances": [stance_of(d.unmoved or d.frame) for d in made]})

    def put(self, fields: dict[str, Any]) -> dict[str, Any]:
        """Return the step as data with fields replaced; one that is set anew begins with axes of its own."""
        data = super().put(fields)
        if any(set_anew(getattr(self, n), fields[n]) for n in _SETS if n in fields):
            data["stances"] = []
        return data

    def _choice(self, answers: int) -> int:
        """Return the chosen answer; where two have become one, that one."""
        if self.answer < answers or answers == 1:
            return min(self.answer, answers - 1)
        raise StepError(
            f"Answer {self.answer + 1} is not there any more; {answers} are left. Choose one of them.",
            field="answer",
        )

    def _moved(self, datum: Datum, given: SimpleNamespace) -> Datum:
        if self.more != "moved":
            return datum
        f = datum.frame
        f = Frame(f.at(given.shift_x, given.shift_y, given.shift_z), f.x, f.y)
        for axis, angle in (("x", given.turn_x), ("y", given.turn_y), ("z", given.turn_z)):
            about = {"x": f.x, "y": f.y, "z": f.normal}[axis]
            f = (
                Frame(f.origin, turned(f.x, about, angle), turned(f.y, about, angle))
                if angle % (2 * math.pi)
                else f
            )
        return Datum(datum.kind, f, datum.frame)


_SETS = ("how", "first", "second", "third", "side", "answer", "facing")


def _blanks(kind: type[DatumStep], c: Construction) -> dict[str, Blank]:
    common = dict(blanks_of(kind))
    if not c.copies:
        common.pop("copies")
    if c.how != "view":
        common.pop("facing")
    if name_of(kind) == "point":  # a point has no axes of its own
        common = {n: b for n, b in common.items() if n != "more" and not n.startswith(("shift_", "turn_"))}
    return {**c.blanks, **common}


def _sentence(kind: type[DatumStep], c: Construction) -> str:
    sentence = f"{kind.title} {{name}} {c.sentence}"
    if c.copies:
        sentence += "; {copies} of them"
    sentence += "{answer}"
    if name_of(kind) != "point":
        sentence += ", {more} {shift_x} {shift_y} {shift_z} {turn_x} {turn_y} {turn_z}"
    return sentence + "{facing}" if c.how == "view" else sentence


@register
class Plane(DatumStep):
    """A datum plane."""

    title, key = "Plane", "d p"
    explains = "A plane at a distance, midway, at an angle, through points, touching …"
    sentence = ""

    kind: Literal["plane"] = "plane"
    how: str = "offset"


@register
class Axis(DatumStep):
    """A datum axis."""

    title, key = "Axis", "d a"
    explains = "An axis of a round face, where planes meet, through points, along an edge …"
    sentence = ""

    kind: Literal["axis"] = "axis"
    how: str = "of_round"


@register
class Point(DatumStep):
    """A datum point."""

    title, key = "Point", "d o"
    explains = "A point at a centre, where things cross, along a curve, by coordinates …"
    sentence = ""

    kind: Literal["point"] = "point"
    how: str = "at_point"


@register
class System(DatumStep):
    """A work coordinate system."""

    title, key = "Coordinate system", "d s"
    explains = "A work coordinate system by points, on a face, at an axis, from another …"
    sentence = ""

    kind: Literal["system"] = "system"
    how: str = "on_plane"
