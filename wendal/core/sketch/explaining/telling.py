"""A motion in words: "the right vertical line slides along X", "the slot turns about the origin"."""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray

from ...once import Once
from ...tolerance import NO_LENGTH, TOLD_AS_ONE
from ..drawn import ORIGIN, Arc, Bent, Circle, Drawing, EllipseArc, Free, Layout, Line, Oval, Spline, path_of
from .shapes_of import call_shape, curves_at, shapes_of
from .words import name_of

__all__ = ["tell"]

XY = tuple[float, float]
TOGETHER = 64  # points for which it is looked at once which curves are near


def tell(drawing: Drawing, moves: dict[str, XY], grows: dict[str, float]) -> str:
    """Say a motion. moves : by point, per mm of the motion; grows : by round curve; both without zeros."""
    if grows:
        return _growth(drawing, moves, grows)
    way, pivot = _way(drawing, moves)
    if way == "turns" and pivot is not None:
        about = _named_at(drawing, pivot)
        crank = "" if about else _crank(drawing, moves)
        if crank:
            return crank
        still = {p for p, at in drawing.points.items() if math.dist(at, pivot) < _near(drawing)}
        who, rest = _who(drawing, set(moves) | still)
        return f"{who} turns about {about or 'its middle'}{rest}"
    known = _gathered(drawing)
    pulled = [p for p in moves if p in known.shaping]
    if not way and len(pulled) == 1:
        how = _way(drawing, {pulled[0]: moves[pulled[0]]})[0]
        return (
            f"{name_of(drawing, pulled[0])} {how if ' along ' in how else 'moves'}, and what is joined to "
            "the spline follows"
        )
    crank = "" if way else _crank(drawing, moves)
    if crank:
        return crank
    ring, rail = "", ""
    if way.startswith("slides in") or len({drawing.place(p) for p in moves}) == 1:
        rail = _rail(drawing, moves)
        ring, rail = ("", rail) if rail else _rolling(drawing, moves)
    if rail:
        who = name_of(drawing, ring) if ring else _who(drawing, set(moves))[0]
        return f"{who} slides along {'it' if rail in who else rail}"
    longer = [c for c, curve in known.ovals if curve.tip in moves and curve.centre not in moves]
    if not way and len(longer) == 1:
        return f"{name_of(drawing, longer[0])} grows or shrinks along its axis"
    who, rest = _who(drawing, set(moves))
    led = "" if way else _led(drawing, moves)
    return led or f"{who} {way or 'moves and changes shape'}{rest}"


def _led(drawing: Drawing, moves: dict[str, XY]) -> str:
    """Say a motion by what leads it, where all else are points that lie on a curve and follow; "" where it
    has no such leader."""
    joined = _gathered(drawing).joined
    lying = {
        joined[k.of[0]] for k in drawing.constraints.values() if k.kind == "on_curve" and not k.reference
    }
    lying |= {
        joined[p]
        for curve in drawing.curves.values()
        if isinstance(curve, Spline | EllipseArc)
        for p in (curve.cut_ends if isinstance(curve, Spline) else curve.ends)
    }
    lead = {p: d for p, d in moves.items() if joined[p] not in lying}
    way, pivot = _way(drawing, lead) if lead and len(lead) < len(moves) else ("", None)
    if not way:
        return ""
    about = f" about {_named_at(drawing, pivot) or 'its middle'}" if pivot else ""
    return f"{_who(drawing, set(lead))[0]} {way}{about}, and what lies on it follows"


def _growth(drawing: Drawing, moves: dict[str, XY], grows: dict[str, float]) -> str:
    ovals = {curve.centre for c in grows if isinstance(curve := drawing.curves[c], Oval) and not curve.side}
    grows = {
        c: grown
        for c, grown in grows.items()  # what runs beside an ellipse goes along with it
        if not (isinstance(curve := drawing.curves[c], Oval) and curve.side and curve.centre in ovals)
    }
    largest = max(grows, key=lambda c: abs(grows[c]))
    name = name_of(drawing, largest)
    if not moves and len(grows) > 1:
        return f"{name} grows or shrinks, with {len(grows) - 1} of one size"
    shape = _gathered(drawing).shape_of[largest]
    curve = drawing.curves[largest]
    if isinstance(curve, Free) and curve.side:
        return f"{name} runs nearer or further away"
    if isinstance(curve, Oval):
        return f"{name} grows or shrinks across its axis"
    with_it = ", and what is joined to it follows" if moves and len(shape) > 1 else ""
    return f"{name} grows or shrinks{with_it}"


def _way(drawing: Drawing, moves: dict[str, XY]) -> tuple[str, XY | None]:
    """Return "slides along X", or "turns" and about where, or "" when the points do not move as one."""
    ways = list(moves.values())
    dx, dy = ways[0]
    if all(abs(x - dx) < TOLD_AS_ONE and abs(y - dy) < TOLD_AS_ONE for x, y in ways):
        aslant = f"in the direction {math.degrees(math.atan2(dy, dx)) % 180:.0f}°"
        return (
            "slides "
            f"{'along X' if abs(dy) < TOLD_AS_ONE else 'along Y' if abs(dx) < TOLD_AS_ONE else aslant}",
            None,
        )
    steps, places = np.array(ways), np.array([drawing.place(p) for p in moves])
    # d = w x (p - c): two unknowns w c and one w, from all points.
    A = np.vstack(
        [
            np.stack([-places[:, 1], np.ones(len(places)), np.zeros(len(places))], axis=1),
            np.stack([places[:, 0], np.zeros(len(places)), np.ones(len(places))], axis=1),
        ]
    )
    b = np.concatenate([steps[:, 0], steps[:, 1]])
    (w, wx, wy), *_ = np.linalg.lstsq(A, b, rcond=None)
    if np.abs(A @ np.array([w, wx, wy]) - b).max() > TOLD_AS_ONE or abs(w) < NO_LENGTH:
        return "", None
    return "turns", (float(-wy / w), float(wx / w))


class _Gathered:
    """What telling needs of a drawing, gathered once: how near is the same place, which curves a point is of,
    where each curve lies."""

    def __init__(self, drawing: Drawing) -> None:
        self.near = 1e-5 * max(max((abs(v) for p in drawing.points.values() for v in p), default=1.0), 1e-3)
        self.joined = Layout(drawing).joined
        self.rank = {c: i for i, c in enumerate(drawing.curves)}
        self.curves_at = curves_at(drawing)
        self.shapes = shapes_of(drawing)
        self.shape_of = {c: shape for shape in self.shapes for c in shape}
        self.shaping = {
            p for curve in drawing.curves.values() if isinstance(curve, Spline) for p in curve.over
        }
        self.ovals = [(c, curve) for c, curve in drawing.curves.items() if isinstance(curve, Oval)]
        self.tangencies = [
            k.of for k in drawing.constraints.values() if k.kind == "tangent" and not k.reference
        ]
        self.names = list(drawing.points)
        self._number = {p: i for i, p in enumerate(self.names)}
        self.places = np.array(list(drawing.points.values())).reshape(-1, 2)
        lines = {c: curve for c, curve in drawing.curves.items() if isinstance(curve, Line)}
        rounds = {c: curve for c, curve in drawing.curves.items() if isinstance(curve, Circle | Arc)}
        self.lines, self.rounds = list(lines), list(rounds)
        self.ends = np.array(
            [[*drawing.place(v.start), *drawing.place(v.end)] for v in lines.values()]
        ).reshape(-1, 4)
        self.rings = np.array([[*drawing.place(v.centre), v.radius] for v in rounds.values()]).reshape(-1, 3)
        bent = self.bent = [c for c, curve in drawing.curves.items() if isinstance(curve, Oval | Spline)]
        boxes = []
        for c in bent:
            path = path_of(drawing, c)
            places = np.array([path.at(t) for t in np.linspace(path.t0, path.t1, 33)])
            slack = 0.3 * float(np.ptp(places, axis=0).max()) + self.near
            boxes.append([*(places.min(0) - slack), *(places.max(0) + slack)])
        self.boxes = np.array(boxes).reshape(-1, 4)

        self._rails: dict[str, list[str]] = {}

    def rails(self, point: str) -> list[str]:
        """Return the curves on which a point may lie so that it moves along them, in the drawing's order."""
        if point not in self._rails:
            first = self._number[point] // TOGETHER * TOGETHER
            self._rails.update(
                zip(
                    self.names[first:], self._near_curves(self.places[first : first + TOGETHER]), strict=False
                )
            )
        return self._rails[point]

    def _near_curves(self, places: NDArray[np.float64]) -> list[list[str]]:
        """Return the curves near each of some places : (k, 2)."""
        x, y = places[:, :1], places[:, 1:]
        ax, ay, bx, by = self.ends.T
        long = np.hypot(bx - ax, by - ay)
        off = np.abs((bx - ax) * (y - ay) - (by - ay) * (x - ax)) / np.where(long > 0, long, 1.0)
        cx, cy, r = self.rings.T
        low_x, low_y, high_x, high_y = self.boxes.T
        near = (
            (off < self.near, self.lines),
            (np.abs(np.hypot(x - cx, y - cy) - r) < self.near, self.rounds),
            ((low_x <= x) & (x <= high_x) & (low_y <= y) & (y <= high_y), self.bent),
        )
        found: list[list[str]] = [[] for _ in places]
        for met, names in near:
            for i, k in zip(*(n.tolist() for n in np.nonzero(met)), strict=True):
                found[i].append(names[k])
        return [sorted(curves, key=self.rank.__getitem__) for curves in found]


_gathered: Once[Drawing, _Gathered] = Once(_Gathered, 4)


def _rail(drawing: Drawing, moves: dict[str, XY]) -> str:
    """Name the curve, itself at rest, on which all the moving points lie and along which they move; "" for
    none."""
    for c in _gathered(drawing).rails(next(iter(moves))):
        curve = drawing.curves[c]
        if isinstance(curve, Line):
            if set(curve.points) & set(moves):
                continue
            (ax, ay), (bx, by) = (drawing.place(p) for p in curve.points)
            normals = dict.fromkeys(moves, (ay - by, bx - ax))
            gaps = [
                abs((bx - ax) * (y - ay) - (by - ay) * (x - ax)) / (math.hypot(bx - ax, by - ay) or 1.0)
                for x, y in map(drawing.place, moves)
            ]
        elif isinstance(curve, Oval | Spline):
            if set(curve.over if isinstance(curve, Spline) else (curve.centre, curve.tip)) & set(moves):
                continue
            path = path_of(drawing, c)
            assert isinstance(path, Bent)
            slopes = {p: path.moved(path.where(*drawing.place(p)), 1) for p in moves}
            normals = {p: (-dy, dx) for p, (dx, dy) in slopes.items()}
            gaps = [path.off(drawing.place(p)) for p in moves]
        else:
            assert isinstance(curve, Circle | Arc)
            if curve.centre in moves:
                continue
            cx, cy = drawing.place(curve.centre)
            normals = {p: (drawing.place(p)[0] - cx, drawing.place(p)[1] - cy) for p in moves}
            gaps = [abs(math.hypot(*n) - curve.radius) for n in normals.values()]
        along = all(
            abs(n[0] * moves[p][0] + n[1] * moves[p][1])
            <= TOLD_AS_ONE * math.hypot(*n) * math.hypot(*moves[p])
            for p, n in normals.items()
        )
        if along and max(gaps) < _near(drawing):
            return name_of(drawing, c)
    return ""


def _rolling(drawing: Drawing, moves: dict[str, XY]) -> tuple[str, str]:
    """Return the circle whose centre alone moves, and the name of the curve at rest that it goes on touching;
    "" for none."""
    for of in _gathered(drawing).tangencies:
        for c, other in (of, of[::-1]):
            ring, rest = drawing.curves.get(c), drawing.curves.get(other)
            if (
                isinstance(ring, Circle)
                and rest
                and ring.centre in moves
                and not set(rest.points) & set(moves)
            ):
                return c, name_of(drawing, other)
    return "", ""


def _near(drawing: Drawing) -> float:
    return _gathered(drawing).near


def _named_at(drawing: Drawing, at: XY) -> str:
    """Name the point at a place, "" where there is none."""
    if math.hypot(*at) < _near(drawing):
        return name_of(drawing, ORIGIN)
    known = _gathered(drawing)
    there = np.nonzero(np.hypot(*(known.places - np.array(at)).T) < known.near)[0]
    return name_of(drawing, known.names[there[0]]) if len(there) else ""


def _who(drawing: Drawing, moved: set[str]) -> tuple[str, str]:
    """Name what moves as one: a whole shape, else a curve, else a point; and what follows, "" for nothing."""
    known = _gathered(drawing)
    if (
        len(drawing.points) > 1
        and len(moved) >= len(drawing.points)
        and moved >= set(drawing.points)
        and len(known.shapes) > 1
    ):
        return "the whole sketch", ""
    touched = sorted({c for p in moved for c in known.curves_at.get(p, ())}, key=known.rank.__getitem__)
    whole = [c for c in touched if set(drawing.curves[c].points) <= moved]
    if not whole:
        return name_of(drawing, min(moved)), ""
    complete = set(whole)
    entire = [
        s for s in {id(known.shape_of[c]): known.shape_of[c] for c in whole}.values() if set(s) <= complete
    ]
    largest = (
        max(entire, key=len)
        if entire
        else [max(whole, key=lambda c: isinstance(drawing.curves[c], Circle | Arc))]
    )
    others = len(whole) - len(largest)
    follow = f", and {others} more curve{'s follow' if others > 1 else ' follows'}" if others else ""
    return call_shape(drawing, largest), follow


def _crank(drawing: Drawing, moves: dict[str, XY]) -> str:
    """Say a motion by the line that turns about an end of it that stays."""
    known = _gathered(drawing)
    for c in sorted({c for p in moves for c in known.curves_at.get(p, ())}, key=known.rank.__getitem__):
        curve = drawing.curves[c]
        if isinstance(curve, Line) and (curve.start in moves) != (curve.end in moves):
            fixed, end = (curve.end, curve.start) if curve.start in moves else (curve.start, curve.end)
            (x, y), (u, v), (dx, dy) = drawing.place(end), drawing.place(fixed), moves[end]
            if abs((x - u) * dx + (y - v) * dy) > TOLD_AS_ONE * math.hypot(x - u, y - v) * math.hypot(dx, dy):
                continue  # it grows longer, so it does not just turn
            about = (
                _named_at(drawing, drawing.place(fixed))
                if drawing.place(fixed) == (0.0, 0.0)
                else "its fixed end"
            )
            places = {tuple(round(v, 6) for v in drawing.place(p)) for p in moves}
            drives = (
                f" and drives {len(places) - 1} more point{'s' if len(places) > 2 else ''}"
                if len(places) > 1
                else ""
            )
            return f"{name_of(drawing, c)} turns about {about}{drives}"
    return ""
