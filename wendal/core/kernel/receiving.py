"""Reading a STEP file: its solids and sheets with their names, and whether they are what the file says.

`told` of what is received says what was done to it: loose faces sewn, rims that are open.

Damaged files can end the process that reads them, so this runs in a child (`workers/receiving.py`).
"""

from __future__ import annotations

import io
import math
from collections import Counter
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from functools import partial
from typing import Any

from OCP.BRep import BRep_Tool
from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeSolid
from OCP.BRepCheck import BRepCheck_Analyzer
from OCP.BRepGProp import BRepGProp
from OCP.BRepLib import BRepLib
from OCP.collections import Sequence_TCollection_AsciiString, Sequence_TDF_Label
from OCP.GProp import GProp_GProps
from OCP.IFSelect import IFSelect_ReturnStatus
from OCP.Interface import Interface_Static
from OCP.Quantity import Quantity_ColorRGBA, Quantity_TypeOfColor
from OCP.STEPCAFControl import STEPCAFControl_Reader
from OCP.TCollection import TCollection_ExtendedString
from OCP.TDataStd import TDataStd_Name
from OCP.TDF import TDF_Label
from OCP.TDocStd import TDocStd_Document
from OCP.TopAbs import TopAbs_ShapeEnum
from OCP.TopExp import TopExp_Explorer
from OCP.TopLoc import TopLoc_Location
from OCP.TopoDS import TopoDS, TopoDS_Shape
from OCP.XCAFApp import XCAFApp_Application
from OCP.XCAFDoc import XCAFDoc_ColorType, XCAFDoc_DocumentTool

from ..errors import DocumentError
from .faceting import faceted
from .named import NamedShape
from .query import describe, edge_faces
from .shapes import compound, faces_of, items, map_of, shape_map, solids_of
from .sheets import sewn
from .types import Vec
from .write import from_bytes, to_bytes

__all__ = [
    "FaceRow",
    "Received",
    "bodies_received",
    "faces_of_received",
    "mesh_received",
    "name_received",
    "read_step",
]

FACE, EDGE = TopAbs_ShapeEnum.TopAbs_FACE, TopAbs_ShapeEnum.TopAbs_EDGE
SHELL, SOLID = TopAbs_ShapeEnum.TopAbs_SHELL, TopAbs_ShapeEnum.TopAbs_SOLID
FAR = 100_000.0  # mm: no part is larger
Piece = tuple[str, TopoDS_Shape]  # its name in the file, and what it is
Rgba = tuple[int, int, int, int]
Look = tuple[Rgba | None, str, list[Rgba | None]]  # colour, layer, colours of the faces


@dataclass(slots=True)
class Received:
    """What a file holds: names of its solids in their order, their shape as bytes, and the unit it was in;
    their colours (red, green, blue, opacity; 0 to 255 each) and layers, where the file gives them, and for
    each the colours of its faces in their order."""

    names: list[str]
    shape: bytes
    unit: str
    volume: float
    faces: int
    sheets: int = 0
    told: list[str] = field(default_factory=list)
    low: tuple[float, float, float] = field(default=(0.0, 0.0, 0.0))
    high: tuple[float, float, float] = field(default=(0.0, 0.0, 0.0))
    colours: list[Rgba | None] = field(default_factory=list)
    layers: list[str] = field(default_factory=list)
    painted: list[list[Rgba | None]] = field(default_factory=list)


def read_step(content: bytes, faces: int) -> Received:
    """Read a STEP file. faces : how many its text says it has. Raises DocumentError in words."""
    document = TDocStd_Document(TCollection_ExtendedString("BinXCAF"))
    XCAFApp_Application.GetApplication_s().InitDocument(document)
    reader = STEPCAFControl_Reader()
    reader.SetNameMode(True)
    reader.SetColorMode(True)
    reader.SetLayerMode(True)
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
    found: list[Piece] = []
    loose: list[Piece] = []
    for i in range(free.Length()):
        for name, shape in _leaves(free.Value(i + 1), "", TopLoc_Location()):
            found += [(name, s) for s in solids_of(shape)]
            loose += [(name, s) for s in _loose(shape)]
    if not found and not loose:
        raise DocumentError("There is no solid and no face in this file.", field="file")
    _check(found, loose, faces)
    sewn, told = _sewn(loose) if loose else ([], [])
    return _received([*found, *sewn], unit, told, partial(_look, document))


def mesh_received(
    name: str, places: Sequence[Vec], lumps: Sequence[Sequence[Any]], off: float, unit: str
) -> Received:
    """Return the flat faces of a mesh's lumps as what is received; see `faceted`. Raises DocumentError."""
    pieces: list[Piece] = []
    told: list[str] = []
    for faces in lumps:
        shape, free = faceted(places, faces, off)
        if free:
            told.append(_rims(free))
        else:
            _sound(name, shape)
        pieces.append((name, shape))
    return _received(pieces, unit, told)


def _look(document: TDocStd_Document, shape: TopoDS_Shape) -> Look:
    """Return the colour and the layer that a file gives a body: its own, else the colour of more than half of
    its faces, and the layer that all of them have; and the colours of its faces."""
    bare = shape.Located(TopLoc_Location())
    faces = items(shape_map(bare, FACE))
    painted = [_colour(document, f) for f in faces]
    ((most, count),) = Counter(painted).most_common(1)
    colour = _colour(document, shape) or _colour(document, bare) or (most if 2 * count > len(faces) else None)
    layer = _layer(document, shape) or _layer(document, bare)
    if not layer:
        layers = {_layer(document, f) for f in faces}
        layer = layers.pop() if len(layers) == 1 else ""
    return colour, layer, painted


def _colour(document: TDocStd_Document, thing: TopoDS_Shape) -> Rgba | None:
    held, tool = Quantity_ColorRGBA(), XCAFDoc_DocumentTool.ColorTool_s(document.Main())
    for kind in (XCAFDoc_ColorType.XCAFDoc_ColorSurf, XCAFDoc_ColorType.XCAFDoc_ColorGen):
        if tool.GetColor(thing, kind, held):
            r, g, b = held.GetRGB().Values(Quantity_TypeOfColor.Quantity_TOC_sRGB)
            return round(255 * r), round(255 * g), round(255 * b), round(255 * held.Alpha())
    return None


def _layer(document: TDocStd_Document, thing: TopoDS_Shape) -> str:
    from OCP.XCAFDoc import XCAFDoc_ShapeTool as Tool

    tool = XCAFDoc_DocumentTool.LayerTool_s(document.Main())
    layers = Sequence_TDF_Label()
    tool.GetLayerLabels(layers)
    for layer in layers:  # asked the other way round, the binding finds none
        on = Sequence_TDF_Label()
        tool.GetShapesOfLayer_s(layer, on)
        if any(Tool.GetShape_s(label).IsPartner(thing) for label in on):
            return _name(layer)
    return ""


def _received(
    found: list[Piece],
    unit: str,
    told: list[str],
    look: Callable[[TopoDS_Shape], Look] = lambda shape: (None, "", []),
) -> Received:
    found = sorted(found, key=lambda piece: not solids_of(piece[1]))  # solids first, as they are read back
    for _, shape in found:
        if any(len(met) > 2 for _, met in edge_faces(shape)):
            raise DocumentError("In an edge of this file more than two faces meet.", field="file")
    whole = compound(s for _, s in found)
    box = _box(whole)
    looks = [look(shape) for _, shape in found]
    return Received(
        [n for n, _ in found],
        to_bytes(whole),
        unit,
        sum(_volume(s) for _, s in found if solids_of(s)),
        sum(len(items(shape_map(s, FACE))) for _, s in found),
        sum(not solids_of(s) for _, s in found),
        told,
        (box[0], box[1], box[2]),
        (box[3], box[4], box[5]),
        [colour for colour, _, _ in looks],
        [layer for _, layer, _ in looks],
        [painted for _, _, painted in looks],
    )


def _rims(free: int) -> str:
    return f"{free} edges are open, so it is a sheet: to measure and to draw against, not to fill."


def _loose(shape: TopoDS_Shape) -> list[TopoDS_Shape]:
    """Return the shells that bound no solid, and the faces of no shell."""
    found = []
    for kind, within in ((SHELL, SOLID), (FACE, SHELL)):
        explorer = TopExp_Explorer(shape, kind, within)
        while explorer.More():
            found.append(explorer.Current())
            explorer.Next()
    return found


def _sewn(loose: list[Piece]) -> tuple[list[Piece], list[str]]:
    """Sew loose faces where they meet within a thousandth of a mm; what closes is a solid.

    Returns the pieces, and what is told of them.
    """
    made, free = sewn([_bare(shape) for _, shape in loose])
    rims = map_of(free)
    names = dict.fromkeys(n for n, _ in loose)
    name = next(iter(names)) if len(names) == 1 else ""
    pieces: list[Piece] = []
    told: list[str] = []
    for shell in _loose(made.shape):
        open_ = sum(rims.Contains(e) for e in items(shape_map(shell, EDGE)))
        if open_:
            pieces.append((name, shell))
            told.append(_rims(open_))
            continue
        solid = BRepBuilderAPI_MakeSolid(TopoDS.Shell(shell)).Solid()
        BRepLib.OrientClosedSolid_s(solid)
        _sound(name, solid)
        gap = max(BRep_Tool.Tolerance_s(TopoDS.Edge(e)) for e in items(shape_map(solid, EDGE)))
        pieces.append((name, solid))
        told.append(
            f"{len(faces_of(solid))} loose faces were sewn to a solid; the widest gap was "
            f"{max(gap, 1e-7):.1g} mm."
        )
    return pieces, told


def _bare(shape: TopoDS_Shape) -> NamedShape:
    """Return a shape whose faces have no names yet."""
    return NamedShape(shape, [frozenset()] * len(items(shape_map(shape, FACE))))


def _box(shape: TopoDS_Shape) -> tuple[float, ...]:
    return tuple(float(x) for x in _bare(shape).anatomy.box)


def _leaves(label: TDF_Label, named: str, at: TopLoc_Location) -> list[Piece]:
    """Return the shapes under a label with their names and places; those of assemblies one by one."""
    from OCP.XCAFDoc import XCAFDoc_ShapeTool as Tool

    name = _name(label) or named
    if Tool.IsAssembly_s(label):
        parts = Sequence_TDF_Label()
        Tool.GetComponents_s(label, parts)
        found = []
        for i in range(parts.Length()):
            found += _leaves(parts.Value(i + 1), name, at)
        return found
    if Tool.IsReference_s(label):
        target = TDF_Label()
        Tool.GetReferredShape_s(label, target)
        return _leaves(target, name, at.Multiplied(Tool.GetLocation_s(label)))
    return [(name, Tool.GetShape_s(label).Moved(at))]


def _name(label: TDF_Label) -> str:
    held = TDataStd_Name()
    if not label.FindAttribute(TDataStd_Name.GetID_s(), held):
        return ""
    return str(held.Get().ToExtString()).strip()[:80]


def _check(found: list[Piece], loose: list[Piece], faces: int) -> None:
    """Raise DocumentError unless all faces that the file tells of are there, and every solid is sound."""
    all_ = [*found, *loose]
    have = sum(len(items(shape_map(s, FACE))) for _, s in all_)
    distinct = len({hash(s.TShape()) for _, s in all_})
    if faces and have < faces and distinct == len(all_):
        raise DocumentError(
            f"The file tells of {faces} faces, and {have} can be read: it is damaged. Nothing was taken.",
            field="file",
        )
    for name, solid in found:
        _sound(name, solid)
    for _, shape in loose:
        _finite(shape)


def _sound(name: str, solid: TopoDS_Shape) -> None:
    """Raise DocumentError for a broken solid."""
    volume = _volume(solid)
    if not math.isfinite(volume) or volume <= 0 or not BRepCheck_Analyzer(solid).IsValid():
        raise DocumentError(
            f"The solid “{name or 'without a name'}” in this file is broken. Nothing was taken; mend it "
            "where it comes from.",
            field="file",
        )
    _finite(solid)


def _finite(shape: TopoDS_Shape) -> None:
    if not all(math.isfinite(x) and abs(x) < FAR for x in _box(shape)):
        raise DocumentError("This is larger than 100 m, which no part is.", field="file")


def _volume(shape: TopoDS_Shape) -> float:
    volume = GProp_GProps()
    BRepGProp.VolumeProperties_s(shape, volume)
    return float(volume.Mass())


def _bodies(shape: bytes) -> list[TopoDS_Shape]:
    """Return what is kept of a file one by one: solids, and the shells and faces of sheets."""
    whole = from_bytes(shape)
    return [*solids_of(whole), *_loose(whole)]


def bodies_received(shape: bytes, numbers: list[int], step: str) -> list[NamedShape]:
    """Return the solids and sheets that were received, their faces named by the step and their numbers, in
    their order."""
    left = iter(numbers)
    found = []
    for solid in _bodies(shape):
        count = len(items(shape_map(solid, FACE)))
        found.append(NamedShape(solid, [frozenset({name_received(step, next(left))}) for _ in range(count)]))
    return found


def name_received(step: str, number: int) -> str:
    """Return the name of a face that was received, by its number."""
    return f"{step}/file/{number}"


@dataclass(frozen=True, slots=True)
class FaceRow:
    """What tells a face from others: its form, sense, area, middle, normal (of flat ones)."""

    form: str
    hollow: bool
    area: float
    middle: tuple[float, float, float]
    normal: tuple[float, float, float]


def faces_of_received(shape: bytes) -> list[FaceRow]:
    """Return the rows of all faces, body by body in their order."""
    rows = []
    for solid in _bodies(shape):
        body = _bare(solid)
        for face, facts in zip(describe(body).faces, body.anatomy.faces, strict=True):
            share = facts.mass
            middle = tuple((share[5:8] / share[4]).tolist())
            n = face.frame.normal if face.form == "flat" else (0.0, 0.0, 0.0)
            rows.append(FaceRow(face.form, face.hollow, float(share[4]), middle, n))
    return rows
