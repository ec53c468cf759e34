"""A chain of curves that runs beside another at one distance."""

from __future__ import annotations

import math
from collections import Counter, defaultdict
from typing import Literal

from ...errors import SketchError
from ...tolerance import BROKEN, SAME_NUMBER, STRAIGHT
from ..drawn import Arc, Bent, Constraint, Drawing, Free, Layout, Line, path_of
from ..equations import arc_arc_end, line_arc_end, point_line, sum_of
from .base import Compiled, Row, Rule, register
from .free import own_variables, square_beside
from .turning import offset

ALIKE = (("circle", "arc"), ("ellipse", "ellipse_arc"), ("point", "arc"))
Meeting = Literal["open", "cut", "gap", "smooth", "sharp"]


@register
class Offset(Rule):
    """Curves in pairs, source before offset curve, along a chain; sense 1 when the chain runs left of the
    first source as drawn.

    A third kind of pair, (point, arc), is the rounding of a gap at a sharp corner of the source. Parts of one
    offset curve have the same source.
    """

    kind, title, symbol, key = "offset", "Offset", "⫽", ""
    takes = ()
    quantity = "length"

    def ordered(self, of: list[str], drawing: Drawing) -> list[str]:
        """Check that pairs fit; the order is as given."""
        for source, made in zip(of[::2], of[1::2], strict=True):
            one, two = drawing.kind(source), drawing.kind(made)
            if one != two and (one, two) not in ALIKE and (two, one) not in ALIKE:
                raise SketchError(f"An offset of a {one} is no {two}.")
        return of

    def choose(self, c: Constraint, at: Layout) -> float:
        """Read the side off the first pair."""
        return side(c.of[0], c.of[1], at)

    def measure(self, c: Constraint, at: Layout) -> float:
        """Return the present distance of the first pair in mm."""
        source, made = c.of[:2]
        if at.drawing.kind(source) == "line":
            return abs(offset(at.drawing.line_points(made)[0], source, at))
        if isinstance(at.drawing.curves[made], Free):
            return abs(_apart(made, at) - _apart(source, at))
        return abs(float(at.x[at.radius(made)] - at.x[at.radius(source)]))

    def compile(self, c: Constraint, at: Layout, value: float) -> Compiled:
        """Distances of the ends from straight sources, radii of round ones, distances of free ones; the rest
        is how they meet."""
        found = Compiled()
        chain = _Chain(c.of, at)
        first: dict[str, str] = {}
        for made, source in chain.pairs.items():
            curve, part = at.drawing.curves[made], source in first
            if isinstance(curve, Line):
                _line(source, made, chain, value, found)
            elif part:
                _as_one(first[source], made, chain, found)
            elif isinstance(curve, Free):
                _free(source, made, chain, value, found)
            elif at.drawing.kind(source) == "point":
                # Where neither side leaves the rounding any room, its middle finds its place along the chord
                # itself.
                settled = all(
                    not isinstance(at.drawing.curves[m], Line)
                    for e in curve.ends or ()
                    for m in chain.mates(made, e)
                )
                found.merges += _middle(at.xy(source), made, at, settled)
            else:
                _round(source, made, chain, value, found)
            first.setdefault(source, made)
        return found


class _Chain:
    """How the curves of an offset chain meet.

    pairs : sources by the curves made from them, in the order of the chain.
    """

    def __init__(self, of: list[str], at: Layout) -> None:
        self.at = at
        self.pairs = dict(zip(of[1::2], of[::2], strict=True))
        self._at_end: dict[str, list[str]] = defaultdict(list)
        for made in self.pairs:
            for end in at.drawing.curves[made].ends or ():
                self._at_end[at.joined[end]].append(made)
        self.placed: set[str] = set()  # cut ends of lines, as joined, that are as far away as they should be
        self._order = {made: i for i, made in enumerate(self.pairs)}
        self._held = {
            at.joined[k.of[0]]
            for k in at.drawing.constraints.values()
            if k.kind == "on_curve" and not k.reference
        }
        self._held |= {p for p, n in Counter(at.joined.values()).items() if n > 1}

    def mates(self, made: str, end: str) -> list[str]:
        """Return the other curves that are joined to an end of one."""
        return [m for m in self._at_end[self.at.joined[end]] if m != made]

    def meeting(self, made: str, end: str) -> tuple[Meeting, str]:
        """Tell how a curve's end meets its neighbour, and which that is.

        A cut end is one that something besides the chain holds.
        """
        mates, source = self.mates(made, end), self.at.drawing.curves.get(self.pairs[made])
        if source is not None and not source.ends:
            return "cut", ""  # of a whole circle or ellipse
        if not mates:
            return (
                "cut" if self.at.joined[end] in self._held and not self._square(made, end) else "open"
            ), ""
        sources = self.pairs[made], self.pairs[mates[0]]
        if sources[0] == sources[1]:
            return "cut", mates[0]
        if self.at.drawing.kind(sources[1]) == "point":
            return "gap", mates[0]
        return ("smooth" if _smooth(*sources, self.source_end(made, end), self.at) else "sharp"), mates[0]

    def _square(self, made: str, end: str) -> bool:
        """Tell whether an end stands square to the source's end, as drawn."""
        q = self.source_end(made, end)
        (x, y), (u, v) = self.at.drawing.place(end), self.at.drawing.place(q)
        dx, dy = _direction(self.pairs[made], u, v, self.at)
        return abs((x - u) * dx + (y - v) * dy) < BROKEN * self.at.size()

    def source_end(self, made: str, end: str) -> str:
        """Return the end of the source that belongs to an end of the curve made of it."""
        curve, source = (self.at.drawing.curves[c] for c in (made, self.pairs[made]))
        return (source.ends or ("", ""))[(curve.ends or ()).index(end)]

    def gives(self, made: str, end: str) -> bool:
        """Tell whether an arc's smooth joint takes its radius from the neighbour's: from a free curve's, and
        from an earlier arc's."""
        how, mate = self.meeting(made, end)
        mates = self.at.drawing.curves.get(mate)
        return how == "smooth" and (
            isinstance(mates, Free) or (isinstance(mates, Arc) and self._order[mate] < self._order[made])
        )


def _line(source: str, made: str, chain: _Chain, value: float, found: Compiled) -> None:
    at, side_ = chain.at, side(source, made, chain.at)
    for p, q in zip(at.drawing.line_points(made), at.drawing.line_points(source), strict=True):
        how, mate = chain.meeting(made, p)
        foot = Row(line_arc_end, (*at.xy(p), *at.xy(q), *at.line(source)))
        away = Row(point_line, (*at.xy(p), *at.line(source)), (side_ * value,))
        if how == "open":
            found.rows += [away, foot]  # an open end stands square to the source's end
        elif how == "gap":
            # Beside a rounded gap: a line at its start gives it its radius, unless what is at its end does;
            # one at its end follows.
            gap = at.drawing.curves[mate]
            assert isinstance(gap, Arc)
            other = next((m for e in gap.ends for m in chain.mates(mate, e) if m != made), made)
            leads = at.joined[gap.start] == at.joined[p] and isinstance(at.drawing.curves[other], Line)
            found.rows += [away, foot] if leads else [foot]
        elif how == "smooth":
            found.rows.append(foot)
        elif at.joined[p] not in chain.placed or how == "sharp":
            found.rows.append(away)  # a cut end stands where it was cut
            chain.placed.add(at.joined[p])


def _free(source: str, made: str, chain: _Chain, value: float, found: Compiled) -> None:
    """An ellipse or spline over the same points, further away; its open and its smooth ends stand square to
    the source's."""
    at = chain.at
    (own, own_side), (theirs, their_side) = at.away(made), at.away(source)
    found.rows.append(Row(sum_of, (own, theirs), (own_side, -their_side, side(source, made, at) * value)))
    _free_ends(source, made, chain, found)


def _free_ends(source: str, made: str, chain: _Chain, found: Compiled) -> None:
    at = chain.at
    done: set[str] = set()
    for p in at.drawing.curves[made].ends or ():
        how, mate = chain.meeting(made, p)
        straight = how == "smooth" and isinstance(at.drawing.curves[mate], Line)  # such a line sees to it
        if how in ("sharp", "cut") or straight or at.joined[p] in done:
            continue
        done.add(at.joined[p])
        if how == "smooth" and isinstance(at.drawing.curves[mate], Free):
            # They touch there, since their sources do: one of them says where.
            if (made, p) in found.waived:
                continue
            found.waived += [
                (mate, e) for e in at.drawing.curves[mate].ends or () if at.joined[e] == at.joined[p]
            ]
        found.rows.append(square_beside(p, chain.source_end(made, p), source, at))


def _as_one(first: str, made: str, chain: _Chain, found: Compiled) -> None:
    """Another part of an offset curve that is not straight: of one shape with the first, its ends like
    any."""
    at, curve = chain.at, chain.at.drawing.curves[made]
    if isinstance(curve, Free):
        found.merges += [
            (a, b) for a, b in zip(own_variables(made, at), own_variables(first, at), strict=True) if a != b
        ]
        found.merges.append((at.away(made)[0], at.away(first)[0]))
        _free_ends(chain.pairs[made], made, chain, found)
    else:
        found.merges += [
            *zip(at.centre(made), at.centre(first), strict=True),
            (at.radius(made), at.radius(first)),
        ]
        _round_ends(chain.pairs[made], made, chain, found)


def _round(source: str, made: str, chain: _Chain, value: float, found: Compiled) -> None:
    at = chain.at
    curve = at.drawing.curves[made]
    given = [end for end in curve.ends or () if chain.gives(made, end)]
    found.merges += _middle(at.centre(source), made, at, len(given) == 2)
    grows = 1.0 if at.x[at.radius(made)] >= at.x[at.radius(source)] else -1.0
    if not given:
        found.rows.append(Row(sum_of, (at.radius(made), at.radius(source)), (1.0, -1.0, grows * value)))
    _round_ends(source, made, chain, found)


def _round_ends(source: str, made: str, chain: _Chain, found: Compiled) -> None:
    at = chain.at
    curve, base = at.drawing.curves[made], at.drawing.curves[source]
    if not isinstance(curve, Arc) or not isinstance(base, Arc):
        return
    given = [end for end in curve.ends if chain.gives(made, end)]
    scale = max(float(at.x[at.radius(source)]), SAME_NUMBER)
    for p, q in zip(curve.ends, base.ends, strict=True):
        how, mate = chain.meeting(made, p)
        if how in ("open", "gap"):
            found.rows.append(Row(arc_arc_end, (*at.xy(p), *at.centre(made), *at.xy(q)), (scale,)))
        elif how == "smooth" and isinstance(at.drawing.curves[mate], Arc) and p not in given:
            # Two arcs that touch: their joint lies in line with both centres, and gives the second its
            # radius.
            found.rows.append(Row(arc_arc_end, (*at.xy(p), *at.centre(made), *at.centre(mate)), (scale,)))


def _middle(centre: tuple[int, int], arc: str, at: Layout, settled: bool) -> list[tuple[int, int]]:
    """Return what makes an arc's centre one with another place: both coordinates, or, where both its ends are
    settled without it, only the one that its chord leaves open."""
    curve = at.drawing.curves[arc]
    both = list(zip(at.centre(arc), centre, strict=True))
    if not settled or not isinstance(curve, Arc):
        return both
    (ax, ay), (bx, by) = (at.drawing.place(p) for p in curve.ends)
    return both[:1] if abs(by - ay) >= abs(bx - ax) else both[1:]


def side(source: str, made: str, at: Layout) -> float:
    """Return 1 when the made curve runs left of the source as that is drawn, else -1."""
    if at.drawing.kind(source) == "line":
        (ax, ay, bx, by), (px, py, qx, qy) = at.x[list(at.line(source))], at.x[list(at.line(made))]
        return 1.0 if (bx - ax) * ((py + qy) / 2 - ay) - (by - ay) * ((px + qx) / 2 - ax) >= 0 else -1.0
    if isinstance(at.drawing.curves[made], Free):
        return 1.0 if _apart(made, at) >= _apart(source, at) else -1.0
    return 1.0 if at.x[at.radius(made)] < at.x[at.radius(source)] else -1.0


def _apart(curve: str, at: Layout) -> float:
    """Return how far to the left of what its points shape a free curve runs, mm."""
    away, side_ = at.away(curve)
    return side_ * float(at.x[away])


def _smooth(one: str, other: str, joint: str, at: Layout) -> bool:
    """Tell whether two sources, one of them not straight, touch at their joint as drawn."""
    if at.drawing.kind(one) == "line" and at.drawing.kind(other) == "line":
        return False
    x, y = at.x[list(at.xy(joint))]
    (ux, uy), (vx, vy) = (_direction(curve, float(x), float(y), at) for curve in (one, other))
    return abs(ux * vy - uy * vx) < STRAIGHT


def _direction(curve: str, x: float, y: float, at: Layout) -> tuple[float, float]:
    """Return the direction, of length 1, in which a curve runs at a place on it."""
    if at.drawing.kind(curve) == "line":
        ax, ay, bx, by = at.x[list(at.line(curve))]
        dx, dy = bx - ax, by - ay
    elif isinstance(at.drawing.curves[curve], Free):
        path = path_of(at.drawing, curve)
        assert isinstance(path, Bent)
        dx, dy = path.moved(path.where(x, y), 1)
    else:
        cx, cy = at.x[list(at.centre(curve))]
        dx, dy = cy - y, x - cx
    n = math.hypot(dx, dy) or 1.0
    return dx / n, dy / n
