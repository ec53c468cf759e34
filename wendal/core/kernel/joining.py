"""Cutting and joining at the cost of what is touched.

The kernel builds a whole body anew for one pocket. Here only the faces whose boxes meet a tool's are given to
it, and of faces with many openings only these near the tool (a general fuse); of the pieces those are kept
that lie on the right side, and the shell is put together again from them and from all faces that no tool
comes near, which stay the same ones. What is kept is proved afterwards: every edge passed once either way,
every new face sound, the volume within its bounds. Where anything is not so, or the surfaces are of a kind
for which this was not tried, there is no answer, and the kernel's own operation is asked.
"""

from __future__ import annotations

import logging
from operator import itemgetter
from typing import Any, Literal

import numpy as np
from numpy.typing import NDArray
from OCP.BOPTools import BOPTools_AlgoTools, BOPTools_AlgoTools3D
from OCP.BRep import BRep_Builder, BRep_Tool
from OCP.BRepAdaptor import BRepAdaptor_Surface
from OCP.BRepAlgoAPI import BRepAlgoAPI_BuilderAlgo
from OCP.BRepClass import BRepClass_FaceClassifier
from OCP.BRepClass3d import BRepClass3d_SolidClassifier
from OCP.BRepLProp import BRepLProp_SLProps
from OCP.BRepTools import BRepTools
from OCP.collections import (
    IndexedDataMap_TopoDS_Shape_List_TopoDS_Shape_TopTools_ShapeMapHasher as AncestorMap,
)
from OCP.GeomAbs import GeomAbs_SurfaceType
from OCP.GeomAPI import GeomAPI_ProjectPointOnSurf
from OCP.gp import gp_Pnt, gp_Pnt2d
from OCP.IntTools import IntTools_Context
from OCP.TopAbs import TopAbs_Orientation, TopAbs_ShapeEnum, TopAbs_State
from OCP.TopExp import TopExp, TopExp_Explorer
from OCP.TopoDS import TopoDS, TopoDS_Face, TopoDS_Iterator, TopoDS_Shape, TopoDS_Shell, TopoDS_Solid
from scipy.sparse import coo_matrix
from scipy.sparse.csgraph import connected_components

from ..tally import fell_back, went_well
from ..tolerance import FIGURES, NO_VOLUME, NORMAL_STEP, ONE_PLACE, SAME_VOLUME, SEWN
from .keeping_whole import unharming
from .known import Anatomy, FaceFacts, facts_of
from .named import NamedShape
from .refusing import is_refusal
from .shapes import ShapeMap, compound, items, listed, shape_list, shape_map, solids_of

__all__ = ["FEWEST", "local_boolean"]

log = logging.getLogger(__name__)
TRIED_FIRST = "local boolean"  # as it is counted
FEWEST = 40  # faces of a body below which the kernel's own operation takes no longer
FEW = 2  # openings far from the tool that a face may keep while it is worked on
EDGE, FACE, VERTEX = (
    TopAbs_ShapeEnum.TopAbs_EDGE,
    TopAbs_ShapeEnum.TopAbs_FACE,
    TopAbs_ShapeEnum.TopAbs_VERTEX,
)
FORWARD, REVERSED = TopAbs_Orientation.TopAbs_FORWARD, TopAbs_Orientation.TopAbs_REVERSED
TRIED = {
    GeomAbs_SurfaceType.GeomAbs_Plane,
    GeomAbs_SurfaceType.GeomAbs_Cylinder,
    GeomAbs_SurfaceType.GeomAbs_Cone,
    GeomAbs_SurfaceType.GeomAbs_Sphere,
    GeomAbs_SurfaceType.GeomAbs_Torus,
}
Boxes = NDArray[np.float64]
Way = Literal["cut", "fuse", "common", "rest"]  # "rest" is what the tools have beyond the body
ON_TOOL = {
    "cut": -1,
    "fuse": 1,
    "common": 1,
    "rest": -1,
}  # of faces that lie on one another, those are kept that look the same way, or opposite ways
Piece = tuple[TopoDS_Face, frozenset[str]]


class _Unfit(Exception):
    """The local way gives no answer here."""


def local_boolean(way: Way, body: NamedShape, tools: list[NamedShape]) -> NamedShape | None:
    """Cut tools off a body, join them to it, or return what is common, or the rest of the tools; None where
    the kernel's own operation is to be asked.

    Body and tools are single sound solids; tools that come near one another are done one after the other,
    where that is the same.
    """
    if tools and len(body.names) < FEWEST:
        return None
    try:
        made = _in_groups(way, body, tools)
    except _Unfit as reason:
        fell_back(TRIED_FIRST, str(reason))
        return None
    except Exception as error:  # the kernel's own operation has the answer all the same
        if not is_refusal(error):
            log.exception("a local boolean operation failed by a fault of ours")
        fell_back(TRIED_FIRST, "refused by the kernel" if is_refusal(error) else "a fault of ours")
        return None
    went_well(TRIED_FIRST)
    return made


def _in_groups(way: Way, body: NamedShape, tools: list[NamedShape]) -> NamedShape:
    if any(
        len(solids_of(s.shape)) != 1 or shape_map(s.shape, TopAbs_ShapeEnum.TopAbs_SHELL).Extent() != 1
        for s in tools
    ):
        raise _Unfit("a tool of several solids or shells")
    groups = _apart(tools)
    if len(groups) > 1 and way in ("common", "rest"):
        raise _Unfit("several tools in common")
    for group in groups:
        if len(body.names) < FEWEST or len(solids_of(body.shape)) != 1:
            raise _Unfit("few faces or several solids left")
        body = _Operation(way, body, group).result()
    return body


def _apart(tools: list[NamedShape]) -> list[list[NamedShape]]:
    """Return tools in groups of which no two come near one another, as few as it goes."""
    groups: list[tuple[list[NamedShape], list[Boxes]]] = []
    for tool in tools:
        box = tool.anatomy.box
        for held, boxes in groups:
            if not any(_meet(np.array([b]), box, SEWN).any() for b in boxes):
                held.append(tool)
                boxes.append(box)
                break
        else:
            groups.append(([tool], [box]))
    return [held for held, _ in groups]


def _meet(boxes: Boxes, box: Boxes, near: float = FIGURES) -> NDArray[np.bool_]:
    """Tell which of some boxes (n, 6) come near one."""
    found: NDArray[np.bool_] = np.all(boxes[:, :3] <= box[3:] + near, 1) & np.all(
        boxes[:, 3:] >= box[:3] - near, 1
    )
    return found


def _children(shape: TopoDS_Shape) -> list[TopoDS_Shape]:
    """Return what a shape is made of, as it is turned."""
    found, held = TopoDS_Iterator(shape), []
    while found.More():
        held.append(found.Value().Oriented(found.Value().Orientation()))
        found.Next()
    return held


class _Operation:
    """One body and tools that are apart from one another."""

    def __init__(self, way: Way, body: NamedShape, tools: list[NamedShape]) -> None:
        self.way, self.body, self.tools = way, body, tools
        self.context = IntTools_Context()
        self.boxes = [t.anatomy.box for t in tools]
        self.kept: list[Piece] = []
        self.places: list[
            int
        ] = []  # where each of `kept` stands among the body's faces; those of tools come last
        self.reduced: dict[
            int, TopoDS_Face
        ] = {}  # by place in `kept`, what stands for a face with many openings when it is checked

    def result(self) -> NamedShape:
        """Return what comes of it; raises _Unfit."""
        anatomy = self.body.anatomy
        hits = np.zeros(len(anatomy.faces), bool)
        for box in self.boxes:
            hits |= _meet(anatomy.boxes, box)
        at = np.nonzero(hits)[0].tolist()
        touched = [self._reduced(anatomy.faces[i]) for i in at]
        names = [self.body.names[i] for i in at]
        if not touched or not all(BRepAdaptor_Surface(r, False).GetType() in TRIED for r, _, _ in touched):
            raise _Unfit("surface kind")
        if not all(
            BRepAdaptor_Surface(f.shape, False).GetType() in TRIED
            for t in self.tools
            for f in t.anatomy.faces
        ):
            raise _Unfit("surface kind of a tool")
        fuse = unharming(BRepAlgoAPI_BuilderAlgo())
        fuse.SetArguments(shape_list([compound([r for r, _, _ in touched]), *(t.shape for t in self.tools)]))
        fuse.Build()
        if not fuse.IsDone():
            raise _Unfit("general fuse failed")
        parts = [
            (p, own) for t in self.tools for f, own in t.pairs() for p in listed(fuse.Modified(f)) or [f]
        ]
        of_tools: dict[int, frozenset[str]] = {}
        tool_map = ShapeMap()
        for p, own in parts:
            i = tool_map.Add(p)
            of_tools[i] = of_tools.get(i, frozenset()) | own
        both, local = self._sides_of_body(
            fuse, touched, list(zip(at, names, strict=True)), tool_map, of_tools
        )
        self._parts_of_tools([(p, own) for p, own in parts if not both.Contains(p)], local)
        self._place(len(anatomy.faces))
        return self._together(np.nonzero(~hits)[0].tolist() if self.way in ("cut", "fuse") else [])

    def _reduced(self, face: FaceFacts) -> tuple[TopoDS_Face, FaceFacts, list[TopoDS_Shape]]:
        """Return a face without the openings that no tool comes near, where these are many; and these
        openings."""
        if len(face.wires) <= FEW + 1:
            return face.shape, face, []
        outer: TopoDS_Shape = BRepTools.OuterWire_s(TopoDS.Face(face.shape.Oriented(FORWARD)))
        boxes = face.wire_boxes
        close = np.any([_meet(boxes, b) for b in self.boxes], axis=0)
        near, far = [outer], list[TopoDS_Shape]()
        for (wire, sense), meets in zip(face.wires, close, strict=True):
            if not wire.shape.IsSame(outer):
                (near if meets else far).append(wire.shape.Oriented(REVERSED if sense < 0 else FORWARD))
        if len(far) <= FEW:
            return face.shape, face, []
        builder = BRep_Builder()
        made = TopoDS.Face(face.shape.EmptyCopied())
        made.Orientation(FORWARD)
        for w in near:
            builder.Add(made, w)
        made.Orientation(face.shape.Orientation())
        return made, face, far

    def _sides_of_body(
        self,
        fuse: Any,
        touched: list[tuple[TopoDS_Face, FaceFacts, list[TopoDS_Shape]]],
        placed: list[tuple[int, frozenset[str]]],
        tool_map: ShapeMap,
        of_tools: dict[int, frozenset[str]],
    ) -> tuple[ShapeMap, list[TopoDS_Shape]]:
        """Keep the pieces of the body's faces that are on the right side; return the pieces that lie on tools
        too, and all.

        placed : of each touched face its place among the body's faces, and its names.
        """
        both, local = ShapeMap(), []
        classifiers = [BRepClass3d_SolidClassifier(t.shape) for t in self.tools]
        for (reduced, face, far), (at, own) in zip(touched, placed, strict=True):
            parts, mine = listed(fuse.Modified(reduced)), []
            untouched = not parts and not tool_map.Contains(reduced)
            for part in parts or [reduced]:
                p = TopoDS.Face(part)
                inside = self._inside(p)
                local.append(p)
                shared = tool_map.FindIndex(p)
                if shared:
                    both.Add(p)
                    if (
                        self._normal(p, inside)
                        @ self._normal(TopoDS.Face(tool_map.FindKey(shared)), inside)
                        * ON_TOOL[self.way]
                        > 0
                    ):
                        mine.append((p, own | of_tools[shared]))
                    continue
                if self._in_a_tool(classifiers, inside) == (self.way in ("common", "rest")):
                    mine.append((p, own))
            if untouched:
                mine = [(face.shape, own)] * len(mine)
            if self.way == "rest":
                mine = [(TopoDS.Face(p.Reversed()), names) for p, names in mine]
            if untouched or self.way in (
                "common",
                "rest",
            ):  # what lies in a tool has none of the openings that no tool comes near
                self.kept += mine
            else:
                self._give_back(mine, far)
            self._place(at)
        return both, local

    def _place(self, at: int) -> None:
        """Let what was kept last stand at a place."""
        self.places += [at] * (len(self.kept) - len(self.places))

    def _in_a_tool(self, classifiers: list[BRepClass3d_SolidClassifier], at: gp_Pnt) -> bool:
        place = np.array([at.X(), at.Y(), at.Z()])
        for classifier, box in zip(classifiers, self.boxes, strict=True):
            if np.all(place >= box[:3] - FIGURES) and np.all(place <= box[3:] + FIGURES):
                classifier.Perform(at, ONE_PLACE)
                if classifier.State() == TopAbs_State.TopAbs_ON:
                    raise _Unfit("piece on a tool")  # a piece that lies on the tool, and is none of its own
                if classifier.State() != TopAbs_State.TopAbs_OUT:
                    return True
        return False

    def _give_back(self, mine: list[Piece], far: list[TopoDS_Shape]) -> None:
        """Keep pieces of one face, each with the far openings that lie in it."""
        if not far:
            self.kept += mine
            return
        builder = BRep_Builder()
        whole = []
        for p, own in mine:
            made = TopoDS.Face(p.EmptyCopied())
            made.Orientation(FORWARD)
            for child in _children(p.Oriented(FORWARD)):
                builder.Add(made, child)
            whole.append((made, p, own))
        for wire in far:
            if len(whole) == 1:
                builder.Add(whole[0][0], wire)
                continue
            at = BRep_Tool.Pnt_s(TopoDS.Vertex(TopExp_Explorer(wire, VERTEX).Current()))
            holders = [
                made
                for made, p, _ in whole
                if BRepClass_FaceClassifier(p, at, ONE_PLACE).State() == TopAbs_State.TopAbs_IN
            ]
            if len(holders) != 1:
                raise _Unfit("opening in two pieces")
            builder.Add(holders[0], wire)
        for made, p, own in whole:
            made.Orientation(p.Orientation())
            self.reduced[len(self.kept)] = p
            self.kept.append((made, own))

    def _inside(self, face: TopoDS_Face) -> gp_Pnt:
        at = gp_Pnt()
        if BOPTools_AlgoTools3D.PointInFace_s(face, at, gp_Pnt2d(), self.context):
            raise _Unfit("no place inside a face")
        return at

    def _normal(self, face: TopoDS_Face, at: gp_Pnt) -> NDArray[np.float64]:
        """Return the direction out of the material at a place of a face."""
        nearest = GeomAPI_ProjectPointOnSurf(at, BRep_Tool.Surface_s(face))
        u, v = nearest.LowerDistanceParameters()
        n = BRepLProp_SLProps(BRepAdaptor_Surface(face), u, v, 1, NORMAL_STEP).Normal()
        turned = -1.0 if face.Orientation() == REVERSED else 1.0
        return turned * np.array([n.X(), n.Y(), n.Z()])

    def _parts_of_tools(self, parts: list[Piece], local: list[TopoDS_Shape]) -> None:
        """Keep the pieces of the tools' faces that lie in the body (cut, turned round) or out of it
        (fuse)."""
        sides = self._sides_of_tools([p for p, _ in parts], local)
        for (p, names), inside in zip(parts, sides, strict=True):
            if inside == (self.way in ("cut", "common")):
                self.kept.append((TopoDS.Face(p.Reversed() if self.way == "cut" else p), names))

    def _sides_of_tools(self, parts: list[TopoDS_Face], local: list[TopoDS_Shape]) -> list[bool | None]:
        """Tell of each piece of the tools' faces whether it lies in the body.

        Pieces at the body's own edges are asked; their neighbours across other edges lie on the same side.
        Raises _Unfit where neighbours differ.
        """
        around = AncestorMap()
        TopExp.MapShapesAndAncestors_s(compound(local), EDGE, FACE, around)
        solid = TopoDS.Solid(solids_of(self.body.shape)[0])
        inside: list[bool | None] = [None] * len(parts)
        at_edge: dict[int, list[int]] = {}
        edges_of: list[list[int]] = []
        seen = ShapeMap()

        def ask(i: int) -> bool:
            face = TopoDS.Face(parts[i])
            return bool(BOPTools_AlgoTools.IsInternalFace_s(face, solid, around, ONE_PLACE, self.context))

        for i, p in enumerate(parts):
            own = [e for e in items(shape_map(p, EDGE)) if not BRep_Tool.Degenerated_s(TopoDS.Edge(e))]
            free = [seen.Add(e) for e in own if not around.Contains(e)]
            edges_of.append(free)
            for e in free:
                at_edge.setdefault(e, []).append(i)
            if len(free) < len(own):
                inside[i] = ask(i)
        _spread([i for i, s in enumerate(inside) if s is not None], inside, edges_of, at_edge)
        for i in range(len(parts)):
            if inside[i] is None:  # a tool that meets no face
                inside[i] = ask(i)
                _spread([i], inside, edges_of, at_edge)
        return inside

    def _together(self, untouched: list[int]) -> NamedShape:
        """Return the body of all faces; raises _Unfit where they do not close, or one is broken.

        untouched : faces of the body. All stand in the order in which they were, each piece in the place of
        the face it is of, so that what hangs on their order changes no more than they do.
        """
        anatomy, names = self.body.anatomy, self.body.names
        placed = [(at, anatomy.faces[at], (anatomy.faces[at].shape, names[at])) for at in untouched]
        for i, (at, piece) in enumerate(zip(self.places, self.kept, strict=True)):
            known = facts_of(piece[0])
            if i in self.reduced and known.sound is None:
                known.sound = facts_of(self.reduced[i]).check()
            if not known.check():
                raise _Unfit("broken face")
            placed.append((at, known, piece))
        if not placed:
            return NamedShape(compound([]), [])
        placed.sort(key=itemgetter(0))
        facts, every = [f for _, f, _ in placed], [piece for _, _, piece in placed]
        shells, whole = _shells(facts), Anatomy(facts)
        solids: list[TopoDS_Shape] = []
        builder = BRep_Builder()
        outer: list[tuple[TopoDS_Shell, float]] = []
        voids: list[TopoDS_Shell] = []
        for group in shells:
            shell = TopoDS_Shell()
            builder.MakeShell(shell)
            for i in group:
                builder.Add(shell, every[i][0])
            shell.Closed(True)
            volume = float(whole.masses[group, 0].sum())
            if abs(volume) < NO_VOLUME:
                raise _Unfit("no volume")
            (outer.append((shell, volume)) if volume > 0 else voids.append(shell))
        if not outer or (voids and len(outer) > 1):
            raise _Unfit("void of several solids")  # which void is whose is left to the kernel
        for shell, _ in outer:
            solid = TopoDS_Solid()
            builder.MakeSolid(solid)
            builder.Add(solid, shell)
            for void in voids:
                builder.Add(solid, void)
            solids.append(solid)
        made = (
            self._whole(solids[0], every, whole)
            if len(shells) == 1
            else NamedShape.collect(solids[0] if len(solids) == 1 else compound(solids), every)
        )
        if made.anatomy.unclosed is not None or not all(made.names):
            raise _Unfit("not closed")
        self._within(made)
        return made

    @staticmethod
    def _whole(solid: TopoDS_Shape, every: list[Piece], anatomy: Anatomy) -> NamedShape:
        """Return a solid of one shell with its names; its faces are in the order in which they were put
        in."""
        found = shape_map(solid, FACE)
        if found.Extent() != len(every) or any(
            found.FindIndex(every[i][0]) != i + 1 for i in (0, len(every) // 2, len(every) - 1)
        ):
            return NamedShape.collect(solid, every)
        return NamedShape(solid, [own for _, own in every], anatomy)

    def _within(self, made: NamedShape) -> None:
        """Raise _Unfit unless the volume is one that the operation can have."""
        was, tools, now = (
            self.body.anatomy.mass[0],
            sum(t.anatomy.mass[0] for t in self.tools),
            made.anatomy.mass[0],
        )
        slack = SAME_VOLUME * (was + tools)
        most = max(t.anatomy.mass[0] for t in self.tools)
        low, high = {
            "cut": (was - tools, was),
            "fuse": (max(was, most), was + tools),
            "common": (0.0, min(was, tools)),
            "rest": (tools - was, tools),
        }[self.way]
        if not low - slack <= now <= high + slack:
            raise _Unfit("volume out of bounds")


def _spread(
    todo: list[int], inside: list[bool | None], edges_of: list[list[int]], at_edge: dict[int, list[int]]
) -> None:
    """Give the side of some pieces on to their neighbours; raises _Unfit where these lie on the other one."""
    while todo:
        i = todo.pop()
        for j in (j for e in edges_of[i] for j in at_edge[e]):
            if inside[j] is None:
                inside[j] = inside[i]
                todo.append(j)
            elif inside[j] != inside[i]:
                raise _Unfit("sides differ")


def _shells(facts: list[FaceFacts]) -> list[list[int]]:
    """Return the faces in groups that hang together by their edges."""
    numbers = np.concatenate([f.numbers for f in facts])
    owner = np.repeat(np.arange(len(facts)), [len(f.numbers) for f in facts])
    order = np.argsort(numbers, kind="stable")
    numbers, owner = numbers[order], owner[order]
    same = numbers[1:] == numbers[:-1]
    links = coo_matrix(
        (np.ones(int(same.sum())), (owner[:-1][same], owner[1:][same])), shape=(len(facts), len(facts))
    )
    count, labels = connected_components(links, False)
    return [np.nonzero(labels == k)[0].tolist() for k in range(count)]
