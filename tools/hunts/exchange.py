"""Files of random parts read back by others' readers: STEP by Wendal's own in a fresh shape, 3MF by lib3mf in strict
mode, GLB by trimesh, STL by the sum of its triangles, DXF of a flat face by ezdxf, its SVG by svgelements.

The oracle is the body as the kernel has it: volume, area, middle, names, colours, lengths of edges, areas of faces.
"""

from __future__ import annotations

import io
import itertools
import math
import random
from collections import Counter
from typing import Any

import ezdxf
import lib3mf
import numpy as np
import svgelements
import trimesh

from tools.hunts.shapes import Shaped
from wendal.core import exchange, kernel
from wendal.core.errors import WendalError
from wendal.core.meshes import MOST, read_stl
from wendal.core.receiving import opened
from wendal.core.reference import face_ref
from wendal.core.route import Evaluation, Memory, Part, evaluate
from wendal.demo import DEMO_PARTS
from wendal.workers import receiving

__all__ = ["hunt_exchange", "judge"]

EXACT, ANEW, FINE = 1e-9, 1e-5, 0.02  # shares: of what is kept exactly, what is bounded anew, what is kept as triangles


def near(a: float, b: float, share: float) -> bool:
    """Tell whether two figures are the same but for a share."""
    return abs(a - b) <= share * max(abs(a), abs(b), 1e-9)


def by_step(part: Part, evaluation: Evaluation) -> str:
    """Volume, area, middle and names of all bodies: exact, or "near" where the kernel bounds free forms anew."""
    told, kept = receiving._read(exchange.export(part, evaluation, "step"), "part.step", "", b"")
    held = opened(kept)
    back = [kernel.mass_of(s) for s in kernel.bodies_received(held.shape, held.numbers, "s1")]
    ours = [kernel.mass_of(b.shape) for b in evaluation.site.bodies.values()]
    names = sorted(b.name for b in evaluation.site.bodies.values())
    pairs = list(zip(sorted(back, key=lambda m: m.area), sorted(ours, key=lambda m: m.area), strict=True))
    if sorted(told["names"]) != names:
        return "wrong"
    for said, share in (("right", EXACT), ("near", ANEW)):
        if all(near(a.volume, b.volume, share) and near(a.area, b.area, share) and math.dist(a.centre, b.centre) < 1e3 * share for a, b in pairs):
            return said
    return "wrong"


def by_3mf(part: Part, evaluation: Evaluation) -> bool:
    """Closed, outward, named, in mm, without a warning of the strict reader."""
    model = lib3mf.get_wrapper().CreateModel()
    reader = model.QueryReader("3mf")
    reader.SetStrictModeActive(True)
    reader.ReadFromBuffer(exchange.export(part, evaluation, "3mf"))
    solid = [b for b in evaluation.site.bodies.values() if not b.sheet]
    found: dict[str, float] = {}
    objects = model.GetMeshObjects()
    sound = reader.GetWarningCount() == 0 and model.GetUnit() == lib3mf.ModelUnit.MilliMeter
    while objects.MoveNext():
        mesh = objects.GetCurrentMeshObject()
        sound = sound and mesh.IsManifoldAndOriented()
        places = np.array([list(v.Coordinates) for v in mesh.GetVertices()])
        corners = np.array([list(t.Indices) for t in mesh.GetTriangleIndices()])
        a, b, c = (places[corners[:, k]] for k in range(3))
        found[mesh.GetName()] = float(np.einsum("ij,ij->i", a, np.cross(b, c)).sum() / 6)
    return sound and all(near(found.get(b.name, 0.0), kernel.volume_of(b.shape), FINE) for b in solid)


def by_glb(part: Part, evaluation: Evaluation) -> bool:
    """The box, in metres and Y up."""
    scene: Any = trimesh.load(io.BytesIO(exchange.export(part, evaluation, "glb")), file_type="glb")
    low, high = scene.bounds
    masses = [kernel.mass_of(b.shape) for b in evaluation.site.bodies.values()]
    ours = np.array([[min(m.low[i] for m in masses), max(m.high[i] for m in masses)] for i in range(3)]) / 1000
    turned = np.array([ours[0], ours[2], [-ours[1][1], -ours[1][0]]])
    size = float(np.abs(turned).max())
    return bool(np.abs(turned - np.array([low, high]).T).max() < FINE * size)


def by_stl(part: Part, evaluation: Evaluation) -> bool | None:
    """What its triangles enclose, and closed."""
    content = exchange.export(part, evaluation, "stl")
    if int.from_bytes(content[80:84], "little") > MOST:
        return None
    mesh = read_stl(content, "mm")
    sides = np.concatenate([mesh.corners[:, [0, 1]], mesh.corners[:, [1, 2]], mesh.corners[:, [2, 0]]])
    _, together = np.unique(np.sort(sides, axis=1), axis=0, return_counts=True)
    a, b, c = (mesh.places[mesh.corners[:, k]] for k in range(3))
    volume = float(np.einsum("ij,ij->i", a, np.cross(b, c)).sum() / 6)
    ours = sum(kernel.volume_of(b.shape) for b in evaluation.site.bodies.values() if not b.sheet)
    return bool((together == 2).all()) and near(volume, ours, FINE)


def flat(evaluation: Evaluation, rng: random.Random) -> tuple[dict[str, Any], float, float] | None:
    """Return a flat face that is bounded by lines and circles, its area, and the length of its rims."""
    found = []
    for body in evaluation.site.bodies.values():
        topology = body.topology
        for i, face in enumerate(topology.faces):
            around = [topology.edges[e] for e in topology.edges_of[i]]
            if face.form == "flat" and all(e.form in ("line", "circle") for e in around):
                subject = {"of": "face", "thing": face_ref(body.id, topology, i).model_dump(mode="json")}
                found.append((subject, face.area, math.fsum(e.length for e in around)))
    return rng.choice(found) if found else None


def by_dxf(part: Part, evaluation: Evaluation, face: tuple[dict[str, Any], float, float]) -> bool:
    """The lengths of a face's rims."""
    text = exchange.export(part, evaluation, "dxf", face[0]).decode()
    total = 0.0
    for e in ezdxf.read(io.StringIO(text)).modelspace():
        if e.dxftype() == "LINE":
            total += math.dist(e.dxf.start, e.dxf.end)
        elif e.dxftype() == "CIRCLE":
            total += math.tau * e.dxf.radius
        elif e.dxftype() == "ARC":
            total += math.radians((e.dxf.end_angle - e.dxf.start_angle) % 360) * e.dxf.radius
        elif e.dxftype() == "LWPOLYLINE":
            points = [*e.get_points("xyb")] + ([next(iter(e.get_points("xyb")))] if e.closed else [])
            for (x, y, bulge), (u, v, _) in itertools.pairwise(points):
                chord = math.dist((x, y), (u, v))
                turn = 4 * math.atan(abs(bulge))
                total += chord if not bulge else chord / (2 * math.sin(turn / 2)) * turn
    return near(total, face[2], EXACT)


def by_svg(part: Part, evaluation: Evaluation, face: tuple[dict[str, Any], float, float]) -> bool:
    """The area inside a face's rims, holes taken away by the sense in which they run, or by the even ones inside."""
    drawn = svgelements.SVG.parse(io.StringIO(exchange.export(part, evaluation, "svg", face[0]).decode()), ppi=25.4)
    areas = []
    for element in drawn.elements():
        if isinstance(element, svgelements.Shape):
            for sub in svgelements.Path(element).as_subpaths():
                places = np.array([[p.x, p.y] for seg in svgelements.Path(sub).segments() for p in
                                   (seg.point(t) for t in (np.linspace(0, 1, 400)[:-1] if not isinstance(seg, (svgelements.Move, svgelements.Close, svgelements.Line)) else [0.0, 1.0][1 if isinstance(seg, svgelements.Move) else 0:]))])
                if len(places) > 2:
                    x, y = places.T
                    areas.append(abs(float(np.sum(x * np.roll(y, -1) - y * np.roll(x, -1)) / 2)))
    if not areas:
        return False
    outer = max(areas)
    return near(2 * outer - sum(areas), face[1], 1e-3)


def judge(part: Part, evaluation: Evaluation, rng: random.Random) -> Counter[str]:
    """Count what comes back as it was, by kinds."""
    found: Counter[str] = Counter()
    tries: dict[str, Any] = {"step": by_step, "3mf": by_3mf, "glb": by_glb, "stl": by_stl}
    if face := flat(evaluation, rng):
        tries |= {"dxf": lambda p, e: by_dxf(p, e, face), "svg": lambda p, e: by_svg(p, e, face)}
    solid = any(not b.sheet for b in evaluation.site.bodies.values())
    for kind, check in tries.items():
        if kind in ("3mf", "stl") and not solid:
            continue
        try:
            good = check(part, evaluation)
        except Exception as error:
            good = False
            print(f"  {kind}: {type(error).__name__}: {error}", flush=True)
        if good is not None:
            found[f"{kind} {good if isinstance(good, str) else 'right' if good else 'wrong'}"] += 1
    return found


def hunt_exchange(size: int, seed: int = 1) -> Counter[str]:
    """Write random parts, and the demo parts, and read them back."""
    found: Counter[str] = Counter()
    makes = list(DEMO_PARTS.values())
    for k in range(size):
        rng = random.Random(f"{seed}:{k}")
        try:
            part = makes[k]() if k < len(makes) else Shaped(seed * 1000 + k).b.part
            evaluation = evaluate(part, Memory())
        except WendalError:
            found["not built"] += 1
            continue
        if not evaluation.site.bodies or any(r.state != "built" for r in evaluation.reports):
            found["not built"] += 1
            continue
        counted = judge(part, evaluation, rng)
        found += counted
        for what in counted:
            if "wrong" in what:
                print(f"  exchange {seed}:{k}: {what}", flush=True)
    return found
