"""One trial: a part with some of its dimensions set, built, and judged against the part as it is.

A trial always starts from the stored document, so that what it comes to does not hang on other trials.
"""

from __future__ import annotations

import dataclasses
import math
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Literal

from .. import kernel
from ..errors import CommandRefused, WendalError
from ..once import Lazily
from ..quantity import Kind, Quantity, parse
from ..quantity.units import plain
from ..reference import FaceName, say_face
from ..route import Evaluation, Memory, Part, evaluate
from ..route.checks import outside
from ..route.document import LedgerLine
from ..route.setting import with_values
from ..steps import Body, Site
from ..steps.sketch import Sketch
from ..tolerance import NO_VOLUME
from .figures import Setup, Watch
from .others import Other, others

__all__ = [
    "Base",
    "Dimension",
    "Shape",
    "Trial",
    "Verdict",
    "based",
    "driving",
    "judged",
    "laid_down",
    "refused",
    "shape_of",
    "stands",
    "tried",
    "wanted",
]

Judgement = Literal["good", "refused", "stopped", "held", "kind", "outside", "slow", "died"]


@dataclass(frozen=True, slots=True)
class Dimension:
    """A dimension that can be moved: its tag, its kind, and its value (mm, rad, or a bare number)."""

    tag: str
    kind: str
    value: float
    unit: str

    def formula(self, value: float) -> str:
        """Return a value as a formula, an angle in degrees."""
        if self.kind == "angle":
            return f"{math.degrees(value):.12g} deg"
        return f"{value:.12g} {self.unit}".strip()


@dataclass(frozen=True, slots=True)
class Verdict:
    """What a trial came to: its judgement, why, and the step and field where it went wrong. figures : by
    name, where it is good: see `figures.py`. other : what makes it another kind of thing, where that is told
    and not judged. others : of the part as it is, what else could be picked: see `Setup.picks`."""

    judgement: Judgement
    why: str = ""
    step: str = ""
    name: str = ""
    field: str = ""
    other: str = ""
    figures: Mapping[str, float] = dataclasses.field(default_factory=dict, compare=False)
    others: tuple[tuple[Other, ...], ...] = dataclasses.field(default=(), compare=False)

    @property
    def good(self) -> bool:
        """Whether it is as good as the part itself."""
        return self.judgement == "good"


@dataclass(frozen=True, slots=True)
class Trial:
    """What is to be tried: a number, and formulas by tag. like : whether it must stay the kind of thing that
    the part is."""

    number: int
    changes: Mapping[str, str]
    like: bool = True


@dataclass(frozen=True, slots=True)
class Shape:
    """What kind of thing the bodies are: by body its name, its lumps, its handles, its faces by name without
    copies, and how many names there are with them."""

    bodies: dict[str, tuple[str, int, float, frozenset[str], int]] = dataclasses.field(default_factory=dict)


def driving(part: Part) -> list[Dimension]:
    """Return the dimensions of a part that have a value of their own, in the ledger's order; reference
    dimensions are none."""
    return _dimensions(part, lambda row: not parse(row.formula).tags)


def _dimensions(part: Part, meant: Callable[[LedgerLine], bool]) -> list[Dimension]:
    """Return the lines of the ledger that are meant, those without a value left out."""
    found, outcomes = [], part.evaluated()
    for row in part.rows():
        if not meant(row) or _measured_only(part, row.step, row.place):
            continue
        worth = outcomes[row.tag].value
        if worth is None:
            continue
        kind = row.kind
        if kind == Kind.ANY:
            kind = _kind_of(worth)
        unit = {Kind.LENGTH: "mm", Kind.ANGLE: "rad"}.get(kind, "")
        found.append(Dimension(row.tag, kind.value, plain(worth, kind), unit))
    return found


def laid_down(part: Part) -> list[Dimension]:
    """Return the lengths and angles that have a formula, and a tolerance of their own."""
    toleranced = {t for t, r in part.remarks.items() if r.tolerance}
    return [
        d
        for d in _dimensions(part, lambda r: bool(parse(r.formula).tags) and r.tag in toleranced)
        if d.kind in ("length", "angle")
    ]


def wanted(part: Part, tags: tuple[str, ...]) -> list[Dimension]:
    """Return the dimensions of these tags, all for none; raises CommandRefused for one that has no value of
    its own, or where there is none at all."""
    known = {d.tag: d for d in driving(part)}
    for tag in tags:
        if tag not in known:
            raise CommandRefused(f"“{tag}” is no dimension with a value of its own.", field=tag)
    if not known:
        raise CommandRefused("There is no dimension to move yet.")
    return [known[t] for t in tags] if tags else list(known.values())


def _kind_of(worth: Quantity) -> Kind:
    """Return the kind of a tag that belongs to no step, by its value."""
    if worth.check("[length]"):
        return Kind.LENGTH
    if worth.check("[angle]"):
        return Kind.ANGLE
    return Kind.COUNT if worth.dimensionless and float(worth.magnitude).is_integer() else Kind.ANY


def _measured_only(part: Part, step: str, place: str) -> bool:
    """Tell whether a sketch's dimension only tells a value and holds nothing."""
    found = next((s for s in part.steps if s.id == step), None)
    if not isinstance(found, Sketch):
        return False
    constraint = found.drawing.constraints.get(place)
    return bool(getattr(constraint, "reference", False))


def shape_of(evaluation: Evaluation) -> Shape:
    """Return what kind of thing an evaluated part is."""
    return Shape({b.id: _shape_of(b) for b in evaluation.site.bodies.values()})


def _shape_of(body: Body) -> tuple[str, int, float, frozenset[str], int]:
    names = {n for own in body.shape.names for n in own}
    read = (n for n in map(FaceName.read, names) if n.role != "apart")
    bare = frozenset(str(FaceName(n.step, n.role, n.source, n.profile)) for n in read)
    handles = 0.0 if body.sheet else kernel.handles(body.shape)
    return body.name, kernel.lumps(body.shape), handles, bare, len(names)


Counts = Mapping[str, tuple[int, float]]  # lumps and handles, by body


@dataclass(frozen=True, slots=True)
class Base:
    """What trials are judged against: what kind of thing the part is, its limits, and what is watched.
    along : lumps and handles of the bodies behind each step."""

    shape: Shape = dataclasses.field(default_factory=Shape)
    along: Callable[[], Mapping[str, Counts]] = dict
    watch: Watch = dataclasses.field(default_factory=Watch)


def based(part: Part, evaluation: Evaluation, setup: Setup) -> Base:
    """Return what trials of a part are judged against. Raises WendalError for what can not be watched."""
    along = Lazily(lambda: {s: _counts(site) for s, site in evaluation.sites.items()})
    return Base(shape_of(evaluation), along, Watch.begun(part, evaluation, setup))


def _counts(site: Site) -> Counts:
    return {
        b.id: (kernel.lumps(b.shape), kernel.handles(b.shape)) for b in site.bodies.values() if not b.sheet
    }


def _where(evaluation: Evaluation, base: Base, body: str) -> str:
    """Return the first step behind which a body has other lumps or handles than in the part itself."""
    along = base.along()
    for step, site in evaluation.sites.items():
        known = along.get(step, {}).get(body)
        if known and body in site.bodies and _counts(site).get(body, known) != known:
            return step
    return body.split(".")[0]


def stands(part: Part, evaluation: Evaluation, base: Base) -> Verdict:
    """Return how the part itself stands, with what could be picked instead where that is asked for."""
    found = judged(part, evaluation, base)
    picks = base.watch.setup.picks
    return dataclasses.replace(found, others=tuple(others(part, evaluation, p) for p in picks))


def tried(part: Part, changes: Mapping[str, str], memory: Memory, base: Base, like: bool = True) -> Verdict:
    """Build a trial and judge it. like : see `Trial`."""
    try:
        after = with_values(part, changes)
    except WendalError as error:
        return refused(part, error)
    return judged(after, evaluate(after, memory), base, like)


def refused(part: Part, error: WendalError) -> Verdict:
    """Return the verdict on values that the part does not take."""
    name = next((s.name for s in part.steps if s.id == error.step), "")
    return Verdict("refused", error.message, error.step, name, error.field)


def judged(part: Part, evaluation: Evaluation, base: Base | None = None, like: bool = True) -> Verdict:
    """Judge an evaluated part: steps that stopped or are held, a change of kind, measures out of range, walls
    too thin, too much mass."""
    names = {s.id: s.name for s in part.steps}
    states: tuple[Literal["stopped", "held"], ...] = ("stopped", "held")
    for state in states:
        for report in evaluation.reports:
            if report.state == state:
                return Verdict(state, report.message, report.id, names[report.id], report.field)
    shape, other = shape_of(evaluation), ""
    for body, (name, _, handles, _, _) in shape.bodies.items():
        if not float(handles).is_integer():
            return Verdict("stopped", f"{name} is broken: its surface does not close.", body.split(".")[0])
    if base is not None and (fault := _changed(shape, base, names, evaluation)):
        if like:
            return fault
        other = fault.why
    if found := _nothing_left(evaluation):
        return found
    watch = base.watch if base else Watch()
    if found := _out_of_range(part, evaluation):
        return dataclasses.replace(found, figures=watch.figures(part, evaluation))
    figures = watch.figures(part, evaluation)
    if words := watch.fault(part, evaluation):
        return Verdict("outside", words, figures=figures)
    return Verdict("good", other=other, figures=figures)


def _out_of_range(part: Part, evaluation: Evaluation) -> Verdict | None:
    """Say which kept measure is lost, or not what it may be."""
    scope = {t: o.value for t, o in evaluation.ledger.items() if o.value is not None}
    for kept in part.kept:
        found = evaluation.gauged.get(kept.tag)
        if found is None or found.state == "waiting":
            continue
        if found.reading is None:
            return Verdict("held", f"The measure “{kept.tag}” is lost: {found.message}", field=kept.tag)
        if fault := outside(part, kept.tag, found.reading.quantity(), scope):
            return Verdict("outside", fault, field=kept.tag)
    return None


def _nothing_left(evaluation: Evaluation) -> Verdict | None:
    for body in evaluation.site.bodies.values():
        if not body.sheet and kernel.mass_of(body.shape).volume <= NO_VOLUME:
            return Verdict("kind", f"Nothing is left of {body.name}.", body.id.split(".")[0])
    return None


def _changed(shape: Shape, of: Base, names: dict[str, str], evaluation: Evaluation) -> Verdict | None:
    """Say what makes a part another kind of thing than it was."""

    def called(step: str) -> str:
        return names.get(step, step)

    base = of.shape
    for body, (name, lumps, handles, faces, copies) in base.bodies.items():
        now = shape.bodies.get(body)
        step = body.split(".")[0]
        if now is None:
            return Verdict("kind", f"{name} is not there any more.", step, names.get(step, ""))
        gone, new = faces - now[3], now[3] - faces
        if now[1] != lumps:
            step = _where(evaluation, of, body)
            return Verdict("kind", f"{name} falls into {now[1]} pieces.", step, names.get(step, ""))
        if gone:
            first = min(gone, key=lambda n: (len(n), n))
            made = FaceName.read(first).step
            more = f" and {len(gone) - 1} more" if len(gone) > 1 else ""
            return Verdict(
                "kind", f"{_upper(say_face([first], called))}{more} vanishes.", made, names.get(made, "")
            )
        if new:
            first = min(new, key=lambda n: (len(n), n))
            made = FaceName.read(first).step
            return Verdict("kind", f"{_upper(say_face([first], called))} appears.", made, names.get(made, ""))
        if now[2] != handles and now[4] == copies:  # more copies of a bore are more handles, and meant
            what = "closes" if now[2] < handles else "opens"
            step = _where(evaluation, of, body)
            return Verdict(
                "kind",
                f"A way through {name} {what} ({handles:g} handles, then {now[2]:g}).",
                step,
                names.get(step, ""),
            )
    extra = next((b for b in shape.bodies if b not in base.bodies), None)
    if extra:
        step = extra.split(".")[0]
        return Verdict("kind", f"A body more: {shape.bodies[extra][0]}.", step, names.get(step, ""))
    return None


def _upper(words: str) -> str:
    return words[:1].upper() + words[1:]
