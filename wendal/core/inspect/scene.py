"""What the stage shows: bodies face by face, datum planes, sketches; every pickable thing with its reference.

Heavy content (triangles, edge lines, the list of a body's references) goes by digest and is only handed out
when the asker does not have it.
"""

from __future__ import annotations

import hashlib
import json
import math
from collections.abc import Callable, Mapping
from dataclasses import asdict
from typing import Any

import numpy as np
from numpy.typing import NDArray
from pydantic_core import to_json

from .. import kernel
from ..route import Evaluation, Part
from ..sketch import Drawing, region_ref, text_outline, text_ref
from ..sketch.drawn import path_of
from ..steps import Body, SketchMade, shown
from .naming import drawn_called, regions_called
from .painted import painted
from .things import EDGE_FACETS, frame_data, pieces

__all__ = ["Blobs", "curve_lines", "mesh_of", "preview_scene", "scene", "sketch_entry"]

DRAWN = 64  # edges whose lines go together
KEPT = 800  # entries of bodies and sketches


class Blobs:
    """Content by digest; what the asker already has is left out.

    kept : entries of bodies and sketches by what they hang on, so that one that is unchanged is not packed
    again. held : content that is there already.
    """

    def __init__(self, has: set[str], kept: dict[Any, Any], held: Mapping[str, bytes] | None = None) -> None:
        self.new: dict[str, bytes] = {}
        self.used: dict[Any, Any] = {}  # entries that were asked for
        self._has, self._kept, self._held = has, kept, held or {}

    def add(self, content: bytes, digest: str = "") -> str:
        """Hand out content unless the asker has it; return its digest."""
        digest = digest or hashlib.blake2b(content, digest_size=12).hexdigest()
        if digest not in self._has:
            self.new[digest] = content
        return digest

    def faces(self, meshes: list[kernel.FaceMesh]) -> list[str]:
        """Hand out triangles; return their digests."""
        return [m.digest if m.digest in self._has else self.add(_triangles(m), m.digest) for m in meshes]

    def lines(self, lines: list[NDArray[np.float32]]) -> list[str]:
        """Hand out the lines of edges in pieces; return their digests."""
        return [
            self.add(_framed({"counts": [len(x) for x in some]}, [np.concatenate(some)]))
            for i in range(0, len(lines), DRAWN)
            for some in [lines[i : i + DRAWN]]
        ]

    def body(self, body: Body) -> dict[str, Any]:
        """Return a body's entry in the scene."""
        entry: dict[str, Any] = self._once(
            (body.key, body.name),
            lambda: self._body(body),
            lambda e: [*e["faces"], *e["edges"], *e["things"]],
        )
        return entry

    def _body(self, body: Body) -> dict[str, Any]:
        mass = kernel.mass_of(body.shape)
        meshes = kernel.face_meshes(body.shape, math.dist(mass.low, mass.high))
        return {
            "id": body.id,
            "name": body.name,
            "key": body.key,
            "faces": self.faces(meshes),
            "edges": self.lines(kernel.edge_lines(body.shape)),
            "things": [self.add(p) for p in pieces(body)],
            "mass": asdict(mass),
        }

    def sketch(self, step: str, name: str, key: str, made: SketchMade) -> str:
        """Hand out what there is to see of a sketch, whose step's result has a key; return its digest."""
        digest: str = self._once(
            (key, step, name), lambda: self.add(to_json(sketch_entry(step, name, made))), lambda d: [d]
        )
        return digest

    def _once(self, key: Any, make: Callable[[], Any], digests: Callable[[Any], list[str]]) -> Any:
        """Return what was packed before where all of it is at hand or the asker's, else pack it."""
        known = self._kept.get(key)
        wanted = (
            [] if known is None else [d for d in digests(known) if d not in self._has and d not in self.new]
        )
        if known is None or not all(d in self._held for d in wanted):
            known = self._kept[key] = make()
            while len(self._kept) > KEPT:
                self._kept.pop(next(iter(self._kept)))
        else:
            self.new.update({d: self._held[d] for d in wanted})
        self.used[key] = known
        return known


def scene(part: Part, evaluation: Evaluation, blobs: Blobs, at: str | None = None) -> dict[str, Any]:
    """Return everything that stands after a step ("" before all; None: at the end of what is built)."""
    site = evaluation.site if at is None else evaluation.sites.get(at, evaluation.site)
    steps, keys = {s.id: s for s in part.steps}, {r.id: r.key for r in evaluation.reports}
    active = site.datums.get(part.active_system)
    places = {id(look): n for n, look in enumerate(part.faces)}
    looks = {
        body: {str(i): {"name": x.name, "colour": x.colour, "look": places[id(x)]} for i, x in found.items()}
        for body, found in painted(part, site.bodies).items()
    }
    return {
        "at": at,
        "active": frame_data(active[0].frame) if active else None,
        "bodies": [
            {**blobs.body(b), "name": b.name, **_look(part, b), "painted": looks.get(b.id, {})}
            for b in site.bodies.values()
        ],
        "datums": [
            {
                "step": s,
                "index": i,
                "kind": d.kind,
                "visible": steps[s].visible,
                "frame": frame_data(d.frame),
                "name": steps[s].name + (f" {i + 1}" if len(made) > 1 else ""),
            }
            for s, made in site.datums.items()
            for i, d in enumerate(made)
        ],
        "sketches": [
            {"step": s, "visible": steps[s].visible, "content": blobs.sketch(s, steps[s].name, keys[s], made)}
            for s, made in site.sketches.items()
        ],
        "threads": [{"frame": frame_data(f), "radius": r} for made in site.threads.values() for f, r in made],
    }


def preview_scene(evaluation: Evaluation, part: Part, step: str, blobs: Blobs) -> dict[str, Any]:
    """Return what a step under edit would make: its datum or sketch, material added or removed, the dots of
    its copies."""
    made = evaluation.preview
    if made is None:
        return {"dots": evaluation.report(step).dots}
    found: dict[str, Any] = {"dots": made.dots, "handles": [asdict(h) for h in made.handles]}
    found["datums"] = [{"kind": d.kind, "frame": frame_data(d.frame)} for d in made.datums]
    if made.sketch:
        found["sketch"] = {**sketch_entry(step, part.step(step).name, made.sketch), "visible": True}
    if made.skin is not None:
        had = {b: body.shape for b, body in evaluation.before.bodies.items()}
        more = sum(
            kernel.volume_of(shape) - (kernel.volume_of(had[b]) if b in had else 0.0)
            for b, shape in made.shapes.items()
            if shape
        )
        mesh = mesh_of(made.skin, blobs)  # new faces, which are a sheet only where a sheet is what is made
        sheet = all(kernel.is_sheet(shape) for shape in made.shapes.values() if shape)
        found["added" if more >= 0 else "removed"] = mesh | {
            "volume": abs(more),
            "area": mesh["area"] if sheet else 0.0,
        }
        return found
    for word, shape in zip(
        ("added", "removed"), shown(made, evaluation.before) if made.shapes else (None, None), strict=True
    ):
        if shape is not None and shape.names:
            found[word] = mesh_of(shape, blobs)
    return found


def sketch_entry(step: str, name: str, made: SketchMade) -> dict[str, Any]:
    """Return a sketch's curves as lines in its plane and its regions with their references."""
    curves, points = drawn_called(name, made.drawing)
    regions = regions_called(name, [r.area for r in made.regions])
    return {
        "step": step,
        "name": name,
        "frame": frame_data(made.frame),
        "curves": [line | {"words": curves[line["id"]]} for line in curve_lines(made.drawing)],
        "points": dict(made.drawing.points),
        "words": points,
        "regions": [
            {
                "ref": region_ref(step, r).model_dump(mode="json"),
                "words": regions[i],
                "area": r.area,
                "outline": r.outline(),
            }
            for i, r in enumerate(made.regions)
        ],
        "texts": [
            {
                "ref": text_ref(step, t, pieces).model_dump(mode="json"),
                "words": made.drawing.texts[t].words,
                "area": sum(p.area for p in pieces),
                "pieces": [p.outline() for p in pieces],
                "boxes": text_outline(made.drawing, t, made.heights[t]).boxes,
            }
            for t, pieces in made.texts.items()
        ],
    }


def curve_lines(drawing: Drawing) -> list[dict[str, Any]]:
    """Return every curve as a line through points (mm in the sketch)."""
    lines = []
    for c, curve in drawing.curves.items():
        path = path_of(drawing, c)
        points = [path.at(t) for t in [*path.samples(path.t0, path.t1, 0.08), path.t1]]
        kind = {"line": "line", "circle": "circle", "arc": "circle"}.get(curve.kind, "bent")
        lines.append(
            {"id": c, "construction": curve.construction, "facets": EDGE_FACETS[kind], "points": points}
        )
    return lines


def _look(part: Part, body: Body) -> dict[str, Any]:
    look = part.looks.get(body.id)
    return {
        "visible": look is None or look.visible,
        "colour": look.colour if look else "",
        "through": bool(look and look.through),
    }


def mesh_of(shape: kernel.NamedShape, blobs: Blobs) -> dict[str, Any]:
    """Hand out a shape's triangles and edges; return their digests with its volume (mm³), or its area (mm²)
    where it is a sheet."""
    mass = kernel.mass_of(shape)
    meshes = kernel.face_meshes(shape, math.dist(mass.low, mass.high))
    return {
        "faces": blobs.faces(meshes),
        "edges": blobs.lines(kernel.edge_lines(shape)),
        "volume": mass.volume,
        "area": mass.area if mass.sheet else 0.0,
    }


def _triangles(mesh: kernel.FaceMesh) -> bytes:
    return _framed(
        {"places": len(mesh.places), "triangles": len(mesh.triangles)},
        [mesh.places, mesh.normals, mesh.triangles],
    )


def _framed(head: dict[str, Any], arrays: list[np.ndarray]) -> bytes:
    """Return a JSON head, its length in front (uint32, padded to four bytes), and little-endian arrays
    behind."""
    text = json.dumps(head).encode()
    text += b" " * (-len(text) % 4)
    return len(text).to_bytes(4, "little") + text + b"".join(a.tobytes() for a in arrays)
