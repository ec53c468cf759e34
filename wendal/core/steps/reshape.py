"""Faces offset, moved, replaced by other surfaces, and split."""

from __future__ import annotations

import math
from collections.abc import Callable
from itertools import pairwise
from types import SimpleNamespace
from typing import Annotated, Literal

from .. import kernel
from ..blanks import Choice, Name, Number, Pick
from ..datum import Picked
from ..errors import StepError
from ..kernel.types import Frame, Vec, add, scaled, unit
from ..reference import DrawnRef, ThingRef
from ..stored import Value
from ..tolerance import SAME_NUMBER
from .base import Body, Handle, Made, Site, Step, register
from .building import reach_of
from .on_bodies import by_body, near
from .profiles import ChainFound, segment_of

__all__ = ["MoveFaces", "OffsetFaces", "ReplaceFace", "SplitFaces"]


def _come_along(further: int) -> str:
    if not further:
        return ""
    return (
        f"{further} more face{'s come' if further > 1 else ' comes'} along, since "
        f"{'they run' if further > 1 else 'it runs'} on smoothly."
    )


@register
class OffsetFaces(Step):
    """Faces moved along their normals; the faces around them follow."""

    title, group, key, makes = "Offset faces", "build", "b o", "body"
    shelf = "Faces"
    rare = True
    copied = True
    placeless = True
    explains = "Move faces along their normals; the faces around them follow."
    sentence = "Offset faces {name}: {faces} {side} by {distance}"

    kind: Literal["offset_faces"] = "offset_faces"
    name: Annotated[str, Name(label="name")]
    faces: Annotated[
        list[ThingRef], Pick(label="faces", accepts=("face",), many=True, needs="a face to offset")
    ] = []
    side: Annotated[
        Literal["out", "in"],
        Choice(label="side", words={"out": "outwards", "in": "inwards"}, turns=("out", "in")),
    ] = "out"
    distance: Annotated[Value, Number(label="distance", quantity="length", above=0.0, start="1 mm")] = Value(
        formula="1 mm"
    )

    def evaluate(self, given: SimpleNamespace, site: Site) -> Made:
        """Offset the faces; all faces keep their names."""
        made, further = Made(), 0
        sense = 1.0 if self.side == "out" else -1.0
        for body, faces in by_body(given.faces, site):
            body.solid("faces")
            if kernel.runs_on(body.shape, faces):
                made.shapes[body.id] = kernel.patches_pushed(
                    body.shape, faces, sense * given.distance, self.id
                )
                made.note = "Pushed square to its surface, for that runs on beside it."
                self._handle(made, body, faces[0], sense)
                continue
            try:
                made.shapes[body.id], more = kernel.faces_offset(
                    body.shape, dict.fromkeys(faces, sense * given.distance)
                )
            except kernel.FaceRefused as error:
                raise _too_far(
                    body,
                    faces,
                    error.faces,
                    given.distance,
                    lambda by, b=body, f=faces: kernel.faces_offset(
                        b.shape, dict.fromkeys(f, sense * given.distance * by)
                    ),
                ) from None
            further += more
            self._handle(made, body, faces[0], sense)
        made.note = " ".join(n for n in (made.note, _come_along(further)) if n)
        return made

    def _handle(self, made: Made, body: Body, face: int, sense: float) -> None:
        if not made.handles:
            at = kernel.nearest_on_face(body.shape, face, body.topology.faces[face].centre)
            way = scaled(kernel.normal_on_face(body.shape, face, at), sense)
            made.handles = [Handle("distance", at, way)]


def _too_far(body: Body, faces: list[int], refused: list[int], distance: float, work: object) -> StepError:
    """Say up to which distance it works; found by trying."""
    share = kernel.most(work)  # type: ignore[arg-type]
    where = near(body, (refused or faces)[0])
    if share is None:
        return StepError(
            f"The face near {where} can not go {distance:.6g} mm: a face would vanish or run into another. "
            "Make it less, or pick other faces.",
            field="distance",
            findable=True,
        )
    most = share * distance
    if most > 0:
        return StepError(
            f"The face near {where} can not go {distance:.6g} mm: a face would vanish or run into another. "
            "It works up to about "
            f"{kernel.said(most)} mm.",
            field="distance",
            offer=f"{kernel.said(most)} mm",
        )
    return StepError(
        f"The face near {where} can not be moved: the faces around it do not follow. Pick all that runs on "
        "smoothly from it, or other faces.",
        field="faces",
    )


@register
class MoveFaces(Step):
    """Faces moved: a boss or pocket as a whole, or flat faces along a direction."""

    title, group, key, makes = "Move faces", "build", "b y", "body"
    shelf = "Faces"
    rare = True
    copied = True
    explains = "Move all faces of a boss, pocket or hole, or flat faces, along a direction or by distances."
    sentence = "Move faces {name}: {faces} {manner} {x}{y}{z}{line}{distance}"

    kind: Literal["move_faces"] = "move_faces"
    name: Annotated[str, Name(label="name")]
    faces: Annotated[
        list[ThingRef], Pick(label="faces", accepts=("face",), many=True, needs="a face to move")
    ] = []
    manner: Annotated[
        Literal["by", "along", "back"],
        Choice(
            label="manner", words={"by": "by", "along": "along", "back": "against"}, turns=("along", "back")
        ),
    ] = "by"
    x: Annotated[Value, Number(label="X", quantity="length", start="0 mm", when={"manner": ("by",)})] = Value(
        formula="0 mm"
    )
    y: Annotated[Value, Number(label="Y", quantity="length", start="0 mm", when={"manner": ("by",)})] = Value(
        formula="0 mm"
    )
    z: Annotated[Value, Number(label="Z", quantity="length", start="0 mm", when={"manner": ("by",)})] = Value(
        formula="0 mm"
    )
    line: Annotated[
        ThingRef | None,
        Pick(
            label="line",
            accepts=("line", "axis"),
            needs="a line, edge or axis to move along",
            when={"manner": ("along", "back")},
        ),
    ] = None
    distance: Annotated[
        Value,
        Number(
            label="distance",
            quantity="length",
            above=0.0,
            start="5 mm",
            when={"manner": ("along", "back")},
            before="by",
        ),
    ] = Value(formula="5 mm")

    def evaluate(self, given: SimpleNamespace, site: Site) -> Made:
        """Move the faces; all faces keep their names."""
        by = self._way(given)
        made, notes = Made(), []
        if math.hypot(*by) < SAME_NUMBER:
            raise StepError("This moves by nothing. Give a distance.", field="x")
        for body, faces in by_body(given.faces, site):
            body.solid("faces")
            try:
                made.shapes[body.id], whole, further = kernel.faces_moved(body.shape, faces, by, self.id)
            except kernel.FaceRefused as error:
                raise self._refused(body, faces, error.faces) from None
            notes.append(
                "Moved as a whole; the body is healed where it was." if whole else _come_along(further)
            )
        made.note = " ".join(dict.fromkeys(n for n in notes if n))
        return made

    def _way(self, given: SimpleNamespace) -> Vec:
        if self.manner == "by":
            return (given.x, given.y, given.z)
        line = given.line.line or given.line.axis
        return scaled(unit(line.direction), given.distance * (1.0 if self.manner == "along" else -1.0))

    def _refused(self, body: Body, faces: list[int], refused: list[int]) -> StepError:
        where = near(body, (refused or faces)[0])
        bent = [i for i in refused if body.topology.faces[i].form != "flat"]
        field = "faces"
        if (bent and len(refused) < len(faces)) or (bent and len(faces) == 1):
            return StepError(
                f"The curved face near {where} is no boss, pocket or hole by itself, so it can not be "
                "moved. Pick all of its faces, or offset it.",
                field=field,
            )
        if (
            refused
            and not bent
            and len(refused) < len(body.topology.faces)
            and any(body.topology.faces[i].form == "flat" for i in refused)
        ):
            return StepError(
                f"The face near {where} would only slide in its own plane, or come loose from the body. "
                "Move it another way, or less far.",
                field=field,
            )
        return StepError(
            "Moved so, the faces would come loose from the body, vanish in it, or run into others. Move "
            "them less far.",
            field=field,
        )


@register
class ReplaceFace(Step):
    """A flat face that ends at another surface: material is added up to it, or taken away behind it."""

    title, group, key, makes = "Replace face", "build", "b b", "body"
    shelf = "Faces"
    rare = True
    copied = True
    explains = "Let a flat face end at a plane or at another face's surface."
    sentence = "Replace face {name}: {face} by {target}"

    kind: Literal["replace_face"] = "replace_face"
    name: Annotated[str, Name(label="name")]
    face: Annotated[
        ThingRef | None, Pick(label="face", accepts=("flat",), needs="a flat face to replace")
    ] = None
    target: Annotated[
        ThingRef | None,
        Pick(label="other surface", accepts=("plane", "face"), needs="a plane or face to end at"),
    ] = None

    def evaluate(self, given: SimpleNamespace, site: Site) -> Made:
        """Replace the face, which keeps its names."""
        ((body, faces),) = by_body([given.face], site)
        body.solid("face")
        target = (
            given.target.solid
            if given.target.solid is not None and given.target.plane is None
            else given.target.plane
        )
        shapes = [body.shape, *([given.target.solid[0]] if given.target.solid else [])]
        reach = reach_of(shapes, *([target] if isinstance(target, Frame) else []))
        return Made(shapes={body.id: kernel.faces_replaced(body.shape, faces[0], target, reach, self.id)})


@register
class SplitFaces(Step):
    """Faces split by a plane, a face or curves of a sketch; the body stays as it is."""

    title, group, key, makes = "Split faces", "build", "b g", "body"
    shelf = "Faces"
    rare = True
    explains = (
        "Split faces by a plane, a face or curves of a sketch, so that a part of one can be used by itself."
    )
    sentence = "Split faces {name}: {faces} {manner} {by}{lines}{reach}"

    kind: Literal["split_faces"] = "split_faces"
    name: Annotated[str, Name(label="name")]
    faces: Annotated[
        list[ThingRef], Pick(label="faces", accepts=("face",), many=True, needs="a face to split")
    ] = []
    manner: Annotated[
        Literal["surface", "drawn"],
        Choice(label="manner", words={"surface": "where they meet", "drawn": "square under the curves"}),
    ] = "surface"
    by: Annotated[
        ThingRef | None,
        Pick(
            label="plane or face",
            accepts=("plane", "face"),
            needs="a plane or face to split by",
            when={"manner": ("surface",)},
        ),
    ] = None
    lines: Annotated[
        list[DrawnRef],
        Pick(
            label="curves",
            accepts=("drawn",),
            many=True,
            needs="a curve of a sketch, with all that joins on to it",
            when={"manner": ("drawn",)},
        ),
    ] = []
    reach: Annotated[
        Literal["", "near"],
        Choice(
            label="reach",
            words={"": "", "near": ", only on the side near the sketch"},
            clause="near side only",
            when={"manner": ("drawn",)},
        ),
    ] = ""

    def evaluate(self, given: SimpleNamespace, site: Site) -> Made:
        """Split the faces; a part keeps the face's names and gets one of its own."""
        made, count = Made(), 0
        for body, faces in by_body(given.faces, site):
            frames = (
                [given.by.plane]
                if self.manner == "surface" and given.by.plane
                else [c.frame for c in getattr(given, "lines", [])]
            )
            other = given.by.solid[0] if self.manner == "surface" and given.by.solid else None
            reach = reach_of([body.shape, *([other] if other else [])], *frames)
            near = kernel.nearest_of(body.shape, faces, frames[0]) if self.reach else _everywhere
            cutters = self._cutters(given, reach, near)
            try:
                made.shapes[body.id], parts = kernel.faces_split(
                    body.shape, faces, cutters, reach, self.id, near
                )
            except kernel.FaceRefused as error:
                raise self._refused(body, error.faces) from None
            count += parts
        made.note = f"In {count} parts now." if count > 2 else ""
        return made

    def _refused(self, body: Body, faces: list[int]) -> StepError:
        if not faces:
            return StepError("One of the curves meets none of the faces. Take it out.", field="lines")
        return StepError(
            f"The face near {near(body, faces[0])} is not cut in two by this. Take it out, or pick "
            "something that goes right across it.",
            field="faces",
        )

    def _cutters(
        self, given: SimpleNamespace, reach: float, near: Callable[[Vec], bool]
    ) -> list[tuple[kernel.Target | kernel.NamedShape, Callable[[Vec], str]]]:
        if self.manner == "surface":
            by: Picked = given.by
            target = by.solid if by.solid is not None and by.plane is None else by.plane
            assert target is not None
            if by.solid is not None and kernel.is_sheet(by.solid[0]):
                return [(by.solid[0], kernel.side_of_sheet(by.solid[0]))]
            return [(target, kernel.front_of(target))]
        return [self._curtain(chain, reach, len(given.lines) > 1, near) for chain in given.lines]

    def _curtain(
        self, chain: ChainFound, reach: float, several: bool, near: Callable[[Vec], bool]
    ) -> tuple[kernel.NamedShape, Callable[[Vec], str]]:
        frame, longer = chain.frame, chain.gone_on(reach)
        low = frame.at_place(add(frame.origin, scaled(frame.normal, -reach)))
        sheet = kernel.sheet_along(
            [segment_of(p) for p in longer.pieces],
            low,
            scaled(frame.normal, 2 * reach),
            chain.closed,
            self.id,
            chain.key,
        )
        word = f"{chain.key}." if several else ""
        beyond = "outside" if chain.closed else "beyond"
        return sheet, lambda p: word + (_beside(longer, frame.local(p)[:2]) if near(p) else beyond)


def _everywhere(p: Vec) -> bool:
    return True


def _beside(chain: ChainFound, p: tuple[float, float]) -> str:
    """Tell on which side of a chain a place of its plane lies: inside or outside of a closed one, left or
    right of an open one."""
    places = [q for piece in chain.pieces for q in [*piece.polyline(0.01), piece.end]]
    if chain.closed:
        inside = False
        for (ax, ay), (bx, by) in zip(places, [*places[1:], places[0]], strict=True):
            if (ay > p[1]) != (by > p[1]) and p[0] < ax + (p[1] - ay) / (by - ay) * (bx - ax):
                inside = not inside
        return "inside" if inside else "outside"
    best, side = math.inf, 0.0
    for (ax, ay), (bx, by) in pairwise(places):
        ux, uy = bx - ax, by - ay
        length = ux * ux + uy * uy
        if not length:
            continue
        t = min(max(((p[0] - ax) * ux + (p[1] - ay) * uy) / length, 0.0), 1.0)
        away = math.hypot(p[0] - ax - t * ux, p[1] - ay - t * uy)
        if away < best:
            best, side = away, ux * (p[1] - ay) - uy * (p[0] - ax)
    return "left" if side > 0 else "right"
