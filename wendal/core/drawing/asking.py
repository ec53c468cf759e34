"""Questions about a drawing: a page as it is drawn, a page or dimensions that are proposed, a dimension
before it is put on a page."""

from __future__ import annotations

from typing import Any, Literal

from pydantic import Field

from ..errors import CommandRefused, WendalError
from ..inspect.questions import Answer, Request, question
from ..kernel.types import Frame, dot
from ..reference import ThingRef
from ..route import Evaluation, Part
from ..route.pages import Dimension, DimensionKind, Page
from ..stroke_paths import path_data
from .centres import Axle, axles_of
from .dimensions import Measured, Seeing, measured
from .ink import PENS, Item
from .issues import Change, changed_since, clouded, figures_of
from .page import Sheet, drawn_page, page_of
from .proposing import proposed_dimensions, proposed_page
from .titles import titles_of
from .views import bodies_of, drawn

__all__ = ["DimensionTried", "DimensionsProposed", "PageDrawn", "PageProposed"]

Spot = tuple[float, float]


class DrawPage(Request):
    """Ask for a page in ink. version, date : for its title block. since, until : issues between which changed
    figures are clouded; "" for the last one and for now. clouds : whether they are. drafts : views that take
    long are drawn as drafts."""

    of: Literal["page"] = "page"
    page: str = Field(max_length=8)
    version: str = Field("", max_length=40)
    date: str = Field("", max_length=40)
    since: str = Field("", max_length=40)
    until: str = Field("", max_length=40)
    clouds: bool = False
    drafts: bool = False


class Path(Answer):
    """Lines of one pen. data : of an SVG path, mm from the page's lower left corner, y up. body, edge,
    face : what of the part it is, by index; -1 for none."""

    pen: str
    data: str
    body: str = ""
    edge: int = -1
    face: int = -1


class Words(Answer):
    """Words: the foot of their beginning, mm a capital, degrees they are turned, how long they are."""

    words: str
    at: Spot
    height: float
    turned: float
    pen: str
    length: float


class OnPage(Answer):
    """A thing on a page.

    kind : "frame", "view", "dimension", "mark" or "changes". drives : the tag of the part's number that it
    tells. place : of its words; base : from where that is counted as it is stored. candidates : where it is
    lost, what could be meant by `thing`; now : where it is held, what confirming it would store.
    """

    id: str
    kind: str
    paths: list[Path]
    blots: list[str]
    words: list[Words]
    told: str = ""
    trouble: str = ""
    state: Literal["sound", "held", "lost"] = "sound"
    drives: str = ""
    place: Spot
    base: Spot
    box: tuple[float, float, float, float]
    thing: int = 0
    candidates: list[dict[str, Any]] = []
    now: list[dict[str, Any]] = []


class PlacedView(Answer):
    """Where a view stands: its middle, the paper for one of the part, its frame's directions in the part.
    xs, ys : where axes run up and across, mm of the part from its middle; what is drawn by hand snaps to
    them. box : of its lines, on the page."""

    id: str
    at: Spot
    scale: float
    x: tuple[float, float, float]
    y: tuple[float, float, float]
    xs: list[float]
    ys: list[float]
    draft: bool
    box: tuple[float, float, float, float]


class PenTold(Answer):
    """A pen: its width and dashes, mm, and its colour."""

    name: str
    width: float
    dashes: list[float]
    colour: str


class ChangeTold(Answer):
    """A figure that is told otherwise than in an issue; "" for none before, or none now."""

    id: str
    was: str
    now: str


class PageDrawn(Answer):
    """A page in ink. fits : whether all stands inside of the border and nothing on another."""

    of: Literal["page"] = "page"
    id: str
    paper: Spot
    items: list[OnPage]
    views: list[PlacedView]
    pens: list[PenTold]
    fits: bool
    changes: list[ChangeTold]


@question(DrawPage, PageDrawn)
def draw_page(part: Part, evaluation: Evaluation, request: DrawPage) -> PageDrawn:
    """Draw a page; raises CommandRefused where it is not there, or there is no body."""
    page = page_of(part, request.page)
    titles = titles_of(part, evaluation, page, request.version, request.date)
    sheet = drawn_page(part, evaluation, page, titles, request.drafts)
    changes = changed_since(page, figures_of(sheet), request.since, request.until)
    if request.clouds and changes:
        sheet.items.append(clouded(sheet, changes))
    by_id = {m.of.id: m for m in sheet.measured}
    return PageDrawn(
        id=page.id,
        paper=sheet.paper,
        items=[_told(i, by_id.get(i.id)) for i in sheet.items],
        views=_views(part, evaluation, page, sheet),
        pens=[
            PenTold(name=n, width=p.width, dashes=list(p.dashes), colour=p.colour) for n, p in PENS.items()
        ],
        fits=sheet.fits,
        changes=[_change(c) for c in changes],
    )


def _change(change: Change) -> ChangeTold:
    return ChangeTold(id=change.id, was=change.was, now=change.now)


def _told(item: Item, measured_: Measured | None) -> OnPage:
    from .ink import width_of

    loose: dict[tuple[str, str, int, int], list[str]] = {}
    for ink in item.inks:
        loose.setdefault((ink.pen, ink.body, ink.edge, ink.face), []).append(path_data([ink.stroke]))
    return OnPage(
        id=item.id,
        kind=item.of,
        paths=[
            Path(pen=pen, data="".join(data), body=body, edge=edge, face=face)
            for (pen, body, edge, face), data in loose.items()
        ],
        blots=["M" + "L".join(f"{x:.6g} {y:.6g}" for x, y in b.places) + "Z" for b in item.blots],
        words=[
            Words(
                words=t.words,
                at=t.at,
                height=t.height,
                turned=t.angle * 57.29577951308232,
                pen=t.pen,
                length=width_of(t.words, t.height),
            )
            for t in item.texts
        ],
        told=item.told,
        trouble=item.trouble,
        state=measured_.state if measured_ else "lost" if item.trouble else "sound",
        drives=item.drives,
        place=item.place,
        base=item.base,
        box=item.box(),
        thing=measured_.thing if measured_ else 0,
        candidates=[
            {"words": c.words, "ref": c.ref, "answer": c.answer}
            for c in (measured_.candidates if measured_ else ())
        ],
        now=list(measured_.now) if measured_ else [],
    )


def _views(part: Part, evaluation: Evaluation, page: Page, sheet: Sheet) -> list[PlacedView]:
    axles = [a for b in bodies_of(part, evaluation) for a in axles_of(b.id, b.shape)]
    found = []
    for view in page.views:
        try:
            seen = drawn(part, evaluation, page, view)
        except WendalError:
            continue
        frame = seen.frame
        xs, ys = _snaps(axles, frame)
        found.append(
            PlacedView(
                id=view.id,
                at=sheet.places[view.id],
                scale=page.ratio_of(view),
                x=frame.x,
                y=frame.y,
                xs=xs,
                ys=ys,
                draft=seen.draft,
                box=next(i.box() for i in sheet.items if i.id == view.id),
            )
        )
    return found


def _snaps(axles: list[Axle], frame: Frame) -> tuple[list[float], list[float]]:
    """Return where axes are seen to run up and across a view."""
    xs, ys = {0.0}, {0.0}
    for axle in axles:
        u, v, _ = frame.local(axle.origin)
        du, dv, dw = (abs(dot(axle.way, n)) for n in (frame.x, frame.y, frame.normal))
        if dv > 1 - 1e-9 or dw > 1 - 1e-9:
            xs.add(round(u, 6) + 0.0)
        if du > 1 - 1e-9 or dw > 1 - 1e-9:
            ys.add(round(v, 6) + 0.0)
    return sorted(xs), sorted(ys)


class ProposePage(Request):
    """Ask for a page of a part by itself: three main views and one from the corner, with what is
    dimensioned first."""

    of: Literal["page_proposed"] = "page_proposed"
    size: Literal["A4", "A3", "A2", "A1", "A0"] = "A3"
    angle: Literal["first", "third"] = "first"
    dimensions: bool = True


class PageProposed(Answer):
    """A page, as it is added."""

    of: Literal["page_proposed"] = "page_proposed"
    page: Page


@question(ProposePage, PageProposed)
def propose_page(part: Part, evaluation: Evaluation, request: ProposePage) -> PageProposed:
    """Propose a page; raises CommandRefused where there is no body."""
    made = proposed_page(
        part, evaluation, size=request.size, angle=request.angle, dimensions=request.dimensions
    )
    return PageProposed(page=made)


class ProposeDimensions(Request):
    """Ask for the dimensions that views of a page want and do not have; views : none for all."""

    of: Literal["dimensions_proposed"] = "dimensions_proposed"
    page: str = Field(max_length=8)
    views: list[str] = Field([], max_length=60)


class DimensionsProposed(Answer):
    """Dimensions, as they are put on the page."""

    of: Literal["dimensions_proposed"] = "dimensions_proposed"
    dimensions: list[Dimension]


@question(ProposeDimensions, DimensionsProposed)
def propose_dimensions(part: Part, evaluation: Evaluation, request: ProposeDimensions) -> DimensionsProposed:
    """Propose dimensions for a page; raises CommandRefused where it is not there."""
    page = page_of(part, request.page)
    return DimensionsProposed(dimensions=proposed_dimensions(part, evaluation, page, tuple(request.views)))


class TryDimension(Request):
    """Ask what picked things would be as a dimension of a view. kind : "" for the likeliest."""

    of: Literal["dimension_tried"] = "dimension_tried"
    page: str = Field(max_length=8)
    view: str = Field(max_length=8)
    things: list[ThingRef] = Field(min_length=1, max_length=60)
    kind: DimensionKind | Literal[""] = ""


class KindTried(Answer):
    """One kind of dimension that the things can be, and its figure."""

    kind: DimensionKind
    said: str


class DimensionTried(Answer):
    """The kinds that are possible, the likeliest first; none, and why not."""

    of: Literal["dimension_tried"] = "dimension_tried"
    kinds: list[KindTried]
    trouble: str = ""


_TRIED: tuple[DimensionKind, ...] = (
    "diameter", "radius", "holes", "angle", "across", "up", "straight", "chamfer",
)  # fmt: skip


@question(TryDimension, DimensionTried)
def try_dimension(part: Part, evaluation: Evaluation, request: TryDimension) -> DimensionTried:
    """Measure picked things in every way that they can be."""
    page = page_of(part, request.page)
    view = page.view(request.view)
    if view is None:
        raise CommandRefused("This view is not on the page any more.", field="view")
    seen = drawn(part, evaluation, page, view)
    seeing = Seeing(part, evaluation, bodies_of(part, evaluation), seen)
    several: tuple[DimensionKind, ...] = ("places_x", "places_y", "chain_x", "chain_y")
    tried = (request.kind,) if request.kind else several if len(request.things) > 2 else _TRIED
    found, trouble = [], ""
    for kind in tried:
        result = measured(seeing, Dimension(id="d1", view=view.id, kind=kind, things=request.things))
        if result.state == "lost":
            trouble = trouble or result.trouble
        else:
            found.append((_likely(result), KindTried(kind=kind, said=result.said)))
    found.sort(key=lambda f: f[0])
    return DimensionTried(kinds=[f for _, f in found], trouble="" if found else trouble)


def _likely(m: Measured) -> int:
    """Return how likely a kind is meant: a hole's note before its diameter, an arc's radius before that."""
    order = ["holes", "angle", "across", "up", "straight", "diameter", "radius", "chamfer"]
    return order.index(m.of.kind) if m.of.kind in order else len(order)
