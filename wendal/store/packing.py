"""How documents are kept: compressed, where that saves something."""

from __future__ import annotations

import base64
import zlib

__all__ = ["packed", "unpacked"]

LONG, PACKED = 2_000, "zlib:"  # signs from which on it is compressed, and what it begins with then


def packed(document: str) -> str:
    """Return a document as it is kept."""
    if len(document) < LONG:
        return document
    return PACKED + base64.b64encode(zlib.compress(document.encode(), 9)).decode()


def unpacked(kept: str) -> str:
    """Return a document from the form in which it is kept."""
    if not kept.startswith(PACKED):
        return kept
    return zlib.decompress(base64.b64decode(kept.removeprefix(PACKED))).decode()
