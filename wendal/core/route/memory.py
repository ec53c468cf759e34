"""Results remembered by content: the key of a step's result is a digest of everything that went into it."""

from __future__ import annotations

from collections import OrderedDict
from dataclasses import dataclass
from typing import Any

from ..errors import WendalError
from ..steps import Body, Made, Site, Step

__all__ = ["Memory", "Remembered", "Stood"]

KEPT = 600
FACES = 80_000  # of all bodies that are remembered: they are what takes memory


@dataclass(frozen=True, slots=True)
class Remembered:
    """What a step came to: what it made and the bodies after it, or the refusal.

    words : a digest of the names of what it stands on, which a refusal or note may have in it.
    """

    made: Made | None
    bodies: dict[str, Body | None]
    error: WendalError | None
    words: str = ""

    @property
    def tells(self) -> bool:
        """Whether it says anything in words."""
        return self.error is not None or bool(self.made and self.made.note)


@dataclass(frozen=True, slots=True)
class Stood:
    """A step that was built onto a site without a doubt: what it was given, its report and the site after it,
    for as long as nothing of it changes.

    given : the worth of the tags in its formulas, the units, how bodies are called.
    """

    step: Step
    before: Site
    given: Any
    report: Any
    after: Site


class Memory:
    """The latest results by key; the longest unused are forgotten first. empty : what stands before any step.

    kept : how many. faces : how many faces their bodies may have in all. kept_reports : of steps that were
    built by an earlier process, by their place in a chain (`standing.py`); they are true for as long as that
    process's results are remembered.
    """

    def __init__(self, kept: int = KEPT, faces: int = FACES) -> None:
        self._kept, self._faces = kept, faces
        self._size = 0
        self._standing = 0  # faces of the bodies that the steps below made
        self._stood: OrderedDict[tuple[int, int], Stood] = OrderedDict()
        self.empty = Site()
        self._known: OrderedDict[str, Remembered] = OrderedDict()
        self.kept_reports: OrderedDict[str, Any] = OrderedDict()
        self.gauged: dict[str, Any] = {}  # kept measures, by what they depend on

    def take_up(self, results: dict[str, Remembered], reports: dict[str, Any]) -> None:
        """Remember what an earlier process found: results by key, and reports of steps by their place in a
        chain."""
        for key, result in results.items():
            if key not in self._known:
                self.put(key, result)
        self.kept_reports.update(reports)
        while len(self.kept_reports) > 4 * self._kept:
            self.kept_reports.popitem(last=False)

    def get(self, key: str) -> Remembered | None:
        """Return a remembered result and count it as used."""
        if key in self._known:
            self._known.move_to_end(key)
        return self._known.get(key)

    def stood(self, step: Step, before: Site, given: Any) -> Stood | None:
        """Return how a step stood on the very same site with the same things given, None where it did not."""
        found = self._stood.get((id(step), id(before)))
        if found is None or found.step is not step or found.before is not before or found.given != given:
            return None
        self._stood.move_to_end((id(step), id(before)))
        return found

    def stands(self, found: Stood) -> None:
        """Remember how a step stood."""
        key = id(found.step), id(found.before)
        if key in self._stood:
            self._standing -= _new_faces(self._stood.pop(key))
        self._stood[key] = found
        self._standing += _new_faces(found)
        while len(self._stood) > 1 and (len(self._stood) > 2 * self._kept or self._standing > self._faces):
            self._standing -= _new_faces(self._stood.popitem(last=False)[1])

    def put(self, key: str, result: Remembered) -> None:
        """Remember a result."""
        if key in self._known:
            self._size -= _size(self._known.pop(key))
        self._known[key] = result
        self._size += _size(result)
        while len(self._known) > 1 and (len(self._known) > self._kept or self._size > self._faces):
            self._size -= _size(self._known.popitem(last=False)[1])


def _new_faces(found: Stood) -> int:
    return sum(
        len(b.shape.names) for k, b in found.after.bodies.items() if found.before.bodies.get(k) is not b
    )


def _size(result: Remembered) -> int:
    return sum(len(b.shape.names) for b in result.bodies.values() if b)
