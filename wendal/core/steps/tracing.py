"""What a thing of the model comes to in the plane of a sketch."""

from __future__ import annotations

import math

import numpy as np

from ..datum import Picked
from ..datum.picked import Curve
from ..errors import StepError
from ..kernel.types import Frame, Vec, add, cross, dot, minus, scaled, unit
from ..sketch import Drawing, EllipsePath, Nth, Spline, Traced, find_nth, path_of, traced_spline
from ..tolerance import FIGURES, MEETS, ONE_PLACE, PARALLEL

__all__ = ["chosen", "outlines", "pieces_of", "traced"]

REACH = 50.0  # mm: half the length of an endless line that is taken in
FAR = 1e5  # mm: beyond any face
FINE = 256  # places that a curve is traced by
MOST = 200  # points of a spline
Place = tuple[float, float]


def traced(picked: Picked, frame: Frame, manner: str, near: Place | None = None) -> Traced:
    """Return the one of `pieces_of` that is nearest to `near`."""
    pieces = pieces_of(picked, frame, manner, near)
    return pieces[_nearest(pieces, near)]


def chosen(pieces: list[Traced], near: Place | None, answer: Nth | None) -> int | None:
    """Return which piece is meant: by its order among them where that is kept, else the nearest to where it
    was picked. None where the order does not tell it any more."""
    return find_nth(pieces, answer) if answer else _nearest(pieces, near)


def _nearest(pieces: list[Traced], near: Place | None) -> int:
    if len(pieces) == 1:
        return 0
    return min(range(len(pieces)), key=lambda i: _away(pieces[i], near or (0.0, 0.0)))


def pieces_of(picked: Picked, frame: Frame, manner: str, near: Place | None = None) -> list[Traced]:
    """Return a thing projected square onto a plane, or all pieces in which it meets the plane.

    near : endless lines are shown about this place (mm in the sketch). Raises StepError in words where
    nothing of it comes into the plane as a point, line, circle or arc.
    """
    if manner == "cut":
        return _cut(picked, frame, near)
    if manner == "outline":
        lines = outlines(picked, frame)
        if not lines:
            raise StepError(f"{picked.words.capitalize()} shows no outline of its own in this view.")
        return lines
    return [_projected(picked, frame, near)]


def _projected(picked: Picked, frame: Frame, near: Place | None) -> Traced:
    if picked.circle is not None and picked.curve is not None:
        return _ring(picked, frame) if picked.turned is not None else _oval(picked, frame)
    if picked.line is not None:
        return _line(picked, frame, near)
    if picked.point is not None:
        return Traced(kind="point", places=[_flat(frame, picked.point)])
    if picked.axis is not None:
        return _line(Picked(picked.words, line=picked.axis), frame, near)
    if picked.curve is not None:
        return _bent(picked.curve, frame)
    raise StepError(
        f"{picked.words.capitalize()} can not be projected as it is: edges, corners and axes can."
    )


def _flat(frame: Frame, p: tuple[float, float, float]) -> Place:
    x, y, _ = frame.local(p)
    return (x, y)


def _line(picked: Picked, frame: Frame, near: Place | None) -> Traced:
    line = picked.line
    assert line is not None
    if line.length:
        a, b = _flat(frame, line.origin), _flat(frame, line.at(line.length))
    else:
        a, b = _flat(frame, line.origin), _flat(frame, line.at(1.0))
        n = math.dist(a, b)
        if n > ONE_PLACE:
            ux, uy = (b[0] - a[0]) / n, (b[1] - a[1]) / n
            along = (near[0] - a[0]) * ux + (near[1] - a[1]) * uy if near else -a[0] * ux - a[1] * uy
            mx, my = a[0] + along * ux, a[1] + along * uy
            a, b = (mx - REACH * ux, my - REACH * uy), (mx + REACH * ux, my + REACH * uy)
    if math.dist(a, b) < ONE_PLACE:
        return Traced(kind="point", places=[a])
    return Traced(kind="line", places=[a, b])


def _ring(picked: Picked, frame: Frame) -> Traced:
    """A circular edge: a circle or arc where it lies parallel to the plane, a line where it is seen edge-on,
    else an ellipse."""
    ring, curve = picked.circle, picked.curve
    assert ring is not None
    assert curve is not None
    facing = dot(ring.direction, frame.normal)
    start, end = curve.at(0.0)[0], curve.at(curve.length)[0]
    if abs(abs(facing) - 1.0) < PARALLEL:
        centre = _flat(frame, ring.origin)
        r = math.dist(start, ring.origin)
        if curve.closed:
            return Traced(kind="circle", places=[centre], radius=r)
        a, b = _flat(frame, start), _flat(frame, end)
        return Traced(kind="arc", places=[centre, a, b] if facing > 0 else [centre, b, a], radius=r)
    if abs(facing) < PARALLEL:
        return _edge_on([_flat(frame, curve.at(curve.length * i / FINE)[0]) for i in range(FINE + 1)])
    # Seen aslant: the full radius along the line that both planes share, shortened across it.
    along, r = unit(cross(ring.direction, frame.normal)), math.dist(start, ring.origin)
    centre = _flat(frame, ring.origin)
    tip = (centre[0] + r * dot(along, frame.x), centre[1] + r * dot(along, frame.y))
    if curve.closed:
        return Traced(kind="ellipse", places=[centre, tip], radius=r * abs(facing))
    a, b = _flat(frame, start), _flat(frame, end)
    return Traced(
        kind="ellipse_arc", places=[centre, tip, *((a, b) if facing > 0 else (b, a))], radius=r * abs(facing)
    )


def _oval(picked: Picked, frame: Frame) -> Traced:
    """An elliptical edge: the ellipse about its middle's place that its places lie on, or a line where it is
    seen edge-on."""
    ring, curve = picked.circle, picked.curve
    assert ring is not None
    assert curve is not None
    facing = dot(ring.direction, frame.normal)
    places = [_flat(frame, curve.at(curve.length * i / FINE)[0]) for i in range(FINE + 1)]
    if abs(facing) < PARALLEL:
        return _edge_on(places)
    centre = _flat(frame, ring.origin)
    size = max(math.dist(p, centre) for p in places)
    x, y = ((np.array(places) - centre) / size).T
    # A x² + 2 B x y + C y² = 1: the half-axes are 1 / sqrt(the eigenvalues), the longer one first.
    A, B, C = np.linalg.lstsq(np.stack([x * x, 2 * x * y, y * y], axis=1), np.ones(len(x)), rcond=None)[0]
    values, vectors = np.linalg.eigh(np.array([[A, B], [B, C]]))
    if values[0] <= 0 or np.abs(A * x * x + 2 * B * x * y + C * y * y - 1).max() > MEETS:
        raise StepError(
            f"{picked.words.capitalize()} can not be projected: it comes to no ellipse in the sketch's plane."
        )
    long, short = (size / math.sqrt(v) for v in values)
    ux, uy = vectors[:, 0] * (1.0 if (vectors[0, 0], vectors[1, 0]) > (0.0, 0.0) else -1.0)
    tip = (centre[0] + long * float(ux), centre[1] + long * float(uy))
    if curve.closed:
        return Traced(kind="ellipse", places=[centre, tip], radius=short)
    a, b = (places[0], places[-1]) if facing > 0 else (places[-1], places[0])
    return Traced(kind="ellipse_arc", places=[centre, tip, a, b], radius=short)


def _bent(curve: Curve, frame: Frame) -> Traced:
    """Any other edge: the spline that it is or one along it, or a line where it is seen edge-on."""
    places = [_flat(frame, curve.at(curve.length * i / FINE)[0]) for i in range(FINE + 1)]
    if _straight(places):
        return _edge_on(places)
    pulled = curve.pulled()
    if pulled and len(pulled[1]) <= MOST:
        knots, controls = pulled
        return Traced(kind="spline", places=[_flat(frame, p) for p in controls], knots=knots)
    return Traced(kind="spline", places=traced_spline(places))


def _straight(places: list[Place]) -> bool:
    (ax, ay), (bx, by) = _edge_on(places).places
    n = math.hypot(bx - ax, by - ay) or 1.0
    return max(abs((bx - ax) * (y - ay) - (by - ay) * (x - ax)) / n for x, y in places) < MEETS


def outlines(picked: Picked, frame: Frame) -> list[Traced]:
    """Return the lines in which a round or extruded face turns away from the eye, seen square to a plane;
    none where it is seen end-on."""
    face = picked.face
    found = []
    for at, d in _turning(picked, frame) if face else []:
        assert face is not None
        ends = [face.nearest(add(at, scaled(d, far))) for far in (-FAR, FAR)]
        # Both ends lie on the line only where the face reaches so far round.
        off = max(math.dist(p, add(at, scaled(d, dot(minus(p, at), d)))) for p in ends)
        if off < FIGURES and math.dist(*ends) > ONE_PLACE:
            found.append(Traced(kind="line", places=[_flat(frame, p) for p in ends]))
    return found


def _turning(picked: Picked, frame: Frame) -> list[tuple[Vec, Vec]]:
    """Return the straight lines of a face along which it turns away from the eye, each a place and a
    direction."""
    round_, face = picked.round, picked.face
    if round_ is None or abs(round_.slope) > ONE_PLACE:
        return face.turning(frame.normal) if face else []
    across = cross(round_.axis.direction, frame.normal)
    if math.sqrt(dot(across, across)) < ONE_PLACE:
        return []
    return [
        (add(round_.axis.origin, scaled(unit(across), side)), round_.axis.direction)
        for side in (round_.radius, -round_.radius)
    ]


def _edge_on(places: list[Place]) -> Traced:
    """Return the line that places in one line cover."""
    a = places[0]
    far = max(places, key=lambda p: math.dist(p, a))
    first = max(places, key=lambda p: math.dist(p, far))
    return Traced(kind="line", places=[first, far])


def _cut(picked: Picked, frame: Frame, near: Place | None) -> list[Traced]:
    if picked.face is not None:
        pieces = [_piece(*piece) for piece in picked.face.cut(frame)]
    elif picked.plane is not None:
        pieces = [_plane_line(picked.plane, frame, near)]
    elif picked.line is not None:
        pieces = [_piercing(picked, frame)]
    else:
        raise StepError(
            f"{picked.words.capitalize()} does not cut the sketch's plane in a line: a face, a plane or a "
            "straight edge does."
        )
    if not pieces:
        raise StepError("This face does not meet the sketch's plane in a line or curve.")
    return pieces


def _piece(kind: str, places: list[Place], radius: float) -> Traced:
    if kind == "curve":
        return _edge_on(places) if _straight(places) else Traced(kind="spline", places=traced_spline(places))
    return Traced(kind=kind, places=places, radius=radius)


def _away(t: Traced, near: Place) -> float:
    """How far a place is from a piece, mm."""
    if t.kind == "line":
        (ax, ay), (bx, by) = t.places
        n = math.dist(*t.places) or 1.0
        along = min(max(((near[0] - ax) * (bx - ax) + (near[1] - ay) * (by - ay)) / n, 0.0), n) / n
        return math.dist(near, (ax + along * (bx - ax), ay + along * (by - ay)))
    if t.kind in ("ellipse", "ellipse_arc"):
        (cx, cy), (tx, ty) = t.places[:2]
        return EllipsePath((cx, cy), (tx - cx, ty - cy), 0.0, 0.0, 2 * math.pi, other=t.radius).off(near)
    if t.kind == "spline":
        drawn = Drawing(points={f"p{i}": at for i, at in enumerate(t.places)})
        return path_of(
            drawn.model_copy(update={"curves": {"c": Spline(over=list(drawn.points), manner="pulled")}}), "c"
        ).off(near)
    off = math.dist(near, t.places[0])
    return abs(off - t.radius) if t.kind != "point" else off


def _plane_line(plane: Frame, frame: Frame, near: Place | None) -> Traced:
    """Where another plane crosses the sketch's, as a line of 100 mm about the picked place."""
    n = plane.normal
    a, b = dot(n, frame.x), dot(n, frame.y)
    size = math.hypot(a, b)
    if size < PARALLEL:
        raise StepError("This plane is parallel to the sketch's plane, so they do not meet.")
    c = dot(n, minus(plane.origin, frame.origin))
    # a x + b y = c
    x, y = near or (0.0, 0.0)
    off = (a * x + b * y - c) / size**2
    fx, fy = x - off * a, y - off * b
    ux, uy = -b / size, a / size
    return Traced(
        kind="line", places=[(fx - REACH * ux, fy - REACH * uy), (fx + REACH * ux, fy + REACH * uy)]
    )


def _piercing(picked: Picked, frame: Frame) -> Traced:
    line = picked.line
    assert line is not None
    across = dot(line.direction, frame.normal)
    if abs(across) < PARALLEL:
        raise StepError("This line is parallel to the sketch's plane, so it does not pierce it.")
    t = dot(minus(frame.origin, line.origin), frame.normal) / across
    return Traced(kind="point", places=[_flat(frame, line.at(t))])
