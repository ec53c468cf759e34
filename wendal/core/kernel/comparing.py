"""Comparing two bodies: the same, the same after a motion, a mirror image, or what only one of them has.

Volume and inertia tell nothing of sameness: a bore that is moved changes neither. So faces, edges and corners
are compared one by one, and what differs is made by boolean operations, which must balance: what both have
and what only one has are together that one.
"""

from __future__ import annotations

import math
from collections import Counter, defaultdict
from collections.abc import Iterator
from dataclasses import dataclass, field
from itertools import islice
from typing import Any

import numpy as np
from numpy.typing import NDArray
from OCP.BRepPrimAPI import BRepPrimAPI_MakeBox
from OCP.gp import gp_Pnt
from scipy.spatial import cKDTree

from ..errors import StepError
from ..tolerance import SAME_FIGURE, SAME_PIECE, TOLD_APART
from .boolean import by_kernel, common, cut
from .known import box_six
from .named import NamedShape
from .query import describe, volume_of
from .shapes import faces_of, solids_of
from .types import Frame, Placement, Vec, cross, dot, minus, unit

__all__ = ["Apart", "apart_by_whole", "apart_from", "motion_between", "same_within", "unmatched"]

Floats = NDArray[np.float64]
MOST_OF = 0.5  # of the box of two bodies: if they are apart in more of it, the whole is looked at
MARGIN, LEAST_MARGIN = 0.02, 0.05  # of a box, and mm, that it is wider than what it is put around
BALANCE = 1e-6  # of a volume, by which common and only here may miss the whole
MOST_TRIED = 4000  # motions that are tried, one after the other


@dataclass(slots=True)
class Apart:
    """What two solids have in common, and what only one of them has; None for nothing. Volumes in mm³."""

    common: NamedShape | None = None
    here: NamedShape | None = None
    there: NamedShape | None = None
    volumes: tuple[float, float, float] = field(default=(0.0, 0.0, 0.0))


def _rows(body: NamedShape) -> tuple[Floats, list[str]]:
    """Return every face's row (middle, area, radius, number of edges) and its form."""
    found = body.anatomy
    rows, forms = [], []
    for face in found.faces:
        share = face.mass
        area = float(share[4])
        middle = share[5:8] / area if area else share[5:8]
        real = sum(not e.degenerated for e in face.edges)
        rows.append([*middle, area, face.described.radius, float(real)])
        forms.append(face.described.form)
    return np.array(rows, float).reshape(-1, 6), forms


def _places(body: NamedShape) -> Floats:
    """Return places that belong to the body's shape and not to where the kernel put its seams: corners and
    middles of edges that two different faces meet in."""
    found = describe(body)
    places: list[Vec] = []
    for edge in found.edges:
        if len(set(edge.faces)) < 2:
            continue  # a seam
        if (edge.form == "circle" and not edge.ends) or len(set(edge.ends)) == 1:
            if edge.centre is not None:
                places.append(edge.centre)
            continue
        places.append(edge.middle)
        places += [found.vertices[i].place for i in edge.ends]
    return np.array(places, float).reshape(-1, 3)


def _farthest(a: Floats, b: Floats) -> float:
    """Return how far the worst of some places is from the nearest of the others, both ways."""
    if not len(a) or not len(b):
        return 0.0 if len(a) == len(b) else math.inf
    return float(max(cKDTree(a).query(b)[0].max(), cKDTree(b).query(a)[0].max()))


def unmatched(a: NamedShape, b: NamedShape, within: float = SAME_FIGURE) -> tuple[list[int], list[int]]:
    """Return the faces (by their places) that only one of two shapes has."""
    (rows, forms), (others, other_forms) = _rows(a), _rows(b)
    free = defaultdict(list)
    for j, form in enumerate(other_forms):
        free[form].append(j)
    lonely = []
    for i, form in enumerate(forms):
        found = next((j for j in free[form] if _alike(rows[i], others[j], within)), None)
        if found is None:
            lonely.append(i)
        else:
            free[form].remove(found)
    return lonely, sorted(j for held in free.values() for j in held)


def _alike(a: Floats, b: Floats, within: float) -> bool:
    return bool(np.abs(a - b).max() <= within * max(1.0, float(np.abs(b).max()) ** 0.5))


def same_within(a: NamedShape, b: NamedShape) -> float:
    """Return how much two shapes differ at most, mm, where that can be told by their faces and corners; inf
    where faces differ."""
    if len(a.names) != len(b.names) or len(solids_of(a.shape)) != len(solids_of(b.shape)):
        return math.inf
    sizes = volume_of(a), volume_of(b)
    if abs(sizes[0] - sizes[1]) > TOLD_APART * float(a.anatomy.mass[4]):
        return math.inf
    for within in (SAME_FIGURE, SAME_PIECE, TOLD_APART):
        if unmatched(a, b, within) == ([], []):
            far = _farthest(_places(a), _places(b))
            return max(far, within) if far <= TOLD_APART else math.inf
    return math.inf


def apart_from(a: NamedShape, b: NamedShape) -> Apart:
    """Return what two solids have in common and what only one has; raises StepError where what the kernel
    makes of it does not balance.

    Where they differ in a part of their box only, no more than that part of each is looked at.
    """
    return _apart_within(a, b) or apart_by_whole(a, b)


def apart_by_whole(a: NamedShape, b: NamedShape) -> Apart:
    """As `apart_from`, by the whole of both."""
    made = [
        by_kernel("common", [a], [b], merge=False),
        by_kernel("cut", [a], [b], merge=False),
        by_kernel("cut", [b], [a], merge=False),
    ]
    volumes = [volume_of(m) if solids_of(m.shape) else 0.0 for m in made]
    whole = volume_of(a), volume_of(b)
    fault = max(abs(volumes[0] + volumes[i + 1] - whole[i]) for i in (0, 1))
    if fault > BALANCE * max(*whole, 1.0):
        raise StepError(
            f"The kernel can not tell these two bodies apart soundly: what they share and what only one has "
            f"differ by {fault:.3g} mm³ from the whole. Look at the faces that differ instead."
        )
    common, here, there = (m if v > 0 else None for m, v in zip(made, volumes, strict=True))
    return Apart(common, here, there, (volumes[0], volumes[1], volumes[2]))


def _apart_within(a: NamedShape, b: NamedShape) -> Apart | None:
    """Return what is apart in the box of all that the two do not share; None where that is most of them, or
    what comes of it does not balance."""
    box = _box_apart(a, b)
    if box is None:
        return None
    low, high = box
    size = tuple(h - x for x, h in zip(low, high, strict=True))
    block = NamedShape.collect(BRepPrimAPI_MakeBox(gp_Pnt(*low), *size).Shape(), [])
    try:
        mine, yours = (common(x, [block], merge=False) for x in (a, b))
        here, there = (
            by_kernel("cut", [x], [y], merge=False) if solids_of(x.shape) else x
            for x, y in ((mine, yours), (yours, mine))
        )
        only = [volume_of(x) if solids_of(x.shape) else 0.0 for x in (here, there)]
        shared = cut(a, [here], merge=False) if only[0] else a
    except StepError:
        return None
    whole = volume_of(a), volume_of(b)
    shares = (volume_of(shared), only[0], only[1])
    if max(abs(shares[0] + only[i] - whole[i]) for i in (0, 1)) > BALANCE * max(*whole, 1.0):
        return None
    return Apart(shared, here if only[0] else None, there if only[1] else None, shares)


def _box_apart(a: NamedShape, b: NamedShape) -> tuple[Floats, Floats] | None:
    """Return a box around all that bounds what only one of two shapes has; None where it holds most of them.

    That is each edge that the other has not, and each face which no face of the other goes on in.
    """
    lonely = unmatched(a, b)
    boxes: list[NDArray[np.float64]] = []
    planes = [[x.anatomy.faces[i].surface for i in faces] for x, faces in ((a, lonely[0]), (b, lonely[1]))]
    for x, faces, others in ((a, lonely[0], planes[1]), (b, lonely[1], planes[0])):
        for i in faces:
            surface = x.anatomy.faces[i].surface
            flat = x.anatomy.faces[i].described.form == "flat"
            if not (flat and any(np.abs(surface - o).max() <= SAME_FIGURE for o in others)):
                boxes.append(np.array(box_six(faces_of(x.shape)[i])))
    for x, y in ((a, b), (b, a)):
        boxes += (np.array(box_six(e)) for e in _lonely_edges(x, y))
    if not boxes:
        return None
    found = np.array(boxes)
    low, high = found[:, :3].min(0), found[:, 3:].max(0)
    margin = MARGIN * float(np.linalg.norm(high - low)) + LEAST_MARGIN
    whole = np.array([box_six(x.shape) for x in (a, b)])
    span = whole[:, 3:].max(0) - whole[:, :3].min(0)
    if np.prod(high - low + 2 * margin) > MOST_OF * np.prod(span):
        return None
    return low - margin, high + margin


def _lonely_edges(a: NamedShape, b: NamedShape) -> list[Any]:
    """Return the edges of a shape that the other has not."""
    rows, others = (
        np.array([[*e.described.middle, e.described.length] for e in x.anatomy.edges if not e.degenerated])
        for x in (a, b)
    )
    far, _ = cKDTree(others).query(rows)
    real = [e for e in a.anatomy.edges if not e.degenerated]
    return [e.shape for e, off in zip(real, far, strict=True) if off > SAME_FIGURE]


def motion_between(a: NamedShape, b: NamedShape) -> Placement | None:
    """Return the motion that carries one body onto another of the same shape, None where there is none; a
    mirroring only where no motion does it.

    Two places off the centre, of the rarest faces, are tried on all places of like faces of the other.
    """
    (rows, forms), (others, other_forms) = _rows(a), _rows(b)
    if len(rows) != len(others) or not len(rows):
        return None
    centre, other_centre = _centre(a), _centre(b)
    classes = [_class(r, f, centre) for r, f in zip(rows, forms, strict=True)]
    like = defaultdict(list)
    for j, (r, f) in enumerate(zip(others, other_forms, strict=True)):
        like[_class(r, f, other_centre)].append(j)
    if Counter(classes) != Counter({c: len(js) for c, js in like.items()}):
        return None
    here = np.concatenate([rows[:, :3], _places(a)])
    there = np.concatenate([others[:, :3], _places(b)])
    found = None
    for motion in islice(_candidates(rows, others, classes, like, centre, other_centre), MOST_TRIED):
        if found is not None and motion.mirrors:
            continue
        turned = here @ np.array(motion.turn).T + np.array(motion.shift)
        if _farthest(turned, there) <= SAME_PIECE:
            if not motion.mirrors:
                return motion
            found = motion
    return found


Class = tuple[str, float, float, float, float]


def _centre(body: NamedShape) -> Floats:
    share = body.anatomy.mass
    whole = share[:4] if solids_of(body.shape) else share[4:]
    return np.asarray(whole[1:] / whole[0])


def _class(row: Floats, form: str, centre: Floats) -> Class:
    """Return what a face keeps in any motion."""
    away = float(np.linalg.norm(row[:3] - centre))
    return (form, round(row[3], 5), round(away, 5), round(row[4], 5), row[5])


def _candidates(
    rows: Floats,
    others: Floats,
    classes: list[Class],
    like: dict[Class, list[int]],
    centre: Floats,
    other_centre: Floats,
) -> Iterator[Placement]:
    """Yield the motions that carry the centre and two places of rare faces onto like ones."""
    c, d = _vec(centre), _vec(other_centre)
    off = [i for i in range(len(rows)) if classes[i][2] > SAME_PIECE * 10]
    if not off:  # a ball
        yield Placement.shifted(minus(d, c))
        return
    off.sort(key=lambda i: len(like[classes[i]]))
    first = off[0]
    p = minus(_vec(rows[first]), c)
    second = next((i for i in off[1:] if _leans(p, minus(_vec(rows[i]), c))), None)
    for j in like[classes[first]]:
        q = minus(_vec(others[j]), d)
        if second is None:  # turned about one line: how far it is turned does not matter
            yield _onto(c, p, _beside(p), d, q, _beside(q), 1)
            continue
        p2 = minus(_vec(rows[second]), c)
        for k in like[classes[second]]:
            q2 = minus(_vec(others[k]), d)
            if k != j and abs(dot(q, q2) - dot(p, p2)) <= SAME_PIECE * max(1.0, abs(dot(p, p2))):
                for hand in (1, -1):
                    yield _onto(c, p, p2, d, q, q2, hand)


def _vec(row: Floats) -> Vec:
    return float(row[0]), float(row[1]), float(row[2])


def _leans(a: Vec, b: Vec) -> bool:
    c = cross(a, b)
    return dot(c, c) > 1e-8 * dot(a, a) * dot(b, b)


def _beside(v: Vec) -> Vec:
    """Return some direction that leans against one."""
    least = min(range(3), key=lambda i: abs(v[i]))
    return (float(least == 0), float(least == 1), float(least == 2))


def _onto(c: Vec, p: Vec, p2: Vec, d: Vec, q: Vec, q2: Vec, hand: int) -> Placement:
    """Return the motion that carries one corner of three places onto another; hand -1 : as a mirror image."""
    start, end = _frame(c, p, p2), _frame(d, q, q2)
    motion = Placement.between(start, end)
    if hand > 0:
        return motion
    flat = Frame(d, end.x, end.y)
    return motion.then(Placement.mirrored(flat))


def _frame(at: Vec, p: Vec, p2: Vec) -> Frame:
    x = unit(p)
    n = unit(cross(x, p2))
    return Frame(at, x, cross(n, x))
