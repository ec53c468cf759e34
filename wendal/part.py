"""A part from Python, without server, database or browser.

    import wendal

    part = wendal.open("bracket.json")
    part["seat_tilt"] = "30 deg"
    built = part.build()
    print(built.bodies["Base"].volume)        # mm³
    built.export("bracket.step")

Everything raises `wendal.WendalError` with the words that the browser shows, and the step and field.
"""

from __future__ import annotations

import html
import json
from collections.abc import Iterator, Mapping
from os import PathLike
from pathlib import Path
from typing import Any

from pydantic import TypeAdapter

from wendal.core import exchange, inspect, kernel
from wendal.core.drawing import drawn_page, proposed_page
from wendal.core.errors import CommandRefused
from wendal.core.exchange.worded import in_words
from wendal.core.quantity import format_quantity
from wendal.core.route import Command, Evaluation, Memory, apply, evaluate
from wendal.core.route import Part as Document
from wendal.core.route.pages import SIZES
from wendal.core.route.taking import follow_model, settled, taken_now, unsettled
from wendal.core.steps import Body, kinds
from wendal.core.stored import Value

__all__ = ["BodyBuilt", "Built", "Part", "Tag", "new", "open_part"]

_commands: TypeAdapter[Any] = TypeAdapter(Command)
Reference = dict[str, Any]


class Tag:
    """A dimension: its formula as it is written, and its value in the part's units as it is shown."""

    def __init__(self, tag: str, formula: str, shown: str, value: float | None) -> None:
        """value : mm, rad, or a bare number; None where it has none."""
        self.tag, self.formula, self.shown, self.value = tag, formula, shown, value

    def __repr__(self) -> str:
        return f"<{self.tag} = {self.formula} ({self.shown})>"

    def __float__(self) -> float:
        if self.value is None:
            raise CommandRefused(f"“{self.tag}” has no value.", field=self.tag)
        return self.value


class Part:
    """A part: its dimensions by their tags, its steps, and what can be done to it.

    It is changed by the same commands as in the browser, checked in the same way: what is refused changes
    nothing.
    """

    def __init__(self, document: Document) -> None:
        self._document, self._memory = document, Memory()

    # — reading —

    @property
    def name(self) -> str:
        """The part's name."""
        return self._document.name

    @property
    def tags(self) -> dict[str, Tag]:
        """All dimensions by their tags."""
        values, units = self._document.evaluated(), self._document.units.units()
        found = {}
        for row in self._document.rows():
            value = values[row.tag].value
            shown = format_quantity(value, units, row.kind) if value is not None else ""
            size = None if value is None else float(value.to_base_units().magnitude)
            if value is not None and value.check("[length]"):
                size = float(value.to("mm").magnitude)
            found[row.tag] = Tag(row.tag, row.formula, shown, size)
        return found

    @property
    def steps(self) -> list[str]:
        """The names of all steps in their order."""
        return [s.name for s in self._document.steps]

    def __getitem__(self, tag: str) -> Tag:
        found = self.tags.get(tag)
        if found is None:
            raise CommandRefused(f"There is no tag “{tag}” in this part.", field=tag)
        return found

    def __setitem__(self, tag: str, formula: str | float) -> None:
        """Give a dimension another formula; one that is not there is refused, for it may be misspelt. A bare
        number takes the part's unit."""
        self.do(do="set_formula", tag=tag, formula=_formula(formula))

    def add_tag(self, tag: str, formula: str | float) -> None:
        """Add a tag of its own to the ledger."""
        self.do(do="add_tag", tag=tag, formula=_formula(formula))

    def __contains__(self, tag: str) -> bool:
        return tag in self._document.tags()

    def __iter__(self) -> Iterator[str]:
        return iter(self.tags)

    # — changing —

    def do(self, **command: Any) -> None:
        """Apply a command, such as do="rename_part", name="Foot"."""
        document = self._document
        if unsettled(document):
            document = settled(document, evaluate(document, self._memory))
        taken = taken_now(document, evaluate(document, self._memory)) if self._takes(document) else {}
        if taken:
            document = follow_model(document, json.loads(json.dumps(taken)))
        self._document = apply(document, _commands.validate_python(command))

    @staticmethod
    def _takes(document: Document) -> bool:
        return any(getattr(getattr(s, "drawing", None), "taken", None) for s in document.steps)

    def add(self, kind: str, name: str = "", **fields: Any) -> str:
        """Add a step at the end of the route; return its id.

        kind : "sketch", "extrude", "hole" …; `Part.kinds()` lists them with their fields. A field that is a
        number takes its formula as text.
        """
        model = kinds().get(kind)
        if model is None:
            raise CommandRefused(
                f"There is no step kind “{kind}”. There are: {', '.join(kinds())}.", field="kind"
            )
        wanted = {n for n, held in model.model_fields.items() if held.annotation is Value}
        ready = {
            k: {"formula": _formula(v)} if k in wanted and not isinstance(v, dict) else v
            for k, v in fields.items()
        }
        self.do(do="add_step", step={"kind": kind, "name": name, **ready})
        return f"s{self._document.last}"

    @staticmethod
    def kinds() -> dict[str, list[str]]:
        """Return every step kind with its fields."""
        return {k: [f for f in m.model_fields if f not in ("id", "kind")] for k, m in kinds().items()}

    def draw(self, sketch: str, shape: str, *ends: tuple[float, float], **values: str) -> list[str]:
        """Draw in a sketch (by its name or id): "line", "rectangle", "circle" …, values as dimensions; return
        the new curves."""
        step = self._id(sketch)
        before = set(self._drawing(step).curves)
        places = [{"at": end, "on": ""} for end in ends]
        edit = {"op": "draw", "shape": shape, "ends": places, "values": values}
        self.do(do="edit_sketch", step=step, edit=edit)
        return [c for c in self._drawing(step).curves if c not in before]

    def constrain(self, sketch: str, kind: str, *of: str, **more: Any) -> None:
        """Add a constraint or a dimension in a sketch."""
        edit = {"op": "constrain", "kind": kind, "of": list(of), **more}
        self.do(do="edit_sketch", step=self._id(sketch), edit=edit)

    def regions(self, sketch: str) -> list[Reference]:
        """Return references to a sketch's regions, the largest first."""
        from wendal.core.route import figures_of
        from wendal.core.sketch import find_regions, region_ref, solve

        step = self._id(sketch)
        drawing = self._drawing(step)
        solved = solve(drawing, figures_of(self._document).values(drawing)).drawing
        found = find_regions(solved).found
        return [region_ref(step, r, f"r{n}").model_dump(mode="json") for n, r in enumerate(found, 1)]

    def _id(self, step: str) -> str:
        for held in self._document.steps:
            if step in (held.id, held.name):
                return held.id
        raise CommandRefused(f"There is no step “{step}” in this part.", step=step)

    def _drawing(self, step: str) -> Any:
        drawing = getattr(self._document.step(step), "drawing", None)
        if drawing is None:
            raise CommandRefused("This step is no sketch.", step=step)
        return drawing

    # — what it comes to —

    def build(self) -> Built:
        """Build it; what was built before is remembered."""
        return Built(self._document, evaluate(self._document, self._memory))

    def save(self, file: str | PathLike[str]) -> None:
        """Write it as Wendal's own JSON, with the files that it was made with."""
        content = exchange.export_bare(self._document, "json")
        assert content is not None  # it needs no geometry
        Path(file).write_bytes(content)

    def __repr__(self) -> str:
        return f"<part {self.name}: {len(self.steps)} steps, {len(self.tags)} dimensions>"

    def _repr_html_(self) -> str:
        """Show it in a notebook: a picture and the dimensions."""
        return self.build()._repr_html_()


def _formula(held: str | float) -> str:
    return held if isinstance(held, str) else repr(held)


class BodyBuilt:
    """A body in figures: mm, mm², mm³."""

    def __init__(self, body: Body) -> None:
        self._body, found = body, kernel.mass_of(body.shape)
        self.id, self.name, self.sheet = body.id, body.name, found.sheet
        self.volume, self.area, self.centre = found.volume, found.area, found.centre
        self.low, self.high, self.faces = found.low, found.high, found.faces

    @property
    def reference(self) -> Reference:
        """What a step's field takes to mean this body."""
        return {"of": "body", "body": self.id}

    def __repr__(self) -> str:
        return f"<body {self.name}: {self.volume:.6g} mm³>"


class Built:
    """What a part came to."""

    def __init__(self, document: Document, evaluation: Evaluation) -> None:
        self._document, self._evaluation = document, evaluation

    @property
    def bodies(self) -> Mapping[str, BodyBuilt]:
        """All bodies by their names."""
        return {b.name: BodyBuilt(b) for b in self._evaluation.site.bodies.values()}

    @property
    def states(self) -> dict[str, str]:
        """How each step stands: "built", "held", "stopped" or "waiting"."""
        return {s.name: r.state for s, r in zip(self._document.steps, self._evaluation.reports, strict=True)}

    @property
    def messages(self) -> dict[str, str]:
        """What is said of steps that do not stand as they should."""
        reports = zip(self._document.steps, self._evaluation.reports, strict=True)
        return {s.name: r.message for s, r in reports if r.state in ("held", "stopped")}

    def ask(self, question: str, **asked: Any) -> Any:
        """Answer a question, such as "mass", "schedule", "wall", "made"; return its answer as a model."""
        return inspect.ask(self._document, self._evaluation, inspect.asked({**asked, "of": question}))

    def measure(self, *things: Reference) -> dict[str, float]:
        """Measure one thing, or from one to another; return figures by their words (mm, rad, mm², mm³)."""
        answer = self.ask("measure", things=list(things))
        return {f.words: f.value for f in (*answer.meanings, *answer.figures)}

    def export(
        self, file: str | PathLike[str], of: Reference | str | None = None, *, as_: str = "", **options: Any
    ) -> None:
        """Write a file in the format of its ending, or `as_` another. of : what of the part, in words such as
        "top of Base" or "section at XY + 5", or as {"of": "sketch", "step": "s1"}."""
        path = Path(file)
        ending = as_ or path.suffix.removeprefix(".")
        if isinstance(of, str):
            of = in_words(self._document, self._evaluation, of)
        path.write_bytes(exchange.export(self._document, self._evaluation, ending, of, options))

    def draw(
        self,
        file: str | PathLike[str],
        size: str = "",
        angle: str = "first",
        version: str = "",
        date: str = "",
    ) -> list[str]:
        """Write the drawing as PDF, or its first page as SVG or DXF; return what is amiss on it, in words.

        size : A4 to A0, for a page that is made by itself; "" takes the part's own pages where it has any.
        angle : "first" or "third", of such a page."""
        document, path = self._document, Path(file)
        if size or not document.pages:
            if size and size not in SIZES:
                raise CommandRefused(
                    f"There is no paper “{size}”; there are {', '.join(SIZES)}.", field="sheet"
                )
            page = proposed_page(document, self._evaluation, size=size or "A3", angle=angle)
            document = document.model_copy(update={"pages": [page]})
        ending = path.suffix.removeprefix(".")
        of = {"of": "drawing"} if ending == "pdf" else {"of": "page", "page": document.pages[0].id}
        options = {n: v for n, v in (("version", version), ("date", date)) if v}
        path.write_bytes(exchange.export(document, self._evaluation, ending, of, options))
        sheets = [drawn_page(document, self._evaluation, p) for p in document.pages]
        full = ["Not all stands inside of the border." for s in sheets if not s.fits]
        return full + [f"{i.id}: {i.trouble}" for s in sheets for i in s.items if i.trouble]

    def report(self) -> dict[str, Any]:
        """Return steps, bodies and ledger in figures."""
        return inspect.report(self._document, self._evaluation)

    def _repr_html_(self) -> str:
        rows = "".join(
            f"<tr><td>{html.escape(r.tag)}</td><td>{html.escape(r.formula)}</td></tr>"
            for r in self._document.rows()
        )
        picture = inspect.picture(self._evaluation)
        return f"<h3>{html.escape(self._document.name)}</h3>{picture}<table>{rows}</table>"


def open_part(file: str | PathLike[str]) -> Part:
    """Open a part's JSON."""
    try:
        return Part(exchange.read(Path(file).read_bytes(), "json"))
    except OSError as error:
        raise CommandRefused(f"{file} is not read: {error.strerror}.", field=str(file)) from error


def new(name: str) -> Part:
    """Begin an empty part."""
    return Part(Document(name=name))
