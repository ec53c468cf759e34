"""A body from a file: the start of a part that others have made."""

from __future__ import annotations

from types import SimpleNamespace
from typing import Annotated, Literal

from .. import files, kernel
from ..blanks import Name, Words
from ..receiving import opened
from ..reference import begun_by
from .base import Made, Site, Step, register

__all__ = ["FromFile"]


@register
class FromFile(Step):
    """Solids and sheets as they came in a STEP or STL file.

    file : the digest of what is kept of it; source : its name.
    """

    title, group, key, makes = "Body from file", "build", "b 2", "body"
    shelf = "Bodies"
    rare, wants_file = True, True
    explains = "Bodies from a STEP or STL file, to build on; a newer file keeps what stands on its faces."
    sentence = "Body from file {name}: {source}"

    kind: Literal["from_file"] = "from_file"
    name: Annotated[str, Name(label="name")]
    source: Annotated[str, Words(label="file", hint="the file's name")] = ""
    file: str = ""

    def face(self, number: int) -> str:
        """Return the name of a face by its number in the file."""
        return kernel.name_received(self.id, number)

    def missing(self) -> list[str]:
        """Say that a file is wanted."""
        return [] if self.file else ["a STEP or STL file"]

    def evaluate(self, given: SimpleNamespace, site: Site) -> Made:
        """Take the solids and sheets; each is a body of its own."""
        kept = opened(files.load(self.file))
        shapes = {}
        for n, solid in enumerate(kernel.bodies_received(kept.shape, kept.numbers, self.id)):
            (kernel.check_sheet if kernel.is_sheet(solid) else kernel.check_solid)(solid)
            shapes[begun_by(self.id, n)] = solid
        count = len(shapes)
        return Made(shapes=dict(shapes), note=f"{count} bodies." if count > 1 else "")
