"""SVG: a sketch, a flat face, a section or a view at 1 : 1, in mm; y points up as in the sketch."""

from __future__ import annotations

import math
from xml.sax.saxutils import escape, quoteattr

from ..drawing.ink import PENS, width_of
from ..drawing.page import Sheet
from ..drawing.paper import CAPITAL
from ..stroke_paths import path_data
from .base import Format, Order, register
from .flat import FLAT, FlatOptions, flat_of
from .pages import sheets_of

MARGIN = 2.0  # mm around
DASHES = {"construction": "2 1", "hidden": "2 1", "bend": "6 1 1 1 1 1", "centre": "6 1 1 1"}


def _write(order: Order) -> bytes:
    if order.subject.of == "page":
        return _page(sheets_of(order)[0])
    flat = flat_of(order)
    x0, y0, x1, y1 = flat.box()
    width, height = x1 - x0 + 2 * MARGIN, y1 - y0 + 2 * MARGIN
    layers: dict[str, list[str]] = {}
    for chain in flat.chains:
        layers.setdefault(chain[0].layer, []).append(path_data(chain))
    lines = [
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{width:.6g}mm" height="{height:.6g}mm" '
        f'viewBox="{x0 - MARGIN:.9g} {-y1 - MARGIN:.9g} {width:.9g} {height:.9g}">',
        f"<title>{escape(f'{order.part.name}, {flat.named}')}</title>",
        '<g fill="none" stroke="#000" stroke-width="0.25" transform="scale(1 -1)">',
    ]
    for name, paths in layers.items():
        dashes = f' stroke-dasharray="{DASHES[name]}"' if name in DASHES else ""
        closed = " ".join(paths)
        lines.append(f'<path id={quoteattr(name.replace(" ", "-"))} d="{closed}"{dashes}/>')
    lines.append("</g>")
    for w in flat.words:
        turn = f"translate({w.at[0]:.9g} {-w.at[1]:.9g}) rotate({-math.degrees(w.angle):.9g})"
        lines.append(
            f'<text transform="{turn}" font-family="Barlow, sans-serif" font-size="{w.height / 0.7:.6g}">'
            f"{escape(w.text)}</text>"
        )
    lines.append("</svg>")
    return "\n".join(lines).encode()


def _page(sheet: Sheet) -> bytes:
    """Write a page of a drawing: each thing on it is a group with its id."""
    w, h = sheet.paper
    lines = [
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{w:g}mm" height="{h:g}mm" '
        f'viewBox="0 0 {w:g} {h:g}">',
        f"<title>{escape(f'{sheet.titles.part}, {sheet.titles.page}')}</title>",
        '<g fill="none" stroke-linecap="round" stroke-linejoin="round">',
    ]
    for item in sheet.items:
        lines.append(f"<g id={quoteattr(item.id)}>")
        pens: dict[str, list[str]] = {}
        for ink in item.inks:
            pens.setdefault(ink.pen, []).append(path_data([ink.stroke]))
        for name, data in pens.items():
            pen = PENS[name]
            dashes = f' stroke-dasharray="{" ".join(f"{d:g}" for d in pen.dashes)}"' if pen.dashes else ""
            lines.append(
                f'<path class="{name}" transform="matrix(1 0 0 -1 0 {h:g})" stroke="{pen.colour}" '
                f'stroke-width="{pen.width:g}"{dashes} d="{"".join(data)}"/>'
            )
        for blot in item.blots:
            places = " ".join(f"{x:.6g},{h - y:.6g}" for x, y in blot.places)
            lines.append(f'<polygon fill="{PENS[blot.pen].colour}" points="{places}"/>')
        for t in item.texts:
            turn = f"translate({t.at[0]:.6g} {h - t.at[1]:.6g}) rotate({-math.degrees(t.angle):.6g})"
            lines.append(
                f'<text transform="{turn}" fill="{PENS[t.pen].colour}" font-family="Barlow, sans-serif" '
                f'font-size="{t.height / CAPITAL:.6g}" textLength="{width_of(t.words, t.height):.6g}">'
                f"{escape(t.words)}</text>"
            )
        lines.append("</g>")
    lines += ["</g>", "</svg>"]
    return "\n".join(lines).encode()


register(Format("svg", "image/svg+xml", "SVG, at 1 : 1 in mm", _write, (*FLAT, "page"), FlatOptions))
