"""Transactions on the database, and what its troubles mean in words."""

from __future__ import annotations

import shutil
import time
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from sqlalchemy import Connection, text
from sqlalchemy.exc import DBAPIError, OperationalError
from sqlalchemy.orm import Session

from wendal.core.errors import WendalError

from .database import Database

__all__ = ["DOWN", "NoSuchPart", "Stale", "StoreDown", "StoreError", "StoreLost", "Transactions"]

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


class Transactions:
    """Whatever is kept in the database."""

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
