"""Commands in a few words, for the list of versions: "Change base_depth to 14 mm"."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from typing import Any

from ..sketch import say_edit
from .commands import Command
from .document import Part

__all__ = ["say_command"]

MOST = 3  # names that are told one by one


def _names(names: Iterable[str]) -> str:
    held = list(names)
    more = f" and {len(held) - MOST} more" if len(held) > MOST else ""
    return ", ".join(held[:MOST]) + more


def _steps(part: Part, data: dict[str, Any]) -> str:
    return _names(s.name for s in part.steps if s.id in set(data["steps"]))


def _edit_step(part: Part, data: dict[str, Any]) -> str:
    """Say what is edited: its values by their words, other choices by their fields."""
    step, fields = part.step(data["step"]), data["fields"]
    if len(fields) == 1:
        ((field, value),) = fields.items()
        if field == "visible":
            return f"{'Show' if value else 'Hide'} {step.name}"
        if field == "suppressed":
            return f"{'Suppress' if value else 'Build again'} {step.name}"
        if field == "name":
            return f"Rename {step.name} to {value}"
    held = step.model_dump(mode="json")
    changed = [f for f, v in fields.items() if held.get(f) != v]
    told = [
        f"{f.replace('_', ' ')} {v['formula']}"
        if isinstance(v := fields[f], dict) and "formula" in v
        else f.replace("_", " ")
        for f in changed
    ]
    return f"Edit {step.name}{f': {_names(told)}' if told else ''}"


def _page(part: Part, data: dict[str, Any]) -> str:
    return next((p.name for p in part.pages if p.id == data["page"]), "a page")


def _counted(data: dict[str, Any]) -> str:
    found = [(len(data[n]), n) for n in ("views", "dimensions", "marks")]
    return _names(f"{n} {w if n > 1 else w.removesuffix('s')}" for n, w in found if n)


_SAID: dict[str, Callable[[Part, dict[str, Any]], str]] = {
    "add_step": lambda part, d: f"Add {d['step'].get('name') or d['step'].get('kind', 'a step')}",
    "edit_step": _edit_step,
    "remove_step": lambda part, d: f"Delete {part.step(d['step']).name}",
    "move_steps": lambda part, d: f"Move {_steps(part, d)}",
    "remove_steps": lambda part, d: f"Delete {_steps(part, d)}",
    "set_suppressed": lambda part, d: f"{'Suppress' if d['suppressed'] else 'Build again'} {_steps(part, d)}",
    "number_steps": lambda part, d: "Number the steps anew",
    "group_steps": lambda part, d: f"Put {_steps(part, d)} under {d['name']}",
    "paste_steps": lambda part, d: f"Paste {_names(str(s.get('name')) for s in d['steps'])}",
    "edit_group": lambda part, d: (
        f"Take the heading {d['name']} away" if d["gone"] else f"Heading {d['to'] or d['name']}"
    ),
    "set_about": lambda part, d: "Say what the part is",
    "set_note": lambda part, d: f"Note on {part.step(d['step']).name}",
    "keep_measure": lambda part, d: f"Keep the measure {d['measure']['tag']}",
    "keep_view": lambda part, d: f"Keep the view {d['view']['name']}",
    "keep_section": lambda part, d: f"Keep the section {d['section']['name']}",
    "set_face_look": lambda part, d: f"A face: {d['name'] or d['colour'] or 'as its body'}",
    "set_unseen": lambda part, d: f"Leave out of the view: {', '.join(d['kinds']) or 'nothing'}",
    "forget_sight": lambda part, d: f"Forget the {d['kind']} {d['name']}",
    "add_page": lambda part, d: f"Add the page {d['page']['name']}",
    "edit_page": lambda part, d: f"Change the page {_page(part, d)}: {_names(d['fields'])}",
    "remove_page": lambda part, d: f"Delete the page {_page(part, d)}",
    "put_on_page": lambda part, d: f"Put {_counted(d)} on {_page(part, d)}",
    "edit_on_page": lambda part, d: f"Change {_names(d['fields'])} on {_page(part, d)}",
    "take_off_page": lambda part, d: f"Take {len(d['things'])} off {_page(part, d)}",
    "issue_page": lambda part, d: f"Issue {_page(part, d)} as {d['issue']['name']}",
    "edit_kept": lambda part, d: f"Measure {d['tag']} anew",
    "set_formulas": lambda part, d: (
        d["why"] or f"Change {_names(f'{t} to {f}' for t, f in d['values'].items())}"
    ),
    "stand_on_plane": lambda part, d: f"Put {part.step(d['step']).name} on a plane of its own",
    "add_family_row": lambda part, d: f"Add {d['name'] or 'a member'} to the family",
    "edit_family_row": lambda part, d: f"Change {d['name'] or d['row']} of the family",
    "move_family_row": lambda part, d: f"Move {d['row']} in the family",
    "remove_family_row": lambda part, d: f"Take {d['row']} out of the family",
    "add_family_tag": lambda part, d: f"Have the family say {d['tag']}",
    "remove_family_tag": lambda part, d: f"Have the family say {d['tag']} no more",
    "read_family": lambda part, d: "Read the family from a table",
    "set_formula": lambda part, d: f"Change {d['tag']} to {d['formula']}",
}


def say_command(part: Part, command: Command) -> str:
    """Say a command in a few words. part : as it was before it."""
    data = command.model_dump(mode="json")
    if data["do"] == "edit_sketch":
        return f"{say_edit(command.edit)} in {part.step(data['step']).name}"  # type: ignore[union-attr]
    said = _SAID.get(data["do"])
    if said:
        return said(part, data)
    step = next((s.name for s in part.steps if s.id == data.get("step")), "")
    detail = step or str(data.get("tag") or data.get("name") or "")
    return f"{data['do'].replace('_', ' ').capitalize()} {detail}".strip()
