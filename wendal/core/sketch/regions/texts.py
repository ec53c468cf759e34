"""Texts of a sketch: letters set along a base line, as regions to build from, and as paths to draw.

Every letter stays as it is and stands square on the base line where its own middle is, the way engravers
space letters on a ring.
"""

from __future__ import annotations

import math
from bisect import bisect_right
from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from itertools import accumulate, pairwise

from ...errors import SketchError
from ...lettering import Letter, lettered
from ...tolerance import SAME_NUMBER
from ..drawn import XY, Arc, Bent, Circle, Drawing, EllipsePath, Path, path_of
from .regions import Loop, Piece, Region

__all__ = ["BezierPath", "TextOutline", "check_texts", "reads_turned", "text_outline", "text_regions"]

CHORDS = 400  # that stand for a base line that is neither straight nor round
FACETS = 6  # chords a bent stroke is drawn with where only polygons are known


@dataclass(frozen=True, slots=True)
class BezierPath(Bent):
    """A Bézier curve of a letter over 0 to 1, by its control points."""

    controls: tuple[XY, ...] = ()

    def shape(self, t: float, order: int) -> XY:
        places = self.controls
        for _ in range(order):
            n = len(places) - 1
            places = tuple((n * (b[0] - a[0]), n * (b[1] - a[1])) for a, b in pairwise(places)) or (
                (0.0, 0.0),
            )
        while len(places) > 1:
            places = tuple((a[0] + t * (b[0] - a[0]), a[1] + t * (b[1] - a[1])) for a, b in pairwise(places))
        return places[0]

    def breaks(self) -> list[float]:
        return [
            0.0,
            1.0,
        ]  # its area is a polynomial of degree 5 at most: the four Gauss points of one piece are exact

    def samples(self, a: float, b: float, fineness: float) -> list[float]:
        n = max(1, math.ceil(abs(b - a) * FACETS))
        return [a + (b - a) * i / n for i in range(n)]


@dataclass(frozen=True, slots=True)
class TextOutline:
    """A text as it is drawn.

    path : all outlines as the data of an SVG path, mm in the sketch, to be filled by the even-odd rule.
    boxes : for every letter four corners, feet first, to pick it by.
    """

    path: str
    boxes: list[list[XY]]


@dataclass(frozen=True, slots=True)
class _Stand:
    """Where a letter stands: its origin, the direction of its foot line, mm a capital height."""

    at: XY
    way: XY
    height: float

    def place(self, p: XY) -> XY:
        """Return where a place of the letter (in capital heights) comes to."""
        x, y = p[0] * self.height, p[1] * self.height
        return (
            self.at[0] + x * self.way[0] - y * self.way[1],
            self.at[1] + x * self.way[1] + y * self.way[0],
        )


def reads_turned(drawing: Drawing, base: str) -> bool:
    """Tell whether words read better against a base line's own direction: left to right, upwards, or outside
    round a circle."""
    curve = drawing.curves[base]
    if isinstance(curve, Circle | Arc):
        return True
    path = path_of(drawing, base)
    (ax, ay), (bx, by) = path.at(path.t0), path.at(path.t1)
    return bx < ax - SAME_NUMBER or (abs(bx - ax) <= SAME_NUMBER and by < ay)


def text_regions(drawing: Drawing, text: str, height: float) -> list[Region]:
    """Return the pieces of a text's letters, `height` mm high, as regions. Their sides are named by the
    letters' marks.

    Raises SketchError where its base line is gone, or where it goes more than once round a circle.
    """
    found = []
    for letter, stand in _stands(drawing, text, height):
        name, count = f"{text}.{drawing.texts[text].marks[letter.sign]}", 0
        for loops in letter.shapes:
            made: list[Loop] = []
            for loop in loops:
                pieces = []
                for stroke in loop:
                    path = _path([stand.place(p) for p in stroke])
                    pieces.append(Piece(f"{name}.{count}", path, path.t0, path.t1))
                    count += 1
                made.append(pieces)
            found.append(Region(made[0], made[1:]))
    return found


def text_outline(drawing: Drawing, text: str, height: float) -> TextOutline:
    """Return how a text is drawn; raises as text_regions."""
    parts: list[str] = []
    boxes = []
    for letter, stand in _stands(drawing, text, height):
        for loop in (loop for loops in letter.shapes for loop in loops):
            parts.append(f"M{_said(stand.place(loop[0][0]))}")
            parts += [f"{' LQC'[len(s) - 1]}{' '.join(_said(stand.place(p)) for p in s[1:])}" for s in loop]
            parts.append("Z")
        if letter.shapes:
            boxes.append(
                [stand.place(p) for p in ((0.0, 0.0), (letter.width, 0.0), (letter.width, 1.0), (0.0, 1.0))]
            )
    return TextOutline("".join(parts), boxes)


def check_texts(drawing: Drawing, heights: Mapping[str, float]) -> None:
    """Raise SketchError for a text that can not be set as it is."""
    for text in drawing.texts:
        for _ in _stands(drawing, text, heights[text]):
            break


def _said(p: XY) -> str:
    return f"{p[0]:.7g} {p[1]:.7g}"


def _path(places: list[XY]) -> Path:
    if len(places) > 2:
        return BezierPath(places[0], (0.0, 0.0), 0.0, 0.0, 1.0, controls=tuple(places))
    (ax, ay), (bx, by) = places
    length = math.dist(*places)
    return Path((ax, ay), ((bx - ax) / length, (by - ay) / length), 0.0, 0.0, length)


def _stands(drawing: Drawing, entity: str, height: float) -> Iterator[tuple[Letter, _Stand]]:
    """Yield every letter and where it stands."""
    text = drawing.texts[entity]
    if text.base not in drawing.curves:
        raise SketchError(
            f"The base line of the text “{text.words}” is not in this sketch any more. Remove the text.",
            field=entity,
        )
    if not height > 0:
        raise SketchError(
            f"The text “{text.words}” needs a height greater than zero; this comes to {height:g} mm.",
            field=entity,
        )
    words = lettered(text.words, text.font)
    line = _BaseLine(path_of(drawing, text.base), text.turned)
    width = words.width * height
    if line.closed and width > line.length:
        raise SketchError(
            f"The text “{text.words}” is {width:.1f} mm long and goes more than once round its circle of "
            f"{line.length:.1f} mm. "
            "Make it lower, or the circle larger.",
            field=entity,
        )
    begin = {"start": 0.0, "middle": (line.length - width) / 2, "end": line.length - width}[text.place]
    for letter in words.letters:
        (x, y), (ux, uy) = line.at(begin + (letter.x + letter.width / 2) * height)
        half = letter.width / 2 * height
        yield letter, _Stand((x - half * ux, y - half * uy), (ux, uy), height)


def _top(path: Path) -> float:
    """Return the parameter at which a closed path is highest."""
    (wx, wy), length = path.direction, math.hypot(*path.direction) or 1.0
    return math.atan2(path.other * wx / length, wy) if isinstance(path, EllipsePath) else math.pi / 2


class _BaseLine:
    """A curve by the length along it, in the direction in which words run; beyond its ends it goes straight
    on, an arc round on."""

    def __init__(self, path: Path, turned: bool) -> None:
        self._path, self._turned, self.closed = path, turned, path.closed
        self._bent = isinstance(path, Bent)
        # A closed curve begins where the middle of the words comes to its top, or inside to its bottom.
        self._t0 = (
            _top(path) + (math.pi if turned else 0.0) if path.closed else path.t1 if turned else path.t0
        )
        self._t1 = self._t0 + (-1 if turned else 1) * (path.t1 - path.t0)
        if self._bent:
            self._ts = [self._t0 + (self._t1 - self._t0) * i / CHORDS for i in range(CHORDS + 1)]
            places = [path.at(t) for t in self._ts]
            self._sums = [0.0, *accumulate(math.dist(a, b) for a, b in pairwise(places))]
            self.length = self._sums[-1]
        else:
            self.length = abs(self._t1 - self._t0) * path.scale

    def at(self, s: float) -> tuple[XY, XY]:
        """Return the place after s mm and the direction there."""
        path, way = self._path, -1.0 if self._turned else 1.0
        if not self._bent:
            t = self._t0 + way * s / path.scale
            ux, uy = (-math.sin(t), math.cos(t)) if path.radius else path.direction
            return path.at(t), (way * ux, way * uy)
        assert isinstance(path, Bent)
        inside = min(max(s, 0.0), self.length)
        i = min(max(bisect_right(self._sums, inside) - 1, 0), CHORDS - 1)
        t = self._ts[i] + (self._ts[i + 1] - self._ts[i]) * (inside - self._sums[i]) / (
            self._sums[i + 1] - self._sums[i] or 1.0
        )
        (x, y), (dx, dy) = path.at(t), path.moved(t, 1)
        n = math.hypot(dx, dy) or 1.0
        ux, uy = way * dx / n, way * dy / n
        return (x + (s - inside) * ux, y + (s - inside) * uy), (ux, uy)
