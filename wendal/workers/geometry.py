"""The geometry worker: evaluates parts, remembers results, writes files."""

from __future__ import annotations

import logging
from dataclasses import asdict
from multiprocessing.connection import Connection
from pathlib import Path
from typing import Any

from pydantic import TypeAdapter

from wendal.core import exchange, inspect, kernel
from wendal.core.errors import WendalError
from wendal.core.route import Command, Evaluation, Memory, Part, evaluate, read_part, write_part
from wendal.core.route.commands import AddStep, EditStep, apply
from wendal.core.route.differing import differences
from wendal.core.route.keeping import NotKept, bytes_of, take_up
from wendal.core.route.setting import with_values
from wendal.core.route.taking import settled, taken_now, trace_picks
from wendal.core.route.together import bring_together
from wendal.core.sketch import TakeIn
from wendal.core.trust import Setup, ShakedownReport, pictured
from wendal.core.trust.report import Pictures
from wendal.core.trust.trial import based, judged, refused

from .process import Say, serve
from .shelf import Shelf

__all__ = ["main"]

log = logging.getLogger(__name__)
# Parts whose content from the shelf waits to be asked for: whoever only wants their pictures never does.
AT_ONCE = 4
_commands: TypeAdapter[Any] = TypeAdapter(Command)


class GeometryWorker:
    """The operations of one worker. Requests and answers are plain data."""

    def __init__(self, shelf: Shelf | None = None) -> None:
        """shelf : where results are kept for the processes that come after."""
        self._memory = Memory()
        self._packed: dict[Any, Any] = {}
        self._read: tuple[str, Part] | None = None
        self._shelf = shelf
        self._kept: dict[int, set[str]] = {}  # by part, the keys of what lies on the shelf
        self._held: dict[
            int, dict[str, bytes]
        ] = {}  # by part, content from the shelf that nobody has asked for yet

    def _part(self, document: str) -> Part:
        if self._read is None or self._read[0] != document:
            self._read = (document, read_part(document))
        return self._read[1]

    def _evaluate(self, request: dict[str, Any], say: Say, part: Part, **more: Any) -> Evaluation:
        self._take_up(request.get("part", 0))
        # What would work instead is looked for only where that was asked for: it takes seconds.
        with kernel.seeking(request.get("seek", False)):
            return evaluate(
                part,
                self._memory,
                condemned=request.get("condemned", {}),
                announce=lambda step, name, key: say({"step": step, "name": name, "key": key}),
                **more,
            )

    def evaluate(self, request: dict[str, Any], say: Say) -> dict[str, Any]:
        """Evaluate a document: reports, ledger, the scene at the end and at `at`, and content not in
        `has`."""
        part = self._part(request["document"])
        evaluation = self._evaluate(request, say, part)
        blobs = inspect.Blobs(set(request["has"]), self._packed, self._held.pop(request.get("part", 0), {}))
        return {
            "reports": [_report(r) for r in evaluation.reports],
            "ledger": inspect.ledger_rows(part, evaluation),
            "scene": inspect.scene(part, evaluation, blobs, request.get("at")),
            "blobs": blobs.new,
            "taken": taken_now(part, evaluation),
        }

    def trace(self, request: dict[str, Any], say: Say) -> list[dict[str, Any]]:
        """Tell what picked things come to in a sketch's plane."""
        part = self._part(request["document"])
        edit = TakeIn.model_validate(request["edit"])
        evaluation = self._evaluate(request, say, part, until=request["step"])
        return trace_picks(part, evaluation, request["step"], edit.refs, edit.manner, edit.near)

    def preview(self, request: dict[str, Any], say: Say) -> dict[str, Any]:
        """Evaluate up to a step that is being made or edited; `command` is the add or edit that accepting
        would send."""
        before = self._part(request["document"])
        data = request["command"]
        command = (AddStep if data["do"] == "add_step" else EditStep).model_validate(data)
        part = apply(before, command)
        step = f"s{part.last}" if isinstance(command, AddStep) else command.step
        evaluation = self._evaluate(request, say, part, until=step, preview=step)
        blobs = inspect.Blobs(set(request["has"]), self._packed)
        shown = inspect.preview_scene(evaluation, part, step, blobs)
        return {"report": _report(evaluation.report(step)), "preview": shown, "blobs": blobs.new}

    def foresee(self, request: dict[str, Any], say: Say) -> dict[str, Any]:
        """Tell which steps a command would reach and how they and the bodies would stand; nothing is kept."""
        before = self._part(request["document"])
        stands = self._evaluate(request, say, before)
        after = apply(settled(before, stands), _commands.validate_python(request["command"]))
        return inspect.foresee(before, stands, after, self._evaluate(request, say, after))

    def compare(self, request: dict[str, Any], say: Say) -> dict[str, Any]:
        """Compare an earlier document with a later one; return content not in `has` as well."""
        before, after = read_part(request["before"]), read_part(request["document"])
        after, before = with_values(after, request["values"]), with_values(before, request["others"])
        old, new = self._evaluate(request, say, before), self._evaluate(request, say, after)
        blobs = inspect.Blobs(set(request["has"]), self._packed)
        if request["bodies"]:
            two = inspect.compare_bodies(after, new, tuple(request["bodies"]), blobs)
            return {"found": two, "blobs": blobs.new}
        found = inspect.compare(before, old, after, new, blobs, request["related"])
        return {"found": found, "blobs": blobs.new}

    def try_on(self, request: dict[str, Any], say: Say) -> dict[str, Any]:
        """Build a document with other values, or after a command; tell how it stands, with its bodies as they
        are and as they would be, and content not in `has`."""
        part = self._part(request["document"])
        stands = self._evaluate(request, say, part)
        blobs = inspect.Blobs(set(request["has"]), self._packed)
        try:
            if request["command"]:
                command = _commands.validate_python(request["command"])
                after = apply(settled(part, stands), command)
            else:
                after = with_values(part, request["values"])
        except WendalError as error:
            verdict, tried = refused(part, error), None
        else:
            tried = self._evaluate(request, say, after)
            verdict = judged(after, tried, based(part, stands, Setup(things=request["things"])), like=False)
        told = {n: getattr(verdict, n) for n in ("judgement", "why", "step", "field", "other")}
        bodies = inspect.tried_bodies(stands, tried, blobs)
        found = {**told, "at": verdict.name, "figures": dict(verdict.figures), "bodies": bodies}
        return {"found": found, "blobs": blobs.new}

    def stood(self, request: dict[str, Any], say: Say) -> str:
        """Return how a step stands in a document, "" where it is not there."""
        part = self._part(request["document"])
        if not any(s.id == request["step"] for s in part.steps):
            return ""
        return self._evaluate(request, say, part).report(request["step"]).state

    def together(self, request: dict[str, Any], say: Say) -> dict[str, Any]:
        """Bring two branches together: the document, conflicts, what changes for ours, how it stands."""
        base, ours, theirs = (read_part(request[n]) for n in ("base", "document", "theirs"))
        made = bring_together(base, ours, theirs, request["chosen"])
        stands = self._evaluate(request, say, ours)
        evaluation = self._evaluate(request, say, made.part)
        return {
            "document": write_part(made.part),
            "conflicts": [asdict(c) for c in made.conflicts],
            "changes": [asdict(c) for c in differences(ours, made.part).steps],
            "renamed": {
                **{theirs.step(o).name: made.part.step(n).name for o, n in made.ids.items()},
                **made.tags,
            },
            "pictures": [
                inspect.picture(e) for e in (stands, self._evaluate(request, say, theirs), evaluation)
            ],
            **inspect.foresee(ours, stands, made.part, evaluation),
        }

    def ready(self, request: dict[str, Any], say: Say) -> dict[str, bytes]:
        """Build and pack what a command would come to, before it is given; return the content not in
        `has`."""
        part = apply(self._part(request["document"]), _commands.validate_python(request["command"]))
        blobs = inspect.Blobs(set(request["has"]), self._packed)
        inspect.scene(part, self._evaluate(request, say, part), blobs)
        return blobs.new

    def export(self, request: dict[str, Any], say: Say) -> bytes:
        """Write a file. values : with which the part is written."""
        part = self._part(request["document"])
        if request.get("values"):
            part = with_values(part, request["values"])
        evaluation = self._evaluate(request, say, part)
        return exchange.export(
            part, evaluation, request["format"], request.get("subject"), request.get("options")
        )

    def answer(self, request: dict[str, Any], say: Say) -> dict[str, Any]:
        """Answer a question about a document."""
        part = self._part(request["document"])
        asked = inspect.asked(request["ask"])
        return inspect.ask(part, self._evaluate(request, say, part), asked).model_dump(mode="json")

    def picture(self, request: dict[str, Any], say: Say) -> str:
        """Draw the small picture."""
        part = self._part(request["document"])
        return inspect.picture(self._evaluate(request, say, part))

    def pictures(self, request: dict[str, Any], say: Say) -> Pictures:
        """Draw the ends of a shakedown's ranges."""
        report = ShakedownReport.model_validate_json(request["report"])
        part = self._part(request["document"])
        return pictured(part, report, lambda after: self._evaluate(request, say, after))

    def look_over(self, request: dict[str, Any], say: Say) -> dict[str, Any]:
        """Draw the small picture, and name the bodies with which the kernel's own check of the whole finds
        fault."""
        part = self._part(request["document"])
        evaluation = self._evaluate(request, say, part)
        broken = inspect.broken(evaluation)
        if not broken:
            self._keep(request.get("part", 0), part, evaluation)
        return {"picture": inspect.picture(evaluation), "broken": broken}

    def _take_up(self, number: int) -> None:
        """Take what an earlier process kept of a part from the shelf, the first time that it is asked for."""
        if self._shelf is None or not number or number in self._kept:
            return
        self._kept[number] = set()
        content = self._shelf.begin_reading(number)
        if content is None:
            return
        try:
            packed, self._held[number], self._kept[number] = take_up(self._memory, content)
        except NotKept as error:
            log.info("part %s is built anew: %s", number, error)
            self._shelf.remove(number)
            return
        self._shelf.end_reading(number)
        self._packed.update(packed)
        while len(self._held) > AT_ONCE:
            self._held.pop(next(iter(self._held)))

    def _keep(self, number: int, part: Part, evaluation: Evaluation) -> None:
        """Put what a part came to on the shelf, unless it lies there."""
        keys = {
            r.key for r in evaluation.reports if r.key and self._memory.get(r.key)
        } | evaluation.standing.keys()
        if self._shelf is None or not number or self._kept.get(number) == keys:
            return
        self._kept[number] = keys
        blobs = inspect.Blobs(set(), self._packed)
        inspect.scene(part, evaluation, blobs)
        try:
            content = bytes_of(self._memory, evaluation, (blobs.used, blobs.new, keys))
        except Exception:  # it is looked over all the same, and built the next time
            log.exception("the results of part %s can not be kept", number)
        else:
            self._shelf.write(number, content)

    def report(self, request: dict[str, Any], say: Say) -> dict[str, Any]:
        """Report a part in figures."""
        part = self._part(request["document"])
        return inspect.report(part, self._evaluate(request, say, part))


def _report(report: Any) -> dict[str, Any]:
    return {
        "id": report.id,
        "state": report.state,
        "message": report.message,
        "field": report.field,
        "key": report.key,
        "milliseconds": round(report.milliseconds, 2),
        "remembered": report.remembered,
        "answers": report.answers,
        "upon": report.upon,
        "offer": report.offer,
        "findable": report.findable,
        "stands_on": report.stands_on,
        "references": [_reference(r) for r in report.references],
    }


def _reference(r: Any) -> dict[str, Any]:
    return {
        "field": r.field,
        "state": r.state,
        "reason": r.reason,
        "now": r.now,
        "candidates": [asdict(c) for c in r.candidates],
        "item": r.item,
        "said": r.said,
    }


def main(line: Connection, shelf: Path | None = None) -> None:
    """Run a geometry worker. shelf : the folder in which results are kept, None to keep none."""
    worker = GeometryWorker(Shelf(shelf) if shelf else None)
    serve(
        line,
        {
            "evaluate": worker.evaluate,
            "preview": worker.preview,
            "export": worker.export,
            "foresee": worker.foresee,
            "ready": worker.ready,
            "trace": worker.trace,
            "picture": worker.picture,
            "pictures": worker.pictures,
            "look_over": worker.look_over,
            "report": worker.report,
            "answer": worker.answer,
            "compare": worker.compare,
            "try_on": worker.try_on,
            "stood": worker.stood,
            "together": worker.together,
        },
    )
