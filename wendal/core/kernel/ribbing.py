"""Ribs: walls made longer than needed, of which the pieces stay that lie between what is there already."""

from __future__ import annotations

from collections.abc import Sequence

from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeVertex
from OCP.BRepExtrema import BRepExtrema_DistShapeShape

from ..tolerance import MEETS
from .boolean import cut, fuse
from .ending import LEAK
from .named import NamedShape
from .query import pieces_of
from .shapes import point
from .types import Vec

__all__ = ["ribs_between"]


def ribs_between(
    tools: list[NamedShape], bodies: Sequence[NamedShape], lines: Sequence[Sequence[Vec]]
) -> tuple[list[NamedShape], list[Vec], bool]:
    """Take bodies away from long walls and keep the pieces along the lines that end at bodies everywhere.

    A face of a wall that is beyond everything has `leak` in its name. lines : for every line, places along
    it, the middle one in the middle of the list. Returns the pieces; for the lines whose middle lies in a
    piece that does not end, that place; and whether parts of lines elsewhere lie in such pieces and are left
    out.
    """
    solid = fuse(tools) if len(tools) > 1 else tools[0]
    kept: list[NamedShape] = []
    open_at: list[Vec] = []
    left_out = False
    vertices = [[(p, BRepBuilderAPI_MakeVertex(point(p)).Vertex()) for p in line] for line in lines]
    for piece in pieces_of(cut(solid, list(bodies), merge=False)):
        held = [
            (i, p, k == len(line) // 2)
            for i, line in enumerate(vertices)
            for k, (p, v) in enumerate(line)
            if BRepExtrema_DistShapeShape(v, piece.shape).Value() < MEETS
        ]
        if not held:
            continue
        if any(LEAK in part for names in piece.names for name in names for part in name.split("/")[1:3]):
            middles = [p for _, p, middle in held if middle]
            open_at += middles
            left_out = left_out or not middles
        else:
            kept.append(piece)
    return kept, open_at, left_out
