"""Datum geometry: the base planes, and one function a construction."""

from .planes import BASE_PLANES, parallel_plane

__all__ = ["BASE_PLANES", "parallel_plane"]
