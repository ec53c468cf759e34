"""The pages of a part's drawing, as they are stored: views, dimensions, marks. Places on a page are mm from
its lower left corner; a scale is written as on drawings, `1:2`."""

from __future__ import annotations

import re
from typing import Annotated, Literal

from pydantic import Field

from ..reference import ThingRef
from ..stored import Figure, Stored

__all__ = [
    "FIT",
    "SCALES",
    "SIZES",
    "Dimension",
    "Issue",
    "Mark",
    "Page",
    "View",
    "Way",
    "ratio",
]

SIZES = {
    "A4": (210.0, 297.0),
    "A3": (420.0, 297.0),
    "A2": (594.0, 420.0),
    "A1": (841.0, 594.0),
    "A0": (1189.0, 841.0),
}
# ISO 5455: recommended scales.
SCALES = (
    "50:1", "20:1", "10:1", "5:1", "2:1", "1:1", "1:2", "1:5", "1:10", "1:20", "1:50", "1:100",
    "1:200", "1:500",
)  # fmt: skip
Scale = Literal[
    "50:1", "20:1", "10:1", "5:1", "2:1", "1:1", "1:2", "1:5", "1:10", "1:20", "1:50", "1:100",
    "1:200", "1:500",
]  # fmt: skip
Way = Literal["front", "back", "left", "right", "top", "bottom", "corner", "turned", "section", "detail"]
Spot = tuple[Figure, Figure]
Id = Annotated[str, Field(pattern=r"^[a-z][0-9]{1,6}$")]
MOST = 400
GENERAL = "ISO 2768-"  # and the class of the general tolerances
FIT = re.compile(r"[A-Z]{1,2}[0-9]{1,2}/[a-z]{1,2}[0-9]{1,2}")  # of a hole and a shaft, by ISO 286


class View(Stored):
    """A view of the part. at : where the middle of its box lies on the page, None to be placed by itself.

    way : whence the part is seen; "turned" as `turn` (a quaternion) says. parent : the view that a section or
    detail is taken from, or beside which it keeps. line : of a section, the line at which the part is cut, in
    mm of the parent's view from the middle of the part's box; one that bends steps. flipped : seen from the
    other side. middle, around : of a detail, its middle there, and its radius. letter : of a section or
    detail. whole : bodies that are not cut, by their ids."""

    id: Id
    way: Way = "front"
    turn: tuple[Figure, Figure, Figure, Figure] | None = None
    at: Spot | None = None
    scale: Scale | Literal[""] = ""
    hidden: bool = True
    smooth: bool = False
    centres: bool = True
    parent: str = ""
    letter: str = Field("", max_length=2)
    line: list[Spot] = Field([], max_length=12)
    flipped: bool = False
    middle: Spot = (0.0, 0.0)
    around: float = Field(0.0, ge=0, allow_inf_nan=False)
    whole: list[str] = Field([], max_length=200)


DimensionKind = Literal[
    "width", "height", "across", "up", "straight", "angle", "radius", "diameter", "chamfer", "holes",
    "places_x", "places_y", "chain_x", "chain_y",
]  # fmt: skip


class Dimension(Stored):
    """A dimension of a view: what it measures, and how it stands there. Its figure is always measured.

    kind : the whole view's width or height; across or up the page, straight from one to the other, an angle,
    a radius, a diameter, a chamfer, the note of a hole and all that are like it; places along the page
    counted from the first thing, or from each to the next. put : its text's place from the middle of what it
    measures, mm on the page; None to be placed by itself. tolerance : a class or limits. before, after :
    words round the figure. step, place : the number of the part that it tells, if it is that one's. reference
    : its figure stands in brackets."""

    id: Id
    view: Id
    kind: DimensionKind
    things: list[ThingRef] = Field([], max_length=60)
    put: Spot | None = None
    tolerance: str = Field("", max_length=40)
    before: str = Field("", max_length=40)
    after: str = Field("", max_length=40)
    step: str = Field("", max_length=20)
    place: str = Field("", max_length=80)
    reference: bool = False


MarkKind = Literal["note", "datum", "geometry", "texture", "weld", "holes", "tolerances"]


class Mark(Stored):
    """A note, a symbol or a table on a page.

    kind : words; a datum's letter (ISO 5459); a geometrical tolerance (ISO 1101: its sign, its value, the
    letters of its datums); a surface texture (ISO 21920); a weld or edge as words; the table of holes or of
    tolerances. thing : what it points to, in `view`. put : from there, or from the page's corner, mm."""

    id: Id
    kind: MarkKind
    view: str = Field("", max_length=8)
    thing: ThingRef | None = None
    put: Spot = (20.0, 20.0)
    words: str = Field("", max_length=2000)
    sign: str = Field("", max_length=20)
    value: str = Field("", max_length=40)
    letters: list[Annotated[str, Field(max_length=4)]] = Field([], max_length=3)


class Issue(Stored):
    """A page as it was given out: by which name, when (a date), its figures then, by dimension."""

    name: str = Field(min_length=1, max_length=40)
    date: str = Field("", max_length=20)
    by: str = Field("", max_length=80)
    what: str = Field("", max_length=200)
    figures: dict[Id, Annotated[str, Field(max_length=20_000)]] = Field({}, max_length=1000)


class Page(Stored):
    """A page: its paper, its scale, what stands on it. angle : first or third (ISO 5456-2). last : the
    highest number given to anything on it."""

    id: Id
    name: str = Field(min_length=1, max_length=80)
    size: Literal["A4", "A3", "A2", "A1", "A0"] = "A3"
    turned: bool = False
    angle: Literal["first", "third"] = "first"
    scale: Scale = "1:1"
    tolerance: str = Field(f"{GENERAL}m", max_length=80)
    views: list[View] = Field([], max_length=60)
    dimensions: list[Dimension] = Field([], max_length=MOST)
    marks: list[Mark] = Field([], max_length=200)
    issues: list[Issue] = Field([], max_length=200)
    last: int = Field(0, ge=0, le=999_999)

    @property
    def paper(self) -> tuple[float, float]:
        """Return its width and height, mm. A4 stands, larger ones lie; turned, the other way."""
        w, h = SIZES[self.size]
        return (h, w) if self.turned else (w, h)

    def view(self, view: str) -> View | None:
        """Return a view by id."""
        return next((v for v in self.views if v.id == view), None)

    def ratio_of(self, view: View) -> float:
        """Return how many mm on paper stand for one of the part."""
        return ratio(view.scale or self.scale)


def ratio(scale: str) -> float:
    """Return a written scale as a number."""
    paper, part = scale.split(":")
    return float(paper) / float(part)
