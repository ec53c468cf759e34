"""Revisions on a real MariaDB: commit, undo, redo, stale edits, what happens when the server is killed."""

from __future__ import annotations

import json
import os
import signal
from pathlib import Path

import pytest
import sqlalchemy

from wendal.core.errors import WendalError
from wendal.core.route import Part, Remark, write_part
from wendal.store import Database, MariaServer, PartStore, StoreError


def document(name: str, size: int = 0) -> str:
    return write_part(Part(name=name, remarks={"filler": Remark(note="x" * size)}))


def grow(store: PartStore, *names: str) -> int:
    """Keep a part with one version a name."""
    state = store.create(names[0], document(names[0]), "Begin")
    for name in names[1:]:
        state = store.commit(state.id, state.edition, name, document(name), f"To {name}", "{}")
    return state.id


def test_undo_and_redo_move_among_revisions(store: PartStore) -> None:
    part = grow(store, "a", "b", "c")
    for move, name, undo, redo in (("undo", "b", "To b", "To c"), ("undo", "a", "", "To b"), ("redo", "b", "To b", "To c"),
                                   ("redo", "c", "To c", "")):
        state = getattr(store, move)(part, store.state(part).edition)
        assert (json.loads(state.document)["name"], state.undo, state.redo) == (name, undo, redo)
        assert store.list()[0].name == name


def test_an_edit_after_undo_starts_a_new_line_and_keeps_the_old_revisions(store: PartStore, database: Database) -> None:
    part = grow(store, "a", "b", "c")
    state = store.undo(part, store.state(part).edition)
    state = store.commit(part, state.edition, "d", document("d"), "To d", "{}")
    assert (state.version, state.redo) == (4, "")
    assert json.loads(store.undo(part, state.edition).document)["name"] == "b"
    with database.engine.connect() as connection:
        assert connection.scalar(sqlalchemy.text("SELECT COUNT(*) FROM revision WHERE part_id = :p"), {"p": part}) == 4


@pytest.mark.parametrize("call", [lambda s, p: s.undo(p, 1), lambda s, p: s.redo(p, 1), lambda s, p: s.state(p + 99),
                                  lambda s, p: s.commit(p, 7, "x", document("x"), "", ""), lambda s, p: s.delete(p + 99)])
def test_what_can_not_be_done_says_so_and_changes_nothing(store: PartStore, call) -> None:  # type: ignore[no-untyped-def]
    part = grow(store, "a")
    before = store.state(part)
    with pytest.raises(StoreError):
        call(store, part)
    assert store.state(part) == before


@pytest.mark.parametrize(("name", "kept"), [("", ""), ("a", "{}"), ("a", '{"name": "a", "steps": [{"kind": "nothing"}]}'), ("a", document("b"))])
def test_nothing_but_a_part_is_ever_kept(store: PartStore, name: str, kept: str) -> None:
    part = grow(store, "a")
    before = store.state(part)
    with pytest.raises(WendalError):
        store.commit(part, before.edition, name, kept, "", "")
    with pytest.raises(WendalError):
        store.create(name, kept, "")
    assert (store.state(part), len(store.list())) == (before, 1)


def test_delete_takes_all_revisions_along(store: PartStore, database: Database) -> None:
    part = grow(store, "a", "b")
    store.delete(part)
    with database.engine.connect() as connection:
        assert connection.scalar(sqlalchemy.text("SELECT COUNT(*) FROM revision WHERE part_id = :p"), {"p": part}) == 0


def test_a_picture_is_fresh_until_the_part_changes(store: PartStore) -> None:
    part = grow(store, "a")
    store.set_picture(part, 1, "<svg/>")
    assert store.list()[0].fresh
    store.commit(part, 1, "b", document("b"), "", "{}")
    assert not store.list()[0].fresh
    assert store.picture(part) == "<svg/>"


def test_large_documents_and_all_of_unicode(store: PartStore) -> None:
    part = store.create("Größe ⌀ 𝄞", document("Größe ⌀ 𝄞", 3_000_000), "").id
    state = store.state(part)
    assert json.loads(state.document)["name"] == "Größe ⌀ 𝄞"
    assert len(state.document) > 3_000_000


def test_the_tables_are_those_of_the_models(database: Database) -> None:
    from alembic.autogenerate import compare_metadata
    from alembic.migration import MigrationContext

    from wendal.store.models import Base

    with database.engine.connect() as connection:
        assert compare_metadata(MigrationContext.configure(connection), Base.metadata) == []


def test_what_was_acknowledged_survives_a_killed_server(tmp_path: Path) -> None:
    server = MariaServer(tmp_path / "maria")
    server.start()
    database = Database(server.url)
    database.upgrade()
    part = grow(PartStore(database), "a", "b")
    pid = server._process.pid  # type: ignore[union-attr]
    os.kill(pid, signal.SIGKILL)
    server._process.wait()  # type: ignore[union-attr]
    with pytest.raises(StoreError, match="does not answer"):
        PartStore(database).list()
    database.close()
    again = MariaServer(tmp_path / "maria")
    again.start()
    database = Database(again.url)
    database.upgrade()
    assert json.loads(PartStore(database).state(part).document)["name"] == "b"
    database.close()
    again.stop()
    assert (tmp_path / "maria" / "password").stat().st_mode & 0o777 == 0o600
