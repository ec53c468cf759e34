"""DXF (R2010): a sketch, a flat face, a section or a view at 1 : 1, in mm; every curve as what it is."""

from __future__ import annotations

import io
import math
from typing import Any

from .base import Format, Order, register
from .dxf_page import page_document
from .flat import FLAT, FlatOptions, flat_of
from .pages import sheets_of
from .strokes_dxf import add_stroke

COLOURS = {
    "outline": 7,
    "openings": 5,
    "construction": 8,
    "text": 3,
    "hidden": 8,
    "bend": 6,
    "centre": 1,
    "hatch": 9,
}
LINES = {"construction": "DASHED", "hidden": "HIDDEN", "bend": "PHANTOM", "centre": "CENTER"}


def _write(order: Order) -> bytes:
    import ezdxf  # takes a while, and few need it
    from ezdxf import units

    ezdxf.options.write_fixed_meta_data_for_testing = True  # the same thing gives the same bytes
    if order.subject.of == "page":
        return written(page_document(sheets_of(order)[0]))
    flat = flat_of(order)
    document = ezdxf.new("R2010", setup=["linetypes"], units=units.MM)
    space = document.modelspace()
    for name in dict.fromkeys([*(c[0].layer for c in flat.chains), *(w.layer for w in flat.words)]):
        held = document.layers.add(name, color=COLOURS.get(name, 5))
        held.dxf.linetype = LINES.get(name, "Continuous")
    for chain in flat.chains:
        for stroke in chain:
            add_stroke(space, stroke)
    for w in flat.words:
        made = space.add_text(
            w.text, height=w.height, rotation=math.degrees(w.angle), dxfattribs={"layer": w.layer}
        )
        made.set_placement(w.at)
    return written(document)


def written(document: Any) -> bytes:
    """Return a DXF document as bytes."""
    text = io.StringIO()
    document.write(text)
    return text.getvalue().encode("utf-8")


register(Format("dxf", "image/vnd.dxf", "DXF, at 1 : 1 in mm", _write, (*FLAT, "page"), FlatOptions))
