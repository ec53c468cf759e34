"""Extrude: flat regions pushed square to their plane."""

from __future__ import annotations

from types import SimpleNamespace
from typing import Annotated, Literal

from .. import kernel
from ..blanks import Choice, Name, Number, Pick
from ..errors import StepError
from ..reference import BodyRef, RegionRef
from ..sketch import BezierPath, EllipsePath, Piece, Region, SplinePath
from ..stored import Value
from .base import Body, Made, Site, Step, register

NOTHING = 1e-9  # of a volume: a smaller change is none


@register
class Extrude(Step):
    """Regions of a sketch pushed by a depth: a new body, added to one, or cut from one."""

    title, group, key, makes = "Extrude", "build", "b e", "body"
    explains = "Push closed regions and texts of a sketch by a depth, adding or cutting."
    sentence = "Extrude {name}: {profile} {direction} {depth}, {result} {target}"

    kind: Literal["extrude"] = "extrude"
    name: Annotated[str, Name(label="name")]
    profile: Annotated[list[RegionRef], Pick(
        label="regions", accepts=("region",), many=True, needs="at least one closed region or text of a sketch",
    )] = []
    direction: Annotated[Literal["up", "down", "both"], Choice(label="direction", words={
        "up": "upward by", "down": "downward by", "both": "evenly both ways, in all",
    })] = "up"
    depth: Annotated[Value, Number(label="depth", kind="length", above=0.0)] = Value(formula="10 mm")
    result: Annotated[Literal["new", "add", "cut"], Choice(label="result", words={
        "new": "making a new body", "add": "adding to", "cut": "cutting",
    })] = "new"
    target: Annotated[BodyRef | None, Pick(
        label="body", accepts=("body",), needs="a body to add to or to cut", when={"result": ("add", "cut")},
    )] = None

    def evaluate(self, given: SimpleNamespace, site: Site, *, preview: bool = False) -> Made:
        """Push every region and join it to, or cut it from, the body."""
        prisms = [self._prism(key, region, found.frame, given.depth) for found in given.profile for key, region in found.named()]
        if self.result == "new":
            made = kernel.fuse(prisms)
            kernel.check_solid(made)
            return Made(shapes={self.id: made}, added=made if preview else None)
        body: Body = given.target
        if self.result == "add":
            return self._add(body, prisms, preview)
        return self._cut(body, prisms, preview)

    def _prism(self, key: str, region: Region, frame: kernel.Frame, depth: float) -> kernel.NamedShape:
        height = {"up": depth, "down": -depth, "both": depth}[self.direction]
        frame = frame.raised(-depth / 2) if self.direction == "both" else frame
        n = frame.normal
        loops = [[_segment(piece) for piece in loop] for loop in (region.outer, *region.holes)]
        return kernel.prism(kernel.Profile(key, loops), frame, (n[0] * height, n[1] * height, n[2] * height), self.id)

    def _add(self, body: Body, prisms: list[kernel.NamedShape], preview: bool) -> Made:
        made = kernel.fuse([body.shape, *prisms])
        kernel.check_solid(made)
        if kernel.lumps(made) > kernel.lumps(body.shape):
            raise StepError(f"This would not touch {body.name}, so it can not be added to it. Move it, or make a new body.")
        before, after = kernel.volume_of(body.shape), kernel.volume_of(made)
        if after - before < NOTHING * before:
            raise StepError(f"This adds nothing: it lies wholly inside {body.name}. Turn the direction, or change the depth.")
        return Made(shapes={body.id: made}, added=kernel.cut(kernel.fuse(prisms), [body.shape]) if preview else None)

    def _cut(self, body: Body, prisms: list[kernel.NamedShape], preview: bool) -> Made:
        made = kernel.cut(body.shape, prisms)
        kernel.check_solid(made)
        before, after = kernel.volume_of(body.shape), kernel.volume_of(made)
        if before - after < NOTHING * before:
            raise StepError(f"This cuts nothing: it misses {body.name}. Turn the direction, or change the depth.")
        pieces = kernel.lumps(made)
        note = f"{body.name} is in {pieces} separate pieces after this." if pieces > kernel.lumps(body.shape) else ""
        return Made(shapes={body.id: made}, note=note,
                    removed=kernel.common(kernel.fuse(prisms), [body.shape]) if preview else None)


def _segment(piece: Piece) -> kernel.Segment:
    path = piece.path
    if isinstance(path, EllipsePath):
        return kernel.Segment(piece.curve, piece.start, piece.end, path.base, path.other, piece.t0, piece.t1, path.direction,
                              away=path.away)
    if isinstance(path, SplinePath):
        shape = path.shapes[0]
        poles = tuple((float(x), float(y)) for x, y in shape.c)
        return kernel.Segment(piece.curve, piece.start, piece.end, None, 0.0, piece.t0, piece.t1, None,
                              tuple(float(t) for t in shape.t), poles, shape.k, path.away)
    if isinstance(path, BezierPath):
        count = len(path.controls)
        return kernel.Segment(piece.curve, piece.start, piece.end, None, 0.0, piece.t0, piece.t1, None,
                              (0.0,) * count + (1.0,) * count, path.controls, count - 1)
    if not path.radius:
        return kernel.Segment(piece.curve, piece.start, piece.end)
    return kernel.Segment(piece.curve, piece.start, piece.end, path.base, path.radius, piece.t0, piece.t1)
