"""What trimming, extending and splitting share: where curves are cut, moving an end to a cut, and dividing a
curve in two."""

from __future__ import annotations

import math
from collections.abc import Iterable
from dataclasses import dataclass
from typing import Any

from ...errors import SketchError
from ...tolerance import MEETS
from ..drawn import (
    AXES,
    Arc,
    Circle,
    Constraint,
    Curve,
    Drawing,
    Ellipse,
    EllipseArc,
    Layout,
    Line,
    Oval,
    Path,
    Place,
    Spline,
    Text,
    crossings,
    path_of,
)
from ..explaining import name_of
from .arrange import without

__all__ = ["Cut", "Worked", "carrier", "cuts_of", "ends_at", "parameter"]

LONG = 1e5  # mm: half the length of an axis as a boundary
TURN = 2 * math.pi


@dataclass(frozen=True, slots=True)
class Cut:
    """A place on a curve, by its parameter there, where another curve meets it."""

    t: float
    by: str
    at: Place


def carrier(drawing: Drawing, curve: str) -> Path:
    """Return the path of a curve, or of an axis as a long line."""
    if curve in AXES:
        return Path((0.0, 0.0), (1.0, 0.0) if curve == "x_axis" else (0.0, 1.0), 0.0, -LONG, LONG)
    return path_of(drawing, curve)


def cuts_of(drawing: Drawing, curve: str, path: Path, by: Iterable[str] | None = None) -> list[Cut]:
    """Return where other curves (or only some) meet a path along a curve, in order, no two at one place."""
    others = by if by is not None else [c for c in drawing.curves if c != curve]
    found: list[Cut] = []
    for other in others:
        if other == curve:
            continue
        pair = {"": path, other: carrier(drawing, other)}
        found += [Cut(t, other, path.at(t)) for _, _, t, _ in crossings(pair)]
    found.sort(key=lambda c: c.t)
    kept: list[Cut] = []
    for cut in found:
        if not kept or (cut.t - kept[-1].t) * path.scale > MEETS:
            kept.append(cut)
    return kept


def parameter(path: Path, place: Place) -> float:
    """Return where on a path the place nearest to the given one is; on an arc between its ends."""
    t = path.where(*place)
    if not path.turns:
        return min(max(t, path.t0), path.t1)
    if t > path.t1:
        return path.t1 if t - path.t1 < path.t0 + TURN - t else path.t0
    return t


def ends_at(drawing: Drawing, curve: str, place: Place) -> str | None:
    """Return the end of a curve that stands at a place."""
    c = drawing.curves.get(curve)
    if c is None or c.ends is None:
        return None
    return next((p for p in c.ends if math.dist(drawing.place(p), place) < MEETS), None)


class Worked:
    """A drawing while it is cut: curves keep their ids, and with them the constraints that still make
    sense."""

    def __init__(self, drawing: Drawing) -> None:
        self.drawing = drawing

    def _new(self, letter: str) -> str:
        last = self.drawing.last + 1
        self.drawing = self.drawing.model_copy(update={"last": last})
        return f"{letter}{last}"

    def point(self, at: Place) -> str:
        """Add a point."""
        p = self._new("p")
        self.drawing = self.drawing.model_copy(update={"points": {**self.drawing.points, p: at}})
        return p

    def curve(self, curve: Curve) -> str:
        """Add a curve."""
        c = self._new("c")
        self.drawing = self.drawing.model_copy(update={"curves": {**self.drawing.curves, c: curve}})
        return c

    def text(self, text: Text) -> str:
        """Add a text."""
        t = self._new("t")
        self.drawing = self.drawing.model_copy(update={"texts": {**self.drawing.texts, t: text}})
        return t

    def constrain(self, kind: str, *of: str, sense: float = 1.0, **more: Any) -> str:
        """Add a constraint."""
        k = self._new("k")
        made = Constraint(kind=kind, of=list(of), sense=sense, **more)
        self.drawing = self.drawing.model_copy(update={"constraints": {**self.drawing.constraints, k: made}})
        return k

    def replace(self, curve: str, by: Curve) -> None:
        """Give a curve another shape under its id."""
        self.drawing = self.drawing.model_copy(update={"curves": {**self.drawing.curves, curve: by}})

    def drop(self, *entities: str) -> None:
        """Remove points, curves or constraints and what hangs on them."""
        self.drawing = without(self.drawing, set(entities))

    def retarget(self, k: str, of: list[str], kind: str = "") -> None:
        """Let a constraint bind other things."""
        c = self.drawing.constraints[k]
        c = c.model_copy(update={"of": of, **({"kind": kind} if kind else {})})
        self.drawing = self.drawing.model_copy(update={"constraints": {**self.drawing.constraints, k: c}})

    def join(self, point: str, cut: Cut) -> None:
        """Join a new end to what cut the curve there: to its end, or somewhere on it."""
        if not cut.by:
            return
        end = ends_at(self.drawing, cut.by, cut.at)
        if end is None:
            self.constrain("on_curve", point, cut.by)
            return
        # An end that lay on the curve by a constraint lies on it by the joint now.
        own = self.drawing.owner(point)
        mates = self.joined_with(end)
        self.drop(
            *(
                k
                for k, c in self.drawing.constraints.items()
                if c.kind == "on_curve" and c.of[1] == own and c.of[0] in mates
            )
        )
        self.constrain("coincident", point, end)

    def joined_with(self, point: str) -> set[str]:
        """Return all points that are one with a point."""
        joined = Layout(self.drawing).joined
        return {p for p, r in joined.items() if r == joined[point]}

    def move_end(self, curve: str, which: int, cut: Cut) -> str:
        """Let a line, arc or spline begin (0) or end (1) at a cut; the old end goes, with what hung on it.
        Returns the new end.

        The points of a spline stay, since they shape what is left of it.
        """
        c = self.drawing.curves[curve]
        assert isinstance(c, Line | Arc | EllipseArc | Spline)
        self._no_length(curve)
        old = c.points[-2:][which]
        fresh = self.point(cut.at)
        self.replace(curve, c.model_copy(update={("start", "end")[which]: fresh}))
        if not isinstance(c, Spline) or old in c.cut_ends:
            self.drop(old)
        self.join(fresh, cut)
        return fresh

    def restore_end(self, curve: str, which: int) -> None:
        """Let a part of a spline begin (0) or end (1) where the whole one does; what runs beside one still
        has an end of its own there."""
        c = self.drawing.curves[curve]
        assert isinstance(c, Spline)
        if c.side:
            path = path_of(self.drawing, curve)
            self.move_end(curve, which, Cut(float(which), "", path.at(float(which))))
            return
        name = ("start", "end")[which]
        self.replace(curve, c.model_copy(update={name: ""}))
        self.drop(getattr(c, name))

    def own(self, curve: str) -> str:
        """Return a curve that may be cut: one that was taken in stays as construction, and a curve of the
        sketch's own follows it."""
        if curve not in self.drawing.taken:
            return curve
        c = self.drawing.curves[curve]
        self.replace(curve, c.model_copy(update={"construction": True}))
        if isinstance(c, Spline):
            return self.curve(c)  # it runs over the same points
        fresh = {
            name: self.point(self.drawing.place(getattr(c, name)))
            for name in ("centre", "tip", "start", "end")
            if hasattr(c, name)
        }
        made = self.curve(c.model_copy(update=fresh))
        if isinstance(c, Line):
            self.constrain("collinear", curve, made)
        else:
            self.same_round(curve, made)
        if c.ends:
            for name in ("start", "end"):
                self.constrain("coincident", getattr(c, name), fresh[name])
        return made

    def _no_length(self, curve: str) -> None:
        """What told a curve's length or middle tells nothing any more."""
        line = isinstance(self.drawing.curves[curve], Line)

        def speaks(c: Constraint) -> bool:
            if c.kind == "equal":
                return line and curve in c.of
            return (c.kind in ("distance", "arc_length") and c.of == [curve]) or (
                c.kind == "midpoint" and c.of[1:] == [curve]
            )

        self.drop(*(k for k, c in self.drawing.constraints.items() if speaks(c)))

    def points_instead(self, curve: str, start: str, end: str) -> None:
        """Let a line's length and middle hold between two points, its old ends."""
        for k, c in list(self.drawing.constraints.items()):
            if c.kind == "distance" and c.of == [curve]:
                self.retarget(k, [start, end])
            elif c.kind == "midpoint" and c.of[1:] == [curve]:
                self.retarget(k, [c.of[0], start, end])
            elif c.kind == "equal" and len(c.of) == 2 and curve in c.of:
                other = next(e for e in c.of if e != curve)
                self.retarget(k, [start, end, *self.drawing.line_points(other)])

    def divide(self, curve: str, low: Cut, high: Cut) -> tuple[str, str]:
        """Keep a line, arc or spline up to `low`, and from `high` on as a new curve; returns the two new
        ends."""
        c = self.drawing.curves[curve]
        assert isinstance(c, Line | Arc | EllipseArc | Spline)
        if isinstance(c, Line):
            self.points_instead(curve, c.start, c.end)
        self._no_length(curve)
        first, second = self.point(low.at), self.point(high.at)
        if isinstance(c, Line):
            rest = self.curve(c.model_copy(update={"start": second}))
        else:
            own = {
                name: self.point(self.drawing.place(getattr(c, name)))
                for name in ("centre", "tip")
                if hasattr(c, name)
            }
            rest = self.curve(c.model_copy(update={"start": second, **own}))
        self.replace(curve, c.model_copy(update={"end": first}))
        self._follow(curve, rest, c.points[-1])
        if self._beside_too(curve, rest):
            pass  # the offset holds both
        elif isinstance(c, Line):
            self.constrain("collinear", curve, rest)
        elif not isinstance(c, Spline):  # both parts of a spline run over the same points
            self.same_round(curve, rest)
        elif c.side:
            self.constrain("equal", curve, rest)
        self.join(first, low)
        self.join(second, high)
        return first, second

    def same_round(self, one: str, other: str) -> None:
        """Two round or elliptic curves lie on one circle or ellipse."""
        self.constrain("concentric", one, other)
        self.constrain("equal", one, other)
        a, b = self.drawing.curves[one], self.drawing.curves[other]
        if isinstance(a, Oval) and isinstance(b, Oval):
            self.constrain("coincident", a.tip, b.tip)

    def _beside_too(self, curve: str, rest: str) -> bool:
        """Let both parts of an offset curve run beside its source; tell whether it was one."""
        for k, c in self.drawing.constraints.items():
            if c.kind == "offset" and curve in c.of[1::2] and not c.reference:
                self.retarget(k, [*c.of, c.of[c.of.index(curve) - 1], rest])
                return True
        return False

    def _follow(self, curve: str, rest: str, end: str) -> None:
        """Tangencies that held at the end that went to the rest hold for the rest."""
        mates = self.joined_with(end)
        for k, c in list(self.drawing.constraints.items()):
            if c.kind == "tangent" and curve in c.of:
                other = self.drawing.curves[next(e for e in c.of if e != curve)]
                if other.ends and mates & set(other.ends):
                    self.retarget(k, [rest if e == curve else e for e in c.of])

    def open_circle(self, circle: str, start: Cut, end: Cut) -> None:
        """Turn a circle or ellipse into the arc from one cut counter-clockwise to another."""
        c = self.drawing.curves[circle]
        first, second = self.point(start.at), self.point(end.at)
        if isinstance(c, Ellipse):
            self.replace(circle, EllipseArc(start=first, end=second, **c.model_dump(exclude={"kind"})))
        else:
            assert isinstance(c, Circle)
            self.replace(
                circle,
                Arc(centre=c.centre, start=first, end=second, radius=c.radius, construction=c.construction),
            )
        self.join(first, start)
        self.join(second, end)

    def named(self, curve: str) -> str:
        """Name a curve in words."""
        if curve not in self.drawing.curves:
            raise SketchError(f"There is no curve “{curve}” in this sketch any more.", field=curve)
        return name_of(self.drawing, curve)
