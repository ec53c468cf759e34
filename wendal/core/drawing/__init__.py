"""The drawing: views with exact hidden lines, sections, dimensions that are placed, symbols; pages as ink."""

from .asking import DimensionsProposed, DimensionTried, PageDrawn, PageProposed
from .page import Sheet, drawn_page
from .proposing import proposed_page

__all__ = [
    "DimensionTried",
    "DimensionsProposed",
    "PageDrawn",
    "PageProposed",
    "Sheet",
    "drawn_page",
    "proposed_page",
]
