"""Linked images of splines, whose points follow a source's one by one by an image constraint; and splines
less some of their points."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from .model import Constraint, Drawing, Place, Spline

__all__ = ["images_of", "with_pair", "with_so_many", "without_points"]

KINDS = ("mirrored", "shifted", "turned")


def images_of(drawing: Drawing, over: list[str]) -> Iterator[tuple[str, Spline]]:
    """Yield (constraint, image) for the splines whose inner points are images of the inner points of a spline
    over these points.

    Of several parts of one image the first stands for all. The ends may be one with the source's, on a mirror
    line.
    """
    for k, c in drawing.constraints.items():
        if c.kind not in KINDS or c.reference:
            continue
        pairs = dict(zip(c.of[1::2], c.of[2::2], strict=True))
        wanted = [pairs.get(p, "") for p in over[1:-1]]
        image = next(
            (s for s in drawing.curves.values() if isinstance(s, Spline) and s.over[1:-1] == wanted), None
        )
        if all(wanted) and image:
            yield k, image


def with_pair(drawing: Drawing, k: str, source: str, image: str) -> Drawing:
    """Return the drawing with one pair of points more in an image constraint."""
    c = drawing.constraints[k]
    return drawing.model_copy(
        update={
            "constraints": {**drawing.constraints, k: c.model_copy(update={"of": [*c.of, source, image]})}
        }
    )


def without_points(drawing: Drawing, gone: set[str]) -> tuple[Drawing, set[str]]:
    """Let splines go on without some of their points, where three or more are left, and linked images without
    theirs.

    Returns the drawing and all points that are gone.
    """
    gone = set(gone)
    for curve in drawing.curves.values():
        if isinstance(curve, Spline):
            for k, image in images_of(drawing, curve.over):
                pairs = dict(
                    zip(drawing.constraints[k].of[1::2], drawing.constraints[k].of[2::2], strict=True)
                )
                gone |= {pairs[p] for p in curve.over if p in gone and p in pairs and pairs[p] in image.over}
    thinned = {
        c: _thinned(curve, gone)
        for c, curve in drawing.curves.items()
        if isinstance(curve, Spline) and gone & set(curve.over) and c not in drawing.taken
    }
    constraints = {
        k: _without_pairs(c, gone) if thinned and c.kind in KINDS else c
        for k, c in drawing.constraints.items()
    }
    return drawing.model_copy(
        update={"curves": {**drawing.curves, **thinned}, "constraints": constraints}
    ), gone


def with_so_many(drawing: Drawing, curve: str, places: list[Place], knots: list[float]) -> Drawing:
    """Give a pulled spline that follows the model, its parts and its linked images as many points as there
    are places.

    The two ends stay what they are; new points of an image stand where those it has had suggest.
    """
    spline = drawing.curves[curve]
    if not isinstance(spline, Spline) or (len(spline.over), spline.knots) == (len(places), knots):
        return drawing
    old, images = spline.over, list(images_of(drawing, spline.over))
    before = np.array([drawing.place(p) for p in old])
    drawing, over = _numbered(drawing, old, curve, places, knots)
    for k, image in images:
        own = next(c for c, s in drawing.curves.items() if isinstance(s, Spline) and s.over == image.over)
        # The map of the plane that takes the old points to theirs.
        after = np.array([drawing.place(p) for p in image.over])
        A, *_ = np.linalg.lstsq(np.column_stack([before, np.ones(len(before))]), after, rcond=None)
        there = [
            (float(x), float(y)) for x, y in np.column_stack([np.array(places), np.ones(len(places))]) @ A
        ]
        drawing, theirs = _numbered(drawing, image.over, own, there, knots)
        c = _without_pairs(drawing.constraints[k], {*old, *image.over} - {*over, *theirs})
        drawing = drawing.model_copy(update={"constraints": {**drawing.constraints, k: c}})
        for p, q in zip(over, theirs, strict=True):
            if p not in old:
                drawing = with_pair(drawing, k, p, q)
    return drawing


def _numbered(
    drawing: Drawing, old: list[str], curve: str, places: list[Place], knots: list[float]
) -> tuple[Drawing, list[str]]:
    """Give all curves over the same points so many of them; returns the points now."""
    inner = [*old[1:-1][: len(places) - 2], *(f"{curve}.{i}" for i in range(len(old) - 1, len(places) - 1))]
    over = [old[0], *inner, old[-1]]
    points = {p: at for p, at in drawing.points.items() if p not in old or p in over}
    points |= {p: at for p, at in zip(over, places, strict=True) if p not in points}
    curves = {
        c: s.model_copy(update={"over": over, "knots": knots})
        if isinstance(s, Spline) and s.over == old
        else s
        for c, s in drawing.curves.items()
    }
    return drawing.model_copy(update={"points": points, "curves": curves}), over


def _without_pairs(c: Constraint, gone: set[str]) -> Constraint:
    """Return an image constraint less the pairs of points that go, where any pair is left."""
    kept = [e for pair in zip(c.of[1::2], c.of[2::2], strict=True) if not gone & set(pair) for e in pair]
    return c.model_copy(update={"of": [c.of[0], *kept]}) if kept else c


def _thinned(spline: Spline, gone: set[str]) -> Spline:
    """Return a spline less some of its points, where three or more are left; else the spline as it was."""
    kept = [i for i, p in enumerate(spline.over) if p not in gone]
    if len(kept) < 3:
        return spline
    knots = [spline.knots[i] for i in kept] if spline.manner == "through" else []
    first, last = (knots[0], knots[-1]) if knots else (0.0, 1.0)
    inner = [(k - first) / (last - first) for k in knots[1:-1]]
    return spline.model_copy(
        update={"over": [spline.over[i] for i in kept], "knots": [0.0, *inner, 1.0] if knots else []}
    )
