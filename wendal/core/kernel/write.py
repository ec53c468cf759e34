"""Shapes to files and bytes: STEP, STL, and the kernel's own binary form for keeping."""

from __future__ import annotations

import io
import tempfile
from collections.abc import Mapping, Sequence
from pathlib import Path

import numpy as np
from numpy.typing import NDArray
from OCP.APIHeaderSection import APIHeaderSection_MakeHeader
from OCP.BinTools import BinTools, BinTools_FormatVersion
from OCP.BRepBuilderAPI import BRepBuilderAPI_Copy
from OCP.BRepGProp import BRepGProp
from OCP.GProp import GProp_GProps
from OCP.IFSelect import IFSelect_ReturnStatus
from OCP.Interface import Interface_Static
from OCP.Message import Message
from OCP.Quantity import Quantity_Color, Quantity_ColorRGBA, Quantity_TypeOfColor
from OCP.ShapeCustom import ShapeCustom
from OCP.STEPCAFControl import STEPCAFControl_Writer
from OCP.STEPControl import STEPControl_Reader, STEPControl_StepModelType
from OCP.TCollection import TCollection_ExtendedString, TCollection_HAsciiString
from OCP.TDataStd import TDataStd_Name
from OCP.TDocStd import TDocStd_Document
from OCP.TopAbs import TopAbs_ShapeEnum
from OCP.TopoDS import TopoDS, TopoDS_Shape
from OCP.XCAFApp import XCAFApp_Application
from OCP.XCAFDoc import XCAFDoc_ColorType, XCAFDoc_DocumentTool

from ..errors import StepError
from .mesh import ANGLE, DEFLECTION, mesh_shape, triangles_of
from .named import NamedShape
from .shapes import items, shape_map

__all__ = ["from_bytes", "step_volume", "to_bytes", "welded", "write_step"]

WELD = 1e-4  # mm within which corners of triangles are one

for _printer in list(Message.DefaultMessenger_s().Printers()):
    Message.DefaultMessenger_s().RemovePrinter(_printer)


THROUGH = 0.4  # opacity of a body that is seen through
STAMP = "2000-01-01T00:00:00"  # the same part gives the same bytes


def _colour(colour: tuple[int, int, int]) -> Quantity_Color:
    red, green, blue = (c / 255 for c in colour)
    return Quantity_Color(red, green, blue, Quantity_TypeOfColor.Quantity_TOC_sRGB)


def write_step(
    bodies: list[tuple[str, NamedShape, tuple[int, int, int] | None]],
    inches: bool = False,
    *,
    faces: Sequence[Mapping[int, tuple[str, tuple[int, int, int] | None]]] = (),
    through: Sequence[bool] = (),
    part: str = "",
    number: str = "",
    author: str = "",
) -> bytes:
    """Return a STEP file (AP242) with the bodies under their names and colours (sRGB, 0 to 255, None for
    none), and faces under their durable names, in mm or inches. faces : of each body, by their
    places, faces with a name ("" for none) or colour of their own. through : which bodies with a colour are
    seen through. part, number, author : for its header."""
    document = TDocStd_Document(TCollection_ExtendedString("BinXCAF"))
    XCAFApp_Application.GetApplication_s().InitDocument(document)
    XCAFDoc_DocumentTool.SetLengthUnit_s(document, 0.001)
    shapes = XCAFDoc_DocumentTool.ShapeTool_s(document.Main())
    colours = XCAFDoc_DocumentTool.ColorTool_s(document.Main())
    for n, (name, body, colour) in enumerate(bodies):
        own = faces[n] if n < len(faces) else {}
        body = _told_apart(body)
        label = shapes.AddShape(body.shape, False)
        TDataStd_Name.Set_s(label, TCollection_ExtendedString(name or "body", True))
        if colour is not None and n < len(through) and through[n]:
            glassy = Quantity_ColorRGBA(_colour(colour), THROUGH)
            colours.SetColor(label, glassy, XCAFDoc_ColorType.XCAFDoc_ColorSurf)
        elif colour is not None:
            colours.SetColor(label, _colour(colour), XCAFDoc_ColorType.XCAFDoc_ColorSurf)
        for i, (face, names) in enumerate(body.pairs()):
            told = [n for n in names if "/apart/" not in n]
            if told:
                under = shapes.AddSubShape(label, face)
                if not under.IsNull():
                    called, painted = own.get(i, ("", None))
                    words = called or min(told, key=len)
                    TDataStd_Name.Set_s(under, TCollection_ExtendedString(words, True))
                    if painted is not None:
                        colours.SetColor(under, _colour(painted), XCAFDoc_ColorType.XCAFDoc_ColorSurf)
    writer = STEPCAFControl_Writer()  # before the settings: earlier, they are not taken
    Interface_Static.SetCVal_s("write.step.schema", "AP242DIS")
    Interface_Static.SetCVal_s("write.step.unit", "INCH" if inches else "MM")
    Interface_Static.SetIVal_s("write.stepcaf.subshapes.name", 1)
    writer.SetColorMode(True)
    writer.SetNameMode(True)
    writer.Transfer(document, STEPControl_StepModelType.STEPControl_AsIs)
    header = APIHeaderSection_MakeHeader(writer.Writer().Model())
    said = TCollection_HAsciiString
    header.SetName(said(_ascii(part or "part")))
    header.SetDescriptionValue(1, said(_ascii(number)))
    header.SetAuthorValue(1, said(_ascii(author)))
    header.SetOrganizationValue(1, said(""))
    header.SetAuthorisation(said(""))
    header.SetOriginatingSystem(said("Wendal"))
    header.SetPreprocessorVersion(said("Wendal"))
    header.SetTimeStamp(said(STAMP))
    stream = io.BytesIO()
    writer.WriteStream(stream)
    if not stream.getvalue():
        raise StepError("The kernel wrote an empty STEP file.")
    return stream.getvalue()


def _told_apart(body: NamedShape) -> NamedShape:
    """Return the same body as the kernel would write it, faces in the same order.

    The writer makes faces anew that are one face moved or mirrored, and puts a name or colour onto another
    then, or onto none.
    """
    apart = BRepBuilderAPI_Copy(body.shape, False, False).Shape()
    return NamedShape(ShapeCustom.DirectFaces_s(apart), body.names)


def _ascii(text: str) -> str:
    return text.encode("ascii", "replace").decode()


def welded(
    body: NamedShape, size: float, share: float = 1.0
) -> tuple[NDArray[np.float64], NDArray[np.int64]]:
    """Return a body's triangles over shared places: (n, 3) mm and (m, 3), outward; a copy is meshed in one
    piece, so that neighbours meet. share : of the usual deflection. Raises StepError where they are not
    closed."""
    copied = BRepBuilderAPI_Copy(body.shape, True, False).Shape()
    mesh_shape(copied, max(share * DEFLECTION * size, 1e-4), ANGLE * share**0.5)
    meshes = [triangles_of(TopoDS.Face(f)) for f in items(shape_map(copied, TopAbs_ShapeEnum.TopAbs_FACE))]
    places = np.concatenate([p for p, _ in meshes])
    starts = np.cumsum([0, *(len(p) for p, _ in meshes)])
    corners = np.concatenate([t + s for (_, t), s in zip(meshes, starts[:-1], strict=True)])
    for shift in (0.0, 0.37, 0.71):  # places that lie on both sides of a cell's border are told apart by it
        _, first, index = np.unique(
            np.floor(places / WELD + shift), axis=0, return_index=True, return_inverse=True
        )
        triangles = index.reshape(-1)[corners]
        a, b, c = triangles.T
        triangles = triangles[(a != b) & (b != c) & (c != a)]
        sides = np.concatenate([triangles[:, [0, 1]], triangles[:, [1, 2]], triangles[:, [2, 0]]])
        one, other = (s[:, 0] * len(first) + s[:, 1] for s in (sides, sides[:, ::-1]))
        if np.array_equal(np.sort(one), np.sort(other)):
            return places[first].astype(np.float64), triangles
    raise StepError("The triangles of a body do not close, so nothing was written. Write STEP instead.")


def to_bytes(shape: TopoDS_Shape) -> bytes:
    """Return a shape in the kernel's binary form, without triangles; the same shape always gives the same
    bytes."""
    stream = io.BytesIO()
    BinTools.Write_s(shape, stream, False, False, BinTools_FormatVersion.BinTools_FormatVersion_VERSION_4)
    return stream.getvalue()


def from_bytes(content: bytes) -> TopoDS_Shape:
    """Read back what to_bytes wrote; face and edge order are kept."""
    shape = TopoDS_Shape()
    BinTools.Read_s(shape, io.BytesIO(content))
    return shape


def step_volume(content: bytes) -> float:
    """Return the volume of all solids in a STEP file, mm³; 0 for what can not be read."""
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "part.step"
        path.write_bytes(content)
        reader = STEPControl_Reader()
        if reader.ReadFile(str(path)) != IFSelect_ReturnStatus.IFSelect_RetDone:
            return 0.0
        reader.TransferRoots()
        volume = GProp_GProps()
        BRepGProp.VolumeProperties_s(reader.OneShape(), volume)
        return float(volume.Mass())
