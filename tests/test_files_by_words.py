"""Files out and in from the command line and from Python: what is meant is said in words."""

from __future__ import annotations

import io
import json
import math
from pathlib import Path

import ezdxf
import pytest

import wendal
from tests.building import TOP, axis, drawn_on, f
from tests.samples import evaluated, plate
from wendal.cli import main
from wendal.core import exchange
from wendal.core.errors import WendalError
from wendal.core.exchange.worded import in_words
from wendal.core.route import write_part
from wendal.demo.builder import Builder


def stepped() -> Builder:
    """A plate of 40 by 25 by 10 with a block of 10 by 10 by 5 on it, and a plane above it."""
    b = plate()
    ring = drawn_on(b, TOP, "rectangle", (0, 0), (10, 10))
    b.step("extrude", "Block", profile=b.profile(ring, 0), depth=f("5 mm"), result="add", bodies=[{"of": "body", "body": "s2"}])
    b.step("plane", "Half way", how="offset", first=axis("XY"), distance=f("12 mm"))
    return b


@pytest.fixture
def file(tmp_path: Path) -> Path:
    path = tmp_path / "stepped.json"
    path.write_text(write_part(stepped().part))
    return path


def lengths(path: Path) -> float:
    return sum((e.dxf.end - e.dxf.start).magnitude for e in ezdxf.readfile(path).modelspace() if e.dxftype() == "LINE")


@pytest.mark.parametrize(("words", "length"), [
    ("top of Base", 40), ("bottom of Base", 130), ("front of Base", 110), ("right of Base", 70), ("Outline", 130),
    ("section at XY + 5", 130), ("section at Half way", 40), ("section at XY + 14.5", 40),
    # Of views, the outline and the inner edges that are seen: the block's two from above, the plate's rim under it from the back.
    ("view from above", 130 + 20), ("view from the  front", 110), ("view at ZX", 110), ("view from the back", 110 + 10), ("view at XY", 130 + 20),
])
def test_what_is_written_is_said_in_words(file: Path, words: str, length: float) -> None:
    out = file.with_suffix(".dxf")
    assert main(["export", str(file), "--as", "dxf", "--of", words]) == 0
    assert lengths(out) == pytest.approx(length, abs=1e-9)


@pytest.mark.parametrize(("words", "says"), [
    ("top of Nothing", "There is no body “Nothing”; there are: Base."), ("lid", "Nothing here is called “lid”"), ("section at Nowhere", "There is no plane"),
    ("section at XY + 1.2.3", "There is no plane"), ("view from inside", "Nothing here is called"),
])
def test_words_that_mean_nothing_are_told_and_nothing_is_written(file: Path, capsys: pytest.CaptureFixture[str], words: str, says: str) -> None:
    assert main(["export", str(file), "--as", "dxf", "--of", words]) == 2
    assert says in json.loads(capsys.readouterr().err)["error"]
    assert not file.with_suffix(".dxf").exists()


def test_two_faces_as_far_out_and_a_name_of_two_things_are_asked_about() -> None:
    b = plate()
    ring = drawn_on(b, TOP, "rectangle", (10, -5), (30, 30))
    b.step("extrude", "Slot", profile=b.profile(ring, 0), extent="into", depth=f("4 mm"), result="cut")
    with pytest.raises(WendalError, match="Base has 2 faces at its top that are as far out"):
        in_words(b.part, evaluated(b), "top of Base")
    b.do(do="edit_step", step="s1", fields={"name": "Both"})
    b.do(do="set_body_look", body="s2", look={"name": "Both"})
    with pytest.raises(WendalError, match="a sketch and of a body"):
        in_words(b.part, evaluated(b), "Both")


def test_a_file_becomes_a_part_and_what_is_told_goes_to_stderr(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    b = stepped()
    for ending in ("step", "stl"):
        (tmp_path / f"sent.{ending}").write_bytes(exchange.export(b.part, evaluated(b), ending))
        out = tmp_path / f"from_{ending}.json"
        assert main(["import", str(tmp_path / f"sent.{ending}"), str(out), "--unit", "mm"]) == 0
        built = wendal.open(out).build()
        assert sum(x.volume for x in built.bodies.values()) == pytest.approx(10_500)
    assert "triangles became" in capsys.readouterr().err
    assert main(["import", str(tmp_path / "sent.stl")]) == 2
    told = json.loads(capsys.readouterr().err)
    assert (told["field"], "40 × 25 × 15" in told["error"]) == ("unit", True)
    assert not (tmp_path / "sent.json").exists()


def test_curves_become_a_sketch_that_is_built_on_from_python(tmp_path: Path) -> None:
    document = ezdxf.new("R2010", units=4)
    document.modelspace().add_circle((10, 5), 4)
    text = io.StringIO()
    document.write(text)
    (tmp_path / "ring.dxf").write_text(text.getvalue())
    part, told = wendal.receive(tmp_path / "ring.dxf")
    assert told == []
    (sketch,) = part.steps
    part.add("extrude", "Pin", profile=part.regions(sketch), depth="3 mm")
    built = part.build()
    assert built.bodies["Pin"].volume == pytest.approx(math.pi * 16 * 3, rel=1e-9)
    built.export(tmp_path / "top.dxf", "top of Pin")
    (ring,) = ezdxf.readfile(tmp_path / "top.dxf").modelspace()
    assert (ring.dxftype(), ring.dxf.radius) == ("CIRCLE", pytest.approx(4))
    for name, says in (("none.step", "is not read"), ("ring.txt", "is none of")):
        with pytest.raises(WendalError, match=says):
            wendal.receive(tmp_path / name)


def test_an_import_writes_over_nothing(file: Path) -> None:
    (file.parent / "stepped.step").write_bytes(exchange.export(stepped().part, evaluated(stepped()), "step"))
    before = file.read_text()
    assert main(["import", str(file.parent / "stepped.step")]) == 2
    assert file.read_text() == before
