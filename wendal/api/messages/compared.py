"""What is told of two versions, or two parts, that are compared."""

from __future__ import annotations

from typing import Literal

from wendal.core.route.differing import Change, StepChange

from .base import Message
from .scene import MeshData, SceneSketch

__all__ = ["SayCompared", "VersionTold"]


class VersionTold(Message):
    """A version of a part, by its number and the part's name then."""

    part: int
    version: int
    name: str


class ValueTold(Message):
    """A tag whose value differs."""

    tag: str
    before: str
    after: str


class FaceTold(Message):
    """A face that only one of two bodies has: mm², mm."""

    side: Literal["here", "there"]
    words: str
    area: float
    at: tuple[float, float, float]


class BodyCompared(Message):
    """Two bodies compared: here is the earlier one's, there the later one's.

    volumes : of both, mm³; masses : g, 0 without a material; shares : the volumes of what both have, only the
    earlier one, only the later one. within : how much they differ at most where they are the same, mm.
    """

    id: str
    name: str
    state: Literal["same", "moved", "mirrored", "changed", "added", "removed"]
    words: str
    within: float
    volumes: tuple[float, float]
    masses: tuple[float, float]
    shares: tuple[float, float, float]
    faces: list[FaceTold]
    common: MeshData | None
    here: MeshData | None
    there: MeshData | None


class SayCompared(Message):
    """What is different in the later of two parts or versions. sketches : of the earlier one, drawn otherwise
    in the later one or not there."""

    type: Literal["compared"] = "compared"
    id: int
    before: VersionTold
    after: VersionTold
    steps: list[StepChange]
    ledger: list[Change]
    values: list[ValueTold]
    part: list[Change]
    bodies: list[BodyCompared]
    sketches: list[SceneSketch]
