"""What a format is, and the list of them."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from .. import kernel
from ..errors import CommandRefused
from ..route import Evaluation, Part
from ..steps import Site

__all__ = ["Format", "export", "export_bare", "formats", "read", "register"]


@dataclass(frozen=True, slots=True)
class Format:
    """A way to write a part, and perhaps to read one: file ending, media type, words, and the functions.

    write : from part and results to bytes. read : from a file's content to a part; raises DocumentError that
    names what does not fit. bare : whether a part can be written without its geometry.
    """

    ending: str
    media: str
    title: str
    write: Callable[[Part, Evaluation], bytes]
    read: Callable[[bytes], Part] | None = None
    bare: Callable[[Part], bool] = lambda part: False


_formats: dict[str, Format] = {}


def register(made: Format) -> Format:
    """Make a format known; a second one with the same ending is refused."""
    if made.ending in _formats:
        raise ValueError(f"format {made.ending} is registered twice")
    _formats[made.ending] = made
    return made


def formats() -> dict[str, Format]:
    """Return every format by file ending."""
    return dict(_formats)


def export(part: Part, evaluation: Evaluation, ending: str) -> bytes:
    """Write a part; raises CommandRefused for an unknown format or where there is nothing to write."""
    if ending not in _formats:
        raise CommandRefused(
            f"There is no format “{ending}”. There are: {', '.join(_formats)}.", field="format"
        )
    return _formats[ending].write(part, evaluation)


def export_bare(part: Part, ending: str) -> bytes | None:
    """Write a part without its geometry; None where the format needs it, or is not known."""
    made = _formats.get(ending)
    if made is None or not made.bare(part):
        return None
    return made.write(part, Evaluation([], part.evaluated(), {}, Site()))


def read(content: bytes, ending: str) -> Part:
    """Read a part from a file; raises CommandRefused for a format that is not read, DocumentError for content
    that does not fit."""
    reader = _formats[ending].read if ending in _formats else None
    if reader is None:
        known = ", ".join(f.ending for f in _formats.values() if f.read)
        raise CommandRefused(f"A part is not read from “{ending}”. It is read from: {known}.", field="ending")
    return reader(content)


def solid_bodies(
    part: Part, evaluation: Evaluation, sheets: bool = True
) -> list[tuple[str, kernel.NamedShape]]:
    """Return names and shapes to write, in the active coordinate system; raises CommandRefused when there are
    none, or one is broken.

    sheets : whether the format can hold bodies without thickness; else they are left out.
    """
    bodies = [(b.name, b.shape) for b in evaluation.site.bodies.values()]
    for name, shape in bodies:
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
        bodies = [(name, kernel.seen_from(shape, system[0].frame)) for name, shape in bodies]
    if not bodies:
        raise CommandRefused(
            "There is no body to write yet. Build one first, for example by extruding a sketch."
        )
    if not sheets:
        bodies = [(name, shape) for name, shape in bodies if not kernel.is_sheet(shape)]
        if not bodies:
            raise CommandRefused(
                "There are only sheets, and this format takes solid bodies. Thicken one first, or write STEP."
            )
    return bodies
