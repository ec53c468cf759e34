"""References as they are stored: what a step points to, by how it came to be."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import BaseModel, Field

from ..stored import Figure, Stored

__all__ = [
    "BaseRef",
    "BodyRef",
    "DatumRef",
    "DrawnRef",
    "EdgeEnd",
    "EdgeRef",
    "FaceRef",
    "PlaceRef",
    "PlaneRef",
    "ProfileRef",
    "RegionRef",
    "SeedRef",
    "SketchRef",
    "SpotRef",
    "StepRef",
    "ThingRef",
    "VertexRef",
    "body_step",
    "set_anew",
]

Spot = tuple[Figure, Figure, Figure]


class BaseRef(Stored):
    """One of the planes and axes that every part has, or its origin."""

    of: Literal["base"] = "base"
    name: Literal["XY", "YZ", "ZX", "X", "Y", "Z", "origin"]


class DatumRef(Stored):
    """The datum that a step makes; index tells copies apart."""

    of: Literal["datum"] = "datum"
    step: str
    index: int = Field(default=0, ge=0)


class FaceRef(Stored):
    """A face of a body. key : as of a region, where it is a profile.

    names : the durable names it carried when picked. beside : the names of its neighbours then. near : the
    picked place (mm), the last resort. whole : no other face bore these names; None where that is not known.
    Of a piece of a face that is cut up, telling : the neighbours that not all pieces had; low, high : its box
    (mm). See `pieces.py`.
    """

    of: Literal["face"] = "face"
    body: str
    names: list[str] = Field(min_length=1)
    beside: list[str] = Field(default_factory=list)
    near: Spot | None = None
    key: str = ""
    whole: bool | None = None
    telling: list[list[str]] = Field(default_factory=list)
    low: Spot | None = None
    high: Spot | None = None


class EdgeEnd(Stored):
    """One end of an edge: the faces there that do not meet in it, by their names, and its place (mm)."""

    faces: list[list[str]] = Field(default_factory=list)
    at: Spot


class EdgeRef(Stored):
    """An edge of a body, by the names of the faces that meet in it and of those at its ends.

    alone : faces of these names met in no other edge when it was picked, so that where they meet in several
    pieces now, all are the edge; older files counted faces by their places and not by their names. whole :
    the same, counted by names; None where that is not known. ends : of a piece of an edge that is cut up, its
    two ends. See `pieces.py`.
    """

    of: Literal["edge"] = "edge"
    body: str
    faces: list[list[str]] = Field(min_length=1, max_length=2)
    beside: list[str] = Field(default_factory=list)
    near: Spot | None = None
    alone: bool = False
    whole: bool | None = None
    ends: list[EdgeEnd] = Field(default_factory=list, max_length=2)


class VertexRef(Stored):
    """A corner of a body, by the names of the faces that meet in it.

    whole : such faces met in no other corner when it was picked; None where that is not known. Else, onward :
    whether the edge of two flat faces at it runs forwards (1) or backwards (-1) from it, along the cross
    product of their normals; 0 where that cannot be told.
    """

    of: Literal["vertex"] = "vertex"
    body: str
    faces: list[list[str]] = Field(min_length=1)
    near: Spot | None = None
    whole: bool | None = None
    onward: Literal[-1, 0, 1] = 0


class SpotRef(Stored):
    """The middle of an edge, or the centre of a circular one."""

    of: Literal["spot"] = "spot"
    at: Literal["middle", "centre"]
    edge: EdgeRef


class DrawnRef(Stored):
    """A point or curve of a sketch, by its id. key : as of a region, where the curve's chain is a profile."""

    of: Literal["drawn"] = "drawn"
    step: str
    entity: str
    key: str = ""


class SketchRef(Stored):
    """A whole sketch. key : as of a region, where it is a profile.

    named : what its regions are called by: "first", the side that was drawn first, which stays while corners
    are edited; "" in older files, all sides.
    """

    of: Literal["sketch"] = "sketch"
    step: str
    key: str = ""
    named: Literal["", "first"] = ""


class RegionRef(Stored):
    """A closed region of a sketch, by the sides of the curves that bound it (`c5+` is left of curve c5); or a
    text, by its id.

    key : its number within the step that uses it, part of the names of the faces made from it.
    inside : a place in it (mm in the sketch) when it was picked. holes : the sides of the outlines inside it
    then; None where that is not known.
    """

    of: Literal["region"] = "region"
    step: str
    sides: list[str] = Field(min_length=1)
    inside: tuple[Figure, Figure]
    key: str = "r1"
    holes: list[list[str]] | None = None


class StepRef(Stored):
    """A whole step: what a pattern or mirror makes again."""

    of: Literal["step"] = "step"
    step: str


class BodyRef(Stored):
    """A body, by its id: that of the step that began it, and a number behind a dot where the step began
    several (`s9.2`)."""

    of: Literal["body"] = "body"
    body: str


def begun_by(step: str, n: int) -> str:
    """Return the id of a body that a step begins, by its place among those, from 0."""
    return f"{step}.{n + 1}" if n else step


def body_step(body: str) -> str:
    """Return the step that began a body."""
    return body.split(".")[0]


def set_anew(held: Any, put: Any) -> bool:
    """Tell whether a field is given another meaning: a face that keeps one of its names is the same one,
    confirmed."""
    held, put = (x.model_dump(mode="json") if isinstance(x, BaseModel) else x for x in (held, put))
    if isinstance(held, dict) and isinstance(put, dict) and held.get("of") == put.get("of") == "face":
        return held["body"] != put["body"] or not set(held["names"]) & set(put["names"])
    return bool((list(held) if isinstance(held, tuple) else held) != put)


ProfileRef = Annotated[RegionRef | FaceRef | SketchRef | DrawnRef, Field(discriminator="of")]
SeedRef = Annotated[StepRef | BodyRef | FaceRef, Field(discriminator="of")]
PlaneRef = Annotated[BaseRef | DatumRef | FaceRef, Field(discriminator="of")]
ThingRef = Annotated[
    BaseRef | DatumRef | FaceRef | EdgeRef | VertexRef | SpotRef | DrawnRef, Field(discriminator="of")
]
PlaceRef = Annotated[
    BaseRef | DatumRef | FaceRef | EdgeRef | VertexRef | SpotRef | DrawnRef | SketchRef,
    Field(discriminator="of"),
]
