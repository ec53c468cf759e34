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
    from .comparing import Apart, apart_from, motion_between, same_within, unmatched
    from .drawing import ink_drawing
    from .enclosing import check_enclosing, encloses, handles
    from .ending import LEAK, Target, up_to, up_to_next
    from .extrusion import prism
    from .face_loops import profile_of_face
    from .facing import FaceRefused, inclined, without_faces
    from .features import feature_of
    from .greatest import farthest
    from .hidden import Seen, lines_of_view, weight_in_view
    from .keeping import bytes_of_shapes, is_shape, shapes_of_bytes
    from .lofting import Lofting, lofted
    from .measuring import Extent, apart, endless, ends_of, extent_of, inertia_of, principal, roundness_of
    from .mesh import FaceMesh, edge_lines, face_meshes
    from .moving import placed, renamed, seen_from
    from .named import NamedShape, set_apart
    from .outlines import outlines_of_cut, outlines_of_face
    from .patches import patches_pushed, runs_on
    from .places import (
        along_edge,
        drop_on_face,
        first_hit,
        nearest_on_edge,
        nearest_on_face,
        normal_on_face,
        pulled_edge,
    )
    from .query import (
        box_of,
        check_solid,
        check_whole,
        describe,
        faces_named,
        lumps,
        mass_of,
        pieces_of,
        together,
        touching,
        volume_of,
    )
    from .receiving import (
        FaceRow,
        Received,
        bodies_received,
        faces_of_received,
        mesh_received,
        name_received,
        read_step,
    )
    from .refusing import is_refusal, refused_as
    from .reshaping import (
        faces_moved,
        faces_offset,
        faces_replaced,
        faces_split,
        front_of,
        nearest_of,
    )
    from .revolution import FULL, revolved, tool_of_revolution
    from .ribbing import ribs_between
    from .rounding import fully_rounded
    from .rounds import Round, rounds_of
    from .section import cut_face, cut_faces, cut_near, turning_lines
    from .shared import edges_at_faces, flat_face_of, same_in
    from .sheets import (
        check_sheet,
        filled,
        is_sheet,
        sheet_along,
        sheet_extended,
        sheet_of_faces,
        sheet_of_region,
        sheet_turned,
        sheets_sewn,
        thickened,
    )
    from .shelling import ShellFailed, hollowed
    from .spines import Spine, spine_drawn, spine_of_edges
    from .splitting import side_of_sheet, split
    from .sweeping import swept, swept_guided, swept_sheet, swept_twisted
    from .trying import most, said, seeking, sought
    from .walls import Wall, least_wall
    from .wrapping import wrapped
    from .write import from_bytes, step_volume, to_bytes, welded, write_step

_ROOMS = {
    "blending": "Blend BlendFailed blended edge_near largest works",
    "boolean": "common cut fuse",
    "comparing": "Apart apart_from motion_between same_within unmatched",
    "drawing": "ink_drawing",
    "enclosing": "check_enclosing encloses handles",
    "ending": "LEAK Target up_to up_to_next",
    "extrusion": "prism",
    "face_loops": "profile_of_face",
    "facing": "FaceRefused inclined without_faces",
    "greatest": "farthest",
    "features": "feature_of",
    "hidden": "Seen lines_of_view weight_in_view",
    "keeping": "bytes_of_shapes is_shape shapes_of_bytes",
    "lofting": "Lofting lofted",
    "measuring": "Extent apart endless ends_of extent_of inertia_of principal roundness_of",
    "mesh": "FaceMesh edge_lines face_meshes",
    "moving": "placed renamed seen_from",
    "named": "NamedShape set_apart",
    "outlines": "outlines_of_cut outlines_of_face",
    "patches": "patches_pushed runs_on",
    "places": "along_edge drop_on_face first_hit nearest_on_edge nearest_on_face normal_on_face pulled_edge",
    "query": "box_of check_solid check_whole describe faces_named lumps mass_of pieces_of together touching"
    " volume_of",
    "receiving": "FaceRow Received bodies_received faces_of_received mesh_received name_received read_step",
    "reshaping": "faces_moved faces_offset faces_replaced faces_split front_of nearest_of",
    "revolution": "FULL revolved tool_of_revolution",
    "ribbing": "ribs_between",
    "refusing": "is_refusal refused_as",
    "rounding": "fully_rounded",
    "rounds": "Round rounds_of",
    "section": "cut_face cut_faces cut_near turning_lines",
    "shared": "edges_at_faces flat_face_of same_in",
    "sheets": (
        "check_sheet filled is_sheet sheet_along sheet_extended sheet_of_faces sheet_of_region sheet_turned "
        "sheets_sewn thickened"
    ),
    "shelling": "ShellFailed hollowed",
    "spines": "Spine spine_drawn spine_of_edges",
    "splitting": "side_of_sheet split",
    "sweeping": "swept swept_guided swept_sheet swept_twisted",
    "trying": "most said seeking sought",
    "walls": "Wall least_wall",
    "wrapping": "wrapped",
    "write": "from_bytes step_volume to_bytes welded write_step",
}
_HOME = {name: room for room, names in _ROOMS.items() for name in names.split()}

__all__ = [
    "FULL",
    "LEAK",
    "Apart",
    "Blend",
    "BlendFailed",
    "Edge",
    "Extent",
    "Face",
    "FaceMesh",
    "FaceRefused",
    "FaceRow",
    "Frame",
    "Lofting",
    "Mass",
    "NamedShape",
    "Placement",
    "Profile",
    "Received",
    "Round",
    "Seen",
    "Segment",
    "ShellFailed",
    "Spine",
    "Target",
    "Topology",
    "Vertex",
    "Wall",
    "along_edge",
    "apart",
    "apart_from",
    "blended",
    "bodies_received",
    "box_of",
    "bytes_of_shapes",
    "check_enclosing",
    "check_sheet",
    "check_solid",
    "check_whole",
    "common",
    "cut",
    "cut_face",
    "cut_faces",
    "cut_near",
    "describe",
    "drop_on_face",
    "edge_lines",
    "edge_near",
    "edges_at_faces",
    "encloses",
    "endless",
    "ends_of",
    "extent_of",
    "face_meshes",
    "faces_moved",
    "faces_named",
    "faces_of_received",
    "faces_offset",
    "faces_replaced",
    "faces_split",
    "farthest",
    "feature_of",
    "filled",
    "first_hit",
    "flat_face_of",
    "from_bytes",
    "front_of",
    "fully_rounded",
    "fuse",
    "handles",
    "hollowed",
    "inclined",
    "inertia_of",
    "ink_drawing",
    "is_refusal",
    "is_shape",
    "is_sheet",
    "largest",
    "least_wall",
    "lines_of_view",
    "lofted",
    "lumps",
    "mass_of",
    "mesh_received",
    "most",
    "motion_between",
    "name_received",
    "nearest_of",
    "nearest_on_edge",
    "nearest_on_face",
    "normal_on_face",
    "outlines_of_cut",
    "outlines_of_face",
    "patches_pushed",
    "pieces_of",
    "placed",
    "principal",
    "prism",
    "profile_of_face",
    "pulled_edge",
    "read_step",
    "refused_as",
    "renamed",
    "revolved",
    "ribs_between",
    "roundness_of",
    "rounds_of",
    "runs_on",
    "said",
    "same_in",
    "same_within",
    "seeking",
    "seen_from",
    "set_apart",
    "shapes_of_bytes",
    "sheet_along",
    "sheet_extended",
    "sheet_of_faces",
    "sheet_of_region",
    "sheet_turned",
    "sheets_sewn",
    "side_of_sheet",
    "sought",
    "spine_drawn",
    "spine_of_edges",
    "split",
    "step_volume",
    "swept",
    "swept_guided",
    "swept_sheet",
    "swept_twisted",
    "thickened",
    "to_bytes",
    "together",
    "tool_of_revolution",
    "touching",
    "turning_lines",
    "unmatched",
    "up_to",
    "up_to_next",
    "upright",
    "volume_of",
    "weight_in_view",
    "welded",
    "without_faces",
    "works",
    "wrapped",
    "write_step",
]


def __getattr__(name: str) -> Any:
    if name not in _HOME:
        raise AttributeError(name)
    return getattr(import_module(f"{__name__}.{_HOME[name]}"), name)
