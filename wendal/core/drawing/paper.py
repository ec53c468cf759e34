"""A page as PDF: vectors and embedded fonts; the same page gives the same bytes."""

from __future__ import annotations

import io
import math
from itertools import groupby
from pathlib import Path
from typing import Any

from ..lettering.letters import FONTS, file_of
from ..strokes import Stroke
from .ink import FONT, PENS, Ink, Text
from .page import Sheet

__all__ = ["CAPITAL", "pdf"]

CAPITAL = 0.7  # of the em, that a capital of the font is high
ARC = math.pi / 8  # rad a Bézier piece at most: its error is below 1e-7 of the radius
PIECES = 12  # straight pieces for one of a bent curve


def pdf(sheets: list[Sheet]) -> bytes:
    """Write pages, each on paper of its own size."""
    from reportlab.lib.colors import HexColor
    from reportlab.lib.units import mm
    from reportlab.pdfgen import canvas

    _fonts()
    held = io.BytesIO()
    paper = canvas.Canvas(held, invariant=1, pageCompression=1)
    paper.setTitle(sheets[0].titles.part)
    paper.setSubject("Drawing")
    paper.setCreator("Wendal")
    for sheet in sheets:
        paper.setPageSize((sheet.paper[0] * mm, sheet.paper[1] * mm))
        paper.scale(mm, mm)
        paper.setLineCap(1)
        paper.setLineJoin(1)
        inks = [i for item in sheet.items for i in item.inks]
        # What is seen lies over what is hidden and over centre lines.
        order = ["hatch", "centre", "hidden", "smooth", "thread", "thin"]
        inks.sort(key=lambda i: order.index(i.pen) if i.pen in order else len(order))
        for name, run in groupby(inks, key=lambda i: i.pen):
            pen = PENS[name]
            paper.setStrokeColor(HexColor(pen.colour))
            paper.setLineWidth(pen.width)
            paper.setDash(list(pen.dashes))
            _draw(paper, run)
        for item in sheet.items:
            for blot in item.blots:
                paper.setFillColor(HexColor(PENS[blot.pen].colour))
                path = paper.beginPath()
                path.moveTo(*blot.places[0])
                for p in blot.places[1:]:
                    path.lineTo(*p)
                path.close()
                paper.drawPath(path, stroke=0, fill=1)
            for text in item.texts:
                _write(paper, text)
        paper.showPage()
    paper.save()
    return held.getvalue()


def _fonts() -> None:
    from reportlab.pdfbase import pdfmetrics
    from reportlab.pdfbase.ttfonts import TTFont

    folder = Path(__file__).parents[1] / "lettering" / "fonts"
    for file in FONTS[FONT][1]:
        if file not in pdfmetrics.getRegisteredFontNames():
            pdfmetrics.registerFont(TTFont(file, str(folder / f"{file}.ttf")))


def _draw(paper: Any, inks: Any) -> None:
    path = paper.beginPath()
    for ink in inks:
        _trace(path, ink)
    paper.drawPath(path, stroke=1, fill=0)


def _trace(path: Any, ink: Ink) -> None:
    s = ink.stroke
    path.moveTo(*s.start)
    if s.kind == "line":
        path.lineTo(*s.end)
    elif s.kind in ("arc", "ellipse"):
        _arc(path, s)
    else:
        n = PIECES * max(1, len(s.poles) - s.degree)
        for i in range(n):
            path.lineTo(*s.at((i + 1) / n))


def _arc(path: Any, s: Stroke) -> None:
    """Trace an arc of a circle or ellipse by Bézier pieces (Goldapp's 4/3 tan(t/4))."""
    turn = s.t1 - s.t0
    n = max(1, math.ceil(abs(turn) / ARC - 1e-9))
    u, v = (s.radius, 0.0) if s.kind == "arc" else s.major
    k = 1.0 if s.kind == "arc" else s.ratio

    def at(t: float, reach: float) -> tuple[float, float]:
        c, d = math.cos(t) - reach * math.sin(t), math.sin(t) + reach * math.cos(t)
        return s.centre[0] + c * u - d * k * v, s.centre[1] + c * v + d * k * u

    step = turn / n
    h = 4 / 3 * math.tan(step / 4)
    for i in range(n):
        a, b = s.t0 + i * step, s.t0 + (i + 1) * step
        path.curveTo(*at(a, h), *at(b, -h), *at(b, 0.0))


def _write(paper: Any, text: Text) -> None:
    """Write a text; its letters keep to the width that the page was laid out with."""
    from reportlab.lib.colors import HexColor
    from reportlab.pdfbase import pdfmetrics

    from ..lettering.letters import lettered

    paper.saveState()
    paper.setFillColor(HexColor(PENS[text.pen].colour))
    paper.translate(*text.at)
    paper.rotate(math.degrees(text.angle))
    size = text.height / CAPITAL
    x = 0.0
    for file, run in groupby(text.words, key=lambda sign: file_of(sign, FONT)):
        words = "".join(run)
        if file is None:
            continue
        want = lettered(words, FONT).width * text.height
        have = pdfmetrics.stringWidth(words, file, size)
        made = paper.beginText(x, 0)
        made.setFont(file, size)
        made.setHorizScale(100.0 * want / have if have else 100.0)
        made.textOut(words)
        paper.drawText(made)
        x += want
    paper.restoreState()
