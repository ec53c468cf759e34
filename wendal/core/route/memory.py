"""Results remembered by content: the key of a step's result is a digest of everything that went into it."""

from __future__ import annotations

from collections import OrderedDict
from dataclasses import dataclass
from typing import Any

from ..errors import WendalError
from ..once import Latest
from ..steps import Body, Made, Site, Step

__all__ = ["Memory", "Remembered", "Stood"]

KEPT = 600
FACES = 80_000  # of all bodies that are remembered: they are what takes memory
EACH = 40  # of one step: further back than anyone undoes in a row


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

    kept : how many. faces : how many faces their bodies may have in all. each : how many of one step.
    kept_reports : of steps that were built by an earlier process, by their place in a chain (`standing.py`);
    they are true for as long as that process's results are remembered.
    """

    def __init__(self, kept: int = KEPT, faces: int = FACES, each: int = EACH) -> None:
        self._kept = kept
        self._known: Latest[str, Remembered] = Latest(kept, faces, each)
        self._stood: Latest[tuple[int, int], Stood] = Latest(2 * kept, faces, each)
        self.empty = Site()
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
        found = self._known.get(key)
        if found is not None:
            self._known.used(key)
        return found

    def stood(self, step: Step, before: Site, given: Any) -> Stood | None:
        """Return how a step stood on the very same site with the same things given, None where it did not."""
        key = id(step), id(before)
        found = self._stood.get(key)
        if found is None or found.step is not step or found.before is not before or found.given != given:
            return None
        self._stood.used(key)
        return found

    def stands(self, found: Stood, of: str) -> None:
        """Remember how a step stood. of : its owner (`Part.owner`)."""
        self._stood.put((id(found.step), id(found.before)), found, _new_faces(found), of)

    def put(self, key: str, result: Remembered, of: str = "") -> None:
        """Remember a result. of : its owner (`Part.owner`), where it is known."""
        self._known.put(key, result, _size(result), of)


def _new_faces(found: Stood) -> int:
    return sum(
        len(b.shape.names) for k, b in found.after.bodies.items() if found.before.bodies.get(k) is not b
    )


def _size(result: Remembered) -> int:
    return sum(len(b.shape.names) for b in result.bodies.values() if b)
