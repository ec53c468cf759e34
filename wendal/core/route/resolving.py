"""What the references of a step mean, at the place in the route where it stands."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import replace
from typing import Any, NamedTuple

from ..blanks import Pick
from ..datum import FACETS, Picked
from ..datum.picked import EndlessLine
from ..datum.taken import (
    bent_curve,
    circle_curve,
    line_curve,
    take_base,
    take_edge,
    take_face,
    take_spot,
    take_vertex,
)
from ..errors import ReferenceLost
from ..kernel.types import Edge, Frame, Topology, cross, minus, unit
from ..reference import (
    BaseRef,
    BodyRef,
    DatumRef,
    DrawnRef,
    EdgeRef,
    FaceName,
    FaceRef,
    Found,
    RegionRef,
    SketchRef,
    SpotRef,
    StepRef,
    VertexRef,
    body_step,
    candidates,
    edge_ref,
    face_ref,
    find_edge,
    find_face,
    find_vertex,
    in_brief,
    steps_of,
    vertex_ref,
)
from ..sketch import Line as DrawnLine
from ..sketch import chain_from, filled, find_region, find_text, is_text, region_ref
from ..sketch.drawn import Bent, path_of
from ..steps import ChainFound, FaceFound, RegionFound, Seed, Site, SketchMade
from ..tolerance import MEETS, SAME_NUMBER
from .document import Part
from .tokens import digest

__all__ = ["Resolver", "take_drawn"]

LINES = {"line", "axis"}  # facets that tell an endless line alone
PLACED = {"plane", "axis", "turned"}  # facets that tell a place alone, nothing of where their face ends


class Resolved(NamedTuple):
    """What a reference means, the doubt ("" for none), what confirming would store, and of what a body has,
    what it is called in a sentence."""

    found: Any
    doubt: str = ""
    now: dict[str, Any] | None = None
    said: str = ""


class Resolver:
    """Looks references up. states : how the steps before stand, by id."""

    def __init__(self, part: Part, states: Mapping[str, str]) -> None:
        self._part, self._states = part, states

    def resolve(self, ref: Any, blank: Pick, site: Site) -> Resolved:
        """Return what a reference means for a blank; raises ReferenceLost."""
        if isinstance(ref, BodyRef):
            if ref.body not in site.bodies:
                raise self._absent(body_step(ref.body), "body")
            return Resolved(site.bodies[ref.body])
        if isinstance(ref, StepRef):
            return Resolved(self._seed(ref, site))
        if isinstance(ref, SketchRef):
            return Resolved(self._whole(ref, blank, site))
        if isinstance(ref, RegionRef):
            return self._region(ref, site)
        if isinstance(ref, DrawnRef) and {"region", "drawn"} & {*blank.accepts}:
            return Resolved(self._chain(ref, site))
        if isinstance(ref, FaceRef) and "region" in blank.accepts:
            return self._flat(ref, site)
        got = self._thing(ref, site, tuple(blank.accepts))
        if not {*blank.accepts, *blank.accepts_with} & got.found.facets:
            wanted = " or ".join(FACETS[f] for f in blank.accepts)
            raise ReferenceLost(
                f"Wanted here is {wanted}, and what was picked is none any more. Pick another."
            )
        if got.doubt and isinstance(ref, EdgeRef):
            return self._in_pieces(ref, blank, site, got) or got
        return got

    def _region(self, ref: RegionRef, site: Site) -> Resolved:
        sketch = self._sketch(ref.step, site)
        if is_text(ref):
            pieces = find_text(ref, sketch.texts)
            return Resolved(RegionFound(ref.key, sketch.frame, pieces, drawing=sketch.drawing))
        region, doubt = find_region(ref, sketch.regions)
        now = region_ref(ref.step, region, ref.key).model_dump(mode="json")
        return Resolved(RegionFound(ref.key, sketch.frame, [region], drawing=sketch.drawing), doubt, now)

    def _in_pieces(self, ref: EdgeRef, blank: Pick, site: Site, got: Resolved) -> Resolved | None:
        """Return what an edge in pieces means where there is no doubt: the line on which all of them lie, or
        all of what was whole."""
        pieces = self._pieces(ref, site)
        taken_as = {f for f in blank.accepts if getattr(got.found, f, None) is not None}
        if pieces and taken_as and taken_as <= LINES:
            return Resolved(got.found, said=got.said)
        whole = pieces and blank.pieces and self._was_whole(ref)
        return Resolved(pieces, said=got.said) if whole else None

    @staticmethod
    def _was_whole(ref: EdgeRef) -> bool:
        """Tell whether an edge was in one piece when it was picked; older files counted wrongly where pieces
        have neighbours of their own."""
        return bool(ref.whole if ref.whole is not None else ref.alone and not ref.beside)

    def _pieces(self, ref: EdgeRef, site: Site) -> list[Picked]:
        """Return all pieces of an edge that was in one piece when it was picked; none where they do not lie
        on one line or circle."""
        found = find_edge(ref, {b: body.topology for b, body in site.bodies.items()})
        edges = [site.bodies[b].topology.edges[i] for b, i in found.also]
        if len({b for b, _ in found.also}) != 1 or not all(_on_one(edges[0], e) for e in edges):
            return []
        body = site.bodies[found.body]
        return [
            replace(
                take_edge(body.shape, body.topology, i, set(ref.faces[0]), f"{body.key}:EdgeRef:{i}"),
                lead=_lead(body.topology, i, ref),
            )
            for _, i in found.also
        ]

    def _seed(self, ref: StepRef, site: Site) -> Seed:
        if ref.step not in site.seeds:
            if self._states.get(ref.step) in ("built", "held"):
                raise ReferenceLost(
                    f"“{self._called(ref.step)}” changes a body as it stands, so it can not be done again "
                    "elsewhere by itself. Take the "
                    "steps that it stands on, the body, or faces."
                )
            raise self._absent(ref.step, "solid")
        return site.seeds[ref.step]

    def _whole(self, ref: SketchRef, blank: Pick, site: Site) -> RegionFound | list[Picked]:
        """Return all regions and texts of a sketch, or, for a blank that takes points, all its loose ones."""
        sketch = self._sketch(ref.step, site)
        if "point" not in blank.accepts:
            pieces = [*filled(sketch.regions), *(p for found in sketch.texts.values() for p in found)]
            return RegionFound(
                ref.key,
                sketch.frame,
                pieces,
                whole=True,
                by_first=ref.named == "first",
                drawing=sketch.drawing,
            )
        loose = [p for p in sketch.drawing.points if sketch.drawing.owner(p) is None]
        if not loose:
            raise ReferenceLost(
                f"“{self._called(ref.step)}” has no loose points. Draw some with k p, or pick others."
            )
        return [take_drawn(sketch, p, f"{ref.step}.{p}") for p in loose]

    def _chain(self, ref: DrawnRef, site: Site) -> ChainFound:
        sketch = self._sketch(ref.step, site)
        if ref.entity not in sketch.drawing.curves:
            raise ReferenceLost("The curve this is built along was deleted. Pick another.")
        pieces, closed = chain_from(sketch.drawing, ref.entity)
        return ChainFound(ref.key or ref.entity, sketch.frame, pieces, closed, sketch.drawing)

    def _flat(self, ref: FaceRef, site: Site) -> Resolved:
        """Return a flat face as a profile."""
        picked, doubt, now, said = self._of_body(ref, site)
        if picked.plane is None or picked.solid is None:
            raise ReferenceLost(
                "Wanted here is a flat face, and what was picked is none any more. Pick another."
            )
        shape, index = picked.solid
        body = next(b for b in site.bodies.values() if b.shape is shape)
        found = FaceFound(ref.key, picked.plane, picked.key, shape, body.topology, index)
        return Resolved(found, doubt, {**(now or {}), "key": ref.key}, said)

    def take(self, ref: Any, site: Site) -> Resolved:
        """Return any thing that a reference means; raises ReferenceLost."""
        return self._thing(ref, site)

    def _thing(self, ref: Any, site: Site, facets: tuple[str, ...] = ()) -> Resolved:
        if isinstance(ref, BaseRef):
            return Resolved(take_base(ref.name))
        if isinstance(ref, DatumRef):
            made = site.datums.get(ref.step)
            if made is None:
                raise self._absent(ref.step, "datum")
            if ref.index >= len(made):
                raise ReferenceLost(
                    f"“{self._part.step(ref.step).name}” has only {len(made)} copies now, and this stands "
                    "on number "
                    f"{ref.index + 1}. Pick another."
                )
            picked = made[ref.index].picked(self._part.step(ref.step).name)
            return Resolved(replace(picked, name=f"{ref.step}.{ref.index}"))
        if isinstance(ref, DrawnRef):
            drawn = take_drawn(self._sketch(ref.step, site), ref.entity, f"{ref.step}.{ref.entity}")
            return Resolved(drawn)
        return self._of_body(ref, site, facets)

    def _of_body(
        self, ref: FaceRef | EdgeRef | VertexRef | SpotRef, site: Site, facets: tuple[str, ...] = ()
    ) -> Resolved:
        bodies = {b: body.topology for b, body in site.bodies.items()}
        inner: Any = ref.edge if isinstance(ref, SpotRef) else ref
        try:
            found = (
                find_face(inner, bodies, self._called)
                if isinstance(inner, FaceRef)
                else (find_edge(inner, bodies) if isinstance(inner, EdgeRef) else find_vertex(inner, bodies))
            )
        except ReferenceLost as error:
            names = inner.names if isinstance(inner, FaceRef) else [n for names in inner.faces for n in names]
            for step in dict.fromkeys(s for n in names for s in steps_of(n)):
                if self._states.get(step) in ("waiting", "stopped"):
                    raise self._absent(step, "step") from error
            error.candidates = candidates(inner, bodies, {b: body.name for b, body in site.bodies.items()})
            if isinstance(ref, SpotRef):
                error.candidates = [
                    replace(c, ref={**ref.model_dump(mode="json"), "edge": c.ref}) for c in error.candidates
                ]
            raise
        names = inner.names if isinstance(inner, FaceRef) else sorted(min(faces) for faces in inner.faces)
        name = FaceName.as_source("+".join(names[:1] if isinstance(inner, FaceRef) else names))
        body = site.bodies[found.body]
        topology, key = body.topology, f"{body.key}:{type(inner).__name__}:{found.index}"
        if isinstance(inner, FaceRef):
            near = inner.near if not found.doubt else None
            taken = take_face(body.shape, topology, found.index, key)
            doubt = "" if found.doubt and self._alike(found, taken, facets, site) else found.doubt
            now = face_ref(found.body, topology, found.index, near).model_dump(mode="json")
            said = in_brief(body.name, topology, "face", found.index, body.sheet)
            return Resolved(replace(taken, name=name), doubt, now, said)
        if isinstance(inner, VertexRef):
            now = vertex_ref(found.body, topology, found.index).model_dump(mode="json")
            said = in_brief(body.name, topology, "corner", found.index, body.sheet)
            return Resolved(replace(take_vertex(topology, found.index), name=name), found.doubt, now, said)
        said = in_brief(body.name, topology, "edge", found.index, body.sheet)
        edge = edge_ref(found.body, topology, found.index)
        if (
            len(edge.faces) == 2
            and set(edge.faces[1]) & set(inner.faces[0])
            and not set(edge.faces[0]) & set(inner.faces[0])
        ):
            edge = edge.model_copy(
                update={"faces": edge.faces[::-1]}
            )  # confirming must not turn the edge round
        if isinstance(ref, EdgeRef):
            taken = take_edge(body.shape, topology, found.index, set(ref.faces[0]), key)
            taken = replace(taken, name=name, lead=_lead(topology, found.index, ref))
            return Resolved(taken, found.doubt, edge.model_dump(mode="json"), said)
        assert isinstance(ref, SpotRef)
        spot = take_spot(topology.edges[found.index], ref.at)
        if spot is None:
            raise ReferenceLost("The edge is not round any more, so it has no centre. Pick another.")
        now = ref.model_copy(update={"edge": edge}).model_dump(mode="json")
        return Resolved(replace(spot, name=f"{name}.{ref.at}"), found.doubt, now, f"{ref.at} of {said}")

    @staticmethod
    def _alike(found: Found, taken: Picked, facets: tuple[str, ...], site: Site) -> bool:
        """Tell whether a step that takes nothing but a face's plane or axis is given the same by every piece
        of the face."""
        wanted = [f for f in facets if getattr(taken, f, None) is not None]
        if not wanted or not set(wanted) <= PLACED:
            return False
        others = [take_face(site.bodies[b].shape, site.bodies[b].topology, i, "") for b, i in found.also]
        return all(_same(getattr(o, f), getattr(taken, f)) for o in others for f in wanted)

    def _called(self, step: str) -> str:
        return next((s.name for s in self._part.steps if s.id == step), "a deleted step")

    def _sketch(self, step: str, site: Site) -> SketchMade:
        if step not in site.sketches or self._states.get(step) == "stopped":
            raise self._absent(step, "sketch")
        return site.sketches[step]

    def _absent(self, step: str, noun: str) -> ReferenceLost:
        """Say why what a step makes is not there: deleted, waiting, stopped, or further down."""
        known = next((s for s in self._part.steps if s.id == step), None)
        if known is None:
            return ReferenceLost(f"The {noun} this stands on was deleted. Pick another.")
        state = self._states.get(step)
        why = {"waiting": "waits", "stopped": "is stopped"}.get(state or "", "comes after this step")
        if state in ("built", "held"):
            return ReferenceLost(f"“{known.name}” makes no {noun} any more. Pick another.")
        return ReferenceLost(f"This stands on “{known.name}”, which {why}.")


def _lead(topology: Topology, index: int, ref: EdgeRef) -> int:
    """Return the face of an edge on which what is measured from one of its two faces begins: that with the
    least name when it was picked, whatever names it has got since."""
    if len(ref.faces) != 2:
        return -1
    lead, other = sorted((set(names) for names in ref.faces), key=min)
    at = [f for f in topology.faces_at[index] if topology.names[f] & lead]
    return next((f for f in at if not topology.names[f] & other), -1) if len(at) != 1 else at[0]


def _on_one(one: Edge, other: Edge) -> bool:
    """Tell whether two edges lie on one straight line or one circle."""
    if one.form != other.form:
        return False
    if one.form == "line":
        away = minus(other.middle, one.middle)
        return (
            math.hypot(*cross(one.tangent, other.tangent)) < MEETS
            and math.hypot(*cross(away, one.tangent)) < MEETS
        )
    return (
        one.form == "circle"
        and one.centre is not None
        and other.centre is not None
        and math.dist(one.centre, other.centre) < MEETS
        and abs(one.radius - other.radius) < MEETS
    )


def _same(one: Frame | EndlessLine | None, other: Frame | EndlessLine | None) -> bool:
    """Tell whether two planes or axes are one, origin and directions too."""
    if isinstance(one, Frame) and isinstance(other, Frame):
        pairs = [(one.origin, other.origin), (one.x, other.x), (one.normal, other.normal)]
    elif isinstance(one, EndlessLine) and isinstance(other, EndlessLine):
        pairs = [(one.origin, other.origin), (one.direction, other.direction)]
    else:
        return False
    return all(math.dist(a, b) <= SAME_NUMBER * (1.0 + math.hypot(*a)) for a, b in pairs)


def take_drawn(sketch: SketchMade, entity: str, name: str = "") -> Picked:
    """Return a point or curve of a sketch as a thing to stand on; raises ReferenceLost when it is gone.

    name : tells it from others.
    """
    drawing, frame = sketch.drawing, sketch.frame
    if entity in drawing.points or entity == "origin":
        return Picked("a sketch point", point=frame.at(*drawing.place(entity)), plane_of=frame, name=name)
    curve = drawing.curves.get(entity)
    if curve is None:
        raise ReferenceLost("The sketch geometry this stands on was deleted. Pick another.")
    path = path_of(drawing, entity)
    key = digest(frame, path)
    if isinstance(curve, DrawnLine):
        start = frame.at(*path.base)
        line = EndlessLine(start, unit(minus(frame.at(*path.at(1.0)), start)), path.t1)
        return Picked(
            "a sketch line", line=line, axis=line, curve=line_curve(line), key=key, plane_of=frame, name=name
        )
    if isinstance(path, Bent):
        return Picked(
            "a sketch curve",
            curve=bent_curve(frame, path.at, lambda t: path.moved(t, 1), path.t0, path.t1),
            key=key,
            plane_of=frame,
            name=name,
        )
    middle = Frame(frame.at(*path.base), frame.x, frame.y)
    ring = EndlessLine(middle.origin, frame.normal)
    return Picked(
        "a sketch circle",
        axis=ring,
        turned=ring,
        circle=ring,
        curve=circle_curve(middle, path.radius, path.t0, path.t1),
        key=key,
        plane_of=frame,
        name=name,
    )
