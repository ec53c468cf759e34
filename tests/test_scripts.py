"""Wendal from Python and from the command line: what the handbook shows, run."""

from __future__ import annotations

import json
import math
from pathlib import Path

import ezdxf
import pytest

import wendal
from wendal.cli import main

BRACKET = Path(__file__).parents[1] / "examples" / "instrument_bracket.json"
OUTLINE = {"of": "sketch", "step": "s1"}


def test_a_part_is_opened_changed_built_measured_and_written(tmp_path: Path) -> None:
    part = wendal.open(BRACKET)
    before = part.build().bodies["Base"].volume
    part["base_depth"] = "20 mm"
    built = part.build()
    base = built.bodies["Base"]
    assert base.volume > before
    assert set(built.states.values()) == {"built"}
    assert float(part["base_depth"]) == 20
    assert (part["seat_tilt"].shown, "seat_tilt" in part, "nothing" in part) == ("22°", True, False)
    assert float(part["seat_tilt"]) == pytest.approx(math.radians(22))
    assert built.measure({"of": "face", "body": "s2", "names": ["s2/end/r1"]})
    assert built.ask("mass").bodies[0].volume == pytest.approx(base.volume)
    built.export(tmp_path / "bracket.step")
    built.export(tmp_path / "foot.dxf", of=OUTLINE)
    built.export(tmp_path / "bracket.stl", fineness="coarse")
    assert (tmp_path / "bracket.step").read_text().startswith("ISO-10303-21;")
    assert len(list(ezdxf.readfile(tmp_path / "foot.dxf").modelspace())) >= 4
    part.save(tmp_path / "again.json")
    assert wendal.open(tmp_path / "again.json").build().bodies["Base"].volume == pytest.approx(base.volume)
    assert "<svg" in part._repr_html_()


def test_a_part_is_made_from_nothing() -> None:
    part = wendal.new("Foot")
    part.add_tag("wall", "4 mm")
    sketch = part.add("sketch", "Outline", on={"of": "base", "name": "XY"})
    part.draw(sketch, "rectangle", (0, 0), (40, 25), width="40 mm", height="25 mm")
    part.add("extrude", "Base", profile=part.regions("Outline")[:1], depth="3 * wall")
    assert part.build().bodies["Base"].volume == pytest.approx(40 * 25 * 12)
    part["wall"] = 5
    assert part.build().bodies["Base"].volume == pytest.approx(40 * 25 * 15)
    assert part.steps == ["Outline", "Base"]
    assert "profile" in wendal.Part.kinds()["extrude"]


def test_what_is_refused_changes_nothing_and_says_where() -> None:
    part = wendal.open(BRACKET)
    for tag, formula, told in (("base_depth", "20 furlongs", "furlongs"), ("base_depth", "base_depth", "base_depth")):
        with pytest.raises(wendal.WendalError, match=told):
            part[tag] = formula
    assert float(part["base_depth"]) == 12
    with pytest.raises(wendal.WendalError, match="no tag"):
        part["nothing"]
    with pytest.raises(wendal.WendalError, match="no tag"):
        part["seat_tlit"] = "30 deg"  # misspelt: nothing is added in silence
    with pytest.raises(wendal.WendalError, match="no step kind"):
        part.add("nothing")
    with pytest.raises(wendal.WendalError, match="not read"):
        wendal.open("/nowhere/part.json")
    with pytest.raises(wendal.WendalError, match="no format"):
        part.build().export("part.doc")


def test_files_are_written_from_the_command_line(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    out = tmp_path / "foot.dxf"
    assert main(["export", str(BRACKET), str(out), "--of", json.dumps(OUTLINE)]) == 0
    assert len(list(ezdxf.readfile(out).modelspace())) >= 4
    assert main(["export", str(BRACKET), str(tmp_path / "b.stl"), "--option", "fineness=coarse", "--set", "base_depth=20 mm"]) == 0
    assert main(["export", str(BRACKET), str(out)]) == 2  # a sketch has to be chosen
    assert "Choose a sketch" in capsys.readouterr().err
    assert main(["export", str(BRACKET), str(out), "--of", json.dumps(OUTLINE), "--set", "base_detph=20 mm"]) == 2
    assert "no tag" in capsys.readouterr().err
    assert main(["export", "--list"]) == 0
    said = capsys.readouterr().out
    assert "fineness" in said
    assert "section" in said
    assert main(["export", str(BRACKET), str(out), "--of", "{"]) == 2
