"""Faces of a body offset, moved, replaced by other surfaces, and split; their neighbours follow and all names
stay."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping, Sequence
from functools import partial
from typing import Any

from OCP.BOPTools import BOPTools_AlgoTools3D
from OCP.BRep import BRep_Tool
from OCP.BRepAdaptor import BRepAdaptor_Curve
from OCP.BRepAlgoAPI import BRepAlgoAPI_Section, BRepAlgoAPI_Splitter
from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeSolid
from OCP.BRepGProp import BRepGProp
from OCP.BRepLib import BRepLib
from OCP.BRepOffset import BRepOffset_MakeOffset, BRepOffset_Mode
from OCP.GeomAbs import GeomAbs_JoinType
from OCP.GeomAPI import GeomAPI_ProjectPointOnSurf
from OCP.gp import gp_Dir, gp_Lin, gp_Pnt, gp_Pnt2d
from OCP.GProp import GProp_GProps
from OCP.IntCurvesFace import IntCurvesFace_ShapeIntersector
from OCP.IntTools import IntTools_Context
from OCP.TopAbs import TopAbs_ShapeEnum
from OCP.TopoDS import TopoDS, TopoDS_Face, TopoDS_Shape

from ..errors import StepError
from ..tolerance import COVERED, OFFSET, SEWN
from .boolean import cut, fuse
from .enclosing import check_enclosing
from .ending import LEAK, Target, _whole
from .extrusion import prism
from .facing import FaceRefused
from .features import lifted
from .forms import middle_of
from .keeping_whole import copied, unharming
from .moving import placed
from .named import NamedShape, carry, source_of
from .places import normal_on_face
from .query import check_solid, describe, lumps, pieces_of, runs_into_itself, volume_of
from .refusing import refused_as
from .shapes import edges_of, faces_of, items, listed, place, shape_list, shape_map
from .types import Frame, Placement, Profile, Vec, dot, minus, scaled

__all__ = [
    "faces_moved",
    "faces_offset",
    "faces_replaced",
    "faces_split",
    "front_of",
    "inside_of",
    "nearest_of",
]

FACE = TopAbs_ShapeEnum.TopAbs_FACE
NEAR = 1e-9  # mm, of a line and a face
FAR_OFF = 1e-6  # mm: heights that differ by no more are as near


def faces_offset(body: NamedShape, by: Mapping[int, float]) -> tuple[NamedShape, int]:
    """Move faces, by index, along their outward normals (mm), their neighbours following; returns also how
    many more faces came along.

    No face is lost and none is new. Raises FaceRefused with the faces that did not come where they should.
    """
    body = copied(body)
    own = faces_of(body.shape)
    maker: Any = BRepOffset_MakeOffset()
    maker.Initialize(
        body.shape,
        0.0,
        SEWN,
        BRepOffset_Mode.BRepOffset_Skin,
        False,
        False,
        GeomAbs_JoinType.GeomAbs_Intersection,
        False,
        False,
    )
    for i, distance in by.items():
        maker.SetOffsetOnFace(own[i], distance)
    with refused_as(partial(FaceRefused, [])):
        maker.MakeOffsetShape()
        shape = maker.Shape()
        shells = [] if shape.IsNull() else items(shape_map(shape, TopAbs_ShapeEnum.TopAbs_SHELL))
    if len(shells) != 1:
        raise FaceRefused([])
    solid = BRepBuilderAPI_MakeSolid(TopoDS.Shell(shells[0])).Solid()
    BRepLib.OrientClosedSolid_s(solid)
    fresh = [[f for f in listed(maker.Generated(face)) if f.ShapeType() == FACE] for face in own]
    made = NamedShape.collect(
        solid, [(f, names) for found, names in zip(fresh, body.names, strict=True) for f in found]
    )
    if not all(fresh) or len(made.names) != len(body.names) or not all(made.names):
        raise FaceRefused([])
    _sound(made)
    grown = volume_of(made) - volume_of(body)
    if grown * sum(by[i] * _area(own[i]) for i in by) <= 0:
        raise FaceRefused([])
    further = 0
    for i, found in enumerate(fresh):
        shift = max(abs(_shift(own[i], f)) for f in found)
        if i in by and abs(shift - abs(by[i])) > OFFSET:
            raise FaceRefused([i])
        if i not in by and shift > OFFSET:
            if min(abs(shift - abs(d)) for d in by.values()) > OFFSET:
                raise FaceRefused([])
            further += 1
    return made, further


def nearest_of(body: NamedShape, faces: Sequence[int], frame: Frame) -> Callable[[Vec], bool]:
    """Return what tells whether a place on some faces is the one nearest to a plane of all that lie on the
    line through it square to the plane; of two as near, the one in front of it."""
    own = [faces_of(body.shape)[i] for i in faces]
    way = gp_Dir(*frame.normal)

    def tell(p: Vec) -> bool:
        height = dot(minus(p, frame.origin), frame.normal)
        for face in own:
            found = IntCurvesFace_ShapeIntersector()
            found.Load(face, NEAR)
            found.Perform(gp_Lin(gp_Pnt(*p), way), -math.inf, math.inf)
            for k in range(1, found.NbPnt() + 1 if found.IsDone() else 1):
                other = dot(minus(place(found.Pnt(k)), frame.origin), frame.normal)
                nearer = abs(other) < abs(height) - FAR_OFF
                if nearer or (abs(other + height) < FAR_OFF and other > FAR_OFF > 0 > height):
                    return False
        return True

    return tell


def _shift(before: TopoDS_Face, after: TopoDS_Shape) -> float:
    """Return how far a place inside a face stands from the surface it was on before, mm."""
    foot = GeomAPI_ProjectPointOnSurf(gp_Pnt(*inside_of(after)), BRep_Tool.Surface_s(before))
    return float(foot.LowerDistance()) if foot.NbPoints() else math.inf


def inside_of(face: TopoDS_Shape) -> Vec:
    """Return a place inside a face."""
    at = gp_Pnt()
    BOPTools_AlgoTools3D.PointInFace_s(TopoDS.Face(face), at, gp_Pnt2d(), IntTools_Context())
    return place(at)


def _area(face: TopoDS_Shape) -> float:
    props = GProp_GProps()
    BRepGProp.SurfaceProperties_s(face, props)
    return float(props.Mass())


def _sound(made: NamedShape) -> None:
    try:
        check_solid(made)
        check_enclosing(made)
    except StepError as error:
        raise FaceRefused([]) from error
    if runs_into_itself(made):
        raise FaceRefused([])


def faces_moved(body: NamedShape, faces: list[int], by: Vec, prefix: str) -> tuple[NamedShape, bool, int]:
    """Move faces by a vector (mm): all of a boss or pocket as it is, else flat ones so far along their
    normals as the vector goes.

    Returns also whether it was a boss or pocket, and how many more faces came along. Raises FaceRefused.
    """
    try:
        boss, solid, healed = lifted(body, faces, prefix)
    except FaceRefused:
        return _moved_along(body, faces, by)
    moved = placed(solid, Placement.shifted(by))
    made = fuse([healed, moved]) if boss else cut(healed, [moved])
    _sound(made)
    left = {n for names in made.names for n in names}
    if lumps(made) != lumps(body) or f"{prefix}/lid" in left or any(not body.names[i] & left for i in faces):
        raise FaceRefused(faces)
    return made, True, 0


def _moved_along(body: NamedShape, faces: list[int], by: Vec) -> tuple[NamedShape, bool, int]:
    topology = describe(body)
    bent = [i for i in faces if topology.faces[i].form != "flat"]
    if bent:
        raise FaceRefused(bent)
    shifts = {i: dot(topology.faces[i].frame.normal, by) for i in faces}
    still = [i for i, d in shifts.items() if abs(d) < OFFSET]
    if still:
        raise FaceRefused(still)
    made, further = faces_offset(body, shifts)
    return made, False, further


def faces_replaced(body: NamedShape, face: int, target: Target, reach: float, prefix: str) -> NamedShape:
    """Let a flat face end at the whole of a plane or another face's surface: material is added up to it, and
    taken away behind it.

    The new face keeps the old one's names. Raises StepError where the surface does not reach over all of the
    face, or where the faces around it do not stand square to it.
    """
    own = faces_of(body.shape)[face]
    normal = normal_on_face(body, face, inside_of(own))
    surface = _whole(target, reach)
    fills: list[NamedShape] = []
    removes: list[NamedShape] = []
    covered = 0.0
    for sense, kept in ((1.0, fills), (-1.0, removes)):
        column = prism(
            Profile("face", [], (body, face, {})), Frame(), scaled(normal, sense * reach), prefix, far=LEAK
        )
        for piece in _cut_by(column, surface, f"{prefix}/new"):
            held = {n for own_names in piece.names for n in own_names}
            if f"{prefix}/start/face" in held and f"{prefix}/{LEAK}/face" not in held:
                kept.append(piece)
                covered += sum(_area(f) for f, n in piece.pairs() if f"{prefix}/start/face" in n)
    if abs(covered - _area(own)) > COVERED * covered:
        raise StepError(
            "The other surface does not reach over all of this face. Pick one that does, or a plane.",
            field="target",
        )
    made = fuse([body, *fills]) if fills else body
    made = cut(made, removes) if removes else made
    check_solid(made)
    names = [
        _less(n, prefix) or (body.names[face] if f"{prefix}/new" in n else frozenset()) for n in made.names
    ]
    if not all(names):
        raise StepError(
            "The faces around this one do not stand square to it, so they can not follow. Use Offset faces, "
            "or Draft.",
            field="face",
        )
    found = NamedShape(made.shape, names)
    if lumps(found) != lumps(body) or not any(n & body.names[face] for n in names):
        raise StepError("Nothing would be left of this face.", field="target")
    return found


def _less(names: frozenset[str], prefix: str) -> frozenset[str]:
    return frozenset(n for n in names if n.split("/")[0] != prefix)


def _cut_by(solid: NamedShape, surface: TopoDS_Shape, name: str) -> list[NamedShape]:
    splitter = unharming(BRepAlgoAPI_Splitter())
    splitter.SetArguments(shape_list([solid.shape]))
    splitter.SetTools(shape_list([surface]))
    splitter.Build()
    if not splitter.IsDone() or splitter.Shape().IsNull():
        raise StepError("The kernel could not cut this off at the other surface.", field="target")
    tool = NamedShape(surface, [frozenset({name})] * len(faces_of(surface)))
    return pieces_of(carry(splitter, [solid, tool], splitter.Shape()))


def faces_split(
    body: NamedShape,
    faces: list[int],
    cutters: Sequence[tuple[Target | NamedShape, Callable[[Vec], str]]],
    reach: float,
    prefix: str,
    meant: Callable[[Vec], bool] = lambda p: True,
) -> tuple[NamedShape, int]:
    """Split faces where surfaces meet them; the body stays as it is. Returns also in how many parts the faces
    are.

    cutters : sheets, or planes and faces of which the whole is meant as far as the reach (mm), each with what
    tells in a word on which side of it a place lies. meant : tells of a place whether the faces are split
    there. A part keeps the face's names and gets one of its own,
    `prefix/part/<side>/<the face>`. Raises FaceRefused with the faces that are not cut in two, or with none
    where one of the cutters meets none of them.
    """
    own = faces_of(body.shape)
    lines: list[TopoDS_Shape] = []
    for cutter, _ in cutters:
        tool = cutter.shape if isinstance(cutter, NamedShape) else _whole(cutter, reach)
        found = []
        for i in faces:
            section = unharming(BRepAlgoAPI_Section(own[i], tool, False))
            # Else curved lines are polygons, and areas beside them up to some per cent off.
            section.Approximation(True)
            section.ComputePCurveOn1(True)
            section.Build()
            met = edges_of(section.Shape()) if section.IsDone() else []
            found += [e for e in met if meant(middle_of(BRepAdaptor_Curve(TopoDS.Edge(e)))[0])]
        if not found:
            raise FaceRefused(faces if len(cutters) == 1 else [])
        lines += found
    splitter = unharming(BRepAlgoAPI_Splitter())
    splitter.SetArguments(shape_list([body.shape]))
    splitter.SetTools(shape_list(lines))
    splitter.Build()
    if not splitter.IsDone() or splitter.Shape().IsNull():
        raise FaceRefused(faces)
    made = carry(splitter, [body], splitter.Shape())
    fresh: list[tuple[TopoDS_Shape, frozenset[str]]] = []
    whole = []
    for i in faces:
        parts = listed(splitter.Modified(own[i]))
        if len(parts) < 2:
            whole.append(i)
        for part in parts:
            word = "+".join(side(inside_of(part)) for _, side in cutters)
            fresh.append((part, frozenset({f"{prefix}/part/{word}/{source_of(body.names[i])}"})))
    if whole:
        raise FaceRefused(whole)
    result = NamedShape.collect(made.shape, [*made.pairs(), *fresh])
    check_solid(result)
    return result, len(fresh)


def front_of(target: Target) -> Callable[[Vec], str]:
    """Return what tells whether a place lies in front of a plane or face (where its normal looks) or behind
    it."""
    if isinstance(target, Frame):
        return lambda p: "front" if dot(minus(p, target.origin), target.normal) > 0 else "back"
    shape, index = target
    face = faces_of(shape.shape)[index]

    def tell(p: Vec) -> str:
        foot = GeomAPI_ProjectPointOnSurf(gp_Pnt(*p), BRep_Tool.Surface_s(face))
        at = place(foot.NearestPoint())
        return "front" if dot(minus(p, at), normal_on_face(shape, index, at)) > 0 else "back"

    return tell
