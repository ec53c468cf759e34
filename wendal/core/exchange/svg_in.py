"""SVG as curves for a sketch: lines, arcs, ellipses and Bézier curves of all shapes; the rest is told.

Read by svgelements, which takes care of nested transformations, view boxes and units. The layer of a curve is
the colour of its stroke.
"""

from __future__ import annotations

import io
import math
import re
from collections import Counter
from collections.abc import Iterator
from dataclasses import replace
from typing import Any

from ..errors import DocumentError
from ..strokes import XY, Stroke
from .curves_in import MOST, UNITS, CurvesRead, drawing_of

__all__ = ["read_svg"]

LARGEST = 20 * 2**20  # bytes
ROOT = re.compile(r"<svg\b[^>]*>", re.S)
SIDE = r"""(?<![\w-])%s\s*=\s*["']\s*([\d.eE+-]+)\s*(mm|cm|in|pt|pc|px|)\s*["']"""
BOX = re.compile(r"""(?<![\w-])viewBox\s*=\s*["']\s*([^"']*)["']""")
LENGTHS = {"mm": 1.0, "cm": 10.0, "in": 25.4, "pt": 25.4 / 72, "pc": 25.4 / 6}
PIXEL = 25.4 / 96  # mm: a unit where lengths have one and there is no view box
BAD = re.compile(r"<!ENTITY", re.I)  # of which a file can make itself endless
SAME = 1e-9


def read_svg(
    content: bytes, unit: str = "", layers: list[str] | None = None, within: float = 0.01
) -> CurvesRead:
    """Read an SVG file's curves. unit : what one of its own units is, "" where its width is in mm, cm, in;
    layers : colours that are taken, None for all; within : mm at which ends are one.

    Raises DocumentError in words, with the field "unit" where the file does not say how large it is.
    """
    from svgelements import SVG  # takes a while, and few need it

    if len(content) > LARGEST:
        raise DocumentError(f"This file is larger than {LARGEST // 2**20} MB.", field="file")
    text = content.decode("utf-8", errors="replace")
    if "<svg" not in text or BAD.search(text):
        raise DocumentError("This is no SVG file, or it is damaged. Nothing was changed.", field="file")
    root = ROOT.search(text)
    k = UNITS.get(unit) or (_scale(root[0]) if root and not unit else 0.0)
    if not k:
        raise DocumentError(
            "The file does not say how large it is. Choose what one of its units is: mm, cm, m, in, ft.",
            field="unit",
        )
    try:
        # Without a size of its own it is read in its own units: the reader's millimetre is a rounded one.
        bare = text.replace(root[0], re.sub(SIDE % "(?:width|height)", "", root[0]), 1) if root else text
        found = SVG.parse(io.StringIO(bare), reify=True)
        left: Counter[str] = Counter()
        strokes = list(_strokes(found, k, left))
    except DocumentError:
        raise
    except Exception as error:  # the reader fails in many ways at what is no SVG
        raise DocumentError(
            "This is no SVG file, or it is damaged. Nothing was changed.", field="file"
        ) from error
    taken = [s for s in strokes if layers is None or s.layer in layers]
    told = [f"{n} {what} not taken" for what, n in sorted(left.items())]
    return drawing_of(taken, unit or "mm", told, within)


def _scale(root: str) -> float:
    """Return how many mm one unit of a file is, by the size and the view box of its root; 0 for unknown."""
    sizes = []
    for side in ("width", "height"):
        found = re.search(SIDE % side, root)
        sizes.append(float(found[1]) * LENGTHS[found[2]] if found and found[2] in LENGTHS else 0.0)
    if not any(sizes):
        return 0.0
    box = BOX.search(root)
    try:
        across = [float(v) for v in re.split(r"[\s,]+", box[1].strip())][2:4] if box else []
    except ValueError:
        across = []
    if len(across) < 2:
        return PIXEL
    return min(
        (size / units for size, units in zip(sizes, across, strict=True) if size and units), default=0.0
    )


def _strokes(svg: Any, k: float, left: Counter[str]) -> Iterator[Stroke]:
    from svgelements import Image, Path, Shape, Text

    count = 0
    for e in svg.elements():
        if isinstance(e, Text | Image):
            left[type(e).__name__.lower()] += 1
        if not isinstance(e, Shape) or e.values.get("display") == "none":
            continue
        layer = str(e.stroke.hex) if e.stroke is not None and e.stroke.value is not None else "no stroke"
        path = Path(e)
        path.reify()  # a turned ellipse keeps its turn apart until it is a path
        for stroke in _joined(_of_path(path, k, layer)):
            count += 1
            if count > 20 * MOST:
                raise DocumentError("This file has too many things in it for a sketch.", field="file")
            yield stroke


def _of_path(path: Any, k: float, layer: str) -> Iterator[Stroke]:
    from svgelements import Arc, Close, CubicBezier, Line, QuadraticBezier

    def xy(p: Any) -> XY:
        return k * float(p.x), -k * float(p.y)  # their Y runs down

    for s in path:
        if isinstance(s, Line | Close):
            if s.start is not None and s.end is not None and abs(s.end - s.start) * k > SAME:
                yield Stroke("line", xy(s.start), xy(s.end), layer=layer)
        elif isinstance(s, Arc):
            yield _arc(s, xy, layer)
        elif isinstance(s, CubicBezier | QuadraticBezier):
            inner = (s.control1, s.control2) if isinstance(s, CubicBezier) else (s.control,)
            poles = tuple(map(xy, (s.start, *inner, s.end)))
            n = len(poles)
            knots = (0.0,) * n + (1.0,) * n
            yield Stroke("spline", poles[0], poles[-1], poles=poles, knots=knots, degree=n - 1, layer=layer)


def _arc(arc: Any, xy: Any, layer: str) -> Stroke:
    centre, one, two = xy(arc.center), xy(arc.prx), xy(arc.pry)
    u = (one[0] - centre[0], one[1] - centre[1])
    v = (two[0] - centre[0], two[1] - centre[1])
    way = 1.0 if u[0] * v[1] - u[1] * v[0] > 0 else -1.0
    t0 = way * float(arc.get_start_t())
    t1 = t0 + way * float(arc.sweep)
    long, short = math.hypot(*u), math.hypot(*v)
    start, end = xy(arc.start), xy(arc.end)
    if abs(long - short) <= SAME * max(long, 1.0):
        turn = math.atan2(u[1], u[0])
        return Stroke("arc", start, end, centre, long, t0 + turn, t1 + turn, layer=layer)
    if short > long:  # the half-axis at angle 0 is the longer one
        t0, t1 = t0 - way * math.pi / 2, t1 - way * math.pi / 2
        if way < 0:
            v = (-v[0], -v[1])
            t0, t1 = t0 - math.pi, t1 - math.pi
        u, long, short = v, short, long
    return Stroke("ellipse", start, end, centre, 0.0, t0, t1, u, short / long, layer=layer)


def _joined(strokes: Iterator[Stroke]) -> Iterator[Stroke]:
    """Yield arcs of one circle, or ellipse, one behind the other as one."""
    held: Stroke | None = None
    for s in strokes:
        if held is not None and _goes_on(held, s):
            held = replace(held, end=s.end, t1=held.t1 + (s.t1 - s.t0))
            continue
        if held is not None:
            yield held
        held = s
    if held is not None:
        yield held


def _goes_on(a: Stroke, b: Stroke) -> bool:
    if a.kind != b.kind or a.kind not in ("arc", "ellipse"):
        return False
    size = max(a.radius, math.hypot(*a.major), 1.0) * 1e-6
    whole = abs(a.t1 - a.t0) + abs(b.t1 - b.t0) <= 2 * math.pi + 1e-6
    return (
        whole
        and math.dist(a.centre, b.centre) < size
        and abs(a.radius - b.radius) < size
        and math.dist(a.major, b.major) < size
        and math.dist(a.end, b.start) < size
        and (a.t1 - a.t0) * (b.t1 - b.t0) > 0
    )
