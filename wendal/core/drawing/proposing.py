"""A page by itself: main views at the largest scale that fits, with the dimensions that a part needs first:
overall sizes, holes with their places, diameters, radii."""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass, field
from typing import Any

from ..errors import WendalError
from ..kernel.types import Vec, cross, dot
from ..reference import FaceName, ThingRef
from ..reference.resolve import edge_ref, face_ref
from ..route import Evaluation, Part
from ..route.pages import SCALES, Dimension, Page, View
from ..steps import Body
from .arranging import fits
from .brought import brought_in, is_round_at, lies_on
from .centres import Axle, axles_of
from .dimensions import ROUNDING, Measured, Seeing, measured, ring_in
from .drilled import alike_with, drilled_steps
from .page import laid_out
from .views import Drawn, bodies_of, drawn, prepare

__all__ = ["proposed_dimensions", "proposed_page"]

BROUGHT = 10  # numbers of the part that are told in one view
MOST = 6  # dimensions of a kind in one view
LANES = 4  # places along one side, above which they are counted from one edge
ONE = 1e-6


def proposed_page(
    part: Part,
    evaluation: Evaluation,
    *,
    name: str = "",
    size: str = "A3",
    angle: str = "first",
    views: tuple[str, ...] = ("front", "top", "left", "corner"),
    dimensions: bool = True,
) -> Page:
    """Return a page of a part; raises CommandRefused where there is no body."""
    bodies_of(part, evaluation)
    if angle == "third":
        views = tuple("right" if v == "left" else v for v in views)
    held: list[View] = []
    for n, way in enumerate(views, 1):
        parent = "v1" if n > 1 and way != "corner" else ""
        held.append(View(id=f"v{n}", way=way, parent=parent))
    names = {p.name for p in part.pages}
    free = next(f"Page {n}" for n in range(1, 99) if f"Page {n}" not in names)
    page = Page(id="p1", name=name or free, size=size, angle=angle, views=held, last=len(held))
    if dimensions:
        found = proposed_dimensions(part, evaluation, page)
        page = page.model_copy(update={"dimensions": found, "last": page.last + len(found)})
    return _scaled(part, evaluation, page)


def _scaled(part: Part, evaluation: Evaluation, page: Page) -> Page:
    """Return a page at the largest scale at which all fits; corner views go a step smaller before all others
    do."""
    first = next((i for i, s in enumerate(SCALES) if _nearly(part, evaluation, page, s)), len(SCALES) - 1)
    for i in range(first, min(first + 4, len(SCALES))):
        for corner in ("", *SCALES[i + 1 : i + 2]):
            views = [v.model_copy(update={"scale": corner}) if v.way == "corner" else v for v in page.views]
            made = page.model_copy(update={"scale": SCALES[i], "views": views})
            boxes, places = laid_out(part, evaluation, made)
            if fits(made, boxes, places):
                return made
    return made


def _nearly(part: Part, evaluation: Evaluation, page: Page, scale: str) -> bool:
    """Tell whether the views alone could find room at a scale."""
    made = page.model_copy(update={"scale": scale, "dimensions": [], "marks": []})
    boxes, places = laid_out(part, evaluation, made)
    main = {i: b for i, b in boxes.items() if (v := made.view(i)) and v.way != "corner"}
    return fits(made, main, {i: places[i] for i in main})


@dataclass(slots=True)
class _Proposal:
    """What is proposed so far. told : what is dimensioned already, over all views."""

    part: Part
    evaluation: Evaluation
    bodies: list[Body]
    page: Page
    told: set[tuple[Any, ...]] = field(default_factory=set)
    found: list[Dimension] = field(default_factory=list)

    def measured(self, view: View, seen: Drawn, kind: str, things: list[ThingRef], **more: str) -> Measured:
        """Return a dimension as it would come out."""
        number = self.page.last + len(self.found) + 1
        made = Dimension(id=f"d{number}", view=view.id, kind=kind, things=things, **more)
        return measured(self.seeing(seen), made)

    def seeing(self, seen: Drawn) -> Seeing:
        """Return what dimensions of a view are measured with."""
        return Seeing(self.part, self.evaluation, self.bodies, seen)

    def add(self, view: View, seen: Drawn, kind: str, things: list[ThingRef], **more: str) -> bool:
        """Propose a dimension, if it can be told and is not told there already."""
        found = self.measured(view, seen, kind, things, **more)
        key = self._key(seen, found)
        if found.state != "sound" or key in self.told:
            return False
        self.told.add(key)
        self.found.append(found.of)
        return True

    def is_round(self, size: float, axis: Vec) -> bool:
        """Tell whether a diameter of a size is told, of something round whose axis lies square to a
        direction."""
        return any(
            t[0] == "round" and len(t) == 3 and abs(2 * t[1] - size) < 1e-5 and abs(dot(t[2], axis)) < ONE
            for t in self.told
        )

    def _key(self, seen: Drawn, found: Measured) -> tuple[Any, ...]:
        """Return by what two dimensions say the same: the direction in space and the places along it, or a
        radius."""
        value = round(found.value, 5)
        if found.shape in ("level", "upright"):
            axis = 0 if found.shape == "level" else 1
            way = seen.frame.x if axis == 0 else seen.frame.y
            sign = 1 if sum(way) > 0 else -1
            places = sorted(round(sign * p[axis], 4) + 0.0 for p in found.feet)
            return ("along", tuple(round(sign * c, 6) + 0.0 for c in way), *places)
        if found.shape == "round" and found.of.kind != "holes":
            return "round", round(found.radius, 5), tuple(round(abs(c), 6) for c in seen.frame.normal)
        return found.of.kind, found.of.view, value, *(round(c, 4) for p in found.feet for c in p)


def proposed_dimensions(
    part: Part, evaluation: Evaluation, page: Page, only: tuple[str, ...] = ()
) -> list[Dimension]:
    """Return what a page's main views want first, beyond what stands there. only : these views."""
    bodies = bodies_of(part, evaluation)
    prepare(part, evaluation, page)
    work = _Proposal(part, evaluation, bodies, page)
    axles = [(b, a) for b in bodies for a in axles_of(b.id, b.shape)]
    main = [v for v in page.views if v.way in ("front", "back", "top", "bottom", "left", "right", "section")]
    views: list[tuple[View, Drawn]] = []
    for view in main:
        if only and view.id not in only:
            continue
        try:
            seen = drawn(part, evaluation, page, view)
        except WendalError:
            continue  # the view itself says why
        views.append((view, seen))
    for view, seen in views:
        _brought(work, view, seen)
        if view.way != "section":
            _holes(work, view, seen, axles)
            _diameters(work, view, seen, axles)
    for view, seen in views:
        if view.way != "section":
            _overall(work, view, seen)
            _radii(work, view, seen)
    return sorted(work.found, key=lambda d: [v.id for v, _ in views].index(d.view))


def _brought(work: _Proposal, view: View, seen: Drawn) -> None:
    """Bring in the numbers of the part that are seen here, each once."""
    count = 0
    for number in brought_in(work.part, work.evaluation, work.bodies, view, seen):
        key = ("number", number.step, number.place)
        if key in work.told or count >= BROUGHT:
            continue
        things = list(number.things)
        found = work.measured(view, seen, number.kind, things)
        if found.state != "sound" or abs(found.value - number.worth) > 1e-6:
            continue
        if found.shape == "round":
            drawn_there = is_round_at(seen, found.feet[0], found.radius)
        else:
            drawn_there = found.shape == "angle" or all(lies_on(seen, p) for p in found.feet)
        if not drawn_there:
            continue
        if work.add(view, seen, number.kind, things, step=number.step, place=number.place):
            work.told.add(key)
            count += 1


def _overall(work: _Proposal, view: View, seen: Drawn) -> None:
    for kind, axis in (("width", seen.frame.x), ("height", seen.frame.y)):
        key = ("overall", tuple(round(abs(c), 6) for c in axis))
        if work.is_round(work.measured(view, seen, kind, []).value, axis):
            continue  # its diameter tells it
        if key not in work.told and work.add(view, seen, kind, []):
            work.told.add(key)


def _along(seen: Drawn, axles: list[tuple[Body, Axle]]) -> Iterator[tuple[Body, Axle]]:
    for body, axle in axles:
        if math.hypot(*cross(axle.way, seen.frame.normal)) < ONE:
            yield body, axle


def _wall(body: Body, axle: Axle, radius: float) -> int:
    """Return the face of an axle with a radius."""
    return min(axle.faces, key=lambda f: abs(body.topology.faces[f].radius - radius))


def _hole_of(work: _Proposal, body: Body, axle: Axle) -> int:
    """Return the wall that a hole step drilled round an axle, -1 for none."""
    drilled = drilled_steps(work.part)
    for f in axle.faces:
        for name in map(FaceName.read, body.topology.names[f]):
            if name.step in drilled and name.source == "drilled wall":
                return f
    return -1


def _holes(work: _Proposal, view: View, seen: Drawn, axles: list[tuple[Body, Axle]]) -> None:
    """Tell the holes that are seen from the end: one note for those that are alike, and where each lies,
    unless the note tells the circle they lie on."""
    placed: list[tuple[Body, int, float, float]] = []

    def aside(held: tuple[Body, Axle]) -> float:
        u, v, _ = seen.frame.local(held[1].origin)
        hidden = not is_round_at(seen, (u, v), 0.0)
        return 1e6 * hidden - u - v  # what is told once is told where it is seen, away from the lanes

    for body, axle in sorted(_along(seen, axles), key=aside):
        wall = _hole_of(work, body, axle)
        if ("place", _key(axle)) in work.told or (wall < 0 and (not axle.hollow or axle.solid)):
            continue
        if wall >= 0:
            noted = _note(work, view, seen, body, wall, axle)
            if not noted:
                continue
            if noted == "ring":
                work.told.add(("place", _key(axle)))
                continue
        work.told.add(("place", _key(axle)))
        u, v, _ = seen.frame.local(axle.origin)
        placed.append((body, wall if wall >= 0 else _wall(body, axle, axle.radius), u, v))
    for axis, kind, many in ((0, "across", "places_x"), (1, "up", "places_y")):
        _places(work, view, seen, placed, axis, kind, many)


def _key(axle: Axle) -> tuple[Any, ...]:
    return axle.body, tuple(round(c, 5) for c in axle.origin), axle.radius


def _note(work: _Proposal, view: View, seen: Drawn, body: Body, wall: int, axle: Axle) -> str:
    """Propose the note of a hole, once for all that are alike; tell whether it is told, and with the
    "ring" they lie on. "" where it can not be."""
    ref = face_ref(body.id, body.topology, wall)
    found = work.measured(view, seen, "holes", [ref])
    if found.state != "sound":
        return ""
    key = ("note", found.said, tuple(round(abs(c), 6) for c in axle.way))
    if key not in work.told:
        work.told.add(key)
        work.add(view, seen, "holes", [ref])
    alike = alike_with(work.part, work.evaluation, ref, axle.origin, axle.way)
    return "ring" if ring_in(work.seeing(seen), alike) else "note"


def _places(
    work: _Proposal,
    view: View,
    seen: Drawn,
    placed: list[tuple[Body, int, float, float]],
    axis: int,
    kind: str,
    many: str,
) -> None:
    """Propose where holes lie: from what has a datum's letter on the page, else from the flat side of the
    part that is furthest to the left, or lowest, else from the axis of a part that is round there."""
    rows: dict[float, tuple[Body, int]] = {}
    for body, wall, *at in placed:
        rows.setdefault(round(at[axis], 5), (body, wall))
    if not rows:
        return
    refs = [face_ref(b.id, b.topology, f) for _, (b, f) in sorted(rows.items())]
    side = _lettered(work, view, seen, kind, refs[0]) or _side(work, seen, axis)
    if side is None:
        centre = _round_side(work, seen, axis)
        if centre is None:
            return
        side, middle = centre
        refs = [r for (at, _), r in zip(sorted(rows.items()), refs, strict=True) if abs(at - middle) > 1e-4]
    refs = [r for r in refs if r != side]
    if len(refs) > LANES:
        work.add(view, seen, many, [side, *refs])
        return
    for ref in refs:
        work.add(view, seen, kind, [side, ref])


def _lettered(work: _Proposal, view: View, seen: Drawn, kind: str, ref: ThingRef) -> ThingRef | None:
    """Return the first thing with a datum's letter from which a hole's place can be told in this view."""
    marks = [m for m in work.page.marks if m.kind == "datum" and m.thing is not None]
    for mark in sorted(marks, key=lambda m: m.letters):
        assert mark.thing is not None
        found = work.measured(view, seen, kind, [mark.thing, ref])
        if found.state == "sound" and abs(found.value) > 1e-4:
            return mark.thing
    return None


def _round_side(work: _Proposal, seen: Drawn, axis: int) -> tuple[ThingRef, float] | None:
    """Return the face of the axle whose rim bounds a view on the left (0) or below (1), and where its middle
    lies there; None where there is none."""
    axles = [(b, a) for b in work.bodies for a in axles_of(b.id, b.shape) if a.solid]
    for body, axle in sorted(_along(seen, axles), key=lambda ba: -max(ba[1].solid)):
        middle = seen.frame.local(axle.origin)[axis]
        if abs(middle - max(axle.solid) - seen.box[axis]) < 1e-4:
            return face_ref(body.id, body.topology, _wall(body, axle, max(axle.solid))), middle
    return None


def _side(work: _Proposal, seen: Drawn, axis: int) -> ThingRef | None:
    """Return the flat face that bounds a view on the left (0) or below (1); None where it is round."""
    way = seen.frame.x if axis == 0 else seen.frame.y
    best: tuple[float, ThingRef] | None = None
    for body in work.bodies:
        for i, face in enumerate(body.topology.faces):
            if face.form != "flat" or dot(face.frame.normal, way) > -1 + ONE:
                continue
            at = seen.frame.local(face.centre)[axis]
            if at < seen.box[axis] + 1e-4 and (best is None or -face.area < best[0]):
                best = -face.area, face_ref(body.id, body.topology, i)
    return best[1] if best else None


def _diameters(work: _Proposal, view: View, seen: Drawn, axles: list[tuple[Body, Axle]]) -> None:
    """Tell round bosses, bores and rims that are seen from the end."""
    count = 0
    for body, axle in sorted(_along(seen, axles), key=lambda ba: -ba[1].radius):
        if _hole_of(work, body, axle) >= 0:
            continue
        for radius in sorted({*axle.hollow, *axle.solid}, reverse=True):
            key = ("axle", axle.body, tuple(round(c, 4) for c in axle.way), radius)
            if key in work.told or count >= MOST:
                continue
            face = _wall(body, axle, radius)
            if (
                abs(body.topology.faces[face].radius - radius) > ONE
                or body.topology.faces[face].form != "round"
            ):
                continue
            full = any(
                ln.stroke.kind == "arc" and ln.visible and abs(ln.stroke.radius - radius) < ONE
                for ln in seen.lines
            )
            if full and work.add(view, seen, "diameter", [face_ref(body.id, body.topology, face)]):
                work.told.add(key)
                count += 1


def _radii(work: _Proposal, view: View, seen: Drawn) -> None:
    """Tell the radii of visible arcs, each once."""
    by_id = {b.id: b for b in work.bodies}
    count = 0
    for ln in sorted(seen.lines, key=lambda x: (-x.stroke.radius, -sum(x.stroke.centre))):
        s = ln.stroke
        if s.kind != "arc" or not ln.visible or ln.edge < 0 or s.closed or count >= MOST:
            continue
        body = by_id[ln.body]
        edge = body.topology.edges[ln.edge]
        turn = edge.length / edge.radius if edge.radius else 0.0
        key = ("radius", round(s.radius, 5))
        if edge.form != "circle" or turn > ROUNDING or key in work.told or _is_told(work, s.radius):
            continue
        if work.add(view, seen, "radius", [edge_ref(body.id, body.topology, ln.edge)]):
            work.told.add(key)
            count += 1


def _is_told(work: _Proposal, radius: float) -> bool:
    return any(t[0] == "round" and abs(t[1] - radius) < 1e-5 for t in work.told)
