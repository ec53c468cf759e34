"""The pen: applies commands, solves and explains sketches, and follows drags, apart from the kernel."""

from __future__ import annotations

from multiprocessing.connection import Connection
from typing import Any

from pydantic import TypeAdapter

from wendal.core import exchange
from wendal.core.errors import CommandRefused, DocumentError
from wendal.core.inspect.sketch_view import dragged, motion_view, proposals, rehearsed, sketch_of, sketch_view
from wendal.core.route import Command, Part, apply, figures_of, read_part, say_command, write_part
from wendal.core.route.taking import follow_model
from wendal.core.sketch import Drag, SketchEdit

from .process import Say, serve

__all__ = ["main"]

_commands: TypeAdapter[Any] = TypeAdapter(Command)
_edits: TypeAdapter[Any] = TypeAdapter(SketchEdit)
DRAGS_KEPT = 8


class Pen:
    """The operations of one pen. Requests and answers are plain data."""

    def __init__(self) -> None:
        self._read: tuple[str, Part] | None = None
        self._followed: tuple[str, Part] | None = None
        self._drags: dict[str, tuple[Drag, dict[str, float]]] = {}

    def _part(self, document: str) -> Part:
        if self._read is None or self._read[0] != document:
            self._read = (document, read_part(document))
        return self._read[1]

    def _now(self, request: dict[str, Any]) -> Part:
        """Return the part of a request with its sketches as the model puts them now."""
        part = self._part(request["document"])
        taken = request.get("taken")
        if not taken:
            return part
        key = request["document"] + repr(taken)
        if self._followed is None or self._followed[0] != key:
            self._followed = (key, follow_model(part, taken))
        return self._followed[1]

    def command(self, request: dict[str, Any], say: Say) -> dict[str, Any]:
        """Apply a command: the new document, its name, and a summary for the list of versions."""
        part = self._now(request)
        command = _commands.validate_python(request["command"])
        changed = apply(part, command)
        document = write_part(changed)
        self._read = (document, changed)
        step = f"s{changed.last}" if changed.last > part.last else getattr(command, "step", "")
        return {
            "document": document,
            "name": changed.name,
            "summary": say_command(part, command),
            "step": step if isinstance(step, str) else "",
        }

    def settle(self, request: dict[str, Any], say: Say) -> str:
        """Return a document with what its evaluation told of it kept (see `follow_model`)."""
        changed = self._now(request)
        document = write_part(changed)
        self._read = (document, changed)
        return document

    def sketch(self, request: dict[str, Any], say: Say) -> dict[str, Any]:
        """Explain a sketch: its view, or, where that was said without words for its freedoms already, these
        words alone."""
        soon: list[dict[str, Any]] = []

        def first(view: dict[str, Any]) -> None:
            soon.append(view)
            say(view)

        view = sketch_view(self._now(request), request["step"], first)
        return {"words": {k: view[k] for k in ("freedoms", "groups")}} if soon else {"view": view}

    def drag(self, request: dict[str, Any], say: Say) -> dict[str, Any]:
        """Take hold of a thing (when `document` is given) and bring it to a place."""
        name = request["drag"]
        if "document" in request:
            part = self._now(request)
            sketch = sketch_of(part, request["step"])
            while len(self._drags) >= DRAGS_KEPT:
                self._drags.pop(next(iter(self._drags)))
            values = figures_of(part).values(sketch.drawing)
            self._drags[name] = (
                Drag(sketch.drawing, values, request["entity"], tuple(request["start"])),
                values,
            )
        if name not in self._drags:
            raise CommandRefused("This drag was given up. Take hold of it again.")
        drag, values = self._drags[name]
        return dragged(drag.move(tuple(request["to"])), values)

    def rehearse(self, request: dict[str, Any], say: Say) -> dict[str, Any]:
        """Try an edit of a sketch without keeping it."""
        return rehearsed(self._now(request), request["step"], _edits.validate_python(request["edit"]))

    def motion(self, request: dict[str, Any], say: Say) -> list[dict[str, Any]]:
        """Return the frames of a freedom."""
        return motion_view(self._now(request), request["step"], request["index"])

    def propose(self, request: dict[str, Any], say: Say) -> list[dict[str, Any]]:
        """Propose what would constrain the rest."""
        return proposals(self._now(request), request["step"], request["baselines"])

    def write(self, request: dict[str, Any], say: Say) -> bytes | None:
        """Write a file of a part that needs no geometry; None where the format needs it."""
        return exchange.export_bare(self._part(request["document"]), request["format"])

    def read(self, request: dict[str, Any], say: Say) -> dict[str, Any]:
        """Read a part's file that came from outside, and write it in the standing form."""
        try:
            part = exchange.read(request["text"].encode(), request.get("ending", "json"))
        except RecursionError as error:
            raise DocumentError("This is nested too deep to be a part.") from error
        return {"document": write_part(part), "name": part.name}


def main(line: Connection) -> None:
    """Run a pen."""
    pen = Pen()
    serve(
        line,
        {
            "command": pen.command,
            "settle": pen.settle,
            "sketch": pen.sketch,
            "drag": pen.drag,
            "read": pen.read,
            "write": pen.write,
            "rehearse": pen.rehearse,
            "motion": pen.motion,
            "propose": pen.propose,
        },
    )
