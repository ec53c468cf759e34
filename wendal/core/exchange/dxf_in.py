"""DXF as curves for a sketch: lines, arcs, circles, ellipses, splines, polylines, placed blocks; the
rest is told."""

from __future__ import annotations

import io
import logging
import math
from collections import Counter
from collections.abc import Iterator
from typing import Any

from ..errors import DocumentError
from ..strokes import XY, Stroke
from .curves_in import MOST, UNITS, CurvesRead, drawing_of

__all__ = ["read_dxf"]

LARGEST = 20 * 2**20  # bytes
DEEP = 12  # blocks within blocks
# $INSUNITS of the format's reference, of which the units are known here.
INSUNITS = {1: "in", 2: "ft", 4: "mm", 5: "cm", 6: "m"}
FLAT = 1e-9


def read_dxf(
    content: bytes, unit: str = "", layers: list[str] | None = None, within: float = 0.01
) -> CurvesRead:
    """Read a DXF file's curves. unit : in which it is, "" for what the file says; within : mm at which
    ends are one.

    layers : those that are taken, None for all. Raises DocumentError in words, with the field "unit" where
    the file does not say in which unit it is."""
    import ezdxf  # takes a while, and few need it
    from ezdxf import recover

    if len(content) > LARGEST:
        raise DocumentError(f"This file is larger than {LARGEST // 2**20} MB.", field="file")
    logging.getLogger("ezdxf").setLevel(logging.CRITICAL)
    try:
        try:
            document = ezdxf.read(io.StringIO(content.decode("utf-8", errors="surrogateescape")))
        except ezdxf.DXFStructureError:
            document, _ = recover.read(io.BytesIO(content))
    except (OSError, ezdxf.DXFError, ValueError, IndexError, KeyError, TypeError) as error:
        raise DocumentError(
            "This is no DXF file, or it is damaged. Nothing was changed.", field="file"
        ) from error
    unit = unit or _unit(document)
    if unit not in UNITS:
        raise DocumentError(
            "The file does not say in which unit it is. Choose one: mm, cm, m, in, ft.", field="unit"
        )
    left: Counter[str] = Counter()
    strokes = [
        s
        for s in _strokes(document.modelspace(), UNITS[unit], left, 0)
        if layers is None or s.layer in layers
    ]
    told = [f"{n} {what} not taken" for what, n in sorted(left.items())]
    return drawing_of(strokes, unit, told, within)


def _unit(document: Any) -> str:
    held = document.header.get("$INSUNITS", 0) if "$INSUNITS" in document.header else 0
    return INSUNITS.get(held, "")


def _strokes(entities: Any, k: float, left: Counter[str], depth: int) -> Iterator[Stroke]:
    if depth > DEEP:
        raise DocumentError("Blocks lie too deep within blocks, or in themselves.", field="file")
    for count, e in enumerate(entities):
        if count > 20 * MOST:
            raise DocumentError("This file has too many things in it for a sketch.", field="file")
        kind = e.dxftype()
        if kind in ("LWPOLYLINE", "POLYLINE", "INSERT"):
            try:
                yield from _strokes(e.virtual_entities(), k, left, depth + 1)
            except RecursionError as error:
                raise DocumentError("A block in this file lies in itself.", field="file") from error
        elif kind in _READ:
            made = _READ[kind](e, k)
            if made is None:
                left[f"{kind} that lies aslant in space"] += 1
            else:
                yield made
        elif kind != "VERTEX":
            left[kind] += 1


def _mirrored(e: Any) -> float | None:
    """Return 1 where a thing is seen from above, -1 from below, None where it lies aslant."""
    x, y, z = e.dxf.extrusion if e.dxf.hasattr("extrusion") else (0.0, 0.0, 1.0)
    if abs(x) > FLAT or abs(y) > FLAT or z == 0:
        return None
    return 1.0 if z > 0 else -1.0


def _xy(p: Any, k: float, side: float = 1.0) -> XY:
    return side * k * float(p[0]), k * float(p[1])


def _level(places: Any) -> bool:
    """Tell whether places in space lie at one height."""
    heights = [float(p[2]) if len(p) > 2 else 0.0 for p in places]
    return max(heights) - min(heights) < FLAT


def _line(e: Any, k: float) -> Stroke | None:
    if not _level((e.dxf.start, e.dxf.end)):
        return None
    return Stroke("line", _xy(e.dxf.start, k), _xy(e.dxf.end, k), layer=str(e.dxf.layer))


def _arc(e: Any, k: float) -> Stroke | None:
    """Return an arc: counter-clockwise in its own plane, which may be seen from below."""
    side = _mirrored(e)
    if side is None:
        return None
    centre, r = _xy(e.dxf.center, k, side), k * float(e.dxf.radius)
    if e.dxftype() == "CIRCLE":
        t0, t1 = 0.0, 2 * math.pi
    else:
        t0, t1 = math.radians(e.dxf.start_angle), math.radians(e.dxf.end_angle)
        t1 += 2 * math.pi * math.ceil((t0 - t1) / (2 * math.pi) + 1e-12) if t1 <= t0 else 0.0
    if side < 0:
        t0, t1 = math.pi - t0, math.pi - t1
    ends = [(centre[0] + r * math.cos(t), centre[1] + r * math.sin(t)) for t in (t0, t1)]
    return Stroke("arc", ends[0], ends[1], centre, r, t0, t1, layer=str(e.dxf.layer))


def _ellipse(e: Any, k: float) -> Stroke | None:
    side = _mirrored(e)
    if side is None:
        return None
    centre, major = _xy(e.dxf.center, k), _xy(e.dxf.major_axis, k)  # in space, not in its own plane
    t0, t1 = float(e.dxf.start_param), float(e.dxf.end_param)
    if t1 <= t0:
        t1 += 2 * math.pi
    if side < 0:
        t0, t1 = -t0, -t1
    made = Stroke(
        "ellipse", (0, 0), (0, 0), centre, 0.0, t0, t1, major, float(e.dxf.ratio), layer=str(e.dxf.layer)
    )
    return Stroke(
        "ellipse",
        made.at(0.0),
        made.at(1.0),
        centre,
        0.0,
        t0,
        t1,
        major,
        float(e.dxf.ratio),
        layer=made.layer,
    )


def _spline(e: Any, k: float) -> Stroke | None:
    tool = e.construction_tool()  # makes control points of one that was given by places
    if not _level(tool.control_points):
        return None
    poles = tuple(_xy(p, k) for p in tool.control_points)
    weights = tuple(float(w) for w in tool.weights())
    plain = not weights or max(weights) - min(weights) < 1e-12
    knots = tuple(float(t) for t in tool.knots())
    return Stroke(
        "spline",
        poles[0],
        poles[-1],
        poles=poles,
        weights=() if plain else weights,
        knots=knots,
        degree=int(tool.order) - 1,
        layer=str(e.dxf.layer),
    )


_READ: dict[str, Any] = {"LINE": _line, "ARC": _arc, "CIRCLE": _arc, "ELLIPSE": _ellipse, "SPLINE": _spline}
