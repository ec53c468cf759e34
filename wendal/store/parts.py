"""Parts and their revisions: every accepted command one transaction; undo and redo are moves of the head."""

from __future__ import annotations

import base64
import json
import shutil
import time
import zlib
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from datetime import datetime
from pathlib import Path

from sqlalchemy import Connection, func, select, text
from sqlalchemy.exc import DBAPIError, OperationalError
from sqlalchemy.orm import Session

from wendal.core.errors import DocumentError, WendalError
from wendal.core.route import read_part

from .database import Database
from .models import PartTable, RevisionTable, now

__all__ = ["PartRow", "PartState", "PartStore", "StoreDown", "StoreError", "StoreLost", "unpacked"]

LONG, PACKED = (
    64_000,
    "zlib:",
)  # signs from which on a document is kept compressed, and what it begins with then
ROOM = 300 * 2**20  # bytes free on the disk below which it is told
PATIENCE = 4.0  # s that a call waits for a database that does not answer
NOTHING_LEFT = 2**20  # bytes free on the disk below which it is full
NO_ROOM = {28, 1021, 1114}  # the database's numbers for a disk that took nothing more
FULL = "error 28"  # so it says when a table's files took nothing more
SAID = {
    1213: "Not saved: two edits were in each other's way in the database. Do it again.",
    1205: "Not saved: the database was kept waiting too long by another edit. Do it again.",
    1153: "Not saved: this is larger than the database takes at once. Make the part smaller.",
    1406: "Not saved: this is longer than the database takes. Make it shorter.",
}
DOWN = (
    "Not saved: the database is being started again. It does not answer at the moment; what was accepted "
    "before is kept. "
    "Try again in a moment."
)


class StoreError(WendalError):
    """What was asked of the store can not be done; nothing was changed."""

    code = "store"


class StoreDown(StoreError):
    """The database does not answer at the moment."""

    code = "down"


class StoreLost(StoreDown):
    """The database went while it did something: whether that was done is not known."""


class NoSuchPart(StoreError):
    """There is no part with this number."""

    code = "no_such_part"


class Stale(StoreError):
    """The part has changed since the state the edit was made for."""

    code = "stale"

    def __init__(self) -> None:
        super().__init__(
            "The part has changed since you began this edit, perhaps in another window. Your edit was not "
            "made; look at "
            "the part as it is now and make it again."
        )


@dataclass(frozen=True, slots=True)
class PartRow:
    """A part in the list. fresh : its picture shows the present revision."""

    id: int
    name: str
    version: int
    changed: datetime
    fresh: bool


@dataclass(frozen=True, slots=True)
class PartState:
    """A part as it stands: its document as text, version number, edition, and what undo and redo would do."""

    id: int
    document: str
    version: int
    edition: int
    undo: str
    redo: str


class PartStore:
    """All parts."""

    def __init__(self, database: Database) -> None:
        self.database = database

    @contextmanager
    def _transaction(self) -> Iterator[Session]:
        """Run one transaction; what the driver throws becomes words.

        Waits a little for a database that is being started again.
        """
        connection = self._connected()
        try:
            with connection, self.database.sessions(bind=connection) as session, session.begin():
                yield session
        except DBAPIError as error:
            raise self._in_words(error) from error

    def _in_words(self, error: DBAPIError) -> StoreError:
        """Return what a database error means, by its number."""
        number = next((a for a in getattr(error.orig, "args", ()) if isinstance(a, int)), 0)
        if number in NO_ROOM or FULL in str(error.orig) or self._disk_is_full():
            return StoreError(f"Not saved: the disk is full. {self._room()} Make some, then do it again.")
        if number in SAID:
            return StoreError(SAID[number])
        if error.connection_invalidated or isinstance(error, OperationalError):
            return StoreLost(DOWN)
        return StoreError(
            "The database did not take this, so nothing was changed. If it goes on, stop Wendal and start it "
            f"again. (It said: {error.orig})"
        )

    def _disk_is_full(self) -> bool:
        folder = self.database.folder
        return folder is not None and folder.is_dir() and shutil.disk_usage(folder).free < NOTHING_LEFT

    def _room(self) -> str:
        folder = self.database.folder
        if folder is None or not folder.is_dir():
            return ""
        return f"In {folder} {shutil.disk_usage(folder).free // 2**20} MB are left."

    def _connected(self) -> Connection:
        until = time.monotonic() + PATIENCE
        while True:
            try:
                return self.database.engine.connect()
            except DBAPIError as error:
                if time.monotonic() > until:
                    raise StoreDown(DOWN) from error
                time.sleep(0.1)

    def trouble(self) -> str:
        """Return what is wrong with the database, in words; "" while it is well."""
        try:
            with self.database.engine.connect() as connection:
                folder = str(connection.scalar(text("SELECT @@datadir")))
        except DBAPIError:
            return DOWN
        room = shutil.disk_usage(folder).free if Path(folder).is_dir() else ROOM
        return (
            ""
            if room >= ROOM
            else (
                f"Little room is left on the disk ({room // 2**20} MB). Make some, before saving has to stop."
            )
        )

    def step_of(self, part: int, key: str) -> str | None:
        """Return the step of an edit that was kept under a key of its own, None where there is none."""
        with self._transaction() as session:
            record = session.scalar(
                select(RevisionTable.command).where(RevisionTable.part_id == part, RevisionTable.edit == key)
            )
            return None if record is None else str(json.loads(record)["step"])

    def list(self) -> list[PartRow]:
        """Return all parts, the latest changed first."""
        with self._transaction() as session:
            found = session.execute(
                select(PartTable, RevisionTable.number)
                .join(RevisionTable, RevisionTable.id == PartTable.head)
                .order_by(PartTable.changed.desc(), PartTable.id.desc())
            )
            return [PartRow(p.id, p.name, number, p.changed, p.picture_of == p.head) for p, number in found]

    def create(self, name: str, document: str, summary: str) -> PartState:
        """Keep a new part with its first revision; raises DocumentError for what is no part."""
        _check(name, document)
        with self._transaction() as session:
            part = PartTable(name=name, head=0, tip=0, edition=1, picture="", picture_of=0)
            session.add(part)
            session.flush()
            first = RevisionTable(
                part_id=part.id, number=1, parent=0, summary=summary, command="", document=_packed(document)
            )
            session.add(first)
            session.flush()
            part.head = part.tip = first.id
            return self._state(session, part)

    def state(self, part: int) -> PartState:
        """Return a part as it stands; raises NoSuchPart."""
        with self._transaction() as session:
            return self._state(session, self._part(session, part))

    def commit(
        self, part: int, edition: int, name: str, document: str, summary: str, command: str
    ) -> PartState:
        """Keep a new revision on top of the head; raises Stale when the part is at another edition,
        DocumentError for what is no part.

        One whose key (in the record, `command`) was kept before is there already, and nothing is done.
        """
        _check(name, document)
        key = _key_in(command)
        with self._transaction() as session:
            if key and self._is_kept(session, part, key):
                return self._state(session, self._part(session, part))
            row = self._part(session, part, edition)
            head = session.get_one(RevisionTable, row.head)
            number = 1 + (
                session.scalar(select(func.max(RevisionTable.number)).where(RevisionTable.part_id == part))
                or 0
            )
            new = RevisionTable(
                part_id=part,
                number=number,
                parent=head.id,
                summary=summary[:200],
                command=command,
                document=_packed(document),
                edit=key or None,
            )
            session.add(new)
            session.flush()
            row.head = row.tip = head.following = new.id
            self._touch(row, name)
            return self._state(session, row)

    @staticmethod
    def _is_kept(session: Session, part: int, key: str) -> bool:
        found = select(RevisionTable.id).where(RevisionTable.part_id == part, RevisionTable.edit == key)
        return session.scalar(found) is not None

    def undo(self, part: int, edition: int) -> PartState:
        """Move the head to its parent; raises StoreError at the beginning."""
        with self._transaction() as session:
            row = self._part(session, part, edition)
            head = session.get_one(RevisionTable, row.head)
            if not head.parent:
                raise StoreError("There is nothing before this to go back to.")
            session.get_one(RevisionTable, head.parent).following = head.id
            return self._move(session, row, head.parent)

    def redo(self, part: int, edition: int) -> PartState:
        """Move the head one revision towards the tip; raises StoreError at the tip."""
        with self._transaction() as session:
            row = self._part(session, part, edition)
            following = self._following(session, row)
            if following is None:
                raise StoreError("There is nothing after this to go forward to.")
            return self._move(session, row, following.id)

    def _move(self, session: Session, row: PartTable, head: int) -> PartState:
        row.head = head
        state = self._state(session, row)
        self._touch(row, _name_in(state.document))
        return self._state(session, row)

    def set_picture(self, part: int, version: int, picture: str) -> None:
        """Keep the small picture of a version."""
        with self._transaction() as session:
            row = self._part(session, part)
            of = session.scalar(
                select(RevisionTable.id).where(RevisionTable.part_id == part, RevisionTable.number == version)
            )
            row.picture, row.picture_of = picture, of or 0

    def picture(self, part: int) -> str:
        """Return the latest small picture, "" for none yet."""
        with self._transaction() as session:
            return self._part(session, part).picture

    def delete(self, part: int) -> None:
        """Delete a part with all its revisions."""
        with self._transaction() as session:
            session.delete(self._part(session, part))

    @staticmethod
    def _touch(row: PartTable, name: str) -> None:
        row.name, row.edition, row.changed = name, row.edition + 1, now()

    @staticmethod
    def _part(session: Session, part: int, edition: int | None = None) -> PartTable:
        row = session.get(PartTable, part, with_for_update=edition is not None)
        if row is None:
            raise NoSuchPart("There is no such part; it may have been deleted.")
        if edition is not None and row.edition != edition:
            raise Stale()
        return row

    @staticmethod
    def _following(session: Session, row: PartTable) -> RevisionTable | None:
        """Return the revision after the head on the way to the tip."""
        after = session.get_one(RevisionTable, row.head).following if row.head != row.tip else 0
        return session.get(RevisionTable, after) if after else None

    def _state(self, session: Session, row: PartTable) -> PartState:
        session.flush()
        head = session.get_one(RevisionTable, row.head)
        following = self._following(session, row)
        return PartState(
            row.id,
            unpacked(head.document),
            head.number,
            row.edition,
            head.summary if head.parent else "",
            following.summary if following else "",
        )


def _check(name: str, document: str) -> None:
    """Nothing but a part that can be read again is ever kept; raises DocumentError."""
    if read_part(document).name != name:
        raise DocumentError("This part is kept under another name than its own.", field="name")


def _packed(document: str) -> str:
    """Return a document as it is kept: as it is, or, where it is long, compressed."""
    if len(document) < LONG:
        return document
    return PACKED + base64.b64encode(zlib.compress(document.encode(), 6)).decode()


def unpacked(kept: str) -> str:
    """Return a document from the form in which it is kept."""
    return (
        zlib.decompress(base64.b64decode(kept.removeprefix(PACKED))).decode()
        if kept.startswith(PACKED)
        else kept
    )


def _key_in(record: str) -> str:
    """Return the key of the edit in its record, "" for none."""
    return str(json.loads(record).get("key", ""))[:64] if record.startswith("{") else ""


def _name_in(document: str) -> str:
    return str(json.loads(document)["name"])
