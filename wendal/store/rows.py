"""What the store tells of parts and their versions."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime

__all__ = ["PartRow", "PartState", "VersionRow"]


@dataclass(frozen=True, slots=True)
class PartRow:
    """A part in the list. fresh : its picture shows the present revision. labels : by commas. gone : when it
    was put into the bin."""

    id: int
    name: str
    version: int
    changed: datetime
    fresh: bool
    labels: str = ""
    number: str = ""
    gone: datetime | None = None


@dataclass(frozen=True, slots=True)
class PartState:
    """A part as it stands: its document as text, version number, edition, and what undo and redo would do.
    made : the day on which this version was, as ISO 8601 has it."""

    id: int
    document: str
    version: int
    edition: int
    undo: str
    redo: str
    made: str = ""


@dataclass(frozen=True, slots=True)
class VersionRow:
    """One version of a part. parent : the number of the one before it, 0 for the first. other : the part and
    version that was brought together with it, (0, 0) for none. present : the one that is shown."""

    number: int
    parent: int
    summary: str
    name: str
    made: datetime
    other: tuple[int, int]
    present: bool
