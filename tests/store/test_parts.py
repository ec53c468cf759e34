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
from wendal.store.packing import packed, unpacked


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


def test_deleting_twice_takes_all_revisions_along(store: PartStore, database: Database) -> None:
    part = grow(store, "a", "b")
    with pytest.raises(StoreError, match="not in the bin"):
        store.delete(part, for_good=True)
    store.delete(part)
    assert (store.list(), [r.name for r in store.list(binned=True)]) == ([], ["b"])
    with pytest.raises(StoreError, match="bin"):
        store.state(part)
    store.bring_back(part)
    assert store.state(part).version == 2
    store.delete(part)
    store.delete(part, for_good=True)
    with database.engine.connect() as connection:
        assert connection.scalar(sqlalchemy.text("SELECT COUNT(*) FROM revision WHERE part_id = :p"), {"p": part}) == 0


def test_versions_are_listed_read_named_and_kept_on_both_branches_of_an_undo(store: PartStore) -> None:
    part = grow(store, "a", "b", "c")
    store.undo(part, store.state(part).edition)
    store.commit(part, store.state(part).edition, "d", document("d"), "To d", "{}")
    rows = store.versions(part)
    assert [(r.number, r.parent, r.summary, r.present) for r in rows] == [(4, 2, "To d", True), (3, 2, "To c", False), (2, 1, "To b", False), (1, 0, "Begin", False)]
    assert json.loads(store.version(part, 3).document)["name"] == "c"  # nothing that was kept is out of reach
    store.name_version(part, 3, " first print ")
    with pytest.raises(StoreError, match="v3 is called"):
        store.name_version(part, 2, "first print")
    assert [r.name for r in store.versions(part)] == ["", "first print", "", ""]
    with pytest.raises(StoreError, match="no version 9"):
        store.version(part, 9)


def test_a_branch_remembers_where_it_came_from_and_its_lineage_goes_on_there(store: PartStore) -> None:
    part = grow(store, "a", "b", "c")
    branch = store.create("x", document("x"), "Branch", origin=(part, 2))
    own = store.commit(branch.id, 1, "y", document("y"), "To y", "{}", other=(part, 3))
    assert store.origin(branch.id) == (part, 2)
    assert store.branches(part) == [(branch.id, 2)]
    assert store.lineage(branch.id, own.version) == [(branch.id, 2), (branch.id, 1), (part, 3), (part, 2), (part, 1)]
    assert store.versions(branch.id)[0].other == (part, 3)


def test_labels_and_part_numbers_are_listed(store: PartStore) -> None:
    part = grow(store, "a")
    store.set_labels(part, " gauge ,, pump,gauge")
    numbered = json.dumps({**json.loads(document("a")), "about": {"number": "HP-7"}})
    store.commit(part, store.state(part).edition, "a", numbered, "Number", "{}")
    (row,) = store.list()
    assert (row.labels, row.number) == ("gauge, pump", "HP-7")


def test_a_thousand_versions_of_a_part_take_less_than_four_megabytes(store: PartStore) -> None:
    text = json.dumps({**json.loads((Path(__file__).parents[2] / "examples" / "instrument_bracket.json").read_text()), "name": "b"})
    assert 1000 * len(packed(text)) <= 4 * 2**20
    assert unpacked(packed(text)) == text


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
