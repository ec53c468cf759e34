"""Evaluating a part: a pure function from the document to bodies, datums, sketches and a report per step.

For every step its numbers are worked out and its references resolved against what stands before it. A digest
of these is the step's key. Only a key that is not remembered is built. A step that fails stops alone: what
does not stand on it goes on.

There are two kinds of failure. A refusal (`WendalError`, or an exception of the kernel's own) is a result: it
is told and remembered. Anything else is a fault of ours: it is logged with its trace, told as one, and not
remembered, so that it is met again where it can be looked at.
"""

from __future__ import annotations

import dataclasses
import logging
import time
from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace
from typing import Any

from .. import kernel
from ..errors import FormulaError, InternalFault, ReferenceLost, StepError, WendalError
from ..once import Lazily, OnceWeakly
from ..quantity import Outcome, parse
from ..reference import DatumRef, DrawnRef
from ..steps import Body, Made, Seed, Site, Step, numbers_of
from ..steps.sketch import Sketch
from .depends import stands_on
from .document import Kept, Part
from .gauging import Gauged, gauged
from .giving import Giver
from .measures import measures_of, names_of, used_measures
from .memory import Memory, Remembered, Stood
from .reports import ReferenceState, StepReport
from .standing import Chain
from .tokens import digest, words_in

__all__ = ["ONWARD", "Evaluation", "evaluate"]

log = logging.getLogger(__name__)
# Among condemned keys, before a step's id ("" for the beginning): from there on only what is remembered is
# told.
ONWARD = "from "
GAUGED = 2000  # kept measures that are remembered
Announce = Callable[[str, str, str], None]  # step id, its name, its key: about to be built


@dataclass(slots=True)
class Evaluation:
    """Everything a part came to.

    sites : what stands after each step, by its id; "" is the empty beginning. preview : what the step that
    was asked for made; before : what stood before it. gauged : kept measures by their tags. standing :
    the reports of steps that were built without a doubt, by their places in the chain.
    """

    reports: list[StepReport]
    ledger: dict[str, Outcome]
    sites: dict[str, Site]
    site: Site
    preview: Made | None = None
    before: Site = dataclasses.field(default_factory=Site)
    gauged: dict[str, Gauged] = dataclasses.field(default_factory=dict)
    standing: dict[str, StepReport] = dataclasses.field(default_factory=dict)

    def report(self, step: str) -> StepReport:
        """Return the report of a step."""
        return next(r for r in self.reports if r.id == step)


def evaluate(
    part: Part,
    memory: Memory,
    *,
    until: str = "",
    preview: str = "",
    announce: Announce | None = None,
    condemned: Mapping[str, str] | None = None,
) -> Evaluation:
    """Evaluate a part.

    until : the last step to look at ("" for the stop line). preview : the step whose making is to be shown.
    announce : called before each step that is really built. condemned : keys that are known to bring the
    kernel down, with the message for them.
    """
    run = _Run(part, memory, preview, announce, condemned or {})
    waiting = False
    for step in part.steps:
        run.pass_by(step) if waiting or step.suppressed else run.take(step)
        waiting = waiting or step.id == (until or part.stop_after)
    run.gauge("")
    return run.found


class _Run:
    """One evaluation under way; `found` is what it came to so far."""

    def __init__(
        self,
        part: Part,
        memory: Memory,
        preview: str,
        announce: Announce | None,
        condemned: Mapping[str, str],
    ) -> None:
        self.part, self.memory, self.preview = part, memory, preview
        self.announce, self.condemned = announce, condemned
        self.found = Evaluation([], part.evaluated(), {"": memory.empty}, memory.empty)
        self.halted = condemned.get(ONWARD, "")  # why nothing is built any more
        self.measures: dict[str, Any] = {}
        self.measured = used_measures(part)
        self.states: dict[str, str] = {}
        self.keys: dict[str, str] = {}  # of the results so far, by step
        self.names = {s.id: s.name for s in part.steps}
        self.doubtful: dict[str, str] = {}  # by step id, the held step that it stands on
        self.giver = Giver(part, self.states, self._scope())
        self.common = digest(part.units, part.looks)
        self.chain = Chain()

    def _scope(self) -> dict[str, Any]:
        worth = {t: o.value for t, o in self.found.ledger.items() if o.value is not None}
        return {**self.measures, **worth}

    def pass_by(self, step: Step) -> None:
        """Let a step wait: it is suppressed, or stands below the stop line."""
        self.chain.place(step, True)
        words = "suppressed" if step.suppressed else "below the stop line"
        self._note(step, StepReport(step.id, "waiting", f"Waiting: {words}."), self.found.site)
        for kept in self.part.kept:
            if kept.after == step.id:
                self._gauged(kept, Gauged("waiting", message=f"Waits with {step.name}."))

    def take(self, step: Step) -> None:
        """Take the next step from memory, or build it."""
        before, made = self.found.site, None
        self.halted = self.halted or self.condemned.get(ONWARD + step.id, "")
        given = None if step.id == self.preview else self._given_for(step)
        place = self.chain.place(step, given)
        known = self.memory.stood(step, before, given) if given else None
        kept = self.memory.kept_reports.get(place) if place and not known else None
        if known:
            site, report = known.after, dataclasses.replace(known.report, remembered=True, milliseconds=0.0)
        elif kept and (result := self.memory.get(kept.key)) and result.error is None:
            site = self._stood_before(step, kept, result, before)
            report = dataclasses.replace(kept, remembered=True, milliseconds=0.0)
        else:
            site = before.copy()
            report, made = self._build(step, site)
        if given and report.state == "built" and not report.upon:
            if known is None:
                self.memory.stands(Stood(step, before, given, report, site), self.part.owner(step))
            if place:
                self.found.standing[place] = report
        if report.state != "stopped" and self.measured & names_of(step):
            self.measures |= measures_of(step, site)
            self._told()
        if step.id == self.preview:
            self.found.before, self.found.preview = before, made
        self._note(step, report, site)
        self.gauge(step.id)

    def gauge(self, after: str) -> None:
        """Take the kept measures that are taken behind a step, "" for those at the end."""
        for kept in self.part.kept:
            if kept.after == after:
                self._gauged(kept, self._gauge(kept))

    def _gauge(self, kept: Kept) -> Gauged:
        """Take a kept measure, or remember it: it depends on the bodies and on what stands for its things."""
        site = self.found.site
        stands = {r.step for r in kept.things if isinstance(r, DatumRef | DrawnRef)} | {kept.system}
        key = digest(
            kept.model_dump(mode="json", exclude={"tag", "worth"}),
            [(b.id, b.key, b.name) for b in site.bodies.values()],
            [(s, n, self.keys.get(s)) for s, n in self.names.items() if s in stands],
            sorted(self.states.items()),
        )
        known = self.memory.gauged.get(key)
        if known is None:
            known = gauged(self.part, site, self.states, kept)
            self.memory.gauged[key] = known
            while len(self.memory.gauged) > GAUGED:
                self.memory.gauged.pop(next(iter(self.memory.gauged)))
        return known

    def _gauged(self, kept: Kept, found: Gauged) -> None:
        self.found.gauged[kept.tag] = found
        if kept.tag not in self.measured:
            return
        if found.reading:
            self.measures[kept.tag] = found.reading.quantity()
        else:
            self.giver.absent[kept.tag] = found.message
        self._told()

    def _told(self) -> None:
        """Work the ledger out anew: more measures are known."""
        self.found.ledger = {
            tag: outcome if outcome.value is not None else self._absent(outcome)
            for tag, outcome in self.part.evaluated(self.measures).items()
        }
        self.giver.scope = self._scope()

    def _absent(self, outcome: Outcome) -> Outcome:
        """Say of a formula that a measure in it is not there, where that is why."""
        why = self.giver.without(outcome.uses)
        return replace(outcome, error=why) if why else outcome

    def _note(self, step: Step, report: StepReport, site: Site) -> None:
        self.found.reports.append(report)
        self.chain.came_out(report.state, report.key)
        self.keys[step.id] = report.key
        self.states[step.id] = report.state
        self.found.site = self.found.sites[step.id] = site

    def _given_for(self, step: Step) -> Any:
        """Return what a step's result depends on besides the step and what stands before it.

        That is the value of the tags in its formulas, and how bodies are called; None where a formula cannot
        be read.
        """
        try:
            tags = _tags(step)
        except FormulaError:
            return None
        scope = self.giver.scope
        worth = [
            (t, q.magnitude, q.units) if (q := scope.get(t)) is not None else (t, None, None) for t in tags
        ]
        return [worth, self.common]

    def _build(self, step: Step, site: Site) -> tuple[StepReport, Made | None]:
        """Build one step onto the site, or tell why not."""
        began = time.perf_counter()
        report = StepReport(step.id, "built")
        made: Made | None = None
        try:
            made = self._onto(step, site, report)
        except WendalError as error:
            _stopped(report, error)
        except Exception as error:  # a fault of ours, or the kernel's word where no room of its own turned it
            _stopped(report, self._failure(step, error))
        report.stands_on = sorted(stands_on(step))
        shaky = [s for s in report.stands_on if s in self.doubtful]
        if report.state == "held":
            self.doubtful[step.id] = step.name
        elif shaky:
            self.doubtful[step.id] = report.upon = self.doubtful[shaky[0]]
        report.milliseconds = 1000 * (time.perf_counter() - began)
        log.debug("%s", report.state, extra={"step": step.id, "milliseconds": round(report.milliseconds, 1)})
        return report, made

    def _onto(self, step: Step, site: Site, report: StepReport) -> Made | None:
        missing = step.missing()
        if missing:
            raise StepError(f"Still needs {' and '.join(missing)}.")
        given, reads = self.giver.give(step, site, report)
        shown = step.model_dump_json(exclude={"name", "visible", *reads, *_unused(step)})
        report.key = digest(shown, reads)
        result = self._result(step, given, site, report, words_in(step.name, reads))
        if result.error:
            _stopped(report, result.error)
            return None
        made = result.made
        self._stand(step, result, site, report.key, Lazily(lambda: given))
        report.answers = made.answers if made else 1
        for gone in made.gone if made else ():
            state = ReferenceState(gone.place, "lost", gone.reason, None, gone.candidates)
            report.references = [r for r in report.references if r.field != gone.place] + [state]
        others = made.others if made else {}
        report.references = [
            replace(r, candidates=others[r.field]) if r.state == "sound" and r.field in others else r
            for r in report.references
        ]
        _judge(step, report, made.told(self.part.units.length == "in") if made else "")
        return made

    def _result(self, step: Step, given: Any, site: Site, report: StepReport, words: str) -> Remembered:
        """Return what a step comes to, remembered or built now; a fault of ours is raised and not
        remembered."""
        known = self.memory.get(report.key)
        sought = known and getattr(known.error, "findable", False) and kernel.sought()
        if known and not sought and (known.words == words or not known.tells):
            report.remembered = True
            return known
        if told := self.condemned.get(report.key) or self.halted:
            raise StepError(told)
        if self.announce:
            self.announce(step.id, step.name, report.key)
        try:
            made = step.evaluate(given, site)
            bodies = {b: self._body(step, site, b, shape, report.key) for b, shape in made.shapes.items()}
            result = Remembered(made, bodies, None, words)
        except Exception as error:  # told apart below: a refusal is remembered, a fault of ours is raised
            failure = error if isinstance(error, WendalError) else self._failure(step, error)
            if isinstance(failure, InternalFault):
                raise failure from error
            result = Remembered(None, {}, failure.bare(), words)
        self.memory.put(report.key, result, self.part.owner(step))
        return result

    def _failure(self, step: Step, error: Exception) -> WendalError:
        """Return what is told of an exception that is not one of our refusals; a fault of ours is logged."""
        if kernel.is_refusal(error):
            return StepError(
                f"The geometry kernel refused this ({type(error).__name__}). A slightly different value "
                "often helps."
            )
        if isinstance(error, MemoryError):
            return InternalFault("Building this takes more memory than Wendal may use. Make it simpler.")
        log.error(
            "%s %s failed by a fault of ours", step.title, step.name, exc_info=error, extra={"step": step.id}
        )
        return InternalFault(
            f"This failed inside Wendal ({type(error).__name__}); it is our fault, and its log says more. "
            "The step is kept as it is."
        )

    def _stood_before(self, step: Step, report: StepReport, result: Remembered, before: Site) -> Site:
        """Return the site after a step as an earlier process built it.

        What its references come to is looked for when a pattern asks.
        """
        site = before.copy()
        given = Lazily(lambda: self.giver.give(step, before, StepReport(step.id, "built"))[0])
        self._stand(step, result, site, report.key, given)
        return site

    def _stand(self, step: Step, result: Remembered, site: Site, key: str, given: Lazily[Any]) -> None:
        """Add what a step came to to the site. given : what it was given."""
        made, before = result.made, site.copy() if step.copied else site
        self._put(step, result, site)
        if step.copied:
            changes = tuple(
                (b, before.bodies[b].shape, body.shape)
                for b, body in result.bodies.items()
                if body and b in before.bodies
            )
            site.seeds[step.id] = Seed(step, key, [], [], given, before, changes)
        elif made and made.effects:
            site.seeds[step.id] = Seed(step, key, made.effects, made.threads, given, site.copy())

    def _body(self, step: Step, site: Site, body: str, shape: Any, key: str) -> Body | None:
        if shape is None:
            return None
        return Body(body, self._body_name(step, site, body), shape, kernel.describe(shape), digest(key, body))

    def _put(self, step: Step, result: Remembered, site: Site) -> None:
        assert result.made is not None
        if result.made.datums:
            site.datums[step.id] = result.made.datums
        site.taken |= result.made.taken
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
        """Return what a body is called: as before, else by its step, with a number where the step begins
        several."""
        look = self.part.looks.get(body)
        if look and look.name:
            return look.name
        if body in site.bodies:
            return site.bodies[body].name
        number = body.partition(".")[2]
        return f"{step.name} {number}" if number else step.name


def _stopped(report: StepReport, error: WendalError) -> None:
    """Note that a step stopped, and why."""
    report.state, report.message, report.field = "stopped", error.message, error.field
    report.dots, report.offer = getattr(error, "dots", {}), getattr(error, "offer", "")
    report.findable = getattr(error, "findable", False)
    report.fault = isinstance(error, InternalFault)
    others = sum(r.state == "lost" for r in report.references) - 1
    if isinstance(error, ReferenceLost) and others > 0:
        report.message += f" {others} more {'reference is' if others == 1 else 'references are'} lost, too."


def _judge(step: Step, report: StepReport, note: str) -> None:
    """Note how a step stands that could be built: held by what is lost or in doubt, else built with its
    note.

    A sketch whose taken geometry is gone keeps its old drawing to be mended, and counts as stopped: nothing
    is built on places that are out of date.
    """
    gone = [r for r in report.references if r.state == "lost"]
    doubts = [r for r in report.references if r.state == "re-found"]
    outdated = [
        r for r in gone if isinstance(step, Sketch) and step.relies_on(r.field.removeprefix("taken:"))
    ]
    if outdated:
        report.state, report.field = "stopped", outdated[0].field
        waits = "What was taken in stays where it was, and what stands on this sketch waits"
        report.message = f"{waits}: {outdated[0].reason}"
    elif gone:
        report.state, report.field = "held", gone[0].field
        taken = gone[0].field.startswith("taken:")
        beginning = "What was taken in stays where it was" if taken else "Built without what was lost"
        report.message = f"{beginning}: {gone[0].reason}"
    elif doubts:
        report.state, report.message = "held", f"Please confirm: {doubts[0].reason}."
    else:
        report.message = note


def _tags_of(step: Step) -> list[str]:
    return sorted({t for _, value, _ in numbers_of(step) for t in parse(value.formula).tags})


_tags: OnceWeakly[Step, list[str]] = OnceWeakly(_tags_of)


def _unused(step: Step) -> set[str]:
    """Return the fields that the step's present choices do not ask for; they change nothing."""
    return {n for v in type(step).variants().values() for n in v.blanks} - step.blanks().keys()
