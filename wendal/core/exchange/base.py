"""What a format is, what it can write of a part, and the list of them."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any, Literal

from pydantic import BaseModel, ConfigDict, Field, ValidationError
from pydantic.fields import FieldInfo

from .. import kernel
from ..errors import CommandRefused
from ..reference import ThingRef
from ..route import Evaluation, Part
from ..steps import Site

__all__ = [
    "Format",
    "Meshing",
    "Options",
    "Order",
    "PageOptions",
    "Subject",
    "export",
    "export_bare",
    "formats",
    "read",
    "register",
    "solid_bodies",
    "subjects_told",
]

Kind_ = Literal["part", "bodies", "sketch", "face", "section", "view", "table", "drawing", "page"]
Way = Literal["front", "back", "left", "right", "top", "bottom"]


class Options(BaseModel):
    """How a format writes; each has its own. The page makes its form of them, the command line its flags."""

    model_config = ConfigDict(extra="forbid")


class PageOptions(Options):
    """What stands in the title block of a page besides what the part says; the server fills it."""

    version: str = Field("", title="version", max_length=40)
    date: str = Field("", title="date", max_length=40)


def subjects_told(option: FieldInfo) -> list[str]:
    """Return the subjects of which an option of a format says something; none named: all."""
    more = option.json_schema_extra
    of = more.get("of") if isinstance(more, dict) else None
    return [str(s) for s in of] if isinstance(of, list) else []


class Meshing(Options):
    """How fine triangles are."""

    fineness: Literal["coarse", "normal", "fine"] = Field("normal", title="triangles")

    @property
    def share(self) -> float:
        """By how much the usual deflection is multiplied."""
        return {"coarse": 4.0, "normal": 1.0, "fine": 0.25}[self.fineness]


class Subject(BaseModel):
    """What is written: the part, some bodies by their ids, a sketch, a face, a section at a plane, a view,
    a table, the drawing, one page of it by its id.

    thing : the face, or the plane of a section; off : mm in front of it. way : whence a view is seen, where
    no plane is named that it looks at squarely.
    """

    model_config = ConfigDict(extra="forbid")

    of: Kind_ = "part"
    bodies: list[str] = Field(default_factory=list, max_length=1000)
    step: str = ""
    thing: ThingRef | None = None
    off: float = Field(0.0, allow_inf_nan=False)
    way: Way = "front"
    page: str = Field("", max_length=8)


@dataclass(frozen=True, slots=True)
class Order:
    """What is to be written, and how."""

    part: Part
    evaluation: Evaluation
    subject: Subject
    options: Any


@dataclass(frozen=True, slots=True)
class Format:
    """A way to write a part or something of it, and perhaps to read one.

    write : to bytes. subjects : what it can write, the usual one first. options : how. read : from a file's
    content to a part; raises DocumentError that names what does not fit. bare : whether a part can be written
    without its geometry.
    """

    ending: str
    media: str
    title: str
    write: Callable[[Order], bytes]
    subjects: tuple[Kind_, ...] = ("part",)
    options: type[Options] = Options
    read: Callable[[bytes], Part] | None = None
    bare: Callable[[Part], bool] = lambda part: False


_formats: dict[str, Format] = {}
_FIRST = ["step", "3mf", "stl", "glb", "pdf", "dxf", "svg", "csv", "json"]


def register(made: Format) -> Format:
    """Make a format known; a second one with the same ending is refused."""
    if made.ending in _formats:
        raise ValueError(f"format {made.ending} is registered twice")
    _formats[made.ending] = made
    return made


def formats() -> dict[str, Format]:
    """Return every format by file ending, the commonest first."""
    return dict(sorted(_formats.items(), key=lambda item: _FIRST.index(item[0]) if item[0] in _FIRST else 99))


def _format(ending: str) -> Format:
    if ending not in _formats:
        raise CommandRefused(
            f"There is no format “{ending}”. There are: {', '.join(_formats)}.", field="format"
        )
    return _formats[ending]


def export(
    part: Part,
    evaluation: Evaluation,
    ending: str,
    subject: dict[str, Any] | None = None,
    options: dict[str, Any] | None = None,
) -> bytes:
    """Write a part, or something of it; raises CommandRefused for an unknown format, subject or option, and
    where there is nothing to write."""
    made = _format(ending)
    try:
        what = Subject.model_validate(subject or {"of": made.subjects[0]})
        how = made.options.model_validate(options or {})
    except ValidationError as error:
        first = error.errors()[0]
        where = ".".join(map(str, first["loc"]))
        raise CommandRefused(f"{where}: {first['msg']}.", field=where) from error
    if what.of not in made.subjects:
        raise CommandRefused(
            f"{made.title.split(',')[0]} is written of: {', '.join(made.subjects)}; not of a {what.of}.",
            field="subject",
        )
    return made.write(Order(part, evaluation, what, how))


def export_bare(part: Part, ending: str) -> bytes | None:
    """Write a part without its geometry; None where the format needs it, or is not known."""
    made = _formats.get(ending)
    if made is None or not made.bare(part):
        return None
    return export(part, Evaluation([], part.evaluated(), {}, Site()), ending)


def read(content: bytes, ending: str) -> Part:
    """Read a part from a file; raises CommandRefused for a format that is not read, DocumentError for content
    that does not fit."""
    reader = _formats[ending].read if ending in _formats else None
    if reader is None:
        known = ", ".join(f.ending for f in _formats.values() if f.read)
        raise CommandRefused(f"A part is not read from “{ending}”. It is read from: {known}.", field="ending")
    return reader(content)


def solid_bodies(order: Order, sheets: bool = True) -> list[tuple[str, str, kernel.NamedShape]]:
    """Return ids, names and shapes to write, in the active coordinate system; raises CommandRefused when
    there are none, or one is broken.

    sheets : whether the format can hold bodies without thickness; else they are left out.
    """
    part, evaluation, wanted = order.part, order.evaluation, set(order.subject.bodies)
    bodies = [
        (b.id, b.name, b.shape)
        for b in evaluation.site.bodies.values()
        if order.subject.of != "bodies" or b.id in wanted
    ]
    for _, name, shape in bodies:
        if not kernel.check_whole(shape):
            raise CommandRefused(
                f"Nothing was written: looked at as a whole, {name} is broken. Change the step that was "
                "built last a little; a slightly "
                "different depth or outline often helps."
            )
    if part.active_system:
        system = evaluation.site.datums.get(part.active_system)
        if system is None:
            name = part.step(part.active_system).name
            raise CommandRefused(
                f"The active coordinate system “{name}” is not built, so nothing was written. "
                "Mend it, or work in another."
            )
        bodies = [(id_, name, kernel.seen_from(shape, system[0].frame)) for id_, name, shape in bodies]
    if not bodies:
        raise CommandRefused(
            "Pick the bodies to write."
            if order.subject.of == "bodies"
            else "There is no body to write yet. Build one first, for example by extruding a sketch."
        )
    if not sheets:
        bodies = [b for b in bodies if not kernel.is_sheet(b[2])]
        if not bodies:
            raise CommandRefused(
                "There are only sheets, and this format takes solid bodies. Thicken one first, or write STEP."
            )
    return bodies
