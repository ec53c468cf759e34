"""Drawings of random parts against oracles that share nothing with how they are drawn.

- lines: what is seen of every edge, from five sides, against the part's triangles: places along the edge are looked at
  from the eye through all triangles. Lengths must agree to 0.1 % of a view's.
- pages: a page that is proposed has no words on words, none on outlines, no leaders that cross; overall sizes are those
  of the triangles; a figure that tells a number of the part is that number, also after changes.
"""

from __future__ import annotations

import math
import random
from collections import Counter
from typing import Any

import numpy as np

from tests.overlaps import overlaps
from tools.hunts.shapes import Shaped
from wendal.core import kernel
from wendal.core.drawing.page import drawn_page
from wendal.core.drawing.proposing import proposed_page
from wendal.core.errors import WendalError
from wendal.core.kernel import Frame
from wendal.core.kernel.mesh import mesh_shape
from wendal.core.kernel.types import cross, unit
from wendal.core.quantity import Kind, in_kind
from wendal.core.quantity.units import plain
from wendal.core.route import Evaluation, Memory, Part, apply, evaluate
from wendal.core.route.commands import SetFormula
from wendal.core.strokes import length_of
from wendal.demo import DEMO_PARTS

__all__ = ["hunt_drawings", "judge_lines", "judge_page", "views"]

FINE, ASIDE, LIFT = 0.001, 0.008, 0.016  # mm: of triangles; beside a place, and before it, that a look begins
LOOKS = 300  # at an edge
AGREES = 1e-3  # share of a view's length


def views(rng: random.Random) -> list[Frame]:
    """Return four usual views, and one from anywhere."""
    n = unit((rng.gauss(0, 1), rng.gauss(0, 1), rng.gauss(0, 1)))
    x = unit(cross((0.3, 0.2, 0.9), n))
    return [
        Frame((0, 0, 0), (1, 0, 0), (0, 1, 0)),
        Frame((0, 0, 0), (1, 0, 0), (0, 0, 1)),
        Frame((0, 0, 0), (0, -1, 0), (0, 0, 1)),
        Frame((0, 0, 0), unit((1, 1, 0)), unit((-1, 1, 2))),
        Frame((0, 0, 0), x, cross(n, x)),
    ]


def _triangles(body: kernel.NamedShape) -> np.ndarray:
    """Return a body's triangles, fine ones: (n, 3, 3) mm."""
    from OCP.BRep import BRep_Tool
    from OCP.TopLoc import TopLoc_Location

    from wendal.core.kernel.shapes import faces_of

    mesh_shape(body.shape, FINE, 0.1)
    found = []
    for face in faces_of(body.shape):
        location = TopLoc_Location()
        mesh = BRep_Tool.Triangulation_s(face, location)
        move = location.Transformation()
        nodes = [mesh.Node(i + 1).Transformed(move).Coord() for i in range(mesh.NbNodes())]
        for i in range(mesh.NbTriangles()):
            a, b, c = mesh.Triangle(i + 1).Get()
            found.append((nodes[a - 1], nodes[b - 1], nodes[c - 1]))
    return np.asarray(found)


def _local(frame: Frame, p: np.ndarray) -> np.ndarray:
    axes = np.asarray([frame.x, frame.y, frame.normal])
    return (p - np.asarray(frame.origin)) @ axes.T


def _covered(triangles: np.ndarray, places: np.ndarray) -> np.ndarray:
    """Tell which places (n, 3) have a triangle before them, all in a view's coordinates."""
    order = np.argsort(places[:, 0])
    held = places[order]
    hidden = np.zeros(len(held), dtype=bool)
    low, high = triangles.min(axis=1), triangles.max(axis=1)
    first, last = np.searchsorted(held[:, 0], low[:, 0]), np.searchsorted(held[:, 0], high[:, 0])
    for k in range(len(triangles)):
        span = slice(first[k], last[k])
        p = held[span]
        near = (p[:, 1] > low[k, 1]) & (p[:, 1] < high[k, 1]) & (p[:, 2] < high[k, 2]) & ~hidden[span]
        if not near.any():
            continue
        a, b, c = triangles[k]
        area = (b[0] - a[0]) * (c[1] - a[1]) - (c[0] - a[0]) * (b[1] - a[1])
        if abs(area) < 1e-14:
            continue
        q = p[near]
        u = ((q[:, 0] - a[0]) * (c[1] - a[1]) - (c[0] - a[0]) * (q[:, 1] - a[1])) / area
        v = ((b[0] - a[0]) * (q[:, 1] - a[1]) - (q[:, 0] - a[0]) * (b[1] - a[1])) / area
        depth = a[2] + u * (b[2] - a[2]) + v * (c[2] - a[2])
        hit = (u >= 0) & (v >= 0) & (u + v <= 1) & (depth > q[:, 2])
        hidden[np.arange(first[k], last[k])[near][hit]] = True
    found = np.zeros(len(held), dtype=bool)
    found[order] = hidden
    return found


ROUND = [(1, 0), (-1, 0), (0, 1), (0, -1), (0.7, 0.7), (-0.7, 0.7), (0.7, -0.7), (-0.7, -0.7)]


def free_beside(triangles: np.ndarray, places: np.ndarray, share: float = 1.0) -> np.ndarray:
    """Return how many of eight looks beside each place (n, 3), in a view's coordinates, come to the eye."""
    lifted, off = places + np.array([0.0, 0.0, LIFT * share]), ASIDE * share
    return sum((~_covered(triangles, lifted + np.array([u * off, v * off, 0.0]))).astype(int) for u, v in ROUND)  # type: ignore[return-value]


def judge_lines(body: kernel.NamedShape, frame: Frame, anywhere: bool) -> tuple[str, float]:
    """Hold what is drawn of a body's edges against its triangles; return what came out, and by what share.

    A visible place has a look that is free, a hidden one none that is free all round. anywhere : no two edges lie
    behind each other in this view, so that lengths can be compared too.
    """
    from OCP.BRep import BRep_Tool
    from OCP.BRepAdaptor import BRepAdaptor_Curve

    from wendal.core.kernel.shapes import edges_of

    triangles = _local(frame, _triangles(body))
    curves = [None if BRep_Tool.Degenerated_s(e) else BRepAdaptor_Curve(e) for e in edges_of(body.shape)]
    drawn: dict[int, float] = {}
    places, visible = [], []
    for piece in kernel.lines_of_view([body], frame):
        if piece.edge >= 0:
            drawn.setdefault(piece.edge, 0.0)
            drawn[piece.edge] += length_of(piece.stroke) if piece.visible else 0.0
    for low, high, seen, edge in _ranges(body, frame):
        for share in (0.15, 0.5, 0.85):
            places.append(curves[edge].Value(low + share * (high - low)).Coord())
            visible.append(seen)
    free = free_beside(triangles, _local(frame, np.asarray(places)))
    seen_ = np.asarray(visible)
    wrong = int(((free == 0) & seen_).sum() + ((free == len(ROUND)) & ~seen_).sum())
    if wrong:
        return "places, wrong", wrong / len(places)
    if not anywhere:
        return "places, right", 0.0
    share = 1.0
    for looks, closer in ((LOOKS, 1.0), (5 * LOOKS, 0.25), (5 * LOOKS, 0.06)):  # a doubt is looked at more closely before it is told
        told = _seen_of_edges(triangles, curves, frame, looks, closer)
        whole = sum(told[i] for i in drawn) or 1.0
        share = abs(sum(told[i] - have for i, have in drawn.items())) / whole
        if share <= AGREES:
            return "lengths, right", share
    return "lengths, wrong", share


def _ranges(body: kernel.NamedShape, frame: Frame) -> list[tuple[float, float, bool, int]]:
    """Return the ranges of edges that are drawn, of those long enough to be looked at."""
    found = []
    for piece in kernel.lines_of_view([body], frame):
        if piece.edge >= 0 and length_of(piece.stroke) > 0.3:
            found.append((*piece.span, piece.visible, piece.edge))
    return found


def _seen_of_edges(triangles: np.ndarray, curves: list[Any], frame: Frame, looks: int, closer: float) -> list[float]:
    """Return the length of each edge that is seen in a view, by triangles: so many looks at it, so close beside it."""
    lengths, middles = [], []
    for curve in curves:
        if curve is None:
            lengths.append(np.zeros(looks))
            middles.append(np.zeros((looks, 3)))
            continue
        ts = np.linspace(curve.FirstParameter(), curve.LastParameter(), 2 * looks + 1)
        p = _local(frame, np.asarray([curve.Value(float(t)).Coord() for t in ts]))
        step = np.hypot(*(p[1:, :2] - p[:-1, :2]).T)
        lengths.append(step[::2] + step[1::2])
        middles.append(p[1::2])
    # Round an outline a place is seen a little too far, by the root of how far beside is looked: two looks tell by how much.
    told = []
    for share in (closer, closer / 4):
        seen = (free_beside(triangles, np.concatenate(middles), share) > 0).reshape(len(lengths), looks)
        told.append([float(own[s].sum()) for own, s in zip(lengths, seen, strict=True)])
    return [min(max(2 * near - far, 0.0), float(own.sum())) for far, near, own in zip(*told, lengths, strict=True)]


def judge_page(part: Part, evaluation: Evaluation) -> Counter[str]:
    """Look at a page that is proposed: what overlaps, and whether figures are right."""
    found: Counter[str] = Counter()
    page = proposed_page(part, evaluation)
    sheet = drawn_page(part, evaluation, page)
    for what, count in overlaps(sheet).items():
        found[f"{what}, wrong" if count else "no overlap"] += max(count, 1)
    triangles = np.concatenate([_triangles(b.shape) for b in evaluation.site.bodies.values()])
    size = triangles.reshape(-1, 3).max(axis=0) - triangles.reshape(-1, 3).min(axis=0)
    of_view = {"front": (0, 2), "top": (0, 1), "left": (1, 2), "right": (1, 2)}
    for m in sheet.measured:
        view = page.view(m.of.view)
        if m.state != "sound":
            found[f"figure {m.state}, wrong"] += 1
        elif m.of.kind in ("width", "height") and view is not None and view.way in of_view:
            right = abs(m.value - size[of_view[view.way][m.of.kind == "height"]]) < 0.02
            found["overall, right" if right else "overall, wrong"] += 1
        elif m.of.step:
            found["number, right" if _is_number(part, evaluation, m) else "number, wrong"] += 1
        else:
            found["figure"] += 1
    return found


def _is_number(part: Part, evaluation: Evaluation, m: Any) -> bool:
    tag = next(r.tag for r in part.rows() if (r.step, r.place) == (m.of.step, m.of.place))
    kind = Kind.ANGLE if m.shape == "angle" else Kind.LENGTH
    worth = evaluation.ledger[tag].value
    return worth is not None and math.isclose(abs(plain(in_kind(worth, kind, part.units.units()), kind)), m.value, abs_tol=1e-6)


def _changed(part: Part, rng: random.Random) -> Part:
    """Change a number of the part that can be changed."""
    rows = [r for r in part.rows() if r.step and r.formula.split(" ")[0].replace(".", "", 1).isdigit()]
    row = rng.choice(rows)
    number, _, unit_ = row.formula.partition(" ")
    return apply(part, SetFormula(tag=row.tag, formula=f"{float(number) * rng.uniform(0.85, 1.15):.3f} {unit_}".strip()))


def hunt_drawings(size: int, seed: int) -> Counter[str]:
    """Draw random parts, and the demo parts after changes; count what came out."""
    found: Counter[str] = Counter()
    makes = list(DEMO_PARTS.values())
    for k in range(size):
        rng = random.Random(f"{seed}:{k}")
        memory = Memory()
        try:
            if k % 4:
                part = Shaped(seed * 1000 + k).b.part
            else:
                part = makes[k // 4 % len(makes)]()
                for _ in range(rng.randint(0, 3)):
                    part = _changed(part, rng)
            evaluation = evaluate(part, memory)
        except WendalError:
            found["not built"] += 1
            continue
        bodies = [b.shape for b in evaluation.site.bodies.values() if not b.sheet]
        if not bodies or any(r.state != "built" for r in evaluation.reports):
            found["not built"] += 1
            continue
        for frame in views(rng):
            for body in bodies[:1]:
                said, share = judge_lines(body, frame, abs(max(frame.normal, key=abs)) < 0.99 and abs(frame.normal[0]) != abs(frame.normal[1]))
                found[said] += 1
                if "wrong" in said:
                    print(f"  drawings {seed}:{k}: {share:.4f} of the lines seen along {frame.normal}", flush=True)
        page = judge_page(part, evaluation)
        found += page
        for what in page:
            if "wrong" in what:
                print(f"  drawings {seed}:{k}: {what} {page[what]}", flush=True)
    return found
