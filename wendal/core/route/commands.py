"""Commands: each turns one part document into the next, or is refused and changes nothing."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import Field

from ..blanks import Number
from ..errors import CommandRefused, WendalError
from ..quantity import usable_tag
from ..reference import FaceRef, begun_by
from ..sketch import SketchEdit, apply_edit
from ..standards import materials
from ..steps import Step
from ..steps.datum import System
from ..steps.received import FromFile
from ..steps.sketch import Sketch
from ..stored import Stored, Value
from .advice_commands import ADVICE, StandOnPlane
from .checks import check_complete, figures_of, free_tag, no_longer_than_kept, no_new_trouble
from .document import MOST_FACES, BodyLook, FaceLook, Paint, Part, UnitChoice, read_step
from .family_commands import (
    FAMILY,
    AddFamilyRow,
    AddFamilyTag,
    EditFamilyRow,
    MoveFamilyRow,
    ReadFamily,
    RemoveFamilyRow,
    RemoveFamilyTag,
)
from .kept_commands import KEPT, EditKept, KeepMeasure
from .ledger_commands import LEDGER, AddTag, MoveTag, ReadLedger, RemoveTag, RenameTag, SetFormula, SetRemark
from .measures import no_other_meaning, renamed_measures
from .numbering import numbered
from .page_commands import (
    PAGES,
    AddPage,
    EditOnPage,
    EditPage,
    IssuePage,
    PutOnPage,
    RemovePage,
    TakeOffPage,
)
from .route_commands import (
    ROUTE,
    EditGroup,
    GroupSteps,
    MoveSteps,
    NumberSteps,
    PasteSteps,
    RemoveSteps,
    SetAbout,
    SetNote,
    SetSuppressed,
    regrouped,
    without,
)
from .setting import SETTING, SetFormulas
from .sight_commands import SIGHTS, ForgetSight, KeepSection, KeepView, SetFaceLook, SetUnseen

__all__ = ["Command", "apply"]


class PaintedFace(Stored):
    """A face as it came in a file: in which of its bodies, its number there, its colour."""

    body: int = Field(ge=0, lt=1000)
    face: int = Field(ge=1)
    colour: Paint


class AddStep(Stored):
    """Add a step; its id is given here. after : the step to stand behind, "" for the stop line or the end.

    looks : of the bodies that the step begins, in their order, where others have given them. painted : faces
    that came with a file, in another colour than their body.
    """

    do: Literal["add_step"] = "add_step"
    step: dict[str, Any]
    after: str = ""
    looks: list[BodyLook] = Field([], max_length=1000)
    painted: list[PaintedFace] = Field([], max_length=MOST_FACES)


class EditStep(Stored):
    """Replace some of a step's fields."""

    do: Literal["edit_step"] = "edit_step"
    step: str
    fields: dict[str, Any]


class RemoveStep(Stored):
    """Delete a step. Steps that stood on it stop and say so."""

    do: Literal["remove_step"] = "remove_step"
    step: str


class MoveStep(Stored):
    """Move a step to behind another ("" for the beginning)."""

    do: Literal["move_step"] = "move_step"
    step: str
    after: str = ""


class SetStopLine(Stored):
    """Build only up to a step; "" builds all."""

    do: Literal["set_stop_line"] = "set_stop_line"
    after: str = ""


class EditSketch(Stored):
    """Edit a sketch's drawing."""

    do: Literal["edit_sketch"] = "edit_sketch"
    step: str
    edit: SketchEdit


class RenamePart(Stored):
    """Rename the part."""

    do: Literal["rename_part"] = "rename_part"
    name: str = Field(min_length=1, max_length=120)


class SetBodyLook(Stored):
    """Name a body, show or hide it, colour it, say what it is made of."""

    do: Literal["set_body_look"] = "set_body_look"
    body: str = Field(min_length=1, max_length=40)
    look: BodyLook


class SetActiveSystem(Stored):
    """Work in a coordinate system; "" for the part's own."""

    do: Literal["set_active_system"] = "set_active_system"
    step: str = ""


class SetUnits(Stored):
    """Choose the part's units; formulas stay as they are written."""

    do: Literal["set_units"] = "set_units"
    units: UnitChoice


Command = Annotated[
    AddStep
    | EditStep
    | RemoveStep
    | MoveStep
    | SetStopLine
    | EditSketch
    | SetFormula
    | AddTag
    | RemoveTag
    | RenameTag
    | MoveTag
    | SetRemark
    | ReadLedger
    | RenamePart
    | SetActiveSystem
    | SetUnits
    | SetBodyLook
    | KeepMeasure
    | EditKept
    | KeepView
    | KeepSection
    | ForgetSight
    | SetFaceLook
    | SetUnseen
    | MoveSteps
    | RemoveSteps
    | SetSuppressed
    | PasteSteps
    | SetAbout
    | SetNote
    | GroupSteps
    | NumberSteps
    | EditGroup
    | AddPage
    | EditPage
    | RemovePage
    | PutOnPage
    | EditOnPage
    | TakeOffPage
    | IssuePage
    | SetFormulas
    | StandOnPlane
    | AddFamilyRow
    | EditFamilyRow
    | MoveFamilyRow
    | RemoveFamilyRow
    | AddFamilyTag
    | RemoveFamilyTag
    | ReadFamily,
    Field(discriminator="do"),
]


def apply(part: Part, command: Command) -> Part:
    """Return the part after a command; raises WendalError in words, and then nothing has changed."""
    changed: Part = _APPLY[type(command)](part, command)
    no_longer_than_kept(changed)
    no_other_meaning(part, changed)
    no_new_trouble(part, changed)
    moved: list[str] = []
    if isinstance(command, MoveStep):
        moved = [command.step]
    elif isinstance(command, MoveSteps):
        moved = command.steps
    return numbered(part, changed, moved)


def _add_step(part: Part, command: AddStep) -> Part:
    last = part.last + 1
    after = command.after or part.stop_after
    index = part.index(after) + 1 if after else len(part.steps)
    fields = {**command.step, "id": f"s{last}"}
    fields["name"] = str(fields.get("name") or "").strip() or _new_name(part, str(fields.get("kind", "step")))
    step = _tagged(part, read_step(_keyed(fields)).begun({s.id: s for s in part.steps[:index]}))
    check_complete(step, part)
    stop = step.id if part.stop_after and after == part.stop_after else part.stop_after
    steps = [*part.steps[:index], step, *part.steps[index:]]
    made = part.model_copy(update={"steps": steps, "last": last, "stop_after": stop})
    made = _dressed(made, step, command.looks) if command.looks else made
    return regrouped(_painted(made, step, command.painted) if command.painted else made)


def _painted(part: Part, step: Step, painted: list[PaintedFace]) -> Part:
    """Give faces that came with a file their colours."""
    if not isinstance(step, FromFile):
        raise CommandRefused("Only faces that came with a file are painted with it.", field="painted")
    if len(part.faces) + len(painted) > MOST_FACES:
        raise CommandRefused(f"At most {MOST_FACES} faces have colours of their own.", field="painted")
    fresh = [
        FaceLook(
            face=FaceRef(body=begun_by(step.id, p.body), names=[step.face(p.face)], whole=True),
            colour=p.colour,
        )
        for p in painted
    ]
    return part.model_copy(update={"faces": [*part.faces, *fresh]})


def _dressed(part: Part, step: Step, looks: list[BodyLook]) -> Part:
    """Give the bodies that a step begins their looks; a name that is taken gets a number."""
    held = dict(part.looks)
    taken = {k.name for k in held.values()} | {s.name for s in part.steps if s.id != step.id}
    for n, look in enumerate(looks):
        name = base = look.name.strip()[:70]
        more = 2
        while name and name in taken:
            name, more = f"{base} {more}", more + 1
        taken.add(name)
        own = look.model_copy(update={"name": "" if name == step.name else name})
        if own != BodyLook():
            held[begun_by(step.id, n)] = own
    return part.model_copy(update={"looks": held})


def _edit_step(part: Part, command: EditStep) -> Part:
    old = part.step(command.step)
    if {"id", "kind"} & command.fields.keys():
        raise CommandRefused("A step keeps its id and its kind.", step=command.step)
    step = _tagged(part, read_step(_keyed(old.put(command.fields))))
    check_complete(step, part)
    if any(s.name == step.name and s.id != step.id for s in part.steps):
        raise CommandRefused(
            f"There is a step named “{step.name}” already; choose another name.", field="name", step=step.id
        )
    return renamed_measures(part.with_step(step), old, step)


def _keyed(fields: dict[str, Any]) -> dict[str, Any]:
    """Give every profile in a step's data that has no key yet one of its own; what is there keeps its own for
    ever."""

    def keyed(items: list[Any]) -> list[Any]:
        used = {item.get("key") for item in items if isinstance(item, dict)}
        free = (f"r{n}" for n in range(1, len(items) + len(used) + 2))
        return [
            {**item, "key": next(k for k in free if k not in used)}
            if isinstance(item, dict) and item.get("key") == ""
            else item
            for item in items
        ]

    fields = (
        {**fields, "lines": [{"key": "", **line} for line in fields["lines"]]}
        if isinstance(fields.get("lines"), list)
        else fields
    )
    return {
        name: keyed([_named(x) for x in held])
        if name in ("profile", "lines") and isinstance(held, list)
        else held
        for name, held in fields.items()
    }


def _named(item: Any) -> Any:
    """Say how the regions of a whole sketch that is picked now are called; what is there keeps its way."""
    new = isinstance(item, dict) and item.get("of") == "sketch" and "named" not in item
    return {**item, "named": "first"} if new else item


def _tagged(part: Part, step: Step) -> Step:
    """Give every number of a step that has none a tag made from the step's name and what it measures."""
    taken = part.tags() - {v.tag for s in part.steps if s.id == step.id for _, v, _ in s.values()}
    used = {place for place, _, _ in step.values()}
    idle = {
        n: v.model_copy(update={"tag": ""})
        for n in type(step).model_fields
        if n not in used and isinstance(v := getattr(step, n), Value) and v.tag
    }
    step = step.model_copy(update=idle)
    for place, value, _ in list(step.values()):
        blank = step.blanks().get(place)
        if value.tag:
            usable_tag(value.tag, taken)
        elif not (isinstance(blank, Number) and blank.quiet and value.formula.strip() == blank.start):
            tag = free_tag(f"{step.name} {place}", taken)
            step = step.with_value(place, value.model_copy(update={"tag": tag}))
            taken = taken | {tag}
    return step


def _new_name(part: Part, kind: str) -> str:
    names = {s.name for s in part.steps}
    number = 1
    noun = kind.replace("_", " ").capitalize()
    while f"{noun} {number}" in names:
        number += 1
    return f"{noun} {number}"


def _remove_step(part: Part, command: RemoveStep) -> Part:
    return without(part, command.step)


def _move_step(part: Part, command: MoveStep) -> Part:
    if command.after == command.step:
        return part
    return ROUTE[MoveSteps](part, MoveSteps(steps=[command.step], after=command.after))


def _set_stop_line(part: Part, command: SetStopLine) -> Part:
    if command.after:
        part.index(command.after)
    return part.model_copy(update={"stop_after": command.after})


def _edit_sketch(part: Part, command: EditSketch) -> Part:
    step = part.step(command.step)
    if not isinstance(step, Sketch):
        raise CommandRefused(f"“{step.name}” is not a sketch.", step=step.id)
    try:
        drawing = apply_edit(step.drawing, command.edit, figures_of(part, step.name))
    except WendalError as error:
        raise error.located(step=step.id) from error
    return part.with_step(step.model_copy(update={"drawing": drawing}))


def _rename_part(part: Part, command: RenamePart) -> Part:
    if not command.name.strip():
        raise CommandRefused("A part needs a name.", field="name")
    return part.model_copy(update={"name": command.name.strip()})


def _set_active_system(part: Part, command: SetActiveSystem) -> Part:
    if command.step and not isinstance(part.step(command.step), System):
        raise CommandRefused(
            f"“{part.step(command.step).name}” is not a coordinate system.", step=command.step
        )
    return part.model_copy(update={"active_system": command.step})


def _set_body_look(part: Part, command: SetBodyLook) -> Part:
    look = command.look.model_copy(update={"name": command.look.name.strip()})
    if look.name and any(b != command.body and k.name == look.name for b, k in part.looks.items()):
        raise CommandRefused(
            f"There is a body named “{look.name}” already; choose another name.", field="name"
        )
    if look.material and look.material not in materials():
        raise CommandRefused(
            f"There is no material “{look.material}” in the table; there are {', '.join(materials())}.",
            field="material",
        )
    looks = {b: k for b, k in part.looks.items() if b != command.body}
    return part.model_copy(update={"looks": looks if look == BodyLook() else {**looks, command.body: look}})


def _set_units(part: Part, command: SetUnits) -> Part:
    return part.model_copy(update={"units": command.units})


_APPLY: dict[type, Any] = {
    AddStep: _add_step,
    EditStep: _edit_step,
    RemoveStep: _remove_step,
    MoveStep: _move_step,
    SetStopLine: _set_stop_line,
    EditSketch: _edit_sketch,
    **LEDGER,
    **KEPT,
    **SIGHTS,
    **ROUTE,
    **PAGES,
    **SETTING,
    **ADVICE,
    **FAMILY,
    RenamePart: _rename_part,
    SetActiveSystem: _set_active_system,
    SetUnits: _set_units,
    SetBodyLook: _set_body_look,
}
