"""Bodies hollowed to a thickness, open at some faces or at none.

The kernel can do nothing at all, or something broken, and call it done; so of every new wall it is measured
whether it stands as far from the old faces as was asked, and of every old face whether it has got one.
"""

from __future__ import annotations

import math
from contextlib import suppress
from functools import partial
from typing import Any

from OCP.BOPTools import BOPTools_AlgoTools3D
from OCP.BRep import BRep_Tool
from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeSolid, BRepBuilderAPI_MakeVertex
from OCP.BRepExtrema import BRepExtrema_DistShapeShape
from OCP.BRepLib import BRepLib
from OCP.BRepOffset import BRepOffset_MakeOffset, BRepOffset_Mode
from OCP.GeomAbs import GeomAbs_JoinType
from OCP.GeomAPI import GeomAPI_ProjectPointOnSurf
from OCP.gp import gp_Pnt, gp_Pnt2d
from OCP.IntTools import IntTools_Context
from OCP.TopAbs import TopAbs_ShapeEnum
from OCP.TopoDS import TopoDS, TopoDS_Face, TopoDS_Shape

from ..errors import StepError
from ..tolerance import NO_VOLUME, OFFSET, SEWN
from .boolean import cut
from .enclosing import check_enclosing
from .keeping_whole import sparing
from .named import NamedShape, carry, some_of, source_of
from .query import check_solid, volume_of
from .refusing import refused_as
from .shapes import faces_of, items, listed, shape_map

__all__ = ["ShellFailed", "hollowed"]

FACE = TopAbs_ShapeEnum.TopAbs_FACE
ARC, SHARP = GeomAbs_JoinType.GeomAbs_Arc, GeomAbs_JoinType.GeomAbs_Intersection


class ShellFailed(Exception):
    """The kernel did not make the walls, or not as thick as was asked."""


def hollowed(
    body: NamedShape,
    openings: tuple[int, ...],
    thickness: float,
    outward: bool,
    others: dict[int, float],
    step: str,
) -> tuple[NamedShape, NamedShape]:
    """Return a body hollowed to a thickness (mm), and the new faces alone.

    openings : faces that are left open. outward : the walls stand outside of the body as it was. others :
    thicknesses of single faces. New walls are named `step/wall/<the face that they run along>`. Raises
    ShellFailed.
    """
    # Inwards rounded corners come out rightly; outwards sharp ones, which several thicknesses need anyhow.
    for join in (SHARP, ARC) if outward or others else (ARC, SHARP):
        with suppress(ShellFailed, StepError), refused_as(ShellFailed):  # the other way is tried
            made = partial(_made, openings=openings, thickness=thickness, outward=outward, others=others)
            return sparing(body, partial(made, step=step, join=join))
    raise ShellFailed


def _made(
    body: NamedShape,
    openings: tuple[int, ...],
    thickness: float,
    outward: bool,
    others: dict[int, float],
    step: str,
    join: GeomAbs_JoinType,
) -> tuple[NamedShape, NamedShape]:
    faces, sense = faces_of(body.shape), 1.0 if outward else -1.0
    maker: Any = BRepOffset_MakeOffset()
    maker.Initialize(
        body.shape, sense * thickness, SEWN, BRepOffset_Mode.BRepOffset_Skin, False, False, join, False, False
    )
    for i in openings:
        maker.AddFace(faces[i])
    for i, own in others.items():
        maker.SetOffsetOnFace(faces[i], sense * own)
    if openings:
        maker.MakeThickSolid()
    else:
        maker.MakeOffsetShape()
    if not maker.IsDone():
        raise ShellFailed
    walls = _walls(maker, body, faces, openings, step)
    shape = maker.Shape()
    if openings:
        made = carry(maker, [body], shape)
        present = shape_map(shape, FACE)
        made = NamedShape.collect(
            shape,
            [*((f, n) for f, n in made.pairs() if n), *((w, n) for _, w, n in walls if present.Contains(w))],
        )
    else:
        made = _closed(body, shape, walls, outward)
    check_solid(made)
    check_enclosing(made)
    if not all(made.names):
        raise ShellFailed
    before, after = volume_of(body), volume_of(made)
    if not outward and not 0 < after < before * (1 - NO_VOLUME):
        raise ShellFailed
    _measure(body, faces, openings, walls, thickness, others)
    new = {n for _, _, names in walls for n in names}
    return made, some_of(made, [f for f, names in made.pairs() if names & new])


def _walls(
    maker: Any, body: NamedShape, faces: list[TopoDS_Face], openings: tuple[int, ...], step: str
) -> list[tuple[int, TopoDS_Shape, frozenset[str]]]:
    """Return every new wall with the old face that it runs along and its name; raises ShellFailed where a
    face has none."""
    found = []
    for i, (face, names) in enumerate(zip(faces, body.names, strict=True)):
        if i in openings:
            continue
        made = [f for f in listed(maker.Generated(face)) if f.ShapeType() == FACE]
        if not made:
            raise ShellFailed
        found += [(i, f, frozenset({f"{step}/wall/{source_of(names)}"})) for f in made]
    return found


def _closed(
    body: NamedShape,
    shell: TopoDS_Shape,
    walls: list[tuple[int, TopoDS_Shape, frozenset[str]]],
    outward: bool,
) -> NamedShape:
    """Return what lies between a body and a closed shell inside or around it."""
    shells = items(shape_map(shell, TopAbs_ShapeEnum.TopAbs_SHELL))
    if len(shells) != 1:
        raise ShellFailed
    solid = BRepBuilderAPI_MakeSolid(TopoDS.Shell(shells[0])).Solid()
    BRepLib.OrientClosedSolid_s(solid)
    other = NamedShape.collect(solid, [(w, names) for _, w, names in walls])
    return cut(other, [body], merge=False) if outward else cut(body, [other], merge=False)


def _measure(
    body: NamedShape,
    faces: list[TopoDS_Face],
    openings: tuple[int, ...],
    walls: list[tuple[int, TopoDS_Shape, frozenset[str]]],
    thickness: float,
    others: dict[int, float],
) -> None:
    """Raise ShellFailed unless a place inside every wall stands as far from the old faces as was asked."""
    context = IntTools_Context()
    old = some_of(body, [f for i, f in enumerate(faces) if i not in openings]).shape
    for i, wall, _ in walls:
        at = gp_Pnt()
        BOPTools_AlgoTools3D.PointInFace_s(TopoDS.Face(wall), at, gp_Pnt2d(), context)
        wanted = others.get(i, thickness)
        vertex = BRepBuilderAPI_MakeVertex(at).Vertex()
        foot = GeomAPI_ProjectPointOnSurf(
            at, BRep_Tool.Surface_s(faces[i])
        )  # the wall may run on where its own face has ended
        whole = BRepExtrema_DistShapeShape(vertex, old).Value()
        if (
            not foot.NbPoints()
            or abs(foot.LowerDistance() - wanted) > OFFSET
            or whole < min(wanted, thickness, *others.values(), math.inf) - OFFSET
        ):
            raise ShellFailed
