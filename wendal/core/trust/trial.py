"""One trial: a part with some of its dimensions set, built, and judged against the part as it is.

A trial always starts from the stored document, so that what it comes to does not hang on other trials.
"""

from __future__ import annotations

import dataclasses
import math
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Literal

from .. import kernel
from ..errors import CommandRefused, WendalError
from ..quantity import Kind, Quantity, parse
from ..quantity.units import plain
from ..reference import FaceName, say_face
from ..route import Evaluation, Memory, Part, evaluate
from ..route.checks import check_complete, no_new_trouble, outside
from ..standards import materials
from ..steps import Body
from ..steps.sketch import Sketch
from ..stored import Value
from ..tolerance import NO_VOLUME

__all__ = [
    "Dimension",
    "Shape",
    "Trial",
    "Verdict",
    "driving",
    "judged",
    "shape_of",
    "tried",
    "wanted",
    "with_values",
]

GRAMS = 1e-3  # g/mm³ for a density of 1 g/cm³
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
    name, where it is good: kept measures, and of each body volume, area, mass and centre (mm, rad, g)."""

    judgement: Judgement
    why: str = ""
    step: str = ""
    name: str = ""
    field: str = ""
    figures: Mapping[str, float] = dataclasses.field(default_factory=dict, compare=False)

    @property
    def good(self) -> bool:
        """Whether it is as good as the part itself."""
        return self.judgement == "good"


@dataclass(frozen=True, slots=True)
class Trial:
    """What is to be tried: a number, and formulas by tag."""

    number: int
    changes: Mapping[str, str]


@dataclass(frozen=True, slots=True)
class Shape:
    """What kind of thing the bodies are: by body its name, its lumps, its handles, its faces by name without
    copies, and how many names there are with them."""

    bodies: dict[str, tuple[str, int, float, frozenset[str], int]] = dataclasses.field(default_factory=dict)


def driving(part: Part) -> list[Dimension]:
    """Return the dimensions of a part that have a value of their own, in the ledger's order; reference
    dimensions are none."""
    found, outcomes = [], part.evaluated()
    for row in part.rows():
        if parse(row.formula).tags or _measured_only(part, row.step, row.place):
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


def with_values(part: Part, changes: Mapping[str, str]) -> Part:
    """Return a part with several dimensions set at once and checked once; raises WendalError."""
    rows = {r.tag: r for r in part.rows()}
    for tag in changes:
        if tag not in rows:
            raise CommandRefused(f"There is no tag “{tag}” in the ledger.", field=tag)
    ledger = [
        e.model_copy(update={"formula": changes[e.tag]}) if e.tag in changes else e for e in part.ledger
    ]
    steps, touched = list(part.steps), set()
    for tag, formula in changes.items():
        if rows[tag].step:
            i = part.index(rows[tag].step)
            steps[i] = steps[i].with_value(rows[tag].place, Value(formula=formula, tag=tag))
            touched.add(i)
    after = part.model_copy(update={"ledger": ledger, "steps": steps})
    no_new_trouble(part, after)
    for i in touched:
        if not isinstance(steps[i], Sketch):
            check_complete(steps[i], after)
    return after


def shape_of(evaluation: Evaluation) -> Shape:
    """Return what kind of thing an evaluated part is."""
    return Shape({b.id: _shape_of(b) for b in evaluation.site.bodies.values()})


def _shape_of(body: Body) -> tuple[str, int, float, frozenset[str], int]:
    names = {n for own in body.shape.names for n in own}
    read = map(FaceName.read, names)
    bare = frozenset(str(FaceName(n.step, n.role, n.source, n.profile)) for n in read)
    handles = 0.0 if body.sheet else kernel.handles(body.shape)
    return body.name, kernel.lumps(body.shape), handles, bare, len(names)


def tried(part: Part, changes: Mapping[str, str], memory: Memory, base: Shape) -> Verdict:
    """Build a trial and judge it."""
    try:
        after = with_values(part, changes)
    except WendalError as error:
        name = next((s.name for s in part.steps if s.id == error.step), "")
        return Verdict("refused", error.message, error.step, name, error.field)
    return judged(after, evaluate(after, memory), base)


def judged(part: Part, evaluation: Evaluation, base: Shape | None = None) -> Verdict:
    """Judge an evaluated part: steps that stopped or are held, a change of kind, measures out of range."""
    names = {s.id: s.name for s in part.steps}
    states: tuple[Literal["stopped", "held"], ...] = ("stopped", "held")
    for state in states:
        for report in evaluation.reports:
            if report.state == state:
                return Verdict(state, report.message, report.id, names[report.id], report.field)
    shape = shape_of(evaluation)
    for body, (name, _, handles, _, _) in shape.bodies.items():
        if not float(handles).is_integer():
            return Verdict("stopped", f"{name} is broken: its surface does not close.", body.split(".")[0])
    if base is not None and (fault := _changed(shape, base, names)):
        return fault
    found = _out_of_range(part, evaluation) or _nothing_left(evaluation)
    return found or Verdict("good", figures=figures_of(part, evaluation))


def figures_of(part: Part, evaluation: Evaluation) -> dict[str, float]:
    """Return the figures of a part that are asked about, by name."""
    found = {t: g.reading.value for t, g in evaluation.gauged.items() if g.reading}
    for body in evaluation.site.bodies.values():
        mass = kernel.mass_of(body.shape)
        found[f"{body.name}: area"] = mass.area
        if body.sheet:
            continue
        found[f"{body.name}: volume"] = mass.volume
        look = part.looks.get(body.id)
        density = materials().get(look.material, 0.0) if look else 0.0
        if density:
            found[f"{body.name}: mass"] = density * GRAMS * mass.volume
        found |= {f"{body.name}: centre {a}": v for a, v in zip("XYZ", mass.centre, strict=True)}
    return found


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


def _changed(shape: Shape, base: Shape, names: dict[str, str]) -> Verdict | None:
    """Say what makes a part another kind of thing than it was."""

    def called(step: str) -> str:
        return names.get(step, step)

    for body, (name, lumps, handles, faces, copies) in base.bodies.items():
        now = shape.bodies.get(body)
        step = body.split(".")[0]
        if now is None:
            return Verdict("kind", f"{name} is not there any more.", step, names.get(step, ""))
        gone, new = faces - now[3], now[3] - faces
        if now[1] != lumps:
            return Verdict("kind", f"{name} falls into {now[1]} pieces.", step, names.get(step, ""))
        if gone:
            first = min(gone, key=lambda n: (len(n), n))
            of = FaceName.read(first).step
            more = f" and {len(gone) - 1} more" if len(gone) > 1 else ""
            return Verdict(
                "kind", f"{_upper(say_face([first], called))}{more} vanishes.", of, names.get(of, "")
            )
        if new:
            first = min(new, key=lambda n: (len(n), n))
            of = FaceName.read(first).step
            return Verdict("kind", f"{_upper(say_face([first], called))} appears.", of, names.get(of, ""))
        if now[2] != handles and now[4] == copies:  # more copies of a bore are more handles, and meant
            what = "closes" if now[2] < handles else "opens"
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
