"""The part document: a versioned, readable JSON with a published schema."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Mapping
from dataclasses import dataclass
from functools import reduce
from hashlib import blake2b
from operator import or_
from typing import TYPE_CHECKING, Annotated, Any, Literal

from pydantic import Field, TypeAdapter, ValidationError
from pydantic_core import from_json, to_json

from ..errors import CommandRefused, DocumentError
from ..once import Latest, Once, OnceWeakly
from ..quantity import Definition, Kind, Outcome, Quantity, Units, evaluate_ledger
from ..reference import BodyRef, FaceRef, ThingRef
from ..steps import Step, kinds, numbers_of
from ..stored import Figure, Stored, Value
from .family import FamilyRow
from .pages import Page
from .upgrade import VERSION, upgraded

__all__ = [
    "AnyStep",
    "BodyLook",
    "Entry",
    "Group",
    "Kept",
    "KeptSection",
    "KeptView",
    "LedgerLine",
    "Part",
    "PartText",
    "Remark",
    "UnitChoice",
    "part_schema",
    "read_part",
    "read_step",
    "todays",
    "write_part",
]

if TYPE_CHECKING:
    AnyStep = Step
else:
    AnyStep = Annotated[reduce(or_, kinds().values()), Field(discriminator="kind")]
_step_adapter: TypeAdapter[Step] = TypeAdapter(AnyStep)


# Steps that were read before, by a digest of their data: so many, and so many of one.
_steps: Latest[bytes, Step] = Latest(6000, 6000, 100)
MOST = 5000  # steps, and tags of the ledger's own, in one part


class UnitChoice(Stored):
    """The units in which bare numbers are read and values shown."""

    length: Literal["mm", "in"] = "mm"
    angle: Literal["deg", "rad"] = "deg"

    def units(self) -> Units:
        """Return them for formulas."""
        return Units(self.length, self.angle)


TENS = 10  # between the numbers of two steps
COUNTED = 10**9 - 1  # the highest number that an id may have


class Entry(Stored):
    """A tag of the ledger that belongs to no step."""

    tag: str
    formula: str


class Remark(Stored):
    """What the designer has laid down about a tag: a note, the least and the most it may be, the values it
    may take, its tolerance.

    least, most, values : formulas, "" and [] for no limit. tolerance : a class by ISO 286 or limits in mm.
    """

    note: str = ""
    least: str = ""
    most: str = ""
    values: list[str] = []
    tolerance: str = ""


Paint = Literal["slate", "moss", "clay", "sand"]
Colour = Paint | Literal[""]  # "" for stone, of a face for its body's


class BodyLook(Stored):
    """How a body is called and shown.

    name : "" for that of the step that began it; colour : one of the stage's, "" for stone. through : seen
    through. material : by its name in the table, "" for none.
    """

    name: str = Field(default="", max_length=80)
    visible: bool = True
    colour: Colour = ""
    through: bool = False
    material: str = Field(default="", max_length=80)


MOST_FACES = 500  # with names and colours of their own


class FaceLook(Stored):
    """How a single face is called and shown: "" for what it would be called, and the body's colour."""

    face: FaceRef
    name: str = Field(default="", max_length=80)
    colour: Colour = ""

    @property
    def key(self) -> str:
        """What tells the face from others, wherever it was picked."""
        return self.face.model_dump_json(exclude={"near"})


class PartText(Stored):
    """What is said of a part on lists and drawings: its number, material, who drew it, remarks. general : the
    class of ISO 2768-1 that holds where no tolerance is laid down."""

    number: str = Field(default="", max_length=80)
    material: str = Field(default="", max_length=80)
    drawn_by: str = Field(default="", max_length=80)
    note: str = Field(default="", max_length=2000)
    general: Literal["f", "m", "c", "v"] = "m"


class Kept(Stored):
    """A measure that is kept: which figure of which things, and behind which step it is taken.

    after : a step's id, "" for the end of the route. key : which figure (`gauging.py`). system : the
    coordinate system in whose directions it is told. worth : what it was when it was kept (mm, rad, mm²,
    mm³), which stands for it while formulas are checked before anything is built.
    """

    tag: str
    things: list[ThingRef | BodyRef] = Field(min_length=1, max_length=200)
    key: str = Field(max_length=40)
    unit: Literal["length", "angle", "area", "volume"]
    after: str = ""
    system: str = ""
    worth: Figure


class KeptView(Stored):
    """A view that is kept: how it is turned (a quaternion), what it looks at (mm), and pixels a mm."""

    name: str = Field(max_length=80)
    turn: tuple[Figure, Figure, Figure, Figure]
    target: tuple[Figure, Figure, Figure]
    scale: float = Field(gt=0, allow_inf_nan=False)
    perspective: bool = False


class Cut(Stored):
    """A plane at which a part is cut open: a plane or flat face, so many mm off it, turned about its X and
    its Y (rad); flipped : what lies behind it is taken away."""

    at: ThingRef
    words: str = Field(default="", max_length=200)
    off: Figure = 0.0
    turns: tuple[Figure, Figure] = (0.0, 0.0)
    flipped: bool = False


class KeptSection(Stored):
    """A section that is kept: the part cut open at up to three planes, a corner of it taken away."""

    name: str = Field(max_length=80)
    cuts: list[Cut] = Field(min_length=1, max_length=3)


class Group(Stored):
    """Steps that come one behind the other, under a heading. folded : only the heading is shown."""

    name: str = Field(min_length=1, max_length=80)
    steps: list[str] = Field(min_length=1, max_length=MOST)
    folded: bool = False


class Part(Stored):
    """A part: its ledger and its route. looks : of bodies, by their ids. unseen : kinds of things that are
    left out of the view. about : what is said of it. notes : on steps, by their ids. groups : steps under a
    heading. pages : of its drawing. family : sets of values under names. faces : of
    which single ones have looks of their own. numbers : of steps, by their ids,
    where they are not those of their places: see `numbering.py`.

    stop_after : the id of the last step to be built, or "" for all. active_system : the step whose coordinate
    system is in use, or "" for the part's own. last : the highest number given to a step.
    """

    format: Literal["wendal-part"] = "wendal-part"
    version: Literal[3] = 3
    name: str = Field(min_length=1, max_length=120)
    units: UnitChoice = UnitChoice()
    ledger: list[Entry] = Field([], max_length=MOST)
    remarks: dict[str, Remark] = {}
    steps: list[AnyStep] = Field([], max_length=MOST)
    stop_after: str = ""
    active_system: str = ""
    last: int = 0
    looks: dict[str, BodyLook] = {}
    kept: list[Kept] = Field([], max_length=1000)
    views: list[KeptView] = Field([], max_length=200)
    sections: list[KeptSection] = Field([], max_length=200)
    unseen: list[Literal["base", "plane", "axis", "point", "system", "sketch"]] = []
    about: PartText = PartText()
    notes: dict[str, Annotated[str, Field(max_length=2000)]] = {}
    groups: list[Group] = Field([], max_length=200)
    pages: list[Page] = Field([], max_length=60)
    family: list[FamilyRow] = Field([], max_length=1000)
    faces: list[FaceLook] = Field([], max_length=MOST_FACES)
    numbers: dict[str, Annotated[int, Field(ge=1, le=COUNTED)]] = {}

    def index(self, step: str) -> int:
        """Return a step's place in the route; raises CommandRefused when there is no such step."""
        for i, s in enumerate(self.steps):
            if s.id == step:
                return i
        raise CommandRefused("This step is not in the route any more.", step=step)

    def step(self, step: str) -> Step:
        """Return a step by id; raises CommandRefused when there is no such step."""
        found: Step = self.steps[self.index(step)]
        return found

    def owner(self, step: Step) -> str:
        """Return whose a remembered result is, so that edits of one step drive out no other's.

        Parts of one name share a limit; that costs them time, nothing else.
        """
        return f"{self.name}/{step.id}"

    def number(self, step: str) -> int:
        """Return a step's number on the route card: 10, 20, 30 …, and 15 of one put between."""
        return self.numbers.get(step) or TENS * (self.index(step) + 1)

    def with_step(self, step: Step) -> Part:
        """Return the part with one step replaced by another of the same id."""
        return self.model_copy(update={"steps": [step if s.id == step.id else s for s in self.steps]})

    def rows(self) -> tuple[LedgerLine, ...]:
        """Return every tagged number of the part, the ledger's own first."""
        return _rows(self)

    def evaluated(self, measures: Mapping[str, Quantity] | None = None) -> dict[str, Outcome]:
        """Evaluate the whole ledger. measures : what steps have come to, by name (`base.volume`)."""
        return (
            evaluate_ledger(
                [Definition(r.tag, r.formula, r.kind) for r in self.rows()], self.units.units(), measures
            )
            if measures
            else dict(_plain(self))
        )

    def tags(self) -> set[str]:
        """Return every tag in use."""
        return {r.tag for r in self.rows()} | {k.tag for k in self.kept}


@dataclass(frozen=True, slots=True)
class LedgerLine:
    """One row of the ledger; step and place say where its number lives ("" for the ledger itself)."""

    tag: str
    formula: str
    kind: Kind
    step: str
    place: str

    def value(self) -> Value:
        """Return the row as the value stored at its place."""
        return Value(formula=self.formula, tag=self.tag)


def _rows_of(part: Part) -> tuple[LedgerLine, ...]:
    own = [LedgerLine(entry.tag, entry.formula, Kind.ANY, "", "") for entry in part.ledger]
    return (*own, *(row for step in part.steps for row in _rows_of_step(step)))


def _tagged_numbers(step: Step) -> tuple[LedgerLine, ...]:
    return tuple(
        LedgerLine(value.tag, value.formula, kind, step.id, place)
        for place, value, kind in numbers_of(step)
        if value.tag
    )


def _evaluated(part: Part) -> dict[str, Outcome]:
    return evaluate_ledger([Definition(r.tag, r.formula, r.kind) for r in part.rows()], part.units.units())


_rows: Once[Part, tuple[LedgerLine, ...]] = Once(_rows_of, 8)
_rows_of_step: OnceWeakly[Step, tuple[LedgerLine, ...]] = OnceWeakly(_tagged_numbers)
_plain: Once[Part, dict[str, Outcome]] = Once(_evaluated, 8)


def part_schema() -> dict[str, Any]:
    """Return the published JSON schema of a part."""
    return Part.model_json_schema()


def write_part(part: Part) -> str:
    """Return a part as readable JSON; reading it back gives the same part."""
    return part.model_dump_json(indent=1) + "\n"


def read_part(text: str | bytes) -> Part:
    """Read a part; raises DocumentError that names the first field that does not fit."""
    try:
        part = _validated(upgraded(from_json(text)))
    except ValueError as error:
        if isinstance(error, ValidationError):
            raise _first_trouble(error) from error
        raise DocumentError(
            f"At the whole text: this is no JSON. {error}.", field="the whole text"
        ) from error
    _check_ids(part)
    return part


def _validated(data: Any) -> Part:
    """Return a part; steps that were read before are not read again: the same step is one object, however
    often its part is read."""
    if not isinstance(data, dict) or not isinstance(data.get("steps"), list) or len(data["steps"]) > MOST:
        return Part.model_validate(data)
    keys = [blake2b(to_json(s), digest_size=16).digest() for s in data["steps"]]
    try:
        steps = [
            _steps.get(k) or _step_adapter.validate_python(s)
            for k, s in zip(keys, data["steps"], strict=True)
        ]
    except ValidationError:
        return Part.model_validate(data)  # which says where in the part
    part = Part.model_validate({**data, "steps": []}).model_copy(update={"steps": steps})
    for key, step in zip(keys, steps, strict=True):
        if key in _steps:
            _steps.used(key)
        else:
            _steps.put(key, step, 1, part.owner(step))
    return part


def todays(document: str) -> str:
    """Return a part's text in today's version."""
    return document if from_json(document).get("version") == VERSION else write_part(read_part(document))


def read_step(data: dict[str, Any]) -> Step:
    """Read one step; raises DocumentError that names the first field that does not fit."""
    try:
        return _step_adapter.validate_python(data)
    except ValidationError as error:
        raise _first_trouble(error) from error


def _first_trouble(error: ValidationError) -> DocumentError:
    first = error.errors()[0]
    where = ".".join(str(p) for p in first["loc"]) or "the whole text"
    return DocumentError(
        f"At {where}: {first['msg']}. The schema that a part follows: python -m wendal schema.", field=where
    )


def _check_ids(part: Part) -> None:
    """Raise DocumentError when ids or tags are used twice, or numbering would use one again."""
    ids = [s.id for s in part.steps]
    tags = [*(r.tag for r in part.rows()), *(k.tag for k in part.kept)]
    for what, found in (("step id", ids), ("tag", tags)):
        twice = next((x for x, n in Counter(found).items() if n > 1), None)
        if twice is not None:
            raise DocumentError(f"The {what} “{twice}” is used twice; each is used once.", field=twice)
    if part.stop_after and part.stop_after not in ids:
        raise DocumentError(
            f"The stop line stands after “{part.stop_after}”, which is no step.", field="stop_after"
        )
    if part.active_system and part.active_system not in ids:
        raise DocumentError(
            f"The active system is “{part.active_system}”, which is no step.", field="active_system"
        )
    for kept in part.kept:
        if kept.after and kept.after not in ids:
            raise DocumentError(
                f"The measure “{kept.tag}” is taken after “{kept.after}”, which is no step.", field=kept.tag
            )
    for group in part.groups:
        strange = next((s for s in group.steps if s not in ids), None)
        if strange is not None:
            raise DocumentError(
                f"Under the heading “{group.name}” stands “{strange}”, which is no step.", field="groups"
            )
    _check_forms(part)
    if any(int(s.id[1:]) > part.last for s in part.steps):
        raise DocumentError(
            "“last” is smaller than the highest step number, so that an id would be used again.", field="last"
        )


def _check_forms(part: Part) -> None:
    """Raise DocumentError for ids and counters outside of their form: they are parts of names."""
    for step in part.steps:
        if not re.fullmatch(r"s[0-9]{1,9}", step.id):
            raise DocumentError(f"A step's id is an s and a number, and this is “{step.id}”.", field="id")
        drawing = getattr(step, "drawing", None)
        if drawing is None:
            continue
        ids = [*drawing.points, *drawing.curves, *drawing.constraints, *drawing.texts]
        strange = next((i for i in ids if not re.fullmatch(r"[a-z][0-9]{1,9}", i)), None)
        if strange is not None:
            raise DocumentError(
                f"In {step.name}, an id is a letter and a number, and this is “{strange}”.", field=strange
            )
        highest = max((int(i[1:]) for i in ids), default=0)
        if not highest <= drawing.last <= COUNTED:
            raise DocumentError(
                f"In {step.name}, “last” is {drawing.last}; it is at least the highest number of an id, "
                f"{highest}, and at most {COUNTED}.",
                field="last",
            )
    if not 0 <= part.last <= COUNTED:
        raise DocumentError(f"“last” is {part.last}; it is between 0 and {COUNTED}.", field="last")
