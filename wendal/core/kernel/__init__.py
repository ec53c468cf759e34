"""The geometry kernel, wrapped: the only package that imports the binding.

Importing the binding takes a second and 240 MB, so nothing here is loaded before it is used: the server that
only publishes step kinds never pays for it. Shapes go in and come out with the names of their faces.
"""

from __future__ import annotations

from importlib import import_module
from typing import TYPE_CHECKING, Any

from .types import Edge, Face, Frame, Mass, Placement, Profile, Segment, Topology, Vertex, upright

if TYPE_CHECKING:
    from .blending import Blend, BlendFailed, blended, edge_near, largest, works
    from .boolean import common, cut, fuse
    from .drawing import ink_drawing
    from .ending import LEAK, Target, up_to, up_to_next
    from .extrusion import prism
    from .facing import FaceRefused, inclined, without_faces
    from .features import feature_of
    from .lofting import lofted
    from .mesh import FaceMesh, edge_lines, face_meshes
    from .moving import placed, renamed, seen_from
    from .named import NamedShape
    from .places import along_edge, drop_on_face, first_hit, nearest_on_edge, nearest_on_face, normal_on_face, pulled_edge
    from .query import box_of, check_solid, describe, lumps, mass_of, pieces_of, together, touching, volume_of
    from .revolution import FULL, revolved, tool_of_revolution
    from .ribbing import ribs_between
    from .section import cut_face, turning_lines
    from .shelling import ShellFailed, hollowed
    from .splitting import split
    from .sweeping import swept
    from .trying import most
    from .write import from_bytes, step_volume, to_bytes, write_step, write_stl

_HOME = {
    "Blend": "blending", "BlendFailed": "blending", "blended": "blending", "edge_near": "blending", "largest": "blending",
    "works": "blending", "most": "trying", "swept": "sweeping", "lofted": "lofting", "FaceRefused": "facing", "inclined": "facing", "without_faces": "facing",
    "ShellFailed": "shelling", "hollowed": "shelling", "ribs_between": "ribbing",
    "seen_from": "moving", "placed": "moving", "renamed": "moving", "LEAK": "ending", "Target": "ending", "up_to": "ending",
    "up_to_next": "ending", "FULL": "revolution", "revolved": "revolution", "tool_of_revolution": "revolution", "split": "splitting",
    "box_of": "query", "pieces_of": "query", "together": "query", "touching": "query", "cut_face": "section", "turning_lines": "section",
    "along_edge": "places", "drop_on_face": "places", "first_hit": "places", "feature_of": "features", "nearest_on_edge": "places", "nearest_on_face": "places",
    "normal_on_face": "places", "pulled_edge": "places",
    "common": "boolean", "cut": "boolean", "fuse": "boolean", "ink_drawing": "drawing", "FaceMesh": "mesh", "edge_lines": "mesh",
    "face_meshes": "mesh", "NamedShape": "named", "prism": "extrusion", "check_solid": "query", "describe": "query",
    "lumps": "query", "mass_of": "query", "volume_of": "query", "from_bytes": "write", "step_volume": "write",
    "to_bytes": "write", "write_step": "write",
    "write_stl": "write",
}

__all__ = ["FULL", "LEAK", "Blend", "BlendFailed", "Edge", "Face", "FaceMesh", "FaceRefused", "Frame", "Mass", "NamedShape", "Placement", "Profile",
           "Segment", "ShellFailed", "Target", "Topology", "Vertex", "along_edge", "blended", "box_of", "check_solid", "common", "cut", "cut_face",
           "describe", "drop_on_face", "edge_lines", "edge_near", "face_meshes", "feature_of", "first_hit", "from_bytes", "fuse", "hollowed",
           "inclined", "ink_drawing", "largest", "lofted", "lumps", "mass_of", "most", "nearest_on_edge", "nearest_on_face", "normal_on_face",
           "pieces_of", "placed", "prism", "pulled_edge", "renamed", "revolved", "ribs_between", "seen_from", "split", "step_volume", "swept", "to_bytes",
           "together", "tool_of_revolution", "touching", "turning_lines", "up_to", "up_to_next", "upright", "volume_of", "without_faces", "works",
           "write_step", "write_stl"]


def __getattr__(name: str) -> Any:
    if name not in _HOME:
        raise AttributeError(name)
    return getattr(import_module(f"{__name__}.{_HOME[name]}"), name)
