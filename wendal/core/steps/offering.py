"""Everything that can be done with a selection, in one list, likeliest first: steps, datums, views, and in a
sketch constraints and tools."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field
from typing import Literal

from ..blanks import Blank, Pick
from ..datum import offers
from ..sketch import constraints_for, tools_for
from .base import Step, kinds, name_of

__all__ = ["Way", "ways_for", "ways_in_sketch"]

AT_ONCE = 5  # datums that go before the steps
NOUNS = {"plane": "Plane", "axis": "Axis", "point": "Point", "system": "System"}
HERE = (("axis", "Axis square to the face, here"), ("point", "Point on the face, here"))


@dataclass(frozen=True, slots=True)
class Way:
    """One thing to do.

    what : a step of a kind that takes the picks; a datum made by a construction (how; fills : blank by pick;
    needs : what is still wanted, in words); one told by its place on the picked face ("here"); a view
    ("square", "hide", "work in"); in a sketch a constraint of a kind or a tool. title : of datums, else "".
    """

    what: Literal["step", "datum", "here", "view", "constraint", "tool"]
    kind: str
    how: str = ""
    title: str = ""
    fills: dict[str, int] = field(default_factory=dict)
    needs: list[str] = field(default_factory=list)


def ways_for(picks: Sequence[set[str]], things: Sequence[str]) -> list[Way]:
    """Return what can be done with things of the part.

    picks : the facets of each; things : what kind each is ("flat", "edge", "region" …).
    """
    if not picks:
        return []
    steps = [k for k in kinds().values() if _takes(k, picks)]
    drawn = things[0] in ("region", "sketch")  # what is drawn is there to be built from
    first = [k for k in steps if drawn or k.group != "build"]
    later = [k for k in steps if not drawn and k.group == "build"]
    datums = [
        Way("datum", o.kind, o.how, f"{NOUNS[o.kind]} {o.title[0].lower()}{o.title[1:]}", o.fills, o.needs)
        for o in offers(picks)
    ]
    whole, open_ = [d for d in datums if not d.needs], [d for d in datums if d.needs]
    here = [Way("here", kind, "spot", title) for kind, title in HERE] if list(things) == ["flat"] else []
    return [
        *_ways(first),
        *whole[:AT_ONCE],
        *here,
        *_views(picks, things),
        *_ways(k for k in later if not k.rare),
        *open_,
        *_ways(k for k in later if k.rare),
        *whole[AT_ONCE:],
    ]


def ways_in_sketch(things: Sequence[str], from_model: int = 0) -> list[Way]:
    """Return what can be done with things of a sketch.

    things : the kind of each ("line", "point" …); from_model : how many of them are the model's.
    """
    constraints = [Way("constraint", kind) for kind in constraints_for(things)]
    tools = (["project"] if from_model == len(things) else []) if from_model else tools_for(things)
    return [*constraints, *(Way("tool", tool) for tool in tools)]


def _ways(found: Iterable[type[Step]]) -> list[Way]:
    return [Way("step", name_of(kind)) for kind in found]


def _takes(kind: type[Step], picks: Sequence[set[str]]) -> bool:
    """Tell whether every pick finds a blank of its own, or one that takes many, and one of them a blank that
    must be filled.

    A face stands for its body and its step, too, but it is not what one has in mind.
    """
    variant = kind.variants().get("")
    if variant is None:
        return False
    asked = {n: b for n, b in variant.blanks.items() if isinstance(b, Pick) and _asked_first(kind, b)}
    leading = [b for n, b in asked.items() if not b.optional or n in kind.leads]
    if not any(facets & set(b.accepts) for b in leading for facets in picks):
        return False
    open_ = list(asked.values())
    for facets in picks:
        blank = next((b for b in open_ if facets & set(b.accepts)), None)
        if blank is None:
            return False
        if not blank.many:
            open_.remove(blank)
    return True


def _asked_first(kind: type[Step], blank: Blank) -> bool:
    """Tell whether a blank is there with the choices that a new step of a kind begins with."""
    fields = kind.model_fields
    return all(
        str(fields[other].get_default(call_default_factory=True)) in wanted
        for other, wanted in blank.when.items()
    )


def _views(picks: Sequence[set[str]], things: Sequence[str]) -> list[Way]:
    found = []
    if len(picks) == 1 and (
        things[0] in ("flat", "region") or (things[0] in ("base", "datum") and "plane" in picks[0])
    ):
        found.append(Way("view", "square"))
    if things[0] in ("base", "datum", "region", "curve", "dot", "sketch"):
        found.append(Way("view", "hide"))
    if len(picks) == 1 and "system" in picks[0]:
        found.append(Way("view", "work in"))
    return found
