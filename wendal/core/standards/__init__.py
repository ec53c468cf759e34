"""Hole and thread tables, as data files that name their sources."""

from .general import general_limit
from .limits import Limits, limits_of
from .tables import Thread, clearance, head_room, heads, materials, source_of, thread, threads

__all__ = [
    "Limits",
    "Thread",
    "clearance",
    "general_limit",
    "head_room",
    "heads",
    "limits_of",
    "materials",
    "source_of",
    "thread",
    "threads",
]
