"""DXF (R2010): a sketch, a flat face or a section at 1 : 1, in mm; every curve as what it is."""

from __future__ import annotations

import io
import math

from ..strokes import Stroke
from .base import Format, Order, register
from .flat import FLAT, FlatOptions, flat_of

COLOURS = {"outline": 7, "openings": 5, "construction": 8, "text": 3}


def _write(order: Order) -> bytes:
    import ezdxf  # takes a while, and few need it
    from ezdxf import units

    ezdxf.options.write_fixed_meta_data_for_testing = True  # the same thing gives the same bytes
    flat = flat_of(order)
    document = ezdxf.new("R2010", setup=["linetypes"], units=units.MM)
    space = document.modelspace()
    for name in dict.fromkeys([*(c[0].layer for c in flat.chains), *(w.layer for w in flat.words)]):
        held = document.layers.add(name, color=COLOURS.get(name, 5))
        if name == "construction":
            held.dxf.linetype = "DASHED"
    for chain in flat.chains:
        for stroke in chain:
            _add(space, stroke)
    for w in flat.words:
        made = space.add_text(
            w.text, height=w.height, rotation=math.degrees(w.angle), dxfattribs={"layer": w.layer}
        )
        made.set_placement(w.at)
    text = io.StringIO()
    document.write(text)
    return text.getvalue().encode("utf-8")


def _add(space: object, s: Stroke) -> None:
    layer = {"layer": s.layer}
    if s.kind == "line":
        space.add_line(s.start, s.end, dxfattribs=layer)  # type: ignore[attr-defined]
    elif s.kind == "arc" and s.closed:
        space.add_circle(s.centre, s.radius, dxfattribs=layer)  # type: ignore[attr-defined]
    elif s.kind == "arc":
        a, b = sorted((s.t0, s.t1))  # always counter-clockwise
        space.add_arc(s.centre, s.radius, math.degrees(a), math.degrees(b), dxfattribs=layer)  # type: ignore[attr-defined]
    elif s.kind == "ellipse":
        major, ratio, a, b = s.major, s.ratio, *sorted((s.t0, s.t1))
        if ratio > 1:  # the longer half-axis is the major one
            major, a, b = (-major[1] * ratio, major[0] * ratio), a - math.pi / 2, b - math.pi / 2
            ratio = 1 / ratio
        if s.closed:
            a, b = 0.0, 2 * math.pi
        space.add_ellipse(s.centre, (*major, 0.0), ratio, a, b, dxfattribs=layer)  # type: ignore[attr-defined]
    elif s.weights:
        space.add_rational_spline(s.poles, s.weights, degree=s.degree, knots=s.knots, dxfattribs=layer)  # type: ignore[attr-defined]
    else:
        made = space.add_open_spline(s.poles, degree=s.degree, knots=s.knots, dxfattribs=layer)  # type: ignore[attr-defined]
        made.dxf.flags = made.dxf.flags | 8  # it lies in a plane


register(Format("dxf", "image/vnd.dxf", "DXF, at 1 : 1 in mm", _write, FLAT, FlatOptions))
