"""Copies of all parts with all their revisions, in one file: made while Wendal runs or not, proved before it
is trusted.

A copy is lines of JSON, compressed. The first line says what it is, of which form the tables were and what it
counts; then every part and every revision; the last line seals all lines before it with a checksum. It is
read in one snapshot of the database, so that whatever is edited meanwhile is in it wholly or not at all.
"""

from __future__ import annotations

import base64
import gzip
import hashlib
import json
import logging
import os
import time
import zlib
from collections.abc import Iterator
from contextlib import suppress
from dataclasses import dataclass
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

from sqlalchemy import Connection, func, insert, select, text, update
from sqlalchemy.exc import SQLAlchemyError

from wendal.core import files
from wendal.core.errors import WendalError
from wendal.core.route import read_part

from .database import Database
from .models import Base, ContentTable, PartTable, RevisionTable
from .packing import unpacked

__all__ = [
    "BackupError",
    "Content",
    "back_up",
    "back_up_often",
    "latest",
    "restore",
    "take_history",
    "verify",
    "write_history",
]

log = logging.getLogger(__name__)
FORMAT, VERSION = "wendal-backup", 1
ONE = "wendal-part"  # the format of one part with its history
MOST_LINE, MOST_ONE = 256 * 2**20, 1024 * 2**20  # bytes of a line, and of one part with its history
ENDING = ".wendal-backup"


class BackupError(WendalError):
    """A copy can not be made, read or taken back; nothing was changed."""

    code = "backup"


@dataclass(frozen=True, slots=True)
class Content:
    """What a copy holds. made : when, UTC."""

    parts: int
    revisions: int
    made: str


def back_up(database: Database, file: Path) -> Content:
    """Write all parts with all their revisions into a file; raises BackupError. What is there already is
    replaced only once the new one is whole and was read back."""
    new = file.with_name(f"{file.name}.{os.getpid()}.new")
    try:
        file.parent.mkdir(parents=True, exist_ok=True)
        _write_snapshot(database, new)
        found = verify(new, thorough=False)
        new.replace(file)
    except OSError as error:
        raise BackupError(f"The copy was not made: {error.strerror or error} ({file}).") from error
    finally:
        with suppress(OSError):
            new.unlink()
    return found


def _write_snapshot(database: Database, file: Path, part: int | None = None) -> None:
    with database.engine.connect() as connection:
        connection.execute(text("SET TRANSACTION ISOLATION LEVEL REPEATABLE READ"))
        connection.execute(text("START TRANSACTION WITH CONSISTENT SNAPSHOT"))
        _write(connection, file, part)
        connection.rollback()


def write_history(database: Database, part: int, file: Path) -> None:
    """Write one part with all its revisions into a file; raises BackupError."""
    try:
        _write_snapshot(database, file, part)
        found = verify(file, thorough=False, form=ONE)
    except OSError as error:
        raise BackupError(f"The part was not written: {error.strerror or error}.") from error
    if not found.parts:
        raise BackupError("There is no such part.")


def take_history(database: Database, file: Path) -> int:
    """Take one part with all its revisions in as a new part, in one transaction; return its id. Raises
    BackupError, and then nothing has changed: whoever made the file may have put anything into it."""
    try:
        verify(file, form=ONE)
        lines = _lines(file)
        next(lines)
        return _taken(database, [dict(row) for row in lines])
    except (KeyError, TypeError, ValueError, AttributeError, SQLAlchemyError) as error:
        raise BackupError(f"{file.name} does not hold what a part with its history has.") from error


def _taken(database: Database, rows: list[dict[str, Any]]) -> int:
    (held,) = [row for row in rows if row["of"] == "part"]
    revisions = [row for row in rows if row["of"] == "revision"]
    with database.engine.begin() as connection:
        for row in rows:
            if row["of"] == "content":
                _put_content(connection, row)
        # What it was branched from, or brought together with, is of the place that wrote it.
        part = _inserted(connection, PartTable, held, head=0, tip=0, picture="", picture_of=0, origin=0)
        new = {0: 0}
        for row in revisions:
            new[row["id"]] = _inserted(
                connection, RevisionTable, row, part_id=part, parent=new[row["parent"]], following=0, other=0
            )
        for row in revisions:
            if row["following"]:
                connection.execute(
                    update(RevisionTable)
                    .where(RevisionTable.id == new[row["id"]])
                    .values(following=new[row["following"]])
                )
        connection.execute(
            update(PartTable).where(PartTable.id == part).values(head=new[held["head"]], tip=new[held["tip"]])
        )
    return part


def _inserted(connection: Connection, table: type[Base], row: dict[str, Any], **instead: int | str) -> int:
    """Insert a row under a new id, some of its values replaced; return the id."""
    columns = {c.name for c in table.__table__.columns} - {"id"}
    values = {k: _dated(k, v) for k, v in row.items() if k in columns}
    done = connection.execute(insert(table).values(**(values | instead)))
    return int(done.inserted_primary_key[0])  # type: ignore[index]


def _write(connection: Connection, file: Path, part: int | None = None) -> None:
    """Write all parts, or one."""
    seal = hashlib.sha256()
    every = {
        PartTable: select(PartTable.__table__).order_by(PartTable.id),
        RevisionTable: select(RevisionTable.__table__).order_by(RevisionTable.id),
    }
    if part is not None:
        every[PartTable] = every[PartTable].where(PartTable.id == part)
        every[RevisionTable] = every[RevisionTable].where(RevisionTable.part_id == part)
    counts = {
        name: connection.scalar(select(func.count()).select_from(every[table].subquery()))
        for name, table in (("parts", PartTable), ("revisions", RevisionTable))
    }
    form_of = FORMAT if part is None else ONE
    form = connection.scalar(text("SELECT version_num FROM alembic_version"))
    made = datetime.now(UTC).isoformat(timespec="seconds")
    file.touch(mode=0o600)
    with file.open("wb") as raw, gzip.GzipFile(fileobj=raw, mode="wb", compresslevel=5, mtime=0) as stream:

        def line(data: dict[str, Any]) -> None:
            content = json.dumps(data, ensure_ascii=False, separators=(",", ":")).encode() + b"\n"
            seal.update(content)
            stream.write(content)

        line({"format": form_of, "version": VERSION, "tables": form, "made": made, **counts})
        for table in (PartTable, RevisionTable):
            for row in connection.execute(every[table].execution_options(yield_per=200)).mappings():
                line({"of": table.__tablename__, **{k: _plain(v) for k, v in row.items()}})
        for content in _files_of(connection, part):
            text_of = base64.b64encode(content.bytes).decode()
            line({"of": "content", "digest": content.digest, "bytes": text_of, "made": _plain(content.made)})
        stream.write(json.dumps({"seal": seal.hexdigest()}).encode() + b"\n")
        stream.flush()
        os.fsync(raw.fileno())


def _files_of(connection: Connection, part: int | None) -> Iterator[Any]:
    """Yield the files that parts are made with: all, or those that any version of one part uses."""
    if part is None:
        digests = list(connection.scalars(select(ContentTable.digest)))
    else:
        documents = connection.scalars(select(RevisionTable.document).where(RevisionTable.part_id == part))
        digests = sorted({d for held in documents for d in files.used_in(unpacked(held))})
    for digest in digests:
        yield from connection.execute(select(ContentTable.__table__).where(ContentTable.digest == digest))


def _put_content(connection: Connection, row: dict[str, Any]) -> None:
    """Take a file back, unless it is there."""
    content = base64.b64decode(row["bytes"])
    if files.digest_of(content) != row["digest"]:
        raise BackupError("A file in this copy is not what its digest says.")
    there = select(func.count()).select_from(ContentTable).where(ContentTable.digest == row["digest"])
    if not connection.scalar(there):
        values = {"digest": row["digest"], "bytes": content, "made": datetime.fromisoformat(row["made"])}
        connection.execute(insert(ContentTable).values(**values))


def _plain(value: Any) -> Any:
    return value.isoformat() if isinstance(value, datetime) else value


def _lines(file: Path, most: int = 0) -> Iterator[dict[str, Any]]:
    """Yield the lines of a copy, its seal proved at the end; raises BackupError.

    most : bytes in all, 0 for no limit.
    """
    seal = hashlib.sha256()
    try:
        with gzip.open(file, "rb") as stream:
            size = 0
            while content := stream.readline(MOST_LINE + 1):
                size += len(content)
                if len(content) > MOST_LINE or (most and size > most):
                    raise BackupError(f"{file.name} holds more than is taken at once.")
                data = json.loads(content)
                if "seal" in data:
                    if data["seal"] != seal.hexdigest() or stream.read(1):
                        raise BackupError(f"{file.name} is damaged: its content does not fit its seal.")
                    return
                seal.update(content)
                yield data
    except (OSError, EOFError, ValueError, zlib.error) as error:
        raise BackupError(f"{file.name} is damaged, or Wendal did not write it: {error}.") from error
    raise BackupError(f"{file.name} ends too early: its seal is missing.")


def _beginning(lines: Iterator[dict[str, Any]], file: Path, form: str) -> dict[str, Any]:
    """Return the first line of a copy, when it is of a form and a version that is known; raises
    BackupError."""
    first = next(lines, {})
    if first.get("format") != form:
        what = "part with its history" if form == ONE else "copy"
        raise BackupError(f"{file.name} is no {what} of Wendal's.")
    if first.get("version") != VERSION:
        raise BackupError(f"{file.name} was made by a newer Wendal (version {first.get('version')}).")
    return first


def verify(file: Path, *, thorough: bool = True, form: str = FORMAT) -> Content:
    """Prove that a copy is whole: sealed, all counted, every head, tip and parent there; thorough : and every
    document a part that can be read. form : of all parts, or of one. Raises BackupError."""
    most = MOST_ONE if form == ONE else 0
    for _ in _lines(file, most):
        pass  # nothing in it is read before its seal is proved
    lines = _lines(file, most)
    first = _beginning(lines, file, form)
    parts: dict[int, dict[str, Any]] = {}
    owners: dict[int, tuple[int, int]] = {}
    for row in lines:
        if row["of"] == "content":
            if files.digest_of(base64.b64decode(row["bytes"])) != row["digest"]:
                raise BackupError(f"A file in {file.name} is not what its digest says.")
            continue
        if row["of"] == "part":
            parts[row["id"]] = row
            continue
        owners[row["id"]] = (row["part_id"], row["parent"])
        if thorough:
            try:
                read_part(unpacked(row["document"]))
            except (WendalError, ValueError) as error:
                raise BackupError(
                    f"In {file.name}, version {row['number']} of part {row['part_id']} is not read: {error}"
                ) from error
    if (len(parts), len(owners)) != (first["parts"], first["revisions"]):
        raise BackupError(f"{file.name} says that it holds more or less than it does.")
    for part in parts.values():
        if any(owners.get(part[at], (0, 0))[0] != part["id"] for at in ("head", "tip")):
            raise BackupError(f"In {file.name}, the version shown of part {part['id']} is missing.")
    if any(part not in parts or (up and up not in owners) for part, up in owners.values()):
        raise BackupError(f"In {file.name}, a version has no part, or none before it.")
    return Content(len(parts), len(owners), first["made"])


def restore(database: Database, file: Path, *, replace: bool = False) -> Content:
    """Take all parts back from a copy, in one transaction. Raises BackupError where the copy is not whole, or
    where parts are there already and are not to be replaced."""
    found = verify(file)
    with database.engine.begin() as connection:
        if connection.scalar(select(func.count()).select_from(PartTable)):
            if not replace:
                raise BackupError(
                    "There are parts here already, and nothing was changed. Restore into an empty folder "
                    "(--data), or say --replace to have them replaced."
                )
            connection.execute(text("DELETE FROM content"))
            connection.execute(text("DELETE FROM revision"))
            connection.execute(text("DELETE FROM part"))
        tables: dict[str, type[Base]] = {t.__tablename__: t for t in (PartTable, RevisionTable)}
        columns = {name: {c.name for c in t.__table__.columns} for name, t in tables.items()}
        lines = _lines(file)
        next(lines)
        for row in lines:
            of = row.pop("of")
            if of == "content":
                _put_content(connection, row)
                continue
            values = {k: _dated(k, v) for k, v in row.items() if k in columns[of]}
            connection.execute(insert(tables[of]).values(**values))
    return found


def _dated(column: str, value: Any) -> Any:
    return datetime.fromisoformat(value) if value and column in ("changed", "made", "gone") else value


def back_up_often(database: Database, folder: Path, seconds: float, keep: int) -> None:
    """Make a copy again and again, for good; of those in the folder the latest `keep` stay. What goes wrong
    is logged, and it is tried again at the next time."""
    while True:
        stamp = datetime.now(UTC).strftime("%Y%m%d-%H%M%S")
        try:
            back_up(database, folder / f"{stamp}{ENDING}")
            for old in sorted(folder.glob(f"*{ENDING}"))[:-keep]:
                old.unlink()
        except Exception:  # whatever it is, the next one may be made
            log.exception("a copy of all parts could not be made")
        time.sleep(seconds)


def latest(folder: Path) -> str:
    """Return when the latest copy in a folder was made (ISO 8601, UTC), "" for none."""
    files = sorted(folder.glob(f"*{ENDING}")) if folder.is_dir() else []
    return (
        datetime.fromtimestamp(files[-1].stat().st_mtime, UTC).isoformat(timespec="seconds") if files else ""
    )
