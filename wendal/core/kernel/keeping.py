"""Shapes as bytes and back: many in one piece, so that what they share is written once, and is shared again
when it is read."""

from __future__ import annotations

import io
from collections.abc import Iterable
from typing import Any, TypeGuard

from OCP.BinTools import BinTools, BinTools_FormatVersion
from OCP.TopoDS import TopoDS_Iterator, TopoDS_Shape

from .refusing import refused_as
from .shapes import compound

__all__ = ["bytes_of_shapes", "is_shape", "shapes_of_bytes"]


def is_shape(value: Any) -> TypeGuard[TopoDS_Shape]:
    """Tell whether something is a shape of the kernel."""
    return isinstance(value, TopoDS_Shape)


def bytes_of_shapes(shapes: Iterable[TopoDS_Shape]) -> bytes:
    """Return shapes as bytes, with the triangles they have."""
    written = io.BytesIO()
    BinTools.Write_s(
        compound(shapes), written, True, True, BinTools_FormatVersion.BinTools_FormatVersion_VERSION_4
    )
    return written.getvalue()


def shapes_of_bytes(content: bytes) -> list[TopoDS_Shape]:
    """Return the shapes that were written, their faces and edges in the same order; raises ValueError for
    what is none."""
    read = TopoDS_Shape()
    with refused_as(lambda: ValueError("these are no shapes")):
        BinTools.Read_s(read, io.BytesIO(content))
    if read.IsNull():
        raise ValueError("these are no shapes")
    found, children = [], TopoDS_Iterator(read)
    while children.More():
        child = children.Value()
        found.append(child.Oriented(child.Orientation()))
        children.Next()
    return found
