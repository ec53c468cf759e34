"""Sheets, bodies without thickness: pushed and turned from curves, filled, copied from faces, cut, extended,
sewn and thickened."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping
from typing import Any

from OCP.BRep import BRep_Tool
from OCP.BRepAdaptor import BRepAdaptor_Curve
from OCP.BRepAlgoAPI import BRepAlgoAPI_Splitter
from OCP.BRepBuilderAPI import (
    BRepBuilderAPI_Copy,
    BRepBuilderAPI_MakeFace,
    BRepBuilderAPI_MakeSolid,
    BRepBuilderAPI_MakeWire,
    BRepBuilderAPI_Sewing,
)
from OCP.BRepCheck import BRepCheck_Analyzer
from OCP.BRepLib import BRepLib
from OCP.BRepOffset import BRepOffset_MakeOffset, BRepOffset_Mode
from OCP.BRepPrimAPI import BRepPrimAPI_MakePrism, BRepPrimAPI_MakeRevol
from OCP.GeomAbs import GeomAbs_JoinType
from OCP.GeomAPI import GeomAPI_ProjectPointOnSurf
from OCP.gp import gp_Ax1, gp_Pnt, gp_Vec
from OCP.TopAbs import TopAbs_ShapeEnum
from OCP.TopoDS import TopoDS, TopoDS_Edge, TopoDS_Shape

from ..errors import StepError
from ..tolerance import BESIDE, FULL_TURN, OFFSET, SEWN, STRAIGHT
from .extrusion import flat_face, wire_of
from .keeping_whole import copied, unharming
from .merging import merge_flush
from .named import NamedShape, carry, some_of, source_of
from .places import nearest_on_face, normal_on_face
from .query import check_solid, edge_faces, middle_of, runs_into_itself, together
from .refusing import refused_as
from .reshaping import inside_of
from .revolution import FULL, sides_of
from .shapes import (
    direction,
    edges_of,
    faces_of,
    items,
    listed,
    place,
    point,
    shape_list,
    shape_map,
    solids_of,
    vector,
)
from .types import Frame, Profile, Segment, Vec, add, cross, dot, said_at, scaled, unit

__all__ = [
    "check_sheet",
    "filled",
    "is_sheet",
    "sewn",
    "sheet_along",
    "sheet_extended",
    "sheet_of_faces",
    "sheet_of_region",
    "sheet_split",
    "sheet_turned",
    "sheets_sewn",
    "thickened",
]

FACE, EDGE, SHELL = TopAbs_ShapeEnum.TopAbs_FACE, TopAbs_ShapeEnum.TopAbs_EDGE, TopAbs_ShapeEnum.TopAbs_SHELL


def is_sheet(body: NamedShape) -> bool:
    """Tell whether a body has no thickness: it holds no solid."""
    return not solids_of(body.shape)


def check_sheet(body: NamedShape) -> None:
    """Raise StepError unless a result is a sound sheet: there, valid, no more than two faces at any edge."""
    if not faces_of(body.shape):
        raise StepError("Nothing is left of the sheet.")
    if not BRepCheck_Analyzer(body.shape).IsValid() or not all(body.names):
        raise StepError("The kernel made a broken sheet of this. A slightly different size often helps.")
    if any(len(found) > 2 for _, found in edge_faces(body.shape)):
        raise StepError(
            "More than two faces of the sheet would meet in one edge. Leave a gap, or make two sheets."
        )


def sheet_along(
    segments: list[Segment], frame: Frame, path: Vec, closed: bool, prefix: str, profile: str
) -> NamedShape:
    """Push curves along a path (mm) to a sheet; its faces are named `prefix/side/<segment>/<profile>`.

    Raises StepError.
    """
    wire, edges = wire_of(segments, frame, closed)
    made = BRepPrimAPI_MakePrism(wire, vector(path))
    return _named(
        made.Shape(), [(s, f) for s, edge in edges for f in listed(made.Generated(edge))], prefix, profile
    )


def sheet_turned(
    segments: list[Segment],
    frame: Frame,
    through: Vec,
    axis: Vec,
    angle: float,
    closed: bool,
    prefix: str,
    profile: str,
) -> NamedShape:
    """Turn curves about an axis (unit) by an angle (rad) to a sheet, named as a pushed one.

    Raises StepError.
    """
    wire, edges = wire_of(segments, frame, closed)
    full = abs(angle) >= FULL - FULL_TURN
    with refused_as(lambda: StepError("The curves cross the axis, so they can not be turned about it.")):
        maker = BRepPrimAPI_MakeRevol(
            wire, gp_Ax1(point(through), direction(axis)), math.copysign(FULL, angle) if full else angle
        )
        made = maker.Shape()
    return _named(made, sides_of(maker, edges, made), prefix, profile)


def _named(
    made: TopoDS_Shape, sides: list[tuple[Segment, TopoDS_Shape]], prefix: str, profile: str
) -> NamedShape:
    if made.IsNull():
        raise StepError("The kernel could not make a sheet of these curves.")
    found = NamedShape.collect(
        made, [(f, frozenset({f"{prefix}/side/{s.name}/{profile}"})) for s, f in sides]
    )
    check_sheet(found)
    return found


def sheet_of_region(profile: Profile, frame: Frame, prefix: str) -> NamedShape:
    """Return a region as a flat sheet, named `prefix/fill/<profile>`.

    Raises StepError where its outline crosses itself.
    """
    face, _ = flat_face(profile, frame)
    return NamedShape.collect(face, [(face, frozenset({f"{prefix}/fill/{profile.name}"}))])


def filled(body: NamedShape, edges: list[int], prefix: str) -> NamedShape:
    """Return a flat sheet inside a closed loop of a body's edges, by their index; it is named `prefix/fill`.

    Raises StepError.
    """
    own = [e for e in edges_of(body.shape) if not BRep_Tool.Degenerated_s(e)]
    maker = BRepBuilderAPI_MakeWire()
    maker.Add(shape_list([BRepBuilderAPI_Copy(own[i]).Shape() for i in edges]))
    if not maker.IsDone() or not BRep_Tool.IsClosed_s(maker.Wire()):
        raise StepError(
            "These edges do not make one closed loop. Pick all edges of the loop, and no others.",
            field="edges",
        )
    face = BRepBuilderAPI_MakeFace(maker.Wire(), True)
    if not face.IsDone():
        raise StepError("These edges do not lie in one plane, so nothing flat fits into them.", field="edges")
    found = NamedShape.collect(face.Face(), [(face.Face(), frozenset({f"{prefix}/fill"}))])
    check_sheet(found)
    return found


def sheet_of_faces(body: NamedShape, faces: list[int], prefix: str) -> NamedShape:
    """Return a sheet that is a copy of a body's faces, each named `prefix/copy/<the face>`."""
    picked = some_of(body, [faces_of(body.shape)[i] for i in faces])
    copier = BRepBuilderAPI_Copy(picked.shape)
    named = [
        (f, frozenset({f"{prefix}/copy/{source_of(names)}"}))
        for face, names in picked.pairs()
        for f in listed(copier.Modified(face))
    ]
    return _one_shell(NamedShape.collect(copier.Shape(), named))


def _one_shell(sheet: NamedShape) -> NamedShape:
    """Return loose faces as shells, as far as they hang together."""
    made, _ = sewn([sheet])
    return made


def sewn(sheets: list[NamedShape]) -> tuple[NamedShape, list[TopoDS_Edge]]:
    """Return sheets sewn along edges that lie on each other, and the edges that stay free."""
    sewing: Any = BRepBuilderAPI_Sewing(SEWN)
    for sheet in sheets:
        for face, _ in sheet.pairs():  # one by one: of a shell's faces the history is lost
            sewing.Add(face)
    sewing.Perform()
    shape = sewing.SewedShape()
    named = []
    for sheet in sheets:
        for face, names in sheet.pairs():
            now = sewing.Modified(face) if sewing.IsModified(face) else face
            named.append((now, names))
    found = NamedShape.collect(shape, named)
    free = [
        TopoDS.Edge(e)
        for e, around in edge_faces(shape)
        if len(around) == 1 and not BRep_Tool.Degenerated_s(TopoDS.Edge(e))
    ]
    return found, free


def sheets_sewn(sheets: list[NamedShape]) -> tuple[NamedShape, int, list[Vec]]:
    """Sew sheets along edges that lie on each other (within a thousandth of a mm); closed all round they make
    a solid.

    Returns also in how many pieces they are, and where the edges that stay free are. Raises StepError where
    nothing is sewn.
    """
    made, free = sewn(sheets)
    pieces = items(shape_map(made.shape, SHELL))
    loose = len(faces_of(made.shape)) - sum(len(faces_of(p)) for p in pieces)
    if not free and len(pieces) == 1 and not loose:
        solid = BRepBuilderAPI_MakeSolid(TopoDS.Shell(pieces[0])).Solid()
        BRepLib.OrientClosedSolid_s(solid)
        made = merge_flush(NamedShape.collect(solid, made.pairs()))
        check_solid(made)
    else:
        check_sheet(made)
    return made, len(pieces) + loose, [middle_of(BRepAdaptor_Curve(e))[0] for e in free]


def thickened(sheet: NamedShape, front: float, back: float, prefix: str) -> NamedShape:
    """Return the solid between a sheet moved to its front (where its faces look) and to its back, mm, one of
    which may be 0.

    Its large faces are named `prefix/front/<face>` and `prefix/back/<face>`, those along the rim
    `prefix/edge/<face>`. Raises StepError.
    """
    tools = []
    for shell in _shells(sheet):
        near = (
            _moved(shell, -back, f"{prefix}/back")
            if back
            else NamedShape(shell.shape, [frozenset({f"{prefix}/back/{source_of(n)}"}) for n in shell.names])
        )
        tools.append(_thick(near, shell, front + back, prefix))
    made = tools[0] if len(tools) == 1 else together(tools)
    check_solid(made)
    if runs_into_itself(made):
        raise StepError(TOO_THICK, field="thickness")
    return made


def _shells(sheet: NamedShape) -> list[NamedShape]:
    """Return the connected pieces of a sheet."""
    made = copied(_one_shell(sheet))  # its walls are made in its own edges
    shells = items(shape_map(made.shape, SHELL))
    held = shape_map(made.shape, FACE)
    within = {held.FindIndex(f) for s in shells for f in faces_of(s)}
    return [
        NamedShape.collect(s, made.pairs())
        for s in [*shells, *(f for i, f in enumerate(faces_of(made.shape), 1) if i not in within)]
    ]


def _offset(shell: NamedShape, by: float, thick: bool) -> Any:
    maker: Any = BRepOffset_MakeOffset()
    maker.Initialize(
        shell.shape,
        by,
        SEWN,
        BRepOffset_Mode.BRepOffset_Skin,
        False,
        False,
        GeomAbs_JoinType.GeomAbs_Intersection,
        thick,
        False,
    )
    with refused_as(lambda: StepError(TOO_THICK, field="thickness")):
        maker.MakeOffsetShape()
        done = maker.IsDone() and not maker.Shape().IsNull()
    if not done:
        raise StepError(TOO_THICK, field="thickness")
    return maker


def _moved(shell: NamedShape, by: float, word: str) -> NamedShape:
    maker = _offset(shell, by, False)
    named = [
        (f, frozenset({f"{word}/{source_of(names)}"}))
        for face, names in shell.pairs()
        for f in listed(maker.Generated(face))
        if f.ShapeType() == FACE
    ]
    found = NamedShape.collect(maker.Shape(), named)
    _measure(
        shell,
        [
            (face, f)
            for face, _ in shell.pairs()
            for f in listed(maker.Generated(face))
            if f.ShapeType() == FACE
        ],
        abs(by),
    )
    shells = items(shape_map(found.shape, SHELL))
    return NamedShape.collect(shells[0], found.pairs()) if len(shells) == 1 else found


def _thick(near: NamedShape, sheet: NamedShape, by: float, prefix: str) -> NamedShape:
    maker = _offset(near, by, True)
    shape = maker.Shape()
    if not solids_of(shape):
        raise StepError(TOO_THICK, field="thickness")
    present = shape_map(shape, FACE)
    named: list[tuple[TopoDS_Shape, frozenset[str]]] = []
    pairs = []
    for face, names in near.pairs():
        source = min(names).split("/", 2)[2]
        far = [f for f in listed(maker.Generated(face)) if f.ShapeType() == FACE and present.Contains(f)]
        if not far:
            raise StepError(TOO_THICK, field="thickness")
        named += [(f, frozenset({f"{prefix}/front/{source}"})) for f in far]
        named += [(f, names) for f in ([face] if present.Contains(face) else listed(maker.Modified(face)))]
        pairs += [(face, f) for f in far]
        for edge in edges_of(face):
            named += [
                (f, frozenset({f"{prefix}/edge/{source}"}))
                for f in listed(maker.Generated(edge))
                if f.ShapeType() == FACE and present.Contains(f)
            ]
    _measure(near, pairs, by)
    found = NamedShape.collect(shape, named)
    for solid in solids_of(found.shape):
        BRepLib.OrientClosedSolid_s(TopoDS.Solid(solid))
    found = _rims(found, prefix)
    if not all(found.names):
        raise StepError(TOO_THICK, field="thickness")
    return found


def _rims(made: NamedShape, prefix: str) -> NamedShape:
    """Name faces along the rim, of which the kernel keeps no history, by the front face beside them."""
    around: dict[int, set[str]] = {}
    faces = shape_map(made.shape, FACE)
    for _, beside in edge_faces(made.shape):
        own = [faces.FindIndex(f) - 1 for f in beside]
        for i in own:
            if not made.names[i]:
                around.setdefault(i, set()).update(
                    n.split("/", 2)[2] for j in own for n in made.names[j] if n.startswith(f"{prefix}/front/")
                )
    return NamedShape(
        made.shape,
        [
            names or frozenset(f"{prefix}/edge/{s}" for s in sorted(around.get(i, ()))[:1])
            for i, names in enumerate(made.names)
        ],
    )


def _measure(near: NamedShape, pairs: list[tuple[TopoDS_Shape, TopoDS_Shape]], by: float) -> None:
    """Raise StepError unless a place inside every moved face stands so far from where its own face was."""
    for face, far in pairs:
        foot = GeomAPI_ProjectPointOnSurf(gp_Pnt(*inside_of(far)), BRep_Tool.Surface_s(TopoDS.Face(face)))
        if not foot.NbPoints() or abs(foot.LowerDistance() - by) > OFFSET:
            raise StepError(TOO_THICK, field="thickness")


def sheet_split(
    sheet: NamedShape, tool: TopoDS_Shape, side: Callable[[Vec], str]
) -> tuple[NamedShape, NamedShape]:
    """Cut a sheet where a surface meets it: what lies in front of the surface, and what behind.

    Raises StepError where it misses it.
    """
    splitter = unharming(BRepAlgoAPI_Splitter())
    splitter.SetArguments(shape_list([sheet.shape]))
    splitter.SetTools(shape_list([tool]))
    splitter.Build()
    if not splitter.IsDone() or splitter.Shape().IsNull():
        raise StepError("The kernel could not cut this sheet.")
    made = carry(splitter, [sheet], splitter.Shape())
    parts: Mapping[str, list[TopoDS_Shape]] = {"front": [], "back": []}
    for face, names in made.pairs():
        if names:
            parts[side(inside_of(face))].append(face)
    if not parts["front"] or not parts["back"]:
        raise StepError(
            "This does not cut the sheet: it misses it, only touches it, or does not go through.", field="by"
        )
    front, back = (_one_shell(some_of(made, parts[word])) for word in ("front", "back"))
    return front, back


def sheet_extended(sheet: NamedShape, edges: list[int], by: float, prefix: str) -> NamedShape:
    """Let a sheet go on by mm from edges of its rim, by index; the new faces are named `prefix/on/<face>`, or
    merged where they are flush.

    Raises StepError where an edge is none of the rim, or the sheet does not run straight on there.
    """
    own = [
        (TopoDS.Edge(e), around)
        for e, around in edge_faces(sheet.shape)
        if not BRep_Tool.Degenerated_s(TopoDS.Edge(e))
    ]
    faces = shape_map(sheet.shape, FACE)
    added = []
    for i in edges:
        edge, around = own[i]
        at, _, _ = middle_of(BRepAdaptor_Curve(edge))
        where = said_at(at)
        if len(around) != 1:
            raise StepError(
                f"The edge near {where} is not at the rim of the sheet. Pick edges of its rim.", field="edges"
            )
        index = faces.FindIndex(around[0]) - 1
        way = _way_on(sheet, index, edge)
        if way is None:
            raise StepError(
                f"From the edge near {where} the sheet runs on in no one direction. Only edges from which "
                "it goes straight on can be extended.",
                field="edges",
            )
        made = BRepPrimAPI_MakePrism(edge, vector(scaled(way, by)))
        added.append(
            NamedShape.collect(
                made.Shape(),
                [
                    (f, frozenset({f"{prefix}/on/{source_of(sheet.names[index])}"}))
                    for f in listed(made.Generated(edge))
                ],
            )
        )
    found, _ = sewn([sheet, *added])
    found = merge_flush(found)
    check_sheet(found)
    if runs_into_itself(found):
        raise StepError("Extended so far the sheet would run into itself. Make it shorter.", field="distance")
    return found


def _way_on(sheet: NamedShape, face: int, edge: TopoDS_Edge) -> Vec | None:
    """Return the one direction in which a face goes on over an edge of it, None where it changes along the
    edge."""
    curve = BRepAdaptor_Curve(edge)
    low, high = curve.FirstParameter(), curve.LastParameter()
    found: list[Vec] = []
    for share in (0.1, 0.3, 0.5, 0.7, 0.9):
        at, tangent = gp_Pnt(), gp_Vec()
        curve.D1(low + share * (high - low), at, tangent)
        here = place(at)
        way = unit(cross(normal_on_face(sheet, face, here), unit((tangent.X(), tangent.Y(), tangent.Z()))))
        beside = add(here, scaled(way, BESIDE))
        found.append(
            scaled(way, -1.0) if math.dist(nearest_on_face(sheet, face, beside), beside) < BESIDE / 2 else way
        )
    return found[2] if all(dot(w, found[2]) > 1 - STRAIGHT for w in found) else None


TOO_THICK = (
    "This sheet can not be made so thick: a bend is too tight for it, or it would run into itself. Make it "
    "thinner, or turn it to the other side."
)
