"""Copies of all parts: proved, restored the same, refused where they are not whole."""

from __future__ import annotations

import gzip
import json
import threading
import zlib
from collections.abc import Iterator
from contextlib import suppress
from pathlib import Path
from typing import Any

import pytest
import sqlalchemy

from tests.samples import block
from tests.store.test_parts import document, grow
from wendal.core.route import write_part
from wendal.store import Database, MariaServer, PartStore
from wendal.store.backup import BackupError, back_up, latest, restore, take_history, verify, write_history

KEPT = Path(__file__).parents[1] / "data" / "backup_1.wendal-backup"


def rows(database: Database) -> list[Any]:
    with database.engine.connect() as connection:
        return [
            [tuple(r) for r in connection.execute(sqlalchemy.text(f"SELECT * FROM {table} ORDER BY id"))]
            for table in ("part", "revision")
        ]


@pytest.fixture
def empty(tmp_path: Path) -> Iterator[Database]:
    maria = MariaServer(tmp_path / "other")
    maria.start()
    database = Database(maria.url)
    database.upgrade()
    yield database
    database.close()
    maria.stop()


def test_what_is_restored_is_the_same_to_the_row_undo_and_keys_too(store: PartStore, database: Database, empty: Database, tmp_path: Path) -> None:
    part = grow(store, "a", "b", "c", "d")
    store.undo(part, store.state(part).edition)
    state = store.state(part)
    store.commit(part, state.edition, "e", document("e"), "To e", json.dumps({"key": "k-1", "step": "s1"}))
    store.undo(part, store.state(part).edition)
    long = block().part
    store.create(long.name, write_part(long), "Made")
    file = tmp_path / "copies" / "all.wendal-backup"
    made = back_up(database, file)
    assert made == verify(file)
    assert file.stat().st_mode & 0o777 == 0o600
    assert latest(file.parent)
    assert restore(empty, file) == made
    assert rows(empty) == rows(database)
    other = PartStore(empty)
    assert other.state(part) == store.state(part)
    assert other.step_of(part, "k-1") == "s1"
    assert other.redo(part, other.state(part).edition).version == store.redo(part, store.state(part).edition).version
    with pytest.raises(BackupError, match="There are parts here already"):
        restore(empty, file)
    assert restore(empty, file, replace=True) == made


def test_a_copy_that_is_made_while_parts_are_edited_is_one_state_of_each(store: PartStore, database: Database, tmp_path: Path) -> None:
    part = grow(store, "a")
    done = threading.Event()

    def edit() -> None:
        while not done.is_set():
            state = store.state(part)
            store.commit(part, state.edition, "b", document("b", 2000), "To b", "{}")

    editing = threading.Thread(target=edit)
    editing.start()
    try:
        for n in range(5):
            back_up(database, tmp_path / f"{n}.wendal-backup")
            verify(tmp_path / f"{n}.wendal-backup")
    finally:
        done.set()
        editing.join()


def test_every_flipped_bit_is_found(store: PartStore, database: Database, tmp_path: Path) -> None:
    """Whatever the harm makes of its words, a damaged copy is refused in words."""
    grow(store, "a")
    file = tmp_path / "all.wendal-backup"
    back_up(database, file)
    whole = file.read_bytes()
    for at in range(12, len(whole) - 8, max(1, len(whole) // 150)):
        content = bytearray(whole)
        content[at] ^= 1 << at % 8
        file.write_bytes(bytes(content))
        with suppress(OSError, EOFError, zlib.error):
            if gzip.decompress(content) == gzip.decompress(whole):
                continue  # a bit that says nothing
        with pytest.raises(BackupError):
            verify(file)


@pytest.mark.parametrize("harm", ["cut", "bit", "line", "count", "other", "newer"])
def test_a_copy_that_is_not_whole_is_refused_and_changes_nothing(store: PartStore, database: Database, tmp_path: Path, harm: str) -> None:
    grow(store, "a", "b")
    file = tmp_path / "all.wendal-backup"
    back_up(database, file)
    before = rows(database)
    lines = gzip.decompress(file.read_bytes()).splitlines(keepends=True)
    if harm == "cut":
        file.write_bytes(file.read_bytes()[:-40])
    elif harm == "bit":
        content = bytearray(file.read_bytes())
        content[len(content) // 2] ^= 1
        file.write_bytes(bytes(content))
    elif harm == "line":
        file.write_bytes(gzip.compress(b"".join(lines[:1] + lines[2:])))
    elif harm == "count":
        file.write_bytes(gzip.compress(b"".join(lines[:-1])))
    elif harm == "other":
        file.write_bytes(gzip.compress(b'{"format": "something"}\n'))
    else:
        file.write_bytes(gzip.compress(lines[0].replace(b'"version":1', b'"version":7') + b"".join(lines[1:])))
    with pytest.raises(BackupError):
        restore(database, file, replace=True)
    assert rows(database) == before


def test_a_kept_copy_of_the_first_form_is_still_restored(empty: Database) -> None:
    found = restore(empty, KEPT)
    assert (found.parts, found.revisions) == (2, 4)
    store = PartStore(empty)
    names = {row.name: row.id for row in store.list()}
    assert names.keys() == {"Sample", "c"}
    assert store.undo(names["c"], store.state(names["c"]).edition).version == 2


def test_a_part_with_its_history_is_the_same_in_another_place(store: PartStore, database: Database, tmp_path: Path) -> None:
    """Every revision, undo and redo of it, the keys of its edits; under new numbers, beside other parts."""
    grow(store, "x", "y")
    part = grow(store, "a", "b", "c", "d")
    store.undo(part, store.state(part).edition)
    state = store.state(part)
    store.commit(part, state.edition, "e", document("e"), "To e", json.dumps({"key": "k-1", "step": "s1"}))
    store.undo(part, store.state(part).edition)
    file = tmp_path / "one"
    write_history(database, part, file)
    other = take_history(database, file)
    assert other != part
    assert store.step_of(other, "k-1") == "s1"

    def walk(which: int) -> list[Any]:
        told = []
        for move in (store.redo, store.undo, store.undo, store.undo, store.redo):
            moved = move(which, store.state(which).edition)
            told.append((moved.document, moved.version, moved.undo, moved.redo))
        return told

    assert walk(other) == walk(part)
    with pytest.raises(BackupError, match="no copy"):
        verify(file)
    with pytest.raises(BackupError, match="no such part"):
        write_history(database, 10**6, file)
    back_up(database, file)
    with pytest.raises(BackupError, match="no part with its history"):
        take_history(database, file)
    before = rows(database)
    file.write_bytes(file.read_bytes()[:-20])
    with pytest.raises(BackupError):
        take_history(database, file)
    assert rows(database) == before
