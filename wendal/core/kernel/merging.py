"""Merging faces that lie in one surface, so that no leftover lines stay; only where something merges, and
only there.

Whether anything does is told by comparing what is known of neighbouring faces, and of edges that meet two and
two. What merges is given to the kernel with its neighbours alone, and put in its place.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from OCP.BRep import BRep_Builder
from OCP.ShapeUpgrade import ShapeUpgrade_UnifySameDomain
from OCP.TopAbs import TopAbs_ShapeEnum
from OCP.TopoDS import TopoDS_Shape, TopoDS_Shell, TopoDS_Solid

from ..tally import fell_back, went_well
from ..tolerance import FIGURES, NO_VOLUME, SAME_MERGED
from .keeping_whole import with_own_edges
from .known import Anatomy, EdgeFacts
from .named import NamedShape, carry
from .shapes import edges_of, faces_of, shape_map, solids_of
from .types import cross, dot

__all__ = ["alike_pairs", "merge_flush", "merged"]

PLANE = 1.0  # the kind of a plane in `FaceFacts.surface`
EDGE, SHELL = TopAbs_ShapeEnum.TopAbs_EDGE, TopAbs_ShapeEnum.TopAbs_SHELL


def merge_flush(body: NamedShape) -> NamedShape:
    """Merge faces that lie in one plane or cylinder, and edges that go on in one line; a merged face keeps
    all names. Where the kernel does not merge them soundly, the body is returned as it is."""
    made = merged(body)
    if made is None:
        fell_back("merging", "not the same solid")
        return body
    return made


def merged(body: NamedShape) -> NamedShape | None:
    """As `merge_flush`; None where what comes of it is not the same solid."""
    anatomy = body.anatomy
    faces = _alike_neighbours(anatomy) | _at_even_corners(anatomy)
    if not faces:
        return body
    at_edges, owners, edges = anatomy.meeting
    some = np.zeros(len(anatomy.faces), bool)
    some[list(faces)] = True
    near = np.zeros(len(edges), bool)
    near[at_edges[some[owners]]] = True
    some[owners[near[at_edges]]] = True
    single = len(solids_of(body.shape)) == 1 and shape_map(body.shape, SHELL).Extent() == 1
    if not single or some.sum() == len(some):
        return _proved(body, _all_merged(body, faces))
    made = _some_merged(body, some, faces)
    if made is None:
        fell_back("local merging", "not whole")
        return _proved(body, _all_merged(body, faces))
    went_well("local merging")
    return made


def _alike_neighbours(anatomy: Anatomy) -> set[int]:
    """Return the faces that share an edge with one of the same surface, as far as figures tell; those that
    they do not tell count."""
    a, b = alike_pairs(anatomy)
    return {*a.tolist(), *b.tolist()}


def alike_pairs(anatomy: Anatomy) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
    """Return the pairs of faces that share an edge and, as far as figures tell, a surface."""
    at_edges, faces, _ = anatomy.meeting
    same = at_edges[1:] == at_edges[:-1]
    a, b = faces[:-1][same], faces[1:][same]
    if not len(a):
        return a, b
    rows = np.array([f.surface for f in anatomy.faces])
    one, other = rows[a], rows[b]
    straight = np.abs(np.einsum("ij,ij->i", one[:, 1:4], other[:, 1:4]))
    size = 1.0 + np.abs(one[:, 4:10]).max(1)
    alike = (
        (one[:, 0] == other[:, 0])
        & (a != b)
        & (
            (one[:, 0] == 0)
            | (
                ((straight > 1 - FIGURES**2) | (one[:, 0] == 4))
                & np.all(np.abs(one[:, 4:] - other[:, 4:]) < FIGURES * size[:, None], axis=1)
            )
        )
    )
    return a[alike], b[alike]


def _at_even_corners(anatomy: Anatomy) -> set[int]:
    """Return the faces at corners where just two edges meet that may be one."""
    real = [(i, e) for i, e in enumerate(anatomy.edges) if not e.degenerated]
    ends = np.array([c.number for _, e in real for c in e.ends], np.int64)
    owner = np.array([k for k, (_, e) in enumerate(real) for _ in e.ends], np.int64)
    if not len(ends):
        return set()
    order = np.argsort(ends, kind="stable")
    ends, owner = ends[order], owner[order]
    begins = np.nonzero(np.diff(ends, prepend=-1))[0]
    counts = np.diff(np.append(begins, len(ends)))
    found: set[int] = set()
    at_edges, faces, _ = anatomy.meeting
    for k in begins[counts == 2]:
        (i, one), (j, other) = real[owner[k]], real[owner[k + 1]]
        first, second = (
            set(faces[np.searchsorted(at_edges, n) : np.searchsorted(at_edges, n, "right")].tolist())
            for n in (i, j)
        )
        if first == second and _may_be_one(one, other):
            found |= first
    return found


def _may_be_one(one: EdgeFacts, other: EdgeFacts) -> bool:
    a, b = one.described, other.described
    if a.form != b.form:
        return False
    if a.form == "line":
        return bool(np.linalg.norm(cross(a.tangent, b.tangent)) < FIGURES)
    if a.form == "circle" and a.centre and b.centre and a.normal and b.normal:
        return bool(
            np.linalg.norm(np.subtract(a.centre, b.centre)) < FIGURES * (1 + a.radius)
            and abs(a.radius - b.radius) < FIGURES * (1 + a.radius)
            and abs(dot(a.normal, b.normal)) > 1 - FIGURES
        )
    return True


def _some_merged(body: NamedShape, some: NDArray[np.bool_], merging: set[int]) -> NamedShape | None:
    """Merge among some faces of a body of one shell, with all their neighbours among them; None where that
    does not come out whole."""
    builder, shell = BRep_Builder(), TopoDS_Shell()
    builder.MakeShell(shell)
    pairs = body.pairs()
    for (face, _), own in zip(pairs, some, strict=True):
        if own:
            builder.Add(shell, face)
    part = NamedShape.collect(shell, [p for p, own in zip(pairs, some, strict=True) if own])
    bent = _bent(body, merging)
    part = with_own_edges(part, [k for k, i in enumerate(np.flatnonzero(some)) if i in bent])
    unify = ShapeUpgrade_UnifySameDomain(part.shape, True, True, False)
    for edge in _seams(part):
        unify.KeepShape(edge)
    unify.Build()
    merged = carry(unify.History(), [part], unify.Shape())
    if not all(shape_map(f, EDGE).Extent() for f in faces_of(merged.shape)):
        return None
    every = [*(p for p, own in zip(pairs, some, strict=True) if not own), *merged.pairs()]
    whole, solid = TopoDS_Shell(), TopoDS_Solid()
    builder.MakeShell(whole)
    for face, _ in every:
        builder.Add(whole, face)
    whole.Closed(True)
    builder.MakeSolid(solid)
    builder.Add(solid, whole)
    found = NamedShape.collect(solid, every)
    was, now = body.anatomy.mass[0], found.anatomy.mass[0]
    whole_still = (
        found.anatomy.unclosed is None and abs(now - was) <= NO_VOLUME * abs(was) and all(found.names)
    )
    return found if whole_still and all(f.check() for f in found.anatomy.faces) else None


def _proved(body: NamedShape, made: NamedShape) -> NamedShape | None:
    """Return what merging came to where it has the area, volume and closed shell that were there before."""
    was, now = body.anatomy, made.anatomy
    volume, area = abs(was.mass[0]), was.mass[4]
    same = (
        abs(now.mass[4] - area) <= SAME_MERGED * area
        and (not solids_of(body.shape) or abs(abs(now.mass[0]) - volume) <= SAME_MERGED * volume)
        and (was.unclosed is not None or now.unclosed is None)
    )
    return made if same else None


def _bent(body: NamedShape, merging: set[int]) -> set[int]:
    """Return those of some faces that are not flat: merging writes curves into the edges of these."""
    return {i for i in merging if body.anatomy.faces[i].surface[0] != PLANE}


def _all_merged(body: NamedShape, merging: set[int]) -> NamedShape:
    body = with_own_edges(body, sorted(_bent(body, merging)))
    seams = _seams(body)
    unify = ShapeUpgrade_UnifySameDomain(body.shape, True, True, False)
    for edge in seams:
        unify.KeepShape(edge)
    unify.Build()
    made = carry(unify.History(), [body], unify.Shape())
    bare = [i for i, f in enumerate(faces_of(made.shape)) if not shape_map(f, EDGE).Extent()]
    if not bare:
        return made
    # A whole torus or sphere without any edge can neither be meshed nor cut: one edge of its pieces stays.
    unify = ShapeUpgrade_UnifySameDomain(body.shape, True, True, False)
    for edge in seams:
        unify.KeepShape(edge)
    for i in bare:
        piece = next((f for f, names in body.pairs() if names & made.names[i]), None)
        if piece is not None:
            unify.KeepShape(edges_of(piece)[0])
    unify.Build()
    return carry(unify.History(), [body], unify.Shape())


def _seams(body: NamedShape) -> list[TopoDS_Shape]:
    """Return the edges between parts of faces that were split, or are kept apart, on purpose: these stay."""
    parts = [(f, frozenset(n for n in names if "/part/" in n or "/apart/" in n)) for f, names in body.pairs()]
    if not any(own for _, own in parts):
        return []
    met: dict[int, frozenset[str]] = {}
    edges = shape_map(body.shape, EDGE)
    found = []
    for face, own in parts:
        for edge in edges_of(face):
            i = edges.FindIndex(edge)
            if met.setdefault(i, own) != own:
                found.append(edge)
    return found
