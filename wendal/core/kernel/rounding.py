"""A flat face fully rounded between two others: a cylinder that touches all three takes its place."""

from __future__ import annotations

import math

from ..errors import StepError
from ..tolerance import ONE_PLACE
from .boolean import cut, fuse
from .extrusion import prism
from .named import NamedShape, source_of
from .query import check_solid, describe
from .types import Frame, Profile, Segment, Topology, Vec, cross, dot, minus, scaled, unit

__all__ = ["fully_rounded"]

BEYOND = 1.0  # mm that the tool reaches over the face


def fully_rounded(body: NamedShape, face: int, sides: tuple[int, int], step: str) -> tuple[NamedShape, float]:
    """Replace a flat face between two flat faces by a part of a cylinder that touches all three; return the
    body and the radius (mm).

    The new face is named `step/full/<face>` and keeps the face's names. Raises StepError where the faces are
    not of one cross-section.
    """
    topology = describe(body)
    middle, one, other = (topology.faces[i] for i in (face, *sides))
    if any(f.form != "flat" for f in (middle, one, other)):
        raise StepError(
            "A full rounding is made of flat faces only. Pick a flat face between two flat ones.",
            field="face",
        )
    n = middle.frame.normal
    way = cross(n, one.frame.normal)
    if math.hypot(*way) < ONE_PLACE or abs(dot(unit(way), other.frame.normal)) > ONE_PLACE:
        raise StepError(
            "The two side faces do not run along one direction, so no one radius fits between them.",
            field="sides",
        )
    along = unit(way)
    low, high = _ends(topology, face, sides, along)
    across = cross(along, n)  # in the face, from one side to the other
    origin = middle.centre
    frame = Frame(minus(origin, scaled(along, dot(minus(origin, low), along))), across, n)
    # In the cross-section the face is y = 0; each side is a line through (x0, 0) with an outward normal.
    lines = []
    for found in (one, other):
        nx, ny = dot(found.frame.normal, across), dot(found.frame.normal, n)
        at = frame.local(found.centre)
        lines.append((nx, ny, nx * at[0] + ny * at[1]))
    convex = _convex(body, topology, face, sides[0])
    s = 1.0 if convex else -1.0
    # Centre (cx, cy): s * cy = -r, nx cx + ny cy - d = -s r for both sides.
    (ax, ay, ad), (bx, by, bd) = lines
    # cy = -s r: nx cx + s r (1 - ny) = d for both.
    det = ax * s * (1 - by) - bx * s * (1 - ay)
    if abs(det) < ONE_PLACE:
        raise StepError("No circle touches these three faces.", field="sides")
    cx, r = (ad * s * (1 - by) - bd * s * (1 - ay)) / det, (ax * bd - bx * ad) / det
    if r <= ONE_PLACE:
        raise StepError("No circle touches these three faces on their material's side.", field="sides")
    cy = -s * r
    touch = [(cx + s * r * nx, cy + s * r * ny) for nx, ny, _ in lines]
    over = s * BEYOND
    tops = [((d - ny * over) / nx, over) for nx, ny, d in lines]
    corners = [touch[0], tops[0], tops[1], touch[1]]
    profile = Profile("full", [[Segment(f"q{i}", corners[i], corners[(i + 1) % 4]) for i in range(4)]])
    length = dot(minus(high, low), along)
    block = prism(profile, frame, scaled(along, length), step)
    circle = Profile("full", [[Segment("round", (cx + r, cy), (cx + r, cy), (cx, cy), r, 0.0, 2 * math.pi)]])
    tool = cut(block, [prism(circle, frame, scaled(along, length), step)], merge=False)
    made = cut(body, [tool]) if convex else fuse([body, tool])
    check_solid(made)
    name = f"{step}/side/round/full"
    if not any(name in names for names in made.names):
        raise StepError("The rounding would leave nothing of these faces.", field="face")
    kept = body.names[face] | {f"{step}/full/{source_of(body.names[face])}"}
    named = [(names - {name}) | kept if name in names else names for names in made.names]
    left = {n for names in named for n in names}
    if any(not body.names[i] & left for i in sides):
        raise StepError(
            f"The circle that touches all three faces has a radius of {r:.6g} mm, and reaches beyond a side "
            "face. Make the sides higher, "
            "or the face narrower.",
            field="face",
        )
    if any(n.startswith((f"{step}/side/", f"{step}/start/", f"{step}/end/")) for n in left):
        raise StepError(
            "The face does not end square between its sides, so it can not be rounded in one piece.",
            field="face",
        )
    return NamedShape(made.shape, named), r


def _ends(topology: Topology, face: int, sides: tuple[int, int], along: Vec) -> tuple[Vec, Vec]:
    """Return a place at either end of the face; raises StepError unless it is a strip with square ends
    between its sides."""
    own = [e for e in topology.edges if face in e.faces]
    long = [e for e in own if any(s in e.faces for s in sides)]
    ends = [e for e in own if e not in long]
    if len(long) != 2 or len(ends) != 2 or any(e.form != "line" for e in own):
        raise StepError(
            "The face is no strip between the two sides: it must meet each of them in one straight edge.",
            field="sides",
        )
    if any(abs(dot(e.tangent, along)) > ONE_PLACE for e in ends):
        raise StepError(
            "The face does not end square to its sides, so it can not be rounded in one piece.", field="face"
        )
    first, last = sorted(ends, key=lambda e: dot(e.middle, along))
    return first.middle, last.middle


def _convex(body: NamedShape, topology: Topology, face: int, side: int) -> bool:
    """Tell whether a face and a side meet in an outer edge."""
    edge = next(e for e in topology.edges if face in e.faces and side in e.faces)
    into = minus(topology.faces[face].centre, edge.middle)
    return dot(into, topology.faces[side].frame.normal) < 0
