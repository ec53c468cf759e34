"""Setting words in a shipped font: which letter stands where, and its outline.

Everything is in capital heights (the nominal size of lettering, as in ISO 3098-1): a letter H is 1 high.
Letters stand on y = 0 and the first begins at x = 0. HarfBuzz sets them, with kerning and without joined
letters, so that every sign has its own outline.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from functools import lru_cache
from itertools import groupby, pairwise
from pathlib import Path

import uharfbuzz as hb

from ..tolerance import SAME_NUMBER

__all__ = ["FONTS", "Letter", "Lettering", "file_of", "lettered", "unknown_signs"]

# By name: what it is called, and the files that hold its signs, the first that has a sign is taken.
FONTS: dict[str, tuple[str, tuple[str, ...]]] = {
    "barlow": ("Barlow", ("barlow-latin", "barlow-latin-ext")),
    "barlow_semibold": ("Barlow semi-bold", ("barlow-semibold-latin", "barlow-semibold-latin-ext")),
    "b612_mono": ("B612 Mono", ("b612-mono-latin",)),
}
XY = tuple[float, float]
Stroke = tuple[XY, ...]  # the control points of a straight line (2) or a Bézier curve (3 or 4)
Loop = tuple[Stroke, ...]


@dataclass(frozen=True, slots=True)
class Letter:
    """One sign in its place.

    sign : its index in the words. x, width : where it begins and how far on the next one stands. shapes : its
    pieces, each an outer loop (counter-clockwise) and the holes in it (clockwise); x counts from the letter's
    own start.
    """

    sign: int
    x: float
    width: float
    shapes: tuple[tuple[Loop, ...], ...]


@dataclass(frozen=True, slots=True)
class Lettering:
    """Words as letters, and how long they are."""

    letters: tuple[Letter, ...]
    width: float


@dataclass(frozen=True, slots=True)
class _Cut:
    """A font file that is open. capital : the height of a capital in its units."""

    font: hb.Font
    capital: float


@lru_cache(maxsize=16)
def _cut(file: str) -> _Cut:
    blob = hb.Blob.from_file_path(str(Path(__file__).parent / "fonts" / f"{file}.ttf"))
    font = hb.Font(hb.Face(blob))
    capital = font.get_metric_position_with_fallback(hb.OTMetricsTag.CAP_HEIGHT)
    return _Cut(font, float(capital))


def file_of(sign: str, font: str) -> str | None:
    return next((f for f in FONTS[font][1] if _cut(f).font.get_nominal_glyph(ord(sign)) is not None), None)


def unknown_signs(words: str, font: str) -> list[str]:
    """Return the signs that a font does not have, each once."""
    return [s for s in dict.fromkeys(words) if file_of(s, font) is None]


@lru_cache(maxsize=256)
def lettered(words: str, font: str) -> Lettering:
    """Set words in a font; a sign that the font does not have is left out.

    Raises KeyError for an unknown font.
    """
    letters: list[Letter] = []
    x = 0.0
    for file, run in groupby(enumerate(words), lambda s: file_of(s[1], font)):
        signs = list(run)
        if file is None:
            continue
        cut = _cut(file)
        buffer = hb.Buffer()
        buffer.add_str("".join(s for _, s in signs))
        buffer.direction, buffer.script, buffer.language = "ltr", "Latn", "en"  # whatever the machine speaks
        hb.shape(cut.font, buffer, {"kern": True, "liga": False, "clig": False, "calt": False})
        for info, position in zip(buffer.glyph_infos, buffer.glyph_positions, strict=True):
            shift = (position.x_offset / cut.capital, position.y_offset / cut.capital)
            width = position.x_advance / cut.capital
            letters.append(Letter(signs[info.cluster][0], x, width, _shapes(file, info.codepoint, shift)))
            x += width
    return Lettering(tuple(letters), x)


class _Pen:
    """Collects the loops of a glyph, in capital heights."""

    def __init__(self, capital: float, shift: XY) -> None:
        self.loops: list[list[Stroke]] = []
        self._capital, self._shift, self._at = capital, shift, (0.0, 0.0)

    def _place(self, p: XY) -> XY:
        return (p[0] / self._capital + self._shift[0], p[1] / self._capital + self._shift[1])

    def _stroke(self, *places: XY) -> None:
        stroke = (self._at, *(self._place(p) for p in places))
        if max(abs(a - b) for q in stroke[1:] for a, b in zip(stroke[0], q, strict=True)) > SAME_NUMBER:
            self.loops[-1].append(stroke)
        self._at = stroke[-1]

    def moveTo(self, p: XY) -> None:  # noqa: N802
        self._at = self._place(p)
        self.loops.append([])

    def lineTo(self, p: XY) -> None:  # noqa: N802
        self._stroke(p)

    def qCurveTo(self, *places: XY) -> None:  # noqa: N802
        self._stroke(*places)

    def curveTo(self, *places: XY) -> None:  # noqa: N802
        self._stroke(*places)

    def closePath(self) -> None:  # noqa: N802
        loop = self.loops[-1]
        if loop and max(abs(a - b) for a, b in zip(loop[0][0], self._at, strict=True)) > SAME_NUMBER:
            loop.append((self._at, loop[0][0]))


@lru_cache(maxsize=2048)
def _shapes(file: str, glyph: int, shift: XY) -> tuple[tuple[Loop, ...], ...]:
    """Return a glyph's pieces: a loop inside an even number of others is the outside of a piece, one inside
    an odd number a hole."""
    cut = _cut(file)
    pen = _Pen(cut.capital, shift)
    cut.font.draw_glyph_with_pen(glyph, pen)
    loops = [tuple(loop) for loop in pen.loops if loop]
    outlines = [list(_corners(loop)) for loop in loops]
    depth = [
        sum(_inside(outlines[k], outlines[i][0]) for k in range(len(loops)) if k != i)
        for i in range(len(loops))
    ]
    pieces = []
    for i, loop in enumerate(loops):
        if depth[i] % 2:
            continue
        holes = [
            _turned(loops[k], outlines[k], -1.0)
            for k in range(len(loops))
            if depth[k] == depth[i] + 1 and _inside(outlines[i], outlines[k][0])
        ]
        pieces.append((_turned(loop, outlines[i], 1.0), *holes))
    return tuple(pieces)


def _corners(loop: Loop) -> Iterator[XY]:
    """Yield places along a loop, close enough to tell inside from outside."""
    for stroke in loop:
        for i in range(4 if len(stroke) > 2 else 1):
            t, places = i / 4, stroke
            while len(places) > 1:
                places = tuple(
                    (a[0] + t * (b[0] - a[0]), a[1] + t * (b[1] - a[1])) for a, b in pairwise(places)
                )
            yield places[0]


def _turned(loop: Loop, outline: list[XY], way: float) -> Loop:
    """Return a loop that runs counter-clockwise (way 1) or clockwise (-1)."""
    area = sum(a[0] * b[1] - a[1] * b[0] for a, b in zip(outline, [*outline[1:], outline[0]], strict=True))
    return loop if area * way > 0 else tuple(stroke[::-1] for stroke in loop[::-1])


def _inside(outline: list[XY], place: XY) -> bool:
    x, y = place
    odd = False
    for (ax, ay), (bx, by) in zip(outline, [*outline[1:], outline[0]], strict=True):
        if (ay > y) != (by > y) and x < ax + (y - ay) * (bx - ax) / (by - ay):
            odd = not odd
    return odd
