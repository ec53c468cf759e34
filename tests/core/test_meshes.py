"""STL in: what was written comes back with the mesh's own volume, flat faces stay whole, damaged meshes are told. Sheets and loose faces of STEP files."""

from __future__ import annotations

import math
import random
import re
import struct
from typing import Any

import numpy as np
import pytest

from tests.building import axis, drawn_on, f
from tests.core.test_receiving import bored, received, step_of
from tests.samples import evaluated, plate
from wendal.core import exchange, kernel
from wendal.core.errors import DocumentError
from wendal.core.inspect import Measure, ask
from wendal.core.meshes import flat_faces, lumps, read_stl
from wendal.core.receiving import is_stl
from wendal.core.reference import face_ref
from wendal.core.route import Memory, evaluate
from wendal.demo import DEMO_PARTS
from wendal.workers import receiving


def stl_of(part: Any) -> bytes:
    part = getattr(part, "part", part)
    return exchange.export(part, evaluate(part, Memory()), "stl")


def read(content: bytes, unit: str = "mm", before: bytes = b"") -> tuple[dict[str, Any], bytes]:
    return receiving._read(content, "sent.stl", unit, before)


def in_words(content: bytes) -> bytes:
    mesh = read_stl(content, "mm")
    lines = ["solid thing"]
    for t in mesh.corners:
        lines += ["facet normal 0 0 0", "outer loop", *(f"vertex {x} {y} {z}" for x, y, z in mesh.places[t].tolist()), "endloop", "endfacet"]
    return "\n".join([*lines, "endsolid thing"]).encode()


def enclosed(content: bytes) -> float:
    """What the triangles enclose, by their own sum."""
    mesh = read_stl(content, "mm")
    a, b, c = (mesh.places[mesh.corners[:, k]] for k in range(3))
    return float(np.einsum("ij,ij->i", a, np.cross(b, c)).sum() / 6)


@pytest.mark.parametrize("name", ["instrument_bracket", "well_head_flange", "mast_clamp"])
def test_a_part_comes_back_as_what_its_triangles_enclose(name: str) -> None:
    content = stl_of(DEMO_PARTS[name]())
    told, kept = read(content)
    assert told["sheets"] == 0
    assert told["volume"] == pytest.approx(enclosed(content), rel=1e-7)
    built = evaluated(received(kept)).site.bodies.values()
    assert sum(kernel.volume_of(b.shape) for b in built) == pytest.approx(enclosed(content), rel=1e-7)


@pytest.mark.parametrize("write", [bytes, in_words])
def test_flat_faces_stay_whole_and_can_be_built_on_and_measured(write: Any) -> None:
    told, kept = read(write(stl_of(plate())))
    assert (told["faces"], told["names"], told["volume"]) == (6, ["sent"], pytest.approx(10_000, rel=1e-9))
    b = received(kept)
    evaluation = evaluated(b)
    (body,) = evaluation.site.bodies.values()
    assert sorted(round(face.area) for face in body.topology.faces) == [250, 250, 400, 400, 1000, 1000]
    top = next(i for i, face in enumerate(body.topology.faces) if face.centre[2] == pytest.approx(10))
    ring = drawn_on(b, face_ref(body.id, body.topology, top).model_dump(mode="json"), "circle", (20, 12), (25, 12))
    b.step("extrude", "Bore", profile=b.profile(ring, 0), extent="through_into", result="cut", bodies=[{"of": "body", "body": body.id}])
    after = evaluated(b)
    assert [r.message for r in after.reports if r.state != "built"] == []
    assert sum(kernel.volume_of(x.shape) for x in after.site.bodies.values()) == pytest.approx(10_000 - 250 * math.pi, rel=1e-9)


def test_the_unit_is_asked_for_and_a_newer_mesh_keeps_it_and_its_faces() -> None:
    told, kept = read(stl_of(plate()), unit="")
    assert told["asks_unit"]
    assert kept == b""
    assert (told["low"], told["high"]) == ([0, 0, 0], [40, 25, 10])
    told, kept = read(stl_of(plate()), unit="in")
    assert told["volume"] == pytest.approx(10_000 * 25.4**3)
    newer, _ = read(stl_of(plate()), unit="", before=kept)
    assert newer["volume"] == pytest.approx(10_000 * 25.4**3)
    assert (newer["same"], newer["new"], newer["gone"]) == (6, 0, 0)


def test_an_open_mesh_is_a_sheet_that_is_measured_and_several_lumps_are_several_bodies() -> None:
    mesh = read_stl(stl_of(bored()), "mm")
    facets = flat_faces(mesh)
    assert len(lumps(mesh)) == 1
    top = [i for i, face in enumerate(facets) if face.normal[2] > 0.99]
    assert len(facets[top[0]].loops) == 2  # the rim and the bore's
    content = stl_of(plate())
    triangles = np.frombuffer(content[84:], np.uint8).reshape(-1, 50)
    low = struct.pack("<I", len(triangles) - 1)
    told, kept = read(content[:80] + low + triangles[1:].tobytes())
    assert told["sheets"] == 1
    assert "3 edges are open" in " ".join(told["told"])
    b = received(kept)
    (body,) = evaluated(b).site.bodies.values()
    assert body.sheet
    faces = [face for face in body.topology.faces if face.form == "flat"]
    assert len(faces) == 6  # one of them half
    things = [{"of": "body", "body": body.id}, axis("origin")]
    assert ask(b.part, evaluated(b), Measure.model_validate({"things": things}))
    moved = plate()
    ring = drawn_on(moved, axis("XY"), "rectangle", (60, 0), (70, 10))
    moved.step("extrude", "Other", profile=moved.profile(ring, 0), depth=f("5 mm"))
    told, kept = read(stl_of(moved))
    assert len(evaluated(received(kept)).site.bodies) == len(told["names"]) == 2


def test_hostile_meshes_are_told() -> None:
    whole = stl_of(bored())
    rng = random.Random(3)
    bad = {
        "no triangle": whole[:80] + struct.pack("<I", 0),
        "none (NaN)": whole[:84] + whole[84:100] + struct.pack("<f", math.nan) + whole[104:],
        "cut off": b"\n".join(in_words(whole).split(b"\n")[:60]),
        "no corner": in_words(whole).replace(b"vertex 0.0", b"vertex zero", 1),
        "more than two triangles": whole[:80] + struct.pack("<I", (len(whole) - 84) // 50 + 1) + whole[84:134] + whole[84:],
        "both ways": whole[:84] + whole[84:96] + whole[108:120] + whole[96:108] + whole[120:],
    }
    for words, content in bad.items():
        with pytest.raises(DocumentError, match=re.escape(words)):
            read(content)
    told = 0
    for _ in range(60):
        content = bytearray(whole)
        for _ in range(rng.choice([1, 3, 40])):
            content[rng.randrange(84, len(content))] = rng.randrange(256)
        try:
            read(bytes(content))
        except DocumentError:
            told += 1
    assert told > 10
    assert not is_stl(whole[:-20])


def loosened(content: bytes, without: int) -> bytes:
    """A STEP file's solid as loose faces in an open shell, some of them left out."""
    text = content.decode()
    text = re.sub(r"MANIFOLD_SOLID_BREP\('([^']*)',(#\d+)\)", r"SHELL_BASED_SURFACE_MODEL('\1',(\2))", text)
    text = text.replace("ADVANCED_BREP_SHAPE_REPRESENTATION", "MANIFOLD_SURFACE_SHAPE_REPRESENTATION")
    shell = re.search(r"CLOSED_SHELL\('',\(([^)]*)\)\)", text)
    assert shell
    faces = [x.strip() for x in shell[1].replace("\n", "").split(",")]
    for gone in faces[:without]:
        text = re.sub(rf"{gone}\s*=\s*ADVANCED_FACE", f"{gone} = FACE_SURFACE", text)
    shell = re.search(r"CLOSED_SHELL\('',\(([^)]*)\)\)", text)
    assert shell
    return text.replace(shell[0], f"OPEN_SHELL('',({','.join(faces[without:])}))").encode()


def test_sheets_of_step_files_are_taken_and_what_closes_is_sewn() -> None:
    told, kept = receiving._read(loosened(step_of(plate()), 0), "sent.step", "", b"")
    assert told["sheets"] == 0
    assert told["volume"] == pytest.approx(10_000)
    assert "6 loose faces were sewn to a solid" in " ".join(told["told"])
    told, kept = receiving._read(loosened(step_of(bored()), 1), "sent.step", "", b"")
    assert told["sheets"] == 1
    (body,) = evaluated(received(kept)).site.bodies.values()
    assert body.sheet
