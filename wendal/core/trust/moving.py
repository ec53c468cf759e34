"""What moves what: by how much each figure of a part changes with each dimension, on the part as it is built.

By central differences, with steps that stay of one kind of part (else to one side, which is said).

A formula that has a tolerance of its own is made to that size and does not follow in the shop what it is
counted from. For tolerances, a dimension that it hangs on is moved a second time while such formulas stand
still at their values, and the formula itself is moved like a dimension.
"""

from __future__ import annotations

import math
import time
from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass, field
from typing import Literal

from pydantic import BaseModel

from ..quantity import parse
from ..route import Part
from .figures import PLAIN, Setup, unit_of
from .pool import Pool, begun
from .trial import Dimension, Trial, Verdict, laid_down, wanted

__all__ = ["STEP", "Moved", "MovedBy", "moved"]

STEP = {"length": 0.02, "angle": math.radians(0.02), "count": 1.0}  # mm, rad, one
SHARE = 1e-3  # of the value, for bare numbers


class MovedBy(BaseModel):
    """A dimension, and by how much it changes each figure: per mm, per degree, or per one. bends : by how
    much more it does so over one such unit. held : the same while formulas with tolerances of their own stand
    still. sides : on which sides it could be moved; why : why not on both."""

    tag: str
    kind: str
    now: float
    per: dict[str, float] = {}
    bends: dict[str, float] = {}
    held: MovedBy | None = None
    sides: Literal["both", "up", "down", "none"] = "none"
    why: str = ""


class Moved(BaseModel):
    """What moves what. figures : by name, their values now; units : theirs. made : formulas with tolerances
    of their own, moved like dimensions."""

    part: str
    state: Literal["running", "done", "cancelled", "refused"] = "running"
    trouble: str = ""
    trials: int = 0
    seconds: float = 0.0
    figures: dict[str, float] = {}
    units: dict[str, str] = {}
    dimensions: list[MovedBy] = []
    made: list[MovedBy] = []

    def ranked(self, figure: str) -> list[MovedBy]:
        """Return the dimensions that move a figure, the most first."""
        found = [d for d in self.dimensions if abs(d.per.get(figure, 0.0)) > 1e-9]
        return sorted(found, key=lambda d: -abs(d.per[figure]))


def moved(
    part: Part,
    tags: tuple[str, ...],
    pool: Pool,
    cancelled: Callable[[], bool] = lambda: False,
    setup: Setup = PLAIN,
) -> Iterator[Moved]:
    """Find what moves what; yield the report as it grows. Raises CommandRefused for unknown tags."""
    began = time.monotonic()
    dimensions = wanted(part, tags)
    report = Moved(part=part.name)
    base = begun(part, pool, report, cancelled, setup)
    if base is None:
        yield report
        return
    report.figures = dict(base.figures)
    report.units = {f: unit_of(part, f) for f in base.figures}
    made = [] if tags else laid_down(part)
    stand = {d.tag: d.formula(d.value) for d in made}
    plain = [_Move(d, {}) for d in dimensions]
    held = [_Move(d, stand) for d in dimensions if _reaches(part, d, stand)]
    own = [_Move(d, {t: f for t, f in stand.items() if t != d.tag}) for d in made]
    steps = [(move, way) for move in (*plain, *held, *own) for way in (1, -1)]
    trials = [Trial(i, move.to(way)) for i, (move, way) in enumerate(steps)]
    for number, verdict in pool.run(trials):
        move, way = steps[number]
        move.tried[way] = verdict
        report.trials += 1
        report.seconds = round(time.monotonic() - began, 2)
        if len(move.tried) == 2 and number < 2 * len(plain):
            report.dimensions.append(_moved_by(move, base))
        yield report
        if cancelled():
            break
    order = {d.tag: i for i, d in enumerate(dimensions)}
    report.dimensions.sort(key=lambda m: order[m.tag])
    beside = {m.of.tag: _moved_by(m, base) for m in held if len(m.tried) == 2}
    for found in report.dimensions:
        found.held = beside.get(found.tag)
    report.made = [_moved_by(m, base) for m in own if len(m.tried) == 2]
    report.state = "cancelled" if cancelled() else "done"
    yield report


@dataclass(slots=True)
class _Move:
    """A dimension that is moved up and down, with other tags set beside it."""

    of: Dimension
    beside: Mapping[str, str]
    tried: dict[int, Verdict] = field(default_factory=dict)

    def to(self, way: int) -> dict[str, str]:
        """Return the formulas of one of its two trials."""
        return {**self.beside, self.of.tag: self.of.formula(self.of.value + way * _step(self.of))}


def _reaches(part: Part, d: Dimension, stand: Mapping[str, str]) -> bool:
    """Tell whether a formula that is to stand still hangs on a dimension."""
    formulas = {r.tag: parse(r.formula).tags for r in part.rows()}
    todo, seen = list(stand), set[str]()
    while todo:
        for tag in formulas.get(todo.pop(), ()):
            if tag not in seen:
                seen.add(tag)
                todo.append(tag)
    return d.tag in seen


def _step(d: Dimension) -> float:
    return STEP.get(d.kind, SHARE * max(abs(d.value), 1e-3))


def _moved_by(move: _Move, base: Verdict) -> MovedBy:
    """Return the differences of a dimension, central where both sides are as good as the part itself."""
    d, tried = move.of, move.tried
    unit = math.radians(1) if d.kind == "angle" else 1.0
    h = _step(d) / unit
    good = {way: v for way, v in tried.items() if v.good}
    found = MovedBy(tag=d.tag, kind=d.kind, now=d.value)
    bad = next((v for v in tried.values() if not v.good), None)
    found.why = bad.why if bad else ""
    if not good:
        return found
    found.sides = "both" if len(good) == 2 else "up" if 1 in good else "down"
    for figure, now in base.figures.items():
        values = {way: v.figures[figure] for way, v in good.items() if figure in v.figures}
        if len(values) == 2:
            found.per[figure] = (values[1] - values[-1]) / (2 * h)
            found.bends[figure] = (values[1] - 2 * now + values[-1]) / (h * h)
        elif values:
            ((way, value),) = values.items()
            found.per[figure] = (value - now) / (way * h)
    return found
