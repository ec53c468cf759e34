"""Letters of the fonts that are shipped, as outlines."""

from .letters import FONTS, Letter, Lettering, lettered, unknown_signs

__all__ = ["FONTS", "Letter", "Lettering", "lettered", "unknown_signs"]
