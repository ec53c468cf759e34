"""Evaluating a part: a pure function from the document to bodies, datums, sketches and a report per step.

For every step its numbers are worked out and its references resolved against what stands before it; a digest
of these is the step's key. Only a key that is not remembered is built. A step that fails stops alone: what
does not stand on it goes on.
"""

from __future__ import annotations

import dataclasses
import time
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from functools import cache
from types import SimpleNamespace
from typing import Any

from .. import kernel
from ..blanks import Number, Pick
from ..datum import Picked
from ..errors import FormulaError, ReferenceLost, StepError, WendalError
from ..once import Once
from ..quantity import Kind, Outcome, in_kind, parse
from ..quantity.units import plain
from ..reference import Candidate, FaceRef, say_face
from ..steps import Body, Made, Seed, Site, Step, numbers_of
from .depends import stands_on
from .document import Part
from .measures import measures_of, uses_measures
from .memory import Memory, Remembered, Stood
from .resolving import Resolver
from .standing import Chain
from .tokens import digest, words_in

__all__ = ["Evaluation", "ReferenceState", "StepReport", "evaluate"]

Announce = Callable[[str, str, str], None]  # step id, its name, its key: about to be built


@dataclass(frozen=True, slots=True)
class ReferenceState:
    """How one reference of a step stands: "sound", "re-found" or "lost"; now : what confirming would store; item : its place among
    several of one field; said : of a face, how it came to be, in words."""

    field: str
    state: str
    reason: str
    now: dict[str, Any] | None = None
    candidates: list[Candidate] = dataclasses.field(default_factory=list)
    item: int = 0
    said: str = ""


@dataclass(slots=True)
class StepReport:
    """How one step stands: "built", "waiting", "held" or "stopped".

    upon : the name of a held step that it stands on, straight or through others; "" for none. offer : a formula for the field with which
    a stopped step was found to work, or "".
    """

    id: str
    state: str
    message: str = ""
    field: str = ""
    key: str = ""
    references: list[ReferenceState] = dataclasses.field(default_factory=list)
    answers: int = 1
    upon: str = ""
    offer: str = ""
    stands_on: list[str] = dataclasses.field(default_factory=list)
    dots: dict[str, Any] = dataclasses.field(default_factory=dict)
    milliseconds: float = 0.0
    remembered: bool = False


@dataclass(slots=True)
class Evaluation:
    """Everything a part came to. sites : what stands after each step, by its id; "" is the empty beginning.

    preview : what the step asked for made; before : what stood before it. standing : the reports of steps that were built without a doubt, by
    their places in the chain.
    """

    reports: list[StepReport]
    ledger: dict[str, Outcome]
    sites: dict[str, Site]
    site: Site
    preview: Made | None = None
    before: Site = dataclasses.field(default_factory=Site)
    standing: dict[str, StepReport] = dataclasses.field(default_factory=dict)

    def report(self, step: str) -> StepReport:
        """Return the report of a step."""
        return next(r for r in self.reports if r.id == step)


def evaluate(part: Part, memory: Memory, *, until: str = "", preview: str = "", announce: Announce | None = None,
             condemned: Mapping[str, str] | None = None) -> Evaluation:
    """Evaluate a part.

    until : the last step to look at ("" for the stop line). preview : the step whose making is to be shown. announce : called before
    each step that is really built. condemned : keys that are known to bring the kernel down, with the message for them.
    """
    ledger = part.evaluated()
    run = _Run(part, memory, {t: o.value for t, o in ledger.items() if o.value is not None}, announce, condemned or {})
    site, sites, reports = memory.empty, {"": memory.empty}, []
    made_preview: Made | None = None
    shown_before = Site()
    waiting = False
    chain, standing = Chain(), dict[str, StepReport]()
    measured = uses_measures(v.formula for s in part.steps for _, v, _ in numbers_of(s)) or uses_measures(e.formula for e in part.ledger)
    for step in part.steps:
        given: Any = None
        if waiting or step.suppressed:
            chain.place(step, True)
            words = "suppressed" if step.suppressed else "below the stop line"
            report = StepReport(step.id, "waiting", f"Waiting: {words}.")
        else:
            before, made = site, None
            given = None if measured or step.id == preview else run.given_for(step)
            place = chain.place(step, given)
            known = memory.stood(step, before, given) if given else None
            kept = memory.kept_reports.get(place) if place and not known else None
            if known:
                site, report = known.after, dataclasses.replace(known.report, remembered=True, milliseconds=0.0)
            elif kept and (result := memory.get(kept.key)) and result.error is None:
                site, report = run.stood_before(step, kept, result, before), dataclasses.replace(kept, remembered=True, milliseconds=0.0)
            else:
                site = site.copy()
                report, made = run.step(step, site)
            if given and report.state == "built" and not report.upon:
                if known is None:
                    memory.stands(Stood(step, before, given, report, site))
                if place:
                    standing[place] = report
            if measured and report.state != "stopped":
                run.measures |= measures_of(step, site)
                ledger = part.evaluated(run.measures)
                run.scope = {**run.measures, **{t: o.value for t, o in ledger.items() if o.value is not None}}
            if step.id == preview:
                shown_before, made_preview = before, made
        reports.append(report)
        chain.came_out(report.state, report.key)
        run.states[step.id] = report.state
        sites[step.id] = site
        waiting = waiting or step.id == (until or part.stop_after)
    return Evaluation(reports, ledger, sites, site, made_preview, shown_before, standing)


class _Run:
    """One evaluation under way."""

    def __init__(self, part: Part, memory: Memory, scope: dict[str, Any], announce: Announce | None,
                 condemned: Mapping[str, str]) -> None:
        self.part, self.memory, self.scope = part, memory, scope
        self.announce, self.condemned = announce, condemned
        self.measures: dict[str, Any] = {}
        self.states: dict[str, str] = {}
        self.doubtful: dict[str, str] = {}  # by step id, the held step that it stands on
        self.resolver = Resolver(part, self.states)
        self.called = {s.id: s.name for s in part.steps}
        self.common = digest(part.units, part.looks)

    def given_for(self, step: Step) -> Any:
        """Return what else a step's result hangs on than the step and what stands before it: the worth of the tags in its formulas, and how bodies
        are called; None where a formula can not be read."""
        try:
            tags = _tags(step)
        except FormulaError:
            return None
        worth = [(t, q.magnitude, q.units) if (q := self.scope.get(t)) is not None else (t, None, None) for t in tags]
        return [worth, self.common]

    def step(self, step: Step, site: Site) -> tuple[StepReport, Made | None]:
        """Build one step onto the site."""
        began = time.perf_counter()
        report = StepReport(step.id, "built")
        made: Made | None = None
        try:
            missing = step.missing()
            if missing:
                raise StepError(f"Still needs {' and '.join(missing)}.")
            given, reads = self._given(step, site, report)
            shown = step.model_dump_json(exclude={"name", "visible", *reads, *_unused(step)})
            report.key = digest(shown, reads)
            result = self._remembered(step, given, site, report, words_in(step.name, reads))
            if result.error:
                raise result.error
            made = result.made
            self._stand(step, result, site, report.key, lambda: given)
            report.answers = made.answers if made else 1
            doubts = [r for r in report.references if r.state == "re-found"]
            gone = [r for r in report.references if r.state == "lost"]
            if gone:
                report.state, report.field = "held", gone[0].field
                report.message = (f"What was taken in stays where it was: {gone[0].reason}" if gone[0].field.startswith("taken:") else
                                  f"Built without what was lost: {gone[0].reason}")
            elif doubts:
                report.state = "held"
                report.message = f"Please confirm: {doubts[0].reason}."
            elif made:
                report.message = made.note
        except WendalError as error:
            report.state, report.message, report.field = "stopped", error.message, error.field
            report.dots, report.offer = getattr(error, "dots", {}), getattr(error, "offer", "")
            others = sum(r.state == "lost" for r in report.references) - 1
            if isinstance(error, ReferenceLost) and others > 0:
                report.message += f" {others} more {'reference is' if others == 1 else 'references are'} lost, too."
        report.stands_on = sorted(stands_on(step))
        shaky = [s for s in report.stands_on if s in self.doubtful]
        if report.state == "held":
            self.doubtful[step.id] = step.name
        elif shaky:
            self.doubtful[step.id] = report.upon = self.doubtful[shaky[0]]
        report.milliseconds = 1000 * (time.perf_counter() - began)
        return report, made

    def stood_before(self, step: Step, report: StepReport, result: Remembered, before: Site) -> Site:
        """Return the site after a step as an earlier process built it; what its references come to is looked for when a pattern asks."""
        site = before.copy()
        self._stand(step, result, site, report.key, cache(lambda: self._given(step, before, StepReport(step.id, "built"))[0]))
        return site

    def _stand(self, step: Step, result: Remembered, site: Site, key: str, given: Callable[[], SimpleNamespace]) -> None:
        """Add what a step came to to the site. given : returns its numbers and what its references came to."""
        made, had = result.made, site.copy() if step.copied else site
        self._put(step, result, site)
        if step.copied:
            changes = tuple((b, had.bodies[b].shape, body.shape) for b, body in result.bodies.items() if body and b in had.bodies)
            site.seeds[step.id] = Seed(step.id, key, [], [], lambda placement, there: step.again(given(), there, placement), changes, had,
                                       (lambda picks, there: step.evaluate(_on_others(given(), picks), there)) if step.placeless else None)
        elif made and made.effects:
            before = site.copy()
            site.seeds[step.id] = Seed(step.id, key, made.effects, made.threads,
                                       lambda placement, there: step.again(given(), replace_bodies(before, there), placement))

    def _remembered(self, step: Step, given: SimpleNamespace, site: Site, report: StepReport, words: str) -> Remembered:
        known = self.memory.get(report.key)
        if known and (known.words == words or not known.tells):
            report.remembered = True
            return known
        if report.key in self.condemned:
            raise StepError(self.condemned[report.key])
        if self.announce:
            self.announce(step.id, step.name, report.key)
        try:
            made = step.evaluate(given, site)
            bodies = {b: self._body(step, site, b, shape, report.key) for b, shape in made.shapes.items()}
            result = Remembered(made, bodies, None, words)
        except WendalError as error:
            result = Remembered(None, {}, error, words)
        except Exception as error:  # the kernel's own exceptions have no common base
            result = Remembered(None, {}, StepError(
                f"The geometry kernel refused this ({type(error).__name__}). A slightly different value often helps."), words)
        self.memory.put(report.key, result)
        return result

    def _body(self, step: Step, site: Site, body: str, shape: Any, key: str) -> Body | None:
        if shape is None:
            return None
        name = self._body_name(step, site, body)
        return Body(body, name, shape, kernel.describe(shape), digest(key, body))

    def _put(self, step: Step, result: Remembered, site: Site) -> None:
        assert result.made is not None
        if result.made.datums:
            site.datums[step.id] = result.made.datums
        if result.made.threads:
            site.threads[step.id] = result.made.threads
        if result.made.sketch:
            site.sketches[step.id] = result.made.sketch
        for b, body in result.bodies.items():
            if body is None:
                site.bodies.pop(b, None)
            else:  # what is remembered may have been made under another name
                name = self._body_name(step, site, b)
                site.bodies[b] = body if body.name == name else dataclasses.replace(body, name=name)

    def _body_name(self, step: Step, site: Site, body: str) -> str:
        """Return what a body is called: as before, else by its step, with a number where the step begins several."""
        look = self.part.looks.get(body)
        if look and look.name:
            return look.name
        if body in site.bodies:
            return site.bodies[body].name
        number = body.partition(".")[2]
        return f"{step.name} {number}" if number else step.name

    def _given(self, step: Step, site: Site, report: StepReport) -> tuple[SimpleNamespace, dict[str, Any]]:
        """Work out a step's numbers and references; return them, and what they came to for the key."""
        given = SimpleNamespace(dimensions={}, taken={})
        reads: dict[str, Any] = {"bodies around": step.reads(site)}
        lost: list[ReferenceLost] = []
        blanks = step.blanks()
        for place, value, kind in numbers_of(step):
            figure = self._number(value.formula, kind, place)
            blank = blanks.get(place)
            if isinstance(blank, Number) and (fault := blank.fault(figure)):
                raise StepError(f"{fault}; {value.formula} comes to {figure:g}.", field=place)
            if blank:
                setattr(given, place, figure)
            else:
                given.dimensions[place] = figure
            reads[place] = figure
        for name, blank in blanks.items():
            if isinstance(blank, Pick):
                held = getattr(step, name)
                items = held if isinstance(held, list) else [held] if held else []
                found: list[Any] = []
                missed: list[ReferenceLost] = []
                for i, ref in enumerate(items):
                    try:
                        got = self._resolve(name, i, ref, blank, site, report)
                        found.extend(got) if blank.pieces and isinstance(got, list) else found.append(got)
                    except ReferenceLost as error:
                        missed.append(error)
                # Where any number of edges will do, the others are built, and the step is held.
                lost += [] if blank.pieces and found else missed
                setattr(given, name, found if blank.many else found[0] if found else None)
                reads[name] = found
        if lost:
            raise lost[0]
        for entity, ref in step.takings():
            self._take(entity, ref, given, reads, site, report)
        return given, reads

    def _take(self, entity: str, ref: Any, given: SimpleNamespace, reads: dict[str, Any], site: Site, report: StepReport) -> None:
        """Resolve what a step takes in; what is lost stays where it is, and is told."""
        place = f"taken:{entity}"
        try:
            found, doubt, now = self.resolver.take(ref, site)
        except ReferenceLost as error:
            report.references.append(ReferenceState(place, "lost", error.message, None, list(error.candidates)))
            reads[place] = "lost"
            return
        given.taken[entity] = reads[place] = found
        report.references.append(ReferenceState(place, "re-found" if doubt else "sound", doubt, now if doubt else None))

    def _number(self, formula: str, kind: Kind, place: str) -> float:
        try:
            return plain(in_kind(parse(formula).value(self.scope), kind, self.part.units.units()), kind)
        except FormulaError as error:
            raise error.located(field=place) from error

    def _resolve(self, place: str, item: int, ref: Any, blank: Pick, site: Site, report: StepReport) -> Any:
        """Return what a reference means here, noting how it stands; raises ReferenceLost with the field."""
        try:
            found, doubt, now = self.resolver.resolve(ref, blank, site)
        except ReferenceLost as error:
            report.references.append(ReferenceState(place, "lost", error.message, None, list(error.candidates), item, self._said(ref)))
            raise error.located(field=place) from error
        state = "re-found" if doubt else "sound"
        report.references.append(ReferenceState(place, state, doubt, now if doubt else None, item=item, said=self._said(ref)))
        return found.plain() if blank.plain and isinstance(found, Picked) else found


    def _said(self, ref: Any) -> str:
        return say_face(ref.names, lambda s: self.called.get(s, "a deleted step")) if isinstance(ref, FaceRef) else ""


def _tags_of(step: Step) -> list[str]:
    return sorted({t for _, value, _ in numbers_of(step) for t in parse(value.formula).tags})


_tags: Once[Step, list[str]] = Once(_tags_of, 12_000)


def replace_bodies(site: Site, there: Site) -> Site:
    """Return a site with the bodies of another."""
    return dataclasses.replace(site, bodies=there.bodies)


def _on_others(given: SimpleNamespace, picks: Callable[[Picked], list[Picked]]) -> SimpleNamespace:
    """Return what is given to a step with each picked thing replaced by others."""
    return SimpleNamespace(**{n: [q for p in held for q in picks(p)] if isinstance(held, list) and held and isinstance(held[0], Picked) else held
                              for n, held in vars(given).items()})


def _unused(step: Step) -> set[str]:
    """Return the fields that the step's present choices do not ask for; they change nothing."""
    return {n for v in type(step).variants().values() for n in v.blanks} - step.blanks().keys()
