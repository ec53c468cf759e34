"""Commands on the pages of a drawing. They change nothing that is built."""

from __future__ import annotations

import math
from itertools import pairwise
from typing import Any, Literal

from pydantic import Field, ValidationError

from ..errors import CommandRefused, StepError
from ..standards import limits_of
from ..stored import Figure, Stored
from .document import Part
from .pages import FIT, GENERAL, Dimension, Issue, Mark, Page, View

__all__ = [
    "PAGES",
    "AddPage",
    "EditOnPage",
    "EditPage",
    "IssuePage",
    "PutOnPage",
    "RemovePage",
    "TakeOffPage",
]

MOST = 60  # pages of a part

NARROW = math.radians(20)  # between the legs of an aligned section


class AddPage(Stored):
    """Add a page; its id is given here."""

    do: Literal["add_page"] = "add_page"
    page: Page


class EditPage(Stored):
    """Change what a page is: its name, paper, scale, angle, tolerance."""

    do: Literal["edit_page"] = "edit_page"
    page: str
    fields: dict[str, Any]


class RemovePage(Stored):
    """Delete a page."""

    do: Literal["remove_page"] = "remove_page"
    page: str


class PutOnPage(Stored):
    """Put views, dimensions and marks on a page; their ids are given here."""

    do: Literal["put_on_page"] = "put_on_page"
    page: str
    views: list[View] = Field([], max_length=20)
    dimensions: list[Dimension] = Field([], max_length=400)
    marks: list[Mark] = Field([], max_length=50)


class EditOnPage(Stored):
    """Replace some fields of one thing on a page. pinned : views that stay where they stand, by their ids."""

    do: Literal["edit_on_page"] = "edit_on_page"
    page: str
    thing: str
    fields: dict[str, Any]
    pinned: dict[str, tuple[Figure, Figure]] = Field({}, max_length=60)


class TakeOffPage(Stored):
    """Take things off a page; with a view goes what stands on it."""

    do: Literal["take_off_page"] = "take_off_page"
    page: str
    things: list[str] = Field(min_length=1, max_length=400)


class IssuePage(Stored):
    """Give a page out: its figures now are kept under a name."""

    do: Literal["issue_page"] = "issue_page"
    page: str
    issue: Issue


def _page(part: Part, page: str) -> Page:
    found = next((p for p in part.pages if p.id == page), None)
    if found is None:
        raise CommandRefused("This page is not in the drawing any more.", field="page")
    return found


def _with(part: Part, page: Page) -> Part:
    return part.model_copy(update={"pages": [page if p.id == page.id else p for p in part.pages]})


def _changed(held: Any, fields: dict[str, Any], fixed: tuple[str, ...]) -> Any:
    """Return a stored thing with some fields replaced; raises CommandRefused that names the field."""
    for name in fields:
        if name in fixed or name not in type(held).model_fields:
            raise CommandRefused(f"“{name}” is not changed in this way.", field=name)
    try:
        return type(held).model_validate({**held.model_dump(), **fields})
    except ValidationError as error:
        first = error.errors()[0]
        where = ".".join(map(str, first["loc"]))
        raise CommandRefused(f"{where}: {first['msg']}.", field=where) from error


def _named(part: Part, name: str, but: str = "") -> str:
    name = name.strip()
    if not name:
        raise CommandRefused("A page has a name. Write one.", field="name")
    if any(p.name == name and p.id != but for p in part.pages):
        raise CommandRefused(f"There is a page named “{name}” already.", field="name")
    return name


def _add_page(part: Part, command: AddPage) -> Part:
    if len(part.pages) >= MOST:
        raise CommandRefused(f"A drawing has at most {MOST} pages.", field="page")
    number = max((int(p.id[1:]) for p in part.pages), default=0) + 1
    name = _named(part, command.page.name)
    page = command.page.model_copy(update={"id": f"p{number}", "name": name})
    if "tolerance" not in command.page.model_fields_set:
        page = page.model_copy(update={"tolerance": f"{GENERAL}{part.about.general}"})
    _check(page)
    return part.model_copy(update={"pages": [*part.pages, page]})


def _edit_page(part: Part, command: EditPage) -> Part:
    held = _page(part, command.page)
    fields = dict(command.fields)
    if isinstance(fields.get("name"), str):
        fields["name"] = _named(part, fields["name"], held.id)
    return _with(part, _changed(held, fields, ("id", "views", "dimensions", "marks", "issues", "last")))


def _remove_page(part: Part, command: RemovePage) -> Part:
    _page(part, command.page)
    return part.model_copy(update={"pages": [p for p in part.pages if p.id != command.page]})


def _put(part: Part, command: PutOnPage) -> Part:
    page = _page(part, command.page)
    last = page.last
    added: dict[str, list[Any]] = {"views": [], "dimensions": [], "marks": []}
    for kind, letter in (("views", "v"), ("dimensions", "d"), ("marks", "m")):
        for thing in getattr(command, kind):
            last += 1
            added[kind].append(thing.model_copy(update={"id": f"{letter}{last}"}))
    made = page.model_copy(
        update={"last": last, **{kind: [*getattr(page, kind), *new] for kind, new in added.items()}}
    )
    _check(made)
    return _with(part, made)


def _edit_on(part: Part, command: EditOnPage) -> Part:
    page = _page(part, command.page)
    still = [
        v.model_copy(update={"at": command.pinned[v.id]}) if v.at is None and v.id in command.pinned else v
        for v in page.views
    ]
    page = page.model_copy(update={"views": still})
    for kind in ("views", "dimensions", "marks"):
        held = getattr(page, kind)
        for i, thing in enumerate(held):
            if thing.id == command.thing:
                new = [*held]
                new[i] = _changed(thing, command.fields, ("id",))
                made = page.model_copy(update={kind: new})
                _check(made)
                return _with(part, made)
    raise CommandRefused("This is not on the page any more.", field="thing")


def _take_off(part: Part, command: TakeOffPage) -> Part:
    page, gone = _page(part, command.page), set(command.things)
    there = {t.id for kind in (page.views, page.dimensions, page.marks) for t in kind}
    if gone - there:
        raise CommandRefused("This is not on the page any more.", field="things")
    grown = True
    while grown:  # a section goes with the view that it is taken from
        more = {v.id for v in page.views if v.parent in gone and v.way in ("section", "detail")} - gone
        gone |= more
        grown = bool(more)
    left = {
        "views": [
            v.model_copy(update={"parent": ""}) if v.parent in gone else v
            for v in page.views
            if v.id not in gone
        ],
        "dimensions": [d for d in page.dimensions if d.id not in gone and d.view not in gone],
        "marks": [m for m in page.marks if m.id not in gone and m.view not in gone],
    }
    return _with(part, page.model_copy(update=left))


def _issue(part: Part, command: IssuePage) -> Part:
    page, name = _page(part, command.page), command.issue.name.strip()
    if not name:
        raise CommandRefused("An issue has a name, such as A or 1. Write one.", field="name")
    if any(i.name == name for i in page.issues):
        raise CommandRefused(
            f"This page was given out as “{name}” already. Take the next name.", field="name"
        )
    issue = command.issue.model_copy(update={"name": name})
    return _with(part, page.model_copy(update={"issues": [*page.issues, issue]}))


def _check(page: Page) -> None:
    """Raise CommandRefused where something on a page hangs on a view that is not there."""
    views = {v.id: v for v in page.views}
    ids = [t.id for kind in (page.views, page.dimensions, page.marks) for t in kind]
    if len(ids) != len(set(ids)) or any(int(i[1:]) > page.last for i in ids):
        raise CommandRefused("On a page, each thing has a number of its own.", field="id")
    for on in (*(d.view for d in page.dimensions), *(m.view for m in page.marks if m.view)):
        if on not in views:
            raise CommandRefused("The view that this stands on is not on the page.", field="view")
    for dimension in page.dimensions:
        if not FIT.fullmatch(dimension.tolerance.strip()):
            try:
                limits_of(dimension.tolerance, None)
            except StepError as error:
                raise CommandRefused(error.message, field="tolerance") from error
    for view in page.views:
        _check_view(view, views)


def _check_view(view: View, views: dict[str, View]) -> None:
    """Raise CommandRefused, with the field, where a view can not be what it says."""
    trouble = ""
    field = {"section": "line", "detail": "around", "turned": "turn"}.get(view.way, "")
    if view.parent and (view.parent not in views or view.parent == view.id):
        trouble, field = "The view that this one is taken from is not on the page.", "parent"
    elif view.way == "section" and (not view.parent or len(view.line) < 2):
        trouble = "A section is cut at a line of a view. Draw the line."
    elif view.way == "section" and any(math.dist(a, b) < 1e-6 for a, b in pairwise(view.line)):
        trouble = "Each piece of a section's line has two different ends."
    elif view.way == "section" and not _square(view) and not _two_legs(view):
        trouble = (
            "A section's line bends at right angles, or once at a slant: then its second leg is turned into "
            "the first. Draw two sections for more directions."
        )
    elif view.way == "detail" and (not view.parent or view.around <= 0):
        trouble = "A detail is a round piece of a view. Draw the circle."
    elif view.way == "turned" and view.turn is None:
        trouble = "This view needs to know whence it is seen."
    if trouble:
        raise CommandRefused(trouble, field=field)
    above, at = set[str](), view
    while at.parent:
        if at.id in above:
            raise CommandRefused("These views are taken from each other in a circle.", field="parent")
        above.add(at.id)
        at = views[at.parent]


def _square(view: View) -> bool:
    """Tell whether a section's line bends at right angles alone."""
    (x0, y0), (x1, y1) = view.line[:2]
    length = math.hypot(x1 - x0, y1 - y0)
    if length < 1e-9:
        return True  # told as such
    u, v = (x1 - x0) / length, (y1 - y0) / length
    for a, b in pairwise(view.line):
        along, across = (b[0] - a[0]) * u + (b[1] - a[1]) * v, (b[1] - a[1]) * u - (b[0] - a[0]) * v
        if min(abs(along), abs(across)) > 1e-6 * max(abs(along), abs(across)):
            return False
    return True


def _two_legs(view: View) -> bool:
    """Tell whether a section's line bends once, and does not run back beside itself."""
    if len(view.line) != 3:
        return False
    a, b, c = view.line
    one, two = (math.atan2(p[1] - b[1], p[0] - b[0]) for p in (a, c))
    return abs(math.remainder(one - two, math.tau)) > NARROW


PAGES: dict[type, Any] = {
    AddPage: _add_page,
    EditPage: _edit_page,
    RemovePage: _remove_page,
    PutOnPage: _put,
    EditOnPage: _edit_on,
    TakeOffPage: _take_off,
    IssuePage: _issue,
}
