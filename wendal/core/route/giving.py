"""What a step is given: its numbers worked out, its references resolved against what stands before it."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from typing import Any

from ..blanks import Number, Pick
from ..datum import Picked
from ..errors import FormulaError, ReferenceLost, StepError
from ..quantity import Kind, in_kind, parse
from ..quantity.units import plain
from ..reference import FaceRef, say_face
from ..steps import Site, Step, numbers_of
from .document import Part
from .reports import ReferenceState, StepReport
from .resolving import Resolver

__all__ = ["Giver"]


class Giver:
    """Works out what steps are given, in one evaluation.

    scope : the values of all tags so far. states : how the steps before stand, by id.
    """

    def __init__(self, part: Part, states: Mapping[str, str], scope: dict[str, Any]) -> None:
        self._part, self.scope = part, scope
        self._resolver = Resolver(part, states)
        self._called = {s.id: s.name for s in part.steps}
        self.absent: dict[str, str] = {}  # kept measures that came to nothing, and why

    def without(self, tags: Iterable[str]) -> FormulaError | None:
        """Return why a formula of these tags has no value, where that is a measure that is not there."""
        tag = next((t for t in sorted(tags) if t in self.absent), None)
        return FormulaError(f"The measure “{tag}” is not there: {self.absent[tag]}") if tag else None

    def give(self, step: Step, site: Site, report: StepReport) -> tuple[Any, dict[str, Any]]:
        """Return a step's numbers and references as its kind takes them, and what they came to, for its key.

        Each reference is noted in the report. Raises StepError and FormulaError with the field, and
        ReferenceLost for the first lost reference, once all have been looked for.
        """
        dimensions: dict[str, float] = {}
        values: dict[str, Any] = {}
        reads: dict[str, Any] = {"bodies around": step.reads(site)}
        self._numbers(step, values, dimensions, reads)
        self._picks(step, site, report, values, reads)
        taken = self._takings(step, site, report, reads)
        return step.given_from(values, dimensions, taken), reads

    def _numbers(
        self, step: Step, values: dict[str, Any], dimensions: dict[str, float], reads: dict[str, Any]
    ) -> None:
        blanks = step.blanks()
        for place, value, kind in numbers_of(step):
            figure = self._number(value.formula, kind, place)
            blank = blanks.get(place)
            if isinstance(blank, Number) and (fault := blank.fault(figure)):
                raise StepError(f"{fault}; {value.formula} comes to {figure:g}.", field=place)
            (values if blank else dimensions)[place] = figure
            reads[place] = figure

    def _number(self, formula: str, kind: Kind, place: str) -> float:
        tags: Iterable[str] = ()
        try:
            read = parse(formula)
            tags = read.tags
            return plain(in_kind(read.value(self.scope), kind, self._part.units.units()), kind)
        except FormulaError as error:
            raise (self.without(tags) or error).located(field=place) from error

    def _picks(
        self, step: Step, site: Site, report: StepReport, values: dict[str, Any], reads: dict[str, Any]
    ) -> None:
        lost: list[ReferenceLost] = []
        for name, blank in step.blanks().items():
            if isinstance(blank, Pick):
                found, missed = self._of_blank(name, getattr(step, name), blank, site, report)
                # Where any number of edges will do, the others are built, and the step is held.
                lost += [] if blank.pieces and found else missed
                values[name] = found if blank.many else found[0] if found else None
                reads[name] = found
        if lost:
            raise lost[0]

    def _of_blank(
        self, name: str, held: Any, blank: Pick, site: Site, report: StepReport
    ) -> tuple[list[Any], list[ReferenceLost]]:
        found: list[Any] = []
        missed: list[ReferenceLost] = []
        for i, ref in enumerate(held if isinstance(held, list) else [held] if held else []):
            try:
                got = self._resolve(name, i, ref, blank, site, report)
                found.extend(got) if blank.pieces and isinstance(got, list) else found.append(got)
            except ReferenceLost as error:
                missed.append(error)
        return found, missed

    def _resolve(self, place: str, item: int, ref: Any, blank: Pick, site: Site, report: StepReport) -> Any:
        """Return what a reference means here, noting how it stands; raises ReferenceLost with the field."""
        try:
            found, doubt, now, said = self._resolver.resolve(ref, blank, site)
        except ReferenceLost as error:
            candidates = list(error.candidates)
            report.references.append(
                ReferenceState(place, "lost", error.message, None, candidates, item, self._was(ref))
            )
            raise error.located(field=place) from error
        state = "re-found" if doubt else "sound"
        report.references.append(ReferenceState(place, state, doubt, now if doubt else None, [], item, said))
        return found.plain() if blank.plain and isinstance(found, Picked) else found

    def _was(self, ref: Any) -> str:
        """Say how a face that is not there came to be."""
        if not isinstance(ref, FaceRef):
            return ""
        return say_face(ref.names, lambda s: self._called.get(s, "a deleted step"))

    def _takings(self, step: Step, site: Site, report: StepReport, reads: dict[str, Any]) -> dict[str, Any]:
        """Resolve what a step takes in; what is lost stays where it is, and is told."""
        taken: dict[str, Any] = {}
        for entity, ref in step.takings():
            place = f"taken:{entity}"
            try:
                found, doubt, now, _ = self._resolver.take(ref, site)
            except ReferenceLost as error:
                candidates = list(error.candidates)
                report.references.append(ReferenceState(place, "lost", error.message, None, candidates))
                reads[place] = "lost"
                continue
            taken[entity] = reads[place] = found
            state = "re-found" if doubt else "sound"
            report.references.append(ReferenceState(place, state, doubt, now if doubt else None))
        return taken
