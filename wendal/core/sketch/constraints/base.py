"""What a constraint kind is, and the list of them.

A kind is one small class in a file of its own: what it takes, how it is said, and the rows or merges it
compiles to. Decorating it with `register` is all it needs to be known to solver, diagnosis and client.
"""

from __future__ import annotations

import math
from abc import ABC, abstractmethod
from collections import Counter
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field
from typing import ClassVar, NamedTuple

from ...errors import SketchError
from ..drawn import Constraint, Drawing, Layout
from ..equations import Kernel, same

__all__ = ["Compiled", "Row", "Rule", "all_rules", "kinds_of", "register", "rule_for"]

ROUND = ("circle", "arc")
FAMILIES = {"round": ROUND, "oval": ("ellipse", "ellipse_arc")}


class Row(NamedTuple):
    """One scalar equation: a kernel, the variables it reads and its parameters."""

    kernel: Kernel
    variables: tuple[int, ...]
    parameters: tuple[float, ...] = (0.0,)


@dataclass(slots=True)
class Compiled:
    """What a constraint asks for: equations, pairs of variables that are one, variables that do not move.

    waived : (curve, end) for ends that lie on their curve because of this constraint, so that this need not
    be said.
    """

    rows: list[Row] = field(default_factory=list)
    merges: list[tuple[int, int]] = field(default_factory=list)
    held: list[int] = field(default_factory=list)
    waived: list[tuple[str, str]] = field(default_factory=list)

    def as_rows(self, at: Layout) -> list[Row]:
        """Return everything as equations, merges and held variables included."""
        held = [Row(same, (v, 0), (float(at.x[v]),)) for v in self.held]
        return [*self.rows, *(Row(same, pair) for pair in self.merges), *held]


class Rule(ABC):
    """One kind of constraint.

    takes : the kinds it binds, one tuple a pattern, for example ("point", "line"); "round" is circle or arc,
    "oval" ellipse or a part of one. quantity : "" for a geometric constraint, "length" or "angle" for a
    dimension.
    """

    kind: ClassVar[str]
    title: ClassVar[str]
    symbol: ClassVar[str]
    key: ClassVar[str]
    takes: ClassVar[tuple[tuple[str, ...], ...]]
    quantity: ClassVar[str] = ""

    @abstractmethod
    def compile(self, c: Constraint, at: Layout, value: float) -> Compiled:
        """Return the equations; value is the dimension's value in mm or rad (0.0 for none)."""

    def choose(self, c: Constraint, at: Layout) -> float:
        """Return the sense to store, read off the drawing as it is now."""
        return 1.0

    def measure(self, c: Constraint, at: Layout) -> float:
        """Return the present value of a dimension in mm or rad."""
        raise NotImplementedError(self.kind)

    def check_value(self, value: float, c: Constraint, drawing: Drawing) -> None:
        """Raise SketchError when a dimension of a drawing can not have this value (mm or rad), however it is
        reached."""
        if not math.isfinite(value) or value <= 0:
            raise SketchError(
                f"A {self.title.lower()} is greater than zero; this comes to {value:g}.", field="value"
            )

    def ordered(self, of: list[str], drawing: Drawing) -> list[str]:
        """Return the picks in the order of the first pattern that fits; raises SketchError in words when none
        does."""
        kinds = [(e, drawing.kind(e)) for e in of]
        if len(set(of)) != len(of):
            raise SketchError(f"{self.title} needs different things; one was picked twice.")
        for pattern in self.takes:
            rest, found = list(kinds), []
            for wanted in pattern:
                hit = next((s for s in rest if s[1] in kinds_of(wanted)), None)
                if hit is None:
                    break
                rest.remove(hit)
                found.append(hit[0])
            if len(found) == len(pattern) and not rest:
                return found
        raise SketchError(
            f"{self.title} wants {self.wants}; picked: {_count([s for _, s in kinds]) or 'nothing'}."
        )

    @property
    def wants(self) -> str:
        """What it takes, in words."""
        return ", or ".join(map(_count, self.takes))


def kinds_of(wanted: str) -> tuple[str, ...]:
    """Return the kinds of entities that a word of a pattern stands for."""
    return FAMILIES.get(wanted, (wanted,))


def _count(kinds: Sequence[str]) -> str:
    """Say kinds as "a line and two points"; "round" is a circle or arc."""
    words = []
    for kind, n in Counter(kinds).items():
        noun = {"round": "circle or arc", "oval": "ellipse", "ellipse_arc": "elliptical arc"}.get(kind, kind)
        many = " or ".join(f"{w}s" for w in noun.split(" or "))
        article = "an" if noun[0] in "ae" else "a"
        words.append(
            f"{article} {noun}" if n == 1 else f"{('', '', 'two', 'three', 'four')[n] if n < 5 else n} {many}"
        )
    return " and ".join(words)


_rules: dict[str, Rule] = {}


def register(rule: type[Rule]) -> type[Rule]:
    """Make a kind known; a second one of the same name is refused."""
    if rule.kind in _rules:
        raise ValueError(f"constraint kind {rule.kind} is registered twice")
    _rules[rule.kind] = rule()
    return rule


def rule_for(kind: str) -> Rule:
    """Return the rule of a kind; raises SketchError for an unknown one."""
    if kind not in _rules:
        raise SketchError(
            f"There is no constraint “{kind}”. There are: {', '.join(sorted(_rules))}.", field="kind"
        )
    return _rules[kind]


def all_rules() -> Iterable[Rule]:
    """Return every kind there is, geometric ones first."""
    return sorted(_rules.values(), key=lambda r: (bool(r.quantity), r.title))
