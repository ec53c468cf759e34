"""The geometry kernel, wrapped: the only package that imports the binding.

Importing the binding takes a second and 240 MB, so nothing here is loaded before it is used: the server that
only publishes step kinds never pays for it. Shapes go in and come out with the names of their faces.
"""

from __future__ import annotations

from importlib import import_module
from typing import TYPE_CHECKING, Any

from .types import Edge, Face, Frame, Mass, Profile, Segment, Topology, Vertex, upright

if TYPE_CHECKING:
    from .boolean import common, cut, fuse
    from .drawing import ink_drawing
    from .extrusion import prism
    from .mesh import FaceMesh, edge_lines, face_meshes
    from .named import NamedShape
    from .query import check_solid, describe, lumps, mass_of, volume_of
    from .write import from_bytes, to_bytes, write_step, write_stl

_HOME = {
    "common": "boolean", "cut": "boolean", "fuse": "boolean", "ink_drawing": "drawing", "FaceMesh": "mesh", "edge_lines": "mesh",
    "face_meshes": "mesh", "NamedShape": "named", "prism": "extrusion", "check_solid": "query", "describe": "query",
    "lumps": "query", "mass_of": "query", "volume_of": "query", "from_bytes": "write", "to_bytes": "write", "write_step": "write",
    "write_stl": "write",
}

__all__ = ["Edge", "Face", "FaceMesh", "Frame", "Mass", "NamedShape", "Profile", "Segment", "Topology", "Vertex",
           "check_solid", "common", "cut", "describe", "edge_lines", "face_meshes", "from_bytes", "fuse", "ink_drawing", "lumps",
           "mass_of", "prism", "to_bytes", "upright", "volume_of", "write_step", "write_stl"]


def __getattr__(name: str) -> Any:
    if name not in _HOME:
        raise AttributeError(name)
    return getattr(import_module(f"{__name__}.{_HOME[name]}"), name)
