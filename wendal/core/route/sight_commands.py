"""Commands on how a part is looked at: views and sections that are kept under a name. They change nothing
that is built."""

from __future__ import annotations

from typing import Any, Literal

from pydantic import Field

from ..errors import CommandRefused
from ..reference import FaceRef
from ..stored import Stored
from .document import Colour, FaceLook, KeptSection, KeptView, Part

__all__ = ["SIGHTS", "ForgetSight", "KeepSection", "KeepView", "SetFaceLook", "SetUnseen"]


class KeepView(Stored):
    """Keep a view under a name; one of that name is replaced."""

    do: Literal["keep_view"] = "keep_view"
    view: KeptView


class KeepSection(Stored):
    """Keep a section under a name; one of that name is replaced."""

    do: Literal["keep_section"] = "keep_section"
    section: KeptSection


class ForgetSight(Stored):
    """Keep a view or section no longer."""

    do: Literal["forget_sight"] = "forget_sight"
    kind: Literal["view", "section"]
    name: str = Field(max_length=80)


class SetFaceLook(Stored):
    """Give a face a name and a colour of its own; "" for both takes them away."""

    do: Literal["set_face_look"] = "set_face_look"
    face: FaceRef
    name: str = Field("", max_length=80)
    colour: Colour = ""


class SetUnseen(Stored):
    """Leave kinds of things out of the view: datums, sketches, base planes and axes."""

    do: Literal["set_unseen"] = "set_unseen"
    kinds: list[Literal["base", "plane", "axis", "point", "system", "sketch"]]


def _named(name: str) -> str:
    if not name.strip():
        raise CommandRefused("It is kept under a name. Write one.", field="name")
    return name.strip()


def _set_face_look(part: Part, command: SetFaceLook) -> Part:
    name = command.name.strip()
    fresh = FaceLook(face=command.face, name=name, colour=command.colour)
    others = [f for f in part.faces if f.key != fresh.key]
    if name and any(f.name == name for f in others):
        raise CommandRefused(f"There is a face named “{name}” already.", field="name")
    if name or command.colour:
        others.append(fresh)
    return part.model_copy(update={"faces": others})


def _keep_view(part: Part, command: KeepView) -> Part:
    view = command.view.model_copy(update={"name": _named(command.view.name)})
    return part.model_copy(update={"views": [*(v for v in part.views if v.name != view.name), view]})


def _keep_section(part: Part, command: KeepSection) -> Part:
    section = command.section.model_copy(update={"name": _named(command.section.name)})
    others = [s for s in part.sections if s.name != section.name]
    return part.model_copy(update={"sections": [*others, section]})


def _forget_sight(part: Part, command: ForgetSight) -> Part:
    field = "views" if command.kind == "view" else "sections"
    held = getattr(part, field)
    left = [x for x in held if x.name != command.name]
    if len(left) == len(held):
        raise CommandRefused(f"There is no {command.kind} named “{command.name}”.", field="name")
    return part.model_copy(update={field: left})


def _set_unseen(part: Part, command: SetUnseen) -> Part:
    return part.model_copy(update={"unseen": sorted(set(command.kinds))})


SIGHTS: dict[type, Any] = {
    KeepView: _keep_view,
    KeepSection: _keep_section,
    ForgetSight: _forget_sight,
    SetFaceLook: _set_face_look,
    SetUnseen: _set_unseen,
}
