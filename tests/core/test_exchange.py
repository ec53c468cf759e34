"""Files: STEP and STL by what they hold, JSON by reading it back."""

from __future__ import annotations

import io
import json
import re
import struct
import zipfile
from collections import Counter
from dataclasses import replace
from pathlib import Path
from xml.etree import ElementTree

import numpy as np
import pytest
from OCP.BRep import BRep_Builder
from OCP.IFSelect import IFSelect_ReturnStatus
from OCP.STEPControl import STEPControl_Reader
from OCP.TopoDS import TopoDS_Shell, TopoDS_Solid
from pydantic import BaseModel

from tests.samples import demo, evaluated, plate
from wendal.core import exchange, kernel
from wendal.core.errors import CommandRefused, StepError
from wendal.core.inspect import Blobs, broken, picture, report, scene
from wendal.core.kernel.named import NamedShape
from wendal.core.reference import model
from wendal.core.route import Memory, Part, evaluate, read_part, write_part
from wendal.core.route.upgrade import VERSION
from wendal.demo import DEMO_PARTS, instrument_bracket


@pytest.mark.parametrize("units", ["mm", "in"])
def test_step_reads_back_with_name_and_volume(tmp_path, units: str) -> None:  # type: ignore[no-untyped-def]
    b = plate()
    b.do(do="set_units", units={"length": units})
    content = exchange.export(b.part, evaluated(b), "step")
    assert b"'Base'" in content
    path = tmp_path / "plate.step"
    path.write_bytes(content)
    reader = STEPControl_Reader()
    assert reader.ReadFile(str(path)) == IFSelect_ReturnStatus.IFSelect_RetDone
    reader.TransferRoots()
    assert kernel.mass_of(NamedShape.collect(reader.OneShape(), [])).volume == pytest.approx(10_000, rel=1e-9)


def test_stl_encloses_the_volume() -> None:
    part = instrument_bracket()
    evaluation = evaluated(part)
    content = exchange.export(part, evaluation, "stl")
    (count,) = struct.unpack_from("<I", content, 80)
    assert len(content) == 84 + 50 * count
    volume = 0.0
    for i in range(count):
        a, b, c = (struct.unpack_from("<3f", content, 84 + 50 * i + 12 * k) for k in (1, 2, 3))
        volume += (a[0] * (b[1] * c[2] - b[2] * c[1]) + a[1] * (b[2] * c[0] - b[0] * c[2]) + a[2] * (b[0] * c[1] - b[1] * c[0])) / 6
    (body,) = evaluation.site.bodies.values()
    assert volume == pytest.approx(kernel.mass_of(body.shape).volume, rel=2e-3)


def enclosed(places: np.ndarray, triangles: np.ndarray) -> float:
    """The volume inside closed triangles that look outward, by the divergence theorem; they are proved closed first."""
    sides = np.concatenate([triangles[:, [0, 1]], triangles[:, [1, 2]], triangles[:, [2, 0]]])
    assert Counter(map(tuple, sides.tolist())) == Counter(map(tuple, sides[:, ::-1].tolist()))
    assert max(Counter(map(tuple, sides.tolist())).values()) == 1
    a, b, c = (places[triangles[:, k]] for k in range(3))
    return float((a * np.cross(b, c)).sum() / 6)


@pytest.mark.parametrize("name", DEMO_PARTS)
def test_3mf_and_glb_are_closed_named_and_of_the_right_volume(name: str) -> None:
    part, evaluation = demo(name)
    bodies = [b for b in evaluation.site.bodies.values() if not b.sheet]
    volumes = {b.name: kernel.mass_of(b.shape).volume for b in bodies}
    content = exchange.export(part, evaluation, "3mf")
    assert content == exchange.export(part, evaluation, "3mf")
    archive = zipfile.ZipFile(io.BytesIO(content))
    assert archive.namelist() == ["[Content_Types].xml", "_rels/.rels", "3D/3dmodel.model"]
    space = {"m": "http://schemas.microsoft.com/3dmanufacturing/core/2015/02"}
    model = ElementTree.fromstring(archive.read("3D/3dmodel.model"))
    assert model.get("unit") == "millimeter"
    found = {}
    for made in model.iterfind(".//m:object", space):
        places = np.array([[float(v.get(k, "")) for k in "xyz"] for v in made.iterfind(".//m:vertex", space)])
        triangles = np.array([[int(t.get(k, "")) for k in ("v1", "v2", "v3")] for t in made.iterfind(".//m:triangle", space)])
        found[made.get("name")] = enclosed(places, triangles)
    assert found == {n: pytest.approx(v, rel=3e-3) for n, v in volumes.items()}

    content = exchange.export(part, evaluation, "glb")
    magic, version, total, length, kind = struct.unpack_from("<4sIII4s", content)
    assert (magic, version, total, kind) == (b"glTF", 2, len(content), b"JSON")
    told = json.loads(content[20 : 20 + length])
    raw = content[28 + length :]

    def array(number: int, dtype: str) -> np.ndarray:
        accessor = told["accessors"][number]
        view = told["bufferViews"][accessor["bufferView"]]
        return np.frombuffer(raw, dtype, view["byteLength"] // 4, view["byteOffset"])

    root = np.array(told["nodes"][0]["matrix"]).reshape(4, 4).T
    assert (root @ [0, 0, 1000, 1])[:3].tolist() == [0, 1, 0]  # Z up in mm is Y up in metres
    for node in told["nodes"][1:]:
        solid, edges = told["meshes"][node["mesh"]]["primitives"]
        places = array(solid["attributes"]["POSITION"], "<f4").reshape(-1, 3)
        assert told["accessors"][solid["attributes"]["POSITION"]]["min"] == pytest.approx(places.min(0).tolist())
        triangles = array(solid["indices"], "<u4").reshape(-1, 3).astype(int)
        assert enclosed(places.astype(float), triangles) == pytest.approx(volumes[node["name"]], rel=3e-3)
        assert (solid["mode"], edges["mode"]) == (4, 1)


def test_json_is_the_part() -> None:
    part = instrument_bracket()
    assert read_part(exchange.export(part, evaluated(part), "json")) == part


@pytest.mark.parametrize("ending", ["step", "stl", "3mf", "glb"])
def test_nothing_to_write_is_told(ending: str) -> None:
    part = Part(name="Empty")
    with pytest.raises(CommandRefused, match="no body to write"):
        exchange.export(part, evaluated(part), ending)


def test_an_unknown_format_is_told_with_those_there_are() -> None:
    with pytest.raises(CommandRefused, match=r"There are: .*json"):
        exchange.export(Part(name="Empty"), evaluated(Part(name="Empty")), "doc")


def test_the_report_has_all_figures() -> None:
    b = plate()
    found = report(b.part, evaluated(b))
    assert [s["number"] for s in found["steps"]] == [10, 20]
    assert found["steps"][1]["references"][0]["state"] == "sound"
    assert {k: found["bodies"][0][k] for k in ("faces", "edges", "vertices", "valid")} == {
        "faces": 6, "edges": 12, "vertices": 8, "valid": True}
    assert [(r["tag"], r["shown"], r["used_by"]) for r in found["ledger"]] == [
        ("outline_width", "40 mm", []), ("outline_height", "25 mm", []), ("base_depth", "10 mm", [])]


def test_the_picture_is_an_ink_drawing_or_says_that_there_is_no_body() -> None:
    assert picture(evaluated(plate())).count("M") >= 9
    assert "no body yet" in picture(evaluated(Part(name="Empty")))


def test_a_solid_survives_its_binary_form() -> None:
    (body,) = evaluated(plate()).site.bodies.values()
    content = kernel.to_bytes(body.shape.shape)
    assert kernel.to_bytes(kernel.from_bytes(content)) == content


def test_a_body_that_is_broken_as_a_whole_is_told_and_not_written() -> None:
    """No step leaves a body with a face missing; here one is taken away by hand."""
    b = plate()
    evaluation = evaluate(b.part, Memory())  # its own, since it is spoilt
    (body,) = evaluation.site.bodies.values()
    assert kernel.check_whole(body.shape)
    assert broken(evaluation) == []
    made, shell = BRep_Builder(), TopoDS_Shell()
    made.MakeShell(shell)
    for face, _ in body.shape.pairs()[1:]:
        made.Add(shell, face)
    shell.Closed(True)
    solid = TopoDS_Solid()
    made.MakeSolid(solid)
    made.Add(solid, shell)
    evaluation.site.bodies[body.id] = replace(body, shape=NamedShape.collect(solid, body.shape.pairs()))
    assert broken(evaluation) == [body.name]
    with pytest.raises(CommandRefused, match=f"{body.name} is broken"):
        exchange.export(b.part, evaluation, "step")
    with pytest.raises(StepError, match="broken solid"):
        kernel.check_solid(evaluation.site.bodies[body.id].shape)


def test_triangles_close_though_faces_were_meshed_at_different_times() -> None:
    """A plate on the stage, then a hole in it and the plate made five times as long: what is written has every side of a triangle twice."""
    b = plate()
    memory = Memory()
    for change in ({"do": "set_formula", "tag": "base_depth", "formula": "12 mm"}, None, {"do": "set_formula", "tag": "outline_width", "formula": "200 mm"}):
        if change:
            b.do(**change)
        else:
            b.step("hole", "Bore", where="coordinates", x={"formula": "9 mm"}, y={"formula": "9 mm"}, side="back", diameter={"formula": "7 mm"})
        evaluation = evaluate(b.part, memory)
        scene(b.part, evaluation, Blobs(set(), {}))
    content = exchange.export(b.part, evaluation, "stl")
    (count,) = struct.unpack_from("<I", content, 80)
    sides: Counter[tuple[object, object]] = Counter()
    for i in range(count):
        corners = [tuple(round(v, 4) for v in struct.unpack_from("<3f", content, 84 + 50 * i + 12 * k)) for k in (1, 2, 3)]
        sides.update((corners[k - 1], corners[k]) for k in range(3))
    assert count > 40
    assert all(sides[b_, a] == n for (a, b_), n in sides.items())


def test_meshes_are_the_same_each_time_and_their_digests_differ_by_content() -> None:
    first, second = (kernel.face_meshes(b.shape, 50.0) for _ in "ab" for b in evaluate(plate().part, Memory()).site.bodies.values())
    assert [m.digest for m in first] == [m.digest for m in second]
    assert len({m.digest for m in first}) == 6


def test_parts_are_read_by_the_same_registry() -> None:
    part = plate().part
    assert exchange.read(write_part(part).encode(), "json") == part
    with pytest.raises(CommandRefused, match="read from: json"):
        exchange.read(b"solid", "stl")


def test_the_page_on_wendals_own_file_names_every_field_and_reference() -> None:
    page = (Path(__file__).parents[2] / "docs" / "handbook" / "13c-own-file.md").read_text()
    named = set(re.findall(r"`([a-z_]+)`", page))
    assert set(Part.model_fields) <= named, set(Part.model_fields) - named
    kinds = {m.model_fields["of"].default for m in vars(model).values() if isinstance(m, type) and issubclass(m, BaseModel) and "of" in m.model_fields}
    assert kinds <= named, kinds - named
    assert f"version of the form, {VERSION} today" in page
