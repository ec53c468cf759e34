"""Putting the demo parts into a fresh store."""

from __future__ import annotations

from collections.abc import Callable

from wendal.core.route import Part, write_part
from wendal.store import PartStore

from .bracket import instrument_bracket
from .harrow import float_wheel, mast_clamp, well_head_flange
from .housing import cable_hook, sensor_housing

__all__ = ["DEMO_PARTS", "add_demo"]

# By name. The last one made comes first in the list of parts.
_MADE = (cable_hook, sensor_housing, mast_clamp, well_head_flange, float_wheel, instrument_bracket)
DEMO_PARTS: dict[str, Callable[[], Part]] = {make.__name__: make for make in _MADE}


def add_demo(store: PartStore) -> None:
    """Add the demo parts, unless there are parts already."""
    if store.list():
        return
    store.create("New part", write_part(Part(name="New part")), "Begin")
    for make in DEMO_PARTS.values():
        part = make()
        store.create(part.name, write_part(part), "Demo")
