"""Reading a STEP file: its solids with their names, and whether they are what the file says.

Damaged files can end the process that reads them, so this runs in a child (`workers/receiving.py`).
"""

from __future__ import annotations

import io
import math
from dataclasses import dataclass, field
from typing import Any

from OCP.BRepCheck import BRepCheck_Analyzer
from OCP.BRepGProp import BRepGProp
from OCP.collections import Sequence_TCollection_AsciiString, Sequence_TDF_Label
from OCP.GProp import GProp_GProps
from OCP.IFSelect import IFSelect_ReturnStatus
from OCP.Interface import Interface_Static
from OCP.STEPCAFControl import STEPCAFControl_Reader
from OCP.TCollection import TCollection_ExtendedString
from OCP.TDataStd import TDataStd_Name
from OCP.TDF import TDF_Label
from OCP.TDocStd import TDocStd_Document
from OCP.TopAbs import TopAbs_ShapeEnum
from OCP.TopLoc import TopLoc_Location
from OCP.TopoDS import TopoDS_Shape
from OCP.XCAFApp import XCAFApp_Application
from OCP.XCAFDoc import XCAFDoc_DocumentTool

from ..errors import DocumentError
from .named import NamedShape
from .query import describe
from .shapes import compound, items, shape_map, solids_of
from .write import from_bytes, to_bytes

__all__ = ["FaceRow", "Received", "faces_of_received", "read_step", "solids_received"]

FACE = TopAbs_ShapeEnum.TopAbs_FACE
FAR = 100_000.0  # mm: no part is larger
Row = dict[str, Any]


@dataclass(slots=True)
class Received:
    """What a file holds: names of its solids in their order, their shape as bytes, and the unit it was in."""

    names: list[str]
    shape: bytes
    unit: str
    volume: float
    faces: int
    low: tuple[float, float, float] = field(default=(0.0, 0.0, 0.0))
    high: tuple[float, float, float] = field(default=(0.0, 0.0, 0.0))


def read_step(content: bytes, faces: int) -> Received:
    """Read a STEP file. faces : how many its text says it has. Raises DocumentError in words."""
    document = TDocStd_Document(TCollection_ExtendedString("BinXCAF"))
    XCAFApp_Application.GetApplication_s().InitDocument(document)
    reader = STEPCAFControl_Reader()
    reader.SetNameMode(True)
    reader.SetColorMode(True)
    try:
        content.decode("utf-8")
        page = "UTF8"
    except UnicodeDecodeError:
        page = "CP1252"
    Interface_Static.SetCVal_s("read.step.codepage", page)
    if reader.ReadStream("received", io.BytesIO(content)) != IFSelect_ReturnStatus.IFSelect_RetDone:
        raise DocumentError("This is no STEP file that can be read: it is cut off, or damaged.", field="file")
    if not reader.Transfer(document):
        raise DocumentError("The shapes in this file can not be read.", field="file")
    lengths, angles, solid_angles = (Sequence_TCollection_AsciiString() for _ in range(3))
    reader.ChangeReader().FileUnits(lengths, angles, solid_angles)
    unit = lengths.Value(1).ToCString() if lengths.Length() else ""
    shapes = XCAFDoc_DocumentTool.ShapeTool_s(document.Main())
    free = Sequence_TDF_Label()
    shapes.GetFreeShapes(free)
    found: list[tuple[str, TopoDS_Shape]] = []
    for i in range(free.Length()):
        found += _solids(free.Value(i + 1), "", TopLoc_Location())
    if not found:
        raise DocumentError(
            "There is no solid in this file. Sheets and loose faces are not taken yet; make a solid of them "
            "where the file comes from.",
            field="file",
        )
    _check(found, faces)
    whole = compound(s for _, s in found)
    names = [n for n, _ in found]
    body = NamedShape(whole, [frozenset()] * len(items(shape_map(whole, FACE))))
    box = body.anatomy.box
    return Received(
        names,
        to_bytes(whole),
        unit,
        sum(_volume(s) for _, s in found),
        sum(len(items(shape_map(s, FACE))) for _, s in found),
        (float(box[0]), float(box[1]), float(box[2])),
        (float(box[3]), float(box[4]), float(box[5])),
    )


def _solids(label: TDF_Label, named: str, at: TopLoc_Location) -> list[tuple[str, TopoDS_Shape]]:
    """Return the solids under a label with their names and places; those of assemblies one by one."""
    from OCP.XCAFDoc import XCAFDoc_ShapeTool as Tool

    name = _name(label) or named
    if Tool.IsAssembly_s(label):
        parts = Sequence_TDF_Label()
        Tool.GetComponents_s(label, parts)
        found = []
        for i in range(parts.Length()):
            found += _solids(parts.Value(i + 1), name, at)
        return found
    if Tool.IsReference_s(label):
        target = TDF_Label()
        Tool.GetReferredShape_s(label, target)
        return _solids(target, name, at.Multiplied(Tool.GetLocation_s(label)))
    shape = Tool.GetShape_s(label).Moved(at)
    return [(name, s) for s in solids_of(shape)]


def _name(label: TDF_Label) -> str:
    held = TDataStd_Name()
    if not label.FindAttribute(TDataStd_Name.GetID_s(), held):
        return ""
    return str(held.Get().ToExtString()).strip()[:80]


def _check(found: list[tuple[str, TopoDS_Shape]], faces: int) -> None:
    """Raise DocumentError unless all faces that the file tells of are there, and every solid is sound."""
    have = sum(len(items(shape_map(s, FACE))) for _, s in found)
    distinct = len({hash(s.TShape()) for _, s in found})
    if faces and have < faces and distinct == len(found):
        raise DocumentError(
            f"The file tells of {faces} faces, and {have} can be read: it is damaged, or part of it is no "
            "solid. Nothing was taken.",
            field="file",
        )
    for name, solid in found:
        volume = _volume(solid)
        if not math.isfinite(volume) or volume <= 0 or not BRepCheck_Analyzer(solid).IsValid():
            raise DocumentError(
                f"The solid “{name or 'without a name'}” in this file is broken. Nothing was taken; mend it "
                "where it comes from.",
                field="file",
            )
        box = NamedShape(solid, [frozenset()] * len(items(shape_map(solid, FACE)))).anatomy.box
        if not all(math.isfinite(x) and abs(x) < FAR for x in box):
            raise DocumentError("This is larger than 100 m, which no part is.", field="file")


def _volume(shape: TopoDS_Shape) -> float:
    volume = GProp_GProps()
    BRepGProp.VolumeProperties_s(shape, volume)
    return float(volume.Mass())


def solids_received(shape: bytes, numbers: list[int], step: str) -> list[NamedShape]:
    """Return the solids that were received, their faces named by the step and their numbers, in their
    order."""
    left = iter(numbers)
    found = []
    for solid in solids_of(from_bytes(shape)):
        count = len(items(shape_map(solid, FACE)))
        found.append(NamedShape(solid, [frozenset({f"{step}/file/{next(left)}"}) for _ in range(count)]))
    return found


@dataclass(frozen=True, slots=True)
class FaceRow:
    """What tells a face from others: its form, sense, area, middle, normal (of flat ones)."""

    form: str
    hollow: bool
    area: float
    middle: tuple[float, float, float]
    normal: tuple[float, float, float]


def faces_of_received(shape: bytes) -> list[FaceRow]:
    """Return the rows of all faces, solid by solid in their order."""
    rows = []
    for solid in solids_of(from_bytes(shape)):
        body = NamedShape(solid, [frozenset()] * len(items(shape_map(solid, FACE))))
        for face, facts in zip(describe(body).faces, body.anatomy.faces, strict=True):
            share = facts.mass
            middle = tuple((share[5:8] / share[4]).tolist())
            n = face.frame.normal if face.form == "flat" else (0.0, 0.0, 0.0)
            rows.append(FaceRow(face.form, face.hollow, float(share[4]), middle, n))
    return rows
