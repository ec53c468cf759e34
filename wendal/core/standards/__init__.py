"""Hole and thread tables, as data files that name their sources."""

from .tables import Thread, clearance, head_room, heads, source_of, thread, threads

__all__ = ["Thread", "clearance", "head_room", "heads", "source_of", "thread", "threads"]
