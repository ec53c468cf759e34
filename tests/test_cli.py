"""The command line: build, report, schema, and clear ends for bad input."""

from __future__ import annotations

import argparse
import json
import subprocess
import sys
from pathlib import Path

import pytest

from tests.samples import plate
from wendal.cli import _lock, _span, main
from wendal.core.route import part_schema, write_part
from wendal.demo import instrument_bracket
from wendal.store import Database, MariaServer, PartStore


@pytest.fixture
def bracket(tmp_path: Path) -> Path:
    path = tmp_path / "bracket.json"
    path.write_text(write_part(instrument_bracket()))
    return path


def test_build_prints_a_report_and_writes_a_file(bracket: Path, capsys: pytest.CaptureFixture[str]) -> None:
    out = bracket.with_suffix(".step")
    assert main(["build", str(bracket), "--set", "seat_tilt=30 deg", "--set", "seat_width = 90 mm", "--out", str(out), "--report"]) == 0
    told = json.loads(capsys.readouterr().out)
    assert told["bodies"][0]["high"][2] == pytest.approx(34 + 78 * 0.5)
    assert all(s["state"] == "built" for s in told["steps"])
    assert out.read_text().startswith("ISO-10303-21")


@pytest.mark.parametrize(("more", "told"), [
    (["--set", "seat_tilt"], "wants TAG=FORMULA"), (["--set", "nosuch=1"], "no tag"), (["--set", "seat_tilt=1/0"], "divides by zero"),
    (["--out", "x.doc"], "There is no format"),
])
def test_refusals_go_to_stderr_as_json(bracket: Path, capsys: pytest.CaptureFixture[str], more: list[str], told: str) -> None:
    assert main(["build", str(bracket), *more]) == 2
    assert told in json.loads(capsys.readouterr().err)["error"]


def test_a_part_that_does_not_build_ends_with_status_1(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    b = plate()
    b.do(do="remove_step", step="s1")
    path = tmp_path / "broken.json"
    path.write_text(write_part(b.part))
    assert main(["build", str(path)]) == 1
    assert json.loads(capsys.readouterr().out)["steps"][0]["state"] == "stopped"


def test_a_missing_file_is_told(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    assert main(["build", str(tmp_path / "none.json")]) == 2
    assert "none.json" in capsys.readouterr().err


def test_schema_in_a_process_of_its_own_without_kernel_or_database() -> None:
    code = "import sys; from wendal.cli import main; main(['schema']); assert not {'OCP', 'sqlalchemy'} & set(sys.modules), 'loaded'"
    done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True)
    assert json.loads(done.stdout) == json.loads(json.dumps(part_schema()))


def test_all_parts_are_copied_and_taken_back_by_the_command_line(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    here, there, file = tmp_path / "here", tmp_path / "there", tmp_path / "all.wendal-backup"
    maria = MariaServer(here / "mariadb")
    maria.start()
    lock = _lock(here / "lock")  # as a Wendal that runs
    database = Database(maria.url)
    database.upgrade()
    PartStore(database).create("Outlet plate", write_part(plate().part.model_copy(update={"name": "Outlet plate"})), "Made")
    try:
        assert main(["backup", str(file), "--data", str(here)]) == 0  # while it runs
        assert "Copied: 1 part, 1 version, of" in capsys.readouterr().out
        assert main(["restore", str(file), "--data", str(here), "--replace"]) == 2  # it would not know
        assert "Stop it first" in capsys.readouterr().err
    finally:
        lock.close()
        database.close()
        maria.stop()
    assert main(["verify", str(file)]) == 0
    assert main(["restore", str(file), "--data", str(there)]) == 0  # starts the database itself
    assert main(["restore", str(file), "--data", str(there)]) == 2
    assert "nothing was changed" in capsys.readouterr().err
    assert main(["backup", str(tmp_path / "again.wendal-backup"), "--data", str(there)]) == 0
    file.write_bytes(file.read_bytes()[:-9])
    assert main(["verify", str(file)]) == 2


@pytest.mark.parametrize(("text", "seconds"), [("90s", 90), ("30m", 1800), ("1h", 3600), ("2d", 172800)])
def test_times_of_copies(text: str, seconds: float) -> None:
    assert _span(text) == seconds
    for bad in ("1", "h", "0h", "-1h", "1.5h", ""):
        with pytest.raises(argparse.ArgumentTypeError):
            _span(bad)


def test_a_part_is_drawn_without_the_browser(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    from wendal.cli import main

    source = Path(__file__).parents[1] / "examples" / "well_head_flange.json"
    for name, begins in (("a.pdf", b"%PDF"), ("a.svg", b"<svg"), ("a.dxf", b"  0\nSECTION")):
        out = tmp_path / name
        assert main(["drawing", str(source), "--sheet", "A4", "--angle", "third", "--out", str(out), "--set", "outside=150 mm"]) == 0
        assert out.read_bytes().startswith(begins)
    assert main(["drawing", str(source), "--sheet", "A7", "--out", str(tmp_path / "b.pdf")]) != 0
    assert "A7" in capsys.readouterr().err
