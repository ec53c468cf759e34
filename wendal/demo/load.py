"""Putting the demo parts into a fresh store."""

from __future__ import annotations

from wendal.core.route import Part, write_part
from wendal.store import PartStore

from .bracket import instrument_bracket

__all__ = ["add_demo"]


def add_demo(store: PartStore) -> None:
    """Add the demo parts, unless there are parts already."""
    if store.list():
        return
    for part, summary in ((Part(name="New part"), "Begin"), (instrument_bracket(), "Demo")):
        store.create(part.name, write_part(part), summary)
