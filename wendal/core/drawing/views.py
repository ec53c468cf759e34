"""What is seen in a view, in mm of the part from the middle of its box: lines with what they are, cut
areas."""

from __future__ import annotations

import math
from collections import OrderedDict
from dataclasses import dataclass, field
from functools import partial
from itertools import pairwise

from .. import kernel
from ..errors import CommandRefused, WendalError
from ..kernel.types import Frame, Placement, Vec, minus
from ..once import Once
from ..route import Evaluation, Part
from ..route.pages import Page, View
from ..steps import Body
from ..strokes import Stroke
from .aligned import CUT, Aligned, upright
from .children import in_children
from .ink import XY, Box, around
from .looking import frame_of, line_ways

__all__ = ["Area", "Drawn", "Line", "bodies_of", "drawn", "extent_of", "middle_of", "prepare"]

KEPT = 60  # views that are remembered
HEAVY = 150.0  # of the weight of a view, from which on it is drawn in a child
ROUGH = 6  # straight pieces of an edge in a draft
LIMIT = 40.0  # s that the exact views of a page may take together: less than a worker may be silent


@dataclass(frozen=True, slots=True)
class Line:
    """A line of a view. body : its id; edge, face : of it, by index, -1 where it is none of the uncut
    body's."""

    stroke: Stroke
    kind: str
    visible: bool
    body: str
    edge: int
    face: int


@dataclass(frozen=True, slots=True)
class Area:
    """A cut area: its loops, the outer one first."""

    body: str
    loops: tuple[tuple[Stroke, ...], ...]


@dataclass(frozen=True, slots=True)
class Drawn:
    """A view as it is seen. box : round its visible lines. seen : the
    bodies as they are drawn, by id; of an aligned section, with `turned`: what its second leg leaves of them
    where it stands in the part, and `placement`: how that is turned into the plane of the first. draft :
    every edge is drawn, none is hidden; given_up : and its exact lines were not found in time."""

    frame: Frame
    lines: tuple[Line, ...]
    areas: tuple[Area, ...] = ()
    box: Box = (0.0, 0.0, 0.0, 0.0)
    seen: tuple[tuple[str, kernel.NamedShape], ...] = field(default=(), compare=False)
    draft: bool = False
    given_up: bool = False
    turned: tuple[tuple[str, kernel.NamedShape], ...] = field(default=(), compare=False)
    placement: Placement | None = None


def _extent(view: Drawn) -> tuple[Vec, Vec]:
    return kernel.box_of([kernel.seen_from(s, view.frame) for _, s in (*view.seen, *view.turned)])


extent_of = Once(_extent, KEPT)  # the box round all of a view, by the kernel, from its frame


def bodies_of(part: Part, evaluation: Evaluation) -> list[Body]:
    """Return the bodies that are drawn: those that are shown; raises CommandRefused where there is none."""
    held = [
        b for b in evaluation.site.bodies.values() if (look := part.looks.get(b.id)) is None or look.visible
    ]
    if not held:
        raise CommandRefused("There is no body to draw yet. Build one first, or show one.")
    return held


def middle_of(bodies: list[Body]) -> Vec:
    """Return the middle of the box round bodies: views hang on it, and keep to each other by it."""
    low, high = kernel.box_of([b.shape for b in bodies])
    return tuple(round((a + b) / 2, 9) for a, b in zip(low, high, strict=True))  # type: ignore[return-value]


_known: OrderedDict[tuple[object, ...], Drawn] = OrderedDict()


@dataclass(frozen=True, slots=True)
class _Wanted:
    """A view that is wanted: by which it is remembered, its frame, the bodies, the section it is cut by."""

    key: tuple[object, ...]
    page: Page
    frame: Frame
    bodies: tuple[Body, ...]
    middle: Vec
    base: View | None


def _wanted(part: Part, evaluation: Evaluation, page: Page, view: View) -> _Wanted:
    bodies = bodies_of(part, evaluation)
    middle = middle_of(bodies)
    frame = frame_of(page, view, middle)
    base = _cut_of(page, view)
    cut: tuple[object, ...] = ()
    if base is not None:
        parent = page.view(base.parent)
        assert parent is not None
        cut = (tuple(base.line), base.flipped, tuple(base.whole), frame_of(page, parent, middle))
    return _Wanted(
        (tuple((b.id, b.key) for b in bodies), frame, cut), page, frame, tuple(bodies), middle, base
    )


def drawn(part: Part, evaluation: Evaluation, page: Page, view: View) -> Drawn:
    """Return what is seen in a view; by content, the same is drawn once."""
    wanted = _wanted(part, evaluation, page, view)
    found = _known.get(wanted.key)
    if found is None:
        cut = _cut(wanted)
        found = _keep(
            wanted, _made(wanted, cut, kernel.lines_of_view([s for _, s in cut.there], wanted.frame))
        )
    _known.move_to_end(wanted.key)
    return found


def _keep(wanted: _Wanted, found: Drawn) -> Drawn:
    _known[wanted.key] = found
    while len(_known) > KEPT:
        _known.popitem(last=False)
    return found


def prepare(
    part: Part, evaluation: Evaluation, page: Page, drafts: bool = False, limit: float = LIMIT
) -> None:
    """Draw the views of a page that are not remembered and take long, side by side in children.

    drafts : such views are drawn as drafts alone, all edges and nothing hidden; and so are those that take
    more than `limit` s together. What is wrong with a view is told where it is drawn."""
    heavy: dict[tuple[object, ...], tuple[_Wanted, _Cut]] = {}
    for view in page.views:
        try:
            wanted = _wanted(part, evaluation, page, view)
            known = _known.get(wanted.key)
            if wanted.key in heavy or (known is not None and (drafts or known.given_up or not known.draft)):
                continue
            cut = _cut(wanted)
        except WendalError:
            continue
        if known is not None or _weight(cut) > HEAVY:
            heavy[wanted.key] = wanted, cut
    held = list(heavy.values())
    if drafts or not held:
        lines: list[list[kernel.Seen] | None] = [None] * len(held)
    else:
        for _, cut in held:  # once, and not in each child
            for _, shape in cut.there:
                kernel.face_meshes(shape, math.dist(*kernel.box_of([shape])))
        lines = in_children(
            [partial(kernel.lines_of_view, [s for _, s in cut.there], wanted.frame) for wanted, cut in held],
            limit,
        )
    for (wanted, cut), own in zip(held, lines, strict=True):
        _keep(wanted, _draft(wanted, cut, not drafts) if own is None else _made(wanted, cut, own))


def _weight(cut: _Cut) -> float:
    """Return how much work a view is, about: faces, and rounded rims, which cost most by far."""
    return sum(kernel.weight_in_view(s) for _, s in cut.there)


def _cut_of(page: Page, view: View) -> View | None:
    """Return the section that a view is, or of which it is a detail."""
    while view.way == "detail":
        parent = page.view(view.parent)
        assert parent is not None
        view = parent
    return view if view.way == "section" else None


@dataclass(frozen=True, slots=True)
class _Cut:
    """The bodies of a view as they are seen, cut open or whole; the areas in which they are cut. turned : of
    an aligned section, how many of them, at the end, are turned by `placement`."""

    there: tuple[tuple[Body, kernel.NamedShape], ...]
    areas: tuple[Area, ...]
    turned: int = 0
    placement: Placement | None = None


def _cut(wanted: _Wanted) -> _Cut:
    bodies, frame, base = wanted.bodies, wanted.frame, wanted.base
    shapes = [b.shape for b in bodies]
    areas: list[Area] = []
    if base is not None:
        parent = wanted.page.view(base.parent)
        assert parent is not None
        above = frame_of(wanted.page, parent, wanted.middle)
        aligned = Aligned.of(base, above, _size(shapes))
        if aligned is not None:
            return _cut_aligned(wanted, aligned, base)
        tool = _tool(base, above, _size(shapes))
        shapes = [_opened(b, tool, base) for b in bodies]
        for body, shape in zip(bodies, shapes, strict=True):
            areas += _areas(body, shape, frame)
        _some(areas)
    there = tuple((b, s) for b, s in zip(bodies, shapes, strict=True) if s.names)
    return _Cut(there, tuple(areas))


def _some(areas: list[Area]) -> None:
    if not areas:
        raise CommandRefused("The line of this section meets no body. Move it onto one.", field="line")


def _cut_aligned(wanted: _Wanted, aligned: Aligned, base: View) -> _Cut:
    """Cut the bodies of an aligned section: what either leg leaves, the second turned into the first one's
    plane. Bodies that are not cut are drawn as they stand."""
    areas: list[Area] = []
    first: list[tuple[Body, kernel.NamedShape]] = []
    second: list[tuple[Body, kernel.NamedShape]] = []
    for body in wanted.bodies:
        if body.id in base.whole or body.sheet:
            first.append((body, body.shape))
            continue
        kept = kernel.common(body.shape, [aligned.first], merge=False)
        other = kernel.placed(kernel.common(body.shape, [aligned.second], merge=False), aligned.placement)
        for shape, held in ((kept, first), (other, second)):
            if shape.names:
                held.append((body, shape))
                areas += _areas(body, shape, wanted.frame)
    _some(areas)
    return _Cut((*first, *second), tuple(areas), len(second), aligned.placement)


def _draft(wanted: _Wanted, cut: _Cut, given_up: bool) -> Drawn:
    """Return a view as a draft: every edge, straight from place to place."""
    lines = []
    for body, shape in cut.there:
        for run in kernel.edge_lines(shape):
            coarse = run[:: max(1, len(run) // ROUGH)]  # a draft is quick
            flat = [wanted.frame.local((float(x), float(y), float(z)))[:2] for x, y, z in (*coarse, run[-1])]
            lines += [
                Line(Stroke("line", a, b), "draft", True, body.id, -1, -1)
                for a, b in pairwise(flat)
                if math.dist(a, b) > 1e-6
            ]
    places = [p for ln in lines for p in (ln.stroke.start, ln.stroke.end)]
    stands = len(cut.there) - cut.turned
    seen, turned = (tuple((b.id, s) for b, s in held) for held in (cut.there[:stands], cut.there[stands:]))
    box = around(places or [(0.0, 0.0)])
    return Drawn(wanted.frame, tuple(lines), cut.areas, box, seen, True, given_up, turned, cut.placement)


def _made(wanted: _Wanted, cut: _Cut, seen: list[kernel.Seen]) -> Drawn:
    frame, there = wanted.frame, cut.there
    lines = []
    same = [kernel.same_in(s, b.shape) if s is not b.shape else None for b, s in there]
    meets = [kernel.edges_at_faces(s) if s is not b.shape else None for b, s in there]
    walls = [_step_walls(s, frame) if s is not b.shape else set() for b, s in there]
    stands = len(there) - cut.turned
    for piece in seen:
        body, _ = there[piece.body]
        edge, face = piece.edge, piece.face
        held, met = same[piece.body], meets[piece.body]
        if held is not None and met is not None:  # of a cut body, what is left as it was is still what it is
            if edge >= 0 and walls[piece.body] & {*met[edge]}:
                continue  # where a section steps; nothing is drawn there (ISO 128-3)
            edge = held[0][edge] if edge >= 0 else -1
            face = held[1][face] if face >= 0 else -1
        if piece.body >= stands:
            edge = face = -1  # it is not where the part has it: no figure may be taken of it
        lines.append(Line(piece.stroke, piece.kind, piece.visible, body.id, edge, face))
    places = [ln.stroke.at(i / 16) for ln in lines if ln.visible for i in range(17)]
    box = around(places or [(0.0, 0.0)])
    return Drawn(
        frame,
        tuple(lines),
        cut.areas,
        box,
        tuple((b.id, s) for b, s in there[:stands]),
        turned=tuple((b.id, s) for b, s in there[stands:]),
        placement=cut.placement,
    )


def _size(shapes: list[kernel.NamedShape]) -> float:
    low, high = kernel.box_of(shapes)
    return 2 * math.dist(low, high) + 1.0


def _tool(view: View, above: Frame, far: float) -> kernel.NamedShape:
    """Return the solid that a section takes away: all that lies on the eye's side of its line."""
    _, n = line_ways(view)
    line = [(float(x), float(y)) for x, y in view.line]
    first, last = _onward(line[1], line[0], far), _onward(line[-2], line[-1], far)
    corners = [first, *line[1:-1], last]
    towards = (n[0] * far * 3, n[1] * far * 3)
    for end in (last, first):
        corners.append((end[0] + towards[0], end[1] + towards[1]))
    return upright(corners, above, far)


def _onward(a: XY, b: XY, far: float) -> XY:
    length = math.dist(a, b)
    if length < 1e-9:
        raise CommandRefused("The line of a section has no two ends in one place.", field="line")
    return b[0] + far * (b[0] - a[0]) / length, b[1] + far * (b[1] - a[1]) / length


def _opened(body: Body, tool: kernel.NamedShape, view: View) -> kernel.NamedShape:
    if body.id in view.whole or body.sheet:
        return body.shape
    return kernel.cut(body.shape, [tool], merge=False)


def _is_cut(names: frozenset[str]) -> bool:
    return any(n.startswith(f"{CUT}/") for n in names)


def _step_walls(shape: kernel.NamedShape, frame: Frame) -> set[int]:
    """Return the faces that a section's line leaves where it bends: they are seen edge-on, or at a slant."""
    found = set()
    for i, names in enumerate(shape.names):
        flat = kernel.flat_face_of(shape, i) if _is_cut(names) else None
        if flat is not None and math.dist(flat.normal, frame.normal) > 1e-6:
            found.add(i)
    return found


def _areas(body: Body, shape: kernel.NamedShape, frame: Frame) -> list[Area]:
    found = []
    for i, names in enumerate(shape.names):
        if not _is_cut(names):
            continue
        flat = kernel.flat_face_of(shape, i)
        if flat is None or math.dist(flat.normal, frame.normal) > 1e-6:
            continue  # a wall of a step, seen edge-on
        height = minus(flat.origin, frame.origin)
        lifted = frame.raised(sum(a * b for a, b in zip(height, frame.normal, strict=True)))
        loops = kernel.outlines_of_face(shape, i, lifted)
        found.append(Area(body.id, tuple(tuple(loop) for loop in loops)))
    return found
