"""The durable names of faces: the one place that writes, reads and says them.

A name tells how a face came to be: the step, its role in it, the source (a curve of a profile, a part of a
hole), the profile, and the instances of patterns and mirrors it is a copy in, innermost first. Written:
`s2/side/c5/r1@s9.3@s12.1`. Caps have no source: `s2/end/r1`; a cap that took its shape from another face has
that face's name as its source, its slashes turned to `~`. A face that a step keeps apart from those it lies
flush with has a name of the role "apart" besides; nothing is told or found by it.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Set
from dataclasses import dataclass, replace
from functools import lru_cache

__all__ = ["FaceName", "own_names", "say_face", "steps_of"]

_ROLES = {
    "start": "the first end",
    "end": "the far end",
    "side": "a side",
    "cut": "the cut face",
    "round": "a fillet",
    "bevel": "a chamfer",
    "wall": "a wall",
    "corner": "a blended corner",
    "part": "a part of a face split",
    "edge": "an edge face",
}


@dataclass(frozen=True, slots=True)
class FaceName:
    """A name, taken apart. instances : (step, number) pairs, innermost first."""

    step: str
    role: str
    source: str = ""
    profile: str = ""
    instances: tuple[tuple[str, str], ...] = ()

    @classmethod
    def read(cls, text: str) -> FaceName:
        """Read a name; what is not of this form is a name of its step alone."""
        bare, *copies = text.split("@")
        step, role, *rest = [*bare.split("/"), ""]
        rest = rest[:-1]
        source, profile = (rest[0], rest[1]) if len(rest) > 1 else ("", rest[0] if rest else "")
        instances = tuple((s, n) for s, _, n in (c.partition(".") for c in copies))
        return cls(step, role, source, profile, instances)

    def __str__(self) -> str:
        """Write it."""
        parts = [
            self.step,
            self.role,
            *([self.source] if self.source else []),
            *([self.profile] if self.profile else []),
        ]
        return "/".join(parts) + "".join(f"@{s}.{n}" for s, n in self.instances)

    def copied(self, step: str, number: str) -> FaceName:
        """Return the name of its copy."""
        return replace(self, instances=(*self.instances, (step, number)))

    @staticmethod
    def as_source(text: str) -> str:
        """Return a name in the form in which it can be the source of another."""
        return text.replace("/", "~").replace("@", "%")


def steps_of(text: str) -> Iterator[str]:
    """Yield the steps that a face with this name stands on: the one that made it and those that copied it."""
    name = FaceName.read(text)
    yield name.step
    yield from (step for step, _ in name.instances)


def own_names(names: Iterable[str]) -> Set[str]:
    """Return the names that tell a face from its like: of a part of a split face the part's own (the last
    one), else all."""
    return _own_names(frozenset(names))


@lru_cache(maxsize=20_000)
def _own_names(names: frozenset[str]) -> frozenset[str]:
    names = frozenset(n for n in names if FaceName.read(n).role != "apart") or names
    parts = {n for n in names if FaceName.read(n).role == "part"}
    deeper = {FaceName.read(n).profile for n in parts}  # what the parts were split from
    return frozenset(n for n in parts if FaceName.as_source(n) not in deeper) or names


def say_face(names: Iterable[str], called: Callable[[str], str] = str) -> str:
    """Say a face by its names: `s2/side/c5/r1` is "a side of Base", a copy of it "a side of Base, copy 3 of
    Holes"."""
    name = FaceName.read(min(own_names(names), key=len))
    copies = "".join(f", copy {n} of {called(s)}" for s, n in name.instances)
    role = _ROLES.get(name.role, name.role)
    part = name.source if name.role == "side" and " " in name.source else ""
    return f"the {part} of {called(name.step)}{copies}" if part else f"{role} of {called(name.step)}{copies}"
