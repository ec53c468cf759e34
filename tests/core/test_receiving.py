"""STEP in: what was written comes back, damaged files are told, a newer file keeps the faces that stay."""

from __future__ import annotations

import asyncio
import json
import math
import os
import random
import re
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from typing import Any

import pytest

from tests.building import axis, drawn_on, f
from tests.samples import demo, evaluated, plate
from wendal.cli import main
from wendal.core import exchange, files, kernel
from wendal.core.errors import CommandRefused, DocumentError
from wendal.core.exchange.colours import rgb
from wendal.core.inspect.painted import painted
from wendal.core.kernel.types import Placement
from wendal.core.receiving import look_at_text, matched, opened
from wendal.core.reference import face_ref
from wendal.core.route import Memory, evaluate
from wendal.core.route.commands import AddStep, apply
from wendal.core.route.document import BodyLook, FaceLook
from wendal.demo import DEMO_PARTS
from wendal.demo.builder import Builder
from wendal.part import open_part
from wendal.workers import receiving


def step_of(part: Any) -> bytes:
    part = part.part if isinstance(part, Builder) else part
    return exchange.export(part, evaluate(part, Memory()), "step")


def read(content: bytes, before: bytes = b"") -> tuple[dict[str, Any], bytes]:
    """Read a sound file as the child does, without its three seconds of beginning."""
    return receiving._read(content, "sent.step", "", before)


def read_in_a_child(content: bytes, forked: bool = True) -> tuple[dict[str, Any], bytes]:
    with ThreadPoolExecutor(1) as apart:  # journeys in the same process have a loop of their own
        return apart.submit(asyncio.run, receiving.receive(content, "sent.step", forked=forked)).result()


def received(kept: bytes) -> Builder:
    b = Builder("Received")
    b.step("from_file", "Sent", file=files.put(kept), source="sent.step")
    return b


def bored(x: float = 12.0, more: bool = False) -> Builder:
    b = plate("40 mm", "25 mm", "10 mm")
    for n, at in enumerate([x, *([30.0] if more else [])]):
        ring = drawn_on(b, axis("XY"), "circle", (at, 12), (at + 3, 12))
        b.step("extrude", f"Bore {n}", profile=b.profile(ring, 0), extent="through", result="cut")
    return b


@pytest.mark.parametrize("name", DEMO_PARTS)
def test_a_part_comes_back_with_its_volume_names_and_faces(name: str) -> None:
    part, evaluation = demo(name)
    bodies = evaluation.site.bodies
    told, kept = read(step_of(part))
    assert told["names"] == [b.name for b in bodies.values()]
    assert told["volume"] == pytest.approx(sum(kernel.volume_of(b.shape) for b in bodies.values()), rel=1e-9)
    assert told["faces"] == sum(len(b.shape.names) for b in bodies.values())
    again = evaluated(received(kept)).site.bodies
    assert [kernel.volume_of(b.shape) for b in again.values()] == pytest.approx([kernel.volume_of(b.shape) for b in bodies.values()], rel=1e-9)


def two_looks() -> Builder:
    b = plate("40 mm", "25 mm", "10 mm")
    ring = drawn_on(b, axis("XY"), "rectangle", (60, 0), (80, 25))
    b.step("extrude", "Lid", profile=b.profile(ring, 0), depth=f("6 mm"), result="new")
    plain, lid = evaluated(b).site.bodies
    b.part = b.part.model_copy(update={"looks": {plain: BodyLook(name="Base", colour="moss"), lid: BodyLook(colour="clay", through=True)}})
    return b


def test_names_and_colours_come_along_in_the_one_edit_that_takes_a_file_in() -> None:
    told, kept = read(step_of(two_looks()))
    assert told["looks"] == [{"name": "Base", "colour": "moss", "through": False}, {"name": "Lid", "colour": "clay", "through": True}]
    b = Builder("Received")
    b.part = apply(b.part, AddStep(step={"kind": "sketch", "name": "Lid", "on": axis("XY")}))
    step = {"kind": "from_file", "name": "Sent", "file": files.put(kept), "source": "sent.step"}
    made = apply(b.part, AddStep(step=step, looks=[BodyLook(**look) for look in told["looks"]]))
    assert [(v.name, v.colour, v.through) for v in made.looks.values()] == [("Base", "moss", False), ("Lid 2", "clay", True)]  # that name is taken
    assert [x.name for x in evaluated(made).site.bodies.values()] == ["Base", "Lid 2"]


def test_colours_of_single_faces_come_back_on_the_same_faces() -> None:
    b = two_looks()
    plain, lid = evaluated(b).site.bodies.values()
    faces = [(plain, 0, "clay"), (plain, 3, "sand"), (lid, 2, "slate"), (lid, 4, "clay")]  # clay is the lid's own
    b.part = b.part.model_copy(update={"faces": [FaceLook(face=face_ref(body.id, body.topology, n), colour=c) for body, n, c in faces]})
    told, kept = read(step_of(b))
    assert len(told["painted"]) == 3
    assert [look["colour"] for look in told["looks"]] == ["moss", "clay"]
    taken = Builder("Received")
    step = {"kind": "from_file", "name": "Sent", "file": files.put(kept), "source": "sent.step"}
    taken.part = apply(taken.part, AddStep.model_validate({"step": step, "looks": told["looks"], "painted": told["painted"]}))

    def places(built: Builder) -> set[tuple[Any, ...]]:
        bodies = evaluated(built).site.bodies
        looks = painted(built.part, bodies)
        return {(*(round(c, 6) for c in bodies[b].topology.faces[i].centre), x.colour) for b, held in looks.items() for i, x in held.items()}

    assert places(taken) == {p for p in places(b) if p[:3] != tuple(round(c, 6) for c in lid.topology.faces[4].centre)}


def test_a_stone_face_of_a_coloured_body_is_told_and_what_can_not_be_painted_refused() -> None:
    b = two_looks()
    plain = next(iter(evaluated(b).site.bodies.values()))
    b.part = b.part.model_copy(update={"faces": [FaceLook(face=face_ref(plain.id, plain.topology, 0), colour="sand")]})
    content = step_of(b).decode()
    assert [p["colour"] for p in read(content.encode())[0]["painted"]] == ["sand"]
    (line,) = re.findall(rf"COLOUR_RGB\('',{str(rgb('sand')[0] / 255)[:6]}.*", content)
    stone = ",".join(f"{c / 255:.6f}" for c in rgb(""))
    told, kept = read(content.replace(line, f"COLOUR_RGB('',{stone});").encode())
    assert told["painted"] == []
    assert any("stone in the file" in words for words in told["told"])
    paint = [{"body": 0, "face": 1, "colour": "clay"}]
    with pytest.raises(CommandRefused, match="came with a file"):
        apply(b.part, AddStep.model_validate({"step": {"kind": "sketch", "name": "S", "on": axis("XY")}, "painted": paint}))
    full = b.part.model_copy(update={"faces": b.part.faces * 500})
    with pytest.raises(CommandRefused, match="At most 500") as refused:
        apply(full, AddStep.model_validate({"step": {"kind": "from_file", "name": "F", "file": files.put(kept), "source": "x"}, "painted": paint}))
    assert refused.value.field == "painted"




def test_layers_are_told_and_name_what_has_no_name_of_its_own() -> None:
    """Written into the file by hand, as the standard has them (ISO 10303-46, presentation layers)."""
    text = step_of(bored()).decode()
    solid = re.search(r"#(\d+) = MANIFOLD_SOLID_BREP", text)
    assert solid
    layered = text.replace("DATA;", f"DATA;\n#99901 = PRESENTATION_LAYER_ASSIGNMENT('CASTING','',(#{solid[1]}));", 1)
    told, _ = read(layered.encode())
    assert "On layers: CASTING." in told["told"]
    assert not any("layers" in word for word in read(text.encode())[0]["told"])


def test_what_is_built_on_a_received_body_stays_on_its_faces_when_a_newer_file_comes() -> None:
    _, kept = read(step_of(bored()))
    b = received(kept)
    (body,) = evaluated(b).site.bodies.values()
    top = next(i for i, face in enumerate(body.topology.faces) if face.form == "flat" and face.frame.normal[2] > 0.9)
    name = sorted(body.topology.faces[top].names)
    sketch = b.step("sketch", "Pad outline", on={"of": "face", "body": "s1", "names": name})
    b.draw(sketch, "circle", (20, 18), (22, 18))
    b.step("extrude", "Pad", profile=b.profile(sketch, 0), depth=f("5 mm"), result="add", bodies=[{"of": "body", "body": "s1"}])
    volume = kernel.volume_of(evaluated(b).site.bodies["s1"].shape)
    assert volume == pytest.approx(10_000 - 90 * math.pi + 20 * math.pi, rel=1e-9)
    told, newer = read(step_of(bored(more=True)), kept)
    assert (told["same"], told["new"], told["gone"]) == (7, 1, 0)
    b.do(do="edit_step", step="s1", fields={"file": files.put(newer)})
    found = evaluated(b)
    assert [r.state for r in found.reports] == ["built"] * 3
    assert kernel.volume_of(found.site.bodies["s1"].shape) == pytest.approx(10_000 - 180 * math.pi + 20 * math.pi, rel=1e-9)


def test_faces_keep_their_numbers_over_changes_of_a_dimension() -> None:
    right = wrong = missed = 0
    for name in ("instrument_bracket", "well_head_flange", "float_wheel"):
        part = DEMO_PARTS[name]()
        rng = random.Random(name)
        tags = [r.tag for r in part.rows() if r.formula[:1].isdigit() and r.formula.endswith("mm")]
        before = evaluate(part, Memory())
        if any(r.state != "built" for r in before.reports):
            continue
        from wendal.core.route.commands import SetFormula, apply

        tag = rng.choice(tags)
        row = next(r for r in part.rows() if r.tag == tag)
        after = apply(part, SetFormula(tag=tag, formula=f"{float(row.formula.split()[0]) * 1.04:.6g} mm"))
        later = evaluate(after, Memory())
        _, kept = read(step_of(part))
        _, newer = read(step_of(after), kept)
        old, new = opened(kept), opened(newer)
        truth_old = [min(n, key=len) for b in before.site.bodies.values() for n in b.shape.names]
        truth_new = [min(n, key=len) for b in later.site.bodies.values() for n in b.shape.names]
        if len(truth_old) != len(old.numbers) or len(truth_new) != len(new.numbers):
            continue
        by_number = dict(zip(old.numbers, truth_old, strict=True))
        for number, truth in zip(new.numbers, truth_new, strict=True):
            if number in by_number:
                right, wrong = right + (by_number[number] == truth), wrong + (by_number[number] != truth)
            else:
                missed += truth in truth_old
    assert wrong == 0
    assert right > 3 * missed


def test_a_part_that_was_turned_gives_no_face_another_one_s_number() -> None:
    part = DEMO_PARTS[next(iter(DEMO_PARTS))]()
    body = next(iter(evaluate(part, Memory()).site.bodies.values())).shape
    rows = kernel.faces_of_received(kernel.to_bytes(body.shape))
    for angle in (90, 180, 40):
        turned = kernel.placed(body, Placement.turned((0, 0, 0), (0.0, 0.0, 1.0), math.radians(angle)))
        found = matched(rows, kernel.faces_of_received(kernel.to_bytes(turned.shape)))
        there = kernel.faces_of_received(kernel.to_bytes(turned.shape))
        # Where another one stands exactly where it stood, it is the same for all that a file can tell.
        assert all(i == j or math.dist(rows[i].middle, there[j].middle) < 1e-3 for j, i in found.items())


def test_a_part_that_was_shifted_keeps_all_its_faces() -> None:
    body = next(iter(evaluate(DEMO_PARTS[next(iter(DEMO_PARTS))](), Memory()).site.bodies.values())).shape
    rows = kernel.faces_of_received(kernel.to_bytes(body.shape))
    shifted = kernel.placed(body, Placement.shifted((900.0, -70.0, 3.0)))
    found = matched(rows, kernel.faces_of_received(kernel.to_bytes(shifted.shape)))
    assert len(found) == len(rows)
    assert all(i == j for j, i in found.items())


def damaged(content: bytes, how: str) -> bytes:
    text = content.decode()
    lines = text.split("\n")
    if how == "cut":
        return content[: len(content) // 2]
    if how == "no reference":
        at = next(i for i, line in enumerate(lines) if "ADVANCED_FACE" in line)
        return "\n".join([*lines[:at], *lines[at + 1 :]]).encode()
    if how == "twice":
        at = next(i for i, line in enumerate(lines) if line.startswith("#20"))
        return "\n".join([*lines[: at + 1], lines[at], *lines[at + 1 :]]).encode()
    if how == "nan":
        return text.replace("CARTESIAN_POINT('',(0.,0.,0.))", "CARTESIAN_POINT('',(nan,0.,0.))").encode()
    if how == "unit":
        return text.replace("LENGTH_UNIT", "LONGTH_UNIT").encode()
    if how == "deep":
        return text.replace("DATA;", "DATA;\n#9999999=X" + "(" * 5000 + ")" * 5000 + ";").encode()
    if how == "wrong kind":
        import re

        return re.sub(r"(ADVANCED_FACE\('[^']*',\()#\d+", r"\1#10", text).encode()
    return {"empty": b"", "text": b"hello", "picture": b"\x89PNG\r\n" * 99, "entity bomb": b"ISO-10303-21;\n" + b"#1=X();" * 9 + b"END-ISO-10303-21;"}[how]


@pytest.mark.parametrize("how", ["cut", "no reference", "twice", "nan", "unit", "deep", "wrong kind", "empty", "text", "picture", "entity bomb"])
def test_damaged_files_are_told_in_words_and_end_nothing(how: str) -> None:
    content = damaged(step_of(bored()), how)
    with pytest.raises(DocumentError) as told:  # only what passes the look at its text can end a process
        (read_in_a_child if how in ("wrong kind", "entity bomb") else read)(content)
    assert len(told.value.message) > 20


def test_a_child_tells_the_same_of_a_sound_file() -> None:
    content = step_of(bored())
    own, same = read(content)
    for forked in (True, False):
        assert read_in_a_child(content, forked) == (json.loads(json.dumps(own)), same)


def test_the_text_of_a_sound_file_is_looked_at_without_a_word() -> None:
    assert look_at_text(step_of(bored())) == 7


def test_a_part_with_a_file_is_whole_in_its_own_json(tmp_path: Path) -> None:
    _, kept = read(step_of(bored()))
    b = received(kept)
    content = exchange.export(b.part, evaluated(b), "json")
    (tmp_path / "part.json").write_bytes(content)
    files.use_folder(tmp_path / "elsewhere")  # as on another machine
    try:
        part = open_part(tmp_path / "part.json")
        volume = part.build().bodies["Sent"].volume
        part.save(tmp_path / "again.json")
        assert main(["build", str(tmp_path / "again.json"), "--out", str(tmp_path / "out.step")]) == 0
    finally:
        del os.environ["WENDAL_FILES"]
    assert volume == pytest.approx(10_000 - 90 * math.pi, rel=1e-9)
    assert kernel.step_volume((tmp_path / "out.step").read_bytes()) == pytest.approx(volume, rel=1e-9)


def test_a_file_that_is_not_here_stops_its_step_and_nothing_else() -> None:
    b = Builder("Received")
    b.step("from_file", "Sent", file="0" * 64, source="lost.step")
    b.step("plane", "Aside", how="offset", first=axis("XY"), distance=f("5 mm"))
    reports = evaluated(b).reports
    assert [r.state for r in reports] == ["stopped", "built"]
    assert "Read it again" in reports[0].message
