"""GLB (glTF 2.0, binary): a mesh a body with its name, colour and edges as lines, in metres, Y up."""

from __future__ import annotations

import json
import math
import struct
from typing import Any

import numpy as np
from numpy.typing import NDArray

from .. import kernel
from .base import Format, Meshing, Order, register, solid_bodies
from .colours import colour_of

MM = 0.001
# The root turns millimetres with Z up into metres with Y up; columns, as glTF has them.
ROOT = [MM, 0, 0, 0, 0, 0, -MM, 0, 0, MM, 0, 0, 0, 0, 0, 1]
FLOAT, INDEX, ARRAY, ELEMENTS, TRIANGLES, LINES = 5126, 5125, 34962, 34963, 4, 1
INK = [0.02, 0.018, 0.015, 1.0]


class _Buffer:
    """The binary part: arrays one behind the other, with the views and accessors that tell of them."""

    def __init__(self) -> None:
        self.data = bytearray()
        self.views: list[dict[str, Any]] = []
        self.accessors: list[dict[str, Any]] = []

    def add(self, array: NDArray[Any], kind: str, component: int, target: int) -> int:
        """Add an array; return its accessor's number."""
        raw = array.tobytes()
        self.views.append(
            {"buffer": 0, "byteOffset": len(self.data), "byteLength": len(raw), "target": target}
        )
        self.data += raw + b"\0" * (-len(raw) % 4)
        told: dict[str, Any] = {
            "bufferView": len(self.views) - 1,
            "componentType": component,
            "count": len(array),
            "type": kind,
        }
        if kind == "VEC3":
            told |= {"min": array.min(0).tolist(), "max": array.max(0).tolist()}
        self.accessors.append(told)
        return len(self.accessors) - 1


def _write(order: Order) -> bytes:
    part = order.part
    buffer = _Buffer()
    meshes: list[dict[str, Any]] = []
    materials: list[dict[str, Any]] = [{"name": "edges", "pbrMetallicRoughness": {"baseColorFactor": INK}}]
    for id_, name, shape in solid_bodies(order, sheets=False):
        mass = kernel.mass_of(shape)
        places, triangles = kernel.welded(shape, math.dist(mass.low, mass.high), order.options.share)
        factor = [_linear(c) for c in colour_of(part, id_)]
        rough = {"baseColorFactor": [*factor, 1.0], "metallicFactor": 0.0, "roughnessFactor": 0.8}
        materials.append({"name": name, "pbrMetallicRoughness": rough})
        solid = {
            "attributes": {"POSITION": buffer.add(places.astype("<f4"), "VEC3", FLOAT, ARRAY)},
            "indices": buffer.add(triangles.astype("<u4").reshape(-1), "SCALAR", INDEX, ELEMENTS),
            "material": len(materials) - 1,
            "mode": TRIANGLES,
        }
        pieces = [line for line in kernel.edge_lines(shape) if len(line) > 1]
        lines = [np.stack([p[:-1], p[1:]], 1).reshape(-1, 3) for p in pieces]
        edges = {
            "attributes": {"POSITION": buffer.add(np.concatenate(lines).astype("<f4"), "VEC3", FLOAT, ARRAY)},
            "material": 0,
            "mode": LINES,
        }
        meshes.append({"name": name, "primitives": [solid, edges] if lines else [solid]})
    document = {
        "asset": {"version": "2.0", "generator": "Wendal"},
        "scene": 0,
        "scenes": [{"name": part.name, "nodes": [0]}],
        "nodes": [
            {"name": part.name, "matrix": ROOT, "children": list(range(1, len(meshes) + 1))},
            *({"name": m["name"], "mesh": i} for i, m in enumerate(meshes)),
        ],
        "meshes": meshes,
        "materials": materials,
        "buffers": [{"byteLength": len(buffer.data)}],
        "bufferViews": buffer.views,
        "accessors": buffer.accessors,
    }
    text = json.dumps(document, separators=(",", ":"), ensure_ascii=False).encode()
    text += b" " * (-len(text) % 4)
    total = 12 + 8 + len(text) + 8 + len(buffer.data)
    head = struct.pack("<4sII", b"glTF", 2, total)
    return (
        head
        + struct.pack("<I4s", len(text), b"JSON")
        + text
        + struct.pack("<I4s", len(buffer.data), b"BIN\0")
        + bytes(buffer.data)
    )


def _linear(value: int) -> float:
    """Return an sRGB share as a linear one (IEC 61966-2-1)."""
    v = value / 255
    return v / 12.92 if v <= 0.04045 else float(((v + 0.055) / 1.055) ** 2.4)


register(
    Format("glb", "model/gltf-binary", "GLB, for looking at elsewhere", _write, ("part", "bodies"), Meshing)
)
