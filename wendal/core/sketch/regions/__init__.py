"""Closed regions of a sketch, its texts' letters, and the names by which references find them again."""

from .region_names import find_region, find_text, is_text, region_ref, text_ref
from .regions import Piece, Region, Regions, filled, find_regions
from .texts import BezierPath, check_texts, reads_turned, text_outline, text_regions

__all__ = [
    "BezierPath",
    "Piece",
    "Region",
    "Regions",
    "check_texts",
    "filled",
    "find_region",
    "find_regions",
    "find_text",
    "is_text",
    "reads_turned",
    "region_ref",
    "text_outline",
    "text_ref",
    "text_regions",
]
