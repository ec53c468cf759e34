"""Long tools that are cut off where they should end: at a face, a plane, several faces, the next material.

A tool is made longer than it can be needed, its far cap named `leak`; it is split, and the piece that holds
its start is kept. A piece that still holds the leak has passed its target by: that is refused.
"""

from __future__ import annotations

import math
from collections.abc import Sequence

from OCP.BRepAdaptor import BRepAdaptor_Surface
from OCP.BRepAlgoAPI import BRepAlgoAPI_Cut, BRepAlgoAPI_Splitter
from OCP.BRepBuilderAPI import BRepBuilderAPI_Copy, BRepBuilderAPI_MakeFace, BRepBuilderAPI_Sewing
from OCP.BRepLib import BRepLib
from OCP.BRepOffset import BRepOffset_Mode
from OCP.BRepOffsetAPI import BRepOffsetAPI_MakeOffsetShape
from OCP.GeomAbs import GeomAbs_JoinType, GeomAbs_SurfaceType
from OCP.gp import gp_Pln
from OCP.TopoDS import TopoDS_Face, TopoDS_Shape

from ..errors import StepError
from ..tolerance import MEETS, OFFSET
from .extending import hidden_behind, on_free_sides
from .keeping_whole import unharming
from .named import NamedShape, carry
from .query import together
from .shapes import ax3, faces_of, shape_list, solids_of
from .types import Frame, Vec

__all__ = ["LEAK", "Target", "up_to", "up_to_next"]

LEAK = "leak"
FULL = 2 * math.pi
Target = Frame | tuple[NamedShape, int]  # a plane, or a face of a body by its index


def up_to(
    tool: NamedShape,
    targets: Sequence[Target],
    reach: float,
    prefix: str,
    profile: str,
    short: float = 0.0,
    way: Vec | None = None,
) -> NamedShape:
    """Cut a long tool off at a plane, a face, or several faces at once, and return the piece that begins at
    its start.

    reach : mm, beyond everything. short : mm that it stops before them, measured along their outward normals
    (planes: along their normal, which looks back at the tool). Its new end is named `prefix/end/<profile>`.
    way : against which the faces look; with it, several that do not reach over the profile go on beyond their
    free edges. Raises StepError.
    """
    # One target goes on as its whole surface. Several are taken as they are first: where each goes on beyond
    # its neighbours, the extension.
    # of one can cut before another.
    cutters = [_whole(targets[0], reach)] if len(targets) == 1 else [_bare(t, reach) for t in targets]
    names = (
        [f"{prefix}/end/{profile}"]
        if len(targets) == 1
        else [f"{prefix}/end/{n}/{profile}" for n in range(1, len(targets) + 1)]
    )
    kept = _split(tool, _offset(cutters, short) if short else cutters, names)
    if kept is None:
        raise StepError(
            "The profile begins at or behind what it should end at. Pick another end, or turn the direction.",
            field="until",
        )
    if _leaks(kept) and len(targets) == 1 and len(solids_of(kept.shape)) > 1:
        raise StepError(
            "What it should end at crosses the profile, so part of the profile begins behind it. Move the "
            "end, "
            "or build the parts of the profile one by one.",
            field="until",
        )
    if _leaks(kept) and len(targets) > 1 and way is not None:
        kept = _going_on(tool, cutters, reach, names, short, way) or kept
    if _leaks(kept):
        raise StepError(
            "What it should end at does not reach over the whole profile. Pick faces that do, or a plane.",
            field="until",
        )
    return kept


def _going_on(
    tool: NamedShape, real: list[TopoDS_Face], reach: float, names: list[str], short: float, way: Vec
) -> NamedShape | None:
    """Cut a long tool off at several faces that go on beyond their free edges; None where that can not be
    told rightly."""
    extended = on_free_sides(real, reach)
    kept = _split(tool, extended, names) if extended else None
    if not extended or kept is None or _leaks(kept) or hidden_behind(kept.shape, real, tool.shape, way):
        return None
    return _split(tool, _offset(extended, short), names) if short else kept


def up_to_next(tool: NamedShape, bodies: Sequence[NamedShape], prefix: str, profile: str) -> NamedShape:
    """Cut a long tool off where it first meets material; raises StepError where part of it meets none."""
    operation = unharming(BRepAlgoAPI_Cut())
    operation.SetArguments(shape_list([tool.shape]))
    operation.SetTools(shape_list(b.shape for b in bodies))
    operation.Build()
    if not operation.IsDone() or operation.Shape().IsNull():
        raise StepError("The kernel could not find where this meets the next face.")
    cap = frozenset({f"{prefix}/end/{profile}"})
    ends = [NamedShape(b.shape, [cap] * len(b.names)) for b in bodies]
    kept = _holding_start(carry(operation, [tool, *ends], operation.Shape()))
    if kept is None:
        raise StepError(
            "The profile lies inside the body, so there is no next face before it. Turn the direction, or "
            "give a depth."
        )
    if _leaks(kept):
        raise StepError(
            "Part of the profile meets no face in this direction. Turn it, move it, or give a depth."
        )
    return kept


def _split(tool: NamedShape, cutters: list[TopoDS_Shape], names: list[str]) -> NamedShape | None:
    splitter = unharming(BRepAlgoAPI_Splitter())
    splitter.SetArguments(shape_list([tool.shape]))
    splitter.SetTools(shape_list(cutters))
    splitter.Build()
    if not splitter.IsDone() or splitter.Shape().IsNull():
        raise StepError("The kernel could not cut this off at its end.", field="until")
    ends = [NamedShape(c, [frozenset({n})] * len(faces_of(c))) for c, n in zip(cutters, names, strict=False)]
    if len(cutters) < len(names):  # one shell of all targets
        ends = [NamedShape(cutters[0], [frozenset({n}) for n in names])]
    return _holding_start(carry(splitter, [tool, *ends], splitter.Shape()))


def _holding_start(made: NamedShape) -> NamedShape | None:
    """Return all pieces with part of the start cap, or None where no piece of the tool has any.

    A rib or plane that crosses the profile cuts it in two, and both parts are meant.
    """
    pairs = made.pairs()
    pieces = [NamedShape.collect(solid, pairs) for solid in solids_of(made.shape)]
    held = [p for p in pieces if any("/start/" in n for names in p.names for n in names)]
    return together(held) if len(held) > 1 else held[0] if held else None


def _leaks(tool: NamedShape) -> bool:
    return any(f"/{LEAK}/" in n for names in tool.names for n in names)


def _bare(target: Target, reach: float) -> TopoDS_Face:
    return _plane(target, reach) if isinstance(target, Frame) else faces_of(target[0].shape)[target[1]]


def _plane(frame: Frame, reach: float) -> TopoDS_Face:
    return BRepBuilderAPI_MakeFace(gp_Pln(ax3(frame)), -reach, reach, -reach, reach).Face()


def _whole(target: Target, reach: float) -> TopoDS_Shape:
    """Return the whole surface of a target as far as it is needed."""
    if isinstance(target, Frame):
        return _plane(target, reach)
    face = faces_of(target[0].shape)[target[1]]
    surface = BRepAdaptor_Surface(face)
    form = surface.GetType()
    made: TopoDS_Shape = face
    if form == GeomAbs_SurfaceType.GeomAbs_Plane:
        made = BRepBuilderAPI_MakeFace(surface.Plane(), -reach, reach, -reach, reach).Face()
    elif form == GeomAbs_SurfaceType.GeomAbs_Cylinder:
        made = BRepBuilderAPI_MakeFace(surface.Cylinder(), 0.0, FULL, -reach, reach).Face()
    elif form == GeomAbs_SurfaceType.GeomAbs_Cone:
        cone = surface.Cone()
        apex = -cone.RefRadius() / math.sin(cone.SemiAngle())
        low, high = sorted((apex, math.copysign(4 * reach, -apex)))
        made = BRepBuilderAPI_MakeFace(cone, 0.0, FULL, low, high).Face()
    elif form == GeomAbs_SurfaceType.GeomAbs_Sphere:
        made = BRepBuilderAPI_MakeFace(surface.Sphere(), 0.0, FULL, -math.pi / 2, math.pi / 2).Face()
    else:
        return _extended(target, reach)
    return made.Oriented(face.Orientation())


def _extended(target: Target, reach: float) -> TopoDS_Shape:
    if isinstance(target, Frame):
        return _plane(target, reach)
    face = faces_of(target[0].shape)[target[1]]
    made = TopoDS_Face()
    BRepLib.ExtendFace_s(face, reach, True, True, True, True, made)
    return face if made.IsNull() else made


def _offset(cutters: list[TopoDS_Shape], short: float) -> list[TopoDS_Shape]:
    """Return the targets as one shell, moved along their outward normals."""
    own = [BRepBuilderAPI_Copy(c).Shape() for c in cutters]  # faces of bodies, whose edges are theirs
    shell: TopoDS_Shape = own[0]
    if len(own) > 1:
        sewing = BRepBuilderAPI_Sewing(MEETS)
        for cutter in own:
            sewing.Add(cutter)
        sewing.Perform()
        shell = sewing.SewedShape()
    maker = BRepOffsetAPI_MakeOffsetShape()
    maker.PerformByJoin(
        shell,
        short,
        OFFSET,
        BRepOffset_Mode.BRepOffset_Skin,
        False,
        False,
        GeomAbs_JoinType.GeomAbs_Intersection,
        False,
    )
    if not maker.IsDone() or maker.Shape().IsNull():
        raise StepError(
            "The kernel could not move the end that far from its faces. Try a smaller distance.",
            field="short",
        )
    return [maker.Shape()]
