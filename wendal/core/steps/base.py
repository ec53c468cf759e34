"""What a step kind is.

A kind is one file: a Pydantic class whose annotated fields are its blanks, its sentence, and `evaluate`.
Everything else follows from that: numbers and references are worked out before `evaluate` is called, the
key under which its result is remembered is made from them, and the client builds its editing from the
published blanks.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass, field, replace
from functools import cache
from types import SimpleNamespace
from typing import TYPE_CHECKING, Any, ClassVar, Literal, Self

from pydantic import BaseModel, Field, model_validator

from ..blanks import Blank, Number, Pick
from ..datum import Datum, Picked
from ..errors import StepError
from ..kernel.types import Frame, Placement, Topology, Vec
from ..once import Lazily, OnceWeakly
from ..quantity import Kind
from ..reference import Candidate
from ..sketch import Drawing, Region
from ..stored import Stored, Value
from .given import Given, on_others

if TYPE_CHECKING:
    from ..kernel import NamedShape  # loading the kernel waits until something is built

__all__ = [
    "Body",
    "Effect",
    "Gone",
    "Handle",
    "Made",
    "Seed",
    "Site",
    "SketchMade",
    "Step",
    "Variant",
    "blanks_of",
    "kind_of",
    "kinds",
    "name_of",
    "numbers_of",
    "register",
]


@dataclass(frozen=True, slots=True)
class Body:
    """A body as it stands after some step. key : digest of everything it was made from."""

    id: str
    name: str
    shape: NamedShape
    topology: Topology
    key: str

    @property
    def sheet(self) -> bool:
        """Whether it has no thickness."""
        from .. import kernel

        return kernel.is_sheet(self.shape)

    def solid(self, field: str) -> Body:
        """Return the body; raises StepError, with the field it was picked in, where it is a sheet."""
        if self.sheet:
            raise StepError(
                f"{self.name} is a sheet, and this works on solid bodies. Thicken it first, or pick a solid "
                "body.",
                field=field,
            )
        return self


@dataclass(frozen=True, slots=True)
class SketchMade:
    """A solved sketch in its place.

    texts : the pieces of each text's letters, by its id; heights : of their capitals, mm.
    """

    frame: Frame
    drawing: Drawing
    regions: list[Region]
    texts: dict[str, list[Region]] = field(default_factory=dict)
    heights: dict[str, float] = field(default_factory=dict)


@dataclass(frozen=True, slots=True)
class Effect:
    """What a step does to bodies: solids that are added to them, cut from them, kept in common, or make a new
    one.

    bodies : the ids of the bodies, None for all that the solids touch. label : tells several new bodies of
    one step apart.
    """

    how: Literal["new", "add", "cut", "common"]
    tools: list[NamedShape]
    bodies: tuple[str, ...] | None = None
    label: str = ""


@dataclass(frozen=True, slots=True)
class Seed:
    """A building step as a pattern or mirror finds it: what it did, and all that is needed to do it again.

    made_by : the step. key : of its result, which tells all of its content. threads : what of it is threaded
    (frame, radius). given : its numbers and references. site : what stands after it, or, of a step that
    changes bodies as they stand, before it. changes : of such a step, each body with its shape before and
    after; it has no effects then.
    """

    made_by: Step
    key: str
    effects: list[Effect]
    threads: list[tuple[Frame, float]]
    given: Lazily[Any]
    site: Site
    changes: tuple[tuple[str, NamedShape, NamedShape], ...] = ()

    @property
    def step(self) -> str:
        """The step's id."""
        return self.made_by.id

    def again(self, placement: Placement, there: Site) -> list[Effect]:
        """Return what the step does under a placement among the bodies of another site; raises StepError."""
        site = there if self.made_by.copied else replace(self.site, bodies=there.bodies)
        return self.made_by.again(self.given(), site, placement)

    def on_others(self, picks: Callable[[Picked], list[Picked]], there: Site) -> Made:
        """Do the step in another site, on what `picks` gives for each thing that was picked; raises
        StepError."""
        return self.made_by.evaluate(on_others(self.given(), picks), there)


@dataclass(slots=True)
class Site:
    """What stands when a step is evaluated: bodies, datums, sketches, and what building steps did, of the
    steps before it, by id.

    taken : bodies that are gone since they were joined into another, and that one.
    """

    bodies: dict[str, Body] = field(default_factory=dict)
    datums: dict[str, list[Datum]] = field(default_factory=dict)
    sketches: dict[str, SketchMade] = field(default_factory=dict)
    seeds: dict[str, Seed] = field(default_factory=dict)
    threads: dict[str, list[tuple[Frame, float]]] = field(default_factory=dict)
    taken: dict[str, str] = field(default_factory=dict)

    def now(self, body: str) -> str | None:
        """Return the body in which one is now: itself, or the one that it was joined into.

        None where it is gone.
        """
        while body not in self.bodies and body in self.taken:
            body = self.taken[body]
        return body if body in self.bodies else None

    def copy(self) -> Site:
        """Return a site that can be added to without changing this one."""
        return Site(
            dict(self.bodies),
            dict(self.datums),
            dict(self.sketches),
            dict(self.seeds),
            dict(self.threads),
            dict(self.taken),
        )


@dataclass(frozen=True, slots=True)
class Handle:
    """A number that can be pulled on the stage: it is `factor` times the way from an origin along a unit
    direction, mm.

    about : for an angle, a place of the axis that the origin is turned about; the direction is then the
    axis's.
    """

    field: str
    origin: Vec
    way: Vec
    factor: float = 1.0
    about: Vec | None = None


@dataclass(frozen=True, slots=True)
class Gone:
    """Something that a step takes in and that is not there any more, or not told from others: its field, why,
    and what could be meant."""

    place: str
    reason: str
    candidates: list[Candidate] = field(default_factory=list)


@dataclass(slots=True)
class Made:
    """What a step adds to the site. shapes : new or changed bodies' shapes by id; None takes a body away.

    answers : how many answers there were to choose from. effects : what was done to bodies, for patterns,
    mirrors and previews. dots : where the copies of a pattern stand, by their numbers. handles : numbers that
    can be pulled on the stage. threads : circles to be drawn as threads (frame, radius). skin : new faces
    that are shown beforehand in place of material. note : said beside a built step; inches : the
    same in a part told in inches, where it has bare figures. taken : bodies that were
    joined into another, by id, and that one. gone : what was taken in and is not there any more. others : by
    the place of what was taken in, the other pieces that could be meant.
    """

    datums: list[Datum] = field(default_factory=list)
    answers: int = 1
    sketch: SketchMade | None = None
    shapes: dict[str, NamedShape | None] = field(default_factory=dict)
    effects: list[Effect] = field(default_factory=list)
    dots: dict[str, Vec] = field(default_factory=dict)
    threads: list[tuple[Frame, float]] = field(default_factory=list)
    handles: list[Handle] = field(default_factory=list)
    skin: NamedShape | None = None
    note: str = ""
    inches: str = ""
    taken: dict[str, str] = field(default_factory=dict)
    gone: list[Gone] = field(default_factory=list)
    others: dict[str, list[Candidate]] = field(default_factory=dict)

    def told(self, inches: bool) -> str:
        """Return the note as a part has it whose lengths are told in mm, or in inches."""
        return (inches and self.inches) or self.note


@dataclass(frozen=True, slots=True)
class Variant:
    """One way to make a step: what it is called, how it is said, what may be filled in."""

    title: str
    explains: str
    sentence: str
    blanks: dict[str, Blank]


class Step(Stored):
    """Base of all step kinds. id never changes; name is the designer's; a suppressed step waits."""

    kind: str
    id: str
    name: str = Field(min_length=1, max_length=80)
    suppressed: bool = False
    visible: bool = True

    title: ClassVar[str]
    group: ClassVar[str]
    key: ClassVar[str]
    explains: ClassVar[str]
    sentence: ClassVar[str]
    makes: ClassVar[str]  # "datum", "sketch" or "body"
    shelf: ClassVar[str] = ""  # where it lies in the kit, by what the hand wants
    wants_file: ClassVar[bool] = False  # it begins with a file in place of blanks
    rare: ClassVar[bool] = False  # offered after what is wanted more often
    leads: ClassVar[tuple[str, ...]] = ()  # blanks that may be empty, and are enough for an offer
    copied: ClassVar[bool] = (
        False  # it changes bodies as they stand, and what it adds and takes away can be copied
    )
    takes: ClassVar[type[Given] | None] = None  # the values that `evaluate` is given, typed; see `given.py`
    placeless: ClassVar[bool] = (
        # Nothing but its picked edges and faces says where it works, so that it can be done again on others.
        False
    )

    @model_validator(mode="after")
    def _keys_once(self) -> Self:
        """A key is part of the names of what is made from a pick, so no two picks of a step share one."""
        for name in type(self).model_fields:
            held = getattr(self, name)
            keys = (
                [str(item.key) for item in held if getattr(item, "key", "")] if isinstance(held, list) else []
            )
            twice = next((k for k in keys if keys.count(k) > 1), "")
            if twice:
                raise ValueError(
                    f"two of the picks in “{name}” have the key “{twice}”; each needs one of its own"
                )
        return self

    def given_from(self, values: dict[str, Any], dimensions: dict[str, float], taken: dict[str, Any]) -> Any:
        """Return what `evaluate` is given, as the kind takes it.

        values : by field, numbers in mm, rad or count, and resolved references. dimensions : of a sketch, by
        constraint. taken : of a sketch, what is taken in from the model, by entity.
        """
        if self.takes is None:
            return SimpleNamespace(**values, dimensions=dimensions, taken=taken)
        return self.takes(**values)

    def evaluate(self, given: Any, site: Site) -> Made:
        """Build the step.

        given : as the kind's `takes` says; without one, a namespace of all blanks by name.
        """
        raise NotImplementedError(self.kind)

    def again(self, given: Any, site: Site, placement: Placement) -> list[Effect]:
        """Return what the step does when it is made anew under a placement; only building steps can be."""
        raise StepError(f"{self.title} {self.name} makes nothing that could be repeated.")

    def reads(self, site: Site) -> list[Body]:
        """Return the bodies, besides those it refers to, that the result depends on."""
        return []

    def blanks(self) -> dict[str, Blank]:
        """Return the blanks that are there with the step's present choices, by field name."""
        return {n: b for n, b in blanks_of(type(self)).items() if self.asks(b)}

    @classmethod
    def variants(cls) -> dict[str, Variant]:
        """Return the ways to make the step, each with its own sentence and blanks; most kinds have just
        one."""
        return {"": Variant(cls.title, cls.explains, cls.sentence, blanks_of(cls))}

    def values(self) -> Iterator[tuple[str, Value, Kind]]:
        """Yield (place, value, kind) for every number of the step."""
        for name, blank in self.blanks().items():
            if isinstance(blank, Number):
                yield name, getattr(self, name), Kind(blank.quantity)

    def with_value(self, place: str, value: Value) -> Step:
        """Return the step with one of its numbers replaced."""
        return self.model_copy(update={place: value})

    def takings(self) -> Iterator[tuple[str, Any]]:
        """Yield (entity, reference) for what a step takes in from the model besides its blanks; it stays
        where it is when lost."""
        yield from ()

    def begun(self, steps: Mapping[str, Step]) -> Step:
        """Return the step as it is when it is new, with what follows from the steps (by id) that it stands
        on."""
        return self

    def put(self, fields: dict[str, Any]) -> dict[str, Any]:
        """Return the step as data with some fields replaced."""
        return {**self.model_dump(mode="json"), **fields}

    def missing(self) -> list[str]:
        """Say what the step still needs before it can be built."""
        return [
            b.needs
            for name, b in self.blanks().items()
            if isinstance(b, Pick) and not b.optional and not getattr(self, name)
        ]

    def asks(self, blank: Blank) -> bool:
        """Tell whether a blank is there with the step's present choices, and those with the ones they hang
        on."""
        marks = blanks_of(type(self))
        return all(
            str(getattr(self, other)) in wanted and (other not in marks or self.asks(marks[other]))
            for other, wanted in blank.when.items()
        )


def _numbers(step: Step) -> tuple[tuple[str, Value, Kind], ...]:
    return tuple(step.values())


# A step's numbers, worked out once.
numbers_of: OnceWeakly[Step, tuple[tuple[str, Value, Kind], ...]] = OnceWeakly(_numbers)
_kinds: dict[str, type[Step]] = {}


def register(kind: type[Step]) -> type[Step]:
    """Make a step kind known; a second one of the same name is refused."""
    name = name_of(kind)
    if name in _kinds:
        raise ValueError(f"step kind {name} is registered twice")
    _kinds[name] = kind
    return kind


def kinds() -> dict[str, type[Step]]:
    """Return every step kind by name."""
    return dict(_kinds)


def name_of(kind: type[Step]) -> str:
    """Return the name of a kind, for example "extrude"."""
    return str(kind.model_fields["kind"].default)


def kind_of(name: str) -> type[Step]:
    """Return a step kind; raises KeyError for an unknown one."""
    return _kinds[name]


@cache
def blanks_of(kind: type[BaseModel]) -> dict[str, Blank]:
    """Return the blanks of a kind by field name."""
    return {
        name: mark
        for name, info in kind.model_fields.items()
        for mark in info.metadata
        if isinstance(mark, Blank)
    }


def published(kind: type[Step]) -> dict[str, Any]:
    """Return a kind as the client needs it: title, keys, sentence and blanks."""

    def blank(name: str, mark: Blank) -> dict[str, Any]:
        info = kind.model_fields[name]
        default = None if info.is_required() else info.get_default(call_default_factory=True)
        return mark.published() | {
            "default": default.model_dump() if isinstance(default, BaseModel) else default
        }

    ways = {
        how: {
            "title": v.title,
            "explains": v.explains,
            "sentence": v.sentence,
            "blanks": {n: blank(n, b) for n, b in v.blanks.items()},
        }
        for how, v in kind.variants().items()
    }
    return {
        "kind": name_of(kind),
        "title": kind.title,
        "group": kind.group,
        "shelf": kind.shelf,
        "key": kind.key,
        "explains": kind.explains,
        "makes": kind.makes,
        "rare": kind.rare,
        "wants_file": kind.wants_file,
        "variants": ways,
    }
