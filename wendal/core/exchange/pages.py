"""What formats write of a drawing: one page, or all; of a part without a drawing, a page that is proposed."""

from __future__ import annotations

from ..drawing.page import Sheet, drawn_page, page_of
from ..drawing.proposing import proposed_page
from ..drawing.titles import titles_of
from .base import Order

__all__ = ["sheets_of"]


def sheets_of(order: Order) -> list[Sheet]:
    """Return the pages that are asked for, in ink; raises CommandRefused."""
    part, evaluation = order.part, order.evaluation
    if order.subject.of == "page":
        pages = [page_of(part, order.subject.page)]
    else:
        pages = part.pages or [proposed_page(part, evaluation)]
    version, date = (getattr(order.options, n, "") for n in ("version", "date"))
    return [drawn_page(part, evaluation, p, titles_of(part, evaluation, p, version, date)) for p in pages]
