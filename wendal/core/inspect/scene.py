"""What the stage shows: bodies face by face, datum planes, sketches; every pickable thing with its reference.

Heavy content (triangles, edge lines, the list of a body's references) goes by digest and is only handed out
when the asker does not have it.
"""

from __future__ import annotations

import hashlib
import json
import math
from dataclasses import asdict
from typing import Any

import numpy as np

from .. import kernel
from ..reference import edge_ref, face_ref, vertex_ref
from ..reference.calling import called
from ..route import Evaluation, Part
from ..sketch import Drawing, region_ref, text_outline, text_ref
from ..sketch.crossings import path_of
from ..steps import Body, SketchMade, shown
from .naming import drawn_called, regions_called

__all__ = ["EDGE_FACETS", "FACE_FACETS", "Blobs", "curve_lines", "frame_data", "preview_scene", "scene"]


# What can be picked as what, by form; `core/datum/taken.py` makes of a pick just these facets.
FACE_FACETS = {"flat": ["plane", "face", "flat"], "round": ["axis", "turned", "round", "face", "curved"],
               "cone": ["axis", "turned", "round", "face", "curved"], "torus": ["axis", "turned", "face", "curved"]}
EDGE_FACETS = {"line": ["line", "axis", "curve"], "circle": ["axis", "turned", "circle", "curve"], "ellipse": ["circle", "curve"],
               "bent": ["curve"]}


class Blobs:
    """Content by digest; what the asker already has is left out.

    kept : packed bodies by body key, so that an unchanged body is meshed once.
    """

    def __init__(self, has: set[str], kept: dict[str, tuple[dict[str, Any], dict[str, bytes]]]) -> None:
        self.new: dict[str, bytes] = {}
        self._has, self._kept = has, kept

    def add(self, content: bytes, digest: str = "") -> str:
        """Hand out content unless the asker has it; return its digest."""
        digest = digest or hashlib.blake2b(content, digest_size=12).hexdigest()
        if digest not in self._has:
            self.new[digest] = content
        return digest

    def body(self, body: Body) -> dict[str, Any]:
        """Return a body's entry in the scene."""
        key = f"{body.key} {body.name}"
        if key not in self._kept:
            if len(self._kept) > 60:
                self._kept.pop(next(iter(self._kept)))
            self._kept[key] = _pack(body)
        entry, contents = self._kept[key]
        for digest, content in contents.items():
            self.add(content, digest)
        return entry


def scene(part: Part, evaluation: Evaluation, blobs: Blobs, at: str | None = None) -> dict[str, Any]:
    """Return everything that stands after a step ("" before all; None: at the end of what is built)."""
    site = evaluation.site if at is None else evaluation.sites.get(at, evaluation.site)
    visible = {s.id: s.visible for s in part.steps}
    active = site.datums.get(part.active_system)
    return {
        "at": at, "active": frame_data(active[0].frame) if active else None,
        "bodies": [{**blobs.body(b), "name": b.name, **_look(part, b)} for b in site.bodies.values()],
        "datums": [{"step": s, "index": i, "sort": d.sort, "visible": visible[s], "frame": frame_data(d.frame),
                    "name": part.step(s).name + (f" {i + 1}" if len(made) > 1 else "")}
                   for s, made in site.datums.items() for i, d in enumerate(made)],
        "sketches": [sketch_entry(part, s, made, visible[s]) for s, made in site.sketches.items()],
        "threads": [{"frame": frame_data(f), "radius": r} for made in site.threads.values() for f, r in made],
    }


def preview_scene(evaluation: Evaluation, part: Part, step: str, blobs: Blobs) -> dict[str, Any]:
    """Return what a step under edit would make: its datum or sketch, material added or removed, the dots of its copies."""
    made = evaluation.preview
    if made is None:
        return {"dots": evaluation.report(step).dots}
    found: dict[str, Any] = {"dots": made.dots, "handles": [asdict(h) for h in made.handles]}
    found["datums"] = [{"sort": d.sort, "frame": frame_data(d.frame)} for d in made.datums]
    if made.sketch:
        found["sketch"] = sketch_entry(part, step, made.sketch, True)
    if made.skin is not None:
        had = {b: body.shape for b, body in evaluation.before.bodies.items()}
        more = sum(kernel.volume_of(shape) - (kernel.volume_of(had[b]) if b in had else 0.0) for b, shape in made.shapes.items() if shape)
        mesh = _mesh_of(made.skin, blobs)  # new faces, which are a sheet only where a sheet is what is made
        sheet = all(kernel.is_sheet(shape) for shape in made.shapes.values() if shape)
        found["added" if more >= 0 else "removed"] = mesh | {"volume": abs(more), "area": mesh["area"] if sheet else 0.0}
        return found
    for word, shape in zip(("added", "removed"), shown(made, evaluation.before) if made.shapes else (None, None), strict=True):
        if shape is not None and shape.names:
            found[word] = _mesh_of(shape, blobs)
    return found


def frame_data(frame: kernel.Frame) -> dict[str, Any]:
    """Return a frame as data."""
    return {"origin": frame.origin, "x": frame.x, "y": frame.y, "normal": frame.normal}


def sketch_entry(part: Part, step: str, made: SketchMade, visible: bool) -> dict[str, Any]:
    """Return a sketch's curves as lines in its plane and its regions with their references."""
    name = part.step(step).name
    curves, points = drawn_called(name, made.drawing)
    regions = regions_called(name, [r.area for r in made.regions])
    return {
        "step": step, "name": name, "visible": visible, "frame": frame_data(made.frame),
        "curves": [line | {"words": curves[line["id"]]} for line in curve_lines(made.drawing)], "points": dict(made.drawing.points), "words": points,
        "regions": [{"ref": region_ref(step, r).model_dump(mode="json"), "words": regions[i], "area": r.area, "outline": r.outline()}
                    for i, r in enumerate(made.regions)],
        "texts": [{"ref": text_ref(step, t, pieces).model_dump(mode="json"), "words": made.drawing.texts[t].words,
                   "area": sum(p.area for p in pieces), "pieces": [p.outline() for p in pieces],
                   "boxes": text_outline(made.drawing, t, made.heights[t]).boxes} for t, pieces in made.texts.items()],
    }


def curve_lines(drawing: Drawing) -> list[dict[str, Any]]:
    """Return every curve as a line through points (mm in the sketch)."""
    lines = []
    for c, curve in drawing.curves.items():
        path = path_of(drawing, c)
        points = [path.at(t) for t in [*path.samples(path.t0, path.t1, 0.08), path.t1]]
        sort = {"line": "line", "circle": "circle", "arc": "circle"}.get(curve.kind, "bent")
        lines.append({"id": c, "construction": curve.construction, "facets": EDGE_FACETS[sort], "points": points})
    return lines


def _look(part: Part, body: Body) -> dict[str, Any]:
    look = part.looks.get(body.id)
    return {"visible": look is None or look.visible, "colour": look.colour if look else ""}


def _size(body: Body) -> float:
    mass = kernel.mass_of(body.shape)
    return math.dist(mass.low, mass.high)


def _pack(body: Body) -> tuple[dict[str, Any], dict[str, bytes]]:
    contents: dict[str, bytes] = {}
    meshes = kernel.face_meshes(body.shape, _size(body))
    for mesh in meshes:
        contents[mesh.digest] = _triangles(mesh)
    lines = kernel.edge_lines(body.shape.shape)
    packed = _framed({"counts": [len(x) for x in lines]}, [np.concatenate(lines).astype(np.float32)] if lines else [])
    edges = hashlib.blake2b(packed, digest_size=12).hexdigest()
    contents[edges] = packed
    topology = body.topology
    words = called(body.name, topology, body.sheet)
    things = json.dumps({
        "faces": [{"form": f.form, "words": words.faces[i], "facets": FACE_FACETS.get(f.form, ["face", "curved"]),
                   "ref": face_ref(body.id, topology, i).model_dump(mode="json"),
                   "frame": frame_data(f.frame), "area": f.area, "radius": f.radius}
                  for i, f in enumerate(topology.faces)],
        "edges": [{"form": e.form, "words": words.edges[i], "facets": ["edge", *EDGE_FACETS.get(e.form, ["curve"])], "centre": e.centre, "faces": e.faces,
                   "length": e.length, "middle": e.middle,
                   "ref": edge_ref(body.id, topology, i).model_dump(mode="json")}
                  for i, e in enumerate(topology.edges)],
        "vertices": [{"place": v.place, "words": words.corners[i], "ref": vertex_ref(body.id, topology, i).model_dump(mode="json")}
                     for i, v in enumerate(topology.vertices) if v.faces],
    }).encode()
    digest = f"t{hashlib.blake2b(things, digest_size=11).hexdigest()}"  # names are in it, and in no body's key
    contents[digest] = things
    mass = asdict(kernel.mass_of(body.shape))
    return {"id": body.id, "name": body.name, "key": body.key, "faces": [m.digest for m in meshes], "edges": edges,
            "things": digest, "mass": mass}, contents


def _mesh_of(shape: kernel.NamedShape, blobs: Blobs) -> dict[str, Any]:
    mass = kernel.mass_of(shape)
    meshes = kernel.face_meshes(shape, math.dist(mass.low, mass.high))
    lines = kernel.edge_lines(shape.shape)
    packed = _framed({"counts": [len(x) for x in lines]}, [np.concatenate(lines).astype(np.float32)] if lines else [])
    return {"faces": [blobs.add(_triangles(m), m.digest) for m in meshes], "edges": blobs.add(packed), "volume": mass.volume,
            "area": mass.area if mass.sheet else 0.0}


def _triangles(mesh: kernel.FaceMesh) -> bytes:
    return _framed({"places": len(mesh.places), "triangles": len(mesh.triangles)},
                   [mesh.places, mesh.normals, mesh.triangles])


def _framed(head: dict[str, Any], arrays: list[np.ndarray]) -> bytes:
    """Return a JSON head, its length in front (uint32, padded to four bytes), and little-endian arrays behind."""
    text = json.dumps(head).encode()
    text += b" " * (-len(text) % 4)
    return len(text).to_bytes(4, "little") + text + b"".join(a.tobytes() for a in arrays)

