"""The outline of a cut: where planes meet the faces of bodies, exactly, as the renderer draws it."""

from __future__ import annotations

import math
from collections.abc import Iterator
from itertools import pairwise
from typing import Literal

import numpy as np
from pydantic import BaseModel, ConfigDict, Field

from .. import kernel
from ..errors import CommandRefused
from ..kernel.types import Edge, Frame, Vec, cross, dot
from ..route import Evaluation, Part
from ..route.gauging import Thing, edge_thing
from ..steps import Body
from ..stored import Figure
from ..tolerance import MEETS
from .questions import Answer, Request, question

__all__ = ["CutOutline", "CutPlane", "CutSpot", "OutlineFound", "cut_thing"]

Spot = tuple[Figure, Figure, Figure]
MOST = 3  # planes
BEND = math.radians(4)  # of an arc from one place to the next
SKEW = 1e-6  # by how much directions may be off length 1, and off square
NEAR = 1e-6  # mm: faces no farther off a plane are met by it


class CutPlane(BaseModel):
    """A plane: its origin (mm), its normal and its X direction, of length 1 and square to each other."""

    model_config = ConfigDict(extra="forbid")

    origin: Spot
    normal: Spot
    x: Spot


class CutSpot(BaseModel):
    """The piece of a cut's outline that is nearest to a place (mm), or its end that is.

    It is of no part's document, for a section is of the view alone.
    """

    model_config = ConfigDict(extra="forbid")

    of: Literal["cut"] = "cut"
    plane: CutPlane
    near: Spot
    end: bool = False


class CutOutline(Request):
    """Ask where up to three planes meet the bodies that are seen."""

    of: Literal["cut_outline"] = "cut_outline"
    planes: list[CutPlane] = Field(min_length=1, max_length=MOST)


class OutlineFound(Answer):
    """Of each plane the outline: pairs of places in the part, six numbers each, mm."""

    of: Literal["cut_outline"] = "cut_outline"
    lines: list[list[float]]


@question(CutOutline, OutlineFound)
def outline(part: Part, evaluation: Evaluation, request: CutOutline) -> OutlineFound:
    """Cut all faces that a plane meets; raises CommandRefused for what is no plane."""
    for plane in request.planes:
        _checked(plane)
    return OutlineFound(lines=[_of(part, evaluation, plane) for plane in request.planes])


def cut_thing(part: Part, evaluation: Evaluation, spot: CutSpot) -> Thing:
    """Return what a place of a cut's outline means, to be measured; raises CommandRefused."""
    frame = _checked(spot.plane)
    found: tuple[float, kernel.Extent, Edge, Vec, str] | None = None
    for body in _seen(part, evaluation):
        met = _met(body.shape.anatomy.boxes, frame)
        piece = kernel.cut_near(body.shape, met, frame, spot.near) if met else None
        if piece and (found is None or math.dist(piece[2], spot.near) < found[0]):
            found = (math.dist(piece[2], spot.near), *piece, body.name)
    if found is None:
        raise CommandRefused("The section cuts nothing here any more. Point at what is cut now.")
    _, extent, edge, _, name = found
    ends = kernel.ends_of(extent)
    if not spot.end:
        return edge_thing(f"cut of {name}", extent, edge, closed=math.dist(*ends) < MEETS)
    at = min(ends, key=lambda p: math.dist(p, spot.near))
    return Thing(f"corner of the cut of {name}", kernel.extent_of(at=at), point=at)


def _checked(plane: CutPlane) -> Frame:
    """Return a plane; raises CommandRefused for what is none."""
    square = (dot(plane.normal, plane.normal) - 1, dot(plane.x, plane.x) - 1, dot(plane.normal, plane.x))
    if max(map(abs, square)) > SKEW:
        raise CommandRefused(
            "A plane's normal and its X are of length 1, and square to each other.", field="planes"
        )
    return Frame(plane.origin, plane.x, cross(plane.normal, plane.x))


def _seen(part: Part, evaluation: Evaluation) -> Iterator[Body]:
    """Yield the bodies that are shown."""
    for body in evaluation.site.bodies.values():
        look = part.looks.get(body.id)
        if look is None or look.visible:
            yield body


def _of(part: Part, evaluation: Evaluation, plane: CutPlane) -> list[float]:
    frame = Frame(plane.origin, plane.x, cross(plane.normal, plane.x))
    found: list[float] = []
    for body in _seen(part, evaluation):
        met = _met(body.shape.anatomy.boxes, frame)
        for places in map(_places, kernel.cut_faces(body.shape, met, frame)):
            for a, b in pairwise([frame.at(*p) for p in places]):
                found += (*a, *b)
    return found


def _met(boxes: np.ndarray, frame: Frame) -> list[int]:
    """Return the faces whose boxes a plane goes through."""
    if not len(boxes):
        return []
    n, middle, half = (
        np.array(frame.normal),
        (boxes[:, :3] + boxes[:, 3:]) / 2,
        (boxes[:, 3:] - boxes[:, :3]) / 2,
    )
    off = np.abs((middle - np.array(frame.origin)) @ n)
    return [int(i) for i in np.nonzero(off <= half @ np.abs(n) + NEAR)[0]]


def _places(piece: tuple[str, list[tuple[float, float]], float]) -> list[tuple[float, float]]:
    """Return places along a piece, near enough to be drawn."""
    kind, at, radius = piece
    if kind in ("circle", "arc"):
        (x, y), *ends = at
        first = math.atan2(ends[0][1] - y, ends[0][0] - x) if ends else 0.0
        turn = (math.atan2(ends[1][1] - y, ends[1][0] - x) - first) % math.tau if ends else math.tau
        steps = max(1, math.ceil(turn / BEND))
        return [
            (x + radius * math.cos(first + turn * k / steps), y + radius * math.sin(first + turn * k / steps))
            for k in range(steps + 1)
        ]
    if kind in ("ellipse", "ellipse_arc"):
        return _oval(at, radius)
    return at


def _oval(at: list[tuple[float, float]], minor: float) -> list[tuple[float, float]]:
    (x, y), (u, v), *ends = at
    across, along = (u - x, v - y), math.hypot(u - x, v - y)
    up = (-across[1] * minor / along, across[0] * minor / along)

    def turned(p: tuple[float, float]) -> float:
        dx, dy = p[0] - x, p[1] - y
        return math.atan2((dx * up[0] + dy * up[1]) / minor**2, (dx * across[0] + dy * across[1]) / along**2)

    first = turned(ends[0]) if ends else 0.0
    turn = (turned(ends[1]) - first) % math.tau if ends else math.tau
    steps = max(1, math.ceil(turn / BEND))
    angles = [first + turn * k / steps for k in range(steps + 1)]
    return [
        (x + across[0] * math.cos(t) + up[0] * math.sin(t), y + across[1] * math.cos(t) + up[1] * math.sin(t))
        for t in angles
    ]
