"""Fillet and chamfer: edges of bodies rounded or bevelled, along everything that goes on smoothly from
them."""

from __future__ import annotations

import math
from dataclasses import replace
from types import SimpleNamespace
from typing import Annotated, ClassVar, Literal

from .. import kernel
from ..blanks import Choice, Name, Number, Pick
from ..datum import Picked
from ..errors import StepError
from ..kernel.types import Vec, add, dot, scaled, unit
from ..reference import ThingRef
from ..stored import Value
from ..tolerance import PARALLEL
from .base import Body, Handle, Made, Site, Step, register

__all__ = ["Chamfer", "Fillet", "FullRound"]

MOST = 24  # edges that are tried one by one when a blend does not work
EDGES = "an edge, or a face whose edges are meant"


def _edges(label: str, **more: object) -> Pick:
    return Pick(label=label, accepts=("edge", "face"), many=True, needs=EDGES, pieces=True, **more)  # type: ignore[arg-type]


class _Blended(Step):
    """Base: what is asked for along picked edges, done to their bodies; a failure names the edge and how far
    one could go."""

    group, makes = "build", "body"
    copied = True
    placeless = True
    noun: ClassVar[str] = "size"
    sizes: ClassVar[dict[str, str]] = {
        "edges": "radius",
        "faces": "radius",
        "edges_two": "radius_two",
        "edges_three": "radius_three",
    }

    def blends(self, given: SimpleNamespace) -> list[tuple[str, list[Picked], kernel.Blend]]:
        """Return, for every group of edges, the blank they are picked in, the picks and the blend (its edges
        left out)."""
        raise NotImplementedError(self.kind)

    def evaluate(self, given: SimpleNamespace, site: Site) -> Made:
        """Blend each body's edges at once."""
        groups = self.blends(given)
        made = Made()
        notes, skins = [], []
        for body in site.bodies.values():
            wanted = [
                (
                    f,
                    self.started(picks, blend).along(
                        list(own), {e: face for e, face in own.items() if face >= 0}
                    ),
                )
                for f, picks, blend in groups
                if (own := self.own(body, f, picks, given))
            ]
            if not wanted:
                continue
            _once(body.solid(wanted[0][0]), wanted)
            blends = [b for _, b in wanted]
            try:
                shape, skin, further = kernel.blended(body.shape, blends, self.id)
            except kernel.BlendFailed:
                raise self._failure(body, wanted) from None
            made.shapes[body.id] = shape
            skins.append(skin)
            if further > 0:
                notes.append(
                    f"Goes on along {further} more edge{'s' if further > 1 else ''} that "
                    f"follow{'' if further > 1 else 's'} smoothly."
                )
            gone = len(
                {n for names in body.shape.names for n in names} - {n for names in shape.names for n in names}
            )
            if gone:
                notes.append(f"{gone} face{'s are' if gone > 1 else ' is'} swallowed by it.")
            made.handles = made.handles or [_handle(self.sizes[groups[0][0]], body, blends[0].edges[0])]
        if not made.shapes:
            raise StepError("None of these is an edge of a body any more. Pick others.", field=groups[0][0])
        made.skin = skins[0] if len(skins) == 1 else kernel.together(skins)
        made.note = " ".join(dict.fromkeys(notes))
        return made

    def own(self, body: Body, field: str, picks: list[Picked], given: SimpleNamespace) -> dict[int, int]:
        """Return the edges that a group's picks mean on a body."""
        return _own(body, picks)

    def started(self, picks: list[Picked], blend: kernel.Blend) -> kernel.Blend:
        """Return a blend with where it begins along its edges, if that matters to it."""
        return blend

    def _failure(self, body: Body, wanted: list[tuple[str, kernel.Blend]]) -> StepError:
        """Say which edge can not be done in its size, and up to which size it could; found by trying."""
        for field, blend in wanted:
            for edge in blend.edges[:MOST]:
                one = blend.along([edge])
                if kernel.works(body.shape, [one], self.id):
                    continue
                most = kernel.largest(body.shape, one, self.id)
                up_to = (
                    "make it smaller"
                    if most is None
                    else f"there it works up to about {kernel.said(most)} mm"
                    if most > 0
                    else "no smaller one that was tried works there either"
                )
                return StepError(
                    f"A {self.noun} of {blend.size:g} mm does not fit at the edge near "
                    f"{kernel.edge_near(body.shape, edge)}; {up_to}.",
                    field=self.sizes.get(field, field),
                    offer=_offer(blend, most or 0.0),
                    findable=most is None,
                )
        field, blend = wanted[0]
        most = kernel.largest(body.shape, blend, self.id) if len(wanted) == 1 else 0.0
        more = f" Together they work up to about {kernel.said(most)} mm." if most else ""
        return StepError(
            "Each of these edges works alone, but together they are too large for the faces between "
            f"them.{more} "
            "Make it smaller, or take some edges out.",
            field=self.sizes.get(field, field),
            offer=_offer(blend, most or 0.0),
            findable=most is None,
        )


def _own(body: Body, picks: list[Picked]) -> dict[int, int]:
    """Return the edges that picks mean on a body: edges themselves, and all edges of faces, each with
    the face it was meant by."""
    found: dict[int, int] = {}
    for p in picks:
        if p.edge and p.edge[0] is body.shape:
            found[p.edge[1]] = p.lead
        elif p.solid and p.solid[0] is body.shape:
            found |= {
                i: p.solid[1]
                for i, e in enumerate(body.topology.edges)
                if p.solid[1] in e.faces and len(e.faces) == 2 and i not in found
            }
    return found


def _offer(blend: kernel.Blend, most: float) -> str:
    """Return the size that would do as a formula; none where it is one of several."""
    return (
        f"{kernel.said(most)} mm" if most > 0 and not (blend.other or blend.angle or blend.along_it) else ""
    )


def _once(body: Body, wanted: list[tuple[str, kernel.Blend]]) -> None:
    seen: set[int] = set()
    for field, blend in wanted:
        if twice := seen & set(blend.edges):
            raise StepError(
                f"The edge near {kernel.edge_near(body.shape, min(twice))} is picked for both sizes. Take "
                "it out of one.",
                field=field,
            )
        seen |= set(blend.edges)


def _handle(field: str, body: Body, edge: int) -> Handle:
    """Return the arrow that pulls the size: from the edge's middle between its two faces, into an outer edge,
    out of an inner one."""
    found = body.topology.edges[edge]
    normals = [kernel.normal_on_face(body.shape, f, found.middle) for f in found.faces[:2]]
    out: Vec = add(normals[0], normals[-1])
    way = unit(scaled(out, -1.0)) if dot(out, out) > PARALLEL else normals[0]
    return Handle(field, found.middle, way)


@register
class Fillet(_Blended):
    """Edges rounded to a radius, more groups of them to others; a radius can change along its edges."""

    title, key = "Fillet", "b f"
    shelf = "Edges"
    explains = "Round edges to a radius; a face stands for all its edges."
    sentence = (
        "Fillet {name}: {which} {edges}{faces}{faces_two} by "
        "{radius}{varying}{middle}{share}{radius_end}{sense}{run}{second}{edges_two}{radius_two}"
        "{third}{edges_three}{radius_three}"
    )
    noun: ClassVar[str] = "radius"

    kind: Literal["fillet"] = "fillet"
    name: Annotated[str, Name(label="name")]
    which: Annotated[
        Literal["", "between"],
        Choice(
            label="which edges", words={"": "", "between": "all edges between"}, clause="edges between faces"
        ),
    ] = ""
    edges: Annotated[list[ThingRef], _edges("edges", when={"which": ("",)})] = []
    faces: Annotated[
        list[ThingRef],
        Pick(
            label="faces",
            accepts=("face",),
            many=True,
            needs="faces on the one side",
            when={"which": ("between",)},
        ),
    ] = []
    faces_two: Annotated[
        list[ThingRef],
        Pick(
            label="other faces",
            accepts=("face",),
            many=True,
            needs="faces on the other side",
            when={"which": ("between",)},
            before="and",
        ),
    ] = []
    radius: Annotated[Value, Number(label="radius", quantity="length", above=0.0, start="3 mm")] = Value(
        formula="3 mm"
    )
    varying: Annotated[
        Literal["", "ends", "middle"],
        Choice(
            label="changing radius",
            words={"": "", "ends": ", changing along the edge to", "middle": ", changing by way of"},
            clause="changing radius",
        ),
    ] = ""
    middle: Annotated[
        Value,
        Number(
            label="radius between", quantity="length", above=0.0, start="4 mm", when={"varying": ("middle",)}
        ),
    ] = Value(formula="4 mm")
    share: Annotated[
        Value,
        Number(
            label="share of the edge",
            quantity="share",
            above=0.0,
            most=0.99,
            start="50 %",
            when={"varying": ("middle",)},
            before="at",
            after="of it, and to",
        ),
    ] = Value(formula="50 %")
    radius_end: Annotated[
        Value,
        Number(
            label="radius at the end",
            quantity="length",
            above=0.0,
            start="5 mm",
            when={"varying": ("ends", "middle")},
        ),
    ] = Value(formula="5 mm")
    sense: Annotated[
        Literal["along", "back"],
        Choice(
            label="sense",
            words={"along": "at its one end", "back": "at its other end"},
            when={"varying": ("ends", "middle")},
            turns=("along", "back"),
        ),
    ] = "along"
    run: Annotated[
        Literal["", "only"],
        Choice(label="run", words={"": "", "only": ", along these edges only"}, clause="these edges only"),
    ] = ""
    second: Annotated[
        Literal["", "more"],
        Choice(label="second radius", words={"": "", "more": ", and"}, clause="second radius"),
    ] = ""
    edges_two: Annotated[
        list[ThingRef], _edges("edges of the second radius", when={"second": ("more",)})
    ] = []
    radius_two: Annotated[
        Value,
        Number(
            label="second radius value",
            quantity="length",
            above=0.0,
            start="5 mm",
            when={"second": ("more",)},
            before="by",
        ),
    ] = Value(formula="5 mm")
    third: Annotated[
        Literal["", "more"],
        Choice(
            label="third radius",
            words={"": "", "more": ", and"},
            clause="third radius",
            when={"second": ("more",)},
        ),
    ] = ""
    edges_three: Annotated[
        list[ThingRef], _edges("edges of the third radius", when={"third": ("more",)})
    ] = []
    radius_three: Annotated[
        Value,
        Number(
            label="third radius value",
            quantity="length",
            above=0.0,
            start="8 mm",
            when={"third": ("more",)},
            before="by",
        ),
    ] = Value(formula="8 mm")

    def blends(self, given: SimpleNamespace) -> list[tuple[str, list[Picked], kernel.Blend]]:
        """Return the groups."""
        only = self.run == "only"
        first = kernel.Blend((), given.radius, only=only)
        if self.varying:
            places = [
                (0.0, given.radius),
                *([(given.share, given.middle)] if self.varying == "middle" else []),
                (1.0, given.radius_end),
            ]
            first = replace(first, along_it=tuple(places))
        groups = (
            [("edges", given.edges, first)]
            if not self.which
            else [("faces", [*given.faces, *given.faces_two], first)]
        )
        if self.second:
            groups.append(("edges_two", given.edges_two, kernel.Blend((), given.radius_two, only=only)))
            if self.third:
                groups.append(
                    ("edges_three", given.edges_three, kernel.Blend((), given.radius_three, only=only))
                )
        return groups

    def own(self, body: Body, field: str, picks: list[Picked], given: SimpleNamespace) -> dict[int, int]:
        """Return the edges that picks mean, or all that lie between two sets of faces."""
        if field != "faces":
            return _own(body, picks)
        one, other = (
            {p.solid[1] for p in held if p.solid and p.solid[0] is body.shape}
            for held in (given.faces, given.faces_two)
        )
        found = {
            i: -1
            for i, e in enumerate(body.topology.edges)
            if len(e.faces) == 2
            and ((e.faces[0] in one and e.faces[1] in other) or (e.faces[1] in one and e.faces[0] in other))
        }
        if (one or other) and not found:
            raise StepError(
                "No edge lies between these faces: none of the one side meets any of the other.",
                field="faces_two",
            )
        return found

    def started(self, picks: list[Picked], blend: kernel.Blend) -> kernel.Blend:
        """Say at which end of each edge a changing radius begins: an edge has a sense that survives
        changes."""
        if not blend.along_it:
            return blend
        if any(p.edge is None for p in picks):
            raise StepError("A radius changes along edges. Pick edges, not faces.", field="edges")
        starts = {
            p.edge[1]: p.curve.at(0.0 if self.sense == "along" else p.curve.length)[0]
            for p in picks
            if p.edge and p.curve
        }
        return replace(blend, starts=starts)


@register
class FullRound(Step):
    """A flat face that is rounded fully between the two faces beside it."""

    title, group, key, makes = "Full round", "build", "b 1", "body"
    shelf = "Edges"
    rare = True
    copied = True
    explains = "Round a flat face fully between the two faces beside it."
    sentence = "Full round {name}: {face} between {one} and {other}"

    kind: Literal["full_round"] = "full_round"
    name: Annotated[str, Name(label="name")]
    face: Annotated[
        ThingRef | None, Pick(label="face", accepts=("flat",), needs="the flat face that is rounded")
    ] = None
    one: Annotated[
        ThingRef | None, Pick(label="one side", accepts=("flat",), needs="the flat face on its one side")
    ] = None
    other: Annotated[
        ThingRef | None, Pick(label="other side", accepts=("flat",), needs="the flat face on its other side")
    ] = None

    def evaluate(self, given: SimpleNamespace, site: Site) -> Made:
        """Round the face."""
        body = next((b for b in site.bodies.values() if b.shape is given.face.solid[0]), None)
        if body is None or given.one.solid[0] is not body.shape or given.other.solid[0] is not body.shape:
            raise StepError("The three faces are not of one body. Pick faces of one.", field="one")
        face, one, other = (p.solid[1] for p in (given.face, given.one, given.other))
        if len({face, one, other}) < 3:
            raise StepError(
                "The same face is picked twice. Pick the face between, and one on either side.", field="other"
            )
        shape, radius = kernel.fully_rounded(body.solid("face").shape, face, (one, other), self.id)
        return Made(shapes={body.id: shape}, note=f"The radius comes to {radius:.6g} mm.")


@register
class Chamfer(_Blended):
    """Edges bevelled: by one leg, two legs, or a leg and an angle."""

    title, key = "Chamfer", "b c"
    shelf = "Edges"
    explains = "Bevel edges by one leg, two legs, or a leg and an angle; a face stands for all its edges."
    sentence = "Chamfer {name}: {edges} {manner} {leg}{leg_two}{angle}{side}{run}"
    noun: ClassVar[str] = "chamfer"
    sizes: ClassVar[dict[str, str]] = {"edges": "leg"}

    kind: Literal["chamfer"] = "chamfer"
    name: Annotated[str, Name(label="name")]
    edges: Annotated[list[ThingRef], _edges("edges")] = []
    manner: Annotated[
        Literal["equal", "two", "angle"],
        Choice(
            label="manner", words={"equal": "by", "two": "by two legs,", "angle": "by a leg and an angle,"}
        ),
    ] = "equal"
    leg: Annotated[Value, Number(label="leg", quantity="length", above=0.0, start="1 mm")] = Value(
        formula="1 mm"
    )
    leg_two: Annotated[
        Value,
        Number(
            label="second leg",
            quantity="length",
            above=0.0,
            start="2 mm",
            when={"manner": ("two",)},
            before="and",
        ),
    ] = Value(formula="2 mm")
    angle: Annotated[
        Value,
        Number(
            label="angle",
            quantity="angle",
            above=0.0,
            most=math.radians(89),
            start="30 deg",
            when={"manner": ("angle",)},
            before="at",
        ),
    ] = Value(formula="30 deg")
    side: Annotated[
        Literal["first", "other"],
        Choice(
            label="side",
            words={"first": ", the first on the one face", "other": ", the first on the other face"},
            when={"manner": ("two", "angle")},
            turns=("first", "other"),
        ),
    ] = "first"
    run: Annotated[
        Literal["", "only"],
        Choice(label="run", words={"": "", "only": ", along these edges only"}, clause="these edges only"),
    ] = ""

    def blends(self, given: SimpleNamespace) -> list[tuple[str, list[Picked], kernel.Blend]]:
        """Return the one group."""
        other = given.leg_two if self.manner == "two" else 0.0
        angle = given.angle if self.manner == "angle" else 0.0
        return [
            (
                "edges",
                given.edges,
                kernel.Blend(
                    (), given.leg, other, angle, self.side == "other", round=False, only=self.run == "only"
                ),
            )
        ]
