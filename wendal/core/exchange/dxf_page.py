"""A page of a drawing as DXF: layers by line types, true arcs, dimensions that are dimensions."""

from __future__ import annotations

import math
from dataclasses import replace
from typing import Any

from ..drawing.ink import PENS, Item
from ..drawing.page import Sheet
from .strokes_dxf import add_stroke

__all__ = ["page_document"]

STYLE = "WENDAL"


def page_document(sheet: Sheet) -> Any:
    """Return a page as a DXF document, 1 unit for 1 mm of paper."""
    import ezdxf  # takes a while, and few need it
    from ezdxf import units

    ezdxf.options.write_fixed_meta_data_for_testing = True  # the same page gives the same bytes
    document = ezdxf.new("R2010", setup=["linetypes", "styles"], units=units.MM)
    for pen in PENS.values():
        if pen.layer not in document.layers:
            document.layers.add(pen.layer, linetype=pen.linetype, lineweight=round(pen.width * 100))
    space = document.modelspace()
    ratios = {v.id: sheet.page.ratio_of(v) for v in sheet.page.views}
    owner = {d.id: d.view for d in sheet.page.dimensions}
    unit = 25.4 if sheet.titles.unit == "inches" else 1.0
    for item in sheet.items:
        k = ratios.get(owner.get(item.id, ""), 1.0)
        if not _dimension(document, space, item, k, unit):
            _plain(space, item)
    return document


def _plain(space: Any, item: Item) -> None:
    for ink in item.inks:
        add_stroke(space, replace(ink.stroke, layer=PENS[ink.pen].layer))
    for blot in item.blots:
        space.add_solid([*blot.places, blot.places[-1]][:4], dxfattribs={"layer": PENS[blot.pen].layer})
    for t in item.texts:
        made = space.add_text(
            t.words,
            height=t.height,
            rotation=math.degrees(t.angle),
            dxfattribs={"layer": PENS[t.pen].layer},
        )
        made.set_placement(t.at)


def _dimension(document: Any, space: Any, item: Item, k: float, unit: float) -> bool:
    """Add an item as a real dimension, its text as it is printed; tell whether it is one."""
    if item.real is None or item.trouble:
        return False
    kind, places = item.real
    style = f"{STYLE}_{k:g}".replace(".", "_")
    if style not in document.dimstyles:
        made = document.dimstyles.new(style)
        made.set_arrows(blk="")
        for name, value in (
            ("dimtxt", 3.5),
            ("dimasz", 3.0),
            ("dimexo", 1.0),
            ("dimexe", 2.0),
            ("dimgap", 1.0),
        ):
            made.set_dxf_attrib(name, value)
        made.set_dxf_attrib("dimlfac", 1.0 / k / unit)
        made.set_dxf_attrib("dimtad", 1)
    more = {"dimstyle": style, "text": item.told, "dxfattribs": {"layer": "DIMENSIONS"}}
    if kind in ("level", "upright"):
        a, b, base = places
        held = space.add_linear_dim(base=base, p1=a, p2=b, angle=0 if kind == "level" else 90, **more)
    elif kind == "straight":
        a, b, base = places
        off = (b[0] - a[0]) * (base[1] - a[1]) - (b[1] - a[1]) * (base[0] - a[0])
        held = space.add_aligned_dim(p1=a, p2=b, distance=off / max(math.dist(a, b), 1e-9), **more)
    elif kind == "radius":
        held = space.add_radius_dim(center=places[0], mpoint=places[1], **more)
    else:
        held = space.add_diameter_dim(center=places[0], mpoint=places[1], **more)
    held.render()
    return True
