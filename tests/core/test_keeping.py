"""What is kept for the next process: it builds nothing that stands, and goes on as if it had built all itself."""

from __future__ import annotations

import os
import random
from pathlib import Path
from typing import Any

import pytest

from tests.building import axis, f, of_step
from tests.core.test_incremental import edited, told
from tests.samples import block, plate
from tools.bench.parts import mixed_plate
from wendal.core import inspect
from wendal.core.kernel import known
from wendal.core.route import Evaluation, Memory, Part, evaluate, keeping, read_part, write_part
from wendal.core.route.keeping import NotKept, bytes_of, take_up
from wendal.demo import DEMO_PARTS
from wendal.demo.builder import Builder
from wendal.workers.shelf import Shelf

PARTS = {**DEMO_PARTS, "plate": lambda: mixed_plate(8)}


def another_process(part: Part, content: bytes, built: list[str]) -> tuple[Part, Memory, Evaluation]:
    """Evaluate a part as a process does that has read what was kept; built : gets the steps that were built all the same."""
    known._tables = known._Tables()
    part, memory = read_part(write_part(part)), Memory()
    take_up(memory, content)
    return part, memory, evaluate(part, memory, announce=lambda step, *_: built.append(step))


def as_from_nothing(part: Part) -> dict[str, Any]:
    """Return what a part comes to in a process that knows nothing."""
    held, known._tables = known._tables, known._Tables()
    part = read_part(write_part(part))
    found = told(part, evaluate(part, Memory()))
    known._tables = held
    return found


@pytest.mark.parametrize("name", [*DEMO_PARTS, "plate"])
def test_the_next_process_builds_nothing_and_goes_on_as_if_it_had(name: str) -> None:
    part, memory = PARTS[name](), Memory()
    evaluation, built = evaluate(part, memory), list[str]()
    inspect.scene(part, evaluation, inspect.Blobs(set(), {}))
    content = bytes_of(memory, evaluation)
    part, memory, again = another_process(part, content, built)
    assert built == []
    assert all(r.remembered for r in again.reports if r.state == "built")
    assert told(part, again) == as_from_nothing(part)
    b, rng = Builder("Part"), random.Random(3)
    b.part = part
    for n in range(6):
        edited(b, rng, [part])
        evaluation = evaluate(b.part, memory)
        if n % 3 == 2:
            assert told(b.part, evaluation) == as_from_nothing(b.part), n


def test_a_pattern_made_later_repeats_what_was_kept() -> None:
    b, memory = plate(), Memory()
    hole = b.step("hole", "Bore", where="coordinates", x=f("10 mm"), y=f("10 mm"), diameter=f("4 mm"), side="back")
    built: list[str] = []
    b.part, memory, _ = another_process(b.part, bytes_of(memory, evaluate(b.part, memory)), built)
    b.step("pattern", "Row", seeds=[of_step(hole)], along=axis("X"), count=f("3"), spacing=f("8 mm"))
    assert told(b.part, evaluate(b.part, memory)) == as_from_nothing(b.part)
    assert built == []


def test_a_step_that_was_ended_from_outside_is_built_by_the_next_process_and_so_is_what_stands_on_it() -> None:
    b, memory = plate(), Memory()
    first = b.step("hole", "First", where="coordinates", x=f("10 mm"), y=f("10 mm"), diameter=f("4 mm"), side="back")
    b.step("hole", "Second", where="coordinates", x=f("30 mm"), y=f("10 mm"), diameter=f("4 mm"), side="back")
    key = evaluate(b.part, Memory()).report(first).key
    evaluation = evaluate(b.part, memory, condemned={key: "Building this was cancelled."})
    assert [r.state for r in evaluation.reports][-2:] == ["stopped", "built"]
    part, _, again = another_process(b.part, bytes_of(memory, evaluation), [])
    assert told(part, again) == as_from_nothing(part)


@pytest.mark.parametrize("harm", ["other code", "cut short", "one bit", "a stranger"])
def test_what_is_damaged_or_made_by_other_code_is_not_taken(harm: str, monkeypatch: pytest.MonkeyPatch) -> None:
    part, memory = block().part, Memory()
    evaluation = evaluate(part, memory)
    content = bytes_of(memory, evaluation, os.getcwd if harm == "a stranger" else None)
    if harm == "other code":
        monkeypatch.setattr(keeping, "made_by", lambda: b"x" * 16)
    changed = {"cut short": content[:-9], "one bit": content[:200] + bytes([content[200] ^ 4]) + content[201:]}.get(harm, content)
    fresh = Memory()
    with pytest.raises(NotKept):
        take_up(fresh, changed)
    assert fresh.get(evaluation.reports[-1].key) is None


def read(shelf: Shelf, part: int) -> bytes | None:
    """Read a part's results to the end."""
    found = shelf.begin_reading(part)
    shelf.end_reading(part)
    return found


def test_what_another_has_laid_on_the_shelf_is_not_read(tmp_path: Path) -> None:
    shelf = Shelf(tmp_path / "shelf")
    shelf.write(1, b"results")
    assert read(shelf, 1) == b"results"
    file = tmp_path / "shelf" / "1.results"
    assert (tmp_path / "shelf.key").stat().st_mode & 0o777 == 0o600
    file.write_bytes(file.read_bytes()[:-1] + b"S")
    assert shelf.begin_reading(1) is None
    assert not file.exists()
    shelf.write(1, b"results")
    file.replace(tmp_path / "shelf" / "2.results")  # another part's
    assert shelf.begin_reading(2) is None
    other = Shelf(tmp_path / "other")
    other.write(3, b"poison")
    (tmp_path / "other" / "3.results").replace(tmp_path / "shelf" / "3.results")
    assert shelf.begin_reading(3) is None


def test_the_shelf_is_bounded_and_what_was_used_last_stays(tmp_path: Path) -> None:
    shelf = Shelf(tmp_path / "shelf", most=2500)
    assert read(shelf, 1) is None
    for part in (1, 2):
        shelf.write(part, bytes([part]) * 1000)
        os.utime(tmp_path / "shelf" / f"{part}.results", (part, part))
    assert read(shelf, 1) == b"\1" * 1000
    shelf.write(3, b"\3" * 1000)
    assert [read(shelf, p) is not None for p in (1, 2, 3)] == [True, False, True]
    shelf.remove(3)
    assert sorted(f.name for f in (tmp_path / "shelf").iterdir()) == ["1.results"]


def test_what_ends_its_reader_is_not_read_again(tmp_path: Path) -> None:
    shelf = Shelf(tmp_path)
    shelf.write(1, b"content")
    assert shelf.begin_reading(1) == b"content"  # and here the process ends
    assert Shelf(tmp_path).begin_reading(1) is None
    shelf.write(1, b"built anew")
    assert read(shelf, 1) == b"built anew"
    assert [f.name for f in tmp_path.iterdir()] == ["1.results"]


def test_a_shelf_that_can_not_be_written_stops_nobody(tmp_path: Path) -> None:
    (tmp_path / "shelf").write_text("a file in its place")
    shelf = Shelf(tmp_path / "shelf")
    shelf.write(1, b"content")
    assert read(shelf, 1) is None
