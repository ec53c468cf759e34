"""Random bodies and tools, cut and joined at the cost of what is touched, and by the kernel's own operation: the same must come out."""

from __future__ import annotations

import math
from collections import Counter
from functools import lru_cache

import numpy as np
from OCP.BRepAlgoAPI import BRepAlgoAPI_Cut, BRepAlgoAPI_Fuse
from OCP.BRepPrimAPI import (
    BRepPrimAPI_MakeBox,
    BRepPrimAPI_MakeCone,
    BRepPrimAPI_MakeCylinder,
    BRepPrimAPI_MakeSphere,
    BRepPrimAPI_MakeTorus,
)
from OCP.gp import gp_Ax2, gp_Dir, gp_Pnt
from OCP.TopoDS import TopoDS_Shape

from wendal.core import kernel
from wendal.core.kernel.boolean import by_kernel
from wendal.core.kernel.joining import local_boolean
from wendal.core.kernel.merging import merge_flush
from wendal.core.kernel.named import NamedShape
from wendal.core.kernel.shapes import faces_of
from wendal.core.kernel.types import Placement

__all__ = ["a_body", "compared", "tally"]

SIZE = 100.0
OPERATIONS = {"cut": BRepAlgoAPI_Cut, "fuse": BRepAlgoAPI_Fuse}
SAME = 1e-8


def _named(shape: TopoDS_Shape, prefix: str) -> NamedShape:
    return NamedShape.collect(shape, [(f, frozenset({f"{prefix}/side/c{i}/r1"})) for i, f in enumerate(faces_of(shape))])


def _solid(rng: np.random.Generator, at: tuple[float, float, float], size: float, upright: bool) -> TopoDS_Shape:
    """Return a box, cylinder, cone, sphere or torus round a place."""
    x, y, z = at
    axis = gp_Dir(0, 0, 1) if upright else gp_Dir(*rng.normal(size=3))
    place = gp_Ax2(gp_Pnt(x, y, z - size), axis)
    kind = rng.integers(11) % 6
    if kind <= 1:
        return BRepPrimAPI_MakeBox(place, size * rng.uniform(0.5, 1.5), size * rng.uniform(0.5, 1.5), 2 * size).Shape()
    if kind == 2:
        return BRepPrimAPI_MakeCylinder(place, size * rng.uniform(0.3, 0.8), 2 * size).Shape()
    if kind == 3:
        return BRepPrimAPI_MakeCone(place, size * rng.uniform(0.3, 0.8), size * rng.uniform(0.0, 0.25), 2 * size).Shape()
    if kind == 4:
        return BRepPrimAPI_MakeSphere(gp_Pnt(x, y, z), size * rng.uniform(0.4, 0.9)).Shape()
    return BRepPrimAPI_MakeTorus(gp_Ax2(gp_Pnt(x, y, z), axis), size * rng.uniform(0.5, 0.8), size * rng.uniform(0.1, 0.3)).Shape()


@lru_cache(maxsize=12)
def a_body(seed: int, openings: int = 16) -> NamedShape:
    """Return a plate with pockets, holes, cones, spheres and rings in it and on it; half of them upright, every third moved."""
    rng = np.random.default_rng(seed)
    body = _named(BRepPrimAPI_MakeBox(gp_Pnt(0, 0, 0), SIZE, SIZE, 12.0).Shape(), "s1")
    side = math.ceil(math.sqrt(openings))
    for how in ("cut", "fuse"):
        tools = []
        for i in range(openings):
            if (rng.random() < 0.3) != (how == "fuse"):
                continue
            at = ((i % side + 0.5) * SIZE / side, (i // side + 0.5) * SIZE / side, float(rng.choice([12.0, 10.0, 8.0])))
            tools.append(_named(_solid(rng, at, 8.0, seed % 2 == 0), f"s{2 + 2 * i + (how == 'fuse')}"))
        if tools:
            body = by_kernel(how, [body], tools)  # type: ignore[arg-type]
    body = max(kernel.pieces_of(body), key=kernel.volume_of)
    if seed % 3 == 0:
        body = kernel.placed(body, Placement.turned((1.0, 2.0, 3.0), (0.6, 0.0, 0.8), 0.7))
    return body


def _tools(rng: np.random.Generator, body: NamedShape) -> list[NamedShape]:
    """Return one to three tools: at random, or with faces flush with the body's, or whole bodies' widths long."""
    low, high = kernel.box_of([body])
    made = []
    for k in range(int(rng.integers(1, 4))):
        at = tuple(float(rng.uniform(a - 2, b + 2)) for a, b in zip(low, high, strict=True))
        if rng.random() < 0.3:
            at = (at[0], at[1], 12.0)
        size = float(rng.choice([3.0, 6.0, 12.0, 25.0]))
        if rng.random() < 0.3:  # round numbers, so that faces lie on faces
            at = tuple(float(round(v)) for v in at)
            shape = BRepPrimAPI_MakeBox(gp_Pnt(*at), size, float(rng.choice([4.0, 12.0])), float(rng.choice([2.0, 4.0, 12.0]))).Shape()
        else:
            shape = _solid(rng, at, size, bool(rng.random() < 0.6))  # type: ignore[arg-type]
        made.append(_named(shape, f"t{k}"))
    return made


def compared(seed: int) -> str:
    """Do one random operation both ways; return "same", "left to the kernel", "the kernel's own is broken", or what differs."""
    rng = np.random.default_rng(1000 + seed)
    body = a_body(seed % 12, 20 + 6 * (seed % 3))
    tools = _tools(rng, body)
    way = rng.choice(["cut", "cut", "fuse", "common", "rest"])
    near = local_boolean(way, body, tools)  # type: ignore[arg-type]
    if near is None:
        return "left to the kernel"
    theirs = by_kernel("cut", tools, [body], merge=False) if way == "rest" else by_kernel(way, [body], tools, merge=False)  # type: ignore[arg-type]
    if not kernel.check_whole(theirs):
        return "the kernel's own is broken"
    for ours, other, when in ((near, theirs, ""), (merge_flush(near), merge_flush(theirs), " merged")):
        if abs(kernel.volume_of(ours) - kernel.volume_of(other)) > SAME * kernel.volume_of(body):
            return f"volume{when}"
        if kernel.lumps(ours) != kernel.lumps(other):
            return f"solids{when}"
        if Counter(ours.names) != Counter(other.names):
            return f"names{when}"
        if when and len(ours.anatomy.edges) != len(other.anatomy.edges):
            return f"edges{when}"
        if (ours.anatomy.unclosed is None) != (other.anatomy.unclosed is None):
            return f"closed{when}"
        if not kernel.check_whole(ours) and kernel.check_whole(other):
            return f"sound{when}"
    return "same"


def tally(cases: range) -> Counter[str]:
    """Compare so many cases."""
    return Counter(compared(seed) for seed in cases)
