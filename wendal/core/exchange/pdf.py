"""PDF: the pages of a drawing, as vectors with embedded fonts."""

from __future__ import annotations

from ..drawing.paper import pdf
from .base import Format, Order, PageOptions, register
from .pages import sheets_of

register(
    Format(
        "pdf",
        "application/pdf",
        "PDF, the drawing's pages",
        lambda order: _write(order),
        ("drawing", "page"),
        PageOptions,
    )
)


def _write(order: Order) -> bytes:
    return pdf(sheets_of(order))
